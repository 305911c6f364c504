"""A lot that came is looked at before anything of it is soldered: its ohms against the value ordered,
marks of use, and what a module reads on the jig, against the lot so far."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.diagnosis import diagnose, first_finding_code
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import LIMIT_OF, Verdict
from hollow_pin.core.readings import TakeReadings, silence_of
from hollow_pin.core.sampling import SamplingPlan
from hollow_pin.core.words import listed, percent

MARKS: tuple[tuple[str, str], ...] = (
    ("cap-seat", "The seat of the cap is worn, or shines"),
    ("pins", "Solder on the pins, or pins bent"),
    ("legs", "Legs of the frame clipped or straightened"),
    ("lettering", "Lettering or mould unlike the others of the lot"),
    ("dust", "Dust or grease in the gap"),
    ("play", "Play at the shaft, or it sticks"),
)
"""Marks of use, by code: used pulls are sold as new."""
USUAL_TOLERANCE = 20.0
"""% that a track may lie off its value, where the part says nothing of its own."""
ON_JIG = (
    "still.rest_offset",
    "still.jitter_x",
    "still.jitter_y",
    "still.wander",
    "let_go.return_spread",
    "rim.circularity_error",
    "rim.mean_radius",
    "composite.dead_zone_needed",
)
"""Readings of a module on the jig that are kept."""
CALIBRATED_AWAY = (
    "still.rest_offset",
    "rim.circularity_error",
    "rim.outer_dead_zone_needed",
    "composite.dead_zone_needed",
)
"""What a calibration takes away, and a module is not sent back for."""
FEWEST_ALIKE = 5
UNLIKE = 5.0
"""Scaled median deviations from the lot's median, from which on one is unlike the others."""
LEAST_SCATTER = 0.5
"""% of the median, or % of half range, that a lot scatters by at the least."""

Decision = Literal["accept", "reject", "go-on"]
Ending = Literal["accepted", "set-aside", "sent-back"]


@dataclass(frozen=True)
class EndingWords:
    """does: how it is offered; done: as it stands on record."""

    does: str
    done: str


ENDINGS: dict[Ending, EndingWords] = {
    "accepted": EndingWords("Accept it", "accepted"),
    "set-aside": EndingWords("Set it aside", "set aside"),
    "sent-back": EndingWords("Send it back", "sent back"),
}


@dataclass(frozen=True)
class OnJig:
    """What a module read on the jig: values by reading; over: names of those that are over their limit
    and no calibration takes away; hidden: whether the source hides what would tell; silent: what is
    said where an axis gave no signal, or nothing moved; fault: what else it is no good for; doubt: why
    it is no proof that it is good. Empty where there is nothing of the kind."""

    values: dict[str, float]
    over: tuple[str, ...]
    hidden: bool
    silent: str = ""
    fault: str = ""
    doubt: str = ""


@dataclass(frozen=True)
class PartFindings:
    """What was seen of one. ohms: of each track, from end to end; marks: by code."""

    ohms: tuple[float, ...] = ()
    marks: tuple[str, ...] = ()
    jig: OnJig | None = None
    note: str = ""


@dataclass(frozen=True)
class PartJudgement:
    """bad: what it is not accepted for, in sentences; unsure: what is no proof that it is good;
    unlike: in what it differs from the lot."""

    bad: tuple[str, ...] = ()
    unsure: tuple[str, ...] = ()
    unlike: tuple[str, ...] = ()


@dataclass(frozen=True)
class Spread:
    """How a figure lies in the lot: its median, least and most, of how many."""

    name: str
    unit: str
    count: int
    median: float
    least: float
    most: float


@dataclass(frozen=True)
class Standing:
    """How an inspection stands. decision: what the plan says by now; says: in a sentence."""

    seen: int
    bad: int
    decision: Decision
    says: str
    spreads: tuple[Spread, ...] = field(default=())


def read_on_jig(readings: TakeReadings) -> OnJig:
    """What is kept of a module that was measured on the jig."""
    case = JudgedTake(readings, "everyday", LIMIT_OF)
    advice = diagnose(case)
    over = _labels(case, "over")
    hidden = bool(case.with_verdict("hidden")) and not readings.silent
    fault = doubt = ""
    if readings.silent:
        over = ()  # It is bad by that, and of what was read the rest says nothing.
    elif first_finding_code(case) == "as one":
        # What both axes do at once is the jig's own supply, whatever module lies in it.
        over, doubt = (), advice.words
    elif advice.asks == "something" and advice.try_first != "recalibrated":
        fault = "" if over else advice.words
    elif advice.asks == "again":
        doubt = "" if over or hidden else advice.words
    elif near := _labels(case, "borderline"):
        doubt = f"Too near its limit to call: {_in_words(near)}. Measure it again."
    values = {path: readings.value(path) for path in ON_JIG}
    return OnJig(
        {path: value for path, value in values.items() if value is not None},
        over,
        hidden,
        silence_of(readings),
        fault,
        doubt,
    )


def _labels(case: JudgedTake, verdict: Verdict) -> tuple[str, ...]:
    """The readings with a verdict that no calibration takes away, as they are called."""
    return tuple(BY_PATH[p].label for p in case.with_verdict(verdict) if p not in CALIBRATED_AWAY)


