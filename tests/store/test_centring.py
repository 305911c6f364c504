"""What a stick is centred by is its newest take, and that says whether it can be."""

from __future__ import annotations

from pathlib import Path

import pytest

from benches import AT, new_database, taken_in
from hollow_pin.bench.centring import begin
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.refusal import Refused
from sticks import performed, transformed


@pytest.mark.parametrize("stays", [0.0, -100.0])
def test_an_axis_that_gives_no_signal_is_not_centred_by_its_silence(
    tmp_path: Path, stays: float
) -> None:
    """In the middle it was centred from the first; at an end its trim was to be turned for
    ever."""
    database = new_database(tmp_path)
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    offset = performed("offset").recording
    u = offset.u.copy()
    u[:, 1] = stays
    for name, recording in (("a.csv", transformed(offset, u)), ("b.csv", offset)):
        take = import_take(database, job.id, "left", name, recording, AT)
        with database.writing() as db:
            # As if it had come from what can be watched.
            db.execute("UPDATE take SET source_kind = 'hid' WHERE id = ?", (take.id,))
        with database.reading() as db:
            if recording is offset:
                assert begin(db, job.id, "trimmed", AT).take.id == take.id
            else:
                with pytest.raises(Refused, match=r"y gives no signal.*measure it again"):
                    begin(db, job.id, "trimmed", AT)
