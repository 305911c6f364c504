"""Taking a controller in, and what is asked about it then and later."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from datetime import date, datetime
from sqlite3 import Connection

from hollow_pin.bench.refusal import Changed, Refused
from hollow_pin.bench.takes import get_job, open_job, require_stick
from hollow_pin.core.controller import Controller
from hollow_pin.core.intake import LABEL, MOVES, REFER, Intake, in_words
from hollow_pin.core.job import stick_name
from hollow_pin.core.record import Job, JobDetails
from hollow_pin.simulator.stick import Stick, aged
from hollow_pin.store.controllers import (
    add_controller,
    find_controller,
    find_model,
    keep_stand_in,
    stand_in_state,
)
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import (
    add_job,
    change_told,
    events_of,
    last_closed_at,
    open_job_of,
    settle_station,
)
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.takes import takes_of

HOURS_A_DAY = 4.0
"""How long a handset is played in a day."""


@dataclass(frozen=True)
class Arrival:
    """A controller at the bench. model_id may be None for one that is known."""

    tag: str
    model_id: str | None
    told: JobDetails


def take_in(database: Database, arrival: Arrival, at: str, role: str = "") -> Job:
    """A controller comes to the bench."""
    tag, details = " ".join(arrival.tag.split()), _tidy(arrival.told)
    if not tag:
        raise Refused("The controller needs a tag.", "tag")
    with database.writing() as db:
        controller = _controller(db, tag, arrival.model_id, at)
        require_stick(controller, details.stick)
        lying = open_job_of(db, controller.id)
        if lying is not None:
            raise Refused(f"{controller.tag} is on the bench already: job {lying.id}.", "tag")
        if controller.refer:
            details = replace(details, moves="yes")
        _age_stand_ins(db, controller, at)
        job_id = add_job(db, controller, details, at, role)
        if details.moves == "yes":
            add_entry(db, job_id, at, "caution", f"Refer. {REFER}", role)
        return get_job(db, job_id)


def _controller(db: Connection, tag: str, model_id: str | None, at: str) -> Controller:
    controller = find_controller(db, tag)
    if controller is not None:
        if model_id is not None and model_id != controller.model.id:
            raise Refused(f"{controller.tag} is a {controller.model.name}.", "model_id")
        return controller
    if model_id is None:
        raise Refused(f"{tag} is new here: which model is it?", "model_id")
    model = find_model(db, model_id)
    if model is None:
        raise Refused(f"There is no model {model_id}.", "model_id")
    return add_controller(db, tag, model, at)


def _tidy(details: JobDetails) -> JobDetails:
    hours = tuple(sorted(set(details.intake.hours)))
    promised = details.intake.promised_on
    if promised:
        try:
            date.fromisoformat(promised)
        except ValueError:
            raise Refused(f"{promised} is not a date.", "promised_on") from None
    tried = tuple(dict.fromkeys(details.intake.tried))
    intake = replace(details.intake, hours=hours, tried=tried)
    return replace(details, complaint=details.complaint.strip(), intake=intake)


def _age_stand_ins(db: Connection, controller: Controller, at: str) -> None:
    """A stand-in that comes again has been in use since it left: dirt comes back, tracks wear."""
    last_seen = last_closed_at(db, controller.id)
    if last_seen is None:
        return
    days = (datetime.fromisoformat(at) - datetime.fromisoformat(last_seen)).total_seconds() / 86_400
    for own in controller.model.sticks:
        state = stand_in_state(db, controller.id, own.name)
        if state is not None:
            used = aged(Stick.from_dict(state), max(0.0, days) * HOURS_A_DAY)
            keep_stand_in(db, controller.id, own.name, used.to_dict())


def _fields(details: JobDetails) -> dict[str, object]:
    """Everything that was told, field by field."""
    intake = {name: getattr(details.intake, name) for name in asdict(Intake())}
    return {
        "stick": details.stick,
        "complaint": details.complaint,
        "moves": details.moves,
    } | intake


def details_of(job: Job) -> JobDetails:
    return JobDetails(job.stick, job.complaint, job.moves, job.intake)


def change_intake(
    database: Database,
    job_id: int,
    details: JobDetails,
    since: JobDetails,
    revision: int,
    at: str,
    role: str,
) -> Job:
    """Change what was told at take-in. since: how it read to whoever changes it, at that revision.

    What somebody else changed meanwhile is kept where only they changed it; where both did, Changed
    says how it reads now.
    """
    details, since = _tidy(details), _tidy(since)
    with database.writing() as db:
        job = open_job(db, job_id)
        now, mine, theirs = _fields(details_of(job)), _fields(details), _fields(since)
        if job.revision != revision:
            both = [f for f in now if mine[f] != theirs[f] and now[f] not in (theirs[f], mine[f])]
            if both:
                raise Changed(
                    "Somebody else changed this meanwhile: "
                    + "; ".join(
                        f"{LABEL[f]} is now “{in_words(f, now[f], job.axes)}”" for f in both
                    )
                    + ". Yours is kept here; save again to put it in place of theirs.",
                    {f: in_words(f, now[f], job.axes) for f in both},
                )
        changed = {f: mine[f] for f in now if mine[f] != theirs[f] and mine[f] != now[f]}
        if not changed:
            return job
        _may_change(db, job, changed)
        merged = now | changed
        stick, complaint, moves = (merged.pop(f) for f in ("stick", "complaint", "moves"))
        change_told(db, job_id, JobDetails(stick, complaint, moves, Intake(**merged)))  # type: ignore[arg-type]
        words = [
            f"{LABEL[f]}: {in_words(f, now[f], job.axes)} → {in_words(f, value, job.axes)}"
            for f, value in changed.items()
        ]
        add_entry(db, job_id, at, "take-in", "; ".join(words) + ".", role)
        if changed.get("moves") == "yes":
            add_entry(db, job_id, at, "caution", f"Refer. {REFER}", role)
        settle_station(db, job_id)
        return get_job(db, job_id)


def _may_change(db: Connection, job: Job, changed: dict[str, object]) -> None:
    if job.controller.refer and changed.get("moves", "yes") != "yes":
        raise Refused(
            f"{MOVES} was answered with yes. That is not taken back here: {job.controller.tag} stays "
            "marked “refer”.",
            "moves",
        )
    if "stick" in changed:
        require_stick(job.controller, str(changed["stick"]))
        if events_of(db, job.id) or any(t.state == "recording" for t in takes_of(db, job.id)):
            raise Refused(
                f"The {stick_name(job.stick)} has been measured or worked on in this job.", "stick"
            )
