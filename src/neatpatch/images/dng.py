"""Patched mosaics as DNG: a DNG's own file again, or a new one of a maker's RAW (DNG 1.7)."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import cv2
import imagecodecs
import numpy as np
import rawpy
import tifffile

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.patching.restoring import PatchedWindow
from neatpatch.images.mosaics import mosaic_page, pattern_of
from neatpatch.images.raster import BROKEN
from neatpatch.images.raw import UNREADABLE, ShotTags, shot_tags
from neatpatch.images.stored import Picture, Tones
from neatpatch.images.tiff_directory import set_numbers, with_entry
from neatpatch.images.xmp import XMP_TAG, PatchNote, packet_of, with_note

_PLAIN, _JPEG = 1, 7
_COMPRESSION, _PREDICTOR = 259, 317
_DIGESTS = (50972, 51111)
"""RawImageDigest and NewRawImageDigest: of a mosaic that is no longer the same."""
_TILE_PX = 512
_PREVIEW_PX, _PREVIEW_QUALITY = 1024, 85
_DAYLIGHT = 21
"""CalibrationIlluminant1: D65, which LibRaw's matrices are for."""
_NO_MATRIX = (
    "it is of a camera whose colours are not known, so that no sound DNG can be made of it. "
    "Convert it to DNG, or develop it, and patch that."
)


def dng_again(
    source: Path, picture: Picture, windows: Sequence[PatchedWindow], note: PatchNote | None
) -> bytes:
    """A DNG's own bytes with new tones in the windows, as packed as they were.

    Only strips and tiles with a window in them are written anew. Raises `UnusableFrameError`.
    """
    data = bytearray(source.read_bytes())
    with tifffile.TiffFile(source) as tif:
        if tif.is_bigtiff:
            raise UnusableFrameError("its layout is that of a very large file, and cannot be kept.")
        page = mosaic_page(tif)
        stored = _with_windows(page.asarray(), picture.origin, windows)
        in_place = page.compression == _PLAIN and page.bitspersample in (8, 16)
        whole = not in_place and page.compression != _JPEG
        pieces = [
            (index, tones)
            for index, (box, tones) in enumerate(_pieces(page, stored))
            if whole or _touched(box, picture.origin, windows)
        ]
        if in_place:
            for index, tones in pieces:
                _put_back(data, page, index, tones.astype(tones.dtype.newbyteorder(tif.byteorder)))
        else:
            _repack(data, tif, page, pieces)
    if note is not None:
        with_entry(data, XMP_TAG, with_note(packet_of(source), note), drop=_DIGESTS)
    return bytes(data)


def _with_windows(stored: Any, origin: tuple[int, int], windows: Sequence[PatchedWindow]) -> Any:
    out = np.array(stored)
    for w in windows:
        top, left = w.top + origin[0], w.left + origin[1]
        out[top : top + w.tones.shape[0], left : left + w.tones.shape[1]] = w.tones
    return out


Box = tuple[int, int, int, int]
"""Top, bottom, left, right."""


def _pieces(page: Any, stored: Any) -> Iterator[tuple[Box, Any]]:
    """Strips or tiles in the order of the file, tiles at their full size."""
    high, wide = page.chunks[:2]
    for top in range(0, stored.shape[0], high):
        for left in range(0, stored.shape[1], wide):
            part = stored[top : top + high, left : left + wide]
            box = top, top + part.shape[0], left, left + part.shape[1]
            yield box, _whole_tile(part, high, wide) if page.is_tiled else part


def _touched(box: Box, origin: tuple[int, int], windows: Sequence[PatchedWindow]) -> bool:
    top, bottom, left, right = box
    return any(
        w.top + origin[0] < bottom
        and top < w.top + origin[0] + w.tones.shape[0]
        and w.left + origin[1] < right
        and left < w.left + origin[1] + w.tones.shape[1]
        for w in windows
    )


def _put_back(data: bytearray, page: Any, index: int, tones: Any) -> None:
    start, count = page.dataoffsets[index], page.databytecounts[index]
    data[start : start + count] = tones.tobytes()[:count]


def _repack(data: bytearray, tif: Any, page: Any, pieces: Sequence[tuple[int, Any]]) -> None:
    """The pieces as lossless JPEG, in place of the old or behind the file where they are longer."""
    offsets, counts = list(page.dataoffsets), list(page.databytecounts)
    for index, tones in pieces:
        packed = _packed(tones, int(page.bitspersample))
        if len(packed) > counts[index]:
            data += b"\0" * (len(data) % 2)
            offsets[index] = len(data)
            data += packed
        else:
            data[offsets[index] : offsets[index] + len(packed)] = packed
        counts[index] = len(packed)
    kind = "Tile" if page.is_tiled else "Strip"
    set_numbers(data, tif, page.tags[f"{kind}Offsets"], offsets)
    set_numbers(data, tif, page.tags[f"{kind}ByteCounts"], counts)
    set_numbers(data, tif, page.tags[_COMPRESSION], [_JPEG])
    if _PREDICTOR in page.tags:
        set_numbers(data, tif, page.tags[_PREDICTOR], [1])


def _packed(tones: Any, bits: int) -> bytes:
    return bytes(imagecodecs.ljpeg_encode(np.ascontiguousarray(tones), bitspersample=bits))


