"""Causes ranked, remedies forecast, what is worth it: what the Decide page tells a technician to spend
an hour and a part on."""

from __future__ import annotations

from dataclasses import replace
from math import exp

import numpy as np
import pytest

from hollow_pin.core.causes import CAUSE, CAUSES, SOUND
from hollow_pin.core.complaint import held_against
from hollow_pin.core.crossing import RoughSpot
from hollow_pin.core.evidence import BY_CODE, evidence_of
from hollow_pin.core.hidden import Hidden
from hollow_pin.core.intake import Intake
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.next_look import SHOWN, SHOWN_ALONG, looks
from hollow_pin.core.prospect import Record, beta, passes_after, prospects, recentrings
from hollow_pin.core.ranking import NEAR, SEEN, THE_STICK, WITHIN, Ranked, rank, weighed, weights
from hollow_pin.core.reach_signs import dent
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.remedies import BY_CODE as REMEDY
from hollow_pin.core.routine import STANDARD
from hollow_pin.core.sides import Sides
from hollow_pin.core.spikes import Spike
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.core.worth import RETIRED, Money, cost_of, worth
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.repairs import Treatment, repaired
from sticks import performed, read_of, readings_of, transformed


def read(condition: str, seed: int = 5) -> TakeReadings:
    return readings_of(condition, seed)


@pytest.mark.parametrize(
    ("condition", "cause"),
    [
        ("sound", "sound"),
        ("offset", "offset"),
        ("worn", "worn"),
        ("dirty", "dirty"),
        ("binding", "binding"),
        ("unseated", "unseated"),
        ("loose", "loose"),
        ("miscalibrated", "calibration"),
        ("failing", "failing-track"),
        ("humming", "supply-noise"),
    ],
)
def test_the_cause_that_is_so_comes_first(condition: str, cause: str) -> None:
    ranked = rank(read(condition))
    assert ranked[0].cause == cause, [(r.cause, round(r.probability, 2)) for r in ranked[:3]]


def test_every_probability_can_be_added_up_again() -> None:
    """The evidence shown is all there is: bias and weights make the probability."""
    take = read("worn")
    evidence = evidence_of(take)
    for ranked in rank(take):
        w = weights()[ranked.cause]
        odds = {
            axis: w.bias
            + sum(w.adds(c, v) for c, v in weighed(ranked.cause, evidence, axis).items())
            for axis in ("x", "y")
        }
        at = odds[ranked.axis] if ranked.axis else max(odds.values())
        if not CAUSE[ranked.cause].by_axis:
            at = odds["x"]
        assert ranked.probability == pytest.approx(1 / (1 + exp(-at)))
        left = at - w.bias - sum(e.weight for e in ranked.evidence)
        assert abs(left) <= 0.2 * len(evidence), "only what weighs under 0.2 each is left out"
        assert list(ranked.evidence) == sorted(ranked.evidence, key=lambda e: -abs(e.weight))
        assert all((e.weight > 0) == e.speaks_for for e in ranked.evidence)


def chances(take: TakeReadings) -> dict[str, float]:
    return {r.cause: r.probability for r in rank(take)}


def test_a_stick_is_sound_no_more_probably_than_that_it_has_nothing_else() -> None:
    """“Sound; and dirt on the track”, it said."""
    for condition in ("sound", "worn", "dirty", "humming"):
        odds = chances(read(condition))
        sound = odds.pop(SOUND)
        assert sound <= 1.0 - max(odds.values()) + 1e-12


def test_what_spikes_with_hands_off_is_dirt_rather_than_sound() -> None:
    """Two spikes of 12 % in ten seconds: sound by 98 %, and to be left as it is; while the readings
    said to clean it first."""
    take = read("sound")
    assert take.still is not None
    two = tuple(Spike(t_s, "x", 12.0) for t_s in (3.0, 6.0))
    still = replace(take.still, spike=two, spike_height=12.0, spikes_per_min_x=12.0)
    odds = chances(replace(take, still=still))
    once = chances(replace(take, still=replace(still, spikes_per_min_x=11.9)))
    other = max(odds[c] for c in ("worn", "loose", "failing-track", "supply-noise"))
    assert odds["dirty"] == pytest.approx(THE_STICK * (1.0 - other))
    assert odds[SOUND] <= 1.0 - odds["dirty"]
    assert once["dirty"] < 0.5


