"""What of a take tells one cause from another: a number each, of an axis where it has one.

Each takes a take's sides and an axis, and gives None where it was not measured, or is hidden.
"""

from __future__ import annotations

from math import hypot, sqrt

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.crossing import BIN, EDGES
from hollow_pin.core.hold import sags_most
from hollow_pin.core.limits import LIMIT_OF, LIMITS, verdict_on
from hollow_pin.core.recording import Floats
from hollow_pin.core.sides import OVERRUN, Axis, Sides, index_of
from hollow_pin.core.statistics import median
from hollow_pin.core.still import FELT_SPIKE

CENTRE = 14.0
"""How far from the middle a wiper lives, %."""
SHIFTED = 2.5
"""As far along its ways as aside of them, that it may lie where one axis is shifted by the side that
it comes from: pushed round the clock, and shifted as far as it was pushed along that axis, 1.6."""
ALL_BUT_ONE = (5.0, 95.0)
"""Of the returns, in per cent: of sixteen one that lands elsewhere counts by a quarter."""
TREMBLES = 0.6
"""%, of jitter: what both axes share of less is a converter's last digit."""


def off_centre(s: Sides, axis: Axis) -> float | None:
    centre = s.centre
    return None if centre is None else abs(float(centre[index_of(axis)]))


def returns_apart(s: Sides, axis: Axis) -> float | None:
    if len(s.finals) < 4 or s.hidden_rest:
        return None
    return s.apart(float(np.ptp(s.finals[:, index_of(axis)])), axis)


def by_side(s: Sides, axis: Axis) -> float | None:
    """How far apart returns from one side lie from those of the other."""
    if s.hidden_rest:
        return None
    i = index_of(axis)
    plus, minus = (s.finals[sign * s.toward[:, i] > 0.5, i] for sign in (1, -1))
    if len(plus) < 2 or len(minus) < 2:
        return None
    return s.apart(abs(float(np.median(plus) - np.median(minus))), axis)


def lands_anywhere(s: Sides, axis: Axis) -> float | None:
    """How far returns from the same side scatter."""
    if s.hidden_rest:
        return None
    i = index_of(axis)
    scatter = [
        s.apart(float(np.ptp(group)), axis)
        for sign in (1, -1)
        if len(group := s.finals[sign * s.toward[:, i] > 0.5, i]) >= 3
    ]
    return float(np.mean(scatter)) if scatter else None


def stops_short(s: Sides, _: Axis) -> float | None:
    """How much farther out it stays when let go on one side than on the side across."""
    centre = s.centre
    if centre is None or len(s.releases) < 8:
        return None
    outward = ((s.finals - centre) * s.toward).sum(axis=1)
    across = s.toward @ s.toward.T
    best = 0.0
    for row in across:
        near, far = outward[row > 0.7], outward[row < -0.7]
        if len(near) and len(far):
            best = max(best, median(near) - max(median(far), 0.0))
    return best


def _outward(s: Sides, axis: Axis, centre: Floats) -> tuple[float, float] | None:
    """How far toward where it was pushed it comes to lie, from either side of an axis; None where too
    few releases came from one."""
    i = index_of(axis)
    outward = (s.finals[:, i] - centre[i]) * np.sign(s.toward[:, i])
    sides = [outward[sign * s.toward[:, i] > 0.5] for sign in (1, -1)]
    if min(len(side) for side in sides) < 2:
        return None
    return median(sides[0]), median(sides[1])


def beyond(s: Sides, axis: Axis) -> float | None:
    """How far past its centre it comes to lie, whichever side it comes from: what holds a stick stops
    it short, unless it swings over."""
    centre = s.centre
    if centre is None:
        return None
    sides = _outward(s, axis, centre)
    return None if sides is None else s.apart(max(0.0, -sum(sides)), axis) / 2


def short_both(s: Sides, axis: Axis) -> float | None:
    """How far short of its centre it comes to lie, whichever side it comes from: a dry bearing."""
    centre = s.centre
    if centre is None:
        return None
    sides = _outward(s, axis, centre)
    return None if sides is None else s.apart(max(0.0, 2 * min(sides)), axis) / 2


def one_sided(s: Sides, axis: Axis) -> float | None:
    """How far returns reach to one side of zero, beyond twice as far as to the other: what holds a
    stick does so on one side, and lets it get back where it was calibrated to from all others. A worn
    track shifts to both."""
    if len(s.finals) < 4 or s.hidden_rest:
        return None
    low, high = np.percentile(s.finals[:, index_of(axis)], ALL_BUT_ONE)
    near, far = sorted((abs(low), abs(high)))
    return s.apart(float(min(high - low, max(0.0, far - 2 * near))), axis)


