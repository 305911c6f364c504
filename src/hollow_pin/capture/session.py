"""One live take from its first sample to its end."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from dataclasses import dataclass, field, replace
from functools import partial
from sqlite3 import Connection

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats, to_percent
from hollow_pin.core.routine import StepName
from hollow_pin.core.tracking.impatience import Impatience
from hollow_pin.core.tracking.tracker import Progress, StepTracker
from hollow_pin.sources.source import Block, Source, SourceLost
from hollow_pin.store.database import Database
from hollow_pin.store.takes import TakeState, merge_blocks, write_block

MERGE_EVERY = 500
RESUME_GAP_US = 1_000_000


@dataclass(frozen=True)
class Ended:
    """How a take ended: complete, or interrupted and why."""

    state: TakeState
    because: str | None


@dataclass(frozen=True, eq=False)
class Seen:
    """What a screen may draw: written already. t (n,) seconds, u (n, k) %. notes: the source's."""

    t: Floats
    u: Floats
    progress: Progress
    notes: dict[str, str] = field(default_factory=dict)


class Session:
    """Records a take. Every block is in the database before anybody hears of it.

    after_us: the last sample the take already has, when a step of it is done again.
    """

    def __init__(
        self,
        database: Database,
        take_id: int,
        source: Source,
        tracker: StepTracker,
        seen: Callable[[Seen], None] = lambda _: None,
        after_us: int | None = None,
    ) -> None:
        self._database = database
        self._take_id = take_id
        self._source = source
        self._tracker = tracker
        self._seen = seen
        self._after_us = after_us
        self._shift_us: int | None = None
        self._stopped: str | None = None
        self._impatience: Impatience | None = None
        self._blocks = 0
        self._unmerged = 0

    def accept(self) -> None:
        self._tracker.accept()

    def redo(self, step: StepName | None) -> None:
        self._tracker.redo(step)

    def stop(self, because: str) -> None:
        """End after the present block, keeping everything."""
        self._stopped = because

    def nobody_watches(self) -> None:
        """Press Space by itself where nothing else would."""
        self._impatience = Impatience()

    async def run(self) -> Ended:
        """Record until the routine is done, the source is lost, or somebody stops it."""
        loop = asyncio.get_running_loop()
        with (
            closing(self._database.connect()) as connection,
            ThreadPoolExecutor(1, "take-writer") as writer,
        ):
            keep = partial(self._keep, connection)
            self._source.cue(self._tracker.step)
            try:
                async for block in self._source.blocks():
                    block = self._shifted(block)
                    u = to_percent(block.raw, self._source.ranges)
                    t = np.asarray(block.t_us / 1e6, dtype=np.float64)
                    step = self._tracker.feed(t, u)
                    await loop.run_in_executor(writer, keep, block.t_us, block.raw, step)
                    self._source.cue(self._tracker.step)
                    progress = self._tracker.progress()
                    if self._impatience and self._impatience.gives_up(self._tracker, float(t[-1])):
                        self._tracker.accept()
                    self._seen(Seen(t, u, progress, self._source.notes()))
                    if self._tracker.finished:
                        return Ended("complete", None)
                    if self._stopped is not None:
                        return Ended("interrupted", self._stopped)
            except SourceLost as lost:
                return Ended("interrupted", str(lost))
        return Ended("interrupted", "the source ended")

    def _keep(
        self,
        connection: Connection,
        t_us: NDArray[np.int64],
        raw: Floats,
        step: NDArray[np.int8],
    ) -> None:
        """Write a block; after many, put them together, so that an hour is not two hundred thousand
        rows."""
        block_id = write_block(connection, self._take_id, t_us, raw, step)
        self._unmerged = self._unmerged or block_id
        self._blocks += 1
        if self._blocks % MERGE_EVERY == 0:
            connection.execute("BEGIN IMMEDIATE")
            try:
                merge_blocks(connection, self._take_id, self._unmerged)
            except BaseException:
                connection.rollback()
                raise
            connection.commit()
            self._unmerged = 0

    def _shifted(self, block: Block) -> Block:
        """Times from zero, or on from where the take stopped."""
        if self._shift_us is None:
            start = 0 if self._after_us is None else self._after_us + RESUME_GAP_US
            self._shift_us = start - int(block.t_us[0])
        return replace(block, t_us=block.t_us + self._shift_us)
