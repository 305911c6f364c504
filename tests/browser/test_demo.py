"""The examples tell the stories they are named for, and every view of them is fit to be seen."""

from __future__ import annotations

import re

import httpx
import pytest
from playwright.sync_api import BrowserContext, Page, Response, expect

from browser.conftest import views
from conftest import Server

pytestmark = pytest.mark.browser


def compared(demo: Server, view: dict, first: int, second: int) -> dict:
    takes = [t["id"] for t in view["takes"] if t["stick"] == view["job"]["stick"]]
    query = {"before": takes[first], "after": takes[second]}
    return httpx.get(f"{demo.base}/api/comparison", verify=False, params=query).json()


def verdicts(comparison: dict) -> dict[str, str]:
    return {r["path"]: r["verdict"] for r in comparison["comparison"]["rows"]}


def test_the_bench_is_full_of_controllers_in_different_states(bench: dict[str, dict]) -> None:
    assert len(bench) == 24
    stations = {view["job"]["station"] for view in bench.values()}
    assert stations == {"prove", "decide", "verify", "hand-over", "closed"}


def test_cleaning_cured_the_dirty_one(demo: Server, bench: dict[str, dict]) -> None:
    comparison = compared(demo, bench["GS-017"], 0, 1)
    assert comparison["comparison"]["overall"] == "better"
    assert verdicts(comparison)["still.spikes_per_min_x"] == "better"


def test_cleaning_did_not_cure_the_worn_one_and_a_hall_swap_did(
    demo: Server, bench: dict[str, dict]
) -> None:
    cleaned = compared(demo, bench["GS-008"], 0, 1)
    assert cleaned["comparison"]["overall"] in ("no-change", "little")
    assert "still comes back to different places" in cleaned["sentence"]
    swapped = compared(demo, bench["GS-008"], 1, 2)
    assert swapped["comparison"]["overall"] == "better"
    assert verdicts(swapped)["let_go.return_spread"] == "better"


def test_recalibration_cured_the_constant_offset(demo: Server, bench: dict[str, dict]) -> None:
    comparison = compared(demo, bench["GS-031"], 0, 1)
    assert verdicts(comparison)["composite.dead_zone_needed"] == "better"
    assert comparison["before"]["meaning"]["try_first"] == "recalibrated"


def test_a_paddle_is_taught_its_ends_and_no_centre(
    demo: Server, bench: dict[str, dict], page: Page
) -> None:
    page.goto(f"{demo.base}/jobs/{bench['GS-070']['job']['id']}/calibration")
    expect(page.locator(".calibration-order")).to_contain_text("From end to end")
    rows = page.locator(".calibration-forecasts tbody tr")
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("shortest reach")
    expect(page.get_by_role("radio")).to_have_count(1)


def test_the_new_module_arrived_off_centre(demo: Server, bench: dict[str, dict]) -> None:
    comparison = compared(demo, bench["GS-044"], 0, 1)
    assert comparison["comparison"]["overall"] == "mixed"
    assert verdicts(comparison)["still.rest_offset"] == "worse"
    assert comparison["after"]["meaning"]["try_first"] == "recalibrated"


def test_the_sound_one_is_sound_and_the_interrupted_one_is_kept(
    demo: Server, bench: dict[str, dict]
) -> None:
    sound = bench["GS-023"]["takes"][0]["id"]
    view = httpx.get(f"{demo.base}/api/takes/{sound}", verify=False).json()
    assert view["meaning"]["try_first"] == "none"
    lost = bench["GS-052"]["takes"][0]
    assert lost["state"] == "interrupted"
    assert lost["usable"]


def test_what_comes_back_again_and_again_is_drawn_first(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    """Its dead zone never changed; the spikes did, three times."""
    page.goto(demo.base + views(bench)["controller"])
    expect(page.get_by_label("Reading", exact=True)).to_have_text("Spikes x")


def test_the_readings_fit_a_bench_screen_without_scrolling(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    page.goto(demo.base + views(bench)["readings"], wait_until="networkidle")
    trace = page.locator(".trace canvas").bounding_box()
    rail = page.locator(".rail").bounding_box()
    assert trace
    assert rail
    assert trace["y"] + trace["height"] <= rail["y"]


def test_a_comparison_reads_as_the_core_computed_it(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    comparison = compared(demo, bench["GS-008"], 0, 2)
    page.goto(demo.base + views(bench)["verify"])
    expect(page.locator("h1")).to_have_text(comparison["sentence"])
    rows = page.locator(".compare-table tbody tr")
    expect(rows).to_have_count(len(comparison["comparison"]["rows"]))
    words = {
        "better": "Better",
        "worse": "Worse",
        "no-change": "No change seen",
        "changed": "Changed",
    }
    for i, row in enumerate(comparison["comparison"]["rows"]):
        cells = rows.nth(i).locator("td")
        if row["after"] is None:
            continue
        shown = float(cells.nth(1).inner_text().split()[0].replace("−", "-"))
        unit = "ms" if "ms" in row["path"] else "/min" if "per_min" in row["path"] else "%"
        assert shown == pytest.approx(row["after"], abs=0.051 if unit == "%" else 0.51)
        assert cells.nth(4).inner_text().startswith(words.get(row["verdict"], "Not comparable"))
    page.get_by_label("Before").click()
    page.get_by_role("option", name=re.compile("after cleaning")).click()
    expect(page.locator(".meta")).to_contain_text("after cleaning")


def test_a_comparison_prints_on_one_page(page: Page, demo: Server, bench: dict[str, dict]) -> None:
    page.goto(demo.base + views(bench)["verify"], wait_until="networkidle")
    page.emulate_media(media="print")
    expect(page.locator(".ledger")).to_be_hidden()
    pdf = page.pdf(format="A4")
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) == 1


def test_every_number_leads_to_its_samples(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    page.goto(demo.base + views(bench)["readings"], wait_until="networkidle")
    page.get_by_role("button", name=re.compile("^Circularity error")).click()
    expect(page.get_by_role("img", name="x and y over time: rim")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Pushed to 3 o’clock")).first.press("Enter")
    expect(page.get_by_role("img", name="x and y over time: one release")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_role("img", name="x and y over the whole take")).to_be_visible()
    page.get_by_text("All readings").click()
    page.get_by_role("button", name="Settles in").click()
    expect(page.get_by_role("img", name="x and y over time: let-go")).to_be_visible()


def test_a_lost_server_is_said_and_an_unknown_job_too(page: Page, demo: Server) -> None:
    page.goto(f"{demo.base}/jobs/4711/prove")
    expect(page.get_by_role("alert")).to_contain_text("There is no job 4711")
    page.route("**/api/jobs/1", lambda route: route.abort())
    page.goto(f"{demo.base}/jobs/1/prove")
    expect(page.get_by_role("alert")).to_contain_text("Is it still running?")


def test_the_first_load_is_small(context: BrowserContext, demo: Server) -> None:
    """At most 250 kB of script, as gzip makes it."""
    import gzip

    page = context.new_page()
    answers: list[Response] = []
    page.on("response", lambda answer: answers.append(answer))  # noqa: PLW0108
    page.goto(demo.base, wait_until="networkidle")
    scripts = [a.body() for a in answers if a.url.endswith(".js")]
    assert scripts
    assert sum(len(gzip.compress(s)) for s in scripts) <= 250_000
