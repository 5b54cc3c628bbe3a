"""The watched folder, file by file."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import watchfiles

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.images.limits import Limits
from neatpatch.services.frames.intake import accept_file
from neatpatch.services.watched import watching as watch
from neatpatch.services.watched.watching import Watcher
from neatpatch.store import frames as frame_rows
from neatpatch.store.datafolder import Library


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


def names(library: Library) -> list[str]:
    with library.database.read() as connection:
        return sorted(f.name for f in frame_rows.list_frames(connection)[0])


def until(wanted: Callable[[], bool]) -> None:
    while not wanted():
        time.sleep(0.02)


def until_next_is_taken(library: Library, folder: Path, data: bytes) -> None:
    """Files settle in the order they came: once this one is in, those before were looked at."""
    (folder / "next.jpg").write_bytes(data + b"next")
    until(lambda: "next.jpg" in names(library))


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
    watcher.ready.wait()
    (folder / "new.jpg").write_bytes(data)
    (folder / ".hidden.jpg").write_bytes(data + b"hidden")
    (folder / "notes.txt").write_text("no picture")
    (folder / "inside").mkdir()
    until(lambda: names(library) == ["new.jpg"])
    (folder / "copy.jpg").write_bytes(data)
    (folder / "tones.gif").write_bytes(b"GIF89a" + bytes(50))
    until_next_is_taken(library, folder, data)
    until(lambda: watcher.taken == 3)
    watcher.stop()
    assert names(library) == ["new.jpg", "next.jpg"]
    assert told
    assert (folder / "new.jpg").read_bytes() == data
    assert list(library.originals.incoming.iterdir()) == []
    with library.database.read() as connection:
        assert all(f.seeks for f in frame_rows.list_frames(connection)[0])
    assert watcher.last is not None
    assert watcher.last[0] in ("copy.jpg", "next.jpg")  # they may be heard of in either order


def test_a_file_that_goes_away_or_is_too_large_is_left_alone(
    library: Library, tmp_path: Path, small_jpeg: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    watcher = Watcher(
        library, folder, lambda: None, Limits(max_bytes=10_000, max_pixels=20_000_000)
    )
    watcher.start()
    watcher.ready.wait()
    (folder / "large.jpg").write_bytes(small_jpeg.read_bytes())
    fleeting = folder / "fleeting.jpg"
    fleeting.write_bytes(b"\xff\xd8\xff")
    fleeting.unlink()
    until_next_is_taken(library, folder, b"\xff\xd8\xff")
    watcher.stop()
    assert names(library) == ["next.jpg"]
    assert list(library.originals.incoming.iterdir()) == []


def test_a_folder_that_is_not_there_is_refused(library: Library, tmp_path: Path) -> None:
    with pytest.raises(UnusableFrameError, match="not there"):
        Watcher(library, tmp_path / "gone", lambda: None).start()


def test_a_folder_that_was_removed_and_made_again_is_watched_again(
    library: Library, tmp_path: Path, small_jpeg: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    watcher = Watcher(library, folder, lambda: None)
    watcher.start()
    watcher.ready.wait()
    folder.rmdir()
    folder.mkdir()
    (folder / "new.jpg").write_bytes(small_jpeg.read_bytes())
    until(lambda: names(library) == ["new.jpg"])
    watcher.stop()


def test_a_file_that_cannot_be_kept_just_now_is_tried_again(
    library: Library, tmp_path: Path, small_jpeg: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    refused: list[int] = []

    def full_at_first(*given: object, **more: object) -> object:
        if not refused:
            refused.append(1)
            raise OSError(28, "No space left on device")
        return accept_file(*given, **more)  # type: ignore[arg-type]

    monkeypatch.setattr("neatpatch.services.watched.watching.accept_file", full_at_first)
    watcher = Watcher(library, folder, lambda: None)
    watcher.start()
    watcher.ready.wait()
    (folder / "new.jpg").write_bytes(small_jpeg.read_bytes())
    until(lambda: names(library) == ["new.jpg"])
    watcher.stop()
    assert refused == [1]


def test_a_file_still_being_written_waits_until_it_keeps_its_size(
    library: Library, tmp_path: Path, small_jpeg: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(watch, "SETTLED_S", math.inf)
    folder = tmp_path / "card"
    folder.mkdir()
    watcher = Watcher(library, folder, lambda: None)
    watcher.start()
    watcher.ready.wait()
    data, target = small_jpeg.read_bytes(), folder / "slow.jpg"
    with target.open("wb") as out:
        out.write(data[:5000])
        out.flush()
        until(lambda: watcher.sizes().get(target) == 5000)
        assert names(library) == []
        out.write(data[5000:])
    until(lambda: watcher.sizes().get(target) == len(data))
    monkeypatch.setattr(watch, "SETTLED_S", 0.0)
    until(lambda: names(library) == ["slow.jpg"])
    watcher.stop()
    with library.database.read() as connection:
        [kept] = frame_rows.list_frames(connection)[0]
    assert library.originals.path(kept.sha256).read_bytes() == data


def test_a_folder_that_cannot_be_followed_is_tried_again_and_ends_no_thread(
    library: Library, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, small_jpeg: Path
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    real, failures = watchfiles.watch, [0]

    def broken(*given: Any, **more: Any) -> Any:
        failures[0] += 1
        if failures[0] <= 4:
            raise OSError(28, "OS file watch limit reached")
        return real(*given, **more)

    monkeypatch.setattr(watch, "watch", broken)
    monkeypatch.setattr(watch, "_LONGEST_PAUSE_S", 0.02)
    monkeypatch.setattr(watch, "_LOOK_EVERY_S", 0.01)
    watcher = Watcher(library, folder, lambda: None)
    watcher.begin()
    until(lambda: failures[0] > 4 and watcher.there)
    assert watcher.trouble == ""
    (folder / "new.jpg").write_bytes(small_jpeg.read_bytes())
    until(lambda: names(library) == ["new.jpg"])
    watcher.stop()


def test_a_folder_that_may_not_be_listed_is_waited_for(
    library: Library, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    denied, real = [True], Path.iterdir

    def iterdir(self: Path) -> Any:
        if denied and self == folder:
            raise PermissionError(13, "Permission denied")
        return real(self)

    monkeypatch.setattr(Path, "iterdir", iterdir)
    monkeypatch.setattr(watch, "watch", lambda *_, **__: iter(()))
    watcher = Watcher(library, folder, lambda: None)
    watcher.begin()
    until(lambda: "Permission denied" in watcher.trouble)
    assert watcher.is_alive
    denied.clear()
    watcher.stop()
    assert not watcher.is_alive