def dng_of_raw(
    source: Path, picture: Picture, windows: Sequence[PatchedWindow], note: PatchNote | None
) -> bytes:
    """A new DNG of a maker's RAW: the visible mosaic, what developing needs, and a small picture.

    Raises `UnusableFrameError` where the file does not tell its colours.
    """
    assert picture.levels is not None
    tones = _with_windows(picture.whole, (0, 0), windows)
    tags = shot_tags(source)
    try:
        with rawpy.imread(str(source)) as raw:
            matrix = _matrix(raw, tags)
            raw.raw_image_visible[...] = tones
            filters, colours = _filters(picture, raw), _colours(picture, matrix, raw)
            small = _preview(raw)
    except UnusableFrameError:
        raise
    except (rawpy.LibRawError, *BROKEN) as error:
        raise UnusableFrameError(UNREADABLE) from error
    shot = _shot(source, picture, tags, note)
    return _written(tones, small, shot + colours, filters)


def _written(tones: Tones, small: Any, of_file: list[Any], of_mosaic: list[Any]) -> bytes:
    """The preview first, with all that tells of the picture, and the mosaic below it."""
    out = io.BytesIO()
    with tifffile.TiffWriter(out) as tif:
        tif.write(
            small,
            photometric="ycbcr",
            compression="jpeg",
            compressionargs={"level": _PREVIEW_QUALITY},
            subfiletype=1,
            subifds=1,
            metadata=None,
            software=False,
            extratags=of_file,
        )
        tif.write(
            iter(_tiles(tones)),
            shape=tones.shape,
            dtype=np.uint16,
            photometric=32803,
            compression=_JPEG,
            bitspersample=16,
            tile=(_TILE_PX, _TILE_PX),
            subfiletype=0,
            metadata=None,
            software=False,
            extratags=of_mosaic,
        )
    return out.getvalue()


def _tiles(tones: Tones) -> Iterator[bytes]:
    height, width = tones.shape
    for top in range(0, height, _TILE_PX):
        for left in range(0, width, _TILE_PX):
            part = tones[top : top + _TILE_PX, left : left + _TILE_PX]
            yield _packed(_whole_tile(part, _TILE_PX, _TILE_PX), 16)


def _whole_tile(part: Any, high: int, wide: int) -> Any:
    room = [(0, high - part.shape[0]), (0, wide - part.shape[1])]
    return np.pad(part, room, mode="edge")


def _filters(picture: Picture, raw: Any) -> list[Any]:
    """Tags of the mosaic: its pattern and its levels."""
    assert picture.levels is not None
    letters = {0: 0, 1: 1, 2: 2, 3: 1}
    colours = bytes(letters[int(c)] for c in pattern_of(raw).flat)
    blacks = [round(v * 100) for row in picture.levels.black for v in row]
    return [
        (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, colours, True),
        (50713, 3, 2, (2, 2), True),
        (50714, 5, 4, tuple(n for b in blacks for n in (b, 100)), True),
        (50717, 4, 1, round(picture.levels.white), True),
    ]


def _colours(picture: Picture, matrix: Any, raw: Any) -> list[Any]:
    """Tags by which its colours are developed."""
    return [
        (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50707, 1, 4, bytes([1, 1, 0, 0]), True),
        (50708, 2, 0, picture.facts.camera or "Unknown", True),
        (50721, 10, 9, tuple(n for v in matrix.flat for n in (round(v * 10000), 10000)), True),
        (50728, 5, 3, tuple(n for v in _neutral(raw) for n in (round(v * 1e6), 10**6)), True),
        (50778, 3, 1, _DAYLIGHT, True),
    ]


def _matrix(raw: Any, tags: ShotTags) -> Any:
    """From XYZ to the camera's colours, as LibRaw knows it, else as the file tells it."""
    for known in (np.asarray(raw.rgb_xyz_matrix)[:3], np.asarray(tags.matrix)):
        if np.any(known):
            return known
    raise UnusableFrameError(_NO_MATRIX)


def _neutral(raw: Any) -> tuple[float, float, float]:
    """What the camera recorded of a grey, green as one: the reverse of its white balance."""
    for balance in (raw.camera_whitebalance, raw.daylight_whitebalance):
        red, green, blue = (float(v) for v in balance[:3])
        if min(red, green, blue) > 0:
            return green / red, 1.0, green / blue
    return 1.0, 1.0, 1.0


def _preview(raw: Any) -> Any:
    """The patched mosaic developed at a small size, as stored, before any turn."""
    whole = raw.postprocess(half_size=True, use_camera_wb=True, no_auto_bright=True, user_flip=0)
    zoom = min(1.0, _PREVIEW_PX / max(whole.shape))
    size = max(16, round(whole.shape[1] * zoom)), max(16, round(whole.shape[0] * zoom))
    return cv2.resize(whole, size, interpolation=cv2.INTER_AREA)


def _shot(source: Path, picture: Picture, tags: ShotTags, note: PatchNote | None) -> list[Any]:
    """Tags of how it was taken, as read from the RAW; exposure as TIFF/EP keeps it."""
    texts = {271: tags.maker, 272: tags.model, 306: tags.changed_at, 36867: tags.taken_at}
    texts |= {315: tags.artist, 33432: tags.copyright, 42033: tags.serial, 42036: tags.lens}
    ratios = {33434: tags.exposure_s, 33437: tags.f_number, 37386: tags.focal_length_mm}
    rows: list[Any] = [(274, 3, 1, picture.facts.orientation, True)]
    rows += [(code, 2, 0, text, True) for code, text in texts.items() if text]
    rows += [(code, 5, 1, ratio, True) for code, ratio in ratios.items() if ratio]
    if picture.facts.iso:
        rows.append((34855, 3, 1, min(picture.facts.iso, 65535), True))
    name = source.name.encode() + b"\0"
    rows.append((50827, 1, len(name), name, True))
    if note is not None:
        packet = with_note(None, note)
        rows.append((XMP_TAG, 1, len(packet), packet, True))
    return sorted(rows, key=lambda row: int(row[0]))
