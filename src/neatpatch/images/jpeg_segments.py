"""The segments of a JPEG file: what it notes, how its picture is laid out, and the picture anew.

Source: ITU-T T.81, Annex B.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from neatpatch.core.common.errors import UnusableFrameError

_SCAN, _END = 0xDA, 0xD9
_FRAMES = (0xC0, 0xC1, 0xC2)
_MARKER = re.compile(rb"\xff([^\x00\xff\xd0-\xd7])", re.DOTALL)


@dataclass(frozen=True)
class Segments:
    """A JPEG file's notes (APPn and COM segments), its frame, and what follows it.

    ``shape``: height and width. ``sampling``: of each component, across and down. ``rgb``: whether
    components are colours themselves. ``ended``: whether the picture has its end marker.
    """

    notes: bytes
    shape: tuple[int, int]
    sampling: tuple[tuple[int, int], ...]
    rgb: bool
    ended: bool
    rest: bytes


def segments_of(data: bytes) -> Segments:
    """Walk the file's segments. Raises `UnusableFrameError` for what is not a plain JPEG."""
    notes, frame, at = [], b"", 2
    while at + 4 <= len(data):
        if data[at] != 0xFF:
            break
        marker = data[at + 1]
        if marker == 0xFF:
            at += 1
            continue
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        if 0xE0 <= marker <= 0xEF or marker == 0xFE:
            notes.append(data[at:end])
        elif marker in _FRAMES:
            frame = data[at + 4 : end]
        elif marker == _SCAN:
            if not frame:
                break
            return _told(notes, frame, data, _end_of(data, end))
        at = end
    raise UnusableFrameError(
        "its JPEG coding is a rare one that cannot be kept. Save it as a usual JPEG or as TIFF."
    )


def _told(notes: Sequence[bytes], frame: bytes, data: bytes, end: int | None) -> Segments:
    if frame[0] != 8:
        raise UnusableFrameError("its JPEG coding has more than 8 bits, which is not supported.")
    parts = [frame[6 + 3 * i : 9 + 3 * i] for i in range(frame[5])]
    return Segments(
        notes=b"".join(notes),
        shape=(int.from_bytes(frame[1:3], "big"), int.from_bytes(frame[3:5], "big")),
        sampling=tuple((p[1] >> 4, p[1] & 15) for p in parts),
        rgb=_is_rgb(notes, bytes(p[0] for p in parts)),
        ended=end is not None,
        rest=b"" if end is None else data[end:],
    )


def _is_rgb(notes: Sequence[bytes], names: bytes) -> bool:
    """Whether three components are red, green and blue, as decoders tell it."""
    if any(n[:2] == b"\xff\xe0" and n[4:8] == b"JFIF" for n in notes):
        return False
    adobe = [n[15] for n in notes if n[:2] == b"\xff\xee" and n[4:9] == b"Adobe" and len(n) > 15]
    return adobe[-1] == 0 if adobe else names == b"RGB"


def _end_of(data: bytes, start: int) -> int | None:
    """Offset behind the picture's end marker; None where there is none."""
    at = start
    while (found := _MARKER.search(data, at)) is not None:
        marker = found.group(1)[0]
        if marker == _END:
            return found.end()
        at = found.end() + int.from_bytes(data[found.end() : found.end() + 2], "big")
    return None


def joined(parts: Segments, written: bytes) -> bytes:
    """The original's notes before the written picture, and what followed it after."""
    kept, at = [], 2
    while written[at + 1] != _SCAN:
        end = at + 2 + int.from_bytes(written[at + 2 : at + 4], "big")
        if not (0xE0 <= written[at + 1] <= 0xEF or written[at + 1] == 0xFE):
            kept.append(written[at:end])
        at = end
    return b"".join([b"\xff\xd8", parts.notes, *kept, written[at:], parts.rest])
