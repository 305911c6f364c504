"""A database that cannot be written to for a while costs no sample; one that cannot for longer ends
the take at once and says why."""

from __future__ import annotations

import asyncio
import json
import re
import sqlite3
import threading
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

import httpx
import numpy as np
import pytest
from websockets.sync.client import connect

from benches import begun, new_bench
from conftest import Server, new_job, new_take, refused, start_server
from hollow_pin.bench.takes import finish_take, tracker_for
from hollow_pin.capture import session as capture
from hollow_pin.capture.session import Session, TakeEnding
from hollow_pin.core.recording import AxisRange
from hollow_pin.sources.source import Block
from hollow_pin.store.database import Database

AT = "2026-03-01T10:00:00.000+00:00"


class Beating:
    """Ten samples every 10 ms, with some that cannot go on record."""

    ranges = (AxisRange(0, 1023),) * 2

    def __init__(self, blocks: int) -> None:
        self.left, self.given = blocks, 0
        self.cues: list[str | None] = []

    def cue(self, step: str | None) -> None:
        self.cues.append(step)

    def notes(self) -> dict[str, str]:
        return {}

    async def blocks(self) -> AsyncIterator[Block]:
        while self.left:
            self.left -= 1
            await asyncio.sleep(0.01)
            t = (self.given + np.arange(10)) * 1000
            self.given += 10
            yield Block(t.astype(np.int64), np.full((10, 2), 512.0))


class Lies(Beating):
    """Each block holds a value outside the range and a time that runs back."""

    async def blocks(self) -> AsyncIterator[Block]:
        async for block in super().blocks():
            block.raw[3, 1] = 1024
            block.t_us[6] -= 4000
            yield block


FIRST = 300
"""Samples on record before another program holds the database."""


def on_record(db: sqlite3.Connection) -> int:
    return db.execute("SELECT coalesce(sum(length(step)), 0) FROM block").fetchone()[0]


class Recorded(NamedTuple):
    ended: TakeEnding
    told: list[str | None]
    """What was said of writing being held up, and None when it went on."""
    notes: dict[str, str]
    database: Database
    before: int
    """Samples on record when the other program began."""


def recorded(folder: Path, source: Beating, held_until: str | None = None) -> Recorded:
    """Record from a source. From when FIRST samples are on record, another program may hold the
    database, until it was "told" or the take has "ended"."""
    database, job = new_bench(folder)
    take = begun(database, job)
    told: list[str | None] = []
    over = {"told": threading.Event(), "ended": threading.Event()}

    def hear(why: str | None) -> None:
        told.append(why)
        over["told"].set()

    session = Session(database, take.id, source, tracker_for(database, take, None), held_up=hear)

    def hold() -> int:
        if held_until is None:
            return 0
        with closing(sqlite3.connect(database.path, isolation_level=None, timeout=20)) as other:
            while on_record(other) < FIRST:
                over["ended"].wait(0.01)
            other.execute("BEGIN IMMEDIATE")
            before = on_record(other)
            assert over[held_until].wait(30)
            other.execute("ROLLBACK")
        return before

    with ThreadPoolExecutor(2) as threads:
        holding = threads.submit(hold)
        ended = threads.submit(asyncio.run, session.run()).result(60)
        over["ended"].set()
        before = holding.result(60)
    finish_take(database, take.id, ended.state, ended.because, AT, session.notes())
    return Recorded(ended, told, session.notes(), database, before)


def kept(one: Recorded) -> int:
    with one.database.reading() as db:
        return on_record(db)


def test_a_locked_database_is_outlasted_without_a_sample_lost(tmp_path: Path) -> None:
    one = recorded(tmp_path, Beating(150), held_until="told")
    assert one.ended.because == "the source ended"
    assert kept(one) == 1500 > one.before
    assert one.told[0] is not None
    assert "locked" in one.told[0]
    assert one.told[-1] is None, "said when it was over"


