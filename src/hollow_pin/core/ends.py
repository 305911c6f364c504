"""How far a single axis comes at its ends: what the rim tells of a stick with two."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hollow_pin.core.hold import OUT
from hollow_pin.core.recording import Floats, Recording
from hollow_pin.core.statistics import odd_window, running_median, runs, timing

TO_THE_ENDS = ("let-go", "crossing-x", "hold", "turn")
THERE_S = 0.06
"""The window of the running median by which it is told how far it came: what lasts half as long is no
end, and a hand that turns back at once has been there all the same."""
SAME_END = 0.9
"""Of how far it comes at the most: a visit that goes less far had not its end for a goal."""


@dataclass(frozen=True)
class Ends:
    """Of a single axis, at the end where it stops shorter. short: by how much, % of half range.
    scatter: how far its visits there differ, standard deviation, %; 0 where there was one."""

    short: float
    scatter: float


def ends_of(
    recording: Recording, parts: Mapping[str, slice], alone: Sequence[slice] = ()
) -> Ends | None:
    """Of a single axis, by whichever step brought it farthest, by its running median over 0.06 s: a
    contact that jumps to an end has not gone there. None for two axes, and where no step brought it
    out to both sides. parts: the samples of each step that counted; alone: those of Turn in which it
    was left alone, which is somewhere near an end and not there.
    """
    pace = timing(recording.t)
    if len(recording.axes) != 1 or pace is None:
        return None
    calm = {}
    for step, part in ((step, parts[step]) for step in TO_THE_ENDS if step in parts):
        window = odd_window(THERE_S, pace.interval_s, part.stop - part.start)
        calm[step] = running_median(recording.u[part, 0], window, "edge")
    ends = []
    for sign in (-1, 1):
        visits = [_visits(sign * v, alone if step == "turn" else ()) for step, v in calm.items()]
        farthest = np.concatenate([[0.0], *visits])
        most = float(farthest.max())
        if most <= OUT:
            return None
        there = farthest[farthest >= SAME_END * most]
        ends.append(
            Ends(max(0.0, 100.0 - most), float(there.std(ddof=1)) if len(there) > 1 else 0.0)
        )
    return max(ends, key=lambda e: e.short)


def _visits(v: Floats, alone: Sequence[slice]) -> Floats:
    """How far out each way past 40 % goes, (m,) %; those on which it was left alone only where there
    are no others."""
    ways = [(int(a), int(b)) for a, b in zip(*runs(v > OUT), strict=True)]
    going = [(a, b) for a, b in ways if not any(r.start < b and a < r.stop for r in alone)]
    return np.array([v[a:b].max() for a, b in going or ways])
