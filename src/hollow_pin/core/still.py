"""Still: hands off. Where the stick rests, how much it trembles, wanders and creeps."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import bearing, diameter
from hollow_pin.core.recording import AXES, Floats, NotUsable, Problem, resolution_of_sorted
from hollow_pin.core.spikes import Spike, knocked, rings
from hollow_pin.core.statistics import (
    IN_CACHE,
    TENTHS_APART,
    AllanPoint,
    Timing,
    baseline,
    centres,
    each_axis,
    median,
    overlapping_allan,
    quantile,
    runs,
    seconds_of,
    theil_sen,
    timing,
)
from hollow_pin.core.sway import SWAYS, reach, sway_in_common, sways_by
from hollow_pin.core.untouched import (
    LEAST_TOUCH,
    SHORTEST_S,
    lengths_from,
    touches,
)

LONGEST_GAP_S = 0.5
MOVED_BY = 25.0
MOVED_FOR_S = 0.2

LEAST_SPIKE = 1.0
"""%: what is lower is no jerk of anything. Where a source swallows small changes, and reports one now
and then, there is nothing but such."""
FELT_SPIKE = 1.5
"""Spikes under this, %, are not felt."""
SPIKE_TIMES = 6.0
"""Of what a rest trembles, from which on it is a spike."""
SWING_TIMES, SWING_STEPS = 4.0, 1.5
"""Of what it trembles, and of the converter's step: what is higher than both beside a spike is part of
how it rang."""
BESIDE = 3
"""Samples before a spike, and after it, whose median is where it came from and went."""
COARSE_STEP = 1.0
"""%, of a converter's step, from which on it is as large as what is looked for."""
CREEP_POINTS = 3600
"""As many means as creep is read from; a Still of over an hour has longer ones."""
MOST_SPIKES = 200
"""As many single spikes as are listed; all of them are counted."""


@dataclass(frozen=True)
class Still:
    """Readings of the Still step, % of half range unless the name says otherwise. rest_reach,
    rest_reach_recentred: how far from zero, and from the rest, it lies for all but one sample in 200.
    spike_jitter_x, _y: what of the jitter is of spikes, in squares.
    noise_in_common: correlation of the two axes' residuals, −1 to 1; sway_in_common: of where they lie
    from one quarter of a second to the next, None where one of them hardly moves so. knocks: how
    often it rang as after a bump of the bench, which makes no spike of its own."""

    rest_x: float
    rest_y: float | None
    rest_offset: float
    rest_bearing: float
    jitter_x: float
    jitter_y: float | None
    spike_jitter_x: float
    spike_jitter_y: float | None
    jitter_pp_x: float
    jitter_pp_y: float | None
    resolution_x: float
    resolution_y: float | None
    spikes_per_min_x: float
    spikes_per_min_y: float | None
    spike_height: float
    spike: tuple[Spike, ...]
    noise_reach: float
    rest_reach: float
    rest_reach_recentred: float
    noise_in_common: float | None
    sway_in_common: float | None
    knocks: int
    wander: float
    creep_x: float | None
    creep_y: float | None
    adev_x: tuple[AllanPoint, ...]
    adev_y: tuple[AllanPoint, ...] | None
    rate_hz: float
    timing_jitter_ms: float
    gaps: int

    @property
    def jitter(self) -> float:
        """The worse axis."""
        return max(self.jitter_x, self.jitter_y or 0.0)

    @property
    def resolution(self) -> float:
        """The coarser axis."""
        return max(self.resolution_x, self.resolution_y or 0.0)


Residual = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class StillResult:
    """The readings, and what they were read from.

    residual: one (n,) an axis; quarters, resolutions: each axis's quartiles and smallest step. noise
    (n,): the distance from the mean residual of the samples in no spike; noise_top: what one in 500
    of it passes. spiked (n,): the samples that are in a spike of either axis. sway: how far from side
    to side the rest goes again and again beyond its trembling, %.
    """

    readings: Still
    residual: tuple[Residual, ...]
    quarters: tuple[tuple[float, float], ...]
    resolutions: tuple[float, ...]
    noise: Residual
    noise_top: float
    pace: Timing
    spiked: NDArray[np.bool_]
    sway: float
    problems: tuple[Problem, ...]

    @property
    def jitter_between_spikes(self) -> float:
        """Of the worse axis, %, without the samples that are in a spike; 0 where there are no more."""
        quiet = ~self.spiked
        if not quiet.any():
            return 0.0
        return max(float(r[quiet].std(dtype=np.float64)) for r in self.residual)


