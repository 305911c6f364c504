"""Centring over the line, as the page does it: watched by the source of a take, kept, and put on
record with the work."""

from __future__ import annotations

import json

import httpx
import numpy as np
import pytest
from websockets.sync.client import ClientConnection, connect

from conftest import Server, new_job, new_take, refused
from hollow_pin.bench.centring import begin
from hollow_pin.core.cautions import cautions_for
from hollow_pin.store.database import Database
from sticks import recording_file

OFFSET = {"kind": "stand-in", "condition": "offset"}


def centring(server: Server, job: int, kind: str = "trimmed", more: str = "") -> ClientConnection:
    url = f"ws://127.0.0.1:{server.port}/api/jobs/{job}/centring?kind={kind}&pace=fast{more}"
    return connect(url)


def refusal(server: Server, job: int, kind: str = "trimmed", more: str = "") -> str:
    with centring(server, job, kind, more) as line:
        return refused(line)


def until(line: ClientConnection, *states: str) -> dict:
    """The next thing told that is one of these states, or of this type."""
    while True:
        printed = json.loads(line.recv(timeout=30))
        if printed["type"] in states or printed.get("state") in states:
            return printed


def say(line: ClientConnection, do: str, **more: object) -> None:
    line.send(json.dumps({"do": do, **more}))


def flick(line: ClientConnection, bearing: float) -> dict:
    a = np.radians(bearing)
    say(line, "steer", x=float(118 * np.sin(a)), y=float(118 * np.cos(a)))
    until(line, "pushed")
    say(line, "steer")
    return until(line, "settled", "begin", "touched", "done")


def measured(server: Server, http: httpx.Client, job: int, source: dict = OFFSET) -> int:
    """A quick take on the stand-in, run to its end."""
    take = new_take(http, job, source, routine_id="quick")
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live?pace=fast") as line:
        while (
            json.loads(m)["type"] != "ended"
            if isinstance(m := line.recv(timeout=60), str)
            else True
        ):
            pass
    return take


def do_as_told(line: ClientConnection) -> dict:
    """Turn, push and let go as it says until it is centred."""
    by = {"x": 0.0, "y": 0.0}
    was = {"x": None, "y": None}
    now = flick(line, 30.0)
    for bearing in range(0, 60 * 77, 77):
        axis = now.get("next_axis")
        if now["state"] == "done":
            return now
        if axis is None or now["state"] not in ("settled", "turned"):
            now = flick(line, bearing)
            continue
        at = now["settled"][axis]
        moved = None if was[axis] is None else at - was[axis]
        by[axis] = 0.08 if not moved or abs(moved) < 0.05 else by[axis] * -at / moved
        was[axis] = at
        turns = now["turns"][axis]
        say(line, "turn", axis=axis, by=float(np.clip(by[axis], -0.5, 0.5)))
        while now["turns"][axis] == turns and now["state"] != "touched":
            now = json.loads(line.recv(timeout=30))
        now = until(line, "turned", "settled", "touched")
    raise AssertionError(f"never centred: {now}")


