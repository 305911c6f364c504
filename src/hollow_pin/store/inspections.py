"""Lots that were looked at before they were used."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row

from pydantic import TypeAdapter

from hollow_pin.core.inspection import Ending, OnJig, PartFindings
from hollow_pin.core.sampling import SamplingPlan

_PLAN = TypeAdapter(SamplingPlan)
_LOOKED = TypeAdapter(PartFindings)
_ON_JIG = TypeAdapter(OnJig)


@dataclass(frozen=True)
class Inspection:
    """ending: how it ended; None while it goes on."""

    id: int
    part_id: int
    lot: str
    plan: SamplingPlan
    begun_at: str
    role: str
    ended_at: str | None
    ending: Ending | None
    reason: str


@dataclass(frozen=True)
class Inspected:
    """One of a lot that was looked at."""

    id: int
    at: str
    role: str
    looked: PartFindings


def _inspection(row: Row) -> Inspection:
    return Inspection(**(dict(row) | {"plan": _PLAN.validate_json(row["plan"])}))


def add_inspection(
    db: Connection, part_id: int, lot: str, plan: SamplingPlan, at: str, role: str
) -> Inspection:
    row = db.execute(
        "INSERT INTO inspection (part_id, lot, plan, begun_at, role) VALUES (?, ?, ?, ?, ?) "
        "RETURNING *",
        (part_id, lot, _PLAN.dump_json(plan).decode(), at, role),
    ).fetchone()
    return _inspection(row)


def find_inspection(db: Connection, inspection_id: int) -> Inspection | None:
    row = db.execute("SELECT * FROM inspection WHERE id = ?", (inspection_id,)).fetchone()
    return _inspection(row) if row else None


def inspections_of(db: Connection, part_id: int) -> list[Inspection]:
    """Those of a part, the newest first."""
    rows = db.execute("SELECT * FROM inspection WHERE part_id = ? ORDER BY id DESC", (part_id,))
    return [_inspection(r) for r in rows]


def end_inspection(
    db: Connection, inspection_id: int, ending: Ending, reason: str, at: str
) -> None:
    db.execute(
        "UPDATE inspection SET ending = ?, reason = ?, ended_at = ? WHERE id = ?",
        (ending, reason, at, inspection_id),
    )


def reopen_inspection(db: Connection, inspection_id: int) -> None:
    db.execute(
        "UPDATE inspection SET ending = NULL, reason = '', ended_at = NULL WHERE id = ?",
        (inspection_id,),
    )


def add_jig_reading(db: Connection, inspection_id: int, read: OnJig, at: str) -> int:
    row = db.execute(
        "INSERT INTO jig_reading (inspection_id, at, body) VALUES (?, ?, ?) RETURNING id",
        (inspection_id, at, _ON_JIG.dump_json(read).decode()),
    ).fetchone()
    return int(row["id"])


def jig_reading(db: Connection, inspection_id: int, reading_id: int) -> OnJig | None:
    row = db.execute(
        "SELECT body FROM jig_reading WHERE id = ? AND inspection_id = ?",
        (reading_id, inspection_id),
    ).fetchone()
    return _ON_JIG.validate_json(row["body"]) if row else None


def add_inspected(
    db: Connection, inspection_id: int, outcome: PartFindings, at: str, role: str
) -> None:
    db.execute(
        "INSERT INTO inspected (inspection_id, at, role, body) VALUES (?, ?, ?, ?)",
        (inspection_id, at, role, _LOOKED.dump_json(outcome).decode()),
    )


def inspected_of(db: Connection, inspection_id: int) -> list[Inspected]:
    """Those that count, in the order they were looked at."""
    rows = db.execute(
        "SELECT id, at, role, body FROM inspected WHERE inspection_id = ? AND undone_at IS NULL "
        "ORDER BY id",
        (inspection_id,),
    )
    return [Inspected(r["id"], r["at"], r["role"], _LOOKED.validate_json(r["body"])) for r in rows]


def undo_inspected(db: Connection, inspected_id: int, at: str) -> None:
    db.execute("UPDATE inspected SET undone_at = ? WHERE id = ?", (at, inspected_id))
