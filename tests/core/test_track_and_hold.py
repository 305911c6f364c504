"""Crossing, Hold and Turn against what was put into the stand-in: a wrong place on the track sends
somebody to clean the wrong housing."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core.built_in_zone import _dwelt_at_zero, _jump_at_zero, built_in_dead_zone
from hollow_pin.core.crossing import (
    BINS,
    CrossingResult,
    cross_talk,
    cross_talk_even,
    find_passes,
    measure_crossing,
)
from hollow_pin.core.dead_spans import dead_spans, jumps, u_dead_spans
from hollow_pin.core.hold import LIES_S, find_holds, measure_hold
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, NotUsable, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.core.take import measure_take
from hollow_pin.core.turn import measure_turn
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.perform import Performance
from hollow_pin.simulator.stick import Body, Converter, Module, Sensor, Stick
from sticks import performed_by, read_of, with_sensors

WAYS = (0, 90, 180, 270)
TRACK = Routine(steps=("crossing-x", "crossing-y", "hold"))


QUIET = Sensor(noise=0.1)


@cache
def ran(x: Sensor, y: Sensor = QUIET, bits: int = 12, rate: float = 250.0) -> Performance:
    return performed_by(with_sensors(x, y, bits, rate), 4, TRACK)


def read(x: Sensor, y: Sensor = QUIET, bits: int = 12) -> TakeReadings:
    return measure_take(ran(x, y, bits).recording)


@pytest.mark.parametrize("noise", [0.2, 0.8, 2.0])
def test_track_noise_is_the_noise_put_in(noise: float) -> None:
    readings = read(Sensor(noise=noise), Sensor(noise=2 * noise))
    kept = np.sqrt(1 - 0.09)
    assert readings.crossing.x.track_noise_median == pytest.approx(noise * kept, rel=0.1)
    assert readings.crossing.y.track_noise_median == pytest.approx(2 * noise * kept, rel=0.1)


def test_dirt_is_found_where_the_specks_lie_and_nowhere_on_the_clean_axis() -> None:
    dirty = Sensor(dirt=1.0, noise=0.15, grain=7)
    readings = read(dirty)
    specks = np.random.default_rng(7).uniform(-90, 90, 9)
    heights = np.random.default_rng(7)
    heights.uniform(-90, 90, 9)
    high = specks[np.abs(heights.uniform(-6, 6, 9)) > 4]
    spots = readings.crossing.x.rough_spots
    assert spots
    has_spot = [any(s.from_ - 6 <= at <= s.to + 6 for s in spots) for at in high if abs(at) < 80]
    assert np.mean(has_spot) >= 0.7
    assert readings.crossing.y.rough_spots == ()


@pytest.mark.parametrize(("at", "width"), [(-55.0, 6.0), (20.0, 4.0), (62.0, 10.0)])
def test_a_broken_place_on_the_track_is_found_where_it_is(at: float, width: float) -> None:
    readings = read(Sensor(noise=0.1, dead_at=at, dead_width=width))
    (span,) = readings.crossing.x.dead_spans
    assert (span.from_ + span.to) / 2 == pytest.approx(at, abs=1.0)
    assert span.to - span.from_ == pytest.approx(width, abs=1.5)
    assert span.passes >= 4
    assert readings.crossing.y.dead_spans == ()


def crossed(gaps: list[tuple[float, float]]) -> np.ndarray:
    """A pass over the whole travel that jumps over some of it: (at, width), %."""
    v = np.linspace(-100, 100, 1500)
    over = [(v > at - width / 2) & (v < at + width / 2) for at, width in gaps]
    return v[~np.any(over, axis=0)]


def test_what_two_passes_jump_by_chance_is_known_to_be_chance() -> None:
    """A loose contact jumps anywhere. How often two of its jumps fall on one place is no measure
    of it, and a repair must be neither praised nor blamed for it."""
    rng = np.random.default_rng(5)
    jumped = [
        jumps([crossed([(at, 4.0) for at in rng.uniform(-90, 90, 4)]) for _ in range(4)], 0.0)
        for _ in range(300)
    ]
    counts = np.array([len(dead_spans(j)) for j in jumped])
    assert np.mean([j.by_chance for j in jumped]) == pytest.approx(counts.mean(), rel=0.25)
    uncertain = np.array([u_dead_spans(j) for j in jumped])
    apart, u = counts[1:] - counts[:-1], np.hypot(uncertain[1:], uncertain[:-1])
    assert np.mean(np.abs(apart) <= 2 * u) >= 0.95


def test_a_place_that_most_passes_jump_is_no_chance() -> None:
    broken = jumps([crossed([(20.0, 8.0)]) for _ in range(4)], 0.0)
    assert len(dead_spans(broken)) == 1
    assert broken.by_chance == 0
    assert u_dead_spans(broken) < 0.2, "a repair of it must be seen"


@pytest.mark.parametrize("end", [-1, 1])
@pytest.mark.parametrize(("stops_at", "spans"), [(90.0, 0), (100.0, 1)])
def test_where_a_pass_was_thrown_and_did_not_go_it_jumps_over_nothing(
    stops_at: float, spans: int, end: int
) -> None:
    """Dirt throws a contact to the end of its range: “replace the module”, for a place that nobody
    went over. Who goes on to the end has leapt there."""
    way = np.arange(-90.0, 90.0 + 0.25, 0.25)
    thrown = np.concatenate((way[:-8], [100.0] * 3, way[-8:], [stops_at] * (stops_at > 90.0)))
    jumped = jumps([end * thrown, end * thrown[::-1]] * 2, 0.0)
    assert len(dead_spans(jumped)) == spans


def slow_source(at: list[float], width: float, back: int = 0) -> list[np.ndarray]:
    """A pass for each place, 1.3 % from sample to sample, that jumps over so much there. back: how
    often it goes back a little."""
    passes = []
    for i, middle in enumerate(at):
        v = np.linspace(-100, 100, 150)
        v = v[np.abs(v - middle) > width / 2]
        where = np.linspace(5, len(v) - 5, back).astype(int)
        v[where] = v[where - 1] - 0.1
        passes.append(v if i % 2 == 0 else v[::-1])
    return passes


AWAY = 500.0


@pytest.mark.parametrize(
    ("at", "counts"),
    [
        ([31.0, 31.0, 31.0, 31.0], 1),
        ([31.0, 31.0, 31.0, AWAY], 1),
        ([31.0, 31.0, AWAY, AWAY], 0),
        ([31.0, 31.0, 31.0], 1),
        ([31.0, 31.0], 0),
        ([31.0, -20.0, 60.0, -70.0], 0),
        ([31.0, 31.0, 31.0, AWAY, AWAY, AWAY], 0),
    ],
)
def test_a_place_that_is_little_wider_than_a_step_takes_most_of_the_passes(
    at: list[float], counts: int
) -> None:
    """By 60 reports a second a place of 7 % is no eight steps wide: it read as within every limit."""
    assert len(dead_spans(jumps(slow_source(at, 6.0), 0.0))) == counts
    assert len(dead_spans(jumps(slow_source(at, 2.0), 0.0))) == 0, (
        "as wide as a hand goes by itself"
    )


@pytest.mark.parametrize(("swallowed", "counts"), [(0.2, 1), (0.3, 0)])
def test_a_source_that_swallows_small_changes_makes_up_for_them_by_jumps(
    swallowed: float, counts: int
) -> None:
    """One jump of 2 % in a pass: of a kernel's filter, and a sound stick was too near its limit."""
    t, v = sweeps(2.4, 4)
    v = np.where(v > 30.0, np.minimum(v + 2.0, 100.0), v)
    track = measure_crossing("crossing-x", t, v, None, swallowed).readings
    assert len(track.dead_spans) == counts


