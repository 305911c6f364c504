"""What a take shows by the limits that it is held against: each a yes or no, of which the findings are
made."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hollow_pin.core.gate import unlike_all_round, unsheared
from hollow_pin.core.hidden import LEAPS, MAY_BE_ZERO, MEASURED_ZERO, ON_AXIS, UNCALIBRATED
from hollow_pin.core.leaps import LEAST as LEAST_DROP
from hollow_pin.core.let_go import apart_by_way
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits, Verdict, verdict_on
from hollow_pin.core.readings import (
    SPIKES_OF_A_TOUCH,
    TakeReadings,
    held_once,
    leaves_a_zone,
    of_a_touch,
    spikes_as_one,
    sways_as_one,
)
from hollow_pin.core.rough_place import rough_place
from hollow_pin.core.steps_read import unmeasured
from hollow_pin.core.still import FELT_SPIKE
from hollow_pin.core.turn import PLACES, Place

SPIKY_PER_MIN = 12.0
LEAST_GAIN = 0.125
"""Of the limit, that recentring must gain to be worth it."""
FEWEST_DROPS = 3
IN_COMMON = 0.7
ALONE_TIMES = 4.0
"""As much as the other axis that one trembles by which is not the supply's."""
ALIKE_TIMES = 2.0
"""As much as where it trembles least: what trembles by no more anywhere does so everywhere."""
ALONG_TIMES = 4.0
"""As far along the ways it comes back on as aside of them, that it comes to rest where it is held."""
ONE_SIDED = 0.35
"""Of how far it rests along its ways, that it does so to one side: half where one half of its ways is
held, a quarter where sixteen are by chance, nothing where all are, as by two tracks worn alike."""
PLACES_TIMES = 4.0
SCALE = (
    "rim.circularity_error",
    "rim.outer_dead_zone_needed",
    "rim.overrun",
)
"""What a calibration of the extents mends."""
BY_SWAY = (
    "still.wander",
    "let_go.return_spread",
    "composite.dead_zone_needed",
    "hold.sag",
)
"""What is over by a rest that wanders, wherever that comes from."""
SHAPE = "composite.shape_after_recalibration"
DOWNWARD = 0.5
"""Of the spikes of a dirty track, that go toward the middle while it is held at the edge."""
UNLIKE_SHARE = 0.5
"""Of how far a rim is out of shape: what differs from quarter to quarter where it is alike in all."""


@dataclass(frozen=True)
class JudgedTake:
    """A take and the limits it is held against."""

    take: TakeReadings
    grade: Grade
    limits: Limits

    def limit(self, path: str) -> float:
        return self.limits[path].at(self.grade)

    def over(self, path: str) -> bool:
        """Surely over its limit. What is too near to call is no fault."""
        return self.verdict(path) == "over"

    def verdict(self, path: str) -> Verdict:
        return verdict_on(self.take, path, self.limit(path))

    def with_verdict(self, verdict: Verdict) -> list[str]:
        """The readings that have a limit and this verdict on it."""
        return [path for path in self.limits if self.verdict(path) == verdict]


def stuck(case: JudgedTake) -> bool:
    return case.take.let_go is not None and case.take.let_go.stuck > 0


def spikes_per_min(take: TakeReadings) -> float:
    """Of the worse axis, with hands off; 0 where it was not measured."""
    s = take.still
    if s is None:
        return (take.turn.spikes_per_min if take.turn else None) or 0.0
    return max(s.spikes_per_min_x, s.spikes_per_min_y or 0.0)


def spike_height(take: TakeReadings) -> float:
    """The highest of them, %."""
    at_rest = take.still or take.turn
    return at_rest.spike_height if at_rest else 0.0


def is_felt(take: TakeReadings) -> bool:
    """Whether it spikes, or leaves a dead zone, often enough and far enough to be felt."""
    return spike_height(take) >= FELT_SPIKE and spikes_per_min(take) >= SPIKY_PER_MIN


def is_spiky(take: TakeReadings) -> bool:
    """Whether it spikes like that."""
    return is_felt(take) and not leaves_a_zone(take)


