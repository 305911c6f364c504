"""The shelf in the browser: a part put there, moved and taken back; ordered for a job, come, and used
with the work."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import BrowserContext, Page, expect

from browser.conftest import watched
from conftest import Server, new_job, start_server

pytestmark = pytest.mark.browser


def counts(page: Page) -> list[str]:
    return page.locator(".part-counts dd").all_inner_texts()


def test_an_empty_shelf_says_what_to_do(context: BrowserContext, tmp_path: Path) -> None:
    running = start_server(tmp_path)
    page = watched(context)
    page.goto(f"{running.base}/parts")
    expect(page.get_by_text("Nothing is on the shelf yet.")).to_be_visible()
    page.close()
    running.stop()


def test_a_part_is_put_on_the_shelf_moved_and_taken_back_by_keys(
    page: Page, server: Server
) -> None:
    page.goto(f"{server.base}/parts")
    expect(page.locator("h1")).to_be_visible()
    page.keyboard.press("a")
    page.get_by_label("Name, as on the bag").fill("Module P-14")
    page.get_by_label("Value, Ω").fill("ten")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("valid number")).to_be_visible()
    page.get_by_label("Value, Ω").fill("10000")
    page.get_by_label("Footprint").fill("P-14")
    page.get_by_label("Order again at").fill("2")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_have_text("Module P-14")
    expect(page.get_by_text("None of it came yet.")).to_be_visible()
    page.get_by_label("How many").fill("4")
    page.get_by_label("Lot", exact=True).fill("BC-1")
    page.keyboard.press("Enter")
    expect(page.locator(".part-counts dd").first).to_have_text("4")
    page.get_by_label("Move", exact=True).click()
    page.get_by_role("option", name="Thrown away").click()
    page.get_by_label("How many").fill("3")
    page.get_by_role("button", name="Record it").click()
    expect(page.get_by_text("Say why.")).to_be_visible()
    page.get_by_label("Why").fill("bent pins")
    page.get_by_role("button", name="Record it").click()
    expect(page.locator(".part-counts dd").first).to_have_text("1")
    expect(page.get_by_text("free, order again")).to_be_visible()
    page.get_by_role("button", name=re.compile("Undo: Thrown away")).click()
    expect(page.locator(".part-counts dd").first).to_have_text("4")
    expect(page.locator("tr.undone")).to_contain_text("bent pins")
    page.get_by_role("link", name="The whole shelf").click()
    page.get_by_label("Name, footprint, place or lot").fill("bc-1")
    expect(page.get_by_role("rowheader", name=re.compile("Module P-14"))).to_be_visible()
    page.get_by_label("Only what is to be ordered again").check()
    expect(page.get_by_text("Nothing of that lies on the shelf.")).to_be_visible()


def test_a_job_waits_for_a_part_that_is_ordered_comes_and_goes_in(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """By way of one that fits the holes and not the value."""
    job = new_job(http)
    tag = http.get(f"/api/jobs/{job}").json()["job"]["controller"]["tag"]
    facts = {"kind": "module", "footprint": "P-14", "sensor": "potentiometer"}
    right = http.post("/api/parts", json=facts | {"name": "Ten k, new", "ohms": 10_000}).json()[
        "id"
    ]
    wrong = http.post("/api/parts", json=facts | {"name": "Two k", "ohms": 2300}).json()["id"]
    http.post(f"/api/parts/{wrong}/movements", json={"kind": "received", "count": 1})
    page.goto(f"{server.base}/jobs/{job}/work?kind=replaced")
    shelf = page.get_by_role("group", name="Which part, from the shelf")
    expect(shelf).to_contain_text("2300 Ω where 10000 Ω belong")
    expect(shelf).to_contain_text("4.3 times as much")
    expect(shelf.get_by_role("radio", name=re.compile("Ten k, new"))).to_be_disabled()
    shelf.get_by_role("link", name="Order it").first.click()
    expect(page.get_by_text(f"For {tag}: its job waits until this comes.")).to_be_visible()
    page.get_by_label("From").fill("Brackish Components")
    page.get_by_label("Expected on").fill("2027-01-15")
    page.get_by_role("button", name="It is ordered").click()
    expect(page.get_by_text("Expected 15 Jan")).to_be_visible()
    expect(page.get_by_role("link", name=tag, exact=True)).to_be_visible()
    assert http.get(f"/api/jobs/{job}").json()["job"]["waiting"] == "part"
    page.get_by_role("button", name="It came").first.click()
    page.get_by_label("Lot, as on the bag").fill("BC-9")
    page.get_by_role("button", name="Put on the shelf").click()
    expect(
        page.get_by_text("Closed today", exact=False).or_(page.locator("li.closed"))
    ).to_be_visible()
    assert http.get(f"/api/jobs/{job}").json()["job"]["waiting"] == ""
    page.goto(f"{server.base}/jobs/{job}/work?kind=replaced")
    expect(shelf).to_contain_text("1 reserved for this job")
    shelf.get_by_role("radio", name=re.compile("Ten k, new")).check()
    expect(page.get_by_role("radio", name="Potentiometer")).to_be_checked()
    page.get_by_role("checkbox", name="Read and kept to").check()
    page.get_by_role("button", name="Put on record").click()
    expect(page).to_have_url(re.compile("/verify"))
    page.goto(f"{server.base}/parts/{right}")
    expect(page.locator("tbody tr").first).to_contain_text(f"Used, {tag}")
    assert counts(page) == ["0", "0", "0"]


def test_a_wrong_value_is_found_in_a_lot_before_it_is_soldered(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """Four of nine looked at; the third is another value; the lot goes back, and leaves the shelf."""
    body = {"name": "Module P-14, looked at", "kind": "module", "ohms": 10_000, "tolerance": 20}
    part = http.post("/api/parts", json=body).json()["id"]
    came = {"kind": "received", "count": 9, "lot": "BC-9"}
    http.post(f"/api/parts/{part}/movements", json=came).raise_for_status()
    page.goto(f"{server.base}/parts/{part}")
    page.get_by_label("Size of the lot").fill("9")
    page.get_by_role("button", name="Look at it").click()
    h1 = page.locator("h1")
    expect(h1).to_contain_text("5 more to look at, of 5. 0 may be bad.")
    one = page.get_by_label("Track x, Ω from end to end")
    for i in range(2):
        one.fill("10100")
        page.get_by_label("Track y, Ω from end to end").fill("9950")
        page.keyboard.press("Enter")
        expect(h1).to_contain_text(f"{4 - i} more to look at")
        expect(one).to_be_focused()
    one.fill("2300")
    page.get_by_text("Dust or grease in the gap").click()
    page.get_by_role("button", name="Record it, next one").click()
    expect(h1).to_have_text("Do not accept it: 1 bad of 3, and 0 may be.")
    lot = page.get_by_role("region", name="The lot so far")
    expect(lot).to_contain_text("2300 Ω where 10000 Ω were ordered: 77.0 % too low")
    page.get_by_role("button", name="Accept it").click()
    expect(page.get_by_role("alert")).to_contain_text("Say why it is decided otherwise")
    page.get_by_role("button", name="Send it back").click()
    expect(page.get_by_text("It was sent back.")).to_be_visible()
    page.goto(f"{server.base}/parts/{part}")
    expect(page.locator(".part-counts dd").first).to_have_text("0")
    expect(page.get_by_role("region", name="Lots looked at")).to_contain_text("sent back")
