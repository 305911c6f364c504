"""Sticks of a third physics are called by their names: what holds on ours alone is worth nothing."""

from __future__ import annotations

import numpy as np
import pytest

from gimbal import Stick, signal, taken
from hollow_pin.core.comparison import compare
from hollow_pin.core.gate import Gate
from hollow_pin.core.ranking import rank
from hollow_pin.core.recording import AxisRange, Recording
from hollow_pin.core.routine import Routine
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import find_steps
from sticks import HERE

SPREAD = (-0.5, -0.3, 0.2, 0.45, 0.6)
SOURCES = [(250.0, 12), (125.0, 8), (1000.0, 14)]


@pytest.mark.parametrize(("rate", "bits"), SOURCES)
@pytest.mark.parametrize("gate", ["round", "octagon"])
def test_a_sound_one_is_sound(gate: str, rate: float, bits: int) -> None:
    take = measure_take(taken(Stick(bits, gate), rate, bits), gate)  # type: ignore[arg-type]
    assert rank(take)[0].cause == "sound"
    assert explain(take).try_first == "none"


@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.parametrize(
    ("cause", "fault"),
    [
        ("dirty", {"specks": SPREAD, "lifts": 0.3}),
        ("dirty", {"specks": SPREAD, "to": 1.2}),
        ("dirty", {"specks": (0.5, 0.55), "to": 0.0}),
        ("loose", {"opens": 1.0}),
        ("loose", {"opens": 1.0, "open_to": 0.0}),
        ("worn", {"play": 0.07, "wanders": 0.01}),
    ],
)
def test_a_bad_one_is_called_by_its_name(cause: str, fault: dict, seed: int) -> None:
    """Dirt that lifts a wiper to an end of its range where it lies was a loose joint."""
    take = measure_take(taken(Stick(seed, **fault)))
    first = rank(take)[0]
    assert (first.cause, first.axis) == (cause, "x")
    assert explain(take).advice != "Every reading taken is within its limit."


@pytest.mark.parametrize(
    ("seed", "gate", "rate", "bits"),
    [(41, "octagon", 500.0, 12), (46, "octagon", 500.0, 8), (55, "square", 500.0, 12)],
)
def test_a_loose_joint_behind_an_average_is_nothing_else(
    seed: int, gate: Gate, rate: float, bits: int
) -> None:
    """What the average left beside its jumps was a bind that holds a stick for a second, and a whole
    axis without a signal."""
    take = measure_take(taken(Stick(seed, gate, opens=1.0), rate, bits), gate)
    first, *others = rank(take)
    assert (first.cause, first.axis) == ("loose", "x")
    assert not any(r.likely for r in others)
    assert take.silent == ()
    assert take.value("let_go.settle_ms_p90") < 250.0
    assert take.value("let_go.return_max") < 5.0


@pytest.mark.parametrize("damping", [(0.3, 0.5), (0.7, 1.0)])
@pytest.mark.parametrize("bearing", [90.0, 200.0])
def test_one_that_is_held_on_one_side_goes_for_no_module_alone(
    bearing: float, damping: tuple[float, float]
) -> None:
    """A bearing that is dry on one side holds a stick wherever it swings to: what is seen of that may
    be wear as well, and is told to be either."""
    take = measure_take(taken(Stick(4, bearing=bearing, dry=0.1, damping=damping)))
    assert next(r for r in rank(take) if r.cause == "binding").likely
    assert "rub" in explain(take).advice


def test_dirt_under_the_other_wiper_is_no_tilted_magnet() -> None:
    take = measure_take(taken(Stick(2, specks=(0.01, 0.02), lifts=0.3)))
    assert take.crossing.y.cross_talk > 15.0
    assert not next(r for r in rank(take) if r.cause == "cross-talk").likely


def test_a_lost_link_hides_nothing_of_a_sound_one() -> None:
    """By changes alone, in eight bits, and twice a second nothing for 50 to 200 ms."""
    for seed in (4, 5, 6):
        sent, step = signal(Stick(seed))
        chance = np.random.default_rng(seed)
        at = np.arange(0, len(sent), 8)
        for lost in chance.uniform(0, len(sent), round(len(sent) * 0.002)):
            at = at[(at < lost) | (at > lost + chance.uniform(50, 200))]
        raw = np.clip(np.round((sent[at] + 1) * 127.5), 0, 255)
        changed = np.append(True, (raw[1:] != raw[:-1]).any(axis=1))
        one = Recording(
            at[changed] * 1000, raw[changed], (AxisRange(0, 255),) * 2, step[at][changed]
        )
        take = measure_take(one)
        assert not take.hidden_at("let_go.return_spread")
        assert rank(take)[0].cause == "sound"


@pytest.mark.parametrize("seed", [1, 2])
def test_its_steps_are_found_and_another_hand_changes_nothing(seed: int) -> None:
    first, second = (taken(Stick(seed), hand=hand) for hand in (0, 1))
    bare = Recording(first.t_us, first.raw, first.ranges, np.full(len(first.raw), -1, np.int8))
    both, named = measure_take(find_steps(bare, Routine())), measure_take(first)
    assert len(both.let_go.release) == len(named.let_go.release) >= 15
    assert (both.crossing.x.passes, len(both.hold)) == (named.crossing.x.passes, 4)
    assert compare(named, measure_take(second), HERE, HERE).overall in ("little", "no-change")
