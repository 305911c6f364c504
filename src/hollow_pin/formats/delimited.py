"""Any delimited text of samples, by naming its columns and its range."""

from __future__ import annotations

import csv
import re
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.recording import AXES, STEPS, AxisRange, Floats, Recording, RecordingError
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.guess import Guess, TimeUnit, guess_columns
from hollow_pin.formats.recording_csv import build_recording
from hollow_pin.formats.table import DecimalPoint, check_size, decode, is_number, read_table

US_PER: dict[TimeUnit, float] = {"s": 1e6, "ms": 1e3, "us": 1.0}
DELIMITERS = ",;\t|"
PREVIEW_ROWS = 8
DECIMAL_COMMA = re.compile(r"[+-]?\d+,\d+")


@dataclass(frozen=True)
class Preview:
    """The first rows of a file, and what its columns seem to be."""

    delimiter: str
    decimal_point: DecimalPoint
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guess: Guess


@dataclass(frozen=True)
class Mapping:
    """Which column is what. whole_step: the step that all samples belong to, where no column says."""

    delimiter: str
    time: str
    time_unit: TimeUnit
    x: str
    y: str | None
    range_x: tuple[float, float]
    range_y: tuple[float, float] | None
    y_positive: Literal["up", "down"] = "up"
    step: str | None = None
    whole_step: str | None = None
    decimal_point: DecimalPoint = "."


def _lines(data: bytes) -> tuple[list[str], int]:
    """The text's lines from the column row on, and that row's line number."""
    check_size(len(data))
    if not data.strip():
        raise FileError("the file is empty")
    lines = decode(data).splitlines()
    skipped = next(
        (i for i, s in enumerate(lines) if s.strip() and not s.startswith("#")), len(lines)
    )
    if skipped >= len(lines) - 1:
        raise FileError("there is no column row with samples below it", len(lines))
    return lines[skipped:], skipped + 1


def preview(data: bytes) -> Preview:
    """Look into a file. Raises FileError when it is not a table of text."""
    lines, number = _lines(data)
    head = lines[: PREVIEW_ROWS + 1]
    delimiter = max(DELIMITERS, key=head[0].count)
    rows = [tuple(c.strip() for c in row) for row in csv.reader(head, delimiter=delimiter)]
    columns = rows[0]
    if len(columns) < 2:
        raise FileError("only one column is found: a time and an axis are needed", number)
    if len(set(columns)) < len(columns):
        raise FileError("two columns have the same name", number)

    comma = delimiter != "," and any(DECIMAL_COMMA.fullmatch(v) for row in rows[1:] for v in row)
    point: DecimalPoint = "," if comma else "."
    numbers = _numbers(lines[1:], columns, rows[1:], delimiter, point)
    return Preview(delimiter, point, columns, tuple(rows[1:]), guess_columns(columns, numbers))


def _numbers(
    lines: list[str],
    columns: tuple[str, ...],
    head: list[tuple[str, ...]],
    delimiter: str,
    point: DecimalPoint,
) -> dict[str, Floats]:
    """The values of the columns that begin with numbers; of the first rows only, where a later one
    does not hold what it should."""
    whole = [row for row in head if len(row) == len(columns)]
    numeric = [
        c for i, c in enumerate(columns) if whole and all(is_number(r[i], point) for r in whole)
    ]
    try:
        rows = "\n".join(lines).encode()
        return read_table(rows, 0, list(columns), numeric, [], delimiter, 1, point).numbers
    except FileError:
        at = {c: columns.index(c) for c in numeric}
        return {
            c: np.array([float(r[i].replace(point, ".")) for r in whole]) for c, i in at.items()
        }


def read_delimited(data: bytes, mapping: Mapping) -> Recording:
    """Read a table of samples by a mapping. Raises FileError naming the line and column."""
    lines, number = _lines(data)
    columns = [c.strip() for c in next(csv.reader(lines[:1], delimiter=mapping.delimiter))]
    axes = AXES if mapping.y else AXES[:1]
    named = [mapping.x, mapping.y] if mapping.y else [mapping.x]
    used = [c for c in (mapping.time, *named, mapping.step) if c]
    for name in used:
        if name not in columns:
            raise FileError(f"there is no column {name}", number)
    if len(set(used)) < len(used):
        raise FileError("one column is named for two things")
    if mapping.whole_step and mapping.whole_step not in STEPS:
        raise FileError(f"“{mapping.whole_step}” is not a step")
    if mapping.y and mapping.range_y is None:
        raise FileError("the range of y is missing")
    try:
        ranges = tuple(AxisRange(*r) for r in (mapping.range_x, mapping.range_y)[: len(axes)] if r)
    except RecordingError as wrong:
        raise FileError(str(wrong)) from None
    texts = [mapping.step] if mapping.step else []
    wanted = [mapping.time, *[c for c in named if c]]
    rows = "\n".join(lines[1:]).encode()
    table = read_table(
        rows, 0, columns, wanted, texts, mapping.delimiter, number + 1, mapping.decimal_point
    )
    return build_recording(
        table,
        axes,
        ranges,
        mapping.time,
        US_PER[mapping.time_unit],
        tuple(c for c in named if c),
        mapping.y_positive == "down",
        mapping.step,
        {"source": "file"},
        mapping.whole_step,
    )
