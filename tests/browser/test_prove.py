"""The second station in the real interface: every way of getting samples, both sticks at once, a soak
that is looked into while it runs, and what the shop makes its own."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import BrowserContext, Page, expect
from tests.browser.test_job import LIVE, READINGS, faulty, numbers, quick

from browser.conftest import watched
from browser.test_views import BEYOND
from conftest import Server, new_job, new_take

pytestmark = pytest.mark.browser

CROSSED = """
(() => {
  // A controller whose left stick sits on axes 5 and 2, left and right the wrong way round.
  const axes = [0, 0, 0, 0, 0, 0];
  window.push = (x, y) => { axes[5] = -x; axes[2] = y; };
  let report = null;
  navigator.getGamepads = () => {
    const now = Math.floor(performance.now() / 4) * 4;
    if (report?.timestamp !== now) {
      report = { index: 0, id: "Crossed wires", connected: true, timestamp: now, buttons: [],
                 axes: axes.map((a, i) => a + 0.002 * Math.sin(now * (i + 1))) };
    }
    return [report];
  };
})();
"""


def test_axes_are_found_by_moving_the_stick_and_remembered(
    context: BrowserContext, server: Server, http: httpx.Client
) -> None:
    context.add_init_script(CROSSED)
    page = watched(context)
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Controller in the browser").click()
    page.get_by_role("button", name="Find the axes by moving it").click()
    expect(page.get_by_text("Push the left stick to the right")).to_be_visible()
    page.evaluate("push(0.9, 0)")
    expect(page.get_by_text("Let it come back.")).to_be_visible()
    page.evaluate("push(0, 0)")
    expect(page.get_by_text("Now push the left stick up.")).to_be_visible()
    page.evaluate("push(0, -0.9)")
    expect(page.get_by_text("Axes 5 and 2, x turned round.")).to_be_visible()
    page.evaluate("push(0, 0)")
    quick(page)
    page.get_by_role("button", name="Start the take").click()
    expect(page.get_by_text("Hands stay off.")).to_be_visible()
    page.evaluate("push(0.8, -0.4)")
    where = page.locator(".live-stick .figures")
    expect(where).to_contain_text(re.compile(r"x +(79|80)\.\d +y +(39|40)\.\d"))
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Take again").click()
    expect(page.get_by_text("Axes 5 and 2, x turned round.")).to_be_visible()


def test_both_sticks_at_once_are_set_on_one_axis(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast")
    page.get_by_label("The other one is the reference").click()
    page.get_by_role("option", name="Both at once, each hand one").click()
    quick(page)
    faulty(page, "Off centre")
    page.get_by_role("button", name="Start the take").click()
    expect(page.get_by_role("heading", level=1, name=re.compile("^Both sticks of"))).to_have_count(
        1
    )
    expect(page).to_have_url(re.compile(r"/sticks\?"), timeout=40_000)
    expect(page.get_by_role("heading", name=re.compile("reference", re.I))).to_be_visible()
    table = page.locator(".compare-table")
    expect(table).to_contain_text("No difference seen")
    expect(table).not_to_contain_text("change", ignore_case=True)
    takes = http.get(f"/api/jobs/{job}").json()["takes"]
    assert {t["stick"] for t in takes} == {"left", "right"}
    assert len({t["together"] for t in takes}) == 1
    expect(page.locator(".stage-now").first).to_be_attached()
    expect(page.locator(".stage-between").first).to_be_attached()


def test_one_stick_after_the_other_needs_no_hand_on_the_mouse(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast")
    page.get_by_label("The other one is the reference").click()
    page.get_by_role("option", name="Both, one after the other").click()
    quick(page)
    faulty(page, "Off centre")
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(re.compile(r"/sticks\?"), timeout=60_000)
    states = [t["state"] for t in http.get(f"/api/jobs/{job}").json()["takes"]]
    assert states == ["complete", "complete"]


def test_a_soak_is_browsed_while_it_runs_down_to_single_samples(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "sound"}, routine_id="soak")
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live")
    expect(page.locator(".count .figure")).to_contain_text(re.compile("0:(0[6-9]|[1-5])"))
    other = watched(page.context)
    other.goto(f"{server.base}/jobs/{job}/takes/{take}")
    expect(other.locator("h1")).to_contain_text("So far:")
    expect(other.get_by_text("Wander", exact=True).first).to_be_visible()
    box = other.locator(".trace .u-over").bounding_box()
    assert box
    y = box["y"] + 30
    other.mouse.move(box["x"] + box["width"] * 0.4, y)
    other.mouse.down()
    other.mouse.move(box["x"] + box["width"] * 0.45, y, steps=5)
    other.mouse.up()
    expect(other.get_by_text("every sample")).to_be_visible()
    expect(other.get_by_role("img", name="x and y over a stretch of the take")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    assert http.get(f"/api/takes/{take}").json()["readings"]["still"]["wander"] is not None


def test_a_paddle_goes_through_its_own_routine(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http, model_id="turnstone", stick="paddle")
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast")
    expect(page.get_by_label("What is asked for")).to_contain_text("Paddle")
    page.get_by_label("What is wrong with it").click()
    expect(page.get_by_role("option", name="Binds on one side")).to_have_count(0)
    page.get_by_role("option", name="Dirty").click()
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(READINGS, timeout=40_000)
    expect(page.locator("h1")).to_contain_text("Left alone, it trembles")
    assert numbers(page, "Outer dead zone") < 20
    expect(page.get_by_role("img", name="Track map; its numbers are below")).to_be_visible()


def test_a_dead_zone_in_the_source_never_passes_for_health(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "dead-zone"})
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?pace=fast")
    expect(page).to_have_url(READINGS, timeout=40_000)
    expect(page.locator("h1")).to_contain_text("Hidden below")
    expect(page.get_by_label("What to know about this take")).to_contain_text(
        "do not call it fixed"
    )
    needed = page.get_by_role("button", name=re.compile("^Dead zone needed"))
    expect(needed).to_contain_text(re.compile("Hidden, limit 8|Over 8"))
    page.keyboard.press("v")
    expect(page.get_by_role("button", name="Track, hold and noise")).to_have_attribute(
        "aria-pressed", "true"
    )
    page.get_by_role("button", name=re.compile("^Held toward")).first.press("Enter")
    expect(page.get_by_role("img", name="x and y over time: one hold")).to_be_visible()


def test_a_model_is_made_with_a_gate_a_lever_and_limits_of_its_own(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.goto(f"{server.base}/models")
    page.get_by_role("link", name="New model").click()
    page.get_by_label("Name", exact=True).fill("Knot")
    page.get_by_label("Highest value").fill("4095")
    page.get_by_label("Gate").first.click()
    page.get_by_role("option", name="Octagonal gate").click()
    expect(page.get_by_role("option")).to_have_count(0)
    page.get_by_label("Name, such as left").nth(1).fill("throttle")
    page.get_by_label("Kind").nth(1).click()
    page.get_by_role("option", name="One axis, with a spring").click()
    page.get_by_text("Limits of its own").click()
    page.get_by_label("Dead zone needed, Everyday", exact=True).fill("30")
    page.get_by_role("button", name="Keep the model").click()
    expect(page.get_by_role("alert")).to_contain_text("must not be tighter for a coarser grade")
    page.get_by_label("Dead zone needed, Everyday", exact=True).fill("5")
    page.get_by_role("button", name="Keep the model").click()
    expect(page.get_by_role("heading", name="Knot")).to_be_visible()
    knot = next(m for m in http.get("/api/models").json() if m["name"] == "Knot")
    assert knot["hi"] == 4095
    left = knot["sticks"][0]
    assert (left["name"], left["axes"], left["gate"]) == ("left", 2, "octagon")
    assert knot["sticks"][1]["axes"] == 1
    assert len(knot["sticks"][1]["sensors"]) == 1
    assert knot["limits"] == {"composite.dead_zone_needed": {"everyday": 5}}
    job = new_job(http, model_id=knot["id"], stick="throttle")
    page.goto(f"{server.base}/jobs/{job}/prove")
    expect(page.get_by_label("What is asked for")).to_contain_text("Lever")


LEVER = {
    "name": "Throttled",
    "sticks": [
        {
            "name": "throttle",
            "axes": 1,
            "sprung": True,
            "gate": "round",
            "sensors": [{"axis": "x", "kind": "potentiometer", "side": "left"}],
        }
    ],
    "bits": 10,
    "rate_hz": 250,
    "lo": 0,
    "hi": 1023,
}


def test_a_lever_is_spoken_of_by_its_ends(page: Page, server: Server, http: httpx.Client) -> None:
    """It has no twelve o'clock to go toward, and nothing of it lies around a circle."""
    model = http.post("/api/models", json=LEVER).json()["id"]
    job = new_job(http, model_id=model, stick="throttle")
    page.goto(f"{server.base}/jobs/{job}/take-in")
    page.get_by_label("High end").check()
    page.get_by_role("button", name="Save").click()
    ledger = page.get_by_role("complementary", name="Ledger")
    expect(ledger).to_contain_text("Goes toward: not asked → its high end.")
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast")
    faulty(page, "Off centre")
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(READINGS, timeout=40_000)
    expect(page.locator("h1")).to_contain_text("Rests")
    expect(page.get_by_role("heading", name="Rest cloud")).to_have_count(0)
    rows = page.get_by_text("Numbers").first
    rows.click()
    expect(page.get_by_role("cell", name="pushed to its low end")).to_have_count(4)
    rows.click()
    page.get_by_role("button", name=re.compile("^Pushed to its high end")).first.press("Enter")
    expect(page.get_by_role("img", name="x over time: one release")).to_be_visible()
    page.keyboard.press("v")
    page.get_by_role("button", name=re.compile("^Held toward its low end")).press("Enter")
    expect(page.get_by_role("img", name="x over time: one hold")).to_be_visible()
    expect(page.locator("main")).not_to_contain_text("o’clock")


