"""Jobs: worked on, closed; and the tray they lie in."""

from __future__ import annotations

import zlib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from sqlite3 import Connection

from hollow_pin.bench.parts import release_all, use_part
from hollow_pin.bench.pins import Pin, Strip, pins_of, strips_of
from hollow_pin.bench.readings import BenchCheckLookup
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import get_job, open_job, require_stick
from hollow_pin.bench.timers import begin_timer
from hollow_pin.bench.whats_next import OtherStick, next_for, others_at_fault, suggested_ending
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.centring_result import in_words as centred_words
from hollow_pin.core.intake import (
    ENDED_LABEL,
    IntakeAnswer,
    intake_answers,
    why_not_ended,
    why_not_worked_on,
)
from hollow_pin.core.job import Mark, StationInfo, mark_of, stage_of, stick_name
from hollow_pin.core.record import Conditions, Job, OneAxis, Take, Work, WorkPlan
from hollow_pin.core.remedies import BY_CODE, WORK, JobEnding, Remedy, done_words
from hollow_pin.core.timers import Timer
from hollow_pin.core.work_fields import DetailError, Value, checked, in_words
from hollow_pin.simulator.repairs import Treatment, repaired
from hollow_pin.simulator.stick import Stick
from hollow_pin.simulator.trims import Pair as TrimPair
from hollow_pin.simulator.trims import Trim
from hollow_pin.store.centrings import bind_centring, find_centring, trims_of
from hollow_pin.store.controllers import keep_stand_in, stand_in_state
from hollow_pin.store.database import Database
from hollow_pin.store.decisions import decisions_of
from hollow_pin.store.donors import is_donor
from hollow_pin.store.finding import JobQuery, find_jobs
from hollow_pin.store.function_checks import FunctionCheckRecord, function_checks_of
from hollow_pin.store.jobs import (
    Recheck,
    add_work,
    close_job,
    events_of,
    find_work,
    jobs_on_bench,
    open_job_of,
    rechecks,
    reopen_job,
    settle_station,
    work_of,
)
from hollow_pin.store.ledger import LedgerEntry, add_entry, ledger_of
from hollow_pin.store.openings import openings_of
from hollow_pin.store.photos import Photo, photos_of
from hollow_pin.store.takes import find_take, running_take_of, takes_of
from hollow_pin.store.timers import WorkClock, clock_of, set_clock, timers_of


@dataclass(frozen=True)
class ListedTake(Take):
    """A take of a job, and what it is in the story."""

    mark: Mark = "between"


@dataclass(frozen=True)
class ListedWork(Work):
    """Work of a job, as it stands on record in words."""

    words: str = ""
    details_words: str = ""


@dataclass(frozen=True)
class TakePair:
    """Two takes to set against each other, by their ids: before and after work, or the reference's and
    the own one."""

    before: int
    after: int


@dataclass(frozen=True)
class PlannedWork:
    """What was decided on: the remedy's code, and the axis of the cause it is for."""

    kind: str
    axis: OneAxis


@dataclass(frozen=True)
class JobView:
    """A job and everything that happened to it. answers: what was told at take-in.

    latest: the newest usable take of the stick it is about. pair: its first and its last; reference:
    the newest of another stick of its kind, and its own. None where there are none. measure_next:
    whether work was done since it was last measured. next_stage, next_conditions: what a take made now
    would be, and how it would most likely be made. clock: how long it was worked on; timers: what
    dries or cools, the newest first; planned: what was decided and is not done yet. donor: whether the
    controller is kept for its parts. next: what is to be done now, and where. others: other sticks
    that were seen to be at fault in it. suggested: how it would end as it stands; None where
    somebody has to say.
    """

    job: Job
    answers: tuple[IntakeAnswer, ...]
    pins: tuple[Pin, ...]
    takes: tuple[ListedTake, ...]
    work: tuple[ListedWork, ...]
    photos: tuple[Photo, ...]
    checks: tuple[FunctionCheckRecord, ...]
    ledger: tuple[LedgerEntry, ...]
    latest: int | None
    pair: TakePair | None
    reference: TakePair | None
    measure_next: bool
    next_stage: str
    next_conditions: Conditions
    clock: WorkClock
    timers: tuple[Timer, ...]
    planned: PlannedWork | None
    donor: bool
    next: StationInfo
    others: tuple[OtherStick, ...]
    suggested: JobEnding | None


def tray(db: Connection) -> list[Strip]:
    """What lies on the bench, newest first, then what was closed last."""
    return strips_of(db, jobs_on_bench(db))


@dataclass(frozen=True)
class DueRecheck:
    """A stopgap to be looked at again. due: whether its day has come."""

    recheck: Recheck
    words: str
    due: bool


def due_rechecks(db: Connection, now: str) -> list[DueRecheck]:
    """Stopgaps that are to be looked at again, the first due first."""
    return [
        DueRecheck(r, f"{BY_CODE[r.kind].done}, {stick_name(r.stick)}", r.recheck_on <= now[:10])
        for r in rechecks(db)
    ]


