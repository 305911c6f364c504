"""Places on a track that passes jump over: what no steering can reach. How many there are, and how
surely."""

from __future__ import annotations

from dataclasses import dataclass

import bottleneck
import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, Indices
from hollow_pin.core.standstill import LEAP_TIMES, SAME_PLACE, Standstills, at_one_place
from hollow_pin.core.statistics import chance_of, median, running_median, runs

JUMP_TIMES = 8.0
JUMP_LEAST = 1.5
BESIDE = 7
"""Positions, around a gap, whose distances are what is usual there."""
AROUND_S = 0.06
"""Before a leap and after it, in which an axis that went back as far as it leaps did no more than
tremble: what dirt makes of a device's average."""
MADE_UP = 8.0
"""Of what a source keeps to itself: it goes four times as far in one step where that is all of it, and
the stick goes on meanwhile, as far again where a page looks now and then."""
CALM_STEPS = 5
"""Changes, before a leap and after it, that tell how far an axis goes there from one to the next."""
MOST_BACK = 0.1
"""Of a pass's steps, that go the other way."""
CROWDED = 0.1
"""Of the travel, that a pass's gaps take, by how finely they are known: more lie alike by chance."""
FEWEST_ALIKE = 3
"""Passes that have to go over the same place, where each by itself would not be told from a hand."""


@dataclass(frozen=True)
class DeadSpan:
    """Positions that were jumped over at the same place on several passes, % of half range."""

    from_: float
    to: float
    passes: int


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
    around: int = 0,
) -> Jumps:
    """Gaps between the positions a pass visits, larger than eight times its median step that is not
    zero, and than `least`, %; of three times it where most of the passes have the same; and the places
    that it stands still before, as most of the others do. Where it is rough, a pass visits its places
    by chance, and has gaps for that: those are no leaps. zone: the built-in dead zone, which is no
    broken track. stood: where each pass stands still; stride: samples that a filter smears a jump
    over; around: samples before a leap and after it in which it may not go back as far as it leaps."""
    visited = [_visited(v, stood[i].silent) if stood else v for i, v in enumerate(passes)]
    changes = [_Changes.of(p, around) for p in passes]
    gaps = [
        change.leaps_over(change.on_its_way(_gaps(v, change.usual, JUMP_TIMES, least)))
        for v, change in zip(visited, changes, strict=True)
    ]
    shared, doubt = _in_most(visited, changes, gaps, 1, least)
    if stride > 1 and not any(len(places) for places in shared):
        shared, doubt = _in_most(visited, changes, gaps, stride, least)
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


def _usual_step(v: Floats) -> float:
    """The median of a pass's steps that are not zero."""
    step = np.abs(np.diff(v))
    moving = step[step > 0]
    return median(moving) if moving.size else 0.0


