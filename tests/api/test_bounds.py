"""What comes in is bounded as it comes: nothing endless, nothing huge, and not too much at once."""

from __future__ import annotations

import io
import socket
import struct
import threading
import time
import zlib
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import numpy as np
import pyarrow
import pytest
from PIL import Image
from pyarrow import csv

from conftest import Server, new_job, start_server
from hollow_pin.api import bounds
from hollow_pin.core.recording import MOST_SAMPLES
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.picture import MOST_PIXELS, remake
from sticks import recording_file


def held_mb(server: Server, most: bool = False) -> float:
    """Memory of a server: now, or the most it ever held."""
    key = "VmHWM" if most else "VmRSS"
    status = Path(f"/proc/{server.process.pid}/status").read_text()
    return int(next(s for s in status.splitlines() if s.startswith(key)).split()[1]) / 1e3


ANSWERS_S = 20.0
"""A server that is kept busy answers when that is over; a machine that is slowed down within a few
seconds."""
BREATH = threading.Event()
"""Never set. Between two requests of somebody who works while others send."""


def endless(first: bytes, piece: bytes = b"x" * 65_536) -> Iterator[bytes]:
    yield first
    while True:
        yield piece


def part(name: str, file: str) -> bytes:
    head = f'--edge\r\nContent-Disposition: form-data; name="{name}"; filename="{file}"\r\n\r\n'
    return head.encode()


FORM = {"Content-Type": "multipart/form-data; boundary=edge"}


@pytest.mark.parametrize(
    ("path", "first", "head", "most"),
    [
        ("photos", part("file", "a.jpg"), FORM, 41e6),
        ("entries", b'{"text": "', {"Content-Type": "application/json"}, 2.1e6),
    ],
)
def test_an_endless_body_is_cut_off_where_its_route_ends(
    server: Server, http: httpx.Client, path: str, first: bytes, head: dict, most: float
) -> None:
    job, sent = new_job(http), 0

    def counted() -> Iterator[bytes]:
        nonlocal sent
        for piece in endless(first):
            sent += len(piece)
            yield piece

    try:
        answer = http.post(f"/api/jobs/{job}/{path}", content=counted(), headers=head)
        assert answer.status_code == 413
        assert "Send less" in answer.json()["detail"]
    except (httpx.WriteError, httpx.ReadError):
        """The line was cut while it was still sending."""
    assert sent < most + 15e6, "what lies in the line's own buffers, and no more"
    assert http.get("/api/health").status_code == 200


def test_a_body_that_says_it_is_too_large_is_refused_before_it_comes(server: Server) -> None:
    with socket.create_connection(("127.0.0.1", server.port)) as line:
        line.sendall(
            b"POST /api/jobs HTTP/1.1\r\nHost: 127.0.0.1:%d\r\nContent-Type: application/json\r\n"
            b"Content-Length: 99000000000\r\n\r\n" % server.port
        )
        assert b" 413 " in line.recv(2000)


def test_only_so_many_files_are_on_their_way_at_once(server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    lines = []
    for _ in range(bounds.MOST_AT_ONCE):
        line = socket.create_connection(("127.0.0.1", server.port))
        line.sendall(
            b"POST /api/jobs/%d/recordings HTTP/1.1\r\nHost: 127.0.0.1:%d\r\n"
            b"Content-Length: 900000\r\nContent-Type: multipart/form-data; boundary=edge\r\n\r\n--edge"
            % (job, server.port)
        )
        lines.append(line)
    form = {"files": recording_file(), "data": {"stick": "left"}}
    for _ in range(200):
        answer = http.post(f"/api/jobs/{job}/recordings", **form)
        if answer.status_code == 503:
            break
    assert answer.status_code == 503
    assert answer.headers["retry-after"] == "5"
    assert http.post(f"/api/jobs/{job}/entries", json={"text": "words"}).status_code == 201
    for line in lines:
        line.close()
    for _ in range(200):
        answer = http.post(f"/api/jobs/{job}/recordings", **form, headers={"X-Try": "again"})
        if answer.status_code != 503:
            break
    assert answer.status_code in (201, 409)


def webp_of(width: int, height: int) -> bytes:
    """A picture of two kilobytes that asks for a canvas of any size."""
    small = io.BytesIO()
    Image.new("RGB", (16, 16)).save(small, "WEBP", lossless=True)
    frame = small.getvalue()[12:]
    canvas = (width - 1).to_bytes(3, "little") + (height - 1).to_bytes(3, "little")
    body = b"WEBPVP8X" + struct.pack("<I", 10) + b"\0\0\0\0" + canvas + frame
    return b"RIFF" + struct.pack("<I", len(body)) + body


def png_head(width: int, height: int) -> bytes:
    def chunk(kind: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        )

    sizes = struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)
    rows = chunk(b"IDAT", zlib.compress(b"\0" * 100))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", sizes) + rows + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("kind", "body"), [("WEBP", webp_of(4000, 4001)), ("PNG", png_head(10_000, 5_001))]
)
def test_pixels_are_counted_before_they_are_decoded(kind: str, body: bytes) -> None:
    with pytest.raises(FileError, match=f"up to {MOST_PIXELS[kind] // 1_000_000} million"):
        remake(io.BytesIO(body))


