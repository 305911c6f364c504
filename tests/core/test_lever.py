"""Single axes of somebody else's making: a sound one is sound, and a bad one is called by its name."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hollow_pin.core.comparison import compare
from hollow_pin.core.next_look import SCALE_OR_STOP, looks
from hollow_pin.core.ranking import rank
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from lever import SOUND, Axis, taken, with_
from sticks import HERE

DEVICES = ((250, 12), (125, 8), (1000, 10))


def test_what_stops_a_lever_short_is_told_by_a_calibration_first() -> None:
    """The readings said “recalibrate”, and Decide “let it go again”."""
    take = measure_take(taken(with_(scale=0.88), 11, sprung=True), None)
    assert explain(take).try_first == "recalibrated"
    steps = usual_routine(1, sprung=True).steps
    assert looks(take, rank(take), steps) == (SCALE_OR_STOP,)
    without_hold = tuple(step for step in steps if step != "hold")
    assert SCALE_OR_STOP not in looks(take, rank(take), without_hold)


@pytest.mark.parametrize(("rate", "bits"), DEVICES)
@pytest.mark.parametrize("sprung", [True, False], ids=["lever", "paddle"])
@pytest.mark.parametrize("axis", [SOUND, with_(scale=1.06), with_(thrown=True)])
def test_a_sound_one_is_sound(axis: Axis, sprung: bool, rate: int, bits: int) -> None:
    """A lever that was thrown from one end to the other was a track that fails: replace the module."""
    take = measure_take(taken(axis, rate + bits, sprung, rate, bits))
    assert {p.code for p in take.problems} <= {"constant", "passes"}
    assert explain(take).advice == "Every reading taken is within its limit."
    assert [c.cause for c in rank(take) if c.likely] == ["sound"]


@pytest.mark.parametrize(("thrown", "seed"), [(False, 3), (True, 4)])
@pytest.mark.parametrize(
    ("fault", "cause", "says"),
    [
        ({"offset": 8.0}, "offset", "comes back to one place"),
        ({"apart": 10.0}, "worn", "different places"),
        ({"stops_short": 8.0}, "binding", "different places"),
        ({"late": 8.0}, "binding", "comes back late"),
        ({"jumps": 0.4}, "loose", "to an end or to the middle"),
        ({"spikes": 80.0}, "dirty", "dirt on the track"),
        ({"rough": (5.0, 25.0, 6.0)}, "dirty", "rough places"),
        ({"dead": (20.0, 27.0)}, "failing-track", "pass after pass jumps over"),
        ({"sags": 12.0}, "failing-track", "falls back while it is held"),
        ({"drops": 3.0}, "failing-track", "falls back while it is held"),
        ({"scale": 0.8}, "calibration", "stops short of an end"),
        ({"high_end": 0.8}, "calibration", "stops short of an end"),
        ({"hums": 2.5}, "supply-noise", "trembles"),
        ({"zone": 8.0}, "firmware-dead-zone", "measure by"),
    ],
)
def test_a_bad_lever_is_called_by_its_name(
    fault: dict, cause: str, says: str, thrown: bool, seed: int
) -> None:
    take = measure_take(taken(with_(thrown=thrown, **fault), seed))
    assert says in explain(take).advice
    assert rank(take)[0].cause == cause


@pytest.mark.parametrize("seed", [5, 6])
@pytest.mark.parametrize(
    ("fault", "cause", "says"),
    [
        ({"jumps": 0.4}, "loose", "to an end or to the middle"),
        ({"spikes": 80.0}, "dirty", "dirt on the track"),
        ({"rough": (55.0, 80.0, 6.0)}, "dirty", "rough places"),
        ({"dead": (20.0, 27.0)}, "failing-track", "pass after pass jumps over"),
        ({"wanders": 8.0}, "worn", "wanders with hands off"),
        ({"scale": 0.8}, "calibration", "stops short of an end"),
        ({"hums": 2.5}, "supply-noise", "trembles"),
        ({"zone": 8.0}, "firmware-dead-zone", "measure by"),
    ],
)
def test_a_bad_paddle_is_called_by_its_name(fault: dict, cause: str, says: str, seed: int) -> None:
    take = measure_take(taken(with_(**fault), seed, sprung=False))
    assert says in explain(take).advice
    assert rank(take)[0].cause == cause


@pytest.mark.parametrize(
    ("noise", "wander", "says"),
    [
        (2.0, 4.1, "wanders with hands off"),
        (2.0, 3.9, "trembles"),
        (0.06, 4.1, "too near its limit to call: wander"),
    ],
)
def test_what_trembles_and_goes_about_wanders(noise: float, wander: float, says: str) -> None:
    """A worn contact that surely trembled and hardly surely wandered was sent for another cable."""
    take = measure_take(taken(with_(noise=noise), 8))
    seen = replace(
        take,
        still=replace(take.still, wander=wander),
        uncertainty=take.uncertainty | {"still.wander": 0.3 * wander},
    )
    assert says in explain(seen).advice


@pytest.mark.parametrize("fault", [{}, {"sags": 12.0}, {"drops": 3.0}, {"apart": 10.0}])
def test_how_a_lever_is_thrown_makes_it_no_better_nor_worse(fault: dict) -> None:
    """The same one, by a hand that lets go between its ends and by one that does not."""
    was, now = (measure_take(taken(with_(thrown=t, **fault), 7 + t)) for t in (False, True))
    for before, after in ((was, now), (now, was)):
        assert compare(before, after, HERE, HERE).overall in ("no-change", "little")
