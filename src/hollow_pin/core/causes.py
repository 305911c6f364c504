"""What can be wrong with a stick: one row a cause. What helps is in the table of remedies."""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.remedies import REMEDIES, Help, Remedy

SOUND = "sound"


@dataclass(frozen=True)
class Cause:
    """name: as it is said; shows: what it does to the readings, and why. by_axis: whether it is one
    axis's. decides: what would tell it from others, in the order of the trouble it takes."""

    code: str
    name: str
    shows: str
    by_axis: bool
    decides: tuple[str, ...] = ()

    @property
    def helped_by(self) -> tuple[tuple[Remedy, Help], ...]:
        """Remedies, the likeliest to cure it first."""
        helps = [(r, r.helps[self.code]) for r in REMEDIES if self.code in r.helps]
        return tuple(sorted(helps, key=lambda pair: -pair[1].chance))


CAUSES: tuple[Cause, ...] = (
    Cause(
        SOUND,
        "Sound",
        "Every reading lies within its limit, and nothing hides behind it.",
        False,
    ),
    Cause(
        "offset",
        "Off centre",
        "The rest lies off zero, quiet, and every release comes back to it: the centre is "
        "another one than the program takes it for.",
        True,
        ("let-go",),
    ),
    Cause(
        "worn",
        "Worn at the centre",
        "Where the wiper lives the track has worn: releases come back apart, by the way they "
        "came, the rest wanders, and it is noisier there than along the way.",
        True,
        ("let-go", "crossing"),
    ),
    Cause(
        "dirty",
        "Dirt on the track",
        "Debris lifts the wiper: spikes and rough places at certain positions, better after "
        "working it back and forth, worse again later.",
        True,
        ("crossing", "work-it", "still"),
    ),
    Cause(
        "binding",
        "Mechanical bind",
        "Something rubs or holds: a quiet signal that stops short on its way back from one "
        "side, comes back late, or a sector of the rim that is cut short.",
        False,
        ("let-go", "rim"),
    ),
    Cause(
        "unseated",
        "Module not seated flush",
        "It stands askew: the reach is lopsided, and the rim lies off its returns, both ends "
        "moved the same way.",
        True,
        ("rim",),
    ),
    Cause(
        "loose",
        "Loose joint, ribbon or plug",
        "The contact opens: jumps to an end or to the middle and back, at any place, more when "
        "the board is pressed.",
        True,
        ("press-board", "still"),
    ),
    Cause(
        "calibration",
        "Calibration of another part",
        "Scale or ends were learnt from another part: the reach is too long or too short, and "
        "the shape of the rim is right.",
        True,
        ("recalibrate", "rim"),
    ),
    Cause(
        "failing-track",
        "Track fails away from the centre",
        "It falls back or drops out while it is held over, or jumps over a place pass after pass.",
        True,
        ("hold", "crossing"),
    ),
    Cause(
        "cross-talk",
        "One axis moves the other",
        "A magnet or a module that sits askew: the other axis moves along on a straight crossing.",
        True,
        ("crossing",),
    ),
    Cause(
        "firmware-dead-zone",
        "Dead zone in the source",
        "The source shows exactly zero around the centre: what the stick does in there is hidden.",
        False,
        ("rawer-source",),
    ),
    Cause(
        "supply-noise",
        "Noise of the supply",
        "Both axes tremble as one, often at one frequency: that is no track.",
        False,
        ("other-cable", "still"),
    ),
)
CAUSE = {c.code: c for c in CAUSES}


def name_of(cause: str) -> str:
    """A cause as it stands within a sentence."""
    name = CAUSE[cause].name
    return name[0].lower() + name[1:]
