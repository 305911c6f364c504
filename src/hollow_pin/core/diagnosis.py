"""What is wrong with a stick, by its readings, and which remedy to begin with.

The findings are a table, looked through from the top: the first whose test holds is what is said.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.gate import unlike_all_round, unsheared
from hollow_pin.core.joint import LEAST as LEAST_DROP
from hollow_pin.core.let_go import apart_by_way
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits, Verdict, verdict_on
from hollow_pin.core.readings import (
    SPIKES_OF_A_TOUCH,
    TakeReadings,
    held_once,
    nothing_moved,
    of_a_touch,
    trembles_by_place,
)
from hollow_pin.core.still import FELT_SPIKE
from hollow_pin.core.turn import PLACES, Place
from hollow_pin.core.words import listed

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
STILL_AGAIN = "It moved in Still, as far as by a touch: take Still again, hands off."
PLACES_TIMES = 4.0
SCALE = (
    "rim.circularity_error",
    "rim.outer_dead_zone_needed",
    "rim.overrun",
)
"""What a calibration of the extents mends."""
UNLIKE_SHARE = 0.5
"""Of how far a rim is out of shape: what differs from quarter to quarter where it is alike in all."""

Remedy = Literal["recalibrated", "cleaned", "replaced", "none", "measure"]


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

    def such(self, verdict: Verdict) -> list[str]:
        """The readings that have a limit and this verdict on it."""
        return [path for path in self.limits if self.verdict(path) == verdict]


@dataclass(frozen=True)
class Finding:
    """holds: whether it is so; advice: what to do about it, in a sentence, or how it is made of the
    case."""

    holds: Callable[[JudgedTake], bool]
    advice: str | Callable[[JudgedTake], str]
    try_first: Remedy


@dataclass(frozen=True)
class Advice:
    words: str
    try_first: Remedy


def _stuck(case: JudgedTake) -> bool:
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


def is_spiky(take: TakeReadings) -> bool:
    """Often enough and far enough to be felt."""
    return spike_height(take) >= FELT_SPIKE and spikes_per_min(take) >= SPIKY_PER_MIN


def _spiky(case: JudgedTake) -> bool:
    """By more than a touch in Still would make; or at all, where it drops while it is held and jumps
    as far with hands off: a track that fails where it is held does not jump at rest."""
    too_many = is_spiky(case.take)
    as_drops = _drops_when_held(case) and spike_height(case.take) >= LEAST_DROP
    return (too_many or as_drops) and not SPIKES_OF_A_TOUCH & of_a_touch(case.take)


def _tracks(case: JudgedTake, name: str) -> list[str]:
    return [f"crossing.{axis}.{name}" for axis in case.take.recording.axes] + [f"turn.{name}"]


def dead_spans(case: JudgedTake) -> bool:
    """Surely: what two passes of many jumped may be dirt, and a module is not replaced for that."""
    return any(case.over(p) for p in _tracks(case, "dead_spans"))


def _drops_when_held(case: JudgedTake) -> bool:
    return case.over("hold.dropouts_per_min") or case.take.joint.drops >= FEWEST_DROPS


def fails_when_held(case: JudgedTake) -> bool:
    return case.over("hold.sag") or _drops_when_held(case)


def _falls_when_pushed(case: JudgedTake) -> bool:
    """Where it was pushed, and not where it was held, or it never was; a paddle has no Hold."""
    if case.take.turn is not None or not _drops_when_held(case):
        return False
    return not any(h.dropouts for h in case.take.hold or ()) and not case.over("hold.sag")


def _touched(case: JudgedTake) -> bool:
    """What is over its limit in Still may be a touch: it wanders or trembles, and moved once."""
    return any(map(case.over, of_a_touch(case.take)))


def _falls_back_again(case: JudgedTake) -> bool:
    return case.over("hold.sag") and not held_once(case.take)


def rough(case: JudgedTake) -> bool:
    return any(case.over(p) for p in _tracks(case, "track_noise_max"))


def jumps(case: JudgedTake) -> bool:
    """A contact that jumps to an end or the middle: more than once, so that it was no accident."""
    return case.over("joint.jumps_per_min") and case.take.joint.jumps > 1


def _needs_dead_zone(case: JudgedTake) -> bool:
    return case.over("composite.dead_zone_needed")


def _recentring_is_enough(case: JudgedTake) -> bool:
    """It brings within the limit what is over it, and by more than noise would change."""
    c = case.take.composite
    needed, after = c.dead_zone_needed, c.dead_zone_after_recentring
    limit = case.limit("composite.dead_zone_needed")
    if needed is None or after is None or after >= limit or needed - after < LEAST_GAIN * limit:
        return False
    return _needs_dead_zone(case) or case.over("still.rest_offset")


def returns_apart(case: JudgedTake) -> bool:
    return case.over("let_go.return_spread")


def _held_on_its_way(case: JudgedTake) -> bool:
    let_go = case.take.let_go
    ways = apart_by_way(let_go.release) if let_go and returns_apart(case) else None
    if ways is None or ways.along <= ALONG_TIMES * ways.aside:
        return False
    return ways.to_one_side > ONE_SIDED * ways.along


def held_on_its_way(take: TakeReadings) -> bool:
    """Whether a stick comes back to different places, by everyday use, and they lie to one side, along
    the ways it came on and not aside of them."""
    return _held_on_its_way(JudgedTake(take, "everyday", LIMIT_OF))


def trembles(case: JudgedTake) -> bool:
    at_rest = [f"still.jitter_{axis}" for axis in case.take.recording.axes]
    return any(case.over(p) for p in [*at_rest, "turn.jitter"])


def _one_axis_trembles(case: JudgedTake) -> bool:
    """Of one that trembles: the other axis does not. That comes by no cable."""
    each = [case.take.value(f"still.jitter_{axis}") or 0.0 for axis in case.take.recording.axes]
    return len(each) == 2 and max(each) >= ALONE_TIMES * min(each)


def _trembles_everywhere(case: JudgedTake) -> bool:
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


def _by_trembling(case: JudgedTake) -> str:
    if _trembles_everywhere(case):
        return (
            "It trembles more than it should, and alike wherever it is, which dirt does not: try "
            "another cable, port or battery first, then clean the track."
        )
    if _one_axis_trembles(case):
        return (
            "One axis trembles more than it should and the other does not: that is its own contact or "
            "sensor, and no cable. Clean its track first."
        )
    return "It trembles more than it should: try another cable or port, then clean the track."


def _as_one(case: JudgedTake) -> bool:
    """Both axes tremble alike: what they share is the supply."""
    still = case.take.still
    if still is None or still.noise_in_common is None or not trembles(case):
        return False
    return abs(still.noise_in_common) > IN_COMMON


def _noise_is_most(case: JudgedTake) -> bool:
    """Most of the dead zone it needs is for trembling, wherever it rests."""
    still, needed = case.take.still, case.take.composite.dead_zone_needed
    much = still is not None and needed is not None and still.noise_reach > needed / 2
    return much and trembles(case)


def _rough_in_places(case: JudgedTake) -> bool:
    """Rough here and there, and quiet elsewhere: that is the track, and not the supply."""
    c = case.take.crossing
    tracks = [t for t in ((c.x, c.y) if c else (case.take.turn,)) if t]
    return rough(case) and any(
        t.track_noise_max > PLACES_TIMES * t.track_noise_median and t.rough_spots for t in tracks
    )


def _rim_mends(case: JudgedTake) -> bool:
    after = case.take.composite.circularity_after_recalibration
    limit = case.limit("rim.circularity_error")
    off = any(case.over(p) for p in SCALE)
    off = off and not rim_is_off(case) and not _cut_off(case)
    return off and (after is None or after < limit)


def rim_is_off(case: JudgedTake) -> bool:
    """Surely, and not by where the range ends."""
    shape = case.over("composite.shape_after_recalibration")
    return shape and not _cut_off(case) and not _cross_talk(case)


def _gate_problem(case: JudgedTake) -> str:
    """What is said of a rim that looks like another gate than its model's; empty where it does not."""
    said = next((p.message for p in case.take.problems if p.code == "gate"), "")
    return said[:1].upper() + said[1:]


