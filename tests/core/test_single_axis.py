"""Levers and paddles: what they have no rim and no second axis to show. By motions of this file's own,
in which no stand-in has a part."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core.calibration import TEACHING, calibration_outcome, calibrations
from hollow_pin.core.comparison import compare
from hollow_pin.core.crossing import measure_crossing
from hollow_pin.core.dead_spans import DeadSpan
from hollow_pin.core.ends import ends_of
from hollow_pin.core.extents import shortest_reach
from hollow_pin.core.figures import deciding, figures_of
from hollow_pin.core.held_time import pace_of
from hollow_pin.core.limits import LIMIT_OF, verdict_on
from hollow_pin.core.next_look import looks
from hollow_pin.core.ranking import rank
from hollow_pin.core.reach_signs import short_span
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import NO_STEP, STEPS, AxisRange, Recording
from hollow_pin.core.routine import BY_ID, SHAPES, Shape, shape_of, usual_routine
from hollow_pin.core.sides import Sides
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import find_steps
from sticks import HERE, readings_of

UNIT = (AxisRange(-100, 100),)
RATE = 250.0
Values = NDArray[np.float64]
SHORT = "composite.outer_dead_zone_needed"


def way(*stops: tuple[float, float], rate: float = RATE) -> Values:
    """Through positions, each reached in so many seconds from the one before, at an even pace."""
    at, parts = stops[0][0], []
    for to, seconds in stops:
        parts.append(np.linspace(at, to, max(2, round(seconds * rate))))
        at = to
    return np.concatenate(parts)


def alone(at: float, seconds: float = 7.0) -> tuple[float, float]:
    return at, seconds


def turned(low: float = -98.0, high: float = 98.0, rate: float = RATE) -> Values:
    """A paddle through its routine: four times from end to end, then left alone at three places."""
    ends = [(low, 0.4), (low, 0.3)]
    for end in (high, low, high, low):
        ends += [(end, 2.6), (end, 0.3)]
    third = (high - low) / 6
    for place in (low + third, (low + high) / 2, high - third):
        ends += [(place, 1.2), alone(place)]
    return way(*ends, rate=rate)


def trembling(v: Values, noise: float = 0.08, seed: int = 1) -> Values:
    return v + np.random.default_rng(seed).normal(0, noise, len(v))


def paddle(v: Values, rate: float = RATE, bits: int = 12) -> TakeReadings:
    top = 2**bits - 1
    raw = np.clip(np.round((v + 100) / 200 * top), 0, top)[:, None]
    t_us = np.round(np.arange(len(v)) / rate * 1e6).astype(np.int64)
    step = np.full(len(v), STEPS.index("turn"), np.int8)
    return measure_take(Recording(t_us, raw, (AxisRange(0, top),), step))


STEPS_OF_A_LEVER = ("still", "let-go", "crossing-x", "hold")


def lever(low: float = 98.0, high: float = 98.0, noise: float = 0.08) -> TakeReadings:
    return measure_take(levered(low, high, noise))


def levered(
    low: float = 98.0,
    high: float = 98.0,
    noise: float = 0.08,
    order: tuple[str, ...] = STEPS_OF_A_LEVER,
) -> Recording:
    """Sprung: left alone, pushed over and let go, slowly across, held."""

    def back(out: float) -> Values:
        after = np.arange(round(1.8 * RATE)) / RATE
        return out * np.exp(-after / 0.02)

    pushes = [
        np.concatenate((way((0, 0.05), (end, 0.2), (end, 0.4)), back(end)))
        for end in (high, -low) * 4
    ]
    across = [
        way(
            (-low, 0.5),
            (-low, 0.3),
            *((e, 2.6) for e in (high, -low, high, -low)),
            (0, 0.5),
            (0, 0.8),
        )
    ]
    held = [way((0, 0.05), (e, 0.2), (e, 3.6), (0, 0.1), (0, 0.8)) for e in (high, -low)]
    steps = {
        "still": [np.zeros(round(10.5 * RATE))],
        "let-go": pushes,
        "crossing-x": across,
        "hold": held,
    }
    v = np.concatenate([piece for name in order for piece in steps[name]])
    codes = [np.full(sum(map(len, steps[name])), STEPS.index(name), np.int8) for name in order]
    t_us = np.round(np.arange(len(v)) / RATE * 1e6).astype(np.int64)
    return Recording(t_us, trembling(v, noise)[:, None], UNIT, np.concatenate(codes))


@pytest.mark.parametrize(
    ("order", "sides", "named"),
    [
        (STEPS_OF_A_LEVER, 2, ""),
        (STEPS_OF_A_LEVER, 1, "; not measured: Hold on every side"),
        (STEPS_OF_A_LEVER[:2], 2, "; not measured: Crossing x and Hold"),
    ],
)
def test_a_lever_is_within_its_limits_as_far_as_it_was_looked_at(
    order: tuple[str, ...], sides: int, named: str
) -> None:
    """It has no rim and no second track to be asked for, and two sides to be held on."""
    take = measure_take(levered(order=order))
    some = replace(take, hold=take.hold[:sides]) if take.hold else take
    assert explain(some).advice == f"Every reading taken is within its limit{named}."


@pytest.mark.parametrize(
    ("ends", "named"),
    [((90.0, 270.0), ""), ((90.0,), "; not measured: Let-go on every side"), ((270.0,), "; not")],
)
def test_a_lever_is_to_be_let_go_from_either_end(ends: tuple[float, ...], named: str) -> None:
    take = measure_take(levered(order=STEPS_OF_A_LEVER))
    release = tuple(r for r in take.let_go.release if round(r.bearing) in ends)
    some = replace(take, let_go=replace(take.let_go, release=release))
    advice = explain(some).advice
    assert advice.startswith(f"Every reading taken is within its limit{named}")
    assert ("Let-go" in advice) == bool(named)


def test_a_sound_one_is_sound_though_it_has_no_rim() -> None:
    """A paddle was sound with 19 %, for want of returns that it cannot have."""
    for take in (paddle(trembling(turned())), lever()):
        assert explain(take).advice == "Every reading taken is within its limit."
        first = rank(take)[0]
        assert first.cause == "sound"
        assert first.probability > 0.9


def test_an_end_that_is_not_reached_is_a_calibration_first() -> None:
    """The readings said to recalibrate, and no cause was likely."""
    for take in (lever(98.0, 80.0), lever(80.0, 98.0), paddle(trembling(turned(high=76.0)))):
        short = take.composite.outer_dead_zone_needed
        assert short_span(Sides(take), "x") == pytest.approx(short / 2)
        assert "recalibrate" in explain(take).advice
        assert (rank(take)[0].cause, rank(take)[0].likely) == ("calibration", True)


def by_changes(recording: Recording) -> Recording:
    """As an 8-bit source tells it that speaks when something is new."""
    raw = np.round((recording.raw + 100) / 200 * 255)
    new = np.append(True, np.diff(raw[:, 0]) != 0)
    return Recording(recording.t_us[new], raw[new], (AxisRange(0, 255),), recording.step[new])


@pytest.mark.parametrize(
    "order", [STEPS_OF_A_LEVER, ("hold", "crossing-x", "still", "let-go")], ids=["usual", "other"]
)
@pytest.mark.parametrize("source", [lambda r: r, by_changes], ids=["all", "changes"])
def test_the_steps_of_a_lever_are_found_in_any_order_and_by_what_changed_alone(
    source: Callable[[Recording], Recording], order: tuple[str, ...]
) -> None:
    """A table that names no steps: a sound lever whose source speaks of changes did “not always come
    back”, and in another order than the routine's all of them were lost."""
    recording = source(levered(order=order))
    bare = replace(recording, step=np.full(len(recording.t_us), NO_STEP, np.int8))
    step = find_steps(bare, BY_ID["lever"]).step
    for name in STEPS_OF_A_LEVER:
        of_it = recording.step == STEPS.index(name)
        assert (step[of_it] == STEPS.index(name)).mean() > 0.8, name
    assert explain(measure_take(replace(bare, step=step))).advice.startswith("Every reading")