def along(s: Sides, _: Axis) -> float | None:
    """How far returns lie apart along the way they came back on, beyond what goes with what lies aside
    of it."""
    ways = s.apart_by_way
    if ways is None:
        return None
    return float(np.sqrt(max(0.0, ways.along**2 - (SHIFTED * ways.aside) ** 2)))


def settles(s: Sides, _: Axis) -> float | None:
    return s.value("let_go.settle_ms_p90")


def jitter(s: Sides, axis: Axis) -> float | None:
    """Wherever it comes to rest: in Still, and by as much more as it trembles elsewhere."""
    path = f"still.jitter_{axis}"
    at_rest = s.value(path)
    if at_rest is not None:
        return s.apart(2 * hypot(at_rest, s.take.by_place.get(path, 0.0)), axis) / 2
    return None if axis == "y" else s.value("turn.jitter")


def calm_jitter(s: Sides, axis: Axis) -> float | None:
    """The lesser of both axes' jitter, but for spikes that do not come on both at once: what is common
    is in it, a track's own is not."""
    each: tuple[Axis, Axis] = ("x", "y")
    own = {a: 0.0 if s.struck else s.value(f"still.spike_jitter_{a}") or 0.0 for a in each}
    both = [
        s.apart(2 * sqrt(max(0.0, v**2 - own[a] ** 2)), a) / 2
        for a in each
        if (v := s.value(f"still.jitter_{a}")) is not None
    ]
    return min(both) if len(both) == 2 else None


def wander(s: Sides, _: Axis) -> float | None:
    if s.as_one:
        return None
    at_rest = s.value("still.wander")
    return at_rest if at_rest is not None else s.value("turn.wander")


def in_common(s: Sides, axis: Axis) -> float | None:
    """How much of the trembling both axes share, per cent; None where one of them hardly trembles:
    every converter has one reference, and that its last digit shows on both is no fault."""
    still = s.take.still
    if s.struck:
        return 100.0
    if still is not None and s.as_one and still.sway_in_common is not None:
        return 100.0 * abs(still.sway_in_common)
    if still is None or s.hidden_rest or s.of_a_touch or still.noise_in_common is None:
        return None
    calm = calm_jitter(s, axis)
    return None if calm is None or calm < TREMBLES else 100.0 * abs(still.noise_in_common)


def spikes(s: Sides, axis: Axis) -> float | None:
    """Of those that are felt."""
    still = s.take.still
    if s.take.turn is not None and still is None and axis == "x":
        return s.value("turn.spikes_per_min") if s.take.turn.spike_height >= FELT_SPIKE else 0.0
    if still is None or s.hidden_rest or f"still.spikes_per_min_{axis}" in s.of_a_touch:
        return None
    if s.struck:
        return 0.0
    strong = sum(1 for k in still.spike if k.axis == axis and abs(k.height) >= FELT_SPIKE)
    listed = len(still.spike)
    whole = s.value(f"still.spikes_per_min_{axis}") or 0.0
    of_axis = sum(1 for k in still.spike if k.axis == axis)
    return whole * strong / of_axis if listed and of_axis else 0.0


def _noise(s: Sides, axis: Axis) -> tuple[Floats, Floats] | None:
    crossing = s.crossing(axis)
    if crossing is None:
        return None
    noise = np.array([np.nan if n is None else n for n in crossing.track_noise])
    middle = (EDGES[:-1] + EDGES[1:]) / 2
    return noise, middle


def noisy_centre(s: Sides, axis: Axis) -> float | None:
    """Noise where the wiper lives against that along the way, as a ratio."""
    read = _noise(s, axis)
    if read is None:
        return None
    noise, middle = read
    near = noise[np.abs(middle) < CENTRE]
    far = noise[np.abs(middle) > 2 * CENTRE]
    if not np.isfinite(near).any() or not np.isfinite(far).any():
        return None
    return float(np.nanmedian(near) / max(float(np.nanmedian(far)), 0.05))


def roughest(s: Sides, axis: Axis) -> float | None:
    noise = s.value(f"crossing.{axis}.track_noise_max")
    return noise if noise is not None or axis == "y" else s.value("turn.track_noise_max")


FEWEST_JUMPED = 2
"""Passes that jump over a place: one may be a spike."""


def rough_in_places(s: Sides, axis: Axis) -> float | None:
    """The roughest stretch away from the centre, and from what passes jump over, against the usual
    one."""
    read = _noise(s, axis)
    if read is None:
        return None
    noise, middle = read
    out = noise[(np.abs(middle) > CENTRE) & ~_jumped(s, axis)]
    if not np.isfinite(out).any():
        return None
    worst = float(np.nanmax(out))
    if worst < 2.0:
        return worst
    return worst * min(1.0, worst / (3.0 * max(float(np.nanmedian(noise)), 0.05)))


