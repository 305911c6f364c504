"""Takes whose causes are known: every fault alone and in pairs, from barely worth a word to ruined, by
hands, sources, rates, widths and gates of all kinds.

The mechanics are the slow part, so a path of tilts is run once and sensed many times over: with other
tracks, calibrations, converters and sources.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.gate import GATES, Gate
from hollow_pin.core.recording import STEPS, AxisRange, Floats, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.simulator.hand import Manner
from hollow_pin.simulator.kernel import FUZZ_SHARE, WORD, defuzzed
from hollow_pin.simulator.perform import perform
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.stick import Body, Calibration, Converter, Module, Sensor, Stick

STILL = STEPS.index("still")
CHUNK_S = 2.0
CENTRE = 14.0
"""How far out a track is worn, %, about."""


@dataclass(frozen=True, eq=False)
class Path:
    """How a hand moved a stick: t (n,) seconds, tilt (n, 2) %, step (n,) codes, the gate it lay in,
    and whether something binds."""

    t: Floats
    tilt: Floats
    step: NDArray[np.int8]
    gate: Gate
    binds: bool


@dataclass(frozen=True, eq=False)
class LabelledTake:
    """A recording, the gate it is held against, and what is so: each cause with its axis, None where
    it is no one axis's. Empty: sound."""

    recording: Recording
    gate: Gate
    causes: dict[str, str | None]


def bound(rng: np.random.Generator) -> Body:
    """A body that rubs, holds or is slow."""
    toward = float(rng.uniform(0, 360))
    kind = rng.integers(0, 5)
    if kind == 4:
        dry = float(rng.uniform(4.0, 9.0))
        return Body(friction_x=dry, friction_y=dry * float(rng.uniform(0.3, 1.0)))
    if kind == 0:
        return Body(
            bind=float(rng.uniform(4, 14)),
            bind_bearing=toward,
            damping=float(rng.uniform(0.3, 1.1)),
        )
    if kind == 1:
        return Body(rub=float(rng.uniform(14, 30)), rub_bearing=toward)
    if kind == 2:
        return Body(damping=float(rng.uniform(4.6, 8.0)))
    return Body(
        bind=float(rng.uniform(5, 10)),
        bind_bearing=toward,
        damping=float(rng.uniform(0.9, 2.0)),
        rub=float(rng.uniform(6, 16)),
        rub_bearing=toward,
    )


SLOW_HANDS = 0.3
"""Of all hands, those that push out slowly and wait for less."""


def manner(rng: np.random.Generator) -> Manner:
    """A hand of one kind or another."""
    usual = Manner(
        askew=float(rng.uniform(0.3, 2.5)),
        presses=float(rng.uniform(0.94, 1.15)),
        pace=float(rng.uniform(0.8, 1.3)),
        rolls_out=float(rng.choice((0.0, 0.0, 60.0))),
    )
    if rng.random() > SLOW_HANDS:
        return usual
    return replace(usual, pushes=float(rng.uniform(3, 9)), waits=float(rng.uniform(0.6, 1.0)))


def paths(count: int, seed: int) -> Iterator[Path]:
    """Ways that a stick was moved, a third of them of one that binds."""
    for n in range(count):
        yield path(seed * 100_003 + n, binds=n % 3 == 2)


def path(seed: int, binds: bool, hand: int = 0) -> Path:
    """One way that a stick was moved. hand: whose; the stick is the same for every one."""
    rng = np.random.default_rng(seed)
    usual = Body(friction_x=0.0, friction_y=0.0, damping=float(rng.uniform(0.4, 1.1)))
    body = bound(rng) if binds else usual
    body = replace(
        body,
        gate=GATES[int(rng.choice(3, p=(0.6, 0.2, 0.2)))],
        friction_x=max(body.friction_x, float(rng.uniform(0.05, 0.7))),
        friction_y=max(body.friction_y, float(rng.uniform(0.05, 0.7))),
        spring_hz=float(rng.uniform(10, 20)),
    )
    rate = 500.0 if rng.random() < 0.8 else 1000.0
    ideal = Sensor(noise=0.0)
    stick = Stick(body, Module(x=ideal, y=ideal), converter=Converter(16, rate, timing_ms=0.0))
    routine = Routine(
        still_s=float(rng.choice((10.0, 10.0, 15.0))), releases=int(rng.choice((1, 2, 2)))
    )
    if hand:
        rng = np.random.default_rng([seed, hand])
    stand_in = StandIn(stick, seed + 1009 * hand, manner=manner(rng))
    run = perform(stand_in, routine, block_s=0.05)
    return Path(run.recording.t, run.clean, run.recording.step, body.gate, binds)


