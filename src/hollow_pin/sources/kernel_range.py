"""What the kernel believes of an input device's axes: range, flat and fuzz, read and written.

A program that asks the kernel is given these; they last until the device is unplugged. Linux; the
device must be writable.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import dataclass
from typing import Any, Protocol

from hollow_pin.sources.source import SourceLost


class InputDevice(Protocol):
    """As python-evdev has it, as far as it is used here."""

    def absinfo(self, axis_num: int) -> Any: ...

    def set_absinfo(
        self,
        axis_num: int,
        value: int | None = None,
        min: int | None = None,
        max: int | None = None,
        fuzz: int | None = None,
        flat: int | None = None,
        resolution: int | None = None,
    ) -> None: ...

    def close(self) -> None: ...


Open = Callable[[str], InputDevice]


@dataclass(frozen=True)
class KernelAxis:
    """code: of the axis, as the kernel numbers them. lo, hi: its range; flat: what is advised to be
    ignored around the centre; fuzz: changes that are swallowed."""

    code: int
    lo: int
    hi: int
    flat: int
    fuzz: int


class NotWritten(ValueError):
    """The kernel did not take it, or reads back something else; says which axis."""


def open_input(path: str) -> InputDevice:
    """A device of this machine. Raises SourceLost where it is not there or may not be opened."""
    try:
        import evdev
    except ImportError:
        raise SourceLost(
            'the reader of input devices is missing: pip install "hollow-pin[input]"'
        ) from None
    try:
        device: InputDevice = evdev.InputDevice(path)
    except OSError as wrong:
        raise SourceLost(f"{path} cannot be opened: {wrong.strerror or wrong}") from None
    return device


def read_axes(path: str, codes: Sequence[int], opened: Open = open_input) -> tuple[KernelAxis, ...]:
    """What the kernel believes of some axes. Raises SourceLost."""
    with closing(opened(path)) as device:
        return tuple(_read(device, code) for code in codes)


def _read(device: InputDevice, code: int) -> KernelAxis:
    info = device.absinfo(code)
    return KernelAxis(code, info.min, info.max, info.flat, info.fuzz)


def write_axes(path: str, axes: Sequence[KernelAxis], opened: Open = open_input) -> None:
    """Write ranges, flats and fuzzes, and read them back. What cannot be written leaves every axis as
    it was. Raises NotWritten, SourceLost."""
    for axis in axes:
        if axis.hi <= axis.lo:
            raise NotWritten(
                f"Axis {axis.code}: its high end, {axis.hi}, is not above its low one."
            )
        if axis.flat < 0 or axis.fuzz < 0 or 2 * axis.flat >= axis.hi - axis.lo:
            raise NotWritten(
                f"Axis {axis.code}: flat and fuzz are 0 or more, and less than its range."
            )
    with closing(opened(path)) as device:
        before = [_read(device, axis.code) for axis in axes]
        try:
            for axis in axes:
                _write(device, axis)
            back = [_read(device, axis.code) for axis in axes]
        except OSError as wrong:
            _undo(device, before)
            raise NotWritten(
                f"The kernel did not take it: {wrong.strerror or wrong}. The device must be writable."
            ) from None
        wrong_axis = next((a for a, b in zip(axes, back, strict=True) if a != b), None)
        if wrong_axis is not None:
            _undo(device, before)
            raise NotWritten(
                f"Axis {wrong_axis.code} reads back something else: nothing was changed."
            )


def _write(device: InputDevice, axis: KernelAxis) -> None:
    device.set_absinfo(axis.code, min=axis.lo, max=axis.hi, flat=axis.flat, fuzz=axis.fuzz)


def _undo(device: InputDevice, before: Sequence[KernelAxis]) -> None:
    for axis in before:
        try:
            _write(device, axis)
        except OSError:
            return
