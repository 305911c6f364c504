"""Bench checks and gauge studies."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path

from hollow_pin.api.context import Data, ReadOnly, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import NewStudy
from hollow_pin.bench import studies as bench
from hollow_pin.bench.models import find_routine
from hollow_pin.store.studies import StudyPlan, StudyStick

router = api_routes("bench checks")
StudyId = Annotated[int, Path(ge=1, le=2**53)]


@router.get("/studies")
def list_studies(db: ReadOnly) -> list[bench.StudyView]:
    """Every bench check, newest first, without its values."""
    return bench.list_studies(db, now())


@router.post("/studies", status_code=201)
def new_study(body: NewStudy, database: Data) -> bench.StudyView:
    """Begin a bench check. Its takes name it when they are begun."""
    with database.reading() as db:
        routine = find_routine(db, body.routine_id)
    plan = StudyPlan(
        body.source_kind,
        body.source_name,
        tuple(body.roles),
        tuple(StudyStick(s.job_id, s.stick) for s in body.sticks),
        body.trials,
        routine,
    )
    study = bench.open_study(database, plan, now())
    with database.reading() as db:
        return bench.view_study(db, study.id, now())


@router.get("/studies/{study_id}")
def get_study(study_id: StudyId, db: ReadOnly) -> bench.StudyView:
    """A bench check, how far it is and what it showed."""
    return bench.view_study(db, study_id, now())


@router.delete("/studies/{study_id}", status_code=204)
def remove_study(study_id: StudyId, database: Data) -> None:
    """Remove a bench check. Its takes stay in their jobs."""
    bench.abandon_study(database, study_id)
