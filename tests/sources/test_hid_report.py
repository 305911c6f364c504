"""Raw HID reports: which bits are which axis, against an independent reader of descriptors; and
devices that send them."""

from __future__ import annotations

import socket
from contextlib import suppress
from pathlib import Path
from typing import Any

import hidtools.hid as independent
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hollow_pin.core.recording import AxisRange
from hollow_pin.sources.hid_report import (
    BadDescriptor,
    HidField,
    axes_of,
    decode,
    fields_of,
    fields_of_collections,
)
from hollow_pin.sources.hidraw import (
    HidrawSource,
    find_raw_device,
    list_raw_devices,
    open_raw_device,
)
from hollow_pin.sources.page import BadFrame, PageSource
from hollow_pin.sources.source import SourceLost
from loops import run


def item(tag: int, kind: int, value: int | None = None, size: int | None = None) -> bytes:
    """A short item: Main 0, Global 1, Local 2."""
    if value is None:
        return bytes([tag << 4 | kind << 2])
    size = size or (1 if -128 <= value < 128 else 2 if -32768 <= value < 32768 else 4)
    code = {1: 1, 2: 2, 4: 3}[size]
    body = (value & (256**size - 1)).to_bytes(size, "little")
    return bytes([tag << 4 | kind << 2 | code]) + body


def page(n: int) -> bytes:
    return item(0, 1, n, 2 if n > 255 else 1)


def usage(n: int) -> bytes:
    return item(0, 2, n, 1)


def between(low: int, high: int) -> bytes:
    return item(1, 1, low) + item(2, 1, high, 4 if high >= 32768 else 2 if high > 127 else 1)


def sized(size: int, count: int) -> bytes:
    return item(7, 1, size) + item(9, 1, count)


def report(n: int) -> bytes:
    return item(8, 1, n)


DATA, CONST, NULLED = item(8, 0, 0x02), item(8, 0, 0x03), item(8, 0, 0x42)
ARRAY, RELATIVE = item(8, 0, 0x00), item(8, 0, 0x06)
BEGIN = page(1) + usage(5) + item(10, 0, 1)
END = item(12, 0)
XY = usage(0x30) + usage(0x31)
FOUR = XY + usage(0x33) + usage(0x34)
BUTTONS = page(9) + item(1, 2, 1) + item(2, 2, 12) + between(0, 1) + sized(1, 12) + DATA
VENDOR = page(0xFF00) + usage(0x20) + between(0, 255) + sized(8, 6) + DATA
HAT = page(1) + usage(0x39) + between(0, 7) + sized(4, 1) + NULLED + sized(4, 1) + CONST

DESCRIPTORS: dict[str, bytes] = {
    "eight bits, no id": BEGIN + FOUR + between(0, 255) + sized(8, 4) + DATA + END,
    "signed sixteen": BEGIN + report(1) + FOUR + between(-32767, 32767) + sized(16, 4) + DATA + END,
    "unsigned sixteen": BEGIN + report(3) + XY + between(0, 65535) + sized(16, 2) + DATA + END,
    "ten bits packed": BEGIN + FOUR + between(0, 1023) + sized(10, 4) + DATA + END,
    "twelve bits behind buttons": BEGIN
    + report(2)
    + BUTTONS
    + sized(4, 1)
    + CONST
    + page(1)
    + XY
    + between(0, 4095)
    + sized(12, 2)
    + DATA
    + END,
    "hat before the sticks": BEGIN + HAT + FOUR + between(-128, 127) + sized(8, 4) + DATA + END,
    "vendor part between": BEGIN
    + report(1)
    + XY
    + between(0, 255)
    + sized(8, 2)
    + DATA
    + VENDOR
    + page(1)
    + usage(0x32)
    + usage(0x35)
    + between(0, 255)
    + sized(8, 2)
    + DATA
    + END,
    "two reports": BEGIN
    + report(1)
    + BUTTONS
    + sized(4, 1)
    + CONST
    + report(2)
    + page(1)
    + XY
    + between(-2048, 2047)
    + sized(12, 2)
    + DATA
    + END,
    "pushed and popped": BEGIN
    + between(0, 255)
    + sized(8, 2)
    + item(10, 1)
    + page(9)
    + between(0, 1)
    + sized(1, 8)
    + item(1, 2, 1)
    + item(2, 2, 8)
    + DATA
    + item(11, 1)
    + XY
    + DATA
    + END,
    "a range of usages": BEGIN
    + item(1, 2, 0x30)
    + item(2, 2, 0x35)
    + between(-127, 127)
    + sized(8, 6)
    + DATA
    + END,
    "thirty-two bits": BEGIN
    + report(7)
    + XY
    + between(-(2**31) + 1, 2**31 - 1)
    + sized(32, 2)
    + DATA
    + END,
    "one slider": page(1)
    + usage(4)
    + item(10, 0, 1)
    + usage(0x36)
    + between(0, 255)
    + sized(8, 1)
    + DATA
    + END,
    "keys and a wheel beside": BEGIN
    + page(7)
    + item(1, 2, 0)
    + item(2, 2, 101)
    + between(0, 101)
    + sized(8, 6)
    + ARRAY
    + page(1)
    + usage(0x38)
    + between(-127, 127)
    + sized(8, 1)
    + RELATIVE
    + XY
    + between(0, 255)
    + sized(8, 2)
    + DATA
    + END,
}


