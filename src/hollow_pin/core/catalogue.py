"""The readings a technician compares: their names on the bench, their units, what they tell."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.words import WAY

Aim = Literal["low", "zero", "hundred", "none"]


@dataclass(frozen=True)
class ReadingSpec:
    """One reading. path: its dotted name. aim: what better means: lower, nearer zero, nearer 100,
    or nothing. pace_bound: it depends on the sample rate, so takes at other rates do not compare."""

    path: str
    label: str
    unit: str
    aim: Aim
    tells: str
    headline: bool = False
    pace_bound: bool = False

    @property
    def step(self) -> str:
        return self.path.partition(".")[0]

    def applies_to(self, axes: int) -> bool:
        """Whether a stick of one or two axes has this reading."""
        if axes == 2:
            return self.step != "turn" and self.path != "composite.outer_dead_zone_needed"
        if self.path.startswith("composite.shape"):
            return False
        return self.step != "rim" and not self.path.endswith("_y") and ".y." not in self.path

    def badness(self, value: float) -> float | None:
        """How far the value is from what is wanted, ≥ 0; None where nothing is."""
        if self.aim == "none":
            return None
        if self.aim == "low":
            return value
        return abs(value) if self.aim == "zero" else abs(value - 100.0)


READINGS: tuple[ReadingSpec, ...] = (
    ReadingSpec(
        "composite.dead_zone_needed",
        "Dead zone needed",
        "%",
        "low",
        "The smallest inner dead zone under which the untouched stick reads zero.",
        headline=True,
    ),
    ReadingSpec(
        "composite.dead_zone_after_recentring",
        "After recentring",
        "%",
        "low",
        "The dead zone that would still be needed after a perfect recentring. What is left is wear.",
        headline=True,
    ),
    ReadingSpec(
        "let_go.return_spread",
        "Returns apart",
        "%",
        "low",
        "How far apart the stick comes to rest after different pushes.",
        headline=True,
    ),
    ReadingSpec(
        "rim.circularity_error",
        "Circularity error",
        "%",
        "low",
        "How far the rim is from the gate on average: offset, scale and shape together.",
        headline=True,
    ),
    ReadingSpec(
        "joint.jumps_per_min",
        "Jumps to an end or the middle",
        "/min",
        "low",
        "How often an axis jumps to an end or to the middle and back, in any step. A loose joint "
        "does.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "joint.drops_per_min",
        "Drops while deflected",
        "/min",
        "low",
        "How often an axis falls back toward the middle for an instant while it is pushed, in any "
        "step.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "composite.shape_after_recalibration",
        "Out of shape",
        "%",
        "low",
        "How far the rim deviates from its gate, peak to valley, after the best recalibration.",
        headline=True,
    ),
    ReadingSpec(
        "still.jitter_x",
        "Jitter x",
        "%",
        "low",
        "How much left–right trembles with hands off.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "still.jitter_y",
        "Jitter y",
        "%",
        "low",
        "How much up–down trembles with hands off.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "still.spikes_per_min_x",
        "Spikes x",
        "/min",
        "low",
        "How often left–right jumps for an instant with hands off. Dirt does that.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "still.spikes_per_min_y",
        "Spikes y",
        "/min",
        "low",
        "How often up–down jumps for an instant with hands off. Dirt does that.",
        headline=True,
        pace_bound=True,
    ),
    *(
        ReadingSpec(
            f"crossing.{axis}.cross_talk",
            f"Cross-talk {axis}",
            "%",
            "low",
            "How far the other axis is carried along, the hand's own straying in it.",
            headline=True,
        )
        for axis in WAY
    ),
    *(
        ReadingSpec(
            f"crossing.{axis}.track_noise_max",
            f"Roughest place {axis}",
            "%",
            "low",
            f"The noisiest stretch of the {way} track on a slow crossing.",
            headline=True,
            pace_bound=True,
        )
        for axis, way in WAY.items()
    ),
    *(
        ReadingSpec(
            f"crossing.{axis}.dead_spans",
            f"Dead spans {axis}",
            "",
            "low",
            f"Places on the {way} track that two passes or more jump over.",
            headline=True,
            pace_bound=True,
        )
        for axis, way in WAY.items()
    ),
    ReadingSpec(
        "hold.sag",
        "Sag",
        "%",
        "low",
        "How far it falls back in three seconds of full deflection.",
        headline=True,
    ),
    ReadingSpec(
        "hold.dropouts_per_min",
        "Dropouts",
        "/min",
        "low",
        "How often it fell by more than 15 % while held at the edge.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "turn.jitter",
        "Jitter at rest",
        "%",
        "low",
        "The worst trembling of the three places it was left alone at.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "turn.wander",
        "Wander at rest",
        "%",
        "low",
        "How far apart its seconds lie where it was left alone, at the worst of three places.",
        headline=True,
    ),
    ReadingSpec(
        "turn.spikes_per_min",
        "Spikes at rest",
        "/min",
        "low",
        "Jumps far beyond the noise where it was left alone.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "turn.track_noise_max",
        "Roughest place",
        "%",
        "low",
        "The noisiest stretch of the track on a slow turn.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "turn.dead_spans",
        "Dead spans",
        "",
        "low",
        "Places that two turns or more jump over.",
        headline=True,
        pace_bound=True,
    ),
    ReadingSpec(
        "still.rest_offset",
        "Rest offset",
        "%",
        "low",
        "How far from zero it sits by itself.",
        headline=True,
    ),
    ReadingSpec("still.rest_x", "Rest x", "%", "zero", "Where it sits, left–right."),
    ReadingSpec("still.rest_y", "Rest y", "%", "zero", "Where it sits, up–down."),
    ReadingSpec(
        "still.noise_reach",
        "Noise reach",
        "%",
        "low",
        "How far the trembling reaches from the rest, spikes left out.",
        pace_bound=True,
    ),
    ReadingSpec(
        "let_go.return_max", "Farthest return", "%", "low", "The worst place a release left it at."
    ),
    ReadingSpec(
        "let_go.return_radius",
        "Return radius",
        "%",
        "low",
        "The smallest circle that holds every return.",
    ),
    ReadingSpec(
        "let_go.settle_ms_p90",
        "Settles in",
        "ms",
        "low",
        "How soon nine of ten releases are still.",
        headline=True,
    ),
    ReadingSpec(
        "composite.circularity_after_recalibration",
        "Circularity after recalibration",
        "%",
        "low",
        "What the best recalibration could leave of the circularity error.",
    ),
    ReadingSpec(
        "rim.roundness_lsc",
        "Out of round",
        "%",
        "low",
        "The shape alone, centre and size left free: recalibration mends nothing of it.",
    ),
    ReadingSpec(
        "rim.roundness_mzc",
        "Out of round, narrowest ring",
        "%",
        "low",
        "The same from the centre that makes the ring narrowest.",
    ),
    *(
        ReadingSpec(
            f"crossing.{axis}.{name}", f"{label} {axis}", unit, "low", tells, pace_bound=pace
        )
        for axis in WAY
        for name, label, unit, tells, pace in (
            ("track_noise_median", "Track noise", "%", "The usual noise along the way.", True),
            ("rough_spots", "Rough spots", "", "Stretches far noisier than the rest.", True),
            (
                "built_in_dead_zone",
                "Built-in dead zone",
                "%",
                "What the source itself hides around zero.",
                False,
            ),
        )
    ),
    ReadingSpec(
        "hold.hold_jitter",
        "Jitter when held",
        "%",
        "low",
        "Trembling at full deflection, the hand's own in it.",
        pace_bound=True,
    ),
    ReadingSpec(
        "composite.outer_dead_zone_needed",
        "Outer dead zone needed",
        "%",
        "low",
        "How far short of its range it stops, at the worse of its two ends.",
        headline=True,
    ),
    ReadingSpec("turn.reach_low", "Reach low", "%", "hundred", "Farthest toward the low end."),
    ReadingSpec("turn.reach_high", "Reach high", "%", "hundred", "Farthest toward the high end."),
    ReadingSpec(
        "turn.rough_spots", "Rough spots", "", "low", "Stretches far noisier than the rest."
    ),
    ReadingSpec(
        "still.wander",
        "Wander",
        "%",
        "low",
        "How far apart its resting seconds lie.",
        headline=True,
    ),
    ReadingSpec(
        "still.creep_x", "Creep x", "%/min", "zero", "How fast left–right moves off by itself."
    ),
    ReadingSpec(
        "still.creep_y", "Creep y", "%/min", "zero", "How fast up–down moves off by itself."
    ),
    ReadingSpec(
        "rim.mean_radius", "Mean reach", "%", "hundred", "How far the rim is out on average."
    ),
    ReadingSpec(
        "rim.outer_dead_zone_needed",
        "Outer dead zone needed",
        "%",
        "low",
        "How much outer dead zone makes full deflection reachable everywhere.",
        headline=True,
    ),
    ReadingSpec(
        "rim.overreach", "Overreach", "%", "none", "How far the rim passes the nominal end."
    ),
    ReadingSpec(
        "rim.overrun",
        "Overrun",
        "%",
        "low",
        "How far the rim passes its gate at the most.",
        headline=True,
    ),
    ReadingSpec("rim.reach_right", "Reach right", "%", "hundred", "Farthest right."),
    ReadingSpec("rim.reach_left", "Reach left", "%", "hundred", "Farthest left."),
    ReadingSpec("rim.reach_up", "Reach up", "%", "hundred", "Farthest up."),
    ReadingSpec("rim.reach_down", "Reach down", "%", "hundred", "Farthest down."),
)

BY_PATH = {r.path: r for r in READINGS}
