"""A shell is opened by its model's sheet, and shut by the same one backward."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from sqlite3 import Connection

from hollow_pin.bench.readings import trusted_of, usable_takes
from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.bench.takes import get_job, open_job
from hollow_pin.core.cautions import CAUTIONS, Caution
from hollow_pin.core.intake import why_not_opened
from hollow_pin.core.limits import limits_with
from hollow_pin.core.open_shell import OpenShellCheck, OpenStick, judge
from hollow_pin.core.record import Job
from hollow_pin.core.remedies import OPENING
from hollow_pin.core.teardown import (
    BACK,
    BATTERY_RULE,
    FINAL,
    LOOKED_AT,
    Fastener,
    OpeningProgress,
    SheetError,
    SheetStep,
    Teardown,
    Tick,
    Way,
    against_shutting,
    fasteners_of,
    progress_of,
    validate_sheet,
    with_photos,
    without_photos,
)
from hollow_pin.core.timers import why_wait
from hollow_pin.store.controllers import find_model
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import work_of
from hollow_pin.store.ledger import LedgerEntry, add_entry, ledger_of
from hollow_pin.store.openings import (
    KeptTeardown,
    Opening,
    Reopened,
    SheetVersion,
    add_opening,
    add_sheet,
    add_tick,
    change_opened_sheet,
    find_opening,
    openings_of,
    reopened,
    sheet_of,
    sheet_versions,
    shut_opening,
    ticks_of,
    undo_opening,
    undo_tick,
    unshut_opening,
)
from hollow_pin.store.photos import Photo, missing_of, photos_of
from hollow_pin.store.timers import timers_of


@dataclass(frozen=True)
class FinalCheck:
    """What is gone through at the end, by code, and whether it was."""

    code: str
    words: str
    done: bool


@dataclass(frozen=True)
class OpeningView:
    """The shell of a job's controller. opening: None where it is shut. before: how often it was opened
    and shut in this job. battery: the rule. check: whether it may be closed, by what was measured with
    the shell open. against: what stands against calling it shut now, with nothing left over. played:
    what second people said. learnt: whether its sheet is another than the model's by now. photos: of
    its steps, the oldest first."""

    opening: Opening | None
    before: int
    kept: KeptTeardown
    battery: str
    ticks: tuple[Tick, ...]
    opens: OpeningProgress
    shuts: OpeningProgress
    backs: dict[str, str]
    final: tuple[FinalCheck, ...]
    check: OpenShellCheck
    against: tuple[str, ...]
    cautions: tuple[Caution, ...]
    why_not: str
    played: tuple[LedgerEntry, ...]
    learnt: bool
    photos: tuple[Photo, ...]


def view_sheet(db: Connection, model_id: str, revision: int | None = None) -> KeptTeardown:
    """A model's sheet, without photos that were undone; an empty one where the shop has made none
    yet. revision: an earlier version of it."""
    if find_model(db, model_id) is None:
        raise NotFound("model", model_id)
    version = sheet_of(db, model_id, revision)
    if version is None and revision is not None:
        raise NotFound("version of the sheet", revision)
    teardown = version or KeptTeardown(model_id, 0, Teardown(), "", "")
    missing = missing_of(db, {s.photo for s in teardown.sheet.steps if s.photo})
    return replace(teardown, sheet=without_photos(teardown.sheet, missing)) if missing else teardown


def versions_of(db: Connection, model_id: str) -> list[SheetVersion]:
    """Every version of a model's sheet, the newest first."""
    if find_model(db, model_id) is None:
        raise NotFound("model", model_id)
    return sheet_versions(db, model_id)


def keep_sheet(
    database: Database, model_id: str, sheet: Teardown, revision: int, at: str, role: str = ""
) -> KeptTeardown:
    """Keep a new version of a model's sheet. revision: of the one it was made from."""
    _checked(sheet)
    with database.writing() as db:
        current = view_sheet(db, model_id)
        if current.revision != revision:
            raise Changed(
                "Somebody else changed this sheet meanwhile. Load it again; yours is not lost here.",
                {"revision": str(current.revision)},
            )
        add_sheet(db, model_id, current.revision + 1, sheet, at, role)
        return view_sheet(db, model_id)


def fasteners_drawn(sheet: Teardown) -> tuple[Fastener, ...]:
    """Letters and shapes of a sheet's fasteners."""
    _checked(sheet)
    return fasteners_of(sheet)


def _checked(sheet: Teardown) -> None:
    try:
        validate_sheet(sheet)
    except SheetError as wrong:
        raise Refused(str(wrong), wrong.field) from None


