"""A reading held against a limit: a verdict that a technician closes a shell on."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import pytest

from hollow_pin.core.advice_words import too_near_advice
from hollow_pin.core.hidden import Hidden
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import (
    GRADES,
    LIMIT_OF,
    Grade,
    against_limit,
    limits_with,
    verdict_on,
)
from hollow_pin.core.readings import TakeReadings
from sticks import readings_of

NEEDED = "composite.dead_zone_needed"


@cache
def sound() -> TakeReadings:
    return replace(readings_of("sound"), hidden=())


def with_needed(needed: float, u: float = 0.5, hidden: bool = False) -> TakeReadings:
    take = sound()
    return replace(
        take,
        composite=replace(take.composite, dead_zone_needed=needed),
        uncertainty=take.uncertainty | {NEEDED: u},
        hidden=(Hidden("dead-zone", "x", "hidden", (NEEDED,)),) if hidden else (),
    )


@pytest.mark.parametrize(
    ("value", "verdict"),
    [(4.0, "within"), (4.01, "borderline"), (6.0, "borderline"), (6.01, "over")],
)
def test_a_verdict_leaves_two_standard_uncertainties_on_either_side(
    value: float, verdict: str
) -> None:
    assert against_limit(value, 0.5, 5.0) == verdict


@pytest.mark.parametrize(("value", "u"), [(None, 0.5), (4.0, None)])
def test_what_was_not_measured_has_no_verdict(value: float | None, u: float | None) -> None:
    assert against_limit(value, u, 5.0) == "unknown"


@pytest.mark.parametrize(("needed", "verdict"), [(4.0, "hidden"), (5.5, "hidden"), (6.01, "over")])
def test_what_a_source_hides_is_never_within_nor_nearly(needed: float, verdict: str) -> None:
    assert verdict_on(with_needed(needed, hidden=True), NEEDED, 5.0) == verdict
    assert verdict_on(with_needed(needed), NEEDED, 5.0) != "hidden"


def test_a_models_own_limits_stand_grade_by_grade_and_the_usual_ones_beside_them() -> None:
    usual = LIMIT_OF[NEEDED]
    limits = limits_with({NEEDED: {"everyday": 12.5}, "no.such.reading": {"fine": 1.0}})
    own = limits[NEEDED]
    assert own.path == NEEDED
    assert [own.at(g) for g in ("fine", "everyday", "display")] == [
        usual.at("fine"),
        12.5,
        usual.at("display"),
    ]
    assert own.reason.startswith("This model's own limit.")
    assert set(limits) == set(LIMIT_OF)
    assert limits_with({NEEDED: {}})[NEEDED] == usual
    every: dict[Grade, float] = {g: 1.0 + i for i, g in enumerate(GRADES)}
    assert [limits_with({NEEDED: every})[NEEDED].at(g) for g in GRADES] == [1.0, 2.0, 3.0]


def test_whether_anything_is_over_depends_on_what_it_is_for() -> None:
    """A remedy that satisfies a display may not satisfy fine work."""
    limit = LIMIT_OF[NEEDED]
    take = with_needed((limit.at("fine") + limit.at("display")) / 2, u=0.01)
    only = {NEEDED: limit}
    assert not JudgedTake(take, "display", only).over(NEEDED)
    assert JudgedTake(take, "fine", only).over(NEEDED)


def test_what_is_too_near_its_limit_is_named() -> None:
    only = {NEEDED: LIMIT_OF[NEEDED]}
    at = LIMIT_OF[NEEDED].at("everyday")
    advice = too_near_advice(JudgedTake(with_needed(at), "everyday", only))
    assert "too near its limit to call: dead zone needed" in advice
