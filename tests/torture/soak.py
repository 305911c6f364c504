"""Hours of three sticks at 1 kHz at once, as fast as they will go, with what the server holds."""

from __future__ import annotations

import json
import threading
import time
from pathlib import Path

import httpx
from websockets.sync.client import connect

from conftest import Server, new_job, start_server

STILL_S = 3600


def soak(folder: Path, hours: int) -> tuple[list[str], str]:
    """As many takes of an hour of Still, by three sticks at once. Whatever is wrong, and how memory
    and handles went."""
    server, faults = start_server(folder), []
    held: list[tuple[float, int]] = []
    with server.client(600) as http:
        model = _model(http)
        routine = http.post(
            "/api/routines",
            json={"name": "An hour of rest", "steps": ["still"], "still_s": STILL_S},
        )
        routine = routine.raise_for_status().json()["id"]
        job = new_job(http, "GS-700", model_id=model)
        samples = 0
        for _ in range(hours):
            takes = [_begin(http, job, stick, routine) for stick in ("left", "right", "third")]
            threads = [threading.Thread(target=_run, args=(server, t, faults)) for t in takes]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            for take in takes:
                view = http.get(f"/api/takes/{take}").json()
                samples += view["readings"]["recording"]["samples"] if view["readings"] else 0
                if view["take"]["state"] != "complete":
                    faults.append(f"take {take}: {view['take']['ended_because']}")
            held.append(_held(server))
    server.stop()
    if held and (held[-1][0] > 1.2 * held[0][0] + 20 or held[-1][1] > held[0][1] + 10):
        faults.append("memory or handles grew")
    went = ", ".join(f"{mb:.0f} MB and {handles} handles" for mb, handles in held)
    return faults, f"{hours} hours, {samples} samples of six axes; after each hour {went}"


def _model(http: httpx.Client) -> str:
    sensors = [{"axis": "x", "kind": "hall"}, {"axis": "y", "kind": "hall"}]
    stick = {"axes": 2, "sprung": True, "gate": "round", "sensors": sensors}
    body = {
        "name": f"Soaked {time.monotonic_ns()}", "bits": 12, "rate_hz": 1000, "lo": 0, "hi": 4095,
        "sticks": [stick | {"name": n} for n in ("left", "right", "third")],
    }  # fmt: skip
    return http.post("/api/models", json=body).raise_for_status().json()["id"]


def _begin(http: httpx.Client, job: int, stick: str, routine: str) -> int:
    source = {"kind": "stand-in", "condition": "sound"}
    body = {"stick": stick, "source": source, "routine_id": routine}
    return http.post(f"/api/jobs/{job}/takes", json=body).raise_for_status().json()["id"]


def _run(server: Server, take: int, faults: list[str]) -> None:
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live?pace=fast") as socket:
        while True:
            try:
                message = socket.recv(timeout=300)
            except Exception as wrong:
                faults.append(f"take {take}: {wrong}")
                return
            if isinstance(message, str) and json.loads(message)["type"] == "ended":
                return


def _held(server: Server) -> tuple[float, int]:
    status = Path(f"/proc/{server.process.pid}/status").read_text()
    rss = int(next(s for s in status.splitlines() if s.startswith("VmRSS")).split()[1]) / 1e3
    return rss, len(list(Path(f"/proc/{server.process.pid}/fd").iterdir()))