def spiky(case: JudgedTake) -> bool:
    """By more than a touch in Still would make; or at all, where it drops while it is held and jumps
    as far with hands off: a track that fails where it is held does not jump at rest."""
    if spikes_as_one(case.take):
        return False
    too_many = is_spiky(case.take)
    as_drops = drops_when_held(case) and spike_height(case.take) >= LEAST_DROP
    return (too_many or as_drops) and not SPIKES_OF_A_TOUCH & of_a_touch(case.take)


def tracks(case: JudgedTake, name: str) -> list[str]:
    return [f"crossing.{axis}.{name}" for axis in case.take.recording.axes] + [f"turn.{name}"]


def dead_spans(case: JudgedTake) -> bool:
    """Surely: what two passes of many jumped may be dirt, and a module is not replaced for that."""
    return any(case.over(p) for p in tracks(case, "dead_spans"))


def drops_when_held(case: JudgedTake) -> bool:
    return case.over("hold.dropouts_per_min") or case.take.joint.drops >= FEWEST_DROPS


def drops_as_it_spikes(case: JudgedTake) -> bool:
    """Half of what spikes with hands off goes down, and is a drop where it does so while the stick is
    held: of a track that drops no more often, and shows nothing else of it, nobody knows that it
    fails."""
    drops = case.take.joint.drops_per_min or 0.0
    explained = is_spiky(case.take) and drops <= DOWNWARD * spikes_per_min(case.take)
    return explained and not dead_spans(case) and not case.over("hold.sag")


def falls_when_pushed(case: JudgedTake) -> bool:
    """Where it was pushed, and not where it was held, or it never was; a paddle has no Hold."""
    if case.take.turn is not None or not drops_when_held(case):
        return False
    return not any(h.dropouts for h in case.take.hold or ()) and not case.over("hold.sag")


def touched(case: JudgedTake) -> bool:
    """What is over its limit in Still may be a touch: it wanders or trembles, and moved once."""
    return not sways_as_one(case.take) and any(map(case.over, of_a_touch(case.take)))


def falls_back_again(case: JudgedTake) -> bool:
    return case.over("hold.sag") and not held_once(case.take)


def fails_when_held(case: JudgedTake) -> bool:
    """It drops there, or fell back more than once: no hand gives way so."""
    return drops_when_held(case) or (falls_back_again(case) and not wanders_as_one(case))


def rough(case: JudgedTake) -> bool:
    return any(case.over(p) for p in tracks(case, "track_noise_max"))


def jumps(case: JudgedTake) -> bool:
    """A contact that jumps to an end or the middle: more than once, so that it was no accident."""
    return case.over("joint.jumps_per_min") and case.take.joint.jumps > 1


def needs_dead_zone(case: JudgedTake) -> bool:
    return case.over("composite.dead_zone_needed")


def recentring_is_enough(case: JudgedTake) -> bool:
    """It brings within the limit what is over it, and by more than noise would change."""
    c = case.take.composite
    needed, after = c.dead_zone_needed, c.dead_zone_after_recentring
    limit = case.limit("composite.dead_zone_needed")
    if needed is None or after is None or after >= limit or needed - after < LEAST_GAIN * limit:
        return False
    return needs_dead_zone(case) or case.over("still.rest_offset")


def returns_apart(case: JudgedTake) -> bool:
    return case.over("let_go.return_spread")


def is_held_on_its_way(case: JudgedTake) -> bool:
    """Whether it comes back to different places, and they lie to one side, along the ways it came on
    and not aside of them."""
    let_go = case.take.let_go
    ways = apart_by_way(let_go.release) if let_go and returns_apart(case) else None
    if ways is None or ways.along <= ALONG_TIMES * ways.aside:
        return False
    return ways.to_one_side > ONE_SIDED * ways.along


def trembles(case: JudgedTake) -> bool:
    at_rest = [f"still.jitter_{axis}" for axis in case.take.recording.axes]
    return any(case.over(p) for p in [*at_rest, "turn.jitter"])


