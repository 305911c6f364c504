"""Parts, their movements, and orders. Movements are only ever added; the last of a part carries its
counts, which are the sums of all."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from sqlite3 import Connection, Row
from typing import Any

from hollow_pin.core.parts import Count, Moved, PartFacts

FACTS = tuple(PartFacts.__dataclass_fields__)


@dataclass(frozen=True)
class ShelfPart:
    """revision: of its facts."""

    id: int
    facts: PartFacts
    count: Count
    revision: int


@dataclass(frozen=True)
class MovementRow:
    """One movement. count: of parts, below 0 where counting found fewer. hand, held: what it added.
    undoes: the movement that it takes back; undone: whether another takes it back. job_tag: of the
    job's controller."""

    id: int
    part_id: int
    at: str
    role: str
    kind: Moved
    count: int
    hand: int
    held: int
    hand_after: int
    held_after: int
    lot: str
    job_id: int | None
    job_tag: str | None
    work_id: int | None
    line_id: int | None
    reason: str
    undoes: int | None
    undone: bool


@dataclass(frozen=True)
class NewMovement:
    """What is to be added."""

    part_id: int
    kind: Moved
    count: int
    hand: int
    held: int
    lot: str = ""
    job_id: int | None = None
    work_id: int | None = None
    line_id: int | None = None
    reason: str = ""
    undoes: int | None = None


@dataclass(frozen=True)
class OrderLine:
    """came: how many of it came so far. price: of one, in the shop's currency. job_id, job_tag: of the
    job that waits for it, and of its controller."""

    id: int
    part_id: int
    part: str
    count: int
    came: int
    price: float | None
    job_id: int | None
    job_tag: str | None


@dataclass(frozen=True)
class Order:
    """expected_on: a date, or empty. came_at: when the first of it came."""

    id: int
    source: str
    ordered_at: str
    expected_on: str
    note: str
    came_at: str | None
    closed_at: str | None
    lines: tuple[OrderLine, ...]


_COUNTED = (
    "SELECT part.*, coalesce(last.hand_after, 0) AS hand, coalesce(last.held_after, 0) AS held "
    "FROM part LEFT JOIN movement AS last ON last.id = "
    "(SELECT max(id) FROM movement WHERE movement.part_id = part.id) "
)


_LOTS = (
    "WITH RECURSIVE lots (lot) AS (SELECT min(lot) FROM movement WHERE lot <> '' UNION ALL "
    "SELECT (SELECT min(lot) FROM movement WHERE lot <> '' AND lot > lots.lot) FROM lots "
    "WHERE lots.lot IS NOT NULL)"
)
"""Every lot once, by a seek each: many movements have few."""


def _part(row: Row) -> ShelfPart:
    facts = PartFacts(**{key: row[key] for key in FACTS})
    return ShelfPart(row["id"], facts, Count(row["hand"], row["held"]), row["revision"])


def find_part(db: Connection, part_id: int) -> ShelfPart | None:
    row = db.execute(f"{_COUNTED} WHERE part.id = ?", (part_id,)).fetchone()
    return _part(row) if row else None


def find_parts(
    db: Connection, text: str, low: bool, kinds: Sequence[str], most: int, after: int = 0
) -> tuple[list[ShelfPart], int]:
    """Parts by name, those of whose name, footprint, place, note or lots hold every word of a text;
    and how many there are. low: only those to be ordered again. kinds: of these, or of any."""
    where: list[str] = ["1"]
    parameters: dict[str, Any] = {"most": most, "after": after}
    for i, word in enumerate(text.split()):
        parameters[f"w{i}"] = f"%{_literal(word)}%"
        conditions = [
            f"{key} LIKE :w{i} ESCAPE '\\'" for key in ("name", "place", "footprint", "note")
        ]
        where.append(
            f"({' OR '.join(conditions)} OR id IN (SELECT part_id FROM movement WHERE lot <> '' "
            f"AND lot IN (SELECT lot FROM lots WHERE lot LIKE :w{i} ESCAPE '\\')))"
        )
    if low:
        where.append(
            "reorder_at > 0 AND reorder_at >= coalesce((SELECT hand_after - held_after FROM movement "
            "WHERE movement.part_id = part.id ORDER BY movement.id DESC LIMIT 1), 0)"
        )
    if kinds:
        named = ", ".join(f":k{i}" for i in range(len(kinds)))
        where.append(f"kind IN ({named})")
        parameters |= {f"k{i}": kind for i, kind in enumerate(kinds)}
    ids = db.execute(
        f"{_LOTS} SELECT id, count(*) OVER () AS total FROM part WHERE {' AND '.join(where)} "
        "ORDER BY name COLLATE NOCASE, id LIMIT :most OFFSET :after",
        parameters,
    ).fetchall()
    rows = {
        row["id"]: _part(row)
        for row in db.execute(
            f"{_COUNTED} WHERE part.id IN (SELECT value FROM json_each(?))",
            (json.dumps([r["id"] for r in ids]),),
        )
    }
    return [rows[r["id"]] for r in ids], int(ids[0]["total"]) if ids else 0


