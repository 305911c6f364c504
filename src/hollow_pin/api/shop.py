"""What the shop knows: models and routines."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path

from hollow_pin.api.context import Data, ReadOnly
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import ModelBody, RoutineBody
from hollow_pin.bench import models as bench
from hollow_pin.core.controller import Model, ModelSensor, ModelStick, Sheet
from hollow_pin.core.routine import Routine
from hollow_pin.store.controllers import all_models

router = api_routes("shop")
Id = Annotated[str, Path(max_length=100)]


def _model(body: ModelBody) -> Model:
    sticks = tuple(
        ModelStick(
            s.name,
            s.axes,
            s.sprung,
            s.gate,
            tuple(ModelSensor(n.axis, n.kind, n.side, n.ohms) for n in s.sensors),
            s.footprint.strip(),
        )
        for s in body.sticks
    )
    return Model(
        "",
        body.name,
        sticks,
        body.bits,
        body.rate_hz,
        body.lo,
        body.hi,
        body.limits,
        body.note,
        Sheet(**(body.sheet.model_dump() | {"items": tuple(body.sheet.items)})),
    )


def _routine(body: RoutineBody) -> Routine:
    return Routine(**(body.model_dump() | {"id": "own", "steps": tuple(body.steps)}))


@router.get("/models")
def list_models(db: ReadOnly) -> list[Model]:
    """The models this bench knows."""
    return all_models(db)


@router.post("/models", status_code=201)
def new_model(body: ModelBody, database: Data) -> Model:
    """Add a model."""
    return bench.new_model(database, _model(body))


@router.put("/models/{model_id}")
def change_model(model_id: Id, body: ModelBody, database: Data) -> Model:
    """Change a model. Sticks that jobs speak of stay."""
    return bench.change_model(database, model_id, _model(body))


@router.get("/routines")
def list_routines(db: ReadOnly) -> list[bench.RoutineView]:
    """The usual routines, then the shop's own."""
    return [bench.view_routine(r) for r in bench.all_routines(db)]


@router.post("/routines", status_code=201)
def new_routine(body: RoutineBody, database: Data) -> Routine:
    """Add a routine of the shop's own."""
    return bench.new_routine(database, _routine(body))


@router.put("/routines/{routine_id}")
def change_routine(routine_id: Id, body: RoutineBody, database: Data) -> Routine:
    """Change one of the shop's own."""
    return bench.edit_routine(database, routine_id, _routine(body))


@router.delete("/routines/{routine_id}", status_code=204)
def remove_routine(routine_id: Id, database: Data) -> None:
    """Remove one of the shop's own. Takes keep what was asked of them."""
    bench.drop_routine(database, routine_id)
