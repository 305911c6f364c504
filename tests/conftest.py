"""A real server on a real port, as a person starts it."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count
from pathlib import Path

import httpx
import pytest


@dataclass
class Server:
    """A running `hollow-pin serve`."""

    process: subprocess.Popen[str]
    base: str
    data: Path

    @property
    def port(self) -> int:
        return int(self.base.rpartition(":")[2])

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(10)

    def kill(self) -> None:
        """As when the power goes."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(10)


def start_server(data: Path, *options: str, env: dict[str, str] | None = None) -> Server:
    process = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "hollow_pin.cli",
            "serve",
            "--port",
            "0",
            "--data",
            str(data),
            *options,
        ],
        stdout=subprocess.PIPE,
        text=True,
        env=(env or os.environ) | {"PYTHONUNBUFFERED": "1"},
    )
    assert process.stdout is not None
    line = process.stdout.readline()
    found = re.search(r"https?://\S+", line)
    assert found, f"the server did not say where it is: {line!r}"
    return Server(process, found.group().rstrip("/"), data)


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One bench that many tests use, each with a controller of its own."""
    running = start_server(tmp_path_factory.mktemp("bench"))
    yield running
    running.stop()


@pytest.fixture
def jig_beside(server: Server, request: pytest.FixtureRequest) -> Iterator[Path]:
    """A simulated jig on the same data folder; where it is listed. By its parameters: what else the
    command is given."""
    command = [sys.executable, "-m", "hollow_pin.cli", "jig", "--data", str(server.data)]
    command += getattr(request, "param", ())
    process = subprocess.Popen(
        command, stdout=subprocess.PIPE, text=True, env=os.environ | {"PYTHONUNBUFFERED": "1"}
    )
    assert process.stdout is not None
    line = process.stdout.readline()
    assert "listed as jig" in line, line
    yield server.data / "ports" / "jig"
    process.terminate()
    assert process.wait(10) == 0
    assert not (server.data / "ports" / "jig").exists(), "listed, and not there"


@pytest.fixture
def http(server: Server) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=server.base, timeout=30) as client:
        yield client


_tags = count(100)


def new_job(http: httpx.Client, tag: str | None = None, **fields: object) -> int:
    """Take a controller in over the API; the job's id. tag: a new one where none is given."""
    body = {
        "tag": tag or f"GS-{next(_tags)}",
        "model_id": "plover",
        "stick": "left",
        "complaint": "creeps",
        "moves": "no",
    } | fields
    answer = http.post("/api/jobs", json=body)
    assert answer.status_code == 201, answer.text
    return int(answer.json()["job"]["id"])


def new_take(
    http: httpx.Client,
    job: int,
    source: dict | None = None,
    stick: str = "left",
    routine_id: str | None = None,
) -> int:
    """Begin a take over the API; its id."""
    source = source or {"kind": "stand-in", "condition": "worn"}
    body = {"stick": stick, "source": source, "routine_id": routine_id}
    answer = http.post(f"/api/jobs/{job}/takes", json=body)
    assert answer.status_code == 201, answer.text
    return int(answer.json()["id"])
