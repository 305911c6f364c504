"""Changes the code a little, in places drawn by chance, and names what no test notices.

    make mutants                     over a hundred of core and store, half an hour on two cores
    make mutants ARGS="--count 50"   fewer

mutmut makes the changes and runs the tests of core, store and trackers on each, those that reach it;
what comes of it stands in docs/mutants.md. A reason that is written beside a survivor there stays.
Tests that measure dozens of sticks to tell how often something is right are left out: a change that
nothing else notices would wait for all of them, and what they notice is then the least there is.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import re
import shutil
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
WORK = ROOT / "build" / "mutants"
INSTALLED = ROOT / ".venv" / "mutants"
REPORT = ROOT / "docs" / "mutants.md"
FOLDERS = {"core": 0.75, "store": 0.25}
"""What is changed, and its share of the changes."""
TESTED_BY = (
    "tests/core",
    "tests/store",
    "tests/capture/test_tracker.py",
    "tests/capture/test_followers.py",
)
LEFT_OUT = ("test_foreign.py", "test_truth.py", "test_uncertainty.py")
CONFIG = """
[tool.mutmut]
source_paths = ["src"]
only_mutate = [{patterns}]
pytest_add_cli_args_test_selection = [{tests}]
"""
NOTICED = (1, 3, 36, -11, -9)
"""How a run of the tests ends that notices a change: by failing, by never ending or by a crash."""
WORDS = re.compile(r"XX|[A-Z]{4,}")
"""What mutmut makes of a text: a change of words alone."""
LENGTHS = re.compile(r",\s*strict=(True|False|None)|,\s*(?=\))")


@dataclass(frozen=True)
class Change:
    """A change of the code: whether it was noticed, and the lines as they were and became."""

    name: str
    noticed: bool
    was: str
    became: str

    @property
    def place(self) -> str:
        module, _, function = self.name.removeprefix("hollow_pin.").rpartition(".")
        function = re.sub(r"__mutmut_\d+$", "", function)
        parts = function.removeprefix("xǁ").split("ǁ") if "ǁ" in function else [function[2:]]
        return ".".join((module, *parts))

    @property
    def alike(self) -> bool:
        """Whether it does the same: SQL and its names do in either case, and so does what only says
        that two things are of one length where they are."""
        sql = self.name.startswith("hollow_pin.store.")
        if sql and self.was.casefold() == self.became.casefold():
            return True
        return LENGTHS.sub("", self.was) == LENGTHS.sub("", self.became)

    @property
    def of_words(self) -> bool:
        return bool(WORDS.search(self.became)) and not WORDS.search(self.was)


def lay_out() -> None:
    """A copy of the project to be changed."""
    shutil.rmtree(WORK, ignore_errors=True)
    for name in ("src", "tests"):
        ignored = shutil.ignore_patterns("web", "__pycache__")
        shutil.copytree(ROOT / name, WORK / name, ignore=ignored)
    for name in LEFT_OUT:
        next((WORK / "tests").rglob(name)).unlink()
    patterns = ", ".join(f'"src/hollow_pin/{folder}/*"' for folder in FOLDERS)
    tests = ", ".join(f'"{place}"' for place in TESTED_BY)
    config = (ROOT / "pyproject.toml").read_text() + CONFIG.format(patterns=patterns, tests=tests)
    (WORK / "pyproject.toml").write_text(config)
    beside = ROOT.parent / "shared"
    if beside.exists():
        (WORK / "shared").symlink_to(beside)


def mutmut(*arguments: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "mutmut", *arguments]
    environment = os.environ | {"PYTHONPATH": str(INSTALLED)}
    return subprocess.run(
        command, cwd=WORK, env=environment, capture_output=True, text=True, check=False
    )


def outcomes() -> dict[str, int | None]:
    """How each change ended; None where it was not tried."""
    by_mutant: dict[str, int | None] = {}
    for meta in (WORK / "mutants").rglob("*.meta"):
        by_mutant |= json.loads(meta.read_text())["exit_code_by_key"]
    return by_mutant


def change(name: str, code: int) -> Change:
    lines = mutmut("show", name).stdout.splitlines()
    changed = {
        sign: [x[1:].strip() for x in lines if re.match(rf"\{sign}[^+-]", x)] for sign in "-+"
    }
    return Change(name, code in NOTICED, " ".join(changed["-"]), " ".join(changed["+"]))


def reasons() -> dict[tuple[str, str], str]:
    """What was written beside survivors before."""
    if not REPORT.exists():
        return {}
    rows = re.findall(r"^\| `(.+?)` \| `(.*?)` \| `.*?` \| (.*?) \|$", REPORT.read_text(), re.M)
    return {(place, was): reason for place, was, reason in rows}


def cell(text: str) -> str:
    return text.replace("|", "¦").replace("`", "'")


def report(drawn: list[str], seed: int, seconds: float) -> str:
    ended = outcomes()
    codes = {name: ended.get(name) for name in drawn}
    every = [change(name, code) for name, code in codes.items() if code is not None]
    tried = [c for c in every if not c.alike]
    known = reasons()
    rows = []
    for folder in FOLDERS:
        for kind, words in (("rules", False), ("words", True)):
            own = [
                c
                for c in tried
                if c.name.startswith(f"hollow_pin.{folder}.") and c.of_words == words
            ]
            noticed = sum(c.noticed for c in own)
            share = f"{100 * noticed / len(own):.1f} %" if own else ""
            rows.append(f"| `{folder}/`, {kind} | {len(own)} | {noticed} | {share} |")
    listed = [
        f"| `{cell(c.place)}` | `{cell(c.was)}` | `{cell(c.became)}` | "
        f"{known.get((cell(c.place), cell(c.was)), '')} |"
        for c in sorted(tried, key=lambda c: c.place)
        if not c.noticed and not c.of_words
    ]
    return "\n".join(
        [
            "# What no test notices",
            "",
            f"Written by `make mutants` ({seconds:.0f} s): {len(tried)} small changes of the code, "
            f"drawn by chance (seed {seed}) from {len(ended)} that could be made, each put before the "
            "tests of core, store and trackers that reach it. Constants of a module are not among "
            "them: those are pinned at their edges by the tests of what they rule. "
            f"{len(every) - len(tried)} more only put SQL into capitals or out of them, or took back "
            "that two things are of one length, and are not counted. Tests that measure dozens of "
            f"sticks by chance ({', '.join(LEFT_OUT)}) were left out.",
            "",
            "| where | changes | noticed | |",
            "| --- | ---: | ---: | ---: |",
            *rows,
            "",
            "Those of rules that were not noticed:",
            "",
            "| place | was | became | why it stays |",
            "| --- | --- | --- | --- |",
            *listed,
            "",
        ]
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=140)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    began = time.monotonic()
    lay_out()
    mutmut("run", "--max-children", "2", "no.such.change")
    names = sorted(outcomes())
    if not names:
        sys.exit("No change could be made: is mutmut there? make mutants installs it.")
    chance = random.Random(options.seed)
    drawn = []
    for folder, share in FOLDERS.items():
        own = [name for name in names if name.startswith(f"hollow_pin.{folder}.")]
        drawn += chance.sample(own, min(round(share * options.count), len(own)))
    mutmut("run", "--max-children", "2", *drawn)
    REPORT.write_text(report(drawn, options.seed, time.monotonic() - began), "utf-8")
    print(REPORT.read_text("utf-8"))


if __name__ == "__main__":
    main()
