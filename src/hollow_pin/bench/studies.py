"""Bench checks: the same sticks again and again, and what that says of this bench."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from sqlite3 import Connection

import numpy as np

from hollow_pin.bench.readings import readings_of
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.gauge import Gauge, gauge
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Job, Take
from hollow_pin.core.take import VERSION
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import find_job
from hollow_pin.store.studies import (
    Study,
    StudyPlan,
    StudyStick,
    add_study,
    all_studies,
    complete_study,
    find_study,
    keep_result,
    latest_check,
    remove_study,
    result_of,
    takes_of_study,
    work_since,
)

STALE_AFTER = timedelta(days=90)
FEWEST_TRIALS = 3
"""Of one stick by one role; with several of either, two."""


@dataclass(frozen=True)
class Cell:
    """How far one stick's trials by one role have come."""

    stick: int
    role: str
    takes: tuple[int, ...]


@dataclass(frozen=True)
class TrialValue:
    """One trial's value of a reading. stick: its place in the study's list."""

    stick: int
    role: str
    take_id: int
    value: float


@dataclass(frozen=True)
class StudiedReading:
    """What a study shows of one reading. smallest_change: that can be told from none, in its unit."""

    path: str
    gauge: Gauge
    smallest_change: float
    values: tuple[TrialValue, ...]


@dataclass(frozen=True)
class StudyView:
    """A study, how far it is, and, once complete, what it showed. names: the sticks', in order.
    broken: why it cannot be completed any more."""

    study: Study
    model: str
    names: tuple[str, ...]
    cells: tuple[Cell, ...]
    broken: str | None
    stale: bool
    shown: tuple[StudiedReading, ...]


@dataclass(frozen=True)
class Trust:
    """What the last bench check says of a model by a source. study_id is None where there is none.
    smallest_change: by dotted name, in the reading's own unit."""

    study_id: int | None
    completed_at: str | None
    stale: bool
    smallest_change: dict[str, float]


def get_study(db: Connection, study_id: int) -> Study:
    study = find_study(db, study_id)
    if study is None:
        raise NotFound("bench check", study_id)
    return study


def open_study(database: Database, plan: StudyPlan, at: str) -> Study:
    """Begin a bench check, or a gauge study where there are several sticks and roles."""
    plan = replace(plan, roles=tuple(dict.fromkeys(" ".join(r.split()) for r in plan.roles)))
    roles, sticks = plan.roles, plan.sticks
    if not sticks:
        raise Refused("Choose at least one stick.", "sticks")
    if not roles or not all(roles):
        raise Refused("Say who measures: at least one bench role.", "roles")
    if len(set(sticks)) < len(sticks):
        raise Refused("A stick is named twice.", "sticks")
    if len(sticks) == len(roles) == 1 and plan.trials < FEWEST_TRIALS:
        raise Refused("One stick by one role takes three trials or more.", "trials")
    with database.writing() as db:
        models = set()
        for s in sticks:
            job = find_job(db, s.job_id)
            if job is None:
                raise NotFound("job", s.job_id)
            if job.closed_at is not None:
                raise Refused(
                    f"Job {job.id} is closed: its controller is not on the bench.", "sticks"
                )
            if job.controller.model.stick(s.stick) is None:
                raise Refused(f"{job.controller.tag} has no {s.stick}.", "sticks")
            models.add(job.controller.model.id)
        if len(models) > 1:
            raise Refused("A bench check is made with sticks of one model.", "sticks")
        return add_study(db, models.pop(), plan, at)


def abandon_study(database: Database, study_id: int) -> None:
    """Give a study up. Its takes stay in their jobs."""
    with database.writing() as db:
        get_study(db, study_id)
        remove_study(db, study_id)


def require_trial(db: Connection, study_id: int, job: Job, stick: str, role: str) -> None:
    """Refuse a take that does not belong to a study's plan."""
    study = get_study(db, study_id)
    if study.completed_at is not None:
        raise Refused("This bench check is complete. Begin another.", "study_id")
    if StudyStick(job.id, stick) not in study.sticks or role not in study.roles:
        raise Refused("The bench check does not ask for this stick by this role.", "study_id")
    worked = work_since(db, study)
    if worked is not None:
        raise Refused("A stick of this bench check was worked on since. Begin another.", "study_id")


def _cells(study: Study, takes: list[Take]) -> tuple[Cell, ...]:
    return tuple(
        Cell(
            i,
            role,
            tuple(
                t.id
                for t in takes
                if (t.job_id, t.stick, t.conditions.role) == (s.job_id, s.stick, role)
            )[: study.trials],
        )
        for i, s in enumerate(study.sticks)
        for role in study.roles
    )


