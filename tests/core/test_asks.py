"""What a take asks for next: nothing, to be measured again, or something to be done."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from hollow_pin.core.recording import STEPS, Recording
from hollow_pin.core.routine import StepName
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from sticks import idle, performed, picked, transformed


def at(recording: Recording, x: float | None, y: float | None) -> Recording:
    """The same, with axes that stay where they are put."""
    u = recording.u.copy()
    for axis, stays in enumerate((x, y)):
        if stays is not None:
            u[:, axis] = stays
    return transformed(recording, u)


def only(recording: Recording, *steps: StepName) -> Recording:
    return picked(recording, np.isin(recording.step, [STEPS.index(step) for step in steps]))


def sound() -> Recording:
    return performed("sound").recording


@pytest.mark.parametrize(
    ("of", "asks"),
    [
        (sound, "nothing"),
        (lambda: performed("dirty").recording, "something"),
        (lambda: performed("loose").recording, "something"),
        (lambda: at(sound(), None, 0.0), "something"),
        (lambda: performed("binding").recording, "something"),
        (lambda: at(sound(), 0.0, 0.0), "again"),
        (lambda: only(sound(), "still"), "again"),
        (lambda: only(sound(), "rim"), "again"),
        (lambda: only(performed("sound", bits=6).recording, "still", "let-go", "rim"), "again"),
        (lambda: picked(sound(), sound().t < 0.3), "again"),
        (lambda: performed("dead-zone").recording, "again"),
        (lambda: idle(performed("worn-steady").recording, 0.5), "again"),
    ],
)
def test_what_is_seen_to_by_hand_is_no_measurement(of: Callable[[], Recording], asks: str) -> None:
    """“Measure again”, of a joint that is loose however often it is measured."""
    assert explain(measure_take(of())).asks == asks
