"""What a stand-in stick is made of. A fault is a value here; a repair is another value.

Lengths are % of half range; the nominal end of travel is 100.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.gate import Gate
from hollow_pin.core.recording import Floats
from hollow_pin.simulator.trims import Pair, Trim

SensorKind = Literal["potentiometer", "hall"]


@dataclass(frozen=True)
class Body:
    """The mechanics: a gimbal in a gate, sprung or not.

    spring_hz: how fast it would swing by itself, 0 for none; damping: ratio to critical; friction_x,
    friction_y: how far from centre each bearing can hold it against the spring; reach: where the gate
    stops it. bind: how much farther it is held on its way back from bind_bearing's side. rub: how far
    the rim is cut short around rub_bearing.
    """

    gate: Gate = "round"
    axes: int = 2
    reach: float = 100.0
    spring_hz: float = 16.0
    damping: float = 0.62
    friction_x: float = 0.25
    friction_y: float = 0.25
    bind: float = 0.0
    bind_bearing: float = 0.0
    rub: float = 0.0
    rub_bearing: float = 0.0


@dataclass(frozen=True)
class Sensor:
    """One axis's sensor.

    offset: signal at centre. gain_minus, gain_plus: signal per tilt either side. bend: third-order
    curvature, signal lost at mid travel. skew: second-order, what a module that is not seated flush
    adds at both ends. cross, cross_bend: share of the other axis that leaks in, and what a tilted
    magnet adds at both of its ends. noise: standard deviation of the wiper or Hall noise.

    wear, wear_width: how far the contact point can shift where the track is worn at the centre, and
    how wide that place is. wander: the share of it that the contact strolls about by itself. dirt: 0
    clean to 1 bad. dead_at, dead_width: where the track is broken, and how wide. fade: how far the
    signal falls back while held beyond 60 on fade_side (+1 or −1); dropouts: losses of contact per
    second there. loose: jumps to an end or to centre and back, per second; four times as many while a
    hand presses the board. drift_offset, drift_gain: per °C. grain: which specks lie where.
    """

    offset: float = 0.0
    gain_minus: float = 1.0
    gain_plus: float = 1.0
    bend: float = 0.0
    skew: float = 0.0
    cross: float = 0.0
    cross_bend: float = 0.0
    noise: float = 0.12
    wear: float = 0.0
    wear_width: float = 14.0
    wander: float = 0.12
    dirt: float = 0.0
    dead_at: float = 0.0
    dead_width: float = 0.0
    fade: float = 0.0
    fade_side: int = 1
    dropouts: float = 0.0
    loose: float = 0.0
    drift_offset: float = 0.0
    drift_gain: float = 0.0
    grain: int = 0


@dataclass(frozen=True)
class Module:
    """The fitted part: a sensor for each axis. wear_per_100h, dirt_per_100h: how its lot ages."""

    kind: SensorKind = "potentiometer"
    x: Sensor = Sensor()
    y: Sensor = Sensor()
    lot: str = ""
    wear_per_100h: float = 0.0
    dirt_per_100h: float = 0.0


@dataclass(frozen=True)
class Calibration:
    """What the controller's own program takes for centre and for how far each side goes from it, by
    axis (x, y), % of half range."""

    centre: tuple[float, float] = (0.0, 0.0)
    minus: tuple[float, float] = (100.0, 100.0)
    plus: tuple[float, float] = (100.0, 100.0)


@dataclass(frozen=True)
class Converter:
    """From signal to numbers: bits, samples per second, standard deviation of the timing in ms.

    dead_zone: what the program reports as zero, %. dead_zone_kind: with a jump at its edge, per axis;
    or rescaled so that there is none, per axis or by the distance. hum, hum_hz: noise of the supply,
    on all axes at once. news_every: how many samples share one conversion. lost: share of samples
    that never arrive. centre_window: how far apart, %, its calibration lets its centre samples lie
    before it refuses; 0 for one that takes any."""

    bits: int = 10
    rate_hz: float = 250.0
    timing_ms: float = 0.05
    dead_zone: float = 0.0
    dead_zone_kind: Literal["jump", "axial", "radial"] = "jump"
    hum: float = 0.0
    hum_hz: float = 50.0
    news_every: int = 1
    lost: float = 0.0
    centre_window: float = 0.0

    @property
    def hi(self) -> int:
        return int(2**self.bits - 1)


@dataclass(frozen=True)
class Surroundings:
    """temperature_c when it is switched on, and by how much it warms up by itself, with what time
    constant."""

    temperature_c: float = 21.0
    warm_up_c: float = 0.0
    warm_up_s: float = 600.0

    def above_usual(self, t: NDArray[np.floating[Any]]) -> Floats:
        """Degrees above 21 °C, t (n,) seconds after it was switched on."""
        if not self.warm_up_c:
            return np.full(t.shape, self.temperature_c - 21.0)
        warm = self.warm_up_c * (1 - np.exp(-t / self.warm_up_s))
        return np.asarray(self.temperature_c - 21.0 + warm)


def _pairs(saved: Sequence[Sequence[dict[str, Any]]]) -> tuple[Pair, ...]:
    return tuple((Trim(**x), Trim(**y)) for x, y in saved)


@dataclass(frozen=True)
class Stick:
    """One stand-in stick, whole. trims: pairs that its signals go through, one after the other."""

    body: Body = Body()
    module: Module = Module()
    calibration: Calibration = Calibration()
    converter: Converter = field(default_factory=Converter)
    trims: tuple[Pair, ...] = ()

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_dict(cls, d: dict[str, Any]) -> Stick:
        module, calibration = d["module"], d["calibration"]
        return cls(
            body=Body(**d["body"]),
            module=Module(
                **(module | {"x": Sensor(**module["x"]), "y": Sensor(**module["y"])}),
            ),
            calibration=Calibration(*(tuple(calibration[k]) for k in ("centre", "minus", "plus"))),
            converter=Converter(**d["converter"]),
            trims=_pairs(d.get("trims", ())),
        )


@dataclass(frozen=True)
class Lot:
    """How the modules of one delivery scatter: standard deviations of offset, %, and gain, a typical
    noise, %, a mean offset where a whole lot is off, and how they age in a hundred hours of use, %: a
    potentiometer's track wears and sheds debris, a Hall sensor drifts with warmth instead."""

    name: str
    kind: SensorKind
    offset: float
    gain: float
    noise: float
    mean_offset: float = 0.0
    wear_per_100h: float = 0.0
    dirt_per_100h: float = 0.0
    drift_offset: float = 0.01
    drift_gain: float = 0.0


