"""How far a rim would go beyond the end of its range: what tells a module that sits askew from a
calibration that was learnt from another one."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.gate import BEARINGS, BIN, Gate, gate_edge
from hollow_pin.core.reach import reach_of
from hollow_pin.core.recording import Floats

Ends = tuple[float, float]


def rim(gate: Gate, x: Ends, y: Ends) -> Floats:
    """The rim (72,) of a stick that goes so far, %, low and high on x and on y, cut off at 100."""
    at = np.radians(np.linspace(0.0, 360.0, 72_000, endpoint=False))
    edge = gate_edge(gate, np.degrees(at)) / 100.0
    places = np.column_stack((edge * np.sin(at), edge * np.cos(at)))
    reached = np.clip(places * np.where(places < 0, (x[0], y[0]), (x[1], y[1])), -100.0, 100.0)
    seen = np.degrees(np.arctan2(reached[:, 0], reached[:, 1])) % 360.0
    of = np.floor((seen - BEARINGS[0] + BIN / 2) / BIN).astype(int) % len(BEARINGS)
    return np.array([np.median(np.hypot(*reached[of == n].T)) for n in range(len(BEARINGS))])


@pytest.mark.parametrize("gate", ["round", "octagon"])
@pytest.mark.parametrize(
    ("x", "y"),
    [
        ((95.0, 95.0), (92.0, 97.0)),
        ((88.0, 112.0), (97.0, 97.0)),
        ((97.0, 97.0), (125.0, 80.0)),
        ((112.0, 112.0), (112.0, 112.0)),
        ((90.0, 110.0), (112.0, 93.0)),
        ((130.0, 130.0), (96.0, 96.0)),
    ],
)
def test_what_the_range_cuts_off_is_put_back(gate: Gate, x: Ends, y: Ends) -> None:
    """Of 112 % on one side and 88 on the other it told 101 and 87 in an octagon: as of a half axis
    that was learnt too wide, which wants another remedy."""
    reach = reach_of(rim(gate, x, y), gate)
    assert reach.whole.all()
    assert reach.far == pytest.approx(np.array((x, y)), abs=1.0)


def test_the_side_of_a_square_gate_tells_nothing_of_how_far_it_would_go() -> None:
    reach = reach_of(rim("square", (85.0, 115.0), (95.0, 95.0)), "square")
    assert reach.whole.tolist() == [[True, False], [True, True]]
    assert reach.far[0] == pytest.approx((85.0, 100.0), abs=0.1)


@pytest.mark.parametrize(("over", "told"), [(150.0, True), (160.0, False)])
def test_what_is_cut_off_by_far_is_not_put_back(over: float, told: bool) -> None:
    """A round rim goes straight in there, and half a degree would be a tenth of its reach."""
    reach = reach_of(rim("round", (over, over), (95.0, 95.0)), "round")
    assert reach.whole.tolist() == [[told, told], [True, True]]
    assert reach.far[0] == pytest.approx((over, over) if told else (100.0, 100.0), abs=0.5)


@pytest.mark.parametrize("gate", ["round", "octagon"])
@pytest.mark.parametrize("over", [104.0, 120.0, 128.0])
def test_axes_that_both_run_over_put_each_other_back(gate: Gate, over: float) -> None:
    reach = reach_of(rim(gate, (over, over), (over, over)), gate)
    assert reach.whole.all()
    assert reach.far == pytest.approx(over, abs=1.0)


@pytest.mark.parametrize(("far", "cut"), [(98.9, False), (99.1, True)])
def test_a_rim_is_at_its_end_from_99(far: float, cut: bool) -> None:
    """What lies within is as far as it goes, in a square gate too."""
    assert reach_of(rim("square", (95.0, far), (95.0, 95.0)), "square").whole[0, 1] != cut