def test_both_axes_that_tremble_as_one_do_so_by_their_supply_whatever_else_is_hidden() -> None:
    """By a link that loses reports no noise is held against anything, and “cannot be told” stood
    beside readings that said to try another cable."""
    take = read("sound")
    assert take.still is not None
    still = replace(take.still, jitter_x=1.8, jitter_y=1.8, noise_in_common=0.9)
    alike = replace(take, still=still)
    apart = replace(take, still=replace(still, noise_in_common=0.1))
    none_of_it = {c: replace(w, bias=-30.0) for c, w in weights().items()}
    told, other = ({r.cause: r.probability for r in rank(t, by=none_of_it)} for t in (alike, apart))
    assert told["supply-noise"] == pytest.approx(THE_STICK, abs=0.01)
    assert other["supply-noise"] < 0.01


@pytest.mark.parametrize(("deep", "likely"), [(0.53, True), (0.47, False)])
def test_a_rim_that_is_cut_short_in_one_sector_is_rubbed_there(deep: float, likely: bool) -> None:
    """Of 20 % in one place it “cannot be told”, beside readings that said to look for what rubs."""
    take = read("sound")
    assert take.rim is not None
    radius = np.full(72, 95.0)
    radius[20:24] -= 19.0
    rim = replace(take.rim, radius=tuple(radius), lsc_x=0.0, lsc_y=0.0)
    off = replace(take, rim=rim)
    shape = dent(Sides(off), "x") / deep
    off = replace(off, composite=replace(take.composite, shape_after_recalibration=shape))
    none_of_it = {c: replace(w, bias=-30.0) for c, w in weights().items()}
    by_cause = {r.cause: r.probability for r in rank(off, by=none_of_it)}
    assert by_cause["binding"] == pytest.approx(THE_STICK if likely else 0.0, abs=0.01)


def test_a_rim_that_runs_over_the_ends_of_its_range_is_a_calibration() -> None:
    """“Recalibrate, extents first” stood above a bind by three in ten."""
    take = read("sound")
    none_of_it = {c: replace(w, bias=-30.0) for c, w in weights().items()}

    assert take.rim is not None

    def calibration(overrun: float, *hidden: Hidden, stated: float | None = None) -> float:
        rim, known = replace(take.rim, overrun=overrun), replace(take.recording, overrun=stated)
        ranked = rank(replace(take, rim=rim, recording=known, hidden=hidden), by=none_of_it)
        return next(r.probability for r in ranked if r.cause == "calibration")

    limit, u = LIMIT_OF["rim.overrun"].everyday, take.uncertainty["rim.overrun"]
    cut = Hidden("saturated", "x", "", ("rim.roundness",))
    assert calibration(0.0, cut) == pytest.approx(THE_STICK)
    assert calibration(limit + 3 * u) == pytest.approx(THE_STICK)
    assert calibration(limit - 3 * u) < 0.01
    assert calibration(limit + 3 * u, stated=limit) == pytest.approx(THE_STICK)
    assert calibration(limit + 3 * u, stated=limit + 1) < 0.01, "its model is known to"


def test_a_track_that_is_surely_rough_in_places_is_dirty() -> None:
    """“Cannot be told”, it was beside readings that said to clean it; or “sound”, where the place lay
    near the middle."""
    take = read("sound")
    assert take.crossing is not None
    assert take.crossing.x is not None
    place = RoughSpot(8.0, 12.0, 4.5, 1)
    x = replace(take.crossing.x, track_noise_max=4.5, rough_spots=(place,))
    rough = replace(take, crossing=replace(take.crossing, x=x))
    known = rough.uncertainty | {"crossing.x.track_noise_max": 0.2}
    unsure = rough.uncertainty | {"crossing.x.track_noise_max": 2.0}
    assert chances(replace(rough, uncertainty=known))["dirty"] > 0.5
    assert chances(replace(rough, uncertainty=unsure))["dirty"] < 0.5


