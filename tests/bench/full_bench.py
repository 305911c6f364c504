"""A bench with 10,000 jobs and 100,000 takes, 10,000 parts and 100,000 movements: how long every page
of the API takes."""

from __future__ import annotations

import json
import random
import time
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from sqlite3 import Connection
from statistics import median

import httpx
from pydantic import TypeAdapter

from conftest import start_server
from hollow_pin.core.parts import PART_LABEL
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.take import VERSION, measure_take
from hollow_pin.store.database import Database
from hollow_pin.store.ledger import index_words
from sticks import performed

CONTROLLERS = 2_500
VISITS = 4
TAKES = 10
OPEN = 400
PARTS, MOVEMENTS = 10_000, 10
WORDS = (
    "drifts",
    "creeps",
    "jumps",
    "left",
    "right",
    "flick",
    "clears",
    "rover",
    "quiz",
    "cable",
    "loose",
    "sand",
    "morning",
    "always",
    "since",
    "holiday",
    "up",
)


def fill(folder: Path) -> None:
    """Put it all in, with readings of real stand-ins. No samples: pages other than plots need none."""
    database = Database(folder)
    adapter = TypeAdapter(TakeReadings)
    bodies = [
        adapter.dump_json(measure_take(performed(c).recording)).decode()
        for c in ("worn", "dirty", "sound", "offset")
    ]
    drawn = random.Random(1)
    now = datetime(2026, 11, 1, tzinfo=UTC)
    with closing(database.connect()) as db:
        db.execute("PRAGMA synchronous = OFF")
        db.execute("BEGIN")
        job_id = take_id = 0
        for c in range(1, CONTROLLERS + 1):
            db.execute(
                "INSERT INTO controller (id, tag, model_id, created_at) VALUES (?, ?, 'plover', 't')",
                (c, f"GS-{c:05}"),
            )
            for visit in range(VISITS):
                job_id += 1
                came = now - timedelta(days=200 * (VISITS - visit) - c % 190)
                at = came.isoformat(timespec="milliseconds")
                left = visit == VISITS - 1 and c <= OPEN
                complaint = " ".join(drawn.choices(WORDS, k=9))
                db.execute(
                    "INSERT INTO job (id, controller_id, stick, complaint, moves, station, ended, "
                    "opened_at, closed_at) VALUES (?, ?, 'left', ?, 'no', ?, ?, ?, ?)",
                    (
                        job_id,
                        c,
                        complaint,
                        "decide" if left else "closed",
                        None if left else "signed-off",
                        at,
                        None if left else at,
                    ),
                )
                for n in range(TAKES):
                    take_id += 1
                    when = (came + timedelta(minutes=n)).isoformat(timespec="milliseconds")
                    db.execute(
                        "INSERT INTO take (id, seq, job_id, stick, stage, state, usable, source_kind, "
                        "source_name, ranges, gate, started_at, ended_at, routine) VALUES "
                        "(?, ?, ?, ?, 'as received', 'complete', 1, 'gamepad', 'pad', "
                        "'[[0, 1023], [0, 1023]]', 'round', ?, ?, '{}')",
                        (take_id, take_id, job_id, ("left", "right")[n % 2], when, when),
                    )
                    db.execute(
                        "INSERT INTO reading (take_id, version, body) VALUES (?, ?, ?)",
                        (take_id, VERSION, drawn.choice(bodies)),
                    )
                    db.execute(
                        "INSERT INTO ledger (job_id, at, role, kind, text, take_id) "
                        "VALUES (?, ?, 'morning bench', 'take', 'As received.', ?)",
                        (job_id, when, take_id),
                    )
                index_words(db, job_id)
        fill_shelf(db, drawn)
        db.execute("UPDATE counter SET happened = ?", (take_id,))
        db.execute("COMMIT")


