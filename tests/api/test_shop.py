"""Models, routines, sources and bench checks over the API: every refusal names its field, and nothing
that is refused changes anything."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import httpx
import numpy as np
import pytest
from websockets.sync.client import connect

from conftest import Server, new_job, new_take
from sticks import recording_file

KNOT = {
    "name": "Knot",
    "sticks": [
        {
            "name": "lever",
            "axes": 1,
            "sprung": True,
            "gate": "round",
            "sensors": [{"axis": "x", "kind": "hall", "side": "left"}],
        }
    ],
    "bits": 12,
    "rate_hz": 500,
    "lo": -2048,
    "hi": 2047,
}


def named(answer: httpx.Response, status: int) -> set[str]:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    return {e["field"] for e in answer.json()["errors"]}


def test_the_four_models_of_the_bench_are_there_with_their_sensors(http: httpx.Client) -> None:
    models = {m["id"]: m for m in http.get("/api/models").json()}
    assert {"plover", "dunlin", "turnstone", "skua"} <= models.keys()
    paddle = models["turnstone"]["sticks"][0]
    assert (paddle["axes"], paddle["sprung"], len(paddle["sensors"])) == (1, False, 1)
    assert models["plover"]["sticks"][0]["sensors"][0]["ohms"] == 10_000
    assert models["skua"]["sticks"][0]["gate"] == "square"


@pytest.mark.parametrize(
    ("change", "status", "field"),
    [
        ({"bits": 99}, 422, "bits"),
        ({"hi": -9999}, 409, "hi"),
        ({"name": " "}, 422, "name"),
        ({"sticks": []}, 422, "sticks"),
        ({"sticks": [KNOT["sticks"][0] | {"axes": 2}]}, 409, "sticks.0.sensors"),
        ({"sticks": [KNOT["sticks"][0] | {"gate": "oval"}]}, 422, "sticks.0.gate"),
        ({"limits": {"nothing.at_all": {"fine": 1}}}, 409, "limits"),
        ({"colour": "blue"}, 422, "colour"),
        ({"name": "plover"}, 409, "name"),
    ],
)
def test_a_model_that_makes_no_sense_names_its_field(
    http: httpx.Client, change: dict, status: int, field: str
) -> None:
    before = http.get("/api/models").json()
    assert field in named(http.post("/api/models", json=KNOT | change), status)
    assert http.get("/api/models").json() == before


def test_a_limit_that_is_no_number_is_refused_and_the_models_stay_readable(
    http: httpx.Client,
) -> None:
    for value in ("NaN", "Infinity", "-1"):
        text = json.dumps(KNOT)[:-1] + f', "limits": {{"still.rest_offset": {{"fine": {value}}}}}}}'
        headers = {"content-type": "application/json"}
        answer = http.post("/api/models", content=text, headers=headers)
        assert "limits.still.rest_offset.fine" in named(answer, 422)
    assert http.get("/api/models").status_code == 200


@pytest.mark.parametrize(
    ("change", "status", "field"),
    [
        ({"steps": []}, 422, "steps"),
        ({"steps": ["still", "still"]}, 409, "steps"),
        ({"steps": ["turn", "still"]}, 409, "steps"),
        ({"steps": ["dance"]}, 422, "steps.0"),
        ({"still_s": 4000}, 422, "still_s"),
        ({"name": "Standard"}, 409, "name"),
    ],
)
def test_a_routine_that_makes_no_sense_names_its_field(
    http: httpx.Client, change: dict, status: int, field: str
) -> None:
    body = {"name": "Doormat", "steps": ["still"]} | change
    assert field in named(http.post("/api/routines", json=body), status)


def test_the_routines_that_ship_cannot_be_changed_and_say_how_long_they_take(
    http: httpx.Client,
) -> None:
    routines = {r["routine"]["id"]: r for r in http.get("/api/routines").json()}
    assert routines["quick"]["seconds"]["two-axes"] < 45
    assert routines["paddle"]["usual_for"] == ["paddle"]
    assert "two-axes" not in routines["paddle"]["seconds"]
    body = {"name": "Mine", "steps": ["still"]}
    assert "id" in named(http.put("/api/routines/quick", json=body), 409)
    assert "id" in named(http.delete("/api/routines/standard"), 409)
    assert http.delete("/api/routines/own-999").status_code == 404


def test_a_source_that_cannot_be_read_is_refused_before_anything_is_recorded(
    http: httpx.Client,
) -> None:
    job = new_job(http)
    for source, field in (
        ({"kind": "serial", "port": "/etc/passwd"}, "source.port"),
        ({"kind": "event-device", "path": "/dev/null"}, "source"),
        ({"kind": "gamepad", "name": "p", "axis_x": 1, "axis_y": 1}, "source.axis_y"),
        ({"kind": "stand-in", "condition": "tilted-magnet"}, "condition"),
    ):
        answer = http.post(f"/api/jobs/{job}/takes", json={"stick": "left", "source": source})
        assert field in named(answer, 409)
    takes = http.get(f"/api/jobs/{job}").json()["takes"]
    assert [t for t in takes if t["source_kind"] != "stand-in"] == []
    answer = http.post(
        f"/api/jobs/{job}/takes",
        json={"stick": "left", "source": {"kind": "stand-in"}, "routine_id": "paddle"},
    )
    assert "routine" in named(answer, 409)


def test_sources_say_what_to_do_where_there_is_none(http: httpx.Client) -> None:
    answer = http.get("/api/sources").json()
    assert answer["event_devices"] or answer["advice"]


def test_a_flipped_axis_is_turned_once_and_remembered(server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    source = {"kind": "gamepad", "name": "Crossed", "axis_x": 3, "axis_y": 2, "flip_x": True}
    take = new_take(http, job, source)
    rows = np.array([(i, 0.5, 0.25) for i in range(20)], "<f8")
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as socket:
        socket.send(rows.tobytes())
        while True:
            message = socket.recv(timeout=20)
            if isinstance(message, bytes):
                n = struct.unpack_from("<I", message)[0]
                u = np.frombuffer(message, "<f4", 2 * n, 4 + 8 * n).reshape(2, n)
                break
        socket.send('{"do": "lost"}')
        while (
            json.loads(m).get("type") != "ended" if isinstance(m := socket.recv(20), str) else True
        ):
            pass
    assert u[:, 0].tolist() == [-50.0, -25.0]
    query = {"model_id": "plover", "source_kind": "gamepad", "source_name": "Crossed"}
    (answer,) = http.get("/api/mappings", params=query).json()
    assert answer == {"stick": "left", "axis_x": 3, "axis_y": 2, "flip_x": True, "flip_y": False}
    text = http.get(f"/api/takes/{take}/recording.csv").text
    assert "# source-flipped: x" in text
    assert "# source-axes: 3,2" in text


def test_an_envelope_is_small_and_a_stretch_without_samples_says_so(
    server: Server, http: httpx.Client
) -> None:
    take = new_take(http, new_job(http), {"kind": "stand-in", "condition": "sound"})
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live?pace=fast") as socket:
        while not isinstance(m := socket.recv(timeout=60), str) or '"ended"' not in m:
            pass
    body = http.get(f"/api/takes/{take}/envelope", params={"buckets": 100}).content
    n, axes, decimated, _ = struct.unpack_from("<4I", body)
    assert (axes, decimated) == (2, 1)
    assert n <= 200
    assert len(body) == 16 + 8 * n + 4 * n * axes
    whole = http.get(f"/api/takes/{take}/samples").content
    count = struct.unpack_from("<I", whole)[0]
    x = np.frombuffer(whole, "<f4", count, 8 + 4 * count)
    shown = np.frombuffer(body, "<f4", n, 16 + 8 * n)
    assert (shown.min(), shown.max()) == (x.min(), x.max())
    beyond = http.get(f"/api/takes/{take}/envelope", params={"from_s": 9000})
    assert "from_s" in named(beyond, 409)


def test_a_serial_jig_is_listed_probed_and_recorded(
    server: Server, http: httpx.Client, jig_beside: Path
) -> None:
    ports = http.get("/api/sources").json()["serial"]
    assert str(jig_beside) in {p["path"] for p in ports}
    job = new_job(http)
    take = new_take(http, job, {"kind": "serial", "port": str(jig_beside)}, routine_id="quick")
    seen = 0
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as socket:
        while seen < 500:
            message = socket.recv(timeout=20)
            if isinstance(message, bytes):
                seen += struct.unpack_from("<I", message)[0]
        socket.send('{"do": "stop"}')
        while not isinstance(m := socket.recv(timeout=20), str) or '"ended"' not in m:
            pass
    view = http.get(f"/api/takes/{take}").json()
    assert view["take"]["ranges"][0] == {"lo": 0, "hi": 4095, "calibration": None}
    assert view["readings"]["recording"]["samples"] >= seen
    assert view["readings"]["recording"]["rate_hz"] == pytest.approx(500, rel=0.03)
    paddle = new_job(http, model_id="turnstone", stick="paddle")
    body = {"stick": "paddle", "source": {"kind": "serial", "port": str(jig_beside)}}
    answer = http.post(f"/api/jobs/{paddle}/takes", json=body)
    assert "sends 2 axes a line" in answer.json()["detail"]


def test_a_bench_check_that_makes_no_sense_names_its_field(http: httpx.Client) -> None:
    job = new_job(http)
    body = {
        "source_kind": "stand-in",
        "source_name": "Stand-in",
        "roles": ["morning"],
        "sticks": [{"job_id": job, "stick": "left"}],
        "trials": 3,
    }
    for change, field in (
        ({"trials": 2}, "trials"),
        ({"roles": [" "]}, "roles"),
        ({"sticks": [{"job_id": job, "stick": "middle"}]}, "sticks"),
        ({"sticks": body["sticks"] * 2}, "sticks"),
    ):
        assert field in named(http.post("/api/studies", json=body | change), 409)
    made = http.post("/api/studies", json=body).json()
    assert made["cells"] == [{"stick": 0, "role": "morning", "takes": []}]
    assert http.delete(f"/api/studies/{made['study']['id']}").status_code == 204
    assert http.get(f"/api/studies/{made['study']['id']}").status_code == 404


def performed(
    server: Server, http: httpx.Client, job: int, stick: str, condition: str, routine: str
) -> int:
    """A take of a stand-in, run to its end."""
    take = new_take(http, job, {"kind": "stand-in", "condition": condition}, stick, routine)
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live?pace=fast") as socket:
        while not isinstance(m := socket.recv(timeout=60), str) or '"ended"' not in m:
            pass
    return take


def test_a_lever_is_no_reference_for_a_stick(server: Server, http: httpx.Client) -> None:
    """It was offered as one, and the page that it led to could only refuse."""
    stick = KNOT["sticks"][0] | {
        "name": "left",
        "axes": 2,
        "sensors": [{"axis": a, "kind": "hall", "side": "left"} for a in "xy"],
    }
    sticks = [KNOT["sticks"][0], stick, stick | {"name": "right"}]
    model = http.post("/api/models", json=KNOT | {"name": "Ruff", "sticks": sticks}).json()["id"]
    job = new_job(http, model_id=model, stick="left")
    takes = {}
    for name, routine in (("left", "quick"), ("lever", "lever"), ("right", "quick")):
        takes[name] = performed(server, http, job, name, "sound", routine)
        offered = http.get(f"/api/jobs/{job}").json()["reference"]
        if name != "right":
            assert offered is None, name
    assert offered == {"before": takes["right"], "after": takes["left"]}


def test_the_good_stick_is_the_reference_and_another_controllers_is_not(
    server: Server, http: httpx.Client
) -> None:
    job, other = new_job(http), new_job(http)
    worn, good, foreign = (
        performed(server, http, where, stick, condition, "quick")
        for where, stick, condition in (
            (job, "left", "worn"),
            (job, "right", "sound"),
            (other, "left", "sound"),
        )
    )
    query = {"before": good, "after": worn}
    refused = http.get("/api/comparison", params=query).json()
    assert refused["comparison"]["overall"] == "refused"
    answer = http.get("/api/comparison", params=query | {"reference": True}).json()
    assert answer["comparison"]["overall"] in ("worse", "mixed")
    assert "worse" in answer["sentence"].split(".")[0].lower()
    spread = next(r for r in answer["comparison"]["rows"] if r["path"] == "let_go.return_spread")
    assert spread["verdict"] == "worse"
    query = {"before": foreign, "after": worn, "reference": True}
    assert http.get("/api/comparison", params=query).json()["comparison"]["overall"] == "refused"


def test_a_calculator_answers_with_a_plot_and_names_what_is_out_of_bounds(
    http: httpx.Client,
) -> None:
    known = {c["name"]: c for c in http.get("/api/calculators").json()}
    assert known.keys() >= {"trim", "divider", "iron", "temperature", "dead-zone", "worth"}
    inputs = {
        "track_ohms": "10000",
        "trim_ohms": "10000",
        "series_ohms": "22000",
        "position": "0.53",
        "setting": "0.4",
        "supply_v": "3.3",
    }
    answer = http.post("/api/calculators/trim", json={"inputs": inputs}).json()
    assert {o["key"] for o in known["trim"]["outputs"]} == answer["values"].keys()
    (plot,) = answer["plots"]
    assert [len(c["x"]) for c in plot["curves"]] == [101] * 4
    wrong = http.post("/api/calculators/trim", json={"inputs": inputs | {"setting": "2"}})
    assert wrong.status_code == 422
    assert wrong.json()["errors"] == [
        {"field": "setting", "message": "2 is not a number from 0 to 1."}
    ]
    assert http.post("/api/calculators/prayer", json={"inputs": {}}).status_code == 404


def test_a_job_s_take_fills_in_what_it_knows(http: httpx.Client) -> None:
    job = new_job(http)
    assert http.get(f"/api/calculators/from-job/{job}").json() == {
        "track_ohms": "10000",
        "ordered_ohms": "10000",
        "bits": "10",
        "sensor": "potentiometer",
    }
    sent = recording_file("offset")
    http.post(f"/api/jobs/{job}/recordings", files=sent, data={"stick": "left"}).raise_for_status()
    answer = http.get(f"/api/calculators/from-job/{job}", params={"axis": "y"}).json()
    take = http.get(f"/api/jobs/{job}").json()["latest"]
    zone = {"shape": "axial", "inner_percent": "8", "outer_percent": "5", "rescaled": "yes"}
    body = {"inputs": zone, "job_id": job}
    curve, over = http.post("/api/calculators/dead-zone", json=body).json()["plots"]
    assert (curve["plane"], over["plane"]) == (False, True)
    rim, received = over["curves"][:2]
    assert max(abs(x) for x in rim["x"]) > 90
    assert max(abs(x) for x in received["x"]) == 100
    rest = http.get(f"/api/takes/{take}").json()["values"]["still.rest_y"]
    assert float(answer["rest_percent"]) == pytest.approx(rest, abs=0.01)
    assert float(answer["position"]) == pytest.approx(0.5 + rest / 200, abs=1e-4)


def test_a_decision_over_the_api(http: httpx.Client) -> None:
    job = new_job(http)
    sent = recording_file("offset")
    http.post(f"/api/jobs/{job}/recordings", files=sent, data={"stick": "left"}).raise_for_status()
    view = http.get(f"/api/jobs/{job}/decide").json()
    body = {"take_id": view["take"]["id"], "chosen": view["advised"]}
    made = http.post(f"/api/jobs/{job}/decisions", json=body)
    assert made.status_code == 201
    refused = http.post(f"/api/jobs/{job}/decisions", json=body | {"chosen": "replaced"})
    assert refused.status_code == 409
    assert refused.json()["errors"][0]["field"] == "reason"
    newest = http.get("/api/decisions").json()["outcomes"][0]
    assert newest["decision"]["chosen"] == view["advised"]
    tag = http.get(f"/api/jobs/{job}").json()["job"]["controller"]["tag"]
    assert (newest["tag"], newest["cause"]) == (tag, "Off centre"), "whose it was, and what of"
    money = {"rate": 30, "controller": 60, "parts": {"replaced": 9}}
    assert http.put("/api/money", json=money).json() == money
    assert http.get(f"/api/jobs/{job}/decide").json()["money"] == money
