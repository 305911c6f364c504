"""A shell on the mat: opened by its model's sheet, checked, shut, opened again; and what dries."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from benches import AT, new_bench, new_database, taken_in
from core.test_foreign import FOREIGN, taken
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.jobs import close, due_rechecks, log_work, view_job
from hollow_pin.bench.ledger import play_test, undo
from hollow_pin.bench.openings import (
    OpeningView,
    begin_opening,
    keep_learnt,
    keep_sheet,
    learn_step,
    reopened_share,
    shut,
    tick_off,
    untick,
    versions_of,
    view_opening,
    view_sheet,
)
from hollow_pin.bench.passes import PassesView, passes_of
from hollow_pin.bench.photos import keep_photo
from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.bench.timers import end_timer, hear_timer, move_clock, running_timers, start_timer
from hollow_pin.bench.work_templates import keep_template, templates_of
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.intake import Intake
from hollow_pin.core.record import Job, WorkPlan
from hollow_pin.core.remedies import OPENING
from hollow_pin.core.routine import BY_ID
from hollow_pin.core.teardown import FINAL, SheetStep, Teardown
from hollow_pin.core.tracking.find_steps import spans_of, with_spans
from hollow_pin.demo.pictures import photograph
from hollow_pin.demo.teardowns import DUNLIN, PLOVER, open_up, shut_again
from hollow_pin.store.database import Database
from sticks import performed

LATER = "2026-03-01T10:05:00.000+00:00"


@pytest.fixture
def bench(tmp_path: Path) -> tuple[Database, Job]:
    database, job = new_bench(tmp_path)
    keep_sheet(database, "plover", PLOVER, 0, AT)
    return database, job


def seen(database: Database, job: Job, now: str = AT) -> OpeningView:
    with database.reading() as db:
        return view_opening(db, job.id, now)


def ledger(database: Database, job: Job) -> list[str]:
    with database.reading() as db:
        return [e.text for e in view_job(db, job.id).ledger if not e.undone_at]


def entry(database: Database, job: Job, begins: str):
    with database.reading() as db:
        return next(e for e in view_job(db, job.id).ledger if e.text.startswith(begins))


def ledger_entries(database: Database, job: Job):
    with database.reading() as db:
        return view_job(db, job.id).ledger


def clean(database: Database, job: Job, **more: object) -> None:
    codes = tuple(c.code for c in cautions_for("cleaned"))
    log_work(database, job.id, WorkPlan("left", "cleaned", cautions=codes, **more), AT)  # type: ignore[arg-type]


def measure(
    database: Database, job: Job, condition: str, shell: str = "open", quick: bool = False
) -> None:
    """A take of what is so now, told to be made with the shell open or closed. quick: only what the
    quick routine has of it."""
    whole = performed(condition).recording
    if quick:
        steps = BY_ID["quick"].steps
        whole = with_spans(whole, tuple(s for s in spans_of(whole) if s.step in steps))
    take = import_take(database, job.id, "left", "t.csv", whole, AT)
    with database.writing() as db:
        db.execute("UPDATE take SET shell = ? WHERE id = ?", (shell, take.id))


def test_a_shell_is_opened_step_by_step_and_what_is_out_is_on_record(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    with pytest.raises(Refused, match="cautions first: mains"):
        begin_opening(database, job.id, OPENING[:-1], AT)
    opening = begin_opening(database, job.id, OPENING, AT, "morning bench")
    with pytest.raises(Refused, match="open already"):
        begin_opening(database, job.id, OPENING, AT)
    for step in opening.sheet.steps:
        assert seen(database, job).opens.next == step.id
        tick_off(database, job.id, "out", step.id, "", AT)
        tick_off(database, job.id, "out", step.id, "", AT)
    view = seen(database, job)
    assert (view.opens.out, view.opens.next) == (9, None)
    assert [f.out for f in view.opens.fasteners] == [2, 6, 1]
    untick(database, job.id, AT)
    assert seen(database, job).opens.next == "lift"
    with pytest.raises(Refused, match="not taken out"):
        tick_off(database, job.id, "back", "lift", "", AT)
    with pytest.raises(NotFound):
        tick_off(database, job.id, "out", "no such step", "", AT)
    with pytest.raises(NotFound):
        tick_off(database, job.id, "final", "no such check", "", AT)
    with pytest.raises(Refused, match="shell is open"):
        close(database, job.id, "signed-off", "", AT)


def test_a_plug_is_noted_or_photographed_before_it_is_pulled(bench: tuple[Database, Job]) -> None:
    database, job = bench
    bare = Teardown(steps=tuple(SheetStep(s, "plug", "Plug") for s in ("one", "two", "three")))
    keep_sheet(database, "plover", replace(bare, battery="none"), 1, AT)
    begin_opening(database, job.id, OPENING, AT)
    with pytest.raises(Refused, match="colours and places") as wrong:
        tick_off(database, job.id, "out", "one", " ", AT)
    assert wrong.value.field == "note"
    tick_off(database, job.id, "out", "one", "red left, black right", AT)
    assert seen(database, job).ticks[0].note == "red left, black right"
    keep_photo(database, job.id, photograph("shell corner", 1), "the shell", AT)
    keep_photo(database, job.id, photograph("plug", 1), "", AT, step="three")
    with pytest.raises(Refused, match="colours and places"):
        tick_off(database, job.id, "out", "two", "", AT)
    with pytest.raises(NotFound):
        keep_photo(database, job.id, photograph("plug", 2), "", AT, step="no such step")
    keep_photo(database, job.id, photograph("plug", 2), "", AT, step="two")
    tick_off(database, job.id, "out", "two", "", AT)
    undo(database, entry(database, job, "").id, 1, AT)
    untick(database, job.id, AT)
    with pytest.raises(Refused, match="colours and places"):
        tick_off(database, job.id, "out", "two", "", AT)
    other = taken_in(database, "GS-018")
    with pytest.raises(Refused, match="shut") as wrong:
        keep_photo(database, other.id, photograph("plug", 2), "", AT, step="one")
    assert wrong.value.field == "step"
    begin_opening(database, other.id, OPENING, LATER)
    with pytest.raises(Refused, match="colours and places"):
        tick_off(database, other.id, "out", "one", "", LATER)


def test_a_model_without_a_sheet_gets_one_from_the_job(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    begin_opening(database, job.id, OPENING, AT)
    assert seen(database, job).opens.steps == 0
    for i, words in enumerate(("Grips off", "Four screws")):
        learn_step(database, job.id, SheetStep(f"s{i}", "other", words), AT)
    with pytest.raises(Refused, match="an id of its own"):
        learn_step(database, job.id, SheetStep("s1", "other", "Again"), AT)
    assert seen(database, job).opens.out == 2
    assert seen(database, job).learnt
    learnt = keep_learnt(database, job.id, AT, "morning bench")
    assert (learnt.revision, [s.words for s in learnt.sheet.steps]) == (
        1,
        ["Grips off", "Four screws"],
    )
    assert not seen(database, job).learnt
    with pytest.raises(Refused, match="just so already"):
        keep_learnt(database, job.id, AT)
    learn_step(database, job.id, SheetStep("s9", "clip", "A clip in between"), AT)
    assert keep_learnt(database, job.id, AT).revision == 2
    learn_step(database, job.id, SheetStep("wrong", "clip", "Put down by mistake"), AT)
    untick(database, job.id, AT)
    assert seen(database, job).opens.steps == 3, "what was taken back is on no sheet"
    untick(database, job.id, AT)
    assert seen(database, job).opens.steps == 3, "what the model's sheet has stays"
    with database.reading() as db:
        assert [(v.revision, v.steps) for v in versions_of(db, "plover")] == [(2, 3), (1, 2)]
        assert len(view_sheet(db, "plover", 1).sheet.steps) == 2
        with pytest.raises(NotFound):
            view_sheet(db, "plover", 3)
        with pytest.raises(NotFound):
            versions_of(db, "no such model")


def test_what_was_photographed_goes_on_the_models_sheet_and_off_it_when_it_is_undone(
    bench: tuple[Database, Job],
) -> None:
    """Next time the plug is seen before it is pulled, and need not be photographed again."""
    database, job = bench
    sheet = Teardown(steps=(SheetStep("one", "plug", "Plug"),))
    keep_sheet(database, "plover", sheet, 1, AT)
    begin_opening(database, job.id, OPENING, AT)
    assert not seen(database, job).learnt
    photo = keep_photo(database, job.id, photograph("plug", 1), "", AT, step="one")
    assert seen(database, job).learnt
    assert [p.id for p in seen(database, job).photos] == [photo.id]
    learnt = keep_learnt(database, job.id, AT)
    assert [s.photo for s in learnt.sheet.steps] == [photo.sha256]
    other = taken_in(database, "GS-018")
    begin_opening(database, other.id, OPENING, AT)
    assert seen(database, other).photos == ()
    tick_off(database, other.id, "out", "one", "", AT)
    photo_entry = next(e for e in ledger_entries(database, job) if e.kind == "photo")
    undo(database, photo_entry.id, 1, AT)
    with database.reading() as db:
        assert [s.photo for s in view_sheet(db, "plover").sheet.steps] == [""]


def test_between_two_passes_it_is_measured_and_said_whether_another_is_worth_it(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench

    def passes() -> list[PassesView]:
        with database.reading() as db:
            return passes_of(db, job.id, "everyday", AT)

    assert passes() == []
    measure(database, job, "dirty", "closed")
    clean(database, job, details={"passes": 1.0, "solvent": "isopropyl"})
    (left,) = passes()
    assert left.advice.measure
    assert (left.stick, left.kind, left.details["passes"]) == ("left", "cleaned", 1.0)
    assert left.passes[0].after is None
    measure(database, job, "dirty")
    (left,) = passes()
    assert left.passes[0].overall in ("no-change", "little")
    assert "another hardly will" in left.advice.says
    clean(database, job)
    measure(database, job, "sound")
    (left,) = passes()
    one, two = left.passes
    assert one.after == two.before
    assert two.overall == "better"
    assert "A dead zone of" in two.sentence
    assert "no further pass is needed" in left.advice.says
    codes = tuple(c.code for c in cautions_for("recalibrated"))
    log_work(database, job.id, WorkPlan("left", "recalibrated", cautions=codes), AT)
    assert passes() == [], "something else was done since"
    clean(database, job)
    assert [p.before for p in passes()[0].passes] == [None], "not measured since the other work"


def test_a_pass_is_not_called_enough_by_a_take_that_did_not_look_where_it_was_over(
    bench: tuple[Database, Job],
) -> None:
    """A quick take never crosses the track: what was wrong there would be called mended."""
    database, job = bench
    measure(database, job, "failing", "closed")
    clean(database, job)
    measure(database, job, "sound", quick=True)
    with database.reading() as db:
        (left,) = passes_of(db, job.id, "everyday", AT)
    assert left.advice.measure
    assert not left.quick, "the quick routine would not do"
    measure(database, job, "sound")
    with database.reading() as db:
        (left,) = passes_of(db, job.id, "everyday", AT)
    assert "no further pass is needed" in left.advice.says


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize("fault", [{"spikes_pm": 20}, {"rough": (20, 50, 3.0)}])
def test_a_pass_is_not_called_enough_while_the_dirt_is_there(
    bench: tuple[Database, Job], fault: dict
) -> None:
    """Nothing lies over its limit: “no further pass is needed”, of a track that spikes as before."""
    database, job = bench
    import_take(database, job.id, "left", "1.csv", taken(901, 1, bits=12, **fault), AT)
    clean(database, job)
    import_take(database, job.id, "left", "2.csv", taken(901, 2, bits=12, **fault), AT)
    with database.reading() as db:
        (left,) = passes_of(db, job.id, "everyday", AT)
    assert "changed nothing" in left.advice.says
    assert left.quick is ("rough" not in fault), "the quick routine never crosses it"


def test_two_windows_do_not_overwrite_each_others_sheet(bench: tuple[Database, Job]) -> None:
    database, _ = bench
    keep_sheet(database, "plover", replace(PLOVER, first="Back first."), 1, AT)
    with pytest.raises(Changed, match="Somebody else"):
        keep_sheet(database, "plover", PLOVER, 1, AT)
    with database.reading() as db:
        assert view_sheet(db, "plover").sheet.first == "Back first."
        with pytest.raises(NotFound):
            view_sheet(db, "no such model")
    bad = Teardown(steps=(SheetStep("a", "clip", " "),))
    with pytest.raises(Refused) as wrong:
        keep_sheet(database, "plover", bad, 2, AT)
    assert wrong.value.field == "steps.0.words"


def test_a_shell_is_not_opened_where_the_owner_said_no(tmp_path: Path) -> None:
    database = new_database(tmp_path)
    job = taken_in(database, intake=Intake(consent="no"))
    assert "has not agreed" in seen(database, job).why_not
    with pytest.raises(Refused, match="has not agreed"):
        begin_opening(database, job.id, OPENING, AT)


def test_it_says_close_it_only_by_a_take_with_the_shell_open_after_the_work(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    measure(database, job, "dirty", "closed")
    open_up(database, job.id, AT, "")
    assert seen(database, job).check.close is None, "nothing was done yet"
    clean(database, job)
    assert "not measured since" in seen(database, job).check.says
    measure(database, job, "sound", "closed")
    assert "not measured since" in seen(database, job).check.says, "that was with it shut"
    measure(database, job, "dirty")
    check = seen(database, job).check
    assert check.close is False
    assert "Spikes with hands off" in check.says
    measure(database, job, "sound")
    check = seen(database, job).check
    assert check.close is True
    clean(database, job)
    assert seen(database, job).check.close is False, "more was done since"


def test_what_was_wrong_before_the_first_work_is_what_has_to_be_looked_at_again(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    measure(database, job, "failing", "closed")
    open_up(database, job.id, AT, "")
    for _ in range(2):
        clean(database, job)
        measure(database, job, "sound", quick=True)
        check = seen(database, job).check
        assert (check.close, check.quick) == (False, False)
        assert "was not measured again" in check.says
    measure(database, job, "sound")
    assert seen(database, job).check.close is True


def test_what_showed_between_two_passes_has_to_be_looked_at_again_too(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    measure(database, job, "offset", "closed")
    open_up(database, job.id, AT, "")
    clean(database, job)
    measure(database, job, "failing")
    clean(database, job)
    measure(database, job, "sound", quick=True)
    assert seen(database, job).check.close is False


def test_shutting_names_everything_that_stands_against_it_and_asks_why(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    open_up(database, job.id, AT, "")
    clean(database, job, wait_minutes=10)
    with pytest.raises(Refused) as wrong:
        shut(database, job.id, {"A": 1}, "", LATER)
    message = str(wrong.value)
    for words in ("drying, 5 min", "Do not close it yet", "Not back", "Left over", "Not looked at"):
        assert words in message, words
    for step in reversed(PLOVER.steps):
        tick_off(database, job.id, "back", step.id, "", LATER)
    for code, _ in FINAL:
        tick_off(database, job.id, "final", code, "", LATER)
    measure(database, job, "sound")
    with pytest.raises(Refused, match=r"^Still to be waited for: drying, 5 min\. Say why"):
        shut(database, job.id, {}, "", LATER)
    done = shut(database, job.id, {}, "", "2026-03-01T10:10:00.000+00:00")
    assert (done.checked, done.because) == (True, "")
    assert ledger(database, job)[0].startswith(
        "Shut. Close it. Left stick: Every reading taken is within its limit"
    )
    with pytest.raises(Refused, match="shell is shut"):
        untick(database, job.id, LATER)


def test_what_is_opened_again_is_counted_with_the_check_and_without_it(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    open_up(database, job.id, AT, "")
    clean(database, job)
    shut_again(database, job.id, "No cable at hand", AT, "")
    assert ledger(database, job)[0].startswith(
        "Shut all the same: No cable at hand. It was told before: Do not close it yet. Left stick: "
        "It was not measured since, with the shell open."
    )
    open_up(database, job.id, AT, "")
    assert "Opened again." in ledger(database, job)
    clean(database, job)
    measure(database, job, "sound")
    shut_again(database, job.id, "", AT, "")
    other = taken_in(database, "GS-018")
    open_up(database, other.id, AT, "")
    shut_again(database, other.id, "", AT, "")
    with database.reading() as db:
        share = reopened_share(db)
    assert (share.with_check.shut, share.with_check.again) == (1, 0)
    assert (share.without.shut, share.without.again) == (2, 1)
    assert seen(database, job).before == 2


def test_shutting_and_opening_are_taken_back_in_their_order(bench: tuple[Database, Job]) -> None:
    database, job = bench
    open_up(database, job.id, AT, "")
    shut_again(database, job.id, "", AT, "")
    opened = entry(database, job, "Opened.")
    with pytest.raises(Refused, match="Undo that first"):
        undo(database, opened.id, opened.revision, AT)
    shutting = entry(database, job, "Shut.")
    undo(database, shutting.id, shutting.revision, AT)
    assert seen(database, job).opening is not None
    undo(database, opened.id, opened.revision, AT)
    view = seen(database, job)
    assert (view.opening, view.before, view.ticks) == (None, 0, ())
    with database.reading() as db:
        entries = view_job(db, job.id).ledger
        assert all(e.undone_at for e in entries if e.opening_id is not None)
    struck = entry(database, job, "Opened.")
    with pytest.raises(Refused, match="Open it anew"):
        undo(database, struck.id, struck.revision, AT, back=True)
    open_up(database, job.id, AT, "")


def test_a_second_person_plays_it_and_not_the_one_who_worked_on_it(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    codes = tuple(c.code for c in cautions_for("cleaned"))
    log_work(database, job.id, WorkPlan("left", "cleaned", cautions=codes), AT, "morning bench")
    for words, role, told in (
        (" ", "evening bench", "how it plays"),
        ("Fine.", "", "which bench role"),
        ("Fine.", "morning bench", "a second person"),
    ):
        with pytest.raises(Refused, match=told):
            play_test(database, job.id, words, AT, role)
    play_test(database, job.id, "Ten minutes in the tank, straight ahead.", AT, "evening bench")
    assert [p.role for p in seen(database, job).played] == ["evening bench"]


def test_timers_of_several_jobs_outlive_a_restart_and_sound_once(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    other = taken_in(database, "GS-018")
    first = start_timer(database, job.id, "dry", "", 10, AT)
    start_timer(database, other.id, "cure", "glue", 2, AT)
    with pytest.raises(Refused, match="runs still"):
        hear_timer(database, first.id, LATER)
    database.close()
    database = new_database(tmp_path)
    with database.reading() as db:
        assert [(t.tag, t.timer.label) for t in running_timers(db)] == [
            ("GS-018", "glue"),
            ("GS-017", "Drying"),
        ]
    over = first.ends_at
    assert hear_timer(database, first.id, over) is True
    assert hear_timer(database, first.id, over) is False, "another window stays silent"
    with database.reading() as db:
        assert [t.tag for t in running_timers(db)] == ["GS-018"]


def test_a_timer_ends_early_for_a_reason_that_stays(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    timer = start_timer(database, job.id, "dry", "", 10, AT)
    with pytest.raises(Refused, match="5 min are left"):
        end_timer(database, timer.id, " ", LATER)
    end_timer(database, timer.id, "Dry to the touch.", LATER)
    assert ledger(database, job)[0] == "Drying: ended early. Dry to the touch."
    with pytest.raises(Refused, match="over already"):
        end_timer(database, timer.id, "again", LATER)
    with pytest.raises(Refused, match="seven days"):
        start_timer(database, job.id, "dry", "", 7 * 24 * 60 + 1, AT)
    second = start_timer(database, job.id, "dry", "", 10, AT)
    text = entry(database, job, "Drying: 10 min.")
    undo(database, text.id, text.revision, AT)
    with database.reading() as db:
        stopped = {t.id: t.stopped_at for t in view_job(db, job.id).timers}
    assert stopped[second.id] == AT


def test_the_clock_of_the_work_pauses_and_goes_on(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    move_clock(database, job.id, "run", AT)
    move_clock(database, job.id, "run", LATER)
    assert move_clock(database, job.id, "pause", LATER).seconds == 300
    assert move_clock(database, job.id, "pause", "2026-03-01T11:00:00.000+00:00").seconds == 300
    move_clock(database, job.id, "run", "2026-03-01T11:00:00.000+00:00")
    assert move_clock(database, job.id, "pause", "2026-03-01T11:01:00.000+00:00").seconds == 360
    clean(database, job, details={"minutes": 6})
    with database.reading() as db:
        assert view_job(db, job.id).clock.seconds == 0, "what was put down is not counted twice"
    assert move_clock(database, job.id, "reset", AT).seconds == 0


def test_what_is_put_down_of_work_is_kept_and_what_cannot_be_is_refused(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    clean(database, job, details={"solvent": "isopropyl", "passes": 2})
    with database.reading() as db:
        (work,) = view_job(db, job.id).work
    assert work.details == {"solvent": "isopropyl", "passes": 2}
    assert work.details_words == "Isopropyl, high purity, 2 passes."
    assert "Isopropyl, high purity, 2 passes." in ledger(database, job)[0]
    with pytest.raises(Refused) as wrong:
        clean(database, job, details={"passes": 99})
    assert wrong.value.field == "details.passes"
    with pytest.raises(Refused, match="Nothing of it dries"):
        log_work(database, job.id, WorkPlan("left", "recalibrated", wait_minutes=5), AT)


def test_a_shops_usual_is_kept_by_name_without_what_belongs_to_the_day(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    every = keep_template(database, "cleaned", " Our way ", {"passes": 3, "minutes": 12})
    assert every == {"cleaned": {"Our way": {"passes": 3.0}}}
    for kind, name, details, told in (
        ("cleaned", " ", {"passes": 3}, "needs a name"),
        ("cleaned", "Empty", {}, "nothing to keep"),
        ("cleaned", "Wrong", {"passes": 99}, "1 to 50"),
    ):
        with pytest.raises(Refused, match=told):
            keep_template(database, kind, name, details)
    with pytest.raises(NotFound):
        keep_template(database, "refer", "x", {})
    assert keep_template(database, "cleaned", "Our way", {}) == {}
    for i in range(40):
        keep_template(database, "cleaned", f"n{i}", {"passes": 3})
    with pytest.raises(Refused, match="up to 40"):
        keep_template(database, "eased", "one more", {"gap_mm": 0.2})
    with database.reading() as db:
        assert len(templates_of(db)["cleaned"]) == 40


def test_the_sheets_of_the_demo_are_worked_by(tmp_path: Path) -> None:
    database = new_database(tmp_path)
    job = taken_in(database, "GS-008", "dunlin", "stick")
    keep_sheet(database, "dunlin", DUNLIN, 0, AT)
    open_up(database, job.id, AT, "")
    shut_again(database, job.id, "", AT, "")
    assert seen(database, job).before == 1


def test_a_stopgap_is_to_be_looked_at_again_until_it_was(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    codes = tuple(c.code for c in cautions_for("eased"))
    plan = WorkPlan("left", "eased", cautions=codes, details={"recheck_on": "2026-04-01"})
    work = log_work(database, job.id, plan, AT)
    measure(database, job, "worn")

    def due(now: str) -> list[tuple[str, str, bool]]:
        with database.reading() as db:
            return [(d.recheck.tag, d.words, d.due) for d in due_rechecks(db, now)]

    eased = "Sensor housing eased, left stick"
    assert due("2026-03-31T23:59:59.000+00:00") == [("GS-017", eased, False)]
    assert due("2026-04-01T00:00:00.000+00:00") == [("GS-017", eased, True)]
    close(database, job.id, "as-it-was", "", AT)
    again = taken_in(database)
    assert due(AT) != [], "it is back, and was not measured yet"
    measure(database, again, "worn")
    assert due(AT) == []
    with database.writing() as db:
        db.execute("UPDATE take SET undone_at = ? WHERE job_id = ?", (AT, again.id))
        db.execute("UPDATE work SET undone_at = ? WHERE id = ?", (AT, work.id))
    assert due(AT) == [], "what was not done is not looked at again"
