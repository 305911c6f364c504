"""A hand that errs: what it does once, or at the wrong time, is no fault of the stick's."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.causes import SOUND
from hollow_pin.core.comparable import OF_STILL, TOUCHED
from hollow_pin.core.comparison import compare
from hollow_pin.core.hold import Hold, sags_most
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.let_go import settle_by_direction
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.next_look import HELD_AGAIN, STILL_AGAIN, looks
from hollow_pin.core.ranking import THE_STICK, rank, touched_in_still
from hollow_pin.core.readings import TakeReadings, as_if_the_hand_gave_way
from hollow_pin.core.recording import STEPS, Floats, Recording
from hollow_pin.core.release import Release
from hollow_pin.core.routine import STANDARD
from hollow_pin.core.spikes import Spike
from hollow_pin.core.statistics import seconds_of
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import measure_take
from hollow_pin.core.untouched import (
    AFTER_PUSH_S,
    BEFORE_PUSH_S,
    SHORTEST_S,
    TOUCH_BLOCK_S,
    between_hands,
    left_alone,
    touches,
)
from sticks import HERE, held_slackly, performed, readings_of, transformed

RATE = 250.0
STILL, LET_GO = STEPS.index("still"), STEPS.index("let-go")


def push(
    out_s: float = 0.2, stay_s: float = 0.4, far: float = 95.0, pause_s: float = 1.5
) -> Floats:
    """Out to the edge, there for a while, let go and at rest: positions (n,), %."""
    out = np.linspace(0, far, max(1, round(out_s * RATE)))
    stay, pause = (round(s * RATE) for s in (stay_s, pause_s))
    return np.concatenate((out, np.full(stay, far), far / 2 ** np.arange(1, 6), np.zeros(pause)))


def alone(x: Floats) -> tuple[float, float]:
    """From when to when a Still of an x that moved so is read, seconds."""
    t = np.arange(len(x)) / RATE
    part = left_alone(t, np.column_stack((x, np.zeros(len(x)))))
    return float(t[part.start]), float(t[part.stop - 1])


def test_a_still_that_was_begun_or_ended_late_is_read_where_it_was_left_alone() -> None:
    """A key pressed a moment late: a sound stick wandered with hands off, and its module was to go."""
    rest = np.zeros(2000)
    pushed = 0.2 + 0.4 + 5 / RATE
    assert alone(np.concatenate((push()[50:], rest)))[0] == pytest.approx(
        pushed - 0.2 + AFTER_PUSH_S, abs=0.05
    )
    assert alone(np.concatenate((rest, push()))) == pytest.approx(
        (0.0, 8.0 - BEFORE_PUSH_S), abs=0.1
    )
    on_its_way = np.concatenate((rest, np.linspace(0, 45, 50)))
    assert alone(on_its_way)[1] == pytest.approx(8.0 + 0.2 * 20 / 45 - BEFORE_PUSH_S, abs=0.05)


@pytest.mark.parametrize(
    ("rate", "way", "cut"),
    [
        (1000.0, np.linspace(21, 59, 10), False),
        (1000.0, np.linspace(21, 59, 13), True),
        (60.0, np.empty(0), False),
        (60.0, np.array([40.0]), True),
    ],
    ids=["11 ms", "14 ms", "unseen", "seen"],
)
def test_what_goes_out_sooner_than_a_hand_is_not_left_out(
    rate: float, way: Floats, cut: bool
) -> None:
    """A contact that jumps to an end with hands off is what was asked for."""
    there, rest = np.full(round(0.5 * rate), 95.0), np.zeros(round(8 * rate))
    x = np.concatenate((rest, way, there, np.zeros(round(1.5 * rate))))
    part = left_alone(np.arange(len(x)) / rate, x[:, None])
    assert (part.stop / rate < 8.0) == cut


def test_what_goes_out_less_than_a_push_and_comes_back_stays_in() -> None:
    for far, cut in ((59.0, False), (61.0, True)):
        assert (alone(np.concatenate((np.zeros(2000), push(far=far))))[1] < 8.0) == cut


@pytest.mark.parametrize(("stays_s", "cut"), [(0.4, True), (0.7, False)])
def test_a_rest_that_is_another_from_some_time_on_is_no_push(stays_s: float, cut: bool) -> None:
    """It lay 30 % off for the last seconds: that is what a failing contact does, and what is asked."""
    x = np.concatenate((np.zeros(2000), np.full(round(stays_s * RATE), 30.0)))
    assert (alone(x)[1] < 8.0) == cut


def test_a_still_of_which_too_little_is_left_is_read_whole() -> None:
    for quiet_s, cut in ((SHORTEST_S + BEFORE_PUSH_S + 0.1, True), (SHORTEST_S + 0.3, False)):
        x = np.concatenate((np.zeros(round(quiet_s * RATE)), push(pause_s=2.0)))
        assert (alone(x)[1] < quiet_s) == cut


def leaves(far: float, in_s: float, rest_s: float = 9.0) -> Floats:
    """A stick that a hand lets sink to its rest and leaves: positions (n,), %, with its trembling."""
    way = far * (0.5 + 0.5 * np.cos(np.pi * np.arange(round(in_s * RATE)) / round(in_s * RATE)))
    x = np.concatenate((way, np.zeros(round(rest_s * RATE))))
    return np.asarray(x + np.random.default_rng(4).normal(0, 0.05, len(x)))


def free_of_hands(x: Floats) -> tuple[float, float]:
    """How much of a Still that moved so is a hand's, seconds, at its beginning and its end."""
    t = np.arange(len(x)) / RATE
    part = between_hands(t, np.column_stack((x, np.zeros(len(x)))))
    return part.start / RATE, (len(x) - part.stop) / RATE


