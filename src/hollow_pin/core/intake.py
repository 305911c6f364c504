"""Taking in: what is asked when a controller comes, and what the answers rule out."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

from hollow_pin.core.remedies import BY_CODE, JobEnding
from hollow_pin.core.words import hours_words

Answer = Literal["", "yes", "no"]
"""Empty: not asked yet."""
Often = Literal["", "always", "sometimes"]
Seal = Literal["", "whole", "broken", "none"]
Tried = Literal["sprayed", "cleaned", "recalibrated", "opened", "parts"]
Waiting = Literal["", "part", "owner", "second-person", "other"]

MOVES = "Does it move people, vehicles, lifting gear or medical equipment?"
MOVES_PEOPLE = "It moves people, vehicles, lifting gear or medical equipment"
REFER = (
    f"{MOVES_PEOPLE}: measure if asked, record, and refer it to the maker or a licensed service. "
    "Nobody signs it off here."
)

TRIED_LABEL: dict[Tried, str] = {
    "sprayed": "Sprayed",
    "cleaned": "Cleaned",
    "recalibrated": "Recalibrated",
    "opened": "Opened",
    "parts": "Parts changed",
}
ENDED_LABEL: dict[JobEnding, str] = {
    "signed-off": "Signed off as fit",
    "as-it-was": "Goes back as it is",
    "referred": "Referred to the maker or a licensed service",
    "withdrawn": "Taken in by mistake",
    "unsaid": "Closed",
}
WAITING_LABEL: dict[Waiting, str] = {
    "": "not waiting",
    "part": "a part",
    "owner": "the owner",
    "second-person": "a second person to play it",
    "other": "something else",
}


@dataclass(frozen=True)
class Intake:
    """What is asked when a controller comes. hours: clock hours the stick goes toward. promised_on:
    a date, ISO 8601, or empty."""

    hours: tuple[int, ...] = ()
    often: Often = ""
    since: str = ""
    flick_clears: Answer = ""
    tried: tuple[Tried, ...] = ()
    tried_note: str = ""
    liquid: Answer = ""
    seal: Seal = ""
    warranty: Answer = ""
    consent: Answer = ""
    cosmetic: str = ""
    accessories: str = ""
    promised_on: str = ""
    price: str = ""


LABEL: dict[str, str] = {
    "complaint": "Complaint",
    "stick": "Stick",
    "moves": MOVES.rstrip("?"),
    "hours": "Goes toward",
    "often": "How often",
    "since": "Since",
    "flick_clears": "A flick clears it",
    "tried": "Tried before",
    "tried_note": "What exactly was tried",
    "liquid": "Liquid",
    "seal": "Seal",
    "warranty": "Under warranty",
    "consent": "The owner agrees to opening",
    "cosmetic": "Marks and wear",
    "accessories": "Came with",
    "promised_on": "Promised for",
    "price": "Price agreed",
}


def in_words(field: str, value: object, axes: int) -> str:
    """An answer about a stick of so many axes, as it is read: “10 and 11 o’clock”, “yes”, “not
    asked”."""
    if field == "hours" and isinstance(value, tuple) and value:
        return hours_words(value, axes)
    if field == "tried" and isinstance(value, tuple) and value:
        return ", ".join(TRIED_LABEL[t] for t in value).capitalize()
    return str(value) if value else "not asked"


@dataclass(frozen=True)
class IntakeAnswer:
    """An answer as it is read: what was asked, and what was said."""

    label: str
    words: str


def intake_answers(intake: Intake, axes: int) -> tuple[IntakeAnswer, ...]:
    """Everything that was asked about a stick of so many axes, in the order it is asked."""
    answers = []
    for field in fields(intake):
        value = getattr(intake, field.name)
        if value:
            answers.append(IntakeAnswer(LABEL[field.name], in_words(field.name, value, axes)))
    return tuple(answers)


def why_not_worked_on(remedy: str, intake: Intake, refer: bool) -> str | None:
    """Why a remedy may not be done, or None."""
    if refer:
        return None if BY_CODE[remedy].ends == "referred" else REFER
    if remedy == "passed-on" and intake.warranty != "yes":
        return "It is not known to be under warranty."
    return why_not_opened(intake, refer) if BY_CODE[remedy].opens else None


def why_not_opened(intake: Intake, refer: bool) -> str | None:
    """Why a shell may not be opened, or None."""
    if refer:
        return REFER
    if intake.consent == "no":
        return "The owner has not agreed to opening it. Ask again, and change it under Take in."
    if intake.warranty == "yes" and intake.consent != "yes":
        return "It is under warranty: pass it on first, or ask the owner to agree to opening it."
    return None


def why_not_ended(ending: JobEnding, moves: Answer, refer: bool) -> str | None:
    """Why a job may not be closed that way, or None."""
    if refer and ending != "referred":
        return f"It can only be closed as referred. {REFER}"
    if ending == "signed-off" and moves != "no":
        return f"Answer first, under Take in: {MOVES}"
    if ending in ("withdrawn", "unsaid"):
        return "Say whether it is signed off, goes back as it is, or is referred."
    return None
