"""Who may speak to the server: its own pages, and other machines once they paired, each as it may."""

from __future__ import annotations

import asyncio
import re
import socket
import ssl
import subprocess
import sys
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from pathlib import Path
from typing import TypeVar

import httpx
import pytest
from fastapi import FastAPI

from benches import AT, new_bench
from conftest import Server, start_server
from hollow_pin.api.app import create_app
from hollow_pin.api.context import now
from hollow_pin.api.guard import host_of, is_loopback
from hollow_pin.api.pairing import TRIES, WITHIN_S, Tries
from hollow_pin.bench.pairing import EXPIRES, known_device, may, new_code, pair
from hollow_pin.bench.refusal import Refused
from hollow_pin.store.database import Database

Result = TypeVar("Result")

# Strictly


@pytest.mark.parametrize(
    ("said", "host"),
    [
        ("bench.local", ("bench.local", None)),
        ("Bench.Local:8765", ("bench.local", 8765)),
        ("[::1]:80", ("[::1]", 80)),
        ("127.0.0.1:65535", ("127.0.0.1", 65535)),
        ("127.0.0.1:65536", None),
        ("", None),
        ("a b", None),
        ("a@b", None),
        ("a/b", None),
        ("a:b:c", None),
        ("-a", None),
        ("a:", None),
        ("[::1", None),
    ],
)
def test_a_host_is_a_name_and_a_port_and_nothing_else(said: str, host: object) -> None:
    assert host_of(said) == host


@pytest.mark.parametrize(
    "head",
    [
        {"Origin": "http://[::1"},
        {"Origin": "http://127.0.0.1:{port}/"},
        {"Origin": "https://127.0.0.1:{port}"},
        {"Origin": "http://127.0.0.1"},
        {"Origin": "http://localhost:{port}"},
        {"Origin": "http://user@127.0.0.1:{port}"},
        {"Host": "127.0.0.1:{port}@evil.example"},
        {"Sec-Fetch-Site": "cross-site"},
    ],
)
def test_a_malformed_or_foreign_head_is_a_refusal(server: Server, head: dict) -> None:
    headers = {k: v.format(port=server.port) for k, v in head.items()}
    answer = httpx.get(f"{server.base}/api/tray", verify=False, headers=headers)
    assert answer.status_code == 403
    assert answer.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize("twice", ["Host", "Origin"])
def test_two_of_either_are_refused(server: Server, twice: str) -> None:
    own = f"127.0.0.1:{server.port}"
    lines = [f"Host: {own}", {"Host": f"Host: {own}", "Origin": f"Origin: http://{own}"}[twice]]
    lines += [lines[1]] * (twice == "Origin")
    with socket.create_connection(("127.0.0.1", server.port)) as line:
        line.sendall("\r\n".join(["GET /api/tray HTTP/1.1", *lines, "", ""]).encode())
        assert line.recv(100).split()[1] in (b"400", b"403")


def test_the_servers_own_page_is_let_in_whatever_its_letters(server: Server) -> None:
    head = {"Origin": f"HTTP://LOCALHOST:{server.port}", "Host": f"LocalHost:{server.port}"}
    assert httpx.get(f"{server.base}/api/tray", verify=False, headers=head).status_code == 200


@pytest.mark.parametrize(
    ("path", "head", "status"),
    [
        ("/api/tray", {"Host": "evil.example"}, 403),
        ("/api/nothing", {}, 404),
        ("/api/jobs?limit=x", {}, 422),
        ("/", {}, 200),
    ],
)
def test_every_answer_carries_what_keeps_a_page_to_itself(
    server: Server, path: str, head: dict, status: int
) -> None:
    answer = httpx.get(f"{server.base}{path}", verify=False, headers=head)
    assert answer.status_code == status
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert answer.headers["cross-origin-resource-policy"] == "same-origin"


