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

from neatpatch.core.common.filters import Mask, binned, quantile, widened
from neatpatch.core.common.frame import Image
from neatpatch.core.measure.crossed_bars import crossed_bars
from neatpatch.core.measure.shapes import depths, filled, pixels_of, roundness
from neatpatch.core.measure.threads import Part, thread_parts

_LEVELS = np.linspace(0.0, 1.0, 10)
_PROMINENCE = 0.2
"""Of a peak over its saddle. Lower splits rough specks, higher leaves touching ones joined."""
_SIGNIFICANT = 6.0
"""In noise: lower splits at noise, higher leaves faint pairs joined."""
_ROUND_FILL = 0.72
"""Rounder regions are one thing; two that touch fill less of their common disc."""
_CORE_SHARE = 0.22
"""A core larger than this is the thing itself, not one of several in it."""
_ROUND_WINGS = 0.65
"""Wings rounder than this belong to the speck in their middle."""
_OFF_MIDDLE = 0.06
"""A peak further from the middle is another thing on the wings."""
_CORE_LEVELS = (0.3, 0.45, 0.6)
"""Shares of the peak at which cores are searched for: low, half, high."""
_NEIGHBOURS = np.ones((3, 3), np.uint8)
_MAX_DEPTH = 8
"""Splits within splits; a bound that clumps of real dust do not reach."""
_MANY_PIXELS = 3_000
"""Larger regions are split on halved pixels: as good, and bounded in time."""


def parts_of(smooth: Image, mask: Mask, sigma: float) -> list[Part]:
    """The separate things of a region: threads whole however bent, the rest as `split_region`."""
    threads = None if is_ring(smooth, mask) else thread_parts(smooth, mask)
    return threads or [Part(m) for m in split_region(smooth, mask, sigma)]


def split_region(smooth: Image, mask: Mask, sigma: float) -> list[Mask]:
    """Masks of the separate things in ``mask``; ``smooth`` is loss, ``sigma`` its noise.

    An empty mask gives an empty list; the masks never overlap and stay inside the filled mask.
    Wide regions are looked at in pairs of pixels, but for bars.
    """
    area = int(np.count_nonzero(mask))
    if area == 0:
        return []
    if is_ring(smooth, mask):
        return [filled(mask)]
    bars = crossed_bars(mask, smooth)
    if len(bars) > 1:
        return bars
    if area < _MANY_PIXELS:
        return _at_saddles(smooth, mask, sigma, 0)
    odd = mask.shape[0] % 2, mask.shape[1] % 2
    even = cv2.copyMakeBorder(mask.view(np.uint8), 0, odd[0], 0, odd[1], cv2.BORDER_CONSTANT)
    pairs = np.maximum(even[::2], even[1::2])
    coarse = np.asarray(np.maximum(pairs[:, ::2], pairs[:, 1::2]) > 0)
    framed = cv2.copyMakeBorder(smooth, 0, odd[0], 0, odd[1], cv2.BORDER_REPLICATE)
    parts = _at_saddles(binned(np.asarray(framed, np.float32), 2), coarse, sigma, 0)
    if len(parts) == 1:
        return [mask]
    whole = filled(mask)
    return [
        np.repeat(np.repeat(p, 2, axis=0), 2, axis=1)[: mask.shape[0], : mask.shape[1]] & whole
        for p in parts
    ]


def _split_again(smooth: Image, mask: Mask, sigma: float, depth: int) -> list[Mask]:
    if is_ring(smooth, mask) or depth >= _MAX_DEPTH:
        return [filled(mask)]
    bars = crossed_bars(mask, smooth)
    return bars if len(bars) > 1 else _at_saddles(smooth, mask, sigma, depth)


def _at_saddles(smooth: Image, mask: Mask, sigma: float, depth: int) -> list[Mask]:
    peak = float(smooth[mask].max())
    low = max(2 * sigma, 0.02 * peak)
    if peak <= low * 1.5:
        return [mask]
    tops = _tops(smooth, mask, low)
    for level in low * (0.85 * peak / low) ** _LEVELS:
        if np.count_nonzero(_prominent(tops, float(level), sigma)) < 2:
            break
        parts = _prominent_parts(smooth, mask, float(level), sigma)
        if len(parts) > 1:
            pieces = [
                m for p in _nearest(mask, parts) for m in _split_again(smooth, p, sigma, depth + 1)
            ]
            return pieces
    return _core_and_rest(smooth, mask, sigma, peak, depth)


