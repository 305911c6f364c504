"""Sheets by which models are opened, and shells that are opened and shut by them."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Query
from pydantic import Field

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Line, Request, Text
from hollow_pin.bench import ledger
from hollow_pin.bench import openings as bench
from hollow_pin.core.teardown import (
    MOST_MARKS,
    MOST_STEPS,
    Battery,
    Fastener,
    FastenerMark,
    SheetStep,
    StepKind,
    Teardown,
    Way,
)
from hollow_pin.store.ledger import LedgerEntry
from hollow_pin.store.openings import KeptTeardown, Opening, SheetVersion

router = api_routes("openings")
Id = Annotated[int, Path(ge=1, le=2**53)]
Short = Annotated[str, Field(max_length=120, pattern=r"^[^\x00]*$")]


class MarkBody(Request):
    x: Annotated[float, Field(ge=0, le=100)]
    y: Annotated[float, Field(ge=0, le=64)]
    length_mm: Annotated[float, Field(ge=0.5, le=200)] | None = None


class StepBody(Request):
    id: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[\w-]+$")]
    kind: StepKind
    words: Text
    driver: Short = ""
    marks: list[MarkBody] = Field(default=[], max_length=MOST_MARKS)
    minutes: Annotated[float, Field(ge=0, le=600)] = 0
    warning: Text = ""
    back: Text = ""
    photo: Annotated[str, Field(pattern=r"^([0-9a-f]{64})?$")] = ""

    def step(self) -> SheetStep:
        marks = tuple(FastenerMark(m.x, m.y, m.length_mm) for m in self.marks)
        words, back = self.words.strip(), self.back.strip()
        warning, driver = self.warning.strip(), self.driver.strip()
        return SheetStep(
            self.id, self.kind, words, driver, marks, self.minutes, warning, back, self.photo
        )


class TeardownBody(Request):
    """revision: of the sheet it was made from; 0 where there was none."""

    battery: Battery = "disconnect"
    battery_why: Text = ""
    first: Text = ""
    steps: list[StepBody] = Field(default=[], max_length=MOST_STEPS)
    revision: Annotated[int, Field(ge=0, le=2**53)]

    def sheet(self) -> Teardown:
        steps = tuple(s.step() for s in self.steps)
        return Teardown(self.battery, self.battery_why.strip(), self.first.strip(), steps)


class BeginBody(Request):
    cautions: list[Line] = Field(default=[], max_length=50, description="Cautions read, by code.")


class TickBody(Request):
    way: Way
    step: Line
    note: Text = ""


class ShutBody(Request):
    """lying: how many fasteners of each letter lie on the mat. because: why it is shut all the
    same."""

    lying: dict[Annotated[str, Field(max_length=4)], Annotated[int, Field(ge=0, le=200)]] = Field(
        default={}, max_length=60
    )
    because: Text = ""


class PlayedBody(Request):
    words: Text


@router.get("/models/{model_id}/teardown")
def get_sheet(
    model_id: Line, db: ReadOnly, revision: Annotated[int | None, Query(ge=1, le=2**53)] = None
) -> KeptTeardown:
    """How a model is opened; an empty sheet where the shop has made none yet. revision: an earlier
    version of it."""
    return bench.view_sheet(db, model_id, revision)


@router.get("/models/{model_id}/teardown/versions")
def get_versions(model_id: Line, db: ReadOnly) -> list[SheetVersion]:
    """Every version of the sheet, the newest first."""
    return bench.versions_of(db, model_id)


@router.put("/models/{model_id}/teardown")
def put_sheet(model_id: Line, body: TeardownBody, database: Data, role: Role) -> KeptTeardown:
    """Keep a new version of a model's sheet."""
    return bench.keep_sheet(database, model_id, body.sheet(), body.revision, now(), role)


@router.post("/teardown-fasteners")
def get_fasteners(body: TeardownBody) -> list[Fastener]:
    """Letters and shapes of the fasteners of a sheet as it is drawn; nothing is kept."""
    return list(bench.fasteners_drawn(body.sheet()))


@router.get("/jobs/{job_id}/opening")
def get_opening(job_id: Id, db: ReadOnly) -> bench.OpeningView:
    """How far the shell is opened, or shut again."""
    return bench.view_opening(db, job_id, now())


@router.post("/jobs/{job_id}/opening", status_code=201)
def begin_opening(job_id: Id, body: BeginBody, database: Data, role: Role) -> Opening:
    """Begin to open the shell, by the model's sheet as it stands."""
    return bench.begin_opening(database, job_id, tuple(body.cautions), now(), role)


@router.post("/jobs/{job_id}/opening/ticks", status_code=204)
def tick_off(job_id: Id, body: TickBody, database: Data, role: Role) -> None:
    """Tick a step off, on the way out, on the way back, or at the end."""
    bench.tick_off(database, job_id, body.way, body.step, body.note, now(), role)


@router.delete("/jobs/{job_id}/opening/ticks/last", status_code=204)
def untick(job_id: Id, database: Data) -> None:
    """Take back what was ticked off last."""
    bench.untick(database, job_id, now())


@router.post("/jobs/{job_id}/opening/steps", status_code=204)
def learn_step(job_id: Id, body: StepBody, database: Data, role: Role) -> None:
    """Put a step down that the sheet had not, and tick it off."""
    bench.learn_step(database, job_id, body.step(), now(), role)


@router.post("/jobs/{job_id}/opening/keep", status_code=201)
def keep_learnt(job_id: Id, database: Data, role: Role) -> KeptTeardown:
    """Make the sheet of this opening the model's newest one."""
    return bench.keep_learnt(database, job_id, now(), role)


@router.post("/jobs/{job_id}/opening/shut")
def shut(job_id: Id, body: ShutBody, database: Data, role: Role) -> Opening:
    """Call the shell shut. Refused with everything that stands against it, unless somebody says why it
    is shut all the same."""
    return bench.shut(database, job_id, body.lying, body.because, now(), role)


@router.post("/jobs/{job_id}/play-test", status_code=201)
def play_test(job_id: Id, body: PlayedBody, database: Data, role: Role) -> LedgerEntry:
    """What a second person says who played it: another bench role than those that worked on it."""
    return ledger.play_test(database, job_id, body.words, now(), role)


@router.get("/reopened")
def get_reopened(db: ReadOnly) -> bench.ReopenedShare:
    """How many shells had to be opened again, with the open-shell check and without it."""
    return bench.reopened_share(db)
