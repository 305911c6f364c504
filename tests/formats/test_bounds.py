"""Files that are no recordings: each is refused in a line that names the place, and held in bounds."""

from __future__ import annotations

import random

import numpy as np
import pytest

from hollow_pin.core.recording import LONGEST_US, MOST_SAMPLES, RecordingError
from hollow_pin.formats.cells import as_text
from hollow_pin.formats.delimited import LOOKED_AT, Mapping, preview, read_delimited
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.gauge_csv import read_gauge_study
from hollow_pin.formats.ledger_csv import write_table
from hollow_pin.formats.recording_csv import read_recording, write_recording
from hollow_pin.formats.table import LONGEST_LINE, MOST_COLUMNS, MOST_HEAD_LINES
from sticks import performed

HEAD = "# hollow-pin-recording: 1\n# range.x: 0,9\n# range.y: 0,9\n"
PLAIN = Mapping(",", "t", "us", "x", "y", (0, 9), (0, 9))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (HEAD + "t_us,x,y\n0,1,1\n1,2\r,3\n", "line 6: a carriage return stands in it"),
        (HEAD + 't_us,x,y\n0,1,1\n1,"2,3\n', "line 6"),
        (HEAD + "t_us,x,y\n0,1,1\n1,2\n", "line 6: 2 values, and 3 columns"),
        (HEAD + "t_us,x,y\n0,1,1\n1,2," + "z" * 5000 + "\n", "line 6: the row has over 4000 bytes"),
        (HEAD + "t_us,x,y\n0,1,1\n1,2," + "z" * 500 + "\n", "“" + "z" * 60 + "…” is not a number"),
        (
            HEAD + "# note: " + "x" * LONGEST_LINE + "\nt_us,x,y\n0,1,1\n",
            "line 4: the line has over",
        ),
        (
            HEAD + "# a: b\n" * MOST_HEAD_LINES + "t_us,x,y\n0,1,1\n",
            f"over {MOST_HEAD_LINES} lines",
        ),
        (HEAD + "t_us,x,y" + ",z" * MOST_COLUMNS + "\n0,1,1\n", f"{MOST_COLUMNS + 3} columns"),
        (HEAD + "t_us,x,y\n0,1,1\n1e17,1,1\n", "line 6, column t_us: the time is not in micro"),
        (HEAD + f"t_us,x,y\n0,1,1\n{LONGEST_US + 1},1,1\n", "lasts 24 hours and may last 24"),
        (HEAD + "t_us,x,y\n0,1,1\n99999999999999999999,1,1\n", "line 6, column t_us"),
        (HEAD.replace("0,9", "0,1e300") + "t_us,x,y\n0,1,1\n", "cannot be measured in"),
    ],
)
def test_a_file_that_is_no_recording_names_the_place(text: str, says: str) -> None:
    with pytest.raises(FileError) as wrong:
        read_recording(text.encode())
    assert says in str(wrong.value)
    assert "\n" not in str(wrong.value)
    assert len(str(wrong.value)) < 400


def test_a_take_has_so_many_rows_and_no_more() -> None:
    row = b"0,1,1\n"
    head = (HEAD + "t_us,x,y\n").encode()
    assert len(read_recording(head + row * MOST_SAMPLES).t_us) == MOST_SAMPLES
    with pytest.raises(FileError, match="3,700,001 rows and may have 3,700,000"):
        read_recording(head + row * (MOST_SAMPLES + 1))


def test_a_wrong_unit_of_time_is_named_before_anything_is_made_of_it() -> None:
    """Twenty-two lines of microseconds taken for seconds asked for gigabytes."""
    rows = "".join(f"{i * 1_000_000},1,1\n" for i in range(21))
    with pytest.raises(FileError, match=r"unit of the time right\?"):
        read_delimited(f"t,x,y\n{rows}".encode(), Mapping(**(vars(PLAIN) | {"time_unit": "s"})))


def test_a_preview_looks_at_the_beginning_only() -> None:
    rows = b"".join(b"%d,%d,%d\n" % (i, i % 9, i % 7) for i in range(LOOKED_AT // 9))
    previewed = preview(b"t,x,y\n" + rows + b"rubbish that is farther down" * 99)
    assert previewed.guess.time == "t"
    assert (previewed.guess.lo, previewed.guess.hi) == (0.0, 255.0)


@pytest.mark.parametrize("data", [b"a,b\r1,2\r", b"\n" * 600 + b"a,b\n1,2\n", b"a,b\n"])
def test_a_preview_of_rubbish_is_refused(data: bytes) -> None:
    with pytest.raises(FileError):
        preview(data)


def test_a_gauge_study_of_strangers_is_refused_before_it_is_laid_out() -> None:
    rows = "".join(f"p{i},o{i},t{i},1\n" for i in range(500))
    with pytest.raises(FileError, match="500 values are there and 125000000 are needed"):
        read_gauge_study(f"part,operator,trial,value\n{rows}".encode())


def test_mutated_files_are_read_or_refused() -> None:
    """See also `make torture`."""
    whole = "".join(write_recording(performed("worn").recording)).encode()[:40_000]
    mutate_and_read(whole, 300, seed=5)


def mutate_and_read(whole: bytes, times: int, seed: int) -> int:
    """Change files at random and read them; how many were read all the same."""
    draw, read = random.Random(seed), 0
    said: set[str] = set()
    pieces = (
        b"\r",
        b"\n",
        b",",
        b'"',
        b"#",
        b"nan",
        b"1e308",
        b"-",
        b"\0",
        b"\xff",
        b"9" * 30,
        b";",
    )
    for _ in range(times):
        data = bytearray(whole)
        for _ in range(draw.randint(1, 6)):
            at = draw.randrange(len(data) + 1)
            cut = draw.choice((0, 0, 1, 2, 50))
            data[at : at + cut] = draw.choice(pieces) * draw.choice((1, 1, 3, 400))
        for reader in (
            read_recording,
            preview,
            lambda d: read_delimited(d, PLAIN),
            read_gauge_study,
        ):
            try:
                reader(bytes(data))
                read += 1
            except (FileError, RecordingError) as wrong:
                said.add(str(wrong))
    assert not any("\n" in words for words in said)
    return read


@pytest.mark.parametrize(
    ("cell", "shown"),
    [
        ("=1+1", "'=1+1"),
        ("a;=1+1", "a;'=1+1"),
        ("a\t=1+1", "a\t'=1+1"),
        ("a,=1", "a,'=1"),
        ('a"=1', "a\"'=1"),
        ("a\n=1", "a\n'=1"),
        ("a; @x", "a; '@x"),
        ("a|+1", "a|'+1"),
        ("-4 %", "'-4 %"),
        ("1 = 1, and so on", "1 = 1, and so on"),
        ("10 kΩ; worn-out", "10 kΩ; worn-out"),
    ],
)
def test_no_separator_makes_a_formula_of_words(cell: str, shown: str) -> None:
    assert as_text(cell) == shown


def test_tables_and_recording_files_carry_no_formula() -> None:
    table = write_table(("text",), [("a;=1+1",)])
    assert table.splitlines()[1] == '"a;\'=1+1"'
    recording = performed("sound").recording
    odd = type(recording)(
        recording.t_us, recording.raw, recording.ranges, recording.step, {"note": "a;=1+1"}
    )
    text = "".join(write_recording(odd))
    assert "# note: a;'=1+1\n" in text
    assert np.array_equal(read_recording(text.encode()).raw, recording.raw)
