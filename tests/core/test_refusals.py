"""What cannot be measured is refused with its reason: a number made up would be believed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.comparison import compare
from hollow_pin.core.limits import against_limit
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import NO_STEP, STEPS, AxisRange, Recording, RecordingError
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.conditions import fresh_stick
from sticks import HERE, TEN_BIT, performed, read_of, readings_of


def record(step: str, u: np.ndarray, rate: float = 250.0, t: np.ndarray | None = None) -> Recording:
    n = len(u)
    t_us = (np.arange(n) * 1e6 / rate).astype(np.int64) if t is None else t
    raw = np.round((u + 100) / 200 * 1023)
    return Recording(t_us, raw, TEN_BIT[: u.shape[1]], np.full(n, STEPS.index(step), np.int8))


def noise(seconds: float, rate: float = 250.0) -> np.ndarray:
    return np.random.default_rng(1).normal(0, 0.5, (int(seconds * rate), 2))


@pytest.mark.parametrize(("silent_s", "code"), [(0.9, "short"), (1.1, "asleep")])
def test_a_device_that_falls_asleep_in_still_is_no_hand_that_came_too_soon(
    silent_s: float, code: str
) -> None:
    """“Keep hands off longer”, whoever had kept them off for as long as was asked."""
    t = np.arange(0, 6.0, 0.004)
    still, gone = t < 4.0, (t >= 4.0) & (t < 4.0 + silent_s)
    recording = record("still", noise(6.0), t=np.round(t * 1e6).astype(np.int64))
    step = np.where(still, recording.step, NO_STEP).astype(np.int8)
    kept = replace(
        recording, t_us=recording.t_us[~gone], raw=recording.raw[~gone], step=step[~gone]
    )
    (problems,) = [p for p in measure_take(kept).problems if p.step == "still"]
    assert problems.code == code
    assert ("after 4.0 s, for 1 s" in problems.message) == (code == "asleep")


def only_problem(readings: TakeReadings) -> tuple[str, str]:
    assert len(readings.problems) == 1
    return readings.problems[0].code, readings.problems[0].message


def test_a_short_still_is_refused_and_says_how_long_it_takes() -> None:
    readings = measure_take(record("still", noise(4)))
    assert readings.still is None
    code, message = only_problem(readings)
    assert code == "short"
    assert "at least 5 s" in message


def test_of_two_attempts_it_is_said_which_could_not_be_used() -> None:
    """Else somebody does the step again that was good."""
    _, alone = only_problem(measure_take(record("still", noise(4))))
    assert alone.startswith("the step is not usable because")
    both = record("still", noise(8))
    both.step[4 * 250 : 4 * 250 + 50] = NO_STEP
    _, one_of_two = only_problem(measure_take(both))
    assert one_of_two.startswith("attempt 2 of 2 is not usable because")


def test_a_still_with_a_hole_in_it_is_refused() -> None:
    recording = record("still", noise(8))
    t = recording.t_us.copy()
    t[900:] += 700_000
    readings = measure_take(replace_time(recording, t))
    assert readings.still is None
    assert only_problem(readings)[0] == "gap"


def replace_time(recording: Recording, t: np.ndarray) -> Recording:
    return Recording(t, recording.raw, recording.ranges, recording.step)


def test_a_touched_still_is_measured_and_asks() -> None:
    u = noise(10)
    u[1000:1100] += 60
    readings = measure_take(record("still", u))
    assert readings.still is not None
    assert only_problem(readings)[0] == "moved"


def test_a_value_that_never_changes_is_not_called_quiet() -> None:
    readings = measure_take(record("still", np.zeros((2000, 2))))
    assert readings.still is not None
    assert readings.still.resolution_x == 0
    code, message = only_problem(readings)
    assert code == "constant"
    assert "dead zone" in message


def test_half_a_rim_is_refused() -> None:
    angle = np.linspace(0, np.pi, 2000)
    readings = measure_take(record("rim", 95 * np.column_stack((np.sin(angle), np.cos(angle)))))
    assert readings.rim is None
    code, message = only_problem(readings)
    assert code == "coverage"
    assert "of 72 directions" in message


def test_a_single_axis_is_refused_what_takes_two() -> None:
    for step in ("rim", "crossing-y"):
        code, message = only_problem(measure_take(record(step, noise(8)[:, :1])))
        assert code == "one-axis"
        assert "a single axis has no" in message


def test_letting_go_without_a_push_is_refused() -> None:
    readings = measure_take(record("let-go", noise(20)))
    assert readings.let_go is None
    assert "no-releases" in [p.code for p in readings.problems]


def test_a_stick_that_stays_where_it_was_pushed_is_counted_as_stuck() -> None:
    u = noise(12)
    u[500:2500] += (90, 0)
    readings = measure_take(record("let-go", u))
    assert readings.let_go is not None
    assert readings.let_go.stuck >= 1
    assert explain(readings).asks == "something", "what holds it is looked for"


def test_samples_without_steps_say_so() -> None:
    recording = record("still", noise(10))
    bare = Recording(
        recording.t_us, recording.raw, TEN_BIT, np.full(len(recording.t_us), NO_STEP, np.int8)
    )
    assert [p.code for p in measure_take(bare).problems] == ["no-steps"]


def test_a_single_sprung_axis_gets_still_and_let_go() -> None:
    t = np.arange(0, 40, 1 / 250)
    x = np.random.default_rng(2).normal(1.5, 0.3, len(t))
    for i in range(8):
        x[(t > 2 + 4 * i) & (t < 2.5 + 4 * i)] = 95 if i % 2 else -95
    for name, part in (("still", t < 1e9), ("let-go", t > 0)):
        recording = record(
            name, x[part][:, None] if name == "let-go" else x[:1, None].repeat(2000, 0)
        )
        readings = measure_take(recording)
        assert readings.rim is None
        if name == "let-go":
            assert readings.let_go.releases == 8
            assert readings.let_go.sectors == 2
            assert readings.let_go.return_centre_y is None
            assert readings.let_go.return_max == pytest.approx(1.5, abs=0.2)
        else:
            assert readings.still.rest_y is None


@pytest.mark.parametrize(
    ("t", "raw", "why"),
    [
        ([0, 10, 5], [[1, 1]] * 3, "runs backwards"),
        ([0, 1, 2], [[1, 1], [np.nan, 1], [1, 1]], "not a number"),
        ([], np.empty((0, 2)), "no samples"),
    ],
)
def test_what_is_not_a_recording_is_refused_by_sample(t, raw, why) -> None:
    with pytest.raises(RecordingError, match=why):
        Recording(
            np.array(t, np.int64), np.array(raw, float), TEN_BIT, np.full(len(t), -1, np.int8)
        )


def test_a_range_upside_down_is_refused() -> None:
    with pytest.raises(RecordingError):
        AxisRange(10, 10)


# Comparison


UNTOUCHED = (
    ("sound", 3),
    ("offset", 3),
    ("worn", 3),
    ("dirty", 3),
    ("failing", 6),
    ("failing", 8),
    ("loose", 7),
)
"""With a broken track and a loose contact among them, which are never twice the same."""


def test_the_same_untouched_stick_shows_no_change() -> None:
    """A bench that sees improvement where nothing was done is worse than no bench."""
    verdicts = []
    for condition, seed in UNTOUCHED:
        stick = fresh_stick("potentiometer", "round", 10, 250, condition, seed)
        a, b = (read_of(stick, s) for s in (1, 2))
        comparison = compare(a, b, HERE, HERE)
        assert comparison.overall in ("no-change", "little"), condition
        verdicts += [r.verdict for r in comparison.rows if r.verdict != "not-comparable"]
    assert verdicts.count("no-change") >= 0.93 * len(verdicts)


def test_no_change_is_not_said_where_what_decides_was_measured_only_once() -> None:
    sound = readings_of("sound")
    bare = replace(sound.composite, dead_zone_needed=None, dead_zone_after_recentring=None)
    comparison = compare(replace(sound, still=None, composite=bare), sound, HERE, HERE)
    assert comparison.overall == "missing"
    assert "not measured both times" in explain_comparison(comparison, sound, "left")
    less = compare(replace(sound, crossing=None), sound, HERE, HERE)
    assert less.overall == "no-change", "the tracks decide nothing where nothing else changed"


def test_no_change_is_not_said_where_what_was_over_was_not_measured_again() -> None:
    """A rough track was cleaned, and the quick routine after it saw “no change”."""
    sound = readings_of("sound")
    x = replace(sound.crossing.x, track_noise_max=9.0)
    rough = replace(sound, crossing=replace(sound.crossing, x=x))
    uncrossed = replace(rough, crossing=None)
    cleaned, bred = compare(rough, uncrossed, HERE, HERE), compare(uncrossed, rough, HERE, HERE)
    assert cleaned.overall == bred.overall == "missing"
    said = explain_comparison(cleaned, uncrossed, "left")
    assert "Over its limit before, and not measured again: roughest\u00a0place\u00a0x." in said
    said = explain_comparison(bred, rough, "left")
    assert "Over its limit now, and not measured before: roughest\u00a0place\u00a0x." in said
    unsure = {
        p: u for p, u in rough.uncertainty.items() if not p.startswith("crossing.x.track_noise")
    }
    unsure = compare(rough, replace(sound, uncertainty=unsure), HERE, HERE)
    assert unsure.seen_once == (), "it was, once"
    reference = compare(rough, uncrossed, HERE, HERE, reference=True)
    assert "measured again" not in explain_comparison(reference, uncrossed, "left", True)
    worn = compare(readings_of("worn"), replace(readings_of("sound"), crossing=None), HERE, HERE)
    assert worn.overall == "better", "what else was mended is seen"


def test_a_worn_stick_against_a_sound_one_is_better_and_backwards_worse() -> None:
    worn, sound = readings_of("worn"), readings_of("sound")
    better = compare(worn, sound, HERE, HERE)
    assert better.overall == "better"
    assert better.row("let_go.return_spread").verdict == "better"
    assert explain_comparison(better, sound, "left").startswith("Better. The left stick now rests")
    worse = compare(sound, worn, HERE, HERE)
    assert worse.overall == "worse"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"stick": "right"}, "different sticks"),
        ({"controller": "GS-031"}, "different sticks"),
        ({"source": "a pad"}, "different sources"),
        ({"gate": "square"}, "gate"),
    ],
)
def test_takes_that_differ_in_more_than_the_work_are_not_compared(change, says) -> None:
    a, b = readings_of("worn"), readings_of("sound")
    comparison = compare(a, b, HERE, replace(HERE, **change))
    assert comparison.overall == "refused"
    assert comparison.rows == ()
    assert says in " ".join(comparison.refusals)
    assert explain_comparison(comparison, b, "left").startswith(
        "These two takes cannot be compared."
    )


def test_another_range_is_refused_and_another_rate_costs_the_noise_readings() -> None:
    a = readings_of("worn")
    other_range = readings_of("worn", 5, bits=12)
    assert "ranges" in " ".join(compare(a, other_range, HERE, HERE).refusals)
    slower = readings_of("worn", 5, rate=125.0)
    comparison = compare(a, slower, HERE, HERE)
    assert comparison.row("still.jitter_x").verdict == "not-comparable"
    assert "sample rates differ" in comparison.row("still.jitter_x").why
    assert comparison.row("let_go.return_spread").verdict != "not-comparable"


def test_a_step_missing_in_one_take_is_named_reading_by_reading() -> None:
    a = readings_of("sound")
    no_rim = replace(a, rim=None)
    comparison = compare(a, no_rim, HERE, HERE)
    assert comparison.row("rim.circularity_error").why == "not measured after"
    assert comparison.row("let_go.return_spread").verdict == "no-change"


@pytest.mark.parametrize(
    ("value", "u", "verdict"),
    [
        (5, 1, "within"),
        (7, 1, "borderline"),
        (9, 1, "borderline"),
        (11, 1, "over"),
        (3, None, "unknown"),
    ],
)
def test_the_limit_is_passed_only_with_room_for_the_uncertainty(value, u, verdict) -> None:
    assert against_limit(value, u, 8.0) == verdict


def test_a_single_axis_has_no_readings_of_another() -> None:
    """A paddle's page would ask for a y that it has not."""
    paths = [r.path for r in READINGS if r.applies_to(1)]
    assert {"still.rest_x", "crossing.x.cross_talk", "turn.reach_low"} <= set(paths)
    assert not [p for p in paths if p.endswith("_y") or ".y." in p or p.startswith("rim.")]
    assert "composite.shape_after_recalibration" not in paths
    both = [r.path for r in READINGS if r.applies_to(2)]
    assert "still.rest_y" in both
    assert "turn.reach_low" not in both


def test_releases_without_a_still_say_so_under_their_own_name() -> None:
    recording = performed("sound").recording
    started = int(np.argmax(recording.step == STEPS.index("let-go")))
    readings = measure_take(
        replace(
            recording,
            step=np.where(np.arange(len(recording.step)) < started, NO_STEP, recording.step),
        )
    )
    assert [(p.step, p.code) for p in readings.problems if p.code == "no-rest"] == [
        ("let-go", "no-rest")
    ]
    assert readings.value("composite.dead_zone_needed") is None
