"""The raw samples of a take, and the one place where they become % of half range."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import astuple, dataclass, field, replace
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
ProblemKind = Literal["again", "mind", "note"]
Indices = NDArray[np.intp]
_Each = float | Floats

STEPS = ("still", "let-go", "rim", "crossing-x", "crossing-y", "hold", "turn")
MOVING = ("let-go", "rim", "crossing-x", "crossing-y", "turn")
"""Steps in which a stick moves most of the time."""
NO_STEP = -1
AXES = ("x", "y")

ROWS_LEFT_OUT = "rows-left-out"
"""The header, and the problem, that say how many rows of a table had no value."""
TIMES_COUNTED = "times-counted-at-hz"
"""Those that say how many rows a second there were, as was said of a table that says no time."""
TIMES_OF_ARRIVAL = "times-of-arrival"
"""Those that say that a live source prints no time."""
FARTHEST = 2.0**53
"""Times, µs, and raw values lie within ± this: whole numbers up to it are exact in a double."""
LONGEST_US = 24 * 3600 * 1_000_000
MOST_SAMPLES = 3_700_000
"""As many as one take holds: over an hour at 1 kHz."""
FARTHEST_OUT = 1e4
"""Half ranges from the middle that a value may lie at. Nothing is read from beyond."""
SMALLEST_SHARE = 0.01
"""Of the changes that come: the smallest, but for a few."""
SWALLOWING = 1.5
"""Steps: a source whose smallest changes are larger swallows others."""
STICKS = 5.0
"""Steps, up to which the smallest change is all that is swallowed: a source that sticks to a value
until it has moved by a few steps goes there at once."""
KEPT_SHARE = 0.05
"""Samples that are as the one before, of a source that swallows changes: less, and it just moves."""
EDGE_SHARE, SHARP = 0.1, 1.5
TOP_SHARE, SWIFT = 0.99, 2.0
"""Of a source that reports both axes where either has moved far enough, the smaller changes all are
about as large: so many of them within so many times the smallest. Those of noise are not. And the
largest are so many times larger: a stick that only goes at one speed changes by as much each time."""
QUARTERED = 4.0
"""How much more a kernel swallows than the smallest change that it lets through."""
SWALLOWED_MOST = 1.0
"""% that is taken for swallowed where no single change was as large."""
MEANWHILE = 0.7
"""Of its range, that a stick is taken to go over while its calibration is not known and nothing is
learnt in its place: enough that whoever pushes it to a near edge is seen to."""
LEAST_HALF = 0.05
"""Of a range, that each half of a calibration takes up."""
STATED_MOST = 5.0
"""% of which a recording may say that it was swallowed."""
MOST_LOOKED_AT = 200_000


class RecordingError(ValueError):
    """The samples cannot be a recording; the message says which sample and why."""


@dataclass(frozen=True)
class AxisCalibration:
    """What a device's own calibration holds of an axis, in the numbers that it reports: what stands
    for −100, 0 and +100 %. Each half goes by its own scale, and beyond its end nothing counts."""

    low: float
    centre: float
    high: float


Uncalibrated = Literal["unknown"]
"""Of numbers that a device's own calibration is still to be applied to, and is not known."""


