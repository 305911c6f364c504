"""What a stand-in stick is made of. A fault is a value here; a repair is another value.

Lengths are % of half range; the nominal end of travel is 100.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from typing import Any, Literal

import numpy as np

from hollow_pin.core.rim import Gate

SensorKind = Literal["potentiometer", "hall"]


@dataclass(frozen=True)
class Body:
    """The mechanics: a sprung gimbal in a gate.

    spring_hz: how fast it would swing by itself; damping: ratio to critical; friction_x, friction_y:
    how far from centre each bearing can hold it against the spring; reach: where the gate stops it.
    """

    gate: Gate = "round"
    reach: float = 100.0
    spring_hz: float = 16.0
    damping: float = 0.62
    friction_x: float = 0.25
    friction_y: float = 0.25


@dataclass(frozen=True)
class Sensor:
    """One axis's sensor.

    offset: signal at centre. gain_minus, gain_plus: signal per tilt either side. bend: third-order
    curvature, signal lost at mid travel. cross: share of the other axis that leaks in. noise:
    standard deviation of the wiper or Hall noise. wear, wear_width: how far the contact point can
    shift where the track is worn at the centre, and how wide that place is. wander: the share of it
    that the contact strolls about by itself. dirt: 0 clean to 1 bad.
    grain: which specks lie where on this track.
    """

    offset: float = 0.0
    gain_minus: float = 1.0
    gain_plus: float = 1.0
    bend: float = 0.0
    cross: float = 0.0
    noise: float = 0.12
    wear: float = 0.0
    wear_width: float = 14.0
    wander: float = 0.12
    dirt: float = 0.0
    grain: int = 0


@dataclass(frozen=True)
class Module:
    """The fitted part: a sensor for each axis."""

    kind: SensorKind = "potentiometer"
    x: Sensor = Sensor()
    y: Sensor = Sensor()
    lot: str = ""


@dataclass(frozen=True)
class Calibration:
    """What the controller's own program takes for centre and for the ends, by axis (x, y)."""

    centre: tuple[float, float] = (0.0, 0.0)
    minus: tuple[float, float] = (100.0, 100.0)
    plus: tuple[float, float] = (100.0, 100.0)


@dataclass(frozen=True)
class Converter:
    """From signal to numbers: bits, samples per second, standard deviation of the timing in ms."""

    bits: int = 10
    rate_hz: float = 250.0
    timing_ms: float = 0.05

    @property
    def hi(self) -> int:
        return int(2**self.bits - 1)


@dataclass(frozen=True)
class Stick:
    """One stand-in stick, whole."""

    body: Body = Body()
    module: Module = Module()
    calibration: Calibration = Calibration()
    converter: Converter = field(default_factory=Converter)

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_dict(cls, d: dict[str, Any]) -> Stick:
        module, calibration = d["module"], d["calibration"]
        return cls(
            body=Body(**d["body"]),
            module=Module(
                kind=module["kind"],
                x=Sensor(**module["x"]),
                y=Sensor(**module["y"]),
                lot=module["lot"],
            ),
            calibration=Calibration(*(tuple(calibration[k]) for k in ("centre", "minus", "plus"))),
            converter=Converter(**d["converter"]),
        )


@dataclass(frozen=True)
class Lot:
    """How the modules of one delivery scatter: standard deviations of offset and gain, a typical
    noise, and a mean offset where a whole lot is off."""

    name: str
    kind: SensorKind
    offset: float
    gain: float
    noise: float
    mean_offset: float = 0.0


LOTS: dict[str, Lot] = {
    lot.name: lot
    for lot in (
        Lot("BC-P10", "potentiometer", offset=1.6, gain=0.02, noise=0.12),
        Lot("LL-H1", "hall", offset=1.2, gain=0.03, noise=0.06),
        Lot("LL-H0", "hall", offset=1.0, gain=0.03, noise=0.06, mean_offset=9.0),
    )
}
LOT_OF_KIND: dict[SensorKind, str] = {"potentiometer": "BC-P10", "hall": "LL-H1"}


def draw_module(lot: Lot, seed: int) -> Module:
    """A fresh module from a lot."""
    rng = np.random.default_rng(seed)

    def sensor() -> Sensor:
        return Sensor(
            offset=float(rng.normal(lot.mean_offset * rng.choice((-1, 1)), lot.offset)),
            gain_minus=float(rng.normal(0.975, lot.gain)),
            gain_plus=float(rng.normal(0.975, lot.gain)),
            bend=float(rng.normal(0.0, 1.0)),
            cross=float(rng.normal(0.0, 0.01)),
            noise=float(lot.noise * rng.uniform(0.85, 1.2)),
            grain=int(rng.integers(2**31)),
        )

    return Module(kind=lot.kind, x=sensor(), y=sensor(), lot=lot.name)


def cleaned(stick: Stick) -> Stick:
    """Cleaning takes most of the dirt away and leaves wear, offset and calibration as they are."""
    m = stick.module
    x, y = (replace(s, dirt=0.06 * s.dirt) for s in (m.x, m.y))
    return replace(stick, module=replace(m, x=x, y=y))


def replaced(stick: Stick, lot: Lot, seed: int) -> Stick:
    """A new module. The bearings are new with it; the calibration stays the old part's."""
    body = replace(stick.body, friction_x=Body.friction_x, friction_y=Body.friction_y)
    return replace(stick, body=body, module=draw_module(lot, seed))
