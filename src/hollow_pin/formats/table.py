"""Numbers out of delimited text: fast when it is clean, exact about the place when it is not."""

from __future__ import annotations

import csv
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import pyarrow as pa
import pyarrow.csv as pa_csv
from numpy.typing import NDArray

from hollow_pin.core.recording import MOST_SAMPLES, Floats
from hollow_pin.formats.clock import microseconds
from hollow_pin.formats.errors import FileError

DecimalPoint = Literal[".", ","]

LARGEST_BYTES = 256 * 1024 * 1024
MOST_COLUMNS = 64
MOST_HEAD_LINES = 500
LONGEST_LINE = 10_000
"""Bytes of a line above the samples."""
LONGEST_ROW = 4_000
"""Bytes of a row of samples, on the average of the longest few: nothing that is logged has more."""
MOST_WORDS = 1_000
NOTHING = ("", "nan", "NaN", "NAN", "NA", "N/A", "null", "NULL", "-")
"""What loggers write where they have no value."""
MOST_LEFT_OUT = 0.2
"""Share of the rows that may have none."""
SHOWN = 60
"""As much of what stands in a file as an error repeats."""


@dataclass(frozen=True)
class Table:
    """Parsed columns by name: numbers (n,), and texts (n,) as places in their words. lines (n,): the
    file lines of the rows, to name places by; left_out: how many rows between them had no value."""

    numbers: dict[str, Floats]
    texts: dict[str, NDArray[np.int32]]
    words: dict[str, list[str]]
    lines: range | NDArray[np.int64]
    left_out: int = 0


# Its own pools keep what a large file took; the system's can be told to give it back.
pa.set_memory_pool(pa.system_memory_pool())


def give_back() -> None:
    """Return what reading a table took, and does not need any more, to the system."""
    pa.default_memory_pool().release_unused()


def require_size(size: int) -> None:
    """Raises FileError for a file too large to be a recording."""
    if size > LARGEST_BYTES:
        raise FileError(
            f"the file has {size / 1e6:.0f} MB and may have {LARGEST_BYTES / 1e6:.0f}: "
            "cut the recording into shorter takes"
        )


def decode(data: bytes, number: int = 1) -> str:
    """Text of a file, whose first line has a number. Raises FileError where it is not UTF-8."""
    try:
        return data.decode("utf-8-sig" if number == 1 else "utf-8")
    except UnicodeDecodeError as wrong:
        line = data[: wrong.start].count(b"\n") + number
        raise FileError("not UTF-8 text. Save it as a UTF-8 CSV file.", line) from None


def head_line(data: bytes, at: int, number: int) -> tuple[str, int]:
    """The line above the samples that begins at a byte, and where the next one begins. Raises
    FileError where it is longer than any such line, or there are too many of them."""
    end = data.find(b"\n", at, at + LONGEST_LINE + 1)
    if end < 0:
        if len(data) - at > LONGEST_LINE:
            raise FileError(
                f"the line has over {LONGEST_LINE} bytes and is no line of a table", number
            )
        end = len(data)
    if number > MOST_HEAD_LINES:
        raise FileError(f"over {MOST_HEAD_LINES} lines stand above the samples", number)
    return decode(data[at:end], number).strip(), end + 1


def column_names(line: str, delimiter: str, number: int) -> list[str]:
    """The names in a column row. Raises FileError where they cannot be columns."""
    try:
        names = [c.strip() for c in next(csv.reader([line], delimiter=delimiter), [])]
    except csv.Error as wrong:
        raise FileError(f"the column row cannot be read: {wrong}", number) from None
    if len(names) > MOST_COLUMNS:
        raise FileError(
            f"{len(names)} columns are named; a table has {MOST_COLUMNS} at most", number
        )
    return names


def shown(text: str) -> str:
    """What stands in a file, as an error repeats it: in part where it is long, on one line."""
    line = " ".join(text.split())
    return line if len(line) <= SHOWN else f"{line[:SHOWN]}…"


