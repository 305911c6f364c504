"""Decide: causes, options, what is worth it, the decision, and how the tool has done."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Query
from pydantic import Field

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Key, Line, Request, Text
from hollow_pin.bench import deciding as bench
from hollow_pin.bench.track_record import TrackRecord, track_record
from hollow_pin.core.limits import Grade
from hollow_pin.core.worth import Money
from hollow_pin.store.decisions import Decision

router = api_routes("deciding")
JobId = Annotated[int, Path(ge=1, le=2**53)]
Price = Annotated[float, Field(ge=0, le=1e6)]


class NewDecision(Request):
    """chosen: a remedy by its code. reason: needed where it is not the one advised."""

    take_id: Key
    chosen: Line
    reason: Text = ""


class MoneyBody(Request):
    """rate: an hour of the bench; controller: another one in its place; parts: by remedy."""

    rate: Price
    controller: Price
    parts: dict[str, Price] = Field(default={}, max_length=60)


@router.get("/jobs/{job_id}/decide")
def get_decide(
    job_id: JobId,
    db: ReadOnly,
    grade: Grade = "everyday",
    take_id: Annotated[int | None, Query(ge=1, le=2**53)] = None,
) -> bench.DecideView:
    """What is wrong with the job's stick, what would help, and what is worth it."""
    return bench.view_decide(db, job_id, grade, take_id)


@router.post("/jobs/{job_id}/decisions", status_code=201)
def post_decision(job_id: JobId, body: NewDecision, database: Data, role: Role) -> Decision:
    """Put a decision on record."""
    return bench.decide(database, job_id, body.take_id, body.chosen, body.reason, now(), role)


@router.get("/decisions")
def get_track_record(db: ReadOnly) -> TrackRecord:
    """What became of the shop's decisions, and how often the tool was right."""
    return track_record(db)


@router.get("/money")
def get_money(db: ReadOnly) -> Money:
    """What the shop counts with."""
    return bench.money_of(db)


@router.put("/money")
def put_money(body: MoneyBody, database: Data) -> Money:
    """Change what the shop counts with."""
    return bench.keep_money(database, Money(body.rate, body.controller, body.parts))
