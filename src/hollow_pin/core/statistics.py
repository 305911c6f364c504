"""Small estimators that several steps share. All of them work on whole arrays."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from math import comb
from typing import Literal, TypeVar

import bottleneck
import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats

Result = TypeVar("Result")
LONG = 200_000
"""Samples from which a second processor is worth its start."""
IN_CACHE = 32_768
"""Samples that are worked on at a time where a long array would not fit the processor's cache."""


Real = TypeVar("Real", np.float32, np.float64)
Ends = Literal["symmetric", "edge"]
"""What stands beyond the ends of a recording: itself mirrored, or its last value held."""


TENTHS_APART = 2.5631
"""Standard deviations between the 10th and the 90th percentile of what is normally distributed: of
what lies on two or three steps of a converter the median of the distances may be none at all."""


def centre(v: Floats) -> Floats:
    """The interquartile mean along the first axis: 25 % trimmed from each end.

    v: (n,) or (n, k), n ≥ 1. As robust as a median, and finer than one quantisation level.
    """
    if v.ndim == 2:
        return np.array([centre(axis) for axis in v.T])
    cut = len(v) // 4
    return np.asarray(np.sort(v)[cut : len(v) - cut].mean())


def quantile(ordered: NDArray[Real], share: float) -> float:
    """A quantile of values in ascending order (n,), n ≥ 1, interpolated as by numpy.

    Sorting once is faster than selecting several times over.
    """
    at = share * (len(ordered) - 1)
    low = int(at)
    high = min(low + 1, len(ordered) - 1)
    return float(ordered[low]) + (at - low) * (float(ordered[high]) - float(ordered[low]))


def median(v: NDArray[Real]) -> float:
    """The median of v (n,), n ≥ 1."""
    return float(bottleneck.median(v))


GAP_TIMES = 3.0
"""Usual intervals from which on samples are missing between two."""
LOOKED_AT = 200_000
"""Samples of a long recording by which it is told what is usual in it."""


def usual_of(t: Floats) -> float:
    """The usual interval between times (n,), seconds, by the beginning of a long recording."""
    return max(median(np.diff(t[:LOOKED_AT])), 1e-9) if len(t) > 1 else 0.0


def usual_interval(dt: Floats) -> float:
    """The median of intervals (n,), of those above zero where most are not; 0 where none is."""
    usual = median(dt) if len(dt) else 0.0
    if usual > 0:
        return usual
    some = dt[dt > 0]
    return median(some) if len(some) else 0.0


def each_axis(work: Callable[[int], Result], axes: int, samples: int) -> list[Result]:
    """Do the same to every axis; side by side where the recording is long."""
    if axes == 1 or samples < LONG:
        return [work(i) for i in range(axes)]
    with ThreadPoolExecutor(axes) as pool:
        return list(pool.map(work, range(axes)))


