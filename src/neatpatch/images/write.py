"""Writing virtual frames: JPEG with its exposure notes, linear DNG of the bare mosaic."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import ExifTags, Image
from PIL.TiffImagePlugin import IFDRational


@dataclass(frozen=True, kw_only=True)
class ExposureNotes:
    """What a camera writes beside the picture."""

    camera: str
    f_number: float
    iso: int
    exposure_s: float
    focal_length_mm: float
    taken_at: str
    orientation: int = 1


def write_jpeg(
    path: Path, picture: NDArray[np.uint8], notes: ExposureNotes, quality: int = 94
) -> None:
    """Write (height, width, 3) tones as JPEG with EXIF."""
    image = Image.fromarray(picture)
    exif = Image.Exif()
    maker, _, _ = notes.camera.partition(" ")
    exif[ExifTags.Base.Make] = maker
    exif[ExifTags.Base.Model] = notes.camera
    exif[ExifTags.Base.Orientation] = notes.orientation
    exif[ExifTags.Base.DateTime] = _exif_time(notes.taken_at)
    details = exif.get_ifd(ExifTags.IFD.Exif)
    details[ExifTags.Base.FNumber] = IFDRational(round(notes.f_number * 10), 10)
    details[ExifTags.Base.ISOSpeedRatings] = notes.iso
    details[ExifTags.Base.ExposureTime] = IFDRational(round(notes.exposure_s * 1000), 1000)
    details[ExifTags.Base.FocalLength] = IFDRational(round(notes.focal_length_mm * 10), 10)
    details[ExifTags.Base.DateTimeOriginal] = _exif_time(notes.taken_at)
    image.save(path, "JPEG", quality=quality, subsampling=0, exif=exif.tobytes())


def _exif_time(iso_time: str) -> str:
    return f"{iso_time[:10].replace('-', ':')} {iso_time[11:19]}"


def write_dng(path: Path, mosaic: NDArray[np.uint16], notes: ExposureNotes, white: int) -> None:
    """Write a red-first mosaic as an uncompressed DNG 1.4 (tags after the published DNG spec)."""
    name = notes.camera.encode() + b"\0"
    moment = _exif_time(notes.taken_at)
    tags = [
        (271, 2, 0, notes.camera.partition(" ")[0], True),
        (272, 2, 0, notes.camera, True),
        (274, 3, 1, notes.orientation, True),
        (306, 2, 0, moment, True),
        (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, bytes([0, 1, 1, 2]), True),
        (33434, 5, 1, (round(notes.exposure_s * 1000), 1000), True),
        (33437, 5, 1, (round(notes.f_number * 10), 10), True),
        (34855, 3, 1, notes.iso, True),
        (36867, 2, 0, moment, True),
        (37386, 5, 1, (round(notes.focal_length_mm * 10), 10), True),
        (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50707, 1, 4, bytes([1, 1, 0, 0]), True),
        (50708, 2, 0, name.decode().rstrip("\0"), True),
        (50714, 3, 1, 0, True),
        (50717, 4, 1, white, True),
        (50721, 10, 9, (9, 10, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1, 0, 1, 0, 1, 9, 10), True),
        (50728, 5, 3, (92, 100, 1, 1, 86, 100), True),
        (50778, 3, 1, 21, True),
    ]
    tifffile.imwrite(
        path,
        mosaic,
        photometric=32803,
        compression=None,
        metadata=None,
        extratags=tags,
        software=False,
        rowsperstrip=mosaic.shape[0],
    )
