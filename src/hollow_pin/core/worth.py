"""What is worth doing: the expected minutes and money of doing one remedy after the other, measuring
again after each, until it passes; against having another controller instead."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations

from hollow_pin.core.prospect import passes_after
from hollow_pin.core.remedies import BY_CODE

MEASURE_MINUTES = 3.0
CLOSE_MINUTES = 8.0
"""For opening and closing the shell, once for everything that is done while it is open."""
LONGEST = 3
CONSIDERED = 7
"""Remedies to a chain, and remedies that are strung together at all, the cheapest for what they cure:
259 chains."""
RETIRED = "retired"


@dataclass(frozen=True)
class Money:
    """What the shop counts with, in its currency. rate: an hour of the bench. controller: another one
    in its place. parts: by remedy, where it is not the table's."""

    rate: float = 24.0
    controller: float = 45.0
    parts: Mapping[str, float] | None = None

    def part(self, remedy: str) -> float:
        return (self.parts or {}).get(remedy, BY_CODE[remedy].price)


@dataclass(frozen=True)
class Chain:
    """Remedies one after the other, as far as is needed. chance: that it passes in the end. minutes,
    parts: expected. cost: of both, and of another controller where it does not pass."""

    remedies: tuple[str, ...]
    chance: float
    minutes: float
    parts: float
    cost: float


@dataclass(frozen=True)
class Line:
    """What a way costs, in the shop's currency, by what another controller costs: at nothing, and at
    twice what it does now."""

    label: str
    at_nothing: float
    at_twice: float


@dataclass(frozen=True)
class Worth:
    """chains: the cheapest first, at the most four; retiring it is one of them. break_even: what
    another controller must cost for mending to be worth it, 0 where it is whatever that costs; None
    where nothing mends it. even_cost: what both ways then cost; None where they nowhere cost the same.
    lines: both ways, to be drawn."""

    chains: tuple[Chain, ...]
    break_even: float | None
    even_cost: float | None
    lines: tuple[Line, ...]


Cures = Mapping[str, Mapping[str, float]]
"""By remedy, by cause: the chance that it cures it."""


def _minutes_of(code: str, opened: bool = False) -> float:
    """Doing it and measuring again, and opening the shell for it where that is not open."""
    remedy = BY_CODE[code]
    opening = CLOSE_MINUTES if remedy.opens and not opened else 0.0
    return remedy.minutes + opening + MEASURE_MINUTES


def cost_of(
    remedies: Sequence[str], cures: Cures, likely: Mapping[str, float], money: Money
) -> Chain:
    """The expected cost of a chain. A cause that one remedy does not cure may be by a later one, as if
    each came upon it afresh."""
    remaining = dict.fromkeys(likely, 1.0)
    minutes = parts = 0.0
    opened = False
    passed = passes_after({}, likely)
    for code in remedies:
        again = 1.0 - passed
        minutes += again * _minutes_of(code, opened)
        opened = opened or BY_CODE[code].opens
        parts += again * money.part(code)
        for cause in remaining:
            remaining[cause] *= 1.0 - cures.get(code, {}).get(cause, 0.0)
        passed = passes_after({cause: 1.0 - p for cause, p in remaining.items()}, likely)
    cost = minutes / 60.0 * money.rate + parts + (1.0 - passed) * money.controller
    return Chain(tuple(remedies), passed, minutes, parts, cost)


def _cost_of_a_cure(
    code: str, cures: Mapping[str, float], likely: Mapping[str, float], money: Money
) -> float:
    """What a remedy costs for every cause that it is to be expected to cure, whatever else is to be
    cured as well: what does little is dear however quickly it is done."""
    cured = sum(p * cures.get(cause, 0.0) for cause, p in likely.items())
    return (_minutes_of(code) / 60.0 * money.rate + money.part(code)) / max(cured, 1e-9)


def worth(allowed: Sequence[str], cures: Cures, likely: Mapping[str, float], money: Money) -> Worth:
    """The best chains of the remedies that may be done, of up to three, and retiring it. What only
    hides is in none; other sensors are put in once."""
    useful = sorted(
        (code for code in allowed if cures.get(code) and BY_CODE[code].mends),
        key=lambda code: _cost_of_a_cure(code, cures[code], likely, money),
    )[:CONSIDERED]
    chains = [
        cost_of(order, cures, likely, money)
        for length in range(1, LONGEST + 1)
        for order in permutations(useful, length)
        if sum(BY_CODE[code].renews is not None for code in order) <= 1
    ]
    minutes = BY_CODE[RETIRED].minutes
    cost = minutes / 60.0 * money.rate + money.controller
    retire = Chain((RETIRED,), 0.0, minutes, 0.0, cost)
    chains.sort(key=lambda c: (c.cost, len(c.remedies)))
    best = _distinct(chains)
    offered = tuple(sorted([*best[:3], retire], key=lambda c: c.cost))
    first = best[0] if best else None
    labour = minutes / 60.0 * money.rate
    far = 2 * money.controller
    lines = [Line("another one", labour, labour + far)]
    if first is None or first.chance <= 0:
        return Worth(offered, None, None, tuple(lines))
    spent = first.minutes / 60.0 * money.rate + first.parts
    lines.insert(0, Line("mending", spent, spent + (1.0 - first.chance) * far))
    even = (spent - labour) / first.chance
    if even <= 0:
        return Worth(offered, 0.0, None, tuple(lines))
    return Worth(offered, even, labour + even, tuple(lines))


def _distinct(chains: Sequence[Chain]) -> list[Chain]:
    """The cheapest of those that begin alike, so that what is shown differs in what to do now."""
    keys: set[str] = set()
    distinct = []
    for chain in chains:
        if chain.remedies[0] not in keys:
            keys.add(chain.remedies[0])
            distinct.append(chain)
    return distinct
