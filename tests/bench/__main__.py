"""Run the benchmarks and print what they measured.

python -m tests.bench                 a few minutes
python -m tests.bench --live-s 600    with ten minutes of live samples instead of twenty seconds
python -m tests.bench --six-s 3600    with an hour of six axes at 1 kHz
"""

from __future__ import annotations

import argparse
import platform
import tempfile
from pathlib import Path

from tests.bench.commands import a_whole_hour, starting
from tests.bench.computation import (
    an_hour,
    an_hour_imported,
    analysis,
    reading_files,
    tracking,
    whole_routine,
    writing_blocks,
    zooming,
)
from tests.bench.full_bench import full_bench
from tests.bench.live import live_rate, sample_to_screen, six_axes, trace_of_half_a_million


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--live-s", type=float, default=20.0)
    parser.add_argument("--six-s", type=float, default=20.0)
    options = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}\n")
    with tempfile.TemporaryDirectory() as folder:
        for bench in (
            analysis,
            whole_routine,
            tracking,
            reading_files,
            an_hour,
            an_hour_imported,
            zooming,
        ):
            print(bench(), flush=True)
        print(starting(Path(folder) / "commands"), flush=True)
        print(a_whole_hour(Path(folder) / "commands"), flush=True)
        print(full_bench(Path(folder) / "full"), flush=True)
        print(writing_blocks(Path(folder) / "blocks"), flush=True)
        print(live_rate(Path(folder) / "live", options.live_s), flush=True)
        print(six_axes(Path(folder) / "six", options.six_s), flush=True)
        print(sample_to_screen(Path(folder) / "screen"), flush=True)
        print(trace_of_half_a_million(Path(folder) / "trace"), flush=True)


if __name__ == "__main__":
    main()
