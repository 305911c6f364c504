"""How far a reading may be trusted: standard uncertainties by bootstrap within a take.

Resampled with a fixed seed are 0.5 s blocks of Still, whole releases of Let-go and whole laps of
Rim (Efron & Tibshirani 1993; blocks after Künsch 1989). Everything is done with counts of how
often each block is drawn, so that a replicate costs a row of a matrix product.

The centre is resampled by its influence function (Hampel 1974), block by block, which costs one pass
over however long a Still. Crossings are resampled by whole passes; what a hold's slope is worth is
told by how far its blocks lie from the line.

Releases are smoothed (Silverman & Young 1987) by how far two releases toward the same direction
land apart, since the farthest of a few returns says little about the farthest of the next few.

Spikes are counted, so their rate is known to the root of the count (Poisson), of one at least.

Two things the resampling cannot see are put in as floors. A converter step hides changes smaller
than itself: step/√12, half a step for percentiles, which do not average over it. And a Still shows
one place of rest, while Let-go shows how far the places lie apart: the rest is known no better than
the scatter of the returns.
"""

from __future__ import annotations

from collections.abc import Mapping
from math import hypot, sqrt

import bottleneck
import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.crossing import BINS as TRACK_BINS
from hollow_pin.core.crossing import CrossingResult, track_noise
from hollow_pin.core.dead_spans import u_dead_spans
from hollow_pin.core.gate import BEARINGS, BINS, Gate, fill_around, gate_radius
from hollow_pin.core.geometry import sector
from hollow_pin.core.hand_line import BIN_MIDDLES, u_askew
from hollow_pin.core.hold import SAG_S, HoldResult, held_min, sags_most
from hollow_pin.core.let_go import LetGoResult, settle_by_direction
from hollow_pin.core.measured import StepResults
from hollow_pin.core.recording import AXES, Floats, Recording
from hollow_pin.core.rim import RimResult
from hollow_pin.core.statistics import each_axis, timing
from hollow_pin.core.still import COARSE_STEP, Residual, Still, StillResult
from hollow_pin.core.turn import Place, TurnResult, place_of

REPLICATES = 200
SEED = 20_417
BLOCK_S = 0.5
MOST_BLOCKS = 7200
"""As many as a Still is resampled by; one of over an hour has longer blocks."""
ONE_STEP = 1.1
"""Steps of the converter: a noise that reaches no farther may be one step or none the next time,
by where between two of them it rests."""
OR_NONE = 0.4
"""Of a step: standard deviation of what is one step or none."""
ONCE = 0.63
"""Of what a single event makes of an RMS, its standard deviation: that of √k, where k is how often it
comes the next time (Poisson, of one on the average)."""
WANDER_SHARE = 0.3
"""Standard deviation of the range of ten values of what wanders, as a share of it."""
PRESSED = 0.15
"""How much farther out one hand presses than another, %: standard deviation."""
STRAYS = 1.0
"""How far a hand strays sideways on its way, %: standard deviation of what cross-talk takes it for."""
FEWEST_AROUND = 6
"""Releases, each toward another direction, from which how they scatter is told from where they go."""
AT_AN_END = 0.3
"""How far from its end a hand may leave a single axis, %: standard deviation."""
OF_TENTHS = 2.4
"""Variance of how far a middle eight tenths of n samples reach, as a share of its square, times n: 0.8
of white noise, and three times that of what is less than white."""
FEWEST_RESTS = 4
"""Places that a stick was left at, from which it is told that it trembles more at some of them."""
FARTHEST = 3.3
"""Standard deviations that a noise reaches in 999 of 1000 samples."""
LETS_GO_MS = 4.0
"""How much later one hand is off the stick than another, once it opens: standard deviation."""


def _draws(rng: np.random.Generator, count: int) -> NDArray[np.float64]:
    """How often each of `count` things is drawn in each replicate: (replicates, count)."""
    picks = rng.integers(0, count, (REPLICATES, count), dtype=np.int32)
    picks += count * np.arange(REPLICATES, dtype=np.int32)[:, None]
    drawn = np.bincount(picks.ravel(), minlength=REPLICATES * count)
    return drawn.reshape(REPLICATES, count).astype(np.float64)


