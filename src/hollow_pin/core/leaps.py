"""Where an axis leaps away from where it is and is soon back: to an end or the middle, as by a joint
that opens, or toward the middle, as by a contact that is lost where the stick is held."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.low_pass import Unfiltered
from hollow_pin.core.recording import Floats, Indices
from hollow_pin.core.statistics import GAP_TIMES, LOOKED_AT, runs, usual_of

LEAST = 15.0
"""%, of a jump."""
LONGEST_S = 0.25
SMALL, FEWEST_LARGE = 5.0, 3
"""%, of a jump from where an axis stands to the middle of its range and back there, where so many
larger ones tell of a joint: no dead zone does so, which an axis goes through and is out on the other
side."""
NEAR = 1.5
"""% from an end or the middle that still is one."""
NEAR_TIMES, FARTHEST = 4.0, 8.0
"""As many times as an axis trembles from one sample to the next, up to so many %, is near as well: by
its supply it does so at an end too."""
EDGE_S = 0.02
"""In which a jump is over that was smoothed on its way, by a capacitor or an average; no hand is as
quick."""
LEAST_SMOOTHED = 30.0
"""%, of a jump that was smoothed: less may be a hand's."""
SHARPER = 2.0
"""Than what moves before and after it: an edge."""
RESTS_WITHIN = 25.0
"""%, of the middle of the range: a stick's own middle lies there, however far it is off."""
RESTS_FOR = 0.1
"""Of a recording: what lies there for less is no rest."""
BACK_SHARE = 0.35
"""Of the jump: as near to where it was it comes back, or to where the stick has moved meanwhile."""
ON_ITS_WAY = 0.25
"""Of a step from one sample to the next: a stick that goes there as fast before it, and away as fast
after it, was pushed to its end and let go."""
PACE_S = 0.02
"""Over which the pace of a stick that moves meanwhile is seen."""
FEWEST_SPIKES = 3
"""From rest to just anywhere and back, by which it is known how high dirt makes them."""
OF_THREE = 0.6745 * sqrt(6.0)
"""The median of what three samples are off a straight line, of the standard deviation of one."""
AS_MANY = 6
"""Jumps to an end or the middle for each of these: more are none that dirt makes by chance, and what
looks like spikes is the stick that a hand moves, seen between two jumps to the middle."""
DEFLECTED = 40.0
MOST_STEPS = 6
"""Of 15 % or more, after a fall, by the last of which it is back: more is no drop but turmoil."""
STANDS, STANDS_S = 3.0, 0.1
"""% that an axis stands within, for so long, that is held."""
STANDS_TIMES = 7.0
"""As many times as it trembles, within which it stands too that does not go by more than that."""
FEWEST_HELD, HELD_SHARE = 3, 0.1
"""Drops, and of so many the share that comes while the axis stands: fewer come from places it moves
over, which are the track's."""
PLACE, AGAIN = 5.0, 1.5
"""%, of the track, that is one place: where an axis that passes jumps so many times for every place,
it is the track that loses its wiper there."""
MEANWHILE = 20.0
"""%, that an axis may have moved from before a jump to after it for that to tell where it was."""
CHANCE_TIMES = 4
"""As many drops to just anywhere as one to the middle, by which that is one of them."""

Span = tuple[int, int]
"""The first sample, and one past the last."""


class Leaps(NamedTuple):
    """What is found in an axis: its jumps, its drops, and what fell like them on its way alone."""

    jumps: list[Span]
    drops: list[Span]
    on_the_way: list[Span]


def find_leaps(t: Floats, came: Unfiltered, resolution: float) -> Leaps:
    """Where an axis jumps and drops: t (n,) seconds, came: as it was before its device's filter,
    resolution: of the converter, %."""
    v, resolution = came.signal, came.error(resolution)
    jumps, edges = _excursions(t, v, resolution), _edges(t, v)
    if edges is None:
        drops = _drops(t, _blanked(v, jumps))
    else:
        sharp = edges.made_steps(v)
        jumps = edges.added(jumps, _excursions(t, sharp, resolution))
        drops = edges.added(_drops(t, _blanked(v, jumps)), _drops(t, _blanked(sharp, jumps)))
    if _at_places(t, v, jumps, drops):
        jumps = []
    if not _while_held(t, v, drops):
        return Leaps(jumps, [], drops)
    chance = _to_the_middle_by_chance(v, jumps, drops)
    jumps = [j for j in jumps if j not in chance]
    if len(jumps) >= FEWEST_LARGE:
        jumps = sorted([*jumps, *_from_a_stand(t, _blanked(v, jumps), resolution)])
    return Leaps(jumps, sorted([*drops, *chance]), [])


