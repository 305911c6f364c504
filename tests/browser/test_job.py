"""Whole jobs in the real interface: what a technician does thirty times a day."""

from __future__ import annotations

import re

import httpx
import pytest
from playwright.sync_api import Locator, Page, Route, expect

from conftest import Server, new_job, new_take
from sticks import performed, recording_file

pytestmark = pytest.mark.browser

READINGS = re.compile(r"/takes/\d+$")
LIVE = re.compile(r"/takes/\d+/live")


def fast(page: Page) -> None:
    """Ask for the stand-in's time to run faster than the wall's."""
    page.goto(page.url.split("?")[0] + "?pace=fast")


def stations(page: Page) -> Locator:
    return page.get_by_role("navigation", name="Order of work")


def faulty(page: Page, condition: str) -> None:
    """Choose what is wrong with the stand-in; else its seed does, and some do not hold still."""
    page.get_by_label("What is wrong with it").click()
    page.get_by_role("option", name=condition).click()


def taken_until_told(page: Page, sentence: str) -> int:
    """Take until the readings say so; where they are too near to call, measure again as they say.
    Returns how often it took: the stand-in's hand is chance, and 3 takes of 100 are too near."""
    prove = page.url
    told, near = page.get_by_text(sentence), page.get_by_text("too near its limit to call")
    for taken in range(1, 5):
        page.get_by_role("button", name="Start the take").click()
        expect(page).to_have_url(READINGS, timeout=40_000)
        expect(told.or_(near).first).to_be_visible()
        if told.first.is_visible():
            return taken
        page.goto(prove)
    raise AssertionError(f"Not told in four takes: {sentence}")


def tab_to(page: Page, wanted: Locator) -> None:
    """Press Tab until a control has the focus."""
    for _ in range(60):
        if wanted.evaluate("e => e === document.activeElement"):
            return
        page.keyboard.press("Tab")
    raise AssertionError("Tab does not lead there")


def numbers(page: Page, label: str) -> float:
    shown = page.get_by_role("button", name=re.compile(f"^{label}")).first
    text = shown.locator(".number-value").inner_text()
    return float(re.match(r"[\d.]+", text).group())  # type: ignore[union-attr]


def test_the_whole_job_on_the_stand_in(page: Page, server: Server, http: httpx.Client) -> None:
    page.goto(server.base)
    page.get_by_role("link", name="New job").first.click()
    page.get_by_label("Tag").fill("GS-061")
    page.get_by_text("Plover", exact=True).click()
    page.get_by_text("Right stick", exact=True).click()
    page.get_by_text("No", exact=True).click()
    page.get_by_label("Complaint").fill("Walks off <b>by itself</b>")
    page.get_by_role("button", name="Take in and prove").click()
    expect(page.get_by_role("heading", name="Measure the right stick of GS-061")).to_be_visible()
    expect(page.get_by_text("Walks off <b>by itself</b>").first).to_be_visible()
    fast(page)

    faulty(page, "Worn at the centre")
    takes = taken_until_told(page, "It comes back to different places")
    assert numbers(page, "Returns apart") > 4

    stations(page).get_by_role("link", name="Decide").click()
    expect(page.locator("h1")).to_contain_text("Worn at the centre")
    page.get_by_role("radio", name=re.compile("Replace the module(?! by)")).check()
    reason = page.get_by_label("Against the advice: why?")
    if reason.count():
        reason.fill("The owner wants it new.")
    page.get_by_role("button", name="Decide: replace the module").click()
    done = page.get_by_role("button", name="Put on record")
    expect(done).to_be_disabled()
    expect(page.get_by_label("Cautions")).to_contain_text("Iron and hot air burn")
    page.get_by_text("Hall", exact=True).click()
    page.get_by_label("Lot").fill("LL-H1")
    expect(done).to_be_disabled()
    page.get_by_label("Read and kept to").check()
    done.click()

    expect(page.get_by_role("heading", name="Measure the right stick again")).to_be_visible()
    fast(page)
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(READINGS, timeout=40_000)
    stations(page).get_by_role("link", name="Verify").click()
    # Which module is drawn for it is chance: a fresh one may be less round than the worn one was.
    expect(page.locator("h1")).to_contain_text(re.compile(r"^Better.* The right stick now rests"))

    stations(page).get_by_role("link", name="Hand over").click()
    page.get_by_label("Outcome").fill("New Hall module.")
    page.get_by_role("button", name="Write it from the record").click()
    from_the_record = re.compile(
        r"^New Hall module\.\nBrought for: .*\nAs it came: .*\n"
        r"Done: Module replaced: Hall, lot LL-H1\.\nNow: Better"
    )
    expect(page.get_by_label("Outcome")).to_have_value(from_the_record)
    page.get_by_role("button", name="Close the job").click()
    expect(page.get_by_role("heading", name=re.compile(r"^Closed \d"))).to_be_visible()
    job = int(re.search(r"/jobs/(\d+)", page.url).group(1))  # type: ignore[union-attr]
    ledger = [e["kind"] for e in http.get(f"/api/jobs/{job}").json()["ledger"]]
    assert ledger[::-1] == [
        "take-in",
        *["take"] * takes,
        "decision",
        "caution",
        "work",
        "timer",
        "take",
        "close",
    ]
    shown = page.get_by_label("Ledger").get_by_role("listitem")
    expect(shown).to_have_count(len(ledger))


