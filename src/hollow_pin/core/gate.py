"""The gate: what stops a stick all round, and how a rim is held against it. A rim is how far a stick
reaches in each of 72 directions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats

BINS = 72
BIN = 360.0 / BINS
BEARINGS: Floats = np.asarray(BIN * np.arange(BINS), dtype=np.float64)
"""The middles of the bins: the first is centred on up, so that mirroring maps bins onto bins."""
CORNER = 7.5
"""Degrees around the corner of a square gate that every real one rounds off."""

CORNERED = 0.95
"""Of how far a square gate's corners lie, that a rim reaches there: one that is round, and so large
that the ends of the range cut it square, reaches less far, up to a third over its range."""

SAYS_NOTHING = 0.02
"""Of what moves a rim most, that what the known bins tell next to nothing of moves it."""

AS_TOLD = 0.88
"""The same of a gate that its model says is square: some have corners as round as that."""
FLANK = 5
"""Bins to either side of the middle of a side of a gate, 25°, that belong to it."""
STRAIGHT = 0.03
"""Of how far a side lies, that its middle may lie farther out than its flanks do: a square gate's lies
as far out all along, a round one's a twelfth farther."""

Gate = Literal["round", "square", "octagon"]
GATES: tuple[Gate, ...] = ("round", "square", "octagon")


def gate_edge(gate: Gate, degrees: Floats) -> Floats:
    """How far a gate lies from the centre at bearings in degrees, %. An octagon has a corner at each
    of the eight directions, 100 out."""
    if gate == "round":
        return np.full(np.shape(degrees), 100.0)
    angle = np.radians(degrees)
    if gate == "square":
        return np.asarray(100.0 / np.maximum(np.abs(np.cos(angle)), np.abs(np.sin(angle))))
    from_side = np.mod(angle, np.pi / 4) - np.pi / 8
    return np.asarray(100.0 * np.cos(np.pi / 8) / np.cos(from_side))


@cache
def gate_radius(gate: Gate) -> Floats:
    """How far a well adjusted stick reaches in each bin, (72,) %: the median over the bin, as R is,
    so that the corner of a gate is not held against a stick. Always the same array, not to be written
    to."""
    within = np.linspace(-BIN / 2, BIN / 2, 101)
    radius: Floats = np.median(gate_edge(gate, BEARINGS[:, None] + within), axis=1)
    radius.flags.writeable = False
    return radius


def two_waves(bearings: Floats) -> Floats:
    """What a rim goes by, once and twice around: 1, sin θ, cos θ, sin 2θ and cos 2θ of bearings (n,)
    in degrees; (n, 5)."""
    angle = np.radians(bearings)
    once = np.ones_like(angle), np.sin(angle), np.cos(angle)
    return np.column_stack((*once, np.sin(2 * angle), np.cos(2 * angle)))


def points_of(radius: Sequence[float] | Floats) -> Floats:
    """The places of a rim (72,) as a stick reports them: (72, 2) %."""
    angle, r = np.radians(BEARINGS), np.asarray(radius, dtype=float)
    return np.column_stack((r * np.sin(angle), r * np.cos(angle)))


def fill_around(radius: Floats, gate: Gate) -> Floats:
    """Fill empty bins of a rim (72,) by how far those beside them lie from the gate: what lies between
    two sides of a square one is its corner."""
    filled = np.isfinite(radius)
    if filled.all():
        return radius
    of_gate = radius / gate_radius(gate)
    between = np.interp(BEARINGS, BEARINGS[filled], of_gate[filled], period=360.0)
    return np.asarray(between * gate_radius(gate))


def circularity(radius: Floats, gate: Gate, cut: NDArray[np.bool_] | None = None) -> float:
    """Mean absolute deviation of a rim (72,) from its gate, %. cut (72,): where an axis lies at the
    end of its range; beyond the gate nothing counts there, since a program is given no more."""
    off = radius - gate_radius(gate)
    if cut is not None:
        off = np.where(cut, np.minimum(off, 0.0), off)
    return float(np.abs(off).mean())


def outer_dead_zone(radius: Floats, gate: Gate) -> float:
    """How far short of full the rim (72,) falls at the worst, %. Full is 100, or the gate where
    that lies nearer: the sides of an octagon do."""
    full = np.minimum(100.0, gate_radius(gate))
    return max(0.0, float((100.0 - 100.0 * radius / full).max()))


@dataclass(frozen=True)
class GateFit:
    """The gate of a shape that fits a rim best: its middle, its size as a share of nominal, how far
    it is turned (degrees), and how far the rim deviates from it: peak to valley and RMS, %."""

    x: float
    y: float
    scale: float
    turned: float
    peak_to_valley: float
    rms: float


