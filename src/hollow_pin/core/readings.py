"""What is read from one recording: every reading with its uncertainty, what hides, what is missing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from hollow_pin.core.crossing import Crossings
from hollow_pin.core.gate import Gate
from hollow_pin.core.hidden import (
    MEASURED_ZERO,
    Hidden,
)
from hollow_pin.core.hold import Hold, by_direction, held_min, sags_most
from hollow_pin.core.joint import Joint
from hollow_pin.core.let_go import LetGo
from hollow_pin.core.recording import AXES, AxisCalibration, Problem
from hollow_pin.core.rim import (
    Rim,
)
from hollow_pin.core.spikes import at_once
from hollow_pin.core.still import Still
from hollow_pin.core.travel import Silent
from hollow_pin.core.turn import Turn

AT_ITS_EDGE = 0.75, 1.5
"""Of a built-in dead zone: as high are spikes that it makes of a stick that leaves it by a little."""
SWAYS_ALIKE, RETURNS_ALIKE, FEWEST_ALIKE = 0.9, 0.8, 8
"""Correlations of both axes at rest, and where so many releases or more left them, from which on they
move as one."""
TREMBLES_APART = 0.2
"""%, standard deviation from place to place, from which on it is worth a word."""


@dataclass(frozen=True)
class RecordingFacts:
    """What was recorded: axes, samples, duration_s, rate_hz, range by axis as (lo, hi). overrun: how
    far, in %, the ends of its model run over without a fault, None where that is not said.
    calibration: what each axis is read by, where that is the device's own calibration, or one that was
    learnt from the take in its place; empty where it is the range."""

    axes: tuple[str, ...]
    samples: int
    duration_s: float
    rate_hz: float | None
    range: dict[str, tuple[float, ...]]
    overrun: float | None = None
    calibration: dict[str, AxisCalibration] = field(default_factory=dict)


@dataclass(frozen=True)
class Composite:
    """Readings that need more than one step, % of half range; None where one of them is missing.
    gate_seen: the gate that the rim looks like. outer_dead_zone_needed: how far short of its range a
    single axis stops at the worse end; None for two, whose rim tells."""

    dead_zone_needed: float | None
    dead_zone_after_recentring: float | None
    circularity_after_recalibration: float | None
    shape_after_recalibration: float | None
    gate_seen: Gate | None
    outer_dead_zone_needed: float | None


@dataclass(frozen=True)
class Span:
    """Where in the recording a step's counted attempt lies, in seconds from its start."""

    from_s: float
    to_s: float
    attempt: int
    attempts: int


@dataclass(frozen=True)
class TakeReadings:
    """Everything that is read from one recording. A step is None where it is absent or not usable;
    `problems` says which. `uncertainty` holds standard uncertainties by dotted name. hand_line: what
    of the slopes of both crossings is the hand's, by the shape of the rim, and was taken off; None
    where that cannot be told. by_hand: what of an uncertainty is what hands are wrong by, where limits
    have room for that. by_place: what of it is by where the stick came to rest: what is over its limit
    there is over. silent: axes without a signal; then nothing is read of what takes both."""

    version: int
    recording: RecordingFacts
    still: Still | None
    let_go: LetGo | None
    rim: Rim | None
    crossing: Crossings | None
    hold: tuple[Hold, ...] | None
    turn: Turn | None
    joint: Joint
    composite: Composite
    problems: tuple[Problem, ...]
    hidden: tuple[Hidden, ...]
    spans: dict[str, Span]
    uncertainty: dict[str, float]
    hand_line: float | None = None
    by_hand: dict[str, float] = field(default_factory=dict)
    by_place: dict[str, float] = field(default_factory=dict)
    silent: tuple[Silent, ...] = ()

    def value(self, path: str) -> float | None:
        """A reading by its dotted name, such as `still.rest_offset` or `crossing.x.dead_spans`.

        Of holds the worst one counts, of dropouts all over the time that was held; of a list of
        places, how many there are.
        """
        step, *names = path.split(".")
        reading = getattr(self, step)
        if step == "hold" and reading is not None:
            if names == ["dropouts_per_min"]:
                return float(sum(h.dropouts for h in reading) / held_min(reading))
            if names == ["sag"]:
                return sags_most(reading).sag
            return float(max(getattr(h, names[0]) for h in reading))
        for name in names:
            reading = None if reading is None else getattr(reading, name)
        return float(len(reading)) if isinstance(reading, tuple) else reading

    @property
    def usable(self) -> bool:
        """Whether any step could be measured."""
        steps = (self.still, self.let_go, self.rim, self.crossing, self.hold, self.turn)
        return any(step is not None for step in steps)

    def hidden_at(self, path: str) -> Hidden | None:
        """What hides a reading, if anything does."""
        return next((h for h in self.hidden if h.covers(path)), None)


