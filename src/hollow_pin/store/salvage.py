"""What can still be read of a damaged database, put into a new one."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path

from hollow_pin.store.copies import tables_of
from hollow_pin.store.database import DataError, migrate, migrations, sha256_of
from hollow_pin.store.ledger import index_words

DERIVED = ("reading",)
"""Tables that are made anew from the others."""
MOST_ROWID = 2**40


@dataclass
class Salvaged:
    """What was saved. rows: by table; lost: by table, as many rows as are known to be missing, what
    refers to them included; unread: tables of which nothing could be read."""

    rows: dict[str, int] = field(default_factory=dict)
    lost: dict[str, int] = field(default_factory=dict)
    unread: list[str] = field(default_factory=list)

    @property
    def whole(self) -> bool:
        return not any(self.lost.values()) and not self.unread


def salvage(damaged: Path, target: Path) -> Salvaged:
    """Copy every row that can be read into a fresh database of this version.

    Raises DataError where not even the list of tables can be read.
    """
    salvaged = Salvaged()
    with (
        closing(sqlite3.connect(damaged, isolation_level=None)) as source,
        closing(sqlite3.connect(target, isolation_level=None)) as copy,
    ):
        copy.row_factory = sqlite3.Row
        try:
            version = source.execute("PRAGMA user_version").fetchone()[0]
            present = set(tables_of(source))
        except sqlite3.DatabaseError as wrong:
            raise DataError(
                f"nothing of {damaged} can be read ({wrong}). Put a copy back with “hollow-pin "
                "restore”."
            ) from None
        _older(copy, version, damaged)
        copy.execute("PRAGMA foreign_keys = OFF")
        copy.execute("BEGIN")
        guards = _without_guards(copy)
        for table in tables_of(copy):
            if table.startswith("job_text"):
                continue
            if table not in present:
                salvaged.unread.append(table)
                continue
            _copy_table(source, copy, table, salvaged)
        _drop_orphans(copy, salvaged)
        for guard in guards:
            copy.execute(guard)
        copy.execute("COMMIT")
        migrate(copy, target)
        copy.execute("PRAGMA foreign_keys = OFF")
        copy.execute("BEGIN")
        for (job_id,) in copy.execute("SELECT id FROM job").fetchall():
            index_words(copy, job_id)
        _count_on(copy)
        copy.execute("COMMIT")
    return salvaged


def _without_guards(copy: sqlite3.Connection) -> list[str]:
    """Take away the triggers that keep rows from being removed, and say how they are made: what refers
    to a lost row must be able to go. All others stay in force."""
    guards = copy.execute(
        "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND sql LIKE '%BEFORE DELETE%'"
    ).fetchall()
    for name, _ in guards:
        copy.execute(f'DROP TRIGGER "{name}"')
    return [sql for _, sql in guards]


def _older(copy: sqlite3.Connection, version: int, path: Path) -> None:
    """The tables of the version that the damaged file has; it is brought up to date afterwards."""
    scripts = migrations()
    if not 1 <= version <= scripts[-1][0]:
        version = scripts[-1][0]
    copy.create_function("sha256_of", 1, sha256_of, deterministic=True)
    for number, sql in scripts:
        if number <= version:
            copy.executescript(f"PRAGMA foreign_keys = OFF; BEGIN;\n{sql}")
            copy.execute(f"PRAGMA user_version = {number}")
            copy.execute("COMMIT")
    # The models that come with the program are in the damaged file too, as the shop changed them.
    for table in tables_of(copy):
        if not table.startswith("job_text"):
            copy.execute(f'DELETE FROM "{table}"')


def _copy_table(
    source: sqlite3.Connection, copy: sqlite3.Connection, table: str, salvaged: Salvaged
) -> None:
    columns = [r[1] for r in copy.execute(f'PRAGMA table_info("{table}")')]
    named = ", ".join(f'"{c}"' for c in columns)
    values = ", ".join("?" * (len(columns) + 1))
    put = f'INSERT OR REPLACE INTO "{table}" (rowid, {named}) VALUES ({values})'
    saved = unreadable = 0
    for rowid, row in _rows(source, table, named):
        if row is None:
            unreadable += 1
            continue
        try:
            copy.execute(put, (rowid, *row))
            saved += 1
        except (sqlite3.IntegrityError, sqlite3.DataError):
            unreadable += 1
    salvaged.rows[table] = saved
    if unreadable and table not in DERIVED:
        salvaged.lost[table] = unreadable


def _rows(
    source: sqlite3.Connection, table: str, named: str
) -> Iterator[tuple[int, tuple[object, ...] | None]]:
    """Every row of a table that can be read, by its number; and None for each number in between that
    no row was read for, since something there is damaged."""
    query = f'SELECT rowid, {named} FROM "{table}" WHERE rowid >= ? ORDER BY rowid'
    at = -(2**62)
    while True:
        try:
            for row in source.execute(query, (at,)):
                yield int(row[0]), tuple(row[1:])
                at = int(row[0]) + 1
            return
        except sqlite3.DatabaseError:
            following = _next_readable(source, f"{query} LIMIT 1", max(at, 0))
            for missing in range(max(at, 1), following or max(at, 1) + 1):
                yield missing, None
            if following is None:
                return
            at = following


def _next_readable(source: sqlite3.Connection, query: str, behind: int) -> int | None:
    """The first row number behind one from which a row can be read; None where there is none."""

    def readable(at: int) -> int | None:
        """0 where what follows is damaged, None where nothing follows."""
        try:
            row = source.execute(query, (at,)).fetchone()
        except sqlite3.DatabaseError:
            return 0
        return int(row[0]) if row else None

    step = 1
    while not (first := readable(behind + step)):
        if first is None or step > MOST_ROWID:
            return None
        step *= 2
    low, high = behind + step // 2, behind + step
    while high - low > 1:
        middle = (low + high) // 2
        reached = readable(middle)
        if reached:
            high, first = middle, reached
        else:
            low = middle
    return first


def _drop_orphans(copy: sqlite3.Connection, salvaged: Salvaged) -> None:
    """Rows that refer to what was lost go as well, until nothing does."""
    while orphans := copy.execute("PRAGMA foreign_key_check").fetchall():
        for table, rowid in {(r[0], r[1]) for r in orphans}:
            copy.execute(f'DELETE FROM "{table}" WHERE rowid = ?', (rowid,))
            salvaged.rows[table] -= 1
            if table not in DERIVED:
                salvaged.lost[table] = salvaged.lost.get(table, 0) + 1


def _count_on(copy: sqlite3.Connection) -> None:
    """The order of what happens goes on behind everything that was saved."""
    copy.execute("INSERT INTO counter SELECT 0 WHERE NOT EXISTS (SELECT 1 FROM counter)")
    copy.execute(
        "UPDATE counter SET happened = max(happened, (SELECT coalesce(max(seq), 0) FROM take), "
        "(SELECT coalesce(max(seq), 0) FROM work), (SELECT coalesce(max(seq), 0) FROM decision), "
        "(SELECT coalesce(max(max(seq, coalesce(completed_seq, 0))), 0) FROM study))"
    )