@dataclass(frozen=True)
class AxisRange:
    """The range a device reports one axis in: lo is nominal −100 %, hi is nominal +100 %; unless its
    numbers are those of the converter, and what it is plugged into applies its calibration to them."""

    lo: float
    hi: float
    calibration: AxisCalibration | Uncalibrated | None = None

    def __post_init__(self) -> None:
        if not (np.isfinite(self.lo) and np.isfinite(self.hi) and self.hi > self.lo):
            raise RecordingError(
                f"the range {self.lo:g} to {self.hi:g} is not a range: hi must be above lo"
            )
        far = max(abs(self.lo), abs(self.hi))
        if far > FARTHEST or self.hi - self.lo < max(1e-9, 1e-9 * far):
            raise RecordingError(
                f"the range {self.lo:g} to {self.hi:g} cannot be measured in: its ends lie too far "
                "out, or too close together"
            )
        if self.known_calibration is not None:
            self._holds(*astuple(self.known_calibration))

    def _holds(self, low: float, centre: float, high: float) -> None:
        if not self.lo <= low < centre < high <= self.hi:
            raise RecordingError(
                f"the calibration {low:g}, {centre:g}, {high:g} is none: low, centre and high must "
                f"rise, within the range {self.lo:g} to {self.hi:g}"
            )
        if min(centre - low, high - centre) < LEAST_HALF * (self.hi - self.lo):
            raise RecordingError(
                f"the calibration {low:g}, {centre:g}, {high:g} leaves one half next to nothing of "
                f"the range {self.lo:g} to {self.hi:g}"
            )

    @property
    def known_calibration(self) -> AxisCalibration | None:
        """The device's own calibration, where it is known."""
        return None if self.calibration == "unknown" else self.calibration

    @property
    def middle(self) -> float:
        """What stands for 0 %."""
        return (
            (self.lo + self.hi) / 2
            if self.known_calibration is None
            else self.known_calibration.centre
        )

    @property
    def half(self) -> float:
        """What stands for 100 %, of both halves on average."""
        low, high = (
            (self.lo, self.hi)
            if self.known_calibration is None
            else (self.known_calibration.low, self.known_calibration.high)
        )
        return (high - low) / 2 * (MEANWHILE if self.calibration == "unknown" else 1.0)

    def counts(self, u: Floats) -> Floats:
        """What the device reports of places (n,), %."""
        if self.known_calibration is None:
            return np.asarray(self.middle + self.half / 100.0 * u)
        low, centre, high = astuple(self.known_calibration)
        return np.asarray(centre + np.where(u < 0, centre - low, high - centre) / 100.0 * u)

    def turned(self) -> AxisRange:
        """The same of an axis that is counted the other way, within its range."""
        if self.known_calibration is None:
            return self
        low, centre, high = (
            self.lo + self.hi - v for v in reversed(astuple(self.known_calibration))
        )
        return replace(self, calibration=AxisCalibration(low, centre, high))


def to_percent(raw: Floats, ranges: tuple[AxisRange, ...]) -> Floats:
    """Raw values (n, k) as % of half range: −100 at lo, +100 at hi; or as what the device's own
    calibration makes of them, at its ends no more. Each axis lies by itself."""
    u = np.empty(raw.shape, order="F")
    for axis, values, r in zip(u.T, raw.T, ranges, strict=True):
        if r.known_calibration is None:
            np.subtract(values, r.middle, out=axis)
            axis *= 100.0
            axis /= r.half
        else:
            axis[:] = calibrated(
                values,
                r.known_calibration.low,
                r.known_calibration.centre,
                r.known_calibration.high,
            )
    return u


def calibrated(values: Floats, low: _Each, centre: _Each, high: _Each) -> Floats:
    """What a calibration makes of values, %: each half by its own scale, at its ends no more. Places
    may be given by axis."""
    off = values - centre
    side = np.where(off < 0, np.subtract(centre, low), np.subtract(high, centre))
    return np.asarray(np.clip(100.0 * off / np.maximum(side, 1e-9), -100.0, 100.0))


def resolution(v: Floats) -> float:
    """The smallest difference between distinct values; 0 where the value never changes.

    Differences far below a real step are the rounding of the arithmetic, not of the converter.
    """
    return resolution_of_sorted(np.sort(v))


def resolution_of_sorted(ordered: Floats) -> float:
    """The same of values in ascending order."""
    steps = np.diff(ordered)
    steps = steps[steps > 1e-9]
    return float(steps.min()) if steps.size else 0.0


def _swallowed(changes: Floats, step: float) -> float:
    """What a source keeps to itself, %, by the changes (n,) that it let through."""
    came = changes[changes > 0.5 * step]
    if not came.size or len(came) > (1 - KEPT_SHARE) * len(changes):
        return 0.0
    least = float(np.quantile(came, SMALLEST_SHARE))
    if least <= SWALLOWING * step:
        return 0.0
    if least < STICKS * step:
        return least
    return min(QUARTERED * least, max(least, SWALLOWED_MOST))


def _swallowed_by_both(changes: Floats, steps: Floats) -> float:
    """What a source keeps to itself, %, that reports an axis as it is wherever the other has moved far
    enough: by the larger change (n, k) of each report, in steps (k,) of its axis."""
    larger = (changes / steps).max(axis=1)
    came = larger[larger > 0.5]
    if not came.size:
        return 0.0
    least, edge, most = np.quantile(came, (SMALLEST_SHARE, EDGE_SHARE, TOP_SHARE))
    if edge > SHARP * least or most < SWIFT * least:
        return 0.0
    return _swallowed(larger * steps.max(), float(steps.max()))