@pytest.mark.parametrize("how", [{"lossless": True}, {"lossless": False}])
def test_a_webps_size_is_read_off_its_head(how: dict) -> None:
    made = io.BytesIO()
    Image.new("RGB", (4096, 16), "red").save(made, "WEBP", **how)
    assert remake(made).size == (2048, 8)


def table_of(rows: int) -> bytes:
    t = np.arange(rows) * 1000
    v = np.round(512 + 400 * np.sin(t / 3e6)).astype(int)
    made = io.BytesIO()
    made.write(b"# hollow-pin-recording: 1\n# range.x: 0,1023\n# range.y: 0,1023\nt_us,x,y,step\n")
    columns = {"t_us": t, "x": v, "y": v, "step": np.repeat(["still"], rows)}
    bare = csv.WriteOptions(include_header=False, quoting_style="none")
    csv.write_csv(pyarrow.table(columns), made, bare)
    return made.getvalue()


def test_nobody_waits_for_a_large_import_and_it_can_be_stopped(tmp_path: Path) -> None:
    """As many rows as a take holds: nobody waits, and what is stopped leaves nothing."""
    server = start_server(tmp_path)
    body = {"file": ("hour.csv", table_of(MOST_SAMPLES), "text/csv")}
    waited: list[float] = []
    with server.client(120) as http, ThreadPoolExecutor(1) as other:
        job = new_job(http)

        def bring_in() -> httpx.Response:
            with server.client(120) as own:
                return own.post(f"/api/jobs/{job}/recordings", files=body, data={"stick": "left"})

        coming = other.submit(bring_in)
        phases = set()
        while not coming.done():
            phases |= {i["phase"] for i in http.get("/api/imports").json()}
            began = time.monotonic()
            http.post(f"/api/jobs/{job}/entries", json={"text": "words"}).raise_for_status()
            waited.append(time.monotonic() - began)
            BREATH.wait(0.03)
        assert coming.result().status_code == 201
        assert phases >= {"reads", "measures"}
        assert max(waited) < ANSWERS_S, "the pen was held"
        assert sorted(waited)[len(waited) // 2] < 0.5
        body["file"] = ("again.csv", table_of(MOST_SAMPLES // 4), "text/csv")
        coming = other.submit(bring_in)
        while not coming.done():
            for i in http.get("/api/imports").json():
                http.delete(f"/api/imports/{i['id']}")
            BREATH.wait(0.01)
        if coming.result().status_code != 201:
            assert "Nothing of the file" in coming.result().json()["detail"]
            assert len(http.get(f"/api/jobs/{job}").json()["takes"]) == 1
        assert http.delete("/api/imports/9").status_code == 404
    assert held_mb(server, most=True) < 640
    server.stop()


def test_hostile_uploads_at_once_leave_the_server_small_and_answering(tmp_path: Path) -> None:
    server = start_server(tmp_path)
    bombs = [
        webp_of(3999, 4000),
        webp_of(16_000, 16_000),
        png_head(9_999, 5_000),
        b"\0" * 30_000_000,
    ]
    slowest = 0.0
    with server.client(120) as http, ThreadPoolExecutor(30) as many:
        job = new_job(http)

        def send(i: int) -> int:
            with server.client(120) as own:
                if i % 3 == 0:
                    file = {"file": ("t.csv", bombs[3], "text/csv")}
                    return own.post(f"/api/jobs/{job}/recordings", files=file).status_code
                file = {"file": ("a.webp", bombs[i % 4], "image/webp")}
                return own.post(f"/api/jobs/{job}/photos", files=file).status_code

        sent = [many.submit(send, i) for i in range(60)]
        while not all(s.done() for s in sent):
            began = time.monotonic()
            assert http.get("/api/tray").status_code == 200
            slowest = max(slowest, time.monotonic() - began)
            BREATH.wait(0.05)
    assert {s.result() for s in sent} <= {201, 409, 422, 503}
    assert held_mb(server, most=True) < 800
    assert slowest < ANSWERS_S
    server.stop()
