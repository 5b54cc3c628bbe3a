"""JPEG files whose touched blocks alone are encoded anew.

The quantised coefficients of the file are read; those of 8 x 8 blocks that a patch touches are
moved by the transform of the patch's change, rounded with the file's own tables, and all are
written without loss. Metadata segments are the file's own bytes. Source: ITU-T T.81, Annexes A, B.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.images.coefficients import Coefficients, read_coefficients, write_coefficients

Plane = NDArray[np.float32]

_TO_YCC = np.array(
    [[0.299, 0.587, 0.114], [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]], np.float32
)
"""ITU-T T.871."""
_COSINES = np.asarray(cv2.dct(np.eye(8, dtype=np.float32), flags=cv2.DCT_ROWS).T, np.float32)
"""The transform of a row of eight, ITU-T T.81, A.3.3."""
_SCAN, _END = 0xDA, 0xD9
_FRAMES = (0xC0, 0xC1, 0xC2)
_MARKER = re.compile(rb"\xff([^\x00\xff\xd0-\xd7])", re.DOTALL)


@dataclass(frozen=True)
class Change:
    """Change of 8-bit tones in a window: (rows, columns) or (rows, columns, 3), and its corner."""

    left: int
    top: int
    delta: Plane


@dataclass(frozen=True)
class _Segments:
    """A JPEG file's notes (APPn and COM segments), its frame, and what follows it.

    ``shape``: height and width. ``sampling``: of each component, across and down. ``rgb``: whether
    components are colours themselves.
    """

    notes: bytes
    shape: tuple[int, int]
    sampling: tuple[tuple[int, int], ...]
    rgb: bool
    rest: bytes


def changed_jpeg(source: Path, changes: Sequence[Change]) -> bytes:
    """The file's bytes with the changes in it.

    Raises `UnusableFrameError` where the file's coding is one that cannot be kept.
    """
    parts = _parsed(source.read_bytes())
    if len(parts.sampling) not in (1, 3):
        raise UnusableFrameError("its colours are printing ones (CMYK). Export it as RGB.")
    coded = read_coefficients(source, parts.shape, parts.sampling)
    for change in changes:
        _apply(coded, parts, change)
    with tempfile.TemporaryDirectory() as folder:
        written = Path(folder) / "patched.jpg"
        write_coefficients(written, coded, "rgb" if parts.rgb else "luma")
        return _joined(parts, written.read_bytes())


def _apply(coded: Coefficients, parts: _Segments, change: Change) -> None:
    """Add one change to the coefficients of the blocks under it."""
    colours = change.delta if change.delta.ndim == 3 else change.delta[..., None]
    if colours.shape[2] == 3 and len(coded.planes) == 3 and not parts.rgb:
        colours = colours @ _TO_YCC.T
    wide, high = (max(s[axis] for s in parts.sampling) for axis in (0, 1))
    for index, plane in enumerate(coded.planes):
        across, down = wide // parts.sampling[index][0], high // parts.sampling[index][1]
        delta = _sampled(colours[..., min(index, colours.shape[2] - 1)], change, across, down)
        _move(plane, coded.tables[coded.table_of[index]], *delta)


def _sampled(delta: Plane, change: Change, across: int, down: int) -> tuple[Plane, int, int]:
    """A change on the blocks' grid: padded to whole blocks, with its first block row and column."""
    wide, high = 8 * across, 8 * down
    first_row, first_column = change.top // high, change.left // wide
    top, left = change.top - first_row * high, change.left - first_column * wide
    rows = -(-(top + delta.shape[0]) // high) * high
    columns = -(-(left + delta.shape[1]) // wide) * wide
    padded = np.zeros((rows, columns), np.float32)
    padded[top : top + delta.shape[0], left : left + delta.shape[1]] = delta
    small = padded.reshape(rows // down, down, columns // across, across).mean(axis=(1, 3))
    return np.asarray(small, np.float32), first_row, first_column


def _move(plane: Any, table: Any, delta: Plane, first_row: int, first_column: int) -> None:
    """Move the coefficients of all blocks under a change at once; what lies outside is cut off."""
    high = min(delta.shape[0] // 8, plane.shape[0] - first_row)
    wide = min(delta.shape[1] // 8, plane.shape[1] - first_column)
    if high <= 0 or wide <= 0:
        return
    blocks = delta[: 8 * high, : 8 * wide].reshape(high, 8, wide, 8).swapaxes(1, 2)
    moved = np.rint(_COSINES @ blocks @ _COSINES.T / np.asarray(table, np.float32))
    where = np.s_[first_row : first_row + high, first_column : first_column + wide]
    plane[where] = np.clip(plane[where] + moved, -1023, 1023).astype(plane.dtype)


def _parsed(data: bytes) -> _Segments:
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
            return _segments(notes, frame, data[_end_of(data, end) :])
        at = end
    raise UnusableFrameError(
        "its JPEG coding is a rare one that cannot be kept. Save it as a usual JPEG or as TIFF."
    )


def _segments(notes: Sequence[bytes], frame: bytes, rest: bytes) -> _Segments:
    if frame[0] != 8:
        raise UnusableFrameError("its JPEG coding has more than 8 bits, which is not supported.")
    parts = [frame[6 + 3 * i : 9 + 3 * i] for i in range(frame[5])]
    return _Segments(
        notes=b"".join(notes),
        shape=(int.from_bytes(frame[1:3], "big"), int.from_bytes(frame[3:5], "big")),
        sampling=tuple((p[1] >> 4, p[1] & 15) for p in parts),
        rgb=_is_rgb(notes, bytes(p[0] for p in parts)),
        rest=rest,
    )


def _is_rgb(notes: Sequence[bytes], names: bytes) -> bool:
    """Whether three components are red, green and blue, as decoders tell it."""
    if any(n[:2] == b"\xff\xe0" and n[4:8] == b"JFIF" for n in notes):
        return False
    adobe = [n[15] for n in notes if n[:2] == b"\xff\xee" and n[4:9] == b"Adobe" and len(n) > 15]
    return adobe[-1] == 0 if adobe else names == b"RGB"


def _end_of(data: bytes, start: int) -> int:
    """Offset behind the picture's end marker; the file's end where there is none."""
    at = start
    while (found := _MARKER.search(data, at)) is not None:
        marker = found.group(1)[0]
        if marker == _END:
            return found.end()
        at = found.end() + int.from_bytes(data[found.end() : found.end() + 2], "big")
    return len(data)


def _joined(parts: _Segments, written: bytes) -> bytes:
    """The original's notes before the written picture, and what followed it after."""
    kept, at = [], 2
    while written[at + 1] != _SCAN:
        end = at + 2 + int.from_bytes(written[at + 2 : at + 4], "big")
        if not (0xE0 <= written[at + 1] <= 0xEF or written[at + 1] == 0xFE):
            kept.append(written[at:end])
        at = end
    return b"".join([b"\xff\xd8", parts.notes, *kept, written[at:], parts.rest])
