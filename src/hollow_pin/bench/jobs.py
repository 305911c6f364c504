"""Jobs: taken in, worked on, closed; and the tray they lie in."""

from __future__ import annotations

import zlib
from dataclasses import dataclass, replace
from datetime import datetime
from sqlite3 import Connection
from typing import Literal

from hollow_pin.bench.readings import trusted_readings_of
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import check_stick, get_job, open_job
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.job import WORK_LABEL, ModuleKind, WorkKind, stage_of, stick_name
from hollow_pin.core.limits import LIMIT_OF, Verdict, limits_with, verdict_on
from hollow_pin.core.take import TakeReadings
from hollow_pin.simulator.stand_in import recalibrated
from hollow_pin.simulator.stick import LOT_OF_KIND, LOTS, Stick, aged, cleaned, replaced
from hollow_pin.store.controllers import (
    Controller,
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
    last_closed_at,
    ledger_of,
    open_job_of,
    reopen_job,
    settle_station,
    work_of,
)
from hollow_pin.store.takes import Conditions, Take, latest_takes, takes_of

HOURS_A_DAY = 4.0
"""How long a handset is played in a day."""
DEAD_ZONE = "composite.dead_zone_needed"
PinState = Literal["none", "measured", "stale", "unusable"]


@dataclass(frozen=True)
class Pin:
    """A stick in brief: where it rests and the dead zone it needs, in %, against the limit. tells:
    which reading the disc shows."""

    stick: str
    state: PinState
    x: float | None = None
    y: float | None = None
    dead_zone: float | None = None
    limit: float = LIMIT_OF[DEAD_ZONE].everyday
    verdict: Verdict = "unknown"
    tells: str = DEAD_ZONE


@dataclass(frozen=True)
class Strip:
    """A job in the tray."""

    job: Job
    pins: tuple[Pin, ...]


@dataclass(frozen=True)
class JobView:
    """A job and everything that happened to it. next_stage, next_conditions: what a take made now
    would be, and how it would most likely be made."""

    job: Job
    pins: tuple[Pin, ...]
    takes: tuple[Take, ...]
    work: tuple[Work, ...]
    ledger: tuple[LedgerEntry, ...]
    next_stage: str
    next_conditions: Conditions


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
        _age_stand_ins(db, controller, at)
        return add_job(db, controller, stick, complaint.strip(), at)


def _age_stand_ins(db: Connection, controller: Controller, at: str) -> None:
    """A stand-in that comes again has been in use since it left: dirt comes back, tracks wear."""
    left = last_closed_at(db, controller.id)
    if left is None:
        return
    days = (datetime.fromisoformat(at) - datetime.fromisoformat(left)).total_seconds() / 86_400
    for own in controller.model.sticks:
        state = stand_in_state(db, controller.id, own.name)
        if state is not None:
            used = aged(Stick.from_dict(state), max(0.0, days) * HOURS_A_DAY)
            keep_stand_in(db, controller.id, own.name, used.to_dict())


def pins_of(db: Connection, job: Job) -> tuple[Pin, ...]:
    """One pin for each stick of the job's controller, from its newest take."""
    model = job.controller.model
    latest = latest_takes(db, job.controller.id)
    worked = {w.stick: w.done_at for w in work_of(db, job.id)}
    limit = limits_with(model.limits)[DEAD_ZONE].everyday
    return tuple(
        _pin(db, model.id, s.name, latest.get(s.name), worked.get(s.name, ""), limit)
        for s in model.sticks
    )


def _pin(
    db: Connection, model_id: str, stick: str, take: Take | None, worked_at: str, limit: float
) -> Pin:
    readings = trusted_readings_of(db, take, model_id) if take else None
    if take is None or readings is None:
        return Pin(stick, "none", limit=limit)
    state: PinState = "stale" if worked_at > take.started_at else "measured"
    if readings.turn is not None:
        return _turn_pin(readings, stick, state)
    needed = readings.composite.dead_zone_needed
    if readings.still is None or needed is None:
        return Pin(stick, "unusable", limit=limit)
    return Pin(
        stick=stick,
        state=state,
        x=readings.still.rest_x,
        y=readings.still.rest_y or 0.0,
        dead_zone=needed,
        limit=limit,
        verdict=verdict_on(readings, DEAD_ZONE, limit),
    )


def _turn_pin(readings: TakeReadings, stick: str, state: PinState) -> Pin:
    """A paddle has no centre: its disc is how far it trembles at rest, its ring how far it may."""
    jitter = readings.value("turn.jitter")
    limit = LIMIT_OF["turn.jitter"].everyday
    if jitter is None:
        return Pin(stick, "unusable", limit=limit, tells="turn.jitter")
    verdict = verdict_on(readings, "turn.jitter", limit)
    return Pin(stick, state, 0.0, 0.0, jitter, limit, verdict, "turn.jitter")


def tray(db: Connection) -> list[Strip]:
    """What lies on the bench, newest first, then what was closed last."""
    return [Strip(job, pins_of(db, job)) for job in jobs_on_bench(db)]


def view_job(db: Connection, job_id: int) -> JobView:
    job = get_job(db, job_id)
    takes, work = tuple(takes_of(db, job_id)), tuple(work_of(db, job_id))
    return JobView(
        job=job,
        pins=pins_of(db, job),
        takes=takes,
        work=work,
        ledger=tuple(ledger_of(db, job_id)),
        next_stage=stage_of(events_of(db, job_id)),
        next_conditions=_next_conditions(takes, work),
    )


def _next_conditions(takes: tuple[Take, ...], work: tuple[Work, ...]) -> Conditions:
    """As at the last take, unless it was recalibrated since."""
    live = [t for t in takes if t.source_kind != "file"]
    last = live[-1].conditions if live else Conditions()
    since = [w for w in work if not live or w.done_at > live[-1].started_at]
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
