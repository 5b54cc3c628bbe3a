"""Takes the pictures in docs/screenshots anew, from the demo data."""

from __future__ import annotations

import re
import tempfile
from io import BytesIO
from pathlib import Path

from PIL import Image
from playwright.sync_api import Browser, Page, ViewportSize, sync_playwright

from neatpatch.core.tray.mat import mat_svg
from neatpatch.demo.compact import COMPACT_PLAN
from neatpatch.simulation.lesson import MARK_KINDS, lesson_marks
from tests.browser.conftest import CHROMIUM, QUIET, VIEWPORT, serving
from tests.browser.retests import shoot_retests
from tests.browser.test_plans import to_the_plan
from tests.browser.test_practice import place_on
from tests.conditions import OWN_HANDS

OUT = Path(__file__).parents[2] / "docs" / "screenshots"


def shoot(tab: Page, name: str) -> None:
    tab.wait_for_timeout(900)
    tab.screenshot(path=OUT / f"{name}.png", animations="disabled")


def rooms(tab: Page, url: str) -> None:
    """Every room, once the whole year has been lived through."""
    tab.goto(f"{url}/")
    tab.locator(".shooting").wait_for(state="detached", timeout=400_000)
    for room in ("jobs", "calendar", "kit", "odds", "schools"):
        tab.goto(f"{url}/{room}")
        shoot(tab, room)
    tab.goto(f"{url}/bodies")
    tab.get_by_role("link", name="Tarn Meridian S").wait_for()
    views = [seen(tab)]
    tab.get_by_role("link", name="Tarn Meridian S").click()
    tab.locator(".frames g[role=button]").first.click()
    tab.locator(".life li").first.wait_for()
    lay_side_by_side([*views, seen(tab)], "cameras")
    tab.goto(f"{url}/share?visit=1")
    tab.get_by_role("button", name="Show the code").click()
    tab.locator(".code").wait_for()
    shoot(tab, "share")


def seen(tab: Page) -> bytes:
    """The tab as it is now, to be laid beside others."""
    tab.wait_for_timeout(900)
    return tab.screenshot(animations="disabled")


