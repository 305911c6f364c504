"""Measuring is total: whatever is on record gives readings or says why not, and never raises. One take
that raised would keep its page, and once kept a whole bench, from opening."""

from __future__ import annotations

import json
from dataclasses import asdict

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from anything import anything
from hollow_pin.core.comparison import compare
from hollow_pin.core.complaint import held_against
from hollow_pin.core.figures import figures_of
from hollow_pin.core.gate import GATES
from hollow_pin.core.intake import Intake
from hollow_pin.core.limits import limits_with
from hollow_pin.core.next_look import looks
from hollow_pin.core.prospect import prospects
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import (
    FARTHEST,
    FARTHEST_OUT,
    LONGEST_US,
    AxisRange,
    Recording,
    RecordingError,
    admitted,
)
from hollow_pin.core.routine import STANDARD, usual_routine
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import find_steps
from hollow_pin.core.where import where_of
from sticks import HERE, performed

READINGS = TypeAdapter(TakeReadings)
LIMITS = limits_with({})


def measured_through(seed: int) -> TakeReadings:
    """Everything that is done with a take on its way to a page."""
    recording = anything(seed)
    readings = measure_take(recording, GATES[seed % len(GATES)])
    json.dumps(asdict(readings), allow_nan=False)
    read_again = READINGS.validate_json(READINGS.dump_json(readings))
    for grade in ("fine", "everyday", "display"):
        assert explain(read_again, grade, LIMITS).sentence
    ranked = rank(read_again)
    assert all(0 <= c.probability <= 1 for c in ranked)
    prospects(read_again, ranked, "everyday", LIMITS)
    looks(read_again, ranked, STANDARD.steps)
    if ranked:
        held_against(Intake(hours=(3,), flick_clears="yes"), "drifts", read_again, ranked)
    where_of(read_again)
    figures_of(read_again, LIMITS, "everyday")
    return read_again


@pytest.mark.filterwarnings("ignore::RuntimeWarning")
@example(seed=15)
@example(seed=1458)
@settings(max_examples=160, deadline=None, derandomize=True)
@given(seed=st.integers(0, 2**40))
def test_any_samples_give_readings_or_a_named_refusal(seed: int) -> None:
    measured_through(seed)


@pytest.mark.filterwarnings("ignore::RuntimeWarning")
@settings(max_examples=30, deadline=None, derandomize=True)
@given(seed=st.integers(0, 2**40), other=st.integers(0, 2**40))
def test_any_two_takes_can_be_compared_or_are_refused(seed: int, other: int) -> None:
    before, after = measured_through(seed), measured_through(other)
    comparison = compare(before, after, HERE, HERE, "everyday", LIMITS, False)
    assert explain_comparison(comparison, after, "left", False)
    json.dumps(asdict(comparison), allow_nan=False)


@settings(max_examples=60, deadline=None, derandomize=True)
@given(seed=st.integers(0, 2**40))
def test_steps_are_looked_for_in_any_samples(seed: int) -> None:
    recording = anything(seed)
    axes = len(recording.ranges)
    assert len(find_steps(recording, usual_routine(axes, True)).step) == len(recording.t_us)


STEP = {name: code for code, name in enumerate(("still", "let-go", "rim"))}


@pytest.mark.parametrize(
    ("t_us", "step"),
    [
        ([0, 1_600_000], 5),
        ([0, 1_000_000, 2_000_000], 5),
        ([0] * 94, 1),
        ([0, *[2_000_000 + 4000 * i for i in range(10)]], 5),
    ],
)
def test_a_stalled_source_is_measured_without_its_stalls(t_us: list[int], step: int) -> None:
    """Two seconds without a sample in Hold, and a server did not start any more."""
    n = len(t_us)
    raw = np.column_stack((np.full(n, 1000.0), np.full(n, 512.0)))
    recording = Recording(
        np.array(t_us), raw, (AxisRange(0, 1023),) * 2, np.full(n, step, dtype=np.int8)
    )
    assert measure_take(recording).hold is None


# What is let on record


def recording(t_us: list[int], x: list[float], lo: float = 0, hi: float = 1023) -> Recording:
    n = len(t_us)
    return Recording(
        np.array(t_us, dtype=np.int64),
        np.array(x, dtype=float)[:, None],
        (AxisRange(lo, hi),),
        np.zeros(n, np.int8),
    )


def test_a_take_lasts_a_day_at_most() -> None:
    assert recording([0, LONGEST_US], [1, 2]).t[-1] == 24 * 3600
    with pytest.raises(RecordingError, match="may last 24"):
        recording([0, LONGEST_US + 1], [1, 2])


def test_a_value_lies_within_so_many_half_ranges() -> None:
    far = FARTHEST_OUT * 0.5 + 0.5
    assert recording([0, 1], [0, far], 0, 1).u.max() == pytest.approx(100 * FARTHEST_OUT)
    with pytest.raises(RecordingError, match="sample 2: x lies far outside"):
        recording([0, 1], [0, far * 1.001], 0, 1)


def test_times_are_whole_numbers_a_double_can_hold() -> None:
    most = int(FARTHEST)
    recording([most - 1, most], [1, 2])
    with pytest.raises(RecordingError, match="microseconds"):
        recording([most, most + 1], [1, 2])


@pytest.mark.parametrize(("lo", "hi"), [(0, 1e-10), (1e9, 1e9 + 0.5), (0, 1e17), (3, 3)])
def test_a_range_that_nothing_can_be_measured_in_is_refused(lo: float, hi: float) -> None:
    with pytest.raises(RecordingError, match="range"):
        AxisRange(lo, hi)


def test_live_samples_out_of_order_or_range_are_not_let_in() -> None:
    """Two windows on one take, a wire that lies: what is on record can be written and read again."""
    ranges = (AxisRange(0, 10),)
    t = np.array([5, 7, 6, 7, 8, LONGEST_US + 1, 9, 10])
    raw = np.array([0.0, 10, 5, 5, 10.5, 5, np.nan, -0.1])[:, None]
    good = admitted(t, raw, ranges, None)
    assert good.tolist() == [True, True, False, True, False, False, False, False]
    assert admitted(t[:2], raw[:2], ranges, 6).tolist() == [False, True]
    assert admitted(t[:2], raw[:2], ranges, 7).tolist() == [False, True]
    assert not admitted(t[:2], raw[:2], ranges, 8).any()


def test_a_still_of_hours_is_measured_in_bounded_memory() -> None:
    """Creep looks at every pair of seconds: of a day that would be thirty gigabytes."""
    one = performed("sound").recording
    part = one.attempts("still")[0]
    times = 1200
    step = int(one.t_us[part][-1] - one.t_us[part][0]) + 4000
    t = np.concatenate([one.t_us[part][::5] + k * step for k in range(times)])
    raw = np.tile(one.raw[part][::5], (times, 1))
    long = Recording(t, raw, one.ranges, np.zeros(len(t), np.int8))
    assert long.t[-1] > 3 * 3600
    still = measure_take(long).still
    assert still is not None
    assert still.creep_x == pytest.approx(0, abs=0.01)
    assert still.rest_x == pytest.approx(measure_take(one).still.rest_x, abs=0.2)
