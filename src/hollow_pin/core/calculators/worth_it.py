"""Is it worth it: the chains of remedies that Decide weighs, for a cause that one is told."""

from __future__ import annotations

from typing import Any, cast

from hollow_pin.core.calculators.calculator import Calculator, Curve, Input, Output, Plot
from hollow_pin.core.causes import CAUSES
from hollow_pin.core.remedies import BY_CODE, WORK, ModuleKind
from hollow_pin.core.words import lower_first
from hollow_pin.core.worth import RETIRED, Money, Worth, worth


def _weighed(
    cause: str, probability: float, rate: float, controller: float, sensor: str = "potentiometer"
) -> Worth:
    kind = cast("ModuleKind", sensor)
    cures = {r.code: {cause: r.helps[cause].chance} for r in WORK if cause in r.helps}
    allowed = [r.code for r in WORK if kind in r.sensors]
    return worth(allowed, cures, {cause: probability}, Money(rate, controller))


def _run(
    cause: str, probability: float, rate: float, controller: float, **more: str
) -> dict[str, Any]:
    weighed = _weighed(cause, probability, rate, controller, **more)
    first = weighed.chains[0]
    mending = [c for c in weighed.chains if c.remedies != (RETIRED,)]
    return {
        "begin_with": BY_CODE[first.remedies[0]].label,
        "chance": first.chance,
        "minutes": first.minutes,
        "parts": first.parts,
        "cost": first.cost,
        "instead": next(c.cost for c in weighed.chains if c.remedies == (RETIRED,)),
        "break_even": weighed.break_even,
        "chains": [
            f"{', then '.join(lower_first(BY_CODE[r].label) for r in c.remedies)}: "
            f"{100 * c.chance:.0f}\u00a0% mended, {c.minutes:.0f} min, "
            f"parts {c.parts:.2f}, in all {c.cost:.2f}"
            for c in mending
        ],
    }


def _draw(cause: str, probability: float, rate: float, controller: float, **more: str) -> Plot:
    lines = _weighed(cause, probability, rate, controller, **more).lines
    far = 2 * controller
    return Plot(
        "price of another controller",
        "cost",
        "Where mending lies lower it is worth it; the lines cross at the break-even.",
        tuple(Curve(line.label, (0.0, far), (line.at_nothing, line.at_twice)) for line in lines),
        meant=0,
    )


MENDED = tuple(c.code for c in CAUSES if any(r.is_work and r.mends for r, _ in c.helped_by))
"""Causes that some work mends."""
CALCULATOR = Calculator(
    "worth",
    "Is it worth it",
    "Expected cost of a chain: minutes · rate + parts + (1 − chance that it passes in the end) · "
    "another controller; each remedy only as far as those before it did not do, measuring after "
    "each. Chances are the usual word of the trade: Decide counts with a take and the shop's record.",
    (
        Input("cause", "Cause", choices=MENDED, first="worn"),
        Input("probability", "How sure", "", 0.0, 1.0, first="0.9"),
        Input("rate", "An hour of the bench", "", 0.0, 1e6, first="24"),
        Input("controller", "Another controller", "", 0.0, 1e6, above=True, first="45"),
        Input("sensor", "Sensor", choices=("potentiometer", "hall"), optional=True),
    ),
    (
        Output("begin_with", "Begin with"),
        Output("chance", "Chance that it passes in the end"),
        Output("minutes", "Minutes, expected", "min"),
        Output("parts", "Parts, expected"),
        Output("cost", "Cost, expected"),
        Output("instead", "Another one instead"),
        Output("break_even", "Worth it from this price of another on"),
        Output("chains", "Chains, the cheapest first"),
    ),
    _run,
    _draw,
)
