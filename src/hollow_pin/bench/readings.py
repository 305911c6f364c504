"""A take's readings: kept, or made anew where a definition changed; with what bench checks add.

Measuring never holds the write lock, and what raises in it is kept as the reason why there are no
readings: no take may keep a page, or the program, from opening.
"""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from sqlite3 import Connection

from pydantic import TypeAdapter

from hollow_pin.core.comparable import Setting
from hollow_pin.core.gauge import Gauge
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Job, Take
from hollow_pin.core.recording import Recording, RecordingError
from hollow_pin.core.take import VERSION, measure_take
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import settle_station
from hollow_pin.store.studies import latest_check, result_of
from hollow_pin.store.takes import (
    StoredReadings,
    find_take,
    keep_readings,
    keep_usable,
    kept_readings,
    load_recording,
    takes_of,
)

_READINGS = TypeAdapter(TakeReadings)
_log = logging.getLogger(__name__)


@lru_cache(maxsize=1024)
def _parsed(body: str) -> TakeReadings:
    """The tray shows the same takes again and again."""
    return _READINGS.validate_json(body)


@dataclass(frozen=True)
class Outcome:
    """What measuring a take gave. Both are None where it holds no samples. failed: why there are no
    readings, in words for whoever made the take."""

    readings: TakeReadings | None
    failed: str | None = None

    @property
    def usable(self) -> bool:
        return self.readings is not None and self.readings.usable

    def to_store(self) -> StoredReadings | None:
        """As it goes into the database; None where there is nothing to keep."""
        if self.readings is not None:
            return StoredReadings(_READINGS.dump_json(self.readings).decode(), None)
        return StoredReadings(None, self.failed) if self.failed else None


def measure(db: Connection, take: Take) -> Outcome:
    """Measure what a take holds. Never raises for what it holds."""
    return _measure(take, lambda: load_recording(db, take))


def measure_recording(recording: Recording, take: Take) -> Outcome:
    """As `measure`, of the samples that a take was made from: what the record knows stands above what
    they say of themselves."""
    return _measure(take, lambda: replace(recording, headers=take.headers))


def _measure(take: Take, samples: Callable[[], Recording | None]) -> Outcome:
    try:
        recording = samples()
        if recording is None:
            return Outcome(None)
        readings = measure_take(recording, take.gate)
        # What cannot be written and read again would fail whoever looks at it next.
        return Outcome(_READINGS.validate_json(_READINGS.dump_json(readings)))
    except sqlite3.OperationalError:
        raise
    except Exception as wrong:
        _log.exception("take %d could not be measured", take.id)
        reason = f"{type(wrong).__name__}: {wrong}" if str(wrong) else type(wrong).__name__
        if isinstance(wrong, RecordingError):
            reason = str(wrong)
        return Outcome(None, " ".join(reason.split())[:300])


def outcome_of(db: Connection, take: Take) -> Outcome:
    """What measuring a take gave, kept by this version of the definitions or made now."""
    stored = kept_readings(db, take.id, VERSION)
    if stored is None:
        return measure(db, take)
    return Outcome(None, stored.failed) if stored.body is None else Outcome(_parsed(stored.body))


def readings_of(db: Connection, take: Take) -> TakeReadings | None:
    """The readings of a take; None where it has none."""
    return outcome_of(db, take).readings


def usable_takes(db: Connection, job_id: int, stick: str) -> list[Take]:
    """Those of a job's stick that something can be said of, in the order they were made."""
    return [
        t for t in takes_of(db, job_id) if t.stick == stick and t.usable and t.undone_at is None
    ]


def last_between(takes: Sequence[Take], since: int, until: int | None) -> Take | None:
    """The last of some takes that was made after one place in the order of events and before another;
    None for no end."""
    between = [t for t in takes if t.seq > since and (until is None or t.seq < until)]
    return between[-1] if between else None


def setting_of(take: Take, tag: str) -> Setting:
    """How a take was made, as far as that must be alike for two to be compared. tag: of its
    controller."""
    had = take.conditions
    source = take.source_kind if take.source_kind == "file" else take.source_name
    return Setting(tag, take.stick, source, take.gate, had.calibration, had.power, had.shell)


def refill(database: Database, take_id: int) -> None:
    """Make a take's readings anew and keep them, where it is still there to be measured."""
    with database.reading() as db:
        take = find_take(db, take_id)
        outcome = measure(db, take) if take is not None else Outcome(None)
    derived = outcome.to_store()
    if derived is None:
        return
    with database.writing() as db:
        take = find_take(db, take_id)
        if take is not None and take.state != "recording":
            keep_readings(db, take_id, VERSION, derived)
            keep_usable(db, take_id, outcome.usable)
            settle_station(db, take.job_id)


class BenchCheckLookup:
    """What bench checks found, and what was read of takes, each looked up once."""

    def __init__(self, db: Connection) -> None:
        self._db = db
        self._read: dict[int, TakeReadings | None] = {}
        self._seen: dict[tuple[str, str, str], dict[str, Gauge]] = {}

    def read(self, take: Take, model_id: str) -> TakeReadings | None:
        """The readings of a take, as far as they may be trusted; None where it has none."""
        if take.id not in self._read:
            readings = readings_of(self._db, take)
            trusted = self.trusted(readings, take, model_id) if readings is not None else None
            self._read[take.id] = trusted
        return self._read[take.id]

    def trusted(self, readings: TakeReadings, take: Take, model_id: str) -> TakeReadings:
        """Readings with each uncertainty no smaller than what the bench check found between takes."""
        which = (model_id, take.source_kind, take.source_name)
        if which not in self._seen:
            bench_check = latest_check(self._db, *which)
            self._seen[which] = (result_of(self._db, bench_check.id) or {}) if bench_check else {}
        own = readings.uncertainty
        between = {
            path: max(own.get(path, 0.0), g.gauge_rr)
            for path, g in self._seen[which].items()
            if readings.value(path) is not None
        }
        return replace(readings, uncertainty=own | between) if between else readings


def trusted_of(
    db: Connection, job: Job, takes: Sequence[Take], checks: BenchCheckLookup | None = None
) -> tuple[TakeReadings, ...]:
    """What was read of some takes of a job, as far as anything was, by what its bench can see."""
    checks = checks or BenchCheckLookup(db)
    read = (checks.read(take, job.controller.model.id) for take in takes)
    return tuple(r for r in read if r is not None)
