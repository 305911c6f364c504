"""Whether what was wrong with a stick was looked at again: a shorter routine does not go through every
step that showed it, and then finds nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import sqrt

from hollow_pin.core.diagnosis import diagnose, faults_in
from hollow_pin.core.hidden import AT_ZERO
from hollow_pin.core.job import Asked
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import Grade, Limits
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.routine import BY_ID, STEP_LABEL, StepName
from hollow_pin.core.steps_read import needed_steps, other_steps
from hollow_pin.core.words import listed

QUICK = BY_ID["quick"]
ON_A_STEP = sqrt(1.0 - AT_ZERO)
"""Jitter over the step of its converter, up to which as much of a rest reads alike as makes one of
exactly zero."""


def not_looked_at_again(
    earlier: Sequence[TakeReadings], now: TakeReadings | None, limits: Limits, grade: Grade
) -> tuple[StepName, ...]:
    """The steps that something was wrong by in an earlier take of a stick, and that no later one went
    through: without that step less would have been wrong. earlier: oldest first; now: None where
    nothing was measured since."""
    missing: set[StepName] = set()
    later = _read_in(now) if now is not None else set()
    for take in reversed(earlier):
        alone = _read_in(take) - later
        if alone:
            whole = faults_in(JudgedTake(take, grade, limits))
            missing |= {
                step
                for step in alone
                if whole - faults_in(JudgedTake(_without(take, step), grade, limits))
            }
        later |= alone
    return tuple(step for step in STEP_LABEL if step in missing)


def asked_after(
    earlier: Sequence[TakeReadings], now: TakeReadings, limits: Limits, grade: Grade
) -> Asked:
    """What a take asks for, by itself; where that is nothing, to be measured again while something
    that an earlier one showed was not looked at again."""
    asks = diagnose(JudgedTake(now, grade, limits)).asks
    if asks == "nothing" and not_looked_at_again(earlier, now, limits, grade):
        return "again"
    return asks


def unseen_words(steps: Sequence[StepName]) -> str:
    """That of some steps, where there are any, in a sentence."""
    if not steps:
        return ""
    names = listed([STEP_LABEL[step] for step in steps])
    return f"What was wrong showed in {names}, and that was not measured again."


def quick_does(takes: Sequence[TakeReadings], limits: Limits, grade: Grade) -> bool:
    """Whether the quick routine goes through everything that is to be looked at again after some
    takes, oldest first. By a source so coarse that the newest lay on one of its steps it does not:
    mended, the stick rests at exactly zero there, which only a Crossing tells from a dead zone."""
    if takes and (not _fits(takes[-1]) or _lies_on_a_step(takes[-1])):
        return False
    return set(not_looked_at_again(takes, None, limits, grade)) <= set(QUICK.steps)


def _fits(take: TakeReadings) -> bool:
    """Whether the quick routine is one for a stick of its kind."""
    return not QUICK.unfit(len(take.recording.axes), sprung=take.turn is None)


def _lies_on_a_step(take: TakeReadings) -> bool:
    """Whether an axis hardly ever reads anything else while it rests."""
    still = take.still
    if still is None:
        return False
    axes = [(still.jitter_x, still.resolution_x)]
    if still.jitter_y is not None and still.resolution_y is not None:
        axes.append((still.jitter_y, still.resolution_y))
    return any(jitter <= ON_A_STEP * step for jitter, step in axes)


def _read_in(take: TakeReadings) -> set[StepName]:
    """The steps that a take went through, on every side, so that they could be read."""
    if take.turn is not None:
        return {"turn"}
    steps = needed_steps(take) | other_steps(take)
    return {step for step, result in steps.items() if result is not None}


def _without(take: TakeReadings, step: StepName) -> TakeReadings:
    match step:
        case "still":
            return replace(take, still=None)
        case "let-go":
            return replace(take, let_go=None)
        case "rim":
            return replace(take, rim=None)
        case "hold":
            return replace(take, hold=None)
        case "turn":
            return replace(take, turn=None)
        case _ if take.crossing is None:
            return take
        case "crossing-x":
            return replace(take, crossing=replace(take.crossing, x=None))
        case "crossing-y":
            return replace(take, crossing=replace(take.crossing, y=None))
