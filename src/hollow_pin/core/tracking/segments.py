"""What each stretch of a recording looks like: a rest, a push, a hold, laps round the edge, a
crossing.

Whoever recorded a table without the names of steps may have done them in any order, as often as they
liked, and as fast: so each stretch between two rests is judged by itself, and neighbours that look
alike are one step.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.crossing import END_SHARE, from_end_to_end
from hollow_pin.core.geometry import bearing, lengths
from hollow_pin.core.hold import find_holds
from hollow_pin.core.recording import Floats
from hollow_pin.core.rim import turned_in_one_go
from hollow_pin.core.routine import StepName
from hollow_pin.core.statistics import odd_window, running_median, runs, usual_interval
from hollow_pin.core.untouched import SHORTEST_S

NEAR = 25.0
"""% from its usual rest that a stick at rest lies within, however badly it is worn."""
SLOW = 24.0
"""% a second; the slowest crossing that is asked for is faster."""
CALM_S = 0.2
PACE_S = 0.2
LEAST_REST_S = 0.1
LET_GO = 150.0
"""% a second that a stick comes back with when it is let go. One that a hand brings there may be on
its way across, and slow."""
LEAST_BY_HAND_S = 0.4
STOPS_S, LED_ON_S = 2.0, 0.3
"""For how long a hand may stop half way, and in how long it is out on the other side at the soonest:
a push takes less."""
ON_ITS_WAY = 5.0
"""% either side of the middle that it comes from and goes to, where it was carried across."""
PUSHED = 60.0
OUT = 40.0
ROUND_DEG = 300.0
MOSTLY = 0.5
"""Of the time that it is out: on a way round of as many degrees in one go, or where it is held."""
CROSSING = 0.4
"""Of all the time: on its way across, and not on its way there or back."""
HARDLY_CROSSED = 0.2
"""Of all the time, where one side is held after another. Who crosses slowly stays long at the ends."""
AT_EDGE, ASKEW = 85.0, 15.0
"""Where a side is held that another follows, %, and how far off a right angle, degrees."""
STAYS = 10.0
"""% from there that it stays within."""
STRAYS, STRAYS_S = 0.5, 5.0
"""Of the time that it is out, and seconds of it: in no stretch that looks like a step. More than both,
and it is no routine."""
ACROSS = 120.0
ASIDE = 40.0
CROSSING_S = 2.0
LED_S = 0.1
FORWARD = 0.75
"""Of the time that it takes from one end to the other, by one position in `LED_S`: on its way there. A
joint that opens throws it to and fro on the way."""
HELD_S = 1.5
STRAIGHT = 0.9
"""Mean resultant length of the directions of a push or a hold, of 1."""
RETURN_S = 1.75
"""How long after a push its return is looked at."""
BEFORE_S = 0.3


@dataclass(frozen=True)
class Segment:
    """A stretch that looks like one step: samples from start to stop (exclusive). parts: how many
    pushes, holds, turns or crossings are in it."""

    step: StepName
    start: int
    stop: int
    parts: int


def find_segments(t: Floats, u: Floats) -> list[Segment]:
    """Every stretch of a recording of two axes that looks like a step, in time order: t (n,) seconds,
    u (n, 2) %. None where most of what was done is no step, as when somebody plays: some of that looks
    like one by chance."""
    interval = usual_interval(np.diff(t))
    if len(t) < 10 or interval <= 0:
        return []
    window = odd_window(CALM_S, interval, len(t))
    calm = np.column_stack([running_median(v, window, "edge") for v in u.T])
    at_rest = _resting(t, calm, interval)
    if not at_rest:
        return []
    rest = np.median(np.concatenate([calm[a:b] for a, b in at_rest]), axis=0)
    segments: list[Segment] = []
    edges = [(0, 0), *at_rest, (len(t), len(t))]
    for (_, before), (right, _) in pairwise(edges):
        if right - before >= 3:
            step = _looks_like(t[before:right], calm[before:right] - rest)
            if step is not None:
                segments.append(Segment(step, before, right, 1))
    segments_in_order = _still(t, at_rest) + _joined(t, segments)
    strays = lengths(calm - rest) > OUT
    most = max(STRAYS * strays.sum(), STRAYS_S / interval)
    for segment in segments:
        strays[segment.start : segment.stop] = False
    return segments_in_order if strays.sum() <= most else []


def _resting(t: Floats, calm: Floats, interval: float) -> list[tuple[int, int]]:
    """Where the stick is let alone, by its middle and its pace, and how it came there."""
    half = max(1, round(PACE_S / interval / 2))
    ahead = np.minimum(np.arange(len(t)) + half, len(t) - 1)
    behind = np.maximum(np.arange(len(t)) - half, 0)
    took = np.maximum(t[ahead] - t[behind], 1e-6)
    pace = lengths(calm[ahead] - calm[behind]) / took
    slow = (pace < SLOW) & (lengths(calm) < PUSHED)
    middle = np.median(calm[slow], axis=0) if slow.any() else np.zeros(2)
    away = lengths(calm - middle)
    starts, stops = runs(slow & (away < NEAR))
    swift = np.array([pace[behind[a] : a + 1].max() >= LET_GO for a in starts], dtype=bool)
    alone = swift | (starts == 0)
    came_from, end = calm[starts] - middle, calm[stops - 1] - middle
    across = (came_from * end).sum(axis=1) < -(ON_ITS_WAY**2)
    long = t[stops - 1] - t[starts] >= np.where(alone, LEAST_REST_S, LEAST_BY_HAND_S)
    long &= alone | ~across
    long &= alone | ~_are_led_on(t, calm - middle, away > PUSHED, starts, stops)
    rests: list[tuple[int, int]] = []
    for start, stop in zip(starts[long].tolist(), stops[long].tolist(), strict=True):
        # What wanders off by itself and comes back was let alone all the time.
        if rests and away[rests[-1][1] : start].max(initial=0.0) < OUT:
            rests[-1] = (rests[-1][0], stop)
        else:
            rests.append((start, stop))
    return rests


def _are_led_on(
    t: Floats,
    p: Floats,
    is_out: NDArray[np.bool_],
    starts: NDArray[np.intp],
    stops: NDArray[np.intp],
) -> NDArray[np.bool_]:
    """Of stretches (m,) in which a stick, p (n, 2) % from its middle, stays near it: from which it is
    led on to the side across from where it was led there from. is_out (n,): where it is pushed out."""
    out = np.flatnonzero(is_out)
    following = np.searchsorted(out, stops)
    between = (following > 0) & (following < len(out))
    led_on = np.zeros(len(starts), dtype=np.bool_)
    came, goes = out[following[between] - 1], out[following[between]]
    ahead = -(p[came] * p[goes]).sum(axis=1) / (lengths(p[came]) * lengths(p[goes]))
    first, last = starts[between], stops[between] - 1
    led_on[between] = (
        (ahead >= STRAIGHT) & (t[last] - t[first] <= STOPS_S) & (t[goes] - t[last] >= LED_ON_S)
    )
    return led_on


def _looks_like(t: Floats, p: Floats) -> StepName | None:
    """What a stretch between two rests is: p (n, 2) % from the rest. None where it is nothing asked
    for."""
    rho = lengths(p)
    out = rho > OUT
    if rho.max() < PUSHED or out.sum() < 2:
        return None
    # What leaps without coming in was lost by the link.
    stayed_out = np.diff(np.flatnonzero(out)) == 1
    if (turned_in_one_go(p[out], stayed_out) >= ROUND_DEG).mean() >= MOSTLY:
        return "rim"
    angle = np.radians(bearing(p[out, 0], p[out, 1]))
    crossed = 0.0
    for i, step in enumerate(("crossing-x", "crossing-y")):
        low, high = np.percentile(p[:, i], (5, 95))
        across, aside = high - low, np.percentile(np.abs(p[:, 1 - i]), 95)
        is_crossing = across >= ACROSS and aside < ASIDE and t[-1] - t[0] >= CROSSING_S
        crossed = max(crossed, _crossed(t, p[:, i], float(low), float(high)) if is_crossing else 0)
        if crossed >= CROSSING:
            return "crossing-x" if step == "crossing-x" else "crossing-y"
    if float(np.hypot(np.cos(angle).mean(), np.sin(angle).mean())) < STRAIGHT:
        held = crossed < HARDLY_CROSSED and _held_by_sides(t, p) >= MOSTLY * out.sum()
        return "hold" if held else None
    if float(t[out][-1] - t[out][0]) < HELD_S:
        return "let-go"
    stays = lengths(p[out] - np.median(p[out], axis=0)) < STAYS
    return "hold" if stays.mean() >= MOSTLY else None


def _held_by_sides(t: Floats, p: Floats) -> int:
    """How many samples it is held for, toward one side and then toward others at right angles to it or
    across from it, at the edge each time; 0 where it is held elsewhere too, as in a game."""
    holds = find_holds(t, p)
    if len(holds) < 2:
        return 0
    middles = np.array([np.median(p[held], axis=0) for held in holds])
    stays = [
        (lengths(p[held] - middle) < STAYS).mean()
        for held, middle in zip(holds, middles, strict=True)
    ]
    sides = bearing(middles[:, 0], middles[:, 1])
    askew = np.abs((sides - sides[0] + 45.0) % 90.0 - 45.0)
    at_edge = lengths(middles) >= AT_EDGE
    by_sides = min(stays) >= MOSTLY and askew.max() <= ASKEW and at_edge.all()
    return sum(held.stop - held.start for held in holds) if by_sides else 0


def _crossed(t: Floats, v: Floats, low: float, high: float) -> float:
    """The share of the time that it is led from one end to the other, and hardly back."""
    every = max(1, round(LED_S * len(t) / (t[-1] - t[0])))
    crossed = 0
    for part in from_end_to_end(v, END_SHARE * low, END_SHARE * high):
        changes = np.diff(v[part][::every]) * np.sign(v[part][-1] - v[part][0])
        crossed += (part.stop - part.start) * (
            (changes > 0).mean() >= FORWARD if changes.size else 0
        )
    return crossed / len(t)


def _still(t: Floats, at_rest: list[tuple[int, int]]) -> list[Segment]:
    """The longest time it is let alone, where that is long enough."""
    start, stop = max(at_rest, key=lambda r: t[r[1] - 1] - t[r[0]])
    if t[stop - 1] - t[start] < SHORTEST_S:
        return []
    return [Segment("still", start, stop, 1)]


def _joined(t: Floats, found: list[Segment]) -> list[Segment]:
    """Neighbours that look alike, as one; a push with the return after it."""
    joined: list[Segment] = []
    for i, segment in enumerate(found):
        start, stop = segment.start, segment.stop
        if segment.step == "let-go":
            following = found[i + 1].start if i + 1 < len(found) else len(t)
            back = int(np.searchsorted(t, t[stop - 1] + RETURN_S))
            start = int(np.searchsorted(t, t[start] - BEFORE_S))
            stop = min(back, following)
        last = joined[-1] if joined else None
        if last is not None and last.step == segment.step:
            joined[-1] = Segment(segment.step, last.start, stop, last.parts + 1)
        else:
            start = max(start, last.stop) if last is not None else start
            joined.append(Segment(segment.step, start, stop, 1))
    return joined


def steps_of(n: int, segments: list[Segment], codes: dict[StepName, int]) -> NDArray[np.int8]:
    """The step of each of n samples, −1 for none: of each step the stretch with the most in it."""
    step = np.full(n, -1, dtype=np.int8)
    for name, code in codes.items():
        of_it = [s for s in segments if s.step == name]
        if of_it:
            best = max(of_it, key=lambda s: (s.parts, s.stop - s.start))
            step[best.start : best.stop] = code
    return step
