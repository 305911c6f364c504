"""A small microcontroller on a jig that prints a line a sample; docs/serial-logger.md has the lines.

Garbage lines are counted and survived, a clock of 32 bits may wrap, and a cable that comes back
within a few seconds goes on where it was.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import stat
import threading
import time
from collections import Counter
from collections.abc import AsyncIterator, Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import serial
from numpy.typing import NDArray
from serial.tools import list_ports

from hollow_pin.core.recording import (
    AXES,
    FARTHEST,
    TIMES_OF_ARRIVAL,
    AxisRange,
    Floats,
    RecordingError,
)
from hollow_pin.sources.printed_line import Arrivals, counts_otherwise, has_clock, numbers_in
from hollow_pin.sources.source import Block, SourceLost

BAUD = 115_200
POLL_S = 0.02
RETRY_S = 0.2
RECONNECT_S = 5.0
SILENT_S = 5.0
PROBE_S = 2.0
PROBE_ENOUGH = 20
WRAP_US = 2**32
LONGEST_LINE = 200
MOST_DIGITS = 15
"""Of a time: microseconds over thirty years."""
LEAP_US = 60_000_000
"""A clock that goes on by more than this, in one line, is believed once the next line agrees."""
RESTART_GAP_US = 1_000_000
HEADER_LINES = 50
ASK = b"?\n"
WANTED = "print x,y or, better, micros(),x,y"


@dataclass(frozen=True)
class Port:
    """A serial port: where it is, and what it calls itself."""

    path: str
    name: str


class LineParser:
    """Turns what a logger prints into samples.

    header: what its “# name: value” lines said. garbage: lines that were neither, or lie outside the
    range. axes: how many; while that is not known, a time stands before them. ranges: of each axis,
    where they are known. timed: whether a time stands in its lines; None until the first of them came.
    now_s: this machine's clock, by which those that have none are sampled.
    """

    def __init__(
        self,
        axes: int | None = None,
        ranges: tuple[AxisRange, ...] | None = None,
        now_s: Callable[[], float] = time.monotonic,
    ) -> None:
        self.axes = axes
        self._ranges = ranges
        self.timed: bool | None = None
        self._now_s = now_s
        self._arrivals = Arrivals()
        self.header: dict[str, str] = {}
        self.garbage = 0
        self.restarts = 0
        self._rest = b""
        self._last_us: int | None = None
        self._wrapped_us = 0
        self._doubted: tuple[int, list[float]] | None = None

    def feed(self, data: bytes) -> Block | None:
        """Take bytes in; the whole samples among them, or None."""
        *lines, self._rest = (self._rest + data).split(b"\n")
        if len(self._rest) > LONGEST_LINE:
            self.garbage += 1
            self._rest = b""
        t_us: list[int] = []
        raw: list[list[float]] = []
        for line in lines:
            for at, values in self._parse(line.strip()):
                t_us.append(at)
                raw.append(values)
        if not raw:
            return None
        times: NDArray[np.int64] | None = np.array(t_us, dtype=np.int64)
        if not self.timed:
            times = self._arrivals.times(len(raw), self._now_s())
        return Block(times, np.array(raw)) if times is not None else None

    def restart(self) -> None:
        """The device was away: half a line is lost, and its clock begins anew."""
        self._rest = b""
        self._last_us = None
        self._wrapped_us = 0
        self._doubted = None

    def _parse(self, line: bytes) -> list[tuple[int, list[float]]]:
        """The samples that are known once a line has come: none, it, or a doubted one and it."""
        if not line:
            return []
        if line.startswith(b"#"):
            name, colon, value = line[1:].decode("utf-8", "replace").partition(":")
            if colon and (name.strip() in self.header or len(self.header) < HEADER_LINES):
                self.header[name.strip()] = value.strip()
            return []
        sample = self._sample(line)
        if sample is None:
            self.garbage += 1
            return []
        at, values = sample
        return [(0, values)] if at is None else self._believed(at, values)

    def _sample(self, line: bytes) -> tuple[int | None, list[float]] | None:
        """The time of a line, where it has one, and its values; None where it is no sample."""
        read = numbers_in(line)
        if read is None:
            return None
        numbers, named = read
        timed = not named and (self.axes is None or len(numbers) == self.axes + 1)
        at, values = (numbers[0], numbers[1:]) if timed else (0.0, numbers)
        columns = self.axes or len(values)
        if (
            self.timed not in (None, timed)
            or not (0 <= at < 10**MOST_DIGITS and at == int(at))
            or len(values) != columns
            or not 1 <= columns <= 2
            or not self._inside(values)
        ):
            return None
        self.axes, self.timed = columns, timed
        return (int(at) if timed else None), values

    def _inside(self, values: list[float]) -> bool:
        """Whether values can be a converter's: within the range, where it is known."""
        if self._ranges is None:
            return all(abs(v) <= FARTHEST for v in values)
        return all(r.lo <= v <= r.hi for v, r in zip(values, self._ranges, strict=True))

    def _believed(self, at: int, values: list[float]) -> list[tuple[int, list[float]]]:
        """A first time, and one far from the last, wait for a second one that agrees: else a single
        line of rubbish would put everything after it in the past."""
        ahead = None if self._last_us is None else (at - self._last_us) % WRAP_US
        near = self._last_us is not None and (
            0 <= at - self._last_us <= LEAP_US
            or (at < self._last_us and self._last_us < WRAP_US and (ahead or 0) <= LEAP_US)
        )
        doubted = self._doubted
        if near:
            if doubted is not None:
                self.garbage += 1
            self._doubted = None
            return [self._unwrapped(at, values)]
        if doubted is not None and 0 <= at - doubted[0] <= LEAP_US:
            self._doubted = None
            if self._last_us is not None:
                self._begin_anew(doubted[0])
            return [self._unwrapped(*doubted), self._unwrapped(at, values)]
        if doubted is not None:
            self.garbage += 1
        self._doubted = (at, values)
        return []

    def _begin_anew(self, at: int) -> None:
        """The device's clock leapt, or began anew with the device: how long that took is not known,
        so its times go on a second behind the last, which is seen as a gap."""
        self.restarts += 1
        self._wrapped_us += (self._last_us or 0) + RESTART_GAP_US - at
        self._last_us = at

    def _unwrapped(self, at: int, values: list[float]) -> tuple[int, list[float]]:
        """Times that go on rising where a 32-bit clock wraps."""
        if self._last_us is not None and at < self._last_us:
            self._wrapped_us += WRAP_US
        self._last_us = at
        return at + self._wrapped_us, values

    def ranges(self) -> tuple[AxisRange, ...] | None:
        """The range of each axis by the header, or None where it does not say."""
        if self.axes is None:
            return None
        ranges = []
        for axis in AXES[: self.axes]:
            try:
                lo, hi = (float(v) for v in self.header[f"range.{axis}"].split(","))
                ranges.append(AxisRange(lo, hi))
            except (KeyError, ValueError, RecordingError):
                return None
        return tuple(ranges)


