"""What each ± is made of, by numbers put in: too narrow a one claims a change, too wide a one hides
it. Whether they cover what the next take shows is asked in test_uncertainty.py."""

from __future__ import annotations

from dataclasses import replace
from math import hypot, radians, sqrt, tan
from types import SimpleNamespace

import numpy as np
import pytest

from hollow_pin.core.comparable import FEWEST_RETURNS, RETURNS_APART
from hollow_pin.core.comparison import (
    Compared,
    _overall,
    compare,
)
from hollow_pin.core.crossing import BINS as TRACK_BINS
from hollow_pin.core.crossing import CrossingResult, measure_crossing
from hollow_pin.core.hand_line import ASKEW_DEG, FOLDED, u_askew
from hollow_pin.core.hold import Hold, HoldResult
from hollow_pin.core.let_go import LetGo, LetGoResult
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.release import Release
from hollow_pin.core.rest_uncertainty import WANDER_SHARE, still_uncertainty
from hollow_pin.core.rim import RimResult, measure_rim
from hollow_pin.core.take import measure_take
from hollow_pin.core.uncertainty import (
    LETS_GO_MS,
    PRESSED,
    STRAYS,
    _crossing_uncertainty,
    _dead_zone_uncertainty,
    _hold_uncertainty,
    _let_go_uncertainty,
    _rim_uncertainty,
)
from sticks import HERE, TEN_BIT, performed, readings_of

UNIT = (AxisRange(-100, 100),) * 2


def chance() -> np.random.Generator:
    return np.random.default_rng(5)


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
    take = readings_of("sound")
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


@pytest.mark.parametrize(("moved", "verdict"), [(2.6, "no-change"), (3.1, "worse")])
def test_a_rest_whose_returns_nobody_saw_may_lie_elsewhere_next_time(
    moved: float, verdict: str
) -> None:
    """Or two soaks of an untouched stick differ by no more than how it happened to come back."""
    rng = np.random.default_rng(5)
    before, after = (
        still_only(rng.normal((at, 0.0), 0.1, (2500, 2)), (AxisRange(-100, 100),) * 2)
        for at in (1.0, 1.0 + moved)
    )
    row = compare(before, after, HERE, HERE).row("still.rest_offset")
    assert row is not None
    assert row.verdict == verdict
    assert row.u_change == pytest.approx(RETURNS_APART * sqrt(2), rel=0.02)
    assert row.u_before == pytest.approx(0.002, abs=0.002), "where it rests now is known well"


def test_where_three_returns_were_seen_they_tell_how_far_it_may_lie() -> None:
    sound = readings_of("sound")
    assert sound.let_go is not None
    for releases, blind in ((FEWEST_RETURNS, 0), (FEWEST_RETURNS - 1, 1)):
        other = replace(sound, let_go=replace(sound.let_go, releases=releases))
        row = compare(sound, other, HERE, HERE).row("still.rest_x")
        assert row is not None
        own = sound.uncertainty["still.rest_x"]
        assert row.u_change == pytest.approx(hypot(own, own, blind * RETURNS_APART))


def test_the_rest_of_white_noise_is_as_uncertain_as_theory_says() -> None:
    """The interquartile mean of n normal values has standard error 1.092 · σ/√n."""
    rng = np.random.default_rng(2)
    u = rng.normal(0, 2, (5000, 2))
    uncertainty = still_only(u, (AxisRange(-100, 100),) * 2).uncertainty["still.rest_x"]
    assert uncertainty == pytest.approx(1.092 * 2 / np.sqrt(5000), rel=0.5)


def test_nothing_is_known_better_than_the_converters_step() -> None:
    step = 200 / 1023
    raw = 512 + (np.arange(4000) % 500 == 0).astype(float)
    readings = still_only(np.column_stack((raw, raw)), TEN_BIT)
    assert readings.uncertainty["still.rest_x"] >= step / np.sqrt(12) - 1e-9


