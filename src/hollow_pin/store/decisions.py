"""Decisions as they stood, and what the shop counts with."""

from __future__ import annotations

import json
from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Any

from hollow_pin.store.order import next_in_order


@dataclass(frozen=True)
class Decision:
    """What was decided on. chosen, advised: remedies by their codes, the second what came first of
    those offered. stood: causes and options as they were shown. seq: its place among everything that
    happened."""

    id: int
    seq: int
    job_id: int
    take_id: int
    chosen: str
    advised: str
    reason: str
    stood: dict[str, Any]
    decided_at: str
    undone_at: str | None


def _decision(row: Row) -> Decision:
    return Decision(**(dict(row) | {"stood": json.loads(row["stood"])}))


def add_decision(
    db: Connection,
    job_id: int,
    take_id: int,
    chosen: str,
    advised: str,
    reason: str,
    stood: dict[str, Any],
    at: str,
) -> Decision:
    row = db.execute(
        "INSERT INTO decision (seq, job_id, take_id, chosen, advised, reason, stood, decided_at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING *",
        (next_in_order(db), job_id, take_id, chosen, advised, reason, json.dumps(stood), at),
    ).fetchone()
    return _decision(row)


def decisions_of(db: Connection, job_id: int) -> list[Decision]:
    """Those of a job that count, the newest first."""
    rows = db.execute(
        "SELECT * FROM decision WHERE job_id = ? AND undone_at IS NULL ORDER BY seq DESC", (job_id,)
    )
    return [_decision(r) for r in rows]


def latest_decisions(db: Connection, most: int) -> list[Decision]:
    """The shop's newest ones that count, the newest first."""
    rows = db.execute(
        "SELECT * FROM decision WHERE undone_at IS NULL ORDER BY decided_at DESC, seq DESC LIMIT ?",
        (most,),
    )
    return [_decision(r) for r in rows]


def setting(db: Connection, name: str) -> Any:
    """What the shop has set, or None."""
    row = db.execute("SELECT body FROM setting WHERE name = ?", (name,)).fetchone()
    return json.loads(row["body"]) if row else None


def keep_setting(db: Connection, name: str, body: Any) -> None:
    db.execute(
        "INSERT INTO setting (name, body) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET "
        "body = excluded.body",
        (name, json.dumps(body)),
    )
