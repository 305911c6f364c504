"""What is told with a controller when it goes, drafted from the job's record."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection

from hollow_pin.bench.already import in_vain
from hollow_pin.bench.jobs import JobView, ListedWork, view_job
from hollow_pin.bench.readings import trusted_of
from hollow_pin.bench.takes import compare_takes, get_take
from hollow_pin.bench.track_record import records_of
from hollow_pin.core.hand_over import DoneWork, Line, Story, as_text, hand_over, in_a_row
from hollow_pin.core.job import stick_name
from hollow_pin.core.limits import limits_with
from hollow_pin.core.prospect import Record
from hollow_pin.core.ranking import Ranked, rank
from hollow_pin.core.record import Job, Take
from hollow_pin.core.summary import Meaning, explain
from hollow_pin.core.words import lower_first


@dataclass(frozen=True)
class HandOverDraft:
    """lines: what is told, in the order in which it is asked; text: the same, a line each."""

    lines: tuple[Line, ...]
    text: str


def draft_of(db: Connection, job_id: int, now: str) -> HandOverDraft:
    """What the record says of a job's own stick. now: in ISO 8601."""
    view = view_job(db, job_id)
    job = view.job
    own = [w for w in view.work if w.stick == job.stick]
    came, wrong = _as_it_came(db, view)
    last = next((t for t in reversed(view.takes) if t.id == view.latest), None)
    records = records_of(db, job.controller.model, but=job_id) if own else {}
    rest = [c.result for c in view.checks if c.kind == "final" and c.result]
    lines = hand_over(
        Story(
            complaint=job.complaint,
            stick=stick_name(job.stick),
            refer=job.controller.refer,
            came=came.sentence if came else "",
            wrong=wrong,
            nothing_over=came is not None and came.asks == "nothing",
            done=[_done(w, wrong, records) for w in own],
            now=_now(db, view, came is not None, now),
            to_do=_to_do(db, job, last) if last is not None else "",
            measured_since=last is not None and all(w.seq < last.seq for w in own),
            rest=rest[-1].sentence if rest else "",
            others=[*_done_elsewhere(view), *(other.words for other in view.others)],
        )
    )
    return HandOverDraft(lines, as_text(lines))


def _as_it_came(db: Connection, view: JobView) -> tuple[Meaning | None, tuple[Ranked, ...]]:
    """What the first take says, where nothing had been done before it, and what it ranks."""
    first = view.pair.before if view.pair is not None else view.latest
    if first is None:
        return None, ()
    take = get_take(db, first)
    if any(w.seq < take.seq for w in view.work if w.stick == take.stick):
        return None, ()
    limits = limits_with(view.job.controller.model.limits)
    for readings in trusted_of(db, view.job, [take]):
        return explain(readings, "everyday", limits), rank(readings, limits=limits)
    return None, ()


def _now(db: Connection, view: JobView, known_before: bool, now: str) -> str:
    """What the newest take says beside the first, or by itself where it is the first, and not known to
    be how the stick came; empty where it was not measured since."""
    if view.pair is not None:
        return compare_takes(db, view.pair.before, view.pair.after, "everyday", now).sentence
    if view.latest is None or known_before:
        return ""
    limits = limits_with(view.job.controller.model.limits)
    read = trusted_of(db, view.job, [get_take(db, view.latest)])
    return " ".join(explain(readings, "everyday", limits).sentence for readings in read)


def _to_do(db: Connection, job: Job, last: Take) -> str:
    """What the newest take asks for, and whether that was done in vain; empty where that is
    nothing."""
    limits = limits_with(job.controller.model.limits)
    for readings in trusted_of(db, job, [last]):
        meaning = explain(readings, "everyday", limits)
        if meaning.asks == "nothing":
            return ""
        vain = in_vain(db, job, last, readings, remedy=meaning.try_first)
        return f"{meaning.advice} {max(vain.values()).words}" if vain else meaning.advice
    return ""


def _done_elsewhere(view: JobView) -> list[str]:
    """What was done to other sticks than the job's own, a sentence each."""
    sticks = dict.fromkeys(w.stick for w in view.work if w.stick != view.job.stick)
    done = {s: in_a_row([w.words for w in view.work if w.stick == s]) for s in sticks}
    return [f"Done to the {stick_name(s)}: {lower_first(words)}" for s, words in done.items()]


def _done(
    work: ListedWork, wrong: tuple[Ranked, ...], records: dict[tuple[str, str], Record]
) -> DoneWork:
    """With what the shop has seen of it, for the cause that came first."""
    record = records.get((work.kind, wrong[0].cause)) if wrong else None
    held = record.words if record else ""
    recheck_on = str(work.details.get("recheck_on") or "")
    return DoneWork(work.kind, work.words, work.axis, recheck_on, held)
