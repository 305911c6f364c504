"""Jobs: taken in, worked on, closed; and the tray they lie in."""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from sqlite3 import Connection
from typing import Literal

from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import check_stick, get_job, open_job, readings_of
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.job import WORK_LABEL, ModuleKind, WorkKind, stage_of, stick_name
from hollow_pin.core.limits import LIMIT_OF, Verdict, against_limit
from hollow_pin.simulator.stand_in import recalibrated
from hollow_pin.simulator.stick import LOT_OF_KIND, LOTS, Stick, cleaned, replaced
from hollow_pin.store.controllers import (
    add_controller,
    find_controller,
    find_model,
    keep_stand_in,
    stand_in_state,
)
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import (
    Job,
    LedgerEntry,
    Work,
    add_entry,
    add_job,
    add_work,
    close_job,
    events_of,
    jobs_on_bench,
    ledger_of,
    open_job_of,
    reopen_job,
    settle_station,
    work_of,
)
from hollow_pin.store.takes import Take, latest_takes, takes_of

PinState = Literal["none", "measured", "stale", "unusable"]


@dataclass(frozen=True)
class Pin:
    """A stick in brief: where it rests and the dead zone it needs, in %, against the limit."""

    stick: str
    state: PinState
    x: float | None = None
    y: float | None = None
    dead_zone: float | None = None
    limit: float = LIMIT_OF["composite.dead_zone_needed"].everyday
    verdict: Verdict = "unknown"


@dataclass(frozen=True)
class Strip:
    """A job in the tray."""

    job: Job
    pins: tuple[Pin, ...]


@dataclass(frozen=True)
class JobView:
    """A job and everything that happened to it. next_stage: what a take made now would be."""

    job: Job
    pins: tuple[Pin, ...]
    takes: tuple[Take, ...]
    work: tuple[Work, ...]
    ledger: tuple[LedgerEntry, ...]
    next_stage: str


def take_in(
    database: Database, tag: str, model_id: str | None, stick: str, complaint: str, at: str
) -> Job:
    """A controller comes to the bench. model_id may be None for one that is known."""
    tag = " ".join(tag.split())
    if not tag:
        raise Refused("The controller needs a tag.", "tag")
    with database.writing() as db:
        controller = find_controller(db, tag)
        if controller is None:
            if model_id is None:
                raise Refused(f"{tag} is new here: which model is it?", "model_id")
            model = find_model(db, model_id)
            if model is None:
                raise Refused(f"There is no model {model_id}.", "model_id")
            controller = add_controller(db, tag, model, at)
        elif model_id is not None and model_id != controller.model.id:
            raise Refused(f"{controller.tag} is a {controller.model.name}.", "model_id")
        check_stick(controller, stick)
        lying = open_job_of(db, controller.id)
        if lying is not None:
            raise Refused(f"{controller.tag} is on the bench already: job {lying.id}.", "tag")
        return add_job(db, controller, stick, complaint.strip(), at)


def pins_of(db: Connection, job: Job) -> tuple[Pin, ...]:
    """One pin for each stick of the job's controller, from its newest take."""
    latest = latest_takes(db, job.controller.id)
    worked = {w.stick: w.done_at for w in work_of(db, job.id)}
    pins = []
    for stick in job.controller.model.sticks:
        take = latest.get(stick)
        readings = readings_of(db, take) if take else None
        if take is None or readings is None:
            pins.append(Pin(stick, "none"))
            continue
        needed = readings.composite.dead_zone_needed
        if readings.still is None or needed is None:
            pins.append(Pin(stick, "unusable"))
            continue
        limit = LIMIT_OF["composite.dead_zone_needed"].everyday
        u = readings.uncertainty.get("composite.dead_zone_needed")
        pins.append(
            Pin(
                stick=stick,
                state="stale" if worked.get(stick, "") > take.started_at else "measured",
                x=readings.still.rest_x,
                y=readings.still.rest_y,
                dead_zone=needed,
                limit=limit,
                verdict=against_limit(needed, u, limit),
            )
        )
    return tuple(pins)


def tray(db: Connection) -> list[Strip]:
    """What lies on the bench, newest first, then what was closed last."""
    return [Strip(job, pins_of(db, job)) for job in jobs_on_bench(db)]


def view_job(db: Connection, job_id: int) -> JobView:
    job = get_job(db, job_id)
    return JobView(
        job=job,
        pins=pins_of(db, job),
        takes=tuple(takes_of(db, job_id)),
        work=tuple(work_of(db, job_id)),
        ledger=tuple(ledger_of(db, job_id)),
        next_stage=stage_of(events_of(db, job_id)),
    )


def log_work(
    database: Database,
    job_id: int,
    kind: WorkKind,
    module: ModuleKind | None,
    lot: str,
    note: str,
    cautions: tuple[str, ...],
    at: str,
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
        work = add_work(
            db, job_id, job.stick, kind, module, lot.strip(), note.strip(), tuple(needed), at
        )
        if needed:
            add_entry(db, job_id, at, "caution", f"Read: {', '.join(needed)}.", work_id=work.id)
        add_entry(db, job_id, at, "work", _said(work), work_id=work.id)
        settle_station(db, job_id)
        state = stand_in_state(db, job.controller.id, job.stick)
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


def add_note(database: Database, job_id: int, text: str, at: str) -> None:
    if not text.strip():
        raise Refused("The note is empty.", "text")
    with database.writing() as db:
        open_job(db, job_id)
        add_entry(db, job_id, at, "note", text.strip())


def close(database: Database, job_id: int, outcome: str, at: str) -> None:
    with database.writing() as db:
        open_job(db, job_id)
        close_job(db, job_id, outcome.strip(), at)


def reopen(database: Database, job_id: int, at: str) -> None:
    with database.writing() as db:
        job = get_job(db, job_id)
        if job.closed_at is None:
            raise Refused("The job is open.")
        lying = open_job_of(db, job.controller.id)
        if lying is not None:
            raise Refused(f"{job.controller.tag} is on the bench in a later job: {lying.id}.")
        reopen_job(db, job_id, at)
