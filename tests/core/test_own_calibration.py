"""Numbers that a device's own calibration is still to be applied to: a sound stick is sound by it, a
bad one bad, and where nobody knows it nothing of place and reach is said."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core.calibration import calibrations
from hollow_pin.core.comparison import compare
from hollow_pin.core.extents import learn_ranges
from hollow_pin.core.let_go import finals_of
from hollow_pin.core.limits import LIMIT_OF, verdicts_on
from hollow_pin.core.next_look import looks
from hollow_pin.core.ranking import NEAR, rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import (
    LEAST_HALF,
    STEPS,
    AxisCalibration,
    AxisRange,
    Recording,
    RecordingError,
    to_percent,
)
from hollow_pin.core.release import PUSHED
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.sources import FAR_SHORT
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.tracker import StepTracker
from sticks import HERE, performed, readings_of, transformed

RANGE = AxisRange(0, 4095)
OWN = (AxisCalibration(410, 2190, 3640), AxisCalibration(700, 1930, 3500))
"""As makers leave them: an eighth of the range short at each end and more, the middle aside."""
RANGES = tuple(replace(RANGE, calibration=own) for own in OWN)
HEALTHY = "Every reading taken is within its limit."


def by_itself(u: NDArray[np.float64]) -> NDArray[np.float64]:
    """The converter's numbers (n, 2) of places (n, 2), %: nothing is cut off."""
    places = [
        own.centre + v / 100.0 * np.where(v < 0, own.centre - own.low, own.high - own.centre)
        for v, own in zip(u.T, OWN, strict=True)
    ]
    return np.clip(np.round(np.column_stack(places)), 0, 4095)


def uncalibrated(condition: str, known: bool, moved: tuple[float, float] = (0.0, 0.0)) -> Recording:
    """A whole take by a device that leaves its calibration to others. moved: how far the stick lies
    from where it was calibrated, %."""
    recording = performed(condition, bits=14).recording
    ranges = tuple(replace(RANGE, calibration=own if known else "unknown") for own in OWN)
    raw = by_itself(recording.u + np.array(moved))
    return Recording(recording.t_us, raw, ranges, recording.step)


def measured(
    condition: str, known: bool = True, moved: tuple[float, float] = (0.0, 0.0)
) -> TakeReadings:
    return measure_take(uncalibrated(condition, known, moved))


@pytest.mark.parametrize("condition", ["sound", "worn", "dirty", "humming"])
def test_by_its_own_calibration_it_reads_as_one_that_is_calibrated(condition: str) -> None:
    take, same = measured(condition), readings_of(condition, bits=14)
    for path in LIMIT_OF:
        value, was = take.value(path), same.value(path)
        assert (value is None) == (was is None), path
        if value is not None and was is not None:
            near = 0.25 + 2 * same.uncertainty.get(path, 0.0)
            assert value == pytest.approx(was, abs=near, rel=0.15), path
    assert explain(take).try_first == explain(same).try_first


def test_a_sound_stick_is_sound_by_it_and_would_be_recalibrated_without() -> None:
    assert explain(measured("sound")).advice == HEALTHY
    plain = replace(uncalibrated("sound", known=True), ranges=(RANGE, RANGE))
    assert explain(measure_take(plain)).try_first == "recalibrated"


def test_a_centre_that_moved_since_is_found_as_far_as_it_did() -> None:
    was, take = measured("sound"), measured("sound", moved=(5.0, -4.0))
    assert take.still.rest_x - was.still.rest_x == pytest.approx(5.0, abs=0.1)
    assert take.still.rest_y - was.still.rest_y == pytest.approx(-4.0, abs=0.1)
    assert explain(take).try_first == "recalibrated"