def test_a_hum_that_keeps_time_with_its_source_is_rounded_the_same_way_every_time() -> None:
    """50 Hz by 250 a second are five values, by eight bits: 3.2 % here, 2.9 % where it rests next."""
    t = np.arange(2500) / 250.0
    hum = 4.5 / (200 / 255) * np.sin(2 * np.pi * 50 * t + 0.3)[:, None]
    jitter, known = [], []
    for place in np.arange(0.0, 1.0, 0.1):
        raw = np.round(128 + place + np.repeat(hum, 2, axis=1))
        take = still_only(raw, (AxisRange(0, 255),) * 2)
        jitter.append(take.still.jitter_x)
        known.append(take.uncertainty["still.jitter_x"])
    assert np.ptp(jitter) > 0.2
    assert np.ptp(jitter) <= 2 * sqrt(2) * min(known)


def test_jitter_is_known_to_a_fifth_of_a_step() -> None:
    """Where it rests between two steps makes that much of it, and the next rest lies elsewhere."""
    raw = np.round(512.0 + np.tile((0.1, 0.9), 2000))
    readings = still_only(np.column_stack((raw, raw)), TEN_BIT)
    assert readings.uncertainty["still.jitter_x"] == pytest.approx(200 / 1023 / 5, rel=1e-3)


@pytest.mark.parametrize(("far", "share"), [(1.08, 0.4), (1.12, 0.5 / sqrt(12))])
def test_a_noise_of_one_step_may_be_none_the_next_time(far: float, share: float) -> None:
    """By where between two steps it rests: two takes by eight bits would differ by a change."""
    take = readings_of("sound")
    step = max(performed("sound").recording.resolutions)
    still = replace(take.still, noise_reach=far * step)
    rest = SimpleNamespace(
        centre=np.zeros((9, 2)), noise=np.zeros(9), count=20, block_s=0.5, u_jitter=lambda *_: 0.1
    )
    u = still_uncertainty(("x", "y"), still, rest, np.zeros((0, 2)), [step, step])
    assert u["still.noise_reach"] == pytest.approx(share * step)


def test_no_spike_seen_is_not_proof_of_none() -> None:
    rng = np.random.default_rng(3)
    ten_seconds = still_only(rng.normal(0, 1, (2500, 2)), (AxisRange(-100, 100),) * 2)
    assert ten_seconds.value("still.spikes_per_min_x") == 0
    assert ten_seconds.uncertainty["still.spikes_per_min_x"] == pytest.approx(6, rel=0.01)


def test_a_step_that_was_left_out_gives_no_uncertainty_to_lean_on() -> None:
    readings = still_only(np.random.default_rng(4).normal(0, 1, (2500, 2)), TEN_BIT)
    assert not [path for path in readings.uncertainty if path.startswith(("rim", "composite"))]


def test_what_wanders_was_seen_for_ten_seconds_only() -> None:
    t = np.arange(2500) / 250.0
    slow = 1.5 * np.sin(2 * np.pi * t / 9.0)
    u = np.column_stack((slow, np.zeros(2500))) + chance().normal(0, 0.05, (2500, 2))
    take = still_only(u, UNIT)
    assert take.still.wander > 2.0
    assert take.uncertainty["still.wander"] == pytest.approx(WANDER_SHARE * take.still.wander)


def test_a_rest_is_known_no_better_than_returns_lie_apart() -> None:
    """A Still shows one place; where it comes to rest next is told by the releases."""
    take = readings_of("worn-steady", 7)
    finals = np.array([(r.final_x, r.final_y) for r in take.let_go.release])
    for i, axis in enumerate("xy"):
        scatter = finals[:, i].std(ddof=1)
        assert take.uncertainty[f"still.rest_{axis}"] == pytest.approx(scatter, rel=0.05)


def test_spikes_are_known_to_the_root_of_how_many_were_seen() -> None:
    u = chance().normal(0, 0.05, (2500, 2))
    for at in range(200, 2400, 240):
        u[at : at + 2, 0] += 9.0
    take = still_only(u, UNIT)
    seen = round(take.still.spikes_per_min_x / 6)
    assert seen == 10
    assert take.uncertainty["still.spikes_per_min_x"] == pytest.approx(sqrt(seen) * 6, rel=0.01)
    assert take.uncertainty["still.spikes_per_min_y"] == pytest.approx(6.0, rel=0.01)


# Returns


