"""Takes: begun, ended, read, imported, compared."""

from __future__ import annotations

import random
import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from sqlite3 import Connection

from hollow_pin.bench.already import in_vain
from hollow_pin.bench.pins import Pin, pin_of
from hollow_pin.bench.readings import (
    BenchCheckLookup,
    measure,
    measure_recording,
    outcome_of,
    readings_of,
    setting_of,
    trusted_of,
    usable_takes,
)
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.studies import Trust, require_trial, settle_study, trust_in
from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.comparison import Comparison, compare
from hollow_pin.core.controller import Controller, Model, ModelStick
from hollow_pin.core.decimation import envelope
from hollow_pin.core.figures import Figure, TakeSide, deciding, figures_of
from hollow_pin.core.hidden import MOST_OVER_END
from hollow_pin.core.intake import REFER
from hollow_pin.core.job import StationInfo, next_of, stage_of, stick_name
from hollow_pin.core.limits import Grade, Limits, Verdict, limits_with, verdict_on
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import HowEnded, Job, Take, TakePlan
from hollow_pin.core.recording import AxisRange, Floats, Recording
from hollow_pin.core.routine import STEP_LABEL, StepName
from hollow_pin.core.seen_again import not_looked_at_again, unseen_words
from hollow_pin.core.sources import SourceSetup, setup_of
from hollow_pin.core.summary import Meaning, explain, explain_by_way_of, explain_comparison
from hollow_pin.core.take import VERSION
from hollow_pin.core.tracking.tracker import STUCK_S, StepTracker
from hollow_pin.core.where import Where, where_of
from hollow_pin.simulator.conditions import fresh_stick, possible
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.stick import Stick
from hollow_pin.simulator.trims import TrimKind, fitted, with_pair
from hollow_pin.store.controllers import keep_stand_in, stand_in_state
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import events_of, find_job, settle_station
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.takes import (
    add_headers,
    begin_take,
    drop_blocks,
    drop_take,
    end_take,
    find_take,
    first_time_us,
    keep_readings,
    last_time_us,
    load_recording,
    merge_next,
    resume_take,
    said_ending,
    say_ending,
    takes_of_stick,
    unfinished_takes,
)

BLOCKS_AT_ONCE = 20
UNFINISHED = ("recording", "importing")


@dataclass(frozen=True)
class AgainstLimit:
    """A reading's limit in a grade, its reason, and the verdict."""

    limit: float
    reason: str
    verdict: Verdict


@dataclass(frozen=True)
class TakeView:
    """A take with its readings and what they mean. readings is None while it has no samples, and where
    it could not be measured: failed says why. values: every reading of the catalogue that was
    measured, by its dotted name. pin, figures, where: the stick in brief, the numbers to show by side,
    and the stretch each reading came from. setup: how its source is read."""

    take: Take
    tag: str
    model: str
    readings: TakeReadings | None
    failed: str | None
    values: dict[str, float]
    meaning: Meaning | None
    limits: dict[str, AgainstLimit]
    pin: Pin
    figures: dict[TakeSide, tuple[Figure, ...]]
    where: dict[str, Where]
    trust: Trust
    may_resume: bool
    setup: SourceSetup


@dataclass(frozen=True)
class ComparisonView:
    """Two takes set against each other. remarks: what is to be said beside the sentence: why else they
    cannot be compared, or what was different besides the stick. deciding: the readings to show first,
    by dotted name. next: what the later one asks for."""

    before: TakeView
    after: TakeView
    sentence: str
    remarks: tuple[str, ...]
    comparison: Comparison
    deciding: tuple[str, ...]
    next: StationInfo


def get_job(db: Connection, job_id: int) -> Job:
    job = find_job(db, job_id)
    if job is None:
        raise NotFound("job", job_id)
    return job


def get_take(db: Connection, take_id: int) -> Take:
    take = find_take(db, take_id)
    if take is None:
        raise NotFound("take", take_id)
    return take


def open_job(db: Connection, job_id: int) -> Job:
    """A job that may still be worked on. Refused when it is closed."""
    job = get_job(db, job_id)
    if job.closed_at is not None:
        raise Refused("The job is closed. Open it again first.")
    return job


def require_stick(controller: Controller, stick: str) -> ModelStick:
    """A controller's stick by its name. Refused where it has none of that name."""
    own = controller.model.stick(stick)
    if own is None:
        named = ", ".join(s.name for s in controller.model.sticks)
        raise Refused(f"A {controller.model.name} has no {stick} stick. It has: {named}.", "stick")
    return own


