"""Crossing: slowly from end to end, one axis at a time. What the track is like, place by place."""

from __future__ import annotations

from dataclasses import dataclass
from math import comb

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, Indices, NotUsable, Problem, resolution
from hollow_pin.core.standstill import (
    LEAP_TIMES,
    MISSING_TIMES,
    SAME_PLACE,
    Standstills,
    at_one_place,
    find_standstills,
)
from hollow_pin.core.statistics import (
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
JUMP_TIMES = 8.0
JUMP_LEAST = 1.5
BESIDE = 7
"""Positions, around a gap, whose distances are what is usual there."""
SMEARED_S = 0.02
"""As long as a filter in the device may take over a jump."""
MADE_UP = 5.0
"""Of what a source keeps to itself: it goes four times as far in one step where that is all of it, and
the stick goes on meanwhile."""
MOST_BACK = 0.1
"""Of a pass's steps, that go the other way."""
CROWDED = 0.1
"""Of the travel, that a pass's gaps take, by how finely they are known: more lie alike by chance."""
FEWEST_ALIKE = 3
"""Passes that have to go over the same place, where each by itself would not be told from a hand."""
DEAD_ZONE_LEAST = 1.0
JUMP_STEPS = 1.5
FEWEST_AT_ZERO = 2
"""Passes by which the time at zero tells a dead zone: swift ones too, where fewer are slow."""
DWELL_LEAST = 1.0
DWELL_TIMES = 3.0
DWELL_INSIDE = 0.7
NEAR_ZERO = 1.0
"""How far from zero a pass may stand in a dead zone, %: a source that swallows small changes does not
come back to the same digit every time."""
JUMP_ALIKE = (0.75, 1.25)
"""How wide the travel at zero may be against the jump at its edge, where the one is the other: hands
go a little faster through the middle."""
GAP_TIMES = 3.0
"""Usual intervals from which on samples are missing."""


@dataclass(frozen=True)
class RoughSpot:
    """A run of noisy bins, % of half range; peak is the noisiest bin's noise."""

    from_: float
    to: float
    peak: float


@dataclass(frozen=True)
class DeadSpan:
    """Positions that were jumped over at the same place on several passes, % of half range."""

    from_: float
    to: float
    passes: int


@dataclass(frozen=True)
class Crossing:
    """Readings of one axis's track, % of half range. track_noise: a value a bin of 4 % from −100
    to 100, None where the bin was not crossed or a built-in dead zone covers it. cross_talk is None
    for a single axis."""

    passes: int
    track_noise: tuple[float | None, ...]
    track_noise_median: float
    track_noise_max: float
    rough_spots: tuple[RoughSpot, ...]
    dead_spans: tuple[DeadSpan, ...]
    cross_talk: float | None
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
    from none."""

    readings: Crossing
    squares: Floats
    counts: Floats
    other: Floats
    jumped: Jumps
    problems: tuple[Problem, ...]
    sees_dead_zone: bool = True


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
    step: str, t: Floats, v: Floats, other: Floats | None, swallowed: float = 0.0
) -> CrossingResult:
    """Measure passes along one axis: t (n,) seconds, v (n,) the axis, other (n,) the other one, %.

    step: the name that its problems are told under. swallowed: how small a change its source keeps to
    itself, %: it makes up for them by jumps. Raises NotUsable when the axis was not moved
    from end to end, or only faster than 1.5 s, or reported nothing in between.
    """
    slow, made = _slow_passes(t, v, other)
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
        seen = ~_beside_gaps(t[part], stood[i].silent, interval, window)
        squares[i] = np.bincount(where[seen], np.square(moved - smooth)[seen], BINS)
        counts[i] = np.bincount(where[seen], minlength=BINS)
        if other is not None:
            sideways[i] = binned_median(other[part], where, BINS)
    looked = slow if len(slow) >= FEWEST_AT_ZERO else made
    zone = built_in_dead_zone(t, v, looked, resolution(v))
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
    jumped = jumps([v[p] for p in slow], zone, stood, stride, least)
    noise = track_noise(squares.sum(axis=0), counts.sum(axis=0))
    median, worst = float(np.nanmedian(noise)), float(np.nanmax(noise))
    readings = Crossing(
        passes=len(slow),
        track_noise=tuple(None if np.isnan(n) else float(n) for n in noise),
        track_noise_median=median,
        track_noise_max=worst,
        rough_spots=rough_spots(noise, median),
        dead_spans=dead_spans(jumped),
        cross_talk=None if other is None else cross_talk(sideways),
        built_in_dead_zone=zone,
    )
    problems = tuple(_problems(step, len(made), len(slow)))
    sees = len(looked) >= FEWEST_AT_ZERO
    return CrossingResult(readings, squares, counts, sideways, jumped, problems, sees)


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


def _visited(v: Floats, silent: Indices) -> Floats:
    """Positions (m,) of a pass, those in between put in where the source was silent: its silence is no
    gap on the track."""
    leap = v[silent + 1] - v[silent]
    wide, leap = silent[np.abs(leap) > JUMP_LEAST], leap[np.abs(leap) > JUMP_LEAST]
    count = (2 * np.abs(leap) / JUMP_LEAST).astype(np.intp)
    which = np.repeat(np.arange(len(wide)), count)
    nth = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + 1
    between = v[wide][which] + leap[which] * nth / (count + 1)[which]
    return np.concatenate([v, between])


def _problems(step: str, found: int, slow: int) -> list[Problem]:
    if slow >= PASSES:
        return []
    fast = found - slow
    said = f"{slow} of {PASSES} passes"
    said += f"; {fast} more went too fast to count" if fast else ""
    return [Problem(step, "passes", f"{said}: what happens only now and then may be missed.")]


def track_noise(squares: Floats, counts: Floats) -> Floats:
    """RMS in each bin from sums of squares and counts (…, 50); NaN where a bin is empty."""
    return np.asarray(np.sqrt(squares / np.where(counts > 0, counts, np.nan)))


def rough_spots(noise: Floats, median: float) -> tuple[RoughSpot, ...]:
    """Runs of bins noisier than four times the median, and than half a per cent."""
    rough = np.nan_to_num(noise) > max(ROUGH_TIMES * median, ROUGH_LEAST)
    return tuple(
        RoughSpot(float(EDGES[a]), float(EDGES[b]), float(np.nanmax(noise[a:b])))
        for a, b in zip(*runs(rough), strict=True)
    )


@dataclass(frozen=True, eq=False)
class Jumps:
    """What passes jump over and do not come back to. Between edges (m,), % of half range, lie m − 1
    places, of which each is jumped by `times` (m − 1,) of the passes. runs: the unbroken rows of
    places that any pass jumps, from and to (exclusive). by_chance: how often two passes would be
    expected to jump the same place if each jumped just anywhere. doubt: the variance of how many there
    are that count since most passes jump them, though by little more than they step."""

    edges: Floats
    times: NDArray[np.intp]
    runs: tuple[tuple[int, int], ...]
    passes: int
    by_chance: float
    doubt: float = 0.0


def jumps(
    passes: list[Floats],
    zone: float,
    stood: list[Standstills] | None = None,
    stride: int = 1,
    least: float = JUMP_LEAST,
) -> Jumps:
    """Gaps between the positions a pass visits, larger than eight times its median step that is not
    zero, and than `least`, %; of three times it where most of the passes have the same; and the places
    that it stands still before, as most of the others do. zone: the built-in dead zone, which is no
    broken track. stood: where each pass stands still; stride: samples that a filter smears a jump
    over."""
    seen = [_visited(v, stood[i].silent) if stood else v for i, v in enumerate(passes)]
    gaps = [_gaps(v, _usual_step(p), JUMP_TIMES, least) for v, p in zip(seen, passes, strict=True)]
    shared, doubt = _in_most(seen, gaps, 1, least)
    if stride > 1 and not any(len(places) for places in shared):
        shared, doubt = _in_most(seen, gaps, stride, least)
    lows: list[Floats] = []
    highs: list[Floats] = []
    for i, (gap, alike) in enumerate(zip(gaps, shared, strict=True)):
        places = np.vstack((gap, alike, stood[i].places if stood else np.empty((0, 2))))
        lows.append(places[:, 0])
        highs.append(places[:, 1])
    edges = np.unique(np.concatenate(lows + highs))
    times = np.zeros(max(len(edges) - 1, 0), dtype=np.intp)
    for low, high in zip(lows, highs, strict=True):
        over = (low[:, None] <= edges[:-1]) & (high[:, None] >= edges[1:])
        times += over.any(axis=0)
    stretches = zip(*runs(times > 0), strict=True)
    beyond = ((a, b) for a, b in stretches if edges[a] >= zone or edges[b] <= -zone or not zone)
    rows = tuple((int(a), int(b)) for a, b in beyond)
    travel = max(float(v.max()) for v in passes) - min(float(v.min()) for v in passes)
    by_chance = _by_chance(lows, highs, edges, times, travel)
    return Jumps(edges, times, rows, len(passes), by_chance, doubt)


def _usual_step(v: Floats) -> float:
    """The median of a pass's steps that are not zero."""
    step = np.abs(np.diff(v))
    moving = step[step > 0]
    return float(np.median(moving)) if moving.size else 0.0


def _in_most(
    seen: list[Floats], known: list[Floats], stride: int, least: float
) -> tuple[list[Floats], float]:
    """Each pass's gaps, edges (m, 2), that most of the passes have at the same place, however little
    wider than elsewhere: a hand is swift here and there. By every `stride`th sample. A pass that
    trembles to and fro visits its places by chance, and one that has many has some where another has
    them: neither has a say. And the variance of how many
    there are: of those that as many passes may or may not have the next time, and that are not known
    by themselves."""
    several, coarse, phases = [], [], []
    for v in seen:
        steps = np.diff(v[::stride]) * np.sign(v[-1] - v[0])
        steady = len(steps) > 0 and (steps < 0).mean() < MOST_BACK
        starts = range(0, stride, max(stride // 4, 1)) if steady else range(0)
        usual = _usual_step(v[::stride])
        found = [_gaps(v[k::stride], usual, LEAP_TIMES, least) for k in starts]
        coarse.append(2 * usual)
        phases.append(max(len(found), 1))
        every = np.vstack([np.empty((0, 2)), *found])
        taken = len(every) / phases[-1] * 2 * max(SAME_PLACE, coarse[-1])
        several.append(every if taken < CROWDED * float(np.ptp(v)) else every[:0])
    if not any(len(gaps) for gaps in several):
        return several, 0.0
    n = len(seen)
    needed = max(FEWEST_ALIKE, n // 2 + 1)
    times = at_one_place(several, coarse)
    shared = [gaps[of >= needed] for gaps, of in zip(several, times, strict=True)]
    doubt = 0.0
    for gaps, sure, of, each in zip(several, known, times, phases, strict=True):
        low, high = gaps[:, :1], gaps[:, 1:]
        itself = ((low < sure[:, 1]) & (high > sure[:, 0])).any(axis=1)
        for k in of[~itself & (of >= needed - 1) & (of > 1)].tolist():
            counts = _chance_of(needed, n, (k + 0.5) / (n + 1))
            doubt += counts * (1 - counts) / (k * each)
    return shared, doubt


def _chance_of(least: int, n: int, p: float) -> float:
    """That as many of n at least come out, each with a chance of p."""
    return sum(comb(n, k) * p**k * (1 - p) ** (n - k) for k in range(least, n + 1))


def _gaps(v: Floats, usual: float, times: float, least: float) -> Floats:
    """Edges (m, 2) of what a pass does not visit: farther than it goes elsewhere, and beside it."""
    visited = np.unique(v)
    width = np.diff(visited)
    if width.max(initial=0.0) <= least:
        return np.empty((0, 2))
    beside = running_median(width, BESIDE, "edge") if times < JUMP_TIMES else usual
    at = np.flatnonzero(width > np.maximum(times * np.maximum(usual, beside), least))
    return np.column_stack((visited[at], visited[at + 1]))


def _by_chance(
    lows: list[Floats], highs: list[Floats], edges: Floats, times: NDArray[np.intp], travel: float
) -> float:
    """How many of one pass's gaps and another's would overlap if they lay anywhere on the travel: two
    of lengths a and b do with a chance of (a + b)/travel. A gap that most passes share lies where it
    lies for a reason, and is not counted."""
    expected, gaps, length = 0.0, 0, 0.0
    for low, high in zip(lows, highs, strict=True):
        spans = zip(np.searchsorted(edges, low), np.searchsorted(edges, high), strict=True)
        strays = np.array([times[a:b].max() <= len(lows) / 2 for a, b in spans], dtype=bool)
        count, long = int(strays.sum()), float((high - low)[strays].sum())
        expected += (count * length + gaps * long) / travel if count else 0.0
        gaps, length = gaps + count, length + long
    return expected


def dead_spans(jumped: Jumps) -> tuple[DeadSpan, ...]:
    """The places that two passes or more jump over."""
    return tuple(
        DeadSpan(float(jumped.edges[a + c]), float(jumped.edges[a + d]), times)
        for a, b in jumped.runs
        for c, d, times in _on_several_passes(jumped.times[a:b])
    )


def _on_several_passes(times: NDArray[np.intp]) -> list[tuple[int, int, int]]:
    """The places among neighbouring ones that two passes or more jump: from, to, by how many."""
    stretches = zip(*runs(times >= 2), strict=True)
    return [(int(c), int(d), int(times[c:d].max())) for c, d in stretches]


def u_dead_spans(jumped: Jumps) -> float:
    """Standard uncertainty of how many there are: would as many passes show them again?

    A place that k of n passes jump is jumped with a chance of (k + ½)/(n + 1) by the next (Jeffreys),
    and counts when two of n do. Where several touch, they may as well be one. The bias of so few
    passes is taken out. A contact that jumps anywhere makes some by chance, other ones each time, as
    many more or less as their count's square root (Poisson).
    """
    n = jumped.passes
    variance = jumped.by_chance + jumped.doubt
    for a, b in jumped.runs:
        several = _on_several_passes(jumped.times[a:b])
        for k in [times for _, _, times in several] or [1]:
            p = (k + 0.5) / (n + 1)
            counts = 1 - (1 - p) ** n - n * p * (1 - p) ** (n - 1)
            variance += counts * (1 - counts)
        variance += 0.25 * max(len(several) - 1, 0)
    return float(np.sqrt(variance * n / max(n - 1, 1)))


def cross_talk(sideways: Floats) -> float:
    """How far the other axis is carried along: (passes, 50) medians, NaN where empty."""
    seen = np.isfinite(sideways).any(axis=0)
    along = np.nanmedian(sideways[:, seen], axis=0)
    return float(np.ptp(along))


def built_in_dead_zone(t: Floats, v: Floats, passes: list[slice], resolution: float) -> float:
    """Half the width of a dead zone that the source puts around zero, % of the stick's own travel; 0
    where there is none. t (n,) seconds, v (n,) %, passes: from end to end.

    Its edge jumps by as much, unless what comes out is rescaled, curved, or lifted over the dead zone
    of somebody else: then the time that is spent at zero tells, and the jump does not.
    """
    jump = _jump_at_zero([v[p] for p in passes], resolution)
    dwelt = _dwelt_at_zero(t, v, passes, resolution)
    if jump and (not dwelt or JUMP_ALIKE[0] <= dwelt / jump <= JUMP_ALIKE[1]):
        return jump
    return dwelt or jump


def _jump_at_zero(passes: list[Floats], resolution: float) -> float:
    """Half the gap around the value nearest zero, where it is larger than three steps of the
    converter, than 1 %, and than one and a half times as far as a pass goes from sample to sample, and
    where that value is what the passes keep reporting; else 0."""
    values, times = np.unique(np.concatenate(passes), return_counts=True)
    nearest = int(np.abs(values).argmin())
    if nearest in (0, len(values) - 1) or times[nearest] < 2 * len(passes):
        return 0.0
    half = float(values[nearest + 1] - values[nearest - 1]) / 2
    step = np.concatenate([np.abs(np.diff(v)) for v in passes])
    usual = float(np.median(step[step > 0])) if step.any() else 0.0
    return half if half > max(3 * resolution, DEAD_ZONE_LEAST, JUMP_STEPS * usual) else 0.0


def _dwelt_at_zero(t: Floats, v: Floats, passes: list[slice], resolution: float) -> float:
    """Half the travel that passes are at zero for, %, each at one value to the last digit; 0 where
    that is no more than a stick takes on its way.

    The share of a pass's time, of its travel: noise moves samples out of the zone at its edges and as
    many into it, so that how many there are is not changed by it. The middle half of them is asked to
    be at zero nearly throughout, since a contact that drops to zero does so anywhere. The median of
    the passes, the lower of two: a hand may stop there too.
    """
    widths = [_dwelt(t[p], v[p], resolution) for p in passes]
    if len(widths) < FEWEST_AT_ZERO:
        return 0.0
    half, at_any = sorted(widths)[(len(widths) - 1) // 2]
    surely = half - at_any > max(DWELL_TIMES * resolution, DWELL_LEAST)
    return half if surely else 0.0


def _dwelt(t: Floats, v: Floats, resolution: float) -> tuple[float, float]:
    """Of one pass, %: half the travel at zero, and what it is at any one value for."""
    near = np.abs(v) <= max(2.01 * resolution, NEAR_ZERO)
    if not near.any():
        return 0.0, 0.0
    values, times = np.unique(v[near], return_counts=True)
    at_zero = v == values[times.argmax()]
    where = np.flatnonzero(at_zero)
    middle = slice(where[len(where) // 4], where[3 * len(where) // 4] + 1)
    if at_zero[middle].mean() < DWELL_INSIDE:
        return 0.0, 0.0
    each = np.gradient(t)
    travel = (abs(float(v[0])) + abs(float(v[-1]))) / 2
    of_all = travel / max(float(each.sum()), 1e-6)
    alike = np.diff(np.flatnonzero(np.append(True, v[1:] != v[:-1])), append=len(v))
    at_one = float(np.median(each)) * float(np.median(alike))
    return of_all * float(each[at_zero].sum()), of_all * at_one
