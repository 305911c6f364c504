"""How numbers and directions are written in sentences."""

from __future__ import annotations

from collections.abc import Sequence

from hollow_pin.core.geometry import clock_hour

GAIN = 0.1
"""Less than this, %, is not seen in what is written here, and no gain."""
DIGITS = {"%": 1, "%/min": 2}
END = {9: "low end", 3: "high end"}
"""What lies toward an hour along a single axis: its ends, by what it reads there."""
WAY = {"x": "left–right", "y": "up–down"}
"""How the axes of a stick are called."""


def number(value: float, unit: str) -> str:
    """With the decimals that are read at the bench in a unit; never a minus before a zero."""
    text = f"{value:.{DIGITS.get(unit, 0)}f}"
    return text.removeprefix("-") if float(text) == 0 else text


def percent(value: float) -> str:
    return f"{number(value, '%')}\u00a0%"


def listed(words: list[str]) -> str:
    """“4, 5 and 7”."""
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)


def hours_words(hours: Sequence[int], axes: int) -> str:
    """“10 o’clock”, “1, 2 and 3 o’clock”; of a single axis, which has none, “its low end”."""
    if axes == 1 and set(hours) <= END.keys():
        return listed([f"its {END[h]}" for h in hours])
    return f"{listed([str(h) for h in hours])}\u00a0o’clock"


def toward(degrees: float, axes: int) -> str:
    """“toward 10 o’clock”; a single axis lies along 3 and 9."""
    return f"toward {hours_words([clock_hour(degrees)], axes)}"


def lower_first(words: str) -> str:
    """As it stands within a sentence: “Replace by a Hall one” keeps its Hall."""
    return words[:1].lower() + words[1:]