def fill_shelf(db: Connection, drawn: random.Random) -> None:
    """Parts of every kind, each come in several lots, used and thrown away; some ordered."""
    kinds = sorted(PART_LABEL)
    for part in range(1, PARTS + 1):
        name = f"{' '.join(drawn.choices(WORDS, k=3))} {part}"
        ohms = drawn.choice((2300.0, 5000.0, 10_000.0))
        db.execute(
            "INSERT INTO part (id, name, kind, footprint, ohms, sensor, place, reorder_at) "
            "VALUES (?, ?, ?, ?, ?, 'potentiometer', ?, 2)",
            (part, name, drawn.choice(kinds), f"P-{part % 40}", ohms, f"drawer {part % 90}"),
        )
        hand = 0
        for n in range(MOVEMENTS):
            moved = drawn.randint(1, 9) if n % 3 == 0 else -min(hand, drawn.randint(0, 3)) or 1
            hand += moved
            db.execute(
                "INSERT INTO movement (part_id, at, kind, count, hand, held, hand_after, held_after, "
                "lot) VALUES (?, '2026-10-01T08:00:00.000+00:00', ?, ?, ?, 0, ?, 0, ?)",
                (
                    part,
                    "received" if moved > 0 else "scrapped",
                    abs(moved),
                    moved,
                    hand,
                    f"BC-{part % 7}-{n}",
                ),
            )
    for order in range(1, 201):
        db.execute(
            "INSERT INTO part_order (id, source, ordered_at) VALUES (?, 'Brackish Components', "
            "'2026-10-01T08:00:00.000+00:00')",
            (order,),
        )
        for _ in range(5):
            db.execute(
                "INSERT INTO order_line (order_id, part_id, count) VALUES (?, ?, 4)",
                (order, drawn.randint(1, PARTS)),
            )


def pages(http: httpx.Client) -> dict[str, str]:
    tag = f"GS-{7:05}"
    controller = http.get("/api/controllers", params={"tag": tag}).json()["controller"]["id"]
    return {
        "tray": "/api/tray",
        "counts": "/api/counts",
        "newest jobs": "/api/jobs",
        "a page deep in": "/api/jobs?before=5000&limit=60",
        "open jobs": "/api/jobs?opened=true&limit=60",
        "by a word": "/api/jobs?text=holiday",
        "by three words": "/api/jobs?text=holiday+sand+loose",
        "by two letters": "/api/jobs?text=up",
        "by tag": "/api/jobs?text=02499",
        "by a word nobody said": "/api/jobs?text=elsewhere",
        "a controller": f"/api/controllers?tag={tag}",
        "its history": f"/api/controllers/{controller}/history",
        "a job": "/api/jobs/28",
        "a job's ledger as a table": "/api/jobs/28/ledger.csv",
        "a take": "/api/takes/280",
        "two takes compared": "/api/comparison?before=271&after=279",
        "models": "/api/models",
        "bench checks": "/api/studies",
        "the shelf": "/api/parts",
        "the shelf deep in": "/api/parts?after=8000",
        "parts by a word": "/api/parts?text=cable",
        "parts by a lot": "/api/parts?text=BC-3-0",
        "parts to be ordered": "/api/parts?low=true",
        "a part": "/api/parts/77",
        "orders": "/api/orders",
        "parts for a job": "/api/jobs/28/parts?remedy=replaced&stick=left",
        "how a shell is opened": "/api/jobs/28/opening",
    }


def full_bench(folder: Path, times: int = 15) -> str:
    """Every page, asked for again and again, the first time apart; a yardstick: the least answer."""
    fill(folder)
    server = start_server(folder)
    lines = []
    with server.client(60) as http:

        def asked(path: str) -> float:
            began = time.perf_counter()
            http.get(path).raise_for_status()
            return (time.perf_counter() - began) * 1e3

        http.get("/api/openapi.json").raise_for_status()
        least = median(asked("/api/health") for _ in range(times))
        for name, path in pages(http).items():
            first = asked(path)
            again = sorted(asked(path) for _ in range(times))
            size = len(http.get(path).content) / 1e3
            lines.append(
                f"{name}: first {first:.0f} ms, then p50 {median(again):.1f}, "
                f"slowest {again[-1]:.1f} ms, {size:.0f} kB"
            )
    server.stop()
    size = sum(f.stat().st_size for f in folder.iterdir() if f.is_file()) / 1e9
    sizes = json.dumps({"jobs": CONTROLLERS * VISITS, "takes": CONTROLLERS * VISITS * TAKES})
    return f"{sizes}, {size:.1f} GB; the least answer {least:.1f} ms\n  " + "\n  ".join(lines)
