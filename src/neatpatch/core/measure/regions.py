"""Regions of missing light: grown from what stands out, and told from the halos of finer ones.

Hysteresis: what exceeds a high threshold is grown down to a low one; J. Canny, IEEE PAMI 8, 679
(1986), https://doi.org/10.1109/TPAMI.1986.4767851.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, widened
from neatpatch.core.common.frame import Image
from neatpatch.core.common.parallel import run_in_halves

_SAME_THING = 0.35
"""A coarse region this deep against its finer one is another thing; more doubles halos."""
_HALVINGS = 3
_BLOCK = 2**_HALVINGS
"""Blocks in which components are searched for: labels for an eighth each way are sixty times
fewer.
"""
MOST_MARKS = 1500
"""More marks than this are no dust: a sensor that bad shows on the glass. The dirtiest practice
frames have 400; a halftone has thousands, each of which would take milliseconds."""


@dataclass(frozen=True)
class Region:
    """A patch of missing light; ``mask`` is in binned pixels from (``top``, ``left``)."""

    top: int
    left: int
    mask: Mask


@dataclass(frozen=True)
class GrownRegions:
    """What was grown at one level of the pyramid, in its pixels, cropped to itself."""

    top: int
    left: int
    mask: Mask


def grow_regions(signal: Image, seed: float, least: float) -> tuple[list[GrownRegions], int]:
    """What exceeds ``seed``, grown down to ``least`` (both in units of the signal), and how many.

    Nothing and 0 where nothing exceeds it; beyond ``MOST_MARKS`` their number alone.
    """
    high, low = np.float32(seed), np.float32(least)
    highest = highest_in_block(signal)
    marks = cv2.connectedComponents((highest > high).view(np.uint8), connectivity=8)[0] - 1
    if not 0 < marks <= MOST_MARKS:
        return [], marks
    found = []
    for top, left, blocks in _seeded_blocks(highest > high, highest > low):
        here = signal[top : top + blocks.shape[0], left : left + blocks.shape[1]]
        inside = blocks[: here.shape[0], : here.shape[1]]
        own = ((here > low) & inside).view(np.uint8)
        _, labels, stats, _ = cv2.connectedComponentsWithStats(own, connectivity=8)
        for label in np.flatnonzero(np.bincount(labels[(here > high) & inside])):
            x, y, columns, rows = (int(v) for v in stats[label, :4])
            crop = labels[y : y + rows, x : x + columns] == label
            found.append(GrownRegions(top + y, left + x, crop))
    return found, len(found)


def _seeded_blocks(seeded: Mask, spread: Mask) -> Iterator[tuple[int, int, Mask]]:
    """Windows (top, left, mask of pixels) over whole components of ``spread`` blocks with a
    ``seeded`` one; they may reach beyond the picture by a part of a block.

    Components are searched for among blocks of pixels first: what touches in pixels touches in
    blocks, so none is cut, and the noise between is never labelled pixel by pixel.
    """
    _, labels, stats, _ = cv2.connectedComponentsWithStats(spread.view(np.uint8), connectivity=8)
    wanted = np.flatnonzero(np.bincount(labels[seeded]))
    for label in wanted[wanted > 0]:
        x, y, columns, rows = (int(v) for v in stats[label, :4])
        blocks = labels[y : y + rows, x : x + columns] == label
        yield y * _BLOCK, x * _BLOCK, _enlarged(blocks, _BLOCK)


def highest_in_block(signal: Image) -> Image:
    """The largest value of each block of 8 by 8; blocks at the end may be incomplete."""
    height, width = signal.shape
    rows, columns = (-(-n // _BLOCK) for n in signal.shape)
    tall: Image = np.full((rows, columns * _BLOCK), -np.inf, np.float32)
    whole = height // _BLOCK

    def some(first: int, last: int) -> None:
        strips = signal[first * _BLOCK : last * _BLOCK].reshape(-1, _BLOCK, width)
        strips.max(axis=1, out=tall[first:last, :width])

    run_in_halves(whole, some)
    if whole < rows:
        signal[whole * _BLOCK :].max(axis=0, out=tall[whole, :width])
    for _ in range(_HALVINGS):
        tall = np.maximum(tall[:, 0::2], tall[:, 1::2])
    return tall


def _enlarged(mask: Mask, zoom: int) -> Mask:
    """Every pixel repeated ``zoom`` times both ways."""
    return np.asarray(np.repeat(np.repeat(mask, zoom, axis=0), zoom, axis=1))


class Regions:
    """Regions of a loss map, level by level from fine to coarse; a pixel belongs to one at most."""

    def __init__(self, loss: Image) -> None:
        self._loss = loss
        self._labels: NDArray[np.int16] = np.zeros(loss.shape, np.int16)
        self._found: list[Region] = []

    def __len__(self) -> int:
        """How many were added, those that larger ones swallowed included."""
        return len(self._found)

    @property
    def kept(self) -> tuple[Region, ...]:
        """Those that no larger one swallowed."""
        return tuple(r for r in self._found if r.mask.any())

    @property
    def occupied(self) -> Mask:
        """The pixels that belong to any."""
        return np.asarray(self._labels > 0)

    def add(self, one: GrownRegions, level: int, sigma: float) -> None:
        """Add what a level (0 the finest) shows, unless a finer one has explained it already.

        ``sigma``: the noise of that level, as a share of the light.
        """
        zoom = 2**level
        top, left = one.top * zoom, one.left * zoom
        big = _enlarged(one.mask, zoom) if zoom > 1 else one.mask
        window = np.s_[top : top + big.shape[0], left : left + big.shape[1]]
        labels = self._labels[window]
        big = big[: labels.shape[0], : labels.shape[1]].copy()
        known = np.flatnonzero(np.bincount(labels[big]))
        known = known[known > 0]
        if known.size:
            beyond = self._beyond(_Window(labels, self._loss[window]), big, known, sigma)
            if beyond is None:
                return
            big = beyond
        self._found.append(Region(top, left, big))
        labels[big] = len(self._found)

    def _beyond(
        self, window: _Window, big: Mask, known: NDArray[np.intp], sigma: float
    ) -> Mask | None:
        """What a coarse region adds to finer ones: None if it is only their halo.

        Finer regions no deeper than the rest of it are its fragments and are swallowed.
        """
        old = window.any_of(known)
        shared = np.count_nonzero(old & big)
        reach = max(2, int(0.6 * np.sqrt(shared / np.pi)) + 1)
        rest = big & ~widened(old, reach)
        if np.count_nonzero(rest) < max(0.5 * shared, 12):
            return self._bridged(window, big, old, known)
        level = float(np.mean(window.loss[rest]))
        if level < 0.5 * sigma:
            return None
        swallowed = known[window.means(known) * _SAME_THING < level]
        whole = big & (~old | window.any_of(swallowed))
        self._remove(window, swallowed)
        return whole

    def _bridged(
        self, window: _Window, big: Mask, old: Mask, known: NDArray[np.intp]
    ) -> Mask | None:
        """Several finer pieces bridged by loss of their own depth are one thing."""
        bridge = big & ~old
        if known.size < 2 or not bridge.any():
            return None
        level = float(np.mean(window.loss[bridge]))
        pieces = known[window.means(known) * _SAME_THING < level]
        if len(pieces) < 2:
            return None
        joined = bridge | window.any_of(pieces)
        self._remove(window, pieces)
        return joined

    def _remove(self, window: _Window, labels: NDArray[np.intp]) -> None:
        for label in labels:
            old = self._found[label - 1]
            self._found[label - 1] = Region(old.top, old.left, np.zeros((1, 1), bool))
            window.labels[window.labels == label] = 0


@dataclass(frozen=True)
class _Window:
    """The labels of regions and the loss in a part of the map."""

    labels: NDArray[np.int16]
    loss: Image

    def means(self, labels: NDArray[np.intp]) -> NDArray[np.float64]:
        """Mean loss under each of these labels."""
        places = self.labels.ravel()
        sums = np.bincount(places, weights=self.loss.ravel())
        return np.asarray(sums[labels] / np.bincount(places)[labels])

    def any_of(self, labels: Sequence[int] | NDArray[np.intp]) -> Mask:
        """Where any of these labels stands."""
        if len(labels) == 1:
            return np.asarray(self.labels == labels[0])
        return np.isin(self.labels, np.asarray(labels, np.int16))
