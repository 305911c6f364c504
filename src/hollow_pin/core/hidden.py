"""What a source hides. Each of these can make a worn stick read perfectly; none may pass for health.

A hidden fault names the readings it touches. A verdict on one of those is never “within”.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.built_in_zone import leaps_to_zero, pulled_onto_axis
from hollow_pin.core.gate import BEARINGS, BINS, Gate, gate_edge
from hollow_pin.core.lifted import Lift
from hollow_pin.core.recording import AXES, MOVING, Floats, Recording, stated_fuzz
from hollow_pin.core.rim import bin_of
from hollow_pin.core.statistics import Timing, binned_median, usual_interval

SLOWEST_HZ = 58.0
"""A nominal 60 Hz, with room for the clock of the source."""
MISSED = 1.8
ONE_MISSED, SOON = 2.2, 0.6
"""Usual intervals: where as many reports come too soon as come one interval late, it is the clock that
is as coarse as their interval, and none was lost."""
GAPPY = 0.2
OVER_END = 20.0
"""As far, in %, as an overrun goes that is no fault, where the model does not say: what is beyond is
wide."""
MOST_OVER_END = 100.0
LOPSIDED = 11
"""Bins that one side of the rim may be cut off wider than another."""
REPEATED = 0.2
SWIFT_STEPS = 3.0
SEEN_S = 1 / SLOWEST_HZ
"""Silences up to this hide no more than the slowest source that is taken."""
FUZZ_LEAST = 1.0
"""%: noise that loses a quarter of this is told from too much of it all the same. A kernel's own is
1/256 of the range."""
FEW = 50
LOOKED_AT = 20_000
AT_ZERO = 0.95
"""Share of a Still at one value, from which on it does not tremble."""
QUIET_STEP = 0.1
"""%, of a converter: within one as large a stick that nobody touches may well be quiet."""

AT_REST = ("still.", "let_go.", "composite.dead_zone")
SHAPE = (
    "rim.round",
    "rim.reach",
    "rim.mean",
    "rim.overreach",
    "composite.circ",
    "composite.shape",
)
BY_CALIBRATION = (
    "still.rest_offset",
    "still.rest_x",
    "still.rest_y",
    "let_go.return_max",
    "let_go.return_centre",
    "composite.dead_zone_needed",
    "rim.circularity_error",
    "rim.mean_radius",
    "rim.reach",
    "rim.outer_dead_zone",
    "rim.over",
    "composite.outer_dead_zone",
    "turn.reach",
)
"""What a calibration moves: where a stick rests, and how far it goes."""
UNCALIBRATED = "uncalibrated"
LEAPS, ON_AXIS, ZERO, COARSE_ZERO = "leaps-to-zero", "on-axis", "zero", "coarse-zero"
MEASURED_ZERO = ("built-in-dead-zone", LEAPS)
"""Of a source that is seen to say zero where the stick is not."""
MAY_BE_ZERO = (ZERO, COARSE_ZERO)
"""Of one that says zero of a stick at rest, with no Crossing to tell whether it is there."""
AT_ZERO_CODES = (*MEASURED_ZERO, *MAY_BE_ZERO)
"""Of one that does, or may."""
NEITHER = (UNCALIBRATED, LEAPS)
"""Of what these hide, nothing is known to be over its limit either."""
PACE = (
    "still.jitter",
    "still.noise_reach",
    "still.spikes",
    "let_go.settle",
    "composite.dead_zone",
    "crossing.",
    "hold.",
    "turn.",
)


At = slice | NDArray[np.intp]


@dataclass(frozen=True)
class Hidden:
    """One thing that is hidden. axis: None where it is the whole source. below: what is smaller than
    this cannot be seen, %, where that can be said. hides: beginnings of the readings' names."""

    code: str
    axis: str | None
    message: str
    hides: tuple[str, ...]
    below: float | None = None

    def covers(self, path: str) -> bool:
        return path.startswith(self.hides)


