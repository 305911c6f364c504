"""What mending costs and when it is worth it: by living through it ten thousand times, and by hand."""

from __future__ import annotations

from itertools import permutations

import numpy as np
import pytest

from hollow_pin.core.calculators.worth_it import CALCULATOR
from hollow_pin.core.causes import CAUSES, SOUND
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.worth import (
    CLOSE_MINUTES,
    CONSIDERED,
    LONGEST,
    MEASURE_MINUTES,
    RETIRED,
    Money,
    cost_of,
    worth,
)

MONEY = Money(rate=30.0, controller=50.0, parts={"replaced": 8.0, "cleaned": 0.5})
LIKELY = {"worn": 0.7, "dirty": 0.4, "sound": 0.1}
CURES = {
    "recalibrated": {"worn": 0.1},
    "cleaned": {"dirty": 0.8, "worn": 0.2},
    "replaced": {"worn": 0.95, "dirty": 0.9},
}


def lived_through(order: tuple[str, ...], times: int) -> tuple[float, float, float]:
    """The share that passes, the minutes and the price of parts on average."""
    rng = np.random.default_rng(6)
    passed, minutes, parts = 0, 0.0, 0.0
    for _ in range(times):
        there = {c for c, p in LIKELY.items() if c != "sound" and rng.random() < p}
        opened = False
        for code in order:
            if not there:
                break
            remedy = BY_CODE[code]
            minutes += remedy.minutes + MEASURE_MINUTES
            minutes += CLOSE_MINUTES if remedy.opens and not opened else 0.0
            opened = opened or remedy.opens
            parts += MONEY.part(code)
            there = {c for c in there if rng.random() >= CURES[code].get(c, 0.0)}
        passed += not there
    return passed / times, minutes / times, parts / times


@pytest.mark.parametrize(
    "order",
    [("replaced",), ("cleaned", "replaced"), ("recalibrated", "cleaned", "replaced")],
)
def test_a_chain_costs_what_it_comes_to_on_average(order: tuple[str, ...]) -> None:
    """It is only gone on with where what was done before did not help, and the shell opened once."""
    costs = cost_of(order, CURES, LIKELY, MONEY)
    passed, minutes, parts = lived_through(order, 10_000)
    assert costs.remedies == order
    assert costs.chance == pytest.approx(passed, abs=0.015)
    assert costs.minutes == pytest.approx(minutes, rel=0.03)
    assert costs.parts == pytest.approx(parts, rel=0.03)
    cost = costs.minutes / 60 * 30.0 + costs.parts + (1 - costs.chance) * 50.0
    assert costs.cost == pytest.approx(cost)


def test_a_single_remedy_by_hand() -> None:
    cost = cost_of(("replaced",), {"replaced": {"worn": 0.9}}, {"worn": 1.0}, MONEY)
    replaced = BY_CODE["replaced"]
    assert cost.chance == pytest.approx(0.9)
    assert cost.minutes == pytest.approx(replaced.minutes + CLOSE_MINUTES + MEASURE_MINUTES)
    assert cost.parts == 8.0
    assert Money().part("replaced") == replaced.price, "the table's, where the shop has none"


def test_at_the_break_even_both_ways_cost_the_same() -> None:
    """The number a customer is told: below it another controller, above it the iron."""
    cures = {"replaced": {"worn": 0.9}}
    reckoning = worth(["replaced"], cures, {"worn": 1.0}, MONEY)
    even = reckoning.break_even
    assert even is not None
    at = Money(rate=30.0, controller=even, parts=MONEY.parts)
    mended = cost_of(("replaced",), cures, {"worn": 1.0}, at)
    retired = next(c for c in worth([], {}, {"worn": 1.0}, at).chains if c.remedies == (RETIRED,))
    assert mended.cost == pytest.approx(retired.cost)
    assert reckoning.even_cost == pytest.approx(retired.cost)
    mending, another = reckoning.lines
    assert (mending.label, another.label) == ("mending", "another one")
    for line, way in ((mending, cost_of), (another, None)):
        for price, told in ((0.0, line.at_nothing), (2 * 50.0, line.at_twice)):
            money = Money(rate=30.0, controller=price, parts=MONEY.parts)
            retiring = BY_CODE[RETIRED].minutes / 60 * 30.0 + price
            cost = way(("replaced",), cures, {"worn": 1.0}, money).cost if way else retiring
            assert told == pytest.approx(cost)