@pytest.mark.parametrize(
    ("reach", "verdict"),
    [(91.0, "within"), (90.3, "borderline"), (89.7, "borderline"), (89.0, "over")],
)
def test_how_far_short_of_its_end_one_stops_is_held_against_a_limit(
    reach: float, verdict: str
) -> None:
    take = paddle(trembling(turned(high=reach), 0.02))
    assert take.value(SHORT) == pytest.approx(100.0 - reach, abs=0.2)
    assert verdict_on(take, SHORT, 10.0) == verdict


@pytest.mark.parametrize("take", [paddle(turned(low=-62.0)), lever(75.0, 75.0), lever(high=75.0)])
def test_one_that_stops_short_is_recalibrated(take: TakeReadings) -> None:
    """A lever that reached three quarters, and one that did so on one side, were within limits."""
    meaning = explain(take)
    assert meaning.advice.startswith("It stops short of an end of its range: recalibrate")
    assert meaning.try_first == "recalibrated"
    assert rank(take)[0].cause == "calibration"


def test_an_end_is_where_whichever_step_brought_it_farthest() -> None:
    """A hand that pushed half-heartedly in one step does not make a lever short."""
    v = np.concatenate((way((-70, 1.0), (70, 1.0)), way((-96, 1.0), (97, 1.0)), np.full(500, 99.9)))
    step = np.repeat([STEPS.index("let-go"), STEPS.index("crossing-x")], [500, len(v) - 500])
    t_us = np.arange(len(v), dtype=np.int64) * 4000
    recording = Recording(t_us, v[:, None], UNIT, step.astype(np.int8))
    parts = {"let-go": slice(0, 500), "crossing-x": slice(500, 1000), "still": slice(1000, 1500)}
    assert ends_of(recording, parts).short == pytest.approx(4.0, abs=1.5)
    assert ends_of(recording, {"let-go": parts["let-go"]}).short == pytest.approx(30, abs=1.5)
    one_side = {"crossing-x": slice(900, 1000)}
    assert ends_of(recording, one_side) is None, "nobody went to the other end"
    two = Recording(t_us, np.column_stack((v, v)), UNIT * 2, step.astype(np.int8))
    assert ends_of(two, parts) is None, "the rim tells it of two axes"