@dataclass(frozen=True, eq=False)
class _Axis:
    residual: Residual
    resolution: float
    spiked: NDArray[np.bool_]
    spikes: list[Spike]
    swings: list[Spike]
    jitter: float
    spike_jitter: float
    peak_to_peak: float
    rest: float
    quarters: tuple[float, float]
    adev: tuple[AllanPoint, ...]
    blocks: Floats
    creep: float | None


def _residual(v: Floats, interval_s: float) -> Residual:
    """Residuals are small numbers: single precision tells them apart and halves an hour's memory."""
    single = v.astype(np.float32)
    single -= baseline(single, interval_s)
    return single


def _measure_axis(
    name: str,
    t: Floats,
    v: Floats,
    interval_s: float,
    starts: NDArray[np.intp],
    stop: int,
) -> _Axis:
    """starts: where the 1 s blocks begin; stop: where the last of them ends."""
    residual = _residual(v, interval_s)
    levels = np.sort(v)
    step, rest = (
        resolution_of_sorted(levels),
        float(levels[len(v) // 4 : len(v) - len(v) // 4].mean()),
    )
    quarters = float(levels[len(v) // 4]), float(levels[3 * len(v) // 4])
    del levels
    ordered = np.sort(residual)
    middle = quantile(ordered, 0.5)
    reach = quantile(ordered, 0.999) - quantile(ordered, 0.001)
    ordered -= np.float32(middle)
    tenths = quantile(ordered, 0.9) - quantile(ordered, 0.1)
    mad = median(np.abs(ordered, out=ordered))
    trembles = max(1.4826 * mad, tenths / TENTHS_APART)
    limit = max(SPIKE_TIMES * max(trembles, step / 2), LEAST_SPIKE)
    del ordered
    away = residual - np.float32(middle)
    spiked = _come_back(v, away, limit)
    spikes = _highest(name, t, residual, spiked)
    swing = max(SWING_TIMES * trembles, SWING_STEPS * step)
    swings = _highest(name, t, residual, away > swing) + _highest(name, t, residual, away < -swing)
    blocks = centres(v[:stop], starts)
    jitter = float(residual.std(dtype=np.float64))
    return _Axis(
        residual=residual,
        resolution=step,
        spiked=spiked,
        spikes=spikes,
        swings=sorted(swings, key=lambda s: s.t_s),
        jitter=jitter,
        spike_jitter=_of_spikes(residual, spiked, jitter),
        peak_to_peak=reach,
        rest=rest,
        quarters=quarters,
        adev=overlapping_allan(v, interval_s),
        blocks=blocks,
        creep=_creep(blocks),
    )


def _highest(name: str, t: Floats, residual: Residual, out: NDArray[np.bool_]) -> list[Spike]:
    """Where an axis is farthest in each run of the samples that are out (n,)."""
    spikes = []
    for first, last in zip(*runs(out), strict=True):
        at = int(first) + int(np.abs(residual[first:last]).argmax())
        spikes.append(Spike(float(t[at]), name, float(residual[at])))
    return spikes


def _of_spikes(residual: Residual, spiked: NDArray[np.bool_], jitter: float) -> float:
    """What of the jitter is of the samples that are in a spike, in squares, %."""
    between = residual[~spiked]
    calm = float(between.std(dtype=np.float64)) if between.size else 0.0
    return sqrt(max(0.0, jitter**2 - calm**2))


def _without_rings(axes: list[_Axis], t: Floats, rung: list[tuple[float, float]]) -> list[_Axis]:
    """The axes without what rang: no spikes of theirs, and no trembling."""

    def inside(at: Floats) -> NDArray[np.bool_]:
        within = [(at >= first) & (at <= last) for first, last in rung]
        return np.asarray(np.logical_or.reduce(within))

    during = inside(t)
    axes_left = []
    for a in axes:
        outside = ~inside(np.array([s.t_s for s in a.spikes]))
        spikes = [s for s, keep in zip(a.spikes, outside, strict=True) if keep]
        quiet = a.residual[~during]
        jitter = float(quiet.std(dtype=np.float64)) if quiet.size else a.jitter
        of_spikes = _of_spikes(quiet, a.spiked[~during], jitter)
        spiked = a.spiked | during
        axes_left.append(
            replace(a, spikes=spikes, spiked=spiked, jitter=jitter, spike_jitter=of_spikes)
        )
    return axes_left


def _come_back(v: Floats, away: Residual, limit: float) -> NDArray[np.bool_]:
    """Which samples (n,) lie farther than the limit from the baseline, away (n,), and come back: what
    rests elsewhere after than before, by half of how far out it was, has moved there and is no spike.
    """
    far = np.abs(away)
    out = far > limit
    first, last = runs(far > limit / 2)
    if not out.any():
        return out
    height = np.maximum.reduceat(far, first)
    beside = np.arange(BESIDE)
    before = np.median(v[np.maximum(first[:, None] - 1 - beside, 0)], axis=1)
    after = np.median(v[np.minimum(last[:, None] + beside, len(v) - 1)], axis=1)
    moved = (height > limit) & (np.abs(after - before) > height / 2)
    for a, b in zip(first[moved], last[moved], strict=True):
        out[a:b] = False
    return out


def _creep(blocks: Floats) -> float | None:
    """The slope of consecutive seconds' centres (m,), % a minute; None where there is but one."""
    if len(blocks) < 2:
        return None
    each = -(-len(blocks) // CREEP_POINTS)
    means = blocks[: len(blocks) // each * each].reshape(-1, each).mean(axis=1)
    return theil_sen(np.arange(len(means)) * each / 60.0, means)


def _distance(residuals: list[Residual], spiked: NDArray[np.bool_]) -> Residual:
    """How far each sample lies from the mean residual of those in no spike: a contact that jumps to an
    end carries a mean of all of them along."""
    squares = np.zeros_like(residuals[0])
    some = spiked.any() and not spiked.all()
    for r in residuals:
        calm = r[~spiked] if some else r
        off = r - np.float32(calm.mean(dtype=np.float64))
        off *= off
        squares += off
    return np.sqrt(squares, out=squares)


def _in_common(residuals: list[Residual], spiked: NDArray[np.bool_]) -> float | None:
    """How far the two axes tremble as one; None where one of them does not tremble."""
    sums, n = np.zeros(5), 0
    for start in range(0, len(spiked), IN_CACHE):
        calm = ~spiked[start : start + IN_CACHE]
        x, y = (r[start : start + IN_CACHE][calm].astype(np.float64) for r in residuals)
        sums += (x.sum(), y.sum(), x @ x, y @ y, x @ y)
        n += len(x)
    if n < 2:
        return None
    mx, my, xx, yy, xy = sums / n
    vx, vy = xx - mx * mx, yy - my * my
    return float((xy - mx * my) / np.sqrt(vx * vy)) if min(vx, vy) > 1e-12 else None


def _moved(t: Floats, away: Floats) -> bool:
    starts, stops = runs(away > MOVED_BY)
    return bool(starts.size and (t[stops - 1] - t[starts]).max() > MOVED_FOR_S)


def _usable(t: Floats) -> tuple[Timing, float]:
    """The timing of a Still that can be measured, and its length in seconds."""
    pace = timing(t)
    length = float(t[-1] - t[0]) if len(t) else 0.0
    if pace is None or length + pace.interval_s < SHORTEST_S:
        raise NotUsable(
            "short", f"Still lasted {length:.1f} s and needs at least 5 s. Keep hands off longer."
        )
    if pace.longest_gap_s > LONGEST_GAP_S:
        raise NotUsable(
            "gap",
            f"samples are missing for {pace.longest_gap_s:.1f} s. "
            "Check the cable or the link, then redo Still.",
        )
    return pace, length


def measure_still(t: Floats, u: Floats) -> StillResult:
    """Measure a hands-off step: t (n,) seconds, u (n, k) % of half range, k = 1 or 2.

    Raises NotUsable when it is shorter than 5 s or samples are missing for over 0.5 s.
    """
    pace, length = _usable(t)
    interval = pace.interval_s
    starts, stop = seconds_of(t)
    axes = each_axis(
        lambda i: _measure_axis(AXES[i], t, u[:, i], interval, starts, stop),
        u.shape[1],
        len(t),
    )
    rung = rings([a.spikes for a in axes], [a.swings for a in axes])
    if rung:
        axes = _without_rings(axes, t, rung)
    residuals = [a.residual for a in axes]
    spikes = sorted((s for a in axes for s in a.spikes), key=lambda s: s.t_s)
    rest = np.array([a.rest for a in axes])
    spiked = np.logical_or.reduce([a.spiked for a in axes])
    noise = _distance(residuals, spiked)
    quiet = np.sort(noise[~spiked])
    blocks = np.column_stack([a.blocks for a in axes])
    flat = np.column_stack((blocks, np.zeros(len(blocks)))) if u.shape[1] == 1 else blocks
    at = np.array([rest[0], rest[1] if len(rest) > 1 else 0.0])
    per_min = 60.0 / (length + pace.interval_s)
    two = len(axes) == 2
    warnings = (*_warnings(t, u, rest, axes), *knocked(len(rung)))

    readings = Still(
        rest_x=float(rest[0]),
        rest_y=float(rest[1]) if two else None,
        rest_offset=float(np.hypot(*at)),
        rest_bearing=float(bearing(*at)),
        jitter_x=axes[0].jitter,
        jitter_y=axes[1].jitter if two else None,
        spike_jitter_x=axes[0].spike_jitter,
        spike_jitter_y=axes[1].spike_jitter if two else None,
        jitter_pp_x=axes[0].peak_to_peak,
        jitter_pp_y=axes[1].peak_to_peak if two else None,
        resolution_x=axes[0].resolution,
        resolution_y=axes[1].resolution if two else None,
        spikes_per_min_x=len(axes[0].spikes) * per_min,
        spikes_per_min_y=len(axes[1].spikes) * per_min if two else None,
        spike_height=max((abs(s.height) for s in spikes), default=0.0),
        spike=tuple(spikes[:MOST_SPIKES]),
        noise_reach=quantile(quiet, 0.999) if quiet.size else 0.0,
        rest_reach=reach(u, np.zeros(len(rest)), spiked),
        rest_reach_recentred=reach(u, rest, spiked),
        noise_in_common=_in_common(residuals, spiked) if two else None,
        sway_in_common=sway_in_common(t, u) if two else None,
        knocks=len(rung),
        wander=diameter(flat),
        creep_x=axes[0].creep,
        creep_y=axes[1].creep if two else None,
        adev_x=axes[0].adev,
        adev_y=axes[1].adev if two else None,
        rate_hz=pace.rate_hz,
        timing_jitter_ms=pace.timing_jitter_ms,
        gaps=pace.gaps,
    )
    top = float(quiet[-_top_count(len(quiet))]) if quiet.size else 0.0
    usual = quantile(quiet, SWAYS) if quiet.size else 0.0
    sway = 2 * max(0.0, sways_by(u, rest, spiked) - usual)
    quarters = tuple(a.quarters for a in axes)
    steps = tuple(a.resolution for a in axes)
    return StillResult(
        readings, tuple(residuals), quarters, steps, noise, top, pace, spiked, sway, warnings
    )


def _top_count(n: int) -> int:
    """As many of the largest of n as their 99.9th percentile can fall among when resampled."""
    return min(n, max(200, n // 500))


def _warnings(t: Floats, u: Floats, rest: Floats, axes: list[_Axis]) -> list[Problem]:
    warnings = []
    least, most = u.min(axis=0), u.max(axis=0)
    far = float(np.hypot.reduce(np.maximum(most - rest, rest - least)))
    away = lengths_from(u, rest) if far > MOVED_BY else np.zeros(1)
    if _moved(t, away):
        warnings.append(
            Problem(
                "still",
                "moved",
                f"the stick stayed {away.max():.0f} % from its rest. Was it touched? "
                "If so, redo Still; if not, it drifts badly by itself.",
            )
        )
    elif far > LEAST_TOUCH and (touched := touches(t, u)):
        warnings.append(
            Problem(
                "still",
                "moved",
                f"the stick went {max(touched):.0f} % from its rest and came back. Was it touched? "
                "If so, redo Still; if not, a contact comes and goes.",
            )
        )
    constant = [name for name, a in zip("xy", axes, strict=False) if a.resolution == 0]
    if constant:
        warnings.append(
            Problem(
                "still",
                "constant",
                f"{' and '.join(constant)} never changed by a single step. Noise below one step "
                "cannot be seen, and a dead zone in the firmware looks the same.",
            )
        )
    return warnings
