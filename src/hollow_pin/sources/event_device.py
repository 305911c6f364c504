"""The kernel's own input events: a controller at its own rate, in its true range, with nothing
smoothed by a browser. Linux, 64 bit.
"""

from __future__ import annotations

import asyncio
import contextlib
import fcntl
import os
import struct
import time
from collections.abc import AsyncIterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AxisRange, Floats
from hollow_pin.sources.source import Block, SourceLost

EVENT = np.dtype(
    [("sec", "<i8"), ("usec", "<i8"), ("type", "<u2"), ("code", "<u2"), ("value", "<i4")]
)
"""struct input_event of linux/input.h."""
EV_SYN, EV_ABS = 0, 3
SYN_REPORT, SYN_DROPPED = 0, 3
EVIOCSCLOCKID = 0x400445A0
CLOCK_MONOTONIC = 1
UNCHANGED_S = 0.05
"""The kernel reports changes; a stick that does not move is asked again this often."""
INPUT = Path("/dev/input")


@dataclass(frozen=True)
class DeviceAxis:
    """One absolute axis. fuzz: changes smaller than this are swallowed by the kernel. flat: what a
    program is advised to ignore around the centre."""

    code: int
    name: str
    lo: int
    hi: int
    fuzz: int
    flat: int


@dataclass(frozen=True)
class Device:
    """An input device with absolute axes."""

    path: str
    name: str
    axes: tuple[DeviceAxis, ...]


@dataclass(frozen=True)
class Devices:
    """What can be read here, and what to do where something cannot."""

    found: tuple[Device, ...]
    advice: str | None


def list_devices() -> Devices:
    """Every device with absolute axes that may be read."""
    try:
        import evdev
    except ImportError:
        return Devices((), 'Install the reader of input devices: pip install "hollow-pin[input]".')
    nodes = sorted(INPUT.glob("event*")) if INPUT.is_dir() else []
    if not nodes:
        return Devices((), "This machine has no input devices.")
    shut = [n for n in nodes if not os.access(n, os.R_OK)]
    devices = []
    for node in nodes:
        if node in shut:
            continue
        with (
            contextlib.suppress(OSError),
            contextlib.closing(evdev.InputDevice(str(node))) as device,
        ):
            axes = _axes_of(device)
            if axes:
                devices.append(Device(str(node), device.name, axes))
    advice = None
    if shut and not devices:
        advice = (
            f"{len(shut)} input devices may not be read. Join the group “input” "
            "(sudo usermod -aG input $USER), then log in again."
        )
    elif not devices:
        advice = "None of this machine's input devices has a stick. Plug the controller in."
    return Devices(tuple(devices), advice)


def _axes_of(device: Any) -> tuple[DeviceAxis, ...]:
    absolute = device.capabilities().get(EV_ABS, [])
    return tuple(
        DeviceAxis(code, f"axis {code}", info.min, info.max, info.fuzz, info.flat)
        for code, info in absolute
        if info.max > info.min
    )


def find_device(path: str) -> Device:
    """A device by its path. Raises SourceLost where it is not there or not to be read."""
    devices = list_devices()
    device = next((d for d in devices.found if d.path == path), None)
    if device is None:
        raise SourceLost(f"{path} is not there to be read. {devices.advice or 'Is it plugged in?'}")
    return device


class EventReader:
    """Turns the kernel's event structures into samples: one a report, with whatever of it changed.

    codes: the axes wanted, x first. dropped: how often the kernel had to throw events away.
    """

    def __init__(self, codes: tuple[int, ...], start: tuple[float, ...]) -> None:
        self._codes = codes
        self._state = np.array(start, dtype=np.float64)
        self._rest = b""
        self._dropping = False
        self.dropped = 0

    @property
    def state(self) -> Floats:
        """What each axis said last."""
        return self._state

    def feed(self, data: bytes) -> Block | None:
        """Take bytes in; the samples of the whole reports among them, or None."""
        data = self._rest + data
        whole = len(data) // EVENT.itemsize * EVENT.itemsize
        self._rest = data[whole:]
        events = self._without_dropped(np.frombuffer(data[:whole], EVENT))
        if not len(events):
            return None
        values = np.empty((len(events), len(self._codes)))
        for i, code in enumerate(self._codes):
            mine = (events["type"] == EV_ABS) & (events["code"] == code)
            levels = np.concatenate(([self._state[i]], events["value"].astype(np.float64)))
            latest = np.where(mine, np.arange(1, len(events) + 1), 0)
            values[:, i] = levels[np.maximum.accumulate(latest)]
        self._state = values[-1].copy()
        report = (events["type"] == EV_SYN) & (events["code"] == SYN_REPORT)
        if not report.any():
            return None
        t_us = events["sec"][report] * 1_000_000 + events["usec"][report]
        return Block(np.maximum.accumulate(t_us), values[report])

    def _without_dropped(self, events: NDArray[np.void]) -> NDArray[np.void]:
        """After the kernel dropped events everything up to the next report is incomplete."""
        syn = events["type"] == EV_SYN
        dropped = np.flatnonzero(syn & (events["code"] == SYN_DROPPED))
        if not dropped.size and not self._dropping:
            return events
        keep = np.ones(len(events), dtype=bool)
        reports = np.flatnonzero(syn & (events["code"] == SYN_REPORT))
        starts = ([0] if self._dropping else []) + dropped.tolist()
        self._dropping = False
        self.dropped += int(dropped.size)
        for start in starts:
            after = reports[reports >= start]
            stop = int(after[0]) + 1 if after.size else len(events)
            keep[start:stop] = False
            self._dropping = not after.size
        return events[keep]


