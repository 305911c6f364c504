"""How numbers and directions are written in sentences."""

from __future__ import annotations

from hollow_pin.core.geometry import clock_hour

GAIN = 0.1
"""Less than this, %, is not seen in what is written here, and no gain."""
DIGITS = {"%": 1, "%/min": 2}


def number(value: float, unit: str) -> str:
    """With the decimals that are read at the bench in a unit; never a minus before a zero."""
    text = f"{value:.{DIGITS.get(unit, 0)}f}"
    return text.removeprefix("-") if float(text) == 0 else text


def percent(value: float) -> str:
    return f"{number(value, '%')}\u00a0%"


def toward(degrees: float) -> str:
    return f"toward {clock_hour(degrees)}\u00a0o’clock"


def listed(words: list[str]) -> str:
    """“4, 5 and 7”."""
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)


def lower_first(words: str) -> str:
    """As it stands within a sentence: “Replace by a Hall one” keeps its Hall."""
    return words[:1].lower() + words[1:]
