"""What each remedy does to a stand-in: a row for every kind of work in the core's table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from hollow_pin.simulator.stand_in import recalibrated
from hollow_pin.simulator.stick import (
    LOT_OF_KIND,
    LOTS,
    Body,
    Calibration,
    Lot,
    Sensor,
    SensorKind,
    Stick,
    cleaned,
    draw_module,
    replaced,
)
from hollow_pin.simulator.trims import Pair, with_pair


@dataclass(frozen=True)
class Treatment:
    """What was done: to which axis, empty for both; what went in, by kind and lot; seed: of chance.
    trims: how they were left, where they were turned while the rest was watched. passes: how often it
    was gone over."""

    axis: Literal["", "x", "y"] = ""
    module: SensorKind | None = None
    lot: str = ""
    seed: int = 0
    trims: Pair | None = None
    passes: int = 2


Repair = Callable[[Stick, Treatment], Stick]


def _sensors(stick: Stick, axis: str, change: Callable[[Sensor, Sensor], Sensor]) -> Stick:
    """A stick with the sensors of one axis, or of both, changed. change: of the sensor, and of a fresh
    one of its kind."""
    module = stick.module
    fresh = draw_module(LOTS.get(module.lot) or LOTS[LOT_OF_KIND[module.kind]], 0)
    x = change(module.x, fresh.x) if axis != "y" else module.x
    y = change(module.y, fresh.y) if axis != "x" else module.y
    return replace(stick, module=replace(module, x=x, y=y))


def _lot(stick: Stick, treatment: Treatment) -> Lot:
    kind = treatment.module or stick.module.kind
    named = LOTS.get(treatment.lot)
    return named if named is not None and named.kind == kind else LOTS[LOT_OF_KIND[kind]]


def _factory_calibrated(stick: Stick, _: Treatment) -> Stick:
    return replace(stick, calibration=Calibration())


def _other_supply(stick: Stick, _: Treatment) -> Stick:
    return replace(stick, converter=replace(stick.converter, hum=0.0, lost=0.0))


def _reseated(stick: Stick, treatment: Treatment) -> Stick:
    return _sensors(
        stick,
        treatment.axis,
        lambda s, fresh: replace(
            s, skew=0.1 * s.skew, cross=fresh.cross, cross_bend=0.1 * s.cross_bend, loose=0.0
        ),
    )


def _eased(stick: Stick, treatment: Treatment) -> Stick:
    if treatment.trims is not None:
        stick = replace(stick, trims=with_pair(stick.trims, treatment.trims))
    return _sensors(stick, treatment.axis, lambda s, _: replace(s, wear=0.6 * s.wear))


def _freed(stick: Stick, _: Treatment) -> Stick:
    fresh = Body()
    return replace(
        stick,
        body=replace(
            stick.body,
            bind=0.2 * stick.body.bind,
            damping=fresh.damping,
            friction_x=min(stick.body.friction_x, fresh.friction_x),
            friction_y=min(stick.body.friction_y, fresh.friction_y),
        ),
    )


def _cap_changed(stick: Stick, _: Treatment) -> Stick:
    spring = Body().spring_hz if stick.body.spring_hz else 0.0
    return replace(stick, body=replace(stick.body, rub=0.0, spring_hz=spring))


def _mended(stick: Stick, treatment: Treatment) -> Stick:
    return _sensors(stick, treatment.axis, lambda s, _: replace(s, loose=0.0))


TRIM_COSTS = 0.02
"""Share of the reach that a trim takes."""


def _trimmed(stick: Stick, treatment: Treatment) -> Stick:
    if treatment.trims is not None:
        return replace(stick, trims=with_pair(stick.trims, treatment.trims))
    centre = dict(zip("xy", stick.calibration.centre, strict=True))
    names = iter("xy" if not treatment.axis else treatment.axis)
    return _sensors(
        stick,
        treatment.axis,
        lambda s, _: replace(
            s,
            offset=centre[next(names)],
            gain_minus=s.gain_minus * (1 - TRIM_COSTS),
            gain_plus=s.gain_plus * (1 - TRIM_COSTS),
        ),
    )


def _new_sensor_parts(stick: Stick, treatment: Treatment) -> Stick:
    fresh = draw_module(_lot(stick, treatment), treatment.seed)
    x = fresh.x if treatment.axis != "y" else stick.module.x
    y = fresh.y if treatment.axis != "x" else stick.module.y
    return replace(stick, module=replace(stick.module, x=x, y=y, lot=fresh.lot))


def _new_module(stick: Stick, treatment: Treatment) -> Stick:
    return replaced(stick, _lot(stick, treatment), treatment.seed)


REPAIRS: dict[str, Repair] = {
    "factory-calibrated": _factory_calibrated,
    "recalibrated": lambda stick, done: recalibrated(stick, done.seed),
    "other-cable": _other_supply,
    "software-dead-zone": lambda stick, _: stick,
    "reseated": _reseated,
    "cleaned": lambda stick, done: cleaned(stick, done.passes),
    "eased": _eased,
    "lubricated": _freed,
    "cap-changed": _cap_changed,
    "mended": _mended,
    "trimmed": _trimmed,
    "sensor-parts": _new_sensor_parts,
    "replaced": _new_module,
    "replaced-by-hall": _new_module,
    "donor": _new_module,
}


def repaired(stick: Stick, remedy: str, treatment: Treatment) -> Stick:
    """A stick after a remedy, by its code."""
    return REPAIRS[remedy](stick, treatment)
