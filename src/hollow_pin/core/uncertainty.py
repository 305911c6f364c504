"""How far a reading may be trusted: standard uncertainties by bootstrap within a take.

Resampled with a fixed seed are 0.5 s blocks of Still, whole releases of Let-go, whole laps of Rim and
whole passes of crossings; what a hold's slope is worth is told by how far its blocks lie from the
line.

Releases are smoothed (Silverman & Young 1987) by how far two releases toward the same direction
land apart, since the farthest of a few returns says little about the farthest of the next few.

Two things the resampling cannot see are put in as floors. A converter step hides changes smaller
than itself: step/√12, half a step for percentiles, which do not average over it. And a rest is known
no better than the returns scatter.
"""

from __future__ import annotations

from collections.abc import Mapping
from math import hypot, sqrt

import bottleneck
import numpy as np

from hollow_pin.core.bootstrap import REPLICATES, draws, reach, spread
from hollow_pin.core.crossing import BINS as TRACK_BINS
from hollow_pin.core.crossing import CrossingResult, track_noise
from hollow_pin.core.dead_spans import u_dead_spans
from hollow_pin.core.gate import BEARINGS, BINS, Gate, fill_around, gate_radius
from hollow_pin.core.geometry import sector
from hollow_pin.core.hand_line import BIN_MIDDLES, u_askew
from hollow_pin.core.hold import SAG_S, HoldResult, held_min, sags_most
from hollow_pin.core.let_go import LetGoResult, settle_by_direction
from hollow_pin.core.recording import Recording
from hollow_pin.core.rest_uncertainty import BLOCK_S, WANDER_SHARE, Rest, still_uncertainty
from hollow_pin.core.rim import RimResult
from hollow_pin.core.statistics import timing
from hollow_pin.core.step_results import StepResults
from hollow_pin.core.still import COARSE_STEP, Still
from hollow_pin.core.turn import Place, TurnResult, place_of

SEED = 20_417
ONCE = 0.63
"""Of what a single event makes of an RMS, its standard deviation: that of √k, where k is how often it
comes the next time (Poisson, of one on the average)."""
PRESSED = 0.15
"""How much farther out one hand presses than another, %: standard deviation."""
STRAYS = 1.0
"""How far a hand strays sideways on its way, %: standard deviation of what cross-talk takes it for."""
FEWEST_AROUND = 6
"""Releases, each toward another direction, from which how they scatter is told from where they go."""
AT_AN_END = 0.3
"""How far from its end a hand may leave a single axis, %: standard deviation."""
LETS_GO_MS = 4.0
"""How much later one hand is off the stick than another, once it opens: standard deviation."""


