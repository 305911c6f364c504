"""Lots that are looked at before use, and donors: what comes of them on the shelf and on record."""

from __future__ import annotations

from pathlib import Path

import pytest

from benches import AT, new_bench, new_database, taken_in
from gimbal import Stick, taken
from hollow_pin.bench.donors import all_donors, donors_for, keep_as_donor, no_donor
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.inspections import (
    InspectionView,
    begin_inspection,
    decide_on_lot,
    inspections_of_part,
    keep_on_jig,
    look_at,
    on_jig,
    take_back_last,
    take_up_again,
    view_inspection,
)
from hollow_pin.bench.jobs import log_work, view_job
from hollow_pin.bench.parts import Move, move_part, new_part, view_part
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.gate import Gate
from hollow_pin.core.parts import PartFacts
from hollow_pin.core.record import WorkPlan
from hollow_pin.store.database import Database
from sticks import performed

MODULE = PartFacts("Module 10 k", "module", "P-14", 10_000.0, 20.0, "potentiometer")


@pytest.fixture
def shelf(tmp_path: Path) -> tuple[Database, int]:
    database = new_database(tmp_path)
    part = new_part(database, MODULE)
    move_part(database, part.id, Move("received", 40, "BC-1"), AT)
    return database, part.id


def seen(database: Database, inspection: int) -> InspectionView:
    with database.reading() as db:
        return view_inspection(db, inspection)


def look(
    database: Database,
    inspection: int,
    ohms: float = 10_000.0,
    marks: tuple[str, ...] = (),
    jig: int | None = None,
) -> None:
    look_at(database, inspection, (ohms, ohms), marks, jig, "", AT)


def hand(database: Database, part: int) -> int:
    with database.reading() as db:
        return view_part(db, part, AT).line.part.count.hand


def test_a_lot_is_accepted_when_its_plan_says_so_and_its_bad_ones_leave_the_shelf(
    shelf: tuple[Database, int],
) -> None:
    database, part = shelf
    lot = begin_inspection(database, part, " BC-1 ", 40, 4.0, AT).id
    with pytest.raises(Refused, match="looked at already"):
        begin_inspection(database, part, "BC-1", 40, 4.0, AT)
    look(database, lot, 2_300.0)
    for _ in range(11):
        look(database, lot)
    assert seen(database, lot).standing.decision == "go-on"
    with pytest.raises(Refused, match=r"1 more to look at.*Say why"):
        decide_on_lot(database, lot, "accepted", "", AT)
    look(database, lot)
    assert seen(database, lot).standing.says == "Accept it: 1 bad of 13, and 1 may be."
    with pytest.raises(Refused, match="otherwise"):
        decide_on_lot(database, lot, "sent-back", "", AT)
    decide_on_lot(database, lot, "accepted", "", AT)
    assert hand(database, part) == 39
    with pytest.raises(Refused, match="has ended"):
        look(database, lot)


def test_a_lot_that_is_not_accepted_leaves_the_shelf_as_it_was_decided(
    shelf: tuple[Database, int],
) -> None:
    database, part = shelf
    lot = begin_inspection(database, part, "BC-1", 30, 2.5, AT).id
    for _ in range(2):
        look(database, lot, marks=("pins",))
    assert seen(database, lot).standing.decision == "reject"
    with pytest.raises(Refused, match="otherwise"):
        decide_on_lot(database, lot, "accepted", "", AT)
    decide_on_lot(database, lot, "set-aside", "", AT)
    assert hand(database, part) == 10
    with database.reading() as db:
        moved = view_part(db, part, AT).movements[0]
        (ended,) = inspections_of_part(db, part)
    assert (moved.kind, moved.count, moved.lot) == ("set-aside", 30, "BC-1")
    assert ended.ending == "set-aside"
    take_up_again(database, lot)
    with pytest.raises(Refused, match="goes on"):
        take_up_again(database, lot)
    decide_on_lot(database, lot, "sent-back", "", AT)
    assert hand(database, part) == 0, "no more leave than lie there"
    second = begin_inspection(database, part, "BC-2", 9, None, AT).id
    assert seen(database, second).past == "Lots so far: 1 sent back."
    assert seen(database, second).inspection.plan.n == 9