def _spread(replicates: Floats, count: int) -> float:
    """Standard deviation of the replicates, freed of the bias of resampling few things."""
    return float(replicates.std(ddof=1)) * sqrt(count / (count - 1))


def _reach(replicates: Floats, count: int) -> float:
    """Half of how far 95 % of the replicates reach from their median, to the longer side. It is more
    than their spread where one block or pass makes most of a reading and may as well be missed."""
    least, usual, most = np.percentile(replicates, (2.5, 50.0, 97.5))
    return float(max(usual - least, most - usual)) / 2 * sqrt(count / (count - 1))


def _high_quantile(
    values: Residual, blocks: NDArray[np.intp], sizes: Floats, draws: Floats
) -> Floats:
    """99.9th percentile under each replicate of the blocks. values (m,): the largest ones only, and
    which block each is in; sizes: how many values each block has in all."""
    top = np.argsort(values)[::-1]
    above = np.cumsum(draws[:, blocks[top]], axis=1)
    rank = 0.001 * (draws @ sizes)
    return np.asarray(values[top][np.argmax(above > rank[:, None], axis=1)])


class _Rest:
    """Replicates of what one Still says, by 0.5 s blocks: t (n,) seconds, u (n, k) %."""

    def __init__(self, t: Floats, u: Floats, result: StillResult, rng: np.random.Generator) -> None:
        self.block_s = max(BLOCK_S, float(t[-1] - t[0]) / MOST_BLOCKS)
        starts = np.unique(np.searchsorted(t, np.arange(t[0], t[-1], self.block_s)))
        sizes = np.diff(starts, append=len(t))
        if len(starts) > 1 and sizes[-1] < sizes[0] / 2:
            starts = starts[:-1]
            sizes = np.diff(starts, append=len(t))
        self._starts, self.count = starts, len(starts)
        self._draws = _draws(rng, self.count)
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
        self.noise = _high_quantile(result.noise[top], which, quiet, self._draws)

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
        return max(_spread(jitter, self.count), _reach(jitter, self.count), step / 5)


def take_uncertainty(
    recording: Recording,
    parts: dict[str, slice],
    measured: StepResults,
    gate: Gate,
    by_place: Mapping[str, float],
) -> dict[str, float]:
    """Standard uncertainties by dotted name, in the reading's own unit. by_place: what of them is by
    where the stick came to rest (`u_by_place`).

    A reading that is missing here has none: too few blocks, releases, laps or passes to resample.
    """
    rng = np.random.default_rng(SEED)
    still_alone = parts.get("still") == slice(0, len(recording.t_us)) and measured.still
    # An hour of one step is sorted once, where it was measured.
    steps = (
        list(map(max, still_alone.resolutions, recording.swallowed))
        if still_alone
        else recording.steps
    )
    floor = max(steps) / sqrt(12)
    u_by_path: dict[str, float] = {}
    still, let_go, rim = measured.still, measured.let_go, measured.rim
    if still:
        part = parts["still"]
        rest = _Rest(recording.t[part], recording.u[part], still, rng)
        finals = let_go.finals if let_go else np.empty((0, 2))
        u_by_path |= _still_uncertainty(recording.axes, still.readings, rest, finals, steps)
    if let_go and len(let_go.finals) > 2:
        u_by_path |= _let_go_uncertainty(let_go, recording, floor, rng)
        if still:
            u_by_path |= _dead_zone_uncertainty(still.readings, let_go, u_by_path)
    if rim and len(rim.lap_radius) > 1:
        u_by_path |= _rim_uncertainty(rim, gate, floor, rng)
        if let_go and let_go.readings.return_radius is not None:
            u_by_path["composite.circularity_after_recalibration"] = u_by_path[
                "rim.circularity_error"
            ]
    for axis, crossing in measured.crossing.items():
        u_by_path |= _crossing_uncertainty(
            f"crossing.{axis}", crossing, floor, rng, measured.hand_line
        )
    if measured.hold:
        u_by_path |= _hold_uncertainty(measured.hold, floor)
    turn = measured.turn
    if turn:
        u_by_path |= _crossing_uncertainty("turn", turn.crossing, floor, rng)
        u_by_path["turn.reach_low"] = u_by_path["turn.reach_high"] = floor * sqrt(3)
        u_by_path |= _turn_uncertainty(turn, floor)
        start = parts["turn"].start
        jitters = {}
        for place, (part, result) in turn.rests.items():
            inside = slice(start + part.start, start + part.stop)
            rest = _Rest(recording.t[inside], recording.u[inside], result, rng)
            jitters[place] = u_by_path[f"turn.{place}.jitter_x"] = rest.u_jitter(0, steps[0])
        if jitters:
            worst = max(jitters, key=lambda p: turn.rests[p][1].readings.jitter_x)
            u_by_path["turn.jitter"] = hypot(jitters[worst], _elsewhere(turn, worst))
    if measured.ends:
        # The farthest of a few visits lies out by a deviation of what wanders, more or less; what was
        # seen of that ranges over two or three.
        wander = (turn.readings.wander if turn else None) or 0.0
        u_by_path["composite.outer_dead_zone_needed"] = hypot(
            AT_AN_END, measured.ends.scatter, floor, wander / 2
        )
    return {path: hypot(u, by_place.get(path, 0.0)) for path, u in u_by_path.items()}


