"""How far a reading may be trusted: standard uncertainties by bootstrap within a take.

Resampled with a fixed seed are 0.5 s blocks of Still, whole releases of Let-go and whole laps of
Rim (Efron & Tibshirani 1993; blocks after Künsch 1989). Everything is done with counts of how
often each block is drawn, so that a replicate costs a row of a matrix product.

Releases are smoothed (Silverman & Young 1987) by how far two releases toward the same direction
land apart, since the farthest of a few returns says little about the farthest of the next few.

Spikes are counted, so their rate is known to the root of the count (Poisson), of one at least.

Two things the resampling cannot see are put in as floors. A converter step hides changes smaller
than itself: step/√12, half a step for percentiles, which do not average over it. And a Still shows
one place of rest, while Let-go shows how far the places lie apart: the rest is known no better than
the scatter of the returns.
"""

from __future__ import annotations

from math import sqrt

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.let_go import LetGoResult, sector
from hollow_pin.core.recording import Floats, Recording
from hollow_pin.core.rim import BEARINGS, BINS, Gate, RimResult, fill_around, gate_radius
from hollow_pin.core.statistics import resolution, timing
from hollow_pin.core.still import StillResult

REPLICATES = 200
SEED = 20_417
BLOCK_S = 0.5
ENOUGH = 20_000
"""Samples that show a converter's step."""


def _draws(rng: np.random.Generator, count: int) -> NDArray[np.float64]:
    """How often each of `count` things is drawn in each replicate: (replicates, count)."""
    return rng.multinomial(count, np.full(count, 1 / count), size=REPLICATES).astype(np.float64)


def _spread(replicates: Floats, count: int) -> float:
    """Standard deviation of the replicates, freed of the bias of resampling few things."""
    return float(replicates.std(ddof=1)) * sqrt(count / (count - 1))


def _middle_half(levels: Floats, weights: Floats) -> Floats:
    """Interquartile mean of sorted levels (m,) under each row of weights (replicates, m)."""
    upto = np.cumsum(weights, axis=1)
    total = upto[:, -1:]
    clipped = np.clip(upto, total / 4, 3 * total / 4)
    share = np.diff(clipped, axis=1, prepend=total / 4)
    return np.asarray(share @ levels / (total[:, 0] / 2))


