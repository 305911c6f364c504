"""The place of a track that is rougher than the rest of it, pass after pass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hollow_pin.core.crossing import RoughSpot
from hollow_pin.core.dead_spans import DeadSpan
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.words import number

LEAST, TIMES = 1.0, 6.0
"""Sound tracks make 0.6 % at the most in their roughest place, and 2.6 times as much as elsewhere."""
FEWEST = 2
"""Passes: of a single one nobody knows what it does the next time."""


@dataclass(frozen=True)
class RoughPlace:
    """path: of the reading that is its noise, %; words: where it lies."""

    path: str
    words: str


def _is_jumped(spot: RoughSpot, spans: Sequence[DeadSpan]) -> bool:
    return any(
        span.passes >= spot.passes and span.from_ < spot.to and span.to > spot.from_
        for span in spans
    )


def rough_place(take: TakeReadings) -> RoughPlace | None:
    """The roughest place that makes 1 % of noise, and six times as much as its track makes elsewhere,
    in more than half of its passes: there is something, whatever a limit says of how much that is.
    What a hand, a joint or a spike does is not there the next time; and where as many passes jump over
    it, it is no roughness. None where there is none."""
    crossed, turn = take.crossing, take.turn
    tracks = {f"crossing.{a}": getattr(crossed, a) for a in take.recording.axes} if crossed else {}
    tracks |= {"turn": turn}
    places = [
        (spot.peak, part, spot)
        for part, track in tracks.items()
        if track is not None
        for spot in track.rough_spots
        if spot.peak >= max(LEAST, TIMES * track.track_noise_median)
        and spot.passes >= max(FEWEST, track.passes // 2 + 1)
        and not _is_jumped(spot, track.dead_spans)
    ]
    if not places:
        return None
    _, part, spot = max(places, key=lambda place: place[0])
    whose = f" of {part[-1]}" if len(take.recording.axes) == 2 else ""
    low, high = (number(v, "").replace("-", "−") for v in (spot.from_, spot.to))
    words = f"the track{whose} is rough from {low} to {high}\u00a0%, pass after pass"
    return RoughPlace(f"{part}.track_noise_max", words)
