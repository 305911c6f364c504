"""What a calibration of a stick would hold, what the stick would then read, and what became of one.

A calibration learns the ends of each axis first, and then its centre, from releases: learnt the other
way round the centre is taken for the middle of a range that is not yet known. What has no spring comes
back to nowhere, and has no centre to learn.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.extents import Extents, extents_of
from hollow_pin.core.gate import Gate, circularity, fill_around, points_of
from hollow_pin.core.gauge import SMALLEST_CHANGE
from hollow_pin.core.geometry import lengths
from hollow_pin.core.prospect import cut_off
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import AxisRange, Floats, calibrated
from hollow_pin.core.rim import radius_by_bearing
from hollow_pin.core.routine import Shape
from hollow_pin.core.words import WAY, listed, percent

Kind = Literal["three-point", "two-point", "centre"]
LABELS: dict[Kind, tuple[str, str]] = {
    "three-point": (
        "Ends and centre",
        "Each half by itself, from its end to where it comes back to.",
    ),
    "two-point": ("Ends alone", "The centre is taken for the middle between them."),
    "centre": ("Centre alone", "The ends stay those of the range."),
}
MOST_MARGIN = 20.0
UNKNOWN = 0.5
"""What a bench sees of a change, %, where no uncertainty is known; and the least that it is held to
see of a centre."""
SCALE_SEEN = 2.0
"""A change of an end by less, %, is the hand's."""
ROUND_SEEN = 1.0
"""A change of circularity by less, %, is the hand's."""
ROUND_WANTED = 4.0
"""A rim that is rounder leaves a calibration nothing to do, %."""
SCATTERS = 2.0
"""Returns that lie farther apart, %, are why a calibration refuses: it wants its samples to agree."""
FAR_SHORT = 6.0
"""An end that reads as much less than full, %, after a calibration that learnt it, is none of the
hand's."""
NEAR = 1.0
"""As near to what was forecast, %, as it was carried through."""


@dataclass(frozen=True)
class TeachingStep:
    """What is taught in it, and how, in sentences."""

    what: str
    how: str


@dataclass(frozen=True)
class Teaching:
    """How a calibration is carried out on a kind of stick. routine: the id of the one that does it
    here; lacking: what is said before anything is measured."""

    steps: tuple[TeachingStep, ...]
    routine: str
    lacking: str


TEACHING: dict[Shape, Teaching] = {
    "two-axes": Teaching(
        (
            TeachingStep(
                "Extents",
                "Round the edge, slowly, twice each way: it learns how far each side reaches.",
            ),
            TeachingStep(
                "Centre",
                "Push to each side and let go, hands off: it learns where the stick comes back to.",
            ),
        ),
        "calibration",
        "Measure it first: the rim for its ends, Let-go for its centre.",
    ),
    "lever": Teaching(
        (
            TeachingStep(
                "Extents",
                "To each side as far as it goes, slowly, twice: it learns how far each side reaches.",
            ),
            TeachingStep(
                "Centre",
                "Let go of it from each side, hands off: it learns where it comes back to.",
            ),
        ),
        "lever",
        "Measure it first: Hold for its ends, Let-go for its centre.",
    ),
    "paddle": Teaching(
        (
            TeachingStep(
                "Extents",
                "From end to end as far as it goes, slowly, twice: it learns how far each side "
                "reaches. It has no spring, and so no centre to learn.",
            ),
        ),
        "paddle",
        "Measure it first: Turn for its ends.",
    ),
}


@dataclass(frozen=True)
class AxisHeld:
    """What is held of an axis, in the numbers of its source: low, centre, high. offset: of the centre
    from the middle of the range. scale_low, scale_high: what each half is multiplied by."""

    axis: Literal["x", "y"]
    low: float
    centre: float
    high: float
    offset: float
    scale_low: float
    scale_high: float


