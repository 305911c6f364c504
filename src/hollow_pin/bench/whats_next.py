"""What is next for a job: where it stands, what was decided, what its newest take still shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from sqlite3 import Connection

from hollow_pin.bench.readings import BenchCheckLookup, trusted_of, usable_takes
from hollow_pin.core.function_check import FunctionCheck
from hollow_pin.core.job import STATION, Asked, StationInfo, next_of, stick_name
from hollow_pin.core.limits import limits_with
from hollow_pin.core.next_look import looks, seen_first, settled
from hollow_pin.core.ranking import rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Job, Take
from hollow_pin.core.remedies import BY_CODE, JobEnding
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.seen_again import asked_after
from hollow_pin.core.summary import explain
from hollow_pin.store.decisions import decisions_of
from hollow_pin.store.jobs import work_of


@dataclass(frozen=True)
class OtherStick:
    """Another stick of a job's controller, whose newest take in it asks for something to be done, and
    for what, in sentences."""

    take_id: int
    words: str


def others_at_fault(
    db: Connection, job: Job, takes: Sequence[Take], checks: BenchCheckLookup
) -> tuple[OtherStick, ...]:
    """By the newest of some usable takes of the job for each. None of one that is referred."""
    others = {t.stick: t for t in takes if t.stick != job.stick and not job.controller.refer}
    limits = limits_with(job.controller.model.limits)
    told = []
    for stick, take in others.items():
        for readings in trusted_of(db, job, [take], checks):
            meaning = explain(readings, "everyday", limits)
            if meaning.asks == "something":
                words = f"The {stick_name(stick)} was measured too. {meaning.advice}"
                told.append(OtherStick(take.id, words))
    return tuple(told)


def suggested_ending(
    db: Connection,
    job: Job,
    check: FunctionCheck | None,
    others: Sequence[OtherStick],
    checks: BenchCheckLookup,
) -> JobEnding | None:
    """How a job would end as it stands: referred; as was decided, where nothing was measured or done
    since; signed off where its stick was measured since anything was done to it, nothing it showed is
    asked for any more, and nothing is to be looked at first; None where whoever hands it over has to
    say, as where its newest function check found a fault, or another stick of it is at fault."""
    if job.controller.refer:
        return "referred"
    takes = usable_takes(db, job.id, job.stick)
    own = [w for w in work_of(db, job.id) if w.stick == job.stick and w.undone_at is None]
    last_work = max((w.seq for w in own), default=0)
    decision = next(iter(decisions_of(db, job.id)), None)
    stands = decision is not None and all(
        decision.seq > seq for seq in (last_work, *(t.seq for t in takes[-1:]))
    )
    chosen = BY_CODE[decision.chosen] if decision is not None and stands else None
    if chosen is not None and chosen.ends is not None and chosen.code != "left":
        return chosen.ends
    if others or (check is not None and check.faults):
        return None
    since = [t for t in takes if t.seq > last_work]
    if (
        since
        and trusted_of(db, job, since[-1:], checks)
        and _asked_by(db, job, takes, checks) == "nothing"
        and any(not _to_be_seen_first(job, r) for r in trusted_of(db, job, since, checks)[::-1])
    ):
        return "signed-off"
    return chosen.ends if chosen is not None else None


def _to_be_seen_first(job: Job, readings: TakeReadings) -> bool:
    """Whether something is to be measured before a take of the job's stick says what is so."""
    limits = limits_with(job.controller.model.limits)
    own = next(s for s in job.controller.model.sticks if s.name == job.stick)
    ranked = rank(readings, "everyday", limits)
    steps = usual_routine(own.axes, own.sprung).steps
    open_to = looks(readings, ranked, steps, "everyday", limits)
    return seen_first(open_to, settled(readings, ranked, open_to))


def next_for(db: Connection, job: Job, checks: BenchCheckLookup) -> StationInfo:
    """What a take asks for is told by the everyday limits of the model."""
    if job.station not in ("decide", "hand-over"):
        return STATION[job.station]
    decision = next(iter(decisions_of(db, job.id)), None)
    if decision is None and job.station == "decide":
        return STATION["decide"]
    takes = usable_takes(db, job.id, job.stick)
    if decision is not None and decision.seq > takes[-1].seq:
        return next_of(job.station, BY_CODE[decision.chosen].place, "nothing")
    return next_of(job.station, None, _asked_by(db, job, takes, checks))


def _asked_by(db: Connection, job: Job, takes: list[Take], checks: BenchCheckLookup) -> Asked:
    """By the newest of some takes; what an earlier one showed is asked for until it was looked at
    again. A controller that is referred is handed over as it is."""
    if job.controller.refer or not trusted_of(db, job, takes[-1:], checks):
        return "nothing"
    limits = limits_with(job.controller.model.limits)
    *earlier, newest = trusted_of(db, job, takes, checks)
    return asked_after(earlier, newest, limits, "everyday")
