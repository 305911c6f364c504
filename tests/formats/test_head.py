"""Tables as loggers, jigs and spreadsheets write them: found where they begin, read to the sample."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.recording import ROWS_LEFT_OUT, Recording
from hollow_pin.core.take import measure_take
from hollow_pin.formats.counter import unwrapped
from hollow_pin.formats.delimited import Mapping, preview, read_delimited
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.head import LOOKED_THROUGH
from hollow_pin.formats.recording_csv import read_recording
from hollow_pin.formats.table import NOTHING

ROWS = "".join(f"{4000 * i},{500 + i % 7},{510 - i % 5}\n" for i in range(40))
PLAIN = "when_us,x,y\n" + ROWS
NAMED = Mapping(",", "when_us", "us", "x", "y", (0, 1023), (0, 1023))


def read(data: bytes) -> Recording:
    """As it is proposed."""
    previewed = preview(data)
    g = previewed.guess
    assert None not in (g.time, g.x, g.y), g
    mapping = Mapping(
        previewed.delimiter, g.time or "", g.time_unit, g.x or "", g.y, (0, 1023), (0, 1023)
    )
    return read_delimited(data, mapping)


@pytest.mark.parametrize(
    "data",
    [
        f"Logged by jig 3\nbench 2, back room\n\n{PLAIN}".encode(),
        f"Rate,250\nBits,10\nRange x,0,1023\nRange y,0,1023\n{PLAIN}".encode(),
        f"when_us,x,y\nus,counts,counts\n{ROWS}".encode(),
        f"Jig 3\n\n# a remark\nwhen_us,x,y\n\nus,counts,counts\n{ROWS}".encode(),
        f"Jig 3\nwhen_us;x;y\n{ROWS.replace(',', ';')}".encode(),
        PLAIN.replace(",", " ").encode(),
        f"{PLAIN.replace(',', chr(9))}".encode("utf-16"),
        b"\xfe\xff" + PLAIN.encode("utf-16-be"),
        ("\ufeff" + PLAIN).encode(),
    ],
)
def test_a_table_is_found_below_what_stands_above_it(data: bytes) -> None:
    """It was “only one column”, columns without a number in them, or “not UTF-8 text”."""
    plain, same = read(PLAIN.encode()), read(data)
    assert preview(data).columns == ("when_us", "x", "y")
    assert same.t_us.tolist() == plain.t_us.tolist()
    assert same.raw.tolist() == plain.raw.tolist()


@pytest.mark.parametrize("above", ["", "Jig 3\nmade here, by hand\n", "Jig 3\nwhen,x,y\n"])
def test_a_wrong_value_is_named_by_the_line_it_stands_in(above: str) -> None:
    head = above + ("when_us,x,y\n" if "when" not in above else "us,counts,counts\n")
    text = head + ROWS + "160000,off,500\n"
    with pytest.raises(FileError) as wrong:
        read_delimited(
            text.encode(),
            Mapping(",", preview(text.encode()).columns[0], "us", "x", "y", (0, 9), (0, 9)),
        )
    assert f"line {text.count(chr(10))}, column x: “off” is not a number" in str(wrong.value)


def test_a_setting_and_its_number_are_no_samples() -> None:
    """A single axis has as many columns as a list of settings."""
    rows = "".join(f"{4000 * i},{500 + i % 7}\n" for i in range(9))
    previewed = preview(f"Setting,Value\nBits,10\nwhen_us,x\n{rows}".encode())
    assert previewed.columns == ("when_us", "x")


def test_a_table_without_names_is_numbered_and_keeps_its_first_sample() -> None:
    previewed = preview(ROWS.encode())
    assert previewed.columns == ("column1", "column2", "column3")
    assert previewed.rows[0] == ("0", "500", "510")
    with pytest.raises(FileError, match="line 37, column column2: “off”"):
        read(ROWS.replace("144000,501,", "144000,off,").encode())


def test_one_column_row_that_is_followed_by_words_is_the_first_line() -> None:
    """Nothing below it is samples: what is wrong is said of the table, and not of a line in it."""
    assert preview(b"a,b\nc,d\ne,f\n").columns == ("a", "b")


@pytest.mark.parametrize(("lines", "found"), [(LOOKED_THROUGH - 2, True), (LOOKED_THROUGH, False)])
def test_it_is_looked_for_in_the_first_lines_only(lines: int, found: bool) -> None:
    data = ("a note, and another, and more, all four\n" * lines + PLAIN).encode()
    assert (preview(data).columns[0] == "when_us") == found


def test_what_is_no_line_of_a_table_farther_down_does_not_hinder_it() -> None:
    """A column that nobody asks for may hold anything."""
    data = PLAIN.replace("\n", ",ok\n").replace("y,ok", "y,note").encode()
    broken = data.replace(b"80000,506,510,ok", b"80000,506,510,\xe4")
    assert broken != data
    assert preview(broken).columns == ("when_us", "x", "y", "note")


@pytest.mark.parametrize(
    ("t", "goes_on"),
    [
        ([65533, 65535, 1, 3, 65535, 2], [65533, 65535, 65537, 65539, 131071, 131074]),
        ([2**32 - 4000, 0, 4000], [2**32 - 4000, 2**32, 2**32 + 4000]),
        ([40000, 7231, 7300], [40000, 72767, 72836]),
        ([40000, 7232, 7300], None),
        ([65535, 65536, 0, 1], None),
        ([5, 4, 6], None),
        ([65535, 1, 65000, 64999], None),
        ([0.5, 65535.0, 1.0], None),
        ([-1, 65535, 1], None),
    ],
)
def test_a_counter_that_begins_again_goes_on(t: list[float], goes_on: list[float] | None) -> None:
    """“The time runs backwards”, of a jig that had been on for an hour. What falls by less is another
    clock's, and is refused as before."""
    assert unwrapped(np.array(t, float)).tolist() == (goes_on or t)


