"""The coach: what it says while hands are busy, step by step, and that stand-ins of every kind come
through."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.crossing import SHORTEST_PASS_S
from hollow_pin.core.routine import BY_ID, ROUTINES, SHAPES, Routine, usual_routine
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.crossing import HASTE, PassCounter
from hollow_pin.core.tracking.let_go import NO_FARTHER, TOO_SHORT
from hollow_pin.core.tracking.spike_gate import SpikeGate
from hollow_pin.core.tracking.tracker import STUCK_S, StepTracker
from hollow_pin.simulator.conditions import CONDITIONS, fresh_stick, possible
from sticks import performed_by, read_of

RATE = 250


class Bench:
    """A tracker fed by a hand that the test moves."""

    def __init__(self, routine: Routine, axes: int = 2) -> None:
        self.tracker = StepTracker(routine, axes)
        self.t = 0.0
        self.at = np.zeros(2)
        self.axes = axes
        self.rng = np.random.default_rng(1)

    def go(self, to: tuple[float, float], seconds: float) -> Bench:
        n = max(1, int(seconds * RATE))
        path = self.at + (np.array(to) - self.at) * np.linspace(0, 1, n)[:, None]
        self.at = np.array(to, dtype=float)
        t = self.t + np.arange(1, n + 1) / RATE
        self.t = float(t[-1])
        noisy = path + self.rng.normal(0, 0.1, path.shape)
        for i in range(0, n, 5):
            self.tracker.feed(t[i : i + 5], noisy[i : i + 5, : self.axes])
        return self

    def stay(self, seconds: float) -> Bench:
        return self.go(tuple(self.at), seconds)  # type: ignore[arg-type]

    @property
    def progress(self):
        return self.tracker.progress()

    def push(self, x: float, y: float, hold: float = 0.3, after: float = 1.6) -> Bench:
        return self.go((x, y), 0.1).stay(hold).go((0, 0), 0.05).stay(after)


def test_a_push_that_does_not_reach_the_edge_is_told_off_at_once() -> None:
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(45, 0)
    assert "Not far enough" in bench.progress.note
    assert sum(p.done for p in bench.progress.parts) == 0
    bench.push(90, 0)
    assert bench.progress.note == ""
    assert {p.label: p.done for p in bench.progress.parts}["3"] == 1


@pytest.mark.parametrize(
    ("far", "told_off"), [(24.0, False), (26.0, True), (59.5, True), (60.5, False)]
)
def test_only_what_was_meant_as_a_push_is_told_off(far: float, told_off: bool) -> None:
    """A hand that is laid on the stick is no push; what counts is not called too short."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(far, 0)
    assert ("Not far enough" in bench.progress.note) == told_off
    bench.push(0, 90).push(0, 20)
    assert bench.progress.note == "", "a push that counted is not the one before"


@pytest.mark.parametrize(("seconds", "counts"), [(0.052, 0), (0.068, 1)])
def test_a_spike_is_no_push_and_no_half_of_one(seconds: float, counts: int) -> None:
    """Else a dirty track counts releases that nobody made, ends others too soon, and the hand is told
    to push farther."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0, after=0.3)
    for _ in range(4):
        bench.go((0, 90), 0.004).go((0, 90), seconds).go((0, 0), 0.004).stay(1.0)
    done = {p.label: p.done for p in bench.progress.parts}
    assert (done["3"], done["12"]) == (1 - counts, 4 * counts)
    for _ in range(4):
        bench.go((0, 45), 0.004).go((0, 45), seconds).go((0, 0), 0.004).stay(1.0)
    assert (bench.progress.note == "") == (not counts)


@pytest.mark.parametrize("back_s", [0.05, 0.07])
def test_a_spike_toward_the_middle_is_not_let_go(back_s: float) -> None:
    """Else “too soon” is said of a push that goes on."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).go((90, 0), 0.1).stay(0.3)
    bench.go((0, 0), 0.004).go((0, 0), back_s).go((90, 0), 0.004).stay(0.3)
    assert ("Too soon" in bench.progress.note) == (back_s > 0.06)
    bench.go((0, 0), 0.05).stay(1.0)
    assert {p.label: p.done for p in bench.progress.parts}["3"] == 1