def _literal(word: str) -> str:
    """A word as LIKE takes it at its word."""
    return word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def add_part(db: Connection, facts: PartFacts) -> int:
    named = ", ".join(FACTS)
    marks = ", ".join(f":{key}" for key in FACTS)
    row = db.execute(
        f"INSERT INTO part ({named}) VALUES ({marks}) RETURNING id", asdict(facts)
    ).fetchone()
    return int(row["id"])


def change_part(db: Connection, part_id: int, facts: PartFacts) -> None:
    changes = ", ".join(f"{key} = :{key}" for key in FACTS)
    db.execute(
        f"UPDATE part SET {changes}, revision = revision + 1 WHERE id = :id",
        asdict(facts) | {"id": part_id},
    )


def add_movement(db: Connection, new: NewMovement, at: str, role: str) -> int:
    """Add a movement behind the last of its part. To be called in a writing transaction."""
    last = db.execute(
        "SELECT hand_after, held_after FROM movement WHERE part_id = ? ORDER BY id DESC LIMIT 1",
        (new.part_id,),
    ).fetchone()
    hand, reserved = (last["hand_after"], last["held_after"]) if last else (0, 0)
    row = db.execute(
        "INSERT INTO movement (part_id, at, role, kind, count, hand, held, hand_after, held_after, "
        "lot, job_id, work_id, line_id, reason, undoes) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id",
        (
            new.part_id,
            at,
            role,
            new.kind,
            new.count,
            new.hand,
            new.held,
            hand + new.hand,
            reserved + new.held,
            new.lot,
            new.job_id,
            new.work_id,
            new.line_id,
            new.reason,
            new.undoes,
        ),
    ).fetchone()
    return int(row["id"])


_JOB_TAG = (
    "(SELECT tag FROM controller JOIN job ON job.controller_id = controller.id "
    "WHERE job.id = {}.job_id) AS job_tag"
)
_MOVED = (
    f"SELECT movement.*, {_JOB_TAG.format('movement')}, "
    "EXISTS (SELECT 1 FROM movement AS back WHERE back.undoes = movement.id) "
    "AS undone FROM movement "
)


def _movement(row: Row) -> MovementRow:
    return MovementRow(**(dict(row) | {"undone": bool(row["undone"])}))


def find_movement(db: Connection, movement_id: int) -> MovementRow | None:
    row = db.execute(f"{_MOVED} WHERE id = ?", (movement_id,)).fetchone()
    return _movement(row) if row else None


def movements_of(db: Connection, part_id: int, most: int, before: int = 2**62) -> list[MovementRow]:
    """The newest of a part, the newest first."""
    rows = db.execute(
        f"{_MOVED} WHERE part_id = ? AND id < ? ORDER BY id DESC LIMIT ?", (part_id, before, most)
    )
    return [_movement(r) for r in rows]


def movements_of_work(db: Connection, work_id: int) -> list[MovementRow]:
    rows = db.execute(f"{_MOVED} WHERE work_id = ? ORDER BY id", (work_id,))
    return [_movement(r) for r in rows]


def held_for(db: Connection, job_id: int, part_id: int | None = None) -> dict[int, int]:
    """How many of which parts are reserved for a job, where any are."""
    rows = db.execute(
        "SELECT part_id, sum(held) AS held FROM movement WHERE job_id = ? "
        "AND part_id = coalesce(?, part_id) GROUP BY part_id HAVING sum(held) > 0",
        (job_id, part_id),
    )
    return {r["part_id"]: int(r["held"]) for r in rows}


def lots_of(db: Connection, part_id: int, most: int = 20) -> list[str]:
    """Its lots, the newest first."""
    rows = db.execute(
        "SELECT lot, max(id) AS last FROM movement WHERE part_id = ? AND lot <> '' GROUP BY lot "
        "ORDER BY last DESC LIMIT ?",
        (part_id, most),
    )
    return [r["lot"] for r in rows]


