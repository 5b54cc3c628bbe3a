"""A person's way through the page: drop, wait, look, filter, choose, save, meet faults."""

from __future__ import annotations

import base64
import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from neatpatch.core.measure.map_building import build_map
from neatpatch.images.read import read_frame
from neatpatch.simulation.frames import Recipe, write_simulated
from tests.browser.bounds import too_wordy

pytestmark = pytest.mark.browser


def drop(tab: Page, path: Path) -> None:
    """Drop a file on the page as the mouse would."""
    tab.evaluate(
        """([name, data]) => {
            const bytes = Uint8Array.from(atob(data), c => c.charCodeAt(0))
            const carried = new DataTransfer()
            carried.items.add(new File([bytes], name))
            for (const type of ['dragenter', 'dragover', 'drop'])
                document.querySelector('main').dispatchEvent(new DragEvent(
                    type, {dataTransfer: carried, bubbles: true, cancelable: true}))
        }""",
        [path.name, base64.b64encode(path.read_bytes()).decode()],
    )


def choose(tab: Page, *paths: Path) -> None:
    tab.set_input_files("input[type=file]", [str(p) for p in paths])


VERDICT = ".band h1"


def wait_for_map(tab: Page) -> None:
    expect(tab.locator(VERDICT)).to_be_visible()


def open_figures(tab: Page, which: str = "Spots") -> None:
    """Tables and checks stand behind one button."""
    tab.get_by_role("button", name="Figures").click()
    tab.get_by_role("tab", name=which).click()


def marks(tab: Page) -> int:
    return tab.locator(".mark").count()


def all_marks(tab: Page) -> int:
    """How many the map is to have, once it has them; they are drawn anew as its picture comes."""
    detail = tab.request.get(re.sub("/frames/", "/api/frames/", tab.url)).json()
    count = len(detail["map"]["spots"])
    expect(tab.locator(".mark")).to_have_count(count)
    return count


@pytest.mark.parametrize("name", ["small_jpeg", "dusty_dng"])
def test_a_dropped_frame_becomes_a_map(
    name: str, request: pytest.FixtureRequest, fresh_url: str, tab: Page
) -> None:
    path: Path = request.getfixturevalue(name)
    expected = build_map(read_frame(path))
    tab.goto(fresh_url)
    expect(tab.get_by_text("No frames yet")).to_be_visible()
    drop(tab, path)
    wait_for_map(tab)
    expect(tab.locator(VERDICT)).to_contain_text(f"{expected.summary.relevant} spots show at f/16")
    expect(tab.locator(".mark")).to_have_count(len(expected.spots))
    open_figures(tab)
    expect(tab.locator(".p-datatable-tbody tr")).to_have_count(len(expected.spots))


