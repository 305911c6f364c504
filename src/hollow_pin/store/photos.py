"""Photos of a job: made anew by this program, so nothing is in them but the picture."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection, Row


@dataclass(frozen=True)
class Photo:
    """bytes: of the picture as it is kept."""

    id: int
    job_id: int
    caption: str
    width: int
    height: int
    bytes: int
    taken_at: str
    undone_at: str | None


_COLUMNS = "id, job_id, caption, width, height, length(body) AS bytes, taken_at, undone_at"


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
) -> Photo:
    row = db.execute(
        "INSERT INTO photo (job_id, caption, width, height, body, thumb, taken_at) "
        f"VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING {_COLUMNS}",
        (job_id, caption, *size, body, thumb, at),
    ).fetchone()
    return _photo(row)


def photos_of(db: Connection, job_id: int) -> list[Photo]:
    rows = db.execute(f"SELECT {_COLUMNS} FROM photo WHERE job_id = ? ORDER BY id", (job_id,))
    return [_photo(r) for r in rows]


def picture(db: Connection, photo_id: int, thumb: bool) -> bytes | None:
    """A photo as JPEG, whole or small."""
    column = "thumb" if thumb else "body"
    row = db.execute(f"SELECT {column} FROM photo WHERE id = ?", (photo_id,)).fetchone()
    return bytes(row[0]) if row else None
