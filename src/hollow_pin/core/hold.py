"""Hold: full deflection, kept still by hand. A track that fails away from the centre falls back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from hollow_pin.core.geometry import bearing, lengths, sector
from hollow_pin.core.recording import Floats, NotUsable, Problem
from hollow_pin.core.statistics import baseline, centre, runs, theil_sen, timing

SAG = "hold.sag"
OUT = 40.0
SHORTEST_S = 1.5
BRIDGED_S = 0.3
TRIMMED_S = 0.25
THERE_WITHIN, LIES_S = 5.0, 0.1
"""A stick that is pushed out is there within so much of where it is held as a rule, %, and read from
so long after it."""
ASIDE = float(np.cos(np.pi / 4))
STANDS_S, STANDS_WITHIN = 0.2, 1.0
"""What falls by less over so long, %, stands where it fell to."""
DROPPED_BY = 15.0
SAG_S = 3.0
WANTED = 4
"""Sides of a stick of two axes; half as many of one."""
SLOPE_POINTS = 200
FEWEST = 8
"""Samples that a hold is read from at least: a stalled source may leave two."""


@dataclass(frozen=True)
class Hold:
    """One hold, % of half range along its direction. sag: how far it falls back in 3 s. t_s and end_s
    are seconds from the start of the recording."""

    t_s: float
    end_s: float
    bearing: float
    level: float
    sag: float
    hold_jitter: float
    dropouts: int


def held_min(holds: tuple[Hold, ...]) -> float:
    """How long all of them together were held, in minutes."""
    return sum(h.end_s - h.t_s for h in holds) / 60.0


def by_direction(holds: Sequence[Hold]) -> list[list[Hold]]:
    """Holds toward the same of eight directions together."""
    together: dict[int, list[Hold]] = {}
    for hold in holds:
        together.setdefault(sector(hold.bearing), []).append(hold)
    return list(together.values())


def sags_most(holds: Sequence[Hold]) -> Hold:
    """The hold whose sag counts: of each direction the one that falls back least, since a hand can
    give way and cannot push a track back; of these the one that does most. holds: one or more."""
    return max((min(d, key=_sag) for d in by_direction(holds)), key=_sag)


def _sag(hold: Hold) -> float:
    return hold.sag


@dataclass(frozen=True, eq=False)
class HoldResult:
    """The readings, and the blocks they were read from: for each hold its times (m,) and its
    positions along itself (m,), at most 200 blocks' medians. dropped_s: when each dropout began."""

    readings: tuple[Hold, ...]
    blocks: tuple[tuple[Floats, Floats], ...]
    dropped_s: Floats
    problems: tuple[Problem, ...]


def find_holds(t: Floats, p: Floats) -> list[slice]:
    """Stretches of 1.5 s or more with ρ > 40, gaps under 0.3 s bridged, toward one side, 0.25 s off at
    each end, of eight samples or more; of one that was pushed out slowly, from 0.1 s after it was
    there, and 1.5 s from 0.15 s before that; likewise of one that left slowly. t (n,) seconds, p
    (n, 2) %."""
    holds = []
    for a, b in _toward_one_side(t, p):
        toward = _direction(p[a:b])
        along = p[a:b] @ toward
        held = along >= np.median(along) - THERE_WITHIN
        there, gone = int(np.argmax(held)), len(held) - 1 - int(np.argmax(held[::-1]))
        began, end = max(float(t[a]), float(t[a + there]) + LIES_S - TRIMMED_S), float(t[b - 1])
        if _leaves(t[a + gone : b], along[gone:]):
            end = min(end, float(t[a + gone]) - LIES_S + TRIMMED_S)
        if end - began >= SHORTEST_S:
            first = int(np.searchsorted(t, began + TRIMMED_S))
            last = int(np.searchsorted(t, end - TRIMMED_S, side="right"))
            if last - first >= FEWEST and t[last - 1] > t[first]:
                holds.append(slice(first, last))
    return holds