def _elsewhere(turn: TurnResult, place: Place) -> float:
    """How much a paddle's trembling differs from place to place in a third of its travel, standard
    deviation, %: it is not left alone where it was the last time. By the noise of its track on the
    way, less what an RMS of so few samples scatters by itself."""
    read, crossing = turn.readings, turn.crossing
    noise = track_noise(crossing.squares.sum(axis=0), crossing.counts.sum(axis=0))
    third = [place_of(at, -read.reach_low, read.reach_high) == place for at in BIN_MIDDLES]
    there = np.isfinite(noise) & np.array(third)
    if there.sum() < 2:
        return 0.0
    itself = np.square(noise[there]) / (2 * crossing.counts.sum(axis=0)[there])
    return sqrt(max(float(noise[there].var(ddof=1) - itself.mean()), 0.0))


def u_by_place(measured: StepResults, steps: list[float]) -> dict[str, float]:
    """What of the uncertainties, by dotted name, is by where the stick came to rest, %: it may tremble
    at some of the places that it came back to and not at others, and lay at one of them in Still.
    steps: the smallest change of each axis, %, which makes a noise by itself, or none."""
    let_go = measured.let_go
    if measured.still is None or let_go is None or len(let_go.trembles) < FEWEST_RESTS:
        return {}
    each = let_go.trembles
    by_chance = OF_TENTHS / let_go.read_from * np.square(each).mean(axis=0)
    by_steps = np.square(np.array(steps) / 5)
    more = each.var(axis=0, ddof=1) - by_chance - by_steps
    # Twice what two takes are uncertain by is from the quietest of the places to the worst.
    apart = np.where(more > 0, np.sqrt(np.maximum(more, np.square(np.ptp(each, axis=0)) / 8)), 0.0)
    reach = FARTHEST * float(apart.max())
    found = {f"still.jitter_{axis}": float(a) for axis, a in zip(AXES, apart, strict=False)}
    found |= dict.fromkeys(
        (
            "still.noise_reach",
            "composite.dead_zone_needed",
            "composite.dead_zone_after_recentring",
        ),
        reach,
    )
    return {path: u for path, u in found.items() if u > 0}


def _turn_uncertainty(turn: TurnResult, floor: float) -> dict[str, float]:
    """Of what all the places together show at which a paddle was left alone."""
    read = turn.readings
    if read.spikes_per_min is None or read.wander is None:
        return {}
    minutes = sum(len(r.residual[0]) / r.pace.rate_hz for _, r in turn.rests.values()) / 60.0
    return {
        "turn.wander": max(WANDER_SHARE * read.wander, floor),
        "turn.spikes_per_min": sqrt(max(read.spikes_per_min * minutes, 1.0)) / minutes,
    }


