"""Where a pass along a track stands still and then goes on farther along: silences of a link fall
where they will, a place that the track does not report lies where it lies, pass after pass."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, Indices, resolution
from hollow_pin.core.statistics import chance_of, median

MISSING_TIMES = 1.5
"""Usual intervals from which on samples are missing."""
LEAP_TIMES, LEAP_LEAST = 3.0, 1.5
"""Of a pass's usual step, and %, from which on it went farther than it goes."""
SMEARED_S = 0.02
"""How long a filter in the device may take over a leap."""
STOOD = 2
"""Samples, at the least, that it stood still for."""
EXPLAINED = 3.0
"""How much farther than at its pace a pass may have gone in a silence: farther, and it leapt."""
STOOD_SHARE = 0.5
"""Of the time that the way it then went takes at its pace: less, and it leapt."""
SAME_PLACE = 1.0
"""% that both edges of a place may differ by from pass to pass, where the pass goes no coarser."""
BY_CHANCE = 0.05
"""Places of a pass that as many others would share if each went on from just anywhere: of a link that
is late now and then, every pass has many, and two of three some alike."""
MOST = 500
"""In one pass: where it stands still more often, nothing is told by where it does."""


@dataclass(frozen=True, eq=False)
class Standstills:
    """Of one pass. silent (m,): the last samples before it goes on, where the source was silent
    meanwhile. places (k, 2): low and high edges, %, of what it goes over at the same place as most of
    the other passes."""

    silent: Indices
    places: Floats


@dataclass(frozen=True, eq=False)
class _Moves:
    """Where one pass goes on. at (m,): the last samples before. edges (m, 2): from and to, ascending.
    far (m,): farther than it goes, and after as long as that takes. silent (m,): nothing at all was
    reported meanwhile. leaps (k, 2): edges of all that it goes over, whether it stands before or not.
    coarse: how finely a place is known by it, %."""

    at: Indices
    edges: Floats
    far: NDArray[np.bool_]
    silent: NDArray[np.bool_]
    leaps: Floats
    coarse: float


def find_standstills(
    t: Floats, v: Floats, other: Floats | None, passes: list[slice], interval_s: float
) -> list[Standstills]:
    """Of every pass: t (n,) seconds, v (n,) the axis, %, and the other axis, where there is one, of
    the whole step."""
    since = _unchanged_since(v)
    both = since if other is None else np.maximum(since, _unchanged_since(other))
    fine = resolution(v)
    going = [_of_pass(t, v, since, both, p, interval_s, fine) for p in passes]
    steady = []
    far, leaps = [g.edges[g.far] for g in going], [g.leaps for g in going]
    alike = at_one_place(far, [g.coarse for g in going], leaps)
    travel = max((float(np.ptp(v[p])) for p in passes), default=0.0) or 1.0
    for i, (one, times) in enumerate(zip(going, alike, strict=True)):
        same = np.zeros(len(one.at), dtype=bool)
        same[one.far] = (times * 2 > len(going)) & (times >= 2)
        others = [len(e) for j, e in enumerate(leaps) if j != i]
        within = 2 * max(SAME_PLACE, *(g.coarse for g in going)) / travel
        chance = min(within * float(np.mean(others)), 1.0) if others else 0.0
        by_chance = [len(times) * chance_of(k - 1, len(others), chance) for k in times.tolist()]
        same[one.far] &= np.array(by_chance) <= BY_CHANCE
        steady.append(same)
    return [
        Standstills(g.at[g.silent & ~same], g.edges[same])
        for g, same in zip(going, steady, strict=True)
    ]


def _of_pass(
    t: Floats, v: Floats, since: Indices, both: Indices, part: slice, interval_s: float, fine: float
) -> _Moves:
    """since, both (n,): from when on the axis, and both of them, have had the value that they have."""
    before = np.arange(part.start, part.stop - 1)
    step = v[before + 1] - v[before]
    moving = np.abs(step[step != 0])
    usual = median(moving) if moving.size else 0.0
    after = before + 1 + _goes_on(step, LEAP_TIMES * usual, max(1, round(SMEARED_S / interval_s)))
    leap = np.abs(v[after] - v[before])
    took = max(float(t[part.stop - 1] - t[part.start]), 1e-6)
    pace = abs(float(v[part.stop - 1] - v[part.start])) / took

    def stood(start: Indices) -> NDArray[np.bool_]:
        long_enough = (t[after] - t[start[before]]) * pace >= STOOD_SHARE * leap
        return np.asarray(long_enough & (missing | (before - start[before] >= STOOD)))

    missing = t[before + 1] - t[before] > MISSING_TIMES * interval_s
    leapt = leap > max(LEAP_TIMES * usual, LEAP_LEAST)
    far = leapt & stood(since)
    in_time = leap <= EXPLAINED * pace * (t[after] - t[before]) + usual
    silent = (missing & in_time) | (far & stood(both))
    at = np.flatnonzero(missing | far)
    edges = np.sort(np.column_stack((v[before], v[after])), axis=1)
    leaps = edges[far | (leapt & ~missing)]
    return _Moves(at, edges[at], far[at], silent[at], leaps, usual + fine)


def _goes_on(step: Floats, least: float, most: int) -> Indices:
    """For how many samples more after each step (m,), at most, a pass goes on the same way, each by
    more than so much: what a filter leaves of a leap for the next sample is one itself."""
    on = np.ones(len(step), dtype=bool)
    times = np.zeros(len(step), dtype=np.intp)
    for k in range(1, min(most, len(step) - 1) + 1):
        on[-k:] = False
        on[:-k] &= step[k:] * np.sign(step[:-k]) > least
        times += on
    return times


def _unchanged_since(v: Floats) -> Indices:
    """From which sample on each of (n,) has had the value that it has."""
    changed = np.append(True, v[1:] != v[:-1])
    return np.maximum.accumulate(np.where(changed, np.arange(len(v)), 0))


def at_one_place(
    edges: list[Floats], coarse: list[float], among: list[Floats] | None = None
) -> list[NDArray[np.intp]]:
    """By how many of the passes each of a pass's places is had, its own among them. edges (m, 2) of
    each pass, %; coarse: how finely its places are known, %. among: the places of each pass that they
    may be alike, where that is not the same. By its own alone where there are so many that they would
    lie alike by chance."""
    among = among or edges
    times = [np.ones(len(e), dtype=np.intp) for e in edges]
    if max((len(e) for e in among), default=0) > MOST:
        return times
    for i, own in enumerate(edges):
        for j, other in enumerate(among):
            if j != i:
                within = max(SAME_PLACE, coarse[i], coarse[j])
                apart = np.abs(own[:, None] - other).max(axis=2)
                times[i] += (apart <= within).any(axis=1)
    return times
