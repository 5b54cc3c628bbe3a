"""Practice on the page, by pointer and by keyboard alone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def test_a_next_move_is_practised_by_keyboard(tab: Page, fresh_url: str) -> None:
    tab.goto(f"{fresh_url}/practice")
    tab.get_by_role("button", name="Begin next move").focus()
    tab.keyboard.press("Enter")
    expect(tab.get_by_role("heading", name="What comes next?")).to_be_visible()
    choices = tab.locator(".choices button")
    expect(choices).to_have_count(5)
    choices.first.focus()
    tab.keyboard.press("Enter")
    told = tab.locator(".told")
    expect(told).to_be_focused()
    expect(told.locator(".verdict")).to_have_text(
        re.compile(r"Right\.|Unsafe now\.|Not the advice\.|Sound, too")
    )
    again = told.get_by_role("link", name=re.compile("Situation"))
    number = again.inner_text()
    tab.keyboard.press("Tab")
    tab.keyboard.press("Enter")
    expect(told).to_have_count(0)
    expect(choices).to_have_count(5)
    tab.get_by_role("link", name="Back to Practice").click()
    expect(tab.get_by_text("Lately")).to_be_visible()
    tab.get_by_role("link", name="Again").first.click()
    expect(choices).to_have_count(5)
    choices.nth(1).click()
    expect(told.get_by_role("link", name=number)).to_be_visible()


def test_a_place_is_touched_and_found_by_arrow_keys(tab: Page, fresh_url: str) -> None:
    tab.goto(f"{fresh_url}/practice/places?seed=5&level=3")
    sensor = tab.get_by_role("application")
    expect(sensor).to_be_visible()
    box = sensor.bounding_box()
    assert box is not None
    tab.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    told = tab.locator(".told")
    expect(told).to_contain_text("mm off")
    expect(tab.locator(".truth")).to_have_count(1)
    off = told.inner_text()
    tab.get_by_role("button", name="Another").click()
    expect(tab).to_have_url(f"{fresh_url}/practice/places")
    expect(told).to_have_count(0)
    tab.goto(f"{fresh_url}/practice/places?seed=5&level=3")
    tab.get_by_label("Loupe light").check()
    expect(tab.locator(".glint")).to_have_count(5)
    sensor.focus()
    tab.keyboard.press("Enter")
    expect(told).to_contain_text("mm off")
    by_hand, by_keys = (float(t.split(" mm off")[0]) for t in (off, told.inner_text()))
    assert abs(by_hand - by_keys) < 0.5
    tab.goto(f"{fresh_url}/practice")
    expect(tab.get_by_text(re.compile("Level 3: .* mm off"))).to_have_count(2)
    expect(tab.get_by_text("of 2 right")).to_be_visible()


def test_it_works_by_touch_on_a_tablet(tab: Page, fresh_url: str) -> None:
    tab.set_viewport_size({"width": 768, "height": 1024})
    tab.goto(f"{fresh_url}/practice/places?seed=9&level=1")
    sensor = tab.get_by_role("application")
    expect(sensor).to_be_visible()
    box = sensor.bounding_box()
    assert box is not None
    assert box["x"] + box["width"] <= 768
    tab.mouse.click(box["x"] + 0.4 * box["width"], box["y"] + 0.4 * box["height"])
    expect(tab.locator(".told")).to_contain_text("mm off")
