"""How far a stick goes and where it comes back to, as a calibration learns it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hollow_pin.core.let_go import finals_of
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import AxisCalibration, AxisRange, Floats, RecordingError

FEWEST_RETURNS = 4
"""As many releases as a calibration takes its centre from, usually."""


FULL: Floats = np.array([(-100.0, -100.0), (100.0, 100.0)])


class NotMeasured(ValueError):
    """The rim or the returns that a calibration is worked out from are not there."""


@dataclass(frozen=True, eq=False)
class Extents:
    """low and high (2,): how far each axis goes, %; returns (n, 2): where it came back to, %, none
    without a spring."""

    low: Floats
    high: Floats
    returns: Floats

    @property
    def centre(self) -> Floats:
        """Where it comes back to (2,), %; the middle of its range where it comes back to nowhere."""
        return self.returns.mean(axis=0) if len(self.returns) else np.zeros(2)


def extents_of(take: TakeReadings, axes: int) -> Extents:
    """The extents that a take of one axis or two shows. Raises NotMeasured."""
    if take.turn is not None:
        low, high = ends_of_one(take)
        return Extents(low, high, np.empty((0, 2)))
    if take.let_go is None or len(take.let_go.release) < FEWEST_RETURNS:
        raise NotMeasured(
            f"A centre is learnt from {FEWEST_RETURNS} releases or more: Let-go was not measured."
        )
    returns = finals_of(take.let_go.release)
    if axes == 1:
        low, high = ends_of_one(take)
        return Extents(low, high, returns)
    if take.rim is None:
        raise NotMeasured("The ends are learnt from the rim: it was not measured.")
    reach = take.rim
    low = np.array((-reach.reach_left, -reach.reach_down))
    return Extents(low, np.array((reach.reach_right, reach.reach_up)), returns)


def ends_of_one(take: TakeReadings) -> Floats:
    """The ends of a single axis, from where it was turned to or held: (2, 2) %. Raises NotMeasured."""
    if take.turn is not None:
        return np.array([(-take.turn.reach_low, 0.0), (take.turn.reach_high, 0.0)])
    sides: dict[bool, list[float]] = {False: [], True: []}
    for hold in take.hold or ():
        sides[hold.bearing < 180.0].append(hold.level)
    if not all(sides.values()):
        raise NotMeasured("The ends of one axis are learnt from Hold to both sides: not measured.")
    return np.array([(-max(sides[False]), 0.0), (max(sides[True]), 0.0)])


def shortest_reach(take: TakeReadings) -> float | None:
    """How far the shortest way goes, %: of the rim, or of the two ends of a single axis; None where it
    was not measured."""
    if take.rim is not None:
        return min(take.rim.radius)
    if len(take.recording.axes) > 1:
        return None
    try:
        return float(np.abs(ends_of_one(take)[:, 0]).min())
    except NotMeasured:
        return None


def learn_ranges(take: TakeReadings, ranges: Sequence[AxisRange]) -> tuple[AxisRange, ...]:
    """The ranges of a take with the calibration that one would learn from it, as far as it shows its
    ends and its centre; those of the range where it does not."""
    low, high = _ends(take, len(ranges))
    centre = _centre(take)
    places = np.stack((low, (low + high) / 2 if centre is None else centre, high))
    return tuple(_with_calibration(r, v) for r, v in zip(ranges, places.T, strict=False))


def _ends(take: TakeReadings, axes: int) -> Floats:
    """How far each axis goes, low and high, (2, 2) %."""
    if axes == 2 and take.rim is not None:
        reach = take.rim
        low = (-reach.reach_left, -reach.reach_down)
        return np.array([low, (reach.reach_right, reach.reach_up)])
    try:
        return ends_of_one(take) if axes == 1 else FULL
    except NotMeasured:
        return FULL


def _centre(take: TakeReadings) -> Floats | None:
    """Where it comes back to, (2,) %, or where it was seen to rest, or the middle of its rim."""
    if take.turn is not None:
        return None
    if take.let_go is not None and take.let_go.release:
        return np.asarray(finals_of(take.let_go.release).mean(axis=0))
    if take.still is not None:
        return np.array((take.still.rest_x, take.still.rest_y or 0.0))
    return np.array((take.rim.lsc_x, take.rim.lsc_y)) if take.rim is not None else None


def _with_calibration(plain: AxisRange, places: Floats) -> AxisRange:
    low, centre, high = (float(v) for v in np.clip(plain.counts(places), plain.lo, plain.hi))
    try:
        return AxisRange(plain.lo, plain.hi, AxisCalibration(low, centre, high))
    except RecordingError:
        # It goes next to nowhere on one side.
        return plain
