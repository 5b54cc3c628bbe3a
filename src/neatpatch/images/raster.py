"""JPEG, PNG, TIFF, HEIF and other rendered pictures to linear luminance."""

from __future__ import annotations

import struct
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pi_heif
import tifffile
from numpy.typing import NDArray
from PIL import ExifTags, Image, UnidentifiedImageError

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.common.frame import CodedLight, Frame, FrameFacts, Light
from neatpatch.images.jpeg_luma import jpeg_luma, require_undamaged
from neatpatch.images.limits import Limits, check_pixels
from neatpatch.images.metadata import facts_from_tags, sensor_from_tags
from neatpatch.images.sniff import FileType
from neatpatch.images.transfer import Curve, curve_for

pi_heif.register_heif_opener()

_STRIP_ROWS = 64
_LARGE_PX = 60_000_000
_BRIGHT = 0.5
_BITS_PER_SAMPLE = 258
_WHITE_IS_ZERO = 0
_FRACTIONS = {33434, 33437, 37378, 37386, 41486, 41487}
"""Exposure time, f-number, aperture, focal length, resolution of the focal plane."""
_CHANNEL_WEIGHTS = np.array([[0.25, 0.5, 0.25]], dtype=np.float32)
"""Photosites in a colour filter array: half green, a quarter each red and blue. Weighing the
channels so gives the least noise for a neutral loss."""
_MODES = (
    "RGB",
    "L",
    "CMYK",
    "P",
    "PA",
    "RGBA",
    "LA",
    "1",
    "YCbCr",
    "LAB",
    "HSV",
    "RGBX",
    "RGBa",
)
_FORMATS: dict[FileType, str] = {
    "jpeg": "JPEG",
    "png": "PNG",
    "tiff": "TIFF",
    "heif": "HEIF",
    "gif": "GIF",
    "webp": "WEBP",
    "bmp": "BMP",
}
BROKEN = (
    OSError,
    ValueError,
    SyntaxError,
    struct.error,
    KeyError,
    IndexError,
    TypeError,
    ZeroDivisionError,
    OverflowError,
    AttributeError,
    EOFError,
    NotImplementedError,
    RuntimeError,
    AssertionError,
    tifffile.TiffFileError,
)
"""What decoders throw at broken files."""


def read_raster(path: Path, kind: FileType, limits: Limits) -> Frame:
    """Decode a rendered picture. Raises `UnusableFrameError` with a plain reason."""
    Image.MAX_IMAGE_PIXELS = None
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path) as image:
                check_pixels(*image.size, limits)
                if kind == "tiff" and _bits(image) > 8:
                    return _read_deep_tiff(path, image)
                return _read_pillow(path, image, kind)
    except UnidentifiedImageError as error:
        if kind == "tiff":
            return _read_tiff_only(path, limits)
        raise damaged(kind) from error
    except BROKEN as error:
        raise damaged(kind) from error


def _bits(image: Image.Image) -> int:
    """Bits of each tone in a TIFF; Pillow would cut 16-bit colour to eight without a word."""
    tags: Any = getattr(image, "tag_v2", {})
    value = tags.get(_BITS_PER_SAMPLE, 8)
    return int(max(value)) if isinstance(value, tuple) else int(value)


def damaged(kind: FileType) -> UnusableFrameError:
    """What is said of a file that its decoder cannot make sense of."""
    return UnusableFrameError(
        f"the {_FORMATS[kind]} file is damaged or cut short. Copy it from the card again."
    )


def _read_pillow(path: Path, image: Image.Image, kind: FileType) -> Frame:
    facts = picture_facts(image, kind)
    if kind == "jpeg" and image.mode in ("RGB", "L"):
        return _read_jpeg_luma(path, image, facts)
    if kind == "jpeg":
        require_undamaged(path, printing=image.mode == "CMYK")
    profile = image.info.get("icc_profile")
    if image.mode.startswith("I;16") or image.mode == "I":
        image.load()
        return _frame(*_luminance_16bit(_grey_rows(image), curve_for(profile, 65536)), facts, 16)
    if image.mode == "F":
        raise UnusableFrameError(
            "the picture holds floating-point tones, not a camera's. Export it as 16-bit TIFF."
        )
    if kind == "png" and _png_depth(path) == 16:
        return _read_png16(path, profile, facts)
    if image.mode not in _MODES:
        raise UnusableFrameError(
            f"pictures of colour mode {image.mode} cannot be measured. Use the camera's own JPEG "
            "or RAW file."
        )
    light, clipped = _luminance_8bit(image, curve_for(profile, 256))
    return _frame(light, clipped, facts, 8)