def _other_gate(case: JudgedTake) -> bool:
    """Nothing that a rim is over by can be judged against a gate that it has not."""
    return bool(_gate_problem(case)) and rim_is_off(case)


def _by_gate(case: JudgedTake) -> str:
    return f"{_gate_problem(case)} Nothing about its rim can be judged before that."


def _alike_all_round(case: JudgedTake) -> bool:
    """Its shape is off by the same in all four quarters: what rubs or is worn is not."""
    rim = case.take.rim
    if rim is None or not rim_is_off(case):
        return False
    shape = case.take.composite.shape_after_recalibration or 0.0
    return unlike_all_round(np.asarray(rim.radius), rim.lsc_x, rim.lsc_y) < UNLIKE_SHARE * shape


def _cross_talk(case: JudgedTake) -> bool:
    """Surely over its limit; or by how far it is, as a hand's straying might make it, where a rim that
    is out of shape is sheared and nothing else: no hand does that."""
    limits = [p for p in _tracks(case, "cross_talk") if p in case.limits]
    if any(map(case.over, limits)):
        return True
    by_value = any((case.take.value(p) or 0.0) > case.limit(p) for p in limits)
    shape = "composite.shape_after_recalibration"
    rim = case.take.rim
    if not by_value or rim is None or not case.over(shape):
        return False
    return unsheared(np.asarray(rim.radius), rim.lsc_x, rim.lsc_y) < case.limit(shape)


