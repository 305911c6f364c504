"""Takes: begun, read, compared, exported."""

from __future__ import annotations

from sqlite3 import Connection
from typing import Annotated

import numpy as np
from fastapi import Path, Query
from fastapi.responses import Response, StreamingResponse

from hollow_pin.api.context import Data, ReadOnly, now
from hollow_pin.api.devices import describe_source
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Key, NewTake, StandInSpec
from hollow_pin.bench import takes as bench
from hollow_pin.bench.models import find_routine
from hollow_pin.core.limits import Grade
from hollow_pin.core.record import Conditions, Take, TakePlan
from hollow_pin.core.routine import usual_routine
from hollow_pin.formats.recording_csv import write_recording
from hollow_pin.store.mappings import keep_mapping
from hollow_pin.store.takes import takes_of_stick

router = api_routes("takes")
TakeId = Annotated[int, Path(ge=1, le=2**53)]
JobId = Annotated[int, Path(ge=1, le=2**53)]


@router.post("/jobs/{job_id}/takes", status_code=201)
def start_take(job_id: JobId, body: NewTake, database: Data) -> Take:
    """Begin a live take. Its samples come over the WebSocket /api/takes/{take_id}/live."""
    with database.reading() as db:
        controller = bench.open_job(db, job_id).controller
        stick = bench.require_stick(controller, body.stick)
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
        headers=source.setup.headers(),
        together=body.together,
        study_id=body.study_id,
    )

    def prepare(db: Connection, take: Take) -> None:
        if isinstance(body.source, StandInSpec):
            bench.stand_in_of(db, take, body.source.condition)
        if source.mapping is not None:
            keep_mapping(
                db, controller.model.id, take.source_kind, take.source_name, source.mapping
            )

    return bench.start_take(database, job_id, plan, now(), prepare)


@router.get("/takes/{take_id}")
def get_take(take_id: TakeId, db: ReadOnly, grade: Grade = "everyday") -> bench.TakeView:
    """A take, its readings, what they mean."""
    return bench.view_take(db, take_id, grade, now())


@router.get(
    "/takes/{take_id}/samples",
    response_class=Response,
    responses={200: {"content": {"application/octet-stream": {}}}},
)
def get_samples(take_id: TakeId, db: ReadOnly) -> Response:
    """All samples, little endian: uint32 n, uint32 axes, float32 seconds (n), float32 % (n an
    axis), int8 step (n)."""
    recording = bench.shown_recording(db, take_id)
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
    db: ReadOnly,
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
def export_take(take_id: TakeId, db: ReadOnly) -> StreamingResponse:
    """The take as a recording file."""
    recording = bench.export_recording(db, take_id)
    return StreamingResponse(
        write_recording(recording),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="take-{take_id}.csv"'},
    )


@router.get("/controllers/{controller_id}/sticks/{stick}/takes")
def list_takes_of_stick(controller_id: JobId, stick: str, db: ReadOnly) -> list[Take]:
    """Every take of one stick over all its visits, oldest first."""
    return takes_of_stick(db, controller_id, stick)


@router.get("/comparison")
def compare(
    before: Annotated[Key, Query()],
    after: Annotated[Key, Query()],
    db: ReadOnly,
    grade: Grade = "everyday",
    reference: bool = False,
) -> bench.ComparisonView:
    """Two takes of one stick set against each other; reference: of a controller's two sticks, the
    good one first."""
    return bench.compare_takes(db, before, after, grade, now(), reference)
