"""How likely each cause is, by an additive model: every evidence adds to the log-odds of a cause what
its value, in doublings of its scale, times a weight comes to. Anybody can add it up again.

Which evidence speaks for what, and which way, is laid down here; how much is fitted to takes whose
causes are known, and kept beside as data (`weights.json`).
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from math import exp, log
from typing import Literal

from hollow_pin.core.causes import CAUSE, CAUSES, SOUND, name_of
from hollow_pin.core.diagnosis import FindingCode, first_finding_code
from hollow_pin.core.evidence import BY_CODE, LEAST, evidence_of, never_there
from hollow_pin.core.hidden import COARSE_ZERO, MEASURED_ZERO
from hollow_pin.core.hold import SAG
from hollow_pin.core.judged import JudgedTake, drops_as_it_spikes, is_held_on_its_way
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits
from hollow_pin.core.reach_signs import dent
from hollow_pin.core.readings import (
    TakeReadings,
    as_if_the_hand_gave_way,
    held_once,
    of_a_touch,
    without_signal,
)
from hollow_pin.core.routine import StepName
from hollow_pin.core.sides import Axis, Sides
from hollow_pin.core.steps_read import needed_steps, other_steps
from hollow_pin.core.travel import Silent
from hollow_pin.core.turn import PLACES

Speaks = Mapping[str, int]
"""By evidence: +1 where a large value speaks for a cause, −1 where it speaks against it."""


def _by_sign(pro: str, con: str = "") -> Speaks:
    return dict.fromkeys(pro.split(), 1) | dict.fromkeys(con.split(), -1)


BINDING, DIRTY, LOOSE, WORN, SCALED = "binding", "dirty", "loose", "worn", "calibration"
SUPPLY, ZONE, FAILING = "supply-noise", "firmware-dead-zone", "failing-track"
SPEAKS: dict[str, Speaks] = {
    SOUND: _by_sign(
        "",
        "over worst off-centre returns-apart stops-short settles jitter wander spikes "
        "rough-in-places dead-width sag drops jumps short-reach lopsided overrun dent shape carried "
        "zone",
    ),
    "offset": _by_sign("off-centre", "zone"),
    WORN: _by_sign(
        "returns-apart by-side lands-anywhere beyond wander noisy-centre jitter",
        "stops-short short-both one-sided along settles dent in-common zone",
    ),
    DIRTY: _by_sign(
        "spikes roughest rough-in-places jitter",
        "noisy-centre in-common both-tremble mostly-jumps held-drops",
    ),
    BINDING: _by_sign(
        "stops-short short-both one-sided along settles dent shape",
        "jitter wander noisy-centre lands-anywhere beyond lopsided zone",
    ),
    "unseated": _by_sign("lopsided cut-wide overrun", "short-reach carried other-span short-span"),
    LOOSE: _by_sign("jumps mostly-jumps", "held-drops"),
    SCALED: _by_sign("short-reach cut-wide overrun lopsided other-span short-span", "dent"),
    FAILING: _by_sign("sag held-drops drops dead-spans dead-width", "jumps spikes"),
    "cross-talk": _by_sign("carried carried-more"),
    ZONE: _by_sign("zone", "jitter returns-apart"),
    SUPPLY: _by_sign("both-tremble in-common", "wander noisy-centre"),
}
MOST_FOR, MOST_ABSENT, MOST_AGAINST, MOST_FREE = 4.0, 3.0, 3.0, 0.5
"""The most that a doubling may weigh: of what speaks for a cause and is there; and is not there; of
what speaks against it and is there; and is not, which is hardly a reason for it."""


@dataclass(frozen=True)
class Weights:
    """Of one cause. bias: its log-odds when nothing is known. above, below: what each doubling of an
    evidence above its scale, or halving below it, comes to; usual: what it comes to on the average,
    and so counts for nothing."""

    bias: float
    above: Mapping[str, float]
    below: Mapping[str, float]
    usual: Mapping[str, float]

    def adds(self, code: str, doublings: float | None) -> float:
        """What an evidence adds to the log-odds, by its value in doublings of its scale; nothing where
        it was not measured."""
        if doublings is None:
            return 0.0
        side = self.above if doublings > 0 else self.below
        return side.get(code, 0.0) * doublings - self.usual.get(code, 0.0)


@dataclass(frozen=True)
class WeighedEvidence:
    """One evidence as it speaks for a cause, or against it. value: in the evidence's own unit. weight:
    what it adds to the log-odds."""

    reading: str
    value: float
    speaks_for: bool
    weight: float
    words: str


@dataclass(frozen=True)
class Ranked:
    """A cause with its own probability, 0 to 1, and what speaks for it and against it, the weightiest
    first. axis: None where it is no one axis's, or both are alike. The probabilities of causes do not
    add up to 1: several may be so at once."""

    cause: str
    axis: Literal["x", "y"] | None
    probability: float
    evidence: tuple[WeighedEvidence, ...]

    @property
    def name(self) -> str:
        """The cause in words, with its axis."""
        name = name_of(self.cause)
        return f"{name}, {self.axis}" if self.axis else name

    @property
    def likely(self) -> bool:
        """Whether it is likelier than not."""
        return self.probability >= LIKELY


RATHER: Mapping[FindingCode | None, tuple[str, ...]] = {
    "jumps": (LOOSE, DIRTY),
    "dirt": (DIRTY, LOOSE),
    "apart": (WORN,),
    "wanders": (WORN,),
    "as one": (SUPPLY,),
    "everywhere": (SUPPLY, DIRTY),
    "alone": (DIRTY, SUPPLY),
    "fails": (FAILING,),
    "ends": (SCALED,),
}
"""By what is told first: the cause that it is, by `THE_STICK` of what no other explains at the least;
and the one that it is told rather than, which is no likelier than not."""
BY_A_TIGHTER_LIMIT: Mapping[FindingCode | None, tuple[str, ...]] = {
    "off": ("offset",),
    "carried": ("cross-talk",),
    "scale": (SCALED,),
    "late": (BINDING,),
}
"""The same of what is told by a limit that is tighter than the usual ones, which weights were fitted
beside: by those it would not be told, with all that it takes measured."""
LIKELY = 0.5
SHOWN_FROM, FEWEST_SHOWN, MOST_SHOWN = 0.1, 2, 4
THE_STICK = 0.6
"""That what fell back or moved once is the stick's doing and not a hand's: what comes to a bench has
something wrong with it."""
OPEN = 0.7
"""That an axis without a signal has a joint, a trace, a plug or a ribbon open, and no dead sensor:
there are more of them, and they are what was last in somebody's hands."""
ONE_SIDE = (FAILING, SCALED)
"""What it is where one side of an axis is not reached: a track that is broken there, rather than an
end that was learnt from something else."""
SEEN = 0.9
"""That a source has a dead zone where one was measured, however small; that something holds a stick
that rests along the ways it came on, to one side, and no worn track; that it is dirt that makes a
track drop no more often than it spikes: that is seen, not concluded."""
SECTOR = 0.5
"""Of what a rim is out of shape by, that one sector is cut short: more is something that rubs."""
UNHEARD = 0.05
"""How likely either is before anything is known."""
AT_REST: dict[StepName, str] = {"still": "still.rest_offset", "let-go": "let_go.return_spread"}
"""What tells of a step whether a source hides what it is done for."""
WITHIN = 0.6
"""That a stick is sound of which all that has a limit is within it, if nothing else is likely: that is
what limits are for."""
NEAR = 0.49
"""The most that it is sound by where anything is told of it: something over its limit, or too near it
to call, or missing, or what its source hides. The most that it binds by where it is within every
limit. And that there is dirt where a joint is told, or the other way round."""
NEVER = 1e-9
WORTH_SAYING = 0.2
"""Of the log-odds, that an evidence adds or takes away to be listed."""
ALIKE = 1.0
"""Log-odds by which the axes may differ for both to be meant."""


