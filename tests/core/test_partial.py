"""Takes that leave steps out: nothing is claimed that only those would show, health least of all.
Sticks by a third physics, read through converters of eight bits and more."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from gimbal import Stick, taken
from hollow_pin.core.next_look import looks
from hollow_pin.core.ranking import NEAR, WITHIN, rank
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.routine import STANDARD, StepName
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take

QUICK: tuple[StepName, ...] = ("still", "let-go", "rim")
STEPS_DONE: tuple[tuple[StepName, ...], ...] = (QUICK, ("still", "rim"), ("still",))
QUIET = (9, 10)
"""Sticks that rest within one step of eight bits about the middle."""


@cache
def whole(seed: int, bits: int = 12) -> Recording:
    return taken(Stick(seed), 250.0, bits)


def part(recording: Recording, steps: tuple[StepName, ...]) -> Recording:
    kept = np.isin(recording.step, [STEPS.index(step) for step in steps])
    return replace(
        recording,
        t_us=recording.t_us[kept],
        raw=recording.raw[kept],
        step=recording.step[kept],
    )


def off_centre(recording: Recording, by: float) -> Recording:
    """The same stick that rests so much farther to the right, %."""
    moved = tuple(
        AxisRange(r.lo - by / 100 * r.half, r.hi - by / 100 * r.half) for r in recording.ranges
    )
    return replace(recording, ranges=(moved[0], recording.ranges[1]))


@pytest.mark.parametrize("steps", STEPS_DONE)
@pytest.mark.parametrize("seed", QUIET)
def test_a_quiet_rest_of_a_coarse_converter_is_no_dead_zone(
    seed: int, steps: tuple[StepName, ...]
) -> None:
    """A source that hides nothing was likely to, in six takes of ten without a Crossing: the bench
    sent for a rawer source that there is not."""
    take = measure_take(part(whole(seed, 8), steps))
    assert {h.code for h in take.hidden} == {"coarse-zero"}
    ranked = rank(take)
    assert not any(r.likely for r in ranked), ranked[:2]
    assert explain(take).advice.startswith("It rests at exactly zero and never trembles")
    missing = tuple(step for step in QUICK if step not in steps)
    crossings = tuple(f"crossing-{h.axis}" for h in take.hidden)
    assert [look.steps for look in looks(take, ranked, STANDARD.steps)] == [missing or crossings]
    crossed = rank(measure_take(whole(seed, 8)))
    assert (crossed[0].cause, crossed[0].likely) == ("sound", True)


@pytest.mark.parametrize(
    ("missing", "advice"),
    [
        ("still", "The dead zone it needs was not measured: it takes a usable Still and Let-go."),
        ("let-go", "The dead zone it needs was not measured: it takes a usable Still and Let-go."),
        (
            "rim",
            "How far it reaches, and what its rim is like, was not measured: it takes a usable Rim.",
        ),
    ],
)
def test_a_stick_is_not_called_sound_before_each_step_that_tells_was_gone_through(
    missing: StepName, advice: str
) -> None:
    """A rub of a seventh, a dead zone and a bind passed for health by what was left out."""
    steps = tuple(step for step in STANDARD.steps if step != missing)
    take = measure_take(part(whole(1), steps))
    sound = rank(take)[0]
    assert sound.cause == "sound"
    assert 0.3 < sound.probability <= NEAR
    assert explain(take).advice == advice
    assert looks(take, rank(take), STANDARD.steps)[0].steps == (missing,)


def test_where_two_are_missing_both_are_named() -> None:
    take = measure_take(part(whole(1), ("let-go", "hold")))
    assert explain(take).advice == (
        "The dead zone it needs was not measured: it takes a usable Still and Let-go. "
        "Nor was how far it reaches: that takes a usable Rim."
    )


@pytest.mark.parametrize(
    ("steps", "named"),
    [
        (STANDARD.steps, ""),
        (STANDARD.steps[:-1], "; not measured: Hold"),
        ((*QUICK, "crossing-x", "hold"), "; not measured: Crossing y"),
        (QUICK, "; not measured: Crossing x, Crossing y and Hold"),
    ],
)
def test_a_sentence_of_health_names_what_was_not_measured(
    steps: tuple[StepName, ...], named: str
) -> None:
    """A track that falls back when it is held is within every limit until somebody holds it."""
    take = measure_take(part(whole(1), steps))
    assert explain(take).advice == f"Every reading taken is within its limit{named}."
    sound = rank(take)[0]
    assert sound.cause == "sound"
    assert sound.probability >= WITHIN
    left_out = tuple(step for step in STANDARD.steps if step not in steps)
    assert [look.steps for look in looks(take, rank(take), STANDARD.steps)] == (
        [left_out] if left_out else []
    )
    assert (sound.probability > 5 / 6) == (not named)


@pytest.mark.parametrize(("sides", "named"), [(4, ""), (3, "; not measured: Hold on every side")])
def test_a_hold_on_some_sides_alone_is_told(sides: int, named: str) -> None:
    """A track that falls back to the left does not do so while it is held to the right."""
    take = measure_take(whole(1))
    assert take.hold is not None
    assert len(take.hold) == 4
    some = replace(take, hold=(*take.hold[:sides], *take.hold[: 4 - sides]))
    assert explain(some).advice == f"Every reading taken is within its limit{named}."
    assert (rank(some)[0].probability > 5 / 6) == (not named)


@pytest.mark.parametrize(
    ("sectors", "all_round"),
    [
        (range(8), True),
        ((0, 2, 4, 6), True),
        ((1, 3, 5, 7), True),
        ((1, 5), True),
        ((0, 5, 7), False),
        ((0, 2, 4), False),
        ((0,), False),
    ],
)
def test_a_stick_that_was_not_let_go_on_every_side_is_told(
    sectors: Sequence[int], all_round: bool
) -> None:
    """A bind holds it on one side: of three hasty releases on the others nothing was said."""
    take = measure_take(whole(1))
    release = tuple(replace(take.let_go.release[0], bearing=45.0 * s) for s in sectors)
    some = replace(take, let_go=replace(take.let_go, release=release))
    named = "" if all_round else "; not measured: Let-go on every side"
    assert explain(some).advice == f"Every reading taken is within its limit{named}."
    if not all_round:
        assert rank(some)[0].probability < 5 / 6
        assert [look.steps for look in looks(some, rank(some), STANDARD.steps)] == [("let-go",)]


@pytest.mark.parametrize("steps", [("rim",), ("still", "rim"), (*QUICK[::2], "crossing-x", "hold")])
@pytest.mark.parametrize("seed", [1, 2])
def test_a_centre_that_is_off_is_no_crooked_seat_where_no_return_tells(
    seed: int, steps: tuple[StepName, ...]
) -> None:
    """A rim about a rest that is as far off as it is was to be reseated, in each of them."""
    take = measure_take(part(off_centre(whole(seed), 9.0), steps))
    assert not any(r.likely for r in rank(take)), rank(take)[:2]


def test_what_only_came_back_is_told_of() -> None:
    """It said that nothing in the take could be used."""
    take = measure_take(part(taken(Stick(2, play=0.07, wanders=0.01)), ("let-go",)))
    meaning = explain(take)
    assert meaning.sentence.startswith("It comes back to within ")
    assert meaning.advice.startswith("It comes back to different places")
