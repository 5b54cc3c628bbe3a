"""One row for each thing: touching shadows apart, rings and bars whole.

A region is cut where raising the level separates two parts that both stand well above the saddle
between them. Rings (droplets) are filled first, so that they are not cut into arcs; a small deep
part on a wide faint one is taken off it. Source: multi-level cutting after Bertin & Arnouts,
Astron. Astrophys. Suppl. 117, 393 (1996), https://doi.org/10.1051/aas:1996164, with saddle
prominence in place of flux shares.
"""

from __future__ import annotations

import cv2
import numpy as np

from neatpatch.core.filters import Mask, widened
from neatpatch.core.frame import Image

_LEVELS = 14
_PROMINENCE = 0.2
_SIGNIFICANT = 6.0
_ROUND_FILL = 0.72
_CORE_SHARE = 0.22
_CORE_LEVELS = (0.3, 0.45, 0.6)
_MAX_DEPTH = 8
_LIMB_SHARE = 0.15


def split(smooth: Image, mask: Mask, sigma: float, depth: int = 0) -> list[Mask]:
    """Masks of the separate things in ``mask``; ``smooth`` is loss, ``sigma`` its noise.

    An empty mask gives an empty list; the masks never overlap and stay inside the filled mask.
    """
    if not mask.any():
        return []
    if is_ring(smooth, mask) or depth >= _MAX_DEPTH:
        return [filled(mask)]
    peak = float(smooth[mask].max())
    low = max(2 * sigma, 0.02 * peak)
    if peak <= low * 1.5:
        return [mask]
    for level in np.geomspace(low, 0.85 * peak, _LEVELS):
        parts = _prominent_parts(smooth, mask, float(level), sigma)
        if len(parts) > 1:
            pieces = [m for p in _nearest(mask, parts) for m in split(smooth, p, sigma, depth + 1)]
            return pieces
    bars = limbs(mask, smooth)
    if len(bars) > 1:
        return bars
    return _core_and_rest(smooth, mask, sigma, peak, depth)


def filled(mask: Mask) -> Mask:
    """The mask with its holes filled."""
    padded = np.pad(mask.astype(np.uint8), 1)
    cv2.floodFill(padded, None, (0, 0), 2)
    return np.asarray(padded[1:-1, 1:-1] != 2)


def roundness(mask: Mask) -> float:
    """Area over that of the circle around its longest extent: 1 for a disc, 0 for a line."""
    ys, xs = np.nonzero(mask)
    if xs.size < 3:
        return 1.0
    points = np.column_stack([xs, ys]).astype(np.float32)
    _, radius = cv2.minEnclosingCircle(points)
    return float(xs.size / (np.pi * (radius + 0.3) ** 2))


def is_ring(smooth: Image, mask: Mask) -> bool:
    """Whether the region is round, with a middle much lighter than its rim all round."""
    whole = filled(mask)
    area = int(whole.sum())
    if area < 40 or roundness(whole) < _ROUND_FILL:
        return False
    inner = cv2.distanceTransform(np.pad(whole, 1).astype(np.uint8), cv2.DIST_L2, 3)[1:-1, 1:-1]
    deepest = float(inner.max())
    core = inner > 0.75 * deepest
    rim = (inner > 0.2 * deepest) & (inner < 0.6 * deepest)
    if not core.any() or not rim.any():
        return False
    rim_level = float(np.percentile(smooth[rim], 75))
    return float(np.median(smooth[core])) < 0.55 * rim_level and _rim_closed(
        smooth, whole, rim_level
    )


def _rim_closed(smooth: Image, whole: Mask, level: float) -> bool:
    """Dark in nearly all directions from the centre."""
    ys, xs = np.nonzero(whole)
    cy, cx = ys.mean(), xs.mean()
    angle = np.arctan2(ys - cy, xs - cx)
    sector = ((angle + np.pi) / (2 * np.pi) * 12).astype(int).clip(0, 11)
    best = np.zeros(12)
    np.maximum.at(best, sector, smooth[ys, xs])
    return bool((best > 0.5 * level).sum() >= 11)


def _prominent_parts(smooth: Image, mask: Mask, level: float, sigma: float) -> list[Mask]:
    above = mask & (smooth > level)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        above.astype(np.uint8), connectivity=8
    )
    if count <= 2:
        return []
    parts = []
    for label in range(1, count):
        if stats[label, cv2.CC_STAT_AREA] < 2:
            continue
        part = labels == label
        top = float(smooth[part].max())
        if top - level > max(_SIGNIFICANT * sigma, _PROMINENCE * top):
            parts.append(part)
    return parts


