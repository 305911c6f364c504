"""What the steps of one take gave, before anything is put together from several of them."""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.crossing import CrossingResult
from hollow_pin.core.ends import Ends
from hollow_pin.core.hold import HoldResult
from hollow_pin.core.let_go import LetGoResult
from hollow_pin.core.recording import Problem
from hollow_pin.core.rim import RimResult
from hollow_pin.core.still import StillResult
from hollow_pin.core.turn import TurnResult


@dataclass(frozen=True, eq=False)
class StepResults:
    """Every step of a take that could be measured, with what its readings were read from. hand_line:
    what of both crossings was the hand's and was taken off; None where that could not be told. ends:
    of a single axis."""

    still: StillResult | None
    let_go: LetGoResult | None
    rim: RimResult | None
    crossing: dict[str, CrossingResult]
    hold: HoldResult | None
    turn: TurnResult | None
    hand_line: float | None = None
    ends: Ends | None = None

    @property
    def problems(self) -> list[Problem]:
        steps = (self.still, self.let_go, self.rim, *self.crossing.values(), self.hold, self.turn)
        return [p for step in steps if step is not None for p in step.problems]

    @property
    def dead_zones(self) -> dict[str, float | None]:
        """Each axis's built-in dead zone, %; None where it was not measured, or too few passes were
        made to tell none from one, or all went by the middle."""
        zones: dict[str, float | None] = {"x": None, "y": None}
        tracks = self.crossing | ({"x": self.turn.crossing} if self.turn else {})
        through = any(c.through_middle for c in tracks.values())
        for axis, c in tracks.items():
            zone = c.readings.built_in_dead_zone
            zones[axis] = zone if zone or (through and c.sees_dead_zone) else None
        return zones