@pytest.mark.parametrize(
    ("path", "grades"),
    [
        (SHORT, (5.0, 10.0, 15.0)),
        ("turn.wander", (2.0, 4.0, 8.0)),
        ("turn.spikes_per_min", (15.0, 30.0, 60.0)),
    ],
)
def test_how_much_is_let_pass(path: str, grades: tuple[float, ...]) -> None:
    limit = LIMIT_OF[path]
    assert (limit.fine, limit.everyday, limit.display) == grades


def test_a_visit_that_had_not_the_end_for_a_goal_tells_nothing_of_it() -> None:
    """A push to four fifths is no doubt about where the end lies."""
    v = way((-98, 0.4), *((e, 2.6) for e in (98, -98, 80, -98, 98, -98)), (0, 1.0))
    t_us = np.arange(len(v), dtype=np.int64) * 4000
    step = np.full(len(v), STEPS.index("turn"), np.int8)
    ends = ends_of(Recording(t_us, v[:, None], UNIT, step), {"turn": slice(0, len(v))})
    assert ends is not None
    assert ends.scatter < 0.5


def test_an_end_is_known_as_well_as_its_visits_agree() -> None:
    steady, loose = turned(), way((-98, 0.4), *((e, 2.6) for e in (98, -98, 92, -98)), (0, 1.0))
    step = np.full(max(len(steady), len(loose)), STEPS.index("turn"), np.int8)
    scatter = []
    for v in (steady, loose):
        t_us = np.arange(len(v), dtype=np.int64) * 4000
        ends = ends_of(
            Recording(t_us, v[:, None], UNIT, step[: len(v)]), {"turn": slice(0, len(v))}
        )
        assert ends is not None
        scatter.append(ends)
    assert scatter[0].scatter == pytest.approx(0.0, abs=0.05)
    assert scatter[1].scatter == pytest.approx(np.std((98, 92), ddof=1), abs=1.0)
    known = paddle(trembling(loose)).uncertainty[SHORT]
    assert known > 3.5