def settle_study(database: Database, study_id: int, at: str) -> None:
    """Work a study out once its last trial is in."""
    with database.reading() as db:
        study = find_study(db, study_id)
        takes = takes_of_study(db, study_id)
        if study is None or _unsettled(db, study, takes) is None:
            return
        cells = _cells(study, takes)
        result = _result(db, study, cells, takes)
    with database.writing() as db:
        now = find_study(db, study_id)
        if now is not None and _unsettled(db, now, takes_of_study(db, study_id)) == cells:
            complete_study(db, study_id, VERSION, result, at)


def work_out_anew(database: Database, study_id: int) -> None:
    """Work a complete study out again by this version of the readings, from the same takes."""
    with database.reading() as db:
        study = find_study(db, study_id)
        if study is None or study.completed_at is None:
            return
        takes = takes_of_study(db, study_id)
        result = _result(db, study, _cells(study, takes), takes)
    with database.writing() as db:
        keep_result(db, study_id, VERSION, result)


def _result(
    db: Connection, study: Study, cells: tuple[Cell, ...], takes: list[Take]
) -> dict[str, Gauge]:
    """By reading; empty where a take is missing that was there."""
    if any(len(c.takes) < study.trials for c in cells):
        return {}
    shape = (len(study.sticks), len(study.roles), study.trials)
    return {
        path: gauge(np.array([m.value for m in values]).reshape(shape))
        for path, values in _values(db, study, cells, takes).items()
    }


def _unsettled(db: Connection, study: Study, takes: list[Take]) -> tuple[Cell, ...] | None:
    """The trials of a study that is through and not worked out yet; None where it is neither."""
    cells = _cells(study, takes)
    if study.completed_at or any(len(c.takes) < study.trials for c in cells):
        return None
    return None if work_since(db, study) is not None else cells


def _values(
    db: Connection, study: Study, cells: tuple[Cell, ...], takes: list[Take]
) -> dict[str, list[TrialValue]]:
    """Every reading that all trials have, cell by cell."""
    by_id = {t.id: t for t in takes}
    readings: dict[int, TakeReadings | None] = {
        take_id: readings_of(db, by_id[take_id]) for c in cells for take_id in c.takes
    }
    by_path = {}
    for spec in READINGS:
        values = [
            TrialValue(c.stick, c.role, take_id, value)
            for c in cells
            for take_id in c.takes
            if (r := readings[take_id]) is not None and (value := r.value(spec.path)) is not None
        ]
        if len(values) == sum(len(c.takes) for c in cells) and values:
            by_path[spec.path] = values
    return by_path


def _stale(study: Study, now: str) -> bool:
    if study.completed_at is None:
        return False
    return datetime.fromisoformat(now) - datetime.fromisoformat(study.completed_at) > STALE_AFTER


def view_study(db: Connection, study_id: int, now: str) -> StudyView:
    study = get_study(db, study_id)
    takes = takes_of_study(db, study_id)
    cells = _cells(study, takes)
    names = []
    model = study.model_id
    for s in study.sticks:
        job = find_job(db, s.job_id)
        assert job is not None
        model = job.controller.model.name
        names.append(f"{job.controller.tag} {s.stick}")
    result = result_of(db, study_id) or {}
    values = _values(db, study, cells, takes) if result else {}
    worked = None if study.completed_at else work_since(db, study)
    return StudyView(
        study=study,
        model=model,
        names=tuple(names),
        cells=cells,
        broken=f"A stick was worked on at {worked}, so its takes no longer speak of one thing."
        if worked
        else None,
        stale=_stale(study, now),
        shown=tuple(
            StudiedReading(path, g, g.smallest_change, tuple(values.get(path, ())))
            for path, g in result.items()
        ),
    )


def list_studies(db: Connection, now: str) -> list[StudyView]:
    """Every study without its values, newest first."""
    return [replace(view_study(db, s.id, now), shown=()) for s in all_studies(db)]


def trust_in(db: Connection, model_id: str, source_kind: str, source_name: str, now: str) -> Trust:
    """What this bench is known to see of a model by a source."""
    study = latest_check(db, model_id, source_kind, source_name)
    if study is None:
        return Trust(None, None, False, {})
    result = result_of(db, study.id) or {}
    return Trust(
        study.id,
        study.completed_at,
        _stale(study, now),
        {path: g.smallest_change for path, g in result.items()},
    )
