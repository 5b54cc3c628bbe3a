"""Ordinary pictures: their stored tones to mend, or their light at a reduced size to look at."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from neatpatch.core.common.errors import NoMemoryError, UnusableFrameError
from neatpatch.core.common.filters import binned
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
from neatpatch.images.stored import Picture, Tones
from neatpatch.images.transfer import curve_for

_Read = TypeVar("_Read")

_RAW_LOOK = "RAW files are not looked through: use the JPEG files of the same pictures."
_OTHER = "only JPEG, PNG, TIFF, WebP and RAW files are patched. Export it as one of them."


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
    if kind in ("dng", "raw"):
        from neatpatch.images.mosaics import read_mosaic

        return read_mosaic(path, kind, limits)
    if kind not in _TONES:
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


def _webp_tones(path: Path) -> Tones:
    with Image.open(path) as image:
        if getattr(image, "n_frames", 1) > 1:
            raise UnusableFrameError("it moves. Export a single picture of it to patch that.")
        return copied_out(image)


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
    "webp": _webp_tones,
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
