"""The routes of the API, by the part of the job they are for."""

from __future__ import annotations

from fastapi import APIRouter

from hollow_pin.api.problems import RESPONSES


def api_routes(tag: str, prefix: str = "") -> APIRouter:
    """A router below /api whose routes are whole as they are declared, errors and all: so an
    application takes them as they are, and need not make each of them anew when it starts."""
    return APIRouter(prefix=f"/api{prefix}", tags=[tag], responses=RESPONSES)
