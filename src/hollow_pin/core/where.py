"""Where in a recording a reading came from: the stretch to look at."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.hold import sags_most
from hollow_pin.core.readings import TakeReadings

AROUND_SPIKE_S = 0.1
AROUND_JUMP_S = 0.2
STEP_OF = {"let_go": "let-go"}


@dataclass(frozen=True)
class Where:
    """A stretch of a recording, in seconds from its start, and what it is."""

    from_s: float
    to_s: float
    label: str


def where_of(take: TakeReadings) -> dict[str, Where]:
    """The stretch that each measured reading came from, by its dotted name."""
    stretches = {}
    for spec in READINGS:
        if take.value(spec.path) is not None and (at := _where(spec.path, take)) is not None:
            stretches[spec.path] = at
    return stretches


def _where(path: str, take: TakeReadings) -> Where | None:
    if path.startswith("joint."):
        return _first_jump(take) if path == "joint.jumps_per_min" else None
    if path.startswith("hold."):
        return _worst_hold(take, drops=path == "hold.dropouts_per_min")
    if "spike" in path and (spike := _highest_spike(take)) is not None:
        return spike
    if path == "let_go.return_max" or (
        path == "composite.dead_zone_needed" and _returns_decide(take)
    ):
        return _farthest_release(take)
    step, *rest = path.split(".")
    if step == "composite":
        step = "still" if "dead_zone" in path else "rim"
    elif step == "crossing":
        step = f"crossing-{rest[0]}"
    name = STEP_OF.get(step, step)
    span = take.spans.get(name)
    return Where(span.from_s, span.to_s, name) if span else None


def _returns_decide(take: TakeReadings) -> bool:
    """Whether the dead zone needed is a return's rather than the rest's."""
    if take.let_go is None or take.let_go.return_max is None:
        return False
    return take.still is None or take.let_go.return_max >= take.still.rest_offset


def _farthest_release(take: TakeReadings) -> Where | None:
    releases = take.let_go.release if take.let_go else ()
    if not releases:
        return None
    far = max(releases, key=lambda r: hypot(r.final_x, r.final_y or 0.0))
    return Where(far.t_s, far.end_s, "the release that was left farthest out")


def _highest_spike(take: TakeReadings) -> Where | None:
    spikes = take.still.spike if take.still else ()
    if not spikes:
        return None
    at = max(spikes, key=lambda s: abs(s.height)).t_s
    return Where(at - AROUND_SPIKE_S, at + AROUND_SPIKE_S, "the highest spike")


def _first_jump(take: TakeReadings) -> Where | None:
    if not take.joint.jump:
        return None
    first = take.joint.jump[0]
    to = first.t_s + first.lasted_s + AROUND_JUMP_S
    return Where(first.t_s - AROUND_JUMP_S, to, "the first jump")


def _worst_hold(take: TakeReadings, drops: bool) -> Where | None:
    if not take.hold:
        return None
    worst = max(take.hold, key=lambda h: h.dropouts) if drops else sags_most(take.hold)
    label = "the hold that drops most" if drops else "the hold that falls back most"
    return Where(worst.t_s, worst.end_s, label)
