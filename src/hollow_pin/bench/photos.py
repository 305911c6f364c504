"""Photos of a job."""

from __future__ import annotations

from sqlite3 import Connection
from typing import BinaryIO

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import open_job
from hollow_pin.formats.picture import remake
from hollow_pin.store.database import Database
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.photos import Photo, add_photo, photos_of, picture

MOST_PHOTOS = 60
"""As many as one visit keeps."""


def keep_photo(
    database: Database, job_id: int, file: BinaryIO, caption: str, at: str, role: str = ""
) -> Photo:
    """Keep a photo with a job. Raises FileError where it is not a picture, or not one alone."""
    with database.reading() as db:
        _has_room(db, job_id)
    made = remake(file)
    with database.writing() as db:
        _has_room(db, job_id)
        photo = add_photo(db, job_id, caption.strip(), made.size, made.body, made.thumb, at)
        add_entry(db, job_id, at, "photo", caption.strip(), role, photo_id=photo.id)
        return photo


def _has_room(db: Connection, job_id: int) -> None:
    open_job(db, job_id)
    if sum(p.undone_at is None for p in photos_of(db, job_id)) >= MOST_PHOTOS:
        raise Refused(f"A job keeps {MOST_PHOTOS} photos. Undo some, or take notes.", "file")


def show_photo(db: Connection, sha256: str, thumb: bool) -> bytes:
    found = picture(db, sha256, thumb)
    if found is None:
        raise NotFound("photo", sha256)
    return found
