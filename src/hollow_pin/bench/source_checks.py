"""Trying a source out before anything is measured by it: what it is begun with, what is kept of it."""

from __future__ import annotations

from sqlite3 import Connection

from hollow_pin.bench.refusal import Refused
from hollow_pin.core.source_check import check_source
from hollow_pin.core.source_watch import SourceWatch
from hollow_pin.core.sources import SourceKind
from hollow_pin.store.database import Database
from hollow_pin.store.source_checks import KeptSourceCheck, keep_source_check, source_checks_of

LEAST_SAMPLES = 50


def keep_check(
    database: Database,
    watch: SourceWatch,
    model_id: str,
    stick: str,
    kind: SourceKind,
    name: str,
    there: tuple[SourceKind, ...],
    at: str,
) -> KeptSourceCheck:
    """Say what a source was like, and keep it. Refused where too little of it was seen."""
    recording = watch.recording
    if recording is None or len(recording.t_us) < LEAST_SAMPLES:
        raise Refused("Too little came from it to say anything. Move the stick while it is tried.")
    record = KeptSourceCheck(model_id, kind, name, stick, at, check_source(recording, kind, there))
    with database.writing() as db:
        keep_source_check(db, record)
    return record


def checks_of_model(db: Connection, model_id: str) -> list[KeptSourceCheck]:
    """What is known of the sources that a model was measured by, the newest first."""
    return source_checks_of(db, model_id)
