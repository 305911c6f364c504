"""Photos of a job."""

from __future__ import annotations

from sqlite3 import Connection
from typing import BinaryIO

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import open_job
from hollow_pin.formats.picture import remake
from hollow_pin.store.database import Database
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.openings import openings_of
from hollow_pin.store.photos import Photo, add_photo, photos_of, picture

MOST_PHOTOS = 60
"""As many as one visit keeps."""


def keep_photo(
    database: Database,
    job_id: int,
    file: BinaryIO,
    caption: str,
    at: str,
    role: str = "",
    step: str = "",
) -> Photo:
    """Keep a photo with a job. step: of which step of its open shell, by its id, if of one. Raises
    FileError where it is not a picture, or not one alone."""
    with database.reading() as db:
        _has_room(db, job_id)
        _opening_of(db, job_id, step)
    picture = remake(file)
    with database.writing() as db:
        _has_room(db, job_id)
        opening = _opening_of(db, job_id, step)
        photo = add_photo(
            db,
            job_id,
            caption.strip(),
            picture.size,
            picture.body,
            picture.thumb,
            at,
            opening,
            step,
        )
        add_entry(db, job_id, at, "photo", caption.strip(), role, photo_id=photo.id)
        return photo


def _has_room(db: Connection, job_id: int) -> None:
    open_job(db, job_id)
    if sum(p.undone_at is None for p in photos_of(db, job_id)) >= MOST_PHOTOS:
        raise Refused(f"A job keeps {MOST_PHOTOS} photos. Undo some, or take notes.", "file")


def _opening_of(db: Connection, job_id: int, step: str) -> int | None:
    if not step:
        return None
    opening = next((o for o in openings_of(db, job_id) if o.shut_at is None), None)
    if opening is None:
        raise Refused("Its shell is shut: a photo of a step is made while it is open.", "step")
    if opening.sheet.step(step) is None:
        raise NotFound("step", step)
    return opening.id


def show_photo(db: Connection, sha256: str, thumb: bool) -> bytes:
    body = picture(db, sha256, thumb)
    if body is None:
        raise NotFound("photo", sha256)
    return body
