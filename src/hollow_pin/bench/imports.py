"""Recordings from files, brought in whole or not at all."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from sqlite3 import Connection
from threading import Event
from typing import BinaryIO

from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import (
    drop_staged,
    finish_take,
    open_job,
    require_stick,
    start_take,
)
from hollow_pin.core.decimation import envelope
from hollow_pin.core.held_time import spread_out
from hollow_pin.core.record import Take, TakePlan
from hollow_pin.core.recording import Recording
from hollow_pin.core.routine import STEP_LABEL, StepName, usual_routine
from hollow_pin.core.statistics import timing
from hollow_pin.core.tracking.find_steps import StepSpan, find_steps, spans_of
from hollow_pin.core.words import listed
from hollow_pin.store.database import Database
from hollow_pin.store.takes import takes_from_file, write_block

POINTS = 1500
IMPORT_BLOCK = 50_000
STOPPED = "Stopped. Nothing of the file is in the record."


@dataclass(frozen=True)
class FoundSteps:
    """What the steps of a table seem to be, to be looked at before it is brought in. t (n,) seconds, u
    n values an axis, %: the least and the most of each stretch. missing: steps of the stick's usual
    routine that are not among them."""

    seconds: float
    samples: int
    rate_hz: float | None
    t: list[float]
    u: list[list[float]]
    spans: tuple[StepSpan, ...]
    possible: tuple[StepName, ...]
    missing: tuple[StepName, ...]
    says: str


def look_for_steps(database: Database, job_id: int, stick: str, recording: Recording) -> FoundSteps:
    """Find the steps of a table that names none. Nothing is kept."""
    with database.reading() as db:
        own = require_stick(open_job(db, job_id).controller, stick)
    if len(recording.ranges) != own.axes:
        had = "one axis" if own.axes == 1 else "two axes"
        raise Refused(
            f"The {own.name} has {had}, and the table {len(recording.ranges)}.", "mapping"
        )
    routine = usual_routine(own.axes, own.sprung)
    spans = spans_of(find_steps(recording, routine))
    missing = tuple(s for s in routine.steps if s not in {p.step for p in spans})
    t, u, _ = envelope(recording.t, recording.u, POINTS)
    pace = timing(spread_out(recording).t)
    return FoundSteps(
        float(recording.t[-1]),
        len(recording.t),
        pace.rate_hz if pace else None,
        [round(v, 4) for v in t.tolist()],
        [[round(v, 2) for v in axis] for axis in u.T.tolist()],
        spans,
        routine.steps,
        missing,
        _found_words(spans, missing),
    )


def _found_words(spans: tuple[StepSpan, ...], missing: tuple[StepName, ...]) -> str:
    if not spans:
        return (
            "No step was found. Name what is there, or keep it as it is: nothing is measured then."
        )
    if not missing:
        return "Every step of the routine was found."
    named = listed([STEP_LABEL[s] for s in missing])
    was = "was" if len(missing) == 1 else "were"
    return f"{named} {was} not found. Name it where it is there, or leave it out."


class AlreadyHere(Refused):
    """The same file is in the record already, of the same stick. take_id: where."""

    def __init__(self, message: str, take_id: int) -> None:
        super().__init__(message, "file")
        self.take_id = take_id


def hash_of(file: BinaryIO, how: str = "") -> str:
    """What a file is known by: what is in it, and how it was read."""
    file.seek(0)
    digest = hashlib.sha256()
    while piece := file.read(1 << 20):
        digest.update(piece)
    digest.update(b"\0" + how.encode())
    return digest.hexdigest()


def require_new_samples(db: Connection, job_id: int, stick: str, file_hash: str) -> None:
    """Refused where a file has been brought in for the same stick, or is just being so."""
    controller = open_job(db, job_id).controller
    require_stick(controller, stick)
    for earlier in takes_from_file(db, file_hash, controller.id, stick):
        if earlier.state == "importing":
            raise AlreadyHere("This file is being brought in just now.", earlier.id)
        raise AlreadyHere(
            f"This file is in the record already: take {earlier.id} of job {earlier.job_id}, "
            f"“{earlier.source_name}”.",
            earlier.id,
        )


def import_take(
    database: Database,
    job_id: int,
    stick: str,
    file_name: str,
    recording: Recording,
    at: str,
    without_steps: bool = False,
    file_hash: str = "",
    progress: Callable[[float], None] = lambda _: None,
    stop: Event | None = None,
) -> Take:
    """A recording from a file, as a take of a job. without_steps: it is of the stick's usual routine,
    whose steps are to be found. file_hash: what it is known by, where it may not come twice.

    It is written in pieces that nobody sees until all of it is there. progress: is told which share
    is done. Refused once `stop` is set.
    """
    with database.importing():
        with database.reading() as db:
            own = require_stick(open_job(db, job_id).controller, stick)
        routine = usual_routine(own.axes, own.sprung)
        if without_steps:
            recording = find_steps(recording, routine)
        plan = TakePlan(
            stick,
            "file",
            file_name,
            recording.ranges,
            routine,
            headers=recording.headers,
            file_hash=file_hash,
        )

        def once(db: Connection, take: Take) -> None:
            controller = open_job(db, job_id).controller
            for other in takes_from_file(db, file_hash, controller.id, stick):
                if other.id != take.id:
                    require_new_samples(db, job_id, stick, file_hash)

        take = start_take(database, job_id, plan, at, once)
        try:
            total = len(recording.t_us)
            for start in range(0, total, IMPORT_BLOCK):
                if stop is not None and stop.is_set():
                    raise Refused(STOPPED, "file")
                part = slice(start, start + IMPORT_BLOCK)
                with database.writing() as db:
                    write_block(
                        db, take.id, recording.t_us[part], recording.raw[part], recording.step[part]
                    )
                progress(min(1.0, (start + IMPORT_BLOCK) / total))
            return finish_take(database, take.id, "complete", None, at, recording=recording)
        except BaseException:
            # Where that cannot be done now either, it is done at the next start.
            with suppress(sqlite3.Error):
                drop_staged(database, take.id)
            raise
