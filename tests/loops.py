"""Running what is asynchronous from a test."""

from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

Result = TypeVar("Result")


def run(work: Coroutine[Any, Any, Result]) -> Result:
    """In a thread of its own, since a browser test may have left a loop running in this one."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result(60)
