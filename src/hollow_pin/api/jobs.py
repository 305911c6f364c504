"""The tray, jobs, and what is done in them."""

from __future__ import annotations

import io
from typing import Annotated, Literal

import segno
from fastapi import Path, Query
from fastapi.responses import Response

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import (
    Closing,
    Correction,
    IntakeChange,
    JobDetailsBody,
    NewEntry,
    NewJob,
    NewWork,
    TagName,
    Undoing,
    WaitingBody,
)
from hollow_pin.bench import hand_over, history, intake, ledger, passes
from hollow_pin.bench import jobs as bench
from hollow_pin.bench.pins import Strip
from hollow_pin.bench.takes import get_job as get_existing
from hollow_pin.core.intake import Intake
from hollow_pin.core.job import Station
from hollow_pin.core.limits import Grade
from hollow_pin.core.record import Job, JobDetails, Work, WorkPlan
from hollow_pin.formats.ledger_csv import HEAD, write_table
from hollow_pin.store.controllers import find_controller
from hollow_pin.store.finding import Counts, JobQuery, count_jobs
from hollow_pin.store.ledger import LedgerEntry

router = api_routes("jobs")
JobId = Annotated[int, Path(ge=1, le=2**53)]
EntryId = Annotated[int, Path(ge=1, le=2**53)]


def _job_details(body: JobDetailsBody) -> JobDetails:
    return JobDetails(body.stick, body.complaint, body.moves, Intake(**body.intake.model_dump()))


@router.get("/controllers")
def get_controller(
    tag: Annotated[TagName, Query()], db: ReadOnly
) -> history.KnownController | None:
    """A controller by its tag, as it is met again, or null when it is new here."""
    controller = find_controller(db, " ".join(tag.split()))
    return history.known_controller(db, controller) if controller else None


@router.get("/controllers/{controller_id}/history")
def get_history(
    controller_id: JobId, db: ReadOnly, after: Annotated[int, Query(ge=0, le=10**6)] = 0
) -> history.History:
    """Every visit of a controller, and how its sticks have read."""
    return history.history_of(db, controller_id, after)


@router.get("/tray")
def get_tray(db: ReadOnly) -> list[Strip]:
    """What lies on the bench, newest first, then what was closed last."""
    return bench.tray(db)


@router.get("/counts")
def get_counts(db: ReadOnly) -> Counts:
    """How many jobs are at each station, and wait for what."""
    return count_jobs(db)


@router.get("/rechecks")
def get_rechecks(db: ReadOnly) -> list[bench.DueRecheck]:
    """Stopgaps that are to be looked at again, the first due first."""
    return bench.due_rechecks(db, now())


@router.get("/jobs")
def find_jobs(
    db: ReadOnly,
    text: Annotated[str, Query(max_length=200, pattern=r"^[^\x00]*$")] = "",
    station: Station | None = None,
    waiting: Literal["any", "part", "owner", "second-person", "other"] | None = None,
    model_id: Annotated[str | None, Query(max_length=100, pattern=r"^[^\x00]*$")] = None,
    refer: bool | None = None,
    opened: bool | None = None,
    before: Annotated[int | None, Query(ge=1, le=2**53)] = None,
    limit: Annotated[int, Query(ge=1, le=60)] = 40,
) -> bench.JobPage:
    """Jobs by tag, model, complaint and words, by station and what they wait for; newest first.

    before: the last job of the page before.
    """
    query = JobQuery(
        text=text,
        station=station,
        waiting=waiting,
        model_id=model_id,
        refer=refer,
        opened=opened,
        before=before,
        limit=limit,
    )
    return bench.find(db, query)


@router.post("/jobs", status_code=201)
def new_job(body: NewJob, database: Data, role: Role) -> bench.JobView:
    """Take a controller in."""
    arrival = intake.Arrival(body.tag, body.model_id, _job_details(body))
    job = intake.take_in(database, arrival, now(), role)
    with database.reading() as db:
        return bench.view_job(db, job.id)


@router.get("/jobs/{job_id}")
def get_job(job_id: JobId, db: ReadOnly) -> bench.JobView:
    """A job and everything that happened to it."""
    return bench.view_job(db, job_id)


@router.get("/jobs/{job_id}/passes")
def get_passes(job_id: JobId, db: ReadOnly, grade: Grade = "everyday") -> list[passes.PassesView]:
    """What was done in passes to the job's sticks, what was measured between them, and whether another
    is worth it."""
    return passes.passes_of(db, job_id, grade, now())


