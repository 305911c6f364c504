"""The command line: its numbers, its one line of error, its exit status, its words of help."""

from __future__ import annotations

import io
import json
import re
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import replace
from pathlib import Path

import httpx
import numpy as np
import pytest

from conftest import Server, new_job
from hollow_pin.cli.main import COMMANDS, main
from hollow_pin.core.recording import NO_STEP, STEPS
from hollow_pin.core.routine import BY_ID
from hollow_pin.formats.recording_csv import write_recording
from hollow_pin.simulator.conditions import fresh_stick
from sticks import performed, performed_by, picked


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
        "outer_dead_zone_needed",
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


def test_no_cause_is_said_to_be_certain(tmp_path: Path) -> None:
    path = tmp_path / "take.csv"
    path.write_text("".join(write_recording(performed("failing").recording)))
    printed = json.loads(run("analyse", str(path), "--json").stdout)["diagnosis"]
    assert max(c["probability"] for c in printed) >= 0.995
    words = run("analyse", str(path)).stdout.split("What it may be:")[1]
    assert "> 99 %" in words
    assert "100 %" not in words


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


def test_a_stick_is_named_where_its_model_has_more_than_one(
    tmp_path: Path, take_file: Path
) -> None:
    data = str(tmp_path / "bench")
    args = ("import", str(take_file), "--data", data, "--model")
    refused = run(*args, "plover", "--tag", "GS-017")
    assert refused.returncode == 2
    assert "Name it with --stick: left or right." in refused.stderr
    assert "dunlin" not in refused.stderr
    assert run(*args, "dunlin", "--tag", "GS-018").returncode == 0
    assert (
        run(*args, "curlew", "--tag", "GS-019").stderr == "hollow-pin: There is no model curlew.\n"
    )
    assert "which model is it?" in run(*args[:-1], "--tag", "GS-019").stderr


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
    assert set(COMMANDS) >= {"compare", "backup", "restore", "check", "pair"}
    for command in COMMANDS:
        done = run(command, "--help")
        assert done.returncode == 0
        assert len(done.stdout.splitlines()) > 6


@pytest.fixture
def many_files(tmp_path: Path) -> dict[str, Path]:
    files = {}
    for condition in ("worn", "sound", "offset"):
        files[condition] = tmp_path / f"{condition}.csv"
        files[condition].write_text("".join(write_recording(performed(condition).recording)))
    files["bad"] = tmp_path / "bad.csv"
    files["bad"].write_text("hens\n1\n")
    return files


def test_many_files_are_an_object_a_line_in_the_order_given(many_files: dict[str, Path]) -> None:
    given = [many_files[n] for n in ("worn", "bad", "sound")]
    done = run("analyse", *map(str, given), str(many_files["worn"].parent / "none"), "--json")
    assert done.returncode == 2
    lines = [json.loads(line) for line in done.stdout.splitlines()]
    assert [line["file"] for line in lines[:3]] == [str(p) for p in given]
    assert lines[0]["let_go"]["return_spread"] > lines[2]["let_go"]["return_spread"]
    assert set(lines[1]) == set(lines[3]) == {"file", "error"}
    assert "line 1" in lines[1]["error"]
    both = run("analyse", str(given[0]), str(given[2]), "--json")
    assert both.returncode == 0
    alone = json.loads(run("analyse", str(given[2]), "--json").stdout)
    assert json.loads(both.stdout.splitlines()[1]) == {"file": str(given[2])} | alone


def test_compare_says_whether_it_got_better_and_how_surely(many_files: dict[str, Path]) -> None:
    before, after = str(many_files["worn"]), str(many_files["sound"])
    done = run("compare", before, after, "--json")
    assert done.returncode == 0
    body = json.loads(done.stdout)
    assert body["overall"] == "better"
    assert body["sentence"].startswith("Better. ")
    assert (body["refusals"], body["cautions"]) == ([], [])
    spread = next(r for r in body["readings"] if r["reading"] == "let_go.return_spread")
    assert spread["change"] == pytest.approx(spread["after"] - spread["before"])
    assert abs(spread["change"]) > 2 * spread["u_change"]
    # A spread of returns is limited at 4 %, of which a tenth is the least that decides.
    assert abs(spread["change"]) > spread["detectable"] >= 0.4
    unlimited = next(r for r in body["readings"] if r["limit"] is None)
    assert unlimited["detectable"] is None
    assert (spread["verdict"], spread["before_limit"], spread["after_limit"]) == (
        "better",
        "over",
        "within",
    )
    assert json.loads(run("compare", after, before, "--json").stdout)["overall"] == "worse"
    words = run("compare", before, after).stdout
    assert words.startswith("Better. ")
    assert "Returns apart" in words