@dataclass(frozen=True)
class JobPage:
    """A page of jobs that fit what was looked for, and how many fit in all."""

    strips: list[Strip]
    count: int


def find(db: Connection, query: JobQuery) -> JobPage:
    jobs, count = find_jobs(db, query)
    return JobPage(strips_of(db, jobs), count)


def _references(job: Job) -> set[str]:
    """The sticks that a job's may be held against: others of its kind. A lever is no stick's."""
    model = job.controller.model
    own = model.stick(job.stick)
    return {
        s.name
        for s in model.sticks
        if own and s.name != own.name and (s.axes, s.sprung) == (own.axes, own.sprung)
    }


def view_job(db: Connection, job_id: int) -> JobView:
    job = get_job(db, job_id)
    takes = tuple(t for t in takes_of(db, job_id) if t.undone_at is None)
    work = tuple(w for w in work_of(db, job_id) if w.undone_at is None)
    usable = [t for t in takes if t.usable]
    own = [t for t in usable if t.stick == job.stick]
    other = [t for t in usable if t.stick in _references(job)]
    events = events_of(db, job_id)
    bench_checks = BenchCheckLookup(db)
    checks = tuple(function_checks_of(db, job_id))
    newest = next((c.result for c in reversed(checks) if c.result is not None), None)
    others = others_at_fault(db, job, usable, bench_checks)
    return JobView(
        job=job,
        answers=intake_answers(job.intake, job.axes),
        pins=pins_of(db, job.controller, job.id),
        takes=tuple(ListedTake(**vars(t), mark=_mark(t, takes)) for t in takes),
        work=tuple(
            ListedWork(**vars(w), words=_in_words(w), details_words=in_words(w.details))
            for w in work
        ),
        photos=tuple(p for p in photos_of(db, job_id) if p.undone_at is None),
        checks=checks,
        ledger=tuple(ledger_of(db, job_id)),
        latest=own[-1].id if own else None,
        pair=TakePair(own[0].id, own[-1].id) if len(own) > 1 else None,
        reference=TakePair(other[-1].id, own[-1].id) if own and other else None,
        measure_next=bool(events) and events[-1].what == "work",
        next_stage=stage_of(events),
        next_conditions=_next_conditions(takes, work),
        clock=clock_of(db, job_id),
        timers=tuple(timers_of(db, job_id)),
        planned=_planned(db, job, work),
        donor=is_donor(db, job.controller.id),
        next=next_for(db, job, bench_checks),
        others=others,
        suggested=suggested_ending(db, job, newest, others, bench_checks),
    )


def _planned(db: Connection, job: Job, work: tuple[Work, ...]) -> PlannedWork | None:
    decision = next(iter(decisions_of(db, job.id)), None)
    if decision is None or not BY_CODE[decision.chosen].is_work:
        return None
    if any(w.seq > decision.seq for w in work):
        return None
    remedy = BY_CODE[decision.chosen]
    causes = [c for c in decision.stood["causes"] if c["cause"] in remedy.helps]
    axis = causes[0]["axis"] if causes and "axis" in remedy.asks else None
    return PlannedWork(remedy.code, axis or "")


def _mark(take: Take, takes: tuple[Take, ...]) -> Mark:
    ended_takes = [t for t in takes if t.stick == take.stick and t.state != "recording"]
    return mark_of(take.stage, bool(ended_takes) and ended_takes[-1].id == take.id)


def _next_conditions(takes: tuple[Take, ...], work: tuple[Work, ...]) -> Conditions:
    """As at the last take, unless it was recalibrated since."""
    live = [t for t in takes if t.source_kind != "file"]
    last = live[-1].conditions if live else Conditions()
    since = [w for w in work if not live or w.seq > live[-1].seq]
    states = [state for w in since if (state := BY_CODE[w.kind].calibration) is not None]
    return replace(last, calibration=states[-1]) if states else last


