"""Sticks by a third physics, which neither the simulator nor anything that was fitted knows: a gimbal
with mass, dry bearings and a wall, moved by a hand of limited force that trembles; a wiper that plays
or is lifted; a device that averages, and whose clock strays. Positions are shares of half the range.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from math import atan2, cos, hypot, pi, radians, sin, sqrt, tan

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.gate import Gate
from hollow_pin.core.recording import STEPS, AxisRange, Recording

DT = 0.001
ROUND = 2 * pi
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Stick:
    """seed: of what belongs to the stick. damping: of its spring, so low that it swings over. dry: how
    far toward its bearing, degrees, it is held by so much more. play: how far a worn wiper lags at the
    centre of x; wanders: how far it moves there by itself. specks: of dirt on x, each of which lifts
    the wiper by `lifts`, or to `to`. opens: times a second that x goes to `open_to`."""

    seed: int = 1
    gate: Gate = "round"
    damping: tuple[float, float] = (0.3, 0.75)
    bearing: float = 0.0
    dry: float = 0.0
    play: float = 0.0
    wanders: float = 0.0
    specks: tuple[float, ...] = ()
    lifts: float = 0.15
    to: float | None = None
    opens: float = 0.0
    open_to: float = 1.2


class _Plan:
    """Where a hand means to bring a stick, and whether it holds it."""

    def __init__(self) -> None:
        self.aim: list[Floats] = []
        self.held: list[bool] = []
        self.step: list[int] = []

    def go(self, step: str, seconds: float, to: Callable[[Floats], Floats] | None) -> None:
        n = max(1, round(seconds / DT))
        at = np.zeros((n, 2)) if to is None else to(np.arange(n) / n)
        self.aim.append(np.broadcast_to(at, (n, 2)))
        self.held += [to is not None] * n
        self.step += [STEPS.index(step)] * n


def _soft(share: Floats) -> Floats:
    return share**3 * (10 - 15 * share + 6 * share**2)


def _plan(rng: np.random.Generator) -> _Plan:
    plan, presses = _Plan(), rng.uniform(1.2, 1.6)

    def out(angle: float, far: float, back: bool = False) -> Callable[[Floats], Floats]:
        way = far * np.array([sin(angle), cos(angle)])
        return lambda k: np.outer(1 - _soft(k) if back else _soft(k), way)

    def there(angle: float, far: float) -> Callable[[Floats], Floats]:
        return lambda _: far * np.array([sin(angle), cos(angle)])

    plan.go("still", rng.uniform(10, 12), None)
    for turn in range(16):
        angle, far = radians(45 * turn + rng.normal(0, 5)), presses * rng.uniform(0.95, 1.3)
        plan.go("let-go", rng.uniform(0.08, 0.25), out(angle, far))
        plan.go("let-go", rng.uniform(0.2, 0.5), there(angle, far))
        plan.go("let-go", rng.uniform(1.5, 2.2), None)
    for way in (1, -1):
        first, laps, uneven = rng.uniform(0, ROUND), rng.uniform(2.3, 3.2), rng.uniform(0, 0.25)

        def lap(k: Floats, first: float = first, way: int = way, laps: float = laps) -> Floats:
            angle = first + way * (ROUND * laps * k + uneven * np.sin(3 * laps * k))  # noqa: B023
            return presses * np.column_stack((np.sin(angle), np.cos(angle)))

        plan.go("rim", 0.2, out(first, presses))
        plan.go("rim", laps * rng.uniform(1.3, 2.6), lap)
        plan.go("rim", rng.uniform(0.8, 1.3), None)
    for axis in (0, 1):
        step, askew = f"crossing-{'xy'[axis]}", tan(radians(rng.normal(0, 2)))
        line = 1.12 * np.array([1.0, askew] if axis == 0 else [askew, 1.0])
        ends = -line * _signs(int(rng.integers(5, 8)))[:, None]
        plan.go(step, 0.8, lambda k, ends=ends: np.outer(_soft(k), ends[0]))
        for a, b in pairwise(ends):
            plan.go(step, rng.uniform(2.2, 3.6), lambda k, a=a, b=b: a + np.outer(k, b - a))
            plan.go(step, rng.uniform(0.2, 0.4), lambda _, b=b: b)
        plan.go(step, 0.6, None)
    for quarter in range(4):
        angle = radians(90 * quarter + rng.normal(0, 4))
        plan.go("hold", 0.3, out(angle, presses))
        plan.go("hold", rng.uniform(3.2, 3.8), there(angle, presses))
        plan.go("hold", rng.uniform(1.0, 1.4), None)
    return plan


def _signs(n: int) -> Floats:
    return np.where(np.arange(n) % 2, -1.0, 1.0)


def _wall(gate: Gate, rng: np.random.Generator) -> Floats:
    """How far a stick gets toward each half degree: no gate is quite what it is to be."""
    angle = np.linspace(0, ROUND, 721)
    c, s = np.abs(np.cos(angle)), np.abs(np.sin(angle))
    reach = np.ones_like(angle)
    if gate == "square":
        reach = 1 / np.maximum(c, s)
    if gate == "octagon":
        reach = cos(pi / 8) / np.cos(angle % (pi / 4) - pi / 8)
    for n in (2, 3, 4, 5):
        reach = reach * (
            1 + rng.uniform(0, 0.004) / (n - 1) * np.cos(n * angle + rng.uniform(0, 6))
        )
    return reach


def _moved(
    stick: Stick, plan: _Plan, own: np.random.Generator, hand: np.random.Generator
) -> Floats:
    """Where the stick is at each millisecond, (n, 2)."""
    aim = np.concatenate(plan.aim).copy()
    t = np.arange(len(aim)) * DT
    for i in (0, 1):
        strays = hand.normal(0, 0.008, round(t[-1] / 0.4) + 2)
        aim[:, i] += np.interp(t, 0.4 * np.arange(len(strays)), strays)
        aim[:, i] += hand.uniform(0.002, 0.006) * np.sin(ROUND * hand.uniform(8, 11) * t)
    fades = hand.integers(5, 15)
    grip = np.convolve(plan.held, np.ones(fades) / fades)[: len(aim)] * hand.uniform(6, 14)
    natural, damping = ROUND * own.uniform(11, 20), own.uniform(*stick.damping)
    dry_x, dry_y = own.uniform(0.0015, 0.007, 2).tolist()
    wall, toward = _wall(stick.gate, own).tolist(), radians(stick.bearing)
    more_x, more_y = stick.dry * abs(sin(toward)), stick.dry * abs(cos(toward))
    stiff, rubs = natural**2, natural**2 * DT
    slows = 1 + 2 * natural * (damping + np.sqrt(grip)) * DT
    x = y = vx = vy = 0.0
    path = []
    for (ax, ay), g, slow in zip(aim.tolist(), grip.tolist(), slows.tolist(), strict=True):
        vx = (vx + DT * (stiff * (g * (ax - x) - x))) / slow
        vy = (vy + DT * (stiff * (g * (ay - y) - y))) / slow
        rub_x, rub_y = rubs * dry_x, rubs * dry_y
        if stick.dry and x * sin(toward) + y * cos(toward) > 0:
            rub_x, rub_y = rubs * (dry_x + more_x), rubs * (dry_y + more_y)
        vx = vx - rub_x if vx > rub_x else vx + rub_x if vx < -rub_x else 0.0
        vy = vy - rub_y if vy > rub_y else vy + rub_y if vy < -rub_y else 0.0
        x += vx * DT
        y += vy * DT
        far = hypot(x, y)
        if far > 0.6:
            most = wall[int(atan2(x, y) % ROUND / ROUND * 720)]
            if far > most:
                nx, ny = x / far, y / far
                into = max(0.0, vx * nx + vy * ny)
                x, y, vx, vy = nx * most, ny * most, vx - into * nx, vy - into * ny
        path.append((x, y))
    return np.array(path)


def _sensed(
    stick: Stick, tilt: Floats, own: np.random.Generator, rng: np.random.Generator
) -> Floats:
    """What the sensors say of it, (n, 2), by a device that was calibrated once."""
    n = len(tilt)
    bend = own.uniform(-0.012, 0.012, 2)
    value = tilt + bend * (tilt**3 - tilt)
    x = value[:, 0]
    if stick.play or stick.wanders:
        worn, lag, lags = np.exp(-((x / 0.16) ** 2)), rng.uniform(-1, 1), []
        for went in np.diff(x, prepend=x[0]).tolist():
            lag = max(-1.0, min(1.0, lag + went / 0.05))
            lags.append(lag)
        keeps, by_itself = np.exp(-DT / 1.5), [0.0]
        for kick in rng.normal(0, sqrt(1 - keeps**2), n - 1).tolist():
            by_itself.append(keeps * by_itself[-1] + kick)
        x = x + worn * (stick.play * np.array(lags) + stick.wanders * np.array(by_itself))
    for speck in stick.specks:
        loosely = np.abs(np.convolve(rng.normal(size=n), np.ones(4) / 2, "same")) > 0.8
        on = (np.abs(tilt[:, 0] - speck) < own.uniform(0.004, 0.02)) & loosely
        x = np.where(on, x - stick.lifts if stick.to is None else stick.to, x)
    at = 0
    while stick.opens and (at := at + 1 + int(rng.exponential(1 / stick.opens) / DT)) < n:
        until = at + int(rng.uniform(8, 140))
        x[at:until] = stick.open_to
        at = until
    value = np.column_stack((x, value[:, 1]))
    over = own.uniform(1.0, 1.07) * own.uniform(0.985, 1.015, (2, 2))
    value = np.where(value >= 0, value * over[0], value * over[1]) + own.normal(0, 0.006, 2)
    value = value + rng.normal(0, own.uniform(0.0003, 0.001), value.shape)
    of = int(own.integers(1, 5))
    return np.column_stack([np.convolve(v, np.ones(of) / of)[:n] for v in value.T])


def signal(stick: Stick, hand: int = 0) -> tuple[Floats, NDArray[np.int8]]:
    """What the sensors say at each millisecond, (n, 2), and the step, (n,)."""
    own = np.random.default_rng([stick.seed, 4242])
    chance = np.random.default_rng([stick.seed, 4242, hand])
    plan = _plan(chance)
    tilt = _moved(stick, plan, own, chance)
    return _sensed(stick, tilt, own, chance), np.array(plan.step, np.int8)


def taken(stick: Stick, rate: float = 250.0, bits: int = 12, hand: int = 0) -> Recording:
    """A whole take of it."""
    sent, step = signal(stick, hand)
    chance = np.random.default_rng([stick.seed, hand, 7])
    at = np.arange(0, len(sent), 1 / (rate * DT)).astype(np.intp)
    top = 2**bits - 1
    raw = np.clip(np.round((sent[at] + 1) / 2 * top), 0, top)
    steps = np.maximum(0.2, 1 + chance.normal(0, 0.02, len(at)))
    t_us = np.round(np.cumsum(steps) * 1e6 / rate).astype(np.int64)
    return Recording(t_us, raw, (AxisRange(0, top),) * 2, step[at])