def take_uncertainty(
    recording: Recording,
    parts: dict[str, slice],
    results: StepResults,
    gate: Gate,
    by_place: Mapping[str, float],
) -> dict[str, float]:
    """Standard uncertainties by dotted name, in the reading's own unit. by_place: what of them is by
    where the stick came to rest (`u_by_place`).

    A reading that is missing here has none: too few blocks, releases, laps or passes to resample.
    """
    rng = np.random.default_rng(SEED)
    still_alone = parts.get("still") == slice(0, len(recording.t_us)) and results.still
    # An hour of one step is sorted once, where it was measured.
    steps = (
        list(map(max, still_alone.resolutions, recording.swallowed))
        if still_alone
        else recording.steps
    )
    floor = max(steps) / sqrt(12)
    u_by_path: dict[str, float] = {}
    still, let_go, rim = results.still, results.let_go, results.rim
    if still:
        part = parts["still"]
        rest = Rest(recording.t[part], recording.u[part], still, rng)
        finals = let_go.finals if let_go else np.empty((0, 2))
        u_by_path |= still_uncertainty(recording.axes, still.readings, rest, finals, steps)
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
    for axis, crossing in results.crossing.items():
        u_by_path |= _crossing_uncertainty(
            f"crossing.{axis}", crossing, floor, rng, results.hand_line
        )
    if results.hold:
        u_by_path |= _hold_uncertainty(results.hold, floor)
    turn = results.turn
    if turn:
        u_by_path |= _crossing_uncertainty("turn", turn.crossing, floor, rng)
        u_by_path["turn.reach_low"] = u_by_path["turn.reach_high"] = floor * sqrt(3)
        u_by_path |= _turn_uncertainty(turn, floor)
        start = parts["turn"].start
        jitters = {}
        for place, (part, result) in turn.rests.items():
            inside = slice(start + part.start, start + part.stop)
            rest = Rest(recording.t[inside], recording.u[inside], result, rng)
            jitters[place] = u_by_path[f"turn.{place}.jitter_x"] = rest.u_jitter(0, steps[0])
        if jitters:
            worst = max(jitters, key=lambda p: turn.rests[p][1].readings.jitter_x)
            u_by_path["turn.jitter"] = hypot(jitters[worst], _elsewhere(turn, worst))
    if results.ends:
        # The farthest of a few visits lies out by a deviation of what wanders, more or less; what was
        # seen of that ranges over two or three.
        wander = (turn.readings.wander if turn else None) or 0.0
        u_by_path["composite.outer_dead_zone_needed"] = hypot(
            AT_AN_END, results.ends.scatter, floor, wander / 2
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


def _repeat_scatter(let_go: LetGoResult) -> float:
    """How far releases toward the same direction land from each other: standard deviation, %. Where
    each direction came once, how far they land from the nearest first harmonic of the bearing, which
    is where friction leaves a stick; 0 where they are too few for that."""
    bearings = np.radians([r.bearing for r in let_go.readings.release])
    by_sector = np.array([sector(r.bearing) for r in let_go.readings.release])
    if len(np.unique(by_sector)) == len(by_sector) >= FEWEST_AROUND:
        harmonic = np.column_stack((np.ones(len(bearings)), np.sin(bearings), np.cos(bearings)))
        fitted = np.linalg.lstsq(harmonic, let_go.finals, rcond=None)[0]
        residual = let_go.finals - harmonic @ fitted
        return sqrt(float(np.square(residual).sum()) / 2 / (len(bearings) - 3))
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
        "let_go.return_max": max(spread(np.hypot(x, y).max(axis=1), n), floor),
        "let_go.return_spread": max(spread(apart.max(axis=(1, 2)), n), rounded),
    }
    share = (let_go.readings.return_radius or 0.0) / (let_go.readings.return_spread or 1.0)
    u_by_path["let_go.return_radius"] = max(u_by_path["let_go.return_spread"] * share, floor)
    settle = settle_by_direction(let_go.readings.release)
    ways = len(settle)
    if not ways:
        return u_by_path
    picks = rng.integers(0, ways, (REPLICATES, ways))
    pace = timing(recording.t)
    u_settle = max(
        spread(np.percentile(settle[picks], 90, axis=1), ways) if ways > 1 else 0.0,
        500.0 * pace.interval_s if pace else 0.0,
        LETS_GO_MS,
    )
    u_by_path["let_go.settle_ms_p90"] = hypot(u_settle, let_go.unseen_ms)
    return u_by_path


def _dead_zone_uncertainty(
    still: Still, let_go: LetGoResult, u: dict[str, float]
) -> dict[str, float]:
    noise = u["still.noise_reach"]
    resting = still.rest_offset > (let_go.readings.return_max or 0.0)
    farthest = u["still.rest_offset" if resting else "let_go.return_max"]
    # What wanders was seen for ten seconds only.
    wander = WANDER_SHARE * still.wander
    return {
        "composite.dead_zone_needed": float(np.hypot(farthest, np.hypot(noise, wander))),
        "composite.dead_zone_after_recentring": float(
            np.hypot(u["let_go.return_radius"], np.hypot(noise, wander))
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
    drawn = draws(rng, n)
    squares, counts = drawn @ crossing.squares, drawn @ crossing.counts
    noise = track_noise(squares, counts)
    # Passes beside gaps in time may hold nothing that was measured.
    noise = noise[np.isfinite(noise).any(axis=1)]
    u_by_path[f"{path}.track_noise_median"] = max(
        spread(bottleneck.nanmedian(noise, axis=1), n), floor / 2
    )
    highest = np.nanmax(noise, axis=1)
    u_by_path[f"{path}.track_noise_max"] = max(
        spread(highest, n),
        reach(highest, n),
        _one_bin(crossing),
        ONCE * _of_one_pass(crossing),
        floor / 2,
    )
    if crossing.readings.cross_talk is not None:
        picks = rng.integers(0, n, (REPLICATES, n))
        other = crossing.other[picks].reshape(REPLICATES, n, TRACK_BINS)
        covered = np.isfinite(other).any(axis=1).all(axis=0)
        if covered.any():
            along = bottleneck.nanmedian(other[:, :, covered], axis=1)
            apart = spread(np.ptp(along, axis=1), n)
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
    others_left = np.where(others > 0, squares.sum(axis=0) - squares[loudest], 0.0)
    without = track_noise(others_left, np.maximum(others, 1))
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
    u_by_path = {f"rim.{name}": max(spread(v, n), reach(v, n), floor) for name, v in sizes.items()}
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
