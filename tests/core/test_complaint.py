"""What the owner told is held against what was measured: a complaint that does not show is no repair,
and one that shows elsewhere is another fault."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hollow_pin.core.complaint import BELOW, DOES_NOT_SHOW, TRY, held_against
from hollow_pin.core.intake import Intake
from hollow_pin.core.ranking import Ranked
from hollow_pin.core.readings import TakeReadings
from sticks import readings_of


@pytest.fixture(scope="module")
def take() -> TakeReadings:
    return replace(readings_of("sound", 5), hidden=())


def resting(take: TakeReadings, offset: float, bearing: float, u: float = 0.1) -> TakeReadings:
    still = replace(take.still, rest_offset=offset, rest_bearing=bearing)
    return replace(take, still=still, uncertainty={"still.rest_offset": u})


def causes(**likely: float) -> list[Ranked]:
    ranking = [Ranked(code.replace("_", "-"), None, p, ()) for code, p in likely.items()]
    return sorted(ranking, key=lambda r: -r.probability)


SOUND, WORN = causes(sound=0.95, worn=0.03), causes(worn=0.9, sound=0.05)


def test_what_does_not_show_is_said_with_what_may_bring_it_out(take: TakeReadings) -> None:
    answer = held_against(Intake(), "creeps", take, SOUND)
    assert answer.said == ("What was complained of does not show in this take.",)
    assert (answer.reproduced, answer.try_next) == (False, TRY)
    sometimes = held_against(Intake(often="sometimes"), "", take, SOUND)
    assert sometimes.said == (
        "What was complained of does not show in this take. It was told to come only sometimes.",
    )
    always = held_against(Intake(often="always"), "", take, SOUND)
    assert always.said == answer.said


def test_what_shows_below_its_limit_is_not_what_was_complained_of(take: TakeReadings) -> None:
    """“Noise of the supply” was what somebody had complained of, and “leave it” what was advised."""
    noisy = causes(supply_noise=0.7, sound=0.3)
    answer = held_against(Intake(often="sometimes"), "creeps", take, noisy, nothing_asked=True)
    assert answer.said == (f"{BELOW} It was told to come only sometimes.",)
    assert (answer.reproduced, answer.try_next) == (False, TRY)
    assert held_against(Intake(), "creeps", take, SOUND, nothing_asked=True).said == (
        DOES_NOT_SHOW,
    )
    assert held_against(Intake(), "creeps", take, noisy).reproduced is True


def test_what_shows_is_no_case_for_a_soak(take: TakeReadings) -> None:
    answer = held_against(Intake(often="sometimes"), "creeps", take, WORN)
    assert answer.said == ("It was told to come only sometimes, and shows now.",)
    assert (answer.reproduced, answer.try_next) == (True, None)
    assert held_against(Intake(often="always"), "creeps", take, WORN).said == ()
    unsure = held_against(Intake(), "creeps", take, causes(sound=0.4, worn=0.3))
    assert unsure.reproduced is True, "a stick that is not surely sound is looked at again"
    assert held_against(Intake(), "creeps", take, []).reproduced is True


def test_where_nothing_was_told_nothing_is_held_against_it(take: TakeReadings) -> None:
    for complaint in ("", "  "):
        answer = held_against(Intake(), complaint, take, SOUND)
        assert (answer.said, answer.reproduced, answer.try_next) == ((), None, None)
    assert held_against(Intake(hours=(9,)), "", take, SOUND).reproduced is False


@pytest.mark.parametrize(
    ("told", "bearing", "words"),
    [
        ((9,), 270.0, "and rests toward 9\u00a0o’clock."),
        ((9,), 330.0, "and rests toward 11\u00a0o’clock."),
        ((9,), 0.0, "it rests toward 12\u00a0o’clock."),
        ((12,), 330.0, "and rests toward 11\u00a0o’clock."),
        ((11,), 30.0, "and rests toward 1\u00a0o’clock."),
        ((11,), 60.0, "it rests toward 2\u00a0o’clock."),
        ((1,), 300.0, "it rests toward 10\u00a0o’clock."),
        ((3, 8), 270.0, "and rests toward 9\u00a0o’clock."),
    ],
)
def test_hours_are_told_apart_round_the_clock(
    take: TakeReadings, told: tuple[int, ...], bearing: float, words: str
) -> None:
    """Two hours off is how an owner points; three is another way. Past twelve it goes on."""
    (answer,) = held_against(Intake(hours=told), "", resting(take, 8.0, bearing), WORN).said
    assert answer.startswith("It was told to go toward ")
    assert answer.endswith(words)


@pytest.mark.parametrize(
    ("told", "words"),
    [
        ((9,), "It was told to go toward its low end, and rests toward its low end."),
        ((3,), "It was told to go toward its high end; it rests toward its low end."),
        (
            (3, 9),
            "It was told to go toward its high end and its low end, and rests toward its low end.",
        ),
        ((10,), "It was told to go toward 10\u00a0o’clock, and rests toward its low end."),
    ],
)
def test_a_single_axis_goes_toward_its_ends(
    take: TakeReadings, told: tuple[int, ...], words: str
) -> None:
    """A lever has no nine o’clock; what was told of one before its stick was known stays readable."""
    low = resting(take, 8.0, 270.0)
    single = replace(low, recording=replace(low.recording, axes=("x",)))
    assert held_against(Intake(hours=told), "", single, WORN).said == (words,)


@pytest.mark.parametrize(
    ("offset", "u", "goes"),
    [(1.9, 0.1, False), (2.1, 0.1, True), (3.9, 2.0, False), (4.1, 2.0, True)],
)
def test_a_rest_that_cannot_be_told_from_zero_goes_nowhere(
    take: TakeReadings, offset: float, u: float, goes: bool
) -> None:
    at = resting(take, offset, 270.0, u)
    (answer,) = held_against(Intake(hours=(9,)), "", at, WORN).said
    assert ("rests toward" in answer) == goes
    assert goes or answer.endswith(f"it rests {offset:.1f}\u00a0% from zero.")
    unknown = replace(at, uncertainty={})
    (answer,) = held_against(Intake(hours=(9,)), "", unknown, WORN).said
    assert ("rests toward" in answer) == (offset > 2.0)


@pytest.mark.parametrize("cause", ["worn", "dirty", "binding", "loose"])
def test_what_a_flick_clears_goes_with_what_it_can_clear(take: TakeReadings, cause: str) -> None:
    flicked = Intake(flick_clears="yes")
    (answer,) = held_against(flicked, "", take, causes(**{cause: 0.8})).said
    assert answer == "A flick clears it: that goes with what was found."
    assert held_against(Intake(flick_clears="no"), "", take, causes(**{cause: 0.8})).said == ()


def test_what_a_flick_clears_speaks_for_more_than_an_offset(take: TakeReadings) -> None:
    flicked = Intake(flick_clears="yes")
    (answer,) = held_against(flicked, "", take, causes(offset=0.8, worn=0.2)).said
    assert answer.startswith("A flick is said to clear it: that speaks for wear, dirt or a bind")
    assert held_against(flicked, "", take, SOUND).said == ()
    assert held_against(flicked, "", take, causes(offset=0.4)).said == (), "nothing is likely"
