"""Raw HID reports as the Linux kernel hands them on: whole integers at the device's own rate, by the
device's own descriptor, with no driver's dead zone or smoothing in between."""

from __future__ import annotations

import asyncio
import contextlib
import os
import time
from collections.abc import AsyncIterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from hollow_pin.core.recording import AxisRange, Floats
from hollow_pin.sources.hid_report import BadDescriptor, HidField, axes_of, decode, fields_of
from hollow_pin.sources.source import Block, SourceLost

NODES = Path("/dev")
ABOUT = Path("/sys/class/hidraw")
LONGEST_REPORT = 4096
UNCHANGED_S = 0.05
"""Some devices report changes only; a stick that does not move is said to stay this often."""


@dataclass(frozen=True)
class RawDevice:
    """A device whose reports may be read, and its axes in the order of its descriptor."""

    path: str
    name: str
    axes: tuple[HidField, ...]


@dataclass(frozen=True)
class RawDevices:
    """What can be read here, and what to do where something cannot."""

    found: tuple[RawDevice, ...]
    advice: str | None


def list_raw_devices(nodes: Path = NODES, about: Path = ABOUT) -> RawDevices:
    """Every HID device with an axis. nodes, about: where the kernel shows them."""
    here = sorted(about.glob("hidraw*")) if about.is_dir() else []
    if not here:
        return RawDevices((), "This machine shows no raw HID devices.")
    devices, shut = [], []
    for entry in here:
        try:
            axes = axes_of(fields_of((entry / "device" / "report_descriptor").read_bytes()))
        except (OSError, BadDescriptor):
            continue
        if not axes:
            continue
        node = nodes / entry.name
        if os.access(node, os.R_OK):
            devices.append(RawDevice(str(node), _name(entry), axes))
        else:
            shut.append(_name(entry))
    advice = None
    if shut:
        advice = (
            f"{', '.join(shut)} may not be read raw: the device node belongs to root. Let a udev rule "
            "give it to your group, then plug it in again."
        )
    elif not devices:
        advice = "None of this machine's HID devices has a stick. Plug the controller in."
    return RawDevices(tuple(devices), advice)


def _name(entry: Path) -> str:
    with contextlib.suppress(OSError):
        for line in (entry / "device" / "uevent").read_text("utf-8", "replace").splitlines():
            key, _, value = line.partition("=")
            if key == "HID_NAME" and value.strip():
                return value.strip()[:200]
    return entry.name


def find_raw_device(path: str, nodes: Path = NODES, about: Path = ABOUT) -> RawDevice:
    """A device by its path. Raises SourceLost where it is not there or not to be read."""
    devices = list_raw_devices(nodes, about)
    device = next((d for d in devices.found if d.path == path), None)
    if device is None:
        raise SourceLost(f"{path} is not there to be read. {devices.advice or 'Is it plugged in?'}")
    return device


class HidrawSource:
    """A device's reports as a live source. fields: x, then y where there is one. y counts downward on
    such devices; it is turned here, and nowhere else. flip: axes that run the other way on this one.
    numbered: whether reports begin with their id."""

    def __init__(
        self, descriptor: int, fields: tuple[HidField, ...], flip: tuple[bool, ...], numbered: bool
    ) -> None:
        self._descriptor = descriptor
        self._fields = fields
        self._turn = tuple(f != (i == 1) for i, f in enumerate(flip))
        self._numbered = numbered
        self._state = np.array([(f.lo + f.hi) / 2 for f in fields])
        self._last_us = 0
        self._unread = 0

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return tuple(AxisRange(f.lo, f.hi) for f in self._fields)

    def cue(self, step: str | None) -> None:
        """A person holds it."""

    def notes(self) -> dict[str, str]:
        return {"unread-values": str(self._unread)} if self._unread else {}

    async def blocks(self) -> AsyncIterator[Block]:
        loop = asyncio.get_running_loop()
        ready = asyncio.Event()
        os.set_blocking(self._descriptor, False)
        loop.add_reader(self._descriptor, ready.set)
        try:
            while True:
                with contextlib.suppress(TimeoutError):
                    async with asyncio.timeout(UNCHANGED_S):
                        await ready.wait()
                if ready.is_set():
                    ready.clear()
                    rows = self._read_waiting()
                else:
                    rows = self._state[None, :]
                if len(rows):
                    yield self._timed(rows)
        finally:
            loop.remove_reader(self._descriptor)
            os.close(self._descriptor)

    def _read_waiting(self) -> Floats:
        """Every report that waits, one after the other: (n, k) values."""
        rows = []
        while True:
            try:
                report = os.read(self._descriptor, LONGEST_REPORT)
            except BlockingIOError:
                break
            except OSError:
                raise SourceLost("the device was unplugged") from None
            if not report:
                raise SourceLost("the device was unplugged")
            if self._take_report(report):
                rows.append(self._state.copy())
        return np.array(rows).reshape(-1, len(self._fields))

    def _take_report(self, report: bytes) -> bool:
        """Whether a report says something of an axis; what it says is the state then."""
        number, body = (report[0], report[1:]) if self._numbered else (0, report)
        bits = np.frombuffer(body, np.uint8)[None, :]
        is_reported = False
        for i, field in enumerate(self._fields):
            if field.report != number:
                continue
            value = decode(bits, field)[0]
            if np.isnan(value):
                self._unread += 1
                continue
            self._state[i] = value
            is_reported = True
        return is_reported

    def _timed(self, rows: Floats) -> Block:
        now = max(time.monotonic_ns() // 1000, self._last_us)
        self._last_us = now
        raw = rows.copy()
        for i, (turn, f) in enumerate(zip(self._turn, self._fields, strict=True)):
            if turn:
                raw[:, i] = f.lo + f.hi - raw[:, i]
        return Block(np.full(len(raw), now, dtype=np.int64), raw)


def open_raw_device(
    device: RawDevice, places: tuple[int, ...], flip: tuple[bool, ...]
) -> HidrawSource:
    """A device as a source. places: of its axes, in the order of its descriptor. Raises SourceLost."""
    try:
        fields = tuple(device.axes[place] for place in places)
        descriptor = os.open(device.path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except IndexError:
        raise SourceLost(f"{device.name} has fewer axes") from None
    except OSError as wrong:
        raise SourceLost(f"{device.path} cannot be opened: {wrong.strerror}") from None
    numbered = any(f.report for f in device.axes)
    return HidrawSource(descriptor, fields, flip, numbered)
