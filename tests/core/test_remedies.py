"""The tables of causes and remedies: a row that is not whole would leave a technician without a
remedy, or put one before them without its cautions."""

from __future__ import annotations

import pytest

from hollow_pin.core.calculators.table import BY_NAME as CALCULATORS
from hollow_pin.core.causes import CAUSES, SOUND
from hollow_pin.core.cautions import CAUTIONS, cautions_for
from hollow_pin.core.evidence import BY_CODE as EVIDENCE
from hollow_pin.core.ranking import MOST_FOR, SPEAKS, weights
from hollow_pin.core.remedies import OPENING, REMEDIES, SOLDERING, WORK, Remedy
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.repairs import REPAIRS, Treatment, repaired

CODES = {c.code for c in CAUSES}


@pytest.mark.parametrize("cause", CAUSES, ids=lambda c: c.code)
def test_every_cause_has_something_that_helps_and_something_that_tells_it(cause) -> None:
    assert cause.helped_by, "nothing would be offered for it"
    assert SPEAKS[cause.code].keys() <= EVIDENCE.keys()
    assert any(sign > 0 for sign in SPEAKS[cause.code].values()) or cause.code == SOUND


@pytest.mark.parametrize("remedy", REMEDIES, ids=lambda r: r.code)
def test_every_remedy_comes_with_its_cautions(remedy: Remedy) -> None:
    shown = {c.code for c in cautions_for(remedy.code)}
    assert shown == set(remedy.all_cautions), "a caution that is named is not in the table"
    if remedy.opens:
        assert set(OPENING) <= shown
    if remedy.solders:
        assert set(SOLDERING) <= shown
    assert remedy.helps.keys() <= CODES
    assert all(0 < h.chance <= 1 and h.how for h in remedy.helps.values())


def test_no_caution_is_read_by_nobody() -> None:
    assert {code for r in REMEDIES for code in r.all_cautions} == {c.code for c in CAUTIONS}


@pytest.mark.parametrize("remedy", WORK, ids=lambda r: r.code)
def test_work_has_a_stage_and_does_something_to_a_stand_in(remedy: Remedy) -> None:
    assert remedy.stage, "a take after it would have no stage"
    stick = fresh_stick("potentiometer", "round", 10, 250.0, "loose", 3)
    done = Treatment(module=remedy.module or ("hall" if "module" in remedy.asks else None), seed=4)
    after = repaired(stick, remedy.code, done)
    assert after.body.gate == stick.body.gate
    if remedy.renews and remedy.code != "sensor-parts":
        assert after.module.kind == "hall"


def test_nothing_else_is_done_to_stand_ins() -> None:
    assert REPAIRS.keys() == {r.code for r in WORK}


def test_what_is_named_does_what_its_name_says() -> None:
    """A technician who practises on stand-ins must see the cure where it is, and only there."""
    loose = fresh_stick("potentiometer", "round", 10, 250.0, "loose", 3)
    both = lambda s: s.module.x.loose + s.module.y.loose  # noqa: E731
    assert both(repaired(loose, "mended", Treatment())) == 0 < both(loose)
    assert both(repaired(loose, "cleaned", Treatment())) == both(loose)
    worn = fresh_stick("potentiometer", "round", 10, 250.0, "worn", 3)
    eased = repaired(worn, "eased", Treatment("x"))
    assert eased.module.x.wear < worn.module.x.wear
    assert eased.module.y == worn.module.y, "it was done to the other axis"
    trimmed = repaired(worn, "trimmed", Treatment())
    assert trimmed.module.x.offset == 0
    assert trimmed.module.x.gain_plus < worn.module.x.gain_plus, "a trim costs reach"
    parts = repaired(worn, "sensor-parts", Treatment("x", seed=2))
    assert parts.module.x.wear == 0
    assert parts.module.y == worn.module.y
    binds = fresh_stick("potentiometer", "round", 10, 250.0, "binding", 3)
    assert repaired(binds, "lubricated", Treatment()).body.bind < binds.body.bind
    assert repaired(binds, "cap-changed", Treatment()).body.rub == 0
    hums = fresh_stick("potentiometer", "round", 10, 250.0, "humming", 3)
    assert repaired(hums, "other-cable", Treatment()).converter.hum == 0


def test_the_weights_that_ship_are_those_of_the_tables() -> None:
    """Weights left behind by another table would be ranked with in silence."""
    table = weights()
    assert table.keys() == CODES
    for cause, w in table.items():
        assert w.above.keys() == w.below.keys() == w.usual.keys() == SPEAKS[cause].keys()
        for code, sign in SPEAKS[cause].items():
            assert w.above[code] * sign >= 0
            assert w.below[code] * sign >= 0
            assert abs(w.above[code]) <= 2.5 * MOST_FOR


def test_the_arithmetic_that_belongs_to_a_remedy_is_there() -> None:
    """A trim that can never reach is found before it is soldered."""
    from_table = {r.code: r.calculators for r in REMEDIES}
    assert from_table["trimmed"] == ("trim", "iron")
    assert from_table["mended"] == ("iron",)
    assert from_table["cleaned"] == ()
    assert {name for names in from_table.values() for name in names} <= CALCULATORS.keys()
