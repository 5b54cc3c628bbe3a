"""A picture as its file stores it: tones, and the light that each of them stands for."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, binned
from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.common.frame import Image as Light
from neatpatch.core.patching.restoring import MosaicLevels
from neatpatch.images.jpeg_blocks import JpegBlocks
from neatpatch.images.sniff import FileType
from neatpatch.images.transfer import Curve

Tones = NDArray[np.uint8] | NDArray[np.uint16]

_WEIGHTS = np.array([0.25, 0.5, 0.25], np.float32)
"""As for frames: photosites in a colour filter array."""
_STRIP_ROWS = 256


@dataclass(frozen=True, kw_only=True)
class Picture:
    """Stored tones (height, width) or (height, width, 3 or 4), and the light each stands for. Of a
    JPEG that is to be written, its blocks, decoded where they are asked.

    ``levels``: of a mosaic, whose photosites are seen two by two; ``origin``: row and column of its
    first photosite in what the file stores.
    """

    tones: Tones | JpegBlocks
    curve: Curve
    kind: FileType
    facts: FrameFacts
    levels: MosaicLevels | None = None
    origin: tuple[int, int] = (0, 0)

    @property
    def mosaic(self) -> bool:
        """Whether it is the bare mosaic of a colour filter array."""
        return self.levels is not None

    @property
    def shape(self) -> tuple[int, int]:
        return self.tones.shape[0], self.tones.shape[1]

    @property
    def whole(self) -> Tones:
        """All tones."""
        return self.tones[:, :]

    def light(self, step: int) -> Light:
        """Linear luminance, means over squares of ``step`` pixels.

        Of 8-bit colours that of their luma, as a glance has it: a shadow dims all three alike, and
        luma by as much.
        """
        height, width = (n // step for n in self.shape)
        if isinstance(self.tones, JpegBlocks):
            side = math.gcd(step, 8)
            seen = cv2.LUT(self.tones.luma(side), self.curve)
            return binned(np.asarray(seen, np.float32), step // side)[:height, :width]
        out = np.empty((height, width), np.float32)
        rows = max(1, _STRIP_ROWS // step)
        for top in range(0, height, rows):
            bottom = min(top + rows, height)
            strip = self._linear(self.tones[top * step : bottom * step])
            out[top:bottom] = binned(strip, step)[:, :width]
        return out

    def light_around(self, at: tuple[int, int], half: int, step: int) -> tuple[Light, Mask]:
        """Linear luminance, means over squares of ``step`` pixels, of ``half`` squares to each side
        of one (x, y), zero outside of the picture, and where they are whole.
        """
        side = 2 * half + 1
        light, inside = np.zeros((side, side), np.float32), np.zeros((side, side), np.bool_)
        height, width = (n // step for n in self.shape)
        (x, y), (top, left) = at, (max(0, at[1] - half), max(0, at[0] - half))
        bottom, right = min(height, y + half + 1), min(width, x + half + 1)
        if top < bottom and left < right:
            own = np.s_[top - y + half : bottom - y + half, left - x + half : right - x + half]
            tones = self.tones[top * step : bottom * step, left * step : right * step]
            light[own] = binned(self._linear(tones), step)
            inside[own] = True
        return light, inside

    def _linear(self, tones: Tones) -> Light:
        """Luminance of some rows."""
        if tones.dtype == np.uint8:
            plain: Any = np.ascontiguousarray(tones[..., :3] if tones.ndim == 3 else tones)
            luma = cv2.cvtColor(plain, cv2.COLOR_RGB2GRAY) if plain.ndim == 3 else plain
            return np.asarray(cv2.LUT(luma, self.curve), np.float32)
        light: Any = self.curve[tones]
        if light.ndim == 3:
            light = cv2.transform(np.ascontiguousarray(light[..., :3]), _WEIGHTS[None])
        return np.ascontiguousarray(light, np.float32)
