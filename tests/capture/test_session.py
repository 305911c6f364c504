"""A take is in the database before it is seen, and outlives its source, its window and its server."""

from __future__ import annotations

import asyncio
import json
import struct
import threading
from collections.abc import AsyncIterator
from dataclasses import replace
from pathlib import Path

import httpx
import numpy as np
import pytest
from websockets.sync.client import ClientConnection, connect

from benches import begun, new_database, taken_in
from conftest import Server, new_job, new_take, refused, start_server
from hollow_pin.api import live as live_api
from hollow_pin.bench.takes import finish_take, stand_in_for, tracker_for, view_take
from hollow_pin.capture.session import Session, WrittenSamples
from hollow_pin.core.recording import to_percent
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.tracking.tracker import StepTracker
from hollow_pin.sources.page import BadFrame, PageSource
from hollow_pin.sources.source import Block, SourceLost
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.takes import load_recording
from loops import run

AT = "2026-03-01T10:00:00.000+00:00"
GAMEPAD = {"kind": "gamepad", "name": "Plover on a cable"}


class PullsOut:
    """A source whose cable comes out."""

    def __init__(self, source: StandInSource, blocks: int) -> None:
        self.source, self.left = source, blocks
        self.ranges, self.cue, self.notes = source.ranges, source.cue, source.notes

    async def blocks(self) -> AsyncIterator[Block]:
        async for block in self.source.blocks():
            if self.left == 0:
                raise SourceLost("the controller was disconnected")
            self.left -= 1
            yield block


def begin(tmp_path: Path):
    database = new_database(tmp_path)
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    take = begun(database, job)
    source = StandInSource(stand_in_for(database, take, "offset"), in_real_time=False)
    return database, take, source


def test_every_block_is_written_before_it_is_seen(tmp_path: Path) -> None:
    database, take, source = begin(tmp_path)
    behind = []
    seen_samples = 0

    def seen(what: WrittenSamples) -> None:
        nonlocal seen_samples
        seen_samples += len(what.t)
        with database.reading() as db:
            sizes = db.execute("SELECT sum(length(step)) FROM block").fetchone()[0]
        behind.append(sizes - seen_samples)

    session = Session(
        database, take.id, PullsOut(source, 40), tracker_for(database, take, None), seen
    )
    ended = run(session.run())
    assert ended.state == "interrupted"
    assert ended.because == "the controller was disconnected"
    assert len(behind) == 40
    assert min(behind) >= 0


def test_what_goes_farther_than_is_known_stays_in_the_picture(tmp_path: Path) -> None:
    """Led as one that ends short, a device that does not went out of the drawing."""
    database, take, source = begin(tmp_path)
    drawn: list[float] = []
    unknown = tuple(replace(r, calibration="unknown") for r in source.ranges)
    tracker = tracker_for(database, take, None)
    session = Session(
        database,
        take.id,
        PullsOut(source, 60),
        tracker,
        lambda what: drawn.append(float(np.abs(what.u).max())),
        ranges=unknown,
    )
    run(session.run())
    assert max(drawn) == 100.0
    with database.reading() as db:
        raw = load_recording(db, take).raw
    assert np.abs(to_percent(raw, unknown)).max() > 110, "the record has it as it came"


def test_a_pulled_cable_keeps_what_was_recorded_and_says_what_is_usable(tmp_path: Path) -> None:
    database, take, source = begin(tmp_path)
    session = Session(database, take.id, PullsOut(source, 65), tracker_for(database, take, None))
    ended = run(session.run())
    finish_take(database, take.id, ended.state, ended.because, AT)
    with database.reading() as db:
        view = view_take(db, take.id, "everyday", AT)
    assert view.readings.recording.samples == 65 * 100
    assert view.readings.still is not None
    assert view.readings.let_go is not None
    assert view.readings.rim is None


def frame(*samples: tuple[float, float, float]) -> bytes:
    return np.array(samples, "<f8").tobytes()


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"abc", "whole samples"),
        (b"", "whole samples"),
        (frame((0, float("nan"), 0)), "not a number"),
        (frame((0, 0, 1.5)), "outside −1 to 1"),
        (frame((5, 0, 0), (4, 0, 0)), "runs backwards"),
        (frame((1e300, 0, 0)), "milliseconds"),
    ],
)
def test_a_bad_frame_is_refused_whole(data: bytes, why: str) -> None:
    with pytest.raises(BadFrame, match=why):
        PageSource().feed(data)