def _from_a_stand(t: Floats, v: Floats, resolution: float) -> list[Span]:
    """Where an axis leaves the place it stands in by a leap, is at the middle of its range, and stands
    where it stood after another. NaN where it is known to be elsewhere."""
    leaps = _leaps(t, v, SMALL)
    if not len(leaps):
        return []
    elsewhere = _count(~(np.abs(v) <= max(NEAR, 1.1 * resolution)))

    def back(i: Indices, j: Indices) -> NDArray[np.bool_]:
        at_the_middle = elsewhere[j + 1] == elsewhere[i + 1]
        before, after = np.searchsorted(t, t[i] - STANDS_S), np.searchsorted(t, t[j + 1] + STANDS_S)
        edges = np.column_stack((before, i + 1, j + 1, np.minimum(after, len(t) - 1))).ravel()
        most, least = np.fmax.reduceat(v, edges), np.fmin.reduceat(v, edges)
        # From before to the one leap, and from the other to after, together.
        stands = np.fmax(most[::4], most[2::4]) - np.fmin(least[::4], least[2::4]) <= STANDS
        return np.asarray(at_the_middle & stands)

    return _undone_later(t, leaps, np.arange(len(leaps)), back)


def _to_the_middle_by_chance(v: Floats, jumps: list[Span], drops: list[Span]) -> list[Span]:
    """The jumps to the middle that are drops like the others, where there are far more of those: what
    falls back just anywhere falls to the middle now and then."""
    fallen = [
        (a, b)
        for a, b in jumps
        if abs(v[a - 1]) > DEFLECTED and abs(float(np.median(v[a:b]))) < RESTS_WITHIN
    ]
    return fallen if len(drops) >= CHANCE_TIMES * len(fallen) else []


def _while_held(t: Floats, v: Floats, drops: list[Span]) -> bool:
    """Whether it drops while it stands as well as on its way: on its way alone it falls into rough
    places of the track."""
    if len(drops) < FEWEST_HELD:
        return True
    before = np.array([first for first, _ in drops]) - 1
    return float(_stood_before(t, v, before).mean()) >= HELD_SHARE


def _stood_before(t: Floats, v: Floats, at: Indices) -> NDArray[np.bool_]:
    """At which of these samples (m,) an axis had stood for a moment."""
    first = np.searchsorted(t, t[at] - STANDS_S)
    spans = np.column_stack((first, at + 1)).ravel()
    most, least = np.maximum.reduceat(v, spans)[::2], np.minimum.reduceat(v, spans)[::2]
    half = (at + 1 - first) // 2
    sums = np.append(0.0, np.cumsum(v))
    before, after = sums[first + half] - sums[first], sums[at + 1] - sums[at + 1 - half]
    goes = 2 * np.abs(after - before) / np.maximum(half, 1)
    within = max(STANDS, STANDS_TIMES * _trembles(v))
    return np.asarray((most - least <= STANDS) | ((most - least <= within) & (goes <= STANDS)))


def _at_places(t: Floats, v: Floats, jumps: list[Span], drops: list[Span]) -> bool:
    """Whether it jumps on its way alone, and at the same places again and again, as far as it also
    drops there: there the track loses its wiper, and no joint opens."""
    if not jumps or len(jumps) + len(drops) < FEWEST_HELD:
        return False
    first, last = np.array([*jumps, *drops]).T
    before, back = _left_from(t, v, first), np.minimum(last, len(v) - 1)
    if _stood_before(t, v, before[: len(jumps)]).mean() >= HELD_SHARE:
        return False
    places, ends = 0, -np.inf
    for low, high in _between(v[before], v[back]).tolist():
        if low > ends:
            places, ends = places + 1, high
    return AGAIN * places <= len(first)