def stand_in_ranges(model: Model, stick: ModelStick) -> tuple[AxisRange, ...]:
    """What a stand-in of a model reports in."""
    return (AxisRange(0, 2**model.bits - 1),) * stick.axes


Prepare = Callable[[Connection, Take], None]
"""What else belongs to the beginning of a take, in the same transaction."""


def start_take(
    database: Database, job_id: int, plan: TakePlan, at: str, prepare: Prepare | None = None
) -> Take:
    """Begin a take. Refused, with nothing left behind, where the stick cannot perform what is asked.

    What the record knows of the stick stands above what a file says of itself; what a file says
    otherwise is kept beside it.
    """
    with database.writing() as db:
        job = open_job(db, job_id)
        model = job.controller.model
        stick = require_stick(job.controller, plan.stick)
        if len(plan.ranges) != stick.axes:
            had = "one axis" if stick.axes == 1 else "two axes"
            raise Refused(f"The {stick_name(plan.stick)} of a {model.name} has {had}.", "source")
        unfit = plan.routine.unfit(stick.axes, stick.sprung)
        if unfit and plan.source_kind != "file":
            named = ", ".join(STEP_LABEL[s] for s in unfit)
            raise Refused(
                f"The {stick_name(plan.stick)} of a {model.name} cannot do {named}. "
                "Choose another routine.",
                "routine",
            )
        if plan.study_id is not None:
            require_trial(db, plan.study_id, job, plan.stick, plan.conditions.role)
        events = events_of(db, job_id, plan.stick)
        headers = {
            "source": plan.source_kind,
            "stick": plan.stick,
            "controller": job.controller.tag,
            "model": model.name,
            "gate": stick.gate,
        }
        over = model.limits.get("rim.overrun", {}).get("everyday")
        if over is not None:
            headers["overrun"] = f"{min(over, MOST_OVER_END):g}"
        otherwise = {
            f"file-{key}": plan.headers[key]
            for key, value in headers.items()
            if plan.headers.get(key, value) != value
        }
        plan = replace(plan, headers=plan.headers | otherwise | headers)
        take = begin_take(db, job_id, stage_of(events), stick.gate, plan, at)
        if prepare is not None:
            prepare(db, take)
        return take


def stand_in_of(db: Connection, take: Take, condition: str | None = None) -> Stick:
    """The simulated stick that stands in for a take's."""
    return simulated_stick(db, get_job(db, take.job_id).controller, take.stick, condition)


def simulated_stick(
    db: Connection, controller: Controller, name: str, condition: str | None = None
) -> Stick:
    """The simulated stick that stands in for one of a controller's; made up when first needed."""
    state = stand_in_state(db, controller.id, name)
    if state is not None:
        return Stick.from_dict(state)
    m, own = controller.model, require_stick(controller, name)
    seed = zlib.crc32(f"{controller.tag} {name}".encode())
    could = possible(own.kind, own.sprung)
    if condition is not None and not set(condition.split("+")) <= set(could):
        raise Refused("A stick of this model cannot have that fault.", "condition")
    condition = condition or random.Random(seed).choice(could)
    stick = fresh_stick(
        own.kind, own.gate, m.bits, m.rate_hz, condition, seed, own.axes, own.sprung
    )
    keep_stand_in(db, controller.id, name, stick.to_dict())
    return stick


def stand_in_for(
    database: Database, take: Take, condition: str | None = None, turned: TrimKind | None = None
) -> StandIn:
    """A take's simulated stick in its simulated hand. turned: what of it is turned by hand."""
    with database.writing() as db:
        stick = stand_in_of(db, take, condition)
    if turned is not None:
        pair = next((p for p in stick.trims if p[0].kind == turned), None)
        fresh = fitted(turned, zlib.crc32(f"{take.job_id} {take.stick} trims".encode()))
        stick = replace(stick, trims=with_pair(stick.trims, pair or fresh))
    return StandIn(stick, seed=take.id * 7919 + (last_time_of(database, take.id) or 0) % 9973)


def last_time_of(database: Database, take_id: int) -> int | None:
    with database.reading() as db:
        return last_time_us(db, take_id)


