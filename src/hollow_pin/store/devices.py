"""Other machines that paired with this bench, and the codes they pair by. Codes and tokens are kept as
hashes only."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row
from typing import Literal

DeviceRole = Literal["bench", "desk", "viewer"]


@dataclass(frozen=True)
class PairedDevice:
    """A paired machine. role: what it may do."""

    id: int
    name: str
    role: DeviceRole
    paired_at: str
    seen_at: str
    revoked_at: str | None


_COLUMNS = "id, name, role, paired_at, seen_at, revoked_at"


def _device(row: Row) -> PairedDevice:
    return PairedDevice(**dict(row))


def keep_code(db: Connection, code_hash: str, role: DeviceRole, expires_at: str) -> None:
    db.execute("INSERT INTO pairing VALUES (?, ?, ?)", (code_hash, role, expires_at))


def use_code(db: Connection, code_hash: str, now: str) -> DeviceRole | None:
    """The role a code pairs for; None where it is not known, too old or used. It is used up."""
    db.execute("DELETE FROM pairing WHERE expires_at <= ?", (now,))
    row = db.execute(
        "DELETE FROM pairing WHERE code_hash = ? RETURNING role", (code_hash,)
    ).fetchone()
    return row["role"] if row else None


def add_device(
    db: Connection, name: str, role: DeviceRole, token_hash: str, at: str
) -> PairedDevice:
    row = db.execute(
        "INSERT INTO device (name, role, token_hash, paired_at, seen_at) VALUES (?, ?, ?, ?, ?) "
        f"RETURNING {_COLUMNS}",
        (name, role, token_hash, at, at),
    ).fetchone()
    return _device(row)


def device_of(db: Connection, token_hash: str) -> PairedDevice | None:
    """The device with a token, unless it was revoked."""
    row = db.execute(
        f"SELECT {_COLUMNS} FROM device WHERE token_hash = ? AND revoked_at IS NULL", (token_hash,)
    ).fetchone()
    return _device(row) if row else None


def all_devices(db: Connection) -> list[PairedDevice]:
    """Newest first, revoked ones included."""
    return [_device(r) for r in db.execute(f"SELECT {_COLUMNS} FROM device ORDER BY id DESC")]


def mark_seen(db: Connection, device_id: int, at: str) -> None:
    db.execute("UPDATE device SET seen_at = ? WHERE id = ?", (at, device_id))


def revoke_device(db: Connection, device_id: int, at: str) -> bool:
    """Whether there was such a device that was not revoked yet."""
    return bool(
        db.execute(
            "UPDATE device SET revoked_at = ? WHERE id = ? AND revoked_at IS NULL", (at, device_id)
        ).rowcount
    )