def _cut_off(case: JudgedTake) -> bool:
    return any(h.code == "saturated" for h in case.take.hidden)


def _hidden(case: JudgedTake) -> bool:
    """Something that has a limit is hidden, or the source says so of the whole take."""
    return bool(case.take.hidden)


def _incomplete(case: JudgedTake) -> bool:
    return case.take.composite.dead_zone_needed is None and case.take.turn is None


def _not_at_rest(case: JudgedTake) -> list[Place]:
    """Where a paddle was not seen at rest."""
    turn = case.take.turn
    return [] if turn is None else [place for place in PLACES if place not in turn.rests]


def _by_rests(case: JudgedTake) -> str:
    places = _not_at_rest(case)
    thirds = "third" if len(places) == 1 else "thirds"
    return (
        f"It was not seen at rest in the {listed(list(places))} {thirds} of its travel: either it was "
        "not left alone there for five seconds, or it does not stay where it is left. Turn it again, "
        "and watch it with hands off."
    )


def _named(paths: list[str]) -> str:
    labels = [BY_PATH[p].label for p in paths]
    return listed([f"{name[0].lower()}{name[1:]}" for name in labels])


def _once(case: JudgedTake) -> list[str]:
    """The readings that have a limit and were read too few times to be held against it."""
    known = case.take.uncertainty
    return [p for p in case.such("unknown") if p not in known and case.take.value(p) is not None]


def _too_near(case: JudgedTake) -> str:
    near, once = case.such("borderline"), _once(case)
    said = [f"too near its limit to call: {_named(near)}"] if near else []
    said += [f"measured too few times to call: {_named(once)}"] if once else []
    again = "Measure again, and longer."
    if of_a_touch(case.take) & {*near}:
        again = STILL_AGAIN
    elif case.take.by_place.keys() & {*near} and trembles_by_place(case.take.by_place):
        again = "Let it go from another side, and take Still again: it may tremble there."
    return f"Nothing is over its limit; {'; '.join(said)}. {again}"


def _by_scale(case: JudgedTake) -> str:
    over = _named([path for path in SCALE if case.over(path)])
    return (
        f"The rim is off in scale or centre, not in shape: recalibrate, extents first. "
        f"Over its limit: {over}."
    )


