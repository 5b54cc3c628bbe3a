"""A disk that fails: each call fails once, nothing is lost, no thread dies, all is told."""

from __future__ import annotations

import errno
import os
import shutil
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.images.pictures import read_picture
from neatpatch.images.read import read_frame
from neatpatch.images.tiles import write_tiles
from neatpatch.images.writeback import write_patched
from neatpatch.services.frames.intake import ArrivedFile, accept_file
from neatpatch.services.safety.archive import verify
from neatpatch.services.safety.checking import check
from neatpatch.services.safety.keeping import BackupKeeper, BackupPlan
from neatpatch.services.watched import watching
from neatpatch.services.watched.watching import Watcher
from neatpatch.store.datafolder import Library

CODES = (errno.EIO, errno.ENOSPC, errno.EACCES, errno.EXDEV, errno.EPERM)
_CALLS: tuple[tuple[Any, str], ...] = (
    (os, "link"),
    (os, "replace"),
    (os, "fsync"),
    (os, "open"),
    (Path, "open"),
    (Path, "replace"),
    (Path, "rename"),
    (Path, "mkdir"),
    (Path, "chmod"),
    (Path, "write_bytes"),
    (Path, "stat"),
    (shutil, "copyfile"),
)


class Disk:
    """Calls to the disk below a folder, counted; the one at ``at`` fails with ``code``, once."""

    def __init__(self, below: Path) -> None:
        self.below, self.count, self.at, self.code = str(below), 0, -1, errno.EIO
        self.failed = ""

    def met(self, name: str, given: tuple[Any, ...]) -> None:
        if not any(str(part).startswith(self.below) for part in given[:2]):
            return
        self.count += 1
        if self.count == self.at:
            self.failed = name
            raise OSError(self.code, os.strerror(self.code))


@contextmanager
def failing(disk: Disk, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    with monkeypatch.context() as patch:
        for owner, name in _CALLS:
            real = getattr(owner, name)

            def call(*given: Any, _real: Any = real, _name: str = name, **more: Any) -> Any:
                disk.met(_name, given)
                return _real(*given, **more)

            patch.setattr(owner, name, call)
        yield


def each_call_fails_once(
    work: Callable[[Path], None],
    whole: Callable[[Path], None],
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> int:
    """Do the work again and again, each time with another call failing, until none is left to.

    The failure is told by an error, or the work does without; either way ``whole`` holds, and the
    work done once more succeeds. Gives how many calls failed.
    """
    for at in range(1, 400):
        root = tmp_path / f"run-{at}"
        root.mkdir()
        disk = Disk(root)
        disk.at, disk.code = at, CODES[at % len(CODES)]
        with failing(disk, monkeypatch):
            try:
                work(root)
            except (OSError, NeatPatchError) as error:
                told = str(error)
            else:
                told = "it did without"
        assert told
        whole(root)
        if not disk.failed:
            return at - 1
        work(root)
        whole(root)
        shutil.rmtree(root)
    raise AssertionError("it never ends")


def test_taking_in_a_frame(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    data = b"\xff\xd8 a picture"
    sha = sha256(data).hexdigest()

    def work(root: Path) -> None:
        library = Library(root / "data")
        arrived = library.originals.arriving()
        arrived.write_bytes(data)
        accept_file(library, ArrivedFile(arrived, sha, len(data)), "a.jpg")

    def whole(root: Path) -> None:
        if (root / "data" / "neatpatch.sqlite3").is_file():
            library = Library(root / "data")
            with library.database.read() as connection:
                rows = connection.execute("SELECT sha256 FROM frames").fetchall()
            for row in rows:
                assert library.originals.path(row["sha256"]).read_bytes() == data

    assert each_call_fails_once(work, whole, tmp_path, monkeypatch) >= 5


def test_tiles(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    picture = tmp_path / "two-tiles-wide.jpg"
    Image.fromarray(np.full((300, 400, 3), 128, np.uint8)).save(picture)
    frame = read_frame(picture)
    good = tmp_path / "good"
    write_tiles(frame, picture, good)
    names = sorted(str(p.relative_to(good)) for p in good.rglob("*.jpg"))

    def work(root: Path) -> None:
        write_tiles(frame, picture, root / "derived")

    def whole(root: Path) -> None:
        folder = root / "derived"
        if folder.exists():
            assert sorted(str(p.relative_to(folder)) for p in folder.rglob("*.jpg")) == names
        assert [p.name for p in root.iterdir()] in ([], ["derived"])

    assert each_call_fails_once(work, whole, tmp_path, monkeypatch) > len(names)


def test_patched_copies(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    source = tmp_path / "a.png"
    Image.fromarray(np.full((100, 100, 3), 120, np.uint8)).save(source)
    picture = read_picture(source)

    def work(root: Path) -> None:
        (root / "copy.png").unlink(missing_ok=True)
        write_patched(source, picture, [], root / "copy.png")

    def whole(root: Path) -> None:
        left = [p.name for p in root.iterdir()]
        assert left in ([], ["copy.png"])
        if left:
            assert np.array_equal(read_picture(root / "copy.png").whole, picture.whole)

    assert each_call_fails_once(work, whole, tmp_path, monkeypatch) >= 3


def test_backups(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def work(root: Path) -> None:
        library = Library(root / "data")
        (root / "safe").mkdir(exist_ok=True)
        keeper = BackupKeeper(library)
        keeper.choose(BackupPlan(folder=str(root / "safe"), daily=False))
        keeper.take()

    def whole(root: Path) -> None:
        for archive in (root / "safe").glob("*.zip"):
            verify(archive)
        if (root / "data" / "neatpatch.sqlite3").is_file():
            Library(root / "data")
            assert check(root / "data").ok

    assert each_call_fails_once(work, whole, tmp_path, monkeypatch) >= 8


def test_the_folder_watcher_goes_on_and_takes_the_frame_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, small_jpeg: Path
) -> None:
    monkeypatch.setattr(watching, "SETTLED_S", 0.1)
    for at in range(1, 8):
        root = tmp_path / f"run-{at}"
        card = root / "card"
        card.mkdir(parents=True)
        library = Library(root / "data")
        disk = Disk(root / "data" / "originals")
        watcher = Watcher(library, card, lambda: None)
        watcher.start()
        watcher.ready.wait()
        disk.at, disk.code = at, CODES[at % len(CODES)]
        with failing(disk, monkeypatch):
            (card / "new.jpg").write_bytes(small_jpeg.read_bytes())
            while watcher.taken == 0:
                assert watcher.is_alive
                time.sleep(0.02)
        watcher.stop()
        with library.database.read() as connection:
            assert connection.execute("SELECT count(*) FROM frames").fetchone()[0] == 1
        assert check(root / "data").ok
