"""Pairing another machine with this bench, and the list of those that did."""

from __future__ import annotations

import time
from collections import defaultdict, deque
from dataclasses import asdict
from typing import Annotated

from fastapi import Path, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, Field

from hollow_pin.api.context import Data, ReadOnly, now
from hollow_pin.api.guard import COOKIE
from hollow_pin.api.problems import problem
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Line
from hollow_pin.api.schemas import Request as Body
from hollow_pin.bench import pairing as bench
from hollow_pin.bench.refusal import Refused
from hollow_pin.store.devices import DeviceRole, PairedDevice, all_devices

router = api_routes("devices")
DeviceId = Annotated[int, Path(ge=1, le=2**53)]
TRIES, TRIES_IN_ALL, WITHIN_S = 5, 30, 600.0
KEPT_S = 400 * 24 * 3600


class Pairing(BaseModel):
    """here: this is the bench's own machine. device: what it paired as, where it did."""

    here: bool
    device: PairedDevice | None


class Code(BaseModel):
    code: str
    role: DeviceRole
    expires_at: str


class NewCode(Body):
    role: DeviceRole = "desk"


class NewPairing(Body):
    code: Annotated[str, Field(min_length=1, max_length=40)]
    name: Line = ""


class Tries:
    """How often a code was tried in vain, by whom."""

    def __init__(self) -> None:
        self._by: defaultdict[str, deque[float]] = defaultdict(deque)

    def wait_s(self, who: str) -> float:
        """How long somebody has to wait before the next try; 0 where they may try now."""
        return max(self._seconds_left(who, TRIES), self._seconds_left("", TRIES_IN_ALL))

    def in_vain(self, who: str) -> None:
        for by in (who, ""):
            self._by[by].append(time.monotonic())

    def _seconds_left(self, who: str, most: int) -> float:
        tries, since = self._by[who], time.monotonic() - WITHIN_S
        while tries and tries[0] <= since:
            tries.popleft()
        if not tries:
            del self._by[who]
        return tries[0] - since if len(tries) >= most else 0.0


@router.get("/pairing")
def get_pairing(request: Request) -> Pairing:
    """What this machine is to the bench."""
    return Pairing(here=request.state.here, device=getattr(request.state, "device", None))


@router.post("/pairing", status_code=201, response_model=PairedDevice)
def pair(body: NewPairing, request: Request, database: Data) -> Response:
    """Pair this machine by a code that the bench shows. The answer sets a cookie."""
    tries: Tries = request.app.state.tries
    who = request.client.host if request.client else ""
    wait = tries.wait_s(who)
    if wait:
        late = problem(
            429, "Too often", f"Too many codes were tried. Wait {wait / 60:.0f} minutes."
        )
        late.headers["Retry-After"] = str(int(wait) + 1)
        return late
    try:
        device, token = bench.pair(database, body.code, body.name, now())
    except Refused:
        tries.in_vain(who)
        raise
    answer = JSONResponse(asdict(device), 201)
    answer.set_cookie(
        COOKIE,
        token,
        max_age=KEPT_S,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return answer


@router.get("/devices")
def list_devices(db: ReadOnly) -> list[PairedDevice]:
    """The machines that paired, newest first. For the bench's own machine."""
    return all_devices(db)


@router.post("/devices/codes", status_code=201)
def new_code(body: NewCode, database: Data) -> Code:
    """A code for one machine, to be shown on the bench's own screen."""
    code, expires_at = bench.new_code(database, body.role, now())
    return Code(code=code, role=body.role, expires_at=expires_at)


@router.post("/devices/{device_id}/revoke", status_code=204)
def revoke(device_id: DeviceId, database: Data) -> None:
    """Let a machine in no more."""
    bench.revoke(database, device_id, now())
