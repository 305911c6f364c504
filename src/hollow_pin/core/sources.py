"""The kinds of sources: one row a kind; and how one of them is read for a take.

What opens a kind is a row of `hollow_pin.sources.registry`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

SourceKind = Literal["stand-in", "gamepad", "hid", "serial", "event-device", "hidraw", "file"]
ReadBy = Literal["page", "server", "program", "nobody"]


@dataclass(frozen=True)
class SourceInfo:
    """A kind of source. label: as it is offered; read_by: the page, the server, the program itself,
    which plays it, or nobody any more. rawer: what is said of it where one with more in between was
    chosen; empty where that is no question. own_numbers: whether it gives the numbers of the device
    itself, which may not be calibrated yet."""

    kind: SourceKind
    label: str
    read_by: ReadBy
    rawer: str = ""
    own_numbers: bool = False


SOURCES: tuple[SourceInfo, ...] = (
    SourceInfo(
        "hidraw",
        "Raw device",
        "server",
        "A raw device of this machine is there: it gives the device's own reports, with nothing in "
        "between.",
        own_numbers=True,
    ),
    SourceInfo(
        "hid",
        "Raw reports in the browser",
        "page",
        "This browser can read raw reports: they are the device's own, with nothing in between.",
        own_numbers=True,
    ),
    SourceInfo(
        "event-device",
        "Input device",
        "server",
        "An input device of this machine is there: it gives whole numbers at the device's own rate, "
        "without the browser in between.",
        own_numbers=True,
    ),
    SourceInfo("gamepad", "Controller in the browser", "page"),
    SourceInfo("serial", "Serial logger", "server"),
    SourceInfo("stand-in", "Stand-in", "program"),
    SourceInfo("file", "Recording file", "nobody"),
)
SOURCE: dict[SourceKind, SourceInfo] = {s.kind: s for s in SOURCES}
OF_ONE_CONTROLLER: tuple[SourceKind, ...] = ("hidraw", "hid", "event-device", "gamepad")
"""Sources of one and the same controller, the one with the least in between first."""

OWN_NUMBERS: tuple[SourceKind, ...] = tuple(s.kind for s in SOURCES if s.own_numbers)
FAR_SHORT = 12.0
"""% that every side ends short, from which on it may be that a device's own numbers are not
calibrated, and not the stick that is wrong."""

_PATH, _AXES, _FLIPPED, _TURNED = "source-path", "source-axes", "source-flipped", "y-turned"
_LAYOUT = ("report", "bit", "size", "lo", "hi")


@dataclass(frozen=True)
class ReportField:
    """Where an axis lies in a device's reports: bit, where it begins; size, in bits; lo, hi: its
    range."""

    report: int
    bit: int
    size: int
    lo: int
    hi: int


@dataclass(frozen=True)
class SourceSetup:
    """How a device is read: path: of a port or device; axes: of the device, x first; flipped: the axes
    of the stick that run the other way; y_turned: whether y was turned up; fields: of raw reports, by
    axis; ignored, advised: what the kernel swallows, and what it advises to, by axis, in counts.
    by_model: whether the range is the model's, since the device says none."""

    path: str = ""
    axes: tuple[int, ...] = ()
    flipped: tuple[str, ...] = ()
    y_turned: bool = False
    fields: Mapping[str, ReportField] | None = None
    fuzz: Mapping[str, int] | None = None
    flat: Mapping[str, int] | None = None
    by_model: bool = False

    def turned(self, axes: int) -> tuple[bool, ...]:
        """Which axes are counted here the other way from what the device says."""
        down = (False, self.y_turned)[:axes]
        return tuple((axis in self.flipped) != d for axis, d in zip("xy", down, strict=False))

    def headers(self) -> dict[str, str]:
        """As the header lines that are kept with a take, and stand in its file."""
        lines: dict[str, str] = {}
        if self.path:
            lines[_PATH] = self.path
        if self.axes:
            lines[_AXES] = ",".join(map(str, self.axes))
        if self.flipped:
            lines[_FLIPPED] = ",".join(self.flipped)
        if self.y_turned:
            lines[_TURNED] = "yes"
        for axis, field in (self.fields or {}).items():
            lines[f"hid.{axis}"] = ",".join(str(getattr(field, name)) for name in _LAYOUT)
        for name, by_axis in (("fuzz", self.fuzz), ("flat", self.flat)):
            lines |= {f"{name}.{axis}": str(value) for axis, value in (by_axis or {}).items()}
        if self.by_model:
            lines["range-by"] = "model"
        return lines


def setup_of(headers: Mapping[str, str]) -> SourceSetup:
    """The setup that header lines speak of. What cannot be read is left out: a file may say
    anything."""
    fields = {}
    for axis in "xy":
        layout = _numbers(headers.get(f"hid.{axis}", ""))
        if len(layout) == len(_LAYOUT):
            fields[axis] = ReportField(*layout)
    by_axis = {
        name: {a: v[0] for a in "xy" if (v := _numbers(headers.get(f"{name}.{a}", "")))}
        for name in ("fuzz", "flat")
    }
    return SourceSetup(
        headers.get(_PATH, ""),
        _numbers(headers.get(_AXES, "")),
        tuple(a for a in headers.get(_FLIPPED, "").split(",") if a in ("x", "y")),
        headers.get(_TURNED) == "yes",
        fields or None,
        by_axis["fuzz"] or None,
        by_axis["flat"] or None,
        headers.get("range-by") == "model",
    )


def _numbers(text: str) -> tuple[int, ...]:
    parts = [p.strip() for p in text.split(",")]
    if not all(p.lstrip("-").isdigit() for p in parts):
        return ()
    return tuple(int(p) for p in parts)
