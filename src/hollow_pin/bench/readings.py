"""A take's readings: from the cache, or computed anew; and with what the bench check adds."""

from __future__ import annotations

from dataclasses import replace
from sqlite3 import Connection

from pydantic import TypeAdapter

from hollow_pin.core.take import VERSION, TakeReadings, measure_take
from hollow_pin.store.studies import latest_check, result_of
from hollow_pin.store.takes import Take, cached_readings, keep_readings, load_recording

_READINGS = TypeAdapter(TakeReadings)


def measure_and_keep(db: Connection, take: Take) -> TakeReadings | None:
    """Measure what a take holds and keep the readings; None where it holds nothing."""
    recording = load_recording(db, take)
    if recording is None:
        return None
    readings = measure_take(recording, take.gate)
    keep_readings(db, take.id, VERSION, _READINGS.dump_json(readings).decode())
    return readings


def readings_of(db: Connection, take: Take) -> TakeReadings | None:
    """The readings of a take, from the cache where this version of the definitions made them."""
    body = cached_readings(db, take.id, VERSION)
    if body is not None:
        return _READINGS.validate_json(body)
    recording = load_recording(db, take)
    return measure_take(recording, take.gate) if recording is not None else None


def trusted_readings_of(db: Connection, take: Take, model_id: str) -> TakeReadings | None:
    """The same, each uncertainty no smaller than what the bench check found between takes."""
    readings = readings_of(db, take)
    check = latest_check(db, model_id, take.source_kind, take.source_name)
    if readings is None or check is None:
        return readings
    seen = result_of(db, check.id) or {}
    own = readings.uncertainty
    between = {
        path: max(own.get(path, 0.0), g.gauge_rr)
        for path, g in seen.items()
        if readings.value(path) is not None
    }
    return replace(readings, uncertainty=own | between)
