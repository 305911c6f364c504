"""What dries, cools or cures; and how long somebody worked on a job."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row

from hollow_pin.core.remedies import WaitKind
from hollow_pin.core.timers import Timer, end_of


@dataclass(frozen=True)
class BenchTimer:
    """A timer with the tag of the controller it is about."""

    timer: Timer
    tag: str


@dataclass(frozen=True)
class WorkClock:
    """seconds: up to when it was last paused; running_since: None while it is."""

    seconds: float
    running_since: str | None


def _timer(row: Row) -> Timer:
    return Timer(**{k: row[k] for k in Timer.__dataclass_fields__})


def add_timer(
    db: Connection, job_id: int, kind: WaitKind, label: str, minutes: float, at: str
) -> Timer:
    row = db.execute(
        "INSERT INTO timer (job_id, kind, label, minutes, started_at, ends_at) "
        "VALUES (?, ?, ?, ?, ?, ?) RETURNING *",
        (job_id, kind, label, minutes, at, end_of(at, minutes)),
    ).fetchone()
    return _timer(row)


def find_timer(db: Connection, timer_id: int) -> Timer | None:
    row = db.execute("SELECT * FROM timer WHERE id = ?", (timer_id,)).fetchone()
    return _timer(row) if row else None


def timers_of(db: Connection, job_id: int) -> list[Timer]:
    """All of a job, the newest first."""
    rows = db.execute("SELECT * FROM timer WHERE job_id = ? ORDER BY id DESC", (job_id,))
    return [_timer(r) for r in rows]


def unheard_timers(db: Connection) -> list[BenchTimer]:
    """Those that run, or are over and nobody has heard it, the first to end first."""
    rows = db.execute(
        "SELECT timer.*, controller.tag FROM timer JOIN job ON job.id = timer.job_id "
        "JOIN controller ON controller.id = job.controller_id "
        "WHERE timer.stopped_at IS NULL AND timer.rung_at IS NULL ORDER BY timer.ends_at, timer.id"
    )
    return [BenchTimer(_timer(r), r["tag"]) for r in rows]


def stop_timer(db: Connection, timer_id: int, because: str, at: str) -> None:
    db.execute(
        "UPDATE timer SET stopped_at = ?, because = ? WHERE id = ? AND stopped_at IS NULL",
        (at, because, timer_id),
    )


def mark_rung(db: Connection, timer_id: int, at: str) -> bool:
    """Whether it had not been heard before."""
    updated = db.execute(
        "UPDATE timer SET rung_at = ? WHERE id = ? AND rung_at IS NULL", (at, timer_id)
    )
    return updated.rowcount == 1


def clock_of(db: Connection, job_id: int) -> WorkClock:
    row = db.execute("SELECT * FROM work_clock WHERE job_id = ?", (job_id,)).fetchone()
    return WorkClock(row["seconds"], row["running_since"]) if row else WorkClock(0.0, None)


def set_clock(db: Connection, job_id: int, clock: WorkClock) -> None:
    db.execute(
        "INSERT OR REPLACE INTO work_clock VALUES (?, ?, ?)",
        (job_id, clock.seconds, clock.running_since),
    )
