"""How far a bench can be trusted: repeatability, and gauge repeatability and reproducibility.

A bench check measures one untouched stick several times (ISO 5725-2). With several operators and
several sticks, the two-way random-effects analysis of variance with interaction takes the scatter
apart (Montgomery & Runger 1993; Measurement Systems Analysis reference manual, ANOVA method): the
interaction is pooled into the error where it is not significant.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np
import scipy

from hollow_pin.core.recording import Floats

SIGNIFICANT = 0.05
STUDY_SPREAD = 1.41
"""Distinct categories: 1.41 times the sticks' spread over the gauge's."""
SMALLEST_CHANGE = 2 * sqrt(2)
"""Two takes, each known to the repeatability, and two standard uncertainties of their difference."""

SOURCES = ("repeatability", "reproducibility", "gauge_rr", "part", "total")


@dataclass(frozen=True)
class AnovaRow:
    """One source of variation. squares, mean_square: in the square of the reading's unit. f and p are
    None where nothing is tested."""

    source: str
    squares: float
    freedom: int
    mean_square: float
    f: float | None
    p: float | None


@dataclass(frozen=True)
class Gauge:
    """Standard deviations, in the reading's own unit. reproducibility holds operator and interaction.

    percent_study_variation: each as a share of the total, %. ndc: distinct categories the gauge can
    tell apart. part, total and ndc are None where only one stick was measured; reproducibility where
    there was only one operator.
    """

    parts: int
    operators: int
    trials: int
    repeatability: float
    reproducibility: float | None
    operator: float | None
    interaction: float | None
    gauge_rr: float
    part: float | None
    total: float | None
    percent_study_variation: dict[str, float] | None
    ndc: int | None
    pooled: bool
    anova: tuple[AnovaRow, ...]

    @property
    def smallest_change(self) -> float:
        """The smallest change between two takes that is not within the bench's own scatter."""
        return SMALLEST_CHANGE * self.gauge_rr


def _sums_of_squares(values: Floats) -> tuple[float, float, float, float]:
    """Between parts, between operators, of the two together, and within: of values (parts, operators,
    trials)."""
    p, o, n = values.shape
    grand = values.mean()
    cells = values.mean(axis=2)
    by_part, by_operator = values.mean(axis=(1, 2)), values.mean(axis=(0, 2))
    apart = cells - by_part[:, None] - by_operator[None, :] + grand
    return (
        o * n * float(np.square(by_part - grand).sum()),
        p * n * float(np.square(by_operator - grand).sum()),
        n * float(np.square(apart).sum()),
        float(np.square(values - cells[:, :, None]).sum()),
    )


def gauge(values: Floats) -> Gauge:
    """Take measurements apart: values (parts, operators, trials), finite, trials ≥ 2.

    Raises ValueError when there are too few trials, or a value is missing.
    """
    if values.ndim != 3 or min(values.shape) < 1 or values.shape[2] < 2:
        raise ValueError("a gauge study needs every stick measured twice or more by every operator")
    if not np.isfinite(values).all():
        raise ValueError("a gauge study needs a value in every place")
    p, o, n = values.shape
    ss_part, ss_operator, ss_both, ss_error = _sums_of_squares(values)
    df = {"part": p - 1, "operator": o - 1, "both": (p - 1) * (o - 1), "error": p * o * (n - 1)}
    ms_both = ss_both / df["both"] if df["both"] else 0.0
    ms_error = ss_error / df["error"]
    p_both = _p_value(ms_both, ms_error, df["both"], df["error"])
    pooled = df["both"] > 0 and p_both is not None and p_both > SIGNIFICANT
    if pooled:
        error = (ss_error + ss_both) / (df["error"] + df["both"])
        df_error = df["error"] + df["both"]
    else:
        error, df_error = ms_error, df["error"]
    below = ms_both if df["both"] and not pooled else error
    df_below = df["both"] if df["both"] and not pooled else df_error
    ms_part = ss_part / df["part"] if p > 1 else 0.0
    ms_operator = ss_operator / df["operator"] if o > 1 else 0.0
    var_both = max(0.0, (ms_both - error) / n) if df["both"] and not pooled else 0.0
    var_operator = max(0.0, (ms_operator - below) / (p * n))
    var_part = max(0.0, (ms_part - below) / (o * n))
    rows = []
    if p > 1:
        rows.append(_row("part", ss_part, df["part"], below, df_below))
    if o > 1:
        rows.append(_row("operator", ss_operator, df["operator"], below, df_below))
    if df["both"]:
        rows.append(_row("part × operator", ss_both, df["both"], ms_error, df["error"]))
    rows.append(AnovaRow("repeatability", ss_error, df["error"], ms_error, None, None))
    reproducibility = sqrt(var_operator + var_both)
    gauge_rr = sqrt(error + var_operator + var_both)
    total = sqrt(gauge_rr**2 + var_part)
    shares = dict(
        zip(SOURCES, (sqrt(error), reproducibility, gauge_rr, sqrt(var_part), total), strict=True)
    )
    several = p > 1
    return Gauge(
        parts=p,
        operators=o,
        trials=n,
        repeatability=sqrt(error),
        reproducibility=reproducibility if o > 1 else None,
        operator=sqrt(var_operator) if o > 1 else None,
        interaction=sqrt(var_both) if df["both"] else None,
        gauge_rr=gauge_rr,
        part=sqrt(var_part) if several else None,
        total=total if several else None,
        percent_study_variation={k: 100 * v / total for k, v in shares.items()}
        if several and total > 0
        else None,
        ndc=_categories(sqrt(var_part), gauge_rr) if several else None,
        pooled=pooled,
        anova=tuple(rows),
    )


def _categories(part: float, gauge_rr: float) -> int | None:
    """Whole categories, one at least; None where the gauge shows no scatter at all."""
    return max(1, int(STUDY_SPREAD * part / gauge_rr)) if gauge_rr > 0 else None


def _row(source: str, squares: float, freedom: int, below: float, df_below: int) -> AnovaRow:
    mean = squares / freedom
    f = mean / below if below > 0 else None
    return AnovaRow(source, squares, freedom, mean, f, _p_value(mean, below, freedom, df_below))


def _p_value(above: float, below: float, df_above: int, df_below: int) -> float | None:
    if not df_above or below <= 0:
        return None
    return float(scipy.special.fdtrc(df_above, df_below, above / below))
