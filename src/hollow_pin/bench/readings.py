"""A take's readings: from the cache, or computed anew; and with what the bench check adds."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from sqlite3 import Connection

from pydantic import TypeAdapter

from hollow_pin.core.gauge import Gauge
from hollow_pin.core.take import VERSION, TakeReadings, measure_take
from hollow_pin.store.studies import latest_check, result_of
from hollow_pin.store.takes import Take, cached_readings, keep_readings, load_recording

_READINGS = TypeAdapter(TakeReadings)


@lru_cache(maxsize=1024)
def _parsed(body: str) -> TakeReadings:
    """The tray shows the same takes again and again."""
    return _READINGS.validate_json(body)


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
        return _parsed(body)
    recording = load_recording(db, take)
    return measure_take(recording, take.gate) if recording is not None else None


class Checks:
    """What bench checks found, each looked up once."""

    def __init__(self, db: Connection) -> None:
        self._db = db
        self._seen: dict[tuple[str, str, str], dict[str, Gauge]] = {}

    def trusted(self, readings: TakeReadings, take: Take, model_id: str) -> TakeReadings:
        """Readings with each uncertainty no smaller than what the bench check found between takes."""
        which = (model_id, take.source_kind, take.source_name)
        if which not in self._seen:
            check = latest_check(self._db, *which)
            self._seen[which] = (result_of(self._db, check.id) or {}) if check else {}
        own = readings.uncertainty
        between = {
            path: max(own.get(path, 0.0), g.gauge_rr)
            for path, g in self._seen[which].items()
            if readings.value(path) is not None
        }
        return replace(readings, uncertainty=own | between) if between else readings


def trusted_readings_of(db: Connection, take: Take, model_id: str) -> TakeReadings | None:
    """The readings of a take as far as the bench may be trusted."""
    readings = readings_of(db, take)
    return None if readings is None else Checks(db).trusted(readings, take, model_id)
