"""The shape of a rim is held against the gate it has, and against what recalibration leaves of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.gate import (
    AS_TOLD,
    BEARINGS,
    BIN,
    BINS,
    CORNERED,
    FLANK,
    GATES,
    STRAIGHT,
    Gate,
    circularity,
    fill_around,
    fit_gate,
    gate_edge,
    gate_radius,
    has_a_straight_side,
    has_corners,
    looks_like,
    outer_dead_zone,
    unlike_all_round,
    unsheared,
)
from hollow_pin.core.recording import STEPS, AxisRange, NotUsable
from hollow_pin.core.rim import (
    RimResult,
    at_an_end,
    bin_of,
    binned_share,
    made_even,
    measure_rim,
    on_rim,
    radius_by_bearing,
    recalibrated,
)
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.take_warnings import gate_seen, other_gate
from sticks import performed, readings_of


def rim_of(
    gate: Gate, x: float = 0, y: float = 0, scale: float = 1, turned: float = 0
) -> np.ndarray:
    """A rim (72,) of a gate that lies elsewhere, in another size, turned: by where rays meet it."""
    fine = np.radians(np.arange(0, 360, 0.05))
    r = scale * gate_edge(gate, np.degrees(fine) - turned)
    px, py = x + r * np.sin(fine), y + r * np.cos(fine)
    at, far = np.degrees(np.arctan2(px, py)) % 360, np.hypot(px, py)
    bins = np.floor(at / 5 + 0.5).astype(int) % 72
    return np.array([np.median(far[bins == b]) for b in range(72)])


@pytest.mark.parametrize("gate", GATES)
@pytest.mark.parametrize(
    ("x", "y", "scale", "turned"), [(0, 0, 1, 0), (6, -4, 0.85, 0), (3, 2, 1.1, 6)]
)
def test_a_gate_is_found_wherever_it_lies(
    gate: Gate, x: float, y: float, scale: float, turned: float
) -> None:
    radius = rim_of(gate, x, y, scale, 0 if gate == "round" else turned)
    fitted = fit_gate(radius, gate)
    assert (fitted.x, fitted.y) == pytest.approx((x, y), abs=0.5)
    assert fitted.scale == pytest.approx(scale, abs=0.01)
    assert fitted.turned == pytest.approx(0 if gate == "round" else turned, abs=1.0)
    assert fitted.rms < 0.6
    assert looks_like(radius)[0] == gate


def test_a_direction_that_was_seen_once_is_cut_off_where_it_was() -> None:
    share = binned_share(np.array([True, True, False]), np.array([3, 7, 7]))
    assert share[[3, 7, 8]].tolist() == [1.0, 0.5, 0.0]


@pytest.mark.parametrize("gate", GATES)
def test_a_dent_shows_in_full_whatever_the_gate(gate: Gate) -> None:
    radius = rim_of(gate)
    radius[10:14] -= 12
    assert fit_gate(radius, gate).peak_to_valley == pytest.approx(12, abs=3)


@pytest.mark.parametrize("gate", GATES)
@pytest.mark.parametrize("turned", [0, 1, 5])
def test_what_rubs_is_told_from_a_gate_that_is_alike_all_round(gate: Gate, turned: int) -> None:
    """A gate or a curve must not cost a module; a rub must not pass for one of them."""
    rim = gate_radius(gate)
    assert unlike_all_round(rim, 0.0, 0.0) == pytest.approx(0.0, abs=1e-9)
    beside = rim + 5.0 * np.sin(np.radians(BEARINGS))
    assert unlike_all_round(beside, 5.0, 0.0) == pytest.approx(0.0, abs=1e-9)
    rubs = rim.copy()
    rubs[17 + turned] -= 12.0
    assert unlike_all_round(rubs, 0.0, 0.0) == pytest.approx(1200.0 / rubs.mean() * 7 / 8, rel=0.16)


@pytest.mark.parametrize(("share", "alike"), [(0.48, True), (0.52, False)])
def test_a_shape_is_alike_all_round_while_less_than_half_of_it_is_not(
    share: float, alike: bool
) -> None:
    """More than that is a rub beside a curve, and the rub is worth a look."""
    take = readings_of("sound")
    radius = 95.0 + 8.0 * np.cos(4 * np.radians(BEARINGS))
    radius[20:23] -= 18.0
    unlike = unlike_all_round(radius, 0.0, 0.0)
    rim = replace(take.rim, radius=tuple(radius), lsc_x=0.0, lsc_y=0.0)
    shape = replace(take.composite, shape_after_recalibration=unlike / share)
    off = replace(take, rim=rim, composite=shape)
    assert ("alike in all four quarters" in explain(off).advice) == alike


def sheared(slope: float, rub: float = 0.0) -> np.ndarray:
    """The rim (72,) of a round gate whose x carries y along by a slope, and reaches less far than y;
    so much of it is cut off by what rubs."""
    fine = np.radians(np.arange(0, 360, 0.05))
    px, py = 94.0 * np.sin(fine), 98.0 * np.cos(fine) + slope * 94.0 * np.sin(fine)
    bins = np.floor(np.degrees(np.arctan2(px, py)) % 360 / 5 + 0.5).astype(int) % BINS
    radius = np.array([np.median(np.hypot(px, py)[bins == b]) for b in range(BINS)])
    radius[20:23] -= rub
    return radius


@pytest.mark.parametrize("slope", [0.15, -0.15, 0.05])
def test_what_shears_a_rim_is_taken_out_of_its_shape_and_what_rubs_is_not(slope: float) -> None:
    assert unsheared(sheared(slope), 0.0, 0.0) < 1.5
    assert unsheared(sheared(slope, rub=15.0), 0.0, 0.0) == pytest.approx(15.0, abs=2.5)


@pytest.mark.parametrize(
    ("cross_talk", "left", "says"),
    [
        (20.5, 11.5, "One axis moves the other"),
        (19.5, 11.5, "out of shape"),
        (20.5, 12.5, "out of shape"),
    ],
)
def test_a_rim_that_is_sheared_and_nothing_else_is_cross_talk(
    cross_talk: float, left: float, says: str
) -> None:
    """Though a hand that strays might have made as much of it in the crossings: of 15 % the rim was
    out of shape, and the module to be replaced."""
    take = readings_of("sound")
    rub = np.interp(left, *[[unsheared(sheared(0.15, r), 0, 0) for r in (10, 16)], (10.0, 16.0)])
    radius = sheared(0.15, float(rub))
    off = replace(
        take,
        rim=replace(take.rim, radius=tuple(radius), lsc_x=0.0, lsc_y=0.0),
        composite=replace(take.composite, shape_after_recalibration=15.0),
        crossing=replace(
            take.crossing,
            x=replace(take.crossing.x, cross_talk=cross_talk, cross_talk_even=cross_talk),
        ),
        uncertainty=take.uncertainty | {"crossing.x.cross_talk": 4.5},
    )
    assert says in explain(off).advice


def test_beyond_the_gate_nothing_counts_where_the_range_ends() -> None:
    radius = np.full(72, 108.0)
    assert circularity(radius, "round") == pytest.approx(8)
    cut = np.zeros(72, dtype=bool)
    cut[:36] = True
    assert circularity(radius, "round", cut) == pytest.approx(4)
    assert circularity(radius - 16, "round", cut) == pytest.approx(8), "what is short does"


@pytest.mark.parametrize(("gate", "short"), [("round", 10.0), ("square", 10.0), ("octagon", 10.0)])
def test_full_is_the_gate_where_that_lies_nearer_than_the_end(gate: Gate, short: float) -> None:
    assert outer_dead_zone(gate_radius(gate), gate) == pytest.approx(0)
    near = np.minimum(100.0, gate_radius(gate)) * (1 - short / 100)
    assert outer_dead_zone(near, gate) == pytest.approx(short)


def laps(approach: str) -> np.ndarray:
    """Two laps each way round a rim of 100, and how a hand comes to it."""
    parts = []
    for way in (1, -1):
        start = np.radians(200.0)
        n = 60
        rising = np.linspace(0.05, 1, n)
        at = (
            start - way * np.radians(70) * (1 - rising)
            if approach == "spiral"
            else np.full(n, start)
        )
        parts.append((rising * 100, at))
        turning = start + way * np.linspace(0, 4.2 * np.pi, 800)
        parts.append((np.full(800, 100.0), turning))
        parts.append((np.zeros(50), np.full(50, start)))
    r = np.concatenate([p[0] for p in parts])
    a = np.concatenate([p[1] for p in parts])
    return np.column_stack((r * np.sin(a), r * np.cos(a)))


@pytest.mark.parametrize("approach", ["straight", "spiral"])
def test_the_way_out_to_the_edge_is_no_part_of_the_rim(approach: str) -> None:
    """It made the uncertainty of the shape 10 to 14 %, and a rub of 15 % could not be seen."""
    rim = measure_rim(laps(approach)).readings
    assert rim.mean_radius == pytest.approx(100, abs=0.2)
    assert rim.roundness_lsc < 1.5
    assert (rim.laps_cw, rim.laps_ccw) == (2, 2)


@pytest.mark.parametrize("samples", [40, 400])
def test_where_a_hand_rests_on_the_edge_it_tells_no_more_than_in_passing(samples: int) -> None:
    """Taking hold anew for half a second, 6 % off the edge, made a sound rim 4 % out of shape."""
    u = laps("straight")
    at = len(u) // 6
    rested = np.concatenate((u[:at], np.tile(0.94 * u[at], (samples, 1)), u[at:]))
    seen, was = measure_rim(rested).readings, measure_rim(u).readings
    assert seen.roundness_lsc == pytest.approx(was.roundness_lsc, abs=0.5)
    assert (seen.laps_cw, seen.laps_ccw) == (was.laps_cw, was.laps_ccw)


def test_a_lap_that_is_pressed_less_is_still_a_lap() -> None:
    u = np.concatenate([laps("straight"), 0.95 * laps("straight")])
    assert measure_rim(u).readings.mean_radius == pytest.approx(97.5, abs=1)


def test_ends_that_are_reached_all_round_are_told_in_a_line() -> None:
    u = np.clip(1.1 * laps("straight"), -100, 100)
    rim = measure_rim(u, "round", np.abs(u) >= 100)
    assert [p.code for p in rim.problems] == ["ends"]
    assert "45° right" in rim.problems[0].message
    assert measure_rim(u, "round").problems == ()


@pytest.mark.parametrize("gate", GATES)
def test_what_lies_between_two_sides_is_their_corner(gate: Gate) -> None:
    """A square stick whose corners were not seen would be 40 % short there."""
    whole = 0.95 * gate_radius(gate)
    seen = np.where(np.arange(BINS) % 18 > 13, np.nan, whole)
    np.testing.assert_allclose(fill_around(seen, gate), whole, rtol=1e-9)


@pytest.mark.parametrize("free", [40, 20])
def test_a_square_stick_needs_no_recalibration_whatever_the_ends_hide(free: int) -> None:
    """Its sides lie at the end of the range, for all or for some of its directions: what is forecast
    of a recalibration goes by the rest."""
    sound = performed("sound").recording
    u = sound.u.copy()
    far = np.hypot(*u.T)
    out = (sound.step == STEPS.index("rim")) & (far > 60.0)
    toward = np.arctan2(*u[out].T)
    edge = 100.0 / np.maximum(np.abs(np.sin(toward)), np.abs(np.cos(toward)))
    edge *= np.where(np.mod(np.degrees(toward), 90.0) < free, 0.997, 1.0)
    u[out] *= (edge / far[out])[:, None]
    square = replace(sound, raw=np.clip(u, -100, 100), ranges=(AxisRange(-100, 100),) * 2)
    take = measure_take(square, "square")
    assert take.rim.circularity_error < 0.5
    assert take.composite.circularity_after_recalibration < 1.0


def clamped(scale: tuple[float, float], gate: Gate) -> RimResult:
    """Laps of a stick that goes so far to the right and the left, and as far as to the right up and
    down, cut off at the ends of its range."""
    turns = np.linspace(0, 4.2 * np.pi, 60_000)
    angle = np.concatenate([turns, turns[::-1]])
    u = np.column_stack((np.sin(angle), np.cos(angle)))
    u *= gate_edge(gate, np.degrees(angle))[:, None]
    u *= np.where(u > 0, scale[0], np.array([scale[1], scale[0]]))
    u = np.clip(u, -100, 100)
    return measure_rim(u, gate, np.abs(u) >= 100)


@pytest.mark.parametrize(
    ("gate", "scale"),
    [(gate, (wide, wide)) for gate in GATES for wide in (1.0, 1.12)]
    + [("round", (1.12, 0.8)), ("octagon", (1.12, 0.8))],
)
def test_what_a_recalibration_leaves_goes_by_what_lies_beside_the_ends(
    gate: Gate, scale: tuple[float, float]
) -> None:
    """Told by what was cut off, a sound stick whose maker lets it run over would be 12 % out of shape
    after it."""
    left = recalibrated(clamped(scale, gate), 0.0, 0.0, gate)
    assert circularity(fill_around(left, gate), gate) < 1.2
    assert fit_gate(left, gate).peak_to_valley < 3.0


def test_round_corners_are_no_shape_of_a_square_whose_sides_are_cut_off() -> None:
    """What is left of it to be seen is its corners, or nothing, by how hard they are rounded: its
    shape was 1 % out by one hand and 10 % by the next."""
    u = 1.08 * laps("straight")
    toward = np.arctan2(*u.T)
    far = np.minimum(gate_edge("square", np.degrees(toward)), 122.0) / 100.0
    u = np.clip(u * far[:, None], -100, 100)
    rim = measure_rim(u, "square", np.abs(u) >= 100)
    shape = fit_gate(recalibrated(rim, 0.0, 0.0, "square"), "square").peak_to_valley
    assert shape < 6.0


@pytest.mark.parametrize(("share", "goes"), [(0.945, False), (0.955, True)])
def test_a_square_gate_is_one_whose_corners_are_gone_into(share: float, goes: bool) -> None:
    """Two of the four, or more: where the hand was light once it is a square all the same."""
    radius = 0.97 * gate_radius("square")
    square = fit_gate(radius, "square")
    corners = np.arange(9, 72, 18)
    radius[corners] *= share
    assert has_corners(radius, square) == goes
    radius[corners[:2]] *= 0.8
    assert has_corners(radius, square) == goes
    radius[corners[2]] *= 0.8
    assert not has_corners(radius, square)
    radius[corners] = np.nan
    radius[corners[0]] = share * 0.97 * gate_radius("square")[9]
    assert has_corners(radius, square) == goes


@pytest.mark.parametrize("gate", GATES)
def test_a_side_that_is_straight_of_itself_belongs_to_a_square_gate(gate: Gate) -> None:
    """Turned a little, too: a sound stick in it was to be recalibrated."""
    for turned in (0.0, 3.0):
        radius = rim_of(gate, 2, -1, 0.95, turned)
        nowhere, cut = np.zeros(BINS, bool), np.ones(BINS, bool)
        assert has_a_straight_side(radius, nowhere) == (gate == "square")
        assert not has_a_straight_side(radius, cut)
        cut[BINS // 4 - FLANK : BINS // 4 + FLANK + 1] = False
        assert has_a_straight_side(radius, cut) == (gate == "square")
        cut[BINS // 4 + FLANK] = True
        assert not has_a_straight_side(radius, cut)


@pytest.mark.parametrize(("by", "straight"), [(0.9, True), (1.1, False)])
@pytest.mark.parametrize("way", [1, -1])
def test_how_straight_a_side_is(by: float, straight: bool, way: int) -> None:
    radius = gate_radius("square").copy()
    beside = np.arange(-FLANK, FLANK + 1)
    bent = 1 - way * by * STRAIGHT * (np.abs(beside) > 2)
    for side in range(0, BINS, BINS // 4):
        radius[(side + beside) % BINS] *= bent
    assert np.ptp(BIN * beside) == 50.0
    assert has_a_straight_side(radius, np.zeros(BINS, bool)) == straight


def cut_square(corner: float, over: float, short: tuple[str, ...] = ()) -> RimResult:
    """The rim of a square gate whose corners lie so far out, %, by a stick that runs so much over, but
    for the sides named, that come just short of the ends of the range."""
    angle = np.radians(np.arange(0, 1800, 0.5))
    far = np.minimum(gate_edge("square", np.degrees(angle) % 360), corner)
    u = far[:, None] * np.column_stack((np.sin(angle), np.cos(angle)))
    for side, (axis, sign) in {"left": (0, -1), "right": (0, 1), "up": (1, 1)}.items():
        there = sign * u[:, axis] > 0
        u[there, axis] *= 0.98 if side in short else over
    u = np.clip(u, -100, 100)
    return measure_rim(u, "square", np.abs(u) >= 100)


@pytest.mark.parametrize("short", [("left",), ("left", "up"), ("left", "right", "up")])
def test_a_square_gate_of_which_some_sides_come_to_the_ends_is_square(
    short: tuple[str, ...],
) -> None:
    """It looked octagonal, and its stick was not seated flush by 19 %."""
    rim = cut_square(130.0, 1.005, short)
    assert at_an_end(rim)
    assert gate_seen(rim, 0.0, 0.0, "round") == "square"


@pytest.mark.parametrize(
    ("corner", "told", "square"),
    [
        (CORNERED + 0.01, "round", True),
        (CORNERED - 0.01, "round", False),
        (CORNERED - 0.01, "square", True),
        (AS_TOLD + 0.01, "square", True),
        (AS_TOLD - 0.01, "square", False),
    ],
)
def test_corners_may_be_rounder_where_the_model_says_that_they_are_some(
    corner: float, told: Gate, square: bool
) -> None:
    """All four sides are the range's: what shows is its corners, and what the model says."""
    rim = cut_square(corner * float(gate_radius("square")[9]), 1.004)
    assert (gate_seen(rim, 0.0, 0.0, told) == "square") == square