def test_a_stick_that_goes_no_farther_is_not_told_to_go_to_its_edge_for_ever() -> None:
    """Else whoever measures a device whose numbers are not calibrated never learns why."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(55, 0).push(55, 0)
    assert bench.progress.note == TOO_SHORT
    assert bench.push(0, 55).progress.note == NO_FARTHER
    bench.push(90, 0).push(55, 0)
    assert bench.progress.note == TOO_SHORT, "it does go farther"


def test_what_swings_after_a_release_is_no_push_that_was_too_short() -> None:
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0, after=0.2)
    assert bench.progress.says == "Wait."
    bench.go((40, 0), 0.1).go((0, 0), 0.1)
    assert bench.progress.note == ""
    bench.stay(1.6)
    assert {p.label: p.done for p in bench.progress.parts}["3"] == 1


def test_releases_are_asked_for_by_how_many_and_where() -> None:
    """Eyes are on the stick: one sentence must do, and it must be true of every place it names."""
    bench = Bench(Routine(steps=("let-go",), releases=3)).stay(0.5)
    hours = (12, 2, 3, 5, 6, 8, 9, 11)

    def push(hour: int, times: int = 1) -> str:
        angle = np.radians(45.0 * hours.index(hour))
        for _ in range(times):
            bench.push(90 * np.sin(angle), 90 * np.cos(angle))
        return str(bench.progress.says)

    asked = "Push to 12, 2, 3\u00a0o’clock and let go."
    assert (bench.progress.says, bench.progress.phase) == (asked, "waiting")
    assert push(12) == asked
    assert (bench.progress.phase, bench.progress.space) == ("running", "none")
    assert push(12) == asked
    assert bench.progress.space == "none"
    assert push(12) == "Push to 2, 3, 5\u00a0o’clock and let go."
    assert bench.progress.space == "accept", "three releases can be used"
    bench.go((90 * np.sin(np.pi / 4), 90 * np.cos(np.pi / 4)), 0.1).stay(0.3)
    assert bench.progress.says == "Let go."
    bench.go((0, 0), 0.05).stay(1.6)
    for hour in (3, 5, 6):
        push(hour, 3)
    assert push(8, 2) == "Push to 2, 8, 9\u00a0o’clock and let go."
    assert push(8) == "More toward 2, 9 and 11\u00a0o’clock."
    assert push(9) == "More toward 2, 9 and 11\u00a0o’clock."
    assert push(11) == "Two more each toward 2, 9 and 11\u00a0o’clock."
    assert push(2) == "Two more toward 2, 9 and 11\u00a0o’clock.", (
        "of one of them only one is missing"
    )
    push(9)
    assert push(11) == "One more toward 2, 9 and 11\u00a0o’clock."
    push(2)
    assert push(9) == "One more toward 11\u00a0o’clock."
    assert not bench.tracker.finished
    push(11)
    bench.stay(1.0)
    assert bench.tracker.finished


def test_what_is_missing_twice_in_one_place_is_not_asked_for_of_each() -> None:
    bench = Bench(Routine(steps=("let-go",), releases=2)).stay(0.5)
    for i in range(14):
        angle = np.radians(45.0 * (i % 7))
        bench.push(90 * np.sin(angle), 90 * np.cos(angle))
    assert bench.progress.says == "Two more toward 11\u00a0o’clock."


def test_a_release_without_a_rest_after_it_is_told_off() -> None:
    bench = (
        Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0, after=0.3).push(90, 0, after=0.1)
    )
    assert "Too soon" in bench.progress.note


@pytest.mark.parametrize(("after", "counts"), [(0.66, 1), (0.54, 0)])
def test_a_release_counts_by_when_the_next_push_begins(after: float, counts: int) -> None:
    """As it is measured: half a second, and a tenth, before a push that takes a second."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0, after=after).go((90, 0), 1.0)
    assert {p.label: p.done for p in bench.progress.parts}["3"] == counts
    assert ("Too soon" in bench.progress.note) == (not counts)


@pytest.mark.parametrize(("after", "counts"), [(0.66, 1), (0.5, 0)])
@pytest.mark.parametrize("far", [12, 55])
def test_a_release_is_over_where_a_light_push_begins(after: float, counts: int, far: int) -> None:
    """As it is measured. What is pushed half the way out and held there had counted as left alone."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0, after=after)
    bench.go((far, 0), 0.05).stay(0.9)
    assert {p.label: p.done for p in bench.progress.parts}["3"] == counts
    assert ("Too soon" in bench.progress.note) == (not counts)


@pytest.mark.parametrize("far", [8, 55])
def test_a_release_that_is_out_for_a_moment_is_left_alone_all_the_same(far: int) -> None:
    """A contact that opens is none of the hand's doing."""
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0, after=0.4)
    bench.go((far, 0), 0.01).stay(0.1).go((0, 0), 0.01).stay(0.8)
    assert {p.label: p.done for p in bench.progress.parts}["3"] == 1


def test_what_is_still_missing_is_said_in_clock_hours() -> None:
    bench = Bench(Routine(steps=("let-go",), releases=2)).stay(0.5)
    for i in range(16):
        angle = np.radians(45 * (i % 8))
        if i % 8 not in (3, 4) or i < 8:
            bench.push(90 * np.sin(angle), 90 * np.cos(angle))
    assert bench.progress.says == "One more toward 5 and 6\u00a0o’clock."


def test_a_pass_that_goes_too_fast_is_not_counted_and_asks_for_slower() -> None:
    bench = Bench(Routine(steps=("crossing-x",))).go((-95, 0), 0.5).stay(0.3)
    bench.go((95, 0), 2.4).stay(0.3).go((-95, 0), 2.4).stay(0.3)
    done = bench.progress.parts[0].done
    bench.go((95, 0), 0.9).stay(0.3)
    assert bench.progress.parts[0].done == done
    assert "too fast" in bench.progress.note
    bench.go((-95, 0), 0.25)
    assert bench.progress.says == "Slower."