@pytest.mark.parametrize(("back", "counts"), [(10, 1), (22, 0)])
def test_a_pass_that_trembles_shows_no_place_that_is_little_wider(back: int, counts: int) -> None:
    """Where it was is chance, and so is where it was not."""
    assert len(dead_spans(jumps(slow_source([31.0] * 4, 6.0, back), 0.0))) == counts


@pytest.mark.parametrize(("places", "counts"), [(3, 3), (7, 0)])
def test_passes_with_many_gaps_have_some_alike_by_chance(places: int, counts: int) -> None:
    """Of coarse steps through a kernel's filter every pass had twenty: a sound track was said to be
    broken from end to end."""
    v = np.linspace(-100, 100, 150)
    at = np.linspace(-80, 80, places)
    v = v[(np.abs(v[:, None] - at) > 2.6).all(axis=1)]
    passes = [v if i % 2 == 0 else v[::-1] for i in range(4)]
    assert len(dead_spans(jumps(passes, 0.0))) == counts


@pytest.mark.parametrize(("stride", "counts"), [(5, 1), (1, 0)])
def test_a_jump_that_a_filter_smears_is_one_all_the_same(stride: int, counts: int) -> None:
    v = np.linspace(-100, 100, 700)
    over = 8.0 / (1 + np.exp(-(np.arange(700) - 450) / 1.6))
    smeared = np.where(v < 20, v, v - 4.0) + over * (v > 0)
    passes = [smeared if i % 2 == 0 else smeared[::-1] for i in range(4)]
    assert len(dead_spans(jumps(passes, 0.0, None, stride))) == counts


def rough_beside(step: float, back: int) -> np.ndarray:
    """A pass that leaps from 20 % to 24 %, and so often back and over again; in the changes beside
    each leap it goes to and fro by `step`."""
    to_and_fro = np.tile((0.0, step), 6)
    turns = [20.0 - to_and_fro[::-1], 24.0 + to_and_fro]
    there = [turns[i % 2] for i in range(2 * back + 2)]
    before, after = np.arange(-100.0, 20.0 - step, 0.25), np.arange(24.0 + step, 100.0, 0.25)
    return np.concatenate([before, *there, after])


@pytest.mark.parametrize(
    ("step", "back", "counts"), [(1.3, 1, 1), (1.4, 1, 0), (3.9, 0, 1), (4.1, 0, 0)]
)
def test_where_it_goes_to_and_fro_as_far_a_gap_is_no_leap(
    step: float, back: int, counts: int
) -> None:
    """Where a track is dirty a pass is here and there by chance, and never at some places: such a
    module was to be replaced for them, and a swab would have done. A leap there and back goes three
    times as far as it goes anyway, one that is never undone goes farther."""
    passes = [rough_beside(step, back) for _ in range(4)]
    passes = [v if i % 2 == 0 else v[::-1] for i, v in enumerate(passes)]
    assert len(dead_spans(jumps(passes, 0.0))) == counts


