"""Models and controllers, and the hidden state of simulated ones."""

from __future__ import annotations

import json
from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Any

from hollow_pin.core.job import ModuleKind
from hollow_pin.core.rim import Gate


@dataclass(frozen=True)
class Model:
    """A kind of controller."""

    id: str
    name: str
    sticks: tuple[str, ...]
    gate: Gate
    bits: int
    rate_hz: float
    sensor: ModuleKind
    note: str


@dataclass(frozen=True)
class Controller:
    """One physical unit, by its tag."""

    id: int
    tag: str
    model: Model


def _model(row: Row) -> Model:
    return Model(
        id=row["id"],
        name=row["name"],
        sticks=tuple(json.loads(row["sticks"])),
        gate=row["gate"],
        bits=row["bits"],
        rate_hz=row["rate_hz"],
        sensor=row["sensor"],
        note=row["note"],
    )


def all_models(db: Connection) -> list[Model]:
    return [_model(r) for r in db.execute("SELECT * FROM model ORDER BY name")]


def models_by_id(db: Connection) -> dict[str, Model]:
    return {m.id: m for m in all_models(db)}


def find_model(db: Connection, model_id: str) -> Model | None:
    row = db.execute("SELECT * FROM model WHERE id = ?", (model_id,)).fetchone()
    return _model(row) if row else None


def find_controller(db: Connection, tag: str) -> Controller | None:
    """The controller with a tag, letters' case aside."""
    row = db.execute("SELECT id, tag, model_id FROM controller WHERE tag = ?", (tag,)).fetchone()
    return _controller(db, row) if row else None


def controller_by_id(db: Connection, controller_id: int) -> Controller:
    row = db.execute(
        "SELECT id, tag, model_id FROM controller WHERE id = ?", (controller_id,)
    ).fetchone()
    return _controller(db, row)


def _controller(db: Connection, row: Row) -> Controller:
    model = find_model(db, row["model_id"])
    assert model is not None
    return Controller(row["id"], row["tag"], model)


def add_controller(db: Connection, tag: str, model: Model, at: str) -> Controller:
    row = db.execute(
        "INSERT INTO controller (tag, model_id, created_at) VALUES (?, ?, ?) RETURNING id",
        (tag, model.id, at),
    ).fetchone()
    return Controller(row["id"], tag, model)


def stand_in_state(db: Connection, controller_id: int, stick: str) -> dict[str, Any] | None:
    """The simulated stick of a controller, or None while it has none."""
    row = db.execute(
        "SELECT state FROM stand_in WHERE controller_id = ? AND stick = ?", (controller_id, stick)
    ).fetchone()
    return json.loads(row["state"]) if row else None


def keep_stand_in(db: Connection, controller_id: int, stick: str, state: dict[str, Any]) -> None:
    db.execute(
        "INSERT INTO stand_in (controller_id, stick, state) VALUES (?, ?, ?) "
        "ON CONFLICT (controller_id, stick) DO UPDATE SET state = excluded.state",
        (controller_id, stick, json.dumps(state)),
    )