@pytest.mark.parametrize("first", ["left", "right"])
def test_four_asked_are_four_made(first: str) -> None:
    """The very first pass counts as well, from whichever end, and by the time that it took from end to
    end: an end that was reached once is not known until the other one is."""
    way = -1 if first == "left" else 1
    bench = Bench(Routine(steps=("crossing-x",))).go((95 * way, 0), 0.3).stay(0.5)
    for done in range(4):
        assert bench.progress.parts[0].done == done
        assert bench.progress.note == ""
        way = -way
        bench.go((95 * way, 0), 2.4)
        assert bench.progress.note == "", "half of a pass is not a fast one"
        bench.stay(0.4)
    assert bench.tracker.finished


@pytest.mark.parametrize(("further", "over"), [(0.9, True), (1.1, False)])
@pytest.mark.parametrize("way", [-1, 1])
def test_a_pass_is_over_where_its_end_is_known(further: float, over: bool, way: int) -> None:
    """A hand that presses a little harder at the end has been there; one that goes on has not."""
    counter = PassCounter()
    counter._t = np.array([0.0, 2.0, 2.5])
    counter._calm = way * np.array([0.0, 90.0, 90.0 + further])
    assert counter._goes_further() == (not over)


@pytest.mark.parametrize(("share", "hasty"), [(0.99, False), (1.01, True)])
def test_haste_is_told_by_the_whole_way_before_it_was_gone(share: float, hasty: bool) -> None:
    """The other end is not known yet: it is held to lie as far out as the first."""
    counter = PassCounter()
    counter._low, counter._high = -20.0, 95.0
    t = np.linspace(0.0, 0.5, 126)
    fastest = HASTE * (2 * 95.0) / SHORTEST_PASS_S
    assert counter.hasty(t, 95.0 - share * fastest * t) == hasty


def test_a_first_pass_that_goes_too_fast_is_told_off_like_any_other() -> None:
    bench = Bench(Routine(steps=("crossing-x",))).go((-95, 0), 0.5).stay(0.3)
    bench.go((0, 0), 0.3)
    assert bench.progress.says == "Slower."
    bench.go((95, 0), 0.3).stay(0.4)
    assert bench.progress.parts[0].done == 0
    assert "too fast" in bench.progress.note


def test_an_end_that_lies_farther_out_than_the_first_ones_undoes_what_did_not_reach_it() -> None:
    bench = Bench(Routine(steps=("crossing-x",))).go((-95, 0), 0.5).stay(0.4)
    bench.go((60, 0), 2.4).stay(0.4)
    assert bench.progress.parts[0].done == 1
    bench.go((-95, 0), 2.4).stay(0.4)
    assert bench.progress.parts[0].done == 2
    bench.go((95, 0), 2.4).stay(0.4)
    assert bench.progress.parts[0].done == 1, "only the last of them went from end to end"


def test_a_crossing_is_led_until_its_passes_are_done() -> None:
    bench = Bench(Routine(steps=("crossing-y",), passes=2)).stay(0.6)
    asked = "Slowly all the way from bottom to top, two seconds each way."
    assert (bench.progress.says, bench.progress.phase, bench.progress.space) == (
        asked,
        "waiting",
        "none",
    )
    bench.go((0, 95), 0.6).stay(0.3)
    assert bench.progress.says == "Slowly, bottom to top and back: 2 more passes."
    bench.go((0, -95), 2.4)
    assert bench.progress.parts[0].done == 0, "how far it goes is not known yet"
    bench.stay(0.4)
    assert bench.progress.says == "Slowly, bottom to top and back: 1 more pass."
    assert [(p.label, p.done, p.wanted) for p in bench.progress.parts] == [("passes", 1.0, 2)]
    assert (bench.progress.phase, bench.progress.space) == ("running", "accept")
    bench.go((0, 95), 2.4).stay(0.12)
    assert bench.progress.says == "Let go."
    bench.stay(0.4)
    assert bench.tracker.finished


def test_the_way_to_where_a_crossing_begins_may_be_fast() -> None:
    bench = Bench(Routine(steps=("crossing-x",))).stay(0.6).go((-95, 0), 0.25)
    assert bench.progress.says == "Slowly, left to right and back: 4 more passes."


def test_passes_that_are_all_too_fast_may_be_taken_as_they_are_in_the_end() -> None:
    """Else somebody who cannot go slower never comes to the next step."""
    bench = Bench(Routine(steps=("crossing-x",), passes=2)).go((-95, 0), 0.5).stay(0.3)
    bench.go((95, 0), 0.9).stay(0.4)
    assert bench.progress.space == "none", "the other passes may still be slow enough"
    bench.go((-95, 0), 0.9).stay(0.4)
    assert bench.progress.space == "accept"


def test_straying_from_the_line_is_said() -> None:
    bench = Bench(Routine(steps=("crossing-x",))).go((-95, 0), 0.5).go((0, 70), 1.0)
    assert "left and right only" in bench.progress.note


def test_a_hold_that_slips_is_asked_for_again_and_then_may_be_accepted() -> None:
    bench = Bench(Routine(steps=("hold",))).stay(0.3)
    bench.go((0, 95), 0.1).stay(1.2).go((0, 0), 0.1).stay(0.6)
    assert "Hold up again" in bench.progress.note
    assert 0 < float(bench.progress.note.split()[4]) < 3, "how long it was held, in seconds"
    assert [p.done for p in bench.progress.parts] == [0.0] * 4, "what slipped counts for nothing"
    assert bench.progress.space == "none"
    bench.go((0, 95), 0.1).stay(1.2).go((0, 0), 0.1).stay(0.6)
    assert bench.progress.space == "accept"
    for x, y in ((0, 95), (95, 0), (0, -95), (-95, 0)):
        assert not bench.tracker.finished
        bench.go((x, y), 0.1).stay(3.3).go((0, 0), 0.1).stay(0.6)
    assert bench.tracker.finished


