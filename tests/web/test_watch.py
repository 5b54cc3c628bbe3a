"""The watched folder, file by file."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest

from neatpatch.core.errors import UnusableFrameError
from neatpatch.images.limits import Limits
from neatpatch.store import frames as frame_rows
from neatpatch.store.datafolder import Library
from neatpatch.web.casework import WATCHED
from neatpatch.web.watch import Watcher


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


def names(library: Library) -> list[str]:
    with library.database.read() as connection:
        return sorted(f.name for f in frame_rows.all_frames(connection))


def until(wanted: Callable[[], bool], seconds: float = 15) -> None:
    deadline = time.monotonic() + seconds
    while not wanted():
        assert time.monotonic() < deadline
        time.sleep(0.05)


def test_only_new_whole_pictures_are_taken_once_and_left_where_they_are(
    library: Library, tmp_path: Path, small_jpeg: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    data = small_jpeg.read_bytes()
    (folder / "old.jpg").write_bytes(data + b"old")
    told: list[int] = []
    watcher = Watcher(library, folder, lambda: told.append(1))
    watcher.start()
    time.sleep(0.5)
    (folder / "new.jpg").write_bytes(data)
    (folder / ".hidden.jpg").write_bytes(data + b"hidden")
    (folder / "notes.txt").write_text("no picture")
    (folder / "inside").mkdir()
    until(lambda: names(library) == ["new.jpg"])
    (folder / "copy.jpg").write_bytes(data)
    time.sleep(2.5)
    watcher.stop()
    assert names(library) == ["new.jpg"]
    assert told
    assert (folder / "new.jpg").read_bytes() == data
    assert list(library.originals.incoming.iterdir()) == []
    with library.database.read() as connection:
        assert frame_rows.all_frames(connection)[0].note == WATCHED


def test_a_file_that_goes_away_or_is_too_large_is_left_alone(
    library: Library, tmp_path: Path, small_jpeg: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    watcher = Watcher(
        library, folder, lambda: None, Limits(max_bytes=10_000, max_pixels=20_000_000)
    )
    watcher.start()
    time.sleep(0.5)
    (folder / "large.jpg").write_bytes(small_jpeg.read_bytes())
    fleeting = folder / "fleeting.jpg"
    fleeting.write_bytes(b"\xff\xd8\xff")
    fleeting.unlink()
    time.sleep(2.5)
    watcher.stop()
    assert names(library) == []
    assert list(library.originals.incoming.iterdir()) == []


def test_a_folder_that_is_not_there_is_refused(library: Library, tmp_path: Path) -> None:
    with pytest.raises(UnusableFrameError, match="not there"):
        Watcher(library, tmp_path / "gone", lambda: None).start()