@pytest.mark.parametrize(("turns", "counts"), [(2, 1), (3, 0)])
def test_how_far_it_goes_anyway_is_told_by_five_changes(turns: int, counts: int) -> None:
    """One spike beside a broken place does not hide it."""
    beside = 20.0 - np.resize((0.0, 4.1), turns + 1)[::-1]
    v = np.concatenate([np.arange(-100.0, beside[0], 0.25), beside, np.arange(24.0, 100.0, 0.25)])
    passes = [v if i % 2 == 0 else v[::-1] for i in range(4)]
    assert len(dead_spans(jumps(passes, 0.0))) == counts


def test_spikes_are_not_taken_for_dead_spans() -> None:
    """Random jumps meet at the same place by chance; a broken track does every time."""
    for grain in range(3, 7):
        assert read(Sensor(noise=0.2, dirt=1.0, grain=grain)).crossing.x.dead_spans == ()


def test_cross_talk_is_the_share_that_leaks() -> None:
    """The hand strays from the line too, so the share is found as the difference it makes."""
    without = read(Sensor(noise=0.1)).crossing.x.cross_talk
    leaking = read(Sensor(noise=0.1), Sensor(noise=0.1, cross=0.15)).crossing.x.cross_talk
    assert abs(leaking - 0.15 * 180) <= without + 1.0


LINE = np.linspace(-1.0, 1.0, BINS)


@pytest.mark.parametrize(
    ("along", "evenly"),
    [
        (10.0 * LINE, 20.0),
        (12.0 * LINE**2, 12.0),
        (9.0 * LINE**2 - 8.0 * LINE, 18.8),
        (10.0 * LINE + np.where(np.abs(LINE - 0.2) < 0.3, 40.0, 0.0), 20.0),
        (np.where(np.abs(LINE + 0.1) < 0.35, 25.0, 0.0), 0.0),
        (np.where((np.arange(BINS) >= 10) & (np.arange(BINS) < 29), 25.0, 0.0), 0.0),
        (np.where((np.arange(BINS) >= 10) & (np.arange(BINS) < 30), 25.0, 0.0), 25.0),
        (np.where(LINE > 0.4, 60.0, 0.0) + np.where(np.arange(BINS) % 9, 0.0, np.nan), 0.0),
    ],
)
def test_what_is_carried_along_goes_on_evenly(along: NDArray[np.float64], evenly: float) -> None:
    """Dirt under the other wiper, where a crossing leaves it, lifts it for a part of the way: “the
    magnet is tilted, replace the module” was likelier than the dirt."""
    passes = along + np.random.default_rng(1).normal(0, 0.3, (4, BINS))
    assert cross_talk_even(passes) == pytest.approx(evenly, abs=1.6)
    assert cross_talk_even(passes) <= cross_talk(passes)


@pytest.mark.parametrize("half", [3.0, 7.5])
def test_a_dead_zone_in_the_source_is_measured_and_hides_what_lies_inside(half: float) -> None:
    stick = with_sensors(Sensor(wear=2.0, noise=0.3), Sensor(noise=0.3), bits=10)
    stick = replace(stick, converter=replace(stick.converter, dead_zone=half))
    readings = read_of(stick, 3)
    assert readings.crossing.x.built_in_dead_zone == pytest.approx(half, abs=0.5)
    assert readings.crossing.x.dead_spans == (), "the zone is no broken track"
    hidden = readings.hidden_at("composite.dead_zone_needed")
    assert hidden is not None
    assert hidden.below == pytest.approx(half, abs=0.5)


def test_no_dead_zone_is_seen_where_there_is_none() -> None:
    for bits, rate in ((8, 250.0), (10, 60.0), (16, 500.0)):
        recording = ran(Sensor(noise=0.2), Sensor(noise=0.2), bits, rate).recording
        crossing = measure_take(recording).crossing
        assert (crossing.x.built_in_dead_zone, crossing.y.built_in_dead_zone) == (0.0, 0.0)


def test_sag_is_how_far_the_signal_truly_falls_in_three_seconds() -> None:
    p = ran(Sensor(noise=0.1, fade=15.0, fade_side=1))
    holds = measure_take(p.recording).hold
    right = next(h for h in holds if 60 < h.bearing < 120)
    t = p.recording.t
    inside = (t >= right.t_s) & (t <= right.end_s)
    clean, at = p.clean[inside, 0], t[inside]
    true = -3 * np.polyfit(at, clean, 1)[0]
    assert true > 5
    assert right.sag == pytest.approx(true, rel=0.15)
    others = [h.sag for h in holds if h is not right]
    assert max(map(abs, others)) < 0.5


def test_lost_contact_at_the_edge_is_counted() -> None:
    holds = read(Sensor(noise=0.1, dropouts=2.5, fade_side=-1)).hold
    left = next(h for h in holds if 240 < h.bearing < 300)
    assert left.dropouts >= 3
    assert sum(h.dropouts for h in holds) == left.dropouts


def test_four_holds_are_found_in_their_directions() -> None:
    holds = read(Sensor()).hold
    off = [
        abs((h.bearing - want + 180) % 360 - 180)
        for h, want in zip(holds, (0, 90, 180, 270), strict=True)
    ]
    assert max(off) < 20
    assert all(h.end_s - h.t_s > 1.5 for h in holds)


def toward_right(rho: np.ndarray) -> np.ndarray:
    return np.column_stack((rho, 0 * rho))