def test_a_hold_is_held_from_when_it_is_there() -> None:
    """As it is measured: the way out is no part of it, however long a hand takes."""
    bench = Bench(Routine(steps=("hold",))).stay(0.3)
    bench.go((0, 95), 2.0).stay(2.7).go((0, 0), 0.1).stay(0.6)
    assert "Hold up again" in bench.progress.note
    bench.go((0, 95), 2.0).stay(3.1).go((0, 0), 0.1).stay(0.6)
    assert {p.label: p.done for p in bench.progress.parts}["up"] == 3.0


def test_who_presses_harder_after_it_was_held_has_held_it() -> None:
    """What is farther out is being pushed there; it had been there for long enough by then."""
    bench = Bench(Routine(steps=("hold",))).stay(0.3).go((0, 90), 0.1).stay(3.3)
    bench.go((0, 100), 0.3).stay(0.5).go((0, 0), 0.1).stay(0.6)
    assert bench.progress.note == ""
    assert {p.label: p.done for p in bench.progress.parts}["up"] == 3.0


@pytest.mark.parametrize(("jumps_s", "counts"), [(0.16, True), (0.26, False)])
def test_a_joint_that_jumps_while_it_is_held_begins_no_hold_anew(
    jumps_s: float, counts: bool
) -> None:
    """What is out farther for a fifth of a second was pushed there."""
    bench = Bench(Routine(steps=("hold",))).stay(0.3).go((0, 70), 0.1).stay(1.2)
    bench.go((0, 120), 0.004).stay(jumps_s).go((0, 70), 0.004).stay(2.0)
    bench.go((0, 0), 0.1).stay(0.6)
    assert ("Hold up again" in bench.progress.note) == (not counts)


@pytest.mark.parametrize("axes", [2, 1])
def test_a_side_is_held_for_as_long_as_it_is_held_and_not_since_the_one_before(axes: int) -> None:
    """Who goes on from one side to the next without letting go had held that as well, and what was not
    held was not measured."""
    bench = Bench(Routine(steps=("hold",)), axes=axes).stay(0.3)
    sides = ((0, 95), (95, 0), (0, -95), (-95, 0)) if axes == 2 else ((95, 0), (-95, 0))
    for i, side in enumerate(sides):
        bench.go(side, 0.2).stay(1.0)
        held = sorted(p.done for p in bench.progress.parts)
        assert held[len(sides) - i :] == [3.0] * i
        assert 0.5 < held[len(sides) - 1 - i] < 1.5
        assert not bench.tracker.finished
        bench.stay(2.5)
    assert bench.progress.says == "Let go."
    assert bench.go((0, 0), 0.1).stay(0.6).tracker.finished


@pytest.mark.parametrize("axes", [2, 1])
def test_it_does_not_matter_how_many_samples_of_a_hold_come_at_once(axes: int) -> None:
    """A link that batches half a second lost every second hold."""
    sides = ((0, 95), (95, 0), (0, -95), (-95, 0)) if axes == 2 else ((95, 0), (-95, 0))
    path = [np.zeros((100, 2))]
    for side in sides:
        path += [np.outer(np.linspace(0, 1, 25), side), np.tile(side, (800, 1)), np.zeros((250, 2))]
    p = np.concatenate(path)[:, :axes]
    t = np.arange(len(p)) / RATE
    for at_once in (5, 40, 125, 250):
        tracker = StepTracker(Routine(steps=("hold",)), axes=axes)
        for begin in range(0, len(p), at_once):
            tracker.feed(t[begin : begin + at_once], p[begin : begin + at_once])
        assert tracker.finished


@pytest.mark.parametrize(("stays_s", "held"), [(0.5, 0.0), (3.3, 3.0)])
def test_who_comes_from_the_end_of_a_crossing_has_not_slipped(stays_s: float, held: float) -> None:
    """“It came back after 0.6 s” was said of a hold that nobody had been asked for."""
    bench = Bench(Routine(steps=("crossing-y", "hold"), passes=2)).stay(0.3)
    bench.go((0, -95), 0.5).stay(0.3)
    for y in (95, -95):
        bench.go((0, y), 2.4).stay(0.1)
    assert bench.progress.says == "Let go."
    assert bench.stay(0.2).progress.step == "hold"
    bench.stay(stays_s).go((0, 0), 0.2).stay(0.6)
    assert bench.progress.note == ""
    assert {p.label: p.done for p in bench.progress.parts}["down"] == held
    bench.go((95, 0), 0.1).stay(1.2).go((0, 0), 0.1).stay(0.6)
    assert "Hold right again" in bench.progress.note


