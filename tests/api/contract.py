"""The API held against its own document by schemathesis, on a real server."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from benches import taken_in
from conftest import start_server
from hollow_pin.bench.imports import import_take
from hollow_pin.demo.pictures import photograph
from hollow_pin.store.database import Database
from sticks import performed

AT = "2026-03-01T10:00:00.000+00:00"
CHECKS = (
    "not_a_server_error",
    "status_code_conformance",
    "content_type_conformance",
    "response_schema_conformance",
)


def held_against_its_document(folder: Path, *how: str) -> subprocess.CompletedProcess[str]:
    """Ask a server for everything in every way. It runs on a bench with one of everything, so that
    the ids 1 and 2 lead somewhere. how: options that say which requests are made."""
    database = Database(folder)
    job = taken_in(database, "GS-017", "plover", "left", "", AT)
    for condition in ("worn", "sound"):
        import_take(database, job.id, "left", "t.csv", performed(condition).recording, AT)
    running = start_server(folder)
    with running.client() as http:
        photo = {"file": ("corner.jpg", photograph("shell corner", 1), "image/jpeg")}
        http.post(f"/api/jobs/{job.id}/photos", files=photo).raise_for_status()
        http.post(f"/api/jobs/{job.id}/checks", json={"kind": "take-in"}).raise_for_status()
        http.post(f"/api/jobs/{job.id}/entries", json={"text": "Felt rough."}).raise_for_status()
    ran = subprocess.run(
        [
            Path(sys.executable).with_name("schemathesis"),
            "run",
            f"{running.base}/api/openapi.json",
            f"--checks={','.join(CHECKS)}",
            "--continue-on-failure",
            "--warnings=off",
            # One thread: Python 3.11 cannot parse in two at once, which hypothesis does here.
            "--workers=1",
            "--no-color",
            *how,
        ],
        cwd=folder,
        capture_output=True,
        text=True,
        check=False,
    )
    running.stop()
    return ran
