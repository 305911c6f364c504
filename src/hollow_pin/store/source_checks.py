"""What sources were found to be like, the newest check of each, by model."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection

from pydantic import TypeAdapter

from hollow_pin.core.source_check import SourceCheck
from hollow_pin.core.sources import SourceKind

_CHECK = TypeAdapter(SourceCheck)


@dataclass(frozen=True)
class KeptSourceCheck:
    """stick: the one that was moved."""

    model_id: str
    source_kind: SourceKind
    source_name: str
    stick: str
    at: str
    check: SourceCheck


def keep_source_check(db: Connection, record: KeptSourceCheck) -> None:
    """In place of what was known of that source."""
    body = _CHECK.dump_json(record.check).decode()
    db.execute(
        "INSERT OR REPLACE INTO source_check VALUES (?, ?, ?, ?, ?, ?)",
        (record.model_id, record.source_kind, record.source_name, record.stick, record.at, body),
    )


def source_checks_of(db: Connection, model_id: str) -> list[KeptSourceCheck]:
    """Those of a model, the newest first."""
    rows = db.execute(
        "SELECT * FROM source_check WHERE model_id = ? ORDER BY at DESC, source_name", (model_id,)
    )
    return [
        KeptSourceCheck(
            row["model_id"],
            row["source_kind"],
            row["source_name"],
            row["stick"],
            row["at"],
            _CHECK.validate_json(row["body"]),
        )
        for row in rows
    ]
