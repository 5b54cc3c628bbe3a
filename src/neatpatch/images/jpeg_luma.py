"""A JPEG's luma by a decoder that tells what it met on its way.

Others fill holes, flipped bits and missing ends with grey and say nothing; spots are then measured
that never were. Here any warning of the decoder is an error.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import simplejpeg
from numpy.typing import NDArray

from neatpatch.core.common.errors import UnusableFrameError

_SMALLEST = 8
"""Decoded at an eighth of its size: all of the file is read, but hardly anything is drawn."""


def damaged_jpeg() -> UnusableFrameError:
    """What is said of a JPEG that its decoder has any doubt about."""
    return UnusableFrameError("the JPEG file is damaged or cut short. Copy it from the card again.")


def jpeg_luma(path: Path) -> NDArray[np.uint8]:
    """Tones (height, width) of the luma plane. Raises `UnusableFrameError` for damage."""
    return _decoded(path.read_bytes())


def small_luma(path: Path, at_least: tuple[int, int]) -> NDArray[np.uint8]:
    """The same at the smallest scale (1, 1/2, 1/4, 1/8) of at least (height, width)."""
    return _decoded(path.read_bytes(), at_least)


def require_undamaged(path: Path, *, printing: bool = False) -> None:
    """Read a JPEG through without drawing it. ``printing``: its colours are CMYK.

    Raises `UnusableFrameError` for damage.
    """
    data = path.read_bytes()
    try:
        simplejpeg.decode_jpeg(
            data,
            colorspace="CMYK" if printing else "GRAY",
            min_height=1,
            min_width=1,
            strict=True,
        )
    except ValueError as error:
        raise damaged_jpeg() from error


def _decoded(data: bytes, at_least: tuple[int, int] = (0, 0)) -> NDArray[np.uint8]:
    try:
        found = simplejpeg.decode_jpeg(
            data,
            colorspace="GRAY",
            min_height=at_least[0],
            min_width=at_least[1],
            strict=True,
        )
    except ValueError as error:
        raise damaged_jpeg() from error
    return np.asarray(found[..., 0], np.uint8)