def test_a_further_name_may_come_with_capitals_and_a_port(tmp_path: Path) -> None:
    running = start_server(
        tmp_path, "--allow-host", "Bench.Local", "--allow-host", "Shop.Local:8080"
    )
    for host, status in (
        ("bench.LOCAL:9", 200),
        ("shop.local:8080", 200),
        ("shop.local:8081", 403),
        ("other.local", 403),
    ):
        answer = httpx.get(f"{running.base}/api/tray", verify=False, headers={"Host": host})
        assert answer.status_code == status, host
    running.stop()


# Another machine


def asked(app: FastAPI, work: Callable[[httpx.AsyncClient], object], client: str) -> object:
    """Ask as another machine does."""

    async def run() -> object:
        transport = httpx.ASGITransport(app, client=(client, 1234))
        async with httpx.AsyncClient(transport=transport, base_url="http://localhost") as own:
            return await work(own)  # type: ignore[misc]

    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, run()).result(30)


@pytest.fixture
def bench(tmp_path: Path) -> tuple[FastAPI, Database]:
    database, _ = new_bench(tmp_path)
    return create_app(database), database


@pytest.mark.parametrize(
    ("client", "here"),
    [
        ("127.0.0.1", True),
        ("127.0.0.53", True),
        ("::1", True),
        ("::ffff:127.0.0.1", True),
        ("192.0.2.7", False),
        ("::ffff:192.0.2.7", False),
        ("fe80::1%eth0", False),
        ("nonsense", False),
    ],
)
def test_only_this_machine_is_here(client: str, here: bool) -> None:
    assert is_loopback({"client": (client, 1)}) is here


def test_another_machine_gets_the_page_and_nothing_else_until_it_pairs(
    bench: tuple[FastAPI, Database],
) -> None:
    app, database = bench
    code, _ = new_code(database, "desk", now())

    async def work(http: httpx.AsyncClient) -> None:
        for path in ("/api/tray", "/api/devices", "/api/openapi.json", "/api/photos/x"):
            answer = await http.get(path)
            assert answer.status_code == 401, path
            assert "code shown" in answer.json()["detail"]
        assert (await http.post("/api/jobs", json={})).status_code == 401
        assert (await http.get("/api/health")).status_code == 200
        assert (await http.get("/pair")).status_code in (200, 503)
        assert (await http.get("/api/pairing")).json() == {"here": False, "device": None}
        paired = await http.post(
            "/api/pairing", json={"code": code.lower(), "name": " front  desk "}
        )
        assert paired.status_code == 201
        assert (paired.json()["name"], paired.json()["role"]) == ("front desk", "desk")
        cookie = paired.headers["set-cookie"]
        assert re.search("HttpOnly", cookie)
        assert re.search("SameSite=strict", cookie)
        assert (await http.get("/api/tray")).status_code == 200
        entry = await http.post("/api/jobs/1/entries", json={"text": "from the desk"})
        assert entry.status_code == 201
        take = {"stick": "left", "source": {"kind": "stand-in"}}
        assert (await http.post("/api/jobs/1/takes", json=take)).status_code == 403
        assert (await http.get("/api/devices")).status_code == 403
        again = await http.post("/api/pairing", json={"code": code})
        assert again.status_code == 409, "a code is good once"

    asked(app, work, "192.0.2.7")

    async def revoke(http: httpx.AsyncClient) -> None:
        (device,) = (await http.get("/api/devices")).json()
        assert (await http.post(f"/api/devices/{device['id']}/revoke")).status_code == 204
        assert (await http.post(f"/api/devices/{device['id']}/revoke")).status_code == 404

    asked(app, revoke, "127.0.0.1")


def test_a_token_and_a_code_are_kept_as_hashes_and_a_revoked_device_is_out(
    bench: tuple[FastAPI, Database],
) -> None:
    _, database = bench
    code, _ = new_code(database, "viewer", AT)
    device, token = pair(database, code, "", AT)
    assert known_device(database, token, AT) is not None
    assert known_device(database, token + "x", AT) is None
    with database.reading() as db:
        dump = "\n".join(db.iterdump())
    assert token not in dump
    assert code.replace("-", "") not in dump
    with database.writing() as db:
        db.execute("UPDATE device SET revoked_at = ? WHERE id = ?", (AT, device.id))
    assert known_device(database, token, AT) is None


