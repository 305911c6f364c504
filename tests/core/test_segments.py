"""What a recording without the names of steps is told to hold, stretch by stretch: where each begins
and ends, and how much is in it."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.tracking.segments import Segment, find_segments, steps_of

RATE = 250


class Hand:
    """A hand that goes from place to place: where it was at each moment."""

    def __init__(self) -> None:
        self.path = [np.zeros((1, 2))]

    @property
    def now(self) -> float:
        return sum(len(part) for part in self.path) / RATE

    def go(self, x: float, y: float, seconds: float) -> Hand:
        n = max(1, round(seconds * RATE))
        start = self.path[-1][-1]
        self.path.append(start + (np.array([x, y]) - start) * np.linspace(0, 1, n)[:, None])
        return self

    def stay(self, seconds: float) -> Hand:
        return self.go(*self.path[-1][-1], seconds)

    def push(self, x: float, y: float, held: float = 0.3, after: float = 2.0) -> Hand:
        return self.go(x, y, 0.1).stay(held).go(0, 0, 0.05).stay(after)

    def segments(self) -> list[Segment]:
        u = np.concatenate(self.path)
        u = u + np.random.default_rng(2).normal(0, 0.1, u.shape)
        return find_segments(np.arange(len(u)) / RATE, u)


def seconds(segment: Segment) -> tuple[float, float]:
    return segment.start / RATE, segment.stop / RATE


def test_pushes_of_one_kind_are_one_step_with_the_return_of_each() -> None:
    hand = Hand().stay(6)
    begins = hand.now
    for x, y in ((90, 0), (0, 90), (-90, 0)):
        hand.push(x, y)
    ends = hand.now
    hand.stay(3)
    still, pushes = hand.segments()
    assert (still.step, still.parts) == ("still", 1)
    assert (pushes.step, pushes.parts) == ("let-go", 3)
    assert seconds(pushes) == (
        pytest.approx(begins - 0.3, abs=0.2),
        pytest.approx(ends - 2.0 + 1.75, abs=0.2),
    )


def test_a_return_ends_where_the_next_push_begins() -> None:
    hand = Hand().stay(6).push(90, 0, after=0.8)
    begins = hand.now
    hand.go(0, 95, 0.1).stay(3).go(0, 0, 0.1).stay(2)
    _, push, hold = hand.segments()
    assert (push.step, hold.step) == ("let-go", "hold")
    assert push.stop == hold.start
    assert hold.start / RATE == pytest.approx(begins, abs=0.15)


def test_a_step_that_follows_at_once_keeps_off_the_one_before_it() -> None:
    """No sample belongs to two steps."""
    hand = Hand().stay(6).go(95, 0, 0.1).stay(3).go(0, 0, 0.1).stay(0.3).push(0, 90).stay(3)
    _, hold, push = hand.segments()
    assert (hold.step, push.step) == ("hold", "let-go")
    assert push.start >= hold.stop


@pytest.mark.parametrize(("held", "step"), [(1.2, "let-go"), (1.8, "hold")])
def test_what_is_kept_out_for_a_second_and_a_half_is_a_hold(held: float, step: str) -> None:
    hand = Hand().stay(6).push(0, 95, held=held).stay(2)
    assert [s.step for s in hand.segments()] == ["still", step]


@pytest.mark.parametrize(("far", "steps"), [(57.0, ["still"]), (63.0, ["still", "let-go"])])
def test_what_does_not_go_out_far_enough_is_no_push(far: float, steps: list[str]) -> None:
    assert [s.step for s in Hand().stay(6).push(far, 0).stay(2).segments()] == steps


@pytest.mark.parametrize(("turned", "is_rim"), [(290, False), (330, True)])
def test_most_of_the_way_round_is_a_rim(turned: int, is_rim: bool) -> None:
    hand = Hand().stay(6).go(0, 95, 0.1)
    for degrees in range(0, turned + 1, 5):
        a = np.radians(degrees)
        hand.go(95 * np.sin(a), 95 * np.cos(a), 0.025)
    hand.go(0, 0, 0.05).stay(3)
    assert ("rim" in [s.step for s in hand.segments()]) == is_rim


@pytest.mark.parametrize(("took", "is_crossing"), [(0.7, False), (1.4, True)])
def test_a_crossing_takes_its_time(took: float, is_crossing: bool) -> None:
    hand = Hand().stay(6).go(-95, 0, 0.3).go(95, 0, took).go(0, 0, 0.3).stay(3)
    assert ("crossing-x" in [s.step for s in hand.segments()]) == is_crossing


@pytest.mark.parametrize(("aside", "is_crossing"), [(35.0, True), (46.0, False)])
def test_a_crossing_keeps_to_its_line(aside: float, is_crossing: bool) -> None:
    hand = Hand().stay(6).go(-95, aside, 0.3).go(95, aside, 3.0).go(0, 0, 0.3).stay(3)
    assert ("crossing-x" in [s.step for s in hand.segments()]) == is_crossing


def passes(hesitates: float, at: float = 6.0, slow: float = 20.0) -> Hand:
    """Four passes, each of which goes slowly through the middle, and stays somewhat short of it."""
    hand = Hand().stay(6).go(-95, 0, 0.3)
    for side in (1, -1, 1, -1):
        hand.go(-at * side, 0, 1.2).stay(hesitates).go(20 * side, 0, (20 + at) / slow).go(
            95 * side, 0, 1.0
        )
    return hand.go(0, 0, 0.05).stay(3)


@pytest.mark.parametrize("hesitates", [0.0, 0.2])
def test_a_hand_that_is_slow_through_the_middle_is_still_on_its_way(hesitates: float) -> None:
    """A crossing ended where its hand thought for a moment: what came after was no step's at all."""
    crossings = [s for s in passes(hesitates).segments() if s.step == "crossing-x"]
    assert [s.stop - s.start > 10 * RATE for s in crossings] == [True]