def _in_words(labels: Sequence[str]) -> str:
    return listed([name.lower() for name in labels])


def judge(
    inspected: PartFindings,
    ordered: float | None,
    tolerance: float | None,
    lot: Sequence[PartFindings] = (),
) -> PartJudgement:
    """Whether one is bad, and in what it differs from the others of its lot so far. ordered: ohms;
    tolerance: %, the usual one where it is not known."""
    bad, allowed = [], USUAL_TOLERANCE if tolerance is None else tolerance
    if ordered:
        for ohms in inspected.ohms:
            off = 100.0 * (ohms / ordered - 1.0)
            if abs(off) > allowed:
                way = "low" if off < 0 else "high"
                bad.append(
                    f"{ohms:g} Ω where {ordered:g} Ω were ordered: {percent(abs(off))} too {way}, "
                    f"and {percent(allowed)} may be."
                )
    names = dict(MARKS)
    bad += [f"Mark of use: {names[m][:1].lower()}{names[m][1:]}." for m in inspected.marks]
    if inspected.jig and inspected.jig.over:
        bad.append(f"On the jig it is over in {_in_words(inspected.jig.over)}.")
    if inspected.jig and inspected.jig.silent:
        bad.append(f"On the jig: {inspected.jig.silent}.")
    if inspected.jig and inspected.jig.fault:
        bad.append(f"On the jig: {inspected.jig.fault}")
    unsure = []
    if inspected.jig and inspected.jig.hidden:
        unsure.append("The jig hides what it does: what it read there is no proof.")
    if inspected.jig and inspected.jig.doubt:
        unsure.append(f"On the jig: {inspected.jig.doubt}")
    return PartJudgement(tuple(bad), tuple(unsure), _unlike(inspected, lot))


def _unlike(inspected: PartFindings, lot: Sequence[PartFindings]) -> tuple[str, ...]:
    """In what it lies far from the others, by the median of their distances (scaled as of a normal
    distribution)."""
    sentences = []
    own = _figures(inspected)
    others = [_figures(o) for o in lot]
    for name, value in own.items():
        of_others = np.array([o[name] for o in others if name in o])
        if len(of_others) < FEWEST_ALIKE:
            continue
        middle = float(np.median(of_others))
        least = LEAST_SCATTER * (abs(middle) / 100.0 if name == "Ohms" else 1.0)
        scatter = max(1.4826 * float(np.median(np.abs(of_others - middle))), least)
        if abs(value - middle) > UNLIKE * scatter:
            sentences.append(f"{name} {value:.4g}, and {middle:.4g} in the lot.")
    return tuple(sentences)


def _figures(inspected: PartFindings) -> dict[str, float]:
    figures = {"Ohms": float(np.mean(inspected.ohms))} if inspected.ohms else {}
    if inspected.jig:
        figures |= {BY_PATH[p].label: v for p, v in inspected.jig.values.items()}
    return figures


def spreads(lot: Sequence[PartFindings]) -> tuple[Spread, ...]:
    """How each figure lies in the lot so far."""
    units = {"Ohms": "Ω"} | {BY_PATH[p].label: BY_PATH[p].unit for p in ON_JIG}
    every: dict[str, list[float]] = {}
    for inspected in lot:
        for name, value in _figures(inspected).items():
            every.setdefault(name, []).append(value)
    return tuple(
        Spread(name, units[name], len(v), float(np.median(v)), min(v), max(v))
        for name, v in every.items()
    )


def standing(
    plan: SamplingPlan, judged: Sequence[PartJudgement], lot: Sequence[PartFindings]
) -> Standing:
    """How an inspection stands, by its plan."""
    looked_at, bad = len(judged), sum(1 for j in judged if j.bad)
    decision: Decision = "go-on"
    if bad >= plan.reject:
        decision = "reject"
    elif looked_at >= plan.n:
        decision = "accept"
    return Standing(
        looked_at, bad, decision, _standing_words(plan, looked_at, bad, decision), spreads(lot)
    )


def _standing_words(plan: SamplingPlan, looked_at: int, bad: int, decision: Decision) -> str:
    counted = f"{bad} bad of {looked_at}"
    if decision == "reject":
        return f"Do not accept it: {counted}, and {plan.accept} may be."
    if decision == "accept" and plan.aql is None:
        out = "" if bad == 0 else f" Sort the {bad} bad {'one' if bad == 1 else 'ones'} out."
        return f"Looked at whole: {counted}.{out}"
    if decision == "accept":
        return f"Accept it: {counted}, and {plan.accept} may be."
    remaining = plan.n - looked_at
    may = "" if plan.aql is None else f" {plan.accept} may be bad."
    return f"{remaining} more to look at, of {plan.n}.{may} {counted.capitalize()} so far."


def by_lot(endings: Mapping[Ending, int]) -> str:
    """How past lots of a source or part ended, in a sentence; empty where there were none."""
    parts = [f"{n} {ENDINGS[e].done}" for e, n in endings.items() if n]
    return f"Lots so far: {listed(parts)}." if parts else ""
