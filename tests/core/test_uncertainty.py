"""The ± is what decides between “better” and “no change”: it must cover what the next take shows.
Over two hundred sticks: docs/accuracy.md."""

from __future__ import annotations

from math import hypot

import numpy as np
import pytest

from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.readings import TakeReadings
from hollow_pin.simulator.conditions import fresh_stick
from sticks import read_of


def takes_of(condition: str, seed: int, count: int) -> list[TakeReadings]:
    """The same stick measured again and again, nothing done in between."""
    stick = fresh_stick("potentiometer", "round", 10, 250, condition, seed)
    return [read_of(stick, 100 * seed + i) for i in range(count)]


@pytest.mark.parametrize("condition", ["sound", "offset", "worn", "dirty", "binding", "unseated"])
def test_two_takes_of_an_untouched_stick_agree_within_their_uncertainty(condition: str) -> None:
    covered: list[bool] = []
    takes = takes_of(condition, 1, 3)
    for a, b in zip(takes, takes[1:] + takes[:1], strict=True):
        for reading in READINGS:
            u = hypot(
                a.uncertainty.get(reading.path, np.nan), b.uncertainty.get(reading.path, np.nan)
            )
            if np.isfinite(u) and reading.headline:
                covered.append(abs(a.value(reading.path) - b.value(reading.path)) <= 2 * u)
    assert len(covered) > 50
    assert np.mean(covered) >= 0.9


def test_the_uncertainty_is_not_so_wide_that_nothing_is_ever_seen() -> None:
    sound, worn = takes_of("sound", 2, 1)[0], takes_of("worn", 2, 1)[0]
    for path in ("composite.dead_zone_needed", "let_go.return_spread"):
        assert sound.uncertainty[path] < 0.3
        assert worn.uncertainty[path] < 0.35 * worn.value(path)
    assert sound.uncertainty["rim.circularity_error"] < 0.4
    assert sound.uncertainty["rim.roundness_lsc"] < 0.5
    radius, spread = (worn.value(f"let_go.return_{what}") for what in ("radius", "spread"))
    share = worn.uncertainty["let_go.return_radius"] / worn.uncertainty["let_go.return_spread"]
    assert share == pytest.approx(radius / spread)


def test_every_headline_reading_of_a_whole_take_has_one() -> None:
    take = takes_of("worn", 1, 1)[0]
    for reading in READINGS:
        if reading.headline and reading.applies_to(2):
            counted = reading.unit in ("", "/min")
            assert take.uncertainty[reading.path] > (-1 if counted else 0), reading.path
