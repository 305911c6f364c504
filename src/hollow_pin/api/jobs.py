"""The tray, jobs, and what is done in them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path

from hollow_pin.api.context import Data, Reading, now
from hollow_pin.api.schemas import Closing, NewJob, NewNote, NewWork
from hollow_pin.bench import jobs as bench
from hollow_pin.store.controllers import Controller, find_controller
from hollow_pin.store.jobs import Work

router = APIRouter(tags=["jobs"])
JobId = Annotated[int, Path(ge=1, le=2**53)]


@router.get("/controllers/{tag}")
def get_controller(tag: str, db: Reading) -> Controller | None:
    """A controller by its tag, or null when it is new here."""
    return find_controller(db, tag)


@router.get("/tray")
def get_tray(db: Reading) -> list[bench.Strip]:
    """What lies on the bench, newest first, then what was closed last."""
    return bench.tray(db)


@router.post("/jobs", status_code=201)
def new_job(body: NewJob, database: Data) -> bench.JobView:
    """Take a controller in."""
    job = bench.take_in(database, body.tag, body.model_id, body.stick, body.complaint, now())
    with database.reading() as db:
        return bench.view_job(db, job.id)


@router.get("/jobs/{job_id}")
def get_job(job_id: JobId, db: Reading) -> bench.JobView:
    """A job and everything that happened to it."""
    return bench.view_job(db, job_id)


@router.post("/jobs/{job_id}/work", status_code=201)
def log_work(job_id: JobId, body: NewWork, database: Data) -> Work:
    """Record what was done."""
    return bench.log_work(
        database, job_id, body.kind, body.module, body.lot, body.note, tuple(body.cautions), now()
    )


@router.post("/jobs/{job_id}/notes", status_code=204)
def add_note(job_id: JobId, body: NewNote, database: Data) -> None:
    """Put a note in the ledger."""
    bench.add_note(database, job_id, body.text, now())


@router.post("/jobs/{job_id}/close", status_code=204)
def close_job(job_id: JobId, body: Closing, database: Data) -> None:
    """Close a job with its outcome."""
    bench.close(database, job_id, body.outcome, now())


@router.post("/jobs/{job_id}/reopen", status_code=204)
def reopen_job(job_id: JobId, database: Data) -> None:
    """Open a closed job again."""
    bench.reopen(database, job_id, now())
