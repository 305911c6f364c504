"""The function check: every button pressed once, every trigger pulled, the rest asked for.

Works on what the source reported of each control and when. A controller is checked when it comes and
again before it goes, and the two are set against each other.

A source numbers its buttons and axes as it likes, and says of none what it is. A trigger is an axis,
or a button that reports values in between; a cross of four ways is four buttons, or two axes that are
at an end or in the middle, or one that says a direction by an eighth of its range. What each is shows
by how it moves.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats
from hollow_pin.core.words import listed

ButtonState = Literal["silent", "works", "bounces", "stuck", "short", "hangs", "absent"]
TriggerState = Literal["silent", "works", "short", "hangs"]
ItemState = Literal["", "works", "faulty"]

BOUNCE_S = 0.025
"""No finger lets go and presses again within this; a worn contact does."""
BLIP_S = 0.06
"""Down for no longer than BOUNCE_S is a tap, or a press whose beginning was seen late; so soon after
another press, or before one, it is the same contact."""
HELD_S = 2.0
"""A button that is still down this long after another was pressed is stuck."""
PRESSED = 0.5
HANGS_AT = 5.0
REACHES = 95.0
PULLED = 20.0
RESTED_S = 0.3
"""How long a trigger is left alone before it is known where it rests."""
MIDDLE = (25.0, 75.0)
"""% of an axis's range, between which a stick rests, and no trigger."""
WAYS = {"up": 0, "right": 2, "down": 4, "left": 6}
"""Of a cross that is one axis: its direction in eighths, clockwise from up, as values from −1 to 1."""
EIGHTH = 2.0 / 7.0
NEAR_A_WAY = 0.03
"""How near to one of its values an axis lies that has no others."""
FEWEST_WAYS = 3
"""Directions, from which on an axis with such values alone is no trigger that was pulled in steps."""


VERSION = 3
"""Raised whenever a definition changes, so that kept results are read anew."""


@dataclass(frozen=True, eq=False)
class ControlEvents:
    """What the source reported, in order of time, each control's value at the start included.

    t_s, index, value: (n,); axis (n,): whether the index is an axis's, −1 to 1, or a button's, 0 to 1.
    """

    t_s: Floats
    axis: NDArray[np.bool_]
    index: NDArray[np.intp]
    value: Floats

    def of(self, axis: bool, index: int) -> tuple[Floats, Floats]:
        """Times and values of one control."""
        its = (self.axis == axis) & (self.index == index)
        return self.t_s[its], self.value[its]


@dataclass(frozen=True)
class Button:
    """bounce_ms: the longest time from a contact's first change to its last in one press. rest, reach:
    of one that is a trigger, % of its travel; else None. Absent: the controller has no such button."""

    name: str
    state: ButtonState
    presses: int
    down: bool
    bounce_ms: float | None
    rest: float | None = None
    reach: float | None = None


@dataclass(frozen=True)
class Trigger:
    """rest, reach: % of its travel; None while it was not pulled. now: where it is."""

    name: str
    state: TriggerState
    rest: float | None
    reach: float | None
    now: float


@dataclass(frozen=True)
class Item:
    """Something looked at or listened to, such as “Charges from the cable”."""

    name: str
    state: ItemState
    note: str = ""


Control = Button | Trigger


@dataclass(frozen=True)
class FunctionCheck:
    """faults: a short sentence each, the worst first. open: what was not tried."""

    buttons: tuple[Button, ...]
    triggers: tuple[Trigger, ...]
    items: tuple[Item, ...]
    faults: tuple[str, ...]
    open: tuple[str, ...]
    sentence: str


@dataclass(frozen=True)
class Change:
    """One thing that is not as it was. better: None where that cannot be said."""

    name: str
    before: str
    after: str
    better: bool | None


@dataclass(frozen=True)
class Expected:
    """How many buttons and triggers a controller has, None where nobody knows."""

    buttons: int | None = None
    triggers: int | None = None


STANDARD_STICK_AXES = 4
"""In the order that browsers have agreed on, sticks come first."""


