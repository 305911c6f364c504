"""What is said where a command cannot be carried out: a line, and never a trace."""

from __future__ import annotations

import sqlite3

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.calculators.calculator import OutOfBounds
from hollow_pin.core.recording import RecordingError
from hollow_pin.formats.errors import FileError
from hollow_pin.store.database import DataError, cannot_write_now, no_room


class Unusable(Exception):
    """What was asked for cannot be done; one line says why."""


KNOWN = (FileError, RecordingError, Unusable, Refused, NotFound, DataError, OutOfBounds)


def in_one_line(wrong: Exception) -> str | None:
    """What to say of an error; None where it is a fault of the program's own."""
    if isinstance(wrong, KNOWN):
        return str(wrong)
    if cannot_write_now(wrong) or isinstance(wrong, sqlite3.DatabaseError):
        reason = "the disk is full" if no_room(wrong) else str(wrong)
        return f"{reason}. Nothing half done was kept."
    return None
