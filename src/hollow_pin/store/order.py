"""The order of what happens: a number of its own, since a clock may be set back."""

from __future__ import annotations

from sqlite3 import Connection


def next_in_order(db: Connection) -> int:
    """The next number; larger than any before."""
    row = db.execute("UPDATE counter SET happened = happened + 1 RETURNING happened").fetchone()
    return int(row[0])
