"""Parts: what lies on the shelf, how it moves, and which of it fits a stick."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median
from typing import Literal

from hollow_pin.core.calculators.divider import compared
from hollow_pin.core.controller import ModelStick
from hollow_pin.core.remedies import BY_CODE, ModuleKind

PartKind = Literal[
    "module", "sensor", "cap", "ring", "spring", "trim", "ribbon", "solder", "solvent", "other"
]
PART_LABEL: dict[PartKind, str] = {
    "module": "Module",
    "sensor": "Sensor parts",
    "cap": "Cap",
    "ring": "Ring",
    "spring": "Spring",
    "trim": "Trim",
    "ribbon": "Ribbon",
    "solder": "Solder",
    "solvent": "Solvent",
    "other": "Something else",
}
PARTS_OF: dict[str, tuple[PartKind, ...]] = {
    "replaced": ("module",),
    "replaced-by-hall": ("module",),
    "donor": ("module",),
    "sensor-parts": ("sensor",),
    "trimmed": ("trim",),
    "cap-changed": ("cap", "ring", "spring"),
    "reseated": ("ribbon",),
}
"""What goes into a stick with a remedy, by its code."""

Moved = Literal[
    "counted",
    "received",
    "from-donor",
    "reserved",
    "released",
    "used",
    "returned",
    "scrapped",
    "set-aside",
    "cleared",
    "sent-back",
]


@dataclass(frozen=True)
class Movement:
    """A way for parts to move. hand, held: what one of them adds to how many lie there, and to how
    many of these are spoken for. job: whether it is for a job. why: whether it wants a reason."""

    code: Moved
    label: str
    hand: Literal[-1, 0, 1]
    held: Literal[-1, 0, 1]
    job: bool = False
    why: bool = False


MOVEMENTS: tuple[Movement, ...] = (
    Movement("received", "Received", 1, 0),
    Movement("from-donor", "Taken from a donor", 1, 0, why=True),
    Movement("reserved", "Reserved for a job", 0, 1, job=True),
    Movement("released", "Released again", 0, -1, job=True),
    Movement("used", "Used", -1, 0),
    Movement("returned", "Put back", 1, 0),
    Movement("scrapped", "Thrown away", -1, 0, why=True),
    Movement("set-aside", "Set aside, not to be used", -1, 0, why=True),
    Movement("cleared", "Back from being set aside", 1, 0, why=True),
    Movement("sent-back", "Sent back to its source", -1, 0, why=True),
    Movement("counted", "Found by counting", 1, 0, why=True),
)
BY_MOVE = {m.code: m for m in MOVEMENTS}


@dataclass(frozen=True)
class PartFacts:
    """What a part is. footprint: the holes it fits, by the shop's own word. ohms: as it is sold, with
    its tolerance, %. sensor: of a module. place: where it lies. reorder_at: from how many left on it
    is ordered again."""

    name: str
    kind: PartKind
    footprint: str = ""
    ohms: float | None = None
    tolerance: float | None = None
    sensor: ModuleKind | Literal[""] = ""
    place: str = ""
    price: float | None = None
    reorder_at: int = 0
    note: str = ""


@dataclass(frozen=True)
class Count:
    """How many lie there, and how many of these are reserved."""

    hand: int = 0
    held: int = 0

    @property
    def free(self) -> int:
        return self.hand - self.held


class NotEnough(ValueError):
    """More would be moved than there are; says how many there are."""


def after_movement(count: Count, move: Moved, n: int, own_held: int = 0) -> Count:
    """How many there are after a movement of n, 1 or more. own_held: reserved for the same job.

    What is used or thrown away of what is reserved for the job is no longer reserved. “counted” takes
    n of either sign: so many more, or fewer, than were thought. Raises NotEnough.
    """
    way = BY_MOVE[move]
    freed = min(n, own_held) if move == "used" else 0
    after = Count(count.hand + way.hand * n, count.held + way.held * n - freed)
    if move == "released" and n > own_held:
        raise NotEnough(f"{own_held} are reserved for that job.")
    if after.hand < 0:
        raise NotEnough(f"{count.hand} lie there.")
    if after.held > after.hand:
        raise NotEnough(f"{count.free + freed if way.hand else count.free} of them are free.")
    return after


def is_low(facts: PartFacts, count: Count) -> bool:
    """Whether it is time to order: as few are free as its reorder point, or fewer; 0 for never."""
    return facts.reorder_at > 0 and count.free <= facts.reorder_at


FEWEST_ORDERS = 2
"""As many orders of a source that came, before its lead time is told."""


def lead_days(took: Sequence[float]) -> float | None:
    """How many days a source takes, by its past orders: their median; None of too few."""
    return float(median(took)) if len(took) >= FEWEST_ORDERS else None


Fits = Literal["fits", "other-value", "unknown", "not"]
VALUE_WITHIN = 0.25
"""As far as a track may lie off the value that belongs there, as a share."""


@dataclass(frozen=True)
class Fit:
    """Whether a part fits a stick, and why, in sentences: what it would do, too, where its value is
    another."""

    fits: Fits
    words: tuple[str, ...]


def fit(facts: PartFacts, remedy: str, stick: ModelStick, footprint: str) -> Fit:
    """Hold a part against a stick of a model and what is to be done to it. footprint: of the model's
    module, by the shop's own word; empty where it is not known."""
    kinds = PARTS_OF.get(remedy, ())
    if facts.kind not in kinds:
        return Fit("not", ("It does not go in with that.",))
    row = BY_CODE[remedy]
    if facts.kind in ("cap", "ring", "spring", "trim", "ribbon"):
        return _by_footprint(facts, footprint) or Fit("fits", ())
    kind = row.module or (stick.kind if remedy == "sensor-parts" else None)
    if kind is not None and facts.sensor and facts.sensor != kind:
        name = "a Hall module" if kind == "hall" else "a potentiometer"
        return Fit("not", (f"It is not {name}.",))
    holes = _by_footprint(facts, footprint)
    if holes is not None and holes.fits == "not":
        return holes
    if facts.sensor == "hall":
        return holes or Fit("fits", ("It has no track: its value is no question.",))
    return _by_value(facts, stick, holes)


