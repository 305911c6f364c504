"""The API names what is wrong, answers as it is documented, and opens to nobody else."""

from __future__ import annotations

import json
from pathlib import Path

import httpx
import pytest
from websockets.exceptions import InvalidStatus
from websockets.sync.client import connect

from conftest import Server, new_job, new_take
from hollow_pin.core.take import measure_take
from hollow_pin.core.tracking.find_steps import spans_of
from sticks import performed, recording_file

AT = "2026-03-01T10:00:00.000+00:00"


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "field"),
    [
        ("GET", "/api/nothing", None, 404, None),
        ("GET", "/api/jobs/7777", None, 404, None),
        ("GET", "/api/takes/7777", None, 404, None),
        ("GET", "/api/jobs/many", None, 422, "job_id"),
        ("GET", "/api/comparison?before=1", None, 422, "after"),
        ("POST", "/api/jobs", {"tag": "GS-1", "model_id": "plover"}, 422, "stick"),
        ("POST", "/api/jobs", {"tag": "GS-1", "model_id": "x", "stick": "left"}, 409, "model_id"),
        ("POST", "/api/jobs", {"tag": "a", "stick": "left", "colour": 1}, 422, "colour"),
        ("PUT", "/api/jobs", {}, 405, None),
    ],
)
def test_every_refusal_is_problem_details_with_the_field(
    http: httpx.Client, method: str, path: str, body: dict | None, status: int, field: str | None
) -> None:
    answer = http.request(method, path, json=body)
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"
    problem = answer.json()
    assert problem["status"] == status
    assert problem["detail"]
    assert [e["field"] for e in problem["errors"]] == ([field] if field else [])


def test_a_bad_file_is_refused_by_place_and_nothing_is_stored(http: httpx.Client) -> None:
    job = new_job(http)
    good = recording_file()["file"][1].decode()
    lines = good.splitlines()
    lines[400] = lines[400].replace(",", ",x", 1)
    bad = {"file": ("bad.csv", "\n".join(lines).encode(), "text/csv")}
    answer = http.post(f"/api/jobs/{job}/recordings", files=bad, data={"stick": "left"})
    assert answer.status_code == 422
    assert answer.json()["errors"] == [{"field": "file", "message": answer.json()["detail"]}]
    assert "line 401, column x" in answer.json()["detail"]
    assert http.get(f"/api/jobs/{job}").json()["takes"] == []


def test_a_300_mb_upload_is_refused(http: httpx.Client, tmp_path: Path) -> None:
    job = new_job(http)
    big = tmp_path / "big.csv"
    with big.open("wb") as file:
        file.truncate(300_000_000)
    with big.open("rb") as file:
        answer = http.post(
            f"/api/jobs/{job}/recordings", files={"file": file}, data={"stick": "left"}
        )
    assert answer.status_code == 413
    assert "up to 269 MB" in answer.json()["detail"]
    assert http.get("/api/health").status_code == 200


def test_a_foreign_table_goes_through_preview_and_mapping(http: httpx.Client) -> None:
    job = new_job(http)
    rows = "t;a;b\n" + "".join(f"{i * 4};{100 + i % 3};{90 + i % 2}\n" for i in range(2000))
    file = {"file": ("log.txt", rows.encode(), "text/plain")}
    answer = http.post("/api/recordings/preview", files=file).json()
    assert answer["columns"] == ["t", "a", "b"]
    mapping = {"delimiter": ";", "time": "t", "time_unit": "ms", "x": "a", "y": "b"}
    wrong = http.post(
        f"/api/jobs/{job}/recordings",
        files=file,
        data={"stick": "left", "mapping": json.dumps(mapping)},
    )
    assert wrong.json()["errors"][0]["field"] == "mapping.range_x"
    mapping |= {"range_x": [0, 255], "range_y": [0, 255], "whole_step": "still"}
    made = http.post(
        f"/api/jobs/{job}/recordings",
        files=file,
        data={"stick": "left", "mapping": json.dumps(mapping)},
    )
    assert made.status_code == 201, made.text
    view = http.get(f"/api/takes/{made.json()['id']}").json()
    assert view["readings"]["still"]["rate_hz"] == pytest.approx(250)


@pytest.mark.parametrize(
    ("rate", "status"), [(0.99, 409), (1.0, 201), (100_000.0, 201), (100_001.0, 409), (None, 422)]
)
def test_rows_are_counted_at_a_rate_that_something_logs_at(
    http: httpx.Client, rate: float | None, status: int
) -> None:
    rows = "a,b\n" + "".join(f"{100 + i % 3},{90 + i % 2}\n" for i in range(2000))
    ends = {"range_x": [0, 255], "range_y": [0, 255]}
    mapping = {"time": None, "rate_hz": rate, "x": "a", "y": "b", "whole_step": "still"} | ends
    answer = http.post(
        f"/api/jobs/{new_job(http)}/recordings",
        files={"file": ("log.txt", rows.encode(), "text/plain")},
        data={"stick": "left", "mapping": json.dumps(mapping)},
    )
    assert answer.status_code == status, answer.text
    if status != 201:
        (error,) = answer.json()["errors"]
        assert "samples a second" in error["message"] or error["field"] == "mapping.rate_hz"


