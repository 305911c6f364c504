"""What every evidence is made of: by numbers that are put into a take, on the axis they are put on and
not on the other."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core import reach_signs, signs
from hollow_pin.core.dead_spans import DeadSpan
from hollow_pin.core.evidence import EVIDENCE, evidence_of
from hollow_pin.core.gate import BEARINGS
from hollow_pin.core.hidden import Hidden
from hollow_pin.core.joint import Joint, Jump
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.ranking import SPEAKS
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.sides import Sides
from hollow_pin.core.spikes import Spike
from sticks import TOWARD, readings_of
from sticks import returning as with_returns


@pytest.fixture(scope="module")
def take() -> TakeReadings:
    return replace(readings_of("sound", 5), hidden=())


def returning(take: TakeReadings, to: np.ndarray, toward: np.ndarray = TOWARD) -> Sides:
    return Sides(with_returns(take, to, toward))


def test_returns_that_follow_the_side_they_come_from(take: TakeReadings) -> None:
    """Wear in the centre of x: it stays where it was pushed to, by 2 % either way."""
    s = returning(take, 2.0 * TOWARD * (1, 0) + (1.0, -0.5))
    assert signs.by_side(s, "x") == pytest.approx(2 * np.median([2, np.sqrt(2), np.sqrt(2)]))
    assert signs.by_side(s, "y") == pytest.approx(0.0)
    assert (signs.returns_apart(s, "x"), signs.returns_apart(s, "y")) == (pytest.approx(4), 0.0)
    assert (signs.off_centre(s, "x"), signs.off_centre(s, "y")) == (pytest.approx(1), 0.5)
    assert signs.short_both(s, "x") == pytest.approx(np.sqrt(2))
    assert signs.short_both(s, "y") == 0.0
    assert signs.beyond(s, "x") == 0.0


def test_returns_that_land_beyond_their_middle(take: TakeReadings) -> None:
    """No bearing throws a stick past its centre: its contact does."""
    s = returning(take, -3.0 * TOWARD * (0, 1))
    assert signs.beyond(s, "y") == pytest.approx(3.0 * np.sqrt(0.5))
    assert (signs.beyond(s, "x"), signs.short_both(s, "y")) == (0.0, 0.0)


def test_returns_from_one_side_only(take: TakeReadings) -> None:
    """What binds toward 3 o'clock stops a stick short there and lets it home from 9."""
    s = returning(take, np.where(TOWARD[:, :1] > 0.5, 4.0, 0.0) * TOWARD)
    assert signs.stops_short(s, "x") == pytest.approx(4.0, abs=0.1)
    assert signs.short_both(s, "x") == 0.0
    fewer = Sides(replace(s.take, let_go=replace(s.take.let_go, release=s.releases[:7])))
    assert signs.stops_short(fewer, "x") is None


@pytest.mark.parametrize(
    ("low", "high", "one_sided"),
    [
        (-0.5, 5.0, 4.0),
        (-5.0, 0.5, 4.0),
        (0.5, 5.0, 4.0),
        (0.0, 5.0, 5.0),
        (2.0, 5.0, 1.0),
        (-2.5, 5.0, 0.0),
        (-4.0, 4.0, 0.0),
        (9.0, 13.0, 0.0),
    ],
)
def test_what_holds_a_stick_leaves_it_out_to_one_side(
    take: TakeReadings, low: float, high: float, one_sided: float
) -> None:
    """Dry on one side it is held there wherever it swings to, and comes home from all others: “replace
    the module” was said of it. A worn track leaves it to either side; one that is off centre as well,
    nowhere near home."""
    to = np.where(np.arange(16) % 2, low, high)[:, None] * (0, 1)
    s = returning(take, to)
    assert signs.one_sided(s, "y") == pytest.approx(one_sided)
    assert signs.one_sided(s, "x") == 0.0
    astray = to.copy()
    astray[0] = (0, 40.0)
    if (low, high) == (0.0, 5.0):
        assert signs.one_sided(returning(take, astray), "y") == pytest.approx(5.0 + 35.0 / 4)
    few = Sides(replace(s.take, let_go=replace(s.take.let_go, release=s.releases[:3])))
    assert signs.one_sided(few, "y") is None


