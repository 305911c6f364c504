"""Sheets by which models are opened, and shells that were opened by them."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row

from pydantic import TypeAdapter

from hollow_pin.core.teardown import Teardown, Tick, Way
from hollow_pin.store.order import next_in_order

_SHEET = TypeAdapter(Teardown)


@dataclass(frozen=True)
class KeptTeardown:
    """A model's sheet. revision: counts its versions; 0 where there is none yet."""

    model_id: str
    revision: int
    sheet: Teardown
    at: str
    role: str


@dataclass(frozen=True)
class Opening:
    """A shell that was opened. sheet: as it stood then, with what was added on the way. shut_at: None
    while it is open. checked: whether the open-shell check said to close it; because: why it was shut
    where something stood against it."""

    id: int
    seq: int
    job_id: int
    sheet: Teardown
    opened_at: str
    shut_at: str | None
    checked: bool
    because: str
    undone_at: str | None


def _opening(row: Row) -> Opening:
    return Opening(
        row["id"],
        row["seq"],
        row["job_id"],
        _SHEET.validate_json(row["sheet"]),
        row["opened_at"],
        row["shut_at"],
        bool(row["checked"]),
        row["because"],
        row["undone_at"],
    )


def sheet_of(db: Connection, model_id: str, revision: int | None = None) -> KeptTeardown | None:
    """A version of a model's sheet; the newest where none is named."""
    row = db.execute(
        "SELECT * FROM teardown WHERE model_id = ? AND revision = coalesce(?, revision) "
        "ORDER BY revision DESC LIMIT 1",
        (model_id, revision),
    ).fetchone()
    if row is None:
        return None
    sheet = _SHEET.validate_json(row["body"])
    return KeptTeardown(row["model_id"], row["revision"], sheet, row["at"], row["role"])


@dataclass(frozen=True)
class SheetVersion:
    """A version of a model's sheet that is kept. steps: how many it has."""

    revision: int
    at: str
    role: str
    steps: int


def sheet_versions(db: Connection, model_id: str) -> list[SheetVersion]:
    """Every version of a model's sheet, the newest first."""
    rows = db.execute(
        "SELECT revision, at, role, json_array_length(body, '$.steps') AS steps FROM teardown "
        "WHERE model_id = ? ORDER BY revision DESC",
        (model_id,),
    )
    return [SheetVersion(**dict(r)) for r in rows]


def add_sheet(
    db: Connection, model_id: str, revision: int, sheet: Teardown, at: str, role: str
) -> None:
    body = _SHEET.dump_json(sheet).decode()
    db.execute("INSERT INTO teardown VALUES (?, ?, ?, ?, ?)", (model_id, revision, body, at, role))


def add_opening(db: Connection, job_id: int, sheet: Teardown, at: str) -> Opening:
    row = db.execute(
        "INSERT INTO opening (seq, job_id, sheet, opened_at) VALUES (?, ?, ?, ?) RETURNING *",
        (next_in_order(db), job_id, _SHEET.dump_json(sheet).decode(), at),
    ).fetchone()
    return _opening(row)


def openings_of(db: Connection, job_id: int) -> list[Opening]:
    """Those of a job that count, in the order they were opened."""
    rows = db.execute(
        "SELECT * FROM opening WHERE job_id = ? AND undone_at IS NULL ORDER BY id", (job_id,)
    )
    return [_opening(r) for r in rows]


def find_opening(db: Connection, opening_id: int) -> Opening | None:
    row = db.execute("SELECT * FROM opening WHERE id = ?", (opening_id,)).fetchone()
    return _opening(row) if row else None


def undo_opening(db: Connection, opening_id: int, at: str) -> None:
    db.execute("UPDATE opening SET undone_at = ? WHERE id = ?", (at, opening_id))


def unshut_opening(db: Connection, opening_id: int) -> None:
    """It was not shut after all."""
    db.execute(
        "UPDATE opening SET shut_at = NULL, checked = 0, because = '' WHERE id = ?", (opening_id,)
    )


def change_opened_sheet(db: Connection, opening_id: int, sheet: Teardown) -> None:
    """What was learnt on the way."""
    db.execute(
        "UPDATE opening SET sheet = ? WHERE id = ?",
        (_SHEET.dump_json(sheet).decode(), opening_id),
    )


def shut_opening(db: Connection, opening_id: int, checked: bool, because: str, at: str) -> None:
    db.execute(
        "UPDATE opening SET shut_at = ?, checked = ?, because = ? WHERE id = ?",
        (at, checked, because, opening_id),
    )


def ticks_of(db: Connection, opening_id: int) -> tuple[Tick, ...]:
    """What was ticked off and counts, in the order it was."""
    rows = db.execute(
        "SELECT id, way, step, at, role, note FROM opening_tick "
        "WHERE opening_id = ? AND undone_at IS NULL ORDER BY id",
        (opening_id,),
    )
    return tuple(Tick(**dict(r)) for r in rows)


def add_tick(
    db: Connection, opening_id: int, way: Way, step: str, note: str, at: str, role: str
) -> None:
    db.execute(
        "INSERT INTO opening_tick (opening_id, way, step, at, role, note) VALUES (?, ?, ?, ?, ?, ?)",
        (opening_id, way, step, at, role, note),
    )


def undo_tick(db: Connection, tick_id: int, at: str) -> None:
    db.execute("UPDATE opening_tick SET undone_at = ? WHERE id = ?", (at, tick_id))


@dataclass(frozen=True)
class Reopened:
    """Of shells that were shut, with the open-shell check or without it, how many were opened again in
    the same job."""

    shut: int
    again: int


def reopened(db: Connection) -> tuple[Reopened, Reopened]:
    """With the check, and without it."""
    rows = db.execute(
        "SELECT checked, count(*) AS shut, sum(EXISTS (SELECT 1 FROM opening AS later WHERE "
        "later.job_id = opening.job_id AND later.id > opening.id AND later.undone_at IS NULL)) "
        "AS again FROM opening WHERE shut_at IS NOT NULL AND undone_at IS NULL GROUP BY checked"
    )
    by_check = {bool(r["checked"]): Reopened(r["shut"], r["again"]) for r in rows}
    none = Reopened(0, 0)
    return by_check.get(True, none), by_check.get(False, none)