@cache
def weights() -> dict[str, Weights]:
    """The fitted weights, by cause."""
    text = (resources.files("hollow_pin.core") / "weights.json").read_text("utf-8")
    return {cause: Weights(**w) for cause, w in json.loads(text).items()}


def rank(
    take: TakeReadings,
    grade: Grade = "everyday",
    limits: Limits = LIMIT_OF,
    by: Mapping[str, Weights] | None = None,
) -> tuple[Ranked, ...]:
    """Every cause, the likeliest first. grade, limits: what it is held against. by: other weights than
    those that ship.

    Of a hold that fell back and was done once only nobody can tell whether the track failed or the
    hand gave way, nor has anybody counted how often hands do: until it is held again a cause's
    probability is the mean of what it is by either, the track counting a little more (`THE_STICK`).
    What moved once in Still, as by a touch, is held against nothing but that it is sound, by as much.
    A dead zone that was measured in the source is there (`SEEN`); where a converter of coarse steps
    rests at exactly zero, and nothing crossed it to tell, that is no likelier than not. Of spikes
    that are felt with hands off, of places on the track that are surely rough, or pass after pass, of
    what comes back to different places or wanders, of both axes that tremble as one, of a single one
    that does so everywhere alike, of one that trembles and another that does not, of what drops or
    falls back again while it is held, of a rim that is surely cut short in one sector, or runs over
    the ends of its range and shows no more, and of jumps to an end or the middle nobody has counted
    how many come from elsewhere: it is dirt, or wear, or the supply, or a failing track, or something
    that rubs, or a calibration, or a joint, by as much of what no other cause explains; and so is
    what is told by limits that are tighter than the usual ones (`BY_A_TIGHTER_LIMIT`). What lies
    apart to one side, along the ways it came on, is held there, and by no worn track (`SEEN`). What
    is within every limit, and comes back late for a sound one, may be smoothed by its device: that it
    binds is no likelier than not. Nor is it likelier that there is dirt as well where it jumps to an
    end or the middle, since such jumps are spikes where they are too short to be told; or a loose
    joint where it does so no more often than dirt may by chance; or dirt where it fell back while it
    was pushed, and was not held to see that. Where it is likely dirty, and drops no more often than
    it spikes downward with hands off, that its track fails as well is not seen (`SEEN`): it is
    cleaned first. An axis without a signal shows nothing else of itself: that it is open, or dead, is
    all that is known of it (`OPEN`). A stick is sound no more probably than that it has none of the
    others, no less than `WITHIN` where it is within every limit and nothing else is likely, and no
    more than `NEAR` where anything else is told of it, or a step that it takes is missing: beside an
    advice it is never likely that there is nothing to do, and beside one that names a cause it is so
    by no more than the rest of `THE_STICK`."""
    table, case = by or weights(), JudgedTake(take, grade, limits)
    ranked = _rank(take, table)
    if held_once(take):
        other = {r.cause: r for r in _rank(as_if_the_hand_gave_way(take), table)}
        ranked = [_either(r, other[r.cause].probability) for r in ranked]
    if touched_in_still(case):
        ranked = _changed(ranked, SOUND, lambda p: (1.0 - THE_STICK) * p)
    if any(h.code in MEASURED_ZERO for h in take.hidden):
        ranked = _changed(ranked, ZONE, lambda p: max(p, SEEN))
    elif any(h.code == COARSE_ZERO for h in take.hidden):
        ranked = _changed(ranked, ZONE, lambda p: min(p, NEAR))
    first = first_finding_code(case)
    told_as = RATHER.get(first, ())
    if first in BY_A_TIGHTER_LIMIT:
        usually = first_finding_code(JudgedTake(take, "everyday", LIMIT_OF))
        told_as = () if usually in (first, "missing") else BY_A_TIGHTER_LIMIT[first]
    if told_as:
        ranked = _favour(ranked, *told_as)
    if first == "falls":
        ranked = _changed(ranked, DIRTY, lambda p: min(p, NEAR))
    if drops_as_it_spikes(case) and any(r.cause == DIRTY and r.likely for r in ranked):
        ranked = _changed(ranked, FAILING, lambda p: min(p, 1.0 - SEEN))
    if is_held_on_its_way(case):
        ranked = _changed(ranked, BINDING, lambda p: max(p, SEEN))
        ranked = _changed(ranked, WORN, lambda p: min(p, 1.0 - SEEN))
    if first == "shape" and _one_sector(take):
        ranked = _favour(ranked, BINDING)
    mute = without_signal(take)
    if mute is not None:
        ranked = [_of_silence(r, mute) for r in ranked]
    if first == "within":
        ranked = _changed(ranked, BINDING, lambda p: min(p, NEAR))
    fewest = WITHIN if first == "within" else 0.0
    most = 1.0 if first == "within" else 1.0 - THE_STICK if told_as else NEAR
    most = min(1.0 - _likeliest(ranked, SOUND), most)
    ranked = _changed(ranked, SOUND, lambda p: min(max(p, fewest), most))
    return tuple(sorted(ranked, key=lambda r: -r.probability))


