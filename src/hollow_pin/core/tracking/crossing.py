"""Follows Crossing, and the passes of Turn: counts slow passes, and asks for slower ones."""

from __future__ import annotations

import numpy as np

from hollow_pin.core.crossing import (
    CALM_S,
    END_SHARE,
    LEAST_SPAN,
    SHORTEST_PASS_S,
    from_end_to_end,
)
from hollow_pin.core.recording import Floats
from hollow_pin.core.statistics import median
from hollow_pin.core.tracking.follower import Coaching, Part, Phase, RecentSamples, SpaceDoes

MARGIN_S = 0.15
"""The ends are known better afterwards than now: a pass must be this much longer to count live."""
FURTHER = 1.0
"""By how much an end lies farther out than was known, where the axis still goes there, %."""
HASTE = 1.5
ASTRAY = 40.0
FROM_TO = {0: "left to right", 1: "bottom to top"}
ALONG = "end to end"
"""Of a single axis."""


class PassCounter:
    """Counts passes from end to end of one axis, as they are finished, by the definition that
    measures them. Where the ends are is known only once both were reached: the passes are counted
    anew as each sample comes."""

    def __init__(self) -> None:
        self.passes = 0
        self.too_fast = 0
        self.note = ""
        self._t = self._calm = np.empty(0)
        self._low = self._high = 0.0

    @property
    def span(self) -> float:
        return self._high - self._low

    def feed(self, samples: RecentSamples, axis: int) -> None:
        """See where the axis has come to by now: the median of the last quarter second, which a spike
        or a jumping contact does not mislead."""
        since = int(np.searchsorted(samples.t, samples.now - CALM_S))
        self._t = np.append(self._t, samples.now)
        self._calm = np.append(self._calm, median(samples.p[since:, axis]))
        low, high = samples.span(axis)
        self._low, self._high = min(self._low, low), max(self._high, high)
        if self._high >= LEAST_SPAN and self._low <= -LEAST_SPAN:
            self._count()

    def _count(self) -> None:
        ends = END_SHARE * self._low, END_SHARE * self._high
        passes = from_end_to_end(self._calm, *ends)
        if passes and self._goes_further():
            passes.pop()
        took = [float(self._t[p.stop - 1] - self._t[p.start]) for p in passes]
        slow = [seconds >= SHORTEST_PASS_S + MARGIN_S for seconds in took]
        self.passes, self.too_fast = sum(slow), len(slow) - sum(slow)
        self.note = ""
        if slow and not slow[-1]:
            self.note = (
                f"That took {took[-1]:.1f} s, too fast to count. Slower: two seconds a pass."
            )

    def _goes_further(self) -> bool:
        """Whether the axis is only now finding out how far it goes: the pass is not over then."""
        before = self._calm[: int(np.searchsorted(self._t, self._t[-1] - CALM_S))]
        reached = (float(before.min()), float(before.max())) if len(before) else (0.0, 0.0)
        at = float(self._calm[-1])
        return at < reached[0] - FURTHER or at > reached[1] + FURTHER

    def hasty(self, t: Floats, v: Floats) -> bool:
        """Whether the last half second went faster than a pass may."""
        farthest = max(-self._low, self._high)
        if len(t) < 3 or t[-1] - t[0] < 0.2 or farthest < LEAST_SPAN:
            return False
        way = float(v[-1] - v[0])
        one_end = min(-self._low, self._high) < LEAST_SPAN
        if one_end and (way > 0) == (self._high > -self._low):
            return False  # on its way out to the first end
        speed = abs(way) / float(t[-1] - t[0])
        return speed > HASTE * max(self.span, 2 * farthest) / SHORTEST_PASS_S


class CrossingFollower:
    """axis: 0 for x, 1 for y."""

    def __init__(self, samples: RecentSamples, axis: int, passes: int) -> None:
        self.done = False
        self._moment = samples
        self._axis = axis
        self._wanted = passes
        self._counter = PassCounter()
        self._finished_at: float | None = None

    def start(self) -> None:
        """It begins with the first movement."""

    def feed(self, t: Floats, p: Floats) -> bool:
        self._counter.feed(self._moment, self._axis)
        if self._finished_at is None and self._counter.passes >= self._wanted:
            self._finished_at = self._moment.now
        if self._finished_at is not None and self._moment.now - self._finished_at > 0.2:
            self.done = True
        return True

    def coaching(self) -> Coaching:
        c = self._counter
        part = Part("passes", float(c.passes), self._wanted)
        space: SpaceDoes = "accept" if c.passes or c.too_fast >= self._wanted else "none"
        phase: Phase = "running" if c.span > 2 * LEAST_SPAN else "waiting"
        return Coaching(phase, self._says(), (part,), space, c.note or self._astray())

    def _says(self) -> str:
        c, m = self._counter, self._moment
        ends = FROM_TO[self._axis] if m.axes == 2 else ALONG
        if self._finished_at is not None:
            return "Let go."
        if c.hasty(m.t, m.p[:, self._axis]):
            return "Slower."
        if c.span < 2 * LEAST_SPAN:
            return f"Slowly all the way from {ends}, two seconds each way."
        remaining = self._wanted - c.passes
        passes = "pass" if remaining == 1 else "passes"
        return f"Slowly, {ends} and back: {remaining} more {passes}."

    def _astray(self) -> str:
        if self._moment.axes == 1 or not len(self._moment.p):
            return ""
        other = self._moment.p[-1, 1 - self._axis]
        if abs(float(other)) < ASTRAY:
            return ""
        return "Keep to the line: " + (
            "left and right only." if self._axis == 0 else "up and down only."
        )
