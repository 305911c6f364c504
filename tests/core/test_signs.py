"""What counts as evidence, at its edges: a little off, and a part is named that was not meant."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.advice import advised
from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.comparison import _judge as judge
from hollow_pin.core.complaint import held_against
from hollow_pin.core.crossing import EDGES
from hollow_pin.core.dead_spans import DeadSpan
from hollow_pin.core.gate import BEARINGS, gate_radius
from hollow_pin.core.hidden import Hidden
from hollow_pin.core.intake import Intake, why_not_worked_on
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.prospect import (
    FRESH,
    Fitted,
    Record,
    beta,
    cures_of,
    prospects,
    recentrings,
)
from hollow_pin.core.ranking import Ranked, Weights, rank, weights, worth_showing
from hollow_pin.core.reach_signs import cut_wide, lopsided, other_span, short_reach, short_span
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.remedies import BY_CODE, REMEDIES
from hollow_pin.core.sides import Sides
from hollow_pin.core.signs import noisy_centre, off_centre, rough_in_places, zone
from hollow_pin.core.worth import Chain
from sticks import readings_of


@pytest.fixture(scope="module")
def take() -> TakeReadings:
    return readings_of("sound", 5)


def noisy(take: TakeReadings, at: float) -> Sides:
    """A take whose x is quiet but for the two bins at a distance from the middle, %."""
    middle = (EDGES[:-1] + EDGES[1:]) / 2
    noise = np.where(np.abs(middle) == at, 9.0, 0.3)
    x = replace(take.crossing.x, track_noise=tuple(noise), track_noise_max=9.0)
    return Sides(replace(take, crossing=replace(take.crossing, x=x)))


@pytest.mark.parametrize(("at", "out"), [(10.0, False), (14.0, False), (18.0, True)])
def test_a_rough_stretch_is_away_from_the_centre_from_where_no_wiper_lives(
    take: TakeReadings, at: float, out: bool
) -> None:
    assert rough_in_places(noisy(take, at), "x") == pytest.approx(9.0 if out else 0.3)


@pytest.mark.parametrize(
    ("from_", "to", "passes", "rough"),
    [(16, 20, 2, False), (16, 20, 1, True), (24.5, 26, 2, True), (23.5, 26, 2, False)],
)
def test_a_rough_stretch_is_none_where_passes_jump_over_it(
    take: TakeReadings, from_: float, to: float, passes: int, rough: bool
) -> None:
    """The jump makes its own noise, in the bins beside it too, and a broken track was dirty."""
    sides = noisy(take, 18.0)
    spans = (DeadSpan(from_, to, passes), DeadSpan(-from_ - 4, -from_, passes))
    x = replace(sides.take.crossing.x, dead_spans=spans)
    jumped = Sides(replace(sides.take, crossing=replace(sides.take.crossing, x=x)))
    assert rough_in_places(jumped, "x") == pytest.approx(9.0 if rough else 0.3)


def reaching(take: TakeReadings, x: tuple[float, float], y: tuple[float, float]) -> Sides:
    """A take whose rim is an ellipse by quarters: how far it reaches low and high on x and on y."""
    angle = np.radians(BEARINGS)
    sine, cosine = np.sin(angle), np.cos(angle)
    ends = np.where(sine < 0, x[0], x[1]), np.where(cosine < 0, y[0], y[1])
    radius = 1 / np.hypot(sine / ends[0], cosine / ends[1])
    return Sides(replace(take, rim=replace(take.rim, radius=tuple(radius.tolist()))))


def test_how_far_each_axis_reaches_is_told_apart(take: TakeReadings) -> None:
    """A calibration that another part left behind shows in what reaches how far, and where."""
    even = reaching(take, (95.0, 95.0), (95.0, 95.0))
    assert (other_span(even, "x"), other_span(even, "y")) == (approx(0.0), approx(0.0))
    narrow = reaching(take, (80.0, 90.0), (95.0, 91.0))
    assert (other_span(narrow, "x"), other_span(narrow, "y")) == (approx(8.0), approx(8.0))
    assert (short_reach(narrow, "x"), short_reach(narrow, "y")) == (approx(15.0), approx(7.0))
    at = narrow.centre
    assert lopsided(narrow, "x") == approx(abs(5.0 - at[0]))
    assert lopsided(narrow, "y") == approx(abs(-2.0 - at[1]))
    assert short_reach(reaching(take, (95.0, 130.0), (95.0, 95.0)), "x") == approx(2.5)
    assert (short_span(narrow, "x"), short_span(narrow, "y")) == (approx(15.0), approx(7.0))
    askew = reaching(take, (90.0, 110.0), (95.0, 95.0))
    assert short_span(askew, "x") == approx(0.0), "it falls short here and goes over there"
    assert short_span(reaching(take, (105.0, 105.0), (95.0, 95.0)), "x") == 0.0
    assert short_span(Sides(replace(take, rim=None)), "x") is None
    assert other_span(Sides(replace(take, rim=None)), "x") is None


def approx(value: float) -> object:
    return pytest.approx(value, abs=0.2)


@pytest.mark.parametrize(("near", "counts"), [(10.0, True), (14.0, False)])
def test_the_centre_is_what_lies_within_it(take: TakeReadings, near: float, counts: bool) -> None:
    sides = noisy(take, 6.0)
    x = sides.take.crossing.x
    noise = np.array(x.track_noise)
    noise[np.abs((EDGES[:-1] + EDGES[1:]) / 2) == near] = 9.0
    x = replace(x, track_noise=tuple(noise))
    there = Sides(replace(sides.take, crossing=replace(sides.take.crossing, x=x)))
    assert noisy_centre(there, "x") == pytest.approx(30.0 if counts else 1.0)


def rim_of(take: TakeReadings, right: float, degrees: float = 360.0) -> Sides:
    """A round rim of 90 %, cut off at its right over so many degrees."""
    radius = np.full(len(BEARINGS), 90.0)
    away = np.abs(np.asarray(BEARINGS) - 90.0)
    cut = away <= degrees / 2
    radius[cut] = right / np.cos(np.radians(away[cut]))
    return Sides(replace(take, rim=replace(take.rim, radius=tuple(radius))))


@pytest.mark.parametrize(("right", "degrees"), [(98.9, 0.0), (99.1, 25.0)])
def test_a_rim_is_at_its_end_from_99(take: TakeReadings, right: float, degrees: float) -> None:
    assert cut_wide(rim_of(take, right, 20.0), "x") == degrees


def test_what_a_square_gate_does_not_tell_is_held_against_nothing(take: TakeReadings) -> None:
    """Cut off at one end and short at the other: askew, or half an axis that was learnt too wide."""
    composite = replace(take.composite, gate_seen="square")
    square = replace(take, composite=composite)

    def out_to(far: float) -> Sides:
        rim = replace(take.rim, radius=tuple(far / 100.0 * gate_radius("square")))
        return Sides(replace(square, rim=rim))

    cut, seen = out_to(100.0), out_to(90.0)
    assert (short_span(cut, "x"), other_span(cut, "y")) == (None, None)
    assert other_span(seen, "y") == approx(0.0)
    assert short_span(seen, "x") == approx(10.0)


@pytest.mark.parametrize(("low", "known"), [(80.5, False), (79.5, True)])
def test_no_module_sits_so_far_askew_that_it_falls_a_fifth_short(
    take: TakeReadings, low: float, known: bool
) -> None:
    """Cut off at its other end in a square gate: half an axis that was learnt too wide."""
    sine, cosine = np.sin(np.radians(BEARINGS)), np.cos(np.radians(BEARINGS))
    radius = 1 / np.maximum(np.abs(sine) / np.where(sine < 0, low, 100.0), np.abs(cosine) / 100.0)
    rim = replace(take.rim, radius=tuple(radius.tolist()))
    square = replace(take, rim=rim, composite=replace(take.composite, gate_seen="square"))
    short = short_span(Sides(square), "x")
    assert short == (approx((100.0 - low) / 2) if known else None)


def told(code: str, adds: float, sides: Sides) -> Mapping[str, Weights]:
    """Weights by which one evidence of the returns adds so much on x, and so the less on y."""
    nothing = {c: replace(w, above={}, below={}, usual={}) for c, w in weights().items()}
    apart = np.log2(off_centre(sides, "x") / off_centre(sides, "y"))
    weight = {code: adds / float(apart)}
    return {**nothing, "offset": replace(nothing["offset"], above=weight, below=weight)}


@pytest.mark.parametrize(("apart", "axis"), [(0.99, None), (1.01, "x")])
def test_an_axis_is_named_where_it_is_clearly_the_worse(
    take: TakeReadings, apart: float, axis: str | None
) -> None:
    release = [replace(r, final_x=9.0, final_y=6.0) for r in take.let_go.release]
    off = replace(take, let_go=replace(take.let_go, release=tuple(release)))
    off_centre = next(
        r for r in rank(off, by=told("off-centre", apart, Sides(off))) if r.cause == "offset"
    )
    assert off_centre.axis == axis


@pytest.mark.parametrize(("adds", "listed"), [(0.199, 0), (0.201, 1)])
def test_evidence_is_listed_from_where_it_is_worth_a_word(
    take: TakeReadings, adds: float, listed: int
) -> None:
    release = [replace(r, final_x=10.0, final_y=5.0) for r in take.let_go.release]
    off = replace(take, let_go=replace(take.let_go, release=tuple(release)))
    off_centre = next(
        r for r in rank(off, by=told("off-centre", adds, Sides(off))) if r.cause == "offset"
    )
    assert len(off_centre.evidence) == listed


def test_two_causes_are_shown_at_least_and_four_at_most() -> None:
    likely = {"worn": 0.9, "offset": 0.5, "dirty": 0.101, "binding": 0.099}
    assert [c.cause for c in worth_showing(ranked(**likely))] == ["worn", "offset", "dirty"]
    assert len(worth_showing(ranked(worn=0.9))) == 2
    many = dict.fromkeys(("worn", "dirty", "binding", "offset", "loose"), 0.3)
    assert len(worth_showing(ranked(**many))) == 4


def ranked(**likely: float) -> list[Ranked]:
    ranking = [
        Ranked(code, None, likely.get(code.replace("-", "_"), 0.0), ()) for code in weights()
    ]
    return sorted(ranking, key=lambda r: -r.probability)


@pytest.mark.parametrize(("p", "offered"), [(0.039, False), (0.041, True)])
def test_what_hardly_is_so_is_no_reason_to_offer_anything(
    take: TakeReadings, p: float, offered: bool
) -> None:
    found = {o.remedy for o in prospects(take, ranked(worn=p), "everyday", LIMIT_OF)}
    assert ("replaced" in found) == offered


@pytest.mark.parametrize(("p", "said"), [(0.29, False), (0.31, True)])
def test_what_a_remedy_does_nothing_for_is_said_where_it_may_well_be_so(
    take: TakeReadings, p: float, said: bool
) -> None:
    offers = prospects(take, ranked(offset=0.9, worn=p), "everyday", LIMIT_OF)
    words = next(o.words for o in offers if o.remedy == "recalibrated")
    assert ("It does nothing for what else shows: worn at the centre." in words) == said


def test_the_word_of_the_trade_counts_for_four_jobs() -> None:
    assert beta(0.5, Record(4, 4))[0] == pytest.approx(6 / 8)


def test_what_parts_will_read_is_told_by_those_that_were_fitted_and_no_fewer_than_five() -> None:
    """Student's t of one more: nine in ten parts come out between its ends."""
    take = readings_of("worn", 5)
    path = "composite.dead_zone_needed"

    def told(values: list[float]) -> tuple[float, float, float]:
        parts = {"replaced": tuple(Fitted("", {path: v}) for v in values)}
        offered = prospects(take, rank(take), "everyday", LIMIT_OF, fitted=parts)
        expected = next(o.expected for o in offered if o.remedy == "replaced")[path]
        return expected.low, expected.middle, expected.high

    values = [2.0, 2.4, 2.5, 2.6, 3.5]
    few = told(values[:4])
    assert few == FRESH[path]
    wide = 2.1318467863 * np.std(values, ddof=1) * np.sqrt(1 + 1 / 5)
    mean = float(np.mean(values))
    assert told(values) == pytest.approx((mean - wide, 2.5, mean + wide))
    assert told([0.1, 0.1, 0.1, 0.1, 2.0])[0] == 0.0, "no dead zone is less than none"