def test_what_was_wrong_where_the_second_file_never_went_is_not_told_as_mended(
    tmp_path: Path,
) -> None:
    sound = performed("sound").recording
    quick = picked(sound, np.isin(sound.step, [STEPS.index(s) for s in BY_ID["quick"].steps]))
    takes = {"failing": performed("failing").recording, "quick": quick, "whole": sound}
    for name, recording in takes.items():
        (tmp_path / name).write_text("".join(write_recording(recording)))
    before = str(tmp_path / "failing")
    unseen = "What was wrong showed in Crossing x and Hold, and that was not measured again."
    body = json.loads(run("compare", before, str(tmp_path / "quick"), "--json").stdout)
    assert body["sentence"].endswith(unseen)
    assert unseen not in run("compare", before, str(tmp_path / "whole")).stdout
    of_another = "".join(write_recording(quick)).replace("# y-", "# controller: GS-2\n# y-", 1)
    (tmp_path / "other").write_text(of_another)
    assert unseen not in run("compare", before, str(tmp_path / "other")).stdout


@pytest.fixture(scope="module")
def square_files(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """A sound stick in a square gate, in files that do not say so: a whole take, and one without a
    rim."""
    stick = fresh_stick("hall", "square", 12, 250.0, "sound", 3)
    whole = performed_by(stick, 3).recording
    no_rim = replace(whole, step=np.where(whole.step == STEPS.index("rim"), NO_STEP, whole.step))
    folder = tmp_path_factory.mktemp("square")
    for name, recording in (("whole", whole), ("no-rim", no_rim)):
        headers = {k: v for k, v in recording.headers.items() if k != "gate"}
        (folder / name).write_text("".join(write_recording(replace(recording, headers=headers))))
    return folder / "whole", folder / "no-rim"


def test_a_file_that_names_no_gate_is_held_against_the_one_it_looks_like(
    square_files: tuple[Path, Path],
) -> None:
    """Against a round one a sound stick was to be recalibrated."""
    whole, no_rim = map(str, square_files)
    body = json.loads(run("analyse", whole, "--json").stdout)
    assert body["diagnosis"][0]["cause"] == "sound"
    assert any(p["code"] == "gate-found" for p in body["problems"])
    printed = json.loads(run("analyse", whole, "--gate", "square", "--json").stdout)
    assert printed["rim"] == body["rim"]
    against = json.loads(run("analyse", whole, "--gate", "round", "--json").stdout)
    assert against["rim"]["circularity_error"] > 5 + body["rim"]["circularity_error"]
    for before, after in ((whole, no_rim), (no_rim, whole), (whole, whole)):
        compared = json.loads(run("compare", before, after, "--json").stdout)
        assert compared["overall"] in ("no-change", "little", "missing"), "they are of one stick"
    as_round = no_rim.replace("no-rim", "as-round")
    text = square_files[0].read_text()
    Path(as_round).write_text(text.replace("# y-positive", "# gate: round\n# y-positive", 1))
    for pair in ((as_round, whole), (whole, as_round)):
        compared = json.loads(run("compare", *pair, "--json").stdout)
        rim = next(r for r in compared["readings"] if r["reading"] == "rim.circularity_error")
        assert rim["before"] == rim["after"], "what one of them says is so of the other"


def test_takes_of_two_sticks_are_refused_which_is_an_answer(many_files: dict[str, Path]) -> None:
    text = many_files["sound"].read_text()
    many_files["sound"].write_text(text.replace("# y-positive", "# controller: GS-2\n# y-positive"))
    done = run("compare", str(many_files["worn"]), str(many_files["sound"]), "--json")
    assert done.returncode == 0
    body = json.loads(done.stdout)
    assert body["overall"] == "refused"
    assert "different sticks" in body["refusals"][0]
    assert body["readings"] == []
    missing = run("compare", str(many_files["worn"]), str(many_files["bad"]))
    assert missing.returncode == 2
    assert len(missing.stderr.splitlines()) == 1


LOADED = """
import sys
from hollow_pin.cli.main import main
try:
    main([sys.argv[1]])
except SystemExit:
    print(sorted(m for m in sys.modules if m in ("numpy", "pyarrow", "fastapi", "sqlite3")))
"""


def test_a_command_loads_what_it_needs_and_no_more() -> None:
    """A shop's script asks for the version a hundred times a day."""
    for asked in ("--version", "--help"):
        done = subprocess.run(
            [sys.executable, "-c", LOADED, asked], capture_output=True, text=True, check=True
        )
        assert done.stdout.splitlines()[-1] == "[]"


ANALYSED = """
import sys
from hollow_pin.cli.main import main
main(["analyse", sys.argv[1], "--json"])
heavy = ("scipy.ndimage", "scipy.optimize", "scipy.signal", "scipy.stats", "numpy.f2py", "fastapi")
print(sorted(m for m in sys.modules if m in heavy))
"""


def test_a_minute_is_analysed_without_loading_what_takes_longer_than_it(
    many_files: dict[str, Path],
) -> None:
    """A library that was loaded for one mean made it two thirds of a second, of half a second."""
    done = subprocess.run(
        [sys.executable, "-c", ANALYSED, many_files["worn"]],
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout.splitlines()[-1] == "[]"
