"""A device that learns its range while it is moved: it takes the middle between the farthest that it
was moved each way for zero, so that zero goes along with the first pushes that go farther than any
before.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hollow_pin.core.let_go import finals_of
from hollow_pin.core.recording import Floats, Problem
from hollow_pin.core.release import Release

FULL = 0.92
"""Share of a push along an axis that goes to the end of it."""
SAME_WAY = 0.87
"""Cosine of the angle up to which two pushes go the same way: 30°."""
SHIFTED = 1.5
"""%, by which zero has gone at the least."""
ALIKE = 0.6
"""Of how far zero has gone, that its places may differ by, and 1 % more."""
FEWEST_SHIFTED = 4
"""Releases, on both axes, that came back to elsewhere than later ones from the same direction."""

CODE = "learns"
SAID = (
    "the device learns its range while it is moved: until it was pushed to both ends of each axis, it "
    "came back to elsewhere. What came before is left out. Go round the edge once, and take Still and "
    "Let-go again, to have it all by one range."
)
PROBLEM = Problem("let-go", CODE, SAID, "mind")


def learned_after(release: Sequence[Release]) -> int | None:
    """How many releases had been made when a device had learned its range; None of one that had
    nothing to learn, or of which that is not seen.

    Between the first push to one end of an axis and the first to the other, such a stick comes back to
    aside of where it comes back to later from the same directions: on both axes, away from the end
    that it was pushed to, by as much each time.
    """
    if len(release) < 2 or any(r.final_y is None for r in release):
        return None
    finals = finals_of(release)
    bearing = np.radians([r.bearing for r in release])
    toward = np.column_stack((np.sin(bearing), np.cos(bearing)))
    learned, count = 0, 0
    for axis in (0, 1):
        ends = [np.flatnonzero(way * toward[:, axis] > FULL) for way in (1, -1)]
        if not all(e.size for e in ends):
            return None
        first, last = sorted(int(e[0]) for e in ends)
        away = -np.sign(toward[first, axis])
        shifts = [
            away * _offset_from_later(finals[:, axis], toward, i, last) for i in range(first, last)
        ]
        if not shifts or not _has_shifted(np.array(shifts)):
            return None
        learned, count = max(learned, last), count + len(shifts)
    return learned if count >= FEWEST_SHIFTED else None


def _offset_from_later(finals: Floats, toward: Floats, i: int, last: int) -> float:
    """How far from where it came back to later, of an axis, it came back to the i-th time, by the
    later releases of the same direction; 0 where there are none."""
    later = np.flatnonzero(toward[last:] @ toward[i] > SAME_WAY) + last
    return float(finals[i] - np.median(finals[later])) if later.size else 0.0


def _has_shifted(shifts: Floats) -> bool:
    return float(shifts.min()) >= SHIFTED and float(np.ptp(shifts)) <= ALIKE * shifts.max() + 1.0
