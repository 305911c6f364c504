"""A track as a divider into a converter: what its load, and a sampling capacitor, make of it."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp


@dataclass(frozen=True)
class Divided:
    """output: the share of the supply. error_percent: against the place of the wiper, % of half range.
    source_ohms: what the converter sees. current_ma: from the supply. counts_lost,
    settling_error_counts: None where bits, or the capacitor, are not known."""

    output: float
    error_percent: float
    source_ohms: float
    current_ma: float
    counts_lost: float | None
    settling_error_counts: float | None


def divide(
    track_ohms: float,
    position: float,
    input_ohms: float,
    supply_v: float,
    bits: int | None = None,
    sample_pf: float | None = None,
    sample_us: float | None = None,
) -> Divided:
    """A track between 0 and the supply whose wiper at position, 0 to 1, is loaded by input_ohms.

    sample_pf is charged through the source for sample_us; the error is that of a step over the whole
    range.
    """
    source = track_ohms * position * (1 - position)
    output = position * input_ohms / (input_ohms + source)
    below = position * track_ohms
    loaded = below * input_ohms / (below + input_ohms)
    current = supply_v / ((1 - position) * track_ohms + loaded) if position < 1 or loaded else 0.0
    whole = 2**bits - 1 if bits is not None else None
    left = None
    if whole is not None and sample_pf is not None and sample_us is not None:
        charged = source * sample_pf * 1e-12
        left = whole * exp(-sample_us * 1e-6 / charged) if charged else 0.0
    return Divided(
        output,
        200.0 * (output - position),
        source,
        1e3 * current,
        None if whole is None else (position - output) * whole,
        left,
    )
