"""Deciding in the browser: by keyboard alone, against the advice, what would decide; and the
arithmetic of the bench."""

from __future__ import annotations

import re

import httpx
import numpy as np
import pytest
from playwright.sync_api import Page, Route, expect

from conftest import Server, new_job, new_take
from hollow_pin.core.recording import STEPS, Recording
from hollow_pin.core.routine import BY_ID
from hollow_pin.formats.recording_csv import write_recording
from raw_device import own_numbers, raw_device, sent
from sticks import performed, picked, recording_file

pytestmark = pytest.mark.browser


def job_with(http: httpx.Client, condition: str) -> int:
    job = new_job(http)
    sent = recording_file(condition)
    http.post(f"/api/jobs/{job}/recordings", files=sent, data={"stick": "left"}).raise_for_status()
    return job


def test_a_whole_decision_by_keyboard(page: Page, server: Server, http: httpx.Client) -> None:
    job = job_with(http, "offset")
    page.goto(f"{server.base}/jobs/{job}/decide")
    expect(page.locator("h1")).to_contain_text("Off centre")
    advised = page.get_by_role("radio", name="Recalibrate advised")
    expect(advised).to_be_checked()
    page.get_by_role("button", name="Off centre").press("Enter")
    expect(page.locator(".why")).to_contain_text("the returns lie")
    page.keyboard.press("2")
    expect(advised).not_to_be_checked()
    expect(page.get_by_role("button", name=re.compile("^Decide"))).to_be_disabled()
    page.keyboard.press("1")
    expect(advised).to_be_checked()
    expect(page.locator(".option-why")).to_contain_text("tried before any hardware")
    page.keyboard.press("d")
    expect(page).to_have_url(re.compile(r"/work\?kind=recalibrated"))
    expect(page.get_by_text("Recalibrated.", exact=True)).to_be_visible()
    page.get_by_role("button", name="Something else was done").press("Enter")
    expect(page.get_by_role("radio", name="Recalibrated", exact=True)).to_be_checked()
    (entry,) = [e for e in http.get(f"/api/jobs/{job}").json()["ledger"] if e["kind"] == "decision"]
    assert entry["text"].startswith("Decided: recalibrate")


def cleaned_and_then(http: httpx.Client, condition: str) -> int:
    """A job whose dirty stick was cleaned, and what it reads after that."""
    job = job_with(http, "dirty")
    remedies = http.get("/api/catalogue").json()["remedies"]
    (cautions,) = (r["cautions"] for r in remedies if r["remedy"]["code"] == "cleaned")
    body = {"kind": "cleaned", "axis": "x", "cautions": [c["code"] for c in cautions]}
    http.post(f"/api/jobs/{job}/work", json=body).raise_for_status()
    name, text, kind = recording_file(condition)["file"]
    noted = text.replace(b"# y-positive", b"# note: after it\n# y-positive", 1)
    file = {"file": (name, noted, kind)}
    http.post(f"/api/jobs/{job}/recordings", files=file, data={"stick": "left"}).raise_for_status()
    return job