def dead_spans(s: Sides, axis: Axis) -> float | None:
    spans = s.value(f"crossing.{axis}.dead_spans")
    return spans if spans is not None or axis == "y" else s.value("turn.dead_spans")


def _jumped(s: Sides, axis: Axis) -> NDArray[np.bool_]:
    """Which bins of a crossing lie in what passes jump over, or beside it, (50,)."""
    crossing = s.crossing(axis)
    jumped = np.zeros(len(EDGES) - 1, dtype=np.bool_)
    for span in crossing.dead_spans if crossing else ():
        if span.passes >= FEWEST_JUMPED:
            jumped |= (EDGES[1:] > span.from_ - BIN) & (EDGES[:-1] < span.to + BIN)
    return jumped


def dead_width(s: Sides, axis: Axis) -> float | None:
    crossing = s.crossing(axis)
    if crossing is None:
        return None
    return sum(d.to - d.from_ for d in crossing.dead_spans if d.passes >= 3)


def sag(s: Sides, axis: Axis) -> float | None:
    """The worst of the holds along the axis."""
    if not s.take.hold or s.as_one:
        return None
    i = index_of(axis)
    along = [
        h for h in s.take.hold if abs((np.sin if i == 0 else np.cos)(np.radians(h.bearing))) > 0.7
    ]
    return sags_most(along).sag if along else None


def held_drops(s: Sides, axis: Axis) -> float | None:
    if not s.take.hold:
        return None
    i = index_of(axis)
    return float(
        sum(
            h.dropouts
            for h in s.take.hold
            if abs((np.sin if i == 0 else np.cos)(np.radians(h.bearing))) > 0.7
        )
    )


def drops(s: Sides, _: Axis) -> float | None:
    return float(s.take.joint.drops)


def jumps(s: Sides, axis: Axis) -> float | None:
    """To an end or the middle, in the whole take."""
    joint = s.take.joint
    listed = len(joint.jump)
    own = sum(1 for j in joint.jump if j.axis == axis)
    return joint.jumps * own / listed if listed else 0.0


def mostly_jumps(s: Sides, axis: Axis) -> float | None:
    """The jumps to an end or the middle among everything that jumps on the axis, in per cent."""
    still = s.take.still
    own = jumps(s, axis)
    if not own or still is None or not s.take.recording.duration_s:
        return None if own is None else 0.0
    elsewhere = (spikes(s, axis) or 0.0) * s.take.recording.duration_s / 60.0
    return 100.0 * own / (own + elsewhere)


def over(s: Sides, _: Axis) -> float | None:
    """How many readings are surely over their limit."""
    stated = s.take.recording.overrun
    at = {limit.path: limit.everyday for limit in LIMITS}
    if stated is not None:
        at[OVERRUN.path] = stated
    paths = (path for path in at if path not in s.of_a_touch)
    return float(sum(verdict_on(s.take, path, at[path]) == "over" for path in paths))


def carried(s: Sides, axis: Axis) -> float | None:
    """How far the axis moves along evenly while the other one crosses; None where that is known no
    better than to its limit, as of an axis that jumps meanwhile."""
    path = f"crossing.{'y' if axis == 'x' else 'x'}.cross_talk"
    unknown = s.take.uncertainty.get(path, 0.0) >= LIMIT_OF[path].everyday
    all_of_it, evenly = s.value(path), s.value(f"{path}_even")
    return None if unknown or all_of_it is None or evenly is None else min(all_of_it, evenly)


def carried_more(s: Sides, axis: Axis) -> float | None:
    """Against how far the other is carried along by this one: a hand strays both ways."""
    own, other = carried(s, axis), carried(s, "y" if axis == "x" else "x")
    return None if own is None or other is None else max(own - other, 0.0)


def zone(s: Sides, _: Axis) -> float | None:
    return s.zone if s.zone or s.take.crossing or s.take.turn else None


def worst(s: Sides, _: Axis) -> float | None:
    """The largest share of its limit that any reading is surely at, in per cent."""
    shares = []
    for limit in LIMITS:
        value, u = s.value(limit.path), s.take.uncertainty.get(limit.path, 0.0)
        if value is None:
            continue
        at = limit.everyday or 1.0
        surely = max(0.0, value - (1.0 if limit.everyday else 0.5) * u)
        shares.append(surely / at)
    return 100.0 * max(shares) if shares else None
