"""Still: hands off. Where the stick rests, how much it trembles, wanders and creeps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import bearing, diameter, lengths
from hollow_pin.core.recording import AXES, Floats, NotUsable, Problem
from hollow_pin.core.statistics import (
    AllanPoint,
    baseline,
    centre,
    overlapping_allan,
    resolution,
    runs,
    theil_sen,
    timing,
)

SHORTEST_S = 5.0
LONGEST_GAP_S = 0.5
MOVED_BY = 25.0
MOVED_FOR_S = 0.2


MOST_SPIKES = 200
"""As many single spikes as are listed; all of them are counted."""


@dataclass(frozen=True)
class Spike:
    """One spike: seconds from the start of the recording, its axis, the residual at its highest."""

    t_s: float
    axis: str
    height: float


@dataclass(frozen=True)
class Still:
    """Readings of the Still step, % of half range unless the name says otherwise."""

    rest_x: float
    rest_y: float | None
    rest_offset: float
    rest_bearing: float
    jitter_x: float
    jitter_y: float | None
    jitter_pp_x: float
    jitter_pp_y: float | None
    resolution_x: float
    resolution_y: float | None
    spikes_per_min_x: float
    spikes_per_min_y: float | None
    spike_height: float
    spike: tuple[Spike, ...]
    noise_reach: float
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


@dataclass(frozen=True, eq=False)
class StillResult:
    """The readings, and what they were read from: residual (n, k); noise (n,), the distance from
    the mean residual; spiked (n,), the samples that are in a spike of either axis."""

    readings: Still
    residual: Floats
    noise: Floats
    spiked: NDArray[np.bool_]
    problems: tuple[Problem, ...]


@dataclass(frozen=True, eq=False)
class _Axis:
    residual: Floats
    resolution: float
    spiked: NDArray[np.bool_]
    spikes: list[Spike]


def _measure_axis(name: str, t: Floats, v: Floats, interval_s: float) -> _Axis:
    residual = v - baseline(v, interval_s)
    step = resolution(v)
    from_median = np.abs(residual - np.median(residual))
    mad = float(np.median(from_median))
    spiked = from_median > 6 * max(1.4826 * mad, step / 2)
    spikes = []
    for start, stop in zip(*runs(spiked), strict=True):
        at = int(start) + int(np.abs(residual[start:stop]).argmax())
        spikes.append(Spike(float(t[at]), name, float(residual[at])))
    return _Axis(residual, step, spiked, spikes)


def block_centres(t: Floats, u: Floats) -> Floats:
    """`centre` of consecutive 1 s blocks, (blocks, k); a last block under 0.5 s is dropped."""
    edges = np.arange(t[0], t[-1], 1.0)
    if len(edges) > 1 and t[-1] - edges[-1] < 0.5:
        edges = edges[:-1]
        t_end = edges[-1] + 1.0
    else:
        t_end = np.inf
    inside = t < t_end
    starts = np.searchsorted(t[inside], edges)
    return np.array([centre(b) for b in np.split(u[inside], starts[1:]) if len(b)])


def _moved(t: Floats, away: Floats) -> bool:
    starts, stops = runs(away > MOVED_BY)
    return bool(starts.size and (t[stops - 1] - t[starts]).max() > MOVED_FOR_S)


def measure_still(t: Floats, u: Floats) -> StillResult:
    """Measure a hands-off step: t (n,) seconds, u (n, k) % of half range, k = 1 or 2.

    Raises NotUsable when it is shorter than 5 s or samples are missing for over 0.5 s.
    """
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
    axes = [_measure_axis(name, t, v, pace.interval_s) for name, v in zip(AXES, u.T, strict=False)]
    spikes = sorted((s for a in axes for s in a.spikes), key=lambda s: s.t_s)
    rest = centre(u)
    residual = np.column_stack([a.residual for a in axes])
    noise = np.sqrt(np.square(residual - residual.mean(axis=0)).sum(axis=1))
    spiked = np.logical_or.reduce([a.spiked for a in axes])
    quiet = noise[~spiked]
    blocks = block_centres(t, u)
    flat = np.column_stack((blocks, np.zeros(len(blocks)))) if u.shape[1] == 1 else blocks
    minutes = np.arange(len(blocks)) / 60.0
    creep = [theil_sen(minutes, b) if len(blocks) > 1 else None for b in blocks.T]
    at = np.array([rest[0], rest[1] if len(rest) > 1 else 0.0])
    per_min = 60.0 / (length + pace.interval_s)
    two = len(axes) == 2

    readings = Still(
        rest_x=float(rest[0]),
        rest_y=float(rest[1]) if two else None,
        rest_offset=float(np.hypot(*at)),
        rest_bearing=float(bearing(*at)),
        jitter_x=float(residual[:, 0].std()),
        jitter_y=float(residual[:, 1].std()) if two else None,
        jitter_pp_x=_peak_to_peak(residual[:, 0]),
        jitter_pp_y=_peak_to_peak(residual[:, 1]) if two else None,
        resolution_x=axes[0].resolution,
        resolution_y=axes[1].resolution if two else None,
        spikes_per_min_x=len(axes[0].spikes) * per_min,
        spikes_per_min_y=len(axes[1].spikes) * per_min if two else None,
        spike_height=max((abs(s.height) for s in spikes), default=0.0),
        spike=tuple(spikes[:MOST_SPIKES]),
        noise_reach=float(np.percentile(quiet, 99.9)) if quiet.size else 0.0,
        wander=diameter(flat),
        creep_x=creep[0],
        creep_y=creep[1] if two else None,
        adev_x=overlapping_allan(u[:, 0], pace.interval_s),
        adev_y=overlapping_allan(u[:, 1], pace.interval_s) if two else None,
        rate_hz=pace.rate_hz,
        timing_jitter_ms=pace.timing_jitter_ms,
        gaps=pace.gaps,
    )
    return StillResult(readings, residual, noise, spiked, tuple(_warnings(t, u, rest, axes)))


def _peak_to_peak(r: Floats) -> float:
    low, high = np.percentile(r, (0.1, 99.9))
    return float(high - low)


def _warnings(t: Floats, u: Floats, rest: Floats, axes: list[_Axis]) -> list[Problem]:
    found = []
    away = lengths(u - rest) if u.shape[1] == 2 else np.abs(u[:, 0] - rest[0])
    if _moved(t, away):
        found.append(
            Problem(
                "still",
                "moved",
                f"the stick stayed {away.max():.0f} % from its rest. Was it touched? "
                "If so, redo Still; if not, it drifts badly by itself.",
            )
        )
    constant = [name for name, a in zip("xy", axes, strict=False) if a.resolution == 0]
    if constant:
        found.append(
            Problem(
                "still",
                "constant",
                f"{' and '.join(constant)} never changed by a single step. Noise below one step "
                "cannot be seen, and a dead zone in the firmware looks the same.",
            )
        )
    return found
