"""Jobs, and the work done on them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Any

from pydantic import TypeAdapter

from hollow_pin.core.controller import Controller
from hollow_pin.core.intake import Intake, Waiting
from hollow_pin.core.job import Happened, Station, station_of, stick_name
from hollow_pin.core.record import Job, JobDetails, Work, WorkPlan
from hollow_pin.core.remedies import JobEnding
from hollow_pin.store.controllers import controllers_by_id
from hollow_pin.store.ledger import add_entry, index_words
from hollow_pin.store.order import next_in_order

_INTAKE = TypeAdapter(Intake)


def jobs_from(db: Connection, rows: list[Row]) -> list[Job]:
    """Jobs from rows of their table."""
    controllers = controllers_by_id(db, {r["controller_id"] for r in rows})
    return [_job(r, controllers[r["controller_id"]]) for r in rows]


def _job(row: Row, controller: Controller) -> Job:
    return Job(
        id=row["id"],
        controller=controller,
        stick=row["stick"],
        complaint=row["complaint"],
        intake=_INTAKE.validate_json(row["intake"]),
        moves=row["moves"],
        waiting=row["waiting"],
        revision=row["revision"],
        station=row["station"],
        ended=row["ended"],
        outcome=row["outcome"],
        opened_at=row["opened_at"],
        closed_at=row["closed_at"],
    )


def find_job(db: Connection, job_id: int) -> Job | None:
    rows = db.execute("SELECT * FROM job WHERE id = ?", (job_id,)).fetchall()
    return next(iter(jobs_from(db, rows)), None)


def open_job_of(db: Connection, controller_id: int) -> Job | None:
    rows = db.execute(
        "SELECT * FROM job WHERE controller_id = ? AND closed_at IS NULL", (controller_id,)
    ).fetchall()
    return next(iter(jobs_from(db, rows)), None)


def jobs_on_bench(db: Connection, most: int = 60, closed: int = 6) -> list[Job]:
    """The newest open jobs, the newest first, then the last few closed ones."""
    rows = db.execute(
        "SELECT * FROM job WHERE closed_at IS NULL ORDER BY opened_at DESC, id DESC LIMIT ?",
        (most,),
    ).fetchall()
    rows += db.execute(
        "SELECT * FROM job WHERE closed_at IS NOT NULL ORDER BY closed_at DESC LIMIT ?", (closed,)
    ).fetchall()
    return jobs_from(db, rows)


@dataclass(frozen=True)
class Recheck:
    """A stopgap that is to be looked at again: which, on what controller, and on which date."""

    work_id: int
    job_id: int
    controller_id: int
    tag: str
    stick: str
    kind: str
    recheck_on: str


def rechecks(db: Connection, most: int = 20) -> list[Recheck]:
    """Stopgaps whose stick was not measured in a later job, the first due first."""
    rows = db.execute(
        "SELECT work.id AS work_id, work.job_id, controller.id AS controller_id, controller.tag, "
        "work.stick, work.kind, json_extract(work.details, '$.recheck_on') AS recheck_on "
        "FROM work JOIN job ON job.id = work.job_id "
        "JOIN controller ON controller.id = job.controller_id "
        "WHERE work.undone_at IS NULL AND json_extract(work.details, '$.recheck_on') IS NOT NULL "
        "AND NOT EXISTS (SELECT 1 FROM take JOIN job AS later ON later.id = take.job_id "
        "WHERE later.controller_id = job.controller_id AND later.id > job.id "
        "AND take.stick = work.stick AND take.usable AND take.undone_at IS NULL) "
        "ORDER BY recheck_on, work.id LIMIT ?",
        (most,),
    )
    return [Recheck(**dict(r)) for r in rows]


def visits_of(db: Connection, controller_id: int) -> list[Job]:
    """Every job of a controller, newest first."""
    rows = db.execute(
        "SELECT * FROM job WHERE controller_id = ? ORDER BY id DESC",
        (controller_id,),
    ).fetchall()
    return jobs_from(db, rows)


def add_job(db: Connection, controller: Controller, details: JobDetails, at: str, role: str) -> int:
    row = db.execute(
        "INSERT INTO job (controller_id, stick, complaint, intake, moves, station, opened_at) "
        "VALUES (?, ?, ?, ?, ?, 'prove', ?) RETURNING id",
        (
            controller.id,
            details.stick,
            details.complaint,
            _INTAKE.dump_json(details.intake).decode(),
            details.moves,
            at,
        ),
    ).fetchone()
    text = f"{controller.model.name} {controller.tag}, {stick_name(details.stick)}."
    words = f"{text} “{details.complaint}”" if details.complaint else text
    add_entry(db, row["id"], at, "take-in", words, role)
    return int(row["id"])


def change_told(db: Connection, job_id: int, details: JobDetails) -> None:
    db.execute(
        "UPDATE job SET stick = ?, complaint = ?, intake = ?, moves = ?, revision = revision + 1 "
        "WHERE id = ?",
        (
            details.stick,
            details.complaint,
            _INTAKE.dump_json(details.intake).decode(),
            details.moves,
            job_id,
        ),
    )
    index_words(db, job_id)


def set_waiting(db: Connection, job_id: int, waiting: Waiting) -> None:
    db.execute("UPDATE job SET waiting = ? WHERE id = ?", (waiting, job_id))


def close_job(db: Connection, job_id: int, ending: JobEnding, outcome: str, at: str) -> None:
    db.execute(
        "UPDATE job SET ended = ?, outcome = ?, closed_at = ?, waiting = '' WHERE id = ?",
        (ending, outcome, at, job_id),
    )
    settle_station(db, job_id)


def last_closed_at(db: Connection, controller_id: int) -> str | None:
    """When the controller last left the bench."""
    row = db.execute(
        "SELECT max(closed_at) FROM job WHERE controller_id = ?", (controller_id,)
    ).fetchone()
    return row[0] if row else None


def reopen_job(db: Connection, job_id: int) -> None:
    db.execute(
        "UPDATE job SET ended = NULL, outcome = NULL, closed_at = NULL WHERE id = ?", (job_id,)
    )
    settle_station(db, job_id)


def events_of(db: Connection, job_id: int, stick: str | None = None) -> list[Happened]:
    """Takes and work that count of a job's stick, in the order they happened; of the one that it is
    about, if none is named."""
    rows = db.execute(
        "SELECT take.seq AS seq, 'take' AS what, take.usable, NULL AS kind "
        "FROM take JOIN job ON job.id = take.job_id "
        "WHERE take.job_id = :job AND take.stick = coalesce(:stick, job.stick) "
        "AND take.state IN ('complete', 'interrupted') AND take.undone_at IS NULL "
        "UNION ALL "
        "SELECT work.seq, 'work', 1, work.kind FROM work JOIN job ON job.id = work.job_id "
        "WHERE work.job_id = :job AND work.stick = coalesce(:stick, job.stick) "
        "AND work.undone_at IS NULL ORDER BY seq",
        {"job": job_id, "stick": stick},
    )
    return [Happened(r["what"], bool(r["usable"]), r["kind"]) for r in rows]


def settle_station(db: Connection, job_id: int) -> Station:
    """Bring the job's station in line with what has happened to it."""
    closed = db.execute("SELECT closed_at IS NOT NULL FROM job WHERE id = ?", (job_id,)).fetchone()
    station = station_of(events_of(db, job_id), bool(closed[0]))
    db.execute("UPDATE job SET station = ? WHERE id = ?", (station, job_id))
    return station


