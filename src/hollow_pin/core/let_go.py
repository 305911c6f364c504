"""Let-go: push and release. Where the stick comes back to, how soon, and whether it agrees."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import diameter, lengths, sector, smallest_circle
from hollow_pin.core.recording import Floats, NotUsable, Problem
from hollow_pin.core.release import (
    LET_GO,
    PUSHED,
    SETTLED,
    SPIKE_S,
    MeasuredRelease,
    Release,
    measure_release,
    single,
)
from hollow_pin.core.statistics import (
    median,
    odd_window,
    running_median,
    runs,
    timing,
)

BEFORE_NEXT_S = 0.25
BEGINS_S, BESIDE_S = 0.25, 0.1
"""A push begins where a stick goes out by more than it may lie about in so long: it may be gripped
first. What lies so near to that is not of the release."""
SWINGS = 20.0
"""% past the middle, from which on it is worth a word."""
OBLIQUE, OBLIQUE_FROM = 4, 0.38
"""Releases from between the axes: both shares of such a direction are at least so large."""
STUCK_FINAL = 20.0
"""% from zero, and from where it rests with hands off: where that is so far off it is back all the
same, unless that is no rest but a push."""
LIGHTLY, BACK, BACK_S, OUT_S = 10.0, 7.0, 0.1, 0.2
"""A stick that is farther out than so many %, until it is back within fewer, was pushed, if too
lightly for a push that counts: where it was back for so long before, and is out for so long."""
STUCK_PUSH_S = 2.0
SEVERAL = 4
"""Pushes, of which most last so long by a hand's habit."""


@dataclass(frozen=True)
class LetGo:
    """Readings of the Let-go step, % of half range unless the name says otherwise.

    The return readings are None where no release could be counted: a stick that never came back;
    settle_ms_p90 also where it trembles too much to tell, or a thumb led it back each time.
    settled_within: from where it comes to lie it counts as settled; wider where it trembles.
    """

    release: tuple[Release, ...]
    releases: int
    sectors: int
    return_max: float | None
    return_mean: float | None
    return_worst_bearing: float | None
    return_spread: float | None
    return_centre_x: float | None
    return_centre_y: float | None
    return_radius: float | None
    settle_ms_p90: float | None
    settled_within: float | None
    overshoot_max: float | None
    stuck: int


def finals_of(release: Sequence[Release]) -> Floats:
    """Where each release came to rest: (releases, 2) %, y 0 on one axis."""
    return np.array([(r.final_x, r.final_y or 0.0) for r in release]).reshape(-1, 2)


class Ways(NamedTuple):
    """How far releases come to rest along the way they were let go on, and aside of it: root mean
    squares about one centre, %. to_one_side: how far from that centre they lie in the mean, %."""

    along: float
    aside: float
    to_one_side: float


def apart_by_way(release: Sequence[Release]) -> Ways | None:
    """How releases lie to the ways they came on, about the centre that leaves least aside.

    What holds a stick, a rub, a bind or a dry bearing, stops it somewhere along its way; a worn track
    shifts its own axis, whichever way the stick came. Two tracks that are worn alike may do as a dry
    bearing does, all round; a rub lies to one side. None where fewer than OBLIQUE releases came from
    between the axes: along an axis the two are one.
    """
    finals = finals_of(release)
    toward = np.radians([r.bearing for r in release])
    along = np.column_stack((np.sin(toward), np.cos(toward))).reshape(-1, 2)
    if (np.abs(along).min(axis=1, initial=1.0) > OBLIQUE_FROM).sum() < OBLIQUE:
        return None
    across = np.column_stack((-along[:, 1], along[:, 0]))
    middle = np.linalg.lstsq(across, (finals * across).sum(axis=1), rcond=None)[0]
    off = finals - middle
    aside = float(((off * across).sum(axis=1) ** 2).sum()) / (len(release) - 2)
    return Ways(
        along=float(np.sqrt(((off * along).sum(axis=1) ** 2).mean())),
        aside=float(np.sqrt(aside)),
        to_one_side=float(np.hypot(*off.mean(axis=0))),
    )


