"""The arithmetic of the bench."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Path, Query
from pydantic import BaseModel, Field

from hollow_pin.api.context import ReadOnly
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Key, Request
from hollow_pin.bench.calculating import inputs_from, own_shape
from hollow_pin.bench.refusal import NotFound
from hollow_pin.core.calculators.calculator import Output, Plot
from hollow_pin.core.calculators.table import BY_NAME, CALCULATORS

router = api_routes("calculators", "/calculators")
Name = Annotated[str, Path(max_length=40)]
Typed = Annotated[str, Field(max_length=60)]


class InputInfo(BaseModel):
    """One input; bounds in words. first: what a form starts with."""

    key: str
    says: str
    unit: str
    bounds: str
    choices: tuple[str, ...]
    optional: bool
    first: str


class CalculatorInfo(BaseModel):
    """one_of: one of its inputs is given and no more. over_stick: whether it draws over a stick's own
    shape."""

    name: str
    title: str
    formula: str
    caution: str
    inputs: list[InputInfo]
    outputs: tuple[Output, ...]
    one_of: bool
    over_stick: bool


class CalculatorInputs(Request):
    """Inputs as they were typed, by key. job_id: a job whose stick it is drawn over."""

    inputs: dict[str, Typed] = Field(max_length=20)
    job_id: Key | None = None


class Calculated(BaseModel):
    """values: by key; a number, words, or null where there is none."""

    values: dict[str, Any]
    plots: tuple[Plot, ...]


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
                    first=i.first,
                )
                for i in c.inputs
            ],
            outputs=c.outputs,
            one_of=c.one_of,
            over_stick=c.draw_over is not None,
        )
        for c in CALCULATORS
    ]


@router.post("/{name}")
def calculate(name: Name, body: CalculatorInputs, db: ReadOnly) -> Calculated:
    """Calculate. An input that is unknown, missing or out of its bounds is named with them."""
    calculator = BY_NAME.get(name)
    if calculator is None:
        raise NotFound("calculator", name)
    values = calculator.calculate(body.inputs)
    drawn = [calculator.plot(body.inputs)]
    if body.job_id is not None and calculator.draw_over is not None:
        own = own_shape(db, body.job_id)
        drawn.append(calculator.plot_over(own, body.inputs) if own else None)
    return Calculated(values=values, plots=tuple(p for p in drawn if p is not None))


@router.get("/from-job/{job_id}")
def from_job(
    job_id: Annotated[int, Path(ge=1, le=2**53)],
    db: ReadOnly,
    axis: Annotated[str, Query(pattern="^[xy]$")] = "x",
) -> dict[str, str]:
    """What a job's newest take and its model say of an axis, by the keys of inputs."""
    return inputs_from(db, job_id, axis)
