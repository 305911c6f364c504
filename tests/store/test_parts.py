"""The parts shelf: counts that are sums of movements whoever moves at once, parts that fit the holes
and not the value, orders that come, and jobs that wake."""

from __future__ import annotations

import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benches import AT, new_bench, taken_in
from hollow_pin.bench.jobs import close, log_work, view_job
from hollow_pin.bench.ledger import undo
from hollow_pin.bench.parts import (
    Move,
    OrderItem,
    Receipt,
    await_again,
    edit_part,
    end_order,
    move_part,
    new_part,
    on_the_shelf,
    order,
    parts_for,
    receive,
    undo_movement,
    view_orders,
    view_part,
    view_shelf,
)
from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.parts import (
    BY_MOVE,
    PARTS_OF,
    Count,
    NotEnough,
    PartFacts,
    after_movement,
    fit,
    is_low,
    lead_days,
    shelf_words,
)
from hollow_pin.core.record import Job, WorkPlan
from hollow_pin.core.remedies import BY_CODE, WORK
from hollow_pin.store.database import Database
from hollow_pin.store.parts import find_part
from hollow_pin.store.salvage import salvage

MODULE = PartFacts("Module 10 k", "module", "P-14", 10_000.0, 20.0, "potentiometer", "drawer 3")


@pytest.fixture
def bench(tmp_path: Path) -> tuple[Database, Job]:
    return new_bench(tmp_path)


def stocked(database: Database, n: int, facts: PartFacts = MODULE, lot: str = "BC-1") -> int:
    part = new_part(database, facts)
    if n:
        move_part(database, part.id, Move("received", n, lot), AT)
    return part.id


def counts(database: Database, part_id: int) -> tuple[int, int]:
    with database.reading() as db:
        part = find_part(db, part_id)
    return part.count.hand, part.count.held


def summed(database: Database, part_id: int) -> tuple[int, int]:
    with database.reading() as db:
        row = db.execute(
            "SELECT coalesce(sum(hand), 0), coalesce(sum(held), 0) FROM movement WHERE part_id = ?",
            (part_id,),
        ).fetchone()
    return row[0], row[1]


def test_a_thousand_movements_at_once_leave_counts_that_are_their_sums(bench) -> None:
    """Eight hands at the shelf, who receive, use, reserve, release, throw away, count, take back."""
    database, job = bench
    parts = [stocked(database, 30) for _ in range(4)]

    def hand(seed: int) -> int:
        rng = np.random.default_rng(seed)
        done = 0
        for _ in range(125):
            part = int(rng.choice(parts))
            kind = str(rng.choice(list(BY_MOVE)))
            n = int(rng.integers(1, 6)) * (int(rng.choice((-1, 1))) if kind == "counted" else 1)
            job_id = job.id if BY_MOVE[kind].job or rng.random() < 0.2 else None
            try:
                move_part(database, part, Move(kind, n, "L", job_id, "counted anew"), AT)
                done += 1
                if rng.random() < 0.3:
                    with database.reading() as db:
                        last = view_part(db, part, AT).movements[0]
                    undo_movement(database, last.id, AT)
            except Refused:
                continue
        return done

    with ThreadPoolExecutor(8) as hands:
        done = sum(hands.map(hand, range(8)))
    assert done > 400
    for part in parts:
        held_and_lying = counts(database, part)
        assert held_and_lying == summed(database, part)
        assert 0 <= held_and_lying[1] <= held_and_lying[0]
        with database.reading() as db:
            rows = db.execute(
                "SELECT hand, held, hand_after, held_after FROM movement WHERE part_id = ? "
                "ORDER BY id",
                (part,),
            ).fetchall()
        lying = held = 0
        for row in rows:
            lying, held = lying + row["hand"], held + row["held"]
            assert (row["hand_after"], row["held_after"]) == (lying, held)


@given(
    st.integers(0, 50),
    st.integers(0, 50),
    st.sampled_from(list(BY_MOVE)),
    st.integers(1, 60),
    st.integers(0, 50),
)
@settings(max_examples=300)
def test_no_movement_leaves_fewer_than_none_or_more_reserved_than_there_are(
    hand: int, held: int, move: str, n: int, own: int
) -> None:
    count = Count(hand, min(held, hand))
    own = min(own, count.held)
    try:
        after = after_movement(count, move, n, own)
    except NotEnough:
        return
    assert 0 <= after.held <= after.hand
    way = BY_MOVE[move]
    assert after.hand - count.hand == way.hand * n


