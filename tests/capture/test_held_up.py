"""A database that cannot be written to for a while costs no sample; one that cannot for longer ends
the take at once and says why."""

from __future__ import annotations

import asyncio
import json
import sqlite3
import threading
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

import httpx
import numpy as np
import pytest
from websockets.sync.client import connect

from benches import begun, new_bench
from conftest import Server, new_job, new_take, start_server
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


def recorded(
    folder: Path, source: Beating, locked_s: float, before_s: float = 0.2
) -> tuple[TakeEnding, int, list[str | None], dict[str, str], Database]:
    """Record from a source while another program holds the database for a while."""
    database, job = new_bench(folder)
    take = begun(database, job)
    told: list[str | None] = []
    session = Session(
        database, take.id, source, tracker_for(database, take, None), held_up=told.append
    )

    def hold() -> None:
        with closing(sqlite3.connect(database.path, isolation_level=None)) as other:
            threading.Event().wait(before_s)
            other.execute("BEGIN IMMEDIATE")
            threading.Event().wait(locked_s)
            other.execute("COMMIT")

    holder = threading.Thread(target=hold)
    holder.start()
    with ThreadPoolExecutor(1) as thread:
        ended = thread.submit(asyncio.run, session.run()).result(60)
    holder.join()
    finish_take(database, take.id, ended.state, ended.because, AT, session.notes())
    with database.reading() as db:
        kept = db.execute("SELECT sum(length(step)) FROM block").fetchone()[0]
    return ended, kept, told, session.notes(), database


def test_a_locked_database_is_outlasted_without_a_sample_lost(tmp_path: Path) -> None:
    source = Beating(250)
    ended, kept, told, _, _ = recorded(tmp_path, source, locked_s=2.0)
    assert ended.because == "the source ended"
    assert kept == 2500
    assert told[0] is not None
    assert "locked" in told[0]
    assert told[-1] is None, "said when it was over"


def test_what_cannot_be_written_for_too_long_ends_the_take_and_keeps_what_was_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(capture, "BUFFERED_S", 1.0)
    ended, kept, _, _, _ = recorded(tmp_path, Beating(10**6), locked_s=3.0, before_s=0.5)
    assert ended.state == "interrupted"
    assert ended.because.startswith("nothing could be written for 1 s: ")
    assert 200 < kept < 700


def test_samples_that_cannot_go_on_record_are_counted_and_the_rest_is_kept(tmp_path: Path) -> None:
    _, kept, _, notes, database = recorded(tmp_path, Lies(20), locked_s=0)
    assert notes == {"refused-samples": "40"}
    assert kept == 160
    with database.reading() as db:
        headers = json.loads(db.execute("SELECT headers FROM take").fetchone()[0])
    assert headers["refused-samples"] == "40"


def test_a_source_hears_of_a_step_when_it_changes(tmp_path: Path) -> None:
    """Else a jig that never reads fills its line with the same words."""
    source = Beating(60)
    recorded(tmp_path, source, locked_s=0)
    assert source.cues == ["still"]


# On a server


def until_ended(socket) -> dict:
    while True:
        message = socket.recv(timeout=30)
        if isinstance(message, str) and json.loads(message)["type"] == "ended":
            return json.loads(message)


def test_a_take_that_a_stopping_server_ends_says_so(tmp_path: Path) -> None:
    server = start_server(tmp_path)
    with httpx.Client(base_url=server.base, timeout=30) as http:
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
                try:
                    return until_ended(socket)["state"]
                except Exception as closed:
                    return str(closed)

        with ThreadPoolExecutor(2) as both:
            said = sorted(f.result(60) for f in [both.submit(window) for _ in range(2)])
        assert said[0] == "complete"
        assert "another window" in said[1] or "has ended" in said[1]


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
    with connect(f"{url}?step=turn") as socket, pytest.raises(Exception, match="this stick cannot"):
        socket.recv(timeout=10)
    with connect(f"{url}?step=rim") as socket:
        socket.send('{"do": "redo", "step": "turn"}')
        error = json.loads(socket.recv(timeout=10))
        assert "no step of this take" in error["message"]
    assert http.get(f"/api/takes/{take}").json() == before