def _by_the_ends(case: JudgedTake) -> str:
    """A round rim that is cut off on every side looks like a square one."""
    gate = _gate_problem(case)
    sides = sum(h.code == "saturated" for h in case.take.hidden)
    on = ("one side", "two sides", "three sides", "all its sides")[min(sides, 4) - 1]
    said = (
        f"The rim runs into the end of its range on {on}, so what it is like there is not seen: "
        f"recalibrate, extents first, and measure again."
    )
    return f"{gate} If it is: {said[0].lower()}{said[1:]}" if gate else said


def _else_over(case: JudgedTake) -> str:
    return f"Over its limit: {_named(case.such('over'))}."


FINDINGS: tuple[Finding, ...] = (
    Finding(
        lambda case: nothing_moved(case.take),
        "Nothing moved in it: another stick was moved, or no signal comes from this one. See that it "
        "is the stick that was chosen; if it is, see to its plug, ribbon and supply.",
        "measure",
    ),
    Finding(
        lambda case: any(s.how == "stops" for s in case.take.silent),
        "One end of an axis is not reached: either it was learnt from something else, or the track is "
        "broken there. Recalibrate, extents first; if it still stops, replace the module.",
        "recalibrated",
    ),
    Finding(
        lambda case: bool(case.take.silent),
        "An axis gives no signal: its joint, trace, plug or ribbon is open, or its sensor is dead. "
        "See that the source reads the right axis; then reseat and reflow, with the power off, before "
        "a module goes.",
        "measure",
    ),
    Finding(
        jumps,
        "It jumps to an end or to the middle and back: a loose joint, plug or ribbon. Press the board "
        "and move the cable while you watch; reseat or reflow before anything else.",
        "measure",
    ),
    Finding(
        _stuck,
        "It does not always come back: look for a rub, a bind or a loose joint before anything else.",
        "measure",
    ),
    Finding(
        _spiky,
        "Spikes with hands off speak for dirt on the track: clean it first.",
        "cleaned",
    ),
    Finding(
        dead_spans,
        "There are places on the track that pass after pass jumps over: replace the module.",
        "replaced",
    ),
    Finding(
        _falls_when_pushed,
        "It falls back while it is pushed, and was not seen to in a Hold: hold it over at each side. "
        "If it falls back there, the track fails, and the module is to be replaced.",
        "measure",
    ),
    Finding(
        lambda case: _drops_when_held(case) or _falls_back_again(case),
        "It falls back while it is held at the edge: the track fails there. Replace the module.",
        "replaced",
    ),
    Finding(
        lambda case: case.over("hold.sag"),
        "It falls back while it is held at the edge. Hold it there again, pressed firmly: if it was "
        "not the hand that gave way, the track fails there, and the module is to be replaced.",
        "replaced",
    ),
    Finding(
        _touched,
        f"{STILL_AGAIN} If nobody touched it, a contact is failing.",
        "measure",
    ),
    Finding(
        _as_one,
        "Both axes tremble as one: that comes from the supply or the ground. Try another cable, "
        "port or battery before anything is opened.",
        "measure",
    ),
    Finding(
        _rough_in_places,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
    ),
    Finding(
        _held_on_its_way,
        "It comes back to different places, along the way it came and to one side: a rub, a bind or a "
        "dry bearing. See what holds it before any part goes.",
        "measure",
    ),
    Finding(
        returns_apart,
        "It comes back to different places: wear or a bind. If nothing rubs, replace the module.",
        "replaced",
    ),
    Finding(
        lambda case: case.over("still.wander") or case.over("turn.wander"),
        "It wanders with hands off: a contact that is worn or failing. No calibration holds it; "
        "replace the module.",
        "replaced",
    ),
    Finding(
        _noise_is_most,
        _by_trembling,
        "cleaned",
    ),
    Finding(
        _recentring_is_enough,
        "It comes back to one place, only not to zero: recalibrate before opening it.",
        "recalibrated",
    ),
    Finding(
        _needs_dead_zone,
        "Even recentred it would need more dead zone than the limit: replace the module.",
        "replaced",
    ),
    Finding(
        rough,
        "There are rough places along the track: dirt, more often than not. Clean it first.",
        "cleaned",
    ),
    Finding(
        trembles,
        _by_trembling,
        "cleaned",
    ),
    Finding(
        _cross_talk,
        "One axis moves the other: see that the module sits flush and straight, then measure again.",
        "measure",
    ),
    Finding(
        _rim_mends,
        _by_scale,
        "recalibrated",
    ),
    Finding(
        lambda case: case.over("composite.outer_dead_zone_needed"),
        "It stops short of an end of its range: recalibrate, extents first.",
        "recalibrated",
    ),
    Finding(
        _other_gate,
        _by_gate,
        "measure",
    ),
    Finding(
        _alike_all_round,
        "The rim is out of shape alike in all four quarters, as nothing that rubs makes it: a curve "
        "that the device lays over its reports, or another gate than the model’s. Measure by a rawer "
        "source.",
        "measure",
    ),
    Finding(
        rim_is_off,
        "The rim itself is out of shape: see that the module sits flush and nothing rubs.",
        "replaced",
    ),
    Finding(
        _cut_off,
        _by_the_ends,
        "recalibrated",
    ),
    Finding(
        lambda case: case.over("let_go.settle_ms_p90"),
        "It comes back late: look for a rub, a dry bearing or a tired spring.",
        "measure",
    ),
    Finding(lambda case: bool(case.such("over")), _else_over, "measure"),
    Finding(
        _hidden,
        "The source hides something, so nothing here may pass for health: measure by a rawer source "
        "before it is called fixed.",
        "measure",
    ),
    Finding(
        lambda case: bool(_not_at_rest(case)),
        _by_rests,
        "measure",
    ),
    Finding(
        _incomplete,
        "The dead zone it needs was not measured: it takes a usable Still and Let-go.",
        "measure",
    ),
    Finding(lambda case: bool(case.such("borderline") or _once(case)), _too_near, "none"),
    Finding(lambda *_: True, "Every reading taken is within its limit.", "none"),
)