@dataclass(frozen=True)
class Forecast:
    """What the stick would then read, %: the dead zone needed, the circularity error and the shortest
    reach. dead_zone: None without a spring; circularity: None on one axis; and the last two None where
    the rim was cut off at an end of its range."""

    dead_zone: float | None
    circularity: float | None
    reach: float | None


@dataclass(frozen=True)
class Calibration:
    """A calibration of a kind. margin: how much short of its ends, %, it takes for full."""

    kind: Kind
    label: str
    words: str
    margin: float
    axes: tuple[AxisHeld, ...]
    forecast: Forecast


@dataclass(frozen=True, eq=False)
class _Shape:
    """rim: (72, 2) %, or the ends of a single axis, (2, 2); noise: how far the rest trembles, %; axes:
    1 or 2; cut: whether the ends of the range hide some of it."""

    extents: Extents
    rim: Floats
    noise: float
    axes: int
    gate: Gate
    cut: bool


def _shape_of(take: TakeReadings, axes: int, gate: Gate) -> _Shape:
    extents = extents_of(take, axes)
    noise = take.still.noise_reach if take.still is not None and len(extents.returns) else 0.0
    if axes == 1:
        rim, cut = np.stack((extents.low, extents.high)), False
    else:
        rim, cut = points_of(take.rim.radius if take.rim else ()), cut_off(take)
    return _Shape(extents, rim, noise, axes, gate, cut)


def calibrations(
    take: TakeReadings, ranges: Sequence[AxisRange], gate: Gate, margin: float = 0.0
) -> tuple[Calibration, ...]:
    """What a calibration of each kind would hold. ranges: of the source, one an axis; margin: 0 to 20,
    %. Raises NotMeasured."""
    shape = _shape_of(take, len(ranges), gate)
    kinds: Sequence[Kind] = tuple(LABELS) if len(shape.extents.returns) else ("two-point",)
    return tuple(_calibration_of(kind, shape, ranges, margin) for kind in kinds)


def _calibration_of(
    kind: Kind, shape: _Shape, ranges: Sequence[AxisRange], margin: float
) -> Calibration:
    extents = shape.extents
    low, high, centre = extents.low, extents.high, extents.centre
    if kind == "two-point":
        centre = (low + high) / 2
    elif kind == "centre":
        low, high = centre - 100.0, centre + 100.0
    keep = 1.0 - margin / 100.0
    low, high = centre - (centre - low) * keep, centre + (high - centre) * keep
    axes = tuple(
        _axis_held(axis, r, float(low[i]), float(centre[i]), float(high[i]))
        for i, (axis, r) in enumerate(zip(("x", "y"), ranges, strict=False))
    )
    label, words = LABELS[kind]
    return Calibration(kind, label, words, margin, axes, _forecast(shape, low, centre, high))


def _axis_held(axis: str, r: AxisRange, low: float, centre: float, high: float) -> AxisHeld:
    first, between, last = (float(v) for v in r.counts(np.array((low, centre, high))))
    return AxisHeld(
        "x" if axis == "x" else "y",
        first,
        between,
        last,
        between - r.middle,
        100.0 / max(centre - low, 1e-9),
        100.0 / max(high - centre, 1e-9),
    )


def _forecast(shape: _Shape, low: Floats, centre: Floats, high: Floats) -> Forecast:
    rim = calibrated(shape.rim, low, centre, high)
    if not len(shape.extents.returns):
        return Forecast(None, None, float(np.abs(rim[:, 0]).min()))
    scale = float((200.0 / np.maximum(high - low, 1e-9))[: shape.axes].mean())
    returns = calibrated(shape.extents.returns, low, centre, high)[:, : shape.axes]
    dead_zone = float(lengths(np.column_stack((returns, np.zeros((len(returns), 2))))[:, :2]).max())
    dead_zone += shape.noise * scale
    if shape.axes == 1:
        return Forecast(dead_zone, None, float(np.abs(rim[:, 0]).min()))
    if shape.cut:
        return Forecast(dead_zone, None, None)
    radius = fill_around(radius_by_bearing(rim), shape.gate)
    cut = np.abs(rim).max(axis=1) >= 100.0
    return Forecast(dead_zone, circularity(radius, shape.gate, cut), float(radius.min()))


