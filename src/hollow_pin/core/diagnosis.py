"""What is wrong with a stick, by its readings, and which remedy to begin with.

The findings are a table, looked through from the top: the first whose test holds is what is said.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.judged import (
    SCALE,
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
    gate_problem,
    incomplete,
    is_held_on_its_way,
    jumps,
    measured_once,
    needs_dead_zone,
    noise_is_most,
    not_at_rest,
    one_axis_trembles,
    other_gate,
    other_steps,
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
    struck_as_one,
    stuck,
    touched,
    trembles,
    trembles_everywhere,
    uncalibrated,
    unmeasured,
    wanders,
    wanders_as_one,
)
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.readings import (
    TakeReadings,
    nothing_moved,
    of_a_touch,
    trembles_by_place,
)
from hollow_pin.core.rough_place import rough_place
from hollow_pin.core.routine import STEP_LABEL
from hollow_pin.core.still import COARSE_STEP
from hollow_pin.core.words import listed, percent

STILL_AGAIN = "It moved in Still, as far as by a touch: take Still again, hands off."

Remedy = Literal["recalibrated", "cleaned", "replaced", "none", "measure"]
FindingCode = Literal[
    "jumps", "dirt", "wanders", "as one", "everywhere", "alone", "falls", "fails", "shape", "ends",
    "missing", "near", "within",
]  # fmt: skip
"""What a finding is: jumps to an end or the middle; spikes with hands off or rough places along
the track; that it wanders; both axes that tremble as one, or a single one that does so alike
everywhere; one that trembles and another that does not; that it falls back where it was pushed alone,
or where it was held; a rim that is out of shape; one that runs over the ends of its range; that
something was not measured; that something is too near its limit to call; or that every reading that
has a limit is surely within it, and nothing is hidden or missing."""


@dataclass(frozen=True)
class Finding:
    """holds: whether it is so; advice: what to do about it, in a sentence, or how it is made of the
    case; code: what it is in a word, or how it is made of the case, where anything goes by it."""

    holds: Callable[[JudgedTake], bool]
    advice: str | Callable[[JudgedTake], str]
    try_first: Remedy
    code: FindingCode | Callable[[JudgedTake], FindingCode | None] | None = None


@dataclass(frozen=True)
class Advice:
    words: str
    try_first: Remedy


def _by_trembling(case: JudgedTake) -> str:
    if trembles_everywhere(case):
        return (
            "It trembles more than it should, and alike wherever it is, which dirt does not: try "
            "another cable, port or battery first, then clean the track."
        )
    if one_axis_trembles(case):
        return (
            "One axis trembles more than it should and the other does not: that is its own contact or "
            "sensor, and no cable. Clean its track first."
        )
    return "It trembles more than it should: try another cable or port, then clean the track."


def _by_gate(case: JudgedTake) -> str:
    return f"{gate_problem(case)} Nothing about its rim can be judged before that."


def _by_rests(case: JudgedTake) -> str:
    places = not_at_rest(case)
    thirds = "third" if len(places) == 1 else "thirds"
    return (
        f"It was not seen at rest in the {listed(list(places))} {thirds} of its travel: either it was "
        "not left alone there for five seconds, or it does not stay where it is left. Turn it again, "
        "and watch it with hands off."
    )


def _named(paths: list[str]) -> str:
    labels = [BY_PATH[p].label for p in paths]
    return listed([f"{name[0].lower()}{name[1:]}" for name in labels])


def _too_near(case: JudgedTake) -> str:
    near, once = case.with_verdict("borderline"), measured_once(case)
    reasons = [f"too near its limit to call: {_named(near)}"] if near else []
    reasons += [f"measured too few times to call: {_named(once)}"] if once else []
    again = "Measure again, and longer."
    step = case.take.still.resolution if case.take.still is not None else 0.0
    if of_a_touch(case.take) & {*near}:
        again = STILL_AGAIN
    elif step > COARSE_STEP:
        again = f"Its converter goes by steps of {percent(step)}: a finer source would tell."
    elif case.take.by_place.keys() & {*near} and trembles_by_place(case.take.by_place):
        again = "Let it go from another side, and take Still again: it may tremble there."
    return f"Nothing is over its limit; {'; '.join(reasons)}. {again}"


def _by_both(case: JudgedTake) -> str:
    do = "spike at one instant" if struck_as_one(case) else "tremble as one"
    return (
        f"Both axes {do}: that comes from the supply or the ground. Try another cable, port or "
        "battery before anything is opened."
    )


def _by_scale(case: JudgedTake) -> str:
    over = _named([path for path in SCALE if case.over(path)])
    return (
        f"The rim is off in scale or centre, not in shape: recalibrate, extents first. "
        f"Over its limit: {over}."
    )


def _by_the_ends(case: JudgedTake) -> str:
    """A round rim that is cut off on every side looks like a square one."""
    gate = gate_problem(case)
    sides = sum(h.code == "saturated" for h in case.take.hidden)
    on = ("one side", "two sides", "three sides", "all its sides")[min(sides, 4) - 1]
    sentence = (
        f"The rim runs into the end of its range on {on}, so what it is like there is not seen: "
        f"recalibrate, extents first, and measure again."
    )
    return f"{gate} If it is: {sentence[0].lower()}{sentence[1:]}" if gate else sentence


def _by_what_is_missing(case: JudgedTake) -> str:
    missing = [STEP_LABEL[step] for step in unmeasured(case.take)]
    if missing == [STEP_LABEL["rim"]]:
        return (
            "How far it reaches, and what its rim is like, was not measured: it takes a usable Rim."
        )
    rest = "The dead zone it needs was not measured: it takes a usable Still and Let-go."
    if STEP_LABEL["rim"] in missing:
        return f"{rest} Nor was how far it reaches: that takes a usable Rim."
    return rest


def _within(case: JudgedTake) -> str:
    left_out = [STEP_LABEL[step] for step, read in other_steps(case.take).items() if read is None]
    if case.take.hold and left_out[-1:] == [STEP_LABEL["hold"]]:
        left_out[-1] += " on every side"
    but = f"; not measured: {listed(left_out)}" if left_out else ""
    return f"Every reading taken is within its limit{but}."


def _within_but_rough(case: JudgedTake) -> str:
    place = rough_place(case.take)
    words = place.words if place else ""
    return f"{_within(case)[:-1]}; but {words}: dirt begins so, or wear. Clean it, if that is felt."


def _rough_at_its_limit(case: JudgedTake) -> str:
    place = rough_place(case.take)
    words = place.words if place else ""
    return (
        f"{words[:1].upper()}{words[1:]}, at about its limit: dirt, more often than not. "
        "Clean it first."
    )


def _others_over(case: JudgedTake) -> str:
    return f"Over its limit: {_named(case.with_verdict('over'))}."


def _how_it_trembles(case: JudgedTake) -> FindingCode | None:
    if trembles_everywhere(case):
        return "everywhere"
    return "alone" if one_axis_trembles(case) else None


def _off_the_ends(case: JudgedTake) -> FindingCode | None:
    return "ends" if runs_over(case) else None


FINDINGS: tuple[Finding, ...] = (
    Finding(
        lambda case: nothing_moved(case.take),
        "Nothing moved in it: another stick was moved, or no signal comes from this one. See that it "
        "is the stick that was chosen; if it is, see to its plug, ribbon and supply.",
        "measure",
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
    ),
    Finding(
        as_one,
        _by_both,
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
    ),
    Finding(
        wanders,
        "It wanders with hands off: a contact that is worn or failing. No calibration holds it; "
        "replace the module.",
        "replaced",
        "wanders",
    ),
    Finding(
        noise_is_most,
        _by_trembling,
        "cleaned",
        _how_it_trembles,
    ),
    Finding(
        recentring_is_enough,
        "It comes back to one place, only not to zero: recalibrate before opening it.",
        "recalibrated",
    ),
    Finding(
        needs_dead_zone,
        "Even recentred it would need more dead zone than the limit: replace the module.",
        "replaced",
    ),
    Finding(
        rough,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
        "dirt",
    ),
    Finding(
        trembles,
        _by_trembling,
        "cleaned",
        _how_it_trembles,
    ),
    Finding(
        cross_talk,
        "One axis moves the other: see that the module sits flush and straight, then measure again.",
        "measure",
    ),
    Finding(
        rim_mends,
        _by_scale,
        "recalibrated",
        _off_the_ends,
    ),
    Finding(
        lambda case: case.over("composite.outer_dead_zone_needed"),
        "It stops short of an end of its range: recalibrate, extents first.",
        "recalibrated",
    ),
    Finding(
        other_gate,
        _by_gate,
        "measure",
    ),
    Finding(
        alike_all_round,
        "The rim is out of shape alike in all four quarters, as nothing that rubs makes it: a curve "
        "that the device lays over its reports, or another gate than the model’s. Measure by a rawer "
        "source.",
        "measure",
    ),
    Finding(
        rim_is_off,
        "The rim itself is out of shape: see that the module sits flush and nothing rubs.",
        "replaced",
        "shape",
    ),
    Finding(
        cut_off,
        _by_the_ends,
        "recalibrated",
        "ends",
    ),
    Finding(
        lambda case: case.over("let_go.settle_ms_p90"),
        "It comes back late: look for a rub, a dry bearing or a tired spring.",
        "measure",
    ),
    Finding(lambda case: bool(case.with_verdict("over")), _others_over, "measure"),
    Finding(
        uncalibrated,
        "Nothing that a calibration leaves as it is lies over its limit. Where it rests and how far "
        "it reaches is for the device's own calibration: enter what it holds, or see it on what it "
        "is plugged into.",
        "measure",
    ),
    Finding(
        carried_unseen,
        "Nothing that shows lies over its limit. What one axis carries along of the other does not "
        "show by this source: measure that by a rawer one.",
        "measure",
    ),
    Finding(
        at_zero,
        "It rests at exactly zero and never trembles: a dead zone of the source does that, and a "
        "coarse source of a sound stick. Cross the middle slowly, to and fro: that tells which.",
        "measure",
        "missing",
    ),
    Finding(
        something_hidden,
        "The source hides something, so nothing here may pass for health: measure by a rawer source "
        "before it is called fixed.",
        "measure",
    ),
    Finding(
        lambda case: bool(not_at_rest(case)),
        _by_rests,
        "measure",
        "missing",
    ),
    Finding(
        incomplete,
        _by_what_is_missing,
        "measure",
        "missing",
    ),
    Finding(
        rough_at_its_limit,
        _rough_at_its_limit,
        "cleaned",
        "dirt",
    ),
    Finding(
        lambda case: bool(case.with_verdict("borderline") or measured_once(case)),
        _too_near,
        "none",
        "near",
    ),
    Finding(
        lambda case: rough_place(case.take) is not None,
        _within_but_rough,
        "cleaned",
        "dirt",
    ),
    Finding(lambda *_: True, _within, "none", "within"),
)


def diagnose(case: JudgedTake) -> Advice:
    """The first finding whose test holds."""
    finding = next(f for f in FINDINGS if f.holds(case))
    words = finding.advice if isinstance(finding.advice, str) else finding.advice(case)
    return Advice(words, finding.try_first)


def first_finding_code(take: TakeReadings) -> FindingCode | None:
    """The code of the first finding of a take, by everyday use; None where nothing goes by it."""
    case = JudgedTake(take, "everyday", LIMIT_OF)
    code = next(f.code for f in FINDINGS if f.holds(case))
    return code(case) if callable(code) else code
