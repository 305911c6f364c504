"""Takes: their blocks of raw samples, written as they come, and their cached readings."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import astuple, dataclass
from sqlite3 import Connection, Row
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter

from hollow_pin.core.gate import Gate
from hollow_pin.core.record import Conditions, HowEnded, Take, TakePlan
from hollow_pin.core.recording import AxisCalibration, AxisRange, Floats, Recording, Uncalibrated
from hollow_pin.core.routine import Routine
from hollow_pin.core.sources import SourceKind
from hollow_pin.store.order import next_in_order

_ROUTINE = TypeAdapter(Routine)
MERGED_SAMPLES = 50_000


def _take(row: Row) -> Take:
    return Take(
        id=row["id"],
        seq=row["seq"],
        job_id=row["job_id"],
        stick=row["stick"],
        stage=row["stage"],
        state=row["state"],
        ended_because=row["ended_because"],
        usable=bool(row["usable"]),
        source_kind=row["source_kind"],
        source_name=row["source_name"],
        ranges=tuple(_range(*r) for r in json.loads(row["ranges"])),
        gate=row["gate"],
        headers=json.loads(row["headers"]),
        routine=_ROUTINE.validate_json(row["routine"]),
        conditions=Conditions(row["calibration"], row["power"], row["shell"], row["role"]),
        together=row["together"],
        study_id=row["study_id"],
        started_at=row["started_at"],
        ended_at=row["ended_at"],
        undone_at=row["undone_at"],
    )


def _range_values(r: AxisRange) -> tuple[Any, ...]:
    """A range as it is kept: [lo, hi], and its calibration behind it where it has one."""
    if r.calibration is None:
        return r.lo, r.hi
    return r.lo, r.hi, astuple(r.known_calibration) if r.known_calibration else r.calibration


def _range(
    lo: float, hi: float, calibration: list[float] | Uncalibrated | None = None
) -> AxisRange:
    return AxisRange(
        lo, hi, AxisCalibration(*calibration) if isinstance(calibration, list) else calibration
    )


def begin_take(
    db: Connection, job_id: int, stage: str, gate: Gate, plan: TakePlan, at: str
) -> Take:
    """A take from a file is staged: it is seen once all of it is there."""
    had = plan.conditions
    row = db.execute(
        "INSERT INTO take (seq, job_id, stick, stage, state, source_kind, source_name, ranges, gate, "
        "headers, routine, calibration, power, shell, role, together, study_id, file_hash, "
        "started_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING *",
        (
            next_in_order(db),
            job_id,
            plan.stick,
            stage,
            "importing" if plan.source_kind == "file" else "recording",
            plan.source_kind,
            plan.source_name,
            json.dumps([_range_values(r) for r in plan.ranges]),
            gate,
            json.dumps(plan.headers),
            _ROUTINE.dump_json(plan.routine).decode(),
            had.calibration,
            had.power,
            had.shell,
            had.role,
            plan.together,
            plan.study_id,
            plan.file_hash,
            at,
        ),
    ).fetchone()
    return _take(row)


def _blobs(
    t_us: NDArray[np.int64], raw: Floats, step: NDArray[np.int8]
) -> tuple[bytes, bytes, bytes, int, int]:
    return (
        t_us.astype("<i8").tobytes(),
        np.ascontiguousarray(raw, dtype="<f8").tobytes(),
        step.astype("i1").tobytes(),
        int(t_us[0]),
        int(t_us[-1]),
    )


def write_block(
    db: Connection, take_id: int, t_us: NDArray[np.int64], raw: Floats, step: NDArray[np.int8]
) -> int:
    """Keep a block of samples: t_us (n,), raw (n, k), step (n,). Returns its id."""
    row = db.execute(
        "INSERT INTO block (take_id, t_us, raw, step, first_us, last_us) "
        "VALUES (?, ?, ?, ?, ?, ?) RETURNING id",
        (take_id, *_blobs(t_us, raw, step)),
    ).fetchone()
    return int(row[0])


def merge_next(db: Connection, take_id: int, from_id: int = 0) -> int:
    """Put the next small blocks, from one on, together into a larger one of the same samples in the
    same order. Returns the block to go on from, 0 where there are no more.

    One larger block a call, so that a transaction stays short however long the take.
    """
    sizes = db.execute(
        "SELECT id, length(step) FROM block WHERE take_id = ? AND id >= ? ORDER BY id",
        (take_id, from_id),
    ).fetchall()
    group: list[int] = []
    size_so_far = 0
    for block_id, size in sizes:
        if group and size_so_far + size > MERGED_SAMPLES:
            if len(group) > 1:
                _merge(db, take_id, group[0], group[-1])
                return int(block_id)
            group, size_so_far = [], 0
        group.append(block_id)
        size_so_far += size
    if len(group) > 1:
        _merge(db, take_id, group[0], group[-1])
    return 0


def _merge(db: Connection, take_id: int, first: int, last: int) -> None:
    among = (take_id, first, last)
    rows = db.execute(
        "SELECT t_us, raw, step FROM block WHERE take_id = ? AND id BETWEEN ? AND ? ORDER BY id",
        among,
    ).fetchall()
    t_us, raw, step = (b"".join(r[i] for r in rows) for i in range(3))
    times = np.frombuffer(t_us, "<i8")
    db.execute("DELETE FROM block WHERE take_id = ? AND id BETWEEN ? AND ?", among)
    db.execute(
        "INSERT INTO block (id, take_id, t_us, raw, step, first_us, last_us) "
        "VALUES (?, ?, ?, ?, ?, ?, ?)",
        (first, take_id, t_us, raw, step, int(times[0]), int(times[-1])),
    )


def say_ending(db: Connection, take_id: int, how: HowEnded, because: str | None, at: str) -> None:
    """Keep how a take ended before it is measured, so that nobody has to guess afterwards."""
    db.execute(
        "UPDATE take SET ending = ?, ended_because = ?, ended_at = ? WHERE id = ?",
        (how, because, at, take_id),
    )


def end_take(db: Connection, take_id: int, usable: bool) -> None:
    """A take whose ending was said is over: from now on it counts."""
    db.execute(
        "UPDATE take SET state = ending, ending = NULL, usable = ? WHERE id = ?", (usable, take_id)
    )


def add_headers(db: Connection, take: Take, more: dict[str, str]) -> None:
    body = json.dumps(take.headers | more)
    db.execute("UPDATE take SET headers = ? WHERE id = ?", (body, take.id))


def resume_take(db: Connection, take_id: int, routine: Routine) -> None:
    """Open a take again to record a step anew, or one more. Its readings are computed afresh
    afterwards."""
    db.execute(
        "UPDATE take SET state = 'recording', ending = NULL, ended_because = NULL, ended_at = NULL, "
        "routine = ? WHERE id = ?",
        (_ROUTINE.dump_json(routine).decode(), take_id),
    )
    db.execute("DELETE FROM reading WHERE take_id = ?", (take_id,))


def said_ending(db: Connection, take_id: int) -> tuple[HowEnded, str | None, str] | None:
    """How a take ended, why and when, where that was said and it is not measured yet."""
    row = db.execute(
        "SELECT ending, ended_because, ended_at FROM take WHERE id = ? AND ending IS NOT NULL",
        (take_id,),
    ).fetchone()
    return (row[0], row[1], row[2]) if row else None


def unfinished_takes(db: Connection) -> list[Take]:
    """Takes that are marked as running or coming in: at the start of the program, those it did not
    end."""
    rows = db.execute("SELECT * FROM take WHERE state IN ('recording', 'importing') ORDER BY id")
    return [_take(r) for r in rows]


def running_take_of(db: Connection, job_id: int) -> Take | None:
    """A take of a job that is being recorded or brought in."""
    row = db.execute(
        "SELECT * FROM take WHERE state IN ('recording', 'importing') AND job_id = ?", (job_id,)
    ).fetchone()
    return _take(row) if row else None


def takes_from_file(db: Connection, file_hash: str, controller_id: int, stick: str) -> list[Take]:
    """Takes of a stick that came from the same file, those that are coming in included."""
    rows = db.execute(
        "SELECT take.* FROM take JOIN job ON job.id = take.job_id WHERE file_hash = ? "
        "AND file_hash <> '' AND job.controller_id = ? AND take.stick = ? "
        "AND take.undone_at IS NULL ORDER BY take.id",
        (file_hash, controller_id, stick),
    )
    return [_take(r) for r in rows]


def drop_blocks(db: Connection, take_id: int, most: int) -> int:
    """Throw away up to so many blocks of a take that was never seen. Returns how many."""
    return db.execute(
        "DELETE FROM block WHERE id IN (SELECT id FROM block WHERE take_id = ? LIMIT ?)",
        (take_id, most),
    ).rowcount


def drop_take(db: Connection, take_id: int) -> None:
    """Throw away a take that was never seen; its blocks are gone already."""
    db.execute("DELETE FROM reading WHERE take_id = ?", (take_id,))
    db.execute("DELETE FROM take WHERE id = ?", (take_id,))


def find_take(db: Connection, take_id: int) -> Take | None:
    row = db.execute("SELECT * FROM take WHERE id = ?", (take_id,)).fetchone()
    return _take(row) if row else None


def takes_of(db: Connection, job_id: int) -> list[Take]:
    rows = db.execute(
        "SELECT * FROM take WHERE job_id = ? AND state <> 'importing' ORDER BY id", (job_id,)
    )
    return [_take(r) for r in rows]


def takes_of_stick(db: Connection, controller_id: int, stick: str) -> list[Take]:
    """Every take of one stick that counts, over all its visits, oldest first."""
    rows = db.execute(
        "SELECT take.* FROM take JOIN job ON job.id = take.job_id "
        "WHERE job.controller_id = ? AND take.stick = ? AND take.undone_at IS NULL "
        "AND take.state <> 'importing' ORDER BY take.seq",
        (controller_id, stick),
    )
    return [_take(r) for r in rows]


def latest_takes(db: Connection, controllers: set[int]) -> dict[tuple[int, str], Take]:
    """The newest ended take that counts of each stick of some controllers, by controller and stick."""
    rows = db.execute(
        "WITH newest AS (SELECT take.id, job.controller_id, max(take.seq) "
        "FROM json_each(?) AS wanted JOIN job ON job.controller_id = wanted.value "
        "JOIN take ON take.job_id = job.id "
        "WHERE take.state IN ('complete', 'interrupted') AND take.undone_at IS NULL "
        "GROUP BY job.controller_id, take.stick) "
        "SELECT take.*, newest.controller_id FROM newest JOIN take ON take.id = newest.id",
        (json.dumps(sorted(controllers)),),
    )
    return {(r["controller_id"], r["stick"]): _take(r) for r in rows}


def takes_after(
    db: Connection, model_id: str, kinds: Sequence[str], passed: Sequence[str], most: int
) -> list[tuple[str, str, int]]:
    """Work of some kinds on sticks of a model, the newest first: its kind, its lot, and the last
    usable take before anything else was done to the stick than work that is `passed` over."""
    rows = db.execute(
        "SELECT work.kind, work.lot, (SELECT take.id FROM take WHERE take.job_id = work.job_id "
        "AND take.stick = work.stick AND take.usable AND take.undone_at IS NULL "
        "AND take.seq > work.seq AND NOT EXISTS (SELECT 1 FROM work AS later "
        "WHERE later.job_id = work.job_id AND later.stick = work.stick AND later.undone_at IS NULL "
        "AND later.seq > work.seq AND later.seq < take.seq "
        "AND later.kind NOT IN (SELECT value FROM json_each(:passed))) "
        "ORDER BY take.seq DESC LIMIT 1) AS take_id "
        "FROM work JOIN job ON job.id = work.job_id "
        "JOIN controller ON controller.id = job.controller_id "
        "WHERE controller.model_id = :model AND work.undone_at IS NULL "
        "AND work.kind IN (SELECT value FROM json_each(:kinds)) ORDER BY work.seq DESC LIMIT :most",
        {
            "model": model_id,
            "kinds": json.dumps(list(kinds)),
            "passed": json.dumps(list(passed)),
            "most": most,
        },
    )
    return [tuple(r) for r in rows if r["take_id"] is not None]


def latest_by_source(db: Connection, controller_id: int, source_kind: SourceKind) -> list[Take]:
    """The last take of each of a controller's sticks by a kind of source, of any job."""
    rows = db.execute(
        "SELECT * FROM take WHERE id IN (SELECT MAX(take.id) FROM take JOIN job "
        "ON job.id = take.job_id WHERE job.controller_id = ? AND source_kind = ? "
        "AND take.undone_at IS NULL GROUP BY take.stick) ORDER BY stick",
        (controller_id, source_kind),
    )
    return [_take(row) for row in rows]


