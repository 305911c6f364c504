"""Before and after: what changed, how surely, and whether that is better."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from math import ceil, hypot, inf
from typing import Literal

from hollow_pin.core.catalogue import BY_PATH, READINGS, ReadingSpec
from hollow_pin.core.comparable import (
    FELL_BACK,
    HIDDEN,
    TOUCHED,
    Setting,
    blurred,
    cautions_of,
    refusals_of,
    u_of_counts,
    u_unseen_returns,
    why_not,
)
from hollow_pin.core.hold import SAG
from hollow_pin.core.in_common import of_its_own
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits, Verdict, verdict_on
from hollow_pin.core.readings import (
    TakeReadings,
    as_if_the_hand_gave_way,
    held_once,
)

Change = Literal["better", "worse", "changed", "no-change", "not-comparable"]
Overall = Literal["better", "worse", "mixed", "little", "no-change", "hidden", "missing", "refused"]

AS_ONE = "both axes tremble as one: that comes by the supply or the ground, and is not the stick's"
MOSTLY = 0.5
"""Of a change, less than which is left without what both axes tremble as one, where it is theirs."""
JITTER = "still.jitter_"
SHAKEN = (
    "still.noise_reach",
    "crossing.x.track_noise_max",
    "crossing.y.track_noise_max",
    "crossing.x.track_noise_median",
    "crossing.y.track_noise_median",
    "hold.hold_jitter",
)
REACHES = 4.0
"""Readings that are little more than how far a stick trembles there; and how many of its standard
deviations that is at the most."""
DECISIVE = ("composite.dead_zone_needed", "turn.jitter")
"""Where one of these is hidden, or was measured only once, that nothing else changed says nothing."""
LITTLE = 0.25
"""The share of a limit from which on a real change is news."""
SMALL = 0.1
"""The share of a limit from which on it is, where it is far larger than what can be seen."""
SURELY = 2.7
"""Standard uncertainties by which a reading must have changed to decide by itself: there are some
twenty of them, and one in twenty would pass two by chance."""
ONLY_OVER = ("rim.overrun",)
"""What costs nothing within its limit: makers let the ends run over, so that every direction reaches
them."""
FAR = 6.0
"""Standard uncertainties that are far more than what can be seen, which is two."""


@dataclass(frozen=True)
class Compared:
    """One reading in both takes, in its own unit. change is after − before; u_before, u_after and
    u_change standard uncertainties. limit: at the grade that was asked for."""

    path: str
    before: float | None
    after: float | None
    u_before: float | None
    u_after: float | None
    change: float | None
    u_change: float | None
    verdict: Change
    why: str | None
    limit: float | None
    limit_reason: str | None
    before_limit: Verdict
    after_limit: Verdict

    def against_limit(self) -> float:
        """How large the change is, in limits; without end where none at all is allowed."""
        if self.change is None or self.limit is None:
            return 0.0
        return abs(self.change) / self.limit if self.limit else inf

    @property
    def detectable(self) -> float | None:
        """The smallest change, in the reading's own unit, that is news by itself: surely real, and a
        quarter of the limit, or a tenth of it where that is far more than can be seen. None where
        none would be."""
        if self.limit is None or self.u_change is None:
            return None
        if self.path in ONLY_OVER and "over" not in (self.before_limit, self.after_limit):
            return None
        threshold = max(SURELY * self.u_change, LITTLE * self.limit)
        far = max(FAR * self.u_change, SMALL * self.limit)
        return min(threshold, far)

    @property
    def worth_saying(self) -> bool:
        """A change that takes it surely over its limit or back, or one that is surely real and large
        enough to be news, and costs or spares something. Up or down makes no difference."""
        if self.change is None or self.u_change is None or self.detectable is None:
            return False
        size = abs(self.change)
        if {self.before_limit, self.after_limit} == {"within", "over"}:
            return self.verdict in ("better", "worse")
        return size > SURELY * self.u_change and size >= self.detectable


@dataclass(frozen=True)
class Comparison:
    """Two takes. refusals: why they cannot be compared at all; then rows is empty. cautions: what
    was different about them besides the stick, and what a source hides. lost, regained: axes that
    gave a signal before and give none now, and the other way round."""

    overall: Overall
    refusals: tuple[str, ...]
    rows: tuple[Compared, ...]
    cautions: tuple[str, ...] = ()
    lost: tuple[str, ...] = ()
    regained: tuple[str, ...] = ()

    def row(self, path: str) -> Compared | None:
        return next((r for r in self.rows if r.path == path), None)

    @property
    def headline(self) -> tuple[Compared, ...]:
        """The headline readings that could be compared."""
        return tuple(_headline(self.rows))

    @property
    def seen_once(self) -> tuple[Compared, ...]:
        """The headline readings that are over their limit in one take, and not in the other at all."""
        return tuple(_over_once(self.rows))

    @property
    def not_again(self) -> frozenset[str]:
        """The headline readings, by dotted name, that were over their limit and not measured again."""
        return frozenset(r.path for r in self.seen_once if r.after is None)

    def mends(self, paths: Collection[str]) -> bool:
        """Whether it is better and nothing else, and none of some readings is over its limit any more,
        nor unknown."""
        right = {r.path for r in self.rows if r.after is not None and r.after_limit != "over"}
        return self.overall == "better" and right.issuperset(paths)

    @property
    def telling(self) -> tuple[Compared, ...]:
        """The headline readings whose change is worth speaking of."""
        return tuple(r for r in self.headline if r.worth_saying)


def compare(
    before: TakeReadings,
    after: TakeReadings,
    was: Setting,
    now: Setting,
    grade: Grade = "everyday",
    limits: Limits = LIMIT_OF,
    reference: bool = False,
) -> Comparison:
    """Compare two takes by every reading that either has; refuse, with reasons, where that would
    mislead.

    reference: `before` is the good stick of the same controller, and may be another one.
    """
    refusals = tuple(refusals_of(before, after, was, now, reference))
    if refusals:
        return Comparison("refused", refusals, ())
    rows = tuple(
        _compare_reading(r, before, after, grade, limits)
        for r in READINGS
        if r.applies_to(len(before.recording.axes))
        if before.value(r.path) is not None or after.value(r.path) is not None
    )
    rows = _apart_from_supply(rows, before, after)
    cautions = [*cautions_of(before, after, was, now), *_by_supply(rows), *longer(rows)]
    was_mute, is_mute = ([s.axis for s in take.silent] for take in (before, after))
    newly_mute = tuple(axis for axis in is_mute if axis not in was_mute)
    regained = tuple(axis for axis in was_mute if axis not in is_mute)
    overall = _by_signal(_overall(rows), newly_mute, regained)
    return Comparison(overall, (), rows, tuple(cautions), newly_mute, regained)


def _apart_from_supply(
    rows: tuple[Compared, ...], before: TakeReadings, after: TakeReadings
) -> tuple[Compared, ...]:
    """The rows, of which those decide nothing that are over their limits neither time, and differ by
    what both axes tremble as one: without it less than half of the change is left, and none would be
    seen, or none that is news. Another port or cable makes no stick better, nor worse."""

    def by_supply(row: Compared) -> bool:
        own = [of_its_own(take, row.path) for take in (before, after)]
        if row.change is None or row.u_change is None or own[0] is None or own[1] is None:
            return False
        left, seen = abs(own[1] - own[0]), max(2 * row.u_change, row.detectable or 0.0)
        return left < min(seen, MOSTLY * abs(row.change))

    lets_pass = [
        r
        for r in rows
        if r.verdict in ("better", "worse") and "over" not in (r.before_limit, r.after_limit)
    ]
    jitters = [r for r in lets_pass if r.path.startswith(JITTER) and by_supply(r)]
    way = {r.verdict for r in jitters}
    most = max((abs(r.change or 0.0) for r in jitters), default=0.0)
    shared = {
        r.path
        for r in lets_pass
        if r.verdict in way
        and ((r.path in SHAKEN and abs(r.change or 0.0) <= REACHES * most) or by_supply(r))
    }
    return tuple(
        replace(r, verdict="not-comparable", why=AS_ONE) if r.path in shared else r for r in rows
    )


def _by_supply(rows: tuple[Compared, ...]) -> list[str]:
    """That what both axes tremble as one was not as much both times."""
    shaken = [r for r in rows if r.why == AS_ONE and r.path.startswith(JITTER)]
    if not shaken:
        return []
    most = max(shaken, key=lambda r: abs(r.change or 0.0))
    return [
        f"Both axes tremble as one, and not as much both times: {BY_PATH[most.path].label.lower()} "
        f"{most.before:.2f} % before, {most.after:.2f} % now. That comes by the supply or the ground: "
        "another port or cable does it, and no work on the stick."
    ]


def _by_signal(overall: Overall, newly_mute: tuple[str, ...], regained: tuple[str, ...]) -> Overall:
    """That an axis speaks again is better than anything that it says, and that it is lost is worse."""
    if newly_mute and regained:
        return "mixed"
    if newly_mute:
        return "worse"
    if regained:
        return "mixed" if overall in ("worse", "mixed") else "better"
    return overall


RARE = ("still.spikes_per_min_x", "still.spikes_per_min_y", "joint.jumps_per_min")
LONGEST_MIN = 30.0
"""A Still that nobody would wait for is not asked for."""


def longer(rows: tuple[Compared, ...]) -> list[str]:
    """How long a Still each time would decide where events are too few to tell: their counts
    scatter as their square root (Poisson), so that two rates a and b are told apart in (a + b)/(b −
    a)² minutes times the square of the certainty that is wanted."""
    parts = []
    for row in rows:
        a, b = row.before, row.after
        if row.path not in RARE or row.verdict != "no-change" or not row.change:
            continue
        if a is None or b is None or row.limit is None:
            continue
        if abs(row.change) < max(LITTLE * row.limit, 1.0):
            continue
        minutes = SURELY**2 * (a + b) / row.change**2
        if minutes <= LONGEST_MIN:
            name = BY_PATH[row.path].label
            needed = "a minute" if minutes <= 1 else f"{ceil(minutes)} minutes"
            parts.append(
                f"{name}: {a:.0f} a minute before, {b:.0f} now, and too few to tell by. Still for "
                f"{needed} each time would decide."
            )
    return parts


def _compare_reading(
    spec: ReadingSpec, before: TakeReadings, after: TakeReadings, grade: Grade, limits: Limits
) -> Compared:
    a, b = before.value(spec.path), after.value(spec.path)
    ua, ub = before.uncertainty.get(spec.path), after.uncertainty.get(spec.path)
    limit = limits.get(spec.path)
    at = limit.at(grade) if limit else None
    change = u_change = None
    verdict: Change = "not-comparable"
    why = why_not(spec, before, after, a, b, ua, ub)
    if a is not None and b is not None:
        change = b - a
    if ua is not None and ub is not None:
        unseen = u_unseen_returns(spec, before, after), u_of_counts(spec, before, after)
        u_change = hypot(ua, ub, *unseen)
        if spec.path in WANDERS:
            u_change = max(u_change, NOT_AGAIN * max(a or 0.0, b or 0.0))
    if why is None:
        assert a is not None
        assert b is not None
        assert u_change is not None
        verdict = _judge(spec, a, b, u_change)
        if verdict != "no-change" and (why := blurred(spec.path, before, after)):
            verdict = "not-comparable"
        if spec.path == SAG and verdict == "worse" and held_once(after):
            by_hand = as_if_the_hand_gave_way(after).value(SAG) or 0.0
            if _judge(spec, a, by_hand, u_change) != "worse":
                verdict, why = "not-comparable", f"{FELL_BACK}, after"
    return Compared(
        path=spec.path,
        before=a,
        after=b,
        u_before=ua,
        u_after=ub,
        change=change,
        u_change=u_change,
        verdict=verdict,
        why=why,
        limit=at,
        limit_reason=limit.reason if limit else None,
        before_limit="unknown" if at is None else verdict_on(before, spec.path, at),
        after_limit="unknown" if at is None else verdict_on(after, spec.path, at),
    )


WANDERS = ("still.wander", "turn.wander")
NOT_AGAIN = 0.45
"""How much of what wandered in ten seconds may not do so in the next ten, as a share, standard
deviation. That it did is known far better: so this is no part of its own uncertainty."""


def _judge(spec: ReadingSpec, a: float, b: float, u: float) -> Change:
    if abs(b - a) <= 2 * u:
        return "no-change"
    was, now = spec.badness(a), spec.badness(b)
    if was is None or now is None or abs(now - was) <= 2 * u:
        return "changed"
    return "better" if now < was else "worse"


def _headline(rows: tuple[Compared, ...]) -> list[Compared]:
    return [r for r in rows if BY_PATH[r.path].headline and r.verdict != "not-comparable"]


def _over_once(rows: tuple[Compared, ...]) -> list[Compared]:
    return [
        r
        for r in rows
        if BY_PATH[r.path].headline
        and {r.before_limit, r.after_limit} == {"over", "unknown"}
        and (r.before is None) != (r.after is None)
    ]


def _overall(rows: tuple[Compared, ...]) -> Overall:
    """What counts are the headline readings whose change is worth speaking of; where one of them is or
    was over its limit, such as that, since what lies within both times is no reason to call a cure
    half of one, nor a loss."""
    headline = _headline(rows)
    if not headline:
        return "refused"
    telling = [r for r in headline if r.worth_saying]
    over = [r for r in telling if "over" in (r.before_limit, r.after_limit)]
    verdicts = {r.verdict for r in over or telling}
    if "better" in verdicts:
        return "mixed" if "worse" in verdicts else "better"
    if "worse" in verdicts:
        return "worse"
    decisive = [r for r in rows if r.path in DECISIVE]
    if any((r.why or "").startswith(TOUCHED) for r in decisive) or any(
        (r.why or "").startswith(FELL_BACK) for r in rows
    ):
        return "missing"
    if _over_once(rows):
        return "missing"
    if any(r.verdict != "no-change" for r in headline):
        return "little"
    if any((r.why or "").startswith(HIDDEN) for r in decisive):
        return "hidden"
    once = any((r.before is None) != (r.after is None) for r in decisive)
    return "missing" if once else "no-change"
