"""The record says what is so, whatever a file claims, whatever the clock says; nothing by halves."""

from __future__ import annotations

import threading
from dataclasses import replace
from pathlib import Path

import pytest

from benches import AT, begun, new_bench, plan, taken_in
from hollow_pin.bench.imports import AlreadyHere, import_take
from hollow_pin.bench.jobs import close, log_work, view_job
from hollow_pin.bench.ledger import undo, write
from hollow_pin.bench.pins import pins_of
from hollow_pin.bench.readings import refill
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import (
    export_recording,
    finish_take,
    get_job,
    recover_takes,
    settle_take,
    start_take,
    view_take,
)
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.record import WorkPlan
from hollow_pin.core.take import VERSION
from hollow_pin.store.controllers import keep_model
from hollow_pin.store.database import AlreadyDone, Database, KeyedRequest, asked
from hollow_pin.store.requests import answer_to, forget_requests
from hollow_pin.store.takes import say_ending, takes_to_measure, write_block
from sticks import performed

YESTERDAY = "2026-02-28T10:00:00.000+00:00"
SOUND = performed("sound").recording


@pytest.fixture
def bench(tmp_path: Path) -> Database:
    return new_bench(tmp_path)[0]


def blocks_of(database: Database) -> int:
    with database.reading() as db:
        return db.execute("SELECT count(*) FROM block").fetchone()[0]


# Files


def test_what_a_file_says_of_itself_stands_beside_the_record_not_above_it(bench: Database) -> None:
    """A file of another controller's other stick, brought in as this one's, passed as such again."""
    claims = {"stick": "right", "controller": "GS-999", "source": "gamepad", "gate": "square"}
    odd = replace(SOUND, headers=claims | {"jig": "the blue one"})
    take = import_take(bench, 1, "left", "t.csv", odd, AT)
    with bench.reading() as db:
        headers = export_recording(db, take.id).headers
    known = {"stick": "left", "controller": "GS-017", "source": "file", "gate": "round"}
    assert {k: headers[k] for k in known} == known
    assert {k: headers[f"file-{k}"] for k in claims} == claims
    assert headers["jig"] == "the blue one"


def test_a_take_is_held_against_the_overrun_of_its_model_as_it_was_then(bench: Database) -> None:
    """Ends that a maker lets run far over are cut off in every take of that model, and no fault."""
    usual = import_take(bench, 1, "left", "a.csv", SOUND, AT)
    with bench.writing() as db:
        model = get_job(db, 1).controller.model
        keep_model(db, replace(model, limits={"rim.overrun": {"everyday": 28.0}}))
    imported = import_take(bench, 1, "left", "b.csv", SOUND, AT)
    with bench.reading() as db:
        headers = [export_recording(db, take.id).headers for take in (usual, imported)]
        assert [h.get("overrun") for h in headers] == [None, "28"]
        views = [view_take(db, take.id, "everyday", AT).readings for take in (usual, imported)]
    assert [r.recording.overrun for r in views if r] == [None, 28.0]
    with bench.writing() as db:
        keep_model(db, replace(model, limits={"rim.overrun": {"everyday": 150.0}}))
    anything = import_take(bench, 1, "left", "c.csv", SOUND, AT)
    with bench.reading() as db:
        readings = view_take(db, anything.id, "everyday", AT).readings
    assert readings.recording.overrun == 100.0, "a limit that lets anything pass is not forgotten"


def test_the_same_file_of_the_same_stick_comes_in_once(bench: Database) -> None:
    first = import_take(bench, 1, "left", "t.csv", SOUND, AT, file_hash="abc")
    with pytest.raises(AlreadyHere, match=r"take 1 of job 1, “t\.csv”") as here:
        import_take(bench, 1, "left", "copy of t.csv", SOUND, AT, file_hash="abc")
    assert here.value.take_id == first.id
    assert import_take(bench, 1, "right", "t.csv", SOUND, AT, file_hash="abc").stick == "right"
    with bench.reading() as db:
        entry = next(e for e in view_job(db, 1).ledger if e.take_id == first.id)
    undo(bench, entry.id, entry.revision, AT)
    assert import_take(bench, 1, "left", "t.csv", SOUND, AT, file_hash="abc").id > first.id


