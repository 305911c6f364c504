"""A place that the track does not report is named whatever the source, and a link that was silent is
not: the one costs a module, the other a look at the cable."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core import standstill
from hollow_pin.core.crossing import measure_crossing
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.standstill import (
    LEAP_LEAST,
    SAME_PLACE,
    STOOD,
    Standstills,
    find_standstills,
)
from hollow_pin.core.take import measure_take

HZ = 125.0
PASS_S = 2.8


def passes_of(
    gaps: list[list[tuple[float, float]]], trembles: bool = False, leaves_out: bool = False
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times, the axis and the other one, of passes to and fro at an even pace with half a second at
    each end: while a pass is between two places it says what it said before. trembles: the other axis
    goes on reporting. leaves_out: nothing is reported meanwhile."""
    n, wait = int(PASS_S * HZ), int(0.5 * HZ)
    axis = [np.full(wait, -100.0)]
    for i, places in enumerate(gaps):
        v = np.linspace(-100.0, 100.0, n) * (1 if i % 2 == 0 else -1)
        for low, high in places:
            inside = (v > low) & (v < high)
            axis_before = low if i % 2 == 0 else high
            v[inside] = np.nan if leaves_out else axis_before
        axis += [v, np.full(wait, 100.0 if i % 2 == 0 else -100.0)]
    v = np.concatenate(axis)
    t = np.arange(len(v)) / HZ
    other = np.where(np.arange(len(v)) % 2, 0.4, -0.4) if trembles else np.zeros(len(v))
    known = np.isfinite(v)
    return t[known], v[known], other[known]


def found(*args: object, **how: bool) -> tuple[list[Standstills], tuple[np.ndarray, np.ndarray]]:
    t, v, other = passes_of(*args, **how)  # type: ignore[arg-type]
    n, wait = int(PASS_S * HZ), int(0.5 * HZ)
    starts = [wait + i * (n + wait) for i in range(len(args[0]))]  # type: ignore[arg-type]
    parts = [slice(s - 1, s + n + 1) for s in starts]
    return find_standstills(t, v, other, parts, 1 / HZ), (t, v)


DEAD = (20.0, 26.0)


@pytest.mark.parametrize(
    ("jumping", "counts"), [([1, 1, 1, 1], 4), ([1, 1, 1, 0], 3), ([1, 1, 0, 0], 0), ([1, 1], 2)]
)
def test_a_place_is_the_tracks_where_most_passes_stand_still_before_it(
    jumping: list[int], counts: int
) -> None:
    stood, _ = found([[DEAD] if jumps else [] for jumps in jumping])
    assert sum(len(s.places) for s in stood) == counts
    assert sum(len(s.silent) for s in stood) == (0 if counts else 2)


@pytest.mark.parametrize(("elsewhere", "counts"), [(0, 2), (1, 2), (2, 0)])
def test_where_a_pass_goes_on_from_everywhere_two_share_some_by_chance(
    elsewhere: int, counts: int
) -> None:
    """Of a link that is late now and then, each pass stood still a dozen times: a lever was to be
    replaced for two places of three."""
    other = [[(-70.0, -64.0), (50.0, 56.0)], [(-50.0, -44.0), (70.0, 76.0)]]
    stood, _ = found([[DEAD, *places[:elsewhere]] for places in other])
    assert sum(len(s.places) for s in stood) == counts


@pytest.mark.parametrize(("apart", "same"), [(SAME_PLACE - 0.1, True), (SAME_PLACE + 1.0, False)])
def test_it_is_the_same_place_where_both_its_edges_lie_together(apart: float, same: bool) -> None:
    low, high = DEAD
    stood, _ = found([[DEAD], [(low + apart, high + apart)]])
    assert sum(len(s.places) for s in stood) == (2 if same else 0)


def test_a_silence_of_the_link_is_no_place_and_no_noise() -> None:
    """Each pass loses something else; nothing of it is the track's."""
    lost = [[(-60.0, -45.0), (10.0, 22.0)], [(30.0, 50.0)], [(-20.0, -5.0)], [(60.0, 78.0)]]
    for leaves_out in (False, True):
        t, v, other = passes_of(lost, leaves_out=leaves_out)
        readings = measure_crossing("crossing-x", t, v, other).readings
        assert readings.dead_spans == ()
        assert readings.rough_spots == ()


def test_a_dead_place_is_named_through_the_silence_that_it_makes() -> None:
    """By a browser a dead place is a silence, and read so it would be the link's: a module that has to
    be replaced would be called sound."""
    for leaves_out in (False, True):
        t, v, other = passes_of([[DEAD]] * 4, leaves_out=leaves_out)
        (span,) = measure_crossing("crossing-x", t, v, other).readings.dead_spans
        assert (span.from_, span.to) == (pytest.approx(20, abs=1), pytest.approx(26, abs=1))
        assert span.passes == 4


