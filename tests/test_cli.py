"""The command line: its numbers, its one line of error, its exit status, its words of help."""

from __future__ import annotations

import io
import json
import re
import subprocess
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path

import httpx
import pytest

from conftest import Server, new_job
from hollow_pin.cli import main
from hollow_pin.formats.recording_csv import write_recording
from sticks import performed


def run(*args: str) -> subprocess.CompletedProcess[str]:
    """A command: what it prints, and the status it ends with."""
    printed, complained = io.StringIO(), io.StringIO()
    with redirect_stdout(printed), redirect_stderr(complained):
        try:
            status = main(list(args))
        except SystemExit as ended:
            status = int(ended.code or 0)
    return subprocess.CompletedProcess(args, status, printed.getvalue(), complained.getvalue())


@pytest.fixture
def take_file(tmp_path: Path) -> Path:
    path = tmp_path / "take.csv"
    path.write_text("".join(write_recording(performed("worn").recording)))
    return path


def test_analyse_prints_every_reading_by_its_name(take_file: Path) -> None:
    done = run("analyse", str(take_file), "--json")
    assert done.returncode == 0
    body = json.loads(done.stdout)
    assert body["recording"]["axes"] == ["x", "y"]
    assert body["recording"]["range"] == {"x": [0, 1023], "y": [0, 1023]}
    assert {"rest_x", "jitter_pp_y", "adev_x", "creep_y", "gaps"} <= body["still"].keys()
    assert len(body["rim"]["radius"]) == 72
    assert body["let_go"]["releases"] == 16
    assert set(body["composite"]) == {
        "dead_zone_needed",
        "dead_zone_after_recentring",
        "circularity_after_recalibration",
        "shape_after_recalibration",
        "gate_seen",
    }
    assert {"passes", "track_noise", "rough_spots", "dead_spans"} <= body["crossing"]["y"].keys()
    assert len(body["crossing"]["x"]["track_noise"]) == 50
    assert {"bearing", "level", "sag", "hold_jitter", "dropouts"} <= body["hold"][3].keys()
    assert body["turn"] is None
    assert body["problems"] == []


def test_analyse_says_what_it_means_in_words(take_file: Path) -> None:
    done = run("analyse", str(take_file))
    assert "It comes back to different places" in done.stdout
    assert "Returns apart" in done.stdout
    creep = next(line for line in done.stdout.splitlines() if "Creep x" in line)
    assert re.search(r"\d\.\d\d %/min", creep), "whole per cents a minute would say nothing"
    assert not re.search(r"-0(\.0+)? ", done.stdout)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "the file is empty"),
        (
            b"# hollow-pin-recording: 1\n# range.x: 0,9\n# range.y: 0,9\nt_us,x,y\n0,1,zz\n",
            "line 5, column y",
        ),
    ],
)
def test_an_unreadable_file_ends_with_2_and_one_line(
    tmp_path: Path, content: bytes, says: str
) -> None:
    path = tmp_path / "bad.csv"
    path.write_bytes(content)
    done = run("analyse", str(path), "--json")
    assert done.returncode == 2
    assert done.stdout == ""
    assert len(done.stderr.splitlines()) == 1
    assert says in done.stderr


def test_a_huge_and_a_missing_file_are_refused_in_one_line(tmp_path: Path) -> None:
    big = tmp_path / "big.csv"
    with big.open("wb") as file:
        file.truncate(300_000_000)
    for path in (big, tmp_path / "nothing.csv", tmp_path):
        done = run("analyse", str(path))
        assert done.returncode == 2
        assert len(done.stderr.splitlines()) == 1


def test_import_then_export_gives_the_same_samples(tmp_path: Path, take_file: Path) -> None:
    data = str(tmp_path / "bench")
    args = ("import", str(take_file), "--tag", "GS-017", "--stick", "left", "--data", data)
    refused = run(*args)
    assert refused.returncode == 2
    assert "which model" in refused.stderr
    assert run(*args, "--model", "plover").returncode == 0
    out = tmp_path / "out.csv"
    assert run("export", "1", "--output", str(out), "--data", data).returncode == 0
    rows = [s for s in out.read_text().splitlines() if s[0].isdigit()]
    assert rows == [s for s in take_file.read_text().splitlines() if s[0].isdigit()]
    again = run("import", str(out), "--data", data)
    assert again.stdout == "Take 2 of GS-017, left stick, as received: job 1.\n"
    assert run("export", "9", "--data", data).returncode == 2
    assert run("export", "1", "--output", str(out), "--data", data).returncode == 2, (
        "kept as it was"
    )


def test_two_servers_do_not_share_a_bench(server: Server) -> None:
    done = run("serve", "--port", "0", "--data", str(server.data))
    assert done.returncode == 2
    assert "in use by another" in done.stderr


def test_a_taken_port_is_named(server: Server, tmp_path: Path) -> None:
    done = run("serve", "--port", str(server.port), "--data", str(tmp_path / "other"))
    assert done.returncode == 2
    assert f"127.0.0.1:{server.port}" in done.stderr


def test_import_beside_a_running_server_is_seen_by_it(
    server: Server, http: httpx.Client, take_file: Path
) -> None:
    job = new_job(http, "GS-900")
    done = run("import", str(take_file), "--tag", "GS-900", "--data", str(server.data))
    assert done.returncode == 0, done.stderr
    assert len(http.get(f"/api/jobs/{job}").json()["takes"]) == 1


def test_help_teaches_every_command() -> None:
    assert "hollow-pin analyse take.csv" in run("--help").stdout
    for command in ("serve", "demo", "analyse", "gauge", "jig", "export", "import"):
        done = run(command, "--help")
        assert done.returncode == 0
        assert len(done.stdout.splitlines()) > 6
