"""Centring in the browser, by keyboard alone: pushed, let go, turned, finished, put on record."""

from __future__ import annotations

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from browser.test_views import AXE, serious
from conftest import Server, new_job, new_take

pytestmark = pytest.mark.browser


def flick(page: Page) -> None:
    """Hold the stand-in over, and let it go."""
    page.keyboard.down("p")
    expect(page.locator("h1")).to_have_text("Let go.")
    page.keyboard.up("p")
    expect(page.locator("h1")).to_have_text(re.compile("^(Turn|Stop|Push|Once more|Centred)"))


def test_a_trim_is_turned_while_the_rest_is_watched_and_goes_on_record(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    source = {"kind": "stand-in", "condition": "offset"}
    take = new_take(http, job, source, routine_id="quick")
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?pace=fast")
    expect(page).to_have_url(re.compile(r"/takes/\d+$"), timeout=40_000)
    page.goto(f"{server.base}/jobs/{job}/work?kind=trimmed")
    link = page.get_by_role("link", name="Watch the rest while you turn")
    expect(link).to_be_visible()
    page.goto(f"{server.base}{link.get_attribute('href')}&pace=fast")
    expect(page.locator("h1")).to_have_text("Push it to the edge and let it go. Then hands off.")
    while page.locator("h1").inner_text().startswith(("Push", "Once more")):
        flick(page)
    next_one = page.locator(".readout.next")
    expect(next_one).to_have_count(1)
    key = "ArrowRight" if "left" in next_one.inner_text() else "ArrowUp"
    way = "left–right" if key == "ArrowRight" else "up–down"
    page.keyboard.press(key)
    turned = page.locator(".readout", has_text=way)
    expect(turned).to_contain_text("turned 1×")
    expect(page.get_by_role("img", name="Where it is now")).to_be_visible()
    page.evaluate(AXE.read_text("utf-8"))
    assert serious(page) == []
    page.keyboard.press("Escape")
    expect(page.locator("h1")).to_have_text("It is not confirmed to be centred.")
    page.keyboard.press("Space")
    expect(page.get_by_text(re.compile("^Centred from x .* in one turn"))).to_be_visible()
    page.get_by_role("checkbox", name="Read and kept to").check()
    page.get_by_role("button", name="Put on record").click()
    expect(page).to_have_url(re.compile("/verify"))
    (entry,) = [e for e in http.get(f"/api/jobs/{job}").json()["ledger"] if e["kind"] == "work"]
    assert "Trims fitted and set, left stick. Centred from x" in entry["text"]


def test_a_refusal_says_why_and_what_to_do(page: Page, server: Server, http: httpx.Client) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/centring?kind=trimmed")
    expect(page.get_by_text("Measure it live first")).to_be_visible()
    page.get_by_role("link", name="Measure it").click()
    expect(page).to_have_url(re.compile(f"/jobs/{job}/prove"))


def test_what_a_calibration_would_hold_is_copied_and_what_became_of_one_is_said(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "miscalibrated"})
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?pace=fast")
    expect(page).to_have_url(re.compile(r"/takes/\d+$"), timeout=40_000)
    page.goto(f"{server.base}/jobs/{job}/work?kind=recalibrated")
    page.get_by_role("link", name="What a calibration would hold").click()
    expect(page.locator("h1")).to_contain_text("What a calibration of this stick would hold")
    numbers = page.locator(".calibration-numbers")
    before = numbers.inner_text()
    page.get_by_label("Outer margin").fill("10")
    expect(numbers).not_to_have_text(before)
    page.get_by_label("Outer margin").fill("40")
    expect(page.get_by_text("less than or equal to 20")).to_be_visible()
    page.get_by_label("Outer margin").fill("0")
    page.get_by_role("radio", name="Ends alone").click()
    page.get_by_text("The same as JSON").click()
    expect(page.locator(".calibration-json")).to_contain_text('"kind": "two-point"')
    http.post(f"/api/jobs/{job}/work", json={"kind": "recalibrated"}).raise_for_status()
    again = new_take(http, job, {"kind": "stand-in"}, routine_id="calibration")
    page.goto(f"{server.base}/jobs/{job}/takes/{again}/live?pace=fast")
    expect(page).to_have_url(re.compile(r"/takes/\d+$"), timeout=40_000)
    page.goto(f"{server.base}/jobs/{job}/calibration")
    expect(page.locator("h1")).to_have_text(
        "It holds: the stick reads what was to be expected of it."
    )
    after = page.locator(".calibration-forecasts tbody tr").first.locator("td").nth(2)
    expect(after).to_have_text(re.compile(r"^\d+\.\d$"))
    page.evaluate(AXE.read_text("utf-8"))
    assert serious(page) == []