def find_hidden(
    recording: Recording,
    parts: dict[str, slice],
    gate: Gate,
    dead_zones: dict[str, float | None],
    at_rest: Timing | None = None,
    lift: Lift | None = None,
) -> tuple[Hidden, ...]:
    """Everything that a recording shows to be hidden.

    parts: the counted samples of each step. dead_zones: each axis's built-in dead zone, %, None
    where no crossing measured it. at_rest: the pace of a take in which nothing moves; a source that
    reports changes only is judged by what it does while something does. lift: what was taken out of
    the recording (`lifted`).
    """
    moving = moving_parts(recording)
    hidden: list[Hidden] = [_lifts(lift.by)] if lift else []
    for i, axis in enumerate(recording.axes):
        v = recording.u[:, i]
        if moving and np.ptp(v) == 0:
            hidden.append(_constant(axis))
            continue
        hidden += _swallowed(recording, axis, i)
        if dead_zones[axis] is None and "still" in parts:
            hidden += _zero(axis, v[parts["still"]], recording, i)
    zones = {axis: zone for axis in recording.axes if (zone := dead_zones[axis])}
    pulled: dict[str, str] = {}
    if "rim" in parts and recording.raw.shape[1] == 2:
        crossings = {a: parts[f"crossing-{a}"] for a in AXES if f"crossing-{a}" in parts}
        pulled = pulled_axes(recording.u, crossings, parts["rim"], recording.resolutions)
    if zones:
        along = [path for axis, path in pulled.items() if axis in zones]
        hidden.append(_built_in(zones, along))
    elif moving:
        hidden += _leaps(leaps_to_zero(recording.t, recording.u, recording.resolutions))
    hidden += on_axis({axis: path for axis, path in pulled.items() if axis not in zones})
    if "rim" in parts and recording.raw.shape[1] == 2:
        hidden += _saturated(recording, parts["rim"], gate)
    hidden += _repeats(recording, moving)
    if at_rest is not None:
        hidden += _pace(recording, [parts["still"]])
    else:
        hidden += _pace(recording, moving)
    return tuple(hidden)


def stated_overrun(recording: Recording) -> float | None:
    """How far, in %, the ends of this model run over without a fault, where the recording says so."""
    try:
        stated = float(recording.headers.get("overrun", "nan"))
    except ValueError:
        return None
    return stated if 0 <= stated <= MOST_OVER_END else None


def moving_parts(recording: Recording) -> list[slice]:
    """The last attempt at each step in which the stick moves."""
    return [recording.attempts(step)[-1] for step in MOVING if recording.attempts(step)]


def _constant(axis: str) -> Hidden:
    return Hidden(
        "constant",
        axis,
        f"{axis} reported one value from beginning to end: it is not connected, not mapped, or dead.",
        ("",),
    )


def uncalibrated() -> Hidden:
    """Of numbers that a calibration is still to be applied to, which nobody knows."""
    return Hidden(
        UNCALIBRATED,
        None,
        "the device's own calibration is applied by what it is plugged into, and is not known here. "
        "The take is read by what a calibration would learn from it: where the stick rests, and how "
        "far it goes, cannot be judged.",
        BY_CALIBRATION,
    )


def pulled_axes(
    u: Floats, crossings: Mapping[str, At], rim: At, resolutions: Sequence[float]
) -> dict[str, str]:
    """The axes that a source says zero of while the other one crosses, each with the reading that this
    hides. u (n, 2) %; crossings: which samples are the crossing of an axis; rim: which lie round the
    edge; resolutions: each axis's smallest step, %."""
    pulled = {}
    for ways, (axis, other) in zip(((0, 1), (1, 0)), (AXES, AXES[::-1]), strict=True):
        if axis in crossings:
            crossing = u[crossings[axis]][:, ways]
            if pulled_onto_axis(crossing, u[rim][:, ways], resolutions[ways[1]]):
                pulled[other] = f"crossing.{axis}.cross_talk"
    return pulled