def returns(finals: np.ndarray, settles: np.ndarray, unseen_ms: float = 0.0) -> LetGoResult:
    """Two releases toward each hour, as they came back."""
    releases = tuple(
        Release(2.0 * i, 2.0 * i + 1.9, 45.0 * (i % 8), float(x), float(y), float(ms), 0.0)
        for i, ((x, y), ms) in enumerate(zip(finals, settles, strict=True))
    )
    spread = float(max(np.hypot(*(a - b)) for a in finals for b in finals))
    of_all = LetGo(
        releases, len(releases), 8, float(np.hypot(*finals.T).max()), 1.0, 0.0, spread, 0.0, 0.0,
        spread / 2, float(np.percentile(settles, 90)), 2.0, 0.0, 0,
    )  # fmt: skip
    return LetGoResult(of_all, finals, (), unseen_ms)


def silent(rate: float = 250.0) -> Recording:
    t = (np.arange(1000) * 1e6 / rate).astype(np.int64)
    return Recording(t, np.zeros((1000, 2)), UNIT, np.zeros(1000, np.int8))


def test_returns_that_land_together_are_known_to_the_converters_step() -> None:
    for floor, of_two in ((0.07, 0.07), (0.28, 0.28), (0.3, 0.6)):
        u = _let_go_uncertainty(
            returns(np.full((16, 2), 2.0), np.full(16, 80.0)), silent(), floor, chance()
        )
        assert u["let_go.return_max"] == pytest.approx(floor)
        assert u["let_go.return_spread"] == pytest.approx(of_two), "a coarse one rounds both places"
        assert u["let_go.return_radius"] == pytest.approx(floor)


def test_the_farthest_return_is_known_by_how_far_two_toward_one_hour_land_apart() -> None:
    """A bind that holds it back from one side does so every time: that is no scatter."""
    steady = np.repeat([[6.0, 0.0]], 16, axis=0)
    steady[::8] = (0.0, 6.0)
    scattered = steady + chance().normal(0, 0.8, (16, 2))
    u = [
        _let_go_uncertainty(returns(f, np.full(16, 80.0)), silent(), 0.07, chance())
        for f in (steady, scattered)
    ]
    assert u[0]["let_go.return_max"] < 0.1
    assert 0.4 < u[1]["let_go.return_max"] < 1.6
    radius, spread = (u[1][f"let_go.return_{what}"] for what in ("radius", "spread"))
    assert radius == pytest.approx(spread / 2), "as the one is half of the other"


def test_what_friction_leaves_behind_is_told_from_scatter_where_each_way_came_once() -> None:
    """A worn stick that came back to eight places was known to 0.3 %, and read 5 % more at the next
    take: called worse, untouched. What friction holds back goes round with the bearing."""

    def known(finals: np.ndarray) -> float:
        scatter = returns(finals, np.full(len(finals), 80.0))
        return _let_go_uncertainty(scatter, silent(), 0.07, chance())["let_go.return_max"]

    around = np.radians(45.0 * np.arange(8))
    held = 5.0 * np.column_stack((np.sin(around), np.cos(around)))
    anyhow = held[[0, 3, 6, 1, 4, 7, 2, 5]]
    assert known(held) == pytest.approx(0.07), "all lie on one circle"
    assert 2.0 < known(anyhow) < 6.0
    assert known(anyhow[:6]) > 0.1
    few = known(anyhow[:5])
    assert few == pytest.approx(0.07), "five tell no harmonic from scatter"


@pytest.mark.parametrize(
    ("rate", "scatter", "least"),
    [(1000.0, 0.0, LETS_GO_MS), (60.0, 0.0, 500.0 / 60.0), (1000.0, 40.0, 8.0)],
)
def test_settling_is_known_no_better_than_a_hand_opens_or_a_report_comes(
    rate: float, scatter: float, least: float
) -> None:
    settles = 80.0 + scatter * chance().standard_normal(16)
    u = _let_go_uncertainty(returns(np.zeros((16, 2)), settles), silent(rate), 0.07, chance())
    if scatter:
        assert least < u["let_go.settle_ms_p90"] < 2 * scatter
    else:
        assert u["let_go.settle_ms_p90"] == pytest.approx(least, rel=1e-3)


