"""Work that is done in passes, and what was measured between them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from sqlite3 import Connection

from hollow_pin.bench.readings import last_between, readings_of, usable_takes
from hollow_pin.bench.takes import compare_takes, get_job
from hollow_pin.core.comparison import Overall
from hollow_pin.core.diagnosis import diagnose
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import Grade, Limits, limits_with
from hollow_pin.core.passes import MeasuredPass, PassAdvice, advise
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Work
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.seen_again import not_looked_at_again, quick_does
from hollow_pin.core.work_fields import Value, in_words
from hollow_pin.store.jobs import work_of


@dataclass(frozen=True)
class PassView:
    """A pass: what was put down of it, the takes before and after it, and what lies between them in a
    sentence; empty where one of them is missing."""

    work: int
    words: str
    before: int | None
    after: int | None
    overall: Overall | None
    sentence: str


@dataclass(frozen=True)
class PassesView:
    """Passes over one stick, the oldest first. advice: what to do next; quick: whether the quick
    routine looks at everything that was over. details: what was put down of the last one."""

    stick: str
    kind: str
    words: str
    passes: tuple[PassView, ...]
    advice: PassAdvice
    quick: bool
    details: Mapping[str, Value]


def passes_of(db: Connection, job_id: int, grade: Grade, now: str) -> list[PassesView]:
    """Everything that was done to a job's sticks in passes, the newest last; each only until something
    else is done to the stick."""
    job = get_job(db, job_id)
    work = [w for w in work_of(db, job_id) if w.undone_at is None]
    views = []
    for stick in dict.fromkeys(w.stick for w in work):
        own = [w for w in work if w.stick == stick]
        last = own[-1]
        if BY_CODE[last.kind].in_passes:
            first = next((i for i in range(len(own), 0, -1) if own[i - 1].kind != last.kind), 0)
            views.append(_passes(db, job.id, own[first:], own[:first], grade, now))
    return views


def _passes(
    db: Connection, job_id: int, passes: list[Work], earlier: list[Work], grade: Grade, now: str
) -> PassesView:
    last = passes[-1]
    limits = limits_with(get_job(db, job_id).controller.model.limits)
    since = earlier[-1].seq if earlier else 0
    takes = [t for t in usable_takes(db, job_id, last.stick) if t.seq > since]
    read = {t.seq: r for t in takes if (r := readings_of(db, t)) is not None}
    before = last_between(takes, since, passes[0].seq)
    measured, views = [], []
    for work, following in zip(passes, [*passes[1:], None], strict=True):
        after = last_between(takes, work.seq, following.seq if following else None)
        overall, sentence = None, ""
        if before is not None and after is not None:
            view = compare_takes(db, before.id, after.id, grade, now)
            overall, sentence = view.comparison.overall, view.sentence
        until = after.seq if after else 0
        known = [r for seq, r in read.items() if seq < until]
        measured.append(MeasuredPass(overall, _within(read.get(until), known, limits, grade)))
        was, became = before.id if before else None, after.id if after else None
        words = in_words(work.details)
        views.append(PassView(work.id, words, was, became, overall, sentence))
        before = after or before
    return PassesView(
        last.stick,
        last.kind,
        BY_CODE[last.kind].done,
        tuple(views),
        advise(tuple(measured)),
        quick_does([*read.values()], limits, grade),
        last.details,
    )


def _within(
    now: TakeReadings | None, earlier: Sequence[TakeReadings], limits: Limits, grade: Grade
) -> bool | None:
    """None where nothing was measured, or not all that something was wrong by before: a quick take of
    a track that is dirty far out would find nothing."""
    if now is None or not_looked_at_again(earlier, now, limits, grade):
        return None
    case = JudgedTake(now, grade, limits)
    return diagnose(case).asks == "nothing" and not case.with_verdict("borderline")
