"""Controllers of the Gannet Sound Sea Centre, each with what happened to it.

Nothing here is a reading: every take is a stand-in performed by a hand, recorded by a session,
measured by the core.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from datetime import datetime, timedelta

from hollow_pin.bench.deciding import decide, view_decide
from hollow_pin.bench.function_checks import (
    FunctionCheckView,
    answer,
    begin,
    end,
    touch,
    view_check,
)
from hollow_pin.bench.intake import Arrival, take_in
from hollow_pin.bench.jobs import close, log_work
from hollow_pin.bench.ledger import wait_for, write
from hollow_pin.bench.photos import keep_photo
from hollow_pin.bench.studies import open_study
from hollow_pin.bench.takes import (
    finish_take,
    open_job,
    stand_in_for,
    stand_in_ranges,
    start_take,
    tracker_for,
)
from hollow_pin.capture.session import Session
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.function_check import Item, ItemState
from hollow_pin.core.record import Conditions, JobDetails, TakePlan, WorkPlan
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.routine import BY_ID, usual_routine
from hollow_pin.core.work_fields import Value
from hollow_pin.demo.pictures import photograph
from hollow_pin.demo.shelf import stock
from hollow_pin.demo.stories import (
    CHECKED,
    ROLES,
    STORIES,
    Checked,
    Closed,
    Decided,
    Noted,
    Opened,
    Photographed,
    Shut,
    Taken,
    Waits,
    Worked,
)
from hollow_pin.demo.teardowns import draw_sheets, open_up, shut_again
from hollow_pin.sources.source import Block, Source, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.database import Database
from hollow_pin.store.function_checks import keep_contacts
from hollow_pin.store.studies import StudyPlan, StudyStick


class _Unplugged:
    """A stand-in whose cable comes out."""

    def __init__(self, source: StandInSource, after_s: float) -> None:
        self._source = source
        self._after_us = after_s * 1e6
        self.cue = source.cue
        self.notes = source.notes

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return self._source.ranges

    async def blocks(self) -> AsyncIterator[Block]:
        async for block in self._source.blocks():
            if block.t_us[-1] > self._after_us:
                raise SourceLost("the controller was disconnected")
            yield block


def build(database: Database, now: datetime) -> int:
    """Fill an empty bench, oldest visit first. Returns how many takes were run."""
    return asyncio.run(_build(database, now))


async def _build(database: Database, now: datetime) -> int:
    takes = 0
    jobs: dict[str, int] = {}
    draw_sheets(database, _text(now - timedelta(days=40)), ROLES[0])
    for story in STORIES:
        clock = now - timedelta(hours=story.hours_ago)
        details = JobDetails(story.stick, story.complaint, story.moves, story.intake)
        job = take_in(database, Arrival(story.tag, story.model, details), _text(clock), ROLES[0])
        jobs[story.tag] = job.id
        for event in story.events:
            clock += timedelta(minutes=4)
            match event:
                case Taken():
                    await run_take(database, job.id, event, _text(clock))
                    takes += 1
                case Worked():
                    clock += timedelta(minutes=11)
                    codes = tuple(c.code for c in cautions_for(event.kind))
                    plan = WorkPlan(
                        story.stick,
                        event.kind,
                        module=event.module,
                        lot=event.lot,
                        note=event.note,
                        cautions=codes,
                        details=event.details | _again(event, clock),
                        wait_minutes=event.wait_minutes,
                    )
                    log_work(database, job.id, plan, _text(clock), ROLES[0])
                case Opened():
                    open_up(database, job.id, _text(clock), ROLES[0], event.photographed)
                case Shut():
                    shut_again(database, job.id, event.because, _text(clock), ROLES[0])
                case Decided():
                    with database.reading() as db:
                        view = view_decide(db, job.id)
                    assert view.take is not None
                    reason = event.reason if event.chosen != view.advised else ""
                    decide(
                        database,
                        job.id,
                        view.take.id,
                        event.chosen,
                        reason,
                        _text(clock),
                        ROLES[0],
                    )
                case Noted():
                    write(database, job.id, "note", event.text, _text(clock), ROLES[0])
                case Checked():
                    check_functions(database, job.id, event, _text(clock))
                case Photographed():
                    photo = photograph(event.subject, job.id)
                    keep_photo(database, job.id, photo, event.caption, _text(clock), ROLES[0])
                case Waits():
                    wait_for(database, job.id, event.waiting, event.text, _text(clock), ROLES[0])
                case Closed():
                    close(database, job.id, event.ended, event.outcome, _text(clock), ROLES[0])
    stock(database, now, jobs, ROLES[0])
    return takes + await _check_the_bench(database, now, jobs)


def _again(event: Worked, clock: datetime) -> dict[str, Value]:
    if event.recheck_days is None:
        return {}
    return {"recheck_on": (clock + timedelta(days=event.recheck_days)).date().isoformat()}


def check_functions(database: Database, job_id: int, checked: Checked, at: str) -> None:
    """Every button of the stand-in pressed, every trigger pulled, every item looked at."""
    with database.writing() as db:
        controller = open_job(db, job_id).controller
        if checked.contacts is not None:
            keep_contacts(db, controller.id, checked.contacts.to_dict())
    begun = begin(database, job_id, checked.kind, None, at)
    for index in range(begun.buttons):
        touch(database, begun.id, "button", index)
    for axis in begun.triggers:
        touch(database, begun.id, "axis", axis)
    for item in view_of(database, begun.id).found.items:
        state: ItemState = "faulty" if item.name in checked.faulty else "works"
        answer(database, begun.id, Item(item.name, state))
    end(database, begun.id, None, at, ROLES[0])


def view_of(database: Database, check_id: int) -> FunctionCheckView:
    with database.reading() as db:
        return view_check(db, check_id)


async def run_take(
    database: Database, job_id: int, take_plan: Taken, at: str, study_id: int | None = None
) -> int:
    """One take on the stand-in, as fast as it will go; the take's id."""
    with database.reading() as db:
        model = open_job(db, job_id).controller.model
    stick = model.stick(take_plan.stick)
    assert stick is not None
    usual = usual_routine(stick.axes, stick.sprung)
    plan = TakePlan(
        take_plan.stick,
        "stand-in",
        "Stand-in",
        stand_in_ranges(model, stick),
        BY_ID[take_plan.routine] if take_plan.routine else usual,
        Conditions(take_plan.calibration, "cable", take_plan.shell, take_plan.role),
        study_id=study_id,
    )
    take = start_take(database, job_id, plan, at)
    source = StandInSource(stand_in_for(database, take, take_plan.condition), in_real_time=False)
    tracker = tracker_for(database, take, None)
    blocks_from: Source = (
        _Unplugged(source, take_plan.lost_after_s) if take_plan.lost_after_s else source
    )
    session = Session(database, take.id, blocks_from, tracker)
    session.nobody_watches()
    ending = await session.run()
    finish_take(database, take.id, ending.state, ending.because, at)
    return take.id


async def _check_the_bench(database: Database, now: datetime, jobs: dict[str, int]) -> int:
    """Two roles measure two sound sticks three times each, with nothing done in between."""
    clock = now - timedelta(days=9)
    sticks = tuple(StudyStick(jobs[tag], stick) for tag, stick in CHECKED)
    plan = StudyPlan("stand-in", "Stand-in", ROLES, sticks, 3, BY_ID["quick"])
    study = open_study(database, plan, _text(clock))
    takes = 0
    for _ in range(study.trials):
        for s in sticks:
            for role in ROLES:
                clock += timedelta(minutes=2)
                take_plan = Taken(s.stick, routine="quick", role=role)
                await run_take(database, s.job_id, take_plan, _text(clock), study.id)
                takes += 1
    return takes


def _text(at: datetime) -> str:
    return at.isoformat(timespec="milliseconds")
