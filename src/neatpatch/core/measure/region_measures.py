"""Position, light loss, depth and shape of one region, at full resolution.

All quantities are photometric: sums over the fraction of light lost. The integrated loss of an
opaque particle equals its area whatever the blur, which is why sizes come from it.
Sources: integrated photometry and centroids, P. B. Stetson, Publ. Astron. Soc. Pac. 99, 191 (1987),
https://doi.org/10.1086/131977; axes from second moments, M.-K. Hu, IRE Trans. Inf. Theory 8, 179
(1962), https://doi.org/10.1109/TIT.1962.1057692.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, binned, quantile, smoothed, widened
from neatpatch.core.common.frame import Image, Light
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.shapes import bend_of, extent_of, pixels_of

_PROFILE_REACH = 100
"""Radial profiles end here at the latest, in pixels of the (binned) patch."""
_ROUND_VARIANCE = 2.0
"""Only round things have a radial profile."""
_PROFILE_WIDTHS = 1.2
"""Times the side of the square of this depth and loss: beyond, no shadow that fits the blur."""
_FAINT = 45.0
"""Below this signal to noise the centroid is windowed."""
_MAYBE_LONG = 0.5
"""Only such fills are worth the search for a long axis, which takes most of the time."""
_COURSE_POINTS = 7
"""A cubic bend between two ends is held by as few points to a small part of a thread's width."""
_MANY_PIXELS = 4_000
"""Regions of more pixels are measured on binned data: they are wide and well sampled anyway."""


@dataclass(frozen=True)
class RegionPatch:
    """A window on one region: loss, its own pixels, and pixels free of any.

    ``top`` and ``left`` are full-resolution pixels; large regions are binned by ``zoom``.
    """

    top: int
    left: int
    loss: Image
    mine: Mask
    free: Mask
    zoom: int = 1


@dataclass(frozen=True)
class RegionMeasures:
    """Plain measurements of one region, in full-resolution pixels.

    ``loss_px2``: integrated loss (area of the equal opaque disc). ``variance``: of the loss along
    its long and short axis. ``profile``: mean loss in rings of ``profile_step_px`` about the
    centroid, empty for long things. ``length_px``, ``fwhm_px``: length between half-loss ends
    along the bent axis and full width at half loss across it; ``course_px``: points of that axis,
    (n, 2) from the centroid, empty where it was not searched for. ``extent_px``: longest extent of
    the part deeper than 30 % of the depth, ``fill`` that part's area over its enclosing circle's,
    ``spread_px2`` the mean variance of the loss in it along two axes. ``hollow``: loss in the
    middle over the depth. ``edge_px``: depth over steepest slope, the width of the edge.
    ``noise``: of one pixel. ``is_thread``: its width says that it is one thin thing, however bent;
    length and course are then along all of it.
    """

    x_px: float
    y_px: float
    loss_px2: float
    depth: float
    snr: float
    variance: tuple[float, float]
    angle_deg: float
    area_px: int
    profile: NDArray[np.float64]
    profile_step_px: int
    length_px: float
    fwhm_px: float
    course_px: NDArray[np.float64]
    extent_px: float
    fill: float
    spread_px2: float
    hollow: float
    edge_px: float
    noise: float
    at_border: bool
    is_thread: bool = False

    @property
    def elongation(self) -> float:
        """Ratio of the long to the short axis by second moments."""
        return float(np.sqrt(self.variance[0] / max(self.variance[1], 1e-3)))

    @property
    def core_px(self) -> float:
        """Diameter of the disc of this depth with this loss: at least the blur, for any speck."""
        return float(np.sqrt(4 / np.pi * max(self.loss_px2, 1e-6) / max(self.depth, 1e-6)))


@dataclass(frozen=True)
class Binned:
    """A mask on light binned by ``step``, its corner in binned pixels."""

    mask: Mask
    step: int
    top: int = 0
    left: int = 0