def test_where_a_paddle_is_left_alone_is_no_end_of_it() -> None:
    """Left at nine tenths of its way, a sound one was too near its limit: its end was not known."""
    v = way((-93, 0.4), *((e, 2.6) for e in (93, -93, 93, -93)), (0, 1.2), (0, 7), (87, 1), (87, 7))
    take = paddle(trembling(v))
    assert take.value(SHORT) == pytest.approx(7.5, abs=0.6), "it turns back at once"
    assert take.uncertainty[SHORT] < 0.6
    assert verdict_on(take, SHORT, 10.0) == "within"


def test_a_contact_that_jumps_to_an_end_has_not_gone_there() -> None:
    """Mended it stopped short of the end that it had jumped to: worse, it was told."""
    v = trembling(turned(low=-88.0, high=88.0))
    for at in range(300, len(v) - 40, 500):
        v[at : at + 25] = np.sign(v[at]) * 100.0
    assert paddle(v).value(SHORT) == pytest.approx(12.0, abs=0.6)


def test_a_paddle_lies_elsewhere_the_next_time_it_is_left_alone() -> None:
    """Noisy over a tenth of its travel, it trembles by what lies under it where it happens to stop."""
    v = turned()
    noise = np.random.default_rng(3).normal(0, 2.0, len(v))
    even, spot = paddle(v + noise), paddle(trembling(v + noise * (np.abs(v) < 7)))
    assert even.uncertainty["turn.jitter"] < 0.3
    assert spot.uncertainty["turn.jitter"] > 0.6
    assert spot.value("turn.jitter") == pytest.approx(2.0, rel=0.2)


@pytest.mark.parametrize(("after", "verdict"), [(0.1, "better"), (3.0, "no-change")])
def test_what_wandered_may_wander_less_the_next_time(after: float, verdict: str) -> None:
    """Ten seconds of a contact that comes and goes: 17 % in one Still and 3 in the next, untouched."""
    take = lever()
    assert take.still is not None
    takes = [
        replace(
            take,
            still=replace(take.still, wander=wander),
            uncertainty=take.uncertainty | {"still.wander": 0.3 * wander},
        )
        for wander in (12.0, after)
    ]
    row = compare(*takes, HERE, HERE).row("still.wander")
    assert row is not None
    assert row.verdict == verdict
    assert row.before_limit == "over", "that it did is known"


def test_what_was_measured_too_few_times_is_not_within_its_limit() -> None:
    """One slow pass of a lever that leapt 7 % of its track: every reading was within its limit."""
    take = lever()
    known = {k: u for k, u in take.uncertainty.items() if not k.startswith("crossing.x")}
    advice = explain(replace(take, uncertainty=known)).advice
    assert advice.startswith("Nothing is over its limit; measured too few times to call: ")
    assert "dead spans x" in advice


@pytest.mark.parametrize("times", [1, 2, 8, 10, 25])
def test_a_report_that_comes_many_times_is_one_all_the_same(times: int) -> None:
    """A device of 125 Hz, looked at ever so often: each movement goes in few leaps. From ten times on,
    a take of a sound stick was read as one sample in sixteen seconds."""
    t = np.arange(1500) / 125.0
    raw = np.repeat(np.round(2048 + 1900 * np.sin(2 * np.pi * 0.7 * t)), times)[:, None]
    step = np.full(len(raw), STEPS.index("crossing-x"), np.int8)
    t_us = np.arange(len(raw), dtype=np.int64) * 1000
    pace = pace_of(Recording(t_us, raw, (AxisRange(0, 4095),), step))
    assert pace is not None
    assert pace.twice == times


def times_over(went: list[float], news: int) -> int:
    """How often each report is said to come that came twice, where so much new was said: steps of ten
    bits that are gone again and again, between two stays."""
    way = np.cumsum(np.resize(went, news))
    trembles = np.resize([0.0, -1.0], 150)
    level = np.concatenate((trembles, way, way[-1] - trembles)) + 1
    raw = np.repeat(level, 2)[:, None]
    step = np.full(len(raw), STEPS.index("crossing-x"), np.int8)
    t_us = np.arange(len(raw), dtype=np.int64) * 2000
    span = AxisRange(0, 1023) if way[-1] < 1023 else AxisRange(0, 65_535)
    pace = pace_of(Recording(t_us, raw, (span,), step))
    assert pace is not None
    return pace.twice


