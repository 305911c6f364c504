"""A take's sides: what several signs of a cause are worked out from, each once."""

from __future__ import annotations

from functools import cached_property
from typing import Literal

import numpy as np

from hollow_pin.core.crossing import Crossing
from hollow_pin.core.hidden import AT_ZERO_CODES
from hollow_pin.core.let_go import Ways, apart_by_way, finals_of
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.reach import Reach, reach_of
from hollow_pin.core.readings import TakeReadings, of_a_touch, spikes_as_one, sways_as_one
from hollow_pin.core.recording import Floats
from hollow_pin.core.release import Release
from hollow_pin.core.still import COARSE_STEP
from hollow_pin.core.turn import Turn

Axis = Literal["x", "y"]
AT_LEAST = 4.0
"""%, of a dead zone that nothing measured."""
ONE_STEP = 1.01
"""Of the step of a coarse converter: what lies no farther apart is one place."""

OVERRUN = LIMIT_OF["rim.overrun"]


class Sides:
    """A take, and what several evidences are worked out from. zone: how far from zero its rest may lie
    and its source says zero of it, %; 0 where it does not."""

    def __init__(self, take: TakeReadings) -> None:
        self.take = take
        releases = take.let_go.release if take.let_go else ()
        self.releases: tuple[Release, ...] = releases
        self.finals: Floats = finals_of(releases)
        toward = np.radians([r.bearing for r in releases])
        self.toward: Floats = np.column_stack((np.sin(toward), np.cos(toward))).reshape(-1, 2)
        self.as_one = sways_as_one(take)
        self.struck = spikes_as_one(take)
        zones = [h.below or AT_LEAST for h in take.hidden if h.code in AT_ZERO_CODES]
        self.zone = max(zones, default=0.0)
        self.hidden_rest = self.zone > 0 or self.as_one
        self.of_a_touch = of_a_touch(take)
        at_rest = take.still
        steps = (at_rest.resolution_x, at_rest.resolution_y or 0.0) if at_rest else (0.0, 0.0)
        self.steps = np.array([step if step > COARSE_STEP else 0.0 for step in steps])

    def crossing(self, axis: Axis) -> Crossing | Turn | None:
        """The track of an axis: by a crossing, or a paddle's by a turn."""
        c = self.take.crossing
        if c is None and axis == "x":
            return self.take.turn
        return None if c is None else c.x if axis == "x" else c.y

    @cached_property
    def centre(self) -> Floats | None:
        """Where the returns lie in the middle, (2,) %."""
        if len(self.finals) < 2 or self.hidden_rest:
            return None
        middle = np.median(self.finals, axis=0)
        return np.asarray(np.where(np.abs(middle) <= ONE_STEP * self.steps / 2, 0.0, middle))

    @cached_property
    def rests(self) -> Floats | None:
        """Where it comes back to, (n, 2) %: by its returns; or, at one of these, by a single Still or
        at zero, since one rest alone may be held or worn apart; at zero, give or take `zone`, where
        that is hidden."""
        if self.centre is not None:
            return self.centre[np.newaxis]
        if self.hidden_rest:
            return np.zeros((1, 2))
        still = self.take.still
        return (
            None if still is None else np.array([(0.0, 0.0), (still.rest_x, still.rest_y or 0.0)])
        )

    @cached_property
    def reach(self) -> Reach | None:
        """How far the rim reaches, by the gate that it looks like."""
        rim = self.take.rim
        gate = self.take.composite.gate_seen or "round"
        return None if rim is None else reach_of(np.array(rim.radius), gate)

    def apart(self, far: float, axis: Axis) -> float:
        """How far two places of an axis lie apart, %: one step of a coarse converter is none."""
        return 0.0 if far <= ONE_STEP * self.steps[index_of(axis)] else far

    @cached_property
    def apart_by_way(self) -> Ways | None:
        """How returns lie to the ways they came back on."""
        one = len(self.take.recording.axes) == 1
        alike = len(self.finals) > 0 and bool(
            (np.ptp(self.finals, axis=0) <= ONE_STEP * self.steps).all()
        )
        return None if one or alike or self.hidden_rest else apart_by_way(self.releases)

    def as_its_model_runs(self, axes: str) -> bool:
        """Whether its model is known to run over its ends, and these axes do no more than it: a number
        that says nothing, however large."""
        stated = self.take.recording.overrun
        cut = {h.axis for h in self.take.hidden if h.code == "saturated"}
        return stated is not None and stated > OVERRUN.everyday and cut.isdisjoint(axes)

    def value(self, path: str) -> float | None:
        if path in self.of_a_touch:
            return None
        hidden = self.take.hidden_at(path)
        return None if hidden and hidden.code != "saturated" else self.take.value(path)


def index_of(axis: Axis) -> int:
    return 0 if axis == "x" else 1
