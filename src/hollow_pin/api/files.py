"""Files that are brought in: looked into, then read, measured and kept by a worker of their own."""

from __future__ import annotations

import asyncio
import contextvars
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from itertools import count
from threading import Event
from typing import Annotated, Any, BinaryIO, Literal, TypeVar

from fastapi import File, Form, Path, Request, UploadFile
from pydantic import TypeAdapter, ValidationError

from hollow_pin.api.context import Data, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Line, MappingSpec
from hollow_pin.bench.imports import (
    STOPPED,
    FoundSteps,
    hash_of,
    import_take,
    look_for_steps,
    require_new_samples,
)
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.record import Take
from hollow_pin.core.recording import Recording
from hollow_pin.core.tracking.find_steps import StepSpan, with_spans
from hollow_pin.formats.delimited import LOOKED_AT, Mapping, Preview, preview, read_delimited
from hollow_pin.formats.recording_csv import is_recording, read_recording
from hollow_pin.formats.table import LARGEST_BYTES, require_size
from hollow_pin.store.database import Database

router = api_routes("takes")
JobId = Annotated[int, Path(ge=1, le=2**53)]
ImportId = Annotated[int, Path(ge=1, le=2**53)]
Phase = Literal["waits", "reads", "keeps", "measures"]
Result = TypeVar("Result")

_MAPPING = TypeAdapter(MappingSpec)
CHUNK = 1 << 20


@dataclass
class Import:
    """A file that is being brought in. phase: what is done with it; share: how much of that, 0 to 1,
    None where that is not known."""

    id: int
    job_id: int
    stick: str
    file_name: str
    phase: Phase = "waits"
    share: float | None = None
    stop: Event = field(default_factory=Event, repr=False)


@dataclass(frozen=True)
class ImportView:
    """A file on its way in. share: how much of it is read, 0 to 1; None where that is not known."""

    id: int
    job_id: int
    stick: str
    file_name: str
    phase: Phase
    share: float | None


class Workers:
    """Threads for what takes memory or long, one file and one photo at a time, so that nothing else
    waits for them; and the files that are on their way in."""

    def __init__(self) -> None:
        self._files = ThreadPoolExecutor(1, "file")
        self._photos = ThreadPoolExecutor(1, "photo")
        self._ids = count(1)
        self.imports: dict[int, Import] = {}

    async def file(self, work: Callable[..., Result], *args: Any) -> Result:
        return await self._run(self._files, work, *args)

    async def photo(self, work: Callable[..., Result], *args: Any) -> Result:
        return await self._run(self._photos, work, *args)

    @staticmethod
    async def _run(pool: ThreadPoolExecutor, work: Callable[..., Result], *args: Any) -> Result:
        context = contextvars.copy_context()
        return await asyncio.get_running_loop().run_in_executor(
            pool, partial(context.run, work, *args)
        )

    def new_import(self, job_id: int, stick: str, file_name: str) -> Import:
        new = Import(next(self._ids), job_id, stick, file_name)
        self.imports[new.id] = new
        return new

    def stop(self) -> None:
        """The program ends: what is on its way in goes."""
        for coming in self.imports.values():
            coming.stop.set()
        self._files.shutdown(wait=True, cancel_futures=True)
        self._photos.shutdown(wait=True, cancel_futures=True)


def workers_of(request: Request) -> Workers:
    workers = request.app.state.workers
    assert isinstance(workers, Workers)
    return workers


@router.post("/recordings/preview")
async def preview_file(file: Annotated[UploadFile, File()]) -> Preview | None:
    """Look into a CSV. null for a recording file, which needs no mapping."""
    require_size(file.size or 0)
    data = await file.read(LOOKED_AT + CHUNK)
    return None if is_recording(data) else await asyncio.to_thread(preview, data)