def tracker_for(database: Database, take: Take, steps: tuple[StepName, ...] | None) -> StepTracker:
    """Follows the take's routine, or only the steps to be done again."""
    routine = take.routine if steps is None else take.routine.only(steps)
    rest = (0.0, 0.0)
    if "still" not in routine.steps:
        with database.reading() as db:
            readings = outcome_of(db, take).readings
        still = readings.still if readings else None
        rest = (still.rest_x, still.rest_y or 0.0) if still else rest
    return StepTracker(routine, axes=len(take.ranges), rest=rest, stuck_s=STUCK_S)


def finish_take(
    database: Database,
    take_id: int,
    state: HowEnded,
    because: str | None,
    at: str,
    notes: dict[str, str] | None = None,
    recording: Recording | None = None,
) -> Take:
    """End a take, then measure what there is and put it in the record. notes: what its source counted.
    recording: its samples, where they are at hand.

    Nothing long is done in a transaction; where the program ends in between, how the take ended is
    known, and the rest is done at the next start.
    """
    from_id = 0
    while True:
        with database.writing() as db:
            take = get_take(db, take_id)
            if take.state not in UNFINISHED:
                return take
            from_id = merge_next(db, take_id, from_id)
            if not from_id:
                if notes:
                    add_headers(db, take, notes)
                say_ending(db, take_id, state, because, at)
                break
    return settle_take(database, take_id, recording)


def settle_take(database: Database, take_id: int, recording: Recording | None = None) -> Take:
    """Measure a take whose ending was said, and let it count. recording: its samples, where they are
    at hand."""
    with database.reading() as db:
        take = get_take(db, take_id)
        outcome = measure_recording(recording, take) if recording else measure(db, take)
    derived = outcome.to_store()
    with database.writing() as db:
        ending = said_ending(db, take_id)
        if ending is None:
            return get_take(db, take_id)
        if derived is not None:
            keep_readings(db, take_id, VERSION, derived)
        end_take(db, take_id, outcome.usable)
        take = get_take(db, take_id)
        text = _ending_text(take, outcome.failed)
        add_entry(db, take.job_id, ending[2], "take", text, take.conditions.role, take_id=take_id)
        settle_station(db, take.job_id)
    if take.study_id is not None:
        settle_study(database, take.study_id, ending[2])
    return take


def _ending_text(take: Take, failed: str | None) -> str:
    text = f"{take.stage.capitalize()}, {stick_name(take.stick)}"
    if take.state == "interrupted":
        remainder = "what it holds is kept" if take.usable or failed else "no step of it is usable"
        text += f": interrupted, {take.ended_because}; {remainder}"
    if failed:
        text += f". It could not be measured: {failed}".removesuffix(".")
    return text + "."


def recover_takes(database: Database, at: str) -> int:
    """Takes that ran when the program ended become what they were: ended as it was said, or
    interrupted. What was still being brought in goes. Returns how many."""
    with database.nobody_imports() as alone:
        with database.reading() as db:
            unfinished = unfinished_takes(db)
            endings = {take.id: said_ending(db, take.id) for take in unfinished}
        recovered = [t for t in unfinished if alone or t.state == "recording"]
        for take in recovered:
            if endings[take.id] is not None:
                settle_take(database, take.id)
            elif take.state == "importing":
                drop_staged(database, take.id)
            else:
                because = "the program ended while it was recording"
                finish_take(database, take.id, "interrupted", because, at)
    return len(recovered)


def drop_staged(database: Database, take_id: int) -> None:
    """Throw away what was being brought in, a little at a time."""
    while True:
        with database.writing() as db:
            take = find_take(db, take_id)
            if take is None or take.state != "importing":
                return
            if not drop_blocks(db, take_id, BLOCKS_AT_ONCE):
                drop_take(db, take_id)
                return


def may_resume(db: Connection, take: Take) -> bool:
    """Whether a step of it can still be done again: the stick's newest take, and nothing since."""
    job = get_job(db, take.job_id)
    if job.closed_at is not None or take.source_kind == "file" or take.state in UNFINISHED:
        return False
    takes = takes_of_stick(db, job.controller.id, take.stick)
    if not takes or takes[-1].id != take.id:
        return False
    events = events_of(db, take.job_id, take.stick)
    return not (events and events[-1].what == "work")


