"""Limits by grade of use, each with its reason, and what it means to pass one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt
from typing import Literal

from hollow_pin.core.hidden import NEITHER
from hollow_pin.core.readings import TakeReadings

Grade = Literal["fine", "everyday", "display"]
Verdict = Literal["within", "borderline", "over", "hidden", "unknown"]

GRADES: dict[Grade, str] = {
    "fine": "Precise steering: slow manoeuvres, aiming, anything where a small input must count",
    "everyday": "Ordinary use: rovers and games with a usual inner dead zone",
    "display": "Menus, quiz tables, four-way choices",
}


@dataclass(frozen=True)
class Limit:
    """The most a reading may be in each grade, in the reading's unit, and why there."""

    path: str
    fine: float
    everyday: float
    display: float
    reason: str

    def at(self, grade: Grade) -> float:
        return {"fine": self.fine, "everyday": self.everyday, "display": self.display}[grade]


LIMITS: tuple[Limit, ...] = (
    Limit(
        "composite.dead_zone_needed",
        4.0,
        8.0,
        15.0,
        "Programs commonly ignore the inner 8 to 10 %. What they do not ignore moves by itself; "
        "precise use sets less, menus bear more.",
    ),
    Limit(
        "still.rest_offset",
        3.0,
        6.0,
        12.0,
        "The rest must lie well inside the dead zone, with room for the returns around it.",
    ),
    Limit(
        "still.wander",
        2.0,
        4.0,
        8.0,
        "What wanders while nobody touches it is no centre: half of the usual dead zone.",
    ),
    *(
        Limit(
            f"crossing.{axis}.cross_talk",
            15.0,
            20.0,
            30.0,
            "From end to end, a straight push must not steer the other way as well. A hand's own "
            "straying is in it.",
        )
        for axis in ("x", "y")
    ),
    Limit(
        "joint.drops_per_min",
        0.0,
        0.0,
        0.0,
        "A track that is whole does not fall back for an instant while the stick is pushed.",
    ),
    Limit(
        "joint.jumps_per_min",
        0.0,
        0.0,
        0.0,
        "A contact that is whole never jumps to an end or to the middle.",
    ),
    Limit(
        "let_go.return_spread",
        2.0,
        4.0,
        8.0,
        "Half of the usual dead zone: more, and no single centre fits every release.",
    ),
    Limit(
        "let_go.settle_ms_p90",
        150.0,
        250.0,
        400.0,
        "A quarter of a second is where a late return is felt as the stick dragging.",
    ),
    Limit(
        "still.jitter_x",
        0.4,
        0.8,
        1.6,
        "Four standard deviations of trembling must stay a small part of the dead zone.",
    ),
    Limit(
        "still.jitter_y",
        0.4,
        0.8,
        1.6,
        "Four standard deviations of trembling must stay a small part of the dead zone.",
    ),
    Limit(
        "still.spikes_per_min_x",
        15.0,
        30.0,
        60.0,
        "A spike is a jerk of whatever is steered. Ten seconds of Still tell a rate only roughly: "
        "measure longer where it matters.",
    ),
    Limit(
        "still.spikes_per_min_y",
        15.0,
        30.0,
        60.0,
        "A spike is a jerk of whatever is steered. Ten seconds of Still tell a rate only roughly: "
        "measure longer where it matters.",
    ),
    *(
        Limit(
            f"crossing.{axis}.track_noise_max",
            1.5,
            3.0,
            6.0,
            "The roughest place on the way: a slow, steady push must not stutter.",
        )
        for axis in ("x", "y")
    ),
    *(
        Limit(
            f"crossing.{axis}.dead_spans",
            0.0,
            0.0,
            0.0,
            "A place that pass after pass jumps over is a place no steering can reach.",
        )
        for axis in ("x", "y")
    ),
    Limit(
        "hold.sag",
        2.0,
        4.0,
        8.0,
        "Full speed, held for three seconds, must stay full speed.",
    ),
    Limit(
        "hold.dropouts_per_min",
        0.0,
        0.0,
        0.0,
        "A drop of 15 % while nothing moves is a contact that fails.",
    ),
    Limit(
        "turn.track_noise_max",
        1.5,
        3.0,
        6.0,
        "The roughest place on the way: a slow, steady turn must not stutter.",
    ),
    Limit(
        "turn.dead_spans",
        0.0,
        0.0,
        0.0,
        "A place that pass after pass jumps over is a place no turning can reach.",
    ),
    Limit(
        "turn.jitter",
        0.5,
        1.0,
        2.0,
        "Left alone, the paddle must point to one place: four standard deviations are what is seen.",
    ),
    Limit(
        "turn.wander",
        2.0,
        4.0,
        8.0,
        "Left alone, the paddle must stay where it points.",
    ),
    Limit(
        "turn.spikes_per_min",
        15.0,
        30.0,
        60.0,
        "A spike is a jerk of whatever is steered. A few seconds at rest tell a rate only roughly.",
    ),
    Limit(
        "composite.outer_dead_zone_needed",
        5.0,
        10.0,
        15.0,
        "Both ends must be reachable; programs commonly forgive the last 5 %, and the stops of many "
        "a lever lie a little inside its track.",
    ),
    Limit(
        "rim.circularity_error",
        4.0,
        8.0,
        15.0,
        "A program that expects a full circle is wrong by this much on average. New modules, "
        "well adjusted, come to 2 to 6 %.",
    ),
    Limit(
        "rim.outer_dead_zone_needed",
        4.0,
        8.0,
        15.0,
        "Full speed must be reachable in every direction; programs commonly forgive the last 5 %.",
    ),
    Limit(
        "rim.overrun",
        18.0,
        20.0,
        30.0,
        "Makers let the ends run over by up to some 15 %, so that a full reach is sure. Past that "
        "full speed comes long before the stick is at its edge. How much of a rim may be cut off at "
        "the ends goes by a model's own, too.",
    ),
    Limit(
        "composite.shape_after_recalibration",
        6.0,
        12.0,
        20.0,
        "Shape that recalibration cannot mend: past this, directions feel unlike each other.",
    ),
)

