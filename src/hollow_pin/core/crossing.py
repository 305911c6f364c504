"""Crossing: slowly from end to end, one axis at a time. What the track is like, place by place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import bottleneck
import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.built_in_zone import FEWEST_AT_ZERO, built_in_dead_zone, go_through_middle
from hollow_pin.core.dead_spans import (
    AROUND_S,
    JUMP_LEAST,
    MADE_UP,
    DeadSpan,
    Jumps,
    dead_spans,
    jumps,
)
from hollow_pin.core.recording import Floats, Indices, NotUsable, Problem, resolution
from hollow_pin.core.standstill import MISSING_TIMES, SMEARED_S, find_standstills
from hollow_pin.core.statistics import (
    GAP_TIMES,
    binned_median,
    odd_window,
    running_median,
    runs,
    smoothed,
    timing,
)

BINS = 50
BIN = 4.0
EDGES: Floats = np.asarray(-100.0 + BIN * np.arange(BINS + 1), dtype=np.float64)
END_SHARE = 0.9
PASSES = 4
SHORTEST_PASS_S = 1.5
LEAST_SPAN = 40.0
SMOOTH_S = 0.1
CALM_S = 0.25
ROUGH_TIMES = 4.0
ROUGH_LEAST = 0.5
KNOTS, MOST_BINS, NEARLY = 12, 0.6, 1.0
"""What carries an axis along evenly goes through three of so many of its bins, so that this share of
all lies nearest to it; and %, that near it always is."""


@dataclass(frozen=True)
class RoughSpot:
    """A run of noisy bins, % of half range; peak is the noisiest bin's noise; passes: in how many of
    the passes it is as noisy."""

    from_: float
    to: float
    peak: float
    passes: int


@dataclass(frozen=True)
class Crossing:
    """Readings of one axis's track, % of half range. track_noise: a value a bin of 4 % from −100
    to 100, None where the bin was not crossed or a built-in dead zone covers it. cross_talk is None
    for a single axis; cross_talk_even: what of it goes on evenly from one end to the other."""

    passes: int
    track_noise: tuple[float | None, ...]
    track_noise_median: float
    track_noise_max: float
    rough_spots: tuple[RoughSpot, ...]
    dead_spans: tuple[DeadSpan, ...]
    cross_talk: float | None
    cross_talk_even: float | None
    built_in_dead_zone: float


@dataclass(frozen=True)
class Crossings:
    """The crossing of each axis; None where it is absent or not usable."""

    x: Crossing | None
    y: Crossing | None


@dataclass(frozen=True, eq=False)
class CrossingResult:
    """The readings, and what they were read from, pass by pass: squares and counts (passes, 50) of
    the residual in each bin; other (passes, 50), the other axis's medians, NaN where empty; jumped,
    the places that passes jump over. sees_dead_zone: whether there were passes enough to tell one
    from none; through_middle: whether they went so near to it that they tell of a round one."""

    readings: Crossing
    squares: Floats
    counts: Floats
    other: Floats
    jumped: Jumps
    problems: tuple[Problem, ...]
    sees_dead_zone: bool = True
    through_middle: bool = True


def find_passes(t: Floats, v: Floats) -> list[slice]:
    """Every movement from one end to the other, either way, whatever its length.

    t (n,) seconds, v (n,) %. The ends are 0.9 of the 2nd and of the 98th percentile. A pass begins
    at the last sample on one end's side and ends at the first on the other's, by the running median
    over 0.25 s: a contact that jumps to an end and back has not travelled there.
    """
    low, high = END_SHARE * np.percentile(v, (2, 98))
    pace = timing(t)
    window = odd_window(CALM_S, pace.interval_s if pace else 1.0, len(v))
    calm = running_median(v, window, "edge")
    return from_end_to_end(calm, float(low), float(high))


def from_end_to_end(calm: Floats, low: float, high: float) -> list[slice]:
    """Every movement of a calm position (n,) from one end to the other: from the last sample at or
    beyond `low` to the first at or beyond `high`, or the other way."""
    side = np.where(calm <= low, -1, np.where(calm >= high, 1, 0))
    at = np.flatnonzero(side)
    turn = np.flatnonzero(side[at[1:]] != side[at[:-1]])
    return [slice(int(at[i]), int(at[i + 1]) + 1) for i in turn]


def bin_of(v: Floats) -> NDArray[np.intp]:
    """Which 4 % bin each position falls in."""
    return np.clip(np.floor((v + 100.0) / BIN), 0, BINS - 1).astype(np.intp)


def _slow_passes(t: Floats, v: Floats, other: Floats | None) -> tuple[list[slice], list[slice]]:
    """The passes that are slow enough to be measured, one at least, and all of them."""
    passes = find_passes(t, v) if len(t) > 2 and np.ptp(v) >= 2 * LEAST_SPAN else []
    if not passes:
        if other is not None and len(t) > 2 and np.ptp(other) >= 2 * LEAST_SPAN:
            raise NotUsable(
                "other-axis",
                "the other axis was moved. Go along this one; if you did, the two are swapped: read "
                "them the other way round.",
            )
        raise NotUsable(
            "no-passes",
            "the axis was not moved from end to end. Go slowly all the way, four times.",
        )
    slow = [p for p in passes if t[p.stop - 1] - t[p.start] >= SHORTEST_PASS_S]
    if not slow:
        fastest = min(float(t[p.stop - 1] - t[p.start]) for p in passes)
        raise NotUsable(
            "too-fast",
            f"every pass was faster than {SHORTEST_PASS_S} s; the fastest took {fastest:.1f} s. "
            "Take two seconds from end to end.",
        )
    return slow, passes


def measure_crossing(
    step: str,
    t: Floats,
    v: Floats,
    other: Floats | None,
    swallowed: float = 0.0,
    rested: Sequence[slice] = (),
) -> CrossingResult:
    """Measure passes along one axis: t (n,) seconds, v (n,) the axis, other (n,) the other one, %.

    step: the name that its problems are told under. swallowed: how small a change its source keeps to
    itself, %: it makes up for them by jumps. rested: where it was left alone: what goes on over that
    is no pass, where there are others. Raises NotUsable when the axis was not moved
    from end to end, or only faster than 1.5 s, or reported nothing in between.
    """
    slow, passes = _slow_passes(t, v, other)
    slow = [p for p in slow if not any(_within(r, p) for r in rested)] or slow
    pace = timing(t)
    interval = pace.interval_s if pace else 1.0
    stood = find_standstills(t, v, other, slow, interval)
    squares, counts = np.zeros((len(slow), BINS)), np.zeros((len(slow), BINS))
    sideways = np.full((len(slow), BINS), np.nan)
    for i, part in enumerate(slow):
        moved = v[part]
        window = max(5, odd_window(SMOOTH_S, interval, len(moved)))
        smooth = smoothed(moved, window) if len(moved) >= window else moved
        where = bin_of(smooth)
        usable = ~_beside_gaps(t[part], stood[i].silent, interval, window)
        squares[i] = np.bincount(where[usable], np.square(moved - smooth)[usable], BINS)
        counts[i] = np.bincount(where[usable], minlength=BINS)
        if other is not None:
            sideways[i] = binned_median(other[part], where, BINS)
    at_zero = slow if len(slow) >= FEWEST_AT_ZERO else passes
    zone = built_in_dead_zone(t, v, at_zero, resolution(v), swallowed)
    if zone:
        counts[:, (EDGES[:-1] < zone + BIN) & (EDGES[1:] > -zone - BIN)] = 0.0
    if not counts.any():
        raise NotUsable(
            "no-track",
            "the axis jumped from end to end: nothing was reported of the track in between. Measure "
            "by a rawer source.",
        )
    least = max(JUMP_LEAST, MADE_UP * swallowed)
    stride = max(1, round(SMEARED_S / interval))
    around = round(AROUND_S / interval)
    jumped = jumps([v[p] for p in slow], zone, stood, stride, least, around)
    noise = track_noise(squares.sum(axis=0), counts.sum(axis=0))
    median, worst = float(np.nanmedian(noise)), float(np.nanmax(noise))
    readings = Crossing(
        passes=len(slow),
        track_noise=tuple(None if np.isnan(n) else float(n) for n in noise),
        track_noise_median=median,
        track_noise_max=worst,
        rough_spots=rough_spots(noise, track_noise(squares, counts), median),
        dead_spans=dead_spans(jumped),
        cross_talk=None if other is None else cross_talk(sideways),
        cross_talk_even=None if other is None else cross_talk_even(sideways),
        built_in_dead_zone=zone,
    )
    problems = tuple(_problems(step, len(passes), len(slow)))
    sees = len(at_zero) >= FEWEST_AT_ZERO
    through = other is None or go_through_middle(
        np.column_stack((v, other)), at_zero, (resolution(v), resolution(other))
    )
    return CrossingResult(readings, squares, counts, sideways, jumped, problems, sees, through)


def _within(part: slice, whole: slice) -> bool:
    """Whether all of a part lies in the whole."""
    return bool(whole.start <= part.start and part.stop <= whole.stop)


def _beside_gaps(t: Floats, silent: Indices, interval: float, window: int) -> NDArray[np.bool_]:
    """Which samples (n,) lie so near to a gap in time, or to where it went on after a silence, that
    what is smoothed over it says nothing."""
    gap = np.diff(t) > GAP_TIMES * interval
    gap[silent[np.diff(t)[silent] <= MISSING_TIMES * interval]] = True
    at = np.flatnonzero(gap) + 1
    covered = np.zeros(len(t) + 1, dtype=np.intp)
    np.add.at(covered, np.maximum(at - window, 0), 1)
    np.add.at(covered, np.minimum(at + window, len(t)), -1)
    return np.asarray(np.cumsum(covered)[:-1] > 0)


def _problems(step: str, crossed: int, slow: int) -> list[Problem]:
    if slow >= PASSES:
        return []
    fast = crossed - slow
    text = f"{slow} of {PASSES} passes"
    text += f"; {fast} more went too fast to count" if fast else ""
    return [Problem(step, "passes", f"{text}: what happens only now and then may be missed.")]


def track_noise(squares: Floats, counts: Floats) -> Floats:
    """RMS in each bin from sums of squares and counts (…, 50); NaN where a bin is empty."""
    return np.asarray(np.sqrt(squares / np.where(counts > 0, counts, np.nan)))


def rough_spots(noise: Floats, by_pass: Floats, median: float) -> tuple[RoughSpot, ...]:
    """Runs of bins noisier, of all passes (50,), than four times the median, and than half a per cent;
    by_pass: the noise of each, (passes, 50)."""
    least = max(ROUGH_TIMES * median, ROUGH_LEAST)
    each = np.nan_to_num(by_pass) > least
    return tuple(
        RoughSpot(
            float(EDGES[a]),
            float(EDGES[b]),
            float(np.nanmax(noise[a:b])),
            int(each[:, a:b].any(axis=1).sum()),
        )
        for a, b in zip(*runs(np.nan_to_num(noise) > least), strict=True)
    )


def carried_along(sideways: Floats) -> tuple[NDArray[np.bool_], Floats]:
    """Which bins (50,) any pass saw the other axis in, and where it lay in those (m,), %: the median
    of the passes, of (passes, 50) medians, NaN where empty."""
    covered = np.asarray(np.isfinite(sideways).any(axis=0))
    along: Floats = bottleneck.nanmedian(sideways[:, covered], axis=0)
    return covered, along


def cross_talk(sideways: Floats) -> float:
    """How far the other axis is carried along: (passes, 50) medians, NaN where empty."""
    return float(np.ptp(carried_along(sideways)[1]))


def cross_talk_even(sideways: Floats) -> float:
    """How far it is carried along by what a tilted magnet or module does, from (passes, 50) medians,
    NaN where empty, %: what a parabola goes over that most of the bins lie near (least quantile of
    their distances, through three of them, then least squares of those that are near). Where dirt
    lifts the other axis's wiper for a part of the way, it goes on as beside that."""
    covered, along = carried_along(sideways)
    powers = np.vander(np.linspace(-1.0, 1.0, BINS)[covered], 3)
    among = np.unique(np.linspace(0, len(along) - 1, KNOTS).round().astype(np.intp))
    if len(among) < 3:
        return float(np.ptp(along))
    threes = np.array(list(combinations(among.tolist(), 3)))
    bent = np.linalg.solve(powers[threes], along[threes][..., None])[..., 0]
    far = np.abs(along - bent @ powers.T)
    apart = np.quantile(far, MOST_BINS, axis=1)
    best = int(apart.argmin())
    near = far[best] <= max(2.0 * apart[best], NEARLY)
    fitted = powers @ np.linalg.lstsq(powers[near], along[near], rcond=None)[0]
    return float(min(np.ptp(fitted), np.ptp(along)))
