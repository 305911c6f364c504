"""The arithmetic of the bench."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field

from hollow_pin.api.context import Reading
from hollow_pin.api.schemas import Request
from hollow_pin.bench.jobs import view_job
from hollow_pin.bench.readings import readings_of
from hollow_pin.bench.refusal import NotFound
from hollow_pin.bench.takes import check_stick, get_job
from hollow_pin.core.calculators.table import BY_NAME, CALCULATORS, Output, Plot
from hollow_pin.store.takes import find_take

router = APIRouter(tags=["calculators"], prefix="/calculators")
Name = Annotated[str, Path(max_length=40)]
Typed = Annotated[str, Field(max_length=60)]


class InputInfo(BaseModel):
    """One input; bounds in words."""

    key: str
    says: str
    unit: str
    bounds: str
    choices: tuple[str, ...]
    optional: bool


class CalculatorInfo(BaseModel):
    name: str
    title: str
    formula: str
    caution: str
    inputs: list[InputInfo]
    outputs: tuple[Output, ...]


class Given(Request):
    """Inputs as they were typed, by key."""

    inputs: dict[str, Typed] = Field(max_length=20)


class Calculated(BaseModel):
    """values: by key; a number, words, or null where there is none."""

    values: dict[str, Any]
    plot: Plot | None


@router.get("")
def get_calculators() -> list[CalculatorInfo]:
    """Every calculator: its formula, what goes in, what comes out."""
    return [
        CalculatorInfo(
            name=c.name,
            title=c.title,
            formula=c.formula,
            caution=c.caution,
            inputs=[
                InputInfo(
                    key=i.key,
                    says=i.says,
                    unit=i.unit,
                    bounds=i.bounds,
                    choices=i.choices,
                    optional=i.optional,
                )
                for i in c.inputs
            ],
            outputs=c.outputs,
        )
        for c in CALCULATORS
    ]


@router.post("/{name}")
def calculate(name: Name, body: Given) -> Calculated:
    """Calculate. An input that is unknown, missing or out of its bounds is named with them."""
    calculator = BY_NAME.get(name)
    if calculator is None:
        raise NotFound("calculator", name)
    return Calculated(values=calculator.calculate(body.inputs), plot=calculator.plot(body.inputs))


@router.get("/from-job/{job_id}")
def from_job(
    job_id: Annotated[int, Path(ge=1, le=2**53)],
    db: Reading,
    axis: Annotated[str, Query(pattern="^[xy]$")] = "x",
) -> dict[str, str]:
    """What a job's newest take and its model say of an axis, by the keys of inputs."""
    view = view_job(db, job_id)
    own = check_stick(get_job(db, job_id).controller, view.job.stick)
    found: dict[str, str] = {}
    sensor = next((s for s in own.sensors if s.axis == axis), None)
    if sensor is not None and sensor.ohms:
        found["track_ohms"] = str(sensor.ohms)
    take = find_take(db, view.latest) if view.latest is not None else None
    readings = readings_of(db, take) if take is not None else None
    rest = readings.value(f"still.rest_{axis}") if readings is not None else None
    if rest is not None and readings is not None and not readings.hidden_at("still.rest_offset"):
        found["rest_percent"] = f"{rest:.2f}"
        found["position"] = f"{min(max(0.5 + rest / 200, 0.0), 1.0):.4f}"
    found["bits"] = str(view.job.controller.model.bits)
    return found
