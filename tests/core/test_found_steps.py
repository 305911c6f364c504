"""A table without step names may hold anything: what is no step is taken for none."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.signal import lfilter

from hollow_pin.core.recording import NO_STEP, AxisRange, Floats, Recording
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.tracking.find_steps import find_steps
from hollow_pin.core.tracking.segments import Segment, find_segments

RATE = 100


def at(x: float, y: float, seconds: float) -> Floats:
    return np.full((round(seconds * RATE), 2), (x, y))


def straight(near: float, far: float, seconds: float) -> Floats:
    out = np.linspace(near, far, round(seconds * RATE))
    return np.column_stack((np.zeros_like(out), out))


def turning(degrees: float, seconds: float) -> Floats:
    way = np.radians(np.linspace(0.0, degrees, round(seconds * RATE)))
    return 95.0 * np.column_stack((np.sin(way), np.cos(way)))


def _by(degrees: float) -> Floats:
    a = np.radians(degrees)
    return np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])


def segments(*parts: Floats) -> list[Segment]:
    u = np.vstack([at(0, 0, 2.0), *parts, at(0, 0, 2.0)])
    return [s for s in find_segments(np.arange(len(u)) / RATE, u) if s.step != "still"]


def played(seed: int, rate: float = 250.0) -> Recording:
    """A minute and a half of a game on a sound stick: aimed, flicked, led about, held and let go."""
    chance = np.random.default_rng(seed)
    n = 90_000
    aim = np.zeros((n, 2))
    rest = chance.normal(0, 0.4, 2)
    done = 0
    while done < n:
        lasts = chance.choice([chance.uniform(*r) for r in ((80, 300), (300, 1500), (1500, 4000))])
        stop = min(n, done + int(lasts))
        toward = chance.uniform(0, 2 * np.pi)
        way = np.array([np.cos(toward), np.sin(toward)])
        does = chance.choice(["go", "edge", "half", "led", "round"], p=[0.3, 0.25, 0.2, 0.15, 0.1])
        if does == "go":
            aim[done:stop] = rest
        elif does == "edge":
            aim[done:stop] = 100 * way
        elif does == "half":
            aim[done:stop] = chance.uniform(20, 90) * way
        elif does == "led":
            aim[done:stop] = np.linspace(aim[done - 1], chance.uniform(-90, 90, 2), stop - done)
        else:
            turn = toward + np.arange(stop - done) * 2e-3 * np.pi * chance.uniform(0.5, 1.5)
            aim[done:stop] = 100 * np.column_stack((np.cos(turn), np.sin(turn)))
        done = stop
    for tau in (25.0, 15.0):
        aim = lfilter([1 / tau], [1, 1 / tau - 1], aim, axis=0)
    taken = np.arange(0, n, 1000 / rate).astype(int)
    seen = aim[taken] + chance.normal(0, 0.05, (len(taken), 2))
    raw = np.clip(np.round((seen / 100 + 1) / 2 * 4095), 0, 4095)
    no_step = np.full(len(taken), NO_STEP, np.int8)
    return Recording(taken * 1000, raw, (AxisRange(0, 4095),) * 2, no_step)


@pytest.mark.parametrize("axes", [1, 2])
def test_a_game_is_no_routine(axes: int) -> None:
    """Of forty such tables of sound sticks every one had steps in it, and half of them a track that
    fails or a bind: modules were to be replaced for being played with."""
    routine = usual_routine(axes, sprung=True)
    games = [played(seed) for seed in range(1, 13)]
    cut = [replace(r, raw=r.raw[:, :axes], ranges=r.ranges[:axes]) for r in games]
    has_steps = [(find_steps(r, routine).step != NO_STEP).any() for r in cut]
    assert sum(has_steps) <= 2


def toward(degrees: float, far: float, seconds: float) -> Floats:
    return at(far * np.sin(np.radians(degrees)), far * np.cos(np.radians(degrees)), seconds)


@pytest.mark.parametrize(
    ("askew", "far", "step"),
    [(0, 95, ["hold"]), (13, 95, ["hold"]), (17, 95, []), (0, 86, ["hold"]), (0, 84, [])],
)
def test_sides_that_are_held_one_after_another_are_one_hold(
    askew: float, far: float, step: list[str]
) -> None:
    """Who does not let go in between; a game is held anywhere."""
    held = [toward(d, 95, 2.5) for d in (0, 90, 180)]
    found = segments(*held, toward(270 + askew, far, 2.5))
    assert [s.step for s in found] == step


@pytest.mark.parametrize(("led_s", "step"), [(1.3, ["hold"]), (1.6, [])])
def test_who_crosses_slowly_and_stays_at_the_ends_has_not_held_them(
    led_s: float, step: list[str]
) -> None:
    led = np.column_stack(
        (np.linspace(-95, 95, round(led_s * RATE)), np.zeros(round(led_s * RATE)))
    )
    found = segments(at(-95, 0, 2.5), led, at(95, 0, 2.5))
    assert [s.step for s in found] == step


@pytest.mark.parametrize(("stays_s", "step"), [(2.6, ["hold"]), (1.4, [])])
def test_a_hold_stays_where_it_is_for_half_of_its_time(stays_s: float, step: list[str]) -> None:
    """What is led in and out is no track that falls back."""
    led = straight(92, 45, (4.0 - stays_s) / 2), straight(45, 92, (4.0 - stays_s) / 2)
    pushed = straight(0, 92, 0.1), at(0, 92, stays_s), *led, straight(92, 0, 0.1)
    assert [s.step for s in segments(*pushed)] == step


@pytest.mark.parametrize(("sags", "step"), [(36.0, ["hold"]), (44.0, [])])
def test_a_hold_may_fall_back_a_little(sags: float, step: list[str]) -> None:
    """Within a tenth of where it usually is: that it falls back is what a Hold is looked at for."""
    pushed = straight(0, 95, 0.1), straight(95, 95 - sags, 4.0), straight(95 - sags, 0, 0.1)
    assert [s.step for s in segments(*pushed)] == step


@pytest.mark.parametrize(("around_s", "step"), [(2.4, ["rim"]), (1.6, [])])
def test_a_rim_goes_round_for_half_of_its_time(around_s: float, step: list[str]) -> None:
    """A turn on the way elsewhere is no lap."""
    there_and_back = [turning(-120, 0.5), turning(-120, 0.5)[::-1]] * 2
    lap = turning(360, around_s)
    done = straight(0, 95, 0.1), lap, *there_and_back, straight(95, 0, 0.1)
    assert [s.step for s in segments(*done)] == step


@pytest.mark.parametrize(("lost", "step"), [(60.0, ["rim"]), (130.0, [])])
def test_what_a_link_loses_of_a_lap_is_no_end_of_it(lost: float, step: list[str]) -> None:
    """A fifth of a second of a swift lap is a sector of it."""
    before, after = turning(200, 1.0), turning(400, 2.0)[round((200 + lost) / 2) :]
    done = straight(0, 95, 0.1), before, after, straight(95, 0, 0.1)
    assert [s.step for s in segments(*done)] == step


def test_what_goes_through_the_middle_goes_round_nothing() -> None:
    """In at one bearing, and out again at another."""
    done: list[Floats] = []
    for quarter in range(0, 720, 80):
        way = turning(40, 0.4) @ _by(quarter)
        done += [np.linspace((0, 0), way[0], 40), way, np.linspace(way[-1], (0, 0), 40)]
    assert segments(*done) == []


@pytest.mark.parametrize(("waits_s", "step"), [(1.2, ["crossing-x"]), (1.9, [])])
def test_a_crossing_is_on_its_way_for_two_fifths_of_its_time(
    waits_s: float, step: list[str]
) -> None:
    """To lie at one end and then at the other is no crossing, however far apart they are."""
    across = straight(-90, 90, 1.5), at(0, 90, waits_s), straight(90, -90, 1.5), at(0, -90, waits_s)
    done = straight(0, -90, 0.2), at(0, -90, 0.2), *across, straight(-90, 0, 0.2)
    assert [s.step for s in segments(*(p[:, ::-1] for p in done))] == step


@pytest.mark.parametrize(("back_s", "step"), [(0.7, ["crossing-x"]), (1.4, [])])
def test_a_crossing_goes_straight_across(back_s: float, step: list[str]) -> None:
    """For three quarters of its time it goes there: what goes to and fro is being steered."""
    there = straight(-90, 0, 1.5), straight(0, -40, back_s), straight(-40, 90, 1.5)
    end = at(0, -90, 0.2)
    done = (
        straight(0, -90, 0.2),
        end,
        *there,
        at(0, 90, 0.2),
        *(p[::-1] for p in reversed(there)),
        end,
    )
    parts = *(p[:, ::-1] for p in done), straight(-90, 0, 0.2)[:, ::-1]
    assert [s.step for s in segments(*parts)] == step


@pytest.mark.parametrize(
    ("times", "strays_s", "steps"), [(4, 5.6, 16), (4, 9.2, 0), (1, 4.0, 4), (1, 6.0, 0)]
)
def test_most_of_what_is_done_is_a_step(times: int, strays_s: float, steps: int) -> None:
    """Half of it may be something else, and five seconds: somebody warms up, or is late to begin."""
    push = (straight(0, 95, 0.1), at(0, 95, 0.4), straight(95, 0, 0.1), at(0, 0, 1.5))
    there_and_back = [turning(120, strays_s / 4), turning(120, strays_s / 4)[::-1]] * 2
    strayed = straight(0, 95, 0.1), *there_and_back, straight(95, 0, 0.1), at(0, 0, 1.5)
    assert sum(s.parts for s in segments(*push * 4 * times, *strayed)) == steps
