"""A request that carries a key is carried out once."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx

from conftest import Server, new_job, start_server

KEY = "a-key-of-its-own"


def notes(http: httpx.Client, job: int) -> list[str]:
    return [e["text"] for e in http.get(f"/api/jobs/{job}").json()["ledger"] if e["kind"] == "note"]


def test_thirty_identical_requests_make_one_entry(server: Server, http: httpx.Client) -> None:
    job = new_job(http)

    def send(_: int) -> tuple[int, str]:
        with server.client() as own:
            answer = own.post(
                f"/api/jobs/{job}/entries",
                json={"text": "once"},
                headers={"Idempotency-Key": KEY + "1"},
            )
            return answer.status_code, answer.text

    with ThreadPoolExecutor(10) as many:
        answers = set(many.map(send, range(30)))
    assert len(answers) == 1, "every one is answered alike"
    assert answers.pop()[0] == 201
    assert notes(http, job) == ["once"]


def test_a_key_outlives_the_server_that_did_what_was_asked(tmp_path: Path) -> None:
    said = []
    job = 0
    for _ in range(2):
        running = start_server(tmp_path)
        with running.client() as http:
            job = job or new_job(http)
            answer = http.post(
                f"/api/jobs/{job}/entries", json={"text": "once"}, headers={"Idempotency-Key": KEY}
            )
            said.append((answer.status_code, answer.json()))
            assert notes(http, job) == ["once"]
        running.kill()
    assert said[0] == said[1]


def test_a_key_belongs_to_one_request(http: httpx.Client) -> None:
    job, path = new_job(http), "/api/jobs/{}/entries"
    head = {"Idempotency-Key": KEY + "2"}
    assert http.post(path.format(job), json={"text": "a"}, headers=head).status_code == 201
    other = http.post(path.format(job), json={"text": "b"}, headers=head)
    assert other.status_code == 422
    assert "another request" in other.json()["detail"]
    assert notes(http, job) == ["a"]
    for bad in ("short", "with a space in it", "x" * 101):
        answer = http.post(path.format(job), json={"text": "c"}, headers={"Idempotency-Key": bad})
        assert answer.status_code == 400


def test_what_was_refused_may_be_asked_again(http: httpx.Client) -> None:
    job = new_job(http)
    head = {"Idempotency-Key": KEY + "3"}
    body = {"ended": "signed-off"}
    path = f"/api/jobs/{job}"
    http.post(f"{path}/close", json={"ended": "as-it-was"}).raise_for_status()
    assert http.post(f"{path}/close", json=body, headers=head).status_code == 409
    http.post(f"{path}/reopen").raise_for_status()
    assert http.post(f"{path}/close", json=body, headers=head).status_code == 204
    again = http.post(f"{path}/close", json=body, headers=head)
    assert (again.status_code, again.content) == (204, b"")