def test_a_routine_of_the_shops_own_is_made_and_followed(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.goto(f"{server.base}/routines")
    page.get_by_role("button", name="Make one like it").nth(1).click()
    page.get_by_label("Name").fill("Doorstep")
    for step in ("Let-go", "Rim"):
        page.get_by_label(step, exact=True).uncheck()
    page.get_by_label("Still, seconds").fill("2")
    page.get_by_role("button", name="Keep the routine").click()
    expect(page.get_by_role("alert")).to_contain_text("still_s")
    page.get_by_label("Still, seconds").fill("5")
    page.get_by_role("button", name="Keep the routine").click()
    expect(page.get_by_role("heading", name="Doorstep")).to_be_visible()
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast")
    page.get_by_label("What is asked for").click()
    page.get_by_role("option", name="Doorstep").click()
    faulty(page, "Sound")
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(READINGS, timeout=40_000)
    take = http.get(f"/api/jobs/{job}").json()["takes"][0]
    view = http.get(f"/api/takes/{take['id']}").json()
    assert set(view["readings"]["spans"]) == {"still"}
    assert view["meaning"]["try_first"] == "measure", "what was left out is not fine"
    expect(page.get_by_text("Doorstep")).to_have_count(0)


def test_a_bench_check_is_led_through_and_shows_what_the_bench_can_see(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http, tag="GS-301", model_id="dunlin", stick="stick")
    page.goto(f"{server.base}/bench-checks")
    page.get_by_role("button", name="Begin a bench check").click()
    page.get_by_label("Model").click()
    page.get_by_role("option", name="Dunlin").click()
    page.get_by_label("GS-301 stick").check()
    page.get_by_label("Who measures").fill("morning bench")
    page.get_by_role("button", name="Begin", exact=True).click()
    for trial in range(3):
        expect(page.get_by_text(f"{trial} of 3", exact=True)).to_be_visible()
        page.get_by_role("link", name="Measure", exact=True).click()
        expect(page.get_by_label("Bench role")).to_have_value("morning bench")
        page.goto(page.url + "&pace=fast")
        expect(page.get_by_label("What is asked for")).to_contain_text("Quick")
        page.get_by_role("button", name="Start the take").click()
        expect(page).to_have_url(re.compile(r"/bench-checks/\d+$"), timeout=40_000)
    expect(page.locator("h1")).to_contain_text("the smallest change this bench can see is")
    expect(page.get_by_role("img", name="Trials by stick and role")).to_be_visible()
    page.get_by_label("Reading").click()
    page.get_by_role("option", name="Circularity error").click()
    expect(page.get_by_text("Repeatability").first).to_be_visible()
    take = http.get(f"/api/jobs/{job}").json()["takes"][-1]["id"]
    page.goto(f"{server.base}/jobs/{job}/takes/{take}")
    expect(page.get_by_role("link", name=re.compile("bench check of"))).to_be_visible()


def test_a_jig_on_a_serial_port_is_found_and_runs_a_take(
    page: Page, server: Server, http: httpx.Client, jig_beside: Path
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Serial logger").click()
    expect(page.get_by_label("Port")).to_contain_text("Simulated jig")
    quick(page)
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(LIVE)
    expect(page.locator(".rail")).to_contain_text(re.compile(r"4\d\d\.\d Hz|50\d\.\d Hz"))
    expect(page.locator('[aria-current="step"]')).to_have_text("Let-go", timeout=30_000)
    expect(page.locator(".dial .full").nth(1)).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    take = http.get(f"/api/jobs/{job}").json()["takes"][0]
    view = http.get(f"/api/takes/{take['id']}").json()
    assert view["take"]["ranges"] == [{"lo": 0, "hi": 4095, "calibration": None}] * 2
    assert view["readings"]["recording"]["rate_hz"] == pytest.approx(500, rel=0.02)


def test_a_source_is_tried_out_by_one_key_and_the_rail_says_what_it_hides(
    page: Page, server: Server, http: httpx.Client
) -> None:
    plover = next(m for m in http.get("/api/models").json() if m["id"] == "plover")
    own = {k: v for k, v in plover.items() if k != "id"} | {"name": "Whimbrel"}
    job = new_job(http, model_id=http.post("/api/models", json=own).json()["id"])
    page.goto(f"{server.base}/jobs/{job}/prove?pace=fast")
    expect(page.get_by_text("This source was not tried out with a Whimbrel yet.")).to_be_visible()
    faulty(page, "Worn, hidden by a dead zone")
    assert max(page.evaluate(BEYOND)) == 0, "a long choice does not lie on the column beside it"
    page.keyboard.press("k")
    like = page.get_by_role("group", name="What the source is like")
    expect(like).to_contain_text("It hides something", timeout=30_000)
    expect(like).to_contain_text("do not call it fixed")
    page.reload()
    expect(like).to_contain_text("It hides something")
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(LIVE)
    expect(page.locator(".rail")).to_contain_text("hides something")
    page.keyboard.press("Escape")


def test_how_it_was_measured_is_kept_and_offered_again(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_label("Calibration").click()
    page.get_by_role("option", name="Factory").click()
    page.get_by_label("Shell").click()
    page.get_by_role("option", name="Open").click()
    page.get_by_label("Bench role").fill("evening bench")
    quick(page)
    page.get_by_role("button", name="Start the take").click()
    expect(page.locator(".says")).to_contain_text("Hands")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="See what can be used").click()
    take = http.get(f"/api/jobs/{job}").json()["takes"][0]
    assert take["conditions"] == {
        "calibration": "factory",
        "power": "unknown",
        "shell": "open",
        "role": "evening bench",
    }
    http.post(f"/api/jobs/{job}/work", json={"kind": "recalibrated"}).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/prove")
    expect(page.get_by_label("Calibration")).to_contain_text("Recalibrated")
    expect(page.get_by_label("Bench role")).to_have_value("evening bench")


HID = Path(__file__).parent / "hid.js"


def by_raw_reports(context: BrowserContext, server: Server, job: int) -> Page:
    """Where a take begins, with a device plugged in that gives raw reports."""
    context.add_init_script(path=HID)
    page = watched(context)
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Raw reports in the browser").click()
    return page


def test_raw_reports_are_read_in_whole_numbers_at_the_device_s_own_rate(
    context: BrowserContext, server: Server, http: httpx.Client
) -> None:
    """Axes found by moving the stick, Still by raw reports, unplugged in mid-take."""
    job = new_job(http)
    page = by_raw_reports(context, server, job)
    page.get_by_role("button", name="Choose the device").click()
    expect(page.get_by_text("X and Y of 2 axes, in whole numbers from 0 to 4095.")).to_be_visible()
    page.get_by_role("button", name="Find the axes by moving it").click()
    page.evaluate("raw.seen()")
    page.evaluate("raw.state.y = 4000")
    expect(page.get_by_text("Let it come back.")).to_be_visible()
    page.evaluate("raw.state.y = 2040")
    expect(page.get_by_text("Now push the left stick up.")).to_be_visible()
    page.evaluate("raw.state.x = 100")
    expect(page.get_by_text("Y and X of 2 axes")).to_be_visible()
    page.evaluate("raw.state.x = 2130")
    page.get_by_role("button", name="Find the axes by moving it").click()
    page.evaluate("raw.seen()")
    page.evaluate("raw.state.x = 4000")
    expect(page.get_by_text("Let it come back.")).to_be_visible()
    page.evaluate("raw.state.x = 2130")
    expect(page.get_by_text("Now push the left stick up.")).to_be_visible()
    page.evaluate("raw.state.y = 50")
    expect(page.get_by_text("X and Y of 2 axes")).to_be_visible()
    page.evaluate("raw.state.y = 2040")
    page.get_by_label("What is asked for").click()
    page.get_by_role("option", name="Quick").click()
    page.get_by_role("button", name="Start the take").click()
    expect(page.locator('[aria-current="step"]')).to_have_text("Let-go", timeout=30_000)
    page.evaluate("raw.unplug()")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    (take,) = http.get(f"/api/jobs/{job}").json()["takes"]
    assert (take["source_kind"], take["source_name"]) == ("hid", "Plover raw")
    view = http.get(f"/api/takes/{take['id']}").json()
    assert view["take"]["ranges"] == [{"lo": 0, "hi": 4095, "calibration": None}] * 2
    assert view["readings"]["recording"]["rate_hz"] == pytest.approx(250, rel=0.05)
    assert view["values"]["still.rest_x"] == pytest.approx(100 * (2130 - 2047.5) / 2047.5, abs=0.2)
    assert view["values"]["still.rest_y"] == pytest.approx(100 * (2047.5 - 2040) / 2047.5, abs=0.2)
    remembered = http.get(
        "/api/mappings",
        params={"model_id": "plover", "source_kind": "hid", "source_name": "Plover raw"},
    ).json()
    assert remembered[0]["axis_x"] == 0


def test_what_calibrates_a_device_is_told_once_and_known_the_next_time(
    context: BrowserContext, server: Server, http: httpx.Client
) -> None:
    """By the keyboard, field after field; nothing begins while a number is missing."""
    job = new_job(http)
    page = by_raw_reports(context, server, job)
    expect(page.get_by_label("Its numbers are")).to_have_count(0)
    page.get_by_role("button", name="Choose the device").click()
    page.get_by_label("Its numbers are").click()
    page.get_by_role("option", name="by these").click()
    start = page.get_by_role("button", name="Start the take")
    expect(start).to_be_disabled()
    page.get_by_role("group", name="Left and right").get_by_label("Low").focus()
    for number in (500, 2130, 3700, 600, 2040):
        page.keyboard.type(str(number))
        page.keyboard.press("Tab")
    expect(start).to_be_disabled()
    page.keyboard.type("2000")
    start.click()
    expect(page.get_by_role("alert")).to_contain_text("low, centre and high must rise")
    page.get_by_role("group", name="Up and down").get_by_label("High").fill("3500")
    page.get_by_label("What is asked for").click()
    page.get_by_role("option", name="Quick").click()
    start.click()
    expect(page.locator('[aria-current="step"]')).to_have_text("Let-go", timeout=30_000)
    page.evaluate("raw.unplug()")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    (take,) = http.get(f"/api/jobs/{job}").json()["takes"]
    values = http.get(f"/api/takes/{take['id']}").json()["values"]
    assert values["still.rest_x"] == pytest.approx(0, abs=0.2)
    assert values["still.rest_y"] == pytest.approx(0, abs=0.2)
    page.evaluate("raw.state.plugged = true")
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Choose the device").click()
    expect(page.get_by_label("Its numbers are")).to_contain_text("by these")
    up = page.get_by_role("group", name="Up and down")
    expect(up.get_by_label("Low")).to_have_value("600")
    expect(up.get_by_label("High")).to_have_value("3500")


def test_a_browser_without_raw_reports_says_what_is_next_best(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.add_init_script("Object.defineProperty(navigator, 'hid', {value: undefined})")
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Raw reports in the browser").click()
    expect(page.get_by_text("This browser does not let a page read raw reports.")).to_be_visible()
    page.get_by_role("button", name="Raw device").click()
    expect(page.get_by_role("status").filter(has_text="raw HID devices")).to_be_visible()
