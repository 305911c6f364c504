"""Jobs, the work done on them, and the ledger of everything that happened."""

from __future__ import annotations

import json
from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Literal

from hollow_pin.core.job import (
    Happened,
    ModuleKind,
    Station,
    WorkKind,
    station_of,
    stick_name,
)
from hollow_pin.store.controllers import Controller, controller_by_id

LedgerKind = Literal["take-in", "take", "work", "caution", "note", "close"]


@dataclass(frozen=True)
class Job:
    """One visit of a controller to the bench. Times are ISO 8601, UTC."""

    id: int
    controller: Controller
    stick: str
    complaint: str
    station: Station
    outcome: str | None
    opened_at: str
    closed_at: str | None


@dataclass(frozen=True)
class Work:
    """What was done between two takes."""

    id: int
    job_id: int
    stick: str
    kind: WorkKind
    module: ModuleKind | None
    lot: str
    note: str
    cautions: tuple[str, ...]
    done_at: str


@dataclass(frozen=True)
class LedgerEntry:
    id: int
    at: str
    kind: LedgerKind
    text: str
    take_id: int | None
    work_id: int | None


def _job(db: Connection, row: Row) -> Job:
    return Job(
        id=row["id"],
        controller=controller_by_id(db, row["controller_id"]),
        stick=row["stick"],
        complaint=row["complaint"],
        station=row["station"],
        outcome=row["outcome"],
        opened_at=row["opened_at"],
        closed_at=row["closed_at"],
    )


def find_job(db: Connection, job_id: int) -> Job | None:
    row = db.execute("SELECT * FROM job WHERE id = ?", (job_id,)).fetchone()
    return _job(db, row) if row else None


def open_job_of(db: Connection, controller_id: int) -> Job | None:
    row = db.execute(
        "SELECT * FROM job WHERE controller_id = ? AND closed_at IS NULL", (controller_id,)
    ).fetchone()
    return _job(db, row) if row else None


def jobs_on_bench(db: Connection, closed: int = 6) -> list[Job]:
    """The open jobs, the newest first, then the last few closed ones."""
    rows = db.execute("SELECT * FROM job WHERE closed_at IS NULL ORDER BY opened_at DESC, id DESC")
    jobs = [_job(db, r) for r in rows]
    rows = db.execute(
        "SELECT * FROM job WHERE closed_at IS NOT NULL ORDER BY closed_at DESC LIMIT ?", (closed,)
    )
    return jobs + [_job(db, r) for r in rows]


def add_job(db: Connection, controller: Controller, stick: str, complaint: str, at: str) -> Job:
    row = db.execute(
        "INSERT INTO job (controller_id, stick, complaint, station, opened_at) "
        "VALUES (?, ?, ?, 'prove', ?) RETURNING *",
        (controller.id, stick, complaint, at),
    ).fetchone()
    said = f"{controller.model.name} {controller.tag}, {stick_name(stick)}."
    add_entry(db, row["id"], at, "take-in", f"{said} “{complaint}”" if complaint else said)
    return _job(db, row)


def close_job(db: Connection, job_id: int, outcome: str, at: str) -> None:
    db.execute("UPDATE job SET outcome = ?, closed_at = ? WHERE id = ?", (outcome, at, job_id))
    add_entry(db, job_id, at, "close", f"Closed. {outcome}".strip())
    settle_station(db, job_id)


def last_closed_at(db: Connection, controller_id: int) -> str | None:
    """When the controller last left the bench."""
    row = db.execute(
        "SELECT max(closed_at) FROM job WHERE controller_id = ?", (controller_id,)
    ).fetchone()
    return row[0] if row else None


def reopen_job(db: Connection, job_id: int, at: str) -> None:
    db.execute("UPDATE job SET outcome = NULL, closed_at = NULL WHERE id = ?", (job_id,))
    add_entry(db, job_id, at, "close", "Opened again.")
    settle_station(db, job_id)


def events_of(db: Connection, job_id: int) -> list[Happened]:
    """Takes and work of a job in the order they happened."""
    rows = db.execute(
        "SELECT take.started_at AS at, 'take' AS what, take.usable, NULL AS kind "
        "FROM take JOIN job ON job.id = take.job_id "
        "WHERE take.job_id = :job AND take.stick = job.stick AND take.state <> 'recording' "
        "UNION ALL "
        "SELECT done_at, 'work', 1, kind FROM work WHERE job_id = :job ORDER BY at",
        {"job": job_id},
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
        job_id=row["job_id"],
        stick=row["stick"],
        kind=row["kind"],
        module=row["module"],
        lot=row["lot"],
        note=row["note"],
        cautions=tuple(json.loads(row["cautions"])),
        done_at=row["done_at"],
    )


def work_of(db: Connection, job_id: int) -> list[Work]:
    rows = db.execute("SELECT * FROM work WHERE job_id = ? ORDER BY id", (job_id,))
    return [_work(r) for r in rows]


def add_work(
    db: Connection,
    job_id: int,
    stick: str,
    kind: WorkKind,
    module: ModuleKind | None,
    lot: str,
    note: str,
    cautions: tuple[str, ...],
    at: str,
) -> Work:
    row = db.execute(
        "INSERT INTO work (job_id, stick, kind, module, lot, note, cautions, done_at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING *",
        (job_id, stick, kind, module, lot, note, json.dumps(cautions), at),
    ).fetchone()
    return _work(row)


def add_entry(
    db: Connection,
    job_id: int,
    at: str,
    kind: LedgerKind,
    text: str,
    take_id: int | None = None,
    work_id: int | None = None,
) -> int:
    row = db.execute(
        "INSERT INTO ledger (job_id, at, kind, text, take_id, work_id) VALUES (?, ?, ?, ?, ?, ?) "
        "RETURNING id",
        (job_id, at, kind, text, take_id, work_id),
    ).fetchone()
    return int(row["id"])


def ledger_of(db: Connection, job_id: int) -> list[LedgerEntry]:
    """What happened on a job, newest first."""
    rows = db.execute(
        "SELECT id, at, kind, text, take_id, work_id FROM ledger WHERE job_id = ? ORDER BY id DESC",
        (job_id,),
    )
    return [LedgerEntry(*r) for r in rows]
