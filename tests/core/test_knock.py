"""A bump of the bench in Still rings, and is no dirt on a track."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Floats
from hollow_pin.core.spikes import SWING_S
from hollow_pin.core.statistics import TENTHS_APART
from hollow_pin.core.still import SWING_TIMES, Still, measure_still
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from sticks import performed, transformed

T = np.arange(0, 10, 0.002)


def ring(t: Floats, at: float, far: float, hz: float, dies_s: float) -> Floats:
    """What a bump makes of an axis, %: (n,)."""
    since = np.maximum(t - at, 0.0)
    return far * np.exp(-since / dies_s) * np.sin(2 * np.pi * hz * since)


def knocked(condition: str, far: float, hz: float, dies_s: float, way: float) -> TakeReadings:
    recording = performed(condition, bits=14).recording
    rung = ring(recording.t, 4.0, far, hz, dies_s)
    u = recording.u + np.outer(rung, (np.cos(way), np.sin(way)))
    return measure_take(transformed(recording, u))


@pytest.mark.parametrize(
    ("far", "hz", "dies_s"), [(4.0, 25.0, 0.05), (8.0, 30.0, 0.04), (5.0, 12.0, 0.15)]
)
@pytest.mark.parametrize("way", [0.0, 0.7, 1.2])
def test_a_bench_that_was_bumped_sends_nobody_to_clean_a_track(
    far: float, hz: float, dies_s: float, way: float
) -> None:
    take = knocked("sound", far, hz, dies_s, way)
    assert take.still.knocks == 1
    assert take.still.spike == ()
    (problems,) = [p for p in take.problems if p.code == "knocked"]
    assert problems.message.startswith("it was knocked once")
    assert problems.kind == "mind"
    assert explain(take).advice == "Every reading taken is within its limit."
    assert rank(take)[0].cause == "sound"
    quiet = measure_take(performed("sound", bits=14).recording)
    for path in ("still.jitter_x", "still.jitter_y", "still.noise_reach", "still.wander"):
        assert take.value(path) == pytest.approx(quiet.value(path), rel=0.25, abs=0.02), path


@pytest.mark.parametrize(
    ("bits", "far", "way"), [(14, 2.0, 0.5), (14, 2.0, 2.4), (8, 5.0, 0.5), (8, 5.0, 2.4)]
)
def test_a_bump_of_which_little_is_a_spike_is_one_as_well(
    bits: int, far: float, way: float
) -> None:
    """Its first swing alone was seen, three times over, and was dirt on the track."""
    recording = performed("sound", bits=bits).recording
    rung = sum(ring(recording.t, at, far, 12.0, 0.08) for at in (2.0, 5.0, 8.0))
    u = recording.u + np.outer(rung, (np.cos(way), np.sin(way)))
    step = recording.resolutions[0]
    take = measure_take(transformed(recording, (np.round(u / step - 0.5) + 0.5) * step))
    assert take.still.knocks == 3
    assert take.still.spike == ()
    assert explain(take).try_first == "none"
    assert rank(take)[0].cause == "sound"


def test_a_dirty_track_that_is_bumped_is_dirty() -> None:
    take = knocked("dirty", 6.0, 25.0, 0.05, 0.7)
    assert take.still.knocks == 1
    assert explain(take).try_first == "cleaned"
    assert rank(take)[0].cause == "dirty"


def still(*struck: tuple[float, float, float]) -> Still:
    """Of a quiet stick with spikes of 4 ms: when, and how high on each axis."""
    u = np.random.default_rng(1).normal(0, 0.05, (len(T), 2))
    for at, *by in struck:
        u[(at <= T) & (at + 0.004 > T)] += by
    return measure_still(T, u).readings


NEAR, FAR = 0.9 * SWING_S, 1.1 * SWING_S


@pytest.mark.parametrize(
    ("struck", "knocks"),
    [
        ([(5, 9, 0), (5 + NEAR, -7, 0), (5 + 2 * NEAR, 5, 0)], 1),
        ([(5, 9, 0), (5 + NEAR, -7, 0)], 1),
        ([(2, 9, 0), (5, 9, 0), (5 + NEAR, -7, 0)], 0),
        ([(2, 9, 0), (5, 9, 9), (5 + NEAR, -7, -7)], 1),
        ([(2, 9, 0), (5, 9, 0), (5 + NEAR, -7, 0), (5 + 2 * NEAR, 5, 0)], 1),
        ([(5, 9, 9), (5 + NEAR, -7, -7)], 1),
        ([(5, 9, 0), (5 + NEAR, -7, 0), (8, 0, 9), (8 + NEAR, 0, -7)], 2),
        ([(5, 9, 0), (5 + FAR, -7, 0), (5 + 2 * FAR, 5, 0)], 0),
        ([(5, 9, 0), (5 + NEAR, 7, 0), (5 + 2 * NEAR, 5, 0)], 0),
        ([(5, 5, 0), (5 + NEAR, -7, 0), (5 + 2 * NEAR, 9, 0)], 0),
        ([(3, 9, 9), (3 + NEAR, -7, -7), (7, 9, 9), (7 + NEAR, -7, -7)], 2),
    ],
)
def test_a_knock_swings_to_and_fro_and_dies_away(
    struck: list[tuple[float, float, float]], knocks: int
) -> None:
    readings = still(*struck)
    assert readings.knocks == knocks
    rung = {at for at, *_ in struck} if knocks else set()
    assert all(spike.t_s == pytest.approx(2.0, abs=0.01) or not rung for spike in readings.spike)


def swung_back(u: Floats, height: float) -> int:
    """Knocks of a stick with one spike, which swings back by so much."""
    u[2500], u[2510] = 9.0, -height
    return measure_still(T, u[:, None]).readings.knocks


@pytest.mark.parametrize(("times", "knocks"), [(SWING_TIMES - 0.2, 0), (SWING_TIMES + 0.2, 1)])
def test_a_swing_is_out_of_what_trembles(times: float, knocks: int) -> None:
    trembles = np.random.default_rng(1).normal(0, 0.1, len(T))
    low, high = np.quantile(trembles, (0.1, 0.9))
    assert swung_back(trembles, times * (high - low) / TENTHS_APART) == knocks


@pytest.mark.parametrize(("first", "knocks"), [(0.9, 0), (1.2, 1)])
def test_what_swings_and_holds_no_spike_was_not_knocked(first: float, knocks: int) -> None:
    """A rest that trembles now and then a little more than as a rule is one that trembles."""
    u = np.random.default_rng(1).normal(0, 0.02, (len(T), 1))
    for i, high in enumerate((first, -0.6, 0.4)):
        u[2500 + 10 * i] = high
    assert measure_still(T, u).readings.knocks == knocks


@pytest.mark.parametrize(("steps", "knocks"), [(1, 0), (2, 1)])
def test_a_swing_is_more_than_one_step_of_a_converter(steps: int, knocks: int) -> None:
    """A rest between two codes goes from one to the other by itself."""
    flickers = np.zeros(len(T))
    flickers[::200] = 0.5
    assert swung_back(flickers, 0.5 * steps) == knocks


def test_what_spikes_four_times_a_second_by_itself_hardly_ever_rings() -> None:
    rng = np.random.default_rng(2)
    at = np.sort(rng.uniform(0.1, 9.9, 40))
    high = rng.uniform(4, 12, 40) * rng.choice((-1, 1), 40)
    readings = still(*((t, h, 0.0) for t, h in zip(at, high, strict=True)))
    assert readings.knocks <= 1
    assert readings.spikes_per_min_x > 150


def test_knocks_are_counted_in_words() -> None:
    u = np.random.default_rng(1).normal(0, 0.05, (len(T), 1))
    for at in (2.0, 5.0, 8.0):
        u[:, 0] += ring(T, at, 6.0, 20.0, 0.06)
    (problems,) = measure_still(T, u).problems
    assert problems.message.startswith("it was knocked 3 times")
