"""What was turned so far of an axis that is centred, and what to turn next, in words."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import inf

import numpy as np

from hollow_pin.core.words import percent

MUCH_FARTHER = 4.5
"""From as many times the last turn on no number is said: nobody can turn by it."""
ENDS_S, ENDS_SHARE = 1.0, 0.5
"""What goes on the same way within as long of a reading, by no more than as much of it, is the end of
a turn that is made slowly."""
JUMPED, NO_NEARER = 4, 0.9
"""Turned as often from one side of the centre to the other, and in the second half of those times no
nearer than by as much: it goes in jumps."""


@dataclass
class Turned:
    """Of one axis: how often it was turned, by how much the last time, where it lay after each, %, and
    when that was last read, seconds."""

    times: int = 0
    last: float | None = None
    places: list[float] = field(default_factory=list)
    read_at: float = -inf

    def add(self, moved: float, place: float, at: float) -> bool:
        """Put down that it moved, %, to a place, as it is read at a time. Whether that is the end of
        the turn that was read before, and no turn by itself."""
        last = self.last or 0.0
        ends = at - self.read_at <= ENDS_S and 0.0 < moved * last <= ENDS_SHARE * last**2
        if ends:
            moved += last
            self.places.pop()
        else:
            self.times += 1
        self.last, self.read_at = moved, at
        self.places.append(place)
        return ends

    @property
    def jumps(self) -> float | None:
        """How far it jumps over the centre, %, to and fro without coming nearer; None where it does
        not."""
        if len(self.places) < JUMPED:
            return None
        sides = np.array(self.places[-JUMPED:])
        nearest = np.abs(sides).reshape(2, -1).min(axis=1)
        over = bool((sides[1:] * sides[:-1] < 0).all())
        return float(np.ptp(sides[-2:])) if over and nearest[1] > NO_NEARER * nearest[0] else None


def how_to_turn(turned: Turned, off: float, name: str) -> str:
    """A sentence. off: how far it rests off, %; name: how the axis is called."""
    last = turned.last
    if last is None:
        return f"Turn {name} a little, either way."
    jumps = turned.jumps
    if jumps is not None:
        nearest = percent(min(abs(v) for v in turned.places[-2:]))
        far = percent(jumps)
        return f"It goes in jumps of {far}: nearer than {nearest} it hardly comes. Leave it so."
    ratio = -off / last
    size = abs(ratio)
    way = "the same way" if ratio > 0 else "the other way"
    if size < 0.35:
        how = "a touch"
    elif size < 0.75:
        how = "about half as far"
    elif size < 1.35:
        how = "about as far"
    elif size < 2.5:
        how = "about twice as far"
    elif size < MUCH_FARTHER:
        how = f"about {size:.0f} times as far"
    else:
        return f"Turn {name} {way}, much farther than the last time."
    return f"Turn {name} {way}, {how} as the last time.".replace(
        "a touch as the last time", "a touch"
    )
