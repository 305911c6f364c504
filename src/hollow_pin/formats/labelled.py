"""Lines that name every value they print, as a serial monitor shows them, `x:512, y:498`, or one JSON
object a line; made into rows of a table."""

from __future__ import annotations

import re
from dataclasses import dataclass

from hollow_pin.formats.head import LOOKED_THROUGH

FEWEST = 2
"""Values in such a line."""
PIECE = 1 << 16
"""Bytes that are made into rows at a time, so that nothing else waits for long."""

# What is once matched is never tried otherwise: the line of a stranger takes no longer than another.
_VALUE = rb"[\"']?+([^\s,;|\"'{}()\[\]:=]++)[\"']?+"
_IS = rb"[\"']?+[ \t]*+[:=][ \t]*+"
_PARTED = rb"[ \t,;|]++"
_OPENS, _CLOSES = rb"[ \t]*+[{(\[]?+[ \t]*+", rb"[ \t]*+[})\]]?+[ \t,;]*+"
_CLOCK = rb"(\d\d?:\d\d:\d\d(?:\.\d+)?)[ \t]*+->[ \t]*+"
"""What a serial monitor puts before a line, where it is asked to."""
_PAIR = re.compile(rb"(?>[\"']?+([A-Za-z][\w .()/%%-]{0,39}?)%b%b)" % (_IS, _VALUE))
_LINE = re.compile(
    rb"(?:%b)?+%b%b(?>%b%b)*+%b\r?+"
    % (_CLOCK, _OPENS, _PAIR.pattern, _PARTED, _PAIR.pattern, _CLOSES)
)
_ALONE = re.compile(rb"%b%b%b\r?+" % (_OPENS, _PAIR.pattern, _CLOSES))
CLOCK = "clock"
"""What the column of such times is called."""


@dataclass(frozen=True)
class Unlabelled:
    """Rows of values (bytes of text, parted by commas), and what their columns are called. number: the
    line of the file that the first of them was."""

    columns: tuple[str, ...]
    rows: bytes
    number: int


def unlabelled(data: bytes) -> Unlabelled | None:
    """The rows of a text from the first two lines on that follow each other and name the same values;
    None where there are none among its first. A line that is none of them, as one that is cut off, is
    a row without values."""
    at, before = 0, None
    for number in range(1, LOOKED_THROUGH + 1):
        end = data.find(b"\n", at)
        if end < 0 or end - at > PIECE:
            return None
        named = _named(data[at:end])
        if named is not None and before is not None and named == before[0]:
            return Unlabelled(_columns(named), _rows(data, before[1], named), number - 1)
        before = None if named is None else (named, at)
        at = end + 1
    return None


def _named(line: bytes) -> tuple[bool, tuple[bytes, ...]] | None:
    """Whether a clock stands before a line, and the names in it."""
    if not _LINE.fullmatch(line):
        return None
    clock = re.match(_CLOCK, line) is not None
    names = tuple(name for name, _ in _PAIR.findall(line))
    return (clock, names) if len(set(names)) == len(names) >= FEWEST else None


def named_values(line: bytes) -> list[tuple[bytes, bytes]] | None:
    """The names in one line and what stands behind each, in its order; None where it is none such. A
    single value will do."""
    if not _LINE.fullmatch(line) and not _ALONE.fullmatch(line):
        return None
    return _PAIR.findall(line)


def _columns(named: tuple[bool, tuple[bytes, ...]]) -> tuple[str, ...]:
    clock, names = named
    return ((CLOCK,) if clock else ()) + tuple(name.decode() for name in names)


def _rows(data: bytes, start: int, named: tuple[bool, tuple[bytes, ...]]) -> bytes:
    clock, names = named
    values = [rb"[\"']?+%b%b%b" % (re.escape(n), _IS, _VALUE) for n in names]
    line = re.compile(
        rb"^(?:%b%b%b%b|[^\r\n]*+)(?=\r?\n)"
        % (_CLOCK if clock else b"", _OPENS, _PARTED.join(values), _CLOSES),
        re.MULTILINE,
    )
    row = b",".join(b"\\%d" % (i + 1) for i in range(len(names) + clock))
    pieces, at = [], start
    if not data.endswith(b"\n"):
        data += b"\n"
    while at < len(data):
        end = data.find(b"\n", at + PIECE) + 1 or len(data)
        pieces.append(line.sub(row, data[at:end]))
        at = end
    return b"".join(pieces)
