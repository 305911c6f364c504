"""A system that keeps small changes to itself, as a kernel does with what it takes for noise, hides no
fault by that and makes none: most sticks that are read through one are read so."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.held_time import pace_of
from hollow_pin.core.hidden import FUZZ_LEAST
from hollow_pin.core.limits import verdict_on
from hollow_pin.core.recording import (
    EDGE_SHARE,
    KEPT_SHARE,
    NO_STEP,
    SHARP,
    STATED_MOST,
    STEPS,
    STICKS,
    SWALLOWED_MOST,
    SWALLOWING,
    SWIFT,
    AxisRange,
    Recording,
    _swallowed,
    _swallowed_by_both,
)
from hollow_pin.core.source_check import check_source
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.kernel import defuzzed
from sticks import TEN_BIT, as_said_last, performed, picked, waits

WORDS = AxisRange(-32768, 32767)
FUZZ = 256


def through_a_kernel(
    u: np.ndarray, recording: Recording, events: bool = True, fuzz: int = FUZZ
) -> Recording:
    """As a driver with this fuzz reports it; events: only what changed comes at all."""
    words = np.round(np.clip(u, -100, 100) / 100 * 32767)
    raw = np.column_stack([defuzzed(axis, fuzz) for axis in words.T])
    news = np.append(True, (raw[1:] != raw[:-1]).any(axis=1)) | (not events)
    return Recording(recording.t_us[news], raw[news], (WORDS, WORDS), recording.step[news])


def sound(over: float = 1.0) -> tuple[np.ndarray, Recording]:
    whole = performed("sound", bits=14).recording
    return whole.u * over, whole


@pytest.mark.parametrize("events", [True, False])
def test_what_is_swallowed_is_seen_by_what_comes(events: bool) -> None:
    half = 100 * FUZZ / 2 / 32767
    assert through_a_kernel(*sound(), events=events).swallowed == pytest.approx(
        [half, half], rel=0.1
    )
    _, whole = sound()
    assert whole.swallowed == [0, 0]
    assert performed("sound").recording.swallowed == [0, 0], "a coarser converter"


@pytest.mark.parametrize("events", [True, False])
@pytest.mark.parametrize("over", [1.0, 1.04, 1.1])
def test_a_sound_stick_through_a_kernel_is_sound(over: float, events: bool) -> None:
    """Its ends stop a little short of the range, each time elsewhere: a round rim that runs over was
    called square, and out of shape."""
    take = measure_take(through_a_kernel(*sound(over), events=events))
    assert take.hidden == ()
    assert explain(take).advice == "Every reading taken is within its limit."
    assert take.composite.gate_seen == "round"
    (problems,) = [p for p in take.problems if p.code == "swallows"]
    assert "below 0.4" in problems.message
    assert {p.kind for p in take.problems} == {"note"}, "nothing to mend, and nothing to mind"


@pytest.mark.parametrize(("below", "said"), [(0.045, False), (0.055, True)])
def test_what_is_too_small_to_be_missed_is_not_spoken_of(below: float, said: bool) -> None:
    """“Changes below 0.0 % do not come.”"""
    _, whole = sound()
    fuzz = str(2 * below / 100 * whole.ranges[0].half)
    take = measure_take(replace(whole, headers={"fuzz.x": fuzz, "fuzz.y": fuzz}))
    assert ("swallows" in {p.code for p in take.problems}) == said


def test_a_dead_zone_behind_a_kernel_is_found_though_it_never_reads_zero() -> None:
    """Each pass stands at another digit near zero: it was called sound, the worst that can be said."""
    u, whole = sound()
    behind = np.sign(u) * np.maximum(0, np.abs(u) - 8) * 100 / 92
    take = measure_take(through_a_kernel(behind, whole))
    (hidden,) = take.hidden
    assert hidden.code == "built-in-dead-zone"
    assert hidden.below == pytest.approx(8, rel=0.35)
    assert explain(take).try_first != "none"


def where_either_moved(u: np.ndarray, recording: Recording, least: int, events: bool) -> Recording:
    """As a device of ten bits sends it that reports both axes where either has moved by so many
    counts, or a step begins; events: and nothing else at all."""
    raw = np.round((np.clip(u, -100, 100) + 100) / 200 * 1023)
    sent = waits(raw, least, np.diff(recording.step, prepend=NO_STEP) != 0)
    device = replace(recording, raw=as_said_last(raw, sent), ranges=TEN_BIT)
    return picked(device, sent | (not events))


@pytest.mark.parametrize("events", [True, False])
@pytest.mark.parametrize("least", [3, 5])
def test_a_worn_stick_behind_a_dead_zone_and_a_device_that_waits_for_either_axis_is_not_sound(
    least: int, events: bool
) -> None:
    """Its passes stood now here and now there in the dead zone, and it was within every limit."""
    take = measure_take(where_either_moved(*sound(), least, events))
    assert explain(take).advice == "Every reading taken is within its limit."
    worn = performed("worn", bits=14).recording
    r = np.hypot(*worn.u.T)[:, None]
    behind = worn.u * np.maximum(0, r - 8) * 100 / 92 / np.maximum(r, 1e-9)
    take = measure_take(where_either_moved(behind, worn, least, events))
    assert [h.code for h in take.hidden] == ["built-in-dead-zone"]
    assert explain(take).try_first != "none"


def test_what_is_cut_off_at_an_end_is_no_small_change() -> None:
    """Behind an end an axis moves far enough to be reported, and what is reported hardly changes."""
    u, whole = sound(1.08)
    raw = (u + 100) / 200 * 1023
    shown = as_said_last(raw, waits(raw, 5))
    device = replace(whole, raw=np.clip(np.round(shown), 0, 1023), ranges=TEN_BIT)
    assert min(device.swallowed) > 4 / 511.5 * 100


def test_the_smallest_changes_of_such_a_device_are_alike_and_those_of_noise_are_not() -> None:
    """A quiet source of fine steps has few small changes too, and keeps nothing to itself."""
    steps = np.array([0.1, 0.2])
    n = round(1000 * EDGE_SHARE)
    for more, swift, swallowed in (
        (SHARP - 0.1, SWIFT + 0.1, 0.6),
        (SHARP + 0.1, SWIFT + 0.1, 0.0),
        (SHARP - 0.1, SWIFT - 0.1, 0.0),
    ):
        larger = 3.0 * np.repeat((0.0, 1.0, more, swift), (100, n - 10, 899, 11))
        changes = np.column_stack((larger * 0.1, np.zeros(len(larger))))
        assert _swallowed_by_both(changes, steps) == pytest.approx(swallowed), more
    assert _swallowed_by_both(np.zeros((9, 2)), steps) == 0.0


def test_noise_that_may_have_been_swallowed_counts_as_uncertainty() -> None:
    """A stick that trembles just under what comes through is not told from a quiet one by it."""
    take, plain = measure_take(through_a_kernel(*sound())), measure_take(sound()[1])
    swallowed = 100 * FUZZ / 2 / 32767
    for axis in ("x", "y"):
        path = f"still.jitter_{axis}"
        assert take.value(path) < plain.value(path) < 0.2
        assert take.uncertainty[path] >= swallowed / 5
        assert verdict_on(take, path, 0.8) == "within"


@pytest.mark.parametrize(
    ("of_half", "hides"), [(FUZZ_LEAST - 0.05, False), (FUZZ_LEAST + 0.05, True)]
)
def test_more_than_a_kernels_own_hides_noise(of_half: float, hides: bool) -> None:
    _, whole = sound()
    fuzz = str(of_half / 100 * whole.ranges[0].half)
    take = measure_take(replace(whole, headers={"fuzz.x": fuzz, "fuzz.y": fuzz}))
    assert ({h.code for h in take.hidden} == {"fuzz"}) == hides
    assert ("swallows" in {p.code for p in take.problems}) != hides
    assert (verdict_on(take, "still.jitter_x", 5.0) == "hidden") == hides


@pytest.mark.parametrize(
    ("stated", "swallowed"),
    [("6", 100 * 3 / 511.5), ("many", 0), ("-4", 0), ("inf", 0), ("900", STATED_MOST)],
)
def test_what_a_recording_says_itself_counts_as_far_as_it_can_be(
    stated: str, swallowed: float
) -> None:
    recording = replace(performed("sound").recording, headers={"fuzz.x": stated})
    assert recording.swallowed == pytest.approx([swallowed, 0])


def test_a_change_is_small_beside_the_steps_and_often_missing_before_it_counts() -> None:
    """A quick hand makes large changes and no small ones; nothing is swallowed for that."""
    step = 0.1
    kept = np.zeros(round(100 * KEPT_SHARE) + 1)
    for least, seen in ((SWALLOWING * step - 0.01, 0.0), (SWALLOWING * step + 0.01, 1.0)):
        assert bool(_swallowed(np.append(kept, np.full(99, least)), step)) == bool(seen)
    much = np.full(100, 0.4)
    assert _swallowed(np.append(np.zeros(5), much), step / 2) == 0
    assert _swallowed(np.append(np.zeros(6), much), step / 2) == SWALLOWED_MOST
    assert _swallowed(np.append(np.zeros(6), much / 2), step / 4) == pytest.approx(0.8)
    assert _swallowed(np.append(np.zeros(6), 4 * much), step) == pytest.approx(1.6)


@pytest.mark.parametrize(("steps", "swallowed"), [(STICKS - 0.1, 0.49), (STICKS + 0.1, 1.0)])
def test_what_sticks_for_a_few_steps_swallows_those_alone(steps: float, swallowed: float) -> None:
    """It goes at once where a kernel goes a quarter of the way."""
    changes = np.append(np.zeros(6), np.full(100, 0.1 * steps))
    assert _swallowed(changes, 0.1) == pytest.approx(swallowed)


@pytest.mark.parametrize("over", [1.04, 1.1])
def test_a_source_that_sticks_to_its_values_ends_where_it_sticks(over: float) -> None:
    u, whole = sound(over)
    raw = np.round((np.clip(u, -100, 100) + 100) / 200 * 1023)
    for axis in raw.T:
        old = axis[0]
        for i, new in enumerate(axis.tolist()):
            axis[i] = old = new if abs(new - old) >= 2 else old
    ten_bits = AxisRange(0, 1023)
    take = measure_take(Recording(whole.t_us, raw, (ten_bits, ten_bits), whole.step))
    assert take.composite.gate_seen == "round"
    assert take.value("composite.shape_after_recalibration") < 3


def test_a_source_that_is_tried_out_is_said_to_swallow_and_hides_nothing() -> None:
    u, whole = sound()
    read = through_a_kernel(u, whole, events=False)
    parts = [read.attempts(step)[-1] for step in ("rim", "crossing-x", "crossing-y")]
    moved = np.concatenate([np.arange(p.start, p.stop) for p in parts])
    tried = replace(read, t_us=read.t_us[moved], raw=read.raw[moved], step=read.step[moved])
    result = check_source(tried, "event")
    assert result.standing == "usable"
    assert "swallows" in {f.code for f in result.findings}


def test_a_slow_hand_whose_every_second_report_is_swallowed_is_not_read_twice() -> None:
    """Half of the reports were left out for it, as of a source that is asked twice for the same, and
    the ends of the range with them."""
    slow = np.concatenate([np.arange(-98, 98, 0.04), np.arange(98, -98, -0.04)])
    ten_bits = np.round(slow / 100 * 511.5) / 511.5 * 100
    n = len(slow)
    step = np.full(n, STEPS.index("crossing-x"), np.int8)
    u = np.column_stack((ten_bits, np.zeros(n)))
    at = Recording(np.arange(n) * 4000, u, (AxisRange(-100, 100),) * 2, step)
    read = through_a_kernel(u, at, events=False, fuzz=128)
    unlike = (np.diff(read.raw, axis=0) != 0).any(axis=1).mean()
    assert 0.4 < unlike < 0.6
    pace = pace_of(read)
    assert pace is not None
    assert pace.twice == 1
