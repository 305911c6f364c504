"""A gauge study in a file, and the command that takes it apart."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from core.test_gauge import PUBLISHED
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.gauge_csv import read_gauge_study

ROWS = [
    f"part {p + 1},{'ABC'[o]},{t + 1},{PUBLISHED[p, o, t]}"
    for t in range(3)
    for o in range(3)
    for p in range(10)
]
STUDY = "part,operator,trial,value\n" + "\n".join(ROWS) + "\n"


def test_the_rows_may_come_in_any_order() -> None:
    assert (read_gauge_study(STUDY.encode()) == PUBLISHED).all()
    again = "trial,value,part,operator\n" + "\n".join(
        f"{t},{v},{p},{o}" for p, o, t, v in (row.split(",") for row in reversed(ROWS))
    )
    assert read_gauge_study(again.encode()).shape == (10, 3, 3)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "the file is empty"),
        ("part,operator,value\n1,a,2\n", "line 1: the column trial is missing"),
        (STUDY.replace("0.29", "lots", 1), "line 2, column value: “lots” is not a number"),
        (STUDY.replace("part 1,A,1", ",A,1", 1), "line 2, column part: is empty"),
        (STUDY + ROWS[0] + "\n", "line 92: part part 1, operator A, trial 1 stands in two rows"),
        ("\n".join(STUDY.splitlines()[:-1]), "there is no value for part part 10, operator C"),
        ("part,operator,trial,value\n1,a,1,2\n", "one trial shows no repeatability"),
    ],
)
def test_what_is_wrong_is_named_with_its_place(text: str, says: str) -> None:
    with pytest.raises(FileError, match=says):
        read_gauge_study(text.encode())


def test_the_command_prints_the_published_study(tmp_path: Path) -> None:
    path = tmp_path / "study.csv"
    path.write_text(STUDY)
    command = [sys.executable, "-m", "hollow_pin.cli", "gauge", str(path)]
    done = subprocess.run([*command, "--json"], capture_output=True, text=True, check=True)
    body = json.loads(done.stdout)
    assert body["gauge_rr"] == pytest.approx(0.302373, abs=2e-6)
    assert body["ndc"] == 4
    assert set(body["percent_study_variation"]) == {
        "repeatability",
        "reproducibility",
        "gauge_rr",
        "part",
        "total",
    }
    words = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    assert "27.9 %" in words
    assert "not significant" in words
    path.write_text("part\n")
    failed = subprocess.run(command, capture_output=True, text=True, check=False)
    assert failed.returncode == 2
    assert failed.stderr.count("\n") == 1
