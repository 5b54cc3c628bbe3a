"""Ordinary pictures: their stored tones to mend, or their light at a reduced size to look at."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, TypeVar

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from neatpatch.core.common.errors import NoMemoryError, UnusableFrameError
from neatpatch.core.common.filters import Mask, binned
from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.common.frame import Image as Light
from neatpatch.core.common.parallel import run_parallel
from neatpatch.images.jpeg_blocks import JpegBlocks
from neatpatch.images.jpeg_luma import require_undamaged, small_luma
from neatpatch.images.limits import DEFAULT_LIMITS, Limits, check_bytes, check_pixels
from neatpatch.images.quiet import quiet
from neatpatch.images.raster import (
    BROKEN,
    copied_out,
    damaged,
    picture_facts,
    tiff_facts,
    upright_tones,
)
from neatpatch.images.sniff import FileType, sniff
from neatpatch.images.transfer import Curve, curve_for

Tones = NDArray[np.uint8] | NDArray[np.uint16]
_Read = TypeVar("_Read")

_WEIGHTS = np.array([0.25, 0.5, 0.25], np.float32)
"""As for frames: photosites in a colour filter array."""
_STRIP_ROWS = 256
_FRACTIONS = (5, 10)
"""RATIONAL and SRATIONAL."""
_CFA, _BLACK_LEVEL, _WHITE_LEVEL = 32803, 50714, 50717
_RAW = (
    "packed RAW files are not patched: develop it, and patch the developed JPEG, PNG or TIFF file, "
    "or convert it to an uncompressed DNG."
)
_RAW_LOOK = "RAW files are not looked through: use the JPEG files of the same pictures."
_OTHER = "only JPEG, PNG and TIFF files are patched. Export it as one of them."


@dataclass(frozen=True, kw_only=True)
class Picture:
    """Stored tones (height, width) or (height, width, 3 or 4), and the light each stands for. Of a
    JPEG that is to be written, its blocks, decoded where they are asked.

    ``mosaic``: photosites of a colour filter array, which are seen two by two.
    """

    tones: Tones | JpegBlocks
    curve: Curve
    kind: FileType
    facts: FrameFacts
    mosaic: bool = False

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


def read_picture(path: Path, limits: Limits = DEFAULT_LIMITS) -> Picture:
    """Read a JPEG, PNG or TIFF file in its own depth, as stored, before any turn.

    Raises `UnusableFrameError` with a sentence for the user: RAW, other types, colour tables,
    printing colours, floating-point tones, damage.
    """
    return _guarded(path, limits, _whole)


def read_to_write(path: Path, limits: Limits = DEFAULT_LIMITS) -> Picture:
    """As `read_picture`, but a JPEG as its blocks: as little as possible of it is decoded."""
    return _guarded(path, limits, _coded)


def read_glance(
    path: Path, width_px: int, limits: Limits = DEFAULT_LIMITS
) -> tuple[Light, FrameFacts]:
    """Linear luminance of any picture with its longer side at most ``width_px``, and its facts.

    JPEG files are decoded at a reduced scale. The facts tell the picture's own size. Raises
    `UnusableFrameError` as `read_picture`; RAW files are refused.
    """

    def glance(path: Path, kind: FileType, limits: Limits) -> tuple[Light, FrameFacts]:
        if kind in ("jpeg", "webp", "heif"):
            return _reduced(path, kind, width_px, limits)
        picture = _whole(path, kind, limits)
        step = max(1, -(-max(picture.shape) // width_px))
        return picture.light(step), picture.facts

    return _guarded(path, limits, glance)


def read_facts(path: Path, limits: Limits = DEFAULT_LIMITS) -> FrameFacts:
    """What a picture's file tells, without decoding its tones. Raises as `read_glance`."""

    def facts(path: Path, kind: FileType, limits: Limits) -> FrameFacts:
        if kind in ("raw", "dng"):
            raise UnusableFrameError(_RAW_LOOK)
        return _facts_of(path, kind, limits)[0]

    return _guarded(path, limits, facts)