def sound_sensor(rng: np.random.Generator) -> Sensor:
    """A sensor that nothing is wrong with."""
    gain = float(rng.uniform(0.955, 1.0))
    return Sensor(
        offset=float(rng.normal(0, 1.0)),
        gain_minus=gain + float(rng.normal(0, 0.008)),
        gain_plus=gain + float(rng.normal(0, 0.008)),
        bend=float(rng.normal(0, 1.0)),
        cross=float(rng.normal(0, 0.01)),
        noise=float(10 ** rng.uniform(-1.8, -0.6)),
        wear=float(rng.uniform(0, 0.6)) if rng.random() < 0.5 else 0.0,
        wander=float(rng.uniform(0, 0.2)),
        dirt=float(rng.uniform(0, 0.01)) if rng.random() < 0.5 else 0.0,
        grain=int(rng.integers(2**31)),
    )


@dataclass
class Assembly:
    """What a path is sensed by, and what of that a fault changes. sensors: by axis. lands: by axis,
    how far apart, %, a worn contact comes to lie each time. rough: by axis, from where to where, %, it
    scatters, and by how much. common: noise that all axes share, %."""

    sensors: dict[str, Sensor]
    calibration: Calibration
    converter: Converter
    lands: dict[str, float]
    rough: dict[str, tuple[float, float, float]]
    common: float = 0.0

    def change(self, axis: str, **values: float) -> None:
        self.sensors[axis] = replace(self.sensors[axis], **values)  # type: ignore[arg-type]


Fault = Callable[[Assembly, np.random.Generator], str | None]
"""Brings a fault about; returns the axis it is on, None where it is no one axis's."""


def _axis(rng: np.random.Generator) -> str:
    return "x" if rng.random() < 0.6 else "y"


def _off_centre(stick: Assembly, rng: np.random.Generator) -> str | None:
    angle, away = rng.uniform(0, 2 * np.pi), rng.uniform(7.2, 20)
    x, y = float(away * np.cos(angle)), float(away * np.sin(angle))
    stick.change("x", offset=x)
    stick.change("y", offset=y)
    if max(abs(x), abs(y)) < 2 * min(abs(x), abs(y)):
        return None
    return "x" if abs(x) > abs(y) else "y"


def _worn(stick: Assembly, rng: np.random.Generator) -> str | None:
    axis = _axis(rng)
    wear = float(10 ** rng.uniform(0.62, 1.1))
    wander = float(rng.uniform(0.0, 0.3)) if rng.random() < 0.6 else 0.0
    width = float(rng.uniform(8, 20))
    if rng.random() < 0.3:
        # A contact that comes to lie anywhere on the worn place.
        stick.lands[axis] = 0.6 * wear
        wear *= 0.2
    stick.change(axis, wear=wear, wander=wander, wear_width=width)
    other = "y" if axis == "x" else "x"
    stick.change(other, wear=float(rng.uniform(0, 0.3)) * wear)
    return axis


def _dirty(stick: Assembly, rng: np.random.Generator) -> str | None:
    axis = _axis(rng)
    kind = rng.integers(0, 3)
    if kind != 1:
        stick.change(axis, dirt=float(rng.uniform(0.45, 1.0)))
    if kind != 0:
        at, wide = float(rng.uniform(-80, 70)), float(rng.uniform(6, 20))
        stick.rough[axis] = (at, at + wide, float(10 ** rng.uniform(0.56, 1.0)))
        if kind == 1 and rng.random() < 0.5:
            stick.change(axis, dirt=0.3)
    return axis