def log_work(database: Database, job_id: int, plan: WorkPlan, at: str, role: str = "") -> Work:
    """Record what was done to a stick of the job's controller. Every caution of the remedy must be
    acknowledged.

    Where a stand-in stands for the stick, the same is done to it.
    """
    remedy = BY_CODE.get(plan.kind)
    if remedy is None or not remedy.is_work:
        codes = ", ".join(r.code for r in WORK)
        raise Refused(f"{plan.kind} is no work that goes on record. There is: {codes}.", "kind")
    if remedy.module is not None:
        plan = replace(plan, module=remedy.module)
    elif ("module" in remedy.asks) != (plan.module is not None):
        needs_module = "module" in remedy.asks
        sentence = "Say which kind of module went in." if needs_module else "No module went in."
        raise Refused(sentence, "module")
    if plan.axis and "axis" not in remedy.asks:
        raise Refused("It is not done to one axis.", "axis")
    if plan.wait_minutes is not None and remedy.waits is None:
        raise Refused("Nothing of it dries, cools or cures.", "wait_minutes")
    needed = tuple(c.code for c in cautions_for(plan.kind))
    missing = [code for code in needed if code not in plan.cautions]
    if missing:
        raise Refused(f"Read and tick the cautions first: {', '.join(missing)}.", "cautions")
    plan = replace(
        plan,
        lot=plan.lot.strip(),
        note=plan.note.strip(),
        cautions=needed,
        details=_details(remedy, plan.details),
    )
    with database.writing() as db:
        job = open_job(db, job_id)
        own = require_stick(job.controller, plan.stick)
        if plan.axis == "y" and own.axes == 1:
            raise Refused("It has one axis, x.", "axis")
        why = why_not_worked_on(plan.kind, job.intake, job.controller.refer)
        if why is not None:
            raise Refused(why, "kind")
        centred = _centred(db, job_id, plan, own.axes)
        if centred:
            plan = replace(plan, note=f"{centred} {plan.note}".strip())
        if "minutes" in plan.details:
            set_clock(db, job_id, WorkClock(0.0, None))
        state = stand_in_state(db, job.controller.id, plan.stick)
        work = add_work(db, job_id, plan, state, at)
        if plan.centring_id is not None:
            bind_centring(db, plan.centring_id, work.id)
        if plan.part_id is not None:
            use_part(db, plan.part_id, work.id, job_id, plan.lot, at, role)
        if needed:
            sentence = f"Read: {', '.join(needed)}."
            add_entry(db, job_id, at, "caution", sentence, role, work_id=work.id)
        add_entry(db, job_id, at, "work", _work_text(work), role, work_id=work.id)
        if plan.wait_minutes is not None and remedy.waits is not None:
            begin_timer(db, job_id, remedy.waits.kind, "", plan.wait_minutes, at, role)
        settle_station(db, job_id)
        if state is not None:
            seed = zlib.crc32(f"work {work.id}".encode())
            treatment = Treatment(
                work.axis, work.module, work.lot, seed, _trims_left(db, plan.centring_id)
            )
            if "passes" in work.details:
                treatment = replace(treatment, passes=int(work.details["passes"]))
            after = repaired(Stick.from_dict(state), work.kind, treatment)
            keep_stand_in(db, job.controller.id, plan.stick, after.to_dict())
    return work


def _centred(db: Connection, job_id: int, plan: WorkPlan, axes: int) -> str:
    """What was read while it was centred by hand, in words; empty where it was not."""
    if plan.centring_id is None:
        return ""
    centring = find_centring(db, plan.centring_id)
    take = find_take(db, centring.take_id) if centring is not None else None
    if centring is None or take is None or centring.job_id != job_id:
        raise NotFound("centring", plan.centring_id)
    if centring.kind != plan.kind or take.stick != plan.stick:
        raise Refused("It was centred by other work, or another stick was.", "centring_id")
    bound = find_work(db, centring.work_id) if centring.work_id is not None else None
    if bound is not None and bound.undone_at is None:
        raise Refused("That is on record with other work.", "centring_id")
    return centred_words(centring.found, axes)


def _trims_left(db: Connection, centring_id: int | None) -> TrimPair | None:
    """How the trims of a stand-in were left."""
    trims = trims_of(db, centring_id) if centring_id is not None else None
    return (Trim(**trims[0]), Trim(**trims[1])) if trims else None


def _details(remedy: Remedy, details: Mapping[str, Value]) -> dict[str, Value]:
    try:
        return checked(remedy.fields, details)
    except DetailError as wrong:
        raise Refused(str(wrong), f"details.{wrong.field}") from None


def _work_text(work: Work) -> str:
    parts = [f"{_in_words(work)}, {stick_name(work.stick)}.", in_words(work.details), work.note]
    return " ".join(p for p in parts if p)


def _in_words(work: Work) -> str:
    text = done_words(work.kind, work.module)
    text += f", lot {work.lot}" if work.lot else ""
    return text + (f", {work.axis}" if work.axis else "")


def close(
    database: Database, job_id: int, ending: JobEnding, outcome: str, at: str, role: str = ""
) -> None:
    """Close a job. Refused where it may not be closed that way."""
    with database.writing() as db:
        job = open_job(db, job_id)
        why = why_not_ended(ending, job.moves, job.controller.refer)
        if why is not None:
            raise Refused(why, "ended")
        if ending == "signed-off" and any(o.shut_at is None for o in openings_of(db, job_id)):
            raise Refused("Its shell is open. Shut it first, under Work.", "ended")
        if running_take_of(db, job_id) is not None:
            raise Refused("A take of this job is running. End it first.", "ended")
        release_all(db, job_id, at, role)
        close_job(db, job_id, ending, outcome.strip(), at)
        text = f"{ENDED_LABEL[ending]}. {outcome.strip()}".strip()
        add_entry(db, job_id, at, "close", text, role)


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