def test_what_did_not_help_leads_back_to_decide_and_is_not_advised_again(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """Verify led on to Hand over, and Decide had it cleaned once more."""
    page.goto(f"{server.base}/jobs/{cleaned_and_then(http, 'dirty')}/verify")
    expect(page.locator("h1")).to_contain_text("No change that this bench can see")
    page.get_by_role("link", name="Decide again", exact=True).click()
    expect(page.locator(".headline")).to_contain_text("Sensor housing cleaned in this job already")
    order = page.get_by_role("navigation", name="Order of work").get_by_role("link")
    stands = ["Take in, done", "Prove, done", "Decide, next", "Work, done", "Verify, done"]
    expect(order).to_have_text([*stands, "Hand over, to come"])
    expect(page.locator(".strip.here")).to_contain_text("Decide again · left stick")
    cleaned = page.get_by_role("radio", name=re.compile("Clean the sensor housing"))
    expect(cleaned).not_to_be_checked()
    cleaned.check()
    expect(page.locator(".option-why")).to_contain_text("nothing read better after it")
    page.goto(f"{server.base}/jobs/{cleaned_and_then(http, 'sound')}/verify")
    expect(page.locator("h1")).to_contain_text("Better.")
    expect(page.locator(".compare-choice").get_by_role("link")).to_have_text(["Hand over"])


def test_a_decision_against_the_advice_and_what_became_of_it(
    page: Page, server: Server, http: httpx.Client
) -> None:
    was = http.get("/api/decisions").json()["against"]
    job = job_with(http, "offset")
    page.goto(f"{server.base}/jobs/{job}/decide")
    page.get_by_role("radio", name=re.compile("Set a dead zone")).check()
    page.get_by_label("Against the advice: why?").fill("Only until Friday.")
    page.get_by_role("button", name=re.compile("^Decide: set a dead zone")).click()
    expect(page).to_have_url(re.compile("/work"))
    body = {"kind": "software-dead-zone"}
    http.post(f"/api/jobs/{job}/work", json=body).raise_for_status()
    sent = recording_file("offset")
    data = {"stick": "left", "again": "true"}
    http.post(f"/api/jobs/{job}/recordings", files=sent, data=data).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/decide")
    decided = page.get_by_label("Decided so far")
    expect(decided).to_contain_text("still not right")
    expect(decided).to_contain_text("against the advice: Only until Friday.")
    decided.get_by_role("link", name="How often that was right").click()
    tried, held = was["tried"] + 1, was["held"]
    expect(page.locator("h1")).to_contain_text(f"{held} of {tried} against it")
    expect(page.get_by_role("img", name="Chance that was told")).to_be_visible()


def test_what_else_was_found_is_told_where_it_is_handed_over_and_nothing_unseen_is_signed(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """“Signed off as fit” was chosen by itself, of a track that nobody had looked at again."""
    job = new_job(http, "GS-733")

    def comes_in(recording: Recording, stick: str) -> None:
        sent = {"file": ("take.csv", "".join(write_recording(recording)).encode(), "text/csv")}
        data = {"stick": stick, "again": "true"}
        http.post(f"/api/jobs/{job}/recordings", files=sent, data=data).raise_for_status()

    sound = performed("sound").recording
    quick = picked(sound, np.isin(sound.step, [STEPS.index(s) for s in BY_ID["quick"].steps]))
    comes_in(performed("failing").recording, "left")
    comes_in(performed("worn").recording, "right")
    comes_in(quick, "left")
    page.goto(f"{server.base}/jobs/{job}/hand-over")
    expect(page.locator("h1")).to_contain_text("and that was not measured again.")
    expect(page.get_by_text("Say first how it leaves.")).to_be_visible()
    comes_in(sound, "left")
    page.reload()
    expect(page.locator("h1")).not_to_contain_text("not measured again")
    expect(page.get_by_role("button", name="Close the job")).to_be_visible()
    expect(page.get_by_text("Say first how it leaves.")).to_be_visible()
    page.get_by_role("link", name=re.compile("^The right stick was measured too.")).click()
    expect(page).to_have_url(re.compile(r"/takes/\d+$"))
    comes_in(sound, "right")
    page.goto(f"{server.base}/jobs/{job}/hand-over")
    expect(page.get_by_role("button", name="Close the job")).to_be_visible()
    expect(page.get_by_text("Say first how it leaves.")).to_have_count(0)


def test_a_calibration_that_nobody_knows_is_entered_where_the_next_take_begins(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """No step of the same take does it: its numbers were read without."""
    job = new_job(http, "GS-718")
    take = new_take(http, job, raw_device("unknown"))
    assert sent(server, take, own_numbers())["state"] == "complete"
    page.goto(f"{server.base}/jobs/{job}/decide")
    expect(page.locator("h1")).to_have_text("It looks sound, as far as this take goes.")
    expect(
        page.get_by_text("Measure it with what the device's own calibration holds")
    ).to_be_visible()
    page.get_by_role("link", name="Do just that").click()
    expect(page).to_have_url(re.compile(r"/prove$"))


def test_what_would_decide_is_done_by_one_key_until_it_is_decided(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """The quick routine never holds the stick over, so a track that fails out there stays open."""
    job = new_job(http, "GS-719")
    source = {"kind": "stand-in", "condition": "failing"}
    # A take by chance is sound, since it never looked out there: then another.
    for _ in range(6):
        take = new_take(http, job, source, routine_id="quick")
        page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?pace=fast")
        expect(page).to_have_url(re.compile(r"/takes/\d+$"), timeout=40_000)
        page.goto(f"{server.base}/jobs/{job}/decide")
        expect(page.get_by_label("What would help")).to_be_visible()
        if page.get_by_text("Hold it over at each side").count():
            break
    open_still = re.compile(
        "It cannot be told from this take|It looks sound, as far as this take goes"
        "|It fell back while it was pushed"
    )
    expect(page.locator("h1")).to_contain_text(open_still)
    expect(page.get_by_text("What would decide:")).to_be_visible()

    def hold_it() -> None:
        page.keyboard.press("b")
        expect(page).to_have_url(re.compile(r"/live\?step=hold"))
        page.goto(f"{page.url}&pace=fast")
        expect(page).to_have_url(re.compile(rf"/jobs/{job}/decide$"), timeout=40_000)
        expect(page.locator("h1")).to_contain_text("Track fails away from the centre")

    hold_it()
    # Where it fell back and did nothing else, a hand may have given way.
    if page.get_by_text("Hold it again, pressed firmly").count():
        hold_it()
    # By chance, one take in eight, another step would tell it from something else.
    to_be_held = re.compile("Hold it over at each side|Hold it again, pressed firmly")
    expect(page.get_by_text(to_be_held)).to_have_count(0)


def test_the_shop_s_own_prices_change_what_is_worth_it(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = job_with(http, "worn")
    page.goto(f"{server.base}/jobs/{job}/decide")
    page.get_by_role("radio", name="Replace the module", exact=False).first.check()
    page.get_by_text(re.compile(r"\d+ cautions before it")).click()
    expect(page.locator(".option-cautions")).to_contain_text("Iron and hot air burn")
    worth = page.get_by_label("Whether it is worth it")
    expect(worth.locator("tbody tr").first).not_to_contain_text("Retire")
    worth.get_by_role("button", name="Change").click()
    page.get_by_label("Another controller", exact=True).fill("1")
    page.get_by_role("button", name="Count with these").click()
    expect(worth.locator("tbody tr").first).to_contain_text("Retire")
    http.put("/api/money", json={"rate": 24, "controller": 45, "parts": {}}).raise_for_status()


def test_a_calculator_answers_while_one_types(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = job_with(http, "offset")
    page.goto(f"{server.base}/calculators?name=trim&job={job}")
    value = page.locator(".calculator-values div", has_text="Slope at the centre").locator("dd")
    before = value.inner_text()
    page.get_by_label("Resistor between the wipers").fill("4700")
    expect(value).not_to_have_text(before)
    page.get_by_label("Trim, from its low end").fill("2")
    expect(page.get_by_text("2 is not a number from 0 to 1.")).to_be_visible()
    page.get_by_label("Trim, from its low end").fill("0.4")
    page.get_by_role("button", name="From the take, y").click()
    expect(page.get_by_label("Where the stick rests")).not_to_have_value("")
    put = page.get_by_role("button", name="Put in the ledger")
    expect(put).to_be_enabled()
    # What is on the screen until the answer comes is of what was typed before.
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/api/calculators/trim", hold, times=1)
    page.get_by_label("Supply, V").fill("5")
    while not held:
        expect(put).to_be_disabled()
    expect(put).to_be_disabled()
    held[0].continue_()
    put.click()
    expect(page.get_by_role("status")).to_contain_text("It stands in the ledger")
    assert (
        "Trim network: track_ohms=10000" in http.get(f"/api/jobs/{job}").json()["ledger"][0]["text"]
    )
    page.get_by_text("Temperature", exact=True).click()
    page.get_by_label("Celsius").fill("350")
    expect(page.locator(".calculator-values")).to_contain_text("662 °F")
