"""The bare mosaic of RAW files, as stored, with the levels that tell its light.

A DNG's is read from its own tags (DNG 1.7; TIFF 6.0), so that it can be written back where it lay;
a maker's RAW by LibRaw.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import rawpy
import tifffile
from numpy.typing import NDArray

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.patching.restoring import MosaicLevels
from neatpatch.images.limits import Limits, check_pixels
from neatpatch.images.raster import BROKEN
from neatpatch.images.raw import UNREADABLE, raw_facts
from neatpatch.images.sniff import FileType
from neatpatch.images.stored import Picture
from neatpatch.images.transfer import Curve

_CFA, _REDUCED = 32803, 1
_PLAIN, _JPEG, _DEFLATE, _OLD_DEFLATE = 1, 7, 8, 32946
PACKINGS = (_PLAIN, _JPEG, _DEFLATE, _OLD_DEFLATE)
"""Compressions of a mosaic that lose nothing. A JPEG of a mosaic is a lossless one (DNG 1.7)."""
_SUBFILE, _PATTERN_SIZE, _TABLE = 254, 33421, 50712
_BLACK_SIZE, _BLACK_LEVEL, _WHITE_LEVEL, _ACTIVE_AREA = 50713, 50714, 50717, 50829
_FRACTIONS = (5, 10)
"""RATIONAL and SRATIONAL."""
_DEVELOP = "Develop it, and patch the developed picture."
_NO_MOSAIC = (
    f"it holds no plain mosaic of red, green and blue, and cannot be written as a sound DNG. "
    f"{_DEVELOP}"
)
_COLOURS = "RGBG"


def read_mosaic(path: Path, kind: FileType, limits: Limits) -> Picture:
    """The visible mosaic of a RAW file. Raises `UnusableFrameError` where there is no plain one."""
    found = _of_dng(path, limits) if kind == "dng" else _of_maker(path, limits)
    height, width = found.tones.shape
    return Picture(
        tones=found.tones,
        curve=_curve(found.levels),
        kind=kind,
        facts=replace(raw_facts(path, kind, width, height), path=str(path)),
        levels=found.levels,
        origin=found.origin,
    )


@dataclass(frozen=True)
class _Mosaic:
    tones: NDArray[np.uint16]
    levels: MosaicLevels
    origin: tuple[int, int] = (0, 0)


def mosaic_page(tif: Any) -> Any:
    """The page that holds a DNG's mosaic at full size. Raises `UnusableFrameError`."""
    first = tif.pages.first
    pages = [first, *(first.pages or ())]
    found = [p for p in pages if p.photometric == _CFA and not _number(p, _SUBFILE) & _REDUCED]
    if not found:
        raise UnusableFrameError(_NO_MOSAIC)
    return max(found, key=lambda p: p.imagewidth * p.imagelength)


def _of_dng(path: Path, limits: Limits) -> _Mosaic:
    with tifffile.TiffFile(path) as tif:
        page = mosaic_page(tif)
        check_pixels(page.imagewidth, page.imagelength, limits)
        _check(page)
        try:
            stored = page.asarray()
        except BROKEN as error:
            raise UnusableFrameError(UNREADABLE) from error
        if stored.ndim != 2 or stored.dtype not in (np.uint8, np.uint16):
            raise UnusableFrameError(_NO_MOSAIC)
        height, width = stored.shape
        area = _numbers(page, _ACTIVE_AREA) or [0, 0, height, width]
        top, left, bottom, right = (int(v) for v in area)
        if not (0 <= top < bottom <= height and 0 <= left < right <= width):
            raise UnusableFrameError(UNREADABLE)
        levels = _levels(page)
    tones = np.ascontiguousarray(stored[top:bottom, left:right]).astype(np.uint16, copy=False)
    return _Mosaic(tones, levels, (top, left))


