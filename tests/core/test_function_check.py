"""A button that is called dead, stuck or bouncing is opened up for it: the call must be right."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.function_check import (
    EIGHTH,
    NEAR_A_WAY,
    ControlEvents,
    Expected,
    FunctionCheck,
    Item,
    axes_to_follow,
    compared,
    difference,
    judge_functions,
)
from hollow_pin.simulator.contacts import Contacts, at_first, press, pull

Event = tuple[float, str, int, float]


def heard(events: list[Event]) -> ControlEvents:
    ordered = sorted(events, key=lambda e: e[0])
    return ControlEvents(
        np.array([e[0] for e in ordered]) / 1e3,
        np.array([e[1] == "axis" for e in ordered]),
        np.array([e[2] for e in ordered]),
        np.array([e[3] for e in ordered]),
    )


def read(events: list[Event], buttons: int = 3, triggers: tuple[int, ...] = (), **more: object):
    last = max((e[0] for e in events), default=0.0) / 1e3
    return judge_functions(heard(events), buttons, triggers, (), {}, last, **more)  # type: ignore[arg-type]


def pressed_through(contacts: Contacts) -> FunctionCheck:
    """Somebody goes over all of it, one control after the other."""
    events = at_first(contacts)
    at = 500.0
    for button in range(1, contacts.buttons + 1):
        events += press(contacts, button, at, seed=button)
        at += 700
    for axis in contacts.triggers:
        events += pull(contacts, axis, at)
        at += 1500
    events.append((at + 1000, "button", 0, 0.0))
    return read(events, contacts.buttons, contacts.triggers, complete=True)


def test_one_dead_one_stuck_one_bouncing_are_each_named_and_no_other() -> None:
    functions = pressed_through(
        Contacts(17, (4, 5), dead=(3,), stuck=(9,), bouncing=((12, 14.0),), reach=1.0)
    )
    states = {b.name: b.state for b in functions.buttons if b.state != "works"}
    assert states == {"B3": "silent", "B9": "stuck", "B12": "bounces"}
    bounce = functions.buttons[11].bounce_ms
    assert bounce == pytest.approx(14, abs=5)
    assert functions.sentence.startswith("16 of 17 buttons answered. B3 did not answer.")
    assert "B9 is stuck down." in functions.sentence
    assert f"B12 bounces for {bounce:.0f} ms." in functions.sentence
    assert [t.state for t in functions.triggers] == ["works", "works"]


@pytest.mark.parametrize("length", [4.0, 8.0, 16.0, 22.0])
def test_a_bounce_is_as_long_as_it_was_made(length: float) -> None:
    functions = pressed_through(Contacts(4, (), bouncing=((2, length),)))
    button = functions.buttons[1]
    if length <= 4:
        assert button.state == "works", "one report long: no source can show it"
    else:
        assert button.state == "bounces"
        assert 0 < button.bounce_ms <= length + 8
    assert button.presses == 1, "a bounce is not a second press"


def test_pressing_twice_quickly_is_not_a_bounce() -> None:
    taps: list[Event] = [(0, "button", 0, 0)]
    for at in (100, 190):
        taps += [(at, "button", 0, 1), (at + 45, "button", 0, 0)]
    functions = read(taps, 1)
    assert (functions.buttons[0].state, functions.buttons[0].presses) == ("works", 2)


@pytest.mark.parametrize(
    ("changes", "bounces"),
    [
        ((100, 116), False),
        ((100, 116, 132), True),
        ((100, 300, 316, 500), True),
        ((100, 300, 359, 375), True),
        ((100, 300, 362, 378), False),
        ((100, 116, 175, 300), True),
        ((100, 116, 178, 300), False),
    ],
    ids=["tap", "comes back", "falls open", "after", "later", "before", "earlier"],
)
def test_a_press_that_is_seen_late_is_a_short_tap_and_no_bounce(
    changes: tuple[float, ...], bounces: bool
) -> None:
    """A page that was held up sees a press when it is nearly over: a sound button was “bounces for
    16 ms”. What falls open while it is held, or answers once more beside a press, is the contact."""
    events: list[Event] = [(0, "button", 0, 0)]
    events += [(at, "button", 0, float(i % 2 == 0)) for i, at in enumerate(changes)]
    assert (read(events, 1).buttons[0].state == "bounces") == bounces


def test_a_button_that_is_held_while_nothing_else_happens_is_not_stuck() -> None:
    held: list[Event] = [(0, "button", 0, 0), (0, "button", 1, 0), (100, "button", 0, 1)]
    held.append((6000, "axis", 9, 0.1))
    assert read(held, 2).buttons[0].state == "works"
    held += [(6100, "button", 1, 1), (6200, "button", 1, 0)]
    assert read(held, 2).buttons[0].state == "stuck"
    held.append((7000, "button", 0, 0))
    assert read(held, 2).buttons[0].state == "works"


def test_a_trigger_seen_as_a_button_does_not_bounce_on_its_way() -> None:
    way = [(10.0 * i, "button", 0, v) for i, v in enumerate((0, 0.3, 0.52, 0.49, 0.53, 0.9, 1, 0))]
    functions = read(way, 1)
    assert (functions.buttons[0].state, functions.buttons[0].bounce_ms) == ("works", None)


@pytest.mark.parametrize(
    ("contacts", "state", "rest", "reach"),
    [
        (Contacts(1, (2,)), "works", 0, 100),
        (Contacts(1, (2,), reach=0.8), "short", 0, 80),
        (Contacts(1, (2,), hangs=0.12), "hangs", 12, 100),
    ],
)
def test_a_triggers_rest_and_reach_are_measured(
    contacts: Contacts, state: str, rest: float, reach: float
) -> None:
    trigger = pressed_through(contacts).triggers[0]
    assert trigger.state == state
    assert trigger.rest == pytest.approx(rest, abs=1)
    assert trigger.reach == pytest.approx(reach, abs=1)


def test_what_a_browser_says_of_a_trigger_before_it_moved_is_not_its_rest() -> None:
    """It says 0, half pulled, until the first news; left alone that would be most of the time."""
    events: list[Event] = [(0, "axis", 4, 0.0), (30_000, "axis", 4, -0.6)]
    events += [(30_000 + 10 * i, "axis", 4, -1 + i / 25) for i in range(51)]
    events += [(30_600 + 10 * i, "axis", 4, 1 - i / 25) for i in range(51)]
    events.append((32_500, "button", 0, 1.0))
    trigger = read(events, 1, (4,)).triggers[0]
    assert (trigger.state, trigger.rest) == ("works", pytest.approx(0, abs=1))


def test_a_trigger_that_trembles_where_it_rests_rests_there() -> None:
    """It rests where it stays longest, to two in a hundred: by a finer look the one place where it was
    held for a moment would be its rest."""
    rng = np.random.default_rng(3)
    events: list[Event] = [
        (20 * i, "axis", 4, float(v)) for i, v in enumerate(rng.normal(0.12, 0.004, 100))
    ]
    events += [(2000 + 10 * i, "axis", 4, min(1.0, 0.12 + i / 40)) for i in range(40)]
    events += [(2400, "axis", 4, 1.0), (2700, "axis", 4, 0.6), (2710, "axis", 4, 0.12)]
    trigger = read(events, 1, (4,)).triggers[0]
    assert (trigger.state, trigger.rest) == ("hangs", pytest.approx(12, abs=1))


def test_a_button_that_says_again_and_again_that_it_is_down_is_no_other_button() -> None:
    """A driver repeats what is held; held it is, and not stuck while nothing else was pressed."""
    events: list[Event] = [(1000 * i, "button", 0, 1.0) for i in range(8)]
    assert read(events, 2).buttons[0].state != "stuck"
    events.append((7500, "button", 1, 1.0))
    assert read(events, 2).buttons[0].state == "stuck"


def test_a_button_that_a_stick_presses_is_named_after_it() -> None:
    """“B2 did not answer” would have somebody look for a button that is the stick itself."""
    pressed = [(0, "button", i, 0.0) for i in range(3)]
    functions = judge_functions(heard(pressed), 3, (), (), {2: "left"}, 1.0)
    assert [b.name for b in functions.buttons] == ["B1", "B2 (left click)", "B3"]


def test_a_trigger_that_says_nothing_is_silent_where_it_is() -> None:
    silent = read([(0, "button", 0, 0.0)], 1, (4,)).triggers[0]
    assert (silent.state, silent.rest, silent.reach, silent.now) == ("silent", None, None, 0.0)
    unmoved = read([(0, "axis", 4, 0.25), (900, "axis", 4, 0.26)], 1, (4,)).triggers[0]
    assert (unmoved.state, unmoved.now) == ("silent", pytest.approx(26))


def test_what_a_trigger_said_last_is_where_it_rests_only_if_it_stays_there() -> None:
    """Pulled half when the check ended is no rest at half."""
    pulled = [(0, "axis", 4, 0.0), (400, "axis", 4, 1.0), (450, "axis", 4, 0.0)]
    half = [*pulled, (700, "axis", 4, 0.5)]
    assert read(half, 1, (4,)).triggers[0].rest == pytest.approx(0, abs=1)
    stays = [*half, (2700, "button", 0, 0.0)]
    assert read(stays, 1, (4,)).triggers[0].rest == pytest.approx(50, abs=1)


def test_where_a_trigger_is_now_is_what_it_said_last() -> None:
    events: list[Event] = [(10 * i, "axis", 4, -1 + i / 25) for i in range(31)]
    assert read(events, 1, (4,)).triggers[0].now == pytest.approx(60)


def test_nothing_reported_is_nothing_found() -> None:
    functions = read([], 2, (5,))
    assert [b.state for b in functions.buttons] == ["silent", "silent"]
    assert functions.triggers[0].rest is None
    assert functions.open == ("B1", "B2", "Trigger 1")
    assert functions.faults == ()


def test_interrupted_what_was_not_pressed_is_left_open_and_not_called_dead() -> None:
    events = at_first(Contacts(3, ())) + press(Contacts(3, ()), 1, 500, 1)
    assert read(events).open == ("B2", "B3")
    complete = read(events, complete=True)
    assert complete.open == ()
    assert complete.faults == ("B2, B3 did not answer.",)


def test_the_difference_says_what_was_mended_and_what_was_broken() -> None:
    before = pressed_through(Contacts(6, (2,), dead=(3,), bouncing=((4, 12.0),)))
    after = pressed_through(Contacts(6, (2,), dead=(5,), bouncing=((4, 12.0),)))
    changes = {c.name: c.better for c in difference(before, after)}
    assert changes == {"B3": True, "B5": False}
    assert difference(before, after)[0].name == "B5", "the worse comes first"
    comparison = compared(before, after)
    assert "Worse than when it came: B5 (did not answer)." in comparison
    assert "Works now: B3." in comparison
    assert compared(before, before) == "As it was when it came."


def test_items_that_were_not_looked_at_again_are_not_called_worse() -> None:
    def with_item(state: str) -> FunctionCheck:
        return judge_functions(heard([]), 0, (), (Item("Charges", state),), {}, 0.0)  # type: ignore[arg-type]

    assert with_item("faulty").faults == ("Charges: faulty.",)
    assert [c.better for c in difference(with_item("works"), with_item(""))] == [None]
    assert [c.better for c in difference(with_item("works"), with_item("faulty"))] == [False]


class Device:
    """A controller as a browser tells of it, pressed one control after the other."""

    def __init__(self, buttons: int, axes: tuple[float, ...] = ()) -> None:
        self.buttons = buttons
        self.events: list[Event] = [(0, "button", i, 0.0) for i in range(buttons)]
        self.events += [(0, "axis", i, v) for i, v in enumerate(axes)]
        self.at = 500.0

    def press(self, *buttons: int) -> Device:
        for button in buttons:
            self.events += [
                (self.at, "button", button - 1, 1.0),
                (self.at + 90, "button", button - 1, 0.0),
            ]
            self.at += 700
        return self

    def pull(self, control: str, index: int, rest: float, far: float, low: float = 0.0) -> Device:
        """Pulled from where it rests as far as it goes, in % of its travel, and let go."""
        ways = [1 - abs(2 * n / 40 - 1) for n in range(1, 41)]
        for n, share in enumerate(ways):
            travel = (rest + (far - rest) * share) / 100
            value = round(low + (1 - low) * travel, 4)
            self.events.append((self.at + 12 * n, control, index, value))
        self.at += 1600
        return self

    def over(self, axis: int, *values: float, middle: float = 0.0) -> Device:
        """To each of these values and back to the middle."""
        for value in values:
            self.events += [(self.at, "axis", axis, value), (self.at + 120, "axis", axis, middle)]
            self.at += 500
        return self

    def stirred(self, *axes: int) -> Device:
        """A stick, moved about and let go."""
        for axis in axes:
            swing = 0.9 * np.sin(np.linspace(0, 2 * np.pi, 41))
            self.events += [
                (self.at + 10 * i, "axis", axis, round(v, 3)) for i, v in enumerate(swing)
            ]
            self.at += 900
        return self

    def read(
        self, axes: tuple[int, ...] = (), complete: bool = True, **expected: int
    ) -> FunctionCheck:
        events = [*self.events, (self.at + 1000, "axis", 60, 0.0)]
        return read(events, self.buttons, axes, complete=complete, expected=Expected(**expected))


@pytest.mark.parametrize(
    ("rest", "far", "state", "fault"),
    [
        (0, 100, "works", None),
        (3, 97, "works", None),
        (0, 80, "short", "B7 reaches 80 % only."),
        (0, 40, "short", "B7 reaches 40 % only."),
        (12, 100, "hangs", "B7 rests at 12 %."),
        (0, 10, "silent", "B7 did not answer."),
    ],
)
def test_a_trigger_that_is_told_as_a_button_has_its_travel(
    rest: float, far: float, state: str, fault: str | None
) -> None:
    """In the order that browsers have agreed on, triggers are buttons: one that hung, or went half its
    way, “works”."""
    pad = Device(17).press(*range(1, 7)).pull("button", 6, rest, far).press(*range(8, 18))
    functions = pad.read()
    assert functions.buttons[6].state == state
    assert functions.faults == (() if fault is None else (fault,))
    if fault is None:
        assert functions.sentence == "17 of 17 buttons answered. Everything works."
    if state != "silent":
        assert functions.buttons[6].rest == pytest.approx(rest, abs=1)
        assert functions.buttons[6].reach == pytest.approx(far, abs=3)


def test_a_trigger_that_is_a_button_and_held_while_others_are_pressed_is_stuck() -> None:
    pad = Device(3)
    pad.events += [(500 + 20 * n, "button", 0, n / 20) for n in range(1, 21)]
    pad.at = 2000
    functions = pad.press(2, 3).press(2).read()
    assert functions.buttons[0].state == "stuck"


RAW = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
"""Two sticks, two triggers and a cross as a browser tells of them that does not know the controller:
left x and y, a trigger, right x and y, a trigger, across, along. Of none it knows where it is before
it first moves."""


def handled(stirred: bool, far: float = 100.0) -> Device:
    """Everything on it pressed and pulled, by somebody who moves its sticks as well or does not."""
    pad = Device(11, RAW).press(*range(1, 12))
    pad.pull("axis", 2, 0, far, low=-1.0).pull("axis", 5, 0, 100, low=-1.0)
    pad.over(6, -1.0, 1.0).over(7, -1.0, 1.0)
    return pad.stirred(0, 1, 3, 4) if stirred else pad


@pytest.mark.parametrize("stirred", [False, True])
@pytest.mark.parametrize("expected", [{}, {"triggers": 2}, {"triggers": 2, "buttons": 11}])
def test_what_is_a_trigger_shows_by_how_it_moves(stirred: bool, expected: dict[str, int]) -> None:
    """The axes behind the fourth were triggers, whatever they are: of a sound controller two of them
    “did not answer”, and its left trigger was never looked at."""
    axes = tuple(range(8))
    sound = handled(stirred).read(axes, **expected)
    assert sound.faults == ()
    assert [t.name for t in sound.triggers] == ["Trigger on axis 3", "Trigger on axis 6"]
    assert sound.sentence == "15 of 15 buttons answered. Everything works.", (
        "four of them the cross's"
    )
    short = handled(stirred, far=70.0).read(axes, **expected)
    assert short.faults == ("Trigger on axis 3 reaches 70 % only.",)


def test_a_trigger_that_never_moves_among_axes_that_nobody_knows_is_missed() -> None:
    pad = Device(11, RAW).press(*range(1, 12)).pull("axis", 5, 0, 100, low=-1.0)
    axes = tuple(range(8))
    assert pad.read(axes, triggers=2).faults == ("1 of 2 triggers did not answer.",)
    assert pad.read(axes, complete=False, triggers=2).open == ("1 of 2 triggers",)
    assert pad.read(axes).faults == (), "nobody knows how many there are"
    assert Device(1, RAW).press(1).read(axes, triggers=0).faults == ()
    assert handled(stirred=False).read(axes, triggers=0).triggers == ()
    as_buttons = Device(9).press(*range(1, 7)).pull("button", 6, 0, 100).pull("button", 7, 0, 100)
    assert as_buttons.press(9).read((4,), triggers=2).faults == (), "they are buttons"


def test_a_way_of_a_cross_that_does_not_answer_is_named() -> None:
    pad = Device(1, RAW).press(1).over(6, -1.0, 1.0).over(7, 1.0)
    functions = pad.read(tuple(range(8)))
    assert functions.faults == ("Axis 8 low did not answer.",)


@pytest.mark.parametrize("rest", [1.0, 1.0 - 1e-7])
def test_a_cross_that_is_one_axis_has_four_ways(rest: float) -> None:
    """It says eighths of a turn, and what lies beyond its range when it is let go: a trigger that
    rested at its end, and stopped short."""
    ways = {"up": -1.0, "right": -1.0 + 4 / 7, "down": -1.0 + 8 / 7, "left": -1.0 + 12 / 7}
    axes = (*RAW, 0.0, rest)
    whole = Device(1, axes).press(1).over(9, *ways.values(), middle=rest).read(tuple(range(10)))
    assert whole.faults == ()
    assert whole.triggers == ()
    assert [b.name for b in whole.buttons if "Cross" in b.name] == [f"Cross {way}" for way in ways]
    some = [v for way, v in ways.items() if way != "down"]
    without = Device(1, axes).press(1).over(9, *some, middle=rest).read(tuple(range(10)))
    assert without.faults == ("Cross down did not answer.",)


@pytest.mark.parametrize(("answering", "missing"), [(14, 0), (13, 1), (12, 2)])
def test_buttons_that_are_told_of_and_not_there_are_no_fault(answering: int, missing: int) -> None:
    """A browser tells of 17 whatever there are: “B15, B16, B17 did not answer” of a sound one."""
    pad = Device(17).press(*range(1, answering + 1))
    functions = pad.read(buttons=14)
    states = {b.state for b in functions.buttons[answering:]}
    if not missing:
        assert functions.faults == ()
        assert states == {"absent"}
        assert functions.sentence == "14 of 14 buttons answered. Everything works."
        assert pad.read(complete=False, buttons=14).open == ()
        return
    assert states == {"silent"}
    assert functions.faults[0].startswith(f"{missing} of 14 buttons did not answer. Silent: B")
    changes = difference(Device(17).press(*range(1, 15)).read(buttons=14), functions)
    assert {c.better for c in changes} == {False}


def test_where_as_many_are_told_of_as_there_are_each_is_named() -> None:
    """And a sheet that counts triggers among the buttons, as they are told of, misses none."""
    pad = Device(9).press(*range(1, 7)).pull("button", 6, 0, 100).pull("button", 7, 0, 100)
    assert pad.read(buttons=9, triggers=2).faults == ("B9 did not answer.",)
    assert pad.press(9).read(buttons=9, triggers=2).faults == ()


def test_a_trigger_that_is_a_button_stands_for_no_other_button() -> None:
    """Ten buttons and two triggers: two dead buttons were made up for by the triggers."""
    pad = Device(17).press(*range(1, 9)).pull("button", 15, 0, 100).pull("button", 16, 0, 100)
    assert pad.read(buttons=10, triggers=2).faults[0].startswith("2 of 10 buttons did not answer.")
    assert pad.press(9, 10).read(buttons=10, triggers=2).faults == ()


@pytest.mark.parametrize(
    ("count", "standard", "mapped", "of_sticks", "sprung", "follows"),
    [
        (4, True, (), 4, True, ()),
        (6, True, (), 4, True, (4, 5)),
        (6, True, (4, 5), 4, True, ()),
        (8, False, (), 4, True, tuple(range(8))),
        (8, False, (0, 1, 3, 4), 4, True, (2, 5, 6, 7)),
        (3, False, (), 1, False, (1, 2)),
        (3, False, (2,), 1, False, (0, 1)),
    ],
)
def test_what_is_known_to_be_a_sticks_is_no_trigger(
    count: int,
    standard: bool,
    mapped: tuple[int, ...],
    of_sticks: int,
    sprung: bool,
    follows: tuple[int, ...],
) -> None:
    """A paddle that stays half way was a trigger that hangs."""
    assert axes_to_follow(count, standard, mapped, of_sticks, sprung) == follows


@pytest.mark.parametrize(("rest", "is_trigger"), [(24.0, True), (26.0, False), (74.0, False)])
def test_what_rests_about_the_middle_is_a_stick(rest: float, is_trigger: bool) -> None:
    axes = (2.0 * rest / 100 - 1.0, 0.0, 0.0)
    pad = Device(1, axes).press(1).pull("axis", 0, rest, 100, low=-1.0)
    triggers = pad.read((0, 1, 2)).triggers
    assert [t.name for t in triggers] == (["Trigger on axis 1"] if is_trigger else [])


@pytest.mark.parametrize(
    "values", [(0.0,), (-1.0 + 2 * EIGHTH + 2 * NEAR_A_WAY, -1.0 + 5 * EIGHTH + 2 * NEAR_A_WAY)]
)
def test_a_trigger_that_goes_in_steps_is_no_cross(values: tuple[float, ...]) -> None:
    """From one end to the other at once, or by a few places that lie at no eighth."""
    pad = Device(1, (0.0, 0.0, -1.0)).press(1)
    ways = [v for v in values if v]
    pad.events += [(pad.at + 50 * n, "axis", 2, v) for n, v in enumerate([*ways, 1.0, *ways[::-1]])]
    pad.events.append((pad.at + 600, "axis", 2, -1.0))
    pad.at += 2000
    functions = pad.read((0, 1, 2), triggers=1)
    assert [(t.name, t.state) for t in functions.triggers] == [("Trigger on axis 3", "works")]


def test_a_button_that_presses_softly_is_one_where_triggers_are_axes() -> None:
    pad = Device(17).press(*range(1, 10)).pull("button", 9, 0, 100)
    pad.pull("axis", 4, 0, 100, low=-1.0).pull("axis", 5, 0, 100, low=-1.0)
    assert pad.read((4, 5), buttons=10, triggers=2).faults == ()


def test_a_trigger_that_did_not_answer_is_named_once() -> None:
    pad = Device(1).press(1).pull("axis", 4, 0, 100, low=-1.0)
    assert pad.read((4, 5), triggers=2).faults == ("Trigger 2 did not answer.",)


def test_triggers_are_those_that_go_farthest() -> None:
    """Something else that was moved a little is none that stops short."""
    pad = Device(1, RAW).press(1).pull("axis", 1, 0, 40, low=-1.0)
    pad.pull("axis", 2, 0, 100, low=-1.0).pull("axis", 5, 0, 90, low=-1.0)
    functions = pad.read(tuple(range(8)), triggers=2)
    assert functions.faults == ("Trigger on axis 6 reaches 90 % only.",)
    assert len(functions.triggers) == 2


def test_where_a_trigger_hangs_is_not_where_a_browser_says_it_is_before_it_moves() -> None:
    """It says 0 of a button, for as long as that may be; one that is still pulled hangs nowhere."""
    pad = Device(1)
    pad.at = 30_000.0
    pad.pull("button", 0, 12, 100)
    assert pad.read().buttons[0].state == "hangs"
    still = [e for e in pad.events if e[0] < 30_000 + 12 * 20]
    assert read(still, 1).buttons[0].state == "works"


def test_a_cross_of_which_nothing_was_known_at_first_has_four_ways() -> None:
    ways = [-1.0 + 4 * n / 7 for n in range(4)]
    pad = Device(1, (0.0,)).press(1).over(0, *ways, middle=1.0)
    functions = pad.read((0,), triggers=0)
    assert [b.state for b in functions.buttons if b.name.startswith("Cross")] == ["works"] * 4


def test_a_way_of_a_cross_that_stays_down_is_stuck_whatever_else_is_pressed() -> None:
    pad = Device(8, RAW).press(1)
    pad.events.append((pad.at, "axis", 6, 1.0))
    pad.at += 3000
    pad.over(7, 1.0, -1.0).over(6).press(7)
    pad.events = [
        e for e in pad.events if not (e[1] == "axis" and e[2] == 6 and e[3] == 0 and e[0])
    ]
    pad.events.append((600, "axis", 6, -1.0))
    pad.events.append((700, "axis", 6, 0.0))
    state = {b.name: b.state for b in pad.read(tuple(range(8))).buttons}
    assert state["Axis 7 high"] == "stuck"
    assert state["Axis 7 low"] == "works"
