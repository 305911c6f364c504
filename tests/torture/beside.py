"""Copies made while a take runs at 1 kHz: nothing is lost, and how long its samples were held up."""

from __future__ import annotations

import json
import struct
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
from websockets.sync.client import connect

from conftest import new_job, new_take, start_server
from sticks import recording_file

RATE_HZ, FRAME = 1000, 10


def copies_beside_a_take(folder: Path, copies: int) -> tuple[list[str], str]:
    """Whatever is wrong, and the longest that a sample waited from its sending to its being seen."""
    server, faults = start_server(folder), []
    with server.client(120) as http:
        job = new_job(http)
        for _ in range(12):
            form = {"stick": "right", "again": "yes"}
            http.post(f"/api/jobs/{job}/recordings", files=recording_file(), data=form)
        alone = _held_up(
            server.port, new_take(http, job, {"kind": "gamepad", "name": "pad"}), [], 0
        )
        take = new_take(http, job, {"kind": "gamepad", "name": "pad"})
        sent, worst = _held_up(server.port, take, faults, copies, str(folder))
        view = http.get(f"/api/takes/{take}").json()
        kept = view["readings"]["recording"]["samples"] if view["readings"] else 0
        if kept != sent:
            faults.append(f"{sent - kept} of {sent} samples are lost")
    size = sum(p.stat().st_size for p in folder.glob("hollow-pin.db*")) / 1e6
    server.stop()
    return faults, (
        f"{copies} copies of {size:.0f} MB beside {sent} samples at 1 kHz; a sample was seen after "
        f"{1e3 * worst:.0f} ms at the most, {1e3 * alone[1]:.0f} ms without a copy"
    )


def _held_up(
    port: int, take: int, faults: list[str], copies: int, data: str = ""
) -> tuple[int, float]:
    sent_at: list[float] = []
    seen_after: list[float] = []
    over = threading.Event()
    with connect(f"ws://127.0.0.1:{port}/api/takes/{take}/live") as socket:

        def listen() -> None:
            seen = 0
            while True:
                message = socket.recv(timeout=60)
                if isinstance(message, bytes):
                    seen += struct.unpack_from("<I", message)[0]
                    seen_after.append(time.monotonic() - sent_at[seen // FRAME - 1])
                elif json.loads(message)["type"] == "ended":
                    return

        def copy() -> None:
            for _ in range(copies):
                done = subprocess.run(
                    [sys.executable, "-m", "hollow_pin.cli", "backup", "--data", data],
                    capture_output=True, text=True, check=False,
                )  # fmt: skip
                if done.returncode:
                    faults.append(f"a copy failed: {done.stdout}{done.stderr}")
            over.set()

        listening = threading.Thread(target=listen)
        listening.start()
        copying = threading.Thread(target=copy)
        copying.start()
        began = time.monotonic()
        while not over.is_set() or len(sent_at) * FRAME < 3 * RATE_HZ:
            t = (len(sent_at) * FRAME + np.arange(FRAME)) * 1e3 / RATE_HZ
            frame = np.column_stack((t, np.zeros((FRAME, 2)))).astype("<f8")
            due = began + (len(sent_at) + 1) * FRAME / RATE_HZ
            time.sleep(max(0.0, due - time.monotonic()))
            sent_at.append(time.monotonic())
            socket.send(frame.tobytes())
        socket.send('{"do": "lost"}')
        listening.join()
        copying.join()
    return len(sent_at) * FRAME, max(seen_after)
