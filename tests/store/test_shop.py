"""Models, routines, bench checks and long takes on a real database."""

from __future__ import annotations

import asyncio
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from benches import AT, begun, new_bench, new_database, plan, taken_in
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.jobs import close, log_work
from hollow_pin.bench.models import (
    all_routines,
    change_model,
    drop_routine,
    edit_routine,
    find_routine,
    new_model,
    new_routine,
    view_routine,
)
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.studies import open_study, trust_in, view_study
from hollow_pin.bench.takes import (
    compare_takes,
    envelope_of,
    finish_take,
    get_job,
    stand_in_for,
    start_take,
    tracker_for,
    view_take,
)
from hollow_pin.capture.session import Session
from hollow_pin.core.record import Job, WorkPlan
from hollow_pin.core.routine import BY_ID, Routine
from hollow_pin.sources.stand_in import StandInSource
from hollow_pin.store.controllers import find_model, stand_in_state
from hollow_pin.store.database import Database, migrations
from hollow_pin.store.mappings import AxisMapping, keep_mapping, mappings_of
from hollow_pin.store.studies import StudyPlan, StudyStick
from hollow_pin.store.takes import load_recording, merge_next, write_block
from sticks import performed


def run_take(database: Database, job: Job, at: str = AT, **how: object) -> int:
    """A quick take on the stand-in through the real session."""
    take = start_take(database, job.id, plan(job.stick, **how), at)  # type: ignore[arg-type]
    source = StandInSource(stand_in_for(database, take, "sound"), in_real_time=False)
    session = Session(database, take.id, source, tracker_for(database, take, None))
    session.nobody_watches()
    with ThreadPoolExecutor(1) as thread:
        ended = thread.submit(asyncio.run, session.run()).result(60)
    finish_take(database, take.id, ended.state, ended.because, at)
    return take.id


# A bench of the first version


def test_a_bench_of_the_first_version_opens_with_everything_in_it(tmp_path: Path) -> None:
    """Whoever updates keeps every job, take and sample."""
    first = migrations()[0]
    with sqlite3.connect(tmp_path / "hollow-pin.db") as db:
        db.executescript(f"{first[1]}\nPRAGMA user_version = {first[0]};")
        db.execute("INSERT INTO controller VALUES (1, 'GS-008', 'skua', 't')")
        db.execute("INSERT INTO job VALUES (1, 1, 'stick', 'drifts', 'work', NULL, 't', NULL)")
        db.execute(
            "INSERT INTO take (id, job_id, stick, stage, state, source_kind, source_name, ranges, "
            "gate, started_at) VALUES (1, 1, 'stick', 'as received', 'complete', 'gamepad', 'pad', "
            "'[[0, 1023], [0, 1023]]', 'square', 't')"
        )
        sample = performed("sound").recording
        db.execute(
            "INSERT INTO block (take_id, t_us, raw, step) VALUES (1, ?, ?, ?)",
            (sample.t_us.tobytes(), sample.raw.tobytes(), sample.step.tobytes()),
        )
        db.execute("INSERT INTO ledger VALUES (1, 1, 't', 'take', 'Taken.', 1, NULL)")
    database = new_database(tmp_path)
    with database.reading() as db:
        assert db.execute("PRAGMA foreign_key_check").fetchall() == []
        view = view_take(db, 1, "everyday", AT)
        skua = find_model(db, "skua")
        station = get_job(db, 1).station
    assert view.readings.recording.samples == len(sample.t_us)
    assert view.take.conditions.calibration == "unknown"
    assert station == "decide", "what was called “work” is by its name on the screen"
    assert (skua.sticks[0].gate, skua.sticks[0].kind, skua.hi) == ("square", "hall", 65535)
    assert {m.axis for m in skua.sticks[0].sensors} == {"x", "y"}


# Long takes


