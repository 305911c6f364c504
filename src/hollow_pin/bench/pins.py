"""The pins of sticks: each in brief, from its newest take."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection
from typing import Literal

from hollow_pin.bench.readings import Checks, readings_of
from hollow_pin.core.job import Station
from hollow_pin.core.limits import LIMIT_OF, Verdict, limits_with, verdict_on
from hollow_pin.core.take import TakeReadings
from hollow_pin.core.take_in import Waiting
from hollow_pin.store.controllers import Controller
from hollow_pin.store.jobs import Job, last_work
from hollow_pin.store.takes import Take, latest_takes

DEAD_ZONE = "composite.dead_zone_needed"
FIRST_WORDS = 300
PinState = Literal["none", "measured", "stale", "unusable"]


@dataclass(frozen=True)
class Pin:
    """A stick in brief: where it rests and the dead zone it needs, in %, against the limit. tells:
    which reading the disc shows."""

    stick: str
    state: PinState
    x: float | None = None
    y: float | None = None
    dead_zone: float | None = None
    limit: float = LIMIT_OF[DEAD_ZONE].everyday
    verdict: Verdict = "unknown"
    tells: str = DEAD_ZONE


@dataclass(frozen=True)
class Strip:
    """A job in brief, as the tray and a list of jobs show it. complaint: its first words."""

    job_id: int
    controller_id: int
    tag: str
    model_id: str
    model: str
    refer: bool
    stick: str
    complaint: str
    station: Station
    waiting: Waiting
    opened_at: str
    pins: tuple[Pin, ...]


def strips_of(db: Connection, jobs: list[Job]) -> list[Strip]:
    """Jobs with their pins."""
    latest = latest_takes(db, {j.controller.id for j in jobs})
    worked = last_work(db, {j.id for j in jobs})
    trust = Checks(db)
    return [
        Strip(
            job.id,
            job.controller.id,
            job.controller.tag,
            job.controller.model.id,
            job.controller.model.name,
            job.controller.refer,
            job.stick,
            job.complaint[:FIRST_WORDS],
            job.station,
            job.waiting,
            job.opened_at,
            _pins(db, job.controller, job.id, latest, worked, trust),
        )
        for job in jobs
    ]


def pins_of(db: Connection, controller: Controller, job_id: int | None = None) -> tuple[Pin, ...]:
    """One pin for each stick of a controller. job_id: its present visit, whose work makes them
    stale."""
    worked = last_work(db, {job_id} if job_id is not None else set())
    latest = latest_takes(db, {controller.id})
    return _pins(db, controller, job_id, latest, worked, Checks(db))


def _pins(
    db: Connection,
    controller: Controller,
    job_id: int | None,
    latest: dict[tuple[int, str], Take],
    worked: dict[tuple[int, str], int],
    checks: Checks,
) -> tuple[Pin, ...]:
    model = controller.model
    limit = limits_with(model.limits)[DEAD_ZONE].everyday
    found = []
    for own in model.sticks:
        take = latest.get((controller.id, own.name))
        since = worked.get((job_id, own.name), 0) if job_id is not None else 0
        readings = readings_of(db, take) if take else None
        if take is None or readings is None:
            found.append(Pin(own.name, "none", limit=limit))
            continue
        state: PinState = "stale" if since > take.seq else "measured"
        found.append(_pin(checks.trusted(readings, take, model.id), own.name, state, limit))
    return tuple(found)


def _pin(readings: TakeReadings, stick: str, state: PinState, limit: float) -> Pin:
    if readings.turn is not None:
        return _turn_pin(readings, stick, state)
    needed = readings.composite.dead_zone_needed
    if readings.still is None or needed is None:
        return Pin(stick, "unusable", limit=limit)
    return Pin(
        stick=stick,
        state=state,
        x=readings.still.rest_x,
        y=readings.still.rest_y or 0.0,
        dead_zone=needed,
        limit=limit,
        verdict=verdict_on(readings, DEAD_ZONE, limit),
    )


def _turn_pin(readings: TakeReadings, stick: str, state: PinState) -> Pin:
    """A paddle has no centre: its disc is how far it trembles at rest, its ring how far it may."""
    jitter = readings.value("turn.jitter")
    limit = LIMIT_OF["turn.jitter"].everyday
    if jitter is None:
        return Pin(stick, "unusable", limit=limit, tells="turn.jitter")
    verdict = verdict_on(readings, "turn.jitter", limit)
    return Pin(stick, state, 0.0, 0.0, jitter, limit, verdict, "turn.jitter")
