"""The API keeps its own word: whatever is sent, it answers as its OpenAPI document says."""

from __future__ import annotations

import re
from pathlib import Path

from api.contract import held_against_its_document


def test_no_request_breaks_the_server_and_every_answer_is_as_documented(tmp_path: Path) -> None:
    """Every field left out, of the wrong kind, at and beyond its bounds. See also `make fuzz`."""
    ran = held_against_its_document(tmp_path, "--phases=coverage", "--generation-deterministic")
    assert ran.returncode == 0, ran.stdout + ran.stderr
    assert int(re.search(r"(\d+) generated, ", ran.stdout).group(1)) > 2000  # type: ignore[union-attr]