def test_blocks_put_together_hold_the_same_samples_in_the_same_order(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    take = begun(database, job)
    recording = performed("worn").recording
    with database.writing() as db:
        for i in range(0, len(recording.t_us), 37):
            part = slice(i, i + 37)
            write_block(
                db, take.id, recording.t_us[part], recording.raw[part], recording.step[part]
            )
        before = db.execute("SELECT count(*) FROM block").fetchone()[0]
        first, last = db.execute("SELECT min(first_us), max(last_us) FROM block").fetchone()
        assert (first, last) == (recording.t_us[0], recording.t_us[-1])
        assert merge_next(db, take.id) == 0, "there are no more"
        after = db.execute("SELECT count(*) FROM block").fetchone()[0]
        loaded = load_recording(db, take)
    assert (before > 500, after) == (True, 1)
    assert (loaded.t_us == recording.t_us).all()
    assert (loaded.raw == recording.raw).all()
    assert (loaded.step == recording.step).all()


def test_an_envelope_loses_no_extreme_and_shows_single_samples_when_zoomed(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    take = begun(database, job)
    rng = np.random.default_rng(1)
    n = 120_000
    raw = np.round(512 + rng.normal(0, 2, (n, 2)))
    raw[77_777, 0], raw[33_333, 1] = 1023, 0
    t_us = np.arange(n, dtype=np.int64) * 1000
    with database.writing() as db:
        for i in range(0, n, 5_000):
            part = slice(i, i + 5_000)
            write_block(db, take.id, t_us[part], raw[part], np.zeros(5_000, np.int8))
    with database.reading() as db:
        t, u, decimated = envelope_of(db, take.id, None, None, 500)
        assert decimated
        assert len(t) <= 1000
        assert (u[:, 0].max(), u[:, 1].min()) == (100.0, -100.0)
        at = t[u[:, 0].argmax()]
        assert at == pytest.approx(77.777, abs=0.25)
        t, u, decimated = envelope_of(db, take.id, 77.7, 77.85, 500)
        assert not decimated
        assert len(t) == 151
        assert t[u[:, 0].argmax()] == pytest.approx(77.777)
        with pytest.raises(Refused, match="no samples there"):
            envelope_of(db, take.id, 500, 600, 500)


# Models and routines


def plover(database: Database):
    with database.reading() as db:
        return find_model(db, "plover")


def test_a_model_is_made_and_changed_and_its_limits_count(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    made = new_model(database, replace(plover(database), name="  Knot  "))
    assert (made.id, made.name) == ("knot", "Knot")
    with pytest.raises(Refused, match="called knot already"):
        new_model(database, replace(made, name="knot"))
    take = import_take(database, job.id, "left", "t.csv", performed("worn").recording, AT)
    strict = {"composite.dead_zone_needed": {"everyday": 0.5, "fine": 0.4}}
    change_model(database, "plover", replace(plover(database), limits=strict))
    with database.reading() as db:
        view = view_take(db, take.id, "everyday", AT)
    against = view.limits["composite.dead_zone_needed"]
    assert (against.limit, against.verdict) == (0.5, "over")
    assert against.reason.startswith("This model's own limit.")


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"sticks": ()}, "sticks"),
        ({"lo": 5.0, "hi": 5.0}, "hi"),
        ({"limits": {"still.nothing": {"fine": 1.0}}}, "limits"),
        ({"limits": {"still.rest_offset": {"fine": 9.0}}}, "limits"),
    ],
)
def test_a_model_that_makes_no_sense_is_refused_by_field(
    tmp_path: Path, change: dict, field: str
) -> None:
    database, _ = new_bench(tmp_path)
    with pytest.raises(Refused) as refused:
        new_model(database, replace(plover(database), name="Knot", **change))
    assert refused.value.field == field


