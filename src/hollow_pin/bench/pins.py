"""The pins of sticks: each in brief, from its newest take."""

from __future__ import annotations

from dataclasses import dataclass, replace
from sqlite3 import Connection
from typing import Literal

from hollow_pin.bench.readings import BenchCheckLookup, readings_of
from hollow_pin.bench.whats_next import next_for
from hollow_pin.core.controller import Controller
from hollow_pin.core.intake import Waiting
from hollow_pin.core.job import Station
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits, Verdict, limits_with, verdict_on
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Job, Take
from hollow_pin.store.jobs import last_work
from hollow_pin.store.takes import latest_takes

DEAD_ZONE = "composite.dead_zone_needed"
TURN_JITTER = "turn.jitter"
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
    """A job in brief, as the tray and a list of jobs show it. complaint: its first words. next: what
    is next for it; place: the page where that is done."""

    job_id: int
    controller_id: int
    tag: str
    model_id: str
    model: str
    refer: bool
    stick: str
    complaint: str
    station: Station
    next: str
    place: str
    waiting: Waiting
    opened_at: str
    pins: tuple[Pin, ...]


def strips_of(db: Connection, jobs: list[Job]) -> list[Strip]:
    """Jobs with their pins."""
    latest = latest_takes(db, {j.controller.id for j in jobs})
    worked = last_work(db, {j.id for j in jobs})
    checks = BenchCheckLookup(db)
    strips = []
    for job in jobs:
        coming = next_for(db, job, checks)
        strips.append(
            Strip(
                job_id=job.id,
                controller_id=job.controller.id,
                tag=job.controller.tag,
                model_id=job.controller.model.id,
                model=job.controller.model.name,
                refer=job.controller.refer,
                stick=job.stick,
                complaint=job.complaint[:FIRST_WORDS],
                station=job.station,
                next=coming.label,
                place=coming.place,
                waiting=job.waiting,
                opened_at=job.opened_at,
                pins=_pins(db, job.controller, job.id, latest, worked, checks),
            )
        )
    return strips


def pins_of(db: Connection, controller: Controller, job_id: int | None = None) -> tuple[Pin, ...]:
    """One pin for each stick of a controller. job_id: its present visit, whose work makes them
    stale."""
    worked = last_work(db, {job_id} if job_id is not None else set())
    latest = latest_takes(db, {controller.id})
    return _pins(db, controller, job_id, latest, worked, BenchCheckLookup(db))


def _pins(
    db: Connection,
    controller: Controller,
    job_id: int | None,
    latest: dict[tuple[int, str], Take],
    worked: dict[tuple[int, str], int],
    checks: BenchCheckLookup,
) -> tuple[Pin, ...]:
    model = controller.model
    limits = limits_with(model.limits)
    pins = []
    for own in model.sticks:
        take = latest.get((controller.id, own.name))
        since = worked.get((job_id, own.name), 0) if job_id is not None else 0
        readings = readings_of(db, take) if take else None
        if take is None or readings is None:
            pins.append(Pin(own.name, "none", limit=limits[DEAD_ZONE].everyday))
            continue
        pin = pin_of(checks.trusted(readings, take, model.id), own.name, limits)
        stale = since > take.seq and pin.state == "measured"
        pins.append(replace(pin, state="stale") if stale else pin)
    return tuple(pins)


def pin_of(readings: TakeReadings, stick: str, limits: Limits, grade: Grade = "everyday") -> Pin:
    """The pin of a take. A paddle has no centre: its disc is how far it trembles at rest, its ring how
    far it may."""
    turns = readings.turn is not None
    tells = TURN_JITTER if turns else DEAD_ZONE
    value, limit = readings.value(tells), limits[tells].at(grade)
    still = readings.still
    if value is None or (still is None and not turns):
        return Pin(stick, "unusable", limit=limit, tells=tells)
    x, y = (still.rest_x, still.rest_y or 0.0) if still is not None and not turns else (0.0, 0.0)
    return Pin(stick, "measured", x, y, value, limit, verdict_on(readings, tells, limit), tells)
