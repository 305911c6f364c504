"""Rim: round the edge. How far the stick reaches in every direction, and how round that is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import (
    bearing,
    least_squares_circle,
    lengths,
    minimum_zone_circle,
    peak_to_valley,
)
from hollow_pin.core.recording import Floats, NotUsable, Problem
from hollow_pin.core.statistics import binned_median, binned_quantile, runs

BINS = 72
BIN = 360.0 / BINS
BEARINGS: Floats = np.asarray(BIN * np.arange(BINS), dtype=np.float64)
"""The middles of the bins: the first is centred on up, so that mirroring maps bins onto bins."""
STRAY_SHARE = 0.1
"""Of what a direction usually holds: samples that are fewer are no look at it."""
LEAST_COVERAGE = 0.95
EDGE = 0.6
SHORT_SIDE = 0.7
"""Of the longest, from which on a side of the reach is far shorter."""
NEAR_LAP = 0.05
FULL_SHARE = 0.9
PRESSED = 0.93
"""Of how far a direction reaches, from where on a sample lies on the rim."""
CLAMPED = 0.5
"""Share of a bin's samples at the end of the range from which on the bin is cut off."""
LEAST_FREE = 10
LEAST_FREE_IN_QUADRANT = 2
"""Bins that are not cut off, in all and in each quadrant, by which a shape is known."""
CORNER = 7.5
"""Degrees around the corner of a square gate that every real one rounds off."""
TURN_BACK = 30.0

Gate = Literal["round", "square", "octagon"]
GATES: tuple[Gate, ...] = ("round", "square", "octagon")


@dataclass(frozen=True)
class Rim:
    """Readings of the Rim step, % of half range unless the name says otherwise."""

    coverage: float
    mean_radius: float
    circularity_error: float
    roundness_lsc: float
    roundness_mzc: float
    lsc_x: float
    lsc_y: float
    lsc_radius: float
    reach_right: float
    reach_left: float
    reach_up: float
    reach_down: float
    outer_dead_zone_needed: float
    overreach: float
    overrun: float
    laps_cw: int
    laps_ccw: int
    lap_repeat: float | None
    cw_ccw_gap: float | None
    radius: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class RimResult:
    """The readings, and what they were read from: points (m, 2) on the rim, cut (m,) those at an end
    of the range, lap (m,) the whole lap each belongs to or −1, lap_radius (laps, 72) with NaN where
    a lap left a bin empty."""

    readings: Rim
    points: Floats
    cut: NDArray[np.bool_]
    lap: NDArray[np.intp]
    lap_radius: Floats
    problems: tuple[Problem, ...]


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


def gate_radius(gate: Gate) -> Floats:
    """How far a well adjusted stick reaches in each bin, (72,) %: the median over the bin, as R is,
    so that the corner of a gate is not held against a stick."""
    within = np.linspace(-BIN / 2, BIN / 2, 101)
    return np.asarray(np.median(gate_edge(gate, BEARINGS[:, None] + within), axis=1))


def bin_of(points: Floats) -> NDArray[np.intp]:
    """Which 5° bin each point falls in; bin 0 is centred on up."""
    return np.floor(bearing(points[:, 0], points[:, 1]) / BIN + 0.5).astype(np.intp) % BINS


def radius_by_bearing(points: Floats) -> Floats:
    """Median distance in each 5° bin, (72,); NaN where a bin is empty, or holds so few samples beside
    the others that they came there by chance."""
    bins = bin_of(points)
    radius, count = binned_median(lengths(points), bins, BINS), np.bincount(bins, minlength=BINS)
    if len(points):
        radius[count < STRAY_SHARE * np.median(count[count > 0])] = np.nan
    return radius


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