def test_a_trim_is_no_surer_of_other_causes_by_the_take(take: TakeReadings) -> None:
    """Only where it will rest is worked out from the take; what else it helps is the trade's word."""
    trim = BY_CODE["trimmed"]
    cures = cures_of(trim, take, {}, "everyday", LIMIT_OF, {})
    assert {cause: basis for cause, (*_, basis) in cures.items()} == {
        cause: "take" if cause == "offset" else "table" for cause in trim.helps
    }
    mended = cures_of(BY_CODE["replaced"], take, {}, "everyday", LIMIT_OF, {})
    assert {basis for *_, basis in mended.values()} == {"table"}


@pytest.mark.parametrize(
    ("cause", "spreads"),
    [("worn", True), ("binding", True), ("dirty", True), ("loose", True), ("supply-noise", True),
     ("calibration", False), ("unseated", False), ("failing-track", False), ("cross-talk", False)],
)  # fmt: skip
def test_a_recentring_is_judged_as_if_what_else_spreads_the_rest_were_mended(
    cause: str, spreads: bool
) -> None:
    """On a stick that binds no recentring would ever hold, so that both were not worth mending."""
    recalibrated, take = BY_CODE["recalibrated"], readings_of("worn", 21)

    def cure(probability: float) -> float:
        likely = {cause: probability}
        return cures_of(recalibrated, take, likely, "everyday", LIMIT_OF, {})["offset"][0]

    usual = recalibrated.helps["offset"].chance
    assert cure(0.0) < 0.7 < usual
    assert cure(1.0) == pytest.approx(usual if spreads else cure(0.0))
    assert cure(0.4) == pytest.approx(0.6 * cure(0.0) + 0.4 * cure(1.0))


@pytest.mark.parametrize(("releases", "forecast"), [(3, False), (4, True)])
def test_a_centre_is_forecast_from_as_many_returns_as_one_is_taken_from(
    take: TakeReadings, releases: int, forecast: bool
) -> None:
    few = replace(take, let_go=replace(take.let_go, release=take.let_go.release[:releases]))
    assert (recentrings(few) is not None) == forecast


@pytest.mark.parametrize(("offset", "goes_anywhere"), [(1.9, False), (2.1, True)])
def test_a_rest_that_nobody_would_feel_goes_nowhere(
    take: TakeReadings, offset: float, goes_anywhere: bool
) -> None:
    still = replace(take.still, rest_offset=offset, rest_bearing=270.0)
    off = replace(take, still=still, uncertainty={**take.uncertainty, "still.rest_offset": 0.1})
    answer = held_against(Intake(hours=(9,)), "", off, ranked(offset=0.9)).said[0]
    assert ("and rests toward 9" in answer) == goes_anywhere


CHEAPEST = Chain(("replaced",), 0.9, 38.0, 6.0, 25.0)
RETIRING = Chain(("retired",), 0.0, 5.0, 0.0, 47.0)
FREE = Chain(("recalibrated",), 0.5, 7.0, 0.0, 24.0)


@pytest.mark.parametrize(
    ("likely", "chains", "warranty", "first"),
    [
        ({"sound": 0.5}, [CHEAPEST], "", "left"),
        ({"sound": 0.49}, [CHEAPEST], "", "replaced"),
        ({"firmware_dead_zone": 0.5}, [CHEAPEST], "", "rawer-source"),
        ({"firmware_dead_zone": 0.49}, [CHEAPEST], "", "replaced"),
        ({"worn": 0.9}, [CHEAPEST], "yes", "passed-on"),
        ({"worn": 0.9}, [FREE, CHEAPEST], "yes", "recalibrated"),
        ({"worn": 0.9}, [RETIRING, FREE], "yes", "passed-on"),
        ({"worn": 0.9}, [RETIRING, CHEAPEST], "", "retired"),
    ],
)
def test_what_to_begin_with(
    likely: dict[str, float], chains: list[Chain], warranty: str, first: str
) -> None:
    """Under warranty nobody opens it here, and nobody throws away what the maker would make good."""
    offered = {"rawer-source", "recalibrated", "replaced", "passed-on"}
    intake = Intake(warranty=warranty)
    assert advised(ranked(**likely), offered, chains, intake, refer=False) == first
    assert advised(ranked(**likely), offered, chains, intake, refer=True) == "refer"
    to_look = advised(ranked(**likely), offered, chains, intake, refer=False, look_first=True)
    assert to_look is None, "nothing is done before another look"
    assert advised(ranked(**likely), offered, chains, intake, True, look_first=True) == "refer"


@pytest.mark.parametrize(
    ("remedy", "warranty", "consent", "refused"),
    [
        ("replaced", "yes", "", True),
        ("replaced", "yes", "yes", False),
        ("replaced", "no", "", False),
        ("replaced", "no", "no", True),
        ("recalibrated", "yes", "no", False),
        ("passed-on", "", "", True),
        ("passed-on", "yes", "", False),
    ],
)
def test_nothing_is_opened_under_warranty_before_the_owner_agrees(
    remedy: str, warranty: str, consent: str, refused: bool
) -> None:
    why = why_not_worked_on(remedy, Intake(warranty=warranty, consent=consent), refer=False)
    assert (why is not None) == refused


def test_what_is_referred_may_only_be_referred() -> None:
    """A controller that moves people is measured and passed on; nothing else is done to it here."""
    for remedy in REMEDIES:
        why = why_not_worked_on(remedy.code, Intake(consent="yes", warranty="no"), refer=True)
        assert (why is None) == (remedy.ends == "referred"), remedy.code


def test_a_dead_zone_is_as_wide_as_was_seen_or_as_one_usually_is(take: TakeReadings) -> None:
    """A rest of exactly zero without a crossing says that there is one, and not how wide."""

    def read(*hidden: Hidden) -> float | None:
        return zone(Sides(replace(take, hidden=hidden)), "x")

    assert read() == 0.0
    assert read(Hidden("zero", "x", "", ())) == 4.0
    wide = (Hidden("built-in-dead-zone", "x", "", (), 6.0), Hidden("zero", "x", "", ()))
    assert read(*wide) == 6.0
    assert zone(Sides(replace(take, hidden=(), crossing=None)), "x") is None


def test_a_change_is_one_only_beyond_twice_its_uncertainty() -> None:
    """At exactly twice it may still be chance: in itself, and in how far it is off."""
    offset = BY_PATH["still.rest_x"]
    assert judge(offset, 1.0, 2.0, 0.5) == "no-change"
    assert judge(offset, 1.0, 2.01, 0.5) == "worse"
    assert judge(offset, -1.0, 1.0, 0.4) == "changed", "as far off as before, on the other side"
    assert judge(offset, -1.5, 0.5, 0.5) == "changed", "a per cent nearer is within chance"
    assert judge(offset, -1.6, 0.5, 0.5) == "better"


def test_what_the_shop_knows_of_a_remedy_is_told_with_its_counts() -> None:
    """“Four of five” is worth more than the trade's word, and has to be seen to be the shop's own."""
    worn = readings_of("worn", 5)
    records = {("replaced", "worn"): Record(5, 4, "this model, Plover")}
    told = {p.remedy: p.words for p in prospects(worn, rank(worn), "everyday", LIMIT_OF, records)}
    assert "Here it held in 4 of 5 of this model, Plover." in told["replaced"]
    assert not any("Here it held" in words for code, words in told.items() if code != "replaced")
