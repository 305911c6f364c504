"""Backups by rule, and what is said of the data folder: made, kept, put back, checked, mended."""

from __future__ import annotations

import fcntl
import re
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from hollow_pin.bench.derived import stale
from hollow_pin.bench.takes import recover_takes
from hollow_pin.store.copies import (
    copy_database,
    faults_of,
    put_aside,
    row_counts,
    sync_folder,
)
from hollow_pin.store.copies import restore as put_back
from hollow_pin.store.database import FILE_NAME, Database, DataError, require_folder
from hollow_pin.store.salvage import Salvaged, salvage
from hollow_pin.store.takes import unfinished_takes

DAILY, WEEKLY, MONTHLY = 7, 4, 12
"""As many of the newest days, weeks and months as a backup of each is kept."""
OLD_AFTER = timedelta(hours=48)
_OURS = re.compile(r"^hollow-pin-(\d{8}T\d{6}Z)(-\d+)?\.db$")
MOST_LISTED = 12


@dataclass(frozen=True)
class LastBackup:
    """The newest good copy. old: it is time for another."""

    at: str
    path: str
    bytes: int
    old: bool


def stamp_of(at: str) -> str:
    """A time, ISO 8601 UTC, as it stands in names of files."""
    return datetime.fromisoformat(at).strftime("%Y%m%dT%H%M%SZ")


def back_up(database: Database, at: str, folder: Path | None = None) -> Path:
    """Copy the bench to a file in a folder, its own where none is named. Raises DataError."""
    into = folder or database.backups
    try:
        into.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as wrong:
        raise DataError(f"{into} cannot be made: {wrong.strerror}.") from None
    stamp = stamp_of(at)
    names = (f"hollow-pin-{stamp}{more}.db" for more in ("", *(f"-{i}" for i in range(2, 1000))))
    target, size = copy_database(database.path, into, names)
    with database.writing() as db:
        db.execute(
            "INSERT INTO backup (at, path, bytes) VALUES (?, ?, ?)",
            (at, str(target.absolute()), size),
        )
    return target


def last_backup(db: sqlite3.Connection, now: str) -> LastBackup | None:
    """The newest good copy that was made; None where there was none."""
    row = db.execute("SELECT at, path, bytes FROM backup ORDER BY id DESC LIMIT 1").fetchone()
    if row is None:
        return None
    age = datetime.fromisoformat(now) - datetime.fromisoformat(row["at"])
    return LastBackup(row["at"], row["path"], row["bytes"], age > OLD_AFTER)


def back_up_by_rule(database: Database, at: str) -> Path | None:
    """One backup a day, and the older ones thinned; None where today has one."""
    present = _present(database.backups)
    if any(copy.date() == datetime.fromisoformat(at).date() for copy in present):
        return None
    copy = back_up(database, at)
    keep = kept_by_rule(list(_present(database.backups)))
    for when, file in _present(database.backups).items():
        if when not in keep:
            file.unlink(missing_ok=True)
    return copy


def _present(folder: Path) -> dict[datetime, Path]:
    """The backups in a folder, by when they were made."""
    present = {}
    for file in folder.iterdir() if folder.is_dir() else ():
        named = _OURS.match(file.name)
        if named:
            with suppress(ValueError):
                when = datetime.strptime(f"{named.group(1)}+0000", "%Y%m%dT%H%M%SZ%z")
                present[when] = file
    return present


def kept_by_rule(copies: list[datetime]) -> set[datetime]:
    """Which backups are kept: the newest of each of the last 7 days, 4 weeks and 12 months that have
    one (ISO 8601 weeks)."""
    newest_first = sorted(copies, reverse=True)
    keeps: set[datetime] = set()
    for most, named in (
        (DAILY, lambda d: d.date()),
        (WEEKLY, lambda d: d.isocalendar()[:2]),
        (MONTHLY, lambda d: (d.year, d.month)),
    ):
        newest: dict[object, datetime] = {}
        for when in newest_first:
            newest.setdefault(named(when), when)
        keeps.update(list(newest.values())[:most])
    return keeps


