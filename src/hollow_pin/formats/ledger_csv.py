"""A job's ledger as a table for a spreadsheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

HEAD = ("at", "role", "kind", "text", "undone_at", "earlier_wording")
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def as_text(cell: str) -> str:
    """A cell that a spreadsheet shows and does not compute: one that would begin a formula gets an
    apostrophe before it."""
    return f"'{cell}" if cell.startswith(_FORMULA) else cell


def write_table(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """CSV (RFC 4180), with the mark by which spreadsheets know UTF-8."""
    out = io.StringIO()
    out.write("\ufeff")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([as_text(cell) for cell in row] for row in rows)
    return out.getvalue()
