"""What became of decisions, and what the shop has seen of its remedies."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf
from sqlite3 import Connection

from hollow_pin.bench.readings import readings_of, usable_takes
from hollow_pin.bench.takes import get_job, get_take
from hollow_pin.core.causes import CAUSE
from hollow_pin.core.controller import Model
from hollow_pin.core.limits import Limits, limits_with
from hollow_pin.core.prospect import FRESH, Fitted, Record, pooled
from hollow_pin.core.record import Take
from hollow_pin.core.remedies import BY_CODE, REMEDIES
from hollow_pin.core.seen_again import asked_after
from hollow_pin.store.decisions import Decision, latest_decisions
from hollow_pin.store.jobs import work_of
from hollow_pin.store.takes import takes_after

REMEMBERED = 300
"""As many of the shop's newest decisions as its record is made of."""


@dataclass(frozen=True)
class Outcome:
    """A decision, and what became of it: the take after it, and whether that asks for nothing any
    more, and that in words; None where none was made yet, or it cannot tell. against_advice: never
    where none was given. tag: of the controller. cause: in words, empty where none was told.
    first_cause, chance: as they stood; no chance to mend it where nothing was to be done to it."""

    decision: Decision
    tag: str
    label: str
    against_advice: bool
    first_cause: str
    cause: str
    chance: float | None
    take_after: int | None
    held: bool | None
    became: str


_BECAME = {
    True: "right since",
    False: "still not right",
    None: "measured since, and cannot be told by that",
}


def outcome_of(db: Connection, decision: Decision, limits: Limits | None = None) -> Outcome:
    stood = decision.stood
    chosen = BY_CODE.get(decision.chosen)
    works = chosen is not None and chosen.is_work
    chances = (o["chance"] for o in stood["options"] if o["remedy"] == decision.chosen)
    chance = next(chances, None) if works else None
    first = stood["causes"][0]["cause"] if stood["causes"] else ""
    controller = get_job(db, decision.job_id).controller
    before = get_take(db, decision.take_id)
    work_seqs = [
        w.seq
        for w in work_of(db, decision.job_id)
        if w.stick == before.stick and w.undone_at is None and w.seq > decision.seq
    ]
    # What was done after that is another story.
    until = work_seqs[1] if len(work_seqs) > 1 else inf
    takes = usable_takes(db, decision.job_id, before.stick)
    after = [t for t in takes if decision.seq < t.seq < until]
    within: bool | None = None
    if after:
        earlier = [t for t in takes if t.seq < after[-1].seq]
        within = _has_worked(db, earlier, after[-1], limits or limits_with(controller.model.limits))
    return Outcome(
        decision,
        controller.tag,
        chosen.label if chosen is not None else decision.chosen,
        decision.advised not in ("", decision.chosen),
        first,
        CAUSE[first].name if first in CAUSE else first,
        chance,
        after[-1].id if after else None,
        within,
        _BECAME[within] if after else "not measured since",
    )


def _has_worked(db: Connection, earlier: list[Take], take: Take, limits: Limits) -> bool | None:
    """Whether a take asks for nothing any more; None where it cannot tell, or where it did not go
    through what showed in an earlier one."""
    now = readings_of(db, take)
    if now is None:
        return None
    read = [r for t in earlier if (r := readings_of(db, t)) is not None]
    asks = asked_after(read, now, limits, "everyday")
    return None if asks == "again" else asks == "nothing"


def records_of(
    db: Connection, model: Model, but: int | None = None
) -> dict[tuple[str, str], Record]:
    """The shop's own record, by remedy and by the cause that came first when it was chosen: of a model
    where there is enough of it, else of every one. but: a job that does not count."""
    by_key: dict[tuple[str, str], list[tuple[bool, bool]]] = {}
    for decision in latest_decisions(db, REMEMBERED):
        outcome = outcome_of(db, decision)
        if outcome.held is None or decision.job_id == but:
            continue
        same = get_job(db, decision.job_id).controller.model.id == model.id
        by_key.setdefault((decision.chosen, outcome.first_cause), []).append((outcome.held, same))
    return {key: pooled(some, model.name) for key, some in by_key.items()}


def fitted_to(db: Connection, model_id: str) -> dict[str, list[Fitted]]:
    """What the parts read that were fitted to sticks of a model here, by remedy: each by the last take
    before anything else was done to the stick but calibrating."""
    renewing = tuple(r.code for r in REMEDIES if r.renews == "new")
    calibrating = tuple(r.code for r in REMEDIES if r.calibration is not None)
    fitted: dict[str, list[Fitted]] = {}
    for kind, lot, take_id in takes_after(db, model_id, renewing, calibrating, REMEMBERED):
        readings = readings_of(db, get_take(db, take_id))
        if readings is None:
            continue
        values = {
            path: value
            for path in FRESH
            if (value := readings.value(path)) is not None and not readings.hidden_at(path)
        }
        fitted.setdefault(kind, []).append(Fitted(lot, values))
    return fitted


@dataclass(frozen=True)
class Bin:
    """Forecast chances between low and high: how many, their mean, and how many held."""

    low: float
    high: float
    count: int
    mean: float
    held: int


@dataclass(frozen=True)
class TrackRecord:
    """How often the tool was right: every decision that was measured after, in bins of the chance that
    was told, and those against its advice apart."""

    outcomes: tuple[Outcome, ...]
    bins: tuple[Bin, ...]
    followed: Record
    against: Record


BINS = 5


def track_record(db: Connection) -> TrackRecord:
    outcomes = tuple(outcome_of(db, d) for d in latest_decisions(db, REMEMBERED))
    settled = [o for o in outcomes if o.held is not None]
    bins = []
    for i in range(BINS):
        low, high = i / BINS, (i + 1) / BINS
        inside = [
            o
            for o in settled
            if o.chance is not None and low <= o.chance and (o.chance < high or i == BINS - 1)
        ]
        if inside:
            mean = sum(o.chance or 0.0 for o in inside) / len(inside)
            bins.append(Bin(low, high, len(inside), mean, sum(bool(o.held) for o in inside)))
    followed = [o for o in settled if o.decision.chosen == o.decision.advised]
    against = [o for o in settled if o.against_advice]
    return TrackRecord(
        outcomes,
        tuple(bins),
        Record(len(followed), sum(bool(o.held) for o in followed)),
        Record(len(against), sum(bool(o.held) for o in against)),
    )
