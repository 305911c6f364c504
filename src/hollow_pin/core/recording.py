"""The raw samples of a take, and the one place where they become % of half range."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

STEPS = ("still", "let-go", "rim", "crossing-x", "crossing-y", "hold", "turn")
NO_STEP = -1
AXES = ("x", "y")


class RecordingError(ValueError):
    """The samples cannot be a recording; the message says which sample and why."""


@dataclass(frozen=True)
class AxisRange:
    """The range a device reports one axis in: lo is nominal −100 %, hi is nominal +100 %."""

    lo: float
    hi: float

    def __post_init__(self) -> None:
        if not (np.isfinite(self.lo) and np.isfinite(self.hi) and self.hi > self.lo):
            raise RecordingError(
                f"the range {self.lo:g} to {self.hi:g} is not a range: hi must be above lo"
            )

    @property
    def middle(self) -> float:
        return (self.lo + self.hi) / 2

    @property
    def half(self) -> float:
        return (self.hi - self.lo) / 2


def to_percent(raw: Floats, ranges: tuple[AxisRange, ...]) -> Floats:
    """Raw values (n, k) as % of half range: −100 at lo, +100 at hi."""
    middle = np.array([r.middle for r in ranges])
    half = np.array([r.half for r in ranges])
    return np.asarray(100.0 * (raw - middle) / half, dtype=np.float64)


@dataclass(frozen=True, eq=False)
class Recording:
    """One take as it was recorded; never altered.

    t_us: (n,) int64, microseconds, not decreasing.
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
        finite = np.isfinite(self.raw)
        if not finite.all():
            at, axis = np.argwhere(~finite)[0]
            raise RecordingError(f"sample {at + 1}: {AXES[axis]} is not a number")
        backwards = np.flatnonzero(np.diff(self.t_us) < 0)
        if backwards.size:
            raise RecordingError(f"sample {backwards[0] + 2}: time runs backwards")

    @property
    def axes(self) -> tuple[str, ...]:
        return AXES[: self.raw.shape[1]]

    @cached_property
    def t(self) -> Floats:
        """Seconds since the first sample, (n,)."""
        return np.asarray((self.t_us - self.t_us[0]) / 1e6, dtype=np.float64)

    @cached_property
    def u(self) -> Floats:
        """% of half range, (n, k)."""
        return to_percent(self.raw, self.ranges)

    def attempts(self, name: str) -> list[slice]:
        """Every unbroken run of a step, in time order."""
        inside = np.concatenate(([False], self.step == STEPS.index(name), [False]))
        edges = np.flatnonzero(np.diff(inside.astype(np.int8)))
        return [slice(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


@dataclass(frozen=True)
class Problem:
    """Something about a step that a technician must know: why it was refused, or what it hides."""

    step: str
    code: str
    message: str


class NotUsable(Exception):
    """A step from which nothing can be read; says why and what to do."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
