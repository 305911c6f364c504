"""Which steps a stick is to go through, and which of them a take can be read by."""

from __future__ import annotations

from hollow_pin.core.geometry import sector
from hollow_pin.core.hold import WANTED, by_direction
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.routine import STEP_LABEL, StepName


def needed_steps(take: TakeReadings) -> dict[StepName, object | None]:
    """The steps that a stick must go through to be called sound, and what was read of each. None of a
    paddle."""
    if take.turn is not None:
        return {}
    steps: dict[StepName, object | None] = {"still": take.still, "let-go": take.let_go}
    return steps | {"rim": take.rim} if len(take.recording.axes) == 2 else steps


def unmeasured(take: TakeReadings) -> tuple[StepName, ...]:
    """Of these, the ones that this one did not go through, or not so that it could be read."""
    return tuple(step for step, read in needed_steps(take).items() if read is None)


def other_steps(take: TakeReadings) -> dict[StepName, object | None]:
    """The other steps of a stick of its kind, and what was read of each: its tracks, and what it does
    while it is held on every side, and let go on every side. None of a paddle."""
    if take.turn is not None:
        return {}
    x, y = (take.crossing.x, take.crossing.y) if take.crossing else (None, None)
    tracks: dict[StepName, object | None] = {"crossing-x": x}
    if len(take.recording.axes) == 2:
        tracks["crossing-y"] = y
    sides = WANTED if len(take.recording.axes) == 2 else WANTED // 2
    all_round = len(by_direction(take.hold or ())) >= sides
    on_every_side: dict[StepName, object | None] = {"hold": take.hold if all_round else None}
    if take.let_go is not None and not _is_let_go_all_round(take):
        on_every_side["let-go"] = None
    return {**tracks, **on_every_side}


def _is_let_go_all_round(take: TakeReadings) -> bool:
    """Whether it was let go from each side, or from either neighbour of that. A bind holds on one."""
    releases = take.let_go.release if take.let_go else ()
    seen = {sector(r.bearing) for r in releases}
    if len(take.recording.axes) == 1:
        return seen >= {2, 6}
    return all({(side - 1) % 8, side, side + 1} & seen for side in (0, 2, 4, 6))


def left_out(take: TakeReadings) -> list[str]:
    """The other steps that were not read, or not on every side, as they are called."""
    read = {"hold": take.hold, "let-go": take.let_go}
    return [
        STEP_LABEL[step] + " on every side" * bool(read.get(step))
        for step, result in other_steps(take).items()
        if result is None
    ]
