"""Backup, restore and check of a data folder, and what they say of damage."""

from __future__ import annotations

import json
import sqlite3
import zipfile
from contextlib import closing
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from neatpatch.api.app import create_app
from neatpatch.services.safety.archive import BrokenArchiveError, back_up, restore, verify
from neatpatch.services.safety.checking import CheckReport, check
from neatpatch.store.database import StoreError
from neatpatch.store.datafolder import Library
from neatpatch.store.owner import owned
from tests.api.test_visits import a_body, a_visit, drop
from tests.served import options_for
from tests.services.safety.hostile import Parts


@pytest.fixture
def folder(tmp_path: Path, page: Path, small_jpeg: Path) -> Path:
    """A data folder with a body, a visit, a measured frame and a thing of the kit."""
    root = tmp_path / "data"
    app = create_app(Library(root), options_for(page))
    with TestClient(app, base_url="http://localhost") as client:
        drop(client, a_visit(client, a_body(client))["id"], small_jpeg)
        client.post("/api/kit", json={"item": {"item": "bulb_blower"}})
    return root


def rows(root: Path, table: str) -> list[tuple[object, ...]]:
    with closing(sqlite3.connect(root / "neatpatch.sqlite3")) as connection:
        return connection.execute(f"SELECT * FROM {table} ORDER BY 1").fetchall()


def whats(report: CheckReport) -> list[tuple[str, bool, bool]]:
    return [(f.what, f.lost, f.mended) for f in report.found]


def test_an_archive_brings_back_every_row_and_original(
    folder: Path, tmp_path: Path, page: Path
) -> None:
    manifest = back_up(folder, tmp_path / "all.zip")
    assert manifest.originals == 1
    assert manifest.missing == ()
    again = tmp_path / "again"
    assert restore(tmp_path / "all.zip", again) == manifest
    for table in ("bodies", "visits", "trail", "frames", "maps", "kit", "stock_moves"):
        assert rows(again, table) == rows(folder, table)
    assert oct(again.stat().st_mode & 0o777) == "0o700"
    with TestClient(
        create_app(Library(again), options_for(page)), base_url="http://localhost"
    ) as client:
        (frame,) = client.get("/api/frames").json()["frames"]
        assert frame["original"] == "whole"
        assert frame["body_name"] == "Study"


def test_a_stock_that_is_not_the_sum_of_its_moves_is_counted_anew(folder: Path) -> None:
    with closing(sqlite3.connect(folder / "neatpatch.sqlite3")) as connection:
        connection.execute(
            'INSERT INTO kit (item_json) VALUES (\'{"item": "dry_swab", "width_mm": 24}\')'
        )
        connection.execute(
            "INSERT INTO stock_moves (kit_id, why, change, thing, at) "
            "VALUES (2, 'entered', 12, 'swab', '2026-11-27T09:00:00')"
        )
        assert connection.execute("SELECT there FROM kit WHERE id = 2").fetchone() == (12.0,)
        connection.execute("UPDATE kit SET there = 40 WHERE id = 2")
        connection.commit()
    assert whats(check(folder)) == [("stock", False, True)]
    assert check(folder).found == ()
    assert any(12.0 in row for row in rows(folder, "kit"))


def test_its_parts_are_open_and_hold_the_same_rows(folder: Path, tmp_path: Path) -> None:
    back_up(folder, tmp_path / "all.zip")
    with zipfile.ZipFile(tmp_path / "all.zip") as archive:
        manifest = json.loads(archive.read("manifest.json"))
        lines = archive.read("tables/bodies.jsonl").decode().splitlines()
        assert {p["path"] for p in manifest["parts"]} | {"manifest.json"} == set(archive.namelist())
    assert [json.loads(line)["name"] for line in lines] == ["Study"]


def test_it_is_taken_while_a_server_works_on_the_folder(folder: Path, tmp_path: Path) -> None:
    with owned(folder), Library(folder).database.write() as connection:
        connection.execute("UPDATE bodies SET name = 'Not committed'")
        back_up(folder, tmp_path / "all.zip")
        connection.execute("ROLLBACK")
        connection.execute("BEGIN")
    restore(tmp_path / "all.zip", tmp_path / "again")
    assert "Study" in str(rows(tmp_path / "again", "bodies"))


@pytest.mark.parametrize("part", ["database.sqlite3", "tables/maps.jsonl", "originals/"])
def test_a_damaged_archive_is_refused_and_nothing_is_written(
    folder: Path, tmp_path: Path, part: str
) -> None:
    path = tmp_path / "all.zip"
    back_up(folder, path)
    data = bytearray(path.read_bytes())
    with zipfile.ZipFile(path) as archive:
        info = next(i for i in archive.infolist() if i.filename.startswith(part))
    where = info.header_offset + 150 + info.compress_size // 2
    data[where : where + 40] = bytes(b ^ 0x5A for b in data[where : where + 40])
    path.write_bytes(data)
    with pytest.raises(BrokenArchiveError, match="another"):
        restore(path, tmp_path / "again")
    assert not (tmp_path / "again").exists()
    assert not list(tmp_path.glob(".again-*"))


