"""A controller read by the browser, by its own account of it or by raw reports: samples arrive
as frames and leave as blocks."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator

import numpy as np

from hollow_pin.core.recording import AxisRange
from hollow_pin.sources.source import Block, SourceLost

SILENT_S = 5.0
MOST_WAITING = 1_000_000
"""Samples that wait to be written."""
GAMEPAD_RANGES = (AxisRange(-1, 1), AxisRange(-1, 1))


class BadFrame(ValueError):
    """A frame that is not what the protocol says."""


class PageSource:
    """Frames hold float64 rows, little endian: milliseconds, then x and y, or x alone, in the
    ranges of the source, y positive down. y is turned up here, and nowhere else. flip: axes that
    run the other way on this controller."""

    def __init__(
        self,
        flip: tuple[bool, ...] = (False, False),
        ranges: tuple[AxisRange, ...] = GAMEPAD_RANGES,
    ) -> None:
        self._ranges = ranges[: len(flip)]
        self._low = np.array([r.lo for r in self._ranges])
        self._high = np.array([r.hi for r in self._ranges])
        turned = np.array([f != (i == 1) for i, f in enumerate(flip)])
        self._sign = np.where(turned, -1.0, 1.0)
        self._from = np.where(turned, self._low + self._high, 0.0)
        self._blocks: asyncio.Queue[Block | None] = asyncio.Queue()
        self._last_us = -(2**62)
        self._lost = "the controller was disconnected"
        self._waiting = 0

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return self._ranges

    def cue(self, step: str | None) -> None:
        """A person holds it."""

    def notes(self) -> dict[str, str]:
        return {}

    def feed(self, frame: bytes) -> None:
        """Take a frame in. Raises BadFrame for one that holds anything but samples in order."""
        width = 1 + len(self._sign)
        if not frame or len(frame) % (8 * width):
            raise BadFrame(f"a frame holds whole samples of {width} float64 each")
        samples = np.frombuffer(frame, "<f8").reshape(-1, width)
        if not np.isfinite(samples).all():
            raise BadFrame("a sample is not a number")
        if (samples[:, 1:] < self._low).any() or (samples[:, 1:] > self._high).any():
            each = " and ".join(f"{r.lo:g} to {r.hi:g}" for r in dict.fromkeys(self._ranges))
            raise BadFrame(f"an axis lies outside {each}".replace("-", "−"))
        if np.abs(samples[:, 0]).max() > 1e13:
            raise BadFrame("a time is not in milliseconds")
        t_us = np.round(samples[:, 0] * 1e3).astype(np.int64)
        if t_us[0] < self._last_us or (np.diff(t_us) < 0).any():
            raise BadFrame("the time runs backwards")
        if self._waiting > MOST_WAITING:
            raise BadFrame("more samples came than can be kept up with")
        self._last_us = int(t_us[-1])
        self._waiting += len(t_us)
        self._blocks.put_nowait(Block(t_us, self._from + samples[:, 1:] * self._sign))

    def lose(self, because: str) -> None:
        """The device went away."""
        self._lost = because
        self._blocks.put_nowait(None)

    async def blocks(self) -> AsyncIterator[Block]:
        while True:
            try:
                async with asyncio.timeout(SILENT_S):
                    block = await self._blocks.get()
            except TimeoutError:
                raise SourceLost(f"no sample came for {SILENT_S:.0f} s") from None
            if block is None:
                raise SourceLost(self._lost)
            self._waiting -= len(block.t_us)
            yield block
