"""A stand-in controller: a stick, the hand on it, and the numbers that come out.

The tilt obeys forces: spring, damping, dry friction in each bearing, the gate, the hand. The tilt
is sensed with all its faults, and the sensed signal is calibrated and converted as a controller's
own program would. `clean` in what it yields is the signal with neither noise nor conversion: the
truth that tests hold the readings against. Nothing that measures sees it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import atan2, cos, floor, hypot, pi, sin

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AxisRange, Floats
from hollow_pin.simulator.hand import USUAL, Hand, Manner
from hollow_pin.simulator.stick import Calibration, Sensor, Stick, Surroundings
from hollow_pin.simulator.trims import Turning

LONGEST_STEP_S = 0.0013
HAND_HZ = 22.0
HYSTERESIS = 12.0
"""How far a stick must move for a worn contact to change sides, %."""
SPIKES_PER_S = 1.8
WANDER_S = 2.0
SPECK_SHARE = 0.6
SPECKS = 9
SPECK_WIDTH = 1.4
FAILS_BEYOND = 60.0
FADE_S = 2.5
RECOVER_S = 0.05
UNSPRUNG_HZ = 16.0
OCTAGON_IN = cos(pi / 8)
"""How far the sides of an octagon lie from its centre, its corners at 1."""
NEARLY = 1 - 1e-9
"""Of the reach: what lies farther in touches no other gate."""
RUBS_OVER = pi / 9
AS_MADE = Calibration()


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
        self._beyond = 0.0
        self._faded = 0.0
        track = np.random.default_rng(sensor.grain)
        self._specks = track.uniform(-90, 90, SPECKS)
        self._heights = track.uniform(-6, 6, SPECKS)
        self._crackle = _Episodes(rng)
        self._losses = _Episodes(rng)
        self._jumps = _Episodes(rng)

    def clean(self, tilt: Floats, other: Floats, warmth: Floats, interval_s: float) -> Floats:
        """The signal without noise along a path of tilts (n,), %. warmth (n,): °C above usual."""
        s = self.s
        touched = self._across(tilt) if s.dead_width else tilt
        gain = np.where(touched > 0, s.gain_plus, s.gain_minus) * (1 + s.drift_gain * warmth)
        x, sideways = touched / 100.0, other / 100.0
        value = s.offset + s.drift_offset * warmth + gain * touched - s.bend * x * (1 - x * x)
        value += s.skew * x * x + s.cross * other + s.cross_bend * sideways * sideways
        if s.dirt:
            value += s.dirt * SPECK_SHARE * self._specks_at(touched)
        if s.wear:
            shifted = s.wear * self._sides(touched) + self._stroll(len(tilt), interval_s)
            value += self._worn(touched) * shifted
        if s.fade:
            value -= s.fade_side * self._fading(touched, interval_s)
        self._last = float(touched[-1])
        return np.asarray(value)

    def _across(self, tilt: Floats) -> Floats:
        """Where the wiper last had contact: inside the broken place, the edge it came from."""
        s = self.s
        low, high = s.dead_at - s.dead_width / 2, s.dead_at + s.dead_width / 2
        outside = (tilt <= low) | (tilt >= high)
        profile = np.concatenate(([self._beyond], tilt))
        came_from = np.where(np.concatenate(([True], outside)), np.arange(len(profile)), 0)
        latest = profile[np.maximum.accumulate(came_from)][1:]
        self._beyond = float(latest[-1])
        return np.where(outside, tilt, np.where(latest <= s.dead_at, low, high))

    def _fading(self, tilt: Floats, interval_s: float) -> Floats:
        """How far it has fallen back: slowly while held out on the failing side, back at once."""
        is_fading = (tilt * self.s.fade_side > FAILS_BEYOND).tolist()
        fall, rise = interval_s / FADE_S, min(1.0, interval_s / RECOVER_S)
        faded = np.empty(len(tilt))
        at = self._faded
        for i, out in enumerate(is_fading):
            at += (self.s.fade - at) * fall if out else -at * rise
            faded[i] = at
        self._faded = at
        return faded

    def _worn(self, tilt: Floats) -> Floats:
        return np.asarray(np.exp(-np.square(tilt / self.s.wear_width)))

    def _sides(self, tilt: Floats) -> Floats:
        """Which side of the worn place the contact rides on, −1 to 1; it follows the movement."""
        moved = tilt - np.concatenate(((self._last,), tilt[:-1]))
        stay = np.exp(-np.abs(moved) / HYSTERESIS)
        toward = np.sign(moved) * (1 - stay)
        side = self._side
        steps = zip(stay.tolist(), toward.tolist(), strict=True)
        sides = [side := keep * side + add for keep, add in steps]
        self._side = side
        return np.array(sides)

    def disturbance(self, tilt: Floats, interval_s: float, pressed: bool) -> Floats:
        """What noise, dirt and failing contacts add along a path of tilts (n,), %.

        pressed: whether a hand bears on the board.
        """
        s = self.s
        n = len(tilt)
        worn = self._worn(tilt) if s.wear else np.zeros(n)
        added = self._rng.standard_normal(n) * s.noise * (1.0 + 0.15 * s.wear * worn)
        if s.dirt:
            crackle = self._rng.uniform(-0.4, 0.4, n) * self._specks_at(tilt)
            added += s.dirt * crackle
            added += self._crackle.of(n, interval_s, s.dirt * SPIKES_PER_S, (0.004, 0.014), 4, 14)
        if s.dropouts:
            lost = self._losses.of(n, interval_s, s.dropouts, (0.01, 0.06), 20, 60)
            failing = tilt * s.fade_side > FAILS_BEYOND
            added -= s.fade_side * np.where(failing, np.abs(lost), 0.0)
        if s.loose:
            often = s.loose * (4.0 if pressed else 1.0)
            jumps = self._jumps.of(n, interval_s, often, (0.01, 0.12), 1, 2)
            to_end = np.sign(jumps) * 200.0
            added += np.where(jumps == 0, 0.0, np.where(np.abs(jumps) < 1.5, to_end, -tilt))
        return np.asarray(added)

    def _stroll(self, n: int, interval_s: float) -> Floats:
        """Where a worn contact wanders to by itself: an Ornstein–Uhlenbeck path."""
        pull = interval_s / WANDER_S
        kicks = self.s.wander * self.s.wear * (2 * pull) ** 0.5 * self._rng.standard_normal(n)
        at, keep = self._wander, 1 - pull
        path = [at := keep * at + kick for kick in kicks.tolist()]
        self._wander = at
        return np.array(path)

    def _specks_at(self, tilt: Floats) -> Floats:
        near = np.exp(-np.square((tilt[:, None] - self._specks) / SPECK_WIDTH))
        return np.asarray(near @ self._heights)


class _Episodes:
    """Short-lived events at random instants: each of a random height, either sign, and length."""

    def __init__(self, rng: np.random.Generator) -> None:
        self._rng = rng
        self._left = 0
        self._height = 0.0

    def of(
        self,
        n: int,
        interval_s: float,
        per_s: float,
        lasts_s: tuple[float, float],
        least: float,
        most: float,
    ) -> Floats:
        """The height at each of the next n samples, 0 between events."""
        heights = np.zeros(n)
        heights[: self._left] = self._height
        self._left = max(0, self._left - n)
        for at in np.flatnonzero(self._rng.random(n) < per_s * interval_s):
            self._height = float(self._rng.uniform(least, most) * self._rng.choice((-1, 1)))
            length = max(1, round(float(self._rng.uniform(*lasts_s)) / interval_s))
            heights[at : at + length] = self._height
            self._left = max(0, int(at) + length - n)
        return heights


class StandIn:
    """A running stand-in. Same seed and same cues, same samples."""

    def __init__(
        self,
        stick: Stick,
        seed: int,
        surroundings: Surroundings | None = None,
        manner: Manner = USUAL,
    ) -> None:
        self.stick = stick
        self.hand = Hand(seed + 1, stick.body.axes == 1, stick.body.gate, manner)
        self._surroundings = surroundings or Surroundings()
        self._rng = np.random.default_rng(seed)
        self._x, self._y = (
            _SensedAxis(s, np.random.default_rng([seed, i]))
            for i, s in enumerate((stick.module.x, stick.module.y))
        )
        self.turning = (
            Turning(stick.trims, np.random.default_rng([seed, 7])) if stick.trims else None
        )
        self._tilt = (0.0, 0.0)
        self._speed = (0.0, 0.0)
        self._now = 0.0
        self._next_s = 0.0
        self._given = 0
        self._reported = np.zeros(2)
        self._laid_down()

    def _laid_down(self) -> None:
        """Before it is measured somebody has pushed it somewhere and let go."""
        angle, rate = self._rng.uniform(0, 2 * pi), self.stick.converter.rate_hz
        far = 110.0 if self.stick.body.spring_hz else 60.0
        y = far * float(np.sin(angle)) if self.stick.body.axes == 2 else 0.0
        self.hand.steer((far * float(np.cos(angle)), y))
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
        return (AxisRange(0, self.stick.converter.hi),) * self.stick.body.axes

    def run(self, count: int) -> Samples:
        """The next `count` samples, less those that get lost on the way."""
        converter = self.stick.converter
        interval = 1.0 / converter.rate_hz
        late = self._rng.normal(0, converter.timing_ms / 1e3, count)
        late = np.minimum(np.maximum(late, -0.4 * interval), 0.4 * interval)
        due: Floats = np.asarray(self._next_s + interval * np.arange(1, count + 1))
        self._next_s = float(due[-1])
        t_us = np.round((due + late) * 1e6).astype(np.int64)
        tilt = self._moved(t_us / 1e6)
        return self.sensed(t_us, due, tilt, pressed=self.hand.at(self._now) is not None)

    def sensed(self, t_us: NDArray[np.int64], due: Floats, tilt: Floats, pressed: bool) -> Samples:
        """What is reported of a path of tilts (n, 2), %, at times t_us (n,), due (n,) seconds.

        pressed: whether a hand bears on the board.
        """
        converter, count = self.stick.converter, len(t_us)
        interval = 1.0 / converter.rate_hz
        x, y = tilt.T
        warmth = self._surroundings.above_usual(due)
        clean = np.empty((count, 2))
        clean[:, 0] = self._x.clean(x, y, warmth, interval)
        clean[:, 1] = self._y.clean(y, x, warmth, interval)
        turned: Floats | float = 0.0
        if self.turning is not None:
            clean, turned = self.turning.of(clean, interval)
        signal = clean + turned
        signal[:, 0] += self._x.disturbance(x, interval, pressed)
        signal[:, 1] += self._y.disturbance(y, interval, pressed)
        if converter.hum:
            signal += converter.hum * np.sin(2 * pi * converter.hum_hz * due)[:, None]
        raw = self._as_reported(self._convert(self._calibrated(signal)))
        delivered = slice(None)
        if converter.lost:
            delivered = np.flatnonzero(self._rng.random(count) >= converter.lost)  # type: ignore[assignment]
        axes = self.stick.body.axes
        return Samples(t_us[delivered], raw[delivered, :axes], self._calibrated(clean)[delivered])

    def _calibrated(self, signal: Floats) -> Floats:
        c = self.stick.calibration
        if c == AS_MADE:
            return signal
        moved = signal - c.centre
        return np.asarray(moved * 100.0 / np.where(moved > 0, c.plus, c.minus))

    def _convert(self, u: Floats) -> Floats:
        hi = self.stick.converter.hi
        u = self._without_centre(u)
        return np.asarray(np.minimum(np.maximum(np.round((u + 100.0) / 200.0 * hi), 0), hi))

    def _without_centre(self, u: Floats) -> Floats:
        """What the controller's own dead zone leaves of a signal (n, 2)."""
        converter = self.stick.converter
        zone = converter.dead_zone
        if not zone:
            return u
        if converter.dead_zone_kind == "jump":
            return np.where(np.abs(u) < zone, 0.0, u)
        full = 100.0 / (100.0 - zone)
        if converter.dead_zone_kind == "axial":
            return np.asarray(np.sign(u) * np.maximum(np.abs(u) - zone, 0.0) * full)
        r = np.hypot(u[:, 0], u[:, 1])[:, None]
        return np.asarray(u * np.maximum(r - zone, 0.0) * full / np.maximum(r, 1e-9))

    def _as_reported(self, raw: Floats) -> Floats:
        """A source that has news only every so many samples repeats the last."""
        every = self.stick.converter.news_every
        if every == 1:
            return raw
        at = np.arange(self._given, self._given + len(raw))
        self._given += len(raw)
        news = np.where(at % every == 0, np.arange(1, len(raw) + 1), 0)
        reports = np.vstack((self._reported, raw))
        reported = reports[np.maximum.accumulate(news)]
        self._reported = reported[-1]
        return np.asarray(reported)

    def _friction(self, x: float, y: float) -> tuple[float, float]:
        """How far each bearing holds the stick against the spring, here."""
        body = self.stick.body
        toward = pi * body.bind_bearing / 180
        bx, by = sin(toward), cos(toward)
        if x * bx + y * by > 0:
            return body.friction_x + body.bind * abs(bx), body.friction_y + body.bind * abs(by)
        return body.friction_x, body.friction_y

    def _moved(self, moments: Floats) -> Floats:
        """Where the stick is at each moment (n,), seconds: (n, 2) %. One sample after the other,
        each in steps short enough for the springs; so it is written for speed."""
        body, stopped = self.stick.body, STOPS[self.stick.body.gate]
        (x, y), (vx, vy), now = self._tilt, self._speed, self._now
        natural = 2 * pi * (body.spring_hz or UNSPRUNG_HZ)
        own_spring = natural**2 if body.spring_hz else 0.0
        own_drag = 2 * body.damping * natural
        grip, grip_drag = (2 * pi * HAND_HZ) ** 2, 4 * pi * HAND_HZ
        rest_x, rest_y, reach = body.friction_x, body.friction_y, body.reach
        inside = OCTAGON_IN if body.gate == "octagon" else NEARLY
        edge = (inside * reach) ** 2
        path = []
        times = moments.tolist()
        for aim, now_s in zip(self.hand.along([now, *times[:-1]]), times, strict=True):
            seconds, now = now_s - now, now_s
            if body.bind:
                rest_x, rest_y = self._friction(x, y)
            if aim is None:
                if not (vx or vy) and (
                    not own_spring or (-rest_x <= x <= rest_x and -rest_y <= y <= rest_y)
                ):
                    path.append((x, y))
                    continue
                spring, drag, pull_x, pull_y = own_spring, own_drag, 0.0, 0.0
            else:
                spring, drag = own_spring + grip, own_drag + grip_drag
                pull_x, pull_y = spring * aim[0], spring * aim[1]
            steps = int(seconds / min(LONGEST_STEP_S, 1.0 / drag)) + 1
            dt = seconds / steps
            hold_x, hold_y = rest_x * natural**2 * dt, rest_y * natural**2 * dt
            if body.rub:
                reach = self._reach_at(x, y)
                edge = (inside * reach) ** 2
            for _ in range(steps):
                vx += (pull_x - spring * x - drag * vx) * dt
                vy += (pull_y - spring * y - drag * vy) * dt
                vx = vx - hold_x if vx > hold_x else vx + hold_x if vx < -hold_x else 0.0
                vy = vy - hold_y if vy > hold_y else vy + hold_y if vy < -hold_y else 0.0
                x += vx * dt
                y += vy * dt
                if x * x + y * y > edge:
                    x, y, vx, vy = stopped(x, y, vx, vy, reach)
            path.append((x, y))
        self._tilt, self._speed, self._now = (x, y), (vx, vy), now
        return np.array(path)

    def _reach_at(self, x: float, y: float) -> float:
        """The gate where something rubs: cut short for 20° either side."""
        body = self.stick.body
        off = (atan2(x, y) - pi * body.rub_bearing / 180 + pi) % (2 * pi) - pi
        return body.reach - body.rub * max(0.0, cos(min(abs(off), RUBS_OVER) * pi / 2 / RUBS_OVER))


