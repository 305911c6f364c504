"""A dead zone that the source puts around zero, told by the passes that go through it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import lengths
from hollow_pin.core.recording import Floats
from hollow_pin.core.statistics import GAP_TIMES, median, runs, usual_interval

DEAD_ZONE_LEAST = 1.0
JUMP_STEPS = 1.5
FEWEST_AT_ZERO = 2
"""Passes by which the time at zero tells a dead zone: swift ones too, where fewer are slow."""
NEAR_LEAST, NEAR_STEPS = 1.0, 4.0
"""% of half range, and steps of the converter: passes that go by the middle farther off than both may
go by a round dead zone as well, however wide it is, since what is left of a stick's way is stretched
from zero on."""
DWELL_LEAST = 1.0
DWELL_TIMES = 3.0
DWELL_INSIDE = 0.7
IN_THE_MIDDLE = 0.6
"""Of half the travel that a pass is at zero for: no farther from zero lies the middle of it, by where
the pass was before and after. A dead zone lies about zero; a joint that opens and drops an axis there
does so anywhere."""
AWAY_TIMES, AWAY_S = 2.0, 0.06
"""A hand that goes to and fro about the middle stays there several times: a stay ends where the pass
is so many times as far off as what counts as near, for so long. Noise alone goes in and out at the
edge of a dead zone."""
NEAR_ZERO, NEAR_SWALLOWED = 1.0, 1.5
"""How far from zero a pass may stand in a dead zone, %; and of what its source swallows: it says last
what it was within that of zero, and where the sample before was."""
SAME_DIGIT, SAME_PLACE = 0.75, 0.1
"""More of the passes that stand there than this do so at the same value, or within so much of it, %: a
stick that hangs in its middle until a finger has gone on stands now here and now there. A source that
swallows small changes does so too; one that smooths comes to zero from either side, and where no code
is zero itself, to either of the two beside it."""
CROSSES, ROUND = 30.0, 60.0
"""How far out, %, an axis that stands at zero is looked at while the other crosses, and on the rim."""
STANDS = 0.9
"""Share of the way at zero from which on it stands there: no hand goes so straight, but coarse digits
may look so."""
BESIDE, BESIDE_STEPS = 3.0, 2.5
"""What lies no farther from zero, % or steps of the converter, is beside it: on the rim an axis goes
through that wherever it goes through zero."""
FEWEST_ON_AXIS = 5
"""Samples of a rim at zero, and more than beside it, where an axis is pulled there."""
LAY_S, LIES_S = 0.3, 0.3
"""Where a stick lay for so long, and leaps to zero in one sample and is there to the last digit for so
long, its source says zero of it. No link is often silent for as long."""
LAY_MOST = 40.0
"""% from zero, that a stick may lie at: what is held out and let go while nothing is reported does not
lie there."""
LAY_WITHIN, LEAPS_STEPS = 2.0, 2.5
"""It lies where it goes about by no more than this, %, and leaps by more steps of the converter."""
FEWEST_LEAPS = 3
JUMP_ALIKE = (0.75, 1.25)
"""How wide the travel at zero may be against the jump at its edge, where the one is the other: hands
go a little faster through the middle."""


def built_in_dead_zone(
    t: Floats, v: Floats, passes: list[slice], resolution: float, swallowed: float = 0.0
) -> float:
    """Half the width of a dead zone that the source puts around zero, % of the stick's own travel; 0
    where there is none. t (n,) seconds, v (n,) %, passes: from end to end; swallowed: how small a
    change the source keeps to itself, %.

    Its edge jumps by as much, unless what comes out is rescaled, curved, or lifted over the dead zone
    of somebody else: then the time that is spent at zero tells, and the jump does not.
    """
    jump = _jump_at_zero([v[p] for p in passes], resolution)
    dwelt = _dwelt_at_zero(t, v, passes, resolution, swallowed)
    if jump and (not dwelt or JUMP_ALIKE[0] <= dwelt / jump <= JUMP_ALIKE[1]):
        return jump
    return dwelt or jump


def _jump_at_zero(passes: list[Floats], resolution: float) -> float:
    """Half the gap around the value nearest zero, where it is larger than three steps of the
    converter, than 1 %, and than one and a half times as far as a pass goes from sample to sample, and
    where that value is what the passes keep reporting; else 0."""
    values, times = np.unique(np.concatenate(passes), return_counts=True)
    nearest = int(np.abs(values).argmin())
    if nearest in (0, len(values) - 1) or times[nearest] < 2 * len(passes):
        return 0.0
    half = float(values[nearest + 1] - values[nearest - 1]) / 2
    step = np.concatenate([np.abs(np.diff(v)) for v in passes])
    usual = median(step[step > 0]) if step.any() else 0.0
    return half if half > max(3 * resolution, DEAD_ZONE_LEAST, JUMP_STEPS * usual) else 0.0


def _dwelt_at_zero(
    t: Floats, v: Floats, passes: list[slice], resolution: float, swallowed: float
) -> float:
    """Half the travel that passes are at zero for, %, each at one value to the last digit; 0 where
    that is no more than a stick takes on its way.

    The share of a pass's time, of its travel: noise moves samples out of the zone at its edges and as
    many into it, so that how many there are is not changed by it. The middle half of them is asked to
    be at zero nearly throughout, and the middle of them to lie where the axis would have gone through
    zero (`IN_THE_MIDDLE`), since a contact that drops to zero does so anywhere. Of the passes
    their upper quartile. Where nothing is swallowed most must stand at the same value (`SAME_DIGIT`).
    """
    near = max((2.01 if swallowed else 1.01) * resolution, NEAR_ZERO, NEAR_SWALLOWED * swallowed)
    dwells = [_dwelt(t[p], v[p], near) for p in passes]
    if len(dwells) < FEWEST_AT_ZERO:
        return 0.0
    least = max(DWELL_TIMES * resolution, DWELL_LEAST)
    stood = np.array([at for half, at_any, at in dwells if half - at_any > least])
    if not stood.size or (not swallowed and _most_at_one_place(stood) <= SAME_DIGIT * len(stood)):
        return 0.0
    half, at_any, _ = sorted(dwells)[_upper_quartile(len(dwells))]
    return half if half - at_any > least else 0.0


def _most_at_one_place(stood: Floats) -> int:
    """How many of the values (n,), %, lie at one place (`SAME_PLACE`), at most."""
    ordered = np.sort(stood)
    after = np.searchsorted(ordered, ordered + SAME_PLACE, side="right")
    return int((after - np.arange(len(ordered))).max())


def _longest_stay(
    t: Floats, away: NDArray[np.bool_], at_zero: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Of a pass, (n,): which samples at zero are of the one stay that has most of them."""
    first, stop = runs(away)
    goes = t[np.minimum(stop, len(t) - 1)] - t[first] >= AWAY_S
    stay = np.zeros(len(t), dtype=np.intp)
    stay[first[goes]] = 1
    stay = np.cumsum(stay)
    return np.asarray(at_zero & (stay == np.bincount(stay[at_zero]).argmax()))


