"""Draw docs/screenshots/ anew from the examples: `make screenshots`."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import httpx
from playwright.sync_api import Browser, sync_playwright
from tests.browser.conftest import ARGUMENTS

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
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        with httpx.Client(base_url=server.base) as http:
            strips = http.get("/api/tray").json()
            jobs = {s["job"]["controller"]["tag"]: s["job"]["id"] for s in strips}
            first = {
                tag: http.get(f"/api/jobs/{job}").json()["takes"][:1] for tag, job in jobs.items()
            }

        def take(tag: str) -> str:
            return f"/jobs/{jobs[tag]}/takes/{first[tag][0]['id']}"

        still = {
            "bench": "/",
            "new-job": "/new",
            "prove": f"/jobs/{jobs['GS-012']}/prove",
            "readings": take("GS-038"),
            "interrupted": take("GS-052"),
            "decide": f"/jobs/{jobs['GS-038']}/decide",
            "work": f"/jobs/{jobs['GS-038']}/work?kind=replaced",
            "verify": f"/jobs/{jobs['GS-008']}/verify",
            "hand-over": f"/jobs/{jobs['GS-017']}/hand-over",
        }
        for name, path in still.items():
            draw(browser, server.base + path, name, "light")
        draw(browser, server.base + still["readings"], "readings-dark", "dark")
        draw_live(browser, server.base + still["prove"])
        browser.close()
        server.stop()


def draw(browser: Browser, address: str, name: str, theme: str) -> None:
    context = browser.new_context(
        viewport={"width": 1280, "height": 800},
        color_scheme=theme,  # type: ignore[arg-type]
    )
    page = context.new_page()
    page.goto(address, wait_until="networkidle")
    page.screenshot(path=SHOTS / f"{name}.png")
    context.close()


def draw_live(browser: Browser, address: str) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(address, wait_until="networkidle")
    page.get_by_role("button", name="Start the take").click()
    page.locator(".dial .full").nth(5).wait_for(timeout=60_000)
    page.screenshot(path=SHOTS / "live.png")
    page.close()


if __name__ == "__main__":
    main()