def test_where_nobody_knows_it_place_and_reach_are_not_judged_and_nothing_is_called_sound() -> None:
    for moved in ((0.0, 0.0), (9.0, 6.0)):
        take = measured("sound", known=False, moved=moved)
        assert "over" not in verdicts_on(take).values()
        verdicts = verdicts_on(take)
        for path in (
            "still.rest_offset",
            "composite.dead_zone_needed",
            "rim.circularity_error",
            "rim.outer_dead_zone_needed",
            "rim.overrun",
        ):
            assert verdicts[path] == "hidden", path
        assert verdicts["let_go.return_spread"] == "within"
        assert verdicts["composite.shape_after_recalibration"] == "within"
        meaning = explain(take)
        assert meaning.advice.startswith(
            "Nothing that a calibration leaves as it is lies over its limit."
        )
        assert meaning.try_first == "measure"
        assert "Rests" not in meaning.sentence
        causes = rank(take)
        assert causes[0].cause == "sound"
        assert not causes[0].likely, "it looks so, as far as the take goes"
        (look,) = looks(take, causes, ("still", "let-go", "rim"))
        assert look.words.startswith("Measure it with what the device's own calibration holds")


@pytest.mark.parametrize("condition", ["worn", "dirty", "humming"])
def test_a_bad_one_is_as_bad_by_a_calibration_that_is_learnt_from_it(condition: str) -> None:
    take, same = measured(condition, known=False), readings_of(condition, bits=14)
    assert explain(take).try_first == explain(same).try_first
    apart = same.let_go.return_spread
    assert take.let_go.return_spread == pytest.approx(apart, rel=0.15, abs=0.1)


def test_what_is_learnt_is_what_a_calibration_would_hold() -> None:
    """The same as the page of calibrations offers, and as the readings say they are by."""
    plain = (RANGE, RANGE)
    take = measure_take(replace(uncalibrated("sound", known=True), ranges=plain))
    learnt = learn_ranges(take, plain)
    for now, offered in zip(learnt, calibrations(take, plain, "round")[0].axes, strict=True):
        assert now.known_calibration == AxisCalibration(offered.low, offered.centre, offered.high)
    unknown = measured("sound", known=False)
    assert unknown.recording.calibration == {
        a: r.known_calibration for a, r in zip("xy", learnt, strict=True)
    }
    assert measured("sound").recording.calibration == {"x": OWN[0], "y": OWN[1]}
    assert readings_of("sound").recording.calibration == {}


@pytest.mark.parametrize(
    "steps",
    [("still",), ("still", "let-go"), ("rim",), ("still", "rim"), ("crossing-x", "crossing-y")],
)
def test_a_take_of_some_steps_blames_no_calibration_either(steps: tuple[str, ...]) -> None:
    whole = uncalibrated("sound", known=False)
    at = np.isin(whole.step, [STEPS.index(step) for step in steps])
    take = measure_take(Recording(whole.t_us[at], whole.raw[at], whole.ranges, whole.step[at]))
    assert "over" not in verdicts_on(take).values()
    assert explain(take).try_first == "measure"
    first = rank(take)[0]
    assert first.cause not in ("calibration", "offset") or first.probability < NEAR


def test_what_no_step_shows_stays_as_the_range_has_it() -> None:
    take = readings_of("sound")
    (x, _) = learn_ranges(replace(take, rim=None), (RANGE, RANGE))
    assert (x.known_calibration.low, x.known_calibration.high) == (RANGE.lo, RANGE.hi)
    assert x.known_calibration.centre == pytest.approx(
        RANGE.counts(finals_of(take.let_go.release)[:, 0]).mean()
    )
    (x, _) = learn_ranges(replace(take, let_go=None), (RANGE, RANGE))
    assert x.known_calibration.centre == pytest.approx(RANGE.counts(np.array(take.still.rest_x)))
    (x, _) = learn_ranges(replace(take, let_go=None, still=None), (RANGE, RANGE))
    assert x.known_calibration.centre == pytest.approx(RANGE.counts(np.array(take.rim.lsc_x)))
    flat = replace(take, rim=replace(take.rim, reach_right=1.0))
    x, y = learn_ranges(flat, (RANGE, RANGE))
    assert x == RANGE, "it goes nowhere on one side"
    assert y.known_calibration is not None


def test_two_takes_by_calibrations_that_nobody_knows_are_compared_by_what_both_show() -> None:
    was, now = measured("worn", known=False), measured("sound", known=False, moved=(9.0, 6.0))
    comparison = compare(was, now, HERE, HERE)
    assert comparison.overall == "better"
    assert "let_go.return_spread" in {r.path for r in comparison.telling}
    assert "hidden" not in explain_comparison(comparison, now, "left")
    moved = compare(measured("sound", known=False), now, HERE, HERE)
    assert moved.overall not in ("better", "worse", "mixed"), "only its place changed"