def read_notes(path: Path, limits: Limits = DEFAULT_LIMITS) -> FrameFacts:
    """How a picture was taken, RAW files among them; of a RAW no size is told. Raises as
    `read_glance`.
    """

    def notes(path: Path, kind: FileType, limits: Limits) -> FrameFacts:
        if kind in ("raw", "dng"):
            from neatpatch.images.raw import raw_notes

            return raw_notes(path, kind)
        return _facts_of(path, kind, limits)[0]

    return _guarded(path, limits, notes)


def _guarded(path: Path, limits: Limits, read: Callable[[Path, FileType, Limits], _Read]) -> _Read:
    if not path.is_file():
        raise UnusableFrameError("there is no such file. Check the name.")
    check_bytes(path.stat().st_size, limits)
    kind = sniff(path)
    Image.MAX_IMAGE_PIXELS = None
    try:
        with quiet():
            return read(path, kind, limits)
    except (MemoryError, cv2.error) as error:
        raise NoMemoryError("there is not enough memory for a picture of this size.") from error
    except UnusableFrameError:
        raise
    except BROKEN as error:
        raise damaged(kind) from error


def _whole(path: Path, kind: FileType, limits: Limits) -> Picture:
    if kind == "dng":
        return _mosaic(path, limits)
    if kind == "raw":
        raise UnusableFrameError(_RAW)
    if kind not in ("jpeg", "png", "tiff"):
        raise UnusableFrameError(_OTHER)
    facts, profile = _facts_of(path, kind, limits)
    tones = _TONES[kind](path)
    if tones.dtype == np.uint16:
        facts = replace(facts, bit_depth=16)
    return Picture(
        tones=tones, curve=curve_for(profile, 1 << facts.bit_depth), kind=kind, facts=facts
    )


def _coded(path: Path, kind: FileType, limits: Limits) -> Picture:
    if kind != "jpeg":
        return _whole(path, kind, limits)
    facts, profile = _facts_of(path, kind, limits)
    with Image.open(path) as image:
        _check_colours(image)
    blocks, _ = run_parallel(lambda: JpegBlocks(path), lambda: require_undamaged(path))
    return Picture(tones=blocks, curve=curve_for(profile, 256), kind=kind, facts=facts)


def _mosaic(path: Path, limits: Limits) -> Picture:
    """The bare mosaic of an uncompressed DNG. Raises `UnusableFrameError` for any other."""
    facts, _ = tiff_facts(path, limits)
    with tifffile.TiffFile(path) as tif:
        page: Any = tif.pages.first
        plain = page.photometric == _CFA and page.compression == 1 and page.bitspersample == 16
        if not plain or page.planarconfig != 1:
            raise UnusableFrameError(_RAW)
        tones = np.ascontiguousarray(page.asarray())
        black, white = (_level(page.tags.get(tag)) for tag in (_BLACK_LEVEL, _WHITE_LEVEL))
    if tones.ndim != 2 or tones.dtype != np.uint16:
        raise UnusableFrameError(_RAW)
    steps = np.arange(65536, dtype=np.float32)
    black, white = black or 0.0, white or 65535.0
    if not 0 <= black < white:
        raise UnusableFrameError(
            "its black and white levels contradict each other. Convert it to DNG again."
        )
    curve = np.clip((steps - black) / (white - black), 0, 1)
    facts = replace(_named(facts, path), format="DNG", bit_depth=16)
    return Picture(
        tones=tones, curve=np.asarray(curve, np.float32), kind="dng", facts=facts, mosaic=True
    )


def _level(tag: Any) -> float | None:
    """The mean of a tag's levels, one for each place of the pattern; None without the tag.

    Fractions come as two numbers each, told by the tag's type (TIFF 6.0, section 2; DNG 1.7,
    BlackLevel).
    """
    if tag is None:
        return None
    value = tag.value
    numbers = [float(v) for v in value] if isinstance(value, (tuple, list)) else [float(value)]
    if int(tag.dtype) in _FRACTIONS:
        numbers = [a / b for a, b in zip(numbers[::2], numbers[1::2], strict=True) if b]
    return float(np.mean(numbers)) if numbers else None