def _read_jpeg_luma(path: Path, image: Image.Image, facts: FrameFacts) -> Frame:
    """Only the luma plane is decoded: the chroma planes carry no dust, but rounding of their own.

    Where the luma is bright, clipping of any one colour is looked for in an eighth-size colour
    decoding; where it is not, a clipped colour carries too little of it to matter.
    """
    curve = curve_for(image.info.get("icc_profile"), 256)
    light, clipped = _coded(jpeg_luma(path), curve)
    if float(np.percentile(light[::16, ::16], 99)) > _BRIGHT:
        clipped = max(clipped, _clipped_colour(path))
    return _frame(light, clipped, facts, 8)


def _coded(grey: NDArray[np.uint8], curve: Curve) -> tuple[Light, float]:
    return CodedLight(grey, curve), float(np.mean(grey[::4, ::4] >= 254))


def _clipped_colour(path: Path) -> float:
    with Image.open(path) as again:
        again.draft("RGB", (again.width // 8, again.height // 8))
        colour = np.asarray(again.convert("RGB"))
    return float(np.mean(colour.max(axis=2) >= 254))


def _flattened(image: Image.Image) -> Image.Image:
    """Three channels of a strip of any mode, what is transparent laid on white."""
    if image.mode == "RGB" and "transparency" not in image.info:
        return image
    if image.mode in ("RGBA", "LA", "PA", "RGBa") or "transparency" in image.info:
        layer = image.convert("RGBA")
        ground = Image.new("RGBA", layer.size, (255, 255, 255, 255))
        return Image.alpha_composite(ground, layer).convert("RGB")
    return image.convert("RGB")


def _luminance_8bit(image: Image.Image, curve: Curve) -> tuple[Light, float]:
    """Strip by strip, so that the whole picture is never held in three channels of floats."""
    if image.mode == "L" and "transparency" not in image.info:
        return _coded(copied_out(image), curve)
    image.load()
    width, height = image.size
    out = _Collected((height, width))
    clipped = 0
    for top in range(0, height, _STRIP_ROWS):
        bottom = min(height, top + _STRIP_ROWS)
        strip = np.asarray(_flattened(image.crop((0, top, width, bottom))))
        out.put(top, cv2.transform(cv2.LUT(strip, curve), _CHANNEL_WEIGHTS))
        clipped += int(np.count_nonzero(strip[::2, ::2].max(axis=2) >= 254))
    return out.light, clipped * 4 / (width * height)


class _Collected:
    """Light gathered strip by strip: as it is, or of large pictures as codes of half the size.

    The code is the square root of the light in 65,535 steps: within 0.008 % of a mid-grey, a
    hundredth of what a photosite's noise leaves.
    """

    def __init__(self, shape: tuple[int, int]) -> None:
        self._coded = shape[0] * shape[1] > _LARGE_PX
        self._out = np.empty(shape, np.uint16 if self._coded else np.float32)

    def put(self, top: int, light: NDArray[Any]) -> None:
        if self._coded:
            light = np.sqrt(np.clip(light, 0, 1)) * 65535 + 0.5
        self._out[top : top + light.shape[0]] = light

    @property
    def light(self) -> Light:
        if not self._coded:
            return self._out
        return CodedLight(self._out, np.linspace(0, 1, 65536, dtype=np.float32) ** 2)


def copied_out(image: Image.Image) -> NDArray[np.uint8]:
    """A picture's 8-bit tones, (height, width) or (height, width, channels).

    Strips are quicker to copy out than the whole.
    """
    width, height = image.size
    channels = len(image.getbands())
    out = np.empty((height, width) if channels == 1 else (height, width, channels), np.uint8)
    for top in range(0, height, _STRIP_ROWS):
        bottom = min(height, top + _STRIP_ROWS)
        out[top:bottom] = np.asarray(image.crop((0, top, width, bottom)))
    return out


@dataclass(frozen=True)
class _Rows:
    """A picture of 16 bits, read some rows at a time: (rows, width) or (rows, width, channels)."""

    shape: tuple[int, int]
    read: Callable[[int, int], NDArray[np.uint16]]


def _grey_rows(image: Image.Image) -> _Rows:
    def read(top: int, bottom: int) -> NDArray[np.uint16]:
        strip = image.crop((0, top, image.width, bottom)).convert("I")
        return np.asarray(np.clip(np.asarray(strip), 0, 65535), np.uint16)

    return _Rows((image.height, image.width), read)


def _array_rows(array: NDArray[np.uint16]) -> _Rows:
    return _Rows((array.shape[0], array.shape[1]), lambda top, bottom: array[top:bottom])


def _luminance_16bit(rows: _Rows, curve: Curve) -> tuple[Light, float]:
    height, width = rows.shape
    out = _Collected((height, width))
    clipped = 0
    for top in range(0, height, _STRIP_ROWS):
        bottom = min(height, top + _STRIP_ROWS)
        tones = rows.read(top, bottom)
        strip = curve[tones]
        if strip.ndim == 3:
            strip = strip[..., :3] @ _CHANNEL_WEIGHTS[0] if strip.shape[2] >= 3 else strip[..., 0]
        out.put(top, strip)
        full = tones if tones.ndim == 2 else tones.max(axis=2)
        clipped += int(np.count_nonzero(full == 65535))
    return out.light, clipped / (width * height)


def _png_depth(path: Path) -> int:
    with path.open("rb") as stream:
        header = stream.read(25)
    return header[24]


def _read_png16(path: Path, profile: bytes | None, facts: FrameFacts) -> Frame:
    with Image.open(path) as again:
        again.verify()  # checks the chunks' sums, which the decoder below does not
    array = cv2.imdecode(
        np.frombuffer(path.read_bytes(), np.uint8),
        cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION,
    )
    if array is None or array.dtype != np.uint16:
        raise damaged("png")
    rows = _array_rows(np.asarray(array, np.uint16))
    return _frame(*_luminance_16bit(rows, curve_for(profile, 65536)), facts, 16)


def _read_deep_tiff(path: Path, image: Image.Image) -> Frame:
    facts = picture_facts(image, "tiff")
    return _deep_tiff(path, facts, image.info.get("icc_profile"))


def _read_tiff_only(path: Path, limits: Limits) -> Frame:
    """TIFF flavours that Pillow does not know (16-bit colour), through tifffile."""
    try:
        return _deep_tiff(path, *tiff_facts(path, limits))
    except UnusableFrameError:
        raise
    except BROKEN as error:
        raise damaged("tiff") from error


def tiff_facts(path: Path, limits: Limits) -> tuple[FrameFacts, bytes | None]:
    """Facts and colour profile of a TIFF's first page, through tifffile."""
    with tifffile.TiffFile(path) as tif:
        page = tif.pages.first
        check_pixels(page.imagewidth, page.imagelength, limits)
        tags = {tag.code: tag.value for tag in page.tags.values()}
        notes = ("only the first page was read",) if _has_second_page(tif) else ()
        size = page.imagewidth, page.imagelength
        facts = _make_facts("tiff", size, _divided(tags), _divided(_exif_of(page)), notes)
    profile = tags.get(34675)
    return facts, bytes(profile) if profile is not None else None


def _divided(tags: dict[int, Any]) -> dict[int, Any]:
    """Tags with their fractions, which come as two whole numbers, divided out."""
    return {code: _ratio(value) if code in _FRACTIONS else value for code, value in tags.items()}


def _ratio(value: Any) -> Any:
    if isinstance(value, tuple) and len(value) == 2 and value[1]:
        return value[0] / value[1]
    return value


def _has_second_page(tif: tifffile.TiffFile) -> bool:
    """Whether there is more than one page; they are never counted: there may be thousands."""
    try:
        _ = tif.pages[1]
    except IndexError:
        return False
    return True


def _exif_of(page: Any) -> dict[int, Any]:
    value = page.tags.valueof(34665)
    if not isinstance(value, dict):
        return {}
    names = {tag.name: tag.value for tag in ExifTags.Base}
    return {names[key]: entry for key, entry in value.items() if key in names}


def _deep_tiff(path: Path, facts: FrameFacts, profile: bytes | None) -> Frame:
    with tifffile.TiffFile(path) as tif:
        array = upright_tones(tif.pages.first, tif.pages.first.asarray())
    if array.ndim == 3 and array.shape[0] in (3, 4) and array.shape[2] > 4:
        array = np.moveaxis(array, 0, 2)
    if array.dtype == np.uint8 and array.ndim in (2, 3):
        array = array.astype(np.uint16) * 257
    if array.dtype != np.uint16 or array.ndim not in (2, 3):
        raise UnusableFrameError(
            f"TIFF tones of type {array.dtype} cannot be measured. Export it as 8- or 16-bit TIFF."
        )
    rows = _array_rows(np.asarray(array, np.uint16))
    return _frame(*_luminance_16bit(rows, curve_for(profile, 65536)), facts, 16)


def upright_tones(page: Any, tones: NDArray[Any]) -> NDArray[Any]:
    """Tones whose zero is black, whichever way a TIFF's page stores them (and back again)."""
    whole = np.issubdtype(tones.dtype, np.unsignedinteger)
    if page.photometric != _WHITE_IS_ZERO or not whole:
        return tones
    return np.asarray(np.iinfo(tones.dtype).max - tones, tones.dtype)


def _frame(light: Light, clipped: float, facts: FrameFacts, depth: int) -> Frame:
    facts = FrameFacts(**{**facts.__dict__, "bit_depth": depth})
    return Frame(light=light, facts=facts, clipped=clipped)


def _notes(image: Image.Image) -> tuple[str, ...]:
    notes = []
    if _has_second_picture(image):
        notes.append("only the first of several pictures in the file was read")
    if image.mode == "CMYK":
        notes.append("printing colours (CMYK) were turned into light; use the camera's own file")
    if image.mode in ("P", "PA"):
        notes.append("the picture has a colour table of few tones; faint spots may be lost")
    return tuple(notes)


def _has_second_picture(image: Image.Image) -> bool:
    """Whether the file holds more pictures than one; those of a TIFF are never counted."""
    if image.format != "TIFF":
        return getattr(image, "n_frames", 1) > 1
    try:
        image.seek(1)
    except EOFError:
        return False
    image.seek(0)
    return True


def picture_facts(image: Image.Image, kind: FileType) -> FrameFacts:
    """What an open file tells of its picture, before its tones are decoded."""
    notes = _notes(image)
    try:
        # A PNG's notes stand before its picture; looking behind it would decode it all.
        tags: Any = image.getexif() if kind != "png" or "exif" in image.info else Image.Exif()
        exif = dict(tags.get_ifd(ExifTags.IFD.Exif))
    except BROKEN:
        tags, exif = {}, {}
        notes = (*notes, "the file's notes on the exposure could not be read")
    quality = _jpeg_quality(image) if kind == "jpeg" else None
    return _make_facts(kind, image.size, dict(tags), exif, notes, quality)


def _make_facts(
    kind: FileType,
    size: tuple[int, int],
    tags: dict[int, Any],
    exif: dict[int, Any],
    notes: tuple[str, ...],
    quality: float | None = None,
) -> FrameFacts:
    found, doubts = facts_from_tags(tags, exif)
    notes = (*notes, *doubts)
    if kind == "heif":
        found["orientation"] = 1
    return FrameFacts(
        format=_FORMATS[kind],
        width_px=size[0],
        height_px=size[1],
        sensor_mm=sensor_from_tags(exif, *size),
        notes=notes,
        jpeg_quality=quality,
        **found,
    )


def _jpeg_quality(image: Image.Image) -> float | None:
    """Quality on the usual 1 to 100 scale, from the mean of the first quantisation table.

    Source: the scaling of the example tables of ITU-T T.81, Annex K, as common encoders do it.
    """
    tables = getattr(image, "quantization", None)
    if not tables:
        return None
    mean = float(np.mean(next(iter(tables.values()))))
    scale = mean / 57.625 * 100.0
    return round(100 - scale / 2 if scale <= 100 else 5000 / scale, 0)
