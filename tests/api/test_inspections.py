"""A module on the jig over the line: led by the server, and nothing kept of one that was stopped."""

from __future__ import annotations

import json
from pathlib import Path

import httpx
from websockets.sync.client import ClientConnection, connect

from conftest import Server, refused


def begun(http: httpx.Client) -> int:
    part = http.post("/api/parts", json={"name": "Module", "kind": "module", "ohms": 10_000}).json()
    body = {"lot": "BC-1", "lot_size": 20, "aql": 4.0}
    made = http.post(f"/api/parts/{part['id']}/inspections", json=body)
    assert made.status_code == 201, made.text
    return int(made.json()["id"])


def jig(server: Server, inspection: int) -> ClientConnection:
    return connect(f"ws://127.0.0.1:{server.port}/api/inspections/{inspection}/jig")


def refusal(server: Server, inspection: int, said: str) -> str:
    with jig(server, inspection) as line:
        line.send(said)
        return refused(line)


def test_a_module_on_the_jig_is_coached_and_may_be_stopped(
    server: Server, http: httpx.Client, jig_beside: Path
) -> None:
    inspection = begun(http)
    with jig(server, inspection) as line:
        with jig(server, inspection) as second:
            assert "another window" in refused(second)
        line.send(json.dumps({"port": str(jig_beside)}))
        printed = json.loads(line.recv(timeout=20))
        assert (printed["type"], printed["step"]) == ("now", "still")
        line.send(json.dumps({"do": "something else"}))
        line.send(json.dumps({"do": "stop"}))
        while printed["type"] != "ended":
            printed = json.loads(line.recv(timeout=10))
    assert printed["jig_id"] is None
    assert "stopped before its end" in printed["because"]
    looked = http.get(f"/api/inspections/{inspection}").json()
    assert looked["units"] == []


def test_a_jig_that_is_not_there_says_so(server: Server, http: httpx.Client) -> None:
    inspection = begun(http)
    long = "/dev/serial/" + "n" * 120
    missing = refusal(server, inspection, json.dumps({"port": long}))
    assert missing == f"4403 There is no port {long}. Is the jig plugged in?", "all of it"
    assert "4403" in refusal(server, inspection, "[]")
    assert "4404" in refusal(server, 2**40, json.dumps({"port": "/dev/nothing"}))