def test_a_browsers_y_is_turned_up() -> None:
    source = PageSource()
    source.feed(frame((1.25, 0.5, -1.0)))

    async def first() -> Block:
        return await anext(aiter(source.blocks()))

    block = run(first())
    assert block.t_us.tolist() == [1250]
    assert block.raw.tolist() == [[0.5, 1.0]]


@pytest.mark.parametrize("turns", range(5))
def test_a_source_is_stopped_though_a_sample_comes_at_that_very_moment(turns: int) -> None:
    """“Stop” was lost now and then, and a module on the jig was led through the whole routine."""

    async def stopped() -> bool:
        source, heard = PageSource(), 0

        async def listened() -> None:
            nonlocal heard
            async for _ in source.blocks():
                heard += 1

        listening = asyncio.create_task(listened())
        await asyncio.sleep(0)
        await asyncio.sleep(0)
        source.feed(frame((1.0, 0.5, -1.0)))
        for _ in range(turns):
            await asyncio.sleep(0)
        listening.cancel()
        done, _ = await asyncio.wait({listening}, timeout=2)
        return bool(done) and listening.cancelled()

    assert run(stopped())


# Over the WebSocket, on a real server


def live(server: Server, take: int, query: str = "") -> ClientConnection:
    return connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live{query}")


def until(socket: ClientConnection, kind: str, **fields: object) -> dict:
    """The next message of a kind whose fields are these."""
    while True:
        message = socket.recv(timeout=60)
        if isinstance(message, str):
            printed = json.loads(message)
            if printed["type"] == kind and all(printed.get(k) == v for k, v in fields.items()):
                return printed


def readings(http: httpx.Client, take: int) -> dict:
    return http.get(f"/api/takes/{take}").json()


def test_a_take_on_the_stand_in_runs_through_by_itself(server: Server, http: httpx.Client) -> None:
    take = new_take(http, new_job(http), {"kind": "stand-in", "condition": "sound"})
    with live(server, take, "?pace=fast") as socket:
        said = until(socket, "ended")
    assert said == {"type": "ended", "state": "complete", "because": None}
    view = readings(http, take)
    assert view["take"]["state"] == "complete"
    assert view["meaning"]["try_first"] == "none"


def test_kill_9_keeps_everything_recorded_so_far(tmp_path: Path) -> None:
    server = start_server(tmp_path)
    with server.client() as http:
        take = new_take(http, new_job(http), {"kind": "stand-in", "condition": "offset"})
    drawn = 0
    with live(server, take) as socket:
        while drawn < 3 * 250:
            message = socket.recv(timeout=20)
            if isinstance(message, bytes):
                drawn += struct.unpack_from("<I", message)[0]
        server.kill()
    again = start_server(server.data)
    with again.client() as fresh:
        view = readings(fresh, take)
    again.stop()
    assert view["take"]["state"] == "interrupted"
    assert "program ended" in view["take"]["ended_because"]
    assert view["readings"]["recording"]["samples"] >= drawn
    assert view["may_resume"]


def test_a_closed_window_interrupts_and_one_step_can_be_done_again(
    server: Server, http: httpx.Client
) -> None:
    take = new_take(http, new_job(http), {"kind": "stand-in", "condition": "sound"})
    with live(server, take, "?pace=fast") as socket:
        until(socket, "progress", step="rim")
    for _ in range(200):
        view = readings(http, take)
        if view["take"]["state"] == "interrupted":
            break
        threading.Event().wait(0.02)
    assert view["take"]["ended_because"] == "the window was closed"
    assert view["readings"]["let_go"]["releases"] == 16
    with live(server, take, "?pace=fast&step=rim") as socket:
        until(socket, "ended", state="complete")
    view = readings(http, take)
    assert view["readings"]["rim"]["coverage"] == 1
    assert view["readings"]["let_go"]["releases"] == 16


