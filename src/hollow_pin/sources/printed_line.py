"""What a line that somebody's sketch prints holds: its numbers, with names before them or without, and
when they were sampled where it does not say."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AXES
from hollow_pin.formats.labelled import named_values

MOST_NUMBERS = 8
GOES_ON = 0.9
"""Of all lines, with which a clock goes on: one may be garbled, or wrap."""
FASTEST_US = 12.0
"""Between two lines of a port: one of a dozen bytes takes as long by the fastest there is."""
SLOW_CLOCK = 0.02
"""Of a microsecond a microsecond, below which a clock counts something else, as milliseconds."""
WATCHED_S = 0.2
"""For which two clocks are watched, before they are held against each other."""
SETTLES_IN = 100
"""Samples within which the pace of samples without a time is learnt."""
CATCHES_UP = 0.1
"""Of how far such times lag behind what came, that each piece of them makes good."""
STALL_S = 0.25
"""Without a sample, from which on it is a gap."""

_PARTS = re.compile(rb"[ \t]*[,;|][ \t]*|[ \t]+")
_AXIS = re.compile(rb"(?:^|[^A-Za-z]|(?<=[a-z])(?=[XY]))([XYxy])\d*$")
"""What a name of an axis ends in: “x”, “Joy X”, “joyX”, “left_x”; and not “battery”."""


def numbers_in(line: bytes) -> tuple[list[float], bool] | None:
    """The numbers of a line, and whether names stand before them: then those of x and y alone, where
    they are among them. None where it is no such line."""
    named = named_values(line)
    try:
        if named is None:
            parts = _PARTS.split(line.strip(b" \t,;[](){}"))
            return ([float(p) for p in parts], False) if len(parts) <= MOST_NUMBERS else None
        ends = [(_AXIS.search(name.strip()), value) for name, value in named]
        by_axis = {found[1].lower(): value for found, value in ends if found}
        axes = [by_axis[a.encode()] for a in AXES if a.encode() in by_axis]
        return [float(value) for value in axes or [value for _, value in named]], True
    except ValueError:
        return None


def has_clock(rows: Sequence[Sequence[float]]) -> bool:
    """Whether the first of the numbers of some lines is a time: it goes on with nearly every one of
    them. What a stick reads does not, over seconds."""
    first = np.array([row[0] for row in rows])
    return len(first) > 1 and float((np.diff(first) > 0).mean()) >= GOES_ON


def counts_otherwise(first: Sequence[float], took_s: float) -> bool:
    """Whether the times of some lines are no microseconds, as those of a clock of milliseconds.
    took_s: how long they took to come."""
    steps = np.diff(np.array(first, float))
    if len(steps) == 0:
        return False
    went_on = float(steps.sum()) / 1e6
    return float(np.median(steps)) < FASTEST_US or (
        took_s >= WATCHED_S and went_on < SLOW_CLOCK * took_s
    )


class Arrivals:
    """When samples were made that do not say so: as evenly as a sketch prints them, however unevenly a
    port hands them over."""

    def __init__(self) -> None:
        self._until: float | None = None
        self._each = 0.0
        self._seen = 0

    def times(self, count: int, now_s: float) -> NDArray[np.int64] | None:
        """Microseconds of so many samples that came together at a time; None of the first, of which
        nobody knows how long they had waited."""
        if self._until is None:
            self._until = now_s
            return None
        took = now_s - self._until
        if self._seen and took > STALL_S + 2 * count * self._each:
            self._until = now_s - count * self._each
        else:
            weight = max(count / (self._seen + count), min(1.0, count / SETTLES_IN))
            self._each += weight * (max(took, 0.0) / count - self._each)
        self._seen += count
        ahead = count * self._each
        ahead += CATCHES_UP * max(now_s - self._until - ahead, -ahead)
        ahead = max(ahead, count * 1e-6)
        times = self._until + ahead * np.arange(1, count + 1) / count
        self._until += ahead
        return np.round(times * 1e6).astype(np.int64)
