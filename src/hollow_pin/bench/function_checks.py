"""Function checks: begun, fed with what the source reports, ended, set against each other."""

from __future__ import annotations

import random
import zlib
from dataclasses import dataclass
from sqlite3 import Connection
from typing import Any

import numpy as np

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import get_job, open_job
from hollow_pin.core.controller import Controller
from hollow_pin.core.function_check import (
    VERSION,
    Change,
    ControlEvents,
    Expected,
    FunctionCheck,
    Item,
    axes_to_follow,
    compared,
    difference,
    judge_functions,
)
from hollow_pin.simulator.contacts import Contacts, at_first, press, pull
from hollow_pin.store.database import Database
from hollow_pin.store.function_checks import (
    CheckKind,
    FunctionCheckRecord,
    begin_check,
    contacts_of,
    end_check,
    events_of_check,
    find_check,
    function_checks_of,
    keep_answers,
    keep_check_result,
    keep_contacts,
    keep_events,
    running_checks,
)
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.mappings import mappings_of

MOST_EVENTS = 50_000
VIBRATION = "Vibration"
BETWEEN_MS = 700.0
"""A visitor's presses of a stand-in are as far apart as a finger's, whatever the clock says."""


@dataclass(frozen=True)
class FunctionCheckView:
    """A function check as far as it has come, and how it differs from the one made at take-in."""

    check: FunctionCheckRecord
    found: FunctionCheck
    changes: tuple[Change, ...]
    against: str | None


@dataclass(frozen=True)
class Source:
    """What is checked. buttons: as many as it reports. triggers: its axes that are no stick's, where
    whoever checks knows them; else axes: how many it has, and standard: whether they are in the order
    that browsers have agreed on, a stick's two after the other's."""

    kind: str
    name: str
    buttons: int
    triggers: tuple[int, ...] = ()
    axes: int | None = None
    standard: bool = False


def begin(
    database: Database, job_id: int, kind: CheckKind, source: Source | None, at: str
) -> FunctionCheckRecord:
    """Begin a function check. source: None for the stand-in. One that still runs is ended first."""
    with database.writing() as db:
        job = open_job(db, job_id)
        for running in running_checks(db, job_id):
            _end(db, running, "another one was begun", at, "")
        sheet = job.controller.model.sheet
        first: list[Any] = []
        if source is None:
            contacts = _contacts(db, job.controller)
            source = Source("stand-in", "Stand-in", contacts.buttons, contacts.triggers)
            first = at_first(contacts)
        buttons = max(source.buttons, sheet.buttons or 0)
        model = job.controller.model
        mappings = mappings_of(db, model.id, source.kind, source.name)
        mapped = [a for m in mappings for a in (m.axis_x, m.axis_y) if a is not None]
        axes = source.triggers
        if source.axes is not None:
            of_sticks, sprung = (
                sum(s.axes for s in model.sticks),
                all(s.sprung for s in model.sticks),
            )
            axes = axes_to_follow(source.axes, source.standard, mapped, of_sticks, sprung)
        check = begin_check(db, job_id, kind, (source.kind, source.name), buttons, axes, at)
        if first:
            keep_events(db, check.id, first)
        return check


def get_check(db: Connection, check_id: int) -> FunctionCheckRecord:
    record = find_check(db, check_id)
    if record is None:
        raise NotFound("function check", check_id)
    return record


def _running(db: Connection, check_id: int) -> FunctionCheckRecord:
    record = get_check(db, check_id)
    if record.ended_at is not None:
        raise Refused("This function check has ended. Begin another.")
    return record


def feed(database: Database, check_id: int, events: list[Any]) -> FunctionCheckView:
    """What the source reported since: [ms, button or axis, index, value]. Kept before it is read."""
    with database.writing() as db:
        running = _running(db, check_id)
        if events:
            if len(events_of_check(db, check_id)) + len(events) > MOST_EVENTS:
                raise Refused("That is more than one function check holds. End it.")
            keep_events(db, check_id, events)
        return _view(db, running)


def touch(database: Database, check_id: int, control: str, index: int) -> FunctionCheckView:
    """A visitor presses a button of the stand-in (from 0), or pulls a trigger by its axis."""
    with database.writing() as db:
        running = _running(db, check_id)
        if running.source_kind != "stand-in":
            raise Refused("Press it on the controller itself.")
        contacts = _contacts(db, get_job(db, running.job_id).controller)
        before = events_of_check(db, check_id)
        now = max((e[0] for e in before), default=0.0) + BETWEEN_MS
        if control == "axis":
            if index not in contacts.triggers:
                raise Refused("The stand-in has no such trigger.", "index")
            keep_events(db, check_id, pull(contacts, index, now))
        else:
            if not 0 <= index < contacts.buttons:
                raise Refused("The stand-in has no such button.", "index")
            keep_events(db, check_id, press(contacts, index + 1, now, check_id * 1009 + index))
        return _view(db, running)


