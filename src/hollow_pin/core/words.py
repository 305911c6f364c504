"""How numbers and directions are written in sentences."""

from __future__ import annotations

from hollow_pin.core.geometry import clock_hour


def percent(value: float) -> str:
    """One decimal, never a minus before a zero."""
    text = f"{value:.1f}"
    return ("0.0" if text == "-0.0" else text) + "\u00a0%"


def toward(degrees: float) -> str:
    return f"toward {clock_hour(degrees)}\u00a0o’clock"


def listed(words: list[str]) -> str:
    """“4, 5 and 7”."""
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)
