"""Every step of a take, each by the last of its attempts that is usable."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.crossing import CrossingResult, measure_crossing
from hollow_pin.core.elsewhere import farthest_elsewhere, refuse_inside_edge
from hollow_pin.core.gate import Gate
from hollow_pin.core.hand_line import hand_line, straightened
from hollow_pin.core.hold import HoldResult, measure_hold
from hollow_pin.core.learning import PROBLEM as LEARNS
from hollow_pin.core.learning import learned_after
from hollow_pin.core.let_go import LetGoResult, measure_let_go
from hollow_pin.core.readings import Span
from hollow_pin.core.recording import AXES, Floats, NotUsable, Problem, Recording
from hollow_pin.core.rim import RimResult, measure_rim
from hollow_pin.core.statistics import centre
from hollow_pin.core.step_results import StepResults
from hollow_pin.core.still import StillResult, measure_still
from hollow_pin.core.travel import Travel
from hollow_pin.core.turn import TurnResult, measure_turn

Result = TypeVar("Result")
ASLEEP_S = 1.0
"""What ends a Still too soon and lasts so long is no hand's doing: nothing came."""


class Attempts:
    """Measures steps by the last of their attempts that is usable. problems: of attempts that were
    not; spans: where the ones that counted lie."""

    def __init__(self, recording: Recording) -> None:
        self.recording = recording
        self.problems: list[Problem] = []
        self.spans: dict[str, Span] = {}

    def last_usable(self, step: str, measure: Callable[[slice], Result]) -> Result | None:
        attempts = self.recording.attempts(step)
        t = self.recording.t
        refusals: list[Problem] = []
        for number in range(len(attempts), 0, -1):
            part = attempts[number - 1]
            try:
                result = measure(part)
            except NotUsable as refusal:
                refusals.append(_refused(step, refusal, number, len(attempts)))
                continue
            self.problems.extend(refusals)
            at = float(t[part.start]), float(t[part.stop - 1])
            self.spans[step] = Span(*at, number, len(attempts))
            return result
        self.problems.extend(refusals[:1])
        return None

    @property
    def parts(self) -> dict[str, slice]:
        """The samples behind each counted step."""
        return {
            step: self.recording.attempts(step)[span.attempt - 1]
            for step, span in self.spans.items()
        }


def measure_steps(
    attempts: Attempts, gate: Gate, at_end: NDArray[np.bool_], travel: Travel | None
) -> StepResults:
    """Every step that the recording has. at_end (n, k): where an axis lies at an end of its range."""
    reach = travel.reached if travel else None
    t, u = attempts.recording.t, attempts.recording.u
    still: StillResult | None = attempts.last_usable("still", partial(_still, t, u))

    def let_go_from(part: slice) -> LetGoResult:
        rest = _rest(still) if still else centre(u[part])
        jitter, wander, sway = (0.0, 0.0, 0.0)
        if still:
            jitter, wander, sway = still.jitter_between_spikes, still.readings.wander, still.sway
        let_go = measure_let_go(t[part], u[part], rest, jitter, wander, sway)
        learned = learned_after(let_go.readings.release)
        if learned is None:
            return let_go
        later = t[part] > let_go.readings.release[learned - 1].end_s
        one_range = measure_let_go(t[part][later], u[part][later], rest, jitter, wander, sway)
        return replace(one_range, problems=(*one_range.problems, LEARNS))

    let_go: LetGoResult | None = attempts.last_usable("let-go", let_go_from)

    def rim_from(part: slice) -> RimResult:
        rim = measure_rim(u[part], gate, at_end[part], reach, t[part])
        refuse_inside_edge(u[part], farthest_elsewhere(attempts.recording))
        return rim

    rim: RimResult | None = attempts.last_usable("rim", rim_from)
    crossing: dict[str, CrossingResult] = {}
    for i, axis in enumerate(AXES):
        crossed = attempts.last_usable(f"crossing-{axis}", partial(_cross, attempts.recording, i))
        if crossed is not None:
            crossing[axis] = crossed
    line = hand_line(crossing, rim, gate)
    if line is not None:
        crossing = {axis: straightened(c, line / 2) for axis, c in crossing.items()}
    hold: HoldResult | None = attempts.last_usable(
        "hold", lambda part: measure_hold(t[part], u[part])
    )
    turn: TurnResult | None = attempts.last_usable(
        "turn", lambda part: measure_turn(t[part], u[part], attempts.recording.swallowed[0])
    )
    return StepResults(still, let_go, rim, crossing, hold, turn, line)


def _still(t: Floats, u: Floats, part: slice) -> StillResult:
    try:
        return measure_still(t[part], u[part])
    except NotUsable as refusal:
        silent_s = float(t[part.stop] - t[part.stop - 1]) if part.stop < len(t) else 0.0
        if refusal.code != "short" or silent_s < ASLEEP_S:
            raise
        lasted = float(t[part.stop - 1] - t[part.start])
        warning = (
            f"its source said nothing any more after {lasted:.1f} s, for {silent_s:.0f} s: a device "
            "that goes to sleep when it is left alone, or a link that failed. Keep it awake, if it "
            "has a setting for that, or measure by another source."
        )
        raise NotUsable("asleep", warning) from None


def _cross(recording: Recording, axis: int, part: slice) -> CrossingResult:
    t, u = recording.t, recording.u
    if axis >= u.shape[1]:
        raise NotUsable("one-axis", f"a single axis has no {AXES[axis]}.")
    other = u[part, 1 - axis] if u.shape[1] == 2 else None
    swallowed = recording.swallowed[axis]
    return measure_crossing(f"crossing-{AXES[axis]}", t[part], u[part, axis], other, swallowed)


def _rest(still: StillResult) -> Floats:
    r = still.readings
    return np.array([r.rest_x] if r.rest_y is None else [r.rest_x, r.rest_y])


def _refused(step: str, refusal: NotUsable, number: int, attempts: int) -> Problem:
    which = f"attempt {number} of {attempts} is" if attempts > 1 else "the step is"
    return Problem(step, refusal.code, f"{which} not usable because {refusal.message}")
