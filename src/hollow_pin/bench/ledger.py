"""The ledger by hand: entries added, corrected, undone; and what a job waits for."""

from __future__ import annotations

from sqlite3 import Connection
from typing import Literal

from hollow_pin.bench.openings import opening_undone
from hollow_pin.bench.parts import release_all, take_back_of_work
from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.bench.takes import open_job
from hollow_pin.core.intake import ENDED_LABEL, WAITING_LABEL, Waiting
from hollow_pin.core.job import stage_of
from hollow_pin.store.controllers import keep_stand_in
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import (
    close_job,
    events_of,
    find_work,
    set_waiting,
    settle_station,
    stand_in_before,
    work_of,
)
from hollow_pin.store.ledger import (
    LedgerEntry,
    add_entry,
    correct_entry,
    find_entry,
    ledger_of,
    mark_undone,
    strike_out_opening,
)
from hollow_pin.store.parts import movements_of_work
from hollow_pin.store.takes import restage, takes_of
from hollow_pin.store.timers import stop_timer

Written = Literal["note", "owner", "part"]
"""Kinds of entry that are words alone."""


def write(
    database: Database, job_id: int, kind: Written, text: str, at: str, role: str = ""
) -> LedgerEntry:
    if not text.strip():
        raise Refused("There is nothing to put down.", "text")
    with database.writing() as db:
        open_job(db, job_id)
        return get_entry(db, add_entry(db, job_id, at, kind, text.strip(), role))


def wait_for(
    database: Database, job_id: int, waiting: Waiting, text: str, at: str, role: str = ""
) -> None:
    """Say what a job waits for, or that it waits no longer."""
    with database.writing() as db:
        job = open_job(db, job_id)
        if waiting == job.waiting and not text.strip():
            return
        set_waiting(db, job_id, waiting)
        message = f"Waits for {WAITING_LABEL[waiting]}." if waiting else "Waits no longer."
        add_entry(db, job_id, at, "waiting", f"{message} {text.strip()}".strip(), role)


def get_entry(db: Connection, entry_id: int) -> LedgerEntry:
    entry = find_entry(db, entry_id)
    if entry is None:
        raise NotFound("ledger entry", entry_id)
    return entry


def play_test(database: Database, job_id: int, words: str, at: str, role: str) -> LedgerEntry:
    """What a second person says who played it: another bench role than those that worked on it."""
    if not words.strip():
        raise Refused("Say how it plays.", "words")
    if not role:
        raise Refused("Say on the rail which bench role played it.", "role")
    with database.writing() as db:
        open_job(db, job_id)
        if any(
            e.kind == "work" and not e.undone_at and e.role == role for e in ledger_of(db, job_id)
        ):
            raise Refused(f"“{role}” worked on it: a second person plays it.", "role")
        return get_entry(db, add_entry(db, job_id, at, "play", words.strip(), role))


def _unchanged(db: Connection, entry_id: int, revision: int) -> LedgerEntry:
    entry = get_entry(db, entry_id)
    if entry.revision != revision:
        state = "It has been undone." if entry.undone_at else f"It now reads: “{entry.text}”"
        raise Changed(f"Somebody else changed this entry meanwhile. {state}", {"text": entry.text})
    return entry


def correct(
    database: Database, entry_id: int, text: str, revision: int, at: str, role: str = ""
) -> LedgerEntry:
    """Put an entry in other words. The old ones stay readable; raw samples never change."""
    if not text.strip():
        raise Refused("There is nothing to put down. To take an entry back, undo it.", "text")
    with database.writing() as db:
        entry = _unchanged(db, entry_id, revision)
        if text.strip() != entry.text:
            correct_entry(db, entry, text.strip(), at, role)
        return get_entry(db, entry_id)