def _askew(stick: Assembly, rng: np.random.Generator) -> str | None:
    axis = _axis(rng)
    tilt = float(rng.uniform(7.5, 16) * rng.choice((-1, 1)))
    stick.change(axis, skew=tilt, cross=float(rng.normal(0, 0.02)))
    return axis


def _loose(stick: Assembly, rng: np.random.Generator) -> str | None:
    axis = _axis(rng)
    stick.change(axis, loose=float(10 ** rng.uniform(-1.1, 0.3)))
    return axis


def _scaled(stick: Assembly, rng: np.random.Generator) -> str | None:
    kind = rng.integers(0, 4)
    # The numbers are what the program takes for the ends: less than it is, and it runs over.
    wide = float(rng.uniform(116, 140) if rng.random() < 0.6 else rng.uniform(66, 79))
    minus, plus = [100.0, 100.0], [100.0, 100.0]
    axis: str | None = None
    if kind == 0:
        minus = plus = [wide, wide]
    elif kind == 1:
        axis = _axis(rng)
        i = "xy".index(axis)
        minus[i] = plus[i] = wide
    elif kind == 2:
        # A half that was learnt too wide, of one axis or of either.
        axis = _axis(rng) if rng.random() < 0.7 else None
        for i in range(2) if axis is None else ["xy".index(axis)]:
            ends = plus if rng.random() < 0.5 else minus
            ends[i] = float(rng.uniform(110, 140))
    else:
        minus, plus = ([float(v) for v in wide * rng.uniform(0.95, 1.05, 2)] for _ in range(2))
    centre = rng.normal(0, 4, 2) if kind in (0, 3) else np.zeros(2)
    stick.calibration = Calibration(
        (float(centre[0]), float(centre[1])), (minus[0], minus[1]), (plus[0], plus[1])
    )
    return axis


def _failing(stick: Assembly, rng: np.random.Generator) -> str | None:
    axis = _axis(rng)
    side = int(rng.choice((-1, 1)))
    kind = rng.integers(0, 4)
    values: dict[str, float] = {"fade_side": side}
    if kind in (0, 3):
        values["fade"] = float(rng.uniform(9, 30))
    if kind in (1, 3):
        values["dropouts"] = float(10 ** rng.uniform(-0.2, 0.6))
    if kind in (2, 3):
        values["dead_at"] = float(side * rng.uniform(25, 75))
        values["dead_width"] = float(rng.uniform(4, 14))
    stick.change(axis, **values)
    return axis


def _carried(stick: Assembly, rng: np.random.Generator) -> str | None:
    axis = _axis(rng)
    cross = float(rng.uniform(0.13, 0.3) * rng.choice((-1, 1)))
    bend = float(rng.uniform(0, 8)) if rng.random() < 0.5 else 0.0
    stick.change(axis, cross=cross, cross_bend=bend)
    return axis


def _zone(stick: Assembly, rng: np.random.Generator) -> str | None:
    kind = str(rng.choice(("jump", "axial", "radial")))
    zone = float(rng.uniform(4, 16))
    stick.converter = replace(stick.converter, dead_zone=zone, dead_zone_kind=kind)  # type: ignore[arg-type]
    return None


def _humming(stick: Assembly, rng: np.random.Generator) -> str | None:
    rate = stick.converter.rate_hz
    if rng.random() < 0.7:
        hz = float(rng.choice((13.0, 50.0, 60.0, 100.0, 120.0)))
        hum = float(rng.uniform(1.5, 5.0))
        stick.converter = replace(stick.converter, hum=hum, hum_hz=min(hz, 0.4 * rate))
    else:
        stick.common = float(rng.uniform(1.1, 3.0))
    return None


