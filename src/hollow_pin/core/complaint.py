"""What the owner told against what was measured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hollow_pin.core.causes import SOUND
from hollow_pin.core.geometry import clock_hour
from hollow_pin.core.intake import Intake
from hollow_pin.core.ranking import Ranked
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.words import hours_words, percent

FAR_HOURS = 3
"""Clock hours off, from which on it goes another way than was told."""
FELT = 2.0
"""%, of a rest that an owner may speak of as going somewhere."""


@dataclass(frozen=True)
class ComplaintCheck:
    """said: what the complaint and the take say of each other, in sentences. reproduced: whether what
    was complained of was found; None where nothing was told. try_next: what may bring it out."""

    said: tuple[str, ...]
    reproduced: bool | None
    try_next: str | None


DOES_NOT_SHOW = "What was complained of does not show in this take."
BELOW = "Nothing that shows in this take is over its limit."
TRY = (
    "Try to bring it out: a soak of half an hour, warm, after use; move the cable and press the shell "
    "while it rests. If it does not show, say so and hand it back as not reproduced."
)


def held_against(
    intake: Intake,
    complaint: str,
    take: TakeReadings,
    causes: Sequence[Ranked],
    nothing_asked: bool = False,
) -> ComplaintCheck:
    """Hold a complaint against a take. nothing_asked: nothing of it is surely over its limit; what is
    likely shows below that."""
    asked = bool(complaint.strip() or intake.hours or intake.often)
    top = causes[0] if causes else None
    sound = top is not None and top.cause == SOUND and top.likely
    remarks = [s for s in (_direction(intake, take), _flick(intake, causes)) if s]
    reproduced: bool | None = None
    if asked:
        reproduced = not (sound or nothing_asked)
        if not reproduced:
            often = " It was told to come only sometimes." if intake.often == "sometimes" else ""
            remarks.append(f"{DOES_NOT_SHOW if sound else BELOW}{often}")
        elif intake.often == "sometimes":
            remarks.append("It was told to come only sometimes, and shows now.")
    return ComplaintCheck(tuple(remarks), reproduced, TRY if reproduced is False else None)


def _direction(intake: Intake, take: TakeReadings) -> str | None:
    still = take.still
    if not intake.hours or still is None or take.hidden_at("still.rest_offset"):
        return None
    axes = len(take.recording.axes)
    direction = hours_words(intake.hours, axes)
    u = take.uncertainty.get("still.rest_offset", 0.0)
    if still.rest_offset <= max(FELT, 2 * u):
        rests = f"it rests {percent(still.rest_offset)} from zero"
        return f"It was told to go toward {direction}; {rests}."
    hour = clock_hour(still.rest_bearing)
    apart = min(min((hour - h) % 12, (h - hour) % 12) for h in intake.hours)
    does = "; it rests" if apart >= FAR_HOURS else ", and rests"
    return f"It was told to go toward {direction}{does} toward {hours_words([hour], axes)}."


def _flick(intake: Intake, causes: Sequence[Ranked]) -> str | None:
    if intake.flick_clears != "yes":
        return None
    matching = {"worn", "dirty", "binding", "loose"}
    top = next((c for c in causes if c.cause != SOUND and c.likely), None)
    if top is None:
        return None
    if top.cause in matching:
        return "A flick clears it: that goes with what was found."
    return (
        "A flick is said to clear it: that speaks for wear, dirt or a bind beside what was found."
    )
