"""A source that is watched over a WebSocket and of which no take is made: samples and commands in,
what is seen out."""

from __future__ import annotations

import asyncio
import contextlib
import json
from collections.abc import AsyncIterator, Callable, Coroutine
from contextlib import asynccontextmanager
from typing import Any, TypeVar

from fastapi import WebSocket
from pydantic import TypeAdapter, ValidationError

from hollow_pin.api.refusing import GONE, MISSING, not_taken_in, refuse
from hollow_pin.api.running import OTHER_WINDOW, Running
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.sources.page import BadFrame, PageSource
from hollow_pin.sources.source import Source, SourceLost

BEGUN_WITHIN_S = 10.0
Command = TypeVar("Command")


@asynccontextmanager
async def claimed(socket: WebSocket, what: str, in_use: str) -> AsyncIterator[str | None]:
    """Take something for one window, by its name, and hear what the page asks for: the first text it
    sends. None where it may not be had, and the page was told why. in_use: what to say where another
    window has it. Whatever is refused while it is had, the page is told."""
    running: Running = socket.app.state.running
    await socket.accept()
    refusal = running.claim(what)
    if refusal is not None:
        await refuse(socket, in_use if refusal == OTHER_WINDOW else refusal)
        yield None
        return
    try:
        async with asyncio.timeout(BEGUN_WITHIN_S):
            asked = await socket.receive_text()
        yield asked
    except NotFound as wrong:
        await refuse(socket, str(wrong), MISSING)
    except ValidationError as wrong:
        await refuse(socket, not_taken_in(wrong))
    except (Refused, SourceLost) as wrong:
        await refuse(socket, str(wrong))
    except (TimeoutError, KeyError, *GONE):
        await refuse(socket, "Nothing was asked for.")
    finally:
        running.let_go(what)


async def until_either_ends(
    watching: Coroutine[Any, Any, None],
    listening: Coroutine[Any, Any, bool],
    longest_s: float | None = None,
) -> tuple[str, bool]:
    """Watch a source and listen to the page, until either ends. Why the source was lost, empty where
    it was not; and whether the page went away."""
    watch, listen = asyncio.create_task(watching), asyncio.create_task(listening)
    because, gone = "", False
    try:
        await asyncio.wait({watch, listen}, timeout=longest_s, return_when=asyncio.FIRST_COMPLETED)
        if watch.done():
            with contextlib.suppress(*GONE):
                watch.result()
        elif listen.done():
            gone = not listen.result()
    except SourceLost as lost:
        because = f"{lost}."
    finally:
        for task in (watch, listen):
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError, SourceLost, *GONE):
                await task
    return because, gone


async def listen_to(
    socket: WebSocket,
    source: Source,
    commands: TypeAdapter[Command],
    obey: Callable[[Command], bool],
) -> bool:
    """Feed a source the samples that the page sends, and do what it says until `obey` says that it is
    enough. False where the page went away."""
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return False
        try:
            if message.get("bytes") is not None:
                if not isinstance(source, PageSource):
                    raise BadFrame("this source makes its own samples")
                source.feed(message["bytes"])
                continue
            command = commands.validate_json(message.get("text") or "")
        except (BadFrame, ValidationError) as wrong:
            answer = json.dumps({"type": "error", "message": not_taken_in(wrong)})
            await socket.send_text(answer)
            continue
        if obey(command):
            return True


async def say_last(socket: WebSocket, **what: object) -> None:
    """Say how it ended, where the page is still there."""
    with contextlib.suppress(*GONE):
        await socket.send_text(json.dumps({"type": "ended", **what}))
        await socket.close()
