"""Who may speak to the server: this machine's own pages, and nobody else's."""

from __future__ import annotations

import secrets
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hollow_pin.api.problems import problem

LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})


def _host(value: str) -> str:
    try:
        return urlsplit(f"//{value}").hostname or ""
    except ValueError:
        return ""


class Guard:
    """Refuses foreign Host and Origin headers, for requests and WebSockets alike, and sends the
    headers that keep a page to itself. hosts: names the server may be called by."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self.app = app
        self.hosts = hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        refusal = self._refusal(Headers(scope=scope))
        if refusal is not None:
            if scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008, "reason": refusal})
            else:
                await problem(403, "Refused", refusal)(scope, receive, send)
            return
        nonce = secrets.token_urlsafe(16)
        scope.setdefault("state", {})["nonce"] = nonce

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers["Content-Security-Policy"] = (
                    "default-src 'self'; script-src 'self'; "
                    f"style-src 'self' 'nonce-{nonce}'; img-src 'self' data: blob:; "
                    "font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; "
                    "form-action 'self'; frame-ancestors 'none'"
                )
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "no-referrer"
                headers["Cross-Origin-Opener-Policy"] = "same-origin"
                headers["Cross-Origin-Resource-Policy"] = "same-origin"
            await send(message)

        await self.app(scope, receive, guarded)

    def _refusal(self, headers: Headers) -> str | None:
        host = headers.get("host", "")
        if _host(host) not in self.hosts:
            return "This server answers only to its own name. Start it with --host to change that."
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc != host:
            return "The request comes from another site's page."
        return None
