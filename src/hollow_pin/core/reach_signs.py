"""What the rim tells of one cause or another: how far it reaches on each side, what cuts it off, and
where it is dented. As the other signs, each takes a take's sides and an axis, and gives None where it
was not measured, or is hidden.
"""

from __future__ import annotations

import numpy as np

from hollow_pin.core.gate import BEARINGS, BIN, gate_radius, points_of, two_waves
from hollow_pin.core.reach import FULL
from hollow_pin.core.sides import Axis, Sides, index_of


def _reach(s: Sides, axis: Axis) -> tuple[float, float] | None:
    """How far the rim reaches on the axis's low and high side, what the range cuts off put back."""
    reach = s.reach
    if reach is None:
        return None
    low, high = reach.far[index_of(axis)].tolist()
    return low, high


FEWEST_SEEN, FEWEST_FITTED = 30, 20
"""Places of a rim, of 72, that lie within the range, by which it is known what it would be like
without one; and that are left of them."""


def short_reach(s: Sides, axis: Axis) -> float | None:
    """How far both sides together fall short of full; of a single axis, the worse end."""
    if len(s.take.recording.axes) == 1:
        return s.value("composite.outer_dead_zone_needed")
    reach = _reach(s, axis)
    return None if reach is None else max(0.0, 100.0 - sum(min(r, 100.0) for r in reach) / 2)


def lopsided(s: Sides, axis: Axis) -> float | None:
    """How far the middle of the reach lies from where it comes back to, at the least."""
    reach, rests = _reach(s, axis), s.rests
    if reach is None or rests is None:
        return None
    away = np.abs((reach[1] - reach[0]) / 2 - rests[:, index_of(axis)]).min()
    return max(0.0, float(away) - s.zone)


def span(s: Sides, axis: Axis) -> float | None:
    """How far it reaches from end to end of an axis, halved."""
    reach = _reach(s, axis)
    return None if reach is None else sum(reach) / 2


ASKEW_MOST = 20.0
"""%, that one end falls short of a module that sits askew: it is out by as much at the other."""


def _whole_span(s: Sides, axis: Axis) -> float | None:
    """The same, where nothing is cut off of it that its gate does not tell, or where it would not
    matter how much."""
    if s.reach is None:
        return None
    whole, shortest = s.reach.whole[index_of(axis)].all(), s.reach.far[index_of(axis)].min()
    return span(s, axis) if whole or shortest < 100.0 - ASKEW_MOST else None


def short_span(s: Sides, axis: Axis) -> float | None:
    """How much less than its range it reaches from end to end, halved: a module that sits askew
    reaches farther on the one side by what it falls short on the other, a half that was learnt from
    something else does not. Of a single axis, by its worse end at the least."""
    if len(s.take.recording.axes) == 1:
        short = s.value("composite.outer_dead_zone_needed")
        return None if short is None else short / 2
    own = _whole_span(s, axis)
    return None if own is None else max(0.0, 100.0 - own)


def other_span(s: Sides, axis: Axis) -> float | None:
    """How far it reaches in all against the other axis."""
    own, other = _whole_span(s, axis), _whole_span(s, "y" if axis == "x" else "x")
    return None if own is None or other is None else abs(own - other)


def cut_wide(s: Sides, axis: Axis) -> float | None:
    """How much of the rim lies at the ends of the axis's range, in degrees."""
    rim = s.take.rim
    if rim is None or s.as_its_model_runs(axis):
        return None
    radius = np.array(rim.radius)
    angle = np.radians(BEARINGS)
    along = radius * (np.sin(angle) if axis == "x" else np.cos(angle))
    return float((np.abs(along) > FULL).sum()) * BIN


def overrun(s: Sides, _: Axis) -> float | None:
    return None if s.as_its_model_runs("xy") else s.value("rim.overrun")


def dent(s: Sides, _: Axis) -> float | None:
    """How deep one sector of the rim lies below its neighbours, by where the range does not end: there
    nobody knows how far it would go."""
    rim = s.take.rim
    if rim is None:
        return None
    gate = s.take.composite.gate_seen or "round"
    cut = np.abs(points_of(rim.radius)).max(axis=1) > FULL
    radius = 100.0 * np.array(rim.radius) / gate_radius(gate)
    waves = two_waves(BEARINGS)
    uncut = ~cut if (~cut).sum() >= FEWEST_SEEN else np.ones(len(radius), dtype=bool)
    keep = uncut
    for _round in range(4):
        fit, *_rest = np.linalg.lstsq(waves[keep], radius[keep], rcond=None)
        off = radius - waves @ fit
        keep = uncut & (off > np.percentile(off[uncut], 30))
        if keep.sum() < FEWEST_FITTED:
            break
    off = np.where(cut, np.maximum(off, 0.0), off)
    around = np.convolve(np.concatenate((off[-2:], off, off[:2])), np.ones(5) / 5, "valid")
    return max(0.0, -float(around.min()))


def shape(s: Sides, _: Axis) -> float | None:
    return s.value("composite.shape_after_recalibration")
