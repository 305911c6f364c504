"""Follows Let-go: counts releases by direction, and says which pushes did not count."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import bearing, clock_hour, lengths, sector
from hollow_pin.core.let_go import BACK, BACK_S, BEFORE_NEXT_S, BEGINS_S, BESIDE_S, LIGHTLY, OUT_S
from hollow_pin.core.recording import Floats
from hollow_pin.core.release import LET_GO, PUSHED, SEGMENT_S, SETTLED, SHORTEST_SEGMENT_S, SPIKE_S
from hollow_pin.core.tracking.follower import Coaching, Part, Phase, RecentSamples
from hollow_pin.core.words import END, hours_words

TRIED = 25.0
"""Farther than this for longer than a spike, and back, without reaching a push, was meant as one."""
TOO_SHORT = "Not far enough to count: push all the way to the edge."
NO_FARTHER = (
    "Not far enough to count. If that is the edge, the device's numbers may not be calibrated yet: "
    "end the take, and say so where the source is chosen."
)
HELD_S = 0.2, 0.06
"""From when to when before it is seen to be let go a push is held."""
SHORT_IN_A_ROW = 3
"""Pushes that do not count, from which on it may be no fault of the hand."""


class LetGoFollower:
    def __init__(self, samples: RecentSamples, releases: int) -> None:
        self.done = False
        self._moment = samples
        self._sectors = tuple(range(8)) if samples.axes == 2 else (6, 2)
        self._wanted = releases if samples.axes == 2 else 2 * releases
        self._counts = [0] * 8
        self._pushing = False
        self._out = False
        self._went_out_at = 0.0
        self._pushed_to = 0
        self._release_at: float | None = None
        self._counted_at: float | None = None
        self._lay_at = 0.0
        self._back_since: float | None = None
        self._out_since: float | None = None
        self._tried: tuple[float, float] | None = None
        self._short = 0
        self._note = ""

    def start(self) -> None:
        """It begins with the first push."""

    def feed(self, t: Floats, p: Floats) -> bool:
        rho = lengths(p - self._moment.rest)
        mark = np.where(rho > PUSHED, 1, np.where(rho < LET_GO, 0, -1))
        for i in np.flatnonzero(mark >= 0)[_changes(mark[mark >= 0], self._out)]:
            if mark[i]:
                self._went_out_at = float(t[i])
            else:
                self._come_back(float(t[i]), p[:i][mark[:i] == 1])
            self._out = bool(mark[i])
        if self._out and self._moment.now - self._went_out_at >= SPIKE_S:
            self._go_out()
        if self._pushing:
            self._note_where_to(p[mark == 1])
        self._watch_for_half_pushes(t, rho)
        self._watch_for_light_pushes(t, rho)
        if self._lies():
            self._lay_at = self._moment.now
        self._count(self._moment.now)
        ready = self._counted_at is not None and self._moment.now - self._counted_at >= SEGMENT_S
        if ready and not self._missing() and not self._pushing:
            self.done = True
        return True

    def _go_out(self) -> None:
        """It is out for longer than a spike: a push, unless it was back for no longer."""
        if not self._pushing:
            let_go = self._release_at
            if let_go is not None and self._went_out_at - let_go < SPIKE_S:
                self._release_at = None
            else:
                self._push(self._went_out_at)
        self._pushing = True

    def _come_back(self, now: float, out: Floats) -> None:
        """It is back at a time, s: let go, unless it was out for no longer than a spike. out (m, 2):
        where it just was, %."""
        if now - self._went_out_at >= SPIKE_S:
            self._go_out()
        if self._pushing:
            self._release_at = now
            self._note_where_to(out)
            self._note_how_far(now)
        self._pushing = False

    def _note_where_to(self, out: Floats) -> None:
        """The direction of a push, by where the stick was last, (m, 2), %."""
        if len(out):
            self._pushed_to = sector(float(bearing(*out[-1])))

    def _note_how_far(self, let_go_s: float) -> None:
        """Where the stick was held before it was let go."""
        recent = self._moment
        held = (recent.t >= let_go_s - HELD_S[0]) & (recent.t <= let_go_s - HELD_S[1])
        if held.any():
            x, y = np.median(recent.p[held], axis=0)
            out = np.array([(-x, x), (-y, y)])
            recent.pushed_to = np.maximum(recent.pushed_to, out)

    def _watch_for_light_pushes(self, t: Floats, rho: Floats) -> None:
        """A stick that was back and is out again was pushed, however lightly: what it did before
        is all there is of its release."""
        back = np.where(rho < BACK, 1, np.where(rho > LIGHTLY, 0, -1))
        for i in np.flatnonzero(back >= 0)[_changes(back[back >= 0], self._back_since is not None)]:
            at = float(t[i])
            if back[i]:
                self._back_since, self._out_since = at, None
            else:
                was_back = self._back_since is not None and at - self._back_since >= BACK_S
                self._back_since, self._out_since = None, at if was_back else None
        began = self._pushed_lightly_at
        if began is not None and self._moment.now - began >= OUT_S:
            self._push(began)

    @property
    def _pushed_lightly_at(self) -> float | None:
        """Since when the stick that was let go last is out again, s."""
        out = self._out_since
        return None if out is None or out < (self._release_at or 0.0) else out

    def _push(self, now: float) -> None:
        """A push begins; the release before it counts if it was left alone long enough."""
        waiting = self._release_at is not None
        self._count(now)
        if waiting and self._release_at is not None:
            self._note = "Too soon: that release does not count. Wait a second after letting go."
            self._release_at = None

    def _count(self, now: float) -> None:
        if self._release_at is None:
            return
        until, beside_s = now, BEFORE_NEXT_S
        if (began := self._pushed_lightly_at) is not None:
            until, beside_s = min(now, began), BESIDE_S
        waited = until - self._release_at >= SHORTEST_SEGMENT_S + beside_s
        if waited and self._lay_at - self._release_at >= SHORTEST_SEGMENT_S + BESIDE_S:
            self._counts[self._pushed_to] += 1
            self._counted_at, self._release_at = self._release_at, None
            self._short, self._note = 0, ""

    def _lies(self) -> bool:
        """Whether no push has begun just now."""
        recent = self._moment
        before = max(0, int(np.searchsorted(recent.t, recent.now - BEGINS_S)) - 1)
        was, away = lengths(recent.p[[before, -1]] - recent.rest)
        return bool(away - was <= SETTLED)

    def _watch_for_half_pushes(self, t: Floats, rho: Floats) -> None:
        if self._pushing:
            self._tried = None
            return
        far = t[rho > TRIED]
        if far.size:
            began = float(far[0]) if self._tried is None else self._tried[0]
            self._tried = began, float(far[-1])
        if float(rho[-1]) < TRIED / 2:
            lasted = self._tried[1] - self._tried[0] if self._tried else 0.0
            if lasted >= SPIKE_S and self._release_at is None:
                self._short += 1
                self._note = NO_FARTHER if self._short >= SHORT_IN_A_ROW else TOO_SHORT
            self._tried = None

    def _missing(self) -> list[int]:
        return [i for i in self._sectors if self._counts[i] < self._wanted]

    def coaching(self) -> Coaching:
        parts = tuple(
            Part(self._name(clock_hour(45.0 * i)), float(self._counts[i]), self._wanted)
            for i in self._sectors
        )
        counted = sum(self._counts)
        phase: Phase = "running" if counted or self._pushing else "waiting"
        return Coaching(
            phase, self._says(), parts, "accept" if counted >= 3 else "none", self._note
        )

    def _says(self) -> str:
        missing = self._missing()
        if self._pushing:
            return "Let go."
        if self._release_at is not None or not missing:
            return "Wait."
        axes = self._moment.axes
        hours = [clock_hour(45.0 * i) for i in missing]
        remaining = {self._wanted - self._counts[i] for i in missing}
        if axes == 1 and len(missing) == 2:
            return "Push it to either end and let go."
        if sum(self._counts) and len(missing) <= 3:
            more = {1: "One more", 2: "Two more"}.get(max(remaining), "More")
            each = " each" if len(missing) > 1 and remaining == {2} else ""
            return f"{more}{each} toward {hours_words(hours, axes)}."
        return f"Push to {', '.join(str(h) for h in hours[:3])}\u00a0o’clock and let go."

    def _name(self, hour: int) -> str:
        return END[hour] if self._moment.axes == 1 else str(hour)


def _changes(mark: NDArray[np.intp], state: bool) -> NDArray[np.intp]:
    """Where marks of 1 and 0 differ from the one before; the first from a state."""
    return np.flatnonzero(np.diff(mark, prepend=int(state)))
