"""What the readings mean, in plain sentences."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from hollow_pin.core.advice_words import STILL_AGAIN
from hollow_pin.core.catalogue import BY_PATH, ReadingSpec
from hollow_pin.core.comparable import FELL_BACK, TOUCHED
from hollow_pin.core.comparison import (
    DECISIVE,
    Change,
    Compared,
    Comparison,
    Overall,
)
from hollow_pin.core.diagnosis import Remedy, asked_by, diagnose
from hollow_pin.core.hidden import LEAPS, MEASURED_ZERO, UNCALIBRATED, Hidden
from hollow_pin.core.hold import SAG, sags_most
from hollow_pin.core.job import Asked, stick_name
from hollow_pin.core.judged import JudgedTake, is_spiky, spikes_per_min
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits
from hollow_pin.core.readings import TakeReadings, moved_once, silence_of
from hollow_pin.core.words import DIGITS, GAIN, listed, lower_first, number, percent, toward

NEAR = 1.0
"""Under this, %, which way it rests is only told where it is known."""


@dataclass(frozen=True)
class Meaning:
    """sentence: what the stick does. advice: what to do about it. try_first: the remedy to begin with.
    again: whether nothing but another measurement tells what is to be done."""

    sentence: str
    advice: str
    try_first: Remedy
    again: bool

    @property
    def asks(self) -> Asked:
        """For nothing, for another measurement, or for something to be done."""
        return asked_by(self.try_first, self.again)


HALF_A_STEP = 0.6
"""% from zero that both axes lie who have no code for it, at 8 bits."""


def _place(take: TakeReadings) -> str | None:
    """Where it rests."""
    still = take.still
    if still is None:
        return None
    if still.rest_offset < GAIN / 2:
        return "at zero"
    u = take.uncertainty.get("still.rest_offset")
    if u is not None and still.rest_offset <= min(2 * u, NEAR):
        return f"{percent(still.rest_offset)} from zero"
    return f"{percent(still.rest_offset)} {toward(still.rest_bearing, len(take.recording.axes))}"


def _at_zero(take: TakeReadings) -> bool:
    """Whether it rests at zero, as far as its converter has one."""
    return take.still is None or take.still.rest_offset <= HALF_A_STEP


def _below_a_zone(zones: Sequence[Hidden], unseen: bool) -> str:
    """What a source hides. unseen: whether where the stick rests is part of that."""
    sentence = f"Hidden below {percent(max(h.below or 0.0 for h in zones))} by the source"
    if unseen:
        sentence += ": where it rests, and the dead zone it needs, are not seen"
    return f"{sentence}."


def _spikes(take: TakeReadings) -> str:
    high = percent(take.still.spike_height) if take.still else ""
    return f"{spikes_per_min(take):.0f} a minute, up to {high}"


def _dead_zone(take: TakeReadings) -> str | None:
    """The dead zone it needs, and what would be left of that; or that none hides its spikes."""
    needed = take.composite.dead_zone_needed
    after = take.composite.dead_zone_after_recentring
    if needed is None or after is None:
        return None
    if is_spiky(take):
        return f"Needs a dead zone of {percent(needed)}, and spikes through it: {_spikes(take)}."
    gain = f"would leave {percent(after)}" if needed - after >= GAIN else "gains nothing"
    return f"Needs a dead zone of {percent(needed)}; recentring {gain}."


def _recentred(take: TakeReadings) -> str | None:
    """The dead zone it needs wherever a calibration puts it."""
    after = take.composite.dead_zone_after_recentring
    return None if after is None else f"Recentred, it needs a dead zone of {percent(after)}."


def _of_turn(take: TakeReadings) -> list[str]:
    turn = take.turn
    if turn is None:
        return []
    sentences = []
    if turn.jitter is not None:
        sentences.append(f"Left alone, it trembles by {percent(turn.jitter)} at the worst.")
    sentences.append(
        f"The roughest place on the way makes {percent(turn.track_noise_max)} of noise."
    )
    return sentences


def explain(take: TakeReadings, grade: Grade = "everyday", limits: Limits = LIMIT_OF) -> Meaning:
    """What a take says, and what to try first."""
    if take.silent:
        silence = f"{silence_of(take)}."
        advice = diagnose(JudgedTake(take, grade, limits))
        return Meaning(silence, advice.words, advice.try_first, advice.again)
    place, dead_zone = _place(take), _dead_zone(take)
    if any(h.code == UNCALIBRATED for h in take.hidden):
        place, dead_zone = None, _recentred(take)
    zones = [h for h in take.hidden if h.code in MEASURED_ZERO]
    if any(h.code == LEAPS for h in zones) or (zones and _at_zero(take)):
        place = dead_zone = None
    parts = [_below_a_zone(zones, take.still is not None and not place)] if zones else []
    parts += [f"Rests {place}."] if place else []
    parts += _of_turn(take)
    if dead_zone:
        parts.append(dead_zone)
    elif take.rim and not zones:
        parts.append(f"The rim is {percent(take.rim.circularity_error)} from its gate on average.")
    elif not parts and take.let_go and take.let_go.return_spread is not None:
        parts.append(f"It comes back to within {percent(take.let_go.return_spread)} of one place.")
    elif not parts and take.crossing:
        worst = max(c.track_noise_max for c in (take.crossing.x, take.crossing.y) if c)
        parts.append(f"The roughest place on the track makes {percent(worst)} of noise.")
    elif not parts and take.hold:
        sag = sags_most(take.hold).sag
        parts.append(f"Held at the edge, it falls back by {percent(max(sag, 0.0))} at the worst.")
    if not parts:
        return Meaning(
            "Nothing in this take can be used.",
            "See below what each step was missing, and take it again.",
            "measure",
            again=True,
        )
    advice = diagnose(JudgedTake(take, grade, limits))
    return Meaning(" ".join(parts), advice.words, advice.try_first, advice.again)


OVERALL = {
    "better": "Better.",
    "worse": "Worse.",
    "mixed": "Better in part, worse in part.",
    "little": "Little changed.",
    "no-change": "No change that this bench can see.",
    "hidden": "What changed is hidden by the source.",
    "missing": "What decides was not measured both times.",
    "refused": "These two takes cannot be compared.",
}


REFERENCE = {
    "better": "Better than the reference.",
    "worse": "Worse than the reference.",
    "mixed": "Better than the reference in part, worse in part.",
    "little": "Much like the reference.",
    "no-change": "No difference from the reference that this bench can see.",
    "hidden": "How they differ is hidden by the source.",
    "missing": "What decides was not measured of both.",
    "refused": OVERALL["refused"],
}


TOLD = (
    "composite.dead_zone_needed",
    "composite.dead_zone_after_recentring",
    "let_go.return_spread",
)
"""What the sentences on rest and dead zone tell of."""

AGAINST: dict[Overall, Change] = {"better": "worse", "worse": "better"}
IN_WORDS = {"%": "\u00a0%", "/min": " a minute", "ms": "\u00a0ms"}


def _changes(comparison: Comparison, reference: bool, most: int = 2) -> tuple[str | None, bool]:
    """What else made it better or worse: one of each, or two where all went one way, or `most` of
    them; the largest against their limits first. And whether that speaks against the verdict."""
    telling = sorted(comparison.telling, key=Compared.against_limit, reverse=True)
    verdicts = {r.verdict for r in telling if r.path in TOLD}
    better = [r for r in telling if r.verdict == "better" and r.verdict not in verdicts]
    worse = [r for r in telling if r.verdict == "worse" and r.verdict not in verdicts]
    rows = [better[0], worse[0]] if better and worse else (better or worse)[:most]
    if not rows:
        return None, False
    joined = ", but " if len({r.verdict for r in rows}) > 1 else ", "
    text = joined.join(_change(row, reference, first=row is rows[0]) for row in rows)
    if {r.verdict for r in rows} == {AGAINST.get(comparison.overall)}:
        return f"But {text}.", True
    return f"{text[0].upper()}{text[1:]}.", False


def _by_how_much(comparison: Comparison, reference: bool) -> str:
    """What a little is, and what no change would have been: a number and how surely it is known."""
    deciding = [row for path in DECISIVE if (row := comparison.row(path))]
    if comparison.overall == "little":
        changed = [r for r in (*deciding, *comparison.headline) if r.verdict in ("better", "worse")]
        most = max(changed, key=lambda r: (r in deciding, r.against_limit()), default=None)
        if most is None:
            return ""
        unit = BY_PATH[most.path].unit
        size, sure = (
            number(v, unit) for v in (abs(most.change or 0.0), 2 * (most.u_change or 0.0))
        )
        return f": {_change(most, reference, first=True)}, by {size} ± {sure}"
    unchanged = [row for row in deciding if row.verdict == "no-change"]
    if comparison.overall == "no-change" and unchanged:
        spec, least = BY_PATH[unchanged[0].path], 2 * (unchanged[0].u_change or 0.0)
        finest = 10.0 ** -DIGITS.get(spec.unit, 0)
        size = number(max(ceil(least / finest), 1) * finest, spec.unit)
        return f"; one of {size}{IN_WORDS[spec.unit]} in the {_named(spec)} would show"
    return ""


def _seen_once(comparison: Comparison) -> list[str]:
    """What was over its limit and was not measured again, and what is over and had not been."""
    once = comparison.seen_once
    was = [_named(BY_PATH[r.path]) for r in once if r.after is None]
    now = [_named(BY_PATH[r.path]) for r in once if r.before is None]
    return [
        f"Over {'its limit' if len(names) == 1 else 'their limits'} {when}: {listed(names)}."
        for names, when in (
            (was, "before, and not measured again"),
            (now, "now, and not measured before"),
        )
        if names
    ]


def _named(spec: ReadingSpec) -> str:
    """As it stands within a sentence."""
    return (spec.label[0].lower() + spec.label[1:]).replace(" ", "\u00a0")


def _change(row: Compared, reference: bool, first: bool) -> str:
    spec = BY_PATH[row.path]
    was, now = number(row.before or 0.0, spec.unit), number(row.after or 0.0, spec.unit)
    unit = IN_WORDS.get(spec.unit, "")
    name = _named(spec)
    if reference:
        return f"{name} {now}{unit} against {was}{unit}"
    return f"{name} {'went ' if first else ''}from {was} to {now}{unit}"


def explain_comparison(
    comparison: Comparison, after: TakeReadings, stick: str, reference: bool = False
) -> str:
    """The sentence over a comparison; over a reference's, where that is what `before` is."""
    opening = (REFERENCE if reference else OVERALL)[comparison.overall]
    opening = opening.removesuffix(".") + _by_how_much(comparison, reference) + "."
    if comparison.refusals:
        return f"{opening} {comparison.refusals[0]}"
    if comparison.overall == "refused" and not after.silent:
        return f"{opening} No headline reading was measured in both."
    sentences = [opening]
    if after.silent:
        return f"{opening} {silence_of(after)}."
    if comparison.regained and not reference:
        sentences.append(f"{comparison.regained[0]} moves again.")
    (changes, against), place = _changes(comparison, reference), _place(after)
    # Where a source hides the rest, what it says of that is no place, and none a dead zone hides.
    hidden = after.hidden_at("composite.dead_zone_needed") is not None
    if changes and not against:
        sentences.append(changes)
    if not reference:
        sentences += _seen_once(comparison)
    if place and not hidden:
        now = "" if reference else "now "
        where = f"The {stick_name(stick)} {now}rests {place}"
        spread = comparison.row("let_go.return_spread")
        if spread and spread.after_limit == "over":
            still = "still " if spread.before_limit == "over" and not reference else ""
            where += f", and {still}comes back to different places"
        elif spread and spread.after_limit == "within" and not changes:
            where += " and comes back to the same place"
        sentences.append(where + ".")
    row = comparison.row("composite.dead_zone_needed")
    if moved_once(after):
        sentences.append(STILL_AGAIN)
    elif row and row.after is not None and not hidden:
        hides = f"A dead zone of {percent(row.after)} hides "
        hides += "that" if reference else "what is left at rest"
        if row.after_limit == "over":
            hides += f", over the limit of {percent(row.limit or 0)}"
        elif row.after_limit == "borderline":
            hides += f", too near the limit of {percent(row.limit or 0)} to call"
        if is_spiky(after):
            hides += f", but not the spikes: {_spikes(after)}"
        sentences.append(hides + ".")
    if row and (row.why or "").startswith(TOUCHED) and not moved_once(after):
        sentences.append("What it needed before is not known: it moved in Still, as by a touch.")
    if changes and against:
        sentences.append(changes)
    sag = comparison.row(SAG)
    if sag and (sag.why or "").startswith(FELL_BACK):
        sentences.append(
            "It fell back once while it was held: hold it there again, pressed firmly."
        )
    return " ".join(sentences)


def explain_by_way_of(
    way: Comparison, by: str, since: Comparison, after: TakeReadings, stick: str
) -> str:
    """The sentence over two takes by a third between them, which is better than the first and measured
    what the last did not. way: from the first to it; by: what it is called; since: from it to the
    last."""
    changes, _ = _changes(way, reference=False, most=1)
    opening = f"{OVERALL[way.overall].removesuffix('.')}, by {by}."
    then = f"Since then: {lower_first(explain_comparison(since, after, stick))}"
    return " ".join((opening, changes, then) if changes else (opening, then))
