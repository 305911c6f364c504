"""One live take from its first sample to its end."""

from __future__ import annotations

import asyncio
import sqlite3
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from sqlite3 import Connection

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.record import HowEnded
from hollow_pin.core.recording import MOST_SAMPLES, AxisRange, Floats, admitted, to_percent
from hollow_pin.core.routine import StepName
from hollow_pin.core.tracking.impatience import Impatience
from hollow_pin.core.tracking.tracker import Progress, StepTracker
from hollow_pin.sources.source import Block, Source, SourceLost
from hollow_pin.store.database import BLOCK_BUSY_S, Database, cannot_write_now, no_room
from hollow_pin.store.takes import merge_next, write_block

MERGE_EVERY = 500
RESUME_GAP_US = 1_000_000
BUFFERED_S = 60.0
"""How long samples wait for a database that cannot be written to."""
MOST_BUFFERED = 1_000_000
"""Samples that wait at most; a source that has more is made to wait itself."""
MOST_AHEAD = 64
"""Blocks that a source may be ahead of a database that writes."""
RETRY_S = 0.2
TOLD_AFTER_S = 1.0
LAST_TRY_S = 2.0

WAITS = "The database cannot be written to: {why}. Samples are kept for up to {most:.0f} s; go on."


@dataclass(frozen=True)
class TakeEnding:
    """How a take ended: complete, or interrupted and why."""

    state: HowEnded
    because: str | None


@dataclass(frozen=True, eq=False)
class WrittenSamples:
    """What a screen may draw: written already. t (n,) seconds, u (n, k) %, within ±100. notes: the
    source's."""

    t: Floats
    u: Floats
    progress: Progress
    notes: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, eq=False)
class _Waiting:
    """A block that is still to be written, and what may be seen of it then."""

    t_us: NDArray[np.int64]
    raw: Floats
    step: NDArray[np.int8]
    seen: WrittenSamples
    since: float