def by_the_other(descriptor: bytes) -> list[tuple[int, int, int, int, int, int, int]]:
    """The axes of every report: id, bit behind the id, size, page, usage, range."""
    fields = []
    read = independent.ReportDescriptor.from_bytes(list(descriptor))
    for number, one in read.input_reports.items():
        for f in one.fields:
            if f.is_const or f.is_array or f.usage >> 16 != 1:
                continue
            axis = 0x30 <= f.usage & 0xFFFF <= 0x38 and not (f.type & RELATIVE_BIT)
            if axis:
                start = f.start - (8 if one.numbered else 0)
                known = (f.usage >> 16, f.usage & 0xFFFF, f.logical_min, f.logical_max)
                fields.append((max(number, 0), start, f.size, *known))
    return sorted(fields)


RELATIVE_BIT = 4


@pytest.mark.parametrize("name", DESCRIPTORS)
def test_the_axes_are_those_that_another_reader_finds(name: str) -> None:
    mine = [
        (f.report, f.bit, f.size, f.page, f.usage, f.lo, f.hi)
        for f in axes_of(fields_of(DESCRIPTORS[name]))
    ]
    assert sorted(mine) == by_the_other(DESCRIPTORS[name])
    assert mine


def packed(fields: tuple[HidField, ...], values: list[int], length: int) -> np.ndarray:
    whole = 0
    for f, value in zip(fields, values, strict=True):
        whole |= (value & (2**f.size - 1)) << f.bit
    return np.frombuffer(whole.to_bytes(length, "little"), np.uint8)


