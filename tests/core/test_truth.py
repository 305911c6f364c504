"""The readings against what was put into the stand-in: a wrong number sends somebody to solder."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.hand import Manner
from hollow_pin.simulator.perform import Performance, perform
from hollow_pin.simulator.stand_in import StandIn, recalibrated
from hollow_pin.simulator.stick import LOTS, Sensor, cleaned, replaced
from sticks import performed, performed_by, read_of, readings_of, with_sensors

STEADY = ["sound", "offset", "dirty", "worn-steady"]
"""Conditions whose truth is one place; a contact that wanders has none."""

CONDITIONS = ["sound", "offset", "worn", "dirty"]
SEEDS = [5, 18, 23]


@cache
def measured(condition: str, seed: int) -> TakeReadings:
    return readings_of(condition, seed)


def true_finals(p: Performance) -> np.ndarray:
    """Where each release left the noise-free signal, found from that signal alone."""
    t, clean = p.recording.t, p.clean
    inside = np.zeros(len(t), dtype=bool)
    for part in p.recording.attempts("let-go"):
        inside[part] = True
    rho = np.hypot(*(clean - clean[inside][np.argmin(np.hypot(*clean[inside].T))]).T)
    far = (rho > 55) & inside
    ends = np.flatnonzero(far[:-1] & ~far[1:])
    return np.array([clean[(t > t[e] + 1.2) & (t < t[e] + 1.45)].mean(axis=0) for e in ends])


def noise_quantile(sd_x: float, sd_y: float) -> float:
    """99.9th percentile of the length of Gaussian noise, from a large draw."""
    draw = np.random.default_rng(0).standard_normal((400_000, 2)) * (sd_x, sd_y)
    return float(np.percentile(np.hypot(*draw.T), 99.9))


@pytest.mark.parametrize("condition", STEADY)
@pytest.mark.parametrize("seed", SEEDS)
def test_rest_is_where_the_stick_truly_rests(condition: str, seed: int) -> None:
    p = performed(condition, seed)
    still = measured(condition, seed).still
    assert still is not None
    part = p.recording.attempts("still")[-1]
    true = p.clean[part].mean(axis=0)
    assert abs(still.rest_x - true[0]) <= 0.1
    assert abs(still.rest_y - true[1]) <= 0.1


@pytest.mark.parametrize("condition", STEADY)
@pytest.mark.parametrize("seed", SEEDS)
def test_returns_lie_as_far_apart_as_they_truly_do(condition: str, seed: int) -> None:
    p = performed(condition, seed)
    readings = measured(condition, seed)
    finals = true_finals(p)
    assert readings.let_go is not None
    assert readings.let_go.releases == len(finals) == 16
    assert readings.let_go.sectors == 8
    apart = np.hypot(*(finals[:, None] - finals[None, :]).transpose(2, 0, 1)).max()
    assert abs(readings.let_go.return_spread - apart) <= 0.3


@pytest.mark.parametrize("condition", ["sound", "offset", "worn", "failing", "binding"])
def test_a_hand_that_takes_its_time_reads_the_same(condition: str) -> None:
    """It grips the stick, takes a second to push it out, and waits for one: a sound stick trembled,
    came back late and failed at its edge."""
    stick = fresh_stick("potentiometer", "round", 10, 250.0, condition, 5)
    slowly = StandIn(stick, 5, manner=Manner(pushes=9.0, waits=0.6))
    slow = measure_take(perform(slowly, block_s=0.1).recording)
    usual = readings_of(condition)
    assert slow.let_go.releases == usual.let_go.releases
    assert slow.let_go.return_max == pytest.approx(usual.let_go.return_max, abs=0.6)
    assert slow.let_go.settle_ms_p90 < 100
    assert any(h.dropouts for h in slow.hold) == (condition == "failing")
    assert rank(slow)[0].cause == rank(usual)[0].cause


@pytest.mark.parametrize("condition", CONDITIONS)
@pytest.mark.parametrize("seed", SEEDS)
def test_circularity_error_is_that_of_the_true_rim(condition: str, seed: int) -> None:
    p = performed(condition, seed)
    rim = measured(condition, seed).rim
    assert rim is not None
    part = p.recording.attempts("rim")[-1]
    clean = np.clip(p.clean[part], -100, 100)
    length = np.hypot(*clean.T)
    clean, length = clean[length > 60], length[length > 60]
    which = (np.degrees(np.arctan2(*clean.T)) % 360 // 5).astype(int)
    # Where an axis ends, a program is given no more: what lies beyond the gate does not count there.
    ends = (np.abs(clean) >= 99.9).any(axis=1)
    off = np.array([np.median(length[which == b]) - 100 for b in range(72)])
    cut = np.array([ends[which == b].mean() > 0.5 for b in range(72)])
    true = np.abs(np.where(cut, np.minimum(off, 0), off)).mean()
    assert abs(rim.circularity_error - true) <= 0.3


@pytest.mark.parametrize("condition", ["sound", "offset"])
@pytest.mark.parametrize("seed", SEEDS)
def test_dead_zone_needed_is_the_true_farthest_rest_and_its_noise(
    condition: str, seed: int
) -> None:
    p = performed(condition, seed)
    readings = measured(condition, seed)
    residual = (p.recording.u - p.clean)[p.recording.attempts("still")[-1]]
    noise = noise_quantile(*residual.std(axis=0))
    farthest = np.hypot(*true_finals(p).T).max()
    assert readings.composite.dead_zone_needed == pytest.approx(farthest + noise, abs=0.5)


@pytest.mark.parametrize("counts", [2.0, 3.0, 6.0])
def test_jitter_is_the_noise_put_in_from_two_counts_up(counts: float) -> None:
    sd = counts * 200 / 1023
    p = performed_by(with_sensors(Sensor(noise=sd), Sensor(noise=1.5 * sd)), 8)
    still = measure_take(p.recording).still
    assert still is not None
    assert still.jitter_x == pytest.approx(sd, rel=0.15)
    assert still.jitter_y == pytest.approx(1.5 * sd, rel=0.15)


@pytest.mark.parametrize(
    ("condition", "remedy"),
    [("sound", "none"), ("offset", "recalibrated"), ("worn", "replaced"), ("dirty", "cleaned")],
)
def test_the_first_remedy_is_the_one_that_helps(condition: str, remedy: str) -> None:
    for seed in SEEDS:
        assert explain(readings_of(condition, seed)).try_first == remedy


def test_each_remedy_mends_its_own_fault_and_no_other() -> None:
    """Cleaning must not look like a cure for wear, nor recalibration like one for spread."""

    def read(stick, seed):
        return read_of(stick, seed)

    dirty = with_sensors(Sensor(dirt=1.0), Sensor())
    assert read(dirty, 1).still.spikes_per_min_x > 30
    assert read(cleaned(dirty), 2).still.spikes_per_min_x < 15
    worn = with_sensors(Sensor(wear=8.0, offset=5.0), Sensor(wear=3.0))
    spread = read(worn, 3).let_go.return_spread
    assert read(cleaned(worn), 4).let_go.return_spread == pytest.approx(spread, rel=0.5)
    again = read(recalibrated(worn, 1), 5)
    assert again.let_go.return_spread == pytest.approx(spread, rel=0.5)
    assert np.hypot(again.let_go.return_centre_x, again.let_go.return_centre_y) < 2.5
    swapped = read(replaced(worn, LOTS["LL-H1"], 4), 6)
    assert swapped.let_go.return_spread < 1.5


def test_recentring_forecast_is_what_a_recalibration_then_reaches() -> None:
    stick = with_sensors(
        Sensor(offset=9.0, gain_minus=0.88, gain_plus=0.88),
        Sensor(offset=-4.0, gain_minus=0.9, gain_plus=0.86),
    )
    before = read_of(stick, 1)
    after = read_of(recalibrated(stick, 9), 2)
    forecast = before.composite.dead_zone_after_recentring
    assert before.composite.dead_zone_needed > 9
    assert after.composite.dead_zone_needed == pytest.approx(forecast, abs=0.6)
    forecast = before.composite.circularity_after_recalibration
    assert after.rim.circularity_error == pytest.approx(forecast, abs=0.8)


def test_a_square_gate_is_held_against_a_square() -> None:
    """A desk stick that fills its square gate would fail every limit against a circle."""
    stick = fresh_stick("hall", "square", 16, 500, "sound", 4)
    flat = Sensor(noise=0.02)
    stick = replace(stick, module=replace(stick.module, x=flat, y=flat))
    recording = performed_by(stick, 2).recording
    rim = measure_take(recording, "square").rim
    assert rim.circularity_error <= 0.3
    other = measure_take(recording, "round")
    assert other.composite.gate_seen == "square"
    assert [p.code for p in other.problems if p.step == "rim"] == ["ends", "gate"]
