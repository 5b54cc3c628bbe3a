"""Takes the pictures in docs/screenshots anew, from the demo data."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import Browser, Page, ViewportSize, sync_playwright

from tests.browser.conftest import CHROMIUM, QUIET, VIEWPORT, serving
from tests.browser.test_plans import to_the_plan

OUT = Path(__file__).parents[2] / "docs" / "screenshots"


def shoot(tab: Page, name: str) -> None:
    tab.wait_for_timeout(900)
    tab.screenshot(path=OUT / f"{name}.png", animations="disabled")


def rooms(tab: Page, url: str) -> None:
    """Every room, once the whole year has been lived through."""
    tab.goto(f"{url}/")
    tab.locator(".shooting").wait_for(state="detached", timeout=400_000)
    for room in ("bodies", "jobs", "calendar", "kit", "costs", "odds", "schools"):
        tab.goto(f"{url}/{room}")
        shoot(tab, room)
    tab.goto(f"{url}/bodies")
    tab.get_by_role("link", name="Tarn Meridian S").click()
    tab.locator(".frames g[role=button]").first.click()
    tab.locator(".life li").first.wait_for()
    shoot(tab, "body")
    tab.goto(f"{url}/practice/places?seed=5&level=3")
    tab.locator(".sensor").click(position={"x": 300, "y": 160})
    tab.locator(".told").wait_for()
    shoot(tab, "practice")
    tab.goto(f"{url}/share?visit=1")
    tab.get_by_role("button", name="Show the code").click()
    tab.locator(".code").wait_for()
    shoot(tab, "share")


def visit(tab: Page, url: str) -> None:
    """The open visit: one more turn of air, a frame, then lifting."""
    tab.goto(f"{url}/")
    shoot(tab, "frames")
    tab.locator(".visits a").first.click()
    tab.locator(".mark").first.wait_for()
    here = tab.url
    shoot(tab, "visit")
    tab.get_by_role("button", name="Already done").click()
    tab.get_by_role("button", name="Shoot now").click()
    tab.get_by_role("link", name="Start step by step").wait_for(timeout=60_000)
    tab.get_by_role("combobox", name="Compare with").click()
    tab.get_by_role("option").last.click()
    tab.locator("aside h1").wait_for()
    tab.wait_for_timeout(1500)
    shoot(tab, "compare")
    tab.goto(f"{here}/hands/lift")
    to_the_plan(tab, ".press")
    for _ in range(3):
        tab.keyboard.press("Enter")
    shoot(tab, "hands-lift")


def report(browser: Browser, url: str) -> None:
    """A visit's report as a page; the PDF is set from the same record."""
    page = browser.new_page(viewport={"width": 900, "height": 1100})
    page.goto(f"{url}/api/visits/2/report.html")
    shoot(page, "report")
    page.close()


def pictures(tab: Page, url: str) -> None:
    """The demo's own pictures looked through; when their dust came, in the dim theme."""
    tab.goto(f"{url}/pictures")
    tab.get_by_role("button", name="Take the demo's own pictures").click()
    tab.get_by_role("button", name="Look through them").click()
    tab.get_by_label("Copies go to").wait_for(timeout=400_000)
    shoot(tab, "pictures")
    tab.get_by_role("button", name="Dim").click()
    tab.goto(f"{url}/pictures")
    tab.get_by_role("button", name="Take the demo's own pictures").click()
    tab.get_by_role("button", name="Search them").click()
    tab.get_by_text("Came between").first.wait_for(timeout=400_000)
    tab.get_by_text("Came between").first.scroll_into_view_if_needed()
    shoot(tab, "arrivals")
    tab.get_by_role("button", name="Light").click()


def phone(browser: Browser, url: str) -> None:
    """The presses of a lift on a phone."""
    size: ViewportSize = {"width": 390, "height": 844}
    held = browser.new_page(viewport=size)
    held.goto(url)
    held.locator(".visits a").last.click()
    held.locator(".move h1").wait_for()
    held.goto(f"{held.url}/hands/lift")
    to_the_plan(held, ".press")
    shoot(held, "hands-phone")


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory(prefix="saltmarsh-") as data,
        serving("demo", Path(data), "--share", "--share-on=127.0.0.2", "--share-port=8720") as url,
        sync_playwright() as p,
    ):
        browser = p.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        tab = browser.new_page(viewport=VIEWPORT)  # type: ignore[arg-type]
        tab.goto(url)
        tab.get_by_text("copystand-4-november.jpg").wait_for(timeout=120_000)
        tab.get_by_text("copystand-4-november.jpg").click()
        tab.locator(".mark").first.wait_for()
        tab.locator(".p-datatable-tbody tr").nth(2).click()
        shoot(tab, "map")
        rooms(tab, url)
        pictures(tab, url)
        visit(tab, url)
        phone(browser, url)
        report(browser, url)
        browser.close()


if __name__ == "__main__":
    main()
