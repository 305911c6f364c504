"""A source tried out over the line: what it is like is kept by model and source, and no take comes of
it."""

from __future__ import annotations

import json

import httpx
import numpy as np
import pytest
from websockets.sync.client import ClientConnection, connect

from conftest import Server, new_job, refused

ZONED = {"kind": "stand-in", "condition": "dead-zone"}
PAD = {"kind": "gamepad", "name": "A pad"}


def trying(server: Server, job: int) -> ClientConnection:
    return connect(f"ws://127.0.0.1:{server.port}/api/jobs/{job}/source-check?pace=fast")


def begin(line: ClientConnection, source: dict, stick: str = "left", **more: object) -> None:
    line.send(json.dumps({"do": "begin", "stick": stick, "source": source, **more}))


def until(line: ClientConnection, kind: str) -> dict:
    while True:
        printed = json.loads(line.recv(timeout=30))
        if printed["type"] == kind:
            return printed


def kept(http: httpx.Client, name: str) -> dict:
    (checks,) = (
        c for c in http.get("/api/models/plover/source-checks").json() if c["source_name"] == name
    )
    return checks


def refusal(server: Server, job: int, said: str) -> str:
    with trying(server, job) as line:
        line.send(said)
        return refused(line)


def test_what_hides_something_is_said_and_kept_for_the_model(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    with trying(server, job) as line:
        begin(line, ZONED)
        assert until(line, "begun")["source_name"] == "Stand-in"
        assert until(line, "ended") == {"type": "ended", "because": "", "kept": True}
    check = kept(http, "Stand-in")
    assert (check["stick"], check["check"]["standing"]) == ("left", "hides")
    assert "built-in-dead-zone" in [f["code"] for f in check["check"]["findings"]]
    assert http.get(f"/api/jobs/{job}").json()["takes"] == [], "no take comes of it"

    sound = new_job(http)
    with trying(server, sound) as line:
        begin(line, {"kind": "stand-in", "condition": "sound"})
        until(line, "ended")
    newest = kept(http, "Stand-in")["check"]
    # A machine that is busy makes any source uneven, and that hides nothing.
    assert newest["standing"] in ("clean", "usable"), "the newest counts"
    assert "built-in-dead-zone" not in [f["code"] for f in newest["findings"]]


def test_a_pad_by_frames_with_the_rawer_source_that_is_there(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    across = np.concatenate([np.linspace(-1, 1, 200), np.linspace(1, -1, 200)] * 2)
    angle = np.linspace(0, 7, 700)
    x = np.concatenate([across, 0 * across, np.sin(angle)])
    y = np.concatenate([0 * across, across, np.cos(angle)])
    x, y = x + 0.002 * np.sin(np.arange(len(x))), y + 0.002 * np.cos(np.arange(len(x)))
    rows = np.column_stack([np.arange(len(x)) * 5.0, np.clip(x, -1, 1), np.clip(y, -1, 1)])
    with trying(server, job) as line:
        begin(line, PAD, there=["hid"])
        until(line, "begun")
        line.send(rows[:1700].astype("<f8").tobytes())
        line.send(b"not samples")
        assert "whole samples" in until(line, "error")["message"]
        line.send(rows[1700:].astype("<f8").tobytes())
        # Enough was seen, so that it ends by itself.
        assert until(line, "ended")["kept"]
    check = kept(http, "A pad")["check"]
    assert check["rate_hz"] == pytest.approx(200, rel=0.01)
    assert (check["rawer"], check["standing"]) == ("hid", "clean")
    assert "with nothing in between" in check["advice"]


def test_what_is_ended_before_anything_came_is_not_kept(server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    with trying(server, job) as line:
        begin(line, {"kind": "gamepad", "name": "A silent pad"})
        until(line, "begun")
        line.send(json.dumps({"do": "finish"}))
        ended = until(line, "ended")
    assert (ended["kept"], "Too little came from it" in ended["because"]) == (False, True)
    names = [c["source_name"] for c in http.get("/api/models/plover/source-checks").json()]
    assert "A silent pad" not in names


def test_a_pad_that_is_pulled_out_keeps_what_was_seen_or_says_that_it_was_lost(
    server: Server, http: httpx.Client
) -> None:
    with trying(server, new_job(http)) as line:
        begin(line, {"kind": "gamepad", "name": "A pulled pad"})
        until(line, "begun")
        line.send(json.dumps({"do": "lost"}))
        ended = until(line, "ended")
    assert ended == {
        "type": "ended",
        "because": "the controller was disconnected.",
        "kept": False,
    }


def test_what_cannot_be_tried_out_says_why(server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    assert "no middle stick" in refusal(
        server, job, json.dumps({"do": "begin", "stick": "middle", "source": PAD})
    )
    assert "There is no port" in refusal(
        server,
        job,
        json.dumps(
            {"do": "begin", "stick": "left", "source": {"kind": "serial", "port": "/dev/x"}}
        ),
    )
    assert "4403" in refusal(server, job, "[]")
    assert "4404" in refusal(
        server, 2**40, json.dumps({"do": "begin", "stick": "left", "source": PAD})
    )


def test_one_window_at_a_time(server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    with trying(server, job) as line:
        begin(line, PAD)
        until(line, "begun")
        with trying(server, job) as second:
            assert "another window" in refused(second)
