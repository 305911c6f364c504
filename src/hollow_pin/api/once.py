"""A request that carries a key is carried out once, however often it is sent.

The key is kept in the same transaction as what the request writes; its answer is kept behind that, and
given again to whoever asks the same by the same key.
"""

from __future__ import annotations

import asyncio
import hashlib
import re
from collections import defaultdict

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hollow_pin.api.context import now
from hollow_pin.api.problems import problem
from hollow_pin.store.database import AlreadyDone, Database, KeyedRequest, asked
from hollow_pin.store.requests import Answer, answer_to, drop_request, keep_answer

KEY = re.compile(r"[\x21-\x7e]{8,100}")
READ_TO_COMPARE = 2_000_000
"""Bytes of a body that are read before the request is carried out, to know it again. A file is known
by its length."""
LARGEST_ANSWER = 4_000_000


class Once:
    """Knows requests again by their Idempotency-Key."""

    def __init__(self, app: ASGIApp, database: Database) -> None:
        self.app = app
        self._database = database
        self._held: defaultdict[str, asyncio.Lock] = defaultdict(asyncio.Lock)
        self._waiting: defaultdict[str, int] = defaultdict(int)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        key = Headers(scope=scope).get("idempotency-key") if scope["type"] == "http" else None
        if key is None or scope["method"] not in ("POST", "PUT", "DELETE"):
            await self.app(scope, receive, send)
            return
        if not KEY.fullmatch(key):
            wrong = "An Idempotency-Key has 8 to 100 visible characters."
            await problem(400, "Not a key", wrong)(scope, receive, send)
            return
        self._waiting[key] += 1
        try:
            async with self._held[key]:
                await self._once(key, scope, receive, send)
        finally:
            self._waiting[key] -= 1
            if not self._waiting[key]:
                del self._waiting[key], self._held[key]

    async def _once(self, key: str, scope: Scope, receive: Receive, send: Send) -> None:
        says, again = await _fingerprint(scope, receive)
        earlier = await run_in_threadpool(self._answer_to, key)
        if earlier is not None:
            await _earlier_answer(earlier, says)(scope, receive, send)
            return
        request = KeyedRequest(key, says, now())
        token = asked.set(request)
        status, media_type, body = 0, "", b""

        async def keep_and_send(message: Message) -> None:
            nonlocal status, media_type, body
            if message["type"] == "http.response.start":
                status = message["status"]
                media_type = Headers(raw=message["headers"]).get("content-type", "")
            elif len(body) <= LARGEST_ANSWER:
                body += message.get("body", b"")
            last = message["type"] == "http.response.body" and not message.get("more_body", False)
            if last and request.kept:
                # Kept before it is sent: whoever does not get it may ask again.
                await run_in_threadpool(self._keep, request, status, media_type, body)
            await send(message)

        try:
            await self.app(scope, again, keep_and_send)
        except AlreadyDone:
            await _already_done()(scope, receive, send)
        finally:
            asked.reset(token)

    def _answer_to(self, key: str) -> Answer | None:
        with self._database.reading() as db:
            return answer_to(db, key)

    def _keep(self, request: KeyedRequest, status: int, media_type: str, body: bytes) -> None:
        """What was refused after all may be asked again."""
        with self._database.writing() as db:
            if status >= 400:
                drop_request(db, request.key)
            elif len(body) <= LARGEST_ANSWER:
                keep_answer(db, request.key, status, media_type, body)


async def _fingerprint(scope: Scope, receive: Receive) -> tuple[str, Receive]:
    """What a request asks, as SHA-256, and how to receive its body again."""
    headers = Headers(scope=scope)
    stated_length = headers.get("content-length", "")
    digest = hashlib.sha256(
        f"{scope['method']} {scope['path']}?{scope['query_string'].decode('latin-1')}".encode()
    )
    if (
        not stated_length.isdecimal()
        or int(stated_length) > READ_TO_COMPARE
        or "multipart" in headers.get("content-type", "")
    ):
        digest.update(f"\0{stated_length}".encode())
        return digest.hexdigest(), receive
    messages: list[Message] = []
    while True:
        message = await receive()
        messages.append(message)
        if message["type"] != "http.request":
            break
        digest.update(message.get("body", b""))
        if not message.get("more_body", False):
            break

    async def again() -> Message:
        return messages.pop(0) if messages else await receive()

    return digest.hexdigest(), again


def _earlier_answer(earlier: Answer, says: str) -> Response:
    if earlier.asked != says:
        return problem(
            422,
            "Another request",
            "This Idempotency-Key was used for another request. Make a new one.",
        )
    if earlier.status is None:
        return _already_done()
    answer = Response(earlier.body or b"", earlier.status)
    if earlier.media_type:
        answer.headers["content-type"] = earlier.media_type
    if earlier.status == 204:
        del answer.headers["content-length"]
    return answer


def _already_done() -> Response:
    return problem(
        409,
        "Done already",
        "This was put on record before; its answer was lost. Look at the record.",
    )