def test_returns_from_the_same_side_that_scatter(take: TakeReadings) -> None:
    apart = np.where(np.arange(16) < 8, 1.5, -1.5)[:, None] * (1, 0)
    s = returning(take, apart)
    assert (signs.lands_anywhere(s, "x"), signs.lands_anywhere(s, "y")) == (3.0, 0.0)


def turned(places: np.ndarray, degrees: float) -> np.ndarray:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return places @ np.array([[c, -s], [s, c]])


@pytest.mark.parametrize("degrees", [0.0, 90.0, -133.0])
def test_what_holds_a_stick_stops_it_along_its_way(take: TakeReadings, degrees: float) -> None:
    """Toward 3 o'clock it is held by 4 %, and caught there as well when it swings over from 9: that is
    no track, wherever it lies, whichever way the rub is."""
    held = TOWARD * np.where(TOWARD[:, :1] > 0.5, 4.0, 0.0)
    caught = held - TOWARD * np.where(TOWARD[:, :1] < -0.5, 2.0, 0.0)
    for to, along, halves in ((held, np.sqrt(6.0), 1.0), (caught, np.sqrt(7.5), 1.5)):
        s = returning(take, turned(to, degrees) + np.array((3.0, -1.0)), turned(TOWARD, degrees))
        assert signs.along(s, "x") == signs.along(s, "y") == pytest.approx(along)
        assert s.apart_by_way[:2] == (pytest.approx(along), pytest.approx(0.0, abs=1e-9))
        assert s.apart_by_way.to_one_side == pytest.approx(halves * (1 + np.sqrt(2)) / 2)


def test_what_a_worn_track_shifts_lies_aside_of_the_way_too(take: TakeReadings) -> None:
    s = returning(take, 4.0 * TOWARD * (1, 0) + (1.0, -0.5))
    assert s.apart_by_way[:2] == (pytest.approx(np.sqrt(6.0)), pytest.approx(np.sqrt(16 / 7)))
    assert s.apart_by_way.to_one_side == pytest.approx(0.0, abs=1e-9)
    assert signs.along(s, "x") == 0.0
    less = returning(take, 4.0 * TOWARD * (1, 0.5))
    assert less.apart_by_way[:2] == (pytest.approx(np.sqrt(9.5)), pytest.approx(np.sqrt(4 / 7)))
    assert signs.along(less, "x") == pytest.approx(np.sqrt(9.5 - 2.5**2 * 4 / 7))


@pytest.mark.parametrize(("oblique", "known"), [(3, False), (4, True)])
def test_along_an_axis_a_rub_and_a_worn_track_are_one(
    take: TakeReadings, oblique: int, known: bool
) -> None:
    """A quick take toward 3, 6, 9 and 12 o'clock said a worn track was a rub."""
    straight = TOWARD[np.abs(TOWARD).min(axis=1) < 0.1]
    toward = np.vstack((straight, turned(straight, 22.0), turned(straight, 23.0)[:oblique]))
    s = returning(take, 3.0 * toward, toward)
    assert (signs.along(s, "x") is not None) == known
    hidden = (Hidden("zero", "x", "", (), None),)
    assert signs.along(Sides(replace(s.take, hidden=hidden)), "x") is None


@pytest.mark.parametrize(
    ("code", "below", "rest_is_hidden", "zone"),
    [
        ("built-in-dead-zone", 6.0, True, 6.0),
        ("leaps-to-zero", 5.0, True, 5.0),
        ("zero", None, True, 4.0),
        ("saturated", None, False, 0.0),
    ],
)
def test_a_rest_that_is_hidden_says_nothing(
    take: TakeReadings, code: str, below: float | None, rest_is_hidden: bool, zone: float
) -> None:
    """Exactly zero behind a dead zone is no sign of health; an end that is cut off hides no rest."""
    still = replace(take.still, jitter_x=0.9, jitter_y=0.9)
    hidden = replace(take, still=still, hidden=(Hidden(code, "x", "", (), below),))  # type: ignore[arg-type]
    s = Sides(hidden)
    at_rest = (signs.returns_apart, signs.by_side, signs.lands_anywhere, signs.off_centre)
    assert [f(s, "x") is None for f in at_rest] == [rest_is_hidden] * 4
    assert (signs.spikes(s, "x") is None, signs.in_common(s, "x") is None) == (rest_is_hidden,) * 2
    assert signs.zone(s, "x") == zone


