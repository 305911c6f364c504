"""A whole take: every step it holds, the composites, the problems, the uncertainties."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

import numpy as np

from hollow_pin.core.crossing import CrossingResult, Crossings, measure_crossing
from hollow_pin.core.hidden import Hidden, find_hidden, moving_parts
from hollow_pin.core.hold import Hold, HoldResult, held_min, measure_hold
from hollow_pin.core.let_go import LetGo, LetGoResult, measure_let_go
from hollow_pin.core.measured import Measured
from hollow_pin.core.recording import AXES, NO_STEP, Floats, NotUsable, Problem, Recording
from hollow_pin.core.rim import (
    Gate,
    Rim,
    RimResult,
    circularity,
    fill_around,
    measure_rim,
    radius_by_bearing,
    recentred,
)
from hollow_pin.core.statistics import centre, median
from hollow_pin.core.still import Still, StillResult, measure_still
from hollow_pin.core.turn import Turn, TurnResult, measure_turn
from hollow_pin.core.uncertainty import take_uncertainty

VERSION = 6
"""Raised whenever a definition changes, so that stored readings are computed anew."""


@dataclass(frozen=True)
class Facts:
    """What was recorded: axes, samples, duration_s, rate_hz, range by axis as (lo, hi)."""

    axes: tuple[str, ...]
    samples: int
    duration_s: float
    rate_hz: float | None
    range: dict[str, tuple[float, ...]]


@dataclass(frozen=True)
class Composite:
    """Readings that need more than one step, % of half range; None where one of them is missing."""

    dead_zone_needed: float | None
    dead_zone_after_recentring: float | None
    circularity_after_recalibration: float | None


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
    `problems` says which. `uncertainty` holds standard uncertainties by dotted name."""

    version: int
    recording: Facts
    still: Still | None
    let_go: LetGo | None
    rim: Rim | None
    crossing: Crossings | None
    hold: tuple[Hold, ...] | None
    turn: Turn | None
    composite: Composite
    problems: tuple[Problem, ...]
    hidden: tuple[Hidden, ...]
    spans: dict[str, Span]
    uncertainty: dict[str, float]

    def value(self, path: str) -> float | None:
        """A reading by its dotted name, such as `still.rest_offset` or `crossing.x.dead_spans`.

        Of holds the worst one counts, of dropouts all over the time that was held; of a list of
        places, how many there are.
        """
        step, *names = path.split(".")
        found = getattr(self, step)
        if step == "hold" and found is not None:
            if names == ["dropouts_per_min"]:
                return float(sum(h.dropouts for h in found) / held_min(found))
            return float(max(getattr(h, names[0]) for h in found))
        for name in names:
            found = None if found is None else getattr(found, name)
        return float(len(found)) if isinstance(found, tuple) else found

    @property
    def usable(self) -> bool:
        """Whether any step could be measured."""
        steps = (self.still, self.let_go, self.rim, self.crossing, self.hold, self.turn)
        return any(step is not None for step in steps)

    def hidden_at(self, path: str) -> Hidden | None:
        """What hides a reading, if anything does."""
        return next((h for h in self.hidden if h.covers(path)), None)


Result = TypeVar("Result")


