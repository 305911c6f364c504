"""Stand-ins and recordings that tests share, and the truth behind them computed on its own."""

from __future__ import annotations

import os
import pickle
from collections.abc import Callable
from dataclasses import replace
from functools import cache, lru_cache
from hashlib import sha256
from pathlib import Path
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.comparable import Setting
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import NO_STEP, STEPS, AxisRange, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.core.take import measure_take
from hollow_pin.formats.recording_csv import write_recording
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.perform import Performance, perform
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.stick import Converter, Sensor, Stick

Made = TypeVar("Made")
HERE = Setting("GS-017", "left", "Stand-in", "round")
TEN_BIT = (AxisRange(0, 1023), AxisRange(0, 1023))

shelf: Path | None = None
"""Where the processes of one run lay what another would make again; nowhere: each makes its own."""


def made_once(what: str, make: Callable[[], Made]) -> Made:
    """It, made by whichever process of the run comes first. what: all that it depends on."""
    if shelf is None:
        return make()
    file = shelf / sha256(what.encode()).hexdigest()
    if not file.exists():
        begun = file.with_suffix(f".{os.getpid()}")
        begun.write_bytes(pickle.dumps(make()))
        begun.replace(file)
    made: Made = pickle.loads(file.read_bytes())
    return made


@lru_cache(maxsize=64)
def performed_by(stick: Stick, seed: int = 5, routine: Routine | None = None) -> Performance:
    """A whole take of it, by the usual routine where none is named."""
    what = f"performance {stick} {seed} {routine}"
    return made_once(what, lambda: perform(StandIn(stick, seed), routine, block_s=0.2))


@lru_cache(maxsize=256)
def read_of(stick: Stick, seed: int = 5, routine: Routine | None = None) -> TakeReadings:
    """What is read of that, in a round gate."""
    what = f"readings {stick} {seed} {routine}"
    return made_once(what, lambda: measure_take(performed_by(stick, seed, routine).recording))


@cache
def _fresh(condition: str, seed: int, bits: int, rate: float) -> Stick:
    """“worn-steady” is worn, with a contact that does not wander by itself."""
    name = condition.removesuffix("-steady")
    stick = fresh_stick("potentiometer", "round", bits, rate, name, seed)
    if condition != name:
        m = stick.module
        still = replace(m, x=replace(m.x, wander=0.0), y=replace(m.y, wander=0.0))
        stick = replace(stick, module=still)
    return stick


def performed(condition: str, seed: int = 5, bits: int = 10, rate: float = 250.0) -> Performance:
    """A whole take of a stick in that condition."""
    return performed_by(_fresh(condition, seed, bits, rate), seed)


def readings_of(condition: str, seed: int = 5, bits: int = 10, rate: float = 250.0) -> TakeReadings:
    """What is read of it, in a round gate."""
    return read_of(_fresh(condition, seed, bits, rate), seed)


def recording_file(condition: str = "worn") -> dict:
    """A whole take as a file that is sent along with a form."""
    text = "".join(write_recording(performed(condition).recording))
    return {"file": ("take.csv", text.encode(), "text/csv")}


def held_slackly(condition: str) -> Recording:
    """A whole take, but that the hand gave way in one hold, by a tenth."""
    recording = performed(condition).recording
    u = recording.u.copy()
    at = np.flatnonzero(recording.step == STEPS.index("hold"))
    right = at[u[at, 0] > 60]
    u[right, 0] -= np.linspace(0, 12, len(right))
    return transformed(recording, u)


def with_sensors(x: Sensor, y: Sensor, bits: int = 10, rate: float = 250.0) -> Stick:
    stick = fresh_stick("potentiometer", "round", bits, rate, "sound", 1)
    module = replace(stick.module, x=x, y=y)
    return replace(stick, module=module, converter=Converter(bits, rate))


