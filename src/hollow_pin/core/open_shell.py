"""Whether a shell may be closed, by what was measured with it open."""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.job import stick_name
from hollow_pin.core.limits import Limits, verdicts_on
from hollow_pin.core.readings import TakeReadings, silence_of
from hollow_pin.core.words import listed

IN_QUICK = ("still.", "let_go.", "rim.", "composite.", "joint.")
"""Readings that the quick routine has."""


@dataclass(frozen=True)
class OpenStick:
    """A stick that was worked on since its shell was opened. before: the last take before that work;
    after: the last one since, with the shell open. None where there is none."""

    stick: str
    before: TakeReadings | None
    after: TakeReadings | None


@dataclass(frozen=True)
class OpenShellCheck:
    """close: whether it may be closed; None where there is nothing to check. quick: whether the quick
    routine looks at everything that was over before."""

    close: bool | None
    says: str
    quick: bool = True


def judge(sticks: tuple[OpenStick, ...], limits: Limits) -> OpenShellCheck:
    """Close it, or not yet, and why. What was over its limit before has to have been looked at again:
    a quick take of a track that fails far out would find nothing."""
    if not sticks:
        return OpenShellCheck(None, "Nothing was done to a stick since it was opened.")
    against = [words for s in sticks for words in _against(s, limits)]
    quick = all(quick_does(over_in(s.before, limits)) for s in sticks)
    if against:
        return OpenShellCheck(False, f"Do not close it yet: {'; '.join(against)}.", quick)
    names = listed([stick_name(s.stick) for s in sticks])
    are = "is" if len(sticks) == 1 else "are"
    return OpenShellCheck(
        True, f"Close it: the {names} {are} within every limit that was measured.", quick
    )


def quick_does(paths: list[str]) -> bool:
    """Whether the quick routine looks at all of some readings."""
    return all(path.startswith(IN_QUICK) for path in paths)


def over_in(readings: TakeReadings | None, limits: Limits) -> list[str]:
    """Paths of the readings that are surely over their limits; none where nothing was measured."""
    if readings is None:
        return []
    return [path for path, v in verdicts_on(readings, limits).items() if v == "over"]


def _against(s: OpenStick, limits: Limits) -> list[str]:
    name = stick_name(s.stick)
    if s.after is None:
        return [f"the {name} was not measured since, with the shell open"]
    silent = silence_of(s.after)
    if silent:
        return [f"of the {name}: {silent[0].lower()}{silent[1:]}"]
    now = verdicts_on(s.after, limits)
    over = [path for path, v in now.items() if v == "over"]
    if over:
        return [f"the {name} is over in {_named(over)}"]
    if "hidden" in now.values():
        return [f"the source hides what the {name} does"]
    unseen = [path for path in over_in(s.before, limits) if now.get(path) == "unknown"]
    if unseen:
        return [f"the {name} was over in {_named(unseen)}, and that was not measured again"]
    return []


def _named(paths: list[str]) -> str:
    return listed([BY_PATH[path].label.lower() for path in paths])