@dataclass(frozen=True)
class Probed:
    """What a logger said of itself in its first moments. ranges is None where it did not say. about:
    the usual value of each axis meanwhile."""

    axes: int
    ranges: tuple[AxisRange, ...] | None
    y_down: bool
    about: tuple[float, ...] = field(default=(), compare=False)

    def ranges_or(self, usual: AxisRange) -> tuple[AxisRange, ...]:
        """Its own ranges; else the usual one for each axis. Raises SourceLost where what it prints
        lies beyond that, of which every sample would be garbage."""
        if self.ranges is not None:
            return self.ranges
        beyond = [value for value in self.about if not usual.lo <= value <= usual.hi]
        if beyond:
            raise SourceLost(
                f"The logger prints values about {beyond[0]:.0f}, beyond the range of {usual.lo:g} to "
                f"{usual.hi:g}: print its own, as “# range.x: 0,4095”, or correct the model's"
            )
        return (usual,) * self.axes


def list_serial_ports(stand_ins: Path) -> list[Port]:
    """The machine's serial ports, those that somebody plugged in first, then the jigs that stand in
    for one, then what is built in."""
    plugged: list[Port] = []
    built_in: list[Port] = []
    ports: list[Port] = []
    for p in list_ports.comports():
        name = p.device if p.description in (None, "", "n/a") else f"{p.description}, {p.device}"
        (plugged if p.vid is not None else built_in).append(Port(p.device, name))
    if stand_ins.is_dir():
        for link in sorted(stand_ins.iterdir()):
            with contextlib.suppress(OSError):
                if stat.S_ISCHR(link.stat().st_mode):
                    ports.append(Port(str(link), f"Simulated {link.name}"))
    return [*plugged, *ports, *built_in]


