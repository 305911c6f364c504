"""A whole take: every step it holds, the composites, the problems, the uncertainties."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hollow_pin.core.attempts import Attempts, measure_steps
from hollow_pin.core.crossing import Crossings
from hollow_pin.core.ends import ends_of
from hollow_pin.core.extents import learn_ranges
from hollow_pin.core.gate import (
    Gate,
    circularity,
    fill_around,
    fit_gate,
)
from hollow_pin.core.hand_line import u_askew
from hollow_pin.core.held_time import evenly, without_repeats, without_stale
from hollow_pin.core.hidden import (
    MAY_BE_ZERO,
    Hidden,
    find_hidden,
    moving_parts,
    stated_overrun,
    uncalibrated,
)
from hollow_pin.core.joint import find_jumps, minutes_of, u_joint, without_jumps
from hollow_pin.core.lifted import lifted, without_lift
from hollow_pin.core.reach import FULL
from hollow_pin.core.readings import (
    Composite,
    RecordingFacts,
    TakeReadings,
)
from hollow_pin.core.recording import (
    AXES,
    NO_STEP,
    STEPS,
    AxisRange,
    Problem,
    Recording,
)
from hollow_pin.core.rest_uncertainty import u_by_place
from hollow_pin.core.rim import recalibrated
from hollow_pin.core.statistics import median
from hollow_pin.core.step_results import StepResults
from hollow_pin.core.take_warnings import (
    a_gate,
    gate_seen,
    lost_reports,
    other_gate,
    rows_left_out,
    short_all_round,
    swallowed,
    times_counted,
    trembling_by_place,
)
from hollow_pin.core.travel import Silent, Travel, travel_of
from hollow_pin.core.uncertainty import take_uncertainty
from hollow_pin.core.untouched import between_hands, left_alone, unheard

VERSION = 38
"""Raised whenever a definition changes, so that stored readings are computed anew."""

GONE_OVER = [STEPS.index(step) for step in ("rim", "crossing-x", "crossing-y")]
"""Steps of which a drop is no part: it is told by `Joint`, and the next time comes elsewhere."""
FOUND = "gate-found"
"""The problem that tells of a gate that the rim was asked for."""


def measure_take(recording: Recording, gate: Gate | None = "round") -> TakeReadings:
    """Measure a recording. Never raises for its contents: what cannot be read is in `problems`. gate:
    of its model; None where nobody says, and the rim has to."""
    if any(r.calibration == "unknown" for r in recording.ranges):
        return _by_its_extents(recording, gate)
    if gate is None:
        return _by_its_rim(recording)
    as_recorded = recording
    read = _as_it_reports(recording)
    lift = lifted(read, [read.attempts(f"crossing-{axis}")[-1:] for axis in read.axes])
    if lift:
        read = without_lift(read, lift)
    joint, jumping, fallen = find_jumps(read)
    fallen[~np.isin(read.step, GONE_OVER)] = False
    at_end = read.at_end
    read, left_out = _left_alone(without_jumps(read, jumping | fallen))
    attempts = Attempts(read)
    travel = travel_of(read)
    results = measure_steps(attempts, gate, at_end, travel)
    silent = _silent(travel, attempts)
    if silent:
        results = _of_what_speaks(results, attempts, silent)
    parts = attempts.parts
    alone = [part for part, _ in results.turn.rests.values()] if results.turn else []
    results = replace(results, ends=ends_of(read, parts, alone))
    composite = _compose(results, gate)
    problems = [*left_out, *attempts.problems, *results.problems]
    problems += _missing(read, results)
    problems += other_gate(composite.gate_seen, results.rim, gate)
    problems += lost_reports(read)
    problems += rows_left_out(read) + times_counted(read)
    problems += short_all_round(read, results.rim)
    problems += swallowed(read)
    still = results.still
    by_place = u_by_place(results, read.steps)
    problems += trembling_by_place(results.let_go, by_place)
    pace = still.pace if still and not moving_parts(read) else None
    hidden = find_hidden(read, parts, gate, results.dead_zones, pace, lift)
    if silent:
        mute = {s.axis for s in silent}
        hidden = (_no_signal(silent, read.axes), *(h for h in hidden if h.axis not in mute))
    problems = _with_hidden(problems, hidden, read)
    whole_still = parts.get("still") == slice(0, len(read.t))
    rate_hz = pace.rate_hz if pace and whole_still else _rate(read)
    crossing = [c.readings if (c := results.crossing.get(a)) else None for a in AXES]
    uncertainty = take_uncertainty(read, parts, results, gate, by_place)
    return TakeReadings(
        version=VERSION,
        recording=_facts(as_recorded, read, rate_hz),
        still=still.readings if still else None,
        let_go=results.let_go.readings if results.let_go else None,
        rim=results.rim.readings if results.rim else None,
        crossing=Crossings(*crossing) if results.crossing else None,
        hold=results.hold.readings if results.hold else None,
        turn=results.turn.readings if results.turn else None,
        joint=joint,
        composite=composite,
        problems=tuple(problems),
        hidden=hidden,
        spans=attempts.spans,
        hand_line=results.hand_line,
        by_hand={
            f"crossing.{axis}.cross_talk": u_askew(crossed, results.hand_line)
            for axis, crossed in results.crossing.items()
            if crossed.readings.cross_talk is not None
        },
        by_place=by_place,
        uncertainty=uncertainty | u_joint(joint, minutes_of(read)),
        silent=silent,
    )


def _by_its_rim(recording: Recording) -> TakeReadings:
    """By the gate that the rim looks like, where a round one does not fit it."""
    take = measure_take(recording, "round")
    gate = take.composite.gate_seen
    if gate is None or all(p.code != "gate" for p in take.problems):
        return take
    take = measure_take(recording, gate)
    message = (
        f"nothing says which gate it has: it looks like {a_gate(gate)} one, and is held against "
        "that."
    )
    if gate == "square" and _cut_all_round(take):
        message += (
            " All its sides are the ends of its range: a round one that runs over by a third or more "
            "looks the same. If it is round, recalibrate."
        )
    return replace(take, problems=(*take.problems, Problem("rim", FOUND, message, "note")))


def _cut_all_round(take: TakeReadings) -> bool:
    """Whether a rim comes to the end of its range on every side."""
    rim = take.rim
    if rim is None or all(p.code != "ends" for p in take.problems):
        return False
    return min(rim.reach_left, rim.reach_right, rim.reach_up, rim.reach_down) > FULL


def _by_its_extents(recording: Recording, gate: Gate | None) -> TakeReadings:
    """By the calibration that would be learnt from it, since its own is not known."""
    plain = tuple(AxisRange(r.lo, r.hi) for r in recording.ranges)
    learned = learn_ranges(measure_take(replace(recording, ranges=plain), gate), plain)
    take = measure_take(replace(recording, ranges=learned), gate)
    hides = uncalibrated()
    return replace(
        take,
        hidden=(*take.hidden, hides),
        problems=(*take.problems, Problem("take", hides.code, hides.message, "mind")),
    )


def gate_found(take: TakeReadings) -> Gate | None:
    """The gate that a rim was held against since it looks like it; None where it was said, or is round
    for want of another."""
    is_guess = any(p.code == FOUND for p in take.problems)
    return take.composite.gate_seen if is_guess else None


def _as_it_reports(recording: Recording) -> Recording:
    """A recording as its source means it: what came together is spread over the time it was made in,
    what holds until it changes is held, what comes twice counts once, and what repeats an old value is
    left out."""
    even, on_held_time, pace = evenly(recording)
    if pace is None or pace.change_only:
        return on_held_time
    if pace.twice > 1:
        return without_repeats(even, pace.twice)
    return without_stale(even, pace)


def _left_alone(recording: Recording) -> tuple[Recording, list[Problem]]:
    """A recording whose every Still is the stretch in which nobody pushed the stick and its source had
    heard from it, and what is to be said of that."""
    step, problems = recording.step.copy(), dict[str, Problem]()
    for part in recording.attempts("still"):
        t, u = recording.t[part], recording.u[part]
        first_heard = unheard(t, u, recording.resolutions)
        if first_heard:
            message = (
                f"for its first {t[first_heard] - t[0]:.1f} s the source said one value, and leapt "
                "from there to where the stick lies: it had not heard from the stick before. That is "
                "left out."
            )
            problems["unheard"] = Problem("still", "unheard", message, "mind")
        alone = left_alone(t[first_heard:], u[first_heard:])
        first, last = first_heard + alone.start, first_heard + alone.stop
        if (first, last) != (first_heard, len(t)):
            message = (
                "the stick was pushed for a part of it: what is read is the "
                f"{t[last - 1] - t[first]:.0f} s in which it was left alone. If "
                "nobody touched it, it goes there by itself: take Still again."
            )
            problems["pushed"] = Problem("still", "pushed", message, "mind")
        free = between_hands(t[first:last], u[first:last])
        first, last = first + free.start, first + free.stop
        step[part.start : part.start + first] = step[part.start + last : part.stop] = NO_STEP
    if np.array_equal(step, recording.step):
        return recording, []
    return replace(recording, step=step), list(problems.values())


def _silent(travel: Travel | None, attempts: Attempts) -> tuple[Silent, ...]:
    """Axes without a signal; of one that comes less far to one side only where that leaves no rim."""
    if travel is None:
        return ()
    no_rim = any(p.step == "rim" and p.code == "coverage" for p in attempts.problems)
    return travel.silent or (travel.far_shorter if no_rim else ())


def _of_what_speaks(
    results: StepResults, attempts: Attempts, silent: tuple[Silent, ...]
) -> StepResults:
    """What can be read where an axis says nothing: the rest of each, and the other's crossing. What a
    step is missing then is no hand's doing."""
    mute = {s.axis for s in silent}
    crossing = {
        axis: replace(c, readings=replace(c.readings, cross_talk=None))
        for axis, c in results.crossing.items()
        if axis not in mute
    }
    read = {"still", *(f"crossing-{axis}" for axis in crossing)}
    attempts.problems = [p for p in attempts.problems if p.step in read]
    attempts.spans = {step: span for step, span in attempts.spans.items() if step in read}
    return replace(
        results, let_go=None, rim=None, crossing=crossing, hold=None, turn=None, hand_line=None
    )