@pytest.mark.parametrize(("hesitates", "is_crossing"), [(0.7, True), (1.7, True), (2.1, False)])
def test_a_hand_that_stops_half_way_and_goes_on_is_still_on_its_way(
    hesitates: float, is_crossing: bool
) -> None:
    """Its passes were pushes and returns: a sound stick came back to a different place each time."""
    steps = [s.step for s in passes(hesitates, slow=60.0).segments()]
    assert (steps == ["still", "crossing-x"]) == is_crossing


@pytest.mark.parametrize(
    ("x", "y", "out_s", "is_rest"),
    [
        (95, 0, 0.6, False),
        (95, 40, 0.6, False),
        (95, 60, 0.6, True),
        (-95, 0, 0.6, True),
        (95, 0, 0.25, True),
    ],
)
def test_a_hand_that_brings_it_back_and_pushes_or_goes_elsewhere_had_ended(
    x: float, y: float, out_s: float, is_rest: bool
) -> None:
    hand = Hand().stay(6).go(95, 0, 0.3).go(-95, 0, 2.5).go(0, 0, 1.6).stay(0.9)
    hand.go(x, y, out_s).stay(3).go(0, 0, 0.05).stay(3)
    crossings = [s for s in hand.segments() if s.step == "crossing-x"]
    ended = [s.stop < 11.6 * RATE for s in crossings]
    assert (ended == [True]) == is_rest


@pytest.mark.parametrize(("waits", "is_rest"), [(0.4, False), (0.7, True)])
def test_a_hand_that_brings_it_back_and_waits_has_ended(waits: float, is_rest: bool) -> None:
    """Guided back, not let go: what comes after is another step, where it lay long enough."""
    hand = Hand().stay(6).go(-95, 0, 0.3).go(95, 0, 2.5).go(0, 0, 1.6).stay(waits)
    hand.go(0, 95, 0.1).stay(3).go(0, 0, 0.05).stay(3)
    steps = [s.step for s in hand.segments()]
    assert (steps == ["still", "crossing-x", "hold"]) == is_rest


@pytest.mark.parametrize(("back_s", "two_steps"), [(0.05, True), (0.3, True), (0.5, False)])
def test_what_springs_back_rests_at_once(back_s: float, two_steps: bool) -> None:
    """Let go, and pushed again half a second later: two steps. At 320 % a second it was let go,
    at 190 brought: the pace is that of a fifth of a second."""
    hand = Hand().stay(6).go(-95, 0, 0.3).go(95, 0, 2.5).go(0, 0, back_s).stay(0.45)
    hand.go(0, 95, 0.1).stay(3).go(0, 0, 0.05).stay(3)
    assert ([s.step for s in hand.segments()] == ["still", "crossing-x", "hold"]) == two_steps


@pytest.mark.parametrize(("let_alone", "steps"), [(4.7, []), (5.3, ["still"])])
def test_a_still_is_five_seconds_at_least(let_alone: float, steps: list[str]) -> None:
    hand = Hand().go(90, 0, 0.1).go(0, 0, 0.1).stay(let_alone)
    assert [s.step for s in hand.segments() if s.step == "still"] == steps


def test_of_several_stretches_of_a_step_the_one_with_the_most_in_it_counts() -> None:
    segments = [
        Segment("let-go", 10, 90, 2),
        Segment("hold", 90, 100, 1),
        Segment("let-go", 100, 140, 5),
        Segment("hold", 140, 160, 1),
    ]
    steps = steps_of(170, segments, {"let-go": 1, "hold": 5})
    assert np.flatnonzero(steps == 1).tolist() == list(range(100, 140))
    assert np.flatnonzero(steps == 5).tolist() == list(range(140, 160)), "of two alike the longer"
    assert (steps == -1).sum() == 170 - 60
