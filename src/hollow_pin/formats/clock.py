"""Times that are written as a clock shows them: with a date or without one."""

from __future__ import annotations

import re

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hollow_pin.core.recording import Floats

PATTERN = (
    r"^(?:(?P<date>\d{4}-\d{2}-\d{2})[T ])?(?P<hour>\d{1,2}):(?P<minute>\d{2})"
    r"(?::(?P<second>\d{2})(?:[.,](?P<parts>\d{1,9}))?)?(?:Z|[+-]\d{2}:?\d{2})?$"
)
_ONE = re.compile(PATTERN)
DAY_US = 86_400e6


def is_clock(text: str) -> bool:
    return _ONE.fullmatch(text) is not None


def microseconds(written: pa.ChunkedArray) -> tuple[Floats, int | None]:
    """Times as µs since the midnight before the first of them, (n,), and where the first one stands
    that is none. Without a date it is the next day where they fall by more than half of one."""
    field_of = pc.struct_field
    parts = pc.extract_regex(written, PATTERN)
    wrong = pc.index(pc.is_null(parts), True).as_py()
    if wrong >= 0:
        return np.empty(0), int(wrong)

    def field(name: str) -> pa.ChunkedArray:
        return field_of(parts, name)

    def number(name: str) -> Floats:
        text = field(name)
        return np.asarray(pc.cast(pc.if_else(pc.equal(text, ""), "0", text), pa.float64()))

    days, wrong = _days(field("date"))
    if wrong is not None:
        return np.empty(0), wrong
    hour, minute, second = number("hour"), number("minute"), number("second")
    never = (hour > 23) | (minute > 59) | (second > 59)
    if never.any():
        return np.empty(0), int(never.argmax())
    us = ((hour * 60 + minute) * 60 + second + _fraction(field("parts"))) * 1e6
    if days is None:
        days = np.append(0, np.cumsum(np.diff(us) < -DAY_US / 2)).astype(np.float64)
    return np.round(us + days * DAY_US), None


def _fraction(digits: pa.ChunkedArray) -> Floats:
    return np.asarray(pc.cast(pc.binary_join_element_wise("0.", digits, ""), pa.float64()))


def _days(dates: pa.ChunkedArray) -> tuple[Floats | None, int | None]:
    """Days since the first, None where none is written; and where the first one stands that is no day
    of any month, or is missing where others are written."""
    coded = dates.dictionary_encode().unify_dictionaries().combine_chunks()
    words, codes = coded.dictionary.to_pylist(), np.asarray(coded.indices)
    if words == [""]:
        return None, None
    known = []
    for word in words:
        try:
            known.append(float(np.datetime64(word or "none", "D").astype(np.int64)))
        except ValueError:
            known.append(np.nan)
    days = np.array(known)[codes]
    if np.isnan(days).any():
        return None, int(np.isnan(days).argmax())
    return days - days[0], None
