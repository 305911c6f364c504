"""What a rest does slower than it trembles: how far it sways, and whether both axes do so as one."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats
from hollow_pin.core.statistics import IN_CACHE, centres, seconds_of
from hollow_pin.core.untouched import lengths_from

REACHED = 0.995
SWAY_S, FEWEST_SWAYS = 0.25, 20
LEAST_SWAY = 0.3
"""%, standard deviation, of both axes: less is a last digit of the converter, or of what it is held
against."""
SWAYS = 0.9
"""Of the time, that a rest is no farther out."""


def reach(u: Floats, rest: Floats, spiked: NDArray[np.bool_], share: float = REACHED) -> float:
    """How far from a place (k,) that share of the samples in no spike lies."""
    away = np.empty(len(u), dtype=np.float32)
    for start in range(0, len(u), IN_CACHE):
        part = slice(start, start + IN_CACHE)
        away[part] = lengths_from(u[part], rest)
    if spiked.any() and not spiked.all():
        away = away[~spiked]
    at = int(share * (len(away) - 1))
    away.partition(at)
    return float(away[at])


def sways_by(u: Floats, rest: Floats, spiked: NDArray[np.bool_]) -> float:
    """How far from its rest (k,) it usually goes, in the second quietest of four quarters: a touch
    lasts over two of them at the most."""
    parts = [slice(a, b) for a, b in pairwise(np.linspace(0, len(u), 5).astype(int))]
    return sorted(reach(u[part], rest, spiked[part], SWAYS) for part in parts)[1]


def sway_in_common(t: Floats, u: Floats) -> float | None:
    starts, stop = seconds_of(t, SWAY_S)
    if len(starts) < FEWEST_SWAYS:
        return None
    x, y = (centres(v[:stop], starts) for v in u.T)
    return float(np.corrcoef(x, y)[0, 1]) if min(x.std(), y.std()) > LEAST_SWAY else None