@pytest.mark.parametrize("turned", [1, -1])
def test_what_a_hand_does_as_still_begins_or_ends_is_no_part_of_it(turned: int) -> None:
    """Of two takes of one stick the second was better, by how the hand had left it in the first."""
    for far, in_s, left_out in ((4.0, 0.25, True), (0.2, 0.25, False), (4.0, 0.7, True)):
        began, ended = free_of_hands(leaves(far, in_s)[::turned])[::turned]
        assert ended == 0.0
        assert (in_s * 0.6 < began < in_s + 0.1) == left_out, far
        assert (began == 0.0) != left_out, far


def test_a_hand_that_leaves_is_told_by_where_the_stick_lies_then() -> None:
    """A long Still in which the rest is another later on begins with a hand all the same; and nothing
    of how it left is read."""
    x = leaves(2.0, 0.25, 40.0)
    x[len(x) // 3 :] += 2.0
    assert free_of_hands(x)[0] > 0.2
    for in_s in (0.1, 0.18, 0.26, 0.34):
        x = leaves(3.0, in_s)
        assert np.abs(x[round(free_of_hands(x)[0] * RATE) :]).max() < 0.3, in_s


def test_what_takes_longer_than_a_hand_to_come_to_rest_is_the_sticks() -> None:
    """A slow return is what is looked for."""
    assert free_of_hands(leaves(4.0, 0.86))[0] > 0.7
    assert free_of_hands(leaves(4.0, 0.97)) == (0.0, 0.0)


@pytest.mark.parametrize(("off", "left_out"), [(0.28, False), (0.32, True)])
def test_what_lies_off_by_three_tenths_of_a_per_cent_a_hand_has(off: float, left_out: bool) -> None:
    x = np.where(np.arange(2500) < round(0.3 * RATE), off, 0.0)
    assert (free_of_hands(x)[0] > 0.0) == left_out


def test_a_rest_that_lies_about_begins_wherever_it_lies() -> None:
    """What wanders is not a hand that leaves: its first moments count as all the others do."""
    wanders = np.repeat(np.tile((0.0, 0.4, -0.4, 0.2, -0.2), 8), round(0.25 * RATE))
    usually = 6.0 * 1.4826 * 0.2
    for off, left_out in ((0.95 * usually, False), (1.05 * usually, True)):
        x = wanders.copy()
        x[: round(0.25 * RATE)] = off
        assert (free_of_hands(x)[0] > 0.0) == left_out, off


@pytest.mark.parametrize(
    ("rest_s", "left_out"), [(SHORTEST_S + 0.2, True), (SHORTEST_S - 0.1, False)]
)
def test_a_still_that_would_be_too_short_without_a_hand_is_read_whole(
    rest_s: float, left_out: bool
) -> None:
    assert (free_of_hands(leaves(4.0, 0.25, rest_s))[0] > 0.0) == left_out


def test_how_the_hand_left_it_changes_nothing_of_a_stick() -> None:
    usual, recording = readings_of("sound").still, performed("sound").recording
    u, still = recording.u.copy(), recording.attempts("still")[-1]
    for way in (slice(still.start, still.start + 60), slice(still.stop - 1, still.stop - 61, -1)):
        u[way, 0] += leaves(4.0, 60 / RATE, 0.0)
    took = measure_take(transformed(recording, u)).still
    assert usual is not None
    assert took is not None
    assert took.noise_reach == pytest.approx(usual.noise_reach, rel=0.1)
    assert took.spike == usual.spike


def test_samples_that_are_too_few_for_a_still_are_left_to_who_refuses_them() -> None:
    for t in (np.empty(0), np.zeros(1), np.array([0.0, 11.0])):
        assert between_hands(t, np.zeros((len(t), 2))) == slice(0, len(t))


def ended_late(by_s: float) -> Recording:
    """A take of a sound stick whose Still was ended so much late."""
    recording = performed("sound").recording
    step = recording.step.copy()
    first = int(np.flatnonzero(step == LET_GO)[0])
    step[np.flatnonzero(step == STILL)[0] : first + round(by_s * RATE)] = STILL
    return replace(recording, step=step)


def test_a_sound_stick_is_sound_though_a_key_was_pressed_late() -> None:
    took = measure_take(ended_late(1.0))
    assert explain(took).advice.startswith("Every reading taken is within its limit")
    (problems,) = [p for p in took.problems if p.code == "pushed"]
    assert "left alone" in problems.message
    assert took.still is not None
    usual = readings_of("sound").still
    assert usual is not None
    assert took.still.noise_reach == pytest.approx(usual.noise_reach, rel=0.2)
    assert not [p for p in measure_take(ended_late(0.0)).problems if p.code == "pushed"]


def test_a_module_does_not_go_for_a_still_in_which_it_was_touched() -> None:
    """In the middle of it, so that too little is left on either side."""
    recording = performed("sound").recording
    u = recording.u.copy()
    still = recording.attempts("still")[-1]
    middle = (still.start + still.stop) // 2
    x = push(far=40.0, pause_s=0.0)
    u[middle : middle + len(x), 0] += x
    took = measure_take(transformed(recording, u))
    assert explain(took).advice.startswith(
        "It moved in Still, as far as by a touch: take Still again"
    )
    unsaid = replace(took, problems=tuple(p for p in took.problems if p.code != "moved"))
    assert explain(unsaid).advice.startswith("It wanders with hands off")


def touched(*touches: tuple[float, float, float], still_s: float = 10.0) -> tuple[Floats, Floats]:
    """Times and positions of a calm Still with touches in it: when, for how long, how far."""
    t = np.arange(0, still_s, 1 / RATE)
    u = np.random.default_rng(3).normal(0, 0.05, (len(t), 2)) + np.array((1.2, -0.4))
    for at_s, lasts_s, far in touches:
        lies = np.clip((t - at_s) / lasts_s, 0, 1)
        u += np.outer(far * np.sin(np.pi * lies) ** 2, (0.8, 0.6))
    return t, u


@pytest.mark.parametrize(
    ("moves", "told"),
    [
        ([(3.0, 1.0, 2.7)], 1),
        ([(3.0, 1.0, 2.3)], 0),
        ([(2.0, 1.0, 6.0), (6.0, 0.6, 12.0)], 2),
        ([(2.0, 0.5, 6.0), (4.0, 0.5, 6.0), (6.0, 0.5, 6.0)], 0),
        ([(2.0, 4.4, 9.0)], 1),
        ([(2.0, 4.9, 9.0)], 0),
        ([(0.0, 2.0, 9.0)], 1),
        ([(-0.5, 1.0, 9.0)], 0),
        ([(9.5, 1.0, 9.0)], 0),
        ([], 0),
    ],
)
def test_what_goes_out_and_comes_back_seldom_is_a_touch_and_what_does_oftener_wanders(
    moves: list[tuple[float, float, float]], told: int
) -> None:
    """Oftener, longer, or as it began or ended: a contact that wanders is never taken for a hand."""
    assert len(touches(*touched(*moves))) == told


def test_what_jumps_out_and_back_is_no_touch() -> None:
    """A contact that comes and goes does it at once; of slow reports nobody can tell."""
    t, u = touched()
    away = (t >= 4.0) & (t < 5.0)
    assert touches(t, u + np.outer(np.where(away, 9.0, 0.0), (0.8, 0.6))) == []
    seldom = slice(None, None, 4)
    assert (
        len(touches(t[seldom], (u + np.outer(np.where(away, 9.0, 0.0), (0.8, 0.6)))[seldom])) == 1
    )
    for out_s, told in ((0.024, 1), (0.008, 0)):
        way = np.clip(np.minimum((t - 4.0) / out_s, (5.0 - t) / 0.05), 0, 1)
        assert len(touches(t, u + np.outer(9.0 * way, (0.8, 0.6)))) == told, out_s
        way = np.clip(np.minimum((t - 4.0) / 0.05, (5.0 - t) / out_s), 0, 1)
        assert len(touches(t, u + np.outer(9.0 * way, (0.8, 0.6)))) == told, f"back in {out_s}"


@pytest.mark.parametrize(("far", "told"), [(3.8, 1), (3.0, 0)])
def test_a_touch_goes_eight_times_as_far_as_the_rest_lies_about(far: float, told: int) -> None:
    """Of a rest that swings by 0.4 %, and lies 0.28 % off its middle as a rule."""
    t, u = touched((4.0, 1.0, far))
    swing = 0.4 * np.sin(2 * np.pi * t / 0.9)
    assert len(touches(t, u + np.outer(swing, (0.6, -0.8)))) == told


def test_a_rest_that_lies_about_hides_a_touch_as_small_as_itself() -> None:
    t, u = touched((4.0, 1.0, 6.0))
    assert len(touches(t, u[:, :1])) == 1, "of one axis as well"
    strolling = np.cumsum(np.random.default_rng(5).normal(0, 0.06, len(t)))
    assert len(touches(t, u)) == 1
    assert touches(t, u + np.outer(strolling, (1.0, 0.0))) == []


@pytest.mark.parametrize(("heard", "told"), [(13, 1), (12, 0)])
def test_a_tenth_of_a_second_of_which_half_was_not_heard_is_no_touch(heard: int, told: int) -> None:
    """Two samples of a hum in a gap of the link lay as far off as by a hand, and Still was to be taken
    again."""
    t, u = touched()
    first, stop = seconds_of(t, TOUCH_BLOCK_S)[0][40:42]
    keep = np.ones(len(t), bool)
    keep[first:stop] = False
    keep[first + 6 : first + 6 + heard] = True
    u[first:stop] += 5.0 * np.array((0.8, 0.6))
    assert len(touches(t[keep], u[keep])) == told


@pytest.fixture(scope="module")
def touched_once() -> TakeReadings:
    """A sound take, but that a hand touched the stick for 2.5 s of Still, by 15 %."""
    recording = performed("sound").recording
    u = recording.u.copy()
    still = recording.attempts("still")[-1]
    n, first = round(2.5 * RATE), still.start + round(3 * RATE)
    way = np.clip(np.minimum(np.arange(n), n - 1 - np.arange(n)) / 60, 0, 1)
    u[first : first + n] += np.outer(15.0 * way, (0.8, 0.6))
    return measure_take(transformed(recording, u))


def test_a_touch_in_still_asks_for_another_still_and_for_no_module(
    touched_once: TakeReadings,
) -> None:
    """“It wanders with hands off: replace the module”, and 100 % for the supply."""
    meaning = explain(touched_once)
    assert meaning.advice.startswith("It moved in Still, as far as by a touch: take Still again")
    assert (meaning.try_first, meaning.asks) == ("measure", "again")
    ranked = rank(touched_once)
    assert max(c.probability for c in ranked) < 0.5, "nothing is likely yet, nor that it is sound"
    assert ranked[0].cause == "sound"
    assert looks(touched_once, ranked, STANDARD.steps) == (STILL_AGAIN,)
    assert STILL_AGAIN not in looks(touched_once, ranked, ("rim",))
    span = touched_once.spans["still"]
    redone = replace(touched_once, spans={**touched_once.spans, "still": replace(span, attempts=2)})
    assert explain(redone).advice.startswith("It wanders with hands off")
    assert STILL_AGAIN not in looks(redone, rank(redone), STANDARD.steps)


@pytest.mark.parametrize(("spikes", "said"), [(4, "It moved in Still"), (5, "Spikes with hands")])
def test_a_touch_is_no_excuse_for_a_track_that_spikes_all_the_time(
    touched_once: TakeReadings, spikes: int, said: str
) -> None:
    assert touched_once.still is not None
    some = tuple(Spike(float(i), "x", 6.0) for i in range(spikes))
    still = replace(touched_once.still, spike=some, spike_height=6.0, spikes_per_min_x=6.0 * spikes)
    known = {**touched_once.uncertainty, "still.spikes_per_min_x": 0.5}
    spiky = replace(touched_once, still=still, uncertainty=known)
    assert explain(spiky).advice.startswith(said)
    spoken = {e.reading for c in rank(spiky) for e in c.evidence}
    assert ("still.spikes_per_min_x" in spoken) == (spikes > 4)


def test_a_touch_that_takes_nothing_to_its_limit_costs_a_sound_lever_nothing(
    touched_once: TakeReadings,
) -> None:
    """Of one axis, where there is no y to be within its limit."""
    assert touched_once.still is not None
    calm = replace(touched_once.still, wander=0.5, jitter_x=0.1, jitter_y=None)
    known = {**touched_once.uncertainty, "still.wander": 0.1, "still.jitter_x": 0.01}
    calm = replace(calm, spike=(), spikes_per_min_x=0.0)
    lever = replace(touched_once, still=calm, uncertainty=known)
    assert not touched_in_still(JudgedTake(lever, "everyday", LIMIT_OF))
    trembling = replace(lever, still=replace(calm, jitter_x=0.9))
    assert touched_in_still(JudgedTake(trembling, "everyday", LIMIT_OF))


def test_a_touch_makes_a_stick_neither_worse_nor_cured(touched_once: TakeReadings) -> None:
    """“Worse”, of a sound stick that was measured before and after; and “better”, the other way."""

    def again(condition: str) -> TakeReadings:
        recording = performed(condition).recording
        return measure_take(transformed(recording, recording.u))

    sound, worn = again("sound"), again("worn")
    for before, after in ((sound, touched_once), (touched_once, sound)):
        comparison = compare(before, after, HERE, HERE)
        assert comparison.overall == "missing"
        for row in comparison.rows:
            of_still = row.path.startswith(OF_STILL)
            assert ((row.why or "").startswith(TOUCHED)) == (of_still and row.u_before is not None)
    assert comparison.row("still.rest_x").verdict == "no-change"  # type: ignore[union-attr]
    meaning = explain_comparison(compare(sound, touched_once, HERE, HERE), touched_once, "left")
    assert meaning.endswith("It moved in Still, as far as by a touch: take Still again, hands off.")
    meaning = explain_comparison(compare(touched_once, sound, HERE, HERE), sound, "left")
    assert meaning.endswith("What it needed before is not known: it moved in Still, as by a touch.")
    cured = compare(worn, touched_once, HERE, HERE)
    assert cured.overall == "better", "by its returns"


def test_a_touch_that_takes_nothing_over_its_limit_is_said_where_it_is_near_it() -> None:
    recording = performed("sound").recording
    u = recording.u.copy()
    still = recording.attempts("still")[-1]
    first, n = still.start + round(3 * RATE), round(RATE)
    u[first : first + n] += np.outer(5.0 * np.sin(np.pi * np.arange(n) / n) ** 2, (0.8, 0.6))
    advice = explain(measure_take(transformed(recording, u))).advice
    assert advice.startswith("Nothing is over its limit; too near its limit to call: wander.")
    assert advice.endswith("as far as by a touch: take Still again, hands off.")


# Hold


def hold(bearing: float, sag: float, t_s: float = 0.0) -> Hold:
    return Hold(t_s, t_s + 3.0, bearing, 95.0, sag, 0.2, 0)


def test_of_two_holds_toward_the_same_side_the_one_that_falls_back_less_counts() -> None:
    """A hand that gave way once is no track that fails; one that does each time is."""
    assert sags_most([hold(90, 9.0), hold(95, 0.3), hold(270, 0.5)]).sag == 0.5
    assert sags_most([hold(90, 9.0), hold(95, 7.0), hold(270, 0.5)]).sag == 7.0
    assert sags_most([hold(90, 9.0), hold(270, 0.5)]).sag == 9.0


@pytest.fixture(scope="module")
def sagging() -> TakeReadings:
    """A sound take, but for one hold that fell back by 9 %."""
    return measure_take(held_slackly("sound"))


def test_what_fell_back_once_is_to_be_held_again_before_a_module_goes(
    sagging: TakeReadings,
) -> None:
    assert sagging.hold is not None
    once = explain(sagging).advice
    assert once.startswith("It falls back while it is held at the edge. Hold it there again")
    span = sagging.spans["hold"]
    redone = replace(sagging, spans={**sagging.spans, "hold": replace(span, attempts=2)})
    assert explain(redone).advice.endswith("the track fails there. Replace the module.")
    worst = sags_most(sagging.hold)
    twice = replace(sagging, hold=(*sagging.hold, replace(worst, sag=worst.sag + 1)))
    assert explain(twice).advice.endswith("the track fails there. Replace the module.")
    cleared = replace(sagging, hold=(*sagging.hold, replace(worst, sag=0.1)))
    assert explain(cleared).advice.startswith("Every reading taken is within its limit")


def test_a_hand_that_gave_way_after_a_repair_makes_it_no_worse(sagging: TakeReadings) -> None:
    """Nor no better: a cure is told by what else it mended, and what fell back is to be held again.
    Held again it is worse; and a track that failed before and holds now is cured."""
    recordings = [performed(c).recording for c in ("sound", "worn")]
    sound, worn = (measure_take(transformed(r, r.u)) for r in recordings)
    again = "It fell back once while it was held: hold it there again, pressed firmly."
    assert sound.let_go is not None
    apart = replace(sound.let_go, return_spread=sound.let_go.return_spread + 0.3)
    sure = {"let_go.return_spread": 0.01}
    before = replace(sound, uncertainty=sound.uncertainty | sure)
    changed = replace(before, let_go=apart)
    assert compare(before, changed, HERE, HERE).overall == "little"
    slack = replace(changed, hold=sagging.hold)
    assert compare(before, slack, HERE, HERE).overall == "missing", "and no little change"
    comparison = compare(sound, sagging, HERE, HERE)
    assert (comparison.overall, comparison.row("hold.sag").verdict) == ("missing", "not-comparable")  # type: ignore[union-attr]
    assert explain_comparison(comparison, sagging, "left").endswith(again)
    mended = compare(worn, sagging, HERE, HERE)
    assert mended.overall == "better"
    assert explain_comparison(mended, sagging, "left").endswith(again)
    span = sagging.spans["hold"]
    redone = replace(sagging, spans={**sagging.spans, "hold": replace(span, attempts=2)})
    assert compare(sound, redone, HERE, HERE).overall == "worse"
    assert sagging.hold is not None
    twice = replace(sagging, hold=tuple(replace(h, sag=9.0) for h in sagging.hold))
    assert compare(sound, twice, HERE, HERE).overall == "worse", "toward every side"
    cured = compare(sagging, sound, HERE, HERE)
    assert cured.overall == "better"
    assert again not in explain_comparison(cured, sound, "left")


def test_what_would_decide_is_to_hold_it_there_again(sagging: TakeReadings) -> None:
    """A module was to go for a hand that gave way: 99 %, and nothing to try first."""
    first = looks(sagging, rank(sagging), STANDARD.steps)[0]
    assert (first.steps, first.words[:13]) == (("hold",), "Hold it again")
    assert HELD_AGAIN not in looks(sagging, rank(sagging), ("still", "rim"))
    span = sagging.spans["hold"]
    redone = replace(sagging, spans={**sagging.spans, "hold": replace(span, attempts=2)})
    assert HELD_AGAIN not in looks(redone, rank(redone), STANDARD.steps)
    sound = readings_of("sound")
    assert HELD_AGAIN not in looks(sound, rank(sound), STANDARD.steps)
    for chance, told in ((0.26, True), (0.24, False)):
        causes = [
            replace(c, probability=chance) if c.cause == "failing-track" else c
            for c in rank(sagging)
        ]
        assert (HELD_AGAIN in looks(sagging, causes, STANDARD.steps)) == told


def test_what_fell_back_once_is_the_track_or_the_hand_until_it_is_held_again(
    sagging: TakeReadings,
) -> None:
    """Decide said 99 % for a failing track after one slack hold. Held again it is as sure as before;
    and what a take shows besides is not doubted for it."""
    assert sagging.hold is not None
    span = sagging.spans["hold"]
    redone = replace(sagging, spans={**sagging.spans, "hold": replace(span, attempts=2)})
    once, again = rank(sagging), rank(redone)
    by_hand = rank(as_if_the_hand_gave_way(redone))
    assert again[0].cause == "failing-track"
    assert again[0].probability > 0.9
    assert once[0].cause == "failing-track", "it comes first all the same"
    assert once[0].probability < 0.65, "and is far from sure"
    chance = {c.cause: c.probability for c in by_hand}
    for cause, sure in ((c.cause, c.probability) for c in again):
        (causes,) = [c for c in once if c.cause == cause]
        expected = THE_STICK * sure + (1 - THE_STICK) * chance[cause]
        if cause != SOUND:
            assert causes.probability == pytest.approx(expected)
        assert list(causes.evidence) == sorted(causes.evidence, key=lambda e: -abs(e.weight))
        for spoken in causes.evidence:
            assert spoken.speaks_for == (spoken.weight > 0)
    assert chance["sound"] > 0.8
    # Two that fell back toward two sides: of the one that did most it is asked alone.
    worst = sags_most(sagging.hold)
    other = next(h for h in sagging.hold if h is not worst)
    both = replace(
        sagging,
        hold=tuple(replace(h, sag=6.0) if h is other else h for h in sagging.hold),
    )
    by_hand_both = as_if_the_hand_gave_way(both)
    expected = [6.0 if h is worst else h.sag for h in both.hold]
    assert [h.sag for h in by_hand_both.hold] == expected, (
        "no farther than the next, the others as ever"
    )
    alone = replace(sagging, hold=(worst,))
    assert as_if_the_hand_gave_way(alone).hold[0].sag == 0.0


# Let-go


def release(bearing: float, settle_ms: float) -> Release:
    return Release(0.0, 1.0, bearing, 0.0, 0.0, settle_ms, 0.0)


def test_a_thumb_that_rides_along_once_makes_no_slow_return() -> None:
    """Of two releases the quicker, of three the middle, of four the quicker middle one; a stick that
    is slow toward one side is slow there both times."""
    took = settle_by_direction(
        [release(0, 30), release(2, 400), release(90, 310), release(92, 290)]
    )
    assert took.tolist() == [30, 290]
    of_three = settle_by_direction([release(0, s) for s in (400, 30, 200)])
    of_four = settle_by_direction([release(0, s) for s in (400, 30, 200, 300)])
    assert (of_three.tolist(), of_four.tolist()) == ([200], [200])
    assert settle_by_direction([release(180, 55)]).tolist() == [55]
