"""One owner a folder; at start, files and rows are brought together."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from neatpatch.core.common.errors import ConflictError, NotThereError
from neatpatch.images.hashing import sha256_of
from neatpatch.services.safety.checking import check
from neatpatch.services.safety.leftovers import delete_old, set_aside
from neatpatch.store import frames
from neatpatch.store.database import StoreError
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from neatpatch.store.owner import FolderInUseError, owned, owner_address, tell_address
from neatpatch.store.requests import KeyReusedError, claim_key, forget_old, note_result, result_of
from neatpatch.store.sweep import sweep


def test_a_held_folder_is_refused_with_its_owners_address(tmp_path: Path) -> None:
    with owned(tmp_path / "data"):
        with pytest.raises(FolderInUseError, match="another process"), owned(tmp_path / "data"):
            pass
        tell_address(tmp_path / "data", "http://127.0.0.1:8719/")
        address = r"http://127\.0\.0\.1:8719/"
        with pytest.raises(FolderInUseError, match=address), owned(tmp_path / "data"):
            pass
    assert owner_address(tmp_path / "data") == ""
    with owned(tmp_path / "data"):
        pass


def test_a_dead_owner_holds_nothing(tmp_path: Path) -> None:
    code = (
        "import os, sys; from pathlib import Path; from neatpatch.store.owner import owned\n"
        "with owned(Path(sys.argv[1])): print('held', flush=True); os._exit(9)"
    )
    subprocess.run([sys.executable, "-c", code, str(tmp_path)], check=False)
    with owned(tmp_path):
        pass


def test_a_folder_that_cannot_be_made_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(StoreError, match="cannot be used"), owned(tmp_path / "file" / "data"):
        pass


def kept(library: Library, content: bytes) -> tuple[int, str]:
    """A frame whose original holds these bytes."""
    arrived = library.originals.arriving()
    arrived.write_bytes(content)
    sha = sha256_of(arrived)
    with library.database.write() as connection:
        new = NewFrame(sha256=sha, size=len(content), name="a.jpg", source="upload")
        return library.add_frame(connection, arrived, new)[0], sha


def test_what_nothing_refers_to_is_swept_and_the_rest_stays(tmp_path: Path) -> None:
    library = Library(tmp_path)
    _, sha = kept(library, b"kept")
    orphan = library.originals.path("b" * 64)
    orphan.parent.mkdir()
    orphan.write_bytes(b"orphan")
    half = library.originals.arriving()
    half.write_bytes(b"half an upload")
    lost = library.derived("c" * 64)
    lost.mkdir(parents=True)
    partial = library.derived(sha).with_name(f"{sha}.1234.tmp")
    partial.mkdir(parents=True)
    found = sweep(library)
    assert found.orphans == 1
    assert library.originals.path(sha).read_bytes() == b"kept"
    assert not any(p.exists() for p in (orphan, half, lost, partial))
    assert sweep(library).orphans == 0
    assert (library.originals.aside / ("b" * 64)).read_bytes() == b"orphan"


def test_an_older_copy_of_the_database_costs_no_original(tmp_path: Path) -> None:
    library = Library(tmp_path / "data")
    copy = tmp_path / "earlier.sqlite3"
    library.database.backup(copy)
    _, sha = kept(library, b"came since")
    later = tmp_path / "later.sqlite3"
    library.database.backup(later)

    def put_back(database: Path) -> Library:
        for name in ("neatpatch.sqlite3", "neatpatch.sqlite3-wal", "neatpatch.sqlite3-shm"):
            (tmp_path / "data" / name).unlink(missing_ok=True)
        shutil.copy(database, tmp_path / "data" / "neatpatch.sqlite3")
        return Library(tmp_path / "data")

    older = put_back(copy)
    assert sweep(older).orphans == 1
    assert (older.originals.aside / sha).read_bytes() == b"came since"
    newer = put_back(later)
    found = sweep(newer)
    assert (found.taken_back, found.damaged_originals) == (1, {})
    assert newer.originals.path(sha).read_bytes() == b"came since"


@pytest.mark.long
def test_what_was_set_aside_is_named_and_deleted_only_after_thirty_days(tmp_path: Path) -> None:
    library = Library(tmp_path / "data")
    orphan = library.originals.path("c" * 64)
    orphan.parent.mkdir()
    orphan.write_bytes(b"orphan")
    sweep(library)
    report = check(tmp_path / "data")
    [finding] = report.found
    assert (finding.what, finding.lost) == ("aside", False)
    assert str(library.originals.aside) in finding.words
    now = datetime.now(UTC)
    assert delete_old(library.originals, now + timedelta(days=29)) == 0
    assert set_aside(library.originals, now + timedelta(days=29)).old == 0
    assert set_aside(library.originals, now + timedelta(days=31)).old == 1
    assert delete_old(library.originals, now + timedelta(days=31)) == 1
    assert check(tmp_path / "data").found == ()


def test_what_stopped_work_has_left_is_named_and_cleared_at_start(tmp_path: Path) -> None:
    library = Library(tmp_path / "data")
    (tmp_path / "data" / ".merge-abc").mkdir()
    library.originals.arriving().write_bytes(b"half")
    half = library.derived("d" * 64).with_name(f"{'d' * 64}.1.tmp")
    half.mkdir(parents=True)
    report = check(tmp_path / "data")
    assert report.ok
    assert {f.what for f in report.found} == {"partial"}
    assert len(report.found) == 3
    sweep(library)
    assert check(tmp_path / "data").found == ()


def test_missing_and_altered_originals_are_noticed_and_put_right_by_their_bytes(
    tmp_path: Path,
) -> None:
    library = Library(tmp_path)
    (_, gone), (_, longer), (_, changed), (_, whole) = (
        kept(library, content) for content in (b"gone", b"longer", b"changed", b"whole")
    )
    library.originals.path(gone).unlink()
    for sha, content in ((longer, b"much longer"), (changed, b"CHANGED")):
        path = library.originals.path(sha)
        path.chmod(0o600)
        path.write_bytes(content)
        later = time.time() + 3600
        os.utime(path, (later, later))
    touched = library.originals.path(whole)
    os.utime(touched, (time.time() + 3600,) * 2)
    found = sweep(library).damaged_originals
    assert found == {gone: "missing", longer: "altered", changed: "altered"}
    assert library.condition(whole) == "whole"
    assert touched.stat().st_mtime < time.time() + 60
    for content, sha in ((b"gone", gone), (b"changed", changed)):
        assert kept(library, content)[1] == sha
        assert library.condition(sha) == "whole"
    assert sweep(library).damaged_originals == {longer: "altered"}


def test_removing_a_frame_takes_its_files_and_asks_nothing_twice(tmp_path: Path) -> None:
    library = Library(tmp_path)
    frame_id, sha = kept(library, b"kept")
    library.derived(sha).mkdir(parents=True)
    assert library.remove_frame(frame_id)
    assert not library.remove_frame(frame_id)
    assert not library.originals.path(sha).exists()
    assert not library.derived(sha).exists()
    with library.database.read() as connection:
        assert frames.list_frames(connection) == ([], 0)


def test_requests_are_known_by_their_keys(tmp_path: Path) -> None:
    with Library(tmp_path).database.write() as connection:
        assert claim_key(connection, None, "a step")
        assert claim_key(connection, "key-number-1", "a step")
        note_result(connection, "key-number-1", 7)
        assert not claim_key(connection, "key-number-1", "a step")
        assert result_of(connection, "key-number-1", "a step") == 7
        assert result_of(connection, "key-number-2", "a step") is None
        with pytest.raises(KeyReusedError, match="another request"):
            claim_key(connection, "key-number-1", "a job")
        connection.execute("UPDATE requests SET at = '2020-01-01'")
        forget_old(connection)
        assert claim_key(connection, "key-number-1", "a step")


def test_a_frame_taken_out_is_put_back_with_its_file(tmp_path: Path) -> None:
    library = Library(tmp_path)
    frame_id, sha = kept(library, b"kept")
    assert library.take_frame_out(frame_id)
    assert not library.take_frame_out(frame_id)
    assert not library.originals.path(sha).exists()
    sweep(library)
    library.put_frame_back(frame_id)
    assert library.originals.path(sha).read_bytes() == b"kept"
    with library.database.read() as connection:
        assert [f.id for f in frames.list_frames(connection)[0]] == [frame_id]
    with pytest.raises(NotThereError):
        library.put_frame_back(frame_id)


def test_a_frame_that_came_in_again_is_not_put_back_twice(tmp_path: Path) -> None:
    library = Library(tmp_path)
    frame_id, sha = kept(library, b"kept")
    library.take_frame_out(frame_id)
    kept(library, b"kept")
    with pytest.raises(ConflictError, match="come in again"):
        library.put_frame_back(frame_id)
    assert library.originals.path(sha).read_bytes() == b"kept"


def test_what_was_taken_out_long_ago_is_forgotten(tmp_path: Path) -> None:
    library = Library(tmp_path)
    frame_id, _ = kept(library, b"kept")
    library.take_frame_out(frame_id)
    with library.database.write() as connection:
        connection.execute("UPDATE removed_frames SET removed_at = '2020-01-01'")
    sweep(library)
    with pytest.raises(NotThereError, match="Send its file in again"):
        library.put_frame_back(frame_id)