def add_order(
    db: Connection,
    source: str,
    expected_on: str,
    note: str,
    lines: Sequence[tuple[int, int, float | None, int | None]],
    at: str,
) -> int:
    """lines: part, count, price, and the job that waits for it."""
    row = db.execute(
        "INSERT INTO part_order (source, ordered_at, expected_on, note) VALUES (?, ?, ?, ?) "
        "RETURNING id",
        (source, at, expected_on, note),
    ).fetchone()
    db.executemany(
        "INSERT INTO order_line (order_id, part_id, count, price, job_id) VALUES (?, ?, ?, ?, ?)",
        [(row["id"], *line) for line in lines],
    )
    return int(row["id"])


def orders(db: Connection, open_only: bool, most: int = 200) -> list[Order]:
    """Open ones first, then the newest."""
    rows = db.execute(
        "SELECT * FROM part_order WHERE closed_at IS NULL OR ? "
        "ORDER BY closed_at IS NOT NULL, id DESC LIMIT ?",
        (not open_only, most),
    ).fetchall()
    return [_order(db, row) for row in rows]


def find_order(db: Connection, order_id: int) -> Order | None:
    row = db.execute("SELECT * FROM part_order WHERE id = ?", (order_id,)).fetchone()
    return _order(db, row) if row else None


def _order(db: Connection, row: Row) -> Order:
    lines = db.execute(
        f"SELECT order_line.*, part.name AS part, {_JOB_TAG.format('order_line')}, "
        "(SELECT coalesce(sum(hand), 0) FROM movement WHERE line_id = order_line.id) AS came "
        "FROM order_line JOIN part ON part.id = order_line.part_id "
        "WHERE order_id = ? ORDER BY order_line.id",
        (row["id"],),
    )
    return Order(
        row["id"],
        row["source"],
        row["ordered_at"],
        row["expected_on"],
        row["note"],
        row["came_at"],
        row["closed_at"],
        tuple(
            OrderLine(
                r["id"],
                r["part_id"],
                r["part"],
                r["count"],
                r["came"],
                r["price"],
                r["job_id"],
                r["job_tag"],
            )
            for r in lines
        ),
    )


def order_came(db: Connection, order_id: int, came_at: str, closed_at: str | None) -> None:
    db.execute(
        "UPDATE part_order SET came_at = coalesce(came_at, ?), closed_at = ? WHERE id = ?",
        (came_at, closed_at, order_id),
    )


def close_order(db: Connection, order_id: int, at: str) -> None:
    db.execute("UPDATE part_order SET closed_at = ? WHERE id = ?", (at, order_id))


def await_order(db: Connection, order_id: int) -> None:
    db.execute("UPDATE part_order SET closed_at = NULL WHERE id = ?", (order_id,))


def reopen_order_of(db: Connection, line_id: int) -> None:
    """Something of a line is to come again."""
    db.execute(
        "UPDATE part_order SET closed_at = NULL WHERE id = "
        "(SELECT order_id FROM order_line WHERE id = ?)",
        (line_id,),
    )


def took_days(db: Connection, source: str, most: int = 20) -> list[float]:
    """How many days past orders of a source took until the first of them came, the newest first."""
    rows = db.execute(
        "SELECT julianday(came_at) - julianday(ordered_at) AS days FROM part_order "
        "WHERE source = ? AND came_at IS NOT NULL ORDER BY id DESC LIMIT ?",
        (source, most),
    )
    return [float(r["days"]) for r in rows]


def counts_awaited(db: Connection, part_ids: Sequence[int]) -> dict[int, int]:
    """How many of which parts are still to come, where any are."""
    rows = db.execute(
        "SELECT part_id, sum(count - (SELECT coalesce(sum(hand), 0) FROM movement "
        "WHERE line_id = order_line.id)) AS coming FROM order_line "
        "JOIN part_order ON part_order.id = order_line.order_id AND closed_at IS NULL "
        "WHERE part_id IN (SELECT value FROM json_each(?)) GROUP BY part_id HAVING coming > 0",
        (json.dumps(list(part_ids)),),
    )
    return {r["part_id"]: int(r["coming"]) for r in rows}


def lines_awaited(
    db: Connection, part_id: int | None, job_id: int | None
) -> list[tuple[Order, OrderLine]]:
    """Lines of open orders that have not all come, of a part or for a job."""
    rows = db.execute(
        "SELECT order_line.id, order_id FROM order_line "
        "JOIN part_order ON part_order.id = order_line.order_id "
        "WHERE part_order.closed_at IS NULL AND part_id = coalesce(?, part_id) "
        "AND (? IS NULL OR job_id = ?) ORDER BY order_id",
        (part_id, job_id, job_id),
    ).fetchall()
    lines = []
    for row in rows:
        order = find_order(db, row["order_id"])
        line = next((x for x in order.lines if x.id == row["id"]), None) if order else None
        if order is not None and line is not None and line.came < line.count:
            lines.append((order, line))
    return lines