@router.post("/jobs/{job_id}/recordings", status_code=201)
async def import_file(
    job_id: JobId,
    request: Request,
    database: Data,
    file: Annotated[UploadFile, File()],
    stick: Annotated[Line, Form()],
    mapping: Annotated[
        str | None, Form(max_length=10_000, description="MappingSpec as JSON")
    ] = None,
    again: Annotated[bool, Form(description="Also where the same file is there already")] = False,
) -> Take:
    """A recording from a file, as a take of the job: whole, or not at all. /api/imports says how far
    it is."""
    require_size(file.size or 0)
    workers = workers_of(request)
    coming = workers.new_import(job_id, stick, (file.filename or "file")[:200])
    try:
        return await workers.file(_bring_in, database, coming, file.file, mapping, again)
    finally:
        del workers.imports[coming.id]


@router.post("/jobs/{job_id}/recordings/steps")
async def preview_steps(
    job_id: JobId,
    request: Request,
    database: Data,
    file: Annotated[UploadFile, File()],
    stick: Annotated[Line, Form()],
    mapping: Annotated[str, Form(max_length=10_000, description="MappingSpec as JSON")],
) -> FoundSteps:
    """What the steps of a table that names none seem to be. Nothing is kept; what is corrected comes
    with the mapping, as its spans."""
    require_size(file.size or 0)

    def look() -> FoundSteps:
        recording, _ = _parse(file.file, mapping)
        return look_for_steps(database, job_id, stick, recording)

    return await workers_of(request).file(look)


def _bring_in(
    database: Database, coming: Import, file: BinaryIO, mapping: str | None, again: bool
) -> Take:
    _unless_stopped(coming)
    coming.phase = "reads"
    file_hash = "" if again else hash_of(file, mapping or "")
    with database.reading() as db:
        require_new_samples(db, coming.job_id, coming.stick, file_hash)
    recording, without_steps = _parse(file, mapping)
    _unless_stopped(coming)
    coming.phase = "keeps"

    def progress(share: float) -> None:
        coming.share = share
        if share >= 1.0:
            coming.phase, coming.share = "measures", None

    return import_take(
        database,
        coming.job_id,
        coming.stick,
        coming.file_name,
        recording,
        now(),
        without_steps,
        file_hash,
        progress,
        coming.stop,
    )


def _unless_stopped(coming: Import) -> None:
    if coming.stop.is_set():
        raise Refused(STOPPED, "file")


def _parse(file: BinaryIO, mapping: str | None) -> tuple[Recording, bool]:
    """The recording, and whether its steps are still to be found."""

    def read() -> bytes:
        file.seek(0)
        return file.read(LARGEST_BYTES + 1)

    if mapping is None:
        return read_recording(read()), False
    spec = _mapping(mapping)
    columns = spec.model_dump(exclude={"spans"})
    if spec.whole_step != "routine":
        return read_delimited(read(), Mapping(**columns)), False
    recording = read_delimited(read(), Mapping(**(columns | {"whole_step": None})))
    if spec.spans is None or spec.step is not None:
        return recording, spec.step is None
    named = tuple(StepSpan(s.step, s.from_s, s.to_s) for s in spec.spans)
    return with_spans(recording, named), False


def _mapping(mapping: str) -> MappingSpec:
    try:
        return _MAPPING.validate_json(mapping)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        named = ".".join(str(p) for p in first["loc"]) or "mapping"
        raise Refused(f"{named}: {first['msg']}", f"mapping.{named}") from None


@router.get("/imports")
def list_imports(request: Request) -> list[ImportView]:
    """The files that are being brought in."""
    return [
        ImportView(i.id, i.job_id, i.stick, i.file_name, i.phase, i.share)
        for i in list(workers_of(request).imports.values())
    ]


@router.delete("/imports/{import_id}", status_code=204)
def stop_import(import_id: ImportId, request: Request) -> None:
    """Stop bringing a file in. Nothing of it stays."""
    coming = workers_of(request).imports.get(import_id)
    if coming is None:
        raise NotFound("file that is being brought in", import_id)
    coming.stop.set()
