"""From what a request says of a source to the source itself."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from hollow_pin.api.schemas import (
    AnySource,
    AxesSpec,
    AxisHolds,
    EventDeviceSpec,
    GamepadSpec,
    HidrawSpec,
    HidSpec,
    OwnCalibration,
    RawSpec,
    SerialSpec,
    StandInSpec,
)
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import stand_in_for, stand_in_ranges
from hollow_pin.core.controller import Model, ModelStick
from hollow_pin.core.record import Take
from hollow_pin.core.recording import AxisCalibration, AxisRange, RecordingError, Uncalibrated
from hollow_pin.core.sources import ReportField, SourceSetup, setup_of
from hollow_pin.simulator.trims import TrimKind
from hollow_pin.sources.event_device import find_device
from hollow_pin.sources.hidraw import find_raw_device
from hollow_pin.sources.page import GAMEPAD_RANGES
from hollow_pin.sources.registry import open_real
from hollow_pin.sources.serial_logger import list_serial_ports, probe
from hollow_pin.sources.source import Source, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.database import Database
from hollow_pin.store.mappings import AxisMapping


@dataclass(frozen=True)
class SourceDescription:
    """A source as a take records it. setup: what is needed to open it again."""

    name: str
    ranges: tuple[AxisRange, ...]
    setup: SourceSetup = field(default_factory=SourceSetup)
    mapping: AxisMapping | None = None


def describe_source(
    database: Database,
    model: Model,
    stick: ModelStick,
    spec: AnySource,
) -> SourceDescription:
    """Look at a source before a take is begun with it. Refused where it cannot be read."""
    try:
        match spec:
            case StandInSpec():
                return SourceDescription("Stand-in", stand_in_ranges(model, stick))
            case GamepadSpec():
                setup = _setup(stick, spec, _axes(stick, spec))
                ranges = GAMEPAD_RANGES[: stick.axes]
                return SourceDescription(spec.name, ranges, setup, _mapping(stick, spec))
            case HidSpec():
                return _calibrated(_hid(stick, spec), spec)
            case HidrawSpec():
                return _calibrated(_hidraw(stick, spec), spec)
            case SerialSpec():
                return _serial(database, model, stick, spec)
            case EventDeviceSpec():
                return _calibrated(_event_device(stick, spec), spec)
    except SourceLost as lost:
        raise Refused(f"{lost}.", "source") from None


def _calibrated(described: SourceDescription, spec: RawSpec) -> SourceDescription:
    """A source with the calibration that the device leaves to what it is plugged into. Refused where
    it is none of that source's range."""
    own = spec.own_calibration
    if own is None:
        return described
    if own == "unknown":
        plain = (replace(r, calibration="unknown") for r in described.ranges)
        return replace(described, ranges=tuple(plain))
    turned = described.setup.turned(len(described.ranges))
    ranges = []
    for axis, r, other_way in zip("xy", described.ranges, turned, strict=False):
        axis_range = own.x if axis == "x" else own.y
        if axis_range is None:
            raise Refused(f"What does it hold of {axis}?", f"source.own_calibration.{axis}")
        try:
            with_calibration = replace(
                r, calibration=AxisCalibration(axis_range.low, axis_range.centre, axis_range.high)
            )
        except RecordingError as wrong:
            raise Refused(f"{axis}: {wrong}.", f"source.own_calibration.{axis}") from None
        ranges.append(with_calibration.turned() if other_way else with_calibration)
    return replace(described, ranges=tuple(ranges))


def own_calibration(take: Take) -> OwnCalibration | Uncalibrated | None:
    """The calibration that a take was begun with, in the device's numbers."""
    if any(r.calibration == "unknown" for r in take.ranges):
        return "unknown"
    turned = setup_of(take.headers).turned(len(take.ranges))
    holds = {
        axis: AxisHolds(low=own.low, centre=own.centre, high=own.high)
        for axis, r, other_way in zip("xy", take.ranges, turned, strict=False)
        if (own := (r.turned() if other_way else r).known_calibration)
    }
    return OwnCalibration(x=holds["x"], y=holds.get("y")) if "x" in holds else None


