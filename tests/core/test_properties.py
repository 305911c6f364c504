"""What must not depend on which way the stick was held, how finely it was sampled, or in what order
it was moved: else two honest takes of one stick would disagree."""

from __future__ import annotations

from dataclasses import asdict

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage, signal

from hollow_pin.core.geometry import (
    bearing,
    clock_hour,
    least_squares_circle,
    minimum_zone_circle,
    peak_to_valley,
    smallest_circle,
)
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, Recording
from hollow_pin.core.rim import measure_rim
from hollow_pin.core.statistics import LONG, baseline, running_median, running_range, smoothed
from hollow_pin.core.take import measure_take
from sticks import performed, readings_of, transformed

LENGTHS = (
    "still.rest_offset",
    "still.noise_reach",
    "still.wander",
    "still.spike_height",
    "let_go.return_max",
    "let_go.return_mean",
    "let_go.return_spread",
    "let_go.return_radius",
    "let_go.settle_ms_p90",
    "let_go.overshoot_max",
    "rim.mean_radius",
    "rim.circularity_error",
    "rim.roundness_lsc",
    "rim.roundness_mzc",
    "rim.lsc_radius",
    "rim.outer_dead_zone_needed",
    "composite.dead_zone_needed",
    "composite.dead_zone_after_recentring",
)
CONDITIONS = ("offset", "worn", "dirty")


def assert_same_lengths(a: TakeReadings, b: TakeReadings) -> None:
    for path in LENGTHS:
        assert b.value(path) == pytest.approx(a.value(path), abs=1e-6), path


@pytest.mark.parametrize(("noise", "rise"), [(0.4, 0), (3, 30), (3, -30), (200, 0), (2, 4000)])
def test_a_long_soak_has_the_same_baseline_as_a_short_one(noise: float, rise: float) -> None:
    """Long recordings take another way to their running median: it must be the same median."""
    rng = np.random.default_rng(5)
    n = LONG + 12_345
    v = np.round(noise * rng.standard_normal(n) + np.linspace(0, rise, n)).astype(np.float32)
    np.testing.assert_array_equal(
        running_median(v, 501), ndimage.median_filter(v, 501, mode="reflect")
    )


@pytest.mark.parametrize(("n", "window"), [(1, 1), (7, 7), (80, 5), (701, 251)])
def test_what_runs_along_a_recording_is_what_it_is_called(n: int, window: int) -> None:
    """At both ends too, where a release begins and a take stops."""
    v = np.cumsum(np.random.default_rng(4).standard_normal(n))
    for ends, named in (("symmetric", "reflect"), ("edge", "nearest")):
        median = ndimage.median_filter(v, window, mode=named)
        np.testing.assert_array_equal(running_median(v, window, ends), median)
    apart = ndimage.maximum_filter1d(v, window) - ndimage.minimum_filter1d(v, window)
    np.testing.assert_array_equal(running_range(v, window), apart)
    interval = 0.5 / window
    mean = ndimage.uniform_filter1d(running_median(v, window), window)
    np.testing.assert_allclose(baseline(v, interval), mean, atol=1e-9)


@pytest.mark.parametrize(("n", "window"), [(5, 5), (80, 5), (701, 33), (2400, 251)])
def test_a_track_is_smoothed_as_the_method_says(n: int, window: int) -> None:
    """Noise is what is left beside it: another smoothing would shift every track noise."""
    v = np.cumsum(np.random.default_rng(3).standard_normal(n))
    np.testing.assert_allclose(smoothed(v, window), signal.savgol_filter(v, window, 2), atol=1e-9)


@pytest.mark.parametrize("condition", CONDITIONS)
def test_turning_by_90_degrees_turns_bearings_and_changes_no_length(condition: str) -> None:
    recording = performed(condition).recording
    u = recording.u
    before = measure_take(recording)
    after = measure_take(transformed(recording, np.column_stack((u[:, 1], -u[:, 0]))))
    assert_same_lengths(before, after)
    assert after.still.rest_bearing == pytest.approx((before.still.rest_bearing + 90) % 360)
    turned = [(r.bearing + 90) % 360 for r in before.let_go.release]
    assert [r.bearing for r in after.let_go.release] == pytest.approx(turned)
    assert after.rim.radius == pytest.approx(np.roll(before.rim.radius, 18))
    assert after.rim.reach_right == pytest.approx(before.rim.reach_up)
    assert (after.rim.laps_cw, after.rim.laps_ccw) == (before.rim.laps_cw, before.rim.laps_ccw)
    assert (after.still.jitter_x, after.still.jitter_y) == pytest.approx(
        (before.still.jitter_y, before.still.jitter_x)
    )


@pytest.mark.parametrize("condition", CONDITIONS)
def test_mirroring_mirrors_and_swaps_the_ways_round(condition: str) -> None:
    recording = performed(condition).recording
    before = measure_take(recording)
    after = measure_take(transformed(recording, recording.u * (-1, 1)))
    assert_same_lengths(before, after)
    assert after.still.rest_x == pytest.approx(-before.still.rest_x)
    assert after.rim.reach_left == pytest.approx(before.rim.reach_right)
    assert (after.rim.laps_cw, after.rim.laps_ccw) == (before.rim.laps_ccw, before.rim.laps_cw)
    assert after.rim.radius == pytest.approx(np.roll(before.rim.radius[::-1], 1))