AWAY = np.radians(np.arange(16) % 8 * 45.0)
TOWARD = np.column_stack((np.sin(AWAY), np.cos(AWAY)))
"""Which way sixteen releases were pushed, twice round the clock."""


def returning(
    take: TakeReadings, to: NDArray[np.float64], toward: NDArray[np.float64] = TOWARD
) -> TakeReadings:
    """A take with other releases, that come to lie there: (n, 2) %, pushed toward (n, 2)."""
    first = take.let_go.release[0]
    release = tuple(
        replace(
            first,
            bearing=float(np.degrees(np.arctan2(*way))),
            final_x=float(x),
            final_y=float(y),
        )
        for way, (x, y) in zip(toward, to, strict=True)
    )
    return replace(take, let_go=replace(take.let_go, release=release))


def transformed(recording: Recording, u: NDArray[np.float64]) -> Recording:
    """The same recording with other positions, % of half range, kept exactly."""
    unit = (AxisRange(-100, 100),) * u.shape[1]
    return Recording(recording.t_us, u, unit, recording.step, recording.headers)


def picked(recording: Recording, keep: np.ndarray) -> Recording:
    return replace(
        recording, t_us=recording.t_us[keep], raw=recording.raw[keep], step=recording.step[keep]
    )


def waits(raw: np.ndarray, least: float, begins: np.ndarray | bool = False) -> np.ndarray:
    """Which samples (n, k) a device reports that waits until one of its axes has moved by so much from
    what it reported last; begins (n,): those that it reports anyway."""
    sent = np.zeros(len(raw), dtype=bool)
    anyway, last = np.broadcast_to(begins, len(raw)), raw[0] - least
    for i, now in enumerate(raw):
        if anyway[i] or np.abs(now - last).max() >= least:
            sent[i], last = True, now
    return sent


def as_said_last(raw: np.ndarray, sent: np.ndarray) -> np.ndarray:
    """Every sample (n, k) as the last one before it that was sent."""
    return raw[np.maximum.accumulate(np.where(sent, np.arange(len(raw)), 0))]


def trailing_off(recording: Recording, seconds: float, page: bool = False) -> Recording:
    """What a device says of it that goes on for so long after the last change, and then is silent
    until the next, but where a step begins; or of a page that repeats what holds every 50 ms."""
    news = np.append(True, (recording.raw[1:] != recording.raw[:-1]).any(axis=1))
    last = np.maximum.accumulate(np.where(news, np.arange(len(news)), 0))
    since = recording.t_us - recording.t_us[last]
    repeated = np.diff(since // 50_000, prepend=0) > 0
    begins = np.diff(recording.step, prepend=NO_STEP) != 0
    return picked(recording, (since <= seconds * 1e6) | (repeated if page else begins))


def idle(recording: Recording, seconds: float, within: float = 12.0) -> Recording:
    """By a source that says zero of what has lain within so much of it for so long."""
    inside = np.hypot(*recording.u.T) < within
    began = np.maximum.accumulate(np.where(inside, 0, np.arange(1, len(inside) + 1)))
    since = recording.t_us - recording.t_us[np.minimum(began, len(inside) - 1)]
    return transformed(
        recording, np.where((inside & (since > seconds * 1e6))[:, None], 0.0, recording.u)
    )


def pulled(recording: Recording, share: float = 0.1) -> Recording:
    """By a source that says zero of an axis that lies within such a share of the other."""
    u = recording.u
    return transformed(recording, np.where(np.abs(u) < share * np.abs(u[:, ::-1]), 0.0, u))


def learning(recording: Recording, known: float = 75.0) -> Recording:
    """By a device that takes the farthest it was moved each way for its range, and the middle of that
    for zero; known: what it takes for that before it is moved, %."""
    u = recording.u
    low = np.minimum(np.minimum.accumulate(u, axis=0), -known)
    high = np.maximum(np.maximum.accumulate(u, axis=0), known)
    return transformed(recording, np.clip(200 * (u - low) / (high - low) - 100, -100, 100))
