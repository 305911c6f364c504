"""How a model is opened and shut again: the shop's own sheet of steps, what is ticked off on it, and
what must go back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from hollow_pin.core.words import listed

StepKind = Literal[
    "fastener", "clip", "ribbon", "plug", "spring", "label", "heat", "lift", "battery", "other"
]
Battery = Literal["disconnect", "leave", "none"]
Way = Literal["out", "back", "final"]
STEP_KINDS: dict[StepKind, str] = {
    "battery": "Battery",
    "fastener": "Fasteners",
    "label": "Label or trim",
    "clip": "Clip",
    "heat": "Adhesive, with heat",
    "lift": "Lift apart",
    "ribbon": "Ribbon and latch",
    "plug": "Plug or wires",
    "spring": "Spring that jumps",
    "other": "Something else",
}
BACK: dict[StepKind, str] = {
    "fastener": "finger-firm, each length in its own hole",
    "ribbon": "in to the line, latch down",
    "plug": "colours and places as they were",
    "spring": "seated, both ends",
    "clip": "heard to click",
    "battery": "connected again, wires clear",
}
"""What to mind when it goes back, where the sheet says nothing of its own."""
LOOKED_AT = ("plug", "ribbon")
"""Steps of which colours and places are put down, or photographed, before anything is pulled."""
BATTERY_LABEL: dict[Battery, str] = {
    "disconnect": "Disconnect it first",
    "leave": "Leave it connected",
    "none": "There is none",
}
BATTERY_RULE: dict[Battery, str] = {
    "disconnect": "Disconnect the battery before anything else is touched.",
    "leave": "Leave the battery connected: on this model its plug is the bigger risk.",
    "none": "There is no battery.",
}
FINAL: tuple[tuple[str, str], ...] = (
    ("caps", "Caps on the sticks, before the shell shuts"),
    ("sliders", "Sliders up, buttons seated"),
    ("springs", "Springs seated, none on the mat"),
    ("cables", "No cable under the board or in the seam"),
    ("latches", "Every latch down"),
    ("feel", "Each button by feel, pressed one by one"),
)
"""What is gone through before a shell counts as shut, besides the steps of the sheet."""
PLAN_WIDTH, PLAN_HEIGHT = 100.0, 64.0
MOST_STEPS, MOST_MARKS = 60, 40
SHAPES = ("hexagon", "bar", "half", "diamond", "star", "pennant")
"""By which two lengths never look alike; each has its letter besides."""


class SheetError(ValueError):
    """A sheet that cannot be used. field: where."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class FastenerMark:
    """A hole on the plan: x from the left, 0 to 100, y from the top, 0 to 64. length_mm: of what it
    takes; None for a hole that takes none."""

    x: float
    y: float
    length_mm: float | None


@dataclass(frozen=True)
class SheetStep:
    """One step. driver: of its fasteners. minutes: that it takes, 0 where nobody said. warning: what
    goes wrong here. back: what to mind when it goes back. photo: how it looks before it comes out, by
    its SHA-256; empty where there is none."""

    id: str
    kind: StepKind
    words: str
    driver: str = ""
    marks: tuple[FastenerMark, ...] = ()
    minutes: float = 0.0
    warning: str = ""
    back: str = ""
    photo: str = ""


@dataclass(frozen=True)
class Teardown:
    """How a model is opened. battery: the rule, and why. first: which side opens first, and why."""

    battery: Battery = "disconnect"
    battery_why: str = ""
    first: str = ""
    steps: tuple[SheetStep, ...] = ()

    def step(self, step_id: str) -> SheetStep | None:
        return next((s for s in self.steps if s.id == step_id), None)


@dataclass(frozen=True)
class Fastener:
    """One length by one driver: its letter and shape on the plan, how many there are, how many of them
    are out."""

    letter: str
    shape: str
    driver: str
    length_mm: float
    count: int
    out: int

    @property
    def words(self) -> str:
        return f"{self.letter}, {self.length_mm:g} mm"


@dataclass(frozen=True)
class Tick:
    """A step that was ticked off, which way. note: colours and places, or what differed."""

    id: int
    way: Way
    step: str
    at: str
    role: str
    note: str


def with_photos(sheet: Teardown, photos: Mapping[str, str]) -> Teardown:
    """A sheet whose steps that have no photo yet have those by their ids."""
    return replace(
        sheet,
        steps=tuple(replace(s, photo=s.photo or photos.get(s.id, "")) for s in sheet.steps),
    )


def without_photos(sheet: Teardown, missing: set[str]) -> Teardown:
    """A sheet without some photos."""
    steps = (replace(s, photo="") if s.photo in missing else s for s in sheet.steps)
    return replace(sheet, steps=tuple(steps))