def _with_hidden(
    problems: list[Problem], hidden: tuple[Hidden, ...], read: Recording
) -> list[Problem]:
    """The problems, and what is hidden among them: where it is known what makes a stick stand still,
    that it does is none, and is told once."""
    if all(read.swallowed) or any(h.code in ("built-in-dead-zone", "no-signal") for h in hidden):
        problems = [p for p in problems if p.code != "constant"]
    explained = MAY_BE_ZERO if any(p.code == "constant" for p in problems) else ()
    warnings = [
        Problem("take", h.code, h.message, "mind") for h in hidden if h.code not in explained
    ]
    return [*problems, *warnings]


def _no_signal(silent: tuple[Silent, ...], axes: tuple[str, ...]) -> Hidden:
    """What is hidden by axes without a signal, and said of them."""
    if len(silent) == len(axes):
        message = (
            "nothing moved in any step: another stick was moved, or no signal comes from this one. "
            "See that it is the stick that was chosen; if it is, see to its plug, ribbon and supply."
        )
        return Hidden("nothing-moved", None, message, ("",))
    mute = silent[0]
    message = (
        f"without {mute.axis} nothing that takes both axes is read: rest, returns, rim, holds."
    )
    own = (f"crossing.{mute.axis}.", "still.", "composite.", "let_go.", "rim.", "hold.")
    return Hidden("no-signal", mute.axis, message, own)


