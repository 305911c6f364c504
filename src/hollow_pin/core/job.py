"""The order of work: where a job stands, and which stage its next take belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.remedies import BY_CODE

Station = Literal["prove", "decide", "verify", "hand-over", "closed"]


@dataclass(frozen=True)
class StationInfo:
    """What is next for a job at a station, in words, and the page where that is done."""

    station: Station
    label: str
    place: str


STATIONS: tuple[StationInfo, ...] = (
    StationInfo("prove", "Prove", "prove"),
    StationInfo("decide", "Decide", "decide"),
    StationInfo("verify", "Verify", "verify"),
    StationInfo("hand-over", "Hand over", "hand-over"),
    StationInfo("closed", "Closed", "hand-over"),
)
STATION = {s.station: s for s in STATIONS}
DECIDE_AGAIN = StationInfo("decide", "Decide again", "decide")
MEASURE_AGAIN = StationInfo("verify", "Measure again", "prove")
DECIDED_ON = {
    "work": StationInfo("decide", "Work", "work"),
    "prove": STATION["prove"],
    "hand-over": STATION["hand-over"],
}
"""What is next once it was decided, by the page where that goes on."""

AS_RECEIVED = "as received"


def stick_name(stick: str) -> str:
    """“left stick”; other names, such as “stick” or “paddle”, stand by themselves."""
    return f"{stick} stick" if stick in ("left", "right") else stick


@dataclass(frozen=True)
class Happened:
    """One take or piece of work on a stick, in the order they were made. work: the remedy's code."""

    what: Literal["take", "work"]
    usable: bool = True
    work: str | None = None


def station_of(events: list[Happened], closed: bool) -> Station:
    """Where a job stands: prove until a usable take, decide until something is done, verify until it
    is measured again, then hand over."""
    if closed:
        return "closed"
    usable = [e for e in events if e.what == "work" or e.usable]
    if not any(e.what == "take" for e in usable):
        return "prove"
    if not any(e.what == "work" for e in usable):
        return "decide"
    return "verify" if usable[-1].what == "work" else "hand-over"


Asked = Literal["nothing", "again", "something"]
"""What a take asks for: nothing more, to be measured again where it cannot tell, or something to be
done about it."""


def next_of(station: Station, decided: str | None, asked: Asked) -> StationInfo:
    """What is next for a job.

    decided: the page where that goes on which was decided since its newest take. asked: by that take.
    """
    if decided is not None:
        return DECIDED_ON[decided]
    if station != "hand-over" or asked == "nothing":
        return STATION[station]
    return MEASURE_AGAIN if asked == "again" else DECIDE_AGAIN


Mark = Literal["received", "between", "now"]
"""What a take is in the story: as it came, in between, or as it is now."""


def mark_of(stage: str, newest: bool) -> Mark:
    """newest: whether it is the stick's last take of the visit."""
    if stage == AS_RECEIVED:
        return "received"
    return "now" if newest else "between"


def stage_of(events: list[Happened]) -> str:
    """The stage of a take made now."""
    works = [e.work for e in events if e.work is not None]
    return BY_CODE[works[-1]].stage if works else AS_RECEIVED
