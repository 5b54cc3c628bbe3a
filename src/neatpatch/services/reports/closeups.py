"""Spots enlarged, from the tiles of their frames."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from neatpatch.core.common.records import FrameRecord
from neatpatch.images.tiles import Box, read_window

_LEAST_PX, _MOST_PX = 48, 640
_WIDTHS = 3.0
"""Shadows fill a third of their picture."""
_PRINTED_PX = 360
"""Of a picture that is 30 mm wide on paper: 300 dots an inch."""
_GAIN = 1.5
"""Relief is already four times as strong as the frame."""


@dataclass(frozen=True)
class Source:
    """A frame whose spots are shown: its tiles, and how it lies."""

    folder: Path
    record: FrameRecord


def closeup(source: Source, at: tuple[float, float], outer_px: float) -> bytes | None:
    """A PNG of a place, in relief and upright; None where the frame's tiles are not there."""
    side = int(np.clip(_WIDTHS * outer_px, _LEAST_PX, _MOST_PX))
    left, top = (round(v - side / 2) for v in at)
    shape = source.record.height_px, source.record.width_px
    picture = read_window(source.folder, "relief", shape, Box(left, top, side))
    if picture is None:
        return None
    deeper = np.clip(127.5 + (picture.astype(np.float32) - 127.5) * _GAIN, 0, 255)
    turned = _turned(np.asarray(deeper, np.uint8), source.record.orientation)
    way = cv2.INTER_CUBIC if side < _PRINTED_PX else cv2.INTER_AREA
    large = cv2.resize(turned, (_PRINTED_PX, _PRINTED_PX), interpolation=way)
    done, data = cv2.imencode(".png", large)
    return data.tobytes() if done else None


def _turned(picture: np.ndarray, orientation: int) -> np.ndarray:
    """A picture as seen upright (EXIF orientation 1 to 8)."""
    if orientation >= 5:
        picture = np.swapaxes(picture, 0, 1)
    if orientation in (2, 3, 6, 7):
        picture = picture[:, ::-1]
    if orientation in (3, 4, 7, 8):
        picture = picture[::-1]
    return np.ascontiguousarray(picture)
