"""A jig that stands in for a real one: a pseudo-terminal that prints what a logger would.

It obeys the cues that a server sends, as a jig with a motor would.
"""

from __future__ import annotations

import contextlib
import os
import threading
import time
import tty
from collections.abc import Iterator
from itertools import count
from pathlib import Path

from hollow_pin.simulator.stand_in import StandIn

TICK_S = 0.01
HEADER_EVERY_S = 5.0


class Jig:
    """A bare module on a jig, at a pseudo-terminal. path: where it can be opened. speed: how many of
    its seconds pass in one, to try things out."""

    def __init__(self, stand_in: StandIn, speed: float = 1.0) -> None:
        self._stand_in = stand_in
        self._speed = speed
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        os.set_blocking(self._master, False)
        self.path = os.ttyname(self._slave)
        self._heard = b""

    def header(self) -> bytes:
        ranges = self._stand_in.ranges
        axes = "xy"[: len(ranges)]
        lines = [f"# axes: {','.join(axes)}"]
        lines += [f"# range.{a}: {r.lo:g},{r.hi:g}" for a, r in zip(axes, ranges, strict=True)]
        return ("\n".join(lines) + "\n").encode()

    def run(self, over: threading.Event) -> None:
        """Print samples as its time passes until told to stop."""
        began, sent, headed = time.monotonic(), 0, -HEADER_EVERY_S
        rate = self._stand_in.stick.converter.rate_hz
        while not over.wait(TICK_S):
            self._obey()
            now = (time.monotonic() - began) * self._speed
            if now - headed >= HEADER_EVERY_S:
                headed = now
                self._print(self.header())
            due = int(now * rate) - sent
            if due > 0:
                sent += due
                self._print(self._lines(due))

    def _lines(self, count: int) -> bytes:
        samples = self._stand_in.run(count)
        rows = zip(samples.t_us.tolist(), samples.raw.astype(int).tolist(), strict=True)
        return "".join(f"{t % 2**32},{','.join(map(str, r))}\n" for t, r in rows).encode()

    def _print(self, data: bytes) -> None:
        """Whatever nobody reads is lost, as on a wire."""
        with contextlib.suppress(BlockingIOError):
            os.write(self._master, data)

    def _obey(self) -> None:
        with contextlib.suppress(BlockingIOError):
            self._heard += os.read(self._master, 4096)
        *lines, self._heard = self._heard.split(b"\n")
        for line in lines:
            if line.strip() == b"?":
                self._print(self.header())
            elif line.startswith(b"# step:"):
                step = line.partition(b":")[2].strip().decode("ascii", "replace")
                self._stand_in.hand.cue(step or None, self._stand_in.now)

    def close(self) -> None:
        os.close(self._slave)
        os.close(self._master)


@contextlib.contextmanager
def announced(jig: Jig, folder: Path) -> Iterator[Path]:
    """Put a jig where a server on the same data folder finds it."""
    folder.mkdir(parents=True, exist_ok=True)
    link = next(p for p in _names(folder) if not p.exists())
    link.unlink(missing_ok=True)
    link.symlink_to(jig.path)
    try:
        yield link
    finally:
        link.unlink(missing_ok=True)


def _names(folder: Path) -> Iterator[Path]:
    yield folder / "jig"
    yield from (folder / f"jig-{i}" for i in count(2))
