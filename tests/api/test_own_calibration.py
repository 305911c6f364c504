"""A device that leaves its calibration to what it is plugged into, over the line: led, drawn, read,
written and remembered by it."""

from __future__ import annotations

import httpx
import numpy as np
import pytest
from numpy.typing import NDArray
from websockets.sync.client import connect

from conftest import Server, new_job, new_take, refused
from raw_device import OWN, own_numbers, raw_device, sent


def controller_of(http: httpx.Client, job: int) -> int:
    return int(http.get(f"/api/jobs/{job}").json()["job"]["controller"]["id"])


def shown(http: httpx.Client, take: int) -> NDArray[np.float64]:
    """What a page draws of a take, (n, 2) %."""
    body = http.get(f"/api/takes/{take}/samples").content
    n, k = np.frombuffer(body[:8], "<u4")
    return np.frombuffer(body[8 + 4 * n : 8 + 4 * n * (1 + k)], "<f4").reshape(k, n).T


def test_a_device_s_own_numbers_are_led_drawn_and_read_by_its_calibration(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, raw_device(OWN))
    samples = own_numbers()
    ended = sent(server, take, samples)
    assert ended["state"] == "complete", ended
    view = http.get(f"/api/takes/{take}").json()
    assert view["meaning"]["advice"] == "Every reading taken is within its limit."
    x, y = view["take"]["ranges"]
    assert x == {"lo": 0, "hi": 4095, "calibration": OWN["x"]}
    assert y["calibration"] == {"low": 595, "centre": 2165, "high": 3395}, "y counts upward here"
    drawn = shown(http, take)
    assert np.abs(drawn).max() == pytest.approx(100, abs=1)
    lines = http.get(f"/api/takes/{take}/recording.csv").text.splitlines()
    assert "# calibration.x: 410,2190,3640" in lines
    assert "# calibration.y: 595,2165,3395" in lines
    first = next(line for line in lines if line[0].isdigit()).split(",")
    assert [float(v) for v in first[1:3]] == [samples[0, 1], 4095 - samples[0, 2]], "as it reported"
    of = {"controller_id": controller_of(http, job), "source_kind": "hid"}
    answer = http.get("/api/own-calibrations", params=of).json()
    assert answer == [{"stick": "left", "holds": OWN}], "in the device's numbers, for the next take"


def test_where_its_calibration_is_not_known_it_is_drawn_as_it_is_read(
    server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, raw_device("unknown"))
    assert sent(server, take, own_numbers(moved=8.0))["state"] == "complete"
    view = http.get(f"/api/takes/{take}").json()
    assert view["meaning"]["advice"].startswith(
        "Nothing that a calibration leaves as it is lies over"
    )
    held = view["readings"]["recording"]["calibration"]["x"]
    assert held["centre"] == pytest.approx(2190 + 0.08 * (3640 - 2190), abs=12)
    drawn = shown(http, take)
    still = drawn[: len(drawn) // 20]
    assert abs(np.median(still[:, 0])) < 1
    seconds = http.get(f"/api/takes/{take}/envelope", params={"buckets": 20_000})
    assert seconds.status_code == 200
    of = {"controller_id": controller_of(http, job), "source_kind": "hid"}
    answer = http.get("/api/own-calibrations", params=of).json()
    assert answer == [{"stick": "left", "holds": "unknown"}]
    new_take(http, job, raw_device(None), stick="right")
    assert http.get("/api/own-calibrations", params=of).json() == answer, "nothing is known of it"


def test_where_it_is_not_known_what_one_would_hold_is_told_and_nothing_is_centred(
    server: Server, http: httpx.Client
) -> None:
    """Its numbers would be brought to the middle of the converter, which is nobody's centre."""
    job = new_job(http)
    take = new_take(http, job, raw_device("unknown"))
    sent(server, take, own_numbers())
    view = http.get(f"/api/jobs/{job}/calibration").json()
    x, y = view["kinds"][0]["axes"]
    assert (x["low"], x["centre"], x["high"]) == pytest.approx((440, 2190, 3610), abs=50)
    assert (y["low"], y["centre"], y["high"]) == pytest.approx((640, 2165, 3380), abs=80)
    assert view["now"] is view["outcome"] is None
    line = connect(f"ws://127.0.0.1:{server.port}/api/jobs/{job}/centring?kind=trimmed&pace=fast")
    with line:
        assert "not where its centre belongs" in refused(line)


@pytest.mark.parametrize(
    ("own", "field", "why"),
    [
        ({"x": OWN["x"], "y": None}, "source.own_calibration.y", "What does it hold of y?"),
        ({"x": OWN["y"] | {"low": 2000}, "y": OWN["y"]}, "source.own_calibration.x", "must rise"),
        ({"x": OWN["x"], "y": OWN["y"] | {"high": 5000}}, "source.own_calibration.y", "0 to 4095"),
    ],
)
def test_a_calibration_that_is_none_begins_no_take(
    http: httpx.Client, own: dict, field: str, why: str
) -> None:
    job = new_job(http)
    body = {"stick": "left", "source": raw_device(own)}
    refused = http.post(f"/api/jobs/{job}/takes", json=body)
    assert refused.status_code in (409, 422)
    (error,) = refused.json()["errors"]
    assert error["field"] == field
    assert why in error["message"]
    assert http.get(f"/api/jobs/{job}").json()["takes"] == []
