"""Mended pictures back into files of their own kind, with everything else in them as it was.

Each file is written beside its place under another name, flushed, and linked to its own: a stop
leaves no half of a picture. An existing file is never replaced.
"""

from __future__ import annotations

import errno
import io
import os
import zlib
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.patching.restoring import PatchedWindow
from neatpatch.images.jpeg_blocks import Change, JpegBlocks
from neatpatch.images.jpeg_segments import with_packet
from neatpatch.images.raster import upright_tones
from neatpatch.images.sniff import FileType
from neatpatch.images.stored import Picture, Tones
from neatpatch.images.tiff_directory import set_numbers, with_entry
from neatpatch.images.xmp import XMP_TAG, PatchNote, packet_of, with_note

_NO_LINKS = frozenset(
    {errno.EPERM, errno.EOPNOTSUPP, errno.ENOTSUP, errno.ENOSYS, errno.EXDEV, errno.EMLINK}
)
"""What systems say where a disk knows no hard links, or no more of them."""
_PNG_START = 8
_SHOWN: dict[str, list[int]] = {".jpg": [int(cv2.IMWRITE_JPEG_QUALITY), 92], ".png": []}
_PICTURE_CHUNKS = (b"IHDR", b"IDAT", b"IEND", b"PLTE")
_COMPRESSION, _PREDICTOR, _DEFLATE = 259, 317, 8
_PNG_XMP = bytes.fromhex("584d4c3a636f6d2e61646f62652e786d70")
"""Keyword of the chunk that holds it (ISO 16684-3)."""


