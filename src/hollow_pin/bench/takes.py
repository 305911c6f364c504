"""Takes: begun, ended, read, imported, compared."""

from __future__ import annotations

import random
import zlib
from dataclasses import dataclass, replace
from sqlite3 import Connection

from pydantic import TypeAdapter

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.comparison import Comparison, Setting, compare
from hollow_pin.core.job import stage_of, stick_name
from hollow_pin.core.limits import LIMITS, Grade, Verdict, against_limit
from hollow_pin.core.recording import AxisRange, Recording
from hollow_pin.core.summary import Meaning, explain, explain_comparison
from hollow_pin.core.take import VERSION, TakeReadings, measure_take
from hollow_pin.core.tracker import Routine, StepName, StepTracker
from hollow_pin.simulator.conditions import CONDITIONS, HALL_CONDITIONS, fresh_stick
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.stick import Stick
from hollow_pin.store.controllers import Controller, keep_stand_in, stand_in_state
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import Job, add_entry, events_of, find_job, settle_station
from hollow_pin.store.takes import (
    SourceKind,
    Take,
    TakeState,
    begin_take,
    cached_readings,
    end_take,
    find_take,
    keep_readings,
    last_time_us,
    load_recording,
    resume_take,
    takes_of_stick,
    unfinished_takes,
    write_block,
)

_READINGS = TypeAdapter(TakeReadings)

IMPORT_BLOCK = 50_000


@dataclass(frozen=True)
class AgainstLimit:
    """A reading's limit in a grade, its reason, and the verdict."""

    limit: float
    reason: str
    verdict: Verdict


@dataclass(frozen=True)
class TakeView:
    """A take with its readings and what they mean. readings is None while it has no samples."""

    take: Take
    tag: str
    model: str
    readings: TakeReadings | None
    meaning: Meaning | None
    limits: dict[str, AgainstLimit]
    may_resume: bool


@dataclass(frozen=True)
class ComparisonView:
    """Two takes of one stick set against each other."""

    before: TakeView
    after: TakeView
    sentence: str
    comparison: Comparison


def get_job(db: Connection, job_id: int) -> Job:
    job = find_job(db, job_id)
    if job is None:
        raise NotFound("job", job_id)
    return job


def get_take(db: Connection, take_id: int) -> Take:
    take = find_take(db, take_id)
    if take is None:
        raise NotFound("take", take_id)
    return take


def open_job(db: Connection, job_id: int) -> Job:
    """A job that may still be worked on. Refused when it is closed."""
    job = get_job(db, job_id)
    if job.closed_at is not None:
        raise Refused("The job is closed. Open it again first.")
    return job


def check_stick(controller: Controller, stick: str) -> None:
    if stick not in controller.model.sticks:
        named = ", ".join(controller.model.sticks)
        raise Refused(f"A {controller.model.name} has no {stick} stick. It has: {named}.", "stick")


def start_take(
    database: Database,
    job_id: int,
    stick: str,
    kind: SourceKind,
    source_name: str,
    ranges: tuple[AxisRange, ...] | None,
    at: str,
    headers: dict[str, str] | None = None,
) -> Take:
    """Begin a take. ranges: None for a stand-in, whose model knows them."""
    with database.writing() as db:
        job = open_job(db, job_id)
        check_stick(job.controller, stick)
        model = job.controller.model
        if ranges is None:
            ranges = (AxisRange(0, 2**model.bits - 1),) * 2
        events = events_of(db, job_id) if stick == job.stick else []
        return begin_take(
            db,
            job_id,
            stick,
            stage_of(events),
            kind,
            source_name,
            ranges,
            model.gate,
            {
                "source": kind,
                "stick": stick,
                "controller": job.controller.tag,
                "model": model.name,
                "gate": model.gate,
            }
            | (headers or {}),
            at,
        )


def stand_in_for(database: Database, take: Take, condition: str | None = None) -> StandIn:
    """The simulated stick that stands in for the one on the bench; made up when first needed."""
    with database.writing() as db:
        controller = get_job(db, take.job_id).controller
        state = stand_in_state(db, controller.id, take.stick)
        if state is None:
            m = controller.model
            seed = zlib.crc32(f"{controller.tag} {take.stick}".encode())
            possible = sorted(CONDITIONS) if m.sensor == "potentiometer" else HALL_CONDITIONS
            if condition is not None and condition not in possible:
                raise Refused("A Hall module has no track to wear or to dirty.", "condition")
            condition = condition or random.Random(seed).choice(possible)
            stick = fresh_stick(m.sensor, m.gate, m.bits, m.rate_hz, condition, seed)
            keep_stand_in(db, controller.id, take.stick, stick.to_dict())
        else:
            stick = Stick.from_dict(state)
    return StandIn(stick, seed=take.id * 7919 + (last_time_of(database, take.id) or 0) % 9973)


def last_time_of(database: Database, take_id: int) -> int | None:
    with database.reading() as db:
        return last_time_us(db, take_id)


def tracker_for(database: Database, take: Take, steps: tuple[StepName, ...] | None) -> StepTracker:
    """Follows the routine, or only the steps to be done again."""
    routine = Routine() if steps is None else Routine(steps=steps)
    rest = (0.0, 0.0)
    if "still" not in routine.steps:
        with database.reading() as db:
            recording = load_recording(db, take)
        still = measure_take(recording, take.gate).still if recording else None
        rest = (still.rest_x, still.rest_y or 0.0) if still else rest
    return StepTracker(routine, axes=len(take.ranges), rest=rest)


