"""Takes: begun, imported, read, compared, exported."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from fastapi import APIRouter, File, Form, Path, Query, UploadFile
from fastapi.responses import Response, StreamingResponse
from pydantic import TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool

from hollow_pin.api.context import Data, Reading, now
from hollow_pin.api.devices import describe_source
from hollow_pin.api.schemas import Key, Line, MappingSpec, NewTake, StandInSpec
from hollow_pin.bench import takes as bench
from hollow_pin.bench.models import find_routine
from hollow_pin.bench.refusal import Refused
from hollow_pin.core.limits import Grade
from hollow_pin.core.recording import Recording
from hollow_pin.core.routine import usual_routine
from hollow_pin.formats.delimited import Mapping, Preview, preview, read_delimited
from hollow_pin.formats.recording_csv import is_recording, read_recording, write_recording
from hollow_pin.formats.table import LARGEST_BYTES, check_size
from hollow_pin.store.mappings import keep_mapping
from hollow_pin.store.takes import Conditions, Take, TakePlan, takes_of_stick

router = APIRouter(tags=["takes"])
TakeId = Annotated[int, Path(ge=1, le=2**53)]
JobId = Annotated[int, Path(ge=1, le=2**53)]

_MAPPING = TypeAdapter(MappingSpec)


@router.post("/jobs/{job_id}/takes", status_code=201)
def start_take(job_id: JobId, body: NewTake, database: Data) -> Take:
    """Begin a live take. Its samples come over the WebSocket /api/takes/{take_id}/live."""
    with database.reading() as db:
        controller = bench.open_job(db, job_id).controller
        stick = bench.check_stick(controller, body.stick)
        usual = usual_routine(stick.axes, stick.sprung)
        routine = find_routine(db, body.routine_id) if body.routine_id else usual
    source = describe_source(database, controller.model, stick, body.source)
    plan = TakePlan(
        stick=body.stick,
        source_kind=body.source.kind,
        source_name=source.name,
        ranges=source.ranges,
        routine=routine,
        conditions=Conditions(
            body.calibration, body.power, body.shell, " ".join(body.role.split())
        ),
        headers=source.headers,
        together=body.together,
        study_id=body.study_id,
    )
    take = bench.start_take(database, job_id, plan, now())
    if isinstance(body.source, StandInSpec):
        bench.stand_in_for(database, take, body.source.condition)
    if source.mapping is not None:
        with database.writing() as db:
            keep_mapping(
                db, controller.model.id, take.source_kind, take.source_name, source.mapping
            )
    return take


async def _read_upload(file: UploadFile) -> bytes:
    check_size(file.size or 0)
    return await file.read(LARGEST_BYTES + 1)


@router.post("/recordings/preview")
async def preview_file(file: Annotated[UploadFile, File()]) -> Preview | None:
    """Look into a CSV. null for a recording file, which needs no mapping."""
    data = await _read_upload(file)
    return None if is_recording(data) else await run_in_threadpool(preview, data)


@router.post("/jobs/{job_id}/recordings", status_code=201)
async def import_file(
    job_id: JobId,
    database: Data,
    file: Annotated[UploadFile, File()],
    stick: Annotated[Line, Form()],
    mapping: Annotated[str | None, Form(max_length=4000, description="MappingSpec as JSON")] = None,
) -> Take:
    """A recording from a file, as a take of the job."""
    data = await _read_upload(file)
    name = (file.filename or "file")[:200]

    def store() -> Take:
        recording, without_steps = _parse(data, mapping)
        return bench.import_take(database, job_id, stick, name, recording, now(), without_steps)

    return await run_in_threadpool(store)


def _parse(data: bytes, mapping: str | None) -> tuple[Recording, bool]:
    """The recording, and whether its steps are still to be found."""
    if mapping is None:
        return read_recording(data), False
    try:
        spec = _MAPPING.validate_json(mapping)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        named = ".".join(str(p) for p in first["loc"]) or "mapping"
        raise Refused(f"{named}: {first['msg']}", f"mapping.{named}") from None
    if spec.whole_step != "routine":
        return read_delimited(data, Mapping(**spec.model_dump())), False
    columns = Mapping(**(spec.model_dump() | {"whole_step": None}))
    return read_delimited(data, columns), spec.step is None


@router.get("/takes/{take_id}")
def get_take(take_id: TakeId, db: Reading, grade: Grade = "everyday") -> bench.TakeView:
    """A take, its readings, what they mean."""
    return bench.view_take(db, take_id, grade, now())


@router.get(
    "/takes/{take_id}/samples",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def get_samples(take_id: TakeId, db: Reading) -> Response:
    """All samples, little endian: uint32 n, uint32 axes, float32 seconds (n), float32 % (n an
    axis), int8 step (n)."""
    recording = bench.export_recording(db, take_id)
    n, k = recording.raw.shape
    parts = [
        np.array([n, k], "<u4").tobytes(),
        recording.t.astype("<f4").tobytes(),
        np.ascontiguousarray(recording.u.T, dtype="<f4").tobytes(),
        recording.step.tobytes(),
    ]
    return Response(b"".join(parts), media_type="application/octet-stream")


@router.get(
    "/takes/{take_id}/envelope",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def get_envelope(
    take_id: TakeId,
    db: Reading,
    from_s: Annotated[float | None, Query(ge=-1e9, le=1e9)] = None,
    to_s: Annotated[float | None, Query(ge=-1e9, le=1e9)] = None,
    buckets: Annotated[int, Query(ge=10, le=20_000)] = 1500,
) -> Response:
    """A stretch of a take with every extreme and few points, also while it is recorded. Little endian:
    uint32 n, axes, 1 where samples were left out, 0; float64 seconds (n), float32 % (n an axis)."""
    t, u, decimated = bench.envelope_of(db, take_id, from_s, to_s, buckets)
    parts = [
        np.array([len(t), u.shape[1], decimated, 0], "<u4").tobytes(),
        t.astype("<f8").tobytes(),
        np.ascontiguousarray(u.T, dtype="<f4").tobytes(),
    ]
    return Response(b"".join(parts), media_type="application/octet-stream")


@router.get(
    "/takes/{take_id}/recording.csv",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/csv": {}}}},
)
def export_take(take_id: TakeId, db: Reading) -> StreamingResponse:
    """The take as a recording file."""
    recording = bench.export_recording(db, take_id)
    return StreamingResponse(
        write_recording(recording),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="take-{take_id}.csv"'},
    )


@router.get("/controllers/{controller_id}/sticks/{stick}/takes")
def list_takes_of_stick(controller_id: JobId, stick: str, db: Reading) -> list[Take]:
    """Every take of one stick over all its visits, oldest first."""
    return takes_of_stick(db, controller_id, stick)


@router.get("/comparison")
def compare(
    before: Annotated[Key, Query()],
    after: Annotated[Key, Query()],
    db: Reading,
    grade: Grade = "everyday",
    reference: bool = False,
) -> bench.ComparisonView:
    """Two takes of one stick set against each other; reference: of a controller's two sticks, the
    good one first."""
    return bench.compare_takes(db, before, after, grade, now(), reference)