def _tops(smooth: Image, mask: Mask, low: float) -> Image:
    """Values of the local maxima above ``low``, of which every part at any level has one."""
    inside = np.where(mask, smooth, -np.inf).astype(np.float32)
    return inside[(inside >= cv2.dilate(inside, _NEIGHBOURS)) & (inside > low)]


def _prominent(tops: Image, level: float, sigma: float) -> Mask:
    """Which of these tops stand out over a level: the fewer, the higher it is."""
    return np.asarray(tops - level > np.maximum(_SIGNIFICANT * sigma, _PROMINENCE * tops))


def is_ring(smooth: Image, mask: Mask) -> bool:
    """Whether the region is round, with a middle much lighter than its rim all round."""
    if _dark_in_the_middle(smooth, mask):
        return False
    whole = filled(mask)
    area = int(whole.sum())
    if area < 40 or roundness(whole) < _ROUND_FILL:
        return False
    inner = depths(whole)
    deepest = float(inner.max())
    core = inner > 0.75 * deepest
    rim = (inner > 0.2 * deepest) & (inner < 0.6 * deepest)
    if not core.any() or not rim.any():
        return False
    rim_level = quantile(smooth[rim], 0.75)
    return quantile(smooth[core], 0.5) < 0.55 * rim_level and _rim_closed(smooth, whole, rim_level)


def _dark_in_the_middle(smooth: Image, mask: Mask) -> bool:
    """Nearly as deep at the centroid as anywhere: no ring, told without looking further."""
    moments = cv2.moments(mask.view(np.uint8), binaryImage=True)
    if moments["m00"] <= 0:
        return True
    x, y = int(moments["m10"] / moments["m00"]), int(moments["m01"] / moments["m00"])
    return bool(mask[y, x] and smooth[y, x] > 0.75 * smooth[mask].max())


def _rim_closed(smooth: Image, whole: Mask, level: float) -> bool:
    """Dark in nearly all directions from the centre."""
    xs, ys = pixels_of(whole)
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
        if _prominent(smooth[part].max(), level, sigma):
            parts.append(part)
    return parts


def _nearest(mask: Mask, parts: list[Mask]) -> list[Mask]:
    """Share out the mask: every pixel to the part it lies closest to."""
    distances = [cv2.distanceTransform((~part).astype(np.uint8), cv2.DIST_L2, 5) for part in parts]
    owner = np.argmin(np.stack(distances), axis=0)
    return [mask & (owner == i) for i in range(len(parts))]


def _same_middle(mask: Mask, core: Mask) -> bool:
    """Whether a round region lies all round its core: the wings of one blurred thing."""
    whole = filled(mask)
    if roundness(whole) < _ROUND_WINGS:
        return False
    (y, x), (v, u) = (np.argwhere(m).mean(axis=0) for m in (whole, core))
    return bool(np.hypot(y - v, x - u) < _OFF_MIDDLE * np.sqrt(np.count_nonzero(whole)))


def _core_and_rest(smooth: Image, mask: Mask, sigma: float, peak: float, depth: int) -> list[Mask]:
    """A compact dark core on a wide faint ground is a thing of its own, unless in its midst."""
    area = int(np.count_nonzero(mask))
    for share in _CORE_LEVELS if depth < _MAX_DEPTH else ():
        deep = mask & (smooth > share * peak)
        if np.count_nonzero(deep) > _CORE_SHARE * area:
            continue
        core = filled(deep)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(core.astype(np.uint8))
        if count < 2 or np.count_nonzero(core) > _CORE_SHARE * area:
            continue
        main = labels == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
        reach = int(0.6 * np.sqrt(main.sum() / np.pi)) + 2
        halo = widened(main, reach)
        rest = mask & ~halo
        if np.count_nonzero(rest) < max(30, 0.4 * area):
            continue
        if _same_middle(mask, main):
            return [mask]
        ground = quantile(smooth[rest], 0.5)
        if _SIGNIFICANT / 2 * sigma < ground < 0.8 * share * peak:
            others = _core_and_rest(smooth, rest, sigma, float(smooth[rest].max()), depth + 1)
            return [mask & halo, *others]
    return [mask]
