"""A place that is rough pass after pass is there, whatever a limit says of how much that is: dirt that
lifts a wiper by a twentieth was “every reading is within its limit”, and by more “measure again”."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from gimbal import Stick, taken
from hollow_pin.core.crossing import BINS, RoughSpot, measure_crossing
from hollow_pin.core.dead_spans import DeadSpan
from hollow_pin.core.next_look import looks
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.rough_place import rough_place
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from sticks import readings_of

PATH = "crossing.x.track_noise_max"


@pytest.mark.parametrize("seed", [60, 61, 62])
def test_dirt_below_the_limit_is_told_and_comes_before_that_the_stick_is_sound(seed: int) -> None:
    take = measure_take(taken(Stick(seed=seed, specks=(0.3,), lifts=0.05)), "round")
    meaning = explain(take)
    assert meaning.advice.startswith(
        "Every reading taken is within its limit; but the track of x is "
    )
    assert meaning.advice.endswith("dirt begins so, or wear. Clean it, if that is felt.")
    assert meaning.try_first == "cleaned"
    first = rank(take)[0]
    assert (first.cause, first.axis) == ("dirty", "x")
    asked = looks(take, rank(take), ("still", "let-go", "rim", "crossing-x", "crossing-y", "hold"))
    assert asked == (), "it is there pass after pass: no step tells whether that is felt"


@pytest.mark.parametrize("seed", [60, 61, 62])
def test_a_sound_track_has_no_such_place(seed: int) -> None:
    assert rough_place(measure_take(taken(Stick(seed=seed)), "round")) is None
    assert rough_place(readings_of("sound", seed)) is None


def with_place(peak: float, *, passes: int = 3, of: int = 5, usual: float = 0.1) -> TakeReadings:
    """A sound take whose x is rough from −12 to −4 % in some of its passes."""
    take = readings_of("sound")
    place = RoughSpot(-12.0, -4.0, peak, passes)
    x = replace(
        take.crossing.x,
        passes=of,
        track_noise_max=peak,
        track_noise_median=usual,
        rough_spots=(RoughSpot(40.0, 44.0, 0.6, of), place),
    )
    return replace(take, crossing=replace(take.crossing, x=x))


@pytest.mark.parametrize(
    ("from_", "to", "passes", "there"),
    [
        (-6, 4, 3, False),
        (-20, -11, 3, False),
        (-3.9, 4, 3, True),
        (-20, -12.1, 3, True),
        (-6, 4, 2, True),
    ],
)
def test_what_as_many_passes_jump_over_is_no_dirt(
    from_: float, to: float, passes: int, there: bool
) -> None:
    """A broken place that two slow passes jumped over was “rough: clean it first”."""
    take = with_place(2.0)
    x = replace(take.crossing.x, dead_spans=(DeadSpan(from_, to, passes),))
    broken = replace(take, crossing=replace(take.crossing, x=x))
    assert (rough_place(broken) is not None) == there


@pytest.mark.parametrize(
    ("place", "there"),
    [
        ({"peak": 1.0}, True),
        ({"peak": 0.99}, False),
        ({"peak": 1.5, "usual": 0.25}, True),
        ({"peak": 1.5, "usual": 0.26}, False),
        ({"peak": 2.0, "passes": 3, "of": 5}, True),
        ({"peak": 2.0, "passes": 2, "of": 5}, False),
        ({"peak": 2.0, "passes": 2, "of": 4}, False),
        ({"peak": 2.0, "passes": 2, "of": 3}, True),
        ({"peak": 2.0, "passes": 2, "of": 2}, True),
        ({"peak": 2.0, "passes": 1, "of": 1}, False),
    ],
)
def test_it_is_rough_by_so_much_and_in_most_passes(place: dict, there: bool) -> None:
    """A hand that jerks once, or a joint that opens, is not at one place the next time."""
    roughest = rough_place(with_place(**place))
    assert (roughest is not None) == there
    if roughest:
        words = "the track of x is rough from −12 to −4\u00a0%, pass after pass"
        assert (roughest.path, roughest.words) == (PATH, words)


@pytest.mark.parametrize(
    ("u", "says"),
    [
        (0.2, "There are rough places along the track"),
        (1.0, "The track of x is rough from −12 to −4\u00a0%, pass after pass, at about"),
    ],
)
def test_at_about_its_limit_it_is_dirt_as_it_is_over_it(u: float, says: str) -> None:
    """“Too near its limit to call: measure again”, of what is there whenever it is measured."""
    take = with_place(4.0)
    take = replace(take, uncertainty=take.uncertainty | {PATH: u})
    assert explain(take).advice.startswith(says)
    assert explain(take).try_first == "cleaned"
    assert (rank(take)[0].cause, rank(take)[0].likely) == ("dirty", True)


def test_what_is_rough_now_and_then_at_about_its_limit_is_measured_again() -> None:
    take = with_place(4.0, passes=2)
    take = replace(take, uncertainty=take.uncertainty | {PATH: 1.0})
    assert explain(take).advice.startswith("Nothing is over its limit; too near its limit to call")


def test_the_passes_that_are_rough_at_a_place_are_counted() -> None:
    rng = np.random.default_rng(4)
    t = np.arange(12_000) / 1000.0
    v = 100.0 * np.interp(t % 4.0, (0.0, 2.0, 4.0), (-1.0, 1.0, -1.0))
    every = (np.abs(v - 50.0) < 4.0) * rng.normal(0, 3.0, len(t))
    once = ((np.abs(v + 50.0) < 4.0) & (t < 2.0)) * rng.normal(0, 3.0, len(t))
    v = v + rng.normal(0, 0.1, len(t)) + every + once
    track = measure_crossing("crossing-x", t, v, None).readings
    assert len(track.track_noise) == BINS
    assert [(s.from_ < 0, s.passes, track.passes) for s in track.rough_spots] == [
        (True, 1, 6),
        (False, 6, 6),
    ]
