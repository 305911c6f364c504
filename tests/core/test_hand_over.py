"""Who takes a controller away is told what was wrong, what was done and what to expect; nothing that
was not measured is told as if it had been."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hollow_pin.core.causes import SOUND
from hollow_pin.core.hand_over import (
    COME_BACK,
    REFERRED,
    DoneWork,
    Story,
    as_text,
    hand_over,
)
from hollow_pin.core.ranking import Ranked
from hollow_pin.core.remedies import WORK

HALL = DoneWork("replaced-by-hall", "Module replaced by a Hall one")
CALIBRATED = DoneWork("recalibrated", "Recalibrated")
STORY = Story(
    complaint=" creeps up ",
    stick="left stick",
    refer=False,
    came="Rests 9.1 % toward 9 o’clock.",
    wrong=(
        Ranked("worn", "x", 0.9, ()),
        Ranked("dirty", None, 0.6, ()),
        Ranked(SOUND, None, 0.1, ()),
    ),
    nothing_over=False,
    done=(HALL, CALIBRATED),
    now="Better.",
    to_do="",
    measured_since=True,
    rest="17 of 17 buttons answered. Everything works.",
    others=(),
)


def told(story: Story) -> dict[str, str]:
    return {line.about: line.words for line in hand_over(story)}


def test_everything_that_is_asked_is_told_in_order() -> None:
    assert as_text(hand_over(STORY)).splitlines() == [
        "Brought for: “creeps up”, left stick.",
        "As it came: Rests 9.1 % toward 9 o’clock. Worn at the centre, x; dirt on the track.",
        "Done: Module replaced by a Hall one; recalibrated.",
        "Now: Better.",
        "What to expect: Nothing rubs in it; nobody knows how long it keeps its centre. A calibration "
        "mends no part: what moves on later shows again.",
        f"Come back: {COME_BACK}",
        "The rest of it: 17 of 17 buttons answered. Everything works.",
    ]


def test_what_was_not_measured_after_the_work_is_not_told_as_its_state() -> None:
    unmeasured = told(replace(STORY, now="Better.", to_do="Recalibrate.", measured_since=False))
    assert unmeasured["Now"] == "It was not measured after that."
    assert unmeasured["Left to do"] == "Measure it again."
    untouched = told(replace(STORY, done=(), now="", measured_since=True))
    assert untouched["Now"] == "As it came."
    assert untouched["Done"] == "Nothing was done to it."
    assert not {"Come back", "What to expect", "Left to do"} & untouched.keys()
    assert told(replace(STORY, done=(), now="", came=""))["Now"] == "It was not measured."
    assert told(replace(STORY, to_do="Clean it."))["Left to do"] == "Clean it."
    assert told(replace(STORY, rest=""))["The rest of it"] == "It was not checked again."


@pytest.mark.parametrize(
    ("chance", "nothing_over", "words"),
    [
        (0.5, False, "It rests. Worn at the centre, x."),
        (0.49, False, "It rests."),
        (0.9, True, "It rests. Nothing was over its limit."),
    ],
)
def test_what_was_wrong_is_what_was_likely_and_over_a_limit(
    chance: float, nothing_over: bool, words: str
) -> None:
    wrong = (Ranked("worn", "x", chance, ()), Ranked(SOUND, None, 0.7, ()))
    story = replace(STORY, came="It rests.", wrong=wrong, nothing_over=nothing_over)
    assert told(story)["As it came"] == words


def test_a_stopgap_is_looked_at_on_the_first_of_its_days() -> None:
    done = (
        DoneWork("lubricated", "Bearing freed", "", "2026-05-01"),
        DoneWork("eased", "Sensor housing eased, x", "x", "2026-04-01", "Here it held in 1 of 4."),
        DoneWork("eased", "Sensor housing eased, x", "x", "", "Here it held in 1 of 4."),
    )
    lines = told(replace(STORY, done=done))
    first = "On 2026-04-01, to look again at what was done: sensor housing eased, x."
    assert lines["Come back"] == f"{first} {COME_BACK}"
    assert lines["What to expect"].count("Here it held in 1 of 4.") == 1
    assert lines["What to expect"].count("stopgap") == 2


@pytest.mark.parametrize(
    ("after", "stays"),
    [
        (HALL, False),
        (DoneWork("sensor-parts", "Sensor parts replaced, x", "x"), False),
        (DoneWork("sensor-parts", "Sensor parts replaced, y", "y"), True),
        (CALIBRATED, True),
    ],
)
def test_what_a_new_part_took_out_again_is_done_and_not_to_be_expected(
    after: DoneWork, stays: bool
) -> None:
    """“A cleaning may not last”, of a track that lies in the bin."""
    cleaned = DoneWork("cleaned", "Sensor housing cleaned, x", "x", "2026-04-01")
    lines = told(replace(STORY, done=(cleaned, cleaned, after)))
    assert lines["Done"].startswith("Sensor housing cleaned, x, twice; ")
    assert ("A cleaning may not last" in lines["What to expect"]) == stays
    assert ("2026-04-01" in lines["Come back"]) == stays


def test_what_moves_people_is_told_to_go_elsewhere_and_nothing_more() -> None:
    lines = told(replace(STORY, refer=True))
    assert list(lines) == ["Brought for", "As it came", "Referred"]
    assert lines["Referred"] == REFERRED


def test_of_every_work_that_may_not_last_it_is_told_what_to_expect() -> None:
    """But for what is simply new, and rubs or pulls no more."""
    assert {r.code for r in WORK if not r.expect} == {"cap-changed"}
