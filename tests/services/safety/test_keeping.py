"""Backups taken by themselves: due, kept, refused, told of."""

from __future__ import annotations

import sqlite3
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from neatpatch.api.app import create_app
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.services.safety.archive import back_up, verify
from neatpatch.services.safety.checking import check
from neatpatch.services.safety.keeping import LIBRARY_ID, BackupKeeper, BackupPlan
from neatpatch.store.database import StoreError
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_setting
from tests.api.test_visits import until
from tests.served import assert_problem, options_for, upload, wait

NOON = datetime(2026, 3, 1, 12, tzinfo=UTC)


class Kept:
    """A keeper whose clock is set by hand."""

    def __init__(self, root: Path) -> None:
        self.now = NOON
        self.folder = root / "backups"
        self.folder.mkdir()
        self.library = Library(root / "data")
        self.keeper = BackupKeeper(self.library, lambda: self.now)

    def name_of_library(self) -> str:
        with self.library.database.read() as connection:
            return str(get_setting(connection, LIBRARY_ID))

    def names(self) -> list[str]:
        return sorted(p.name for p in self.folder.iterdir())


@pytest.fixture
def kept(tmp_path: Path) -> Kept:
    return Kept(tmp_path)


def test_nothing_is_taken_or_warned_about_before_a_folder_is_chosen(kept: Kept) -> None:
    state = kept.keeper.state()
    assert (state.folder, state.last_at, state.overdue) == ("", None, False)
    with pytest.raises(BadArgumentError, match="which folder"):
        kept.keeper.take()


def test_so_many_are_kept_and_each_is_whole(kept: Kept) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder), keep=2))
    for _ in range(3):
        state = kept.keeper.take()
        assert state.last_at == kept.now
        kept.now += timedelta(days=1)
    own = kept.name_of_library()
    assert kept.names() == [
        f"neatpatch-backup-{own}-20260302-120000.zip",
        f"neatpatch-backup-{own}-20260303-120000.zip",
    ]
    for name in kept.names():
        assert verify(kept.folder / name).missing == ()


def test_the_age_of_the_last_one_is_warned_about(kept: Kept) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder)))
    assert not kept.keeper.state().overdue
    kept.now += timedelta(days=4)
    assert kept.keeper.state().overdue
    assert kept.keeper.state().none_since == NOON
    kept.keeper.take()
    assert not kept.keeper.state().overdue
    kept.now += timedelta(days=4)
    assert kept.keeper.state().overdue


@pytest.mark.parametrize("folder", ["not/whole", "/no/such/folder", "data"])
def test_a_folder_that_cannot_serve_is_refused(kept: Kept, folder: str) -> None:
    wanted = str(kept.library.root) if folder == "data" else folder
    with pytest.raises(BadArgumentError, match="folder"):
        kept.keeper.choose(BackupPlan(folder=wanted))
    assert kept.keeper.plan().folder == ""


def test_a_due_one_is_taken_by_itself_and_a_failure_told(kept: Kept) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder)))
    kept.keeper.start()
    until(kept.names, lambda names: any(n.endswith(".zip") for n in names))
    until(kept.keeper.state, lambda s: not s.running)
    assert kept.keeper.state().error == ""
    kept.keeper.stop()
    for path in kept.folder.iterdir():
        path.unlink()
    kept.folder.rmdir()
    again = BackupKeeper(kept.library, lambda: kept.now)
    again.start()
    until(again.state, lambda s: bool(s.error))
    assert "no such folder" in again.state().error
    again.stop()


@pytest.mark.parametrize(
    "name",
    [
        "neatpatch-backup-before-trip.zip",
        "neatpatch-backup-20260302-120000.zip",
        "neatpatch-backup-00000000-20260302-120000.zip",
        "neatpatch-backup-{own}-20260302-120000 (copy).zip",
        "neatpatch-backup-{own}-20269902-120000.zip",
        "neatpatch-backup-{own}-.zip",
    ],
)
def test_only_its_own_backups_count_and_are_rotated(kept: Kept, name: str) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder), keep=1))
    other = kept.folder / name.format(own=kept.name_of_library())
    other.write_bytes(b"somebody else's")
    assert kept.keeper.state().last_at is None
    for _ in range(2):
        kept.keeper.take()
        kept.now += timedelta(days=1)
    assert other.read_bytes() == b"somebody else's"
    assert len(kept.names()) == 2
    assert kept.keeper.state().last_at == kept.now - timedelta(days=1)


def test_two_machines_share_a_folder(kept: Kept, tmp_path: Path) -> None:
    second = BackupKeeper(Library(tmp_path / "second"), lambda: kept.now)
    for keeper in (kept.keeper, second):
        keeper.choose(BackupPlan(folder=str(kept.folder), keep=1))
    kept.keeper.take()
    assert second.state().last_at is None
    second.take()
    kept.now += timedelta(days=1)
    kept.keeper.take()
    assert len(kept.names()) == 2
    assert second.state().last_at == kept.now - timedelta(days=1)