def _favour(ranked: Sequence[Ranked], favoured: str, *than: str) -> list[Ranked]:
    """The causes, one of them by `THE_STICK` of what no other explains at the least, and those that it
    is told rather than no likelier than not."""
    others = {r.cause for r in ranked if not _could_explain(r.cause, favoured)}
    least = THE_STICK * (1.0 - _likeliest(ranked, SOUND, favoured, *than, *others))
    ranked = _changed(ranked, favoured, lambda p: max(p, least))
    for cause in than:
        ranked = _changed(ranked, cause, lambda p: min(p, NEAR))
    return list(ranked)


def _could_explain(cause: str, other: str) -> bool:
    """Whether what speaks for a cause is of what speaks for another, or against it: an offset explains
    no rough place. What a source makes of a stick may be anything."""
    pro = [code for code, sign in SPEAKS[cause].items() if sign > 0]
    return cause == ZONE or any(code in SPEAKS[other] for code in pro)


def _changed(ranked: Sequence[Ranked], cause: str, to: Callable[[float], float]) -> list[Ranked]:
    """The causes, with another probability of one of them."""
    return [replace(r, probability=to(r.probability)) if r.cause == cause else r for r in ranked]


def _likeliest(ranked: Sequence[Ranked], *but: str) -> float:
    """The probability of the likeliest cause but these."""
    return max((r.probability for r in ranked if r.cause not in but), default=0.0)


