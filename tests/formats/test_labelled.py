"""What a serial monitor shows, saved as it is: values that go by their names, no time, no row of
names. It was no table, or lost its first sample to its names."""

from __future__ import annotations

import signal

import numpy as np
import pytest

from hollow_pin.core.recording import ROWS_LEFT_OUT, TIMES_COUNTED, Recording
from hollow_pin.core.take import measure_take
from hollow_pin.formats.delimited import Mapping, preview, read_delimited
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.labelled import PIECE, unlabelled
from sticks import performed

RATE = 250.0


def read(data: bytes, rate_hz: float = RATE) -> Recording:
    """As it is proposed; counted at its rate where nothing says the time."""
    p = preview(data)
    g = p.guess
    ends = (0.0, 1023.0)
    rate = None if g.time else rate_hz
    mapping = Mapping(p.delimiter, g.time, g.time_unit, g.x or "", g.y, ends, ends, rate_hz=rate)
    return read_delimited(data, mapping)


def printed(line: str, ends: str) -> bytes:
    """A whole take, as something prints it: microseconds t, x, y, and what a clock shows."""
    take = performed("worn").recording
    rows = (
        line.format(t=int(t), x=int(x), y=int(y), clock=clock(int(t)))
        for t, (x, y) in zip(take.t_us, take.raw, strict=True)
    )
    return (ends.join(rows) + ends).encode()


def clock(us: int) -> str:
    return f"10:{us // 60_000_000:02}:{us // 1_000_000 % 60:02}.{us % 1_000_000:06}"


@pytest.mark.parametrize(
    ("before", "line", "ends", "columns"),
    [
        ("", "x:{x},y:{y}", "\n", "x y"),
        ("", "X: {x}\tY: {y}", "\r\n", "X Y"),
        ("", "t={t} lx={x} ly={y};", "\n", "t lx ly"),
        ("", '{{"t_us": {t}, "x": {x}, "y": {y}}}', "\n", "t_us x y"),
        ("", "{clock} -> x: {x} | y: {y}", "\n", "clock x y"),
        ("boot: 3, mode: 1\r\nready\r\n12, y:498\r\n", "x:{x},y:{y}", "\r\n", "x y"),
        ("x:9,y:9\nready\n", "x:{x},y:{y}", "\n", "x y"),
        ("", "{x},{y}", "\n", "column1 column2"),
        ("", "{t} {x} {y}", "\n", "column1 column2 column3"),
    ],
)
def test_what_a_serial_monitor_shows_is_the_take_that_it_is(
    before: str, line: str, ends: str, columns: str
) -> None:
    data = before.encode() + printed(line, ends)
    assert preview(data).columns == tuple(columns.split())
    take, same = performed("worn").recording, read(data)
    assert same.raw.tolist() == take.raw.tolist(), "from its first sample on"
    apart = 0 if len(columns.split()) == 3 else 0.5 * 1e6 / RATE
    assert abs((same.t_us - same.t_us[0]) - (take.t_us - take.t_us[0])).max() <= apart


@pytest.mark.parametrize(
    ("lines", "number"),
    [(["x:1,y:2"] * 3 + ["x:1,z:2"], 4), (["hello", "x:1,y:2", "x:2,y:2", "x:3"], 4)],
)
def test_a_line_in_four_that_names_something_else_is_refused_by_its_number(
    lines: list[str], number: int
) -> None:
    mapping = Mapping(",", None, "us", "x", "y", (0, 9), (0, 9), rate_hz=RATE)
    with pytest.raises(FileError, match=rf"line {number}\b"):
        read_delimited("\n".join(lines).encode(), mapping)


@pytest.mark.parametrize(
    "odd", ["x:50", "", "the link is up", "x:504,z:7", "y:504,x:7", "504,7", "x:,y:7"]
)
@pytest.mark.parametrize("ends", ["\n", "\r\n"])
def test_a_line_that_is_cut_off_or_none_of_them_is_left_out_and_said(odd: str, ends: str) -> None:
    """Half a line at its end is usual of what was copied from a monitor."""
    lines = [f"x:{500 + i % 7},y:{510 - i % 5}" for i in range(40)]
    whole = read(ends.join(lines).encode())
    lines[20] = odd
    recording = read(ends.join([*lines, odd]).encode())
    assert recording.raw.tolist() == np.delete(whole.raw, 20, axis=0).tolist()
    assert np.diff(recording.t_us)[19] == 8000, "it took its time"
    assert recording.headers[ROWS_LEFT_OUT] == ("2" if odd else "1")