LOTS: dict[str, Lot] = {
    lot.name: lot
    for lot in (
        Lot("BC-P10", "potentiometer", 1.6, 0.02, 0.12, wear_per_100h=0.5, dirt_per_100h=0.06),
        Lot("LL-H1", "hall", 1.2, 0.03, 0.06, drift_offset=0.03, drift_gain=-0.001),
        Lot("LL-H0", "hall", 1.0, 0.03, 0.06, 9.0, drift_offset=0.03, drift_gain=-0.001),
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
            drift_offset=float(rng.normal(0.0, lot.drift_offset)),
            drift_gain=lot.drift_gain,
            grain=int(rng.integers(2**31)),
        )

    return Module(
        lot.kind,
        sensor(),
        sensor(),
        lot.name,
        lot.wear_per_100h * float(rng.uniform(0.6, 1.6)),
        lot.dirt_per_100h * float(rng.uniform(0.5, 2.0)),
    )


def aged(stick: Stick, hours: float) -> Stick:
    """Hours of use wear the track at its centre and bring dirt; debris of a worn track brings more.

    Dirt that was cleaned away comes back the same way.
    """
    m = stick.module

    def worn(s: Sensor) -> Sensor:
        wear = s.wear + m.wear_per_100h * hours / 100
        debris = m.dirt_per_100h * hours / 100 * (1 + wear / 3)
        return replace(s, wear=wear, dirt=1 - (1 - s.dirt) * float(np.exp(-debris)))

    return replace(stick, module=replace(m, x=worn(m.x), y=worn(m.y)))


LEFT_BY_A_PASS = 0.25
"""Share of the dirt that one pass of cleaning leaves."""


def cleaned(stick: Stick, passes: int = 2) -> Stick:
    """Cleaning takes most of the dirt away and leaves wear, offset and calibration as they are."""
    m = stick.module
    x, y = (replace(s, dirt=LEFT_BY_A_PASS**passes * s.dirt) for s in (m.x, m.y))
    return replace(stick, module=replace(m, x=x, y=y))


def replaced(stick: Stick, lot: Lot, seed: int) -> Stick:
    """A new module. The bearings are new with it; the calibration stays the old part's."""
    fresh = Body()
    body = replace(
        stick.body,
        friction_x=fresh.friction_x,
        friction_y=fresh.friction_y,
        bind=0.0,
        damping=fresh.damping,
        spring_hz=fresh.spring_hz if stick.body.spring_hz else 0.0,
    )
    return replace(stick, body=body, module=draw_module(lot, seed))