FAULTS: dict[str, Fault] = {
    "offset": _off_centre,
    "worn": _worn,
    "dirty": _dirty,
    "unseated": _askew,
    "loose": _loose,
    "calibration": _scaled,
    "failing-track": _failing,
    "cross-talk": _carried,
    "firmware-dead-zone": _zone,
    "supply-noise": _humming,
}
"""What befalls the sensors and what is behind them; what binds is in the path."""
APART = {
    frozenset(("offset", "firmware-dead-zone")),
    frozenset(("unseated", "calibration")),
    frozenset(("offset", "calibration")),
}
"""Pairs of which one hides the other."""


Sent = Literal["whole", "changes", "jittering", "twice", "changes-and-repeats", "lossy", "kernel"]
SENT: tuple[Sent, ...] = get_args(Sent)
"""How a source sends a recording: all of it, changes only, with a clock that jitters, twice over,
changes with a repeat every 50 ms, over a link that loses some, by a kernel that swallows small
changes."""


def case(
    way: Path, seed: int, fault_count: int | None = None, sent: Sent | None = None
) -> LabelledTake:
    """A take along a path. fault_count: how many faults; sent: by what kind of source; drawn if not
    given. A path of a stick that binds has that fault for one of them. The same seed is the same
    stick."""
    rng = np.random.default_rng([seed, 5])
    count = int(rng.choice(3, p=(0.25, 0.5, 0.25))) if fault_count is None else fault_count
    names = [str(name) for name in rng.permutation(list(FAULTS))]
    chosen: list[str] = ["binding"] if way.binds else []
    for name in names:
        if len(chosen) >= max(count, 1 if way.binds else 0):
            break
        if not any(frozenset((name, other)) in APART for other in chosen):
            chosen.append(name)
    every = int(rng.choice((1, 2, 2, 4, 5, 8)))
    t, tilt, step = way.t[::every], way.tilt[::every], way.step[::every]
    rate = float(1 / np.median(np.diff(t)))
    bits = int(rng.choice((8, 10, 12, 14, 16)))
    noise = Converter(bits, rate)
    over = float(rng.choice((100.0, 100.0, rng.uniform(87, 100))))
    stick = Assembly(
        {"x": sound_sensor(rng), "y": sound_sensor(rng)},
        Calibration((0.0, 0.0), (over, over), (over, over)),
        noise,
        {},
        {},
    )
    # What a dead zone hides comes first, what it is hidden by last.
    causes = {name: FAULTS[name](stick, rng) for name in sorted(chosen) if name in FAULTS}
    if way.binds:
        causes["binding"] = None
    # What the stick is has been drawn; what is left is chance, another one on another path.
    chance = np.random.default_rng([seed, len(t), 7])
    recording = sensed(stick, t, tilt, step, chance)
    recording = as_sent(recording, chance, sent)
    if sent is None and rng.random() < LEFT_OUT:
        recording = _without_some(recording, rng)
    return LabelledTake(recording, way.gate, causes)


LEFT_OUT = 0.35
"""Share of the takes in which steps are missing."""


def _without_some(recording: Recording, rng: np.random.Generator) -> Recording:
    """A take that lacks one to three of its steps."""
    there = np.unique(recording.step[recording.step >= 0])
    left_out = rng.choice(there, int(rng.integers(1, 4)), replace=False)
    keep = ~np.isin(recording.step, left_out)
    return replace(
        recording,
        t_us=recording.t_us[keep],
        raw=recording.raw[keep],
        step=recording.step[keep],
    )


