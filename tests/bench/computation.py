"""Arrays in, numbers out: analysis, tracking, files, blocks."""

from __future__ import annotations

import io
import sqlite3
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path
from statistics import median

import allantools
import numpy as np
import pyarrow.csv as pa_csv

from benches import begun, taken_in
from hollow_pin.core.decimation import envelope
from hollow_pin.core.recording import AxisRange, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.tracker import StepTracker
from hollow_pin.formats.recording_csv import read_recording, write_recording
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.perform import perform
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.store.database import Database
from hollow_pin.store.takes import write_block

AT = "2026-03-01T10:00:00.000+00:00"


def timed(run: Callable[[], object], times: int = 15) -> float:
    """Median of several runs after one that does not count, in ms."""
    run()
    spent = []
    for _ in range(times):
        began = time.perf_counter()
        run()
        spent.append((time.perf_counter() - began) * 1e3)
    return median(spent)


def line(what: str, ours: float, yardstick: str, theirs: float) -> str:
    return f"{what}: {ours:.1f} ms; {yardstick}: {theirs:.1f} ms; ratio {ours / theirs:.2f}"


MINUTE = Routine(steps=("still", "let-go", "rim"), still_s=15)


def whole_take(routine: Routine = MINUTE) -> Recording:
    stick = fresh_stick("potentiometer", "round", 10, 250, "worn", 5)
    return perform(StandIn(stick, 3), routine, block_s=0.1).recording


def analysis() -> str:
    recording = whole_take()
    seconds = recording.t[-1]

    def plain() -> None:
        """A hundred sorted passes over the same samples."""
        for _ in range(100):
            np.sort(recording.u, axis=0)

    ours = timed(lambda: measure_take(Recording(*_parts(recording))))
    return (
        line(
            f"analysis of a {seconds:.0f} s take at 250 Hz, uncertainties included",
            ours,
            "np.sort of it, 100 times",
            timed(plain),
        )
        + "; "
        + line("the same", ours, "allantools.oadev of both axes", timed(lambda: _oadev(recording)))
    )


def whole_routine() -> str:
    recording = whole_take(Routine())
    return line(
        f"analysis of the standard routine, {recording.t[-1]:.0f} s at 250 Hz",
        timed(lambda: measure_take(Recording(*_parts(recording)))),
        "np.sort of it, 100 times",
        timed(lambda: [np.sort(recording.u, axis=0) for _ in range(100)]),
    )


def _parts(r: Recording) -> tuple:
    return r.t_us, r.raw, r.ranges, r.step


def _oadev(recording: Recording, rate: float = 250.0) -> None:
    for axis in recording.u.T:
        allantools.oadev(axis, rate=rate, data_type="freq", taus="octave")


def soak(seconds: int = 3600, rate: int = 1000) -> Recording:
    """An hour of a trembling, creeping stick at 1 kHz on two axes."""
    n = seconds * rate
    rng = np.random.default_rng(1)
    creep = np.linspace(0, 3, n)[:, None]
    raw = np.round(512 + 2 * rng.standard_normal((n, 2)) + creep)
    t_us = np.arange(n, dtype=np.int64) * (1_000_000 // rate)
    return Recording(t_us, raw, (AxisRange(0, 1023),) * 2, np.zeros(n, np.int8))


def an_hour() -> str:
    recording = soak()
    parts = _parts(recording)
    measured = line(
        "an hour at 1 kHz on two axes, analysed, uncertainties included",
        timed(lambda: measure_take(Recording(*parts)), 5),
        "allantools.oadev of both axes",
        timed(lambda: _oadev(recording, 1000.0), 3),
    )
    held = sum(a.nbytes for a in (recording.t_us, recording.raw, recording.step))
    fresh = Recording(*parts)
    tracemalloc.start()
    measure_take(fresh)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return f"{measured}; peak memory {peak / held:.2f} times its raw arrays of {held / 1e6:.0f} MB"


def an_hour_imported() -> str:
    recording = soak()
    data = "".join(write_recording(recording)).encode()
    rows = data[data.index(b"t_us") :]
    return line(
        f"recording file of an hour at 1 kHz, {len(data) / 1e6:.0f} MB, read and checked",
        timed(lambda: read_recording(data), 3),
        "pyarrow.csv.read_csv of its rows",
        timed(lambda: pa_csv.read_csv(io.BytesIO(rows)), 3),
    )


def zooming() -> str:
    recording = soak()
    return line(
        "an hour at 1 kHz as 1500 stretches, every extreme kept",
        timed(lambda: envelope(recording.t, recording.u, 1500), 5),
        "np.sum of the same array",
        timed(lambda: np.sum(recording.u), 5),
    )


def tracking() -> str:
    recording = whole_take()
    blocks = [slice(i, i + 5) for i in range(0, len(recording.t), 5)]

    def ours() -> None:
        tracker = StepTracker(MINUTE)
        for b in blocks:
            tracker.feed(recording.t[b], recording.u[b])

    def plain() -> None:
        for b in blocks:
            u = recording.u[b]
            np.hypot(u[:, 0], u[:, 1])

    count = len(blocks)
    return line(
        f"step tracker over {count} blocks", timed(ours, 5), "np.hypot of each", timed(plain, 5)
    )


def reading_files() -> str:
    rng = np.random.default_rng(1)
    n = 600_000
    base = whole_take()
    recording = Recording(
        np.arange(n, dtype=np.int64) * 1000,
        rng.integers(0, 1024, (n, 2)).astype(float),
        base.ranges,
        np.zeros(n, np.int8),
    )
    data = "".join(write_recording(recording)).encode()
    rows = data[data.index(b"t_us") :]
    return line(
        f"recording file of {n} samples read and checked",
        timed(lambda: read_recording(data), 5),
        "pyarrow.csv.read_csv of its rows",
        timed(lambda: pa_csv.read_csv(io.BytesIO(rows)), 5),
    )


def writing_blocks(folder: Path) -> str:
    database = Database(folder)
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = begun(database, job)
    t = np.arange(20, dtype=np.int64)
    raw, step = np.zeros((20, 2)), np.zeros(20, np.int8)
    connection = database.connect()
    bare = sqlite3.connect(folder / "bare.db", isolation_level=None)
    bare.execute("PRAGMA journal_mode = WAL")
    bare.execute("PRAGMA synchronous = NORMAL")
    bare.execute("CREATE TABLE block (id INTEGER PRIMARY KEY, body BLOB)")
    body = bytes(20 * 25)

    def ours() -> None:
        for _ in range(500):
            write_block(connection, take.id, t, raw, step)

    def plain() -> None:
        for _ in range(500):
            bare.execute("INSERT INTO block (body) VALUES (?)", (body,))

    return line(
        "500 blocks of 20 samples, each durable", timed(ours, 5), "bare inserts", timed(plain, 5)
    )