def _still_uncertainty(
    axes: tuple[str, ...], readings: Still, rest: _Rest, finals: Floats, steps: list[float]
) -> dict[str, float]:
    u_by_path = {}
    floor = max(steps) / sqrt(12)
    scatter = _rests_apart(readings, finals) if len(finals) > 2 else np.zeros(2)
    minutes = rest.count * rest.block_s / 60.0
    for i, axis in enumerate(axes):
        u_by_path[f"still.rest_{axis}"] = max(
            _spread(rest.centre[:, i], rest.count), float(scatter[i]), steps[i] / sqrt(12)
        )
        u_by_path[f"still.jitter_{axis}"] = rest.u_jitter(i, steps[i])
        seen = getattr(readings, f"spikes_per_min_{axis}") * minutes
        u_by_path[f"still.spikes_per_min_{axis}"] = sqrt(max(seen, 1.0)) / minutes
    along = np.array([readings.rest_x, readings.rest_y or 0.0]) / max(readings.rest_offset, 1e-9)
    u_by_path["still.rest_offset"] = max(
        _spread(np.sqrt(np.square(rest.centre).sum(axis=1)), rest.count),
        float(np.hypot(*(along * scatter))),
        floor,
    )
    one_step = readings.noise_reach < ONE_STEP * max(steps)
    coarse = OR_NONE * max(steps) if one_step else floor / 2
    u_by_path["still.noise_reach"] = max(_spread(rest.noise, rest.count), coarse)
    u_by_path["still.wander"] = max(WANDER_SHARE * readings.wander, floor)
    return u_by_path


def _rests_apart(still: Still, finals: Floats) -> Floats:
    """How far apart a stick comes to rest, each axis, %: standard deviation of its returns, finals
    (m, 2); where it rested farther than twice that from them, as it may have been put down and not
    let go, half as far."""
    scatter = finals.std(axis=0, ddof=1)
    rest = np.array([still.rest_x, still.rest_y or 0.0])
    return np.asarray(np.maximum(scatter, np.abs(rest - finals.mean(axis=0)) / 2))


def _repeat_scatter(let_go: LetGoResult) -> float:
    """How far releases toward the same direction land from each other: standard deviation, %. Where
    each direction came once, how far they land from the nearest first harmonic of the bearing, which
    is where friction leaves a stick; 0 where they are too few for that."""
    bearings = np.radians([r.bearing for r in let_go.readings.release])
    by_sector = np.array([sector(r.bearing) for r in let_go.readings.release])
    if len(np.unique(by_sector)) == len(by_sector) >= FEWEST_AROUND:
        harmonic = np.column_stack((np.ones(len(bearings)), np.sin(bearings), np.cos(bearings)))
        fitted = np.linalg.lstsq(harmonic, let_go.finals, rcond=None)[0]
        left = let_go.finals - harmonic @ fitted
        return sqrt(float(np.square(left).sum()) / 2 / (len(bearings) - 3))
    squares, freedom = 0.0, 0
    for which in np.unique(by_sector):
        same = let_go.finals[by_sector == which]
        squares += float(np.square(same - same.mean(axis=0)).sum()) / 2
        freedom += len(same) - 1
    return sqrt(squares / freedom) if freedom else 0.0


def _let_go_uncertainty(
    let_go: LetGoResult, recording: Recording, floor: float, rng: np.random.Generator
) -> dict[str, float]:
    finals = let_go.finals
    n = len(finals)
    drawn = finals[rng.integers(0, n, (REPLICATES, n))]
    drawn = drawn + rng.normal(0.0, _repeat_scatter(let_go), drawn.shape)
    x, y = drawn[:, :, 0], drawn[:, :, 1]
    apart = np.hypot(x[:, :, None] - x[:, None, :], y[:, :, None] - y[:, None, :])
    # Both of the two that lie farthest apart were rounded, on both axes.
    rounded = floor * (2 if floor * sqrt(12) > COARSE_STEP else 1)
    u_by_path = {
        "let_go.return_max": max(_spread(np.hypot(x, y).max(axis=1), n), floor),
        "let_go.return_spread": max(_spread(apart.max(axis=(1, 2)), n), rounded),
    }
    share = (let_go.readings.return_radius or 0.0) / (let_go.readings.return_spread or 1.0)
    u_by_path["let_go.return_radius"] = max(u_by_path["let_go.return_spread"] * share, floor)
    settle = settle_by_direction(let_go.readings.release)
    ways = len(settle)
    if not ways:
        return u_by_path
    picks = rng.integers(0, ways, (REPLICATES, ways))
    pace = timing(recording.t)
    seen = max(
        _spread(np.percentile(settle[picks], 90, axis=1), ways) if ways > 1 else 0.0,
        500.0 * pace.interval_s if pace else 0.0,
        LETS_GO_MS,
    )
    u_by_path["let_go.settle_ms_p90"] = hypot(seen, let_go.unseen_ms)
    return u_by_path


