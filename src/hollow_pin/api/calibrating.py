"""Calibration: what one would hold, what became of one, and what the kernel is told."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Query
from pydantic import Field

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Key, Request
from hollow_pin.bench import calibrating as bench
from hollow_pin.sources.kernel_range import KernelAxis

router = api_routes("calibration", "/jobs/{job_id}/calibration")
JobId = Annotated[int, Path(ge=1, le=2**53)]
Whole = Annotated[int, Field(ge=-(2**31), lt=2**31)]


class AxisBody(Request):
    """code: of the axis, as the kernel numbers them."""

    code: Annotated[int, Field(ge=0, le=0x3F)]
    lo: Whole
    hi: Whole
    flat: Whole
    fuzz: Whole


class KernelBody(Request):
    """take_id: of the take whose device it is."""

    take_id: Key
    axes: list[AxisBody] = Field(min_length=1, max_length=2)


class RestoreBody(Request):
    take_id: Key


@router.get("")
def get_calibration(
    job_id: JobId,
    db: ReadOnly,
    margin: Annotated[float, Query(ge=0, le=20)] = 0.0,
    take_id: Annotated[int | None, Query(ge=1, le=2**53)] = None,
) -> bench.CalibrationView:
    """What a calibration of the job's stick would hold, kind by kind, and what became of the last."""
    return bench.view_calibration(db, job_id, margin, take_id)


@router.post("/kernel", status_code=204)
def write_kernel(job_id: JobId, body: KernelBody, database: Data, role: Role) -> None:
    """Have the kernel believe range, flat and fuzz of an input device; what it believed is kept."""
    axes = tuple(KernelAxis(a.code, a.lo, a.hi, a.flat, a.fuzz) for a in body.axes)
    bench.write_kernel(database, job_id, body.take_id, axes, now(), role)


@router.post("/kernel/restore", status_code=204)
def restore_kernel(job_id: JobId, body: RestoreBody, database: Data, role: Role) -> None:
    """Put back what the kernel believed before."""
    bench.restore_kernel(database, job_id, body.take_id, now(), role)