@pytest.mark.parametrize("below", [1.0, 12.0])
def test_a_dead_zone_that_was_measured_in_the_source_is_there(below: float) -> None:
    """However small: of 2 % the stick was called sound."""
    take = read("sound")
    hidden = Hidden("built-in-dead-zone", None, "", ("still.", "let_go.", "composite."), below)
    odds = chances(replace(take, hidden=(hidden,)))
    assert odds["firmware-dead-zone"] >= SEEN
    assert odds[SOUND] <= 1.0 - SEEN


def test_what_its_source_hides_is_not_sound() -> None:
    """Rest and returns are two of the three that a stick must show."""
    take = read("sound")
    hidden = Hidden("zero", "x", "", ("still.", "let_go.", "composite."))
    assert chances(replace(take, hidden=(hidden,)))[SOUND] <= 1 / 3


def test_what_is_within_every_limit_looks_sound() -> None:
    """Limits are there for that: of fifty sound sticks fourteen were called nothing, and two not
    seated flush at most, since each of them was a little of everything."""
    take = read("sound")
    assert take.let_go is not None
    assert take.rim is not None
    none_of_it = {c: replace(w, bias=-30.0) for c, w in weights().items()}
    within = {r.cause: r.probability for r in rank(take, by=none_of_it)}
    assert within[SOUND] == WITHIN
    over = replace(take, let_go=replace(take.let_go, settle_ms_p90=400.0))
    assert rank(over, by=none_of_it)[0].probability < 0.1
    unseen = {r.cause: r.probability for r in rank(replace(take, rim=None), by=none_of_it)}
    assert unseen[SOUND] < 0.1
    quick = {
        r.cause: r.probability for r in rank(replace(take, crossing=None, hold=None), by=none_of_it)
    }
    assert quick[SOUND] == WITHIN


@pytest.mark.parametrize(
    ("path", "step"),
    [
        ("crossing.x.track_noise_max", "crossing-x"),
        ("crossing.y.track_noise_max", "crossing-y"),
        ("rim.circularity_error", "rim"),
        ("still.wander", "still"),
        ("let_go.return_spread", "let-go"),
        ("composite.dead_zone_needed", "let-go"),
        ("composite.shape_after_recalibration", "rim"),
        ("hold.sag", "hold"),
        ("joint.drops_per_min", "hold"),
    ],
)
def test_what_is_too_near_its_limit_to_call_is_measured_again_before_it_is_sound(
    path: str, step: str
) -> None:
    """“Sound”, it said, beside readings that could not be called; and to let go again, whichever it
    was."""
    whole = read("sound")
    unsure = whole.uncertainty | {path: 1.0 + 2 * LIMIT_OF[path].everyday}
    take = replace(whole, uncertainty=unsure)
    ranked = rank(take)
    assert (ranked[0].cause, ranked[0].likely) == (SOUND, False)
    (look,) = looks(take, ranked, STANDARD.steps)
    assert look.steps == (step,)
    assert "is too near its limit to call" in look.words
    single = replace(take, recording=replace(take.recording, axes=("x",)))
    (along,) = looks(single, ranked, STANDARD.steps)
    assert along.words.endswith(SHOWN_ALONG[step]), "a lever has no eight directions"
    assert look.words.endswith(SHOWN[step])
    without = tuple(s for s in STANDARD.steps if s != step)
    assert step not in {s for found in looks(take, ranked, without) for s in found.steps}