def undo(
    database: Database, entry_id: int, revision: int, at: str, back: bool = False, role: str = ""
) -> LedgerEntry:
    """Strike an entry out, and with it what it records; or put it back.

    A take is set aside, a photo is no longer shown, work was not done (a stand-in is as it was
    before), a job waits no longer, or was never taken in.
    """
    with database.writing() as db:
        entry = _unchanged(db, entry_id, revision)
        if (entry.undone_at is None) == back:
            return entry
        if back and entry.kind == "take-in":
            raise Refused("The job was taken back. Open it again under Hand over.")
        if back and entry.kind == "waiting":
            raise Refused("Say anew what it waits for.")
        job = open_job(db, entry.job_id)
        _may_be_undone(db, entry)
        if entry.kind == "waiting" and not back:
            _waits_no_longer(db, entry)
        if entry.kind == "take-in":
            release_all(db, job.id, at, role)
            close_job(db, job.id, "withdrawn", "", at)
            add_entry(db, job.id, at, "close", f"{ENDED_LABEL['withdrawn']}.", role)
        if entry.timer_id is not None and back:
            raise Refused("Start the timer anew.")
        if entry.timer_id is not None:
            stop_timer(db, entry.timer_id, "undone", at)
        if entry.opening_id is not None and back:
            raise Refused("Open it anew, under Work.")
        whole = entry.opening_id is not None and opening_undone(db, entry.opening_id, entry.id, at)
        if entry.work_id is not None:
            _work_undone(db, entry, job.controller.id, back)
            if not back:
                take_back_of_work(db, entry.work_id, at, role)
            elif movements_of_work(db, entry.work_id):
                raise Refused("A part went in with it and lies on the shelf again: log it anew.")
        if entry.take_id is not None and any(
            t.id == entry.take_id and t.state == "recording" for t in takes_of(db, job.id)
        ):
            raise Refused("The take is running. Stop it first.")
        mark_undone(db, entry, None if back else at)
        if whole and entry.opening_id is not None:
            strike_out_opening(db, entry.opening_id, at)
        settle_station(db, job.id)
        _settle_stages(db, job.id)
        return get_entry(db, entry_id)


def _may_be_undone(db: Connection, entry: LedgerEntry) -> None:
    if entry.kind == "close":
        raise Refused("A closed job is opened again under Hand over.")
    if entry.kind == "caution":
        raise Refused(
            "A caution goes with the work it belongs to: undo that. “Refer” is not taken back."
        )
    if entry.kind == "take-in":
        entries = ledger_of(db, entry.job_id)
        if entry.id != entries[-1].id:
            raise Refused("What was told at take-in is changed under Take in.")
        if any(e.kind in ("take", "work") and e.undone_at is None for e in entries):
            raise Refused(
                "It has been measured or worked on, so it was here. Close the job under Hand over."
            )


def _waits_no_longer(db: Connection, entry: LedgerEntry) -> None:
    """The newest word on what a job waits for is the one that counts."""
    entries = [e for e in ledger_of(db, entry.job_id) if e.kind == "waiting" and not e.undone_at]
    if entries and entries[0].id == entry.id:
        set_waiting(db, entry.job_id, "")


def _work_undone(db: Connection, entry: LedgerEntry, controller_id: int, back: bool) -> None:
    assert entry.work_id is not None
    work = find_work(db, entry.work_id)
    before = stand_in_before(db, entry.work_id)
    if work is None or before is None:
        return
    if back:
        raise Refused("It was undone on the stand-in as well. Log the work anew.")
    later = [w for w in work_of(db, entry.job_id) if w.id > work.id and w.undone_at is None]
    if any(w.stick == work.stick for w in later):
        raise Refused("Something was done to the stand-in since. Undo that first.")
    keep_stand_in(db, controller_id, work.stick, before)


def _settle_stages(db: Connection, job_id: int) -> None:
    """Takes say after which work on their stick they were made."""
    standing_work = [w for w in work_of(db, job_id) if w.undone_at is None]
    takes = takes_of(db, job_id)
    for stick in {t.stick for t in takes}:
        seqs = [w.seq for w in standing_work if w.stick == stick]
        works = [e for e in events_of(db, job_id, stick) if e.what == "work"]
        for take in takes:
            if take.stick == stick:
                since = sum(seq < take.seq for seq in seqs)
                restage(db, take.id, stage_of(works[:since]))
