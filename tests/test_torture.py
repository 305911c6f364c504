"""A little of what `make torture` does at length: the power cut, the disk full, the server killed."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import new_job, start_server
from torture.beside import copies_beside_a_take
from torture.disk import compiled
from torture.full import fill_at_random, server_on
from torture.kills import kill_at_random
from torture.power import confirmed_writes, lost_in_cuts, lost_in_migrations


@pytest.fixture
def library(tmp_path: Path) -> Path:
    made = compiled(tmp_path)
    if made is None:
        pytest.skip("a C compiler and Linux are needed to stand before the disk")
    return made


def test_a_power_cut_loses_nothing_that_was_confirmed(tmp_path: Path, library: Path) -> None:
    data, log = tmp_path / "bench", tmp_path / "log"
    data.mkdir()
    confirmed = confirmed_writes(data, library, log, 12)
    assert lost_in_cuts(log, data, confirmed, tmp_path, 4, seed=7) == []


def test_a_power_cut_while_a_bench_is_brought_up_to_date_costs_nothing(
    tmp_path: Path, library: Path
) -> None:
    assert lost_in_migrations(tmp_path, library, 6, seed=5) == []


def test_a_full_disk_is_named_and_passes(tmp_path: Path, library: Path) -> None:
    data = tmp_path / "bench"
    data.mkdir()
    faults, answered = fill_at_random(data, library, 2, seed=3)
    assert faults == []
    assert answered.get(507, 0) > 0


def test_a_bench_on_a_full_disk_can_be_read(tmp_path: Path, library: Path) -> None:
    data = tmp_path / "bench"
    data.mkdir()
    first = start_server(data)
    with first.client() as http:
        job = new_job(http)
    first.stop()
    (tmp_path / "full").touch()
    server, sign = server_on(data, library)
    with server.client() as http:
        assert http.get(f"/api/jobs/{job}").json()["job"]["complaint"] == "creeps"
        refused = http.post(f"/api/jobs/{job}/entries", json={"text": "no room"})
        assert refused.status_code in (503, 507)
        sign.unlink()
        entry = http.post(f"/api/jobs/{job}/entries", json={"text": "room again"})
        assert entry.status_code == 201
        assert "room again" in http.get(f"/api/jobs/{job}").text
    server.stop()


def test_copies_beside_a_take_lose_none_of_its_samples(tmp_path: Path) -> None:
    assert copies_beside_a_take(tmp_path / "bench", 2)[0] == []


def test_a_killed_server_starts_again_with_everything_confirmed(tmp_path: Path) -> None:
    faults, confirmed = kill_at_random(tmp_path / "bench", 2, seed=11)
    assert faults == []
    assert confirmed > 0