def test_tone_filter_selection_and_saving(dusty_jpeg: Path, fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    choose(tab, dusty_jpeg)
    wait_for_map(tab)
    everything = all_marks(tab)

    with tab.expect_request(lambda r: "/tiles/shot/" in r.url):
        tab.get_by_role("button", name="Original").click()
    assert tab.locator(".stage canvas").evaluate("c => c.style.filter") == "none"
    tab.get_by_role("button", name="Relief").click()
    gain = tab.get_by_role("slider", name="Gain")
    gain.focus()
    before = tab.locator(".gain").inner_text()
    gain.press("ArrowRight")
    assert tab.locator(".gain").inner_text() != before

    open_figures(tab)
    tab.get_by_role("button", name="Fibre 2").click()
    expect(tab.locator(".mark")).to_have_count(2)
    tab.get_by_role("button", name="Fibre 2").click()
    tab.get_by_role("combobox", name="Shows").click()
    tab.get_by_role("option", name="at f/8").click()
    assert 0 < marks(tab) < everything
    shown = tab.locator(".p-datatable-tbody tr").count()
    assert shown == marks(tab)

    tab.locator(".p-datatable-tbody tr").first.click()
    chosen = tab.locator(".mark.selected").get_attribute("data-spot")
    expect(tab.locator(".detail h2")).to_contain_text(str(chosen))
    other = tab.locator(".mark:not(.selected)").first
    other_id = other.get_attribute("data-spot")
    other.dispatch_event("click")
    expect(tab.locator(f"tr[data-row={other_id}]")).to_have_attribute("aria-selected", "true")
    expect(tab.locator(".detail img").first).to_be_visible()

    for label, ending in (("JSON", "json"), ("CSV", "csv"), ("SVG", "svg")):
        tab.get_by_role("button", name="More", exact=True).click()
        with tab.expect_download() as saved:
            tab.get_by_role("menuitem", name=label).click()
        assert saved.value.suggested_filename == f"dusty-map.{ending}"
        if ending == "json":
            told = json.loads(Path(saved.value.path()).read_text())
            assert len(told["spots"]) == everything


def test_broken_files_are_explained_and_the_page_goes_on(
    tmp_path: Path, small_jpeg: Path, fresh_url: str, tab: Page
) -> None:
    text, cut = tmp_path / "notes.jpg", tmp_path / "cut.jpg"
    text.write_text("no picture " * 20)
    cut.write_bytes(small_jpeg.read_bytes()[:40_000])
    tab.goto(fresh_url)
    choose(tab, text, cut)
    alerts = tab.get_by_role("alert")
    expect(alerts).to_have_count(2)
    expect(alerts.filter(has_text="notes.jpg")).to_contain_text("not a picture that can be read")
    expect(alerts.filter(has_text="cut.jpg")).to_contain_text("damaged or cut short")
    alerts.get_by_role("button", name="Dismiss").click()
    expect(alerts).to_have_count(1)
    alerts.get_by_role("button", name="Try again").click()
    expect(alerts).to_contain_text("damaged or cut short")
    tab.reload()
    kept = tab.locator(".waiting")
    expect(kept).to_contain_text("damaged or cut short")
    kept.get_by_role("button", name="Remove cut.jpg").click()
    expect(kept).to_have_count(0)
    undo = tab.locator(".undo")
    expect(undo).to_contain_text("Deleted: cut.jpg.")
    undo.get_by_role("button", name="Undo").click()
    expect(kept).to_contain_text("damaged or cut short")
    kept.get_by_role("button", name="Remove cut.jpg").click()
    expect(kept).to_have_count(0)
    choose(tab, small_jpeg)
    wait_for_map(tab)


def test_a_spotless_sensor_says_so(clean_jpeg: Path, fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    choose(tab, clean_jpeg)
    wait_for_map(tab)
    expect(tab.locator(VERDICT)).to_have_text("Nothing shows at f/16")
    expect(tab.locator(".band")).to_contain_text("No spot was found.")
    open_figures(tab)
    expect(tab.get_by_text("No spots were found.")).to_be_visible()
    assert marks(tab) == 0


COUNT_ROWS = "document.querySelectorAll('.p-datatable-tbody tr').length"
MOVED_ALONE = """async () => {
    const marks = document.querySelector('svg.marks')
    const frame = () => new Promise(requestAnimationFrame)
    let drawn = 0
    const seen = new MutationObserver(changes => {
        drawn += changes.filter(c => c.target !== marks).length
    })
    seen.observe(marks, { subtree: true, childList: true, attributes: true })
    document.querySelector('[aria-label="Zoom in"]').click()
    for (let n = 0; n < 300 && marks.style.transform === 'none'; n++) await frame()
    const moved = marks.style.transform !== 'none'
    const whileMoving = drawn
    seen.disconnect()
    return moved ? whileMoving : -1
}"""
"""How many changes within the layer of marks a zoom makes before it comes to rest."""


def test_a_thousand_spots_move_as_one_layer(frames_dir: Path, fresh_url: str, tab: Page) -> None:
    recipe = Recipe(seed=3, name="many", width_px=5000, counts={"speck": 1050})
    path, _ = write_simulated(recipe, frames_dir)
    tab.goto(fresh_url)
    choose(tab, path)
    wait_for_map(tab)
    count = all_marks(tab)
    assert count > 900
    open_figures(tab)
    expect(tab.locator(".p-datatable-tbody tr").nth(5)).to_be_visible()
    assert tab.evaluate(COUNT_ROWS) < 80
    tab.locator(".p-datatable-tbody tr").nth(5).click()
    expect(tab.locator(".mark.selected")).to_have_count(1)
    far = tab.locator(".mark").nth(count // 2)
    far.dispatch_event("click")
    row = tab.locator(f"tr[data-row={far.get_attribute('data-spot')}]")
    expect(row).to_have_attribute("aria-selected", "true")
    assert 0 <= tab.evaluate(MOVED_ALONE) < 10
    expect(tab.locator(".mark")).to_have_count(count)


def test_checks_with_remedies_and_sensor_size(frames_dir: Path, fresh_url: str, tab: Page) -> None:
    recipe = Recipe(seed=6, name="wide", width_px=1500, f_number=4.0, counts={"speck": 5})
    path, _ = write_simulated(recipe, frames_dir)
    tab.goto(fresh_url)
    choose(tab, path)
    wait_for_map(tab)
    expect(tab.locator(VERDICT)).to_have_text("Not fit: f/4 hides small dust")
    expect(tab.locator(".band")).to_contain_text("Set f/16 or a smaller opening")
    open_figures(tab, "Frame and checks")
    expect(tab.get_by_text("The sensor's size is not known")).to_be_visible()
    tab.get_by_role("button", name="23.5 × 15.6").click()
    expect(tab.get_by_text("15.67 µm")).to_be_visible()


def test_the_whole_way_by_keyboard(small_jpeg: Path, fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    choose(tab, small_jpeg)
    wait_for_map(tab)
    tab.get_by_role("button", name="Figures").focus()
    tab.keyboard.press("Enter")
    expect(tab.locator(".p-datatable-tbody tr").first).to_be_visible()
    for _ in range(40):
        tab.keyboard.press("Tab")
        if tab.evaluate("document.activeElement.closest('.p-datatable-tbody') !== null"):
            break
    tab.keyboard.press("ArrowDown")
    tab.keyboard.press("Enter")
    expect(tab.locator(".mark.selected")).to_have_count(1)
    expect(tab.locator(".detail")).to_be_visible()
    chosen = tab.locator(".detail h2").inner_text()
    tab.reload()
    expect(tab.locator(".detail h2")).to_have_text(chosen)


def test_theme_is_kept(fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    was_dim = tab.evaluate("document.documentElement.classList.contains('dim')")
    tab.get_by_role("button", name="Light" if was_dim else "Dim").click()
    tab.reload()
    assert tab.evaluate("document.documentElement.classList.contains('dim')") is not was_dim


def test_unknown_places_lead_back(fresh_url: str, tab: Page) -> None:
    tab.goto(f"{fresh_url}/nowhere")
    tab.get_by_role("link", name="Back to the frames").click()
    expect(tab.get_by_role("heading", name="What lies on the sensor?")).to_be_visible()
    tab.goto(f"{fresh_url}/frames/77")
    expect(tab.get_by_text("There is no such frame")).to_be_visible()


SHARE = "document.querySelector('[role=progressbar]')?.getAttribute('aria-valuenow') ?? null"
GOES_ON = f"was => ({SHARE}) !== was"


def follow_to_the_end(page: Page) -> None:
    """Wait for work to end, for as long as its progress goes on."""
    while (share := page.evaluate(SHARE)) is not None:
        page.wait_for_function(GOES_ON, arg=share)


def test_the_demo_archive_is_made_with_progress(demo_url: str, tab: Page) -> None:
    tab.goto(demo_url)
    expect(tab.get_by_role("progressbar").first).to_be_visible()
    follow_to_the_end(tab)
    expect(tab.locator(".card")).to_have_count(4)
    tab.get_by_text("copystand-4-november.jpg").click()
    wait_for_map(tab)
    assert all_marks(tab) > 50
    open_figures(tab, "Frame and checks")
    expect(tab.get_by_text("measured on this frame")).to_be_visible()
    assert too_wordy(demo_url, tab) == {}


def test_the_map_at_other_apertures(dusty_jpeg: Path, fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    choose(tab, dusty_jpeg)
    wait_for_map(tab)
    slider = tab.get_by_role("slider", name="Preview at")
    slider.focus()
    for _ in range(4):
        slider.press("ArrowLeft")
    expect(tab.get_by_text("Worked out for f/5.6")).to_be_visible()
    noticed, total = (int(n) for n in tab.locator(".says strong").inner_text().split(" of "))
    assert 0 < noticed < total
    expect(tab.locator(".mark")).to_have_count(noticed)
    tab.get_by_role("button", name="As taken").click()
    expect(tab.locator(".mark")).to_have_count(total)


def test_the_working_aperture_is_kept(dusty_jpeg: Path, fresh_url: str, tab: Page) -> None:
    tab.goto(fresh_url)
    choose(tab, dusty_jpeg)
    wait_for_map(tab)
    before = tab.locator(VERDICT).inner_text()
    tab.get_by_role("combobox", name="I work at").click()
    tab.get_by_role("option", name="f/4", exact=True).click()
    expect(tab.locator(VERDICT)).not_to_have_text(before)
    tab.goto(fresh_url)
    expect(tab.locator(".card").first).to_contain_text("visible at f/4")
