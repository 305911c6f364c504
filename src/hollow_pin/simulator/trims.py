"""Trims on a stand-in: a small variable resistor an axis that pulls its signal, or a housing that is
eased round; what a screwdriver does to them, and what their contacts do meanwhile."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from hollow_pin.core.calculators.trim import Network
from hollow_pin.core.recording import Floats

TURNS_PER_S = 0.2
"""How fast a screwdriver goes, of the whole turn a second."""
CRACKLE = 0.25
FLEX = 0.12
"""While it is turned: noise of the trim's contact on its own axis, and of a board that gives, %."""
SUPPLY_V = 3.3
HOUSING_TURNS = 40.0
"""How far a housing that is eased from end to end of its play shifts the signal, %."""


TrimKind = Literal["trim", "housing"]


@dataclass(frozen=True)
class Trim:
    """kind: a trim network, or a housing with play. setting: 0 to 1; way: +1 or −1, as it happens to
    be soldered or held."""

    kind: TrimKind = "trim"
    setting: float = 0.5
    way: int = 1
    track_ohms: float = 10_000.0
    trim_ohms: float = 10_000.0
    series_ohms: float = 10_000.0

    def signal(self, u: Floats, setting: Floats) -> Floats:
        """What is left of a signal u (n,), %, at settings (n,)."""
        if self.kind == "housing":
            return np.asarray(u + HOUSING_TURNS * (setting - 0.5))
        # Beyond its ends the wiper has nowhere to go; the signal stays what it is.
        place = np.clip(0.5 + u / 200.0, 0.0, 1.0)
        network = Network(self.track_ohms, self.trim_ohms, self.series_ohms, SUPPLY_V)
        return np.asarray(u + 200.0 * (network.output(place, setting) - place))


Pair = tuple[Trim, Trim]
"""Of x, of y."""


def fitted(kind: TrimKind, seed: int) -> Pair:
    """Trims as they are fresh from soldering: anywhere near the middle, either way round."""
    rng = np.random.default_rng(seed)

    def one() -> Trim:
        return Trim(kind, float(rng.uniform(0.4, 0.6)), int(rng.choice((-1, 1))))

    return one(), one()


KINDS: dict[str, TrimKind] = {"trimmed": "trim", "eased": "housing"}
"""What is turned, by the remedy's code."""


def with_pair(pairs: tuple[Pair, ...], pair: Pair) -> tuple[Pair, ...]:
    """The pairs with one more, or in the place of those of its kind."""
    return (*(p for p in pairs if p[0].kind != pair[0].kind), pair)


class Turning:
    """Trims of a running stand-in; the last pair is within reach of a screwdriver."""

    def __init__(self, pairs: tuple[Pair, ...], rng: np.random.Generator) -> None:
        self._before, last = pairs[:-1], pairs[-1]
        self._trims = [*last]
        self._rng = rng
        self._owed = [0.0, 0.0]

    @property
    def pair(self) -> Pair:
        """As they are now."""
        return self._trims[0], self._trims[1]

    @property
    def busy(self) -> bool:
        """Whether a screwdriver is on one."""
        return any(self._owed)

    def turn(self, axis: int, by: float) -> None:
        """Turn one by a share of its whole turn, the way of a clock where it is above 0."""
        self._owed[axis] += by

    def of(self, signal: Floats, interval_s: float) -> tuple[Floats, Floats]:
        """What is left of the signals (n, 2), %, while they are turned, and the noise of turning."""
        n = len(signal)
        out, noise = signal.copy(), np.zeros_like(signal)
        most = TURNS_PER_S * interval_s * np.arange(1, n + 1)
        for i in (0, 1):
            for pair in self._before:
                out[:, i] = pair[i].signal(out[:, i], np.full(n, pair[i].setting))
            trim, owed = self._trims[i], self._owed[i]
            turned = np.sign(owed) * np.minimum(most, abs(owed))
            settings = np.clip(trim.setting + trim.way * turned, 0.0, 1.0)
            out[:, i] = trim.signal(out[:, i], settings)
            if owed:
                turning = (most - TURNS_PER_S * interval_s < abs(owed))[:, None]
                noise += turning * FLEX * self._rng.standard_normal((n, 2))
                noise[:, i] += turning[:, 0] * CRACKLE * self._rng.standard_normal(n)
                owing = owed - float(turned[-1])
                self._owed[i] = 0.0 if abs(owing) < 1e-12 else owing
            self._trims[i] = replace(trim, setting=float(settings[-1]))
        return out, noise
