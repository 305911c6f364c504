"""The database file: opening, migrating, and the one way to write.

What is confirmed is on the disk: every transaction of the record is synced. The samples of a running
take are written lighter; docs/reliability.md says what that costs.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import hashlib
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from queue import Empty, SimpleQueue
from threading import Lock

FILE_NAME = "hollow-pin.db"
MARKER = "bench.txt"
"""Stands in every folder that has held a bench, so that a lost database is noticed."""
MARKED = "Hollow Pin keeps a bench in this folder. Do not delete this file.\n"
APPLICATION_ID = 0x48504E31
KEPT_OPEN = 4
"""Connections for reading that wait to be used again."""
BUSY_S = 10.0
BLOCK_BUSY_S = 0.25
SHUT = (errno.EACCES, errno.EPERM, errno.EROFS)


class DataError(RuntimeError):
    """A data folder that cannot be used; one line says what is wrong and what to do."""


class NewerDatabase(DataError):
    """The file was made by a later version of the program."""


class AlreadyDone(Exception):
    """What is asked for has been carried out before, by the same key."""


@dataclass
class KeyedRequest:
    """A request that is to be carried out once: its key, what it says, when it came. kept: whether it
    is on record."""

    key: str
    says: str
    at: str
    kept: bool = False


asked: ContextVar[KeyedRequest | None] = ContextVar("asked", default=None)
"""The request that is being carried out, where it has a key: its first transaction keeps it."""


def migrations() -> list[tuple[int, str]]:
    """Every migration, in order: (number, SQL)."""
    folder = resources.files("hollow_pin.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(f.name[:4]), f.read_text("utf-8")) for f in files]


def migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Bring a database up to date, a transaction a migration. Raises NewerDatabase."""
    at = connection.execute("PRAGMA user_version").fetchone()[0]
    scripts = migrations()
    if at > scripts[-1][0]:
        raise NewerDatabase(
            f"{path} was made by a later version of Hollow Pin. Update the program."
        )
    connection.create_function("sha256_of", 1, sha256_of, deterministic=True)
    connection.execute("PRAGMA foreign_keys = OFF")
    for number, sql in scripts:
        if number > at:
            try:
                connection.executescript(f"BEGIN IMMEDIATE;\n{sql}")
                broken = connection.execute("PRAGMA foreign_key_check").fetchall()
                if broken:
                    raise sqlite3.IntegrityError(
                        f"migration {number} would orphan {len(broken)} rows"
                    )
                connection.execute(f"PRAGMA user_version = {number}")
                connection.execute("COMMIT")
            except BaseException:
                if connection.in_transaction:
                    connection.rollback()
                raise
    connection.execute("PRAGMA foreign_keys = ON")


def sha256_of(body: bytes) -> str:
    return hashlib.sha256(body).hexdigest()


def no_room(wrong: BaseException) -> bool:
    """Whether the disk is full."""
    if isinstance(wrong, sqlite3.Error):
        return getattr(wrong, "sqlite_errorcode", 0) & 0xFF == sqlite3.SQLITE_FULL
    return isinstance(wrong, OSError) and wrong.errno in (errno.ENOSPC, errno.EDQUOT)


def cannot_write_now(wrong: BaseException) -> bool:
    """Whether a write failed for a reason that may pass: no room, a lock, no file handles, a disk that
    does not answer."""
    if isinstance(wrong, sqlite3.Error):
        code = getattr(wrong, "sqlite_errorcode", 0) & 0xFF
        passing = (
            sqlite3.SQLITE_FULL,
            sqlite3.SQLITE_BUSY,
            sqlite3.SQLITE_LOCKED,
            sqlite3.SQLITE_IOERR,
            sqlite3.SQLITE_CANTOPEN,
            sqlite3.SQLITE_READONLY,
            sqlite3.SQLITE_PROTOCOL,
        )
        return code in passing
    return no_room(wrong) or (
        isinstance(wrong, OSError) and wrong.errno in (errno.EMFILE, errno.ENFILE)
    )


