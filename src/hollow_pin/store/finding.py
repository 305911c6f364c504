"""Finding jobs again: by tag, model, words, station, and what they wait for."""

from __future__ import annotations

from dataclasses import dataclass
from sqlite3 import Connection
from typing import Literal

from hollow_pin.core.intake import Waiting
from hollow_pin.core.job import Station
from hollow_pin.core.record import Job
from hollow_pin.store.jobs import jobs_from

SHORTEST = 3
"""Letters from which the index of words helps; shorter ones are looked for in full."""


@dataclass(frozen=True)
class JobQuery:
    """What is looked for. text: every word of it must be there, in the tag, the model, the complaint
    or the ledger. before: only jobs that were opened earlier than that one, for the next page."""

    text: str = ""
    station: Station | None = None
    waiting: Waiting | Literal["any"] | None = None
    model_id: str | None = None
    refer: bool | None = None
    opened: bool | None = None
    before: int | None = None
    limit: int = 40


def _like(word: str) -> str:
    for special in "\\%_":
        word = word.replace(special, f"\\{special}")
    return f"%{word}%"


def _where(query: JobQuery) -> tuple[str, list[object]]:
    conditions: list[str] = []
    values: list[object] = []

    def must(condition: str, *given: object) -> None:
        conditions.append(condition)
        values.extend(given)

    words = query.text.split()
    long = [w for w in words if len(w) >= SHORTEST]
    if long:
        quoted = " ".join('"' + w.replace('"', '""') + '"' for w in long)
        must("job.id IN (SELECT rowid FROM job_text WHERE job_text MATCH ?)", quoted)
    for word in words:
        if len(word) < SHORTEST:
            must(
                "(controller.tag LIKE ? ESCAPE '\\' OR job.complaint LIKE ? ESCAPE '\\' "
                "OR controller.model_id IN (SELECT id FROM model WHERE name LIKE ? ESCAPE '\\'))",
                *[_like(word)] * 3,
            )
    if query.station is not None:
        must("job.station = ?", query.station)
    if query.waiting == "any":
        must("job.waiting <> ''")
    elif query.waiting is not None:
        must("job.waiting = ?", query.waiting)
    if query.model_id is not None:
        must("controller.model_id = ?", query.model_id)
    if query.refer is not None:
        must("controller.refer = ?", int(query.refer))
    if query.opened is not None:
        must(f"job.closed_at IS {'NULL' if query.opened else 'NOT NULL'}")
    return " AND ".join(conditions) or "1", values


def find_jobs(db: Connection, query: JobQuery) -> tuple[list[Job], int]:
    """The newest jobs that fit, and how many fit in all."""
    where, values = _where(query)
    joined = "FROM job JOIN controller ON controller.id = job.controller_id"
    count = int(db.execute(f"SELECT count(*) {joined} WHERE {where}", values).fetchone()[0])
    page, more = where, list(values)
    if query.before is not None:
        page += (
            " AND (job.opened_at, job.id) < (SELECT opened_at, id FROM job AS other WHERE id = ?)"
        )
        more.append(query.before)
    rows = db.execute(
        f"SELECT job.* {joined} WHERE {page} ORDER BY job.opened_at DESC, job.id DESC LIMIT ?",
        [*more, query.limit],
    ).fetchall()
    return jobs_from(db, rows), count


@dataclass(frozen=True)
class Counts:
    """Open jobs by station and by what they wait for, and all that were closed."""

    stations: dict[Station, int]
    waiting: dict[Waiting, int]
    refer: int


def count_jobs(db: Connection) -> Counts:
    stations = db.execute("SELECT station, count(*) FROM job GROUP BY station").fetchall()
    waiting = db.execute(
        "SELECT waiting, count(*) FROM job WHERE waiting <> '' AND closed_at IS NULL GROUP BY waiting"
    ).fetchall()
    refer = db.execute(
        "SELECT count(*) FROM job JOIN controller ON controller.id = job.controller_id "
        "WHERE controller.refer AND job.closed_at IS NULL"
    ).fetchone()
    return Counts(dict(map(tuple, stations)), dict(map(tuple, waiting)), int(refer[0]))
