"""Real SQLite: what is written stays, whole or not at all, and old files open."""

from __future__ import annotations

import json
import sqlite3
import threading
from contextlib import closing
from pathlib import Path
from queue import SimpleQueue

import numpy as np
import pytest

from benches import begun, taken_in
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.jobs import close, log_work, reopen, view_job
from hollow_pin.bench.ledger import write
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import (
    compare_takes,
    export_recording,
    finish_take,
    recover_takes,
    reopen_take,
    view_take,
)
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.record import WorkPlan
from hollow_pin.store.controllers import find_model
from hollow_pin.store.database import FILE_NAME, Database, NewerDatabase, migrations
from hollow_pin.store.jobs import jobs_on_bench
from hollow_pin.store.routines import key_of
from hollow_pin.store.takes import last_time_us, write_block
from sticks import performed

AT = "2026-03-01T10:00:00.000+00:00"


def later(minutes: int) -> str:
    return f"2026-03-01T10:{minutes:02d}:00.000+00:00"


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database(tmp_path)


def codes(kind: str) -> tuple[str, ...]:
    return tuple(c.code for c in cautions_for(kind))


@pytest.mark.parametrize(
    ("routine_id", "key"),
    [
        ("own-7", 7),
        ("own-" + 15 * "9", 10**15 - 1),
        ("own-" + 16 * "9", None),
        ("own-x", None),
        ("standard", None),
    ],
)
def test_a_routine_of_the_shop_s_own_is_known_by_its_number(
    routine_id: str, key: int | None
) -> None:
    """A number that no row can have is asked of no table, which could not hold it."""
    assert key_of(routine_id) == key


def test_every_migration_applies_from_an_empty_file_and_only_once(tmp_path: Path) -> None:
    database = Database(tmp_path)
    with database.reading() as db:
        assert db.execute("PRAGMA user_version").fetchone()[0] == migrations()[-1][0]
        assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert db.execute("PRAGMA foreign_key_check").fetchall() == []
    Database(tmp_path)


def test_a_bench_that_another_program_put_out_of_its_log_is_put_back(tmp_path: Path) -> None:
    """Else every page would wait for whoever writes, a live take above all."""
    Database(tmp_path).close()
    file = tmp_path / FILE_NAME
    with closing(sqlite3.connect(file)) as other:
        assert other.execute("PRAGMA journal_mode = DELETE").fetchone()[0] == "delete"
    with Database(tmp_path).reading() as db:
        assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"


def test_what_was_kept_of_dropouts_goes_on_by_the_minute(tmp_path: Path) -> None:
    """Else the shop's own limit would be forgotten, the model could not be saved again, and a bench
    check would go on about a reading that is no more."""
    path = tmp_path / "hollow-pin.db"
    old = {"hold.dropouts": {"fine": 0, "everyday": 1, "display": 2}, "hold.sag": {"fine": 3}}
    with sqlite3.connect(path) as db:
        for number, sql in migrations()[:3]:
            db.executescript(f"{sql}\nPRAGMA user_version = {number};")
        db.execute("UPDATE model SET limits = ? WHERE id = 'plover'", (json.dumps(old),))
        db.execute(
            "INSERT INTO study (model_id, source_kind, source_name, roles, sticks, trials, routine, "
            "opened_at, completed_at, result) "
            "VALUES ('plover', 'stand-in', 'Stand-in', '[]', '[]', 3, '{}', ?, ?, ?)",
            (AT, AT, json.dumps({"hold.dropouts": {"part": 1}, "hold.sag": {"part": 2}})),
        )
    database = Database(tmp_path)
    with database.reading() as db:
        limits = find_model(db, "plover").limits
        (result,) = db.execute("SELECT result FROM study").fetchone()
    assert limits == {
        "hold.dropouts_per_min": {"fine": 0, "everyday": 5, "display": 10},
        "hold.sag": {"fine": 3},
    }
    assert json.loads(result) == {"hold.sag": {"part": 2}}


def test_a_file_from_a_later_version_is_left_alone(tmp_path: Path) -> None:
    database = Database(tmp_path)
    with sqlite3.connect(database.path) as db:
        db.execute("PRAGMA user_version = 999")
    with pytest.raises(NewerDatabase, match="Update the program"):
        Database(tmp_path)