def test_an_import_is_seen_whole_or_not_at_all(bench: Database) -> None:
    stop, seen = threading.Event(), []

    def watch(_: float) -> None:
        with bench.reading() as db:
            seen.append(len(view_job(db, 1).takes))
        with pytest.raises(Refused, match="running"):
            close(bench, 1, "as-it-was", "", AT)
        stop.set()

    long = performed("sound", rate=1000.0).recording
    assert len(long.t_us) > 100_000
    with pytest.raises(Refused, match="Nothing of the file is in the record"):
        import_take(bench, 1, "left", "t.csv", long, AT, progress=watch, stop=stop)
    assert seen == [0]
    assert blocks_of(bench) == 0
    assert recover_takes(bench, AT) == 0


def test_an_import_that_was_killed_goes_at_the_next_start(bench: Database) -> None:
    file = replace(plan(), source_kind="file")
    take = start_take(bench, 1, file, AT)
    with bench.writing() as db:
        write_block(db, take.id, SOUND.t_us, SOUND.raw, SOUND.step)
    with bench.importing():
        assert recover_takes(bench, AT) == 0, "somebody is still at it"
    assert recover_takes(bench, AT) == 1
    assert blocks_of(bench) == 0
    with bench.reading() as db:
        assert view_job(db, 1).takes == ()


# Beginning and ending


def test_a_refused_start_leaves_nothing(bench: Database) -> None:
    def refuse(*_: object) -> None:
        raise Refused("No such fault.")

    with pytest.raises(Refused):
        start_take(bench, 1, plan(), AT, refuse)
    with bench.reading() as db:
        assert view_job(db, 1).takes == ()


def test_a_job_with_a_running_take_is_not_closed(bench: Database) -> None:
    with bench.reading() as db:
        job = view_job(db, 1).job
    take = begun(bench, job)
    with pytest.raises(Refused, match="running"):
        close(bench, 1, "as-it-was", "", AT)
    finish_take(bench, take.id, "interrupted", "it was stopped", AT)
    close(bench, 1, "as-it-was", "", AT)


def test_a_take_that_ended_and_was_not_measured_yet_ended_as_it_did(bench: Database) -> None:
    """The power goes while a complete take is measured: it is not called interrupted."""
    with bench.reading() as db:
        take = begun(bench, view_job(db, 1).job)
    with bench.writing() as db:
        write_block(db, take.id, SOUND.t_us, SOUND.raw, SOUND.step)
        say_ending(db, take.id, "complete", None, AT)
    assert recover_takes(bench, "2026-03-01T18:00:00+00:00") == 1
    with bench.reading() as db:
        view = view_take(db, take.id, "everyday", AT)
    assert (view.take.state, view.take.ended_at) == ("complete", AT)
    assert view.readings is not None
    assert settle_take(bench, take.id).state == "complete", "once"
    with bench.reading() as db:
        assert [e.kind for e in view_job(db, 1).ledger].count("take") == 1


# Takes that cannot be measured


def poison(database: Database, take_id: int) -> None:
    """Samples that no present way in lets through, as an older program may have left them."""
    with database.writing() as db:
        t = SOUND.t_us[:10].copy()
        t[5:] += 9_000_000_000_000
        write_block(db, take_id, t, SOUND.raw[:10], SOUND.step[:10])


def test_no_take_keeps_a_bench_from_opening(bench: Database) -> None:
    with bench.reading() as db:
        take = begun(bench, view_job(db, 1).job)
    poison(bench, take.id)
    assert recover_takes(bench, AT) == 1
    with bench.reading() as db:
        view = view_take(db, take.id, "everyday", AT)
        job = view_job(db, 1)
    assert view.readings is None
    assert "hours" in view.failed
    assert view.take.state == "interrupted"
    assert "could not be measured" in job.ledger[0].text
    assert takes_to_measure_now(bench) == [], "not tried again and again"
    with bench.writing() as db:
        db.execute("UPDATE reading SET version = ?", (VERSION - 1,))
    assert takes_to_measure_now(bench) == [take.id], "but after an update"