@pytest.mark.parametrize("gate", GATES)
@pytest.mark.parametrize("carried", [0.0, 0.15, -0.28])
@pytest.mark.parametrize("narrow", [1.0, 0.8])
def test_what_shears_a_rim_makes_no_other_gate_of_it(
    gate: Gate, carried: float, narrow: float
) -> None:
    """Cross-talk in a square gate that nobody named was a bind, and a calibration."""
    angle = np.radians(np.arange(0, 1800, 0.5))
    x, y = gate_edge(gate, np.degrees(angle) % 360) * np.array((np.sin(angle), np.cos(angle)))
    u = np.column_stack((narrow * x + 4.0, y + carried * x - 3.0))
    even = np.array(radius_by_bearing(made_even(u)))
    assert looks_like(even)[0] == gate
    fitted = fit_gate(even, gate)
    assert fitted.rms < 1.0
    assert (fitted.x, fitted.y) == pytest.approx((0.0, 0.0), abs=0.5)


@pytest.mark.parametrize(("clipped", "another"), [(False, True), (True, False)])
def test_corners_that_are_rounded_off_count_only_where_the_range_cuts_the_sides(
    clipped: bool, another: bool
) -> None:
    """A square gate's corners may be as round as they like while its sides are seen."""
    radius = np.minimum(gate_edge("square", BEARINGS), 125.0)
    angle = np.radians(np.arange(0, 3600, 0.5))
    far = np.interp(np.degrees(angle) % 360, np.append(BEARINGS, 360), np.append(radius, radius[0]))
    u = 0.96 * far[:, None] * np.column_stack((np.sin(angle), np.cos(angle)))
    at_end = np.abs(u) > 95.5 if clipped else np.zeros(u.shape, bool)
    rim = measure_rim(u, "round", at_end)
    seen, _ = looks_like(np.asarray(rim.readings.radius))
    assert seen == "square"
    assert at_an_end(rim) == clipped
    assert (gate_seen(rim, 0.0, 0.0, "round") == "square") == another
    assert bool(other_gate(gate_seen(rim, 0.0, 0.0, "round"), rim, "round")) == another