def sensed(
    device: Assembly, t: Floats, tilt: Floats, step: NDArray[np.int8], rng: np.random.Generator
) -> Recording:
    """What it reports of a path: t (n,) seconds, tilt (n, 2) %, step (n,) codes."""
    module = Module(x=device.sensors["x"], y=device.sensors["y"])
    stick = Stick(Body(), module, device.calibration, device.converter)
    for axis, how_far in device.lands.items():
        tilt = tilt.copy()
        i = "xy".index(axis)
        tilt[:, i] += _landing(tilt[:, i], how_far, rng)
    for axis, (low, high, rms) in device.rough.items():
        i = "xy".index(axis)
        inside = (tilt[:, i] > low) & (tilt[:, i] < high)
        tilt = tilt.copy()
        tilt[inside, i] += rng.normal(0, rms, int(inside.sum()))
    if device.common:
        tilt = tilt + rng.normal(0, device.common, len(tilt))[:, None]
    stand_in = StandIn(stick, int(rng.integers(2**31)))
    t_us = np.round(t * 1e6).astype(np.int64)
    parts = []
    chunk = max(1, round(CHUNK_S * device.converter.rate_hz))
    for at in range(0, len(t), chunk):
        part = slice(at, at + chunk)
        pressed = bool((step[part] != STILL).mean() > 0.5)
        parts.append(stand_in.sensed(t_us[part], t[part], tilt[part], pressed).raw)
    raw = np.concatenate(parts)
    ranges = (AxisRange(0, device.converter.hi),) * 2
    return Recording(t_us, raw, ranges, step)


def _landing(tilt: Floats, how_far: float, rng: np.random.Generator) -> Floats:
    """Where a worn contact comes to lie each time it gets back to the centre."""
    near = np.abs(tilt) < 2 * CENTRE
    begins = np.flatnonzero(near & ~np.concatenate(([False], near[:-1])))
    drawn = rng.normal(0, how_far, len(begins) + 1)
    which = np.searchsorted(begins, np.arange(len(tilt)), side="right")
    return np.asarray(drawn[which] * np.exp(-np.square(tilt / CENTRE)))


def _through_a_kernel(recording: Recording) -> Recording:
    """As a system reports it that fills a word with what the device sends, takes small changes for
    noise, and tells of others."""
    low, high = WORD
    share = (recording.raw - [r.lo for r in recording.ranges]) / [
        r.hi - r.lo for r in recording.ranges
    ]
    words = np.round(low + share * (high - low))
    fuzz = (high - low) // FUZZ_SHARE
    raw = np.column_stack([defuzzed(axis, fuzz) for axis in words.T])
    keep = np.append(True, (np.diff(raw, axis=0) != 0).any(axis=1) | (np.diff(recording.step) != 0))
    ranges = (AxisRange(low, high),) * raw.shape[1]
    return Recording(recording.t_us[keep], raw[keep], ranges, recording.step[keep])


def as_sent(recording: Recording, rng: np.random.Generator, sent: Sent | None = None) -> Recording:
    """A recording as one source or another sends it; drawn if none is named."""
    drawn = int(rng.choice(7, p=(0.35, 0.2, 0.1, 0.1, 0.1, 0.05, 0.1)))
    kind = drawn if sent is None else SENT.index(sent)
    t_us, raw, step = recording.t_us, recording.raw, recording.step
    keep = np.ones(len(t_us), dtype=bool)
    if kind == 1:
        keep[1:] = (np.diff(raw, axis=0) != 0).any(axis=1) | (np.diff(step) != 0)
    elif kind == 2:
        usual = float(np.median(np.diff(t_us)))
        jitter = np.clip(rng.normal(0, 0.2, len(t_us)), -0.45, 0.45) * usual
        t_us = np.maximum.accumulate(t_us + jitter.astype(np.int64))
    elif kind == 3 and len(t_us) < 40_000:
        t_us = np.column_stack((t_us, t_us + int(np.median(np.diff(t_us)) // 2))).ravel()
        raw, step = np.repeat(raw, 2, axis=0), np.repeat(step, 2)
        keep = np.ones(len(t_us), dtype=bool)
    elif kind == 4:
        # Repeats of what holds, every 50 ms or so, between changes.
        changed = np.concatenate(([True], (np.diff(raw, axis=0) != 0).any(axis=1)))
        slot = t_us // 50_000
        keep = changed | np.concatenate(([True], np.diff(slot) != 0))
    elif kind == 5:
        for start in rng.uniform(t_us[0], t_us[-1], int(rng.integers(5, 40))):
            keep &= ~((t_us >= start) & (t_us < start + rng.uniform(5e4, 2e5)))
    elif kind == 6:
        return _through_a_kernel(recording)
    return Recording(t_us[keep], raw[keep], recording.ranges, step[keep], recording.headers)
