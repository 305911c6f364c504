"""The arithmetic of the bench, against solving the same network node by node, and published values."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hollow_pin.cli.main import main
from hollow_pin.core.calculators.calculator import OutOfBounds, Own
from hollow_pin.core.calculators.dead_zone import received, shaped
from hollow_pin.core.calculators.divider import compared, divide
from hollow_pin.core.calculators.iron import LIQUIDUS_C, MOST_C, celsius, fahrenheit, start
from hollow_pin.core.calculators.table import BY_NAME
from hollow_pin.core.calculators.trim import E24, Network, suggest
from hollow_pin.core.remedies import WORK
from hollow_pin.core.worth import Money, worth


def nodal(resistors: list[tuple[str, str, float]], supply: float) -> tuple[dict[str, float], float]:
    """Voltages of a network and the current from its supply, by Kirchhoff's laws: nodes “v” and “0”
    are held. resistors: between two nodes, Ω above 0."""
    names = sorted({n for a, b, _ in resistors for n in (a, b)} - {"v", "0"})
    held = {"v": supply, "0": 0.0}
    g = np.zeros((len(names), len(names)))
    i = np.zeros(len(names))
    for a, b, ohms in resistors:
        for one, other in ((a, b), (b, a)):
            if one in held:
                continue
            row = names.index(one)
            g[row, row] += 1 / ohms
            if other in held:
                i[row] += held[other] / ohms
            else:
                g[row, names.index(other)] -= 1 / ohms
    volts = held | dict(zip(names, np.linalg.solve(g, i), strict=True))
    drawn = sum(
        (volts["v"] - volts[b if a == "v" else a]) / ohms
        for a, b, ohms in resistors
        if "v" in (a, b)
    )
    return volts, float(drawn)


def test_a_trim_network_is_what_kirchhoff_s_laws_make_of_it() -> None:
    """A thousand networks drawn at random, to a thousandth of a millionth."""
    rng = np.random.default_rng(4)
    for _ in range(1000):
        r, rt = 10 ** rng.uniform(2.5, 6, 2)
        rs = 10 ** rng.uniform(1, 6)
        p, s = rng.uniform(0.001, 0.999, 2)
        v = rng.uniform(1, 6)
        network = Network(r, rt, rs, v)
        volts, drawn = nodal(
            [
                ("v", "w", (1 - p) * r),
                ("w", "0", p * r),
                ("v", "t", (1 - s) * rt),
                ("t", "0", s * rt),
                ("t", "w", rs),
            ],
            v,
        )
        assert float(network.output(p, s)) == pytest.approx(volts["w"] / v, abs=1e-9)
        assert float(network.current_ma(p, s)) == pytest.approx(1e3 * drawn, rel=1e-9)
        step = 1e-5
        slope = float(network.output(0.5 + step, s) - network.output(0.5 - step, s)) / (2 * step)
        assert network.slope_at_centre(s) == pytest.approx(slope, rel=1e-6)
        travel = np.linspace(0, 1, 997)
        assert network.most_current_ma(s) >= network.current_ma(travel, s).max() * (1 - 1e-9)
        worst = max(network.current_ma(travel, end).max() for end in (0.0, 1.0))
        assert network.worst_current_ma() == pytest.approx(worst, rel=1e-9)
        off = np.abs(network.output(travel, s) - travel).max() * 200
        assert off - 1e-9 <= network.departure_percent(s) <= off + 0.05, (
            "between places of the grid"
        )


def test_the_setting_that_is_told_to_centre_a_stick_does() -> None:
    rng = np.random.default_rng(5)
    centred = 0
    for _ in range(500):
        network = Network(10e3, 10 ** rng.uniform(3, 5), 10 ** rng.uniform(3, 5.5), 3.3)
        rest = rng.uniform(-30, 30)
        setting = network.centring_setting(rest)
        low, high = network.furthest_percent(0.5 + rest / 200)
        if setting is None:
            assert not low <= -rest <= high, "one exists, and none was found"
            continue
        centred += 1
        assert float(network.output(0.5 + rest / 200, setting)) == pytest.approx(0.5, abs=1e-9)
    assert centred > 100


def test_what_is_suggested_centres_it_with_room_to_turn_and_little_current() -> None:
    for rest in (-9.0, 6.0, 15.0):
        offered = suggest(10e3, 3.3, rest)
        assert offered
        for s in offered:
            network = Network(10e3, s.trim_ohms, s.series_ohms, 3.3)
            assert float(network.output(0.5 + rest / 200, s.setting)) == pytest.approx(0.5)
            assert 0.15 <= s.setting <= 0.85
            assert network.worst_current_ma() <= 5.0
        slopes = [round(s.slope, 2) for s in offered]
        assert slopes == sorted(slopes, reverse=True)


def test_what_is_suggested_is_sold_and_the_best_of_all_that_is() -> None:
    """Of every pair that centres it with room and little current none keeps more of the slope."""
    rest = 6.0
    best = []
    for trim in (1e3, 2.2e3, 4.7e3, 1e4, 2.2e4, 4.7e4, 1e5, 2.2e5, 4.7e5):
        for series in (round(v * d) for d in (1e3, 1e4, 1e5) for v in E24):
            network = Network(10e3, trim, series, 3.3)
            setting = network.centring_setting(rest)
            if (
                setting is not None
                and 0.15 <= setting <= 0.85
                and network.worst_current_ma() <= 5.0
            ):
                best.append((round(network.slope_at_centre(setting), 2), trim, series))
    best.sort(reverse=True)
    offered = suggest(10e3, 3.3, rest)
    assert [round(s.slope, 2) for s in offered] == [b[0] for b in best[:5]]
    assert {(s.trim_ohms, s.series_ohms) for s in offered} <= {(t, s) for _, t, s in best}


def test_nothing_is_suggested_that_draws_more_than_five_milliamperes() -> None:
    """A current grows with its supply: the same network just under five, and just over."""
    first = suggest(10e3, 1.0, 6.0)[0]
    for most, offered in ((4.98, True), (5.02, False)):
        suggestion = suggest(10e3, most / first.worst_ma, 6.0)
        same = [
            s
            for s in suggestion
            if (s.trim_ohms, s.series_ohms) == (first.trim_ohms, first.series_ohms)
        ]
        assert bool(same) == offered


def test_a_trim_without_a_resistor_has_no_end_that_it_may_be_turned_to() -> None:
    """There it shorts the supply: what it would do there is not told."""
    bare = BY_NAME["trim"].calculate(TRIM | {"series_ohms": "0"})
    ends = ("shift_at_low_percent", "shift_at_high_percent", "worst_current_ma")
    assert [bare[name] for name in ends] == [None, None, None]
    held = BY_NAME["trim"].calculate(TRIM)
    assert held["shift_at_low_percent"] < held["shift_percent"] < held["shift_at_high_percent"]


def test_a_trim_leaves_room_to_be_turned_either_way() -> None:
    settings = [s.setting for rest in np.arange(-30.0, 30.5, 0.5) for s in suggest(10e3, 3.3, rest)]
    assert min(settings) == pytest.approx(0.15, abs=0.01)
    assert max(settings) == pytest.approx(0.85, abs=0.01)


def test_a_divider_is_what_kirchhoff_s_laws_make_of_it() -> None:
    rng = np.random.default_rng(6)
    for _ in range(1000):
        r, load = 10 ** rng.uniform(2.5, 5, 1)[0], 10 ** rng.uniform(4, 7, 1)[0]
        p, v = rng.uniform(0.001, 0.999), rng.uniform(1, 6)
        divided = divide(r, p, load, v, 10)
        volts, drawn = nodal([("v", "w", (1 - p) * r), ("w", "0", p * r), ("w", "0", load)], v)
        assert divided.output == pytest.approx(volts["w"] / v, abs=1e-9)
        assert divided.current_ma == pytest.approx(1e3 * drawn, rel=1e-9)
        assert divided.counts_lost == pytest.approx((p - divided.output) * 1023)


def test_a_capacitor_that_has_no_time_to_charge_is_said_in_counts() -> None:
    one = divide(10e3, 0.5, 1e9, 3.3, 12, 10.0, 2500 * 10e-12 * 1e6)
    assert one.settling_error_counts == pytest.approx(4095 / np.e, rel=1e-6)
    assert divide(10e3, 0.5, 1e9, 3.3).settling_error_counts is None


@pytest.mark.parametrize(
    ("alloy", "liquidus"),
    [("Sn63Pb37", 183), ("Sn60Pb40", 190), ("Sn42Bi58", 138), ("Sn96.5Ag3.5", 221)],
)
def test_an_iron_starts_from_where_the_alloy_is_liquid(alloy: str, liquidus: float) -> None:
    settings = start(alloy, 1.6, "signal")
    assert settings.liquidus_c == liquidus
    assert settings.least_c <= settings.start_c <= settings.most_c
    assert settings.start_f == fahrenheit(settings.start_c)


@pytest.mark.parametrize(
    ("tip_mm", "mass", "method", "celsius"),
    [
        (1.6, "signal", "iron", 293.0),
        (1.6, "ground", "iron", 328.0),
        (1.6, "frame", "iron", 343.0),
        (0.9, "signal", "iron", 313.0),
        (1.0, "signal", "iron", 293.0),
        (2.3, "signal", "iron", 293.0),
        (2.4, "signal", "iron", 283.0),
        (1.6, "signal", "braid", 313.0),
        (1.6, "signal", "pump", 303.0),
        (1.6, "signal", "hot-air", 323.0),
    ],
)
def test_every_term_adds_what_it_says(tip_mm, mass, method, celsius: float) -> None:
    """Of an alloy that is liquid from 183 °C; the reasons name the same numbers."""
    assert start("Sn63Pb37", tip_mm, mass, method).start_c == celsius


@pytest.mark.parametrize(
    ("mass", "method", "says"),
    [
        ("ground", "iron", "A ground plane draws heat off: 35 more"),
        ("frame", "iron", "A frame leg in the plane draws heat off: 50 more"),
        ("signal", "braid", "Braid takes heat away from the joint: 20 more."),
        ("signal", "pump", "A pump takes heat away from the joint: 10 more."),
        ("signal", "hot-air", "Hot air takes heat away from the joint: 30 more."),
    ],
)
def test_every_term_says_why(mass, method, says: str) -> None:
    assert any(r.startswith(says) for r in start("Sn63Pb37", 1.6, mass, method).reasons)


def test_more_heat_is_wanted_where_more_is_drawn_off_and_never_past_what_boards_bear() -> None:
    for alloy in LIQUIDUS_C:
        signal, ground, frame = (
            start(alloy, 1.6, mass).start_c  # type: ignore[arg-type]
            for mass in ("signal", "ground", "frame")
        )
        assert signal < ground <= frame <= MOST_C
        assert start(alloy, 0.8, "signal").start_c > signal > start(alloy, 3.0, "signal").start_c
        assert len(start(alloy, 0.8, "ground", "braid").reasons) >= 5


@given(st.floats(-273.15, 1e4))
@settings(max_examples=50)
def test_degrees_convert_back(degrees: float) -> None:
    assert celsius(fahrenheit(degrees)) == pytest.approx(degrees, abs=1e-9)
    assert (fahrenheit(350), fahrenheit(0), celsius(700)) == (662, 32, pytest.approx(371.1111))


TRIM = {
    "track_ohms": "10000",
    "trim_ohms": "10000",
    "series_ohms": "22000",
    "position": "0.53",
    "setting": "0.4",
    "supply_v": "3.3",
}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"track_ohms": "0"}, "track_ohms: 0 is not a number above 0"),
        ({"track_ohms": None}, "track_ohms: is missing"),
        ({"setting": "1.01"}, "setting: 1.01 is not a number from 0 to 1"),
        ({"setting": "half"}, "setting: “half” is not a number"),
        ({"setting": "nan"}, "setting: nan"),
        ({"ohms": "1"}, "ohms: is no input of trim"),
        ({"track_ohms": "1e99"}, "track_ohms: 1e99 is not a number"),
        ({"series_ohms": "-1"}, "series_ohms: -1 is not a number"),
        ({"series_ohms": "0", "setting": "1"}, "setting: 1 with no series_ohms shorts"),
    ],
)
def test_an_input_out_of_bounds_is_named_with_its_bounds(change: dict, says: str) -> None:
    given_ = {k: v for k, v in (TRIM | change).items() if v is not None}
    with pytest.raises(OutOfBounds, match=says):
        BY_NAME["trim"].calculate(given_)


def test_a_share_goes_from_nothing_to_all_and_whole_numbers_are_whole() -> None:
    inputs = {i.key: i for name in BY_NAME for i in BY_NAME[name].inputs}
    assert inputs["inner_percent"].read("0") == 0
    assert inputs["bits"].read("12") == 12
    assert isinstance(inputs["bits"].read("12"), int), "12.0 bits would stand on record"
    with pytest.raises(OutOfBounds):
        inputs["bits"].read("12.5")


def test_a_temperature_is_converted_either_way() -> None:
    for given_ in ({"celsius": "350"}, {"fahrenheit": "662"}):
        result = BY_NAME["temperature"].calculate(given_)
        assert (result["celsius"], result["fahrenheit"]) == (pytest.approx(350), pytest.approx(662))


def test_parts_within_their_tolerance_never_shift_it_beyond_the_bounds_that_are_told() -> None:
    result = BY_NAME["trim"].calculate(TRIM | {"tolerance_percent": "10"})
    rng = np.random.default_rng(8)
    shifts = []
    for a, b, c in rng.uniform(0.9, 1.1, (3000, 3)):
        network = Network(10e3 * a, 10e3 * b, 22e3 * c, 3.3)
        shifts.append(200 * (float(network.output(0.53, 0.4)) - 0.53))
    least, most = result["shift_least_percent"], result["shift_most_percent"]
    assert least <= min(shifts)
    assert max(shifts) <= most
    corners = [
        200 * (float(Network(10e3 * a, 10e3 * b, 22e3 * c, 3.3).output(0.53, 0.4)) - 0.53)
        for a in (0.9, 1.1)
        for b in (0.9, 1.1)
        for c in (0.9, 1.1)
    ]
    assert (least, most) == (pytest.approx(min(corners)), pytest.approx(max(corners)))
    width = most - least
    assert min(shifts) - least < 0.2 * width
    assert most - max(shifts) < 0.2 * width


@pytest.mark.parametrize(("track", "alike"), [(7510.0, True), (7500.0, False), (12_490.0, True)])
def test_from_where_on_another_track_makes_a_difference(track: float, alike: bool) -> None:
    """A quarter more or less is what no circuit here can tell."""
    given_ = {"track_ohms": track, "position": 0.5, "input_ohms": 1e6, "supply_v": 3.3}
    text = " ".join(compared(given_, 10_000.0, None))
    assert ("as far as the circuit can tell" in text) == alike


def test_the_bounds_themselves_are_allowed() -> None:
    BY_NAME["trim"].calculate(TRIM | {"position": "0"})
    BY_NAME["trim"].calculate(TRIM | {"position": "1", "setting": "0"})
    BY_NAME["trim"].calculate(TRIM | {"series_ohms": "0"})
    with pytest.raises(OutOfBounds):
        BY_NAME["temperature"].calculate({"celsius": "-273.16"})
    with pytest.raises(OutOfBounds, match="one of them"):
        BY_NAME["temperature"].calculate({"celsius": "1", "fahrenheit": "1"})


def test_tolerances_are_bounds_that_no_parts_within_them_leave() -> None:
    """A thousand draws of parts within 10 % stay inside, and some come close to either end."""
    result = BY_NAME["trim"].calculate(TRIM | {"tolerance_percent": "10"})
    low, high = result["shift_least_percent"], result["shift_most_percent"]
    rng = np.random.default_rng(8)
    shifts = []
    for r, rt, rs in (1 + rng.uniform(-0.1, 0.1, (1000, 3))) * (10e3, 10e3, 22e3):
        shifts.append(200 * (float(Network(r, rt, rs, 3.3).output(0.53, 0.4)) - 0.53))
    assert low <= min(shifts) < low + 0.15 * (high - low)
    assert high - 0.15 * (high - low) < max(shifts) <= high
    exact = BY_NAME["trim"].calculate(TRIM | {"tolerance_percent": "0"})
    assert exact["shift_least_percent"] == exact["shift_most_percent"] == exact["shift_percent"]
    assert BY_NAME["trim"].calculate(TRIM)["shift_least_percent"] is None


def test_values_to_buy_are_told_where_the_stick_s_rest_is() -> None:
    result = BY_NAME["trim"].calculate(TRIM | {"rest_percent": "6"})
    assert len(result["suggested"]) == 5
    assert "000 Ω" in result["suggested"][0]
    assert BY_NAME["trim"].calculate(TRIM)["suggested"] == []
    assert (result["shift_at_low_percent"], result["shift_at_high_percent"]) == pytest.approx(
        Network(10e3, 10e3, 22e3, 3.3).furthest_percent(0.53)
    )


DIVIDER = {"track_ohms": "2300", "position": "0.5", "input_ohms": "1e6", "supply_v": "3.3"}


def test_a_module_of_another_value_is_named_with_what_it_does() -> None:
    """What fits the same holes draws four times the current, or settles four times as slowly."""
    wrong = BY_NAME["divider"].calculate(
        DIVIDER | {"ordered_ohms": "10000", "tolerance_percent": "20"}
    )
    assert wrong["off_percent"] == pytest.approx(-77)
    text = " ".join(wrong["against_ordered"])
    assert "outside the ±20 %" in text
    assert "1.44 mA where 0.33 mA were meant, 4.3 times as much" in text
    slow = DIVIDER | {"bits": "10", "sample_pf": "10", "sample_us": "0.1"}
    slow |= {"track_ohms": "10000", "ordered_ohms": "2300"}
    text = " ".join(BY_NAME["divider"].calculate(slow)["against_ordered"])
    assert "18.74 counts are not settled, against 0.00" in text
    assert BY_NAME["divider"].calculate(DIVIDER)["against_ordered"] == []
    with pytest.raises(OutOfBounds, match="ordered_ohms: is missing"):
        BY_NAME["divider"].calculate(DIVIDER | {"tolerance_percent": "20"})


@pytest.mark.parametrize(
    ("ordered", "within", "alike"),
    [
        ("1916.7", True, True),
        ("1916.6", False, True),
        ("1840.1", False, True),
        ("1839.9", False, False),
    ],
)
def test_where_another_value_begins_to_matter(ordered: str, within: bool, alike: bool) -> None:
    """±20 % as sold; from a quarter on what it does is said."""
    given_ = DIVIDER | {"ordered_ohms": ordered, "tolerance_percent": "20"}
    text = " ".join(BY_NAME["divider"].calculate(given_)["against_ordered"])
    assert ("is within" in text) == within
    assert ("does what the one ordered does" in text) == alike


ZONE = {"shape": "radial", "inner_percent": "8", "outer_percent": "5", "rescaled": "yes"}


def test_what_a_program_receives_by_a_table_worked_out_by_hand() -> None:
    u = np.array([[0, 0], [8, 0], [8.1, 0], [51.5, 0], [95, 0], [100, 0], [0, -51.5], [30, 40]])
    radial = received(u, 8, 5, "radial", True, 1.0)
    expected = [0, 0, 100 * 0.1 / 87, 50, 100, 100, 50, 100 * 42 / 87]
    assert np.hypot(*radial.T) == pytest.approx(expected)
    assert radial[6] == pytest.approx([0, -50])
    assert radial[7] / np.hypot(*radial[7]) == pytest.approx([0.6, 0.8]), "the direction stays"
    axial = received(u, 8, 5, "axial", True, 1.0)
    assert axial[7] == pytest.approx([100 * 22 / 87, 100 * 32 / 87])
    stepped = received(u, 8, 5, "radial", False, 1.0)
    assert np.hypot(*stepped.T)[:4] == pytest.approx([0, 0, 100 * 8.1 / 95, 100 * 51.5 / 95])
    squared = received(u, 8, 5, "radial", True, 2.0)
    assert np.hypot(*squared.T)[3] == pytest.approx(25)


@given(
    st.floats(0, 60),
    st.floats(0, 39),
    st.sampled_from(["radial", "axial"]),
    st.booleans(),
    st.floats(0.2, 5),
)
@settings(max_examples=60, deadline=None)
def test_a_dead_zone_never_adds_and_never_turns_back(inner, outer, shape, rescaled, curve) -> None:
    """A further push is never received as less, mirrored pushes as mirrored, and nothing over full."""
    push = np.linspace(0, 120, 241)
    m = shaped(push, inner, outer, rescaled, curve)
    assert (np.diff(m) >= -1e-9).all()
    assert m.min() == 0
    assert m.max() == 100
    angle = np.linspace(0, 2 * np.pi, 37)
    u = 70 * np.column_stack((np.sin(angle), np.cos(angle)))
    got = received(u, inner, outer, shape, rescaled, curve)
    assert received(-u, inner, outer, shape, rescaled, curve) == pytest.approx(-got)
    assert received(u[:, ::-1], inner, outer, shape, rescaled, curve) == pytest.approx(got[:, ::-1])


def test_the_smallest_that_hides_a_stick_is_what_it_needs_and_not_less() -> None:
    def told(inner: str, **more: str) -> dict:
        given_ = ZONE | {"inner_percent": inner, "needed_percent": "9"} | more
        return BY_NAME["dead-zone"].calculate(given_)

    assert (told("9")["hides"], told("8.99")["hides"]) == (True, False)
    assert "9.0 % would" in told("8.99")["words"][0]
    assert told("9")["travel_lost_percent"] == 14
    assert (told("9")["step_percent"], told("9")["snaps_degrees"]) == (0, 0)
    stepped = told("9", rescaled="no", shape="axial")
    assert stepped["step_percent"] == pytest.approx(100 * 9 / 95)
    assert stepped["snaps_degrees"] == pytest.approx(np.degrees(np.arcsin(0.09)))
    snaps = "swallowed: it snaps"
    assert snaps in " ".join(told("9", shape="axial")["words"])
    assert snaps not in " ".join(told("0", shape="axial")["words"] + told("9")["words"])
    low = told("9", reach_percent="94.9")
    assert low["received_at_reach_percent"] < 100
    assert "full speed is not reached" in " ".join(low["words"])
    assert "not reached" not in " ".join(told("9", reach_percent="95")["words"])
    assert told("9", rest_x_percent="6", rest_y_percent="6.8")["received_at_rest_percent"] > 0
    assert told("9", rest_x_percent="6", rest_y_percent="6.7")["received_at_rest_percent"] == 0
    with pytest.raises(OutOfBounds, match="outer_percent: 92 % leaves nothing"):
        BY_NAME["dead-zone"].calculate(ZONE | {"outer_percent": "92"})
    BY_NAME["dead-zone"].calculate(ZONE | {"outer_percent": "91.9"})


@pytest.mark.parametrize("curve", ["0.5", "1", "2"])
@pytest.mark.parametrize("rescaled", ["yes", "no"])
def test_half_speed_is_where_it_is_told(curve: str, rescaled: str) -> None:
    given_ = ZONE | {"curve": curve, "rescaled": rescaled}
    at = BY_NAME["dead-zone"].calculate(given_)["half_speed_at_percent"]
    half = shaped(np.array(at), 8, 5, rescaled == "yes", float(curve))
    assert float(half) == pytest.approx(50)


WORTH = {"cause": "worn", "probability": "0.9", "rate": "24", "controller": "45"}


def test_worth_is_what_decide_reckons_for_the_same_cause() -> None:
    result = BY_NAME["worth"].calculate(WORTH)
    cures = {r.code: {"worn": r.helps["worn"].chance} for r in WORK if "worn" in r.helps}
    by = worth(list(cures), cures, {"worn": 0.9}, Money(24, 45))
    assert result["cost"] == pytest.approx(by.chains[0].cost)
    assert result["break_even"] == pytest.approx(by.break_even)
    dear = BY_NAME["worth"].calculate(WORTH | {"controller": f"{by.break_even + 0.01}"})
    cheap = BY_NAME["worth"].calculate(WORTH | {"controller": f"{by.break_even - 0.01}"})
    assert dear["cost"] < dear["instead"]
    assert (cheap["begin_with"], cheap["cost"]) == (
        "Retire it to the donor shelf",
        cheap["instead"],
    )
    hall = BY_NAME["worth"].calculate(WORTH | {"sensor": "hall"})
    assert not any("sensor parts" in chain for chain in hall["chains"])


@pytest.mark.parametrize("cause", next(i for i in BY_NAME["worth"].inputs if i.choices).choices)
def test_every_cause_that_is_offered_has_a_chain(cause: str) -> None:
    assert BY_NAME["worth"].calculate(WORTH | {"cause": cause})["chains"]


@pytest.mark.parametrize("name", BY_NAME)
def test_what_a_form_starts_with_calculates_and_draws(name: str) -> None:
    calculator = BY_NAME[name]
    first = {i.key: i.first for i in calculator.inputs if i.first}
    result = calculator.calculate(first)
    assert set(result) <= {o.key for o in calculator.outputs} | {"untrimmed", "reasons"}
    plot = calculator.plot(first)
    assert plot is None or all(np.isfinite(c.y).all() for c in plot.curves)


def test_what_a_trim_can_do_is_drawn_between_its_ends() -> None:
    """A resistor in series takes range from it: what is left must be seen before it is soldered."""
    calculator = BY_NAME["trim"]
    alone = calculator.plot(TRIM | {"series_ohms": "0"})
    assert [c.label for c in alone.curves] == ["without a trim", "trim at 0.4"]
    assert max(alone.curves[0].y) == 0.0
    by_series = calculator.plot(TRIM)
    labels = ["without a trim", "trim at 0.4", "trim at 0", "trim at 1"]
    assert [c.label for c in by_series.curves] == labels
    _, own, low, high = (np.array(c.y) for c in by_series.curves)
    assert (low <= own + 1e-9).all()
    assert (own <= high + 1e-9).all()
    assert own[0] == own[-1] == 0.0, "nothing at the ends of the track"


def test_a_stick_s_own_rim_is_drawn_beside_what_is_received_of_it() -> None:
    """The same places through the curve: what a game gets of this stick, and not of any."""
    angle = np.radians(np.arange(72) * 5)
    rim = 95.0 * np.column_stack((np.sin(angle), np.cos(angle)))
    typed = {"shape": "radial", "inner_percent": "10", "outer_percent": "0", "rescaled": "yes"}
    plot = BY_NAME["dead-zone"].plot_over(Own(rim, rim[:4] * 0.05), typed)
    drawn = {c.label: np.column_stack((c.x, c.y)) for c in plot.curves}
    assert list(drawn) == ["its own rim", "received", "its returns", "returns, received"]
    assert np.hypot(*drawn["its own rim"].T) == pytest.approx(95.0)
    assert np.hypot(*drawn["received"].T) == pytest.approx((95.0 - 10.0) / 0.9)
    assert np.hypot(*drawn["returns, received"].T) == pytest.approx(0.0), "hidden"


def test_a_track_has_ohms_and_what_may_be_left_out_has_none() -> None:
    """Nothing across a track divides by nothing; a trim without a resistor in series has 0 of them."""
    with pytest.raises(OutOfBounds, match="above 0"):
        BY_NAME["trim"].calculate(TRIM | {"track_ohms": "0"})
    assert BY_NAME["trim"].calculate(TRIM | {"series_ohms": "0"})["output"] > 0


def test_the_command_prints_one_object(capsys: pytest.CaptureFixture) -> None:
    words = [f"{k}={v}" for k, v in TRIM.items()]
    assert main(["calc", "trim", *words, "rest_percent=6", "--json"]) == 0
    printed = json.loads(capsys.readouterr().out)
    assert printed["untrimmed"] == 0.53
    assert printed["shift_percent"] == pytest.approx(200 * (printed["output"] - 0.53))
    assert 0 < printed["centring_setting"] < 0.5
    assert main(["calc", "iron", "alloy=SAC305", "tip_mm=1.6", "mass=ground"]) == 0
    assert "start c" in capsys.readouterr().out
    assert main(["calc", "iron", "alloy=gold", "tip_mm=1.6", "mass=ground"]) == 2
    err = capsys.readouterr().err
    assert err.count("\n") == 1
    assert "one of Sn63Pb37" in err