def _open(path: str) -> serial.Serial:
    return serial.Serial(path, BAUD, timeout=POLL_S, write_timeout=0)


def probe(path: str) -> Probed:
    """Listen to a port until it is known what it sends. Raises SourceLost, saying what is wrong."""
    heard, header, lines = bytearray(), LineParser(), 0
    began = time.monotonic()
    try:
        with _open(path) as port:
            with contextlib.suppress(BlockingIOError):
                os.write(port.fileno(), ASK)
            while (took_s := time.monotonic() - began) < PROBE_S and (
                lines < PROBE_ENOUGH or not _has_ranges(header.header)
            ):
                data = port.read(max(1, port.in_waiting))
                header.feed(data)
                heard += data
                lines += data.count(b"\n")
    except (OSError, serial.SerialException) as wrong:
        raise SourceLost(f"{path} cannot be opened: {_reason(wrong)}") from None
    # The first line may be cut off, and so is what is not ended yet.
    came = [line.strip() for line in bytes(heard).split(b"\n")[1:-1]]
    samples = [line for line in came if line and not line.startswith(b"#")]
    parser = LineParser()
    parser.header = header.header
    parser.axes = axes = _axes_of(samples, parser.header.get("axes"), path, took_s)
    values = [r[0][-axes:] for r in map(numbers_in, samples) if r is not None and len(r[0]) >= axes]
    about = tuple(np.median(np.array(values), axis=0).tolist())
    return Probed(axes, parser.ranges(), parser.header.get("y-positive") == "down", about)


def _has_ranges(header: dict[str, str]) -> bool:
    """Whether a header says the range of every axis that it names, or of both."""
    return all(f"range.{axis.strip()}" in header for axis in header.get("axes", "x,y").split(","))


def _axes_of(lines: list[bytes], stated: str | None, path: str, took_s: float) -> int:
    """How many axes the lines of a port have. stated: those that it says it has, if it does. Raises
    SourceLost, saying what came instead."""
    if not lines:
        raise SourceLost(f"no sample came from {path} in {PROBE_S:.0f} s: nothing came")
    read = [r for r in map(numbers_in, lines) if r is not None]
    counts = Counter(map(_form, read))
    (numbers, named), often = counts.most_common(1)[0] if read else ((0, False), 0)
    rows = [r for r, _ in read if len(r) == numbers]
    if 2 * often < len(lines) or not 1 <= numbers <= (2 if named else 3):
        shown = lines[-1][:40].decode("utf-8", "replace")
        raise SourceLost(f"{len(lines)} lines came that are no samples, as “{shown}”: {WANTED}")
    if named or numbers == 1:
        return numbers
    clock = has_clock(rows)
    if stated is not None and numbers == len(stated.split(",")):
        clock = False
    if numbers == 3 and not clock:
        raise SourceLost(f"{path} prints three numbers, the first of which is no time: {WANTED}")
    if clock and counts_otherwise([row[0] for row in rows], took_s):
        raise SourceLost(f"{path} prints times that are no microseconds: {WANTED}")
    return numbers - 1 if clock else numbers


def _form(read: tuple[list[float], bool]) -> tuple[int, bool]:
    numbers, named = read
    return len(numbers), named


def _reason(wrong: OSError | serial.SerialException) -> str:
    text = str(wrong)
    if "Permission" in text:
        return "permission denied. Join the group that owns it (often dialout), then log in again."
    return text.partition("]")[2].strip(" :") or text


