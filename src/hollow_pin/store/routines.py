"""The shop's own routines."""

from __future__ import annotations

from dataclasses import replace
from sqlite3 import Connection, Row

from pydantic import TypeAdapter

from hollow_pin.core.routine import Routine

_ROUTINE = TypeAdapter(Routine)
PREFIX = "own-"


def _routine(row: Row) -> Routine:
    return replace(_ROUTINE.validate_json(row["body"]), id=f"{PREFIX}{row['id']}")


def own_routines(db: Connection) -> list[Routine]:
    """In the order they were made."""
    return [_routine(r) for r in db.execute("SELECT id, body FROM routine ORDER BY id")]


def key_of(routine_id: str) -> int | None:
    """The row of one of the shop's own; None for anything else."""
    number = routine_id.removeprefix(PREFIX)
    own = routine_id.startswith(PREFIX) and number.isdecimal() and len(number) < 16
    return int(number) if own else None


def find_own_routine(db: Connection, key: int) -> Routine | None:
    row = db.execute("SELECT id, body FROM routine WHERE id = ?", (key,)).fetchone()
    return _routine(row) if row else None


def add_routine(db: Connection, routine: Routine) -> Routine:
    row = db.execute(
        "INSERT INTO routine (body) VALUES (?) RETURNING id, body",
        (_ROUTINE.dump_json(routine).decode(),),
    ).fetchone()
    return _routine(row)


def change_routine(db: Connection, key: int, routine: Routine) -> None:
    body = _ROUTINE.dump_json(routine).decode()
    db.execute("UPDATE routine SET body = ? WHERE id = ?", (body, key))


def remove_routine(db: Connection, key: int) -> None:
    """Takes keep what was asked of them: their own copy."""
    db.execute("DELETE FROM routine WHERE id = ?", (key,))
