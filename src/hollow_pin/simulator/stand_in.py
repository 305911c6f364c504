"""A stand-in controller: a stick, the hand on it, and the numbers that come out.

The tilt obeys forces: spring, damping, dry friction in each bearing, the gate, the hand. The tilt
is sensed with all its faults, and the sensed signal is calibrated and converted as a controller's
own program would. `clean` in what it yields is the signal with neither noise nor conversion: the
truth that tests hold the readings against. Nothing that measures sees it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import ceil, hypot, pi

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AxisRange, Floats
from hollow_pin.simulator.hand import Hand
from hollow_pin.simulator.stick import Calibration, Sensor, Stick

LONGEST_STEP_S = 0.0013
HAND_HZ = 22.0
HYSTERESIS = 12.0
"""How far a stick must move for a worn contact to change sides, %."""
SPIKES_PER_S = 1.8
WANDER_S = 2.0
SPECK_SHARE = 0.6
SPECKS = 9
SPECK_WIDTH = 1.4


@dataclass(frozen=True, eq=False)
class Samples:
    """t_us (n,) int64; raw (n, k) as reported; clean (n, 2) the noise-free signal, %."""

    t_us: NDArray[np.int64]
    raw: Floats
    clean: Floats


class _SensedAxis:
    """A sensor in use: its contact's state, its specks of dirt, its random streams."""

    def __init__(self, sensor: Sensor, rng: np.random.Generator) -> None:
        self.s = sensor
        self._rng = rng
        self._side = 0.0
        self._wander = 0.0
        self._last = 0.0
        track = np.random.default_rng(sensor.grain)
        self._specks = track.uniform(-90, 90, SPECKS)
        self._heights = track.uniform(-6, 6, SPECKS)
        self._spike_left = 0
        self._spike = 0.0

    def clean(self, tilt: Floats, other: Floats) -> Floats:
        """The signal without noise along a path of tilts (n,), %."""
        s = self.s
        gain = np.where(tilt > 0, s.gain_plus, s.gain_minus)
        x = tilt / 100.0
        value = s.offset + gain * tilt - s.bend * x * (1 - x * x) + s.cross * other
        if s.dirt:
            value += s.dirt * SPECK_SHARE * self._specks_at(tilt)
        if s.wear:
            value += s.wear * self._worn(tilt) * self._sides(tilt)
        self._last = float(tilt[-1])
        return np.asarray(value)

    def _worn(self, tilt: Floats) -> Floats:
        return np.asarray(np.exp(-np.square(tilt / self.s.wear_width)))

    def _sides(self, tilt: Floats) -> Floats:
        """Which side of the worn place the contact rides on, −1 to 1; it follows the movement."""
        moved = np.diff(tilt, prepend=self._last)
        stay = np.exp(-np.abs(moved) / HYSTERESIS)
        toward = np.sign(moved) * (1 - stay)
        sides = np.empty(len(tilt))
        side = self._side
        for i, (keep, add) in enumerate(zip(stay.tolist(), toward.tolist(), strict=True)):
            side = keep * side + add
            sides[i] = side
        self._side = side
        return sides

    def disturbance(self, tilt: Floats, interval_s: float) -> Floats:
        """What noise, a wandering contact and dirt add along a path of tilts (n,), %."""
        s = self.s
        n = len(tilt)
        worn = self._worn(tilt) if s.wear else np.zeros(n)
        added = self._rng.standard_normal(n) * s.noise * (1.0 + 0.15 * s.wear * worn)
        if s.wear:
            added += worn * self._stroll(n, interval_s)
        if s.dirt:
            crackle = self._rng.uniform(-0.4, 0.4, n) * self._specks_at(tilt)
            added += s.dirt * (crackle + self._spikes(n, interval_s))
        return np.asarray(added)

    def _stroll(self, n: int, interval_s: float) -> Floats:
        """Where a worn contact wanders to by itself: an Ornstein–Uhlenbeck path."""
        pull = interval_s / WANDER_S
        kicks = self.s.wander * self.s.wear * (2 * pull) ** 0.5 * self._rng.standard_normal(n)
        path = np.empty(n)
        at = self._wander
        for i, kick in enumerate(kicks.tolist()):
            at = (1 - pull) * at + kick
            path[i] = at
        self._wander = at
        return path

    def _specks_at(self, tilt: Floats) -> Floats:
        near = np.exp(-np.square((tilt[:, None] - self._specks) / SPECK_WIDTH))
        return np.asarray(near @ self._heights)

    def _spikes(self, n: int, interval_s: float) -> Floats:
        """Instants at which the contact is lost, a few milliseconds each."""
        spikes = np.zeros(n)
        spikes[: self._spike_left] = self._spike
        self._spike_left = max(0, self._spike_left - n)
        chance = self.s.dirt * SPIKES_PER_S * interval_s
        for at in np.flatnonzero(self._rng.random(n) < chance):
            self._spike = float(self._rng.uniform(4, 14) * self._rng.choice((-1, 1)))
            length = max(1, round(float(self._rng.uniform(0.004, 0.014)) / interval_s))
            spikes[at : at + length] = self._spike
            self._spike_left = max(0, int(at) + length - n)
        return spikes


