from __future__ import annotations

import errno
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from neatpatch.images.read import read_frame
from neatpatch.images.tiles import TILE_PX, levels, write_tiles


def test_both_tones_have_every_tile(small_jpeg: Path, tmp_path: Path) -> None:
    frame = read_frame(small_jpeg)
    height, width = frame.shape
    folder = tmp_path / "derived"
    write_tiles(frame, small_jpeg, folder)
    top = levels(width, height)
    for tone in ("shot", "relief"):
        tiles = list((folder / tone / str(top)).glob("*.jpg"))
        assert len(tiles) == -(-width // TILE_PX) * -(-height // TILE_PX)
        with Image.open(folder / tone / "0" / "0_0.jpg") as smallest:
            assert smallest.size == (1, 1)
    with Image.open(folder / "relief.jpg") as thumb:
        assert max(thumb.size) == 480


def test_relief_is_flat_and_dark_at_a_speck(small_jpeg: Path, tmp_path: Path) -> None:
    write_tiles(read_frame(small_jpeg), small_jpeg, tmp_path / "d")
    with Image.open(tmp_path / "d" / "relief.jpg") as image:
        grey = np.asarray(image.convert("L")).astype(float)
    assert np.median(grey) == pytest.approx(127, abs=8)
    assert grey.min() < 60


def test_a_writing_that_fails_leaves_no_folder(
    small_jpeg: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    frame = read_frame(small_jpeg)

    def full(*_given: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(OSError, match="No space"):
        write_tiles(frame, small_jpeg, tmp_path / "out" / "d")
    assert list((tmp_path / "out").iterdir()) == []


def test_two_writers_of_one_folder_do_not_collide(small_jpeg: Path, tmp_path: Path) -> None:
    frame = read_frame(small_jpeg)
    target = tmp_path / "out" / "d"
    with ThreadPoolExecutor(4) as pool:
        done = [pool.submit(write_tiles, frame, small_jpeg, target) for _ in range(4)]
    for one in done:
        one.result()
    assert [p.name for p in (tmp_path / "out").iterdir()] == ["d"]
    assert (target / "relief.jpg").is_file()


def test_bands_of_colour_are_put_together_as_they_were(tmp_path: Path) -> None:
    across = np.arange(1100, dtype=np.uint8)[:, None] // np.uint8(5)
    tones = np.stack([np.broadcast_to(across, (1100, 700)).copy()] * 3, axis=2)
    tones[..., 2] = 90
    path = tmp_path / "bands.png"
    Image.fromarray(tones).save(path)
    write_tiles(read_frame(path), path, tmp_path / "d")
    with Image.open(tmp_path / "d" / "shot" / "10" / "0_0.jpg") as half:
        seen = np.asarray(half.convert("RGB")).astype(int)
    wanted = tones[::2, ::2].astype(int)[: seen.shape[0], : seen.shape[1]]
    assert np.median(np.abs(seen - wanted)) <= 2


def test_a_disk_that_fills_up_leaves_no_folder_with_holes(
    small_jpeg: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    frame = read_frame(small_jpeg)
    real, written = Path.write_bytes, [0]

    def fills_up(self: Path, data: bytes) -> int:
        written[0] += 1
        if written[0] > 9:
            raise OSError(errno.ENOSPC, "No space left on device")
        return real(self, data)

    monkeypatch.setattr(Path, "write_bytes", fills_up)
    with pytest.raises(OSError, match="No space left"):
        write_tiles(frame, small_jpeg, tmp_path / "derived")
    assert list(tmp_path.iterdir()) == []
    monkeypatch.setattr(Path, "write_bytes", real)
    write_tiles(frame, small_jpeg, tmp_path / "derived")
    top = levels(frame.shape[1], frame.shape[0])
    wanted = -(-frame.shape[1] // TILE_PX) * -(-frame.shape[0] // TILE_PX)
    assert len(list((tmp_path / "derived" / "relief" / str(top)).iterdir())) == wanted
