"""Whether two takes may be set against each other, and what keeps one of their readings from it."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, sqrt

from hollow_pin.core.catalogue import ReadingSpec
from hollow_pin.core.crossing import Crossing
from hollow_pin.core.dead_spans import JUMP_TIMES
from hollow_pin.core.hidden import UNCALIBRATED, Hidden
from hollow_pin.core.hold import held_min
from hollow_pin.core.job import stick_name
from hollow_pin.core.readings import TakeReadings, moved_once, nothing_moved

RATE_RATIO = 1.25
HIDDEN = "hidden by the source"
TOUCHED = "it moved once in Still, as by a touch"
NO_SIGNAL = "an axis gave no signal, before or after"
FELL_BACK = "it fell back once while it was held"
"""Which may be the hand's doing, and makes nothing worse until it is held again."""
OF_STILL = (
    "still.jitter",
    "still.noise",
    "still.rest_reach",
    "still.spike",
    "still.wander",
    "still.creep",
    "composite.dead_zone",
)
"""Beginnings of the readings that a touch in Still makes something of; the rest itself is none."""
SEEN_ALIKE = ("slow", "uneven", "repeats", "fuzz")
"""What a source hides of both takes in the same way."""
RESTS = ("still.rest_x", "still.rest_y", "still.rest_offset")
FEWEST_RETURNS = 3
"""From which on their scatter is part of the uncertainty of the rest."""
RETURNS_APART = 1.0
"""Standard deviation, %, of where a stick comes to rest whose sixteen returns lie 4 % apart, as is
let pass."""
SETTLING, WIDER = "let_go.settle_ms_p90", 1.5
"""As many times as wide, by its trembling, as that of the other: a band in which it counts as settled
so much sooner that they are not set against each other."""
SPANS = ("crossing.x.dead_spans", "crossing.y.dead_spans", "turn.dead_spans")


@dataclass(frozen=True)
class Setting:
    """How a take was made. The first four must be the same for two takes to be set against each
    other; the rest is said where it differs."""

    controller: str
    stick: str
    source: str
    gate: str
    calibration: str = "unknown"
    power: str = "unknown"
    shell: str = "unknown"


def cautions_of(before: TakeReadings, after: TakeReadings, was: Setting, now: Setting) -> list[str]:
    """What was different about two takes besides the stick, and what a source hides of either."""
    cautions = []
    for a, b, what in (
        (was.power, now.power, "power"),
        (was.shell, now.shell, "shell"),
    ):
        if a != b and "unknown" not in (a, b):
            cautions.append(f"The {what} was not the same: {a} before, {b} now.")
    for take, when in ((before, "before"), (after, "now")):
        cautions += [f"{when.capitalize()}, {h.message}" for h in take.hidden]
    return cautions


def _read_by(take: TakeReadings) -> str:
    """What makes % of a device's numbers."""
    if any(h.code == UNCALIBRATED for h in take.hidden):
        return "by a calibration learnt from it"
    own = bool(take.recording.calibration)
    return "by the device's own calibration" if own else "by the range of its source"


def refusals_of(
    before: TakeReadings, after: TakeReadings, was: Setting, now: Setting, reference: bool
) -> list[str]:
    """Why they cannot be set against each other at all. reference: `before` may be another stick."""
    refusals = []
    if was.controller != now.controller or (was.stick != now.stick and not reference):
        refusals.append(
            f"They are takes of different sticks: {was.controller}, {stick_name(was.stick)}, "
            f"and {now.controller}, {stick_name(now.stick)}."
        )
    if was.source != now.source:
        refusals.append(
            f"They came by different sources ({was.source}; {now.source}), which may smooth, scale "
            "or hide things differently. Take both by the same one."
        )
    if was.gate != now.gate:
        refusals.append(f"One expects a {was.gate} gate and the other a {now.gate} one.")
    if before.recording.axes != after.recording.axes:
        refusals.append("They do not hold the same axes.")
    elif before.recording.range != after.recording.range:
        refusals.append("Their values are reported in different ranges.")
    read_by = [_read_by(take) for take in (before, after)]
    if read_by[0] != read_by[1]:
        refusals.append(
            f"The one before was read {read_by[0]}, and this one {read_by[1]}: what differs by that "
            "is nobody's work. Take it once more by the same."
        )
    for take, when in ((before, "the one before"), (after, "this one")):
        if nothing_moved(take):
            refusals.append(
                f"Nothing moved in {when}: another stick was moved, or no signal came from this one."
            )
    steps = ("still", "let_go", "rim", "crossing", "hold", "turn")
    if not any(getattr(before, s) and getattr(after, s) for s in steps):
        refusals.append("No step of the routine is usable in both.")
    return refusals


