"""The recording file: header lines, a column row, samples in time order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import astuple, replace

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.gate import GATES, Gate
from hollow_pin.core.recording import (
    AXES,
    FARTHEST,
    LONGEST_US,
    NO_STEP,
    STEPS,
    AxisCalibration,
    AxisRange,
    Recording,
    RecordingError,
)
from hollow_pin.formats.cells import as_text
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.table import (
    Table,
    column_names,
    give_back,
    head_line,
    read_table,
    require_size,
    shown,
)

VERSION_KEY = "hollow-pin-recording"
ROWS_AT_ONCE = 20_000
_OWN_KEYS = (
    VERSION_KEY,
    "axes",
    "y-positive",
    *(f"{name}.{axis}" for name in ("range", "calibration") for axis in AXES),
)


def is_recording(data: bytes) -> bool:
    """Whether a file begins like a recording file."""
    return data[:200].lstrip(b"\xef\xbb\xbf \r\n").startswith(b"# " + VERSION_KEY.encode())


def read_recording(data: bytes) -> Recording:
    """Read a recording file. Raises FileError naming the line and column."""
    require_size(len(data))
    if not data or data.isspace():
        raise FileError("the file is empty")
    headers, lines, columns, start = _split(data)
    if headers.get(VERSION_KEY) != "1":
        raise FileError(
            f"“# {VERSION_KEY}: 1” is expected first. Any other table is read in the interface, "
            "under Prove, Recording file, by naming its columns.",
            lines[VERSION_KEY] or 1,
        )
    axes = tuple(a.strip() for a in headers.get("axes", "x,y").split(","))
    if axes not in (AXES, AXES[:1]):
        raise FileError("axes must be “x,y” or “x”", lines.get("axes"))
    column_line = max(lines.values()) + 1
    for name in ("t_us", *axes):
        if name not in columns:
            raise FileError(
                f"the column {name} is missing; the row names "
                f"{shown(', '.join(columns)) or 'nothing'}",
                column_line,
            )
    ranges = tuple(_range(headers, lines, axis) for axis in axes)
    texts = ["step"] if "step" in columns else []
    down = headers.get("y-positive", "up")
    if down not in ("up", "down"):
        raise FileError("y-positive must be “up” or “down”", lines["y-positive"])
    own_headers = {k: v for k, v in headers.items() if k not in _OWN_KEYS}
    table = read_table(data, start, columns, ["t_us", *axes], texts, ",", column_line + 1)
    # A large file is not held beside what was made of it, unless whoever called keeps it.
    del data
    give_back()
    recording = build_recording(
        table, axes, ranges, "t_us", 1.0, axes, down == "down", "step", own_headers
    )
    del table
    give_back()
    return recording


def _split(data: bytes) -> tuple[dict[str, str], dict[str, int], list[str], int]:
    """Header values, their lines, the column names, and where the rows below begin."""
    headers: dict[str, str] = {}
    lines: dict[str, int] = {VERSION_KEY: 0}
    at, number = 0, 0
    while at < len(data):
        number += 1
        line, at = head_line(data, at, number)
        if not line.startswith("#"):
            return headers, lines, column_names(line, ",", number), at
        key, colon, value = line[1:].partition(":")
        if not colon:
            raise FileError("a header line reads “# name: value”", number)
        headers[key.strip()] = value.strip()
        lines[key.strip()] = number
    raise FileError("there is no column row and there are no samples", number or 1)


def _range(headers: dict[str, str], lines: dict[str, int], axis: str) -> AxisRange:
    key = f"range.{axis}"
    if key not in headers:
        raise FileError(f"the range of {axis} is missing: add “# {key}: lo,hi”", 1)
    try:
        lo, hi = (float(v) for v in headers[key].split(","))
        plain = AxisRange(lo, hi)
    except RecordingError as wrong:
        raise FileError(str(wrong), lines[key]) from None
    except ValueError:
        raise FileError(f"“{shown(headers[key])}” is not “lo,hi”", lines[key]) from None
    return _with_calibration(plain, headers, lines, f"calibration.{axis}")


def _with_calibration(
    plain: AxisRange, headers: dict[str, str], lines: dict[str, int], key: str
) -> AxisRange:
    """A range with the device's own calibration, where the file names one."""
    named = headers.get(key)
    if named is None:
        return plain
    if named == "unknown":
        return replace(plain, calibration="unknown")
    try:
        calibration = AxisCalibration(*(float(v) for v in named.split(",")))
        return replace(plain, calibration=calibration)
    except RecordingError as wrong:
        raise FileError(str(wrong), lines[key]) from None
    except (TypeError, ValueError):
        message = f"“{shown(named)}” is neither “low,centre,high” nor “unknown”"
        raise FileError(message, lines[key]) from None