def centres(v: Floats, starts: NDArray[np.intp]) -> Floats:
    """`centre` of consecutive blocks of one axis (n,), which begin at the starts; each not empty."""
    edges = np.append(starts, len(v))
    sizes = np.diff(edges)
    middles = np.empty(len(starts))
    for size in np.unique(sizes):
        which = np.flatnonzero(sizes == size)
        cut = size // 4
        for some in np.array_split(which, max(1, len(which) * size // IN_CACHE)):
            ordered = np.sort(v[starts[some, None] + np.arange(size)], axis=1)
            middles[some] = ordered[:, cut : size - cut].mean(axis=1)
    return middles


def seconds_of(t: Floats, each_s: float = 1.0) -> tuple[NDArray[np.intp], int]:
    """Where consecutive blocks of times (n,) begin, of so many seconds each, and where the last one
    ends; a last block under half of one is dropped."""
    edges = np.arange(t[0], t[-1], each_s)
    stop = len(t)
    if len(edges) > 1 and t[-1] - edges[-1] < each_s / 2:
        stop = int(np.searchsorted(t, edges[-1]))
        edges = edges[:-1]
    starts = np.unique(np.searchsorted(t, edges))
    return starts[starts < stop], stop


def theil_sen(x: Floats, y: Floats) -> float:
    """The median of the slopes between every two points (Theil 1950, Sen 1968).

    x, y: (n,), n ≥ 2, x increasing. Holds all n(n − 1)/2 slopes at once: an hour of seconds is 52 MB.
    """
    n = len(x)
    slopes = np.empty(n * (n - 1) // 2)
    even = bool(np.ptp(np.diff(x)) < 1e-9 * (x[1] - x[0]))
    at = 0
    for lag in range(1, n):
        some = np.subtract(y[lag:], y[:-lag], out=slopes[at : at + n - lag])
        some /= lag * (x[1] - x[0]) if even else x[lag:] - x[:-lag]
        at += n - lag
    middle = len(slopes) // 2
    slopes.partition(middle)
    if len(slopes) % 2:
        return float(slopes[middle])
    return float(slopes[:middle].max() + slopes[middle]) / 2


def runs(mask: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Starts and stops (exclusive) of the unbroken runs of True."""
    padded = np.concatenate(([False], mask, [False])).astype(np.int8)
    edges = np.flatnonzero(np.diff(padded))
    return edges[::2], edges[1::2]


def odd_window(seconds: float, interval_s: float, n: int) -> int:
    """The odd number of samples nearest to a length of time, at least 1 and at most n."""
    window = 2 * int(seconds / interval_s / 2) + 1
    return max(1, min(window, n if n % 2 else n - 1))


def running_median(v: NDArray[Real], window: int, ends: Ends = "symmetric") -> NDArray[Real]:
    """The median of the `window` (odd) samples around each of v (n,).

    A long recording of a converter's few steps is counted step by step, several times faster than
    keeping a window in order; both ways give the same values.
    """
    half = window // 2
    padded = _padded(v, half, ends)
    if len(v) < LONG:
        return np.asarray(bottleneck.move_median(padded, window)[2 * half :])
    values = _few_values(v)
    medians = np.empty_like(v)
    for start in range(0, len(v), IN_CACHE):
        stop = min(start + IN_CACHE, len(v))
        part = padded[start : stop + 2 * half]
        counted = None if values is None else _median_by_counting(part, half, values)
        if counted is None:
            counted = bottleneck.move_median(part, window)[2 * half :]
        medians[start:stop] = counted
    return medians


def _padded(v: NDArray[Real], half: int, ends: Ends) -> NDArray[Real]:
    """v (n,) with so many values more on both sides. As numpy pads it, and several times faster where
    there are few."""
    if not 0 < half <= len(v):
        return np.pad(v, half, mode=ends)
    if ends == "edge":
        return np.concatenate((np.repeat(v[:1], half), v, np.repeat(v[-1:], half)))
    return np.concatenate((v[half - 1 :: -1], v, v[: -half - 1 : -1]))


def running_mean(v: Floats, window: int, ends: Ends = "symmetric") -> Floats:
    """The mean of the `window` (odd) samples around each of v (n,)."""
    half = window // 2
    return np.asarray(bottleneck.move_mean(_padded(v, half, ends), window)[2 * half :])


def running_range(v: Floats, window: int) -> Floats:
    """From the least to the highest of the `window` (odd) samples around each of v (n,)."""
    padded = _padded(v, window // 2, "symmetric")
    apart = bottleneck.move_max(padded, window) - bottleneck.move_min(padded, window)
    return np.asarray(apart[window - 1 :])


def smoothed(v: Floats, window: int) -> Floats:
    """v (n,) by a parabola fitted to the `window` (odd, 3 to n) samples around each; the half windows
    at the ends are read off the first and the last parabola (Savitzky and Golay 1964)."""
    half = window // 2
    around = np.arange(-half, half + 1) / half
    basis, _ = np.linalg.qr(np.vander(around, 3))
    fit = basis @ basis.T
    smooth = np.empty_like(v)
    smooth[half : len(v) - half] = np.correlate(v, fit[half], "valid")
    smooth[:half] = fit[:half] @ v[:window]
    smooth[len(v) - half :] = fit[half + 1 :] @ v[-window:]
    return smooth


MOST_COUNTED = 12
"""Steps of a converter up to which counting is the faster way to a running median."""


def _few_values(v: NDArray[Real]) -> NDArray[Real] | None:
    """The values there are, in ascending order; None where they are too many to count by."""
    if len(np.unique(v[:IN_CACHE])) > IN_CACHE // 8:
        return None
    return np.unique(v)


def _median_by_counting(v: NDArray[Real], half: int, values: NDArray[Real]) -> NDArray[Real] | None:
    """Running medians of the samples that have `half` others on both sides; None when they wander
    over more than a few of the values there are.

    A median lies above a value when at most half of its window reaches no further than that value.
    """
    first = int(np.searchsorted(values, np.median(v[: 2 * half + 1])))
    steps = np.zeros(len(v) - 2 * half, np.int8)
    reached = np.zeros(len(v) + 1, np.int32)

    def above(value: Real) -> NDArray[np.bool_]:
        np.cumsum(v <= value, out=reached[1:])
        return np.asarray(reached[2 * half + 1 :] - reached[: -2 * half - 1] <= half)

    for at in range(first, first + MOST_COUNTED):
        higher = above(values[at])
        if not higher.any():
            break
        steps += higher
    else:
        return None
    for at in range(first - 1, max(-1, first - 1 - MOST_COUNTED), -1):
        higher = above(values[at])
        if higher.all():
            break
        steps -= ~higher
    else:
        if first > MOST_COUNTED:
            return None
    return np.asarray(values[first + steps])


def baseline(v: NDArray[Real], interval_s: float) -> NDArray[Real]:
    """Running median over 0.5 s, then running mean over 0.5 s, of one axis (n,)."""
    window = odd_window(0.5, interval_s, len(v))
    level = running_median(v, window)
    padded = np.pad(level, window // 2, mode="symmetric")
    for start in range(0, len(v), IN_CACHE):
        stop = min(start + IN_CACHE, len(v))
        sums = np.cumsum(padded[start : stop + window - 1], dtype=np.float64)
        sums = np.concatenate(([0.0], sums))
        level[start:stop] = (sums[window:] - sums[:-window]) / window
    return level


def _in_bins(
    values: Floats, bins: NDArray[np.intp], count: int
) -> tuple[Floats, NDArray[np.intp], NDArray[np.intp]]:
    """The values (n,) bin by bin, ascending in each; where each bin starts and stops, (count,)
    both."""
    order = np.lexsort((values, bins))
    placed = bins[order]
    start = np.searchsorted(placed, np.arange(count), side="left")
    return values[order], start, np.searchsorted(placed, np.arange(count), side="right")


def binned_median(values: Floats, bins: NDArray[np.intp], count: int) -> Floats:
    """The median of the values in each of `count` bins; NaN where a bin is empty."""
    if not values.size:
        return np.full(count, np.nan)
    ordered, start, stop = _in_bins(values, bins, count)
    filled = stop > start
    low = np.where(filled, (start + stop - 1) // 2, 0)
    high = np.where(filled, (start + stop) // 2, 0)
    return np.where(filled, (ordered[low] + ordered[high]) / 2, np.nan)


def binned_quantile(values: Floats, bins: NDArray[np.intp], count: int, share: float) -> Floats:
    """A quantile of the values in each of `count` bins, the nearest value; NaN where a bin is
    empty."""
    if not values.size:
        return np.full(count, np.nan)
    ordered, start, stop = _in_bins(values, bins, count)
    at = start + np.round(share * (stop - start - 1)).astype(np.intp)
    return np.where(stop > start, ordered[np.minimum(at, len(ordered) - 1)], np.nan)


def chance_of(least: int, n: int, p: float) -> float:
    """That as many of n at least come out, each with a chance of p (binomial)."""
    return sum(comb(n, k) * p**k * (1 - p) ** (n - k) for k in range(least, n + 1))


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
    longest, spread = float(intervals.max()), float(intervals.std())
    usual = median(intervals)
    if usual <= 0:
        usual = float(intervals.mean())
    if usual <= 0:
        return None
    return Timing(
        rate_hz=1.0 / usual,
        timing_jitter_ms=spread * 1e3,
        gaps=int((intervals > 3 * usual).sum()),
        longest_gap_s=longest,
    )


@dataclass(frozen=True)
class AllanPoint:
    """One averaging time and the deviation found there, in the unit of what was averaged."""

    tau_s: float
    adev: float


def overlapping_allan(y: Floats, interval_s: float) -> tuple[AllanPoint, ...]:
    """Overlapping Allan deviation of frequency data y (n,), at τ = τ0·2^k up to a quarter of n.

    Riley, Handbook of Frequency Stability Analysis, NIST SP 1065, section 5.2.5.
    """
    n = len(y)
    phase = np.empty(n + 1)
    phase[0] = 0.0
    np.subtract(y, y.mean(), out=phase[1:])
    np.cumsum(phase, out=phase)
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
    room = np.empty(min(IN_CACHE, count))
    for start in range(0, count, IN_CACHE):
        stop = min(start + IN_CACHE, count)
        middle = phase[start + m : stop + m]
        second = np.subtract(phase[start + 2 * m : stop + 2 * m], middle, out=room[: stop - start])
        second -= middle
        second += phase[start:stop]
        total += float(np.square(second, out=second).sum())
    return float(np.sqrt(total / count / 2) / m)
