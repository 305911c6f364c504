"""The ledger of a job: what happened, how it read before it was corrected, what was undone.

Nothing is ever taken out of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Literal

LedgerKind = Literal[
    "take-in",
    "check",
    "take",
    "decision",
    "work",
    "caution",
    "note",
    "owner",
    "part",
    "waiting",
    "photo",
    "close",
    "timer",
    "opening",
    "play",
]


@dataclass(frozen=True)
class Wording:
    """How an entry read until it was corrected, and by which bench role that was done."""

    text: str
    until: str
    role: str


@dataclass(frozen=True)
class LedgerEntry:
    """role: the bench role that put it there. before: earlier wordings, the newest first."""

    id: int
    job_id: int
    at: str
    role: str
    kind: LedgerKind
    text: str
    revision: int
    undone_at: str | None
    take_id: int | None
    work_id: int | None
    photo_id: int | None
    check_id: int | None
    decision_id: int | None
    timer_id: int | None
    opening_id: int | None
    before: tuple[Wording, ...] = ()


def _entry(row: Row, before: tuple[Wording, ...] = ()) -> LedgerEntry:
    return LedgerEntry(**dict(row), before=before)


def add_entry(
    db: Connection,
    job_id: int,
    at: str,
    kind: LedgerKind,
    text: str,
    role: str = "",
    *,
    take_id: int | None = None,
    work_id: int | None = None,
    photo_id: int | None = None,
    check_id: int | None = None,
    decision_id: int | None = None,
    timer_id: int | None = None,
    opening_id: int | None = None,
) -> int:
    about = (take_id, work_id, photo_id, check_id, decision_id, timer_id, opening_id)
    row = db.execute(
        "INSERT INTO ledger (job_id, at, role, kind, text, take_id, work_id, photo_id, "
        "check_id, decision_id, timer_id, opening_id) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id",
        (job_id, at, role, kind, text, *about),
    ).fetchone()
    index_words(db, job_id)
    return int(row["id"])


def find_entry(db: Connection, entry_id: int) -> LedgerEntry | None:
    row = db.execute("SELECT * FROM ledger WHERE id = ?", (entry_id,)).fetchone()
    return _entry(row, _wordings(db, "entry_id = ?", entry_id).get(entry_id, ())) if row else None


def ledger_of(db: Connection, job_id: int) -> list[LedgerEntry]:
    """What happened on a job, newest first."""
    before = _wordings(db, "entry_id IN (SELECT id FROM ledger WHERE job_id = ?)", job_id)
    rows = db.execute("SELECT * FROM ledger WHERE job_id = ? ORDER BY id DESC", (job_id,))
    return [_entry(r, before.get(r["id"], ())) for r in rows]


def _wordings(db: Connection, which: str, key: int) -> dict[int, tuple[Wording, ...]]:
    rows = db.execute(
        f"SELECT entry_id, text, until, role FROM wording WHERE {which} ORDER BY revision DESC",
        (key,),
    )
    wordings: dict[int, tuple[Wording, ...]] = {}
    for entry_id, *words in rows:
        wordings[entry_id] = (*wordings.get(entry_id, ()), Wording(*words))
    return wordings


def correct_entry(db: Connection, entry: LedgerEntry, text: str, at: str, role: str) -> None:
    """Change how an entry reads. The old wording stays beside it."""
    db.execute(
        "INSERT INTO wording (entry_id, revision, text, until, role) VALUES (?, ?, ?, ?, ?)",
        (entry.id, entry.revision, entry.text, at, role),
    )
    db.execute("UPDATE ledger SET text = ?, revision = revision + 1 WHERE id = ?", (text, entry.id))
    index_words(db, entry.job_id)


def mark_undone(db: Connection, entry: LedgerEntry, at: str | None) -> None:
    """Strike an entry out, and whatever it records; or, with None, put it back."""
    for table, key in (
        ("take", entry.take_id),
        ("work", entry.work_id),
        ("photo", entry.photo_id),
        ("function_check", entry.check_id),
        ("decision", entry.decision_id),
    ):
        if key is not None:
            db.execute(f"UPDATE {table} SET undone_at = ? WHERE id = ?", (at, key))
    db.execute(
        "UPDATE ledger SET undone_at = :at, revision = revision + 1 WHERE id = :id "
        "OR (job_id = :job AND work_id = :work)",
        {"at": at, "id": entry.id, "job": entry.job_id, "work": entry.work_id},
    )


def strike_out_opening(db: Connection, opening_id: int, at: str) -> None:
    """Strike out every entry about a shell that was not opened after all."""
    db.execute(
        "UPDATE ledger SET undone_at = ?, revision = revision + 1 WHERE opening_id = ? "
        "AND undone_at IS NULL",
        (at, opening_id),
    )


def index_words(db: Connection, job_id: int) -> None:
    """Bring what a job can be found by in line with what it says."""
    db.execute("DELETE FROM job_text WHERE rowid = ?", (job_id,))
    db.execute(
        "INSERT INTO job_text (rowid, tag, model, complaint, words) "
        "SELECT job.id, controller.tag, model.name, job.complaint, coalesce(("
        "SELECT group_concat(text, char(10)) FROM ledger WHERE job_id = job.id), '') || "
        "coalesce((SELECT group_concat(value, char(10)) FROM json_each(job.intake) "
        "WHERE type = 'text'), '') "
        "FROM job JOIN controller ON controller.id = job.controller_id "
        "JOIN model ON model.id = controller.model_id WHERE job.id = ?",
        (job_id,),
    )
