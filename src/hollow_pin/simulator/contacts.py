"""The buttons and triggers of a stand-in: contacts that close, stay silent, stick or bounce."""

from __future__ import annotations

import random
from dataclasses import asdict, dataclass
from typing import Any

HELD_MS = 120.0
PULL_MS = 600.0
LOOKED_EVERY_MS = 4.0

ControlEvent = tuple[float, str, int, float]
"""Milliseconds, “button” or “axis”, index, value."""


@dataclass(frozen=True)
class Contacts:
    """What is wrong with a controller's buttons (counted from 1) and triggers.

    bouncing: for how many milliseconds. reach, hangs: of each trigger, its share of full travel.
    """

    buttons: int
    triggers: tuple[int, ...]
    dead: tuple[int, ...] = ()
    stuck: tuple[int, ...] = ()
    bouncing: tuple[tuple[int, float], ...] = ()
    reach: float = 1.0
    hangs: float = 0.0

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_dict(cls, d: dict[str, Any]) -> Contacts:
        listed = {k: tuple(d[k]) for k in ("triggers", "dead", "stuck")}
        bouncing = tuple((int(button), float(ms)) for button, ms in d["bouncing"])
        return cls(**(d | listed | {"bouncing": bouncing}))


def at_first(contacts: Contacts) -> list[ControlEvent]:
    """What a source reports of every control before anything is touched."""
    rest = 2 * contacts.hangs - 1
    buttons: list[ControlEvent] = [
        (0.0, "button", i, float(i + 1 in contacts.stuck)) for i in range(contacts.buttons)
    ]
    return buttons + [(0.0, "axis", axis, rest) for axis in contacts.triggers]


def press(contacts: Contacts, button: int, at_ms: float, seed: int) -> list[ControlEvent]:
    """A finger presses a button (counted from 1) and lets go: what the source reports."""
    if button in contacts.dead or button in contacts.stuck:
        return []
    bounce = dict(contacts.bouncing).get(button, 0.0)
    drawn = random.Random(seed)
    edges: list[ControlEvent] = []
    for start, closed in ((at_ms, 1.0), (at_ms + HELD_MS, 0.0)):
        times = [start]
        while times[-1] + LOOKED_EVERY_MS < start + bounce:
            times.append(times[-1] + LOOKED_EVERY_MS * drawn.choice((1, 1, 2)))
        if len(times) == 2:
            times.append(times[-1] + LOOKED_EVERY_MS)
        elif len(times) % 2 == 0:
            times.pop()
        edges += [
            (t, "button", button - 1, closed if n % 2 == 0 else 1 - closed)
            for n, t in enumerate(times)
        ]
    return edges


def pull(contacts: Contacts, axis: int, at_ms: float) -> list[ControlEvent]:
    """A finger pulls a trigger through its travel and lets it back."""
    rest, far = 2 * contacts.hangs - 1, 2 * contacts.reach - 1
    steps = round(PULL_MS / LOOKED_EVERY_MS)
    events: list[ControlEvent] = []
    for n in range(1, steps + 1):
        share = 1 - abs(2 * n / steps - 1)
        events.append((at_ms + n * LOOKED_EVERY_MS, "axis", axis, rest + (far - rest) * share))
    return events