@dataclass(frozen=True, eq=False)
class _Changes:
    """How a pass goes from one value to the next. v (n,): its samples, %. nth (n,): how many changes
    come before each. before, after: how far it usually goes in the changes up to one and from one on,
    %, by its place among them. usual: in all of them."""

    v: Floats
    nth: NDArray[np.intp]
    before: Floats
    after: Floats
    usual: float
    around: int

    @classmethod
    def of(cls, v: Floats, around: int) -> _Changes:
        step = np.abs(np.diff(v))
        nth = np.append(0, np.cumsum(step > 0))
        far = step[step > 0]
        beside = np.full(CALM_STEPS, np.nan)
        windows = sliding_window_view(np.concatenate([beside, far, beside]), CALM_STEPS)
        usual = np.zeros(len(windows))
        covered = np.isfinite(windows).any(axis=1)
        usual[covered] = bottleneck.nanmedian(windows[covered], axis=1)
        return cls(v, nth, usual, usual[CALM_STEPS:], _usual_step(v), around)

    def on_its_way(self, gaps: Floats) -> Floats:
        """Those of the gaps, edges (m, 2), that lie between where it begins and where it stops: beyond
        that it was thrown by spikes, and did not go."""
        first, last = sorted((float(self.v[0]), float(self.v[-1])))
        inside = (gaps[:, 0] >= first - self.usual) & (gaps[:, 1] <= last + self.usual)
        return np.asarray(gaps[inside])

    def leaps_over(self, gaps: Floats, start: int = 0, stride: int = 1) -> Floats:
        """Those of the gaps, edges (m, 2), that it leaps over: each time three times as far as the
        changes just before and after go, or once for all, farther than those, and than it goes back
        about it; and that it is within no longer than a filter takes over a leap. By every `stride`th
        sample from `start` on, by which they were seen."""
        v = self.v[start::stride]
        is_leap = np.zeros(len(gaps), dtype=bool)
        for i, (low, high) in enumerate(gaps.tolist()):
            below, above = v <= low, v >= high
            over = np.flatnonzero((below[:-1] & above[1:]) | (above[:-1] & below[1:]))
            first = start + over * stride
            last = np.minimum(first + stride, len(self.v) - 1)
            beside = np.append(self.before[self.nth[first]], self.after[self.nth[last]])
            sides = (self.v >= high)[(self.v <= low) | (self.v >= high)]
            within = len(self.v) - len(sides)
            once = np.count_nonzero(np.diff(sides)) <= 1
            far = (high - low) / max(float(beside.max(initial=0.0)), 1e-9)
            if once and first.size:
                leaps = far > 1.0 and self._goes_back_by(int(first[0]), int(last[-1])) < high - low
            else:
                leaps = far > LEAP_TIMES
            is_leap[i] = within <= stride and leaps
        return gaps[is_leap]

    def _goes_back_by(self, first: int, last: int) -> float:
        """How far it goes against its way from shortly before a sample to shortly after another, %."""
        beside = self.v[max(0, first - self.around) : last + self.around + 1]
        along = beside * np.sign(self.v[-1] - self.v[0])
        return float((np.maximum.accumulate(along) - along).max())


@dataclass(frozen=True, eq=False)
class _Likely:
    """Of one pass: edges (m, 2) of what it goes over a little farther than elsewhere, %, how finely
    they are known, %, and how many times over the pass was looked at."""

    gaps: Floats
    coarse: float
    looks: int


def _find_likely(v: Floats, changes: _Changes, stride: int, least: float) -> _Likely:
    """By every `stride`th sample, from several of them on. A pass that trembles to and fro visits its
    places by chance, and one that has many gaps has some where another has them: neither has a say."""
    usual = _usual_step(v[::stride])
    steps = np.diff(v[::stride]) * np.sign(v[-1] - v[0])
    steady = len(steps) > 0 and (steps < 0).mean() < MOST_BACK
    starts = range(0, stride, max(stride // 4, 1)) if steady else range(0)
    found_by_start = [
        changes.leaps_over(
            changes.on_its_way(_gaps(v[k::stride], usual, LEAP_TIMES, least)), k, stride
        )
        for k in starts
    ]
    gaps, looks = np.vstack([np.empty((0, 2)), *found_by_start]), max(len(found_by_start), 1)
    occupied = len(gaps) / looks * 2 * max(SAME_PLACE, 2 * usual)
    few = occupied < CROWDED * float(np.ptp(v))
    return _Likely(gaps if few else gaps[:0], 2 * usual, looks)


def _in_most(
    visited: list[Floats],
    changes: list[_Changes],
    gaps_by_pass: list[Floats],
    stride: int,
    least: float,
) -> tuple[list[Floats], float]:
    """Each pass's gaps, edges (m, 2), that most of the passes have at the same place, however little
    wider than elsewhere: a hand is swift here and there. And the variance of how many there are: of
    those that as many passes may or may not have the next time. gaps_by_pass: each pass's gaps that
    are told by themselves, and are in no doubt."""
    n = len(visited)
    needed = max(FEWEST_ALIKE, n // 2 + 1)
    likely = [
        _find_likely(v, made, stride, least) for v, made in zip(visited, changes, strict=True)
    ]
    times = at_one_place([one.gaps for one in likely], [one.coarse for one in likely])
    shared = [one.gaps[of >= needed] for one, of in zip(likely, times, strict=True)]
    doubt = 0.0
    for one, sure, of in zip(likely, gaps_by_pass, times, strict=True):
        low, high = one.gaps[:, :1], one.gaps[:, 1:]
        itself = ((low < sure[:, 1]) & (high > sure[:, 0])).any(axis=1)
        for k in of[~itself & (of >= needed - 1) & (of > 1)].tolist():
            counts = chance_of(needed, n, (k + 0.5) / (n + 1))
            doubt += counts * (1 - counts) / (k * one.looks)
    return shared, doubt


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
