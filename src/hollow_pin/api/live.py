"""A take while it runs: samples and commands in, samples and progress out, over one WebSocket.

A step that is done again changes nothing of its take until its first samples are written.

From the page: text {"do": "accept" | "redo" | "stop" | "steer" | "lost", …}; for a gamepad, binary
frames of samples. To the page: text {"type": "progress" | "held-up" | "ended" | "error" | "refused",
…}; binary frames of uint32 n, then float64 seconds (n), float32 % of half range (n an axis).
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import time
from dataclasses import asdict
from sqlite3 import Connection
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Path, Query, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from hollow_pin.api.devices import open_source
from hollow_pin.api.refusing import MISSING, not_taken_in, refuse
from hollow_pin.api.running import OTHER_WINDOW, Running
from hollow_pin.bench import takes as bench
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.capture.session import Session, TakeEnding, WrittenSamples
from hollow_pin.core.record import Take
from hollow_pin.core.routine import StepName
from hollow_pin.sources.page import BadFrame, PageSource
from hollow_pin.sources.source import Source, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.database import Database

router = APIRouter()

FRAMES_WAITING = 200
PROGRESS_EVERY_S = 0.1
"""By the clock on the wall, as often as somebody can read a number; what is new is told at once."""

LET_GO_S = 3.0


class Accept(BaseModel):
    do: Literal["accept"]


class Redo(BaseModel):
    do: Literal["redo"]
    step: StepName | None = None


class Stop(BaseModel):
    do: Literal["stop"]


class Steer(BaseModel):
    do: Literal["steer"]
    x: float | None = Field(None, ge=-200, le=200)
    y: float | None = Field(None, ge=-200, le=200)


class Lost(BaseModel):
    do: Literal["lost"]


_COMMAND: TypeAdapter[Accept | Redo | Stop | Steer | Lost] = TypeAdapter(
    Annotated[Accept | Redo | Stop | Steer | Lost, Field(discriminator="do")]
)
Outgoing = str | bytes


class _Outbox:
    """What the page is still to get. A slow page misses pictures, never the record its samples."""

    def __init__(self) -> None:
        self.queue: asyncio.Queue[Outgoing] = asyncio.Queue()
        self._sent_state: object = None
        self._sent_at = 0.0

    def show(self, written: WrittenSamples) -> None:
        if self.queue.qsize() < FRAMES_WAITING:
            head = np.array([len(written.t)], "<u4").tobytes()
            u = np.ascontiguousarray(written.u.T, dtype="<f4").tobytes()
            self.queue.put_nowait(head + written.t.astype("<f8").tobytes() + u)
        p = written.progress
        at = time.monotonic()
        state = (p.step, p.phase, p.says, p.note, p.space, p.finished, tuple(written.notes.items()))
        if state != self._sent_state or at - self._sent_at >= PROGRESS_EVERY_S:
            self._sent_state, self._sent_at = state, at
            self.queue.put_nowait(
                json.dumps({"type": "progress", **asdict(p), "notes": written.notes})
            )

    def say(self, kind: str, **what: object) -> None:
        self.put(json.dumps({"type": kind, **what}))

    def put(self, message: Outgoing) -> None:
        self.queue.put_nowait(message)


@router.websocket("/api/takes/{take_id}/live")
async def live(
    socket: WebSocket,
    take_id: Annotated[int, Path(ge=1, le=2**53)],
    pace: Literal["real", "fast"] = "real",
    hand: Literal["own", "visitor"] = "own",
    step: Annotated[list[StepName] | None, Query()] = None,
) -> None:
    """Run a take. step: only these steps are done, again, in a take that had ended; nothing of it
    changes until the first sample comes."""
    running: Running = socket.app.state.running
    refusal = running.claim(take_id)
    await socket.accept()
    until = time.monotonic() + LET_GO_S
    while refusal == OTHER_WINDOW and time.monotonic() < until:
        # A page that was loaded again comes before its earlier self is gone.
        await asyncio.sleep(0.05)
        refusal = running.claim(take_id)
    if refusal is not None:
        await refuse(socket, refusal)
        return
    try:
        database: Database = socket.app.state.database
        take = await asyncio.to_thread(_take_to_record, database, take_id, step)
        await _run(socket, database, take, step, pace == "real", hand == "own")
    except NotFound as wrong:
        await refuse(socket, str(wrong), MISSING)
    except _EndedBefore as wrong:
        await socket.send_text(_ended_message("before", None))
        await refuse(socket, str(wrong))
    except Refused as wrong:
        await refuse(socket, str(wrong))
    finally:
        running.let_go(take_id)


class _EndedBefore(Refused):
    """Nothing of it is asked to be done again."""


def _take_to_record(database: Database, take_id: int, steps: list[StepName] | None) -> Take:
    with database.reading() as db:
        take = bench.get_take(db, take_id)
        if take.state == "recording":
            return take
        if not steps:
            raise _EndedBefore("This take has ended. A step of it can be done again by naming it.")
        bench.require_resumable(db, take, tuple(steps))
    return take


async def _run(
    socket: WebSocket,
    database: Database,
    take: Take,
    steps: list[StepName] | None,
    in_real_time: bool,
    held_by_hand: bool,
) -> None:
    running: Running = socket.app.state.running
    anew = take.state != "recording"
    try:
        source = await asyncio.to_thread(open_source, database, take, in_real_time, held_by_hand)
    except SourceLost as lost:
        ended = TakeEnding("interrupted", str(lost))
        if not anew:
            await running.end(database, take.id, ended, {})
        await socket.send_text(_ended_message(ended.state, ended.because))
        await socket.close()
        return
    await _record(socket, database, take, steps, source, anew)


async def _record(
    socket: WebSocket,
    database: Database,
    take: Take,
    steps: list[StepName] | None,
    source: Source,
    anew: bool,
) -> None:
    """From the first sample to the last word to the window, whichever ends it."""
    running: Running = socket.app.state.running
    tracker = await asyncio.to_thread(
        bench.tracker_for, database, take, tuple(steps) if steps else None
    )
    after = await asyncio.to_thread(bench.last_time_of, database, take.id)
    outbox = _Outbox()

    def begin(db: Connection) -> None:
        if anew:
            bench.reopen_take(db, take.id, tuple(steps or ()))

    session = Session(
        database,
        take.id,
        source,
        tracker,
        outbox.show,
        after,
        ranges=take.ranges,
        begin=begin,
        held_up=lambda why: outbox.say("held-up", message=why),
    )
    running.sessions.add(session)
    recording = asyncio.create_task(session.run())
    listening = asyncio.create_task(_listen(socket, session, source, outbox))
    sending = asyncio.create_task(_send(socket, outbox))
    ended = TakeEnding("interrupted", "the window was closed")
    try:
        await asyncio.wait({recording, listening}, return_when=asyncio.FIRST_COMPLETED)
        if recording.done():
            ended = recording.result()
        else:
            ended = TakeEnding("interrupted", running.stopping or "the window was closed")
            session.stop(ended.because or "")
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(0.5):
                    await asyncio.shield(recording)
    except asyncio.CancelledError:
        ended = TakeEnding("interrupted", running.stopping or "the server was stopped")
        session.hurry()
    finally:
        recording.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await recording
        running.sessions.discard(session)
        await asyncio.shield(running.end(database, take.id, ended, session.notes()))
        with contextlib.suppress(RuntimeError, WebSocketDisconnect):
            if not listening.done():
                outbox.put(_ended_message(ended.state, ended.because))
                async with asyncio.timeout(5):
                    await outbox.queue.join()
                await socket.close()
        listening.cancel()
        sending.cancel()


def _ended_message(state: Literal["complete", "interrupted", "before"], because: str | None) -> str:
    """state: before, where it had ended when it was asked for."""
    return json.dumps({"type": "ended", "state": state, "because": because})


async def _send(socket: WebSocket, outbox: _Outbox) -> None:
    while True:
        message = await outbox.queue.get()
        with contextlib.suppress(RuntimeError, WebSocketDisconnect):
            if isinstance(message, bytes):
                await socket.send_bytes(message)
            else:
                await socket.send_text(message)
        outbox.queue.task_done()


async def _listen(socket: WebSocket, session: Session, source: Source, outbox: _Outbox) -> None:
    """Take in what the page says until it goes away."""
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        try:
            if message.get("bytes") is not None:
                if not isinstance(source, PageSource):
                    raise BadFrame("this take makes its own samples")
                source.feed(message["bytes"])
            else:
                _obey(_COMMAND.validate_json(message.get("text") or ""), session, source)
        except (BadFrame, ValidationError) as wrong:
            outbox.say("error", message=not_taken_in(wrong))


def _obey(
    command: Accept | Redo | Stop | Steer | Lost,
    session: Session,
    source: Source,
) -> None:
    match command:
        case Accept():
            session.accept()
        case Redo():
            if not session.may_redo(command.step):
                raise BadFrame(f"{command.step} is no step of this take's routine")
            session.redo(command.step)
        case Stop():
            session.stop("it was stopped at the bench")
        case Steer() if isinstance(source, StandInSource):
            x, y = command.x, command.y
            source.steer((x, y) if x is not None and y is not None else None)
        case Lost() if isinstance(source, PageSource):
            source.lose("the controller was disconnected")