def test_what_is_reserved_for_a_job_is_its_own(bench) -> None:
    database, job = bench
    other = taken_in(database, "GS-2")
    part = stocked(database, 3)
    move_part(database, part, Move("reserved", 2, job_id=job.id), AT)
    assert counts(database, part) == (3, 2)
    with pytest.raises(Refused, match="1 of them are free"):
        move_part(database, part, Move("reserved", 2, job_id=other.id), AT)
    with pytest.raises(Refused, match="1 of them are free"):
        move_part(database, part, Move("used", 2), AT)
    with pytest.raises(Refused, match="0 are reserved for that job"):
        move_part(database, part, Move("released", 1, job_id=other.id), AT)
    move_part(database, part, Move("used", 3, job_id=job.id), AT)
    assert counts(database, part) == (0, 0)
    with database.reading() as db:
        assert "Reserved for a job: 2 × Module 10 k." in [
            e.text for e in view_job(db, job.id).ledger
        ]


@pytest.mark.parametrize(
    ("move", "field"),
    [
        (Move("used", 0), "count"),
        (Move("used", -1), "count"),
        (Move("used", 4), "count"),
        (Move("reserved", 1), "job_id"),
        (Move("scrapped", 1), "reason"),
        (Move("counted", -4, reason="counted"), "count"),
    ],
)
def test_a_movement_that_cannot_be_says_why_and_moves_nothing(bench, move, field) -> None:
    database, _ = bench
    part = stocked(database, 3)
    with pytest.raises(Refused) as refused:
        move_part(database, part, move, AT)
    assert refused.value.field == field
    assert counts(database, part) == (3, 0)


def test_a_movement_is_taken_back_once_and_only_while_it_can_be(bench) -> None:
    database, _ = bench
    part = stocked(database, 3)
    move_part(database, part, Move("used", 2), AT)
    with database.reading() as db:
        used, received = view_part(db, part, AT).movements
    with pytest.raises(Refused, match="no longer as many: 1 lie there"):
        undo_movement(database, received.id, AT)
    undo_movement(database, used.id, AT)
    assert counts(database, part) == (3, 0)
    with pytest.raises(Refused, match="taken back already"):
        undo_movement(database, used.id, AT)
    with database.reading() as db:
        back = view_part(db, part, AT).movements[0]
    assert (back.undoes, back.hand) == (used.id, 2)
    with pytest.raises(Refused, match="takes another back"):
        undo_movement(database, back.id, AT)
    with pytest.raises(NotFound):
        undo_movement(database, 999, AT)


def test_nobody_changes_a_movement_in_place(bench) -> None:
    database, _ = bench
    stocked(database, 3)
    for sql in ("UPDATE movement SET count = 9", "DELETE FROM movement"):
        with pytest.raises(sqlite3.Error, match="never"), database.writing() as db:
            db.execute(sql)


def test_what_went_in_with_work_is_used_and_lies_there_again_if_it_was_not_done(bench) -> None:
    database, job = bench
    part = stocked(database, 2)
    move_part(database, part, Move("reserved", 1, job_id=job.id), AT)
    codes = tuple(c.code for c in cautions_for("replaced"))
    plan = WorkPlan("left", "replaced", module="potentiometer", lot="BC-1", cautions=codes)
    log_work(database, job.id, replace(plan, part_id=part), AT)
    assert counts(database, part) == (1, 0)
    with database.reading() as db:
        entry = next(e for e in view_job(db, job.id).ledger if e.kind == "work")
        used = view_part(db, part, AT).movements[0]
    assert (used.kind, used.lot) == ("used", "BC-1")
    with pytest.raises(Refused, match="undo the work"):
        undo_movement(database, used.id, AT)
    undo(database, entry.id, entry.revision, AT)
    assert counts(database, part) == (2, 1)
    with database.reading() as db:
        now = next(e for e in view_job(db, job.id).ledger if e.kind == "work")
    with pytest.raises(Refused, match="log it anew"):
        undo(database, entry.id, now.revision, AT, back=True)
    move_part(database, part, Move("released", 1, job_id=job.id), AT)
    move_part(database, part, Move("scrapped", 2, reason="bent pins"), AT)
    with pytest.raises(Refused, match="0 lie there"):
        log_work(database, job.id, replace(plan, part_id=part), AT)
    with database.reading() as db:
        assert [w.kind for w in view_job(db, job.id).work] == [], "nothing was put on record"


