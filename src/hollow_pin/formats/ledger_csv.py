"""A job's ledger as a table for a spreadsheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from hollow_pin.formats.cells import as_text

HEAD = ("at", "role", "kind", "text", "undone_at", "earlier_wording")


def write_table(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """CSV (RFC 4180), with the mark by which spreadsheets know UTF-8."""
    out = io.StringIO()
    out.write("\ufeff")
    writer = csv.writer(out, lineterminator="\r\n", quoting=csv.QUOTE_ALL)
    writer.writerow(head)
    writer.writerows([as_text(cell) for cell in row] for row in rows)
    return out.getvalue()
