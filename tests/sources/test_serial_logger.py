"""A logger on a serial line: garbage, a wrapping clock and a pulled cable cost no sample that came."""

from __future__ import annotations

import asyncio
import os
import threading
import tty
from collections.abc import AsyncGenerator, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest

from hollow_pin.core.recording import AxisRange
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.sources.jig import Jig, announced
from hollow_pin.sources.serial_logger import LineParser, SerialSource, list_serial_ports, probe
from hollow_pin.sources.source import Block, SourceLost

HEADER = b"# axes: x,y\n# range.x: 0,4095\n# range.y: 0,4095\n"


def run(work):
    """In a thread of its own, since a browser test may have left a loop running in this one."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result(60)


def feed(parser: LineParser, *pieces: bytes) -> tuple[list[int], list[list[float]]]:
    blocks = [b for piece in pieces if (b := parser.feed(piece)) is not None]
    return (
        [t for b in blocks for t in b.t_us.tolist()],
        [row for b in blocks for row in b.raw.tolist()],
    )


def test_lines_may_come_in_any_pieces() -> None:
    whole = HEADER + b"".join(b"%d,%d,%d\n" % (2000 * i, i, 2 * i) for i in range(50))
    parser = LineParser()
    times, rows = feed(parser, *[whole[i : i + 7] for i in range(0, len(whole), 7)])
    assert times == [2000 * i for i in range(50)]
    assert rows[-1] == [49, 98]
    assert parser.ranges() == (AxisRange(0, 4095),) * 2
    assert parser.garbage == 0


def test_garbage_is_counted_and_survived() -> None:
    parser = LineParser()
    times, _ = feed(
        parser,
        b"\xff\x00boot\n0,1,2\n2000,1\n4000,1,x\n6000,nan,1\n-1,2,3\n8000,3,4\n9000,1,2,3\n",
    )
    assert times == [0, 8000]
    assert parser.garbage == 6


def test_a_line_that_never_ends_is_dropped() -> None:
    parser = LineParser()
    feed(parser, b"9" * 500, b"9" * 500, b"\n0,1,2\n")
    assert parser.garbage >= 1
    assert feed(parser, b"5,1,2\n")[0] == [0, 5]


def test_a_clock_of_32_bits_may_wrap() -> None:
    parser = LineParser()
    times, _ = feed(parser, b"4294967000,1,2\n4294967290,1,2\n4,1,2\n1004,1,2\n")
    assert np.diff(times).tolist() == [290, 10, 1000]


@pytest.fixture
def jig() -> Iterator[Jig]:
    made = Jig(StandIn(fresh_stick("potentiometer", "round", 12, 500, "offset", 4), 4))
    over = threading.Event()
    printing = threading.Thread(target=made.run, args=(over,))
    printing.start()
    yield made
    over.set()
    printing.join()
    made.close()


def test_a_port_says_itself_what_it_sends(jig: Jig) -> None:
    port = probe(jig.path)
    assert (port.axes, port.ranges) == (2, (AxisRange(0, 4095),) * 2)


def test_a_jig_is_listed_only_while_it_runs(jig: Jig, tmp_path: Path) -> None:
    with announced(jig, tmp_path) as link:
        with announced(jig, tmp_path) as second:
            assert {p.path for p in list_serial_ports(tmp_path)} >= {str(link), str(second)}
        assert str(link) in {p.path for p in list_serial_ports(tmp_path)}
    assert str(link) not in {p.path for p in list_serial_ports(tmp_path)}


def test_samples_come_at_the_jigs_own_rate_and_its_hand_follows_the_cue(jig: Jig) -> None:
    async def work() -> list[Block]:
        source = SerialSource(jig.path, (AxisRange(0, 4095),) * 2)
        source.cue("hold")
        blocks: list[Block] = []
        async for block in source.blocks():
            blocks.append(block)
            if sum(len(b.t_us) for b in blocks) > 1500:
                return blocks
        return blocks

    blocks = run(work())
    t = np.concatenate([b.t_us for b in blocks])
    raw = np.concatenate([b.raw for b in blocks])
    assert np.median(np.diff(t)) == pytest.approx(2000, abs=100)
    assert (np.diff(t) > 0).all()
    assert raw.max() > 3500, "the hand pushed"


class Wire:
    """A pseudo-terminal under the test's own control, at an address that stays."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "wire"
        self.plug()

    def plug(self) -> None:
        self.master, self.slave = os.openpty()
        tty.setraw(self.slave)
        self.path.unlink(missing_ok=True)
        self.path.symlink_to(os.ttyname(self.slave))

    def say(self, *rows: tuple[int, int, int]) -> None:
        os.write(self.master, b"".join(b"%d,%d,%d\n" % row for row in rows))

    def pull(self) -> None:
        os.close(self.slave)
        os.close(self.master)


async def heard(
    stream: AsyncGenerator[Block, None], wire: Wire, row: tuple[int, int, int]
) -> Block:
    """The next block, of a row that is said again until somebody listens."""
    step = asyncio.ensure_future(anext(stream))
    while not step.done():
        wire.say(row)
        await asyncio.wait({step}, timeout=0.1)
    return step.result()