def test_what_was_read_by_its_calibration_is_not_held_against_what_was_not() -> None:
    """Whoever enters it after a first take would be told that the stick got better."""
    plain = measure_take(replace(uncalibrated("sound", known=True), ranges=(RANGE, RANGE)))
    known, unknown = measured("sound"), measured("sound", known=False)
    for was, now in ((plain, known), (known, plain), (plain, unknown), (known, unknown)):
        comparison = compare(was, now, HERE, HERE)
        assert comparison.overall == "refused"
        assert any("Take it once more by the same." in why for why in comparison.refusals)
    other = tuple(
        replace(r, calibration=replace(r.known_calibration, high=r.known_calibration.high - 40))
        for r in RANGES
    )
    again = measure_take(replace(uncalibrated("sound", known=True), ranges=other))
    assert compare(known, again, HERE, HERE).overall != "refused", "it was calibrated in between"


def test_percent_and_counts_are_one_another_s_inverse_up_to_the_ends() -> None:
    r = replace(RANGE, calibration=OWN[0])
    u = np.array([[-100.0], [-37.5], [0.0], [12.5], [100.0]])
    assert to_percent(r.counts(u[:, 0])[:, None], (r,)) == pytest.approx(u)
    assert r.counts(u[:, 0])[[0, 2, 4]].tolist() == [410, 2190, 3640]
    beyond = to_percent(np.array([[0.0], [409.0], [3641.0], [4095.0]]), (r,))
    assert beyond[:, 0].tolist() == [-100, -100, 100, 100]


def test_turned_it_holds_the_same_of_what_is_counted_the_other_way() -> None:
    r = replace(RANGE, calibration=OWN[0])
    raw = np.array([[300.0], [1000.0], [2190.0], [3000.0]])
    turned = to_percent(RANGE.lo + RANGE.hi - raw, (r.turned(),))
    assert turned == pytest.approx(-to_percent(raw, (r,)))
    assert r.turned().turned() == r
    assert RANGE.turned() == RANGE
    unknown = replace(RANGE, calibration="unknown")
    assert unknown.turned() == unknown


def test_an_axis_is_at_its_end_where_the_calibration_ends_it() -> None:
    r = replace(RANGE, calibration=AxisCalibration(410, 2190, 3640))
    raw = np.array([[410.0], [411.0], [2190.0], [3639.0], [3640.0], [4000.0]])
    at = Recording(np.arange(6, dtype=np.int64), raw, (r,), np.zeros(6, np.int8)).at_end
    assert at[:, 0].tolist() == [True, False, False, False, True, True]


def test_a_step_is_one_count_of_the_coarser_half_whatever_the_end_cuts_in_two() -> None:
    r = replace(RANGE, calibration=AxisCalibration(410, 2000, 3000.5))
    raw = np.array([[2000.0], [2001.0], [2999.0], [3000.0], [3001.0]])
    one = Recording(np.arange(5, dtype=np.int64), raw, (r,), np.zeros(5, np.int8))
    assert one.resolutions == pytest.approx([100.0 / 1000.5])


@pytest.mark.parametrize(
    ("low", "centre", "high", "why"),
    [
        (2000, 2000, 3000, "must rise"),
        (1000, 3000, 3000, "must rise"),
        (-1, 2000, 3000, "within the range 0 to 4095"),
        (0, 2000, 4096, "within the range 0 to 4095"),
        (np.nan, 2000, 3000, "must rise"),
        (1000, 1000 + LEAST_HALF * 4095 - 0.01, 3000, "next to nothing"),
        (1000, 3000 - LEAST_HALF * 4095 + 0.01, 3000, "next to nothing"),
    ],
)
def test_what_is_no_calibration_is_refused(
    low: float, centre: float, high: float, why: str
) -> None:
    with pytest.raises(RecordingError, match=why):
        AxisRange(0, 4095, AxisCalibration(low, centre, high))