class Database:
    """A bench's data folder. Several may read at a time, one writes. Connections for reading are used
    again, with the pages they have read.

    ports: where simulated jigs announce themselves. Raises DataError where the folder cannot be used.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.path = folder / FILE_NAME
        self.ports = folder / "ports"
        self.backups = folder / "backups"
        self._writing = Lock()
        self._idle: SimpleQueue[sqlite3.Connection] = SimpleQueue()
        self._closed = False
        _check_folder(folder, self.path)
        self._new = not self.path.exists() or not self.path.stat().st_size
        try:
            self._make_ready()
            self._new = False
        except NewerDatabase:
            raise
        except sqlite3.Error as wrong:
            raise DataError(_said_of(wrong, self.path)) from wrong

    def _make_ready(self) -> None:
        """Nothing is written where nothing has to be: a bench on a full disk can still be read."""
        with closing(self._connect_to_read()[0]) as connection:
            _check_whose(connection, self.path)
            at = connection.execute("PRAGMA user_version").fetchone()[0]
        if at != migrations()[-1][0] or not _writes_a_log(self.path):
            with closing(self.connect()) as connection:
                connection.execute("PRAGMA journal_mode = WAL")
                migrate(connection, self.path)
        with contextlib.suppress(OSError):
            self._make_private()

    def _make_private(self) -> None:
        """For its user alone."""
        marker = self.folder / MARKER
        if not marker.exists():
            marker.write_text(MARKED, "utf-8")
        self.folder.chmod(0o700)
        for file in (self.path, *self.folder.glob(f"{FILE_NAME}-*"), marker):
            file.chmod(0o600)

    def connect(self, busy_s: float = BUSY_S, synced: bool = True) -> sqlite3.Connection:
        """A connection for the calling thread. Close it. busy_s: how long it waits for another
        writer. synced: whether what it commits is on the disk when it returns."""
        # A bench that is gone while it is served is not made anew, and empty.
        mode = "rwc" if self._new else "rw"
        connection = sqlite3.connect(
            f"{self.path.absolute().as_uri()}?mode={mode}",
            uri=True,
            isolation_level=None,
            timeout=busy_s,
            check_same_thread=False,
        )
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute(f"PRAGMA synchronous = {'FULL' if synced else 'NORMAL'}")
        return connection

    def _connect_to_read(self) -> tuple[sqlite3.Connection, bool]:
        """As `connect`; where there is no room even for the log's index, what lies in the file. And
        whether it sees what is written later."""
        try:
            connection = self.connect()
            connection.execute("PRAGMA user_version").fetchone()
        except sqlite3.OperationalError as wrong:
            log = self.path.with_name(f"{FILE_NAME}-wal")
            if not cannot_write_now(wrong) or (log.exists() and log.stat().st_size):
                raise
            connection = sqlite3.connect(
                f"{self.path.absolute().as_uri()}?immutable=1",
                uri=True,
                isolation_level=None,
                check_same_thread=False,
            )
            connection.row_factory = sqlite3.Row
            return connection, False
        return connection, True

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection on which everything read belongs to one moment."""
        try:
            connection, lasts = self._idle.get_nowait(), True
        except Empty:
            connection, lasts = self._connect_to_read()
        try:
            connection.execute("BEGIN")
            yield connection
            connection.rollback()
        except BaseException:
            connection.close()
            raise
        if lasts and self._idle.qsize() < KEPT_OPEN and not self._closed:
            self._idle.put(connection)
            if self._closed:
                # It was, meanwhile: what is left open leaves its log in the folder.
                self._close_idle()
        else:
            connection.close()

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it is kept, on the disk, or none. One at a time.

        Where the request that is carried out has a key, its first transaction keeps the key with what
        it writes; raises AlreadyDone where another one kept it before.
        """
        with self._writing, closing(self.connect()) as connection:
            connection.execute("BEGIN IMMEDIATE")
            request = asked.get()
            new = request is not None and not request.kept
            try:
                if request is not None and new:
                    _keep_request(connection, request)
                yield connection
                connection.commit()
            except BaseException as wrong:
                if connection.in_transaction:
                    connection.rollback()
                if no_room(wrong):
                    _fold_in(connection)
                raise
            if request is not None and new:
                request.kept = True

    @contextmanager
    def importing(self) -> Iterator[None]:
        """While this is held by anybody, what is being brought in is not taken for left over."""
        with (self.folder / "importing.lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_SH)
            yield

    @contextmanager
    def nobody_imports(self) -> Iterator[bool]:
        """Whether nothing is being brought in, by this program or another; it stays so meanwhile."""
        with (self.folder / "importing.lock").open("w") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                yield False
                return
            yield True

    def close(self) -> None:
        """Fold the log in and close every connection: what lies in the folder is then the bench."""
        self._closed = True
        self._close_idle()
        with contextlib.suppress(sqlite3.Error), closing(self.connect()) as connection:
            _fold_in(connection)

    def _close_idle(self) -> None:
        with contextlib.suppress(Empty):
            while True:
                self._idle.get_nowait().close()


def _fold_in(connection: sqlite3.Connection) -> None:
    """Put the log into the file, and give its room back."""
    with contextlib.suppress(sqlite3.Error):
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")


def _keep_request(connection: sqlite3.Connection, request: KeyedRequest) -> None:
    try:
        connection.execute(
            "INSERT INTO request (key, asked, at) VALUES (?, ?, ?)",
            (request.key, request.says, request.at),
        )
    except sqlite3.IntegrityError:
        raise AlreadyDone(request.key) from None


def _writes_a_log(path: Path) -> bool:
    """Whether the file's head says WAL (SQLite file format, 1.3.3)."""
    with path.open("rb") as file:
        return file.read(20)[18:20] == b"\2\2"


