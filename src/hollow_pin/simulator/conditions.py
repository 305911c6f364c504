"""Conditions in which stand-in controllers come to the bench."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from hollow_pin.simulator.stick import LOTS, Converter, Module, Sensor, Stick, draw_module


def _with(stick: Stick, x: Sensor, y: Sensor) -> Stick:
    return replace(stick, module=replace(stick.module, x=x, y=y))


def sound(stick: Stick, rng: np.random.Generator) -> Stick:
    """As it should be: a small offset, a quiet track."""
    m = stick.module
    return _with(
        stick,
        replace(m.x, offset=float(rng.normal(0, 0.6))),
        replace(m.y, offset=float(rng.normal(0, 0.6))),
    )


def offset(stick: Stick, rng: np.random.Generator) -> Stick:
    """A constant centre offset, returns all together."""
    m = stick.module
    angle = rng.uniform(0, 2 * np.pi)
    away = rng.uniform(8, 13)
    return _with(
        stick,
        replace(m.x, offset=float(away * np.cos(angle))),
        replace(m.y, offset=float(away * np.sin(angle))),
    )


def worn(stick: Stick, rng: np.random.Generator) -> Stick:
    """A track worn at the centre: returns land apart, the rest wanders."""
    m = stick.module
    return _with(
        stick,
        replace(m.x, wear=float(rng.uniform(6.0, 9.0)), offset=float(rng.normal(0, 3))),
        replace(m.y, wear=float(rng.uniform(2.0, 4.0)), offset=float(rng.normal(0, 2))),
    )


def dirty(stick: Stick, rng: np.random.Generator) -> Stick:
    """Dirt on one track: spikes and rough places."""
    m = stick.module
    return _with(stick, replace(m.x, dirt=float(rng.uniform(0.7, 1.0)), noise=0.2), m.y)


CONDITIONS: dict[str, Callable[[Stick, np.random.Generator], Stick]] = {
    "sound": sound,
    "offset": offset,
    "worn": worn,
    "dirty": dirty,
}


HALL_CONDITIONS = ["offset", "sound"]
"""What can be wrong with a sensor that has no track."""


def fresh_stick(
    kind: str, gate: str, bits: int, rate_hz: float, condition: str, seed: int
) -> Stick:
    """A stick of a model in a condition. kind: the module's sensor kind."""
    rng = np.random.default_rng(seed)
    lot = LOTS["BC-P10" if kind == "potentiometer" else "LL-H1"]
    drawn = draw_module(lot, seed)
    settled = Module(
        drawn.kind, replace(drawn.x, offset=0.0), replace(drawn.y, offset=0.0), lot.name
    )
    stick = Stick(module=settled, converter=Converter(bits, rate_hz))
    stick = replace(stick, body=replace(stick.body, gate="square" if gate == "square" else "round"))
    return CONDITIONS[condition](stick, rng)
