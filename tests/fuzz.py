"""Requests at random, other ones each time: `make fuzz`. What is found becomes a test."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from api.contract import held_against_its_document

if __name__ == "__main__":
    examples = sys.argv[1] if len(sys.argv) > 1 else "50"
    with tempfile.TemporaryDirectory() as folder:
        ran = held_against_its_document(
            Path(folder), "--phases=fuzzing,stateful", f"--max-examples={examples}"
        )
    print(ran.stdout + ran.stderr)
    sys.exit(ran.returncode)