def build_recording(
    table: Table,
    axes: tuple[str, ...],
    ranges: tuple[AxisRange, ...],
    time: str,
    us_per_unit: float,
    columns: tuple[str, ...],
    y_down: bool,
    step: str | None,
    headers: dict[str, str],
    default_step: str | None = None,
) -> Recording:
    """A Recording from a parsed table; every sample checked. columns: which column is each axis.

    Raises FileError for a time that runs backwards, a value outside its range, an unknown step.
    """
    t = np.round(table.numbers[time] * us_per_unit)
    far = np.flatnonzero(np.abs(t) > FARTHEST)
    if far.size:
        raise FileError("the time is not in microseconds", int(table.lines[int(far[0])]), time)
    backwards = np.flatnonzero(np.diff(t) < 0)
    if backwards.size:
        at = int(backwards[0]) + 1
        raise FileError("the time runs backwards", int(table.lines[at]), time)
    if t[-1] - t[0] > LONGEST_US:
        raise FileError(
            f"it lasts {(t[-1] - t[0]) / 3.6e9:,.0f} hours and may last {LONGEST_US / 3.6e9:.0f}. Is "
            "the unit of the time right?",
            int(table.lines[-1]),
            time,
        )
    raw = np.column_stack([table.numbers[c] for c in columns])
    for i, (name, r) in enumerate(zip(columns, ranges, strict=True)):
        outside = np.flatnonzero((raw[:, i] < r.lo) | (raw[:, i] > r.hi))
        if outside.size:
            at = int(outside[0])
            raise FileError(
                f"{raw[at, i]:g} lies outside the range {r.lo:g} to {r.hi:g}. Is the range right?",
                int(table.lines[at]),
                name,
            )
    if y_down and len(axes) == 2:
        raw[:, 1] = ranges[1].lo + ranges[1].hi - raw[:, 1]
        ranges = (ranges[0], ranges[1].turned())
        headers = headers | {"y-turned": "yes"}
    return Recording(
        t_us=t.astype(np.int64),
        raw=raw,
        ranges=ranges,
        step=_steps(table, step, len(t), default_step),
        headers=headers,
    )


def _steps(table: Table, column: str | None, n: int, default: str | None) -> NDArray[np.int8]:
    if column is None or column not in table.texts:
        code = STEPS.index(default) if default else NO_STEP
        return np.full(n, code, dtype=np.int8)
    words = [w.strip() for w in table.words[column]]
    codes = {"": NO_STEP} | {s: i for i, s in enumerate(STEPS)}
    for i, word in enumerate(words):
        if word not in codes:
            at = int(np.flatnonzero(table.texts[column] == i)[0])
            raise FileError(
                f"“{shown(word)}” is not a step. The steps are {', '.join(STEPS)}.",
                int(table.lines[at]),
                column,
            )
    return np.array([codes[w] for w in words], dtype=np.int8)[table.texts[column]]


def write_recording(recording: Recording) -> Iterator[str]:
    """The recording file, in pieces. Reading it back gives the same samples, bit for bit."""
    head = [f"# {VERSION_KEY}: 1", f"# axes: {','.join(recording.axes)}"]
    for name, r in zip(recording.axes, recording.ranges, strict=True):
        head.append(f"# range.{name}: {_number(r.lo)},{_number(r.hi)}")
        if r.calibration is not None:
            calibration = (
                r.calibration
                if r.known_calibration is None
                else ",".join(map(_number, astuple(r.known_calibration)))
            )
            head.append(f"# calibration.{name}: {calibration}")
    head.append("# y-positive: up")
    head += [f"# {key}: {as_text(_one_line(value))}" for key, value in recording.headers.items()]
    head.append(",".join(("t_us", *recording.axes, "step")))
    yield "\n".join(head) + "\n"
    names = [*STEPS, ""]
    for start in range(0, len(recording.t_us), ROWS_AT_ONCE):
        part = slice(start, start + ROWS_AT_ONCE)
        columns = [recording.t_us[part].tolist()]
        columns += [[_number(v) for v in axis] for axis in recording.raw[part].T.tolist()]
        columns.append([names[s] for s in recording.step[part].tolist()])
        yield "".join(",".join(map(str, row)) + "\n" for row in zip(*columns, strict=True))


def _number(value: float) -> str:
    return str(int(value)) if value == int(value) else repr(value)


def _one_line(text: str) -> str:
    return " ".join(text.split())


def gate_of(recording: Recording) -> Gate | None:
    """The gate a recording file names, None where it names none. FileError for an unknown one."""
    named = recording.headers.get("gate")
    if named is None:
        return None
    for gate in GATES:
        if named == gate:
            return gate
    raise FileError(f"the gate “{shown(named)}” is not known; it is {', '.join(GATES)}")