@pytest.mark.parametrize(
    ("code", "below", "lopsided"),
    [
        ("built-in-dead-zone", 5.0, 2.0),
        ("leaps-to-zero", 8.0, 0.0),
        ("zero", None, 3.0),
        ("saturated", None, 4.0),
    ],
)
def test_a_rim_off_centre_is_lopsided_by_what_no_hidden_rest_explains(
    take: TakeReadings, code: str, below: float | None, lopsided: float
) -> None:
    """Off centre behind a dead zone, a stick was half a module that sits askew."""
    s = returning(take, np.tile([3.0, 0.0], (16, 1)))
    rim = replace(take.rim, radius=tuple(80.0 + 7.0 * np.sin(np.radians(BEARINGS))))
    hidden = (Hidden(code, "x", "", (), below),)  # type: ignore[arg-type]
    lopsidedness = reach_signs.lopsided(Sides(replace(s.take, rim=rim, hidden=hidden)), "x")
    assert lopsidedness == pytest.approx(lopsided, abs=0.05)


def test_jitter_is_each_axis_s_own_and_the_lesser_is_what_both_have(take: TakeReadings) -> None:
    still = replace(take.still, jitter_x=0.9, jitter_y=0.2, noise_in_common=-0.7, wander=3.0)
    s = Sides(replace(take, still=still))
    elsewhere = Sides(replace(s.take, by_place={"still.jitter_x": 1.2}))
    assert (signs.jitter(elsewhere, "x"), signs.jitter(elsewhere, "y")) == (1.5, 0.2)
    assert (signs.jitter(s, "x"), signs.jitter(s, "y"), signs.calm_jitter(s, "x")) == (
        0.9,
        0.2,
        0.2,
    )
    assert signs.wander(s, "x") == 3.0


@pytest.mark.parametrize(("calmer", "alike"), [(0.59, None), (0.61, pytest.approx(70.0))])
def test_what_hardly_trembles_shares_nothing_that_counts(
    take: TakeReadings, calmer: float, alike: float | None
) -> None:
    """A sound stick whose last digit flickers on both axes at once was said to have a bad supply."""
    still = replace(take.still, jitter_x=0.9, jitter_y=calmer, noise_in_common=-0.7)
    assert signs.in_common(Sides(replace(take, still=still)), "x") == alike


def test_spikes_of_both_axes_are_no_trembling_that_they_share(take: TakeReadings) -> None:
    """Sand on both tracks was told to be noise of the supply, and a cable was changed for it."""
    still = replace(take.still, jitter_x=1.0, spike_jitter_x=0.8, jitter_y=1.3, spike_jitter_y=1.2)
    s = Sides(replace(take, still=still))
    assert signs.calm_jitter(s, "x") == signs.calm_jitter(s, "y") == pytest.approx(0.5)
    assert signs.in_common(s, "x") is None
    assert (signs.jitter(s, "x"), signs.jitter(s, "y")) == (1.0, 1.3), "they tremble all the same"


def test_only_spikes_that_are_felt_count_and_on_their_own_axis(take: TakeReadings) -> None:
    spikes = (Spike(1.0, "x", 1.6), Spike(2.0, "x", -1.4), Spike(3.0, "y", 9.0))
    still = replace(take.still, spike=spikes, spikes_per_min_x=12.0, spikes_per_min_y=6.0)
    s = Sides(replace(take, still=still))
    assert (signs.spikes(s, "x"), signs.spikes(s, "y")) == (6.0, 6.0)


def crossed(take: TakeReadings, **x: object) -> Sides:
    """x's track with other readings."""
    return Sides(replace(take, crossing=replace(take.crossing, x=replace(take.crossing.x, **x))))