def shelf_words(fitting: int, perhaps: int, awaited: int) -> str:
    """What lies ready for a remedy, in a sentence. fitting: how many parts of those that fit can go
    in; perhaps: of those of which that is not known; awaited: how many are on order."""
    if fitting:
        return "One on the shelf fits." if fitting == 1 else f"{fitting} on the shelf fit."
    if perhaps:
        return (
            f"{'One' if perhaps == 1 else perhaps} on the shelf may fit: hold it against the stick."
        )
    if awaited:
        return f"None on the shelf fits; {awaited} {'is' if awaited == 1 else 'are'} on order."
    return "None on the shelf fits: it is to be ordered first."


def _by_footprint(facts: PartFacts, footprint: str) -> Fit | None:
    """None where the holes are the same."""
    if not facts.footprint or not footprint:
        what = "of the model" if not footprint else "of the part"
        return Fit("unknown", (f"The footprint {what} is not known: hold it against the holes.",))
    if facts.footprint.casefold() != footprint.casefold():
        return Fit("not", (f"It fits the holes of {facts.footprint}, and {footprint} is wanted.",))
    return None


def _by_value(facts: PartFacts, stick: ModelStick, holes: Fit | None) -> Fit:
    own = next((s.ohms for s in stick.sensors if s.ohms), None)
    if own is None or facts.ohms is None:
        missing = "of the model" if own is None else "of the part"
        return Fit(
            "unknown",
            (*(holes.words if holes else ()), f"The value {missing} is not known: measure."),
        )
    off = facts.ohms / own - 1.0
    if abs(off) > VALUE_WITHIN:
        inputs = {"track_ohms": facts.ohms, "position": 0.5, "input_ohms": 1e6, "supply_v": 3.3}
        sentences = compared(inputs, float(own), None)
        return Fit(
            "other-value",
            (
                f"It fits the holes and not the value: {facts.ohms:g} Ω where {own:g} Ω belong.",
                *sentences,
            ),
        )
    return holes or Fit("fits", ())