def fit_gate(radius: Floats, gate: Gate) -> GateFit:
    """Fit a gate to a rim: radius (72,) %, NaN where it is not known, 4 known bins or more. Middle and
    size are free, and for a gate with corners how far it is turned, up to 10°.

    Gauss–Newton on the radial deviation; corners of a square, which every real one rounds, are left
    out."""
    covered = np.isfinite(radius)
    away = np.abs(np.mod(BEARINGS, 90.0) - 45.0)
    used = (
        covered & (away > CORNER)
        if gate == "square" and (covered & (away > CORNER)).any()
        else covered
    )
    at = np.radians(BEARINGS[used])
    r = radius[used]
    points = np.column_stack((r * np.sin(at), r * np.cos(at)))
    free = 3 if gate == "round" else 4
    state = np.array([0.0, 0.0, float(np.median(r)) / 100.0, 0.0])

    def off(s: Floats) -> Floats:
        moved = points - s[:2]
        toward = np.mod(np.degrees(np.arctan2(moved[:, 0], moved[:, 1])) - s[3], 360.0)
        return np.asarray(np.hypot(moved[:, 0], moved[:, 1]) - s[2] * gate_edge(gate, toward))

    small, per_cent = np.array([1e-3, 1e-3, 1e-5, 1e-2]), np.array([1.0, 1.0, 0.01, 1.0])
    for _ in range(12):
        now = off(state)
        slopes = np.column_stack(
            [(off(state + small * (np.arange(4) == i)) - now) / small[i] for i in range(free)]
        )
        # All in about a per cent; what the known bins say nothing of stays as it is, such as how far a
        # square lies along two of its sides.
        move = per_cent[:free] * np.linalg.lstsq(slopes * per_cent[:free], -now, SAYS_NOTHING)[0]
        state[:free] += move
        state[:2] = np.clip(state[:2], -60.0, 60.0)
        state[2] = min(max(state[2], 0.05), 5.0)
        state[3] = min(max(state[3], -10.0), 10.0)
        if np.abs(move).max() < 1e-6:
            break
    residual = off(state)
    return GateFit(
        float(state[0]),
        float(state[1]),
        float(state[2]),
        float(state[3]),
        float(np.ptp(residual)),
        float(np.sqrt(np.square(residual).mean())),
    )


def unlike_all_round(radius: Floats, x: float, y: float) -> float:
    """What of a rim's shape (72,) differs from quarter to quarter, peak to valley, % of its mean
    radius: about a middle (x, y), without what is alike in all four of them and in their mirror
    images. A gate and a response curve are alike all round; what rubs is not."""
    angle = np.radians(BEARINGS)
    about = radius - x * np.sin(angle) - y * np.cos(angle)
    turned = np.stack([np.roll(about, quarter * BINS // 4) for quarter in range(4)])
    mirrored = np.roll(turned[:, ::-1], 1, axis=1)
    alike = np.concatenate((turned, mirrored)).mean(axis=0)
    return float(100.0 * np.ptp(about - alike) / max(about.mean(), 1e-9))


def unsheared(radius: Floats, x: float, y: float) -> float:
    """What of a rim's shape (72,), peak to valley, % of its mean radius, is left of the gate that fits
    it best once what shears it, and what scales one axis more than the other, is taken out: what goes
    about a middle (x, y) as sin 2θ and cos 2θ. Nothing that rubs, or that is worn, goes so."""
    angle = np.radians(BEARINGS)
    about = radius - x * np.sin(angle) - y * np.cos(angle)
    twice = np.column_stack((np.sin(2 * angle), np.cos(2 * angle)))
    about_unsheared = about - twice @ (twice.T @ about) * 2 / BINS
    shape, fits = looks_like(about_unsheared)
    return float(fits[shape].peak_to_valley / max(fits[shape].scale, 1e-9))


def has_corners(radius: Floats, square: GateFit, least: float = CORNERED) -> bool:
    """Whether a rim (72,) goes out into the corners of the square that fits it best: half of the four,
    or more, each as far as a share `least` of how far that lies."""
    corners = slice(BINS // 8, None, BINS // 4)
    there = radius[corners] / (square.scale * gate_radius("square")[corners])
    return bool(np.nanquantile(there, 0.5, method="higher") >= least)


def has_a_straight_side(radius: Floats, cut: NDArray[np.bool_]) -> bool:
    """Whether a rim (72,) runs straight up, right, down or left, where the end of the range does not
    make it do so: cut (72,), where it cuts it off."""
    beside = np.arange(-FLANK, FLANK + 1)
    sides = np.arange(0, BINS, BINS // 4)[:, None] + beside
    out = radius[sides % BINS] * np.cos(np.radians(BIN * beside))
    middle = out[:, FLANK - 1 : FLANK + 2].mean(axis=1)
    flanks = (out[:, :3].mean(axis=1) + out[:, -3:].mean(axis=1)) / 2
    straight = np.abs(middle - flanks) < STRAIGHT * middle
    return bool((straight & ~cut[sides % BINS].any(axis=1)).any())


def looks_like(radius: Floats) -> tuple[Gate, dict[Gate, GateFit]]:
    """The gate that a rim (72,) looks most like, and how each fits."""
    fits = {gate: fit_gate(radius, gate) for gate in GATES}
    return min(GATES, key=lambda g: fits[g].rms), fits