def test_a_stick_is_centred_kept_and_on_record_and_the_next_take_shows_it(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = measured(server, http, job)
    before = http.get(f"/api/takes/{take}").json()["readings"]["still"]["rest_offset"]
    assert before > 6
    with Database(server.data).reading() as db:
        known = begin(db, job, "trimmed", "2026-03-01T12:00:00.000+00:00").centring
    assert known._jitter > 0, "what it trembles by is known from the take"
    assert known._step > 0
    with centring(server, job) as line:
        begun = until(line, "begun")
        assert (begun["take_id"], begun["stick"], begun["axes"]) == (take, "left", 2)
        assert do_as_told(line)["returns"] == 0
        say(line, "finish")
        kept = until(line, "ended")["centring_id"]
    view = http.get(f"/api/jobs/{job}/centrings/{kept}").json()
    assert view["words"].startswith("Centred from x ")
    assert view["kept"]["found"]["confirmed"]
    assert sum(view["kept"]["found"]["turns"].values()) >= 2
    cautions = [c.code for c in cautions_for("trimmed")]
    body = {"kind": "trimmed", "cautions": cautions, "centring_id": kept, "note": "two loose ones"}
    wrong = http.post(f"/api/jobs/{job}/work", json=body | {"kind": "eased"})
    assert wrong.json()["errors"][0]["field"] == "centring_id"
    other = new_job(http)
    assert http.post(f"/api/jobs/{other}/work", json=body).status_code == 404
    http.post(f"/api/jobs/{job}/work", json=body).raise_for_status()
    again = http.post(f"/api/jobs/{job}/work", json=body)
    assert "on record with other work" in again.json()["errors"][0]["message"]
    (entry,) = [e for e in http.get(f"/api/jobs/{job}").json()["ledger"] if e["kind"] == "work"]
    assert view["words"] in entry["text"]
    assert "two loose ones" in entry["text"]
    after = http.get(f"/api/takes/{measured(server, http, job)}").json()
    assert after["readings"]["still"]["rest_offset"] < 1.2
    http.post(f"/api/jobs/{job}/entries/{entry['id']}/undo", json={"revision": entry["revision"]})


def test_what_was_read_before_the_window_was_closed_is_kept(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    measured(server, http, job)
    with centring(server, job) as line:
        flick(line, 30.0)
        while flick(line, 200.0)["state"] != "settled":
            pass
    for _ in range(100):
        answer = http.get(f"/api/jobs/{job}/centrings").json()
        if answer:
            break
    assert answer[0]["found"]["before"] is not None
    assert not answer[0]["found"]["confirmed"]


def test_only_what_is_turned_by_hand_on_a_sprung_stick_by_a_live_source_can_be_watched(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    assert "Measure it live first" in refusal(server, job)
    sent = recording_file("offset")
    http.post(f"/api/jobs/{job}/recordings", files=sent, data={"stick": "left"}).raise_for_status()
    assert "Measure it live first" in refusal(server, job)
    file = http.get(f"/api/jobs/{job}").json()["takes"][0]["id"]
    assert "A file cannot be watched" in refusal(server, job, more=f"&take_id={file}")
    assert "Nothing of it is turned" in refusal(server, job, "replaced")
    assert "There is no job 99999" in refusal(server, 99_999)
    take = measured(server, http, new_job(http))
    assert "of another job" in refusal(server, job, more=f"&take_id={take}")
    closed = new_job(http, intake={"consent": "no"})
    measured(server, http, closed)
    assert "has not agreed" in refusal(server, closed)
    hides = new_job(http)
    measured(server, http, hides, {"kind": "stand-in", "condition": "dead-zone"})
    blindly = refusal(server, hides)
    assert blindly.startswith("4403 Its source shows exactly zero at rest")
    assert blindly.endswith("Measure it by a rawer source first."), "and all of it is said"
    paddle = new_job(http, model_id="turnstone", stick="paddle")
    new_take(http, paddle, {"kind": "stand-in", "condition": "sound"}, "paddle")
    assert "Without a spring" in refusal(server, paddle)


def test_a_stick_is_watched_by_one_window_only(server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    measured(server, http, job)
    with centring(server, job) as line:
        until(line, "begun")
        assert "another window" in refusal(server, job)


def test_a_pad_in_the_page_is_watched_and_rubbish_is_told_off(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "gamepad", "name": "Plover on a cable"})
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as line:
        line.send(np.array([[0.0, 0.0, 0.0]]).astype("<f8").tobytes())
        line.send('{"do": "lost"}')
        for message in line:
            if isinstance(message, str) and json.loads(message)["type"] == "ended":
                break
    t = np.arange(0, 8000, 4.0)
    x = np.full(len(t), 0.06)
    for push in (500, 2500, 4500):
        x[(t > push) & (t < push + 400)] = 0.95
    frames = np.column_stack((t, x, 0 * t)).astype("<f8")
    with centring(server, job) as line:
        assert until(line, "begun")["source_kind"] == "gamepad"
        line.send(b"rubbish")
        assert "whole samples" in until(line, "error")["message"]
        say(line, "dance")
        assert "not known" in until(line, "error")["message"]
        for i in range(0, len(frames), 25):
            line.send(frames[i : i + 25].tobytes())
        assert until(line, "settled")["settled"]["x"] == pytest.approx(6.0, abs=0.1)
        say(line, "lost")
        ended = until(line, "ended")
        assert ended["because"] == "the controller was disconnected."
        assert ended["centring_id"] is not None


def test_a_centring_in_which_nothing_was_read_is_no_record(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    measured(server, http, job)
    with centring(server, job) as line:
        until(line, "begun")
        say(line, "finish")
        assert until(line, "ended")["centring_id"] is None
    assert http.get(f"/api/jobs/{job}/centrings").json() == []
