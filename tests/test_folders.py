"""A data folder that cannot be used says so in one line, and never opens as an empty bench."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from benches import new_bench
from hollow_pin.store.database import APPLICATION_ID, MARKER, Database, DataError
from test_cli import run


@pytest.fixture
def bench(tmp_path: Path) -> Path:
    database, _ = new_bench(tmp_path / "bench")
    database.close()
    return database.path


def refused(path: Path, match: str) -> None:
    before = sorted(p.name for p in path.parent.iterdir()) if path.parent.is_dir() else []
    with pytest.raises(DataError, match=match) as wrong:
        Database(path.parent)
    assert "\n" not in str(wrong.value)
    if before:
        assert sorted(p.name for p in path.parent.iterdir()) == before, "nothing was changed"


def test_a_database_that_is_gone_is_not_an_empty_bench(bench: Path) -> None:
    bench.unlink()
    refused(bench, "there was a bench in .* is missing. .*hollow-pin restore")
    bench.touch()
    refused(bench, "is empty")
    (bench.parent / MARKER).unlink()
    bench.unlink()
    assert Database(bench.parent).path.exists(), "to begin anew on purpose"


def test_a_lost_database_is_noticed_by_its_log_alone(bench: Path) -> None:
    (bench.parent / MARKER).unlink()
    bench.with_name("hollow-pin.db-wal").write_bytes(b"frames")
    bench.unlink()
    refused(bench, "is missing")


def test_something_else_by_its_name_is_left_alone(bench: Path, tmp_path: Path) -> None:
    bench.write_bytes(b"a letter to the owner, not a database at all, " * 99)
    refused(bench, "is not a database")
    other = tmp_path / "other" / bench.name
    other.parent.mkdir()
    with sqlite3.connect(other) as db:
        db.execute("CREATE TABLE hens (eggs)")
    refused(other, "another program")
    with sqlite3.connect(other) as db:
        db.execute("PRAGMA application_id = 7")
    refused(other, "another program")


def test_a_database_cut_short_is_named_with_what_to_do(bench: Path) -> None:
    size = bench.stat().st_size
    os.truncate(bench, size // 2)
    refused(bench, f"cut short: {size // 2} of {size} bytes .* check --repair")


def test_a_damaged_head_is_named_with_what_to_do(bench: Path) -> None:
    body = bytearray(bench.read_bytes())
    body[100:2000] = os.urandom(1900)
    bench.write_bytes(body)
    with pytest.raises(DataError, match="check --repair"):
        Database(bench.parent)
    assert bench.read_bytes() == body


def test_a_file_in_place_of_the_folder(tmp_path: Path) -> None:
    file = tmp_path / "file"
    file.touch()
    for folder in (file, file / "below"):
        with pytest.raises(DataError, match=r"is a file|cannot be made"):
            Database(folder)
    (tmp_path / "odd" / "hollow-pin.db").mkdir(parents=True)
    with pytest.raises(DataError, match="is a folder"):
        Database(tmp_path / "odd")


def test_a_bench_that_is_taken_away_while_it_is_open_is_not_made_anew(bench: Path) -> None:
    database = Database(bench.parent)
    for file in bench.parent.glob("hollow-pin.db*"):
        file.unlink()
    with pytest.raises(sqlite3.OperationalError), database.writing() as db:
        db.execute("SELECT 1 FROM job")
    assert not bench.exists()


def test_the_folder_is_its_users_alone(bench: Path) -> None:
    bench.parent.chmod(0o755)
    bench.chmod(0o644)
    Database(bench.parent)
    assert bench.parent.stat().st_mode & 0o777 == 0o700
    assert bench.stat().st_mode & 0o777 == 0o600


def test_a_bench_says_whose_it_is(bench: Path) -> None:
    with sqlite3.connect(bench) as db:
        assert db.execute("PRAGMA application_id").fetchone()[0] == APPLICATION_ID


# By the command line: one line, and a status


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (("serve", "--port", "70000", "--data", "{tmp}/a"), "70000 is not a port"),
        (("serve", "--allow-host", "a b", "--data", "{tmp}/a"), "is not a name"),
        (("serve", "--tls-key", "{tmp}/k", "--data", "{tmp}/a"), "k cannot be read"),
        (("serve", "--tls-cert", "{tmp}/c", "--data", "{tmp}/a"), "c cannot be read"),
        (("serve", "--data", "{tmp}/file"), "is a file"),
        (("export", "99999999999999999999", "--data", "{tmp}"), "not a take's number"),
        (("export", "0", "--data", "{tmp}"), "not a take's number"),
        (("analyse", "{tmp}/fifo"), "not a file that can be read"),
        (("analyse", "/dev/zero"), "not a file that can be read"),
        (("analyse", "{tmp}"), "not a file that can be read"),
        (("backup", "--data", "{tmp}/none"), "there is no bench"),
        (("pair", "--data", "{tmp}/none"), "there is no bench"),
        (("restore", "{tmp}/none.db", "--data", "{tmp}/a"), "not there"),
        (("import", "{tmp}/t.csv", "--data", "{tmp}/file"), "is a file"),
    ],
)
def test_what_cannot_be_done_is_one_line_and_status_2(
    tmp_path: Path, args: tuple[str, ...], says: str
) -> None:
    (tmp_path / "file").touch()
    os.mkfifo(tmp_path / "fifo")
    (tmp_path / "t.csv").write_text(
        "# hollow-pin-recording: 1\n# range.x: 0,9\n# range.y: 0,9\n# controller: GS-1\n"
        "# stick: left\nt_us,x,y\n0,1,1\n"
    )
    done = run(*(a.format(tmp=tmp_path) for a in args))
    assert done.returncode == 2
    assert says in done.stderr
    assert "Traceback" not in done.stderr
    assert not (tmp_path / "none").exists()


def test_backup_check_and_restore_by_the_command_line(bench: Path, tmp_path: Path) -> None:
    data = ("--data", str(bench.parent))
    sound = run("check", *data)
    assert (sound.returncode, len(sound.stdout.splitlines())) == (0, 1)
    made = run("backup", str(tmp_path / "stick"), *data)
    copy = Path(made.stdout.splitlines()[-1])
    assert copy.parent == tmp_path / "stick"
    bench.write_bytes(bench.read_bytes()[:20_000])
    cut = run("check", *data)
    assert cut.returncode == 1
    assert "cut short" in cut.stdout
    back = run("restore", str(copy), *data)
    assert back.returncode == 0
    assert "put-aside" in back.stdout
    assert run("check", *data).returncode == 0
    assert run("check", "--data", str(tmp_path / "none")).returncode == 1


def test_mending_by_the_command_line_says_what_is_missing(bench: Path) -> None:
    data = ("--data", str(bench.parent))
    assert "is sound" in run("check", "--repair", *data).stdout
    body = bytearray(bench.read_bytes())
    with closing(sqlite3.connect(bench)) as db:
        (root,) = db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'ledger'").fetchone()
    leaf = 4096 * (root - 1)
    assert b"Plover GS-017" in body[leaf : leaf + 4096]
    body[leaf : leaf + 4096] = os.urandom(4096)
    bench.write_bytes(body)
    done = run("check", "--repair", *data)
    assert "missing" in done.stdout
    assert done.returncode == 1
    assert run("check", *data).returncode == 0