def _check(page: Any) -> None:
    """Refuses what could not be written back as it was."""
    if page.compression not in PACKINGS:
        raise UnusableFrameError(f"its mosaic is packed with a loss. {_DEVELOP}")
    if _TABLE in page.tags:
        raise UnusableFrameError(f"its mosaic is stored by a table of tones. {_DEVELOP}")
    plain = page.samplesperpixel == 1 and page.planarconfig == 1
    if not plain or (_numbers(page, _PATTERN_SIZE) or [2, 2]) != [2, 2]:
        raise UnusableFrameError(_NO_MOSAIC)


def _levels(page: Any) -> MosaicLevels:
    whites = _numbers(page, _WHITE_LEVEL)
    white = min(whites) if whites else float((1 << int(page.bitspersample)) - 1)
    blacks = _numbers(page, _BLACK_LEVEL) or [0.0]
    rows, columns = (int(n) for n in _numbers(page, _BLACK_SIZE) or [1, 1])
    if len(blacks) == 4 and (rows, columns) == (1, 1):
        rows, columns = 2, 2
    if {rows, columns} <= {1, 2} and len(blacks) >= rows * columns:
        pattern = np.resize(blacks[: rows * columns], (rows, columns))
        black = np.tile(pattern, (2 // rows, 2 // columns))
    else:
        black = np.full((2, 2), float(np.mean(blacks)))
    return _checked(black, white)


def _checked(black: Any, white: float) -> MosaicLevels:
    if not (float(np.min(black)) >= 0 and float(np.max(black)) < white):
        raise UnusableFrameError(
            "its black and white levels contradict each other. Convert it to DNG again."
        )
    rows = [tuple(float(v) for v in row) for row in black]
    return MosaicLevels(black=((rows[0][0], rows[0][1]), (rows[1][0], rows[1][1])), white=white)


def _of_maker(path: Path, limits: Limits) -> _Mosaic:
    try:
        with rawpy.imread(str(path)) as raw:
            check_pixels(raw.sizes.width, raw.sizes.height, limits)
            mosaic = raw.raw_image_visible
            if mosaic is None or mosaic.ndim != 2 or mosaic.dtype != np.uint16:
                raise UnusableFrameError(_NO_MOSAIC)
            colours = pattern_of(raw)
            black = np.take(raw.black_level_per_channel, colours)
            white = float(raw.white_level or 65535)
            tones = mosaic.copy()
    except UnusableFrameError:
        raise
    except (rawpy.LibRawError, *BROKEN) as error:
        raise UnusableFrameError(UNREADABLE) from error
    return _Mosaic(tones, _checked(black, white))


def pattern_of(raw: Any) -> Any:
    """Numbers of the colours, two by two, from the visible part's first photosite on.

    Raises `UnusableFrameError` where the filters are others than red, green and blue in twos.
    """
    colours = np.asarray(raw.raw_colors_visible)
    own = colours[:2, :2]
    twos = np.tile(own, (3, 3))
    plain = raw.color_desc.decode() == _COLOURS and np.array_equal(colours[:6, :6], twos)
    if not plain or {_COLOURS[c] for c in own.flat} != set(_COLOURS):
        raise UnusableFrameError(_NO_MOSAIC)
    return own


def _curve(levels: MosaicLevels) -> Curve:
    """Light of each tone, to look at: by the mean of the black levels."""
    black = float(np.mean(levels.black))
    steps = np.arange(65536, dtype=np.float32)
    return np.asarray(np.clip((steps - black) / (levels.white - black), 0, 1), np.float32)


def _number(page: Any, tag: int) -> int:
    return int((_numbers(page, tag) or [0])[0])


def _numbers(page: Any, code: int) -> list[float]:
    """A tag's numbers; none without it. Fractions come as two numbers each, told by its type."""
    tag = page.tags.get(code)
    if tag is None:
        return []
    value = tag.value
    numbers = [float(v) for v in value] if isinstance(value, (tuple, list)) else [float(value)]
    if int(tag.dtype) in _FRACTIONS:
        return [a / b for a, b in zip(numbers[::2], numbers[1::2], strict=True) if b]
    return numbers