def test_a_side_that_is_left_too_soon_for_the_next_is_asked_for_again() -> None:
    bench = Bench(Routine(steps=("hold",))).stay(0.3)
    bench.go((0, 95), 0.1).stay(1.5).go((95, 0), 0.2).stay(3.4)
    assert {p.label: p.done for p in bench.progress.parts}["up"] == 0.0
    bench.go((0, 0), 0.1).stay(0.6)
    assert bench.progress.says == "Push up to the edge and keep it there."


@pytest.mark.parametrize(("degrees", "side"), [(52, "up"), (58, "right")])
def test_what_is_held_half_way_between_two_sides_is_held_toward_the_first(
    degrees: float, side: str
) -> None:
    to = (95 * np.sin(np.radians(degrees)), 95 * np.cos(np.radians(degrees)))
    bench = Bench(Routine(steps=("hold",))).stay(0.3).go((0, 95), 0.1).stay(1.0)
    bench.go(to, 0.2).stay(1.0)
    held = {p.label: p.done for p in bench.progress.parts if p.done}
    assert list(held) == [side]
    assert (held[side] > 2.0) == (side == "up")


@pytest.mark.parametrize(("thrown_s", "holds"), [(0.15, True), (0.3, False)])
def test_a_contact_that_jumps_to_the_other_side_and_back_has_not_left_it(
    thrown_s: float, holds: bool
) -> None:
    bench = Bench(Routine(steps=("hold",))).stay(0.3).go((0, 95), 0.1).stay(2.0)
    bench.go((0, -95), 0.004).stay(thrown_s).go((0, 95), 0.004).stay(1.0)
    assert ({p.label: p.done for p in bench.progress.parts}["up"] == 3.0) == holds


def test_the_last_lap_was_clean_or_was_not() -> None:
    bench = Bench(Routine(steps=("rim",), laps=4)).stay(0.3)

    def lap(radius_at_six: float) -> None:
        for degrees in range(0, 372, 6):
            a = np.radians(degrees)
            r = radius_at_six if 140 < degrees < 220 else 96
            bench.go((r * np.sin(a), r * np.cos(a)), 0.025)

    lap(96)
    lap(96)
    assert bench.progress.note == "The last lap was clean."
    lap(70)
    bench.go((40, 87), 0.1)
    assert "left the edge toward 6\u00a0o’clock" in bench.progress.note


@pytest.mark.parametrize(
    ("pushed", "rolled", "is_clean"),
    [(96, 96, True), (96, 93, True), (96, 89, False), (48, 40, True)],
)
def test_a_lap_inside_of_what_pushes_reached_is_not_clean(
    pushed: float, rolled: float, is_clean: bool
) -> None:
    """Else nobody hears of it until the whole take is done, and Rim was not at the edge."""
    bench = Bench(Routine(steps=("let-go", "rim"), releases=1)).stay(0.5)
    for degrees in range(0, 360, 45):
        a = np.radians(degrees)
        bench.push(70 * np.sin(a), 70 * np.cos(a))
    bench.stay(2.0)
    bench.tracker._moment.pushed_to = np.array([[0, pushed], [0, 0]])
    assert bench.tracker.step == "rim"
    for degrees in range(0, 800, 6):
        a = np.radians(degrees)
        bench.go((rolled * np.sin(a), rolled * np.cos(a)), 0.025)
    assert (bench.progress.note == "The last lap was clean.") == is_clean


def test_how_far_pushes_go_is_known_by_where_they_were_held() -> None:
    bench = Bench(Routine(steps=("let-go",))).stay(0.5).push(90, 0).push(-60, 70).push(80, 20)
    far = bench.tracker._moment.pushed_to
    assert far == pytest.approx(np.array([[60, 90], [0, 70]]), abs=0.3)


def around(bench: Bench, degrees: float, start: float = 0.0, radius: float = 96.0) -> Bench:
    """Round the edge, clockwise where degrees are more than none."""
    for turned in np.arange(0.0, abs(degrees) + 1, 6.0):
        a = np.radians(start + np.copysign(turned, degrees))
        bench.go((radius * np.sin(a), radius * np.cos(a)), 0.025 if turned else 0.06)
    return bench


def test_the_rim_is_led_each_way_and_to_where_it_was_not_reached() -> None:
    bench = Bench(Routine(steps=("rim",), laps=1)).stay(0.3)
    assert (bench.progress.says, bench.progress.phase) == (
        "Go round the edge, pressed outward.",
        "waiting",
    )
    around(bench, 18)
    assert bench.progress.phase == "waiting", "a push to the edge is no lap"
    around(bench, 200, start=18)
    assert (bench.progress.says, bench.progress.space) == ("Keep going round.", "none")
    assert bench.progress.phase == "running"
    around(bench, 162, start=218)
    cw, ccw = (p.done for p in bench.progress.parts)
    assert (bench.progress.says, ccw) == ("Now the other way.", 0.0)
    assert cw == pytest.approx(1.0, abs=0.06)
    assert bench.progress.space == "accept"
    around(bench, -390, start=20)
    assert bench.progress.says == "Let go."
    bench.go((0, 0), 0.1).stay(0.5)
    assert bench.tracker.finished


