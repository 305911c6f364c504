"""Jobs and takes that tests begin on a bench of their own."""

from __future__ import annotations

import tempfile
from functools import cache
from pathlib import Path

from hollow_pin.bench.intake import Arrival, take_in
from hollow_pin.bench.takes import start_take
from hollow_pin.core.record import Conditions, Job, JobDetails, Take, TakePlan
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.routine import BY_ID
from hollow_pin.store.database import FILE_NAME, Database

AT = "2026-03-01T10:00:00.000+00:00"


def taken_in(
    database: Database,
    tag: str = "GS-017",
    model: str | None = "plover",
    stick: str = "left",
    complaint: str = "",
    at: str = AT,
    **told: object,
) -> Job:
    """A controller, taken in. Unless said otherwise it moves nobody."""
    answers = {"moves": "no"} | told
    return take_in(database, Arrival(tag, model, JobDetails(stick, complaint, **answers)), at)  # type: ignore[arg-type]


def plan(
    stick: str = "left", routine: str = "quick", axes: int = 2, role: str = "", **more: object
) -> TakePlan:
    """What a take on the stand-in is begun with."""
    ranges = (AxisRange(0, 1023),) * axes
    had = Conditions(role=role)
    return TakePlan(stick, "stand-in", "Stand-in", ranges, BY_ID[routine], had, **more)  # type: ignore[arg-type]


def begun(database: Database, job: Job, at: str = AT, routine: str = "quick") -> Take:
    """A take of a job's stick, begun and nothing more."""
    return start_take(database, job.id, plan(job.stick, routine), at)


@cache
def _empty() -> bytes:
    """What the migrations make of nothing."""
    with tempfile.TemporaryDirectory() as folder:
        Database(Path(folder)).close()
        return (Path(folder) / FILE_NAME).read_bytes()


def lay_out(folder: Path) -> None:
    """An empty bench in a folder that has none: as a first start leaves it, in a tenth of the time."""
    if not (folder / FILE_NAME).exists():
        folder.mkdir(parents=True, exist_ok=True)
        (folder / FILE_NAME).write_bytes(_empty())


def new_database(folder: Path) -> Database:
    """An empty bench."""
    lay_out(folder)
    return Database(folder)


def new_bench(folder: Path, tag: str = "GS-017") -> tuple[Database, Job]:
    """A bench with one Plover on it."""
    database = new_database(folder)
    return database, taken_in(database, tag)