@pytest.mark.parametrize(("drops", "held"), [(3, True), (2, False)])
def test_what_fell_back_while_it_was_pushed_is_to_be_held_over(drops: int, held: bool) -> None:
    """The quick routine never holds it: it was sound by 90 %, or to be crossed slowly."""
    whole = read("sound")
    joint = replace(whole.joint, drops=drops, drops_per_min=1.5)
    take = replace(whole, hold=None, joint=joint)
    assert ("hold it over at each side" in explain(take).advice) == held
    none_of_it = {c: replace(w, bias=-30.0) for c, w in weights().items()}
    ranked = rank(take, by=none_of_it)
    asked = looks(take, ranked, STANDARD.steps)
    assert any(look.words.startswith("It fell back while it was pushed") for look in asked) == held
    assert (
        not looks(take, ranked, ("still",))
        or "hold" not in looks(take, ranked, ("still",))[0].steps
    )


@pytest.mark.parametrize(("dropouts", "sag"), [(1, 0.0), (0, 20.0)])
def test_what_fell_back_in_a_hold_as_well_is_the_track(dropouts: int, sag: float) -> None:
    whole = read("sound")
    first, *others = whole.hold or ()
    hold = (replace(first, dropouts=dropouts, sag=sag), *others)
    take = replace(whole, hold=hold, joint=replace(whole.joint, drops=3, drops_per_min=1.5))
    advice = explain(take).advice
    assert "hold it over at each side" not in advice
    assert "falls back while it is held" in advice


@pytest.mark.parametrize(
    ("sides", "said"),
    [(1, "one side,"), (2, "two sides,"), (3, "three sides,"), (4, "all its sides,")],
)
def test_as_many_sides_are_said_to_be_cut_off_as_are(sides: int, said: str) -> None:
    cut = tuple(Hidden("saturated", "x", "", ("rim.round", "composite.circ")) for _ in range(sides))
    assert f"end of its range on {said}" in explain(replace(read("sound"), hidden=cut)).advice


def test_mirroring_the_stick_changes_the_axis_and_nothing_else() -> None:
    recording = performed("worn").recording
    swapped = transformed(recording, recording.u[:, ::-1])
    step = swapped.step.copy()
    step[recording.step == 3], step[recording.step == 4] = 4, 3
    there, here = rank(measure_take(replace(swapped, step=step))), rank(read("worn"))
    assert here[0].cause == there[0].cause == "worn"
    assert {here[0].axis, there[0].axis} in ({"x", "y"}, {None})


def test_what_was_not_measured_weighs_nothing() -> None:
    """A Still alone tells of hardly anything, and never that a stick is sound."""
    recording = performed("sound").recording
    part = recording.step == 0
    still = replace(
        recording,
        t_us=recording.t_us[part],
        raw=recording.raw[part],
        step=recording.step[part],
    )
    ranked = rank(measure_take(still))
    assert all(r.probability < 0.7 for r in ranked), [(r.cause, r.probability) for r in ranked[:3]]
    steps = {e.reading.split(".")[0] for r in ranked for e in r.evidence}
    assert not steps & {"rim", "crossing", "hold", "let_go"}


@pytest.mark.parametrize(
    ("steps", "least", "most"),
    [
        ((0, 1, 2, 3, 4, 5), 0.9, 1.0),
        ((0, 1, 2, 3, 4), 0.6, 5 / 6),
        ((0, 1, 2), WITHIN, WITHIN),
        ((0, 2, 3, 4, 5), 0.3, NEAR),
        ((0, 1), 0.0, 2 / 9),
        ((1,), 0.0, 1 / 18),
        ((3, 4, 5), 0.0, 0.0),
    ],
)
def test_a_stick_is_called_sound_by_what_was_looked_at_only(
    steps: tuple[int, ...], least: float, most: float
) -> None:
    recording = performed("sound").recording
    part = np.isin(recording.step, steps)
    some = replace(
        recording,
        t_us=recording.t_us[part],
        raw=recording.raw[part],
        step=recording.step[part],
    )
    sound = next(r for r in rank(measure_take(some)) if r.cause == SOUND)
    assert least <= sound.probability <= most


