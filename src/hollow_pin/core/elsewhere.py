"""How far the stick goes in the steps beside Rim, by which it is known that a rim lies at the edge.

A thumb that rolls a stick round without pressing it outward draws a rim as round as any, and smaller:
by itself it looks like a device whose scale is off.
"""

from __future__ import annotations

import numpy as np

from hollow_pin.core.recording import AXES, Floats, NotUsable, Recording
from hollow_pin.core.words import hours_words, percent

AT_ITS_END = {"let-go": 0.005, "crossing": 0.02, "hold": 0.01}
"""Of a step's samples, as many lie at either end of an axis that is brought there: most of a Crossing
goes from one to the other, few of the pushes go along an axis, and fewer than these are spikes."""
OF_RIM = 0.01
"""The same of a rim."""
FEWEST = 2
"""Steps that go so far."""
LEAST_OUT = 50.0
"""% from zero, that a side is brought to, by less than which nobody pushes to an edge."""
SHORT = 0.95
"""Of that, from which on a rim lies at the edge: a hand gives way by less."""
SIDES = ((9, 3), (6, 12))
"""The clock hours of an axis's low and high side, of x and of y."""


def farthest_elsewhere(recording: Recording) -> Floats:
    """How far out each axis is brought on its low and high side, (2, 2) %, by the second farthest of
    the last attempts at Let-go, its Crossing and Hold; NaN where fewer of these were made."""
    out = np.full((2, 2), np.nan)
    for axis, name in enumerate(AXES):
        ends = []
        for step, share in AT_ITS_END.items():
            parts = recording.attempts(f"crossing-{name}" if step == "crossing" else step)
            if parts:
                ends.append(_ends(recording.u[parts[-1], axis], share))
        if len(ends) >= FEWEST:
            out[axis] = np.sort(ends, axis=0)[-FEWEST]
    return out


def refuse_inside_edge(u: Floats, elsewhere: Floats) -> None:
    """Raise NotUsable for a rim, u (n, 2) %, that lies inside of what other steps reach, (2, 2) %, on
    one side or more."""
    rim = np.array([_ends(u[:, axis], OF_RIM) for axis in range(2)])
    short = (elsewhere >= LEAST_OUT) & (rim < SHORT * elsewhere)
    if not short.any():
        return
    hours = sorted(SIDES[axis][side] for axis, side in np.argwhere(short))
    least = float((rim[short] / elsewhere[short]).min())
    raise NotUsable(
        "inside-edge",
        f"toward {hours_words(hours, 2)} the stick went only {percent(100 * least)} as far as in "
        "other steps: it was not led along the edge. Redo Rim, pressed outward all the way round.",
    )


def _ends(v: Floats, share: float) -> Floats:
    """How far out values (n,) lie below and above zero, % each, but for a share of them."""
    return np.quantile(v, (share, 1.0 - share)) * (-1.0, 1.0)
