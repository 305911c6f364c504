"""Letting another machine in: a code shown on the bench's own screen, typed in there, once."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta

from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.store.database import Database
from hollow_pin.store.devices import (
    DeviceRole,
    PairedDevice,
    add_device,
    device_of,
    keep_code,
    mark_seen,
    revoke_device,
    use_code,
)

ALPHABET = "2346789BCDFGHJKMPQRTVWXY"
"""Nothing that is taken for something else, and no words."""
CODE_LENGTH = 10
EXPIRES = timedelta(minutes=10)
SEEN_EVERY = timedelta(minutes=10)
LONGEST_NAME = 80


def _hashed(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def new_code(database: Database, role: DeviceRole, now: str) -> tuple[str, str]:
    """A code by which one machine may pair, and when it expires. Ten of 24 signs are 46 bits: more
    than anybody tries in ten minutes, of the hash as well."""
    code = "".join(secrets.choice(ALPHABET) for _ in range(CODE_LENGTH))
    expires = (datetime.fromisoformat(now) + EXPIRES).isoformat(timespec="milliseconds")
    with database.writing() as db:
        keep_code(db, _hashed(code), role, expires)
    return f"{code[:5]}-{code[5:]}", expires


def pair(database: Database, code: str, name: str, now: str) -> tuple[PairedDevice, str]:
    """Pair a machine by a code: the device, and the token it is known by from now on. Refused for a
    code that is not known, too old, or used."""
    named = " ".join(name.split())[:LONGEST_NAME] or "A device"
    typed = "".join(code.upper().replace("-", "").split())
    token = secrets.token_urlsafe(32)
    with database.writing() as db:
        role = use_code(db, _hashed(typed), now)
        if role is not None:
            return add_device(db, named, role, _hashed(token), now), token
    raise Refused(
        "This code is not known here, was used, or is too old. Have a new one shown at the bench.",
        "code",
    )


def known_device(database: Database, token: str, now: str) -> PairedDevice | None:
    """The device a token belongs to; when it was seen is kept now and then."""
    with database.reading() as db:
        device = device_of(db, _hashed(token))
    if device is None:
        return None
    if datetime.fromisoformat(now) - datetime.fromisoformat(device.seen_at) > SEEN_EVERY:
        with database.writing() as db:
            mark_seen(db, device.id, now)
    return device


def revoke(database: Database, device_id: int, now: str) -> None:
    """Let a machine in no more."""
    with database.writing() as db:
        if not revoke_device(db, device_id, now):
            raise NotFound("paired device", device_id)


def may(role: DeviceRole, method: str, path: str, capture: bool) -> bool:
    """Whether a paired machine may ask for something. A viewer looks; a desk does what is done without
    a controller in the hand; a bench does everything. capture: whether it is of a take or a check."""
    if path.startswith("/api/devices"):
        return False
    if method in ("GET", "HEAD"):
        return True
    return role == "bench" or (role == "desk" and not capture)