@pytest.mark.parametrize("to", [(100.0, 100.0), (20.0, -90.0), (-60.0, 96.0)])
@pytest.mark.parametrize(("lasts_s", "clean"), [(0.04, True), (0.07, False)])
def test_a_dirty_track_breaks_no_lap(to: tuple[float, float], lasts_s: float, clean: bool) -> None:
    """Round and round, told to press outward: a lap without a spike never came."""
    bench = Bench(Routine(steps=("rim",), laps=1)).stay(0.3)
    around(bench, 90)
    edge = bench.at
    bench.go(to, 0.004).go(to, lasts_s - 0.004).go((edge[0], edge[1]), 0.004)
    around(bench, 300, start=90)
    assert (bench.progress.note == "The last lap was clean.") == clean


@pytest.mark.parametrize(("leap", "through"), [(17.3, True), (17.5, False)])
def test_a_spike_begins_with_a_leap(leap: float, through: bool) -> None:
    """Of 15 %, and what the fastest lap may go in 4 ms."""
    t, p = np.arange(3) / RATE, np.zeros((3, 2))
    p[1] = (0.0, -leap)
    assert SpikeGate().lets_through(t, p).tolist() == [True, through, True]


@pytest.mark.parametrize(("away", "through"), [(15, 0), (16, 1), (19, 4)])
def test_what_stays_where_it_leapt_to_was_no_spike(away: int, through: int) -> None:
    """After 0.06 s, and from then on, in however many pieces it comes."""
    gate, t, p = SpikeGate(), np.arange(60) / RATE, np.zeros((60, 2))
    p[10 : 10 + away, 0] = 90.0
    pieces = (slice(0, 12), slice(12, 30), slice(30, 60))
    kept = np.concatenate([gate.lets_through(t[piece], p[piece]) for piece in pieces])
    assert kept[:10].all()
    assert not kept[10:25].any()
    assert kept[10 : 10 + away].sum() == through
    assert kept[-10:].all()


@pytest.mark.parametrize(("pace", "through"), [(590.0, True), (700.0, False)])
def test_a_stick_goes_on_while_a_spike_lasts(pace: float, through: bool) -> None:
    """As fast as a lap a second: where it is back is where it has gone meanwhile."""
    t = np.arange(20) / RATE
    p = np.zeros((20, 2))
    p[5:15, 1] = 90.0
    p[15:, 0] = 15.0 + pace * (t[15] - t[4])
    assert SpikeGate().lets_through(t[:16], p[:16])[15] == through


@pytest.mark.parametrize(
    ("lost", "silent", "says"),
    [
        (48, True, "Now the other way."),
        (114, True, "Now the other way."),
        (126, True, "Keep going round."),
        (48, False, "Keep going round."),
        (-48, True, "Keep going round."),
    ],
)
def test_a_lap_goes_on_where_the_link_lost_a_part_of_it(lost: int, silent: bool, says: str) -> None:
    """By a wireless link that loses a fifth of a second now and then no lap was ever whole."""
    bench = Bench(Routine(steps=("rim",), laps=1)).stay(0.3)
    turned = 0.0
    while turned < 390:
        around(bench, 96, start=turned)
        turned += 96 + lost
        # What nobody reports: the stick goes on, and so does the time.
        a = np.radians(turned)
        bench.at = 96.0 * np.array([np.sin(a), np.cos(a)])
        bench.t += abs(lost) / 240 if silent else 0.0
    around(bench, 60, start=turned)
    assert bench.progress.says == says


def test_a_lap_that_left_the_edge_begins_anew_however_silent_the_link() -> None:
    bench = around(Bench(Routine(steps=("rim",), laps=1)).stay(0.3), 300)
    bench.go((0.0, 0.0), 0.05)
    bench.t += 0.2
    a = np.radians(350.0)
    bench.at = 96.0 * np.array([np.sin(a), np.cos(a)])
    around(bench, 100, start=350)
    assert bench.progress.says == "Keep going round."


def test_a_rim_that_begins_the_other_way_asks_for_clockwise_then() -> None:
    bench = around(Bench(Routine(steps=("rim",), laps=1)).stay(0.3), -390)
    assert bench.progress.says == "Now clockwise."
    around(bench, 20, start=-390)
    assert bench.progress.parts[0].done == 0.0, "a start is not a lap"


def test_half_a_lap_each_way_is_no_lap() -> None:
    bench = Bench(Routine(steps=("rim",), laps=1)).stay(0.3)
    for _ in range(3):
        around(around(bench, 200), -200, start=200)
    assert max(p.done for p in bench.progress.parts) < 0.6
    assert bench.progress.says == "Keep going round."


def test_a_side_of_the_rim_that_was_never_reached_is_named() -> None:
    """A module that stops short there, or a thumb that cut the corner: it must be looked at."""
    bench = Bench(Routine(steps=("rim",), laps=1)).stay(0.3)
    for way in (1, -1):
        for turned in range(0, 396, 3):
            a = np.radians(way * turned)
            r = np.interp(abs((way * turned) % 360 - 90), (12, 18), (40, 96))
            bench.go((r * np.sin(a), r * np.cos(a)), 0.0125)
    assert bench.progress.says == "The edge was not reached toward 3\u00a0o’clock."
    assert bench.progress.space == "none"
    around(bench, 40, start=70)
    assert bench.progress.says == "Let go."


