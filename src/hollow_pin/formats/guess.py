"""What the columns of a table seem to be, by their names and by what is in them.

Only a proposal: whoever reads the table sees it, and changes it where it is wrong.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.recording import Floats
from hollow_pin.formats.counter import unwrapped

TimeUnit = Literal["s", "ms", "us", "clock"]

TIMES = (
    "t",
    "t_us",
    "t_ms",
    "t_s",
    "time",
    "timestamp",
    "time_s",
    "time_ms",
    "time_us",
    "ms",
    "us",
)
XS = ("x", "axis0", "axis_0", "lx", "left_x")
YS = ("y", "axis1", "axis_1", "ly", "left_y")
SLOWEST_S = 0.11
"""Samples farther apart than this, in seconds, are in another unit: nothing is logged so slowly."""
USUAL_RANGES = (
    (0.0, 1.0),
    (-1.0, 1.0),
    (0.0, 100.0),
    (-100.0, 100.0),
    (0.0, 255.0),
    (-128.0, 127.0),
    (0.0, 1023.0),
    (0.0, 4095.0),
    (0.0, 65535.0),
    (-32768.0, 32767.0),
)
OF_FRACTIONS = ((0.0, 1.0), (-1.0, 1.0))
OF_PERCENT = ((0.0, 100.0), (-100.0, 100.0))
SIGNED_BYTE = (-128.0, 127.0)
"""No fractions come in it; what goes over a hundred in fractions may be per cent as well."""
FEW_COUNTS = 5.5
"""Fractions of no more than this are volts, and no range of counts is theirs."""
UNSIGNED = ((0.0, 255.0), (0.0, 65535.0))
"""Ranges of bytes and of words, which may as well have a sign."""
OVER, FEWEST_OVER, SMOOTHER = 0.75, 10, 0.5
"""Steps over as much of a range, and so many of them; and how much shorter the way must be with the
middle where the ends are."""


@dataclass(frozen=True)
class Guess:
    """Which column is what, None where none seems to be. lo, hi: the narrowest usual range of a
    controller that holds every value of x and y; None where none does. signed: whether they run over
    as signed numbers do that were written without their sign; the range is theirs then."""

    time: str | None
    time_unit: TimeUnit
    x: str | None
    y: str | None
    step: str | None
    lo: float | None
    hi: float | None
    signed: bool = False


def guess_columns(
    columns: tuple[str, ...], numbers: Mapping[str, Floats], clocks: Sequence[str] = ()
) -> Guess:
    """columns: all there are; numbers: the values of those that hold numbers, each (n,), n ≥ 1;
    clocks: those that hold times as a clock shows them."""

    def named(names: tuple[str, ...], word: str) -> str | None:
        for column in columns:
            if column.lower() in names:
                return column
        return next((c for c in columns if word in re.split(r"[\W_]+", c.lower())), None)

    rising = [
        c for c, v in numbers.items() if len(v) > 1 and bool((np.diff(unwrapped(v)) > 0).all())
    ]
    # What rises by one from row to row counts the rows, and no time.
    timed = [c for c in rising if not (np.diff(numbers[c]) == 1).all()]
    time = named(TIMES, "time") or next(iter((*clocks, *timed)), None)
    if time not in numbers and clocks and time not in clocks:
        time = clocks[0]
    moving = [c for c, v in numbers.items() if c != time and c not in rising and np.ptp(v) > 0]
    x, y = named(XS, "x"), named(YS, "y")
    others = [c for c in moving if c not in (x, y)]
    if x is None and others:
        x = others.pop(0)
    if y is None and others:
        y = others.pop(0)
    values = [numbers[c] for c in (x, y) if c is not None and c in numbers]
    lo, hi = _range(values)
    signed = (lo, hi) in UNSIGNED and all(runs_over(v, lo or 0.0, hi or 0.0) for v in values)
    if signed and hi is not None:
        lo, hi = -(hi + 1) / 2, (hi + 1) / 2 - 1
    unit: TimeUnit = "clock" if time in clocks else _unit(numbers.get(time or ""))
    return Guess(time, unit, x, y, named(("step",), "step"), lo, hi, signed)


def _unit(t: Floats | None) -> TimeUnit:
    if t is None or len(t) < 2:
        return "s"
    interval = float(np.median(np.diff(t)))
    return "s" if interval < SLOWEST_S else "ms" if interval < 1e3 * SLOWEST_S else "us"


def _range(values: list[Floats]) -> tuple[float, float] | tuple[None, None]:
    if not values:
        return None, None
    least, most = min(float(v.min()) for v in values), max(float(v.max()) for v in values)
    counted = all(bool((v == np.floor(v)).all()) for v in values)
    fitting = [r for r in USUAL_RANGES if r[0] <= least and most <= r[1]]
    if counted:
        # Counts that end at a hundred at either end are per cent.
        fitting = [r for r in fitting if r not in OF_PERCENT or (least, most) == r]
    narrowest = next(iter(fitting), (None, None))
    volts = not counted and narrowest not in OF_FRACTIONS and most <= FEW_COUNTS
    return (None, None) if volts or (not counted and narrowest == SIGNED_BYTE) else narrowest


def runs_over(v: Floats, lo: float, hi: float) -> bool:
    """Whether values (n,) go on at one end of a range where they left it at the other: signed numbers
    that were written as if they had no sign do, whose middle lies at both ends."""
    whole = hi - lo + 1
    over = np.abs(np.diff(v)) > OVER * whole
    if over.sum() < FEWEST_OVER:
        return False
    turned = (v - lo + whole / 2) % whole
    return bool(np.abs(np.diff(turned)).sum() < SMOOTHER * np.abs(np.diff(v)).sum())
