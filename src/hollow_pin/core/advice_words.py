"""What is advised of a finding, where the sentence is made of the take."""

from __future__ import annotations

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.judged import (
    SCALE,
    JudgedTake,
    gate_problem,
    measured_once,
    not_at_rest,
    one_axis_trembles,
    struck_as_one,
    trembles_everywhere,
)
from hollow_pin.core.readings import of_a_touch, trembles_by_place
from hollow_pin.core.rough_place import rough_place
from hollow_pin.core.routine import STEP_LABEL
from hollow_pin.core.steps_read import left_out, unmeasured
from hollow_pin.core.still import COARSE_STEP
from hollow_pin.core.words import listed, percent

STILL_AGAIN = "It moved in Still, as far as by a touch: take Still again, hands off."


def trembling_advice(case: JudgedTake) -> str:
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


def other_gate_advice(case: JudgedTake) -> str:
    return f"{gate_problem(case)} Nothing about its rim can be judged before that."


def rests_advice(case: JudgedTake) -> str:
    places = not_at_rest(case)
    thirds = "third" if len(places) == 1 else "thirds"
    return (
        f"It was not seen at rest in the {listed(list(places))} {thirds} of its travel: either it was "
        "not left alone there for five seconds, or it does not stay where it is left. Turn it again, "
        "and watch it with hands off."
    )


def _labels(paths: list[str]) -> str:
    labels = [BY_PATH[p].label for p in paths]
    return listed([f"{name[0].lower()}{name[1:]}" for name in labels])


def too_near_advice(case: JudgedTake) -> str:
    near, once = case.with_verdict("borderline"), measured_once(case)
    reasons = [f"too near its limit to call: {_labels(near)}"] if near else []
    reasons += [f"measured too few times to call: {_labels(once)}"] if once else []
    again = "Measure again, and longer."
    step = case.take.still.resolution if case.take.still is not None else 0.0
    if of_a_touch(case.take) & {*near}:
        again = STILL_AGAIN
    elif step > COARSE_STEP:
        again = f"Its converter goes by steps of {percent(step)}: a finer source would tell."
    elif case.take.by_place.keys() & {*near} and trembles_by_place(case.take.by_place):
        again = "Let it go from another side, and take Still again: it may tremble there."
    return f"Nothing is over its limit; {'; '.join(reasons)}. {again}"


def as_one_advice(case: JudgedTake) -> str:
    do = "spike at one instant" if struck_as_one(case) else "tremble as one"
    return (
        f"Both axes {do}: that comes from the supply or the ground. Try another cable, port or "
        "battery before anything is opened."
    )


def scale_advice(case: JudgedTake) -> str:
    over = _labels([path for path in SCALE if case.over(path)])
    return (
        f"The rim is off in scale or centre, not in shape: recalibrate, extents first. "
        f"Over its limit: {over}."
    )


def cut_off_advice(case: JudgedTake) -> str:
    """A round rim that is cut off on every side looks like a square one."""
    gate = gate_problem(case)
    sides = sum(h.code == "saturated" for h in case.take.hidden)
    on = ("one side", "two sides", "three sides", "all its sides")[min(sides, 4) - 1]
    sentence = (
        f"The rim runs into the end of its range on {on}, so what it is like there is not seen: "
        f"recalibrate, extents first, and measure again."
    )
    return f"{gate} If it is: {sentence[0].lower()}{sentence[1:]}" if gate else sentence


def missing_advice(case: JudgedTake) -> str:
    missing = [STEP_LABEL[step] for step in unmeasured(case.take)]
    if missing == [STEP_LABEL["rim"]]:
        return (
            "How far it reaches, and what its rim is like, was not measured: it takes a usable Rim."
        )
    rest = "The dead zone it needs was not measured: it takes a usable Still and Let-go."
    if STEP_LABEL["rim"] in missing:
        return f"{rest} Nor was how far it reaches: that takes a usable Rim."
    return rest


def within_advice(case: JudgedTake) -> str:
    steps = left_out(case.take)
    but = f"; not measured: {listed(steps)}" if steps else ""
    return f"Every reading taken is within its limit{but}."


def rough_within_advice(case: JudgedTake) -> str:
    rough = f"{_rough_words(case)}: dirt begins so, or wear"
    return f"{within_advice(case)[:-1]}; but {rough}. Clean it, if that is felt."


def rough_at_its_limit_advice(case: JudgedTake) -> str:
    rough = _rough_words(case)
    return (
        f"{rough[:1].upper()}{rough[1:]}, at about its limit: dirt, more often than not. "
        "Clean it first."
    )


def _rough_words(case: JudgedTake) -> str:
    place = rough_place(case.take)
    return place.words if place else ""


def others_over_advice(case: JudgedTake) -> str:
    return f"Over its limit: {_labels(case.with_verdict('over'))}."
