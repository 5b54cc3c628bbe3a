"""Tells the type of a file by its content, never by its name."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import BinaryIO, Literal

from neatpatch.core.common.errors import UnusableFrameError

FileType = Literal["jpeg", "png", "tiff", "heif", "dng", "raw", "gif", "webp", "bmp"]

_HEIF_BRANDS = {b"heic", b"heix", b"hevc", b"mif1", b"msf1", b"heim", b"heis", b"avif"}
_RAW_STARTS = (b"FUJIFILMCCD-RAW", b"FOVb", b"\x00MRM")
_DNG_VERSION_TAG = 0xC612
_PHOTOMETRIC_TAG, _COMPRESSION_TAG, _MAKER_TAG, _SUB_DIRECTORIES_TAG = 262, 259, 271, 330
_CFA_PHOTOMETRIC = 32803
_ENTRY_BYTES, _MOST_ENTRIES = 12, 400


def sniff(path: Path) -> FileType:
    """File type from the content; raises `UnusableFrameError` for anything unknown."""
    with path.open("rb") as stream:
        return sniff_stream(stream)


def sniff_stream(stream: BinaryIO) -> FileType:
    """As `sniff`, from an open file: its first bytes, and for TIFF its first directory."""
    head = stream.read(64)
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
        return _tiff_flavour(stream, "<" if head[:2] == b"II" else ">")
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


def _tiff_flavour(stream: BinaryIO, order: str) -> FileType:
    """Tells RAW files in TIFF's clothes by their first directory, wherever in the file it lies."""
    tags = _first_directory(stream, order)
    if _DNG_VERSION_TAG in tags:
        return "dng"
    if tags.get(_PHOTOMETRIC_TAG) == _CFA_PHOTOMETRIC:
        return "raw"
    if _SUB_DIRECTORIES_TAG in tags and _COMPRESSION_TAG in tags and _MAKER_TAG in tags:
        return "raw"
    return "tiff"


def _first_directory(stream: BinaryIO, order: str) -> dict[int, int]:
    """Tags of a TIFF's first directory with their first short value; empty when there is none."""
    try:
        stream.seek(4)
        (offset,) = struct.unpack(order + "I", stream.read(4))
        stream.seek(offset)
        (count,) = struct.unpack(order + "H", stream.read(2))
    except struct.error:
        return {}
    rows = stream.read(_ENTRY_BYTES * min(count, _MOST_ENTRIES))
    whole = len(rows) - len(rows) % _ENTRY_BYTES
    entries = struct.iter_unpack(order + "HHIHH", rows[:whole])
    return {tag: value for tag, _type, _count, value, _more in entries}