def test_reports_are_counted_by_what_surely_moved() -> None:
    """Of fifty moves of four steps or more, of three in a row none under a tenth of all three."""
    assert times_over([1.0, 3.0, 4.0, 4.0, 4.0], 400) == 2
    assert times_over([1.0, 3.0, 3.0, 3.0], 300) == 1, "three steps may be what is not let through"
    assert times_over([4.0], 52) == 2
    assert times_over([4.0], 51) == 1
    assert times_over([5.0, 5.0, 30.0, 1.0], 400) == 2
    assert times_over([4.0, 4.0, 78.0, 1.0], 400) == 1, "it jumped"


def test_a_contact_that_jumps_makes_no_report_come_twice() -> None:
    """At the end of its range it says the same, again and again: a page of 144 Hz was read as 72."""
    t = np.arange(8000) / 144.0
    v = trembling(60.0 * np.sin(2 * np.pi * 0.1 * t), 0.3)
    for at in range(100, 7900, 60):
        v[at : at + 12] = 100.0
    raw = np.clip(np.round((v + 100) / 200 * 255), 0, 255)[:, None]
    step = np.full(8000, STEPS.index("crossing-x"), np.int8)
    pace = pace_of(Recording(np.round(t * 1e6).astype(np.int64), raw, (AxisRange(0, 255),), step))
    assert pace is not None
    assert pace.twice == 1


def test_spikes_of_a_paddle_are_dirt_and_no_failing_track() -> None:
    """Out at the end of its travel each looks like a track that fails there: replace, it was told."""
    v = trembling(turned())
    rng = np.random.default_rng(4)
    for at in rng.integers(0, len(v) - 3, 80):
        v[at : at + 2] -= np.sign(v[at]) * 40.0
    take = paddle(v)
    assert take.turn is not None
    assert take.turn.spikes_per_min is not None
    assert take.turn.spikes_per_min > 60
    assert explain(take).try_first == "cleaned"
    assert rank(take)[0].cause == "dirty"


def test_spikes_at_rest_are_counted_over_all_the_places_it_was_left_at() -> None:
    v = trembling(turned(), 0.05)
    ends = np.cumsum([len(way((0, 1.2), (0, 7.0)))] * 3)
    starts = len(v) - ends[::-1] + round(1.2 * RATE)
    for start in starts[:2]:
        v[start + 600] += 20.0
    turn = paddle(v).turn
    assert turn is not None
    minutes = 3 * 7.0 / 60
    assert turn.spikes_per_min == pytest.approx(2 / minutes, rel=0.15)
    assert turn.spike_height == pytest.approx(20.0, abs=1.0)


def test_a_hum_does_not_keep_a_paddle_from_being_seen_at_rest() -> None:
    """50 Hz looks like 10 to a source of 60: the paddle was never at rest, and so within limits."""
    v = turned(rate=60.0)
    hum = 5.0 * np.sin(2 * np.pi * 50.0 * np.arange(len(v)) / 60.0 + 0.4)
    take = paddle(trembling(v + hum), rate=60.0)
    assert take.turn is not None
    assert set(take.turn.rests) == {"low", "middle", "high"}
    assert take.turn.jitter == pytest.approx(5.0 / np.sqrt(2), rel=0.1)
    assert "trembles more than it should" in explain(take).advice


def noisier(by: float, where: tuple[float, float]) -> TakeReadings:
    """A paddle that trembles by 1.5 %, and by so much in one place of its way."""
    v = turned()
    noise = np.random.default_rng(3).normal(0, 1.5, len(v))
    return paddle(v + noise * np.where((v > where[0]) & (v < where[1]), by / 1.5, 1.0))


@pytest.mark.parametrize(
    ("take", "first"),
    [
        (lambda: noisier(1.5, (0, 0)), "supply-noise"),
        (lambda: lever(noise=1.5), "supply-noise"),
        # Where it was left alone, and on its way.
        (lambda: noisier(2.5, (-7, 7)), "supply-noise"),
        (lambda: noisier(3.5, (-7, 7)), "dirty"),
        (lambda: noisier(2.5, (40, 48)), "supply-noise"),
        (lambda: noisier(3.5, (40, 48)), "dirty"),
    ],
)
def test_what_trembles_alike_wherever_it_is_is_tried_on_another_cable_first(
    take: Callable[[], TakeReadings], first: str
) -> None:
    """Of a single axis that hums a decision was to clean its track, beside readings that said to try a
    cable: dirt lies in places."""
    taken = take()
    assert ("alike wherever it is" in explain(taken).advice) == (first == "supply-noise")
    assert rank(taken)[0].cause == first


