"""What requests may say. Responses are the dataclasses of core, store and bench themselves."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from hollow_pin.bench.ledger import Written
from hollow_pin.core.catalogue import Aim
from hollow_pin.core.cautions import Caution
from hollow_pin.core.controller import Side
from hollow_pin.core.function_check import ItemState
from hollow_pin.core.gate import Gate
from hollow_pin.core.intake import Answer, Often, Seal, Tried, Waiting
from hollow_pin.core.job import StationInfo
from hollow_pin.core.limits import Grade
from hollow_pin.core.record import Calibration, OneAxis, Power, Shell
from hollow_pin.core.recording import Uncalibrated
from hollow_pin.core.remedies import WORK, JobEnding, ModuleKind, Remedy, WaitKind
from hollow_pin.core.routine import StepName
from hollow_pin.core.sources import SourceInfo, SourceKind
from hollow_pin.core.teardown import Battery, StepKind
from hollow_pin.core.timers import LONGEST_MIN
from hollow_pin.core.work_fields import WorkField
from hollow_pin.formats.guess import TimeUnit
from hollow_pin.simulator.stick import SensorKind
from hollow_pin.sources.event_device import Device
from hollow_pin.sources.hidraw import RawDevice
from hollow_pin.sources.serial_logger import Port
from hollow_pin.store.function_checks import CheckKind

Text = Annotated[str, Field(max_length=10_000, pattern=r"^[^\x00]*$")]
Line = Annotated[str, Field(max_length=200, pattern=r"^[^\x00]*$")]
TagName = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
Key = Annotated[int, Field(ge=1, le=2**53)]


class Request(BaseModel):
    model_config = ConfigDict(extra="forbid")


class IntakeBody(Request):
    hours: list[Annotated[int, Field(ge=1, le=12)]] = Field(default=[], max_length=12)
    often: Often = ""
    since: Text = ""
    flick_clears: Answer = ""
    tried: list[Tried] = Field(default=[], max_length=10)
    tried_note: Text = ""
    liquid: Answer = ""
    seal: Seal = ""
    warranty: Answer = ""
    consent: Answer = ""
    cosmetic: Text = ""
    accessories: Text = ""
    promised_on: Line = Field("", description="A date, ISO 8601.")
    price: Text = ""


class JobDetailsBody(Request):
    """moves: whether it moves people, vehicles, lifting gear or medical equipment."""

    stick: Line
    complaint: Text = ""
    moves: Answer = ""
    intake: IntakeBody = Field(default_factory=lambda: IntakeBody.model_validate({}))


class NewJob(JobDetailsBody):
    tag: TagName
    model_id: Line | None = Field(None, description="May be left out for a known controller.")


class IntakeChange(Request):
    """since: how it read to whoever changes it, at that revision."""

    told: JobDetailsBody
    since: JobDetailsBody
    revision: Key


class WaitingBody(Request):
    waiting: Waiting
    text: Text = ""


WorkCode = Annotated[str, Field(max_length=60, json_schema_extra={"enum": [r.code for r in WORK]})]
"""A remedy that goes on record as work."""


DetailValues = dict[
    Annotated[str, Field(max_length=40)],
    Annotated[float, Field(ge=-1e9, le=1e9)] | bool | Annotated[str, Field(max_length=500)],
]


class NewWork(Request):
    stick: Line | None = Field(None, description="The one that the job is about, if left out.")
    kind: WorkCode
    axis: OneAxis = ""
    module: ModuleKind | None = None
    lot: Text = ""
    note: Text = ""
    cautions: list[Line] = Field(default=[], max_length=50, description="Cautions read, by code.")
    centring_id: Key | None = Field(None, description="What was read while it was centred by hand.")
    part_id: Key | None = Field(None, description="What went in, from the shelf.")
    details: DetailValues = Field(default={}, max_length=40, description="By the remedy's fields.")
    wait_minutes: float | None = Field(
        None, gt=0, le=LONGEST_MIN, description="How long it dries or cools from now."
    )


class NewEntry(Request):
    kind: Written = "note"
    text: Text


class Correction(Request):
    """revision: of the entry as it was read."""

    text: Text
    revision: Key


class Undoing(Request):
    revision: Key
    back: bool = Field(False, description="Put it back instead.")


class Closing(Request):
    ended: JobEnding
    outcome: Text = ""


class CheckedSource(Request):
    """triggers: the axes that are no stick's, where that is known; else axes: how many there are."""

    name: Line
    buttons: int = Field(ge=0, le=64)
    triggers: list[Annotated[int, Field(ge=0, le=63)]] | None = Field(None, max_length=16)
    axes: int | None = Field(None, ge=0, le=64)
    standard: bool = Field(
        False, description="In the order that browsers have agreed on: sticks come first."
    )


