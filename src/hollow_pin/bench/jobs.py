"""Jobs: worked on, closed; and the tray they lie in."""

from __future__ import annotations

import zlib
from dataclasses import dataclass, replace
from sqlite3 import Connection

from hollow_pin.bench.pins import Pin, Strip, pins_of, strips_of
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import get_job, open_job
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.job import WORK_LABEL, ModuleKind, WorkKind, stage_of, stick_name
from hollow_pin.core.take_in import (
    ENDED_LABEL,
    Answered,
    Ended,
    answered,
    why_not_ended,
    why_not_worked_on,
)
from hollow_pin.simulator.stand_in import recalibrated
from hollow_pin.simulator.stick import LOT_OF_KIND, LOTS, Stick, cleaned, replaced
from hollow_pin.store.checks import Check, checks_of
from hollow_pin.store.controllers import keep_stand_in, stand_in_state
from hollow_pin.store.database import Database
from hollow_pin.store.finding import Wanted, find_jobs
from hollow_pin.store.jobs import (
    Job,
    Work,
    add_work,
    close_job,
    events_of,
    jobs_on_bench,
    open_job_of,
    reopen_job,
    settle_station,
    work_of,
)
from hollow_pin.store.ledger import LedgerEntry, add_entry, ledger_of
from hollow_pin.store.photos import Photo, photos_of
from hollow_pin.store.takes import Conditions, Take, running_take_of, takes_of


@dataclass(frozen=True)
class JobView:
    """A job and everything that happened to it. answers: what was told at take-in.
    next_stage, next_conditions: what a take made now would be, and how it would most likely be
    made."""

    job: Job
    answers: tuple[Answered, ...]
    pins: tuple[Pin, ...]
    takes: tuple[Take, ...]
    work: tuple[Work, ...]
    photos: tuple[Photo, ...]
    checks: tuple[Check, ...]
    ledger: tuple[LedgerEntry, ...]
    next_stage: str
    next_conditions: Conditions


def tray(db: Connection) -> list[Strip]:
    """What lies on the bench, newest first, then what was closed last."""
    return strips_of(db, jobs_on_bench(db))


@dataclass(frozen=True)
class Found:
    """A page of jobs that fit what was looked for, and how many fit in all."""

    strips: list[Strip]
    count: int


def find(db: Connection, wanted: Wanted) -> Found:
    jobs, count = find_jobs(db, wanted)
    return Found(strips_of(db, jobs), count)


def view_job(db: Connection, job_id: int) -> JobView:
    job = get_job(db, job_id)
    takes = tuple(t for t in takes_of(db, job_id) if t.undone_at is None)
    work = tuple(w for w in work_of(db, job_id) if w.undone_at is None)
    return JobView(
        job=job,
        answers=answered(job.intake),
        pins=pins_of(db, job.controller, job.id),
        takes=takes,
        work=work,
        photos=tuple(p for p in photos_of(db, job_id) if p.undone_at is None),
        checks=tuple(checks_of(db, job_id)),
        ledger=tuple(ledger_of(db, job_id)),
        next_stage=stage_of(events_of(db, job_id)),
        next_conditions=_next_conditions(takes, work),
    )


def _next_conditions(takes: tuple[Take, ...], work: tuple[Work, ...]) -> Conditions:
    """As at the last take, unless it was recalibrated since."""
    live = [t for t in takes if t.source_kind != "file"]
    last = live[-1].conditions if live else Conditions()
    since = [w for w in work if not live or w.seq > live[-1].seq]
    if any(w.kind == "recalibrated" for w in since):
        return replace(last, calibration="recalibrated")
    return last


def log_work(
    database: Database,
    job_id: int,
    kind: WorkKind,
    module: ModuleKind | None,
    lot: str,
    note: str,
    cautions: tuple[str, ...],
    at: str,
    role: str = "",
) -> Work:
    """Record what was done to the job's stick. Every caution of the work must be acknowledged.

    Where a stand-in stands for the stick, the same is done to it.
    """
    if (kind == "replaced") != (module is not None):
        said = "Say which kind of module went in." if kind == "replaced" else "No module went in."
        raise Refused(said, "module")
    needed = [c.code for c in cautions_for(kind)]
    missing = [code for code in needed if code not in cautions]
    if missing:
        raise Refused(f"Read and tick the cautions first: {', '.join(missing)}.", "cautions")
    with database.writing() as db:
        job = open_job(db, job_id)
        why = why_not_worked_on(kind, job.intake, job.controller.refer)
        if why is not None:
            raise Refused(why, "kind")
        state = stand_in_state(db, job.controller.id, job.stick)
        work = add_work(
            db, job_id, job.stick, kind, module, lot.strip(), note.strip(), tuple(needed), state, at
        )
        if needed:
            said = f"Read: {', '.join(needed)}."
            add_entry(db, job_id, at, "caution", said, role, work_id=work.id)
        add_entry(db, job_id, at, "work", _said(work), role, work_id=work.id)
        settle_station(db, job_id)
        if state is not None:
            done = _done_to(Stick.from_dict(state), work)
            keep_stand_in(db, job.controller.id, job.stick, done.to_dict())
    return work


def _said(work: Work) -> str:
    text = WORK_LABEL[work.kind]
    if work.module:
        text += f": {'Hall' if work.module == 'hall' else 'potentiometer'}"
        text += f", lot {work.lot}" if work.lot else ""
    return f"{text}, {stick_name(work.stick)}. {work.note}".strip()


def _done_to(stick: Stick, work: Work) -> Stick:
    if work.kind == "cleaned":
        return cleaned(stick)
    seed = zlib.crc32(f"work {work.id}".encode())
    if work.kind == "recalibrated":
        return recalibrated(stick, seed)
    assert work.module is not None
    named = LOTS.get(work.lot)
    fits = named is not None and named.kind == work.module
    lot = named if named is not None and fits else LOTS[LOT_OF_KIND[work.module]]
    return replaced(stick, lot, seed)


def close(
    database: Database, job_id: int, ended: Ended, outcome: str, at: str, role: str = ""
) -> None:
    """Close a job. Refused where it may not be closed that way."""
    with database.writing() as db:
        job = open_job(db, job_id)
        why = why_not_ended(ended, job.moves, job.controller.refer)
        if why is not None:
            raise Refused(why, "ended")
        if running_take_of(db, job_id) is not None:
            raise Refused("A take of this job is running. End it first.", "ended")
        close_job(db, job_id, ended, outcome.strip(), at)
        said = f"{ENDED_LABEL[ended]}. {outcome.strip()}".strip()
        add_entry(db, job_id, at, "close", said, role)


def reopen(database: Database, job_id: int, at: str, role: str = "") -> None:
    with database.writing() as db:
        job = get_job(db, job_id)
        if job.closed_at is None:
            raise Refused("The job is open.")
        lying = open_job_of(db, job.controller.id)
        if lying is not None:
            raise Refused(f"{job.controller.tag} is on the bench in a later job: {lying.id}.")
        reopen_job(db, job_id)
        add_entry(db, job_id, at, "close", "Opened again.", role)
