"""Routines: which steps, how often, how long. Data, not code: a shop may have its own."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from hollow_pin.core.turn import PLACES

StepName = Literal["still", "let-go", "rim", "crossing-x", "crossing-y", "hold", "turn"]

STEP_LABEL: dict[StepName, str] = {
    "still": "Still",
    "let-go": "Let-go",
    "rim": "Rim",
    "crossing-x": "Crossing x",
    "crossing-y": "Crossing y",
    "hold": "Hold",
    "turn": "Turn",
}

TWO_AXES_ONLY: tuple[StepName, ...] = ("rim", "crossing-y")
SPRUNG_ONLY: tuple[StepName, ...] = ("let-go", "hold")

TURN_REST_S = 6.0


@dataclass(frozen=True)
class Routine:
    """How much of each step is asked for.

    still_s: seconds, 5 to 3600. releases: toward each direction. laps: each way. passes: of a crossing
    or a turn. hold_s: seconds in each direction. id is "own-N" for a routine of the shop's.
    """

    id: str = "standard"
    name: str = "Standard"
    steps: tuple[StepName, ...] = ("still", "let-go", "rim", "crossing-x", "crossing-y", "hold")
    still_s: float = 10.0
    releases: int = 2
    laps: int = 2
    passes: int = 4
    hold_s: float = 3.0
    note: str = ""

    def only(self, steps: tuple[StepName, ...]) -> Routine:
        """The same amounts, for some steps."""
        return replace(self, steps=steps)

    def with_steps(self, steps: tuple[StepName, ...]) -> Routine:
        """The same, with steps that it had not at its end."""
        return replace(self, steps=(*self.steps, *(s for s in steps if s not in self.steps)))

    def seconds(self, axes: int) -> float:
        """How long it takes a practised hand, about."""
        ways = 8 if axes == 2 else 4
        each: dict[StepName, float] = {
            "still": self.still_s + 1,
            "let-go": ways * self.releases * 2.1,
            "rim": 2.6 * self.laps + 3,
            "crossing-x": 2.5 * self.passes + 2,
            "crossing-y": 2.5 * self.passes + 2,
            "hold": (4 if axes == 2 else 2) * (self.hold_s + 1.5),
            "turn": 2.5 * self.passes + len(PLACES) * (TURN_REST_S + 2),
        }
        return sum(each[s] for s in self.steps)

    def unfit(self, axes: int, sprung: bool) -> tuple[StepName, ...]:
        """The steps that a stick cannot perform."""
        return tuple(
            s
            for s in self.steps
            if (axes == 1 and s in TWO_AXES_ONLY)
            or (not sprung and s in SPRUNG_ONLY)
            or (s == "turn" and (axes == 2 or sprung))
        )


STANDARD = Routine(note="Everything a sprung stick can be asked. Under two minutes.")
ROUTINES: tuple[Routine, ...] = (
    STANDARD,
    Routine(
        id="quick",
        name="Quick",
        steps=("still", "let-go", "rim"),
        still_s=6.0,
        releases=1,
        laps=2,
        note="Rest, returns and rim, in under 45 seconds. The track is not measured.",
    ),
    Routine(
        id="calibration",
        name="Calibration",
        steps=("rim", "let-go", "still"),
        still_s=6.0,
        releases=1,
        laps=2,
        note="Extents first, then centre: what a calibration learns, in the order it learns it.",
    ),
    Routine(
        id="soak",
        name="Soak",
        steps=("still",),
        still_s=1800.0,
        note="Hands off for half an hour: creep, rare spikes, warming up. Browse it while it runs.",
    ),
    Routine(
        id="lever",
        name="Lever",
        steps=("still", "let-go", "crossing-x", "hold"),
        note="A single axis with a spring.",
    ),
    Routine(
        id="paddle",
        name="Paddle",
        steps=("turn",),
        note="A single axis without a spring: end to end, then left alone at three places.",
    ),
)
BY_ID = {r.id: r for r in ROUTINES}


Shape = Literal["two-axes", "lever", "paddle"]
SHAPES: dict[Shape, tuple[int, bool]] = {
    "two-axes": (2, True),
    "lever": (1, True),
    "paddle": (1, False),
}
"""Kinds of sticks, by axes and whether they are sprung."""
USUAL: dict[Shape, str] = {"two-axes": "standard", "lever": "lever", "paddle": "paddle"}
"""The routine that fits a kind, by its id."""


def shape_of(axes: int, sprung: bool) -> Shape:
    """The kind of a stick, by its axes and whether it is sprung."""
    if not sprung:
        return "paddle"
    return "two-axes" if axes == 2 else "lever"


def jig_routine(axes: int) -> Routine:
    """What is asked of a bare module with so many axes: the quick one, and its tracks, where it wears
    and breaks, and where a coarse source tells a sound rest from a dead zone. Of one axis it asks as
    many returns as of two, so that they tell as much."""
    quick = BY_ID["quick"]
    if axes == 2:
        return replace(quick, steps=(*quick.steps, "crossing-x", "crossing-y"))
    return replace(quick, steps=("still", "let-go", "crossing-x"), releases=4 * quick.releases)


def usual_routine(axes: int, sprung: bool) -> Routine:
    """The routine that fits a stick."""
    return BY_ID[USUAL[shape_of(axes, sprung)]]
