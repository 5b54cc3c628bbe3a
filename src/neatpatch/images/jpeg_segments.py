"""The segments of a JPEG file: what it notes, how its picture is laid out, and the picture again.

Sources: ITU-T T.81, Annex B; ITU-T T.871 and T.872 for what components are.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from neatpatch.core.common.errors import UnusableFrameError

_RARE = "its JPEG coding is a rare one that cannot be kept. Save it as a usual JPEG or as TIFF."
_BITS = 8
_SCAN, _END = 0xDA, 0xD9
_FRAMES = (0xC0, 0xC1, 0xC2)
_OTHER_FRAMES = frozenset(range(0xC0, 0xD0)) - {0xC4, 0xCC}
"""Codings that are not kept, and a second frame; among them stand two kinds of tables."""
_COLOUR_NOTE = b"\xff\xee\0\x0e"
"""The application segment that tells in its last byte what components are: ITU-T T.872."""
_SMALL, _NO_SCAN = b"\0\x08\0\x08", bytes(64) + b"\xff\xd9"
_XMP = bytes.fromhex("687474703a2f2f6e732e61646f62652e636f6d2f7861702f312e302f00")
"""How a segment with an XMP packet begins (ISO 16684-3, 1.1.3)."""
_LONGEST = 0xFFFF
_FIRST, _BARE = 0xC0, range(0xD0, 0xDA)
"""Below the first, and of the second, none has a length."""
_MARKER = re.compile(rb"\xff([^\x00\xff\xd0-\xd7])", re.DOTALL)


@dataclass(frozen=True)
class Segments:
    """A JPEG file's notes (APPn and COM segments), its frame, and what follows it.

    ``shape``: height and width. ``sampling``: of each component, across and down. ``rgb``: whether
    components are colours themselves. ``ended``: whether the picture has its end marker.
    ``trial``: a whole file of 8 by 8 pixels with the same tables and frame.
    """

    notes: bytes
    shape: tuple[int, int]
    sampling: tuple[tuple[int, int], ...]
    rgb: bool
    ended: bool
    rest: bytes
    trial: bytes

    @property
    def most(self) -> tuple[int, int]:
        """The finest sampling across and down."""
        across, down = zip(*self.sampling, strict=True)
        return max(across), max(down)

    def coarser(self, index: int) -> tuple[int, int]:
        """How many pixels one of a component's is across and down."""
        (wide, high), (across, down) = self.most, self.sampling[index]
        return wide // across, high // down


def segments_of(data: bytes) -> Segments:
    """Walk the file's segments. Raises `UnusableFrameError` for what is not a plain JPEG.

    Whatever a decoder might take otherwise is refused: room is made by what is told here.
    """
    notes, frame, frame_at, at = [], b"", 0, 2
    while at + 4 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == 0xFF:
            at += 1
            continue
        length = int.from_bytes(data[at + 2 : at + 4], "big")
        end = at + 2 + length
        if marker < _FIRST or marker in _BARE or length < 2 or end > len(data):
            break
        if 0xE0 <= marker <= 0xEF or marker == 0xFE:
            notes.append(data[at:end])
        elif marker in _FRAMES and not frame:
            frame, frame_at = data[at + 4 : end], at
        elif marker in _OTHER_FRAMES:
            break
        elif marker == _SCAN:
            if not frame:
                break
            trial = data[: frame_at + 5] + _SMALL + data[frame_at + 9 : end] + _NO_SCAN
            return _told(notes, frame, data, _end_of(data, end), trial)
        at = end
    raise UnusableFrameError(_RARE)


def _told(
    notes: Sequence[bytes], frame: bytes, data: bytes, end: int | None, trial: bytes
) -> Segments:
    if len(frame) < 6 or frame[0] != _BITS:
        raise UnusableFrameError(_RARE)
    parts = [frame[6 + 3 * i : 9 + 3 * i] for i in range(frame[5])]
    if len(frame) != 6 + 3 * len(parts) or not parts:
        raise UnusableFrameError(_RARE)
    segments = Segments(
        notes=b"".join(notes),
        shape=(int.from_bytes(frame[1:3], "big"), int.from_bytes(frame[3:5], "big")),
        sampling=tuple((p[1] >> 4, p[1] & 15) for p in parts),
        rgb=_is_rgb(notes, bytes(p[0] for p in parts)),
        ended=end is not None,
        rest=b"" if end is None else data[end:],
        trial=trial,
    )
    if not _is_usual(segments):
        raise UnusableFrameError(_RARE)
    return segments


def _is_usual(segments: Segments) -> bool:
    """Whether there are one or three components, light at the full size and colours at a whole part
    of it.
    """
    if len(segments.sampling) not in (1, 3) or not all(n for s in segments.sampling for n in s):
        return False
    wide, high = segments.most
    full = segments.sampling if segments.rgb else segments.sampling[:1]
    whole = all(wide % across == 0 and high % down == 0 for across, down in segments.sampling)
    return min(segments.shape) > 0 and whole and all(s == segments.most for s in full)


def _is_rgb(notes: Sequence[bytes], names: bytes) -> bool:
    """Whether three components are red, green and blue, as decoders tell it."""
    if any(n[:2] == b"\xff\xe0" and n[4:8] == b"JFIF" for n in notes):
        return False
    transforms = [n[15] for n in notes if n.startswith(_COLOUR_NOTE)]
    return transforms[-1] == 0 if transforms else names == b"RGB"


def _end_of(data: bytes, start: int) -> int | None:
    """Offset behind the picture's end marker; None where there is none."""
    at = start
    while (found := _MARKER.search(data, at)) is not None:
        marker = found.group(1)[0]
        if marker == _END:
            return found.end()
        at = found.end() + int.from_bytes(data[found.end() : found.end() + 2], "big")
    return None


def with_packet(data: bytes, packet: bytes) -> bytes:
    """A JPEG file with this XMP packet, in place of its own (ISO 16684-3, 1.1.3).

    A segment holds 64 KB: a packet that is longer is left out, and the file stays as it is.
    """
    body = _XMP + packet
    if len(body) + 2 > _LONGEST:
        return data
    own = b"\xff\xe1" + (len(body) + 2).to_bytes(2, "big") + body
    at, place = 2, 2
    while data[at] == 0xFF and 0xE0 <= data[at + 1] <= 0xEF:
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        if data[at + 1] == 0xE1 and data[at + 4 :].startswith(_XMP):
            return data[:at] + own + data[end:]
        if data[at + 1] in (0xE0, 0xE1):
            place = end
        at = end
    return data[:place] + own + data[place:]


def joined(parts: Segments, written: bytes) -> bytes:
    """The original's notes before the written picture, and what followed it after."""
    kept, at = [], 2
    while written[at + 1] != _SCAN:
        end = at + 2 + int.from_bytes(written[at + 2 : at + 4], "big")
        if not (0xE0 <= written[at + 1] <= 0xEF or written[at + 1] == 0xFE):
            kept.append(written[at:end])
        at = end
    return b"".join([b"\xff\xd8", parts.notes, *kept, written[at:], parts.rest])
