"""A stick that trembles at some of the places that it comes back to, and lies in Still at one that is
quiet, or is not: by the Still alone it was sound, or mended, and neither was so."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from math import hypot, sqrt
from statistics import NormalDist
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from hollow_pin.core.comparison import compare
from hollow_pin.core.let_go import LetGoResult
from hollow_pin.core.limits import verdict_on
from hollow_pin.core.readings import TREMBLES_APART, TakeReadings
from hollow_pin.core.recording import Recording
from hollow_pin.core.rest_uncertainty import FARTHEST, FEWEST_RESTS, OF_TENTHS, u_by_place
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.take_warnings import trembling_by_place
from sticks import HERE, performed

FINE = [0.001, 0.001]


def left(trembles: np.ndarray, read_from: float = 60.0) -> LetGoResult:
    """What a Let-go left behind: (releases, axes) %, each read from so many samples."""
    nothing: Any = None
    return LetGoResult(nothing, np.zeros((len(trembles), 2)), (), 0.0, trembles, read_from)


def apart(trembles: np.ndarray, steps: list[float], read_from: float = 60.0) -> dict[str, float]:
    measured: Any = SimpleNamespace(still=object(), let_go=left(trembles, read_from))
    return u_by_place(measured, steps)


def here_and_there(loud: float, share: int = 8, of: int = 16) -> np.ndarray:
    x = np.where(np.arange(of) < share, loud, 0.1)
    return np.column_stack((x, np.full(of, 0.1)))


def test_half_of_the_places_rough() -> None:
    """As far as the quietest is from the worst, two Stills of one stick may differ."""
    rough = apart(here_and_there(2.1), FINE)
    assert rough["still.jitter_x"] == pytest.approx(np.std([0.1, 2.1], ddof=0), rel=0.05)
    assert "still.jitter_y" not in rough, "the other axis lies quiet at all of them"
    for path in ("noise_reach", "dead_zone_needed", "dead_zone_after_recentring"):
        at = f"still.{path}" if path == "noise_reach" else f"composite.{path}"
        assert rough[at] == FARTHEST * rough["still.jitter_x"]


def test_a_noise_reaches_as_far_as_a_normal_one_does() -> None:
    """In all but one sample of a thousand."""
    assert pytest.approx(NormalDist().inv_cdf(0.9995), abs=0.02) == FARTHEST


def test_one_rough_place_of_many() -> None:
    """Two Stills may lie at the quietest and the worst of them, and that is no change."""
    rough = apart(here_and_there(2.1, share=1), FINE)
    assert 2 * sqrt(2) * rough["still.jitter_x"] == pytest.approx(2.0)


def test_what_a_quarter_second_shows_by_chance_is_not_the_place() -> None:
    rng = np.random.default_rng(4)
    for samples in (15, 62, 250):
        noise = rng.normal(0.0, 1.0, (16, 2, samples))
        tenths = np.ptp(np.quantile(noise, (0.1, 0.9), axis=2), axis=0) / 2.5631
        assert apart(tenths, FINE, samples) == {}
    spread = np.array([[0.9, 0.9], [1.1, 1.1]] * 8)
    variance = float(spread[:, 0].var(ddof=1))
    mean = float(np.square(spread[:, 0]).mean())
    assert apart(spread, FINE, OF_TENTHS * mean / variance * 0.99) == {}
    assert apart(spread, FINE, OF_TENTHS * mean / variance * 1.01)


def test_where_it_rests_between_two_steps_is_not_the_place() -> None:
    """One step or none makes 0.3 of a step of noise, or none."""
    trembles = here_and_there(0.39, share=5)
    trembles[trembles == 0.1] = 0.0
    assert apart(trembles, [1.0, 1.0]) == {}
    assert apart(trembles, [0.5, 0.5])


@pytest.mark.parametrize(("places", "known"), [(FEWEST_RESTS, True), (FEWEST_RESTS - 1, False)])
def test_a_few_places_tell_nothing(places: int, known: bool) -> None:
    assert bool(apart(here_and_there(2.0, share=1, of=places), FINE)) == known


def test_without_a_still_there_is_nothing_to_be_uncertain_of() -> None:
    measured: Any = SimpleNamespace(still=None, let_go=left(here_and_there(2.0)))
    assert u_by_place(measured, FINE) == {}


def test_spikes_in_still_hide_no_late_return() -> None:
    """Two of them made so wide a band that every return was there at once."""
    recording = performed("sound").recording
    spiked = recording.raw.copy()
    still = recording.attempts("still")[0]
    for at in (300, 1500):
        spiked[still.start + at : still.start + at + 30, 0] -= 250
    take = measure_take(replace(recording, raw=spiked))
    assert take.value("still.jitter_x") > 3.0
    settles = measure_take(recording).value("let_go.settle_ms_p90")
    assert settles > 10
    assert take.value("let_go.settle_ms_p90") == pytest.approx(settles, rel=0.2)


@cache
def rough_in_places(still_at: float) -> Recording:
    """A sound stick but for dirt where x rests at −0.6 % or below; in Still it lies still_at, and
    comes back now on one side of that and now on the other."""
    recording = performed("sound").recording
    u, rng = recording.u.copy(), np.random.default_rng(8)
    still = recording.attempts("still")[0]
    u[still, 0] += still_at - np.median(u[still, 0])
    pushed = np.abs(u).max(axis=1) > 20.0
    nth = np.cumsum(np.diff(pushed.astype(int), prepend=0) == -1)
    let_go = recording.attempts("let-go")[0]
    home = np.zeros(len(u), bool)
    home[let_go] = ~pushed[let_go]
    u[home, 0] += np.where(nth[home] % 2 == 0, -0.9, 0.3)
    dirt = (
        (u[:, 0] < -0.6) & (u[:, 0] > -2.0) & (home | (recording.step == recording.step[still][0]))
    )
    u[dirt, 0] += rng.normal(0.0, 2.5, int(dirt.sum()))
    lo = np.array([r.lo for r in recording.ranges])
    half = np.array([r.half for r in recording.ranges])
    return replace(recording, raw=np.clip(np.round(lo + half + u * half / 100), lo, lo + 2 * half))


@cache
def take_of(still_at: float) -> TakeReadings:
    return measure_take(rough_in_places(still_at))


def test_a_stick_that_lies_quiet_and_trembles_elsewhere_is_not_called_sound() -> None:
    quiet = take_of(0.0)
    assert quiet.value("still.jitter_x") < 0.3, "it lies at a place that is quiet"
    assert verdict_on(quiet, "still.jitter_x", 0.8) == "borderline"
    advice = explain(quiet).advice
    assert "jitter" in advice
    assert advice.endswith(
        "Let it go from another side, and take Still again: it may tremble there."
    )
    known = quiet.by_place | {"still.jitter_x": TREMBLES_APART - 1e-6}
    longer = explain(replace(quiet, by_place=known)).advice
    assert longer.endswith("Measure again, and longer."), "too little was seen of its other places"
    messages = [p.message for p in quiet.problems if p.code == "by-place"]
    assert len(messages) == 1
    assert messages[0].startswith("x trembles by")


def test_what_is_over_where_it_lies_is_over() -> None:
    """That it is quiet at other places excuses nothing."""
    loud = take_of(-1.2)
    path = "still.jitter_x"
    value, u, place = loud.value(path), loud.uncertainty[path], loud.by_place[path]
    own = sqrt(u**2 - place**2)
    assert value - 2 * u < 0.8 < value - 2 * own
    assert verdict_on(loud, path, 0.8) == "over"
    assert verdict_on(loud, path, value - 2 * own - 1e-6) == "over"
    assert verdict_on(loud, path, value - 2 * own + 1e-6) == "borderline"
    recording = rough_in_places(-1.2)
    still = recording.step == recording.step[recording.attempts("still")[0]][0]
    alone = measure_take(
        replace(recording, step=np.where(still, recording.step, -1).astype(np.int8))
    )
    assert alone.by_place == {}
    assert u == pytest.approx(hypot(alone.uncertainty[path], place), rel=1e-4)


def test_the_same_stick_at_another_place_is_no_change() -> None:
    quiet, loud = take_of(0.0), take_of(-1.2)
    for before, after in ((quiet, loud), (loud, quiet)):
        assert compare(before, after, HERE, HERE).overall not in ("better", "worse", "mixed")


def test_a_stick_that_is_quiet_everywhere_has_none_of_it() -> None:
    take = measure_take(performed("sound").recording)
    assert not any("jitter" in path for path in take.by_place)
    assert not any(p.code == "by-place" for p in take.problems)


@pytest.mark.parametrize(("u", "said"), [(TREMBLES_APART, 1), (TREMBLES_APART - 1e-6, 0)])
def test_it_is_said_from_a_fifth_of_a_percent_on(u: float, said: int) -> None:
    problems = trembling_by_place(left(here_and_there(1.0)), {"still.jitter_x": u})
    assert len(problems) == said
    assert trembling_by_place(None, {}) == []
