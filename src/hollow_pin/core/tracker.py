"""Which step of the routine each new sample belongs to, seen from the samples alone.

Incremental: every block of samples costs its own length, whatever came before. The tracker decides
when a step begins and ends; the readings are computed afterwards from the raw samples and owe it
nothing but the step names.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import bearing, clock_hour, lengths
from hollow_pin.core.let_go import LET_GO, PUSHED, SEGMENT_S, SHORTEST_SEGMENT_S, sector
from hollow_pin.core.recording import NO_STEP, STEPS, Floats
from hollow_pin.core.rim import BINS, EDGE, LEAST_COVERAGE, TURN_BACK, bin_of
from hollow_pin.core.statistics import centre
from hollow_pin.core.still import MOVED_BY, MOVED_FOR_S, SHORTEST_S

StepName = Literal["still", "let-go", "rim"]
Phase = Literal["waiting", "running", "done"]
SpaceDoes = Literal["start", "accept", "redo", "none"]

QUIET_FOR_S = 0.5
QUIET_WITHIN = 4.0
RESTLESS_AFTER_S = 4.0
MARGIN_DEG = 12.0
MOST_RESTARTS = 3
"""A touch and its end cost two; a stick that goes on moving does so by itself."""


@dataclass(frozen=True)
class Routine:
    """How much of each step is asked for. still_s in seconds; releases toward each direction; laps
    each way."""

    steps: tuple[StepName, ...] = ("still", "let-go", "rim")
    still_s: float = 10.0
    releases: int = 2
    laps: int = 2


@dataclass(frozen=True)
class Progress:
    """What the tracker sees now, for a screen to say.

    counts: Still: (seconds, wanted). Let-go: releases by direction, 12 o'clock first. Rim:
    (clockwise, anticlockwise) laps, in hundredths.
    """

    step: StepName | None
    phase: Phase
    says: str
    counts: tuple[float, ...]
    wanted: float
    space: SpaceDoes
    done: tuple[StepName, ...]
    finished: bool


@dataclass
class _Still:
    waited_s: float = 0.0
    began: float | None = None
    moved_since: float | None = None
    restarts: int = 0
    moved: bool = False


@dataclass
class _LetGo:
    counts: list[int]
    pushing: bool = False
    pushed_to: int = 0
    release_at: float | None = None
    counted_at: float | None = None


@dataclass
class _Rim:
    turned: float = 0.0
    last_deg: float | None = None
    start: float = 0.0
    extreme: float = 0.0
    direction: int = 0
    farthest: float = 0.0
    laps: list[float] = field(default_factory=lambda: [0.0, 0.0])
    filled: NDArray[np.bool_] = field(default_factory=lambda: np.zeros(BINS, dtype=bool))
    done_at: float | None = None


class StepTracker:
    """Follows one run of the routine.

    feed() takes t (n,) seconds and u (n, k) % of half range and returns the step of each sample,
    (n,) int8 as in Recording.step. rest: where the stick is known to rest, when Still is not asked.
    """

    def __init__(
        self, routine: Routine, axes: int = 2, rest: tuple[float, float] = (0.0, 0.0)
    ) -> None:
        self.routine = routine
        self._axes = axes
        self._rest = np.array(rest)
        self._queue: list[StepName] = list(routine.steps)
        self._done: list[StepName] = []
        self._now = 0.0
        self._recent_t = np.empty(0)
        self._recent_u = np.empty((0, 2))
        self._between = True
        self._begin()

    def _begin(self) -> None:
        self._still = _Still()
        self._let_go = _LetGo([0] * 8)
        self._rim = _Rim()

    @property
    def step(self) -> StepName | None:
        return self._queue[0] if self._queue else None

    @property
    def finished(self) -> bool:
        return not self._queue

    @property
    def rest(self) -> tuple[float, float]:
        return float(self._rest[0]), float(self._rest[1])

    def feed(self, t: Floats, u: Floats) -> NDArray[np.int8]:
        """Take the next samples in; returns the step each belongs to."""
        if not len(t):
            return np.empty(0, dtype=np.int8)
        p = u if u.shape[1] == 2 else np.column_stack((u, np.zeros(len(u))))
        self._remember(t, p)
        lasted = float(t[-1]) - self._now if self._now else 0.0
        self._now = float(t[-1])
        step = self.step
        if step is None or self._between:
            self._between = False
            return np.full(len(t), NO_STEP, dtype=np.int8)
        if step == "still":
            belongs = self._feed_still(t, p, lasted)
        elif step == "let-go":
            belongs = self._feed_let_go(t, p)
        else:
            belongs = self._feed_rim(p)
        return np.full(len(t), STEPS.index(step) if belongs else NO_STEP, dtype=np.int8)

    def _remember(self, t: Floats, p: Floats) -> None:
        self._recent_t = np.concatenate((self._recent_t, t))
        self._recent_u = np.concatenate((self._recent_u, p))
        keep = int(np.searchsorted(self._recent_t, t[-1] - QUIET_FOR_S))
        self._recent_t, self._recent_u = self._recent_t[keep:], self._recent_u[keep:]

    def _advance(self) -> None:
        self._done.append(self._queue.pop(0))
        self._begin()
        self._between = True

    def accept(self) -> None:
        """Space: begin the step that waits, take what is there and go on, or do it again; whichever
        progress() says."""
        does = self.progress().space
        if does == "start":
            self._still.began = self._now
        elif does == "redo":
            self.redo()
        elif does == "accept":
            if self.step == "still":
                self._rest = centre(self._recent_u)
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
        self._between = True

    # Still

    def _quiet(self) -> bool:
        if self._recent_t[-1] - self._recent_t[0] < 0.8 * QUIET_FOR_S:
            return False
        low, high = np.percentile(self._recent_u, (5, 95), axis=0)
        return bool((high - low).max() < QUIET_WITHIN)

    def _feed_still(self, t: Floats, p: Floats, lasted: float) -> bool:
        s = self._still
        if s.began is None:
            s.waited_s += lasted
            if not self._quiet():
                return False
            s.began = float(t[0])
            self._rest = centre(self._recent_u)
        away = float(np.median(lengths(p - self._rest)))
        if away <= MOVED_BY:
            s.moved_since = None
        elif s.moved_since is None:
            s.moved_since = float(t[0])
        elif self._now - s.moved_since > MOVED_FOR_S:
            if s.restarts < MOST_RESTARTS:
                self._still = _Still(restarts=s.restarts + 1)
                self._between = True
                return True
            s.moved = True
        if self._now - s.began >= self.routine.still_s:
            self._rest = centre(self._recent_u)
            self._advance()
        return True

    # Let-go

    def _wanted_sectors(self) -> tuple[int, ...]:
        return tuple(range(8)) if self._axes == 2 else (2, 6)

    def _wanted_releases(self) -> int:
        return self.routine.releases if self._axes == 2 else 2 * self.routine.releases

    def _feed_let_go(self, t: Floats, p: Floats) -> bool:
        s = self._let_go
        rho = lengths(p - self._rest)
        ups, downs = np.flatnonzero(rho > PUSHED), np.flatnonzero(rho < LET_GO)
        turns = sorted([(int(i), True) for i in ups] + [(int(i), False) for i in downs])
        last = s.pushing
        for i, pushing in _changes(turns, last):
            if pushing:
                self._count_release(float(t[i]))
            else:
                s.release_at = float(t[i])
            s.pushing = pushing
        if ups.size:
            s.pushed_to = sector(float(bearing(*p[ups[-1]])))
        self._count_release(self._now)
        ready = s.counted_at is not None and self._now - s.counted_at >= SEGMENT_S
        enough = all(s.counts[i] >= self._wanted_releases() for i in self._wanted_sectors())
        if ready and enough and not s.pushing:
            self._advance()
        return True

    def _count_release(self, now: float) -> None:
        s = self._let_go
        if s.release_at is not None and now - s.release_at >= SHORTEST_SEGMENT_S + 0.25:
            s.counts[s.pushed_to] += 1
            s.counted_at, s.release_at = s.release_at, None

    # Rim

    def _feed_rim(self, p: Floats) -> bool:
        s = self._rim
        rho = lengths(p)
        s.farthest = max(s.farthest, float(rho.max()))
        out = p[rho > max(EDGE * s.farthest, 30.0)]
        if s.done_at is not None:
            if self._now - s.done_at > 0.3:
                self._advance()
            return True
        if not len(out):
            return True
        s.filled[bin_of(out)] = True
        degrees = bearing(out[:, 0], out[:, 1])
        path = degrees if s.last_deg is None else np.concatenate(([s.last_deg], degrees))
        turned = np.degrees(np.unwrap(np.radians(path)))
        if s.last_deg is None:
            s.start = s.extreme = s.turned = float(turned[0])
        s.turned += float(turned[-1] - turned[0])
        s.last_deg = float(degrees[-1])
        if np.abs(np.diff(turned)).max(initial=0.0) > TURN_BACK:
            s.start = s.extreme = s.turned
            s.direction = 0
        self._follow(s)
        if min(s.laps) >= self.routine.laps and s.filled.mean() >= LEAST_COVERAGE:
            s.done_at = self._now
        return True

    def _follow(self, s: _Rim) -> None:
        ahead = s.turned - s.extreme
        if s.direction == 0:
            if abs(s.turned - s.start) >= TURN_BACK:
                s.direction = 1 if s.turned > s.start else -1
                s.extreme = s.turned
        elif ahead * s.direction >= 0:
            s.extreme = s.turned
        elif abs(ahead) >= TURN_BACK:
            s.start, s.extreme, s.direction = s.extreme, s.turned, -s.direction
        if s.direction:
            way = 0 if s.direction > 0 else 1
            s.laps[way] = max(s.laps[way], (abs(s.extreme - s.start) - MARGIN_DEG) / 360.0)

    # What to say

    def progress(self) -> Progress:
        step = self.step
        if step is None:
            return Progress(None, "done", "Done.", (), 0, "none", tuple(self._done), True)
        if step == "still":
            return self._still_progress()
        return self._let_go_progress() if step == "let-go" else self._rim_progress()

    def _still_progress(self) -> Progress:
        s, want = self._still, self.routine.still_s
        if s.began is None:
            says = "Hands off. It starts when the stick is quiet."
            if s.restarts:
                says = "The stick moved. Was it touched? Hands off, it starts again by itself."
            space: SpaceDoes = "none"
            if s.waited_s > RESTLESS_AFTER_S:
                says, space = "It does not hold still. Space records it as it is.", "start"
            return self._say("waiting", says, (0.0,), want, space)
        seconds = self._now - s.began
        says = "Hands stay off."
        if s.restarts:
            says = "It moved, so Still began again. Hands stay off."
        if s.moved:
            says = "It moves by itself, or was touched. Space does it again."
            return self._say("running", says, (seconds,), want, "redo")
        does: SpaceDoes = "accept" if seconds >= SHORTEST_S else "none"
        return self._say("running", says, (seconds,), want, does)

    def _let_go_progress(self) -> Progress:
        s, want = self._let_go, self._wanted_releases()
        missing = [i for i in self._wanted_sectors() if s.counts[i] < want]
        if s.pushing:
            says = "Let go."
        elif s.release_at is not None:
            says = "Wait."
        elif missing:
            hours = [str(clock_hour(45.0 * i)) for i in missing[:3]]
            says = f"Push to the edge toward {', '.join(hours)} o’clock, and let go."
        else:
            says = "Wait."
        counted = tuple(float(c) for c in s.counts)
        running: Phase = "running" if sum(s.counts) or s.pushing else "waiting"
        return self._say(running, says, counted, want, "accept" if sum(s.counts) >= 3 else "none")

    def _rim_progress(self) -> Progress:
        s, want = self._rim, self.routine.laps
        cw, ccw = s.laps
        empty = np.flatnonzero(~s.filled)
        if s.direction == 0:
            says = "Go round the edge, pressed outward."
        elif cw < want and ccw < want:
            says = "Keep going round."
        elif cw < want or ccw < want:
            says = f"Now {'clockwise' if cw < want else 'the other way'}."
        elif s.done_at is not None:
            says = "Let go."
        else:
            hour = clock_hour(float(empty[len(empty) // 2]) * 360.0 / BINS)
            says = f"The edge was not reached toward {hour} o’clock."
        covered = float(s.filled.mean()) >= LEAST_COVERAGE
        phase: Phase = "running" if s.direction else "waiting"
        return self._say(phase, says, (cw, ccw), want, "accept" if covered else "none")

    def _say(
        self, phase: Phase, says: str, counts: tuple[float, ...], wanted: float, space: SpaceDoes
    ) -> Progress:
        return Progress(self.step, phase, says, counts, wanted, space, tuple(self._done), False)


def _changes(marks: list[tuple[int, bool]], state: bool) -> list[tuple[int, bool]]:
    """Only the marks that change the state."""
    found = []
    for at, value in marks:
        if value != state:
            found.append((at, value))
            state = value
    return found