def quick(page: Page) -> None:
    page.get_by_label("What is asked for").click()
    page.get_by_role("option", name="Quick").click()


def perform(page: Page) -> None:
    quick(page)
    page.get_by_role("button", name="Start the take").click()
    expect(page).to_have_url(LIVE)
    expect(page).to_have_url(READINGS, timeout=90_000)


def test_the_whole_job_on_a_gamepad(padded: Page, server: Server, http: httpx.Client) -> None:
    page = padded
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    expect(page.get_by_label("Controller", exact=True)).to_contain_text("Plover on a cable")
    perform(page)
    expect(page.get_by_text(re.compile(r"Plover on a cable · \d+ Hz"))).to_be_visible()
    assert numbers(page, "Dead zone needed") == pytest.approx(7.0, abs=0.4)
    expect(page.locator("h1")).to_contain_text("toward 4 o’clock")
    http.post(f"/api/jobs/{job}/work", json={"kind": "recalibrated"}).raise_for_status()
    page.goto(f"{server.base}/jobs/{job}/verify")
    page.evaluate("Object.assign(pad, { restX: 0.004, restY: 0.002 })")
    perform(page)
    stations(page).get_by_role("link", name="Verify").click()
    expect(page.locator("h1")).to_contain_text("Better. The left stick now rests")


UNPLUGGED_AFTER_FOUR = """() => new Promise(done => {
  const look = () => {
    if (document.querySelectorAll('.dial .full').length < 4) return requestAnimationFrame(look)
    pad.unplug()
    done()
  }
  look()
})"""


def test_a_lost_cable_keeps_the_take_and_one_step_can_be_done_again(
    padded: Page, server: Server, http: httpx.Client
) -> None:
    page = padded
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    quick(page)
    page.get_by_role("button", name="Start the take").click()
    expect(page.get_by_role("img", name="Releases by direction")).to_be_visible()
    # By the page itself: on a busy machine the next step is reached while a word goes there and back.
    page.evaluate(UNPLUGGED_AFTER_FOUR)
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    expect(page.get_by_text("The controller was disconnected.")).to_be_visible()
    page.get_by_role("link", name="See what can be used").click()
    expect(page.get_by_label("What to know about this take")).to_contain_text("Not measured:")
    assert numbers(page, "Jitter") > 0
    expect(page.get_by_role("link", name="Do Rim again")).to_be_visible()


def test_a_reload_in_mid_take_keeps_the_take(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "sound"})
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live")
    expect(page.get_by_text("Hands stay off.")).to_be_visible()
    expect(page.locator(".count .figure")).to_contain_text(re.compile(r"^[1-9]"))
    page.reload()
    expect(page.get_by_role("heading", name="This take has ended.")).to_be_visible()
    page.get_by_role("link", name="Its readings").click()
    expect(page.get_by_label("What to know about this take")).to_contain_text(
        "the window was closed"
    )
    assert http.get(f"/api/takes/{take}").json()["readings"]["recording"]["samples"] > 250
    page.get_by_role("link", name="Do all that is missing").click()
    expect(page).to_have_url(LIVE)
    page.goto(f"{page.url}&pace=fast")
    expect(page).to_have_url(READINGS, timeout=40_000)
    answer = http.get(f"/api/takes/{take}").json()
    assert list(answer["readings"]["spans"]) == answer["take"]["routine"]["steps"]


def test_one_step_alone_is_done_again_from_the_readings(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "sound"})
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?pace=fast")
    expect(page).to_have_url(READINGS, timeout=40_000)
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?step=rim&pace=fast")
    expect(page).to_have_url(READINGS, timeout=40_000)
    spans = http.get(f"/api/takes/{take}").json()["readings"]["spans"]
    assert spans["rim"]["attempts"] == 2
    assert spans["still"]["attempts"] == 1


