from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from neatpatch.store import frames, jobs
from neatpatch.store.database import Database, StoreError, migration_names, split_statements
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_setting, put_setting

SHA = "a" * 64


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


def add(library: Library, sha: str = SHA) -> tuple[int, bool]:
    with library.database.write() as connection:
        return frames.add_frame(connection, sha256=sha, size=10, name="a.jpg", source="upload")


def test_new_folder_gets_every_migration_once(tmp_path: Path) -> None:
    database = Database(tmp_path / "x.sqlite3")
    assert database.migrate() == migration_names()
    assert database.migrate() == []


def test_wal_and_foreign_keys_are_on(library: Library) -> None:
    with library.database.read() as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert connection.execute("PRAGMA foreign_keys").fetchone()[0] == 1


def test_a_failed_transaction_leaves_nothing(library: Library) -> None:
    def fail() -> None:
        with library.database.write() as connection:
            put_setting(connection, "a", "1")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail()
    with library.database.read() as connection:
        assert get_setting(connection, "a") is None


def test_file_of_a_newer_version_is_refused_and_untouched(tmp_path: Path) -> None:
    database = Database(tmp_path / "x.sqlite3")
    database.migrate()
    with database.write() as connection:
        connection.execute("INSERT INTO migrations VALUES ('9999_later', 'then')")
    with pytest.raises(StoreError, match="newer version"):
        database.migrate()


def test_no_database_is_said_plainly(tmp_path: Path) -> None:
    path = tmp_path / "neatpatch.sqlite3"
    path.write_bytes(b"this is no database at all, sorry" * 50)
    with pytest.raises(StoreError, match="not a usable database"):
        Library(tmp_path)


def test_folder_that_cannot_be_made_is_said_plainly(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(StoreError, match="--data"):
        Library(tmp_path / "file")


def test_backup_before_later_migrations(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    database = Database(tmp_path / "x.sqlite3")
    database.migrate()
    names = migration_names()
    monkeypatch.setattr(
        "neatpatch.store.database.migration_names", lambda: [*names, "0042_missing"]
    )
    with pytest.raises(FileNotFoundError):
        database.migrate()
    backup = tmp_path / "x-before-0042.sqlite3"
    copied = sqlite3.connect(backup).execute("SELECT count(*) FROM migrations").fetchone()
    assert copied == (len(names),)


def test_statements_are_split_at_their_ends() -> None:
    assert split_statements("SELECT 1;\nSELECT ';'\n;\n") == ["SELECT 1;", "SELECT ';'\n;"]


def test_the_same_content_is_the_same_frame(library: Library) -> None:
    first, second, other = add(library), add(library), add(library, "b" * 64)
    assert first == (second[0], True)
    assert second[1] is False
    assert other[0] != first[0]


def test_originals_are_kept_once_and_read_only(library: Library) -> None:
    for _ in range(2):
        arrived = library.originals.incoming / "up"
        arrived.write_bytes(b"bytes")
        kept = library.originals.keep(arrived, SHA)
        assert not arrived.exists()
    assert kept.read_bytes() == b"bytes"
    assert kept.stat().st_mode & 0o222 == 0


def test_leftovers_of_an_interrupted_upload_are_cleared(tmp_path: Path) -> None:
    left = Library(tmp_path).originals.incoming / "half"
    left.write_bytes(b"half a file")
    Library(tmp_path)
    assert not left.exists()


def test_maps_are_replaced_and_go_with_their_frame(library: Library) -> None:
    frame_id, _ = add(library)
    with library.database.write() as connection:
        frames.save_map(connection, frame_id, "{}", "1")
        frames.save_map(connection, frame_id, '{"a": 1}', "2")
        found = frames.frame_by_id(connection, frame_id)
        assert found is not None
        assert found.map_json == '{"a": 1}'
        assert frames.remove_frame(connection, frame_id) == SHA
        assert connection.execute("SELECT count(*) FROM maps").fetchone()[0] == 0
        assert frames.remove_frame(connection, frame_id) is None


def test_jobs_run_in_order_demo_last_and_come_back_after_a_restart(library: Library) -> None:
    frame_id, _ = add(library)
    with library.database.write() as connection:
        demo = jobs.add_job(connection, "demo", "archive")
        first = jobs.add_job(connection, "map", "a", frame_id)
        assert jobs.add_job(connection, "map", "a", frame_id) == first
        taken = jobs.take_next(connection)
        assert taken is not None
        assert taken.id == first
        jobs.report(connection, first, 0.4, "measuring")
        assert jobs.requeue_interrupted(connection) == 1
        again = jobs.take_next(connection)
        assert again is not None
        assert (again.id, again.progress) == (first, 0.0)
        jobs.finish(connection, first, "done")
        jobs.finish(connection, first, "failed", "too late")
        done = jobs.job_by_id(connection, first)
        assert done is not None
        assert (done.state, done.progress, done.error) == ("done", 1.0, None)
        last = jobs.take_next(connection)
        assert last is not None
        assert last.id == demo
        assert jobs.take_next(connection) is None


def test_acknowledged_frames_without_map_are_found_again(library: Library) -> None:
    frame_id, _ = add(library)
    with library.database.write() as connection:
        assert frames.frames_without_map(connection) == [frame_id]
        jobs.add_job(connection, "map", "a", frame_id)
        assert frames.frames_without_map(connection) == []