def extents(points: Floats) -> tuple[Floats, Floats]:
    """The least and the highest that each axis reaches on a rim of points (m, 2), (2,) both: of the
    medians of its directions, which a few jumps to an end do not move."""
    bins = bin_of(points)
    medians = np.column_stack([binned_median(v, bins, BINS) for v in points.T])
    return np.nanmin(medians, axis=0), np.nanmax(medians, axis=0)


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
    known = np.isfinite(radius)
    away = np.abs(np.mod(BEARINGS, 90.0) - 45.0)
    used = (
        known & (away > CORNER) if gate == "square" and (known & (away > CORNER)).any() else known
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

    small = np.array([1e-3, 1e-3, 1e-5, 1e-2])
    for _ in range(12):
        now = off(state)
        slopes = np.column_stack(
            [(off(state + small * (np.arange(4) == i)) - now) / small[i] for i in range(free)]
        )
        move = np.linalg.lstsq(slopes, -now, rcond=None)[0]
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
    left = about - twice @ (twice.T @ about) * 2 / BINS
    seen, fits = looks_like(left)
    return float(fits[seen].peak_to_valley / max(fits[seen].scale, 1e-9))


def looks_like(radius: Floats) -> tuple[Gate, dict[Gate, GateFit]]:
    """The gate that a rim (72,) looks most like, and how each fits."""
    fits = {gate: fit_gate(radius, gate) for gate in GATES}
    return min(GATES, key=lambda g: fits[g].rms), fits


def free_of_the_ends(points: Floats, cut: NDArray[np.bool_]) -> Floats:
    """The rim by bearing (72,), NaN where it is cut off by the end of the range; all of it where
    what is left does not show the shape, since the range is the gate then. cut (m,): points at an
    end."""
    free = radius_by_bearing(points[~cut]) if not cut.all() else np.full(BINS, np.nan)
    share = binned_share(cut, bin_of(points))
    free[share > CLAMPED] = np.nan
    known = np.isfinite(free)
    quadrants = known.reshape(4, -1).sum(axis=1)
    if known.sum() >= LEAST_FREE and quadrants.min() >= LEAST_FREE_IN_QUADRANT:
        return free
    return radius_by_bearing(points)


def binned_share(mask: NDArray[np.bool_], bins: NDArray[np.intp]) -> Floats:
    """The share of True in each bin, (72,); 0 where a bin is empty."""
    counts = np.bincount(bins, minlength=BINS)
    return np.asarray(np.bincount(bins, mask.astype(float), BINS) / np.maximum(counts, 1))


def on_rim(u: Floats, reach: Floats | None = None) -> NDArray[np.intp]:
    """Which samples lie on the edge: farther out than 0.6 of the 95th percentile, from where a push
    reaches the edge until it leaves it. The way out to it is no part of the rim.

    reach (2, 2): the ends that each axis is brought to in any step. Sides far shorter than the longest
    are taken as long as that: there the edge lies nearer, and not the hand.
    """
    rho = lengths(u if reach is None else _evened(u, reach))
    near = rho > EDGE * np.percentile(rho, 95)
    bins = bin_of(u)
    edge = binned_quantile(rho[near], bins[near], BINS, FULL_SHARE)
    pressed = near & (rho >= PRESSED * edge[bins])
    keep = np.zeros(len(u), dtype=bool)
    for start, stop in zip(*runs(near), strict=True):
        there = np.flatnonzero(pressed[start:stop])
        if there.size:
            keep[start + there[0] : start + there[-1] + 1] = True
    return np.flatnonzero(keep)


def _evened(u: Floats, reach: Floats) -> Floats:
    """Places u (n, 2), with far shorter sides of the reach stretched to the longest."""
    out = np.clip(np.abs(reach), 1.0, None)
    longest = out.max()
    stretch = np.where(out < SHORT_SIDE * longest, longest / out, 1.0)
    return np.where(u < 0, u * stretch[:, 0], u * stretch[:, 1])


def find_laps(points: Floats) -> tuple[NDArray[np.intp], NDArray[np.int8]]:
    """Number the whole laps in a path round the rim.

    points: (m, 2) in time order. Returns the lap each point belongs to, −1 where it belongs to no
    whole lap, and the way it moves: +1 clockwise, −1 the other way, 0 where the path is too short
    to tell. A path turns back where its bearing retreats by 30°, and breaks off where it leaves the
    edge and comes back to it elsewhere.
    """
    turned = np.degrees(np.unwrap(np.radians(bearing(points[:, 0], points[:, 1]))))
    lap = np.full(len(points), -1, dtype=np.intp)
    way = np.zeros(len(points), dtype=np.int8)
    count = 0
    for start, stop in _sweeps_between_breaks(turned):
        extent = turned[stop - 1] - turned[start]
        direction = 1 if extent > 0 else -1
        way[start:stop] = direction
        whole = int(np.floor(abs(extent) / 360.0 + NEAR_LAP))
        if not whole:
            continue
        done = np.floor((turned[start:stop] - turned[start]) * direction / 360.0)
        numbered = np.clip(done, 0, None).astype(np.intp)
        last = numbered[-1] if numbered[-1] < whole else whole - 1
        inside = numbered <= last
        lap[start:stop] = np.where(inside, numbered + count, -1)
        count += whole
    return lap, way


def every_lap_alike(lap: NDArray[np.intp], bins: NDArray[np.intp]) -> NDArray[np.intp]:
    """Which points count, in order: of each lap no more in any direction than three quarters of them
    have. Where a hand rests on the edge, to take hold anew, it tells no more than in passing. lap,
    bins (m,): the lap of each point, −1 for none, and its direction."""
    group = (lap + 1) * BINS + bins
    order = np.argsort(group, kind="stable")
    size = np.bincount(group)
    first = np.cumsum(size) - size
    group = group[order]
    place = np.arange(len(order)) - first[group]
    share = np.minimum(1.0, np.percentile(size[size > 0], 75) / size[group])
    kept = np.floor((place + 1) * share) > np.floor(place * share)
    return np.sort(order[kept])


def _sweeps_between_breaks(turned: Floats) -> list[tuple[int, int]]:
    breaks = np.flatnonzero(np.abs(np.diff(turned)) > TURN_BACK) + 1
    edges = [0, *breaks.tolist(), len(turned)]
    return [
        (first + start, first + stop)
        for first, last in pairwise(edges)
        for start, stop in _sweeps(turned[first:last])
    ]


def _sweeps(turned: Floats) -> list[tuple[int, int]]:
    """Stretches between turning points of an unwrapped bearing, in degrees: (start, stop)."""
    coarse = np.floor(turned / 5.0)
    change = np.concatenate(([0], np.flatnonzero(np.diff(coarse)) + 1, [len(turned) - 1]))
    sweeps = []
    start = extreme = int(change[0])
    direction = 0
    for at in change:
        ahead = turned[at] - turned[extreme]
        if direction == 0:
            if abs(turned[at] - turned[start]) >= TURN_BACK:
                direction = 1 if turned[at] > turned[start] else -1
                extreme = int(at)
        elif ahead * direction >= 0:
            extreme = int(at)
        elif abs(ahead) >= TURN_BACK:
            sweeps.append((start, extreme + 1))
            start, extreme, direction = extreme, int(at), -direction
    if direction:
        sweeps.append((start, len(turned)))
    return sweeps


def measure_rim(
    u: Floats,
    gate: Gate = "round",
    at_end: NDArray[np.bool_] | None = None,
    reach: Floats | None = None,
) -> RimResult:
    """Measure a step round the edge: u (n, 2) % of half range. at_end (n, 2): where an axis lies at
    the end of its range. reach (2, 2): how far each axis is brought in any step, low and high, %.

    Raises NotUsable when under 95 % of the directions were reached.
    """
    if u.shape[1] != 2:
        raise NotUsable("one-axis", "a single axis has no rim.")
    kept = on_rim(u, reach) if len(u) else np.empty(0, dtype=np.intp)
    points = u[kept]
    ends = at_end[kept] if at_end is not None else np.zeros(points.shape, dtype=bool)
    cut: NDArray[np.bool_] = np.asarray(ends.any(axis=1))
    coverage = float(np.isfinite(radius_by_bearing(points)).mean())
    if coverage < LEAST_COVERAGE:
        raise NotUsable(
            "coverage",
            f"only {round(coverage * BINS)} of {BINS} directions were reached. "
            "Go all the way round, pressed to the edge, and redo Rim.",
        )
    lap, way = find_laps(points)
    alike = every_lap_alike(lap, bin_of(points))
    points, cut, lap, way = points[alike], cut[alike], lap[alike], way[alike]
    ends = ends[alike]
    radius = fill_around(radius_by_bearing(points), gate)
    laps = int(lap.max()) + 1
    bins, distance = bin_of(points), lengths(points)
    in_lap = lap >= 0
    lap_radius = binned_median(
        distance[in_lap], lap[in_lap] * BINS + bins[in_lap], laps * BINS
    ).reshape(laps, BINS)
    by_way = [binned_median(distance[way == w], bins[way == w], BINS) for w in (1, -1)]
    apart = np.abs(by_way[0] - by_way[1])
    repeat = lap_radius - radius
    angle = np.radians(BEARINGS)
    shape = np.column_stack((radius * np.sin(angle), radius * np.cos(angle)))
    lsc = least_squares_circle(shape)
    mzc = minimum_zone_circle(shape, lsc)
    least, most = extents(points)
    ways = [int(np.unique(lap[in_lap & (way == w)]).size) for w in (1, -1)]
    readings = Rim(
        coverage=coverage,
        mean_radius=float(radius.mean()),
        circularity_error=circularity(radius, gate, binned_share(cut, bins) > CLAMPED),
        roundness_lsc=peak_to_valley(shape, lsc.x, lsc.y),
        roundness_mzc=peak_to_valley(shape, mzc.x, mzc.y),
        lsc_x=lsc.x,
        lsc_y=lsc.y,
        lsc_radius=lsc.radius,
        reach_right=float(most[0]),
        reach_left=float(-least[0]),
        reach_up=float(most[1]),
        reach_down=float(-least[1]),
        outer_dead_zone_needed=outer_dead_zone(radius, gate),
        overreach=max(0.0, float((radius - 100.0).max())),
        overrun=max(0.0, float((100.0 * radius / gate_radius(gate)).max()) - 100.0),
        laps_cw=ways[0],
        laps_ccw=ways[1],
        lap_repeat=float(np.sqrt(np.nanmean(np.square(repeat)))) if laps else None,
        cw_ccw_gap=float(np.nanmedian(apart)) if np.isfinite(apart).any() else None,
        radius=tuple(float(r) for r in radius),
    )
    problems = (*_of_laps(*ways), *_of_ends(points, ends))
    return RimResult(readings, points, cut, lap, lap_radius, problems)


def _of_laps(clockwise: int, anticlockwise: int) -> list[Problem]:
    if min(clockwise, anticlockwise) >= 2:
        return []
    said = (
        f"{clockwise} clockwise and {anticlockwise} anticlockwise whole laps: "
        "two each way are needed to say how well they repeat."
    )
    return [Problem("rim", "laps", said)]


def _of_ends(points: Floats, ends: NDArray[np.bool_]) -> list[Problem]:
    """How wide each side lies at the end of its range, where it does: one quiet line."""
    bins = bin_of(points)
    wide = {}
    for i, (low, high) in enumerate((("left", "right"), ("down", "up"))):
        for name, side in ((low, points[:, i] < 0), (high, points[:, i] > 0)):
            wide[name] = int(BIN * (binned_share(ends[:, i] & side, bins) > CLAMPED).sum())
    if sum(w >= 2 * BIN for w in wide.values()) < 3:
        return []
    said = ", ".join(f"{w}° {name}" for name, w in wide.items())
    return [
        Problem(
            "rim",
            "ends",
            f"the ends of the range are reached over {said}: as makers let them, so that a full "
            "reach is sure. What lies beyond them does not count.",
            "note",
        )
    ]


FEWEST_UNCUT = 30
"""Bins that have to lie inside the range for a shear to be told from what is cut off."""


def shear(rim: RimResult, gate: Gate) -> float | None:
    """By how much each axis is carried along with the other, both together, as slopes: a rim is
    sheared by cross-talk, and by no hand. None where too much of it is cut off.

    Of x + k·y and y + l·x a round rim's radius goes as 1 + (k + l)/2 · sin 2θ, to first order; a turn
    of the module, k = −l, does not show. By least squares over the bins that lie inside the range,
    with the circle and what scales the axes in it; of other gates over the whole rim alone, to
    whose corners sin 2θ is orthogonal.
    """
    points = rim.points - (rim.readings.lsc_x, rim.readings.lsc_y)
    bins = bin_of(points)
    radius = binned_median(lengths(points), bins, BINS)
    whole = (binned_share(rim.cut, bin_of(rim.points)) <= CLAMPED) & np.isfinite(radius)
    if whole.sum() < (FEWEST_UNCUT if gate == "round" else LEAST_COVERAGE * BINS):
        return None
    angle = np.radians(BEARINGS[whole])
    terms = np.column_stack(
        (
            np.ones_like(angle),
            np.sin(angle),
            np.cos(angle),
            np.sin(2 * angle),
            np.cos(2 * angle),
        )
    )
    fitted, _, rank, _ = np.linalg.lstsq(terms, radius[whole], rcond=None)
    if rank < terms.shape[1] or fitted[0] <= 0:
        return None
    return float(2 * fitted[3] / fitted[0])


def recentred(points: Floats, x: float, y: float) -> Floats:
    """Rim points as an ideal recalibration would report them: centre moved to (x, y), then each
    half axis scaled to how far they reach along it."""
    least, most = extents(points)
    return _scaled(points - (x, y), least - (x, y), most - (x, y))


def _scaled(points: Floats, least: Floats, most: Floats) -> Floats:
    """Points with each half axis scaled so that what reached `least` and `most` reaches 100."""
    reach = np.where(points > 0, most, -least)
    return np.asarray(points * 100.0 / np.maximum(reach, 1e-9))


def recalibrated(rim: RimResult, x: float, y: float, gate: Gate) -> Floats:
    """A rim by bearing (72,) as an ideal recalibration about (x, y) would leave it; NaN where an end
    of the range cuts it off. How far it goes beyond an end is taken from what lies beside it; the
    side of a square gate is as straight as the end that cuts it off, and is taken as it is."""
    moved = recentred(rim.points, x, y)
    if gate == "square" or not rim.cut.any():
        return radius_by_bearing(moved)
    seen = fill_around(free_of_the_ends(moved, rim.cut), gate)
    return free_of_the_ends(_scaled(moved, *extents(points_of(seen))), rim.cut)
