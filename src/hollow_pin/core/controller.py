"""Controllers: what a model is made of, and one unit of it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from hollow_pin.core.gate import Gate
from hollow_pin.core.limits import Grade
from hollow_pin.core.remedies import ModuleKind

Side = Literal["left", "right", "top", "bottom", ""]


@dataclass(frozen=True)
class ModelSensor:
    """What turns one axis into a number. side: where on the module its housing sits, seen from above.
    ohms: nominal resistance of a potentiometer."""

    axis: Literal["x", "y"]
    kind: ModuleKind
    side: Side = ""
    ohms: int | None = None


@dataclass(frozen=True)
class ModelStick:
    """One stick, lever or paddle of a model. footprint: the holes of its module, by the shop's own
    word; empty where it is not known."""

    name: str
    axes: Literal[1, 2]
    sprung: bool
    gate: Gate
    sensors: tuple[ModelSensor, ...]
    footprint: str = ""

    @property
    def kind(self) -> ModuleKind:
        return self.sensors[0].kind


@dataclass(frozen=True)
class Sheet:
    """What a model has besides sticks. buttons: how many the source reports, None where that is not
    known. clicks: which of them (from 1) is pressed by which stick. items: what is looked at and
    listened to in a function check."""

    buttons: int | None = None
    triggers: int | None = None
    vibration: bool = False
    clicks: dict[str, int] = field(default_factory=dict)
    items: tuple[str, ...] = ()


@dataclass(frozen=True)
class Model:
    """A kind of controller. lo, hi: the nominal range of its axes. limits: its own, by reading and
    grade, where they are not the usual ones."""

    id: str
    name: str
    sticks: tuple[ModelStick, ...]
    bits: int
    rate_hz: float
    lo: float
    hi: float
    limits: dict[str, dict[Grade, float]]
    note: str
    sheet: Sheet = Sheet()

    def stick(self, name: str) -> ModelStick | None:
        return next((s for s in self.sticks if s.name == name), None)


@dataclass(frozen=True)
class Controller:
    """One physical unit, by its tag. refer: it moves people, vehicles, lifting gear or medical
    equipment, so that nobody signs it off here."""

    id: int
    tag: str
    model: Model
    refer: bool = False