def test_a_code_expires(bench: tuple[FastAPI, Database]) -> None:
    _, database = bench
    for late, good in ((timedelta(0), False), (timedelta(milliseconds=1), True)):
        code, _ = new_code(database, "desk", AT)
        at = (datetime.fromisoformat(AT) + EXPIRES - late).isoformat(timespec="milliseconds")
        if good:
            assert pair(database, code, "", at)
        else:
            with pytest.raises(Refused, match="too old"):
                pair(database, code, "", at)


@pytest.mark.parametrize(
    ("role", "method", "capture", "allowed"),
    [
        ("viewer", "GET", False, True),
        ("viewer", "GET", True, True),
        ("viewer", "POST", False, False),
        ("viewer", "WEBSOCKET", True, False),
        ("desk", "POST", False, True),
        ("desk", "POST", True, False),
        ("desk", "WEBSOCKET", True, False),
        ("bench", "POST", True, True),
        ("bench", "WEBSOCKET", True, True),
    ],
)
def test_each_role_may_what_it_may(role: str, method: str, capture: bool, allowed: bool) -> None:
    assert may(role, method, "/api/jobs/1/takes", capture) is allowed  # type: ignore[arg-type]
    assert not may(role, method, "/api/devices", capture), "pairing is the bench's own"  # type: ignore[arg-type]


def test_codes_are_not_guessed(bench: tuple[FastAPI, Database]) -> None:
    app, database = bench
    code, _ = new_code(database, "bench", now())

    async def guess(http: httpx.AsyncClient) -> list[int]:
        tries = [(await http.post("/api/pairing", json={"code": f"{i}"})) for i in range(TRIES)]
        late = await http.post("/api/pairing", json={"code": code})
        assert int(late.headers["retry-after"]) > WITHIN_S - 60
        return [*(t.status_code for t in tries), late.status_code]

    assert asked(app, guess, "192.0.2.8") == [409] * TRIES + [429]


def test_many_addresses_together_guess_no_more_often() -> None:
    tries = Tries()
    for i in range(29):
        tries.in_vain(f"192.0.2.{i}")
    assert tries.wait_s("192.0.2.200") == 0
    tries.in_vain("192.0.2.29")
    assert tries.wait_s("192.0.2.200") > 0


def test_beyond_this_machine_it_warns_and_speaks_tls(tmp_path: Path) -> None:
    key, cert = tmp_path / "key.pem", tmp_path / "cert.pem"
    made = subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj",
         "/CN=localhost", "-addext", "subjectAltName=DNS:localhost", "-keyout", key, "-out", cert],
        capture_output=True, check=False,
    )  # fmt: skip
    if made.returncode:
        pytest.skip("openssl is needed to make a certificate")
    running = start_server(
        tmp_path / "bench", "--host", "0.0.0.0", "--tls-cert", str(cert), "--tls-key", str(key)
    )
    trusted = ssl.create_default_context(cafile=str(cert))
    base = f"https://localhost:{running.port}"
    with httpx.Client(base_url=base, verify=trusted, timeout=30) as http:
        assert http.get("/api/tray", headers={"Origin": base}).status_code == 200
        plain = {"Origin": base.replace("https", "http")}
        assert http.get("/api/tray", headers=plain).status_code == 403
    running.stop()
    process = subprocess.Popen(
        [sys.executable, "-um", "hollow_pin.cli", "serve", "--port", "0", "--host", "0.0.0.0",
         "--data", tmp_path / "other"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert process.stdout is not None
    lines = [process.stdout.readline() for _ in range(3)]
    process.terminate()
    process.wait(10)
    assert "pair first" in lines[1]
    assert lines[2].startswith("WARNING: without --tls-cert")