LIMIT_OF = {limit.path: limit for limit in LIMITS}

Limits = Mapping[str, Limit]
Overrides = Mapping[str, Mapping[Grade, float]]


def limits_with(overrides: Overrides) -> dict[str, Limit]:
    """The default table, with a model's own limits in it."""
    own = {}
    for path, values in overrides.items():
        usual = LIMIT_OF.get(path)
        if usual is not None and values:
            at = {grade: values.get(grade, usual.at(grade)) for grade in GRADES}
            reason = f"This model's own limit. {usual.reason}"
            own[path] = Limit(path, at["fine"], at["everyday"], at["display"], reason)
    return LIMIT_OF | own


def against_limit(value: float | None, u: float | None, limit: float) -> Verdict:
    """Within when value + 2u ≤ limit, over when value − 2u > limit, borderline in between.

    Without an uncertainty a value at a distance can still not be told from the limit: unknown.
    """
    if value is None or u is None:
        return "unknown"
    if value + 2 * u <= limit:
        return "within"
    return "over" if value - 2 * u > limit else "borderline"


def verdict_on(take: TakeReadings, path: str, limit: float) -> Verdict:
    """A take's reading against a limit. What a hidden fault touches is over or hidden, never within:
    a source that hides movement makes every stick look quiet. What a calibration moves that nobody
    knows, or a source that leaps to zero meanwhile, is neither. What a hand may be wrong by tells no
    fault, and takes nothing from a limit that has room for it. What a stick does where it came to rest
    it does, whatever it would do at another place."""
    value, u = take.value(path), take.uncertainty.get(path)
    verdict = against_limit(value, u, limit)
    if u is not None and (by_hand := take.by_hand.get(path)) and verdict == "borderline":
        own = sqrt(max(u**2 - by_hand**2, 0.0))
        verdict = "within" if against_limit(value, own, limit) == "within" else verdict
    if u is not None and (by_place := take.by_place.get(path)) and verdict == "borderline":
        own = sqrt(max(u**2 - by_place**2, 0.0))
        verdict = "over" if against_limit(value, own, limit) == "over" else verdict
    hidden = take.hidden_at(path)
    if hidden and (verdict in ("within", "borderline") or hidden.code in NEITHER):
        return "hidden"
    return verdict


def verdicts_on(
    take: TakeReadings, limits: Limits = LIMIT_OF, grade: Grade = "everyday"
) -> dict[str, Verdict]:
    """Every reading of a take that has a limit, against it."""
    return {path: verdict_on(take, path, limit.at(grade)) for path, limit in limits.items()}
