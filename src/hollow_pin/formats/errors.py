"""What is wrong with a file, where, and what to do."""

from __future__ import annotations

LONGEST_NAME = 60
"""As much of a column's name as an error repeats."""


class FileError(ValueError):
    """A file that cannot be read. line counts from 1; column is the column's own name."""

    def __init__(self, message: str, line: int | None = None, column: str | None = None) -> None:
        place = [f"line {line}"] if line is not None else []
        place += [f"column {column[:LONGEST_NAME]}"] if column is not None else []
        super().__init__(f"{', '.join(place)}: {message}" if place else message)
        self.line = line
        self.column = column
