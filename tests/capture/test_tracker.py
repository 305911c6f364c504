"""The step tracker sees from the samples what the hand does: a technician has both hands full."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from hollow_pin.core.recording import NO_STEP, STEPS, Recording, RecordingError
from hollow_pin.core.routine import Routine
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import find_steps, spans_of, with_spans
from hollow_pin.core.tracking.tracker import StepTracker
from sticks import performed


def approx(value: float) -> object:
    """To a sample."""
    return pytest.approx(value, abs=0.0045)


def replay(recording: Recording, block: int) -> np.ndarray:
    tracker = StepTracker(Routine())
    steps = []
    for start in range(0, len(recording.t), block):
        part = slice(start, start + block)
        steps.append(tracker.feed(recording.t[part], recording.u[part]))
        if tracker.progress().space == "start":
            tracker.accept()
    return np.concatenate(steps)


@pytest.mark.parametrize("condition", ["sound", "offset", "worn", "dirty"])
def test_the_routine_runs_itself_and_every_step_is_usable(condition: str) -> None:
    recording = performed(condition).recording
    readings = measure_take(recording)
    assert set(readings.spans) == set(Routine().steps)
    assert readings.let_go.releases >= 16
    asked = Routine().passes
    assert (readings.crossing.x.passes, readings.crossing.y.passes) == (asked, asked)
    assert min(readings.rim.laps_cw, readings.rim.laps_ccw) >= 2
    of_the_stick = ("stuck", "saturated", "by-place")
    assert [p for p in readings.problems if p.code not in of_the_stick] == []


@pytest.mark.parametrize("block", [1, 40])
def test_it_does_not_matter_in_which_pieces_the_samples_come(block: int) -> None:
    recording = performed("worn").recording
    whole, pieces = measure_take(recording), replay(recording, block)
    for name in ("still", "let-go", "rim"):
        begins = np.flatnonzero(pieces == STEPS.index(name))[0] / 250
        assert begins == pytest.approx(whole.spans[name].from_s, abs=0.45)


@pytest.mark.parametrize(
    ("condition", "seed"),
    [("worn", 5), ("dirty", 5), ("loose", 5), ("loose", 106), ("loose", 116), ("sound", 11)],
)
def test_the_steps_are_found_in_a_recording_that_names_none(condition: str, seed: int) -> None:
    recording = performed(condition, seed).recording
    named = find_steps(without_steps(recording), Routine())
    for step in Routine().steps:
        is_it, said = (r.step == STEPS.index(step) for r in (recording, named))
        both, either = (is_it & said).sum(), (is_it | said).sum()
        assert both > 0.75 * either, f"{step}: a short rest between two steps parts them"
    readings = measure_take(named)
    truly = measure_take(recording)
    assert set(readings.spans) == set(truly.spans)
    for path in ("composite.dead_zone_needed", "let_go.return_spread", "rim.circularity_error"):
        assert readings.value(path) == pytest.approx(truly.value(path), abs=0.1)


def test_steps_that_somebody_names_are_the_ones_that_count() -> None:
    recording = performed("worn").recording
    spans = spans_of(recording)
    assert [p.step for p in spans] == list(Routine().steps)
    again = with_spans(without_steps(recording), spans)
    assert again.step.tolist() == recording.step.tolist(), "told and named again it is the same"
    still, let_go = spans[:2]
    only = with_spans(recording, (replace(still, from_s=2.0, to_s=8.0),))
    (kept,) = spans_of(only)
    assert (kept.step, kept.from_s, kept.to_s) == ("still", approx(2.0), approx(8.0))
    with pytest.raises(RecordingError, match=r"Let-go from 10.00 to 40.00 s overlaps another step"):
        with_spans(
            recording,
            (replace(still, from_s=0.0, to_s=10.01), replace(let_go, from_s=10.0, to_s=40.0)),
        )
    with pytest.raises(RecordingError, match=r"Still from 500.00 to 510.00 s holds no sample"):
        with_spans(recording, (replace(still, from_s=500.0, to_s=510.0),))
    assert with_spans(recording, ()).step.max() == NO_STEP


def test_what_is_not_the_routine_is_not_taken_for_it() -> None:
    recording = performed("worn").recording
    rim = recording.attempts("rim")[0]
    alone = Recording(
        recording.t_us[rim], recording.raw[rim], recording.ranges, recording.step[rim]
    )
    steps = set(find_steps(without_steps(alone), Routine()).step.tolist())
    assert steps <= {NO_STEP, STEPS.index("rim")}, "a rim alone is a rim, and no more"
    crossed = np.random.default_rng(3).uniform(-100, 100, (len(alone.t_us), 2))
    wild = replace(without_steps(alone), raw=crossed)
    assert set(find_steps(wild, Routine()).step.tolist()) == {NO_STEP}
    one = Recording(recording.t_us[:1], recording.raw[:1], recording.ranges, recording.step[:1])
    assert find_steps(one, Routine()).step.tolist() == [NO_STEP]


def without_steps(recording: Recording) -> Recording:
    return replace(recording, step=np.full(len(recording.t_us), NO_STEP, np.int8))


def quiet(seconds: float, at=(0.0, 0.0), start: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    n = int(seconds * 250)
    noise = np.random.default_rng(1).normal(0, 0.2, (n, 2))
    return start + np.arange(n) / 250, noise + at


def fed(tracker: StepTracker, t: np.ndarray, u: np.ndarray, block: int = 10) -> np.ndarray:
    return np.concatenate(
        [tracker.feed(t[i : i + block], u[i : i + block]) for i in range(0, len(t), block)]
    )


def test_it_waits_while_hands_are_on() -> None:
    tracker = StepTracker(Routine())
    t = np.arange(500) / 250
    u = 50 * np.column_stack((np.sin(9 * t), np.cos(9 * t)))
    assert set(fed(tracker, t, u)) == {NO_STEP}
    assert tracker.progress().says.startswith("Hands off")


def test_a_restless_stick_is_recorded_as_it_is_on_space() -> None:
    tracker = StepTracker(Routine())
    t = np.arange(1500) / 250
    u = 8 * np.column_stack((np.sin(6 * t), np.cos(5 * t)))
    fed(tracker, t, u)
    assert tracker.progress().space == "start"
    tracker.accept()
    assert set(fed(tracker, t + 6, u)) == {STEPS.index("still")}


def test_a_touched_still_starts_again_by_itself() -> None:
    tracker = StepTracker(Routine())
    fed(tracker, *quiet(4))
    fed(tracker, *quiet(0.6, (60, 0), 4))
    progress = tracker.progress()
    assert "moved" in progress.says + progress.note
    steps = fed(tracker, *quiet(12, start=4.6))
    assert tracker.progress().step == "let-go"
    assert (steps == STEPS.index("still")).sum() >= 10 * 250 - 10


def test_a_still_with_samples_missing_starts_again_by_itself() -> None:
    """Else the take would end well and be refused afterwards, with the shell closed."""
    tracker = StepTracker(Routine())
    fed(tracker, *quiet(4))
    first = fed(tracker, *quiet(0.1, start=4.8))
    assert first[0] == NO_STEP, "an attempt must be told from the one before"
    assert tracker.progress().says.startswith("Samples were missing.")
    steps = fed(tracker, *quiet(11, start=4.9))
    assert tracker.progress().step == "let-go"
    assert (steps == STEPS.index("still")).sum() >= 10 * 250 - 10


def test_space_accepts_only_what_can_be_used() -> None:
    tracker = StepTracker(Routine())
    fed(tracker, *quiet(3))
    assert tracker.progress().space == "none"
    tracker.accept()
    assert tracker.step == "still"
    fed(tracker, *quiet(3.5, start=3))
    assert tracker.progress().space == "accept"
    tracker.accept()
    assert tracker.step == "let-go"


def test_space_does_a_still_again_that_would_not_keep_still() -> None:
    tracker = StepTracker(Routine())
    t = np.arange(12 * 250) / 250
    u = np.where((t % 1.5 < 0.75)[:, None], 0.0, 60.0) * (1, 0) + quiet(12)[1]
    fed(tracker, t, u)
    assert tracker.progress().space == "redo"
    assert "Space does it again" in tracker.progress().says
    tracker.accept()
    assert tracker.progress().phase == "waiting"


def test_redo_goes_back_to_a_step_and_then_on_where_it_was() -> None:
    tracker = StepTracker(Routine())
    fed(tracker, *quiet(11))
    assert tracker.step == "let-go"
    tracker.redo("still")
    assert tracker.step == "still"
    steps = fed(tracker, *quiet(11, start=11))
    assert steps[0] == NO_STEP, "an attempt must be told from the one before"
    assert tracker.step == "let-go"


def test_directions_still_missing_are_named_by_clock_hour() -> None:
    tracker = StepTracker(Routine(steps=("let-go",), releases=1))
    t, u = quiet(40)
    for i in range(7):
        angle = np.radians(45 * i)
        push = (t > 1 + 3 * i) & (t < 1.5 + 3 * i)
        u[push] += 90 * np.array([np.sin(angle), np.cos(angle)])
    fed(tracker, t[: 250 * 24], u[: 250 * 24])
    assert "toward 11\u00a0o’clock" in tracker.progress().says
    assert not tracker.finished


def test_feeding_costs_the_block_and_not_the_history() -> None:
    """An hour's soak must not slow down: what is kept between blocks stays bounded."""
    tracker = StepTracker(Routine(still_s=3600))
    fed(tracker, *quiet(20), block=250)
    kept = tracker._moment.p.shape
    fed(tracker, *quiet(120, start=20), block=250)
    assert tracker._moment.p.shape == kept


