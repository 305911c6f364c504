"""Headless Chromium on the real server. Nothing is waited for by the clock."""

from __future__ import annotations

import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from conftest import Server, start_server

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
PAD = Path(__file__).with_name("pad.js")

expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    found = shutil.which("chromium") or "/usr/bin/chromium"
    with sync_playwright() as playwright:
        running = playwright.chromium.launch(executable_path=found, args=ARGUMENTS)
        yield running
        running.close()


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A bench with the examples on it."""
    data = tmp_path_factory.mktemp("demo")
    subprocess.run(
        [sys.executable, "-m", "hollow_pin.cli", "demo", "--only-build", "--data", str(data)],
        check=True,
    )
    running = start_server(data)
    yield running
    running.stop()


@pytest.fixture
def context(browser: Browser) -> Iterator[BrowserContext]:
    made = browser.new_context(viewport={"width": 1280, "height": 800})
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


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    made = watched(context)
    yield made
    assert made.troubles == []  # type: ignore[attr-defined]


@pytest.fixture
def padded(context: BrowserContext) -> Iterator[Page]:
    """A page whose browser sees a controller; see pad.js."""
    context.add_init_script(path=PAD)
    made = watched(context)
    yield made
    assert made.troubles == []  # type: ignore[attr-defined]
