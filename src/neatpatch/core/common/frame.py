"""A frame in memory: linear luminance and what the file tells about how it was taken."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
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
    serial: str = ""
    taken_at: str | None = None
    sensor_mm: tuple[float, float] | None = None
    bit_depth: int = 8
    jpeg_quality: float | None = None
    software: str | None = None
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class CodedLight:
    """Linear luminance kept as codes (height, width) and the light each of them stands for.

    A window of it is an array of light; the whole is a quarter of the size of one with codes of
    8 bits, half with codes of 16.
    """

    codes: NDArray[np.uint8] | NDArray[np.uint16]
    curve: Image

    @property
    def shape(self) -> tuple[int, int]:
        return self.codes.shape[0], self.codes.shape[1]

    @property
    def size(self) -> int:
        return self.codes.size

    def __getitem__(self, window: Any) -> Image:
        codes = np.ascontiguousarray(self.codes[window])
        if codes.dtype == np.uint16:
            return np.asarray(self.curve[codes], np.float32)
        light = np.empty(codes.shape, np.float32)
        if codes.size:
            cv2.LUT(codes, self.curve, light)
        return light


Light = Image | CodedLight


@dataclass(frozen=True, kw_only=True)
class Frame:
    """Linear luminance of the stored array (height, width), full scale 1.0, before any rotation.

    ``light`` is looked at window by window; ``luminance`` is the whole as one array. ``clipped``
    is the share of pixels with any channel at full scale. ``mosaic`` is true when the values are
    raw photosites of a colour filter array, balanced to one level.
    """

    light: Light
    facts: FrameFacts
    clipped: float = 0.0
    mosaic: bool = False

    @property
    def luminance(self) -> Image:
        return self.light[:] if isinstance(self.light, CodedLight) else self.light

    @property
    def shape(self) -> tuple[int, int]:
        return self.light.shape[0], self.light.shape[1]