def test_a_track_is_each_axis_s_own(take: TakeReadings) -> None:
    spans = (DeadSpan(10.0, 13.0, 3), DeadSpan(40.0, 45.0, 2))
    s = crossed(take, track_noise_max=7.0, dead_spans=spans, cross_talk=21.0, cross_talk_even=21.0)
    assert (signs.roughest(s, "x"), signs.dead_spans(s, "x")) == (7.0, 2.0)
    assert signs.roughest(s, "y") == take.crossing.y.track_noise_max
    assert signs.dead_spans(s, "y") == 0.0
    assert (signs.dead_width(s, "x"), signs.dead_width(s, "y")) == (3.0, 0.0), "seen three times"
    assert signs.carried(s, "y") == 21.0, "while x crosses it is y that is carried along"
    assert signs.carried(s, "x") == take.crossing.y.cross_talk_even
    limit = LIMIT_OF["crossing.x.cross_talk"].everyday
    for u, known in ((0.99 * limit, True), (limit, False)):
        jumping = replace(s.take, uncertainty={"crossing.x.cross_talk": u})
        of = (signs.carried(Sides(jumping), "y"), signs.carried_more(Sides(jumping), "y"))
        assert (None in of) != known, "a loose joint was cross-talk by 100 %"
    more = 21.0 - take.crossing.y.cross_talk_even
    assert (signs.carried_more(s, "y"), signs.carried_more(s, "x")) == (pytest.approx(more), 0.0)


def test_what_happens_while_it_is_held_is_of_the_axis_it_is_held_along(take: TakeReadings) -> None:
    worst = {0.0: (1.0, 2), 90.0: (5.0, 7), 180.0: (3.0, 1), 270.0: (2.0, 4)}
    hold = tuple(
        replace(take.hold[0], bearing=b, sag=sag, dropouts=n) for b, (sag, n) in worst.items()
    )
    s = Sides(replace(take, hold=hold))
    assert (signs.sag(s, "x"), signs.sag(s, "y")) == (5.0, 3.0)
    assert (signs.held_drops(s, "x"), signs.held_drops(s, "y")) == (11.0, 3.0)
    none = Sides(replace(take, hold=None))
    assert (signs.sag(none, "x"), signs.held_drops(none, "y")) == (None, None)


def test_jumps_are_of_their_axis_and_held_against_what_else_jumps_there(take: TakeReadings) -> None:
    jump = tuple(Jump(t, 0.05, axis, 0.0) for t, axis in ((1, "x"), (2, "x"), (3, "x"), (4, "y")))
    joint = Joint(8, 4.0, 5, 2.5, jump)
    recording = replace(take.recording, duration_s=120.0)
    still = replace(take.still, spike=(Spike(1.0, "x", 5.0),), spikes_per_min_x=3.0)
    s = Sides(replace(take, joint=joint, recording=recording, still=still))
    assert (signs.jumps(s, "x"), signs.jumps(s, "y"), signs.drops(s, "x")) == (6.0, 2.0, 5.0)
    assert signs.mostly_jumps(s, "x") == pytest.approx(50.0), "six jumps, and three spikes a minute"
    assert signs.mostly_jumps(s, "y") == pytest.approx(100.0)
    calm = Sides(replace(take, joint=replace(joint, jumps=0, jump=())))
    assert signs.mostly_jumps(calm, "x") == 0.0


def test_a_dent_is_as_deep_as_it_is_and_an_oval_is_none(take: TakeReadings) -> None:
    angle = np.radians(BEARINGS)
    oval = 95.0 + 6.0 * np.cos(2 * angle)
    dented = np.where(np.abs(BEARINGS - 140.0) < 14.0, oval - 9.0, oval)

    def of(radius: np.ndarray) -> float:
        rim = replace(take.rim, radius=tuple(radius.tolist()))
        composite = replace(take.composite, gate_seen="round")
        return reach_signs.dent(Sides(replace(take, rim=rim, composite=composite)), "x") or 0.0

    assert of(oval) == pytest.approx(0.0, abs=0.1)
    assert of(dented) == pytest.approx(9.0, abs=1.0)
    # What the range cuts off is no dent: such a stick was to be looked over for a rub.
    range_ends = 100.0 / np.maximum(np.abs(np.sin(angle)), np.abs(np.cos(angle)))
    over = np.minimum(125.0, range_ends)
    assert of(over) < 1.0
    assert of(0.985 * over) > 15.0, "short of the end of the range it is the stick's"
    usual = np.minimum(110.0, range_ends)
    assert of(usual) < 1.0
    # Nor does it dent what lies beside it: scaled over on one axis, it bound by three fifths.
    wide = 101.0 / np.hypot(np.sin(angle) / 1.25, np.cos(angle))
    clipped = np.minimum(wide, 100.0 / np.maximum(np.abs(np.sin(angle)), 1e-9))
    assert of(clipped) < 1.0
    rubbed = np.where(np.abs(BEARINGS - 45.0) < 14.0, np.minimum(usual, 98.0), usual)
    assert of(rubbed) > 5.0