def test_a_paddle_is_accepted_once_it_was_left_alone_somewhere_and_no_sooner() -> None:
    """Space would else end a take in which nothing at rest was seen."""
    tracker = StepTracker(Routine(steps=("turn",), passes=4), axes=1)
    rng = np.random.default_rng(5)
    there = np.linspace(-97.0, 97.0, 250)
    turned = np.concatenate([there, there[::-1]] * 3)
    held = np.full(800, turned[-1])
    v = np.concatenate([turned, held]) + rng.normal(0, 0.1, len(turned) + len(held))
    t = np.arange(len(v)) / 125.0
    asked = []
    for start in range(0, len(v), 25):
        part = slice(start, start + 25)
        tracker.feed(t[part], v[part, None])
        asked.append((float(t[part][-1]), tracker.progress().space))
    sooner = {space for at, space in asked if at < len(turned) / 125.0 + 1}
    assert sooner == {"none"}
    assert asked[-1][1] == "accept"


def test_where_the_steps_lie_ends_with_the_last_sample() -> None:
    recording = performed("sound").recording
    spans = spans_of(recording)
    assert spans[-1].to_s == pytest.approx(float(recording.t[-1]), abs=1e-4)
    assert all(a.to_s <= b.from_s + 1e-9 for a, b in pairwise(spans))
