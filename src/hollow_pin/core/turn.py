"""Turn: a single axis with no spring, over its whole travel, and at rest low, middle and high."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.crossing import CrossingResult, RoughSpot, measure_crossing
from hollow_pin.core.dead_spans import DeadSpan
from hollow_pin.core.recording import Floats, NotUsable, Problem
from hollow_pin.core.statistics import (
    odd_window,
    running_mean,
    running_median,
    running_range,
    runs,
    timing,
)
from hollow_pin.core.still import Still, StillResult, measure_still
from hollow_pin.core.untouched import SHORTEST_S
from hollow_pin.core.words import listed

Place = Literal["low", "middle", "high"]
PLACES: tuple[Place, ...] = ("low", "middle", "high")
AT_REST_WITHIN = 3.0
AT_REST_S = 0.5
ASTIR_WITHIN, ASTIR_S, ASTIR_MOST = 20.0, 2.0, 30.0
"""%, that it goes about by over any so many seconds, and all in all, which nobody turns: it was left
alone and does not stay, or was held."""


@dataclass(frozen=True)
class Turn:
    """Readings of the Turn step: as in Crossing, and Still at three places; None where it was not
    left alone for 5 s. reach_low, reach_high: −1st and 99th percentile, %. spikes_per_min: of all
    places together; None where it was left alone at none."""

    passes: int
    track_noise: tuple[float | None, ...]
    track_noise_median: float
    track_noise_max: float
    rough_spots: tuple[RoughSpot, ...]
    dead_spans: tuple[DeadSpan, ...]
    built_in_dead_zone: float
    reach_low: float
    reach_high: float
    low: Still | None
    middle: Still | None
    high: Still | None
    spikes_per_min: float | None

    @property
    def rests(self) -> dict[Place, Still]:
        """The places it was left alone at."""
        return {p: s for p in PLACES if (s := getattr(self, p)) is not None}

    @property
    def jitter(self) -> float | None:
        """The worst of the places it was left alone at."""
        return max((s.jitter_x for s in self.rests.values()), default=None)

    @property
    def wander(self) -> float | None:
        """The worst of the places it was left alone at."""
        return max((s.wander for s in self.rests.values()), default=None)

    @property
    def spike_height(self) -> float:
        """The highest at any place it was left alone at, %; 0 without one."""
        return max((s.spike_height for s in self.rests.values()), default=0.0)


@dataclass(frozen=True, eq=False)
class TurnResult:
    """The readings, and what they were read from: the crossing, and each rest with its samples."""

    readings: Turn
    crossing: CrossingResult
    rests: dict[Place, tuple[slice, StillResult]]
    problems: tuple[Problem, ...]


def at_rest(
    t: Floats,
    v: Floats,
    interval_s: float,
    within: float = AT_REST_WITHIN,
    over_s: float = AT_REST_S,
) -> list[slice]:
    """Stretches of 5 s or more in which the axis stays within so many % over any so many seconds, by
    the mean over a quarter of a second of its running median over another: a noisy track rests too,
    and so does one that hums, however slow its hum looks to a slow source."""
    window = odd_window(over_s, interval_s, len(v))
    half = odd_window(AT_REST_S / 2, interval_s, len(v))
    smooth = running_mean(running_median(v, half, "edge"), half, "edge")
    spread = running_range(smooth, window)
    starts, stops = runs(spread <= within)
    return [
        slice(int(a), int(b))
        for a, b in zip(starts, stops, strict=True)
        if t[b - 1] - t[a] + interval_s >= SHORTEST_S
    ]


def place_of(v: float, low: float, high: float) -> Place:
    """Which third of the travel from low to high a position lies in."""
    share = (v - low) / max(high - low, 1e-9)
    return "low" if share < 1 / 3 else "middle" if share < 2 / 3 else "high"


def _astir(
    t: Floats, v: Floats, interval_s: float, calm: Container[Place], low: float, high: float
) -> list[slice]:
    """Where it was not turned and does not stay either, at the places where it is calm nowhere."""
    about = at_rest(t, v, interval_s, ASTIR_WITHIN, ASTIR_S)
    return [
        part
        for part in about
        if place_of(float(np.median(v[part])), low, high) not in calm
        and float(np.ptp(np.percentile(v[part], (2, 98)))) <= ASTIR_MOST
    ]


def measure_turn(t: Floats, u: Floats, swallowed: float = 0.0) -> TurnResult:
    """Measure a single axis without spring: t (n,) seconds, u (n, 1) %. swallowed: changes that its
    source keeps to itself, %.

    Raises NotUsable when it was not turned from end to end, or has two axes.
    """
    if u.shape[1] != 1:
        raise NotUsable("two-axes", "Turn is for a single axis without a spring.")
    v = u[:, 0]
    pace = timing(t)
    interval = pace.interval_s if pace else 1.0
    alone = at_rest(t, v, interval)
    crossing = measure_crossing("turn", t, v, None, swallowed, alone)
    low, high = (float(p) for p in np.percentile(v, (1, 99)))
    rests: dict[Place, tuple[slice, StillResult]] = {}
    problems = list(crossing.problems)
    calm = {place_of(float(np.median(v[part])), low, high) for part in alone}
    astir = _astir(t, v, interval, calm, low, high)
    for part in [*alone, *astir]:
        place = place_of(float(np.median(v[part])), low, high)
        try:
            still = measure_still(t[part], u[part])
        except NotUsable as why:
            problems.append(
                Problem("turn", f"{place}-{why.code}", f"at the {place}: {why.message}")
            )
            continue
        longest = rests.get(place)
        if longest is None or part.stop - part.start > longest[0].stop - longest[0].start:
            rests[place] = part, still
    moved = [p for p in PLACES if p in rests and rests[p][0] in astir]
    if moved:
        problems.append(
            Problem(
                "turn",
                "astir",
                f"at {listed([f'the {p}' for p in moved])} it was not turned and did not stay. Was it "
                "held? If so, take Turn again, hands off; if not, it wanders by itself.",
            )
        )
    missing = [p for p in PLACES if p not in rests]
    if missing:
        problems.append(
            Problem(
                "turn",
                "rests",
                f"it was not left alone for 5 s at {listed([f'the {p}' for p in missing])}: "
                "its jitter there is not measured.",
            )
        )
    c = crossing.readings
    minutes = {p: float(t[part.stop - 1] - t[part.start]) / 60.0 for p, (part, _) in rests.items()}
    spikes = sum(s.readings.spikes_per_min_x * minutes[p] for p, (_, s) in rests.items())
    readings = Turn(
        passes=c.passes,
        track_noise=c.track_noise,
        track_noise_median=c.track_noise_median,
        track_noise_max=c.track_noise_max,
        rough_spots=c.rough_spots,
        dead_spans=c.dead_spans,
        built_in_dead_zone=c.built_in_dead_zone,
        reach_low=-low,
        reach_high=high,
        **{p: rests[p][1].readings if p in rests else None for p in PLACES},
        spikes_per_min=spikes / sum(minutes.values()) if rests else None,
    )
    return TurnResult(readings, crossing, rests, tuple(problems))
