"""Who mends what trembles has made nothing worse: what only shows now may have been there before."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hollow_pin.core.comparable import WIDER
from hollow_pin.core.comparison import Compared, compare
from hollow_pin.core.dead_spans import JUMP_TIMES, DeadSpan
from hollow_pin.core.readings import TakeReadings
from sticks import HERE, readings_of

SETTLING, SPANS = "let_go.settle_ms_p90", "crossing.x.dead_spans"


def comparing(path: str, before: TakeReadings, after: TakeReadings) -> Compared:
    row = compare(before, after, HERE, HERE).row(path)
    assert row is not None
    return row


def returning(settle_ms: float, within: float) -> TakeReadings:
    take = readings_of("sound")
    let_go = replace(take.let_go, settle_ms_p90=settle_ms, settled_within=within)
    return replace(take, let_go=let_go, uncertainty={**take.uncertainty, SETTLING: 10.0})


@pytest.mark.parametrize(("times", "told"), [(WIDER - 0.01, True), (WIDER + 0.01, False)])
def test_a_late_return_that_shows_once_a_hum_is_gone_is_no_worse(times: float, told: bool) -> None:
    """The hum had hidden its last 7 %: the cure was half of one."""
    hummed, calm = returning(30.0, 2.0 * times), returning(440.0, 2.0)
    row = comparing(SETTLING, hummed, calm)
    assert row.verdict == ("worse" if told else "not-comparable")
    assert comparing(SETTLING, calm, hummed).verdict == ("better" if told else "not-comparable")
    if not told:
        assert row.why == "it trembled too far before for that to be seen"
        assert "too far after" in str(comparing(SETTLING, calm, hummed).why)


def test_what_came_back_late_by_the_wider_of_both_did() -> None:
    slow = returning(440.0, 8.0)
    assert comparing(SETTLING, slow, returning(30.0, 2.0)).verdict == "better"
    assert comparing(SETTLING, returning(30.0, 2.0), slow).verdict == "worse"
    assert comparing(SETTLING, slow, returning(441.0, 2.0)).verdict == "no-change"


def crossed(noise: float, *widths: float) -> TakeReadings:
    """With dead spans of such widths, %, on a track whose passes tremble by so much, %."""
    take = readings_of("sound")
    spans = tuple(DeadSpan(20.0 * i, 20.0 * i + wide, 4) for i, wide in enumerate(widths))
    x = replace(take.crossing.x, dead_spans=spans, track_noise_median=noise)
    return replace(
        take, crossing=replace(take.crossing, x=x), uncertainty={**take.uncertainty, SPANS: 0.2}
    )


@pytest.mark.parametrize(("wide", "told"), [(JUMP_TIMES - 0.1, False), (JUMP_TIMES + 0.1, True)])
def test_a_dead_span_that_shows_once_a_hum_is_gone_is_no_worse(wide: float, told: bool) -> None:
    """By passes that tremble by 1 % none of less than eight is seen."""
    hummed, calm = crossed(1.0), crossed(0.1, wide)
    assert comparing(SPANS, hummed, calm).verdict == ("worse" if told else "not-comparable")
    assert comparing(SPANS, calm, hummed).verdict == ("better" if told else "not-comparable")


def test_of_several_dead_spans_those_tell_that_would_have_been_seen() -> None:
    hummed = crossed(1.0, 9.0)
    assert comparing(SPANS, hummed, crossed(0.1, 9.0, 6.0)).verdict == "not-comparable"
    assert comparing(SPANS, hummed, crossed(0.1, 9.0, 9.0, 6.0)).verdict == "worse"
    assert comparing(SPANS, hummed, crossed(0.1)).verdict == "better", "that one was seen"
    less = replace(hummed, crossing=replace(hummed.crossing, x=None))
    assert comparing(SPANS, less, crossed(0.1, 9.0)).why == "not measured before"
