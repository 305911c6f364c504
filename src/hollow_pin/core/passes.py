"""Whether another pass is worth it, by what was measured between them."""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.comparison import Overall


@dataclass(frozen=True)
class MeasuredPass:
    """A pass that is on record. overall: how the take after it stands against the one before; None
    where one of them is missing. within: whether everything that was measured after it is surely
    within its limit; None where nothing was, or not what was over before."""

    overall: Overall | None
    within: bool | None


@dataclass(frozen=True)
class PassAdvice:
    """says: what to do next, and why. measure: whether to measure first."""

    says: str
    measure: bool = False


def advise(passes: tuple[MeasuredPass, ...]) -> PassAdvice:
    """What to do after the last of some passes. Raises ValueError where there is none."""
    if not passes:
        raise ValueError("There is no pass to speak of.")
    last = passes[-1]
    if last.within is None:
        return PassAdvice(
            "Measure before the next pass: whether it does anything is then seen, not guessed.",
            True,
        )
    if last.within:
        return PassAdvice("Within every limit that was measured: no further pass is needed.")
    match last.overall:
        case "better":
            return PassAdvice(
                "It got better and is not yet within every limit: another pass is worth it."
            )
        case "worse":
            return PassAdvice(
                "It got worse. Look for fibres of the swab, let it dry, see that the disc is in the "
                "right way; then measure again."
            )
        case "mixed":
            return PassAdvice(
                "Some of it got better, some worse: look at what got worse before another pass."
            )
        case "no-change" | "little":
            return PassAdvice(
                "The last pass changed nothing that this bench can see, and another hardly will: what "
                "is left is no dirt that comes off."
            )
        case _:
            return PassAdvice(
                "It is not yet within every limit, and what the last pass did cannot be told: no take "
                "before it can be set against the one after."
            )
