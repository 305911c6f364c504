"""What a page says before its answers come, and when they do not: nothing that is not so, and nothing
that was typed is lost."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Locator, Page, expect

from conftest import Server

pytestmark = pytest.mark.browser

BROKEN = {"status": 500, "body": "{}", "content_type": "application/json"}
NOT_ALL = "Not everything came."


@contextmanager
def held(page: Page, path: str) -> Iterator[None]:
    """What is asked for there waits until the end."""
    page.route(re.compile(path), lambda _: None)
    yield
    page.unroute(re.compile(path))


def in_the_ledger(page: Page, words: str) -> Locator:
    entries = page.get_by_label("Ledger", exact=True).get_by_role("listitem")
    return entries.filter(has_text=words)


def test_nothing_is_said_of_the_bench_before_it_is_known(page: Page, demo: Server) -> None:
    """A bench of 24 controllers was called empty, and its window kept that for a title."""
    with held(page, "/api/tray$"):
        page.goto(f"{demo.base}/")
        expect(page.get_by_text("Loading the bench…")).to_be_visible()
        expect(page.locator("h1")).to_have_count(0)
    expect(page).to_have_title("The mat is clear. · Hollow Pin")


def test_a_stick_is_not_called_unmeasured_while_its_readings_are_on_their_way(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    with held(page, "/api/comparison"):
        page.goto(f"{demo.base}/jobs/{bench['GS-017']['job']['id']}/hand-over")
        expect(page.get_by_text("Loading the readings…")).to_be_visible()
        expect(page.locator("h1")).to_have_count(0)
    expect(page).to_have_title(re.compile("^Better. "))


def test_readings_that_cannot_be_fetched_are_not_called_unmeasured(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    page.route(re.compile("/api/comparison"), lambda route: route.fulfill(**BROKEN))
    page.goto(f"{demo.base}/jobs/{bench['GS-017']['job']['id']}/hand-over")
    expect(page.get_by_role("heading", level=1)).to_have_text("The readings cannot be shown.")
    expect(page.get_by_text(NOT_ALL)).to_be_visible()
    page.unroute_all()
    page.get_by_role("button", name="Ask again").click()
    expect(page.get_by_role("heading", level=1)).to_have_text(re.compile("^Better. "))
    expect(page.get_by_text(NOT_ALL)).to_have_count(0)


def test_what_was_typed_outlives_a_server_that_does_not_answer(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    """A job that could not be asked for again went from the screen, with what was typed on it; and so
    did a take that ran in that window."""
    job = bench["GS-038"]["job"]["id"]
    page.goto(f"{demo.base}/jobs/{job}/hand-over")
    outcome = page.get_by_label("Outcome")
    outcome.fill("Both modules are new.")
    page.route(re.compile(f"/api/jobs/{job}$"), lambda route: route.fulfill(**BROKEN))
    page.get_by_label("Note for the ledger").fill("The owner called.")
    page.get_by_role("button", name="Put in the ledger").click()
    expect(page.get_by_text(NOT_ALL)).to_be_visible()
    expect(outcome).to_have_value("Both modules are new.")
    page.unroute_all()
    page.get_by_role("button", name="Ask again").click()
    expect(in_the_ledger(page, "The owner called.")).to_be_visible()
    expect(page.get_by_text(NOT_ALL)).to_have_count(0)
    expect(outcome).to_have_value("Both modules are new.")


def test_without_its_words_nothing_is_said_in_codes(page: Page, demo: Server) -> None:
    page.route(re.compile("/api/catalogue$"), lambda route: route.fulfill(**BROKEN))
    page.goto(f"{demo.base}/find?text=left")
    expect(page.get_by_role("heading", level=1)).to_have_text("The bench cannot be shown.")
    page.unroute_all()
    page.get_by_role("button", name="Ask again").click()
    expect(page).to_have_title(re.compile("[0-9]+ jobs. · Hollow Pin"))


def test_a_refusal_is_an_answer(page: Page, demo: Server) -> None:
    """Of a take that there is not nobody need ask again."""
    page.goto(f"{demo.base}/jobs/1/takes/99999")
    expect(page.get_by_role("heading", level=1)).to_have_text("This take cannot be shown.")
    expect(page.get_by_text(NOT_ALL)).to_have_count(0)


def test_a_bench_that_loses_its_network_goes_on(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    """The server is on the same machine: with the wireless gone nothing was written any more, and no
    page came, until it was back."""
    page.goto(f"{demo.base}/jobs/{bench['GS-031']['job']['id']}/hand-over")
    expect(page.locator("h1")).to_be_visible()
    page.evaluate("dispatchEvent(new Event('offline'))")
    page.get_by_label("Note for the ledger").fill("The wireless is down.")
    page.get_by_role("button", name="Put in the ledger").click()
    expect(in_the_ledger(page, "The wireless is down.")).to_be_visible()
    page.get_by_role("link", name="Parts", exact=True).click()
    expect(page.get_by_role("link", name="Module P-14, 10 kΩ")).to_be_visible()
