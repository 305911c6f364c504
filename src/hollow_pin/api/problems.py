"""Every error as problem details (RFC 9457), with the field named."""

from __future__ import annotations

import sqlite3
from collections.abc import Awaitable, Callable
from typing import Any

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


def _of_fields(wrong: RequestValidationError) -> JSONResponse:
    errors = [
        FieldError(
            field=".".join(str(p) for p in e["loc"][1:]) or str(e["loc"][0]), message=e["msg"]
        )
        for e in wrong.errors()
    ]
    named = ", ".join(dict.fromkeys(e.field for e in errors))
    return problem(422, "A field is not right", f"Not right: {named}.", errors)


def _changed(wrong: Changed) -> JSONResponse:
    errors = [FieldError(field=f, message=m) for f, m in wrong.changes.items()]
    return problem(409, "Changed meanwhile", str(wrong), errors)


def _named(status: int, title: str, field: str | None, wrong: Exception) -> JSONResponse:
    """What is wrong with one field, if it is a field that is wrong."""
    errors = [FieldError(field=field, message=str(wrong))] if field else []
    return problem(status, title, str(wrong), errors)


ANSWERS: dict[type[Exception], Callable[[Any], JSONResponse]] = {
    NotFound: lambda wrong: problem(404, "Not found", str(wrong)),
    Changed: _changed,
    AlreadyHere: lambda wrong: _named(409, "Here already", "file", wrong),
    Refused: lambda wrong: _named(409, "Not done", wrong.field, wrong),
    OutOfBounds: lambda wrong: problem(
        422, "A field is not right", str(wrong), [FieldError(field=wrong.key, message=wrong.says)]
    ),
    FileError: lambda wrong: _named(422, "The file cannot be read", "file", wrong),
    DataError: lambda wrong: problem(503, "Not done", str(wrong)),
    RecordingError: lambda wrong: problem(422, "Not a recording", str(wrong)),
    RequestValidationError: _of_fields,
}
"""What is answered to every error of the bench."""


def install(app: FastAPI) -> None:
    """Turn every error of the bench into a problem that says what, where and what to do."""

    def by(answer: Callable[[Any], JSONResponse]) -> Callable[..., Awaitable[JSONResponse]]:
        async def answered(_: Request, wrong: Exception) -> JSONResponse:
            return answer(wrong)

        return answered

    async def in_the_way(_: Request, wrong: Exception) -> JSONResponse:
        answer = problem_of(wrong)
        if answer is None:
            raise wrong
        return answer

    async def of_the_framework(request: Request, wrong: HTTPException) -> JSONResponse:
        # It calls it the request's fault where a form could not be put on the disk.
        answer = problem_of(wrong.__cause__) if wrong.__cause__ is not None else None
        if answer is not None:
            return answer
        if wrong.status_code == 404:
            return problem(404, "Not found", f"There is nothing at {request.url.path}.")
        return problem(wrong.status_code, str(wrong.detail), str(wrong.detail))

    for kind, answer in ANSWERS.items():
        app.exception_handler(kind)(by(answer))
    app.exception_handler(sqlite3.Error)(in_the_way)
    app.exception_handler(OSError)(in_the_way)
    app.exception_handler(HTTPException)(of_the_framework)
