"""A source that reports changes only carries all there is to know, and is read so."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.held_time import FEWEST_NEWS, Pace, as_held, pace_of, spread_out, without_stale
from hollow_pin.core.recording import NO_STEP, STEPS, AxisRange, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import find_steps
from sticks import TEN_BIT, performed, picked, trailing_off


def thinned(recording: Recording) -> Recording:
    """What of it a source would say that speaks only when something changes."""
    news = np.append(True, (recording.raw[1:] != recording.raw[:-1]).any(axis=1))
    return picked(recording, news)


def coarse(recording: Recording, step: float = 8.0) -> Recording:
    """By a converter of 7 bits, which rests to the last digit."""
    return replace(recording, raw=np.round(recording.raw / step) * step)


@pytest.mark.parametrize("condition", ["sound", "worn", "offset"])
def test_held_values_give_the_readings_of_the_whole(condition: str) -> None:
    whole = coarse(performed(condition).recording)
    spare = thinned(whole)
    assert len(spare.t_us) < 0.75 * len(whole.t_us)
    assert pace_of(spare).change_only
    assert not pace_of(whole).change_only
    both, full = measure_take(spare), measure_take(whole)
    assert both.hidden == full.hidden
    assert explain(both).try_first == explain(full).try_first
    for path in ("still.rest_x", "let_go.return_spread", "rim.mean_radius", "hold.sag"):
        assert both.value(path) == pytest.approx(full.value(path), abs=0.4), path
    assert both.recording.samples == len(spare.t_us), "what came is what is told"


def test_a_source_that_speaks_all_the_time_is_left_as_it_is() -> None:
    for condition, rate in (("sound", 60), ("worn", 60), ("dirty", 250), ("sound", 1000)):
        recording = performed(condition, rate=rate).recording
        assert not pace_of(recording).change_only, (condition, rate)


def silent_at(rest: int, moving: int, reports: int = 10) -> Recording:
    """A minute at 100 Hz of a stick that trembles, half of it at rest and half in movement, without so
    many stretches of as many reports at rest and on the move."""
    rng = np.random.default_rng(4)
    n = 6000
    x = np.where(np.arange(n) < n // 2, 0.0, 80.0 * np.sin(np.arange(n) / 12.0))
    u = np.column_stack([x, np.zeros(n)]) + rng.normal(0.0, 0.2, (n, 2))
    keep = np.ones(n, dtype=bool)
    for first, last, stretches in ((20, n // 2, rest), (n // 2, n - 20, moving)):
        for at in np.linspace(first, last - 2 * reports, stretches).astype(int):
            keep[at : at + reports] = False
    t_us = np.flatnonzero(keep) * 10_000
    step = np.full(len(t_us), STEPS.index("still"), np.int8)
    return Recording(t_us, u[keep], (AxisRange(-100, 100),) * 2, step)


@pytest.mark.parametrize(("rest", "change_only"), [(66, True), (48, False)])
def test_a_source_that_is_silent_at_rest_alone_is_one_of_changes(
    rest: int, change_only: bool
) -> None:
    """A worn stick that trembles over a few codes hardly lets it be silent: a tenth of the time, and
    “the samples come very unevenly”, so that nothing of it was told."""
    assert pace_of(silent_at(rest, 0)).change_only == change_only


@pytest.mark.parametrize(("moving", "change_only"), [(14, True), (18, False)])
def test_a_link_is_silent_while_the_stick_moves_too(moving: int, change_only: bool) -> None:
    assert pace_of(silent_at(90, moving)).change_only == change_only


@pytest.mark.parametrize(("rest", "reports", "change_only"), [(30, 25, False), (36, 25, True)])
def test_few_silences_at_rest_may_be_chance(rest: int, reports: int, change_only: bool) -> None:
    assert pace_of(silent_at(rest, 0, reports)).change_only == change_only


@pytest.mark.parametrize("rest", [30, 250])
def test_what_is_silent_for_half_of_the_time_is_no_link(rest: int) -> None:
    """However often it fails besides."""
    assert pace_of(silent_at(rest, 200)).change_only == (rest == 250)


def test_a_silence_in_the_middle_of_a_movement_stays_a_gap() -> None:
    """The link was silent, not the stick: held over it, the track would have a hole there."""
    whole = coarse(performed("sound").recording)
    crossing = whole.attempts("crossing-x")[0]
    keep = np.ones(len(whole.t_us), dtype=bool)
    middle = (crossing.start + crossing.stop) // 2
    keep[middle : middle + 40] = False
    spare = thinned(picked(whole, keep))
    unheld = as_held(spare, pace_of(spare))
    assert np.diff(unheld.t_us).max() > 100_000
    assert measure_take(spare).crossing.x.dead_spans == ()


@pytest.mark.parametrize("lost", [0.0, 0.3])
def test_a_source_of_changes_whose_link_loses_a_third_is_one(lost: float) -> None:
    """It rests to the last digit, and its Still was refused for the silence of it."""
    spare = thinned(coarse(performed("sound").recording))
    silent = np.random.default_rng(5).random(len(spare.t_us) // 15 + 1) < lost
    kept = picked(spare, ~silent[np.arange(len(spare.t_us)) // 15])
    assert pace_of(kept).change_only
    assert measure_take(kept).still is not None


@pytest.mark.parametrize(("quiet", "change_only"), [(0.48, False), (0.52, True)])
def test_no_link_is_silent_for_half_of_the_time(quiet: float, change_only: bool) -> None:
    """Always on its way, with every tenth report late and far on."""
    n = np.arange(3000)
    late = n % 10 == 9
    t = np.cumsum(np.where(late, 9 * 0.004 * quiet / (1 - quiet), 0.004))
    x = np.cumsum(np.where(late, 4.0, 1.0)) % 180 - 90
    raw = np.column_stack((x, np.zeros(3000)))
    step = np.full(3000, STEPS.index("rim"), np.int8)
    recording = Recording((t * 1e6).astype(np.int64), raw, (AxisRange(-100, 100),) * 2, step)
    assert pace_of(recording).change_only == change_only


def test_a_stick_that_is_held_at_a_clamped_end_and_let_go_was_held() -> None:
    """It says nothing while it is held, and goes far at once when it is let go: what was held was
    taken for a silence of the link."""
    whole = coarse(performed("sound").recording, 16.0)
    hold = whole.attempts("hold")[0]
    raw = whole.raw.copy()
    raw[hold] = np.clip(512 + np.round((raw[hold] - 512) * 1.3 / 64) * 64, 0, 1023)
    spare = thinned(replace(whole, raw=raw))
    assert len(measure_take(spare).hold) == 4


@pytest.mark.parametrize("page", [False, True])
@pytest.mark.parametrize("seconds", [0.1, 1.0])
@pytest.mark.parametrize("condition", ["sound", "worn"])
def test_a_device_that_goes_on_for_a_while_and_then_is_silent_is_read_as_one_of_changes(
    condition: str, seconds: float, page: bool
) -> None:
    """Its silences were a link's that loses reports, no Still of it was usable, and no sound stick
    could be proven by it."""
    whole = coarse(performed(condition).recording, 16.0)
    spare = trailing_off(whole, seconds, page)
    assert len(spare.t_us) < 0.95 * len(whole.t_us)
    both, full = measure_take(spare), measure_take(whole)
    assert both.hidden == full.hidden
    assert [p.code for p in both.problems] == [p.code for p in full.problems]
    assert explain(both).try_first == explain(full).try_first
    for path in ("still.rest_x", "let_go.return_spread", "rim.mean_radius", "hold.sag"):
        assert both.value(path) == pytest.approx(full.value(path), abs=0.4), path


def silences(trails: list[int], goes_on: int = 0) -> Recording:
    """At 100 Hz: on its way for a second, at one place for so many reports, and silent for 0.3 s, time
    and again; after so many of the silences it still is where it was."""
    t, x, at = [], [], 0.0
    for i, trail in enumerate([*trails, 50]):
        way = (np.arange(100) + 1.0) % 60
        resumes = [way[-1]] * 3 if i and i <= goes_on else []
        x += [*(x[-1:] * len(resumes)), *way, *[way[-1]] * trail]
        t += list(at + 0.01 * np.arange(len(x) - len(t)))
        at = t[-1] + 0.3
    raw = np.column_stack((x, np.zeros(len(x))))
    step = np.full(len(x), STEPS.index("rim"), np.int8)
    t_us = np.round(np.array(t) * 1e6).astype(np.int64)
    return Recording(t_us, raw, (AxisRange(-100, 100),) * 2, step)


@pytest.mark.parametrize(("count", "change_only"), [(3, False), (4, True)])
def test_three_silences_after_as_long_a_while_may_be_chance(count: int, change_only: bool) -> None:
    assert pace_of(silences([20] * count)).change_only == change_only


@pytest.mark.parametrize(("trail", "change_only"), [(2, False), (3, True)])
def test_silent_at_once_after_a_change_is_a_link_while_a_stick_trembles(
    trail: int, change_only: bool
) -> None:
    assert pace_of(silences([trail] * 10)).change_only == change_only


@pytest.mark.parametrize(("others", "change_only"), [(2, True), (3, False)])
def test_a_link_begins_to_be_silent_at_any_time(others: int, change_only: bool) -> None:
    """Three in ten of whose silences begin at other times is a link, and is said to lose reports."""
    assert pace_of(silences([20] * (10 - others) + [31] * others)).change_only == change_only


@pytest.mark.parametrize(("late", "change_only"), [(2, True), (3, False)])
def test_as_long_a_while_is_to_two_reports(late: int, change_only: bool) -> None:
    trails = [20] * 6 + [20 + late] * 4
    assert pace_of(silences(trails)).change_only == change_only


@pytest.mark.parametrize(("goes_on", "change_only"), [(2, True), (3, False)])
def test_what_says_the_same_after_a_silence_had_more_to_say(
    goes_on: int, change_only: bool
) -> None:
    assert pace_of(silences([20] * 10, goes_on)).change_only == change_only


@pytest.mark.parametrize(("trail", "lost"), [(0, True), (1, False)])
def test_a_silence_after_the_same_was_said_again_is_no_link_s(trail: int, lost: bool) -> None:
    """It goes far and onward after it, as a push does, but stood when it fell silent."""
    x = np.array([0.0, 1.0, 2.0, 3.0, *[3.0] * trail, 40.0, 70.0, 71.0, 72.0])
    t = 0.004 * np.arange(len(x)) + np.where(np.arange(len(x)) > 3 + trail, 0.6, 0.0)
    raw = np.column_stack((x, np.zeros(len(x))))
    code = np.full(len(x), STEPS.index("let-go"), np.int8)
    recording = Recording((t * 1e6).astype(np.int64), raw, (AxisRange(-100, 100),) * 2, code)
    assert (np.diff(as_held(recording, Pace(0.004, True)).t).max() > 0.5) == lost


@pytest.mark.parametrize(("silent_s", "gone"), [(14.0, False), (16.0, True)])
def test_a_source_that_says_nothing_through_a_still_is_not_gone(
    silent_s: float, gone: bool
) -> None:
    whole = thinned(coarse(performed("sound").recording))
    still = whole.attempts("still")[0]
    late = round((silent_s - (whole.t[still.stop] - whole.t[still.start])) * 1e6)
    keep = np.ones(len(whole.t_us), dtype=bool)
    keep[still.start + 1 : still.stop] = False
    at = np.arange(len(keep))
    moved = replace(whole, t_us=whole.t_us + np.where(at >= still.stop, late, 0))
    spare = picked(moved, keep)
    unheld = as_held(spare, pace_of(spare))
    about = unheld.t < whole.t[still.start] + 20.0
    assert (np.diff(unheld.t[about]).max() > 0.5) == gone


@pytest.mark.parametrize(("step", "lost"), [("still", False), ("rim", True)])
def test_between_two_spikes_of_a_stick_that_nobody_touches_nothing_is_lost(
    step: str, lost: bool
) -> None:
    """Down and back, half a second of silence, and up: a Still was refused for it, and the dirt that
    made the spikes was not found."""
    x = np.array([0.0, -1.0, 0.0, -1.0, 0.0, -30.0, 0.0, 30.0, 0.0, 1.0, 0.0, 1.0, 0.0])
    t = np.cumsum(np.where(np.arange(13) == 7, 0.6, 0.004))
    code = np.full(13, STEPS.index(step), np.int8)
    raw = np.column_stack((x, np.zeros(13)))
    recording = Recording((t * 1e6).astype(np.int64), raw, (AxisRange(-100, 100),) * 2, code)
    assert (np.diff(as_held(recording, Pace(0.004, True)).t).max() > 0.5) == lost


@pytest.mark.parametrize(("silent_s", "lost"), [(0.9, True), (1.1, False)])
def test_a_silence_of_over_a_second_is_a_stick_that_had_nothing_to_say(
    silent_s: float, lost: bool
) -> None:
    """On its way before and after, and farther on: of the link where it is short, or a push that was
    begun, thought better of, and made."""
    rate, rest = 250, np.tile((0.0, 0.0, 0.0, 1.0), 500)
    way = np.arange(0.0, 40.0, 1.0)
    x = np.concatenate([rest, way, way + 60.0])
    t = np.arange(len(x)) / rate
    t[len(rest) + len(way) :] += silent_s
    t[: len(rest)] *= 8
    t[len(rest) :] += t[len(rest) - 1] + 0.004 - t[len(rest)]
    raw = np.column_stack((x, np.zeros(len(x))))
    step = np.full(len(x), STEPS.index("crossing-x"), np.int8)
    recording = Recording((t * 1e6).astype(np.int64), raw, (AxisRange(-100, 100),) * 2, step)
    unheld = as_held(thinned(recording), Pace(1 / rate, True))
    assert (np.diff(unheld.t).max() > 0.5) == lost


def in_bursts(recording: Recording, of: int, apart_us: int = 0) -> Recording:
    """As a radio hands them over that sends so many at once, some microseconds apart."""
    at = np.arange(len(recording.t_us))
    last = np.minimum(at // of * of + of - 1, len(at) - 1)
    return replace(recording, t_us=recording.t_us[last] + apart_us * (at % of))


@pytest.mark.parametrize(("of", "apart_us"), [(2, 0), (3, 200), (8, 5)])
@pytest.mark.parametrize("condition", ["sound", "worn", "dirty"])
def test_reports_that_come_together_are_read_as_they_were_made(
    condition: str, of: int, apart_us: int
) -> None:
    """By the times at which they came, a pass jumps from end to end: no track could be measured."""
    whole = performed(condition).recording
    bursts = in_bursts(whole, of, apart_us)
    made = spread_out(bursts).t_us
    assert np.abs(made - whole.t_us)[of:-of].max() < 2500, "within a sample"
    assert np.diff(made).min() >= 0
    both, full = measure_take(bursts), measure_take(whole)
    assert both.hidden == full.hidden
    assert explain(both) == explain(full)
    assert both.recording.rate_hz == pytest.approx(250.0, rel=0.02)
    for path in ("crossing.x.track_noise_max", "still.jitter_x", "composite.dead_zone_needed"):
        assert both.value(path) == pytest.approx(full.value(path), rel=0.1, abs=0.05), path
    codes = [STEPS[code] for code in find_steps(bursts, Routine()).step if code >= 0]
    assert set(codes) == set(Routine().steps)


def test_a_clock_of_coarse_ticks_is_read_between_them() -> None:
    whole = performed("worn").recording
    ticks = replace(whole, t_us=whole.t_us // 15_625 * 15_625)
    both, full = measure_take(ticks), measure_take(whole)
    assert explain(both) == explain(full)
    assert both.crossing.x.passes == full.crossing.x.passes


@pytest.mark.parametrize(("together", "spread"), [(0.18, False), (0.22, True)])
def test_now_and_then_two_at_once_are_no_bursts(together: float, spread: bool) -> None:
    t_us = np.arange(1000, dtype=np.int64) * 4000
    at = np.linspace(10, 990, round(together * 999)).astype(int)
    t_us[at] = t_us[at - 1] + 99
    recording = only_times(t_us)
    assert (spread_out(recording) is not recording) == spread


@pytest.mark.parametrize(
    ("apart_us", "between_us", "spread"),
    [
        (399, 8000, True),
        (400, 8000, False),
        (125, 125, False),
        (300, 1510, True),
        (300, 1490, False),
    ],
)
def test_a_fast_device_does_not_send_in_bursts(
    apart_us: int, between_us: int, spread: bool
) -> None:
    """Its gaps would be closed, and a stick that was not heard of would have moved meanwhile."""
    at = np.arange(1000, dtype=np.int64)
    recording = only_times(at // 2 * between_us + at % 2 * apart_us)
    if apart_us == between_us:
        recording = only_times(at * apart_us)
    assert (spread_out(recording) is not recording) == spread


def test_a_burst_after_a_silence_was_made_at_its_end() -> None:
    """Spread over all of it, the stick would have moved while nothing was heard of it."""
    at = np.repeat(np.arange(1, 101) * 12_000, 3)
    at[150:] += 900_000
    made = spread_out(only_times(at.astype(np.int64))).t_us
    assert np.diff(made)[3:140].tolist() == [4000] * 137
    silence = np.diff(made)[149:152]
    assert silence[0] > 880_000
    assert silence[1:].max() <= 10_000


def test_a_single_burst_is_left_as_it_came() -> None:
    recording = only_times(np.full(50, 7_000, dtype=np.int64))
    assert spread_out(recording) is recording
    one = only_times(np.zeros(1, dtype=np.int64))
    assert spread_out(one) is one


def only_times(t_us: np.ndarray) -> Recording:
    raw = np.zeros((len(t_us), 2))
    return Recording(t_us, raw, TEN_BIT, np.full(len(t_us), NO_STEP, np.int8))


def test_each_report_twice_is_the_same_source() -> None:
    recording = performed("sound", rate=125.0).recording
    twice = Recording(
        np.repeat(recording.t_us, 2) + np.tile((0, 4000), len(recording.t_us)),
        np.repeat(recording.raw, 2, axis=0),
        recording.ranges,
        np.repeat(recording.step, 2),
    )
    assert pace_of(twice).twice == 2
    readings = measure_take(twice)
    assert readings.hidden == ()
    assert readings.recording.rate_hz == pytest.approx(125, abs=2)


def test_lost_reports_are_the_links() -> None:
    recording = performed("sound").recording
    rng = np.random.default_rng(3)
    keep = np.ones(len(recording.t_us), dtype=bool)
    for at in rng.integers(0, len(keep) - 40, 50):
        keep[at : at + 30] = False
    readings = measure_take(picked(recording, keep))
    (messages,) = [p.message for p in readings.problems if p.code == "lost-reports"]
    gaps = np.diff(recording.t[keep])
    lost = gaps[gaps > 0.05]
    assert messages.startswith(f"{len(lost)} times nothing came for")
    assert f", {100 * lost.sum() / recording.t[keep][-1]:.0f} % of the time in all." in messages
    assert readings.crossing.x.dead_spans == readings.crossing.y.dead_spans == ()
    assert explain(readings).try_first == "none"


def trembling(share: float, rate_hz: int = 100) -> tuple[np.ndarray, np.ndarray]:
    """Times, and two axes of which each reads as before in as large a share of the reports."""
    chance = np.random.default_rng(8)
    n = 3000
    moves = chance.random((n, 2)) >= share
    up = np.where(np.cumsum(moves, axis=0) % 2, 1.0, 0.0)
    return np.arange(n) / rate_hz, up


@pytest.mark.parametrize(("share", "change_only"), [(0.2, True), (0.05, False)])
def test_a_source_that_leaves_out_what_is_as_before_is_known_by_what_never_comes(
    share: float, change_only: bool
) -> None:
    """A twentieth of the reports were missing, of a stick that trembled on both axes alike: it was
    said to come unevenly, and nothing passed for health."""
    t, raw = trembling(share)
    news = np.append(True, (np.diff(raw, axis=0) != 0).any(axis=1))
    missing = np.diff(t[news]) > 0.015
    if not change_only:
        # As many reports lost anywhere: a link.
        gone = np.random.default_rng(1).random(len(t)) < 0.06
        news = ~gone
        missing = np.diff(t[news]) > 0.015
    assert missing.sum() > 100
    step = np.full(int(news.sum()), STEPS.index("rim"), np.int8)
    times = (t[news] * 1e6).astype(np.int64)
    recording = Recording(times, raw[news], (AxisRange(-100, 100),) * 2, step)
    pace = pace_of(recording)
    assert pace is not None
    assert pace.change_only == change_only


@pytest.mark.parametrize(("every", "change_only"), [(5, True), (2, False)])
def test_a_page_that_repeats_what_holds_now_and_then_leaves_the_rest_out(
    every: int, change_only: bool
) -> None:
    t, raw = trembling(0.25)
    news = np.append(True, (np.diff(raw, axis=0) != 0).any(axis=1))
    news |= np.arange(len(t)) % every == 0
    step = np.full(int(news.sum()), STEPS.index("rim"), np.int8)
    times = (t[news] * 1e6).astype(np.int64)
    pace = pace_of(Recording(times, raw[news], (AxisRange(-100, 100),) * 2, step))
    assert pace is not None
    assert pace.change_only == change_only


@pytest.mark.parametrize("slowly", [2, 5])
def test_a_worn_stick_behind_a_dead_zone_is_not_sound_where_its_source_reports_more_slowly(
    slowly: int,
) -> None:
    """From the first crossing on its passes were as before for too long in the zone, which was the
    link's: it was within every limit."""
    whole = performed("worn", bits=14, rate=500).recording
    r = np.hypot(*whole.u.T)[:, None]
    behind = whole.u * np.maximum(0, r - 8) * 100 / 92 / np.maximum(r, 1e-9)
    raw = np.round((np.clip(behind, -100, 100) + 100) / 200 * 4095)
    whole = replace(whole, raw=raw, ranges=(AxisRange(0, 4095),) * 2)
    begins = int(np.argmax(whole.step == STEPS.index("crossing-x")))
    at = np.append(np.arange(begins), np.arange(begins, len(raw), slowly))
    take = measure_take(picked(whole, at))
    assert [h.code for h in take.hidden] == ["built-in-dead-zone"]
    assert explain(take).try_first != "none"


@pytest.mark.parametrize(("news", "kept"), [(FEWEST_NEWS - 1, False), (FEWEST_NEWS, True)])
def test_how_often_a_source_reports_in_a_step_is_known_by_fifty_reports(
    news: int, kept: bool
) -> None:
    """Where it goes on at 12 ms a report instead of 4, one that says the same may be its own."""
    raw = np.column_stack((np.append(np.arange(news + 1), news), np.zeros(news + 2)))
    step = np.full(len(raw), STEPS.index("rim"), np.int8)
    recording = Recording(np.arange(len(raw)) * 12_000, raw, TEN_BIT, step)
    read = without_stale(recording, Pace(0.004, False))
    assert len(read.t_us) == len(raw) - (not kept)