class SerialSource:
    """A logger on a port. A thread reads it; what comes is handed over as blocks.

    y_down: it reports y downward; it is turned here, and nowhere else.
    """

    def __init__(self, path: str, ranges: tuple[AxisRange, ...], y_down: bool = False) -> None:
        self._path = path
        self._ranges = ranges
        self._y_down = y_down and len(ranges) == 2
        self._parser = LineParser(len(ranges), ranges)
        self._blocks: asyncio.Queue[Block | str] = asyncio.Queue()
        self._cue = b""
        self._cued = b""
        self._over = threading.Event()
        self._last_us = 0
        self.reconnects = 0

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return self._ranges

    def cue(self, step: str | None) -> None:
        """Tell the jig which step is asked for: one with a motor or a lamp may use it."""
        self._cue = f"# step: {step or ''}\n".encode()

    def notes(self) -> dict[str, str]:
        notes = {}
        if self._parser.timed is False:
            notes[TIMES_OF_ARRIVAL] = "yes"
        if self._parser.garbage:
            notes["garbage-lines"] = str(self._parser.garbage)
        if self._parser.restarts:
            notes["clock-restarts"] = str(self._parser.restarts)
        if self.reconnects:
            notes["reconnects"] = str(self.reconnects)
        return notes

    async def blocks(self) -> AsyncIterator[Block]:
        loop = asyncio.get_running_loop()
        silent = SILENT_S + RECONNECT_S

        def hand_over(what: Block | str) -> None:
            with contextlib.suppress(RuntimeError):
                loop.call_soon_threadsafe(self._blocks.put_nowait, what)

        reader = threading.Thread(target=self._read, args=(hand_over,), daemon=True)
        reader.start()
        try:
            while True:
                try:
                    async with asyncio.timeout(silent):
                        what = await self._blocks.get()
                except TimeoutError:
                    raise SourceLost(f"no sample came for {silent:.0f} s") from None
                if isinstance(what, str):
                    raise SourceLost(what)
                yield what
        finally:
            self._over.set()
            await asyncio.to_thread(reader.join, 2)

    def _read(self, hand_over: Callable[[Block | str], None]) -> None:
        lost_at: float | None = None
        while not self._over.is_set():
            try:
                with _open(self._path) as port:
                    if lost_at is not None:
                        self.reconnects += 1
                        self._parser.restart()
                    self._listen(port, hand_over, lost_at)
                    lost_at = time.monotonic()
            except (OSError, serial.SerialException) as wrong:
                now = time.monotonic()
                lost_at = lost_at if lost_at is not None else now
                if now - lost_at > RECONNECT_S:
                    hand_over(f"the serial port was lost: {_reason(wrong)}")
                    return
                self._over.wait(RETRY_S)

    def _listen(
        self, port: serial.Serial, hand_over: Callable[[Block | str], None], lost_at: float | None
    ) -> None:
        """Read until the port fails. After a loss the device's clock starts anew: its times go on by
        this machine's clock."""
        shift: int | None = 0 if lost_at is None else None
        while not self._over.is_set():
            self._say(port)
            block = self._parser.feed(port.read(max(1, port.in_waiting)))
            if block is None:
                continue
            if shift is None:
                away = round((time.monotonic() - (lost_at or 0.0)) * 1e6)
                shift = self._last_us + away - int(block.t_us[0])
            t_us = block.t_us + shift
            self._last_us = int(t_us[-1])
            hand_over(Block(t_us, self._turned(block.raw)))

    def _say(self, port: serial.Serial) -> None:
        """Tell the device the step where it changed. One that never reads is not waited for."""
        cue = self._cue
        if cue != self._cued:
            with contextlib.suppress(BlockingIOError):
                os.write(port.fileno(), cue)
            self._cued = cue

    def _turned(self, raw: Floats) -> Floats:
        if self._y_down:
            r = self._ranges[1]
            raw[:, 1] = r.lo + r.hi - raw[:, 1]
        return raw
