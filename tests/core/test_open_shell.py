"""A shell is closed only when what was worked on was measured with it open, and what was wrong before
was looked at again."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.open_shell import OpenShellCheck, OpenStick, judge
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Recording
from hollow_pin.core.routine import BY_ID
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import spans_of, with_spans
from sticks import performed, transformed


@cache
def read(condition: str, quick: bool = False) -> TakeReadings:
    """A whole take, or what of it the quick routine has."""
    whole: Recording = performed(condition).recording
    if quick:
        steps = BY_ID["quick"].steps
        whole = with_spans(whole, tuple(s for s in spans_of(whole) if s.step in steps))
    return measure_take(whole, "round")


Takes = tuple[TakeReadings, ...]


def judged(*sticks: tuple[str, Takes, Takes]) -> OpenShellCheck:
    return judge(tuple(OpenStick(*s) for s in sticks), LIMIT_OF)


def test_what_was_worked_on_is_measured_and_within() -> None:
    worn, sound = (read("worn"),), (read("sound"),)
    assert judged().close is None
    assert judged(("left", worn, sound)) == OpenShellCheck(
        True, "Close it. Left stick: Every reading taken is within its limit.", True
    )
    missing = judged(("left", worn, sound), ("right", worn, ()))
    assert missing.close is False
    assert missing.says == (
        "Do not close it yet. Right stick: It was not measured since, with the shell open."
    )
    over = judged(("left", worn, worn), ("right", worn, worn))
    assert over.close is False
    told = explain(worn[0]).advice
    assert not over.measure
    assert not judged(("left", worn, worn), ("right", worn, ())).measure, (
        "of one there is more to do"
    )
    assert missing.measure
    assert over.says == f"Do not close it yet. Left stick: {told} Right stick: {told}"


def test_what_is_hidden_is_no_reason_to_close() -> None:
    judgement = judged(("left", (read("worn"),), (read("dead-zone"),)))
    assert judgement.close is False


def test_a_ribbon_that_was_forgotten_is_told_before_the_shell_is_closed() -> None:
    recording = performed("sound").recording
    u = recording.u.copy()
    u[:, 1] = 100.0
    judgement = judged(("left", (read("worn"),), (measure_take(transformed(recording, u)),)))
    assert judgement.close is False
    assert judgement.says.startswith(
        "Do not close it yet. Left stick: y gives no signal: it stays at its high end while x "
        "moves. An axis gives no signal:"
    )
    still = measure_take(transformed(recording, 0.0 * u))
    assert judged(("left", (read("worn"),), (still,))).says.startswith(
        "Do not close it yet. Left stick: Nothing moved in it: another stick was moved"
    )


UNSEEN = (
    "Do not close it yet. Left stick: What was wrong showed in Crossing x and Hold, and that was not "
    "measured again."
)


def test_what_was_wrong_before_has_to_be_looked_at_again() -> None:
    """A quick take never crosses a track nor holds it out: what was wrong there would go unseen."""
    failing, quick, sound = read("failing"), read("sound", quick=True), read("sound")
    alone = judged(("left", (), (quick,)))
    assert alone.close is True, "by itself the quick take finds nothing"
    judgement = judged(("left", (failing,), (quick,)))
    assert (judgement.close, judgement.says) == (False, UNSEEN)
    assert not judgement.quick, "the quick routine would not do"
    assert judged(("left", (failing,), (sound,))).close is True


def test_another_take_in_between_neither_forgets_what_was_wrong_nor_has_it_seen_twice() -> None:
    failing, quick, sound = read("failing"), read("sound", quick=True), read("sound")
    forgotten = judged(("left", (failing, quick), (quick,)))
    assert (forgotten.close, forgotten.says) == (False, UNSEEN)
    assert judged(("left", (failing,), (sound, quick))).close is True, "it was seen meanwhile"
    assert judged(("left", (failing, sound), (quick,))).close is True, "and before the work"
    later = judged(("left", (), (failing, quick)))
    assert (later.says, later.quick) == (UNSEEN, False), "whenever it showed"


def test_what_was_over_and_is_too_near_to_call_is_not_closed_on() -> None:
    """Another take costs half a minute now, and the whole assembly later."""
    sound, over = read("sound"), read("worn")
    path = "let_go.return_spread"
    near = replace(sound, uncertainty=sound.uncertainty | {path: LIMIT_OF[path].at("everyday")})
    assert JudgedTake(near, "everyday", LIMIT_OF).with_verdict("borderline") == [path]
    assert JudgedTake(over, "everyday", LIMIT_OF).verdict(path) == "over"
    assert judged(("left", (sound,), (near,))).says.startswith(
        "Close it. Left stick: Nothing is over"
    )
    open_yet = judged(("left", (over,), (near,)))
    assert open_yet.says.startswith(
        "Do not close it yet. Left stick: Nothing is over its limit; too"
    )


def test_the_quick_routine_is_enough_for_what_it_has() -> None:
    offset, sound = (read("offset", quick=True),), (read("sound", quick=True),)
    assert judged(("left", offset, sound)) == OpenShellCheck(
        True,
        "Close it. Left stick: Every reading taken is within its limit; not measured: Crossing x, "
        "Crossing y and Hold.",
        True,
    )