def begin_opening(
    database: Database, job_id: int, cautions: tuple[str, ...], at: str, role: str = ""
) -> Opening:
    """Begin to open a shell, by its model's sheet as it stands. Every caution of opening has to be
    read."""
    missing = [code for code in OPENING if code not in cautions]
    if missing:
        raise Refused(f"Read and tick the cautions first: {', '.join(missing)}.", "cautions")
    with database.writing() as db:
        job = open_job(db, job_id)
        why = why_not_opened(job.intake, job.controller.refer)
        if why is not None:
            raise Refused(why)
        earlier = openings_of(db, job_id)
        if any(o.shut_at is None for o in earlier):
            raise Refused("It is open already.")
        opening = add_opening(db, job_id, view_sheet(db, job.controller.model.id).sheet, at)
        text = "Opened again." if earlier else "Opened."
        add_entry(
            db, job_id, at, "caution", f"Read: {', '.join(OPENING)}.", role, opening_id=opening.id
        )
        add_entry(db, job_id, at, "opening", text, role, opening_id=opening.id)
        return opening


def _open(db: Connection, job_id: int) -> Opening:
    open_job(db, job_id)
    opening = next((o for o in openings_of(db, job_id) if o.shut_at is None), None)
    if opening is None:
        raise Refused("Its shell is shut.")
    return opening


def tick_off(
    database: Database, job_id: int, way: Way, step_id: str, note: str, at: str, role: str = ""
) -> None:
    """Tick a step off: on the way out, on the way back, or at the end."""
    with database.writing() as db:
        opening = _open(db, job_id)
        ticks = ticks_of(db, opening.id)
        if any(t.way == way and t.step == step_id for t in ticks):
            return
        if way == "final":
            if step_id not in dict(FINAL):
                raise NotFound("final check", step_id)
        else:
            step = opening.sheet.step(step_id)
            if step is None:
                raise NotFound("step", step_id)
            out = any(t.way == "out" and t.step == step_id for t in ticks)
            if way == "back" and not out:
                raise Refused("It was not taken out.", "step")
            noted = note.strip() or step.back or step.photo
            if (
                way == "out"
                and step.kind in LOOKED_AT
                and not noted
                and step_id not in {p.step for p in _photos(db, opening)}
            ):
                raise Refused(
                    "Note colours and places, or photograph them, before it is pulled.", "note"
                )
        add_tick(db, opening.id, way, step_id, note.strip(), at, role)


def untick(database: Database, job_id: int, at: str) -> None:
    """Take back what was ticked off last; a step that was put down on the way, and is on no sheet of
    the model, goes with it."""
    with database.writing() as db:
        opening = _open(db, job_id)
        ticks = ticks_of(db, opening.id)
        if not ticks:
            raise Refused("Nothing is ticked off.")
        last = ticks[-1]
        undo_tick(db, last.id, at)
        model = get_job(db, job_id).controller.model.id
        if last.way == "out" and view_sheet(db, model).sheet.step(last.step) is None:
            steps = tuple(s for s in opening.sheet.steps if s.id != last.step)
            change_opened_sheet(db, opening.id, replace(opening.sheet, steps=steps))


def _photos(db: Connection, opening: Opening) -> tuple[Photo, ...]:
    """Photos of the steps of an opening, the oldest first."""
    every = photos_of(db, opening.job_id)
    return tuple(p for p in every if p.opening_id == opening.id and p.undone_at is None)


def _sheet_learnt(db: Connection, opening: Opening) -> Teardown:
    """Its sheet, as the model's own would be from what was put down and photographed on the way."""
    return with_photos(opening.sheet, {p.step: p.sha256 for p in _photos(db, opening)})


def learn_step(database: Database, job_id: int, step: SheetStep, at: str, role: str = "") -> None:
    """Put a step down that the sheet had not, and tick it off: so a sheet is made on the way."""
    with database.writing() as db:
        opening = _open(db, job_id)
        out = {t.step for t in ticks_of(db, opening.id) if t.way == "out"}
        steps = opening.sheet.steps
        place = next((i for i, s in enumerate(steps) if s.id not in out), len(steps))
        sheet = replace(opening.sheet, steps=(*steps[:place], step, *steps[place:]))
        _checked(sheet)
        change_opened_sheet(db, opening.id, sheet)
        add_tick(db, opening.id, "out", step.id, "", at, role)


def keep_learnt(database: Database, job_id: int, at: str, role: str = "") -> KeptTeardown:
    """Make the sheet of an opening the model's newest one."""
    with database.writing() as db:
        opening = _open(db, job_id)
        model = get_job(db, job_id).controller.model.id
        current = view_sheet(db, model)
        sheet = _sheet_learnt(db, opening)
        if current.sheet == sheet:
            raise Refused("The model's sheet is just so already.")
        add_sheet(db, model, current.revision + 1, sheet, at, role)
        add_entry(
            db, job_id, at, "note", "The model's sheet was brought up to what was learnt.", role
        )
        return view_sheet(db, model)


