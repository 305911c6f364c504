"""Which axes of a source are which stick, remembered by model and source."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection


@dataclass(frozen=True)
class AxisMapping:
    """axis_x, axis_y: numbers or codes of the source's axes; axis_y None for a single axis. flip_x,
    flip_y: whether they run the other way than the source's kind usually does."""

    stick: str
    axis_x: int
    axis_y: int | None
    flip_x: bool = False
    flip_y: bool = False


def mappings_of(
    db: Connection, model_id: str, source_kind: str, source_name: str
) -> list[AxisMapping]:
    rows = db.execute(
        "SELECT stick, axis_x, axis_y, flip_x, flip_y FROM mapping "
        "WHERE model_id = ? AND source_kind = ? AND source_name = ? ORDER BY stick",
        (model_id, source_kind, source_name),
    )
    return [AxisMapping(r[0], r[1], r[2], bool(r[3]), bool(r[4])) for r in rows]


def keep_mapping(
    db: Connection, model_id: str, source_kind: str, source_name: str, mapping: AxisMapping
) -> None:
    m = mapping
    db.execute(
        "INSERT OR REPLACE INTO mapping VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (model_id, source_kind, source_name, m.stick, m.axis_x, m.axis_y, m.flip_x, m.flip_y),
    )