def test_what_is_no_archive_or_a_newer_one_is_refused(folder: Path, tmp_path: Path) -> None:
    (tmp_path / "notes.txt").write_text("no archive")
    with pytest.raises(BrokenArchiveError, match="not a whole backup"):
        verify(tmp_path / "notes.txt")
    with zipfile.ZipFile(tmp_path / "other.zip", "w") as archive:
        archive.writestr("manifest.json", '{"format": "else/9"}')
    with pytest.raises(BrokenArchiveError, match="newer version"):
        verify(tmp_path / "other.zip")
    back_up(folder, tmp_path / "now.zip")
    parts = Parts.of(tmp_path / "now.zip")
    parts.manifest["migrations"].append("9999_later")
    with pytest.raises(BrokenArchiveError, match="9999_later"):
        restore(parts.write(tmp_path / "later.zip"), tmp_path / "again")
    with closing(sqlite3.connect(folder / "neatpatch.sqlite3")) as connection, connection:
        connection.execute("INSERT INTO migrations VALUES ('9999_later', 't')")
    with pytest.raises(StoreError, match="newer version"):
        back_up(folder, tmp_path / "never.zip")
    assert not (tmp_path / "never.zip").exists()


def test_nothing_is_written_over_and_nothing_is_left_behind(folder: Path, tmp_path: Path) -> None:
    back_up(folder, tmp_path / "all.zip")
    with pytest.raises(StoreError, match="not empty"):
        restore(tmp_path / "all.zip", folder)
    with pytest.raises(StoreError, match="no data here"):
        back_up(tmp_path / "none", tmp_path / "none.zip")
    with pytest.raises(StoreError, match="no such folder"):
        back_up(folder, tmp_path / "no" / "all.zip")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["all.zip", "data"]


def test_a_lost_original_is_told_by_backup_and_check(folder: Path, tmp_path: Path) -> None:
    ((sha256, *_),) = rows(folder, "originals")
    Library(folder).originals.drop(str(sha256))
    assert back_up(folder, tmp_path / "all.zip").missing == (sha256,)
    report = check(folder)
    assert not report.ok
    assert whats(report) == [("original", True, False)]
    assert "gone" in report.found[0].words


def test_an_altered_original_is_told(folder: Path) -> None:
    ((sha256, *_),) = rows(folder, "originals")
    path = Library(folder).originals.path(str(sha256))
    path.chmod(0o600)
    path.write_bytes(path.read_bytes()[:-1] + b"x")
    report = check(folder)
    assert whats(report) == [("original", True, False)]
    assert "not what was taken in" in report.found[0].words


def test_a_whole_folder_is_well(folder: Path) -> None:
    report = check(folder)
    assert report.ok
    assert report.found == ()
    assert (report.originals, report.maps) == (1, 1)


def test_what_can_be_made_again_is_mended_unless_the_folder_is_in_use(
    folder: Path, page: Path
) -> None:
    library = Library(folder)
    stray = library.originals.path("ab" * 32)
    stray.parent.mkdir(exist_ok=True)
    stray.write_bytes(b"belongs to nobody")
    for path in sorted(library.derived_root.rglob("*"), reverse=True):
        path.rmdir() if path.is_dir() else path.unlink()
    with closing(sqlite3.connect(folder / "neatpatch.sqlite3")) as connection, connection:
        connection.execute("UPDATE maps SET map_json = '{}'")
    with owned(folder):
        used = check(folder)
    assert used.ok
    assert {(w, m) for w, _, m in whats(used)} == {
        ("map", False),
        ("picture", False),
        ("stray", False),
    }
    assert stray.exists()
    assert all(mended for _, _, mended in whats(check(folder)))
    assert not stray.exists()
    app = create_app(Library(folder), options_for(page))
    with TestClient(app, base_url="http://localhost") as client:
        while client.get("/api/frames").json()["open_jobs"]:
            pass
    [aside] = check(folder).found
    assert (aside.what, aside.lost) == ("aside", False)


def test_a_damaged_database_is_told_with_what_to_do(folder: Path) -> None:
    path = folder / "neatpatch.sqlite3"
    data = bytearray(path.read_bytes())
    data[8192:16384] = bytes(8192)
    path.write_bytes(data)
    report = check(folder)
    assert whats(report) == [("database", True, False)]
    assert "Restore the last backup" in report.found[0].words