@pytest.mark.parametrize(
    "text", ["x:1\nx:2\n", "x:1,x:2\nx:1,x:2\n", "x:1,y:2\nx:1,z:2\n", "x:1,y:2", "x:1,y:2\n"]
)
def test_one_name_the_same_twice_or_once_in_a_file_is_no_table_of_names(text: str) -> None:
    assert unlabelled(text.encode()) is None


def test_rows_are_made_across_every_piece_of_a_long_text() -> None:
    lines = [b"x:%d, y:7\n" % (i % 1000) for i in range(3 * PIECE // 10)]
    table = unlabelled(b"".join(lines))
    assert table is not None
    assert table.rows == b"".join(b"%d,7\n" % (i % 1000) for i in range(len(lines)))


@pytest.mark.parametrize("again", [" ", "a : ", "a: b c: d e: f g: ", "a:1 "])
def test_no_line_of_a_stranger_takes_minutes_to_be_none(again: str) -> None:
    """Spaces alone took 218 seconds, and nothing else went on."""
    line = again * (60_000 // len(again)) + "!"

    def over(*_: object) -> None:
        raise TimeoutError

    before = signal.signal(signal.SIGALRM, over)
    signal.alarm(20)
    try:
        assert unlabelled(f"{line}\n{line}\n".encode()) is None
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def test_a_table_without_a_time_is_counted_as_was_said_and_says_so() -> None:
    rows = [f"{500 + i % 7},{510 - i % 5}" for i in range(40)]
    rows[3] = "nan,507"
    recording = read(("x,y\n" + "\n".join(rows)).encode(), 62.5)
    assert recording.t_us[:4].tolist() == [0, 16_000, 32_000, 64_000], "a row left out took time"
    assert recording.headers[TIMES_COUNTED] == "62.5"
    (told,) = [p for p in measure_take(recording).problems if p.code == TIMES_COUNTED]
    assert "its rows were counted, 62.5 a second as was said" in told.message


@pytest.mark.parametrize(("time", "rate"), [(None, None), ("t", 250.0)])
def test_either_a_column_says_the_time_or_its_rate_is_said(
    time: str | None, rate: float | None
) -> None:
    mapping = Mapping(",", time, "us", "x", "y", (0, 9), (0, 9), rate_hz=rate)
    with pytest.raises(FileError, match="either a column says the time"):
        read_delimited(b"t,x,y\n0,1,1\n4000,1,1\n", mapping)


@pytest.mark.parametrize(("step", "time"), [(1, None), (2, "n")])
def test_what_counts_the_rows_is_no_time(step: int, time: str | None) -> None:
    """By milliseconds, every logger had one sample in each."""
    rows = "".join(f"{step * i},{500 + i % 7},{510 - i % 5}\n" for i in range(40))
    guess = preview(f"n,x,y\n{rows}".encode()).guess
    assert (guess.time, guess.x, guess.y) == (time, "x", "y")
    assert preview(f"ms,x,y\n{rows}".encode()).guess.time == "ms", "what is called a time is one"


@pytest.mark.parametrize(
    ("least", "most", "proposed"),
    [
        ("-78.25", "81.5", (-100, 100)),
        ("-100.0", "99.5", (-100, 100)),
        ("0.5", "98.25", (0, 100)),
        ("-100", "100", (-100, 100)),
        ("0", "100", (0, 100)),
        ("-100", "99", (-128, 127)),
        ("1", "100", (0, 255)),
        ("-100.5", "100.5", (None, None)),
        ("0.5", "101.5", (0, 255)),
        ("-300.5", "20000.5", (-32768, 32767)),
    ],
)
def test_per_cent_are_no_bytes(least: str, most: str, proposed: tuple) -> None:
    """A sound stick in per cent reached 78 % of a byte's range."""
    rows = "".join(f"{i * 4000},{(least, most)[i % 2]},{least}\n" for i in range(40))
    guess = preview(f"t_us,x,y\n{rows}".encode()).guess
    assert (guess.lo, guess.hi) == proposed
