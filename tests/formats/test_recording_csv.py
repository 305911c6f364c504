"""Recording files: every sample comes back, and every bad file is refused by line and column."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hollow_pin.core.recording import STEPS, AxisCalibration, AxisRange, Recording
from hollow_pin.formats.delimited import Mapping, preview, read_delimited
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.guess import Guess
from hollow_pin.formats.recording_csv import read_recording, write_recording
from hollow_pin.formats.table import LARGEST_BYTES, require_size
from sticks import performed

HEAD = (
    "# hollow-pin-recording: 1\n# axes: x,y\n# range.x: 0,1023\n# range.y: 0,1023\n"
    "# y-positive: up\n# bench: 2\nt_us,x,y,step\n"
)
ROWS = "0,512,515,still\n4000,512,514,still\n8000,513,514,rim\n"


def read(text: str) -> Recording:
    return read_recording(text.encode())


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.integers(0, 10**7),
            st.floats(-1, 1),
            st.floats(-1, 1),
            st.sampled_from([-1, 0, 1, 2]),
        ),
        min_size=1,
        max_size=30,
    )
)
def test_what_is_written_is_read_back_bit_for_bit(samples) -> None:
    t = np.cumsum([s[0] for s in samples]).astype(np.int64)
    raw = np.array([s[1:3] for s in samples])
    step = np.array([s[3] for s in samples], np.int8)
    one = Recording(t, raw, (AxisRange(-1, 1),) * 2, step, {"stick": "left", "bench": "two"})
    back = read("".join(write_recording(one)))
    assert (back.t_us == t).all()
    assert (back.raw == raw).all()
    assert (back.step == step).all()
    assert back.ranges == one.ranges
    assert back.headers == one.headers


def calibrated(x: str, y: str, positive: str = "up") -> str:
    own = f"# calibration.x: {x}\n# calibration.y: {y}\n"
    return HEAD.replace("# y-positive: up\n", f"{own}# y-positive: {positive}\n") + ROWS


def test_a_device_s_own_calibration_comes_with_its_numbers_and_goes_back() -> None:
    back = read(calibrated("100,520.5,900", "unknown"))
    assert back.ranges[0].known_calibration == AxisCalibration(100, 520.5, 900)
    assert back.ranges[1].calibration == "unknown"
    written = "".join(write_recording(back))
    assert (
        "# calibration.x: 100,520.5,900\n# range.y: 0,1023\n# calibration.y: unknown\n" in written
    )
    assert read(written).ranges == back.ranges
    assert "calibration.x" not in back.headers


def test_a_calibration_is_turned_up_with_its_axis() -> None:
    down = read(calibrated("100,520,900", "200,500,950", "down"))
    assert down.ranges[0].known_calibration == AxisCalibration(100, 520, 900)
    assert down.ranges[1].known_calibration == AxisCalibration(1023 - 950, 523, 823)
    assert down.raw[0, 1] == 1023 - 515
    assert read("".join(write_recording(down))).ranges == down.ranges


@pytest.mark.parametrize(
    ("written", "why"),
    [
        ("100,520", "neither “low,centre,high” nor “unknown”"),
        ("100,520,900,1000", "neither “low,centre,high” nor “unknown”"),
        ("low,520,900", "neither “low,centre,high” nor “unknown”"),
        ("100,900,520", "must rise"),
        ("100,520,2000", "within the range 0 to 1023"),
        ("500,520,900", "next to nothing"),
    ],
)
def test_a_calibration_that_is_none_is_refused_with_its_line(written: str, why: str) -> None:
    with pytest.raises(FileError, match=why) as refused:
        read(calibrated("100,520,900", written))
    assert refused.value.line == 6


def test_a_whole_take_survives_the_file() -> None:
    recording = performed("dirty").recording
    back = read("".join(write_recording(recording)))
    assert (back.raw == recording.raw).all()
    assert (back.step == recording.step).all()


def test_unknown_header_lines_are_kept_and_steps_named() -> None:
    recording = read(HEAD + ROWS)
    assert recording.headers == {"bench": "2"}
    assert [STEPS[s] for s in recording.step] == ["still", "still", "rim"]
    assert "# bench: 2\n" in "".join(write_recording(recording))


def test_y_that_grows_downward_is_turned_once_and_the_file_says_so() -> None:
    recording = read((HEAD + ROWS).replace("y-positive: up", "y-positive: down"))
    assert recording.raw[0].tolist() == [512, 1023 - 515]
    again = read("".join(write_recording(recording)))
    assert again.raw.tolist() == recording.raw.tolist()
    assert again.headers["y-turned"] == "yes"


def test_a_single_axis_has_no_y_column() -> None:
    text = "# hollow-pin-recording: 1\n# axes: x\n# range.x: 0,255\nt_us,x,step\n0,1,\n5,2,still\n"
    recording = read(text)
    assert recording.axes == ("x",)
    assert recording.u[0, 0] == pytest.approx(100 * (1 - 127.5) / 127.5)


BAD = {
    "empty": ("", "file is empty"),
    "blank": ("\n\n  \n", "file is empty"),
    "no head": ("t_us,x,y\n0,1,2\n", "line 1: “# hollow-pin-recording: 1” is expected first"),
    "version": (HEAD.replace(": 1\n", ": 9\n", 1) + ROWS, "line 1"),
    "no samples": (HEAD, "line 8: there are no samples"),
    "no columns": ("# hollow-pin-recording: 1\n", "no column row"),
    "text": (HEAD + "0,512,515,still\n4000,abc,514,still\n", "line 9, column x: “abc”"),
    "nan": (HEAD + "0,512,nan,still\n", "line 8, column y: nan is not a number"),
    "infinite": (HEAD + "0,512,1e999,still\n", "line 8, column y"),
    "missing": (HEAD + "0,512,,still\n", "line 8, column y: is empty"),
    "few": (HEAD + "0,512,515,still\n4000,512\n", "line 9: 2 values, and 4 columns"),
    "hole": (HEAD + "0,512,515,still\n\n4000,512,514,still\n", "line 9: the line is empty"),
    "backwards": (
        HEAD + "0,5,5,\n9,5,5,\n8,5,5,\n",
        "line 10, column t_us: the time runs backwards",
    ),
    "outside": (
        HEAD + "0,5,5,\n9,2047,5,\n",
        "line 9, column x: 2047 lies outside the range 0 to 1023",
    ),
    "step": (HEAD + "0,5,5,still\n9,5,5,wobble\n", "line 9, column step: “wobble” is not a step"),
    "no y": (HEAD.replace("t_us,x,y,", "t_us,x,") + "0,5,\n", "line 7: the column y is missing"),
    "no range": (HEAD.replace("# range.y: 0,1023\n", "") + ROWS, "range of y is missing"),
    "range": (HEAD.replace("0,1023", "1023,0", 1) + ROWS, "line 3: the range 1023 to 0"),
    "range words": (HEAD.replace("0,1023", "a lot", 1) + ROWS, "line 3: “a lot” is not “lo,hi”"),
    "axes": (HEAD.replace("x,y\n", "x,z\n", 1) + ROWS, "line 2: axes must be"),
    "header": (HEAD.replace("# bench: 2", "# bench two") + ROWS, "line 6: a header line reads"),
    "bits": ("# hollow-pin-recording: 1\n\xff\xfe", "line 2"),
}


@pytest.mark.parametrize("name", BAD)
def test_a_bad_file_is_refused_by_its_place(name: str) -> None:
    text, says = BAD[name]
    with pytest.raises(FileError) as refusal:
        read_recording(text.encode("latin-1" if name == "bits" else "utf-8"))
    assert says in str(refusal.value)


def test_a_huge_file_is_refused_before_it_is_read() -> None:
    with pytest.raises(FileError, match="300 MB"):
        require_size(300_000_000)
    require_size(LARGEST_BYTES)


# Any other table


LOGGER = "ms;left_x;left_y\n0;-0,5\n".replace(",", ".") + "".join(
    f"{4 * i}.25;{0.01 * (i % 3):.2f};-0.25\n" for i in range(40)
)
TABLE = "time;lx;ly;mark\n" + "".join(f"{i / 250};{i % 9};{250 - i % 7};\n" for i in range(50))


def test_a_foreign_table_is_looked_into_and_read_by_its_columns() -> None:
    previewed = preview(TABLE.encode())
    assert (previewed.delimiter, previewed.guess.time, previewed.guess.x, previewed.guess.y) == (
        ";",
        "time",
        "lx",
        "ly",
    )
    assert previewed.rows[0] == ("0.0", "0", "250", "")
    mapping = Mapping(";", "time", "s", "lx", "ly", (0, 255), (0, 255), "down", None, "still")
    recording = read_delimited(TABLE.encode(), mapping)
    assert recording.t_us[1] == 4000
    assert recording.raw[0].tolist() == [0, 5]
    assert set(recording.step.tolist()) == {STEPS.index("still")}


def table(head: str, *columns: np.ndarray, comma: bool = False) -> bytes:
    """A table as loggers write them; comma: with decimal commas."""
    rows = [";".join(f"{v:g}" for v in row) for row in zip(*columns, strict=True)]
    text = "\n".join([head, *rows])
    return (text.replace(".", ",") if comma else text).encode()


N = np.arange(3000)
SWING = np.sin(N / 40)


@pytest.mark.parametrize(
    ("data", "guess"),
    [
        (
            table(
                "Zeit;Ausschlag X;Ausschlag Y;Taste",
                4.0 * N,
                2048 + 1900 * SWING,
                2050 + 9 * SWING,
                0 * N,
            ),
            Guess("Zeit", "ms", "Ausschlag X", "Ausschlag Y", None, 0, 4095),
        ),
        (
            table("n;count;a;b", 2000 * N, 7 + 0 * N, 0.5 * SWING, 0.9 * SWING, comma=True),
            Guess("n", "us", "a", "b", None, -1, 1),
        ),
        (
            table("stamp;pot;step", N / 250, np.round(300 + 200 * SWING), 0 * N),
            Guess("stamp", "s", "pot", None, "step", 0, 1023),
        ),
        (
            table("t;x;y", N / 250, 1e6 * SWING, SWING),
            Guess("t", "s", "x", "y", None, None, None),
        ),
    ],
)
def test_what_a_table_seems_to_hold_is_proposed(data: bytes, guess: Guess) -> None:
    """Nobody should have to know by heart which of fifteen columns is what."""
    assert preview(data).guess == guess


def test_a_table_with_decimal_commas_is_read_and_refused_by_place() -> None:
    data = table("t;a;b", N / 250, 0.5 * SWING, 0.25 * SWING, comma=True)
    previewed = preview(data)
    assert previewed.decimal_point == ","
    mapping = Mapping(";", "t", "s", "a", "b", (-1, 1), (-1, 1), decimal_point=",")
    recording = read_delimited(data, mapping)
    assert recording.t_us[1] == 4000
    assert recording.raw[:, 0] == pytest.approx(0.5 * SWING, abs=1e-5)
    broken = data.replace(b"\n0,008;", b"\n0.008;")
    with pytest.raises(FileError, match=r"line 4, column t: “0\.008” is not a number"):
        read_delimited(broken, mapping)


@pytest.mark.parametrize(
    ("data", "change", "says"),
    [
        (LOGGER, {"time": "ms", "x": "left_x", "y": "left_y"}, "line 2: 2 values"),
        (TABLE, {"x": "left"}, "line 1: there is no column left"),
        (TABLE, {"x": "time"}, "one column is named for two things"),
        (TABLE, {"range_x": (9, 9)}, "not a range"),
        (TABLE, {"range_x": (0, 7)}, "line 10, column lx: 8 lies outside"),
        (TABLE, {"range_y": None}, "range of y is missing"),
    ],
)
def test_a_wrong_mapping_is_refused(data: str, change: dict, says: str) -> None:
    right = {
        "delimiter": ";",
        "time": "time",
        "time_unit": "s",
        "x": "lx",
        "y": "ly",
        "range_x": (0, 255),
        "range_y": (0, 255),
    }
    with pytest.raises(FileError) as refusal:
        read_delimited(data.encode(), Mapping(**(right | change)))
    assert says in str(refusal.value)
