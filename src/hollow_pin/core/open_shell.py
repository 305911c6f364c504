"""Whether a shell may be closed, by what was measured with it open."""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.job import stick_name
from hollow_pin.core.words import listed


@dataclass(frozen=True)
class Measured:
    """A stick that was worked on. measured: whether a take with the shell open came after the work;
    over: names of the readings that are over their limits in it; hidden: whether the source hides what
    would tell."""

    stick: str
    measured: bool
    over: tuple[str, ...] = ()
    hidden: bool = False


@dataclass(frozen=True)
class OpenShellCheck:
    """close: whether it may be closed; None where there is nothing to check. take_ids: by what was
    judged."""

    close: bool | None
    says: str
    take_ids: tuple[int, ...] = ()


def judge(sticks: tuple[Measured, ...], take_ids: tuple[int, ...] = ()) -> OpenShellCheck:
    """Close it, or not yet, and why. sticks: those that were worked on since it was opened."""
    if not sticks:
        return OpenShellCheck(None, "Nothing was done to a stick since it was opened.")
    against = []
    for s in sticks:
        name = stick_name(s.stick)
        if not s.measured:
            against.append(f"the {name} was not measured since, with the shell open")
        elif s.over:
            against.append(f"the {name} is over in {listed([o.lower() for o in s.over])}")
        elif s.hidden:
            against.append(f"the source hides what the {name} does")
    if against:
        return OpenShellCheck(False, f"Do not close it yet: {'; '.join(against)}.", take_ids)
    names = listed([stick_name(s.stick) for s in sticks])
    are = "is" if len(sticks) == 1 else "are"
    return OpenShellCheck(
        True, f"Close it: the {names} {are} within every limit that was measured.", take_ids
    )
