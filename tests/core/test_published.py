"""Against published tables and independent minimisers: the methods are the ones they are named for."""

from __future__ import annotations

import allantools
import numpy as np
import pytest
from scipy.optimize import minimize

from hollow_pin.core.geometry import (
    least_squares_circle,
    minimum_zone_circle,
    peak_to_valley,
    smallest_circle,
)
from hollow_pin.core.statistics import allan_at, centre, overlapping_allan, theil_sen


def nist_set() -> np.ndarray:
    """The 1000-point test set of NIST SP 1065, section 12.4: a multiplicative generator."""
    n, values = 1234567890, []
    for _ in range(1000):
        values.append(n / 2147483647)
        n = 16807 * n % 2147483647
    return np.array(values)


@pytest.mark.parametrize(
    ("m", "printed"), [(1, 2.922319e-01), (10, 9.159953e-02), (100, 3.241343e-02)]
)
def test_overlapping_allan_deviation_equals_the_published_values(m: int, printed: float) -> None:
    y = nist_set()
    assert np.mean(y) == pytest.approx(4.897745e-01, rel=1e-6)
    phase = np.concatenate(([0.0], np.cumsum(y - y.mean())))
    assert float(f"{allan_at(phase, m):.6e}") == printed


def test_overlapping_allan_deviation_equals_an_independent_one_at_every_time() -> None:
    y = nist_set()
    points = overlapping_allan(y, 0.004)
    taus = [p.tau_s for p in points]
    _, theirs, _, _ = allantools.oadev(y, rate=250.0, data_type="freq", taus=taus)
    assert [p.adev for p in points] == pytest.approx(list(theirs), rel=1e-9)
    assert taus[-1] * 250 * 4 <= 1000


def test_the_least_squares_circle_equals_an_independent_minimisers() -> None:
    rng = np.random.default_rng(4)
    angle = np.radians(np.arange(72) * 5)
    r = 97 + rng.normal(0, 2, 72)
    points = np.column_stack((r * np.sin(angle) + 3, r * np.cos(angle) - 2))

    def cost(c):
        return np.square(np.hypot(points[:, 0] - c[0], points[:, 1] - c[1]) - c[2]).sum()

    other = minimize(cost, (0, 0, 100), method="BFGS", options={"gtol": 1e-10}).x
    ours = least_squares_circle(points)
    assert (ours.x, ours.y, ours.radius) == pytest.approx(tuple(other), abs=1e-6)


def test_the_smallest_circle_equals_an_independent_minimisers() -> None:
    rng = np.random.default_rng(6)
    for n in (3, 16, 60):
        points = rng.normal(0, 4, (n, 2))
        circle = smallest_circle(points)
        grid = [
            minimize(
                lambda c, p=points: np.hypot(*(p - c).T).max(),
                points.mean(axis=0) + start,
                method="Nelder-Mead",
                options={"xatol": 1e-10, "fatol": 1e-12, "maxiter": 4000},
            ).fun
            for start in rng.normal(0, 1, (4, 2))
        ]
        assert circle.radius == pytest.approx(min(grid), abs=1e-6)


def test_the_minimum_zone_equals_an_independent_minimisers() -> None:
    rng = np.random.default_rng(8)
    angle = np.radians(np.arange(72) * 5)
    r = 97 + rng.normal(0, 1.5, 72) + 2 * np.cos(2 * angle)
    points = np.column_stack((r * np.sin(angle) + 1, r * np.cos(angle) - 2))
    start = least_squares_circle(points)
    zone = minimum_zone_circle(points, start)
    others = [
        minimize(
            lambda c: peak_to_valley(points, c[0], c[1]),
            (start.x + dx, start.y + dy),
            method="Nelder-Mead",
            options={"xatol": 1e-10, "fatol": 1e-12, "maxiter": 4000},
        ).fun
        for dx, dy in rng.normal(0, 0.2, (8, 2))
    ]
    assert peak_to_valley(points, zone.x, zone.y) == pytest.approx(min(others), abs=1e-6)


def test_the_interquartile_mean_trims_a_quarter_from_each_end() -> None:
    values = np.array([100.0, 1, 2, 3, 4, 5, 6, -90])
    assert float(centre(values)) == pytest.approx((2 + 3 + 4 + 5) / 4)


def test_theil_sen_holds_the_slope_against_outliers() -> None:
    x = np.arange(20.0)
    y = 0.5 * x
    y[[3, 11]] = 400
    assert theil_sen(x, y) == pytest.approx(0.5)
