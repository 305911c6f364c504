"""Follows Still: sees the hands come off, begins again when the stick is touched or samples are
missing."""

from __future__ import annotations

import numpy as np

from hollow_pin.core.geometry import lengths
from hollow_pin.core.recording import Floats
from hollow_pin.core.still import LONGEST_GAP_S, MOVED_BY, MOVED_FOR_S
from hollow_pin.core.tracking.follower import Coaching, Part, RecentSamples, SpaceDoes
from hollow_pin.core.untouched import SHORTEST_S

RESTLESS_AFTER_S = 4.0
MOST_RESTARTS = 3
"""A touch and its end cost two; a stick that goes on moving does so by itself."""
RESTART_BEFORE_S = 60.0
"""A soak that has run this long is not thrown away for a touch; the touch is reported."""


class StillFollower:
    def __init__(self, samples: RecentSamples, seconds: float) -> None:
        self.done = False
        self._moment = samples
        self._wanted = seconds
        self._waited = 0.0
        self._seen_at = samples.now
        self._began: float | None = None
        self._moved_since: float | None = None
        self._restarts = 0
        self._moved = False
        self._holed = False
        self._because = ""

    def start(self) -> None:
        self._began = self._moment.now

    def feed(self, t: Floats, p: Floats) -> bool:
        moment = self._moment
        since, self._seen_at = self._seen_at, moment.now
        if self._began is None:
            self._waited += moment.now - since if since else 0.0
            if not moment.quiet():
                return False
            self._began = float(t[0])
            moment.settle()
        elif float(np.diff(t, prepend=since).max()) > LONGEST_GAP_S:
            if self._restart_if_worth("Samples were missing", since):
                return False
            self._holed = True
        away = float(np.median(lengths(p - moment.rest)))
        if away <= MOVED_BY:
            self._moved_since = None
        elif self._moved_since is None:
            self._moved_since = float(t[0])
        elif moment.now - self._moved_since > MOVED_FOR_S:
            if self._restart_if_worth("The stick moved or was touched", self._moved_since):
                return False
            self._moved = True
        if moment.now - self._began >= self._wanted:
            moment.settle()
            self.done = True
        return True

    def _restart_if_worth(self, because: str, at: float) -> bool:
        """Begin again, unless that was tried often enough or much would be lost."""
        lasted = at - (self._began or 0.0)
        if self._restarts >= MOST_RESTARTS or lasted >= RESTART_BEFORE_S:
            return False
        self._restarts += 1
        self._because = because
        self._began = self._moved_since = None
        self._waited = 0.0
        return True

    def coaching(self) -> Coaching:
        if self._began is None:
            says = "Hands off. It starts when the stick is quiet."
            if self._restarts:
                says = f"{self._because}. Hands off, it starts again by itself."
            part = Part("seconds", 0.0, self._wanted)
            if self._waited > RESTLESS_AFTER_S:
                says = "It does not hold still. Space records it as it is."
                return Coaching("waiting", says, (part,), "start")
            return Coaching("waiting", says, (part,))
        seconds = self._moment.now - self._began
        part = Part("seconds", seconds, self._wanted)
        if self._holed:
            says = "Samples were missing: this Still cannot be used. Space does it again."
            return Coaching("running", says, (part,), "redo")
        if self._moved and seconds < RESTART_BEFORE_S:
            says = "It moves by itself, or was touched. Space does it again."
            return Coaching("running", says, (part,), "redo")
        note = ""
        if self._moved:
            note = "It moved during this step, or was touched; that is kept and reported."
        elif self._restarts:
            note = f"{self._because}, so Still began again."
        space: SpaceDoes = "accept" if seconds >= SHORTEST_S else "none"
        return Coaching("running", "Hands stay off.", (part,), space, note)