class EventDeviceSource:
    """A device as a live source. axes: x, then y where there is one. y_down: as the kernel has it for
    sticks; it is turned here, and nowhere else. flip: axes that run the other way on this device."""

    def __init__(
        self,
        descriptor: int,
        axes: tuple[DeviceAxis, ...],
        flip: tuple[bool, ...],
        start: tuple[float, ...] | None = None,
    ) -> None:
        self._descriptor = descriptor
        self._axes = axes
        self._turn = tuple(f != (i == 1) for i, f in enumerate(flip))
        middle = tuple((a.lo + a.hi) / 2 for a in axes)
        self._reader = EventReader(tuple(a.code for a in axes), start or middle)
        self._last_us: int | None = None
        self._heard_at = 0.0

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return tuple(AxisRange(a.lo, a.hi) for a in self._axes)

    def cue(self, step: str | None) -> None:
        """A person holds it."""

    def notes(self) -> dict[str, str]:
        return {"dropped-reports": str(self._reader.dropped)} if self._reader.dropped else {}

    async def blocks(self) -> AsyncIterator[Block]:
        loop = asyncio.get_running_loop()
        ready = asyncio.Event()
        os.set_blocking(self._descriptor, False)
        with contextlib.suppress(OSError):
            fcntl.ioctl(self._descriptor, EVIOCSCLOCKID, struct.pack("i", CLOCK_MONOTONIC))
        loop.add_reader(self._descriptor, ready.set)
        try:
            while True:
                with contextlib.suppress(TimeoutError):
                    async with asyncio.timeout(UNCHANGED_S):
                        await ready.wait()
                block = self._read_waiting() if ready.is_set() else self._unchanged()
                ready.clear()
                if block is not None:
                    yield block
        finally:
            loop.remove_reader(self._descriptor)

    def _read_waiting(self) -> Block | None:
        try:
            data = os.read(self._descriptor, 64 * EVENT.itemsize)
        except BlockingIOError:
            return None
        except OSError:
            raise SourceLost("the device was unplugged") from None
        if not data:
            raise SourceLost("the device was unplugged")
        block = self._reader.feed(data)
        return None if block is None else self._timed(block.t_us, block.raw)

    def _unchanged(self) -> Block | None:
        """Nothing changed: the last values again, so that a stick that rests is seen to rest."""
        if self._last_us is None:
            return None
        at = self._last_us + round((time.monotonic() - self._heard_at) * 1e6)
        return self._timed(np.array([at]), self._reader.state[None, :].copy())

    def _timed(self, t_us: NDArray[np.int64], raw: Floats) -> Block:
        if self._last_us is not None:
            t_us = np.maximum(t_us, self._last_us)
        self._last_us, self._heard_at = int(t_us[-1]), time.monotonic()
        for i, (turn, axis) in enumerate(zip(self._turn, self._axes, strict=True)):
            if turn:
                raw[:, i] = axis.lo + axis.hi - raw[:, i]
        return Block(t_us, raw)


def open_device(
    device: Device, codes: tuple[int, ...], flip: tuple[bool, ...]
) -> EventDeviceSource:
    """A device as a source, from where its axes stand now. Raises SourceLost."""
    import evdev

    by_code = {a.code: a for a in device.axes}
    try:
        axes = tuple(by_code[code] for code in codes)
        opened = evdev.InputDevice(device.path)
        start = tuple(float(opened.absinfo(code).value) for code in codes)
        descriptor = os.dup(opened.fd)
        opened.close()
    except KeyError as missing:
        raise SourceLost(f"{device.name} has no axis {missing}") from None
    except OSError as wrong:
        raise SourceLost(f"{device.path} cannot be opened: {wrong.strerror}") from None
    return EventDeviceSource(descriptor, axes, flip, start)
