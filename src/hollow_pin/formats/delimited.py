"""Any delimited text of samples, by naming its columns and its range."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hollow_pin.core.recording import (
    AXES,
    ROWS_LEFT_OUT,
    STEPS,
    TIMES_COUNTED,
    AxisRange,
    Floats,
    Recording,
    RecordingError,
)
from hollow_pin.formats.clock import is_clock
from hollow_pin.formats.counter import unwrapped
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.guess import Guess, TimeUnit, guess_columns, runs_over
from hollow_pin.formats.head import Head, as_utf8, head_of
from hollow_pin.formats.labelled import unlabelled
from hollow_pin.formats.recording_csv import build_recording
from hollow_pin.formats.table import (
    NOTHING,
    DecimalPoint,
    column_names,
    give_back,
    head_line,
    is_number,
    read_table,
    shown,
)

US_PER: dict[TimeUnit, float] = {"s": 1e6, "ms": 1e3, "us": 1.0, "clock": 1.0}
PREVIEW_ROWS = 8
LOOKED_AT = 8 * 1024 * 1024
"""Bytes of a file that a preview looks into."""
COUNTED = "its rows, counted"
"""What a time is called that no column says."""
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
    """Which column is what. time: None where none says it; its lines were then so many a second,
    rate_hz. range_x, range_y: the lowest and highest number that the device can give. whole_step: the
    step that all samples belong to, where no column says."""

    delimiter: str
    time: str | None
    time_unit: TimeUnit
    x: str
    y: str | None
    range_x: tuple[float, float]
    range_y: tuple[float, float] | None
    y_positive: Literal["up", "down"] = "up"
    step: str | None = None
    whole_step: str | None = None
    decimal_point: DecimalPoint = "."
    rate_hz: float | None = None


def preview(data: bytes) -> Preview:
    """Look into the beginning of a file. Raises FileError when it is not a table of text."""
    data = as_utf8(data)
    if len(data) > LOOKED_AT:
        data = data[: data.rfind(b"\n", 0, LOOKED_AT) + 1] or data[:LOOKED_AT]
    data, head = _table_of(data)
    delimiter, start = head.delimiter, head.start
    columns = tuple(column_names(head.line, delimiter, head.number))
    rows, at = [], start
    for number in range(head.first, head.first + PREVIEW_ROWS):
        if at >= len(data):
            break
        text, at = head_line(data, at, number)
        rows.append(tuple(column_names(text, delimiter, number)))
    if len(columns) < 2:
        raise FileError(
            "only one column is found: two axes, or a time and one, are needed", head.number
        )
    if len(set(columns)) < len(columns):
        raise FileError("two columns have the same name", head.number)

    comma = delimiter != "," and any(DECIMAL_COMMA.fullmatch(v) for row in rows for v in row)
    point: DecimalPoint = "," if comma else "."
    numbers = _numbers(data, start, columns, rows, delimiter, point)
    whole = [row for row in rows if len(row) == len(columns)]
    clocks = [c for i, c in enumerate(columns) if whole and all(is_clock(r[i]) for r in whole)]
    shown_rows = tuple(tuple(shown(c) for c in row) for row in rows)
    return Preview(delimiter, point, columns, shown_rows, guess_columns(columns, numbers, clocks))


def _table_of(data: bytes) -> tuple[bytes, Head]:
    """A text as a table, and where it begins in it."""
    labelled = unlabelled(data)
    if labelled is None:
        return data, head_of(data)
    names, number = ",".join(labelled.columns), labelled.number
    return labelled.rows, Head(names, ",", number, 0, number)


def _numbers(
    data: bytes,
    start: int,
    columns: tuple[str, ...],
    head: list[tuple[str, ...]],
    delimiter: str,
    point: DecimalPoint,
) -> dict[str, Floats]:
    """The values of the columns that begin with numbers; of the first rows only, where a later one
    does not hold what it should."""
    whole = [row for row in head if len(row) == len(columns)]
    written = {c: [r[i] for r in whole if r[i] not in NOTHING] for i, c in enumerate(columns)}
    numeric = [c for c, v in written.items() if v and all(is_number(n, point) for n in v)]
    try:
        table = read_table(data, start, [*columns], numeric, [], delimiter, 1, point, gaps=True)
        return table.numbers
    except FileError:
        return {c: np.array([float(n.replace(point, ".")) for n in written[c]]) for c in numeric}


def read_delimited(data: bytes, mapping: Mapping) -> Recording:
    """Read a table of samples by a mapping. Raises FileError naming the line and column."""
    data, head = _table_of(as_utf8(data))
    columns = column_names(head.line, mapping.delimiter, head.number)
    axes = AXES if mapping.y else AXES[:1]
    named = [mapping.x, mapping.y] if mapping.y else [mapping.x]
    used = [c for c in (mapping.time, *named, mapping.step) if c]
    for name in used:
        if name not in columns:
            raise FileError(f"there is no column {shown(name)}", head.number)
    if len(set(used)) < len(used):
        raise FileError("one column is named for two things")
    if len(set(columns)) < len(columns):
        raise FileError("two columns have the same name", head.number)
    if mapping.whole_step and mapping.whole_step not in STEPS:
        raise FileError(f"“{shown(mapping.whole_step)}” is not a step")
    if mapping.y and mapping.range_y is None:
        raise FileError("the range of y is missing")
    if (mapping.time is None) == (mapping.rate_hz is None):
        raise FileError("either a column says the time, or how many samples a second there are")
    try:
        ranges = tuple(AxisRange(*r) for r in (mapping.range_x, mapping.range_y)[: len(axes)] if r)
    except RecordingError as wrong:
        raise FileError(str(wrong)) from None
    texts = [mapping.step] if mapping.step else []
    clocks = [mapping.time] if mapping.time and mapping.time_unit == "clock" else []
    read_columns = [c for c in (mapping.time, *named) if c and c not in clocks]
    table = read_table(
        data,
        head.start,
        columns,
        read_columns,
        texts,
        mapping.delimiter,
        head.first,
        mapping.decimal_point,
        clocks,
        gaps=True,
    )
    # As in a recording file.
    del data
    give_back()
    time, us_per = mapping.time or COUNTED, US_PER[mapping.time_unit]
    if mapping.rate_hz is not None:
        table.numbers[time] = np.subtract(table.lines, table.lines[0], dtype=float)
        us_per = 1e6 / mapping.rate_hz
    elif not clocks:
        table.numbers[time] = unwrapped(table.numbers[time])
    signed = [c for c, r in zip(named, ranges, strict=True) if c and _signed(table.numbers, c, r)]
    recording = build_recording(
        table,
        axes,
        ranges,
        time,
        us_per,
        tuple(c for c in named if c),
        mapping.y_positive == "down",
        mapping.step,
        {"source": "file"}
        | ({"read-as-signed": " ".join(signed)} if signed else {})
        | ({ROWS_LEFT_OUT: str(table.left_out)} if table.left_out else {})
        | ({TIMES_COUNTED: f"{mapping.rate_hz:g}"} if mapping.rate_hz is not None else {}),
        mapping.whole_step,
    )
    del table
    give_back()
    return recording


def _signed(numbers: dict[str, Floats], column: str, r: AxisRange) -> bool:
    """Whether a column holds signed numbers that were written without a sign; they are given it."""
    v, whole = numbers[column], r.hi - r.lo + 1
    written_so = r.lo < 0 <= v.min() and r.hi < v.max() < whole and runs_over(v, 0.0, whole - 1)
    if written_so:
        numbers[column] = np.where(v > r.hi, v - whole, v)
    return bool(written_so)