@pytest.mark.parametrize("scale", [0.93, 1.0])
@pytest.mark.parametrize("quarter", [0, 18])
def test_a_square_of_which_two_sides_are_known_lies_where_they_do(
    quarter: int, scale: float
) -> None:
    """It slid along them to the end, fitted by 38 %, and was a round gate."""
    radius = scale * gate_radius("square")
    known = np.zeros(BINS, bool)
    known[np.r_[0:8, 29:44, 65:72]] = True
    radius[~np.roll(known, quarter)] = np.nan
    fitted = fit_gate(radius, "square")
    assert fitted.peak_to_valley < 0.5
    assert (fitted.x, fitted.y) == pytest.approx((0.0, 0.0), abs=0.1)
    assert fitted.scale == pytest.approx(scale, abs=0.01)
    assert looks_like(radius)[0] == "square"


@pytest.mark.parametrize(("gate", "looks_square"), [("round", False), ("square", True)])
@pytest.mark.parametrize("wide", [0.93, 0.96, 1.0])
@pytest.mark.parametrize("half", [1.0, 0.78])
def test_what_the_range_alone_cuts_square_is_no_square_gate(
    gate: Gate, looks_square: bool, wide: float, half: float
) -> None:
    """What was left of a round rim between its cut sides was held against a square, and dented: a
    calibration was something that rubs."""
    angle = np.radians(np.arange(0, 3600, 0.5))
    x, y = gate_edge(gate, np.degrees(angle) % 360) * np.array((np.sin(angle), np.cos(angle)))
    far = np.column_stack((np.where(x < 0, half * wide * x, wide * x), 1.25 * y))
    u = np.clip(far, -100.0, 100.0)
    reach = np.column_stack((u.min(axis=0), u.max(axis=0)))
    rim = measure_rim(u, gate, np.abs(u) > 99.5, reach)
    assert at_an_end(rim)
    assert (gate_seen(rim, 0.0, 0.0, "round") == "square") == looks_square


