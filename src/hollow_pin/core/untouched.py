"""What of a Still is the stick's own: from when its source had heard of it, without the pushes and the
touches of a hand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hollow_pin.core.geometry import lengths
from hollow_pin.core.recording import Floats
from hollow_pin.core.release import PUSHED
from hollow_pin.core.statistics import centres, runs, seconds_of

SHORTEST_S = 5.0
BEFORE_PUSH_S, AFTER_PUSH_S = 0.5, 1.0
"""What lies around a push that is in a Still is no rest either: the way out, and the way back."""
NEAR_REST, OUT_S = 20.0, 0.012
"""A hand takes so long from as near its rest as this, %, to a push, and is seen on its way; what is
quicker jumped there."""

HAND_S, HAND_BLOCK_S, BESIDE_S = 0.75, 0.05, 10.0
"""A hand is off the stick within so many seconds of when Still begins, and comes back to it as long
before it ends: by blocks as long as the second, against the seconds beside them."""
LEAST_LEAVING, LEAVING_TIMES = 0.3, 6.0
"""So far from its rest it has the stick, %, and as many times as far as the rest lies about."""

FEWEST_UNHEARD = 3
"""Samples that say what a source says that has not heard from its device yet."""
STAYS_S = 0.25
"""An axis that leaps from there to where it lies stays there for so long."""
LEAST_LEAP, LEAP_SHARE = 1.0, 0.33
"""% that it leaps, and of that how far it may go about meanwhile."""

TOUCH_BLOCK_S = 0.1
HEARD_SHARE = 0.5
"""Of the usual samples of such a block: one of fewer, where a link dropped out, is no centre of what
trembles."""
LEAST_TOUCH, TOUCH_TIMES = 2.5, 8.0
"""A touch goes as far as this at least, %, and as many times as far as the rest lies about."""
MOST_TOUCHES, MOST_TOUCHED = 2, 0.34
"""As many as a hand may do in a Still, and the share of it that they take: what is away oftener, or
longer, wanders."""


def unheard(t: Floats, u: Floats, steps: Sequence[float]) -> int:
    """How many samples at the beginning of a Still its source made up, of times t (n,), positions u
    (n, k), % of half range, and each axis's smallest step, %: until the first report from a device
    comes, it stands at the middle of its range, or at the lower end, to the last digit. From there an
    axis leaps to where the stick lies, stays, and is never there again."""
    made_up = 0
    for v, step in zip(u.T, steps, strict=True):
        first = int((v != v[0]).argmax())
        leap = abs(float(v[first] - v[0]))
        if first < FEWEST_UNHEARD or leap < LEAST_LEAP or -100.0 < v[0] < -step or v[0] > step:
            continue
        stays = v[first : np.searchsorted(t, t[first] + STAYS_S)]
        back = np.abs(v[first:] - v[0]) < leap / 2
        if np.ptp(stays) <= LEAP_SHARE * leap and not back.any():
            made_up = max(made_up, first)
    return made_up


def left_alone(t: Floats, u: Floats) -> slice:
    """The longest stretch of a Still without a push in it, of times t (n,) and positions u (n, k), %:
    where it was begun while somebody still held the stick, or ended late. All of it where nobody
    pushed, where what went out there jumped, and where less than 5 s would be left."""
    whole = slice(0, len(t))
    if not len(t) or float(np.ptp(u, axis=0).max()) <= NEAR_REST:
        return whole
    rho = lengths_from(u, np.median(u, axis=0))
    pushes = [
        (float(t[a]) - BEFORE_PUSH_S, float(t[b - 1]) + AFTER_PUSH_S)
        for a, b in zip(*runs(rho > NEAR_REST), strict=True)
        if _pushed(t, rho, int(a), int(b))
    ]
    if not pushes:
        return whole
    began = [float(t[0]), *(after for _, after in pushes)]
    ends = [*(before for before, _ in pushes), float(t[-1])]
    lasted = np.subtract(ends, began)
    longest = int(lasted.argmax())
    if lasted[longest] < SHORTEST_S:
        return whole
    first = int(np.searchsorted(t, began[longest]))
    return slice(first, int(np.searchsorted(t, ends[longest], side="right")))


def between_hands(t: Floats, u: Floats) -> slice:
    """A Still, of times t (n,) and positions u (n, k), %, without the moments at its beginning and end
    in which a hand still leaves the stick, or takes it already. All of it where less than 5 s would be
    left."""
    if not len(t) or t[-1] - t[0] < SHORTEST_S:
        return slice(0, len(t))
    first = _still_held(t - t[0], u)
    stop = len(t) - _still_held((t[-1] - t)[::-1], u[::-1])
    if first >= stop or t[stop - 1] - t[first] < SHORTEST_S:
        return slice(0, len(t))
    return slice(first, stop)


def _still_held(t: Floats, u: Floats) -> int:
    """How many of the first samples a hand has to do with: it lies away from where it lies then, and
    comes there in time."""
    beside = slice(0, int(np.searchsorted(t, BESIDE_S, side="right")))
    if beside.stop < 2:
        return 0
    starts, stop = seconds_of(t[beside], HAND_BLOCK_S)
    blocks = np.column_stack([centres(v[:stop], starts) for v in u[beside].T])
    away = lengths_from(blocks, np.median(blocks, axis=0))
    off = away > max(LEAST_LEAVING, LEAVING_TIMES * 1.4826 * float(np.median(away)))
    there = int((~off).argmax())
    if not off[0] or off.all() or t[starts[there]] > HAND_S:
        return 0
    # The block in which it arrives is half its own.
    return int(starts[min(there + 1, len(starts) - 1)])


def _pushed(t: Floats, rho: Floats, first: int, stop: int) -> bool:
    """Whether a hand held the stick over samples that lie away from its rest: as far as for a push,
    and it took its time to get there; or it was on its way to one, or back, for half a second at the
    most, when Still ended or began."""
    far = np.flatnonzero(rho[first:stop] > PUSHED)
    cut = first == 0 or stop == len(rho)
    if not far.size:
        return cut and stop - first > 1 and float(t[stop - 1] - t[first]) <= BEFORE_PUSH_S
    if first == 0:
        return True
    return far[0] > 0 and float(t[first + far[0]] - t[first - 1]) >= OUT_S


def touches(t: Floats, u: Floats) -> list[float]:
    """How far from its rest the stick went in each of what looks like touches, %: from the rest and
    back to it, seldom, while it lies calm otherwise, and not in a jump, which no hand makes. Times t
    (n,) in seconds, positions u (n, k) in %. Empty where there is none, or it moves too much by itself
    for one to be told.
    """
    starts, stop = seconds_of(t, TOUCH_BLOCK_S)
    blocks = np.column_stack([centres(v[:stop], starts) for v in u.T])
    ends = np.append(starts[1:], stop)
    heard = ends - starts >= HEARD_SHARE * np.median(ends - starts)
    starts, ends, blocks = starts[heard], ends[heard], blocks[heard]
    away = lengths_from(blocks, np.median(blocks, axis=0))
    least = max(LEAST_TOUCH, TOUCH_TIMES * 1.4826 * float(np.median(away)))
    first, last = runs(away > least / 2)
    if not first.size:
        return []
    far = np.array([away[a:b].max() for a, b in zip(first, last, strict=True)])
    is_far = far > least
    lasted = float((last - first)[is_far].sum()) / len(away)
    between = (first[is_far] > 0) & (last[is_far] < len(away))
    if (
        not is_far.any()
        or is_far.sum() > MOST_TOUCHES
        or lasted > MOST_TOUCHED
        or not between.all()
    ):
        return []
    rho = lengths_from(u, np.median(blocks, axis=0))
    for a, b in zip(first[is_far] - 1, last[is_far], strict=True):
        part = slice(int(starts[a]), int(ends[b]))
        if _jumped(t[part], rho[part]):
            return []
    return [float(f) for f in far[is_far]]


def _jumped(t: Floats, rho: Floats) -> bool:
    """Whether what goes out and comes back, distances rho (n,) from the rest at times t (n,), does one
    or the other sooner than a hand can. Of reports too far apart nobody can tell: it did not."""
    most = float(np.quantile(rho, 0.9))
    near, out = np.flatnonzero(rho < most / 4), np.flatnonzero(rho > most * 3 / 4)
    if not near.size or not out.size:
        return False
    before, after = near[near < out[0]], near[near > out[-1]]
    ways = [
        (float(t[out[0]] - t[before[-1]]) if before.size else OUT_S),
        (float(t[after[0]] - t[out[-1]]) if after.size else OUT_S),
    ]
    return min(ways) < OUT_S and float(np.median(np.diff(t))) < OUT_S / 2


def lengths_from(u: Floats, rest: Floats) -> Floats:
    """Distances of positions (n, k) from a rest (k,)."""
    return lengths(u - rest) if u.shape[1] == 2 else np.abs(u[:, 0] - rest[0])