def _stopped_by_round(
    x: float, y: float, vx: float, vy: float, reach: float
) -> tuple[float, float, float, float]:
    r = hypot(x, y)
    over = r - reach
    if over <= 0:
        return x, y, vx, vy
    nx, ny = x / r, y / r
    outward = vx * nx + vy * ny
    if outward < 0:
        outward = 0.0
    return x - over * nx, y - over * ny, vx - outward * nx, vy - outward * ny


def _stopped_by_square(
    x: float, y: float, vx: float, vy: float, reach: float
) -> tuple[float, float, float, float]:
    if abs(x) > reach:
        x, vx = (reach if x > 0 else -reach), 0.0
    if abs(y) > reach:
        y, vy = (reach if y > 0 else -reach), 0.0
    return x, y, vx, vy


def _stopped_by_octagon(
    x: float, y: float, vx: float, vy: float, reach: float
) -> tuple[float, float, float, float]:
    side = floor(atan2(x, y) / (pi / 4)) * (pi / 4) + pi / 8
    nx, ny = sin(side), cos(side)
    over = x * nx + y * ny - reach * OCTAGON_IN
    if over <= 0:
        return x, y, vx, vy
    outward = max(0.0, vx * nx + vy * ny)
    return x - over * nx, y - over * ny, vx - outward * nx, vy - outward * ny


