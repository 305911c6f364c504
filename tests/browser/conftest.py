"""Headless Chromium on the real server. Nothing is waited for by the clock."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, ViewportSize, expect, sync_playwright

from conftest import Server, built, examples_at, start_server

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--use-fake-device-for-media-stream",
    "--use-fake-ui-for-media-stream",
]
FEWER_PIXELS = "--force-device-scale-factor=0.5"
"""The layout is the same, and no test looks at how finely it is drawn."""
SIZE: ViewportSize = {"width": 1280, "height": 800}
PAD = Path(__file__).with_name("pad.js")

expect.set_options(timeout=20_000)


def chromium() -> str:
    """Debian's: the one without a window of its own, which does the same with less, or the whole."""
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert path, "There is no Chromium: make chromium."
    return path


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        running = playwright.chromium.launch(
            executable_path=chromium(), args=[*ARGUMENTS, FEWER_PIXELS]
        )
        yield running
        running.close()


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A bench with the examples on it, a copy of its own for each process that tests."""
    shared = built(examples_at(tmp_path_factory))
    data = tmp_path_factory.mktemp("demo")
    for file in shared.glob("hollow-pin.db*"):
        shutil.copy(file, data)
    running = start_server(data)
    yield running
    running.stop()


@pytest.fixture(scope="session")
def bench(demo: Server) -> dict[str, dict]:
    """Every job of the demo by its controller's tag."""
    with demo.client() as http:
        strips = http.get("/api/tray").json()
        return {s["tag"]: http.get(f"/api/jobs/{s['job_id']}").json() for s in strips}


def views(bench: dict[str, dict]) -> dict[str, str]:
    def job(tag: str) -> str:
        return f"/jobs/{bench[tag]['job']['id']}"

    worn = bench["GS-038"]["takes"][0]["id"]
    lost = bench["GS-052"]["takes"][0]["id"]
    return {
        "bench": "/",
        "new job": "/new",
        "take in": f"{job('GS-008')}/take-in",
        "prove": f"{job('GS-012')}/prove",
        "readings": f"{job('GS-038')}/takes/{worn}",
        "interrupted": f"{job('GS-052')}/takes/{lost}",
        "decide": f"{job('GS-038')}/decide",
        "work": f"{job('GS-038')}/work?kind=replaced",
        "open": f"{job('GS-020')}/open",
        "shut": f"{job('GS-020')}/shut",
        "teardown": "/models/plover/sheet",
        "verify": f"{job('GS-008')}/verify",
        "hand over": f"{job('GS-017')}/hand-over",
        "refer": f"{job('GS-090')}/hand-over",
        "function check": f"{job('GS-008')}/check?check={bench['GS-008']['checks'][-1]['id']}",
        "calibration": f"{job('GS-055')}/calibration",
        "parts": "/parts",
        "part": "/parts/1",
        "orders": "/orders?new=1",
        "inspection": "/inspections/1",
        "label": f"{job('GS-008')}/label",
        "controller": f"/controllers/{bench['GS-064']['job']['controller']['id']}",
        "found": "/find?text=left",
        "both sticks": f"{job('GS-038')}/sticks",
        "paddle": f"{job('GS-070')}/takes/{bench['GS-070']['takes'][0]['id']}",
        "hidden": f"{job('GS-035')}/takes/{bench['GS-035']['takes'][0]['id']}",
        "calculators": f"/calculators?job={bench['GS-038']['job']['id']}",
        "decisions": "/decisions",
        "models": "/models",
        "model": "/models/plover",
        "routines": "/routines",
        "bench checks": "/bench-checks",
        "bench check": "/bench-checks/1",
        "file": f"{job('GS-012')}/file",
        "devices": "/devices",
        "pair": "/pair",
        "nowhere": "/nowhere",
    }


@pytest.fixture
def context(browser: Browser) -> Iterator[BrowserContext]:
    made = browser.new_context(viewport=SIZE, reduced_motion="reduce")
    yield made
    made.close()


def watched(context: BrowserContext) -> Page:
    """A page on which a script error, or a request to anybody else, fails the test."""
    page = context.new_page()
    page.troubles = []  # type: ignore[attr-defined]
    page.on("pageerror", lambda e: page.troubles.append(str(e)))  # type: ignore[attr-defined]

    def asked(request) -> None:
        if not request.url.startswith(("http://127.0.0.1:", "data:", "blob:")):
            page.troubles.append(f"asked for {request.url}")  # type: ignore[attr-defined]

    page.on("request", asked)
    return page


@pytest.fixture(scope="session")
def window(browser: Browser) -> Page:
    """The window that stays open from test to test: it loads the interface anew for each, and need
    not unpack it each time."""
    return watched(browser.new_context(viewport=SIZE, reduced_motion="reduce"))


@pytest.fixture
def page(window: Page) -> Iterator[Page]:
    """The open window, as if nobody had used it before."""
    yield window
    troubles = window.troubles  # type: ignore[attr-defined]
    for other in window.context.pages:
        if other is not window:
            other.close()
    window.unroute_all()
    window.evaluate("localStorage.clear(); sessionStorage.clear()")
    window.goto("about:blank")
    window.emulate_media(media="null", reduced_motion="reduce")
    window.set_viewport_size(SIZE)
    window.troubles = []  # type: ignore[attr-defined]
    assert troubles == []


@pytest.fixture
def padded(context: BrowserContext) -> Iterator[Page]:
    """A page whose browser sees a controller; see pad.js."""
    context.add_init_script(path=PAD)
    made = watched(context)
    yield made
    assert made.troubles == []  # type: ignore[attr-defined]