def _axes(stick: ModelStick, spec: AxesSpec) -> tuple[int, ...]:
    if stick.axes == 1:
        return (spec.axis_x,)
    if spec.axis_y is None:
        raise Refused("Which axis is up and down?", "source.axis_y")
    if spec.axis_y == spec.axis_x:
        raise Refused("One axis cannot be both.", "source.axis_y")
    return spec.axis_x, spec.axis_y


def _setup(stick: ModelStick, spec: AxesSpec, axes: tuple[int, ...]) -> SourceSetup:
    """Of a device whose y runs downward, as nearly all do: it is turned up once."""
    flips = (("x", spec.flip_x), ("y", spec.flip_y and stick.axes == 2))
    return SourceSetup(axes=axes, flipped=tuple(a for a, f in flips if f), y_turned=True)


def _mapping(stick: ModelStick, spec: AxesSpec) -> AxisMapping:
    y = spec.axis_y if stick.axes == 2 else None
    return AxisMapping(stick.name, spec.axis_x, y, spec.flip_x, spec.flip_y)


def _serial(
    database: Database, model: Model, stick: ModelStick, spec: SerialSpec
) -> SourceDescription:
    port = next((p for p in list_serial_ports(database.ports) if p.path == spec.port), None)
    if port is None:
        raise Refused(f"There is no port {spec.port}. Is the logger plugged in?", "source.port")
    probed = probe(port.path)
    if probed.axes != stick.axes:
        raise Refused(
            f"The logger sends {probed.axes} {'axis' if probed.axes == 1 else 'axes'} a line; the "
            f"{stick.name} has {stick.axes}.",
            "source.port",
        )
    ranges = probed.ranges_or(AxisRange(model.lo, model.hi))
    setup = SourceSetup(port.path, y_turned=probed.y_down, by_model=probed.ranges is None)
    return SourceDescription(port.name, ranges, setup)


def _placed(stick: ModelStick, spec: AxesSpec, name: str, count: int) -> tuple[int, ...]:
    """The places of a stick's axes among a device's. Refused where it has no such axis."""
    places = _axes(stick, spec)
    for axis, place in zip("xy", places, strict=False):
        if place >= count:
            raise Refused(f"{name} has no axis {place}.", f"source.axis_{axis}")
    return places


def _hid(stick: ModelStick, spec: HidSpec) -> SourceDescription:
    places = _placed(stick, spec, spec.name, len(spec.axes))
    chosen = [spec.axes[place] for place in places]
    for axis in chosen:
        if axis.hi <= axis.lo:
            raise Refused(f"{axis.name} has no range.", "source.axes")
    fields = {
        name: ReportField(a.report, a.bit, a.size, a.lo, a.hi)
        for name, a in zip("xy", chosen, strict=False)
    }
    setup = replace(_setup(stick, spec, places), fields=fields)
    ranges = tuple(AxisRange(a.lo, a.hi) for a in chosen)
    return SourceDescription(spec.name, ranges, setup, _mapping(stick, spec))


def _hidraw(stick: ModelStick, spec: HidrawSpec) -> SourceDescription:
    device = find_raw_device(spec.path)
    places = _placed(stick, spec, device.name, len(device.axes))
    setup = replace(_setup(stick, spec, places), path=device.path)
    ranges = tuple(AxisRange(device.axes[p].lo, device.axes[p].hi) for p in places)
    return SourceDescription(device.name, ranges, setup, _mapping(stick, spec))


def _event_device(stick: ModelStick, spec: EventDeviceSpec) -> SourceDescription:
    device = find_device(spec.path)
    by_code = {a.code: a for a in device.axes}
    codes = _axes(stick, spec)
    chosen = {}
    for name, code in zip("xy", codes, strict=False):
        if code not in by_code:
            raise Refused(f"{device.name} has no axis {code}.", f"source.axis_{name}")
        chosen[name] = by_code[code]
    setup = replace(
        _setup(stick, spec, codes),
        path=device.path,
        fuzz={name: a.fuzz for name, a in chosen.items()},
        flat={name: a.flat for name, a in chosen.items()},
    )
    ranges = tuple(AxisRange(a.lo, a.hi) for a in chosen.values())
    return SourceDescription(device.name, ranges, setup, _mapping(stick, spec))


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
    return open_real(take.source_kind, setup_of(take.headers), take.ranges)