def settle_by_direction(release: Sequence[Release]) -> Floats:
    """How long each direction takes to settle, ms: the middle one of its releases, the quicker of two,
    since a thumb that rides along holds a stick up and never makes it quicker."""
    by_sector: dict[int, list[float]] = {}
    for r in release:
        if r.settle_ms is not None:
            by_sector.setdefault(sector(r.bearing), []).append(r.settle_ms)
    return np.array([sorted(each)[(len(each) - 1) // 2] for each in by_sector.values()])


@dataclass(frozen=True, eq=False)
class LetGoResult:
    """The readings, and the finals (releases, 2) they were read from. unseen_ms: how much longer than
    was seen a release may have been on its way, where the stick trembles more than the way that was
    left; the median of the releases. trembles (releases, k): how much each axis trembles where each
    release left it, %; read_from: samples each of these was read from, the median."""

    readings: LetGo
    finals: Floats
    problems: tuple[Problem, ...]
    unseen_ms: float = 0.0
    trembles: Floats = field(default_factory=lambda: np.empty((0, 2)))
    read_from: float = 0.0


def is_pushed(t: Floats, rho: Floats) -> NDArray[np.bool_]:
    """Whether a push is on, with hysteresis: on above 60, off again below 50. No thumb is out and back
    within the time of a spike, nor lets go for no longer. t, rho (n,): times, s, and distances, %."""
    pushed = _is_out(rho, PUSHED, LET_GO)
    return _without_shorter(t, ~_without_shorter(t, ~pushed))


def _without_shorter(t: Floats, mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The mask without what is over again within `SPIKE_S`."""
    starts, stops = runs(mask)
    ended = stops < len(t)
    short = t[stops[ended]] - t[starts[ended]] < SPIKE_S
    lasting = mask.copy()
    for start, stop in zip(starts[ended][short], stops[ended][short], strict=True):
        lasting[start:stop] = False
    return lasting


def _is_out(rho: Floats, on: float, off: float) -> NDArray[np.bool_]:
    state = np.where(rho > on, 1, np.where(rho < off, 0, -1))
    last_known = np.where(state >= 0, np.arange(len(state)), 0)
    latest = state[np.maximum.accumulate(last_known)]
    return np.asarray(latest == 1)


def measure_let_go(
    t: Floats, u: Floats, rest: Floats, jitter: float, wander: float = 0.0, sway: float = 0.0
) -> LetGoResult:
    """Measure pushes and releases: t (n,) seconds, u (n, k) %, rest (k,) %, k = 1 or 2.

    jitter: of the worse axis at rest, between spikes, %; wander: how far the rest itself goes from one
    second to the next, %; sway: how far from side to side it goes at rest beyond its trembling, %. All
    widen the band in which a release counts as settled: what it does when it is left alone is no way
    still to go.
    Raises NotUsable when no push and release was seen.
    """
    two = u.shape[1] == 2
    p = u if two else np.column_stack((u, np.zeros(len(u))))
    at = rest if two else np.array([rest[0], 0.0])
    rho = lengths(p - at)
    starts, stops = runs(is_pushed(t, rho)) if len(rho) else (np.empty(0, np.intp),) * 2
    band = max(SETTLED, 4 * jitter + sway, wander)
    measured_releases: list[MeasuredRelease] = []
    begins, beside_s = _begins(t, rho, starts)
    for i, stop in enumerate(stops):
        if stop >= len(t):
            continue
        following = np.searchsorted(begins, stop, side="right")
        pushed_next = int(begins[following]), float(beside_s[following])
        latest_end = _end_before_push(t, rho, int(stop), *pushed_next, max(SETTLED, jitter))
        one_release = measure_release(t, p, rho, int(stop), float(t[starts[i]]), latest_end, band)
        if one_release is not None:
            measured_releases.append(one_release)
    release = [one.release if two else single(one.release) for one in measured_releases]
    lasted = t[np.minimum(stops, len(t) - 1)] - t[starts] if starts.size else np.empty(0)
    finals = finals_of(release)
    away = lengths(finals)
    rests = float(np.hypot(*at)) < LET_GO
    hung = (away > STUCK_FINAL) & (lengths(finals - at * rests) > STUCK_FINAL)
    stuck = int(hung.sum()) + _held_over(lasted, len(release))
    if not release and not stuck:
        raise NotUsable(
            "no-releases",
            "no push and release was seen. Push past two thirds, let go, wait a second, repeat.",
        )
    sectors = len({sector(r.bearing) for r in release})
    swing = float(np.median([r.overshoot for r in release])) if release else 0.0
    problems = _problems(sectors, 8 if two else 2, stuck, swing)
    led = sum(one.led for one in measured_releases)
    if 2 * led > len(release):
        problems = (*problems, _led(led, len(release)))
    if not release:
        return LetGoResult(_never_returned(stuck), finals, problems)
    around, settles = smallest_circle(finals), settle_by_direction(release)
    readings = LetGo(
        release=tuple(release),
        releases=len(release),
        sectors=sectors,
        return_max=float(away.max()),
        return_mean=float(away.mean()),
        return_worst_bearing=release[int(away.argmax())].bearing,
        return_spread=diameter(finals),
        return_centre_x=around.x,
        return_centre_y=around.y if two else None,
        return_radius=around.radius,
        settle_ms_p90=float(np.percentile(settles, 90)) if settles.size else None,
        settled_within=float(np.median([one.band for one in measured_releases])),
        overshoot_max=max(r.overshoot for r in release),
        stuck=stuck,
    )
    return LetGoResult(
        readings,
        finals,
        problems,
        unseen_ms=float(np.median([one.unseen_ms for one in measured_releases])),
        trembles=np.array([one.trembles[: u.shape[1]] for one in measured_releases]),
        read_from=float(np.median([one.read_from for one in measured_releases])),
    )


def _held_over(lasted: Floats, released: int) -> int:
    """Pushes, of lengths lasted (n,), s, that a stick may have been stuck in; none where it is a
    hand's way to hold most of several for so long, and the stick comes back from them. released: how
    many releases came to lie."""
    held_over = int((lasted > STUCK_PUSH_S).sum())
    is_habit = len(lasted) >= SEVERAL and 2 * held_over > len(lasted) and released >= held_over
    return 0 if is_habit else held_over


def _led(led: int, released: int) -> Problem:
    message = (
        f"{led} of {released} times the stick came back as under a thumb, and lay there at once when "
        "that was gone: how soon it comes back by itself is not told by those. Take the thumb off at "
        "a stroke, and redo Let-go."
    )
    return Problem("let-go", "led", message)


def _begins(t: Floats, rho: Floats, starts: NDArray[np.intp]) -> tuple[NDArray[np.intp], Floats]:
    """The samples (m,), ascending, at which a push is on: those that count, which starts has, and
    those that are too light or reach so far only later; and the end of the samples. And how long
    before each it may have begun, s, (m,). t, rho (n,): times, s, and distances from the rest, %."""
    pace = timing(t)
    window = odd_window(SPIKE_S, pace.interval_s if pace else SPIKE_S, len(rho))
    first, stop = runs(_is_out(running_median(rho, window, "edge"), LIGHTLY, BACK))
    since_back = np.append(0, stop[:-1])
    back_s = t[first] - t[since_back]
    full = np.append(starts, len(t))
    until = np.minimum(stop, full[np.searchsorted(full, first)])
    lasted = t[np.minimum(until, len(t) - 1)] - t[first]
    light = first[(back_s >= BACK_S) & (lasted >= OUT_S)]
    on, first_of = np.unique(np.concatenate((full, light)), return_index=True)
    return on, np.where(first_of < len(full), BEFORE_NEXT_S, BESIDE_S)


def _end_before_push(
    t: Floats, rho: Floats, at: int, pushed_next: int, beside_s: float, least: float
) -> float:
    """Until when what follows a release at that sample is of it, s: until the next push begins, which
    is on from sample pushed_next (past the end: none is), beside_s before it.

    t, rho (n,): times, s, and distances from the rest, %; least: how far a stick that is left alone
    may go out within BEGINS_S, %.
    """
    end = float(t[pushed_next]) - beside_s if pushed_next < len(t) else np.inf
    times, away = t[at : pushed_next + 1], rho[at : pushed_next + 1]
    if len(times) < 3:
        return end
    window = odd_window(SPIKE_S, median(np.diff(times)) or SPIKE_S, len(times))
    calm = running_median(away, window, "edge")
    before = np.maximum(np.searchsorted(times, times - BEGINS_S) - 1, 0)
    lies = np.flatnonzero(calm - calm[before] <= least)
    if not lies.size or lies[-1] == len(times) - 1:
        return end
    return min(end, float(times[lies[-1]]) - BESIDE_S)


def _problems(sectors: int, enough: int, stuck: int, swing: float) -> tuple[Problem, ...]:
    """What the releases leave open: directions of those wanted, and a stick that did not return. And
    how far past the middle it usually swings, %, where that is far: a spring does some of it."""
    missed = (
        f"only {sectors} of {enough} directions were released: "
        "what the others would leave is not measured."
    )
    not_back = (
        f"{stuck} time{'s' * (stuck > 1)} the stick did not come back, "
        "or was held over for more than 2 s."
    )
    past = (
        f"it swings past the middle, and {swing:.0f} % toward the other side, before it lies "
        "still. Whoever reads it then sees a push the other way. There is no limit for that: hold it "
        "against the other stick."
    )
    problems = [Problem("let-go", "sectors", missed)] if sectors < enough else []
    if stuck:
        problems.append(Problem("let-go", "stuck", not_back))
    if swing > SWINGS:
        problems.append(Problem("let-go", "swings", past, "note"))
    return tuple(problems)


def _never_returned(stuck: int) -> LetGo:
    return LetGo(
        release=(),
        releases=0,
        sectors=0,
        return_max=None,
        return_mean=None,
        return_worst_bearing=None,
        return_spread=None,
        return_centre_x=None,
        return_centre_y=None,
        return_radius=None,
        settle_ms_p90=None,
        settled_within=None,
        overshoot_max=None,
        stuck=stuck,
    )