def cut_patch(
    light: Light, background: Background, occupied_map: Mask, region: Binned
) -> RegionPatch:
    """Window around a binned mask with room for a ring of background, zero level set there."""
    mask, step, top, left = region.mask, region.step, region.top, region.left
    size = max(mask.shape) * step
    zoom = 1
    pixels = int(np.count_nonzero(mask))
    while pixels * (step / zoom) ** 2 > _MANY_PIXELS:
        zoom *= 2
    pad = (int(8 + 0.35 * min(size, 400)) // zoom + 1) * zoom
    height, width = light.shape
    y0, x0 = (max(0, (v * step - pad) // zoom * zoom) for v in (top, left))
    rows = (min(height, (top + mask.shape[0]) * step + pad) - y0) // zoom
    columns = (min(width, (left + mask.shape[1]) * step + pad) - x0) // zoom
    here = binned(light[y0 : y0 + rows * zoom, x0 : x0 + columns * zoom], zoom)
    loss = np.asarray(1.0 - here / background.patch(y0, x0, rows, columns, zoom), np.float32)
    ys = (y0 + np.arange(rows) * zoom) // step
    xs = (x0 + np.arange(columns) * zoom) // step
    occupied = _window_of(occupied_map, 0, 0, ys, xs)
    mine = _window_of(mask, top, left, ys, xs)
    grow = 1 + -(-(step + int(0.06 * min(size, 100))) // zoom)
    grown = widened(mine, grow, round_=True) & ~_others(loss, mine, occupied, grow)
    free = ~widened(occupied | mine, grow, round_=True)
    if np.count_nonzero(free) > 50:
        zero = _sampled_median(loss[free])
        loss = np.asarray((loss - zero) / max(1 - zero, 0.1), np.float32)
    return RegionPatch(y0, x0, loss, np.asarray(grown), np.asarray(free), zoom)


def _others(loss: Image, mine: Mask, occupied: Mask, grow: int) -> Mask:
    """Pixels of other regions, with their skirts where those are much deeper than this one."""
    others = occupied & ~mine
    if not others.any() or not mine.any():
        return others
    if float(loss[mine].mean()) > 0.5 * quantile(loss[others], 0.75):
        return others
    return widened(others, grow, round_=True)


def _sampled_median(values: Image) -> float:
    return quantile(values[:: max(1, values.size // 4000)], 0.5)


def _window_of(
    mask: NDArray[np.bool_], top: int, left: int, ys: NDArray[np.intp], xs: NDArray[np.intp]
) -> Mask:
    """Values of a binned mask placed at (``top``, ``left``) at the given rows and columns."""
    out = np.zeros((ys.size, xs.size), np.uint8)
    y, x = ys - top, xs - left
    first, last = (int(np.searchsorted(y, edge)) for edge in (0, mask.shape[0]))
    start, stop = (int(np.searchsorted(x, edge)) for edge in (0, mask.shape[1]))
    if first < last and start < stop:
        rows, columns = y[first:last], x[start:stop]
        part = mask[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1].view(np.uint8)
        near = part.take(rows - rows[0], axis=0).take(columns - columns[0], axis=1)
        out[first:last, start:stop] = near
    return out.view(bool)


def measure_region(
    patch: RegionPatch, white_noise: float, frame_shape: tuple[int, int]
) -> RegionMeasures | None:
    """Measure a patch; None when no light is missing in sum (a mask of noise)."""
    xs, ys = (v.astype(np.float64) for v in pixels_of(patch.mine))
    if xs.size == 0:
        return None
    values = patch.loss[patch.mine].astype(np.float64)
    total = float(values.sum())
    if total <= 0:
        return None
    z = patch.zoom
    weights = np.asarray(np.maximum(values, 0.0), np.float64)
    x, y = _centroid(xs, ys, values, weights)
    rough = quantile(values, 0.98)
    if np.sqrt(max(rough, 0.0) * total) < _FAINT * white_noise:
        x, y = _windowed(xs, ys, values, x, y, total / max(rough, 1e-6))
    dx, dy = xs - x, ys - y
    variance, axis = _axes(dx, dy, weights)
    smooth = smoothed(patch.loss, _depth_smoothing(xs.size, rough, white_noise))
    inside = smooth[patch.mine]
    depth = float(np.clip(inside.max(), 1e-5, 1.0))
    energy = float(np.linalg.norm(inside.astype(np.float64)))
    strong = inside > 0.3 * depth
    extent = extent_of(xs[strong], ys[strong]) + 1
    fill = min(1.0, float(np.count_nonzero(strong)) / (np.pi / 4 * (extent - 0.4) ** 2))
    long = Course(extent, extent)
    if fill < _MAYBE_LONG or variance[0] > 2.5 * variance[1]:
        long = _along(dx, dy, values, axis, depth)
    slope = _steepest(smooth, patch.mine)
    profile = np.zeros(0)
    if variance[0] < _ROUND_VARIANCE * variance[1]:
        reach = _PROFILE_WIDTHS * float(np.sqrt(total / depth)) + float(np.sqrt(total))
        profile = _profile(patch, x, y, reach)
    border = (
        patch.top + ys[0] * z <= 1
        or patch.left + xs.min() * z <= 1
        or patch.top + ys[-1] * z >= frame_shape[0] - 1 - z
        or patch.left + xs.max() * z >= frame_shape[1] - 1 - z
    )
    return RegionMeasures(
        x_px=patch.left + (x + 0.5) * z - 0.5,
        y_px=patch.top + (y + 0.5) * z - 0.5,
        loss_px2=total * z * z,
        depth=depth,
        snr=energy * z / max(white_noise, 1e-6),
        variance=(variance[0] * z * z, variance[1] * z * z),
        angle_deg=float(np.degrees(np.arctan2(axis[1], axis[0]))),
        area_px=int(xs.size) * z * z,
        profile=profile,
        profile_step_px=z,
        length_px=long.length * z,
        fwhm_px=long.width * z,
        course_px=long.points * z,
        extent_px=extent * z,
        fill=fill,
        spread_px2=_spread(dx[strong], dy[strong], weights[strong]) * z * z,
        hollow=_hollow(inside, np.sqrt(dx * dx + dy * dy), depth),
        noise=white_noise / z,
        edge_px=depth / max(slope, 1e-6) * z,
        at_border=bool(border),
    )


def _windowed(
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    values: NDArray[np.float64],
    x: float,
    y: float,
    area: float,
) -> tuple[float, float]:
    """Centroid under a Gaussian window of the shadow's own size, which keeps distant noise out.

    Source: the windowed centroid of Bertin & Arnouts 1996, iterated to its fixed point.
    """
    width = 0.3 * float(np.sqrt(4 / np.pi * area))
    for _ in range(8):
        dx, dy = xs - x, ys - y
        weight = values * np.exp(-(dx * dx + dy * dy) / (2 * width * width))
        total = float(weight.sum())
        if total <= 0:
            break
        step_x, step_y = (1.6 * float((weight * d).sum()) / total for d in (dx, dy))
        if np.hypot(step_x, step_y) > 2 * width:
            break
        x, y = x + step_x, y + step_y
        if np.hypot(step_x, step_y) < 0.005:
            break
    return x, y


def _spread(
    dx: NDArray[np.float64], dy: NDArray[np.float64], weights: NDArray[np.float64]
) -> float:
    return float(weights @ (dx * dx + dy * dy) / 2 / max(weights.sum(), 1e-9))


def _depth_smoothing(pixels: int, depth: float, white_noise: float) -> float:
    """Just enough smoothing (pixels) to hold the noise of the maximum under 3 % of the depth."""
    wanted = white_noise / (0.03 * max(depth, 1e-4) * np.sqrt(4 * np.pi))
    return float(np.clip(wanted, 0.5, max(0.5, 0.09 * np.sqrt(pixels))))


def _centroid(
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    values: NDArray[np.float64],
    weights: NDArray[np.float64],
) -> tuple[float, float]:
    total = values.sum()
    x, y = float(values @ xs / total), float(values @ ys / total)
    if xs.min() <= x <= xs.max() and ys[0] <= y <= ys[-1]:
        return x, y
    total = max(weights.sum(), 1e-9)
    return float(weights @ xs / total), float(weights @ ys / total)


def _axes(
    dx: NDArray[np.float64], dy: NDArray[np.float64], weights: NDArray[np.float64]
) -> tuple[tuple[float, float], NDArray[np.float64]]:
    total = max(weights.sum(), 1e-9)
    along, down = weights * dx, weights * dy
    xx, yy, xy = along @ dx / total, down @ dy / total, along @ dy / total
    values, vectors = np.linalg.eigh(np.array([[xx, xy], [xy, yy]]))
    return (float(max(values[1], 1e-3)), float(max(values[0], 1e-3))), vectors[:, 1]


@dataclass(frozen=True)
class Course:
    """Length between half-loss ends along the bent axis, full width at half loss across it, and
    points of the axis, (n, 2), the first and last at its ends; none where it is not told.
    """

    length: float
    width: float
    points: NDArray[np.float64] = field(default_factory=lambda: np.zeros((0, 2)))


def _along(
    dx: NDArray[np.float64],
    dy: NDArray[np.float64],
    values: NDArray[np.float64],
    axis: NDArray[np.float64],
    depth: float,
) -> Course:
    s = dx * axis[0] + dy * axis[1]
    t = -dx * axis[1] + dy * axis[0]
    strong = values > 0.2 * depth
    if strong.sum() < 12:
        return Course(float(np.ptp(s) + 1), float(np.ptp(t) + 1))
    scale = max(float(np.ptp(s)) / 2, 1.0)
    bend = bend_of(s[strong] / scale, t[strong], values[strong])
    first, last = _half_ends(s, values)
    path = np.linspace(first, last, 60)
    aside = np.polyval(bend, path / scale)
    length = float(np.hypot(np.diff(path), np.diff(aside)).sum())
    middle = (s > first) & (s < last)
    if middle.sum() < 12:
        return Course(length, float(np.ptp(t) + 1))
    slope = np.polyval(np.polyder(bend), s[middle] / scale) / scale
    across = (t[middle] - np.polyval(bend, s[middle] / scale)) / np.hypot(1, slope)
    low, high = _half_ends(across, values[middle], 0.5, means=True)
    chosen = np.round(np.linspace(0, len(path) - 1, _COURSE_POINTS)).astype(int)
    points = np.outer(path[chosen], axis) + np.outer(aside[chosen], (-axis[1], axis[0]))
    return Course(length, max(high - low, 1.0), points)


def _half_ends(
    position: NDArray[np.float64],
    values: NDArray[np.float64],
    step: float = 1.0,
    means: bool = False,
) -> tuple[float, float]:
    """First and last place where the summed (or mean) loss exceeds half its typical level."""
    first, last = float(position.min()), float(position.max())
    count = max(4, int((last - first) / step))
    edges = np.linspace(first, last, count + 1)
    place = (position - first) * (count / max(last - first, 1e-9))
    bins = np.minimum(place.astype(np.intp), count - 1)
    sums = np.asarray(np.bincount(bins, weights=values, minlength=count), np.float64)
    if means:
        sums = sums / np.maximum(np.bincount(bins, minlength=count), 1)
    kernel = np.ones(3) / 3
    sums = np.convolve(np.pad(sums, 1, mode="edge"), kernel, mode="valid")
    level = 0.5 * quantile(sums, 0.97 if means else 0.7)
    above = np.nonzero(sums > level)[0]
    if above.size == 0:
        return first, last
    if means:
        peak = int(np.argmax(sums))
        low, high = peak, peak
        while low > 0 and sums[low - 1] > level:
            low -= 1
        while high < sums.size - 1 and sums[high + 1] > level:
            high += 1
        return float(edges[low]), float(edges[high + 1])
    return float(edges[above[0]]), float(edges[above[-1] + 1])


def _profile(patch: RegionPatch, x: float, y: float, width: float) -> NDArray[np.float64]:
    """Mean loss in rings one (binned) pixel wide, over own and free pixels, to ``width`` out."""
    reach = int(min(_PROFILE_REACH, width + 4))
    y0, x0 = max(0, int(y) - reach), max(0, int(x) - reach)
    window = np.s_[y0 : int(y) + reach + 1, x0 : int(x) + reach + 1]
    loss = patch.loss[window]
    usable = patch.mine[window] | patch.free[window]
    yy, xx = (np.arange(n, dtype=np.float64) for n in loss.shape)
    squares = np.add.outer((yy + y0 - y) ** 2, (xx + x0 - x) ** 2)
    bins = np.sqrt(squares, out=squares).astype(np.intp).ravel()
    sums = np.bincount(bins, weights=(loss * usable).ravel(), minlength=reach)[:reach]
    counts = np.bincount(bins, weights=usable.ravel(), minlength=reach)[:reach]
    return np.asarray(sums / np.maximum(counts, 1))


def _hollow(inside: Image, radius: NDArray[np.float64], depth: float) -> float:
    """Loss in the middle over the largest loss: near 1 for a disc, negative for a bright middle."""
    core = radius < max(1.0, 0.15 * float(np.sqrt(radius.size / np.pi)))
    return float(np.mean(inside[core]) / depth) if core.any() else 1.0


def _steepest(smooth: Image, mine: Mask) -> float:
    x, y, columns, rows = cv2.boundingRect(mine.view(np.uint8))
    window = np.s_[max(0, y - 1) : y + rows + 1, max(0, x - 1) : x + columns + 1]
    inner = np.ascontiguousarray(smooth[window])
    gx = cv2.Sobel(inner, cv2.CV_32F, 1, 0, ksize=3, scale=0.125)
    gy = cv2.Sobel(inner, cv2.CV_32F, 0, 1, ksize=3, scale=0.125)
    return quantile(np.asarray(cv2.magnitude(gx, gy), np.float32)[mine[window]], 0.97)
