"""What in a take speaks for one cause or against another: each a number that means something at the
bench, held against a scale of its own so that numbers of all kinds can be weighed together.

An evidence that was not measured, or that the source hides, is None and weighs nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import log2

from hollow_pin.core import reach_signs, signs
from hollow_pin.core.judged import of_another_gate
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.sides import Axis, Sides
from hollow_pin.core.words import number

LEAST, MOST = -2.0, 3.0
"""A quarter of its scale and eight times that: what lies beyond says no more."""


@dataclass(frozen=True)
class Evidence:
    """One thing to weigh. reading: the name it goes by; where it is one of the catalogue's, that one.

    words: how it is said, with its value in it. unit: of the value. scale: the value at which it says
    neither yes nor no. by_axis: measured of each axis. of: the value of a take, for an axis; None
    where it was not measured."""

    code: str
    reading: str
    words: str
    unit: str
    scale: float
    by_axis: bool
    of: Callable[[Sides, Axis], float | None]

    def doublings(self, value: float) -> float:
        """The value against its scale, in doublings, −2 to 3."""
        return min(max(log2(max(value, 1e-9) / self.scale), LEAST), MOST)

    def reading_of(self, axis: str) -> str:
        """The reading's name, of an axis."""
        if not self.by_axis:
            return self.reading
        named = self.reading.replace("crossing.x", f"crossing.{axis}")
        return f"{named[:-2]}_{axis}" if named.endswith("_x") else named

    def in_words(self, value: float, axis: str) -> str:
        """In words."""
        return self.words.format(value=number(value, self.unit), axis=axis)


EVIDENCE: tuple[Evidence, ...] = (
    Evidence(
        "off-centre",
        "let_go.return_centre_x",
        "on {axis} the returns lie {value} % off zero",
        "%",
        5.0,
        True,
        signs.off_centre,
    ),
    Evidence(
        "returns-apart",
        "let_go.return_spread",
        "releases come back {value} % apart on {axis}",
        "%",
        3.5,
        True,
        signs.returns_apart,
    ),
    Evidence(
        "by-side",
        "let_go.return_spread",
        "on {axis} returns lie {value} % apart by the side they come from",
        "%",
        2.5,
        True,
        signs.by_side,
    ),
    Evidence(
        "lands-anywhere",
        "let_go.return_spread",
        "on {axis} returns from one side scatter over {value} %",
        "%",
        2.0,
        True,
        signs.lands_anywhere,
    ),
    Evidence(
        "stops-short",
        "let_go.return_max",
        "let go on one side it stays {value} % farther out than from across",
        "%",
        3.0,
        False,
        signs.stops_short,
    ),
    Evidence(
        "beyond",
        "let_go.return_spread",
        "on {axis} it comes to lie {value} % past its centre",
        "%",
        1.2,
        True,
        signs.beyond,
    ),
    Evidence(
        "short-both",
        "let_go.return_spread",
        "on {axis} it stops {value} % short from either side",
        "%",
        1.2,
        True,
        signs.short_both,
    ),
    Evidence(
        "one-sided",
        "let_go.return_spread",
        "on {axis} it comes to lie up to {value} % out to one side, and hardly to the other",
        "%",
        2.0,
        True,
        signs.one_sided,
    ),
    Evidence(
        "along",
        "let_go.return_spread",
        "it stops {value} % apart along the way it comes back on, and not aside of it",
        "%",
        1.5,
        False,
        signs.along,
    ),
    Evidence(
        "settles",
        "let_go.settle_ms_p90",
        "it settles in {value} ms",
        "ms",
        200.0,
        False,
        signs.settles,
    ),
    Evidence(
        "jitter",
        "still.jitter_x",
        "{axis} trembles by {value} % at rest",
        "%",
        0.6,
        True,
        signs.jitter,
    ),
    Evidence(
        "both-tremble",
        "still.jitter_y",
        "both axes tremble, by {value} % or more",
        "%",
        0.6,
        False,
        signs.calm_jitter,
    ),
    Evidence(
        "wander",
        "still.wander",
        "it wanders over {value} % with hands off",
        "%",
        2.0,
        False,
        signs.wander,
    ),
    Evidence(
        "in-common",
        "still.noise_in_common",
        "the trembling of both axes is {value} % alike",
        "%",
        50.0,
        False,
        signs.in_common,
    ),
    Evidence(
        "spikes",
        "still.spikes_per_min_x",
        "{value} spikes a minute on {axis} with hands off",
        "/min",
        9.0,
        True,
        signs.spikes,
    ),
    Evidence(
        "noisy-centre",
        "crossing.x.track_noise_median",
        "{axis} is {value} times as noisy at the centre as along the way",
        "%",
        2.0,
        True,
        signs.noisy_centre,
    ),
    Evidence(
        "roughest",
        "crossing.x.track_noise_max",
        "the roughest place of {axis} makes {value} % of noise",
        "%",
        2.0,
        True,
        signs.roughest,
    ),
    Evidence(
        "rough-in-places",
        "crossing.x.rough_spots",
        "away from the centre {axis} is rough by {value} % in places",
        "%",
        1.5,
        True,
        signs.rough_in_places,
    ),
    Evidence(
        "dead-spans",
        "crossing.x.dead_spans",
        "{value} places on {axis} are jumped over",
        "",
        0.7,
        True,
        signs.dead_spans,
    ),
    Evidence(
        "dead-width",
        "crossing.x.dead_spans",
        "{axis} jumps over {value} % pass after pass",
        "%",
        2.0,
        True,
        signs.dead_width,
    ),
    Evidence(
        "sag",
        "hold.sag",
        "held over on {axis} it falls back by {value} %",
        "%",
        3.0,
        True,
        signs.sag,
    ),
    Evidence(
        "held-drops",
        "hold.dropouts_per_min",
        "{value} drops while it is held over on {axis}",
        "",
        0.7,
        True,
        signs.held_drops,
    ),
    Evidence(
        "drops",
        "joint.drops_per_min",
        "{value} drops while it is pushed",
        "",
        1.5,
        False,
        signs.drops,
    ),
    Evidence(
        "jumps",
        "joint.jumps_per_min",
        "{axis} jumps {value} times to an end or the middle",
        "",
        0.9,
        True,
        signs.jumps,
    ),
    Evidence(
        "mostly-jumps",
        "joint.jumps_per_min",
        "{value} % of all that jumps on {axis} goes to an end or the middle",
        "%",
        50.0,
        True,
        signs.mostly_jumps,
    ),
    Evidence(
        "over",
        "composite.dead_zone_needed",
        "{value} readings are surely over their limit",
        "",
        0.5,
        False,
        signs.over,
    ),
    Evidence(
        "short-reach",
        "rim.outer_dead_zone_needed",
        "{axis} falls {value} % short of full",
        "%",
        7.0,
        True,
        reach_signs.short_reach,
    ),
    Evidence(
        "lopsided",
        "rim.lsc_x",
        "the middle of the reach on {axis} lies {value} % off its returns",
        "%",
        4.0,
        True,
        reach_signs.lopsided,
    ),
    Evidence(
        "other-span",
        "rim.mean_radius",
        "{axis} reaches {value} % more or less in all than the other",
        "%",
        5.0,
        True,
        reach_signs.other_span,
    ),
    Evidence(
        "short-span",
        "rim.mean_radius",
        "{axis} reaches {value} % less in all than its range",
        "%",
        3.0,
        True,
        reach_signs.short_span,
    ),
    Evidence(
        "cut-wide",
        "rim.overreach",
        "{value} degrees of the rim lie at the ends of {axis}",
        "",
        130.0,
        True,
        reach_signs.cut_wide,
    ),
    Evidence(
        "overrun",
        "rim.overrun",
        "the rim runs {value} % past its gate",
        "%",
        16.0,
        False,
        reach_signs.overrun,
    ),
    Evidence(
        "dent",
        "composite.shape_after_recalibration",
        "one sector of the rim is {value} % short",
        "%",
        5.0,
        False,
        reach_signs.dent,
    ),
    Evidence(
        "shape",
        "composite.shape_after_recalibration",
        "the rim deviates by {value} % whatever is calibrated",
        "%",
        9.0,
        False,
        reach_signs.shape,
    ),
    Evidence(
        "carried",
        "crossing.x.cross_talk",
        "{axis} moves along by {value} % while the other crosses",
        "%",
        14.0,
        True,
        signs.carried,
    ),
    Evidence(
        "carried-more",
        "crossing.x.cross_talk",
        "{axis} is carried {value} % farther than it carries",
        "%",
        8.0,
        True,
        signs.carried_more,
    ),
    Evidence(
        "zone",
        "crossing.x.built_in_dead_zone",
        "the source shows zero inside {value} %",
        "%",
        1.5,
        False,
        signs.zone,
    ),
    Evidence(
        "worst",
        "composite.dead_zone_needed",
        "the worst reading is at {value} % of its limit",
        "%",
        95.0,
        False,
        signs.worst,
    ),
)
BY_CODE = {e.code: e for e in EVIDENCE}

