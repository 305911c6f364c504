"""Decisions on record, what became of them, work on either stick, and what is derived with a
version."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy.signal import medfilt

from benches import AT, new_bench, taken_in
from core.test_foreign import FOREIGN, taken
from hollow_pin.bench.deciding import (
    DecideView,
    decide,
    keep_money,
    money_of,
    view_decide,
)
from hollow_pin.bench.derived import stale
from hollow_pin.bench.function_checks import Source, begin, end, feed, touch
from hollow_pin.bench.history import history_of
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.intake import change_intake, details_of
from hollow_pin.bench.jobs import JobView, close, log_work, tray, view_job
from hollow_pin.bench.ledger import undo
from hollow_pin.bench.models import change_model
from hollow_pin.bench.pins import pin_of
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.studies import open_study, settle_study, view_study
from hollow_pin.bench.takes import compare_takes, get_job, view_take
from hollow_pin.bench.track_record import fitted_to, records_of, track_record
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.intake import REFER, Intake
from hollow_pin.core.limits import LIMIT_OF, Grade, limits_with
from hollow_pin.core.prospect import DEAD_ZONE, FRESH, Prospect, pooled
from hollow_pin.core.record import Job, Work, WorkPlan
from hollow_pin.core.recording import STEPS, Recording
from hollow_pin.core.routine import BY_ID, StepName
from hollow_pin.core.worth import Money
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.store.controllers import find_model
from hollow_pin.store.database import Database
from hollow_pin.store.studies import StudyPlan, StudyStick, work_since
from hollow_pin.store.takes import (
    StoredReadings,
    keep_readings,
    kept_readings,
    takes_after,
    takes_to_measure,
)
from sticks import held_slackly, idle, performed, picked, read_of, transformed

LATER = "2026-03-01T12:00:00.000+00:00"


@pytest.fixture
def bench(tmp_path: Path) -> tuple[Database, Job]:
    return new_bench(tmp_path)


def measured(database: Database, job: Job, condition: str, stick: str = "left") -> int:
    recording = performed(condition).recording
    name = f"{condition}-{stick}.csv"
    return import_take(database, job.id, stick, name, recording, AT).id


def deciding(database: Database, job: Job) -> DecideView:
    with database.reading() as db:
        return view_decide(db, job.id)


def viewed(database: Database, job: Job) -> JobView:
    with database.reading() as db:
        return view_job(db, job.id)


def worked(database: Database, job: Job, kind: str, stick: str = "left", **more: str) -> Work:
    codes = tuple(c.code for c in cautions_for(kind))
    return log_work(database, job.id, WorkPlan(stick, kind, cautions=codes, **more), LATER)


def test_a_decision_stands_as_it_was_made_and_is_held_against_what_became_of_it(bench) -> None:
    database, job = bench
    take = measured(database, job, "offset")
    view = deciding(database, job)
    assert view.advised == "recalibrated"
    assert view.options[0].remedy.code == "recalibrated", "what is advised is offered first"
    made = decide(database, job.id, take, "recalibrated", "", LATER, "morning bench")
    assert made.stood["causes"][0]["cause"] == "offset"
    (entry,) = [e for e in viewed(database, job).ledger if e.kind == "decision"]
    assert "recalibrate" in entry.text
    worked(database, job, "recalibrated")
    assert deciding(database, job).decisions[0].held is None, "not measured since"
    measured(database, job, "sound")
    with database.reading() as db:
        record = track_record(db)
    assert (record.followed.tried, record.followed.held) == (1, 1)
    assert record.bins[0].held == record.bins[0].count == 1
    undo(database, entry.id, entry.revision, LATER)
    with database.reading() as db:
        assert track_record(db).outcomes == ()
        assert view_job(db, job.id).takes[0].id == take, "the take stays"


def test_what_a_source_hides_is_no_dead_zone_of_now_and_nothing_to_mend_yet(
    bench: tuple[Database, Job],
) -> None:
    """The donor shelf was the cheapest way, for a stick that nobody had seen at rest."""
    database, job = bench
    measured(database, job, "worn-steady")
    seen = deciding(database, job)
    assert seen.now == pytest.approx(seen.pin.dead_zone)
    assert seen.worth is not None
    import_take(
        database, job.id, "left", "i.csv", idle(performed("worn-steady").recording, 0.5), AT
    )
    hidden = deciding(database, job)
    assert hidden.headline == "Dead zone in the source."
    assert (hidden.now, hidden.worth) == (None, None)
    loose = idle(performed("loose").recording, 0.5)
    import_take(database, job.id, "left", "j.csv", loose, AT)
    joint = deciding(database, job)
    assert joint.headline.startswith("Loose")
    assert (joint.advised, joint.worth) == ("rawer-source", None), "and what hides is not forgotten"


def test_what_mends_nothing_was_told_no_chance_to(bench: tuple[Database, Job]) -> None:
    """“Retire it to the donor shelf, told 0 % to mend it”."""
    database, job = bench
    take = measured(database, job, "offset")
    decide(database, job.id, take, "retired", "It is beyond it.", AT, "morning bench")
    decide(database, job.id, take, "recalibrated", "", LATER, "morning bench")
    with database.reading() as db:
        recalibrated, retired = track_record(db).outcomes
    assert (recalibrated.chance is not None, retired.chance) == (True, None)


def test_decisions_are_listed_by_when_they_were_made(bench: tuple[Database, Job]) -> None:
    """What was written down afterwards stands where it belongs."""
    database, job = bench
    take = measured(database, job, "offset")
    for at in (LATER, AT):
        decide(database, job.id, take, "recalibrated", "", at, "morning bench")
    with database.reading() as db:
        assert [o.decision.decided_at for o in track_record(db).outcomes] == [LATER, AT]


def test_what_the_shop_has_seen_changes_what_is_told(bench) -> None:
    """Cleanings that did not hold here are told with a smaller chance next time."""
    database, job = bench
    take = measured(database, job, "dirty")

    def told() -> tuple[float, str]:
        option = next(o for o in deciding(database, job).options if o.remedy.code == "cleaned")
        return option.prospect.chance, option.prospect.basis

    before, basis = told()
    assert basis == "table"
    for _ in range(3):
        view = deciding(database, job)
        reason = "" if view.advised == "cleaned" else "always clean first"
        decide(database, job.id, view.take.id, "cleaned", reason, LATER)
        measured(database, job, "dirty")
    after, basis = told()
    assert after < before - 0.1
    assert basis == "record"
    assert take


def offered(database: Database, job: Job, remedy: str) -> Prospect:
    return next(o.prospect for o in deciding(database, job).options if o.remedy.code == remedy)


def test_what_was_done_in_vain_is_not_advised_again(bench: tuple[Database, Job]) -> None:
    """A track that was cleaned, and was as rough after it, was to be cleaned again, and again."""
    database, job = bench
    received = measured(database, job, "dirty")
    assert deciding(database, job).advised == "cleaned"
    before = offered(database, job, "cleaned")
    worked(database, job, "cleaned", axis="x")
    assert offered(database, job, "cleaned").chance == before.chance, "it was not measured since"
    after = measured(database, job, "dirty")
    view = deciding(database, job)
    assert view.advised not in ("cleaned", None)
    again = offered(database, job, "cleaned")
    assert again.chance < before.chance / 2
    assert view.context[0].startswith("Sensor housing cleaned in this job already")
    assert again.words.endswith("in this job already, and nothing read better after it.")
    with database.reading() as db:
        as_received = view_decide(db, job.id, take_id=received)
        assert as_received.advised == "cleaned", "by then nothing had been done"
        meaning = view_take(db, after, "everyday", LATER).meaning
        assert "in this job already" in meaning.advice
        assert meaning.advice.endswith("See Decide for what is next.")
        entry = next(e for e in view_job(db, job.id).ledger if "cleaned" in e.text)
    undo(database, entry.id, entry.revision, LATER)
    assert deciding(database, job).advised == "cleaned", "what was undone was not done"


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize(
    ("fault", "first"),
    [
        ({"rough": (5.0, 25.0, 6.0)}, "cleaned"),
        ({"bind": 8.0, "bind_bearing": 90.0}, "lubricated"),
        ({"crosstalk": 0.2}, "reseated"),
    ],
)
def test_somebody_elses_stick_that_is_worked_on_in_vain_is_not_worked_on_so_again(
    bench: tuple[Database, Job], fault: dict, first: str
) -> None:
    database, job = bench
    for hand in (1, 2):
        recording = taken(301, hand, bits=12, **fault)
        import_take(database, job.id, "left", f"{hand}.csv", recording, AT)
        if hand == 1:
            assert deciding(database, job).advised == first
            worked(database, job, first)
    view = deciding(database, job)
    assert view.advised not in (first, "left", "retired", None)
    assert "in this job already" in offered(database, job, first).words


def coming(database: Database, job: Job) -> tuple[str, str]:
    """What is next, and where: by the job's page, the tray and the controller's history alike."""
    with database.reading() as db:
        view = view_job(db, job.id)
        (strip,) = tray(db)
        (visit,) = history_of(db, view.job.controller.id).visits
    assert (strip.next, strip.place, visit.next) == (view.next.label, view.next.place, strip.next)
    return strip.next, strip.place


def compared(database: Database, before: int, after: int) -> tuple[str, str]:
    """What is next, and where, by the page that sets two takes against each other."""
    with database.reading() as db:
        coming = compare_takes(db, before, after, "everyday", LATER).next
    return coming.label, coming.place


def test_what_is_next_follows_what_was_decided_and_what_it_still_shows(
    bench: tuple[Database, Job],
) -> None:
    """“Next: hand over”, of a stick that was cleaned and spikes as before."""
    database, job = bench
    assert coming(database, job) == ("Prove", "prove")
    take = measured(database, job, "dirty")
    assert coming(database, job) == ("Decide", "decide")
    decide(database, job.id, take, "cleaned", "", AT)
    assert coming(database, job) == ("Work", "work")
    worked(database, job, "cleaned")
    assert coming(database, job) == ("Verify", "verify")
    take = measured(database, job, "dirty")
    assert coming(database, job) == ("Decide again", "decide")
    decide(database, job.id, take, deciding(database, job).advised or "", "", LATER)
    assert coming(database, job) == ("Work", "work")
    decide(database, job.id, take, "retired", "It is beyond it.", LATER)
    assert coming(database, job) == ("Hand over", "hand-over"), "the newest decision counts"
    take = measured(database, job, "dirty")
    assert coming(database, job) == ("Decide again", "decide"), "it was decided of another take"
    measured(database, job, "sound")
    assert coming(database, job) == ("Hand over", "hand-over")
    close(database, job.id, "as-it-was", "", LATER)
    assert coming(database, job) == ("Closed", "hand-over")


def quickly(database: Database, job: Job, condition: str) -> int:
    """What the quick routine has of a take."""
    recording = performed(condition).recording
    quick = np.isin(recording.step, [STEPS.index(step) for step in ("still", "let-go", "rim")])
    part = picked(recording, quick)
    return import_take(database, job.id, "left", f"quick-{condition}.csv", part, AT).id


def test_a_quick_take_of_a_track_that_failed_far_out_is_no_reason_to_hand_it_over(
    bench: tuple[Database, Job],
) -> None:
    """It does not go there: “Next: hand over”, and one more success for what was done."""
    database, job = bench
    received = measured(database, job, "failing")
    advised = deciding(database, job).advised or ""
    decide(database, job.id, received, advised, "", AT)
    worked(database, job, advised)
    quick = quickly(database, job, "sound")
    assert coming(database, job) == ("Measure again", "prove")
    assert compared(database, received, quick) == ("Measure again", "prove")
    with database.reading() as db:
        sentence = compare_takes(db, received, quick, "everyday", LATER).sentence
        of_the_other = compare_takes(db, received, quick, "everyday", LATER, reference=True)
    showed = "What was wrong showed in Crossing x and Hold, and that was not measured again."
    assert sentence.endswith(showed)
    assert showed not in of_the_other.sentence, "which is another stick"
    fine = performed("failing", bits=12).recording
    right = import_take(database, job.id, "right", "failing-right.csv", fine, AT).id
    with database.reading() as db:
        refused = compare_takes(db, right, quick, "everyday", LATER)
    assert refused.comparison.overall == "refused"
    assert showed not in refused.sentence
    other_stick, other_range = refused.comparison.refusals
    assert other_stick in refused.sentence
    assert refused.remarks == (other_range, *refused.comparison.cautions), "each is said once"
    (decision,) = deciding(database, job).decisions
    assert (decision.held, decision.became) == (None, "measured since, and cannot be told by that")
    measured(database, job, "sound")
    assert coming(database, job) == ("Hand over", "hand-over")
    (decision,) = deciding(database, job).decisions
    assert (decision.held, decision.became) == (True, "right since")
    quick = quickly(database, job, "sound")
    assert coming(database, job) == ("Hand over", "hand-over"), "it was looked at meanwhile"
    assert compared(database, received, quick) == ("Hand over", "hand-over"), "by this page too"


def said_of(database: Database, before: int, after: int) -> str:
    with database.reading() as db:
        return compare_takes(db, before, after, "everyday", LATER).sentence


def test_a_quick_last_look_takes_nothing_back_of_what_was_seen_to_be_mended(
    bench: tuple[Database, Job],
) -> None:
    """With the shell shut again a quick take is made: what was told at the hand-over was “What decides
    was not measured both times”, though it had been, after the work."""
    database, job = bench
    received = measured(database, job, "failing")
    worked(database, job, "sensor-parts")
    failing = measured(database, job, "failing")
    quick = quickly(database, job, "sound")
    assert "not measured again" in said_of(database, received, quick)
    mended = measured(database, job, "sound")
    quick = quickly(database, job, "sound")
    said = said_of(database, received, quick)
    assert said.startswith(f"Better, by take {mended}, after new sensor parts. ")
    assert said.split("Since then: ")[0].count("from") == 1, "by how much, the most telling"
    assert said.split("Since then: ")[1].startswith("no change that this bench can see")
    assert "not measured" not in said
    assert said_of(database, failing, quick).startswith(f"Better, by take {mended}")
    whole = measured(database, job, "sound")
    assert said_of(database, received, whole).startswith("Better. ")
    again = said_of(database, received, quickly(database, job, "sound"))
    assert again.startswith(f"Better, by take {whole}, "), "the newest that went there"
    with database.reading() as db:
        of_the_other = compare_takes(db, received, quick, "everyday", LATER, reference=True)
    assert "Since then" not in of_the_other.sentence


FAR_OUT: tuple[StepName, ...] = ("crossing-x", "crossing-y", "hold")


def of_a_foreign(
    database: Database, job: Job, hand: int, *missing: StepName, **fault: object
) -> int:
    """A take of a foreign stick with such a fault, without the steps that are missing."""
    recording = taken(516, hand, **fault)
    keep = ~np.isin(recording.step, [STEPS.index(step) for step in missing])
    part = picked(recording, keep)
    return import_take(database, job.id, "left", f"{hand}.csv", part, AT).id


def test_a_take_between_that_is_worse_in_part_is_no_way_round(bench: tuple[Database, Job]) -> None:
    database, job = bench
    received = measured(database, job, "failing")
    measured(database, job, "offset")
    assert "by take" not in said_of(database, received, quickly(database, job, "sound"))


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
def test_a_take_between_that_mended_something_else_is_no_way_round(
    bench: tuple[Database, Job],
) -> None:
    """It fell back as before, and was only no longer off centre."""
    database, job = bench
    received = of_a_foreign(database, job, 1, sag=10.0, offset=(-9.0, 3.0))
    recentred = of_a_foreign(database, job, 2, sag=10.0)
    assert said_of(database, received, recentred).startswith("Better. ")
    short = of_a_foreign(database, job, 3, *FAR_OUT)
    assert "by take" not in said_of(database, received, short)
    of_a_foreign(database, job, 4)
    assert "by take" in said_of(database, received, of_a_foreign(database, job, 5, *FAR_OUT))


def test_what_fails_again_after_it_was_mended_is_said_beside_it(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    received = measured(database, job, "failing")
    worked(database, job, "sensor-parts")
    mended = measured(database, job, "sound")
    said = said_of(database, received, quickly(database, job, "offset"))
    assert said.startswith(f"Better, by take {mended}, ")
    assert "Since then: worse." in said


def test_the_other_stick_that_was_seen_to_be_at_fault_is_told_when_it_is_handed_over(
    bench: tuple[Database, Job],
) -> None:
    """It was measured for a reference, and nobody was told that it is worn."""
    database, job = bench
    measured(database, job, "sound")
    assert viewed(database, job).others == ()
    worn = measured(database, job, "worn", "right")
    (other,) = viewed(database, job).others
    assert other.take_id == worn
    assert other.words.startswith(
        "The right stick was measured too. It comes back to different places"
    )
    assert coming(database, job) == ("Decide", "decide"), "the job is of the left one"
    measured(database, job, "sound", "right")
    assert viewed(database, job).others == (), "the newest counts"
    measured(database, job, "dead-zone", "right")
    assert viewed(database, job).others == (), "which tells nothing"


def test_how_a_job_ends_is_suggested_by_all_that_was_seen_of_it(
    bench: tuple[Database, Job],
) -> None:
    """“Signed off as fit” was chosen by itself beside a button that bounces, or another stick that is
    worn."""
    database, job = bench
    assert viewed(database, job).suggested is None, "nothing was measured"
    measured(database, job, "worn")
    assert viewed(database, job).suggested is None
    measured(database, job, "sound")
    assert viewed(database, job).suggested == "signed-off"
    pad = Source("gamepad", "pad", 17, (4, 5))
    way = [1 - abs(n / 20 - 1) for n in range(41)]
    pulls = [
        [20_000 + 2000 * a + 12 * n, "axis", a, 2 * w - 1]
        for a in (4, 5)
        for n, w in enumerate(way)
    ]
    for kind, first, suggested in (("take-in", 1, None), ("final", 0, "signed-off")):
        check = begin(database, job.id, kind, pad, AT)  # type: ignore[arg-type]
        presses = [
            [700 * b + at, "button", b, 1 - at / 90] for b in range(first, 17) for at in (0, 90)
        ]
        feed(database, check.id, [[0, "axis", 4, -1.0], [0, "axis", 5, -1.0], *presses, *pulls])
        end(database, check.id, None, LATER)
        assert viewed(database, job).suggested == suggested, "B1 did not answer at first"
    measured(database, job, "worn", "right")
    assert viewed(database, job).suggested is None
    measured(database, job, "sound", "right")
    assert viewed(database, job).suggested == "signed-off"
    worked(database, job, "recalibrated", "right")
    assert viewed(database, job).suggested == "signed-off", "that was the other one"
    worked(database, job, "recalibrated")
    assert viewed(database, job).suggested is None, "it was not measured since"
    with database.reading() as db:
        entry = next(e for e in view_job(db, job.id).ledger if "Recalibrated, left" in e.text)
    undo(database, entry.id, entry.revision, LATER)
    assert viewed(database, job).suggested == "signed-off", "what was undone was not done"
    worked(database, job, "recalibrated")
    measured(database, job, "sound")
    assert viewed(database, job).suggested == "signed-off"
    with database.writing() as db:
        db.execute("UPDATE controller SET refer = 1 WHERE id = ?", (job.controller.id,))
    assert viewed(database, job).suggested == "referred"


@pytest.mark.parametrize(
    ("condition", "chosen", "ends"),
    [
        ("worn", "left", "as-it-was"),
        ("worn", "retired", "as-it-was"),
        ("worn", "refer", "referred"),
        ("worn", "recalibrated", None),
        ("sound", "left", "signed-off"),
        ("sound", "retired", "as-it-was"),
    ],
)
def test_a_job_ends_as_was_decided_until_something_is_measured_or_done(
    bench: tuple[Database, Job], condition: str, chosen: str, ends: str | None
) -> None:
    """Whoever had decided to refer it was asked anew how it ended."""
    database, job = bench
    take = measured(database, job, condition)
    decide(database, job.id, take, chosen, "As agreed.", LATER)
    assert viewed(database, job).suggested == ends
    measured(database, job, "worn", "right")
    assert viewed(database, job).suggested == (None if chosen == "left" else ends), "of the other"
    measured(database, job, "sound", "right")
    assert viewed(database, job).suggested == ends
    measured(database, job, condition)
    assert viewed(database, job).suggested == ("signed-off" if condition == "sound" else None)
    worked(database, job, "recalibrated")
    assert viewed(database, job).suggested is None
    measured(database, job, "worn")
    assert viewed(database, job).suggested is None


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
def test_nothing_is_signed_off_by_itself_that_is_to_be_looked_at_first(
    bench: tuple[Database, Job],
) -> None:
    """A short take of a stick that falls back while it is held finds nothing over a limit; Decide, a
    press away, would have it held over first."""
    database, job = bench
    short = of_a_foreign(database, job, 1, *FAR_OUT, drops=1.0)
    with database.reading() as db:
        meaning = view_take(db, short, "everyday", LATER).meaning
    assert meaning is not None
    assert meaning.asks == "nothing"
    decided = deciding(database, job)
    assert (decided.advised, bool(decided.looks)) == (None, True)
    assert viewed(database, job).suggested is None
    of_a_foreign(database, job, 2)
    assert viewed(database, job).suggested == "signed-off"
    of_a_foreign(database, job, 3, *FAR_OUT, drops=1.0)
    assert viewed(database, job).suggested == "signed-off", "it was looked at"
    worked(database, job, "recalibrated")
    of_a_foreign(database, job, 4, *FAR_OUT, drops=1.0)
    assert viewed(database, job).suggested is None, "but not since that"


def test_what_decide_would_leave_is_signed_off_though_more_could_be_measured(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    quickly(database, job, "sound")
    decided = deciding(database, job)
    assert (decided.advised, bool(decided.looks)) == ("left", True)
    assert viewed(database, job).suggested == "signed-off"


def test_a_stick_that_is_referred_is_handed_over_as_it_was_seen(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    received = measured(database, job, "failing")
    worked(database, job, "cleaned")
    quick = quickly(database, job, "sound")
    with database.writing() as db:
        db.execute("UPDATE controller SET refer = 1 WHERE id = ?", (job.controller.id,))
    assert (
        coming(database, job) == compared(database, received, quick) == ("Hand over", "hand-over")
    )
    measured(database, job, "worn", "right")
    assert viewed(database, job).others == ()


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
def test_a_cleaning_that_left_the_spikes_did_not_hold(bench: tuple[Database, Job]) -> None:
    """Nothing lies over its limit, and the shop's own record counted it for the swab."""
    database, job = bench
    for hand in (1, 2):
        recording = taken(901, hand, bits=12, spikes_pm=60)
        take = import_take(database, job.id, "left", f"{hand}.csv", recording, AT).id
        if hand == 1:
            decide(database, job.id, take, "cleaned", "", AT)
            worked(database, job, "cleaned")
    (decision,) = deciding(database, job).decisions
    assert (decision.held, decision.became) == (False, "still not right")
    measured(database, job, "dead-zone")
    (decision,) = deciding(database, job).decisions
    assert decision.held is None, "what a source hides tells nothing"


