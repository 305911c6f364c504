"""How far each axis goes in all the steps in which it is to move by itself, and axes without a signal:
what stays where it is, or goes where the other axis goes.

An open joint, trace, plug or ribbon does that, or a dead sensor. The input then lies at an end or in
the middle, or, left open, takes over what was converted just before it: the other axis. A track that
is broken does it on one side.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AXES, Floats, Recording
from hollow_pin.core.statistics import runs
from hollow_pin.core.words import percent

TRAVEL_LEAST = 10.0
"""% that an axis must go over by itself; a whole way is 200."""
SIDE_LEAST = 20.0
"""% that it must go to either side."""
FAR_SHORTER = 0.9
"""Of the next, up to which a side that leaves no rim is not reached."""
MOVED_LEAST = 60.0
"""% that the other must go over in a step that moves both, and each other side be reached to: then it
was the axis that did not move, and not the hand."""
STEP_LEAST_S = 2.0
FEWEST_STEPS = 2
"""In which an axis is to move: one may have been passed over."""
MOST = 0.005
"""Of the samples, at either end, that are not looked at."""
HOLE, HOLE_SHARE = 25.0, 0.002
"""Where as many % of the way have fewer of the samples, an axis was not moved over them: what lies
beyond, it has jumped to."""
STANDS, AWAY, LOST_S = 3.0, 20.0, 10.0
"""An axis that lies within so many %, as far from where it rests, for as many seconds, through more
than one step and while the other is moved, is lost: a thumb that holds it out moves neither."""
ADRIFT, MIDDLE = 1.5, 0.8
"""How many times as far as in Still an axis must be about while it is moved, by the middle share of
its samples, or go in a moment."""
SWIFT_S, MOST_SWIFT = 0.25, 0.01
"""In which a push or a lap takes an axis far, and the share of the samples from which on it does; what
drifts by itself goes no farther in it than it does in Still."""
AT_AN_END = 95.0
"""% from which on an axis is said to lie at an end."""
BOTH = ("let-go", "rim")
"""The steps that move both axes."""
ALONE = ("let-go", "crossing-x", "hold", "turn")
"""The steps that move a single one."""


@dataclass(frozen=True)
class Silent:
    """An axis without a signal of its own, or without one to a side. how: it stays where it is, goes
    along with the other, drifts as much while it is left alone, or stops short of a side. at: where it
    stays or stops, or its middle, %. from_s, to_s: when, in seconds from the start of the recording,
    where it was not all the time."""

    axis: Literal["x", "y"]
    how: Literal["stays", "follows", "drifts", "stops"]
    at: float
    side: Literal["low", "high"] | None = None
    from_s: float | None = None
    to_s: float | None = None

    @property
    def words(self) -> str:
        """What is said of it."""
        other = "y" if self.axis == "x" else "x"
        if self.how == "stops":
            out = max(0.0, self.at if self.side == "high" else -self.at)
            return (
                f"{self.axis} stops: toward its {self.side} end it comes no farther than "
                f"{percent(out)}, where every other end is reached"
            )
        where = f"its {'high' if self.at > 0 else 'low'} end"
        does = {
            "stays": f"stays at {where if abs(self.at) > AT_AN_END else percent(self.at)}",
            "follows": f"goes along with {other}, and nowhere by itself",
            "drifts": "drifts by itself, moved or not",
        }[self.how]
        if self.from_s is not None:
            when = f"from {self.from_s:.0f} to {self.to_s:.0f} s"
            return f"{self.axis} gives no signal {when}: it {does}"
        while_moved = f" while {other} moves" if self.how == "stays" else ""
        return f"{self.axis} gives no signal: it {does}{while_moved}"


@dataclass(frozen=True, eq=False)
class Travel:
    """How far a stick was moved, %. ends (k, 2): the lowest and the highest place that each axis was
    at in the steps that move it, but for a sample here and there; reached (k, 2): that there is a way
    to, and not a jump; both (k, 2): in the steps that move both axes, None where there is none. adrift
    (k,): whether it is as far about in Still, or as slow. recording: which of it."""

    recording: Recording
    ends: Floats
    reached: Floats
    both: Floats | None
    adrift: NDArray[np.bool_]

    @property
    def silent(self) -> tuple[Silent, ...]:
        """The axes that say nothing of themselves: all of them where nothing moved at all."""
        still = [
            Silent("y" if i else "x", "stays", float(self.ends[i].mean()))
            for i in np.flatnonzero(np.ptp(self.ends, axis=1) < TRAVEL_LEAST)
        ]
        if len(still) == len(self.ends) or len(self.ends) == 1:
            return tuple(still)
        if self.both is None or np.ptp(self.both, axis=1).max() < MOVED_LEAST:
            return ()
        if not still and self.adrift.sum() == 1:
            i = int(np.argmax(self.adrift))
            return (Silent("y" if i else "x", "drifts", float(self.ends[i].mean())),)
        return (
            tuple(still)
            or _going_along(self.recording)
            or self._one_sided(SIDE_LEAST)
            or _lost(self.recording)
        )

    @property
    def far_shorter(self) -> tuple[Silent, ...]:
        """The side of an axis that it is brought to by far less than to the next, where it goes far
        less than the other axis as well: one that is off centre goes as far, and elsewhere."""
        goes = np.ptp(self.reached, axis=1)
        if len(goes) < 2 or goes.min() >= FAR_SHORTER * goes.max():
            return ()
        return self._one_sided(FAR_SHORTER * float(np.sort(self._out, axis=None)[1]))

    @property
    def _out(self) -> Floats:
        """How far each side is reached, (k, 2), %."""
        return np.maximum(self.reached * (-1, 1), 0.0)

    def _one_sided(self, least: float) -> tuple[Silent, ...]:
        """One side of one axis that it is not brought to by as much, %, where it is to all others."""
        short = np.argwhere(self._out < least)
        if len(short) != 1 or np.sort(self._out, axis=None)[1] < MOVED_LEAST:
            return ()
        axis, side = short[0]
        stops = float(self.reached[axis, side])
        return (Silent("y" if axis else "x", "stops", stops, "high" if side else "low"),)


def travel_of(recording: Recording) -> Travel | None:
    """How far a stick was moved; None where too little was done for that to be seen."""
    axes = recording.axes
    if len(axes) == 1:
        own = [_parts(recording, ALONE)]
    else:
        own = [_parts(recording, (*BOTH, "hold", f"crossing-{a}"), FEWEST_STEPS) for a in axes]
    if not all(own):
        return None
    moved = [_sorted(recording, i, parts) for i, parts in enumerate(own)]
    rest, both = _parts(recording, ("still",)), _parts(recording, BOTH)
    k = range(len(axes))
    alone = [_between(_sorted(recording, i, rest), MIDDLE) if rest else 0.0 for i in k]
    return Travel(
        recording,
        np.array([_ends(v) for v in moved]),
        np.array([_way(v) for v in moved]),
        np.array([_ends(_sorted(recording, i, both)) for i in k]) if both else None,
        (np.array([_between(v, MIDDLE) for v in moved]) <= ADRIFT * np.array(alone))
        | _slow(recording, both),
    )


def _slow(recording: Recording, both: list[slice]) -> NDArray[np.bool_]:
    """Which axis goes hardly farther in a moment than in Still, in the steps that move both and where
    the other goes far, (k,)."""
    moved, rest = _swift(recording, both), _swift(recording, _parts(recording, ("still",)))
    if moved is None or rest is None or moved.shape[1] < 2:
        return np.zeros(recording.u.shape[1], dtype=bool)
    slow = _at(moved, (1.0 - MIDDLE) / 2) <= ADRIFT * _at(rest, (1.0 - MIDDLE) / 2)
    return np.asarray(slow & (_at(moved, MOST_SWIFT)[::-1] >= MOVED_LEAST))


def _swift(recording: Recording, parts: list[slice]) -> Floats | None:
    """How far each axis goes in a moment, in order, (m, k) %; None where nothing lasted so long."""
    leaps: list[Floats] = []
    for part in parts:
        t, u = recording.t[part], recording.u[part]
        later = np.searchsorted(t, t + SWIFT_S)
        began = np.flatnonzero(later < len(t))
        leaps.append(np.abs(u[later[began]] - u[began]))
    return np.sort(np.concatenate(leaps), axis=0) if sum(map(len, leaps)) else None


def _at(leaps: Floats, share: float) -> Floats:
    """What that share of values (m, k) in order are beyond, (k,)."""
    return np.asarray(leaps[round((1.0 - share) * (len(leaps) - 1))])


def _parts(recording: Recording, steps: tuple[str, ...], fewest: int = 1) -> list[slice]:
    """Where any of these steps lie; empty where fewer of them were done, and for long."""
    t = recording.t
    parts_done = [
        parts
        for step in steps
        if (parts := recording.attempts(step))
        and sum(float(t[p.stop - 1] - t[p.start]) for p in parts) >= STEP_LEAST_S
    ]
    return [part for parts in parts_done for part in parts] if len(parts_done) >= fewest else []


def _of(recording: Recording, axis: int, parts: list[slice]) -> Floats:
    """Where an axis was in parts of a recording, %."""
    return np.concatenate([recording.u[part, axis] for part in parts])


def _sorted(recording: Recording, axis: int, parts: list[slice]) -> Floats:
    """The same, the lowest first."""
    return np.sort(_of(recording, axis, parts))


def _ends(v: Floats) -> Floats:
    """The lowest and the highest of values (n,) in order, but for a sample here and there."""
    n = len(v) - 1
    return v[[round(MOST * n), round((1.0 - MOST) * n)]]


def _between(v: Floats, share: float) -> float:
    """How far the middle share of values (n,) in order lies about, %."""
    n, out = len(v) - 1, (1.0 - share) / 2
    return float(v[round((1.0 - out) * n)] - v[round(out * n)])


def _way(v: Floats) -> Floats:
    """The ends of values (n,) in order, as far as there is a way from their middle to them."""
    middle = float(v[len(v) // 2])
    ends = []
    for way in (-1, 1):
        out = (way * (v - middle))[::way]
        starts = np.arange(0.0, out[-1] - HOLE, HOLE / 5)
        inside = np.searchsorted(out, starts + HOLE) - np.searchsorted(out, starts)
        empty = np.flatnonzero(inside < HOLE_SHARE * len(v))
        reached = out[out <= starts[empty[0]]] if empty.size else out
        ends.append(middle + way * float(_ends(reached)[1]))
    return np.array(ends)


def _going_along(recording: Recording) -> tuple[Silent, ...]:
    """Of two axes that go as one, the one whose own crossing moves nothing, or that goes less far."""
    moved = _parts(recording, (*BOTH, "crossing-x", "crossing-y"), FEWEST_STEPS)
    if not moved:
        return ()
    x, y = _of(recording, 0, moved), _of(recording, 1, moved)
    centre = x.mean()
    slope = float((x - centre) @ y / ((x - centre) @ x))
    if np.ptp(_ends(np.sort(y - slope * x))) >= TRAVEL_LEAST:
        return ()
    crossed = [_parts(recording, (f"crossing-{axis}",)) for axis in AXES]
    goes = [
        float(np.ptp(_ends(_sorted(recording, i, parts)))) if parts else 0.0
        for i, parts in enumerate(crossed)
    ]
    if max(goes) < MOVED_LEAST or min(goes) >= TRAVEL_LEAST:
        goes = [float(np.ptp(_ends(np.sort(v)))) for v in (x, y)]
    at = float(np.median(y if goes[0] >= goes[1] else x))
    return (Silent("x" if goes[0] < goes[1] else "y", "follows", at),)


def _lost(recording: Recording) -> tuple[Silent, ...]:
    """An axis that lies for long where it does not rest, while the other is moved."""
    t, rest = recording.t, _parts(recording, ("still",))
    if not rest or not _parts(recording, ("let-go",)):
        return ()
    seconds = np.flatnonzero(np.diff(np.floor(t), prepend=-1.0))
    for i, v in enumerate(recording.u.T):
        least, most = np.minimum.reduceat(v, seconds), np.maximum.reduceat(v, seconds)
        home = float(np.median(_of(recording, i, rest)))
        away = (most - least < STANDS) & (np.abs(most - home) > AWAY)
        for first, last in zip(*runs(away), strict=True):
            a, b = seconds[first], seconds[last] if last < len(seconds) else len(t)
            alone = np.ptp(v[a:b]) < STANDS and np.ptp(recording.u[a:b, 1 - i]) >= MOVED_LEAST
            if alone and t[b - 1] - t[a] >= LOST_S and np.ptp(recording.step[a:b]):
                at = float(np.median(v[a:b]))
                when = float(t[a]), float(t[b - 1])
                return (Silent("y" if i else "x", "stays", at, None, *when),)
    return ()
