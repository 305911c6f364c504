"""A whole run of the routine on a stand-in, without a clock: for tests and accuracy tables."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hollow_pin.core.recording import Floats, Recording, to_percent
from hollow_pin.core.tracker import Routine, StepTracker
from hollow_pin.simulator.stand_in import StandIn

LONGEST_S = 240.0


@dataclass(frozen=True, eq=False)
class Performance:
    """The recording, and the truth behind it: clean (n, 2) % of half range."""

    recording: Recording
    clean: Floats


def perform(
    stand_in: StandIn, routine: Routine | None = None, block_s: float = 0.02
) -> Performance:
    """Run the routine from hands-off to done. Raises RuntimeError if it does not end in 4 minutes."""
    routine = routine or Routine()
    tracker = StepTracker(routine, axes=len(stand_in.ranges))
    count = max(1, round(block_s * stand_in.stick.converter.rate_hz))
    parts, steps = [], []
    while not tracker.finished:
        if stand_in.now > LONGEST_S:
            raise RuntimeError(f"the routine did not end: {tracker.progress().says}")
        stand_in.hand.cue(tracker.step, stand_in.now)
        samples = stand_in.run(count)
        t = samples.t_us / 1e6
        steps.append(tracker.feed(t, to_percent(samples.raw, stand_in.ranges)))
        parts.append(samples)
        if tracker.progress().space == "start":
            tracker.accept()
    return Performance(
        Recording(
            t_us=np.concatenate([p.t_us for p in parts]),
            raw=np.concatenate([p.raw for p in parts]),
            ranges=stand_in.ranges,
            step=np.concatenate(steps),
        ),
        np.concatenate([p.clean for p in parts]),
    )
