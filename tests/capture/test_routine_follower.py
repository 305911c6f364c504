"""A routine that is led in memory, as a module on the jig is."""

from __future__ import annotations

import numpy as np

from hollow_pin.capture.routine_follower import RoutineFollower
from hollow_pin.core.recording import NO_STEP
from hollow_pin.core.routine import BY_ID
from sticks import performed


def test_a_module_is_led_through_the_routine_in_memory_and_its_steps_are_found() -> None:
    """Samples as a jig sends them, a few at a time; one that runs back in time is left out."""
    whole = performed("sound").recording
    led = RoutineFollower(whole.ranges, BY_ID["quick"])
    for start in range(0, len(whole.t_us), 25):
        part = slice(start, start + 25)
        led.feed(whole.t_us[part] + 5_000_000, whole.raw[part])
        if led.tracker.progress().space == "start":
            led.tracker.accept()
        if led.tracker.finished:
            break
    assert led.tracker.finished
    before = len(led.recording.t_us)
    led.feed(np.array([0]), whole.raw[:1])
    assert len(led.recording.t_us) == before
    assert led.recording.t_us[0] == 0
    assert set(led.recording.step.tolist()) > {NO_STEP}
