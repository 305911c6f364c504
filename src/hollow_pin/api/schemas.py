"""What requests may say. Responses are the dataclasses of core, store and bench themselves."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from hollow_pin.core.catalogue import Aim
from hollow_pin.core.cautions import Caution
from hollow_pin.core.job import ModuleKind, WorkKind
from hollow_pin.core.limits import Grade
from hollow_pin.core.tracker import StepName

Text = Annotated[str, Field(max_length=10_000)]
Line = Annotated[str, Field(max_length=200)]
Key = Annotated[int, Field(ge=1, le=2**53)]


class Request(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewJob(Request):
    tag: Annotated[str, Field(min_length=1, max_length=80)]
    model_id: Line | None = Field(None, description="May be left out for a known controller.")
    stick: Line
    complaint: Text = ""


class NewWork(Request):
    kind: WorkKind
    module: ModuleKind | None = None
    lot: Line = ""
    note: Text = ""
    cautions: list[Line] = Field(default=[], max_length=50, description="Cautions read, by code.")


class NewNote(Request):
    text: Text


class Closing(Request):
    outcome: Text = ""


class StandInSpec(Request):
    kind: Literal["stand-in"]
    condition: Literal["sound", "offset", "worn", "dirty"] | None = Field(
        None, description="What is wrong with it, when it is made up for the first time."
    )


class GamepadSpec(Request):
    kind: Literal["gamepad"]
    name: Line = Field(description="What the browser calls it.")
    axis_x: int = Field(0, ge=0, le=31)
    axis_y: int = Field(1, ge=0, le=31)


class NewTake(Request):
    stick: Line
    source: StandInSpec | GamepadSpec = Field(discriminator="kind")


class MappingSpec(Request):
    """Which column is what, in a CSV that is not a recording file."""

    delimiter: Literal[",", ";", "\t", "|"] = ","
    time: Line
    time_unit: Literal["s", "ms", "us"] = "us"
    x: Line
    y: Line | None = None
    range_x: tuple[float, float]
    range_y: tuple[float, float] | None = None
    y_positive: Literal["up", "down"] = "up"
    step: Line | None = None
    whole_step: StepName | None = None


class Health(BaseModel):
    version: str


class ReadingInfo(BaseModel):
    """A reading's name on the bench, and its limits by grade."""

    path: str
    label: str
    unit: str
    aim: Aim
    tells: str
    headline: bool
    limits: dict[Grade, float] | None
    reason: str | None


class WorkInfo(BaseModel):
    kind: WorkKind
    label: str
    cautions: list[Caution]


class Catalogue(BaseModel):
    """The tables of the core that a screen needs: readings, grades, work and its cautions."""

    readings: list[ReadingInfo]
    grades: dict[Grade, str]
    work: list[WorkInfo]


class FieldError(BaseModel):
    field: str
    message: str


class ProblemDetails(BaseModel):
    """RFC 9457."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []
