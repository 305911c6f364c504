"""A lot is looked at by the published tables, and a wrong or used one is found before it is used."""

from __future__ import annotations

import pytest

from hollow_pin.core.inspection import (
    MARKS,
    OnJig,
    PartFindings,
    PartJudgement,
    by_lot,
    judge,
    read_on_jig,
    spreads,
    standing,
)
from hollow_pin.core.sampling import AQLS, SIZES, single_plan, whole_lot
from hollow_pin.core.take import measure_take
from sticks import performed, readings_of, transformed

PUBLISHED = {
    5: "F5/0 E5/0 D5/0 C5/0 B3/0 A2/0",
    20: "F20/0 E13/0 D8/0 C5/0 B3/0 D8/1",
    40: "F20/0 E13/0 D8/0 C5/0 E13/1 D8/1",
    80: "F20/0 E13/0 D8/0 F20/1 E13/1 E13/2",
    120: "F20/0 E13/0 G32/1 F20/1 F20/2 F20/3",
    200: "F20/0 H50/1 G32/1 G32/2 G32/3 G32/5",
    500: "J80/1 H50/1 H50/2 H50/3 H50/5 H50/7",
    1200: "J80/1 J80/2 J80/3 J80/5 J80/7 J80/10",
    3200: "K125/2 K125/3 K125/5 K125/7 K125/10 K125/14",
    10_000: "L200/3 L200/5 L200/7 L200/10 L200/14 L200/21",
}
"""Letter, sample and acceptance number by lot size and AQL (0.65 to 6.5): ISO 2859-1, tables 1 and
2-A, general level II, normal inspection. Where the sample is as large as the lot, the lot."""


@pytest.mark.parametrize("lot_size", PUBLISHED)
def test_plans_are_those_of_the_published_tables(lot_size: int) -> None:
    plans = [single_plan(lot_size, aql) for aql in AQLS]
    assert " ".join(f"{p.letter}{p.n}/{p.accept}" for p in plans) == PUBLISHED[lot_size]
    assert all(p.reject == p.accept + 1 for p in plans)


@pytest.mark.parametrize(
    ("size", "letter", "aql"),
    [
        (8, "A", 6.5),
        (15, "B", 4.0),
        (25, "C", 2.5),
        (90, "E", 4.0),
        (280, "G", 2.5),
        (1200, "J", 1),
    ],
)
def test_a_row_of_lot_sizes_ends_where_the_table_says(size: int, letter: str, aql: float) -> None:
    assert single_plan(size, aql).letter == letter
    assert single_plan(size + 1, aql).letter != letter or letter in "ABC"


def test_no_plan_looks_at_more_than_there_are_nor_beyond_the_table() -> None:
    for aql in AQLS:
        for size in (*range(2, 400), 10**6):
            plan = single_plan(size, aql)
            assert plan.n <= size
            assert plan.n in SIZES or plan.n == size
            assert 0 <= plan.accept <= 21
    with pytest.raises(ValueError, match="AQL is one of"):
        single_plan(100, 3.0)
    with pytest.raises(ValueError, match="looked at whole"):
        single_plan(1, 1.0)
    whole = whole_lot(7)
    assert (whole.n, whole.reject) == (7, 8)


def test_ohms_are_held_against_what_was_ordered_to_the_tolerance_and_no_further() -> None:
    assert judge(PartFindings((12_000.0,)), 10_000, 20).bad == ()
    assert judge(PartFindings((12_001.0,)), 10_000, 20).bad != ()
    assert judge(PartFindings((8_000.0,)), 10_000, 20).bad == ()
    (judgement,) = judge(PartFindings((10_000.0, 2_300.0)), 10_000, 20).bad
    assert judgement.startswith("2300 Ω where 10000 Ω were ordered")
    assert judge(PartFindings((12_000.0,)), 10_000, None).bad == (), "the usual tolerance"
    assert judge(PartFindings((12_001.0,)), 10_000, None).bad != ()
    assert judge(PartFindings((2_300.0,)), None, None).bad == (), (
        "nothing is known to hold it against"
    )


@pytest.mark.parametrize("mark", [code for code, _ in MARKS])
def test_every_mark_of_use_makes_one_bad(mark: str) -> None:
    (judgement,) = judge(PartFindings(marks=(mark,)), 10_000, 20).bad
    words = dict(MARKS)[mark]
    assert judgement == f"Mark of use: {words[0].lower()}{words[1:]}."


def test_a_fresh_one_that_drifts_is_found_on_the_jig_and_one_off_centre_is_let_through() -> None:
    worn = read_on_jig(readings_of("worn"))
    assert worn.over
    (judgement,) = judge(PartFindings(jig=worn), None, None).bad
    assert "On the jig it is over in" in judgement
    offset = read_on_jig(readings_of("offset"))
    assert offset.over == (), "a calibration takes that away"
    assert offset.values["still.rest_offset"] > 3
    sound = read_on_jig(readings_of("sound"))
    assert judge(PartFindings(jig=sound), None, None) == PartJudgement()


def test_a_jig_that_hides_something_proves_nothing() -> None:
    hiding = read_on_jig(readings_of("dead-zone"))
    assert hiding.hidden
    judgement = judge(PartFindings((10_000.0,), jig=hiding), 10_000, 20)
    assert judgement.unsure == ("The jig hides what it does: what it read there is no proof.",)


def test_a_module_with_a_dead_sensor_is_bad_by_what_the_jig_says() -> None:
    """Not by what the jig hides, which proves nothing either way."""
    recording = performed("sound").recording
    u = recording.u.copy()
    u[:, 0] = 0.0
    judgement = judge(
        PartFindings(jig=read_on_jig(measure_take(transformed(recording, u)))), None, None
    )
    (bad,) = judgement.bad
    assert bad.replace("\u00a0", " ") == (
        "On the jig: x gives no signal: it stays at 0.0 % while y moves."
    )
    assert judgement.unsure == ()


def test_one_unlike_the_others_is_named_once_there_are_enough_of_them() -> None:
    lot = [PartFindings((10_000.0 + 20 * i,)) for i in range(5)]
    odd = PartFindings((10_900.0,))
    assert judge(odd, 10_000, 20, lot[1:]).unlike == ()
    (judgement,) = judge(odd, 10_000, 20, lot).unlike
    assert judgement.startswith("Ohms 1.09e+04, and 1.004e+04")
    assert judge(PartFindings((10_200.0,)), 10_000, 20, lot).unlike == ()
    same = [PartFindings((10_000.0,))] * 5
    assert judge(PartFindings((10_200.0,)), 10_000, 20, same).unlike == (), (
        "half a percent is no scatter"
    )
    assert judge(PartFindings((10_300.0,)), 10_000, 20, same).unlike != ()


def test_the_plan_says_what_to_do_at_its_numbers() -> None:
    plan = single_plan(120, 4.0)
    good, bad = PartJudgement(), PartJudgement(("bad",))
    assert (plan.n, plan.accept) == (20, 2)
    assert standing(plan, [good] * 19, []).decision == "go-on"
    assert standing(plan, [good] * 20, []).decision == "accept"
    counted = standing(plan, [good] * 3 + [bad], [])
    assert (counted.seen, counted.bad) == (4, 1)
    assert standing(plan, [good] * 18 + [bad] * 2, []).decision == "accept"
    assert standing(plan, [good] * 4 + [bad] * 3, []).decision == "reject", "it is known already"
    assert standing(plan, [good] * 4, []).says.startswith(
        "16 more to look at, of 20. 2 may be bad."
    )
    whole = standing(whole_lot(3), [good, bad, bad], [])
    assert whole.decision == "accept"
    assert whole.says == "Looked at whole: 2 bad of 3. Sort the 2 bad ones out."


def test_the_distribution_grows_as_it_goes() -> None:
    jig = OnJig({"still.rest_offset": 2.0}, (), hidden=False)
    lot = [PartFindings((9_800.0, 10_000.0)), PartFindings((10_300.0, 10_300.0), jig=jig)]
    ohms, rest = spreads(lot)
    assert (ohms.count, ohms.least, ohms.median, ohms.most) == (2, 9_900, 10_100, 10_300)
    assert (rest.count, rest.unit) == (1, "%")
    assert by_lot({"accepted": 2, "sent-back": 1}) == "Lots so far: 2 accepted and 1 sent back."
    assert by_lot({}) == ""
