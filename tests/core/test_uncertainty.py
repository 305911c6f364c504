"""The ± is what decides between “better” and “no change”: it must cover what the next take shows."""

from __future__ import annotations

from dataclasses import replace
from math import hypot

import numpy as np
import pytest

from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.comparison import Compared
from hollow_pin.core.let_go import LetGoResult
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.take import TakeReadings, measure_take
from hollow_pin.core.uncertainty import _dead_zone_uncertainty
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.perform import perform
from hollow_pin.simulator.stand_in import StandIn
from sticks import TEN_BIT


def takes_of(condition: str, seed: int, count: int) -> list[TakeReadings]:
    """The same stick measured again and again, nothing done in between."""
    stick = fresh_stick("potentiometer", "round", 10, 250, condition, seed)
    return [
        measure_take(perform(StandIn(stick, 100 * seed + i), block_s=0.4).recording)
        for i in range(count)
    ]


@pytest.mark.parametrize("condition", ["sound", "offset", "worn", "dirty", "binding", "unseated"])
def test_two_takes_of_an_untouched_stick_agree_within_their_uncertainty(condition: str) -> None:
    covered: list[bool] = []
    for seed in range(1, 3):
        takes = takes_of(condition, seed, 3)
        for a, b in zip(takes, takes[1:] + takes[:1], strict=True):
            for reading in READINGS:
                u = hypot(
                    a.uncertainty.get(reading.path, np.nan), b.uncertainty.get(reading.path, np.nan)
                )
                if np.isfinite(u) and reading.headline:
                    covered.append(abs(a.value(reading.path) - b.value(reading.path)) <= 2 * u)
    assert len(covered) > 50
    assert np.mean(covered) >= 0.9


def test_the_uncertainty_is_not_so_wide_that_nothing_is_ever_seen() -> None:
    sound, worn = takes_of("sound", 2, 1)[0], takes_of("worn", 2, 1)[0]
    for path in ("composite.dead_zone_needed", "let_go.return_spread"):
        assert sound.uncertainty[path] < 0.3
        assert worn.uncertainty[path] < 0.35 * worn.value(path)
    assert sound.uncertainty["rim.circularity_error"] < 0.4
    assert sound.uncertainty["rim.roundness_lsc"] < 0.5
    radius, spread = (worn.value(f"let_go.return_{what}") for what in ("radius", "spread"))
    share = worn.uncertainty["let_go.return_radius"] / worn.uncertainty["let_go.return_spread"]
    assert share == pytest.approx(radius / spread)


@pytest.mark.parametrize("rest", [0.0, 0.25, 0.5])
def test_a_hum_on_a_coarse_converter_is_no_change_wherever_it_rests(rest: float) -> None:
    """A hum of a step or two reads by a sixth of a step more or less at another place."""
    t = np.arange(2500) / 250.0
    takes = []
    for place in (0.0, rest):
        hum = 2.2 * np.sin(2 * np.pi * 40 * t)[:, None]
        raw = np.round(128 + place + hum + np.random.default_rng(1).normal(0, 0.15, (2500, 2)))
        still = np.full(len(raw), STEPS.index("still"), np.int8)
        recording = Recording((t * 1e6).astype(np.int64), raw, (AxisRange(0, 255),) * 2, still)
        takes.append(measure_take(recording))
    a, b = takes
    u = hypot(a.uncertainty["still.jitter_x"], b.uncertainty["still.jitter_x"])
    assert abs(a.still.jitter_x - b.still.jitter_x) <= 2 * u


@pytest.mark.parametrize(("rest", "by"), [(9.0, "still.rest_offset"), (0.5, "let_go.return_max")])
def test_a_dead_zone_is_known_as_well_as_what_reaches_farthest(rest: float, by: str) -> None:
    """A rest that lies beyond every return makes it; where a return does, its scatter counts."""
    take = takes_of("sound", 2, 1)[0]
    still = replace(take.still, rest_offset=rest, wander=0.0)
    let_go = replace(take.let_go, return_max=4.0)
    known = {
        "still.noise_reach": 0.3,
        "still.rest_offset": 0.4,
        "let_go.return_max": 1.2,
        "let_go.return_radius": 0.5,
    }
    measured = LetGoResult(let_go, np.zeros((0, 2)), ())
    u = _dead_zone_uncertainty(still, measured, known)
    assert u["composite.dead_zone_needed"] == pytest.approx(hypot(known[by], 0.3))
    assert u["composite.dead_zone_after_recentring"] == pytest.approx(hypot(0.5, 0.3))


