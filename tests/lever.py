"""Single axes by physics and hands of their own: a lever that springs back, a paddle that stays.

Written apart from the simulator and from the gimbal; faults go in by name, a take comes out. All is %
of half range, at 1 kHz until a device reads it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from hollow_pin.core.recording import STEPS, AxisRange, Recording

Path = NDArray[np.float64]
RATE = 1000


@dataclass(frozen=True)
class Axis:
    """What is wrong with it, and who moves it.

    high_end, scale: what its high end, and all of it, reads of what it should. stops_short: how far on
    the way back from the high end. late: how far off it is at once, creeping back. apart: how far the
    ways it came on lie apart at the centre, on a worn track. wanders: RMS where it lies. rough, dead:
    stretches of the track. spikes: a minute. jumps: a second, to an end or the middle. drops: a
    second, held over to the high end. zone: a dead zone with a jump at its edge. thrown: the hand goes
    from one end straight to the other.
    """

    offset: float = 0.0
    scale: float = 1.0
    high_end: float = 1.0
    stops_short: float = 0.0
    late: float = 0.0
    apart: float = 0.0
    wanders: float = 0.0
    rough: tuple[float, float, float] | None = None
    dead: tuple[float, float] | None = None
    spikes: float = 0.0
    jumps: float = 0.0
    drops: float = 0.0
    sags: float = 0.0
    hums: float = 0.0
    noise: float = 0.06
    zone: float = 0.0
    thrown: bool = False


SOUND = Axis()


def _samples(seconds: float) -> int:
    return max(2, round(seconds * RATE))


def _going(a: float, b: float, seconds: float) -> Path:
    s = np.linspace(0.0, 1.0, _samples(seconds))
    return a + (b - a) * s**3 * (10 - 15 * s + 6 * s * s)


def _staying(at: float, seconds: float) -> Path:
    return np.full(_samples(seconds), at)


def _let_go(top: float, end: float, late: float, seconds: float) -> Path:
    t = np.arange(_samples(seconds)) / RATE
    damping, speed = 0.85, 2 * np.pi * 12
    swing = speed * np.sqrt(1 - damping**2)
    way = np.exp(-damping * speed * t) * (
        np.cos(swing * t) + damping / np.sqrt(1 - damping**2) * np.sin(swing * t)
    )
    creep = np.sign(top) * late * np.exp(-t / 0.35) * (1 - np.exp(-t / 0.02))
    return end + (top - end) * way + creep


def _passes(rng: np.random.Generator) -> list[Path]:
    """Four, each of about three seconds, that begin at the low end and stop there."""
    parts = []
    for way in (1, -1, 1, -1):
        parts += [_going(-100.0 * way, 100.0 * way, rng.uniform(2.6, 3.4))]
        parts += [_staying(100.0 * way, rng.uniform(0.1, 0.3))]
    return parts


def _lever(axis: Axis, rng: np.random.Generator) -> list[tuple[str, Path]]:
    def comes_to(way: int) -> float:
        held = axis.stops_short * rng.uniform(0.8, 1.0) if way > 0 else 0.0
        return way * 0.25 * rng.uniform(0.7, 1.0) + rng.normal(0, 0.04) + held

    rest = comes_to(1)
    steps = [("still", _staying(rest, 10.0)), ("let-go", _staying(rest, 0.6))]
    for way in (1, -1) * 4:
        top, end = 100.0 * way, comes_to(way)
        push = [_going(rest, top, rng.uniform(0.1, 0.2)), _staying(top, rng.uniform(0.2, 0.4))]
        back = _let_go(top, end, axis.late, rng.uniform(1.5, 2.0))
        steps.append(("let-go", np.concatenate((*push, back))))
        rest = end
    crossing = [_staying(rest, 0.4), _going(rest, -100.0, 0.4), *_passes(rng)]
    steps += [("crossing-x", np.concatenate(crossing)), ("hold", _going(-100.0, 0.0, 0.5))]
    high = _staying(100.0, 3.0)
    high -= axis.sags * np.linspace(0, 1, len(high))
    for begins in rng.uniform(0.4, 2.7, rng.poisson(3 * axis.drops)):
        high[int(begins * RATE) :][: int(rng.uniform(0.02, 0.06) * RATE)] = rng.uniform(0, 40)
    across = [_going(high[-1], -100.0, 0.25)]
    if not axis.thrown:
        across = [_going(high[-1], 0, 0.2), _staying(0, 0.5), _going(0, -100.0, 0.3)]
    held = [_going(0.0, 100.0, 0.3), high, *across, _staying(-100.0, 3.0), _going(-100.0, 0.0, 0.2)]
    return [*steps, ("hold", np.concatenate(held))]


def _paddle(rng: np.random.Generator) -> list[tuple[str, Path]]:
    parts = [_going(rng.uniform(-30, 30), -100.0, 0.6), *_passes(rng)]
    for place in (-70.0, 0.0, 70.0):
        to = place + rng.uniform(-12, 12)
        parts.append(_going(parts[-1][-1], to, rng.uniform(0.5, 1.0)))
        t = np.arange(_samples(rng.uniform(6.2, 7.5))) / RATE
        parts.append(to + rng.uniform(-0.4, 0.4) * (1 - np.exp(-t / 0.05)))
    return [("turn", np.concatenate(parts))]


def _slow(n: int, rng: np.random.Generator) -> Path:
    """What goes about by one, over about two seconds."""
    keeps = np.exp(-1 / (2.0 * RATE))
    return np.asarray(lfilter([np.sqrt(1 - keeps**2)], [1.0, -keeps], rng.normal(size=n)))


def _read(axis: Axis, at: Path, rng: np.random.Generator) -> Path:
    """What the sensor makes of where it is."""
    n = len(at)
    moving = np.abs(np.gradient(at)) > 0.02
    since = np.maximum.accumulate(np.where(moving, np.arange(n), 0))
    came = np.sign(np.gradient(at))[since]
    v = at + axis.apart / 2 * came * np.exp(-((at / 18) ** 2))
    v += axis.wanders * _slow(n, rng)
    v = np.where(v > 0, v * axis.high_end, v) * axis.scale + axis.offset
    if axis.rough:
        low, high, by = axis.rough
        v += ((at > low) & (at < high)) * by * rng.normal(size=n)
    if axis.dead:
        off = (at > axis.dead[0]) & (at < axis.dead[1])
        v = v[np.maximum.accumulate(np.where(off, 0, np.arange(n)))]
    v = v + rng.normal(0, axis.noise, n) + axis.hums * np.sin(2 * np.pi * 50 * np.arange(n) / RATE)
    for begins in rng.integers(0, n, rng.poisson(axis.spikes / 60 * n / RATE)):
        v[begins : begins + 8] += rng.choice([-15.0, 15.0])
    for begins in rng.integers(0, n, rng.poisson(axis.jumps * n / RATE)):
        v[begins : begins + int(rng.integers(10, 120))] = rng.choice([-100.0, 0.0, 100.0])
    return np.where(np.abs(v) < axis.zone, 0.0, v) if axis.zone else v


def taken(axis: Axis, seed: int, sprung: bool = True, rate: int = 250, bits: int = 12) -> Recording:
    """A take of it by its usual routine, as a device reports it."""
    rng = np.random.default_rng([seed, 41])
    steps = _lever(axis, rng) if sprung else _paddle(rng)
    v = _read(axis, np.concatenate([path for _, path in steps]), rng)
    names = np.concatenate([np.full(len(path), STEPS.index(step)) for step, path in steps])
    at = np.arange(0, len(v), RATE // rate)
    half = (2**bits - 1) / 2
    raw = np.clip(np.round(half + v[at] / 100 * half), 0, 2 * half)[:, None]
    t_us = (at * (1_000_000 // RATE)).astype(np.int64)
    return Recording(t_us, raw, (AxisRange(0, 2 * half),), names[at].astype(np.int8))


def with_(**fault: object) -> Axis:
    return replace(SOUND, **fault)  # type: ignore[arg-type]
