"""The disk is full, again and again, under a server that is not started anew."""

from __future__ import annotations

import random
import threading
import time
from pathlib import Path

import httpx
from websockets.sync.client import connect

from conftest import Server, new_job, new_take, start_server
from hollow_pin.demo.pictures import photograph
from sticks import recording_file
from torture.disk import environment

FULL_S = 0.15


def server_on(folder: Path, library: Path) -> tuple[Server, Path]:
    """A server whose disk is full while a file is there; and that file."""
    sign = folder.parent / "full"
    return start_server(folder, env=environment(library, folder, full=sign)), sign


def fill_at_random(
    folder: Path, library: Path, times: int, seed: int
) -> tuple[list[str], dict[int, int]]:
    """Whatever is wrong, and how often each status was answered while there was no room."""
    server, sign = server_on(folder, library)
    draw, faults = random.Random(seed), []
    answered: dict[int, int] = {}
    notes: list[str] = []
    with server.client(60) as http:
        job = new_job(http)
        for i in range(times):
            take = new_take(http, job, {"kind": "stand-in", "condition": "sound"})
            with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as socket:
                reader = threading.Thread(target=_drain, args=(socket,))
                reader.start()
                time.sleep(draw.uniform(0, 0.2))
                sign.touch()
                until = time.monotonic() + FULL_S
                while time.monotonic() < until:
                    answer = _write(http, job, draw, f"note {i}-{len(notes)}.", notes)
                    answered[answer] = answered.get(answer, 0) + 1
                    if answer not in (201, 503, 507):
                        faults.append(f"time {i}: {answer} while there was no room")
                if http.get(f"/api/jobs/{job}").status_code != 200:
                    faults.append(f"time {i}: the job could not be read")
                sign.unlink()
                if not _recovers(http, job, f"after {i}.", notes):
                    faults.append(f"time {i}: nothing could be written once there was room")
                socket.send('{"do": "stop"}')
                reader.join(20)
            if not _ended(http, take):
                faults.append(f"time {i}: take {take} was not ended")
        words = " ".join(e["text"] for e in http.get(f"/api/jobs/{job}").json()["ledger"])
        faults += [f"“{n}” was confirmed and is not there" for n in notes if n not in words]
    server.stop()
    return faults, answered


def _drain(socket) -> None:
    try:
        while True:
            socket.recv(timeout=30)
    except Exception:
        return


def _write(http: httpx.Client, job: int, draw: random.Random, words: str, notes: list[str]) -> int:
    kind = draw.choice(("note", "note", "photo", "import"))
    if kind == "photo":
        photo = {"file": ("a.jpg", photograph("shell corner", 1), "image/jpeg")}
        return http.post(f"/api/jobs/{job}/photos", files=photo).status_code
    if kind == "import":
        data = {"stick": "right", "again": "yes"}
        return http.post(
            f"/api/jobs/{job}/recordings", files=recording_file(), data=data
        ).status_code
    status = http.post(f"/api/jobs/{job}/entries", json={"text": words}).status_code
    if status == 201:
        notes.append(words)
    return status


def _recovers(http: httpx.Client, job: int, words: str, notes: list[str]) -> bool:
    for _ in range(100):
        if http.post(f"/api/jobs/{job}/entries", json={"text": words}).status_code == 201:
            notes.append(words)
            return True
        threading.Event().wait(0.05)
    return False


def _ended(http: httpx.Client, take: int) -> bool:
    for _ in range(200):
        if http.get(f"/api/takes/{take}").json()["take"]["state"] != "recording":
            return True
        threading.Event().wait(0.05)
    return False
