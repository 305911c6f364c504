"""Which remedy to begin with."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from hollow_pin.core.causes import SOUND
from hollow_pin.core.intake import Intake
from hollow_pin.core.ranking import ZONE, Ranked
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.worth import Chain

RAWER = "rawer-source"


def advised(
    ranked: Sequence[Ranked],
    offered: Collection[str],
    chains: Sequence[Chain],
    intake: Intake,
    refer: bool,
    look_first: bool = False,
    nothing_asked: bool = False,
) -> str | None:
    """The remedy to begin with, by its code; None where nothing is worth doing, or another look comes
    before anything is done (look_first). nothing_asked: nothing is surely over its limit, hidden or
    missing.

    Referred is referred; a sound stick is left, and so is one of which nothing is asked, whatever
    shows below its limits; a rawer source comes before anything that a dead zone hides is judged;
    under warranty nothing is opened here. Else the first of the cheapest chain.
    offered: the codes of what may be done. chains: the cheapest first.
    """
    if refer:
        return "refer"
    if look_first:
        return None
    top = ranked[0]
    if nothing_asked or (top.cause == SOUND and top.likely):
        return "left"
    if any(c.cause == ZONE and c.likely for c in ranked) and RAWER in offered:
        return RAWER
    first = next((c.remedies[0] for c in chains), None)
    if intake.warranty == "yes" and (first is None or BY_CODE[first].opens or BY_CODE[first].ends):
        return "passed-on"
    return first