def test_a_job_that_waits_for_a_part_says_for_which_and_until_when_and_wakes(bench) -> None:
    database, job = bench
    part = stocked(database, 0)
    made = order(
        database,
        "Brackish Components",
        [OrderItem(part, 3, 6.0, job.id)],
        AT,
        expected_on="2026-03-20",
    )
    with database.reading() as db:
        view = view_job(db, job.id)
        assert view.job.waiting == "part"
        text = view.ledger[0].text
    assert "Module 10 k from Brackish Components, expected 2026-03-20." in text
    line = made.order.lines[0].id
    some = receive(database, made.order.id, [Receipt(line, 1, "BC-9")], AT)
    assert (some.order.lines[0].came, some.order.closed_at) == (1, None)
    assert counts(database, part) == (1, 1), "it is the job's own"
    with database.reading() as db:
        view = view_job(db, job.id)
        assert view.job.waiting == ""
        assert "its part came" in view.ledger[0].text
    whole = receive(database, made.order.id, [Receipt(line, 2, "BC-9")], AT)
    assert whole.order.closed_at is not None
    with pytest.raises(Refused, match="All of that order came"):
        receive(database, made.order.id, [Receipt(line, 1)], AT)
    with database.reading() as db:
        assert view_part(db, part, AT).lots == ("BC-9",)
        assert view_part(db, part, AT).awaited == ()


def test_when_an_order_is_expected_is_learnt_from_past_ones_of_its_source(bench) -> None:
    database, _ = bench
    part = stocked(database, 0)
    began = datetime.fromisoformat(AT)

    def after(days: float) -> str:
        return (began + timedelta(days=days)).isoformat(timespec="milliseconds")

    for start, took in ((0, 10), (20, 14), (40, 12)):
        made = order(database, "Ledge & Lagoon", [OrderItem(part, 1)], after(start))
        expected = made.expected_on
        assert bool(expected) == (start == 40), "two of them, before it is told"
        receive(database, made.order.id, [Receipt(made.order.lines[0].id, 1)], after(start + took))
    made = order(database, "Ledge & Lagoon", [OrderItem(part, 1)], after(60))
    assert made.expected_on == after(72)[:10]
    assert made.told_by == "Ledge & Lagoon took 12 days before"
    with database.reading() as db:
        assert not view_orders(db, after(72))[0].late
        late = view_orders(db, after(73))[0]
        assert late.late
        assert view_part(db, part, after(73)).awaited[0].late
    end_order(database, made.order.id, after(80))
    with database.reading() as db:
        assert not any(o.late for o in view_orders(db, after(90)))
        assert view_orders(db, after(90), open_only=True) == []
        assert [o.ended for o in view_orders(db, after(90))] == [True, False, False, False]
    assert await_again(database, made.order.id, after(91)).late
    with pytest.raises(Refused, match="All of that order came"):
        await_again(database, made.order.id - 1, after(91))
    assert lead_days([5]) is None
    assert lead_days([5, 9, 30]) == 9


def test_what_was_reserved_for_a_job_that_ends_is_free_again(bench) -> None:
    database, job = bench
    part = stocked(database, 3)
    move_part(database, part, Move("reserved", 2, job_id=job.id), AT)
    close(database, job.id, "as-it-was", "", AT)
    assert counts(database, part) == (3, 0)
    other = taken_in(database, "GS-2")
    move_part(database, part, Move("reserved", 3, job_id=other.id), AT)
    with database.reading() as db:
        taken = view_job(db, other.id).ledger[-1]
    undo(database, taken.id, taken.revision, AT)
    assert counts(database, part) == (3, 0), "it was never taken in"


def test_what_came_by_mistake_is_awaited_again(bench) -> None:
    database, _ = bench
    part = stocked(database, 0)
    made = order(database, "Ledge & Lagoon", [OrderItem(part, 2)], AT)
    whole = receive(database, made.order.id, [Receipt(made.order.lines[0].id, 2)], AT)
    assert whole.order.closed_at is not None
    with database.reading() as db:
        came = view_part(db, part, AT).movements[0]
    undo_movement(database, came.id, AT)
    with database.reading() as db:
        (again,) = view_orders(db, AT, open_only=True)
        assert again.order.lines[0].came == 0
        assert view_shelf(db).lines[0].awaited == 2