def test_a_cable_that_comes_back_goes_on_where_it_was(tmp_path: Path) -> None:
    wire = Wire(tmp_path)

    async def work() -> tuple[list[int], dict[str, str]]:
        source = SerialSource(str(wire.path), (AxisRange(0, 9),) * 2)
        times: list[int] = []
        stream = source.blocks()
        times += (await heard(stream, wire, (2000, 1, 1))).t_us.tolist()
        wire.pull()
        wire.plug()
        times += (await heard(stream, wire, (50, 2, 2))).t_us.tolist()
        await stream.aclose()
        return times, source.notes()

    times, notes = run(work())
    assert times[0] == 2000
    assert times[-1] > 2000, "its clock began anew, the take's did not"
    assert notes["reconnects"] == "1"


def test_a_cable_that_stays_out_ends_the_take_with_the_reason(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("hollow_pin.sources.serial_logger.RECONNECT_S", 0.3)
    wire = Wire(tmp_path)

    async def work() -> None:
        stream = SerialSource(str(wire.path), (AxisRange(0, 9),) * 2).blocks()
        await heard(stream, wire, (1000, 1, 1))
        wire.pull()
        wire.path.unlink()
        await anext(stream)

    with pytest.raises(SourceLost, match="the serial port was lost"):
        run(work())


def test_a_port_that_is_not_there_or_says_nothing_is_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with pytest.raises(SourceLost, match="cannot be opened"):
        probe(str(tmp_path / "nothing"))
    monkeypatch.setattr("hollow_pin.sources.serial_logger.PROBE_S", 0.2)
    with pytest.raises(SourceLost, match="nothing came"):
        probe(str(Wire(tmp_path).path))


# What a wire may say that is not so


def test_one_huge_time_is_one_garbage_line() -> None:
    """Nine million seconds into the future, and everything after it would have lain in the past."""
    for early in (b"", b"1000,1,2\n3000,1,2\n"):
        parser = LineParser()
        times, _ = feed(parser, early + b"9000000000000,1,2\n5000,1,2\n7000,1,2\n9000,1,2\n")
        assert times == [*([1000, 3000] if early else []), 5000, 7000, 9000]
        assert parser.garbage == 1


def test_a_time_of_twenty_digits_is_garbage() -> None:
    parser = LineParser()
    rubbish = b"18446744073709551616,1,2\n999999999999999,1,2\n"
    assert feed(parser, b"0,1,2\n2000,1,2\n" + rubbish + b"4000,1,2\n")[0] == [0, 2000, 4000]
    assert parser.garbage == 2


def test_values_outside_the_range_are_garbage() -> None:
    """What is recorded can be exported and read again."""
    parser = LineParser(2, (AxisRange(0, 4095),) * 2)
    lines = b"0,0,4095\n2000,4096,1\n4000,1,-1\n6000,1e308,1\n8000,5,5\n"
    assert feed(parser, lines)[0] == [0, 8000]
    assert parser.garbage == 3
    unknown = LineParser()
    assert feed(unknown, b"0,1e308,1\n2000,1,1\n4000,1,1\n")[0] == [2000, 4000]


def test_a_device_that_begins_anew_goes_on_behind_a_gap() -> None:
    """Its cable stayed in; its clock began at zero again."""
    parser = LineParser()
    times, _ = feed(parser, b"700000000,1,2\n700002000,1,2\n500,1,2\n2500,1,2\n4500,1,2\n")
    assert times == [700_000_000, 700_002_000, 701_002_000, 701_004_000, 701_006_000]
    assert (parser.garbage, parser.restarts) == (0, 1)


def test_a_leap_is_believed_once_the_next_line_agrees() -> None:
    parser = LineParser()
    near = [0, 60_000_000]
    assert feed(parser, b"0,1,2\n60000000,1,2\n")[0] == near
    parser = LineParser()
    assert feed(parser, b"0,1,2\n2000,1,2\n60002001,1,2\n")[0] == [0, 2000], (
        "over a minute: doubted"
    )
    assert feed(parser, b"60004001,1,2\n")[0] == [1_002_000, 1_004_000]


def test_a_device_that_never_reads_is_not_waited_for() -> None:
    """Its line fills up with what it is told; what it says goes on coming."""
    master, slave = os.openpty()
    tty.setraw(slave)
    os.set_blocking(master, False)
    over = threading.Event()

    def say() -> None:
        at = 0
        while not over.wait(0.002):
            at += 2000
            os.write(master, b"%d,512,512\n" % at)

    async def work() -> int:
        source = SerialSource(os.ttyname(slave), (AxisRange(0, 1023),) * 2)
        came = 0
        async for block in source.blocks():
            came += len(block.t_us)
            for i in range(200):
                source.cue(f"step {came} {i}")
            if came > 400:
                break
        return came

    speaking = threading.Thread(target=say)
    speaking.start()
    assert run(work()) > 400
    over.set()
    speaking.join()
    os.close(master)
    os.close(slave)
