"""What a sketch prints that was written for something else: read as it is, and timed as it comes."""

from __future__ import annotations

import os
import threading
import tty
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
import pytest

from core.test_foreign import FOREIGN, taken
from hollow_pin.core.recording import TIMES_OF_ARRIVAL, AxisRange, Recording
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.sources.printed_line import Arrivals, counts_otherwise, has_clock, numbers_in
from hollow_pin.sources.serial_logger import (
    LineParser,
    Probed,
    SerialSource,
    _axes_of,
    _has_ranges,
    probe,
)
from hollow_pin.sources.source import SourceLost


@pytest.mark.parametrize(
    ("line", "numbers"),
    [
        (b"512,498", ([512, 498], False)),
        (b"512\t498", ([512, 498], False)),
        (b" 512 ; 498 ", ([512, 498], False)),
        (b"[512 | 498]", ([512, 498], False)),
        (b"512", ([512], False)),
        (b"1000,512,498", ([1000, 512, 498], False)),
        (b"x:512,y:498", ([512, 498], True)),
        (b"y=498 x=512", ([512, 498], True)),
        (b'{"x": 512, "y": 498}', ([512, 498], True)),
        (b"battery:3,joyX:512,joyY:498,button:0", ([512, 498], True)),
        (b"Joy X: 512 | Joy Y: 498", ([512, 498], True)),
        (b"left_x1: 512 left_y1: 498", ([512, 498], True)),
        (b"trigger: 7", ([7], True)),
        (b"boot 12", None),
        (b"x: much", None),
        (b"512,,498", None),
        (b",".join([b"1"] * 8), ([1] * 8, False)),
        (b",".join([b"1"] * 9), None),
    ],
)
def test_the_numbers_of_a_line_are_those_of_its_axes(
    line: bytes, numbers: tuple[list[float], bool] | None
) -> None:
    assert numbers_in(line) == numbers


def test_a_clock_goes_on_with_nearly_every_line_and_a_stick_does_not() -> None:
    clock = [[2000.0 * i] for i in range(21)]
    assert has_clock(clock)
    clock[5] = [0.0]
    assert has_clock(clock), "one was garbled"
    clock[9] = clock[13] = [0.0]
    assert not has_clock(clock)
    assert not has_clock([[512.0]] * 20), "no clock stands still"
    assert not has_clock([[1.0]]), "of one line nobody can tell"


def test_a_clock_that_counts_milliseconds_is_no_clock_of_microseconds() -> None:
    """A stick settled in a quarter of a millisecond."""
    at = np.arange(200)
    assert counts_otherwise((2 * at).tolist(), 0.4)
    assert not counts_otherwise((2000 * at).tolist(), 0.4)
    assert counts_otherwise((11.9 * at).tolist(), 0.1), "no port is as fast"
    assert not counts_otherwise((12.0 * at).tolist(), 0.1)
    slow = (50 * at).tolist()
    assert counts_otherwise(slow, 10.0), "twenty lines a second, by a clock of milliseconds"
    assert not counts_otherwise(slow, 0.199), "which came all at once"
    assert counts_otherwise(slow, 50 * 199 / 1e6 / 0.0199)
    assert not counts_otherwise(slow, 50 * 199 / 1e6 / 0.0201)
    assert not counts_otherwise([5.0], 1.0)


def arrived(times_s: np.ndarray, batch_s: float) -> np.ndarray:
    """Seconds that samples made at some are given, where a port hands them over every so often."""
    arrivals, given = Arrivals(), []
    comes = np.ceil(times_s / batch_s) * batch_s
    for at in np.unique(comes):
        times = arrivals.times(int((comes == at).sum()), float(at))
        given += [] if times is None else (times / 1e6).tolist()
    return np.array(given)


