"""How likely each cause is, by an additive model: every evidence adds to the log-odds of a cause what
its value, in doublings of its scale, times a weight comes to. Anybody can add it up again.

Which evidence speaks for what, and which way, is laid down here; how much is fitted to takes whose
causes are known, and kept beside as data (`weights.json`).
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from math import exp
from typing import Literal

from hollow_pin.core.causes import CAUSE, CAUSES, SOUND
from hollow_pin.core.evidence import BY_CODE, evidence_of
from hollow_pin.core.signs import Axis
from hollow_pin.core.take import TakeReadings

Speaks = Mapping[str, int]
"""By evidence: +1 where a large value speaks for a cause, −1 where it speaks against it."""


def _speaks(pro: str, con: str = "") -> Speaks:
    return dict.fromkeys(pro.split(), 1) | dict.fromkeys(con.split(), -1)


SPEAKS: dict[str, Speaks] = {
    SOUND: _speaks(
        "",
        "over worst off-centre returns-apart stops-short settles jitter wander spikes "
        "rough-in-places dead-width sag drops jumps short-reach lopsided overrun dent shape carried "
        "zone",
    ),
    "offset": _speaks("off-centre", "zone"),
    "worn": _speaks(
        "returns-apart by-side lands-anywhere beyond wander noisy-centre jitter",
        "stops-short short-both settles dent in-common zone",
    ),
    "dirty": _speaks(
        "spikes roughest rough-in-places jitter",
        "noisy-centre in-common both-tremble mostly-jumps held-drops",
    ),
    "binding": _speaks(
        "stops-short short-both settles dent shape",
        "jitter wander noisy-centre lands-anywhere beyond lopsided zone",
    ),
    "unseated": _speaks("lopsided cut-wide overrun", "short-reach carried other-span"),
    "loose": _speaks("jumps mostly-jumps", "held-drops"),
    "calibration": _speaks("short-reach cut-wide overrun lopsided other-span", "dent"),
    "failing-track": _speaks("sag held-drops drops dead-spans dead-width", "jumps spikes"),
    "cross-talk": _speaks("carried carried-more"),
    "firmware-dead-zone": _speaks("zone", "jitter returns-apart"),
    "supply-noise": _speaks("both-tremble in-common", "wander noisy-centre"),
}
MOST_FOR, MOST_ABSENT, MOST_AGAINST, MOST_FREE = 4.0, 3.0, 3.0, 0.5
"""The most that a doubling may weigh: of what speaks for a cause and is there; and is not there; of
what speaks against it and is there; and is not, which is hardly a reason for it."""


@dataclass(frozen=True)
class Weights:
    """Of one cause. bias: its log-odds when nothing is known. above, below: what each doubling of an
    evidence above its scale, or halving below it, comes to; usual: what it comes to on the average,
    and so counts for nothing."""

    bias: float
    above: Mapping[str, float]
    below: Mapping[str, float]
    usual: Mapping[str, float]

    def adds(self, code: str, doublings: float | None) -> float:
        """What an evidence adds to the log-odds, by its value in doublings of its scale; nothing where
        it was not measured."""
        if doublings is None:
            return 0.0
        side = self.above if doublings > 0 else self.below
        return side.get(code, 0.0) * doublings - self.usual.get(code, 0.0)


@dataclass(frozen=True)
class Speaking:
    """One evidence as it speaks for a cause, or against it. value: in the evidence's own unit. weight:
    what it adds to the log-odds."""

    reading: str
    value: float
    speaks_for: bool
    weight: float
    words: str


@dataclass(frozen=True)
class Ranked:
    """A cause with its own probability, 0 to 1, and what speaks for it and against it, the weightiest
    first. axis: None where it is no one axis's, or both are alike. The probabilities of causes do not
    add up to 1: several may be so at once."""

    cause: str
    axis: Literal["x", "y"] | None
    probability: float
    evidence: tuple[Speaking, ...]

    @property
    def likely(self) -> bool:
        """Whether it is likelier than not."""
        return self.probability >= LIKELY


LIKELY = 0.5
SHOWN_FROM, FEWEST_SHOWN, MOST_SHOWN = 0.1, 2, 4
WORTH_SAYING = 0.2
"""Of the log-odds, that an evidence adds or takes away to be listed."""
ALIKE = 1.0
"""Log-odds by which the axes may differ for both to be meant."""


@cache
def weights() -> dict[str, Weights]:
    """The fitted weights, by cause."""
    text = (resources.files("hollow_pin.core") / "weights.json").read_text("utf-8")
    return {cause: Weights(**w) for cause, w in json.loads(text).items()}


def rank(take: TakeReadings, by: Mapping[str, Weights] | None = None) -> tuple[Ranked, ...]:
    """Every cause, the likeliest first. by: other weights than those that ship."""
    evidence = evidence_of(take)
    table = by or weights()
    ranked = [_ranked(c.code, table[c.code], evidence) for c in CAUSES]
    known = _share_known(take)
    ranked = [
        replace(r, probability=known * r.probability) if r.cause == SOUND else r for r in ranked
    ]
    return tuple(sorted(ranked, key=lambda r: -r.probability))


def worth_showing(ranked: Sequence[Ranked]) -> tuple[Ranked, ...]:
    """Of all causes, the likeliest first, those that are shown: two at least, four at most."""
    shown = [c for i, c in enumerate(ranked) if c.probability >= SHOWN_FROM or i < FEWEST_SHOWN]
    return tuple(shown[:MOST_SHOWN])


def _share_known(take: TakeReadings) -> float:
    """The share that was measured of what a stick must show to be called sound: rest, returns, and
    how far it reaches; of a paddle, a turn. Nobody calls sound what was not looked at."""
    if take.turn is not None:
        return 1.0
    needed: list[object | None] = [take.still, take.let_go]
    if len(take.recording.axes) == 2:
        needed.append(take.rim)
    return sum(step is not None for step in needed) / len(needed)


Found = Mapping[str, Mapping[str, float | None]]


def weighed(cause: str, found: Found, axis: Axis) -> dict[str, float | None]:
    """The evidence of a cause on an axis, in doublings of its scale; None where it was not measured. A
    cause that is no one axis's is spoken for by the worse of them."""
    values: dict[str, float | None] = {}
    for code in SPEAKS[cause]:
        on = found[code]
        known = [on.get(axis)] if CAUSE[cause].by_axis else list(on.values())
        each = [BY_CODE[code].doublings(v) for v in known if v is not None]
        values[code] = max(each, default=None)
    return values


