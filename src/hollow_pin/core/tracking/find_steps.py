"""The steps of a routine in a recording that names none."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.held_time import evenly
from hollow_pin.core.joint import moved_by_hand
from hollow_pin.core.recording import NO_STEP, STEPS, Recording, RecordingError
from hollow_pin.core.routine import STEP_LABEL, Routine, StepName
from hollow_pin.core.tracking.impatience import Impatience
from hollow_pin.core.tracking.segments import find_segments, steps_of
from hollow_pin.core.tracking.tracker import StepTracker

BLOCK_S = 0.02


def find_steps(recording: Recording, routine: Routine) -> Recording:
    """The same samples, each with the step it belongs to.

    Of a stick with a spring, by what each stretch looks like, in any order. Of one without, as its
    only step would have been found live; where that had to be forced, it was something else that was
    recorded, and there are none."""
    even, on_held_time, _ = evenly(recording)
    if "turn" not in routine.steps:
        codes = {name: STEPS.index(name) for name in routine.steps}
        moved = moved_by_hand(on_held_time).u
        if moved.shape[1] == 1:
            moved = np.pad(moved, ((0, 0), (0, 1)))
        step = steps_of(len(on_held_time.t), find_segments(on_held_time.t, moved), codes)
    else:
        step = _as_live(on_held_time, routine)
    if on_held_time is not even:
        step = step[np.searchsorted(on_held_time.t_us, even.t_us, side="right") - 1]
    return replace(recording, step=step)


def _as_live(recording: Recording, routine: Routine) -> NDArray[np.int8]:
    """The step of each sample (n,) of a routine of one step, as a tracker finds it."""
    t, u = recording.t, recording.u
    tracker, impatience = StepTracker(routine, axes=len(recording.ranges)), Impatience()
    step = np.full(len(t), NO_STEP, dtype=np.int8)
    starts = np.unique(np.searchsorted(t, np.arange(0.0, t[-1] + 1e-6, BLOCK_S)))
    for start, stop in zip(starts, [*starts[1:], len(t)], strict=True):
        if tracker.finished:
            break
        step[start:stop] = tracker.feed(t[start:stop], u[start:stop])
        if impatience.gives_up(tracker, float(t[stop - 1])):
            step[:] = NO_STEP
            break
    return step


@dataclass(frozen=True)
class StepSpan:
    """Where a step lies, in seconds from the first sample; to_s is not part of it."""

    step: StepName
    from_s: float
    to_s: float


def spans_of(recording: Recording) -> tuple[StepSpan, ...]:
    """Where the steps of a recording lie, in time order."""
    t, step = recording.t, recording.step
    edges = np.flatnonzero(np.diff(step)) + 1
    starts, stops = np.append(0, edges), np.append(edges, len(step))
    end = float(t[-1]) + 1e-6
    ends = np.append(t, end)
    names: dict[int, StepName] = {STEPS.index(name): name for name in STEP_LABEL}
    return tuple(
        StepSpan(names[int(step[a])], float(t[a]), float(ends[b]))
        for a, b in zip(starts, stops, strict=True)
        if step[a] != NO_STEP
    )


def with_spans(recording: Recording, spans: tuple[StepSpan, ...]) -> Recording:
    """The same samples, each with the step that somebody says it belongs to. Raises RecordingError
    where two stretches overlap, or one holds no sample."""
    step = np.full(len(recording.t_us), NO_STEP, dtype=np.int8)
    for span in spans:
        label = f"{STEP_LABEL[span.step]} from {span.from_s:.2f} to {span.to_s:.2f} s"
        start, stop = np.searchsorted(recording.t, (span.from_s, span.to_s))
        if stop <= start:
            raise RecordingError(f"{label} holds no sample")
        if (step[start:stop] != NO_STEP).any():
            raise RecordingError(f"{label} overlaps another step")
        step[start:stop] = STEPS.index(span.step)
    return replace(recording, step=step)