def test_what_is_over_is_counted_and_the_worst_is_told_by_its_share(take: TakeReadings) -> None:
    calm = replace(take, uncertainty=dict.fromkeys(take.uncertainty, 0.0))
    before = signs.over(Sides(calm), "x")
    still = replace(calm.still, rest_offset=12.0)
    off = Sides(replace(calm, still=still))
    assert signs.over(off, "x") == before + 1
    assert signs.worst(off, "x") == pytest.approx(100 * 12.0 / 6.0)
    unsure = replace(off.take, uncertainty={**calm.uncertainty, "still.rest_offset": 2.0})
    assert signs.worst(Sides(unsure), "x") == pytest.approx(100 * 10.0 / 6.0)


def test_every_evidence_of_a_whole_take_is_there_for_each_axis_or_for_all(
    take: TakeReadings,
) -> None:
    trembling = replace(take.still, jitter_x=0.9, jitter_y=0.9)
    evidence = evidence_of(replace(take, still=trembling))
    for e in EVIDENCE:
        assert set(evidence[e.code]) >= ({"x", "y"} if e.by_axis else {"x"}), e.code
        assert all(v is not None and v >= 0 for v in evidence[e.code].values()), e.code


def test_every_evidence_speaks_for_something_or_against_it() -> None:
    spoken = {code: way for speaks in SPEAKS.values() for code, way in speaks.items()}
    assert set(spoken) == {e.code for e in EVIDENCE}
    assert all({1, -1} >= set(speaks.values()) for speaks in SPEAKS.values())
    assert all(1 in speaks.values() for cause, speaks in SPEAKS.items() if cause != "sound")


@pytest.mark.parametrize(("step", "coarse"), [(1.02, True), (0.98, False)])
def test_one_step_of_a_coarse_converter_is_no_distance_and_a_fine_one_s_are(
    take: TakeReadings, step: float, coarse: bool
) -> None:
    still = replace(
        take.still, resolution_x=step, resolution_y=0.1, jitter_x=step / 2, jitter_y=0.3
    )
    toward = np.array([[1.0, 0.0], [-1.0, 0.0]] * 6)
    s = returning(replace(take, still=still), toward * (-step / 2, 0.0), toward)
    both = (
        signs.returns_apart(s, "x"),
        signs.by_side(s, "x"),
        signs.jitter(s, "x"),
    )
    if coarse:
        assert both == (0.0, 0.0, 0.0)
    else:
        assert all(value > 0.4 for value in both)
    two = returning(replace(take, still=still), toward * (-1.02 * step / 2, 0.0), toward)
    assert signs.returns_apart(two, "x") == pytest.approx(1.02 * step)


@pytest.mark.parametrize(("far", "centre"), [(1.0, 0.0), (1.03, 1.03)])
def test_half_a_step_from_the_middle_is_the_middle(
    take: TakeReadings, far: float, centre: float
) -> None:
    """An even converter has no code at zero: it lies half a step to one side of it."""
    still = replace(take.still, resolution_x=2.0, resolution_y=2.0)
    s = returning(replace(take, still=still), np.tile((far, -far), (16, 1)))
    assert (signs.off_centre(s, "x"), signs.off_centre(s, "y")) == pytest.approx((centre, centre))


@pytest.mark.parametrize(("short", "found"), [(1.4, 0.0), (1.46, 1.03)])
def test_what_stops_half_a_step_short_or_past_is_not_held(
    take: TakeReadings, short: float, found: float
) -> None:
    still = replace(take.still, resolution_x=2.0, resolution_y=2.0)
    coarse = replace(take, still=still)
    held = returning(coarse, short * TOWARD)
    past = returning(coarse, -short * TOWARD)
    assert signs.short_both(held, "x") == pytest.approx(found, abs=0.01)
    assert signs.beyond(past, "x") == pytest.approx(found, abs=0.01)