@given(st.sampled_from(sorted(DESCRIPTORS)), st.randoms())
@settings(max_examples=120, deadline=None)
def test_what_was_put_into_a_report_comes_out_of_it(name: str, drawn: Any) -> None:
    axes = axes_of(fields_of(DESCRIPTORS[name]))
    first = tuple(a for a in axes if a.report == axes[0].report)
    length = max((a.bit + a.size + 7) // 8 for a in first)
    values = [[drawn.randint(a.lo, a.hi) for a in first] for _ in range(4)]
    values += [[a.lo for a in first], [a.hi for a in first]]
    reports = np.array([packed(first, row, length) for row in values])
    for i, axis in enumerate(first):
        assert decode(reports, axis).tolist() == [row[i] for row in values]


def test_a_value_outside_its_range_says_that_there_is_none() -> None:
    axis = HidField(0, 0, 8, 1, 0x30, 0, 200)
    decoded = decode(np.array([[200], [201]], np.uint8), axis)
    assert decoded[0] == 200
    assert np.isnan(decoded[1])
    assert np.isnan(decode(np.zeros((1, 1), np.uint8), HidField(0, 4, 8, 1, 0x30, 0, 255))).all()


@pytest.mark.parametrize(
    "spoilt",
    [DESCRIPTORS["signed sixteen"][:-3][:9], item(11, 1), sized(8, 30_000) + item(8, 0, 2)],
)
def test_a_descriptor_that_cannot_be_read_is_refused(spoilt: bytes) -> None:
    with pytest.raises(BadDescriptor):
        fields_of(spoilt)


@given(st.binary(max_size=80))
@settings(max_examples=200, deadline=None)
def test_no_descriptor_does_harm(noise: bytes) -> None:
    with suppress(BadDescriptor):
        axes_of(fields_of(noise))


def told_by_a_browser(descriptor: bytes) -> list[dict]:
    """The items of each report, as a browser takes them apart."""
    reports: dict[int, list[dict]] = {}
    read = independent.ReportDescriptor.from_bytes(list(descriptor))
    for number, one in read.input_reports.items():
        for f in one.fields:
            reports.setdefault(max(number, 0), []).append(
                {
                    "isConstant": bool(f.is_const),
                    "isArray": bool(f.is_array),
                    "isAbsolute": not f.type & RELATIVE_BIT,
                    "isRange": False,
                    "usages": [f.usage],
                    "reportSize": f.size,
                    "reportCount": f.count,
                    "logicalMinimum": f.logical_min,
                    "logicalMaximum": f.logical_max,
                }
            )
    return [{"inputReports": [{"reportId": n, "items": i} for n, i in reports.items()]}]


@pytest.mark.parametrize("name", DESCRIPTORS)
def test_a_browser_s_account_gives_the_same_axes(name: str) -> None:
    there = axes_of(fields_of_collections(told_by_a_browser(DESCRIPTORS[name])))
    assert set(there) == set(axes_of(fields_of(DESCRIPTORS[name])))


@pytest.mark.parametrize("told", [[{"inputReports": [{}]}], [{"inputReports": 5}], [3]])
def test_a_browser_s_account_that_is_none_is_refused(told: Any) -> None:
    with pytest.raises(BadDescriptor):
        fields_of_collections(told)


# The kernel's raw devices


@pytest.fixture
def machine(tmp_path: Path) -> tuple[Path, Path]:
    """Where a kernel shows its devices: a stick, and a keyboard that has none."""
    nodes, about = tmp_path / "dev", tmp_path / "about"
    nodes.mkdir()
    for i, (name, descriptor) in enumerate(
        {"Plover": DESCRIPTORS["twelve bits behind buttons"], "Keys": BEGIN + BUTTONS + END}.items()
    ):
        device = about / f"hidraw{i}" / "device"
        device.mkdir(parents=True)
        (device / "report_descriptor").write_bytes(descriptor)
        (device / "uevent").write_text(f"DRIVER=hid\nHID_NAME={name}\n")
        (nodes / f"hidraw{i}").touch()
    return nodes, about


def test_devices_with_an_axis_are_offered_and_others_not(machine: tuple[Path, Path]) -> None:
    nodes, about = machine
    (device,) = list_raw_devices(nodes, about).found
    assert (device.name, [a.name for a in device.axes]) == ("Plover", ["X", "Y"])
    assert find_raw_device(device.path, nodes, about) == device
    with pytest.raises(SourceLost, match="not there to be read"):
        find_raw_device("/dev/none", nodes, about)
    assert "no raw HID devices" in list_raw_devices(nodes, about / "none").advice


def test_why_a_device_may_not_be_opened_is_said(
    machine: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    nodes, about = machine
    monkeypatch.setattr("os.access", lambda *_: False)
    devices = list_raw_devices(nodes, about)
    assert devices.found == ()
    assert "Plover may not be read raw" in devices.advice
    with pytest.raises(SourceLost, match="udev rule"):
        find_raw_device(str(nodes / "hidraw0"), nodes, about)
    (nodes / "hidraw0").unlink()
    monkeypatch.undo()
    device = list_raw_devices(nodes, about)
    assert device.found == ()


def test_reports_come_in_whole_and_y_is_turned_up(machine: tuple[Path, Path]) -> None:
    (device,) = list_raw_devices(*machine).found
    fields = device.axes
    ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)

    async def read() -> list:
        source = HidrawSource(ours.detach(), fields, (False, False), numbered=True)
        assert source.ranges == (AxisRange(0, 4095),) * 2
        blocks = []
        async for block in source.blocks():
            blocks.append(block)
            if sum(len(b.raw) for b in blocks) >= 4:
                return blocks
        return blocks

    for x, y in ((0, 0), (4095, 1), (2000, 4095)):
        theirs.send(bytes([2]) + packed(fields, [x, y], 5).tobytes())
    theirs.send(bytes([9, 1, 2, 3]))
    blocks = run(read())
    raw = np.concatenate([b.raw for b in blocks])
    assert raw[:3].tolist() == [[0, 4095], [4095, 4094], [2000, 0]]
    assert raw[3].tolist() == [2000, 0], "a stick that says nothing stays where it is"
    assert (np.diff(np.concatenate([b.t_us for b in blocks])) >= 0).all()
    theirs.close()


def test_an_unplugged_device_is_lost_and_one_without_such_an_axis_not_opened(
    machine: tuple[Path, Path],
) -> None:
    (device,) = list_raw_devices(*machine).found
    ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
    theirs.close()

    async def read() -> None:
        async for _ in HidrawSource(ours.detach(), device.axes, (False, True), True).blocks():
            pass

    with pytest.raises(SourceLost, match="unplugged"):
        run(read())
    with pytest.raises(SourceLost, match="fewer axes"):
        open_raw_device(device, (0, 5), (False, False))


def test_what_a_page_sends_of_raw_reports_keeps_its_whole_range() -> None:
    source = PageSource((False, True), (AxisRange(0, 1023), AxisRange(-512, 511)))
    source.feed(np.array([[1.0, 1023.0, 511.0], [2.0, 0.0, -512.0]]).tobytes())

    async def first() -> Any:
        async for block in source.blocks():
            return block

    block = run(first())
    assert block.raw.tolist() == [[1023, 511], [0, -512]], "turned twice: it runs the other way"
    with pytest.raises(BadFrame, match="0 to 1023 and −512 to 511"):
        source.feed(np.array([[3.0, 1024.0, 0.0]]).tobytes())