def test_what_cannot_be_written_for_too_long_ends_the_take_and_keeps_what_was_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(capture, "BUFFERED_S", 0.6)
    one = recorded(tmp_path, Beating(10**6), held_until="ended")
    assert one.ended.state == "interrupted"
    assert one.ended.because is not None
    assert re.match(r"nothing could be written for [1-9]\d* s: .*locked", one.ended.because)
    assert kept(one) == one.before >= FIRST


def test_samples_that_cannot_go_on_record_are_counted_and_the_rest_is_kept(tmp_path: Path) -> None:
    one = recorded(tmp_path, Lies(20))
    assert one.notes == {"refused-samples": "40"}
    assert kept(one) == 160
    with one.database.reading() as db:
        headers = json.loads(db.execute("SELECT headers FROM take").fetchone()[0])
    assert headers["refused-samples"] == "40"


def test_a_source_hears_of_a_step_when_it_changes(tmp_path: Path) -> None:
    """Else a jig that never reads fills its line with the same words."""
    source = Beating(60)
    recorded(tmp_path, source)
    assert source.cues == ["still"]


# On a server


def until_ended(socket) -> dict:
    while True:
        message = socket.recv(timeout=30)
        told = json.loads(message) if isinstance(message, str) else {}
        if told.get("type") == "refused":
            return {"state": told["message"]}
        if told.get("type") == "ended":
            return told


def test_a_take_that_a_stopping_server_ends_says_so(tmp_path: Path) -> None:
    server = start_server(tmp_path)
    with server.client() as http:
        take = new_take(http, new_job(http))
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as socket:
        socket.recv(timeout=20)
        server.stop()
    assert not list(tmp_path.glob("hollow-pin.db-*")), "a copy of the folder is the bench"
    with closing(sqlite3.connect(tmp_path / "hollow-pin.db")) as db:
        state, because = db.execute("SELECT state, ended_because FROM take").fetchone()
    assert (state, because) == ("interrupted", "the server was ended (SIGTERM)")


def test_two_windows_never_both_record_a_take(server: Server, http: httpx.Client) -> None:
    """Opened within moments of each other, nineteen of forty did, and the bench was lost."""
    for _ in range(5):
        take = new_take(http, new_job(http))
        url = f"ws://127.0.0.1:{server.port}/api/takes/{take}/live?pace=fast"
        begin = threading.Barrier(2)

        def window(url: str = url, begin: threading.Barrier = begin) -> str:
            begin.wait()
            with connect(url) as socket:
                return until_ended(socket)["state"]

        with ThreadPoolExecutor(2) as both:
            said = [f.result(60) for f in [both.submit(window) for _ in range(2)]]
        assert said.count("complete") == 1
        (other,) = (s for s in said if s != "complete")
        assert other == "before" or "another window" in other


def test_opening_a_step_again_changes_nothing_until_it_records(
    server: Server, http: httpx.Client
) -> None:
    take = new_take(http, new_job(http), {"kind": "gamepad", "name": "Plover"})
    url = f"ws://127.0.0.1:{server.port}/api/takes/{take}/live"
    t = np.arange(6000, dtype=float)
    rest = np.column_stack((t, np.zeros(6000), np.zeros(6000))).astype("<f8")
    with connect(url) as socket:
        socket.send(rest.tobytes())
        socket.send('{"do": "lost"}')
        until_ended(socket)
    before = http.get(f"/api/takes/{take}").json()
    with connect(f"{url}?step=rim"):
        assert http.get(f"/api/takes/{take}").json() == before
    with connect(url) as socket:
        ended = until_ended(socket)
        assert ended["state"] == "before", "the page would call it interrupted, by itself"
        assert "has ended" in refused(socket)
    with connect(f"{url}?step=turn") as socket:
        assert "this stick cannot" in refused(socket)
    with connect(f"{url}?step=rim") as socket:
        socket.send('{"do": "redo", "step": "turn"}')
        error = json.loads(socket.recv(timeout=10))
        assert "no step of this take" in error["message"]
    assert http.get(f"/api/takes/{take}").json() == before
