"""What the readings mean, in one plain sentence and what to try next.

The findings are a table, looked through from the top: the first whose test holds is what is said.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.comparison import Comparison
from hollow_pin.core.geometry import clock_hour
from hollow_pin.core.job import stick_name
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits, Verdict, verdict_on
from hollow_pin.core.take import TakeReadings

SPIKY_PER_MIN = 12.0

Remedy = Literal["recalibrated", "cleaned", "replaced", "none", "measure"]


@dataclass(frozen=True)
class Meaning:
    """sentence: what the stick does. reason: why this remedy. try_first: the remedy to begin with."""

    sentence: str
    advice: str
    try_first: Remedy


@dataclass(frozen=True)
class _Case:
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
class _Finding:
    holds: Callable[[_Case], bool]
    advice: str
    try_first: Remedy


def percent(value: float) -> str:
    """One decimal, never a minus before a zero."""
    text = f"{value:.1f}"
    return ("0.0" if text == "-0.0" else text) + "\u00a0%"


def toward(degrees: float) -> str:
    return f"toward {clock_hour(degrees)}\u00a0o’clock"


def _stuck(case: _Case) -> bool:
    return case.take.let_go is not None and case.take.let_go.stuck > 0


def _spiky(case: _Case) -> bool:
    s = case.take.still
    if s is None or s.spike_height < 1.5:
        return False
    return max(s.spikes_per_min_x, s.spikes_per_min_y or 0.0) >= SPIKY_PER_MIN


def _tracks(case: _Case, name: str) -> list[str]:
    return [f"crossing.{axis}.{name}" for axis in case.take.recording.axes] + [f"turn.{name}"]


def _dead_spans(case: _Case) -> bool:
    """Surely: what two passes of many jumped may be dirt, and a module is not replaced for that."""
    return any(case.surely_over(p) for p in _tracks(case, "dead_spans"))


def _fails_when_held(case: _Case) -> bool:
    return case.over("hold.sag") or case.over("hold.dropouts_per_min")


def _rough(case: _Case) -> bool:
    return any(case.over(p) for p in _tracks(case, "track_noise_max"))


def _needs_dead_zone(case: _Case) -> bool:
    return case.over("composite.dead_zone_needed")


def _recentring_is_enough(case: _Case) -> bool:
    after = case.take.composite.dead_zone_after_recentring
    limit = case.limit("composite.dead_zone_needed")
    return _needs_dead_zone(case) and after is not None and after < limit


def _returns_apart(case: _Case) -> bool:
    return case.over("let_go.return_spread")


def _trembles(case: _Case) -> bool:
    at_rest = [f"still.jitter_{axis}" for axis in case.take.recording.axes]
    return any(case.over(p) for p in [*at_rest, "turn.jitter"])


def _rim_mends(case: _Case) -> bool:
    after = case.take.composite.circularity_after_recalibration
    limit = case.limit("rim.circularity_error")
    return case.over("rim.circularity_error") and after is not None and after < limit


def _rim_is_off(case: _Case) -> bool:
    return case.over("rim.circularity_error") or case.over("rim.roundness_lsc")


def _cut_off(case: _Case) -> bool:
    return any(h.code == "saturated" for h in case.take.hidden)


def _hidden(case: _Case) -> bool:
    return bool(case.take.hidden)


def _incomplete(case: _Case) -> bool:
    return case.take.composite.dead_zone_needed is None and case.take.turn is None


FINDINGS: tuple[_Finding, ...] = (
    _Finding(
        _stuck,
        "It does not always come back: look for a rub, a bind or a loose joint before anything else.",
        "measure",
    ),
    _Finding(
        _spiky,
        "Spikes with hands off speak for dirt on the track: clean it first.",
        "cleaned",
    ),
    _Finding(
        _dead_spans,
        "There are places on the track that pass after pass jumps over: replace the module.",
        "replaced",
    ),
    _Finding(
        _fails_when_held,
        "It falls back while it is held at the edge: the track fails there. Replace the module.",
        "replaced",
    ),
    _Finding(
        _returns_apart,
        "It comes back to different places: wear or a bind. If nothing rubs, replace the module.",
        "replaced",
    ),
    _Finding(
        _recentring_is_enough,
        "It comes back to one place, only not to zero: recalibrate before opening it.",
        "recalibrated",
    ),
    _Finding(
        _needs_dead_zone,
        "Even recentred it would need more dead zone than the limit: replace the module.",
        "replaced",
    ),
    _Finding(
        _rough,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
    ),
    _Finding(
        _trembles,
        "It trembles more than it should: try another cable or port, then clean the track.",
        "cleaned",
    ),
    _Finding(
        _rim_mends,
        "The rim is off in scale or centre, not in shape: recalibrate, extents first.",
        "recalibrated",
    ),
    _Finding(
        _rim_is_off,
        "The rim itself is out of shape: see that the module sits flush and nothing rubs.",
        "replaced",
    ),
    _Finding(
        _cut_off,
        "The rim runs into the end of its range on a side, so what it is like there is not seen: "
        "recalibrate, extents first, and measure again.",
        "recalibrated",
    ),
    _Finding(
        _hidden,
        "The source hides something, so nothing here may pass for health: measure by a rawer source "
        "before it is called fixed.",
        "measure",
    ),
    _Finding(
        _incomplete,
        "The dead zone it needs was not measured: it takes a usable Still and Let-go.",
        "measure",
    ),
    _Finding(lambda *_: True, "Every reading taken is within its limit.", "none"),
)


def _at_rest(take: TakeReadings) -> list[str]:
    if not take.still:
        return []
    if take.still.rest_offset < 0.05:
        return ["Rests at zero."]
    return [f"Rests {percent(take.still.rest_offset)} {toward(take.still.rest_bearing)}."]


def _of_turn(take: TakeReadings) -> list[str]:
    turn = take.turn
    if turn is None:
        return []
    said = []
    if turn.jitter is not None:
        said.append(f"Left alone, it trembles by {percent(turn.jitter)} at the worst.")
    said.append(f"The roughest place on the way makes {percent(turn.track_noise_max)} of noise.")
    return said


def explain(take: TakeReadings, grade: Grade = "everyday", limits: Limits = LIMIT_OF) -> Meaning:
    """What a take says, and what to try first."""
    parts = _at_rest(take) + _of_turn(take)
    needed = take.composite.dead_zone_needed
    after = take.composite.dead_zone_after_recentring
    if needed is not None and after is not None:
        parts.append(
            f"Needs a dead zone of {percent(needed)}; recentring would leave {percent(after)}."
        )
    elif take.rim:
        parts.append(f"The rim is {percent(take.rim.circularity_error)} from its gate on average.")
    elif not parts and take.crossing:
        worst = max(c.track_noise_max for c in (take.crossing.x, take.crossing.y) if c)
        parts.append(f"The roughest place on the track makes {percent(worst)} of noise.")
    elif not parts and take.hold:
        sag = max(h.sag for h in take.hold)
        parts.append(f"Held at the edge, it falls back by {percent(max(sag, 0.0))} at the worst.")
    zones = [h for h in take.hidden if h.code == "built-in-dead-zone"]
    if zones:
        below = max(h.below or 0.0 for h in zones)
        parts.insert(0, f"Hidden below {percent(below)} by the source.")
    if not parts:
        return Meaning(
            "Nothing in this take can be used.",
            "See below what each step was missing, and take it again.",
            "measure",
        )
    case = _Case(take, grade, limits)
    found = next(f for f in FINDINGS if f.holds(case))
    return Meaning(" ".join(parts), found.advice, found.try_first)


OVERALL = {
    "better": "Better.",
    "worse": "Worse.",
    "mixed": "Better in part, worse in part.",
    "little": "Little changed.",
    "no-change": "No change that this bench can see.",
    "hidden": "What changed is hidden by the source.",
    "missing": "What decides was not measured both times.",
    "refused": "These two takes cannot be compared.",
}


REFERENCE = {
    "better": "Better than the reference.",
    "worse": "Worse than the reference.",
    "mixed": "Better than the reference in part, worse in part.",
    "little": "Much like the reference.",
    "no-change": "No difference from the reference that this bench can see.",
    "hidden": "How they differ is hidden by the source.",
    "missing": "What decides was not measured of both.",
    "refused": OVERALL["refused"],
}


def explain_comparison(
    found: Comparison, after: TakeReadings, stick: str, reference: bool = False
) -> str:
    """The sentence over a comparison; over a reference's, where that is what `before` is."""
    opening = (REFERENCE if reference else OVERALL)[found.overall]
    if found.refusals:
        return f"{opening} {found.refusals[0]}"
    if found.overall == "refused":
        return f"{opening} No headline reading was measured in both."
    said = [opening]
    if after.still:
        now = "" if reference else "now "
        where = f"The {stick_name(stick)} {now}rests {percent(after.still.rest_offset)} "
        where += toward(after.still.rest_bearing)
        spread = found.row("let_go.return_spread")
        if spread and spread.after_limit == "within":
            where += " and comes back to the same place"
        elif spread and spread.after_limit == "over":
            where += ", and still comes back to different places"
        said.append(where + ".")
    row = found.row("composite.dead_zone_needed")
    if row and row.after is not None:
        hides = f"A dead zone of {percent(row.after)} hides what is left"
        if row.after_limit == "over":
            hides += f", over the limit of {percent(row.limit or 0)}"
        elif row.after_limit == "borderline":
            hides += f", too near the limit of {percent(row.limit or 0)} to call"
        said.append(hides + ".")
    return " ".join(said)