def held_once(take: TakeReadings) -> bool:
    """Whether the hold that falls back most was done once only, so that it may be the hand that gave
    way: neither twice toward that side, nor in a Hold that was done again."""
    if not take.hold:
        return False
    worst, span = sags_most(take.hold), take.spans.get("hold")
    again = any(len(holds) > 1 for holds in by_direction(take.hold) if worst in holds)
    return not again and (span is None or span.attempts < 2)


OF_A_TOUCH = frozenset(("still.wander", "still.jitter_x", "still.jitter_y"))
SPIKES_OF_A_TOUCH = frozenset(("still.spikes_per_min_x", "still.spikes_per_min_y"))
FEW_SPIKES = 4
"""As many may be a touch or two, each on both axes; what spikes oftener is dirt all the same."""


def of_a_touch(take: TakeReadings) -> frozenset[str]:
    """The readings of Still that a touch in it may have made, by their paths; none where there was
    none, or Still was done again since."""
    if not moved_once(take) or take.still is None:
        return frozenset()
    few = len(take.still.spike) <= FEW_SPIKES
    return OF_A_TOUCH | SPIKES_OF_A_TOUCH if few else OF_A_TOUCH


def moved_once(take: TakeReadings) -> bool:
    """Whether the stick moved in Still as by a touch, and Still was not done again since."""
    span = take.spans.get("still")
    moved = any(p.code == "moved" and p.step == "still" for p in take.problems)
    return moved and (span is None or span.attempts < 2)


def sways_as_one(take: TakeReadings) -> bool:
    """Whether both axes move as one while nobody touches the stick, and it comes back along that line:
    no two tracks do, nor does a touch, which moves it once."""
    sway = take.still.sway_in_common if take.still is not None else None
    release = take.let_go.release if take.let_go is not None else ()
    if sway is None or abs(sway) < SWAYS_ALIKE or len(release) < FEWEST_ALIKE:
        return False
    x, y = np.array([(r.final_x, r.final_y) for r in release]).T
    if min(x.std(), y.std()) <= 0:
        return False
    return bool(np.sign(sway) * np.corrcoef(x, y)[0, 1] >= RETURNS_ALIKE)


def spikes_as_one(take: TakeReadings) -> bool:
    """Whether nearly all the spikes of Still came on both axes at one instant."""
    return take.still is not None and at_once(take.still.spike)


def leaves_a_zone(take: TakeReadings) -> bool:
    """Whether most spikes of Still go as far as the edge of a built-in dead zone, and none much
    farther: a stick that wanders there, or trembles, is beyond it now and then."""
    zone = max((h.below or 0.0 for h in take.hidden if h.code in MEASURED_ZERO), default=0.0)
    high = np.abs([s.height for s in take.still.spike]) if take.still else np.empty(0)
    usual, most = AT_ITS_EDGE
    return bool(high.size and np.median(high) >= usual * zone and high.max() <= most * zone)


def as_if_the_hand_gave_way(take: TakeReadings) -> TakeReadings:
    """What it would be if the hold that falls back most had fallen back no more than the next: as when
    the hand gave way, and the track did not."""
    if not take.hold:
        return take
    worst = sags_most(take.hold)
    others = [h for h in take.hold if h is not worst]
    sag = min(worst.sag, sags_most(others).sag if others else 0.0)
    holds = tuple(replace(h, sag=sag) if h is worst else h for h in take.hold)
    return replace(take, hold=holds)


def nothing_moved(take: TakeReadings) -> bool:
    """Whether no axis did in any step."""
    return len(take.silent) == len(take.recording.axes)


def without_signal(take: TakeReadings) -> Silent | None:
    """The axis that gives no signal while the other does."""
    return take.silent[0] if take.silent and not nothing_moved(take) else None


def silence_of(take: TakeReadings) -> str:
    """What is said of a take in which an axis gave no signal; empty where each did."""
    mute = without_signal(take)
    if mute is not None:
        return mute.words
    return "Nothing moved in it" if take.silent else ""


def trembles_by_place(by_place: Mapping[str, float]) -> list[int]:
    """The axes (0: x) that tremble at some of the places that they come back to, and not at others, by
    enough to be said. by_place: what of the uncertainties is by that."""
    apart = [by_place.get(f"still.jitter_{axis}", 0.0) for axis in AXES]
    return [i for i, u in enumerate(apart) if u >= TREMBLES_APART]