def test_trouble_with_the_database_ends_no_thread(
    kept: Kept, monkeypatch: pytest.MonkeyPatch
) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder)))
    real, fail = kept.keeper.plan, [True]

    def plan() -> BackupPlan:
        if fail:
            raise sqlite3.OperationalError("database is locked")
        return real()

    monkeypatch.setattr(kept.keeper, "plan", plan)
    kept.keeper.start()
    until(lambda: kept.keeper.trouble, bool)
    assert "unexpected fault" in (kept.keeper.trouble or "")
    fail.clear()
    kept.keeper._loop.nudge()
    until(kept.names, lambda names: any(n.endswith(".zip") for n in names))
    kept.keeper.stop()


def test_what_a_killed_backup_left_is_cleared_but_not_another_machines(kept: Kept) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder)))
    mine = f".neatpatch-backup-{kept.name_of_library()}-20260228-120000"
    (kept.folder / f"{mine}-x1.scratch").mkdir()
    (kept.folder / f"{mine}.zip.part").write_bytes(b"half")
    other = kept.folder / ".neatpatch-backup-0000aaaa-20260228-120000-x1.scratch"
    other.mkdir()
    kept.keeper.take()
    assert other.is_dir()
    assert [n for n in kept.names() if n.startswith(".")] == [other.name]


def test_it_is_chosen_and_taken_through_the_api(client: TestClient, tmp_path: Path) -> None:
    folder = tmp_path / "safe"
    folder.mkdir()
    assert_problem(client.put("/api/backup", json={"folder": "x"}), 422, "whole path")
    assert_problem(client.put("/api/backup", json={"keep": 0}), 422, "keep")
    assert_problem(client.post("/api/backup/chore", json={"kind": "backup"}), 422, "which folder")
    assert client.get("/api/backup/chore").json() == {"chore": None}
    chosen = client.put("/api/backup", json={"folder": str(folder), "daily": False}).json()
    assert chosen["folder"] == str(folder)
    taken = run(client, kind="backup")
    assert (taken["state"], taken["words"]) == ("done", "The backup was read back and proved.")
    assert client.get("/api/backup").json()["last_name"].startswith("neatpatch-backup-")
    (archive,) = folder.glob("*.zip")
    report = run(client, kind="check")["report"]
    assert (report["ok"], report["found"]) == (True, [])
    merged = run(client, kind="merge", archive=str(archive))
    assert merged["words"].startswith("Added nothing that was not here")
    broken = folder / "broken.zip"
    broken.write_bytes(b"PK")
    failed = run(client, kind="merge", archive=str(broken))
    assert failed["state"] == "failed"
    assert "not a whole backup" in failed["words"]
    nowhere = {"kind": "merge", "archive": "broken.zip"}
    assert_problem(client.post("/api/backup/chore", json=nowhere), 422, "whole path")


def test_frames_merged_from_the_page_get_their_pictures_at_once(
    client: TestClient, page: Path, small_jpeg: Path, tmp_path: Path
) -> None:
    away = Library(tmp_path / "away")
    with TestClient(create_app(away, options_for(page)), base_url="http://localhost") as other:
        wait(other, upload(other, small_jpeg).json()["job"]["id"])
    back_up(away.root, tmp_path / "away.zip")
    merged = run(client, kind="merge", archive=str(tmp_path / "away.zip"))
    assert merged["state"] == "done"
    (frame,) = client.get("/api/frames").json()["frames"]
    until(
        lambda: client.get(f"/api/frames/{frame['id']}").json(),
        lambda f: f["picture_ready"] and f["map"] is not None,
    )


def run(client: TestClient, **wanted: str) -> dict[str, Any]:
    """A chore begun and waited for."""
    assert client.post("/api/backup/chore", json=wanted).status_code == 202
    found: dict[str, Any] = until(
        lambda: client.get("/api/backup/chore").json()["chore"], lambda c: c["state"] != "running"
    )
    return found


def test_a_damaged_database_is_refused_with_its_last_backup_offered(kept: Kept) -> None:
    kept.keeper.choose(BackupPlan(folder=str(kept.folder)))
    kept.keeper.take()
    (kept.library.root / "neatpatch.sqlite3").write_bytes(b"no database" * 900)
    with pytest.raises(
        StoreError, match=r"neatpatch-backup-[0-9a-f]{8}-20260301-120000\.zip"
    ) as refused:
        Library(kept.library.root)
    assert "neatpatch restore" in str(refused.value)
    (told,) = check(kept.library.root).found
    assert "neatpatch restore" in told.words
    for path in kept.folder.iterdir():
        path.unlink()
    with pytest.raises(StoreError) as alone:
        Library(kept.library.root)
    assert "backup" not in str(alone.value)