def _direction(p: Floats) -> Floats:
    """The unit vector (2,) toward the middle of some positions (n, 2)."""
    toward = centre(p)
    return np.asarray(toward / max(float(np.hypot(*toward)), 1e-9))


def _toward_one_side(t: Floats, p: Floats) -> Iterator[tuple[int, int]]:
    """Starts and stops of what is out and stays within 45° of where it went at first: who holds one
    side after another does not always let go in between, nor pass the middle slowly."""
    rho = lengths(p)
    starts, stops = runs(rho > OUT)
    if not starts.size:
        return
    ways = p / np.maximum(rho, 1e-9)[:, None]
    apart = t[starts[1:]] - t[stops[:-1] - 1] >= BRIDGED_S
    starts = starts[np.concatenate(([True], apart))]
    stops = stops[np.concatenate((apart, [True]))]
    for a, b in zip(starts.tolist(), stops.tolist(), strict=True):
        start = a
        while start < b:
            until = int(np.searchsorted(t, t[start] + SHORTEST_S, side="right"))
            off, back = runs(ways[start:b] @ _direction(p[start : min(until, b)]) < ASIDE)
            long = t[start + back - 1] - t[start + off] >= BRIDGED_S
            first, last = (off[long][0], back[long][0]) if long.any() else (b - start, b - start)
            if first > 0:
                yield start, start + int(first)
            # What begins elsewhere is the way to where it goes.
            start += int(first) or int(last)


def _leaves(t: Floats, along: Floats) -> bool:
    """Whether it goes on falling from its first sample to its last: a hand that lets it back. A track
    that fails falls, and stands there. t (n,) seconds, along (n,) %."""
    later = np.searchsorted(t, t + STANDS_S)
    there = later < len(t)
    return bool((along[there] - along[later[there]] > STANDS_WITHIN).all())


def measure_hold(t: Floats, u: Floats) -> HoldResult:
    """Measure holds at full deflection: t (n,) seconds, u (n, k) %, k = 1 or 2.

    Raises NotUsable when nothing was held for 1.5 s.
    """
    p = u if u.shape[1] == 2 else np.column_stack((u, np.zeros(len(u))))
    holds = find_holds(t, p) if len(t) else []
    if not holds:
        raise NotUsable(
            "no-holds",
            "nothing was held at the edge for 1.5 s. Push to the edge and keep it there.",
        )
    pace = timing(t)
    interval = pace.interval_s if pace else 1.0
    holds_measured = [_measure_one(t[part], p[part], interval) for part in holds]
    enough = WANTED if u.shape[1] == 2 else WANTED // 2
    problems = []
    if len(holds) < enough:
        problems.append(
            Problem("hold", "holds", f"{len(holds)} of {enough} directions were held long enough.")
        )
    return HoldResult(
        tuple(hold for hold, _, _ in holds_measured),
        tuple(blocks for _, blocks, _ in holds_measured),
        np.concatenate([dropped for _, _, dropped in holds_measured]),
        tuple(problems),
    )


def _measure_one(
    t: Floats, p: Floats, interval: float
) -> tuple[Hold, tuple[Floats, Floats], Floats]:
    toward = _direction(p)
    along = p @ toward
    level = float(centre(along))
    residual = along - baseline(along, interval)
    block_t, block = _blocks(t, along)
    dropped, _ = runs(along < level - DROPPED_BY)
    hold = Hold(
        t_s=float(t[0]),
        end_s=float(t[-1]),
        bearing=float(bearing(*toward)),
        level=level,
        sag=-theil_sen(block_t, block) * SAG_S,
        hold_jitter=float(residual.std()),
        dropouts=int(dropped.size),
    )
    return hold, (block_t, block), t[dropped]


def _blocks(t: Floats, along: Floats) -> tuple[Floats, Floats]:
    """At most 200 medians of equally many samples each, and their times."""
    size = -(-len(t) // SLOPE_POINTS)
    whole = len(t) // size * size
    shape = (-1, size)
    times = t[:whole].reshape(shape).mean(axis=1)
    return np.asarray(times), np.asarray(np.median(along[:whole].reshape(shape), axis=1))
