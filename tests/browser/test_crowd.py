"""Real sizes in the page: a dozen frames at once, 24 MP frames, folders of large pictures."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from neatpatch.simulation.frames import Recipe, write_simulated
from tests import dusty_pictures as dusty
from tests.browser.test_pictures import measured

pytestmark = pytest.mark.browser
ASK = """async () => {
  const answer = await fetch('/api/settings', { cache: 'no-store' })
  await answer.text()
  return answer.status
}"""


@pytest.fixture(scope="module")
def dozen(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    folder = tmp_path_factory.mktemp("dozen")
    return [
        write_simulated(
            Recipe(seed=100 + n, name=f"f{n}", width_px=1500, counts={"speck": 4}), folder
        )[0]
        for n in range(12)
    ]


@pytest.fixture(scope="module")
def large(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A frame of 24 MP."""
    folder = tmp_path_factory.mktemp("large")
    return write_simulated(Recipe(seed=1, name="whole", counts={"speck": 9}), folder)[0]


def test_twelve_frames_at_once_leave_the_page_its_connections(
    dozen: list[Path], fresh_url: str, tab: Page
) -> None:
    streams: list[str] = []
    sending: set[str] = set()
    most: list[int] = []

    def asked(url: str, method: str) -> None:
        if "/events" in url:
            streams.append(url)
        if method == "POST" and "/api/frames?" in url:
            sending.add(url)
            most.append(len(sending))

    tab.on("request", lambda r: asked(r.url, r.method))
    tab.on("response", lambda r: sending.discard(r.url))
    tab.goto(fresh_url)
    expect(tab.get_by_text("No frames yet")).to_be_visible()
    tab.locator("input[type=file]").first.set_input_files(dozen)
    tray = tab.get_by_label("Frames coming in")
    expect(tray.get_by_role("heading")).to_contain_text("coming in")
    assert tab.evaluate(ASK) == 200
    assert tray.is_visible(), "the page was answered only after all were measured"
    expect(tray.get_by_text("is measured. Which camera is it?")).to_have_count(12)
    assert max(most) <= 2
    assert len(streams) == 1, streams
    assert tab.evaluate(ASK) == 200


def test_a_frame_of_24_megapixels_is_taken_in(
    large: Path, small_jpeg: Path, fresh_url: str, tab: Page
) -> None:
    assert large.stat().st_size > 1_000_000
    tab.goto(fresh_url)
    expect(tab.get_by_text("No frames yet")).to_be_visible()
    tab.locator("input[type=file]").first.set_input_files([large, small_jpeg])
    expect(tab.get_by_text("is measured. Which camera is it?")).to_have_count(2)


def test_a_folder_of_24_megapixel_pictures_is_taken_in_whole(
    large: Path, fresh_url: str, tab: Page, tmp_path: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    (folder / large.name).write_bytes(large.read_bytes())
    measured(tab, fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/pictures")
    tab.locator("input[webkitdirectory]").set_input_files(folder)
    expect(
        tab.get_by_text("pictures, the last of").or_(tab.get_by_text("pictures."))
    ).to_be_visible()
    tab.get_by_role("button", name="Look through them").click()
    expect(tab.get_by_text("1 of 1 looked at.")).to_be_visible()
    assert dusty.WIDTH_PX < 6000
