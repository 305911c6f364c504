"""The stand-in controller as a live source, in real time or as fast as it will go."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator

from hollow_pin.core.recording import AxisRange
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.trims import Pair
from hollow_pin.sources.source import Block

TICK_S = 0.016
FAST_BLOCK_S = 0.4


class StandInSource:
    """Runs a stand-in. in_real_time: keep to the clock; else run ahead of it.

    held_by_hand: its own hand follows the cues; otherwise it waits to be steered.
    """

    def __init__(
        self, stand_in: StandIn, in_real_time: bool = True, held_by_hand: bool = True
    ) -> None:
        self._stand_in = stand_in
        self._in_real_time = in_real_time
        self._held_by_hand = held_by_hand

    @property
    def ranges(self) -> tuple[AxisRange, ...]:
        return self._stand_in.ranges

    def cue(self, step: str | None) -> None:
        if self._held_by_hand:
            self._stand_in.hand.cue(step, self._stand_in.now)

    def notes(self) -> dict[str, str]:
        return {}

    def steer(self, aim: tuple[float, float] | None) -> None:
        """Somebody at the screen holds the stick: an aim in %, None to let go."""
        self._stand_in.hand.steer(aim)

    def turn(self, axis: int, by: float) -> None:
        """Turn a trim that is fitted by a share of its whole turn."""
        if self._stand_in.turning is not None:
            self._stand_in.turning.turn(axis, by)

    @property
    def trims(self) -> Pair | None:
        """As they are now, where they are fitted."""
        turning = self._stand_in.turning
        return turning.pair if turning is not None else None

    async def blocks(self) -> AsyncIterator[Block]:
        rate = self._stand_in.stick.converter.rate_hz
        if not self._in_real_time:
            while True:
                samples = await asyncio.to_thread(self._stand_in.run, round(FAST_BLOCK_S * rate))
                yield Block(samples.t_us, samples.raw)
        began, sent = time.monotonic(), 0
        while True:
            await asyncio.sleep(TICK_S)
            due = int((time.monotonic() - began) * rate) - sent
            if due > 0:
                sent += due
                samples = self._stand_in.run(due)
                yield Block(samples.t_us, samples.raw)