class NewCheck(Request):
    kind: CheckKind
    source: CheckedSource | None = Field(None, description="Left out for the stand-in.")


ControlEvent = tuple[
    Annotated[float, Field(ge=0, le=1e12)],
    Literal["button", "axis"],
    Annotated[int, Field(ge=0, le=63)],
    Annotated[float, Field(ge=-1, le=1)],
]


class NewEvents(Request):
    """Each: milliseconds on the source's clock, button or axis, which (from 0), its value."""

    events: list[ControlEvent] = Field(max_length=5_000)


class ControlTouch(Request):
    control: Literal["button", "axis"] = "button"
    index: int = Field(ge=0, le=63)


class ItemBody(Request):
    name: Annotated[str, Field(min_length=1, max_length=200, pattern=r"^[^\x00]*$")]
    state: ItemState
    note: Text = ""


class EndOfCheck(Request):
    because: Line | None = Field(None, description="Why, where it did not run through.")


class SheetBody(Request):
    buttons: int | None = Field(None, ge=0, le=64)
    triggers: int | None = Field(None, ge=0, le=16)
    vibration: bool = False
    clicks: dict[str, Annotated[int, Field(ge=1, le=64)]] = Field(default={}, max_length=8)
    items: list[Line] = Field(default=[], max_length=40)


class StandInSpec(Request):
    kind: Literal["stand-in"]
    condition: Line | None = Field(
        None, description="What is wrong with it, when it is made up for the first time."
    )


class AxesSpec(Request):
    """Which of a source's axes are the stick. axis_y is null for a single axis; flip_x, flip_y: they
    run the other way than this kind of source usually does."""

    axis_x: int = Field(0, ge=0, le=255)
    axis_y: int | None = Field(1, ge=0, le=255)
    flip_x: bool = False
    flip_y: bool = False


class AxisHolds(Request):
    """What stands for −100, 0 and +100 % of an axis, in the device's numbers."""

    low: float
    centre: float
    high: float


class OwnCalibration(Request):
    """What a device's own calibration holds. y is null for a single axis."""

    x: AxisHolds
    y: AxisHolds | None


class KnownCalibration(BaseModel):
    """holds: in the device's own numbers."""

    stick: str
    holds: OwnCalibration | Uncalibrated


class RawSpec(AxesSpec):
    """A source that may give numbers which what the device is plugged into has still to calibrate."""

    own_calibration: OwnCalibration | Uncalibrated | None = Field(
        None,
        description="What the device's own calibration holds, or “unknown”; null where its numbers "
        "are calibrated.",
    )


class GamepadSpec(AxesSpec):
    kind: Literal["gamepad"]
    name: Line = Field(description="What the browser calls it.")


class HidAxis(Request):
    """One axis of a device's reports, as /api/sources/hid-axes tells it. bit: where it begins;
    size: in bits."""

    name: Line
    report: int = Field(ge=0, le=255)
    bit: int = Field(ge=0, le=65_535)
    size: int = Field(ge=2, le=32)
    lo: int = Field(ge=-(2**31), le=2**32)
    hi: int = Field(ge=-(2**31), le=2**32)


class HidSpec(RawSpec):
    """axes: all of the device's; axis_x and axis_y are places among them."""

    kind: Literal["hid"]
    name: Line = Field(description="What the device calls itself.")
    axes: list[HidAxis] = Field(min_length=1, max_length=64)


class HidrawSpec(RawSpec):
    kind: Literal["hidraw"]
    path: Line = Field(description="One of those that /api/sources lists.")


class HidCollections(Request):
    """The collections of a HID device as a browser tells them."""

    collections: list[dict[str, Any]] = Field(max_length=200)


class SerialSpec(Request):
    kind: Literal["serial"]
    port: Line = Field(description="One of those that /api/sources lists.")


class EventDeviceSpec(RawSpec):
    kind: Literal["event-device"]
    path: Line = Field(description="One of those that /api/sources lists.")


AnySource = StandInSpec | GamepadSpec | HidSpec | SerialSpec | EventDeviceSpec | HidrawSpec


class NewTake(Request):
    stick: Line
    source: AnySource = Field(discriminator="kind")
    routine_id: Line | None = Field(None, description="The one that fits the stick, if left out.")
    calibration: Calibration = "unknown"
    power: Power = "unknown"
    shell: Shell = "unknown"
    role: Line = ""
    together: Line = Field("", description="Shared by takes that are made in one go.")
    study_id: Key | None = None


LimitValue = Annotated[float, Field(ge=0, le=1e6)]
"""Finite, so that it can be written back."""


class SensorBody(Request):
    axis: Literal["x", "y"]
    kind: ModuleKind
    side: Side = ""
    ohms: int | None = Field(None, ge=1, le=10_000_000)