def test_a_calibration_may_take_up_the_whole_range_or_little_of_a_half() -> None:
    AxisRange(0, 4095, AxisCalibration(0, 2000, 4095))
    AxisRange(0, 4095, AxisCalibration(1000, 1000 + LEAST_HALF * 4095, 3000))


def test_a_lift_over_somebody_s_dead_zone_is_undone_by_the_numbers_of_each_half() -> None:
    """Whoever lifts it does so to calibrated numbers; in the device's own it is put down alike."""
    recording = performed("sound", bits=14).recording
    u = recording.u
    lifted = np.sign(u) * np.where(np.abs(u) > 0, 12.0 + 0.88 * np.abs(u), 0.0)
    plain = measure_take(transformed(recording, lifted))
    held = tuple(replace(RANGE, calibration=own) for own in OWN)
    raw = np.column_stack([r.counts(v) for r, v in zip(held, lifted.T, strict=True)])
    take = measure_take(Recording(recording.t_us, raw, held, recording.step))
    assert [h.code for h in take.hidden] == [h.code for h in plain.hidden] == ["lifted"]
    assert take.let_go.return_spread == pytest.approx(plain.let_go.return_spread, abs=0.1)


def test_before_anything_is_learnt_a_touch_of_a_full_stick_is_no_push_and_a_short_one_s_is() -> (
    None
):
    r = replace(RANGE, calibration="unknown")
    touch, push = to_percent(RANGE.counts(np.array([40.0, 44.0]))[:, None], (r,))[:, 0]
    assert touch < PUSHED < push


@pytest.mark.parametrize("reach", [0.45, 0.6, 1.0])
def test_however_far_short_it_ends_a_sound_stick_is_led_through_and_has_nothing_over(
    reach: float,
) -> None:
    recording = performed("sound", bits=14).recording
    u = recording.u * reach + [6.0, 0.0]
    r = replace(RANGE, calibration="unknown")
    raw = np.clip(np.round(RANGE.middle + u / 100.0 * RANGE.half), 0, 4095)
    tracker = StepTracker(usual_routine(2, True), axes=2)
    for i in range(0, len(u), 25):
        tracker.feed(recording.t[i : i + 25], to_percent(raw[i : i + 25], (r, r)))
    # The recording ends as soon as whoever made it was told that it was done.
    let_go = to_percent(np.repeat(raw[-1:], 250, axis=0), (r, r))
    tracker.feed(recording.t[-1] + np.arange(1, 251) / 250, let_go)
    assert tracker.finished
    take = measure_take(Recording(recording.t_us, raw, (r, r), recording.step))
    assert "over" not in verdicts_on(take).values()
    assert explain(take).advice.startswith("Nothing that a calibration leaves as it is lies over")


@pytest.mark.parametrize(
    ("reach", "source", "known", "told"),
    [
        (FAR_SHORT + 0.6, "hid", None, True),
        (FAR_SHORT - 0.6, "hid", None, False),
        (30.0, "hidraw", None, True),
        (30.0, "event-device", None, True),
        (30.0, "gamepad", None, False),
        (30.0, "hid", AxisCalibration(0, 2047.5, 4095), False),
    ],
)
def test_a_device_that_ends_short_on_every_side_may_be_one_of_those(
    reach: float, source: str, known: AxisCalibration | None, told: bool
) -> None:
    """Whoever is told to recalibrate a sound one would never hear why."""
    recording = performed("sound", bits=14).recording
    farthest = np.array([(100.0 - reach) / 100.0])
    raw = RANGE.counts(recording.u / _reaches(recording) * 100.0 * farthest)
    ranges = (replace(RANGE, calibration=known),) * 2
    take = measure_take(Recording(recording.t_us, raw, ranges, recording.step, {"source": source}))
    messages = [p.message for p in take.problems if p.code == "short-all-round"]
    assert bool(messages) == told
    assert all("say so where the source is chosen" in message for message in messages)


def _reaches(recording: Recording) -> NDArray[np.float64]:
    """How far it goes on each side, (n, 2) %: that of the side on which a sample lies."""
    rim = measure_take(recording).rim
    above = np.array((rim.reach_right, rim.reach_up))
    return np.where(recording.u > 0, above, np.array((rim.reach_left, rim.reach_down)))