def u_unseen_returns(spec: ReadingSpec, before: TakeReadings, after: TakeReadings) -> float:
    """How far apart a stick may rest that nobody touched, %, where its returns were not seen: a Still
    shows one place of those that it comes back to. 0 where they were."""
    if spec.path not in RESTS:
        return 0.0
    blind = [t for t in (before, after) if t.let_go is None or t.let_go.releases < FEWEST_RETURNS]
    return RETURNS_APART * sqrt(len(blind))


def u_of_counts(spec: ReadingSpec, before: TakeReadings, after: TakeReadings) -> float:
    """What is not known of events a minute beside what was counted: one each time, since none in so
    long is not never. Five in the one and none in the other come by chance, six hardly."""
    if spec.path in ("joint.jumps_per_min", "joint.drops_per_min"):
        minutes = [take.recording.duration_s / 60.0 for take in (before, after)]
    elif spec.path == "hold.dropouts_per_min":
        minutes = [held_min(take.hold) for take in (before, after) if take.hold]
    else:
        return 0.0
    return hypot(*(1.0 / m for m in minutes if m > 0))


def why_not(
    spec: ReadingSpec,
    before: TakeReadings,
    after: TakeReadings,
    a: float | None,
    b: float | None,
    ua: float | None,
    ub: float | None,
) -> str | None:
    """Why one reading of them cannot be: its values a and b, and their standard uncertainties."""
    missing = [name for name, v in (("before", a), ("after", b)) if v is None]
    if missing:
        return f"not measured {' and '.join(missing)}"
    unsure = [name for name, v in (("before", ua), ("after", ub)) if v is None]
    if unsure:
        return f"too few repeats {' and '.join(unsure)} to know its uncertainty"
    touched = [n for n, take in (("before", before), ("after", after)) if moved_once(take)]
    if touched and spec.path.startswith(OF_STILL):
        return f"{TOUCHED}, {' and '.join(touched)}"
    hidden = _hidden_by(before.hidden_at(spec.path), after.hidden_at(spec.path))
    if hidden:
        if hidden.code == "no-signal":
            return NO_SIGNAL
        return f"{HIDDEN}: {hidden.message}"
    rates = before.recording.rate_hz, after.recording.rate_hz
    if spec.pace_bound and rates[0] and rates[1]:
        ratio = max(rates[0], rates[1]) / min(rates[0], rates[1])
        if ratio > RATE_RATIO:
            return f"sample rates differ: {rates[0]:.0f} and {rates[1]:.0f} Hz"
    return None


def blurred(path: str, before: TakeReadings, after: TakeReadings) -> str | None:
    """Why more of a reading in one of them may not be new, whatever the uncertainties: where the other
    trembles so far that as much could not be seen."""
    a, b = before.value(path) or 0.0, after.value(path) or 0.0
    less, more, when = (before, after, "before") if a < b else (after, before, "after")
    if path == SETTLING:
        within = [t.let_go.settled_within or 0.0 if t.let_go else 0.0 for t in (less, more)]
        unseen = within[0] > WIDER * within[1]
    else:
        unseen = path in SPANS and _spans_seen_by(less, more, path) <= min(a, b)
    return f"it trembled too far {when} for that to be seen" if unseen else None


def _spans_seen_by(less: TakeReadings, more: TakeReadings, path: str) -> int:
    """How many of one take's dead spans are wider than what the other one's passes tremble."""
    tracks = [t.turn if path.startswith("turn") else _crossing_of(t, path) for t in (less, more)]
    if tracks[0] is None or tracks[1] is None:
        return 0
    clear = JUMP_TIMES * tracks[0].track_noise_median
    return sum(span.to - span.from_ > clear for span in tracks[1].dead_spans)


def _crossing_of(take: TakeReadings, path: str) -> Crossing | None:
    return getattr(take.crossing, path.split(".")[1]) if take.crossing else None


def _hidden_by(before: Hidden | None, after: Hidden | None) -> Hidden | None:
    """What keeps a reading from being compared. A slow or uneven source that was the same both times
    sees less, but sees both alike."""
    if before and after and before.code == after.code and before.code in SEEN_ALIKE:
        return None
    return before or after
