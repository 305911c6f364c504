"""A source that lifts a stick over the dead zone of somebody else, undone: as soon as it leaves zero
it is reported as far out as that dead zone reaches, so that nothing is lost in it, and the rest of the
travel is squeezed into what is left. A stick at rest then leaps to and fro over its middle.

By axis, or round, by the distance from zero. No track is broken about zero exactly, on both axes, and
equally wide; and no stick leaps over its middle that never is in it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from hollow_pin.core.geometry import lengths
from hollow_pin.core.recording import Floats, Recording

LEAST = 1.0
"""Half of what is leapt over, %, from which on it is told from steps of a converter."""
MOST = 50.0
"""As far, %, as any dead zone reaches: what leaps farther is no lift, and would leave nothing."""
STEPS = 3.0
SWIFT = 1.5
"""Of how far it usually goes from sample to sample in its crossings: what it leaps over is wider."""
ALIKE = 0.1
"""By how much of it the two axes may differ, besides two steps of the converter."""
FEWEST_LEAPS = 2
"""Of each axis in its crossing; twice as many round, in all."""
AT_ZERO = 2
"""Samples at zero a leap: more, and it is a dead zone of the source's own."""
NEAR = 1.3
"""Of half of what is leapt over round: from within as much, and to within as much, a leap goes."""
ACROSS = 1.2
"""Of that half: as far at the least."""


@dataclass(frozen=True)
class Lift:
    """by: how far out whatever leaves zero is put, %. round: by its distance, and not by axis."""

    by: float
    round: bool


def lifted(recording: Recording, crossings: Sequence[Sequence[slice]]) -> Lift | None:
    """How a source lifts both axes over their middle; None where it does not, or where not both were
    brought across it. crossings: the samples in which each axis was."""
    if len(recording.axes) < 2 or not all(crossings):
        return None
    crossed = [[recording.u[part] for part in parts] for parts in crossings]
    halves = [_half(recording, i, crossed[i]) for i in range(2)]
    least, most = min(halves), max(halves)
    near = ALIKE * most + 2 * max(recording.resolutions)
    if least and most - least <= near:
        return Lift((least + most) / 2, round=False)
    half = _half_round(recording, [p for parts in crossed for p in parts])
    return Lift(half, round=True) if half else None


def _usual_step(crossed: list[Floats]) -> float:
    moved = np.concatenate([np.linalg.norm(np.diff(p, axis=0), axis=1) for p in crossed])
    return float(np.median(moved[moved > 0])) if moved.any() else 0.0


def _half(recording: Recording, i: int, crossed: list[Floats]) -> float:
    """Half of what an axis never reports but zero in, about zero, %; 0 where that is no leap."""
    v, step = recording.u[:, i], recording.resolutions[i]
    above, below = v[v > 1.01 * step], v[v < -1.01 * step]
    if not above.size or not below.size:
        return 0.0
    high, low = float(above.min()), float(below.max())
    half, usual = (high - low) / 2, _usual_step([p[:, [i]] for p in crossed])
    if not max(LEAST, STEPS * step, SWIFT * usual) < half <= MOST:
        return 0.0
    if abs(high + low) > max(2.02 * step, usual):
        return 0.0
    out = [p[np.abs(p[:, i]) > 1.01 * step, i] for p in crossed]
    leaps = sum(int(np.count_nonzero(np.diff(np.sign(p)))) for p in out)
    at_zero = sum(map(len, crossed)) - sum(map(len, out))
    return half if leaps >= FEWEST_LEAPS and at_zero <= AT_ZERO * leaps else 0.0


def _half_round(recording: Recording, crossed: list[Floats]) -> float:
    """How near to zero it never comes but to be there, %; 0 where it leaps over none of that."""
    u, step = recording.u, max(recording.resolutions)
    out = lengths(u) > 1.5 * step
    half = float(lengths(u[out]).min()) if out.any() else 0.0
    if not max(LEAST, STEPS * step, SWIFT * _usual_step(crossed)) < half <= MOST:
        return 0.0
    near = out & (lengths(u) <= NEAR * half)
    far = lengths(np.diff(u, axis=0)) >= ACROSS * half
    leaps = int(np.count_nonzero(near[:-1] & near[1:] & far))
    at_zero = sum(int((lengths(p) <= 1.5 * step).sum()) for p in crossed)
    return half if leaps >= 2 * FEWEST_LEAPS and at_zero <= AT_ZERO * leaps else 0.0


def without_lift(recording: Recording, lift: Lift) -> Recording:
    """A recording without the lift: what leaves zero begins there; its ends stay where they are."""
    u = recording.u
    out: Floats = lengths(u)[:, None] if lift.round else np.abs(u)
    # The first value beyond the leap is one step from zero.
    by = lift.by - max(recording.resolutions)
    shrunk = np.maximum(out - by, 0.0) / np.maximum(out, 1e-9) * 100.0 / (100.0 - by)
    put = [r.counts(v) for r, v in zip(recording.ranges, (u * shrunk).T, strict=True)]
    return replace(recording, raw=np.column_stack(put))
