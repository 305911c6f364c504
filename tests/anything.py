"""Recordings of anything that a store accepts: clocks that stall and leap, values at both ends and
nowhere, steps in any order."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import LONGEST_US, STEPS, AxisRange, Recording

SIZES = (1, 2, 3, 4, 5, 7, 10, 94, 200, 1000, 3000)


def anything(seed: int) -> Recording:
    rng = np.random.default_rng(seed)
    n, axes = int(rng.choice(SIZES)), int(rng.integers(1, 3))
    if axes == 2 and rng.random() < 0.3:
        turned = np.linspace(0, rng.choice([3, 6]), n) * 2 * np.pi
        raw = rng.choice([10, 90, 100]) * np.column_stack((np.sin(turned), np.cos(turned)))
    else:
        raw = np.column_stack([_values(rng, n) for _ in range(axes)])
    ranges = (AxisRange(-100, 100),) * axes
    return Recording(_times(rng, n), raw, ranges, _steps(rng, n))


def _times(rng: np.random.Generator, n: int) -> NDArray[np.int64]:
    apart = [
        lambda: np.full(n, rng.choice([0, 1, 100, 4000, 1_000_000])),
        lambda: rng.integers(0, 10 ** int(rng.integers(1, 7)), n),
        lambda: np.where(rng.random(n) < 0.1, rng.choice([0, 600_000, 2_000_000, 10**9]), 4000),
        lambda: np.where(rng.random(n) < 0.5, 0, 4000),
        lambda: rng.choice([0, 1, 500_000, 1_000_000, 5_000_000], n),
        lambda: np.r_[np.full(n // 2, 1000), np.full(n - n // 2, 100_000)],
        lambda: np.full(n, int(rng.choice([1000, 4000, 8000, 16_000]))),
    ][rng.integers(7)]()
    times = np.cumsum(apart.astype(np.float64))
    start = int(rng.choice([0, 1_700_000_000_000_000, -5_000_000]))
    return (times * min(1.0, LONGEST_US / max(1.0, times[-1] - times[0]))).astype(np.int64) + start


def _values(rng: np.random.Generator, n: int) -> NDArray[np.float64]:
    along = np.linspace(0, rng.choice([1, 5, 30]), n) * 2 * np.pi
    v = [
        lambda: rng.choice([-100.0, 0, 100], n),
        lambda: rng.normal(0, rng.choice([0, 1e-9, 0.1, 5, 50]), n),
        lambda: 100 * np.sin(along) + rng.normal(0, 0.1, n),
        lambda: np.full(n, rng.choice([-100, 0, 33, 100.0])),
        lambda: np.where(rng.random(n) < 0.01, 100.0, 0.0),
        lambda: np.resize(np.repeat(rng.uniform(-100, 100, 10), max(1, n // 9)), n),
        lambda: 100 * np.sign(np.sin(along)),
        lambda: np.clip(200 * np.cos(along), -100, 100),
        lambda: rng.uniform(-100, 100, n),
    ][rng.integers(9)]()
    return np.clip(np.round(v * 2) / 2 if rng.random() < 0.5 else v, -100, 100)


def _steps(rng: np.random.Generator, n: int) -> NDArray[np.int8]:
    most = len(STEPS)
    steps = [
        lambda: np.full(n, rng.integers(-1, most)),
        lambda: np.resize(np.repeat(rng.integers(-1, most, 8), n // 8 + 1), n),
        lambda: rng.integers(-1, most, n),
    ][rng.integers(3)]()
    return steps.astype(np.int8)
