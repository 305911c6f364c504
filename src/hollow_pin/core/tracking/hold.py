"""Follows Hold: four directions, each kept at the edge for a while."""

from __future__ import annotations

import numpy as np

from hollow_pin.core.geometry import bearing, lengths
from hollow_pin.core.hold import BRIDGED_S, OUT, SHORTEST_S, THERE_WITHIN, TRIMMED_S
from hollow_pin.core.recording import Floats
from hollow_pin.core.tracking.follower import Coaching, Part, RecentSamples, SpaceDoes
from hollow_pin.core.words import END

WAYS = {0.0: "up", 90.0: "right", 180.0: "down", 270.0: "left"}
ALONG = {270.0: END[9], 90.0: END[3]}
"""A single axis has its ends."""
SLIPS = 2
ELSEWHERE = 55.0
"""From so many degrees off a side on it is another that is held; half way, 45, it stays the same."""
STAYS_S = 0.2
"""What is farther out for so long has been pushed there; what jumps there is back before."""


class HoldFollower:
    def __init__(self, samples: RecentSamples, seconds: float) -> None:
        self.done = False
        self._moment = samples
        self._words = WAYS if samples.axes == 2 else ALONG
        self._ways = list(self._words)
        self._wanted = max(seconds, SHORTEST_S + 2 * TRIMMED_S)
        self._held = dict.fromkeys(self._ways, 0.0)
        self._since: float | None = None
        self._there = 0.0
        self._last_out = -np.inf
        self._way = self._ways[0]
        self._slips = 0
        self._note = ""
        self._fed = self._was_out = False

    def start(self) -> None:
        """It begins with the first push."""

    def feed(self, t: Floats, p: Floats) -> bool:
        out = np.flatnonzero(lengths(p) > OUT)
        if not self._fed:
            self._fed, self._was_out = True, bool(out.size and out[0] == 0)
        if out.size:
            toward = float(bearing(*p[out].mean(axis=0)))
            if self._since is None:
                self._way = self._nearest(toward)
            elif self._went_elsewhere():
                if self._held[self._way] < self._wanted:
                    self._held[self._way] = 0.0
                self._way, self._since = self._nearest(toward), None
            since = self._began(float(t[out[0]]))
            self._last_out = float(t[out[-1]])
            lasted = self._last_out - since
            self._held[self._way] = max(self._held[self._way], lasted)
            if lasted >= self._wanted:
                self._note = ""
        elif self._since is not None and self._moment.now - self._last_out >= BRIDGED_S:
            if self._held[self._way] < self._wanted:
                self._held[self._way] = 0.0
                # What was still out from the step before, nobody was told to hold.
                if not self._was_out:
                    self._slips += 1
                    self._note = (
                        f"It came back after {self._last_out - self._since:.1f} s. "
                        f"Hold {self._to(self._way)} again, for {self._wanted:.0f} seconds."
                    )
            self._since, self._was_out = None, False
        if self._since is None and not self._missing():
            self.done = True
        return True

    def _went_elsewhere(self) -> bool:
        """Whether it went on to another side, and stays there, without being let go in between."""
        recent = self._moment
        first = int(np.searchsorted(recent.t, recent.now - STAYS_S))
        toward = np.asarray(bearing(*recent.p[first:].T))
        return bool((np.abs((toward - self._way + 180) % 360 - 180) > ELSEWHERE).all())

    def _began(self, now: float) -> float:
        """Since when it is held: from when it is there. While it goes on out it is being pushed."""
        recent = self._moment
        first = int(np.searchsorted(recent.t, recent.now - STAYS_S))
        there = float(lengths(recent.p[first:]).min())
        if self._since is None:
            self._since, self._there = now, there
        elif there > self._there + THERE_WITHIN:
            self._since, self._there = float(recent.t[first]), there
        return self._since

    def _nearest(self, b: float) -> float:
        return min(self._ways, key=lambda w: abs((b - w + 180) % 360 - 180))

    def _missing(self) -> list[float]:
        return [w for w in self._ways if self._held[w] < self._wanted]

    def coaching(self) -> Coaching:
        parts = tuple(
            Part(
                self._words[w],
                min(self._held[w], self._wanted),
                self._wanted,
            )
            for w in self._ways
        )
        begun = any(self._held.values()) or self._since is not None
        space: SpaceDoes = (
            "accept" if self._slips >= SLIPS or len(self._missing()) < len(self._ways) else "none"
        )
        return Coaching("running" if begun else "waiting", self._says(), parts, space, self._note)

    def _says(self) -> str:
        missing = self._missing()
        if self._since is not None:
            if self._way in missing:
                return f"Hold {self._to(self._way)}, keep still."
            return "Let go."
        if not missing:
            return "Let go."
        if self._words is WAYS:
            return f"Push {WAYS[missing[0]]} to the edge and keep it there."
        to = self._to(missing[0]) if len(missing) == 1 else "to either end"
        return f"Push it {to} and keep it there."

    def _to(self, way: float) -> str:
        return WAYS[way] if self._words is WAYS else f"to its {ALONG[way]}"
