"""Straight bars that cross or meet, told apart.

Smears and fibres fall across one another. A region that no single bent line explains is taken as
bars: the strip that holds most of it is found over all directions, fitted to its own pixels, taken
away, and so on. Every pixel then goes to the bar whose axis it lies nearest to, in units of the
bar's own width. Source: the Radon (projection) search of lines, S. R. Deans, The Radon Transform
and Some of Its Applications, Wiley 1983, ch. 1.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, quantile
from neatpatch.core.common.frame import Image
from neatpatch.core.measure.shapes import bend_of, depths, filled, pixels_of, roundness

_LEAST_PIXELS = 60
"""Smaller regions show no limbs; larger would leave short crossings whole."""
_COMPACT = 0.45
"""Rounder than this is no crossing of threads."""
_STRAY_SHARE = 0.08
"""Share of a region off its main bar that makes it a crossing; less splits rough fibres."""
_LIMB_SHARE = 0.15
"""A limb takes at least this share; smaller ones are noise."""
_REST_SHARE = 0.12
"""What is left unexplained below this is skirt."""
_MOST_BARS = 6
"""More crossings than this in one region are a tangle, told as one."""
_EXPLAINED = 0.85
"""Bars that explain less are not what the region is made of."""
_WIDE_SHARE = 0.85
"""So many pixels lie nearer to the border than the middle of a bar does."""
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Bar:
    """A straight bar: centre, direction (unit vector), half width and half length, in pixels."""

    x: float
    y: float
    direction: tuple[float, float]
    half_width: float
    half_length: float

    def distance(self, xs: Floats, ys: Floats) -> Floats:
        """How far points lie outside, in half widths: below one inside."""
        dx, dy = xs - self.x, ys - self.y
        along = np.abs(dx * self.direction[0] + dy * self.direction[1])
        across = np.abs(-dx * self.direction[1] + dy * self.direction[0])
        beyond = np.maximum(along - self.half_length, 0.0)
        return np.asarray(np.sqrt(across * across + beyond * beyond) / self.half_width)


def crossed_bars(mask: Mask, smooth: Image) -> list[Mask]:
    """Masks of the bars in a mask; the mask itself when it is one bar, bent or not, or no bar.

    Small leftovers as faint as the main bar are its ragged edge and go with it.
    """
    if np.count_nonzero(mask) > _COMPACT * np.pi / 4 * (mask.shape[0] ** 2 + mask.shape[1] ** 2):
        return [mask]  # rounder than that even if its extent were the window's diagonal
    whole = filled(mask)
    if whole.sum() < _LEAST_PIXELS or roundness(whole) > _COMPACT:
        return [mask]
    width = _typical_width(whole)
    if not _branched(whole, width):
        return [mask]
    bars = _bars(whole, smooth, width)
    if len(bars) < 2:
        return [mask]
    xs, ys = pixels_of(mask)
    distances = np.stack([bar.distance(xs.astype(float), ys.astype(float)) for bar in bars])
    if float((distances.min(axis=0) < 1.4).mean()) < _EXPLAINED:
        return [mask]
    owner = distances.argmin(axis=0)
    pieces = []
    for number in range(len(bars)):
        piece = np.zeros_like(mask)
        piece[ys[owner == number], xs[owner == number]] = True
        pieces.append(piece)
    return pieces


def _typical_width(whole: Mask) -> float:
    inner = depths(whole)
    return 2.0 * quantile(inner[inner > 0], _WIDE_SHARE) + 1


def _branched(whole: Mask, width: float) -> bool:
    """Whether too many pixels lie well off a single bent axis."""
    xs, ys = pixels_of(whole)
    dx, dy = xs - xs.mean(), ys - ys.mean()
    _, vectors = np.linalg.eigh([[dx @ dx, dx @ dy], [dx @ dy, dy @ dy]])
    axis = vectors[:, 1]
    s, t = dx * axis[0] + dy * axis[1], -dx * axis[1] + dy * axis[0]
    u = s / max(float(np.abs(s).max()), 1.0)
    astray = np.abs(t - np.polyval(bend_of(u, t), u)) > 0.75 * width
    return float(astray.mean()) > _STRAY_SHARE


def _bars(whole: Mask, smooth: Image, width: float) -> list[Bar]:
    rest = whole.copy()
    bars: list[Bar] = []
    main_level = 0.0
    area = int(whole.sum())
    while rest.sum() > _REST_SHARE * area and len(bars) < _MOST_BARS:
        found = _longest_bar(whole, rest, width)
        if found is None:
            break
        bar, pixels = found
        fresh = pixels & rest
        level = float(np.median(smooth[fresh]))
        if not bars:
            main_level = level
        if fresh.sum() > _LIMB_SHARE * area or level > 2 * main_level:
            bars.append(bar)
        rest &= ~pixels
    return bars


def _longest_bar(whole: Mask, rest: Mask, width: float) -> tuple[Bar, Mask] | None:
    """The bar that holds most of the rest, and its pixels, shared ones included."""
    angle, low = _fullest_strip(rest, width)
    rows, columns = np.asarray(np.indices(whole.shape), np.float64)
    offset = (-columns * np.sin(angle) + rows * np.cos(angle)) / width
    pixels = _connected(whole & (offset >= low - 0.2) & (offset < low + 1.2), rest)
    bar = None
    for _ in range(3):
        bar = _fitted(pixels & rest, pixels)
        if bar is None:
            return None
        stretched = (bar.distance(columns, rows) < 1.15) & whole
        pixels = _connected(stretched, rest)
    if bar is None or (pixels & rest).sum() <= width * width:
        return None
    return bar, pixels


def _fullest_strip(rest: Mask, width: float) -> tuple[float, float]:
    """Direction (radians) of the strip as wide as a bar that holds most, and where it begins, in
    widths across. Strips begin at every half width, so that one is two halves side by side.
    """
    xs, ys = (v.astype(np.float64) for v in pixels_of(rest))
    best, angle, low = 0, 0.0, 0.0
    for candidate in np.arange(0, 180, 3) * np.pi / 180:
        offset = (ys * np.cos(candidate) - xs * np.sin(candidate)) / width
        first = float(offset.min())
        halves = np.bincount((2 * (offset - first)).astype(np.intp), minlength=2)
        strips = halves[:-1] + halves[1:]
        if strips.max() > best:
            best, angle = int(strips.max()), float(candidate)
            low = first + int(strips.argmax()) / 2
    return angle, low


def _connected(pixels: Mask, rest: Mask) -> Mask:
    """The connected part that holds most of the rest."""
    _, labels = cv2.connectedComponents(pixels.astype(np.uint8))
    inside = labels[rest & pixels]
    if inside.size == 0:
        return np.zeros_like(pixels)
    return np.asarray(labels == np.bincount(inside).argmax())


def _fitted(own: Mask, pixels: Mask) -> Bar | None:
    """Axis and width from a bar's own pixels, length from all it shares too."""
    xs, ys = pixels_of(own)
    if xs.size < _LEAST_PIXELS // 3:
        return None
    x, y = float(xs.mean()), float(ys.mean())
    _, vectors = np.linalg.eigh(np.cov(np.vstack([xs - x, ys - y])))
    dx, dy = float(vectors[0, 1]), float(vectors[1, 1])
    across = -(xs - x) * dy + (ys - y) * dx
    all_xs, all_ys = pixels_of(pixels)
    along = (all_xs - x) * dx + (all_ys - y) * dy
    first, last = float(along.min()), float(along.max())
    middle = (first + last) / 2
    half_width = max(1.0, float(np.std(across)) * np.sqrt(3))
    return Bar(x + middle * dx, y + middle * dy, (dx, dy), half_width, (last - first) / 2 + 1)
