"""A shell is closed only when what was worked on was measured with it open, and what was wrong before
was looked at again."""

from __future__ import annotations

from functools import cache

from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.open_shell import OpenShellCheck, OpenStick, judge
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Recording
from hollow_pin.core.routine import BY_ID
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


def judged(*sticks: tuple[str, TakeReadings | None, TakeReadings | None]) -> OpenShellCheck:
    return judge(tuple(OpenStick(*s) for s in sticks), LIMIT_OF)


def test_what_was_worked_on_is_measured_and_within() -> None:
    assert judged().close is None
    assert judged(("left", read("worn"), read("sound"))).close is True
    missing = judged(("left", read("worn"), read("sound")), ("right", read("worn"), None))
    assert missing.close is False
    assert missing.says == (
        "Do not close it yet: the right stick was not measured since, with the shell open."
    )
    over = judged(("left", read("worn"), read("worn")))
    assert over.close is False
    assert "the left stick is over in" in over.says


def test_what_is_hidden_is_no_reason_to_close() -> None:
    judgement = judged(("left", read("worn"), read("dead-zone")))
    assert judgement.close is False


def test_a_ribbon_that_was_forgotten_is_told_before_the_shell_is_closed() -> None:
    recording = performed("sound").recording
    u = recording.u.copy()
    u[:, 1] = 100.0
    judgement = judged(("left", read("worn"), measure_take(transformed(recording, u))))
    assert judgement.close is False
    assert judgement.says == (
        "Do not close it yet: of the left stick: y gives no signal: it stays at its high end while x "
        "moves."
    )
    still = measure_take(transformed(recording, 0.0 * u))
    assert judged(("left", read("worn"), still)).says == (
        "Do not close it yet: of the left stick: nothing moved in it."
    )


def test_what_was_over_before_has_to_be_looked_at_again() -> None:
    """A quick take never crosses a track nor holds it out: what was over there would go unseen."""
    failing, quick = read("failing"), read("sound", quick=True)
    alone = judged(("left", None, quick))
    assert alone.close is True, "by itself the quick take finds nothing"
    judgement = judged(("left", failing, quick))
    assert judgement.close is False
    assert "and that was not measured again" in judgement.says
    assert not judgement.quick, "the quick routine would not do"
    assert judged(("left", failing, read("sound"))).close is True


def test_the_quick_routine_is_enough_for_what_it_has() -> None:
    offset = read("offset", quick=True)
    assert judged(("left", offset, read("sound", quick=True))) == OpenShellCheck(
        True, "Close it: the left stick is within every limit that was measured.", True
    )