def test_a_hold_is_led_from_side_to_side() -> None:
    bench = Bench(Routine(steps=("hold",))).stay(0.3)
    assert bench.progress.says == "Push up to the edge and keep it there."
    assert (bench.progress.phase, bench.progress.space) == ("waiting", "none")
    bench.go((0, 95), 0.1).stay(1.0)
    assert bench.progress.says == "Hold up, keep still."
    assert bench.progress.phase == "running"
    bench.stay(2.3)
    assert (bench.progress.says, bench.progress.space) == ("Let go.", "accept")
    assert [p.done for p in bench.progress.parts] == [3.0, 0, 0, 0], "no more than was asked for"
    bench.go((0, 0), 0.05).stay(0.1).go((0, 95), 0.05).stay(0.1).go((0, 0), 0.05).stay(0.6)
    assert "came back" not in bench.progress.note, "it had been held long enough"
    assert bench.progress.says == "Push right to the edge and keep it there."
    bench.go((60, 30), 0.1).stay(0.5)
    assert bench.progress.says == "Hold right, keep still."


def test_a_still_says_why_it_begins_again() -> None:
    """Else somebody with both hands off waits for a step that never ends."""
    bench = Bench(Routine(steps=("still",))).stay(2)
    assert (bench.progress.says, bench.progress.space) == ("Hands stay off.", "none")
    touched = "The stick moved or was touched"
    for again in range(2):
        bench.go((60, 0), 0.1).stay(0.3)
        assert bench.progress.says == f"{touched}. Hands off, it starts again by itself."
        assert bench.progress.phase == "waiting"
        bench.go((0, 0), 0.1).stay(3)
        if again == 0:
            assert bench.progress.note == f"{touched}, so Still began again."
    bench.stay(4)
    assert bench.progress.parts[0].done > 3


def test_a_still_with_holes_in_it_is_done_again_on_space_and_not_accepted() -> None:
    """A link that drops samples again and again: the step must not run for ever, nor pass."""
    bench = Bench(Routine(steps=("still",))).stay(1.5)
    for _ in range(3):
        bench.t += 0.8
        bench.stay(0.2)
        assert bench.progress.says.startswith("Samples were missing. Hands off")
        bench.stay(1.5)
    assert bench.progress.note == "Samples were missing, so Still began again."
    bench.t += 0.8
    bench.stay(6.0)
    missing = "Samples were missing: this Still cannot be used. Space does it again."
    assert (bench.progress.says, bench.progress.space) == (missing, "redo")


def test_a_stick_that_never_rests_is_taken_as_it_is_after_four_seconds() -> None:
    bench = Bench(Routine(steps=("still",)))
    for i in range(39):
        bench.go((8.0 * (-1) ** i, 0), 0.1)
    assert (bench.progress.says, bench.progress.space) == (
        "Hands off. It starts when the stick is quiet.",
        "none",
    )
    for i in range(6):
        bench.go((8.0 * (-1) ** i, 0), 0.1)
    assert (bench.progress.says, bench.progress.space) == (
        "It does not hold still. Space records it as it is.",
        "start",
    )


def test_a_long_soak_is_not_thrown_away_for_a_touch() -> None:
    bench = Bench(Routine(steps=("still",), still_s=600)).stay(120)
    bench.go((60, 0), 0.2).stay(0.5).go((0, 0), 0.2).stay(5)
    assert bench.progress.parts[0].done > 120
    assert "moved during this step" in bench.progress.note


def test_a_paddle_is_led_to_its_three_places() -> None:
    bench = Bench(BY_ID["paddle"], axes=1).go((-98, 0), 0.5).stay(0.4)
    for i in range(6):
        bench.go((98 if i % 2 == 0 else -98, 0), 2.4).stay(0.4)
    assert bench.progress.says == "Leave it alone."
    for place in (-80, 0, 80):
        bench.go((place, 0), 0.5).stay(7.5)
    assert bench.tracker.finished


def test_a_lever_is_led_by_its_ends() -> None:
    """It has no clock hours, and neither left nor right: “Push to 3” is a stick’s."""
    bench = Bench(Routine(steps=("let-go", "crossing-x", "hold"), releases=1), axes=1).stay(0.5)

    def says() -> str:
        return str(bench.progress.says)

    assert says() == "Push it to either end and let go."
    assert [(p.label, p.wanted) for p in bench.progress.parts] == [("low end", 2), ("high end", 2)]
    bench.push(95, 0)
    assert says() == "Push it to either end and let go.", "both ends are wanted still"
    assert [p.done for p in bench.progress.parts] == [0, 1]
    bench.push(95, 0)
    assert says() == "Two more toward its low end."
    bench.push(-95, 0)
    assert says() == "One more toward its low end."
    bench.push(-95, 0).stay(1.0)
    assert says() == "Slowly all the way from end to end, two seconds each way."
    bench.go((-95, 0), 0.5).stay(0.3).go((95, 0), 2.5).stay(0.3)
    assert says().startswith("Slowly, end to end and back: ")
    for end in (-95, 95, -95):
        bench.go((end, 0), 2.5).stay(0.3)
    bench.go((0, 0), 0.3).stay(0.5)
    assert says() == "Push it to either end and keep it there."
    bench.go((-95, 0), 0.2).stay(0.5)
    assert says() == "Hold to its low end, keep still."
    bench.go((0, 0), 0.1).stay(0.6)
    assert "Hold to its low end again" in bench.progress.note
    bench.go((95, 0), 0.2).stay(3.3).go((0, 0), 0.1).stay(0.6)
    assert says() == "Push it to its low end and keep it there."
    assert [(p.label, p.done > 0) for p in bench.progress.parts] == [
        ("low end", False),
        ("high end", True),
    ]