def require_resumable(db: Connection, take: Take, steps: tuple[StepName, ...]) -> None:
    """Refused where steps of an ended take cannot be done again, or be added to it."""
    if not may_resume(db, take):
        raise Refused("A step can be done again only in the stick's newest take, before work.")
    own = require_stick(get_job(db, take.job_id).controller, take.stick)
    unfit = take.routine.only(steps).unfit(own.axes, own.sprung)
    if unfit:
        named = ", ".join(STEP_LABEL[s] for s in unfit)
        raise Refused(f"{named}: this stick cannot do it.", "step")


def reopen_take(db: Connection, take_id: int, steps: tuple[StepName, ...] = ()) -> None:
    """Open an ended take again, as the first samples of a step that is done again come. steps: those
    that its routine had not become part of it."""
    take = get_take(db, take_id)
    if take.state == "recording":
        return
    require_resumable(db, take, steps)
    resume_take(db, take_id, take.routine.with_steps(steps))


def view_take(db: Connection, take_id: int, grade: Grade, now: str) -> TakeView:
    """A take, what it reads, what that means."""
    take = get_take(db, take_id)
    job = get_job(db, take.job_id)
    controller, model = job.controller, job.controller.model
    outcome = outcome_of(db, take)
    readings = outcome.readings
    if readings is not None:
        readings = BenchCheckLookup(db).trusted(readings, take, model.id)
    table = limits_with(model.limits)
    meaning: Meaning | None = None
    against: dict[str, AgainstLimit] = {}
    if readings is not None:
        meaning = explain(readings, grade, table)
        if controller.refer:
            meaning = replace(meaning, advice=REFER, try_first="none", again=False)
        elif vain := in_vain(db, job, take, readings, remedy=meaning.try_first):
            most = max(vain.values())
            told = f"{meaning.advice} {most.words} See Decide for what is next."
            meaning = replace(meaning, advice=told)
        for path, limit in table.items():
            at = limit.at(grade)
            against[path] = AgainstLimit(at, limit.reason, verdict_on(readings, path, at))
    return TakeView(
        take=take,
        tag=controller.tag,
        model=model.name,
        readings=readings,
        failed=outcome.failed,
        values=_values(readings) if readings is not None else {},
        meaning=meaning,
        limits=against,
        pin=pin_of(readings, take.stick, table, grade)
        if readings is not None
        else Pin(take.stick, "unusable"),
        figures=figures_of(readings, table, grade) if readings is not None else {},
        where=where_of(readings) if readings is not None else {},
        trust=trust_in(db, model.id, take.source_kind, take.source_name, now),
        may_resume=may_resume(db, take),
        setup=setup_of(take.headers),
    )


def _values(readings: TakeReadings) -> dict[str, float]:
    values = {r.path: readings.value(r.path) for r in READINGS}
    return {path: value for path, value in values.items() if value is not None}


def compare_takes(
    db: Connection, before_id: int, after_id: int, grade: Grade, now: str, reference: bool = False
) -> ComparisonView:
    """Two takes side by side. Refused where one has no samples; the comparison itself may refuse.

    reference: the first is of the controller's good stick.
    """
    if before_id == after_id:
        raise Refused("A take cannot be compared with itself. Choose two.", "after")
    before, after = view_take(db, before_id, grade, now), view_take(db, after_id, grade, now)
    for view, field in ((before, "before"), (after, "after")):
        if view.readings is None:
            why = f"could not be measured: {view.failed}" if view.failed else "has no samples."
            raise Refused(f"Take {view.take.id} {why}", field)
    assert before.readings is not None
    assert after.readings is not None
    comparison = compare(
        before.readings,
        after.readings,
        setting_of(before.take, before.tag),
        setting_of(after.take, after.tag),
        grade,
        _limits_of(db, after.take),
        reference,
    )
    sentence = explain_comparison(comparison, after.readings, after.take.stick, reference)
    alike = not reference and comparison.overall != "refused"
    unseen = _not_seen_again(db, before, after) if alike else ""
    if alike:
        sentence = _by_way_of_another(db, before, after, comparison, grade) or sentence
    asks = after.meaning.asks if after.meaning else "nothing"
    coming = next_of("hand-over", None, "again" if unseen else asks)
    sentence = f"{sentence} {unseen}".rstrip()
    # The sentence tells the first refusal itself.
    remarks = (*comparison.refusals[1:], *comparison.cautions)
    return ComparisonView(
        before, after, sentence, remarks, comparison, deciding(comparison), coming
    )


