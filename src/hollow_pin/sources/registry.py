"""What opens each kind of source that is no stand-in: a row a kind."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from hollow_pin.core.recording import AxisRange
from hollow_pin.core.sources import SourceKind, SourceSetup
from hollow_pin.sources.event_device import find_device, open_device
from hollow_pin.sources.hidraw import find_raw_device, open_raw_device
from hollow_pin.sources.page import PageSource
from hollow_pin.sources.serial_logger import SerialSource
from hollow_pin.sources.source import Source, SourceLost

Ranges = tuple[AxisRange, ...]
Open = Callable[[SourceSetup, Ranges, tuple[bool, ...]], Source]
"""Opens a source by its setup, the ranges of its axes, and which of them run the other way."""

OPEN: Mapping[SourceKind, Open] = {
    "gamepad": lambda _, __, flip: PageSource(flip),
    "hid": lambda _, ranges, flip: PageSource(flip, ranges),
    "hidraw": lambda at, _, flip: open_raw_device(find_raw_device(at.path), at.axes, flip),
    "serial": lambda at, ranges, _: SerialSource(at.path, ranges, at.y_turned),
    "event-device": lambda at, _, flip: open_device(find_device(at.path), at.axes, flip),
}


def open_real(kind: SourceKind, setup: SourceSetup, ranges: Ranges) -> Source:
    """A source that is no stand-in, as it was set up. Raises SourceLost where it is not there."""
    if kind not in OPEN:
        raise SourceLost(f"a {kind} is not a device")
    flip = tuple(axis in setup.flipped for axis in "xy"[: len(ranges)])
    return OPEN[kind](setup, ranges, flip)