@pytest.mark.parametrize("condition", sorted(CONDITIONS))
def test_every_fault_comes_through_the_whole_routine(condition: str) -> None:
    """A stick may be so bad that a step is refused; the take must end all the same."""
    kind = CONDITIONS[condition].kinds[0]
    stick = fresh_stick(kind, "round", 10, 250, condition, 7)
    readings = read_of(stick, 3)
    assert set(readings.spans) >= {"still"}
    assert readings.crossing is not None


@pytest.mark.parametrize(("shape", "seed"), [(s, i) for s in SHAPES for i in range(2)])
def test_every_kind_of_stick_has_a_routine_that_it_can_do(shape: str, seed: int) -> None:
    axes, sprung = SHAPES[shape]  # type: ignore[index]
    routine = usual_routine(axes, sprung)
    assert routine.unfit(axes, sprung) == ()
    stick = fresh_stick("hall", "round", 12, 125, possible("hall", sprung)[seed], 3, axes, sprung)
    readings = read_of(stick, seed)
    assert set(readings.spans) == set(routine.steps)


def test_how_long_a_routine_takes_is_told_by_its_steps() -> None:
    """A technician plans by it: the seconds of every step, for two axes and for one."""
    routine = Routine(still_s=10, releases=2, laps=2, passes=4, hold_s=3)
    each = {
        "still": (11.0, 11.0),
        "let-go": (33.6, 16.8),
        "rim": (8.2, 8.2),
        "crossing-x": (12.0, 12.0),
        "crossing-y": (12.0, 12.0),
        "hold": (18.0, 9.0),
        "turn": (34.0, 34.0),
    }
    for step, (two, one) in each.items():
        only = routine.only((step,))  # type: ignore[arg-type]
        assert (only.seconds(2), only.seconds(1)) == (pytest.approx(two), pytest.approx(one)), step
    assert routine.seconds(2) == pytest.approx(
        sum(two for s, (two, _) in each.items() if s != "turn")
    )


def test_the_quick_routine_is_quick_and_none_is_longer_than_it_says() -> None:
    stick = fresh_stick("potentiometer", "round", 10, 250, "sound", 3)
    for routine in ROUTINES:
        if routine.unfit(2, True) or routine.id == "soak":
            continue
        took = performed_by(stick, 3, routine).recording.t[-1]
        assert took < 1.25 * routine.seconds(2)
        assert routine.id != "quick" or took < 45


@pytest.mark.parametrize("gate", ["square", "octagon"])
def test_a_gate_that_is_filled_reads_as_filled(gate: str) -> None:
    stick = fresh_stick("hall", gate, 14, 250, "sound", 4)  # type: ignore[arg-type]
    recording = performed_by(stick, 2, BY_ID["quick"]).recording
    own = measure_take(recording, gate).rim  # type: ignore[arg-type]
    as_round = measure_take(recording, "round").rim
    assert own.circularity_error < 4
    assert as_round.circularity_error > own.circularity_error + 0.5


def test_a_stick_that_can_do_no_more_does_not_hold_up_its_take() -> None:
    """A dead axis is never gone round: “Keep going round.” was said until somebody gave up."""
    routine = Routine(steps=("still", "rim", "crossing-x"))
    t = np.arange(0, 120, 0.02)
    dead = np.column_stack((100 * np.cos(2 * np.pi * t / 4), np.full_like(t, -100.0)))
    dead[t < 12] = (0.0, -100.0)
    tracker = StepTracker(routine, stuck_s=STUCK_S)
    tracker.feed(t[:100], dead[:100])
    began = 0.0
    offered: list[float] = []
    for i in range(100, len(t), 10):
        tracker.feed(t[i : i + 10], dead[i : i + 10])
        now = tracker.progress()
        if now.step == "still" and now.space in ("accept", "start"):
            tracker.accept()
        elif now.step == "rim":
            began = began or t[i]
            if now.space == "accept":
                offered.append(t[i + 9] - began)
                assert now.note == "If that is all the stick does, accept it as it is."
                tracker.accept()
    assert offered == [pytest.approx(40.0, abs=0.5)]
    assert tracker.step == "crossing-x"
    alone = StepTracker(Routine(steps=("rim",)))
    for i in range(0, len(t), 10):
        alone.feed(t[i : i + 10], dead[i : i + 10])
    assert alone.progress().space == "none", "where nobody watches nothing is given up"


def test_hands_off_is_never_accepted_for_having_lasted() -> None:
    tracker = StepTracker(Routine(steps=("still",)), stuck_s=STUCK_S)
    t = np.arange(0, 60, 0.02)
    pushed = np.column_stack((60 * np.sin(2 * np.pi * t), np.zeros_like(t)))
    for i in range(0, len(t), 10):
        tracker.feed(t[i : i + 10], pushed[i : i + 10])
        assert tracker.progress().note != "If that is all the stick does, accept it as it is."