FLAT_SHARE = 0.02
"""Of half the range, that is held for flat where the stick needs less."""


@dataclass(frozen=True)
class Range:
    """What a driver that knows no centre is to believe of an axis, in whole numbers of its source."""

    lo: int
    hi: int
    flat: int


def as_ranges(
    calibration: Calibration, ranges: Sequence[AxisRange], turned: Sequence[bool]
) -> tuple[Range, ...]:
    """A calibration as ends that lie alike on both sides of the centre, as far away as the farther
    one, with a flat place that holds the dead zone needed. turned: which axes a source counts the
    other way from what is read here."""
    axis_ranges = []
    for axis, r, other_way in zip(calibration.axes, ranges, turned, strict=False):
        half = max(axis.centre - axis.low, axis.high - axis.centre)
        centre = r.lo + r.hi - axis.centre if other_way else axis.centre
        flat = round(max((calibration.forecast.dead_zone or 0.0) / 100.0, FLAT_SHARE) * half)
        axis_ranges.append(Range(round(centre - half), round(centre + half), flat))
    return tuple(axis_ranges)


Became = Literal["held", "partly", "refused", "worse", "needless"]


@dataclass(frozen=True)
class CalibrationOutcome:
    """What became of a calibration, and why, in sentences."""

    became: Became
    words: str


def _smallest_seen(take: TakeReadings, path: str) -> float:
    u = take.uncertainty.get(path)
    return SMALLEST_CHANGE * u if u is not None else UNKNOWN


def calibration_outcome(
    before: TakeReadings, after: TakeReadings, calibration: Calibration, ranges: Sequence[AxisRange]
) -> CalibrationOutcome:
    """Hold a calibration against what it should have held: takes before and after, of the same
    stick. Raises NotMeasured."""
    was = _shape_of(before, len(ranges), "round")
    now = _shape_of(after, len(ranges), "round")
    axes = len(ranges)
    centre_was, centre_now = was.extents.centre[:axes], now.extents.centre[:axes]
    ends_was = np.stack((was.rim.min(axis=0), was.rim.max(axis=0)))[:, :axes]
    ends_now = np.stack((now.rim.min(axis=0), now.rim.max(axis=0)))[:, :axes]
    near = np.array([max(_smallest_seen(before, f"still.rest_{a}"), UNKNOWN) for a in "xy"])[:axes]
    round_was, round_now = (t.value("rim.circularity_error") or 0.0 for t in (before, after))
    needs_it = (
        round_was > ROUND_WANTED
        or bool((np.abs(centre_was) > near).any())
        or bool((np.abs(np.abs(ends_was) - 100.0) > SCALE_SEEN).any())
    )
    moved = (
        bool((np.abs(centre_now - centre_was) > near).any())
        or bool((np.abs(ends_now - ends_was) > SCALE_SEEN).any())
        or abs(round_now - round_was)
        > max(_smallest_seen(before, "rim.circularity_error"), ROUND_SEEN)
    )
    if not moved:
        return _refusal(before, needs_it)
    needed, then = before.composite.dead_zone_needed, after.composite.dead_zone_needed
    could = calibration.forecast.dead_zone
    if needed is not None and then is not None and could is not None:
        least = max(_smallest_seen(before, "composite.dead_zone_needed"), UNKNOWN)
        if then > needed + least:
            return CalibrationOutcome(
                "worse",
                f"It made it worse: {percent(then)} of dead zone where {percent(needed)} were "
                "needed. Again, extents first, slowly to every end, then the centre with hands off; "
                "or back to the factory's.",
            )
        spread = before.value("let_go.return_spread") or 0.0
        if then > could + max(least, NEAR, spread / 2):
            return CalibrationOutcome(
                "partly",
                f"It came out at {percent(then)}, and {percent(could)} could be "
                "had: its centre was sampled while it was touched, or before its ends. Again, extents "
                "first.",
            )
    if not len(now.extents.returns):
        return _ends_alone(was, now)
    cut = _cut_axes(after) - _cut_axes(before)
    if cut:
        which = listed([WAY[a] for a in sorted(cut)])
        return CalibrationOutcome(
            "partly",
            f"It reads full, {which}, before the stick is at its end: that end was not learnt as far "
            "as it goes. Again, extents first, slowly round the whole edge.",
        )
    short = 100.0 - float(np.abs(ends_now).min())
    if short > FAR_SHORT:
        return CalibrationOutcome(
            "partly",
            f"An end of it reads {percent(100.0 - short)}: it was learnt from farther out than it "
            "goes. Again, extents first, slowly round the whole edge.",
        )
    return CalibrationOutcome("held", "It holds: the stick reads what was to be expected of it.")