def test_a_take_over_the_end_of_a_counter_is_read_whole() -> None:
    plain = read(PLAIN.encode())
    first = 2**32 - 60_000
    rows = "".join(
        f"{(first + int(t)) % 2**32},{x:.0f},{y:.0f}\n"
        for t, (x, y) in zip(plain.t_us, plain.raw, strict=True)
    )
    same = read(f"when_us,x,y\n{rows}".encode())
    assert np.diff(same.t_us).tolist() == np.diff(plain.t_us).tolist()


@pytest.mark.parametrize(
    ("most", "proposed"),
    [(1.0, (0.0, 1.0)), (3.3, (None, None)), (5.5, (None, None)), (5.6, (0.0, 100.0))],
)
def test_no_range_of_counts_is_proposed_for_volts(
    most: float, proposed: tuple[float | None, float | None]
) -> None:
    """By bytes, a whole stick went over one per cent."""
    rows = "".join(f"{i * 4000},{most * (i % 9) / 8:.4f},{most / 2}\n" for i in range(40))
    guess = preview(f"t_us,x,y\n{rows}".encode()).guess
    assert (guess.lo, guess.hi) == proposed
    counts = "".join(f"{i * 4000},{i % 4},{i % 3}\n" for i in range(40))
    assert preview(f"t_us,x,y\n{counts}".encode()).guess.hi == 255.0


@pytest.mark.parametrize("nothing", NOTHING)
def test_rows_without_a_value_are_left_out_and_said(nothing: str) -> None:
    """A jig that misses a conversion now and then: its whole table was refused."""
    rows = ROWS.splitlines()
    rows[3] = f"12000,{nothing},507"
    rows[-1] = f"156000,504,{nothing}"
    recording = read("\n".join(("when_us,x,y", *rows)).encode())
    plain = read(PLAIN.encode())
    left = np.delete(np.arange(40), (3, 39))
    assert recording.t_us.tolist() == plain.t_us[left].tolist()
    assert recording.raw.tolist() == plain.raw[left].tolist()
    (problems,) = [p for p in measure_take(recording).problems if p.code == ROWS_LEFT_OUT]
    assert problems.message == "2 rows of the table have no value, and are left out."
    assert not [p for p in measure_take(plain).problems if p.code == ROWS_LEFT_OUT]


def test_what_is_wrong_below_a_gap_is_named_by_its_line() -> None:
    rows = ROWS.splitlines()
    rows[3] = "12000,,507"
    rows[9] = "31000,500,507"
    with pytest.raises(FileError, match="line 11, column when_us: the time runs backwards"):
        read_delimited("\n".join(("when_us,x,y", *rows)).encode(), NAMED)


@pytest.mark.parametrize(("missing", "readable"), [(8, True), (9, False)])
def test_a_column_of_gaps_is_refused(missing: int, readable: bool) -> None:
    """A fifth of forty rows, and one more."""
    rows = ROWS.splitlines()
    rows[1 : missing + 1] = [r.rsplit(",", 1)[0] + "," for r in rows[1 : missing + 1]]
    data = "\n".join(("when_us,x,y", *rows)).encode()
    if readable:
        assert len(read_delimited(data, NAMED).t_us) == 40 - missing
    else:
        with pytest.raises(FileError, match="line 3, column y: 22 % of its rows have no value"):
            read_delimited(data, NAMED)


def test_a_recording_file_has_no_gaps() -> None:
    head = "# hollow-pin-recording: 1\n# range.x: 0,9\n# range.y: 0,9\nt_us,x,y\n"
    with pytest.raises(FileError, match="line 6, column x: is empty"):
        read_recording((head + "0,1,1\n1,,1\n2,1,1\n").encode())
