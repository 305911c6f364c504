"""What is known before a stick is centred by hand, how far it has come, and what goes on record."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.gate import BEARINGS
from hollow_pin.core.gauge import SMALLEST_CHANGE
from hollow_pin.core.hidden import MAY_BE_ZERO, MEASURED_ZERO
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.words import percent

State = Literal[
    "begin", "pushed", "settling", "touched", "unsteady", "turning", "turned", "settled", "done"
]
READ: tuple[State, ...] = ("turned", "settled", "done")
"""In which the last reading stands, and is shown instead of what moves."""
SPACE: dict[State, str] = {
    "turned": "take a reading",
    "settled": "take a reading",
    "unsteady": "take it as it is",
}
Axis = Literal["x", "y"]
AXES: tuple[Axis, Axis] = ("x", "y")


@dataclass(frozen=True)
class RestReading:
    """A reading that was taken: seconds since the beginning, where it rests, % (y: 0 on one axis), its
    standard uncertainty. why: it was let go, or a trim was turned and left."""

    t_s: float
    x: float
    y: float
    u: float
    why: Literal["let-go", "turned"]


@dataclass(frozen=True)
class ReachSide:
    """How far it reaches to one side: as it was measured before, and now; None where it was not."""

    side: str
    before: float | None
    now: float | None

    @property
    def cost(self) -> float | None:
        return None if self.before is None or self.now is None else self.before - self.now


@dataclass(frozen=True)
class Centred:
    """What goes on record. before, after: where it rested, (x, y) %, by releases. turns: by axis.
    seconds: in all. confirmed: whether three releases came back within what the bench sees."""

    before: tuple[float, float] | None
    after: tuple[float, float] | None
    turns: dict[str, int]
    seconds: float
    confirmed: bool
    readings: tuple[RestReading, ...]
    reach: tuple[ReachSide, ...]


@dataclass(frozen=True)
class CentringNow:
    """What is shown. x, y: where it is, %, the middle of the last tenth of a second; settled: the last
    reading. shown: the one or the other, as reads says: whether what is shown was read. near: whether
    that is as near as can be seen, by axis; excess: how many times that it is off, on the worse axis.
    next_axis, says: what to do now; space: what Space does, empty where nothing. returns: that confirm
    it, so far. note: what turning cannot do."""

    state: State
    x: float
    y: float
    says: str
    settled: RestReading | None
    shown: tuple[float, float]
    reads: bool
    near: tuple[bool, bool]
    excess: float
    next_axis: Axis | None
    space: str
    within: tuple[float, float]
    turns: dict[str, int]
    returns: int
    reach: tuple[ReachSide, ...]
    note: str


SHARE_OF_SEEN = 0.7
"""It is stopped within as much of what the bench can see, so that the next take sees no more."""
UNKNOWN = 0.5
"""What a bench sees, %, where no take says."""
WHOLE_RANGE = 2.0
"""A range that is no wider is no whole numbers: a step of it is not known."""
BINS_OF_SIDES = tuple(int(np.argmin(np.abs(BEARINGS - side))) for side in (270.0, 90.0, 180.0, 0.0))


def within_of(
    take: TakeReadings | None, ranges: Sequence[AxisRange], trust: Mapping[str, float]
) -> tuple[float, float]:
    """How near to zero, %, is as near as this bench can see, by axis: the share of the smallest change
    of its rest, by the bench's own check (trust, by reading) or by a take's uncertainty, and no less
    than a step of the source."""

    def smallest_seen(path: str) -> float:
        u = take.uncertainty.get(path) if take is not None else None
        return trust.get(path, SMALLEST_CHANGE * u if u is not None else UNKNOWN)

    x, y = (max(step_of(ranges), SHARE_OF_SEEN * smallest_seen(f"still.rest_{a}")) for a in AXES)
    return x, y


def step_of(ranges: Sequence[AxisRange]) -> float:
    """A step of the source, %; 0 where it is not known."""
    whole = ranges[0].hi - ranges[0].lo > WHOLE_RANGE
    return 100.0 / ranges[0].half if whole else 0.0


def reach_of(take: TakeReadings | None) -> tuple[float | None, ...]:
    """How far it reached to the left, right, down and up, as it was measured, %."""
    if take is None or take.rim is None:
        return (None,) * len(BINS_OF_SIDES)
    return tuple(take.rim.radius[i] for i in BINS_OF_SIDES)


def jitter_of(take: TakeReadings | None) -> float:
    """What it trembled by at rest, as it was measured, on the worse axis, %; 0 where it was not."""
    if take is None or take.still is None:
        return 0.0
    return max(take.still.jitter_x, take.still.jitter_y or 0.0)


def rests_at_zero(take: TakeReadings) -> bool:
    """Whether nothing would be seen of what is turned: the source says zero where the stick is not, or
    may, on every axis."""
    codes = {h.code for h in take.hidden}
    may_be = {h.axis for h in take.hidden if h.code in MAY_BE_ZERO}
    axes = AXES if take.still is not None and take.still.rest_y is not None else AXES[:1]
    return not codes.isdisjoint(MEASURED_ZERO) or may_be.issuperset(axes)


def in_words(centred: Centred, axes: int) -> str:
    """What was done, in a sentence for the record."""
    if centred.before is None or centred.after is None:
        return "Nothing was read: it was never let go and left alone."

    def place(at: tuple[float, float]) -> str:
        each = [f"{a} {percent(v)}" for a, v in zip(AXES[:axes], at, strict=False)]
        return ", ".join(each).replace("-", "−")

    turns = sum(centred.turns.values())
    times = "one turn" if turns == 1 else f"{turns} turns"
    came = "three releases come back there" if centred.confirmed else "not confirmed by releases"
    return (
        f"Centred from {place(centred.before)} to {place(centred.after)} in {times}, "
        f"{centred.seconds:.0f} s; {came}."
    )
