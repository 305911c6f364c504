"""A stick while it is centred by hand, over one WebSocket: samples and commands in, what it reads out.

From the page: text {"do": "take" | "turn" | "steer" | "lost" | "finish", …}; for a gamepad or raw
reports, binary frames of samples. To the page: text {"type": "begun" | "now" | "ended" | "error" |
"refused", …}.
"""

from __future__ import annotations

import asyncio
import json
from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query, WebSocket
from pydantic import BaseModel, Field, TypeAdapter

from hollow_pin.api.context import ReadOnly, now
from hollow_pin.api.devices import open_source
from hollow_pin.api.live import Lost, Steer
from hollow_pin.api.refusing import MISSING, refuse
from hollow_pin.api.routes import api_routes
from hollow_pin.api.running import Running
from hollow_pin.api.watching import listen_to, say_last, until_either_ends
from hollow_pin.bench.centring import BegunCentring, CentringView, begin, keep, view_centring
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import get_job
from hollow_pin.core.recording import to_percent
from hollow_pin.core.sources import setup_of
from hollow_pin.simulator.trims import KINDS
from hollow_pin.sources.page import PageSource
from hollow_pin.sources.source import Source, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.centrings import KeptCentring, centrings_of
from hollow_pin.store.database import Database

router = APIRouter()
views = api_routes("centring")
TOLD_EVERY_S = 0.05
JobId = Annotated[int, Path(ge=1, le=2**53)]


class TakeIt(BaseModel):
    do: Literal["take"]


class Finish(BaseModel):
    do: Literal["finish"]


class Turn(BaseModel):
    """Of a stand-in: turn one of its trims by a share of its whole turn."""

    do: Literal["turn"]
    axis: Literal["x", "y"]
    by: float = Field(ge=-1, le=1)


Command = TakeIt | Finish | Turn | Steer | Lost
_COMMAND: TypeAdapter[Command] = TypeAdapter(Annotated[Command, Field(discriminator="do")])


@views.get("/jobs/{job_id}/centrings")
def get_centrings(job_id: JobId, db: ReadOnly) -> list[KeptCentring]:
    """Every centring of a job, the newest first."""
    return centrings_of(db, get_job(db, job_id).id)


@views.get("/jobs/{job_id}/centrings/{centring_id}")
def get_centring(
    job_id: JobId, centring_id: Annotated[int, Path(ge=1, le=2**53)], db: ReadOnly
) -> CentringView:
    """What was read while a stick was centred."""
    return view_centring(db, job_id, centring_id)


@router.websocket("/api/jobs/{job_id}/centring")
async def centre(
    socket: WebSocket,
    job_id: JobId,
    kind: Annotated[str, Query(max_length=60)],
    take_id: Annotated[int | None, Query(ge=1, le=2**53)] = None,
    pace: Literal["real", "fast"] = "real",
) -> None:
    """Watch a stick that is centred by hand. kind: the remedy by its code; take_id: the take by whose
    source it is watched, the newest live one of the job's stick if none is named."""
    running: Running = socket.app.state.running
    database: Database = socket.app.state.database
    await socket.accept()
    try:
        begun = await asyncio.to_thread(_begun, database, job_id, kind, take_id)
    except NotFound as wrong:
        await refuse(socket, str(wrong), MISSING)
        return
    except Refused as wrong:
        await refuse(socket, str(wrong))
        return
    refusal = running.claim(begun.take.id)
    if refusal is not None:
        await refuse(socket, refusal)
        return
    try:
        await _run(socket, database, begun, kind, pace == "real")
    finally:
        running.let_go(begun.take.id)


def _begun(database: Database, job_id: int, kind: str, take_id: int | None) -> BegunCentring:
    with database.reading() as db:
        return begin(db, job_id, kind, now(), take_id)


async def _run(
    socket: WebSocket, database: Database, begun: BegunCentring, kind: str, in_real_time: bool
) -> None:
    because = ""
    trims = None
    try:
        source = await asyncio.to_thread(
            open_source, database, begun.take, in_real_time, False, KINDS.get(kind)
        )
        take = begun.take
        begun_message = {
            "type": "begun",
            "take_id": take.id,
            "stick": take.stick,
            "source_kind": take.source_kind,
            "source_name": take.source_name,
            "setup": asdict(setup_of(take.headers)),
            "axes": len(take.ranges),
        }
        await socket.send_text(json.dumps(begun_message))
        because, _ = await until_either_ends(
            _watch(socket, begun, source),
            listen_to(socket, source, _COMMAND, lambda command: _obey(command, begun, source)),
        )
        trims = source.trims if isinstance(source, StandInSource) else None
    except SourceLost as lost:
        because = f"{lost}."
    result = begun.centring.result()
    stored = await asyncio.shield(
        asyncio.to_thread(keep, database, begun, kind, result, trims, now())
    )
    await say_last(socket, centring_id=stored, because=because)


async def _watch(socket: WebSocket, begun: BegunCentring, source: Source) -> None:
    """Follow the samples and tell what they say, until the source is lost."""
    centring, sent_at_s, last_sent = begun.centring, -1.0, None
    async for block in source.blocks():
        u = to_percent(block.raw, begun.take.ranges)
        seconds = block.t_us / 1e6
        centring.feed(seconds, u)
        at = centring.now()
        state = (at.state, at.says, at.returns)
        if state != last_sent or float(seconds[-1]) - sent_at_s >= TOLD_EVERY_S:
            last_sent, sent_at_s = state, float(seconds[-1])
            await socket.send_text(json.dumps({"type": "now", **asdict(at)}))


def _obey(command: Command, begun: BegunCentring, source: Source) -> bool:
    """Whether it is finished."""
    match command:
        case Finish():
            return True
        case TakeIt():
            begun.centring.take()
        case Turn() if isinstance(source, StandInSource):
            source.turn("xy".index(command.axis), command.by)
        case Steer() if isinstance(source, StandInSource):
            x, y = command.x, command.y
            source.steer((x, y) if x is not None and y is not None else None)
        case Lost() if isinstance(source, PageSource):
            source.lose("the controller was disconnected")
    return False
