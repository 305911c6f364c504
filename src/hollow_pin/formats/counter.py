"""Times that a device counts, and begins to count again."""

from __future__ import annotations

import numpy as np

from hollow_pin.core.recording import Floats

COUNTERS = (2.0**16, 2.0**32)
"""Where a device's counters begin again: of milliseconds after a minute, of microseconds after 71."""


def unwrapped(t: Floats) -> Floats:
    """Times (n,) of a counter that goes on where it began again; any others as they are. It falls by
    more than half of what it counts to, whenever it falls."""
    changes = np.diff(t)
    fell = changes < 0
    if not fell.any() or t.min() < 0 or (t != np.floor(t)).any():
        return t
    for whole in COUNTERS:
        if t.max() < whole and (changes[fell] < -whole / 2).all():
            return np.asarray(t + whole * np.append(0, np.cumsum(fell)))
    return t
