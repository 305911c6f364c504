"""The order of work: where a job stands, and which stage its next take belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Station = Literal["prove", "work", "verify", "hand-over", "closed"]
WorkKind = Literal["recalibrated", "cleaned", "replaced"]
ModuleKind = Literal["potentiometer", "hall"]

WORK_LABEL: dict[WorkKind, str] = {
    "recalibrated": "Recalibrated",
    "cleaned": "Sensor housing cleaned",
    "replaced": "Module replaced",
}

STAGE_AFTER: dict[WorkKind, str] = {
    "recalibrated": "after recalibration",
    "cleaned": "after cleaning",
    "replaced": "after replacement",
}

AS_RECEIVED = "as received"


def stick_name(stick: str) -> str:
    """“left stick”; other names, such as “stick” or “paddle”, stand by themselves."""
    return f"{stick} stick" if stick in ("left", "right") else stick


def clock_words(hours: tuple[int, ...]) -> str:
    """“10 o’clock”, “10 and 11 o’clock”, “1, 2 and 3 o’clock”."""
    said = [str(h) for h in hours]
    among = f"{', '.join(said[:-1])} and {said[-1]}" if len(said) > 1 else "".join(said)
    return f"{among} o’clock"


@dataclass(frozen=True)
class Happened:
    """One take or piece of work on a job, in the order they were made."""

    what: Literal["take", "work"]
    usable: bool = True
    work: WorkKind | None = None


def station_of(events: list[Happened], closed: bool) -> Station:
    """Where a job stands: prove until a usable take, work until something is done, verify until it
    is measured again, then hand over."""
    if closed:
        return "closed"
    usable = [e for e in events if e.what == "work" or e.usable]
    if not any(e.what == "take" for e in usable):
        return "prove"
    if not any(e.what == "work" for e in usable):
        return "work"
    return "verify" if usable[-1].what == "work" else "hand-over"


def stage_of(events: list[Happened]) -> str:
    """The stage of a take made now."""
    done = [e.work for e in events if e.work is not None]
    return STAGE_AFTER[done[-1]] if done else AS_RECEIVED
