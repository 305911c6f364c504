"""A source that says zero by rules of its own, where the stick is not: never taken for health, nor for
a fault of the stick."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core.built_in_zone import leaps_to_zero, pulled_onto_axis
from hollow_pin.core.comparison import compare
from hollow_pin.core.limits import LIMIT_OF, verdict_on
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import measure_take
from sticks import HERE, idle, performed, pulled, transformed


def codes(take: TakeReadings) -> set[str]:
    return {h.code for h in take.hidden}


@pytest.mark.parametrize("seconds", [0.5, 1.2])
@pytest.mark.parametrize("condition", ["sound", "offset", "worn", "worn-steady"])
def test_what_leaps_to_zero_a_while_after_it_was_let_go_is_no_bind_and_no_health(
    condition: str, seconds: float
) -> None:
    """A worn stick was “look for a rub”, or within every limit; a sound one sound."""
    recording = performed(condition, bits=12).recording
    take = measure_take(idle(transformed(recording, recording.u + 1.0), seconds))
    assert codes(take) == {"leaps-to-zero"}
    assert any(p.code == "leaps-to-zero" for p in take.problems)
    for path in ("let_go.settle_ms_p90", "let_go.return_spread", "composite.dead_zone_needed"):
        assert verdict_on(take, path, LIMIT_OF[path].everyday) == "hidden", path
    meaning = explain(take)
    assert meaning.try_first == ("recalibrated" if condition == "offset" else "measure"), "its rim"
    assert meaning.sentence.startswith("Hidden below ")
    assert "Rests" not in meaning.sentence, "nobody knows where"
    assert "comes back late" not in meaning.advice
    likely = {r.cause for r in rank(take) if r.likely}
    assert likely <= {"firmware-dead-zone"}
    assert likely or condition == "sound", "what lies within a per cent or two of zero may be sound"


def test_two_takes_by_one_say_nothing_of_where_the_stick_rests() -> None:
    """“It now rests at zero; a dead zone of 0.3 % hides what is left”, of a worn one."""
    recording = performed("worn-steady", bits=12).recording
    before, after = (measure_take(idle(recording, seconds)) for seconds in (1.2, 0.5))
    meaning = explain_comparison(compare(before, after, HERE, HERE), after, "left")
    assert meaning == "What changed is hidden by the source."


def leaping(
    times: int = 3, lay: float = 0.5, lies: float = 0.4, away: float = 3.0, trembles: float = 0.0
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Seconds and % at 1 kHz: on its way, at rest so far away for so long, and at zero for so long."""
    way = np.linspace(90.0, away, 100)
    rest = away + trembles * np.array([0.0, 1.0])[np.arange(round(lay * 1000)) % 2]
    one = np.concatenate((way, rest, np.zeros(round(lies * 1000)), [80.0]))
    u = np.column_stack((np.tile(one, times), np.zeros(times * len(one))))
    return np.arange(len(u)) / 1000.0, u


@pytest.mark.parametrize(
    ("one", "leaps"),
    [
        ({}, True),
        ({"times": 2}, False),
        ({"lies": 0.302}, True),
        ({"lies": 0.29}, False),
        ({"lay": 0.305}, True),
        ({"lay": 0.28}, False),
        ({"away": 39.9}, True),
        ({"away": 40.1}, False),
        ({"away": 0.26}, True),
        ({"away": 0.24}, False),
        ({"trembles": 1.9}, True),
        ({"trembles": 2.1}, False),
    ],
)
def test_it_lies_where_it_was_let_go_and_leaps_time_and_again(one: dict, leaps: bool) -> None:
    """By a tenth of a per cent a step. What slides there, or is there for a moment, is its own; and a
    link that is lost while a stick that is held out is let go made a sound one “hidden”."""
    t, u = leaping(**one)
    zeroed = leaps_to_zero(t, u, (0.1, 0.1))
    assert (zeroed is not None) == leaps
    if zeroed is not None:
        assert zeroed == pytest.approx(one.get("away", 3.0), abs=2.0)


@pytest.mark.parametrize(("last", "leaps"), [(0.51, True), (0.49, False)])
def test_what_a_thumb_lets_slide_the_last_steps_is_no_leap(last: float, leaps: bool) -> None:
    """By two and a half coarse steps; a sound stick was “hidden” that a thumb had lain on."""
    t, u = leaping(away=2.0)
    u[np.append((u[1:, 0] == 0.0) & (u[:-1, 0] == 2.0), False), 0] = last
    assert (leaps_to_zero(t, u, (0.2, 0.2)) is not None) == leaps


