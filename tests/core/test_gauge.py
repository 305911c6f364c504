"""A bench check against a published study, and against scatter that was put in."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.gauge import gauge

PUBLISHED = np.array(
    [
        [[0.29, 0.41, 0.64], [0.08, 0.25, 0.07], [0.04, -0.11, -0.15]],
        [[-0.56, -0.68, -0.58], [-0.47, -1.22, -0.68], [-1.38, -1.13, -0.96]],
        [[1.34, 1.17, 1.27], [1.19, 0.94, 1.34], [0.88, 1.09, 0.67]],
        [[0.47, 0.50, 0.64], [0.01, 1.03, 0.20], [0.14, 0.20, 0.11]],
        [[-0.80, -0.92, -0.84], [-0.56, -1.20, -1.28], [-1.46, -1.07, -1.45]],
        [[0.02, -0.11, -0.21], [-0.20, 0.22, 0.06], [-0.29, -0.67, -0.49]],
        [[0.59, 0.75, 0.66], [0.47, 0.55, 0.83], [0.02, 0.01, 0.21]],
        [[-0.31, -0.20, -0.17], [-0.63, 0.08, -0.34], [-0.46, -0.56, -0.49]],
        [[2.26, 1.99, 2.01], [1.80, 2.12, 2.19], [1.77, 1.45, 1.87]],
        [[-1.36, -1.25, -1.31], [-1.68, -1.62, -1.50], [-1.49, -1.77, -2.16]],
    ]
)
"""Ten parts, three appraisers, three trials: the worked example of the reference manual for
measurement systems analysis, whose table of variance the figures below are."""


def test_the_published_studys_analysis_of_variance_comes_out() -> None:
    study = gauge(PUBLISHED)
    rows = {r.source: r for r in study.anova}
    assert rows["operator"].squares == pytest.approx(3.1673, abs=5e-5)
    assert rows["part"].squares == pytest.approx(88.3619, abs=5e-5)
    assert rows["part × operator"].squares == pytest.approx(0.3590, abs=5e-5)
    assert rows["repeatability"].squares == pytest.approx(2.7589, abs=5e-5)
    assert [rows[k].freedom for k in ("operator", "part", "part × operator", "repeatability")] == [
        2,
        9,
        18,
        60,
    ]
    assert rows["part"].f == pytest.approx(245.614, abs=5e-3)
    assert rows["operator"].f == pytest.approx(39.617, abs=5e-3)
    assert rows["part × operator"].f == pytest.approx(0.434, abs=5e-3)
    assert rows["repeatability"].f is None
    assert study.pooled


def test_what_a_study_shows_does_not_depend_on_its_unit() -> None:
    """Readings of a few hundredths of a per cent are told apart as those of a few hundred are."""
    rows, small = gauge(PUBLISHED).anova, gauge(PUBLISHED * 1e-3).anova
    for row, other in zip(rows, small, strict=True):
        assert (other.f is None) == (row.f is None)
        if row.f is not None:
            assert other.f == pytest.approx(row.f)
            assert other.p == pytest.approx(row.p)


def test_the_published_studys_components_come_out() -> None:
    study = gauge(PUBLISHED)
    assert study.repeatability == pytest.approx(0.199933, abs=5e-7)
    assert study.reproducibility == pytest.approx(0.226838, abs=5e-7)
    assert study.interaction == 0
    assert study.gauge_rr == pytest.approx(0.302373, abs=2e-6)
    assert study.part == pytest.approx(1.042327, abs=2e-6)
    assert study.total == pytest.approx(1.085, abs=5e-4)
    assert study.percent_study_variation == pytest.approx(
        {
            "repeatability": 18.42,
            "reproducibility": 20.90,
            "gauge_rr": 27.86,
            "part": 96.04,
            "total": 100.0,
        },
        abs=0.01,
    )
    assert study.ndc == 4


def scatter(seed: int, interaction: float = 0.0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    shape = (12, 6, 4)
    part = rng.normal(0, 3, (12, 1, 1))
    operator = rng.normal(0, 0.8, (1, 6, 1))
    both = rng.normal(0, interaction, (12, 6, 1)) if interaction else 0
    return 10 + part + operator + both + rng.normal(0, 0.5, shape)


def test_scatter_put_in_is_taken_apart_again() -> None:
    studies = [gauge(scatter(seed)) for seed in range(40)]
    assert np.mean([g.repeatability for g in studies]) == pytest.approx(0.5, rel=0.05)
    assert np.mean([g.part for g in studies]) == pytest.approx(3, rel=0.1)
    assert np.mean([g.reproducibility for g in studies]) == pytest.approx(0.8, rel=0.2)
    assert np.mean([g.pooled for g in studies]) > 0.8


def test_an_interaction_that_is_there_is_not_pooled_away() -> None:
    studies = [gauge(scatter(seed, 1.0)) for seed in range(20)]
    assert not any(g.pooled for g in studies)
    assert np.mean([g.interaction for g in studies]) == pytest.approx(1.0, rel=0.1)


def test_one_stick_by_one_role_gives_the_repeatability_and_the_smallest_change() -> None:
    values = np.array([[[3.1, 3.3, 2.9, 3.2]]])
    study = gauge(values)
    assert study.repeatability == pytest.approx(np.std(values, ddof=1))
    assert study.smallest_change == pytest.approx(2 * np.sqrt(2) * np.std(values, ddof=1))
    assert (study.part, study.ndc, study.reproducibility) == (None, None, None)


def test_shifting_and_scaling_the_readings_shifts_nothing_and_scales_all() -> None:
    a, b = gauge(PUBLISHED), gauge(7 + 3 * PUBLISHED)
    assert b.gauge_rr == pytest.approx(3 * a.gauge_rr)
    assert b.ndc == a.ndc
    assert b.percent_study_variation == pytest.approx(a.percent_study_variation)


def test_readings_that_never_differ_have_no_scatter_and_no_categories() -> None:
    study = gauge(np.ones((3, 2, 2)))
    assert (study.gauge_rr, study.ndc, study.percent_study_variation) == (0.0, None, None)


@pytest.mark.parametrize(
    "values", [np.zeros((3, 2, 1)), np.zeros((3, 2)), np.full((2, 2, 2), np.nan)]
)
def test_a_study_that_is_not_complete_is_refused(values: np.ndarray) -> None:
    with pytest.raises(ValueError, match="gauge study"):
        gauge(values)
