"""Where samples can come from on this machine, and which axes are which stick."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hollow_pin.api.context import Data, Reading
from hollow_pin.api.schemas import Line, Sources
from hollow_pin.core.record import SourceKind
from hollow_pin.sources.event_device import list_devices
from hollow_pin.sources.serial_logger import list_serial_ports
from hollow_pin.store.mappings import AxisMapping, mappings_of

router = APIRouter(tags=["sources"])


@router.get("/sources")
def list_sources(database: Data) -> Sources:
    """Serial ports and input devices that can be read here."""
    devices = list_devices()
    return Sources(
        serial=list_serial_ports(database.ports),
        event_devices=list(devices.found),
        advice=devices.advice,
    )


@router.get("/mappings")
def list_mappings(
    model_id: Annotated[Line, Query()],
    source_kind: SourceKind,
    source_name: Annotated[Line, Query()],
    db: Reading,
) -> list[AxisMapping]:
    """Which axes of a source were which stick the last time, by model."""
    return mappings_of(db, model_id, source_kind, source_name)
