"""Where a pass along a track stands still and then goes on farther along: silences of a link fall
where they will, a place that the track does not report lies where it lies, pass after pass."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, Indices, resolution

MISSING_TIMES = 1.5
"""Usual intervals from which on samples are missing."""
LEAP_TIMES, LEAP_LEAST = 3.0, 1.5
"""Of a pass's usual step, and %, from which on it went farther than it goes."""
STOOD = 2
"""Samples, at the least, that it stood still for."""
STOOD_SHARE = 0.5
"""Of the time that the way it then went takes at its pace: less, and it leapt."""
SAME_PLACE = 1.0
"""% that both edges of a place may differ by from pass to pass, where the pass goes no coarser."""
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
class _Going:
    """Where one pass goes on. at (m,): the last samples before. edges (m, 2): from and to, ascending.
    far (m,): farther than it goes, and after as long as that takes. silent (m,): nothing at all was
    reported meanwhile. coarse: how finely a place is known by it, %."""

    at: Indices
    edges: Floats
    far: NDArray[np.bool_]
    silent: NDArray[np.bool_]
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
    steady = [_at_one_place(i, going) for i in range(len(going))]
    return [
        Standstills(g.at[g.silent & ~same], g.edges[same])
        for g, same in zip(going, steady, strict=True)
    ]


def _of_pass(
    t: Floats, v: Floats, since: Indices, both: Indices, part: slice, interval_s: float, fine: float
) -> _Going:
    """since, both (n,): from when on the axis, and both of them, have had the value that they have."""
    before, after = np.arange(part.start, part.stop - 1), np.arange(part.start + 1, part.stop)
    leap = np.abs(v[after] - v[before])
    moving = leap[leap > 0]
    usual = float(np.median(moving)) if moving.size else 0.0
    took = max(float(t[part.stop - 1] - t[part.start]), 1e-6)
    pace = abs(float(v[part.stop - 1] - v[part.start])) / took

    def stood(start: Indices) -> NDArray[np.bool_]:
        long_enough = (t[after] - t[start[before]]) * pace >= STOOD_SHARE * leap
        return np.asarray(long_enough & (missing | (before - start[before] >= STOOD)))

    missing = t[after] - t[before] > MISSING_TIMES * interval_s
    far = (leap > max(LEAP_TIMES * usual, LEAP_LEAST)) & stood(since)
    silent = missing | (far & stood(both))
    at = np.flatnonzero(missing | far)
    edges = np.sort(np.column_stack((v[before[at]], v[after[at]])), axis=1)
    return _Going(at, edges, far[at], silent[at], usual + fine)


def _unchanged_since(v: Floats) -> Indices:
    """From which sample on each of (n,) has had the value that it has."""
    changed = np.append(True, v[1:] != v[:-1])
    return np.maximum.accumulate(np.where(changed, np.arange(len(v)), 0))


def _at_one_place(which: int, going: list[_Going]) -> NDArray[np.bool_]:
    """Which of a pass's standstills lie where more than half of the passes have one."""
    own = going[which]
    same = np.zeros(len(own.at), dtype=bool)
    if max(int(g.far.sum()) for g in going) > MOST:
        return same
    times = np.ones(int(own.far.sum()), dtype=int)
    for i, other in enumerate(going):
        if i != which:
            within = max(SAME_PLACE, own.coarse, other.coarse)
            apart = np.abs(own.edges[own.far][:, None] - other.edges[other.far]).max(axis=2)
            times += (apart <= within).any(axis=1)
    same[own.far] = (times * 2 > len(going)) & (times >= 2)
    return same
