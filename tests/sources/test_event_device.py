"""The kernel's event structures, through a pipe: what a real device would send, sample by sample."""

from __future__ import annotations

import asyncio
import fcntl
import os

import numpy as np
import pytest

from hollow_pin.core.recording import Recording, to_percent
from hollow_pin.core.take import measure_take
from hollow_pin.sources import event_device
from hollow_pin.sources.event_device import (
    EV_ABS,
    EV_SYN,
    EVENT,
    SYN_DROPPED,
    SYN_REPORT,
    Device,
    DeviceAxis,
    EventDeviceSource,
    EventReader,
    find_device,
    list_devices,
)
from hollow_pin.sources.source import SourceLost
from loops import run
from sticks import performed

AXES = (DeviceAxis(0, "axis 0", 0, 1023, 0, 15), DeviceAxis(1, "axis 1", 0, 1023, 0, 15))
KEY = 1
ROOM = 1 << 20
"""What a pipe holds at most, bytes: all is there before anything is read, so that nobody is late."""


def event(t_us: int, kind: int, code: int, value: int) -> tuple[int, int, int, int, int]:
    return t_us // 1_000_000, t_us % 1_000_000, kind, code, value


def packed(events: list[tuple[int, int, int, int, int]]) -> bytes:
    return np.array(events, EVENT).tobytes()


def as_events(t_us: np.ndarray, raw: np.ndarray) -> bytes:
    """What the kernel would report of a recording, y downward: only what changed, then a report."""
    events = []
    last = [None, None]
    for t, row in zip(t_us.tolist(), raw.astype(int).tolist(), strict=True):
        for code, value in enumerate(row):
            if value != last[code]:
                events.append(event(t, EV_ABS, code, 1023 - value if code else value))
                last[code] = value
        events.append(event(t, EV_SYN, SYN_REPORT, 0))
    return packed(events)


def test_one_sample_a_report_with_whatever_of_it_changed() -> None:
    reader = EventReader((0, 1), (500.0, 500.0))
    block = reader.feed(
        packed(
            [
                event(1_000_000, EV_ABS, 0, 510),
                event(1_000_000, KEY, 304, 1),
                event(1_000_000, EV_SYN, SYN_REPORT, 0),
                event(1_004_000, EV_ABS, 1, 480),
                event(1_004_000, EV_ABS, 0, 512),
                event(1_004_000, EV_SYN, SYN_REPORT, 0),
                event(1_008_000, EV_SYN, SYN_REPORT, 0),
            ]
        )
    )
    assert block.t_us.tolist() == [1_000_000, 1_004_000, 1_008_000]
    assert block.raw.tolist() == [[510, 500], [512, 480], [512, 480]]


def test_structures_may_be_cut_anywhere() -> None:
    recording = performed("sound").recording
    data = as_events(recording.t_us[:800], recording.raw[:800])
    reader = EventReader((0, 1), (0.0, 0.0))
    blocks = [b for i in range(0, len(data), 101) if (b := reader.feed(data[i : i + 101]))]
    raw = np.concatenate([b.raw for b in blocks])
    assert np.concatenate([b.t_us for b in blocks]).tolist() == recording.t_us[:800].tolist()
    assert raw[:, 0].tolist() == recording.raw[:800, 0].tolist()
    assert (1023 - raw[:, 1]).tolist() == recording.raw[:800, 1].tolist()


def test_what_the_kernel_had_to_drop_is_counted_and_not_made_up() -> None:
    reader = EventReader((0,), (0.0,))
    data = packed(
        [
            event(1000, EV_ABS, 0, 5),
            event(1000, EV_SYN, SYN_REPORT, 0),
            event(2000, EV_SYN, SYN_DROPPED, 0),
            event(2000, EV_ABS, 0, 900),
            event(2000, EV_SYN, SYN_REPORT, 0),
            event(3000, EV_ABS, 0, 7),
            event(3000, EV_SYN, SYN_REPORT, 0),
        ]
    )
    for pieces in ([data], [data[:72], data[72:96], data[96:]]):
        reader = EventReader((0,), (0.0,))
        blocks = [b for piece in pieces if (b := reader.feed(piece)) is not None]
        assert np.concatenate([b.raw for b in blocks]).ravel().tolist() == [5, 7]
        assert reader.dropped == 1


