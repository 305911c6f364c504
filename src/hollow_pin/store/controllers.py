"""Models and controllers, and the hidden state of simulated ones."""

from __future__ import annotations

import json
from dataclasses import asdict
from sqlite3 import Connection, Row
from typing import Any

from pydantic import TypeAdapter

from hollow_pin.core.controller import Controller, Model, ModelSensor, ModelStick, Sheet

_SHEET = TypeAdapter(Sheet)


def _stick(data: dict[str, Any]) -> ModelStick:
    sensors = tuple(ModelSensor(**sensor) for sensor in data["sensors"])
    return ModelStick(**(data | {"sensors": sensors}))


def _model(row: Row) -> Model:
    return Model(
        id=row["id"],
        name=row["name"],
        sticks=tuple(_stick(s) for s in json.loads(row["sticks"])),
        bits=row["bits"],
        rate_hz=row["rate_hz"],
        lo=row["lo"],
        hi=row["hi"],
        limits=json.loads(row["limits"]),
        note=row["note"],
        sheet=_SHEET.validate_json(row["sheet"]),
    )


def keep_model(db: Connection, model: Model) -> None:
    """Add a model, or change the one with its id."""
    sticks = json.dumps([asdict(s) for s in model.sticks], ensure_ascii=False)
    db.execute(
        "INSERT INTO model (id, name, sticks, bits, rate_hz, lo, hi, limits, note, sheet) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET name = excluded.name, "
        "sticks = excluded.sticks, bits = excluded.bits, rate_hz = excluded.rate_hz, "
        "lo = excluded.lo, hi = excluded.hi, limits = excluded.limits, note = excluded.note, "
        "sheet = excluded.sheet",
        (
            model.id,
            model.name,
            sticks,
            model.bits,
            model.rate_hz,
            model.lo,
            model.hi,
            json.dumps(model.limits),
            model.note,
            _SHEET.dump_json(model.sheet).decode(),
        ),
    )
    db.execute(
        "UPDATE job_text SET model = :name WHERE model <> :name AND rowid IN (SELECT job.id FROM job "
        "JOIN controller ON controller.id = job.controller_id WHERE controller.model_id = :id)",
        {"name": model.name, "id": model.id},
    )


def model_named(db: Connection, name: str) -> Model | None:
    """The model with a name, letters' case aside."""
    row = db.execute("SELECT * FROM model WHERE name = ?", (name,)).fetchone()
    return _model(row) if row else None


def sticks_in_use(db: Connection, model_id: str) -> set[str]:
    """The sticks of a model that jobs or takes speak of."""
    rows = db.execute(
        "SELECT job.stick FROM job JOIN controller ON controller.id = job.controller_id "
        "WHERE controller.model_id = :model UNION "
        "SELECT take.stick FROM take JOIN job ON job.id = take.job_id "
        "JOIN controller ON controller.id = job.controller_id WHERE controller.model_id = :model",
        {"model": model_id},
    )
    return {r["stick"] for r in rows}


def all_models(db: Connection) -> list[Model]:
    return [_model(r) for r in db.execute("SELECT * FROM model ORDER BY name")]


def models_by_id(db: Connection) -> dict[str, Model]:
    return {m.id: m for m in all_models(db)}


def find_model(db: Connection, model_id: str) -> Model | None:
    row = db.execute("SELECT * FROM model WHERE id = ?", (model_id,)).fetchone()
    return _model(row) if row else None


def find_controller(db: Connection, tag: str) -> Controller | None:
    """The controller with a tag, letters' case aside."""
    row = db.execute("SELECT * FROM controller WHERE tag = ?", (tag,)).fetchone()
    return _controller(db, row) if row else None


def find_controller_by_id(db: Connection, controller_id: int) -> Controller | None:
    row = db.execute("SELECT * FROM controller WHERE id = ?", (controller_id,)).fetchone()
    return _controller(db, row) if row else None


def controllers_by_id(db: Connection, ids: set[int]) -> dict[int, Controller]:
    """Several controllers at once, each model read once."""
    rows = db.execute(
        "SELECT * FROM controller WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(sorted(ids)),),
    ).fetchall()
    models = {key: find_model(db, key) for key in {r["model_id"] for r in rows}}
    controllers = {}
    for row in rows:
        model = models[row["model_id"]]
        assert model is not None
        controllers[row["id"]] = Controller(row["id"], row["tag"], model, bool(row["refer"]))
    return controllers


def _controller(db: Connection, row: Row) -> Controller:
    model = find_model(db, row["model_id"])
    assert model is not None
    return Controller(row["id"], row["tag"], model, bool(row["refer"]))


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
