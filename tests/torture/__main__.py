"""`make torture`: what a bench should survive, at length, on this machine alone. A row a trial;
docs/reliability.md holds the last ones."""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
import warnings
from collections.abc import Callable
from pathlib import Path

from core.test_total import measured_through
from formats.test_bounds import mutate_and_read
from formats.test_picture import mutate_and_remake
from hollow_pin.formats.recording_csv import write_recording
from sticks import performed
from torture.beside import copies_beside_a_take
from torture.clock import move_the_clock
from torture.disk import compiled
from torture.full import fill_at_random
from torture.hostile import ask_hostile_things
from torture.kills import kill_at_random
from torture.power import confirmed_writes, lost_in_cuts, lost_in_migrations
from torture.soak import soak

Told = tuple[list[str], str]


def kills(folder: Path, count: int, seed: int) -> Told:
    faults, confirmed = kill_at_random(folder / "bench", count, seed)
    return faults, f"{count} kills, {confirmed} confirmed writes"


def power(folder: Path, count: int, seed: int) -> Told:
    library, data, log = compiled(folder), folder / "bench", folder / "log"
    if library is None:
        return [], "not tried: there is no C compiler"
    data.mkdir()
    confirmed = confirmed_writes(data, library, log, 40)
    faults = lost_in_cuts(log, data, confirmed, folder, count, seed)
    older = folder / "older"
    older.mkdir()
    faults += lost_in_migrations(older, library, count // 2, seed)
    return faults, f"{count} cuts, and {count // 2} while migrating"


def full(folder: Path, count: int, seed: int) -> Told:
    library, data = compiled(folder), folder / "bench"
    if library is None:
        return [], "not tried: there is no C compiler"
    data.mkdir()
    faults, answered = fill_at_random(data, library, count, seed)
    text = ", ".join(f"{n} times {status}" for status, n in sorted(answered.items()))
    return faults, f"{count} times full; answered {text}"


def files(_: Path, count: int, seed: int) -> Told:
    whole = "".join(write_recording(performed("worn").recording)).encode()[:40_000]
    read = mutate_and_read(whole, count, seed)
    made = mutate_and_remake(count // 5, seed)
    return (
        [],
        f"{count} mutated tables by four readers, {read} read; {count // 5} pictures, {made} made",
    )


def samples(_: Path, count: int, seed: int) -> Told:
    warnings.simplefilter("ignore")
    for i in range(count):
        measured_through(seed * 10**7 + i)
    return [], f"{count} takes of anything measured"


def requests(folder: Path, count: int, seed: int) -> Told:
    faults, answers = ask_hostile_things(folder / "bench", count, seed)
    return faults, answers


def clock(folder: Path, count: int, seed: int) -> Told:
    return move_the_clock(folder, count, seed), f"the clock moved {count} times"


def beside(folder: Path, count: int, _: int) -> Told:
    return copies_beside_a_take(folder / "bench", count)


def hours(folder: Path, count: int, _: int) -> Told:
    return soak(folder / "bench", count)


TRIALS: dict[str, tuple[Callable[[Path, int, int], Told], int]] = {
    "kills": (kills, 200),
    "power": (power, 100),
    "full": (full, 50),
    "files": (files, 10_000),
    "samples": (samples, 100_000),
    "requests": (requests, 5_000),
    "clock": (clock, 50),
    "beside": (beside, 10),
    "hours": (hours, 8),
}


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("trial", nargs="*", choices=[*TRIALS, []], help="default: all of them")
    parser.add_argument("--share", type=float, default=1.0, help="of the usual number, such as 0.1")
    parser.add_argument("--seed", type=int, default=int(time.time()) % 10_000)
    args = parser.parse_args()
    bad = 0
    for name in args.trial or TRIALS:
        trial, usual = TRIALS[name]
        began = time.monotonic()
        with tempfile.TemporaryDirectory() as folder:
            faults, said = trial(Path(folder), max(1, round(usual * args.share)), args.seed)
        bad += len(faults)
        print(f"{name}: {said}; {len(faults)} faults, {time.monotonic() - began:.0f} s", flush=True)
        for fault in faults[:20]:
            print(f"  {fault}")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