def test_a_step_that_the_routine_had_not_can_be_added_to_its_take(
    server: Server, http: httpx.Client
) -> None:
    """What would decide is often what a quick take left out."""
    take = new_take(
        http, new_job(http), {"kind": "stand-in", "condition": "sound"}, routine_id="quick"
    )
    with live(server, take, "?pace=fast") as socket:
        until(socket, "ended", state="complete")
    with live(server, take, "?pace=fast&step=turn") as socket:
        assert "Turn: this stick cannot do it" in refused(socket)
    assert readings(http, take)["take"]["routine"]["steps"] == ["still", "let-go", "rim"]
    with live(server, take, "?pace=fast&step=hold") as socket:
        until(socket, "ended", state="complete")
    view = readings(http, take)
    assert view["take"]["routine"]["steps"] == ["still", "let-go", "rim", "hold"]
    assert view["readings"]["hold"] is not None
    assert view["readings"]["let_go"]["releases"] == 8


def test_a_take_runs_in_one_window_only(server: Server, http: httpx.Client) -> None:
    take = new_take(http, new_job(http), GAMEPAD)
    with live(server, take) as socket:
        socket.send(frame((0, 0, 0)))
        until(socket, "progress")
        with live(server, take) as second:
            assert "another window" in refused(second)


def test_gamepad_samples_are_kept_as_they_came_and_rubbish_is_told_off(
    server: Server, http: httpx.Client
) -> None:
    take = new_take(http, new_job(http), GAMEPAD)
    rng = np.random.default_rng(1)
    t = np.cumsum(rng.uniform(0.5, 1.5, 5000))
    xy = rng.uniform(-0.01, 0.01, (5000, 2))
    with live(server, take) as socket:
        for i in range(0, 5000, 40):
            socket.send(np.column_stack((t, xy))[i : i + 40].astype("<f8").tobytes())
        socket.send(b"rubbish")
        assert "whole samples" in until(socket, "error")["message"]
        socket.send('{"do": "dance"}')
        assert "not known" in until(socket, "error")["message"]
        socket.send('{"do": "lost"}')
        assert until(socket, "ended")["because"] == "the controller was disconnected"
    lines = http.get(f"/api/takes/{take}/recording.csv").text.splitlines()
    assert "# y-turned: yes" in lines
    rows = [line.split(",") for line in lines if line[0].isdigit()]
    assert len(rows) == 5000
    assert [float(r[1]) for r in rows] == xy[:, 0].tolist()
    assert [float(r[2]) for r in rows] == (-xy[:, 1]).tolist()


def test_a_thousand_samples_a_second_on_a_slow_screen_lose_none(
    server: Server, http: httpx.Client
) -> None:
    """The page may lag; the record may not."""
    take = new_take(http, new_job(http), GAMEPAD)
    n = 40_000
    t = np.arange(n, dtype=float)
    samples = np.column_stack((t, np.zeros(n), np.zeros(n))).astype("<f8")
    with live(server, take) as socket:
        for i in range(0, n, 20):
            socket.send(samples[i : i + 20].tobytes())
        socket.send('{"do": "lost"}')
        until(socket, "ended")
    assert readings(http, take)["readings"]["recording"]["samples"] == n


@pytest.mark.parametrize(("later_s", "told"), [(0.09, 1), (0.11, 2)])
def test_a_take_that_runs_ahead_of_the_clock_is_told_of_as_often_as_it_can_be_read(
    later_s: float, told: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A screen drew itself anew for every twentieth of a second of a take of two minutes that was over
    in five; what is new is told at once all the same."""
    clock = [100.0]
    monkeypatch.setattr(live_api.time, "monotonic", lambda: clock[0])
    outbox = live_api._Outbox()
    progress = StepTracker(usual_routine(2, True)).progress()
    for at in (0.0, 5.0, 10.0):
        outbox.show(WrittenSamples(np.array([at]), np.zeros((1, 2)), progress))
    clock[0] += later_s
    outbox.show(WrittenSamples(np.array([15.0]), np.zeros((1, 2)), progress))
    sent = [outbox.queue.get_nowait() for _ in range(outbox.queue.qsize())]
    assert sum(isinstance(s, bytes) for s in sent) == 4
    assert sum(isinstance(s, str) for s in sent) == told
    outbox.show(WrittenSamples(np.array([15.1]), np.zeros((1, 2)), replace(progress, says="Done.")))
    assert "Done." in str(outbox.queue.get_nowait()) + str(outbox.queue.get_nowait())
