"""Each definition on a signal made by hand, whose reading can be worked out with a pencil."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from hollow_pin.core.gate import gate_radius
from hollow_pin.core.geometry import sector
from hollow_pin.core.let_go import LetGo, LetGoResult, measure_let_go
from hollow_pin.core.recording import Floats, NotUsable, resolution
from hollow_pin.core.release import trembling
from hollow_pin.core.rim import find_laps, lost_between, measure_rim
from hollow_pin.core.statistics import baseline, binned_median, runs, seconds_of, timing
from hollow_pin.core.still import measure_still
from hollow_pin.core.untouched import _jumped

RATE = 250.0


def clock(seconds: float, rate: float = RATE) -> Floats:
    return np.arange(0, seconds, 1 / rate)


# Still


def still(x: Floats, y: Floats | None = None):
    t = clock(len(x) / RATE)[: len(x)]
    return measure_still(t, np.column_stack((x, np.zeros(len(x)) if y is None else y))).readings


def tremble(n: int, sd: float = 0.5, seed: int = 1) -> Floats:
    return np.random.default_rng(seed).normal(0, sd, n)


def test_spikes_are_counted_as_runs_and_measured_at_their_highest() -> None:
    x = tremble(2500)
    for at, height in ((300, 9.0), (900, 12.0), (1700, -7.0)):
        x[at : at + 3] += height
    s = still(x, tremble(2500, seed=2))
    assert s.spikes_per_min_x == pytest.approx(3 * 6, rel=0.01)
    assert s.spikes_per_min_y == 0
    assert s.spike_height == pytest.approx(12, abs=1.5)
    assert [p.t_s for p in s.spike] == pytest.approx([1.2, 3.6, 6.8], abs=0.02)
    assert {p.axis for p in s.spike} == {"x"}


@pytest.mark.parametrize(("height", "counts"), [(0.98, 0), (1.02, 1)])
def test_what_nobody_feels_is_no_spike(height: float, counts: int) -> None:
    """A source that swallows small changes reports one now and then: a quiet stick was called
    spiky."""
    x = tremble(2500, 0.001)
    x[1000:1003] += height
    assert still(x).spikes_per_min_x == pytest.approx(6 * counts, rel=0.01)


@pytest.mark.parametrize(("sooner", "jumps"), [(0.004, True), (0.4, False)])
def test_what_does_not_come_back_jumped_if_it_went_sooner_than_a_hand(
    sooner: float, jumps: bool
) -> None:
    t = clock(2.0)
    out = 10 * np.clip((t - 1.0) / sooner, 0, 1)
    assert _jumped(t, out) == _jumped(t, out[::-1]) == jumps


@pytest.mark.parametrize("step", [1.0, 2.0])
def test_noise_of_about_a_step_is_no_row_of_spikes(step: float) -> None:
    """Most of it lies on one value, and a median of distances sees none of the rest."""
    x = np.round(tremble(10_000, 0.75 * step) / step) * step
    assert still(x).spikes_per_min_x == 0
    x[5000:5003] += 9 * step
    assert still(x).spikes_per_min_x > 0


def test_spikes_do_not_count_toward_the_noise_that_a_dead_zone_must_hide() -> None:
    quiet, spiky = tremble(2500), tremble(2500)
    spiky[::250] += 20
    assert still(spiky).noise_reach == pytest.approx(still(quiet).noise_reach, rel=0.1)


def test_a_slow_stroll_is_wander_and_not_jitter() -> None:
    t = clock(20)
    s = still(2 * np.sin(2 * np.pi * t / 20) + tremble(len(t), 0.2))
    assert s.wander == pytest.approx(4, abs=0.2)
    assert s.jitter_x == pytest.approx(0.2, rel=0.1)


def test_creep_is_a_slope_in_percent_a_minute() -> None:
    t = clock(30)
    s = still(3 * t / 60 + tremble(len(t), 0.1), tremble(len(t), 0.1, 3))
    assert s.creep_x == pytest.approx(3, abs=0.15)
    assert s.creep_y == pytest.approx(0, abs=0.15)


def test_a_last_block_of_under_half_a_second_is_dropped() -> None:
    starts, stop = seconds_of(clock(6.4))
    assert (len(starts), stop) == (6, 6 * 250)
    starts, stop = seconds_of(clock(6.6))
    assert (len(starts), stop) == (7, len(clock(6.6)))
    t = clock(6.4)
    assert still(np.where(t >= 6, 9.0, 0.0), 0 * t).wander == 0


def test_the_true_rate_and_its_gaps_are_told() -> None:
    t = clock(10)
    t[1000:] += 0.1
    pace = timing(t)
    assert pace is not None
    assert pace.rate_hz == pytest.approx(250)
    assert pace.gaps == 1
    assert pace.longest_gap_s == pytest.approx(0.104)
    assert timing(t[:1]) is None


def test_resolution_is_the_converters_step_and_zero_for_a_constant() -> None:
    step = 200 / 1023
    assert resolution(np.array([3, 5, 6, 9]) * step) == pytest.approx(step)
    assert resolution(np.full(9, 1.25)) == 0


def test_the_baseline_follows_a_step_and_leaves_a_spike_alone() -> None:
    v = np.zeros(1000)
    v[500:] = 4
    v[100] = 30
    followed = baseline(v, 1 / RATE)
    assert followed[100] == 0
    assert followed[350] == pytest.approx(0)
    assert followed[650] == pytest.approx(4)


def test_runs_and_binned_medians_agree_with_a_plain_loop() -> None:
    rng = np.random.default_rng(3)
    mask = rng.random(200) > 0.6
    starts, stops = runs(mask)
    rebuilt = np.zeros(200, dtype=bool)
    for a, b in zip(starts, stops, strict=True):
        rebuilt[a:b] = True
    assert (rebuilt == mask).all()
    values, bins = rng.normal(size=300), rng.integers(0, 9, 300)
    medians = binned_median(values, bins, 10)
    for b in range(9):
        assert medians[b] == pytest.approx(np.median(values[bins == b]))
    assert np.isnan(medians[9])


# Let-go


def pushes(
    *events: tuple[float, float, float], seconds: float = 20, final: tuple[float, float] = (0, 0)
) -> tuple[Floats, Floats]:
    """A stick that goes at once where it is pushed: (start s, end s, bearing) each."""
    t = clock(seconds)
    u = np.tile(np.array(final, dtype=float), (len(t), 1))
    for start, end, degrees in events:
        a = np.radians(degrees)
        u[(t >= start) & (t < end)] = 90 * np.array([np.sin(a), np.cos(a)])
    return t, u


def let_go(t: Floats, u: Floats, jitter: float = 0.1) -> LetGo:
    return measure_let_go(t, u, np.zeros(2), jitter).readings


def test_a_release_has_its_push_and_its_final() -> None:
    t, u = pushes((1, 1.5, 90), (4, 4.5, 225), final=(1.5, -0.5))
    readings = let_go(t, u)
    assert readings.releases == 2
    assert readings.sectors == 2
    assert [r.bearing for r in readings.release] == pytest.approx([90, 225])
    assert readings.release[0].t_s == pytest.approx(1.5, abs=0.005)
    assert readings.return_max == pytest.approx(np.hypot(1.5, 0.5))
    assert readings.return_spread == pytest.approx(0)
    assert (readings.return_centre_x, readings.return_centre_y) == pytest.approx((1.5, -0.5))


def test_a_release_cut_short_by_the_next_push_counts_from_half_a_second() -> None:
    t, u = pushes((1, 1.5, 0), (2.2, 2.6, 90), (3.5, 3.9, 180))
    readings = let_go(t, u)
    # 0.7 s to the next push less 0.25 s is too short; 0.9 s less 0.25 s is not.
    assert [r.bearing for r in readings.release] == pytest.approx([90, 180])


@pytest.mark.parametrize(("samples", "releases"), [(14, 1), (15, 2)])
def test_what_is_out_for_no_longer_than_a_spike_is_no_push(samples: int, releases: int) -> None:
    """0.06 s, at 250 Hz. Else a dirty track lets go twenty times of sixteen, and where the stick was
    on its way back is where it came to lie."""
    t, u = pushes((1, 1.5, 0))
    u[625 : 625 + samples] = (90.0, 0.0)
    readings = let_go(t, u)
    assert readings.releases == releases
    assert readings.release[0].end_s == pytest.approx(3.0 if releases == 1 else 2.25, abs=0.01)


@pytest.mark.parametrize(("samples", "let_go_s"), [(14, 1.5), (15, 1.42)])
def test_what_is_back_for_no_longer_than_a_spike_is_not_let_go(
    samples: int, let_go_s: float
) -> None:
    t, u = pushes((1, 1.5, 90))
    u[355 : 355 + samples] = 0.0
    (release,) = let_go(t, u).release
    assert release.t_s == pytest.approx(let_go_s, abs=0.005)


def slowly(
    speed: float, after_s: float = 1.0, final: float = 0.0, stops_s: float = 9.0
) -> tuple[Floats, Floats]:
    """A release at 1.5 s that comes to lie at once, and a push of so many % a second that begins so
    long after it; the samples end at stops_s."""
    t, u = pushes((1, 1.5, 0), final=(final, 0.0))
    u[:, 0] += np.clip(speed * (t - 1.5 - after_s), 0, 95.0)
    return t[t < stops_s], u[t < stops_s]


@pytest.mark.parametrize("speed", [25.0, 60.0, 200.0])
@pytest.mark.parametrize("after_s", [0.65, 1.0, 1.4])
def test_a_push_that_takes_its_time_is_none_of_the_release_before_it(
    speed: float, after_s: float
) -> None:
    """A sound stick that was pushed out within a second came back late, by 99 %, and needed a dead
    zone of thirty."""
    (release,) = let_go(*slowly(speed, after_s, final=0.7)).release
    assert release.end_s <= 1.5 + after_s
    assert release.settle_ms == 0
    assert release.final_x == pytest.approx(0.7, abs=0.01)


def test_a_push_begins_where_a_stick_goes_out_by_more_than_it_lies_about() -> None:
    """By 2 % in a quarter second, or by what it trembles; its beginning is left out with the tenth
    before it."""
    for speed, jitter, is_push in (
        (10, 0.1, True),
        (6, 0.1, False),
        (10, 4.0, False),
        (30, 4, True),
    ):
        begins = 1.3 - max(2.0, jitter) / speed
        (release,) = let_go(*slowly(speed, begins), jitter).release
        assert release.end_s - 1.5 == pytest.approx(1.2 if is_push else 1.5, abs=0.04), speed


def test_a_stick_that_is_gripped_before_it_is_pushed_slowly_had_come_to_lie() -> None:
    """What the hand did was what it trembled by there, and where it came to rest."""
    t, u = slowly(40.0, 1.0)
    u[(t >= 2.5) & (u[:, 0] < 4.0), 0] = 4.0
    (release,) = let_go(t, u).release
    assert release.end_s < 2.5
    assert release.final_x == pytest.approx(0.0, abs=0.01)


@pytest.mark.parametrize(("after_s", "counts"), [(0.6, 1), (0.55, 0)])
def test_a_release_counts_that_was_left_alone_for_half_a_second(
    after_s: float, counts: int
) -> None:
    """And a tenth, before the next push begins, however long that takes."""
    assert let_go(*slowly(60.0, after_s)).releases == counts


def test_a_push_that_had_begun_when_let_go_ended_is_no_way_back() -> None:
    (release,) = let_go(*slowly(60.0, 0.9, stops_s=2.9)).release
    assert release.settle_ms == 0
    assert release.final_x == pytest.approx(0.0, abs=0.01)


def test_a_hand_that_is_laid_on_it_in_the_end_is_no_way_back() -> None:
    t, u = pushes((1, 1.5, 90))
    u[(t >= 1.5) & (t < 1.6), 0] = 5.0
    u[(t >= 2.9), 0] = 3.0
    assert let_go(t, u).release[0].settle_ms == pytest.approx(96, abs=5)
    on_its_way = (t >= 1.5) & (t < 3.0)
    u[on_its_way, 0] = np.linspace(30, 0, int(on_its_way.sum()))
    assert let_go(t, u).release[0].settle_ms > 1200, "it never lay still"


def lightly(
    out: float = 55.0,
    back_s: float = 1.2,
    lasts_s: float = 9.0,
    then: float | None = None,
    lies: float = 0.7,
) -> tuple[Floats, Floats]:
    """A release at 1.5 s that comes to lie there at once, %, and so long after it a push that goes out
    no farther, for so long, and then as far as `then`."""
    t, u = pushes((1, 1.5, 90), final=(lies, 0.0), seconds=8)
    begins = 1.5 + back_s
    u[(t >= begins) & (t < begins + lasts_s), 0] = out
    if then is not None:
        u[t >= begins + lasts_s, 0] = then
    return t, u


@pytest.mark.parametrize("then", [None, 90.0])
def test_a_push_too_light_to_count_is_none_of_the_release_before_it(then: float | None) -> None:
    """A hand that pushed half the way out now and then had a sound stick “not always come back”."""
    readings = let_go(*lightly(lasts_s=1.0, then=then))
    (release,) = readings.release
    assert readings.stuck == (then is not None), "what is held to the end of the samples is"
    assert release.end_s < 2.7
    assert (release.final_x, release.settle_ms) == (pytest.approx(0.7, abs=0.01), 0)


@pytest.mark.parametrize(("out", "is_push"), [(10.3, True), (9.7, False)])
def test_a_stick_that_is_out_by_a_tenth_was_pushed(out: float, is_push: bool) -> None:
    (release,) = let_go(*lightly(out)).release
    assert release.final_x == pytest.approx(0.7 if is_push else out, abs=0.01)


@pytest.mark.parametrize(("lies", "is_push"), [(6.8, True), (7.2, False)])
def test_a_stick_that_lies_off_its_centre_and_sways_was_not_pushed(
    lies: float, is_push: bool
) -> None:
    """Else a worn one that comes to lie a tenth off would be let go too soon, each time."""
    (release,) = let_go(*lightly(11.0, lies=lies)).release
    assert release.final_x == pytest.approx(lies if is_push else 11.0, abs=0.01)


@pytest.mark.parametrize(("lasts_s", "is_push"), [(0.22, True), (0.18, False)])
def test_a_contact_that_opens_for_a_moment_ends_no_release(lasts_s: float, is_push: bool) -> None:
    (release,) = let_go(*lightly(40.0, 0.8, lasts_s)).release
    assert release.end_s == pytest.approx(2.2 if is_push else 3.0, abs=0.02)


def test_a_stick_that_swings_by_its_middle_and_hangs_was_not_pushed() -> None:
    """It is the worst there is; a push so soon after the release leaves nothing to measure."""
    assert let_go(*lightly(-40.0, 0.08)).stuck == 1
    with pytest.raises(NotUsable, match="no push and release"):
        let_go(*lightly(-40.0, 0.12))


def returning(away: Callable[[Floats], Floats], times: int = 1, then: int = 0) -> LetGoResult:
    """Releases that are so far away, %, by the seconds since; and more that are back at once."""
    events = [(1.0 + 3 * i, 1.5 + 3 * i, 90.0) for i in range(times + then)]
    t, u = pushes(*events, seconds=3.0 * (times + then) + 1)
    for _, let_go_s, _ in events[:times]:
        on_its_way = (t >= let_go_s) & (t < let_go_s + 1.6)
        u[on_its_way, 0] = away(t[on_its_way] - let_go_s)
    return measure_let_go(t, u, np.zeros(2), 0.1)


@pytest.mark.parametrize(
    ("lies_s", "goes_s", "is_led"),
    [
        (0.3, 0.05, True),
        (0.3, 0.11, True),
        (0.3, 0.24, False),
        (0.16, 0.01, True),
        (0.14, 0.01, False),
    ],
)
def test_a_stick_under_a_thumb_does_not_come_back_late(
    lies_s: float, goes_s: float, is_led: bool
) -> None:
    """A soft thumb rides back on a sound stick: it was too slow, and looked over for a rub."""
    readings = returning(lambda s: np.clip(5 * (1 - (s - lies_s) / goes_s), 0, 5)).readings
    (release,) = readings.release
    assert (release.settle_ms is None) == is_led
    assert readings.settle_ms_p90 == release.settle_ms
    assert release.final_x == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize("tau_s", [0.06, 0.1, 0.2])
def test_a_stick_that_comes_back_late_by_itself_does_so(tau_s: float) -> None:
    """It is ever slower, on all of its way or on the last of it."""
    slow = returning(lambda s: 49 * np.exp(-s / tau_s)).readings
    assert slow.settle_ms_p90 == pytest.approx(1000 * tau_s * np.log(49 / 2), rel=0.1)
    creeps = returning(lambda s: 5 * np.exp(-s / tau_s)).readings
    assert creeps.settle_ms_p90 == pytest.approx(1000 * tau_s * np.log(5 / 2), rel=0.12)


def test_a_stick_that_swings_on_is_under_no_thumb() -> None:
    swings = returning(lambda s: 40 * np.exp(-s / 0.1) * np.cos(2 * np.pi * 6 * s)).readings
    assert swings.settle_ms_p90 == pytest.approx(270, abs=40)


@pytest.mark.parametrize(("others", "said"), [(1, True), (2, False)])
def test_most_releases_under_a_thumb_are_asked_for_anew(others: int, said: bool) -> None:
    released = returning(lambda s: np.where(s < 0.3, 5.0, 0.0), times=2, then=others)
    assert ("led" in [p.code for p in released.problems]) == said
    assert released.readings.settle_ms_p90 == 0, "by those that it was off"


def test_a_half_hearted_push_is_no_push() -> None:
    t, u = pushes((1, 1.5, 0))
    u *= 0.6
    u[500:600, 0] = 61
    assert let_go(t, u).releases == 1


def test_settling_is_the_last_time_outside_the_band() -> None:
    t, u = pushes((1, 1.5, 90))
    u[(t >= 1.5) & (t < 1.6), 0] = 5.0
    u[(t >= 1.8) & (t < 1.88), 0] = -3.0
    u[(t >= 2.2) & (t < 2.22), 0] = 40.0
    readings = let_go(t, u)
    assert readings.release[0].settle_ms == pytest.approx(376, abs=5), (
        "a spike is no way still to go"
    )
    assert let_go(t, u, jitter=1.0).release[0].settle_ms == pytest.approx(96, abs=5)
    assert readings.overshoot_max == pytest.approx(3)


@pytest.mark.parametrize(
    ("swings", "said"), [((20.5, 20.5, 0.0), True), ((19.5, 19.5, 60.0), False)]
)
def test_a_stick_that_swings_past_the_middle_is_told_of_by_what_it_usually_does(
    swings: tuple[float, ...], said: bool
) -> None:
    """It flicks the other way when it is let go: what an owner sees had no word in any reading."""
    t, u = pushes((1, 1.5, 90), (4, 4.5, 90), (7, 7.5, 90))
    for at, far in zip((1.5, 4.5, 7.5), swings, strict=True):
        u[(t >= at + 0.02) & (t < at + 0.05), 0] = -far
    problems = measure_let_go(t, u, np.zeros(2), 0.1).problems
    assert any("swings past the middle" in p.message for p in problems) == said
    assert all(p.kind == "note" for p in problems if p.code == "swings"), "there is no limit for it"


def test_what_trembles_shows_less_of_how_it_settles() -> None:
    """Quiet again it reads later, with nothing changed about its spring: a cure was called half of
    one."""
    t = clock(10)
    u = np.zeros((len(t), 2))
    u[(t >= 1) & (t < 2), 0] = 90.0
    back = t >= 2
    u[back, 0] = 90.0 * np.exp(-(t[back] - 2) / 0.1)
    quiet, trembling = (measure_let_go(t, u, np.zeros(2), j) for j in (0.5, 2.0))
    assert quiet.unseen_ms == 0.0, "four times as much lies within the band of 2 %"
    missed = quiet.readings.settle_ms_p90 - trembling.readings.settle_ms_p90
    assert missed == pytest.approx(1e2 * np.log(4), abs=8)
    assert trembling.unseen_ms == pytest.approx(missed, abs=12)


@pytest.mark.parametrize(("wander", "settles_ms"), [(5.5, 0), (4.5, 136)])
def test_a_rest_that_wanders_is_no_way_still_to_go(wander: float, settles_ms: float) -> None:
    """A module whose contact wanders came back late, and was looked over for a rub."""
    t, u = pushes((1, 1.5, 90))
    u[(t >= 1.5) & (t < 1.64), 0] = 5.0
    readings = measure_let_go(t, u, np.zeros(2), 0.1, wander).readings
    assert readings.settle_ms_p90 == pytest.approx(settles_ms, abs=5)


@pytest.mark.parametrize(("sway", "settles_ms"), [(4.7, 0), (4.5, 136)])
def test_a_rest_that_sways_within_a_second_is_no_way_still_to_go(
    sway: float, settles_ms: float
) -> None:
    """Hum that beats with the rate of its source came back late, and was looked over for a rub."""
    t, u = pushes((1, 1.5, 90))
    u[(t >= 1.5) & (t < 1.64), 0] = 5.0
    readings = measure_let_go(t, u, np.zeros(2), 0.1, sway=sway).readings
    assert readings.settle_ms_p90 == pytest.approx(settles_ms, abs=5)


def test_a_rest_sways_by_what_it_does_beyond_trembling_most_of_the_time() -> None:
    t = clock(10)
    noise = np.random.default_rng(4).normal(0, 0.5, (len(t), 2))
    assert measure_still(t, noise).sway < 0.1
    slow = 1.5 * np.sin(2 * np.pi * 0.2 * t)[:, None] * [1, 1]
    assert measure_still(t, slow + 0.02 * noise).sway == pytest.approx(3 * np.sqrt(2), rel=0.1)
    for seconds, sways in ((2.4, False), (7.4, True)):
        touched, then = 0.02 * noise, (t >= 1.5) & (t < 1.5 + seconds)
        touched[then, 0] += 3.0 * np.sin(2 * t[then])
        assert (measure_still(t, touched).sway > 1) == sways, "a touch is no sway"


def test_what_trembles_where_it_was_left_is_no_way_still_to_go() -> None:
    """A stick that lay quiet in Still and was let go into dirt came back late, by a second."""
    t, u = pushes((1, 1.5, 90), (4, 4.5, 270))
    rough = (t >= 1.5) & (t < 4)
    u[rough, 0] += np.random.default_rng(3).normal(0, 2.0, rough.sum())
    in_dirt, quiet = let_go(t, u).release
    assert in_dirt.settle_ms < 20
    assert quiet.settle_ms == 0
    straight = (t >= 4.5) & (t < 6)
    u[straight, 0] += 8 * (6 - t[straight])
    slow = let_go(t, u).release[1]
    assert slow.settle_ms > 1000, "what creeps back is on its way, however evenly"


@pytest.mark.parametrize(("away", "settles_ms"), [(6.0, 0), (6.5, 140)])
def test_it_has_settled_within_four_times_what_it_trembles_by_there(
    away: float, settles_ms: float
) -> None:
    """±2 % are 1.56 % by the tenths, and a spike or two of each side none of it."""
    t, u = pushes((1, 1.5, 90))
    u[t >= 1.64, 0] = np.where(np.arange((t >= 1.64).sum()) % 2, 2.0, -2.0)
    u[(t >= 1.5) & (t < 1.64), 0] = away
    released = measure_let_go(t, u, np.zeros(2), 0.1)
    assert released.readings.settle_ms_p90 == pytest.approx(settles_ms, abs=5)
    assert released.trembles[0] == pytest.approx((4 / 2.5631, 0.0))
    assert released.read_from == pytest.approx(63, abs=1), "a quarter of a second"
    alone = measure_let_go(t, u[:, :1], np.zeros(1), 0.1)
    assert alone.trembles.shape == (1, 1)
    one, both = alone.readings.release[0], released.readings.release[0]
    assert (one.t_s, one.end_s, one.final_y) == (both.t_s, both.end_s, None)


@pytest.mark.parametrize(("share", "trembles"), [(0.08, False), (0.12, True)])
def test_a_spike_where_it_was_left_is_no_trembling_nor_is_a_creep(
    share: float, trembles: bool
) -> None:
    t = np.arange(100) / 400
    p = np.column_stack((8 * t, np.zeros(100)))
    up, down = round(100 * share), -round(100 * share)
    p[np.random.default_rng(1).permutation(100)[:up], 1] = 5.0
    p[np.random.default_rng(1).permutation(100)[down:], 1] = -5.0
    creeps, spiky = trembling(t, p)
    assert creeps == pytest.approx(0.0, abs=1e-9)
    assert (spiky > 1.0) == trembles


@pytest.mark.parametrize(("jitter", "known"), [(12.4, True), (12.6, False)])
def test_what_trembles_farther_than_it_is_let_go_from_has_no_time_of_settling(
    jitter: float, known: bool
) -> None:
    """It read 0 ms, to four: the cure of a loose joint made it return later."""
    t, u = pushes((1, 1.5, 90), (4, 4.5, 270))
    readings = let_go(t, u, jitter)
    assert (readings.settle_ms_p90 is not None) == known
    assert (readings.release[0].settle_ms is not None) == known
    assert readings.releases == 2


def test_spikes_are_no_trembling_that_hides_how_it_settles() -> None:
    """Two spikes to the end in ten seconds are 9 % of RMS, and four times that no band at all."""
    t, u = pushes(seconds=10)
    u += np.random.default_rng(2).normal(0, 0.2, u.shape)
    u[500:540, 0] = u[1500:1540, 0] = -100
    still = measure_still(t, u)
    r = still.readings
    assert r.jitter_x > 5
    assert still.jitter_between_spikes == pytest.approx(0.2, rel=0.1)
    assert np.sqrt(r.jitter_x**2 - r.spike_jitter_x**2) == pytest.approx(0.2, rel=0.1)
    assert r.spike_jitter_y == pytest.approx(0.0, abs=0.05), "it has none"


def test_a_stick_that_hangs_is_stuck_and_a_long_hold_too() -> None:
    t, u = pushes((1, 1.5, 90), (5, 8, 0))
    u[(t >= 1.5) & (t < 5), 0] = 30
    readings = let_go(t, u)
    assert readings.stuck == 2


@pytest.mark.parametrize(
    ("lasted", "stuck"),
    [
        ((2.3, 2.3, 2.3, 2.3), 0),
        ((2.3, 2.3, 2.3, 0.5), 0),
        ((2.3, 2.3, 0.5, 0.5), 2),
        ((2.3, 2.3, 2.3), 3),
        ((1.9, 1.9, 1.9, 2.1), 1),
        ((2.3, 2.3, 2.3, 9.0), 4),
    ],
)
def test_a_hand_that_holds_every_push_for_long_is_no_stick_that_is_stuck(
    lasted: tuple[float, ...], stuck: int
) -> None:
    """It was said not always to come back. The last of the last was never let go."""
    events = [(1 + 4.0 * i, 1 + 4.0 * i + s, 90.0 * i) for i, s in enumerate(lasted)]
    assert let_go(*pushes(*events, seconds=17)).stuck == stuck


@pytest.mark.parametrize(("away", "stuck"), [(19.5, 0), (20.5, 1)])
def test_a_stick_that_rests_far_off_is_back_when_it_is_there_again(away: float, stuck: int) -> None:
    """A rest that is 15 % off in both ways is one to recalibrate: it was said not to come back, and to
    be looked over for a bind."""
    t, u = pushes((1, 1.5, 90), final=(15.0, 15.0))
    assert measure_let_go(t, u, np.array([15.0, 15.0]), 0.1).readings.stuck == 0
    t, u = pushes((1, 1.5, 90), final=(15.0 + away, 15.0))
    assert measure_let_go(t, u, np.array([15.0, 15.0]), 0.1).readings.stuck == stuck
    t, u = pushes((1, 1.5, 90), final=(0.0, 0.0))
    assert measure_let_go(t, u, np.array([0.0, 30.0]), 0.1).readings.stuck == 0, "it is at zero"


@pytest.mark.parametrize(("rest", "stuck"), [(49.0, 0), (51.0, 1)])
def test_a_rest_as_far_off_as_a_push_is_none(rest: float, stuck: int) -> None:
    t, u = pushes((1, 1.5, 270), final=(rest, 0.0))
    u[(t >= 1) & (t < 1.5), 0] = -95.0
    assert measure_let_go(t, u, np.array([rest, 0.0]), 0.1).readings.stuck == stuck


@pytest.mark.parametrize(
    ("bearing", "which"), [(0, 0), (22, 0), (23, 1), (90, 2), (337, 7), (338, 0), (359.9, 0)]
)
def test_sectors_are_centred_on_the_eight_directions(bearing: float, which: int) -> None:
    assert sector(bearing) == which


# Rim


def around(laps: float, radius: float = 95.0, start: float = 0.0, per_lap: int = 500) -> Floats:
    """A path round the edge: laps > 0 clockwise."""
    a = start + 2 * np.pi * np.linspace(0, laps, int(abs(laps) * per_lap))
    return radius * np.column_stack((np.sin(a), np.cos(a)))


@pytest.mark.parametrize(
    ("path", "cw", "ccw"),
    [
        ([around(2)], 2, 0),
        ([around(-3)], 0, 3),
        ([around(2.2), around(-2.4, start=2 * np.pi * 0.2)], 2, 2),
        ([around(1.9)], 1, 0),
        ([around(1.97)], 2, 0),
        ([around(1.6), around(0.7, start=1.0)], 1, 0),
        ([around(0.7), around(-0.6, start=2 * np.pi * 0.7), around(1.5, start=0.6)], 1, 0),
    ],
)
def test_whole_laps_are_counted_each_way(path: list[Floats], cw: int, ccw: int) -> None:
    points = np.concatenate(path)
    lap, way = find_laps(points)
    assert np.unique(lap[(lap >= 0) & (way == 1)]).size == cw
    assert np.unique(lap[(lap >= 0) & (way == -1)]).size == ccw


@pytest.mark.parametrize(
    ("gone", "flagged", "laps"),
    [(40, True, 3), (119, True, 3), (121, True, 0), (40, False, 0), (29, False, 3)],
)
def test_what_a_link_loses_is_no_end_of_a_lap(gone: int, flagged: bool, laps: int) -> None:
    """Twice a second nothing came for a moment, and of four laps that were gone round none counted."""
    whole = around(3.2, per_lap=360)
    there = (np.arange(len(whole)) - 110) % 220 >= gone - 1
    at = np.flatnonzero(there)
    lost = (np.diff(at) > 1) & flagged
    lap, _ = find_laps(whole[there], lost)
    assert np.unique(lap[lap >= 0]).size == laps


def test_what_turned_back_while_nothing_was_reported_begins_anew() -> None:
    there, back = around(0.9, per_lap=360), around(-0.9, start=2 * np.pi * 1.0, per_lap=360)
    path = np.concatenate((there, back))
    lost = np.zeros(len(path) - 1, dtype=bool)
    lost[len(there) - 1] = True
    _, way = find_laps(path, lost)
    assert (way[10], way[-10]) == (1, -1)


def test_a_lap_that_ends_soon_after_what_was_lost_is_whole() -> None:
    there, on = around(0.8, per_lap=360), around(0.08, start=2 * np.pi * 0.97, per_lap=360)
    back = around(-0.5, start=2 * np.pi * 1.05, per_lap=360)
    path = np.concatenate((there, on, back))
    lost = np.zeros(len(path) - 1, dtype=bool)
    lost[len(there) - 1] = True
    lap, way = find_laps(path, lost)
    assert np.unique(lap[(lap >= 0) & (way == 1)]).size == 1


def test_samples_that_lie_beside_the_edge_are_not_lost() -> None:
    """Only what nobody reported may have gone on as before."""
    t = np.array([0.0, 0.01, 0.02, 0.1, 0.11, 0.2])
    assert lost_between(t, np.arange(6), 0.01).tolist() == [False, False, True, False, True]
    assert lost_between(t, np.array([0, 1, 2, 4, 5]), 0.01).tolist() == [False, False, False, True]
    assert not lost_between(t, np.arange(6), 0.0301).any()


def test_a_perfect_round_rim_reads_perfectly() -> None:
    u = np.concatenate((around(2, 100), around(-2, 100)))
    rim = measure_rim(u).readings
    assert rim.coverage == 1
    assert rim.circularity_error == pytest.approx(0, abs=1e-9)
    assert rim.roundness_lsc == pytest.approx(0, abs=1e-6)
    assert rim.lap_repeat == pytest.approx(0, abs=1e-9)
    assert rim.cw_ccw_gap == pytest.approx(0, abs=1e-9)
    assert rim.outer_dead_zone_needed == pytest.approx(0, abs=1e-9)


def test_an_offset_rim_is_an_error_but_not_out_of_round() -> None:
    u = np.concatenate((around(2, 90), around(-2, 90))) + np.array([6, 0])
    rim = measure_rim(u).readings
    assert rim.roundness_lsc < 0.5
    assert (rim.lsc_x, rim.lsc_y) == pytest.approx((6, 0), abs=0.1)
    assert rim.lsc_radius == pytest.approx(90, abs=0.1)
    assert rim.reach_right == pytest.approx(96, abs=0.2)
    assert rim.reach_left == pytest.approx(84, abs=0.2)
    assert rim.outer_dead_zone_needed == pytest.approx(16, abs=0.2)
    assert rim.circularity_error > 9


def test_how_far_a_side_goes_is_told_by_its_directions_and_no_few_samples() -> None:
    """A very loose joint that now and then reports the end would stretch what a calibration holds."""
    u = np.concatenate((around(2, 90), around(-2, 90)))
    u[:: len(u) // 40, 0] = -100.0
    rim = measure_rim(u).readings
    assert (rim.reach_left, rim.reach_right) == pytest.approx((90, 90), abs=0.2)


@pytest.mark.parametrize(("strays", "seen"), [(9, False), (11, True)])
def test_a_direction_that_holds_a_tenth_of_the_usual_samples_was_looked_at(
    strays: int, seen: bool
) -> None:
    """Behind a dead span a single sample on the way would be a rim that is a quarter short there."""
    angle = np.radians(np.arange(0, 360, 0.05))
    keep = ~((angle > np.radians(167.4)) & (angle < np.radians(172.6)))
    whole = 100.0 * np.column_stack((np.sin(angle[keep]), np.cos(angle[keep])))
    toward = np.radians(170.0)
    stray = np.tile((74.0 * np.sin(toward), 74.0 * np.cos(toward)), (strays, 1))
    rim = measure_rim(np.concatenate((whole, stray, whole[:1]))).readings
    assert rim.coverage == pytest.approx(1.0 if seen else 71 / 72)
    assert rim.roundness_lsc == pytest.approx(26.0 if seen else 0.0, abs=1.5)


def test_laps_that_differ_show_in_their_repeat_and_in_the_gap_between_ways() -> None:
    u = np.concatenate((around(2, 96), around(-2, 92)))
    rim = measure_rim(u).readings
    assert rim.cw_ccw_gap == pytest.approx(4)
    assert rim.lap_repeat == pytest.approx(2, abs=0.1)


def test_up_to_three_missed_directions_are_interpolated() -> None:
    u = np.concatenate((around(2, 100), around(-2, 100)))
    b = np.degrees(np.arctan2(u[:, 0], u[:, 1])) % 360
    rim = measure_rim(u[(b < 42.5) | (b > 57.5)]).readings
    assert rim.coverage == pytest.approx(69 / 72)
    assert rim.radius[9] == pytest.approx(100)


def test_resting_in_the_middle_does_not_shrink_the_rim() -> None:
    u = np.concatenate((np.zeros((800, 2)), around(2, 97), around(-2, 97), np.zeros((800, 2))))
    assert measure_rim(u).readings.mean_radius == pytest.approx(97)


def test_a_single_lap_warns_that_nothing_repeats() -> None:
    result = measure_rim(around(1.02))
    assert [p.code for p in result.problems] == ["laps"]


def test_a_square_gate_reaches_farther_into_its_corners() -> None:
    gate = gate_radius("square")
    assert gate[0] == pytest.approx(100, abs=0.1)
    assert gate[9] == pytest.approx(100 * np.sqrt(2), abs=3.2)
    assert gate == pytest.approx(np.roll(gate, 18))


@pytest.mark.parametrize(("jitter", "within"), [(0.4, 2.0), (1.5, 6.0)])
def test_it_is_told_within_what_a_release_counts_as_settled(jitter: float, within: float) -> None:
    """By that it is known what a hum may have hidden."""
    assert let_go(*pushes((1, 1.5, 90)), jitter).settled_within == pytest.approx(within)
