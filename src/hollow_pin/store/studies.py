"""Bench checks and gauge studies: which takes belong to them, and what they showed."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from sqlite3 import Connection, Row

from pydantic import TypeAdapter

from hollow_pin.core.gauge import Gauge
from hollow_pin.core.record import Take
from hollow_pin.core.routine import Routine
from hollow_pin.core.sources import SourceKind
from hollow_pin.store.order import next_in_order
from hollow_pin.store.takes import find_take

_ROUTINE = TypeAdapter(Routine)
_RESULT = TypeAdapter(dict[str, Gauge])


@dataclass(frozen=True)
class StudyStick:
    """A stick under study, by the job its controller is on the bench in."""

    job_id: int
    stick: str


@dataclass(frozen=True)
class StudyPlan:
    """What a study is to measure: every stick by every role, so many times each."""

    source_kind: SourceKind
    source_name: str
    roles: tuple[str, ...]
    sticks: tuple[StudyStick, ...]
    trials: int
    routine: Routine


@dataclass(frozen=True)
class Study:
    """Sticks measured again and again with nothing done in between, by one role or several. seq: its
    place among everything that happened."""

    id: int
    seq: int
    model_id: str
    source_kind: SourceKind
    source_name: str
    roles: tuple[str, ...]
    sticks: tuple[StudyStick, ...]
    trials: int
    routine: Routine
    opened_at: str
    completed_at: str | None


def _study(row: Row) -> Study:
    return Study(
        id=row["id"],
        seq=row["seq"],
        model_id=row["model_id"],
        source_kind=row["source_kind"],
        source_name=row["source_name"],
        roles=tuple(json.loads(row["roles"])),
        sticks=tuple(StudyStick(**s) for s in json.loads(row["sticks"])),
        trials=row["trials"],
        routine=_ROUTINE.validate_json(row["routine"]),
        opened_at=row["opened_at"],
        completed_at=row["completed_at"],
    )


def add_study(db: Connection, model_id: str, plan: StudyPlan, at: str) -> Study:
    row = db.execute(
        "INSERT INTO study (seq, model_id, source_kind, source_name, roles, sticks, trials, routine, "
        "opened_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING *",
        (
            next_in_order(db),
            model_id,
            plan.source_kind,
            plan.source_name,
            json.dumps(plan.roles),
            json.dumps([asdict(s) for s in plan.sticks]),
            plan.trials,
            _ROUTINE.dump_json(plan.routine).decode(),
            at,
        ),
    ).fetchone()
    return _study(row)


def find_study(db: Connection, study_id: int) -> Study | None:
    row = db.execute("SELECT * FROM study WHERE id = ?", (study_id,)).fetchone()
    return _study(row) if row else None


def all_studies(db: Connection) -> list[Study]:
    """Newest first."""
    return [_study(r) for r in db.execute("SELECT * FROM study ORDER BY id DESC")]


def takes_of_study(db: Connection, study_id: int) -> list[Take]:
    """Its usable takes that ran through, oldest first."""
    rows = db.execute(
        "SELECT id FROM take WHERE study_id = ? AND usable = 1 AND state = 'complete' "
        "AND undone_at IS NULL ORDER BY id",
        (study_id,),
    ).fetchall()
    return [take for r in rows if (take := find_take(db, r["id"])) is not None]


def work_since(db: Connection, study: Study) -> str | None:
    """When something was done to one of a study's sticks after it was opened, or None."""
    for s in study.sticks:
        row = db.execute(
            "SELECT min(done_at) FROM work WHERE job_id = ? AND stick = ? AND seq > ? "
            "AND undone_at IS NULL",
            (s.job_id, s.stick, study.seq),
        ).fetchone()
        if row[0] is not None:
            return str(row[0])
    return None


def complete_study(
    db: Connection, study_id: int, version: int, result: dict[str, Gauge], at: str
) -> None:
    db.execute(
        "UPDATE study SET completed_seq = ?, completed_at = ? WHERE id = ?",
        (next_in_order(db), at, study_id),
    )
    keep_result(db, study_id, version, result)


def keep_result(db: Connection, study_id: int, version: int, result: dict[str, Gauge]) -> None:
    """version: of the definitions that it was worked out by."""
    db.execute(
        "UPDATE study SET version = ?, result = ? WHERE id = ?",
        (version, _RESULT.dump_json(result).decode(), study_id),
    )


def studies_to_work_out(db: Connection, version: int) -> list[int]:
    """Complete ones whose results are of another version of the definitions, newest first."""
    rows = db.execute(
        "SELECT id FROM study WHERE completed_at IS NOT NULL AND version <> ? ORDER BY id DESC",
        (version,),
    )
    return [int(r[0]) for r in rows]


def remove_study(db: Connection, study_id: int) -> None:
    """The takes stay in their jobs."""
    db.execute("UPDATE take SET study_id = NULL WHERE study_id = ?", (study_id,))
    db.execute("DELETE FROM study WHERE id = ?", (study_id,))


def result_of(db: Connection, study_id: int) -> dict[str, Gauge] | None:
    """What a complete study showed, by reading."""
    row = db.execute("SELECT result FROM study WHERE id = ?", (study_id,)).fetchone()
    return _RESULT.validate_json(row["result"]) if row and row["result"] else None


def latest_check(db: Connection, model_id: str, source_kind: str, source_name: str) -> Study | None:
    """The newest complete study of a model by a source."""
    row = db.execute(
        "SELECT * FROM study WHERE model_id = ? AND source_kind = ? AND source_name = ? "
        "AND completed_at IS NOT NULL ORDER BY completed_seq DESC LIMIT 1",
        (model_id, source_kind, source_name),
    ).fetchone()
    return _study(row) if row else None