def _not_seen_again(db: Connection, before: TakeView, after: TakeView) -> str:
    """What keeps a take that asks for nothing from being proof that it is mended, in a sentence. A
    controller that is referred is handed over as it is."""
    job = get_job(db, after.take.job_id)
    if after.readings is None or after.meaning is None:
        return ""
    if after.meaning.asks != "nothing" or job.controller.refer:
        return ""
    between = trusted_of(db, job, _between(db, before.take, after.take))
    earlier = [r for r in (before.readings, *between) if r is not None]
    limits = limits_with(job.controller.model.limits)
    return unseen_words(not_looked_at_again(earlier, after.readings, limits, "everyday"))


def _between(db: Connection, before: Take, after: Take) -> list[Take]:
    """The usable takes of a stick that were made between two of one job."""
    return [
        take
        for take in usable_takes(db, before.job_id, before.stick)
        if take.job_id == after.job_id and before.seq < take.seq < after.seq
    ]


def _by_way_of_another(
    db: Connection, before: TakeView, after: TakeView, direct: Comparison, grade: Grade
) -> str:
    """The sentence over two takes by the newest between them that measured everything that was over
    its limit and that the later one did not go through, and found it better: a short look at what was
    mended takes nothing of that back. Empty where there is none."""
    if not direct.not_again or before.readings is None or after.readings is None:
        return ""
    job, limits = get_job(db, after.take.job_id), _limits_of(db, after.take)
    was, now = setting_of(before.take, before.tag), setting_of(after.take, after.tag)
    for take in reversed(_between(db, before.take, after.take)):
        for readings in trusted_of(db, job, [take]):
            then = setting_of(take, after.tag)
            way = compare(before.readings, readings, was, then, grade, limits)
            if way.mends(direct.not_again):
                since = compare(readings, after.readings, then, now, grade, limits)
                by = f"take {take.id}, {take.stage}"
                return explain_by_way_of(way, by, since, after.readings, after.take.stick)
    return ""


def _limits_of(db: Connection, take: Take) -> Limits:
    return limits_with(get_job(db, take.job_id).controller.model.limits)


def envelope_of(
    db: Connection, take_id: int, from_s: float | None, to_s: float | None, buckets: int
) -> tuple[Floats, Floats, bool]:
    """A stretch of a take for the eye: seconds from its start (m,), % (m, k), and whether samples
    were left out; every extreme stays. Works while it is recorded."""
    take = get_take(db, take_id)
    start = first_time_us(db, take_id)
    if start is None:
        raise Refused(f"Take {take_id} has no samples.")
    since = None if from_s is None else start + round(from_s * 1e6)
    until = None if to_s is None else start + round(to_s * 1e6)
    recording = load_recording(db, take, since, until)
    if recording is None:
        raise Refused(f"Take {take_id} has no samples there.", "from_s")
    t_us, u = recording.t_us, as_read(db, take, recording).u
    first = 0 if since is None else int(t_us.searchsorted(since))
    last = len(t_us) if until is None else int(t_us.searchsorted(until, side="right"))
    if first >= last:
        raise Refused(f"Take {take_id} has no samples there.", "from_s")
    return envelope((t_us[first:last] - start) / 1e6, u[first:last], buckets)


def as_read(db: Connection, take: Take, recording: Recording) -> Recording:
    """A take's samples, by the calibration that its readings were made by, where that was learnt from
    it."""
    if all(r.calibration != "unknown" for r in take.ranges):
        return recording
    return replace(recording, ranges=ranges_read(take, readings_of(db, take)))


def ranges_read(take: Take, readings: TakeReadings | None) -> tuple[AxisRange, ...]:
    """The ranges of a take, with the calibration that was learnt from it where its own is not
    known."""
    calibration = readings.recording.calibration if readings else {}
    return tuple(
        replace(r, calibration=calibration.get(axis)) if r.calibration == "unknown" else r
        for axis, r in zip("xy", take.ranges, strict=False)
    )


def shown_recording(db: Connection, take_id: int) -> Recording:
    """A take's samples as its readings see them."""
    return as_read(db, get_take(db, take_id), export_recording(db, take_id))


def export_recording(db: Connection, take_id: int) -> Recording:
    """A take's samples with the header lines of its file."""
    take = get_take(db, take_id)
    recording = load_recording(db, take)
    if recording is None:
        raise Refused(f"Take {take_id} has no samples.")
    headers = recording.headers | {"stage": take.stage, "started": take.started_at}
    return replace(recording, headers=headers)
