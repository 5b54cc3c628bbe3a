"""Retests as people bring them, in the real page: cropped, turned, of another sensor, of a wall."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.retests import shoot_retests


def test_the_sensor_is_its_own_witness_on_the_page(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    made = shoot_retests(fresh_url, tmp_path)
    frames = made.frames
    aside = tab.get_by_label("What changed")

    tab.goto(f"{fresh_url}/compare/{frames['before']}/{frames['retest-cropped']}")
    expect(aside.get_by_role("heading")).to_contain_text("not told")
    expect(aside).to_contain_text("One sensor, by the photosites’ own pattern")
    expect(aside).to_contain_text("Laid on each other by scale")

    tab.goto(f"{fresh_url}/compare/{frames['before']}/{frames['turned']}")
    expect(aside).to_contain_text("turned by 90°")
    expect(aside.locator("dl")).to_have_count(1)

    tab.goto(f"{fresh_url}/compare/{frames['before']}/{frames['of-another-body']}")
    expect(aside.get_by_role("heading")).to_have_text("These two frames cannot be compared.")
    expect(aside).to_contain_text("come from two sensors")
    expect(aside.locator("dl")).to_have_count(0)
    expect(aside.get_by_role("table")).to_have_count(0)

    tab.goto(f"{fresh_url}/visits/{made.visit}")
    expect(tab.get_by_text("It comes from another sensor")).to_be_visible()
    expect(tab.get_by_text(re.compile("agreement \\d+, a match needs"))).to_be_visible()

    tab.goto(f"{fresh_url}/frames/{frames['plaster-wall']}")
    expect(tab.get_by_text("as of plaster or paper").first).to_be_visible()
    tab.get_by_role("button", name="Figures").click()
    tab.get_by_role("tab", name="Frame and checks").click()
    expect(tab.get_by_text("own pattern shows")).to_be_visible()
    tab.get_by_role("link", name="Gallery A").click()
    expect(tab.get_by_role("heading", name="Gallery A")).to_be_visible()