def axes_to_follow(
    count: int, standard: bool, mapped: Collection[int], of_sticks: int, sprung: bool
) -> tuple[int, ...]:
    """The axes of a controller that may be a trigger's or a cross's.

    count: how many it has. standard: whether they are in the order that browsers have agreed on.
    mapped: those that were found to be a stick's. of_sticks: how many a model's sticks have. sprung:
    whether all of those spring back. Where nothing is known they may be any: what springs back shows
    that it is a stick, what stays where it is put does not.
    """
    known = set(mapped)
    if standard:
        known |= set(range(STANDARD_STICK_AXES))
    elif not mapped and not sprung:
        known |= set(range(of_sticks))
    return tuple(axis for axis in range(count) if axis not in known)


USUAL = 2
"""Axes that are no stick's, up to which each is a trigger where nobody knows how many there are."""


def judge_functions(
    events: ControlEvents,
    buttons: int,
    axes: tuple[int, ...],
    items: tuple[Item, ...],
    clicks: dict[int, str],
    now_s: float,
    complete: bool = False,
    expected: Expected = Expected(),
) -> FunctionCheck:
    """Read the function check as far as it has come.

    buttons: how many are reported. axes: those that are not known to be a stick's. clicks: the stick
    that presses a button, by the button. now_s: the time on the events' clock. complete: everything
    was tried, so that what is silent did not answer. expected: how many there should be; what is
    reported beyond that, and never answers, is not on the controller.
    """
    pressed = [_button(events, i, clicks.get(i + 1), now_s) for i in range(buttons)]
    ways, pulled = _of_axes(events, axes, now_s, expected)
    pulled, unseen, as_buttons = _triggers_there(pulled, pressed, expected)
    pressed, missing = _buttons_there(pressed, as_buttons, expected)
    pressed += ways
    faults = [s for b in pressed if (s := _button_fault(b))]
    faults += [s for t in pulled if (s := _travel_fault(t))]
    controls: tuple[Control, ...] = (*pressed, *pulled)
    silent = [c.name for c in controls if c.state == "silent"]
    if unseen:
        silent.append(f"{unseen} of {expected.triggers} triggers")
    if complete and missing:
        which = f"Silent: {listed(silent)}."
        faults.insert(0, f"{missing} of {expected.buttons} buttons did not answer. {which}")
    elif complete and silent:
        faults.insert(0, f"{', '.join(silent)} did not answer.")
    faults += [
        f"{i.name}: faulty{f', {i.note}' if i.note else ''}." for i in items if i.state == "faulty"
    ]
    untried = [] if complete else silent
    untried += [i.name for i in items if not i.state]
    there = tuple(pressed)
    return FunctionCheck(
        there,
        tuple(pulled),
        items,
        tuple(faults),
        tuple(untried),
        _sentence(there, faults, untried),
    )


def _triggers_there(
    pulled: list[Trigger], pressed: list[Button], expected: Expected
) -> tuple[list[Trigger], int, int]:
    """The triggers without the axes that are none; how many did not answer that are no axis among
    them; and how many are told of as buttons."""
    as_buttons = sum(b.reach is not None for b in pressed)
    if expected.triggers is None:
        return pulled, 0, 0
    by_axes = expected.triggers - sum(t.state != "silent" for t in pulled)
    unseen = by_axes - as_buttons
    if unseen <= 0:
        pulled = [t for t in pulled if t.state != "silent"]
    named = any(t.state == "silent" for t in pulled)
    return pulled, 0 if named else max(0, unseen), min(as_buttons, max(0, by_axes))


def _buttons_there(
    pressed: list[Button], as_triggers: int, expected: Expected
) -> tuple[list[Button], int]:
    """The buttons, those that are told of and not there among them, and how many did not answer where
    nobody knows which. as_triggers: how many of them are triggers."""
    if expected.buttons is None or expected.buttons >= len(pressed):
        return pressed, 0
    answered = sum(b.state != "silent" for b in pressed) - as_triggers
    if answered < expected.buttons:
        return pressed, expected.buttons - answered
    return [replace(b, state="absent") if b.state == "silent" else b for b in pressed], 0


