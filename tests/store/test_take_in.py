"""What is told at take-in, the ledger, and finding: nothing lost, nothing overwritten unseen, and
nothing that moves people signed off."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from benches import AT, begun, new_bench, new_database, plan, taken_in
from hollow_pin.bench.function_checks import Source, answer, begin, end, feed, recover_checks, touch
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.intake import change_intake, details_of
from hollow_pin.bench.jobs import close, find, log_work, reopen, view_job
from hollow_pin.bench.ledger import correct, undo, wait_for, write
from hollow_pin.bench.refusal import Changed, Refused
from hollow_pin.bench.takes import finish_take, get_job, start_take, view_take
from hollow_pin.cli.main import main
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.function_check import Item
from hollow_pin.core.intake import REFER, Intake
from hollow_pin.core.record import Job, JobDetails, WorkPlan
from hollow_pin.formats.recording_csv import write_recording
from hollow_pin.store.database import Database
from hollow_pin.store.finding import JobQuery
from hollow_pin.store.mappings import AxisMapping, keep_mapping
from sticks import performed

LATER = "2026-03-02T10:00:00.000+00:00"


@pytest.fixture
def bench(tmp_path: Path) -> tuple[Database, Job]:
    return new_bench(tmp_path)


def job_of(database: Database, job: Job) -> Job:
    with database.reading() as db:
        return get_job(db, job.id)


def ledger_of(database: Database, job: Job):
    with database.reading() as db:
        return view_job(db, job.id).ledger


def change(database: Database, job: Job, told: JobDetails, role: str = "") -> Job:
    """As one window does it that has seen the job as `job`."""
    return change_intake(database, job.id, told, details_of(job), job.revision, LATER, role)


def logged(database: Database, job: Job, kind: str = "cleaned", at: str = LATER):
    codes = tuple(c.code for c in cautions_for(kind))
    return log_work(database, job.id, WorkPlan(job.stick, kind, cautions=codes), at)


# Refer


def refused_as_fit(database: Database, job: Job) -> None:
    with pytest.raises(Refused, match="only be closed as referred"):
        close(database, job.id, "signed-off", "fit", LATER)
    with pytest.raises(Refused, match="only be closed as referred"):
        close(database, job.id, "as-it-was", "", LATER)


def test_refer_stays_whatever_is_told_afterwards(bench: tuple[Database, Job]) -> None:
    database, job = bench
    details = replace(details_of(job), moves="yes")
    referred = change(database, job, details)
    assert referred.controller.refer
    refused_as_fit(database, job)
    for answer_ in ("no", ""):
        with pytest.raises(Refused, match="not taken back"):
            change(database, referred, replace(details, moves=answer_))
    with pytest.raises(Refused, match="Nobody signs it off"):
        logged(database, job)
    take = import_take(database, job.id, "left", "f", performed("offset").recording, LATER)
    with database.reading() as db:
        meaning = view_take(db, take.id, "everyday", LATER).meaning
    assert (meaning.advice, meaning.try_first) == (REFER, "none"), "no remedy is offered"
    close(database, job.id, "referred", "To the maker.", LATER)
    again = taken_in(database, "gs-017", None, at=LATER)
    assert again.moves == "yes", "the next visit knows it"
    refused_as_fit(database, again)
    with pytest.raises(Refused, match="not taken back"):
        change(database, again, replace(details_of(again), moves="no"))


def test_refer_is_not_got_round_by_reopening_an_older_job(bench: tuple[Database, Job]) -> None:
    database, job = bench
    close(database, job.id, "signed-off", "", AT)
    later = taken_in(database, "GS-017", None, moves="yes", at=LATER)
    close(database, later.id, "referred", "", LATER)
    reopen(database, job.id, LATER)
    refused_as_fit(database, job)


def test_refer_is_not_got_round_by_import(bench: tuple[Database, Job], tmp_path: Path) -> None:
    database, _ = bench
    taken_in(database, "GS-090", "plover", moves="yes")
    file = tmp_path / "take.csv"
    file.write_text("".join(write_recording(performed("sound").recording)))
    command = ["import", str(file), "--data", str(tmp_path), "--stick", "left"]
    assert main([*command, "--tag", "GS-090"]) == 0
    with database.reading() as db:
        job = get_job(db, find(db, JobQuery("GS-090")).strips[0].job_id)
    refused_as_fit(database, job)
    assert main([*command, "--tag", "GS-091", "--model", "plover"]) == 0
    with database.reading() as db:
        unasked = get_job(db, find(db, JobQuery("GS-091")).strips[0].job_id)
    with pytest.raises(Refused, match="Answer first"):
        close(database, unasked.id, "signed-off", "", LATER)


def test_the_database_itself_does_not_let_refer_go(bench: tuple[Database, Job]) -> None:
    database, job = bench
    change(database, job, replace(details_of(job), moves="yes"))
    signed = f"UPDATE job SET ended = 'signed-off', closed_at = '{LATER}'"
    for attempt in (
        "UPDATE controller SET refer = 0",
        signed,
        f"{signed}, moves = 'no'",
        "INSERT INTO job (controller_id, stick, complaint, moves, station, ended, opened_at, "
        f"closed_at) VALUES (1, 'left', '', 'no', 'closed', 'signed-off', '{AT}', '{AT}')",
    ):
        with closing(database.connect()) as db, pytest.raises(sqlite3.IntegrityError):
            db.execute(attempt)


def test_unasked_it_is_not_signed_off_but_may_go_back_as_it_is(tmp_path: Path) -> None:
    database = new_database(tmp_path)
    job = taken_in(database, moves="")
    with pytest.raises(Refused, match="Answer first"):
        close(database, job.id, "signed-off", "", LATER)
    close(database, job.id, "as-it-was", "", LATER)


def test_what_the_owner_has_not_agreed_to_is_not_opened(bench: tuple[Database, Job]) -> None:
    database, job = bench
    change(database, job, replace(details_of(job), intake=Intake(consent="no")))
    with pytest.raises(Refused, match="has not agreed"):
        logged(database, job)
    logged(database, job, "recalibrated")


# Two windows


def test_two_windows_on_different_fields_both_count(bench: tuple[Database, Job]) -> None:
    database, job = bench
    change(database, job, replace(details_of(job), complaint="creeps"), "morning bench")
    change(database, job, replace(details_of(job), intake=Intake(price="12", hours=(3, 2, 3))))
    now = job_of(database, job)
    assert (now.complaint, now.intake.price, now.intake.hours) == ("creeps", "12", (2, 3))
    texts = [e.text for e in ledger_of(database, job) if e.kind == "take-in"]
    assert "Complaint: not asked → creeps." in texts
    assert "Goes toward: not asked → 2 and 3\u00a0o’clock; Price agreed: not asked → 12." in texts


def test_two_windows_on_one_field_the_second_is_told_and_nothing_is_lost(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    change(database, job, replace(details_of(job), complaint="theirs"))
    mine = replace(details_of(job), complaint="mine", intake=Intake(price="9"))
    with pytest.raises(Changed, match="Complaint is now “theirs”") as caught:
        change(database, job, mine)
    assert caught.value.changes == {"complaint": "theirs"}
    assert job_of(database, job).intake.price == "", "nothing of it is half saved"
    fresh = job_of(database, job)
    change(database, fresh, replace(mine, intake=Intake(price="9")))
    now = job_of(database, job)
    assert (now.complaint, now.intake.price) == ("mine", "9")
    assert any("theirs → mine" in e.text for e in ledger_of(database, job))


def test_a_measured_stick_is_not_exchanged_for_another(bench: tuple[Database, Job]) -> None:
    database, job = bench
    moved = change(database, job, replace(details_of(job), stick="right"))
    assert moved.stick == "right"
    import_take(database, job.id, "right", "f", performed("sound").recording, LATER)
    with pytest.raises(Refused, match="has been measured"):
        change(database, moved, replace(details_of(moved), stick="left"))


# The ledger


def test_a_corrected_entry_keeps_how_it_read(bench: tuple[Database, Job]) -> None:
    database, job = bench
    first = write(database, job.id, "owner", "“since Monday”", AT, "morning bench")
    again = correct(database, first.id, "“since Sunday”", 1, LATER, "evening bench")
    assert (again.text, again.role, again.revision) == ("“since Sunday”", "morning bench", 2)
    assert [(w.text, w.role) for w in again.before] == [("“since Monday”", "evening bench")]
    with pytest.raises(Changed, match="now reads: ““since Sunday””"):
        correct(database, first.id, "mine", 1, LATER)


def test_undone_entries_stay_and_can_be_put_back(bench: tuple[Database, Job]) -> None:
    database, job = bench
    note = write(database, job.id, "part", "Ordered.", AT)
    undone = undo(database, note.id, 1, LATER)
    assert undone.undone_at == LATER
    assert note.id in [e.id for e in ledger_of(database, job)]
    with pytest.raises(Changed, match="It has been undone"):
        undo(database, note.id, 1, LATER)
    assert undo(database, note.id, 2, LATER, back=True).undone_at is None


def test_undone_work_was_not_done(bench: tuple[Database, Job]) -> None:
    """Station, stage of later takes, pin and the stand-in are as if it had never been logged."""
    database, job = bench
    import_take(database, job.id, "left", "a", performed("worn").recording, AT)
    logged(database, job, at="2026-03-01T11:00:00.000+00:00")
    import_take(database, job.id, "left", "b", performed("worn").recording, LATER)
    with database.reading() as db:
        view = view_job(db, job.id)
    assert [t.stage for t in view.takes] == ["as received", "after cleaning"]
    entry = next(e for e in view.ledger if e.kind == "work")
    undo(database, entry.id, entry.revision, LATER)
    with database.reading() as db:
        view = view_job(db, job.id)
    assert [t.stage for t in view.takes] == ["as received", "as received"]
    assert (view.job.station, view.work) == ("decide", ())
    assert all(e.undone_at for e in view.ledger if e.work_id is not None)


def test_a_take_that_is_undone_is_set_aside_not_deleted(bench: tuple[Database, Job]) -> None:
    database, job = bench
    take = import_take(database, job.id, "left", "a", performed("worn").recording, AT)
    entry = ledger_of(database, job)[0]
    undo(database, entry.id, entry.revision, LATER)
    with database.reading() as db:
        view = view_job(db, job.id)
    assert (view.takes, view.job.station, view.pins[0].state) == ((), "prove", "none")
    again = ledger_of(database, job)[0]
    undo(database, again.id, again.revision, LATER, back=True)
    with database.reading() as db:
        assert [t.id for t in view_job(db, job.id).takes] == [take.id]


def test_a_running_take_is_not_undone(bench: tuple[Database, Job]) -> None:
    database, job = bench
    take = begun(database, job)
    finish_take(database, take.id, "interrupted", "a test", AT)
    entry = ledger_of(database, job)[0]
    with database.writing() as db:
        db.execute("UPDATE take SET state = 'recording'")
    with pytest.raises(Refused, match="is running"):
        undo(database, entry.id, entry.revision, LATER)


def test_work_on_a_stand_in_is_undone_on_it(bench: tuple[Database, Job]) -> None:
    database, job = bench
    take = start_take(database, job.id, plan(), AT)
    from hollow_pin.bench.takes import stand_in_for

    before = stand_in_for(database, take, "dirty").stick
    logged(database, job)
    assert stand_in_for(database, take).stick.module.x.dirt < before.module.x.dirt
    entry = next(e for e in ledger_of(database, job) if e.kind == "work")
    undo(database, entry.id, entry.revision, LATER)
    assert stand_in_for(database, take).stick == before


def test_a_job_taken_in_by_mistake_is_taken_back_unless_it_was_worked_on(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    entry = ledger_of(database, job)[-1]
    undo(database, entry.id, entry.revision, LATER)
    assert job_of(database, job).ended == "withdrawn"
    assert taken_in(database, "GS-017", None, at=LATER).id != job.id
    other = taken_in(database, "GS-018")
    logged(database, other, "recalibrated")
    entry = ledger_of(database, other)[-1]
    with pytest.raises(Refused, match="so it was here"):
        undo(database, entry.id, entry.revision, LATER)


def test_what_it_waits_for_is_said_and_taken_back(bench: tuple[Database, Job]) -> None:
    database, job = bench
    wait_for(database, job.id, "part", "A left module.", AT, "morning bench")
    assert job_of(database, job).waiting == "part"
    entry = ledger_of(database, job)[0]
    assert entry.text == "Waits for a part. A left module."
    undo(database, entry.id, entry.revision, LATER)
    assert job_of(database, job).waiting == ""
    wait_for(database, job.id, "owner", "", AT)
    close(database, job.id, "as-it-was", "", LATER)
    assert job_of(database, job).waiting == "", "what is closed waits for nothing"


# Finding

WORDS = st.text(
    st.characters(exclude_categories=("Cs", "Cc", "Zs", "Zl", "Zp")), min_size=1, max_size=12
)


@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(word=WORDS)
def test_every_word_of_a_complaint_finds_its_job(bench: tuple[Database, Job], word: str) -> None:
    """In any script, with quotes, stars and brackets: what was typed is looked for, not obeyed."""
    database, job = bench
    now = job_of(database, job)
    change_intake(
        database,
        job.id,
        replace(details_of(now), complaint=f"x {word} y"),
        details_of(now),
        now.revision,
        LATER,
        "",
    )
    with database.reading() as db:
        assert [s.job_id for s in find(db, JobQuery(word)).strips] == [job.id]
        assert find(db, JobQuery(f"{word} nowhere-to-be-found")).count == 0


def test_jobs_are_found_by_tag_model_ledger_station_and_waiting(tmp_path: Path) -> None:
    database, first = new_bench(tmp_path)
    second = taken_in(database, "GS-200", "dunlin", "stick", "Läuft weg, sagt der 技師.")
    write(database, first.id, "note", "Found sand under the cap.", AT)
    wait_for(database, second.id, "part", "", AT)
    import_take(database, first.id, "left", "a", performed("sound").recording, AT)

    def ids(wanted: JobQuery) -> list[int]:
        with database.reading() as db:
            hits = find(db, wanted)
        assert hits.count == len(hits.strips)
        return [s.job_id for s in hits.strips]

    assert ids(JobQuery("s-20")) == [second.id]
    assert ids(JobQuery("dunl")) == [second.id]
    assert ids(JobQuery("SAND")) == [first.id]
    assert ids(JobQuery("läuft 技師")) == [second.id]
    assert ids(JobQuery("un")) == [second.id], (
        "two letters are looked for in tags, models, complaints"
    )
    assert ids(JobQuery("100%")) == []
    assert ids(JobQuery(station="decide")) == [first.id]
    assert ids(JobQuery(waiting="any")) == ids(JobQuery(waiting="part")) == [second.id]
    assert ids(JobQuery(model_id="plover")) == [first.id]
    assert ids(JobQuery(opened=False)) == []


def test_pages_of_jobs_follow_each_other_without_gap_or_repeat(tmp_path: Path) -> None:
    database = new_database(tmp_path)
    made = [taken_in(database, f"GS-{n:03}").id for n in range(23)]
    seen: list[int] = []
    before = None
    while True:
        with database.reading() as db:
            page = find(db, JobQuery(before=before, limit=5))
        assert page.count == 23
        if not page.strips:
            break
        seen += [s.job_id for s in page.strips]
        before = seen[-1]
    assert seen == made[::-1]


# Function checks


def test_what_was_pressed_survives_the_cable_and_the_power(bench: tuple[Database, Job]) -> None:
    database, job = bench
    pad = Source("gamepad", "pad", 17, (4, 5))
    first = begin(database, job.id, "take-in", pad, AT)
    feed(database, first.id, [[0, "button", i, 0] for i in range(17)])
    feed(database, first.id, [[100, "button", 3, 1], [180, "button", 3, 0]])
    recover_checks(database, LATER)
    entry = ledger_of(database, job)[0]
    assert entry.kind == "check"
    assert "the program ended meanwhile" in entry.text
    with database.reading() as db:
        check = view_job(db, job.id).checks[0]
    assert check.result.buttons[3].state == "works"
    assert "B5" in check.result.open, "it was not tried, and is not called dead"
    with pytest.raises(Refused, match="has ended"):
        feed(database, first.id, [])


def test_a_final_check_is_set_against_the_one_at_take_in(bench: tuple[Database, Job]) -> None:
    database, job = bench
    pad = Source("gamepad", "pad", 2, ())
    for kind, works in (("take-in", (0,)), ("final", (0, 1))):
        made = begin(database, job.id, kind, pad, AT)  # type: ignore[arg-type]
        for i in works:
            at = 1000 * (i + 1)
            feed(database, made.id, [[at, "button", i, 1], [at + 90, "button", i, 0]])
        answer(database, made.id, Item("Sound in both ears", "works"))
        seen = end(database, made.id, None, LATER)
    assert next((c.name, c.after, c.better) for c in seen.changes) == ("B2", "works", True)
    assert seen.against.startswith("Works now: B2")
    assert "Works now: B2" in ledger_of(database, job)[0].text


def test_axes_that_were_found_to_be_a_stick_s_are_no_triggers(bench: tuple[Database, Job]) -> None:
    """By a browser that does not know the controller they lie anywhere among the others."""
    database, job = bench
    pad = Source("gamepad", "pad", 3, axes=8)
    assert begin(database, job.id, "take-in", pad, AT).triggers == tuple(range(8))
    with database.writing() as db:
        for stick, x, y in (("left", 0, 1), ("right", 3, 4)):
            keep_mapping(db, "plover", "gamepad", "pad", AxisMapping(stick, x, y))
    made = begin(database, job.id, "take-in", pad, AT)
    assert made.triggers == (2, 5, 6, 7)
    pulled = [[1000 + 10 * i, "axis", 2, -1 + i / 25] for i in range(51)]
    seen = feed(database, made.id, [*pulled, [1800, "axis", 2, -1.0], [2500, "button", 0, 1]])
    assert [(t.name, t.state) for t in seen.found.triggers] == [("Trigger on axis 3", "works")]
    assert "1 of 2 triggers" in seen.found.open
    others = Source("gamepad", "another pad", 3, axes=6, standard=True)
    assert begin(database, job.id, "take-in", others, AT).triggers == (4, 5)


def test_a_stand_in_is_pressed_on_the_screen(bench: tuple[Database, Job]) -> None:
    database, job = bench
    made = begin(database, job.id, "take-in", None, AT)
    for i in range(made.buttons):
        seen = touch(database, made.id, "button", i)
    for axis in made.triggers:
        seen = touch(database, made.id, "axis", axis)
    answered = [b.state for b in seen.found.buttons]
    assert answered.count("works") >= len(answered) - 2
    assert all(t.state == "works" for t in seen.found.triggers)
    with pytest.raises(Refused, match="no such button"):
        touch(database, made.id, "button", 40)