def restage(db: Connection, take_id: int, stage: str) -> None:
    """Say anew which stage of the job a take belongs to."""
    db.execute("UPDATE take SET stage = ? WHERE id = ?", (stage, take_id))


def last_time_us(db: Connection, take_id: int) -> int | None:
    """When the last sample so far was taken."""
    row = db.execute(
        "SELECT t_us FROM block WHERE take_id = ? ORDER BY id DESC LIMIT 1", (take_id,)
    ).fetchone()
    return int(np.frombuffer(row["t_us"], "<i8")[-1]) if row else None


def load_recording(
    db: Connection, take: Take, from_us: int | None = None, to_us: int | None = None
) -> Recording | None:
    """The samples of a take, or None where it has none. from_us, to_us: only the blocks that reach
    into that time."""
    rows = db.execute(
        "SELECT t_us, raw, step FROM block WHERE take_id = :take "
        "AND (:to IS NULL OR first_us IS NULL OR first_us <= :to) "
        "AND (:from IS NULL OR last_us IS NULL OR last_us >= :from) ORDER BY id",
        {"take": take.id, "from": from_us, "to": to_us},
    ).fetchall()
    if not rows:
        return None
    t_us, raw, step = (b"".join(r[i] for r in rows) for i in range(3))
    return Recording(
        t_us=np.frombuffer(t_us, "<i8"),
        raw=np.frombuffer(raw, "<f8").reshape(-1, len(take.ranges)),
        ranges=take.ranges,
        step=np.frombuffer(step, "i1"),
        headers=take.headers,
    )


