"""What a device's own low-pass filter made of a signal, undone. A filter of the first order (an
exponential average, or a resistor and a capacitor) keeps a share of where it was from one moment to
the next; it turns a jump into an approach, each step of it the same share of the one before. No hand
moves so: it gathers speed first; and a spring that brings a stick back so does it once.

By the ratio of successive steps after an abrupt one, as a time constant is read off a step response.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, log

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, Indices
from hollow_pin.core.statistics import median

STEP_S = 0.004
"""Between samples that are held against each other: of what comes faster every so many, or its noise
would be all that is left of it."""
LEAST_STEP = 5.0
"""%, of a step that a filtered jump begins with."""
ABRUPT = 0.1
"""Of it: the last step but one before it was that large at most."""
ALIKE = 0.1
"""By how much the ratios of the two steps after it may differ, of a jump that lasts; and one jump's
from the usual."""
LEAST_KEPT, MOST_KEPT = 0.1, 0.97
"""The share that a filter keeps: less is none to speak of, more hides every jump."""
SOON_S = 0.25
"""In which a jump is back: a stick that comes back slowly does so by one share as well, but after it
was held."""
FEWEST, AGREE = 6, 0.15
"""Edges of jumps that tell of a filter, and the share of all abrupt ones that they are at least."""
REMAINS = 0.005
"""Of a jump, where the filter's approach is over."""


@dataclass(frozen=True, eq=False)
class Unfiltered:
    """signal: as it went into the filter, (n,) %, within the range. retained: the share of where it
    was that the filter keeps over so many samples (every), 0 for none. tail: samples for which what
    has jumped back goes on to show."""

    signal: Floats
    retained: float = 0.0
    every: int = 1

    @property
    def tail(self) -> int:
        return self.every * ceil(log(REMAINS) / log(self.retained)) if self.retained else 0

    def shows(self, first: int, last: int) -> slice:
        """Where what jumped from sample `first` up to `last` shows in what came out."""
        return slice(max(0, first - self.every + 1), last + self.tail)

    def error(self, resolution: float) -> float:
        """How far the signal may be off by steps of the converter of this size, %; as much as the
        step where there is no filter."""
        return resolution * max(1.0, (1 + self.retained) / (1 - self.retained) / 2)


def unfiltered(v: Floats, interval_s: float) -> Unfiltered:
    """An axis (n,), %, with a sample every so many seconds, as it was before the filter; itself where
    none is seen."""
    every = max(1, round(STEP_S / interval_s)) if interval_s else 1
    retained = _retained_share(v[::every], SOON_S / (every * interval_s)) if interval_s else 0.0
    if not retained:
        return Unfiltered(v)
    signal = v.copy()
    signal[every:] = (v[every:] - retained * v[:-every]) / (1 - retained)
    return Unfiltered(np.clip(signal, -100.0, 100.0), retained, every)


def _retained_share(v: Floats, soon: float) -> float:
    """The share that is retained from one sample to the next. soon: in so many a jump is back."""
    step = np.diff(v)
    size = np.abs(step)
    begun = np.flatnonzero(size >= LEAST_STEP)
    begun = begun[(begun >= 2) & (begun < len(step) - 2)]
    begun = begun[_is_abrupt(size, begun)]
    begun = begun[_there_and_back(step, begun, soon)]
    if len(begun) < FEWEST:
        return 0.0
    first = step[begun + 1] / step[begun]
    second = step[begun + 2] / np.where(step[begun + 1] == 0, np.inf, step[begun + 1])
    goes_on = (first >= LEAST_KEPT) & (first <= MOST_KEPT) & (np.abs(first - second) <= ALIKE)
    if not goes_on.any():
        return 0.0
    usual_share = median(first[goes_on])
    alike = goes_on & (np.abs(first - usual_share) <= ALIKE)
    return usual_share if alike.sum() >= max(FEWEST, AGREE * len(begun)) else 0.0


def _there_and_back(step: Floats, at: Indices, soon: float) -> NDArray[np.bool_]:
    """Whether the step after or before it goes the other way, soon."""
    there_and_back = np.zeros(len(at), dtype=bool)
    back = (np.diff(at) <= soon) & (step[at[1:]] * step[at[:-1]] < 0)
    there_and_back[1:] |= back
    there_and_back[:-1] |= back
    return there_and_back


def _is_abrupt(size: Floats, at: Indices) -> NDArray[np.bool_]:
    """Whether the steps there are the largest around, and began within one sample."""
    largest = (size[at] >= size[at - 1]) & (size[at] > size[at + 1])
    return np.asarray(largest & (size[at - 2] <= ABRUPT * size[at]))
