"""The power is cut: everything that was confirmed is there."""

from __future__ import annotations

import random
import sqlite3
import subprocess
import sys
import threading
from pathlib import Path

from websockets.sync.client import connect

from conftest import new_job, new_take, start_server
from hollow_pin.bench.copies import verify_folder
from hollow_pin.bench.takes import recover_takes
from hollow_pin.demo.pictures import photograph
from hollow_pin.store.database import FILE_NAME, Database, migrations
from torture.disk import after_power_cut, environment

AT = "2026-03-01T10:00:00.000+00:00"


def confirmed_writes(
    server_data: Path, library: Path, log: Path, count: int
) -> list[tuple[int, str]]:
    """Run a server on a disk that tells, with a live take, and have it confirm writes of every kind.
    Returns what was confirmed, each with how long the log was by then: the note's, photo's or work's
    own words."""
    server = start_server(server_data, env=environment(library, server_data, log))
    confirmed: list[tuple[int, str]] = []
    with server.client() as http:
        job = new_job(http)
        take = new_take(http, job, {"kind": "stand-in", "condition": "worn"})
        url = f"ws://127.0.0.1:{server.port}/api/takes/{take}/live"
        over = threading.Event()
        with connect(url) as socket:

            def drain() -> None:
                while not over.is_set():
                    try:
                        socket.recv(timeout=0.1)
                    except TimeoutError:
                        continue
                    except Exception:
                        return

            listening = threading.Thread(target=drain)
            listening.start()
            for i in range(count):
                words = f"confirmed {i}."
                if i % 10 == 3:
                    photo = {"file": ("a.jpg", photograph("shell corner", i), "image/jpeg")}
                    answer = http.post(
                        f"/api/jobs/{job}/photos", files=photo, data={"caption": words}
                    )
                elif i % 10 == 6:
                    body = {"kind": "recalibrated", "note": words}
                    answer = http.post(f"/api/jobs/{job}/work", json=body)
                else:
                    answer = http.post(f"/api/jobs/{job}/entries", json={"text": words})
                assert answer.status_code == 201, answer.text
                confirmed.append((log.stat().st_size, words))
            server.kill()
            over.set()
            listening.join()
    return confirmed


def lost_in_cuts(
    log: Path, root: Path, confirmed: list[tuple[int, str]], folder: Path, cuts: int, seed: int
) -> list[str]:
    """Cut the power at so many random moments; whatever is wrong afterwards."""
    told, draw = log.read_bytes(), random.Random(seed)
    faults: list[str] = []
    for i in range(cuts):
        at = draw.randint(confirmed[0][0], len(told))
        target = folder / f"cut-{i}"
        target.mkdir()
        after_power_cut(told[:at], root, target)
        database = Database(target)
        recover_takes(database, AT)
        with database.reading() as db:
            words = " ".join(r[0] for r in db.execute("SELECT text FROM ledger"))
        faults += [
            f"cut {i}: “{w}” is lost" for before, w in confirmed if before <= at and w not in words
        ]
        faults += [f"cut {i}: {wrong}" for wrong in verify_folder(target).wrong]
        database.close()
        sqlite3.connect(target / "hollow-pin.db").close()
    return faults


def lost_in_migrations(folder: Path, library: Path, cuts: int, seed: int) -> list[str]:
    """Cut the power while a bench of an older version is brought up to date; whatever is wrong
    then."""
    data, log, draw = folder / "old", folder / "log", random.Random(seed)
    data.mkdir()
    path = data / FILE_NAME
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA journal_mode = WAL")
        for number, sql in migrations()[:4]:
            db.executescript(f"{sql}\nPRAGMA user_version = {number};")
        db.execute(
            "INSERT INTO controller (id, tag, model_id, created_at) VALUES (1, 'GS-1', 'plover', 't')"
        )
        db.execute(
            "INSERT INTO job (id, controller_id, stick, complaint, moves, station, opened_at) "
            "VALUES (1, 1, 'left', 'creeps', 'no', 'prove', 't')"
        )
        for i in range(200):
            db.execute(
                "INSERT INTO ledger (job_id, at, kind, text) VALUES (1, 't', 'note', ?)",
                (f"n{i}.",),
            )
            db.execute(
                "INSERT INTO photo (job_id, width, height, body, thumb, taken_at) "
                "VALUES (1, 1, 1, ?, ?, 't')",
                (bytes([i]) * 5000, b"t"),
            )
    db.close()
    before = {str(path): path.read_bytes()}
    subprocess.run(
        [sys.executable, "-m", "hollow_pin.cli", "check", "--data", str(data)],
        env=environment(library, data, log),
        capture_output=True,
        check=True,
    )
    journal = log.read_bytes()
    faults: list[str] = []
    for i in range(cuts):
        target = folder / f"cut-{i}"
        target.mkdir()
        after_power_cut(journal[: draw.randint(0, len(journal))], data, target, before)
        database = Database(target)
        with database.reading() as db:
            notes = db.execute("SELECT count(*) FROM ledger").fetchone()[0]
            photos = db.execute("SELECT count(DISTINCT sha256) FROM photo").fetchone()[0]
        if (notes, photos) != (200, 200):
            faults.append(f"cut {i}: {notes} notes and {photos} photos of 200")
        faults += [f"cut {i}: {wrong}" for wrong in verify_folder(target).wrong]
        database.close()
    return faults
