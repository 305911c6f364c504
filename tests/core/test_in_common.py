"""Another port or cable makes no stick better, nor worse: what both axes tremble as one is not held
for or against the work."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.comparison import AS_ONE, MOSTLY, REACHES, SHAKEN, Comparison, compare
from hollow_pin.core.in_common import of_its_own
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.summary import explain_comparison
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.conditions import fresh_stick
from sticks import HERE, performed_by, transformed

SOUND = fresh_stick("potentiometer", "round", 14, 250, "sound", 1)


def taken(hand: int, hum: float = 0.0, noise: float = 0.0, hz: float = 50.0) -> TakeReadings:
    """A sound stick by one of several hands, with hum on both axes, and noise of each one's own, %."""
    recording = performed_by(SOUND, hand).recording
    own = np.random.default_rng(hand).normal(0, 1, recording.u.shape) * noise
    both = hum * np.sin(2 * np.pi * hz * recording.t)[:, None]
    return measure_take(transformed(recording, recording.u + own + both))


def compared(before: TakeReadings, after: TakeReadings) -> Comparison:
    return compare(before, after, HERE, HERE)


@pytest.mark.parametrize(("hum", "hz"), [(0.3, 50.0), (0.6, 50.0), (0.6, 23.0)])
def test_hum_on_one_side_alone_is_neither_better_nor_worse(hum: float, hz: float) -> None:
    """A stick that nobody had touched was better after another cable, six times in six."""
    shaken, calm = taken(1, hum, hz=hz), taken(2)
    for comparison in (compared(shaken, calm), compared(calm, shaken)):
        assert comparison.overall in ("no-change", "little")
        jitters = [r for r in comparison.rows if r.path.startswith("still.jitter_")]
        assert {(r.verdict, r.why) for r in jitters} == {("not-comparable", AS_ONE)}
        (said,) = [c for c in comparison.cautions if "as one" in c]
        assert any(f"{r.before:.2f} % before, {r.after:.2f} % now" in said for r in jitters)
        assert explain_comparison(comparison, calm, "left")


def test_noise_of_each_axis_s_own_is_the_stick_s() -> None:
    comparison = compared(taken(1, noise=0.4), taken(2))
    assert comparison.overall == "better"
    assert compared(taken(1), taken(2, noise=0.4)).overall == "worse"
    assert not [c for c in comparison.cautions if "as one" in c]


@pytest.mark.parametrize(("times", "told"), [(MOSTLY - 0.05, False), (MOSTLY + 0.05, True)])
def test_a_change_of_which_half_is_an_axis_s_own_is_the_stick_s(times: float, told: bool) -> None:
    """However small: a real one that is no news was said to come by the supply."""
    before, after = taken(1), taken(2)
    plain = replace(
        before.still, jitter_x=0.19, jitter_y=0.19, spike_jitter_x=0.0, spike_jitter_y=0.0
    )
    now = of_its_own(after, "still.jitter_x")
    own = now + times * (0.19 - after.still.jitter_x)
    still = replace(plain, noise_in_common=1.0 - (own / 0.19) ** 2)
    row = compared(replace(before, still=still), after).row("still.jitter_x")
    assert abs(row.change) < row.detectable
    assert (row.verdict == "better") == told


def test_hum_that_was_over_its_limit_and_is_gone_is_better() -> None:
    """Who mends a supply has mended something."""
    comparison = compared(taken(1, hum=2.5), taken(2))
    assert comparison.overall == "better"
    assert comparison.row("still.jitter_x").verdict == "better"


@pytest.mark.parametrize(("times", "told"), [(0.95, False), (1.05, True)])
def test_what_an_axis_trembles_less_by_itself_is_told_where_it_is_news(
    times: float, told: bool
) -> None:
    before, after = taken(1), taken(2)
    after_own, shaken = of_its_own(after, "still.jitter_x"), 0.5
    plain = replace(before.still, jitter_x=shaken, jitter_y=shaken, spike_jitter_x=0.0)
    before = replace(before, still=replace(plain, noise_in_common=0.0))
    news = compared(before, after).row("still.jitter_x").detectable
    own = after_own + times * news
    still = replace(plain, noise_in_common=1.0 - (own / shaken) ** 2)
    row = compared(replace(before, still=still), after).row("still.jitter_x")
    assert (row.verdict == "better") == told


def test_what_else_became_better_is_better_beside_a_hum() -> None:
    before, after = taken(1, hum=0.3), taken(2)
    far = replace(before.composite, dead_zone_needed=6.0)
    comparison = compared(replace(before, composite=far), after)
    assert comparison.overall == "better"
    assert comparison.row("composite.dead_zone_needed").verdict == "better"


def test_what_is_rougher_now_is_not_excused_by_a_hum_that_is_gone() -> None:
    before, after = taken(1, hum=0.3), taken(2)
    rough = replace(after.crossing.x, track_noise_max=2.5)
    comparison = compared(before, replace(after, crossing=replace(after.crossing, x=rough)))
    row = comparison.row("crossing.x.track_noise_max")
    assert (row.verdict, row.why) == ("worse", None)
    assert comparison.row("crossing.y.track_noise_max").why == AS_ONE
    assert comparison.overall == "worse"


@pytest.mark.parametrize(("times", "told"), [(REACHES - 0.05, False), (REACHES + 0.05, True)])
def test_a_track_that_was_cleaned_is_better_beside_a_hum_that_is_gone(
    times: float, told: bool
) -> None:
    """What only trembles with the supply trembles no farther than that does."""
    before, after = taken(1, hum=0.3), taken(2)
    jitters = [compared(before, after).row(f"still.jitter_{axis}") for axis in "xy"]
    far = after.crossing.x.track_noise_max + times * max(abs(r.change) for r in jitters)
    rough = replace(before.crossing.x, track_noise_max=far)
    before = replace(before, crossing=replace(before.crossing, x=rough))
    row = compared(before, after).row("crossing.x.track_noise_max")
    assert (row.verdict == "better") == told


def test_an_axis_s_own_trembling_is_what_the_other_does_not_share() -> None:
    """By squares: of 0.5 % with 0.3 of spikes 0.4 is trembling, of which the other shares 0.84. Of
    the quieter one's 0.36 it is as much as both have."""
    take = taken(1)
    still = replace(
        take.still,
        jitter_x=0.5,
        spike_jitter_x=0.3,
        jitter_y=0.36,
        spike_jitter_y=0.0,
        noise_in_common=-0.84,
        noise_reach=1.0,
    )
    shaken = replace(take, still=still, composite=replace(take.composite, dead_zone_needed=2.0))
    assert of_its_own(shaken, "still.jitter_x") == pytest.approx(np.hypot(0.3, 0.16))
    assert of_its_own(shaken, "still.jitter_y") == pytest.approx(
        np.sqrt(0.36**2 - 0.84 * 0.4 * 0.36)
    )
    assert of_its_own(shaken, "composite.dead_zone_needed") == pytest.approx(1.4)
    assert of_its_own(shaken, "still.noise_reach") == pytest.approx(0.4)
    assert of_its_own(shaken, "let_go.return_spread") is None
    alone = replace(shaken, still=replace(still, noise_in_common=None))
    assert of_its_own(alone, "still.jitter_x") is None


def test_every_reading_that_is_shaken_is_one() -> None:
    take = taken(1)
    assert all(take.value(path) is not None for path in SHAKEN)
