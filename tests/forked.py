"""`hollow-pin` in a process of its own, forked from one that has loaded it already: a start costs a
tenth. What is run is the same; that it starts by itself is shown by the tests of the wheel."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext
from typing import TextIO

LOADED = ["hollow_pin.cli.main", "hollow_pin.cli.serving", "hollow_pin.api.app"]

_begun: list[ForkServerContext] = []
"""None or one."""


def begin() -> None:
    """From now on there is a process to fork from; it is started by the first who needs it."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(LOADED)
    _begun.append(context)


def begun() -> bool:
    return bool(_begun)


def _run(arguments: list[str], env: dict[str, str], out: Connection) -> None:
    os.dup2(out.fileno(), 1)
    out.close()
    os.environ.clear()
    os.environ.update(env)
    sys.stdout = open(1, "w", buffering=1, closefd=False)  # noqa: SIM115
    from hollow_pin.cli.main import main

    sys.exit(main(arguments))


class Forked:
    """Of subprocess.Popen what is used here."""

    def __init__(self, *arguments: str) -> None:
        (context,) = _begun
        reads, writes = context.Pipe(duplex=False)
        self._process = context.Process(
            target=_run, args=(list(arguments), dict(os.environ), writes), daemon=True
        )
        self._process.start()
        writes.close()
        self._reads = reads
        self.stdout: TextIO = open(reads.fileno(), closefd=False)  # noqa: SIM115
        self.pid = self._process.pid or 0

    def poll(self) -> int | None:
        return self._process.exitcode

    def wait(self, seconds: float) -> int:
        """Its exit status; TimeoutError if it has not ended by then."""
        self._process.join(seconds)
        if self._process.exitcode is None:
            raise TimeoutError(f"process {self.pid} did not end in {seconds:.0f} s")
        return self._process.exitcode

    def terminate(self) -> None:
        self._process.terminate()

    def send_signal(self, which: signal.Signals) -> None:
        os.kill(self.pid, which)
