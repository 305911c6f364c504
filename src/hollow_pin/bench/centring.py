"""Centring a stick by hand: what it is begun with, and what is kept of it."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from sqlite3 import Connection

from hollow_pin.bench.readings import readings_of
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.studies import trust_in
from hollow_pin.bench.takes import get_job, get_take, open_job, require_stick
from hollow_pin.core.centring import Centring
from hollow_pin.core.centring_result import (
    Centred,
    in_words,
    jitter_of,
    reach_of,
    rests_at_zero,
    step_of,
    within_of,
)
from hollow_pin.core.intake import why_not_worked_on
from hollow_pin.core.readings import without_signal
from hollow_pin.core.record import Take
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.simulator.trims import Pair
from hollow_pin.store.centrings import KeptCentring, add_centring, find_centring
from hollow_pin.store.database import Database
from hollow_pin.store.takes import takes_of


@dataclass(frozen=True)
class BegunCentring:
    """What a stick is centred with: a take of it, by whose source it is watched, and who follows."""

    take: Take
    centring: Centring


def begin(
    db: Connection, job_id: int, kind: str, now: str, take_id: int | None = None
) -> BegunCentring:
    """Look up what a stick of a job is centred by: the newest live take of it, or one that is named.
    Refused where it may not, or cannot."""
    job = open_job(db, job_id)
    remedy = BY_CODE.get(kind)
    if remedy is None or not remedy.by_hand:
        raise Refused("Nothing of it is turned while the rest is watched.", "kind")
    why = why_not_worked_on(kind, job.intake, job.controller.refer)
    if why is not None:
        raise Refused(why, "kind")
    take = get_take(db, take_id) if take_id is not None else _newest(db, job_id, job.stick)
    if take is None:
        raise Refused("Measure it live first: it is then watched by the same source.", "take_id")
    if take.job_id != job_id:
        raise Refused(f"Take {take.id} is of another job.", "take_id")
    if take.source_kind == "file":
        raise Refused("A file cannot be watched. Measure it live first.", "take_id")
    own = require_stick(job.controller, take.stick)
    if not own.sprung:
        raise Refused(
            "Without a spring it rests anywhere: there is no centre to bring it to.", "kind"
        )
    if any(r.calibration == "unknown" for r in take.ranges):
        raise Refused(
            "What the device's own calibration holds is not known, and so not where its centre "
            "belongs. Measure it with what it holds, entered where the source is chosen.",
            "take_id",
        )
    readings = readings_of(db, take)
    mute = without_signal(readings) if readings is not None else None
    if mute is not None:
        raise Refused(
            f"{mute.words}. Nothing would be seen of what is turned: find what is broken first, and "
            "measure it again.",
            "take_id",
        )
    if readings is not None and rests_at_zero(readings):
        raise Refused(
            "Its source shows exactly zero at rest, as behind a dead zone: it would be called centred "
            "wherever it rests in there. Measure it by a rawer source first.",
            "take_id",
        )
    model = job.controller.model.id
    trust = trust_in(db, model, take.source_kind, take.source_name, now).smallest_change
    spread = readings.value("let_go.return_spread") if readings is not None else None
    centring = Centring(
        own.axes,
        within_of(readings, take.ranges, trust),
        spread or 0.0,
        reach_of(readings),
        jitter_of(readings),
        step_of(take.ranges),
    )
    return BegunCentring(take, centring)


def _newest(db: Connection, job_id: int, stick: str) -> Take | None:
    live = [
        t
        for t in takes_of(db, job_id)
        if t.stick == stick and t.source_kind != "file" and t.undone_at is None
    ]
    return live[-1] if live else None


def keep(
    database: Database,
    begun: BegunCentring,
    kind: str,
    centred: Centred,
    trims: Pair | None,
    at: str,
) -> int | None:
    """Keep what was read. None where nothing was. trims: how those of a stand-in were left."""
    if centred.before is None:
        return None
    kept_trims = [asdict(t) for t in trims] if trims is not None else None
    take = begun.take
    with database.writing() as db:
        return add_centring(db, take.job_id, take.id, kind, centred, kept_trims, at)


@dataclass(frozen=True)
class CentringView:
    """What was read, and the sentence that goes on record with the work."""

    kept: KeptCentring
    words: str


def view_centring(db: Connection, job_id: int, centring_id: int) -> CentringView:
    centring = find_centring(db, centring_id)
    if centring is None or centring.job_id != get_job(db, job_id).id:
        raise NotFound("centring", centring_id)
    axes = len(get_take(db, centring.take_id).ranges)
    return CentringView(centring, in_words(centring.found, axes))