OF_TWO_AXES = frozenset(
    (
        "both-tremble", "in-common", "lopsided", "other-span", "cut-wide", "overrun", "dent", "shape",
        "carried", "carried-more",
    )
)  # fmt: skip
OF_A_SPRING = frozenset(
    (
        "off-centre", "returns-apart", "by-side", "lands-anywhere", "stops-short", "beyond",
        "short-both", "one-sided", "settles", "sag", "held-drops",
    )
)  # fmt: skip


OF_A_GATE = frozenset(("overrun", "shape", "over", "worst"))
"""What goes by the gate that a rim is held against."""


def never_there(take: TakeReadings) -> frozenset[str]:
    """The evidence that a stick of this kind cannot show, whatever is wrong with it: a single axis has
    no rim and moves no other, a paddle does not come back. It is known not to be there."""
    if len(take.recording.axes) == 2:
        return frozenset()
    return OF_TWO_AXES if take.turn is None else OF_TWO_AXES | OF_A_SPRING


def evidence_of(take: TakeReadings) -> dict[str, dict[str, float | None]]:
    """The value of every evidence, by code and axis: what is not one axis's stands under both. An axis
    without a signal shows none, nor does what both have a part in; and against a gate that it has not
    nothing of a rim is known."""
    sides = Sides(take)
    axes: tuple[Axis, ...] = ("x", "y") if len(take.recording.axes) == 2 else ("x",)
    unknown = OF_A_GATE if of_another_gate(take) else ()
    mute = {s.axis for s in take.silent}
    evidence: dict[str, dict[str, float | None]] = {}
    for e in EVIDENCE:
        if e.code in unknown:
            evidence[e.code] = dict.fromkeys(axes)
        elif e.by_axis:
            evidence[e.code] = {axis: None if axis in mute else e.of(sides, axis) for axis in axes}
        elif mute:
            evidence[e.code] = dict.fromkeys(axes)
        else:
            value = e.of(sides, "x")
            evidence[e.code] = dict.fromkeys(axes, value)
    return evidence