def write_patched(
    source: Path,
    picture: Picture,
    windows: Sequence[PatchedWindow],
    target: Path,
    note: PatchNote | None = None,
) -> None:
    """Write the picture with new tones in the windows, and the note in it. Raises
    `FileExistsError` for an old target.

    Raises `UnusableFrameError` where the file's coding cannot be kept, `OSError` for a full disk.
    """
    data = _WRITERS[picture.kind](source, picture, windows, note)
    beside = target.with_name(f".{target.name}.{os.getpid()}.part")
    try:
        with beside.open("xb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        publish(beside, target)
    finally:
        beside.unlink(missing_ok=True)


def publish(beside: Path, target: Path) -> None:
    """Give a whole file its name, never in place of another. Raises `FileExistsError`.

    By a hard link; memory cards and travel disks (exFAT, FAT) know none: there the name is claimed
    by an empty file, which the whole one then replaces.
    """
    try:
        os.link(beside, target)
    except FileExistsError:
        raise
    except OSError as error:
        if error.errno not in _NO_LINKS:
            raise
        with target.open("xb"):
            """Claimed: whoever comes second meets it."""
        try:
            os.replace(beside, target)
        except OSError:
            target.unlink(missing_ok=True)
            raise
    _sync_folder(target.parent)


def _sync_folder(folder: Path) -> None:
    """So that the name is kept through a power cut, where the disk can be asked for that."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def clear_leftovers(folder: Path) -> None:
    """Remove what writers that were killed have left beside their targets."""
    for path in folder.glob(".*.part"):
        writer = path.name.split(".")[-2]
        if writer.isdecimal() and not _runs(int(writer)):
            claimed = path.with_name(path.name[1:].removesuffix(f".{writer}.part"))
            if claimed.is_file() and claimed.stat().st_size == 0:
                claimed.unlink(missing_ok=True)
            path.unlink(missing_ok=True)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def write_shown(path: Path, picture: NDArray[np.uint8]) -> None:
    """Write what the page shows: grey or blue-green-red tones, as JPEG, or PNG by the name."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    done, data = cv2.imencode(path.suffix, picture, _SHOWN[path.suffix])
    if not done:
        raise UnusableFrameError("it could not be drawn to be shown.")
    beside = path.with_name(path.name + ".part")
    beside.write_bytes(data.tobytes())
    beside.replace(path)


def with_windows(tones: Tones, windows: Sequence[PatchedWindow]) -> Tones:
    """A copy of the tones with the windows in it."""
    out = tones.copy()
    for w in windows:
        out[w.top : w.top + w.tones.shape[0], w.left : w.left + w.tones.shape[1]] = w.tones
    return out


Windows = Sequence[PatchedWindow]


def _jpeg(source: Path, picture: Picture, windows: Windows, note: PatchNote | None) -> bytes:
    changes = []
    for w in windows:
        height, width = w.tones.shape[:2]
        old = picture.tones[w.top : w.top + height, w.left : w.left + width]
        delta = w.tones.astype(np.float32) - old.astype(np.float32)
        changes.append(Change(w.left, w.top, delta))
    blocks = picture.tones if isinstance(picture.tones, JpegBlocks) else JpegBlocks(source)
    data = blocks.changed(changes)
    return data if note is None else with_packet(data, with_note(packet_of(source), note))


def _png(source: Path, picture: Picture, windows: Windows, note: PatchNote | None) -> bytes:
    """The picture's chunks again, all others as they were; the XMP packet alone is another."""
    tones = with_windows(picture.whole, windows)
    if tones.ndim == 3:
        order = [2, 1, 0, 3][: tones.shape[2]]
        tones = tones[..., order]
    done, coded = cv2.imencode(".png", np.ascontiguousarray(tones))
    if not done:
        raise UnusableFrameError("it could not be written as PNG.")
    original, new = list(_chunks(source.read_bytes())), list(_chunks(coded.tobytes()))
    first = next(i for i, (name, _) in enumerate(original) if name == b"IDAT")
    notes = [
        [c for n, c in part if n not in _PICTURE_CHUNKS]
        for part in (original[:first], original[first:])
    ]
    coded_parts = {name: [c for n, c in new if n == name] for name in _PICTURE_CHUNKS}
    told = []
    if note is not None:
        notes = [[c for c in part if c[8:].split(b"\0")[0] != _PNG_XMP] for part in notes]
        told = [_chunk(b"iTXt", _PNG_XMP + bytes(5) + with_note(packet_of(source), note))]
    return b"".join(
        [
            b"\x89PNG\r\n\x1a\n",
            *coded_parts[b"IHDR"],
            *told,
            *notes[0],
            *coded_parts[b"IDAT"],
            *notes[1],
            *coded_parts[b"IEND"],
        ]
    )


def _chunk(name: bytes, body: bytes) -> bytes:
    ends = zlib.crc32(name + body).to_bytes(4, "big")
    return len(body).to_bytes(4, "big") + name + body + ends


def _chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    """Names and whole bytes of a PNG's chunks."""
    at = _PNG_START
    while at + 12 <= len(data):
        end = at + 12 + int.from_bytes(data[at : at + 4], "big")
        yield data[at + 4 : at + 8], data[at:end]
        at = end


def _webp(source: Path, picture: Picture, windows: Windows, note: PatchNote | None) -> bytes:
    """Without loss, whatever it was packed by, so that nothing changes beside the windows."""
    tones = with_windows(picture.whole, windows)
    with Image.open(source) as image:
        kept = {k: v for k in ("exif", "icc_profile", "xmp") if (v := image.info.get(k))}
    if note is not None:
        kept["xmp"] = with_note(kept.get("xmp"), note)
    out = io.BytesIO()
    Image.fromarray(tones).save(out, "WEBP", lossless=True, exact=True, **kept)
    return out.getvalue()


def _tiff(source: Path, picture: Picture, windows: Windows, note: PatchNote | None) -> bytes:
    """The file's own bytes: tones replaced where they lie, or packed again at its end."""
    data = bytearray(source.read_bytes())
    tones = with_windows(picture.whole, windows)
    with tifffile.TiffFile(source) as tif:
        page: Any = tif.pages.first
        if tif.is_bigtiff or page.planarconfig != 1 or page.imagedepth != 1:
            raise UnusableFrameError(
                "its TIFF layout cannot be kept. Export it with interleaved colours."
            )
        tones = upright_tones(page, tones)
        stored = tones.astype(tones.dtype.newbyteorder(tif.byteorder))
        pieces = list(_pieces(page, stored))
        if page.compression == 1:
            for start, count, piece in zip(
                page.dataoffsets, page.databytecounts, pieces, strict=True
            ):
                data[start : start + count] = piece[:count]
        else:
            _repack(data, tif, page, pieces)
    if note is not None:
        with_entry(data, XMP_TAG, with_note(packet_of(source), note))
    return bytes(data)


def _pieces(page: Any, tones: Any) -> Iterator[bytes]:
    """The strips or tiles of a page as they are stored when not packed."""
    high, wide = page.chunks[:2]
    for top in range(0, tones.shape[0], high):
        for left in range(0, tones.shape[1], wide):
            part = tones[top : top + high, left : left + wide]
            if page.is_tiled and part.shape[:2] != (high, wide):
                room = [(0, high - part.shape[0]), (0, wide - part.shape[1])]
                part = np.pad(part, room + [(0, 0)] * (part.ndim - 2), mode="edge")
            yield part.tobytes()


def _repack(data: bytearray, tif: Any, page: Any, pieces: Sequence[bytes]) -> None:
    """Append the pieces, deflated, and let the page's tags point to them."""
    offsets, counts = [], []
    for piece in pieces:
        packed = zlib.compress(piece, 6)
        data += b"\0" * (len(data) % 2)
        offsets.append(len(data))
        counts.append(len(packed))
        data += packed
    kind = "Tile" if page.is_tiled else "Strip"
    set_numbers(data, tif, page.tags[f"{kind}Offsets"], offsets)
    set_numbers(data, tif, page.tags[f"{kind}ByteCounts"], counts)
    set_numbers(data, tif, page.tags[_COMPRESSION], [_DEFLATE])
    if _PREDICTOR in page.tags:
        set_numbers(data, tif, page.tags[_PREDICTOR], [1])


def _mosaic(source: Path, picture: Picture, windows: Windows, note: PatchNote | None) -> bytes:
    from neatpatch.images.dng import dng_again, dng_of_raw  # slow to load

    return (dng_again if picture.kind == "dng" else dng_of_raw)(source, picture, windows, note)


_WRITERS: dict[FileType, Callable[[Path, Picture, Windows, PatchNote | None], bytes]] = {
    "jpeg": _jpeg,
    "png": _png,
    "tiff": _tiff,
    "webp": _webp,
    "dng": _mosaic,
    "raw": _mosaic,
}