def test_doubling_the_resolution_changes_little() -> None:
    coarse = readings_of("worn", 5, bits=10)
    fine = readings_of("worn", 5, bits=11)
    for path in LENGTHS:
        if "settle" not in path:
            assert fine.value(path) == pytest.approx(coarse.value(path), abs=0.4), path


def test_the_order_of_laps_does_not_matter() -> None:
    recording = performed("offset").recording
    part = recording.attempts("rim")[-1]
    u = recording.u[part]
    result = measure_rim(u)
    halves = measure_rim(np.concatenate((u[len(u) // 2 :], u[: len(u) // 2]))).readings
    for name in ("circularity_error", "roundness_lsc", "mean_radius", "reach_up", "overreach"):
        assert getattr(halves, name) == pytest.approx(getattr(result.readings, name), abs=0.02)


def test_uneven_timing_changes_no_rest_and_no_return() -> None:
    recording = performed("offset").recording
    rng = np.random.default_rng(3)
    jittered = np.sort(recording.t_us + rng.integers(-900, 900, len(recording.t_us)))
    shaken = Recording(jittered, recording.raw, recording.ranges, recording.step)
    a, b = measure_take(recording), measure_take(shaken)
    assert b.still.rest_x == a.still.rest_x
    assert b.let_go.return_spread == pytest.approx(a.let_go.return_spread, abs=0.1)
    assert b.still.timing_jitter_ms > a.still.timing_jitter_ms


def test_the_last_usable_attempt_counts() -> None:
    """A step done again replaces the first try; a spoilt second try does not."""
    recording = performed("sound").recording
    still = recording.attempts("still")[0]
    n = still.stop - still.start
    offset_us = recording.t_us[-1] + 1_000_000

    def with_again(u_shift: float, count: int) -> TakeReadings:
        again = recording.raw[still.start : still.start + count] + u_shift
        gap = np.full(1, -1, dtype=np.int8)
        t_again = recording.t_us[still.start : still.start + count] - recording.t_us[still.start]
        longer = Recording(
            np.concatenate((recording.t_us, [offset_us - 1000], offset_us + t_again)),
            np.concatenate((recording.raw, recording.raw[-1:], again)),
            recording.ranges,
            np.concatenate((recording.step, gap, np.full(count, STEPS.index("still"), np.int8))),
        )
        return measure_take(longer)

    first = measure_take(recording).still.rest_x
    done_again = with_again(51.15, n)
    assert done_again.still.rest_x == pytest.approx(first + 10, abs=0.01)
    assert done_again.spans["still"].attempt == 2
    spoilt = with_again(51.15, 200)
    assert spoilt.still.rest_x == first
    assert [p.code for p in spoilt.problems if p.step == "still"] == ["short"]


@settings(max_examples=60, deadline=None)
@given(arrays(np.float64, st.tuples(st.integers(1, 14), st.just(2)), elements=st.floats(-100, 100)))
def test_the_smallest_circle_encloses_everything_and_no_smaller_one_does(points) -> None:
    circle = smallest_circle(points)
    away = np.hypot(points[:, 0] - circle.x, points[:, 1] - circle.y)
    assert away.max() <= circle.radius + 1e-6
    apart = np.hypot(*(points[:, None] - points[None]).transpose(2, 0, 1)).max()
    assert apart / 2 - 1e-6 <= circle.radius <= apart / np.sqrt(3) + 1e-6


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.floats(0, 8), st.floats(-10, 10))
def test_the_minimum_zone_is_never_wider_than_least_squares(seed, rough, shift) -> None:
    rng = np.random.default_rng(seed)
    angle = np.radians(np.arange(72) * 5)
    r = 100 + rng.normal(0, rough, 72) + 4 * np.cos(2 * angle + seed)
    points = np.column_stack((r * np.sin(angle) + shift, r * np.cos(angle)))
    lsc = least_squares_circle(points)
    mzc = minimum_zone_circle(points, lsc)
    narrow = peak_to_valley(points, mzc.x, mzc.y)
    far = np.hypot(points[:, 0] - mzc.x, points[:, 1] - mzc.y)
    assert mzc.radius == pytest.approx((far.max() + far.min()) / 2), "the middle of the ring"
    assert narrow <= peak_to_valley(points, lsc.x, lsc.y) + 1e-12
    for dx, dy in ((0.01, 0), (-0.01, 0), (0, 0.01), (0, -0.01)):
        assert narrow <= peak_to_valley(points, mzc.x + dx, mzc.y + dy) + 1e-9


@given(st.floats(0, 360, exclude_max=True))
def test_every_bearing_has_the_nearest_clock_hour(b: float) -> None:
    hour = clock_hour(b)
    away = abs((b - (hour % 12) * 30 + 180) % 360 - 180)
    assert 1 <= hour <= 12
    assert away <= 15 + 1e-9
    x, y = np.sin(np.radians(b)), np.cos(np.radians(b))
    assert abs((float(bearing(x, y)) - b + 180) % 360 - 180) < 1e-6


def test_two_takes_read_the_same_to_the_last_digit() -> None:
    """The bootstrap is seeded: opening a take again must not change what it said."""
    recording = performed("worn").recording
    assert asdict(measure_take(recording)) == asdict(measure_take(recording))