@pytest.mark.parametrize(("off", "leaps"), [(0.09, True), (0.11, False)])
def test_what_leaps_elsewhere_than_to_zero_is_the_stick_s_own(off: float, leaps: bool) -> None:
    t, u = leaping()
    assert (leaps_to_zero(t, np.where(u == 0.0, off, u), (0.1, 0.1)) is not None) == leaps


def test_what_is_carried_along_is_hidden_where_a_source_pulls_a_stick_onto_its_axis() -> None:
    """It was within its limit, whatever the one axis did to the other."""
    recording = performed("sound", bits=12).recording
    take = measure_take(pulled(recording))
    assert codes(take) == {"on-axis"}
    for path in ("crossing.x.cross_talk", "crossing.y.cross_talk"):
        assert verdict_on(take, path, LIMIT_OF[path].everyday) == "hidden"
    assert explain(take).advice.startswith("Nothing that shows lies over its limit. What one axis")
    assert codes(measure_take(recording)) == set()


def test_a_dead_zone_along_an_axis_hides_what_is_carried_along_too() -> None:
    recording = performed("sound", bits=12).recording
    u = recording.u
    take = measure_take(transformed(recording, np.where(np.abs(u) < 9.0, 0.0, u)))
    assert codes(take) == {"built-in-dead-zone"}
    assert take.hidden_at("crossing.x.cross_talk")
    round_zone = np.where(np.hypot(*u.T) < 9.0, 0.0, 1.0)[:, None]
    take = measure_take(transformed(recording, u * round_zone))
    assert codes(take) == {"built-in-dead-zone"}
    assert not take.hidden_at("crossing.x.cross_talk")


def crossed(at_zero: float = 1.0, at: float = 0.0, out: float = 50.0) -> NDArray[np.float64]:
    """A crossing of 1000 samples so far out, such a share of which stand at one value."""
    other = np.where(np.arange(1000) < at_zero * 1000, at, 4.0)
    return np.column_stack((np.full(1000, out), other))


def rim_at(
    there: int,
    beside: int,
    far: float = 2.9,
    out: float = 80.0,
    most: float = 61.0,
    at: float = 0.0,
) -> NDArray[np.float64]:
    """Samples on the rim at zero, or what stands for it, and beside it."""
    ends = np.full(50, -most), np.full(50, most)
    other = np.concatenate((ends[0], np.full(there, at), np.full(beside, far), ends[1]))
    return np.column_stack((np.full(len(other), out), other))


@pytest.mark.parametrize(
    ("crossing", "rim", "is_pulled"),
    [
        ({}, {"there": 20, "beside": 20}, True),
        ({}, {"there": 20, "beside": 21}, False),
        ({}, {"there": 20, "beside": 21, "far": 3.1}, True),
        ({}, {"there": 5, "beside": 0}, True),
        ({}, {"there": 4, "beside": 0}, False),
        ({}, {"there": 20, "beside": 0, "out": 59.0}, False),
        ({}, {"there": 20, "beside": 0, "most": 59.0}, False),
        ({"at_zero": 0.91}, {"there": 20, "beside": 0}, True),
        ({"at_zero": 0.89}, {"there": 20, "beside": 0}, False),
        ({"at": 0.49}, {"there": 20, "beside": 0, "at": 0.49}, True),
        ({"at": 0.51}, {"there": 20, "beside": 0, "at": 0.51}, False),
        ({"out": 31.0}, {"there": 20, "beside": 0}, True),
        ({"out": 29.0}, {"there": 20, "beside": 0}, False),
    ],
)
def test_what_stands_at_zero_all_the_way_is_there_on_the_rim_too(
    crossing: dict, rim: dict, is_pulled: bool
) -> None:
    """Coarse digits and a steady hand may look like it, but on the rim no stick stays on its axis."""
    assert pulled_onto_axis(crossed(**crossing), rim_at(**rim), 0.5) == is_pulled


def test_a_stick_that_starts_or_stops_on_its_axis_was_not_pulled_there() -> None:
    """A push straight up to the rim made “the source pulls a stick onto its axis” of a sound one."""
    out = np.column_stack((np.linspace(0, 80, 200), np.zeros(200)))
    goes_on = rim_at(5, 5)[55:]
    assert not pulled_onto_axis(crossed(), np.concatenate((out, goes_on)), 0.5)
    assert not pulled_onto_axis(crossed(), np.concatenate((goes_on, out[::-1])), 0.5)
    between = np.concatenate((rim_at(5, 6), out, rim_at(5, 6)[::-1]))
    assert not pulled_onto_axis(crossed(), between, 0.5)


@pytest.mark.parametrize(("far", "is_pulled"), [(4.9, False), (5.1, True)])
def test_two_and_a_half_coarse_steps_are_beside_zero(far: float, is_pulled: bool) -> None:
    assert pulled_onto_axis(crossed(), rim_at(20, 21, far), 2.0) == is_pulled