def test_a_take_that_tells_nothing_is_told_of_with_low_probabilities() -> None:
    recording = performed("sound").recording
    nothing = measure_take(replace(recording, step=np.full_like(recording.step, -1)))
    ranking = rank(nothing)
    assert len(ranking) == len(CAUSES)
    assert ranking[0].probability < 0.3


def test_an_evidence_is_told_in_doublings_of_its_scale() -> None:
    e = BY_CODE["returns-apart"]
    assert e.doublings(e.scale) == 0
    assert e.doublings(2 * e.scale) == pytest.approx(1)
    assert e.doublings(0.0) == -2
    assert e.doublings(1e9) == 3


LIKELY = {"offset": 0.8, "dirty": 0.5}


def test_a_chain_costs_what_adding_it_up_by_hand_gives() -> None:
    money = Money(rate=30.0, controller=40.0, parts={"cleaned": 1.0})
    cures = {"recalibrated": {"offset": 0.9}, "cleaned": {"dirty": 0.75}}
    chain = cost_of(("recalibrated", "cleaned"), cures, LIKELY, money)
    never = (1 - 0.8) * (1 - 0.5)
    after_one = (1 - 0.8 * 0.1) * (1 - 0.5)
    after_two = (1 - 0.8 * 0.1) * (1 - 0.5 * 0.25)
    first = REMEDY["recalibrated"].minutes + 3
    second = REMEDY["cleaned"].minutes + 8 + 3
    minutes = (1 - never) * first + (1 - after_one) * second
    assert chain.minutes == pytest.approx(minutes)
    assert chain.chance == pytest.approx(after_two)
    parts = (1 - after_one) * 1.0
    assert chain.cost == pytest.approx(minutes / 2 + parts + (1 - after_two) * 40)


def test_another_controller_is_the_answer_where_it_costs_less() -> None:
    cures = {"replaced": {"worn": 0.9}, "sensor-parts": {"worn": 0.7}}
    likely = {"worn": 0.95}
    dear = worth(list(cures), cures, likely, Money(controller=500))
    cheap = worth(list(cures), cures, likely, Money(controller=2))
    assert dear.chains[0].remedies != (RETIRED,)
    assert cheap.chains[0].remedies == (RETIRED,)
    even = dear.break_even
    assert even is not None
    assert even == pytest.approx(
        worth(list(cures), cures, likely, Money(controller=400)).break_even
    )
    first = dear.chains[0].remedies
    for price, pays in ((even * 0.98, False), (even * 1.02, True)):
        money = Money(controller=price)
        mended = cost_of(first, cures, likely, money).cost
        instead = REMEDY[RETIRED].minutes / 60 * money.rate + price
        assert (mended < instead) == pays


def test_no_chain_puts_other_sensors_in_twice_or_counts_on_hiding() -> None:
    cures = {code: {"worn": 0.6} for code in ("replaced", "donor", "sensor-parts")}
    cures["software-dead-zone"] = {"worn": 0.9}
    cures["eased"] = {"worn": 0.3}
    reckoning = worth(list(cures), cures, {"worn": 0.9}, Money())
    for chain in reckoning.chains:
        assert "software-dead-zone" not in chain.remedies
        assert sum(REMEDY[code].renews is not None for code in chain.remedies) <= 1


def test_causes_are_taken_to_come_independently() -> None:
    assert passes_after({}, {"worn": 0.5, "dirty": 0.5, SOUND: 0.9}) == pytest.approx(0.25)
    assert passes_after({"worn": 1.0, "dirty": 1.0}, {"worn": 0.5, "dirty": 0.5}) == 1.0


def test_the_record_of_the_shop_outweighs_the_word_of_the_trade_in_time() -> None:
    prior, low, high, basis = beta(0.75, None)
    assert (prior, basis) == (pytest.approx(0.75), "table")
    assert low < 0.75 < high
    many, narrow, wide, chance = beta(0.75, Record(40, 4))
    assert many < 0.2
    assert chance == "record"
    assert wide - narrow < high - low