def _dead_zone_uncertainty(
    still: Still, let_go: LetGoResult, found: dict[str, float]
) -> dict[str, float]:
    noise = found["still.noise_reach"]
    resting = still.rest_offset > (let_go.readings.return_max or 0.0)
    farthest = found["still.rest_offset" if resting else "let_go.return_max"]
    # What wanders was seen for ten seconds only.
    wander = WANDER_SHARE * still.wander
    return {
        "composite.dead_zone_needed": float(np.hypot(farthest, np.hypot(noise, wander))),
        "composite.dead_zone_after_recentring": float(
            np.hypot(found["let_go.return_radius"], np.hypot(noise, wander))
        ),
    }


def _crossing_uncertainty(
    path: str,
    crossing: CrossingResult,
    floor: float,
    rng: np.random.Generator,
    line: float | None = None,
) -> dict[str, float]:
    """By whole passes. line: the hand's, of both crossings."""
    n = crossing.readings.passes
    if n < 2:
        return {}
    u_by_path = {f"{path}.dead_spans": u_dead_spans(crossing.jumped)}
    draws = _draws(rng, n)
    squares, counts = draws @ crossing.squares, draws @ crossing.counts
    noise = track_noise(squares, counts)
    # Passes beside gaps in time may hold nothing that was measured.
    noise = noise[np.isfinite(noise).any(axis=1)]
    u_by_path[f"{path}.track_noise_median"] = max(
        _spread(bottleneck.nanmedian(noise, axis=1), n), floor / 2
    )
    highest = np.nanmax(noise, axis=1)
    u_by_path[f"{path}.track_noise_max"] = max(
        _spread(highest, n),
        _reach(highest, n),
        _one_bin(crossing),
        ONCE * _of_one_pass(crossing),
        floor / 2,
    )
    if crossing.readings.cross_talk is not None:
        picks = rng.integers(0, n, (REPLICATES, n))
        other = crossing.other[picks].reshape(REPLICATES, n, TRACK_BINS)
        seen = np.isfinite(other).any(axis=1).all(axis=0)
        if seen.any():
            along = bottleneck.nanmedian(other[:, :, seen], axis=1)
            apart = _spread(np.ptp(along, axis=1), n)
            u_by_path[f"{path}.cross_talk"] = hypot(
                max(apart, floor, STRAYS), u_askew(crossing, line)
            )
    return u_by_path


def _one_bin(crossing: CrossingResult) -> float:
    """An RMS of m samples is known to 1/√(2m) of itself; the worst bin has only its own samples."""
    noise = track_noise(crossing.squares.sum(axis=0), crossing.counts.sum(axis=0))
    worst = int(np.nanargmax(noise))
    return float(noise[worst] / sqrt(2 * crossing.counts[:, worst].sum()))


def _of_one_pass(crossing: CrossingResult) -> float:
    """How much of the noisiest bin a single pass makes, which may be missing the next time, or be
    there twice (Poisson): what every bin has less of without the pass that is noisiest in it."""
    squares, counts = crossing.squares, crossing.counts
    loudest = np.argmax(squares, axis=0), np.arange(squares.shape[1])
    whole = track_noise(squares.sum(axis=0), counts.sum(axis=0))
    others = counts.sum(axis=0) - counts[loudest]
    left = np.where(others > 0, squares.sum(axis=0) - squares[loudest], 0.0)
    without = track_noise(left, np.maximum(others, 1))
    return float(np.nanmax(whole) - without.max())


