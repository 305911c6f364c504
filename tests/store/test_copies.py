"""Backups that are the whole bench, put back, thinned by rule; and what is saved of a damaged one."""

from __future__ import annotations

import os
import sqlite3
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from benches import AT, new_bench, taken_in
from hollow_pin.bench.copies import (
    back_up,
    back_up_by_rule,
    kept_by_rule,
    last_backup,
    mend_folder,
    restore,
    sole_server,
    verify_folder,
)
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.ledger import write
from hollow_pin.store.database import Database, DataError
from hollow_pin.store.takes import write_block
from sticks import performed

LATER = "2026-03-01T11:00:00.000+00:00"


@pytest.fixture
def bench(tmp_path: Path) -> Database:
    database, job = new_bench(tmp_path / "bench")
    import_take(database, job.id, "left", "t.csv", performed("worn").recording, AT)
    return database


def counted(path: Path) -> tuple[int, ...]:
    with sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True) as db:
        assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        tables = ("job", "take", "block", "ledger", "reading")
        return tuple(db.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables)


def test_a_backup_alone_is_the_whole_bench(bench: Database, tmp_path: Path) -> None:
    """Read with nothing but SQLite, from where nothing may be written beside it."""
    made = back_up(bench, AT, tmp_path / "stick")
    assert made.name == "hollow-pin-20260301T100000Z.db"
    assert counted(made) == (1, 1, *counted(made)[2:])
    assert [p.name for p in made.parent.iterdir()] == [made.name], "nothing else is left"
    assert made.stat().st_mode & 0o777 == 0o600
    assert back_up(bench, AT, tmp_path / "stick").name.endswith("Z-2.db"), "never over another"


def test_backups_of_the_same_second_do_not_take_each_other_s_place(
    bench: Database, tmp_path: Path
) -> None:
    """The one by rule and one by hand: each removed what the other was making, and one failed."""
    begin = threading.Barrier(4)

    def one(_: int) -> Path:
        begin.wait()
        return back_up(bench, AT, tmp_path / "stick")

    with ThreadPoolExecutor(4) as many:
        made = list(many.map(one, range(4)))
    assert len(set(made)) == 4
    assert len({counted(file) for file in made}) == 1
    assert sorted((tmp_path / "stick").iterdir()) == sorted(made), "nothing else is left"


def test_a_backup_is_of_one_moment_while_others_write(bench: Database, tmp_path: Path) -> None:
    over, written = threading.Event(), []
    sample = performed("worn").recording
    with bench.reading() as db:
        job = db.execute("SELECT id FROM job").fetchone()[0]

    def scribble() -> None:
        while not over.is_set():
            with bench.writing() as db:
                part = slice(0, 200)
                write_block(db, 1, sample.t_us[part], sample.raw[part], sample.step[part])
            written.append(write(bench, job, "note", f"note {len(written)}", AT))

    threads = [threading.Thread(target=scribble) for _ in range(2)]
    for thread in threads:
        thread.start()
    made = [back_up(bench, AT, tmp_path / "stick") for _ in range(3)]
    over.set()
    for thread in threads:
        thread.join()
    counts = [counted(m) for m in made]
    assert counts == sorted(counts)
    assert written


def test_what_is_put_back_is_the_bench_and_what_was_there_is_kept(
    bench: Database, tmp_path: Path
) -> None:
    made = back_up(bench, AT)
    write(bench, 1, "note", "after the copy", AT)
    bench.close()
    aside = restore(made, bench.folder, LATER)
    assert aside is not None
    again = Database(bench.folder)
    with again.reading() as db:
        texts = [r[0] for r in db.execute("SELECT text FROM ledger")]
    assert "after the copy" not in texts
    with sqlite3.connect(aside / "hollow-pin.db") as db:
        assert "after the copy" in [r[0] for r in db.execute("SELECT text FROM ledger")]
    elsewhere = tmp_path / "new"
    assert restore(made, elsewhere, LATER) is None
    assert verify_folder(elsewhere).wrong == ()


def test_a_folder_that_is_served_is_not_restored_or_mended(bench: Database) -> None:
    made = back_up(bench, AT)
    with sole_server(bench.folder):
        with pytest.raises(DataError, match="in use"):
            restore(made, bench.folder, LATER)
        with pytest.raises(DataError, match="in use"):
            mend_folder(bench.folder, LATER)
        assert verify_folder(bench.folder).wrong == ()