@contextmanager
def sole_server(folder: Path) -> Iterator[None]:
    """One server a data folder. Raises DataError where another one serves it."""
    require_folder(folder)
    with (folder / "serving.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise DataError(f"{folder} is in use by another Hollow Pin server.") from None
        yield


def restore(file: Path, folder: Path, at: str) -> Path | None:
    """Put a copy back as the bench of a folder; where what was there is now, if anything was. Raises
    DataError while a server runs on it."""
    with sole_server(folder):
        return put_back(file, folder, stamp_of(at))


@dataclass(frozen=True)
class CheckedCopy:
    """What a check found. words: the bench in brief; wrong: what is not as it should be."""

    words: str
    wrong: tuple[str, ...]


def verify_folder(folder: Path) -> CheckedCopy:
    """Look a bench over, whole: pages, references, takes that nobody ended or that lost their samples,
    readings. Those of an older version are made anew by a server, so they are said and are not wrong.
    Raises DataError where it cannot be opened at all."""
    try:
        with sole_server(folder):
            served = False
    except DataError:
        served = True
    path = folder / FILE_NAME
    database = Database(folder)
    wrong: list[str] = []
    try:
        with closing(database.connect()) as db:
            db.execute("BEGIN")
            wrong += faults_of(db)
            counts = row_counts(db)
            unended = [] if served else unfinished_takes(db)
            old = stale(db)
            failed = db.execute("SELECT count(*) FROM reading WHERE failed IS NOT NULL").fetchone()[
                0
            ]
            spoilt = db.execute(
                "SELECT take_id FROM reading WHERE body IS NOT NULL AND NOT json_valid(body)"
            ).fetchall()
            empty = db.execute(
                "SELECT id FROM take WHERE usable AND NOT EXISTS "
                "(SELECT 1 FROM block WHERE take_id = take.id)"
            ).fetchall()
            db.rollback()
    except sqlite3.DatabaseError as error:
        return CheckedCopy("", (*wrong, f"{path}: {error}"))
    finally:
        if not served:
            database.close()
    wrong += [f"take {t.id} was never ended" for t in unended]
    wrong += [f"take {r['id']} has lost its samples" for r in empty]
    wrong += [f"the readings of take {r['take_id']} are spoilt" for r in spoilt]
    words = (
        f"{path}: {_counted(counts['job'], 'job')}, {_counted(counts['take'], 'take')}, "
        f"{_counted(counts['photo'], 'photo')}"
    )
    if old:
        words += f"; {_counted(len(old), 'result')} to be made anew by a server"
    if failed:
        words += f"; {_counted(failed, 'take')} that could not be measured"
    more = len(wrong) - MOST_LISTED
    if more > 0:
        wrong = [*wrong[:MOST_LISTED], f"and {more} more"]
    return CheckedCopy(words, tuple(wrong))


def _counted(count: int, what: str) -> str:
    return f"{count} {what}{'s' * (count != 1)}"


@dataclass(frozen=True)
class FolderRepair:
    """What mending did. salvaged: None where the file was sound. aside: where the damaged one is."""

    salvaged: Salvaged | None
    aside: Path | None
    ended: int
    measured: int


def mend_folder(folder: Path, at: str) -> FolderRepair:
    """Save what can be read of a damaged database into a new one, end takes that nobody ended, make
    readings anew. Raises DataError while a server runs on it, or where nothing can be read."""
    with sole_server(folder):
        path = folder / FILE_NAME
        if not path.is_file():
            raise DataError(f"{path} is not there. Put a copy back with “hollow-pin restore”.")
        saved: Salvaged | None = None
        aside: Path | None = None
        if _damaged(path):
            part = folder / f".{FILE_NAME}.salvaged"
            part.unlink(missing_ok=True)
            try:
                saved = salvage(path, part)
                part.chmod(0o600)
                aside = put_aside(folder, stamp_of(at))
                part.rename(path)
                sync_folder(folder)
            finally:
                part.unlink(missing_ok=True)
        database = Database(folder)
        takes_ended = recover_takes(database, at)
        with database.reading() as db:
            old = stale(db)
        for one in old:
            one.make_anew(database)
        database.close()
        return FolderRepair(saved, aside, takes_ended, len(old))


def _damaged(path: Path) -> bool:
    try:
        with closing(sqlite3.connect(path)) as db:
            return bool(faults_of(db))
    except sqlite3.DatabaseError:
        return True
