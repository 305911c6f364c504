"""What is wrong with a stick, by its readings, and which remedy to begin with.

The findings are a table, looked through from the top: the first whose test holds is what is said.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.advice_words import (
    STILL_AGAIN,
    as_one_advice,
    cut_off_advice,
    missing_advice,
    other_gate_advice,
    others_over_advice,
    rests_advice,
    rough_at_its_limit_advice,
    rough_within_advice,
    scale_advice,
    too_near_advice,
    trembling_advice,
    within_advice,
)
from hollow_pin.core.job import Asked
from hollow_pin.core.judged import (
    JudgedTake,
    alike_all_round,
    as_one,
    at_zero,
    carried_unseen,
    cross_talk,
    cut_off,
    dead_spans,
    fails_when_held,
    falls_when_pushed,
    incomplete,
    is_felt,
    is_held_on_its_way,
    jumps,
    measured_once,
    needs_dead_zone,
    noise_is_most,
    noise_is_most_of_the_rest,
    not_at_rest,
    one_axis_trembles,
    other_gate,
    recentring_is_enough,
    returns_apart,
    rim_is_off,
    rim_mends,
    rough,
    rough_at_its_limit,
    rough_in_places,
    runs_over,
    something_hidden,
    spiky,
    stuck,
    touched,
    trembles,
    trembles_everywhere,
    uncalibrated,
    wanders,
    wanders_as_one,
)
from hollow_pin.core.readings import leaves_a_zone, nothing_moved
from hollow_pin.core.rough_place import rough_place

Remedy = Literal["recalibrated", "cleaned", "replaced", "none", "measure"]
FindingCode = Literal[
    "jumps", "dirt", "apart", "wanders", "as one", "everywhere", "alone", "falls", "fails", "off",
    "carried", "scale", "shape", "ends", "late", "missing", "near", "within",
]  # fmt: skip
"""What a finding is: jumps to an end or the middle; spikes with hands off or rough places along
the track; returns to different places; that it wanders; both axes that tremble as one, or a single one
that does so alike everywhere; one that trembles and another that does not; that it falls back where it
was pushed alone, or where it was held; returns to one place that is not zero; that one axis moves the
other; a rim that is off in scale or centre, or out of shape, or runs over the ends of its range; that
it comes back late; that something was not measured; that something is too near its limit to call; or
that every reading that has a limit is surely within it, and nothing is hidden or missing."""


@dataclass(frozen=True)
class Finding:
    """holds: whether it is so; advice: what to do about it, in a sentence, or how it is made of the
    case; code: what it is in a word, or how it is made of the case, where anything goes by it; again:
    whether nothing but another measurement tells what is to be done."""

    holds: Callable[[JudgedTake], bool]
    advice: str | Callable[[JudgedTake], str]
    try_first: Remedy
    code: FindingCode | Callable[[JudgedTake], FindingCode | None] | None = None
    again: bool = False


@dataclass(frozen=True)
class Advice:
    """words: what to do; try_first: the remedy to begin with; again: whether nothing but another
    measurement tells what is to be done."""

    words: str
    try_first: Remedy
    again: bool

    @property
    def asks(self) -> Asked:
        """For nothing, for another measurement, or for something to be done."""
        return asked_by(self.try_first, self.again)


def _how_it_trembles(case: JudgedTake) -> FindingCode | None:
    if trembles_everywhere(case):
        return "everywhere"
    return "alone" if one_axis_trembles(case) else None


def _off_the_ends(case: JudgedTake) -> FindingCode | None:
    return "ends" if runs_over(case) else "scale"


FINDINGS: tuple[Finding, ...] = (
    Finding(
        lambda case: nothing_moved(case.take),
        "Nothing moved in it: another stick was moved, or no signal comes from this one. See that it "
        "is the stick that was chosen; if it is, see to its plug, ribbon and supply.",
        "measure",
        again=True,
    ),
    Finding(
        lambda case: any(s.how == "stops" for s in case.take.silent),
        "One end of an axis is not reached: either it was learnt from something else, or the track is "
        "broken there. Recalibrate, extents first; if it still stops, replace the module.",
        "recalibrated",
    ),
    Finding(
        lambda case: bool(case.take.silent),
        "An axis gives no signal: its joint, trace, plug or ribbon is open, or its sensor is dead. "
        "See that the source reads the right axis; then reseat and reflow, with the power off, before "
        "a module goes.",
        "measure",
    ),
    Finding(
        jumps,
        "It jumps to an end or to the middle and back: a loose joint, plug or ribbon. Press the board "
        "and move the cable while you watch; reseat or reflow before anything else.",
        "measure",
        "jumps",
    ),
    Finding(
        stuck,
        "It does not always come back: look for a rub, a bind or a loose joint before anything else.",
        "measure",
    ),
    Finding(
        spiky,
        "Spikes with hands off speak for dirt on the track: clean it first.",
        "cleaned",
        "dirt",
    ),
    Finding(
        dead_spans,
        "There are places on the track that pass after pass jumps over: replace the module.",
        "replaced",
    ),
    Finding(
        falls_when_pushed,
        "It falls back while it is pushed, and was not seen to in a Hold: hold it over at each side. "
        "If it falls back there, the track fails, and the module is to be replaced.",
        "measure",
        "falls",
        again=True,
    ),
    Finding(
        fails_when_held,
        "It falls back while it is held at the edge: the track fails there. Replace the module.",
        "replaced",
        "fails",
    ),
    Finding(
        lambda case: case.over("hold.sag") and not wanders_as_one(case),
        "It falls back while it is held at the edge. Hold it there again, pressed firmly: if it was "
        "not the hand that gave way, the track fails there, and the module is to be replaced.",
        "replaced",
    ),
    Finding(
        touched,
        f"{STILL_AGAIN} If nobody touched it, a contact is failing.",
        "measure",
        again=True,
    ),
    Finding(
        as_one,
        as_one_advice,
        "measure",
        "as one",
    ),
    Finding(
        rough_in_places,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
        "dirt",
    ),
    Finding(
        is_held_on_its_way,
        "It comes back to different places, along the way it came and to one side: a rub, a bind or a "
        "dry bearing. See what holds it before any part goes.",
        "measure",
    ),
    Finding(
        returns_apart,
        "It comes back to different places: wear or a bind. If nothing rubs, replace the module.",
        "replaced",
        "apart",
    ),
    Finding(
        wanders,
        "It wanders with hands off: a contact that is worn or failing. No calibration holds it; "
        "replace the module.",
        "replaced",
        "wanders",
    ),
    Finding(
        lambda case: is_felt(case.take) and leaves_a_zone(case.take),
        "With hands off it leaves the dead zone of its source now and then: it wanders or trembles in "
        "there, and how far does not show. Measure by a rawer source before anything is cleaned.",
        "measure",
        "missing",
        again=True,
    ),
    Finding(
        noise_is_most,
        trembling_advice,
        "cleaned",
        _how_it_trembles,
    ),
    Finding(
        recentring_is_enough,
        "It comes back to one place, only not to zero: recalibrate before anything else.",
        "recalibrated",
        "off",
    ),
    Finding(
        lambda case: needs_dead_zone(case) and noise_is_most_of_the_rest(case),
        trembling_advice,
        "cleaned",
        _how_it_trembles,
    ),
    Finding(
        needs_dead_zone,
        "Even recentred it would need more dead zone than the limit: replace the module.",
        "replaced",
        "apart",
    ),
    Finding(
        rough,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
        "dirt",
    ),
    Finding(
        trembles,
        trembling_advice,
        "cleaned",
        _how_it_trembles,
    ),
    Finding(
        cross_talk,
        "One axis moves the other: see that the module sits flush and straight, then measure again.",
        "measure",
        "carried",
    ),
    Finding(
        rim_mends,
        scale_advice,
        "recalibrated",
        _off_the_ends,
    ),
    Finding(
        lambda case: case.over("composite.outer_dead_zone_needed"),
        "It stops short of an end of its range: recalibrate, extents first.",
        "recalibrated",
        "scale",
    ),
    Finding(
        other_gate,
        other_gate_advice,
        "measure",
    ),
    Finding(
        alike_all_round,
        "The rim is out of shape alike in all four quarters, as nothing that rubs makes it: a curve "
        "that the device lays over its reports, or another gate than the model’s. Measure by a rawer "
        "source.",
        "measure",
        again=True,
    ),
    Finding(
        rim_is_off,
        "The rim itself is out of shape: see that the module sits flush and nothing rubs.",
        "replaced",
        "shape",
    ),
    Finding(
        cut_off,
        cut_off_advice,
        "recalibrated",
        "ends",
    ),
    Finding(
        lambda case: case.over("let_go.settle_ms_p90"),
        "It comes back late: look for a rub, a dry bearing or a tired spring.",
        "measure",
        "late",
    ),
    Finding(lambda case: bool(case.with_verdict("over")), others_over_advice, "measure"),
    Finding(
        uncalibrated,
        "Nothing that a calibration leaves as it is lies over its limit. Where it rests and how far "
        "it reaches is for the device's own calibration: enter what it holds, or see it on what it "
        "is plugged into.",
        "measure",
        again=True,
    ),
    Finding(
        carried_unseen,
        "Nothing that shows lies over its limit. What one axis carries along of the other does not "
        "show by this source: measure that by a rawer one.",
        "measure",
        again=True,
    ),
    Finding(
        at_zero,
        "It rests at exactly zero and never trembles: a dead zone of the source does that, and a "
        "coarse source of a sound stick. Cross the middle slowly, to and fro: that tells which.",
        "measure",
        "missing",
        again=True,
    ),
    Finding(
        something_hidden,
        "The source hides something, so nothing here may pass for health: measure by a rawer source "
        "before it is called fixed.",
        "measure",
        again=True,
    ),
    Finding(
        lambda case: bool(not_at_rest(case)),
        rests_advice,
        "measure",
        "missing",
        again=True,
    ),
    Finding(
        incomplete,
        missing_advice,
        "measure",
        "missing",
        again=True,
    ),
    Finding(
        rough_at_its_limit,
        rough_at_its_limit_advice,
        "cleaned",
        "dirt",
    ),
    Finding(
        lambda case: bool(case.with_verdict("borderline") or measured_once(case)),
        too_near_advice,
        "none",
        "near",
    ),
    Finding(
        lambda case: rough_place(case.take) is not None,
        rough_within_advice,
        "cleaned",
        "dirt",
    ),
    Finding(lambda *_: True, within_advice, "none", "within"),
)


def asked_by(try_first: Remedy, again: bool) -> Asked:
    """What is asked for by what is to be tried first."""
    if try_first == "none":
        return "nothing"
    return "again" if again else "something"


def diagnose(case: JudgedTake) -> Advice:
    """The first finding whose test holds."""
    finding = next(f for f in FINDINGS if f.holds(case))
    words = finding.advice if isinstance(finding.advice, str) else finding.advice(case)
    return Advice(words, finding.try_first, finding.again)


def first_finding_code(case: JudgedTake) -> FindingCode | None:
    """The code of the first finding of a take; None where nothing goes by it."""
    code = next(f.code for f in FINDINGS if f.holds(case))
    return code(case) if callable(code) else code


def faults_in(case: JudgedTake) -> set[str]:
    """Everything a take asks for something to be done about, not the first thing alone: findings, by
    their place in the list, and readings that are surely over their limits, by their path."""
    found = {
        str(place)
        for place, f in enumerate(FINDINGS)
        if asked_by(f.try_first, f.again) == "something" and f.holds(case)
    }
    return found | set(case.with_verdict("over"))