def test_what_was_not_seen_of_settling_counts() -> None:
    unseen = returns(np.zeros((16, 2)), np.full(16, 30.0), unseen_ms=40.0)
    u = _let_go_uncertainty(unseen, silent(1000.0), 0.07, chance())
    assert u["let_go.settle_ms_p90"] == pytest.approx(hypot(LETS_GO_MS, 40.0))


# Held


def held(
    sag: float, scatter: float, jitters: tuple[float, ...] = (0.1, 0.1), drops: tuple = ()
) -> HoldResult:
    """Holds of four seconds, the first of which sags most."""
    t = np.linspace(0, 4.0, 200)
    holds = tuple(
        Hold(10.0 * i, 10.0 * i + 4.0, 90.0 * i, 99.0, sag if i == 0 else 0.0, jitter, 0)
        for i, jitter in enumerate(jitters)
    )
    blocks = tuple(
        (t, 99.0 - h.sag / 3.0 * t + scatter * chance().standard_normal(200)) for h in holds
    )
    return HoldResult(holds, blocks, np.array(drops), ())


def test_a_sag_is_known_by_how_far_its_blocks_lie_off_the_line() -> None:
    """The standard error of a slope of eight observations over four seconds, three seconds on."""
    u = _hold_uncertainty(held(6.0, 0.5), 0.05)["hold.sag"]
    assert u == pytest.approx(0.5 * sqrt(12 / 8) / 4.0 * 3.0, rel=0.12)
    assert _hold_uncertainty(held(6.0, 0.0), 0.05)["hold.sag"] == pytest.approx(0.025)


def test_what_holds_differ_by_is_what_the_next_one_may() -> None:
    alike = _hold_uncertainty(held(0, 0, (0.4, 0.4, 0.4, 0.4)), 0.05)["hold.hold_jitter"]
    assert alike == pytest.approx(0.4 / sqrt(2 * 8))
    apart = _hold_uncertainty(held(0, 0, (0.1, 0.1, 0.1, 0.9)), 0.05)["hold.hold_jitter"]
    assert apart == pytest.approx(0.4)
    quiet = _hold_uncertainty(held(0, 0, (0.0, 0.0)), 0.05)["hold.hold_jitter"]
    assert quiet == pytest.approx(0.025)


@pytest.mark.parametrize(
    ("drops", "u"),
    [((), 0.0), ((0.1,), 1.0), ((0.1, 0.6, 1.1), sqrt(3)), ((0.1, 0.2, 0.3), 3.0)],
)
def test_drops_that_come_in_a_burst_are_one_event(drops: tuple, u: float) -> None:
    minutes = 8.0 / 60.0
    uncertainty = _hold_uncertainty(held(0, 0, drops=drops), 0.05)["hold.dropouts_per_min"]
    assert uncertainty == pytest.approx(u / minutes)


# The rim


