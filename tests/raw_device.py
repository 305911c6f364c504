"""A device that leaves its calibration to what it is plugged into, and a page that reads it."""

from __future__ import annotations

import json

import numpy as np
from numpy.typing import NDArray
from websockets.sync.client import connect

from conftest import Server
from sticks import performed

OWN = {
    "x": {"low": 410, "centre": 2190, "high": 3640},
    "y": {"low": 700, "centre": 1930, "high": 3500},
}
RAW_AXES = [
    {"name": name, "report": 1, "bit": 16 * i, "size": 16, "lo": 0, "hi": 4095}
    for i, name in enumerate("XY")
]


def own_numbers(moved: float = 0.0) -> NDArray[np.float64]:
    """A sound stick, as a device reports it that leaves its calibration to others: milliseconds, x,
    and y counted downward, in twelve bits. moved: how far x lies from where it was calibrated, %."""
    recording = performed("sound", bits=14).recording
    u = recording.u * [1, -1] + [moved, 0]
    each = []
    for v, own in zip(u.T, OWN.values(), strict=True):
        low, centre, high = own.values()
        each.append(centre + v / 100 * np.where(v < 0, centre - low, high - centre))
    return np.column_stack((recording.t * 1e3, *np.clip(np.round(each), 0, 4095)))


def raw_device(own: object) -> dict:
    return {"kind": "hid", "name": "Plover raw", "axes": RAW_AXES, "own_calibration": own}


def sent(server: Server, take: int, samples: NDArray[np.float64]) -> dict:
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as socket:
        for i in range(0, len(samples), 25):
            socket.send(samples[i : i + 25].astype("<f8").tobytes())
        while True:
            message = socket.recv(timeout=60)
            if isinstance(message, str) and json.loads(message)["type"] == "ended":
                return json.loads(message)
