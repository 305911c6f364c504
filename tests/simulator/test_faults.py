"""Every fault of the bench as physics: each must do on the stand-in what it does on a real stick, or
what is proven on it means nothing."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.simulator.conditions import CONDITIONS, fresh_stick, possible, random_stick
from hollow_pin.simulator.stand_in import Samples, StandIn, recalibrated
from hollow_pin.simulator.stick import (
    LOTS,
    Body,
    Converter,
    Sensor,
    Stick,
    Surroundings,
    aged,
    cleaned,
    draw_module,
    replaced,
)
from sticks import with_sensors

QUIET = Sensor(noise=0.0)


def made(x: Sensor = QUIET, y: Sensor = QUIET, **body: object) -> Stick:
    stick = with_sensors(x, y, bits=14)
    return replace(stick, body=replace(Body(), **body))  # type: ignore[arg-type]


def held(stick: Stick, x: float, y: float, seconds: float = 0.5, seed: int = 1) -> Samples:
    stand_in = StandIn(stick, seed)
    stand_in.hand.steer((x, y))
    stand_in.run(100)
    return stand_in.run(int(seconds * 250))


def released(stick: Stick, x: float, y: float) -> np.ndarray:
    stand_in = StandIn(stick, 1)
    stand_in.hand.steer((x, y))
    stand_in.run(150)
    stand_in.hand.steer(None)
    return stand_in.run(400).clean[-1]


def test_a_bind_holds_the_stick_only_on_its_way_back_from_its_own_side() -> None:
    stick = made(bind=8.0, bind_bearing=90.0, damping=1.2)
    assert released(stick, 110, 0)[0] > 4
    assert abs(released(stick, -110, 0)[0]) < 0.5
    assert np.abs(released(stick, 0, 110)).max() < 0.5


def test_a_rub_cuts_its_sector_of_the_rim_short_and_no_other() -> None:
    stick = made(rub=12.0, rub_bearing=180.0)
    assert np.hypot(*held(stick, 0, -118).clean[-1]) == pytest.approx(88, abs=1.5)
    for x, y in ((0, 118), (118, 0), (-118, 0)):
        assert np.hypot(*held(stick, x, y).clean[-1]) > 97


def test_a_module_that_is_not_flush_reaches_farther_one_way() -> None:
    stick = made(Sensor(noise=0.0, skew=9.0))
    right, left = held(stick, 118, 0).clean[-1, 0], held(stick, -118, 0).clean[-1, 0]
    assert right + left == pytest.approx(18, abs=0.5)


def test_a_loose_contact_jumps_to_an_end_or_to_centre_and_more_under_a_hand() -> None:
    stick = made(Sensor(noise=0.0, loose=1.0))
    pressed = held(stick, 80, 0, seconds=20)
    off = np.abs(pressed.raw[:, 0] - np.median(pressed.raw[:, 0])) > 500
    free = StandIn(stick, 1)
    alone = free.run(20 * 250)
    jumps = np.abs(alone.raw[:, 0] - np.median(alone.raw[:, 0])) > 500
    assert off.mean() > 2 * jumps.mean()
    ends = np.unique(pressed.raw[off, 0])
    assert {0.0, 16383.0} & set(ends.tolist())


def test_a_broken_track_jumps_over_its_own_place_from_either_side() -> None:
    stick = made(Sensor(noise=0.0, dead_at=30.0, dead_width=10.0))
    assert held(stick, 34, 0).clean[-1, 0] == pytest.approx(25, abs=0.3)
    stand_in = StandIn(stick, 1)
    stand_in.hand.steer((80, 0))
    stand_in.run(100)
    stand_in.hand.steer((27, 0))
    assert stand_in.run(200).clean[-1, 0] == pytest.approx(35, abs=0.3)


def test_a_failing_track_falls_back_while_held_and_recovers_when_let_go() -> None:
    stick = made(Sensor(noise=0.0, fade=12.0, fade_side=-1))
    left = held(stick, -118, 0, seconds=6).clean[:, 0]
    fallen = 12 * (np.exp(-0.4 / 2.5) - np.exp(-6.4 / 2.5))
    assert left[-1] - left[0] == pytest.approx(fallen, abs=0.3)
    assert np.ptp(held(stick, 118, 0, seconds=6).clean[:, 0]) < 0.5
    assert abs(released(stick, -118, 0)[0]) < 0.5


def test_a_tilted_magnet_carries_the_other_axis_along() -> None:
    stick = made(QUIET, Sensor(noise=0.0, cross=0.1, cross_bend=6.0))
    right, left = held(stick, 100, 0).clean[-1, 1], held(stick, -100, 0).clean[-1, 1]
    assert (right - left) / 2 == pytest.approx(10, abs=0.5)
    assert (right + left) / 2 == pytest.approx(6, abs=0.5)


def with_converter(**values: float) -> Stick:
    stick = made()
    changed = replace(stick.converter, **values)  # type: ignore[arg-type]
    return replace(stick, converter=changed)


def test_a_firmware_dead_zone_is_exactly_zero_and_then_jumps() -> None:
    stick = with_converter(dead_zone=8.0)
    values = np.unique(
        np.concatenate([held(stick, x, 0).raw[-20:, 0] for x in (-12, -9, -5, 0, 6, 9, 12)])
    )
    u = values / 16383 * 200 - 100
    inside = u[np.abs(u) < 7.9]
    assert len(np.unique(np.round(inside, 1))) == 1


def test_hum_is_on_both_axes_at_once_at_its_own_frequency() -> None:
    stand_in = StandIn(with_converter(hum=2.0, hum_hz=50.0), 1)
    raw = stand_in.run(1000).raw
    x, y = (raw - raw.mean(axis=0)).T
    assert np.corrcoef(x, y)[0, 1] > 0.99
    power = np.abs(np.fft.rfft(x))
    assert np.fft.rfftfreq(1000, 1 / 250)[power.argmax()] == pytest.approx(50, abs=0.5)


def test_a_source_without_news_repeats_and_one_that_loses_leaves_gaps() -> None:
    stand_in = StandIn(with_converter(news_every=5), 1)
    stand_in.hand.cue("rim", 0.0)
    raw = stand_in.run(1500).raw[500:]
    assert (np.diff(raw, axis=0) == 0).all(axis=1).mean() == pytest.approx(0.8, abs=0.05)
    lossy = StandIn(with_converter(lost=0.2), 1).run(2000)
    assert len(lossy.t_us) == pytest.approx(1600, rel=0.05)
    assert len(lossy.t_us) == len(lossy.raw) == len(lossy.clean)


def test_warming_up_moves_a_sensor_that_drifts() -> None:
    stick = made(Sensor(noise=0.0, drift_offset=0.2, drift_gain=-0.002))
    cold = StandIn(stick, 1, Surroundings(temperature_c=21))
    warm = StandIn(stick, 1, Surroundings(temperature_c=31))
    assert warm.run(10).clean[-1, 0] - cold.run(10).clean[-1, 0] == pytest.approx(2.0, abs=0.05)
    warming = StandIn(stick, 1, Surroundings(warm_up_c=10, warm_up_s=20))
    path = warming.run(60 * 250).clean[:, 0]
    assert path[-1] - path[0] == pytest.approx(2.0 * (1 - np.exp(-3)), abs=0.1)


def test_use_wears_a_potentiometer_and_brings_its_dirt_back_but_not_a_halls() -> None:
    stick = fresh_stick("potentiometer", "round", 10, 250, "dirty", 3)
    clean = cleaned(stick)
    later = aged(clean, 300)
    assert clean.module.x.dirt < 0.1 < later.module.x.dirt
    assert later.module.x.wear > clean.module.x.wear
    hall = fresh_stick("hall", "round", 10, 250, "sound", 3)
    assert aged(hall, 300) == hall


def test_dirt_comes_back_sooner_on_a_worn_track() -> None:
    module = draw_module(LOTS["BC-P10"], 2)
    fresh = Stick(module=module)
    worn = replace(fresh, module=replace(module, x=replace(module.x, wear=9.0)))
    assert aged(worn, 100).module.x.dirt > 1.5 * aged(fresh, 100).module.x.dirt


def test_a_new_module_takes_the_old_ones_faults_with_it() -> None:
    stick = fresh_stick("potentiometer", "round", 10, 250, "failing", 3)
    stick = replace(stick, body=replace(stick.body, bind=7.0, damping=1.4))
    fresh = replaced(stick, LOTS["LL-H1"], 5)
    for sensor in (fresh.module.x, fresh.module.y):
        assert (sensor.fade, sensor.dead_width, sensor.dropouts, sensor.wear) == (0, 0, 0, 0)
    assert fresh.body.bind == 0
    assert fresh.module.kind == "hall"


def test_a_paddle_stays_where_it_is_left_and_is_calibrated_by_its_ends() -> None:
    stick = fresh_stick("potentiometer", "round", 10, 125, "offset", 3, axes=1, sprung=False)
    stand_in = StandIn(stick, 1)
    stand_in.hand.steer((60, 0))
    stand_in.run(100)
    stand_in.hand.steer(None)
    there = stand_in.run(300)
    assert there.raw.shape[1] == 1
    assert there.clean[-1, 0] > 45
    again = recalibrated(stick, 2)
    ends = [held(again, x, 0).clean[-1, 0] for x in (120, -120)]
    assert ends == pytest.approx([100, -100], abs=1.0)


def test_an_octagon_stops_at_its_corners_and_nearer_at_its_sides() -> None:
    stick = made(gate="octagon")
    for degrees, reach in ((0, 100), (45, 100), (90, 100), (22.5, 92.4), (67.5, 92.4)):
        a = np.radians(degrees)
        at = held(stick, 125 * np.sin(a), 125 * np.cos(a)).clean[-1]
        assert np.hypot(*at) == pytest.approx(reach, abs=1.5), degrees


def test_only_faults_that_a_sensor_can_have_are_offered() -> None:
    assert "worn" not in possible("hall", True)
    assert "tilted-magnet" not in possible("potentiometer", True)
    assert "binding" not in possible("potentiometer", False)
    assert set(possible("potentiometer", True)) | set(possible("hall", True)) == set(CONDITIONS)


def test_random_stand_ins_differ_and_come_back_by_their_seed() -> None:
    sticks = [random_stick(i) for i in range(40)]
    assert sticks[7] == random_stick(7)
    assert {s.converter.bits for s in sticks} == {8, 10, 12, 14, 16}
    assert {s.module.kind for s in sticks} == {"potentiometer", "hall"}
    assert Stick.from_dict(sticks[3].to_dict()) == sticks[3]
    assert Stick.from_dict({**Stick().to_dict(), "converter": {"bits": 9}}).converter == Converter(
        9
    )
