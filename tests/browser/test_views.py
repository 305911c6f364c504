"""Every view of the examples is fit to be seen: by everybody, in the light, in the dark, in a
narrower window."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, Request, expect

from browser.conftest import views
from conftest import Server

pytestmark = pytest.mark.browser

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"


STANDARD = "runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']"


def serious(page: Page, rules: str = STANDARD, place: str = "document") -> list[tuple[str, str]]:
    """What axe-core finds on the page, or in a place of it, that would stop somebody."""
    looked = f"axe.run({place}, {{ {rules}, resultTypes: ['violations'] }})"
    kept = "filter(v => ['serious', 'critical'].includes(v.impact))"
    told = "map(v => [v.id, v.nodes[0].html.slice(0, 120)])"
    return [(v[0], v[1]) for v in page.evaluate(f"{looked}.then(r => r.violations.{kept}.{told})")]


BEYOND = """() => [document.documentElement, document.querySelector('#mat') ?? document.body,
  ...document.querySelectorAll('.form, fieldset:not([aria-hidden])')]
  .filter(place => place.clientWidth > 0).map(place => place.scrollWidth - place.clientWidth)"""
"""By how much a page, its mat and its forms are wider than their place: one then lies on another."""


REST = "{ exclude: ['.tray'] }"
OF_COLOURS = (
    "bench",
    "readings",
    "decide",
    "work",
    "shut",
    "verify",
    "function check",
    "controller",
    "calibration",
    "parts",
)
"""Views with marks and verdicts in colours; what they are drawn with is all that the others have."""


def found_wanting(page: Page, name: str) -> list[object]:
    """Everything on a view that stands in somebody's way: in the light, in the dark, in a narrower
    window. A theme differs in its colours alone, and the tray is the same beside every view."""
    place = "document" if name == "bench" else REST
    wanting: list[object] = [(name, "light", *v) for v in serious(page, place=place)]
    if name in OF_COLOURS:
        page.get_by_role("button", name="Dark", exact=True).click()
        contrast = serious(page, "runOnly: ['color-contrast']", place)
        wanting += [(name, "dark", *v) for v in contrast]
        page.get_by_role("button", name="Light", exact=True).click()
    wanting += [(name, "wide", over) for over in page.evaluate(BEYOND) if over > 0]
    for width in (1024, 820):
        page.set_viewport_size({"width": width, "height": 800})
        # Plots learn of their new width a frame later.
        page.evaluate(TWO_FRAMES)
        wanting += [(name, f"{width} px", over) for over in page.evaluate(BEYOND) if over > 0]
    page.set_viewport_size({"width": 1280, "height": 800})
    return wanting


NOWHERE = "/nowhere"
"""Asks for nothing: when it is left, another page has come."""


def nowhere(page: Page) -> Locator:
    return page.get_by_role("heading", name="There is nothing at this address.")


def go(page: Page, path: str) -> None:
    """As by a link: the interface is not loaded anew."""
    page.evaluate("path => history.pushState(null, '', path)", path)
    page.evaluate("dispatchEvent(new PopStateEvent('popstate', { state: null }))")


TWO_FRAMES = (
    "() => new Promise(r => requestAnimationFrame(() => requestAnimationFrame(() => r(1))))"
)


class Arrivals:
    """What a page has asked for that has not come yet."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._asked = self._came = 0
        page.on("request", self._one_asked)
        page.on("requestfinished", self._one_came)
        page.on("requestfailed", self._one_came)

    def _one_asked(self, _: Request) -> None:
        self._asked += 1

    def _one_came(self, _: Request) -> None:
        self._came += 1

    def all_here(self) -> None:
        """Waits until two frames have been drawn twice without anything being asked for."""
        quiet = 0
        while quiet < 2:
            asked = self._asked
            self._page.evaluate(TWO_FRAMES)
            quiet = quiet + 1 if asked == self._asked == self._came else 0


def test_nothing_stands_in_anybodys_way(page: Page, demo: Server, bench: dict[str, dict]) -> None:
    wanting: list[object] = []
    arrivals = Arrivals(page)
    page.goto(demo.base + NOWHERE)
    page.evaluate(AXE.read_text("utf-8"))
    for name, path in views(bench).items():
        go(page, NOWHERE)
        expect(nowhere(page)).to_be_visible()
        if path != NOWHERE:
            go(page, path)
            expect(nowhere(page)).to_have_count(0)
        arrivals.all_here()
        expect(page.get_by_text(re.compile("^Loading .*…$"))).to_have_count(0)
        wanting += found_wanting(page, name)
    assert wanting == []


def test_a_running_take_stands_in_nobodys_way_either(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    page.goto(demo.base + views(bench)["prove"])
    page.get_by_role("button", name="Start the take").click()
    expect(page.get_by_text("Hands stay off.")).to_be_visible()
    page.evaluate(AXE.read_text("utf-8"))
    assert serious(page) == []
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="The take was interrupted.")).to_be_visible()
    assert serious(page) == []


def test_the_numbers_of_a_plot_lie_on_no_other_plot(
    page: Page, demo: Server, bench: dict[str, dict]
) -> None:
    """The table of a track lay across the plot beside it, and could not be read."""
    page.goto(demo.base + views(bench)["readings"])
    page.get_by_role("button", name="Track, hold and noise").click()
    numbers = page.locator(".figure-box .numbers summary")
    expect(numbers.first).to_be_visible()
    for i in range(numbers.count()):
        numbers.nth(i).click()
        beyond = "places => places.map(place => place.scrollWidth - place.clientWidth)"
        assert set(page.locator(".figure-box").evaluate_all(beyond)) == {0}
        assert page.locator(".numbers[open] .numbers-table").evaluate_all(beyond) == [0]
        numbers.nth(i).click()