def test_a_failed_write_leaves_nothing_behind(database: Database) -> None:
    taken_in(database, "GS-017", "plover", "left", "", AT)

    def fail() -> None:
        with database.writing() as db:
            db.execute("UPDATE job SET complaint = 'half'")
            raise InterruptedError

    with pytest.raises(InterruptedError):
        fail()
    with database.reading() as db:
        assert db.execute("SELECT complaint FROM job").fetchone()[0] == ""


def test_a_bench_that_is_closed_while_somebody_reads_leaves_no_log_in_its_folder(
    tmp_path: Path,
) -> None:
    """What lies in the folder is then the bench, for whoever copies it."""
    database = Database(tmp_path)

    class ClosedMeanwhile(SimpleQueue):  # type: ignore[type-arg]
        def put(self, connection: sqlite3.Connection, *_: object) -> None:
            database.close()
            super().put(connection)

    database._idle = ClosedMeanwhile()
    with database.reading() as db:
        db.execute("SELECT count(*) FROM job").fetchone()
    assert [f.name for f in tmp_path.glob(f"{FILE_NAME}-*")] == []


def test_writers_in_two_threads_wait_for_each_other(database: Database) -> None:
    job = taken_in(database, "GS-017", "plover", "left", "", AT)

    def scribble(name: str) -> None:
        for i in range(25):
            write(database, job.id, "note", f"{name} {i}", AT)

    threads = [threading.Thread(target=scribble, args=(n,)) for n in ("one", "two")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with database.reading() as db:
        assert len(view_job(db, job.id).ledger) == 51


def test_a_take_comes_back_exactly_as_it_was_recorded(database: Database) -> None:
    recording = performed("worn").recording
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = import_take(database, job.id, "left", "t.csv", recording, AT)
    with database.reading() as db:
        back = export_recording(db, take.id)
    assert (back.t_us == recording.t_us).all()
    assert (back.raw == recording.raw).all()
    assert (back.step == recording.step).all()


def test_a_take_that_ran_when_the_program_died_is_interrupted_and_measured(
    database: Database,
) -> None:
    recording = performed("offset").recording
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = begun(database, job)
    cut = recording.attempts("let-go")[0].start + 1500
    with database.writing() as db:
        write_block(
            db, take.id, *(a[:cut] for a in (recording.t_us, recording.raw, recording.step))
        )
    assert recover_takes(Database(database.path.parent), later(1)) == 1
    with database.reading() as db:
        assert last_time_us(db, take.id) == recording.t_us[cut - 1], "from where it may go on"
        assert last_time_us(db, take.id + 1) is None
        view = view_take(db, take.id, "everyday", AT)
        assert view.take.state == "interrupted"
        assert view.readings.still is not None
        assert view.may_resume
        assert "interrupted" in view_job(db, job.id).ledger[0].text
    assert recover_takes(database, later(2)) == 0


def test_a_job_moves_through_its_stations_by_what_happens_to_it(database: Database) -> None:
    def station() -> tuple[str, str]:
        with database.reading() as db:
            view = view_job(db, job.id)
        return view.job.station, view.next_stage

    job = taken_in(database, "GS-017", "plover", "left", "creeps", AT)
    assert station() == ("prove", "as received")
    first = import_take(database, job.id, "left", "1.csv", performed("worn").recording, later(1))
    assert first.stage == "as received"
    assert station() == ("decide", "as received")
    log_work(database, job.id, WorkPlan(job.stick, "cleaned", cautions=codes("cleaned")), later(2))
    assert station() == ("verify", "after cleaning")
    with pytest.raises(Refused, match="newest take"), database.writing() as db:
        reopen_take(db, first.id)
    import_take(database, job.id, "right", "r.csv", performed("sound").recording, later(3))
    assert station()[0] == "verify", "a take of the other stick proves nothing about this one"
    second = import_take(database, job.id, "left", "2.csv", performed("sound").recording, later(4))
    assert second.stage == "after cleaning"
    assert station()[0] == "hand-over"
    with database.reading() as db:
        assert compare_takes(db, first.id, second.id, "everyday", AT).comparison.overall == "better"
    close(database, job.id, "signed-off", "cured", later(5))
    assert station()[0] == "closed"
    with pytest.raises(Refused, match="closed"):
        write(database, job.id, "note", "late", later(6))
    reopen(database, job.id, later(7))
    assert station()[0] == "hand-over"
    with database.reading() as db:
        kinds = [e.kind for e in view_job(db, job.id).ledger][::-1]
    assert kinds == ["take-in", "take", "caution", "work", "take", "take", "close", "close"]


def test_the_tray_has_the_newest_open_jobs_first_and_then_what_left_last(
    database: Database,
) -> None:
    """What came this morning is what is worked on; the last few that left are still asked for."""
    jobs = [taken_in(database, tag=f"GS-{n}", at=later(n)) for n in range(5)]
    for minute, n in ((10, 3), (11, 0)):
        close(database, jobs[n].id, "as-it-was", "", later(minute), "")
    with database.reading() as db:
        assert [j.controller.tag for j in jobs_on_bench(db)] == [
            "GS-4",
            "GS-2",
            "GS-1",
            "GS-0",
            "GS-3",
        ]
        assert [j.controller.tag for j in jobs_on_bench(db, 2, 1)] == ["GS-4", "GS-2", "GS-0"]


def test_work_is_refused_until_its_cautions_are_read(database: Database) -> None:
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    with pytest.raises(Refused, match="cautions"):
        log_work(
            database,
            job.id,
            WorkPlan(job.stick, "replaced", module="hall", cautions=("static",)),
            AT,
        )
    with pytest.raises(Refused, match="kind of module"):
        log_work(database, job.id, WorkPlan(job.stick, "replaced", cautions=codes("replaced")), AT)
    with pytest.raises(Refused, match="No module"):
        log_work(
            database,
            job.id,
            WorkPlan(job.stick, "cleaned", module="hall", cautions=codes("cleaned")),
            AT,
        )


@pytest.mark.parametrize(
    ("tag", "model", "stick", "field"),
    [
        ("  ", "plover", "left", "tag"),
        ("GS-1", "curlew", "left", "model_id"),
        ("GS-1", None, "left", "model_id"),
        ("GS-1", "plover", "middle", "stick"),
        ("gs-017", "plover", "left", "tag"),
        ("GS-017", "dunlin", "stick", "model_id"),
    ],
)
def test_a_take_in_that_makes_no_sense_names_the_field(
    database: Database, tag: str, model: str | None, stick: str, field: str
) -> None:
    taken_in(database, "GS-017", "plover", "left", "", AT)
    with pytest.raises(Refused) as refusal:
        taken_in(database, tag, model, stick, "", AT)
    assert refusal.value.field == field


def test_readings_made_by_an_older_definition_are_made_anew(database: Database) -> None:
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = import_take(database, job.id, "left", "t.csv", performed("worn").recording, AT)
    with database.writing() as db:
        db.execute("UPDATE reading SET version = 0, body = '{}'")
    with database.reading() as db:
        assert view_take(db, take.id, "everyday", AT).readings.let_go.releases == 16


def test_an_empty_take_ends_without_readings_and_says_so(database: Database) -> None:
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = begun(database, job)
    ended = finish_take(database, take.id, "interrupted", "the window was closed", AT)
    assert not ended.usable
    with database.reading() as db:
        assert view_take(db, take.id, "everyday", AT).readings is None
        with pytest.raises(Refused, match="no samples"):
            export_recording(db, take.id)


def test_a_take_resumed_after_an_interruption_keeps_what_it_had(database: Database) -> None:
    recording = performed("sound").recording
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = begun(database, job)
    rim = recording.attempts("rim")[0]
    with database.writing() as db:
        part = slice(0, rim.start)
        write_block(db, take.id, recording.t_us[part], recording.raw[part], recording.step[part])
    finish_take(database, take.id, "interrupted", "lost", AT)
    with database.writing() as db:
        reopen_take(db, take.id)
        t = recording.t_us[rim] + 1_000_000
        write_block(db, take.id, t, recording.raw[rim], recording.step[rim])
    finish_take(database, take.id, "complete", None, AT)
    with database.reading() as db:
        readings = view_take(db, take.id, "everyday", AT).readings
    assert readings.rim is not None
    assert readings.composite.dead_zone_needed is not None
    assert np.isfinite(readings.composite.circularity_after_recalibration)
