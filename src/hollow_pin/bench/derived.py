"""Everything that is worked out from the record and kept: each kind with the version of the
definitions that made it, and how it is made anew where that is another one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from sqlite3 import Connection

from hollow_pin.bench.function_checks import read_anew
from hollow_pin.bench.readings import refill
from hollow_pin.bench.studies import work_out_anew
from hollow_pin.core import function_check, take
from hollow_pin.store.database import Database
from hollow_pin.store.function_checks import checks_to_read
from hollow_pin.store.studies import studies_to_work_out
from hollow_pin.store.takes import takes_to_measure


@dataclass(frozen=True)
class Derived:
    """One kind. what: a single one, in words. stale: the ids of those that another version made. anew:
    makes one again and keeps it; it computes outside the write lock."""

    what: str
    version: int
    stale: Callable[[Connection, int], list[int]]
    anew: Callable[[Database, int], None]


DERIVED = (
    Derived("take", take.VERSION, takes_to_measure, refill),
    Derived("function check", function_check.VERSION, checks_to_read, read_anew),
    Derived("bench check", take.VERSION, studies_to_work_out, work_out_anew),
)
"""In the order in which they are made: bench checks are made of readings."""


@dataclass(frozen=True)
class Stale:
    """One thing that another version made."""

    kind: Derived
    id: int

    def make_anew(self, database: Database) -> None:
        self.kind.anew(database, self.id)

    def __str__(self) -> str:
        return f"{self.kind.what} {self.id}"


def stale(db: Connection) -> list[Stale]:
    """Everything that another version of the definitions made, in the order it is to be made anew."""
    return [Stale(kind, id_) for kind in DERIVED for id_ in kind.stale(db, kind.version)]
