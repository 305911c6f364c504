"""What a server does beside answering: takes up what was left, measures anew, backs up, looks itself
over. Nothing of it keeps the server from starting; what could not be done is said and tried again."""

from __future__ import annotations

import asyncio
import logging
import shutil
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from hollow_pin.api.context import now
from hollow_pin.bench.copies import LastBackup, back_up_by_rule, last_backup
from hollow_pin.bench.derived import stale
from hollow_pin.bench.function_checks import recover_checks
from hollow_pin.bench.takes import recover_takes
from hollow_pin.store.copies import faults_of
from hollow_pin.store.database import Database, DataError, cannot_write_now
from hollow_pin.store.requests import forget_requests

AGAIN_S = 2.0
BACKUP_LOOKED_AT_S = 600.0
FIRST_BACKUP_S = 20.0
KEYS_KEPT = timedelta(days=2)
LITTLE_ROOM = 500e6
_log = logging.getLogger(__name__)


@dataclass
class Work:
    """A piece of work and how far it is."""

    done: int
    total: int


@dataclass
class State:
    """How the bench itself is. troubles: what is wrong with it and what to do, in sentences."""

    measuring: Work | None
    backup: LastBackup | None
    free_mb: int
    troubles: list[str]


class Upkeep:
    """The work beside. state() is what the rail shows of it."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._measuring: Work | None = None
        self._troubles: dict[str, str] = {}
        self._tasks: list[asyncio.Task[None]] = []
        self._recovered = False

    async def start(self) -> None:
        """What was left running is taken up before the first answer, where that can be done."""
        self._recovered = await self.recover()
        for work in (self._take_up, self._look_over, self._back_up):
            self._tasks.append(asyncio.create_task(work()))

    async def stop(self) -> None:
        for task in self._tasks:
            task.cancel()
        for task in self._tasks:
            with suppress(asyncio.CancelledError):
                await task

    def state(self, db: sqlite3.Connection) -> State:
        free = shutil.disk_usage(self._database.folder).free
        troubles = list(self._troubles.values())
        if free < LITTLE_ROOM:
            troubles.append(f"Only {free / 1e6:.0f} MB are free on the disk. Make room.")
        return State(self._measuring, last_backup(db, now()), int(free / 1e6), troubles)

    async def recover(self) -> bool:
        """Takes and checks that the program did not end. False where it cannot be done yet."""
        try:
            await asyncio.to_thread(recover_takes, self._database, now())
            await asyncio.to_thread(recover_checks, self._database, now())
            await asyncio.to_thread(self._forget)
        except (sqlite3.Error, OSError) as wrong:
            if not cannot_write_now(wrong):
                raise
            self._troubles["recover"] = (
                f"Nothing can be written ({wrong}): the bench can be read. It goes on by itself once "
                "there is room."
            )
            return False
        except Exception:
            _log.exception("what was left running could not be taken up")
            self._troubles["recover"] = (
                "A take that ran when the program ended could not be taken up. It is kept; update the "
                "program and start it again."
            )
            return True
        self._troubles.pop("recover", None)
        return True

    def _forget(self) -> None:
        before = (datetime.now(UTC) - KEYS_KEPT).isoformat(timespec="milliseconds")
        with self._database.writing() as db:
            forget_requests(db, before)

    async def _take_up(self) -> None:
        while not self._recovered:
            await asyncio.sleep(AGAIN_S)
            self._recovered = await self.recover()
        await self._measure_anew()

    async def _measure_anew(self) -> None:
        """What another version of the definitions made, one after the other, the newest first."""
        with self._database.reading() as db:
            stale_ones = await asyncio.to_thread(stale, db)
        if not stale_ones:
            return
        self._measuring = Work(0, len(stale_ones))
        for one in stale_ones:
            try:
                await asyncio.to_thread(one.make_anew, self._database)
            except Exception:
                _log.exception("%s could not be made anew", one)
            self._measuring.done += 1
        self._measuring = None

    async def _look_over(self) -> None:
        """The quick part of what `hollow-pin check` does whole."""

        def faults() -> list[str]:
            with closing(self._database.connect()) as db:
                return faults_of(db, whole=False)

        with suppress(sqlite3.Error):
            faulty = await asyncio.to_thread(faults)
            if faulty:
                self._troubles["damaged"] = (
                    f"The database is damaged: {faulty[0]}. End the server and run “hollow-pin check "
                    "--repair”, or put a copy back."
                )

    async def _back_up(self) -> None:
        await asyncio.sleep(FIRST_BACKUP_S)
        while True:
            try:
                await asyncio.to_thread(back_up_by_rule, self._database, now())
                self._troubles.pop("backup", None)
            except (DataError, sqlite3.Error, OSError) as wrong:
                _log.warning("no backup: %s", wrong)
                self._troubles["backup"] = f"Today’s backup could not be made: {wrong}"
            await asyncio.sleep(BACKUP_LOOKED_AT_S)