def _high_quantile(values: Floats, blocks: NDArray[np.intp], draws: Floats) -> Floats:
    """99.9th percentile of the values under each replicate of their blocks."""
    top = np.argsort(values)[::-1][: max(200, len(values) // 20)]
    above = np.cumsum(draws[:, blocks[top]], axis=1)
    total = draws @ np.bincount(blocks, minlength=draws.shape[1])
    rank = 0.001 * total
    return np.asarray(values[top][np.argmax(above > rank[:, None], axis=1)])


class _Still:
    """Replicates of the Still readings that others build on."""

    def __init__(self, t: Floats, u: Floats, result: StillResult, rng: np.random.Generator) -> None:
        block = ((t - t[0]) / BLOCK_S).astype(np.intp)
        self.count = int(block[-1]) + 1
        sizes = np.bincount(block, minlength=self.count)
        if self.count > 1 and sizes[-1] < sizes[0] / 2:
            block = np.minimum(block, self.count - 2)
            self.count -= 1
        draws = _draws(rng, self.count)
        self.rest = np.column_stack([self._rest(v, block, draws) for v in u.T])
        self.jitter = [self._jitter(r, block, draws) for r in result.residual.T]
        quiet = ~result.spiked
        self.noise = _high_quantile(result.noise[quiet], block[quiet], draws)

    def _rest(self, v: Floats, block: NDArray[np.intp], draws: Floats) -> Floats:
        levels, which = np.unique(v, return_inverse=True)
        held = np.zeros((self.count, len(levels)))
        np.add.at(held, (block, which), 1.0)
        return _middle_half(levels, draws @ held)

    def _jitter(self, r: Floats, block: NDArray[np.intp], draws: Floats) -> Floats:
        n, first, second = (
            draws @ np.bincount(block, weights=w, minlength=self.count)
            for w in (np.ones_like(r), r, np.square(r))
        )
        return np.asarray(np.sqrt(np.maximum(second / n - np.square(first / n), 0.0)))


def _repeat_scatter(let_go: LetGoResult) -> float:
    """How far releases toward the same direction land from each other: standard deviation, %."""
    by_sector = np.array([sector(r.bearing) for r in let_go.readings.release])
    squares, freedom = 0.0, 0
    for which in np.unique(by_sector):
        same = let_go.finals[by_sector == which]
        squares += float(np.square(same - same.mean(axis=0)).sum()) / 2
        freedom += len(same) - 1
    return sqrt(squares / freedom) if freedom else 0.0


def _return_replicates(let_go: LetGoResult, rng: np.random.Generator) -> dict[str, Floats]:
    finals = let_go.finals
    n = len(finals)
    drawn = finals[rng.integers(0, n, (REPLICATES, n))]
    drawn = drawn + rng.normal(0.0, _repeat_scatter(let_go), drawn.shape)
    x, y = drawn[:, :, 0], drawn[:, :, 1]
    apart = np.hypot(x[:, :, None] - x[:, None, :], y[:, :, None] - y[:, None, :])
    return {"max": np.hypot(x, y).max(axis=1), "spread": apart.max(axis=(1, 2))}


def take_uncertainty(
    recording: Recording,
    parts: dict[str, slice],
    still: StillResult | None,
    let_go: LetGoResult | None,
    rim: RimResult | None,
    gate: Gate,
) -> dict[str, float]:
    """Standard uncertainties by dotted name, in the reading's own unit.

    A reading that is missing here has none: too few blocks, releases or laps to resample.
    """
    rng = np.random.default_rng(SEED)
    found: dict[str, float] = {}
    finals = let_go.finals if let_go else np.empty((0, 2))
    steps = [resolution(v[:ENOUGH]) for v in recording.u.T]
    floor = max(steps) / sqrt(12)
    noise: Floats | None = None

    if still:
        part = parts["still"]
        s = _Still(recording.t[part], recording.u[part], still, rng)
        noise = s.noise
        scatter = finals.std(axis=0, ddof=1) if len(finals) > 2 else np.zeros(2)
        for i, axis in enumerate(recording.axes):
            found[f"still.rest_{axis}"] = max(
                _spread(s.rest[:, i], s.count), float(scatter[i]), steps[i] / sqrt(12)
            )
            coarse = steps[i] / sqrt(12) if s.jitter[i].mean() < 2 * steps[i] else 0.0
            found[f"still.jitter_{axis}"] = max(_spread(s.jitter[i], s.count), coarse / 2)
        along = np.array([still.readings.rest_x, still.readings.rest_y or 0.0])
        along = along / max(still.readings.rest_offset, 1e-9)
        found["still.rest_offset"] = max(
            _spread(np.sqrt(np.square(s.rest).sum(axis=1)), s.count),
            float(np.hypot(*(along * scatter))),
            floor,
        )
        minutes = (part.stop - part.start) / still.readings.rate_hz / 60.0
        for axis in recording.axes:
            seen = getattr(still.readings, f"spikes_per_min_{axis}") * minutes
            found[f"still.spikes_per_min_{axis}"] = sqrt(max(seen, 1.0)) / minutes
        found["still.noise_reach"] = max(_spread(s.noise, s.count), floor / 2)

    if let_go and len(finals) > 2:
        n = len(finals)
        for name, replicates in _return_replicates(let_go, rng).items():
            found[f"let_go.return_{name}"] = max(_spread(replicates, n), floor)
        share = (let_go.readings.return_radius or 0.0) / (let_go.readings.return_spread or 1.0)
        found["let_go.return_radius"] = max(found["let_go.return_spread"] * share, floor)
        settle = np.array([r.settle_ms for r in let_go.readings.release])
        picks = rng.integers(0, n, (REPLICATES, n))
        pace = timing(recording.t)
        found["let_go.settle_ms_p90"] = max(
            _spread(np.percentile(settle[picks], 90, axis=1), n),
            500.0 * pace.interval_s if pace else 0.0,
        )
        if noise is not None:
            u_noise = found["still.noise_reach"]
            u_max = found["let_go.return_max"]
            if still and still.readings.rest_offset > (let_go.readings.return_max or 0.0):
                u_max = found["still.rest_offset"]
            found["composite.dead_zone_needed"] = float(np.hypot(u_max, u_noise))
            found["composite.dead_zone_after_recentring"] = float(
                np.hypot(found["let_go.return_radius"], u_noise)
            )

    if rim and len(rim.lap_radius) > 1:
        found.update(_rim_uncertainty(rim, gate, floor, rng))
        if let_go and let_go.readings.return_radius is not None:
            found["composite.circularity_after_recalibration"] = found["rim.circularity_error"]
    return found


def _rim_uncertainty(
    rim: RimResult, gate: Gate, floor: float, rng: np.random.Generator
) -> dict[str, float]:
    laps = np.array([fill_around(lap) for lap in rim.lap_radius])
    n = len(laps)
    rims = np.median(laps[rng.integers(0, n, (REPLICATES, n))], axis=1)
    angle = np.radians(BEARINGS)
    waves = np.column_stack((np.ones_like(angle), np.sin(angle), np.cos(angle)))
    shape = rims - rims @ np.linalg.pinv(waves).T @ waves.T
    target = gate_radius(gate)
    sizes = {
        "circularity_error": np.abs(rims - target).mean(axis=1),
        "mean_radius": rims.mean(axis=1),
        "roundness_lsc": np.ptp(shape, axis=1),
        "roundness_mzc": np.ptp(shape, axis=1),
        "outer_dead_zone_needed": np.maximum(0.0, (100.0 - rims).max(axis=1)),
        "overreach": np.maximum(0.0, (rims - 100.0).max(axis=1)),
        "reach_up": rims[:, 0],
        "reach_right": rims[:, BINS // 4],
        "reach_down": rims[:, BINS // 2],
        "reach_left": rims[:, 3 * BINS // 4],
    }
    found = {f"rim.{name}": max(_spread(v, n), floor) for name, v in sizes.items()}
    for way in ("right", "left", "up", "down"):
        found[f"rim.reach_{way}"] = max(found[f"rim.reach_{way}"], floor * sqrt(3))
    return found