def test_only_a_sound_copy_of_a_bench_is_put_back(bench: Database, tmp_path: Path) -> None:
    made = back_up(bench, AT, tmp_path)
    whole = made.read_bytes()
    foreign = tmp_path / "foreign.db"
    with sqlite3.connect(foreign) as db:
        db.execute("CREATE TABLE hens (eggs)")
    newer = tmp_path / "newer.db"
    newer.write_bytes(whole)
    with sqlite3.connect(newer) as db:
        db.execute("PRAGMA user_version = 999")
    bad = {
        tmp_path / "nothing.db": "not there",
        tmp_path: "not a file",
        foreign: "another program",
        newer: "later version",
    }
    for name, body in (("text", b"hens"), ("cut", whole[: len(whole) // 2])):
        bad[tmp_path / name] = "bench|damaged"
        (tmp_path / name).write_bytes(body)
    bench.close()
    before = bench.path.read_bytes()
    for file, why in bad.items():
        with pytest.raises(DataError, match=why):
            restore(file, bench.folder, LATER)
    assert bench.path.read_bytes() == before
    assert not list(bench.folder.glob("put-aside-*"))


# One a day


def day(text: str) -> datetime:
    return datetime.fromisoformat(f"{text}T12:00:00+00:00")


def test_seven_days_four_weeks_and_twelve_months_are_kept() -> None:
    made = [day("2026-03-31") - timedelta(days=i) for i in range(500)]
    kept = {f"{d:%Y-%m-%d}" for d in kept_by_rule(made)}
    daily = {f"2026-03-{d}" for d in range(25, 32)}
    weekly = {"2026-03-29", "2026-03-22", "2026-03-15"}
    monthly = {
        "2026-02-28", "2026-01-31", "2025-12-31", "2025-11-30", "2025-10-31", "2025-09-30",
        "2025-08-31", "2025-07-31", "2025-06-30", "2025-05-31", "2025-04-30",
    }  # fmt: skip
    assert kept == daily | weekly | monthly


def test_the_newest_of_a_day_counts_and_gaps_do_not() -> None:
    morning, evening = day("2026-03-31"), day("2026-03-31") + timedelta(hours=6)
    old = day("2023-01-01")
    assert kept_by_rule([morning, evening, old]) == {evening, old}


def test_one_backup_a_day_is_made_and_only_its_own_files_are_thinned(bench: Database) -> None:
    stranger = bench.backups / "holiday.db"
    bench.backups.mkdir()
    stranger.touch()
    start = datetime(2026, 3, 1, 9, tzinfo=UTC)
    for i in range(10):
        at = (start + timedelta(days=i)).isoformat()
        assert back_up_by_rule(bench, at) is not None
        assert back_up_by_rule(bench, at) is None, "today has one"
    names = sorted(p.name for p in bench.backups.iterdir())
    assert "holiday.db" in names
    # 7 days; the week before has its Sunday, the 1st, and February none.
    assert [n[15:19] for n in names if n != "holiday.db"] == [
        "0301",
        *(f"03{d:02}" for d in range(4, 11)),
    ]


def test_a_backup_is_old_after_two_days(bench: Database) -> None:
    with bench.reading() as db:
        assert last_backup(db, AT) is None
    back_up(bench, "2026-03-01T10:00:00+00:00")
    with bench.reading() as db:
        assert not last_backup(db, "2026-03-03T10:00:00+00:00").old
        assert last_backup(db, "2026-03-03T10:00:01+00:00").old


# Damaged


def test_a_sound_bench_is_said_to_be_sound(bench: Database) -> None:
    report = verify_folder(bench.folder)
    assert report.wrong == ()
    assert "1 job, 1 take, 0 photos" in report.words


def test_a_check_names_a_take_that_nobody_ended_and_mending_ends_it(bench: Database) -> None:
    with bench.writing() as db:
        db.execute("UPDATE take SET state = 'recording'")
        db.execute("UPDATE reading SET version = 1")
    assert verify_folder(bench.folder).wrong == ("take 1 was never ended",)
    done = mend_folder(bench.folder, LATER)
    assert (done.salvaged, done.ended) == (None, 1)
    assert verify_folder(bench.folder).wrong == ()


def test_samples_and_references_that_are_gone_are_named(bench: Database) -> None:
    with sqlite3.connect(bench.path) as db:
        db.execute("DELETE FROM block")
        db.execute("UPDATE ledger SET take_id = 77 WHERE take_id IS NOT NULL")
        db.execute("UPDATE reading SET body = '{'")
    wrong = verify_folder(bench.folder).wrong
    assert any("refers to a take that is not there" in w for w in wrong)
    assert "take 1 has lost its samples" in wrong
    assert "the readings of take 1 are spoilt" in wrong


def test_what_can_be_read_of_a_damaged_bench_is_saved_and_what_is_missing_is_said(
    tmp_path: Path,
) -> None:
    """Two pages of the ledger and one of an index are overwritten: the rest is there, and it opens."""
    database, job = new_bench(tmp_path / "bench")
    for i in range(400):
        write(database, job.id, "note", f"note {i} " + "x" * 200, AT)
    for tag in ("GS-1", "GS-2", "GS-3"):
        taken_in(database, tag)
    database.close()
    page = 4096
    body = bytearray(database.path.read_bytes())
    pages = [body[at : at + page] for at in range(0, len(body), page)]
    # A leaf of a table begins with 13, one of an index with 10 (SQLite file format, 1.6).
    notes = [i for i, p in enumerate(pages) if p[0] == 13 and p.count(b"x" * 200) > 5]
    indexes = [i for i, p in enumerate(pages) if p[0] == 10 and i > 40]
    for at in (notes[3], notes[-4], indexes[0]):
        body[at * page : (at + 1) * page] = os.urandom(page)
    database.path.write_bytes(body)
    assert verify_folder(database.folder).wrong
    done = mend_folder(database.folder, LATER)
    assert done.salvaged is not None
    assert done.aside is not None
    assert bytes(body) == (done.aside / "hollow-pin.db").read_bytes(), "the damaged one is kept"
    assert verify_folder(database.folder).wrong == ()
    saved, lost = done.salvaged.rows["ledger"], done.salvaged.lost.get("ledger", 0)
    assert saved > 350
    assert 20 < lost < 50
    assert saved + lost == 404, "400 notes and four take-ins"
    again = Database(database.folder)
    write(again, job.id, "note", "and on it goes", AT)


def test_nothing_readable_says_so_and_changes_nothing(bench: Database) -> None:
    bench.close()
    body = b"SQLite format 3\0" + os.urandom(20_000)
    bench.path.write_bytes(body)
    with pytest.raises(DataError, match="restore"):
        mend_folder(bench.folder, LATER)
    assert bench.path.read_bytes() == body