@pytest.mark.parametrize("gate", GATES)
@pytest.mark.parametrize("short", [0.55, 0.72, 0.77, 0.8, 0.9])
def test_a_side_that_reaches_far_less_is_part_of_the_rim(gate: Gate, short: float) -> None:
    """A half axis that was learnt from something else: beside a square gate's corners its side was no
    rim, and a track that is broken there."""
    angle = np.radians(np.arange(0, 1800, 0.5))
    u = gate_edge(gate, np.degrees(angle) % 360)[:, None] * np.column_stack(
        (np.sin(angle), np.cos(angle))
    )
    u[:, 0] = np.where(u[:, 0] > 0, short * u[:, 0], u[:, 0])
    reach = np.array([[-100.0, 100.0 * short], [-100.0, 100.0]])
    seen = np.unique(bin_of(u[on_rim(u, reach)]))
    assert len(seen) == len(np.unique(bin_of(u)))


def test_bearings_and_gates_agree() -> None:
    assert len(BEARINGS) == 72
    assert gate_radius("square")[9] == pytest.approx(141, abs=4)


def test_a_rim_without_a_sample_is_refused_by_name() -> None:
    """Else a take whose link fell silent on the rim would not be measured at all."""
    with pytest.raises(NotUsable, match="only 0 of 72 directions were reached"):
        measure_rim(np.empty((0, 2)))