def test_a_rawer_source_that_was_decided_on_leads_back_to_measuring(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    hidden = idle(performed("worn-steady").recording, 0.5)
    take = import_take(database, job.id, "left", "i.csv", hidden, AT).id
    decide(database, job.id, take, "rawer-source", "", AT)
    assert coming(database, job) == ("Prove", "prove")


def test_what_cannot_tell_is_measured_again(bench: tuple[Database, Job]) -> None:
    """A rest alone says nothing of the rest, and a source that hides it nothing at all."""
    database, job = bench
    received = measured(database, job, "dirty")
    worked(database, job, "cleaned")
    sound = performed("sound").recording
    still = sound.attempts("still")[-1]
    alone = replace(sound, t_us=sound.t_us[still], raw=sound.raw[still], step=sound.step[still])
    hidden = idle(performed("worn-steady").recording, 0.5)
    for name, recording in (("a.csv", alone), ("b.csv", hidden)):
        take = import_take(database, job.id, "left", name, recording, AT).id
        assert coming(database, job) == ("Measure again", "prove"), name
    assert compared(database, received, take) == coming(database, job)
    take = measured(database, job, "sound")
    assert compared(database, received, take) == coming(database, job) == ("Hand over", "hand-over")


@pytest.mark.parametrize("fault", ["loose", "dead axis"])
def test_what_is_to_be_seen_to_by_hand_is_decided_on_again(
    bench: tuple[Database, Job], fault: str
) -> None:
    """A joint that was mended in vain was to be measured again, and again."""
    database, job = bench
    recording = performed("loose" if fault == "loose" else "sound").recording
    u = recording.u.copy()
    if fault == "dead axis":
        u[:, 1] = 0.0
    broken = transformed(recording, u)
    import_take(database, job.id, "left", "a.csv", broken, AT)
    worked(database, job, "mended")
    import_take(database, job.id, "left", "b.csv", picked(broken, broken.t > 0.1), AT)
    assert coming(database, job) == ("Decide again", "decide")


def test_the_good_stick_s_takes_are_not_what_is_next(bench: tuple[Database, Job]) -> None:
    database, job = bench
    measured(database, job, "dirty")
    worked(database, job, "cleaned")
    measured(database, job, "sound")
    measured(database, job, "dirty", stick="right")
    assert coming(database, job) == ("Hand over", "hand-over")


def test_a_controller_that_is_referred_is_handed_over_as_it_is(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    pair = [measured(database, job, "dirty")]
    worked(database, job, "cleaned")
    pair.append(measured(database, job, "dirty"))
    assert compared(database, *pair) == coming(database, job) == ("Decide again", "decide")
    with database.reading() as db:
        was = get_job(db, job.id)
    had = details_of(was)
    change_intake(database, job.id, replace(had, moves="yes"), had, was.revision, LATER, "")
    assert compared(database, *pair) == coming(database, job) == ("Hand over", "hand-over")


def test_what_helped_in_part_is_gone_on_with(bench: tuple[Database, Job]) -> None:
    """Half the dirt is gone: that is no reason for another part."""
    database, job = bench
    dirty = performed("dirty").recording
    smooth = medfilt(dirty.raw, (25, 1))
    rougher = np.clip(np.round(smooth + 3 * (dirty.raw - smooth)), 0, 1023)
    import_take(database, job.id, "left", "a.csv", replace(dirty, raw=rougher), AT)
    worked(database, job, "cleaned", axis="x")
    after = measured(database, job, "dirty")
    assert "already" not in offered(database, job, "cleaned").words
    assert deciding(database, job).advised == "cleaned"
    with database.reading() as db:
        assert view_take(db, after, "everyday", LATER).meaning.try_first == "cleaned"


def test_each_time_is_held_against_what_was_measured_next(bench: tuple[Database, Job]) -> None:
    """The first pass did nothing, whatever the second did after it."""
    database, job = bench
    dirty = performed("dirty").recording
    smooth = medfilt(dirty.raw, (25, 1))
    rougher = np.clip(np.round(smooth + 3 * (dirty.raw - smooth)), 0, 1023)
    for name in ("a.csv", "b.csv"):
        import_take(database, job.id, "left", name, replace(dirty, raw=rougher), AT)
        worked(database, job, "cleaned", axis="x")
    last = measured(database, job, "dirty")
    assert "in this job already, and" in offered(database, job, "cleaned").words
    worked(database, job, "replaced", module="potentiometer")
    with database.reading() as db:
        view = view_decide(db, job.id, take_id=last)
    (cleaned,) = (o for o in view.options if o.remedy.code == "cleaned")
    assert "in this job already, and" in cleaned.prospect.words, "as it was when that was measured"


def test_the_other_stick_and_the_sound_one_are_nobody_s_vain_attempt(
    bench: tuple[Database, Job],
) -> None:
    database, job = bench
    measured(database, job, "dirty")
    worked(database, job, "cleaned", "right", axis="x")
    measured(database, job, "dirty")
    assert "already" not in offered(database, job, "cleaned").words


def test_what_came_back_since_it_was_cleaned_at_another_visit_says_so(
    bench: tuple[Database, Job],
) -> None:
    """“Clean; replace if it comes back.”"""
    database, job = bench
    measured(database, job, "dirty")
    fresh = offered(database, job, "cleaned")
    worked(database, job, "cleaned", axis="x")
    measured(database, job, "sound")
    close(database, job.id, "signed-off", "", AT)
    back = taken_in(database, job.controller.tag, None)
    measured(database, back, "dirty")
    again = offered(database, back, "cleaned")
    assert again.chance < fresh.chance / 2
    assert again.words.endswith("That was done at an earlier visit, and it is back.")
    assert deciding(database, back).advised != "cleaned"


@pytest.mark.parametrize(("state", "out"), [("factory", True), ("recalibrated", False)])
def test_the_factory_calibration_is_not_restored_where_it_holds(
    bench: tuple[Database, Job], state: str, out: bool
) -> None:
    database, job = bench
    take = measured(database, job, "offset")
    with database.writing() as db:
        db.execute("UPDATE take SET calibration = ? WHERE id = ?", (state, take))
    view = deciding(database, job)
    assert ("factory-calibrated" in {o.remedy.code for o in view.out}) == out
    assert any("factory-calibrated" in c.remedies for c in view.worth.chains) == (not out)
    if out:
        (factory,) = (o for o in view.out if o.remedy.code == "factory-calibrated")
        assert factory.refused == "It is on the factory calibration already."
        with pytest.raises(Refused, match="already"):
            decide(database, job.id, take, "factory-calibrated", "so be it", LATER)


def test_what_was_tried_before_it_came_is_said_where_one_decides(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    intake = Intake(tried=("sprayed", "cleaned"))
    job = taken_in(database, "GS-2", intake=intake)
    measured(database, job, "dirty")
    assert "Tried before it came: sprayed, cleaned." in deciding(database, job).context


def test_what_parts_read_that_were_fitted_here_is_told_of_the_next_one_of_its_model(
    bench: tuple[Database, Job],
) -> None:
    """Four are too few to be told by; the fifth is enough. What came after other work, and other
    models', says nothing of a part."""
    database, job = bench
    measured(database, job, "worn")

    def told() -> Prospect:
        offered = {o.remedy.code: o.prospect for o in deciding(database, job).options}
        return offered["replaced"]

    def fitted(i: int, model: str = "plover", stick: str = "left") -> Job:
        other = taken_in(database, f"GS-{700 + i}", model, stick)
        worked(database, other, "replaced", stick, module="potentiometer", lot=f"BC-{i % 2}")
        worked(database, other, "recalibrated", stick)
        recording = performed("sound", 20 + i).recording
        import_take(database, other.id, stick, f"{i}.csv", recording, AT)
        return other

    for i in range(3):
        fitted(i)
    spoilt = fitted(3)
    fitted(8, "dunlin", "stick")
    assert told().expected[DEAD_ZONE].middle == FRESH[DEAD_ZONE][1]
    assert "usual word: 4 of them were measured here" in told().words
    last = fitted(4)
    worked(database, spoilt, "cleaned", axis="x")
    measured(database, spoilt, "dirty")
    by = told()
    assert "by 5 fitted here" in by.words
    assert "Dead zone by lot: BC-0" in by.words
    assert by.expected[DEAD_ZONE].middle != FRESH[DEAD_ZONE][1]
    with database.reading() as db:
        values = sorted(p.values[DEAD_ZONE] for p in fitted_to(db, "plover")["replaced"])
        assert len(values) == 5
        assert by.expected[DEAD_ZONE].middle == pytest.approx(values[2])
        assert by.expected[DEAD_ZONE].low <= values[0]
        assert values[-1] <= by.expected[DEAD_ZONE].high
        entry = next(e for e in view_job(db, last.id).ledger if "replaced" in e.text)
    undo(database, entry.id, entry.revision, LATER)
    assert "usual word" in told().words, "what was undone never went in"


def test_what_a_part_read_is_told_by_what_came_before_it_was_worked_on_again(
    bench: tuple[Database, Job],
) -> None:
    """A take after cleaning says nothing of the part as it was fitted."""
    database, job = bench
    worked(database, job, "replaced", module="potentiometer", lot="BC-1")
    worked(database, job, "recalibrated")
    fresh = measured(database, job, "sound")
    worked(database, job, "cleaned", axis="x")
    measured(database, job, "worn")
    with database.reading() as db:
        after = takes_after(db, "plover", ("replaced",), ("recalibrated",), 9)
    assert after == [("replaced", "BC-1", fresh)]


def test_a_model_s_own_record_is_told_once_there_is_enough_of_it(
    bench: tuple[Database, Job],
) -> None:
    """Cleanings that held in other models say little of one in which they never do."""
    database, job = bench
    held = {("cleaned", "dirty"): [(True, False)] * 20 + [(False, True)] * 4}
    every = pooled(held["cleaned", "dirty"], "Plover")
    assert (every.tried, every.held, every.of) == (24, 20, "")
    own = pooled([*held["cleaned", "dirty"], (False, True)], "Plover")
    assert (own.tried, own.held, own.of) == (5, 0, "this model, Plover")
    measured(database, job, "dirty")
    for _ in range(5):
        view = deciding(database, job)
        reason = "" if view.advised == "cleaned" else "always clean first"
        decide(database, job.id, view.take.id, "cleaned", reason, LATER)
        measured(database, job, "dirty")
    with database.reading() as db:
        here = records_of(db, job.controller.model)["cleaned", "dirty"]
        assert (here.tried, here.held, here.of) == (5, 0, "this model, Plover")
        other = taken_in(database, "GS-800", "dunlin", "stick")
        elsewhere = records_of(db, other.controller.model)["cleaned", "dirty"]
        assert (elsewhere.tried, elsewhere.of) == (5, "")


def test_against_the_advice_wants_a_reason(bench) -> None:
    database, job = bench
    take = measured(database, job, "offset")
    with pytest.raises(Refused, match="Say why not") as refused:
        decide(database, job.id, take, "replaced", "  ", LATER)
    assert refused.value.field == "reason"
    made = decide(database, job.id, take, "replaced", "the owner wants it new", LATER)
    assert (made.advised, made.chosen) == ("recalibrated", "replaced")
    (decision,) = deciding(database, job).decisions
    assert decision.against_advice
    with pytest.raises(Refused, match="no remedy"):
        decide(database, job.id, take, "prayed", "", LATER)


def test_what_may_not_be_done_is_last_with_its_reason_and_not_decided_on(tmp_path: Path) -> None:
    database, _ = new_bench(tmp_path)
    closed = taken_in(database, "GS-2", intake=Intake(consent="no"))
    take = measured(database, closed, "worn")
    view = deciding(database, closed)
    assert not any(o.remedy.opens for o in view.options)
    out = {o.remedy.code: o.refused for o in view.out}
    assert "has not agreed" in out["replaced"]
    with pytest.raises(Refused, match="has not agreed"):
        decide(database, closed.id, take, "replaced", "", LATER)
    under = taken_in(database, "GS-3", intake=Intake(warranty="yes"))
    measured(database, under, "worn")
    view = deciding(database, under)
    assert view.advised in {o.remedy.code for o in view.options if not o.remedy.opens}
    assert not any(o.remedy.opens for o in view.options)
    assert "warranty" in {o.remedy.code: o.refused for o in view.out}["replaced"]
    moves = taken_in(database, "GS-4", moves="yes")
    measured(database, moves, "worn")
    referred = deciding(database, moves)
    assert referred.advised == "refer"
    assert referred.worth is None
    assert {o.refused for o in referred.out} >= {REFER}


def test_a_sound_stick_is_left_and_nothing_is_reckoned(bench) -> None:
    database, job = bench
    measured(database, job, "sound")
    view = deciding(database, job)
    assert (view.advised, view.worth) == ("left", None)
    assert view.headline == "Sound."
    assert view.looks == ()


def at(grade: Grade) -> dict[str, dict[str, float]]:
    """A model's own limits: those of everyday use are what others use for that."""
    own = {}
    for path, limit in LIMIT_OF.items():
        fine, everyday, display = limit.fine, limit.at(grade), limit.display
        own[path] = {"fine": min(fine, everyday), "everyday": everyday}
        own[path]["display"] = max(display, everyday)
    return own


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize("seed", [811, 812])
def test_half_an_axis_that_is_short_beside_ends_that_are_cut_off_is_recalibrated_first(
    bench: tuple[Database, Job], seed: int
) -> None:
    """Where the range cuts the other side off, nobody can tell whether a module sits askew or half an
    axis was learnt too long; the readings said “recalibrate”, and Decide “the rim again, slowly”."""
    database, job = bench
    recording = taken(seed, scale=(1.06, 0.86, 1.06, 1.06))
    take = import_take(database, job.id, "left", "half.csv", recording, AT)
    with database.reading() as db:
        meaning = view_take(db, take.id, "everyday", LATER).meaning
    assert meaning is not None
    assert "recalibrate, extents first" in meaning.advice
    decided = deciding(database, job)
    assert decided.headline == "Off in scale or centre: a calibration, or how the module sits."
    (look,) = decided.looks
    assert look.words.startswith("Recalibrate, extents first, then the rim again")
    assert (look.steps, decided.advised) == (("rim",), None)


LEFT_ALONE = "Nothing is over its limit. What shows below it: "


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize(
    ("grade", "fault", "advised", "headline"),
    [
        ("fine", {"offset": (4.0, -2.0)}, "recalibrated", "Off centre, x."),
        ("fine", {"wear": 2.0}, "sensor-parts", "Worn at the centre, x."),
        ("fine", {"bind": 3.0, "bind_bearing": 90.0}, "lubricated", "Mechanical bind."),
        ("fine", {"rub": 6.0, "bind_bearing": 60.0}, "lubricated", "Mechanical bind."),
        ("fine", {"scale": (0.95,) * 4}, "recalibrated", "Calibration of another part."),
        ("fine", {"crosstalk": 0.12}, "reseated", "One axis moves the other, y."),
        ("everyday", {"offset": (4.0, -2.0)}, "left", "Sound."),
        ("everyday", {"noise": 0.5}, "left", f"{LEFT_ALONE}noise of the supply."),
        ("everyday", {"crosstalk": 0.12}, "left", f"{LEFT_ALONE}one axis moves the other, y."),
        ("display", {"offset": (8.0, 3.0)}, "left", f"{LEFT_ALONE}off centre, x."),
        ("display", {"bind": 8.0, "bind_bearing": 90.0}, "left", f"{LEFT_ALONE}mechanical bind."),
        ("display", {"noise": 1.0}, "left", f"{LEFT_ALONE}noise of the supply."),
    ],
)
def test_what_is_advised_goes_by_the_limits_that_its_model_has(
    grade: Grade, fault: dict, advised: str, headline: str, tmp_path: Path
) -> None:
    """“Sound: leave it” stood beside “recalibrate before anything else” where a model's limits were
    tighter than the usual ones; and where nothing was over them, a shell was to be opened."""
    database = new_bench(tmp_path)[0]
    job = taken_in(database, "GS-018", complaint="creeps")
    with database.reading() as db:
        model = find_model(db, "plover")
    change_model(database, "plover", replace(model, limits=at(grade)))
    import_take(database, job.id, "left", "t.csv", taken(811, **fault), AT)
    view = deciding(database, job)
    assert view.advised == advised
    assert view.headline.startswith(headline)
    assert view.options[0].remedy.code == advised
    assert (view.worth is None) == (advised == "left")
    assert view.complaint is not None
    assert view.complaint.reproduced is (advised != "left")
    sound = next((c.ranked for c in view.causes if c.ranked.cause == "sound"), None)
    if advised == "left":
        near = "crosstalk" in fault or "bind" in fault
        assert view.options[0].prospect.chance == (0.5 if near else 0.95)
        assert view.options[0].because == "Worked out from this take."
    else:
        assert sound is None or not sound.likely, "beside an advice"


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
@pytest.mark.parametrize(
    ("fault", "advised", "headline"),
    [
        ({"wear": 3.5}, "sensor-parts", "Worn at the centre, x."),
        ({"rub": 10.0, "bind_bearing": 60.0}, "lubricated", "Mechanical bind."),
        ({"rub": 15.0, "bind_bearing": 60.0}, "lubricated", "Mechanical bind."),
        ({"scale": (0.9,) * 4}, "recalibrated", "Calibration of another part."),
        ({"spikes_pm": 60.0, "spike_h": 60.0}, "cleaned", "Dirt on the track, x."),
        ({"drops": 1.0}, "sensor-parts", "Track fails away from the centre, x."),
    ],
)
def test_what_is_advised_is_what_the_readings_ask_for(
    bench: tuple[Database, Job], fault: dict, advised: str, headline: str
) -> None:
    """Beside “replace the module” it could not be told; a rim cut short in one sector was to be
    recalibrated, which mends none of it; and a module was to go for dirt that is felt while the stick
    is held, too."""
    database, job = bench
    take = import_take(database, job.id, "left", "t.csv", taken(821, **fault), AT)
    view = deciding(database, job)
    assert (view.advised, view.headline) == (advised, headline)
    with database.reading() as db:
        meaning = view_take(db, take.id, "everyday", AT).meaning
    assert meaning is not None
    assert meaning.asks == "something"
    assert (meaning.try_first == "recalibrated") == (advised == "recalibrated")


@pytest.mark.skipif(not FOREIGN.exists(), reason=f"there are no foreign sticks at {FOREIGN}")
def test_what_was_in_vain_and_what_would_decide_go_by_the_limits_that_its_model_has(
    bench: tuple[Database, Job],
) -> None:
    """Beside the usual ones it was not worn, and so nothing had been done for it in vain."""
    database, job = bench
    with database.reading() as db:
        model = find_model(db, "plover")
    change_model(database, "plover", replace(model, limits=at("fine")))
    worn: dict = {"wear": 2.0}
    for hand, fault in enumerate((worn, worn, worn, {"friction": 1.0})):
        recording = taken(811, 0, **fault)
        recording = replace(recording, t_us=recording.t_us + hand)
        take = import_take(database, job.id, "left", f"{hand}.csv", recording, AT)
        view = deciding(database, job)
        if hand == 0:
            assert view.advised == "sensor-parts"
            worked(database, job, "sensor-parts", axis="x")
        if hand == 1:
            assert view.advised not in ("sensor-parts", "left", None)
            assert "in this job already" in offered(database, job, "sensor-parts").words
            worked(database, job, "replaced", module="potentiometer", lot="L-1")
        if hand == 2:
            with database.reading() as db:
                meaning = view_take(db, take.id, "everyday", AT).meaning
            assert meaning is not None
            assert "in this job already" in meaning.advice
    (look, *_) = view.looks
    assert look.words.startswith("Returns apart is too near its limit to call.")
    assert look.steps == ("let-go",)


def test_a_stick_whose_track_was_not_looked_at_is_sound_as_far_as_that_goes(bench) -> None:
    """Most that is wrong with a track shows where it is crossed, or held, and nowhere else."""
    database, job = bench
    whole = performed("sound").recording
    quick = np.isin(whole.step, [STEPS.index(step) for step in ("still", "let-go", "rim")])
    part = Recording(whole.t_us[quick], whole.raw[quick], whole.ranges, whole.step[quick])
    import_take(database, job.id, "left", "q.csv", part, AT)
    view = deciding(database, job)
    assert view.advised == "left"
    assert view.headline == "It looks sound, as far as this take goes."
    assert [look.steps for look in view.looks] == [("crossing-x", "crossing-y", "hold")]


@pytest.mark.parametrize(
    ("condition", "headline"),
    [
        (
            "sound",
            "It fell back once while it was held: the track fails there, or the hand gave way.",
        ),
        ("offset", "Off centre, y."),
    ],
)
def test_what_fell_back_once_is_no_cause_yet_and_is_to_be_held_again(
    bench, condition: str, headline: str
) -> None:
    """It was “Track fails away from the centre” at once, of a hand that gave way."""
    database, job = bench
    import_take(database, job.id, "left", "t.csv", held_slackly(condition), AT)
    view = deciding(database, job)
    assert view.headline == headline
    assert view.looks[0].steps == ("hold",)
    assert (view.advised is None) == (condition == "sound"), "nor is it sound yet, nor to be opened"


def test_an_axis_without_a_signal_is_mended_first_and_pressed_to_tell(bench) -> None:
    """It “looked sound, as far as this take goes”; at an end, it was to be recalibrated."""
    database, job = bench
    recording = performed("sound").recording
    u = recording.u.copy()
    u[:, 1] = -100.0
    import_take(database, job.id, "left", "t.csv", transformed(recording, u), AT)
    view = deciding(database, job)
    assert view.headline == "Loose joint, ribbon or plug, y."
    assert view.sentence == "y gives no signal: it stays at its low end while x moves."
    assert view.advised == "mended"
    assert [look.steps for look in view.looks] == [("rim",)]
    assert view.pin is not None
    assert view.pin.state == "unusable", "no disc within its ring on the tray"


def test_what_fell_back_while_it_was_pushed_alone_is_to_be_held_over(bench) -> None:
    """It was “Sound”, and to be left as it is, beside the advice to hold it over at each side."""
    database, job = bench
    recording = performed("sound").recording
    u, turned = recording.u.copy(), recording.step == STEPS.index("rim")
    far = np.flatnonzero(turned & (np.abs(u[:, 0]) > 70))
    drops = [far[0]]
    while len(drops) < 5:
        drops.append(far[far > drops[-1] + 250][0])
    for at in drops:
        u[at : at + 8, 0] *= 0.4
    import_take(database, job.id, "left", "t.csv", transformed(recording, u), AT)
    view = deciding(database, job)
    assert view.headline.startswith("It fell back while it was pushed")
    assert [look.steps for look in view.looks] == [("hold",)]
    assert view.advised is None


def test_of_a_take_in_which_nothing_moved_nothing_is_advised(bench) -> None:
    database, job = bench
    recording = performed("sound").recording
    still = np.zeros_like(recording.u) + 0.3 * np.sin(997 * recording.t)[:, None]
    import_take(database, job.id, "left", "t.csv", transformed(recording, still), AT)
    view = deciding(database, job)
    assert view.headline == "Another stick was moved, or no signal comes from this one."
    assert view.sentence == "Nothing moved in it."
    assert (view.causes, view.options, view.advised, view.worth) == ((), (), None, None)
    assert [look.steps for look in view.looks] == [("let-go", "rim")]


@pytest.mark.parametrize(
    ("condition", "last", "to_measure"),
    [
        ("sound", "still", ("let-go", "rim")),
        ("sound", "let-go", ("rim",)),
        ("offset", "still", ("let-go", "rim")),
        ("sound", "hold", ("still",)),
        ("dirty", "hold", ("still",)),
    ],
)
def test_a_take_that_tells_too_little_advises_no_repair_but_what_is_missing(
    bench, condition: str, last: str, to_measure: tuple[str, ...]
) -> None:
    """A sound stick whose take ended after Let-go was to be retired; after Still, to be opened; and a
    dirty one without a Still was sound."""
    database, job = bench
    whole = performed(condition).recording
    n = int(np.flatnonzero(whole.step == STEPS.index(last))[-1]) + 1
    step = whole.step[:n].copy()
    if to_measure == ("still",):
        step[step == STEPS.index("still")] = -1
    part = Recording(whole.t_us[:n], whole.raw[:n], whole.ranges, step)
    import_take(database, job.id, "left", "t.csv", part, AT)
    view = deciding(database, job)
    assert (view.advised, view.worth) == (None, None)
    assert view.headline.startswith("It ")
    assert [look.steps for look in view.looks] == [to_measure]
    assert view.take is not None
    made = decide(database, job.id, view.take.id, "left", "", AT)
    assert made.advised == "", "against no advice it wants no reason"
    with database.reading() as db:
        record = track_record(db)
        (outcome,) = record.outcomes
    assert not outcome.against_advice
    assert (record.followed.tried, record.against.tried) == (0, 0)


def test_a_decision_without_advice_is_neither_by_it_nor_against_it(bench) -> None:
    database, job = bench
    import_take(database, job.id, "left", "t.csv", held_slackly("sound"), AT)
    view = deciding(database, job)
    assert view.take is not None
    decide(database, job.id, view.take.id, "cleaned", "", AT)
    worked(database, job, "cleaned")
    measured(database, job, "sound")
    with database.reading() as db:
        record = track_record(db)
    assert record.outcomes[0].held, "it was measured since"
    assert (record.followed.tried, record.against.tried) == (0, 0)


def test_there_is_nothing_to_decide_on_without_a_usable_take(bench) -> None:
    database, job = bench
    view = deciding(database, job)
    assert (view.take, view.causes, view.options, view.advised) == (None, (), (), None)


def test_what_the_shop_counts_with_is_kept_and_counts(bench) -> None:
    database, job = bench
    measured(database, job, "worn")
    before = deciding(database, job).worth
    keep_money(database, Money(rate=60, controller=2, parts={"replaced": 20}))
    with database.reading() as db:
        assert money_of(db).part("replaced") == 20
    after = deciding(database, job).worth
    assert after.chains[0].remedies == ("retired",) != before.chains[0].remedies
    with pytest.raises(Refused, match="no remedy"):
        keep_money(database, Money(parts={"prayed": 1}))


def test_work_on_the_other_stick_is_its_own_story(bench) -> None:
    """What was done to the right stick says nothing of the left one's stage, nor of where the job
    is."""
    database, job = bench
    measured(database, job, "worn")
    measured(database, job, "dirty", "right")
    worked(database, job, "cleaned", "right", axis="x")
    view = viewed(database, job)
    assert view.job.station == "decide"
    assert not view.measure_next
    assert view.next_stage == "as received"
    assert view.work[0].words == "Sensor housing cleaned, x"
    measured(database, job, "sound", "right")
    measured(database, job, "worn")
    view = viewed(database, job)
    assert [(t.stick, t.stage, t.mark) for t in view.takes] == [
        ("left", "as received", "received"),
        ("right", "as received", "received"),
        ("right", "after cleaning", "now"),
        ("left", "as received", "received"),
    ]
    assert view.latest == view.takes[-1].id
    assert (view.pair.before, view.pair.after) == (view.takes[0].id, view.takes[-1].id)
    assert (view.reference.before, view.reference.after) == (view.takes[2].id, view.takes[-1].id)
    entry = next(e for e in view.ledger if e.kind == "work")
    undo(database, entry.id, entry.revision, LATER)
    stages = [t.stage for t in viewed(database, job).takes if t.stick == "right"]
    assert stages == ["as received", "as received"]


def test_only_what_a_remedy_asks_for_goes_on_record(bench) -> None:
    database, job = bench
    with pytest.raises(Refused, match="not done to one axis"):
        worked(database, job, "recalibrated", axis="x")
    with pytest.raises(Refused, match="no work"):
        worked(database, job, "left")
    with pytest.raises(Refused, match="has no middle"):
        worked(database, job, "cleaned", "middle")
    by_hall = worked(database, job, "replaced-by-hall", lot=" LL-H1 ")
    assert (by_hall.module, by_hall.lot) == ("hall", "LL-H1")
    paddle = taken_in(database, "GS-70", "turnstone", "paddle")
    with pytest.raises(Refused, match="one axis"):
        worked(database, paddle, "cleaned", "paddle", axis="y")


def test_everything_derived_is_made_anew_when_a_definition_changes(bench) -> None:
    """A function check and a bench check are worked out again from the same events, as is said."""
    database, job = bench
    check = begin(database, job.id, "take-in", None, AT)
    touch(database, check.id, "button", 0)
    end(database, check.id, None, AT)
    sticks = (StudyStick(job.id, "left"),)
    study = open_study(
        database,
        StudyPlan("file", "t.csv", ("morning",), sticks, 3, BY_ID["quick"]),
        AT,
    )
    for seed in (5, 6, 7):
        made = import_take(
            database, job.id, "left", f"{seed}", performed("sound", seed).recording, AT
        )
        with database.writing() as db:
            db.execute(
                "UPDATE take SET study_id = ?, role = 'morning' WHERE id = ?", (study.id, made.id)
            )
    settle_study(database, study.id, LATER)
    with database.reading() as db:
        assert stale(db) == []
        shown_before = view_study(db, study.id, LATER).shown
    assert shown_before
    with database.writing() as db:
        for table in ("reading", "function_check", "study"):
            db.execute(f"UPDATE {table} SET version = 0")
        db.execute("UPDATE study SET result = '{}'")
        db.execute("UPDATE function_check SET result = json_set(result, '$.sentence', 'old')")
    with database.reading() as db:
        old = stale(db)
    assert [one.kind.what for one in old] == ["take"] * 3 + ["function check", "bench check"]
    for one in old:
        one.make_anew(database)
    with database.reading() as db:
        assert stale(db) == []
        assert view_study(db, study.id, LATER).shown == shown_before
        sentence = db.execute("SELECT json_extract(result, '$.sentence') FROM function_check")
        assert sentence.fetchone()[0] != "old"


def test_readings_count_for_the_definitions_that_made_them_only(bench) -> None:
    """Else a page would show an old definition's numbers as if they were today's."""
    database, job = bench
    made = import_take(database, job.id, "left", "t", performed("sound").recording, AT)
    with database.writing() as db:
        keep_readings(db, made.id, 3, StoredReadings("{}", None))
    with database.reading() as db:
        assert kept_readings(db, made.id, 3) == StoredReadings("{}", None)
        assert [kept_readings(db, made.id, version) for version in (2, 4)] == [None, None]
        assert made.id in takes_to_measure(db, 4)
        assert made.id not in takes_to_measure(db, 3)


def test_a_bench_check_ends_with_work_on_its_own_stick_and_no_other(bench) -> None:
    """What was taken before and after a repair is not one stick; the other stick is."""
    database, job = bench
    worked(database, job, "cleaned")
    sticks = (StudyStick(job.id, "left"),)
    study = open_study(
        database, StudyPlan("file", "t.csv", ("morning",), sticks, 3, BY_ID["quick"]), AT
    )

    def since() -> str | None:
        with database.reading() as db:
            return work_since(db, study)

    assert since() is None, "what was done before it was opened is in every take"
    worked(database, job, "cleaned", stick="right")
    assert since() is None
    done = worked(database, job, "cleaned")
    assert since() == done.done_at
    entry = max((e for e in viewed(database, job).ledger if e.kind == "work"), key=lambda e: e.id)
    undo(database, entry.id, entry.revision, LATER)
    assert since() is None


def test_a_model_s_own_limit_rules_a_paddle_s_pin_too() -> None:
    stick = fresh_stick("potentiometer", "round", 8, 60.0, "sound", 3, axes=1, sprung=False)
    readings = read_of(stick, 3)
    own = limits_with({"turn.jitter": {"fine": 0.1, "everyday": 0.001, "display": 3.0}})
    assert pin_of(readings, "paddle", LIMIT_OF).verdict == "within"
    pin = pin_of(readings, "paddle", own)
    assert (pin.limit, pin.tells) == (0.001, "turn.jitter")
    assert pin.verdict != "within"
