"""Every error as problem details (RFC 9457), with the field named."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from hollow_pin.api.schemas import FieldError, ProblemDetails
from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.core.recording import RecordingError
from hollow_pin.formats.errors import FileError

RESPONSES: dict[int | str, dict[str, object]] = {
    status: {
        "description": title,
        "content": {
            "application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemDetails"}}
        },
    }
    for status, title in (
        (400, "The request cannot be read"),
        (404, "No such thing"),
        (409, "Refused"),
        (413, "Too large"),
        (422, "A field is not right"),
    )
}


def problem(
    status: int, title: str, detail: str, errors: list[FieldError] | None = None
) -> JSONResponse:
    body = ProblemDetails(title=title, status=status, detail=detail, errors=errors or [])
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Turn every error of the bench into a problem that says what, where and what to do."""

    @app.exception_handler(NotFound)
    async def _(_: Request, wrong: NotFound) -> JSONResponse:
        return problem(404, "Not found", str(wrong))

    @app.exception_handler(Changed)
    async def _(_: Request, wrong: Changed) -> JSONResponse:
        errors = [FieldError(field=f, message=m) for f, m in wrong.changes.items()]
        return problem(409, "Changed meanwhile", str(wrong), errors)

    @app.exception_handler(Refused)
    async def _(_: Request, wrong: Refused) -> JSONResponse:
        errors = [FieldError(field=wrong.field, message=str(wrong))] if wrong.field else []
        return problem(409, "Not done", str(wrong), errors)

    @app.exception_handler(FileError)
    async def _(_: Request, wrong: FileError) -> JSONResponse:
        errors = [FieldError(field="file", message=str(wrong))]
        return problem(422, "The file cannot be read", str(wrong), errors)

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
        detail = str(wrong.detail)
        if wrong.status_code == 404:
            detail = f"There is nothing at {request.url.path}."
        return problem(
            wrong.status_code, "Not found" if wrong.status_code == 404 else detail, detail
        )