@router.get("/jobs/{job_id}/hand-over")
def get_hand_over(job_id: JobId, db: ReadOnly) -> hand_over.HandOverDraft:
    """What is told with the controller when it goes, drafted from the job's record."""
    return hand_over.draft_of(db, job_id, now())


@router.put("/jobs/{job_id}/take-in")
def change_intake(job_id: JobId, body: IntakeChange, database: Data, role: Role) -> Job:
    """Change what was told at take-in. Refused with what changed where two windows differ."""
    return intake.change_intake(
        database,
        job_id,
        _job_details(body.told),
        _job_details(body.since),
        body.revision,
        now(),
        role,
    )


@router.put("/jobs/{job_id}/waiting", status_code=204)
def wait_for(job_id: JobId, body: WaitingBody, database: Data, role: Role) -> None:
    """Say what the job waits for; empty when it waits no longer."""
    ledger.wait_for(database, job_id, body.waiting, body.text, now(), role)


@router.post("/jobs/{job_id}/work", status_code=201)
def log_work(job_id: JobId, body: NewWork, database: Data, role: Role) -> Work:
    """Record what was done: to the stick that the job is about, if none is named."""
    with database.reading() as db:
        stick = body.stick or get_existing(db, job_id).stick
    plan = WorkPlan(
        stick=stick,
        kind=body.kind,
        axis=body.axis,
        module=body.module,
        lot=body.lot,
        note=body.note,
        cautions=tuple(body.cautions),
        centring_id=body.centring_id,
        part_id=body.part_id,
        details=body.details,
        wait_minutes=body.wait_minutes,
    )
    return bench.log_work(database, job_id, plan, now(), role)


@router.post("/jobs/{job_id}/entries", status_code=201)
def write_entry(job_id: JobId, body: NewEntry, database: Data, role: Role) -> LedgerEntry:
    """Put something in the ledger."""
    return ledger.write(database, job_id, body.kind, body.text, now(), role)


@router.put("/entries/{entry_id}")
def correct_entry(entry_id: EntryId, body: Correction, database: Data, role: Role) -> LedgerEntry:
    """Put an entry in other words; the old ones stay readable."""
    return ledger.correct(database, entry_id, body.text, body.revision, now(), role)


@router.post("/entries/{entry_id}/undo")
def undo_entry(entry_id: EntryId, body: Undoing, database: Data, role: Role) -> LedgerEntry:
    """Strike an entry out with what it records, or put it back."""
    return ledger.undo(database, entry_id, body.revision, now(), body.back, role)


@router.get("/jobs/{job_id}/ledger.csv", response_class=Response)
def ledger_table(job_id: JobId, db: ReadOnly) -> Response:
    """The ledger for a spreadsheet."""
    view = bench.view_job(db, job_id)
    rows = [
        (e.at, e.role, e.kind, e.text, e.undone_at or "", "\n".join(w.text for w in e.before))
        for e in reversed(view.ledger)
    ]
    named = {"Content-Disposition": f'attachment; filename="job-{job_id}.csv"'}
    return Response(write_table(HEAD, rows), media_type="text/csv; charset=utf-8", headers=named)


@router.get("/jobs/{job_id}/code.svg", response_class=Response)
def job_code(
    job_id: JobId,
    origin: Annotated[str, Query(max_length=200, pattern=r"^https?://[A-Za-z0-9.:\[\]-]+$")],
    db: ReadOnly,
) -> Response:
    """A QR code of the job's address, as the browser that asks reaches it."""
    drawn = io.BytesIO()
    address = f"{origin}/jobs/{get_existing(db, job_id).id}"
    segno.make(address, error="m", micro=False).save(drawn, kind="svg", border=2, omitsize=True)
    return Response(drawn.getvalue(), media_type="image/svg+xml")


@router.post("/jobs/{job_id}/close", status_code=204)
def close_job(job_id: JobId, body: Closing, database: Data, role: Role) -> None:
    """Close a job, and say how it ended."""
    bench.close(database, job_id, body.ended, body.outcome, now(), role)


@router.post("/jobs/{job_id}/reopen", status_code=204)
def reopen_job(job_id: JobId, database: Data, role: Role) -> None:
    """Open a closed job again."""
    bench.reopen(database, job_id, now(), role)
