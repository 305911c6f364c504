"""How the models of the demo are opened, as the shop has put it down."""

from __future__ import annotations

from hollow_pin.bench.openings import (
    begin_opening,
    keep_sheet,
    shut,
    tick_off,
    view_opening,
)
from hollow_pin.bench.photos import keep_photo
from hollow_pin.core.remedies import OPENING
from hollow_pin.core.teardown import FINAL, FastenerMark, SheetStep, StepKind, Teardown
from hollow_pin.demo.pictures import photograph
from hollow_pin.store.database import Database

SIX_LOBE = "six-lobe 8, with a hole"
CROSS = "cross head 0"


def _step(
    step_id: str,
    kind: StepKind,
    words: str,
    warning: str = "",
    back: str = "",
    minutes: float = 1,
) -> SheetStep:
    return SheetStep(step_id, kind, words, "", (), minutes, warning, back)


def _screws(
    step_id: str,
    words: str,
    driver: str,
    at: tuple[tuple[float, float, float | None], ...],
    warning: str = "",
) -> SheetStep:
    marks = tuple(FastenerMark(*place) for place in at)
    return SheetStep(step_id, "fastener", words, driver, marks, 2, warning)


PLOVER = Teardown(
    "disconnect",
    "Its plug is sturdy, and the cell lies under the board.",
    "The face comes off first: the back holds the cell by its wires.",
    (
        _step("grips", "clip", "Grips off: the outer edge lets go first", back="top edge first"),
        _screws(
            "long",
            "The long screw, under the label in the middle",
            SIX_LOBE,
            ((50, 32, 12),),
            "In a short hole it comes through the board.",
        ),
        _screws(
            "short",
            "Six short screws round the edge",
            SIX_LOBE,
            (
                (12, 12, 8),
                (50, 9, 8),
                (88, 12, 8),
                (14, 52, 8),
                (50, 56, 8),
                (86, 52, 8),
                (30, 30, None),
                (70, 30, None),
            ),
            "The two recessed holes beside the label take none.",
        ),
        _step("seam", "clip", "Seam: the two clips below let go last, thumb along it"),
        _step(
            "cell",
            "battery",
            "Cell unplugged, by its plug and not by its wires",
            "Never by a blade.",
            "red to the outside, wires along the wall",
        ),
        _step(
            "motors", "plug", "Two motor plugs", back="left black and white, right black and red"
        ),
        _step("face", "ribbon", "Face ribbon: latch up, straight out", back="blue side up"),
        _screws("board", "Two screws of the board", CROSS, ((24, 40, 5), (76, 40, 5))),
        _step("lift", "lift", "Board out, sticks up", "The trigger springs jump.", minutes=2),
    ),
)
DUNLIN = Teardown(
    "leave",
    "Its plug breaks off the board more often than anything else here; nothing hot near the cell.",
    "The end cap comes off before the halves part.",
    (
        _step("cap", "label", "End cap, turned off"),
        _screws(
            "three", "Three screws along the wand", CROSS, ((20, 32, 6), (50, 32, 6), (80, 32, 9))
        ),
        _step("halves", "clip", "Halves apart from the cap's end"),
        _step(
            "ribbon",
            "ribbon",
            "Stick ribbon: the latch flips up, the ribbon slides",
            "The latch is thin: a nail, no tool.",
            "contacts down, in to the line",
        ),
        _screws("stick", "Two screws of the stick", CROSS, ((40, 20, 4), (60, 20, 4))),
    ),
)
TURNSTONE = Teardown(
    "none",
    "",
    "The knob is a press fit and comes off before the shell opens.",
    (
        _step("knob", "lift", "Knob pulled straight off", back="flat to the flat"),
        _screws(
            "four", "Four screws below", CROSS, ((15, 12, 7), (85, 12, 7), (15, 52, 7), (85, 52, 7))
        ),
        _step("nut", "other", "Nut of the paddle, 8 mm", back="washer below the nut"),
        _step(
            "wires", "plug", "Three wires of the track", back="brown, orange, yellow from the left"
        ),
    ),
)
SKUA = Teardown(
    "none",
    "",
    "The base plate comes off; the grip stays on the shaft.",
    (
        _step("feet", "label", "Four feet, warmed, peeled off", back="new pads where they tear"),
        _screws(
            "base",
            "Eight screws below the feet",
            SIX_LOBE,
            (
                (10, 10, 10),
                (36, 10, 10),
                (64, 10, 10),
                (90, 10, 10),
                (10, 54, 10),
                (36, 54, 10),
                (64, 54, 16),
                (90, 54, 16),
            ),
            "The two long ones sit below the cable.",
        ),
        _step("cable", "plug", "Cable's plug and its strain relief", back="knot inside the wall"),
        _step("spring", "spring", "Centring spring off its post", "It jumps: eye protection."),
        _step(
            "sensor", "ribbon", "Sensor ribbon, latch at the side", back="dark side to the shaft"
        ),
    ),
)
SHEETS = {"plover": PLOVER, "dunlin": DUNLIN, "turnstone": TURNSTONE, "skua": SKUA}


def draw_sheets(database: Database, at: str, role: str) -> None:
    for model, sheet in SHEETS.items():
        keep_sheet(database, model, sheet, 0, at, role)


def open_up(database: Database, job_id: int, at: str, role: str, photographed: str = "") -> None:
    """Open a shell, every step of it. photographed: one of them, by its id."""
    opening = begin_opening(database, job_id, OPENING, at, role)
    for step in opening.sheet.steps:
        if step.id == photographed:
            picture = photograph("plug", job_id)
            keep_photo(database, job_id, picture, step.words, at, role, step.id)
        tick_off(database, job_id, "out", step.id, "", at, role)


def shut_again(database: Database, job_id: int, because: str, at: str, role: str) -> None:
    """Shut it, every step back and everything looked at."""
    with database.reading() as db:
        view = view_opening(db, job_id, at)
    assert view.opening is not None
    for step in reversed(view.opening.sheet.steps):
        tick_off(database, job_id, "back", step.id, "", at, role)
    for code, _ in FINAL:
        tick_off(database, job_id, "final", code, "", at, role)
    shut(database, job_id, {}, because, at, role)