def answer(database: Database, check_id: int, item: Item) -> FunctionCheckView:
    """What was seen or heard of something that no source reports."""
    with database.writing() as db:
        running = _running(db, check_id)
        keep_answers(db, check_id, running.answers | {item.name: item})
        return _view(db, get_check(db, check_id))


def end(
    database: Database, check_id: int, because: str | None, at: str, role: str = ""
) -> FunctionCheckView:
    """End a function check. because: why it did not run through, such as a cable that came out."""
    with database.writing() as db:
        _end(db, _running(db, check_id), because, at, role)
        return _view(db, get_check(db, check_id))


def recover_checks(database: Database, at: str) -> None:
    """Checks that ran when the program ended keep what was pressed."""
    with database.writing() as db:
        for running in running_checks(db):
            _end(db, running, "the program ended meanwhile", at, "")


def read_anew(database: Database, check_id: int) -> None:
    """Read an ended check again by this version of the definitions, from the same events."""
    with database.reading() as db:
        of = find_check(db, check_id)
        if of is None or of.ended_at is None:
            return
        result = _read(db, of, complete=of.ended_because is None)
    with database.writing() as db:
        keep_check_result(db, check_id, VERSION, result)


def view_check(db: Connection, check_id: int) -> FunctionCheckView:
    return _view(db, get_check(db, check_id))


def _end(
    db: Connection, running: FunctionCheckRecord, because: str | None, at: str, role: str
) -> None:
    result = _read(db, running, complete=because is None)
    end_check(db, running.id, VERSION, result, because, at)
    text = "Function check" + (" before it goes" if running.kind == "final" else "")
    text += f", interrupted: {because}. " if because else ". "
    first = _first_of(db, running)
    against = f" {compared(first, result)}" if first else ""
    add_entry(
        db, running.job_id, at, "check", text + result.sentence + against, role, check_id=running.id
    )


def _first_of(db: Connection, final: FunctionCheckRecord) -> FunctionCheck | None:
    """The check made at take-in that a final one is set against."""
    if final.kind != "final":
        return None
    earlier = [c for c in function_checks_of(db, final.job_id) if c.kind == "take-in" and c.result]
    return earlier[-1].result if earlier else None


def _view(db: Connection, of: FunctionCheckRecord) -> FunctionCheckView:
    result = of.result or _read(db, of)
    first = _first_of(db, of)
    if first is None:
        return FunctionCheckView(of, result, (), None)
    return FunctionCheckView(of, result, difference(first, result), compared(first, result))


def _read(db: Connection, of: FunctionCheckRecord, complete: bool = False) -> FunctionCheck:
    sheet = get_job(db, of.job_id).controller.model.sheet
    events = _arrays(events_of_check(db, of.id))
    named = [*sheet.items, *([VIBRATION] if sheet.vibration else [])]
    items = [of.answers.get(name, Item(name, "")) for name in named]
    items += [item for name, item in of.answers.items() if name not in named]
    clicks = {button: stick for stick, button in sheet.clicks.items()}
    now = float(events.t_s[-1]) if events.t_s.size else 0.0
    expected = Expected(sheet.buttons, sheet.triggers)
    return judge_functions(
        events, of.buttons, of.triggers, tuple(items), clicks, now, complete, expected
    )


def _arrays(events: list[Any]) -> ControlEvents:
    ordered = sorted(events, key=lambda e: e[0])
    return ControlEvents(
        np.array([e[0] for e in ordered], dtype=float) / 1e3,
        np.array([e[1] == "axis" for e in ordered], dtype=bool),
        np.array([e[2] for e in ordered], dtype=np.intp),
        np.array([e[3] for e in ordered], dtype=float),
    )


def _contacts(db: Connection, controller: Controller) -> Contacts:
    """The simulated buttons of a controller; made up when first needed, most of them sound."""
    state = contacts_of(db, controller.id)
    if state is not None:
        return Contacts.from_dict(state)
    model = controller.model
    sheet, drawn = model.sheet, random.Random(zlib.crc32(f"{controller.tag} buttons".encode()))
    buttons = sheet.buttons if sheet.buttons is not None else 8
    first = sum(s.axes for s in model.sticks)
    triggers = tuple(range(first, first + (sheet.triggers or 0)))
    dead: tuple[int, ...] = ()
    bouncing: tuple[tuple[int, float], ...] = ()
    if buttons and drawn.random() < 0.15:
        dead = (drawn.randint(1, buttons),)
    if buttons and drawn.random() < 0.3:
        bouncing = ((drawn.randint(1, buttons), drawn.uniform(8, 18)),)
    contacts = Contacts(buttons, triggers, dead, (), bouncing)
    keep_contacts(db, controller.id, contacts.to_dict())
    return contacts
