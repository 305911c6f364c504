"""A hand that goes askew, told from cross-talk by the rim: cross-talk shears a rim, and a hand cannot.

Both crossings show the slopes k + a and l + b: of the stick's cross-talk, k and l, and of how far the
hand went askew, a and b. The rim shows k + l. What is left over, a + b, is the hand's; half of it is
taken off each line, which is what it most likely was (least squares). A hand that is as far off to
one side on one line as to the other on the next looks like a module that is turned, and is told by
neither.
"""

from __future__ import annotations

from dataclasses import replace
from math import radians, sqrt, tan

import numpy as np

from hollow_pin.core.crossing import (
    BIN,
    EDGES,
    CrossingResult,
    carried_along,
    cross_talk,
    cross_talk_even,
)
from hollow_pin.core.gate import Gate
from hollow_pin.core.recording import Floats
from hollow_pin.core.rim import RimResult, shear

BIN_MIDDLES = EDGES[:-1] + BIN / 2
ASKEW_DEG = 2.0
"""How far from straight along an axis a hand goes: standard deviation, degrees."""
FOLDED = 0.603
"""Standard deviation of the size of a normal deviation, of that of the deviation itself, √(1 − 2/π):
what a line that happens to be straight may be by the next hand."""


def slope(at: Floats, other: Floats) -> float:
    """Of the other axis along this one, as a ratio: at (n,), other (n,), %."""
    return float(np.polyfit(at, other, 1)[0]) if len(at) > 1 else 0.0


def hand_line(
    crossing: dict[str, CrossingResult], rim: RimResult | None, gate: Gate
) -> float | None:
    """What of the slopes of both crossings, taken together, the rim does not have. None where that
    cannot be told."""
    if rim is None or set(crossing) != {"x", "y"}:
        return None
    sheared = shear(rim, gate)
    if sheared is None:
        return None
    lines = [_line_of(crossed) for crossed in crossing.values()]
    if not all(len(at) for at, _ in lines):
        return None
    return sum(slope(at, along) for at, along in lines) - sheared


def straightened(crossing: CrossingResult, askew: float) -> CrossingResult:
    """A crossing less a line that is the hand's; askew: its slope."""
    other = crossing.other - askew * BIN_MIDDLES
    readings = replace(
        crossing.readings, cross_talk=cross_talk(other), cross_talk_even=cross_talk_even(other)
    )
    return replace(crossing, other=other, readings=readings)


def u_askew(crossing: CrossingResult, line: float | None) -> float:
    """How much of the other axis's movement a hand that goes a little askew may have made, %: what
    lies on a straight line, up to what a hand is wrong by, and never less than what another hand would
    make where this one went straight.

    line: what is known to be the hand's of both slopes and was taken off, half of it each. A hand that
    was seen to be far off may as well be so where it is not seen.
    """
    usual = tan(radians(ASKEW_DEG))
    if line is not None:
        usual = max(usual / sqrt(2), abs(line) / 2)
    at, along = _line_of(crossing)
    if not len(at):
        return 0.0
    return min(max(abs(slope(at, along)), FOLDED * usual), usual) * float(np.ptp(at))


def _line_of(crossing: CrossingResult) -> tuple[Floats, Floats]:
    """Where along the axis (m,) the other one was seen, and where it lay (m,), %: by all passes."""
    covered, along = carried_along(crossing.other)
    return BIN_MIDDLES[covered], along
