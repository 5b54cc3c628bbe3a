"""Backups and the check, from the page."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from neatpatch.services.safety.archive import verify

pytestmark = pytest.mark.browser


def test_a_backup_is_chosen_taken_and_the_folder_checked(
    tab: Page, fresh_url: str, tmp_path: Path
) -> None:
    safe = tmp_path / "safe"
    safe.mkdir()
    tab.goto(f"{fresh_url}/schools?section=backup")
    expect(tab.get_by_text("No backup yet.")).to_be_visible()
    expect(tab.get_by_role("button", name="Back up now")).to_be_disabled()
    tab.get_by_label("Folder").fill(str(tmp_path / "nowhere"))
    tab.get_by_role("button", name="Save").click()
    expect(tab.get_by_text("there is no folder")).to_be_visible()
    tab.get_by_label("Folder").fill(str(safe))
    tab.get_by_label("Every day").uncheck()
    tab.get_by_role("button", name="Save").click()
    tab.get_by_role("button", name="Back up now").click()
    expect(tab.get_by_text("The backup was read back and proved.")).to_be_visible()
    (made,) = safe.glob("*.zip")
    assert verify(made).originals == 0
    tab.get_by_role("button", name="Check now").click()
    expect(tab.get_by_text("All is well.")).to_be_visible()
    tab.get_by_label("Backup file").fill(str(tmp_path / "none.zip"))
    tab.get_by_role("button", name="Merge").click()
    expect(tab.get_by_text("there is no such file")).to_be_visible()
    tab.get_by_label("Backup file").fill(str(made))
    tab.get_by_role("button", name="Merge").click()
    expect(tab.get_by_text("nothing that was not here")).to_be_visible()
