"""What was wrong is mended only once it was looked at again, whatever shows it: by sticks of other
physics, a shell is never closed over a fault, nor kept open over a sound one, and no part that is at
fault is called good."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
import pytest

import lever
from core.test_foreign import CODE, FOREIGN, taken
from hollow_pin.core.donors import donor_stick
from hollow_pin.core.inspection import PartFindings, PartJudgement, read_on_jig
from hollow_pin.core.inspection import judge as judge_part
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.open_shell import OpenShellCheck, OpenStick, judge
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Recording
from hollow_pin.core.routine import StepName, jig_routine, usual_routine
from hollow_pin.core.seen_again import not_looked_at_again, quick_does, unseen_words
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.conditions import fresh_stick
from sticks import picked, read_of

pytestmark = pytest.mark.skipif(
    not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}"
)
SEED = 901
FAULTS: dict[str, tuple[dict[str, Any], tuple[StepName, ...]]] = {
    "offset": ({"offset": (9.0, 4.0)}, ()),
    "spikes": ({"spikes_pm": 20}, ()),
    "rough": ({"rough": (20, 50, 3.0)}, ("crossing-x",)),
    "dead": ({"dead_span": (20, 40)}, ("crossing-x",)),
    "bind": ({"bind_bearing": 90, "bind": 10.0}, ()),
    "cross-talk": ({"crosstalk": 0.2}, ("crossing-x",)),
    "sag": ({"sag": 12.0}, ("hold",)),
    "joint": ({"loose": 1.0}, ()),
}
"""Each with the steps of it that the quick routine has not, and that it shows in."""


def without(recording: Recording, *steps: StepName) -> Recording:
    return picked(recording, ~np.isin(recording.step, [CODE[s] for s in steps]))


@cache
def whole(fault: str, hand: int = 0) -> TakeReadings:
    of, _ = FAULTS.get(fault, ({}, ()))
    return measure_take(taken(SEED, hand, **of))


@cache
def quickly(fault: str) -> TakeReadings:
    of, _ = FAULTS.get(fault, ({}, ()))
    recording = taken(SEED, 1, still_s=6.0, releases=1, **of)
    return measure_take(without(recording, "crossing-x", "crossing-y", "hold"))


def opened(before: str, after: TakeReadings) -> OpenShellCheck:
    return judge((OpenStick("left", (whole(before),), (after,)),), LIMIT_OF)


@pytest.mark.parametrize("fault", FAULTS)
def test_no_shell_is_closed_over_a_fault_nor_kept_open_over_a_sound_stick(fault: str) -> None:
    """“Close it”, of a stick that spikes, or whose track is rough where nobody looked again."""
    _, shown = FAULTS[fault]
    for same in (whole(fault, 1), quickly(fault)):
        assert opened(fault, same).close is False
    assert not opened(fault, whole(fault, 1)).measure, "which was done just now"
    assert opened(fault, whole("none", 1)).close is True
    mended = opened(fault, quickly("none"))
    assert mended.close is (not shown)
    assert mended.quick is (not shown), "which routine is offered"
    assert mended.measure is bool(shown), "nothing else is left to do"
    assert mended.says.endswith(unseen_words(shown))


def test_the_steps_that_showed_it_are_named_until_a_later_take_went_through_them() -> None:
    def unseen(now: TakeReadings | None, *earlier: TakeReadings) -> tuple[StepName, ...]:
        return not_looked_at_again(earlier, now, LIMIT_OF, "everyday")

    rough, sag, quick = whole("rough"), whole("sag"), quickly("none")
    assert unseen(quick, rough) == ("crossing-x",)
    assert unseen(quick, rough, sag) == ("hold",), "which was crossed"
    assert unseen(None, whole("offset")) == ("still", "rim"), "nothing was measured since"
    assert unseen(quick, whole("offset")) == ()
    assert unseen(whole("none", 1), rough, sag) == ()
    no_hold = measure_take(without(taken(SEED, 1), "hold"))
    assert unseen(no_hold, sag) == ("hold",)
    assert unseen(no_hold, rough) == ()
    assert unseen(quick, sag, no_hold) == ("hold",), "which did not hold it either"
    assert unseen(quick, rough, no_hold) == (), "which did cross it"
    assert unseen(quick, quick, whole("none", 1)) == (), "nothing was wrong"
    assert unseen_words(()) == ""


@pytest.mark.parametrize(("bits", "does"), [(8, False), (10, True), (12, True)])
def test_a_quick_take_by_a_source_that_a_sound_stick_lies_still_in_would_tell_nothing(
    bits: int, does: bool
) -> None:
    """“Measure it open, quickly”, of which the next sentence said that it tells nothing; and so on."""
    off = measure_take(taken(SEED, bits=bits, offset=(9.0, 4.0)))
    assert quick_does([off], LIMIT_OF, "everyday") is does
    recording = taken(SEED, 1, bits=bits, still_s=6.0, releases=1)
    mended = measure_take(without(recording, "crossing-x", "crossing-y", "hold"))
    assert (explain(mended).asks == "nothing") is does
    assert off.still is not None
    for share, is_so in ((0.22, False), (0.23, True)):
        still = replace(off.still, jitter_x=1.0, resolution_x=1.0, jitter_y=share, resolution_y=1.0)
        at_edge = replace(off, still=still)
        assert quick_does([at_edge], LIMIT_OF, "everyday") is is_so, "of either axis"
    assert quick_does([], LIMIT_OF, "everyday")
    assert quick_does([measure_take(without(recording, "still"))], LIMIT_OF, "everyday")


def test_a_paddle_is_turned_again_and_nothing_of_one_axis_is_led_round_a_rim() -> None:
    def turned(condition: str) -> TakeReadings:
        stick = fresh_stick("potentiometer", "round", 12, 250.0, condition, 3, 1, False)
        return read_of(stick, 5, usual_routine(1, sprung=False))

    dirty = turned("dirty")
    assert not quick_does([turned("sound")], LIMIT_OF, "everyday"), "which has no Turn"
    trigger = measure_take(lever.taken(lever.SOUND, 3), None)
    assert not quick_does([trigger], LIMIT_OF, "everyday"), "nor has one axis a rim"
    assert not_looked_at_again([dirty], None, LIMIT_OF, "everyday") == ("turn",)
    assert not_looked_at_again([dirty], turned("sound"), LIMIT_OF, "everyday") == ()


@pytest.mark.parametrize(
    ("fault", "standing"), [("none", "within"), ("spikes", "over"), ("rough", "over")]
)
def test_a_donor_whose_module_is_dirty_is_not_the_best_of_several(
    fault: str, standing: str
) -> None:
    """No reading of it lies over its limit."""
    donor = donor_stick(1, "GS-1", "left", 1, whole(fault), LIMIT_OF, is_taken=False)
    assert donor.standing == standing
    assert donor.says.startswith("Left stick, needing a dead zone of ")
    hidden = measure_take(taken(SEED, dz_radial=8.0))
    told = donor_stick(1, "GS-1", "left", 1, hidden, LIMIT_OF, is_taken=False)
    assert told.standing == "unmeasured", "what the source hides is not known"
    no_rim = measure_take(without(taken(SEED), "rim"))
    told = donor_stick(1, "GS-1", "left", 1, no_rim, LIMIT_OF, is_taken=False)
    assert told.standing == "unmeasured", "nor how far it reaches"


def on_jig(passes: int = 4, **fault: Any) -> PartJudgement:
    """What is said of a module that went through all that is asked of one on the jig."""
    recording = taken(SEED, 1, still_s=6.0, releases=1, passes=passes, **fault)
    left_out = [s for s in CODE if s and s not in jig_routine(2).steps]
    read = read_on_jig(measure_take(without(recording, *left_out), None))
    return judge_part(PartFindings(jig=read), None, None)


@pytest.mark.parametrize("bits", [8, 10, 12])
def test_a_sound_module_is_good_by_any_jig(bits: int) -> None:
    """One of eight bits rests at exactly zero: that it is no dead zone shows where it is crossed."""
    assert on_jig(bits=bits) == PartJudgement()
    assert on_jig(bits=bits, offset=(9.0, 4.0)) == PartJudgement(), "a calibration takes that away"
    assert on_jig(bits=bits, dz_radial=8.0).unsure != ()
    (dead,) = on_jig(bits=bits, dead_span=(20, 40)).bad
    assert "dead spans x" in dead


@pytest.mark.parametrize("fault", ["spikes", "rough"])
def test_a_dirty_module_is_not_good_for_having_nothing_over_its_limit(fault: str) -> None:
    of, _ = FAULTS[fault]
    (bad,) = on_jig(**of).bad
    assert "lean it first" in bad


def test_a_jig_that_hums_says_nothing_of_its_modules() -> None:
    """A whole lot was bad by the supply of the jig."""
    humming = on_jig(hum=3.0)
    assert humming.bad == ()
    assert "comes from the supply or the ground" in humming.unsure[0]


def test_what_was_too_near_to_call_or_not_measured_is_no_proof_of_a_good_module() -> None:
    sound = whole("none")
    path = "let_go.return_spread"
    limit = LIMIT_OF[path].at("everyday")
    near = read_on_jig(replace(sound, uncertainty=sound.uncertainty | {path: limit}))
    assert near.doubt == "Too near its limit to call: returns apart. Measure it again."
    calibrated = sound.uncertainty | {"still.rest_offset": LIMIT_OF["still.rest_offset"].at("fine")}
    rest_near = read_on_jig(replace(sound, uncertainty=calibrated))
    assert rest_near.doubt == "", "a calibration takes that away"
    of_one_step = taken(SEED)
    rest = read_on_jig(measure_take(picked(of_one_step, of_one_step.step == CODE["still"])))
    assert "was not measured" in rest.doubt
    judged = judge_part(PartFindings(jig=rest), None, None)
    assert judged.unsure == (f"On the jig: {rest.doubt}",)
