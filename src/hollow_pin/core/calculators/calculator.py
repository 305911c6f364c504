"""What a calculator is: inputs with units and bounds, what comes out, a plot of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from hollow_pin.core.recording import Floats

MOST_OHMS = 1e8


class OutOfBounds(ValueError):
    """An input that is unknown, missing or out of its bounds; says which, and the bounds."""

    def __init__(self, key: str, message: str) -> None:
        super().__init__(f"{key}: {message}")
        self.key = key
        self.says = message


def plain(value: float) -> str:
    """As it is read: 100 000 000, not 1e+08."""
    return f"{value:,.0f}".replace(",", "\u00a0") if value == int(value) else f"{value:g}"


@dataclass(frozen=True)
class Input:
    """One input. low, high: bounds of a number, both allowed; above: more than low is wanted. choices:
    of a word. whole: a whole number. first: what a form starts with; empty: nothing."""

    key: str
    says: str
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    above: bool = False
    choices: tuple[str, ...] = ()
    whole: bool = False
    optional: bool = False
    first: str = ""

    @property
    def bounds(self) -> str:
        """In words."""
        if self.choices:
            return f"one of {', '.join(self.choices)}"
        kind = "a whole number" if self.whole else "a number"
        unit = f" {self.unit}" if self.unit else ""
        if self.above:
            return f"{kind} above {plain(self.low)} and up to {plain(self.high)}{unit}"
        return f"{kind} from {plain(self.low)} to {plain(self.high)}{unit}"

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
    """What to look for is said in `look`. plane: both ways have one scale, as seen from above. meant:
    the place of the curve that the question is about."""

    x_says: str
    y_says: str
    look: str
    curves: tuple[Curve, ...]
    meant: int = 1
    plane: bool = False


@dataclass(frozen=True, eq=False)
class Own:
    """What a stick's own take knows of its shape. rim (72, 2), returns (n, 2): places, %."""

    rim: Floats
    returns: Floats


@dataclass(frozen=True)
class Calculator:
    """formula: in words, with its source. caution: what can go wrong at the bench. run: of the inputs
    by key, those left out missing; draw: a plot of the same; draw_over: one over a stick's own shape.
    one_of: of its inputs one is given and no more."""

    name: str
    title: str
    formula: str
    inputs: tuple[Input, ...]
    outputs: tuple[Output, ...]
    run: Callable[..., dict[str, Any]]
    draw: Callable[..., Plot] | None = None
    caution: str = ""
    draw_over: Callable[..., Plot] | None = None
    one_of: bool = False

    def calculate(self, values: Mapping[str, str]) -> dict[str, Any]:
        """What comes out, by key. values: the inputs as they were typed. Raises OutOfBounds."""
        return self.run(**self.read(values))

    def plot(self, values: Mapping[str, str]) -> Plot | None:
        """The plot of the same inputs, where there is one. Raises OutOfBounds."""
        return self.draw(**self.read(values)) if self.draw is not None else None

    def plot_over(self, own: Own, values: Mapping[str, str]) -> Plot | None:
        """The plot over a stick's own shape, where there is one. Raises OutOfBounds."""
        return self.draw_over(own, **self.read(values)) if self.draw_over is not None else None

    def read(self, values: Mapping[str, str]) -> dict[str, Any]:
        """The inputs by key. Raises OutOfBounds."""
        by_key = {i.key: i for i in self.inputs}
        for key in values:
            if key not in by_key:
                raise OutOfBounds(
                    key, f"is no input of {self.name}. There is: {', '.join(by_key)}."
                )
        for i in self.inputs:
            if i.key not in values and not i.optional:
                raise OutOfBounds(i.key, f"is missing; {i.bounds}.")
        return {key: by_key[key].read(text) for key, text in values.items()}


def ohms(key: str, says: str, first: str, zero: bool = False, optional: bool = False) -> Input:
    """An input in ohms, above 0 or from 0."""
    return Input(key, says, "Ω", 0.0, MOST_OHMS, not zero, first=first, optional=optional)


def share(key: str, says: str, unit: str, first: str, most: float = 100.0) -> Input:
    """An input from 0 to the most that there is."""
    return Input(key, says, unit, 0.0, most, first=first)
