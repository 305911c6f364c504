"""What a HID device reports, by its own descriptor: which bits of which report are which axis.

A small reader of report descriptors after the USB Device Class Definition for HID 1.11, section 6.2.2:
input items with their usages, ranges and sizes; everything else is passed over. A browser gives the
same items already taken apart.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats

GENERIC_DESKTOP = 0x01
AXES = {
    0x30: "X",
    0x31: "Y",
    0x32: "Z",
    0x33: "Rx",
    0x34: "Ry",
    0x35: "Rz",
    0x36: "slider",
    0x37: "dial",
    0x38: "wheel",
}
"""Usages of the generic desktop page that are an axis; the hat (0x39) is none."""
MOST_BITS = 32
MOST_FIELDS = 4096
CONSTANT, VARIABLE, RELATIVE = 1, 2, 4


class BadDescriptor(ValueError):
    """A descriptor that cannot be read."""


@dataclass(frozen=True)
class HidField:
    """One value of an input report. report: its id, 0 where there are none. bit: where it begins,
    behind the id; size: in bits. lo, hi: its logical range; a value outside says that there is
    none."""

    report: int
    bit: int
    size: int
    page: int
    usage: int
    lo: int
    hi: int

    @property
    def signed(self) -> bool:
        return self.lo < 0

    @property
    def name(self) -> str | None:
        """Of an axis; None for anything else."""
        if self.page != GENERIC_DESKTOP or self.hi <= self.lo or not 1 < self.size <= MOST_BITS:
            return None
        return AXES.get(self.usage)


@dataclass
class _Global:
    page: int = 0
    lo: int = 0
    hi: int = 0
    size: int = 0
    count: int = 0
    report: int = 0


def fields_of(descriptor: bytes) -> tuple[HidField, ...]:
    """Every variable of every input report, in the order of the descriptor. Raises BadDescriptor."""
    now, stack = _Global(), []
    usages: list[int] = []
    least: int | None = None
    at: dict[int, int] = {}
    fields: list[HidField] = []
    for tag, kind, data, signed in _items(descriptor):
        if kind == 1:
            if tag == 0xA:
                stack.append(replace(now))
            elif tag == 0xB:
                if not stack:
                    raise BadDescriptor("it pops what was never pushed.")
                now = stack.pop()
            else:
                _set(now, tag, data, signed)
        elif kind == 2:
            if tag == 0x0:
                usages.append(data)
            elif tag == 0x1:
                least = data
            elif tag == 0x2 and least is not None:
                usages += range(least, min(data, least + MOST_FIELDS) + 1)
                least = None
        else:
            if kind == 0 and tag == 0x8:
                _input(now, data, usages, at, fields)
            usages, least = [], None
    return tuple(fields)


def _items(descriptor: bytes) -> Iterator[tuple[int, int, int, int]]:
    """Tag, type, data as unsigned and as signed, of every short item; long ones are passed over."""
    at = 0
    while at < len(descriptor):
        head = descriptor[at]
        if head == 0xFE:
            if at + 1 >= len(descriptor):
                raise BadDescriptor("it ends within an item.")
            at += 3 + descriptor[at + 1]
            continue
        length = (0, 1, 2, 4)[head & 3]
        body = descriptor[at + 1 : at + 1 + length]
        if len(body) < length:
            raise BadDescriptor("it ends within an item.")
        unsigned = int.from_bytes(body, "little")
        signed = int.from_bytes(body, "little", signed=True) if body else 0
        yield head >> 4, (head >> 2) & 3, unsigned, signed
        at += 1 + length


def _set(now: _Global, tag: int, data: int, signed: int) -> None:
    if tag == 0x0:
        now.page = data
    elif tag == 0x1:
        now.lo = signed
    elif tag == 0x2:
        # What is written without a sign is meant without one where the least is.
        now.hi = signed if now.lo < 0 else data
    elif tag == 0x7:
        now.size = data
    elif tag == 0x8:
        now.report = data
    elif tag == 0x9:
        now.count = data


def _input(
    now: _Global, flags: int, usages: list[int], at: dict[int, int], fields: list[HidField]
) -> None:
    """An input item: its values one after the other, from where its report has come to."""
    if now.count > MOST_FIELDS or now.size > 1024:
        raise BadDescriptor("a report of it is longer than any can be.")
    start = at.get(now.report, 0)
    at[now.report] = start + now.size * now.count
    if flags & CONSTANT or not flags & VARIABLE or flags & RELATIVE:
        return
    for i in range(now.count):
        if not usages:
            break
        whole = usages[min(i, len(usages) - 1)]
        page, usage = (whole >> 16, whole & 0xFFFF) if whole > 0xFFFF else (now.page, whole)
        bit = start + i * now.size
        fields.append(HidField(now.report, bit, now.size, page, usage, now.lo, now.hi))


def fields_of_collections(collections: Sequence[Mapping[str, Any]]) -> tuple[HidField, ...]:
    """The same, from what a browser says of a device: each collection's input reports with their
    items. Raises BadDescriptor."""
    fields: dict[tuple[int, int], HidField] = {}
    try:
        for collection in collections:
            for report in collection.get("inputReports", ()):
                at = 0
                for item in report["items"]:
                    size, count = int(item["reportSize"]), int(item["reportCount"])
                    if not (0 <= size <= 1024 and 0 <= count <= MOST_FIELDS):
                        raise BadDescriptor("a report of it is longer than any can be.")
                    for field in _of_item(item, int(report["reportId"]), at, size, count):
                        fields[field.report, field.bit] = field
                    at += size * count
    except (KeyError, TypeError, ValueError, AttributeError) as wrong:
        if isinstance(wrong, BadDescriptor):
            raise
        raise BadDescriptor(f"the browser's account of it cannot be read: {wrong}.") from None
    return tuple(fields[key] for key in sorted(fields))


def _of_item(
    item: Mapping[str, Any], report: int, at: int, size: int, count: int
) -> Iterator[HidField]:
    if item.get("isConstant") or item.get("isArray") or not item.get("isAbsolute", True):
        return
    if item.get("isRange"):
        least, most = int(item["usageMinimum"]), int(item["usageMaximum"])
        usages = list(range(least, min(most, least + MOST_FIELDS) + 1))
    else:
        usages = [int(u) for u in item.get("usages") or ()]
    lo, hi = int(item["logicalMinimum"]), int(item["logicalMaximum"])
    for i in range(count if usages else 0):
        whole = usages[min(i, len(usages) - 1)]
        yield HidField(report, at + i * size, size, whole >> 16, whole & 0xFFFF, lo, hi)


def axes_of(fields: Sequence[HidField]) -> tuple[HidField, ...]:
    """Those that are axes, in their order."""
    return tuple(f for f in fields if f.name is not None)


def decode(reports: NDArray[np.uint8], field: HidField) -> Floats:
    """A field's values in reports (n, bytes) without their ids: (n,). NaN where a value lies outside
    its range, which says that there is none, or where the report is too short."""
    first, last = field.bit // 8, (field.bit + field.size - 1) // 8
    if last >= reports.shape[1]:
        return np.full(len(reports), np.nan)
    value = np.zeros(len(reports), dtype=np.uint64)
    for i, column in enumerate(range(first, last + 1)):
        value |= reports[:, column].astype(np.uint64) << np.uint64(8 * i)
    value = (value >> np.uint64(field.bit % 8)) & np.uint64(2**field.size - 1)
    whole = value.astype(np.int64)
    if field.signed:
        whole = np.where(whole >= 1 << (field.size - 1), whole - (1 << field.size), whole)
    values = whole.astype(np.float64)
    return np.where((values < field.lo) | (values > field.hi), np.nan, values)
