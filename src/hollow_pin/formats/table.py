"""Numbers out of delimited text: fast when it is clean, exact about the place when it is not."""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import pyarrow as pa
import pyarrow.csv as pa_csv
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats
from hollow_pin.formats.errors import FileError

DecimalPoint = Literal[".", ","]

LARGEST_BYTES = 256 * 1024 * 1024


@dataclass(frozen=True)
class Table:
    """Parsed columns by name. first_line: the file line of the first row, to name places by."""

    numbers: dict[str, Floats]
    texts: dict[str, NDArray[np.int32]]
    words: dict[str, list[str]]
    first_line: int


def check_size(size: int) -> None:
    """Raises FileError for a file too large to be a recording."""
    if size > LARGEST_BYTES:
        raise FileError(
            f"the file has {size / 1e6:.0f} MB and may have {LARGEST_BYTES / 1e6:.0f}: "
            "cut the recording into shorter takes"
        )


def decode(data: bytes) -> str:
    """The text of a file. Raises FileError where it is not UTF-8."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as wrong:
        line = data[: wrong.start].count(b"\n") + 1
        raise FileError("not UTF-8 text. Save it as a UTF-8 CSV file.", line) from None


def read_table(
    rows: bytes,
    start: int,
    names: list[str],
    numeric: list[str],
    texts: list[str],
    delimiter: str,
    first: int,
    decimal_point: DecimalPoint = ".",
) -> Table:
    """Parse rows of UTF-8 text, from byte `start` on, whose columns are `names`. Nothing is copied.
    first: the file line of the first row.

    Raises FileError naming the line and column of the first value that is not what it should be.
    """
    stop = len(rows)
    while stop > start and rows[stop - 1] in b" \t\r\n":
        stop -= 1
    if stop <= start:
        raise FileError("there are no samples below the column row", first)
    types: dict[str, pa.DataType] = {n: pa.float64() for n in numeric}
    types |= {n: pa.dictionary(pa.int32(), pa.string()) for n in texts}
    try:
        parsed = pa_csv.read_csv(
            pa.py_buffer(memoryview(rows)[start:stop]),
            read_options=pa_csv.ReadOptions(column_names=names),
            parse_options=pa_csv.ParseOptions(delimiter=delimiter, ignore_empty_lines=False),
            convert_options=pa_csv.ConvertOptions(
                column_types=types,
                include_columns=[*numeric, *texts],
                null_values=[],
                strings_can_be_null=False,
                decimal_point=decimal_point,
            ),
        )
    except pa.ArrowInvalid as wrong:
        text = decode(rows)[len(decode(rows[:start])) :].rstrip()
        raise _located(text, names, numeric, delimiter, first, decimal_point, str(wrong)) from None
    numbers = {n: parsed[n].to_numpy() for n in numeric}
    for name in numeric:
        finite = np.isfinite(numbers[name])
        if not finite.all():
            at = int(np.flatnonzero(~finite)[0])
            raise FileError(f"{numbers[name][at]} is not a number", first + at, name)
    codes, words = {}, {}
    for name in texts:
        whole = parsed[name].unify_dictionaries().combine_chunks()
        codes[name] = whole.indices.to_numpy()
        words[name] = whole.dictionary.to_pylist()
    return Table(numbers, codes, words, first)


def _located(
    rows: str,
    names: list[str],
    numeric: list[str],
    delimiter: str,
    first: int,
    point: DecimalPoint,
    otherwise: str,
) -> FileError:
    """Find the first value that will not parse, the slow way."""
    for at, row in enumerate(csv.reader(io.StringIO(rows), delimiter=delimiter)):
        line = first + at
        if not row:
            return FileError("the line is empty", line)
        if len(row) != len(names):
            return FileError(f"{len(row)} values, and {len(names)} columns are named", line)
        for name, value in zip(names, row, strict=True):
            if name in numeric and not is_number(value, point):
                shown = value if len(value) <= 40 else value[:40] + "…"
                return FileError(f"“{shown}” is not a number" if value else "is empty", line, name)
    return FileError(otherwise, first)


def is_number(text: str, decimal_point: DecimalPoint = ".") -> bool:
    if decimal_point != "." and "." in text:
        return False
    try:
        return math.isfinite(float(text.replace(decimal_point, "."))) and "_" not in text
    except ValueError:
        return False
