"""What is told with a controller when it goes: what it came for, what was wrong, what was done, how it
reads now, what to expect, when to come back. A draft, from the record; whoever hands it over corrects
it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from hollow_pin.core.causes import SOUND
from hollow_pin.core.intake import MOVES_PEOPLE
from hollow_pin.core.ranking import Ranked
from hollow_pin.core.record import OneAxis
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.words import lower_first


@dataclass(frozen=True)
class Line:
    """One thing that is told: what it is about, and in sentences."""

    about: str
    words: str


@dataclass(frozen=True)
class DoneWork:
    """Work as it stands on record. code: the remedy's; words: what was done, with its axis and lot;
    axis: empty where it is no one axis's; recheck_on: the day, empty where none was put down; held:
    how the shop's own record of it reads, empty where there is none."""

    code: str
    words: str
    axis: OneAxis = ""
    recheck_on: str = ""
    held: str = ""


@dataclass(frozen=True)
class Story:
    """What the record holds of a job. stick: in words. came: the sentence of the first take, before
    anything was done, empty where there is none; wrong: the causes as they were ranked by it, the
    likely ones first; nothing_over: whether it asked for nothing. now: what was measured since, in
    sentences, empty where nothing was; to_do: what that still asks for. measured_since: whether
    anything was measured after the last work. rest: how the function check before it goes reads, empty
    where there was none. others: what was done to its other sticks, and what those ask for."""

    complaint: str
    stick: str
    refer: bool
    came: str
    wrong: Sequence[Ranked]
    nothing_over: bool
    done: Sequence[DoneWork]
    now: str
    to_do: str
    measured_since: bool
    rest: str
    others: Sequence[str]


COME_BACK = "When it moves by itself again, or catches: it is held against what it reads today."
REFERRED = f"{MOVES_PEOPLE}: nothing was repaired here. It goes to its maker or a licensed service."


def hand_over(story: Story) -> tuple[Line, ...]:
    """What is told, in the order in which it is asked."""
    lines = [Line("Brought for", _brought_for(story))]
    if story.came:
        lines.append(Line("As it came", _as_it_came(story)))
    if story.refer:
        return (*lines, Line("Referred", REFERRED))
    done = in_a_row([w.words for w in story.done])
    lines.append(Line("Done", done or "Nothing was done to it."))
    lines.append(Line("Now", _now(story)))
    if story.done and not story.measured_since:
        lines.append(Line("Left to do", "Measure it again."))
    elif story.to_do:
        lines.append(Line("Left to do", story.to_do))
    still = _still_in_it(story.done)
    if expected := _expected(still):
        lines.append(Line("What to expect", expected))
    if story.done:
        lines.append(Line("Come back", _come_back(still)))
    lines.append(Line("The rest of it", story.rest or "It was not checked again."))
    return (*lines, *(Line("Besides", words) for words in story.others))


def _brought_for(story: Story) -> str:
    complaint = story.complaint.strip()
    return f"“{complaint}”, {story.stick}." if complaint else f"Its {story.stick}."


def _as_it_came(story: Story) -> str:
    likely = [r for r in story.wrong if r.likely and r.cause != SOUND]
    if story.nothing_over:
        return f"{story.came} Nothing was over its limit."
    if not likely:
        return story.came
    return f"{story.came} {in_a_row([r.name for r in likely])}"


def in_a_row(things: Sequence[str]) -> str:
    """As a sentence, one after the other, the same ones once; empty of none."""
    often = {1: "", 2: ", twice"}
    named = [f"{t}{often.get(n, f', {n} times')}" for t, n in Counter(things).items()]
    text = "; ".join([t if n == 0 else lower_first(t) for n, t in enumerate(named)])
    return f"{text[0].upper()}{text[1:]}." if text else ""


def _now(story: Story) -> str:
    if story.done and not story.measured_since:
        return "It was not measured after that."
    if not story.now:
        return "As it came." if story.came else "It was not measured."
    return story.now


def _still_in_it(done: Sequence[DoneWork]) -> list[DoneWork]:
    """Of all that was done, what a part that was fitted after it did not take out again."""
    return [
        work
        for n, work in enumerate(done)
        if not any(BY_CODE[w.code].renews and w.axis in ("", work.axis) for w in done[n + 1 :])
    ]


def _expected(done: Sequence[DoneWork]) -> str:
    """What to expect of each kind of work, once, and how often it held here."""
    by_code = {w.code: w for w in done}
    sentences = [
        sentence
        for code, work in by_code.items()
        for sentence in (BY_CODE[code].expect, work.held)
        if sentence
    ]
    return " ".join(dict.fromkeys(sentences))


def _come_back(done: Sequence[DoneWork]) -> str:
    days = sorted(w.recheck_on for w in done if w.recheck_on)
    if not days:
        return COME_BACK
    of = next(w for w in done if w.recheck_on == days[0])
    return f"On {days[0]}, to look again at what was done: {lower_first(of.words)}. {COME_BACK}"


def as_text(lines: Sequence[Line]) -> str:
    """A line each, as it stands in the outcome."""
    return "\n".join(f"{line.about}: {line.words}" for line in lines)
