"""Deep-zoom tiles of a frame in two tones: as shot, and relief.

Relief is the frame divided by its own background, so that vignetting is gone and faint losses
show; the page raises the gain further. Pictures are gone through band by band: at no time is more
of one in memory than a band of it and its half-size copy.
"""

from __future__ import annotations

import errno
import math
import shutil
import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from neatpatch.core.common.frame import Frame
from neatpatch.core.measure.background import Background, estimate_background

Tone = Literal["shot", "relief"]
TILE_PX = 512
RELIEF_GAIN = 4.0
_QUALITY = 91
_THUMB_PX = 480
_LARGE_PX = 60_000_000
_SMALL_PX = 4 * _THUMB_PX
_PLAIN_MODES = ("RGB", "L", "RGBA", "P", "CMYK", "LA")
Picture = NDArray[np.uint8]
Rows = Callable[[int, int], Picture]
"""Rows of a picture from one to another, the second left out."""


@dataclass(frozen=True)
class Box:
    """A square of pixels."""

    left: int
    top: int
    side: int


def write_tiles(frame: Frame, original: Path, folder: Path) -> None:
    """Write both pyramids and a thumbnail into ``folder``, which appears only when complete.

    Both are written at once, of large pictures one after the other. Two processes may write the
    same folder: each works beside it, and the first to end wins.
    """
    partial = folder.with_name(f"{folder.name}.{uuid.uuid4().hex}.tmp")
    partial.mkdir(parents=True)
    try:
        both = 2 if frame.light.size < _LARGE_PX else 1
        with ThreadPoolExecutor(both) as pool:
            for done in (
                pool.submit(_write_relief, frame, partial),
                pool.submit(_write_shot, frame, original, partial),
            ):
                done.result()
        if not folder.exists():
            partial.rename(folder)
    except OSError:
        if not folder.exists():
            raise
    finally:
        shutil.rmtree(partial, ignore_errors=True)


def levels(width: int, height: int) -> int:
    """Number of the full-size level; level 0 is one pixel."""
    return math.ceil(math.log2(max(width, height, 1)))


def _write_relief(frame: Frame, partial: Path) -> None:
    rows = _relief_rows(frame, estimate_background(frame.light))
    small = _write_pyramid(rows, frame.shape, partial / "relief")
    _write_thumb(_deepened(small), partial / "relief.jpg")


def _relief_rows(frame: Frame, background: Background) -> Rows:
    def rows(top: int, bottom: int) -> Picture:
        ground = background.window(top, 0, bottom - top, frame.shape[1])
        ratio = frame.light[top:bottom] / ground
        return np.asarray(np.clip(127.5 + (ratio - 1) * 127.5 * RELIEF_GAIN, 0, 255), np.uint8)

    return rows


def _write_shot(frame: Frame, original: Path, partial: Path) -> None:
    _write_thumb(_write_shot_pyramid(frame, original, partial / "shot"), partial / "shot.jpg")


def _write_shot_pyramid(frame: Frame, original: Path, folder: Path) -> Picture:
    if not frame.mosaic:
        with Image.open(original) as image:
            if image.mode in _PLAIN_MODES:
                image.load()
                return _write_pyramid(_colour_rows(image), frame.shape, folder)

    def rows(top: int, bottom: int) -> Picture:
        return np.asarray(np.sqrt(np.clip(frame.light[top:bottom], 0, 1)) * 255, np.uint8)

    return _write_pyramid(rows, frame.shape, folder)


def _colour_rows(image: Image.Image) -> Rows:
    def rows(top: int, bottom: int) -> Picture:
        strip = image.crop((0, top, image.width, bottom))
        if image.mode == "L":
            return np.asarray(strip)
        return np.ascontiguousarray(np.asarray(strip.convert("RGB"))[..., ::-1])

    return rows


def _write_pyramid(rows: Rows, shape: tuple[int, int], folder: Path) -> Picture:
    """Write all levels; gives the largest that is small enough to make a thumbnail of."""
    small = rows(0, shape[0]) if max(shape) < _SMALL_PX else None
    for level in range(levels(shape[1], shape[0]), -1, -1):
        target = folder / str(level)
        target.mkdir(parents=True)
        half = _write_level(rows, shape, target)
        if small is None and max(half.shape[:2]) < _SMALL_PX:
            small = half
        rows, shape = _rows_of(half), (half.shape[0], half.shape[1])
    return half if small is None else small


def _rows_of(picture: Picture) -> Rows:
    return lambda top, bottom: picture[top:bottom]


def _write_level(rows: Rows, shape: tuple[int, int], target: Path) -> Picture:
    """Write one level's tiles, band by band; gives the picture at half its size."""
    height, width = shape
    half: Picture | None = None
    for row, top in enumerate(range(0, height, TILE_PX)):
        band = rows(top, min(height, top + TILE_PX))
        for column, left in enumerate(range(0, width, TILE_PX)):
            tile = band[:, left : left + TILE_PX]
            _write_jpeg(target / f"{column}_{row}.jpg", tile)
        size = _halved(width), _halved(band.shape[0])
        small = np.asarray(cv2.resize(band, size, interpolation=cv2.INTER_AREA), np.uint8)
        if half is None:
            half = np.empty((_halved(height), *small.shape[1:]), np.uint8)
        half[top // 2 : top // 2 + small.shape[0]] = small
    assert half is not None
    return half


def _halved(length: int) -> int:
    return max(1, math.ceil(length / 2))


def _deepened(picture: Picture) -> Picture:
    """Darkest tone around each pixel, so that specks survive being made small."""
    reach = max(1, round(max(picture.shape) / _THUMB_PX / 2))
    smooth = cv2.GaussianBlur(picture, (0, 0), reach)
    return np.asarray(
        cv2.erode(smooth, np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)), np.uint8
    )


def _write_thumb(picture: Picture, path: Path) -> None:
    scale = min(1.0, _THUMB_PX / max(picture.shape[:2]))
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    _write_jpeg(path, small)


def _write_jpeg(path: Path, picture: NDArray[Any]) -> None:
    """Raises `OSError` where the disk does not take it: OpenCV's own writer only gives False."""
    done, data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
    if not done:
        raise OSError(errno.EINVAL, "the tile could not be coded")
    path.write_bytes(data.tobytes())


def read_window(folder: Path, tone: Tone, shape: tuple[int, int], box: Box) -> Picture | None:
    """A part of a frame in full size from its tiles; None where they are not all there.

    ``folder``: that of `write_tiles`, ``shape``: height and width of the frame. What of the box
    lies outside of the frame repeats its border.
    """
    level = folder / tone / str(levels(shape[1], shape[0]))
    rows = np.clip(np.arange(box.top, box.top + box.side), 0, shape[0] - 1)
    columns = np.clip(np.arange(box.left, box.left + box.side), 0, shape[1] - 1)
    window: Picture | None = None
    for row in range(rows[0] // TILE_PX, rows[-1] // TILE_PX + 1):
        for column in range(columns[0] // TILE_PX, columns[-1] // TILE_PX + 1):
            tile = cv2.imread(str(level / f"{column}_{row}.jpg"), cv2.IMREAD_UNCHANGED)
            if tile is None:
                return None
            if window is None:
                window = np.zeros((box.side, box.side, *tile.shape[2:]), np.uint8)
            y, x = rows // TILE_PX == row, columns // TILE_PX == column
            part = tile[rows[y] % TILE_PX][:, columns[x] % TILE_PX]
            window[np.ix_(y, x)] = part
    return window
