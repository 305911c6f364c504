"""A loose joint is told from dirt, wherever the stick is; what jumped is left out of the rest."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy import signal

from hollow_pin.core.comparison import compare
from hollow_pin.core.hold import held_min
from hollow_pin.core.joint import Joint, find_jumps, moved_by_hand, u_joint, without_jumps
from hollow_pin.core.leaps import EDGE_S, LONGEST_S, MOST_STEPS, NEAR
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.take import measure_take
from sticks import HERE, performed, readings_of, transformed

HZ = 250


def still(x: np.ndarray, rate: float = HZ) -> Recording:
    t = (np.arange(len(x)) * 1e6 / rate).astype(np.int64)
    raw = np.column_stack((x, np.zeros(len(x))))
    step = np.full(len(x), STEPS.index("still"), np.int8)
    return Recording(t, raw, (AxisRange(-100, 100),) * 2, step)


def jumping(to: float, samples: int, at: float = 4.0, back: float | None = None) -> Recording:
    x = np.full(10 * HZ, at) + np.tile((0.0, 0.1), 5 * HZ)
    x[1000 : 1000 + samples] = to
    if back is not None:
        x[1000 + samples :] = back
    return still(x)


@pytest.mark.parametrize(
    ("to", "samples", "counts"),
    [
        (100, 1, True),
        (-100, 30, True),
        (98.6, 10, True),
        (98.4, 10, False),
        (60, 10, False),
        (100, int(LONGEST_S * HZ), True),
        (100, int(LONGEST_S * HZ) + 1, False),
    ],
)
def test_a_jump_is_to_an_end_and_soon_back(to: float, samples: int, counts: bool) -> None:
    joint, inside, _ = find_jumps(jumping(to, samples))
    assert joint.jumps == int(counts)
    assert int(inside.sum()) == (samples if counts else 0)
    if counts:
        assert joint.jump[0].t_s == pytest.approx(4.0)
        assert joint.jump[0].to == pytest.approx(to)


def test_a_jump_to_the_middle_shows_only_from_afar() -> None:
    assert find_jumps(jumping(0, 10, at=80.0))[0].jumps == 1
    assert find_jumps(jumping(0, 10, at=15.2))[0].jumps == 1
    assert find_jumps(jumping(0, 10, at=14.8))[0].jumps == 0


def known(
    to: float = 0.0,
    others: int = 3,
    back: float = 9.0,
    moved: float = 0.0,
    at_s: float = -0.09,
    twice: bool = False,
) -> Recording:
    """An axis that rests at 9 %, jumps to its end so often, and once by a little to another place and
    back. moved: by how much farther off it lies for a moment, so long before it or after it; twice:
    another jump to its end is just over by then."""
    x = np.full(10 * HZ, 9.0) + np.tile((0.0, 0.1), 5 * HZ)
    for i in range(others):
        x[300 + 200 * i : 310 + 200 * i] = 100.0
    if twice:
        x[1490:1495] = 100.0
    x[1510:] += back - 9.0
    x[(1500 if at_s < 0 else 1510) + round(at_s * HZ)] += moved
    x[1500:1510] = to
    return still(x)


@pytest.mark.parametrize(
    ("recording", "counts"),
    [
        (known(), True),
        (known(others=2), False),
        (known(to=1.4), True),
        (known(to=1.6), False),
        (known(back=6.2), True),
        (known(back=5.9), False),
        (known(moved=2.8), True),
        (known(moved=3.2), False),
        (known(moved=3.2, at_s=-0.11), True),
        (known(moved=3.2, at_s=0.09), False),
        (known(moved=3.2, at_s=0.11), True),
        (known(back=-9.0), False),
        (known(twice=True), True),
        (known(twice=True, moved=3.2), False),
    ],
)
def test_a_joint_that_is_known_jumps_from_a_rest_that_is_off_centre_too(
    recording: Recording, counts: bool
) -> None:
    """By 9 % to the middle of its range: such were spikes, and what was let go came back late, so that
    something held it. What goes through its middle and is out on the other side was moved."""
    small = [j for j in find_jumps(recording)[0].jump if abs(j.to) < 50.0]
    assert [j.t_s for j in small] == [6.0] * counts


@pytest.mark.parametrize(("rests", "counts"), [(5.2, True), (4.8, False)])
def test_a_small_jump_is_of_five_per_cent(rests: float, counts: bool) -> None:
    x = still(np.full(10 * HZ, rests)).raw[:, 0].copy()
    for i in range(3):
        x[300 + 200 * i : 310 + 200 * i] = 100.0
    x[1500:1510] = 0.0
    assert find_jumps(still(x))[0].jumps == 3 + counts


@pytest.mark.parametrize(("rests", "to", "counts"), [(8.0, 8.0, 1), (8.0, 5.0, 0), (26.0, 26.0, 0)])
def test_the_middle_is_the_sticks_own_as_well(rests: float, to: float, counts: int) -> None:
    """A stick whose middle is off jumps to where it is: not to that of the range."""
    x = np.full(10 * HZ, rests) + np.tile((0.0, 0.1), 5 * HZ)
    x[500:1500] = 80.0
    x[1000:1010] = to
    assert find_jumps(still(x))[0].jumps == counts


@pytest.mark.parametrize(("share", "counts"), [(0.09, 0), (0.11, 1)])
def test_where_it_hardly_ever_is_is_not_its_middle(share: float, counts: int) -> None:
    x = np.full(10 * HZ, 80.0) + np.tile((0.0, 0.1), 5 * HZ)
    x[: int(share * len(x))] = 8.0
    x[1500:1510] = 8.0
    assert find_jumps(still(x))[0].jumps == counts


@pytest.mark.parametrize(("samples", "counts"), [(10, 1), (25, 1)])
def test_a_jump_from_a_stick_that_moves_on_meanwhile(samples: int, counts: int) -> None:
    """As on the way round the edge: it comes back to where the stick is by then."""
    t = np.arange(10 * HZ) / HZ
    x = 75.0 * np.sin(2 * np.pi * t / 1.6)
    at = int(5.05 * HZ)
    x[at : at + samples] = 100.0
    joint, inside, _ = find_jumps(still(x))
    assert (joint.jumps, int(inside.sum())) == (counts, samples * counts)


@pytest.mark.parametrize("rate", [60.0, 125.0])
def test_a_stick_that_is_flicked_across_does_not_jump(rate: float) -> None:
    """From end to end within a few reports, one of them at the middle."""
    x = np.full(200, -80.0)
    x[100:105] = (-60.0, -30.0, 0.0, 30.0, 60.0)
    x[105:] = 80.0
    assert find_jumps(still(x, rate))[0].jumps == 0


def smoothed(x: np.ndarray, tau_s: float, rate: float) -> np.ndarray:
    """As a resistor and a capacitor leave it."""
    share = 1 - np.exp(-1 / (rate * tau_s))
    return signal.lfilter([share], [1, share - 1], x - x[0]) + x[0]


@pytest.mark.parametrize("rate", [250.0, 1000.0])
@pytest.mark.parametrize(("at", "to"), [(4.0, 100.0), (4.0, -100.0), (80.0, 0.0), (60.0, 100.0)])
@pytest.mark.parametrize("tau_s", [0.001, 0.002, 0.004])
def test_a_jump_that_the_source_smooths_is_one(
    rate: float, at: float, to: float, tau_s: float
) -> None:
    """Or a loose joint behind a capacitor is dirt, and cleaned in vain. Nothing of it is left."""
    x = np.full(int(10 * rate), at) + np.tile((0.0, 0.1), int(5 * rate))
    x[int(4 * rate) : int(4.06 * rate)] = to
    recording = still(smoothed(x, tau_s, rate), rate)
    joint, inside, _ = find_jumps(recording)
    assert joint.jumps == 1
    assert 0.056 <= joint.jump[0].lasted_s <= 0.06 + EDGE_S + 1 / HZ
    left = without_jumps(recording, inside).u[int(0.1 * rate) :, 0]
    assert np.abs(left - at).max() < NEAR


@pytest.mark.parametrize("rate", [125.0, 250.0, 1000.0])
@pytest.mark.parametrize("tau_s", [0.008, 0.02])
@pytest.mark.parametrize(("at", "to"), [(4.0, 100.0), (80.0, 0.0), (-60.0, 100.0)])
def test_jumps_behind_a_slow_filter_are_jumps(
    rate: float, tau_s: float, at: float, to: float
) -> None:
    """They never get there within 20 ms, and were dirt. Nothing of them is left."""
    x = np.full(int(10 * rate), at) + np.tile((0.0, 0.1), int(5 * rate))
    for begins in range(1, 9):
        x[int(begins * rate) : int((begins + 0.03 + 0.01 * begins) * rate)] = to
    recording = still(smoothed(x, tau_s, rate), rate)
    joint, inside, _ = find_jumps(recording)
    assert joint.jumps == 8
    for i, jump in enumerate(joint.jump, 1):
        lasted = 0.03 + 0.01 * i
        assert lasted - 0.005 - 1 / rate <= jump.lasted_s <= lasted + 2 * EDGE_S
        assert jump.to == pytest.approx(to, abs=NEAR)
    for left in (without_jumps(recording, inside), moved_by_hand(recording)):
        assert np.abs(left.u[int(0.1 * rate) :, 0] - at).max() < NEAR


@pytest.mark.parametrize("at", [4.0, -60.0])
def test_jumps_behind_a_slow_filter_are_jumps_in_eight_bits_too(at: float) -> None:
    """A step of the converter is several per cent of what went into the filter."""
    x = np.full(2500, at)
    for begins in range(1, 9):
        x[250 * begins : 250 * begins + 15 + begins] = 100.0
    step = 200 / 255
    recording = still(np.round(smoothed(x, 0.02, 250.0) / step) * step, 250.0)
    assert find_jumps(recording)[0].jumps == 8


def ramped(far: float, samples: int, before: float = 0.0) -> Recording:
    """At 1 kHz: from so far to an end in so many samples, and back as quickly 60 ms later; before
    that it moves at so many % a millisecond."""
    x = np.full(10_000, 100.0 - far)
    x[:4000] -= before * np.minimum(40, np.arange(4000, 0, -1))
    ramp = np.linspace(0.0, 1.0, samples + 1)[1:]
    x[4000 : 4000 + samples] += far * ramp
    x[4000 + samples : 4060] = 100.0
    x[4060 : 4060 + samples] = 100.0 - far * ramp
    return still(x, 1000.0)


@pytest.mark.parametrize(
    ("far", "samples", "before", "counts"),
    [
        (30.5, 10, 0.0, 1),
        (29.5, 10, 0.0, 0),
        (60.0, 20, 0.0, 1),
        (60.0, 30, 0.0, 0),
        (60.0, 20, 1.4, 1),
        (60.0, 20, 1.6, 0),
    ],
)
def test_what_a_hand_may_do_is_no_jump_that_was_smoothed(
    far: float, samples: int, before: float, counts: int
) -> None:
    """As far within 20 ms as no hand goes, and twice as far as it moves before and after."""
    assert find_jumps(ramped(far, samples, before))[0].jumps == counts


@pytest.mark.parametrize(("gap_ms", "counts"), [(19, 1), (21, 0)])
def test_what_went_by_while_nothing_was_reported_is_no_edge(gap_ms: int, counts: int) -> None:
    """A link that drops out in the middle of a push is not a joint that jumps."""
    whole = ramped(60.0, 20)
    late = np.cumsum(np.isin(np.arange(len(whole.t_us)), (4010, 4070)) * gap_ms * 1000)
    assert find_jumps(replace(whole, t_us=whole.t_us + late))[0].jumps == counts


def test_a_drop_that_the_source_smooths_is_one() -> None:
    x = np.full(10 * HZ, 95.0) + np.tile((0.0, 0.1), 5 * HZ)
    x[1000:1012] -= 50.0
    assert find_jumps(still(smoothed(x, 0.004, HZ)))[0].drops == 1


def test_a_jump_by_way_of_another_place_is_one_jump() -> None:
    x = np.full(10 * HZ, 99.3) + np.tile((0.0, 0.1), 5 * HZ)
    x[1000:1010], x[1010:1020] = -100.0, 0.0
    assert find_jumps(still(x))[0].jumps == 1
    x[1015] = 50.0
    assert find_jumps(still(x))[0].jumps == 0, "it went anywhere"


@pytest.mark.parametrize(("high", "counts"), [(34.9, 1), (35.1, 0)])
@pytest.mark.parametrize("spikes", [2, 3])
def test_a_spike_that_is_cut_off_at_an_end_is_no_jump_there(
    high: float, counts: int, spikes: int
) -> None:
    """Dirt that makes spikes of a third at rest makes them while the stick is held out as well."""
    x = np.tile((0.0, 0.1), 5 * HZ)
    for at in range(200, 200 + 200 * spikes, 200):
        x[at : at + 2] = (high, high - 1.0)
    x[1500:2000] = 65.0
    x[1700:1705] = 100.0
    assert find_jumps(still(x))[0].jumps == (counts if spikes > 2 else 1)


@pytest.mark.parametrize(("jumps", "counts"), [(18, 0), (19, 19)])
def test_far_more_jumps_than_spikes_are_no_dirt_s(jumps: int, counts: int) -> None:
    """Between two jumps to the middle a stick that a hand moves looks like a spike from rest: a joint
    was half as loose in one take as in another of the same stick."""
    x = np.tile((0.0, 0.1), 10 * HZ)
    for at in (200, 400, 600):
        x[at : at + 2] = (60.0, 59.0)
    x[1000:4800] = 65.0
    for at in range(1200, 1200 + 150 * jumps, 150):
        x[at : at + 5] = 100.0
    assert find_jumps(still(x))[0].jumps == counts


def test_what_goes_out_and_back_between_two_jumps_is_no_spike_from_rest() -> None:
    """A stick that is held out and falls to the middle again and again was not at rest there."""
    x = np.tile((0.0, 0.1), 5 * HZ)
    x[500:2000] = 70.0
    for at in range(600, 1900, 60):
        x[at : at + 20] = 0.0
    x[2300:2305] = 60.0
    x[1950:1955] = 100.0
    assert find_jumps(still(x))[0].jumps == 22 + 1


def test_what_is_held_at_an_end_between_two_jumps_is_no_jump() -> None:
    x = np.full(10 * HZ, 99.4)
    x[1000:1010] = x[1040:1050] = 0.0
    joint, inside, _ = find_jumps(still(x))
    assert (joint.jumps, int(inside.sum())) == (2, 20)


def test_what_a_hand_did_knows_no_jumps_and_no_drops() -> None:
    x = np.full(10 * HZ, 80.0)
    x[1000:1010], x[1500:1510] = 0.0, 50.0
    assert moved_by_hand(still(x)).u[:, 0].tolist() == [80.0] * len(x)


@pytest.mark.parametrize(("back", "drops"), [(80.0, 1), (58.0, 0)])
def test_a_stick_that_falls_back_on_its_way_and_is_back_where_it_was_drops(
    back: float, drops: int
) -> None:
    """Just having come from farther out takes nothing of that."""
    x = np.concatenate((np.full(500, 98.0), [80.0], np.full(5, 20.0), np.full(500, back)))
    assert find_jumps(still(x))[0].drops == drops


@pytest.mark.parametrize(
    ("rate", "swings_hz", "damping"),
    [(100, 18, 0.37), (100, 12, 0.25), (125, 15, 0.25), (200, 21, 0.3)],
)
def test_a_stick_that_is_let_go_and_swings_past_the_middle_does_not_drop(
    rate: float, swings_hz: float, damping: float
) -> None:
    """Seen every ten milliseconds a light stick falls by half its way between two samples: a sound one
    fell back while it was pushed, and was to be held over."""
    swings = 2 * np.pi * swings_hz
    rings, drops = swings * np.sqrt(1 - damping**2), damping * swings
    for phase in range(10):
        t = (np.arange(round(6 * rate)) + phase / 10) / rate
        x = np.zeros(len(t))
        for at in (1.0, 3.0, 5.0):
            out, gone = (t > at - 0.6) & (t < at), t >= at
            x[out] = 98 * np.clip((t[out] - at + 0.6) / 0.15, 0, 1)
            since = t[gone] - at
            swing = np.cos(rings * since) + drops / rings * np.sin(rings * since)
            x[gone] = 98 * np.exp(-drops * since) * swing
        joint, _, fallen = find_jumps(still(np.round(x, 1), rate))
        assert (joint.drops, joint.jumps, joint.on_the_way) == (0, 0, 0), phase
        assert not fallen.any()


def test_what_does_not_come_back_where_it_was_is_no_joint() -> None:
    assert find_jumps(jumping(100, 10, back=4.0 + 0.2 * 96))[0].jumps == 1
    assert find_jumps(jumping(100, 10, back=4.0 + 0.4 * 96))[0].jumps == 0


@pytest.mark.parametrize("leaps", [1, MOST_STEPS, MOST_STEPS + 1])
def test_a_drop_that_leaps_about_is_a_drop_until_it_is_turmoil(leaps: int) -> None:
    x = np.full(10 * HZ, 90.0) + np.tile((0.0, 0.1), 5 * HZ)
    low = np.resize((10.0, 30.0), leaps)
    x[1000 : 1000 + 3 * leaps] = np.repeat(low, 3)
    assert find_jumps(still(x))[0].drops == int(leaps <= MOST_STEPS)


def test_a_stick_that_is_pushed_and_let_go_does_not_jump() -> None:
    for condition in ("sound", "worn", "dirty", "offset"):
        for rate in (60.0, 250.0):
            joint = readings_of(condition, rate=rate).joint
            assert (joint.jumps, joint.drops) == (0, 0), (condition, rate)


def test_what_jumped_is_no_dirt_and_no_noise() -> None:
    quiet = performed("sound").recording
    raw = quiet.raw.copy()
    still_part = quiet.attempts("still")[0]
    for at in range(still_part.start + 200, still_part.stop - 200, 300):
        raw[at : at + 12, 0] = 1023
    jumped = Recording(quiet.t_us, raw, quiet.ranges, quiet.step)
    both, clean = measure_take(jumped), measure_take(quiet)
    assert both.joint.jumps > 3
    assert both.still.spikes_per_min_x == clean.still.spikes_per_min_x == 0
    assert both.still.jitter_x == pytest.approx(clean.still.jitter_x, abs=0.02)
    assert both.still.resolution_x == clean.still.resolution_x, "only values that a converter gives"


def test_a_gap_in_time_is_no_jump() -> None:
    whole = jumping(100, 10)
    keep = np.ones(len(whole.t_us), dtype=bool)
    keep[985:1000] = False
    cut = Recording(whole.t_us[keep], whole.raw[keep], whole.ranges, whole.step[keep])
    assert find_jumps(cut)[0].jumps == 0


@pytest.mark.parametrize(
    ("by", "samples", "counts"), [(16, 5, 1), (14, 5, 0), (40, 62, 1), (40, 64, 0)]
)
def test_a_drop_falls_toward_the_middle_and_is_back(by: float, samples: int, counts: int) -> None:
    x = np.full(4 * HZ, 90.0)
    x[500 : 500 + samples] -= by
    assert find_jumps(still(x))[0].drops == counts
    assert find_jumps(still(-x))[0].drops == counts
    assert find_jumps(still(x - 60.0))[0].drops == 0, "only where it is deflected"


@pytest.mark.parametrize(("way_s", "counts"), [(0.06, 0), (0.4, 1)])
def test_a_stick_that_was_flicked_to_its_end_and_let_go_does_not_jump(
    way_s: float, counts: int
) -> None:
    """By a hundred reports a second the last of the way is a fifth of it, and so is the first of the
    way back; a joint leaps from where the stick is on its slow way."""
    rate, x = 100.0, np.full(1000, 0.0)
    way = np.linspace(0, 81, int(way_s * rate))
    x[500 - len(way) : 500], x[500:520], x[520 : 520 + len(way)] = way, 100.0, way[::-1]
    assert find_jumps(still(x, rate))[0].jumps == counts


@pytest.mark.parametrize(("pace", "counts"), [(5.2, 0), (4.8, 1)])
def test_what_goes_a_quarter_as_fast_before_and_after_was_on_its_way(
    pace: float, counts: int
) -> None:
    x = np.full(1000, 80.0)
    x[:500] -= pace * np.arange(500, 0, -1).clip(max=10)
    x[500:511] = (80.0, *[100.0] * 10)
    x[511:] -= pace * np.arange(489).clip(max=10)
    assert find_jumps(still(x, 100.0))[0].jumps == counts


@pytest.mark.parametrize(("back_s", "counts"), [(0.06, 0), (0.4, 1)])
def test_a_push_that_the_link_swallowed_is_no_jump(back_s: float, counts: int) -> None:
    """A receiver that repeats itself while its link is down tells of a push when it is over; the way
    back tells that it was one."""
    rate, x = 100.0, np.full(1000, 74.0)
    back = np.linspace(78, 0, int(back_s * rate))
    x[500:520], x[520 : 520 + len(back)], x[520 + len(back) :] = 100.0, back, 0.0
    assert find_jumps(still(x, rate))[0].jumps == counts


def held_and_moved(standing: int, moving: int) -> np.ndarray:
    """Drops while it is held at 90, and where it goes by at three hundred a second."""
    held = np.full(HZ * (standing + 1), 90.0)
    for i in range(standing):
        held[HZ * i + 100 : HZ * i + 105] = 60.0
    once = np.concatenate([np.linspace(90, 45, 38), np.linspace(45, 90, 38), np.full(174, 90.0)])
    passing = np.tile(once, moving)
    for i in range(moving):
        passing[HZ * i + 30 : HZ * i + 33] -= 25.0
    return np.concatenate([held, passing])


@pytest.mark.parametrize(
    ("standing", "moving", "counts"), [(1, 9, 10), (1, 10, 0), (0, 2, 2), (0, 3, 0)]
)
def test_what_falls_on_its_way_alone_falls_into_rough_places(
    standing: int, moving: int, counts: int
) -> None:
    """Dirt at half way would be called a track that fails at its end, and cost a module."""
    joint, _, _ = find_jumps(still(held_and_moved(standing, moving)))
    assert joint.drops == counts
    assert joint.on_the_way == (0 if counts else standing + moving)


def passing(at: list[float], standing: int = 0, to: float = 100.0) -> np.ndarray:
    """It goes up and down once a second, 180 % a second, and jumps to one place from each of these
    places (m,), %; and so many times from where it stands."""
    up = np.linspace(-80, 80, 222)
    x = [np.full(HZ, -80.0)]
    for i, place in enumerate(at):
        one = (
            np.concatenate([up, np.full(28, 80.0)])
            if i % 2 == 0
            else np.append(up[::-1], [-80.0] * 28)
        )
        begins = int(np.argmax(up >= place)) if i % 2 == 0 else int(np.argmax(up[::-1] <= place))
        one[begins : begins + 3] = to
        x.append(one)
    for _ in range(standing):
        one = np.full(HZ, x[-1][-1])
        one[100:112] = to
        x.append(one)
    return np.concatenate(x)


@pytest.mark.parametrize("to", [100.0, -100.0, 0.0])
@pytest.mark.parametrize(
    ("at", "standing", "counts"),
    [
        ([30.0, 32.0, 34.0, 31.0], 0, 0),
        ([30.0, 32.0], 0, 2),
        ([30.0, 33.0, -40.0], 0, 0),
        ([30.0, 36.5, -40.0], 0, 0),
        ([30.0, 38.5, -40.0], 0, 3),
        ([30.0, 33.0, -40.0, 60.0], 0, 4),
        ([30.0, 31.0, 32.0, -40.0, 60.0], 0, 0),
        ([30.0, 31.0, -25.0, -40.0, 60.0], 0, 5),
        ([30.0, 31.0, 32.0, 33.0, 30.0, 31.0, 32.0, 33.0, 30.0, 31.0], 1, 0),
        ([30.0, 31.0, 32.0, 33.0, 30.0, 31.0, 32.0, 33.0, 30.0], 1, 10),
    ],
)
def test_what_jumps_at_the_same_places_again_is_the_track_s(
    at: list[float], standing: int, counts: int, to: float
) -> None:
    """A wiper that dirt lifts says its end, or its middle, where the dirt is: “mend the joint” was
    said of a track that wanted a swab. A joint opens anywhere, where the stick stands as well."""
    assert find_jumps(still(passing(at, standing, to)))[0].jumps == counts


def swift(step: float, left: list[float], falls: int = 0) -> np.ndarray:
    """It goes up by so much a sample, %, and is at its end for one of them after each of these places
    (m,); and so many times falls by 40 % after the first."""
    x = [np.full(HZ, -80.0)]
    for i, place in enumerate([*left, *left[:1] * falls]):
        up = np.arange(place - step * (place + 80) // step, 80.0, step)
        at = int(np.argmin(np.abs(up - place))) + 1
        up[at] = 100.0 if i < len(left) else up[at] - 40.0
        x += [np.full(HZ // 2, -80.0), up, np.full(HZ // 2, 80.0), np.linspace(80, -80, HZ)]
    return np.concatenate(x)


@pytest.mark.parametrize(("step", "counts"), [(9.9, 0), (10.1, 4)])
def test_a_swift_stick_jumps_at_a_place_that_lies_between_two_samples(
    step: float, counts: int
) -> None:
    """Seen at 125 Hz of a stick that is let go, dirt at two places was a joint: no two of its jumps
    began at one of them."""
    x = swift(step, [1.0, 9.0, 41.0, 49.0])
    assert find_jumps(still(x))[0].jumps == counts


@pytest.mark.parametrize(("falls", "counts"), [(1, 1), (2, 0)])
def test_one_jump_where_the_track_loses_its_wiper_else_too_is_no_joint(
    falls: int, counts: int
) -> None:
    assert find_jumps(still(swift(4.0, [60.0], falls)))[0].jumps == counts


@pytest.mark.parametrize("filtered", [1, 2, 4, 5])
def test_a_joint_that_opens_where_a_stick_stands_is_one_whatever_smooths_it(filtered: int) -> None:
    """The first step of a leap that a filter spreads is no way that the stick was on."""
    x = passing([], 5)
    x = signal.lfilter(np.full(filtered, 1 / filtered), 1.0, x - x[0]) + x[0]
    assert find_jumps(still(x))[0].jumps == 5


@pytest.mark.parametrize(
    ("strays", "for_s", "counts"), [(2.9, 0.05, 3), (3.1, 0.08, 0), (3.1, 0.12, 3)]
)
def test_what_is_held_stands_within_three_per_cent_for_a_tenth_of_a_second(
    strays: float, for_s: float, counts: int
) -> None:
    x = np.full(10 * HZ, 90.0)
    for at in (500, 1000, 1500):
        came = at - int(for_s * HZ)
        x[came - 100 : came] = 90.0 - strays
        x[at : at + 5] = 60.0
    assert find_jumps(still(x))[0].drops == counts


@pytest.mark.parametrize("deviation", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("to", [100.0, -100.0, 0.0])
def test_a_joint_that_opens_on_a_supply_that_trembles_is_a_joint(
    to: float, deviation: float
) -> None:
    """It trembles at an end as well, and was dirt: no sample but one in a few lay at the end."""
    x = passing([30.0, 31.0, 32.0, 33.0], 6, to)
    x = np.clip(x + deviation * np.random.default_rng(3).normal(size=len(x)), -100, 100)
    assert find_jumps(still(x))[0].jumps >= 9


def trembling(x: np.ndarray, by: float) -> np.ndarray:
    """It goes by as much to and fro from sample to sample, which is 1.21 of it as a deviation."""
    return x + by * (np.arange(len(x)) % 2 - 0.5)


@pytest.mark.parametrize(
    ("by", "short", "counts"),
    [(1.0, 4.7, 1), (1.0, 5.0, 0), (0.2, 1.4, 1), (0.2, 1.6, 0), (3.0, 7.9, 1), (3.0, 8.1, 0)],
)
def test_an_end_is_wider_by_four_times_what_trembles_up_to_eight_per_cent(
    by: float, short: float, counts: int
) -> None:
    x = trembling(np.full(10 * HZ, 4.0), by)
    x[1000:1010] = 100 - short
    assert find_jumps(still(x))[0].jumps == counts


@pytest.mark.parametrize(
    ("by", "strays", "pace", "counts"),
    [
        (4.0, 0.0, 0.0, 3),
        (4.0, 0.0, 27.0, 3),
        (4.0, 0.0, 34.0, 0),
        (1.0, 8.2, 0.0, 3),
        (1.0, 9.2, 0.0, 0),
    ],
)
def test_what_trembles_stands_that_does_not_go_by(
    by: float, strays: float, pace: float, counts: int
) -> None:
    """Within seven times as much; dirt that it goes by falls on its way all the same."""
    x = trembling(45.0 + pace * np.arange(2 * HZ) / HZ, by)
    for at in (100, 200, 300):
        x[at - 12] -= strays / 2
        x[at - 8] += strays / 2
        x[at : at + 5] -= 30.0
    assert find_jumps(still(x))[0].drops == counts


@pytest.mark.parametrize(("elsewhere", "drops", "jumps"), [(4, 5, 0), (3, 3, 1)])
def test_one_drop_that_ends_in_the_middle_is_a_drop_like_the_others(
    elsewhere: int, drops: int, jumps: int
) -> None:
    x = np.full(10 * HZ, 70.0)
    for i in range(elsewhere):
        x[250 * i + 300 : 250 * i + 310] = 30.0 + i
    x[2000:2010] = 0.0
    joint, _, _ = find_jumps(still(x))
    assert (joint.drops, joint.jumps) == (drops, jumps)


def test_what_falls_from_an_end_twice_does_not_jump_to_it_in_between() -> None:
    """Held at its end it falls to one place and soon to the same again: that is where it was."""
    x = np.full(10 * HZ, 99.9) + np.tile((0.0, 0.1), 5 * HZ)
    x[1000:1008] = x[1030:1040] = 46.0
    joint, _, _ = find_jumps(still(x))
    assert (joint.drops, joint.jumps) == (2, 0)


@pytest.mark.parametrize("average", [2, 3, 4])
@pytest.mark.parametrize("rests", [0.0, 30.0])
def test_what_an_average_leaves_beside_a_jump_goes_with_it(rests: float, average: int) -> None:
    """Half of the way there was read as the place where the stick lay while the joint was open."""
    x = np.full(2000, rests)
    for at in range(200, 1800, 200):
        x[at : at + 30] = 100.0
    x = np.convolve(
        np.append(np.full(average - 1, rests), x), np.full(average, 1 / average), "valid"
    )
    recording = still(x)
    joint, jumping, _ = find_jumps(recording)
    assert joint.jumps == 8
    assert all(abs(j.to - 100.0) < 1.0 for j in joint.jump)
    left = without_jumps(recording, jumping).u[:, 0]
    assert np.abs(left - rests).max() < 0.2
    assert jumping.sum() <= 8 * (30 + average), "and nothing else does"


@pytest.mark.parametrize(("meanwhile", "drops"), [(0.0, 1), (20.0, 1), (-60.0, 0)])
def test_a_drop_ends_where_the_stick_has_moved_meanwhile(meanwhile: float, drops: int) -> None:
    """By 15 %, of a drop of 35. Else one that comes while a stick goes round its rim is none, and the
    rim is short there."""
    x = np.clip(70.0 - np.maximum(np.arange(500) - 200, 0) * 0.5, 20.0, None)
    x[240:270] -= 35.0
    x[270:] += meanwhile
    assert find_jumps(still(x))[0].drops == drops


@pytest.mark.parametrize(
    ("step", "left_out"),
    [("rim", True), ("crossing-x", True), ("crossing-y", True), ("hold", False)],
)
def test_a_drop_is_no_shape_of_the_rim_and_no_noise_of_the_track(step: str, left_out: bool) -> None:
    """It comes elsewhere the next time: a rub that was mended beside it was no change. A hold that it
    comes in has it, and so has `drops`."""
    recording = performed("sound", bits=12).recording
    part = recording.attempts(step)[-1]
    u, dropped = recording.u, recording.u.copy()
    axis = 1 if step == "crossing-y" else 0
    out = (u[part, axis] > 50.0) & ((u[part, 1] > 70.0) | (step != "rim"))
    first = part.start + np.flatnonzero(out)[300 if step == "hold" else 10]
    dropped[first : first + 15, axis] -= 45.0
    was, now = measure_take(recording), measure_take(transformed(recording, dropped))
    assert now.joint.drops - was.joint.drops == 1
    for path in (
        "rim.roundness_lsc",
        "rim.lap_repeat",
        "composite.shape_after_recalibration",
        "crossing.x.track_noise_max",
        "crossing.y.track_noise_max",
    ):
        assert now.value(path) == pytest.approx(was.value(path), abs=0.25), path
        u_now, u_was = now.uncertainty.get(path, 0.0), was.uncertainty.get(path, 0.0)
        assert u_now == pytest.approx(u_was, abs=0.25), path
    assert (now.value("hold.dropouts_per_min") == was.value("hold.dropouts_per_min")) == left_out


def test_nothing_is_left_out_where_nothing_jumps() -> None:
    recording = performed("worn").recording
    assert without_jumps(recording, find_jumps(recording)[1]) is recording


@pytest.mark.parametrize("path", ["joint.jumps_per_min", "joint.drops_per_min"])
def test_none_this_time_is_not_never(path: str) -> None:
    """Five and none come by chance of one stick, six hardly: who looked twice had mended it."""
    take = readings_of("sound")
    minutes = take.recording.duration_s / 60

    def counting(many: int) -> TakeReadings:
        joint = Joint(many, many / minutes, many, many / minutes, ())
        return replace(
            take, joint=joint, uncertainty={**take.uncertainty, **u_joint(joint, minutes)}
        )

    for many, verdicts in ((5, ("no-change", "no-change")), (6, ("better", "worse"))):
        rows = [
            compare(*pair, HERE, HERE).row(path)
            for pair in ((counting(many), counting(0)), (counting(0), counting(many)))
        ]
        assert tuple(r.verdict for r in rows) == verdicts, many


def test_so_it_is_of_drops_while_it_is_held() -> None:
    take = readings_of("sound")
    first, *others = take.hold
    for many, verdict in ((5, "no-change"), (6, "better")):
        dropping = replace(take, hold=(replace(first, dropouts=many), *others))
        u = np.sqrt(many) / held_min(take.hold)
        dropping = replace(dropping, uncertainty={**take.uncertainty, "hold.dropouts_per_min": u})
        assert compare(dropping, take, HERE, HERE).row("hold.dropouts_per_min").verdict == verdict


def test_how_another_hand_bears_on_a_joint_is_a_tenth_of_what_was_counted() -> None:
    """Else a loose stick that nobody touched is called better or worse by whoever holds it next."""
    u = u_joint(Joint(100, 50.0, 4, 2.0, ()), 2.0)
    assert u["joint.jumps_per_min"] == pytest.approx(np.sqrt(100 + 10**2) / 2)
    assert u["joint.drops_per_min"] == pytest.approx(np.sqrt(4 + 0.4**2) / 2)
    assert u_joint(Joint(0, 0.0, 0, 0.0, ()), 2.0)["joint.jumps_per_min"] == 0
    passed = u_joint(Joint(0, 0.0, 0, 0.0, (), on_the_way=6), 2.0)
    assert passed["joint.drops_per_min"] == 3.0, (
        "one of the next may come while it stands, and all count"
    )
    assert passed["joint.jumps_per_min"] == 0
