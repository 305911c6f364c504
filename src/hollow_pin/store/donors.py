"""Controllers beyond repair that are kept for their parts."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection


@dataclass(frozen=True)
class Donor:
    """since: when it was put there, ISO 8601."""

    controller_id: int
    since: str
    role: str
    note: str


def add_donor(db: Connection, controller_id: int, note: str, at: str, role: str) -> None:
    db.execute("INSERT INTO donor VALUES (?, ?, ?, ?)", (controller_id, at, role, note))


def drop_donor(db: Connection, controller_id: int) -> bool:
    """Whether it was one."""
    dropped = db.execute("DELETE FROM donor WHERE controller_id = ?", (controller_id,))
    return dropped.rowcount == 1


def is_donor(db: Connection, controller_id: int) -> bool:
    row = db.execute("SELECT 1 FROM donor WHERE controller_id = ?", (controller_id,)).fetchone()
    return row is not None


def donors(db: Connection, model_id: str | None = None) -> list[Donor]:
    """All of a model, or of every one, the newest first."""
    rows = db.execute(
        "SELECT donor.* FROM donor JOIN controller ON controller.id = donor.controller_id "
        "WHERE ?1 IS NULL OR controller.model_id = ?1 ORDER BY donor.since DESC, controller_id",
        (model_id,),
    )
    return [Donor(**dict(r)) for r in rows]


def lots_gone_in(db: Connection) -> set[str]:
    """What modules of donors that went into others are called."""
    rows = db.execute("SELECT lot FROM work WHERE kind = 'donor' AND undone_at IS NULL")
    return {r["lot"] for r in rows}
