"""Controllers of the Gannet Sound Sea Centre, each with what happened to it.

Nothing here is a reading: every take is a stand-in performed by a hand, recorded by a session,
measured by the core.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from hollow_pin.bench.jobs import add_note, close, log_work, take_in
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
from hollow_pin.core.job import ModuleKind, WorkKind
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.routine import BY_ID, usual_routine
from hollow_pin.sources.source import Block, Source, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.database import Database
from hollow_pin.store.studies import StudyPlan, StudyStick
from hollow_pin.store.takes import Calibration, Conditions, Shell, TakePlan


@dataclass(frozen=True)
class Taken:
    """A take of a stick. condition: what is wrong with it, at its first take. lost_after_s: when
    the cable comes out. routine: the one that fits, if not named."""

    stick: str
    condition: str | None = None
    lost_after_s: float | None = None
    routine: str | None = None
    role: str = "morning bench"
    shell: Shell = "closed"
    calibration: Calibration = "factory"


@dataclass(frozen=True)
class Worked:
    kind: WorkKind
    module: ModuleKind | None = None
    lot: str = ""
    note: str = ""


@dataclass(frozen=True)
class Noted:
    text: str


@dataclass(frozen=True)
class Closed:
    outcome: str


Event = Taken | Worked | Noted | Closed


@dataclass(frozen=True)
class Story:
    """A controller's visit: hours ago it came, and what happened since, in order."""

    tag: str
    model: str
    stick: str
    complaint: str
    hours_ago: float
    events: tuple[Event, ...]


ROLES = ("morning bench", "evening bench")
CHECKED = (("GS-061", "left"), ("GS-061", "right"))
"""The sticks that the bench check is made with."""

STORIES: tuple[Story, ...] = (
    Story(
        "GS-061",
        "plover",
        "left",
        "Kept on the bench to check it by.",
        24 * 10,
        (Taken("left", "sound", routine="quick"), Taken("right", "sound", routine="quick")),
    ),
    Story(
        "GS-070",
        "turnstone",
        "paddle",
        "Quiz table one: the pointer shivers at one place.",
        26,
        (Taken("paddle", "dirty"),),
    ),
    Story(
        "GS-047",
        "plover",
        "right",
        "Full ahead, and it slows down by itself.",
        6,
        (Taken("right", "failing"), Taken("left", "sound", routine="quick")),
    ),
    Story(
        "GS-035",
        "plover",
        "left",
        "Somebody said it is fixed now. It was worn before.",
        2,
        (Taken("left", "dead-zone"),),
    ),
    Story(
        "GS-023",
        "plover",
        "right",
        "Fine when it was put away. Now the rover turns by itself now and then.",
        76,
        (
            Taken("right", "sound"),
            Taken("left", "sound", routine="quick"),
            Noted("The same on both sticks, and on two cables. Nothing found."),
            Closed("Nothing wrong found; returned to the rover tank."),
        ),
    ),
    Story(
        "GS-017",
        "plover",
        "left",
        "Jumps sideways for an instant, worse after the long weekend.",
        52,
        (
            Taken("left", "dirty"),
            Taken("right", "sound", routine="quick"),
            Worked("cleaned", note="Three swabs until clean; dried ten minutes."),
            Taken("left"),
            Closed("Cleaned; the spikes are gone. Look again in a month."),
        ),
    ),
    Story(
        "GS-044",
        "plover",
        "right",
        "Runs on after you let go. The left one is fine.",
        30,
        (
            Taken("right", "worn"),
            Taken("left", "sound", routine="quick"),
            Worked("replaced", "hall", "LL-H0", "Ledge & Lagoon, first of five."),
            Taken("right"),
        ),
    ),
    Story(
        "GS-031",
        "plover",
        "left",
        "Creeps up on its own when you let go.",
        27,
        (
            Taken("left", "offset"),
            Taken("right", "sound", routine="quick"),
            Worked("recalibrated"),
            Taken("left", calibration="recalibrated"),
        ),
    ),
    Story(
        "GS-029",
        "dunlin",
        "stick",
        "Always pulls to one side, since somebody calibrated it.",
        25,
        (
            Taken("stick", "offset"),
            Worked("recalibrated", note="Accepted at the second try."),
        ),
    ),
    Story(
        "GS-058",
        "skua",
        "stick",
        "Quiz table three. Points at the same corner since it fell.",
        7,
        (Taken("stick", "offset"),),
    ),
    Story(
        "GS-052",
        "plover",
        "right",
        "The cable works loose.",
        5,
        (Taken("right", "offset", lost_after_s=31.0),),
    ),
    Story(
        "GS-038",
        "plover",
        "left",
        "Drifts left, a flick clears it for a while.",
        4,
        (Taken("left", "worn"), Taken("right", "sound", routine="quick")),
    ),
    Story(
        "GS-008",
        "dunlin",
        "stick",
        "Walks off by itself, somewhere else every time. Was sprayed twice.",
        3,
        (
            Taken("stick", "worn"),
            Worked("cleaned", note="Sprayed before it came in; wiped it properly."),
            Taken("stick"),
            Noted("Cleaning did nothing that can be seen. It is wear."),
            Worked("replaced", "hall", "LL-H1", "Brackish Components had none; Ledge & Lagoon."),
            Taken("stick"),
        ),
    ),
    Story("GS-012", "plover", "left", "Sticks at the top, says the morning shift.", 0.3, ()),
)


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
    for story in STORIES:
        clock = now - timedelta(hours=story.hours_ago)
        job = take_in(database, story.tag, story.model, story.stick, story.complaint, _text(clock))
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
                    log_work(
                        database,
                        job.id,
                        event.kind,
                        event.module,
                        event.lot,
                        event.note,
                        codes,
                        _text(clock),
                    )
                case Noted():
                    add_note(database, job.id, event.text, _text(clock))
                case Closed():
                    close(database, job.id, event.outcome, _text(clock))
    return takes + await _check_the_bench(database, now, jobs)


async def run_take(
    database: Database, job_id: int, taken: Taken, at: str, study_id: int | None = None
) -> int:
    """One take on the stand-in, as fast as it will go; the take's id."""
    with database.reading() as db:
        model = open_job(db, job_id).controller.model
    stick = model.stick(taken.stick)
    assert stick is not None
    usual = usual_routine(stick.axes, stick.sprung)
    plan = TakePlan(
        taken.stick,
        "stand-in",
        "Stand-in",
        stand_in_ranges(model, stick),
        BY_ID[taken.routine] if taken.routine else usual,
        Conditions(taken.calibration, "cable", taken.shell, taken.role),
        study_id=study_id,
    )
    take = start_take(database, job_id, plan, at)
    source = StandInSource(stand_in_for(database, take, taken.condition), in_real_time=False)
    tracker = tracker_for(database, take, None)
    held: Source = _Unplugged(source, taken.lost_after_s) if taken.lost_after_s else source
    session = Session(database, take.id, held, tracker)
    session.nobody_watches()
    ended = await session.run()
    finish_take(database, take.id, ended.state, ended.because, at)
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
                taken = Taken(s.stick, routine="quick", role=role)
                await run_take(database, s.job_id, taken, _text(clock), study.id)
                takes += 1
    return takes


def _text(at: datetime) -> str:
    return at.isoformat(timespec="milliseconds")