class Session:
    """Records a take. Every block is in the database before anybody hears of it.

    ranges: those of the source, with the device's own calibration where it is known. after_us: the
    last sample the take already has, when a step of it is done again. begin: what is done in the
    transaction of the first block. held_up: told why samples wait for the database, and
    None once they do no more.
    """

    def __init__(
        self,
        database: Database,
        take_id: int,
        source: Source,
        tracker: StepTracker,
        seen: Callable[[WrittenSamples], None] = lambda _: None,
        after_us: int | None = None,
        *,
        ranges: tuple[AxisRange, ...] | None = None,
        begin: Callable[[Connection], None] = lambda _: None,
        held_up: Callable[[str | None], None] = lambda _: None,
    ) -> None:
        self._source = source
        self._ranges = ranges or source.ranges
        self._tracker = tracker
        self._seen = seen
        self._after_us = after_us
        self._last_us = after_us
        self._shift_us: int | None = None
        self._stopped: str | None = None
        self._impatience: Impatience | None = None
        self._refused = self._count = 0
        self._writer = _Writer(database, take_id, begin)
        self._waiting: list[_Waiting] = []
        self._room = asyncio.Event()
        self._held_up = held_up
        self._told = False
        self._failing = False
        self._hurried = False

    def accept(self) -> None:
        self._tracker.accept()

    def redo(self, step: StepName | None) -> None:
        self._tracker.redo(step)

    def may_redo(self, step: StepName | None) -> bool:
        return step is None or step in self._tracker.routine.steps

    def stop(self, because: str) -> None:
        """End after the present block, keeping everything."""
        self._stopped = because

    def hurry(self) -> None:
        """The program ends: what cannot be written within moments is given up."""
        self._hurried = True

    def nobody_watches(self) -> None:
        """Press Space by itself where nothing else would."""
        self._impatience = Impatience()

    def notes(self) -> dict[str, str]:
        """What the source counted, and the samples that could not go on record."""
        refused = {"refused-samples": str(self._refused)} if self._refused else {}
        return self._source.notes() | refused

    async def run(self) -> TakeEnding:
        """Record until the routine is done, the source is lost, or somebody stops it."""
        over = asyncio.Event()
        writing = asyncio.create_task(self._write(over))
        recording = asyncio.create_task(self._record())
        try:
            await asyncio.wait({writing, recording}, return_when=asyncio.FIRST_COMPLETED)
            ending = None if recording.done() else TakeEnding("interrupted", writing.result())
            recording.cancel()
            with suppress(asyncio.CancelledError):
                ending = ending or await recording
            assert ending is not None
            over.set()
            unwritten = await writing
            return TakeEnding("interrupted", unwritten) if unwritten else ending
        finally:
            over.set()
            recording.cancel()
            with suppress(asyncio.CancelledError):
                await recording
            await asyncio.shield(writing)

    async def _record(self) -> TakeEnding:
        self._source.cue(self._tracker.step)
        try:
            async for block in self._source.blocks():
                self._take_in(block)
                await self._no_farther_ahead()
                if self._tracker.finished:
                    return TakeEnding("complete", None)
                if self._stopped is not None:
                    return TakeEnding("interrupted", self._stopped)
                if self._count > MOST_SAMPLES:
                    return TakeEnding(
                        "interrupted", f"it holds {self._count} samples, as many as a take can"
                    )
        except SourceLost as lost:
            return TakeEnding("interrupted", str(lost))
        return TakeEnding("interrupted", "the source ended")

    async def _no_farther_ahead(self) -> None:
        """A source that runs ahead of the clock waits for the database; a device's own queue holds
        what it says meanwhile."""
        while self._ahead():
            self._room.clear()
            await self._room.wait()

    def _ahead(self) -> bool:
        if self._failing:
            return sum(len(w.t_us) for w in self._waiting) > MOST_BUFFERED
        return len(self._waiting) > MOST_AHEAD

    def _take_in(self, block: Block) -> None:
        """Samples from zero, or on from where the take stopped; each with its step. What cannot go on
        record is counted."""
        if self._shift_us is None:
            start = 0 if self._after_us is None else self._after_us + RESUME_GAP_US
            self._shift_us = start - int(block.t_us[0])
        t_us, raw = block.t_us + self._shift_us, block.raw
        good = admitted(t_us, raw, self._ranges, self._last_us)
        if not good.all():
            self._refused += int((~good).sum())
            t_us, raw = t_us[good], raw[good]
        if not len(t_us):
            return
        self._last_us = int(t_us[-1])
        self._count += len(t_us)
        u = to_percent(raw, self._ranges)
        t = np.asarray(t_us / 1e6, dtype=np.float64)
        asked_for = self._tracker.step
        step = self._tracker.feed(t, u)
        progress = self._tracker.progress()
        if self._impatience and self._impatience.gives_up(self._tracker, float(t[-1])):
            self._tracker.accept()
        if self._tracker.step != asked_for:
            self._source.cue(self._tracker.step)
        # While a calibration is not known, a stick may go beyond what stands for all of its way.
        written = WrittenSamples(t, np.clip(u, -100.0, 100.0), progress, self.notes())
        self._waiting.append(_Waiting(t_us, raw, step, written, time.monotonic()))
        self._writer.news.set()

    async def _write(self, over: asyncio.Event) -> str | None:
        """Write what waits, then let it be seen, until it is over and nothing waits any more. Returns
        why, where it had to be given up."""
        news = self._writer.news
        hurried_at: float | None = None
        try:
            while not (over.is_set() and not self._waiting):
                if not self._waiting:
                    news.clear()
                    waits = {asyncio.create_task(e.wait()) for e in (news, over)}
                    await asyncio.wait(waits, return_when=asyncio.FIRST_COMPLETED)
                    for task in waits:
                        task.cancel()
                    continue
                some = list(self._waiting)
                why = await asyncio.to_thread(self._writer.write, some)
                self._failing = why is not None
                if why is None:
                    self._show(some)
                    continue
                now = time.monotonic()
                hurried_at = now if self._hurried and hurried_at is None else hurried_at
                waited = now - some[0].since
                hurried = hurried_at is not None and now - hurried_at > LAST_TRY_S
                if waited > BUFFERED_S or hurried:
                    self._waiting.clear()
                    return f"nothing could be written for {waited:.0f} s: {why}"
                if waited > TOLD_AFTER_S and not self._told:
                    self._told = True
                    self._held_up(WAITS.format(why=why, most=BUFFERED_S))
                await asyncio.sleep(RETRY_S)
            return None
        finally:
            self._room.set()
            await asyncio.to_thread(self._writer.close)

    def _show(self, written: list[_Waiting]) -> None:
        del self._waiting[: len(written)]
        self._room.set()
        if self._told and not self._waiting:
            self._told = False
            self._held_up(None)
        for block in written:
            self._seen(block.seen)


class _Writer:
    """Writes the blocks of one take, on a connection of its own, one call at a time."""

    def __init__(
        self, database: Database, take_id: int, begin: Callable[[Connection], None]
    ) -> None:
        self._database = database
        self._take_id = take_id
        self._begin: Callable[[Connection], None] | None = begin
        self._connection: Connection | None = None
        self._blocks = self._unmerged = 0
        self.news = asyncio.Event()

    def write(self, blocks: list[_Waiting]) -> str | None:
        """Write blocks as one; after many, put them together, so that an hour is not two hundred
        thousand rows. Returns why not, where it cannot be done now."""
        try:
            if self._connection is None:
                self._connection = self._database.connect(BLOCK_BUSY_S, synced=False)
            connection = self._connection
            connection.execute("BEGIN IMMEDIATE")
            try:
                if self._begin is not None:
                    self._begin(connection)
                t_us = np.concatenate([b.t_us for b in blocks])
                raw = np.concatenate([b.raw for b in blocks])
                step = np.concatenate([b.step for b in blocks])
                block_id = write_block(connection, self._take_id, t_us, raw, step)
                unmerged = self._unmerged or block_id
                merging = (self._blocks + 1) % MERGE_EVERY == 0
                if merging:
                    merge_next(connection, self._take_id, unmerged)
                connection.commit()
            except BaseException:
                if connection.in_transaction:
                    connection.rollback()
                raise
        except (sqlite3.Error, OSError) as wrong:
            if not cannot_write_now(wrong):
                raise
            self.close()
            return "the disk is full" if no_room(wrong) else str(wrong)
        self._begin = None
        self._blocks += 1
        self._unmerged = 0 if merging else unmerged
        return None

    def close(self) -> None:
        if self._connection is not None:
            with suppress(sqlite3.Error):
                self._connection.close()
            self._connection = None
