"""Rim: round the edge. How far the stick reaches in every direction, and how round that is."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.gate import (
    BEARINGS,
    BIN,
    BINS,
    Gate,
    circularity,
    fill_around,
    gate_radius,
    outer_dead_zone,
    points_of,
    two_waves,
)
from hollow_pin.core.geometry import (
    bearing,
    least_squares_circle,
    lengths,
    minimum_zone_circle,
    peak_to_valley,
)
from hollow_pin.core.recording import Floats, NotUsable, Problem
from hollow_pin.core.statistics import (
    GAP_TIMES,
    binned_median,
    binned_quantile,
    runs,
    usual_interval,
)

STRAY_SHARE = 0.1
"""Of what a direction usually holds: samples that are fewer are no look at it."""
LEAST_COVERAGE = 0.95
EDGE = 0.6
SHORT_SIDE = 0.85
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
TURN_BACK = 30.0
LOST_TURN = 120.0
"""Degrees that it may have gone on by while nothing was reported."""


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


def extents(points: Floats) -> tuple[Floats, Floats]:
    """The least and the highest that each axis reaches on a rim of points (m, 2), (2,) both: of the
    medians of its directions, which a few jumps to an end do not move."""
    bins = bin_of(points)
    medians = np.column_stack([binned_median(v, bins, BINS) for v in points.T])
    return np.nanmin(medians, axis=0), np.nanmax(medians, axis=0)


def free_of_the_ends(points: Floats, cut: NDArray[np.bool_]) -> Floats:
    """The rim by bearing (72,), NaN where it is cut off by the end of the range; all of it where
    what is left does not show the shape, since the range is the gate then. cut (m,): points at an
    end."""
    free = radius_by_bearing(points[~cut]) if not cut.all() else np.full(BINS, np.nan)
    share = binned_share(cut, bin_of(points))
    free[share > CLAMPED] = np.nan
    seen = np.isfinite(free)
    quadrants = seen.reshape(4, -1).sum(axis=1)
    if seen.sum() >= LEAST_FREE and quadrants.min() >= LEAST_FREE_IN_QUADRANT:
        return free
    return radius_by_bearing(points)


def at_an_end(rim: RimResult) -> bool:
    """Whether the ends of the range cut off any direction of it."""
    return bool((binned_share(rim.cut, bin_of(rim.points)) > CLAMPED).any())


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


def lost_between(t: Floats, at: NDArray[np.intp], usual: float) -> NDArray[np.bool_]:
    """After which of the samples (m,) nothing was reported until the next of them, for longer than
    usual, seconds: (m − 1,). What lies between samples that are no neighbours was not on the rim."""
    return np.asarray((np.diff(at) == 1) & (np.diff(t[at]) > GAP_TIMES * usual))


def find_laps(
    points: Floats, lost: NDArray[np.bool_] | None = None
) -> tuple[NDArray[np.intp], NDArray[np.int8]]:
    """Number the whole laps in a path round the rim.

    points: (m, 2) in time order; lost (m − 1,): after which of them nothing was reported until the
    next. Returns the lap each point belongs to, −1 where it belongs to no whole lap, and the way it
    moves: +1 clockwise, −1 the other way, 0 where the path is too short to tell. A path turns back
    where its bearing retreats by 30°, and breaks off where it leaves the edge and comes back to it
    elsewhere; not where the link lost up to 120° of it.
    """
    turned = _turned(points)
    lap = np.full(len(points), -1, dtype=np.intp)
    way = np.zeros(len(points), dtype=np.int8)
    count = 0
    for start, stop in _sweeps_between_breaks(turned, lost):
        extent = turned[stop - 1] - turned[start]
        direction = 1 if extent > 0 else -1
        way[start:stop] = direction
        whole = int(np.floor(abs(extent) / 360.0 + NEAR_LAP))
        if not whole:
            continue
        laps_before = np.floor((turned[start:stop] - turned[start]) * direction / 360.0)
        numbered = np.clip(laps_before, 0, None).astype(np.intp)
        last = numbered[-1] if numbered[-1] < whole else whole - 1
        inside = numbered <= last
        lap[start:stop] = np.where(inside, numbered + count, -1)
        count += whole
    return lap, way


def _turned(points: Floats) -> Floats:
    """The bearing of each point, degrees, on and on round."""
    return np.degrees(np.unwrap(np.radians(bearing(points[:, 0], points[:, 1]))))


def turned_in_one_go(points: Floats, lost: NDArray[np.bool_]) -> Floats:
    """How far each point's way round goes before it turns back or breaks off, degrees (m,): points (m,
    2) and lost (m − 1,) as of `find_laps`."""
    turned = _turned(points)
    far = np.zeros(len(points))
    for start, stop in _sweeps_between_breaks(turned, lost):
        far[start:stop] = abs(turned[stop - 1] - turned[start])
    return far


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
    picked = np.floor((place + 1) * share) > np.floor(place * share)
    return np.sort(order[picked])


def _sweeps_between_breaks(turned: Floats, lost: NDArray[np.bool_] | None) -> list[tuple[int, int]]:
    leaps = np.abs(np.diff(turned))
    allowed = TURN_BACK if lost is None else np.where(lost, LOST_TURN, TURN_BACK)
    breaks = np.flatnonzero(leaps > allowed) + 1
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
    t: Floats | None = None,
) -> RimResult:
    """Measure a step round the edge: u (n, 2) % of half range. at_end (n, 2): where an axis lies at
    the end of its range. reach (2, 2): how far each axis is brought in any step, low and high, %.
    t (n,): when, seconds, where samples may be missing.

    Raises NotUsable when under 95 % of the directions were reached.
    """
    if u.shape[1] != 2:
        raise NotUsable("one-axis", "a single axis has no rim.")
    outside = on_rim(u, reach) if len(u) else np.empty(0, dtype=np.intp)
    points = u[outside]
    ends = at_end[outside] if at_end is not None else np.zeros(points.shape, dtype=bool)
    cut: NDArray[np.bool_] = np.asarray(ends.any(axis=1))
    coverage = float(np.isfinite(radius_by_bearing(points)).mean())
    if coverage < LEAST_COVERAGE:
        raise NotUsable(
            "coverage",
            f"only {round(coverage * BINS)} of {BINS} directions were reached. "
            "Go all the way round, pressed to the edge, and redo Rim.",
        )
    lost = None if t is None else lost_between(t, outside, usual_interval(np.diff(t)))
    lap, way = find_laps(points, lost)
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
    message = (
        f"{clockwise} clockwise and {anticlockwise} anticlockwise whole laps: "
        "two each way are needed to say how well they repeat."
    )
    return [Problem("rim", "laps", message)]


def _of_ends(points: Floats, ends: NDArray[np.bool_]) -> list[Problem]:
    """How wide each side lies at the end of its range, where it does: one quiet line."""
    bins = bin_of(points)
    wide = {}
    for i, (low, high) in enumerate((("left", "right"), ("down", "up"))):
        for name, side in ((low, points[:, i] < 0), (high, points[:, i] > 0)):
            wide[name] = int(BIN * (binned_share(ends[:, i] & side, bins) > CLAMPED).sum())
    if sum(w >= 2 * BIN for w in wide.values()) < 3:
        return []
    sides = ", ".join(f"{w}° {name}" for name, w in wide.items())
    return [
        Problem(
            "rim",
            "ends",
            f"the ends of the range are reached over {sides}: as makers let them, so that a full "
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
    terms = two_waves(BEARINGS[whole])
    fitted, _, rank, _ = np.linalg.lstsq(terms, radius[whole], rcond=None)
    if rank < terms.shape[1] or fitted[0] <= 0:
        return None
    return float(2 * fitted[3] / fitted[0])


def recentred(points: Floats, x: float, y: float) -> Floats:
    """Rim points as an ideal recalibration would report them: centre moved to (x, y), then each
    half axis scaled to how far they reach along it."""
    least, most = extents(points)
    return _scaled(points - (x, y), least - (x, y), most - (x, y))


def made_even(points: Floats) -> Floats:
    """Rim points (m, 2) without what shears them, or scales one way more than another: the area that
    they enclose is then as wide in every direction, by its second moments about its middle, as that of
    every gate is."""
    radius = radius_by_bearing(points)
    covered = np.isfinite(radius)
    edge, area = points_of(radius)[covered], np.square(radius[covered])
    middle = 2 / 3 * area @ edge / area.sum()
    moments = (edge.T * area / 2) @ edge / area.sum() - np.outer(middle, middle)
    wide, way = np.linalg.eigh(moments)
    wide = np.maximum(wide, 1e-9)
    return np.asarray((points - middle) @ (way * np.sqrt(wide.mean() / wide)) @ way.T)


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
    filled = fill_around(free_of_the_ends(moved, rim.cut), gate)
    return free_of_the_ends(_scaled(moved, *extents(points_of(filled))), rim.cut)