def _of_axes(
    events: ControlEvents, axes: tuple[int, ...], now_s: float, expected: Expected
) -> tuple[list[Button], list[Trigger]]:
    """What the axes are that are not known to be a stick's: ways of a cross, as buttons, and triggers.
    Where there are more of them than triggers, one that rests in the middle is a stick's all the same,
    one that never moves may be anything, and triggers are those that go farthest."""
    each = len(axes) <= (USUAL if expected.triggers is None else expected.triggers)
    ways: list[Button] = []
    pulled: list[Trigger] = []
    for n, axis in enumerate(axes):
        t, value = events.of(True, axis)
        if (as_ways := _ways(t, value, axis, events, now_s)) is not None:
            ways += as_ways
            continue
        name = f"Trigger {n + 1}" if each else f"Trigger on axis {axis + 1}"
        trigger = _trigger(t, value, name, now_s)
        if each or (trigger.state != "silent" and not _rests_in_the_middle(trigger)):
            pulled.append(trigger)
    if not each and expected.triggers is not None:
        farthest = sorted(pulled, key=lambda t: -(t.reach or 0.0))[: expected.triggers]
        pulled = [t for t in pulled if t in farthest]
    return ways, pulled


def _rests_in_the_middle(trigger: Trigger) -> bool:
    return trigger.rest is not None and MIDDLE[0] < trigger.rest < MIDDLE[1]


def _ways(
    t: Floats, value: Floats, axis: int, events: ControlEvents, now_s: float
) -> list[Button] | None:
    """The ways of a cross, as buttons; None where the axis is none."""
    # Before it first moves a browser may say 0 of anything.
    known = int(len(value) > 0 and value[0] == 0.0)
    eighths = (value[known:] + 1.0) / EIGHTH
    nearest = np.round(eighths)
    at_one = np.abs(eighths - nearest) * EIGHTH < NEAR_A_WAY
    if at_one.all() and len(np.unique(nearest)) >= FEWEST_WAYS:
        return [
            _contact(f"Cross {way}", t[known:], nearest == nth, events, (True, axis), now_s)
            for way, nth in WAYS.items()
        ]
    ends = (np.abs(value) < NEAR_A_WAY) | (np.abs(value) > 1.0 - NEAR_A_WAY)
    if not (value.size and ends.all() and (value[1:] == 0.0).any()):
        return None
    return [
        _contact(f"Axis {axis + 1} {end}", t, value * sign > PRESSED, events, (True, axis), now_s)
        for end, sign in (("low", -1), ("high", 1))
    ]


def _sentence(buttons: tuple[Button, ...], faults: list[str], untried: list[str]) -> str:
    answer = sum(b.state not in ("silent", "absent") for b in buttons)
    there = sum(b.state != "absent" for b in buttons)
    sentence = f"{answer} of {there} buttons answered." if there else "No buttons to press."
    if faults:
        return f"{sentence} {' '.join(faults)}"
    return (
        f"{sentence} Nothing wrong in what was tried."
        if untried
        else f"{sentence} Everything works."
    )


def _button(events: ControlEvents, index: int, click: str | None, now_s: float) -> Button:
    name = f"B{index + 1}" + (f" ({click} click)" if click else "")
    t, value = events.of(False, index)
    button = _contact(name, t, value > PRESSED, events, (False, index), now_s)
    if not ((value > 0) & (value < 1)).any():
        return button
    pulled = _trigger(t, value, name, now_s)
    state: ButtonState = "stuck" if button.state == "stuck" else pulled.state
    return replace(button, state=state, bounce_ms=None, rest=pulled.rest, reach=pulled.reach)


def _contact(
    name: str,
    t: Floats,
    down: NDArray[np.bool_],
    events: ControlEvents,
    control: tuple[bool, int],
    now_s: float,
) -> Button:
    """Something that is down or not, by when it was said to be. control: whether it is an axis's, and
    the index."""
    if not t.size:
        return Button(name, "silent", 0, False, None)
    changed = np.flatnonzero(down[1:] != down[:-1]) + 1
    at = t[changed]
    if not at.size:
        stuck = bool(down[0]) and _others_used(events, control, float(t[0]), now_s)
        return Button(name, "stuck" if stuck else "silent", 0, bool(down[0]), None)
    first = np.concatenate(([0], np.flatnonzero(np.diff(at) > BOUNCE_S) + 1))
    sizes = np.diff(np.append(first, len(at)))
    was_down = down[changed[first] - 1]
    presses = int((~was_down).sum())
    begins, ends = at[first], at[first + sizes - 1]
    beside = np.diff(begins, append=np.inf) - (ends - begins) <= BLIP_S
    beside |= np.append(False, beside[:-1])
    tap = (sizes == 2) & ~was_down & ~beside
    several = (sizes > 1) & ~tap
    bounce = None
    if several.any():
        bounce = round(float((ends - begins)[several].max()) * 1e3, 1)
    is_down = bool(down[-1])
    if is_down and _others_used(events, control, float(at[-1]), now_s):
        return Button(name, "stuck", presses, is_down, bounce)
    return Button(name, "works" if bounce is None else "bounces", presses, is_down, bounce)


