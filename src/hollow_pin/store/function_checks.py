"""Function checks: what a source reported of buttons and triggers, kept as it came."""

from __future__ import annotations

import json
from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Any, Literal

from pydantic import TypeAdapter

from hollow_pin.core.function_check import FunctionCheck, Item

CheckKind = Literal["take-in", "final"]
_RESULT = TypeAdapter(FunctionCheck)
_ANSWERS = TypeAdapter(dict[str, Item])


@dataclass(frozen=True)
class FunctionCheckRecord:
    """One function check. triggers: the axes that may be a trigger's. ended_because: why, where it did
    not run through. result: None while it runs."""

    id: int
    job_id: int
    kind: CheckKind
    source_kind: str
    source_name: str
    buttons: int
    triggers: tuple[int, ...]
    answers: dict[str, Item]
    started_at: str
    ended_at: str | None
    ended_because: str | None
    result: FunctionCheck | None
    undone_at: str | None


def _record(row: Row) -> FunctionCheckRecord:
    columns: dict[str, Any] = {k: row[k] for k in row.keys() if k != "version"}  # noqa: SIM118
    return FunctionCheckRecord(
        **columns
        | {
            "triggers": tuple(json.loads(row["triggers"])),
            "answers": _ANSWERS.validate_json(row["answers"]),
            "result": _RESULT.validate_json(row["result"]) if row["result"] else None,
        }
    )


def begin_check(
    db: Connection,
    job_id: int,
    kind: CheckKind,
    source: tuple[str, str],
    buttons: int,
    triggers: tuple[int, ...],
    at: str,
) -> FunctionCheckRecord:
    row = db.execute(
        "INSERT INTO function_check (job_id, kind, source_kind, source_name, buttons, triggers, "
        "started_at) VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING *",
        (job_id, kind, *source, buttons, json.dumps(triggers), at),
    ).fetchone()
    return _record(row)


def find_check(db: Connection, check_id: int) -> FunctionCheckRecord | None:
    row = db.execute("SELECT * FROM function_check WHERE id = ?", (check_id,)).fetchone()
    return _record(row) if row else None


def function_checks_of(db: Connection, job_id: int) -> list[FunctionCheckRecord]:
    """Those of a job that count, oldest first."""
    rows = db.execute(
        "SELECT * FROM function_check WHERE job_id = ? AND undone_at IS NULL ORDER BY id", (job_id,)
    )
    return [_record(r) for r in rows]


def running_checks(db: Connection, job_id: int | None = None) -> list[FunctionCheckRecord]:
    rows = db.execute(
        "SELECT * FROM function_check WHERE ended_at IS NULL AND (:job IS NULL OR job_id = :job)",
        {"job": job_id},
    )
    return [_record(r) for r in rows]


def keep_events(db: Connection, check_id: int, events: list[Any]) -> None:
    db.execute(
        "INSERT INTO control_event (check_id, body) VALUES (?, ?)", (check_id, json.dumps(events))
    )


def events_of_check(db: Connection, check_id: int) -> list[Any]:
    """Every event so far: [ms, button or axis, index, value]."""
    rows = db.execute("SELECT body FROM control_event WHERE check_id = ? ORDER BY id", (check_id,))
    return [event for r in rows for event in json.loads(r["body"])]


def keep_answers(db: Connection, check_id: int, answers: dict[str, Item]) -> None:
    body = _ANSWERS.dump_json(answers).decode()
    db.execute("UPDATE function_check SET answers = ? WHERE id = ?", (body, check_id))


def end_check(
    db: Connection, check_id: int, version: int, result: FunctionCheck, because: str | None, at: str
) -> None:
    db.execute(
        "UPDATE function_check SET ended_because = ?, ended_at = ? WHERE id = ?",
        (because, at, check_id),
    )
    keep_check_result(db, check_id, version, result)


def keep_check_result(db: Connection, check_id: int, version: int, result: FunctionCheck) -> None:
    """version: of the definitions that it was read by."""
    db.execute(
        "UPDATE function_check SET version = ?, result = ? WHERE id = ?",
        (version, _RESULT.dump_json(result).decode(), check_id),
    )


def checks_to_read(db: Connection, version: int) -> list[int]:
    """Ended ones whose results are of another version of the definitions, newest first."""
    rows = db.execute(
        "SELECT id FROM function_check WHERE ended_at IS NOT NULL AND version <> ? ORDER BY id DESC",
        (version,),
    )
    return [int(r[0]) for r in rows]


def contacts_of(db: Connection, controller_id: int) -> dict[str, Any] | None:
    row = db.execute(
        "SELECT state FROM stand_in_contacts WHERE controller_id = ?", (controller_id,)
    ).fetchone()
    return dict(json.loads(row["state"])) if row else None


def keep_contacts(db: Connection, controller_id: int, state: dict[str, Any]) -> None:
    db.execute(
        "INSERT INTO stand_in_contacts (controller_id, state) VALUES (?, ?) ON CONFLICT "
        "(controller_id) DO UPDATE SET state = excluded.state",
        (controller_id, json.dumps(state)),
    )