@pytest.mark.parametrize("seed", [2, 5, 8])
def test_a_recalibration_leaves_what_was_forecast(seed: int) -> None:
    """Forecast from one take, against really recalibrating and measuring again."""
    stick = fresh_stick("potentiometer", "round", 12, 250.0, "offset", seed)
    before = read_of(stick, seed)
    after_it = repaired(stick, "recalibrated", Treatment(seed=seed))
    after = read_of(after_it, seed + 50)
    drawn = recentrings(before)
    assert drawn is not None
    low, high = np.percentile(drawn, (1, 99))
    assert low - 0.5 <= after.composite.dead_zone_needed <= high + 0.5
    offered = prospects(before, rank(before), "everyday", LIMIT_OF)
    recalibrate = next(p for p in offered if p.remedy == "recalibrated")
    assert recalibrate.chance > 0.7
    assert recalibrate.basis == "take"
    assert "rim.circularity_error" not in recalibrate.expected, "the rim was cut off at an end"


@pytest.mark.parametrize("seed", [2, 5, 8])
def test_a_rim_that_is_seen_is_forecast(seed: int) -> None:
    stick = fresh_stick("potentiometer", "round", 12, 250.0, "miscalibrated", seed)
    before = read_of(stick, seed)
    after_it = repaired(stick, "recalibrated", Treatment(seed=seed))
    after = read_of(after_it, seed + 50)
    offered = prospects(before, rank(before), "everyday", LIMIT_OF)
    circular = next(p for p in offered if p.remedy == "recalibrated").expected[
        "rim.circularity_error"
    ]
    assert before.rim.circularity_error > 10
    assert circular.middle == pytest.approx(after.rim.circularity_error, abs=0.5)


@pytest.mark.parametrize(
    ("reach", "becomes"), [(0.75, 1.0), (1.0, 1.0), (1.12, 1.0), (0.41, 1.0), (0.39, 0.39)]
)
def test_learning_the_extents_anew_rescales_what_is_at_rest_too(
    reach: float, becomes: float
) -> None:
    """A stick whose ends ran over reads less of everything once they do not, and the reverse."""
    take = read("worn")
    radius = tuple(100.0 * reach for _ in take.rim.radius)
    take = replace(take, rim=replace(take.rim, radius=radius))
    offered = {p.remedy: p for p in prospects(take, rank(take), "everyday", LIMIT_OF)}
    recalibrate, trim = (offered[code].expected for code in ("recalibrated", "trimmed"))
    for path in ("composite.dead_zone_needed", "let_go.return_spread"):
        rescaled = recalibrate[path].middle / trim[path].middle
        assert rescaled == pytest.approx(becomes / reach, rel=0.01), "unless hardly any was seen"
        assert recalibrate[path].now == trim[path].now


def test_what_the_source_hides_is_not_forecast() -> None:
    hidden = read("dead-zone")
    assert recentrings(hidden) is None
    offered = prospects(hidden, rank(hidden), "everyday", LIMIT_OF)
    assert all(
        "composite.dead_zone_needed" not in p.expected or p.basis == "table" for p in offered
    )


def test_a_hall_sensor_has_no_track_to_clean() -> None:
    take = read("dirty")
    codes = {p.remedy for p in prospects(take, rank(take), "everyday", LIMIT_OF, hall=True)}
    assert not codes & {"cleaned", "sensor-parts", "eased", "trimmed", "replaced-by-hall"}


def ranked(**likely: float) -> list[Ranked]:
    ranking = [Ranked(c.code, None, likely.get(c.code.replace("-", "_"), 0.02), ()) for c in CAUSES]
    return sorted(ranking, key=lambda r: -r.probability)


