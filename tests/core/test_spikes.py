"""A spike goes and comes back. A contact that comes to rest elsewhere has moved, and is not cleaned
for that."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.still import LEAST_SPIKE, measure_still

HZ = 250
NOISE = 0.05


def spikes(x: np.ndarray) -> int:
    """How many are counted in ten seconds of it."""
    n = len(x)
    noise = np.random.default_rng(4).normal(0, NOISE, (n, 2))
    u = np.column_stack((x, np.zeros(n))) + noise
    readings = measure_still(np.arange(n) / HZ, u).readings
    assert readings.spikes_per_min_y == 0
    return round(readings.spikes_per_min_x / 6)


def rest() -> np.ndarray:
    return np.zeros(10 * HZ)


@pytest.mark.parametrize(("height", "counted"), [(8.0, 3), (LEAST_SPIKE - 0.3, 0)])
def test_what_comes_back_is_counted(height: float, counted: int) -> None:
    x = rest()
    for at in (400, 1100, 1900):
        x[at : at + 3] += height
    assert spikes(x) == counted


@pytest.mark.parametrize("by", [3.0, -8.0])
def test_a_place_of_rest_that_changes_is_no_spike(by: float) -> None:
    """A contact that wanders from one place to another was called dirty."""
    at_once, slowly = rest(), rest()
    at_once[1200:] += by
    slowly[1200:] += by * (1 - np.exp(-np.arange(1300) / 40.0))
    assert spikes(at_once) == 0
    assert spikes(slowly) == 0


@pytest.mark.parametrize(("stays", "counted"), [(0.15, 1), (0.8, 0)])
def test_it_came_back_where_it_rests_within_half_of_its_height(stays: float, counted: int) -> None:
    x = rest()
    x[1200:1203] += 10.0
    x[1203:] += 10.0 * stays
    assert spikes(x) == counted


def test_a_spike_on_a_rest_that_drifts_is_one() -> None:
    x = rest() + np.linspace(0, 6, 10 * HZ)
    x[1200:1204] -= 7.0
    assert spikes(x) == 1
