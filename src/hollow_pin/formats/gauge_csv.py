"""A gauge study from a CSV: part, operator, trial, value."""

from __future__ import annotations

from math import prod

import numpy as np

from hollow_pin.core.recording import Floats
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.table import column_names, head_line, read_table, require_size, shown

MOST_VALUES = 1_000_000
COLUMNS = ("part", "operator", "trial", "value")


def read_gauge_study(data: bytes) -> Floats:
    """Values (parts, operators, trials), each in the order its first row has.

    Raises FileError naming the line and column of what is wrong, or the place that has no value.
    """
    require_size(len(data))
    if not data.strip():
        raise FileError("the file is empty")
    head, start = head_line(data, 0, 1)
    names = column_names(head, ",", 1)
    for column in COLUMNS:
        if column not in names:
            raise FileError(f"the column {column} is missing", 1)
    table = read_table(data, start, names, ["value"], list(COLUMNS[:3]), ",", 2)
    at = [table.texts[c] for c in COLUMNS[:3]]
    categories = [table.words[c] for c in COLUMNS[:3]]
    for codes, words, column in zip(at, categories, COLUMNS, strict=False):
        blank = [i for i, word in enumerate(words) if not word.strip()]
        if blank:
            raise FileError("is empty", 2 + int(np.flatnonzero(codes == blank[0])[0]), column)
    expected = prod(len(words) for words in categories)
    if expected > MOST_VALUES:
        raise FileError(
            f"{len(at[0])} values are there and {expected} are needed: every part by every operator, "
            "as often"
        )
    values = np.full(tuple(len(words) for words in categories), np.nan)
    flat = np.ravel_multi_index(at, values.shape)
    cells, first = np.unique(flat, return_index=True)
    if len(cells) < len(flat):
        again = int(np.setdiff1d(np.arange(len(flat)), first)[0])
        named = ", ".join(
            f"{c} {shown(w[k[again]])}" for c, w, k in zip(COLUMNS, categories, at, strict=False)
        )
        raise FileError(f"{named} stands in two rows", 2 + again)
    values.ravel()[flat] = table.numbers["value"]
    if len(cells) < values.size:
        gap = np.argwhere(np.isnan(values))[0]
        named = ", ".join(
            f"{c} {shown(w[i])}" for c, w, i in zip(COLUMNS, categories, gap, strict=False)
        )
        raise FileError(f"there is no value for {named}: every part by every operator, as often")
    if values.shape[2] < 2:
        raise FileError("one trial shows no repeatability: measure everything twice or more")
    return values
