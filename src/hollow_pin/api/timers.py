"""What dries, cools or cures; how long a job was worked on; what a shop usually puts down."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path
from pydantic import Field

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import DetailValues, Line, Request, Text, WorkCode
from hollow_pin.bench import timers as bench
from hollow_pin.bench.work_templates import Templates, keep_template, templates_of
from hollow_pin.core.remedies import WaitKind
from hollow_pin.core.timers import LONGEST_MIN, Timer
from hollow_pin.store.timers import BenchTimer, WorkClock

router = api_routes("timers")
Id = Annotated[int, Path(ge=1, le=2**53)]


class NewTimer(Request):
    kind: WaitKind
    label: Annotated[str, Field(max_length=120, pattern=r"^[^\x00]*$")] = ""
    minutes: Annotated[float, Field(gt=0, le=LONGEST_MIN)]


class EndedTimer(Request):
    because: Text


class ClockBody(Request):
    do: bench.ClockDoes


class TemplateBody(Request):
    kind: WorkCode
    name: Line
    details: DetailValues = Field(default={}, max_length=40)


@router.get("/timers")
def get_timers(db: ReadOnly) -> list[BenchTimer]:
    """What the whole bench waits for, the first to end first, and what nobody has heard the end of."""
    return bench.running_timers(db)


@router.post("/jobs/{job_id}/timers", status_code=201)
def start_timer(job_id: Id, body: NewTimer, database: Data, role: Role) -> Timer:
    """Begin to wait for something that dries, cools or cures."""
    return bench.start_timer(database, job_id, body.kind, body.label, body.minutes, now(), role)


@router.post("/timers/{timer_id}/end")
def end_timer(timer_id: Id, body: EndedTimer, database: Data, role: Role) -> Timer:
    """End a timer before its time, for a reason."""
    return bench.end_timer(database, timer_id, body.because, now(), role)


@router.post("/timers/{timer_id}/heard")
def hear_timer(timer_id: Id, database: Data) -> bool:
    """Say that the end of a timer was told. true for the first window that does: it alone sounds."""
    return bench.hear_timer(database, timer_id, now())


@router.put("/jobs/{job_id}/clock")
def move_clock(job_id: Id, body: ClockBody, database: Data) -> WorkClock:
    """Let the clock of the work on a job run, pause it, or set it back."""
    return bench.move_clock(database, job_id, body.do, now())


@router.get("/work-templates")
def get_templates(db: ReadOnly) -> Templates:
    """What is usually put down, by remedy and by name."""
    return templates_of(db)


@router.put("/work-templates")
def put_template(body: TemplateBody, database: Data) -> Templates:
    """Keep what is usually put down of a remedy; without details the template of that name goes."""
    return keep_template(database, body.kind, body.name, body.details)