def _one_sector(take: TakeReadings) -> bool:
    """Whether one sector is most of what a rim is out of shape by: something rubs there."""
    deep = dent(Sides(take), "x")
    return deep is not None and deep > SECTOR * (take.composite.shape_after_recalibration or 0.0)


def _of_silence(ranked: Ranked, mute: Silent) -> Ranked:
    """A cause, by an axis that gives no signal."""
    likelier, other = (LOOSE, FAILING) if mute.side is None else ONE_SIDE
    chance = {likelier: OPEN, other: 1.0 - OPEN}.get(ranked.cause)
    if chance is None:
        return ranked
    weight = _odds(chance) - _odds(UNHEARD)
    spoken = WeighedEvidence(f"still.rest_{mute.axis}", mute.at, True, weight, mute.words)
    return replace(ranked, axis=mute.axis, probability=chance, evidence=(spoken,))


def touched_in_still(case: JudgedTake) -> bool:
    """Whether it moved once in Still as by a touch, so far that it may not be called fine."""
    return any(case.verdict(path) in ("over", "borderline") for path in of_a_touch(case.take))


def _rank(take: TakeReadings, table: Mapping[str, Weights]) -> list[Ranked]:
    """Every cause, as the take stands."""
    evidence, never = evidence_of(take), never_there(take)
    ranked = [_ranked(c.code, table[c.code], evidence, never) for c in CAUSES]
    known_share = _share_known(take)
    return _changed(ranked, SOUND, lambda p: known_share * p)


def _either(by_track: Ranked, by_hand: float) -> Ranked:
    """A cause where the track may have failed or the hand given way: the sag speaks by so much less as
    its odds move, and never the other way."""
    chance = THE_STICK * by_track.probability + (1.0 - THE_STICK) * by_hand
    moved = _odds(chance) - _odds(by_track.probability)

    def reweighed(e: WeighedEvidence) -> float:
        if e.reading != SAG:
            return e.weight
        return max(0.0, e.weight + moved) if e.speaks_for else min(0.0, e.weight + moved)

    evidence = [replace(e, weight=reweighed(e)) for e in by_track.evidence]
    return replace(by_track, probability=chance, evidence=_weightiest(evidence))


