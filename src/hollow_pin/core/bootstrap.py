"""Resampling a take, so many times, with counts of how often each of its parts is drawn: a replicate
costs a row of a matrix product (Efron & Tibshirani 1993).
"""

from __future__ import annotations

from math import sqrt

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats
from hollow_pin.core.still import Residual

REPLICATES = 200


def draws(rng: np.random.Generator, count: int) -> NDArray[np.float64]:
    """How often each of `count` things is drawn in each replicate: (replicates, count)."""
    picks = rng.integers(0, count, (REPLICATES, count), dtype=np.int32)
    picks += count * np.arange(REPLICATES, dtype=np.int32)[:, None]
    drawn = np.bincount(picks.ravel(), minlength=REPLICATES * count)
    return drawn.reshape(REPLICATES, count).astype(np.float64)


def spread(replicates: Floats, count: int) -> float:
    """Standard deviation of the replicates, freed of the bias of resampling few things."""
    return float(replicates.std(ddof=1)) * sqrt(count / (count - 1))


def reach(replicates: Floats, count: int) -> float:
    """Half of how far 95 % of the replicates reach from their median, to the longer side. It is more
    than their spread where one block or pass makes most of a reading and may as well be missed."""
    least, usual, most = np.percentile(replicates, (2.5, 50.0, 97.5))
    return float(max(usual - least, most - usual)) / 2 * sqrt(count / (count - 1))


def high_quantile(
    values: Residual, blocks: NDArray[np.intp], sizes: Floats, draws: Floats
) -> Floats:
    """99.9th percentile under each replicate of the blocks. values (m,): the largest ones only, and
    which block each is in; sizes: how many values each block has in all."""
    top = np.argsort(values)[::-1]
    above = np.cumsum(draws[:, blocks[top]], axis=1)
    rank = 0.001 * (draws @ sizes)
    return np.asarray(values[top][np.argmax(above > rank[:, None], axis=1)])
