"""What a shop usually puts down of a remedy, kept under a name to begin with."""

from __future__ import annotations

from sqlite3 import Connection
from typing import Any

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.work_fields import DetailError, Details, checked
from hollow_pin.store.database import Database
from hollow_pin.store.decisions import keep_setting, setting

SETTING = "work-templates"
MOST = 40
OF_THE_DAY = ("recheck_on", "minutes")
"""Fields that belong to one piece of work and to no template."""

Templates = dict[str, dict[str, dict[str, Any]]]
"""By remedy, then by name: what is put down."""


def templates_of(db: Connection) -> Templates:
    return setting(db, SETTING) or {}


def keep_template(database: Database, kind: str, name: str, details: Details) -> Templates:
    """Keep what is usually put down of a remedy; an empty one takes the template away."""
    remedy = BY_CODE.get(kind)
    if remedy is None or not remedy.is_work:
        raise NotFound("remedy", kind)
    if not name.strip():
        raise Refused("A template needs a name.", "name")
    fields = tuple(code for code in remedy.fields if code not in OF_THE_DAY)
    template = {code: v for code, v in details.items() if code not in OF_THE_DAY}
    try:
        to_keep = checked(fields, template)
    except DetailError as wrong:
        raise Refused(str(wrong), f"details.{wrong.field}") from None
    with database.writing() as db:
        every = templates_of(db)
        own = every.setdefault(kind, {})
        if to_keep:
            own[name.strip()] = to_keep
        elif own.pop(name.strip(), None) is None:
            raise Refused("There is nothing to keep: no field is filled.", "details")
        if sum(len(t) for t in every.values()) > MOST:
            raise Refused(f"A shop keeps up to {MOST} templates. Take one away first.", "name")
        keep_setting(db, SETTING, {k: v for k, v in every.items() if v})
        return templates_of(db)