def rim(laps: int = 4, apart: float = 0.0, other_way: float = 0.0, dent: float = 0.0) -> RimResult:
    """Laps both ways round at 96 %: each farther out than the one before by `apart`, those the other
    way by `other_way`; a dent of one direction in one lap of them."""
    turns = np.linspace(0, 2 * np.pi * laps / 2, 900 * laps // 2)
    angle = np.concatenate([turns, turns[::-1]])
    back = np.arange(len(angle)) >= len(turns)
    r = 96.0 + apart * np.floor(np.arange(len(angle)) / 900) + np.where(back, other_way, 0.0)
    r -= dent * ((np.degrees(angle) % 360 // 10 == 12) & (np.arange(len(angle)) < 900))
    return measure_rim(np.column_stack((r * np.sin(angle), r * np.cos(angle))))


def test_a_rim_is_known_no_better_than_how_hard_another_hand_presses() -> None:
    u = _rim_uncertainty(rim(), "round", 0.05, chance())
    for name in ("mean_radius", "circularity_error", "outer_dead_zone_needed", "overreach"):
        assert u[f"rim.{name}"] == pytest.approx(hypot(PRESSED, 0.05), rel=0.02), name
    assert u["rim.reach_up"] == pytest.approx(hypot(PRESSED, 0.05), rel=0.02)
    assert u["rim.roundness_lsc"] == pytest.approx(0.05, rel=0.1), "a hand makes no shape"
    assert u["composite.shape_after_recalibration"] == pytest.approx(hypot(0.05, PRESSED), rel=0.1)
    coarse = _rim_uncertainty(rim(), "round", 0.4, chance())
    assert coarse["rim.reach_left"] == pytest.approx(0.4 * sqrt(3), rel=0.02)


def test_ways_that_disagree_and_laps_that_differ_count() -> None:
    ways = _rim_uncertainty(rim(other_way=2.0), "round", 0.01, chance())["rim.mean_radius"]
    assert ways > hypot(PRESSED, 2.0 / 4)
    laps = _rim_uncertainty(rim(apart=1.0), "round", 0.01, chance())["rim.mean_radius"]
    assert 0.35 < laps < 1.3
    pressed = rim(other_way=0.0, apart=0.4)
    repeat = pressed.readings.lap_repeat
    known = _rim_uncertainty(pressed, "round", 0.01, chance())
    assert known["rim.mean_radius"] >= hypot(PRESSED, repeat / 2), (
        "the next hand differs by as much"
    )
    assert known["composite.shape_after_recalibration"] >= hypot(PRESSED, repeat / 2)
    one = _rim_uncertainty(rim(dent=8.0), "round", 0.01, chance())
    assert one["rim.roundness_lsc"] > 5 * one["rim.mean_radius"] - 5 * PRESSED
    assert one["rim.outer_dead_zone_needed"] > 0.4, "the worst place was seen once only"


# Crossings


def crossing(noise: float = 0.1, slope: float = 0.0, passes: int = 4, uneven: float = 0.0):
    n = 700
    t = np.arange(n * passes) / 250.0
    way = np.tile(np.concatenate([np.linspace(-98, 98, n), np.linspace(98, -98, n)]), passes // 2)
    v = way + chance().normal(0, noise, len(way))
    other = (
        slope * way + uneven * np.repeat(np.arange(passes), n) + chance().normal(0, 0.05, len(v))
    )
    return measure_crossing("crossing-x", t, v, other)


def test_the_roughest_place_is_known_by_the_samples_it_has() -> None:
    """An RMS of m samples to 1/√(2m) of itself; it is the worst of fifty places besides."""
    crossed = crossing(noise=0.5)
    u = _crossing_uncertainty("crossing.x", crossed, 0.01, chance())
    worst = crossed.readings.track_noise_max
    m = crossed.counts.sum(axis=0).max()
    assert worst / sqrt(2 * m) * 0.8 < u["crossing.x.track_noise_max"] < worst / 4
    assert u["crossing.x.track_noise_median"] < u["crossing.x.track_noise_max"]
    quiet = _crossing_uncertainty("crossing.x", crossing(noise=0.001), 0.05, chance())
    assert quiet["crossing.x.track_noise_max"] == pytest.approx(0.025)
    assert quiet["crossing.x.track_noise_median"] == pytest.approx(0.025)


@pytest.mark.parametrize(("passes", "share"), [(1, (0.6, 0.66)), (4, (0.0, 0.2))])
def test_what_one_pass_alone_found_rough_may_not_be_there_the_next_time(
    passes: int, share: tuple[float, float]
) -> None:
    """A speck that one pass of four went over was a change to an untouched stick."""
    quiet = crossing()
    squares = quiet.squares.copy()
    squares[:passes, 30] += 16.0 * quiet.counts[:passes, 30]
    found = replace(quiet, squares=squares)
    rough = float(np.sqrt(squares.sum(axis=0)[30] / quiet.counts.sum(axis=0)[30]))
    u = _crossing_uncertainty("crossing.x", found, 0.01, chance())["crossing.x.track_noise_max"]
    if passes == 1:
        assert share[0] < u / (rough - quiet.readings.track_noise_max) < share[1]
    else:
        assert u < share[1] * rough
    missed = found.counts.copy()
    missed[1:, 30] = 0.0
    alone = replace(found, counts=missed, squares=np.where(missed > 0, squares, 0.0))
    u = _crossing_uncertainty("crossing.x", alone, 0.01, chance())["crossing.x.track_noise_max"]
    assert u > 2.2, "where no other pass went there is nothing beside it"


@pytest.mark.parametrize("degrees", [0.0, 0.5, 1.2, 5.0])
def test_what_lies_on_a_line_may_be_the_hand_up_to_what_hands_are_wrong_by(degrees: float) -> None:
    u = _crossing_uncertainty("crossing.x", crossing(slope=tan(radians(degrees))), 0.01, chance())
    usual = tan(radians(ASKEW_DEG))
    askew = min(max(tan(radians(degrees)), FOLDED * usual), usual) * 172.0
    assert u["crossing.x.cross_talk"] == pytest.approx(hypot(askew, STRAYS), rel=0.03)


@pytest.mark.parametrize(
    ("line", "usual"), [(0.0, 2.0 / sqrt(2)), (0.048, 2.0 / sqrt(2)), (0.06, 1.72)]
)
def test_a_hand_seen_far_off_may_be_so_where_it_is_not_seen(line: float, usual: float) -> None:
    crossed = crossing(slope=tan(radians(5.0)))
    assert u_askew(crossed, line) == pytest.approx(tan(radians(usual)) * 172.0, rel=0.03)


def test_passes_that_differ_count_in_cross_talk() -> None:
    bent = crossing(uneven=0.0)
    other = bent.other.copy()
    other[0] += 6.0 * np.sin(np.linspace(0, 3 * np.pi, TRACK_BINS))
    apart = CrossingResult(
        bent.readings, bent.squares, bent.counts, other, bent.jumped, bent.problems
    )
    alike, u = (
        _crossing_uncertainty("crossing.x", c, 0.01, chance())["crossing.x.cross_talk"]
        for c in (bent, apart)
    )
    assert u > alike + 0.2
    assert alike >= STRAYS


def test_one_pass_says_nothing_of_the_next() -> None:
    crossed = crossing()
    once = replace(crossed.readings, passes=1)
    alone = CrossingResult(
        once, crossed.squares[:1], crossed.counts[:1], crossed.other[:1], crossed.jumped, ()
    )
    assert _crossing_uncertainty("crossing.x", alone, 0.01, chance()) == {}


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
        (0.5, 0.24, "over", True),
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


@pytest.mark.parametrize(
    ("before", "after", "news"),
    [
        ("within", "within", False),
        ("borderline", "within", False),
        ("over", "borderline", True),
        ("over", "over", True),
        ("over", "within", True),
    ],
)
def test_ends_that_run_over_as_makers_let_them_decide_nothing(
    before: str, after: str, news: bool
) -> None:
    """A short stick that was calibrated to its full reach, and 4 % beyond, was better in part only."""
    row = Compared(
        "rim.overrun", 19.0, 12.0, 0.2, 0.2, -7.0, 0.3, "better", None, 20.0, None, before, after
    )
    assert row.worth_saying == news
    assert row.detectable == (pytest.approx(2.0) if news else None)
    assert replace(row, path="rim.outer_dead_zone_needed").worth_saying


def changed(
    path: str, before: float, after: float, limit: float, judged: tuple[str, str]
) -> Compared:
    u, change = 0.01 * limit, after - before
    verdict = "better" if change < 0 else "worse"
    return Compared(
        path, before, after, u, u, change, u * sqrt(2), verdict, None, limit, None, *judged
    )  # fmt: skip


@pytest.mark.parametrize(
    ("judged", "other", "overall"),
    [
        (("over", "within"), ("within", "within"), "better"),
        (("over", "borderline"), ("within", "within"), "better"),
        (("within", "within"), ("within", "within"), "mixed"),
        (("over", "within"), ("within", "over"), "mixed"),
        (("within", "within"), ("within", "over"), "worse"),
    ],
)
def test_what_lies_within_its_limit_both_times_makes_no_cure_half_of_one(
    judged: tuple[str, str], other: tuple[str, str], overall: str
) -> None:
    """A stick whose centre was cured and whose rim reads a little rounder by chance was called better
    in part, worse in part."""
    rows = (
        changed("composite.dead_zone_needed", 12.0, 4.0, 8.0, judged),
        changed("rim.circularity_error", 2.0, 5.0, 8.0, other),
    )
    assert _overall(rows) == overall
