"""What both axes tremble as one: it comes by the supply or the ground, and is no stick's own."""

from __future__ import annotations

from math import sqrt

from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import AXES

WITH_NOISE = (
    "still.noise_reach",
    "composite.dead_zone_needed",
    "composite.dead_zone_after_recentring",
)
"""Readings that hold how far it trembles, besides the jitter of either axis."""


def of_its_own(take: TakeReadings, path: str) -> float | None:
    """A reading as it would be without what both axes tremble as one, in its own unit; None where it
    was not measured, or holds no trembling.

    Two axes that tremble by σx and σy, spikes left out, with a correlation r, share r σx σy of their
    squares where it is as large on both, and r σx² of one where it is as large beside its own: the
    larger of these is taken.
    """
    value, still = take.value(path), take.still
    if value is None or still is None or still.noise_in_common is None:
        return None
    share = abs(still.noise_in_common)
    calm = [
        sqrt(max(0.0, (jitter or 0.0) ** 2 - (of_spikes or 0.0) ** 2))
        for jitter, of_spikes in (
            (still.jitter_x, still.spike_jitter_x),
            (still.jitter_y, still.spike_jitter_y),
        )
    ]
    for axis, trembles in zip(AXES, calm, strict=True):
        if path == f"still.jitter_{axis}":
            return sqrt(max(0.0, value**2 - share * trembles * max(calm)))
    if path not in WITH_NOISE:
        return None
    return max(0.0, value - (1.0 - sqrt(1.0 - share)) * still.noise_reach)
