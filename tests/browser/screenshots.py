"""Draw docs/screenshots/ anew from the examples: `make screenshots`."""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Browser, expect, sync_playwright
from tests.browser.conftest import ARGUMENTS, chromium

from conftest import start_server

SHOTS = Path(__file__).parents[2] / "docs" / "screenshots"


def main() -> None:
    SHOTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        subprocess.run(
            [sys.executable, "-m", "hollow_pin.cli", "demo", "--only-build", "--data", folder],
            check=True,
        )
        server = start_server(Path(folder))
        browser = playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
        with server.client() as http:
            strips = http.get("/api/tray").json()
            jobs = {s["tag"]: s["job_id"] for s in strips}
            controllers = {s["tag"]: s["controller_id"] for s in strips}
            first = {
                tag: http.get(f"/api/jobs/{job}").json()["takes"][:1] for tag, job in jobs.items()
            }

        def take(tag: str) -> str:
            return f"/jobs/{jobs[tag]}/takes/{first[tag][0]['id']}"

        def job(tag: str, place: str) -> str:
            return f"/jobs/{jobs[tag]}/{place}"

        still = {
            "new-job": ("/new", "GS-023"),
            "take-in": (job("GS-008", "take-in"), None),
            "controller": (f"/controllers/{controllers['GS-064']}", None),
            "readings": (take("GS-038"), None),
            "track": (take("GS-047"), "v"),
            "hidden": (take("GS-035"), None),
            "decide": (job("GS-038", "decide"), None),
            "parts": ("/parts", None),
            "inspection": ("/inspections/1", None),
            "calibration": (job("GS-055", "calibration"), None),
            "work": (job("GS-038", "work?kind=replaced"), None),
            "verify": (job("GS-008", "verify"), None),
            "hand-over": (job("GS-008", "hand-over"), None),
            "calculators": (f"/calculators?job={jobs['GS-038']}", None),
            "bench-check": ("/bench-checks/1", None),
        }
        for name, (path, key) in still.items():
            draw(browser, server.base + path, name, "light", key)
        draw(browser, server.base + take("GS-038"), "readings-dark", "dark")
        draw_open(browser, server.base + job("GS-033", "open"))
        draw_live(browser, server.base + job("GS-012", "prove"))
        draw_centring(browser, server.base + job("GS-052", "centring?kind=trimmed"))
        browser.close()
        server.stop()


def draw(browser: Browser, address: str, name: str, theme: str, key: str | None = None) -> None:
    context = browser.new_context(
        viewport={"width": 1280, "height": 800},
        color_scheme=theme,  # type: ignore[arg-type]
        reduced_motion="reduce",
    )
    page = context.new_page()
    page.goto(address)
    page.get_by_text("waits for a part").first.wait_for()
    page.wait_for_load_state("networkidle")
    if key and len(key) > 1:
        page.get_by_label("Tag").fill(key)
        page.keyboard.press("Enter")
        page.get_by_label("Known here").wait_for()
    elif key:
        page.keyboard.press(key)
        page.get_by_role("button", pressed=True).first.wait_for()
    start = page.get_by_role("button", name="Start the take")
    if start.count():
        expect(start).to_be_enabled()
    from_record = page.get_by_role("button", name="Write it from the record")
    if from_record.count():
        from_record.click()
        expect(page.get_by_label("Outcome")).to_have_value(re.compile("Come back: "))
    page.screenshot(path=SHOTS / f"{name}.png")
    context.close()


def draw_open(browser: Browser, address: str) -> None:
    """Opened as far as the screws round the edge."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    page.goto(address)
    page.get_by_label("Read and kept to").check()
    page.get_by_role("button", name="Open it").click()
    expect(page.locator(".walk-words")).to_be_visible()
    for done in range(2):
        expect(page.locator(".walk-steps li.done")).to_have_count(done)
        page.keyboard.press("Space")
    expect(page.locator(".walk-words")).to_have_text("Six short screws round the edge")
    page.locator("h1").scroll_into_view_if_needed()
    page.screenshot(path=SHOTS / "open.png")
    page.close()


def draw_live(browser: Browser, address: str) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(address, wait_until="networkidle")
    page.get_by_role("button", name="Start the take").click()
    page.locator('[aria-current="step"]', has_text="Hold").wait_for(timeout=120_000)
    page.locator("progress").nth(1).wait_for()
    page.get_by_text("Hold right, keep still.").wait_for(timeout=30_000)
    page.screenshot(path=SHOTS / "live.png")
    page.close()


def draw_centring(browser: Browser, address: str) -> None:
    """Pushed and let go until it is read, and one trim turned."""
    page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    page.goto(address)
    said = page.locator("h1")
    expect(said).to_contain_text("Push it to the edge")
    while said.inner_text().startswith(("Push", "Once more")):
        page.keyboard.down("p")
        expect(said).to_have_text("Let go.")
        page.keyboard.up("p")
        expect(said).to_have_text(re.compile("^(Turn|Push|Once more|It is touched)"))
    page.keyboard.press("ArrowUp" if "up" in said.inner_text() else "ArrowRight")
    expect(page.locator(".readout-turns", has_text="turned")).to_have_count(1)
    page.screenshot(path=SHOTS / "centring.png")
    page.close()


if __name__ == "__main__":
    main()