def finish_take(
    database: Database, take_id: int, state: TakeState, because: str | None, at: str
) -> Take:
    """End a take: measure what there is, and put it in the record."""
    with database.writing() as db:
        take = get_take(db, take_id)
        recording = load_recording(db, take)
        usable = False
        if recording is not None:
            readings = measure_take(recording, take.gate)
            usable = any((readings.still, readings.let_go, readings.rim))
            keep_readings(db, take_id, VERSION, _READINGS.dump_json(readings).decode())
        end_take(db, take_id, state, because, usable, at)
        take = get_take(db, take_id)
        add_entry(db, take.job_id, at, "take", _said(take), take_id=take_id)
        settle_station(db, take.job_id)
    return take


def _said(take: Take) -> str:
    text = f"{take.stage.capitalize()}, {stick_name(take.stick)}"
    if take.state == "interrupted":
        kept = "what it holds is kept" if take.usable else "no step of it is usable"
        text += f": interrupted, {take.ended_because}; {kept}"
    return text + "."


def recover_takes(database: Database, at: str) -> int:
    """Takes that ran when the program ended become interrupted ones. Returns how many."""
    with database.reading() as db:
        left = [take.id for take in unfinished_takes(db)]
    for take_id in left:
        finish_take(
            database, take_id, "interrupted", "the program ended while it was recording", at
        )
    return len(left)


def may_resume(db: Connection, take: Take) -> bool:
    """Whether a step of it can still be done again: the stick's newest take, and nothing since."""
    job = get_job(db, take.job_id)
    if job.closed_at is not None or take.source_kind == "file" or take.state == "recording":
        return False
    takes = takes_of_stick(db, job.controller.id, take.stick)
    if takes[-1].id != take.id:
        return False
    events = events_of(db, take.job_id)
    return not (take.stick == job.stick and events and events[-1].what == "work")


def reopen_take(database: Database, take_id: int) -> Take:
    """Open a take to do a step of it again. Refused once something has been done since."""
    with database.writing() as db:
        take = get_take(db, take_id)
        if not may_resume(db, take):
            raise Refused("A step can be done again only in the stick's newest take, before work.")
        resume_take(db, take_id)
        return get_take(db, take_id)


def import_take(
    database: Database, job_id: int, stick: str, file_name: str, recording: Recording, at: str
) -> Take:
    """A recording from a file, as a take of a job."""
    take = start_take(
        database, job_id, stick, "file", file_name, recording.ranges, at, recording.headers
    )
    with database.writing() as db:
        for start in range(0, len(recording.t_us), IMPORT_BLOCK):
            part = slice(start, start + IMPORT_BLOCK)
            write_block(
                db, take.id, recording.t_us[part], recording.raw[part], recording.step[part]
            )
    return finish_take(database, take.id, "complete", None, at)


def readings_of(db: Connection, take: Take) -> TakeReadings | None:
    """The readings of a take, from the cache where this version of the definitions made them."""
    body = cached_readings(db, take.id, VERSION)
    if body is not None:
        return _READINGS.validate_json(body)
    recording = load_recording(db, take)
    return measure_take(recording, take.gate) if recording is not None else None


def view_take(db: Connection, take_id: int, grade: Grade) -> TakeView:
    """A take, what it reads, what that means."""
    take = get_take(db, take_id)
    controller = get_job(db, take.job_id).controller
    readings = readings_of(db, take)
    limits = {}
    if readings is not None:
        for limit in LIMITS:
            at = limit.at(grade)
            value, u = readings.value(limit.path), readings.uncertainty.get(limit.path)
            limits[limit.path] = AgainstLimit(at, limit.reason, against_limit(value, u, at))
    return TakeView(
        take=take,
        tag=controller.tag,
        model=controller.model.name,
        readings=readings,
        meaning=explain(readings, grade) if readings is not None else None,
        limits=limits,
        may_resume=may_resume(db, take),
    )


def compare_takes(db: Connection, before_id: int, after_id: int, grade: Grade) -> ComparisonView:
    """Two takes side by side. Refused where one has no samples; the comparison itself may refuse."""
    if before_id == after_id:
        raise Refused("A take cannot be compared with itself. Choose two.", "after")
    before, after = view_take(db, before_id, grade), view_take(db, after_id, grade)
    for view, field in ((before, "before"), (after, "after")):
        if view.readings is None:
            raise Refused(f"Take {view.take.id} has no samples.", field)
    assert before.readings is not None
    assert after.readings is not None
    found = compare(before.readings, after.readings, _setting(before), _setting(after), grade)
    sentence = explain_comparison(found, after.readings, after.take.stick)
    return ComparisonView(before, after, sentence, found)


def _setting(view: TakeView) -> Setting:
    take = view.take
    source = take.source_kind if take.source_kind == "file" else take.source_name
    return Setting(view.tag, take.stick, source, take.gate)


def export_recording(db: Connection, take_id: int) -> Recording:
    """A take's samples with the header lines of its file."""
    take = get_take(db, take_id)
    recording = load_recording(db, take)
    if recording is None:
        raise Refused(f"Take {take_id} has no samples.")
    headers = recording.headers | {"stage": take.stage, "started": take.started_at}
    return replace(recording, headers=headers)