STOPS = {
    "round": _stopped_by_round,
    "square": _stopped_by_square,
    "octagon": _stopped_by_octagon,
}
"""Where a gate stops a stick that runs into it: place and speed, reach in %."""


def recalibrated(stick: Stick, seed: int) -> Stick:
    """The controller's own calibration: extents first, then centre samples after four pushes.

    It takes away offset and scale as far as the stick itself comes back to one place, and refuses
    where it does not.
    """
    bare = replace(stick, calibration=Calibration())
    twin = StandIn(bare, seed)
    rate = bare.converter.rate_hz

    def signal(aim: tuple[float, float] | None, seconds: float) -> Floats:
        twin.hand.steer(aim)
        settled = twin.run(int(seconds * rate)).clean[-int(0.1 * rate) :]
        return np.asarray(settled.mean(axis=0))

    ends, centres = [], []
    if not stick.body.spring_hz:
        return _ends_only(stick, signal)
    for aim in ((120.0, 0.0), (0.0, 120.0), (-120.0, 0.0), (0.0, -120.0)):
        ends.append(signal(aim, 0.6))
        centres.append(signal(None, 1.0))
    centre = np.mean(centres, axis=0)
    window = stick.converter.centre_window
    if window and float(np.ptp(centres, axis=0).max()) > window:
        return stick
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


def _ends_only(
    stick: Stick, signal: Callable[[tuple[float, float] | None, float], Floats]
) -> Stick:
    """Without a spring there is no centre to sample: the middle of the travel is taken for it."""
    high, low = (float(signal((end, 0.0), 0.6)[0]) for end in (120.0, -120.0))
    middle, half = (high + low) / 2, (high - low) / 2
    return replace(stick, calibration=Calibration((middle, 0.0), (half, 100.0), (half, 100.0)))