def test_what_was_put_down_last_is_taken_back_and_no_more_than_came_are_looked_at(
    shelf: tuple[Database, int],
) -> None:
    database, part = shelf
    lot = begin_inspection(database, part, "BC-1", 2, None, AT).id
    with pytest.raises(Refused, match="Nothing was put down"):
        take_back_last(database, lot, AT)
    look(database, lot)
    look(database, lot, 500.0)
    with pytest.raises(Refused, match="Every one"):
        look(database, lot)
    take_back_last(database, lot, AT)
    assert [u.judged.bad for u in seen(database, lot).units] == [()]
    with pytest.raises(Refused, match="no mark of use"):
        look(database, lot, marks=("nothing known",))
    with pytest.raises(NotFound):
        look(database, lot, jig=99)


def test_what_it_read_on_the_jig_goes_down_with_it(shelf: tuple[Database, int]) -> None:
    database, part = shelf
    lot = begin_inspection(database, part, "BC-1", 40, 4.0, AT).id
    jig = keep_on_jig(database, lot, performed("worn").recording, AT)
    with database.reading() as db:
        assert on_jig(db, lot, jig).over
    look(database, lot, jig=jig)
    (unit,) = seen(database, lot).units
    assert "On the jig it is over in" in unit.judged.bad[0]
    other = begin_inspection(database, part, "BC-2", 40, 4.0, AT).id
    with pytest.raises(NotFound):
        look(database, other, jig=jig)


@pytest.mark.parametrize("gate", ["round", "square", "octagon"])
def test_a_bare_module_is_not_sent_back_for_the_shape_of_its_frame(
    shelf: tuple[Database, int], gate: Gate
) -> None:
    """A sound one that goes square was “over in overrun and out of shape”: the gate is the shell's."""
    database, part = shelf
    lot = begin_inspection(database, part, "BC-1", 40, 4.0, AT).id
    jig = keep_on_jig(database, lot, taken(Stick(seed=3, gate=gate)), AT)
    with database.reading() as db:
        assert on_jig(db, lot, jig).over == ()


@pytest.mark.parametrize(
    ("lot", "size", "aql", "told"),
    [
        ("BC-1", 0, 2.5, "1 to 100000"),
        ("BC-1", 100_001, 2.5, "1 to 100000"),
        (" ", 5, 2.5, "which lot"),
        ("BC-1", 5, 3.0, "aql is one of"),
    ],
)
def test_a_lot_that_cannot_be_looked_at_is_refused(
    shelf: tuple[Database, int], lot: str, size: int, aql: float, told: str
) -> None:
    database, part = shelf
    with pytest.raises(Refused, match=told):
        begin_inspection(database, part, lot, size, aql, AT)
    assert begin_inspection(database, part, "one", 1, 2.5, AT).plan.n == 1


def donor(database: Database, tag: str, **sticks: str) -> None:
    job = taken_in(database, tag)
    for stick, condition in sticks.items():
        import_take(database, job.id, stick, "t.csv", performed(condition).recording, AT)
    keep_as_donor(database, job.id, "Dropped.", AT)


def test_of_several_donors_the_best_comes_first_by_what_it_last_read(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path, "GS-001")
    donor(database, "GS-002", left="worn", right="sound")
    donor(database, "GS-003")
    taken_in(database, "GS-004")
    with database.reading() as db:
        donors = donors_for(db, job.id)
    assert [(d.lot, d.standing) for d in donors] == [
        ("GS-002 right", "within"),
        ("GS-002 left", "over"),
        ("GS-003 left", "unmeasured"),
        ("GS-003 right", "unmeasured"),
    ]
    assert "needing a dead zone of" in donors[0].says
    codes = tuple(c.code for c in cautions_for("donor"))
    plan = WorkPlan("left", "donor", module="potentiometer", lot="GS-002 right", cautions=codes)
    log_work(database, job.id, plan, AT)
    with database.reading() as db:
        assert donors_for(db, job.id)[-1].standing == "taken"
        assert len(all_donors(db)) == 4


def test_what_is_no_donor_or_moves_people_is_not_taken_apart(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    with pytest.raises(Refused, match="no donor"):
        no_donor(database, job.id, AT)
    keep_as_donor(database, job.id, "", AT)
    with pytest.raises(Refused, match="donor already"):
        keep_as_donor(database, job.id, "", AT)
    with database.reading() as db:
        assert view_job(db, job.id).donor
        assert donors_for(db, job.id) == [], "a controller is no donor to itself"
    no_donor(database, job.id, AT)
    carries = taken_in(database, "GS-090", moves="yes")
    with pytest.raises(Refused, match="moves people"):
        keep_as_donor(database, carries.id, "", AT)