@pytest.mark.parametrize("batch_s", [0.001, 0.004, 0.016])
@pytest.mark.parametrize("rate", [60.0, 250.0, 500.0, 1000.0])
def test_samples_without_a_time_are_as_even_as_they_were_printed(
    rate: float, batch_s: float
) -> None:
    made = np.arange(round(8 * rate)) / rate
    given = arrived(made, batch_s)
    assert (np.diff(given) > 0).all()
    settled = given[len(given) // 2 :]
    assert 1 / np.diff(settled).mean() == pytest.approx(rate, rel=0.005)
    assert np.diff(settled).std() * rate < 0.25
    behind = settled - made[-len(settled) :]
    assert np.ptp(behind) < batch_s + 1 / rate


def test_where_nothing_came_for_a_while_there_is_a_gap_and_no_slow_stick() -> None:
    made = np.arange(2000) / 500
    made[1000:] += 2.0
    given = arrived(made, 0.004)
    gaps = np.diff(given)
    assert (gaps > 1.5).sum() == 1
    assert np.sort(gaps)[-2] < 0.02, "what came after it came at its own pace"
    made[1000:] -= 1.76
    assert np.diff(arrived(made, 0.004)).max() < 0.2, "a port may be late"


# On a wire


@pytest.fixture
def wire() -> Iterator[tuple[str, int]]:
    master, slave = os.openpty()
    tty.setraw(slave)
    yield os.ttyname(slave), master
    os.close(slave)
    os.close(master)


@contextmanager
def printing(master: int, line: str, header: str = "") -> Iterator[None]:
    """Print lines meanwhile. line: of x and y, with a little noise, and of times in us and ms. header:
    before every twentieth, since whoever opens a port has missed what came before."""
    over = threading.Event()
    rng = np.random.default_rng(3)

    def run() -> None:
        i = 0
        while not over.wait(0.002):
            x, y = rng.integers(498, 502, 2)
            printed = line.format(x=x, y=y, us=2000 * i, ms=2 * i)
            said = header if i % 20 == 0 else ""
            os.write(master, f"{said}{printed}\n".encode())
            i += 1

    thread = threading.Thread(target=run)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


AXES = "# axes: x,y\n# range.x: 0,1023\n# range.y: 0,1023\n"


@pytest.mark.parametrize(
    ("line", "header", "probed"),
    [
        ("{x},{y}", "", Probed(2, None, False)),
        ("{x},{y}", AXES, Probed(2, (AxisRange(0, 1023),) * 2, False)),
        ("x:{x},y:{y}", "", Probed(2, None, False)),
        ("{x}", "", Probed(1, None, False)),
        ("{us},{x}", "", Probed(1, None, False)),
        ("{us},{x},{y}", "", Probed(2, None, False)),
    ],
)
def test_what_a_sketch_prints_is_known_by_listening(
    wire: tuple[str, int], monkeypatch: pytest.MonkeyPatch, line: str, header: str, probed: Probed
) -> None:
    """“512,498” was one axis, by a clock of its own."""
    monkeypatch.setattr("hollow_pin.sources.serial_logger.PROBE_S", 0.5)
    path, master = wire
    with printing(master, line, header):
        assert probe(path) == probed


def test_a_logger_that_names_its_axes_is_believed_whatever_rises() -> None:
    """A stick that was pushed over meanwhile was a clock, and y an axis alone."""
    pushed = [b"%d,500" % (30 * i) for i in range(20)]
    assert _axes_of(pushed, "x,y", "wire", 0.04) == 2
    assert _axes_of(pushed, None, "wire", 0.04) == 1
    assert _axes_of(pushed + [b"boot"] * 20, "x,y", "wire", 0.04) == 2
    with pytest.raises(SourceLost, match="41 lines came that are no samples"):
        _axes_of(pushed + [b"boot"] * 21, "x,y", "wire", 0.04)


def test_it_is_listened_to_until_the_range_of_every_axis_was_said() -> None:
    assert not _has_ranges({})
    assert not _has_ranges({"axes": "x,y", "range.x": "0,9"})
    assert not _has_ranges({"range.x": "0,9"})
    assert _has_ranges({"axes": "x", "range.x": "0,9"})
    assert _has_ranges({"range.x": "0,9", "range.y": "0,9"})


def test_values_beyond_the_range_that_is_meant_are_told_before_the_take(
    wire: tuple[str, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each of them was garbage, and after ten seconds “no sample came”."""
    monkeypatch.setattr("hollow_pin.sources.serial_logger.PROBE_S", 0.5)
    path, master = wire
    with printing(master, "{x},{y}"):
        probed = probe(path)
    assert probed.about == pytest.approx((499.5, 499.5), abs=1)
    assert probed.ranges_or(AxisRange(0, 501)) == (AxisRange(0, 501),) * 2
    with pytest.raises(SourceLost, match=r"values about (499|500), beyond the range of 0 to 255"):
        probed.ranges_or(AxisRange(0, 255))
    with pytest.raises(SourceLost, match="beyond the range of 511 to 1023"):
        probed.ranges_or(AxisRange(511, 1023))
    own = Probed(2, (AxisRange(0, 9),) * 2, False, (500.0, 500.0))
    assert own.ranges_or(AxisRange(0, 255)) == own.ranges, "what it says of itself counts"


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("{ms},{x},{y}", "prints times that are no microseconds"),
        ("{x},{y},{x}", "prints three numbers, the first of which is no time"),
        ("{x},{y},0,0", "lines came that are no samples, as “"),
        ("hello {us}", "lines came that are no samples, as “hello"),
    ],
)
def test_what_cannot_be_read_is_said_with_what_is_wanted(
    wire: tuple[str, int], monkeypatch: pytest.MonkeyPatch, line: str, says: str
) -> None:
    monkeypatch.setattr("hollow_pin.sources.serial_logger.PROBE_S", 0.5)
    path, master = wire
    with printing(master, line), pytest.raises(SourceLost, match=says) as lost:
        probe(path)
    assert str(lost.value).endswith("print x,y or, better, micros(),x,y")


def test_lines_of_another_kind_than_the_first_are_garbage() -> None:
    now = iter(range(100))
    parser = LineParser(2, None, lambda: float(next(now)))
    assert parser.feed(b"1,2\n") is None, "nobody knows how long it had waited"
    block = parser.feed(b"3,4\n5,6,7\nx:5,y:6\n")
    assert block is not None
    assert block.raw.tolist() == [[3, 4], [5, 6]]
    assert (parser.timed, parser.garbage) == (False, 1)
    timed = LineParser(2)
    timed.feed(b"0,1,2\n2000,1,2\n4000,3\n")
    assert (timed.timed, timed.garbage) == (True, 1)


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize("fault", [{}, {"spikes_pm": 60}, {"creep": 8.0, "settle_tau": 0.4}])
def test_a_stick_is_what_it_is_by_lines_without_a_time(fault: dict) -> None:
    """Handed over in sixteenths of a second's hundredths, as ports do."""
    recording = taken(951, **fault)
    made = recording.t_us / 1e6
    now = [0.0]
    parser, blocks = LineParser(2, None, lambda: now[0]), []
    comes = np.ceil((made + 1e-9) / 0.016) * 0.016
    for at in np.unique(comes):
        now[0] = float(at)
        rows = recording.raw[comes == at].astype(int)
        blocks.append(parser.feed(b"".join(b"x:%d,y:%d\n" % (x, y) for x, y in rows)))
    came = [b for b in blocks if b is not None]
    t_us = np.concatenate([b.t_us for b in came])
    raw = np.concatenate([b.raw for b in came])
    source = SerialSource("wire", recording.ranges)
    source._parser = parser
    assert source.notes() == {TIMES_OF_ARRIVAL: "yes"}
    step = recording.step[-len(t_us) :]
    take = measure_take(Recording(t_us, raw, recording.ranges, step, source.notes()))
    assert explain(take).advice == explain(measure_take(recording)).advice
    (told,) = [p for p in take.problems if p.code == TIMES_OF_ARRIVAL]
    assert told.message.startswith("The logger prints no time")
