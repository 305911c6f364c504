"""The database file: opening, migrating, and the one way to write."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from importlib import resources
from pathlib import Path
from queue import Empty, SimpleQueue
from threading import Lock

FILE_NAME = "hollow-pin.db"
KEPT_OPEN = 4
"""Connections for reading that wait to be used again."""


class NewerDatabase(RuntimeError):
    """The file was made by a later version of the program."""


def migrations() -> list[tuple[int, str]]:
    """Every migration, in order: (number, SQL)."""
    folder = resources.files("hollow_pin.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(f.name[:4]), f.read_text("utf-8")) for f in files]


class Database:
    """A bench's data folder. Several may read at a time, one writes. Connections for reading are used
    again, with the pages they have read.

    ports: where simulated jigs announce themselves.
    """

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.path = folder / FILE_NAME
        self.ports = folder / "ports"
        self._writing = Lock()
        self._idle: SimpleQueue[sqlite3.Connection] = SimpleQueue()
        with closing(self.connect()) as connection:
            connection.execute("PRAGMA journal_mode = WAL")
            self._migrate(connection)

    def connect(self) -> sqlite3.Connection:
        """A connection for the calling thread. Close it."""
        connection = sqlite3.connect(
            self.path, isolation_level=None, timeout=10, check_same_thread=False
        )
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA synchronous = NORMAL")
        return connection

    def _migrate(self, connection: sqlite3.Connection) -> None:
        at = connection.execute("PRAGMA user_version").fetchone()[0]
        known = migrations()
        if at > known[-1][0]:
            raise NewerDatabase(
                f"{self.path} was made by a later version of Hollow Pin. Update the program."
            )
        connection.execute("PRAGMA foreign_keys = OFF")
        for number, sql in known:
            if number > at:
                try:
                    connection.executescript(f"BEGIN IMMEDIATE;\n{sql}")
                    lost = connection.execute("PRAGMA foreign_key_check").fetchall()
                    if lost:
                        raise sqlite3.IntegrityError(
                            f"migration {number} would orphan {len(lost)} rows"
                        )
                    connection.execute(f"PRAGMA user_version = {number}")
                    connection.execute("COMMIT")
                except BaseException:
                    if connection.in_transaction:
                        connection.rollback()
                    raise
        connection.execute("PRAGMA foreign_keys = ON")

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection on which everything read belongs to one moment."""
        try:
            connection = self._idle.get_nowait()
        except Empty:
            connection = self.connect()
        try:
            connection.execute("BEGIN")
            yield connection
            connection.rollback()
        except BaseException:
            connection.close()
            raise
        if self._idle.qsize() < KEPT_OPEN:
            self._idle.put(connection)
        else:
            connection.close()

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it is kept, or none. One at a time."""
        with self._writing, closing(self.connect()) as connection:
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.rollback()
                raise
            connection.commit()
