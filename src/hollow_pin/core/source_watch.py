"""A stick that is moved so that its source shows what it is like: what is still to do, and when enough
of it was seen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import bearing, lengths
from hollow_pin.core.held_time import spread_out
from hollow_pin.core.recording import STEPS, AxisRange, Floats, Recording, admitted
from hollow_pin.core.source_check import RIM, passes_of, usable_of
from hollow_pin.core.statistics import timing

LEAST_S = 10.0
MOST_S = 45.0
PASSES = 3
SECTORS = 12


@dataclass(frozen=True)
class SourceCheckNow:
    """How far a check is. done: of 1. seconds: since its first report. passes: through the middle, an
    axis each. enough: it can end."""

    says: str
    done: float
    seconds: float
    rate_hz: float | None
    passes: tuple[int, ...]
    enough: bool


class SourceWatch:
    """Follows a stick that is moved, until enough of it was seen."""

    def __init__(self, ranges: tuple[AxisRange, ...], headers: dict[str, str]) -> None:
        self._ranges, self._headers = ranges, headers
        self._t_us: list[NDArray[np.int64]] = []
        self._raw: list[Floats] = []
        self._first_us: int | None = None

    def feed(self, t_us: NDArray[np.int64], raw: Floats) -> None:
        """t_us (n,) microseconds, raw (n, k) in the ranges of the source. What no take would let in is
        left out here too."""
        if self._first_us is None:
            self._first_us = int(t_us[0])
        since = t_us - self._first_us
        last = int(self._t_us[-1][-1]) if self._t_us else None
        good = admitted(since, raw, self._ranges, last)
        if good.any():
            self._t_us.append(since[good])
            self._raw.append(raw[good])

    @property
    def recording(self) -> Recording | None:
        """All of it so far, as one movement; None before the first sample."""
        if not self._t_us:
            return None
        t_us, raw = np.concatenate(self._t_us), np.concatenate(self._raw)
        step = np.full(len(t_us), STEPS.index("rim"), dtype=np.int8)
        return Recording(t_us, raw, self._ranges, step, self._headers)

    def now(self) -> SourceCheckNow:
        recording = self.recording
        if recording is None:
            return SourceCheckNow("Waiting for its first report.", 0.0, 0.0, None, (), False)
        seconds = float(recording.t[-1])
        pace = timing(spread_out(recording).t)
        passes = tuple(len(usable_of(p)) for p in passes_of(recording))
        says, share = _next(recording, passes, seconds)
        rate = pace.rate_hz if pace else None
        enough = share >= 1.0 or seconds >= MOST_S
        return SourceCheckNow(says, share, seconds, rate, passes, enough)


def _next(recording: Recording, passes: tuple[int, ...], seconds: float) -> tuple[str, float]:
    """What to do next, and how much of all is done, of 1."""
    around = ("straight from left to right and back", "straight up and down")
    ways = around if len(passes) == 2 else ("from end to end and back",)
    parts = [min(1.0, n / PASSES) for n in passes]
    if len(passes) == 2:
        parts.append(_round(recording))
    share = min(sum(parts) / len(parts), seconds / LEAST_S)
    for i, n in enumerate(passes):
        if n < PASSES:
            swift = len(passes_of(recording)[i]) > n
            how = " More slowly." if swift else ""
            return f"Move it {ways[i]}, through the middle: {n} of {PASSES}.{how}", share
    if parts[-1] < 1.0:
        return "Now once round the edge.", share
    return "Keep it moving.", share


def _round(recording: Recording) -> float:
    """How much of the way round it was out at the edge, of 1."""
    u = recording.u
    out = lengths(u) > RIM
    if not out.any():
        return 0.0
    sector = (bearing(u[out, 0], u[out, 1]) // (360 / SECTORS)).astype(int)
    return float(np.unique(sector).size / SECTORS)
