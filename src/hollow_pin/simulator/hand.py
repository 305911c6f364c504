"""The hand that performs the routine: pushes, lets go, goes round the edge. Never twice the same."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import cos, pi, radians, sin

import numpy as np

from hollow_pin.core.gate import Gate

PRESSED: dict[Gate, float] = {"round": 118.0, "square": 165.0, "octagon": 120.0}
"""Where a hand aims that presses against a gate: beyond it, into the corners of a square one."""


@dataclass(frozen=True)
class Motion:
    """One stretch of a hand's movement, from one aim to another.

    held: whether the hand touches the stick. Angles are bearings in degrees; radius in %. steady: at
    one speed from end to end.
    """

    seconds: float
    held: bool
    angle: float = 0.0
    angle_to: float = 0.0
    radius: float = 0.0
    radius_to: float = 0.0
    steady: bool = False

    @property
    def stays(self) -> bool:
        """Whether it is held in one place."""
        return self.angle == self.angle_to and self.radius == self.radius_to

    def aim(self, done: float) -> tuple[float, float]:
        """Where the hand wants the stick at a share `done` of the stretch, 0 to 1: (x, y)."""
        swings = self.angle == self.angle_to and not self.steady
        ease = 0.5 - 0.5 * cos(pi * done) if swings else done
        r = self.radius + (self.radius_to - self.radius) * ease
        a = radians(self.angle + (self.angle_to - self.angle) * done)
        return r * sin(a), r * cos(a)


@dataclass(frozen=True)
class Manner:
    """How a hand goes about it. askew: standard deviation, in degrees, of the line it crosses along.
    presses: how hard it presses outward, as a share of the usual. pace: how fast, as one. rolls_out:
    degrees around the rim on which it comes out to it, instead of straight. pushes: how long it takes
    to push out for a release or a hold, and waits: how long it waits after a release, as shares of the
    usual."""

    askew: float = 1.2
    presses: float = 1.0
    pace: float = 1.0
    rolls_out: float = 0.0
    pushes: float = 1.0
    waits: float = 1.0


USUAL = Manner()


class Hand:
    """A hand that does whichever step it is told. Seeded; speed and aim vary as a person's do."""

    def __init__(
        self, seed: int, single_axis: bool = False, gate: Gate = "round", manner: Manner = USUAL
    ) -> None:
        self._rng = np.random.default_rng(seed)
        self._single = single_axis
        self._pressed = PRESSED[gate] * manner.presses
        self._manner = manner
        self._motions: Iterator[Motion] = iter(())
        self._motion = Motion(1e9, held=False)
        self._began = 0.0
        self._step: str | None = None
        self._aim: tuple[float, float] | None = None

    def cue(self, step: str | None, now: float) -> None:
        """Do a step from now on; None takes the hand away."""
        if step == self._step:
            return
        self._step = step
        performances = {
            "let-go": self._let_go,
            "rim": self._rim,
            "crossing-x": lambda: self._crossing(90.0),
            "crossing-y": lambda: self._crossing(0.0),
            "hold": self._hold,
            "turn": self._turn,
            "sweep": self._sweep,
        }
        self._motions = performances[step]() if step in performances else iter(())
        self._next(now)

    def steer(self, aim: tuple[float, float] | None) -> None:
        """Let somebody else hold the stick: an aim in %, or None to let go. Ends the performance."""
        self._motions, self._motion = iter(()), Motion(1e9, held=False)
        self._aim = aim

    def at(self, now: float) -> tuple[float, float] | None:
        """Where the hand pulls the stick at a moment, or None when it does not touch it."""
        return self.along([now])[0]

    def along(self, times: list[float]) -> list[tuple[float, float] | None]:
        """Where it pulls the stick at each of several moments, one after the other."""
        if self._aim is not None:
            return [self._aim] * len(times)
        aims: list[tuple[float, float] | None] = []
        while len(aims) < len(times):
            while times[len(aims)] - self._began >= self._motion.seconds:
                self._next(self._began + self._motion.seconds)
            began, motion = self._began, self._motion
            due = [t for t in times[len(aims) :] if t - began < motion.seconds]
            if not motion.held:
                aims += [None] * len(due)
            elif motion.stays:
                aims += [motion.aim(0.0)] * len(due)
            else:
                aims += [motion.aim((t - began) / motion.seconds) for t in due]
        return aims

    def _next(self, now: float) -> None:
        self._motion = next(self._motions, Motion(1e9, held=False))
        self._began = now

    def _vary(self, value: float, share: float) -> float:
        return float(value * self._rng.uniform(1 - share, 1 + share))

    def _let_go(self) -> Iterator[Motion]:
        yield Motion(self._vary(0.5, 0.2), held=False)
        bearings = [90.0, 270.0] if self._single else [45.0 * i for i in range(8)]
        while True:
            for b in bearings:
                a = b + float(self._rng.normal(0, 4))
                press = self._vary(self._pressed, 0.04)
                seconds = self._vary(0.14, 0.3) * self._manner.pushes
                yield Motion(seconds, True, a, a, 5.0, press)
                yield Motion(self._vary(0.3, 0.2), True, a, a, press, press)
                yield Motion(self._vary(1.75, 0.05) * self._manner.waits, held=False)

    def _rim(self) -> Iterator[Motion]:
        yield Motion(self._vary(0.4, 0.2), held=False)
        while True:
            for way in (1, -1):
                a = float(self._rng.uniform(0, 360))
                out = a + way * self._manner.rolls_out
                yield Motion(0.2, True, a, out, 5.0, self._pressed)
                a = out
                for _ in range(22):
                    to = a + way * 51.0
                    press = self._vary(self._pressed, 0.03)
                    seconds = self._vary(0.22, 0.25) / self._manner.pace
                    yield Motion(seconds, True, a, to, press, press)
                    a = to
            yield Motion(self._vary(1.0, 0.2), held=False)

    def _pass(self, bearing: float, way: int) -> Motion:
        """Slowly through the centre, from one end to the other."""
        far = 112.0 * way
        return Motion(
            self._vary(2.7, 0.08) / self._manner.pace,
            True,
            bearing,
            bearing,
            -far,
            far,
            steady=True,
        )

    def _crossing(self, bearing: float) -> Iterator[Motion]:
        yield Motion(self._vary(0.4, 0.2), held=False)
        b = bearing + float(self._rng.normal(0, self._manner.askew))
        yield Motion(self._vary(0.5, 0.2), True, b, b, 0.0, -112.0)
        way = 1
        while True:
            yield self._pass(b, way)
            yield Motion(self._vary(0.25, 0.2), True, b, b, 112.0 * way, 112.0 * way)
            way = -way

    def _hold(self) -> Iterator[Motion]:
        """Each direction in turn; the next round longer, in case this one was not enough."""
        yield Motion(self._vary(0.4, 0.2), held=False)
        longer = 1.0
        while True:
            for bearing in (90.0, 270.0) if self._single else (0.0, 90.0, 180.0, 270.0):
                b = bearing + float(self._rng.normal(0, 3))
                seconds = self._vary(0.2, 0.2) * self._manner.pushes
                yield Motion(seconds, True, b, b, 5.0, self._pressed)
                yield Motion(
                    longer * self._vary(3.9, 0.05), True, b, b, self._pressed, self._pressed
                )
                yield Motion(self._vary(0.9, 0.1), held=False)
            longer *= 2

    def _turn(self) -> Iterator[Motion]:
        while True:
            yield from (m for _, m in zip(range(12), self._crossing(90.0), strict=False))
            at = 112.0
            for place in (-80.0, 3.0, 80.0):
                yield Motion(self._vary(1.2, 0.1), True, 90.0, 90.0, at, place)
                yield Motion(self._vary(7.4, 0.05), held=False)
                at = place

    def _sweep(self) -> Iterator[Motion]:
        """As a source is tried out: across the middle both ways, up and down, once round; again."""
        while True:
            for bearing in (90.0,) if self._single else (90.0, 0.0):
                yield Motion(self._vary(0.3, 0.2), True, bearing, bearing, 0.0, -112.0)
                for way in (1, -1, 1, -1):
                    seconds = self._vary(0.9, 0.1) / self._manner.pace
                    far = 112.0 * way
                    yield Motion(seconds, True, bearing, bearing, -far, far, steady=True)
                yield Motion(self._vary(0.3, 0.2), True, bearing, bearing, -112.0, 0.0)
            if not self._single:
                press = self._vary(self._pressed, 0.03)
                yield Motion(0.2, True, 0.0, 0.0, 5.0, press)
                yield Motion(self._vary(1.8, 0.1), True, 0.0, 380.0, press, press)
