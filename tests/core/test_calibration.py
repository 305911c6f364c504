"""What a calibration would hold and leave, against doing it; and what became of one, by its right
name."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

import lever
from core.test_foreign import FOREIGN, measured, taken
from hollow_pin.core.calibration import (
    AxisHeld,
    Forecast,
    as_ranges,
    calibration_outcome,
    calibrations,
    ends_not_seen,
    left_over,
)
from hollow_pin.core.extents import NotMeasured
from hollow_pin.core.hidden import Hidden
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import AxisRange, calibrated
from hollow_pin.core.routine import BY_ID
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.stand_in import StandIn, recalibrated
from hollow_pin.simulator.stick import Calibration, Stick
from sticks import read_of

RANGES = (AxisRange(0, 4095),) * 2


def made(condition: str, seed: int) -> Stick:
    return fresh_stick("potentiometer", "round", 12, 250.0, condition, seed)


def read(stick: Stick, seed: int) -> TakeReadings:
    return read_of(stick, seed)


@cache
def before(condition: str, seed: int) -> TakeReadings:
    return read(made(condition, seed), seed)


@pytest.mark.parametrize("seed", [3, 5])
def test_what_a_calibration_would_leave_is_what_it_leaves(seed: int) -> None:
    take = before("miscalibrated", seed)
    calibration = calibrations(take, RANGES, "round")[0]
    after = read(recalibrated(made("miscalibrated", seed), seed), seed + 50)
    assert take.rim.circularity_error > 5
    forecast = calibration.forecast
    assert forecast.dead_zone == pytest.approx(after.composite.dead_zone_needed, abs=0.6)
    assert forecast.circularity == pytest.approx(after.rim.circularity_error, abs=0.5)
    assert forecast.reach == pytest.approx(min(after.rim.radius), abs=1.5)
    assert calibration_outcome(take, after, calibration, RANGES).became == "held"
    assert "another part" in left_over(take)


def test_what_is_held_is_in_the_numbers_of_the_source_and_undoes_a_known_fault() -> None:
    """A stick whose program takes 80 and 90 % for its ends, and 5 % for its centre: what is held is
    where its own centre and ends lie in what is reported now."""
    stick = replace(
        made("sound", 6), calibration=Calibration((5.0, 0.0), (80.0, 90.0), (80.0, 90.0))
    )
    calibration = calibrations(read(stick, 6), RANGES, "round")[0]
    x, y = calibration.axes
    clean = StandIn(stick, 6).run(500).clean.mean(axis=0)
    for axis, centre in ((x, clean[0]), (y, clean[1])):
        assert axis.centre == pytest.approx(2047.5 * (1 + centre / 100), abs=15)
        assert axis.offset == pytest.approx(axis.centre - 2047.5)
        low, high = axis.centre - axis.low, axis.high - axis.centre
        assert axis.scale_low == pytest.approx(2047.5 / low)
        assert axis.scale_high == pytest.approx(2047.5 / high)
    assert x.offset == pytest.approx(-2047.5 * 5 / 80, abs=40)


def test_kinds_differ_by_what_they_learn() -> None:
    take = before("miscalibrated", 3)
    ends, alone, centre = calibrations(take, RANGES, "round")
    assert [k.kind for k in (ends, alone, centre)] == ["three-point", "two-point", "centre"]
    for a, b in zip(ends.axes, alone.axes, strict=True):
        assert (b.low, b.high) == pytest.approx((a.low, a.high))
        assert b.centre == pytest.approx((b.low + b.high) / 2)
    for a, c in zip(ends.axes, centre.axes, strict=True):
        assert c.centre == a.centre
        assert c.high - c.low == pytest.approx(4095)
    assert alone.forecast.dead_zone > ends.forecast.dead_zone
    assert centre.forecast.circularity > 3 * ends.forecast.circularity


def test_a_margin_pulls_the_ends_in_and_makes_full_sure() -> None:
    take = before("miscalibrated", 3)
    plain = calibrations(take, RANGES, "round")[0]
    wide = calibrations(take, RANGES, "round", 10.0)[0]
    for a, b in zip(plain.axes, wide.axes, strict=True):
        assert b.centre - b.low == pytest.approx(0.9 * (a.centre - a.low))
        assert b.high - b.centre == pytest.approx(0.9 * (a.high - a.centre))
    assert wide.forecast.reach == pytest.approx(100, abs=0.5)
    assert wide.forecast.dead_zone == pytest.approx(plain.forecast.dead_zone / 0.9, rel=0.02)


def test_a_calibration_maps_its_own_points_to_the_ends_and_the_middle() -> None:
    low, centre, high = np.array([-80.0, -70.0]), np.array([5.0, 0.0]), np.array([60.0, 90.0])
    mapped = calibrated(
        np.array([low, centre, high, high * 2, (centre + high) / 2]), low, centre, high
    )
    assert mapped == pytest.approx(
        np.array([[-100, -100], [0, 0], [100, 100], [100, 100], [50, 50]], dtype=float)
    )


REFUSING = 3


def test_those_that_refuse_are_named_with_their_reason() -> None:
    """Worn sticks whose centre samples do not agree, under a calibration that wants them to."""
    outcomes = []
    for seed in range(400, 440):
        stick = made("worn", seed)
        picky = replace(stick, converter=replace(stick.converter, centre_window=1.0))
        if recalibrated(picky, seed) is not picky:
            continue
        first, again = (read_of(picky, s, BY_ID["calibration"]) for s in (seed, seed + 7000))
        outcome = calibration_outcome(first, again, calibrations(first, RANGES, "round")[0], RANGES)
        outcomes.append((outcome.became, "mended first" in outcome.words))
        if len(outcomes) == REFUSING:
            break
    assert len(outcomes) == REFUSING
    assert sum(t == ("refused", True) for t in outcomes) >= REFUSING - 1, outcomes


@pytest.mark.parametrize("seed", [3, 7])
def test_one_that_was_never_carried_through_is_no_fault_of_the_stick(seed: int) -> None:
    take, again = before("miscalibrated", seed), read(made("miscalibrated", seed), seed + 90)
    outcome = calibration_outcome(take, again, calibrations(take, RANGES, "round")[0], RANGES)
    assert outcome.became == "refused"
    assert "not carried through" in outcome.words


@pytest.mark.parametrize("seed", [3, 5])
def test_one_that_had_nothing_to_do_is_not_said_to_have_refused(seed: int) -> None:
    stick = recalibrated(made("sound", seed), seed)
    take, again = read(stick, seed), read(recalibrated(stick, seed + 1), seed + 90)
    outcome = calibration_outcome(take, again, calibrations(take, RANGES, "round")[0], RANGES)
    assert outcome.became in ("needless", "held")


@pytest.mark.parametrize("seed", [3, 5])
def test_one_that_learnt_its_centre_from_a_touched_stick_made_it_worse(seed: int) -> None:
    stick = made("sound", seed)
    take = read(stick, seed)
    off = replace(stick, calibration=Calibration((7.0, -4.0), (100.0, 100.0), (100.0, 100.0)))
    outcome = calibration_outcome(
        take, read(off, seed + 60), calibrations(take, RANGES, "round")[0], RANGES
    )
    assert outcome.became == "worse"
    assert "extents first" in outcome.words


@pytest.mark.parametrize("seed", [3, 5])
def test_one_that_gained_less_than_could_be_had_is_told_so(seed: int) -> None:
    stick = made("miscalibrated", seed)
    take = before("miscalibrated", seed)
    right = recalibrated(stick, seed)
    centre = right.calibration.centre
    half = replace(
        right, calibration=replace(right.calibration, centre=(centre[0] + 3.0, centre[1]))
    )
    needed = take.composite.dead_zone_needed
    after = read(half, seed + 60)
    outcome = calibration_outcome(take, after, calibrations(take, RANGES, "round")[0], RANGES)
    worse = after.composite.dead_zone_needed > needed + 0.6
    assert outcome.became == ("worse" if worse else "partly")


def test_a_rim_that_is_cut_off_is_said_to_be_and_not_forecast() -> None:
    take = before("overscaled", 3)
    calibration = calibrations(take, RANGES, "round")[0]
    assert (calibration.forecast.circularity, calibration.forecast.reach) == (None, None)
    assert "not seen" in ends_not_seen(take)
    assert ends_not_seen(before("miscalibrated", 3)) == ""


def test_nothing_is_learnt_from_what_was_not_measured() -> None:
    take = before("sound", 3)
    with pytest.raises(NotMeasured, match="rim"):
        calibrations(replace(take, rim=None), RANGES, "round")
    with pytest.raises(NotMeasured, match="releases"):
        calibrations(replace(take, let_go=None), RANGES, "round")
    few = replace(take.let_go, release=take.let_go.release[:3])
    with pytest.raises(NotMeasured, match="releases"):
        calibrations(replace(take, let_go=few), RANGES, "round")
    four = replace(take.let_go, release=take.let_go.release[:4])
    assert calibrations(replace(take, let_go=four), RANGES, "round")


def test_a_lever_is_calibrated_by_where_it_was_held() -> None:
    stick = fresh_stick("potentiometer", "round", 12, 250.0, "offset", 4, axes=1)
    take = read_of(stick, 4)
    calibration = calibrations(take, RANGES[:1], "round")[0]
    (axis,) = calibration.axes
    assert axis.low < axis.centre < axis.high
    assert calibration.forecast.dead_zone < take.composite.dead_zone_needed
    assert calibration.forecast.circularity is None
    with pytest.raises(NotMeasured, match="Hold"):
        calibrations(replace(take, hold=None), RANGES[:1], "round")


def moved_by(
    take: TakeReadings, x: float = 0.0, wider: float = 1.0, needed: float = 0.0
) -> TakeReadings:
    """The same readings with its returns moved along x, its rim scaled, more dead zone needed."""
    release = tuple(replace(r, final_x=r.final_x + x) for r in take.let_go.release)
    rim = replace(take.rim, radius=tuple(wider * r for r in take.rim.radius))
    composite = replace(take.composite, dead_zone_needed=take.composite.dead_zone_needed + needed)
    let_go = replace(take.let_go, release=release)
    return replace(take, let_go=let_go, rim=rim, composite=composite)


def full(take: TakeReadings, end: float = 100.0) -> TakeReadings:
    """With a round rim that reads as much, %, all round."""
    return replace(take, rim=replace(take.rim, radius=(end,) * len(take.rim.radius)))


def became(before: TakeReadings, after: TakeReadings) -> str:
    return calibration_outcome(
        before, after, calibrations(before, RANGES, "round")[0], RANGES
    ).became


def test_from_where_on_something_moved() -> None:
    """Half a per cent of the centre, or as much as can be seen; two of an end."""
    take = before("miscalibrated", 3)
    seen = max(0.5, 2 * 2**0.5 * take.uncertainty["still.rest_x"])
    # The whole rim is moved with the centre, and an end by less than counts.
    assert became(take, moved_by(take, seen - 0.01)) == "refused"
    assert became(take, moved_by(take, seen + 0.01)) != "refused"
    widest = max(take.rim.radius)
    assert became(take, moved_by(take, wider=1 + 1.95 / widest)) == "refused"
    assert became(take, moved_by(take, wider=1 + 2.4 / widest)) != "refused"


def test_from_where_on_it_is_worse_or_short_of_what_could_be_had() -> None:
    take = before("miscalibrated", 3)
    least = max(0.5, 2 * 2**0.5 * take.uncertainty["composite.dead_zone_needed"])
    assert became(take, moved_by(take, 3.0, needed=least + 0.01)) == "worse"
    assert became(take, moved_by(take, 3.0, needed=least - 0.01)) == "partly"
    calibration = calibrations(take, RANGES, "round")[0].forecast.dead_zone
    needed = take.composite.dead_zone_needed
    spread = take.let_go.return_spread
    most = calibration + max(least, 1.0, spread / 2)
    assert most < needed
    partly = moved_by(take, 3.0, needed=most + 0.01 - needed)
    assert became(take, partly) == "partly"
    words = calibration_outcome(take, partly, calibrations(take, RANGES, "round")[0], RANGES).words
    came, had = f"{partly.composite.dead_zone_needed:.1f}", f"{calibration:.1f}"
    assert words.startswith(f"It came out at {came}\u00a0%, and {had}\u00a0% could be had")
    assert became(take, full(moved_by(take, 3.0, needed=most - 0.01 - needed))) == "held"


def test_from_where_on_an_end_was_learnt_from_too_far_out() -> None:
    take = before("miscalibrated", 3)
    mended = moved_by(take, 3.0, needed=-take.composite.dead_zone_needed)
    assert became(take, full(mended, 94.1)) == "held"
    assert became(take, full(mended, 93.9)) == "partly"


def test_an_end_that_ran_over_before_is_not_one_that_was_learnt_short() -> None:
    take = before("miscalibrated", 3)
    mended = full(moved_by(take, 3.0, needed=-take.composite.dead_zone_needed))
    cut = (Hidden("saturated", "x", "", ()),)
    assert became(take, replace(mended, hidden=cut)) == "partly"
    assert became(replace(take, hidden=cut), replace(mended, hidden=cut)) == "held"


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize(
    ("learnt", "names"),
    [
        ("all", ("held", "It holds")),
        ("nothing", ("refused", "not carried through")),
        ("a touched centre", ("partly", "sampled while it was touched")),
        (
            "short of an end",
            ("partly", "It reads full, left–right, before the stick is at its end"),
        ),
        ("beyond an end", ("partly", "An end of it reads 8")),
    ],
)
@pytest.mark.parametrize("seed", [711, 712])
def test_what_became_of_one_that_somebody_elses_device_learnt(
    seed: int, learnt: str, names: tuple[str, str]
) -> None:
    """“It holds”, of a stick that reads full at four fifths of its way."""
    fault = {"bits": 12, "offset": (14.0, -9.0), "scale": (0.8, 0.82, 0.78, 0.8)}
    take, taught, again = (taken(seed, hand, **fault) for hand in (1, 2, 3))
    rim = taught.u[taught.attempts("rim")[-1]]
    low, high = np.percentile(rim, (0.3, 99.7), axis=0)
    rests = [(r.final_x, r.final_y) for r in measured(seed, 2, **fault).let_go.release]
    centre = np.mean(rests[::4], axis=0)
    if learnt == "a touched centre":
        centre[0] += 6.0
    high[0] += {"short of an end": -15.0, "beyond an end": 15.0}.get(learnt, 0.0)
    if learnt != "nothing":
        u = calibrated(again.u, low, centre, high)
        again = replace(again, raw=np.clip(np.round((u / 100 + 1) * 2047.5), 0, 4095))
    first, after = measure_take(take), measure_take(again)
    outcome = calibration_outcome(first, after, calibrations(first, RANGES, "round")[0], RANGES)
    assert outcome.became == names[0]
    assert names[1] in outcome.words


OUT_OF_SCALE = lever.with_(offset=7.0, scale=0.82)


@pytest.mark.parametrize(
    ("sprung", "axis", "beyond", "centre", "names"),
    [
        (True, OUT_OF_SCALE, 0.0, 7.0, ("held", "what was to be expected")),
        (True, OUT_OF_SCALE, 15.0, 7.0, ("partly", "An end of it reads 8")),
        (True, OUT_OF_SCALE, 0.0, 14.0, ("worse", "extents first")),
        (True, OUT_OF_SCALE, None, 7.0, ("refused", "not carried through")),
        (False, OUT_OF_SCALE, 0.0, None, ("held", "both ends read full")),
        (False, OUT_OF_SCALE, 15.0, None, ("partly", "Its shorter end came out at 8")),
        (False, OUT_OF_SCALE, None, None, ("refused", "slowly to both ends")),
        (False, lever.SOUND, 15.0, None, ("worse", "an end is 1")),
        (False, lever.SOUND, None, None, ("needless", "nothing had to")),
    ],
)
def test_what_became_of_one_of_a_single_axis(
    sprung: bool,
    axis: lever.Axis,
    beyond: float | None,
    centre: float | None,
    names: tuple[str, str],
) -> None:
    """beyond: how far out of its high end that was learnt, %; None where nothing was."""
    take, taught, again = (lever.taken(axis, seed, sprung) for seed in (31, 32, 33))
    if beyond is not None:
        low, high = np.percentile(taught.u, (0.5, 99.5))
        middle = (low + high) / 2 if centre is None else centre
        u = calibrated(again.u, *(np.array([v]) for v in (low, middle, high + beyond)))
        again = replace(again, raw=np.clip(np.round((u / 100 + 1) * 2047.5), 0, 4095))
    first, after = measure_take(take), measure_take(again)
    outcome = calibration_outcome(
        first, after, calibrations(first, take.ranges, "round")[0], take.ranges
    )
    assert outcome.became == names[0]
    assert names[1] in outcome.words


@pytest.mark.parametrize(("spread", "mended"), [(1.99, False), (2.01, True)])
def test_from_where_on_scatter_is_why_it_refused(spread: float, mended: bool) -> None:
    take = before("miscalibrated", 3)
    scattered = replace(take, let_go=replace(take.let_go, return_spread=spread))
    calibration = calibrations(take, RANGES, "round")[0]
    words = calibration_outcome(scattered, take, calibration, RANGES).words
    assert ("mended first" in words) == mended


@pytest.mark.parametrize(("error", "asked"), [(3.99, False), (4.01, True)])
def test_a_rim_that_is_round_leaves_nothing_to_do(error: float, asked: bool) -> None:
    stick = recalibrated(made("sound", 3), 3)
    take = read(stick, 3)
    round_ = replace(take, rim=replace(take.rim, circularity_error=error))
    outcome = calibration_outcome(round_, round_, calibrations(take, RANGES, "round")[0], RANGES)
    assert outcome.became == ("refused" if asked else "needless")


@pytest.mark.parametrize(("needed", "flat"), [(0.0, 8), (1.9, 8), (2.1, 8), (5.0, 20)])
def test_a_driver_that_knows_no_centre_gets_ends_alike_and_a_flat_that_holds(needed, flat) -> None:
    """Half of it is the farther end's; two per cent are flat at the least."""
    calibration = calibrations(before("sound", 3), RANGES, "round")[0]
    x = AxisHeld("x", 200.0, 500.0, 900.0, 0.0, 1.0, 1.0)
    calibration = replace(
        calibration, axes=(x, replace(x, axis="y")), forecast=Forecast(needed, None, None)
    )
    plain, turned = as_ranges(calibration, (AxisRange(0, 1023),) * 2, (False, True))
    assert (plain.lo, plain.hi) == (100, 900)
    assert (turned.lo, turned.hi) == (123, 923)
    assert plain.flat == turned.flat == flat
