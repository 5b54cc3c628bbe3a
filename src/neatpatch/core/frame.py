"""A frame in memory: linear luminance and what the file tells about how it was taken."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.float32]


@dataclass(frozen=True, kw_only=True)
class FrameFacts:
    """What is known of a frame without looking at its tones. Unknown values are None."""

    path: str = ""
    sha256: str = ""
    format: str = ""
    width_px: int
    height_px: int
    orientation: int = 1
    f_number: float | None = None
    iso: int | None = None
    exposure_s: float | None = None
    focal_length_mm: float | None = None
    focal_length_35mm: float | None = None
    camera: str | None = None
    taken_at: str | None = None
    sensor_mm: tuple[float, float] | None = None
    bit_depth: int = 8
    jpeg_quality: float | None = None
    software: str | None = None
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Frame:
    """Linear luminance of the stored array (height, width), full scale 1.0, before any rotation.

    ``clipped`` is the share of pixels with any channel at full scale. ``mosaic`` is true when the
    values are raw photosites of a colour filter array, balanced to one level.
    """

    luminance: Image
    facts: FrameFacts
    clipped: float = 0.0
    mosaic: bool = False

    @property
    def shape(self) -> tuple[int, int]:
        return self.luminance.shape[0], self.luminance.shape[1]