def test_a_stick_that_jobs_speak_of_cannot_be_taken_from_its_model(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    model = plover(database)
    with pytest.raises(Refused, match="Jobs speak of the left"):
        change_model(database, "plover", replace(model, sticks=model.sticks[1:]))
    single = replace(model.sticks[0], axes=1, sensors=model.sticks[0].sensors[:1])
    with pytest.raises(Refused, match="its axes stay"):
        change_model(database, "plover", replace(model, sticks=(single, model.sticks[1])))


def test_the_shops_own_routine_is_kept_and_a_take_remembers_what_was_asked(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    own = new_routine(database, Routine("own", "Doorstep", ("still",), still_s=5))
    with database.reading() as db:
        assert find_routine(db, own.id) == own
        assert view_routine(own).own
    take = start_take(database, job.id, replace(plan(), routine=own), AT)
    edit_routine(database, own.id, replace(own, still_s=30))
    drop_routine(database, own.id)
    with database.reading() as db:
        assert [r.id for r in all_routines(db)] == list(BY_ID)
        assert view_take(db, take.id, "everyday", AT).take.routine.still_s == 5
        with pytest.raises(NotFound):
            find_routine(db, own.id)
    with pytest.raises(Refused, match="comes with the program"):
        drop_routine(database, "quick")
    with pytest.raises(Refused, match="called quick already"):
        new_routine(database, Routine("own", "quick", ("still",)))


def test_a_stick_is_not_asked_for_what_it_cannot_do(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    job = taken_in(database, "GS-070", "turnstone", "paddle", "", AT)
    with pytest.raises(Refused, match="cannot do Let-go, Rim") as refused:
        start_take(database, job.id, plan("paddle", "quick", axes=1), AT)
    assert refused.value.field == "routine"
    with pytest.raises(Refused, match="has one axis"):
        start_take(database, job.id, plan("paddle", "paddle"), AT)


def test_which_axes_are_which_stick_is_remembered_by_model_and_source(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    with database.writing() as db:
        for mapping in (AxisMapping("left", 0, 1), AxisMapping("left", 2, 5, True, False)):
            keep_mapping(db, "plover", "gamepad", "pad", mapping)
    with database.reading() as db:
        assert mappings_of(db, "plover", "gamepad", "pad") == [AxisMapping("left", 2, 5, True)]
        assert mappings_of(db, "plover", "gamepad", "another pad") == []
        assert mappings_of(db, "dunlin", "gamepad", "pad") == []


# Bench checks


def test_a_bench_check_is_worked_out_with_its_last_take_and_widens_every_verdict(
    tmp_path: Path,
) -> None:
    """Two takes that differ by less than the bench's own scatter must not be called a change."""
    database, job = new_bench(tmp_path)
    sticks = (StudyStick(job.id, "left"),)
    roles = ("morning", "evening")
    check = StudyPlan("stand-in", "Stand-in", roles, sticks, 2, BY_ID["quick"])
    study = open_study(database, check, AT)
    for role in ("morning", "evening", "morning", "evening"):
        with database.reading() as db:
            assert view_study(db, study.id, AT).study.completed_at is None
        run_take(database, job, role=role, study_id=study.id)
    with database.reading() as db:
        view = view_study(db, study.id, AT)
        trust = trust_in(db, "plover", "stand-in", "Stand-in", AT)
        overdue = trust_in(db, "plover", "stand-in", "Stand-in", "2026-07-01T00:00:00+00:00")
        other = trust_in(db, "plover", "gamepad", "pad", AT)
    shown = next(s for s in view.shown if s.path == "rim.circularity_error")
    table = np.array([v.value for v in shown.values]).reshape(1, 2, 2)
    assert shown.gauge.repeatability > 0
    assert table.shape == (1, 2, 2)
    assert (trust.stale, overdue.stale, other.study_id) == (False, True, None)
    assert trust.smallest_change["rim.circularity_error"] == shown.smallest_change
    with database.writing() as db:
        db.execute(
            "UPDATE study SET result = json_set(result, '$.\"rim.circularity_error\".gauge_rr', 50)"
        )
    first, last = view.cells[0].takes[0], view.cells[1].takes[0]
    with database.reading() as db:
        comparison = compare_takes(db, first, last, "everyday", AT)
    row = comparison.comparison.row("rim.circularity_error")
    assert row.u_before == 50
    assert row.verdict == "no-change"


def test_a_bench_check_takes_only_its_own_sticks_and_roles_untouched(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)

    def study(roles: tuple[str, ...], trials: int):
        sticks = (StudyStick(job.id, "left"),)
        quick = BY_ID["quick"]
        return open_study(
            database, StudyPlan("stand-in", "Stand-in", roles, sticks, trials, quick), AT
        )

    with pytest.raises(Refused, match="three trials or more"):
        study(("morning",), 2)
    check = study(("morning",), 3)
    with pytest.raises(Refused, match="does not ask for this stick"):
        start_take(database, job.id, plan("right", role="morning", study_id=check.id), AT)
    with pytest.raises(Refused, match="does not ask"):
        start_take(database, job.id, plan("left", role="evening", study_id=check.id), AT)
    log_work(database, job.id, WorkPlan(job.stick, "recalibrated"), "2026-03-02T10:00:00.000+00:00")
    with pytest.raises(Refused, match="worked on since"):
        start_take(database, job.id, plan("left", role="morning", study_id=check.id), AT)
    with database.reading() as db:
        assert "no longer speak of one thing" in view_study(db, check.id, AT).broken


def test_a_stand_in_that_comes_again_has_been_in_use(tmp_path: Path) -> None:
    """A cleaning wears off: the record of how long it held must be able to see that."""
    database, job = new_bench(tmp_path)
    run_take(database, job)
    close(database, job.id, "signed-off", "", AT)
    with database.reading() as db:
        before = stand_in_state(db, job.controller.id, "left")["module"]["x"]
    taken_in(database, "GS-017", None, "left", "again", "2026-09-01T10:00:00.000+00:00")
    with database.reading() as db:
        after = stand_in_state(db, job.controller.id, "left")["module"]["x"]
    assert after["wear"] > before["wear"] + 1
    assert after["dirt"] > before["dirt"] + 0.1
