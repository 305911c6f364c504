"""Cells that a spreadsheet shows and does not compute."""

from __future__ import annotations

import re

_FORMULA = re.compile(r"""(^|[;,|\t\r\n"'])(\s*)([=+\-@\t\r])""")


def as_text(cell: str) -> str:
    """A cell with an apostrophe before whatever would begin a formula: at its beginning, and behind
    every character that some spreadsheet takes for the end of a cell, since which one it goes by is
    a matter of the country it is set to."""
    return _FORMULA.sub(r"\1\2'\3", cell)
