"""JPEG files whose touched blocks alone are encoded again.

The quantised coefficients of the file are read, and what is looked at is decoded from them. Those
of 8 x 8 blocks that a patch touches are moved by the transform of the patch's change, rounded with
the file's own tables, and all are written without loss. Source: ITU-T T.81, Annex A.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.images.coefficients import Coefficients, read_coefficients, write_coefficients
from neatpatch.images.jpeg_segments import Segments, joined, segments_of

Plane = NDArray[np.float32]
Tones8 = NDArray[np.uint8]

_TO_YCC = np.array(
    [[0.299, 0.587, 0.114], [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]], np.float32
)
"""ITU-T T.871."""
_FROM_YCC = np.asarray(np.linalg.inv(_TO_YCC), np.float32)
_MIDDLE, _DIFFERENCES = 128.0, np.array([0, 1, 1], np.float32)
"""The tone of a block without any frequency; differences of colour are stored about it."""
_ROWS = 8
"""Of blocks, decoded at once."""
_COSINES = np.asarray(cv2.dct(np.eye(8, dtype=np.float32), flags=cv2.DCT_ROWS).T, np.float32)
"""The transform of a row of eight, ITU-T T.81, A.3.3."""


@dataclass(frozen=True)
class Change:
    """Change of 8-bit tones in a window: (rows, columns) or (rows, columns, 3), and its corner."""

    left: int
    top: int
    delta: Plane


class JpegBlocks:
    """A JPEG picture as its coefficients, decoded where it is asked; 8-bit tones."""

    def __init__(self, source: Path) -> None:
        """Raises `UnusableFrameError` where the file is damaged or its coding cannot be kept."""
        self._parts = segments_of(source.read_bytes())
        self._coded = read_coefficients(source, self._parts)

    @property
    def ended(self) -> bool:
        """Whether the file has its end marker; without, it may be cut short."""
        return self._parts.ended

    @property
    def shape(self) -> tuple[int, ...]:
        """Height, width, and 3 for colours."""
        return self._parts.shape + (3,) * (len(self._parts.sampling) == 3)

    def __getitem__(self, window: tuple[slice, slice]) -> Tones8:
        """Tones of some rows and columns, as decoders have them but for the rounding."""
        rows, columns = (
            range(*part.indices(most)) for part, most in zip(window, self._parts.shape, strict=True)
        )
        planes = [self._decoded(index, rows, columns) for index in range(len(self._coded.planes))]
        tones = np.stack(planes, axis=-1) if len(planes) == 3 else planes[0]
        if len(planes) == 3 and not self._parts.rgb:
            tones = (tones - _MIDDLE * _DIFFERENCES) @ _FROM_YCC.T
        return np.clip(np.rint(tones), 0, 255).astype(np.uint8)

    def luma(self, step: int) -> Tones8:
        """Luma, means over squares of ``step`` pixels: 1, 2, 4 or 8."""
        side = 8 // step
        means = _COSINES.reshape(8, side, step).mean(axis=2)
        height, width = (n // step for n in self._parts.shape)
        planes = [
            _spread_out(plane, self._table(index), means)[:height, :width]
            for index, plane in enumerate(self._coded.planes[: 3 if self._parts.rgb else 1])
        ]
        mixed = planes[0] if len(planes) == 1 else np.stack(planes, axis=-1) @ _TO_YCC[0]
        return np.asarray(np.clip(np.rint(mixed), 0, 255), np.uint8)

    def changed(self, changes: Sequence[Change]) -> bytes:
        """The file's bytes with the changes in it. Changes it: for the last use."""
        for change in changes:
            _apply(self._coded, self._parts, change)
        with tempfile.TemporaryDirectory() as folder:
            written = Path(folder) / "patched.jpg"
            write_coefficients(written, self._coded, self._parts)
            return joined(self._parts, written.read_bytes())

    def _table(self, index: int) -> NDArray[np.float32]:
        return np.asarray(self._coded.tables[self._coded.table_of[index]], np.float32)

    def _decoded(self, index: int, rows: range, columns: range) -> Plane:
        """One component in a window, enlarged where it is stored smaller."""
        across, down = self._parts.coarser(index)
        top, left = rows.start // (8 * down), columns.start // (8 * across)
        bottom, right = -(-rows.stop // (8 * down)), -(-columns.stop // (8 * across))
        blocks = self._coded.planes[index][top:bottom, left:right]
        plane = _spread_out(blocks, self._table(index), _COSINES)
        if (across, down) != (1, 1):
            size = plane.shape[1] * across, plane.shape[0] * down
            plane = np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_LINEAR), np.float32)
        y, x = rows.start - top * 8 * down, columns.start - left * 8 * across
        return plane[y : y + len(rows), x : x + len(columns)]


def _spread_out(blocks: NDArray[np.int16], table: Plane, means: Plane) -> Plane:
    """Blocks (rows, columns, 8, 8) as a plane; ``means`` (8, n): n places of each frequency.

    Both directions and the table are one product, and some rows at once stay in the cache.
    """
    high, wide, side = blocks.shape[0], blocks.shape[1], means.shape[1]
    product = np.einsum("uv,ua,vb->uvab", table, means, means).reshape(64, side * side)
    out = np.empty((high * side, wide * side), np.float32)
    for row in range(0, high, _ROWS):
        some = blocks[row : row + _ROWS]
        tones = some.reshape(-1, 64).astype(np.float32) @ product + _MIDDLE
        there = np.s_[row * side : (row + len(some)) * side]
        out[there] = (
            tones.reshape(len(some), wide, side, side).swapaxes(1, 2).reshape(-1, wide * side)
        )
    return out


def _apply(coded: Coefficients, parts: Segments, change: Change) -> None:
    """Add one change to the coefficients of the blocks under it."""
    colours = change.delta if change.delta.ndim == 3 else change.delta[..., None]
    if colours.shape[2] == 3 and len(coded.planes) == 3 and not parts.rgb:
        colours = colours @ _TO_YCC.T
    for index, plane in enumerate(coded.planes):
        across, down = parts.coarser(index)
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
