"""Where the samples of a table begin, and the row that names its columns: loggers write lines of their
own above it, and units below."""

from __future__ import annotations

import codecs
from collections.abc import Iterator
from dataclasses import dataclass

from hollow_pin.formats.clock import is_clock
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.table import column_names, head_line, is_number, require_size

DELIMITERS = ",;\t|"
SPACE = " "
"""What parts the columns of a table that has none of those."""
LOOKED_THROUGH = 100
"""Lines in which a column row with numbers below it is looked for."""
FEWEST_NUMBERS = 2
"""Numbers in a row of samples: a time, and an axis."""


@dataclass(frozen=True)
class Head:
    """The column row: its text, its columns' delimiter, and its number among the lines of the file.
    start, first: the byte that the samples begin at, and the number of their first line."""

    line: str
    delimiter: str
    number: int
    start: int
    first: int


@dataclass(frozen=True)
class _Line:
    text: str
    number: int
    began: int
    ends: int

    @property
    def delimiter(self) -> str:
        most = max(DELIMITERS, key=self.text.count)
        return most if most in self.text else SPACE

    @property
    def cells(self) -> list[str]:
        return column_names(self.text, self.delimiter, self.number)


def as_utf8(data: bytes) -> bytes:
    """A file that says itself that its text is UTF-16, as spreadsheets write it, in UTF-8; any other
    as it is. What is cut in the middle of a sign loses that.

    Raises FileError where it is too large.
    """
    require_size(len(data))
    if not data.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return data
    return codecs.getincrementaldecoder("utf-16")("replace").decode(data).encode()


def head_of(data: bytes) -> Head:
    """The column row of a table: the first line that holds no number, with as many columns as the
    samples below it, or below one more line of units; where there is no such line, the first that is
    no remark. Where that is samples already, the columns go by their numbers.

    Raises FileError where there is none with samples below it.
    """
    if not data.strip():
        raise FileError("the file is empty")
    lines = _lines(data)
    first = next(lines, None)
    if first is None or not data[first.ends :].strip():
        raise FileError(
            "there is no column row with samples below it", first.number if first else 1
        )
    above = [first]
    for line in lines:
        # Its own row of names stands above it, or that and one of units.
        for names in above[-2:]:
            between = above[above.index(names) :]
            if _is_sampled(line) and all(_is_of_words(a, line) for a in between):
                return Head(names.text, line.delimiter, names.number, line.began, line.number)
        above.append(line)
    if _is_sampled(first):
        numbered = first.delimiter.join(f"column{i}" for i, _ in enumerate(first.cells, 1))
        return Head(numbered, first.delimiter, first.number, first.began, first.number)
    return Head(first.text, first.delimiter, first.number, first.ends, first.number + 1)


def _lines(data: bytes) -> Iterator[_Line]:
    """The first lines that are no remarks; as far as they are lines of a table, but for the first."""
    at = number = rows = 0
    while at < len(data) and rows < LOOKED_THROUGH:
        number += 1
        began = at
        try:
            text, at = head_line(data, at, number)
            line = _Line(text, number, began, at)
            if not text or text.startswith("#"):
                continue
            _ = line.cells
        except FileError:
            if not rows:
                raise
            return
        rows += 1
        yield line


def _is_of_words(line: _Line, samples: _Line) -> bool:
    """Whether a line has as many columns as the samples below it, and no number in any."""
    cells = column_names(line.text, samples.delimiter, line.number)
    return len(cells) == len(samples.cells) and not any(map(_is_value, cells))


def _is_sampled(line: _Line) -> bool:
    return sum(map(_is_value, line.cells)) >= FEWEST_NUMBERS


def _is_value(cell: str) -> bool:
    return is_number(cell) or is_number(cell, ",") or is_clock(cell)
