"""Deep-zoom tiles of a frame in two tones: as shot, and relief.

Relief is the frame divided by its own background, so that vignetting is gone and faint losses
show; the page raises the gain further.
"""

from __future__ import annotations

import math
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from neatpatch.core.background import Background, estimate_background
from neatpatch.core.frame import Frame

Tone = Literal["shot", "relief"]
TONES: tuple[Tone, ...] = ("shot", "relief")
TILE_PX = 512
RELIEF_GAIN = 4.0
_QUALITY = 91
_THUMB_PX = 480
_BAND = 1024
Picture = NDArray[np.uint8]


def write_tiles(frame: Frame, original: Path, folder: Path, alive: Callable[[], None]) -> None:
    """Write both pyramids and a thumbnail into ``folder``, which appears only when complete.

    ``alive`` is called between tiles; it may raise to stop.
    """
    partial = folder.with_name(folder.name + ".tmp")
    shutil.rmtree(partial, ignore_errors=True)
    partial.mkdir(parents=True)
    relief = _relief(frame, estimate_background(frame.light))
    _write_pyramid(relief, partial / "relief", alive)
    _write_thumb(_deepened(relief), partial / "relief.jpg")
    shot = _as_shot(frame, original)
    _write_pyramid(shot, partial / "shot", alive)
    _write_thumb(shot, partial / "shot.jpg")
    shutil.rmtree(folder, ignore_errors=True)
    partial.replace(folder)


def levels(width: int, height: int) -> int:
    """Number of the full-size level; level 0 is one pixel."""
    return math.ceil(math.log2(max(width, height, 1)))


def _relief(frame: Frame, background: Background) -> Picture:
    out = np.empty(frame.shape, np.uint8)
    for top in range(0, frame.shape[0], _BAND):
        rows = min(_BAND, frame.shape[0] - top)
        ground = background.window(top, 0, rows, frame.shape[1])
        ratio = frame.light[top : top + rows] / ground
        out[top : top + rows] = np.clip(127.5 + (ratio - 1) * 127.5 * RELIEF_GAIN, 0, 255)
    return out


def _as_shot(frame: Frame, original: Path) -> Picture:
    if not frame.mosaic:
        with Image.open(original) as image:
            if image.mode in ("RGB", "L", "RGBA", "P", "CMYK", "LA"):
                rgb = np.asarray(image.convert("RGB"))
                return np.ascontiguousarray(rgb[..., ::-1])
    tones = np.sqrt(np.clip(frame.luminance, 0, 1))
    return np.asarray(tones * 255, np.uint8)


def _write_pyramid(picture: Picture, folder: Path, alive: Callable[[], None]) -> None:
    height, width = picture.shape[:2]
    for level in range(levels(width, height), -1, -1):
        target = folder / str(level)
        target.mkdir(parents=True)
        for row in range(0, picture.shape[0], TILE_PX):
            alive()
            for column in range(0, picture.shape[1], TILE_PX):
                tile = picture[row : row + TILE_PX, column : column + TILE_PX]
                name = target / f"{column // TILE_PX}_{row // TILE_PX}.jpg"
                cv2.imwrite(str(name), tile, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
        if level:
            half = (
                max(1, math.ceil(picture.shape[1] / 2)),
                max(1, math.ceil(picture.shape[0] / 2)),
            )
            picture = np.asarray(cv2.resize(picture, half, interpolation=cv2.INTER_AREA), np.uint8)


def _deepened(picture: Picture) -> Picture:
    """Darkest tone around each pixel, so that specks survive being made small."""
    reach = max(1, round(max(picture.shape) / _THUMB_PX / 2))
    smooth = cv2.GaussianBlur(picture, (0, 0), reach)
    return np.asarray(
        cv2.erode(smooth, np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)), np.uint8
    )


def _write_thumb(picture: Picture, path: Path) -> None:
    scale = _THUMB_PX / max(picture.shape[:2])
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    cv2.imwrite(str(path), small, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
