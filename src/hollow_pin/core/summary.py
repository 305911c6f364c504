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
from hollow_pin.core.limits import LIMIT_OF, Grade, against_limit
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
class _Finding:
    holds: Callable[[TakeReadings, Grade], bool]
    advice: str
    try_first: Remedy


def percent(value: float) -> str:
    """One decimal, never a minus before a zero."""
    text = f"{value:.1f}"
    return ("0.0" if text == "-0.0" else text) + "\u00a0%"


def toward(degrees: float) -> str:
    return f"toward {clock_hour(degrees)}\u00a0o’clock"


def _over(path: str, grade: Grade, take: TakeReadings) -> bool:
    """Over its limit, or so near that it cannot be called within."""
    verdict = against_limit(take.value(path), take.uncertainty.get(path), LIMIT_OF[path].at(grade))
    return verdict in ("over", "borderline")


def _dead_zone_limit(grade: Grade) -> float:
    return LIMIT_OF["composite.dead_zone_needed"].at(grade)


def _stuck(take: TakeReadings, _: Grade) -> bool:
    return take.let_go is not None and take.let_go.stuck > 0


def _spiky(take: TakeReadings, _: Grade) -> bool:
    s = take.still
    if s is None or s.spike_height < 1.5:
        return False
    return max(s.spikes_per_min_x, s.spikes_per_min_y or 0.0) >= SPIKY_PER_MIN


def _needs_dead_zone(take: TakeReadings, grade: Grade) -> bool:
    return _over("composite.dead_zone_needed", grade, take)


def _recentring_is_enough(take: TakeReadings, grade: Grade) -> bool:
    after = take.composite.dead_zone_after_recentring
    return _needs_dead_zone(take, grade) and after is not None and after < _dead_zone_limit(grade)


def _returns_apart(take: TakeReadings, grade: Grade) -> bool:
    return _over("let_go.return_spread", grade, take)


def _trembles(take: TakeReadings, grade: Grade) -> bool:
    return any(_over(f"still.jitter_{axis}", grade, take) for axis in take.recording.axes)


def _rim_mends(take: TakeReadings, grade: Grade) -> bool:
    after = take.composite.circularity_after_recalibration
    limit = LIMIT_OF["rim.circularity_error"].at(grade)
    return _over("rim.circularity_error", grade, take) and after is not None and after < limit


def _rim_is_off(take: TakeReadings, grade: Grade) -> bool:
    return _over("rim.circularity_error", grade, take) or _over("rim.roundness_lsc", grade, take)


def _incomplete(take: TakeReadings, _: Grade) -> bool:
    return take.composite.dead_zone_needed is None


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
        _incomplete,
        "The dead zone it needs was not measured: it takes a usable Still and Let-go.",
        "measure",
    ),
    _Finding(lambda *_: True, "Every reading taken is within its limit.", "none"),
)


def explain(take: TakeReadings, grade: Grade = "everyday") -> Meaning:
    """What a take says, and what to try first."""
    parts = []
    if take.still:
        parts.append(
            f"Rests {percent(take.still.rest_offset)} {toward(take.still.rest_bearing)}."
            if take.still.rest_offset >= 0.05
            else "Rests at zero."
        )
    needed = take.composite.dead_zone_needed
    after = take.composite.dead_zone_after_recentring
    if needed is not None and after is not None:
        parts.append(
            f"Needs a dead zone of {percent(needed)}; recentring would leave {percent(after)}."
        )
    elif take.rim:
        parts.append(f"The rim is {percent(take.rim.circularity_error)} from its gate on average.")
    if not parts:
        return Meaning(
            "Nothing in this take can be used.",
            "See below what each step was missing, and take it again.",
            "measure",
        )
    found = next(f for f in FINDINGS if f.holds(take, grade))
    return Meaning(" ".join(parts), found.advice, found.try_first)


OVERALL = {
    "better": "Better.",
    "worse": "Worse.",
    "mixed": "Better in part, worse in part.",
    "little": "Little changed.",
    "no-change": "No change that this bench can see.",
    "refused": "These two takes cannot be compared.",
}


def explain_comparison(found: Comparison, after: TakeReadings, stick: str) -> str:
    """The sentence over a comparison."""
    opening = OVERALL[found.overall]
    if found.refusals:
        return f"{opening} {found.refusals[0]}"
    if found.overall == "refused":
        return f"{opening} No headline reading was measured in both."
    said = [opening]
    if after.still:
        where = f"The {stick_name(stick)} now rests {percent(after.still.rest_offset)} "
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
