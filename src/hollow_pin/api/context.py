"""What every route needs: the database, the time, a connection of its own."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from sqlite3 import Connection
from typing import Annotated

from fastapi import Depends
from starlette.requests import HTTPConnection

from hollow_pin.store.database import Database


def now() -> str:
    """The time, ISO 8601, UTC."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def _database(connection: HTTPConnection) -> Database:
    database = connection.app.state.database
    assert isinstance(database, Database)
    return database


Data = Annotated[Database, Depends(_database)]


def _reading(database: Data) -> Iterator[Connection]:
    with database.reading() as db:
        yield db


Reading = Annotated[Connection, Depends(_reading)]
