"""Where samples can come from on this machine, and which axes are which stick."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query
from pydantic import ValidationError

from hollow_pin.api.context import Data, ReadOnly
from hollow_pin.api.devices import own_calibration
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import HidAxis, HidCollections, KnownCalibration, Line, Sources
from hollow_pin.bench.refusal import Refused
from hollow_pin.core.sources import SourceKind
from hollow_pin.sources.event_device import list_devices
from hollow_pin.sources.hid_report import BadDescriptor, axes_of, fields_of_collections
from hollow_pin.sources.hidraw import list_raw_devices
from hollow_pin.sources.serial_logger import list_serial_ports
from hollow_pin.store.mappings import AxisMapping, mappings_of
from hollow_pin.store.takes import latest_by_source

router = api_routes("sources")


@router.get("/sources")
def list_sources(database: Data) -> Sources:
    """Serial ports and input devices that can be read here."""
    devices, raw = list_devices(), list_raw_devices()
    return Sources(
        serial=list_serial_ports(database.ports),
        event_devices=list(devices.found),
        advice=devices.advice,
        raw_devices=list(raw.found),
        raw_advice=raw.advice,
    )


@router.post("/sources/hid-axes")
def hid_axes(body: HidCollections) -> list[HidAxis]:
    """The axes of a HID device, from what the browser says of its reports."""
    try:
        fields = axes_of(fields_of_collections(body.collections))
        return [
            HidAxis(name=f.name or "", report=f.report, bit=f.bit, size=f.size, lo=f.lo, hi=f.hi)
            for f in fields
        ]
    except (BadDescriptor, ValidationError) as wrong:
        raise Refused(f"The device cannot be read: {wrong}", "collections") from None


@router.get("/own-calibrations")
def list_own_calibrations(
    controller_id: Annotated[int, Query(ge=1, le=2**53)], source_kind: SourceKind, db: ReadOnly
) -> list[KnownCalibration]:
    """The calibrations that a controller's sticks were measured with the last time by a kind of
    source, of those whose numbers were not taken as calibrated."""
    takes = latest_by_source(db, controller_id, source_kind)
    calibrated = [(take.stick, own_calibration(take)) for take in takes]
    return [
        KnownCalibration(stick=stick, holds=own) for stick, own in calibrated if own is not None
    ]


@router.get("/mappings")
def list_mappings(
    model_id: Annotated[Line, Query()],
    source_kind: SourceKind,
    source_name: Annotated[Line, Query()],
    db: ReadOnly,
) -> list[AxisMapping]:
    """Which axes of a source were which stick the last time, by model."""
    return mappings_of(db, model_id, source_kind, source_name)
