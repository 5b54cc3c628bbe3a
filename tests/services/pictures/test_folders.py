"""Folders of pictures: gone through within bounds; what vanishes meanwhile ends nothing."""

from __future__ import annotations

import shutil
import time
from pathlib import Path
from types import SimpleNamespace

import pytest
from PIL import Image

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.services.pictures import folders
from neatpatch.services.pictures.arrivals import arrivals_in
from neatpatch.services.pictures.folders import copy_name, pictures_in, require_room
from neatpatch.services.pictures.reading import facts_of, read_all
from tests import dusty_pictures as dusty
from tests.images.test_mosaics import as_makers_raw


def many(folder: Path, count: int) -> Path:
    folder.mkdir()
    for number in range(count):
        (folder / f"{number}.jpg").write_bytes(b"\xff\xd8")
    return folder


def test_too_many_pictures_are_refused_at_once(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(folders, "MOST_PICTURES", 10)
    assert len(pictures_in([many(tmp_path / "few", 10)])) == 10
    with pytest.raises(BadArgumentError, match="more than 10 pictures"):
        pictures_in([many(tmp_path / "many", 11)])


def test_a_folder_without_end_is_given_up(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = many(tmp_path / "home", 40)
    monkeypatch.setattr(folders, "_MOST_ENTRIES", 20)
    with pytest.raises(BadArgumentError, match="too much in it"):
        pictures_in([folder])
    monkeypatch.setattr(folders, "_MOST_ENTRIES", 1000)
    clock = iter(range(0, 10_000, 4))
    monkeypatch.setattr(time, "monotonic", lambda: next(clock))
    with pytest.raises(BadArgumentError, match="too much in it"):
        pictures_in([folder])


@pytest.mark.parametrize("folder", ["/", "/proc", "/proc/self", "/sys", "/dev"])
def test_what_the_system_keeps_for_itself_is_refused(folder: str) -> None:
    with pytest.raises(BadArgumentError, match="belongs to the system"):
        pictures_in([Path(folder)])


def test_a_ring_of_links_is_not_followed(tmp_path: Path) -> None:
    folder = many(tmp_path / "ring", 2)
    (folder / "again").symlink_to(folder, target_is_directory=True)
    assert [str(below) for _, below in pictures_in([folder])] == ["0.jpg", "1.jpg"]


def shots(folder: Path, count: int) -> list[Path]:
    found = []
    for day in range(1, count + 1):
        image = Image.new("RGB", (600, 400), (120, 120, 120))
        notes = image.getexif()
        more = notes.get_ifd(0x8769)
        more[33437], more[36867] = 16.0, f"2026:01:{day:02d} 10:00:00"
        found.append(folder / f"{day}.jpg")
        image.save(found[-1], exif=notes)
    return found


def test_a_picture_that_vanishes_is_listed_and_the_search_goes_on(tmp_path: Path) -> None:
    pictures = shots(tmp_path, 3)
    facts, skipped = facts_of(pictures, lambda *_: None)
    assert (len(facts), skipped) == (3, [])
    pictures[1].unlink()
    reads = read_all(facts, tmp_path / "work", (400, 600), None, lambda *_: None)
    assert [bool(read.why) for read in reads] == [False, True, False]
    assert "could not be read" in reads[1].why


def test_a_whole_search_lists_what_vanished_before_and_between(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    pictures = [*dusty.folder_of_pictures(tmp_path / "in", 4).iterdir()]
    gone = tmp_path / "in" / "never.jpg"
    found = arrivals_in([*pictures, gone], tmp_path / "work", dusty.SENSOR_MM)
    assert [Path(s.path).name for s in found.frames_skipped] == ["never.jpg"]
    assert found.frames_used == 4


def test_copies_that_have_no_room_are_not_begun(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    sources = [tmp_path / "a.jpg", tmp_path / "gone.jpg"]
    sources[0].write_bytes(bytes(2_000_000))
    out = tmp_path / "not" / "there" / "yet"
    require_room(sources, out)
    monkeypatch.setattr(shutil, "disk_usage", lambda _: SimpleNamespace(free=2_100_000))
    with pytest.raises(BadArgumentError, match="need about 2 MB, and 2 MB are free"):
        require_room(sources, out)
    assert not out.exists()


def test_a_raw_s_copy_is_called_a_dng(tmp_path: Path, dusty_dng: Path) -> None:
    raw = as_makers_raw(dusty_dng, tmp_path / "p.raw")
    assert copy_name(raw, Path("day/p.raw")) == Path("day/p.dng")
    assert copy_name(dusty_dng, Path("p.dng")) == Path("p.dng")