def through_a_pipe(data: bytes, samples: int, flip=(False, False), close: bool = False):
    """Everything a source yields of some bytes, until it has so many samples."""

    async def work():
        read, write = os.pipe()
        fcntl.fcntl(write, fcntl.F_SETPIPE_SZ, ROOM)
        assert len(data) <= ROOM
        os.write(write, data)
        if close:
            os.close(write)
        source = EventDeviceSource(read, AXES, flip, (512.0, 512.0))
        found = []

        try:
            async for block in source.blocks():
                found.append(block)
                if sum(len(b.t_us) for b in found) >= samples:
                    break
        finally:
            if not close:
                os.close(write)
            os.close(read)
        return (
            np.concatenate([b.t_us for b in found]),
            np.concatenate([b.raw for b in found]),
            source.ranges,
        )

    return run(work())


def test_a_take_by_the_kernel_reads_as_the_same_take_by_any_other_way() -> None:
    """y is turned up, every sample is there, in the device's own time and range."""
    whole = performed("offset").recording
    part = slice(0, whole.attempts("let-go")[-1].stop)
    sent = Recording(whole.t_us[part], whole.raw[part], whole.ranges, whole.step[part])
    t_us, raw, ranges = through_a_pipe(as_events(sent.t_us, sent.raw), len(sent.t_us))
    assert t_us.tolist() == sent.t_us.tolist()
    assert to_percent(raw, ranges) == pytest.approx(sent.u)
    again = measure_take(Recording(t_us, raw, ranges, sent.step))
    assert again.let_go == measure_take(sent).let_go


def test_nothing_is_made_up_between_the_reports_of_a_stick_that_moves(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A look that finds nothing, before the time for a repeat is up, is no sample."""
    monkeypatch.setattr(event_device, "UNCHANGED_S", 60.0)
    times = [4000 * i for i in range(1, 60)]

    async def work() -> list[int]:
        read, write = os.pipe()
        source = EventDeviceSource(read, AXES, (False, False), (512.0, 512.0))
        loop = asyncio.get_running_loop()

        def report(t_us: int, turns: int) -> None:
            if turns:
                loop.call_soon(report, t_us, turns - 1)
            else:
                os.write(write, packed([event(t_us, EV_SYN, SYN_REPORT, 0)]))

        blocks: list[int] = []
        left = iter(times)
        report(next(left), 0)
        async for block in source.blocks():
            blocks += block.t_us.tolist()
            if len(blocks) >= len(times):
                break
            report(next(left), 20)
        os.close(write)
        os.close(read)
        return blocks

    assert run(work()) == times


def test_an_axis_that_runs_the_other_way_is_turned() -> None:
    data = packed([event(1000, EV_ABS, 0, 1023), event(1000, EV_SYN, SYN_REPORT, 0)])
    _, raw, _ = through_a_pipe(data, 1, flip=(True, False))
    assert raw[0].tolist() == [0, 511]


def test_a_stick_that_does_not_move_is_seen_not_to_move() -> None:
    data = packed([event(1000, EV_ABS, 0, 512), event(1000, EV_SYN, SYN_REPORT, 0)])
    t_us, raw, _ = through_a_pipe(data, 6)
    assert (np.diff(t_us) > 0).all()
    assert t_us[-1] - t_us[0] > 150_000
    assert np.ptp(raw, axis=0).tolist() == [0, 0]


def test_an_unplugged_device_ends_the_take() -> None:
    data = packed([event(1000, EV_ABS, 0, 512), event(1000, EV_SYN, SYN_REPORT, 0)])
    with pytest.raises(SourceLost, match="unplugged"):
        through_a_pipe(data, 10**9, close=True)


def test_where_nothing_can_be_read_it_says_what_to_do() -> None:
    devices = list_devices()
    if devices.found:
        pytest.skip("this machine has input devices")
    assert any(word in devices.advice for word in ("Install", "group", "no input devices", "Plug"))
    with pytest.raises(SourceLost, match="is not there to be read"):
        find_device("/dev/input/event0")
    assert Device("p", "n", AXES).axes[0].flat == 15
