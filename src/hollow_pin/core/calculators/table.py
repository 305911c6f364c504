"""Every calculator by its name: what goes in with units and bounds, what comes out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from typing import Any, get_args

import numpy as np

from hollow_pin.core.calculators.divider import divide
from hollow_pin.core.calculators.iron import LIQUIDUS_C, Mass, Method, celsius, fahrenheit, start
from hollow_pin.core.calculators.trim import Network
from hollow_pin.core.recording import Floats

ABSOLUTE_ZERO_C = -273.15
MOST_OHMS = 1e8


class OutOfBounds(ValueError):
    """An input that is unknown, missing or out of its bounds; says which, and the bounds."""

    def __init__(self, key: str, message: str) -> None:
        super().__init__(f"{key}: {message}")
        self.key = key
        self.says = message


def _plain(value: float) -> str:
    """As it is read: 100 000 000, not 1e+08."""
    return f"{value:,.0f}".replace(",", "\u00a0") if value == int(value) else f"{value:g}"


@dataclass(frozen=True)
class Input:
    """One input. low, high: bounds of a number, both allowed; above: more than low is wanted. choices:
    of a word. whole: a whole number."""

    key: str
    says: str
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    above: bool = False
    choices: tuple[str, ...] = ()
    whole: bool = False
    optional: bool = False

    @property
    def bounds(self) -> str:
        """In words."""
        if self.choices:
            return f"one of {', '.join(self.choices)}"
        kind = "a whole number" if self.whole else "a number"
        unit = f" {self.unit}" if self.unit else ""
        if self.above:
            return f"{kind} above {_plain(self.low)} and up to {_plain(self.high)}{unit}"
        return f"{kind} from {_plain(self.low)} to {_plain(self.high)}{unit}"

    def read(self, text: str) -> float | int | str:
        """A value as it was typed. Raises OutOfBounds."""
        if self.choices:
            if text in self.choices:
                return text
            raise OutOfBounds(self.key, f"“{text}” is not {self.bounds}.")
        try:
            value = float(text)
        except ValueError:
            raise OutOfBounds(self.key, f"“{text}” is not {self.bounds}.") from None
        inside = self.low < value if self.above else self.low <= value
        if not (inside and value <= self.high) or (self.whole and value != int(value)):
            raise OutOfBounds(self.key, f"{text} is not {self.bounds}.")
        return int(value) if self.whole else value


@dataclass(frozen=True)
class Output:
    """What comes out under a key, as it is said."""

    key: str
    says: str
    unit: str = ""


@dataclass(frozen=True)
class Curve:
    """One line of a plot: places x and values y."""

    label: str
    x: tuple[float, ...]
    y: tuple[float, ...]


@dataclass(frozen=True)
class Plot:
    """What to look for is said in `look`."""

    x_says: str
    y_says: str
    look: str
    curves: tuple[Curve, ...]


@dataclass(frozen=True)
class Calculator:
    """formula: in words, with its source. caution: what can go wrong at the bench. run: of the inputs
    by key, those left out missing; draw: a plot of the same."""

    name: str
    title: str
    formula: str
    inputs: tuple[Input, ...]
    outputs: tuple[Output, ...]
    run: Callable[..., dict[str, Any]]
    draw: Callable[..., Plot] | None = None
    caution: str = ""

    def calculate(self, given: Mapping[str, str]) -> dict[str, Any]:
        """What comes out, by key. given: the inputs as they were typed. Raises OutOfBounds."""
        return self.run(**self.read(given))

    def plot(self, given: Mapping[str, str]) -> Plot | None:
        """The plot of the same inputs, where there is one. Raises OutOfBounds."""
        return self.draw(**self.read(given)) if self.draw is not None else None

    def read(self, given: Mapping[str, str]) -> dict[str, Any]:
        """The inputs by key. Raises OutOfBounds."""
        known = {i.key: i for i in self.inputs}
        for key in given:
            if key not in known:
                raise OutOfBounds(key, f"is no input of {self.name}. There is: {', '.join(known)}.")
        for i in self.inputs:
            if i.key not in given and not i.optional:
                raise OutOfBounds(i.key, f"is missing; {i.bounds}.")
        return {key: known[key].read(text) for key, text in given.items()}


def _ohms(key: str, says: str, zero: bool = False) -> Input:
    return Input(key, says, "Ω", 0.0, MOST_OHMS, above=not zero)


SUPPLY = Input("supply_v", "Supply", "V", 0.0, 60.0, above=True)
POSITION = Input("position", "Wiper along the track, from the low end", "", 0.0, 1.0)


def _trim(
    track_ohms: float,
    trim_ohms: float,
    series_ohms: float,
    position: float,
    setting: float,
    supply_v: float,
    rest_percent: float | None = None,
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
    }


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


def _divider(**given: Any) -> dict[str, Any]:
    return asdict(divide(**given))


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
            _ohms("track_ohms", "Track"),
            _ohms("trim_ohms", "Trim"),
            _ohms("series_ohms", "Resistor between the wipers", zero=True),
            POSITION,
            Input("setting", "Trim, from its low end", "", 0.0, 1.0),
            SUPPLY,
            Input("rest_percent", "Where the stick rests", "%", -99.0, 99.0, optional=True),
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
            _ohms("track_ohms", "Track"),
            POSITION,
            _ohms("input_ohms", "Input of the converter"),
            SUPPLY,
            Input("bits", "Converter", "bits", 1, 32, whole=True, optional=True),
            Input("sample_pf", "Sampling capacitor", "pF", 0.0, 1e6, above=True, optional=True),
            Input("sample_us", "Time it samples for", "µs", 0.0, 1e6, optional=True),
        ),
        (
            Output("output", "Share of the supply"),
            Output("error_percent", "Error by loading", "%"),
            Output("source_ohms", "Source resistance", "Ω"),
            Output("current_ma", "Current from the supply", "mA"),
            Output("counts_lost", "Counts lost"),
            Output("settling_error_counts", "Counts not settled"),
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
            Input("alloy", "Alloy", choices=tuple(LIQUIDUS_C)),
            Input("tip_mm", "Width of the tip", "mm", 0.1, 20.0),
            Input("mass", "What the pin hangs on", choices=get_args(Mass)),
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
            Input("celsius", "Celsius", "°C", ABSOLUTE_ZERO_C, 1e6, optional=True),
            Input("fahrenheit", "Fahrenheit", "°F", -459.67, 1e6, optional=True),
        ),
        (Output("celsius", "Celsius", "°C"), Output("fahrenheit", "Fahrenheit", "°F")),
        _temperature,
    ),
)
BY_NAME = {c.name: c for c in CALCULATORS}
