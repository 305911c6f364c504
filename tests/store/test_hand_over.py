"""What is told with a controller when it goes is what is on its record."""

from __future__ import annotations

from pathlib import Path

import pytest

from benches import AT, new_bench, taken_in
from core.test_foreign import FOREIGN, taken
from hollow_pin.bench.deciding import decide, view_decide
from hollow_pin.bench.hand_over import draft_of
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.jobs import log_work
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.record import Job, WorkPlan
from hollow_pin.store.database import Database

pytestmark = pytest.mark.skipif(
    not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}"
)
LATER = "2026-03-01T12:00:00.000+00:00"


def told(database: Database, job: Job) -> dict[str, str]:
    with database.reading() as db:
        return {line.about: line.words for line in draft_of(db, job.id, LATER).lines}


def measured(database: Database, job: Job, hand: int, stick: str = "left", **fault: object) -> None:
    import_take(database, job.id, stick, f"{hand}{stick}.csv", taken(811, hand, **fault), AT)


def worked(database: Database, job: Job, kind: str, stick: str = "left", **more: object) -> None:
    codes = tuple(c.code for c in cautions_for(kind))
    log_work(database, job.id, WorkPlan(stick, kind, cautions=codes, **more), LATER)  # type: ignore[arg-type]


def test_a_job_is_told_from_what_it_came_for_to_when_to_come_back(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    job = taken_in(database, "GS-018", complaint="creeps up")
    measured(database, job, 1, wear=9.0)
    worked(database, job, "lubricated", details={"recheck_on": "2026-04-01"})
    unmeasured = told(database, job)
    assert unmeasured["Now"] == "It was not measured after that."
    assert unmeasured["Left to do"] == "Measure it again."
    measured(database, job, 2, wear=9.0)
    in_vain = told(database, job)
    assert in_vain["As it came"].endswith("Worn at the centre, x.")
    assert in_vain["Now"].startswith(("No change that this bench can see", "Little changed"))
    assert in_vain["Left to do"].startswith("It comes back to different places")
    assert in_vain["Come back"].startswith("On 2026-04-01, to look again")
    worked(database, job, "replaced-by-hall", lot="L-22")
    worked(database, job, "cleaned", "right", axis="y")
    measured(database, job, 3)
    measured(database, job, 4, "right", spikes_pm=60.0, spike_h=60.0)
    lines = told(database, job)
    assert lines["Brought for"] == "“creeps up”, left stick."
    assert lines["As it came"].endswith("Worn at the centre, x."), "by the first take"
    assert lines["Done"] == (
        "Bearing freed and lubricated; module replaced by a Hall one, lot L-22."
    )
    assert lines["Now"].startswith("Better.")
    assert "Left to do" not in lines
    assert "2026-04-01" not in lines["Come back"], "what was lubricated is in the bin"
    with database.reading() as db:
        besides = [x.words for x in draft_of(db, job.id, LATER).lines if x.about == "Besides"]
    assert besides[0] == "Done to the right stick: sensor housing cleaned, y."
    assert besides[1].startswith("The right stick was measured too. Spikes with hands off")


def test_what_only_another_measurement_tells_is_left_to_do(tmp_path: Path) -> None:
    """A source hid the rest, and who took it away was told of nothing."""
    database, job = new_bench(tmp_path)
    measured(database, job, 1, dz_radial=8.0)
    assert "rawer" in told(database, job)["Left to do"]


def test_how_often_it_held_here_is_told_by_other_jobs(tmp_path: Path) -> None:
    """“Here it held in 1 of 1” was this very one."""
    database, first = new_bench(tmp_path)
    for job in (first, taken_in(database, "GS-018")):
        measured(database, job, 1, wear=9.0)
        with database.reading() as db:
            view = view_decide(db, job.id)
        assert view.take is not None
        decide(database, job.id, view.take.id, view.advised or "", "", AT)
        worked(database, job, view.advised or "", axis="x", lot="L-1")
        measured(database, job, 2)
        held = told(database, job)["What to expect"].partition("Here it held in ")[2]
        assert held == ("" if job == first else "1 of 1.")


def test_what_was_measured_only_after_work_is_not_how_it_came(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    assert told(database, job)["Now"] == "It was not measured."
    worked(database, job, "recalibrated")
    measured(database, job, 1)
    lines = told(database, job)
    assert "As it came" not in lines
    assert lines["Done"] == "Recalibrated."
    assert lines["Now"].startswith("Rests 0.")
    measured(database, job, 2)
    assert told(database, job)["Now"].startswith(("No change that this bench can see", "Little"))
