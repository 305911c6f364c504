"""Small estimators that several steps share. All of them work on whole arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from hollow_pin.core.recording import Floats

IN_CACHE = 32_768
"""Samples that are worked on at a time where a long array would not fit the processor's cache."""


def centre(v: Floats) -> Floats:
    """The interquartile mean along the first axis: 25 % trimmed from each end.

    v: (n, …), n ≥ 1. As robust as a median, and finer than one quantisation level.
    """
    n = v.shape[0]
    cut = n // 4
    if cut == 0:
        return np.asarray(v.mean(axis=0))
    ordered = np.partition(v, (cut, n - cut - 1), axis=0)
    return np.asarray(ordered[cut : n - cut].mean(axis=0))


def theil_sen(x: Floats, y: Floats) -> float:
    """The median of the slopes between every two points (Theil 1950, Sen 1968).

    x, y: (n,), n ≥ 2, x increasing. Holds all n(n − 1)/2 slopes at once: an hour of seconds is 52 MB.
    """
    n = len(x)
    slopes = np.empty(n * (n - 1) // 2)
    at = 0
    for lag in range(1, n):
        np.divide(y[lag:] - y[:-lag], x[lag:] - x[:-lag], out=slopes[at : at + n - lag])
        at += n - lag
    return float(np.median(slopes, overwrite_input=True))


def runs(mask: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Starts and stops (exclusive) of the unbroken runs of True."""
    padded = np.concatenate(([False], mask, [False])).astype(np.int8)
    edges = np.flatnonzero(np.diff(padded))
    return edges[::2], edges[1::2]


def odd_window(seconds: float, interval_s: float, n: int) -> int:
    """The odd number of samples nearest to a length of time, at least 1 and at most n."""
    window = 2 * int(seconds / interval_s / 2) + 1
    return max(1, min(window, n if n % 2 else n - 1))


def baseline(v: Floats, interval_s: float) -> Floats:
    """Running median over 0.5 s, then running mean over 0.5 s, of one axis (n,)."""
    window = odd_window(0.5, interval_s, len(v))
    median = ndimage.median_filter(v, window, mode="reflect")
    return np.asarray(ndimage.uniform_filter1d(median, window, mode="reflect", output=median))


def binned_median(values: Floats, bins: NDArray[np.intp], count: int) -> Floats:
    """The median of the values in each of `count` bins; NaN where a bin is empty."""
    if not values.size:
        return np.full(count, np.nan)
    order = np.lexsort((values, bins))
    ordered, placed = values[order], bins[order]
    start = np.searchsorted(placed, np.arange(count), side="left")
    stop = np.searchsorted(placed, np.arange(count), side="right")
    filled = stop > start
    low = np.where(filled, (start + stop - 1) // 2, 0)
    high = np.where(filled, (start + stop) // 2, 0)
    return np.where(filled, (ordered[low] + ordered[high]) / 2, np.nan)


def resolution(v: Floats) -> float:
    """The smallest difference between distinct values; 0 where the value never changes.

    Differences far below a real step are the rounding of the arithmetic, not of the converter.
    """
    steps = np.diff(np.unique(v))
    steps = steps[steps > 1e-9]
    return float(steps.min()) if steps.size else 0.0


@dataclass(frozen=True)
class Timing:
    """rate_hz; timing_jitter_ms; gaps: intervals over three medians; longest_gap_s."""

    rate_hz: float
    timing_jitter_ms: float
    gaps: int
    longest_gap_s: float

    @property
    def interval_s(self) -> float:
        return 1.0 / self.rate_hz


def timing(t: Floats) -> Timing | None:
    """The true rate of samples at times t (n,) in seconds; None when it cannot be told."""
    intervals = np.diff(t)
    if not intervals.size:
        return None
    median = float(np.median(intervals))
    if median <= 0:
        median = float(intervals.mean())
    if median <= 0:
        return None
    return Timing(
        rate_hz=1.0 / median,
        timing_jitter_ms=float(intervals.std()) * 1e3,
        gaps=int((intervals > 3 * median).sum()),
        longest_gap_s=float(intervals.max()),
    )


@dataclass(frozen=True)
class AllanPoint:
    """One averaging time and the deviation found there."""

    tau_s: float
    adev: float


def overlapping_allan(y: Floats, interval_s: float) -> tuple[AllanPoint, ...]:
    """Overlapping Allan deviation of frequency data y (n,), at τ = τ0·2^k up to a quarter of n.

    Riley, Handbook of Frequency Stability Analysis, NIST SP 1065, section 5.2.5.
    """
    n = len(y)
    phase = np.empty(n + 1)
    phase[0] = 0.0
    np.cumsum(y - y.mean(), out=phase[1:])
    points = []
    m = 1
    while 4 * m <= n:
        points.append(AllanPoint(m * interval_s, allan_at(phase, m)))
        m *= 2
    return tuple(points)


def allan_at(phase: Floats, m: int) -> float:
    """Overlapping Allan deviation at an averaging factor m, from phase data in units of τ0."""
    count = len(phase) - 2 * m
    total = 0.0
    for start in range(0, count, IN_CACHE):
        stop = min(start + IN_CACHE, count)
        middle = phase[start + m : stop + m]
        second = phase[start + 2 * m : stop + 2 * m] - middle
        second -= middle
        second += phase[start:stop]
        total += float(second @ second)
    return float(np.sqrt(total / count / 2) / m)
