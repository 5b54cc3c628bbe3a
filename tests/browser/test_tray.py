"""The tray on the page: who may not, a plan written down, a camera opened and put together."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from neatpatch.demo.compact import compact_body
from tests.browser.test_practice import place_on
from tests.conditions import OWN_HANDS


@pytest.fixture
def visit(tab: Page, fresh_url: str, dusty_jpeg: Path) -> str:
    """A visit of a compact with one measured frame, its tools in the kit; gives its address."""

    def post(path: str, body: Any) -> Any:
        answer = tab.request.post(f"{fresh_url}/api{path}", data=body)
        assert answer.ok, answer.text()
        return answer.json()

    body = {**compact_body().model_dump(mode="json"), "sensor_mm": [23.5, 15.6]}
    body_id = post("/bodies", {**body, "camera_name": None})["id"]
    for item in ("cross_driver_0", "screw_tray", "lint_free_bud"):
        post("/kit", {"item": {"item": item}})
    conditions = OWN_HANDS.model_dump(mode="json")
    visit_id = post("/visits", {"body_id": body_id, "conditions": conditions})["id"]
    tab.request.post(
        f"{fresh_url}/api/frames?name=dusty.jpg&visit={visit_id}",
        data=dusty_jpeg.read_bytes(),
        headers={"Content-Type": "application/octet-stream"},
    )
    tab.goto(f"{fresh_url}/visits/{visit_id}")
    expect(tab.locator(".trail .card:not([disabled])")).to_have_count(1)
    return f"{fresh_url}/visits/{visit_id}"


def on(tab: Page, label: str) -> None:
    """One step further: the button of this one, pressed, and the next one seen."""
    before = tab.locator(".step h2").inner_text()
    tab.get_by_role("button", name=label, exact=True).click()
    expect(tab.locator(".step h2")).not_to_have_text(before)


def test_a_compact_is_opened_by_a_plan_written_down_and_put_together(
    tab: Page, visit: str, tmp_path: Path
) -> None:
    tab.get_by_role("link", name="The tray: take it apart").click()
    expect(tab.get_by_text("Only for hands with repair skill")).to_be_visible()
    tab.get_by_role("button", name="I have repair skill, and mean to open it").click()
    tab.get_by_role("button", name="Write a plan").click()
    tab.get_by_label("Model").fill("Fennick Pocket 12")
    tab.get_by_role("textbox", name="Screws").fill("Underside")
    tab.get_by_label("Thread").fill("M1.4 × 3")
    outline = tab.get_by_role("application", name=re.compile("Where the screws Underside sit"))
    for across in (20, 85):
        outline.scroll_into_view_if_needed()
        tab.mouse.click(*place_on(tab, across, 57))
    expect(outline).to_have_attribute("aria-label", re.compile("2 placed"))
    tab.get_by_role("button", name="Ribbon", exact=True).click()
    tab.get_by_role("textbox", name="Ribbon").fill("of the screen")
    tab.get_by_role("button", name="Keep the plan").click()
    expect(tab.get_by_text("2 × M1.4 × 3, underside; ribbon of the screen")).to_be_visible()
    with tab.expect_download() as fetched:
        tab.get_by_role("link", name="A4, PDF").click()
    assert fetched.value.path().read_bytes().startswith(b"%PDF")
    tab.get_by_role("button", name="Begin").click()
    expect(tab.locator(".step h2")).to_contain_text("dangerous charge")
    for _ in range(4):
        on(tab, "I have understood")
    on(tab, "Done")
    on(tab, "Done")
    expect(tab.locator(".step h2")).to_contain_text("Photograph it")
    picture = tmp_path / "cover.jpg"
    Image.new("RGB", (2400, 1600), (90, 90, 90)).save(picture)
    tab.locator("input[type=file][capture]").set_input_files(picture)
    expect(tab.get_by_alt_text("Photograph 1 of this stage")).to_be_visible()
    on(tab, "Done")
    count = tab.get_by_label("How many are there?")
    count.fill("1")
    count.press("Tab")
    tab.get_by_role("button", name="Done", exact=True).click()
    expect(tab.get_by_text("1 screw is missing for field A")).to_be_visible()
    count.fill("2")
    on(tab, "Done")
    expect(tab.locator(".step h2")).to_contain_text("Ribbon of the screen: flip its bar up")
    tab.reload()
    expect(tab.locator(".step h2")).to_contain_text("Ribbon of the screen: flip its bar up")
    for _ in range(8):
        on(tab, "Done")
    expect(tab.locator(".step h2")).to_contain_text("put 2 screws back")
    tab.get_by_label("How many are there?").fill("1")
    tab.get_by_label("How many are there?").press("Tab")
    tab.get_by_label("It is lost for good, because").fill("it rolled away")
    on(tab, "Done")
    expect(tab.get_by_text("1 screw left over, from field A")).to_be_visible()
    tab.get_by_role("button", name="Take the last step back").click()
    tab.get_by_label("How many are there?").fill("2")
    on(tab, "Done")
    tab.get_by_role("button", name="Done", exact=True).click()
    expect(tab.get_by_role("heading", name="All together again")).to_be_visible()
    tab.get_by_role("link", name="To the visit and its test frame").click()
    expect(tab.locator(".trail")).to_contain_text("Open the camera")


def test_what_is_no_plan_is_told_and_nothing_is_lost(tab: Page, visit: str) -> None:
    tab.goto(f"{visit}/tray")
    tab.get_by_role("button", name="I have repair skill, and mean to open it").click()
    tab.get_by_role("button", name="Write a plan").click()
    tab.get_by_label("Model").fill("Nobody's compact")
    tab.get_by_label("What").fill("Lid")
    tab.get_by_role("button", name="Leave out the screws").click()
    tab.get_by_role("button", name="Keep the plan").click()
    expect(tab.get_by_text("say what holds it: screws, ribbons or clips")).to_be_visible()
    expect(tab.get_by_label("Model")).to_have_value("Nobody's compact")
    tab.get_by_role("button", name="Cancel").click()
    expect(tab.get_by_role("button", name="Begin")).to_be_disabled()
