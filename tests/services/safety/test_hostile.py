"""What strangers' archives can do: nothing. Each is refused in words, and all files stay."""

from __future__ import annotations

import hashlib
import shutil
import sqlite3
import threading
from contextlib import closing
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest

from neatpatch.services.safety import foreign
from neatpatch.services.safety.archive import BrokenArchiveError, restore
from neatpatch.services.safety.checking import check
from neatpatch.services.safety.foreign import ForeignDatabaseError, rebuild_database
from neatpatch.services.safety.merging import merge
from neatpatch.services.safety.schema import make_schema
from neatpatch.services.safety.ticking import StoppedError
from neatpatch.store.database import Database, StoreError, migration_names
from neatpatch.store.datafolder import Library
from neatpatch.store.originals import NoHashError, Originals, require_sha256
from tests.services.safety.hostile import DATABASE, NAMES, Parts, hostile_archives
from tests.services.safety.test_merging import Folder, desk

__all__ = ["desk"]


@pytest.fixture(scope="module")
def archives(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    root = tmp_path_factory.mktemp("hostile")
    stranger = Folder(root / "stranger")
    visit = stranger.visit(stranger.body("Elsewhere", "77"), "x")
    stranger.use(stranger.swabs(5), visit)
    stranger.book("Elsewhere's job", 1)
    return dict(hostile_archives(stranger.archive(root / "good.zip"), root))


def state_of(root: Path) -> dict[str, str]:
    """Every file below a folder by what it holds; the database by its rows."""
    found = {
        str(path.relative_to(root)): hashlib.sha256(path.read_bytes()).hexdigest()
        for path in sorted(root.rglob("*"))
        if path.is_file() and "neatpatch.sqlite3" not in path.name
    }
    with closing(sqlite3.connect(root / "desk" / "neatpatch.sqlite3")) as connection:
        found["rows"] = "\n".join(connection.iterdump())
    return found


@pytest.mark.parametrize("name", NAMES)
def test_a_hostile_archive_is_refused_and_nothing_is_touched(
    name: str, archives: dict[str, Path], desk: Folder, tmp_path: Path
) -> None:
    victim = tmp_path / "victim"
    victim.write_text("a file of the user")
    before = state_of(tmp_path)
    with pytest.raises(BrokenArchiveError, match=r"(?i)another|start that version"):
        desk.merge(archives[name])
    assert state_of(tmp_path) == before
    with pytest.raises(BrokenArchiveError):
        restore(archives[name], tmp_path / "again")
    assert state_of(tmp_path) == before
    assert not (tmp_path / "again").exists()
    with desk.library.database.write():
        pass


@pytest.mark.parametrize(
    "text", ["", "../" * 21 + "a", "A" * 64, "a" * 63, "a" * 64 + "\n", "٠" * 64, None, b"a" * 64]
)
def test_only_a_hash_becomes_a_path(text: Any, tmp_path: Path) -> None:
    with pytest.raises(NoHashError, match="no name of a stored file"):
        require_sha256(text)
    library = Library(tmp_path / "data")
    for make in (library.originals.path, library.derived, library.originals.drop):
        with pytest.raises(NoHashError):
            make(text)
    assert require_sha256("0" * 64) == "0" * 64


def test_a_folder_whose_rows_name_no_hashes_is_told_by_check_and_never_followed(
    desk: Folder, tmp_path: Path
) -> None:
    victim = tmp_path / "victim"
    victim.write_text("a file of the user")
    with closing(sqlite3.connect(desk.library.database.path)) as connection, connection:
        connection.execute("PRAGMA ignore_check_constraints = ON")
        connection.execute(
            "UPDATE originals SET sha256 = '../../../' || substr(sha256, 10) WHERE rowid = 1"
        )
    report = check(desk.library.root)
    assert not report.ok
    assert any(f.lost and "no name of a stored file" in f.words for f in report.found)
    assert victim.read_text() == "a file of the user"


def test_a_database_with_a_view_is_told_by_check(desk: Folder) -> None:
    with closing(sqlite3.connect(desk.library.database.path)) as connection, connection:
        connection.execute("CREATE VIEW more AS SELECT 1")
    report = check(desk.library.root)
    assert [f.what for f in report.found] == ["database"]
    assert "more" in report.found[0].words


def test_reading_a_foreign_database_is_bounded_and_ends_when_told(
    desk: Folder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk.library.database.backup(tmp_path / "foreign.sqlite3")
    names = migration_names()
    rebuild_database(tmp_path / "foreign.sqlite3", tmp_path / "whole.sqlite3", names)
    with Database(tmp_path / "whole.sqlite3").read() as connection:
        assert connection.execute("SELECT count(*) FROM frames").fetchone()[0] == 2

    def stop(_share: float) -> None:
        raise StoppedError("stopped")

    with pytest.raises(StoppedError):
        rebuild_database(tmp_path / "foreign.sqlite3", tmp_path / "stopped.sqlite3", names, stop)
    monkeypatch.setattr(foreign, "_LEAST_CALLS", 0)
    monkeypatch.setattr(foreign, "_BYTES_A_CALL", 10**12)
    monkeypatch.setattr(foreign, "_STEPS_A_CALL", 50)
    with pytest.raises(ForeignDatabaseError, match="come to an end"):
        rebuild_database(tmp_path / "foreign.sqlite3", tmp_path / "bounded.sqlite3", names)


def test_others_may_write_while_an_archive_is_merged(desk: Folder, tmp_path: Path) -> None:
    other = Folder(tmp_path / "other")
    other.visit(other.body("Annex"), *(f"x{n}" for n in range(60)))
    packed = other.archive(tmp_path / "o.zip")
    written = []

    def write_between(_share: float) -> None:
        def write() -> None:
            with desk.library.database.write() as connection:
                connection.execute("UPDATE visits SET note = note || 'x'")
            written.append(1)

        thread = threading.Thread(target=write)
        thread.start()
        thread.join()

    merge(packed, desk.library.root, desk.library.database, write_between)
    assert len(written) > 10
    assert desk.counts()["frames"] == 62
    assert desk.is_whole()


def test_stopped_between_two_parts_what_came_is_whole_and_the_rest_comes_again(
    desk: Folder, tmp_path: Path
) -> None:
    other = Folder(tmp_path / "other")
    other.visit(other.body("Annex"), *(f"x{n}" for n in range(120)))
    packed = other.archive(tmp_path / "o.zip")

    def stop_late(share: float) -> None:
        if share > 0.8:
            raise StoppedError("stopped")

    with pytest.raises(StoppedError):
        merge(packed, desk.library.root, desk.library.database, stop_late)
    came = desk.counts()["frames"]
    assert 2 < came < 122
    assert desk.rows("SELECT count(*) FROM maps") == [(came,)]
    assert desk.is_whole()
    assert check(desk.library.root).ok
    desk.merge(packed)
    assert desk.counts()["frames"] == desk.counts()["maps"] == 122
    assert desk.counts()["trail"] == 3 + 1 + 239


def test_too_little_room_is_told_before_anything_is_written(
    desk: Folder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    packed = desk.archive(tmp_path / "d.zip")
    monkeypatch.setattr(shutil, "disk_usage", lambda _: SimpleNamespace(free=10))
    with pytest.raises(StoreError, match="too little room"):
        restore(packed, tmp_path / "again")
    assert not (tmp_path / "again").exists()


def test_what_would_act_by_itself_stays_behind(desk: Folder, tmp_path: Path) -> None:
    with desk.library.database.write() as connection:
        connection.execute(
            "INSERT INTO devices (name, role, token_hash, paired_at) VALUES "
            "('Stranger', 'owner', 'abc', '2026-05-05T09:00:00+00:00')"
        )
        connection.execute(
            "INSERT INTO picture_sets (body_id, kind, folder, out_folder, work, state, created_at) "
            "VALUES (1, 'patch', '/home', '/home/out', 'write', 'working', '2026-05-05')"
        )
    restore(desk.archive(tmp_path / "d.zip"), tmp_path / "again")
    again = Folder(tmp_path / "again")
    assert again.rows("SELECT count(*) FROM devices") == [(0,)]
    assert again.rows("SELECT state FROM picture_sets") == [("stopped",)]


def test_originals_are_listed_by_their_hashes_alone(tmp_path: Path) -> None:
    originals = Originals(tmp_path / "originals")
    (tmp_path / "originals" / "ab").mkdir()
    (tmp_path / "originals" / "ab" / "notes.txt").write_text("not ours")
    assert list(originals.all_hashes()) == []


@pytest.mark.parametrize("many", [2, 8, 12, 16])
def test_an_archive_of_an_earlier_schema_is_brought_up_to_date(
    many: int, desk: Folder, tmp_path: Path
) -> None:
    names = migration_names()[:many]
    with closing(sqlite3.connect(tmp_path / "old.sqlite3", isolation_level=None)) as connection:
        make_schema(connection, names)
        connection.execute(
            "INSERT INTO bodies (name, access, sensor_width_mm, sensor_height_mm, works_at, "
            "created_at) VALUES ('Elder', 'mirrorless', 36, 24, '16', '2026-01-01')"
        )
    parts = Parts.of(desk.archive(tmp_path / "d.zip"))
    parts.files = {DATABASE: (tmp_path / "old.sqlite3").read_bytes()}
    parts.manifest["migrations"] = names
    desk.merge(parts.write(tmp_path / "old.zip"))
    assert ("Elder",) in desk.rows("SELECT name FROM bodies")
    assert desk.is_whole()
