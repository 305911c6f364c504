"""What is known of a controller: every visit on one line of time, and how its sticks have read."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf
from sqlite3 import Connection

from hollow_pin.bench.pins import Pin, pins_of
from hollow_pin.bench.readings import BenchCheckLookup, readings_of
from hollow_pin.bench.refusal import NotFound
from hollow_pin.bench.whats_next import next_for
from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.controller import Controller, ModelStick
from hollow_pin.core.job import Mark, mark_of
from hollow_pin.core.limits import Grade, limits_with
from hollow_pin.core.record import Job, Take
from hollow_pin.core.remedies import ModuleKind, done_words
from hollow_pin.store.controllers import find_controller_by_id
from hollow_pin.store.jobs import visits_of, work_of
from hollow_pin.store.ledger import LedgerEntry, ledger_of
from hollow_pin.store.photos import Photo, photos_of
from hollow_pin.store.takes import takes_of_stick

VISITS = 20
POINTS = 120
"""As many of a stick's newest takes as are drawn."""


@dataclass(frozen=True)
class KnownController:
    """A controller as it is met again: pins as it left, its last visit, the visit it is on now."""

    controller: Controller
    pins: tuple[Pin, ...]
    visits: int
    last: Job | None
    open_job_id: int | None


@dataclass(frozen=True)
class Visit:
    """A visit, and what is next for it."""

    job: Job
    next: str
    ledger: tuple[LedgerEntry, ...]
    photos: tuple[Photo, ...]


@dataclass(frozen=True)
class Point:
    """A take's headline readings, by dotted name, and their standard uncertainties, each in its
    reading's own unit."""

    take_id: int
    job_id: int
    at: str
    stage: str
    mark: Mark
    values: dict[str, float]
    uncertainty: dict[str, float]


@dataclass(frozen=True)
class PastWork:
    """Work on the stick, between the points. kind: the remedy's code; words: as it stands on
    record."""

    job_id: int
    at: str
    kind: str
    words: str
    module: ModuleKind | None
    lot: str


@dataclass(frozen=True)
class StickHistory:
    """limits: of the readings drawn, by grade. telling: the one that went farthest over its limit for
    everyday use, which is what the stick came for; None where none was over."""

    stick: str
    points: tuple[Point, ...]
    work: tuple[PastWork, ...]
    limits: dict[str, dict[Grade, float]]
    telling: str | None


@dataclass(frozen=True)
class History:
    """visits: newest first; earlier ones are asked for by `more`, the number of those left out."""

    controller: Controller
    pins: tuple[Pin, ...]
    visits: tuple[Visit, ...]
    more: int
    sticks: tuple[StickHistory, ...]


def known_controller(db: Connection, controller: Controller) -> KnownController:
    visits = visits_of(db, controller.id)
    lying = next((j.id for j in visits if j.closed_at is None), None)
    pins = pins_of(db, controller, lying)
    return KnownController(controller, pins, len(visits), visits[0] if visits else None, lying)


def _visit(db: Connection, job: Job) -> Visit:
    coming = next_for(db, job, BenchCheckLookup(db))
    return Visit(job, coming.label, tuple(ledger_of(db, job.id)), tuple(photos_of(db, job.id)))


def history_of(db: Connection, controller_id: int, after: int = 0) -> History:
    """A controller's history. after: how many of the newest visits are left out."""
    controller = find_controller_by_id(db, controller_id)
    if controller is None:
        raise NotFound("controller", controller_id)
    jobs = visits_of(db, controller_id)
    page = jobs[after : after + VISITS]
    return History(
        controller,
        pins_of(db, controller, next((j.id for j in jobs if j.closed_at is None), None)),
        tuple(_visit(db, job) for job in page),
        max(0, len(jobs) - after - len(page)),
        tuple(_stick(db, controller, own, jobs) for own in controller.model.sticks),
    )


def _stick(
    db: Connection, controller: Controller, own: ModelStick, jobs: list[Job]
) -> StickHistory:
    table = limits_with(controller.model.limits)
    drawn = [r.path for r in READINGS if r.headline and r.applies_to(own.axes) and r.path in table]
    takes = [t for t in takes_of_stick(db, controller.id, own.name) if t.usable][-POINTS:]
    newest = {t.job_id: t.id for t in takes}
    points = [
        p
        for take in takes
        if (p := _point(db, take, drawn, newest[take.job_id] == take.id)) is not None
    ]
    since = min((t.job_id for t in takes), default=0)
    works = [
        PastWork(job.id, w.done_at, w.kind, done_words(w.kind, w.module), w.module, w.lot)
        for job in reversed(jobs)
        if job.id >= since
        for w in work_of(db, job.id)
        if w.stick == own.name and w.undone_at is None
    ]
    grades: tuple[Grade, ...] = ("fine", "everyday", "display")
    limits = {path: {g: table[path].at(g) for g in grades} for path in drawn}
    return StickHistory(own.name, tuple(points), tuple(works), limits, _telling(points, limits))


def _telling(points: list[Point], limits: dict[str, dict[Grade, float]]) -> str | None:
    over: dict[str, float] = {}
    for point in points:
        for path, value in point.values.items():
            limit = limits[path]["everyday"]
            if value > limit:
                over[path] = max(over.get(path, 0.0), value / limit if limit else inf)
    return max(over, key=lambda path: over[path], default=None)


def _point(db: Connection, take: Take, drawn: list[str], newest: bool) -> Point | None:
    readings = readings_of(db, take)
    if readings is None:
        return None
    values = {path: value for path in drawn if (value := readings.value(path)) is not None}
    if not values:
        return None
    known_to = {p: readings.uncertainty[p] for p in values if p in readings.uncertainty}
    mark = mark_of(take.stage, newest)
    return Point(take.id, take.job_id, take.started_at, take.stage, mark, values, known_to)
