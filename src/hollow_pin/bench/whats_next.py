"""What is next for a job: where it stands, what was decided, what its newest take still shows."""

from __future__ import annotations

from sqlite3 import Connection

from hollow_pin.bench.readings import BenchCheckLookup, readings_of, usable_takes
from hollow_pin.core.job import STATION, Asked, StationInfo, next_of
from hollow_pin.core.limits import limits_with
from hollow_pin.core.record import Job, Take
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.summary import explain
from hollow_pin.store.decisions import decisions_of


def next_for(db: Connection, job: Job, checks: BenchCheckLookup) -> StationInfo:
    """What a take asks for is told by the everyday limits of the model."""
    if job.station not in ("decide", "hand-over"):
        return STATION[job.station]
    decision = next(iter(decisions_of(db, job.id)), None)
    if decision is None and job.station == "decide":
        return STATION["decide"]
    take = usable_takes(db, job.id, job.stick)[-1]
    if decision is not None and decision.seq > take.seq:
        return next_of(job.station, BY_CODE[decision.chosen].place, "nothing")
    return next_of(job.station, None, _asked_by(db, job, take, checks))


def _asked_by(db: Connection, job: Job, take: Take, checks: BenchCheckLookup) -> Asked:
    """A controller that is referred is handed over as it is."""
    readings = readings_of(db, take)
    if readings is None or job.controller.refer:
        return "nothing"
    model = job.controller.model
    trusted = checks.trusted(readings, take, model.id)
    return explain(trusted, "everyday", limits_with(model.limits)).asks
