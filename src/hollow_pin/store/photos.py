"""Photos of a job: made anew by this program, so nothing is in them but the picture."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row

from hollow_pin.store.database import sha256_of


@dataclass(frozen=True)
class Photo:
    """bytes: of the picture as it is kept. sha256: what it is served by, so that no browser takes it
    for another one that had its number. opening_id, step: of what step of which opening, where it is
    of one."""

    id: int
    job_id: int
    sha256: str
    caption: str
    width: int
    height: int
    bytes: int
    taken_at: str
    undone_at: str | None
    opening_id: int | None
    step: str


_COLUMNS = (
    "id, job_id, sha256, caption, width, height, length(body) AS bytes, taken_at, undone_at, "
    "opening_id, step"
)


def _photo(row: Row) -> Photo:
    return Photo(**dict(row))


def add_photo(
    db: Connection,
    job_id: int,
    caption: str,
    size: tuple[int, int],
    body: bytes,
    thumb: bytes,
    at: str,
    opening_id: int | None = None,
    step: str = "",
) -> Photo:
    row = db.execute(
        "INSERT INTO photo (job_id, sha256, caption, width, height, body, thumb, taken_at, "
        f"opening_id, step) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING {_COLUMNS}",
        (job_id, sha256_of(body), caption, *size, body, thumb, at, opening_id, step),
    ).fetchone()
    return _photo(row)


def photos_of(db: Connection, job_id: int) -> list[Photo]:
    rows = db.execute(f"SELECT {_COLUMNS} FROM photo WHERE job_id = ? ORDER BY id", (job_id,))
    return [_photo(r) for r in rows]


def picture(db: Connection, sha256: str, thumb: bool) -> bytes | None:
    """A photo as JPEG, whole or small; None where there is none, or only such as were undone."""
    column = "thumb" if thumb else "body"
    row = db.execute(
        f"SELECT {column} FROM photo WHERE sha256 = ? AND undone_at IS NULL LIMIT 1", (sha256,)
    ).fetchone()
    return bytes(row[0]) if row else None


def missing_of(db: Connection, hashes: set[str]) -> set[str]:
    """Which of some photos are not there, or only as such that were undone."""
    return {h for h in hashes if picture(db, h, thumb=True) is None}
