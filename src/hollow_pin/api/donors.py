"""Controllers that are kept for their parts."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path
from pydantic import BaseModel

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Request, Text
from hollow_pin.bench import donors as bench
from hollow_pin.core.donors import DonorStick

router = api_routes("donors")
Id = Annotated[int, Path(ge=1, le=2**53)]


class DonorBody(Request):
    note: Text = ""


class DonorOffer(BaseModel):
    """A donor's stick; lot: how its module is named where it goes in."""

    donor: DonorStick
    lot: str


def _offered(sticks: list[DonorStick]) -> list[DonorOffer]:
    return [DonorOffer(donor=s, lot=s.lot) for s in sticks]


@router.get("/donors")
def get_donors(db: ReadOnly) -> list[DonorOffer]:
    """Every stick of every donor, the best first."""
    return _offered(bench.all_donors(db))


@router.get("/jobs/{job_id}/donors")
def get_job_donors(job_id: Id, db: ReadOnly) -> list[DonorOffer]:
    """Sticks of donors of the job's model, the best first."""
    return _offered(bench.donors_for(db, job_id))


@router.post("/jobs/{job_id}/donor", status_code=204)
def keep_as_donor(job_id: Id, body: DonorBody, database: Data, role: Role) -> None:
    """Keep the job's controller for its parts."""
    bench.keep_as_donor(database, job_id, body.note, now(), role)


@router.delete("/jobs/{job_id}/donor", status_code=204)
def no_donor(job_id: Id, database: Data, role: Role) -> None:
    """It is not kept for its parts after all."""
    bench.no_donor(database, job_id, now(), role)
