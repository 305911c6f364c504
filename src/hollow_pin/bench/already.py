"""What was done to a job's stick already, of what it still shows: from the record, and from what was
measured before it and after."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from sqlite3 import Connection

from hollow_pin.bench.readings import (
    BenchCheckLookup,
    last_between,
    readings_of,
    setting_of,
    usable_takes,
)
from hollow_pin.core.already import NO_BETTER, Attempt, InVain, done_in_vain
from hollow_pin.core.comparison import compare
from hollow_pin.core.limits import limits_with
from hollow_pin.core.ranking import Ranked, rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Job, Take, Work
from hollow_pin.store.jobs import visits_of, work_of


def in_vain(
    db: Connection,
    job: Job,
    take: Take,
    readings: TakeReadings,
    now: Sequence[Ranked] | None = None,
    remedy: str | None = None,
) -> dict[tuple[str, str], InVain]:
    """What was done in vain to the stick of a take before it was made, by remedy and cause.

    now: the causes as that take ranks them, where that is worked out already. remedy: only that is
    asked about. Nothing is looked at where nothing was done.
    """
    visits = [v for v in visits_of(db, job.controller.id) if v.id <= job.id]
    works = {
        visit.id: [
            w
            for w in work_of(db, visit.id)
            if w.stick == take.stick and w.undone_at is None and w.seq < take.seq
        ]
        for visit in reversed(visits)
    }
    if not any(remedy in (None, w.kind) for some in works.values() for w in some):
        return {}
    limits = limits_with(job.controller.model.limits)
    attempts = [a for v in reversed(visits) for a in _attempts(db, v, works[v.id], take)]
    vain = done_in_vain(attempts, rank(readings, limits=limits) if now is None else now)
    return {key: times for key, times in vain.items() if remedy in (None, key[0])}


def _attempts(db: Connection, visit: Job, works: Sequence[Work], at: Take) -> Iterator[Attempt]:
    """What was done at one visit, each with what was measured before it and after."""
    takes = usable_takes(db, visit.id, at.stick)
    this_job, limits = visit.id == at.job_id, limits_with(visit.controller.model.limits)
    for work in works:
        before = last_between(takes, 0, work.seq)
        first = next((t for t in takes if t.seq > work.seq), None)
        # By the last take before anything else was done.
        until = min((w.seq for w in works if first and w.seq > first.seq), default=at.seq + 1)
        after = last_between(takes, work.seq, until)
        was = _read(db, visit, before) if before is not None else None
        yield Attempt(
            remedy=work.kind,
            axis=work.axis or None,
            this_job=this_job,
            no_better=this_job and _no_better(db, visit, before, after),
            was=rank(was, limits=limits) if was is not None else None,
            measured_by=after.id if after is not None else -work.seq,
        )


def _no_better(db: Connection, visit: Job, before: Take | None, after: Take | None) -> bool:
    """Whether two takes say that nothing is better; not, where one is missing."""
    if before is None or after is None:
        return False
    was, now = _read(db, visit, before), _read(db, visit, after)
    if was is None or now is None:
        return False
    tag, limits = visit.controller.tag, limits_with(visit.controller.model.limits)
    compared = compare(was, now, setting_of(before, tag), setting_of(after, tag), limits=limits)
    return compared.overall in NO_BETTER


def _read(db: Connection, visit: Job, take: Take) -> TakeReadings | None:
    readings = readings_of(db, take)
    if readings is None:
        return None
    return BenchCheckLookup(db).trusted(readings, take, visit.controller.model.id)