def _cut_axes(take: TakeReadings) -> set[str]:
    """Those that lie at an end of their range before the stick is at its own."""
    return {h.axis for h in take.hidden if h.code == "saturated" and h.axis is not None}


def _ends_alone(was: _Shape, now: _Shape) -> CalibrationOutcome:
    """What became of one that learns ends alone, by how far the shorter of them is off full."""
    off_was, off_now = (float(np.abs(np.abs(s.rim[:, 0]) - 100.0).max()) for s in (was, now))
    if off_now > off_was + SCALE_SEEN:
        return CalibrationOutcome(
            "worse",
            f"It made it worse: an end is {percent(off_now)} off where it was {percent(off_was)}. "
            "Again, slowly to both ends, as far as it goes.",
        )
    if off_now > SCALE_SEEN:
        return CalibrationOutcome(
            "partly",
            f"Its shorter end came out at {percent(100.0 - off_now)}: it was learnt from farther out "
            "than it goes. Again, slowly to both ends.",
        )
    return CalibrationOutcome("held", "It holds: both ends read full.")


def _refusal(before: TakeReadings, needed: bool) -> CalibrationOutcome:
    """Centre and ends are what they were."""
    if not needed:
        return CalibrationOutcome(
            "needless",
            "Nothing moved, and nothing had to: centre and ends were where a calibration puts them.",
        )
    if before.turn is not None:
        return CalibrationOutcome(
            "refused",
            "It refused: both ends are what they were. It was not carried through, or was not saved. "
            "Again, slowly to both ends, as far as it goes.",
        )
    spread = before.let_go.return_spread if before.let_go is not None else None
    text = "It refused: centre and both ends are what they were. "
    if spread is not None and spread > SCATTERS:
        text += (
            f"Its releases come back {percent(spread)} apart, and a calibration wants its centre "
            "samples to agree: what scatters them, wear or a bind, is mended first."
        )
    else:
        text += (
            "Its releases agree, so that is not why: it was not carried through, was not saved, or "
            "wants another order. Extents first, then the centre with hands off."
        )
    return CalibrationOutcome("refused", text)


def left_over(take: TakeReadings) -> str:
    """Whether the calibration that is in it was learnt from another part, by the causes as they are
    ranked, in a sentence; empty where it is not likelier than not."""
    cause = next(c for c in rank(take) if c.cause == "calibration")
    if not cause.likely:
        return ""
    return (
        "Scale or centre fit another part: the calibration that is in it was left over, or its last "
        "round was not finished."
    )


def ends_not_seen(take: TakeReadings) -> str:
    """What of its ends a take does not show, in a sentence; empty where it shows them."""
    if take.rim is None or not cut_off(take):
        return ""
    return (
        "Its rim lies at an end of its range, and what is beyond is not seen: the ends given here are "
        "the least that they can be. A rawer source, or the factory calibration, may show them."
    )