def _missing(recording: Recording, results: StepResults) -> list[Problem]:
    """What cannot be put together, since a step of it is not there."""
    problems = []
    if results.let_go is not None and results.still is None:
        problems.append(
            Problem(
                "let-go",
                "no-rest",
                "there is no usable Still: the rest position was taken from Let-go itself, "
                "and no dead zone is computed.",
            )
        )
    if not (recording.step != NO_STEP).any():
        problems.append(
            Problem(
                "take",
                "no-steps",
                "no sample says which step of the routine it belongs to.",
                "mind",
            )
        )
    return problems


def _facts(recording: Recording, read: Recording, rate_hz: float | None) -> RecordingFacts:
    """What was recorded. recording: as it came; read: as it was measured."""
    ranges = tuple(zip(read.axes, read.ranges, strict=True))
    return RecordingFacts(
        axes=read.axes,
        samples=len(recording.t_us),
        duration_s=float(recording.t[-1]),
        rate_hz=rate_hz,
        range={name: (r.lo, r.hi) for name, r in ranges},
        overrun=stated_overrun(recording),
        calibration={
            name: r.known_calibration for name, r in ranges if r.known_calibration is not None
        },
    )


def _rate(recording: Recording) -> float | None:
    """The usual rate, by the median of all intervals."""
    usual = median(np.diff(recording.t_us).astype(np.float32)) if len(recording.t_us) > 1 else 0.0
    return 1e6 / usual if usual > 0 else None


def _compose(results: StepResults, gate: Gate) -> Composite:
    still, let_go, rim, ends = results.still, results.let_go, results.rim, results.ends
    needed = after = circular = shape = looks_like = None
    x, y = (rim.readings.lsc_x, rim.readings.lsc_y) if rim else (0.0, 0.0)
    if let_go and let_go.readings.return_max is not None:
        returned = let_go.readings
        x, y = returned.return_centre_x or 0.0, returned.return_centre_y or 0.0
        if still:
            at_rest = still.readings
            noise = at_rest.noise_reach
            needed = max(returned.return_max or 0.0, at_rest.rest_offset) + noise
            needed = max(needed, at_rest.rest_reach)
            after = max((returned.return_radius or 0.0) + noise, at_rest.rest_reach_recentred)
    if rim:
        left_over = recalibrated(rim, x, y, gate)
        if let_go and let_go.readings.return_max is not None:
            circular = circularity(fill_around(left_over, gate), gate)
        looks_like = gate_seen(rim, x, y, gate)
        shape = fit_gate(left_over, gate).peak_to_valley
    short = ends.short if ends else None
    return Composite(needed, after, circular, shape, looks_like, short)
