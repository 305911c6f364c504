"""Every calculator by its name: what goes in with units and bounds, what comes out."""

from __future__ import annotations

from dataclasses import asdict
from itertools import product
from typing import Any, get_args

import numpy as np

from hollow_pin.core.calculators import dead_zone, worth_it
from hollow_pin.core.calculators.calculator import (
    Calculator,
    Curve,
    Input,
    OutOfBounds,
    Output,
    Plot,
    ohms,
    plain,
)
from hollow_pin.core.calculators.divider import compared, divide
from hollow_pin.core.calculators.iron import LIQUIDUS_C, Mass, Method, celsius, fahrenheit, start
from hollow_pin.core.calculators.trim import Network, suggest
from hollow_pin.core.recording import Floats

ABSOLUTE_ZERO_C = -273.15
SUPPLY = Input("supply_v", "Supply", "V", 0.0, 60.0, above=True, first="3.3")
POSITION = Input("position", "Wiper along the track, from the low end", "", 0.0, 1.0, first="0.5")
TOLERANCE = Input("tolerance_percent", "Tolerance of each part", "%", 0.0, 50.0, optional=True)


def _trim(
    track_ohms: float,
    trim_ohms: float,
    series_ohms: float,
    position: float,
    setting: float,
    supply_v: float,
    rest_percent: float | None = None,
    tolerance_percent: float | None = None,
) -> dict[str, Any]:
    if series_ohms == 0 and setting in (0.0, 1.0):
        raise OutOfBounds(
            "setting",
            f"{setting:g} with no series_ohms shorts the supply where the stick reaches the other "
            f"end; "
            "a number above 0 and below 1, or series_ohms above 0.",
        )
    network = Network(track_ohms, trim_ohms, series_ohms, supply_v)
    output = float(network.output(position, setting))
    low, high = (float(network.output(end, setting)) for end in (0.0, 1.0))
    furthest = network.furthest_percent(position) if series_ohms else (None, None)
    least, most = _tolerated(network, position, setting, tolerance_percent)
    suggested = [] if rest_percent is None else suggest(track_ohms, supply_v, rest_percent)
    return {
        "output": output,
        "untrimmed": position,
        "shift_percent": 200.0 * (output - position),
        "reach_low_percent": 200.0 * (0.5 - low),
        "reach_high_percent": 200.0 * (high - 0.5),
        "slope_at_centre": network.slope_at_centre(setting),
        "departure_percent": network.departure_percent(setting),
        "current_ma": network.most_current_ma(setting),
        "worst_current_ma": network.worst_current_ma() if series_ohms else None,
        "centring_setting": None
        if rest_percent is None
        else network.centring_setting(rest_percent),
        "shift_at_low_percent": furthest[0],
        "shift_at_high_percent": furthest[1],
        "shift_least_percent": least,
        "shift_most_percent": most,
        "suggested": [
            f"trim {plain(s.trim_ohms)} Ω, resistor {plain(s.series_ohms)} Ω: at {s.setting:.2f}, "
            f"slope {s.slope:.3f}, {s.worst_ma:.2f} mA at the most"
            for s in suggested
        ],
    }


def _tolerated(
    network: Network, position: float, setting: float, tolerance: float | None
) -> tuple[float | None, float | None]:
    """The least and the most shift that parts within their tolerance make, %: the signal rises or
    falls steadily with each of the three, so the bounds lie where each is at one of its own."""
    if tolerance is None:
        return None, None
    ends = (1 - tolerance / 100, 1 + tolerance / 100)
    shifts = [
        200
        * (
            float(
                Network(
                    network.track_ohms * a,
                    network.trim_ohms * b,
                    network.series_ohms * c,
                    network.supply_v,
                ).output(position, setting)
            )
            - position
        )
        for a, b, c in product(ends, repeat=3)
    ]
    return min(shifts), max(shifts)


TRAVEL = np.linspace(0.0, 1.0, 101)
PLACE_SAYS = "wiper along the track"


