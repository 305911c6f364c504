"""Lots that are looked at before they are used; and a module on the jig, over one WebSocket.

From the page: first text {"port": …}, then {"do": "accept" | "stop"}. To the page: text {"type":
"now" | "ended" | "error" | "refused", …}.
"""

from __future__ import annotations

import asyncio
import json
from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, Path, WebSocket
from pydantic import BaseModel, Field, TypeAdapter

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Key, Line, Request, Text
from hollow_pin.api.watching import claimed, listen_to, say_last, until_either_ends
from hollow_pin.bench import inspections as bench
from hollow_pin.bench.refusal import Refused
from hollow_pin.capture.routine_follower import RoutineFollower
from hollow_pin.core.inspection import ENDINGS, MARKS, Ending, EndingWords, OnJig
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.routine import jig_routine
from hollow_pin.core.sampling import AQLS
from hollow_pin.sources.serial_logger import SerialSource, list_serial_ports, probe
from hollow_pin.store.database import Database
from hollow_pin.store.inspections import Inspection

router = APIRouter()
views = api_routes("inspections")
Id = Annotated[int, Path(ge=1, le=2**53)]
TWELVE_BIT = AxisRange(0, 4095)
"""What a jig reports in that says nothing of its own."""
TOLD_EVERY_S = 0.05
LONGEST_S = 300.0


class NewInspection(Request):
    """aql: bad ones in a hundred; null where the whole lot is looked at."""

    lot: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^\x00]*$")]
    lot_size: Annotated[int, Field(ge=1, le=bench.LARGEST_LOT)]
    aql: float | None = None


class FindingsBody(Request):
    """ohms: of each track, from end to end. marks: of use, by code. jig_id: what it read on the
    jig."""

    ohms: list[Annotated[float, Field(gt=0, le=1e9)]] = Field(default=[], max_length=4)
    marks: list[Line] = Field(default=[], max_length=20)
    jig_id: Key | None = None
    note: Text = ""


class LotDecision(Request):
    ending: Ending
    reason: Text = ""


class InspectionInfo(BaseModel):
    """What can be chosen, what is looked for, and what can become of a lot."""

    aqls: tuple[float, ...]
    marks: dict[str, str]
    endings: dict[Ending, EndingWords]


@views.get("/inspection-info")
def get_info() -> InspectionInfo:
    """Acceptance quality limits, marks of use, and how an inspection can end."""
    return InspectionInfo(aqls=AQLS, marks=dict(MARKS), endings=ENDINGS)


@views.get("/parts/{part_id}/inspections")
def get_inspections(part_id: Id, db: ReadOnly) -> list[Inspection]:
    """Lots of a part that were looked at, the newest first."""
    return bench.inspections_of_part(db, part_id)


@views.post("/parts/{part_id}/inspections", status_code=201)
def begin_inspection(part_id: Id, body: NewInspection, database: Data, role: Role) -> Inspection:
    """Begin to look at a lot."""
    return bench.begin_inspection(database, part_id, body.lot, body.lot_size, body.aql, now(), role)


@views.get("/inspections/{inspection_id}")
def get_inspection(inspection_id: Id, db: ReadOnly) -> bench.InspectionView:
    """A lot as far as it was looked at."""
    return bench.view_inspection(db, inspection_id)


@views.get("/inspections/{inspection_id}/jig/{reading_id}")
def get_on_jig(inspection_id: Id, reading_id: Id, db: ReadOnly) -> OnJig:
    """What a module read on the jig."""
    return bench.on_jig(db, inspection_id, reading_id)


@views.post("/inspections/{inspection_id}/looked", status_code=201)
def look_at(
    inspection_id: Id, body: FindingsBody, database: Data, db: ReadOnly, role: Role
) -> bench.InspectionView:
    """Record what was seen of one."""
    bench.look_at(
        database,
        inspection_id,
        tuple(body.ohms),
        tuple(body.marks),
        body.jig_id,
        body.note,
        now(),
        role,
    )
    return bench.view_inspection(db, inspection_id)


@views.delete("/inspections/{inspection_id}/looked/last", status_code=204)
def take_back_last(inspection_id: Id, database: Data) -> None:
    """Take back what was put down last."""
    bench.take_back_last(database, inspection_id, now())


@views.post("/inspections/{inspection_id}/end")
def decide_on_lot(
    inspection_id: Id, body: LotDecision, database: Data, role: Role
) -> bench.InspectionView:
    """Accept a lot, set it aside or send it back."""
    return bench.decide_on_lot(database, inspection_id, body.ending, body.reason, now(), role)


@views.post("/inspections/{inspection_id}/reopen")
def take_up_again(inspection_id: Id, database: Data) -> Inspection:
    """It had not ended after all."""
    return bench.take_up_again(database, inspection_id)


class JigPort(BaseModel):
    port: Line


class JigSays(BaseModel):
    do: Literal["accept", "stop"]


_SAYS = TypeAdapter(JigSays)


@router.websocket("/api/inspections/{inspection_id}/jig")
async def on_jig(socket: WebSocket, inspection_id: Id) -> None:
    """Lead a module on the jig through what is asked of a bare one, and keep what it reads."""
    database: Database = socket.app.state.database
    what, in_use = f"jig of inspection {inspection_id}", "The jig is used in another window."
    async with claimed(socket, what, in_use) as request:
        if request is not None:
            port = JigPort.model_validate_json(request).port
            source = await asyncio.to_thread(_open_jig, database, inspection_id, port)
            await _run(socket, database, inspection_id, source)


def _open_jig(database: Database, inspection_id: int, port: str) -> SerialSource:
    with database.reading() as db:
        bench.get_inspection(db, inspection_id)
    if port not in {p.path for p in list_serial_ports(database.ports)}:
        raise Refused(f"There is no port {port}. Is the jig plugged in?", "port")
    probed = probe(port)
    return SerialSource(port, probed.ranges_or(TWELVE_BIT), probed.y_down)


async def _run(
    socket: WebSocket, database: Database, inspection_id: int, source: SerialSource
) -> None:
    led = RoutineFollower(source.ranges, jig_routine(len(source.ranges)))
    because, _ = await until_either_ends(
        _watch(socket, led, source),
        listen_to(socket, source, _SAYS, lambda says: _obey(says, led)),
        LONGEST_S,
    )
    jig_id = None
    if led.tracker.finished:
        try:
            jig_id = await asyncio.to_thread(
                bench.keep_on_jig, database, inspection_id, led.recording, now()
            )
        except Refused as refused:
            because = str(refused)
    elif not because:
        most = f"{LONGEST_S / 60:.0f} minutes"
        because = f"It was stopped before its end, or took over {most}: nothing of it is kept."
    await say_last(socket, jig_id=jig_id, because=because)


async def _watch(socket: WebSocket, led: RoutineFollower, source: SerialSource) -> None:
    sent_at_s, step = -1.0, None
    async for block in source.blocks():
        if not len(block.t_us):
            continue
        at = led.feed(block.t_us, block.raw)
        progress = led.tracker.progress()
        if progress.step != step:
            step = progress.step
            source.cue(step)
        if at - sent_at_s >= TOLD_EVERY_S or progress.finished:
            sent_at_s = at
            await socket.send_text(json.dumps({"type": "now", **asdict(progress)}))
        if progress.finished:
            return


def _obey(says: JigSays, led: RoutineFollower) -> bool:
    """Whether it is to stop."""
    if says.do == "accept":
        led.tracker.accept()
    return says.do == "stop"