def _hold_uncertainty(hold: HoldResult, floor: float) -> dict[str, float]:
    """Of the hold that sags most: the slope's standard error by its blocks' scatter, taken as if
    each half second were one observation, since a hand's tremor is slow."""
    worst = hold.readings.index(sags_most(hold.readings))
    t, along = hold.blocks[worst]
    lasted = float(t[-1] - t[0])
    _, bursts = np.unique(np.floor(hold.dropped_s / BLOCK_S), return_counts=True)
    u_dropped = float(np.hypot.reduce(bursts, initial=0.0))
    u_by_path = {"hold.dropouts_per_min": u_dropped / held_min(hold.readings)}
    if lasted > 0 and len(t) > 3:
        residual = along + hold.readings[worst].sag / SAG_S * t
        residual -= np.median(residual)
        independent = max(3.0, lasted / BLOCK_S)
        scatter = float(np.median(np.abs(residual)) * 1.4826)
        slope = scatter * sqrt(12 / independent) / lasted
        u_by_path["hold.sag"] = max(slope * SAG_S, floor / 2)
    each = np.array([h.hold_jitter for h in hold.readings])
    # No two holds tremble alike: what the highest of the next ones is, is known no better.
    apart = float(each.std(ddof=1)) if len(each) > 1 else 0.0
    of_one = float(each.max()) / sqrt(2 * max(lasted / BLOCK_S, 1.0))
    u_by_path["hold.hold_jitter"] = max(of_one, apart, floor / 2)
    return u_by_path


def _rim_uncertainty(
    rim: RimResult, gate: Gate, floor: float, rng: np.random.Generator
) -> dict[str, float]:
    laps = np.array([fill_around(lap, gate) for lap in rim.lap_radius])
    n = len(laps)
    rims = np.median(laps[rng.integers(0, n, (REPLICATES, n))], axis=1)
    angle = np.radians(BEARINGS)
    waves = np.column_stack((np.ones_like(angle), np.sin(angle), np.cos(angle)))
    target = gate_radius(gate)
    waves[:, 0] = target / 100.0
    shape = rims - rims @ np.linalg.pinv(waves).T @ waves.T
    gap = rim.readings.cw_ccw_gap or 0.0
    apart = rim.readings.lap_repeat or 0.0
    hand = hypot(PRESSED, gap / 4, apart / 2)
    sizes = {
        "circularity_error": np.abs(rims - target).mean(axis=1),
        "mean_radius": rims.mean(axis=1),
        "roundness_lsc": np.ptp(shape, axis=1),
        "roundness_mzc": np.ptp(shape, axis=1),
        "outer_dead_zone_needed": (100.0 - 100.0 * rims / np.minimum(100.0, target)).max(axis=1),
        "overreach": (rims - 100.0).max(axis=1),
        "overrun": (100.0 * rims / target - 100.0).max(axis=1),
        "reach_up": rims[:, 0],
        "reach_right": rims[:, BINS // 4],
        "reach_down": rims[:, BINS // 2],
        "reach_left": rims[:, 3 * BINS // 4],
    }
    u_by_path = {
        f"rim.{name}": max(_spread(v, n), _reach(v, n), floor) for name, v in sizes.items()
    }
    shapes = ("roundness_lsc", "roundness_mzc")
    # Where laps do not repeat, the farthest of their bins is known no better.
    repeat = apart / np.sqrt(n)
    for name in ("outer_dead_zone_needed", "overrun", "overreach", *shapes):
        u_by_path[f"rim.{name}"] = float(np.hypot(u_by_path[f"rim.{name}"], repeat))
    u_by_path |= {
        path: float(np.hypot(u, hand)) for path, u in u_by_path.items() if path[4:] not in shapes
    }
    u_by_path["composite.shape_after_recalibration"] = float(
        np.hypot(u_by_path["rim.roundness_lsc"], hand)
    )
    for way in ("right", "left", "up", "down"):
        u_by_path[f"rim.reach_{way}"] = max(u_by_path[f"rim.reach_{way}"], floor * sqrt(3))
    return u_by_path