def test_what_was_left_alone_in_one_place_is_not_said_to_tremble_alike_in_others() -> None:
    take = noisier(1.5, (0, 0))
    assert take.turn is not None
    for kept, alike in (({"high": None}, True), ({"high": None, "low": None}, False)):
        fewer = replace(take, turn=replace(take.turn, **kept))
        assert ("alike wherever it is" in explain(fewer).advice) == alike


def test_a_paddle_that_is_surely_rough_in_places_is_dirty() -> None:
    """“Clean it first”, said its readings; and nothing was likely, where it was decided."""
    v = turned()
    noise = np.random.default_rng(3).normal(0, 8.0, len(v))
    take = paddle(trembling(v + noise * ((v > 40) & (v < 48))))
    assert "rough places along the track" in explain(take).advice
    first = rank(take)[0]
    assert first.cause == "dirty"
    assert first.likely


def test_a_paddle_is_calibrated_by_where_it_was_turned_to() -> None:
    """“Recalibrate, extents first”, said its readings, and its calibration asked for a rim and a
    Let-go that it cannot have."""
    take = paddle(trembling(turned(-80.0, 95.0)))
    (calibration,) = calibrations(take, (AxisRange(0, 4095),), "round")
    assert calibration.kind == "two-point"
    (axis,) = calibration.axes
    assert axis.low == pytest.approx(4095 * 0.1, abs=15)
    assert axis.high == pytest.approx(4095 * 0.975, abs=15)
    assert axis.centre == pytest.approx((axis.low + axis.high) / 2)
    assert (calibration.forecast.dead_zone, calibration.forecast.circularity) == (None, None)
    assert calibration.forecast.reach == pytest.approx(100.0)
    assert shortest_reach(take) == pytest.approx(80.0, abs=0.5)
    assert shortest_reach(lever(high=70.0)) == pytest.approx(70.0, abs=0.5)
    assert shortest_reach(replace(take, turn=None)) is None
    both = readings_of("sound")
    assert shortest_reach(both) == min(both.rim.radius)
    assert shortest_reach(replace(both, rim=None)) is None, "its holds tell of four places alone"


@pytest.mark.parametrize(
    ("was", "then", "became"),
    [
        ((80.0, 95.0), (99.0, 98.1), "held"),
        ((80.0, 95.0), (99.0, 97.9), "partly"),
        ((80.0, 95.0), (81.9, 95.0), "refused"),
        ((80.0, 95.0), (82.1, 95.0), "partly"),
        ((90.0, 95.0), (87.9, 95.0), "worse"),
        ((90.0, 95.0), (95.0, 89.0), "partly"),
        ((98.1, 99.0), (98.2, 99.1), "needless"),
        ((97.9, 99.0), (98.0, 99.1), "refused"),
    ],
)
def test_what_became_of_a_paddles_calibration_goes_by_its_ends(
    was: tuple[float, float], then: tuple[float, float], became: str
) -> None:
    """Two per cent of an end are the hand's."""
    take = paddle(trembling(turned()))
    assert take.turn is not None
    before, after = (
        replace(take, turn=replace(take.turn, reach_low=low, reach_high=high))
        for low, high in (was, then)
    )
    ranges = (AxisRange(0, 4095),)
    (calibration,) = calibrations(before, ranges, "round")
    outcome = calibration_outcome(before, after, calibration, ranges)
    assert outcome.became == became
    assert "release" not in outcome.words


@pytest.mark.parametrize("shape", SHAPES)
def test_a_calibration_is_carried_out_by_steps_that_its_kind_of_stick_can_do(shape: Shape) -> None:
    """Of a lever it said to go round the edge."""
    assert BY_ID[TEACHING[shape].routine].unfit(*SHAPES[shape]) == ()
    assert shape_of(*SHAPES[shape]) == shape