def _between(before: Floats, back: Floats) -> Floats:
    """From where to where (m, 2) each of those places lies, in the order of their upper ends: between
    the last sample before and the first one after, which lie far apart on a stick that is let go;
    where it had gone much farther meanwhile, about the place it left from."""
    back = np.where(np.abs(back - before) <= MEANWHILE, back, before)
    middle, half = (before + back) / 2, np.maximum(np.abs(back - before), PLACE) / 2
    return np.column_stack((middle - half, middle + half))[np.argsort(middle + half)]


def _left_from(t: Floats, v: Floats, first: Indices) -> Indices:
    """The last sample (m,) before each of those (m,) where an axis had not left yet, however a filter
    has spread its leap over EDGE_S: what goes another way, or no faster than before, is the stick that
    is moved."""
    at = first - 1
    way = np.sign(v[first] - v[at])
    most = round(EDGE_S / max(usual_of(t), 1e-6)) if len(at) else 0
    long_before, soon_before = np.maximum(at - 2 * most, 0), np.maximum(at - most, 0)
    pace = np.abs(v[soon_before] - v[long_before]) / max(most, 1)
    for _ in range(most):
        before = np.maximum(at - 1, 0)
        leaving = way * (v[at] - v[before]) >= np.maximum(SMALL, SHARPER * pace)
        leaving &= t[first] - t[before] <= EDGE_S
        if not leaving.any():
            break
        at = np.where(leaving, before, at)
    return at


def with_flanks(t: Floats, v: Floats, spans: list[Span]) -> list[Span]:
    """The spans of an axis, with what lies on the way there and on the way back: an average of a few
    samples leaves some on either side that are of neither place."""
    if not spans:
        return []
    first, last = np.array(spans).T
    first_out = _left_from(t, v, first) + 1
    back = len(v) - 1 - _left_from(-t[::-1], v[::-1], len(v) - last)
    return list(zip(first_out.tolist(), back.tolist(), strict=True))


def _blanked(v: Floats, spans: list[Span]) -> Floats:
    """An axis that is nowhere (NaN) in the spans."""
    rest = v.copy()
    for first, last in spans:
        rest[first:last] = np.nan
    return rest


@dataclass(frozen=True, eq=False)
class _Edges:
    """Where an axis goes far within a moment, and hardly at all before and after it. starts (m,): the
    last sample before each; width: how many samples later it is over."""

    starts: Indices
    width: int

    def made_steps(self, v: Floats) -> Floats:
        """The axis with every edge made a step: what lies on it is put where it began or where it
        ended, whichever is nearer."""
        sharp = v.copy()
        on = self.starts[:, None] + np.arange(1, self.width)
        begun, after = v[self.starts][:, None], v[self.starts + self.width][:, None]
        sharp[on] = np.where(np.abs(v[on] - begun) < np.abs(v[on] - after), begun, after)
        return sharp

    def added(self, spans: list[Span], by_steps: list[Span]) -> list[Span]:
        """The spans of the axis as it is, and those found where its edges are steps that lie beside
        them: from before the edge that each begins with to after the one that it ends with."""
        together = list(spans)
        for first, last in by_steps:
            onto = self.starts[(self.starts < first) & (first <= self.starts + self.width)]
            off = self.starts[(self.starts < last) & (last <= self.starts + self.width)]
            a = int(onto[-1]) + 1 if len(onto) else first
            b = int(off[0]) + self.width if len(off) else last
            if not any(a < stop and start < b for start, stop in spans):
                together.append((a, b))
        return sorted(together)


def _edges(t: Floats, v: Floats) -> _Edges | None:
    """The edges that another follows soon, as there and back: None where there are none."""
    usual = usual_of(t)
    width = round(EDGE_S / usual) if usual else 0
    if width < 2 or len(v) <= 3 * width or np.ptp(v) < LEAST_SMOOTHED:
        return None
    change = v[width:] - v[:-width]
    before, at, after = (
        np.abs(w) for w in (change[: -2 * width], change[width:-width], change[2 * width :])
    )
    first, last = runs((at >= LEAST_SMOOTHED) & (at >= SHARPER * (before + after)))
    edge_starts = [a + int(np.argmax(at[a:b])) + width for a, b in zip(first, last, strict=True)]
    starts = np.array(edge_starts, dtype=np.intp)
    starts = starts[t[starts + width] - t[starts] <= 2 * EDGE_S]
    soon = np.diff(t[starts]) <= LONGEST_S + EDGE_S
    starts = starts[np.append(soon, False) | np.append(False, soon)] if len(starts) else starts
    return _Edges(starts, width) if len(starts) else None


