"""Lets what a hand does through, and no spike: dirt is told by the readings, not by the coach."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats
from hollow_pin.core.release import SPIKE_S

LEAP = 15.0
"""%, of either axis, and what it may go meanwhile: farther from one sample to the next a spike begins,
and from where it was before that it is not over."""
FASTEST = 600.0
"""% a second, of a stick that a hand takes round: a lap a second."""


class SpikeGate:
    """What leaps away and is back within the time of a spike is left out; what stays there was no
    spike, and counts from then on."""

    def __init__(self) -> None:
        self._last: tuple[float, Floats] | None = None
        self._away_since: float | None = None

    def lets_through(self, t: Floats, p: Floats) -> NDArray[np.bool_]:
        """Which of the next samples, t (n,) seconds and p (n, 2) %, are no part of a spike: (n,)."""
        through = np.ones(len(t), dtype=bool)
        before = p[:1] if self._last is None else self._last[1][None]
        steps = np.abs(np.diff(p, axis=0, prepend=before)).max(axis=1, initial=0.0)
        if self._away_since is None and (steps <= LEAP).all():
            self._last = float(t[-1]), p[-1]
            return through
        for i, now in enumerate(t.tolist()):
            through[i] = self._is_through(now, p[i])
        return through

    def _is_through(self, now: float, p: Floats) -> bool:
        if self._last is not None:
            at, where = self._last
            away = float(np.abs(p - where).max())
            if away > LEAP + FASTEST * (now - at):
                self._away_since = now if self._away_since is None else self._away_since
                if now - self._away_since < SPIKE_S:
                    return False
        self._last, self._away_since = (now, p), None
        return True