def _nearest(mask: Mask, parts: list[Mask]) -> list[Mask]:
    """Share out the mask: every pixel to the part it lies closest to."""
    distances = [cv2.distanceTransform((~part).astype(np.uint8), cv2.DIST_L2, 5) for part in parts]
    owner = np.argmin(np.stack(distances), axis=0)
    return [mask & (owner == i) for i in range(len(parts))]


def limbs(mask: Mask, smooth: Image) -> list[Mask]:
    """Straight bars that cross or meet, apart. A single bar, bent or not, stays whole.

    Small leftovers as faint as the main bar are its ragged edge and go with it.
    """
    whole = filled(mask)
    if whole.sum() < 60 or roundness(whole) > 0.45:
        return [mask]
    inner = cv2.distanceTransform(np.pad(whole, 1).astype(np.uint8), cv2.DIST_L2, 3)[1:-1, 1:-1]
    width = 2.0 * float(np.percentile(inner[inner > 0], 85)) + 1
    if not _branched(whole, width):
        return [mask]
    rest = whole.copy()
    pieces: list[Mask] = []
    while rest.sum() > 0.12 * whole.sum() and len(pieces) < 6:
        bar = _longest_bar(whole, rest, width)
        if bar is None:
            break
        if not pieces or _own_limb(smooth, bar & rest, pieces[0], int(whole.sum())):
            pieces.append(bar)
        rest &= ~bar
    return [m & mask for m in _nearest(mask, pieces)] if len(pieces) > 1 else [mask]


def _own_limb(smooth: Image, piece: Mask, main: Mask, area: int) -> bool:
    if piece.sum() > _LIMB_SHARE * area:
        return True
    return float(np.median(smooth[piece])) > 2 * float(np.median(smooth[main]))


def _branched(whole: Mask, width: float) -> bool:
    """Whether more than 8 % of the pixels lie well off a single bent axis."""
    ys, xs = np.nonzero(whole)
    dx, dy = xs - xs.mean(), ys - ys.mean()
    _, vectors = np.linalg.eigh(np.cov(np.vstack([dx, dy])))
    axis = vectors[:, 1]
    s, t = dx * axis[0] + dy * axis[1], -dx * axis[1] + dy * axis[0]
    bend = np.polyfit(s, t, 3)
    astray = np.abs(t - np.polyval(bend, s)) > 0.75 * width
    return float(astray.mean()) > 0.08


def _longest_bar(whole: Mask, rest: Mask, width: float) -> Mask | None:
    """The straight strip that holds most of the rest, with what it shares with earlier bars."""
    ys, xs = np.nonzero(rest)
    best, found = 0, (0.0, 0.0)
    for angle in np.arange(0, 180, 3) * np.pi / 180:
        offset = (-xs * np.sin(angle) + ys * np.cos(angle)) / width
        for shift in (0.0, 0.5):
            strip = np.floor(offset - offset.min() + shift).astype(int)
            counts = np.bincount(strip)
            if counts.max() > best:
                best = int(counts.max())
                found = (float(angle), float(offset.min() - shift + counts.argmax()))
    angle, low = found
    rows, columns = np.indices(whole.shape)
    offset = (-columns * np.sin(angle) + rows * np.cos(angle)) / width
    strip = whole & (offset >= low - 0.25) & (offset < low + 1.25)
    _, labels = cv2.connectedComponents(strip.astype(np.uint8))
    inside = labels[rest & strip]
    if inside.size == 0:
        return None
    bar = labels == np.bincount(inside).argmax()
    return bar if (bar & rest).sum() > width * width else None


def _core_and_rest(smooth: Image, mask: Mask, sigma: float, peak: float, depth: int) -> list[Mask]:
    """A compact dark core on a wide faint ground is a thing of its own."""
    for share in _CORE_LEVELS:
        core = filled(mask & (smooth > share * peak))
        count, labels, stats, _ = cv2.connectedComponentsWithStats(core.astype(np.uint8))
        if count < 2 or core.sum() > _CORE_SHARE * mask.sum():
            continue
        main = labels == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
        reach = int(0.6 * np.sqrt(main.sum() / np.pi)) + 2
        halo = widened(main, reach)
        rest = mask & ~halo
        if rest.sum() < max(30, 0.4 * mask.sum()):
            continue
        ground = float(np.median(smooth[rest]))
        if _SIGNIFICANT / 2 * sigma < ground < 0.8 * share * peak:
            return [mask & halo, *split(smooth, rest, sigma, depth + 1)]
    return [mask]