def test_orders_that_cannot_be_are_refused_whole(bench) -> None:
    database, job = bench
    part = stocked(database, 0)
    for source, lines, day, field in (
        (" ", [OrderItem(part, 1)], "", "source"),
        ("Ledge & Lagoon", [], "", "lines"),
        ("Ledge & Lagoon", [OrderItem(part, 0)], "", "lines"),
        ("Ledge & Lagoon", [OrderItem(part, 1, None, job.id)], "soon", "expected_on"),
    ):
        with pytest.raises(Refused) as refused:
            order(database, source, lines, AT, day)
        assert refused.value.field == field
    with pytest.raises(NotFound):
        order(database, "Ledge & Lagoon", [OrderItem(part, 1, None, job.id), OrderItem(999, 1)], AT)
    with database.reading() as db:
        assert view_orders(db, AT) == []
        assert view_job(db, job.id).job.waiting == "", "nothing of it was done"


@pytest.mark.parametrize(
    ("change", "fits", "says"),
    [
        ({}, "fits", ""),
        ({"footprint": "p-14"}, "fits", ""),
        ({"footprint": "H-20"}, "not", "fits the holes of H-20, and P-14 is wanted"),
        ({"footprint": ""}, "unknown", "footprint of the part is not known"),
        ({"ohms": 2300.0}, "other-value", "2300 Ω where 10000 Ω belong"),
        ({"ohms": 12500.0}, "fits", ""),
        ({"ohms": 12501.0}, "other-value", "fits the holes and not the value"),
        ({"ohms": 7500.0}, "fits", ""),
        ({"ohms": 7499.0}, "other-value", ""),
        ({"ohms": None, "tolerance": None}, "unknown", "value of the part is not known"),
        ({"sensor": "hall", "ohms": None, "tolerance": None}, "fits", "no track"),
        ({"kind": "cap"}, "not", "does not go in"),
    ],
)
def test_which_part_fits_and_what_another_value_does(bench, change, fits, says) -> None:
    stick = bench[1].controller.model.sticks[0]
    fitting = fit(replace(MODULE, **change), "replaced", stick, "P-14")
    assert fitting.fits == fits
    assert says in " ".join(fitting.words)
    if fits == "other-value" and change["ohms"] == 2300.0:
        assert "4.3 times as much" in " ".join(fitting.words)


def test_a_hall_one_is_wanted_where_a_hall_one_is_decided_on(bench) -> None:
    stick = bench[1].controller.model.sticks[0]
    assert fit(MODULE, "replaced-by-hall", stick, "P-14").fits == "not"
    hall = replace(MODULE, sensor="hall", ohms=None, tolerance=None)
    assert fit(hall, "replaced-by-hall", stick, "P-14").fits == "fits"
    assert fit(replace(hall, kind="sensor"), "sensor-parts", stick, "P-14").fits == "not"


def test_what_fits_a_job_comes_first_and_what_does_not_is_left_out(bench) -> None:
    database, job = bench
    wrong = stocked(database, 9, replace(MODULE, name="Module 2.3 k", ohms=2300.0))
    right = stocked(database, 1)
    none = stocked(database, 0, replace(MODULE, name="Module 10 k, other source"))
    stocked(database, 5, replace(MODULE, name="Cap", kind="cap"))
    with database.reading() as db:
        offered = parts_for(db, job.id, "replaced", None, AT).offered
    assert [o.line.part.id for o in offered] == [right, none, wrong]
    assert [o.fit.fits for o in offered] == ["fits", "fits", "other-value"]
    assert [o.usable for o in offered] == [True, False, True]
    with database.reading() as db:
        assert parts_for(db, job.id, "recalibrated", None, AT).offered == ()


@pytest.mark.parametrize(
    ("ready", "words"),
    [
        ((1, 4, 0), "One on the shelf fits."),
        ((3, 0, 2), "3 on the shelf fit."),
        ((0, 1, 9), "One on the shelf may fit: hold it against the stick."),
        ((0, 2, 0), "2 on the shelf may fit: hold it against the stick."),
        ((0, 0, 1), "None on the shelf fits; 1 is on order."),
        ((0, 0, 4), "None on the shelf fits; 4 are on order."),
        ((0, 0, 0), "None on the shelf fits: it is to be ordered first."),
    ],
)
def test_what_lies_ready_is_said_in_a_sentence(ready: tuple[int, int, int], words: str) -> None:
    assert shelf_words(*ready) == words


