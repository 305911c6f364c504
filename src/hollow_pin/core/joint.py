"""A loose joint: an axis that jumps to an end or to the middle, its range's or its own, wherever the
stick is, stays there for a moment, and is back. Dirt makes a reading jump where the dirt is, by as
much as it will."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import hypot, sqrt

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.leaps import Leaps, find_leaps, with_flanks
from hollow_pin.core.low_pass import Unfiltered, unfiltered
from hollow_pin.core.recording import Floats, Recording
from hollow_pin.core.statistics import usual_of

BEARS = 0.1
"""How much more often it opens under one hand than under another, as a share: standard deviation."""
MOST_LISTED = 200


@dataclass(frozen=True)
class Jump:
    """t_s: seconds from the start of the recording. to: where the axis stood meanwhile, %."""

    t_s: float
    lasted_s: float
    axis: str
    to: float


@dataclass(frozen=True)
class Joint:
    """Over the whole recording, whatever step it was in: jumps to an end or the middle and back, and
    drops, which fall back toward the middle for a moment while the stick is deflected. jump: the first
    of the jumps. on_the_way: what fell like a drop, on its way alone, and does not count."""

    jumps: int
    jumps_per_min: float
    drops: int
    drops_per_min: float
    jump: tuple[Jump, ...]
    on_the_way: int = 0


def find_jumps(
    recording: Recording,
) -> tuple[Joint, NDArray[np.bool_], NDArray[np.bool_]]:
    """Every jump to an end or the middle and back, and every drop; and which samples of which axis are
    in a jump, and which in a drop, (n, k) both."""
    t = recording.t
    inside, fallen = (np.zeros(recording.u.shape, dtype=bool) for _ in range(2))
    jumps: list[Jump] = []
    drops = on_the_way = 0
    for i, (came, runs_of_axis) in enumerate(_by_axis(recording)):
        on_the_way += len(runs_of_axis.on_the_way)
        for mask, spans in ((inside, runs_of_axis.jumps), (fallen, runs_of_axis.drops)):
            for first, last in with_flanks(t, came.signal, spans):
                mask[came.shows(first, last), i] = True
        for first, last in runs_of_axis.jumps:
            lasted, to = float(t[last] - t[first]), float(np.median(came.signal[first:last]))
            jumps.append(Jump(float(t[first]), lasted, recording.axes[i], to))
        drops += len(runs_of_axis.drops)
    minutes = minutes_of(recording)
    jumps.sort(key=lambda j: j.t_s)
    listed = tuple(jumps[:MOST_LISTED])
    joint = Joint(
        jumps=len(jumps),
        jumps_per_min=len(jumps) / minutes,
        drops=drops,
        drops_per_min=drops / minutes,
        jump=listed,
        on_the_way=on_the_way,
    )
    return joint, inside, fallen


def moved_by_hand(recording: Recording) -> Recording:
    """The recording without its jumps and its drops: what is left is what the hand did."""
    _, inside, fallen = find_jumps(recording)
    return without_jumps(recording, inside | fallen)


def _by_axis(
    recording: Recording,
) -> Iterator[tuple[Unfiltered, Leaps]]:
    """Each axis as it was before its device's filter, and what is found in it."""
    t, usual = recording.t, usual_of(recording.t)
    for v, resolution in zip(recording.u.T, recording.resolutions, strict=True):
        came = unfiltered(v, usual)
        yield came, find_leaps(t, came, resolution)


def minutes_of(recording: Recording) -> float:
    """How long a recording lasts, in minutes; never nothing."""
    return max(float(recording.t[-1]), 1e-3) / 60.0


def without_jumps(recording: Recording, inside: NDArray[np.bool_]) -> Recording:
    """The recording as it would be without them: each axis goes on straight between what it said
    before and after. What the joint does is told by `Joint`; the rest is told of the stick."""
    if not inside.any():
        return recording
    raw = recording.raw.copy()
    t = recording.t
    for i in range(raw.shape[1]):
        in_jump = inside[:, i]
        if in_jump.any() and not in_jump.all():
            raw[in_jump, i] = _nearest(
                np.interp(t[in_jump], t[~in_jump], raw[~in_jump, i]), np.unique(raw[~in_jump, i])
            )
    return replace(recording, raw=raw)


def _nearest(targets: Floats, values: Floats) -> Floats:
    """The values (m,), ascending, that lie nearest to those wanted: a converter gives no others."""
    above = np.clip(np.searchsorted(values, targets), 1, max(len(values) - 1, 1))
    if len(values) == 1:
        return np.full_like(targets, values[0])
    low, high = values[above - 1], values[above]
    return np.where(targets - low <= high - targets, low, high)


def u_joint(joint: Joint, minutes: float) -> dict[str, float]:
    """Standard uncertainties of how many a minute, by dotted name: of counts (Poisson), and so none
    where there are none; and by how a hand bears on the joint, which makes it open more often. What
    fell on its way alone may be drops the next time, when one of them comes while it stands."""
    counts = {"jumps": (joint.jumps, 0), "drops": (joint.drops, joint.on_the_way)}
    return {
        f"joint.{name}_per_min": hypot(sqrt(n), BEARS * n, doubted) / minutes
        for name, (n, doubted) in counts.items()
    }
