"""A real server on a real port, as a person starts it."""

from __future__ import annotations

import fcntl
import gc
import json
import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count
from pathlib import Path
from threading import Thread

import httpx
import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection

import forked
import sticks
from benches import lay_out


def pytest_sessionstart() -> None:
    forked.begin()


def pytest_collection_finish() -> None:
    """What is loaded stays to the end: looking through it for what could go is a tenth of a run."""
    gc.collect()
    gc.freeze()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes longest begins first, so that nobody waits for it in the end."""
    items.sort(key=lambda item: item.path.name != "test_torture.py")


def examples_at(factory: pytest.TempPathFactory) -> Path:
    """Where the examples are built that every process copies: anew in each run."""
    own = factory.getbasetemp()
    return (own.parent if "PYTEST_XDIST_WORKER" in os.environ else own) / "examples"


def built(shared: Path) -> Path:
    """The folder with the examples in it, by whichever process comes first."""
    shared.mkdir(exist_ok=True)
    with (shared / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (shared / "made").exists():
            command = [sys.executable, "-m", "hollow_pin.cli", "demo", "--only-build", "--data"]
            subprocess.run([*command, shared], check=True)
            (shared / "made").touch()
    return shared


@pytest.fixture(scope="session", autouse=True)
def shelf(tmp_path_factory: pytest.TempPathFactory) -> None:
    """What one process has performed and read, the others need not; of a run of the same process
    before it, whose code may have been another, nothing is kept."""
    for module in list(sys.modules.values()):
        if str(getattr(module, "__file__", "")).startswith(str(Path(__file__).parent)):
            for helper in list(vars(module).values()):
                getattr(helper, "cache_clear", lambda: None)()
    sticks.shelf = None
    if "PYTEST_XDIST_WORKER" in os.environ:
        sticks.shelf = examples_at(tmp_path_factory).with_name("performed")
        sticks.shelf.mkdir(exist_ok=True)


@pytest.fixture(scope="session", autouse=True)
def examples_begun(
    request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[None]:
    """Nobody waits for the examples who does not have to: they are built from the first test on."""
    wanted = any("demo" in getattr(i, "fixturenames", ()) for i in request.session.items)
    building = Thread(target=built, args=(examples_at(tmp_path_factory),))
    if wanted:
        building.start()
    yield
    if wanted:
        building.join()


@dataclass
class Server:
    """A running `hollow-pin serve`."""

    process: subprocess.Popen[str] | forked.Forked
    base: str
    data: Path

    @property
    def port(self) -> int:
        return int(self.base.rpartition(":")[2])

    def client(self, timeout: float = 30) -> httpx.Client:
        """Speaks to it. Gives its line up before the server does, which may just then have a request
        under way; loads no certificates, which a plain line has none of, and which take 50 ms."""
        idle = httpx.Limits(keepalive_expiry=2)
        return httpx.Client(base_url=self.base, timeout=timeout, limits=idle, verify=False)

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(10)

    def kill(self) -> None:
        """As when the power goes."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(10)


def start_server(data: Path, *options: str, env: dict[str, str] | None = None) -> Server:
    """On an empty bench where there is none. By a command of its own where an environment is given, or
    nothing is there to fork from."""
    if env is None:
        lay_out(data)
    arguments = ["serve", "--port", "0", "--data", str(data), *options]
    process: subprocess.Popen[str] | forked.Forked
    if forked.begun() and env is None:
        process = forked.Forked(*arguments)
    else:
        process = subprocess.Popen(
            [sys.executable, "-m", "hollow_pin.cli", *arguments],
            stdout=subprocess.PIPE,
            text=True,
            env=(env or os.environ) | {"PYTHONUNBUFFERED": "1"},
        )
    assert process.stdout is not None
    line = process.stdout.readline()
    match = re.search(r"https?://\S+", line)
    assert match, f"the server did not say where it is: {line!r}"
    return Server(process, match.group().rstrip("/"), data)


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
    with server.client() as client:
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


def refused(line: ClientConnection) -> str:
    """Why the server closes a line, and with which code; a failure where it says anything else."""
    told = json.loads(line.recv(timeout=10))
    assert told["type"] == "refused", told
    with pytest.raises(ConnectionClosed) as closed:
        line.recv(timeout=10)
    assert closed.value.rcvd is not None
    return f"{closed.value.rcvd.code} {told['message']}"


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
