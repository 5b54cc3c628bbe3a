"""Takes the pictures in docs/screenshots anew, from the demo data."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.browser.conftest import CHROMIUM, QUIET, VIEWPORT, serving

OUT = Path(__file__).parents[2] / "docs" / "screenshots"


def shoot(tab: Page, name: str) -> None:
    tab.wait_for_timeout(900)
    tab.screenshot(path=OUT / f"{name}.png", animations="disabled")


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data, serving("demo", Path(data)) as url, \
            sync_playwright() as p:  # fmt: skip
        browser = p.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        tab = browser.new_page(viewport=VIEWPORT)  # type: ignore[arg-type]
        tab.goto(url)
        tab.locator(".card").nth(3).wait_for(timeout=120_000)
        tab.locator(".shooting").wait_for(state="detached", timeout=60_000)
        shoot(tab, "frames")
        tab.get_by_text("copystand-4-november.jpg").click()
        tab.locator(".mark").first.wait_for()
        tab.locator(".p-datatable-tbody tr").nth(2).click()
        shoot(tab, "map")
        tab.get_by_role("tab", name="Frame and checks").click()
        tab.get_by_role("button", name="Dim").click()
        shoot(tab, "map-checks-dim")
        browser.close()


if __name__ == "__main__":
    main()
