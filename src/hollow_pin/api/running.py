"""The takes that run, so that each runs once; and their ends, put on record as soon as may be."""

from __future__ import annotations

import asyncio
import logging
from sqlite3 import Error as DatabaseError

from hollow_pin.api.context import now
from hollow_pin.bench.refusal import NotFound
from hollow_pin.bench.takes import finish_take
from hollow_pin.capture.session import Session, TakeEnding
from hollow_pin.store.database import Database, cannot_write_now

MOST_RUNNING = 32
"""Takes that may run at once."""
RETRY_S = 1.0
OTHER_WINDOW = "This take is running in another window."
_log = logging.getLogger(__name__)


class Running:
    """Which takes run. stopping: why the program ends, once it does."""

    def __init__(self) -> None:
        self._claimed: set[int | str] = set()
        self._unended: set[asyncio.Task[None]] = set()
        self.sessions: set[Session] = set()
        self.stopping: str | None = None

    def claim(self, what: int | str) -> str | None:
        """Take a take by its id, or something else by its name, for one window; why not, where it
        may not be had. To be called in the event loop, in one step with whatever decides."""
        if what in self._claimed:
            return OTHER_WINDOW
        if len(self._claimed) >= MOST_RUNNING:
            return f"{MOST_RUNNING} takes are open already. Close one of them first."
        if self.stopping is not None:
            return "The program is ending."
        self._claimed.add(what)
        return None

    def let_go(self, what: int | str) -> None:
        self._claimed.discard(what)

    def stop(self, because: str) -> None:
        """The program ends."""
        self.stopping = because
        for session in self.sessions:
            session.hurry()

    async def end(
        self, database: Database, take_id: int, ended: TakeEnding, notes: dict[str, str]
    ) -> None:
        """Put a take's end on record; where that cannot be done now, once it can."""
        at = now()
        if await self._try_end(database, take_id, ended, notes, at):
            return
        _log.warning("the end of take %d waits for the database", take_id)
        again = asyncio.create_task(self._until_ended(database, take_id, ended, notes, at))
        self._unended.add(again)
        again.add_done_callback(self._unended.discard)

    async def _until_ended(
        self, database: Database, take_id: int, ended: TakeEnding, notes: dict[str, str], at: str
    ) -> None:
        while self.stopping is None:
            await asyncio.sleep(RETRY_S)
            if await self._try_end(database, take_id, ended, notes, at):
                return

    @staticmethod
    async def _try_end(
        database: Database, take_id: int, ended: TakeEnding, notes: dict[str, str], at: str
    ) -> bool:
        try:
            await asyncio.to_thread(
                finish_take, database, take_id, ended.state, ended.because, at, notes
            )
        except NotFound:
            return True
        except (DatabaseError, OSError) as wrong:
            if not cannot_write_now(wrong):
                raise
            return False
        return True
