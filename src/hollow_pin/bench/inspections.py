"""A lot is looked at before anything of it is soldered, and accepted, set aside or sent back."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from sqlite3 import Connection

from hollow_pin.bench.parts import Move, get_part, move_in
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.inspection import (
    MARKS,
    Ending,
    OnJig,
    PartFindings,
    PartJudgement,
    Standing,
    by_lot,
    judge,
    read_on_jig,
    standing,
)
from hollow_pin.core.parts import Moved
from hollow_pin.core.recording import Recording
from hollow_pin.core.sampling import SamplingPlan, single_plan, whole_lot
from hollow_pin.core.take import measure_take
from hollow_pin.store.database import Database
from hollow_pin.store.inspections import (
    Inspected,
    Inspection,
    add_inspected,
    add_inspection,
    add_jig_reading,
    end_inspection,
    find_inspection,
    inspected_of,
    inspections_of,
    jig_reading,
    reopen_inspection,
    undo_inspected,
)
from hollow_pin.store.parts import ShelfPart

LARGEST_LOT = 100_000


@dataclass(frozen=True)
class InspectedView:
    """One of a lot with what is to be said of it."""

    inspected: Inspected
    judged: PartJudgement


@dataclass(frozen=True)
class InspectionView:
    """An inspection as it stands. past: how other lots of the part ended."""

    inspection: Inspection
    part: ShelfPart
    units: tuple[InspectedView, ...]
    standing: Standing
    past: str


def begin_inspection(
    database: Database,
    part_id: int,
    lot: str,
    lot_size: int,
    aql: float | None,
    at: str,
    role: str = "",
) -> Inspection:
    """Begin to look at a lot. aql: None where the whole of it is looked at."""
    if not 1 <= lot_size <= LARGEST_LOT:
        raise Refused(f"A lot has 1 to {LARGEST_LOT} parts.", "lot_size")
    if not lot.strip():
        raise Refused("Say which lot, as on the bag.", "lot")
    plan = _plan(lot_size, aql)
    with database.writing() as db:
        get_part(db, part_id)
        earlier = inspections_of(db, part_id)
        if any(i.lot == lot.strip() and i.ended_at is None for i in earlier):
            raise Refused("That lot is being looked at already.", "lot")
        return add_inspection(db, part_id, lot.strip(), plan, at, role)


def _plan(lot_size: int, aql: float | None) -> SamplingPlan:
    if aql is None or lot_size < 2:
        return whole_lot(lot_size)
    try:
        return single_plan(lot_size, aql)
    except ValueError as wrong:
        raise Refused(f"{str(wrong).capitalize()}.", "aql") from None


def get_inspection(db: Connection, inspection_id: int) -> Inspection:
    inspection = find_inspection(db, inspection_id)
    if inspection is None:
        raise NotFound("inspection", inspection_id)
    return inspection


def _going_on(db: Connection, inspection_id: int) -> Inspection:
    inspection = get_inspection(db, inspection_id)
    if inspection.ended_at is not None:
        raise Refused("It has ended.")
    return inspection


def keep_on_jig(database: Database, inspection_id: int, recording: Recording, at: str) -> int:
    """Keep what a module read on the jig, until it is put down with the rest of it. A gate is its
    shell's: its own frame may have any shape."""
    read = read_on_jig(measure_take(recording, None))
    with database.writing() as db:
        _going_on(db, inspection_id)
        return add_jig_reading(db, inspection_id, read, at)


def on_jig(db: Connection, inspection_id: int, reading_id: int) -> OnJig:
    on_the_jig = jig_reading(db, inspection_id, reading_id)
    if on_the_jig is None:
        raise NotFound("reading on the jig", reading_id)
    return on_the_jig


def look_at(
    database: Database,
    inspection_id: int,
    ohms: tuple[float, ...],
    marks: tuple[str, ...],
    jig_id: int | None,
    note: str,
    at: str,
    role: str = "",
) -> None:
    """Record what was seen of one."""
    mark_labels = dict(MARKS)
    for mark in marks:
        if mark not in mark_labels:
            raise Refused(f"There is no mark of use {mark}.", "marks")
    with database.writing() as db:
        inspection = _going_on(db, inspection_id)
        if len(inspected_of(db, inspection_id)) >= inspection.plan.lot_size:
            raise Refused("Every one of the lot was looked at.")
        jig = on_jig(db, inspection_id, jig_id) if jig_id is not None else None
        looked = PartFindings(ohms, tuple(dict.fromkeys(marks)), jig, note.strip())
        add_inspected(db, inspection_id, looked, at, role)


def take_back_last(database: Database, inspection_id: int, at: str) -> None:
    """Take back what was put down last."""
    with database.writing() as db:
        _going_on(db, inspection_id)
        inspected = inspected_of(db, inspection_id)
        if not inspected:
            raise Refused("Nothing was put down yet.")
        undo_inspected(db, inspected[-1].id, at)


def view_inspection(db: Connection, inspection_id: int) -> InspectionView:
    """A lot as far as it was looked at."""
    inspection = get_inspection(db, inspection_id)
    part = get_part(db, inspection.part_id)
    inspected = inspected_of(db, inspection_id)
    lot = [s.looked for s in inspected]
    judged = [
        judge(one, part.facts.ohms, part.facts.tolerance, lot[:i] + lot[i + 1 :])
        for i, one in enumerate(lot)
    ]
    endings = Counter(
        i.ending for i in inspections_of(db, part.id) if i.ending and i.id != inspection_id
    )
    return InspectionView(
        inspection,
        part,
        tuple(InspectedView(s, j) for s, j in zip(inspected, judged, strict=True)),
        standing(inspection.plan, judged, lot),
        by_lot(endings),
    )


def decide_on_lot(
    database: Database, inspection_id: int, ending: Ending, reason: str, at: str, role: str = ""
) -> InspectionView:
    """Accept a lot, set it aside or send it back. Against what the plan says, or before it says
    anything, a reason is wanted. What is not accepted leaves the shelf; the bad ones always do."""
    with database.writing() as db:
        inspection = _going_on(db, inspection_id)
        view = view_inspection(db, inspection_id)
        says = view.standing.decision
        as_said = ending == "accepted" if says == "accept" else ending != "accepted"
        if (says == "go-on" or not as_said) and not reason.strip():
            raise Refused(f"{view.standing.says} Say why it is decided otherwise.", "reason")
        end_inspection(db, inspection_id, ending, reason.strip(), at)
        scrapped = view.standing.bad if ending == "accepted" else inspection.plan.lot_size
        count = min(scrapped, view.part.count.free)
        if count > 0:
            kind: Moved = "set-aside" if ending == "set-aside" else "sent-back"
            why = reason.strip() or view.standing.says
            move_in(db, inspection.part_id, Move(kind, count, inspection.lot, reason=why), at, role)
        return view_inspection(db, inspection_id)


def take_up_again(database: Database, inspection_id: int) -> Inspection:
    """It had not ended after all. What was moved is taken back where the part is shown."""
    with database.writing() as db:
        inspection = get_inspection(db, inspection_id)
        if inspection.ended_at is None:
            raise Refused("It goes on.")
        if any(
            i.lot == inspection.lot and i.ended_at is None
            for i in inspections_of(db, inspection.part_id)
        ):
            raise Refused("That lot is being looked at anew.")
        reopen_inspection(db, inspection_id)
        return get_inspection(db, inspection_id)


def inspections_of_part(db: Connection, part_id: int) -> list[Inspection]:
    get_part(db, part_id)
    return inspections_of(db, part_id)
