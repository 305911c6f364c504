"""How far a rim reaches on each side, where the ends of the range cut it off as well."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.gate import Gate, gate_edge, points_of
from hollow_pin.core.recording import Floats

FULL = 99.0
"""From where on a rim lies at the end of its range, %."""
FLANK = 2
"""Places of a rim, on either side of what is cut off, that tell how far it would go."""
FARTHEST = 0.8
"""Of how far a gate goes along the other axis, that a place may lie at the most to tell how far out it
is: beyond, the gate goes nearly straight in."""
TIMES, AGREED = 12, 0.05
"""How often they are put back at the most, and to within what, %."""


@dataclass(frozen=True)
class Reach:
    """far: on the low and high side of x and of y, (2, 2) %. whole: whether that is known, (2, 2): not
    where the end of the range cuts it off and its gate does not tell; then as far as it was seen."""

    far: Floats
    whole: NDArray[np.bool_]


def reach_of(radius: Floats, gate: Gate) -> Reach:
    """How far a rim (72,), %, reaches in a gate of its shape.

    Beside what the end of the range cuts off, the gate says by the place along the other axis how far
    out the stick is; by how much more is reported, the whole side goes farther. Both axes are put back
    by each other, until they agree. The side of a square gate is as far out all along, and tells
    nothing.
    """
    x, y = points_of(radius).T
    along, aside = np.stack((-x, x, -y, y)), np.stack((y, y, x, x))
    farthest = along.max(axis=1)
    cut = along > FULL
    near = np.any([np.roll(cut, by, axis=1) for by in range(-FLANK, FLANK + 1)], axis=0)
    side, place = np.nonzero(near & ~cut.any(axis=0) & (along > 0.0))
    out, off = along[side, place], aside[side, place]
    across = np.where(side < 2, 2, 0) + (off > 0)
    sides = np.flatnonzero(cut.any(axis=1))
    far, is_whole = farthest.copy(), np.asarray(~cut.any(axis=1))
    if gate == "square":
        return Reach(far.reshape(2, 2), is_whole.reshape(2, 2))
    for n in sides:
        # As if both axes went alike far: a place of a round rim is then as far out as its side goes.
        far[n] = np.max(np.hypot(out, off)[side == n], initial=farthest[n])
    sideways, outward = _quarter(gate)
    for _ in range(TIMES):
        before = far.copy()
        share = np.abs(off) / far[across]
        whole = out / np.interp(np.minimum(share, FARTHEST), sideways, outward)
        for n in sides:
            tells = whole[(side == n) & (share <= FARTHEST)]
            is_whole[n] = tells.size > 0
            far[n] = max(farthest[n], np.median(tells)) if is_whole[n] else far[n]
        if np.abs(far - before).max() < AGREED:
            break
    far = np.where(is_whole, far, farthest)
    return Reach(far.reshape(2, 2), is_whole.reshape(2, 2))


def _quarter(gate: Gate) -> tuple[Floats, Floats]:
    """A gate's edge from one axis to the other, as shares of its size: how far along the other, and
    how far out along the one."""
    degrees = np.linspace(0.0, 90.0, 181)
    edge, toward = gate_edge(gate, degrees) / 100.0, np.radians(degrees)
    return edge * np.sin(toward), edge * np.cos(toward)