def read_table(
    rows: bytes,
    start: int,
    names: list[str],
    numeric: list[str],
    texts: list[str],
    delimiter: str,
    first: int,
    decimal_point: DecimalPoint = ".",
    clocks: Sequence[str] = (),
    gaps: bool = False,
) -> Table:
    """Parse rows of UTF-8 text, from byte `start` on, whose columns are `names`. Nothing is copied.
    first: the file line of the first row. clocks: columns of times as a clock shows them, which become
    numbers of microseconds. gaps: whether rows that lack a number may be left out.

    Raises FileError naming the line and column of the first value that is not what it should be.
    """
    stop = len(rows)
    while stop > start and rows[stop - 1] in b" \t\r\n":
        stop -= 1
    if stop <= start:
        raise FileError("there are no samples below the column row", first)
    count = rows.count(b"\n", start, stop) + 1
    if count > MOST_SAMPLES:
        raise FileError(
            f"it has {count:,} rows and may have {MOST_SAMPLES:,}: cut it into shorter takes", first
        )
    if (stop - start) > LONGEST_ROW * (count + 50):
        raise FileError("its rows are too long to be samples", first)
    types: dict[str, pa.DataType] = {n: pa.float64() for n in numeric}
    types |= {n: pa.dictionary(pa.int32(), pa.string()) for n in texts}
    types |= {n: pa.string() for n in clocks}
    try:
        parsed = pa_csv.read_csv(
            pa.py_buffer(memoryview(rows)[start:stop]),
            read_options=pa_csv.ReadOptions(column_names=names),
            parse_options=pa_csv.ParseOptions(delimiter=delimiter, ignore_empty_lines=False),
            convert_options=pa_csv.ConvertOptions(
                column_types=types,
                include_columns=[*numeric, *texts, *clocks],
                null_values=list(NOTHING) if gaps else [],
                strings_can_be_null=False,
                decimal_point=decimal_point,
            ),
        )
    except (pa.ArrowInvalid, pa.ArrowKeyError, pa.ArrowCapacityError) as wrong:
        nothing = NOTHING if gaps else ()
        table = _located(rows, start, names, numeric, delimiter, first, decimal_point, nothing)
        raise (table or FileError(shown(str(wrong)), first)) from None
    numbers = {}
    for name in numeric:
        # Column by column, so that none is held twice for long.
        numbers[name] = parsed[name].to_numpy()
        parsed = parsed.drop_columns([name])
        endless = np.isinf(numbers[name]) if gaps else ~np.isfinite(numbers[name])
        if endless.any():
            at = int(endless.argmax())
            raise FileError(f"{numbers[name][at]} is not a number", first + at, name)
    for name in clocks:
        numbers[name], bad = microseconds(parsed[name])
        if bad is not None:
            word = shown(parsed[name][bad].as_py())
            raise FileError(f"“{word}” is no time of a clock", first + bad, name)
    codes, words = {}, {}
    for name in texts:
        whole = parsed[name].unify_dictionaries().combine_chunks()
        if len(whole.dictionary) > MOST_WORDS:
            raise FileError(f"over {MOST_WORDS} different words stand in it", first, name)
        codes[name] = whole.indices.to_numpy()
        words[name] = whole.dictionary.to_pylist()
    whole_table = Table(numbers, codes, words, range(first, first + count))
    return _without_gaps(whole_table) if gaps else whole_table


def _without_gaps(table: Table) -> Table:
    """The rows that have a number in every column of them. Raises FileError where that leaves out too
    many."""
    for name, values in table.numbers.items():
        share = float(np.isnan(values).mean())
        if share > MOST_LEFT_OUT:
            at = int(np.isnan(values).argmax())
            raise FileError(f"{100 * share:.0f} % of its rows have no value", table.lines[at], name)
    complete = ~np.logical_or.reduce([np.isnan(v) for v in table.numbers.values()])
    if complete.all():
        return table
    if not complete.any():
        raise FileError("no row has all its values", table.lines[0])
    return Table(
        {name: v[complete] for name, v in table.numbers.items()},
        {name: v[complete] for name, v in table.texts.items()},
        table.words,
        table.lines[0] + np.flatnonzero(complete),
        int((~complete).sum()),
    )


def _located(
    rows: bytes,
    start: int,
    names: list[str],
    numeric: list[str],
    delimiter: str,
    first: int,
    point: DecimalPoint,
    nothing: Sequence[str] = (),
) -> FileError | None:
    """Find the first value that will not parse, the slow way, a line at a time."""
    for line, at in enumerate(_line_starts(rows, start), first):
        end = rows.find(b"\n", at)
        end = len(rows) if end < 0 else end
        if end - at > LONGEST_ROW:
            return FileError(f"the row has over {LONGEST_ROW} bytes", line)
        text = decode(rows[at:end], line if line > 1 else 2).removesuffix("\r")
        if "\r" in text:
            return FileError("a carriage return stands in it, and ends no line", line)
        try:
            row = next(csv.reader([text], delimiter=delimiter, strict=True), [])
        except csv.Error as wrong:
            return FileError(f"the row cannot be read: {wrong}", line)
        if not row:
            return FileError("the line is empty", line)
        if len(row) != len(names):
            return FileError(f"{len(row)} values, and {len(names)} columns are named", line)
        for name, value in zip(names, row, strict=True):
            if name in numeric and value not in nothing and not is_number(value, point):
                reason = f"“{shown(value)}” is not a number" if value else "is empty"
                return FileError(reason, line, name)
    return None


def _line_starts(rows: bytes, start: int) -> Iterator[int]:
    at = start
    while 0 <= at < len(rows):
        yield at
        end = rows.find(b"\n", at)
        at = end + 1 if end >= 0 else -1


def is_number(text: str, decimal_point: DecimalPoint = ".") -> bool:
    if decimal_point != "." and "." in text:
        return False
    try:
        return math.isfinite(float(text.replace(decimal_point, "."))) and "_" not in text
    except ValueError:
        return False
