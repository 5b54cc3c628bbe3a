"""The room for pictures: a folder looked through by keyboard, vetoed, written; dust dated."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests import dusty_pictures as dusty
from tests.browser.conftest import serving
from tests.browser.retests import BODY

pytestmark = pytest.mark.browser


def measured(tab: Page, url: str, folder: Path) -> None:
    """A camera with one measured frame on a visit."""
    headers = {"origin": url}
    ask = tab.request
    body = ask.post(f"{url}/api/bodies", data=BODY, headers=headers).json()["id"]
    visit = ask.post(f"{url}/api/visits", data={"body_id": body}, headers=headers).json()["id"]
    frame = dusty.shot_frame(folder)
    ask.post(
        f"{url}/api/frames?name=test.jpg&visit={visit}", data=frame.read_bytes(), headers=headers
    )
    tab.goto(f"{url}/visits/{visit}")
    expect(tab.get_by_text("spots").first).to_be_visible()


def test_a_folder_is_patched_from_the_page_by_keyboard(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "photos", 3)
    (folder / "torn.jpg").write_bytes(b"\xff\xd8\xff torn")
    tab.goto(f"{fresh_url}/pictures")
    expect(tab.get_by_text("No camera is known yet.")).to_be_visible()
    measured(tab, fresh_url, tmp_path)
    tab.get_by_role("link", name="Pictures").click()
    place = tab.get_by_label("Folder", exact=True)
    place.fill(str(tmp_path / "nowhere"))
    place.press("Enter")
    expect(tab.get_by_text("there is no folder")).to_be_visible()
    place.fill(str(folder))
    place.press("Enter")
    expect(tab.get_by_text("4 pictures")).to_be_visible()
    expect(tab.get_by_role("img", name="The test frame's map")).to_be_visible()
    tab.get_by_role("button", name="Look through them").press("Enter")
    expect(tab.get_by_text("4 of 4 looked at. 1 cannot be patched.")).to_be_visible()
    expect(tab.get_by_role("button", name="Write 3 copies")).to_be_visible()
    tab.get_by_role("button", name="Leave it: p1.jpg").click()
    expect(tab.get_by_text("left as it is")).to_be_visible()
    expect(tab.get_by_role("button", name="Write 2 copies")).to_be_visible()

    tab.get_by_role("button", name="p0.jpg: ").focus()
    tab.keyboard.press("Enter")
    glass = tab.get_by_role("img", name="After, at 100 %")
    expect(glass.locator("img")).to_be_visible()
    tab.keyboard.press("ArrowRight")
    expect(tab.get_by_text("2 of ")).to_be_visible()
    tab.get_by_role("button", name="Show before").press("Enter")
    expect(tab.get_by_role("img", name="Before, at 100 %")).to_be_visible()
    while not tab.get_by_role("button", name="Leave it in this picture").is_visible():
        tab.keyboard.press("ArrowRight")
    tab.get_by_role("button", name="Leave it in this picture").click()
    expect(tab.get_by_text("left as you asked")).to_be_visible()
    tab.keyboard.press("Escape")
    expect(glass).to_have_count(0)

    tab.get_by_role("button", name="Write 2 copies").click()
    expect(tab.get_by_text("2 of 4 written.")).to_be_visible()
    assert sorted(p.name for p in (tmp_path / "photos-patched").iterdir()) == ["p0.jpg", "p2.jpg"]
    tab.reload()
    expect(tab.get_by_text("2 of 4 written.")).to_be_visible()
    tab.go_back()
    tab.goto(f"{fresh_url}/pictures")
    expect(tab.get_by_role("link", name=folder.name)).to_be_visible()
    tab.get_by_role("link", name=folder.name).click()
    tab.get_by_role("button", name="Forget").click()
    tab.get_by_role("button", name="Forget it").click()
    expect(tab.get_by_text("Drop a folder of pictures here")).to_be_visible()
    expect(tab.get_by_role("list", name="Folders", exact=True)).to_have_count(0)
    assert len(list((tmp_path / "photos-patched").iterdir())) == 2


def test_everyday_pictures_tell_when_dust_came(tab: Page, tmp_path: Path, year: Path) -> None:
    with serving(tmp_path / "data") as url:
        measured(tab, url, tmp_path)
        tab.goto(f"{url}/pictures")
        tab.get_by_label("Folder", exact=True).fill(str(year))
        tab.get_by_role("button", name="Take it").click()
        tab.get_by_role("button", name="Search them").click()
        expect(tab.get_by_text("20 pictures searched.")).to_be_visible()
        expect(tab.get_by_text("Came between 19 Mar 2026 and 22 Mar 2026").first).to_be_visible()
        expect(tab.get_by_alt_text("The mark, tones drawn apart").first).to_be_visible()
        expect(tab.get_by_alt_text("The same place without the mark").first).to_be_visible()
        tab.get_by_role("button", name="Patch these pictures by these marks").click()
        expect(tab.get_by_text("20 of 20 looked at")).to_be_visible()


def test_a_chosen_folder_is_taken_in_and_the_camera_tells_what_was_found(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "photos", 2)
    (folder / "notes.txt").write_text("no picture")
    measured(tab, fresh_url, tmp_path)
    tab.goto(f"{fresh_url}/pictures")
    tab.locator("input[webkitdirectory]").set_input_files(folder)
    expect(tab.get_by_text("2 pictures")).to_be_visible()
    tab.get_by_role("button", name="Look through them").click()
    expect(tab.get_by_text("2 of 2 looked at.")).to_be_visible()
    expect(tab.get_by_role("heading", name="Pictures dropped here")).to_be_visible()
    out = tab.get_by_label("Copies go to")
    expect(out).to_have_value("")
    out.fill(str(tmp_path / "out"))
    tab.get_by_role("button", name="Write 2 copies").click()
    expect(tab.get_by_text("2 of 2 written.")).to_be_visible()
    assert len(list((tmp_path / "out").rglob("*.jpg"))) == 2
    tab.go_back()
    tab.get_by_label("Folder", exact=True).fill(str(folder))
    tab.get_by_role("button", name="Take it").click()
    tab.get_by_role("button", name="Search them").click()
    expect(tab.get_by_text("No mark keeps its place in these pictures")).to_be_visible()
    tab.get_by_role("link", name="Cameras").click()
    tab.get_by_role("link", name="Gallery A").click()
    expect(tab.get_by_role("heading", name="When dust came")).to_be_visible()
    tab.get_by_role("link", name="See the pictures").click()
    expect(tab.get_by_text("2 pictures searched.")).to_be_visible()


def test_a_camera_s_apertures_are_counted_in_pictures_and_used(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    folder = dusty.folder_of_pictures(tmp_path / "photos", 2)
    made = tab.request.post(f"{fresh_url}/api/bodies", data=BODY, headers={"origin": fresh_url})
    body = made.json()["id"]
    tab.goto(f"{fresh_url}/bodies/{body}?edit=yes")
    tab.get_by_text("Count apertures in your pictures").click()
    path = tab.get_by_label("Folder", exact=True)
    path.fill(str(tmp_path / "none"))
    path.press("Enter")
    expect(tab.get_by_role("alert")).to_be_visible()
    path.fill(str(folder))
    path.press("Enter")
    expect(tab.get_by_text("2 pictures counted.")).to_be_visible()
    tab.get_by_role("button", name="Use f/11").press("Enter")
    tab.get_by_role("button", name="Save").click()
    expect(tab.get_by_role("button", name="Save")).to_have_count(0)
    kept = tab.request.get(f"{fresh_url}/api/bodies/{body}").json()
    assert kept["body"]["works_at"] == [11]
