"""What every route needs: the database, the time, a connection of its own."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from sqlite3 import Connection
from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header
from starlette.requests import HTTPConnection

from hollow_pin.store.database import Database


def now() -> str:
    """The time, ISO 8601, UTC."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def _database(connection: HTTPConnection) -> Database:
    database = connection.app.state.database
    assert isinstance(database, Database)
    return database


def _role(
    bench_role: Annotated[str, Header(alias="X-Bench-Role", max_length=2_000)] = "",
) -> str:
    """Which bench role acts, as the rail says; percent-encoded."""
    return " ".join(unquote(bench_role, errors="replace").replace("\0", "").split())[:200]


Role = Annotated[str, Depends(_role)]
Data = Annotated[Database, Depends(_database)]


def _read_connection(database: Data) -> Iterator[Connection]:
    with database.reading() as db:
        yield db


ReadOnly = Annotated[Connection, Depends(_read_connection)]