def test_every_headline_reading_of_a_whole_take_has_one() -> None:
    take = takes_of("worn", 1, 1)[0]
    for reading in READINGS:
        if reading.headline and reading.applies_to(2):
            counted = reading.unit in ("", "/min")
            assert take.uncertainty[reading.path] > (-1 if counted else 0), reading.path


def still_only(u: np.ndarray, ranges: tuple[AxisRange, ...]) -> TakeReadings:
    t = (np.arange(len(u)) * 4000).astype(np.int64)
    step = np.full(len(u), STEPS.index("still"), np.int8)
    return measure_take(Recording(t, u, ranges, step))


def test_more_of_the_same_noise_is_known_better() -> None:
    rng = np.random.default_rng(1)
    unit = (AxisRange(-100, 100),) * 2
    short = still_only(rng.normal(0, 1, (2500, 2)), unit)
    long = still_only(rng.normal(0, 1, (40_000, 2)), unit)
    for path in ("still.rest_x", "still.jitter_y"):
        assert long.uncertainty[path] == pytest.approx(short.uncertainty[path] / 4, rel=0.6)


def test_the_rest_of_white_noise_is_as_uncertain_as_theory_says() -> None:
    """The interquartile mean of n normal values has standard error 1.092 · σ/√n."""
    rng = np.random.default_rng(2)
    u = rng.normal(0, 2, (5000, 2))
    found = still_only(u, (AxisRange(-100, 100),) * 2).uncertainty["still.rest_x"]
    assert found == pytest.approx(1.092 * 2 / np.sqrt(5000), rel=0.5)


def test_nothing_is_known_better_than_the_converters_step() -> None:
    step = 200 / 1023
    raw = 512 + (np.arange(4000) % 500 == 0).astype(float)
    readings = still_only(np.column_stack((raw, raw)), TEN_BIT)
    assert readings.uncertainty["still.rest_x"] >= step / np.sqrt(12) - 1e-9


def test_no_spike_seen_is_not_proof_of_none() -> None:
    rng = np.random.default_rng(3)
    ten_seconds = still_only(rng.normal(0, 1, (2500, 2)), (AxisRange(-100, 100),) * 2)
    assert ten_seconds.value("still.spikes_per_min_x") == 0
    assert ten_seconds.uncertainty["still.spikes_per_min_x"] == pytest.approx(6, rel=0.01)


def test_a_step_that_was_left_out_gives_no_uncertainty_to_lean_on() -> None:
    readings = still_only(np.random.default_rng(4).normal(0, 1, (2500, 2)), TEN_BIT)
    assert not [path for path in readings.uncertainty if path.startswith(("rim", "composite"))]


@pytest.mark.parametrize(
    ("change", "u", "after", "news"),
    [
        (2.1, 0.5, "within", True),
        (1.9, 0.5, "within", False),
        (2.1, 0.79, "within", False),
        (2.1, 0.77, "within", True),
        (0.9, 0.14, "within", True),
        (0.9, 0.16, "within", False),
        (0.79, 0.1, "within", False),
        (0.81, 0.1, "within", True),
        (0.5, 0.1, "over", True),
    ],
)
def test_a_change_is_news_from_where_it_matters(
    change: float, u: float, after: str, news: bool
) -> None:
    """A quarter of the limit, surely; a tenth of it where that is far more than can be seen; less only
    where it crosses the limit."""
    row = Compared(
        "composite.dead_zone_needed", 4.0, 4.0 + change, u, u, change, u, "worse", None, 8.0, None,
        "within", after,
    )  # fmt: skip
    assert row.worth_saying == news
    down = replace(row, change=-change)
    assert down.worth_saying == news
