"""A disk whose power can be cut and that can be full (disk.c), and what was on it at a cut."""

from __future__ import annotations

import os
import shutil
import struct
import subprocess
from dataclasses import dataclass
from pathlib import Path

SOURCE = Path(__file__).with_name("disk.c")
RECORD = struct.Struct("<cQQQ")


def compiled(folder: Path) -> Path | None:
    """The library; None where there is no C compiler or no Linux to stand before the disk."""
    cc = shutil.which("cc") or shutil.which("gcc")
    if cc is None or not Path("/proc/self/fd").is_dir():
        return None
    made = folder / "disk.so"
    subprocess.run(
        [cc, "-O2", "-shared", "-fPIC", "-o", made, SOURCE, "-ldl", "-lpthread"], check=True
    )
    return made


def environment(
    library: Path, root: Path, log: Path | None = None, full: Path | None = None
) -> dict[str, str]:
    """What a program is started with so that it writes to this disk."""
    variables = {"LD_PRELOAD": str(library), "HP_DISK_ROOT": str(root)}
    variables |= {"HP_DISK_LOG": str(log)} if log else {}
    variables |= {"HP_DISK_FULL": str(full)} if full else {}
    return os.environ | variables


@dataclass
class _File:
    now: bytearray
    kept: bytes


def after_power_cut(
    log: bytes, root: Path, target: Path, before: dict[str, bytes] | None = None
) -> None:
    """Write to a folder what a disk holds that lost its power at the end of a log: of every file what
    was synced, and nothing written since. Names are kept as they were given. before: what the files
    held at the beginning."""
    files = {path: _File(bytearray(body), body) for path, body in (before or {}).items()}
    at = 0
    while at + RECORD.size <= len(log):
        what, named, offset, length = RECORD.unpack_from(log, at)
        at += RECORD.size
        if at + named + length > len(log):
            break
        path = log[at : at + named].decode()
        data = log[at + named : at + named + length]
        at += named + length
        file = files.setdefault(path, _File(bytearray(), b""))
        if what == b"W":
            if len(file.now) < offset + length:
                file.now.extend(bytes(offset + length - len(file.now)))
            file.now[offset : offset + length] = data
        elif what == b"S":
            file.kept = bytes(file.now)
        elif what == b"T":
            del file.now[offset:]
            file.now.extend(bytes(max(0, offset - len(file.now))))
        elif what == b"U":
            del files[path]
        else:
            files[data.decode()] = files.pop(path)
    for path, file in files.items():
        if Path(path) == root or path.endswith("-shm"):
            continue
        inside = target / Path(path).relative_to(root)
        inside.parent.mkdir(parents=True, exist_ok=True)
        inside.write_bytes(file.kept)
