"""Spikes, and what looks like them: a bump of the bench that rings, and what strikes both axes at one
instant."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hollow_pin.core.recording import AXES, Problem

FEWEST_AT_ONCE, MOSTLY_AT_ONCE, AT_ONCE_S = 2, 0.8, 0.02
"""Spikes of each axis, and the share of those of the axis with more that come within so many seconds
of one of the other, from which on they are the supply's."""
SWINGS, SWING_S, DIES_AWAY_S = 3, 0.07, 0.3
"""Swings to and fro, each within so many seconds of the one before, 7 Hz and more; and how long after
the last that is seen they may go on."""


@dataclass(frozen=True)
class Spike:
    """One spike: seconds from the start of the recording, its axis, the residual at its highest."""

    t_s: float
    axis: str
    height: float


def rings(spikes: list[list[Spike]], swings: list[list[Spike]]) -> list[tuple[float, float]]:
    """From when to when it rang, seconds: a spike and swings to and fro, each lower than the one
    before, three of an axis, or two of both at once, or two where nothing else spiked. Of what one
    axis did then the other's are part.

    spikes, swings: of each axis; what is out of its trembling, and no spike by itself, is a swing too.
    """
    to_and_fro = [
        (run[0], run[-1], len(run), axis)
        for axis, each in enumerate(swings)
        for run in _to_and_fro(each)
    ]
    struck = [s.t_s for each in spikes for s in each]
    runs_of = [run for run in to_and_fro if any(run[0] - SWING_S <= at <= run[1] for at in struck)]
    sure = [
        (first, last)
        for first, last, count, axis in runs_of
        if count >= SWINGS
        or any(abs(first - other) <= SWING_S for other, _, _, o in runs_of if o != axis)
    ]
    likely = _joined([(first, last) for first, last, _, _ in runs_of])
    alone = all(any(a <= s.t_s <= b for a, b in likely) for each in spikes for s in each)
    return likely if alone else _joined(sure)


def _joined(rung: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """With what comes before and after it, and one where they meet."""
    joined: list[tuple[float, float]] = []
    for first, last in sorted((a - SWING_S, b + DIES_AWAY_S) for a, b in rung):
        if joined and first <= joined[-1][1]:
            joined[-1] = joined[-1][0], max(last, joined[-1][1])
        else:
            joined.append((first, last))
    return joined


def _to_and_fro(spikes: list[Spike]) -> list[list[float]]:
    """When an axis swung to and fro, each time less far: runs of two or more."""
    runs_of: list[list[Spike]] = []
    for spike in spikes:
        last = runs_of[-1][-1] if runs_of else None
        if last is not None and spike.t_s - last.t_s <= SWING_S:
            if spike.height * last.height > 0:
                # The same swing, that noise cut in two.
                continue
            if abs(spike.height) < abs(last.height):
                runs_of[-1].append(spike)
                continue
        runs_of.append([spike])
    return [[s.t_s for s in run] for run in runs_of if len(run) > 1]


def knocked(times: int) -> list[Problem]:
    if not times:
        return []
    often = "once" if times == 1 else f"{times} times"
    message = (
        f"it was knocked {often}, as by a bump of the bench, and rang: that is left out. Leave the "
        "bench alone for as long as it lasts."
    )
    return [Problem("still", "knocked", message, "mind")]


def at_once(spikes: Sequence[Spike]) -> bool:
    """Whether nearly all of them came on both axes at one instant: no two tracks do."""
    x, y = (np.array([s.t_s for s in spikes if s.axis == axis]) for axis in AXES)
    if min(len(x), len(y)) < FEWEST_AT_ONCE:
        return False
    with_one = int((np.abs(x[:, None] - y).min(axis=1) <= AT_ONCE_S).sum())
    return with_one >= MOSTLY_AT_ONCE * max(len(x), len(y))
