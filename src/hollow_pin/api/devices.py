"""From what a request says of a source to the source itself."""

from __future__ import annotations

from dataclasses import dataclass, field

from hollow_pin.api.schemas import (
    AnySource,
    AxesSpec,
    EventDeviceSpec,
    GamepadSpec,
    HidrawSpec,
    HidSpec,
    SerialSpec,
    StandInSpec,
)
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import stand_in_for, stand_in_ranges
from hollow_pin.core.controller import Model, ModelStick
from hollow_pin.core.record import SourceKind, Take
from hollow_pin.core.recording import AxisRange
from hollow_pin.simulator.trims import TrimKind
from hollow_pin.sources.event_device import find_device, open_device
from hollow_pin.sources.hidraw import find_raw_device, open_raw_device
from hollow_pin.sources.page import GAMEPAD_RANGES, PageSource
from hollow_pin.sources.serial_logger import SerialSource, list_serial_ports, probe
from hollow_pin.sources.source import AXES, FLIPPED, PATH, TURNED, Source, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.database import Database
from hollow_pin.store.mappings import AxisMapping


@dataclass(frozen=True)
class Described:
    """A source as a take records it. headers: what is needed to open it again."""

    name: str
    ranges: tuple[AxisRange, ...]
    headers: dict[str, str] = field(default_factory=dict)
    mapping: AxisMapping | None = None


def describe_source(
    database: Database,
    model: Model,
    stick: ModelStick,
    spec: AnySource,
) -> Described:
    """Look at a source before a take is begun with it. Refused where it cannot be read."""
    try:
        match spec:
            case StandInSpec():
                return Described("Stand-in", stand_in_ranges(model, stick))
            case GamepadSpec():
                axes = _axes(stick, spec)
                headers = {AXES: _listed(axes), TURNED: "yes"} | _flipped(stick, spec)
                ranges = GAMEPAD_RANGES[: stick.axes]
                return Described(spec.name, ranges, headers, _mapping(stick, spec))
            case HidSpec():
                return _hid(stick, spec)
            case HidrawSpec():
                return _hidraw(stick, spec)
            case SerialSpec():
                return _serial(database, model, stick, spec)
            case EventDeviceSpec():
                return _event_device(stick, spec)
    except SourceLost as lost:
        raise Refused(f"{lost}.", "source") from None


def _axes(stick: ModelStick, spec: AxesSpec) -> tuple[int, ...]:
    if stick.axes == 1:
        return (spec.axis_x,)
    if spec.axis_y is None:
        raise Refused("Which axis is up and down?", "source.axis_y")
    if spec.axis_y == spec.axis_x:
        raise Refused("One axis cannot be both.", "source.axis_y")
    return spec.axis_x, spec.axis_y


def _listed(axes: tuple[int, ...]) -> str:
    return ",".join(map(str, axes))


def _flipped(stick: ModelStick, spec: AxesSpec) -> dict[str, str]:
    names = [a for a, f in (("x", spec.flip_x), ("y", spec.flip_y and stick.axes == 2)) if f]
    return {FLIPPED: ",".join(names)} if names else {}


def _mapping(stick: ModelStick, spec: AxesSpec) -> AxisMapping:
    y = spec.axis_y if stick.axes == 2 else None
    return AxisMapping(stick.name, spec.axis_x, y, spec.flip_x, spec.flip_y)


def _serial(database: Database, model: Model, stick: ModelStick, spec: SerialSpec) -> Described:
    port = next((p for p in list_serial_ports(database.ports) if p.path == spec.port), None)
    if port is None:
        raise Refused(f"There is no port {spec.port}. Is the logger plugged in?", "source.port")
    found = probe(port.path)
    if found.axes != stick.axes:
        raise Refused(
            f"The logger sends {found.axes} {'axis' if found.axes == 1 else 'axes'} a line; the "
            f"{stick.name} has {stick.axes}.",
            "source.port",
        )
    ranges = found.ranges or (AxisRange(model.lo, model.hi),) * stick.axes
    headers = {PATH: port.path} | ({TURNED: "yes"} if found.y_down else {})
    if found.ranges is None:
        headers["range-by"] = "model"
    return Described(port.name, ranges, headers)


