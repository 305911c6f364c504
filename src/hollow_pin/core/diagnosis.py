"""What is wrong with a stick, by its readings, and which remedy to begin with.

The findings are a table, looked through from the top: the first whose test holds is what is said.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.limits import Grade, Limits, Verdict, verdict_on
from hollow_pin.core.take import TakeReadings

SPIKY_PER_MIN = 12.0
FELT_SPIKE = 1.5
"""Spikes under this, %, are noise."""

Remedy = Literal["recalibrated", "cleaned", "replaced", "none", "measure"]


@dataclass(frozen=True)
class Case:
    """A take and the limits it is held against."""

    take: TakeReadings
    grade: Grade
    limits: Limits

    def limit(self, path: str) -> float:
        return self.limits[path].at(self.grade)

    def over(self, path: str) -> bool:
        """Over its limit, or so near that it cannot be called within."""
        return self._verdict(path) in ("over", "borderline")

    def surely_over(self, path: str) -> bool:
        return self._verdict(path) == "over"

    def _verdict(self, path: str) -> Verdict:
        return verdict_on(self.take, path, self.limit(path))


@dataclass(frozen=True)
class Finding:
    """holds: whether it is so; advice: what to do about it, in a sentence."""

    holds: Callable[[Case], bool]
    advice: str
    try_first: Remedy


def _stuck(case: Case) -> bool:
    return case.take.let_go is not None and case.take.let_go.stuck > 0


def spikes_per_min(take: TakeReadings) -> float:
    """Of the worse axis; 0 where Still was not measured."""
    s = take.still
    return max(s.spikes_per_min_x, s.spikes_per_min_y or 0.0) if s else 0.0


def is_spiky(take: TakeReadings) -> bool:
    """Often enough and far enough to be felt."""
    high = take.still is not None and take.still.spike_height >= FELT_SPIKE
    return high and spikes_per_min(take) >= SPIKY_PER_MIN


def _spiky(case: Case) -> bool:
    return is_spiky(case.take)


def _tracks(case: Case, name: str) -> list[str]:
    return [f"crossing.{axis}.{name}" for axis in case.take.recording.axes] + [f"turn.{name}"]


def dead_spans(case: Case) -> bool:
    """Surely: what two passes of many jumped may be dirt, and a module is not replaced for that."""
    return any(case.surely_over(p) for p in _tracks(case, "dead_spans"))


def fails_when_held(case: Case) -> bool:
    return case.over("hold.sag") or case.over("hold.dropouts_per_min")


def rough(case: Case) -> bool:
    return any(case.over(p) for p in _tracks(case, "track_noise_max"))


def _needs_dead_zone(case: Case) -> bool:
    return case.over("composite.dead_zone_needed")


def _recentring_is_enough(case: Case) -> bool:
    after = case.take.composite.dead_zone_after_recentring
    limit = case.limit("composite.dead_zone_needed")
    return _needs_dead_zone(case) and after is not None and after < limit


def returns_apart(case: Case) -> bool:
    return case.over("let_go.return_spread")


def trembles(case: Case) -> bool:
    at_rest = [f"still.jitter_{axis}" for axis in case.take.recording.axes]
    return any(case.over(p) for p in [*at_rest, "turn.jitter"])


def _rim_mends(case: Case) -> bool:
    after = case.take.composite.circularity_after_recalibration
    limit = case.limit("rim.circularity_error")
    return case.over("rim.circularity_error") and after is not None and after < limit


def rim_is_off(case: Case) -> bool:
    return case.over("rim.circularity_error") or case.over("rim.roundness_lsc")


def _cut_off(case: Case) -> bool:
    return any(h.code == "saturated" for h in case.take.hidden)


def _hidden(case: Case) -> bool:
    return bool(case.take.hidden)


def _incomplete(case: Case) -> bool:
    return case.take.composite.dead_zone_needed is None and case.take.turn is None


FINDINGS: tuple[Finding, ...] = (
    Finding(
        _stuck,
        "It does not always come back: look for a rub, a bind or a loose joint before anything else.",
        "measure",
    ),
    Finding(
        _spiky,
        "Spikes with hands off speak for dirt on the track: clean it first.",
        "cleaned",
    ),
    Finding(
        dead_spans,
        "There are places on the track that pass after pass jumps over: replace the module.",
        "replaced",
    ),
    Finding(
        fails_when_held,
        "It falls back while it is held at the edge: the track fails there. Replace the module.",
        "replaced",
    ),
    Finding(
        returns_apart,
        "It comes back to different places: wear or a bind. If nothing rubs, replace the module.",
        "replaced",
    ),
    Finding(
        _recentring_is_enough,
        "It comes back to one place, only not to zero: recalibrate before opening it.",
        "recalibrated",
    ),
    Finding(
        _needs_dead_zone,
        "Even recentred it would need more dead zone than the limit: replace the module.",
        "replaced",
    ),
    Finding(
        rough,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
    ),
    Finding(
        trembles,
        "It trembles more than it should: try another cable or port, then clean the track.",
        "cleaned",
    ),
    Finding(
        _rim_mends,
        "The rim is off in scale or centre, not in shape: recalibrate, extents first.",
        "recalibrated",
    ),
    Finding(
        rim_is_off,
        "The rim itself is out of shape: see that the module sits flush and nothing rubs.",
        "replaced",
    ),
    Finding(
        _cut_off,
        "The rim runs into the end of its range on a side, so what it is like there is not seen: "
        "recalibrate, extents first, and measure again.",
        "recalibrated",
    ),
    Finding(
        _hidden,
        "The source hides something, so nothing here may pass for health: measure by a rawer source "
        "before it is called fixed.",
        "measure",
    ),
    Finding(
        _incomplete,
        "The dead zone it needs was not measured: it takes a usable Still and Let-go.",
        "measure",
    ),
    Finding(lambda *_: True, "Every reading taken is within its limit.", "none"),
)


def diagnose(case: Case) -> Finding:
    """The first finding whose test holds."""
    return next(f for f in FINDINGS if f.holds(case))