def require_folder(folder: Path) -> None:
    """Make a bench's folder where there is none. Raises DataError where that cannot be."""
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except (FileExistsError, NotADirectoryError):
        raise DataError(f"{folder} is a file. Name a folder with --data.") from None
    except OSError as wrong:
        raise DataError(f"{folder} cannot be made: {wrong.strerror}.") from None
    except ValueError as wrong:
        raise DataError(f"that cannot be a folder: {wrong}.") from None


def _check_folder(folder: Path, path: Path) -> None:
    """Raises DataError where this cannot be a bench's folder, or the bench in it is gone."""
    require_folder(folder)
    if path.is_dir():
        raise DataError(f"{path} is a folder and should be the bench's database.")
    mend = f"Put a copy back with “hollow-pin restore FILE --data {folder}”"
    try:
        size = path.stat().st_size if path.exists() else None
        if not size:
            log = path.with_name(f"{FILE_NAME}-wal")
            if (folder / MARKER).exists() or (log.exists() and log.stat().st_size):
                fault = "is missing" if size is None else "is empty"
                raise DataError(
                    f"there was a bench in {folder}, and its database {fault}. {mend} (copies are in "
                    f"{folder / 'backups'}). To begin anew here, delete {folder / MARKER}."
                )
            return
        with path.open("rb") as file:
            head = file.read(100)
    except OSError as wrong:
        raise DataError(f"{path} cannot be read: {wrong.strerror}.") from None
    if not head.startswith(b"SQLite format 3\0"):
        raise DataError(f"{path} is not a database. {mend}, or name another folder with --data.")
    log = path.with_name(f"{FILE_NAME}-wal")
    page = int.from_bytes(head[16:18], "big") or 1
    whole = int.from_bytes(head[28:32], "big") * (65_536 if page == 1 else page)
    if size < whole and not (log.exists() and log.stat().st_size):
        raise DataError(
            f"{path} is cut short: {size} of {whole} bytes are there. Save what is left with "
            f"“hollow-pin check --repair --data {folder}”, or put a copy back with “hollow-pin "
            "restore”."
        )


def _check_whose(connection: sqlite3.Connection, path: Path) -> None:
    """Raises DataError where another program made the file."""
    application = connection.execute("PRAGMA application_id").fetchone()[0]
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    tables = {r[0] for r in connection.execute("SELECT name FROM sqlite_master")}
    ours = application == APPLICATION_ID or (application == 0 and "take" in tables and version)
    if not ours and (tables or application or version):
        raise DataError(
            f"{path} was made by another program, and was left as it is. Name another folder with "
            "--data."
        )


def _said_of(wrong: sqlite3.Error, path: Path) -> str:
    """An error on opening, in one line, and what to do."""
    code = getattr(wrong, "sqlite_errorcode", 0) & 0xFF
    folder = path.parent
    if code == sqlite3.SQLITE_READONLY:
        return f"{path} may not be written to. Give it and its folder to the user who runs this."
    if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
        return (
            f"{path} is damaged ({wrong}). Save what can be read with “hollow-pin check --repair "
            f"--data {folder}”, or put a copy back with “hollow-pin restore FILE --data {folder}”."
        )
    if code == sqlite3.SQLITE_FULL:
        return f"there is no room on the disk of {folder}. Make some, then start again."
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return f"{path} is locked by another program. End that, then start again."
    return f"{path} cannot be opened: {wrong}."