def one_axis_trembles(case: JudgedTake) -> bool:
    """Of one that trembles: the other axis does not, and would show it. That comes by no cable."""
    if any(h.code in MEASURED_ZERO for h in case.take.hidden):
        return False
    each = [case.take.value(f"still.jitter_{axis}") or 0.0 for axis in case.take.recording.axes]
    return len(each) == 2 and max(each) >= ALONE_TIMES * min(each)


def trembles_everywhere(case: JudgedTake) -> bool:
    """Of a single axis that trembles: it does so alike wherever it was left alone, in two places at
    least, or at rest and along its way where a spring lets it rest in one; and no place on its way is
    rougher by far. Dirt lies in places."""
    take, crossed = case.take, case.take.crossing.x if case.take.crossing else None
    if len(take.recording.axes) > 1 or not trembles(case):
        return False
    each: list[float] = []
    if take.turn is not None:
        each = [take.turn.track_noise_max, *(s.jitter_x for s in take.turn.rests.values())]
    elif take.still is not None and crossed is not None:
        each = [crossed.track_noise_max, take.still.jitter_x, crossed.track_noise_median]
    return len(each) > 2 and max(each) <= ALIKE_TIMES * min(each[1:])


def trembles_as_one(case: JudgedTake) -> bool:
    """Both axes tremble alike: what they share is the supply."""
    still = case.take.still
    if still is None or still.noise_in_common is None or not trembles(case):
        return False
    return abs(still.noise_in_common) > IN_COMMON


def wanders_as_one(case: JudgedTake) -> bool:
    """Both axes do, so far that it is felt: what they share is the supply, and what is read of where
    it rests, or is held, is that."""
    return sways_as_one(case.take) and any(map(case.over, BY_SWAY))


def wanders(case: JudgedTake) -> bool:
    """With hands off, farther than it may: surely, or as far as one can tell where it surely trembles.
    What trembles and stays where it is goes about by little."""
    of_it = ("still.wander", "turn.wander")
    if any(map(case.over, of_it)):
        return True
    return trembles(case) and any((case.take.value(p) or 0.0) > case.limit(p) for p in of_it)


def struck_as_one(case: JudgedTake) -> bool:
    """Both axes spike at one instant, often and far enough to be felt."""
    return spikes_as_one(case.take) and is_spiky(case.take)


def as_one(case: JudgedTake) -> bool:
    return struck_as_one(case) or trembles_as_one(case) or wanders_as_one(case)


def _trembles_for_most_of(case: JudgedTake, zone: float | None) -> bool:
    """Whether most of a dead zone, %, is for trembling."""
    still = case.take.still
    much = still is not None and zone is not None and still.noise_reach > zone / 2
    return much and trembles(case)


def noise_is_most(case: JudgedTake) -> bool:
    """Of the dead zone it needs, wherever it rests."""
    return _trembles_for_most_of(case, case.take.composite.dead_zone_needed)


def noise_is_most_of_the_rest(case: JudgedTake) -> bool:
    """Of the dead zone that it would need if it were recentred."""
    return _trembles_for_most_of(case, case.take.composite.dead_zone_after_recentring)


def rough_in_places(case: JudgedTake) -> bool:
    """Rough here and there, and quiet elsewhere: that is the track, and not the supply."""
    c = case.take.crossing
    tracks = [t for t in ((c.x, c.y) if c else (case.take.turn,)) if t]
    return rough(case) and any(
        t.track_noise_max > PLACES_TIMES * t.track_noise_median and t.rough_spots for t in tracks
    )


def rough_at_its_limit(case: JudgedTake) -> bool:
    """A place is rough pass after pass, and too near its limit to call: there is something all the
    same."""
    place = rough_place(case.take)
    return place is not None and case.verdict(place.path) == "borderline"


def rim_mends(case: JudgedTake) -> bool:
    after = case.take.composite.circularity_after_recalibration
    limit = case.limit("rim.circularity_error")
    off = any(case.over(p) for p in SCALE)
    off = off and not rim_is_off(case) and not cut_off(case)
    return off and (after is None or after < limit)


def rim_is_off(case: JudgedTake) -> bool:
    """Surely, and not by where the range ends."""
    shape = case.over(SHAPE) or stays_short(case)
    return shape and not cut_off(case) and not cross_talk(case)