def test_what_stands_still_while_the_other_axis_speaks_is_the_contact() -> None:
    """Dirt holds a value too, here and there: that the source went on is seen by the other axis."""
    lost = [[(-60.0, -45.0)], [(30.0, 50.0)], [], []]
    t, v, other = passes_of(lost, trembles=True)
    readings = measure_crossing("crossing-x", t, v, other).readings
    assert readings.rough_spots != ()
    stood, _ = found(lost, trembles=True)
    assert all(len(s.silent) == 0 for s in stood)


@pytest.mark.parametrize(("wide", "counts"), [(LEAP_LEAST + 1.8, 1), (LEAP_LEAST - 0.2, 0)])
def test_what_a_pass_goes_by_itself_is_no_leap(wide: float, counts: int) -> None:
    stood, _ = found([[(20.0, 20.0 + wide)], []])
    assert sum(len(s.silent) for s in stood) == counts


@pytest.mark.parametrize(("samples", "counts"), [(STOOD + 1, 1), (STOOD, 0)])
def test_a_leap_without_a_stand_before_it_is_no_silence(samples: int, counts: int) -> None:
    """A contact that lets go for an instant leaps at once."""
    v = np.linspace(-100.0, 100.0, 350)
    v[200:] += 1.0
    v[200 - samples : 200] = v[200 - samples]
    t = np.arange(350) / HZ
    (stood,) = find_standstills(t, v, np.zeros(350), [slice(0, 350)], 1 / HZ)
    assert len(stood.silent) == counts


@pytest.mark.parametrize(("by", "counts"), [(-0.1, 0), (0.1, 1), (1.5, 1), (2.0, 0)])
def test_a_leap_that_no_movement_explains_is_no_silence(by: float, counts: int) -> None:
    """Three samples at rest carry a slow hand 1.7 % along, and not twice as far."""
    v = np.linspace(-100.0, 100.0, 350)
    v[197:200] = v[197]
    v[200:] += by
    t = np.arange(350) / HZ
    (stood,) = find_standstills(t, v, np.zeros(350), [slice(0, 350)], 1 / HZ)
    assert len(stood.silent) == counts


@pytest.mark.parametrize(("by", "counts"), [(4.6, 1), (5.4, 0)])
def test_a_silence_carries_a_hand_no_farther_than_hands_go(by: float, counts: int) -> None:
    """Three reports are missing, and it went on as far as in three times as long, or farther: what is
    missing at every other frame must not cover a dead place."""
    v = np.linspace(-100.0, 100.0, 350)
    v[200:] += by
    t = np.arange(350) / HZ
    keep = np.ones(350, dtype=bool)
    keep[197:200] = False
    (stood,) = find_standstills(t[keep], v[keep], np.zeros(347), [slice(0, 347)], 1 / HZ)
    assert len(stood.silent) == counts


def test_a_place_that_is_stood_before_one_way_and_not_the_other_is_the_tracks() -> None:
    """Up, a contact holds what it read last and leaps; down, it leaps at once: half of the passes
    looked like a silence of the link."""
    t, v, other = passes_of([[DEAD], [], [DEAD], []])
    n, wait = int(PASS_S * HZ), int(0.5 * HZ)
    for i in (1, 3):
        part = slice(wait + i * (n + wait), wait + i * (n + wait) + n)
        v[part] = np.where((v[part] > DEAD[0]) & (v[part] < DEAD[1]), DEAD[0], v[part])
    (span,) = measure_crossing("crossing-x", t, v, other).readings.dead_spans
    assert (span.from_, span.to) == (pytest.approx(20, abs=1), pytest.approx(26, abs=1))


@pytest.mark.parametrize(("most", "counts"), [(1, 4), (0, 0)])
def test_where_a_pass_stands_still_all_the_time_no_place_is_told(
    monkeypatch: pytest.MonkeyPatch, most: int, counts: int
) -> None:
    """All of one pass against all of another: an hour's would not fit into memory."""
    monkeypatch.setattr(standstill, "MOST", most)
    stood, _ = found([[DEAD]] * 4)
    assert sum(len(s.places) for s in stood) == counts


def test_a_pass_that_begins_in_a_silence_is_not_rough() -> None:
    """It lay at its end when the link fell silent, and was under way when it spoke again."""
    t, v, other = passes_of([[], [], [], []])
    first = int(0.5 * HZ)
    v[first : first + 20] = -100.0
    readings = measure_crossing("crossing-x", t, v, other).readings
    assert readings.rough_spots == ()


