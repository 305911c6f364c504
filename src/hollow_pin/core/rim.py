"""Rim: round the edge. How far the stick reaches in every direction, and how round that is."""

from __future__ import annotations

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
from hollow_pin.core.statistics import binned_median

BINS = 72
BIN = 360.0 / BINS
BEARINGS: Floats = np.asarray(BIN * np.arange(BINS), dtype=np.float64)
"""The middles of the bins: the first is centred on up, so that mirroring maps bins onto bins."""
LEAST_COVERAGE = 0.95
EDGE = 0.6
NEAR_LAP = 0.05
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
    laps_cw: int
    laps_ccw: int
    lap_repeat: float | None
    cw_ccw_gap: float | None
    radius: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class RimResult:
    """The readings, and what they were read from: points (m, 2) on the rim, lap (m,) the whole lap
    each belongs to or −1, lap_radius (laps, 72) with NaN where a lap left a bin empty."""

    readings: Rim
    points: Floats
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
    """Median distance in each 5° bin, (72,); NaN where a bin is empty."""
    return binned_median(lengths(points), bin_of(points), BINS)


def fill_around(radius: Floats) -> Floats:
    """Interpolate empty bins around the circle."""
    filled = np.isfinite(radius)
    if filled.all():
        return radius
    return np.asarray(np.interp(BEARINGS, BEARINGS[filled], radius[filled], period=360.0))


def circularity(radius: Floats, gate: Gate) -> float:
    """Mean absolute deviation of a rim (72,) from its gate, %."""
    return float(np.abs(radius - gate_radius(gate)).mean())


def on_rim(u: Floats) -> Floats:
    """The samples that lie near the edge: farther out than 0.6 of the 95th percentile."""
    rho = lengths(u)
    return np.asarray(u[rho > EDGE * np.percentile(rho, 95)])


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


def measure_rim(u: Floats, gate: Gate = "round") -> RimResult:
    """Measure a step round the edge: u (n, 2) % of half range.

    Raises NotUsable when under 95 % of the directions were reached.
    """
    if u.shape[1] != 2:
        raise NotUsable("one-axis", "a single axis has no rim.")
    points = on_rim(u) if len(u) else u
    measured = radius_by_bearing(points)
    coverage = float(np.isfinite(measured).mean())
    if coverage < LEAST_COVERAGE:
        raise NotUsable(
            "coverage",
            f"only {round(coverage * BINS)} of {BINS} directions were reached. "
            "Go all the way round, pressed to the edge, and redo Rim.",
        )
    radius = fill_around(measured)
    lap, way = find_laps(points)
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
    reach = np.percentile(points, (1, 99), axis=0)
    ways = [int(np.unique(lap[in_lap & (way == w)]).size) for w in (1, -1)]
    readings = Rim(
        coverage=coverage,
        mean_radius=float(radius.mean()),
        circularity_error=circularity(radius, gate),
        roundness_lsc=peak_to_valley(shape, lsc.x, lsc.y),
        roundness_mzc=peak_to_valley(shape, mzc.x, mzc.y),
        lsc_x=lsc.x,
        lsc_y=lsc.y,
        lsc_radius=lsc.radius,
        reach_right=float(reach[1, 0]),
        reach_left=float(-reach[0, 0]),
        reach_up=float(reach[1, 1]),
        reach_down=float(-reach[0, 1]),
        outer_dead_zone_needed=max(0.0, float((100.0 - radius).max())),
        overreach=max(0.0, float((radius - 100.0).max())),
        laps_cw=ways[0],
        laps_ccw=ways[1],
        lap_repeat=float(np.sqrt(np.nanmean(np.square(repeat)))) if laps else None,
        cw_ccw_gap=float(np.nanmedian(apart)) if np.isfinite(apart).any() else None,
        radius=tuple(float(r) for r in radius),
    )
    problems = []
    if min(ways) < 2:
        problems.append(
            Problem(
                "rim",
                "laps",
                f"{ways[0]} clockwise and {ways[1]} anticlockwise whole laps: "
                "two each way are needed to say how well they repeat.",
            )
        )
    return RimResult(readings, points, lap, lap_radius, tuple(problems))


def recentred(points: Floats, x: float, y: float, reach: Rim) -> Floats:
    """Rim points as an ideal recalibration would report them: centre moved to (x, y), then each
    half axis scaled to its reach."""
    moved = points - (x, y)
    plus = np.array([reach.reach_right - x, reach.reach_up - y])
    minus = np.array([reach.reach_left + x, reach.reach_down + y])
    return np.asarray(moved * 100.0 / np.maximum(np.where(moved > 0, plus, minus), 1e-9))
