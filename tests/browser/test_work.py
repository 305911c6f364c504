"""The middle of the job on the screen: a shell opened by its sheet, worked on, checked while it is
open, shut with nothing left over."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import BrowserContext, Page, Response, expect
from tests.browser.test_job import READINGS

from browser.conftest import watched
from conftest import Server, new_job, new_take
from hollow_pin.demo.pictures import photograph

pytestmark = pytest.mark.browser

DRIVER = "six-lobe 8"


def twelve_steps() -> list[dict]:
    def step(i: int, kind: str, **more: object) -> dict:
        return {"id": f"s{i}", "kind": kind, "words": f"Step {i}", "back": "as it was"} | more

    marks = [{"x": 10.0 * i, "y": 10.0, "length_mm": 8.0 if i < 4 else 12.0} for i in range(1, 6)]
    kinds = [
        "clip",
        "lift",
        "ribbon",
        "plug",
        "spring",
        "label",
        "heat",
        "battery",
        "other",
        "clip",
    ]
    screws = [step(0, "fastener", driver=DRIVER, marks=marks)]
    screws += [step(1, "fastener", driver=DRIVER, marks=[{"x": 50, "y": 50, "length_mm": 5}])]
    return screws + [step(i + 2, kind) for i, kind in enumerate(kinds)]


def keep_sheet(http: httpx.Client, model: str, steps: list[dict]) -> None:
    revision = http.get(f"/api/models/{model}/teardown").json()["revision"]
    http.put(
        f"/api/models/{model}/teardown", json={"steps": steps, "revision": revision}
    ).raise_for_status()


def measured(page: Page) -> None:
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(READINGS, timeout=40_000)


def walk(page: Page, steps: int) -> None:
    """A key a step."""
    for i in range(steps):
        expect(page.locator(".walk-steps li.done")).to_have_count(i)
        page.keyboard.press("Space")


def cautions(http: httpx.Client, kind: str) -> list[str]:
    remedies = http.get("/api/catalogue").json()["remedies"]
    return next([c["code"] for c in r["cautions"]] for r in remedies if r["remedy"]["code"] == kind)


@pytest.mark.parametrize("jig_beside", [("--speed", "8")], indirect=True)
def test_from_a_decision_to_a_shell_that_is_shut_with_nothing_left_over(
    page: Page, server: Server, http: httpx.Client, jig_beside: Path
) -> None:
    """Decided to replace; the module at hand is of another value, and the right lot is looked at on
    the jig; twelve steps out by twelve keys; cleaned first, which does not mend it, as the check says;
    the new module; the check says close it; twelve steps back; one screw too many, found."""
    end_other_timers(http)
    keep_sheet(http, "plover", twelve_steps())
    job = new_job(http, "GS-700")
    source = {"kind": "stand-in", "condition": "worn+offset"}
    take = new_take(http, job, source, routine_id="quick")
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?pace=fast")
    expect(page).to_have_url(READINGS, timeout=40_000)

    right = decided_on_a_part(page, server, http, job)
    looked_at_on_the_jig(page, server, http, right, jig_beside)
    opened(page, server, job)

    page.goto(f"{server.base}/jobs/{job}/work")
    page.get_by_role("button", name="Something else was done").click()
    page.get_by_text("Sensor housing cleaned", exact=True).click()
    page.get_by_label("Passes").fill("99")
    expect(page.get_by_text("1 to 50")).to_be_visible()
    page.get_by_label("Passes").fill("3")
    page.get_by_label("Solvent").select_option("isopropyl")
    page.get_by_role("button", name="Keep these as the shop's usual").click()
    page.get_by_label("Under which name").fill("Three swabs")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("button", name="Three swabs", exact=True)).to_be_visible()
    page.get_by_label("Read and kept to").check()
    page.get_by_role("button", name="Put on record").click()

    check = page.get_by_role("region", name="Open-shell check")
    expect(check).to_contain_text("was not measured since, with the shell open")
    passes = page.get_by_role("region", name="Pass by pass, left stick")
    expect(passes).to_contain_text("Not measured after it.")
    of_this = re.compile("GS-700: Drying")
    expect(page.locator(".rail-timer")).to_have_attribute("title", of_this)
    page.get_by_role("link", name="Measure it open, quickly").click()
    page.goto(page.url + "&pace=fast")
    expect(page.get_by_role("combobox", name="Shell")).to_contain_text("Open")
    measured(page)
    page.goto(f"{server.base}/jobs/{job}/shut")
    expect(check).to_contain_text("Do not close it yet. Left stick: It comes back to")
    expect(passes).to_contain_text("what is left is no dirt that comes off")
    passes.get_by_role("link", name="Another pass").click()
    page.get_by_role("button", name="As last time").click()
    expect(page.get_by_label("Passes")).to_have_value("3")

    page.goto(f"{server.base}/jobs/{job}/work?kind=replaced")
    shelf = page.get_by_role("group", name="Which part, from the shelf")
    shelf.get_by_role("radio", name=re.compile("Ten k, looked at")).check()
    expect(page.get_by_role("radio", name="Potentiometer")).to_be_checked()
    page.get_by_label("How the old one came out").select_option("cut")
    page.get_by_role("button", name="Start the clock").click()
    page.get_by_role("button", name="Take it over").click()
    expect(page.get_by_label("Minutes", exact=True)).to_have_value("1")
    page.get_by_label("Read and kept to").check()
    page.get_by_role("button", name="Put on record").click()
    expect(check).to_be_visible()
    body = {"kind": "recalibrated", "cautions": cautions(http, "recalibrated")}
    http.post(f"/api/jobs/{job}/work", json=body).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast&routine=quick&shell=open")
    measured(page)
    page.goto(f"{server.base}/jobs/{job}/shut")
    expect(page.locator("h1")).to_have_text("Close it.")

    shut_again(page)
    expect(page.locator("h1")).to_have_text("The shell is shut.")
    expect(page.locator(".ledger")).not_to_contain_text("Left over")
    expect(page.locator(".ledger")).to_contain_text("Taken out: cut up, piece by piece")

    page.get_by_label("Their word").fill("Straight ahead for ten minutes.")
    page.get_by_role("button", name="Record it").click()
    expect(page.get_by_role("alert")).to_contain_text("which bench role played it")
    page.goto(server.base)
    expect(page.get_by_text("0 of 1 with the open-shell check")).to_be_visible()


def decided_on_a_part(page: Page, server: Server, http: httpx.Client, job: int) -> int:
    """Replacing it is decided on; the part at hand is of another value, and that is said. The id of
    the right part, of which two came."""
    facts = {"kind": "module", "footprint": "P-14", "sensor": "potentiometer"}
    names = (("Ten k, looked at", 10_000), ("Two k, at hand", 2300))
    ids = [
        int(http.post("/api/parts", json=facts | {"name": n, "ohms": o}).json()["id"])
        for n, o in names
    ]
    for part, count in zip(ids, (2, 1), strict=True):
        came = {"kind": "received", "count": count, "lot": "BC-700"}
        http.post(f"/api/parts/{part}/movements", json=came).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/decide")
    page.get_by_role("radio", name=re.compile("Replace the module(?! by)")).check()
    against = page.get_by_label("Against the advice: why?")
    expect(page.get_by_role("button", name=re.compile("^Decide: replace"))).to_be_visible()
    if against.count():
        against.fill("Recalibrated twice already.")
    page.get_by_role("button", name=re.compile("^Decide: replace")).click()
    expect(page).to_have_url(re.compile("/work"))
    shelf = page.get_by_role("group", name="Which part, from the shelf")
    expect(shelf).to_contain_text("2300 Ω where 10000 Ω belong")
    return ids[0]


def looked_at_on_the_jig(
    page: Page, server: Server, http: httpx.Client, part: int, jig: Path
) -> None:
    """Both of the lot, one of them on the jig; it is accepted."""
    page.goto(f"{server.base}/parts/{part}")
    page.get_by_label("Size of the lot").fill("2")
    page.get_by_role("button", name="Look at it").click()
    h1 = page.locator("h1")
    expect(h1).to_contain_text("2 more to look at, of 2.")
    page.get_by_label("Port of the jig").select_option(str(jig))
    page.get_by_role("button", name="Measure it on the jig").click()
    on_jig = page.get_by_role("group", name="On the jig")
    expect(on_jig).to_contain_text("Dead zone needed", timeout=40_000)
    for _ in range(2):
        page.get_by_label("Track x, Ω from end to end").fill("10100")
        page.get_by_role("button", name="Record it, next one").click()
    expect(h1).to_contain_text("Accept it")
    page.get_by_role("button", name="Accept it").click()
    expect(page.get_by_text("It was accepted.")).to_be_visible()


def opened(page: Page, server: Server, job: int) -> None:
    """Twelve steps by twelve keys, and one of them taken back and done again."""
    page.goto(f"{server.base}/jobs/{job}/open")
    page.get_by_label("Read and kept to").check()
    page.get_by_role("button", name="Open it").click()
    expect(page.locator(".walk-words")).to_have_text("Step 0")
    walk(page, 12)
    expect(page.locator("h1")).to_have_text("The Plover is open.")
    key = page.locator(".plan-key li")
    expect(key.nth(1)).to_contain_text("3 of 3 out")
    page.keyboard.press("Backspace")
    expect(page.locator(".walk-words")).to_have_text("Step 11")
    page.keyboard.press("Space")
    expect(page.get_by_role("link", name="Put the work on record")).to_be_visible()


def shut_again(page: Page) -> None:
    """Twelve steps back, everything looked at, the timers ended, a screw too many put where it
    belongs."""
    expect(page.locator(".walk-words")).to_have_text("Step 11")
    walk(page, 12)
    looked = page.get_by_role("region", name="Looked at before it shuts")
    expect(looked).to_be_visible()
    for i in range(6):
        expect(looked.locator(".station-mark.done")).to_have_count(i)
        page.keyboard.press("Space")
    against = page.locator(".objections")
    expect(against).to_have_text(
        re.compile("^Still to be waited for: cooling, .* and drying, .*min.$")
    )
    for name in ("Drying", "Cooling"):
        row = (
            page.get_by_role("region", name="Timers").get_by_role("listitem").filter(has_text=name)
        )
        row.get_by_role("button", name="End it early").click()
        page.get_by_label(re.compile("need not be waited for")).fill("Dry, and cold to the touch.")
        page.get_by_role("button", name="End it", exact=True).click()
        expect(row).to_have_count(0)
    expect(against).to_have_count(0)
    lying = page.get_by_label("B, 8 mm")
    lying.fill("1")
    call = page.get_by_role("button", name="Call it shut")
    expect(page.get_by_label("Why it is shut all the same")).to_be_visible()
    expect(call).to_be_disabled()
    lying.fill("0")
    call.click()


def test_a_plug_is_photographed_before_it_is_pulled_and_seen_again_when_it_goes_back(
    page: Page, server: Server, http: httpx.Client, tmp_path: Path
) -> None:
    picture = tmp_path / "plug.jpg"
    picture.write_bytes(photograph("plug", 1).getvalue())
    keep_sheet(http, "dunlin", [{"id": "plug", "kind": "plug", "words": "Motor plug"}])
    job = new_job(http, model_id="dunlin", stick="stick")
    page.goto(f"{server.base}/jobs/{job}/open")
    page.get_by_label("Read and kept to").check()
    page.get_by_role("button", name="Open it").click()
    expect(page.locator(".walk-words")).to_have_text("Motor plug")
    page.keyboard.press("Space")
    expect(page.get_by_role("alert")).to_contain_text("or photograph them")
    page.get_by_label("Photo of this step").set_input_files(picture)
    expect(page.get_by_role("list", name="How it looked").get_by_role("img")).to_have_count(1)
    page.keyboard.press("Space")
    expect(page.locator("h1")).to_have_text("The Dunlin is open.")
    page.get_by_role("button", name="Keep what was learnt as the model's sheet").click()
    expect(page.get_by_role("button", name=re.compile("Keep what was learnt"))).to_have_count(0)
    page.goto(f"{server.base}/jobs/{job}/shut")
    expect(page.get_by_role("list", name="How it looked").get_by_role("img")).to_have_count(1)
    page.goto(f"{server.base}/models/dunlin/sheet")
    expect(page.get_by_role("img", name="How it looks before")).to_be_visible()


def test_a_sheet_is_drawn_by_clicking_and_by_keys(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.goto(f"{server.base}/models/skua/sheet")
    page.get_by_role("button", name="Add a step").click()
    page.get_by_label("What is done").fill("Base screws")
    page.get_by_label("Driver").fill("cross 1")
    plan = page.get_by_role("application")
    plan.click(position={"x": 40, "y": 30})
    expect(page.locator(".plan-key")).to_contain_text("A 6 mm, cross 1: 1")
    page.get_by_label("Length, mm").fill("10")
    plan.focus()
    for key in ("ArrowRight",) * 10 + ("Enter",):
        page.keyboard.press(key)
    expect(page.locator(".plan-key")).to_contain_text("B 10 mm, cross 1: 1")
    page.get_by_label("a hole that takes none").check()
    plan.focus()
    for key in ("ArrowDown",) * 8 + ("Enter",):
        page.keyboard.press(key)
    expect(plan.get_by_text("takes none")).to_have_count(1)
    page.keyboard.press("Backspace")
    expect(plan.get_by_text("takes none")).to_have_count(0)
    page.get_by_role("button", name="Keep the sheet").click()
    expect(page.get_by_text("Version 1.")).to_be_visible()
    (step,) = http.get("/api/models/skua/teardown").json()["sheet"]["steps"]
    assert sorted(m["length_mm"] for m in step["marks"]) == [6, 10]
    page.get_by_label("What is done").fill("Base screws, all eight")
    page.get_by_role("button", name="Keep the sheet").click()
    expect(page.get_by_text("Version 2.")).to_be_visible()
    page.get_by_label("Take up an earlier version").select_option("1")
    expect(page.get_by_label("What is done")).to_have_value("Base screws")
    page.get_by_role("button", name="Keep the sheet").click()
    expect(page.get_by_text("Version 3.")).to_be_visible()


def end_other_timers(http: httpx.Client) -> None:
    """Of the tests before: one that ends meanwhile takes the place of those that run."""
    for other in http.get("/api/timers").json():
        timer = f"/api/timers/{other['timer']['id']}"
        ended = http.post(f"{timer}/end", json={"because": "of another job"})
        if ended.status_code == 409:  # over, and no window was there to hear it
            ended = http.post(f"{timer}/heard")
        ended.raise_for_status()
    assert http.get("/api/timers").json() == []


def test_a_timer_sounds_once_however_many_windows_are_open(
    context: BrowserContext, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    end_other_timers(http)
    pages = [watched(context) for _ in range(2)]
    for page in pages:
        page.goto(server.base)
    made = http.post(f"/api/jobs/{job}/timers", json={"kind": "dry", "minutes": 0.2})
    made.raise_for_status()
    answers: list[Response] = []
    context.on("response", lambda r: answers.append(r) if r.url.endswith("/heard") else None)
    for page in pages:
        page.reload()
        expect(page.locator(".rail")).to_contain_text("Drying")
    for page in pages:
        expect(page.locator(".rail-timer")).to_have_count(0, timeout=40_000)
    # Which of them was to sound is known once it is answered.
    while not any(answer.json() for answer in answers):
        context.wait_for_event("response", timeout=10_000)
    assert http.get("/api/timers").json() == []
    # A window that has heard of it shows it until somebody goes there.
    (mine,) = [answer.frame.page for answer in answers if answer.json()]
    expect(mine.locator(".rail-over")).to_be_visible()
    (other,) = [page for page in pages if page != mine]
    expect(other.locator(".rail-over")).to_have_count(0)