def test_a_paddle_that_does_not_stay_where_it_is_left_does_not_pass() -> None:
    """Nothing of its rests could be measured, and all that was measured was within its limit."""
    v = turned()
    kicks = np.random.default_rng(6).normal(0, 20, len(v) // 400 + 1)
    take = paddle(trembling(v + np.repeat(kicks, 400)[: len(v)]))
    assert take.turn is not None
    assert len(take.turn.rests) < 3
    meaning = explain(take)
    assert meaning.advice.startswith("It was not seen at rest in the ")
    assert (meaning.try_first, meaning.asks) == ("measure", "again")
    sound = next(r for r in rank(take) if r.cause == "sound")
    assert sound.probability <= len(take.turn.rests) / 3


def swaying(by: float, hz: float = 0.4) -> TakeReadings:
    """One that sways so far to either side where it is left alone in the middle."""
    v, n = turned(), round(7.0 * RATE)
    first = len(v) - 2 * n - round(1.2 * RATE)
    sway = np.zeros(len(v))
    sway[first : first + n] = by * np.sin(2 * np.pi * hz * np.arange(n) / RATE)
    return paddle(trembling(v + sway))


@pytest.mark.parametrize(
    ("by", "hz", "seen", "astir"),
    [
        (1.0, 0.4, True, False),
        (9.0, 0.4, True, True),
        (9.7, 0.4, True, True),
        (10.3, 0.4, False, False),
        (15.0, 0.1, True, True),
        (17.5, 0.1, False, False),
    ],
)
def test_a_paddle_that_goes_about_where_it_is_left_is_measured_there(
    by: float, hz: float, seen: bool, astir: bool
) -> None:
    """A worn one was “not left alone in the middle”, and sound by two thirds: the likeliest of all."""
    take = swaying(by, hz)
    assert (take.turn.middle is not None) == seen
    assert ("astir" in {p.code for p in take.problems}) == astir
    if astir:
        assert take.turn.wander > by
        assert "wanders with hands off" in explain(take).advice
        first = rank(take)[0]
        assert (first.cause, first.axis) == ("worn", None)
        assert first.probability > 0.5


def test_a_paddle_too_near_a_limit_to_call_is_turned_again_before_it_is_mended() -> None:
    """“It looks sound”, and “replace the sensor parts” under it."""
    take = swaying(3.0)
    assert "too near its limit to call: wander" in explain(take).advice
    ranked = rank(take)
    assert (ranked[0].cause, ranked[0].likely) == ("sound", False)
    (look,) = looks(take, ranked, usual_routine(1, False).steps)
    assert look.steps == ("turn",)
    assert look.words.startswith("Wander at rest is too near its limit to call. A slow turn")


def test_a_paddle_that_moves_off_slowly_wanders() -> None:
    v = turned()
    drift = np.zeros(len(v))
    drift[-round(7.0 * RATE) :] = np.linspace(0.0, -16.0, round(7.0 * RATE))
    take = paddle(trembling(v + drift))
    assert take.turn is not None
    assert take.turn.wander is not None
    assert take.turn.wander > 10.0
    assert "wanders with hands off" in explain(take).advice
    assert take.uncertainty[SHORT] > take.turn.wander / 2, "and its end with it"
    assert paddle(trembling(v)).turn.wander < 0.1  # type: ignore[union-attr, operator]


def test_a_way_that_stops_for_a_rest_is_no_pass() -> None:
    """Its many samples at rest make every step on the way look like a leap: dead spans, of a sound
    one."""
    v = trembling(
        way((-98, 0.1), *((e, 2.6) for e in (98, -98, 98, -98)), (0, 1.3), (0, 7), (98, 1.3))
    )
    t = np.arange(len(v)) / RATE
    rested = [slice(round(11.9 * RATE), round(18.6 * RATE))]
    assert measure_crossing("turn", t, v, None).readings.passes == 5
    assert measure_crossing("turn", t, v, None, rested=rested).readings.passes == 4
    only = slice(round(10.5 * RATE), None)
    rest = [slice(round(1.6 * RATE), round(8.0 * RATE))]
    track = measure_crossing("turn", t[only], v[only], None, rested=rest)
    assert track.readings.passes == 1, "better than none"


@pytest.mark.parametrize(
    ("sends", "changes_only", "noise"),
    [("all", False, 1.2), ("all", False, 5.0), ("changes", True, 1.2)],
)
def test_a_single_axis_that_sends_changes_is_told_by_the_repeats_that_never_come(
    sends: str, changes_only: bool, noise: float
) -> None:
    """It trembles, and is hardly ever silent: it was called uneven, with reports that were lost."""
    raw = np.round(512 + noise * np.random.default_rng(8).standard_normal(6000))[:, None]
    t_us = np.arange(6000, dtype=np.int64) * 11_000
    kept = np.append(True, np.diff(raw[:, 0]) != 0) | (sends == "all")
    lost = np.random.default_rng(9).random(6000) < (0.2 if sends == "all" else 0.0)
    kept &= ~lost
    step = np.full(kept.sum(), STEPS.index("still"), np.int8)
    pace = pace_of(Recording(t_us[kept], raw[kept], (AxisRange(0, 1023),), step))
    assert pace is not None
    assert pace.change_only == changes_only


def test_a_comparison_shows_what_its_kind_of_stick_has() -> None:
    """Of a paddle: dead zone, returns and circularity, none of them measured, in large type."""
    noisy, quiet = paddle(trembling(turned(), 2.0)), paddle(trembling(turned()))
    comparison = compare(noisy, quiet, HERE, HERE)
    assert deciding(comparison) == ("turn.jitter", "turn.wander", "turn.track_noise_max", SHORT)
    assert not [r.path for r in comparison.rows if r.before is None and r.after is None]
    broken = turned()
    broken[(broken > 20) & (broken < 29)] = 20.0
    told = compare(paddle(trembling(broken)), quiet, HERE, HERE)
    assert "turn.dead_spans" in [r.path for r in told.telling]
    assert len(deciding(told)) == 4, "as many as there is room for"
    assert deciding(compare(lever(), lever(high=80.0), HERE, HERE)) == (
        "composite.dead_zone_needed",
        "let_go.return_spread",
        SHORT,
        "still.jitter_x",
    )


def test_the_figures_of_a_take_are_those_its_kind_of_stick_has() -> None:
    """A lever had a circularity that was not measured."""
    for take in (lever(), paddle(trembling(turned()))):
        for figures in figures_of(take, LIMIT_OF, "everyday").values():
            assert not [f.path for f in figures if take.value(f.path) is None]


def test_what_was_not_measured_gives_way_to_what_changed_the_most() -> None:
    take = lever()
    assert take.hold is not None
    sagging = replace(take, let_go=None, hold=tuple(replace(h, sag=9.0) for h in take.hold))
    decision = deciding(compare(replace(take, let_go=None), sagging, HERE, HERE))
    assert "let_go.return_spread" not in decision
    assert decision[-1] == "hold.sag"


def test_what_cannot_be_there_is_known_not_to_be() -> None:
    """Of a lever without Let-go, though, returns were not looked at: that is another thing."""
    take = lever()
    partly = replace(take, let_go=None)
    whole, part = (
        next(r.probability for r in rank(t) if r.cause == "sound") for t in (take, partly)
    )
    assert part <= 0.5 < whole


def test_a_paddle_that_falls_back_is_not_to_be_held_over() -> None:
    """It has no spring to hold it against, and no Hold."""
    take = paddle(trembling(turned()))
    falls = replace(take, joint=replace(take.joint, drops=3, drops_per_min=3.0))
    assert "in a Hold" not in explain(falls).advice
    assert "falls back" in explain(falls).advice


@pytest.mark.parametrize(("wide", "told"), [(7.9, False), (8.1, True)])
def test_a_dead_span_of_a_paddle_that_shows_once_a_hum_is_gone_is_no_worse(
    wide: float, told: bool
) -> None:
    """It trembled by 1 %, by which none of less than eight is seen."""
    take = paddle(trembling(turned()))
    hummed, calm = (
        replace(
            take,
            turn=replace(take.turn, dead_spans=spans, track_noise_median=noise),
            uncertainty={**take.uncertainty, "turn.dead_spans": 0.2},
        )
        for spans, noise in (((), 1.0), ((DeadSpan(20.0, 20.0 + wide, 4),), 0.1))
    )
    row = compare(hummed, calm, HERE, HERE).row("turn.dead_spans")
    assert row.verdict == ("worse" if told else "not-comparable")