def test_everything_by_keyboard_alone(page: Page, server: Server, http: httpx.Client) -> None:
    """Both hands are on the mat; a pedal is a Space bar."""
    press = page.keyboard.press
    page.goto(server.base)
    expect(page.get_by_role("link", name="New job").first).to_be_visible()
    press("n")
    expect(page.get_by_label("Tag")).to_be_focused()
    page.keyboard.type("GS-077")
    tab_to(page, page.get_by_role("radio", name="Dunlin"))
    press("Space")
    tab_to(page, page.get_by_label("Complaint"))
    page.keyboard.type("pulls up")
    tab_to(page, page.get_by_role("button", name="Take in and prove"))
    press("Enter")
    expect(page.get_by_role("heading", name="Measure the stick of GS-077")).to_be_visible()
    fast(page)
    expect(page.locator(".rail")).to_contain_text("start the take")
    page.locator("#mat").focus()
    press("Space")
    expect(page.get_by_role("img", name="x and y over the whole take")).to_be_visible(
        timeout=40_000
    )
    press("d")
    expect(page.locator(".options")).to_be_visible()
    press("l")
    recalibrated = page.get_by_role("radio", name="Recalibrated", exact=True)
    expect(recalibrated).to_be_visible()
    tab_to(page, page.get_by_role("radio", name="Cable, port or battery changed"))
    press("r")
    expect(recalibrated).to_be_checked()
    expect(page.get_by_label("Note").first).to_be_visible()
    tab_to(page, page.get_by_role("button", name="Put on record"))
    press("Enter")
    expect(page.get_by_role("heading", name="Measure the stick again")).to_be_visible()
    fast(page)
    expect(page.get_by_role("button", name="Start the take")).to_be_enabled()
    page.locator("#mat").focus()
    press("Space")
    expect(page.get_by_role("img", name="x and y over the whole take")).to_be_visible(
        timeout=40_000
    )
    press("c")
    expect(page.get_by_role("columnheader", name="Verdict")).to_be_visible()
    press("Shift+?")
    expect(page.get_by_role("dialog", name="Keys on this screen")).to_be_visible()
    press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_space_redo_and_escape_rule_a_running_take(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "sound"})
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live")
    rail = page.locator(".rail")
    expect(rail).to_contain_text("accept and go on")
    page.keyboard.press("n")
    expect(page).to_have_url(LIVE)
    page.keyboard.press("Space")
    expect(page.locator('[aria-current="step"]')).to_have_text("Let-go")
    page.keyboard.press("1")
    expect(page.locator('[aria-current="step"]')).to_have_text("Still")
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    expect(page.get_by_text("It was stopped at the bench.")).to_be_visible()


def test_a_visitor_moves_the_stand_in_by_keys_and_mouse(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    take = new_take(http, job, {"kind": "stand-in", "condition": "sound"})
    page.goto(f"{server.base}/jobs/{job}/takes/{take}/live?hand=visitor")
    where = page.locator(".live-stick .figures")
    expect(where).to_contain_text(re.compile(r"x +[−\d]"))
    page.keyboard.down("ArrowRight")
    expect(where).to_contain_text(re.compile(r"x +(9\d|100)\.\d"))
    page.keyboard.up("ArrowRight")
    expect(where).to_contain_text(re.compile(r"x +−?\d\.\d"))
    box = page.locator(".live-stick svg").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 10)
    expect(where).to_contain_text(re.compile(r"y +(9\d|100)\.\d"))
    page.mouse.up()
    expect(where).to_contain_text(re.compile(r"y +−?\d\.\d"))
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()