def shut(
    database: Database,
    job_id: int,
    lying: Mapping[str, int],
    because: str,
    at: str,
    role: str = "",
) -> Opening:
    """Call a shell shut. Refused with everything that stands against it, unless somebody says why it
    is shut all the same. lying: how many fasteners of each letter lie on the mat."""
    with database.writing() as db:
        opening = _open(db, job_id)
        job = get_job(db, job_id)
        check = _open_shell_check(db, job, opening)
        progress = progress_of(opening.sheet, ticks_of(db, opening.id), shutting=True)
        waits = why_wait(timers_of(db, job_id), at)
        not_checked = check.says if check.close is False else ""
        against = against_shutting(progress, dict(lying), waits, not_checked)
        if against and not because.strip():
            raise Refused(f"{' '.join(against)} Say why it is shut all the same.", "because")
        shut_opening(db, opening.id, check.close is True, because.strip() if against else "", at)
        sentences = ["Shut."]
        if against:
            why = because.strip().removesuffix(".")
            sentences = [f"Shut all the same: {why}.", "It was told before:", *against]
        elif check.close is True:
            sentences.append(check.says)
        add_entry(db, job_id, at, "opening", " ".join(sentences), role, opening_id=opening.id)
        return next(o for o in openings_of(db, job_id) if o.id == opening.id)


def _open_shell_check(db: Connection, job: Job, opening: Opening) -> OpenShellCheck:
    """What was measured with the shell open, of every stick that was worked on since it was opened."""
    works = [w for w in work_of(db, job.id) if w.undone_at is None and w.seq > opening.seq]
    sticks = []
    for stick in dict.fromkeys(w.stick for w in works):
        seqs = [w.seq for w in works if w.stick == stick]
        takes = usable_takes(db, job.id, stick)
        before = [t for t in takes if t.seq < max(seqs)]
        after = [t for t in takes if t.seq > max(seqs) and t.conditions.shell == "open"]
        sticks.append(OpenStick(stick, trusted_of(db, job, before), trusted_of(db, job, after)))
    return judge(tuple(sticks), limits_with(job.controller.model.limits))


def view_opening(db: Connection, job_id: int, now: str) -> OpeningView:
    """How far the shell of a job's controller is opened, or shut."""
    job = get_job(db, job_id)
    earlier = openings_of(db, job_id)
    opening = next((o for o in earlier if o.shut_at is None), None)
    teardown = view_sheet(db, job.controller.model.id)
    sheet = opening.sheet if opening else teardown.sheet
    ticks = ticks_of(db, opening.id) if opening else ()
    shuts = progress_of(sheet, ticks, shutting=True)
    nothing = OpenShellCheck(None, "Its shell is shut.")
    check = _open_shell_check(db, job, opening) if opening else nothing
    against: tuple[str, ...] = ()
    if opening:
        waits = why_wait(timers_of(db, job_id), now)
        against = against_shutting(shuts, {}, waits, check.says if check.close is False else "")
    return OpeningView(
        opening=opening,
        before=len([o for o in earlier if o.shut_at is not None]),
        kept=teardown,
        battery=" ".join(p for p in (BATTERY_RULE[sheet.battery], sheet.battery_why) if p),
        ticks=ticks,
        opens=progress_of(sheet, ticks, shutting=False),
        shuts=shuts,
        backs={s.id: s.back or BACK.get(s.kind, "") for s in sheet.steps},
        final=tuple(FinalCheck(c, words, c not in shuts.final_open) for c, words in FINAL),
        check=check,
        against=against,
        cautions=tuple(c for c in CAUTIONS if c.code in OPENING),
        why_not=why_not_opened(job.intake, job.controller.refer) or "",
        played=tuple(e for e in ledger_of(db, job_id) if e.kind == "play" and not e.undone_at),
        learnt=opening is not None and _sheet_learnt(db, opening) != teardown.sheet,
        photos=_photos(db, opening) if opening else (),
    )


def opening_undone(db: Connection, opening_id: int, entry_id: int, at: str) -> bool:
    """Take back that a shell was shut, or that it was opened. Whether all of its entries go with it.
    entry_id: of the entry in the ledger that is undone."""
    opening = find_opening(db, opening_id)
    if opening is None or opening.undone_at is not None:
        return False
    entries = [
        e
        for e in ledger_of(db, opening.job_id)
        if e.opening_id == opening_id and e.kind == "opening" and not e.undone_at
    ]
    if entry_id == entries[-1].id:
        if opening.shut_at is not None:
            raise Refused("It was shut since. Undo that first.")
        undo_opening(db, opening_id, at)
        return True
    if any(o.shut_at is None for o in openings_of(db, opening.job_id)):
        raise Refused("It was opened again since. Undo that first.")
    unshut_opening(db, opening_id)
    return False


@dataclass(frozen=True)
class ReopenedShare:
    """How many shells were shut with the open-shell check and without it, and how many of them were
    opened again."""

    with_check: Reopened
    without: Reopened


def reopened_share(db: Connection) -> ReopenedShare:
    return ReopenedShare(*reopened(db))