def stated_fuzz(headers: Mapping[str, str], axis: str) -> float:
    """Below how many counts changes of an axis are swallowed, by the recording's own word; 0 where it
    says nothing that is a number."""
    try:
        stated = float(headers.get(f"fuzz.{axis}", "0"))
    except ValueError:
        return 0.0
    return stated if 0 < stated < np.inf else 0.0


def admitted(
    t_us: NDArray[np.int64], raw: Floats, ranges: tuple[AxisRange, ...], after_us: int | None
) -> NDArray[np.bool_]:
    """Which samples of a live source go on record, (n,): values within their range, times that do not
    run back behind after_us or any sample before, nor past the longest take.

    t_us (n,) from the take's beginning, raw (n, k). What is recorded can be written as a file and read
    again.
    """
    lo, hi = np.array([r.lo for r in ranges]), np.array([r.hi for r in ranges])
    good = np.all((raw >= lo) & (raw <= hi), axis=1) & (np.abs(t_us) <= LONGEST_US)
    times = np.where(good, t_us, -LONGEST_US)
    before = np.maximum.accumulate(np.append(-LONGEST_US if after_us is None else after_us, times))
    return np.asarray(good & (t_us >= before[:-1]))


@dataclass(frozen=True, eq=False)
class Recording:
    """One take as it was recorded; never altered.

    t_us: (n,) int64, microseconds, not decreasing, over 24 hours at most.
    raw: (n, k) float64, k = 1 or 2 axes, exactly as the device reported them, y up.
    step: (n,) int8, an index into STEPS, or NO_STEP between steps.
    Raises RecordingError, naming the first sample that is wrong.
    """

    t_us: NDArray[np.int64]
    raw: Floats
    ranges: tuple[AxisRange, ...]
    step: NDArray[np.int8]
    headers: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        n, k = self.raw.shape if self.raw.ndim == 2 else (-1, -1)
        if self.t_us.shape != (n,) or self.step.shape != (n,) or k not in (1, 2):
            raise RecordingError("times, values and steps differ in length")
        if len(self.ranges) != k:
            raise RecordingError(f"{k} axes are recorded and {len(self.ranges)} ranges are given")
        if n == 0:
            raise RecordingError("there are no samples")
        if not np.isfinite(np.sum(self.raw)):
            at, axis = (int(i) for i in np.argwhere(~np.isfinite(self.raw))[0])
            raise RecordingError(f"sample {at + 1}: {AXES[axis]} is not a number")
        backwards = self.t_us[1:] < self.t_us[:-1]
        if backwards.any():
            at = int(backwards.argmax())
            raise RecordingError(f"sample {at + 2}: time runs backwards")
        self._within_bounds()

    def _within_bounds(self) -> None:
        first, last = int(self.t_us[0]), int(self.t_us[-1])
        if max(abs(first), abs(last)) > FARTHEST or last - first > LONGEST_US:
            raise RecordingError(
                f"it lasts {(last - first) / 3.6e9:.3g} hours and may last "
                f"{LONGEST_US / 3.6e9:.0f}. Is the time in microseconds?"
            )
        for axis, v, r in zip(self.axes, self.raw.T, self.ranges, strict=True):
            if max(abs(v.min() - r.middle), abs(v.max() - r.middle)) > FARTHEST_OUT * r.half:
                at = int(np.abs(v - r.middle).argmax())
                raise RecordingError(
                    f"sample {at + 1}: {axis} lies far outside its range, {v[at]:g}"
                )

    @property
    def axes(self) -> tuple[str, ...]:
        return AXES[: self.raw.shape[1]]

    @cached_property
    def t(self) -> Floats:
        """Seconds since the first sample, (n,)."""
        t: Floats = (self.t_us - self.t_us[0]).astype(np.float64)
        t /= 1e6
        return t

    @cached_property
    def u(self) -> Floats:
        """% of half range, (n, k)."""
        return to_percent(self.raw, self.ranges)

    @cached_property
    def resolutions(self) -> list[float]:
        """The smallest difference between two values of each axis, %; 0 where it never changes. Of a
        calibration that of its coarser half: at its ends it may cut a step in two."""
        return [
            resolution(u)
            if r.known_calibration is None
            else 100.0 * resolution(v) / min(np.diff(astuple(r.known_calibration)))
            for u, v, r in zip(self.u.T, self.raw.T, self.ranges, strict=True)
        ]

    @cached_property
    def swallowed(self) -> list[float]:
        """How small a change each axis's source keeps to itself, %; 0 where it reports every step.

        A kernel leaves out what is under half of its `fuzz` and reports a quarter of what is under
        the whole, so that the smallest change that comes is an eighth of it.
        """
        stated = [
            min(50.0 * stated_fuzz(self.headers, name) / r.half, STATED_MOST)
            for name, r in zip(self.axes, self.ranges, strict=True)
        ]
        moved = np.flatnonzero(self.step[1:] != STEPS.index("still"))[-MOST_LOOKED_AT:]
        if not moved.size:
            return stated
        changes = np.abs(self.u[moved + 1] - self.u[moved])
        steps = np.array(self.resolutions)
        # What is cut off at an end changes by less than what was let through.
        free: NDArray[np.bool_] = np.all(np.abs(self.u) < 100.0, axis=1)
        within = free[moved] & free[moved + 1]
        by_both = _swallowed_by_both(changes[within], steps) if steps.all() else 0.0
        seen = [_swallowed(v, step) for v, step in zip(changes.T, self.resolutions, strict=True)]
        return [max(said, own, by_both) for said, own in zip(stated, seen, strict=True)]

    @cached_property
    def steps(self) -> list[float]:
        """The smallest change that each axis's source reports as it is made, %: of its converter, or
        what it does not keep to itself. 0 where it never changes."""
        return [max(both) for both in zip(self.resolutions, self.swallowed, strict=True)]

    @cached_property
    def ends(self) -> tuple[AxisRange, ...]:
        """Where each axis ends, raw: at its range's ends, or at the last values that came where they
        lie no more than one step of the converter short of them. A converter whose values are moved
        up to fill a wider number, or one that ends as far below its middle as above, stops there; a
        source that swallows small changes stops as far short as these are. A calibration's own ends
        are where it ends."""
        ends = []
        for v, r, step, lost in zip(
            self.raw.T, self.ranges, self.resolutions, self.swallowed, strict=True
        ):
            if r.known_calibration is not None:
                ends.append(AxisRange(r.known_calibration.low, r.known_calibration.high))
                continue
            near = step * r.half / 100.0 * (1 + 1e-6)
            short = lost * r.half / 100.0
            least, most = float(v.min()), float(v.max())
            lo = least if r.lo < least <= r.lo + near else r.lo
            hi = most if r.hi > most >= r.hi - near else r.hi
            lo = r.lo + short if least < r.lo + short else lo
            hi = r.hi - short if most > r.hi - short else hi
            ends.append(AxisRange(lo, hi) if hi > lo else r)
        return tuple(ends)

    @cached_property
    def at_end(self) -> NDArray[np.bool_]:
        """Where each axis lies at an end, (n, k)."""
        lo, hi = np.array([e.lo for e in self.ends]), np.array([e.hi for e in self.ends])
        return np.asarray((self.raw <= lo) | (self.raw >= hi))

    @cached_property
    def _runs(self) -> list[tuple[int, slice]]:
        """Every unbroken run of one step: its code and where it lies."""
        edges = np.flatnonzero(self.step[1:] != self.step[:-1]) + 1
        starts, stops = [0, *edges.tolist()], [*edges.tolist(), len(self.step)]
        return [(int(self.step[a]), slice(a, b)) for a, b in zip(starts, stops, strict=True)]

    def attempts(self, name: str) -> list[slice]:
        """Every unbroken run of a step, in time order."""
        code = STEPS.index(name)
        return [part for step, part in self._runs if step == code]


@dataclass(frozen=True)
class Problem:
    """Something about a step that a technician must know: why it was refused, or what it hides. kind:
    whether to do the step again, to mind what is said, or to know that it is as it should be."""

    step: str
    code: str
    message: str
    kind: ProblemKind = "again"


class NotUsable(Exception):
    """A step from which nothing can be read; says why and what to do."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
