"""Who may speak to the server: this machine's own pages, other machines that paired; nobody else."""

from __future__ import annotations

import ipaddress
import logging
import re
import secrets
from http.cookies import CookieError, SimpleCookie

from fastapi.responses import JSONResponse
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hollow_pin.api.context import now
from hollow_pin.api.problems import problem, problem_of
from hollow_pin.bench.pairing import known_device, may
from hollow_pin.store.database import Database

LOOPBACK = frozenset({"127.0.0.1", "localhost", "[::1]"})
COOKIE = "hollow-pin-device"
_HOST = re.compile(r"(\[[0-9a-f:.]{2,45}\]|[a-z0-9](?:[a-z0-9.-]{0,251}[a-z0-9])?)(?::(\d{1,5}))?")
_ORIGIN = re.compile(rf"(https?)://{_HOST.pattern}")
PORTS = {"http": 80, "https": 443, "ws": 80, "wss": 443}
OPEN = re.compile(r"/(?!api/).*|/api/(pairing|health)")
"""What a machine gets before it has paired: the page itself, and the way to pair."""
CAPTURE = re.compile(
    r"/api/(jobs/\d+/(takes|checks)|checks/.*|takes/\d+/live|sources.*|mappings.*)"
)
_log = logging.getLogger(__name__)


def host_of(value: str) -> tuple[str, int | None] | None:
    """A name and a port, as a Host header or --allow-host says them; None for anything else."""
    match = _HOST.fullmatch(value.lower())
    if match is None or (match.group(2) and int(match.group(2)) > 65_535):
        return None
    return match.group(1), int(match.group(2)) if match.group(2) else None


def is_loopback(scope: Scope) -> bool:
    """Whether the other side is this machine."""
    client = scope.get("client")
    if client is None:
        return True
    try:
        address = ipaddress.ip_address(client[0].partition("%")[0])
    except ValueError:
        return False
    mapped = getattr(address, "ipv4_mapped", None)
    return bool((mapped or address).is_loopback)


class Guard:
    """Refuses foreign Host and Origin headers, for requests and WebSockets alike, and machines
    that did not pair; sends the headers that keep a page to itself, with errors as well.

    hosts: names the server may be called by, alone or with a port.
    """

    def __init__(self, app: ASGIApp, hosts: frozenset[str], database: Database) -> None:
        self.app = app
        self.hosts = hosts
        self.database = database

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        nonce = secrets.token_urlsafe(16)
        scope.setdefault("state", {})["nonce"] = nonce
        started = False

        async def guarded(message: Message) -> None:
            nonlocal started
            if message["type"] == "http.response.start":
                started = True
                _protect(MutableHeaders(scope=message), nonce)
            await send(message)

        try:
            refusal = self._refusal(scope) or await self._unpaired(scope)
            if refusal is None:
                await self.app(scope, receive, guarded)
            elif scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008, "reason": "Refused"})
            else:
                await refusal(scope, receive, guarded)
        except Exception as wrong:
            if started or scope["type"] != "http":
                raise
            answer = problem_of(wrong)
            if answer is None:
                _log.exception("%s %s failed", scope["method"], scope["path"])
                answer = problem(
                    500,
                    "The program failed",
                    "Something went wrong that should not. Nothing half done was kept; the "
                    "server's log says what happened.",
                )
            await answer(scope, receive, guarded)

    def _refusal(self, scope: Scope) -> JSONResponse | None:
        why = self._why_foreign(scope)
        return None if why is None else problem(403, "Refused", why)

    def _why_foreign(self, scope: Scope) -> str | None:
        headers: dict[bytes, list[bytes]] = {}
        for name, value in scope["headers"]:
            headers.setdefault(name.lower(), []).append(value)
        hosts, origins = headers.get(b"host", []), headers.get(b"origin", [])
        if len(hosts) != 1 or len(origins) > 1:
            return "The request says more than once, or not at all, where it goes or comes from."
        host = host_of(hosts[0].decode("latin-1"))
        if host is None or not {host[0], f"{host[0]}:{host[1]}"} & self.hosts:
            return "This server answers only to its own name. --allow-host gives it another."
        if b"cross-site" in headers.get(b"sec-fetch-site", []):
            return "The request comes from another site's page."
        if origins:
            own = "https" if scope["scheme"] in ("https", "wss") else "http"
            match = _ORIGIN.fullmatch(origins[0].decode("latin-1").lower())
            port = int(match.group(3)) if match and match.group(3) else PORTS[own]
            if (
                match is None
                or (match.group(1), match.group(2)) != (own, host[0])
                or port != (host[1] or PORTS[own])
            ):
                return "The request comes from another site's page."
        return None

    async def _unpaired(self, scope: Scope) -> JSONResponse | None:
        """Why another machine may not ask for this; None where it may, or is this one."""
        scope["state"]["here"] = here = is_loopback(scope)
        if here:
            return None
        token = _token(scope)
        device = (
            await run_in_threadpool(known_device, self.database, token, now()) if token else None
        )
        scope["state"]["device"] = device
        path = scope["path"]
        method = scope.get("method", "GET") if scope["type"] == "http" else "WEBSOCKET"
        if OPEN.fullmatch(path) and (method in ("GET", "HEAD") or path == "/api/pairing"):
            return None
        if device is None:
            return problem(
                401,
                "Not paired",
                "This machine has not paired with the bench. Have a code shown there.",
            )
        if not may(device.role, method, path, CAPTURE.fullmatch(path) is not None):
            return problem(
                403,
                "Not for this device",
                f"A device that paired as {device.role} may not do this.",
            )
        return None


def _token(scope: Scope) -> str | None:
    for name, value in scope["headers"]:
        if name == b"cookie":
            try:
                cookie = SimpleCookie(value.decode("latin-1")).get(COOKIE)
            except CookieError:
                continue
            if cookie is not None:
                return cookie.value
    return None


def _protect(headers: MutableHeaders, nonce: str) -> None:
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