class StickBody(Request):
    name: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^\S(.*\S)?$")]
    axes: Literal[1, 2]
    sprung: bool
    gate: Gate
    sensors: list[SensorBody] = Field(max_length=2)
    footprint: Annotated[str, Field(max_length=80)] = ""


class ModelBody(Request):
    name: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    sticks: list[StickBody] = Field(min_length=1, max_length=8)
    bits: int = Field(ge=4, le=24)
    rate_hz: float = Field(ge=1, le=20_000)
    lo: float = Field(ge=-1e9, le=1e9)
    hi: float = Field(ge=-1e9, le=1e9)
    limits: dict[str, dict[Grade, LimitValue]] = {}
    note: Text = ""
    sheet: SheetBody = Field(default_factory=lambda: SheetBody.model_validate({}))


class RoutineBody(Request):
    name: Annotated[str, Field(min_length=1, max_length=80)]
    steps: list[StepName] = Field(min_length=1, max_length=7)
    still_s: float = Field(10, ge=5, le=3600)
    releases: int = Field(2, ge=1, le=6)
    laps: int = Field(2, ge=1, le=6)
    passes: int = Field(4, ge=2, le=20)
    hold_s: float = Field(3, ge=2, le=20)
    note: Annotated[str, Field(max_length=500)] = ""


class StudyStickBody(Request):
    job_id: Key
    stick: Line


class NewStudy(Request):
    """A bench check: one stick by one role three times or more; a gauge study: several of each."""

    source_kind: SourceKind
    source_name: Line
    roles: list[Line] = Field(min_length=1, max_length=10)
    sticks: list[StudyStickBody] = Field(min_length=1, max_length=30)
    trials: int = Field(3, ge=2, le=20)
    routine_id: Line = "quick"


class SpanSpec(Request):
    """Where a step lies, in seconds from the first sample."""

    step: StepName
    from_s: float = Field(ge=0, le=1e6)
    to_s: float = Field(ge=0, le=1e6)


class MappingSpec(Request):
    """Which column is what, in a CSV that is not a recording file. whole_step, where no column names
    the steps: the one that all of it is, or the stick's usual routine, whose steps are found, or are
    where spans say. rate_hz: samples a second, where no column says the time."""

    delimiter: Literal[",", ";", "\t", "|", " "] = ","
    time: Line | None = None
    time_unit: TimeUnit = "us"
    rate_hz: float | None = Field(None, ge=1.0, le=100_000.0)
    x: Line
    y: Line | None = None
    range_x: tuple[float, float]
    range_y: tuple[float, float] | None = None
    y_positive: Literal["up", "down"] = "up"
    step: Line | None = None
    whole_step: StepName | Literal["routine"] | None = None
    spans: list[SpanSpec] | None = Field(None, max_length=60)
    decimal_point: Literal[".", ","] = "."


class Health(BaseModel):
    version: str


class ReadingInfo(BaseModel):
    """A reading's name on the bench, and its limits by grade. axes: how many a stick has that it
    applies to."""

    path: str
    label: str
    unit: str
    aim: Aim
    tells: str
    headline: bool
    axes: list[int]
    limits: dict[Grade, float] | None
    reason: str | None


class RemedyInfo(BaseModel):
    """A remedy as the table has it, its cautions in full."""

    remedy: Remedy
    is_work: bool
    needs: str
    cautions: list[Caution]
    fields: list[WorkField]


class ConditionInfo(BaseModel):
    """Something that can be wrong with a stand-in. unsprung: also where there is no spring."""

    id: str
    label: str
    kinds: tuple[SensorKind, ...]
    unsprung: bool


class TakeInWords(BaseModel):
    """How what is asked at take-in is put."""

    labels: dict[str, str]
    tried: dict[Tried, str]
    waiting: dict[Waiting, str]
    ended: dict[JobEnding, str]
    moves: str
    refer: str


class Catalogue(BaseModel):
    """The tables of the core that a screen needs: readings, grades, steps, stations, remedies and
    their cautions, what is waited for, and what a teardown has."""

    readings: list[ReadingInfo]
    grades: dict[Grade, str]
    steps: dict[StepName, str]
    stations: tuple[StationInfo, ...]
    remedies: list[RemedyInfo]
    conditions: list[ConditionInfo]
    take_in: TakeInWords
    waits: dict[WaitKind, str]
    step_kinds: dict[StepKind, str]
    batteries: dict[Battery, str]
    sources: tuple[SourceInfo, ...]


class Sources(BaseModel):
    """What this machine offers besides what the browser sees. advice: what to do about the rest."""

    serial: list[Port]
    event_devices: list[Device]
    advice: str | None
    raw_devices: list[RawDevice]
    raw_advice: str | None


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
