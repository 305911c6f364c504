"""A routine that is led in memory: what is measured is kept, and no take is made of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AxisRange, Floats, Recording, admitted, to_percent
from hollow_pin.core.routine import Routine
from hollow_pin.core.tracking.tracker import STUCK_S, StepTracker


class RoutineFollower:
    """Follows samples through a routine, while somebody watches. What no take would let in is left out
    here too."""

    def __init__(self, ranges: tuple[AxisRange, ...], routine: Routine) -> None:
        self.ranges = ranges
        self.tracker = StepTracker(routine, axes=len(ranges), stuck_s=STUCK_S)
        self._first_us: int | None = None
        self._last_us: int | None = None
        self._blocks: list[tuple[NDArray[np.int64], Floats, NDArray[np.int8]]] = []

    def feed(self, t_us: NDArray[np.int64], raw: Floats) -> float:
        """Take samples in: t_us (n,), n ≥ 1, raw (n, k). Seconds since the first of all."""
        if self._first_us is None:
            self._first_us = int(t_us[0])
        since = t_us - self._first_us
        good = admitted(since, raw, self.ranges, self._last_us)
        since, raw = since[good], raw[good]
        if len(since):
            self._last_us = int(since[-1])
            step = self.tracker.feed(since / 1e6, to_percent(raw, self.ranges))
            self._blocks.append((since, raw, step))
        return (self._last_us or 0) / 1e6

    @property
    def recording(self) -> Recording:
        """All of it so far, each sample with its step; there must be some."""
        t_us, raw, step = zip(*self._blocks, strict=True)
        return Recording(
            np.concatenate(t_us), np.concatenate(raw), self.ranges, np.concatenate(step)
        )