def stays_short(case: JudgedTake) -> bool:
    """Whether it falls short of full speed in some direction, and would after a recalibration: by its
    shape alone it does so by more than the limit. Not where its source hides where it rests, about
    which that is reckoned."""
    short = "rim.outer_dead_zone_needed"
    by_shape = verdict_on(case.take, SHAPE, case.limit(short))
    known = all(h.code != LEAPS for h in case.take.hidden)
    return known and case.over(short) and by_shape == "over"


def gate_problem(case: JudgedTake) -> str:
    """What is said of a rim that looks like another gate than its model's; empty where it does not."""
    message = next((p.message for p in case.take.problems if p.code == "gate"), "")
    return message[:1].upper() + message[1:]


def other_gate(case: JudgedTake) -> bool:
    """Nothing that a rim is over by can be judged against a gate that it has not."""
    return bool(gate_problem(case)) and rim_is_off(case)


def alike_all_round(case: JudgedTake) -> bool:
    """Its shape is off by the same in all four quarters: what rubs or is worn is not."""
    rim = case.take.rim
    if rim is None or not rim_is_off(case):
        return False
    shape = case.take.composite.shape_after_recalibration or 0.0
    return unlike_all_round(np.asarray(rim.radius), rim.lsc_x, rim.lsc_y) < UNLIKE_SHARE * shape


def cross_talk(case: JudgedTake) -> bool:
    """Surely over its limit; or by how far it is, as a hand's straying might make it, where a rim that
    is out of shape is sheared and nothing else: no hand does that."""
    limits = [p for p in tracks(case, "cross_talk") if p in case.limits]
    if any(map(case.over, limits)):
        return True
    by_value = any((case.take.value(p) or 0.0) > case.limit(p) for p in limits)
    shape = "composite.shape_after_recalibration"
    rim = case.take.rim
    if not by_value or rim is None or not case.over(shape):
        return False
    return unsheared(np.asarray(rim.radius), rim.lsc_x, rim.lsc_y) < case.limit(shape)


def cut_off(case: JudgedTake) -> bool:
    return any(h.code == "saturated" for h in case.take.hidden)


def runs_over(case: JudgedTake) -> bool:
    """Past its gate, and its model is not known to run as far."""
    stated = case.take.recording.overrun
    over_stated = stated is not None and stated > case.limit("rim.overrun")
    return case.over("rim.overrun") and not over_stated


def something_hidden(case: JudgedTake) -> bool:
    """Something that has a limit is hidden, or the source says so of the whole take."""
    return bool(case.take.hidden)


def carried_unseen(case: JudgedTake) -> bool:
    """All that is hidden is what one axis carries along of the other."""
    return {h.code for h in case.take.hidden} == {ON_AXIS}


def uncalibrated(case: JudgedTake) -> bool:
    """All that is hidden is what a calibration moves that nobody knows."""
    return {h.code for h in case.take.hidden} == {UNCALIBRATED}


def at_zero(case: JudgedTake) -> bool:
    """All that is hidden is a rest of exactly zero, that may be so or hidden."""
    return bool(case.take.hidden) and {h.code for h in case.take.hidden} <= {*MAY_BE_ZERO}


def incomplete(case: JudgedTake) -> bool:
    return bool(unmeasured(case.take)) or (
        case.take.composite.dead_zone_needed is None and case.take.turn is None
    )


def not_at_rest(case: JudgedTake) -> list[Place]:
    """Where a paddle was not seen at rest."""
    turn = case.take.turn
    return [] if turn is None else [place for place in PLACES if place not in turn.rests]


def measured_once(case: JudgedTake) -> list[str]:
    """The readings that have a limit and were read too few times to be held against it."""
    u = case.take.uncertainty
    return [
        p for p in case.with_verdict("unknown") if p not in u and case.take.value(p) is not None
    ]


def of_another_gate(take: TakeReadings) -> bool:
    """Whether its rim is off, by everyday use, against a gate that it has not: nothing of it can be
    judged before that. Not where the ends of the range cut it off, which may make it look so."""
    return other_gate(JudgedTake(take, "everyday", LIMIT_OF))
