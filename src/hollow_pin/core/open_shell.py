"""Whether a shell may be closed, by what was measured with it open."""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.diagnosis import Advice, diagnose
from hollow_pin.core.job import stick_name
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import Limits
from hollow_pin.core.readings import TakeReadings, silence_of
from hollow_pin.core.seen_again import not_looked_at_again, quick_does, unseen_words


@dataclass(frozen=True)
class OpenStick:
    """A stick that was worked on since its shell was opened. before: its takes until the last of that
    work; after: those since, with the shell open; oldest first."""

    stick: str
    before: tuple[TakeReadings, ...] = ()
    after: tuple[TakeReadings, ...] = ()


@dataclass(frozen=True)
class OpenShellCheck:
    """close: whether it may be closed; None where there is nothing to check. quick: whether the quick
    routine looks at everything that is to be looked at again. measure: whether nothing but a
    measurement keeps it from being closed."""

    close: bool | None
    says: str
    quick: bool = True
    measure: bool = False


def judge(sticks: tuple[OpenStick, ...], limits: Limits) -> OpenShellCheck:
    """Close it, or not yet, and why: by what the last take of each stick asks for. What was wrong
    before has to have been looked at again: a quick take of a track that fails far out would find
    nothing."""
    if not sticks:
        return OpenShellCheck(None, "Nothing was done to a stick since it was opened.")
    quick = all(quick_does(s.before + s.after, limits, "everyday") for s in sticks)
    against = {s.stick: _against(s, limits) for s in sticks}
    if any(against.values()):
        measure = not any(s.after and _diagnosed(s, limits).asks == "something" for s in sticks)
        return OpenShellCheck(False, _said("Do not close it yet.", against), quick, measure)
    good = {s.stick: _diagnosed(s, limits).words for s in sticks}
    return OpenShellCheck(True, _said("Close it.", good), quick)


def _said(verdict: str, by_stick: dict[str, str]) -> str:
    of_sticks = [f"{stick_name(s).capitalize()}: {words}" for s, words in by_stick.items() if words]
    return " ".join([verdict, *of_sticks])


def _diagnosed(s: OpenStick, limits: Limits) -> Advice:
    return diagnose(_judged(s.after[-1], limits))


def _judged(take: TakeReadings, limits: Limits) -> JudgedTake:
    return JudgedTake(take, "everyday", limits)


def _against(s: OpenStick, limits: Limits) -> str:
    if not s.after:
        return "It was not measured since, with the shell open."
    now = s.after[-1]
    advice = _diagnosed(s, limits)
    if advice.asks != "nothing":
        told = advice.words.startswith(silence_of(now))
        return advice.words if told else f"{silence_of(now)}. {advice.words}"
    earlier = s.before + s.after[:-1]
    unseen = not_looked_at_again(earlier, now, limits, "everyday")
    if unseen:
        return unseen_words(unseen)
    was_over = {p for take in earlier for p in _judged(take, limits).with_verdict("over")}
    return advice.words if was_over & {*_judged(now, limits).with_verdict("borderline")} else ""
