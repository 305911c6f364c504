"""A source that is tried out, over one WebSocket: samples and commands in, what is still to do out.

From the page: first text {"do": "begin", "stick": …, "source": …, "there": […]}, then {"do": "finish"
| "steer" | "lost", …}; for a gamepad or raw reports, binary frames of samples. To the page: text
{"type": "begun" | "now" | "ended" | "error" | "refused", …}.
"""

from __future__ import annotations

import asyncio
import json
from dataclasses import asdict, dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Path, WebSocket
from pydantic import BaseModel, Field, TypeAdapter

from hollow_pin.api.context import ReadOnly, now
from hollow_pin.api.devices import SourceDescription, describe_source
from hollow_pin.api.live import Lost, Steer
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import AnySource, Line, StandInSpec
from hollow_pin.api.watching import claimed, listen_to, say_last, until_either_ends
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.source_checks import checks_of_model, keep_check
from hollow_pin.bench.takes import open_job, require_stick, simulated_stick
from hollow_pin.core.source_watch import SourceWatch
from hollow_pin.core.sources import SourceKind
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.sources.hidraw import list_raw_devices
from hollow_pin.sources.page import PageSource
from hollow_pin.sources.registry import open_real
from hollow_pin.sources.source import Source
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.database import Database
from hollow_pin.store.source_checks import KeptSourceCheck

router = APIRouter()
views = api_routes("sources")
TOLD_EVERY_S = 0.1
JobId = Annotated[int, Path(ge=1, le=2**53)]


class BeginCheck(BaseModel):
    """there: other kinds of source that the page could read the same controller by."""

    do: Literal["begin"]
    stick: Line
    source: AnySource = Field(discriminator="kind")
    there: list[SourceKind] = Field(default=[], max_length=8)


class Finish(BaseModel):
    do: Literal["finish"]


Command = Finish | Steer | Lost
_COMMAND: TypeAdapter[Command] = TypeAdapter(Annotated[Command, Field(discriminator="do")])


@views.get("/models/{model_id}/source-checks")
def list_source_checks(model_id: Line, db: ReadOnly) -> list[KeptSourceCheck]:
    """What the sources that a model is measured by were found to be like, the newest first."""
    return checks_of_model(db, model_id)


@dataclass(frozen=True)
class _SourceTrial:
    """A source that is tried out, with what is needed to keep what is found."""

    model_id: str
    stick: str
    kind: SourceKind
    there: tuple[SourceKind, ...]
    described: SourceDescription
    source: Source


@router.websocket("/api/jobs/{job_id}/source-check")
async def try_source(
    socket: WebSocket, job_id: JobId, pace: Literal["real", "fast"] = "real"
) -> None:
    """Try a source out with a stick of a job's controller. Nothing of it becomes a take."""
    database: Database = socket.app.state.database
    what, in_use = f"source check of job {job_id}", "A source is being tried out in another window."
    async with claimed(socket, what, in_use) as request:
        if request is not None:
            begin = BeginCheck.model_validate_json(request)
            trial = await asyncio.to_thread(_open_trial, database, job_id, begin, pace == "real")
            await _run(socket, database, trial)


def _open_trial(
    database: Database, job_id: int, begin: BeginCheck, in_real_time: bool
) -> _SourceTrial:
    with database.reading() as db:
        controller = open_job(db, job_id).controller
        own = require_stick(controller, begin.stick)
    described = describe_source(database, controller.model, own, begin.source)
    kind = begin.source.kind
    source: Source
    if isinstance(begin.source, StandInSpec):
        with database.writing() as db:
            stick = simulated_stick(db, controller, begin.stick, begin.source.condition)
        source = StandInSource(StandIn(stick, seed=job_id * 7919 + 17), in_real_time)
        source.cue("sweep")
    else:
        source = open_real(kind, described.setup, described.ranges)
    there = set(begin.there)
    if kind in ("gamepad", "hid", "event-device") and list_raw_devices().found:
        there.add("hidraw")
    return _SourceTrial(
        controller.model.id, begin.stick, kind, tuple(sorted(there)), described, source
    )


async def _run(socket: WebSocket, database: Database, trial: _SourceTrial) -> None:
    watch, source = (
        SourceWatch(trial.described.ranges, trial.described.setup.headers()),
        trial.source,
    )
    begun = {
        "type": "begun",
        "source_kind": trial.kind,
        "source_name": trial.described.name,
        "setup": asdict(trial.described.setup),
    }
    await socket.send_text(json.dumps(begun))
    because, gone = await until_either_ends(
        _watch(socket, watch, source),
        listen_to(socket, source, _COMMAND, lambda command: _obey(command, source)),
    )
    if gone:
        return
    stored = None
    try:
        stored = await asyncio.to_thread(
            keep_check,
            database,
            watch,
            trial.model_id,
            trial.stick,
            trial.kind,
            trial.described.name,
            trial.there,
            now(),
        )
    except Refused as refused:
        because = because or str(refused)
    await say_last(socket, because=because, kept=stored is not None)


async def _watch(socket: WebSocket, watch: SourceWatch, source: Source) -> None:
    """Follow the samples until enough was seen."""
    sent_at_s = 0.0
    async for block in source.blocks():
        if not len(block.t_us):
            continue
        watch.feed(block.t_us, block.raw)
        at = float(block.t_us[-1]) / 1e6
        if at - sent_at_s < TOLD_EVERY_S:
            continue
        sent_at_s = at
        progress = await asyncio.to_thread(watch.now)
        await socket.send_text(json.dumps({"type": "now", **asdict(progress)}))
        if progress.enough:
            return


def _obey(command: Command, source: Source) -> bool:
    """Whether it is enough."""
    match command:
        case Finish():
            return True
        case Steer() if isinstance(source, StandInSource):
            x, y = command.x, command.y
            source.steer((x, y) if x is not None and y is not None else None)
        case Lost() if isinstance(source, PageSource):
            source.lose("the controller was disconnected")
    return False
