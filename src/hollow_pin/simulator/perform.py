"""A whole run of the routine on a stand-in, without a clock: for tests and accuracy tables."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hollow_pin.core.recording import Floats, Recording, to_percent
from hollow_pin.core.routine import Routine, usual_routine
from hollow_pin.core.tracking.impatience import Impatience
from hollow_pin.core.tracking.tracker import StepTracker
from hollow_pin.simulator.stand_in import StandIn

LONGEST_S = 480.0


@dataclass(frozen=True, eq=False)
class Performance:
    """The recording, and the truth behind it: clean (n, 2) % of half range."""

    recording: Recording
    clean: Floats


def perform(
    stand_in: StandIn, routine: Routine | None = None, block_s: float = 0.02
) -> Performance:
    """Run the routine from hands-off to done; where it goes no further by itself, Space is pressed.

    Raises RuntimeError if it does not end in eight minutes more than its longest Still.
    """
    body = stand_in.stick.body
    routine = routine or usual_routine(body.axes, body.spring_hz > 0)
    ranges = stand_in.ranges
    tracker = StepTracker(routine, axes=len(ranges))
    count = max(1, round(block_s * stand_in.stick.converter.rate_hz))
    parts, steps = [], []
    impatience = Impatience()
    while not tracker.finished:
        if stand_in.now > LONGEST_S + routine.still_s:
            raise RuntimeError(f"the routine did not end: {tracker.progress().says}")
        stand_in.hand.cue(tracker.step, stand_in.now)
        samples = stand_in.run(count)
        t = samples.t_us / 1e6
        steps.append(tracker.feed(t, to_percent(samples.raw, ranges)))
        parts.append(samples)
        if impatience.gives_up(tracker, stand_in.now):
            tracker.accept()
    return Performance(
        Recording(
            t_us=np.concatenate([p.t_us for p in parts]),
            raw=np.concatenate([p.raw for p in parts]),
            ranges=ranges,
            step=np.concatenate(steps),
        ),
        np.concatenate([p.clean for p in parts]),
    )