def takes_to_measure_now(database: Database) -> list[int]:
    with database.reading() as db:
        return takes_to_measure(db, VERSION)


def test_readings_of_an_older_version_are_made_and_kept(bench: Database) -> None:
    take = import_take(bench, 1, "left", "t.csv", SOUND, AT)
    with bench.writing() as db:
        db.execute("UPDATE reading SET version = 0, body = '{}'")
        db.execute("UPDATE take SET usable = 0")
        db.execute("UPDATE job SET station = 'prove'")
    assert takes_to_measure_now(bench) == [take.id]
    refill(bench, take.id)
    assert takes_to_measure_now(bench) == []
    with bench.reading() as db:
        view = view_job(db, 1)
    assert view.takes[0].usable
    assert view.job.station == "decide"


# The order of what happened


def test_what_happened_last_is_last_though_the_clock_was_set_back(bench: Database) -> None:
    """Cleaned, then measured again a day earlier by the clock: it is verified all the same."""
    import_take(bench, 1, "left", "1", performed("worn").recording, AT)
    codes = tuple(c.code for c in cautions_for("cleaned"))
    log_work(bench, 1, WorkPlan("left", "cleaned", cautions=codes), AT)
    after = import_take(bench, 1, "left", "2", SOUND, YESTERDAY)
    assert after.stage == "after cleaning"
    with bench.reading() as db:
        view = view_job(db, 1)
        (pin, _) = pins_of(db, view.job.controller, 1)
    assert view.job.station == "hand-over"
    assert pin.state == "measured"
    note = write(bench, 1, "note", "felt fine", YESTERDAY)
    undo(bench, note.id, 1, YESTERDAY)
    with bench.reading() as db:
        assert [t.stage for t in view_job(db, 1).takes] == ["as received", "after cleaning"]
    log_work(bench, 1, WorkPlan("left", "recalibrated"), YESTERDAY)
    with bench.reading() as db:
        (pin, _) = pins_of(db, view.job.controller, 1)
    assert pin.state == "stale"


# Once


def test_a_key_is_kept_with_what_it_wrote_or_not_at_all(bench: Database) -> None:
    def ask(words: str) -> None:
        token = asked.set(KeyedRequest("key-1", "note", AT))
        try:
            write(bench, 1, "note", words, AT)
        finally:
            asked.reset(token)

    with pytest.raises(Refused):
        ask("   ")
    ask("once")
    with pytest.raises(AlreadyDone):
        ask("once")
    with bench.reading() as db:
        assert [e.text for e in view_job(db, 1).ledger if e.kind == "note"] == ["once"]


def test_a_key_is_forgotten_after_its_time_and_none_before(bench: Database) -> None:
    """A bench would grow by every answer it gave; one that is forgotten too soon is done twice."""
    for key, at in (("old", "2026-02-01T10:00:00.000+00:00"), ("new", AT)):
        token = asked.set(KeyedRequest(key, "note", at))
        try:
            write(bench, 1, "note", key, at)
        finally:
            asked.reset(token)
    with bench.writing() as db:
        forget_requests(db, AT)
    with bench.reading() as db:
        assert answer_to(db, "old") is None
        assert answer_to(db, "new") is not None, "of just that moment, and after"


def test_confirmed_writes_are_synced_and_a_running_takes_blocks_are_lighter(
    bench: Database,
) -> None:
    with bench.writing() as db:
        assert db.execute("PRAGMA synchronous").fetchone()[0] == 2
    blocks = bench.connect(synced=False)
    assert blocks.execute("PRAGMA synchronous").fetchone()[0] == 1
    blocks.close()


def test_a_clean_stop_leaves_one_file_that_is_the_bench(bench: Database) -> None:
    with bench.reading() as db:
        db.execute("SELECT 1 FROM job").fetchone()
    taken_in(bench, "GS-2")
    bench.close()
    assert not list(bench.folder.glob("hollow-pin.db-*"))
