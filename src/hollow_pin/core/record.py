"""What goes on record: jobs, what was told of them, takes, work."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from hollow_pin.core.controller import Controller
from hollow_pin.core.gate import Gate
from hollow_pin.core.intake import Answer, Intake, Waiting
from hollow_pin.core.job import Station
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.remedies import JobEnding, ModuleKind
from hollow_pin.core.routine import Routine
from hollow_pin.core.sources import SourceKind
from hollow_pin.core.work_fields import Value

OneAxis = Literal["", "x", "y"]
TakeState = Literal["importing", "recording", "complete", "interrupted"]
"""importing: it is still being brought in from a file, and nobody sees it yet."""
HowEnded = Literal["complete", "interrupted"]
Calibration = Literal["factory", "recalibrated", "unknown"]
Power = Literal["cable", "battery", "unknown"]
Shell = Literal["open", "closed", "unknown"]


@dataclass(frozen=True)
class Job:
    """One visit of a controller to the bench. Times are ISO 8601, UTC. moves: whether it moves people,
    vehicles, lifting gear or medical equipment. revision: counts the changes to what was asked."""

    id: int
    controller: Controller
    stick: str
    complaint: str
    intake: Intake
    moves: Answer
    waiting: Waiting
    revision: int
    station: Station
    ended: JobEnding | None
    outcome: str | None
    opened_at: str
    closed_at: str | None

    @property
    def axes(self) -> int:
        """How many the stick has that it is about."""
        own = self.controller.model.stick(self.stick)
        return own.axes if own else 2


@dataclass(frozen=True)
class Work:
    """What was done between two takes. seq: its place among everything that happened. axis: empty
    where it is not one axis's. kind: the remedy's code. details: what was put down by its fields."""

    id: int
    seq: int
    job_id: int
    stick: str
    axis: OneAxis
    kind: str
    module: ModuleKind | None
    lot: str
    note: str
    cautions: tuple[str, ...]
    details: dict[str, Value]
    done_at: str
    undone_at: str | None


NOTHING_ASKED = Intake()


@dataclass(frozen=True)
class JobDetails:
    """What can be said of a job when it is taken in, and changed afterwards."""

    stick: str
    complaint: str = ""
    moves: Answer = ""
    intake: Intake = NOTHING_ASKED


@dataclass(frozen=True)
class Conditions:
    """How things were when a take was made. role: the bench role of who made it."""

    calibration: Calibration = "unknown"
    power: Power = "unknown"
    shell: Shell = "unknown"
    role: str = ""


@dataclass(frozen=True)
class TakePlan:
    """What a take is begun with. together: takes made in one go share it."""

    stick: str
    source_kind: SourceKind
    source_name: str
    ranges: tuple[AxisRange, ...]
    routine: Routine
    conditions: Conditions = Conditions()
    headers: dict[str, str] = field(default_factory=dict)
    together: str = ""
    study_id: int | None = None
    file_hash: str = ""


@dataclass(frozen=True)
class Take:
    """One run of the routine on one stick. seq: its place among everything that happened, whatever the
    clock said. ended_because: why, where it did not run through."""

    id: int
    seq: int
    job_id: int
    stick: str
    stage: str
    state: TakeState
    ended_because: str | None
    usable: bool
    source_kind: SourceKind
    source_name: str
    ranges: tuple[AxisRange, ...]
    gate: Gate
    headers: dict[str, str]
    routine: Routine
    conditions: Conditions
    together: str
    study_id: int | None
    started_at: str
    ended_at: str | None
    undone_at: str | None


@dataclass(frozen=True)
class WorkPlan:
    """What is to be put on record as done. kind: the remedy's code. cautions: those that were read, by
    code. centring_id: what was read while it was centred by hand. part_id: what went in, from the
    shelf. details: what is put down by its fields. wait_minutes: how long it dries or cools."""

    stick: str
    kind: str
    axis: OneAxis = ""
    module: ModuleKind | None = None
    lot: str = ""
    note: str = ""
    cautions: tuple[str, ...] = ()
    centring_id: int | None = None
    part_id: int | None = None
    details: Mapping[str, Value] = field(default_factory=dict)
    wait_minutes: float | None = None
