"""What a source was found to be like is kept, the newest of each; of too little nothing is said."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from benches import AT, new_bench
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.source_checks import checks_of_model, keep_check
from hollow_pin.core.recording import AxisRange
from hollow_pin.core.source_watch import SourceWatch


def watched(n: int) -> SourceWatch:
    watch = SourceWatch((AxisRange(-100, 100),) * 2, {})
    watch.feed(np.arange(n) * 4000, np.random.default_rng(1).normal(0, 9, (n, 2)))
    return watch


def test_of_too_little_nothing_is_said(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    source = ("plover", "left", "gamepad", "A pad", ())
    with pytest.raises(Refused, match="Too little"):
        keep_check(database, watched(50 - 1), *source, AT)  # type: ignore[arg-type]
    keep_check(database, watched(50), *source, AT)  # type: ignore[arg-type]
    keep_check(database, watched(50 + 9), *source, AT)  # type: ignore[arg-type]
    with database.reading() as db:
        (checks,) = checks_of_model(db, "plover")
        assert checks_of_model(db, "skua") == []
    assert checks.check.samples == 50 + 9, "the newest counts"
