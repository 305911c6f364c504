"""The stand-in must behave like a stick: what is proven on it is claimed for real ones."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.calculators.trim import Network
from hollow_pin.simulator.conditions import CONDITIONS, fresh_stick
from hollow_pin.simulator.repairs import Treatment, repaired
from hollow_pin.simulator.stand_in import StandIn, recalibrated
from hollow_pin.simulator.stick import LOTS, Body, Converter, Sensor, Stick, cleaned, draw_module
from hollow_pin.simulator.trims import fitted
from sticks import with_sensors

QUIET = Sensor(noise=0.0)


def stick(body: Body | None = None, x: Sensor = QUIET, y: Sensor = QUIET) -> Stick:
    return replace(with_sensors(x, y, bits=14), body=body or Body())


def test_the_same_seed_gives_the_same_samples_and_another_does_not() -> None:
    made = fresh_stick("potentiometer", "round", 10, 250, "worn", 3)
    first, again, other = (StandIn(made, seed).run(500) for seed in (1, 1, 2))
    assert (first.raw == again.raw).all()
    assert (first.t_us == again.t_us).all()
    assert (first.raw != other.raw).any()


def test_in_which_pieces_it_runs_does_not_move_the_stick() -> None:
    whole, pieces = StandIn(stick(), 4), StandIn(stick(), 4)
    for one in (whole, pieces):
        one.hand.steer((80, 0))
    a = whole.run(100).clean[-1]
    for _ in range(10):
        b = pieces.run(10).clean[-1]
    assert a == pytest.approx(b, abs=0.5)


def test_a_released_stick_comes_back_to_where_friction_holds_it() -> None:
    for friction in (0.2, 1.5):
        body = Body(friction_x=friction, friction_y=friction)
        finals = []
        for aim in ((110, 0), (-110, 0), (0, 110), (0, -110)):
            stand_in = StandIn(stick(body), 1)
            stand_in.hand.steer(aim)
            stand_in.run(150)
            stand_in.hand.steer(None)
            finals.append(stand_in.run(300).clean[-1])
        assert np.abs(finals).max() <= friction + 0.05


@pytest.mark.parametrize("damping", [0.7, 4.0, 8.0])
def test_a_slow_stick_goes_where_it_is_held_and_does_not_shake(damping: float) -> None:
    """One that is slow and stiff swung from side to side, faster than it was stepped."""
    stand_in = StandIn(stick(Body(damping=damping, spring_hz=20.0)), 1)
    stand_in.hand.steer((80.0, 8.0))
    path = stand_in.run(500).clean
    # The hand bears against the spring: what it aims at is where it comes to.
    assert path[-1] == pytest.approx((80.0, 8.0), abs=0.5)
    assert (np.diff(path, axis=0) > -1.5).all()


def test_more_friction_leaves_returns_farther_apart() -> None:
    def spread(friction: float) -> float:
        body = Body(friction_x=friction, friction_y=friction, damping=1.3)
        ends = []
        for aim in ((110, 0), (-110, 0)):
            stand_in = StandIn(stick(body), 1)
            stand_in.hand.steer(aim)
            stand_in.run(150)
            stand_in.hand.steer(None)
            ends.append(stand_in.run(300).clean[-1][0])
        return abs(ends[0] - ends[1])

    assert spread(2.0) > spread(0.2) + 1


def test_a_released_stick_swings_past_and_settles() -> None:
    stand_in = StandIn(stick(Body(damping=0.3)), 1)
    stand_in.hand.steer((110, 0))
    stand_in.run(150)
    stand_in.hand.steer(None)
    x = stand_in.run(250).clean[:, 0]
    assert x.min() < -5
    assert np.abs(x[-50:]).max() < 0.5


@pytest.mark.parametrize(("gate", "corner"), [("round", 100.0), ("square", 100 * np.sqrt(2))])
def test_the_gate_stops_it(gate: str, corner: float) -> None:
    stand_in = StandIn(stick(Body(gate=gate)), 1)  # type: ignore[arg-type]
    stand_in.hand.steer((150, 150))
    end = stand_in.run(200).clean
    assert np.hypot(*end[-1]) == pytest.approx(corner, abs=0.5)
    assert np.hypot(*end.T).max() <= corner + 0.5


@pytest.mark.parametrize(
    ("bits", "rate", "timing"), [(8, 60, 1.5), (10, 250, 0.05), (16, 1000, 0.2)]
)
def test_the_converter_has_its_bits_its_rate_and_its_unrest(
    bits: int, rate: float, timing: float
) -> None:
    made = replace(stick(), converter=Converter(bits, rate, timing))
    samples = StandIn(made, 1).run(2000)
    assert (samples.raw == np.round(samples.raw)).all()
    assert samples.raw.min() >= 0
    assert samples.raw.max() <= 2**bits - 1
    intervals = np.diff(samples.t_us) / 1e6
    assert (intervals >= 0).all()
    assert 1 / np.median(intervals) == pytest.approx(rate, rel=0.01)
    assert intervals.std() * 1e3 == pytest.approx(timing * np.sqrt(2), rel=0.2)


def test_noise_is_as_loud_as_it_was_set() -> None:
    stand_in = StandIn(stick(x=Sensor(noise=0.8), y=Sensor(noise=0.3)), 1)
    u = stand_in.run(4000).raw / (2**14 - 1) * 200 - 100
    assert u.std(axis=0) == pytest.approx([0.8, 0.3], rel=0.06)


def test_a_worn_track_remembers_from_where_it_was_left() -> None:
    def left_after(aim: tuple[float, float]) -> float:
        worn = stick(Body(damping=1.3), x=Sensor(noise=0.0, wear=6.0, wander=0.0))
        stand_in = StandIn(worn, 1)
        stand_in.hand.steer(aim)
        stand_in.run(150)
        stand_in.hand.steer(None)
        return float(stand_in.run(300).clean[-1, 0])

    assert abs(left_after((110, 0)) - left_after((-110, 0))) > 1


def test_cleaning_takes_dirt_and_nothing_else() -> None:
    before = stick(x=Sensor(dirt=0.9, wear=4.0, offset=3.0))
    after = cleaned(before)
    assert after.module.x.dirt < 0.1
    assert replace(after.module.x, dirt=0.9) == before.module.x
    assert after.calibration == before.calibration


def test_recalibration_centres_and_scales_what_the_stick_can_reach() -> None:
    lame = stick(x=Sensor(noise=0, offset=12.0, gain_plus=0.8, gain_minus=0.7))
    stand_in = StandIn(recalibrated(lame, 3), 1)
    assert abs(stand_in.run(50).clean[-1, 0]) < 0.7
    for aim, wanted in (((120, 0), 100), ((-120, 0), -100)):
        stand_in.hand.steer(aim)
        assert stand_in.run(200).clean[-1, 0] == pytest.approx(wanted, abs=0.5)


def test_modules_of_a_lot_scatter_as_the_lot_says() -> None:
    lot = LOTS["BC-P10"]
    offsets = [draw_module(lot, seed).x.offset for seed in range(300)]
    assert np.std(offsets) == pytest.approx(lot.offset, rel=0.15)
    assert abs(np.mean(offsets)) < 0.3
    off = LOTS["LL-H0"]
    assert np.abs([draw_module(off, seed).x.offset for seed in range(100)]).mean() > 6


@pytest.mark.parametrize("condition", sorted(CONDITIONS))
def test_a_stick_survives_being_put_on_record(condition: str) -> None:
    made = fresh_stick("potentiometer", "square", 12, 200, condition, 9)
    back = Stick.from_dict(json.loads(json.dumps(made.to_dict())))
    assert back == made


def test_a_visitors_hand_replaces_the_performance() -> None:
    stand_in = StandIn(stick(), 1)
    stand_in.hand.cue("rim", stand_in.now)
    stand_in.run(200)
    stand_in.hand.steer((0, 60))
    assert stand_in.run(150).clean[-1] == pytest.approx((0, 60), abs=1)
    stand_in.hand.steer(None)
    assert np.abs(stand_in.run(300).clean[-1]).max() < 1


def test_a_trim_shifts_the_rest_as_its_network_does_and_stays_where_it_was_left() -> None:
    """Turned by a tenth, by the laws that the calculator is held against; and kept with the stick."""
    made = fresh_stick("potentiometer", "round", 12, 250.0, "offset", 3)
    fresh = fitted("trim", 3)
    stand_in = StandIn(replace(made, trims=(fresh,)), 3)
    bare = StandIn(made, 3).run(250).clean.mean(axis=0)
    turning = stand_in.turning
    turning.turn(0, 0.1)
    while turning.busy:
        stand_in.run(10)
    left = turning.pair
    assert left[0].setting == pytest.approx(fresh[0].setting + 0.1 * fresh[0].way)
    assert left[1] == fresh[1]
    rest = stand_in.run(250).clean.mean(axis=0)
    for i in (0, 1):
        trim = left[i]
        network = Network(trim.track_ohms, trim.trim_ohms, trim.series_ohms, 3.3)
        place = 0.5 + bare[i] / 200
        shift = 200 * (float(network.output(place, trim.setting)) - place)
        assert rest[i] == pytest.approx(bare[i] + shift, abs=0.6), "but for where it came to rest"
    kept = repaired(made, "trimmed", Treatment(trims=left))
    again = Stick.from_dict(json.loads(json.dumps(kept.to_dict())))
    assert again.trims == (left,)
    older = made.to_dict()
    del older["trims"]
    assert Stick.from_dict(older).trims == ()
    eased = repaired(again, "eased", Treatment(trims=fitted("housing", 5)))
    assert [pair[0].kind for pair in eased.trims] == ["trim", "housing"]
    assert repaired(eased, "trimmed", Treatment(trims=left)).trims[-1] == left


def test_a_trim_cannot_be_turned_past_its_end() -> None:
    stand_in = StandIn(
        replace(
            fresh_stick("potentiometer", "round", 12, 250.0, "sound", 3), trims=(fitted("trim", 3),)
        ),
        3,
    )
    stand_in.turning.turn(0, 3.0)
    while stand_in.turning.busy:
        stand_in.run(50)
    assert stand_in.turning.pair[0].setting in (0.0, 1.0)
