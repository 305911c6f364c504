"""How many of a lot are looked at, and how many bad ones it may have: ISO 2859-1, single sampling,
normal inspection, general level II."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass

LOT_SIZES = (8, 15, 25, 50, 90, 150, 280, 500, 1200, 3200, 10_000, 35_000, 150_000, 500_000)
"""The largest lot of each code letter of level II; larger ones have the last letter (table 1)."""
LETTERS = ("A", "B", "C", "D", "E", "F", "G", "H", "J", "K", "L", "M", "N", "P", "Q")
SIZES = (2, 3, 5, 8, 13, 20, 32, 50, 80, 125, 200, 315, 500, 800, 1250)
"""How many are looked at, by letter (table 2-A)."""
AQLS = (0.65, 1.0, 1.5, 2.5, 4.0, 6.5)
"""Acceptance quality limits that can be chosen: bad ones in a hundred."""
ACCEPTS = (0, None, None, 1, 2, 3, 5, 7, 10, 14, 21)
"""Acceptance numbers along a column of table 2-A, from the first plan that accepts none. The first
None is an arrow up, to that plan; the second one down, to the next."""
FIRST_PLAN = {0.65: 5, 1.0: 4, 1.5: 3, 2.5: 2, 4.0: 1, 6.5: 0}
"""The place of the letter whose plan accepts none, by AQL; smaller lots have it too."""


@dataclass(frozen=True)
class SamplingPlan:
    """letter: of the plan that is used, which may be another than the lot's own. n: how many are
    looked at; accept: as many bad ones may be; reject: from so many on it is not accepted. aql: None
    where the whole lot is looked at: every bad one is sorted out, and none counts against the rest."""

    lot_size: int
    aql: float | None
    letter: str
    n: int
    accept: int
    reject: int


def whole_lot(lot_size: int) -> SamplingPlan:
    """Every single one."""
    return SamplingPlan(lot_size, None, "", lot_size, lot_size, lot_size + 1)


def single_plan(lot_size: int, aql: float) -> SamplingPlan:
    """The plan of a lot of 2 or more. aql: one of AQLS. Raises ValueError for anything else.

    Where a plan asks for as many as there are, or more, all of them are looked at, by its acceptance
    number.
    """
    if aql not in AQLS:
        raise ValueError(f"the AQL is one of {', '.join(f'{a:g}' for a in AQLS)}")
    if lot_size < 2:
        raise ValueError("a lot of one is looked at whole")
    own = bisect_left(LOT_SIZES, lot_size)
    place = own - FIRST_PLAN[aql]
    if place < 0:
        own, place = own - place, 0
    if place == 1:
        own, place = own - 1, 0
    elif place == 2:
        own, place = own + 1, 3
    while place >= len(ACCEPTS):
        own, place = own - 1, place - 1
    accept = ACCEPTS[place]
    assert accept is not None
    n = min(SIZES[own], lot_size)
    return SamplingPlan(lot_size, aql, LETTERS[own], n, accept, accept + 1)
