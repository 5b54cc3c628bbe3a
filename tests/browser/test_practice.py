"""Practice on the page, by pointer and by keyboard alone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from neatpatch.simulation.lesson import MARK_KINDS, flawed_shot, lesson_marks


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


def place_on(page: Page, x: float, y: float) -> tuple[float, float]:
    """A point of the drawn application, in its own units, as a place on the screen."""
    found = page.get_by_role("application").evaluate(
        "(svg, [x, y]) => { const p = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM());"
        " return [p.x, p.y] }",
        [x, y],
    )
    return float(found[0]), float(found[1])


def test_marks_of_a_frame_are_told_by_touch_and_by_keys(tab: Page, fresh_url: str) -> None:
    tab.goto(f"{fresh_url}/practice/frames?seed=4&topic=tell the marks")
    frame = tab.get_by_role("application")
    expect(frame).to_be_visible()
    marks = lesson_marks(4)
    for m in marks[1:]:
        frame.focus()
        tab.keyboard.press(str(MARK_KINDS.index(m.kind) + 1))
        tab.mouse.click(*place_on(tab, m.x_px, m.y_px))
    frame.focus()
    tab.keyboard.press("m")
    expect(frame).to_have_attribute("aria-label", re.compile("The second frame"))
    tab.keyboard.press("m")
    tab.keyboard.press(str(MARK_KINDS.index(marks[0].kind) + 1))
    across, down = round((marks[0].x_px - 600) / 20), round((marks[0].y_px - 400) / 20)
    for key, times in (("Right", across), ("Left", -across), ("Down", down), ("Up", -down)):
        for _ in range(times):
            tab.keyboard.press(f"Arrow{key}")
    tab.keyboard.press("Enter")
    tab.get_by_role("button", name=f"Done: {len(marks)} named").click()
    told = tab.get_by_role("status").filter(has_text="Right.")
    expect(told).to_contain_text(f"{len(marks)} of {len(marks)} marks found.")
    expect(tab.locator(".truth")).to_have_count(len(marks))
    expect(tab.locator(".wrong")).to_have_count(0)


def test_a_frame_that_is_not_fit_is_told_from_one_that_is(tab: Page, fresh_url: str) -> None:
    seed = next(s for s in range(99) if flawed_shot(s).flaw == "grainy")
    tab.goto(f"{fresh_url}/practice/frames?seed={seed}&topic=fit or not")
    expect(tab.get_by_text("ISO 12800")).to_be_visible()
    tab.get_by_role("button", name="It is fit").click()
    expect(tab.locator(".told")).to_contain_text("That frame is not fit.")
    expect(tab.locator(".told")).to_contain_text("Use the lowest ISO")


def test_a_hand_is_led_by_pointer(tab: Page, fresh_url: str) -> None:
    tab.set_viewport_size({"width": 768, "height": 1024})
    tab.goto(f"{fresh_url}/practice/hand?seed=3&topic=one stroke")
    tab.get_by_role("button", name="Put a drop on").click()
    tab.get_by_role("button", name="Put a drop on").click()
    tab.wait_for_timeout(1100)  # the drops even out: so long is what is practised
    tab.mouse.move(*place_on(tab, -11.7, 0))
    tab.mouse.down()
    for i in range(31):
        tab.mouse.move(*place_on(tab, -11.7 + 23.4 * i / 30, 0))
        tab.wait_for_timeout(15)
    tab.mouse.up()
    expect(tab.get_by_text("2 drops, 1 stroke, face 1")).to_be_visible()
    tab.get_by_role("button", name="Done").click()
    told = tab.locator(".told")
    expect(told).to_contain_text("100 % of the glass was gone over.")
    expect(told).not_to_contain_text("evened out")
    tab.get_by_role("link", name="Back to Practice").click()
    expect(tab.get_by_text(re.compile("One stroke: "))).to_have_count(1)


def test_a_hand_is_led_by_keys_and_told_what_it_did_wrong(tab: Page, fresh_url: str) -> None:
    tab.goto(f"{fresh_url}/practice/hand?seed=3&topic=dry swab")
    glass = tab.get_by_role("application")
    glass.focus()
    tab.keyboard.press("ArrowDown")
    tab.keyboard.press("ArrowDown")
    tab.keyboard.press("Space")
    for _ in range(5):
        tab.keyboard.press("ArrowRight")
    tab.keyboard.press("Space")
    expect(tab.get_by_text("1 stroke, face 1")).to_be_visible()
    tab.keyboard.press("t")
    expect(tab.get_by_text("1 stroke, face 2")).to_be_visible()
    tab.keyboard.press("Enter")
    told = tab.locator(".told")
    expect(told).to_be_focused()
    expect(told).to_contain_text("over the edge of the glass")
    expect(told).to_contain_text("was left out")
    expect(tab.locator(".came")).to_have_count(1)
    tab.get_by_role("button", name="Another").click()
    expect(told).to_have_count(0)


def test_a_whole_clean_is_done_in_the_real_screens(tab: Page, fresh_url: str) -> None:
    tab.goto(f"{fresh_url}/practice/clean?seed=4")
    tab.get_by_role("button", name="Begin with camera 4").click()
    expect(tab.get_by_text("nothing here touches your record")).to_be_visible()
    expect(tab.locator(".move h1")).to_have_text("Shoot a test frame")
    tab.get_by_role("button", name=re.compile("^Shoot")).first.click()
    expect(tab.locator(".move h1")).to_have_text("Blow it out from below")
    expect(tab.locator("nav[aria-label=Rooms]")).to_have_count(0)
    tab.get_by_role("button", name="Already done").click()
    expect(tab.locator(".move h1")).to_have_text("Shoot the test frame again")
    tab.get_by_role("link", name="How it went").click()
    expect(tab.get_by_role("alert")).to_contain_text("Close the visit with its verdict first")
    tab.get_by_role("link", name="Continue with camera 4").click()
    tab.get_by_role("button", name="Close", exact=True).click()
    tab.get_by_role("dialog").get_by_text("Stopped").click()
    tab.get_by_label("Finished").check()
    tab.get_by_role("dialog").get_by_role("button", name="Close the visit").click()
    tab.get_by_role("dialog").get_by_role("button", name="Done").click()
    expect(tab.get_by_text("This visit is closed")).to_be_visible()
    tab.get_by_role("link", name="How it went").click()
    table = tab.get_by_role("table")
    expect(table).to_contain_text("Times the glass was touched")
    expect(table).to_contain_text("Lift")
    tab.goto(f"{fresh_url}/bodies")
    expect(tab.get_by_text("Orlo Trainer D")).to_have_count(0)
