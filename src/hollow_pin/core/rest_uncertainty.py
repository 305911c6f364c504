"""How far what a Still says may be trusted: resampled by blocks of 0.5 s (Künsch 1989).

The centre is resampled by its influence function (Hampel 1974), block by block, which costs one pass
over however long a Still. Spikes are counted, so their rate is known to the root of the count
(Poisson), of one at least.

A Still shows one place of rest, while Let-go shows how far the places lie apart: the rest is known no
better than the scatter of the returns, and its trembling no better than it differs among them.
"""

from __future__ import annotations

from math import sqrt

import numpy as np

from hollow_pin.core.bootstrap import draws, high_quantile, reach, spread
from hollow_pin.core.recording import AXES, Floats
from hollow_pin.core.statistics import each_axis
from hollow_pin.core.step_results import StepResults
from hollow_pin.core.still import Residual, Still, StillResult

BLOCK_S = 0.5
MOST_BLOCKS = 7200
"""As many as a Still is resampled by; one of over an hour has longer blocks."""
ONE_STEP = 1.1
"""Steps of the converter: a noise that reaches no farther may be one step or none the next time,
by where between two of them it rests."""
OR_NONE = 0.4
"""Of a step: standard deviation of what is one step or none."""
OF_TENTHS = 2.4
"""Variance of how far a middle eight tenths of n samples reach, as a share of its square, times n: 0.8
of white noise, and three times that of what is less than white."""
FEWEST_RESTS = 4
"""Places that a stick was left at, from which it is told that it trembles more at some of them."""
FARTHEST = 3.3
"""Standard deviations that a noise reaches in 999 of 1000 samples."""
WANDER_SHARE = 0.3
"""Standard deviation of the range of ten values of what wanders, as a share of it."""


class Rest:
    """Replicates of what one Still says, by 0.5 s blocks: t (n,) seconds, u (n, k) %."""

    def __init__(self, t: Floats, u: Floats, result: StillResult, rng: np.random.Generator) -> None:
        self.block_s = max(BLOCK_S, float(t[-1] - t[0]) / MOST_BLOCKS)
        starts = np.unique(np.searchsorted(t, np.arange(t[0], t[-1], self.block_s)))
        sizes = np.diff(starts, append=len(t))
        if len(starts) > 1 and sizes[-1] < sizes[0] / 2:
            starts = starts[:-1]
            sizes = np.diff(starts, append=len(t))
        self._starts, self.count = starts, len(starts)
        self._draws = draws(rng, self.count)
        self._sizes = self._draws @ sizes
        each = each_axis(
            lambda i: (
                self._centre(u[:, i], *result.quarters[i]),
                self._jitter(result.residual[i]),
            ),
            u.shape[1],
            len(t),
        )
        self.centre = np.column_stack([centre for centre, _ in each])
        self.jitter = [jitter for _, jitter in each]
        quiet = np.add.reduceat(~result.spiked, starts, dtype=np.float64)
        top = np.flatnonzero((result.noise >= result.noise_top) & ~result.spiked)
        which = np.searchsorted(starts, top, side="right") - 1
        self.noise = high_quantile(result.noise[top], which, quiet, self._draws)

    def _sum(self, values: Floats | Residual) -> Floats:
        """The sum of the values in each replicate."""
        return np.asarray(self._draws @ np.add.reduceat(values, self._starts, dtype=np.float64))

    def _centre(self, v: Floats, low: float, high: float) -> Floats:
        inside = np.clip(v, low, high)
        mean = float(inside.mean())
        inside -= mean
        return np.asarray(mean + 2 * self._sum(inside) / self._sizes)

    def _jitter(self, r: Residual) -> Floats:
        first, second = self._sum(r), self._sum(np.square(r))
        variance = second / self._sizes - np.square(first / self._sizes)
        return np.asarray(np.sqrt(np.maximum(variance, 0.0)))

    def u_jitter(self, axis: int, step: float) -> float:
        """An axis's jitter. Where it rests between two steps of a coarse converter makes anything up
        to half a step of it, and so does a hum that keeps time with the source, whose few values are
        rounded the same way each time: 2u of a difference covers that."""
        jitter = self.jitter[axis]
        return max(spread(jitter, self.count), reach(jitter, self.count), step / 5)


def u_by_place(results: StepResults, steps: list[float]) -> dict[str, float]:
    """What of the uncertainties, by dotted name, is by where the stick came to rest, %: it may tremble
    at some of the places that it came back to and not at others, and lay at one of them in Still.
    steps: the smallest change of each axis, %, which makes a noise by itself, or none."""
    let_go = results.let_go
    if results.still is None or let_go is None or len(let_go.trembles) < FEWEST_RESTS:
        return {}
    each = let_go.trembles
    by_chance = OF_TENTHS / let_go.read_from * np.square(each).mean(axis=0)
    by_steps = np.square(np.array(steps) / 5)
    more = each.var(axis=0, ddof=1) - by_chance - by_steps
    # Twice what two takes are uncertain by is from the quietest of the places to the worst.
    apart = np.where(more > 0, np.sqrt(np.maximum(more, np.square(np.ptp(each, axis=0)) / 8)), 0.0)
    reach = FARTHEST * float(apart.max())
    u_of = {f"still.jitter_{axis}": float(a) for axis, a in zip(AXES, apart, strict=False)}
    u_of |= dict.fromkeys(
        (
            "still.noise_reach",
            "composite.dead_zone_needed",
            "composite.dead_zone_after_recentring",
        ),
        reach,
    )
    return {path: u for path, u in u_of.items() if u > 0}


def still_uncertainty(
    axes: tuple[str, ...], readings: Still, rest: Rest, finals: Floats, steps: list[float]
) -> dict[str, float]:
    u_by_path = {}
    floor = max(steps) / sqrt(12)
    scatter = _rests_apart(readings, finals) if len(finals) > 2 else np.zeros(2)
    minutes = rest.count * rest.block_s / 60.0
    for i, axis in enumerate(axes):
        u_by_path[f"still.rest_{axis}"] = max(
            spread(rest.centre[:, i], rest.count), float(scatter[i]), steps[i] / sqrt(12)
        )
        u_by_path[f"still.jitter_{axis}"] = rest.u_jitter(i, steps[i])
        count = getattr(readings, f"spikes_per_min_{axis}") * minutes
        u_by_path[f"still.spikes_per_min_{axis}"] = sqrt(max(count, 1.0)) / minutes
    along = np.array([readings.rest_x, readings.rest_y or 0.0]) / max(readings.rest_offset, 1e-9)
    u_by_path["still.rest_offset"] = max(
        spread(np.sqrt(np.square(rest.centre).sum(axis=1)), rest.count),
        float(np.hypot(*(along * scatter))),
        floor,
    )
    one_step = readings.noise_reach < ONE_STEP * max(steps)
    coarse = OR_NONE * max(steps) if one_step else floor / 2
    u_by_path["still.noise_reach"] = max(spread(rest.noise, rest.count), coarse)
    u_by_path["still.wander"] = max(WANDER_SHARE * readings.wander, floor)
    return u_by_path


def _rests_apart(still: Still, finals: Floats) -> Floats:
    """How far apart a stick comes to rest, each axis, %: standard deviation of its returns, finals
    (m, 2); where it rested farther than twice that from them, as it may have been put down and not
    let go, half as far."""
    scatter = finals.std(axis=0, ddof=1)
    rest = np.array([still.rest_x, still.rest_y or 0.0])
    return np.asarray(np.maximum(scatter, np.abs(rest - finals.mean(axis=0)) / 2))
