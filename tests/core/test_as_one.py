"""Both axes that wander, or spike, as one: the supply's doing, for which nobody is to clean a track or
replace a module."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core import signs
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import (
    FEWEST_ALIKE,
    RETURNS_ALIKE,
    SWAYS_ALIKE,
    TakeReadings,
    spikes_as_one,
    sways_as_one,
)
from hollow_pin.core.sides import Sides
from hollow_pin.core.spikes import AT_ONCE_S, Spike
from hollow_pin.core.still import measure_still
from hollow_pin.core.summary import explain
from hollow_pin.core.sway import FEWEST_SWAYS, LEAST_SWAY, SWAY_S
from hollow_pin.core.take import measure_take
from sticks import performed, readings_of, returning, transformed


def swaying(
    condition: str, far: float, hz: float, by: tuple[float, float] = (1.0, 1.0)
) -> TakeReadings:
    """A take in which both axes go to and fro by so much, %, as one. by: of which each goes as far."""
    recording = performed(condition, bits=14).recording
    sway = far * np.sin(2 * np.pi * hz * recording.t + 1.0)
    return measure_take(transformed(recording, recording.u + sway[:, None] * np.array(by)))


@pytest.mark.parametrize("hz", [0.13, 0.3, 0.5])
@pytest.mark.parametrize("by", [(1.0, 1.0), (1.0, -0.8)])
def test_a_sound_stick_whose_supply_sways_keeps_its_module(
    hz: float, by: tuple[float, float]
) -> None:
    take = swaying("sound", 4.5, hz, by)
    assert sways_as_one(take)
    meaning = explain(take)
    assert meaning.advice.startswith("Both axes tremble as one: that comes from the supply")
    assert (meaning.try_first, meaning.asks) == ("measure", "something")
    assert rank(take)[0].cause == "supply-noise"


def test_one_that_sways_a_little_is_not_said_to_come_back_late() -> None:
    take = swaying("sound", 1.3, 0.9)
    assert take.let_go.settle_ms_p90 < 150
    assert explain(take).try_first == "none"


@pytest.mark.parametrize("condition", ["worn", "dirty", "binding", "humming", "failing", "loose"])
@pytest.mark.parametrize("seed", [5])
def test_no_two_tracks_go_together_nor_spike_at_once(condition: str, seed: int) -> None:
    take = readings_of(condition, seed)
    assert not sways_as_one(take)
    assert not spikes_as_one(take)


def test_a_touch_of_both_axes_moves_it_once_and_it_comes_back_as_ever() -> None:
    recording = performed("sound", bits=14).recording
    u = recording.u.copy()
    u[(recording.t > 4) & (recording.t < 5.5)] += 4.0
    take = measure_take(transformed(recording, u))
    assert take.still.sway_in_common > SWAYS_ALIKE
    assert not sways_as_one(take)


def left(take: TakeReadings, alike: float, count: int, way: int = 1) -> TakeReadings:
    """With releases whose places are so much alike on both axes."""
    x = np.cos(2 * np.pi * np.arange(count) / count)
    y = np.sin(2 * np.pi * np.arange(count) / count)
    places = np.column_stack((x, way * (alike * x + np.sqrt(1 - alike**2) * y)))
    toward: NDArray[np.float64] = np.tile([1.0, 0.0], (count, 1))
    return returning(take, places, toward)


@pytest.mark.parametrize(
    ("sway", "alike", "count", "way", "as_one"),
    [
        (SWAYS_ALIKE + 0.01, RETURNS_ALIKE + 0.01, FEWEST_ALIKE, 1, True),
        (-SWAYS_ALIKE - 0.01, RETURNS_ALIKE + 0.01, FEWEST_ALIKE, -1, True),
        (SWAYS_ALIKE - 0.01, 0.99, 16, 1, False),
        (0.99, RETURNS_ALIKE - 0.01, 16, 1, False),
        (0.99, 0.99, FEWEST_ALIKE - 1, 1, False),
        (0.99, 0.99, 16, -1, False),
        (None, 0.99, 16, 1, False),
    ],
)
def test_it_takes_its_rest_and_where_it_was_left_alike_and_the_same_way(
    sway: float | None, alike: float, count: int, way: int, as_one: bool
) -> None:
    take = readings_of("sound")
    swayed = replace(take, still=replace(take.still, sway_in_common=sway))
    assert sways_as_one(left(swayed, alike, count, way)) == as_one


def test_a_take_without_one_of_them_or_that_comes_back_to_one_place_is_none_of_it() -> None:
    take = readings_of("sound")
    swayed = replace(take, still=replace(take.still, sway_in_common=0.99))
    assert not sways_as_one(replace(swayed, let_go=None))
    assert not sways_as_one(replace(swayed, still=None))
    one = returning(swayed, np.zeros((16, 2)))
    assert not sways_as_one(one)


def test_nothing_of_where_it_rests_speaks_for_a_track_then() -> None:
    take = readings_of("worn")
    swayed = left(replace(take, still=replace(take.still, sway_in_common=-0.95)), 0.9, 16, -1)
    s, apart = Sides(swayed), Sides(take)
    for sign in (signs.returns_apart, signs.by_side, signs.lands_anywhere, signs.wander):
        assert sign(s, "x") is None
        assert sign(apart, "x") is not None
    assert signs.in_common(s, "x") == pytest.approx(95.0)


@pytest.mark.parametrize(
    ("far", "seconds", "known"),
    [
        (LEAST_SWAY * 1.05, 10.0, True),
        (LEAST_SWAY * 0.95, 10.0, False),
        (1.0, FEWEST_SWAYS * SWAY_S + 0.05, True),
    ],
)
def test_a_last_digit_that_both_share_is_no_sway(far: float, seconds: float, known: bool) -> None:
    t = np.arange(0, seconds, 0.004)
    slow = np.sqrt(2) * far * np.sin(2 * np.pi * t / 5.0)
    take = measure_still(t, np.column_stack((slow, 3 * slow))).readings
    assert (take.sway_in_common is not None) == known
    if known:
        assert take.sway_in_common == pytest.approx(1.0)


def struck(on_both: bool, seed: int = 3) -> TakeReadings:
    """A sound stick that is struck once in two seconds, for 6 ms, by 10 % or so."""
    recording = performed("sound", bits=14).recording
    rng = np.random.default_rng(seed)
    u = recording.u.copy()
    for at in np.arange(0.5, recording.t[-1], 1.0):
        first = int(np.searchsorted(recording.t, at + rng.uniform(0, 0.5)))
        by = rng.uniform(6, 14, 2) * rng.choice((-1, 1), 2) * (1, on_both)
        u[first : first + 2] += by
    return measure_take(transformed(recording, u))


def test_what_strikes_both_axes_at_one_instant_is_no_dirt() -> None:
    take, dirty = struck(on_both=True), struck(on_both=False)
    assert take.still.spikes_per_min_x > 30
    assert (spikes_as_one(take), spikes_as_one(dirty)) == (True, False)
    meaning = explain(take)
    assert meaning.advice.startswith("Both axes spike at one instant: that comes from the supply")
    assert (meaning.try_first, meaning.asks) == ("measure", "something")
    assert rank(take)[0].cause == "supply-noise"
    assert explain(dirty).try_first == "cleaned"
    assert rank(dirty)[0].cause == "dirty"
    assert (signs.spikes(Sides(take), "x"), signs.in_common(Sides(take), "x")) == (0.0, 100.0)
    assert signs.spikes(Sides(dirty), "x") > 30


@pytest.mark.parametrize(
    ("x", "y", "as_one"),
    [
        ((1.0, 4.0), (1.0, 4.0), True),
        ((1.0, 4.0), (1.0 + 0.95 * AT_ONCE_S, 4.0), True),
        ((1.0, 4.0), (1.0 + 1.05 * AT_ONCE_S, 4.0), False),
        ((1.0,), (1.0,), False),
        ((1.0, 2.0, 3.0, 4.0, 5.0), (1.0, 2.0, 3.0, 4.0), True),
        ((1.0, 2.0, 3.0, 4.0), (1.0, 2.0, 3.0), False),
        ((1.0, 2.0, 3.0), (1.0, 2.0, 3.0, 4.0), False),
        ((), (1.0, 2.0), False),
    ],
)
def test_two_tracks_that_spike_by_themselves_seldom_do_so_at_once(
    x: tuple[float, ...], y: tuple[float, ...], as_one: bool
) -> None:
    take = readings_of("sound")
    spike = (*(Spike(t, "x", 9.0) for t in x), *(Spike(t, "y", 9.0) for t in y))
    assert spikes_as_one(replace(take, still=replace(take.still, spike=spike))) == as_one
    assert not spikes_as_one(replace(take, still=None))
