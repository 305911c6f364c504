"""What every follower of a step knows, and what it says."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal, Protocol

import numpy as np

from hollow_pin.core.recording import Floats
from hollow_pin.core.statistics import centre, quantile

Phase = Literal["waiting", "running", "done"]
SpaceDoes = Literal["start", "accept", "redo", "none"]

QUIET_FOR_S = 0.5
QUIET_WITHIN = 4.0


@dataclass
class RecentSamples:
    """Now, and the last half second. rest: where the stick was last left alone, (2,) %. pushed_to: how
    far out pushes have brought each axis, to its low and high side, (2, 2) %."""

    axes: int
    rest: Floats
    now: float = 0.0
    t: Floats = field(default_factory=lambda: np.empty(0))
    p: Floats = field(default_factory=lambda: np.empty((0, 2)))
    pushed_to: Floats = field(default_factory=lambda: np.zeros((2, 2)))

    def remember(self, t: Floats, p: Floats) -> None:
        self.t = np.concatenate((self.t, t))
        self.p = np.concatenate((self.p, p))
        keep = int(np.searchsorted(self.t, t[-1] - QUIET_FOR_S))
        self.t, self.p = self.t[keep:], self.p[keep:]
        self.now = float(t[-1])

    def quiet(self) -> bool:
        """Whether the stick has kept still for half a second."""
        if self.t[-1] - self.t[0] < 0.8 * QUIET_FOR_S:
            return False
        spread = [high - low for low, high in (self.span(i) for i in range(self.p.shape[1]))]
        return max(spread) < QUIET_WITHIN

    def span(self, axis: int, trimmed: float = 0.05) -> tuple[float, float]:
        """Between which values an axis lay in the last half second, a share at each end left out."""
        ordered = np.sort(self.p[:, axis])
        return quantile(ordered, trimmed), quantile(ordered, 1 - trimmed)

    def settle(self) -> None:
        """Take the last half second for the rest."""
        self.rest = centre(self.p)


@dataclass(frozen=True)
class Part:
    """How much of one part of a step is done: releases toward an hour, laps one way, seconds."""

    label: str
    done: float
    wanted: float


@dataclass(frozen=True)
class Coaching:
    """What a follower has to say: the one thing to do now, and what went right or wrong before."""

    phase: Phase
    says: str
    parts: tuple[Part, ...]
    space: SpaceDoes = "none"
    note: str = ""


class Follower(Protocol):
    """Follows one step."""

    done: bool

    def feed(self, t: Floats, p: Floats) -> bool:
        """Take samples in: t (n,) seconds, p (n, 2) %. Whether they belong to the step."""
        ...

    def start(self) -> None:
        """Begin although the follower still waits."""
        ...

    def coaching(self) -> Coaching: ...
