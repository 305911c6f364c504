"""Every calculator by its name: what goes in with units and bounds, what comes out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from typing import Any, get_args

from hollow_pin.core.calculators.divider import divide
from hollow_pin.core.calculators.iron import LIQUIDUS_C, Mass, Method, celsius, fahrenheit, start
from hollow_pin.core.calculators.trim import Network

ABSOLUTE_ZERO_C = -273.15
MOST_OHMS = 1e8


class OutOfBounds(ValueError):
    """An input that is unknown, missing or out of its bounds; says which, and the bounds."""

    def __init__(self, key: str, message: str) -> None:
        super().__init__(f"{key}: {message}")
        self.key = key


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
            return f"{kind} above {self.low:g} and up to {self.high:g}{unit}"
        return f"{kind} from {self.low:g} to {self.high:g}{unit}"

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
class Calculator:
    """formula: in words, with its source. run: of the inputs by key, those left out missing."""

    name: str
    title: str
    formula: str
    inputs: tuple[Input, ...]
    run: Callable[..., dict[str, Any]]

    def calculate(self, given: Mapping[str, str]) -> dict[str, Any]:
        """What comes out, by key. given: the inputs as they were typed. Raises OutOfBounds."""
        known = {i.key: i for i in self.inputs}
        for key in given:
            if key not in known:
                raise OutOfBounds(key, f"is no input of {self.name}. There is: {', '.join(known)}.")
        for i in self.inputs:
            if i.key not in given and not i.optional:
                raise OutOfBounds(i.key, f"is missing; {i.bounds}.")
        return self.run(**{key: known[key].read(text) for key, text in given.items()})


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
        _trim,
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
        _divider,
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
        _iron,
    ),
    Calculator(
        "temperature",
        "Temperature",
        "°F = °C · 9/5 + 32, exactly.",
        (
            Input("celsius", "Celsius", "°C", ABSOLUTE_ZERO_C, 1e6, optional=True),
            Input("fahrenheit", "Fahrenheit", "°F", -459.67, 1e6, optional=True),
        ),
        _temperature,
    ),
)
BY_NAME = {c.name: c for c in CALCULATORS}
