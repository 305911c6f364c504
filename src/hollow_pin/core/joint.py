"""A loose joint: an axis that jumps to an end or to the middle of its range, wherever the stick is,
stays there for a moment, and is back. Dirt makes a reading jump where the dirt is, by as much as it
will."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, Recording
from hollow_pin.core.statistics import runs

LEAST = 15.0
"""%, of a jump."""
LONGEST_S = 0.25
NEAR = 1.5
"""% from an end or the middle that still is one."""
BACK_SHARE = 0.35
"""Of the jump: as near to where it was it comes back, or to where the stick has moved meanwhile."""
DEFLECTED = 40.0
MOST_STEPS = 6
"""Of 15 % or more, after a fall, by the last of which it is back: more is no drop but turmoil."""
GAP_TIMES = 3.0
"""Usual intervals from which on samples are missing, and what jumps over them is no jump."""
LOOKED_AT = 200_000
MOST_LISTED = 200


@dataclass(frozen=True)
class Jump:
    """t_s: seconds from the start of the recording. to: where the axis stood meanwhile, %."""

    t_s: float
    lasted_s: float
    axis: str
    to: float


@dataclass(frozen=True)
class Joint:
    """Over the whole recording, whatever step it was in: jumps to an end or the middle and back, and
    drops, which fall back toward the middle for a moment while the stick is deflected. jump: the first
    of the jumps."""

    jumps: int
    jumps_per_min: float
    drops: int
    drops_per_min: float
    jump: tuple[Jump, ...]


def find_jumps(recording: Recording) -> tuple[Joint, NDArray[np.bool_]]:
    """Every jump to an end or the middle and back; and which samples of which axis are in one (n,
    k)."""
    t, u = recording.t, recording.u
    inside = np.zeros(u.shape, dtype=bool)
    jumps: list[Jump] = []
    for i, axis in enumerate(recording.axes):
        for first, last in _excursions(t, u[:, i], recording.resolutions[i]):
            inside[first:last, i] = True
            lasted = float(t[last] - t[first])
            jumps.append(Jump(float(t[first]), lasted, axis, float(np.median(u[first:last, i]))))
    drops = 0
    for i in range(u.shape[1]):
        drops += len(_drops(t, np.where(inside[:, i], np.nan, u[:, i])))
    minutes = minutes_of(recording)
    jumps.sort(key=lambda j: j.t_s)
    listed = tuple(jumps[:MOST_LISTED])
    return Joint(len(jumps), len(jumps) / minutes, drops, drops / minutes, listed), inside


def _usual(t: Floats) -> float:
    """The usual interval between times (n,), seconds, by the beginning of a long recording."""
    return max(float(np.median(np.diff(t[:LOOKED_AT]))), 1e-9) if len(t) > 1 else 0.0


def minutes_of(recording: Recording) -> float:
    """How long a recording lasts, in minutes; never nothing."""
    return max(float(recording.t[-1]), 1e-3) / 60.0


def _drops(t: Floats, v: Floats) -> list[int]:
    """Where an axis falls toward the middle by a jump and is back where it was by another: the first
    sample of each. NaN where it is known to be elsewhere."""
    step = np.diff(v)
    up = np.flatnonzero(np.abs(step) >= LEAST)
    up = up[t[up + 1] - t[up] <= GAP_TIMES * _usual(t)]
    size = np.where(np.isnan(v), 0.0, np.abs(v))
    falls = np.flatnonzero((size[up] > DEFLECTED) & (-step[up] * np.sign(v[up]) >= LEAST))
    back_at = np.full(len(falls), -1)
    for later in range(1, MOST_STEPS + 1):
        open_ = np.flatnonzero((back_at < 0) & (falls + later < len(up)))
        i, j = up[falls[open_]], up[falls[open_] + later]
        soon = t[j + 1] - t[i + 1] <= LONGEST_S
        open_, i, j = open_[soon], i[soon], j[soon]
        if not len(i):
            break
        highest = np.maximum.reduceat(size, np.column_stack([i + 1, j + 1]).ravel())[::2]
        back = np.abs(v[j + 1] - v[i]) <= BACK_SHARE * np.abs(step[i])
        back &= highest <= size[i] - LEAST / 2
        back_at[open_[back]] = j[back] + 1
    drops: list[int] = []
    busy = -1
    whole = back_at >= 0
    for i, back in zip(up[falls[whole]].tolist(), back_at[whole].tolist(), strict=True):
        if i >= busy:
            drops.append(i + 1)
            busy = back
    return drops


def _excursions(t: Floats, v: Floats, resolution: float) -> list[tuple[int, int]]:
    """Where an axis stands at an end or the middle between two jumps: first sample, one past the
    last."""
    near = max(NEAR, 1.1 * resolution)
    apart = GAP_TIMES * _usual(t)
    excursions = []
    for place in (-100.0, 0.0, 100.0):
        starts, stops = runs(np.abs(v - place) <= near)
        inner = (starts > 0) & (stops < len(v))
        starts, stops = starts[inner], stops[inner]
        into = np.abs(v[starts] - v[starts - 1])
        out = np.abs(v[stops] - v[stops - 1])
        lasted = t[stops] - t[starts]
        # Within one interval of the converter's, and level: a stick that passes there keeps moving.
        away = np.abs(v[stops] - v[starts - 1])
        back = away <= BACK_SHARE * np.minimum(into, out)
        back &= (t[starts] - t[starts - 1] <= apart) & (t[stops] - t[stops - 1] <= apart)
        good = (np.minimum(into, out) >= LEAST) & (lasted <= LONGEST_S) & back
        excursions += [(int(a), int(b)) for a, b in zip(starts[good], stops[good], strict=True)]
    return excursions


def without_jumps(recording: Recording, inside: NDArray[np.bool_]) -> Recording:
    """The recording as it would be without them: each axis goes on straight between what it said
    before and after. What the joint does is told by `Joint`; the rest is told of the stick."""
    if not inside.any():
        return recording
    raw = recording.raw.copy()
    t = recording.t
    for i in range(raw.shape[1]):
        gone = inside[:, i]
        if gone.any() and not gone.all():
            raw[gone, i] = _nearest(
                np.interp(t[gone], t[~gone], raw[~gone, i]), np.unique(raw[~gone, i])
            )
    return replace(recording, raw=raw)


def _nearest(wanted: Floats, values: Floats) -> Floats:
    """The values (m,), ascending, that lie nearest to those wanted: a converter gives no others."""
    above = np.clip(np.searchsorted(values, wanted), 1, max(len(values) - 1, 1))
    if len(values) == 1:
        return np.full_like(wanted, values[0])
    low, high = values[above - 1], values[above]
    return np.where(wanted - low <= high - wanted, low, high)


def u_joint(joint: Joint, minutes: float) -> dict[str, float]:
    """Standard uncertainties of how many a minute, by dotted name: of counts (Poisson), and so none
    where there are none."""
    counts = {"jumps": joint.jumps, "drops": joint.drops}
    return {f"joint.{name}_per_min": float(np.sqrt(n)) / minutes for name, n in counts.items()}
