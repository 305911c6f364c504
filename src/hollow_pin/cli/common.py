"""What several commands take: a data folder, a file, the time."""

from __future__ import annotations

import argparse
import os
import stat
from datetime import UTC, datetime
from pathlib import Path

from hollow_pin.cli.errors import Unusable
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.table import require_size


def default_data() -> Path:
    base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(base) / "hollow-pin"


def takes_data(parser: argparse.ArgumentParser, data: Path | None = None) -> None:
    """--data, where it may be named."""
    usual = data or default_data()
    parser.add_argument("--data", type=Path, default=usual, metavar="DIR", help=f"default: {usual}")


def now() -> str:
    """The time, ISO 8601, UTC."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def read_file(path: Path) -> bytes:
    try:
        status = path.stat()
        if not stat.S_ISREG(status.st_mode):
            raise Unusable(f"{path} is not a file that can be read from beginning to end.")
        require_size(status.st_size)
        return path.read_bytes()
    except (OSError, ValueError) as wrong:
        if isinstance(wrong, FileError):
            raise
        raise Unusable(f"{path}: {getattr(wrong, 'strerror', None) or wrong}") from None
