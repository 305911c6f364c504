"""What a source says before it has heard from its device: no rest of the stick's."""

from __future__ import annotations

import math

import numpy as np
import pytest

from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Floats
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.untouched import FEWEST_UNHEARD, LEAP_SHARE, LEAST_LEAP, STAYS_S, unheard
from sticks import performed, transformed

STEP = 0.2


def still(began: Floats, lies: float = 9.0, sway: float = 0.2) -> int:
    """How much of a Still at 250 Hz is left out that begins so and then lies there and sways."""
    x = np.concatenate([began, lies + np.tile([0.0, sway], 1000)])
    t = np.arange(len(x)) / 250.0
    return unheard(t, np.column_stack([x, np.zeros(len(x))]), (STEP, STEP))


@pytest.mark.parametrize("made_up", [0.0, STEP, -STEP, -100.0])
def test_the_middle_or_the_lower_end_until_the_first_report_is_left_out(made_up: float) -> None:
    assert still(np.full(125, made_up)) == 125


@pytest.mark.parametrize("began", [1.1 * STEP, -1.1 * STEP, 5.0, -99.0, 100.0])
def test_what_it_says_anywhere_else_is_the_sticks(began: float) -> None:
    assert still(np.full(125, began)) == 0


def test_it_is_as_many_samples_as_no_stick_says_alike() -> None:
    assert still(np.zeros(FEWEST_UNHEARD)) == FEWEST_UNHEARD
    assert still(np.zeros(FEWEST_UNHEARD - 1)) == 0


@pytest.mark.parametrize(("far", "left_out"), [(LEAST_LEAP + 0.05, 50), (LEAST_LEAP - 0.05, 0)])
def test_a_rest_that_is_hardly_elsewhere_is_left_as_it_is(far: float, left_out: int) -> None:
    assert still(np.zeros(50), far, 0.0) == left_out


@pytest.mark.parametrize(("share", "left_out"), [(0.95, 50), (1.05, 0)])
def test_a_stick_that_moves_on_was_moved(share: float, left_out: int) -> None:
    """A hand that pushes it out of a dead zone with a jump at its edge."""
    assert still(np.zeros(50), 9.0, share * LEAP_SHARE * 9.0) == left_out


def test_it_stays_for_a_quarter_second() -> None:
    stays = np.full(math.ceil(STAYS_S * 250), 9.0)
    assert still(np.concatenate([np.zeros(50), stays]), 40.0) == 50
    assert still(np.concatenate([np.zeros(50), stays[:-1]]), 40.0) == 0


@pytest.mark.parametrize(("back", "left_out"), [(4.6, 50), (4.4, 0)])
def test_where_the_stick_was_again_it_was_before(back: float, left_out: int) -> None:
    """A rest that wanders out of a dead zone, and back into it."""
    began = np.concatenate([np.zeros(50), np.full(500, 9.0), np.full(5, back)])
    assert still(began) == left_out


def test_one_axis_may_be_heard_before_the_other() -> None:
    x = np.concatenate([np.zeros(50), np.full(950, 9.0)])
    y = np.concatenate([np.full(200, -100.0), np.full(800, 0.6)])
    t = np.arange(1000) / 250.0
    assert unheard(t, np.column_stack([x, y]), (STEP, STEP)) == 200


def began_at_zero(zero_s: float) -> TakeReadings:
    """Of a stand-in that rests 9 % from zero."""
    sound = performed("sound").recording
    u = sound.u + np.array([9.0, 0.0])
    (still,) = sound.attempts("still")
    u[sound.t < sound.t[still.start] + zero_s] = 0.0
    return measure_take(transformed(sound, u))


@pytest.mark.parametrize("zero_s", [0.5, 2.0, 4.0])
def test_a_stick_off_centre_is_to_be_recalibrated_though_the_source_began_at_zero(
    zero_s: float,
) -> None:
    """A browser says zero until the first report comes: half a second of that, and the module was to
    be replaced, since even recentred it would need more dead zone than the limit."""
    readings = began_at_zero(zero_s)
    assert "comes back to one place" in explain(readings).advice
    (problems,) = [p for p in readings.problems if p.code == "unheard"]
    assert f"for its first {zero_s:.1f} s" in problems.message


def test_a_still_of_which_too_little_was_heard_is_taken_again() -> None:
    readings = began_at_zero(6.0)
    assert readings.still is None
    assert {p.code for p in readings.problems if p.step == "still"} == {"unheard", "short"}
