"""RAW files: linear light straight from the mosaic, without rendering."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import exifread
import numpy as np
import rawpy
from numpy.typing import NDArray

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.common.frame import Frame, FrameFacts
from neatpatch.images.limits import Limits, check_pixels
from neatpatch.images.metadata import (
    Exposure,
    camera_name,
    exposure_facts,
    iso_time,
    number,
    sensor_from_tags,
    serial_number,
    text,
)
from neatpatch.images.sniff import FileType

_ORIENTATION_OF_FLIP = {0: 1, 3: 3, 5: 8, 6: 6}
_BROKEN = (OSError, ValueError, AttributeError, TypeError, IndexError, ZeroDivisionError)
UNREADABLE = (
    "the RAW file cannot be read: it is damaged, or of a camera this version does not know. "
    "Copy it again, convert it to DNG, or use the camera's JPEG."
)


def read_raw(path: Path, kind: FileType, limits: Limits) -> Frame:
    """Mosaic of a RAW file, black taken off, colour planes balanced to one level.

    Raises `UnusableFrameError` for damaged files and for those without a plain mosaic.
    """
    try:
        with rawpy.imread(str(path)) as raw:
            sizes = raw.sizes
            check_pixels(sizes.width, sizes.height, limits)
            mosaic = raw.raw_image_visible
            if mosaic is None or mosaic.ndim != 2:
                raise UnusableFrameError(
                    "this RAW file holds no plain mosaic (it may be reduced or already rendered). "
                    "Set the camera to full-size RAW, or use its JPEG."
                )
            luminance, clipped = _balanced(raw, mosaic)
            flip = int(sizes.flip)
    except (rawpy.LibRawError, *_BROKEN) as error:
        raise UnusableFrameError(UNREADABLE) from error
    height, width = luminance.shape
    facts = _facts(path, kind, width, height, flip)
    return Frame(light=luminance, facts=facts, clipped=clipped, mosaic=True)


def _balanced(raw: Any, mosaic: NDArray[np.uint16]) -> tuple[NDArray[np.float32], float]:
    """Light of every photosite, and the share clipped.

    A sensor without colour filters has one colour only, which the decoder numbers beyond all black
    levels it gives.
    """
    colours = raw.raw_colors_visible[:2, :2]
    black = raw.black_level_per_channel
    white = float(raw.white_level or 65535)
    out = np.empty(mosaic.shape, np.float32)
    clipped = 0
    means = {}
    for row in (0, 1):
        for column in (0, 1):
            colour = int(colours[row, column])
            level = float(black[colour] if colour < len(black) else black[0])
            plane = mosaic[row::2, column::2]
            clipped += int(np.count_nonzero(plane >= white))
            light = (plane.astype(np.float32) - level) / (white - level)
            means[row, column] = float(np.median(light[::4, ::4]))
            out[row::2, column::2] = light
    target = float(np.mean(list(means.values())))
    for (row, column), mean in means.items():
        if mean > 0:
            out[row::2, column::2] *= target / mean
    return out, clipped / mosaic.size


def raw_facts(path: Path, kind: FileType, width: int, height: int) -> FrameFacts:
    """What a RAW file tells, for a mosaic of this size in photosites."""
    return _facts(path, kind, width, height, 0)


def raw_notes(path: Path, kind: FileType) -> FrameFacts:
    """What a RAW file tells of how it was taken, without its mosaic: its size is told as 0."""
    return _facts(path, kind, 0, 0, 0)


@dataclass(frozen=True)
class ShotTags:
    """How a RAW was taken, as its tags say it; fractions as two whole numbers."""

    maker: str | None
    model: str | None
    changed_at: str | None
    taken_at: str | None
    artist: str | None
    copyright: str | None
    serial: str | None
    lens: str | None
    exposure_s: tuple[int, int] | None
    f_number: tuple[int, int] | None
    focal_length_mm: tuple[int, int] | None
    matrix: tuple[float, ...]
    """ColorMatrix1 (DNG 1.7), nine numbers; none where the file has none of its own."""


def shot_tags(path: Path) -> ShotTags:
    """The tags of a RAW file; None where it does not have them."""
    tags = _tags(path)

    def words(name: str) -> str | None:
        tag = tags.get(name)
        return (str(tag).strip("\0 ") or None) if tag is not None else None

    def ratio(name: str) -> tuple[int, int] | None:
        values = getattr(tags.get(name), "values", None) or [None]
        value = values[0]
        if not (hasattr(value, "num") and value.den):
            return None
        return int(value.num), int(value.den)

    return ShotTags(
        maker=words("Image Make"),
        model=words("Image Model"),
        changed_at=words("Image DateTime"),
        taken_at=words("EXIF DateTimeOriginal") or words("Image DateTimeOriginal"),
        artist=words("Image Artist"),
        copyright=words("Image Copyright"),
        serial=words("EXIF BodySerialNumber"),
        lens=words("EXIF LensModel"),
        exposure_s=ratio("EXIF ExposureTime") or ratio("Image ExposureTime"),
        f_number=ratio("EXIF FNumber") or ratio("Image FNumber"),
        focal_length_mm=ratio("EXIF FocalLength") or ratio("Image FocalLength"),
        matrix=_matrix(tags.get("Image Tag 0xC621")),
    )


def _matrix(tag: Any) -> tuple[float, ...]:
    values = getattr(tag, "values", None) or ()
    whole = len(values) == 9 and all(hasattr(v, "num") and v.den for v in values)
    return tuple(v.num / v.den for v in values) if whole else ()


def _tags(path: Path) -> dict[str, Any]:
    with path.open("rb") as stream:
        try:
            return dict(exifread.process_file(stream, details=False))
        except Exception:  # noqa: BLE001 - exifread throws anything at broken tags
            return {}


def _facts(path: Path, kind: FileType, width: int, height: int, flip: int) -> FrameFacts:
    tags = _tags(path)

    def first(*names: str) -> Any:
        for name in names:
            tag = tags.get(name)
            if tag is not None and getattr(tag, "values", None):
                value = tag.values
                return value if isinstance(value, str) else next(iter(value), None)
        return None

    found, notes = exposure_facts(
        Exposure(
            f_number=first("EXIF FNumber", "Image FNumber"),
            aperture_value=first("EXIF ApertureValue", "Image ApertureValue"),
            iso=first("EXIF ISOSpeedRatings", "Image ISOSpeedRatings"),
            exposure_s=first("EXIF ExposureTime", "Image ExposureTime"),
            focal_length_mm=first("EXIF FocalLength", "Image FocalLength"),
            focal_length_35mm=first("EXIF FocalLengthIn35mmFilm"),
        )
    )
    orientation = number(first("Image Orientation"))
    plane = {
        41486: first("EXIF FocalPlaneXResolution"),
        41487: first("EXIF FocalPlaneYResolution"),
        41488: first("EXIF FocalPlaneResolutionUnit"),
    }
    return FrameFacts(
        format="DNG" if kind == "dng" else "RAW",
        width_px=width,
        height_px=height,
        orientation=int(orientation)
        if orientation and orientation <= 8
        else _ORIENTATION_OF_FLIP.get(flip, 1),
        camera=camera_name(first("Image Make"), first("Image Model")),
        serial=serial_number(first("EXIF BodySerialNumber"), first("Image Tag 0xC62F")),
        taken_at=iso_time(first("EXIF DateTimeOriginal") or first("Image DateTime")),
        software=text(first("Image Software")),
        sensor_mm=sensor_from_tags(plane, width, height),
        bit_depth=16,
        notes=notes,
        **found,
    )
