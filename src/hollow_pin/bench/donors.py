"""A controller beyond repair becomes parts, with their origin and what they last read."""

from __future__ import annotations

from sqlite3 import Connection

from hollow_pin.bench.readings import readings_of
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import get_job
from hollow_pin.core.donors import DonorStick, best_first, donor_stick, lot_of
from hollow_pin.core.limits import limits_with
from hollow_pin.store.controllers import controllers_by_id
from hollow_pin.store.database import Database
from hollow_pin.store.donors import add_donor, donors, drop_donor, is_donor, lots_gone_in
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.takes import latest_takes


def keep_as_donor(database: Database, job_id: int, note: str, at: str, role: str = "") -> None:
    """Keep a job's controller for its parts."""
    with database.writing() as db:
        job = get_job(db, job_id)
        if job.controller.refer:
            raise Refused("What moves people is referred, not taken apart here.")
        if is_donor(db, job.controller.id):
            raise Refused("It is a donor already.")
        add_donor(db, job.controller.id, note.strip(), at, role)
        add_entry(db, job_id, at, "note", f"Kept as a donor. {note.strip()}".strip(), role)


def no_donor(database: Database, job_id: int, at: str, role: str = "") -> None:
    """It is not kept for its parts after all."""
    with database.writing() as db:
        if not drop_donor(db, get_job(db, job_id).controller.id):
            raise Refused("It is no donor.")
        add_entry(db, job_id, at, "note", "No donor any longer.", role)


def donors_for(db: Connection, job_id: int) -> list[DonorStick]:
    """Sticks of donors of the same model, the best first."""
    job = get_job(db, job_id)
    return _sticks(db, job.controller.model.id, job.controller.id)


def all_donors(db: Connection) -> list[DonorStick]:
    """Every stick of every donor, the best first."""
    return _sticks(db, None, 0)


def _sticks(db: Connection, model_id: str | None, but: int) -> list[DonorStick]:
    ids = [d.controller_id for d in donors(db, model_id) if d.controller_id != but]
    newest, lots_gone = latest_takes(db, set(ids)), lots_gone_in(db)
    sticks = []
    for controller_id, controller in controllers_by_id(db, set(ids)).items():
        limits = limits_with(controller.model.limits)
        for stick in controller.model.sticks:
            take = newest.get((controller_id, stick.name))
            readings = readings_of(db, take) if take is not None and take.usable else None
            sticks.append(
                donor_stick(
                    controller_id,
                    controller.tag,
                    stick.name,
                    take.id if take is not None else None,
                    readings,
                    limits,
                    lot_of(controller.tag, stick.name) in lots_gone,
                )
            )
    return best_first(sticks)