def _ranked(cause: str, w: Weights, found: Found) -> Ranked:
    axes: tuple[Axis, ...] = ("x", "y") if "y" in next(iter(found.values())) else ("x",)
    if not CAUSE[cause].by_axis:
        axes = ("x",)
    adds = {
        axis: {code: w.adds(code, v) for code, v in weighed(cause, found, axis).items()}
        for axis in axes
    }
    odds = {axis: w.bias + sum(adds[axis].values()) for axis in axes}
    worse = max(axes, key=lambda axis: odds[axis])
    chance = 1.0 / (1.0 + exp(-odds[worse]))
    alike = len(axes) == 2 and max(odds.values()) - min(odds.values()) < ALIKE
    named = worse if CAUSE[cause].by_axis and not alike and len(axes) == 2 else None
    return Ranked(cause, named, chance, _speaking(cause, adds[worse], found, worse))


def _worse_axis(on: Mapping[str, float | None]) -> Axis:
    """The axis on which a value is the greater."""
    x, y = on.get("x"), on.get("y")
    return "y" if y is not None and (x is None or y > x) else "x"


def _speaking(
    cause: str, adds: Mapping[str, float], found: Found, axis: Axis
) -> tuple[Speaking, ...]:
    said = []
    for code, weight in adds.items():
        if abs(weight) < WORTH_SAYING:
            continue
        on = found[code]
        at = axis if CAUSE[cause].by_axis else _worse_axis(on)
        value = on[at]
        if value is None:
            continue
        e = BY_CODE[code]
        said.append(Speaking(e.reading_of(at), value, weight > 0, weight, e.said(value, at)))
    return tuple(sorted(said, key=lambda s: -abs(s.weight)))