def test_what_would_decide_is_said_only_where_something_is_open() -> None:
    take = read("worn")
    steps = STANDARD.steps
    assert looks(take, ranked(worn=0.95), steps) == ()
    assert looks(take, ranked(worn=0.95, offset=0.9), steps) == ()
    open_ = looks(take, ranked(worn=0.6, dirty=0.4), steps)
    assert set(open_[0].between) == {"worn", "dirty"}
    assert "back and forth" in open_[0].words
    assert looks(take, ranked(binding=0.5, cross_talk=0.4), steps)[0].steps[0] in steps
    assert looks(take, ranked(binding=0.5, cross_talk=0.4), ()) == ()


def test_a_complaint_that_does_not_show_is_said() -> None:
    sound = read("sound")
    held = held_against(Intake(often="sometimes"), "drifts", sound, rank(sound))
    assert held.reproduced is False
    assert held.try_next is not None
    assert "sometimes" in " ".join(held.said)
    nothing_told = held_against(Intake(), "", sound, rank(sound))
    assert (nothing_told.reproduced, nothing_told.said) == (None, ())


@pytest.mark.parametrize(("apart", "goes_with"), [(0, True), (2, True), (3, False), (6, False)])
def test_a_stick_that_goes_another_way_than_was_told_is_said(apart: int, goes_with: bool) -> None:
    take = read("offset")
    hour = round(take.still.rest_bearing / 30) % 12 or 12
    told = (hour + apart - 1) % 12 + 1
    answer = held_against(Intake(hours=(told,)), "", take, rank(take)).said[0]
    assert (", and rests toward" in answer) == goes_with


def rim_at_its_end(bins: int) -> TakeReadings:
    """A take whose rim lies at the right end of its range over so many bins."""
    take = read("miscalibrated")
    radius = list(take.rim.radius)
    at_right = [18, 17, 19, 16, 20][:bins]
    for i in at_right:
        radius[i] = 100.0 / np.sin(np.radians(5.0 * i))
    return replace(take, rim=replace(take.rim, radius=tuple(radius)))


@pytest.mark.parametrize(("bins", "told"), [(0, True), (2, True), (3, False)])
def test_what_the_range_cuts_off_is_not_forecast(bins: int, told: bool) -> None:
    """Two bins touch the end; from three on nobody knows what a recalibration would bring to light."""
    take = rim_at_its_end(bins)
    offered = prospects(take, rank(take), "everyday", LIMIT_OF)
    expected = next(p for p in offered if p.remedy == "recalibrated").expected
    assert ("rim.circularity_error" in expected) == told


@pytest.mark.parametrize(
    ("first", "second", "open_"),
    [(0.84, 0.2, True), (0.86, 0.2, True), (0.86, 0.14, False), (0.86, 0.86, False)],
)
def test_what_is_open_is_what_lies_between(first: float, second: float, open_: bool) -> None:
    """A cause told with over 85 % needs no deciding, unless another is neither in nor out."""
    asked = looks(read("worn"), ranked(worn=first, dirty=second), STANDARD.steps)
    assert bool(asked) == open_


def test_a_cause_is_on_both_axes_where_both_are_alike() -> None:
    table = {"loose": weights()["loose"]}
    take = read("loose")
    only = next(r for r in rank(take) if r.cause == "loose")
    assert only.axis in ("x", "y")
    assert table["loose"].adds("jumps", None) == 0.0
    joint = take.joint
    both = [replace(j, axis=axis) for j in joint.jump for axis in ("x", "y")]
    doubled = replace(take, joint=replace(joint, jumps=2 * joint.jumps, jump=tuple(both)))
    assert next(r for r in rank(doubled) if r.cause == "loose").axis is None


def test_a_chain_is_no_longer_than_anybody_would_follow() -> None:
    cures = {code: {"loose": 0.3} for code in ("reseated", "mended", "other-cable", "recalibrated")}
    reckoning = worth(list(cures), cures, {"loose": 0.9}, Money(controller=900))
    assert max(len(c.remedies) for c in reckoning.chains) == 3
    assert len({c.remedies[0] for c in reckoning.chains}) == len(reckoning.chains), (
        "each begins otherwise"
    )
    mending, instead = reckoning.lines
    assert mending.at_nothing < mending.at_twice < instead.at_twice
