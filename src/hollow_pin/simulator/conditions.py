"""What can be wrong with a stand-in controller: the faults of the bench, alone and together."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from hollow_pin.core.gate import Gate
from hollow_pin.simulator.stick import (
    LOT_OF_KIND,
    LOTS,
    Body,
    Calibration,
    Converter,
    Sensor,
    SensorKind,
    Stick,
    draw_module,
)

Change = Callable[[Stick, np.random.Generator], Stick]
BOTH: tuple[SensorKind, ...] = ("potentiometer", "hall")
TRACK: tuple[SensorKind, ...] = ("potentiometer",)


@dataclass(frozen=True)
class Condition:
    """One thing that can be wrong. kinds: the sensors it can befall; unsprung: whether it makes sense
    where there is no spring."""

    id: str
    label: str
    change: Change
    kinds: tuple[SensorKind, ...] = BOTH
    unsprung: bool = True


def _each(stick: Stick, x: dict[str, float], y: dict[str, float]) -> Stick:
    m = stick.module
    return replace(stick, module=replace(m, x=replace(m.x, **x), y=replace(m.y, **y)))  # type: ignore[arg-type]


def _one(stick: Stick, rng: np.random.Generator, **values: float) -> Stick:
    """A change of one sensor: of x mostly, since left and right are used most."""
    one_axis = stick.body.axes == 1 or rng.random() < 0.7
    return _each(stick, values, {}) if one_axis else _each(stick, {}, values)


def sound(stick: Stick, rng: np.random.Generator) -> Stick:
    x, y = (float(rng.normal(0, 0.6)) for _ in range(2))
    return _each(stick, {"offset": x}, {"offset": y})


def offset(stick: Stick, rng: np.random.Generator) -> Stick:
    angle, away = rng.uniform(0, 2 * np.pi), rng.uniform(8, 13)
    x, y = float(away * np.cos(angle)), float(away * np.sin(angle))
    return _each(stick, {"offset": x}, {"offset": y})


def worn(stick: Stick, rng: np.random.Generator) -> Stick:
    x = {"wear": float(rng.uniform(6.0, 9.0)), "offset": float(rng.normal(0, 3))}
    y = {"wear": float(rng.uniform(2.0, 4.0)), "offset": float(rng.normal(0, 2))}
    return _each(stick, x, y)


def dirty(stick: Stick, rng: np.random.Generator) -> Stick:
    return _each(stick, {"dirt": float(rng.uniform(0.7, 1.0)), "noise": 0.2}, {})


def binding(stick: Stick, rng: np.random.Generator) -> Stick:
    toward = float(rng.uniform(0, 360))
    body = replace(
        stick.body,
        bind=float(rng.uniform(5, 9)),
        bind_bearing=toward,
        damping=1.3,
        rub=float(rng.uniform(8, 16)),
        rub_bearing=toward,
    )
    return replace(stick, body=body)


def unseated(stick: Stick, rng: np.random.Generator) -> Stick:
    tilt = float(rng.uniform(7, 12) * rng.choice((-1, 1)))
    return _one(stick, rng, skew=tilt, cross=float(rng.normal(0, 0.04)))


def loose(stick: Stick, rng: np.random.Generator) -> Stick:
    return _one(stick, rng, loose=float(rng.uniform(0.4, 1.0)))


def miscalibrated(stick: Stick, rng: np.random.Generator) -> Stick:
    centre = tuple(float(v) for v in rng.normal(0, 6, 2))
    scale = tuple(float(v) for v in rng.uniform(110, 125, 2))
    return replace(stick, calibration=Calibration((centre[0], centre[1]), *((scale,) * 2)))  # type: ignore[arg-type]


def failing(stick: Stick, rng: np.random.Generator) -> Stick:
    side = int(rng.choice((-1, 1)))
    return _one(
        stick,
        rng,
        fade=float(rng.uniform(10, 20)),
        fade_side=side,
        dropouts=float(rng.uniform(1.0, 2.0)),
        dead_at=float(side * rng.uniform(40, 70)),
        dead_width=float(rng.uniform(5, 12)),
    )


def tilted_magnet(stick: Stick, rng: np.random.Generator) -> Stick:
    cross = float(rng.uniform(0.1, 0.18) * rng.choice((-1, 1)))
    return _one(stick, rng, cross=cross, cross_bend=float(rng.uniform(4, 8)))


def dead_zone(stick: Stick, rng: np.random.Generator) -> Stick:
    converter = replace(stick.converter, dead_zone=float(rng.uniform(5, 9)))
    return replace(worn(stick, rng), converter=converter)


def humming(stick: Stick, rng: np.random.Generator) -> Stick:
    hz = float(min(rng.choice((50.0, 100.0)), stick.converter.rate_hz / 5))
    converter = replace(stick.converter, hum=float(rng.uniform(1.2, 2.2)), hum_hz=hz)
    return replace(stick, converter=converter)


def overscaled(stick: Stick, rng: np.random.Generator) -> Stick:
    scale = (float(rng.uniform(72, 80)),) * 2
    return replace(stick, calibration=Calibration(minus=scale, plus=scale))


CONDITIONS: dict[str, Condition] = {
    c.id: c
    for c in (
        Condition("sound", "Sound", sound),
        Condition("offset", "Off centre", offset),
        Condition("worn", "Worn at the centre", worn, TRACK, unsprung=False),
        Condition("dirty", "Dirty", dirty, TRACK),
        Condition("binding", "Binds on one side", binding, unsprung=False),
        Condition("unseated", "Module not flush", unseated),
        Condition("loose", "Loose contact", loose),
        Condition("miscalibrated", "Calibrated for another part", miscalibrated),
        Condition("failing", "Track fails away from the centre", failing, TRACK),
        Condition("tilted-magnet", "Magnet tilted", tilted_magnet, ("hall",)),
        Condition("dead-zone", "Worn, hidden by a dead zone", dead_zone, TRACK, unsprung=False),
        Condition("humming", "Noise from the supply", humming),
        Condition("overscaled", "Scaled into its ends", overscaled),
    )
}


def possible(kind: SensorKind, sprung: bool) -> list[str]:
    """The conditions that a stick with such sensors can be in."""
    return [c.id for c in CONDITIONS.values() if kind in c.kinds and (sprung or c.unsprung)]


def new_stick(
    kind: SensorKind,
    gate: Gate,
    bits: int,
    rate_hz: float,
    seed: int,
    axes: int = 2,
    sprung: bool = True,
) -> Stick:
    """A stick with a module drawn from its kind's lot, set to zero as it left the works."""
    module = draw_module(LOTS[LOT_OF_KIND[kind]], seed)
    module = replace(module, x=replace(module.x, offset=0.0), y=replace(module.y, offset=0.0))
    body = Body(gate=gate, axes=axes, spring_hz=Body().spring_hz if sprung else 0.0)
    if axes == 1:
        module = replace(module, y=Sensor(noise=0.0), x=replace(module.x, cross=0.0))
    return Stick(body, module, converter=Converter(bits, rate_hz))


def fresh_stick(
    kind: SensorKind,
    gate: Gate,
    bits: int,
    rate_hz: float,
    condition: str,
    seed: int,
    axes: int = 2,
    sprung: bool = True,
) -> Stick:
    """A stick of a model in a condition, or in several: “worn+dirty”."""
    stick = new_stick(kind, gate, bits, rate_hz, seed, axes, sprung)
    rng = np.random.default_rng(seed)
    for one in condition.split("+"):
        stick = CONDITIONS[one].change(stick, rng)
    return stick


def random_stick(seed: int) -> Stick:
    """Any two-axis stick with up to three faults at once: 8 to 16 bits, 60 Hz to 1 kHz."""
    rng = np.random.default_rng(seed)
    kind: SensorKind = "potentiometer" if rng.random() < 0.6 else "hall"
    rate = float(rng.choice((60, 100, 125, 200, 250, 500, 1000)))
    stick = new_stick(kind, "round", int(rng.choice((8, 10, 12, 14, 16))), rate, seed)
    stick = sound(stick, rng)
    count = int(rng.integers(0, 4))
    for name in rng.permutation(possible(kind, True))[:count]:
        stick = CONDITIONS[str(name)].change(stick, rng)
    return stick
