"""Function checks and photos: the rest of the controller, and how it looked."""

from __future__ import annotations

from typing import Annotated

from fastapi import File, Form, Path, Request, UploadFile
from fastapi.responses import Response

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.files import workers_of
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import ControlTouch, EndOfCheck, ItemBody, NewCheck, NewEvents
from hollow_pin.bench import function_checks, photos
from hollow_pin.core.function_check import Item
from hollow_pin.store.function_checks import FunctionCheckRecord
from hollow_pin.store.photos import Photo

router = api_routes("take-in")
Id = Annotated[int, Path(ge=1, le=2**53)]
PhotoHash = Annotated[str, Path(pattern="^[0-9a-f]{64}$")]


@router.post("/jobs/{job_id}/checks", status_code=201)
def begin_check(job_id: Id, body: NewCheck, database: Data) -> FunctionCheckRecord:
    """Begin a function check. Without a source, the stand-in's buttons are checked."""
    given = body.source
    source = (
        function_checks.Source(
            "gamepad",
            given.name,
            given.buttons,
            tuple(given.triggers or ()),
            given.axes,
            given.standard,
        )
        if given
        else None
    )
    return function_checks.begin(database, job_id, body.kind, source, now())


@router.get("/checks/{check_id}")
def get_check(check_id: Id, db: ReadOnly) -> function_checks.FunctionCheckView:
    """A function check as far as it has come."""
    return function_checks.view_check(db, check_id)


@router.post("/checks/{check_id}/events")
def feed_check(check_id: Id, body: NewEvents, database: Data) -> function_checks.FunctionCheckView:
    """What the source reported since the last time."""
    return function_checks.feed(database, check_id, [list(e) for e in body.events])


@router.post("/checks/{check_id}/touch")
def touch_stand_in(
    check_id: Id, body: ControlTouch, database: Data
) -> function_checks.FunctionCheckView:
    """Press a button of the stand-in, or pull a trigger."""
    return function_checks.touch(database, check_id, body.control, body.index)


@router.put("/checks/{check_id}/answers")
def answer_item(check_id: Id, body: ItemBody, database: Data) -> function_checks.FunctionCheckView:
    """What was seen or heard of something that no source reports."""
    return function_checks.answer(database, check_id, Item(body.name, body.state, body.note))


@router.post("/checks/{check_id}/end")
def end_check(
    check_id: Id, body: EndOfCheck, database: Data, role: Role
) -> function_checks.FunctionCheckView:
    """End a function check, and put it in the ledger."""
    return function_checks.end(database, check_id, body.because, now(), role)


@router.post("/jobs/{job_id}/photos", status_code=201)
async def add_photo(
    job_id: Id,
    request: Request,
    file: Annotated[UploadFile, File()],
    database: Data,
    role: Role,
    caption: Annotated[str, Form(max_length=10_000, pattern=r"^[^\x00]*$")] = "",
    step: Annotated[str, Form(max_length=40, pattern=r"^[\w-]*$")] = "",
) -> Photo:
    """Keep a photo. It is made anew: nothing stays in it but the picture. step: of which step of the
    open shell, by its id, if of one."""
    return await workers_of(request).photo(
        photos.keep_photo, database, job_id, file.file, caption, now(), role, step
    )


def _jpeg(body: bytes) -> Response:
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(body, media_type="image/jpeg", headers=headers)


@router.get("/photos/{sha256}", response_class=Response)
def get_photo(sha256: PhotoHash, db: ReadOnly) -> Response:
    """A photo as JPEG, by what is in it."""
    return _jpeg(photos.show_photo(db, sha256, thumb=False))


@router.get("/photos/{sha256}/thumb", response_class=Response)
def get_thumb(sha256: PhotoHash, db: ReadOnly) -> Response:
    """A photo in small."""
    return _jpeg(photos.show_photo(db, sha256, thumb=True))
