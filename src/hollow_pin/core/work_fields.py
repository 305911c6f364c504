"""What is put down of work besides a note: one row a field. Which remedies want which, the table of
remedies says."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Literal

from hollow_pin.core.calculators.iron import LIQUIDUS_C
from hollow_pin.core.words import lower_first

FieldKind = Literal["number", "choice", "yes", "text", "date"]
Value = float | bool | str
Details = Mapping[str, Value]
LONGEST = 500


@dataclass(frozen=True)
class Choice:
    """One of several. when: when it is the one to choose, where technicians differ."""

    code: str
    label: str
    when: str = ""


@dataclass(frozen=True)
class WorkField:
    """label: as it is asked; said: as it stands on record, with {} for what was put down. least, most:
    of a number, whole where whole is set. usual: what it begins with."""

    code: str
    label: str
    kind: FieldKind
    said: str
    unit: str = ""
    least: float = 0.0
    most: float = 0.0
    whole: bool = False
    choices: tuple[Choice, ...] = ()
    hint: str = ""


class DetailError(ValueError):
    """What was put down cannot stand so. field: the code of which."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


FIELDS: tuple[WorkField, ...] = (
    WorkField(
        "solvent",
        "Solvent",
        "choice",
        "{}",
        choices=(
            Choice("isopropyl", "Isopropyl, high purity", "the usual one; dry before refitting"),
            Choice("acetone", "Acetone", "strong and flammable; attacks many plastics: test first"),
            Choice("spray", "Spray through the gap", "nothing is opened; leaves what it loosened"),
            Choice("dry", "Dry swab only", "where no solvent may be used"),
        ),
    ),
    WorkField("passes", "Passes", "number", "{} passes", least=1, most=50, whole=True),
    WorkField("swab_clean", "The last swab stayed clean", "yes", "the last swab stayed clean"),
    WorkField("gap_mm", "Gap left", "number", "gap {} mm", "mm", 0.0, 3.0),
    WorkField("lubricant", "Lubricant", "text", "lubricant {}", hint="The smallest trace."),
    WorkField(
        "place",
        "Where",
        "text",
        "at {}",
        hint="At the bearing with a fine point, never on a track.",
    ),
    WorkField("trim_ohms", "Trims, ohms", "number", "trims of {} Ω", "Ω", 100, 10_000_000),
    WorkField("series_ohms", "In series, ohms", "number", "{} Ω in series", "Ω", 0, 10_000_000),
    WorkField("setting_x", "Setting of x", "number", "x set to {} %", "%", 0, 100),
    WorkField("setting_y", "Setting of y", "number", "y set to {} %", "%", 0, 100),
    WorkField(
        "removal",
        "How the old one came out",
        "choice",
        "taken out: {}",
        choices=(
            Choice("cut", "Cut up, piece by piece", "sacrifices the part and spares the board"),
            Choice("solder", "Leaded solder added, drawn off", "lifts it whole, with patience"),
            Choice("vacuum", "Vacuum or hot air", "where the tool is there; mind what lies near"),
        ),
        hint="Heat does the work: never pull, pry or scrape.",
    ),
    WorkField(
        "alloy",
        "Alloy",
        "choice",
        "{}",
        choices=tuple(Choice(name, name) for name in LIQUIDUS_C),
    ),
    WorkField(
        "iron_c",
        "Iron",
        "number",
        "iron at {} °C",
        "°C",
        120,
        480,
        hint="The iron calculator gives a place to begin.",
    ),
    WorkField("flush", "Flush from both sides", "yes", "flush from both sides"),
    WorkField(
        "battery",
        "Battery",
        "choice",
        "battery: {}",
        choices=(
            Choice("disconnected", "Disconnected", "the default"),
            Choice("left", "Left connected", "only where the note on the model says so"),
            Choice("none", "There is none"),
        ),
    ),
    WorkField("consumables", "Used up", "text", "used up {}", hint="Swabs, braid, tape."),
    WorkField(
        "recheck_on",
        "Look at it again on",
        "date",
        "to be looked at again on {}",
        hint="A stopgap wears off.",
    ),
    WorkField("minutes", "Minutes", "number", "{} min", most=6000),
)
BY_CODE = {f.code: f for f in FIELDS}
PLACE = {f.code: i for i, f in enumerate(FIELDS)}
_DATE = re.compile(r"\d{4}-\d{2}-\d{2}")


def in_order(codes: tuple[str, ...]) -> tuple[WorkField, ...]:
    """Fields by their codes, each once, in the order they are asked."""
    return tuple(BY_CODE[code] for code in sorted(set(codes), key=PLACE.__getitem__))


def checked(codes: tuple[str, ...], details: Details) -> dict[str, Value]:
    """What was put down, as it is kept: nothing that is empty, in the order of the fields. Raises
    DetailError for a field that the work has not, or a value that cannot be."""
    for code in details:
        if code not in codes:
            raise DetailError(code, f"This work has no field {code}.")
    values: dict[str, Value] = {}
    for field in in_order(codes):
        value = details.get(field.code)
        if value is None or value == "" or value is False:
            continue
        values[field.code] = _checked(field, value)
    return values


def _checked(field: WorkField, value: Value) -> Value:
    match field.kind:
        case "yes":
            if value is not True:
                raise DetailError(field.code, f"{field.label}: yes, or nothing.")
        case "number":
            return _number(field, value)
        case "choice":
            if value not in {c.code for c in field.choices}:
                codes = ", ".join(c.code for c in field.choices)
                raise DetailError(field.code, f"{field.label}: one of {codes}.")
        case "date":
            return _date(field, value)
        case "text":
            if not isinstance(value, str) or len(value) > LONGEST:
                raise DetailError(field.code, f"{field.label}: up to {LONGEST} characters.")
            return value.strip()
    return value


def _number(field: WorkField, value: Value) -> float:
    if isinstance(value, bool | str) or not field.least <= value <= field.most:
        unit = f" {field.unit}" if field.unit else ""
        raise DetailError(field.code, f"{field.label}: {field.least:g} to {field.most:g}{unit}.")
    if field.whole and value != int(value):
        raise DetailError(field.code, f"{field.label}: a whole number.")
    return float(value)


def _date(field: WorkField, value: Value) -> str:
    wrong = DetailError(field.code, f"{field.label}: a date such as 2026-05-01.")
    if not isinstance(value, str) or not _DATE.fullmatch(value):
        raise wrong
    try:
        date.fromisoformat(value)
    except ValueError:
        raise wrong from None
    return value


def in_words(details: Details) -> str:
    """What was put down, as it stands in the ledger; empty where nothing was."""
    parts = []
    for field in in_order(tuple(code for code in details if code in BY_CODE)):
        value = details[field.code]
        if field.kind == "choice":
            labels = {c.code: c.label for c in field.choices}
            label = labels.get(str(value), str(value))
            value = label if field.code == "alloy" else lower_first(label)
        shown_value = f"{value:g}" if isinstance(value, float) else str(value)
        words = field.said.format(shown_value)
        parts.append("1 pass" if words == "1 passes" else words)
    text = ", ".join(parts)
    return f"{text[:1].upper()}{text[1:]}." if text else ""