def on_axis(pulled: Mapping[str, str]) -> list[Hidden]:
    """What those hide."""
    if not pulled:
        return []
    each = " and ".join(sorted(pulled))
    message = (
        "the source pulls a stick onto its axis that is pushed nearly along it: there it says zero of "
        f"{each}. What the one carries along of the other does not show. Measure by a rawer source."
    )
    alone = each if len(pulled) == 1 else None
    return [Hidden(ON_AXIS, alone, message, tuple(pulled.values()))]


def _built_in(zones: dict[str, float], along: list[str]) -> Hidden:
    """along: what is hidden as well where the zone lies along an axis."""
    each = " and ".join(f"for {axis} until {half:.1f} %" for axis, half in zones.items())
    below = max(zones.values())
    return Hidden(
        "built-in-dead-zone",
        "".join(zones) if len(zones) == 1 else None,
        f"the source reports zero {each}: whatever the stick does inside that is hidden below "
        f"{below:.1f} %. Measure by a rawer source, and do not call it fixed.",
        (*AT_REST, *along),
        below,
    )


def _leaps(far: float | None) -> list[Hidden]:
    if far is None:
        return []
    message = (
        "a while after the stick is let go the source says exactly zero, wherever it rests, from as "
        f"far as {far:.1f} %. What it does there is hidden. Measure by a rawer source, and do not "
        "call it fixed."
    )
    return [Hidden(LEAPS, None, message, AT_REST, far)]


def _lifts(by: float) -> Hidden:
    """Of a source that lifts both axes over their middle, by so much, %."""
    return Hidden(
        "lifted",
        None,
        f"the source never reports anything between zero and {by:.1f} %: it lifts the stick over "
        "somebody's dead zone, and whatever moves it at rest is as large as that. A take is read "
        "without it, and shows its samples as they came. Measure by a rawer source, and do not call "
        "it fixed.",
        AT_REST,
    )


def _swallowed(recording: Recording, axis: str, i: int) -> list[Hidden]:
    """A source that says itself what it leaves out, where that is more than goes into the
    uncertainties."""
    below = 100.0 * stated_fuzz(recording.headers, axis) / recording.ranges[i].half
    if not below > FUZZ_LEAST:
        return []
    message = (
        f"the system swallows changes of {axis} below {below:.1f} %: its noise is hidden there."
    )
    return [Hidden("fuzz", axis, message, (*PACE, "still.noise"), below)]


