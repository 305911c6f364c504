"""Every error as problem details (RFC 9457), with the field named."""

from __future__ import annotations

import sqlite3

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from hollow_pin.api.schemas import FieldError, ProblemDetails
from hollow_pin.bench.imports import AlreadyHere
from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.core.calculators.calculator import OutOfBounds
from hollow_pin.core.recording import RecordingError
from hollow_pin.formats.errors import FileError
from hollow_pin.store.database import DataError, cannot_write_now, no_room

RESPONSES: dict[int | str, dict[str, object]] = {
    status: {
        "description": title,
        "content": {
            "application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemDetails"}}
        },
    }
    for status, title in (
        (400, "The request cannot be read"),
        (401, "Not paired"),
        (403, "Not allowed"),
        (404, "No such thing"),
        (408, "Too slow"),
        (409, "Refused"),
        (413, "Too large"),
        (422, "A field is not right"),
        (429, "Too often"),
        (503, "Not now"),
        (507, "No room"),
    )
}


def problem(
    status: int, title: str, detail: str, errors: list[FieldError] | None = None
) -> JSONResponse:
    body = ProblemDetails(title=title, status=status, detail=detail, errors=errors or [])
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


def problem_of(wrong: BaseException) -> JSONResponse | None:
    """What to answer where the machine, not the request, is in the way; None for anything else."""
    if no_room(wrong):
        return problem(
            507,
            "No room",
            "The disk is full. Nothing half done was kept; make room, then do it again: the server "
            "need not be started anew.",
        )
    if cannot_write_now(wrong):
        busy = problem(
            503,
            "Not now",
            f"The database cannot be used just now: {wrong}. Nothing half done was kept; try "
            "again in a moment.",
        )
        busy.headers["Retry-After"] = "2"
        return busy
    return None


def install(app: FastAPI) -> None:
    """Turn every error of the bench into a problem that says what, where and what to do."""

    async def in_the_way(_: Request, wrong: Exception) -> JSONResponse:
        known = problem_of(wrong)
        if known is None:
            raise wrong
        return known

    app.exception_handler(sqlite3.Error)(in_the_way)
    app.exception_handler(OSError)(in_the_way)

    @app.exception_handler(NotFound)
    async def _(_: Request, wrong: NotFound) -> JSONResponse:
        return problem(404, "Not found", str(wrong))

    @app.exception_handler(Changed)
    async def _(_: Request, wrong: Changed) -> JSONResponse:
        errors = [FieldError(field=f, message=m) for f, m in wrong.changes.items()]
        return problem(409, "Changed meanwhile", str(wrong), errors)

    @app.exception_handler(AlreadyHere)
    async def _(_: Request, wrong: AlreadyHere) -> JSONResponse:
        return problem(
            409, "Here already", str(wrong), [FieldError(field="file", message=str(wrong))]
        )

    @app.exception_handler(Refused)
    async def _(_: Request, wrong: Refused) -> JSONResponse:
        errors = [FieldError(field=wrong.field, message=str(wrong))] if wrong.field else []
        return problem(409, "Not done", str(wrong), errors)

    @app.exception_handler(OutOfBounds)
    async def _(_: Request, wrong: OutOfBounds) -> JSONResponse:
        errors = [FieldError(field=wrong.key, message=wrong.says)]
        return problem(422, "A field is not right", str(wrong), errors)

    @app.exception_handler(FileError)
    async def _(_: Request, wrong: FileError) -> JSONResponse:
        errors = [FieldError(field="file", message=str(wrong))]
        return problem(422, "The file cannot be read", str(wrong), errors)

    @app.exception_handler(DataError)
    async def _(_: Request, wrong: DataError) -> JSONResponse:
        return problem(503, "Not done", str(wrong))

    @app.exception_handler(RecordingError)
    async def _(_: Request, wrong: RecordingError) -> JSONResponse:
        return problem(422, "Not a recording", str(wrong))

    @app.exception_handler(RequestValidationError)
    async def _(_: Request, wrong: RequestValidationError) -> JSONResponse:
        errors = [
            FieldError(
                field=".".join(str(p) for p in e["loc"][1:]) or str(e["loc"][0]), message=e["msg"]
            )
            for e in wrong.errors()
        ]
        named = ", ".join(dict.fromkeys(e.field for e in errors))
        return problem(422, "A field is not right", f"Not right: {named}.", errors)

    @app.exception_handler(HTTPException)
    async def _(request: Request, wrong: HTTPException) -> JSONResponse:
        # The framework calls it the request's fault where a form could not be put on the disk.
        known = problem_of(wrong.__cause__) if wrong.__cause__ is not None else None
        if known is not None:
            return known
        detail = str(wrong.detail)
        if wrong.status_code == 404:
            detail = f"There is nothing at {request.url.path}."
        return problem(
            wrong.status_code, "Not found" if wrong.status_code == 404 else detail, detail
        )
