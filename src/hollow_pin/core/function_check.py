"""The function check: every button pressed once, every trigger pulled, the rest asked for.

Works on what the source reported of each control and when. A controller is checked when it comes and
again before it goes, and the two are set against each other.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats

ButtonState = Literal["silent", "works", "bounces", "stuck"]
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


VERSION = 2
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
    """bounce_ms: the longest time from a contact's first change to its last in one press."""

    name: str
    state: ButtonState
    presses: int
    down: bool
    bounce_ms: float | None


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


def judge_functions(
    events: ControlEvents,
    buttons: int,
    triggers: tuple[int, ...],
    items: tuple[Item, ...],
    clicks: dict[int, str],
    now_s: float,
    complete: bool = False,
) -> FunctionCheck:
    """Read the function check as far as it has come.

    buttons: how many there should be. triggers: the axes that are no stick's. clicks: the stick that
    presses a button, by the button. now_s: the time on the events' clock. complete: everything was
    tried, so that what is silent did not answer.
    """
    pressed = tuple(_button(events, i, clicks.get(i + 1), now_s) for i in range(buttons))
    pulled = tuple(_trigger(events, axis, n + 1, now_s) for n, axis in enumerate(triggers))
    faults = [s for b in pressed if (s := _button_fault(b))]
    faults += [s for t in pulled if (s := _trigger_fault(t))]
    controls: tuple[Control, ...] = (*pressed, *pulled)
    silent = [c.name for c in controls if c.state == "silent"]
    if complete and silent:
        faults.insert(0, f"{', '.join(silent)} did not answer.")
    faults += [
        f"{i.name}: faulty{f', {i.note}' if i.note else ''}." for i in items if i.state == "faulty"
    ]
    untried = [] if complete else silent
    untried += [i.name for i in items if not i.state]
    return FunctionCheck(
        pressed, pulled, items, tuple(faults), tuple(untried), _sentence(pressed, faults, untried)
    )


def _sentence(buttons: tuple[Button, ...], faults: list[str], untried: list[str]) -> str:
    answer = sum(b.state != "silent" for b in buttons)
    sentence = (
        f"{answer} of {len(buttons)} buttons answered." if buttons else "No buttons to press."
    )
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
    if not t.size:
        return Button(name, "silent", 0, False, None)
    down = value > PRESSED
    changed = np.flatnonzero(down[1:] != down[:-1]) + 1
    at = t[changed]
    if not at.size:
        stuck = bool(down[0]) and _others_used(events, index, float(t[0]), now_s)
        return Button(name, "stuck" if stuck else "silent", 0, bool(down[0]), None)
    first = np.concatenate(([0], np.flatnonzero(np.diff(at) > BOUNCE_S) + 1))
    sizes = np.diff(np.append(first, len(at)))
    was_down = down[changed[first] - 1]
    presses = int((~was_down).sum())
    analogue = bool(((value > 0) & (value < 1)).any())
    begins, ends = at[first], at[first + sizes - 1]
    beside = np.diff(begins, append=np.inf) - (ends - begins) <= BLIP_S
    beside |= np.append(False, beside[:-1])
    tap = (sizes == 2) & ~was_down & ~beside
    several = (sizes > 1) & ~tap & (not analogue)
    bounce = None
    if several.any():
        bounce = round(float((ends - begins)[several].max()) * 1e3, 1)
    is_down = bool(down[-1])
    if is_down and _others_used(events, index, float(at[-1]), now_s):
        return Button(name, "stuck", presses, is_down, bounce)
    return Button(name, "works" if bounce is None else "bounces", presses, is_down, bounce)


def _others_used(events: ControlEvents, index: int, since_s: float, now_s: float) -> bool:
    """Whether other buttons have been pressed while this one stayed down, and for long enough."""
    if now_s - since_s < HELD_S:
        return False
    others = ~events.axis & (events.index != index) & (events.t_s > since_s)
    return bool((others & (events.value > PRESSED)).any())


def _button_fault(button: Button) -> str | None:
    if button.state == "stuck":
        return f"{button.name} is stuck down."
    if button.state == "bounces":
        return f"{button.name} bounces for {button.bounce_ms:.0f} ms."
    return None


def _trigger(events: ControlEvents, axis: int, number: int, now_s: float) -> Trigger:
    name = f"Trigger {number}"
    t, value = events.of(True, axis)
    if not t.size:
        return Trigger(name, "silent", None, None, 0.0)
    low = -1.0 if (value < -0.2).any() else 0.0
    travel = (value - low) / (1.0 - low) * 100
    if not (np.ptp(travel) > PULLED):
        return Trigger(name, "silent", None, None, float(travel[-1]))
    # Before a trigger is first moved a browser may not know where it is, and says 0.
    unknown = int(low == -1.0 and value[0] == 0.0)
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


def _trigger_fault(trigger: Trigger) -> str | None:
    if trigger.state == "short":
        return f"{trigger.name} reaches {trigger.reach:.0f} % only."
    if trigger.state == "hangs":
        return f"{trigger.name} rests at {trigger.rest:.0f} %."
    return None


_WELL = {"works"}
_SAID = {
    "silent": "did not answer",
    "": "not tried",
    "works": "works",
    "bounces": "bounces",
    "stuck": "stuck down",
    "short": "stops short",
    "hangs": "does not come back",
    "faulty": "faulty",
}


def _everything(check: FunctionCheck) -> tuple[Control | Item, ...]:
    return (*check.buttons, *check.triggers, *check.items)


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
