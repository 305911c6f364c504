"""A device that smooths what it reports would make dirt of a loose joint: its filter is undone."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import lfilter

from hollow_pin.core.low_pass import STEP_S, Unfiltered, unfiltered


def filtered(v: np.ndarray, kept: float) -> np.ndarray:
    return lfilter([1 - kept], [1, -kept], v - v[0]) + v[0]


def leaping(there_and_back: int, height: float = 60.0, samples: int = 40) -> np.ndarray:
    v = np.zeros(4000)
    for i in range(there_and_back):
        v[100 * i + 100 : 100 * i + 100 + samples] = height
    return v


@settings(max_examples=60, deadline=None)
@given(
    kept=st.floats(0.12, 0.85),
    heights=st.lists(st.floats(60.0, 100.0), min_size=6, max_size=30),
    offset=st.floats(-5.0, 5.0),
    seed=st.integers(0, 2**30),
)
def test_what_went_into_a_filter_is_found(
    kept: float, heights: list[float], offset: float, seed: int
) -> None:
    """With a little noise on it, and as 10 bit give it."""
    v = np.full(4000, offset)
    for i, height in enumerate(heights):
        v[100 * i + 100 : 100 * i + 140] = height
    noise = np.random.default_rng(seed).normal(0.0, 0.05, len(v))
    step = 200 / 1023
    restored = unfiltered(np.round((filtered(v, kept) + noise) / step) * step, STEP_S)
    assert restored.retained == pytest.approx(kept, abs=0.02)
    off = np.abs(restored.signal - v)
    assert np.median(off) <= restored.error(step) + 5 * 0.05 / (1 - kept)
    assert (off > 5.0).mean() < 0.02, "a step off here and there, at an edge"


def test_what_is_not_smoothed_stays_as_it_is() -> None:
    v = leaping(20)
    restored = unfiltered(v, STEP_S)
    assert restored.signal is v
    assert (restored.retained, restored.tail, restored.error(0.5)) == (0.0, 0, 0.5)


@pytest.mark.parametrize(("goes_back", "filtered_"), [(True, True), (False, False)])
def test_six_edges_tell_of_a_filter_and_five_do_not(goes_back: bool, filtered_: bool) -> None:
    v = leaping(3)
    v[340:] = 0.0 if goes_back else 60.0
    assert bool(unfiltered(filtered(v, 0.5), STEP_S).retained) is filtered_


@pytest.mark.parametrize(("first", "filtered_"), [(5.1, True), (4.9, False)])
def test_an_edge_begins_with_five_per_cent(first: float, filtered_: bool) -> None:
    assert bool(unfiltered(filtered(leaping(5, 2 * first), 0.5), STEP_S).retained) is filtered_


@pytest.mark.parametrize(("kept", "filtered_"), [(0.11, True), (0.09, False)])
def test_what_keeps_a_tenth_is_a_filter(kept: float, filtered_: bool) -> None:
    assert bool(unfiltered(filtered(leaping(5), kept), STEP_S).retained) is filtered_


@pytest.mark.parametrize(("short", "filtered_"), [(17, True), (18, False)])
def test_three_in_twenty_of_the_edges_have_to_be_those_of_one(short: int, filtered_: bool) -> None:
    """Others are there at once, and back at once: two each."""
    v = filtered(leaping(3), 0.5)
    for i in range(short):
        v[1000 + 80 * i : 1003 + 80 * i] = 60.0
    assert bool(unfiltered(v, STEP_S).retained) is filtered_


@pytest.mark.parametrize(("before", "filtered_"), [(2.9, True), (3.1, False)])
def test_what_gathers_speed_is_a_hand(before: float, filtered_: bool) -> None:
    """A tenth of the largest step, two samples before it."""
    v = filtered(leaping(5), 0.5)
    for at in np.flatnonzero(np.abs(np.diff(v)) > 29.9):
        v[: at - 1] -= before * np.sign(v[at + 1] - v[at])
    assert bool(unfiltered(v, STEP_S).retained) is filtered_


def edges(*shares: float) -> np.ndarray:
    """Ten of them, there and back: 30 %, then so large shares of the step before."""
    step = np.zeros(4000)
    for i in range(10):
        sign, at = 1 - 2 * (i % 2), 60 * i + 100
        step[at : at + 3] = sign * 30.0 * np.cumprod([1.0, *shares])
    return np.cumsum(step)


@pytest.mark.parametrize(
    ("first", "second", "filtered_"),
    [(0.5, 0.41, True), (0.5, 0.39, False), (0.96, 0.96, True), (0.98, 0.98, False)],
)
def test_an_edge_goes_on_by_one_share_and_slows_down(
    first: float, second: float, filtered_: bool
) -> None:
    """What goes on as fast is limited in its speed, and no filter."""
    assert bool(unfiltered(edges(first, second), STEP_S).retained) is filtered_


@pytest.mark.parametrize(("other", "filtered_"), [(0.59, True), (0.61, False)])
def test_one_filter_is_the_same_at_every_edge(other: float, filtered_: bool) -> None:
    """Five edges of one share and one of another: six, or five that are alike."""
    v = edges(0.5, 0.5)[:395]
    v = np.append(v, v[-1] + np.cumsum([0.0] * 5 + [-30.0, -30.0 * other, -30.0 * other**2]))
    assert bool(unfiltered(np.append(v, np.full(9, v[-1])), STEP_S).retained) is filtered_


@pytest.mark.parametrize(("samples", "filtered_"), [(62, True), (63, False)])
def test_what_is_held_and_comes_back_slowly_is_a_stick(samples: int, filtered_: bool) -> None:
    """A spring in grease leaves a share of the way at every moment as well, after it was held out for
    a quarter second. Its returns were undone, and made jumps of."""
    v = np.tile(np.append(np.zeros(200), np.full(samples, 60.0)), 10)
    assert bool(unfiltered(filtered(v, 0.5), STEP_S).retained) is filtered_


def test_two_edges_of_the_same_way_are_no_jump() -> None:
    v = np.repeat(np.arange(6) * 15.0, 40)
    assert unfiltered(filtered(np.append(np.zeros(40), v), 0.5), STEP_S).retained == 0.0


@pytest.mark.parametrize(("interval_s", "every"), [(0.001, 4), (0.002, 2), (0.004, 1), (0.008, 1)])
def test_what_comes_faster_is_looked_at_every_four_milliseconds(
    interval_s: float, every: int
) -> None:
    """From one sample to the next there is more noise than jump."""
    v = np.repeat(leaping(5, 60.0, 25), every)
    restored = unfiltered(filtered(v, 0.5 ** (1 / every)), interval_s)
    assert restored.every == every
    assert restored.retained == pytest.approx(0.5, abs=1e-6)
    assert restored.shows(400, 500) == slice(401 - every, 500 + 8 * every)
    assert np.median(np.abs(restored.signal - v)) < 1e-6


def test_nothing_comes_out_beyond_the_range() -> None:
    v = filtered(leaping(5, 100.0), 0.5)
    v[np.argmax(v) + 1 :] += 3.0
    assert unfiltered(v, STEP_S).signal.max() == 100.0


@pytest.mark.parametrize(("kept", "tail"), [(0.45, 7), (0.82, 27)])
def test_the_way_back_shows_until_half_a_hundredth_remains(kept: float, tail: int) -> None:
    came = Unfiltered(np.zeros(1), kept)
    assert came.tail == tail
    assert kept**tail <= 0.005 < kept ** (tail - 1)


def test_the_converters_steps_count_for_more_of_what_a_filter_shrank() -> None:
    """Each of two samples is off by half a step: (1 + 0.8) / (1 - 0.8) halves."""
    assert Unfiltered(np.zeros(1), 0.8).error(1.0) == pytest.approx(4.5)
    assert Unfiltered(np.zeros(1), 0.2).error(1.0) == 1.0


@pytest.mark.parametrize("n", [0, 1, 2, 5])
def test_a_few_samples_are_no_trouble(n: int) -> None:
    assert unfiltered(np.linspace(0, 90, n), STEP_S).retained == 0.0
