"""What was done to a stick in vain is not advised once more as if nobody had tried it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hollow_pin.core.already import (
    NO_BETTER,
    ONCE_MORE,
    STILL_THERE,
    Attempt,
    InVain,
    done_in_vain,
)
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.prospect import cures_of, prospects
from hollow_pin.core.ranking import Ranked, rank
from hollow_pin.core.remedies import BY_CODE
from sticks import readings_of

DIRTY = (Ranked("dirty", "x", 0.9, ()),)
CLEANED = Attempt("cleaned", None, this_job=True, no_better=True, was=DIRTY, measured_by=2)
ONCE = {("cleaned", "dirty"): InVain(here=1)}


@pytest.mark.parametrize(
    ("attempts", "counted"),
    [
        ([CLEANED], ONCE),
        ([replace(CLEANED, no_better=False)], {}),
        ([replace(CLEANED, was=None)], ONCE),
        ([replace(CLEANED, axis="x")], ONCE),
        ([replace(CLEANED, axis="y")], {}),
        ([replace(CLEANED, was=(Ranked("dirty", "x", STILL_THERE, ()),))], ONCE),
        ([replace(CLEANED, was=(Ranked("dirty", "x", STILL_THERE - 0.01, ()),))], {}),
        ([replace(CLEANED, was=(Ranked("dirty", "y", 0.9, ()),), axis="x")], {}),
        ([replace(CLEANED, axis="x"), CLEANED], ONCE),
        ([CLEANED, replace(CLEANED, measured_by=4)], {("cleaned", "dirty"): InVain(here=2)}),
        ([replace(CLEANED, remedy="lubricated")], {}),
    ],
)
def test_it_counts_for_what_was_there_before_it_and_is_there_still(
    attempts: list[Attempt], counted: dict
) -> None:
    assert done_in_vain(attempts, DIRTY) == counted


@pytest.mark.parametrize(("chance", "there"), [(0.3, True), (0.29, False)])
def test_it_does_not_count_for_what_is_gone(chance: float, there: bool) -> None:
    assert bool(done_in_vain([CLEANED], (Ranked("dirty", "x", chance, ()),))) == there


def test_what_was_done_to_a_part_that_is_gone_says_nothing_of_the_new_one() -> None:
    new = replace(CLEANED, remedy="sensor-parts", measured_by=3)
    assert done_in_vain([CLEANED, new], DIRTY) == {("sensor-parts", "dirty"): InVain(here=1)}
    assert done_in_vain([new, replace(CLEANED, measured_by=4)], DIRTY) == {
        ("sensor-parts", "dirty"): InVain(here=1),
        **ONCE,
    }


@pytest.mark.parametrize(
    ("remedy", "cause", "counts"),
    [
        ("cleaned", "dirty", True),
        ("lubricated", "binding", True),
        ("replaced", "worn", False),
        ("recalibrated", "offset", False),
    ],
)
def test_what_came_back_since_an_earlier_visit_was_in_vain_unless_it_wore_or_is_free(
    remedy: str, cause: str, counts: bool
) -> None:
    there = (Ranked(cause, None, 0.9, ()),)
    # Whether it was better then makes no difference.
    for no_better in (True, False):
        earlier = Attempt(remedy, None, False, no_better, there, measured_by=2)
        expected = {(remedy, cause): InVain(earlier=1)} if counts else {}
        assert done_in_vain([earlier], there) == expected


def test_only_what_a_comparison_says_to_be_no_better_is() -> None:
    """Where it cannot say, nothing was in vain."""
    assert set(NO_BETTER) == {"no-change", "little", "worse"}


def test_the_chance_of_what_was_in_vain_falls_each_time_and_so_does_its_range() -> None:
    take = readings_of("dirty")
    likely = {"dirty": 0.9}
    cleaned = BY_CODE["cleaned"]
    of = (cleaned, take, likely, "everyday", LIMIT_OF, {})
    fresh = cures_of(*of)["dirty"]
    for times in (1, 2):
        again = cures_of(*of, {("cleaned", "dirty"): InVain(here=times)})["dirty"]
        assert again[:3] == pytest.approx([p * ONCE_MORE**times for p in fresh[:3]])
    assert cures_of(*of, {("replaced", "dirty"): InVain(here=1)})["dirty"] == fresh
    assert InVain(here=1).leaves(0.8) == pytest.approx(0.2), "a quarter is left, as the pages say"
    both = InVain(here=1, earlier=1)
    assert both.leaves(1.0) == pytest.approx(ONCE_MORE**2)


@pytest.mark.parametrize(
    ("vain", "words"),
    [
        (InVain(here=1), "That was done in this job already, and nothing read better after it."),
        (
            InVain(here=2, earlier=1),
            "That was done in this job twice already, and nothing read better after it; "
            "at an earlier visit as well.",
        ),
        (
            InVain(here=3),
            "That was done in this job 3 times already, and nothing read better after it.",
        ),
        (InVain(earlier=1), "That was done at an earlier visit, and it is back."),
        (InVain(earlier=2), "That was done at 2 earlier visits, and it is back."),
    ],
)
def test_a_remedy_says_that_it_was_done_already(vain: InVain, words: str) -> None:
    take = readings_of("dirty")
    given = {("cleaned", "dirty"): vain}
    told = {
        p.remedy: p.words for p in prospects(take, rank(take), "everyday", LIMIT_OF, in_vain=given)
    }
    assert told["cleaned"].endswith(words)
    assert "already" not in told["replaced"]