def smoothly(seconds: float, interval_s: float = 0.004) -> np.ndarray:
    """From 0 to 1 as a hand goes."""
    s = np.linspace(0, 1, max(2, round(seconds / interval_s)))
    return s**3 * (10 - 15 * s + 6 * s * s)


def toward(degrees: np.ndarray | float, far: np.ndarray | float = 100.0) -> np.ndarray:
    return np.column_stack((far * np.sin(np.radians(degrees)), far * np.cos(np.radians(degrees))))


def one_after_another(
    sides: tuple[float, ...], how: str, seconds: float, sag: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """Held for 3 s toward each side, at bearings, going from one straight to the next: round the edge,
    or as the crow flies. sag: how far the first falls back."""
    way = smoothly(seconds)
    back = np.linspace(0, sag, 750)
    parts = [
        toward(np.full(len(way), sides[0]), 100 * way),
        toward(np.full(750, sides[0]), 100 - back),
    ]
    for was, now in pairwise(sides):
        if how == "round":
            parts.append(toward(was + (now - was) * way))
        else:
            parts.append(parts[-1][-1] + np.outer(way, toward(now)[0] - parts[-1][-1]))
        parts.append(toward(np.full(750, now)))
    parts.append(toward(np.full(len(way), sides[-1]), 100 - 100 * way))
    p = np.concatenate(parts) + np.random.default_rng(3).normal(0, 0.1, (sum(map(len, parts)), 2))
    return np.arange(len(p)) * 0.004, p


@pytest.mark.parametrize("seconds", [0.15, 0.4, 1.5])
@pytest.mark.parametrize(
    ("sides", "how"),
    [
        ((90, 180, 270, 360), "round"),
        ((90, 180, 270, 360), "across"),
        ((90, 270, 360, 180), "across"),
    ],
)
def test_who_goes_from_one_side_to_the_next_has_held_each(
    sides: tuple[float, ...], how: str, seconds: float
) -> None:
    """It was one hold, that fell back by the whole way: the track fails there, replace the module."""
    t, p = one_after_another(sides, how, seconds)
    result = measure_hold(t, p)
    assert result.problems == ()
    assert [round(h.bearing / 10) * 10 % 360 for h in result.readings] == [b % 360 for b in sides]
    assert all(abs(h.sag) < 0.3 and h.dropouts == 0 and h.level > 99 for h in result.readings)
    first = measure_hold(*one_after_another(sides, how, seconds, sag=8.0)).readings[0]
    assert first.sag == pytest.approx(8, abs=2)
    assert first.dropouts == 0


def test_a_lever_that_is_thrown_from_end_to_end_has_held_both() -> None:
    t, p = one_after_another((90, 270, 90), "across", 0.2)
    high, low, again = measure_hold(t, p[:, :1]).readings
    assert [round(h.bearing) for h in (high, low, again)] == [90, 270, 90]
    assert all(abs(h.sag) < 0.3 and h.dropouts == 0 for h in (high, low, again))


@pytest.mark.parametrize(("apart", "count"), [(43.0, 1), (47.0, 2)])
def test_toward_one_side_is_within_half_a_right_angle(apart: float, count: int) -> None:
    t = np.arange(0, 6, 0.01)
    assert len(find_holds(t, toward(np.where(t < 3, 90.0, 90.0 + apart)))) == count


@pytest.mark.parametrize(("lasted", "count"), [(0.27, 1), (0.34, 2)])
def test_a_contact_that_jumps_to_the_other_end_has_not_let_go(lasted: float, count: int) -> None:
    t = np.arange(0, 6, 0.01)
    thrown = np.where((t > 3) & (t < 3 + lasted), -90.0, 90.0)
    assert len(find_holds(t, toward_right(thrown))) == count


@pytest.mark.parametrize("back_s", [0.3, 1.2, 2.0])
def test_a_hand_that_lets_it_back_slowly_drops_nothing(back_s: float) -> None:
    """It was a dropout, once a hold: the track fails there."""
    rho = np.concatenate((np.full(300, 95.0), 95 * (1 - smoothly(back_s, 0.01)), np.zeros(50)))
    (hold,) = measure_hold(np.arange(len(rho)) * 0.01, toward_right(rho)).readings
    assert (hold.dropouts, hold.sag) == (0, pytest.approx(0, abs=0.1))


@pytest.mark.parametrize(("falls", "dropped"), [(0.9, 1), (1.1, 0)])
def test_what_falls_and_stands_there_until_it_is_let_go_has_dropped(
    falls: float, dropped: int
) -> None:
    """By less than 1 % over 0.2 s it stands."""
    t = np.arange(0, 5, 0.01)
    rho = np.where(t < 3, 95.0, 70.0 - (t - 3) * falls * 5)
    (hold,) = measure_hold(t, toward_right(rho)).readings
    assert hold.dropouts == dropped


def test_a_short_gap_is_bridged_and_a_long_one_is_not() -> None:
    t = np.arange(0, 5, 0.004)
    rho = np.full(len(t), 95.0)
    rho[(t > 2.0) & (t < 2.25)] = 10
    assert len(find_holds(t, toward_right(rho))) == 1
    rho[(t > 2.0) & (t < 2.5)] = 10
    assert len(find_holds(t, toward_right(rho))) == 2


def test_a_hold_is_measured_without_its_push_and_its_release() -> None:
    """A quarter second at each end is the hand's, and would read as sag."""
    t = np.arange(0, 8, 0.01)
    rho = np.where((t > 1.995) & (t < 5.005), 95.0, 10.0)
    (held,) = find_holds(t, toward_right(rho))
    assert (t[held][0], t[held][-1]) == (pytest.approx(2.25), pytest.approx(4.75))
    for lasted, count in ((1.48, 0), (1.52, 1)):
        short = np.where((t > 1.995) & (t < 1.995 + lasted), 95.0, 10.0)
        assert len(find_holds(t, toward_right(short))) == count


@pytest.mark.parametrize(("push_s", "held_s", "count"), [(2.0, 1.35, 1), (2.0, 1.2, 0)])
def test_a_hold_begins_where_it_is_pushed_to(push_s: float, held_s: float, count: int) -> None:
    """A hand that took two seconds for the way out was a track that falls back at the edge: replace
    the module. From a tenth of a second after it is there, within 5 %."""
    t = np.arange(0, 8, 0.01)
    rho = np.where(t < 2 + push_s + held_s, np.clip((t - 2) * 95 / push_s, 0, 95), 0)
    holds = find_holds(t, toward_right(rho))
    assert len(holds) == count
    for held in holds:
        assert t[held][0] == pytest.approx(2 + push_s * 90 / 95 + LIES_S, abs=0.02)
        (hold,) = measure_hold(t, toward_right(rho)).readings
        assert (hold.dropouts, hold.sag) == (0, pytest.approx(0, abs=0.1))


def test_a_track_that_falls_back_at_once_was_there() -> None:
    t = np.arange(0, 8, 0.01)
    rho = np.where((t > 2) & (t < 5.5), 60 + 35 * np.exp(-(t - 2) / 1.5), 10.0)
    (hold,) = measure_hold(t, toward_right(rho)).readings
    assert hold.t_s == pytest.approx(2.25, abs=0.02)
    assert hold.sag > 15


@pytest.mark.parametrize(("far", "count"), [(39.9, 0), (40.1, 1)])
def test_a_hold_is_out_at_the_edge(far: float, count: int) -> None:
    t = np.arange(0, 8, 0.01)
    assert len(find_holds(t, toward_right(np.where((t > 2) & (t < 5), far, 10.0)))) == count


def test_what_only_goes_one_way_from_zero_has_no_zone_around_it() -> None:
    """A trigger's low end is no dead zone, however long it stays there."""
    there = np.concatenate([np.zeros(40), np.linspace(6, 100, 200)])
    v = np.concatenate([there, there[::-1]] * 2)
    passes = [slice(i * 240, (i + 1) * 240) for i in range(4)]
    assert _jump_at_zero([v[p] for p in passes], 0.1) == 0.0
    both = np.concatenate([-there[::-1], there])
    assert _jump_at_zero([both, both], 0.1) == 6.0


@pytest.mark.parametrize(("samples", "half"), [(25, 6.0), (24, 0.0)])
def test_a_jump_at_zero_is_wider_than_a_pass_goes_from_sample_to_sample(
    samples: int, half: float
) -> None:
    there = np.concatenate([np.zeros(20), np.linspace(6, 100, samples)])
    both = np.concatenate([-there[::-1], there])
    assert _jump_at_zero([both, both], 0.1) == half


def sweeps(seconds: float, count: int = 5, rate: float = 250.0) -> tuple[np.ndarray, np.ndarray]:
    n = int(seconds * rate)
    up = np.linspace(-100, 100, n)
    v = np.concatenate([up if i % 2 == 0 else up[::-1] for i in range(count)])
    return np.arange(len(v)) / rate, v


def test_every_movement_from_end_to_end_is_a_pass() -> None:
    t, v = sweeps(2.2)
    passes = find_passes(t, v)
    assert len(passes) == 5
    assert all(t[p.stop - 1] - t[p.start] == pytest.approx(2.2 * 0.9, abs=0.15) for p in passes)


@pytest.mark.parametrize(("seconds", "code"), [(1.0, "too-fast"), (0.0, "no-passes")])
def test_what_cannot_be_read_says_why(seconds: float, code: str) -> None:
    t, v = sweeps(seconds) if seconds else (np.arange(500) / 250, np.zeros(500))
    with pytest.raises(NotUsable) as refused:
        measure_crossing("crossing-x", t, v, None)
    assert refused.value.code == code
    with pytest.raises(NotUsable, match="held"):
        measure_hold(t, np.column_stack((v, v)) * 0.1)


@pytest.mark.parametrize(("far", "code"), [(39.9, "no-passes"), (40.1, "other-axis")])
def test_axes_that_are_swapped_are_said_to_be(far: float, code: str) -> None:
    t, v = sweeps(2.2)
    with pytest.raises(NotUsable) as refused:
        measure_crossing("crossing-x", t, np.zeros(len(t)), v * far / 100.0)
    assert refused.value.code == code


def hurried(slow: int, swift: int, half: float, twice: bool = False) -> CrossingResult:
    """Passes of two seconds, and swift ones of one, through a dead zone that is rescaled; each report
    twice over where it is asked for."""
    ways = [sweeps(2.2, 1)[1]] * slow + [sweeps(1.2, 1)[1]] * swift
    v = np.concatenate([w if i % 2 == 0 else w[::-1] for i, w in enumerate(ways)])
    v = np.sign(v) * np.maximum(0, np.abs(v) - half) * 100 / (100 - half)
    if twice:
        v = np.repeat(v[::4], 4)[: len(v)]
    return measure_crossing("crossing-x", np.arange(len(v)) / 250.0, v, None)


@pytest.mark.parametrize(("slow", "swift"), [(2, 0), (1, 1), (1, 3)])
def test_a_dead_zone_is_found_by_a_hand_that_is_in_a_hurry(slow: int, swift: int) -> None:
    """By a single pass that counted a worn stick behind it read as sound: the worst that can be
    said."""
    track = hurried(slow, swift, 8.0)
    assert track.sees_dead_zone
    assert track.readings.built_in_dead_zone == pytest.approx(8.0, abs=0.7)


def test_swift_passes_say_nothing_where_two_slow_ones_did() -> None:
    """They cross a zone in a few samples: its size would go by a hand that got impatient."""
    twice, then_swift = hurried(2, 0, 5.0), hurried(2, 6, 5.0)
    assert twice.readings.built_in_dead_zone == then_swift.readings.built_in_dead_zone


def test_one_pass_does_not_tell_a_dead_zone_from_none() -> None:
    track = hurried(1, 0, 8.0)
    assert (track.sees_dead_zone, track.readings.built_in_dead_zone) == (False, 0.0)


def test_a_coarse_step_through_the_middle_is_no_dead_zone() -> None:
    """Each report twice, far apart: a sound stick was said to be hidden below it."""
    for slow, swift in ((1, 0), (1, 3), (2, 0)):
        assert hurried(slow, swift, 0.0, twice=True).readings.built_in_dead_zone == 0.0


@pytest.mark.parametrize(("back", "leaps"), [(3.2, True), (3.3, False)])
@pytest.mark.parametrize(
    ("after", "late", "looked_at"),
    [(False, 0, True), (False, 24, True), (False, 34, False), (True, 20, True), (True, 34, False)],
)
def test_what_goes_back_as_far_as_it_leaps_is_no_dead_place(
    back: float, leaps: bool, after: bool, late: int, looked_at: bool
) -> None:
    """Dirt behind a device's average goes down and up again: a module was replaced for that."""
    low, high = np.arange(-90.0, 20.0, 0.25), np.arange(23.0, 90.0, 0.25)
    dip = -back * np.array([0.35, 0.7, 1.0, 0.7, 0.35])
    if after:
        v = np.concatenate((low, high[: late + 1], high[late] + dip, high[late + 1 :]))
    else:
        cut = len(low) - late
        v = np.concatenate((low[:cut], low[cut - 1] + dip, low[cut:], high))
    spans = dead_spans(jumps([v, v[::-1]] * 2, 0.0, around=30))
    assert bool(spans) == (leaps or not looked_at)


@pytest.mark.parametrize(("rate", "late", "leaps"), [(250, 8, False), (250, 14, True)])
@pytest.mark.parametrize("slower", [1, 2])
def test_a_dip_belongs_to_a_leap_within_60_ms(
    rate: int, late: int, leaps: bool, slower: int
) -> None:
    """By the clock, whatever the rate: a hand that trembles a moment before is no dirt."""
    low, high = np.arange(-90.0, 20.0, 0.25), np.arange(23.0, 90.0, 0.25)
    cut = len(low) - late
    dip = -6.0 * np.array([0.35, 0.7, 1.0, 0.7, 0.35])
    way = np.concatenate((low[:cut], low[cut - 1] + dip, low[cut:], high))
    way = np.repeat(way, slower) if slower > 1 else way
    v = np.concatenate([way, way[::-1]] * 2)
    track = measure_crossing("crossing-x", np.arange(len(v)) / (rate * slower), v, None)
    assert bool(track.readings.dead_spans) == leaps


def test_mirroring_an_axis_mirrors_its_track() -> None:
    p = ran(Sensor(noise=0.1, dead_at=40.0, dead_width=6.0))
    part = p.recording.attempts("crossing-x")[-1]
    t, u = p.recording.t[part], p.recording.u[part]
    right = measure_crossing("crossing-x", t, u[:, 0], u[:, 1]).readings
    left = measure_crossing("crossing-x", t, -u[:, 0], u[:, 1]).readings
    (a,), (b,) = right.dead_spans, left.dead_spans
    assert (b.from_, b.to) == pytest.approx((-a.to, -a.from_))
    assert left.track_noise_median == pytest.approx(right.track_noise_median, rel=0.05)
    assert left.cross_talk == pytest.approx(right.cross_talk, abs=0.3)


def through_a_zone(half: float, moved: float, inside: float, passes: int = 4) -> Recording:
    """Passes that stay at zero over a travel of 2 · half %, and are lifted beyond it by `moved`; of
    the reports in the zone a share `inside` is at zero to the last digit, the others a little off."""
    t, v = sweeps(2.4, passes)
    within = np.abs(v) < half
    lifted = np.sign(v) * (moved + (np.abs(v) - half) * (100 - moved) / (100 - half))
    off = np.zeros(len(v))
    off[within] = np.where(37 * np.arange(within.sum()) % 100 < 100 * inside, 0.0, 0.4)
    x = np.where(within, off, lifted)
    step = np.full(len(t), STEPS.index("crossing-x"), np.int8)
    raw = np.column_stack((x, np.zeros(len(t))))
    return Recording((t * 1e6).astype(np.int64), raw, (AxisRange(-100, 100),) * 2, step)


def zone_of(recording: Recording) -> float:
    x = recording.u[:, 0]
    passes = find_passes(recording.t, x)
    return built_in_dead_zone(recording.t, x, passes, 0.05)


@pytest.mark.parametrize(("inside", "counts"), [(0.65, False), (0.75, True)])
def test_a_stick_that_is_at_zero_nearly_throughout_is_in_a_dead_zone(
    inside: float, counts: bool
) -> None:
    """A contact that drops to zero does so anywhere, and is off it in between."""
    zone = zone_of(through_a_zone(6.0, 0.0, inside))
    assert zone == (pytest.approx(6.0 * inside, abs=0.4) if counts else 0.0)


@pytest.mark.parametrize(("off", "told"), [(0.0, True), (7.3, True), (7.6, False)])
def test_a_contact_that_drops_to_zero_beside_its_middle_is_no_dead_zone(
    off: float, told: bool
) -> None:
    """Of loose joints one in nine had “a dead zone in the source”, and what mended them was hidden."""
    t, v = sweeps(2.4, 4)
    beside = off * np.resize((1, 1, -1, -1), 4)[np.minimum(np.arange(len(v)) // int(2.4 * 250), 3)]
    x = np.where(np.abs(v - beside) < 12.0, 0.0, v)
    zone = _dwelt_at_zero(t, x, find_passes(t, x), 0.05, 0.0)
    assert zone == (pytest.approx(12.0, abs=0.6) if told else 0.0)


@pytest.mark.parametrize("lost_s", [0.2, 0.0])
def test_what_a_link_loses_beside_zero_was_not_spent_there(lost_s: float) -> None:
    """Passes whose reports stopped for a fifth of a second at zero had a dead zone of 3 %."""
    t, v = sweeps(2.4, 4)
    x = np.where(np.abs(v) < 0.8, 0.0, np.round(v / 0.78) * 0.78)
    there = np.ones(len(t), dtype=bool)
    for last in np.flatnonzero((x[:-1] == 0.0) & (x[1:] != 0.0))[:3]:
        there &= ~((t > t[last]) & (t <= t[last] + lost_s))
    t, x = t[there], x[there]
    assert built_in_dead_zone(t, x, find_passes(t, x), 0.78) == 0.0


def hanging(stands: tuple[float, ...], swallowed: float = 0.0, step: float = 0.78) -> float:
    """The dead zone that is told of passes that hang in the middle for 12 % of their way, each at one
    value, by a coarse source."""
    t, v = sweeps(2.4, len(stands))
    of = np.minimum(np.arange(len(v)) // int(2.4 * 250), len(stands) - 1)
    x = np.where(np.abs(v) < 6, 0.0, np.sign(v) * (np.abs(v) - 6) * 100 / 94)
    x = np.where(np.abs(v) < 6, np.array(stands)[of], np.round(x / step) * step)
    return built_in_dead_zone(t, x, find_passes(t, x), step, swallowed)


@pytest.mark.parametrize(
    ("stands", "swallowed", "told"),
    [
        ((0.0,) * 4, 0.0, True),
        ((0.0, 0.0, 0.0, 0.78), 0.0, False),
        ((0.0, 0.0, 0.0, 0.78), 0.1, True),
        ((0.0, 0.0, 0.0, 0.0, 0.78), 0.0, True),
        ((0.78, -0.78) * 2, 0.0, False),
        ((1.1,) * 4, 0.0, False),
        ((1.1,) * 4, 0.1, True),
    ],
)
def test_a_stick_that_hangs_in_its_middle_under_a_soft_finger_is_in_no_dead_zone(
    stands: tuple[float, ...], swallowed: float, told: bool
) -> None:
    """A strong spring holds a stick where friction leaves it until a finger has gone on: here on the
    way right, and there on the way left. A sound one was said to be hidden by its source."""
    assert bool(hanging(stands, swallowed)) == told


@pytest.mark.parametrize(("at", "told"), [(1.45, True), (1.55, False)])
def test_a_source_says_last_what_lies_as_far_from_zero_as_it_swallows(
    at: float, told: bool
) -> None:
    """A device that waits for a whole per cent stood farther from zero than that, and what is behind
    its dead zone was within every limit."""
    assert bool(hanging((at, -at) * 2, swallowed=1.0, step=0.05)) == told


@pytest.mark.parametrize(("apart", "told"), [(0.09, True), (0.11, False)])
def test_passes_stand_at_one_place_where_no_code_is_zero_itself(apart: float, told: bool) -> None:
    """What is smoothed comes to zero from either side, and to either of two codes: a worn stick behind
    that was within every limit."""
    assert bool(hanging((apart / 2, -apart / 2) * 2, step=0.05)) == told


@pytest.mark.parametrize(
    ("halves", "told"),
    [
        ((6, 6, 0.8, 0.8), True),
        ((6, 0.8, 0.8, 0.8), False),
        ((6, 0.8), False),
        ((6, 6, 6, 0.8, 0.8, 0.8, 0.8), True),
        ((6, 6, 0.8, 0.8, 0.8, 0.8, 0.8), False),
    ],
)
def test_passes_beside_the_middle_of_a_round_dead_zone_do_not_hide_it(
    halves: tuple[float, ...], told: bool
) -> None:
    """A hand strays, and a worn contact too: half of its passes went past the middle, and a worn stick
    was within every limit. One that stops there once makes no dead zone."""
    t, v = sweeps(2.4, len(halves))
    half = np.array(halves)[np.minimum(np.arange(len(v)) // int(2.4 * 250), len(halves) - 1)]
    x = np.where(np.abs(v) < half, 0.0, np.sign(v) * (np.abs(v) - half) * 100 / (100 - half))
    x = np.round(x / 0.78) * 0.78 - np.where(half == 6, 0.0, 0.78)
    assert bool(built_in_dead_zone(t, x, find_passes(t, x), 0.78)) == told


@pytest.mark.parametrize("back", [15.0, 25.0])
def test_a_hand_that_goes_to_and_fro_about_the_middle_does_not_hide_a_dead_zone(
    back: float,
) -> None:
    """Its passes were at zero twice, and a worn stick was within every limit."""
    to = np.arange(-100.0, 0.0, 0.3)
    fro, on = np.arange(0.0, -back, -0.3), np.arange(-back, 100.0, 0.3)
    one = np.concatenate((to, fro, on))
    v = np.concatenate((one, -one, one, -one))
    v = np.sign(v) * np.maximum(np.abs(v) - 8.0, 0.0) * 100 / 92
    t = np.arange(len(v)) / 250
    assert built_in_dead_zone(t, v, find_passes(t, v), 0.05) == pytest.approx(8.0, abs=2.0)


@pytest.mark.parametrize(("back", "stays"), [(9.5, 2), (10.3, 2), (11.0, 1)])
def test_a_stay_in_a_dead_zone_ends_two_steps_beside_it_and_not_for_a_moment(
    back: float, stays: int
) -> None:
    """By 2 % for 0.06 s, at 25 % a second: what trembles at its edge is one stay, all told."""
    to, fro = np.arange(-100.0, 0.0, 0.1), np.arange(0.0, -back, -0.1)
    one = np.concatenate((to, fro, np.arange(-back, 100.0, 0.1)))
    v = np.concatenate((one, -one, one, -one))
    v = np.sign(v) * np.maximum(np.abs(v) - 8.0, 0.0) * 100 / 92
    t = np.arange(len(v)) / 250
    zone = built_in_dead_zone(t, v, find_passes(t, v), 0.05)
    assert zone == pytest.approx(7.5 * stays, abs=1.0)


@pytest.mark.parametrize(
    ("moved", "size"),
    [(0.0, 6.0), (4.4, 6.0), (4.9, 4.9), (6.0, 6.0), (7.6, 7.7), (8.2, 6.0)],
)
def test_the_jump_at_its_edge_counts_where_it_is_as_wide_as_the_travel(
    moved: float, size: float
) -> None:
    """Else what comes out is rescaled or lifted, and the jump is no measure of what is hidden."""
    assert zone_of(through_a_zone(6.0, moved, 1.0)) == pytest.approx(size, abs=0.25)


# A paddle


def paddle(x: Sensor, bits: int = 8, rate: float = 60.0) -> TakeReadings:
    stick = Stick(
        Body(axes=1, spring_hz=0.0),
        Module(x=x, y=Sensor(noise=0.0)),
        converter=Converter(bits, rate),
    )
    return read_of(stick, 2)


def test_a_paddle_is_measured_over_its_travel_and_at_three_places() -> None:
    turn = paddle(Sensor(noise=1.2, gain_plus=0.9)).turn
    assert turn.passes >= 4
    assert set(turn.rests) == {"low", "middle", "high"}
    assert turn.reach_high == pytest.approx(90, abs=1.5)
    assert turn.reach_low == pytest.approx(100, abs=1.5)
    for rest in turn.rests.values():
        assert rest.jitter_x == pytest.approx(1.2, rel=0.25)
    assert turn.low.rest_x < -40 < turn.middle.rest_x < 40 < turn.high.rest_x


def test_the_places_at_which_a_paddle_was_never_left_alone_are_named() -> None:
    """Else its jitter there would be taken for none at all."""
    rng = np.random.default_rng(2)
    there = np.linspace(-98.0, 98.0, 250)
    swept = np.concatenate([there, there[::-1]] * 3)
    held = np.concatenate([np.full(800, -97.0), there, np.full(800, 97.0)])
    v = np.concatenate([swept, held]) + rng.normal(0, 0.1, len(swept) + len(held))
    result = measure_turn(np.arange(len(v)) / 125.0, v[:, None])
    assert set(result.readings.rests) == {"low", "high"}
    (messages,) = [p.message for p in result.problems if p.code == "rests"]
    assert messages.startswith("it was not left alone for 5 s at the middle: ")


def test_a_paddles_broken_place_is_found() -> None:
    (span,) = paddle(
        Sensor(noise=0.3, dead_at=-30, dead_width=9), bits=10, rate=125
    ).turn.dead_spans
    assert span.from_ < -30 < span.to


def test_a_paddle_is_spoken_of_without_a_centre() -> None:
    from hollow_pin.core.summary import explain

    stick = fresh_stick("potentiometer", "round", 8, 60, "dirty", 5, axes=1, sprung=False)
    meaning = explain(read_of(stick, 3))
    assert meaning.sentence.startswith("Left alone, it trembles")
    assert "dead zone" not in meaning.sentence
    assert meaning.try_first == "cleaned"