def test_a_dead_zone_that_a_pass_stands_still_in_is_no_dead_place() -> None:
    """Its middle is the converter's value next to zero: for a firmware's dead zone a module would be
    replaced."""
    t, v, other = passes_of([[]] * 4)
    for low in (-9.0, -1.0):
        x = np.where((v > low) & (v < 9.0), 0.1, v)
        readings = measure_crossing("crossing-x", t, x, other).readings
        assert readings.built_in_dead_zone == pytest.approx((9.0 - low) / 2, abs=1.0)
        assert readings.dead_spans == ()


def test_a_browser_shows_a_dead_place_as_a_whole_log_does() -> None:
    t, v, other = passes_of([[DEAD]] * 4)
    raw = np.round((np.column_stack((v, other)) + 100) / 200 * 255)
    news = np.append(True, (raw[1:] != raw[:-1]).any(axis=1))
    for keep in (np.ones(len(t), bool), news):
        step = np.full(int(keep.sum()), STEPS.index("crossing-x"), np.int8)
        times = (t[keep] * 1e6).astype(np.int64)
        take = measure_take(Recording(times, raw[keep], (AxisRange(0, 255),) * 2, step))
        assert len(take.crossing.x.dead_spans) == 1


def filtered_passes(reaches_by: list[float], to: float = 27.0) -> list[Standstills]:
    """Passes upward of one-per-cent steps that stand at 20 % and then leap to where they go on, in
    parts: the first by so much of the way there, as the device's filter was caught by its clock."""
    passes, starts, v = 6, [], [-100.0]
    for i in range(passes):
        up = np.arange(-100.0, 21.0)
        over = [20.0 + reaches_by[i % len(reaches_by)] * (to - 20.0)]
        starts.append(len(v) - 1)
        v += [*up, *[20.0] * 8, *over, *np.arange(to, 101.0), *[-100.0] * 60]
    values = np.array(v)
    parts = [slice(s + 1, s + 1 + 121 + 8 + 1 + int(101 - to)) for s in starts]
    return find_standstills(np.arange(len(values)) / HZ, values, None, parts, 1 / HZ)


@pytest.mark.parametrize(
    ("reaches_by", "counts"),
    [([1.0], 6), ([0.55, 0.45, 0.3, 0.5, 1.0, 0.5], 6), ([0.2], 6)],
)
def test_a_leap_that_a_filter_takes_in_two_is_one(reaches_by: list[float], counts: int) -> None:
    """Each pass went over another part of it by another share: a dead place of 7 % by a device of
    125 Hz and eight bits was “every reading taken is within its limit”."""
    stood = filtered_passes(reaches_by)
    assert sum(len(s.places) for s in stood) == counts
    for low, high in np.vstack([s.places for s in stood]):
        assert (low, high) == (pytest.approx(20.0, abs=1.5), pytest.approx(27.0, abs=1.5))


@pytest.mark.parametrize(
    ("steps", "most", "on"),
    [
        ([1.0, 4.0, 3.1, 1.0], 1, [1, 1, 0, 0]),
        ([1.0, 4.0, 3.1, 1.0], 2, [2, 1, 0, 0]),
        ([1.0, 4.0, 3.0, 1.0], 2, [1, 0, 0, 0]),
        ([1.0, 4.0, -4.0, 1.0], 2, [1, 0, 0, 0]),
        ([4.0, 4.0], 5, [1, 0]),
        ([4.0], 2, [0]),
    ],
)
def test_what_is_left_of_a_leap_is_a_leap_and_goes_on(
    steps: list[float], most: int, on: list[int]
) -> None:
    """Else a pass that merely goes on would belong to what it leaps over, or one that comes back."""
    assert standstill._goes_on(np.array(steps), 3.0, most).tolist() == on


@pytest.mark.parametrize(("parts", "to"), [(2, 28.0), (3, 32.0), (4, 32.0)])
def test_a_filter_takes_a_fiftieth_of_a_second_over_a_leap_and_no_longer(
    parts: int, to: float
) -> None:
    """At 125 Hz that is two samples more: who goes on leaping has been moved fast."""
    up = [*np.arange(-100.0, 21.0), *[20.0] * 8, *(20.0 + 4.0 * np.arange(1, parts + 1))]
    one = np.array([*up, *np.arange(up[-1] + 1.0, 101.0)])
    v = np.concatenate([np.append(one, [-100.0] * 60)] * 4)
    starts = [i * (len(one) + 60) for i in range(4)]
    t = np.arange(len(v)) / HZ
    stood = find_standstills(t, v, None, [slice(s, s + len(one)) for s in starts], 1 / HZ)
    assert [s.places.tolist() for s in stood] == [[[20.0, to]]] * 4
