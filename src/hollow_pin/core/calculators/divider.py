"""A track as a divider into a converter: what its load, and a sampling capacitor, make of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import exp
from typing import Any


@dataclass(frozen=True)
class DividerResult:
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
) -> DividerResult:
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
    unsettled = None
    if whole is not None and sample_pf is not None and sample_us is not None:
        charged = source * sample_pf * 1e-12
        unsettled = whole * exp(-sample_us * 1e-6 / charged) if charged else 0.0
    return DividerResult(
        output,
        200.0 * (output - position),
        source,
        1e3 * current,
        None if whole is None else (position - output) * whole,
        unsettled,
    )


NOTICED = 0.25
"""From this share on that a value is off, the sentence says what it does."""


def compared(
    inputs: Mapping[str, Any], ordered_ohms: float, tolerance_percent: float | None
) -> list[str]:
    """What a track does in the place of one of ordered_ohms, in sentences. inputs: as of `divide`.
    tolerance_percent: of what was ordered; None where it is not known."""
    track = inputs["track_ohms"]
    own, as_meant = divide(**inputs), divide(**{**inputs, "track_ohms": ordered_ohms})
    off = track / ordered_ohms - 1
    sentences = []
    if tolerance_percent is not None:
        inside = abs(off) * 100 <= tolerance_percent
        verdict = "within" if inside else "outside"
        sentences.append(
            f"{off:+.1%} is {verdict} the ±{tolerance_percent:g} % that it was sold with."
        )
    if abs(off) < NOTICED:
        return [*sentences, "It does what the one ordered does, as far as the circuit can tell."]
    times = own.current_ma / as_meant.current_ma if as_meant.current_ma else 1.0
    sentences.append(
        f"It draws {own.current_ma:.2f} mA where {as_meant.current_ma:.2f} mA were meant, {times:.1f} "
        + (
            "times as much: a cell lasts less long, and a weak supply sags."
            if off < 0
            else "of it."
        )
    )
    sentences.append(
        f"What it drives sees {own.source_ohms:,.0f} Ω and not {as_meant.source_ohms:,.0f} Ω: loaded, "
        f"it errs by {own.error_percent:+.2f} % and not {as_meant.error_percent:+.2f} %.".replace(
            "-", "−"
        )
    )
    if own.settling_error_counts is not None and as_meant.settling_error_counts is not None:
        sentences.append(
            f"{own.settling_error_counts:.2f} counts are not settled, against "
            f"{as_meant.settling_error_counts:.2f}."
        )
    sentences.append(
        "The middle is the middle with either value: a fitted trim, and a controller that checks for "
        "its own part, are what notice."
    )
    return sentences