def test_the_lines_of_a_calculation_cross_at_its_break_even() -> None:
    """Who reads the price off the picture reads the number beside it."""
    given = {"cause": "worn", "probability": "0.9", "rate": "24", "controller": "45"}
    plot = CALCULATOR.plot(given)
    assert plot is not None
    mending, another = plot.curves
    assert mending.x == another.x == (0.0, 2 * 45.0)
    even = CALCULATOR.calculate(given)["break_even"]
    costs = [float(np.interp(even, c.x, c.y)) for c in plot.curves]
    assert costs[0] == pytest.approx(costs[1])


@pytest.mark.parametrize(("likely", "at_any_price"), [(0.83, True), (0.84, False)])
def test_what_takes_no_longer_than_retiring_it_pays_at_any_price(
    likely: float, at_any_price: bool
) -> None:
    """“Mending pays where another controller costs more than 0.00”, it said of another cable. Six
    minutes where something is wrong at all, against five."""
    cures = {"factory-calibrated": {"calibration": 0.8}}
    reckoning = worth(["factory-calibrated"], cures, {"calibration": likely}, MONEY)
    mending, another = reckoning.lines
    assert (mending.at_nothing < another.at_nothing) == at_any_price
    assert (reckoning.break_even == 0.0) == at_any_price
    assert (reckoning.even_cost is None) == at_any_price


def test_where_nothing_mends_it_there_is_only_another_one() -> None:
    reckoning = worth(["cleaned"], {"cleaned": {"dirty": 0.9}}, {"worn": 1.0}, MONEY)
    assert (reckoning.break_even, reckoning.even_cost) == (None, None)
    assert [line.label for line in reckoning.lines] == ["another one"]
    assert reckoning.chains[0].remedies == (RETIRED,)


def every_chain(mends: list[str]) -> list[tuple[str, ...]]:
    orders = (o for n in range(1, LONGEST + 1) for o in permutations(mends, n))
    return [o for o in orders if sum(BY_CODE[c].renews is not None for c in o) <= 1]


def test_the_best_chains_are_those_of_trying_every_one() -> None:
    """Of few remedies; of many nearly, and whatever else is quick: the remedies of a stick with two
    faults lost their places to those that do nothing for it, and it was to be retired."""
    usual = {c: {k: h.chance for k, h in r.helps.items()} for c, r in BY_CODE.items() if r.helps}
    mends = [c for c in usual if BY_CODE[c].mends and c != "rawer-source"]
    assert len(mends) > CONSIDERED
    rng = np.random.default_rng(3)
    for there in [("loose", "worn"), ("binding", "offset"), ("dirty", "loose", "worn"), ("worn",)]:
        likely = dict.fromkeys((c.code for c in CAUSES if c.code != SOUND), 0.03)
        likely |= {c: float(rng.uniform(0.6, 1.0)) for c in there}
        for offered, over in ((mends, 1.01), (sorted(mends)[:CONSIDERED], 1.0 + 1e-9)):
            reckoning = worth(offered, usual, likely, MONEY)
            costs = [chain.cost for chain in reckoning.chains]
            assert costs == sorted(costs)
            assert len({chain.remedies[0] for chain in reckoning.chains}) == len(reckoning.chains)
            best = min(c.cost for c in reckoning.chains if c.remedies != (RETIRED,))
            tried = min(cost_of(o, usual, likely, MONEY).cost for o in every_chain(offered))
            assert tried - 1e-9 <= best <= tried * over
