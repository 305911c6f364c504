"""Requests that were carried out by their key, and what was answered."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection


@dataclass(frozen=True)
class Answer:
    """What a request asked (SHA-256), and its answer. status: None where it was never sent."""

    asked: str
    status: int | None
    media_type: str | None
    body: bytes | None


def answer_to(db: Connection, key: str) -> Answer | None:
    row = db.execute(
        "SELECT asked, status, media_type, body FROM request WHERE key = ?", (key,)
    ).fetchone()
    return Answer(*row) if row else None


def keep_answer(db: Connection, key: str, status: int, media_type: str, body: bytes) -> None:
    db.execute(
        "UPDATE request SET status = ?, media_type = ?, body = ? WHERE key = ?",
        (status, media_type, body, key),
    )


def forget_requests(db: Connection, before: str) -> None:
    """Keys are kept for a while, not for ever."""
    db.execute("DELETE FROM request WHERE at < ?", (before,))


def drop_request(db: Connection, key: str) -> None:
    db.execute("DELETE FROM request WHERE key = ?", (key,))
