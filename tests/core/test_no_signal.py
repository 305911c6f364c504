"""An axis that says nothing: an open joint, trace, plug or ribbon, a dead sensor, a broken track. It
was “It looks sound, as far as this take goes”, or “Off centre: recalibrate”."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cache
from math import log

import numpy as np
import pytest

from hollow_pin.core.comparison import compare
from hollow_pin.core.limits import verdict_on
from hollow_pin.core.next_look import MOVE_IT, PRESSED, RECALIBRATED, looks
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import measure_take
from hollow_pin.core.travel import travel_of
from sticks import HERE, performed, transformed

Floats = np.ndarray


def sound() -> Recording:
    return performed("sound").recording


def with_y(of: Callable[[Floats, Floats, Floats], Floats], swap: bool = False) -> TakeReadings:
    """A sound take whose y is made of its seconds, x and y; of another by a swap of the two."""
    recording = sound()
    x, y = recording.u.T
    if not swap:
        return measure_take(transformed(recording, np.column_stack((x, of(recording.t, x, y)))))
    step = recording.step.copy()
    for here, there in (("crossing-x", "crossing-y"), ("crossing-y", "crossing-x")):
        step[recording.step == STEPS.index(here)] = STEPS.index(there)
    u = np.column_stack((of(recording.t, x, y), x))
    return measure_take(transformed(replace(recording, step=step), u))


SILENT: dict[str, Callable[[Floats, Floats, Floats], Floats]] = {
    "stays at its low end": lambda t, x, y: np.full_like(y, -100.0),
    "stays at its high end": lambda t, x, y: np.full_like(y, 99.8),
    "stays at 3.0": lambda t, x, y: 3.0 + 0.2 * np.sin(997 * t),
    "goes along with x": lambda t, x, y: 0.6 * x + 5.0,
    "drifts by itself": lambda t, x, y: 30.0 * np.sin(2 * np.pi * 50 * t),
    "drifts by itself, moved": lambda t, x, y: 90.0 * np.exp(-t / 25.0) + 0.2 * np.sin(997 * t),
    "stays at its low end ": lambda t, x, y: np.where(t > 65, -100.0, y),
}


@cache
def silent(name: str) -> TakeReadings:
    return with_y(SILENT[name])


@pytest.mark.parametrize("name", SILENT)
def test_an_axis_without_a_signal_is_named_and_nothing_about_it_passes(name: str) -> None:
    take = silent(name)
    meaning = explain(take)
    assert meaning.sentence.startswith("y gives no signal")
    assert name.strip() in meaning.sentence.replace("\u00a0", " ")
    assert "reseat and reflow" in meaning.advice
    for path in ("still.jitter_y", "still.rest_offset", "composite.dead_zone_needed"):
        assert verdict_on(take, path, 1e9) != "within"
    assert meaning.asks != "nothing", "nor has a remedy worked that leaves it so"
    assert "constant" not in {p.code for p in take.problems}
    assert not {p.step for p in take.problems} & {"rim", "let-go", "hold"}, "go round it again"


@pytest.mark.parametrize("name", SILENT)
def test_an_open_joint_comes_first_then_the_sensor_and_it_is_not_sound(name: str) -> None:
    take = silent(name)
    first, second, *_ = ranked = rank(take)
    assert [(c.cause, c.axis) for c in (first, second)] == [("loose", "y"), ("failing-track", "y")]
    assert (first.probability, second.probability) == pytest.approx((0.7, 0.3))
    assert next(c for c in ranked if c.cause == "sound").probability == 0.0
    (spoken,) = first.evidence
    assert spoken.words == explain(take).sentence.removesuffix(".")
    assert spoken.weight == pytest.approx(log(0.7 / 0.3) - log(0.05 / 0.95)), (
        "from hardly to likely"
    )
    assert looks(take, ranked, usual_routine(2, True).steps) == (PRESSED,)


def test_it_is_told_of_x_as_of_y() -> None:
    take = with_y(SILENT["stays at its low end"], swap=True)
    assert explain(take).sentence == "x gives no signal: it stays at its low end while y moves."
    assert rank(take)[0].axis == "x"
    follows = with_y(SILENT["goes along with x"], swap=True)
    assert explain(follows).sentence.startswith("x gives no signal: it goes along with y")


def test_what_the_other_axis_shows_by_itself_is_read_all_the_same() -> None:
    take = silent("stays at its low end")
    assert take.crossing is not None
    assert take.crossing.x is not None
    assert take.crossing.y is None
    assert take.crossing.x.cross_talk is None, "of the other there is none"
    assert verdict_on(take, "crossing.x.track_noise_max", 50.0) == "within"


BROKEN: dict[str, Callable[[Floats, Floats, Floats], Floats]] = {
    "stays in the middle": lambda t, x, y: np.maximum(y, -1.0),
    "reads the other end": lambda t, x, y: np.where(y < -15, 100.0, y),
    "reads its own end": lambda t, x, y: np.where(y < -15, -100.0, y),
    "falls to the middle half way": lambda t, x, y: np.where(y < -50, 0.0, y),
    "goes to its end half way": lambda t, x, y: np.where(y < -50, -100.0, y),
    "falls to the middle near its end": lambda t, x, y: np.where(y < -80, 0.0, y),
    "reads the other end near its own": lambda t, x, y: np.where(y < -70, 100.0, y),
}


@pytest.mark.parametrize("name", BROKEN)
def test_a_track_that_is_broken_on_one_side_is_not_to_be_gone_round_again(name: str) -> None:
    """“Go all the way round, pressed to the edge” was all that was said, each time."""
    take = with_y(BROKEN[name])
    meaning = explain(take)
    assert meaning.sentence.startswith("y stops: toward its low end it comes no farther than ")
    assert meaning.try_first == "recalibrated", "which costs the least"
    assert [(c.cause, c.axis) for c in rank(take)[:2]] == [
        ("failing-track", "y"),
        ("calibration", "y"),
    ]
    assert "coverage" not in {p.code for p in take.problems}
    assert rank(take)[0].probability == pytest.approx(0.7)
    assert looks(take, rank(take), usual_routine(2, True).steps) == (RECALIBRATED,)


def test_a_stick_off_centre_that_was_not_gone_round_is_not_called_broken() -> None:
    """It reaches far less to one side too, and as much farther to the other."""
    recording = sound()
    u = recording.u + np.array((0.0, 12.0))
    rim = recording.step == STEPS.index("rim")
    u[rim & (u[:, 1] < 0), 1] *= 0.4
    take = measure_take(transformed(recording, u))
    assert "coverage" in {p.code for p in take.problems}
    assert take.silent == ()


@pytest.mark.parametrize(
    ("share", "both"),
    [(0.6, True), (0.5, True), (0.3, True), (0.2, True), (0.5, False), (0.3, False)],
)
def test_an_axis_that_reaches_far_less_than_the_other_has_a_rim_to_recalibrate(
    share: float, both: bool
) -> None:
    """Half as far as x, it did not count as gone round, and was called sound as far as it went."""
    take = with_y(lambda t, x, y: np.where((y < 0) | both, share * y, y))
    full = measure_take(sound()).rim
    assert take.rim is not None
    assert full is not None
    assert take.rim.reach_down == pytest.approx(share * full.reach_down, rel=0.05)
    assert (rank(take)[0].cause, rank(take)[0].axis) == ("calibration", "y")


def test_a_hand_that_rounds_a_side_of_the_rim_short_is_still_asked_to_go_all_the_way() -> None:
    recording = sound()
    u = recording.u.copy()
    short = (recording.step == STEPS.index("rim")) & (u[:, 1] < 0)
    u[short, 1] *= 0.4
    take = measure_take(transformed(recording, u))
    assert take.rim is None
    assert "coverage" in {p.code for p in take.problems}
    assert take.silent == ()


def test_where_nothing_moved_nothing_is_said_of_the_stick() -> None:
    """It was “mechanical bind at most”, of a take of the wrong stick."""
    recording = sound()
    u = np.zeros_like(recording.u) + 0.3 * np.sin(997 * recording.t)[:, None]
    take = measure_take(transformed(recording, u))
    assert explain(take).sentence == "Nothing moved in it."
    assert "another stick was moved" in explain(take).advice
    assert verdict_on(take, "still.jitter_x", 1e9) == "hidden"
    ranked = rank(take)
    assert not ranked[0].likely
    (look,) = looks(take, ranked, usual_routine(2, True).steps)
    assert (look.words, look.steps) == (MOVE_IT.words, ("let-go", "rim"))
    well = measure_take(transformed(sound(), sound().u))
    for pair in ((well, take), (take, well)):
        comparison = compare(*pair, HERE, HERE)
        assert comparison.overall == "refused"
        assert comparison.refusals[0].startswith("Nothing moved in")


def test_a_signal_that_is_lost_is_worse_and_one_that_is_back_is_better() -> None:
    well, mute = measure_take(transformed(sound(), sound().u)), silent("stays at 3.0")
    lost = compare(well, mute, HERE, HERE)
    assert (lost.overall, lost.lost) == ("worse", ("y",))
    meaning = explain_comparison(lost, mute, "left")
    assert meaning.replace("\u00a0", " ") == (
        "Worse. y gives no signal: it stays at 3.0 % while x moves."
    )
    back = compare(mute, well, HERE, HERE)
    assert (back.overall, back.regained) == ("better", ("y",))
    assert explain_comparison(back, well, "left").startswith("Better. y moves again. ")
    row = back.row("still.jitter_y")
    assert row is not None
    assert row.why == "an axis gave no signal, before or after"
    other = with_y(SILENT["stays at 3.0"], swap=True)
    assert compare(mute, other, HERE, HERE).overall == "mixed"
    assert compare(mute, mute, HERE, HERE).overall == "no-change"


def test_one_that_moves_again_on_a_stick_that_got_worse_is_both() -> None:
    mute = with_y(SILENT["stays at 3.0"])
    x, y = sound().u.T
    rng = np.random.default_rng(3)
    rough = np.column_stack((x + np.where(np.abs(x) > 20, rng.normal(0, 9, len(x)), 0), y))
    after = measure_take(transformed(sound(), rough))
    assert compare(mute, after, HERE, HERE).overall == "mixed"


# The rules at their edges, on the simplest of movements.

RATE = 100


def movement(
    y: Callable[[Floats, bool], Floats],
    x: float = 100.0,
    steps: dict[str, float] | None = None,
) -> Recording:
    """x, up to so far, by a cosine a second, and 0 in Still; y by the seconds, and whether it is
    moved. steps: how long each lasts, seconds."""
    steps = steps or {"still": 10.0, "let-go": 6.0, "rim": 6.0}
    parts, step = [], []
    for name, seconds in steps.items():
        t = np.arange(round(seconds * RATE)) / RATE
        moved = name != "still"
        parts.append(np.column_stack((x * moved * np.cos(2 * np.pi * t), y(t, moved))))
        step.append(np.full(len(t), STEPS.index(name), dtype=np.int8))
    u = np.concatenate(parts)
    t_us = np.arange(len(u), dtype=np.int64) * (1_000_000 // RATE)
    return Recording(t_us, u, (AxisRange(-100, 100),) * 2, np.concatenate(step))


def swings(far: float) -> Callable[[Floats, bool], Floats]:
    return lambda t, moved: far * moved * np.sin(2 * np.pi * t)


def how(recording: Recording) -> list[str]:
    travel = travel_of(recording)
    return ["-"] if travel is None else [s.how for s in travel.silent]


@pytest.mark.parametrize(("far", "said"), [(4.9, ["stays"]), (5.1, [])])
def test_an_axis_speaks_that_goes_over_ten_per_cent(far: float, said: list[str]) -> None:
    assert how(movement(swings(far))) == said


@pytest.mark.parametrize("to", [80.0, -80.0])
def test_a_sample_here_and_there_is_no_signal(to: float) -> None:
    recording = movement(swings(0.0))
    raw = recording.raw.copy()
    raw[[1100, 1300, 1500, 1700, 1900], 1] = to
    assert how(replace(recording, raw=raw)) == ["stays"]


@pytest.mark.parametrize(("other", "said"), [(29.9, []), (30.1, ["stays"])])
def test_it_is_the_axis_and_not_the_hand_where_the_other_goes_over_sixty(
    other: float, said: list[str]
) -> None:
    assert how(movement(swings(0.0), x=other)) == said


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ({"still": 10.0, "rim": 6.0}, ["-"]),
        ({"still": 10.0, "let-go": 1.9, "rim": 6.0}, ["-"]),
        ({"still": 10.0, "let-go": 2.1, "rim": 6.0}, ["stays"]),
        ({"still": 10.0, "crossing-x": 6.0, "crossing-y": 6.0}, ["-"]),
    ],
)
def test_it_takes_two_steps_of_two_seconds_that_move_it(
    steps: dict[str, float], said: list[str]
) -> None:
    """A step may have been passed over; and along one axis the other is to lie still."""
    assert how(movement(swings(0.0), steps=steps)) == said


@pytest.mark.parametrize(("own", "said"), [(4.9, ["follows"]), (5.1, [])])
def test_an_axis_follows_that_goes_less_than_ten_per_cent_of_its_own(
    own: float, said: list[str]
) -> None:
    def y(t: Floats, moved: bool) -> Floats:
        return moved * (50 * np.cos(2 * np.pi * t) + own * np.sin(2 * np.pi * t))

    assert how(movement(y)) == said


@pytest.mark.parametrize(("about", "said"), [(29.5, ["drifts"]), (30.5, [])])
def test_an_axis_drifts_that_is_not_half_as_far_about_again_when_it_is_moved(
    about: float, said: list[str]
) -> None:
    assert (
        how(movement(lambda t, moved: (about if moved else 20.0) * np.sin(2 * np.pi * t))) == said
    )


def slides(moved_by: float) -> Callable[[Floats, bool], Floats]:
    """To and fro by 1 % in a quarter second in Still, and away by so much in it when it is moved."""

    def y(t: Floats, moved: bool) -> Floats:
        return 4.0 * moved_by * t if moved else 4.0 * np.abs(t % 4.0 - 2.0)

    return y


@pytest.mark.parametrize(("moved_by", "said"), [(1.45, ["drifts"]), (1.55, [])])
def test_an_axis_that_goes_no_faster_than_in_still_drifts_however_far_it_comes(
    moved_by: float, said: list[str]
) -> None:
    """An open input whose charge leaks off: it was off centre and worn, and to be replaced."""
    assert how(movement(slides(moved_by))) == said


@pytest.mark.parametrize(("other", "said"), [(43.0, ["drifts"]), (42.0, [])])
def test_it_is_slow_where_the_other_axis_goes_far_in_a_moment(
    other: float, said: list[str]
) -> None:
    """By sixty per cent in a quarter second; a hand that eases the stick about moves neither so."""
    assert how(movement(slides(1.45), x=other)) == said


def test_a_stick_that_was_moved_in_still_has_a_signal() -> None:
    recording = movement(swings(100.0), steps={"let-go": 6.0, "rim": 6.0})
    step = np.concatenate(([STEPS.index("still")] * len(recording.step), recording.step))
    twice = replace(
        recording,
        t_us=np.arange(len(step), dtype=np.int64) * 10_000,
        raw=np.concatenate((recording.raw, recording.raw)),
        step=step.astype(np.int8),
    )
    assert how(twice) == []


@pytest.mark.parametrize(("low", "said"), [(-19.5, ["stops"]), (-20.5, [])])
def test_a_side_is_reached_that_is_gone_to_by_twenty_per_cent(low: float, said: list[str]) -> None:
    assert how(movement(lambda t, m: np.maximum(low, swings(100.0)(t, m)))) == said


@pytest.mark.parametrize(("other", "said"), [(59.5, []), (60.5, ["stops"])])
def test_a_side_is_not_reached_where_every_other_is_by_sixty(other: float, said: list[str]) -> None:
    assert how(movement(lambda t, m: np.maximum(-10, swings(100.0)(t, m)), x=other)) == said


@pytest.mark.parametrize(
    ("low", "high", "said"),
    [(-79, 100, ["stops"]), (-81, 100, []), (-70, 112, []), (-70, 108, ["stops"])],
)
def test_a_side_is_far_shorter_by_a_tenth_where_its_axis_is_as_well(
    low: float, high: float, said: list[str]
) -> None:
    def y(t: Floats, moved: bool) -> Floats:
        swing = swings(1.0)(t, moved)
        return np.where(swing < 0, -low, high) * swing

    travel = travel_of(movement(y))
    assert travel is not None
    assert [s.how for s in travel.far_shorter] == said


@pytest.mark.parametrize(("at", "said"), [(94.5, "stays at 94.5"), (95.5, "stays at its high end")])
def test_an_end_is_one_from_ninety_five_on(at: float, said: str) -> None:
    travel = travel_of(movement(lambda t, moved: np.full_like(t, at)))
    assert travel is not None
    assert said in travel.silent[0].words.replace("\u00a0", " ")


@pytest.mark.parametrize(("strays", "said"), [(2, ["stops"]), (4, [])])
def test_what_is_hardly_ever_between_was_jumped_over(strays: int, said: list[str]) -> None:
    recording = movement(lambda t, m: np.where(swings(60.0)(t, m) < -15, -100, swings(60.0)(t, m)))
    raw = recording.raw.copy()
    for i, place in enumerate((-30.0, -50.0, -70.0, -90.0)):
        raw[1100 + 100 * i : 1100 + 100 * i + strays, 1] = place
    assert how(replace(recording, raw=raw)) == said


@pytest.mark.parametrize(("open_for", "said"), [(90, []), (110, ["drifts"])])
def test_a_joint_that_is_open_for_less_than_a_tenth_each_way_is_no_silence(
    open_for: int, said: list[str]
) -> None:
    recording = movement(swings(100.0))
    raw = recording.raw.copy()
    raw[:open_for, 1], raw[500 : 500 + open_for, 1] = -100, 100
    assert how(replace(recording, raw=raw)) == said


@pytest.mark.parametrize(("gap", "said"), [(20.0, []), (31.0, ["stops"])])
def test_what_is_jumped_to_over_a_quarter_of_the_half_range_is_not_reached(
    gap: float, said: list[str]
) -> None:
    def y(t: Floats, moved: bool) -> Floats:
        swing = swings(60.0)(t, moved)
        return np.where(swing < -15, swing - gap, swing)

    assert how(movement(y, x=100.0)) == said


@pytest.mark.parametrize(
    ("level", "trembles", "seconds", "said"),
    [
        (-100.0, 0.0, 11.2, ["stays"]),
        (-100.0, 0.0, 9.8, []),
        (19.5, 0.0, 12.0, []),
        (20.5, 0.0, 12.0, ["stays"]),
        (-90.0, 1.45, 12.0, ["stays"]),
        (-90.0, 1.55, 12.0, []),
    ],
)
def test_an_axis_is_lost_that_lies_ten_seconds_where_it_does_not_rest(
    level: float, trembles: float, seconds: float, said: list[str]
) -> None:
    steps = {"still": 10.0, "let-go": 6.0, "rim": 6.0, "crossing-x": 3.0, "hold": seconds - 3.0}

    def y(t: Floats, moved: bool) -> Floats:
        return swings(100.0)(t, moved)

    recording = movement(y, steps=steps)
    raw = recording.raw.copy()
    lost = recording.t > 21.995
    raw[lost, 1] = level + trembles * np.sin(2 * np.pi * 3 * recording.t[lost])
    assert how(replace(recording, raw=raw)) == said
    held = np.where(lost, STEPS.index("hold"), recording.step).astype(np.int8)
    assert how(replace(recording, raw=raw, step=held)) == [], "within one step it may be held"
    for swing, still_said in ((29.0, []), (31.0, said)):
        kept_out = raw.copy()
        kept_out[lost, 0] = swing * np.cos(2 * np.pi * recording.t[lost])
        assert how(replace(recording, raw=kept_out)) == still_said, "a thumb that holds it out"


def test_a_lever_that_does_not_come_back_is_not_lost_where_it_is_left() -> None:
    steps = {"still": 10.0, "rim": 6.0, "crossing-x": 6.0, "crossing-y": 6.0, "hold": 6.0}
    recording = movement(swings(100.0), steps=steps)
    raw = recording.raw.copy()
    raw[-1100:, 1] = 60.0
    assert how(replace(recording, raw=raw)) == []
    step = recording.step.copy()
    step[1000:1600] = STEPS.index("let-go")
    assert how(replace(recording, raw=raw, step=step)) == ["stays"]
