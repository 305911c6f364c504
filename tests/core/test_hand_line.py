"""Cross-talk is told from a hand that went askew by the rim: it shears a rim, and a hand does not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.comparison import compare
from hollow_pin.core.crossing import CrossingResult, measure_crossing
from hollow_pin.core.gate import Gate
from hollow_pin.core.hand_line import ASKEW_DEG, FOLDED, hand_line, straightened
from hollow_pin.core.limits import verdict_on
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.rim import FEWEST_UNCUT, measure_rim, shear
from hollow_pin.core.take import measure_take
from sticks import HERE, performed

UNIT = (AxisRange(-100, 100),) * 2


def rim(k: float = 0.0, m: float = 0.0, reach: float = 95.0, **more: object) -> float | None:
    """The shear of a rim of which each axis is carried along with the other, laps both ways."""
    angle = np.concatenate([np.linspace(0, 4.2 * np.pi, 2000), np.linspace(4.2 * np.pi, 0, 2000)])
    x, y = reach * np.sin(angle), reach * np.cos(angle)
    gate: Gate = "round"
    if more.get("square"):
        gate = "square"
        to_edge = reach / np.maximum(np.abs(x), np.abs(y))
        x, y = x * to_edge, y * to_edge
    u = np.column_stack([x + k * y + more.get("off", 0.0), y + m * x])  # type: ignore[operator]
    u[:, 0] *= more.get("wide", 1.0)  # type: ignore[arg-type]
    u += np.random.default_rng(2).normal(0, 0.3, u.shape)
    limit = float(more.get("limit", 1e3))  # type: ignore[arg-type]
    u = np.clip(u, -limit, limit)
    return shear(measure_rim(u, gate, np.abs(u) >= limit), gate)


@pytest.mark.parametrize(("k", "m"), [(0.0, 0.0), (0.08, 0.0), (0.0, -0.05), (0.1, 0.04)])
def test_a_shear_is_recovered_whatever_else_the_rim_is(k: float, m: float) -> None:
    truly = pytest.approx(k + m, abs=0.006)
    assert rim(k, m) == truly
    assert rim(k, m, off=6.0) == truly, "off centre"
    assert rim(k, m, wide=0.9) == pytest.approx(k + m, abs=0.012), "one axis of another scale"
    assert rim(k, m, reach=103.0, limit=100.0) == pytest.approx(k + m, abs=0.01), "its ends cut off"


def test_a_turn_shears_nothing() -> None:
    assert rim(0.09, -0.09) == pytest.approx(0.0, abs=0.006)


def test_it_is_not_told_of_a_rim_that_is_mostly_cut_off() -> None:
    assert rim(0.05, reach=104.0, limit=100.0) is not None
    assert rim(0.05, reach=130.0, limit=100.0) is None, f"under {FEWEST_UNCUT} bins are left"
    assert rim(0.05, square=True) == pytest.approx(0.05, abs=0.015), "its corners take a little"
    assert rim(0.05, square=True, limit=94.0) is None, "a square one is told whole or not at all"


def by_hand(recording: Recording, degrees: float) -> Recording:
    """The same stick, crossed from left to right by a hand that is so much more askew."""
    raw = recording.raw.copy()
    part = recording.attempts("crossing-x")[-1]
    half = recording.ranges[1].half
    along = recording.u[part, 0] / 100.0
    raw[part, 1] += half * np.tan(np.radians(degrees)) * along
    raw = np.clip(raw, recording.ranges[0].lo, recording.ranges[0].hi)
    return replace(recording, raw=raw)


def sheared(recording: Recording, k: float) -> Recording:
    """Another stick: its up and down is carried along with left and right."""
    u = recording.u.copy() * 0.85
    u[:, 1] += k * u[:, 0]
    return Recording(recording.t_us, u, UNIT, recording.step, recording.headers)


def of(recording: Recording) -> TakeReadings:
    return measure_take(recording, "round")


def test_another_hands_line_is_no_change_and_a_true_one_is() -> None:
    """Seven degrees of the hand look like 24 % of cross-talk; half comes off, since the rim has
    none of it, and a hand that was so far off may have made the rest."""
    straight = sheared(performed("sound").recording, 0.0)
    before = of(straight)
    askew = of(by_hand(straight, 7.0))
    row = compare(before, askew, HERE, HERE).row("crossing.x.cross_talk")
    assert row is not None
    assert 8 < row.change < 15
    assert not row.worth_saying
    assert row.u_change > 0.8 * row.change
    turned = askew.hand_line - before.hand_line
    assert turned == pytest.approx(np.tan(np.radians(7.0)), abs=0.02)
    truly = compare(of(sheared(performed("sound").recording, 0.16)), before, HERE, HERE)
    assert truly.overall == "better"
    assert "crossing.x.cross_talk" in [r.path for r in truly.telling]


def test_a_line_that_is_straight_may_be_askew_by_the_next_hand() -> None:
    straight = sheared(performed("sound").recording, 0.0)
    part = straight.attempts("crossing-x")[-1]
    raw = straight.raw.copy()
    raw[part, 1] = np.random.default_rng(3).normal(0, 0.1, raw[part, 1].shape)
    u = of(replace(straight, raw=raw)).uncertainty["crossing.x.cross_talk"]
    reach = np.ptp(straight.u[part, 0])
    askew = FOLDED * np.tan(np.radians(ASKEW_DEG)) / np.sqrt(2) * reach
    assert 0.8 * askew < u < 1.25 * askew
    assert pytest.approx(np.sqrt(1 - 2 / np.pi), abs=5e-4) == FOLDED


def test_where_the_rim_was_not_taken_the_hand_is_not_known() -> None:
    whole = sheared(performed("sound").recording, 0.0)
    step = np.where(whole.step == STEPS.index("rim"), -1, whole.step).astype(np.int8)
    without = of(replace(whole, step=step))
    assert without.hand_line is None
    row = compare(without, of(whole), HERE, HERE).row("crossing.x.cross_talk")
    assert row is not None
    assert row.u_change < 20


def passes(slope: float) -> CrossingResult:
    """Four passes by a hand, over a stick, whose other axis goes along at this slope."""
    to_and_fro = np.concatenate([np.linspace(-98, 98, 700), np.linspace(98, -98, 700)])
    v = np.tile(to_and_fro, 2) + np.random.default_rng(1).normal(0, 0.1, 2800)
    return measure_crossing("crossing-x", np.arange(2800) / 250.0, v, slope * v)


@pytest.mark.parametrize(("k", "m"), [(0.0, 0.0), (0.15, 0.0), (0.05, -0.12)])
@pytest.mark.parametrize(("right", "up"), [(0.07, 0.07), (0.07, 0.0), (0.0, -0.05)])
def test_half_of_what_the_rim_does_not_have_comes_off_each_line(
    k: float, m: float, right: float, up: float
) -> None:
    """k, m: of the stick; right, up: of the hand on its two lines. A hand that is turned by as much on
    both leaves nothing; one that is off on one line, half of that."""
    angle = np.linspace(0, 4.2 * np.pi, 4000)
    x, y = 95 * np.sin(angle), 95 * np.cos(angle)
    u = np.column_stack([x + m * y, y + k * x])
    crossings = {"x": passes(k + right), "y": passes(m + up)}
    line = hand_line(crossings, measure_rim(u, "round", np.zeros(u.shape, dtype=bool)), "round")
    assert line == pytest.approx(right + up, abs=0.01)
    for crossing, own, off in ((crossings["x"], k, right - up), (crossings["y"], m, up - right)):
        left = straightened(crossing, line / 2).readings.cross_talk
        assert left == pytest.approx(172 * abs(own + off / 2), abs=2.0)


def test_a_limit_has_room_for_the_hand_and_a_fault_needs_more() -> None:
    """Of what a hand may have made nothing is held against health, and none of it proves a fault."""
    take = of(sheared(performed("sound").recording, 0.0))
    path = "crossing.x.cross_talk"
    hand = take.by_hand[path]
    own = np.sqrt(take.uncertainty[path] ** 2 - hand**2)
    value = take.value(path)
    assert hand > 2 * own, "the hand is most of it"
    assert verdict_on(take, path, value + 2 * own + 1e-6) == "within"
    assert verdict_on(take, path, value + 2 * own - 1e-6) == "borderline"
    assert verdict_on(take, path, value - 2 * own - 1e-6) == "borderline"
    without = replace(take, by_hand={})
    assert verdict_on(without, path, value + 2 * own + 1e-6) == "borderline"
