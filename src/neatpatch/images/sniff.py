"""Tells the type of a file by its content, never by its name."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import Literal

from neatpatch.core.errors import UnusableFrameError

FileType = Literal["jpeg", "png", "tiff", "heif", "dng", "raw", "gif", "webp", "bmp"]

_HEIF_BRANDS = {b"heic", b"heix", b"hevc", b"mif1", b"msf1", b"heim", b"heis", b"avif"}
_RAW_STARTS = (b"FUJIFILMCCD-RAW", b"FOVb", b"\x00MRM")
_DNG_VERSION_TAG = 0xC612
_CFA_PHOTOMETRIC = 32803


def sniff(path: Path) -> FileType:
    """File type from the first bytes; raises `UnusableFrameError` for anything unknown."""
    with path.open("rb") as stream:
        head = stream.read(64 * 1024)
    return sniff_bytes(head)


def sniff_bytes(head: bytes) -> FileType:
    """As `sniff`, from the first 64 kB of a file."""
    if not head:
        raise UnusableFrameError("the file is empty. Copy it from the card again.")
    if head[:3] == b"\xff\xd8\xff":
        return "jpeg"
    if head[:8] == b"\x89PNG\r\n\x1a\n":
        return "png"
    if head[4:8] == b"ftyp":
        if head[8:12] in _HEIF_BRANDS:
            return "heif"
        return "raw"
    if head[:4] in (b"II*\0", b"MM\0*"):
        return _tiff_flavour(head)
    if head[:4] in (b"IIRO", b"IIRS", b"IIU\0") or head.startswith(_RAW_STARTS):
        return "raw"
    if head[:6] in (b"GIF87a", b"GIF89a"):
        return "gif"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "webp"
    if head[:2] == b"BM" and len(head) > 26:
        return "bmp"
    raise UnusableFrameError(
        "this is not a picture that can be read. Drop a JPEG, PNG, TIFF, HEIF or RAW file "
        "straight from the camera."
    )


def _tiff_flavour(head: bytes) -> FileType:
    order = "<" if head[:2] == b"II" else ">"
    try:
        (offset,) = struct.unpack_from(order + "I", head, 4)
        (count,) = struct.unpack_from(order + "H", head, offset)
        tags = {
            struct.unpack_from(order + "H", head, offset + 2 + 12 * i)[0]: offset + 2 + 12 * i
            for i in range(min(count, 400))
        }
    except struct.error:
        return "tiff"
    if _DNG_VERSION_TAG in tags:
        return "dng"
    if 262 in tags:
        (photometric,) = struct.unpack_from(order + "H", head, tags[262] + 8)
        if photometric == _CFA_PHOTOMETRIC:
            return "raw"
    if 330 in tags and 259 in tags and 271 in tags:
        return "raw"
    return "tiff"
