"""Requests that no page makes: none is answered with a fault of the program's own."""

from __future__ import annotations

import random
import socket
from pathlib import Path

from conftest import new_job, new_take, start_server

PATHS = (
    "/api/jobs", "/api/jobs/1", "/api/jobs/1/takes", "/api/jobs/1/entries", "/api/jobs/1/work",
    "/api/jobs/1/photos", "/api/jobs/1/recordings", "/api/jobs/1/close", "/api/takes/1",
    "/api/takes/1/samples", "/api/takes/1/envelope", "/api/takes/1/live", "/api/comparison",
    "/api/entries/1/undo", "/api/models", "/api/routines", "/api/studies", "/api/checks/1/events",
    "/api/controllers", "/api/recordings/preview", "/api/pairing", "/api/devices/codes",
    "/api/imports/1", "/api/state", "/api/photos/" + "0" * 64, "/", "/jobs/1", "/assets/../../x",
)  # fmt: skip
METHODS = (
    ("GET",) * 4
    + ("POST",) * 6
    + ("PUT", "PUT", "DELETE", "PATCH", "HEAD", "OPTIONS", "TRACE", "BREW", "get")
)
WORDS = (
    b"", b"{", b"[]", b"null", b'{"text": "x"}', b'{"kind":"note","text":"\\u0000"}', b"\xff\xfe",
    b'{"stick": "left", "source": {"kind": "stand-in"}}', b'{"a":' * 900, b"1" * 5000, b"NaN",
    b'{"revision": 99999999999999999999}', b"--edge\r\n\r\n\r\n--edge--\r\n", b"\0" * 3000,
    b'--edge\r\nContent-Disposition: form-data; name="file"; filename="\r\n\r\nx\r\n--edge--',
)  # fmt: skip
HEADS = (
    b"Content-Type: application/json", b"Content-Type: multipart/form-data; boundary=edge",
    b"Content-Type: multipart/form-data", b"Origin: null", b"Origin: http://[", b"Cookie: =;;==\xff",
    b"Idempotency-Key: aaaaaaaaaa", b"Idempotency-Key: \x01", b"X-Bench-Role: %ff%00%", 
    b"Expect: 100-continue",
    b"Transfer-Encoding: chunked", b"Content-Length: -1", b"Content-Length: 99999999999999999999",
    b"Range: bytes=0-1,5-", b"Accept-Encoding: \x80", b"Upgrade: websocket\r\nConnection: Upgrade\r\n"
    b"Sec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\nSec-WebSocket-Version: 13", b"X: " + b"y" * 9000,
)  # fmt: skip


def ask_hostile_things(folder: Path, count: int, seed: int) -> tuple[list[str], str]:
    """Whatever was answered with 500 or worse, and how often each status was."""
    server, draw, faults = start_server(folder), random.Random(seed), []
    answered: dict[str, int] = {}
    with server.client() as http:
        new_take(http, new_job(http), {"kind": "stand-in", "condition": "worn"})
        for i in range(count):
            sent = _request(draw, server.port)
            status = _answer(server.port, sent)
            answered[status] = answered.get(status, 0) + 1
            if status.startswith("5") and status not in ("503", "507"):
                faults.append(f"{status} to {sent[:200]!r}")
            if i % 500 == 0 and http.get("/api/health").status_code != 200:
                faults.append(f"not well after {i}")
        if http.get("/api/tray").status_code != 200:
            faults.append("not well at the end")
    held = Path(f"/proc/{server.process.pid}/status").read_text()
    most = int(next(s for s in held.splitlines() if s.startswith("VmHWM")).split()[1]) / 1e3
    if server.process.poll() is not None:
        faults.append("the server is gone")
    server.stop()
    text = ", ".join(f"{n} times {status}" for status, n in sorted(answered.items()))
    return faults, f"{count} requests, answered {text}; {most:.0f} MB at the most"


def _request(draw: random.Random, port: int) -> bytes:
    path = draw.choice(PATHS)
    if draw.random() < 0.3:
        path = path.replace("1", draw.choice(("0", "-1", "9" * 30, "x", "%00", "1e9", "%2e%2e")))
    if draw.random() < 0.3:
        path += "?" + draw.choice(
            ("step=rim", "before=1&after=1", "grade=x", "text=%00", "a=" + "b" * 7000)
        )
    body = draw.choice(WORDS)
    heads = draw.sample(HEADS, draw.choice((0, 1, 1, 2, 3)))
    if draw.random() < 0.95:
        heads.append(b"Host: 127.0.0.1:%d" % port)
    if not any(h.startswith((b"Content-Length", b"Transfer")) for h in heads):
        heads.append(b"Content-Length: %d" % len(body))
    first = f"{draw.choice(METHODS)} {path} HTTP/1.1".encode()
    return b"\r\n".join([first, *heads, b"Connection: close", b"", body])


def _answer(port: int, sent: bytes) -> str:
    with socket.create_connection(("127.0.0.1", port), timeout=5) as line:
        line.settimeout(2)
        try:
            line.sendall(sent)
            came = line.recv(100)
        except OSError:
            return "cut"
    parts = came.split(b" ", 2)
    return parts[1].decode("ascii", "replace") if len(parts) > 1 else "cut"