def _drops(t: Floats, v: Floats) -> list[Span]:
    """Where an axis falls toward the middle by a jump and is back where it was by another. NaN where
    it is known to be elsewhere."""
    leaps, step = _leaps(t, v), np.diff(v)
    if not len(leaps):
        return []
    size = np.where(np.isnan(v), 0.0, np.abs(v))
    falls = (size[leaps] > DEFLECTED) & (-step[leaps] * np.sign(v[leaps]) >= LEAST)

    def back(i: Indices, j: Indices) -> NDArray[np.bool_]:
        highest = np.maximum.reduceat(size, np.column_stack([i + 1, j + 1]).ravel())[::2]
        share = BACK_SHARE * np.abs(step[i])
        near = _away(t, v, i, j) <= share
        # What was let go and swings past the middle is soon back from there, not where it was.
        falling = (v[i] - v[np.maximum(i - 1, 0)]) * np.sign(step[i])
        let_go = falling >= ON_ITS_WAY * np.abs(step[i])
        let_go &= np.abs(v[j + 1] - v[i]) > share
        return np.asarray(near & ~let_go & (highest <= size[i] - LEAST / 2))

    return _undone_later(t, leaps, np.flatnonzero(falls), back)


def _excursions(t: Floats, v: Floats, resolution: float) -> list[Span]:
    """Where an axis stands at an end or the middle between two jumps, or goes from one of these to
    another. Within one interval of the converter's, and level: a stick that passes there keeps
    moving."""
    leaps, step = _leaps(t, v), np.diff(v)
    if not len(leaps):
        return []
    near, rest = max(NEAR, 1.1 * resolution), _rest(v)
    near = max(near, min(FARTHEST, NEAR_TIMES * _trembles(v)))
    apart = np.ones(len(v), dtype=bool)
    for place in (-100.0, 0.0, rest, 100.0):
        apart &= np.abs(v - place) > near
    elsewhere = _count(apart)

    def back(i: Indices, j: Indices) -> NDArray[np.bool_]:
        smaller = np.minimum(np.abs(step[i]), np.abs(step[j]))
        near = _away(t, v, i, j) <= BACK_SHARE * smaller
        went_there = _on_its_way(t, v, i, i, -1) | _repeated_before(v, i)
        return np.asarray(near & ~(went_there & _on_its_way(t, v, j, j + 1, 1)))

    def stood(i: Indices, j: Indices) -> NDArray[np.int32]:
        return np.asarray(elsewhere[j + 1] - elsewhere[i + 1])

    away = np.flatnonzero(~_returns(t, v, leaps))
    jumps = _undone_later(t, leaps, away, lambda i, j: back(i, j) & (stood(i, j) == 0))
    moving = _count(np.abs(v - rest) >= RESTS_WITHIN)
    before = np.searchsorted(t, t[leaps] - LONGEST_S)
    resting = np.flatnonzero(moving[leaps + 1] == moving[before])
    spikes = _undone_later(t, leaps, resting, lambda i, j: back(i, j) & (stood(i, j) == j - i))
    if len(spikes) < FEWEST_SPIKES or len(jumps) > AS_MANY * len(spikes):
        return jumps
    # A spike from near an end is cut off there, and one from as far as it is high ends at the middle.
    highest = max(abs(float(v[a] - v[a - 1])) for a, _ in spikes)
    return [(a, b) for a, b in jumps if abs(float(v[a] - v[a - 1])) > highest]


def _away(t: Floats, v: Floats, i: Indices, j: Indices) -> Floats:
    """How far from where it was, %, or from where the stick has moved meanwhile, an axis is after it
    leapt at i (m,) and back at j."""
    away = v[j + 1] - v[i]
    moved = (t[j + 1] - t[i]) * (_pace(t, v, i, -1) + _pace(t, v, j + 1, 1)) / 2
    moved = np.where((v[i + 1] - v[i]) * (v[j + 1] - v[j]) < 0, moved, 0.0)
    return np.asarray(np.fmin(np.abs(away), np.abs(away - moved)))


