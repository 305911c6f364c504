"""Follows Turn: passes over the whole travel, then left alone at three places."""

from __future__ import annotations

from hollow_pin.core.crossing import LEAST_SPAN
from hollow_pin.core.recording import Floats
from hollow_pin.core.routine import TURN_REST_S
from hollow_pin.core.tracking.crossing import PassCounter
from hollow_pin.core.tracking.follower import QUIET_WITHIN, Coaching, Part, Phase, RecentSamples
from hollow_pin.core.turn import PLACES, Place, place_of
from hollow_pin.core.untouched import SHORTEST_S


class TurnFollower:
    def __init__(self, samples: RecentSamples, passes: int) -> None:
        self.done = False
        self._moment = samples
        self._wanted = passes
        self._counter = PassCounter()
        self._rested: dict[Place, float] = dict.fromkeys(PLACES, 0.0)
        self._since: float | None = None
        self._low = self._high = 0.0

    def start(self) -> None:
        """It begins with the first movement."""

    def feed(self, t: Floats, p: Floats) -> bool:
        v = p[:, 0]
        self._low, self._high = min(self._low, float(v.min())), max(self._high, float(v.max()))
        self._counter.feed(self._moment, 0)
        if self._counter.passes < self._wanted or not self._left_alone():
            self._since = None
        else:
            if self._since is None:
                self._since = float(t[0])
            place = place_of(float(v[-1]), self._low, self._high)
            self._rested[place] = max(self._rested[place], self._moment.now - self._since)
        self.done = self._counter.passes >= self._wanted and not self._missing()
        return True

    def _left_alone(self) -> bool:
        """Whether the middle half of the last half second lies still: a dirty track spikes at rest."""
        low, high = self._moment.span(0, 0.25)
        return high - low < QUIET_WITHIN

    def _missing(self) -> list[Place]:
        return [p for p in PLACES if self._rested[p] < TURN_REST_S]

    def coaching(self) -> Coaching:
        c = self._counter
        parts = (
            Part("passes", float(c.passes), self._wanted),
            *(Part(p, min(self._rested[p], TURN_REST_S), TURN_REST_S) for p in PLACES),
        )
        phase: Phase = "running" if c.span > 2 * LEAST_SPAN else "waiting"
        enough = c.passes and max(self._rested.values()) >= SHORTEST_S
        return Coaching(phase, self._says(), parts, "accept" if enough else "none", c.note)

    def _says(self) -> str:
        c, m = self._counter, self._moment
        if c.hasty(m.t, m.p[:, 0]):
            return "Slower."
        if c.passes < self._wanted:
            return "Turn it slowly from end to end, two seconds each way."
        if self._since is not None:
            return "Leave it alone."
        missing = self._missing()
        if not missing:
            return "Done."
        end = "the middle" if missing[0] == "middle" else f"the {missing[0]} end"
        return f"Leave it at {end}, hands off."
