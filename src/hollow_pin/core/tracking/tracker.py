"""Follows one run of a routine, step after step."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import NO_STEP, STEPS, Floats
from hollow_pin.core.routine import Routine, StepName
from hollow_pin.core.tracking.crossing import CrossingFollower
from hollow_pin.core.tracking.follower import Follower, Part, Phase, RecentSamples, SpaceDoes
from hollow_pin.core.tracking.hold import HoldFollower
from hollow_pin.core.tracking.let_go import LetGoFollower
from hollow_pin.core.tracking.rim import RimFollower
from hollow_pin.core.tracking.still import StillFollower
from hollow_pin.core.tracking.turn import TurnFollower

PIECE_S = 0.1
"""What is followed at once: less than any follower waits for anything."""
STUCK_S = 40.0
"""By which a step that moves the stick has got somewhere, where the stick can."""
STUCK = "If that is all the stick does, accept it as it is."


@dataclass(frozen=True)
class Progress:
    """What the tracker sees now, for a screen to say. note: what went right or wrong just before."""

    step: StepName | None
    phase: Phase
    says: str
    note: str
    parts: tuple[Part, ...]
    space: SpaceDoes
    done: tuple[StepName, ...]
    finished: bool


def follower_of(step: StepName, routine: Routine, samples: RecentSamples) -> Follower:
    """A fresh follower for a step."""
    match step:
        case "still":
            return StillFollower(samples, routine.still_s)
        case "let-go":
            return LetGoFollower(samples, routine.releases)
        case "rim":
            return RimFollower(samples, routine.laps)
        case "crossing-x":
            return CrossingFollower(samples, 0, routine.passes)
        case "crossing-y":
            return CrossingFollower(samples, 1, routine.passes)
        case "hold":
            return HoldFollower(samples, routine.hold_s)
        case "turn":
            return TurnFollower(samples, routine.passes)


class StepTracker:
    """Follows one run of the routine.

    feed() takes t (n,) seconds and u (n, k) % of half range and returns the step of each sample,
    (n,) int8 as in Recording.step. rest: where the stick is known to rest, when Still is not asked.
    stuck_s: after how long a step that gets nowhere may be accepted as it is, by whoever sees that the
    stick does no more; None where nobody does.
    """

    def __init__(
        self,
        routine: Routine,
        axes: int = 2,
        rest: tuple[float, float] = (0.0, 0.0),
        stuck_s: float | None = None,
    ) -> None:
        self.routine = routine
        self._stuck_s = stuck_s
        self._began_s = self._now_s = 0.0
        self._moment = RecentSamples(axes, np.array(rest))
        self._queue: list[StepName] = list(routine.steps)
        self._done: list[StepName] = []
        self._between = True
        self._follower = self._fresh()

    def _fresh(self) -> Follower | None:
        return follower_of(self._queue[0], self.routine, self._moment) if self._queue else None

    def _begin(self) -> None:
        self._follower = self._fresh()
        self._between = True

    @property
    def step(self) -> StepName | None:
        return self._queue[0] if self._queue else None

    @property
    def finished(self) -> bool:
        return not self._queue

    @property
    def rest(self) -> tuple[float, float]:
        return float(self._moment.rest[0]), float(self._moment.rest[1])

    def feed(self, t: Floats, u: Floats) -> NDArray[np.int8]:
        """Take the next samples in; returns the step each belongs to. However many come at once, by a
        link that batches them or a clock that is not waited for, they are followed piece by piece."""
        if not len(t):
            return np.empty(0, dtype=np.int8)
        cuts = np.flatnonzero(np.diff(np.floor((t - t[0]) / PIECE_S))) + 1
        edges = [0, *cuts.tolist(), len(t)]
        return np.concatenate([self._feed(t[a:b], u[a:b]) for a, b in pairwise(edges)])

    def _feed(self, t: Floats, u: Floats) -> NDArray[np.int8]:
        p = u if u.shape[1] == 2 else np.column_stack((u, np.zeros(len(u))))
        self._moment.remember(t, p)
        self._now_s = float(t[-1])
        step, follower = self.step, self._follower
        if step is None or follower is None or self._between:
            self._between = False
            self._began_s = self._now_s
            return np.full(len(t), NO_STEP, dtype=np.int8)
        belongs = follower.feed(t, p)
        if follower.done:
            self._advance()
        return np.full(len(t), STEPS.index(step) if belongs else NO_STEP, dtype=np.int8)

    def _advance(self) -> None:
        self._done.append(self._queue.pop(0))
        self._begin()

    def accept(self) -> None:
        """Space: begin the step that waits, take what is there and go on, or do it again; whichever
        progress() says."""
        does = self.progress().space
        if does == "start" and self._follower is not None:
            self._follower.start()
        elif does == "redo":
            self.redo()
        elif does == "accept":
            if self.step == "still":
                self._moment.settle()
            self._advance()

    def redo(self, step: StepName | None = None) -> None:
        """Do a step again: the present one, or an earlier one, before going on."""
        again = step or self.step or (self._done[-1] if self._done else None)
        if again is None:
            return
        if again in self._done:
            self._done.remove(again)
        if again in self._queue:
            self._queue.remove(again)
        self._queue.insert(0, again)
        self._begin()

    def progress(self) -> Progress:
        step, follower = self.step, self._follower
        if step is None or follower is None:
            return Progress(None, "done", "Done.", "", (), "none", tuple(self._done), True)
        coaching = follower.coaching()
        space, note = coaching.space, coaching.note
        if space == "none" and self._stuck:
            space, note = "accept", STUCK
        return Progress(
            step,
            coaching.phase,
            coaching.says,
            note,
            coaching.parts,
            space,
            tuple(self._done),
            False,
        )

    @property
    def _stuck(self) -> bool:
        """Whether a step that moves the stick has lasted longer than it ever should."""
        if self._stuck_s is None or self._between or self.step == "still":
            return False
        return self._now_s - self._began_s >= self._stuck_s