def _curve(label: str, y: Floats) -> Curve:
    return Curve(label, tuple(TRAVEL.tolist()), tuple(np.asarray(y, dtype=float).tolist()))


def _shifted(network: Network, setting: float) -> Curve:
    shift = 200 * (network.output(TRAVEL, setting) - TRAVEL)
    return _curve(f"trim at {setting:g}", shift)


def _draw_trim(
    track_ohms: float,
    trim_ohms: float,
    series_ohms: float,
    position: float,
    setting: float,
    supply_v: float,
    rest_percent: float | None = None,
    tolerance_percent: float | None = None,
) -> Plot:
    network = Network(track_ohms, trim_ohms, series_ohms, supply_v)
    curves = [_curve("without a trim", 0 * TRAVEL), _shifted(network, setting)]
    if series_ohms:
        curves += [_shifted(network, end) for end in (0.0, 1.0)]
    return Plot(
        PLACE_SAYS,
        "shift, %",
        "How far the trim shifts the signal, place by place: nothing at the ends, the most in the "
        "middle. Between the lines for 0 and 1 lies all that it can do.",
        tuple(curves),
    )


def _draw_divider(
    track_ohms: float, position: float, input_ohms: float, supply_v: float, **more: Any
) -> Plot:
    off = [divide(track_ohms, float(p), input_ohms, supply_v).error_percent for p in TRAVEL]
    return Plot(
        PLACE_SAYS,
        "error, %",
        "What the input takes away, place by place; least at the ends, where the track is stiff.",
        (_curve("error by loading", np.array(off)),),
    )


def _divider(
    ordered_ohms: float | None = None, tolerance_percent: float | None = None, **given: Any
) -> dict[str, Any]:
    divided = asdict(divide(**given))
    if tolerance_percent is not None and ordered_ohms is None:
        raise OutOfBounds("ordered_ohms", "is missing: the tolerance is of what was ordered.")
    off, words = None, []
    if ordered_ohms is not None:
        off = 100 * (given["track_ohms"] / ordered_ohms - 1)
        words = compared(given, ordered_ohms, tolerance_percent)
    return divided | {"off_percent": off, "against_ordered": words}


def _iron(alloy: str, tip_mm: float, mass: Mass, method: Method = "iron") -> dict[str, Any]:
    return asdict(start(alloy, tip_mm, mass, method))


def _temperature(**given: float) -> dict[str, Any]:
    if len(given) != 1:
        raise OutOfBounds(
            "celsius",
            f"or fahrenheit, one of them; a number from {ABSOLUTE_ZERO_C:g} °C.",
        )
    if "celsius" in given:
        return {"celsius": given["celsius"], "fahrenheit": fahrenheit(given["celsius"])}
    return {"celsius": celsius(given["fahrenheit"]), "fahrenheit": given["fahrenheit"]}


CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        "trim",
        "Trim network",
        "Track and trim are each a source of p·V behind R·p·(1−p) (Thévenin); the resistor joins "
        "them. "
        "The signal is p + (s − p)·R·p(1−p) / (R·p(1−p) + Rt·s(1−s) + Rs).",
        (
            ohms("track_ohms", "Track", "10000"),
            ohms("trim_ohms", "Trim", "10000"),
            ohms("series_ohms", "Resistor between the wipers", "47000", zero=True),
            POSITION,
            Input("setting", "Trim, from its low end", "", 0.0, 1.0, first="0.5"),
            SUPPLY,
            Input("rest_percent", "Where the stick rests", "%", -99.0, 99.0, optional=True),
            TOLERANCE,
        ),
        (
            Output("output", "Share of the supply at the stick’s wiper"),
            Output("untrimmed", "Without the trim"),
            Output("shift_percent", "Shift", "%"),
            Output("centring_setting", "Setting that centres it"),
            Output("reach_low_percent", "Reach kept, low end", "%"),
            Output("reach_high_percent", "Reach kept, high end", "%"),
            Output("slope_at_centre", "Slope at the centre"),
            Output("departure_percent", "Departure from a straight line", "%"),
            Output("current_ma", "Most current over the travel", "mA"),
            Output("worst_current_ma", "With the trim at an end", "mA"),
            Output("shift_at_low_percent", "Shift with the trim at 0", "%"),
            Output("shift_at_high_percent", "Shift with the trim at 1", "%"),
            Output("shift_least_percent", "Shift by tolerance, from", "%"),
            Output("shift_most_percent", "to", "%"),
            Output("suggested", "Values of the E12 and E24 rows that centre it, the best first"),
        ),
        _trim,
        _draw_trim,
        "A trim near its end can short the supply when the stick is pushed: a resistor between the "
        "wipers bounds it. Take the battery off before anything is soldered.",
    ),
    Calculator(
        "divider",
        "Divider and converter",
        "A loaded divider: the signal is p·Ri / (Ri + R·p(1−p)); a capacitor charges through "
        "R·p(1−p), "
        "and what is left of a step after t is e^(−t/RC).",
        (
            ohms("track_ohms", "Track, as it measures", "10000"),
            POSITION,
            ohms("input_ohms", "Input of the converter", "1000000"),
            SUPPLY,
            Input("bits", "Converter", "bits", 1, 32, whole=True, optional=True),
            Input("sample_pf", "Sampling capacitor", "pF", 0.0, 1e6, above=True, optional=True),
            Input("sample_us", "Time it samples for", "µs", 0.0, 1e6, optional=True),
            ohms("ordered_ohms", "Track, as ordered", "", optional=True),
            TOLERANCE,
        ),
        (
            Output("output", "Share of the supply"),
            Output("error_percent", "Error by loading", "%"),
            Output("source_ohms", "Source resistance", "Ω"),
            Output("current_ma", "Current from the supply", "mA"),
            Output("counts_lost", "Counts lost"),
            Output("settling_error_counts", "Counts not settled"),
            Output("off_percent", "Off the value ordered", "%"),
            Output("against_ordered", "In the place of what was ordered"),
        ),
        _divider,
        _draw_divider,
        "Modules that fit the same holes come with values several-fold apart: measure before fitting.",
    ),
    Calculator(
        "iron",
        "Iron",
        "From where the alloy is liquid (J-STD-006), what tip, pin and method add: a start, not a "
        "rule.",
        (
            Input("alloy", "Alloy", choices=tuple(LIQUIDUS_C), first="SAC305"),
            Input("tip_mm", "Width of the tip", "mm", 0.1, 20.0, first="1.6"),
            Input("mass", "What the pin hangs on", choices=get_args(Mass), first="signal"),
            Input("method", "Method", choices=get_args(Method), optional=True),
        ),
        (
            Output("start_c", "Begin at", "°C"),
            Output("start_f", "that is", "°F"),
            Output("liquidus_c", "Alloy liquid from", "°C"),
            Output("least_c", "No lower than", "°C"),
            Output("most_c", "No higher than", "°C"),
            Output("dwell_s", "On the pin for, at the most", "s"),
            Output("reasons", "Why"),
        ),
        _iron,
        None,
        "Irons burn and flux smokes: iron in its stand, extraction or an open window. A caution, "
        "not a "
        "licence: the sheets of the alloy and of the iron come first.",
    ),
    Calculator(
        "temperature",
        "Temperature",
        "°F = °C · 9/5 + 32, exactly.",
        (
            Input("celsius", "Celsius", "°C", ABSOLUTE_ZERO_C, 1e6, optional=True, first="350"),
            Input("fahrenheit", "Fahrenheit", "°F", -459.67, 1e6, optional=True),
        ),
        (Output("celsius", "Celsius", "°C"), Output("fahrenheit", "Fahrenheit", "°F")),
        _temperature,
        one_of=True,
    ),
    dead_zone.CALCULATOR,
    worth_it.CALCULATOR,
)
BY_NAME = {c.name: c for c in CALCULATORS}
