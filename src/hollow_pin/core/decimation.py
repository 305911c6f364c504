"""Fewer points for the eye, with every extreme in place."""

from __future__ import annotations

import numpy as np

from hollow_pin.core.recording import Floats


def envelope(t: Floats, u: Floats, buckets: int) -> tuple[Floats, Floats, bool]:
    """At most two points a bucket of equal time: the lowest and the highest of each axis.

    t (n,) increasing, u (n, k), buckets ≥ 1. Returns times (m,), values (m, k) and whether anything
    was left out; all samples where there are no more than two a bucket.
    """
    n = len(t)
    if n <= 2 * buckets:
        return t, u, False
    edges = np.linspace(t[0], t[-1], buckets + 1)
    starts = np.unique(np.searchsorted(t, edges[:-1]))
    stops = np.append(starts[1:], n)
    low = np.minimum.reduceat(u, starts, axis=0)
    high = np.maximum.reduceat(u, starts, axis=0)
    times = np.column_stack((t[starts], t[stops - 1])).ravel()
    values = np.empty((2 * len(starts), u.shape[1]))
    values[::2], values[1::2] = low, high
    return times, values, True