def _zero(axis: str, still: Floats, recording: Recording, i: int) -> list[Hidden]:
    """A rest of exactly zero, with no crossing to tell whether a dead zone makes it so."""
    usual = float(np.median(still[:: max(1, len(still) // LOOKED_AT)]))
    if abs(usual) > recording.resolutions[i] or (still == usual).mean() < AT_ZERO:
        return []
    step = recording.resolutions[i]
    coarse = step >= QUIET_STEP
    either = f", or a sound stick within one step of {step:.1f} %" if coarse else ""
    message = (
        f"{axis} rests at exactly zero and never trembles. That may be a dead zone in the "
        f"source{either}: a Crossing through the middle would tell."
    )
    return [Hidden(COARSE_ZERO if coarse else ZERO, axis, message, AT_REST)]


def _saturated(recording: Recording, rim: slice, gate: Gate) -> list[Hidden]:
    """An axis that lies at the end of its range in more directions than its model's overrun, or a
    usual one, explains, or in far more on one side than on another."""
    u, raw = recording.u[rim], recording.raw[rim]
    out = np.hypot(u[:, 0], u[:, 1]) > 60.0
    if out.sum() < FEW:
        return []
    bins = bin_of(u[out])
    cut = {}
    stated = stated_overrun(recording)
    edge = (1 + (OVER_END if stated is None else stated) / 100) * gate_edge(gate, BEARINGS)
    angle = np.radians(BEARINGS)
    saturated = []
    for i, (axis, shape) in enumerate(zip(AXES, (np.sin(angle), np.cos(angle)), strict=True)):
        middle = binned_median(raw[out, i], bins, BINS)
        ends = recording.ends[i]
        for at_end, sign in ((middle >= ends.hi, 1), (middle <= ends.lo, -1)):
            allowed = int((sign * shape * edge > 100.0).sum()) + 1
            cut[axis, sign] = int(at_end.sum()), allowed
    least = min(wide for wide, _ in cut.values())
    for (axis, sign), (wide, allowed) in cut.items():
        if wide > allowed or (gate == "round" and wide > least + LOPSIDED):
            side = {("x", 1): "right", ("x", -1): "left", ("y", 1): "up", ("y", -1): "down"}
            saturated.append(
                Hidden(
                    "saturated",
                    axis,
                    f"{axis} runs into the end of its range toward {side[axis, sign]}: how far the "
                    "stick goes beyond it, and what the rim is like there, is cut off.",
                    SHAPE,
                )
            )
    return saturated


def _repeats(recording: Recording, moving: list[slice]) -> list[Hidden]:
    """A moving stick whose samples come twice over: the source is read faster than it has news."""
    same = swift = 0
    gap: list[float] = []
    for part in moving:
        u = recording.u[part]
        if len(u) < FEW:
            continue
        steps = np.array([step or np.inf for step in recording.steps])
        wide = 8
        over: Floats = np.max(np.abs(u[wide:] - u[:-wide]) / (wide * steps), axis=1)
        fast = (over > SWIFT_STEPS) & _inside(recording, part, wide)
        still: NDArray[np.bool_] = np.asarray(np.abs(np.diff(u, axis=0)).max(axis=1) == 0)
        middle = slice(wide // 2, wide // 2 + len(fast))
        same += int((still[middle] & fast).sum())
        swift += int(fast.sum())
        news = np.flatnonzero(~still)
        if news.size > 1:
            gap.append(float(np.median(np.diff(recording.t[part][news + 1]))))
    if swift < FEW or same <= REPEATED * swift:
        return []
    between = float(np.median(gap)) if gap else 0.0
    if 0 < between <= SEEN_S:
        # Read faster than it has news, and its news come fast enough.
        return []
    true = 1.0 / between if between else 0.0
    return [
        Hidden(
            "repeats",
            None,
            f"{100 * same / swift:.0f} % of the samples repeat the one before while the stick moves: "
            f"the source has news only about {true:.0f} times a second. Noise and spikes between "
            "are not seen.",
            PACE,
        )
    ]


def _inside(recording: Recording, part: slice, wide: int) -> NDArray[np.bool_]:
    """Where neither end of a window lies at the end of a range: a clipped axis moves no more."""
    free: NDArray[np.bool_] = np.asarray(~recording.at_end[part].any(axis=1))
    return np.asarray(free[wide:] & free[:-wide])


def _pace(recording: Recording, parts: list[slice]) -> list[Hidden]:
    intervals = [np.diff(recording.t[p]) for p in parts if p.stop - p.start > 2]
    if not intervals:
        return []
    dt = np.concatenate(intervals)
    usual = usual_interval(dt)
    if usual <= 0 or not dt.sum():
        return []
    late = dt > max(MISSED * usual, SEEN_S)
    single = late & (dt < ONE_MISSED * usual)
    if (dt < SOON * usual).sum() >= single.sum():
        late &= ~single
    return _judged_pace(usual, float(dt[late].sum() / dt.sum()))


def _judged_pace(usual: float, unseen: float) -> list[Hidden]:
    """By the usual interval, seconds, and the share of the time in silences that hide something:
    longer than usual, and than those of the slowest source that is taken."""
    hidden = []
    if 1 / usual < SLOWEST_HZ:
        hidden.append(
            Hidden(
                "slow",
                None,
                f"only {1 / usual:.0f} samples a second: spikes and settling shorter than "
                f"{2e3 * usual:.0f} ms go unseen.",
                PACE,
            )
        )
    if unseen > GAPPY:
        hidden.append(
            Hidden(
                "uneven",
                None,
                f"the samples come very unevenly: {100 * unseen:.0f} % of the time lies in "
                "silences of twice the usual interval or longer. What happens in them is not seen.",
                PACE,
            )
        )
    return hidden
