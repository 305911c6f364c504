"""Tables whose times are written as a clock shows them: every sample where it was, and what is no time
refused by its line."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hollow_pin.core.recording import STEPS, Recording
from hollow_pin.core.take import measure_take
from hollow_pin.formats.delimited import Mapping, preview, read_delimited
from hollow_pin.formats.errors import FileError
from sticks import performed

NOON = datetime(2026, 3, 1, 12, 0, 0)


def table(times: list[str], delimiter: str = ",") -> bytes:
    rows = [delimiter.join((t, str(500 + i % 7), str(510 - i % 5))) for i, t in enumerate(times)]
    return "\n".join((delimiter.join(("when", "x", "y")), *rows)).encode()


def read(data: bytes, delimiter: str = ",") -> list[int]:
    """Microseconds since the first sample."""
    mapping = Mapping(delimiter, "when", "clock", "x", "y", (0, 1023), (0, 1023))
    t = read_delimited(data, mapping).t_us
    return (t - t[0]).tolist()


@settings(max_examples=40, deadline=None)
@given(
    st.datetimes(datetime(1999, 1, 1), datetime(2090, 1, 1)),
    st.lists(st.integers(0, 10**7), min_size=2, max_size=30),
    st.sampled_from(["T", " "]),
    st.sampled_from(["", "Z", "+05:30", "-0800"]),
)
def test_what_a_clock_showed_is_when_it_was(
    start: datetime, apart: list[int], between: str, zone: str
) -> None:
    since = np.cumsum(apart).tolist()
    at = [start + timedelta(microseconds=us) for us in since]
    written = [t.isoformat(between, "microseconds") + zone for t in at]
    assert read(table(written)) == [us - since[0] for us in since]


@pytest.mark.parametrize(
    ("times", "us"),
    [
        (["9:00", "09:01", "9:01:30"], [0, 60_000_000, 90_000_000]),
        (["10:00:00.5", "10:00:00.75", "10:00:01"], [0, 250_000, 500_000]),
        (["23:59:59.9", "00:00:00.1", "00:00:00.2"], [0, 200_000, 300_000]),
        (["2026-02-28T23:59:59", "2026-03-01T00:00:01"], [0, 2_000_000]),
        (["10:00:00.000000001", "10:00:00.000001"], [0, 1]),
    ],
)
def test_days_and_parts_of_seconds_that_are_not_written(times: list[str], us: list[int]) -> None:
    assert read(table(times)) == us


def test_a_comma_may_part_the_seconds_where_it_parts_nothing_else() -> None:
    assert read(table(["10:00:00,5", "10:00:00,75"], ";"), ";") == [0, 250_000]


@pytest.mark.parametrize(
    "wrong",
    ["soon", "24:00:00", "10:60:00", "10:00:60", "2026-02-30T10:00:00", "10:00:00.", "", "10"],
)
def test_what_is_no_time_is_refused_by_its_line(wrong: str) -> None:
    good = ["10:00:00", "10:00:01"]
    dated = wrong.startswith("2026")
    times = [f"2026-02-28T{t}" if dated else t for t in good]
    with pytest.raises(FileError, match="is no time of a clock") as refused:
        read(table([*times, wrong, times[-1]]))
    assert (refused.value.line, refused.value.column) == (4, "when")


def test_a_date_that_is_missing_among_others_is_refused() -> None:
    with pytest.raises(FileError, match="“10:00:01” is no time of a clock") as refused:
        read(table(["2026-03-01 10:00:00", "10:00:01"]))
    assert refused.value.line == 3


def test_a_clock_that_is_set_back_by_an_hour_runs_backwards() -> None:
    with pytest.raises(FileError, match="runs backwards"):
        read(table(["12:00:00", "11:00:00"]))


@pytest.mark.parametrize("name", ["time", "when", "logged at"])
def test_it_is_proposed_for_the_time_by_what_is_in_it(name: str) -> None:
    data = table([f"10:00:0{i}" for i in range(9)]).replace(b"when", name.encode())
    guess = preview(data).guess
    assert (guess.time, guess.time_unit, guess.x, guess.y) == (name, "clock", "x", "y")


def test_a_column_of_numbers_stays_one_beside_a_clock() -> None:
    rows = "\n".join(f"{i * 4},10:00:0{i},50{i},51{i}" for i in range(9))
    guess = preview(f"t_ms,wall,x,y\n{rows}".encode()).guess
    assert (guess.time, guess.time_unit) == ("t_ms", "ms")


def test_a_whole_take_by_a_clock_of_milliseconds_is_measured_as_ever() -> None:
    recording = performed("worn").recording
    at = [NOON + timedelta(microseconds=int(t)) for t in recording.t_us]
    lines = [
        f"{t.isoformat(timespec='milliseconds')},{int(x)},{int(y)},{step}"
        for t, (x, y), step in zip(at, recording.raw, steps_of(recording), strict=True)
    ]
    data = "\n".join(("time,x,y,step", *lines)).encode()
    mapping = Mapping(",", "time", "clock", "x", "y", (0, 1023), (0, 1023), step="step")
    take, same = measure_take(read_delimited(data, mapping)), measure_take(recording)
    for path in ("let_go.return_spread", "composite.dead_zone_needed", "rim.circularity_error"):
        assert take.value(path) == pytest.approx(same.value(path), abs=0.15)
    assert [h.code for h in take.hidden] == [h.code for h in same.hidden]


def steps_of(recording: Recording) -> list[str]:
    return ["" if s < 0 else STEPS[s] for s in recording.step]
