"""Taking in, as it is done at the counter: quickly, by keyboard, with nothing lost and nothing
signed off that moves people."""

from __future__ import annotations

import io
import re
import time
from pathlib import Path

import httpx
import pytest
from PIL import Image
from playwright.sync_api import BrowserContext, Page, expect

from browser.conftest import watched
from conftest import Server, new_job

pytestmark = pytest.mark.browser

CONTROLS = Path(__file__).with_name("controls.js")
NASTY = (
    "<img src=x onerror=\"document.title='run'\"> \"quoted\" 'single' & {{x}}\n"
    "текст 漢字 العربية 🐚"
)


class Keys:
    """Presses keys one by one and counts them."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.count = 0
        self.began = time.monotonic()

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.count += key.count("+") + 1

    @property
    def seconds(self) -> float:
        return time.monotonic() - self.began


def test_a_known_controller_is_ready_to_prove_in_twelve_keys_and_twenty_seconds(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http, tag="GS-77")
    http.post(f"/api/jobs/{job}/close", json={"ended": "signed-off"}).raise_for_status()
    page.goto(server.base)
    expect(page.get_by_role("link", name="New job").first).to_be_visible()
    keys = Keys(page)
    keys.press("n")
    expect(page.get_by_label("Tag")).to_be_focused()
    keys.press(*"gs-77", "Enter")
    expect(page.get_by_label("Known here")).to_contain_text("One visit so far")
    expect(page.get_by_role("radio", name="Left stick")).to_be_focused()
    keys.press("Enter")
    expect(page.get_by_role("heading", name="Measure the left stick of GS-77")).to_be_visible()
    assert keys.count <= 12
    assert keys.seconds < 20


def test_a_new_controller_is_ready_to_prove_within_forty_seconds_by_keys_alone(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.goto(server.base)
    expect(page.get_by_role("link", name="New job").first).to_be_visible()
    keys = Keys(page)
    keys.press("n")
    expect(page.get_by_label("Tag")).to_be_focused()
    keys.press(*"GS-781", "Enter")
    expect(page.get_by_role("radio", name="Dunlin")).to_be_focused()
    keys.press("p")
    expect(page.get_by_role("radio", name="Plover")).to_be_checked()
    keys.press("Tab", "r")
    expect(page.get_by_role("radio", name="Right stick")).to_be_checked()
    keys.press("Tab", "n", "Tab")
    keys.press(*"creeps up", "Control+Enter")
    expect(page.get_by_role("heading", name="Measure the right stick of GS-781")).to_be_visible()
    assert keys.seconds < 40
    answer = http.get("/api/controllers", params={"tag": "GS-781"}).json()
    assert answer["last"]["complaint"] == "creeps up"
    assert answer["last"]["moves"] == "no"


def test_everything_asked_is_answered_by_keyboard_and_corrected(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/take-in")

    def choose(group: str, option: str) -> None:
        box = page.get_by_role("group", name=group, exact=True)
        box.locator("input").first.focus()
        page.keyboard.press(option[0].lower())
        expect(box.get_by_label(option, exact=True)).to_be_checked()

    for group, option in (
        ("How often", "Sometimes"),
        ("A flick clears it", "Yes"),
        ("Liquid", "No"),
        ("Seal", "Broken"),
        ("Under warranty", "No"),
        ("The owner agrees to opening", "Yes"),
    ):
        choose(group, option)
    page.get_by_label("10 o’clock").focus()
    page.keyboard.press("Space")
    page.get_by_label("Sprayed").focus()
    page.keyboard.press("Space")
    for label in ("Since", "What exactly was tried", "Marks and wear", "Came with", "Price agreed"):
        page.get_by_label(label, exact=True).focus()
        page.keyboard.type(f"{label} told")
    page.get_by_label("Promised for").fill("2026-12-24")
    page.get_by_role("button", name="Save").press("Enter")
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    answer = http.get(f"/api/jobs/{job}").json()["job"]["intake"]
    assert answer == {
        "hours": [10],
        "often": "sometimes",
        "since": "Since told",
        "flick_clears": "yes",
        "tried": ["sprayed"],
        "tried_note": "What exactly was tried told",
        "liquid": "no",
        "seal": "broken",
        "warranty": "no",
        "consent": "yes",
        "cosmetic": "Marks and wear told",
        "accessories": "Came with told",
        "promised_on": "2026-12-24",
        "price": "Price agreed told",
    }
    page.get_by_role("group", name="Seal").get_by_label("Broken").click()
    expect(page.get_by_text("Not saved yet.")).to_be_visible()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    assert http.get(f"/api/jobs/{job}").json()["job"]["intake"]["seal"] == ""


def test_two_windows_never_overwrite_each_other_unseen(
    page: Page, context: BrowserContext, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    place = f"{server.base}/jobs/{job}/take-in"
    other = watched(context)
    page.goto(place)
    other.goto(place)
    page.get_by_label("Complaint").fill("mine")
    page.get_by_label("Price agreed").fill("12")
    other.get_by_label("Complaint").fill("theirs")
    other.get_by_role("button", name="Save").click()
    expect(other.get_by_text("Saved.", exact=True)).to_be_visible()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("Complaint is now “theirs”")
    expect(page.get_by_label("Complaint")).to_have_value("mine")
    expect(page.get_by_label("Price agreed")).to_have_value("12")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    assert http.get(f"/api/jobs/{job}").json()["job"]["complaint"] == "mine"


def test_a_ledger_entry_is_written_corrected_undone_and_put_back(
    page: Page, context: BrowserContext, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Bench role?").click()
    page.get_by_role("contentinfo").get_by_label("Bench role").fill("evening bench")
    page.keyboard.press("Enter")
    ledger = page.get_by_label("Ledger")
    ledger.get_by_label("Note for the ledger").fill("since Monday")
    ledger.get_by_text("Owner said", exact=True).click()
    ledger.get_by_role("button", name="Put in the ledger").click()
    first = ledger.get_by_role("listitem").first
    expect(first).to_contain_text("Owner said")
    expect(first).to_contain_text("evening bench")

    other = watched(context)
    other.goto(page.url)
    theirs = other.get_by_label("Ledger").get_by_role("listitem").first
    theirs.get_by_role("button", name=re.compile("^Correct")).click()
    theirs.get_by_label("In other words").fill("since Tuesday")
    first.get_by_role("button", name=re.compile("^Correct")).click()
    first.get_by_label("In other words").fill("since Sunday")
    first.get_by_role("button", name="Keep").click()
    expect(first.locator(".entry-text")).to_have_text("since Sunday")
    theirs.get_by_role("button", name="Keep").click()
    expect(other.get_by_role("alert")).to_contain_text("It now reads: “since Sunday”")
    expect(theirs.get_by_label("In other words")).to_have_value("since Tuesday")
    theirs.get_by_role("button", name="Put mine in its place").click()
    expect(theirs.locator(".entry-text")).to_have_text("since Tuesday")
    theirs.get_by_text("How it read before").click()
    expect(theirs).to_contain_text("since Monday")
    expect(theirs).to_contain_text("since Sunday")

    theirs.get_by_role("button", name=re.compile("^Undo")).click()
    expect(theirs).to_contain_text("Undone")
    theirs.get_by_role("button", name=re.compile("^Put back")).click()
    expect(theirs).not_to_contain_text("Undone")
    assert [e["kind"] for e in http.get(f"/api/jobs/{job}").json()["ledger"]] == [
        "owner",
        "take-in",
    ]


def test_what_moves_people_is_marked_and_can_only_be_referred(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.goto(f"{server.base}/new")
    page.get_by_label("Tag").fill("GS-990")
    page.get_by_text("Skua", exact=True).click()
    page.get_by_text("Yes", exact=True).click()
    expect(page.get_by_text("This is not taken back later.")).to_be_visible()
    page.get_by_role("button", name="Take in as “refer”").click()
    expect(page.get_by_role("note")).to_contain_text("Nobody signs it off here.")
    expect(page.get_by_role("navigation", name="Tray")).to_contain_text("refer")
    page.get_by_role("link", name="Take in").click()
    answer = page.get_by_role("group", name=re.compile("^Does it move people"))
    expect(answer.get_by_label("No")).to_be_disabled()
    page.get_by_role("link", name="Hand over").click()
    leaves = page.get_by_role("group", name="How it leaves")
    expect(leaves.get_by_role("radio")).to_have_count(1)
    page.get_by_role("button", name="Close the job").click()
    expect(page.get_by_role("heading", name=re.compile("^Closed .*: referred"))).to_be_visible()


def test_unasked_the_hand_over_asks_before_it_signs_off(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http, moves="")
    page.goto(f"{server.base}/jobs/{job}/hand-over")
    expect(page.get_by_text("Say first how it leaves.")).to_be_visible()
    expect(page.get_by_role("button", name="Close the job")).to_be_disabled()
    page.get_by_text("Signed off as fit").click()
    expect(page.get_by_text("Answer first, under")).to_be_visible()
    expect(page.get_by_role("button", name="Close the job")).to_be_disabled()


# The function check


@pytest.fixture
def handset(context: BrowserContext) -> Page:
    """A page that finds a controller with 17 buttons and 6 axes; see controls.js."""
    context.add_init_script(path=CONTROLS)
    return watched(context)


def test_dead_stuck_and_bouncing_buttons_are_each_named(
    handset: Page, server: Server, http: httpx.Client
) -> None:
    page = handset
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/take-in")
    page.get_by_role("link", name="Check every button").click()
    expect(page.get_by_role("combobox", name="Source")).to_contain_text("Handset with everything")
    page.get_by_role("button", name="Begin").click()
    buttons = page.get_by_role("list", name="Buttons").get_by_role("listitem")
    expect(buttons).to_have_count(17)
    page.evaluate(
        "handset.pressAll({ dead: 3, stuck: 9, squeezed: 7, bouncing: 12, bounceMs: 14 })"
    )
    expect(buttons.nth(0)).to_contain_text("works")
    expect(buttons.nth(16)).to_contain_text("works")
    page.evaluate("handset.squeeze(7, 0.6)")
    page.evaluate("handset.pull(4, 1)")
    page.evaluate("handset.pull(5, 0.7)")
    expect(page.get_by_text("Everything was tried.")).to_have_count(0)
    triggers = page.get_by_role("list", name="Triggers").get_by_role("listitem")
    expect(triggers.nth(1)).to_contain_text("reaches 85 %")
    expect(buttons.nth(6)).to_contain_text("reaches 60 %")
    expect(buttons.nth(8)).to_contain_text("stuck down")
    page.get_by_role("button", name="Shake it").click()
    for group in page.get_by_label("To look at and listen to").get_by_role("group").all():
        group.get_by_text("Works", exact=True).click()
    page.get_by_role("button", name="Done").click()
    title = page.locator("h1")
    expect(title).to_contain_text("16 of 17 buttons answered. B3 did not answer.")
    expect(title).to_contain_text("B9 is stuck down.")
    expect(title).to_contain_text(re.compile(r"B12 \(right click\) bounces for \d+ ms\."))
    expect(title).to_contain_text("Trigger on axis 6 reaches 85 % only.")
    bounce = float(re.search(r"bounces for (\d+)", title.inner_text()).group(1))  # type: ignore[union-attr]
    assert 4 <= bounce <= 60
    assert page.evaluate("handset.shaken")
    faults = http.get(f"/api/jobs/{job}").json()["checks"][0]["result"]["faults"]
    assert len(faults) == 5, faults


def test_unplugging_in_the_middle_keeps_what_was_pressed(
    handset: Page, server: Server, http: httpx.Client
) -> None:
    page = handset
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/check")
    page.get_by_role("button", name="Begin").click()
    buttons = page.get_by_role("list", name="Buttons").get_by_role("listitem")
    expect(buttons).to_have_count(17)
    page.evaluate("handset.press(2)")
    expect(buttons.nth(1)).to_contain_text("works")
    page.evaluate("handset.unplug()")
    expect(page.get_by_text("interrupted: the controller was disconnected").first).to_be_visible()
    expect(page.get_by_text("What was pressed before it was interrupted is kept.")).to_be_visible()
    answer = http.get(f"/api/jobs/{job}").json()["checks"][0]["result"]
    assert [b["name"] for b in answer["buttons"] if b["state"] == "works"] == ["B2"]
    assert answer["faults"] == []


def test_the_final_check_shows_the_difference(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    pad = {"name": "pad", "buttons": 17, "triggers": []}
    first = http.post(f"/api/jobs/{job}/checks", json={"kind": "take-in", "source": pad}).json()
    http.post(f"/api/checks/{first['id']}/end", json={}).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/hand-over")
    page.get_by_role("link", name="Check every button").click()
    page.get_by_role("button", name="Begin").click()
    tiles = page.get_by_role("list", name="Buttons").get_by_role("button")
    tiles.nth(0).focus()
    page.keyboard.press("Enter")
    expect(tiles.nth(0)).to_contain_text(re.compile("works|bounces"))
    page.get_by_role("button", name="Done").click()
    expect(page.locator(".lead")).to_contain_text("Works now: B1")
    expect(page.get_by_role("table", name="What is not as it was when it came")).to_contain_text(
        "did not answer"
    )


# Photos, labels, finding


def test_photos_are_added_from_files_and_a_wrong_one_is_named(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    body = io.BytesIO()
    Image.new("RGB", (900, 600), (120, 90, 60)).save(body, "JPEG")
    page.goto(f"{server.base}/jobs/{job}/take-in")
    photos = page.get_by_label("Photos", exact=True)
    photos.get_by_label("What it shows").fill("Scratched at one corner")
    files = [
        {"name": "corner.jpg", "mimeType": "image/jpeg", "buffer": body.getvalue()},
        {"name": "run.jpg", "mimeType": "image/jpeg", "buffer": b"MZ" + bytes(200)},
    ]
    photos.locator("input[type=file]").set_input_files(files)  # type: ignore[arg-type]
    expect(photos.get_by_role("alert")).to_contain_text("run.jpg: This is a program")
    thumb = photos.get_by_role("img", name="Photo: Scratched at one corner")
    expect(thumb).to_be_visible()
    thumb.click()
    whole = page.get_by_role("dialog", name="Photo").get_by_role("img")
    expect(whole).to_be_visible()
    expect(whole).to_have_js_property("naturalWidth", 900)


def test_a_photo_is_taken_with_the_machines_own_camera(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/take-in")
    page.get_by_role("button", name="Camera").click()
    camera = page.get_by_role("dialog", name="Camera")
    expect(camera.locator("video")).to_have_js_property("paused", False)
    camera.get_by_role("button", name="Take the photo").click()
    expect(camera.get_by_text("1 taken.")).to_be_visible()
    camera.get_by_role("button", name="Done").click()
    expect(page.get_by_label("Photos", exact=True).locator("img")).to_have_count(1)
    assert http.get(f"/api/jobs/{job}").json()["photos"][0]["width"] >= 320


def test_a_scanned_label_opens_its_job_and_words_find_it(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http, complaint="Trembles near the estuary")
    page.goto(f"{server.base}/jobs/{job}/label")
    code = page.get_by_role("img", name=f"Code of {server.base}/jobs/{job}")
    expect(code).to_have_js_property("complete", True)
    assert code.evaluate("e => e.naturalWidth") > 0
    page.goto(f"{server.base}/new")
    page.get_by_label("Tag").fill(f"{server.base}/jobs/{job}")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(rf"/jobs/{job}/"))
    page.locator("#mat").focus()
    page.keyboard.press("f")
    page.keyboard.type("estuary")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="One job.")).to_be_visible()
    page.get_by_label("Which").click()
    page.get_by_role("option", name="Closed").click()
    expect(page.get_by_role("heading", name="No jobs.")).to_be_visible()


def test_words_are_words_wherever_they_are_shown(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """Markup that somebody typed never becomes markup."""
    job = new_job(http, complaint=NASTY)
    controller = http.get(f"/api/jobs/{job}").json()["job"]["controller"]["id"]
    http.post(f"/api/jobs/{job}/entries", json={"text": NASTY}).raise_for_status()
    now = http.get(f"/api/jobs/{job}").json()["job"]
    seen = {key: now[key] for key in ("stick", "complaint", "moves", "intake")}
    told = seen | {"intake": seen["intake"] | {"cosmetic": NASTY, "price": NASTY}}
    body = {"told": told, "since": seen, "revision": now["revision"]}
    http.put(f"/api/jobs/{job}/take-in", json=body).raise_for_status()
    first = NASTY.splitlines()[0]
    for place in (
        f"/jobs/{job}/prove",
        f"/jobs/{job}/take-in",
        f"/jobs/{job}/label",
        f"/controllers/{controller}",
        "/find?text=onerror",
    ):
        page.goto(server.base + place)
        if place.endswith("label"):
            page.get_by_text("Bench card, A6").click()
        expect(page.get_by_text(first).first).to_be_visible()
        assert page.title() != "run"
        assert page.locator("img[src=x]").count() == 0
        assert page.locator("img[src=x]").count() == 0
    http.post(
        f"/api/jobs/{job}/close", json={"ended": "as-it-was", "outcome": NASTY}
    ).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/hand-over")
    expect(page.locator(".block").get_by_text(first).first).to_be_visible()


def test_a_controllers_page_shows_every_visit(
    page: Page, server: Server, http: httpx.Client
) -> None:
    for n in range(2):
        job = new_job(http, tag="GS-555", complaint=f"visit number {n}")
        if n == 0:
            http.post(f"/api/jobs/{job}/close", json={"ended": "signed-off"}).raise_for_status()
    page.goto(f"{server.base}/new")
    page.get_by_label("Tag").fill("GS-555")
    page.get_by_role("link", name="Its whole history").click()
    line = page.get_by_label("Line of time")
    expect(line).to_contain_text("visit number 0")
    expect(line).to_contain_text("visit number 1")
    expect(line).to_contain_text("Signed off as fit")
    expect(page.get_by_text("2 visits")).to_be_visible()
