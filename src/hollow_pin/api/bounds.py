"""How much may come in: a request's body by its route, counted as it arrives, and large ones few at a
time."""

from __future__ import annotations

import asyncio
import re

from fastapi.responses import JSONResponse
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hollow_pin.api.problems import problem
from hollow_pin.formats.picture import LARGEST_BYTES as LARGEST_PHOTO
from hollow_pin.formats.table import LARGEST_BYTES as LARGEST_TABLE

USUAL = 2_000_000
"""Bytes of what is said in words: every field of a take-in at its longest, before and after."""
FORM = 100_000
"""Bytes that a form adds to its file."""
LARGE: tuple[tuple[re.Pattern[str], int], ...] = (
    (re.compile(r"/api/jobs/\d+/photos"), LARGEST_PHOTO + FORM),
    (re.compile(r"/api/jobs/\d+/recordings"), LARGEST_TABLE + FORM),
    (re.compile(r"/api/recordings/preview"), LARGEST_TABLE + FORM),
)
MOST_AT_ONCE = 6
"""Files that may be on their way at the same time."""
SILENT_S = 30.0
"""How long a body may pause."""


class Bounds:
    """Refuses a body that is larger than its route takes, whatever it says of itself, at once;
    one that pauses for too long; and a file where enough others are on their way."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app
        self._files = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD"):
            await self.app(scope, receive, send)
            return
        most = next((m for path, m in LARGE if path.fullmatch(scope["path"])), USUAL)
        stated_length = Headers(scope=scope).get("content-length", "")
        if stated_length.isdecimal() and len(stated_length) < 20 and int(stated_length) > most:
            await _too_large(most)(scope, receive, send)
            return
        if most == USUAL:
            await self._counted(most, scope, receive, send)
        elif self._files >= MOST_AT_ONCE:
            busy = problem(
                503,
                "Busy",
                f"{self._files} files are on their way already. Send this one again in a moment.",
            )
            busy.headers["Retry-After"] = "5"
            await busy(scope, receive, send)
        else:
            self._files += 1
            try:
                await self._counted(most, scope, receive, send)
            finally:
                self._files -= 1

    async def _counted(self, most: int, scope: Scope, receive: Receive, send: Send) -> None:
        """Where too much comes, or nothing, the application hears that the other side went away, and
        what it says of that is not sent: the refusal is."""
        came = 0
        whole = started = False
        refusal = None

        async def counted() -> Message:
            nonlocal came, whole, refusal
            if whole:
                return await receive()
            if refusal is not None:
                return {"type": "http.disconnect"}
            try:
                async with asyncio.timeout(SILENT_S):
                    message = await receive()
            except TimeoutError:
                refusal = problem(
                    408, "Too slow", f"Nothing came for {SILENT_S:.0f} s. Send it again."
                )
                return {"type": "http.disconnect"}
            if message["type"] == "http.request":
                came += len(message.get("body", b""))
                whole = not message.get("more_body", False)
                if came > most:
                    refusal = _too_large(most)
                    return {"type": "http.disconnect"}
            return message

        async def unless_refused(message: Message) -> None:
            nonlocal started
            if refusal is None:
                started = True
                await send(message)

        try:
            await self.app(scope, counted, unless_refused)
        except Exception:
            if refusal is None:
                raise
        if refusal is not None and not started:
            refusal.headers["Connection"] = "close"
            await refusal(scope, receive, send)


def _too_large(most: int) -> JSONResponse:
    return problem(
        413, "Too large", f"This takes up to {most / 1e6:.0f} MB. Send less, or a smaller file."
    )
