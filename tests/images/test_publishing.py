"""Copies get their names on any disk: never in place of a file, whole or not at all."""

from __future__ import annotations

import errno
import os
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from neatpatch.images.pictures import read_picture
from neatpatch.images.writeback import clear_leftovers, publish, write_patched
from tests.disks import exfat_disk

NO_LINKS = (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EXDEV, errno.EMLINK)


@pytest.fixture
def source(tmp_path: Path) -> Path:
    path = tmp_path / "a.png"
    Image.fromarray(np.full((100, 100, 3), 120, np.uint8)).save(path)
    return path


def without_links(monkeypatch: pytest.MonkeyPatch, code: int) -> None:
    def refuse(*_given: object, **_more: object) -> None:
        raise OSError(code, os.strerror(code))

    monkeypatch.setattr(os, "link", refuse)


def test_a_card_without_hard_links_takes_copies(source: Path, tmp_path: Path) -> None:
    with exfat_disk(tmp_path) as card:
        (card / "probe").write_bytes(b"x")
        with pytest.raises(OSError, match=r"not permitted|not supported|not implemented"):
            os.link(card / "probe", card / "linked")
        picture = read_picture(source)
        write_patched(source, picture, [], card / "copy.png")
        assert (card / "copy.png").read_bytes()
        assert np.array_equal(read_picture(card / "copy.png").whole, picture.whole)
        with pytest.raises(FileExistsError):
            write_patched(source, picture, [], card / "copy.png")
        assert sorted(p.name for p in card.iterdir()) == ["copy.png", "probe"]


@pytest.mark.parametrize("code", NO_LINKS)
def test_without_links_the_name_is_claimed_and_never_taken_twice(
    source: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, code: int
) -> None:
    without_links(monkeypatch, code)
    out = tmp_path / "out"
    out.mkdir()
    write_patched(source, read_picture(source), [], out / "copy.png")
    whole = (out / "copy.png").read_bytes()
    (out / "mine.png").write_text("mine")
    with pytest.raises(FileExistsError):
        write_patched(source, read_picture(source), [], out / "mine.png")
    assert (out / "mine.png").read_text() == "mine"
    assert (out / "copy.png").read_bytes() == whole
    assert len(list(out.iterdir())) == 2


@pytest.mark.parametrize("code", [errno.EIO, errno.ENOSPC, errno.EACCES])
def test_any_other_trouble_is_told_and_leaves_nothing(
    source: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, code: int
) -> None:
    without_links(monkeypatch, code)
    out = tmp_path / "out"
    out.mkdir()
    with pytest.raises(OSError, match=os.strerror(code)):
        write_patched(source, read_picture(source), [], out / "copy.png")
    assert list(out.iterdir()) == []


def test_a_claim_whose_file_never_came_is_let_go(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    without_links(monkeypatch, errno.EPERM)

    def refuse(*_given: object) -> None:
        raise OSError(errno.EIO, "the card was pulled")

    monkeypatch.setattr(os, "replace", refuse)
    beside = tmp_path / ".a.jpg.part"
    beside.write_bytes(b"whole")
    with pytest.raises(OSError, match="pulled"):
        publish(beside, tmp_path / "a.jpg")
    assert not (tmp_path / "a.jpg").exists()


def test_what_a_killed_writer_left_is_cleared_and_nothing_else(tmp_path: Path) -> None:
    gone = 2**22 - 3  # beyond the numbers that processes get here
    (tmp_path / f".a.jpg.{gone}.part").write_bytes(b"half")
    (tmp_path / "a.jpg").touch()
    (tmp_path / f".b.jpg.{gone}.part").write_bytes(b"half")
    (tmp_path / "b.jpg").write_bytes(b"mine")
    (tmp_path / f".c.jpg.{os.getpid()}.part").write_bytes(b"being written")
    clear_leftovers(tmp_path)
    left = sorted(p.name for p in tmp_path.iterdir())
    assert left == [f".c.jpg.{os.getpid()}.part", "b.jpg"]