def _work(row: Row) -> Work:
    return Work(
        id=row["id"],
        seq=row["seq"],
        job_id=row["job_id"],
        stick=row["stick"],
        axis=row["axis"],
        kind=row["kind"],
        module=row["module"],
        lot=row["lot"],
        note=row["note"],
        cautions=tuple(json.loads(row["cautions"])),
        details=json.loads(row["details"]),
        done_at=row["done_at"],
        undone_at=row["undone_at"],
    )


def work_of(db: Connection, job_id: int) -> list[Work]:
    """All of it, what was undone included."""
    rows = db.execute("SELECT * FROM work WHERE job_id = ? ORDER BY id", (job_id,))
    return [_work(r) for r in rows]


def last_work(db: Connection, job_ids: set[int]) -> dict[tuple[int, str], int]:
    """The place in order of what was last done in each of some jobs, by job and stick."""
    rows = db.execute(
        "SELECT job_id, stick, max(seq) FROM work WHERE undone_at IS NULL "
        "AND job_id IN (SELECT value FROM json_each(?)) GROUP BY job_id, stick",
        (json.dumps(sorted(job_ids)),),
    )
    return {(r["job_id"], r["stick"]): r[2] for r in rows}


def add_work(
    db: Connection, job_id: int, plan: WorkPlan, stand_in_before: dict[str, Any] | None, at: str
) -> Work:
    """stand_in_before: the simulated stick it is done to, if one stands for it."""
    before = json.dumps(stand_in_before) if stand_in_before is not None else None
    row = db.execute(
        "INSERT INTO work (seq, job_id, stick, axis, kind, module, lot, note, cautions, details, "
        "stand_in_before, done_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING *",
        (
            next_in_order(db),
            job_id,
            plan.stick,
            plan.axis,
            plan.kind,
            plan.module,
            plan.lot,
            plan.note,
            json.dumps(plan.cautions),
            json.dumps(plan.details),
            before,
            at,
        ),
    ).fetchone()
    return _work(row)


def find_work(db: Connection, work_id: int) -> Work | None:
    row = db.execute("SELECT * FROM work WHERE id = ?", (work_id,)).fetchone()
    return _work(row) if row else None


def stand_in_before(db: Connection, work_id: int) -> dict[str, Any] | None:
    """The simulated stick as it was before some work."""
    row = db.execute("SELECT stand_in_before FROM work WHERE id = ?", (work_id,)).fetchone()
    return dict(json.loads(row[0])) if row and row[0] else None