def test_a_whole_routine_from_another_logger_is_measured_step_by_step(http: httpx.Client) -> None:
    """It names no steps; they are found, and read as if it had been taken here."""
    recording = performed("offset").recording
    rows = "\n".join(
        f"{t};{x:g};{y:g}" for t, (x, y) in zip(recording.t_us, recording.raw, strict=True)
    )
    file = {"file": ("log.csv", f"stamp;a;b\n{rows}".encode(), "text/csv")}
    guess = http.post("/api/recordings/preview", files=file).json()["guess"]
    mapping = {k: guess[k] for k in ("time", "time_unit", "x", "y")} | {
        "delimiter": ";",
        "range_x": [guess["lo"], guess["hi"]],
        "range_y": [guess["lo"], guess["hi"]],
        "whole_step": "routine",
    }
    job = new_job(http)

    def sent(where: str, **more: object) -> httpx.Response:
        data = {"stick": "left", "mapping": json.dumps(mapping | more)}
        return http.post(f"/api/jobs/{job}/recordings{where}", files=file, data=data)

    seen = sent("/steps").json()
    assert seen["says"] == "Every step of the routine was found."
    assert [s["step"] for s in seen["spans"]] == [p.step for p in spans_of(recording)]
    assert len(seen["t"]) == len(seen["u"][0]) == len(seen["u"][1]) <= 3000
    assert http.get(f"/api/jobs/{job}").json()["takes"] == [], "it was only looked at"
    only = {"step": "still", "from_s": 2.0, "to_s": 8.0}
    refused = sent("", spans=[only, only | {"step": "rim"}])
    assert refused.status_code == 422
    assert "overlaps another step" in refused.text
    corrected = sent("", spans=[only])
    assert corrected.status_code == 201, corrected.text
    view = http.get(f"/api/takes/{corrected.json()['id']}").json()
    assert list(view["readings"]["spans"]) == ["still"]
    assert view["readings"]["spans"]["still"]["to_s"] == pytest.approx(8.0, abs=0.005)
    made = sent("")
    assert made.status_code == 201, made.text
    values = http.get(f"/api/takes/{made.json()['id']}").json()["values"]
    truly = measure_take(recording)
    for path in ("composite.dead_zone_needed", "rim.circularity_error", "hold.sag"):
        assert values[path] == pytest.approx(truly.value(path), abs=0.1)


def test_samples_come_out_in_the_documented_layout(http: httpx.Client) -> None:
    import numpy as np

    job = new_job(http)
    take = http.post(
        f"/api/jobs/{job}/recordings", files=recording_file(), data={"stick": "left"}
    ).json()["id"]
    body = http.get(f"/api/takes/{take}/samples").content
    recording = performed("worn").recording
    n, axes = np.frombuffer(body, "<u4", 2)
    assert (n, axes) == (len(recording.t), 2)
    columns = np.frombuffer(body, "<f4", 3 * n, 8).reshape(3, n)
    assert columns[0] == pytest.approx(recording.t, abs=1e-4)
    assert pytest.approx(recording.u, abs=1e-4) == columns[1:].T
    assert (np.frombuffer(body, "i1", n, 8 + 12 * n) == recording.step).all()


# Who may speak to it


def test_foreign_hosts_and_origins_are_refused(server: Server, http: httpx.Client) -> None:
    assert http.get("/api/tray", headers={"Host": "bench.example"}).status_code == 403
    assert http.get("/api/tray", headers={"Host": ""}).status_code == 403
    for origin in ("http://evil.example", "http://127.0.0.1:1", "null"):
        answer = http.post("/api/jobs", json={}, headers={"Origin": origin})
        assert answer.status_code == 403
        assert answer.headers["content-type"] == "application/problem+json"
    assert http.get("/api/tray", headers={"Origin": server.base}).status_code == 200


def test_a_foreign_page_gets_no_websocket(server: Server, http: httpx.Client) -> None:
    take = new_take(http, new_job(http))
    url = f"ws://127.0.0.1:{server.port}/api/takes/{take}/live"
    with pytest.raises(InvalidStatus) as refusal:
        connect(url, origin="http://evil.example")
    assert refusal.value.response.status_code == 403
    assert http.get(f"/api/takes/{take}").json()["take"]["state"] == "recording"


def test_pages_run_no_script_but_their_own(http: httpx.Client) -> None:
    page = http.get("/jobs/1/prove")
    policy = page.headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "unsafe" not in policy
    nonce = policy.split("'nonce-")[1].split("'")[0]
    assert f'content="{nonce}"' in page.text
    assert nonce not in http.get("/").text
    assert "<script>" not in page.text
    assert page.headers["x-content-type-options"] == "nosniff"


def test_it_listens_on_loopback_only(server: Server) -> None:
    import socket

    addresses = {a[4][0] for a in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)}
    for address in addresses - {"127.0.0.1"}:
        with socket.socket() as probe:
            probe.settimeout(1)
            assert probe.connect_ex((address, server.port)) != 0
