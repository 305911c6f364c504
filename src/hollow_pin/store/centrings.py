"""What was read while a stick was centred by hand."""

from __future__ import annotations

import json
from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Any

from pydantic import TypeAdapter

from hollow_pin.core.centring_result import Centred

_CENTRED = TypeAdapter(Centred)


@dataclass(frozen=True)
class KeptCentring:
    """take_id: of the take by whose source it was watched. work_id: what it was put on record with."""

    id: int
    job_id: int
    take_id: int
    kind: str
    at: str
    found: Centred
    work_id: int | None


def _centring(row: Row) -> KeptCentring:
    return KeptCentring(
        row["id"],
        row["job_id"],
        row["take_id"],
        row["kind"],
        row["at"],
        _CENTRED.validate_json(row["body"]),
        row["work_id"],
    )


def add_centring(
    db: Connection,
    job_id: int,
    take_id: int,
    kind: str,
    centred: Centred,
    trims: Any,
    at: str,
) -> int:
    """trims: how those of a stand-in were left; None for a real one."""
    row = db.execute(
        "INSERT INTO centring (job_id, take_id, kind, at, body, trims) VALUES (?, ?, ?, ?, ?, ?) "
        "RETURNING id",
        (
            job_id,
            take_id,
            kind,
            at,
            _CENTRED.dump_json(centred).decode(),
            json.dumps(trims) if trims is not None else None,
        ),
    ).fetchone()
    return int(row["id"])


def find_centring(db: Connection, centring_id: int) -> KeptCentring | None:
    row = db.execute("SELECT * FROM centring WHERE id = ?", (centring_id,)).fetchone()
    return _centring(row) if row else None


def centrings_of(db: Connection, job_id: int) -> list[KeptCentring]:
    """Those of a job, the newest first."""
    rows = db.execute("SELECT * FROM centring WHERE job_id = ? ORDER BY id DESC", (job_id,))
    return [_centring(r) for r in rows]


def trims_of(db: Connection, centring_id: int) -> Any:
    """How the trims of a stand-in were left, or None."""
    row = db.execute("SELECT trims FROM centring WHERE id = ?", (centring_id,)).fetchone()
    return json.loads(row["trims"]) if row and row["trims"] else None


def bind_centring(db: Connection, centring_id: int, work_id: int) -> None:
    """Say what it was put on record with."""
    db.execute("UPDATE centring SET work_id = ? WHERE id = ?", (work_id, centring_id))
