"""A server is killed, whatever it is doing; what was confirmed is there, once, and it starts again."""

from __future__ import annotations

import random
import subprocess
import sys
import threading
import uuid
from pathlib import Path

import httpx
from websockets.sync.client import connect

from conftest import Server, new_job, new_take, start_server
from hollow_pin.bench.copies import verify_folder
from hollow_pin.demo.pictures import photograph
from sticks import recording_file


class Clients:
    """People who write, take, bring files in, take photos and make copies, until the server is gone.
    What they were told is kept is in confirmed; a note that was not answered is sent again, by its
    key, to the next server."""

    def __init__(self, job: int) -> None:
        self.job = job
        self.confirmed: set[str] = set()
        self.told = threading.Event()
        self._unanswered: dict[str, str] = {}
        self._count = 0

    def until_gone(self, server: Server) -> list[threading.Thread]:
        work = (self._write, self._take, self._bring_in, self._photograph, self._copy)
        threads = [threading.Thread(target=w, args=(server,)) for w in work]
        for thread in threads:
            thread.start()
        return threads

    def _write(self, server: Server) -> None:
        with server.client(20) as http:
            try:
                while True:
                    waiting = dict(self._unanswered)
                    if not waiting:
                        self._count += 1
                        waiting = {f"note {self._count}.": str(uuid.uuid4())}
                        self._unanswered |= waiting
                    for words, key in waiting.items():
                        answer = http.post(
                            f"/api/jobs/{self.job}/entries",
                            json={"text": words},
                            headers={"Idempotency-Key": key},
                        )
                        if answer.status_code in (201, 409):
                            self.confirmed.add(words)
                            self.told.set()
                            del self._unanswered[words]
            except httpx.HTTPError:
                return

    def _take(self, server: Server) -> None:
        try:
            with server.client(20) as http:
                while True:
                    take = new_take(http, self.job, {"kind": "stand-in", "condition": "sound"})
                    url = f"ws://127.0.0.1:{server.port}/api/takes/{take}/live?pace=fast"
                    with connect(url) as socket:
                        for _ in range(200):
                            socket.recv(timeout=5)
        except Exception:
            return

    def _bring_in(self, server: Server) -> None:
        self._post(server, "recordings", recording_file, {"stick": "right", "again": "yes"})

    def _photograph(self, server: Server) -> None:
        body = photograph("shell corner", 1).read()
        self._post(server, "photos", lambda: {"file": ("a.jpg", body, "image/jpeg")}, {}, 10)

    def _post(self, server: Server, what: str, files, data: dict, most: int = 10**6) -> None:
        with server.client(20) as http:
            try:
                for _ in range(most):
                    http.post(f"/api/jobs/{self.job}/{what}", files=files(), data=data)
            except httpx.HTTPError:
                return

    def _copy(self, server: Server) -> None:
        subprocess.run(
            [sys.executable, "-m", "hollow_pin.cli", "backup", "--data", str(server.data)],
            capture_output=True,
            check=False,
            timeout=60,
        )


def kill_at_random(folder: Path, kills: int, seed: int) -> tuple[list[str], int]:
    """Whatever is wrong after so many kills, and how many writes were confirmed."""
    draw, faults, confirmed = random.Random(seed), [], 0
    clients: Clients | None = None
    for i in range(kills):
        try:
            server = start_server(folder)
        except AssertionError as wrong:
            return [*faults, f"kill {i}: the server did not start: {wrong}"], 0
        with server.client() as http:
            if clients is None:
                clients = Clients(new_job(http))
            faults += _wrong_with(http, clients, i)
            if i % 25 == 24:
                # A job keeps so many photos.
                confirmed += len(clients.confirmed)
                clients = Clients(new_job(http))
        threads = clients.until_gone(server)
        if i == kills - 1:
            clients.told.wait(60)
        threading.Event().wait(draw.uniform(0.05, 1.5))
        server.kill()
        for thread in threads:
            thread.join(60)
    server = start_server(folder)
    assert clients is not None
    with server.client() as http:
        faults += _wrong_with(http, clients, kills)
    server.stop()
    faults += list(verify_folder(folder).wrong)
    return faults, confirmed + len(clients.confirmed)


def _wrong_with(http: httpx.Client, clients: Clients, i: int) -> list[str]:
    view = http.get(f"/api/jobs/{clients.job}").json()
    notes = [e["text"] for e in view["ledger"] if e["kind"] == "note"]
    here = set(notes)
    wrong = [
        f"kill {i}: {n} stands there {notes.count(n)} times" for n in here if notes.count(n) > 1
    ]
    wrong += [f"kill {i}: take {t['id']} runs" for t in view["takes"] if t["state"] == "recording"]
    wrong += [f"kill {i}: {n} was confirmed and is lost" for n in clients.confirmed - here]
    return wrong
