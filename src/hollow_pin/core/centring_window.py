"""What a stick did in the last moments: whether it lies still, and what it trembles and sways by."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from hollow_pin.core.recording import Floats
from hollow_pin.core.statistics import centre, centres, odd_window, running_median

WINDOW_S = 0.6
"""How long a stick must be quiet to be read."""
SPIKE_S = 0.03
SWAYS_S = 0.1
"""What it sways by is how far the middles of as long lie apart where it was let go. Hum and white
noise, however strong, hardly move them."""
WITHOUT_SPIKES, NORMAL_WITHIN = 0.8, 1.2816
"""What it trembles by is told by as many of the samples, which lie within as many standard deviations
of a normal distribution: spikes are none of it."""
NORMAL = 1.4826
"""Of a normal distribution, a standard deviation over the median absolute one."""


@dataclass(eq=False)
class Window:
    """The last samples: t (n,) seconds, p (n, 2) %."""

    t: Floats = field(default_factory=lambda: np.empty(0))
    p: Floats = field(default_factory=lambda: np.empty((0, 2)))

    def add(self, t: Floats, p: Floats) -> None:
        self.t, self.p = np.concatenate((self.t, t)), np.concatenate((self.p, p))
        keep = int(np.searchsorted(self.t, t[-1] - WINDOW_S))
        self.t, self.p = self.t[keep:], self.p[keep:]

    def since(self, seconds: float) -> Floats:
        """What came within the last seconds, spikes taken out."""
        # A little more is looked at before it, so that its first samples are smoothed as well.
        wide, first = np.searchsorted(self.t, self.t[-1] - seconds - np.array([SPIKE_S, 0.0]))
        recent = self.p[int(wide) :]
        interval = (self.t[-1] - self.t[0]) / max(len(self.t) - 1, 1)
        width = odd_window(SPIKE_S, max(interval, 1e-6), len(recent))
        return np.column_stack([running_median(v, width) for v in recent.T])[int(first - wide) :]

    @property
    def span(self) -> float:
        """Seconds."""
        return float(self.t[-1] - self.t[0])

    @property
    def middle(self) -> Floats:
        """Where it lies, (2,) %."""
        return centre(self.p)

    @property
    def _halves(self) -> tuple[Floats, Floats]:
        return self.p[: len(self.p) // 2], self.p[len(self.p) // 2 :]

    @property
    def apart(self) -> float:
        """How far the middles of its halves lie apart, on the worse axis, %."""
        early, late = self._halves
        return float(np.abs(centre(early) - centre(late)).max())

    def scatter(self, axes: int) -> float:
        """What it trembles by on the worse of so many axes, %, as one standard deviation; spikes are
        none of it."""
        # Within each half, so that a stick that slides is not held to be noisy.
        about = np.abs(np.concatenate([half - centre(half) for half in self._halves]))
        within = np.quantile(about, WITHOUT_SPIKES, axis=0)[:axes].max()
        return float(within) / NORMAL_WITHIN

    def sway(self, axes: int) -> float:
        """How far the middles of its tenths of a second lie apart, on the worse of so many axes, %,
        as one standard deviation. The end of a return before it does not count."""
        t, p = self.t, self.p
        bounds = np.arange(t[0], t[-1] - SWAYS_S / 2, SWAYS_S)
        starts = np.unique(np.searchsorted(t, bounds))
        middles = np.column_stack([centres(axis, starts) for axis in p.T])
        steps = np.median(np.abs(np.diff(middles, axis=0)), axis=0)
        return float((steps * NORMAL / 2**0.5)[:axes].max())