def _others_used(
    events: ControlEvents, control: tuple[bool, int], since_s: float, now_s: float
) -> bool:
    """Whether other buttons have been pressed while this one stayed down, and for long enough."""
    if now_s - since_s < HELD_S:
        return False
    axis, index = control
    others = ~events.axis & (axis | (events.index != index)) & (events.t_s > since_s)
    return bool((others & (events.value > PRESSED)).any())


def _button_fault(button: Button) -> str | None:
    if button.state == "stuck":
        return f"{button.name} is stuck down."
    if button.state == "bounces":
        return f"{button.name} bounces for {button.bounce_ms:.0f} ms."
    return _travel_fault(button)


def _trigger(t: Floats, value: Floats, name: str, now_s: float) -> Trigger:
    if not t.size:
        return Trigger(name, "silent", None, None, 0.0)
    low = -1.0 if (value < -0.2).any() else 0.0
    travel = (value - low) / (1.0 - low) * 100
    if not (np.ptp(travel) > PULLED):
        return Trigger(name, "silent", None, None, float(travel[-1]))
    # Before a trigger is first moved a browser may not know where it is, and says 0.
    let_go_above = bool((value[1:] > 0.0).all()) and value[-1] < value.max() / 2
    unknown = int(value[0] == 0.0 and (low == -1.0 or let_go_above))
    stayed = np.append(np.diff(t), max(0.0, now_s - t[-1]))[unknown:]
    travel_known = travel[unknown:]
    places = np.round(travel_known / 2).astype(np.intp)
    at = places == np.bincount(places - places.min(), weights=stayed).argmax() + places.min()
    rested = stayed[at].sum() >= RESTED_S
    rest = float(np.median(travel_known[at])) if rested else float(travel_known.min())
    turned = rest > 50
    far = float(travel_known.min() if turned else travel_known.max())
    rest, reach = (100 - rest, 100 - far) if turned else (rest, far)
    state: TriggerState = "works"
    if reach < REACHES:
        state = "short"
    elif rest > HANGS_AT:
        state = "hangs"
    return Trigger(name, state, round(rest, 1), round(reach, 1), float(travel[-1]))


def _travel_fault(control: Control) -> str | None:
    if control.state == "short":
        return f"{control.name} reaches {control.reach:.0f} % only."
    if control.state == "hangs":
        return f"{control.name} rests at {control.rest:.0f} %."
    return None


_WELL = {"works"}
_SAID = {
    "silent": "did not answer",
    "": "not tried",
    "works": "works",
    "bounces": "bounces",
    "stuck": "stuck down",
    "absent": "not on it",
    "short": "stops short",
    "hangs": "does not come back",
    "faulty": "faulty",
}


def _everything(check: FunctionCheck) -> tuple[Control | Item, ...]:
    buttons = [b for b in check.buttons if b.state != "absent"]
    return (*buttons, *check.triggers, *check.items)


def difference(before: FunctionCheck, after: FunctionCheck) -> tuple[Change, ...]:
    """Everything that is not as it was when it came, the worse first."""
    was = {c.name: c for c in _everything(before)}
    changes = []
    for now in _everything(after):
        then = was.get(now.name)
        if then is None or then.state == now.state:
            continue
        better = None
        if now.state in _WELL:
            better = True
        elif then.state in _WELL and now.state:
            better = False
        changes.append(Change(now.name, _SAID[then.state], _SAID[now.state], better))
    return tuple(sorted(changes, key=lambda c: (c.better is not False, c.better is None)))


def compared(before: FunctionCheck, after: FunctionCheck) -> str:
    """The difference as one sentence."""
    changes = difference(before, after)
    worse = [f"{c.name} ({c.after})" for c in changes if c.better is False]
    better = [c.name for c in changes if c.better]
    sentences = []
    if worse:
        sentences.append(f"Worse than when it came: {', '.join(worse)}.")
    if better:
        sentences.append(f"Works now: {', '.join(better)}.")
    if not sentences:
        sentences.append(
            "As it was when it came." if not changes else "Not all of it was tried twice."
        )
    return " ".join(sentences)
