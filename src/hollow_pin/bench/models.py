"""Models and routines: what the shop knows and what it has made its own."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from sqlite3 import Connection

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.controller import Model
from hollow_pin.core.limits import GRADES, LIMIT_OF
from hollow_pin.core.routine import BY_ID, ROUTINES, SHAPES, Routine, Shape, usual_routine
from hollow_pin.store.controllers import find_model, keep_model, model_named, sticks_in_use
from hollow_pin.store.database import Database
from hollow_pin.store.routines import (
    add_routine,
    change_routine,
    find_own_routine,
    key_of,
    own_routines,
    remove_routine,
)

STILL_S = (5.0, 3600.0)


def _check_model(model: Model) -> None:
    names = [s.name for s in model.sticks]
    if not names:
        raise Refused("A model has one stick at least.", "sticks")
    if len({n.casefold() for n in names}) < len(names):
        raise Refused("Two sticks have the same name.", "sticks")
    if model.hi <= model.lo:
        raise Refused("The highest value lies above the lowest.", "hi")
    for i, stick in enumerate(model.sticks):
        axes = ["x", "y"][: stick.axes]
        if [s.axis for s in stick.sensors] != axes:
            raise Refused(
                f"The {stick.name} needs a sensor for {' and '.join(axes)}.",
                f"sticks.{i}.sensors",
            )
        if stick.axes == 2 and not stick.sprung:
            raise Refused("Only a single axis goes without a spring.", f"sticks.{i}.sprung")
    for path, grades in model.limits.items():
        if path not in LIMIT_OF:
            raise Refused(f"There is no limit on {path}.", "limits")
        if any(value < 0 for value in grades.values()):
            raise Refused("A limit is not below zero.", "limits")
        own = [grades.get(g, LIMIT_OF[path].at(g)) for g in GRADES]
        if own != sorted(own):
            raise Refused(
                f"The limits on {path} must not be tighter for a coarser grade.", "limits"
            )


def new_model(database: Database, model: Model) -> Model:
    """Add a model; its id is made from its name."""
    name = " ".join(model.name.split())
    slug = re.sub(r"[^\w]+", "-", name.casefold()).strip("-") or "model"
    _check_model(model)
    with database.writing() as db:
        if model_named(db, name) is not None:
            raise Refused(f"There is a model called {name} already.", "name")
        key, more = slug, 2
        while find_model(db, key) is not None:
            key, more = f"{slug}-{more}", more + 1
        new = replace(model, id=key, name=name, note=model.note.strip())
        keep_model(db, new)
    return new


def change_model(database: Database, model_id: str, model: Model) -> Model:
    """Change a model. Sticks that jobs speak of stay, with as many axes."""
    _check_model(model)
    with database.writing() as db:
        was = find_model(db, model_id)
        if was is None:
            raise NotFound("model", model_id)
        name = " ".join(model.name.split())
        other = model_named(db, name)
        if other is not None and other.id != model_id:
            raise Refused(f"There is a model called {name} already.", "name")
        for used in sticks_in_use(db, model_id):
            had, has = was.stick(used), model.stick(used)
            if has is None:
                raise Refused(f"Jobs speak of the {used}; it cannot be taken away.", "sticks")
            if had is not None and had.axes != has.axes:
                raise Refused(f"Takes were made of the {used}; its axes stay.", "sticks")
        changed = replace(model, id=model_id, name=name, note=model.note.strip())
        keep_model(db, changed)
    return changed


@dataclass(frozen=True)
class RoutineView:
    """A routine; how long it takes each kind of stick that can perform it, about, in seconds; which
    kinds it is the usual one of; and whether it is the shop's own."""

    routine: Routine
    seconds: dict[Shape, float]
    usual_for: tuple[Shape, ...]
    own: bool


def all_routines(db: Connection) -> list[Routine]:
    """The usual ones, then the shop's own."""
    return [*ROUTINES, *own_routines(db)]


def view_routine(routine: Routine) -> RoutineView:
    fitting = {s: axes for s, (axes, sprung) in SHAPES.items() if not routine.unfit(axes, sprung)}
    return RoutineView(
        routine,
        {shape: routine.seconds(axes) for shape, axes in fitting.items()},
        tuple(s for s, kind in SHAPES.items() if usual_routine(*kind).id == routine.id),
        key_of(routine.id) is not None,
    )


def find_routine(db: Connection, routine_id: str) -> Routine:
    key = key_of(routine_id)
    routine = BY_ID.get(routine_id) or (find_own_routine(db, key) if key is not None else None)
    if routine is None:
        raise NotFound("routine", routine_id)
    return routine


def _check_routine(db: Connection, routine: Routine, but: str | None = None) -> None:
    if not routine.name.strip():
        raise Refused("The routine needs a name.", "name")
    if not routine.steps:
        raise Refused("Choose at least one step.", "steps")
    if len(set(routine.steps)) < len(routine.steps):
        raise Refused("A step is named twice.", "steps")
    if "turn" in routine.steps and len(routine.steps) > 1:
        raise Refused("Turn stands by itself: it is for a paddle, the others are not.", "steps")
    names = {r.name.casefold() for r in all_routines(db) if r.id != but}
    if routine.name.strip().casefold() in names:
        raise Refused(f"There is a routine called {routine.name.strip()} already.", "name")


def new_routine(database: Database, routine: Routine) -> Routine:
    with database.writing() as db:
        _check_routine(db, routine)
        return add_routine(db, routine)


def _own(db: Connection, routine_id: str) -> int:
    find_routine(db, routine_id)
    key = key_of(routine_id)
    if key is None:
        raise Refused("This routine comes with the program. Make one of your own like it.", "id")
    return key


def edit_routine(database: Database, routine_id: str, routine: Routine) -> Routine:
    with database.writing() as db:
        key = _own(db, routine_id)
        _check_routine(db, routine, routine_id)
        change_routine(db, key, routine)
        return find_routine(db, routine_id)


def drop_routine(database: Database, routine_id: str) -> None:
    """Takes keep their own copy of what was asked."""
    with database.writing() as db:
        remove_routine(db, _own(db, routine_id))