def test_whoever_decides_is_told_what_lies_ready(bench) -> None:
    """A module was decided on, and then there was none; parts can take a month."""
    database, job = bench
    own = job.controller.model.sticks[0]

    def told(remedy: str = "replaced") -> str:
        with database.reading() as db:
            return on_the_shelf(db, job.id, BY_CODE[remedy], own)

    assert told() == "", "this shop keeps no parts here"
    stocked(database, 9, replace(MODULE, name="Module 2.3 k", ohms=2300.0))
    assert told() == "None on the shelf fits: it is to be ordered first."
    stocked(database, 1, replace(MODULE, name="No value on it", ohms=None, tolerance=None))
    assert told().startswith("One on the shelf may fit")
    right = stocked(database, 2)
    assert told() == "2 on the shelf fit."
    other = taken_in(database, "GS-900")
    move_part(database, right, Move("reserved", 1, job_id=other.id), AT)
    move_part(database, right, Move("reserved", 1, job_id=job.id), AT)
    assert told() == "One on the shelf fits.", "what is held for this job is ready for it"
    assert told("replaced-by-hall") == "None on the shelf fits: it is to be ordered first."
    for wants_none in ("recalibrated", "cleaned", "reseated", "donor"):
        assert told(wants_none) == ""


def test_every_remedy_that_has_parts_of_the_shelf_is_work() -> None:
    assert set(PARTS_OF) <= {r.code for r in WORK}


def test_words_find_a_part_and_a_lot_and_mean_themselves(bench) -> None:
    database, _ = bench
    part = stocked(database, 1, lot="BC-77")
    stocked(database, 1, replace(MODULE, name="100% cotton_swab", kind="other"), lot="")

    def found(text: str, low: bool = False) -> list[str]:
        with database.reading() as db:
            return [x.part.facts.name for x in view_shelf(db, text, low).lines]

    assert found("k drawer") == ["Module 10 k"]
    assert found("bc-77") == ["Module 10 k"]
    assert found("100%") == ["100% cotton_swab"]
    assert found("n_s") == ["100% cotton_swab"]
    assert found("'; DROP TABLE part; --") == []
    assert found("", low=True) == []
    with database.reading() as db:
        revision = find_part(db, part).revision
    edit_part(database, part, replace(MODULE, reorder_at=1), revision)
    assert found("", low=True) == ["Module 10 k"]
    with pytest.raises(Changed):
        edit_part(database, part, MODULE, revision)
    with pytest.raises(Refused, match="has a name"):
        new_part(database, replace(MODULE, name=" "))


@pytest.mark.parametrize(("free", "at", "low"), [(1, 1, True), (2, 1, False), (0, 0, False)])
def test_when_it_is_time_to_order(free: int, at: int, low: bool) -> None:
    assert is_low(replace(MODULE, reorder_at=at), Count(free + 3, 3)) == low


def test_a_damaged_shelf_is_saved_without_what_refers_to_what_is_lost(
    bench, tmp_path: Path
) -> None:
    """What keeps movements from being removed must not keep the rest from being saved."""
    database, _ = bench
    lost, kept = stocked(database, 3), stocked(database, 5)
    damaged = tmp_path / "damaged.db"
    with (
        closing(sqlite3.connect(database.path)) as source,
        closing(sqlite3.connect(damaged)) as copy,
    ):
        source.backup(copy)
        copy.execute("PRAGMA foreign_keys = OFF")
        copy.execute("DELETE FROM part WHERE id = ?", (lost,))
        copy.commit()
    saved = salvage(damaged, tmp_path / "saved.db")
    assert saved.lost["movement"] == 1
    assert saved.rows["movement"] == 1
    with closing(sqlite3.connect(tmp_path / "saved.db")) as made:
        assert made.execute("SELECT part_id, hand_after FROM movement").fetchall() == [(kept, 5)]
        with pytest.raises(sqlite3.Error, match="never removed"):
            made.execute("DELETE FROM movement")
        refer = made.execute("SELECT count(*) FROM sqlite_master WHERE type = 'trigger'").fetchone()
        with database.reading() as db:
            here = db.execute(
                "SELECT count(*) FROM sqlite_master WHERE type = 'trigger'"
            ).fetchone()
        assert refer[0] == here[0]
