"""Whole commands, from the shell's point of view: start, reading, computing, writing."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from tests.bench.computation import soak, timed, whole_take

from hollow_pin.formats.recording_csv import write_recording

PLAIN = """
import io, sys
import allantools, numpy, pyarrow.csv
data = open(sys.argv[1], "rb").read()
table = pyarrow.csv.read_csv(io.BytesIO(data[data.index(b"t_us"):]))
for axis in ("x", "y"):
    values = numpy.asarray(table[axis], dtype=float)
    allantools.oadev(values, rate=1000.0, data_type="freq", taus="octave")
"""
"""The yardstick of an hour: its rows read by pyarrow, both axes through allantools, no more."""


def _run(*command: str | Path) -> None:
    subprocess.run([sys.executable, *command], check=True, stdout=subprocess.DEVNULL)


def _command(*arguments: str | Path) -> None:
    _run("-m", "hollow_pin.cli", *arguments)


def starting(folder: Path) -> str:
    """--version, --help, and analyse of a minute, beyond the interpreter's own start."""
    folder.mkdir(exist_ok=True)
    minute = folder / "minute.csv"
    minute.write_text("".join(write_recording(whole_take())))
    bare = timed(lambda: _run("-c", "pass"), 9)
    told = [
        f"{name} {timed(lambda arguments=arguments: _command(*arguments), 5) - bare:.0f} ms"
        for name, arguments in (
            ("--version", ("--version",)),
            ("--help", ("--help",)),
            ("analyse of a minute", ("analyse", minute, "--json")),
        )
    ]
    return f"beyond the interpreter's start of {bare:.0f} ms: {', '.join(told)}"


def a_whole_hour(folder: Path) -> str:
    """analyse of an hour at 1 kHz on two axes, as a command."""
    folder.mkdir(exist_ok=True)
    hour = folder / "hour.csv"
    with hour.open("w") as file:
        file.writelines(write_recording(soak()))
    ours = timed(lambda: _command("analyse", hour, "--json"), 5)
    plain = timed(lambda: _run("-c", PLAIN, hour), 5)
    return (
        f"analyse of an hour at 1 kHz, a whole command: {ours / 1e3:.2f} s; pyarrow and allantools on "
        f"both axes, a whole command: {plain / 1e3:.2f} s; ratio {ours / plain:.2f}"
    )