def go_through_middle(u: Floats, passes: list[slice], resolutions: Sequence[float]) -> bool:
    """Whether passes go by the middle so near to it that a round dead zone would show: as many of
    them as `_dwelt_at_zero` asks.

    u (n, 2) %; passes: from end to end of either axis; resolutions: each axis's smallest step, %.
    """
    farthest_first = sorted((float(lengths(u[p]).min()) for p in passes), reverse=True)
    near = max(NEAR_LEAST, NEAR_STEPS * max(resolutions))
    return farthest_first[_upper_quartile(len(passes))] <= near


def _upper_quartile(passes: int) -> int:
    """Which of so many passes in order counts, of two the first: a hand may stop in a place once, and
    go past the middle of a round dead zone as often as through it."""
    return 3 * (passes - 1) // 4


def _dwelt(t: Floats, v: Floats, within: float) -> tuple[float, float, float]:
    """Of one pass, %: half the travel at zero, what it is at any one value for, and the value
    within so much of zero that it stood at."""
    near = np.abs(v) <= within
    if not near.any():
        return 0.0, 0.0, 0.0
    values, times = np.unique(v[near], return_counts=True)
    at = float(values[times.argmax()])
    at_zero = _longest_stay(t, np.abs(v - at) > AWAY_TIMES * within, v == at)
    where = np.flatnonzero(at_zero)
    middle = slice(where[len(where) // 4], where[3 * len(where) // 4] + 1)
    if at_zero.all() or at_zero[middle].mean() < DWELL_INSIDE:
        return 0.0, 0.0, 0.0
    dt = np.diff(t)
    # What a link lost beside a value was spent elsewhere as well.
    dt_capped = np.minimum(dt, GAP_TIMES * usual_interval(dt))
    each = np.gradient(np.append(0.0, np.cumsum(dt_capped)))
    travel = (abs(float(v[0])) + abs(float(v[-1]))) / 2
    of_all = travel / max(float(each.sum()), 1e-6)
    alike = np.diff(np.flatnonzero(np.append(True, v[1:] != v[:-1])), append=len(v))
    usual = of_all * median(each)
    half = of_all * float(each[at_zero].sum())
    passed = np.interp(t[at_zero], t[~at_zero], v[~at_zero])
    if abs(median(passed)) > IN_THE_MIDDLE * half + usual:
        return 0.0, 0.0, 0.0
    return half, usual * median(alike), at


def pulled_onto_axis(crossing: Floats, rim: Floats, resolution: float) -> bool:
    """Whether a source says zero of an axis while the other one goes by itself, however crookedly it
    is led: what is carried along does not show then.

    crossing, rim: (n, 2) %, the axis that goes first, the other last; resolution: the other's smallest
    step, %. It stands at one value within a step of zero nearly throughout, and on the rim is more at
    that value than beside it.
    """
    other = crossing[np.abs(crossing[:, 0]) > CROSSES, 1]
    if not other.size or np.abs(rim[:, 1]).max(initial=0.0) < ROUND:
        return False
    values, times = np.unique(other, return_counts=True)
    at = float(values[times.argmax()])
    if abs(at) > resolution or times.max() < STANDS * len(other):
        return False
    off = rim[:, 1] - at
    side = np.where(np.abs(off) <= max(BESIDE, BESIDE_STEPS * resolution), 0, np.sign(off))
    through = _from_side_to_side(np.where((side == 0) & (np.abs(rim[:, 0]) <= ROUND), np.nan, side))
    there = int((off[through] == 0).sum())
    return there >= max(FEWEST_ON_AXIS, int(through.sum()) - there)


def _from_side_to_side(side: Floats) -> NDArray[np.bool_]:
    """Which samples (n,) lie where it goes from one side to the other: side is -1, 1, 0 in between,
    and NaN where it does neither. Who starts or stops there stands there by himself."""
    known = np.flatnonzero(side != 0)
    if not known.size:
        return np.zeros(len(side), dtype=np.bool_)
    after = np.searchsorted(known, np.arange(len(side)))
    ends = np.concatenate(([np.nan], side[known], [np.nan]))
    return np.asarray((side == 0) & (ends[after] * ends[after + 1] == -1))


def lies_at_zero(t: Floats, u: Floats, resolutions: Sequence[float]) -> NDArray[np.intp]:
    """The samples at which a stick comes to zero, and is there for so long (`LIES_S`), to the last
    digit: t (n,) seconds; u (n, k) %; resolutions: each axis's smallest step, %."""
    at_zero = (np.abs(u) <= np.asarray(resolutions)).all(axis=1)
    same = np.append(False, (u[1:] == u[:-1]).all(axis=1))
    first, stop = runs(at_zero & same)
    lasting = t[stop - 1] - t[first - 1] >= LIES_S
    return np.asarray(first[lasting] - 1)


def leaps_to_zero(t: Floats, u: Floats, resolutions: Sequence[float]) -> float | None:
    """How far from zero a stick lay that its source then says zero of, the farthest, %: a while after
    it was let go, wherever it rests. None where that is not so three times.

    t (n,) seconds; u (n, k) %; resolutions: each axis's smallest step, %.
    """
    far = []
    for came in lies_at_zero(t, u, resolutions):
        lay = u[np.searchsorted(t, t[came] - LAY_S) : came]
        if len(lay) < 2 or np.ptp(lay, axis=0).max() > LAY_WITHIN:
            continue
        place = np.median(lay, axis=0)
        out = float(np.hypot.reduce(place))
        leap = np.minimum(np.abs(place - u[came]), np.abs(lay[-1] - u[came]))
        if out <= LAY_MOST and (leap > LEAPS_STEPS * np.asarray(resolutions)).any():
            far.append(out)
    return max(far) if len(far) >= FEWEST_LEAPS else None