def _facts_of(path: Path, kind: FileType, limits: Limits) -> tuple[FrameFacts, bytes | None]:
    try:
        with Image.open(path) as image:
            check_pixels(*image.size, limits)
            return _named(picture_facts(image, kind), path), image.info.get("icc_profile")
    except UnidentifiedImageError:
        if kind != "tiff":
            raise
    facts, profile = tiff_facts(path, limits)
    return _named(facts, path), profile


def _named(facts: FrameFacts, path: Path) -> FrameFacts:
    return replace(facts, path=str(path))


def _jpeg_tones(path: Path) -> Tones:
    require_undamaged(path)
    with Image.open(path) as image:
        _check_colours(image)
        return copied_out(image)


def _check_colours(image: Image.Image) -> None:
    if image.mode not in ("RGB", "L"):
        raise UnusableFrameError(
            "its colours are printing ones (CMYK). Export it as RGB to patch it."
        )


def _png_tones(path: Path) -> Tones:
    with Image.open(path) as image:
        if image.mode in ("P", "1", "PA"):
            raise UnusableFrameError(
                "it has a colour table of few tones. Export it in full colour to patch it."
            )
        image.verify()
    return _by_opencv(path, "png")


def _by_opencv(path: Path, kind: FileType) -> Tones:
    flags = cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION
    array: Any = cv2.imdecode(np.fromfile(path, np.uint8), flags)
    if array is None:
        raise damaged(kind)
    if array.ndim == 3 and array.shape[2] in (3, 4):
        array[..., :3] = array[..., 2::-1].copy()
    return _plain_tones(array)


def tiff_tones(path: Path) -> Tones:
    """Tones of a TIFF's first page, channels last."""
    with tifffile.TiffFile(path) as tif:
        page: Any = tif.pages.first
        if page.photometric not in (0, 1, 2) or page.bitspersample not in (8, 16):
            raise UnusableFrameError(
                "its tones are not plain grey or RGB of 8 or 16 bits. Export it so to patch it."
            )
        try:
            array: Any = upright_tones(page, page.asarray())
        except ValueError:  # a compression that needs another decoder
            return _by_opencv(path, "tiff")
    if array.ndim == 3 and array.shape[0] in (3, 4) and array.shape[2] > 4:
        array = np.moveaxis(array, 0, 2)
    return _plain_tones(array)


def _plain_tones(array: Any) -> Tones:
    if array.dtype not in (np.uint8, np.uint16) or array.ndim not in (2, 3):
        raise UnusableFrameError(
            "its tones are not plain grey or RGB of 8 or 16 bits. Export it so to patch it."
        )
    if array.ndim == 3 and array.shape[2] not in (3, 4):
        raise UnusableFrameError("it has too few or too many channels. Export it as RGB.")
    return np.ascontiguousarray(array)


_TONES: dict[FileType, Callable[[Path], Tones]] = {
    "jpeg": _jpeg_tones,
    "png": _png_tones,
    "tiff": tiff_tones,
}


def _small_codes(path: Path, image: Image.Image, width_px: int) -> NDArray[np.uint8]:
    """A JPEG's luma at a half, quarter or eighth of its size, not smaller than asked for."""
    step = max(1, -(-max(image.size) // width_px))
    part = next(n for n in (8, 4, 2, 1) if n <= step)
    return small_luma(path, (-(-image.height // part), -(-image.width // part)))


def _reduced(path: Path, kind: FileType, width_px: int, limits: Limits) -> tuple[Light, FrameFacts]:
    with Image.open(path) as image:
        check_pixels(*image.size, limits)
        facts = _named(picture_facts(image, kind), path)
        profile = image.info.get("icc_profile")
        plain = kind == "jpeg" and image.mode in ("RGB", "L")
        if kind == "jpeg" and not plain:
            require_undamaged(path, printing=image.mode == "CMYK")
        codes = _small_codes(path, image, width_px) if plain else np.asarray(image.convert("L"))
    light = curve_for(profile, 256)[codes]
    step = max(1, -(-max(light.shape) // width_px))
    return binned(light, step), facts
