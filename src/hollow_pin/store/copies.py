"""Copies of the database that are the whole bench, and putting one back.

A copy is made by SQLite's backup interface from one moment of the bench, in steps, while others go on
reading and writing; then it is checked.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
import time
from collections.abc import Callable, Iterable
from contextlib import closing, suppress
from pathlib import Path

from hollow_pin.store.database import (
    APPLICATION_ID,
    FILE_NAME,
    MARKED,
    MARKER,
    DataError,
    migrations,
    no_room,
)

PAGES_AT_ONCE = 256
REST_S = 0.002
"""Between two steps, so that a live take has the disk to itself now and then."""
BESIDE = ("", "-wal", "-shm")
"""The file and what SQLite keeps beside it."""


def tables_of(db: sqlite3.Connection) -> list[str]:
    rows = db.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")
    return [r[0] for r in rows if not r[0].startswith("sqlite_")]


def row_counts(db: sqlite3.Connection) -> dict[str, int]:
    """How many rows each table has."""
    return {t: db.execute(f'SELECT count(*) FROM "{t}"').fetchone()[0] for t in tables_of(db)}


def faults_of(db: sqlite3.Connection, whole: bool = True) -> list[str]:
    """What SQLite finds wrong with a database: its pages and indexes, then rows that refer to nothing.
    whole: indexes are compared with their tables as well, which takes longer."""
    try:
        reported = db.execute(
            f"PRAGMA {'integrity_check' if whole else 'quick_check'}(20)"
        ).fetchall()
        faults = [str(r[0]) for r in reported if r[0] != "ok"]
        orphans = db.execute("PRAGMA foreign_key_check").fetchmany(20)
    except sqlite3.DatabaseError as wrong:
        return [str(wrong)]
    return faults + [
        f"a row of {r[0]} ({r[1]}) refers to a {r[2]} that is not there" for r in orphans
    ]


def sync_folder(folder: Path) -> None:
    """Make sure that a new name in a folder outlasts a power cut."""
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def _part_of(target: Path) -> Path:
    """What a copy is called until it is whole."""
    return target.with_name(f".{target.name}.part")


def _first_free(folder: Path, names: Iterable[str]) -> Path:
    """The first of the files in a folder that is not there, and that nobody makes. Its part is there
    from now on, so that nobody else takes it."""
    for target in (folder / name for name in names):
        part = _part_of(target)
        with suppress(FileExistsError):
            part.touch(0o600, exist_ok=False)
            if not target.exists():
                return target
            part.unlink(missing_ok=True)
    raise FileExistsError("every name that it could have is taken")


def copy_database(
    path: Path,
    folder: Path,
    names: Iterable[str],
    progress: Callable[[float], None] = lambda _: None,
) -> tuple[Path, int]:
    """Copy a bench's database to a new file in a folder, check the copy, and give it its name only
    then: the first that is free. Returns the file and its size in bytes.

    Raises DataError where the copy is not as good as it should be, or there is no room for it.
    """
    try:
        target = _first_free(folder, names)
    except OSError as wrong:
        raise _no_copy(folder, wrong) from None
    part = _part_of(target)
    try:
        with (
            closing(sqlite3.connect(path, isolation_level=None, timeout=10)) as source,
            closing(sqlite3.connect(part, isolation_level=None)) as copy,
        ):
            # One moment of the bench: what is written meanwhile does not begin the copy anew.
            source.execute("BEGIN")
            counts = row_counts(source)

            def step(_: int, remaining: int, total: int) -> None:
                progress(1 - remaining / total if total else 1.0)
                time.sleep(REST_S)

            source.backup(copy, pages=PAGES_AT_ONCE, progress=step)
            source.rollback()
            # A file by itself, that anybody can open where nothing may be written.
            copy.execute("PRAGMA journal_mode = DELETE")
            faults = faults_of(copy)
            if row_counts(copy) != counts:
                faults.append("it has not as many rows as the bench")
            if faults:
                raise DataError(f"the copy is not sound: {'; '.join(faults[:3])}. Try again.")
        part.chmod(0o600)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        size = part.stat().st_size
        part.rename(target)
        sync_folder(folder)
        return target, size
    except (sqlite3.Error, OSError) as wrong:
        raise _no_copy(folder, wrong) from None
    finally:
        part.unlink(missing_ok=True)


def _no_copy(folder: Path, wrong: sqlite3.Error | OSError) -> DataError:
    if no_room(wrong):
        return DataError(f"there is no room for a copy in {folder}.")
    return DataError(f"no copy could be made: {wrong}.")


def verify_copy(file: Path) -> None:
    """Raises DataError where a file is not a copy of a bench that this program can read."""
    if not file.is_file():
        raise DataError(f"{file} is not there, or is not a file.")
    try:
        with closing(sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True)) as db:
            version = db.execute("PRAGMA user_version").fetchone()[0]
            application = db.execute("PRAGMA application_id").fetchone()[0]
            tables = tables_of(db)
            faults = faults_of(db)
    except sqlite3.Error as wrong:
        raise DataError(f"{file} is not a copy of a bench: {wrong}.") from None
    if application not in (APPLICATION_ID, 0) or "take" not in tables:
        raise DataError(f"{file} is not a copy of a bench: another program made it.")
    if version > migrations()[-1][0]:
        raise DataError(f"{file} was made by a later version of Hollow Pin. Update the program.")
    if faults:
        raise DataError(f"{file} is damaged: {faults[0]}. Take another copy.")


def put_aside(folder: Path, at: str) -> Path | None:
    """Move what stands in a bench's folder out of the way; where to, or None where nothing does."""
    present = [p for end in BESIDE if (p := folder / f"{FILE_NAME}{end}").exists()]
    if not present:
        return None
    aside = folder / f"put-aside-{at}"
    aside.mkdir(mode=0o700)
    # The log first: a database without its log is an older bench, a log without it is nothing.
    for file in present:
        file.rename(aside / file.name)
    sync_folder(aside)
    return aside


def restore(file: Path, folder: Path, at: str) -> Path | None:
    """Put a copy back as the bench of a folder. What was there is put aside; returns where."""
    verify_copy(file)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = folder / f".{FILE_NAME}.part"
    try:
        shutil.copyfile(file, part)
        part.chmod(0o600)
        with part.open("rb") as target:
            os.fsync(target.fileno())
        aside = put_aside(folder, at)
        part.rename(folder / FILE_NAME)
        (folder / MARKER).write_text(MARKED, "utf-8")
        sync_folder(folder)
        return aside
    except OSError as wrong:
        raise DataError(
            f"{file} could not be put back: {wrong.strerror}. Nothing was lost."
        ) from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