def _returns(t: Floats, v: Floats, leaps: Indices) -> NDArray[np.bool_]:
    """Which of the leaps go back to where the axis was before a row of them began, each soon after the
    one before: it has fallen from there."""
    place = np.arange(len(leaps))
    begins = np.append(True, np.diff(t[leaps]) > LONGEST_S)
    first = np.maximum.accumulate(np.where(begins, place, 0))
    step, home = np.abs(v[leaps + 1] - v[leaps]), v[leaps[first]]
    return np.asarray((first < place) & (np.abs(v[leaps + 1] - home) <= BACK_SHARE * step))


def _count(these: NDArray[np.bool_]) -> NDArray[np.int32]:
    """How many there are before each sample, and in all: (n + 1,)."""
    return np.append(np.int32(0), np.cumsum(these, dtype=np.int32))


def _pace(t: Floats, v: Floats, at: Indices, way: int) -> Floats:
    """How fast an axis goes at samples (m,), % a second: over the moment before them (way −1) or
    after (1)."""
    other = np.searchsorted(t, t[at] + way * PACE_S)
    other = np.clip(other, 0, len(t) - 1)
    took = np.abs(t[other] - t[at])
    return np.asarray(way * (v[other] - v[at]) / np.maximum(took, 1e-6) * (took > 0))


def _on_its_way(t: Floats, v: Floats, stopped: Indices, at: Indices, way: int) -> NDArray[np.bool_]:
    """Whether an axis goes on as it leapt after samples (m,), before it (way −1) or after it (1)."""
    step, took = v[stopped + 1] - v[stopped], t[stopped + 1] - t[stopped]
    return np.asarray(_pace(t, v, at, way) * took * np.sign(step) >= ON_ITS_WAY * np.abs(step))


def _repeated_before(v: Floats, at: Indices) -> NDArray[np.bool_]:
    """Whether an axis said the same three times up to samples (m,): its way there may not have been
    told, as by a receiver that repeats itself while its link is down."""
    return np.asarray((v[at] == v[np.maximum(at - 1, 0)]) & (v[at] == v[np.maximum(at - 2, 0)]))


def _leaps(t: Floats, v: Floats, least: float = LEAST) -> Indices:
    """The last sample before every step of so many % or more from one sample to the next: over those
    that are missing nothing jumps."""
    leaps = np.flatnonzero(np.abs(np.diff(v)) >= least)
    return leaps[t[leaps + 1] - t[leaps] <= GAP_TIMES * usual_of(t)]


def _undone_later(
    t: Floats,
    leaps: Indices,
    starts: Indices,
    back: Callable[[Indices, Indices], NDArray[np.bool_]],
) -> list[Span]:
    """Which of the leaps, by their places among them (m,), are undone by a later one in time: the
    first sample, and one past the last. back: whether what leapt after a sample (m,) is back where it
    was by the leap after another (m,)."""
    until = np.full(len(starts), -1)
    for later in range(1, MOST_STEPS + 1):
        open_ = np.flatnonzero((until < 0) & (starts + later < len(leaps)))
        i, j = leaps[starts[open_]], leaps[starts[open_] + later]
        soon = t[j + 1] - t[i + 1] <= LONGEST_S
        open_, i, j = open_[soon], i[soon], j[soon]
        if not len(i):
            break
        is_back = back(i, j)
        until[open_[is_back]] = j[is_back] + 1
    spans: list[Span] = []
    undone = until >= 0
    for i, end in zip((leaps[starts[undone]] + 1).tolist(), until[undone].tolist(), strict=True):
        if not spans or i > spans[-1][1]:
            spans.append((i, end))
    return spans


def _trembles(v: Floats) -> float:
    """The standard deviation by which an axis (n,) usually trembles from one sample to the next, %, by
    how far three samples are off a straight line, since it is moved meanwhile."""
    at = np.arange(0, len(v) - 2, max(1, len(v) // LOOKED_AT))
    off = np.abs(v[at + 2] - 2 * v[at + 1] + v[at])
    return float(np.median(off)) / OF_THREE if off.size else 0.0


def _rest(v: Floats) -> float:
    """The middle of an axis (n,) that rests beside the middle of its range, %: 0 where it is hardly
    ever near."""
    near = v[np.abs(v) < RESTS_WITHIN]
    return float(np.median(near)) if near.size > RESTS_FOR * len(v) else 0.0
