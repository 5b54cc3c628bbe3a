from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from neatpatch.core.errors import CancelledError
from neatpatch.images.read import read_frame
from neatpatch.images.tiles import TILE_PX, levels, write_tiles


def test_both_tones_have_every_tile(small_jpeg: Path, tmp_path: Path) -> None:
    frame = read_frame(small_jpeg)
    height, width = frame.shape
    folder = tmp_path / "derived"
    write_tiles(frame, small_jpeg, folder, lambda: None)
    top = levels(width, height)
    for tone in ("shot", "relief"):
        tiles = list((folder / tone / str(top)).glob("*.jpg"))
        assert len(tiles) == -(-width // TILE_PX) * -(-height // TILE_PX)
        with Image.open(folder / tone / "0" / "0_0.jpg") as smallest:
            assert smallest.size == (1, 1)
    with Image.open(folder / "relief.jpg") as thumb:
        assert max(thumb.size) == 480


def test_relief_is_flat_and_dark_at_a_speck(small_jpeg: Path, tmp_path: Path) -> None:
    write_tiles(read_frame(small_jpeg), small_jpeg, tmp_path / "d", lambda: None)
    with Image.open(tmp_path / "d" / "relief.jpg") as image:
        grey = np.asarray(image.convert("L")).astype(float)
    assert np.median(grey) == pytest.approx(127, abs=8)
    assert grey.min() < 60


def test_a_stopped_writing_leaves_no_folder(small_jpeg: Path, tmp_path: Path) -> None:
    def stop() -> None:
        raise CancelledError("stopped")

    with pytest.raises(CancelledError):
        write_tiles(read_frame(small_jpeg), small_jpeg, tmp_path / "d", stop)
    assert not (tmp_path / "d").exists()
