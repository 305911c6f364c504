"""Timers for what dries, cools or cures, and the clock of the work on a job."""

from __future__ import annotations

from datetime import datetime
from sqlite3 import Connection
from typing import Literal

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import open_job
from hollow_pin.core.remedies import WaitKind
from hollow_pin.core.timers import KIND_LABEL, LONGEST_MIN, SHORTEST_MIN, Timer, minutes_left
from hollow_pin.store.database import Database
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.timers import (
    BenchTimer,
    WorkClock,
    add_timer,
    clock_of,
    find_timer,
    mark_rung,
    set_clock,
    stop_timer,
    unheard_timers,
)

ClockDoes = Literal["run", "pause", "reset"]


def start_timer(
    database: Database,
    job_id: int,
    kind: WaitKind,
    label: str,
    minutes: float,
    at: str,
    role: str = "",
) -> Timer:
    """Begin to wait for something that dries, cools or cures."""
    if not SHORTEST_MIN <= minutes <= LONGEST_MIN:
        raise Refused("A timer runs from a second to seven days.", "minutes")
    with database.writing() as db:
        open_job(db, job_id)
        return begin_timer(db, job_id, kind, label, minutes, at, role)


def begin_timer(
    db: Connection, job_id: int, kind: WaitKind, label: str, minutes: float, at: str, role: str
) -> Timer:
    """Begin a timer within a transaction."""
    timer = add_timer(db, job_id, kind, label.strip() or KIND_LABEL[kind], minutes, at)
    text = f"{timer.label}: {minutes:g} min."
    add_entry(db, job_id, at, "timer", text, role, timer_id=timer.id)
    return timer


def end_timer(database: Database, timer_id: int, because: str, at: str, role: str = "") -> Timer:
    """End a timer before its time, for a reason."""
    with database.writing() as db:
        timer = _timer(db, timer_id)
        if not timer.runs(at):
            raise Refused("It is over already.")
        if not because.strip():
            remaining = minutes_left(timer, at)
            raise Refused(
                f"{remaining:.0f} min are left. Say why it need not be waited for.", "because"
            )
        stop_timer(db, timer_id, because.strip(), at)
        text = f"{timer.label}: ended early. {because.strip()}"
        add_entry(db, timer.job_id, at, "timer", text, role, timer_id=timer_id)
        return _timer(db, timer_id)


def hear_timer(database: Database, timer_id: int, at: str) -> bool:
    """A window has told that a timer is over. Whether it was the first to: the others stay silent."""
    with database.writing() as db:
        if _timer(db, timer_id).runs(at):
            raise Refused("It runs still.")
        return mark_rung(db, timer_id, at)


def running_timers(db: Connection) -> list[BenchTimer]:
    """What the whole bench waits for, the first to end first, and what nobody has heard the end of."""
    return unheard_timers(db)


def _timer(db: Connection, timer_id: int) -> Timer:
    timer = find_timer(db, timer_id)
    if timer is None:
        raise NotFound("timer", timer_id)
    return timer


def move_clock(database: Database, job_id: int, does: ClockDoes, at: str) -> WorkClock:
    """Let the clock of a job's work run, pause it, or set it back."""
    with database.writing() as db:
        open_job(db, job_id)
        clock = _moved(clock_of(db, job_id), does, at)
        set_clock(db, job_id, clock)
        return clock


def _moved(clock: WorkClock, does: ClockDoes, at: str) -> WorkClock:
    if does == "reset":
        return WorkClock(0.0, None)
    if does == "run":
        return clock if clock.running_since else WorkClock(clock.seconds, at)
    if clock.running_since is None:
        return clock
    ran = datetime.fromisoformat(at) - datetime.fromisoformat(clock.running_since)
    return WorkClock(clock.seconds + max(0.0, ran.total_seconds()), None)