def test_a_foreign_table_is_named_column_by_column(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    rows = "Logged by jig 3\n\ntime_ms;lx;ly\nms;counts;counts\n" + "".join(
        f"{4 * i};{127 + i % 3};{120 + i % 2}\n" for i in range(2000)
    )
    page.goto(f"{server.base}/jobs/{job}/prove")
    page.get_by_role("button", name="Recording file").click()
    page.get_by_role("link", name="Choose a file").click()
    upload = page.locator("input[type=file]")
    upload.set_input_files({"name": "log.csv", "mimeType": "text/csv", "buffer": b""})
    expect(page.get_by_role("alert")).to_contain_text("the file is empty")
    upload.set_input_files({"name": "log.csv", "mimeType": "text/csv", "buffer": rows.encode()})
    expect(page.get_by_role("cell", name="127").first).to_be_visible()
    page.get_by_label("Highest value").fill("100")
    page.get_by_label("All of it is").click()
    page.get_by_role("option", name="Still").click()
    page.get_by_role("button", name="Read it").click()
    expect(page.get_by_role("alert")).to_contain_text("line 5, column lx: 127 lies outside")
    page.get_by_label("Highest value").fill("255")
    page.get_by_role("button", name="Read it").click()
    expect(page).to_have_url(READINGS)
    expect(page.locator("h1")).to_contain_text("Rests")


def test_what_the_steps_seem_to_be_is_shown_and_corrected_before_a_table_comes_in(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """It names none, and no time either."""
    job = new_job(http)
    recording = performed("worn").recording
    rows = "".join(f"x:{x:g},y:{y:g}\n" for x, y in recording.raw)
    page.goto(f"{server.base}/jobs/{job}/file")
    page.locator("input[type=file]").set_input_files(
        {"name": "monitor.txt", "mimeType": "text/plain", "buffer": rows.encode()}
    )
    look = page.get_by_role("button", name="Look for its steps")
    expect(look).to_be_disabled()
    page.get_by_label("Rows a second").fill("250")
    look.click()
    form = page.get_by_role("region", name="The steps of the table")
    expect(form).to_contain_text("Every step of the routine was found.")
    expect(form.get_by_role("listitem")).to_have_count(6)
    form.get_by_role("listitem").nth(2).get_by_role("button", name="Leave it out").click()
    still = form.get_by_role("listitem").first
    still.get_by_label("To, s").fill("60")
    page.get_by_role("button", name="Read it with these steps").click()
    expect(page.get_by_role("alert")).to_contain_text("overlaps another step")
    # By hand on the trace: the step that was last touched is put where it is dragged over.
    still.get_by_label("To, s").focus()
    trace = page.get_by_role("img", name="x and y over the whole table")
    over = trace.locator(".u-over").bounding_box()
    assert over
    seconds = recording.t[-1]
    page.mouse.move(over["x"] + over["width"] * 1.0 / seconds, over["y"] + 40)
    page.mouse.down()
    page.mouse.move(over["x"] + over["width"] * 9.0 / seconds, over["y"] + 60, steps=4)
    page.mouse.up()
    expect(still.get_by_label("To, s")).to_have_value(re.compile(r"^[89]\.\d\d$"))
    page.get_by_role("button", name="Read it with these steps").click()
    expect(page).to_have_url(READINGS)
    take = http.get(f"/api/jobs/{job}").json()["takes"][0]
    spans = http.get(f"/api/takes/{take['id']}").json()["readings"]["spans"]
    assert "rim" not in spans
    assert spans["still"]["to_s"] == pytest.approx(9.0, abs=0.3)
    expect(page.get_by_text("its rows were counted, 250 a second")).to_be_visible()


def test_the_same_file_comes_in_once_unless_it_is_asked_for_again(
    page: Page, server: Server, http: httpx.Client
) -> None:
    job = new_job(http)
    (name, body, kind) = recording_file()["file"]
    page.goto(f"{server.base}/jobs/{job}/file")
    for again in (False, True):
        page.locator("input[type=file]").set_input_files(
            {"name": name, "mimeType": kind, "buffer": body}
        )
        page.get_by_role("button", name="Read it").click()
        if again:
            expect(page.get_by_role("alert")).to_contain_text("in the record already: take")
            page.get_by_label("Bring it in once more all the same").check()
            page.get_by_role("button", name="Read it").click()
        expect(page).to_have_url(READINGS)
        if not again:
            page.goto(f"{server.base}/jobs/{job}/file")
    assert len(http.get(f"/api/jobs/{job}").json()["takes"]) == 2


def test_what_is_sent_again_after_a_lost_answer_stands_in_the_ledger_once(
    page: Page, server: Server, http: httpx.Client
) -> None:
    """The line goes dead behind the request: pressing again is safe."""
    job = new_job(http)
    page.goto(f"{server.base}/jobs/{job}/prove")
    note = page.get_by_label("Note for the ledger")

    def lose_the_answer(route: Route) -> None:
        route.fetch()
        route.abort()

    path = f"**/api/jobs/{job}/entries"
    page.route(path, lose_the_answer)
    note.fill("Felt rough.")
    page.get_by_role("button", name="Put in the ledger").click()
    expect(page.get_by_role("alert")).to_contain_text("did not answer")
    page.unroute(path)
    page.get_by_role("button", name="Put in the ledger").click()
    expect(page.locator(".entry-text", has_text="Felt rough.")).to_be_visible()
    texts = [e["text"] for e in http.get(f"/api/jobs/{job}").json()["ledger"]]
    assert texts.count("Felt rough.") == 1
    expect(note).to_have_value("")
    note.fill("Felt rough.")
    page.get_by_role("button", name="Put in the ledger").click()
    expect(page.locator(".entry-text", has_text="Felt rough.")).to_have_count(2)


def test_a_code_is_shown_and_a_device_let_in_and_out(
    page: Page, server: Server, http: httpx.Client
) -> None:
    page.goto(f"{server.base}/devices")
    page.get_by_role("button", name="Show a code").click()
    code = page.locator(".pairing-code").inner_text()
    http.post("/api/pairing", json={"code": code, "name": "tablet"}).raise_for_status()
    page.reload()
    row = page.get_by_role("listitem").filter(has_text="tablet")
    row.get_by_role("button", name="let it in no more").click()
    row.get_by_role("button", name="Yes").click()
    expect(row).to_contain_text("let in no more since")
