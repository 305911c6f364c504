"""The steps of a routine in a recording that names none."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hollow_pin.core.recording import NO_STEP, STEPS, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.core.tracking.impatience import Impatience
from hollow_pin.core.tracking.segments import find_segments, steps_of
from hollow_pin.core.tracking.tracker import StepTracker

BLOCK_S = 0.02


def find_steps(recording: Recording, routine: Routine) -> Recording:
    """The same samples, each with the step it belongs to.

    Of two axes, by what each stretch looks like, in any order. Of a single one, as they would have
    been found live: whoever recorded them has to have done them in the routine's order. Where a
    first step that had to be forced is the only one, it was something else that was recorded, and
    there are none."""
    if len(recording.ranges) == 2:
        codes = {name: STEPS.index(name) for name in routine.steps}
        found = find_segments(recording.t, recording.u)
        return replace(recording, step=steps_of(len(recording.t), found, codes))
    return _as_live(recording, routine)


def _as_live(recording: Recording, routine: Routine) -> Recording:
    t, u = recording.t, recording.u
    tracker, impatience = StepTracker(routine, axes=len(recording.ranges)), Impatience()
    forced = False
    step = np.full(len(t), NO_STEP, dtype=np.int8)
    starts = np.unique(np.searchsorted(t, np.arange(0.0, t[-1] + 1e-6, BLOCK_S)))
    for start, stop in zip(starts, [*starts[1:], len(t)], strict=True):
        if tracker.finished:
            break
        step[start:stop] = tracker.feed(t[start:stop], u[start:stop])
        if impatience.gives_up(tracker, float(t[stop - 1])):
            forced = forced or not tracker.progress().done
            tracker.accept()
    if forced and len(tracker.progress().done) < 2:
        step[:] = NO_STEP
    return replace(recording, step=step)