def _weightiest(evidence: Sequence[WeighedEvidence]) -> tuple[WeighedEvidence, ...]:
    """What is worth saying, the weightiest first."""
    weighty = [e for e in evidence if abs(e.weight) >= WORTH_SAYING]
    return tuple(sorted(weighty, key=lambda e: -abs(e.weight)))


def _odds(chance: float) -> float:
    """Log-odds of a chance, as far from certain as anybody can add up."""
    chance = min(max(chance, NEVER), 1.0 - NEVER)
    return log(chance / (1.0 - chance))


def worth_showing(ranked: Sequence[Ranked]) -> tuple[Ranked, ...]:
    """Of all causes, the likeliest first, those that are shown: two at least, four at most."""
    worth = [c for i, c in enumerate(ranked) if c.probability >= SHOWN_FROM or i < FEWEST_SHOWN]
    return tuple(worth[:MOST_SHOWN])


def _share_known(take: TakeReadings) -> float:
    """The share that was measured of what a stick must show to be called sound, rest, returns and how
    far it reaches, times that of these and what else it shows, its tracks and that it stays where it
    is held; of a paddle, rest at three places. What was not looked at is not sound, nor is what its
    source hides, or what gives no signal."""
    if take.silent:
        return 0.0
    if take.turn is not None:
        return len(take.turn.rests) / len(PLACES)
    hidden = {step for step, path in AT_REST.items() if take.hidden_at(path)}
    needed, others = needed_steps(take), other_steps(take)

    def share(steps: Mapping[StepName, object | None]) -> float:
        read_steps = [
            step for step, read in steps.items() if read is not None and step not in hidden
        ]
        return len(read_steps) / len(steps)

    return share(needed) * share({**needed, **others})


Found = Mapping[str, Mapping[str, float | None]]


def weighed(
    cause: str, signs: Found, axis: Axis, never: frozenset[str] = frozenset()
) -> dict[str, float | None]:
    """The evidence of a cause on an axis, in doublings of its scale; None where it was not measured. A
    cause that is no one axis's is spoken for by the worse of them. never: evidence that a stick of its
    kind cannot show."""
    values: dict[str, float | None] = {}
    for code in SPEAKS[cause]:
        if code in never:
            values[code] = None if cause == WORN else LEAST
            continue
        on = signs[code]
        values_by_axis = [on.get(axis)] if CAUSE[cause].by_axis else list(on.values())
        each = [BY_CODE[code].doublings(v) for v in values_by_axis if v is not None]
        values[code] = max(each, default=None)
    return values


def _ranked(cause: str, w: Weights, signs: Found, never: frozenset[str]) -> Ranked:
    axes: tuple[Axis, ...] = ("x", "y") if "y" in next(iter(signs.values())) else ("x",)
    if not CAUSE[cause].by_axis:
        axes = ("x",)
    adds = {
        axis: {code: w.adds(code, v) for code, v in weighed(cause, signs, axis, never).items()}
        for axis in axes
    }
    odds = {axis: w.bias + sum(adds[axis].values()) for axis in axes}
    worse = max(axes, key=lambda axis: odds[axis])
    chance = 1.0 / (1.0 + exp(-odds[worse]))
    alike = len(axes) == 2 and max(odds.values()) - min(odds.values()) < ALIKE
    named = worse if CAUSE[cause].by_axis and not alike and len(axes) == 2 else None
    return Ranked(cause, named, chance, _speaking(cause, adds[worse], signs, worse))


def _worse_axis(on: Mapping[str, float | None]) -> Axis:
    """The axis on which a value is the greater."""
    x, y = on.get("x"), on.get("y")
    return "y" if y is not None and (x is None or y > x) else "x"


def _speaking(
    cause: str, adds: Mapping[str, float], signs: Found, axis: Axis
) -> tuple[WeighedEvidence, ...]:
    speaking = []
    for code, weight in adds.items():
        on = signs[code]
        at = axis if CAUSE[cause].by_axis else _worse_axis(on)
        value = on[at]
        if value is None:
            continue
        e = BY_CODE[code]
        speaking.append(
            WeighedEvidence(e.reading_of(at), value, weight > 0, weight, e.in_words(value, at))
        )
    return _weightiest(speaking)