def lay_side_by_side(pictures: list[bytes], name: str, columns: int = 2) -> None:
    """Several views on one sheet, each at half its size."""
    shown = [Image.open(BytesIO(p)).convert("RGB").resize((640, 400)) for p in pictures]
    rows = -(-len(shown) // columns)
    sheet = Image.new("RGB", (columns * 650 - 10, rows * 410 - 10), "white")
    for n, picture in enumerate(shown):
        sheet.paste(picture, (n % columns * 650, n // columns * 410))
    sheet.save(OUT / f"{name}.png", optimize=True)


def practice(tab: Page, url: str) -> None:
    """Each exercise with its debrief."""
    views = []
    tab.goto(f"{url}/practice/frames?seed=4&topic=tell the marks")
    tab.get_by_text("The frame is being shot").wait_for(state="detached")
    for m in lesson_marks(4)[1:]:
        tab.get_by_role("application").press(str(MARK_KINDS.index(m.kind) + 1))
        tab.mouse.click(*place_on(tab, m.x_px, m.y_px))
    tab.get_by_role("button", name="Done").click()
    tab.locator(".told[role=status]").wait_for()
    views.append(seen(tab))
    tab.goto(f"{url}/practice/places?seed=5&level=3")
    tab.locator(".sensor").click(position={"x": 300, "y": 160})
    tab.locator(".told").wait_for()
    views.append(seen(tab))
    tab.goto(f"{url}/practice/moves?seed=7")
    tab.locator(".choices button").first.click()
    tab.locator(".told").wait_for()
    views.append(seen(tab))
    tab.goto(f"{url}/practice/hand?seed=3&topic=lanes")
    for y in (-4.2, 3.4):
        tab.mouse.move(*place_on(tab, -17.8, y))
        tab.mouse.down()
        for i in range(30):
            tab.mouse.move(*place_on(tab, -17.8 + 35.6 * i / 29, y))
        tab.mouse.up()
    tab.get_by_role("button", name="Done").click()
    tab.locator(".told").wait_for()
    views.append(seen(tab))
    tab.goto(f"{url}/practice/clean?seed=4")
    tab.get_by_role("button", name="Begin with camera 4").click()
    tab.get_by_role("button", name=re.compile("^Shoot")).first.click()
    tab.get_by_role("button", name="Already done").click()
    tab.get_by_role("button", name="Shoot now").wait_for()
    views.append(seen(tab))
    tab.get_by_role("button", name="Close", exact=True).click()
    tab.get_by_role("dialog").get_by_text("Stopped").click()
    tab.get_by_role("button", name="Close the visit").click()
    tab.get_by_role("button", name="Done").click()
    tab.get_by_role("link", name="How it went").click()
    tab.get_by_role("table").wait_for()
    views.append(seen(tab))
    lay_side_by_side(views, "practice")


def tray(browser: Browser, tab: Page, url: str) -> None:
    """The demo's compact on the tray, a screw short; and its mat."""
    bodies = tab.request.get(f"{url}/api/bodies").json()["bodies"]
    [compact] = [b["id"] for b in bodies if b["body"]["access"] == "fixed_lens"]
    given = {"body_id": compact, "conditions": OWN_HANDS.model_dump(mode="json")}
    made = tab.request.post(f"{url}/api/visits", data=given).json()["id"]
    tab.goto(f"{url}/visits/{made}")
    tab.get_by_role("button", name=re.compile("^Shoot")).first.click()
    tab.locator(".trail .card:not([disabled])").first.wait_for(timeout=60_000)
    tab.goto(f"{url}/visits/{made}/tray")
    tab.get_by_role("button", name="I have repair skill").click()
    tab.get_by_role("button", name="Begin").wait_for()
    views = [seen(tab)]
    tab.get_by_role("button", name="Begin").click()
    for step in range(7):
        tab.get_by_text(f"Step {step + 1} of").wait_for()
        if step == 0:
            views.append(seen(tab))
        tab.get_by_role("button", name=re.compile("understood|^Done$")).click()
    tab.get_by_label("How many are there?").fill("1")
    tab.get_by_role("button", name="Done", exact=True).click()
    tab.get_by_text("is missing for field A").first.wait_for()
    views.append(seen(tab))
    mat = browser.new_page(viewport=VIEWPORT)  # type: ignore[arg-type]
    drawn = re.sub(
        r'width="[\d.]+mm" height="[\d.]+mm"', 'height="780"', mat_svg(COMPACT_PLAN, "a4")
    )
    mat.set_content(drawn)
    views.append(seen(mat))
    mat.close()
    lay_side_by_side(views, "tray")


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


def retests(tab: Page) -> None:
    """What the sensor's own pattern tells: a cut-out, a turn, another sensor; a wall refused."""
    with (
        tempfile.TemporaryDirectory(prefix="retests-") as folder,
        serving(Path(folder) / "data") as url,
    ):
        made = shoot_retests(url, Path(folder))
        views = []
        for after in ("retest-cropped", "of-another-body"):
            tab.goto(f"{url}/compare/{made.frames['before']}/{made.frames[after]}")
            tab.locator("aside h1").wait_for()
            views.append(seen(tab))
        tab.goto(f"{url}/visits/{made.visit}")
        tab.get_by_text("It comes from another sensor").wait_for()
        views.append(seen(tab))
        tab.goto(f"{url}/frames/{made.frames['plaster-wall']}")
        tab.get_by_text("as of plaster or paper").first.wait_for()
        views.append(seen(tab))
        lay_side_by_side(views, "retests")


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
        serving(Path(data), demo=True, share=True, share_on="127.0.0.2", share_port=8720) as url,
        sync_playwright() as p,
    ):
        browser = p.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        tab = browser.new_page(viewport=VIEWPORT)  # type: ignore[arg-type]
        tab.goto(url)
        tab.get_by_text("copystand-4-november.jpg").wait_for(timeout=120_000)
        tab.get_by_text("copystand-4-november.jpg").click()
        tab.locator(".mark").first.wait_for()
        tab.locator(".mark:has(circle)").nth(12).dispatch_event("click")
        tab.locator(".detail").wait_for()
        shoot(tab, "map")
        rooms(tab, url)
        pictures(tab, url)
        visit(tab, url)
        practice(tab, url)
        tray(browser, tab, url)
        phone(browser, url)
        report(browser, url)
        retests(tab)
        browser.close()


if __name__ == "__main__":
    main()
