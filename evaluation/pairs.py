"""What is claimed of sticks that nobody touched, by kind of source: `make pairs` writes docs/pairs.md.

Every stick is one of `hollow_pin.simulator.cases`, taken twice by two hands. Where the foreign sticks
lie beside the project they are taken as well.
"""

from __future__ import annotations

import argparse
import importlib.util
import sys
import time
import warnings
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from hollow_pin.core.comparable import Setting
from hollow_pin.core.comparison import compare
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.cases import SENT, case, path

ROOT = Path(__file__).parents[1]
PAGE = ROOT / "docs" / "pairs.md"
FOREIGN = ROOT.parent / "shared" / "foreign" / "sticks.py"
HERE = Setting("untouched", "left", "stand-in", "round")
CLAIMED = ("better", "worse", "mixed")
FAULTS: tuple[dict, ...] = (
    {},
    {"wear": 6.0},
    {"offset": (7.0, -3.0)},
    {"noise": 0.8},
    {"bind": 6.0, "bind_bearing": 90.0},
    {"loose": 0.3},
    {"spikes_pm": 15.0},
    {"gate": "square"},
    {"sag": 6.0},
    {"scale": (0.85,) * 4},
)

Found = tuple[str, str, tuple[str, ...]]


def _own(seed: int) -> list[Found]:
    """One stick's two movements, by every kind of source; none of one that no hand brings through the
    routine."""
    warnings.simplefilter("ignore")
    try:
        paths = [path(seed, seed % 5 == 4, hand) for hand in (1, 2)]
    except RuntimeError:
        return []
    claimed = []
    for sent in SENT:
        made = [case(one, seed, sent=sent) for one in paths]
        takes = [measure_take(m.recording, m.gate) for m in made]
        compared = compare(takes[0], takes[1], HERE, HERE)
        claimed.append((str(sent), compared.overall, tuple(r.path for r in compared.telling)))
    return claimed


def foreign_take(seed: int, hand: int, **fault: Any) -> TakeReadings:
    """A foreign stick, taken by a hand. fault: as theirs."""
    if "foreign_sticks" not in sys.modules:
        known = importlib.util.spec_from_file_location("foreign_sticks", FOREIGN)
        assert known is not None
        assert known.loader is not None
        sys.modules["foreign_sticks"] = importlib.util.module_from_spec(known)
        known.loader.exec_module(sys.modules["foreign_sticks"])
    sticks = sys.modules["foreign_sticks"]
    wanted = sticks.Fault(seed=seed + 10_007 * hand, track_seed=seed, **fault)
    take = sticks.record(wanted)
    raw = np.column_stack((take.x, take.y)).astype(float)
    step = np.array([STEPS.index(s) for s in take.step], np.int8)
    recording = Recording(take.t, raw, (AxisRange(0, 2**wanted.bits - 1),) * 2, step)
    return measure_take(recording, fault.get("gate", "round"))


def foreign_pair(seed: int) -> tuple[TakeReadings, TakeReadings]:
    """One foreign stick, taken twice by two hands."""
    fault = FAULTS[seed % len(FAULTS)]
    return foreign_take(seed, 1, **fault), foreign_take(seed, 2, **fault)


def _foreign(seed: int) -> Found:
    warnings.simplefilter("ignore")
    comparison = compare(*foreign_pair(seed), HERE, HERE)
    return "foreign sticks", comparison.overall, tuple(r.path for r in comparison.telling)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--each", type=int, default=1000, help="pairs of every kind of source")
    parser.add_argument("--seed", type=int, default=5_000_000, help="of the first")
    args = parser.parse_args()
    began = time.monotonic()
    with ProcessPoolExecutor() as pool:
        seeds = range(args.seed, args.seed + args.each)
        claimed = [one for every in pool.map(_own, seeds, chunksize=4) for one in every]
        if FOREIGN.exists():
            claimed += pool.map(_foreign, seeds, chunksize=4)
    PAGE.write_text(page(claimed, time.monotonic() - began), "utf-8")
    print(PAGE.read_text("utf-8"))


def page(found: list[Found], seconds: float) -> str:
    by_kind: dict[str, Counter] = defaultdict(Counter)
    telling: Counter = Counter()
    for kind, overall, paths in found:
        by_kind[kind][overall] += 1
        if overall in CLAIMED:
            telling.update(paths)
    lines = [
        "# What is claimed where nothing was done",
        "",
        f"Written by `make pairs` ({seconds:.0f} s), with seeds that no test uses. One stick, taken "
        "twice by two hands: pressing harder or less, faster or slower, another line across, another "
        "way out to the rim. Every fault of the bench alone and in pairs, from barely worth a word to "
        "ruined; every gate, rate and width.",
        "",
        "| source | pairs | better, worse or mixed | little | no change | other |",
        "| --- | ---: | ---: | ---: | ---: | ---: |",
    ]
    for kind, counts in by_kind.items():
        n = sum(counts.values())
        claimed = sum(counts[c] for c in CLAIMED)
        rest = n - claimed - counts["little"] - counts["no-change"]
        lines.append(
            f"| {kind} | {n} | {claimed} ({100 * claimed / n:.1f} %) | {counts['little']} "
            f"| {counts['no-change']} | {rest} |"
        )
    lines += ["", "What was claimed to have changed, the most often first:", ""]
    lines += [f"- `{path}`: {times}" for path, times in telling.most_common(8)]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    main()
