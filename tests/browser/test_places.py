"""The place, proved or not, and what is not known of a body, in the real page."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.retests import PlaceVisit, Stand


def test_frames_prove_the_place_and_marks_of_the_target_are_drawn_apart(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False)
    move = tab.locator(".move")
    seen.shoot(Stand(1))
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    expect(move).to_contain_text("One frame does not prove")
    expect(tab.locator(".mark path")).to_have_count(0)
    seen.shoot(Stand(1))
    expect(move).to_contain_text("was not moved between the last two frames")
    seen.shoot(Stand(2, marks_mm=0.9))
    expect(move).to_contain_text("marks belong to the target")
    expect(move).to_contain_text("On the sensor:")
    tab.get_by_role("button", name="Legend").click()
    expect(tab.get_by_label("Legend", exact=True).last).to_contain_text("marks, counted nowhere")
    crosses = tab.locator(".mark path.over")
    expect(crosses.first).to_be_visible()
    assert 5 <= crosses.count() <= 8


def test_what_is_not_known_of_a_body_is_put_right_from_the_next_move(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    seen = PlaceVisit(fresh_url, tmp_path, self_clean=False)
    seen.shoot(Stand(1))
    seen.log("air")
    seen.shoot(Stand(2, marks_mm=0.9))
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    heading = tab.locator(".move h1")
    expect(heading).to_have_text("Get ready first, touch nothing")
    expect(tab.locator(".move")).to_contain_text("not known whether the body is under warranty")
    tab.get_by_role("button", name="Edit the camera").click()
    expect(tab.get_by_text("While the warranty is not known")).to_be_visible()
    tab.get_by_label("Warranty", exact=True).get_by_role("button", name="None").click()
    tab.get_by_label("Serial number").fill("41-0077")
    tab.get_by_role("button", name="Save").click()
    tab.get_by_text("About this camera").click()
    expect(tab.get_by_text("41-0077")).to_be_visible()
    tab.get_by_role("link", name="Continue the open visit").click()
    expect(heading).to_have_text("Get ready first, touch nothing")
    expect(tab.locator(".move")).not_to_contain_text("under warranty")
    expect(tab.locator(".move")).to_contain_text("none in the kit")


def test_a_closed_visit_keeps_its_next_look(tab: Page, fresh_url: str, tmp_path: Path) -> None:
    seen = PlaceVisit(fresh_url, tmp_path)
    seen.shoot(Stand(1))
    tab.goto(f"{fresh_url}/visits/{seen.visit}")
    tab.get_by_role("button", name="Close", exact=True).click()
    tab.get_by_label("Finished").check()
    tab.get_by_role("dialog").get_by_role("button", name="Close the visit").click()
    tab.get_by_role("dialog").get_by_role("button", name="Done").click()
    expect(tab.get_by_text("next look")).to_be_visible()
    tab.goto(fresh_url)
    looks = tab.get_by_label("Next looks")
    expect(looks).to_contain_text("Gallery C")
    looks.get_by_role("link", name="Gallery C").click()
    expect(tab.get_by_text("Next look")).to_be_visible()