def _placed(stick: ModelStick, spec: AxesSpec, name: str, count: int) -> tuple[int, ...]:
    """The places of a stick's axes among a device's. Refused where it has no such axis."""
    places = _axes(stick, spec)
    for axis, place in zip("xy", places, strict=False):
        if place >= count:
            raise Refused(f"{name} has no axis {place}.", f"source.axis_{axis}")
    return places


def _hid(stick: ModelStick, spec: HidSpec) -> Described:
    places = _placed(stick, spec, spec.name, len(spec.axes))
    chosen = [spec.axes[place] for place in places]
    for axis in chosen:
        if axis.hi <= axis.lo:
            raise Refused(f"{axis.name} has no range.", "source.axes")
    layout = {
        f"hid.{name}": f"{a.report},{a.bit},{a.size},{a.lo},{a.hi}"
        for name, a in zip("xy", chosen, strict=False)
    }
    headers = {AXES: _listed(places), TURNED: "yes"} | layout | _flipped(stick, spec)
    ranges = tuple(AxisRange(a.lo, a.hi) for a in chosen)
    return Described(spec.name, ranges, headers, _mapping(stick, spec))


def _hidraw(stick: ModelStick, spec: HidrawSpec) -> Described:
    device = find_raw_device(spec.path)
    places = _placed(stick, spec, device.name, len(device.axes))
    headers = {PATH: device.path, AXES: _listed(places), TURNED: "yes"} | _flipped(stick, spec)
    ranges = tuple(AxisRange(device.axes[p].lo, device.axes[p].hi) for p in places)
    return Described(device.name, ranges, headers, _mapping(stick, spec))


def _event_device(stick: ModelStick, spec: EventDeviceSpec) -> Described:
    device = find_device(spec.path)
    by_code = {a.code: a for a in device.axes}
    codes = _axes(stick, spec)
    headers = {PATH: device.path, AXES: _listed(codes), TURNED: "yes"} | _flipped(stick, spec)
    ranges = []
    for name, code in zip("xy", codes, strict=False):
        if code not in by_code:
            raise Refused(f"{device.name} has no axis {code}.", f"source.axis_{name}")
        axis = by_code[code]
        ranges.append(AxisRange(axis.lo, axis.hi))
        headers |= {f"fuzz.{name}": str(axis.fuzz), f"flat.{name}": str(axis.flat)}
    return Described(device.name, tuple(ranges), headers, _mapping(stick, spec))


def open_source(
    database: Database,
    take: Take,
    in_real_time: bool = True,
    held_by_hand: bool = True,
    turned: TrimKind | None = None,
) -> Source:
    """The source of a take that was begun. turned: what of a stand-in is turned by hand. Raises
    SourceLost where it has gone meanwhile."""
    if take.source_kind == "stand-in":
        stand_in = stand_in_for(database, take, turned=turned)
        return StandInSource(stand_in, in_real_time, held_by_hand)
    return open_real(take.source_kind, take.headers, take.ranges)


def open_real(kind: SourceKind, headers: dict[str, str], ranges: tuple[AxisRange, ...]) -> Source:
    """A source that is no stand-in, as it was described. Raises SourceLost where it is not there."""
    flipped = headers.get(FLIPPED, "").split(",")
    flip = tuple(axis in flipped for axis in "xy"[: len(ranges)])
    match kind:
        case "gamepad":
            return PageSource(flip)
        case "hid":
            return PageSource(flip, ranges)
        case "hidraw":
            places = tuple(int(p) for p in headers[AXES].split(","))
            return open_raw_device(find_raw_device(headers[PATH]), places, flip)
        case "serial":
            return SerialSource(headers[PATH], ranges, headers.get(TURNED) == "yes")
        case "event-device":
            codes = tuple(int(c) for c in headers[AXES].split(","))
            return open_device(find_device(headers[PATH]), codes, flip)
        case "stand-in" | "file":
            raise SourceLost(f"a {kind} is not a device")