def first_time_us(db: Connection, take_id: int) -> int | None:
    """When the first sample was taken."""
    row = db.execute(
        "SELECT t_us FROM block WHERE take_id = ? ORDER BY id LIMIT 1", (take_id,)
    ).fetchone()
    return int(np.frombuffer(row["t_us"][:8], "<i8")[0]) if row else None


@dataclass(frozen=True)
class StoredReadings:
    """What measuring a take gave: its readings as JSON, or why there are none."""

    body: str | None
    failed: str | None


def kept_readings(db: Connection, take_id: int, version: int) -> StoredReadings | None:
    """What this version of the definitions made of a take; None where it has not measured it."""
    row = db.execute(
        "SELECT body, failed FROM reading WHERE take_id = ? AND version = ?", (take_id, version)
    ).fetchone()
    return StoredReadings(row["body"], row["failed"]) if row else None


def keep_readings(db: Connection, take_id: int, version: int, derived: StoredReadings) -> None:
    db.execute(
        "INSERT INTO reading (take_id, version, body, failed) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (take_id) DO UPDATE SET version = excluded.version, body = excluded.body, "
        "failed = excluded.failed",
        (take_id, version, derived.body, derived.failed),
    )


def keep_usable(db: Connection, take_id: int, usable: bool) -> None:
    db.execute("UPDATE take SET usable = ? WHERE id = ?", (usable, take_id))


def takes_to_measure(db: Connection, version: int) -> list[int]:
    """Ended takes with samples that this version of the definitions has not measured, newest first."""
    rows = db.execute(
        "SELECT take.id FROM take LEFT JOIN reading ON reading.take_id = take.id "
        "WHERE take.state IN ('complete', 'interrupted') "
        "AND (reading.version IS NULL OR reading.version <> ?) "
        "AND EXISTS (SELECT 1 FROM block WHERE block.take_id = take.id) ORDER BY take.id DESC",
        (version,),
    )
    return [int(r[0]) for r in rows]