def validate_sheet(sheet: Teardown) -> None:
    """Raises SheetError where a sheet cannot be worked by."""
    if len(sheet.steps) > MOST_STEPS:
        raise SheetError("steps", f"A sheet has up to {MOST_STEPS} steps.")
    ids = Counter(s.id for s in sheet.steps)
    for i, step in enumerate(sheet.steps):
        at = f"steps.{i}"
        if not step.id or ids[step.id] > 1:
            raise SheetError(f"{at}.id", f"Step {i + 1} needs an id of its own.")
        if not step.words.strip():
            raise SheetError(f"{at}.words", f"Step {i + 1} says nothing.")
        if step.marks and step.kind != "fastener":
            raise SheetError(f"{at}.marks", f"Step {i + 1} has marks and is no fastener.")
        if len(step.marks) > MOST_MARKS:
            raise SheetError(f"{at}.marks", f"A step has up to {MOST_MARKS} fasteners.")
        for mark in step.marks:
            if not (0 <= mark.x <= PLAN_WIDTH and 0 <= mark.y <= PLAN_HEIGHT):
                raise SheetError(f"{at}.marks", f"A fastener of step {i + 1} lies off the plan.")
            if mark.length_mm is not None and not 0.5 <= mark.length_mm <= 200:
                raise SheetError(f"{at}.marks", "A fastener is 0.5 to 200 mm long.")
        if not 0 <= step.minutes <= 600:
            raise SheetError(f"{at}.minutes", "Minutes: 0 to 600.")


def fasteners_of(sheet: Teardown, ticks: tuple[Tick, ...] = ()) -> tuple[Fastener, ...]:
    """Every length by every driver, the shortest first, and how many of each are out."""
    count: Counter[tuple[str, float]] = Counter()
    out: Counter[tuple[str, float]] = Counter()
    ticked = {(t.way, t.step) for t in ticks}
    for step in sheet.steps:
        loose = ("out", step.id) in ticked and ("back", step.id) not in ticked
        for mark in step.marks:
            if mark.length_mm is not None:
                key = (step.driver, mark.length_mm)
                count[key] += 1
                out[key] += loose
    order = sorted(count, key=lambda k: (k[1], k[0]))
    return tuple(
        Fastener(_letter(i), SHAPES[i % len(SHAPES)], driver, length, count[key], out[key])
        for i, key in enumerate(order)
        for driver, length in (key,)
    )


def _letter(i: int) -> str:
    return chr(ord("A") + i % 26) + ("" if i < 26 else str(i // 26))


@dataclass(frozen=True)
class OpeningProgress:
    """How far an opening is. way: which way it goes now; next: the step that is next that way, None
    where there is none. out, back: how many steps are, of those that were opened. final_open: what is
    still to be looked at, by code."""

    way: Way
    next: str | None
    out: int
    back: int
    steps: int
    fasteners: tuple[Fastener, ...]
    final_open: tuple[str, ...]


def progress_of(sheet: Teardown, ticks: tuple[Tick, ...], shutting: bool) -> OpeningProgress:
    """How far a shell is opened, or shut again."""
    out = {t.step for t in ticks if t.way == "out"}
    back = {t.step for t in ticks if t.way == "back"}
    final = {t.step for t in ticks if t.way == "final"}
    unchecked = tuple(code for code, _ in FINAL if code not in final)
    if not shutting:
        following = next((s.id for s in sheet.steps if s.id not in out), None)
        way: Way = "out"
    else:
        going = [s.id for s in reversed(sheet.steps) if s.id in out and s.id not in back]
        way = "back" if going else "final"
        following = going[0] if going else next(iter(unchecked), None)
    step_ids = {s.id for s in sheet.steps}
    return OpeningProgress(
        way,
        following,
        len(out & step_ids),
        len(out & back & step_ids),
        len(sheet.steps),
        fasteners_of(sheet, ticks),
        unchecked,
    )


def against_shutting(
    progress: OpeningProgress, lying: dict[str, int], waits: str, check: str
) -> tuple[str, ...]:
    """What stands against calling a shell shut, in sentences. lying: how many of each letter lie on
    the mat; waits: what still dries or cools; check: what the open-shell check has against it."""
    objections = []
    if waits:
        objections.append(waits)
    if check:
        objections.append(check)
    missing = [f"{f.out} of {f.words}" for f in progress.fasteners if f.out]
    if missing:
        objections.append(f"Not back in their holes: {listed(missing)}.")
    by_letter = {f.letter: f for f in progress.fasteners}
    over = [
        f"{n} of {by_letter[letter].words if letter in by_letter else letter}"
        for letter, n in sorted(lying.items())
        if n > 0
    ]
    if over:
        objections.append(f"Left over on the mat: {listed(over)}.")
    apart = progress.out - progress.back
    if apart and not missing:
        objections.append(f"{apart} {'step is' if apart == 1 else 'steps are'} not undone yet.")
    if progress.final_open:
        names = dict(FINAL)
        unchecked = [names[code].split(",")[0].lower() for code in progress.final_open]
        objections.append(f"Not looked at: {listed(unchecked)}.")
    return tuple(objections)