def diagnose(case: JudgedTake) -> Advice:
    """The first finding whose test holds."""
    finding = next(f for f in FINDINGS if f.holds(case))
    words = finding.advice if isinstance(finding.advice, str) else finding.advice(case)
    return Advice(words, finding.try_first)


Told = Literal["jumps", "dirt", "as one", "everywhere", "alone", "falls", "shape", "near", "within"]


def told_first(take: TakeReadings) -> Told | None:
    """What is told first of a take, by everyday use: jumps to an end or the middle; spikes with
    hands off or rough places along the track; both axes that tremble as one, or a
    single one that does so alike everywhere; one that trembles and another that does not; that it
    falls back where it was pushed alone; a rim that is out of shape; that something is too near its
    limit to call; or that every reading that has a limit is surely within it, and nothing is hidden
    or missing. None where it is something else."""
    case = JudgedTake(take, "everyday", LIMIT_OF)
    first = next(f for f in FINDINGS if f.holds(case))
    if first.holds is jumps:
        return "jumps"
    if first.holds in (_spiky, _rough_in_places):
        return "dirt"
    if first.holds is _as_one:
        return "as one"
    if first.advice is _by_trembling and _trembles_everywhere(case):
        return "everywhere"
    if first.advice is _by_trembling and _one_axis_trembles(case):
        return "alone"
    if first.holds is _falls_when_pushed:
        return "falls"
    if first.holds is rim_is_off:
        return "shape"
    if first.advice is _too_near:
        return "near"
    return "within" if first is FINDINGS[-1] else None


def of_another_gate(take: TakeReadings) -> bool:
    """Whether its rim is off, by everyday use, against a gate that it has not: nothing of it can be
    judged before that. Not where the ends of the range cut it off, which may make it look so."""
    return _other_gate(JudgedTake(take, "everyday", LIMIT_OF))


def near_limits(take: TakeReadings) -> list[str]:
    """The readings that are too near their limit to call, by everyday use."""
    return JudgedTake(take, "everyday", LIMIT_OF).such("borderline")