class StandIn:
    """A running stand-in. Same seed and same cues, same samples."""

    def __init__(self, stick: Stick, seed: int, single_axis: bool = False) -> None:
        self.stick = stick
        self.hand = Hand(seed + 1, single_axis, stick.body.gate)
        self._rng = np.random.default_rng(seed)
        self._axes = 1 if single_axis else 2
        self._x, self._y = (
            _SensedAxis(s, np.random.default_rng([seed, i]))
            for i, s in enumerate((stick.module.x, stick.module.y))
        )
        self._tilt = (0.0, 0.0)
        self._speed = (0.0, 0.0)
        self._now = 0.0
        self._next_s = 0.0
        self._laid_down()

    def _laid_down(self) -> None:
        """Before it is measured somebody has pushed it somewhere and let go."""
        angle, rate = self._rng.uniform(0, 2 * pi), self.stick.converter.rate_hz
        self.hand.steer((110 * float(np.cos(angle)), 110 * float(np.sin(angle))))
        self.run(round(0.3 * rate))
        self.hand.steer(None)
        self.run(round(0.8 * rate))
        self._now = self._next_s = 0.0

    @property
    def now(self) -> float:
        """Seconds of its own time since it was switched on."""
        return self._now

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return (AxisRange(0, self.stick.converter.hi),) * self._axes

    def run(self, count: int) -> Samples:
        """The next `count` samples."""
        converter = self.stick.converter
        interval = 1.0 / converter.rate_hz
        late = self._rng.normal(0, converter.timing_ms / 1e3, count)
        late = np.clip(late, -0.4 * interval, 0.4 * interval)
        due = self._next_s + interval * np.arange(1, count + 1)
        self._next_s = float(due[-1])
        t_us = np.round((due + late) * 1e6).astype(np.int64)
        tilts = np.empty((count, 2))
        for i, t in enumerate((t_us / 1e6).tolist()):
            self._move(t - self._now)
            tilts[i] = self._tilt
        x, y = tilts.T
        clean = np.column_stack((self._x.clean(x, y), self._y.clean(y, x)))
        signal = clean + np.column_stack(
            (self._x.disturbance(x, interval), self._y.disturbance(y, interval))
        )
        raw = self._convert(self._calibrated(signal))
        return Samples(t_us, raw[:, : self._axes], self._calibrated(clean))

    def _calibrated(self, signal: Floats) -> Floats:
        c = self.stick.calibration
        moved = signal - c.centre
        return np.asarray(moved * 100.0 / np.where(moved > 0, c.plus, c.minus))

    def _convert(self, u: Floats) -> Floats:
        hi = self.stick.converter.hi
        return np.asarray(np.clip(np.round((u + 100.0) / 200.0 * hi), 0, hi))

    def _move(self, seconds: float) -> None:
        (x, y), (vx, vy) = self._tilt, self._speed
        aim = self.hand.at(self._now)
        self._now += seconds
        if aim is None and not vx and not vy and self._held_by_friction(x, y):
            return
        body = self.stick.body
        steps = max(1, ceil(seconds / LONGEST_STEP_S))
        dt = seconds / steps
        spring = (2 * pi * body.spring_hz) ** 2
        drag = 2 * body.damping * 2 * pi * body.spring_hz
        hold_x, hold_y = body.friction_x * spring * dt, body.friction_y * spring * dt
        pull_x = pull_y = 0.0
        if aim is not None:
            grip = (2 * pi * HAND_HZ) ** 2
            pull_x, pull_y = (grip + spring) * aim[0], (grip + spring) * aim[1]
            spring += grip
            drag += 4 * pi * HAND_HZ
        for _ in range(steps):
            vx += (pull_x - spring * x - drag * vx) * dt
            vy += (pull_y - spring * y - drag * vy) * dt
            vx = 0.0 if abs(vx) <= hold_x else vx - (hold_x if vx > 0 else -hold_x)
            vy = 0.0 if abs(vy) <= hold_y else vy - (hold_y if vy > 0 else -hold_y)
            x += vx * dt
            y += vy * dt
            if x * x + y * y > body.reach**2:
                x, y, vx, vy = self._stopped_by_gate(x, y, vx, vy)
        self._tilt, self._speed = (x, y), (vx, vy)

    def _held_by_friction(self, x: float, y: float) -> bool:
        body = self.stick.body
        return abs(x) <= body.friction_x and abs(y) <= body.friction_y

    def _stopped_by_gate(
        self, x: float, y: float, vx: float, vy: float
    ) -> tuple[float, float, float, float]:
        reach = self.stick.body.reach
        if self.stick.body.gate == "square":
            if abs(x) > reach:
                x, vx = (reach if x > 0 else -reach), 0.0
            if abs(y) > reach:
                y, vy = (reach if y > 0 else -reach), 0.0
            return x, y, vx, vy
        r = hypot(x, y)
        nx, ny = x / r, y / r
        outward = max(0.0, vx * nx + vy * ny)
        return reach * nx, reach * ny, vx - outward * nx, vy - outward * ny


def recalibrated(stick: Stick, seed: int) -> Stick:
    """The controller's own calibration: extents first, then centre samples after four pushes.

    It takes away offset and scale as far as the stick itself comes back to one place.
    """
    bare = replace(stick, calibration=Calibration())
    bench = StandIn(bare, seed)
    rate = bare.converter.rate_hz

    def signal(aim: tuple[float, float] | None, seconds: float) -> Floats:
        bench.hand.steer(aim)
        settled = bench.run(int(seconds * rate)).clean[-int(0.1 * rate) :]
        return np.asarray(settled.mean(axis=0))

    ends, centres = [], []
    for aim in ((120.0, 0.0), (0.0, 120.0), (-120.0, 0.0), (0.0, -120.0)):
        ends.append(signal(aim, 0.6))
        centres.append(signal(None, 1.0))
    centre = np.mean(centres, axis=0)
    plus = (ends[0][0] - centre[0], ends[1][1] - centre[1])
    minus = (centre[0] - ends[2][0], centre[1] - ends[3][1])
    return replace(
        stick,
        calibration=Calibration(
            (float(centre[0]), float(centre[1])),
            (float(minus[0]), float(minus[1])),
            (float(plus[0]), float(plus[1])),
        ),
    )
