"""A routine that is led in memory, as a module on the jig is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

import lever
from hollow_pin.capture.routine_follower import RoutineFollower
from hollow_pin.core.inspection import PartFindings, judge, read_on_jig
from hollow_pin.core.recording import NO_STEP, Recording
from hollow_pin.core.routine import jig_routine
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.tracker import STUCK_S
from sticks import performed, transformed


def led_through(whole: Recording, over: int = 1) -> RoutineFollower:
    """By somebody who goes on where a step begins by that, and where it got nowhere for long enough.
    over: how often the samples come, one after the other."""
    led = RoutineFollower(whole.ranges, jig_routine(len(whole.ranges)))
    lasts, step, since = int(whole.t_us[-1]) + 4000, led.tracker.step, 0.0
    for start in range(0, over * len(whole.t_us), 25):
        again, at = divmod(start, len(whole.t_us))
        part = slice(at, at + 25)
        now = led.feed(whole.t_us[part] + again * lasts + 5_000_000, whole.raw[part])
        if led.tracker.step != step:
            step, since = led.tracker.step, now
        offers = led.tracker.progress().space
        if offers == "start" or (offers == "accept" and now - since > STUCK_S):
            led.tracker.accept()
        if led.tracker.finished:
            break
    return led


def test_a_module_is_led_through_the_routine_in_memory_and_its_steps_are_found() -> None:
    """Samples as a jig sends them, a few at a time; one that runs back in time is left out."""
    whole = performed("sound").recording
    led = led_through(whole)
    assert led.tracker.finished
    before = len(led.recording.t_us)
    led.feed(np.array([0]), whole.raw[:1])
    assert len(led.recording.t_us) == before
    assert led.recording.t_us[0] == 0
    assert set(led.recording.step.tolist()) > {NO_STEP}


def test_a_module_with_a_dead_axis_comes_to_its_end_and_is_bad() -> None:
    """“Keep going round”, for five minutes, and then nothing of it was kept."""
    sound = performed("sound").recording
    u = sound.u.copy()
    u[:, 1] = 0.0
    led = led_through(transformed(sound, u), over=3)
    assert led.tracker.finished
    (bad,) = judge(PartFindings(jig=read_on_jig(measure_take(led.recording, None))), None, None).bad
    assert "y gives no signal" in bad


@pytest.mark.parametrize(("fault", "over"), [({}, False), ({"stops_short": 9.0}, True)])
def test_a_module_of_one_axis_is_asked_for_what_it_can_do(fault: dict, over: bool) -> None:
    """It was to be led round the rim."""
    led = led_through(lever.taken(replace(lever.SOUND, **fault), 3, sprung=True), over=3)
    assert led.tracker.finished
    read = measure_take(led.recording, None)
    assert read.crossing is not None
    assert read.let_go is not None
    assert read.let_go.releases >= 6, "of eight that are asked, as of two axes"
    assert bool(read_on_jig(read).over) == over
