"""A trim across the supply whose wiper feeds the stick's wiper through a resistor: what it does to the
signal, and what it draws.

The track lies between 0 and the supply with its wiper W at `position`; the trim's across the same
supply with its wiper T at `setting`; `series_ohms` lies between T and W; nothing else loads W. Each
half is replaced by its Thévenin source, which is exact.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import product
from math import copysign, inf, sqrt

import numpy as np

from hollow_pin.core.recording import Floats

PLACES = 4001
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
E24 = (*E12, 1.1, 1.3, 1.6, 2.0, 2.4, 3.0, 3.6, 4.3, 5.1, 6.2, 7.5, 9.1)
"""Preferred values of a decade (IEC 60063)."""


class Shorted(ValueError):
    """Wiper and trim lie at opposite ends with nothing between: the supply is shorted."""


@dataclass(frozen=True)
class Network:
    """Ohms of track, trim and the resistor between; volts of the supply. All above 0 but the
    resistor, which may be 0."""

    track_ohms: float
    trim_ohms: float
    series_ohms: float
    supply_v: float

    def output(self, position: float | Floats, setting: float | Floats) -> Floats:
        """The share of the supply at the stick's wiper. position, setting (n,) or one: of the wipers
        along track and trim, 0 to 1. Raises Shorted."""
        p = np.asarray(position, dtype=float)
        own, fed = self._track(p), self._feed(setting)
        whole = own + fed
        if np.any((whole == 0) & (p != setting)):
            raise Shorted(
                "the stick’s wiper and the trim lie at opposite ends with nothing between them: the "
                "supply is shorted."
            )
        share = np.divide(own, whole, out=np.zeros_like(p), where=whole > 0)
        return np.asarray(p + (setting - p) * share)

    def _track(self, p: Floats) -> Floats:
        return np.asarray(self.track_ohms * p * (1 - p))

    def _feed(self, setting: float | Floats) -> float | Floats:
        return self.trim_ohms * setting * (1 - setting) + self.series_ohms

    def current_ma(self, position: float | Floats, setting: float) -> Floats:
        """From the supply, mA. position: as of `output`; infinite where it is shorted."""
        p = np.asarray(position, dtype=float)
        own, fed = self._track(p), self._feed(setting)
        with np.errstate(divide="ignore", invalid="ignore"):
            # From the trim to the stick, and what each draws from the supply by itself.
            across = np.where(p == setting, 0.0, (setting - p) / (own + fed))
            at_wiper = p + across * own
            at_trim = setting - across * self.trim_ohms * setting * (1 - setting)
            track = np.where(
                p > 0.5,
                at_wiper / (np.maximum(p, 1e-300) * self.track_ohms) - across,
                (1 - at_wiper) / (np.maximum(1 - p, 1e-300) * self.track_ohms),
            )
            trim = (
                at_trim / (setting * self.trim_ohms) + across
                if setting > 0.5
                else (1 - at_trim) / ((1 - setting) * self.trim_ohms)
            )
        return np.asarray(1e3 * self.supply_v * (track + trim))

    def most_current_ma(self, setting: float) -> float:
        """The most over the whole travel, mA."""
        return float(_most(lambda p: self.current_ma(p, setting)))

    def worst_current_ma(self) -> float:
        """The most over the whole travel with the trim at either end, mA; infinite where nothing is
        between the wipers.

        The trim then joins the wiper to one rail through the resistor, and what is drawn grows until
        the wiper is at the other: track, trim and resistor each lie across the supply.
        """
        across = 1 / self.track_ohms + 1 / self.trim_ohms
        return 1e3 * self.supply_v * (across + 1 / self.series_ohms) if self.series_ohms else inf

    def departure_percent(self, setting: float) -> float:
        """The largest departure of the signal from a straight line between its ends, % of half
        range."""
        low, high = (float(self.output(end, setting)) for end in (0.0, 1.0))
        return 200.0 * float(
            _most(lambda p: np.abs(self.output(p, setting) - (low + p * (high - low))))
        )

    def slope_at_centre(self, setting: float) -> float:
        """How much the signal moves for the wiper in the middle of the track; 1 without a trim."""
        fed = self._feed(setting)
        return float(fed / (fed + self.track_ohms / 4))

    def centring_setting(self, rest_percent: float) -> float | None:
        """The setting that brings a stick to the middle which rests at rest_percent without the trim,
        % of half range; None where there is none."""
        off = rest_percent / 200.0
        own = float(self._track(np.asarray(0.5 + off)))
        # off·feed(s) + (s − ½)·own = 0, which is quadratic in s.
        a, b, c = (
            -off * self.trim_ohms,
            off * self.trim_ohms + own,
            off * self.series_ohms - own / 2,
        )
        square = b * b - 4 * a * c
        if square < 0:
            return None
        # The larger root by its sum, the other by its product: neither loses its digits.
        q = -0.5 * (b + copysign(sqrt(square), b))
        roots = [c / q] if q else []
        roots += [q / a] if a else []
        within = [min(max(r, 0.0), 1.0) for r in roots if -1e-12 <= r <= 1 + 1e-12]
        return min(within, key=lambda s: abs(s - 0.5)) if within else None

    def furthest_percent(self, position: float = 0.5) -> tuple[float, float]:
        """How far the trim shifts a wiper at a place at its two ends, % of half range."""
        low, high = (200 * (float(self.output(position, s)) - position) for s in (0.0, 1.0))
        return low, high


def _most(of: Callable[[Floats], Floats]) -> float:
    """The largest value over the travel: on a grid, then closer around the best place."""
    p = np.linspace(0.0, 1.0, PLACES)
    best = -np.inf
    for _ in range(6):
        values = of(p)
        at = int(np.argmax(values))
        best = max(best, float(values[at]))
        low, high = p[max(at - 1, 0)], p[min(at + 1, len(p) - 1)]
        p = np.linspace(low, high, 201)
    return best


@dataclass(frozen=True)
class Suggestion:
    """A trim and a resistor of preferred values that can centre a stick. setting: where the trim then
    stands; slope: what is left of it at the centre; worst_ma: the most it ever draws."""

    trim_ohms: float
    series_ohms: float
    setting: float
    slope: float
    worst_ma: float


MOST_MA = 5.0
ROOM = 0.15
"""As near to its end as a trim may stand, so that it can still be turned either way."""


def suggest(track_ohms: float, supply_v: float, rest_percent: float) -> tuple[Suggestion, ...]:
    """Trims and resistors of the E12 and E24 rows that centre a stick, the best first: those that
    leave the most of its slope, to a hundredth, then those that draw the least; none over 5 mA."""
    suggestions = []
    trims = [round(value * decade) for decade in (1e3, 1e4, 1e5) for value in (1.0, 2.2, 4.7)]
    series = [round(value * decade) for decade in (1e3, 1e4, 1e5) for value in E24]
    for trim, resistor in product(trims, series):
        network = Network(track_ohms, trim, resistor, supply_v)
        setting = network.centring_setting(rest_percent)
        if setting is None or not ROOM <= setting <= 1 - ROOM:
            continue
        worst = network.worst_current_ma()
        if worst <= MOST_MA:
            slope = network.slope_at_centre(setting)
            suggestions.append(Suggestion(trim, resistor, setting, slope, worst))
    return tuple(sorted(suggestions, key=lambda s: (-round(s.slope, 2), s.worst_ma))[:5])