def measure_take(recording: Recording, gate: Gate = "round") -> TakeReadings:
    """Measure a recording. Never raises for its contents: what cannot be read is in `problems`."""
    problems: list[Problem] = []
    spans: dict[str, Span] = {}
    t, u = recording.t, recording.u

    def last_usable(step: str, measure: Callable[[slice], Result]) -> Result | None:
        attempts = recording.attempts(step)
        refusals: list[Problem] = []
        for number in range(len(attempts), 0, -1):
            part = attempts[number - 1]
            try:
                found = measure(part)
            except NotUsable as refusal:
                refusals.append(_refused(step, refusal, number, len(attempts)))
                continue
            problems.extend(refusals)
            spans[step] = Span(float(t[part.start]), float(t[part.stop - 1]), number, len(attempts))
            return found
        problems.extend(refusals[:1])
        return None

    still: StillResult | None = last_usable("still", lambda part: measure_still(t[part], u[part]))

    def let_go_from(part: slice) -> LetGoResult:
        rest = _rest(still) if still else centre(u[part])
        return measure_let_go(t[part], u[part], rest, still.readings.jitter if still else 0.0)

    let_go: LetGoResult | None = last_usable("let-go", let_go_from)
    rim: RimResult | None = last_usable("rim", lambda part: measure_rim(u[part], gate))
    crossing: dict[str, CrossingResult] = {}
    for i, axis in enumerate(AXES):
        found = last_usable(f"crossing-{axis}", partial(_cross, t, u, i))
        if found is not None:
            crossing[axis] = found
    hold: HoldResult | None = last_usable("hold", lambda part: measure_hold(t[part], u[part]))
    turn: TurnResult | None = last_usable("turn", lambda part: measure_turn(t[part], u[part]))
    measured = Measured(still, let_go, rim, crossing, hold, turn)
    problems.extend(measured.problems)
    if let_go is not None and still is None:
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
            Problem("take", "no-steps", "no sample says which step of the routine it belongs to.")
        )
    parts = spans_to_slices(recording, spans)
    whole_still = parts.get("still") == slice(0, len(t))
    pace = still.pace if still and not moving_parts(recording) else None
    hidden = find_hidden(recording, parts, gate, measured.dead_zones, pace)
    if any(h.code == "built-in-dead-zone" for h in hidden):
        problems = [p for p in problems if p.code != "constant"]
    told = {"zero"} if any(p.code == "constant" for p in problems) else set()
    problems.extend(Problem("take", h.code, h.message) for h in hidden if h.code not in told)
    return TakeReadings(
        version=VERSION,
        recording=Facts(
            axes=recording.axes,
            samples=len(t),
            duration_s=float(t[-1]),
            rate_hz=pace.rate_hz if pace and whole_still else _rate(recording),
            range={
                name: (r.lo, r.hi) for name, r in zip(recording.axes, recording.ranges, strict=True)
            },
        ),
        still=still.readings if still else None,
        let_go=let_go.readings if let_go else None,
        rim=rim.readings if rim else None,
        crossing=Crossings(*(c.readings if (c := crossing.get(a)) else None for a in AXES))
        if crossing
        else None,
        hold=hold.readings if hold else None,
        turn=turn.readings if turn else None,
        composite=_compose(still, let_go, rim, gate),
        problems=tuple(problems),
        hidden=hidden,
        spans=spans,
        uncertainty=take_uncertainty(recording, parts, measured, gate),
    )


def _rate(recording: Recording) -> float | None:
    """The usual rate, by the median of all intervals."""
    usual = median(np.diff(recording.t_us).astype(np.float32)) if len(recording.t_us) > 1 else 0.0
    return 1e6 / usual if usual > 0 else None


def _cross(t: Floats, u: Floats, axis: int, part: slice) -> CrossingResult:
    if axis >= u.shape[1]:
        raise NotUsable("one-axis", f"a single axis has no {AXES[axis]}.")
    other = u[part, 1 - axis] if u.shape[1] == 2 else None
    return measure_crossing(f"crossing-{AXES[axis]}", t[part], u[part, axis], other)


def spans_to_slices(recording: Recording, spans: dict[str, Span]) -> dict[str, slice]:
    """The samples behind each counted step."""
    return {step: recording.attempts(step)[span.attempt - 1] for step, span in spans.items()}


def _rest(still: StillResult) -> Floats:
    r = still.readings
    return np.array([r.rest_x] if r.rest_y is None else [r.rest_x, r.rest_y])


def _refused(step: str, refusal: NotUsable, number: int, attempts: int) -> Problem:
    which = f"attempt {number} of {attempts} is" if attempts > 1 else "the step is"
    return Problem(step, refusal.code, f"{which} not usable because {refusal.message}")


def _compose(
    still: StillResult | None, let_go: LetGoResult | None, rim: RimResult | None, gate: Gate
) -> Composite:
    needed = after = recalibrated = None
    if let_go and let_go.readings.return_max is not None:
        returned = let_go.readings
        if still:
            noise = still.readings.noise_reach
            needed = max(returned.return_max or 0.0, still.readings.rest_offset) + noise
            after = (returned.return_radius or 0.0) + noise
        if rim:
            x, y = returned.return_centre_x or 0.0, returned.return_centre_y or 0.0
            moved = recentred(rim.points, x, y, rim.readings)
            recalibrated = circularity(fill_around(radius_by_bearing(moved)), gate)
    return Composite(needed, after, recalibrated)
