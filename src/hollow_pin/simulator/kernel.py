"""What a system's kernel makes of an axis before anybody reads it."""

from __future__ import annotations

import numpy as np

from hollow_pin.core.recording import Floats

WORD = (-32768, 32767)
FUZZ_SHARE = 256
"""Of the range, that a kernel takes for noise where its driver says nothing else."""


def defuzzed(values: Floats, fuzz: float) -> Floats:
    """Whole numbers (n,) as they are reported where changes below `fuzz` are taken for noise: what
    changed by under half of it stays as it was, by under all of it goes a quarter of the way, by under
    twice as much half of it."""
    reported = np.empty(len(values))
    old = float(values[0])
    for i, new in enumerate(values.tolist()):
        apart = abs(new - old)
        if apart < fuzz / 2:
            new = old
        elif apart < fuzz:
            new = int((old * 3 + new) / 4)
        elif apart < 2 * fuzz:
            new = int((old + new) / 2)
        reported[i] = old = new
    return reported
