"""Where light is missing: a pyramid of matched filters with a chosen false-alarm rate.

The fractional loss ``1 - L / background`` is smoothed and halved in size again and again. At each
level it is divided by that level's own noise, so that correlated noise, compression and texture
raise the bar by themselves. What stands out strongly at one level is clipped before the next, so a
dark speck does not flood the coarse levels. The threshold follows from the false alarms accepted
per frame under Gaussian noise; regions grow from it (`core.measure.regions`).
Source: matched filter, G. L. Turin, IRE Trans. Inf. Theory 6, 311 (1960),
https://doi.org/10.1109/TIT.1960.1057571.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import (
    Mask,
    binned,
    box_mean,
    over_enlarged,
    quantile,
    smoothed,
)
from neatpatch.core.common.frame import Image
from neatpatch.core.common.parallel import prefetch
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.regions import MOST_MARKS, Region, Regions, grow_regions

FALSE_ALARMS_PER_FRAME = 0.01
"""One in a hundred clean frames. More cries wolf; fewer loses faint specks (bench/sweep.py)."""
_SMOOTHING = 1.3
"""Half-width of the matched filter at each level of the pyramid, with factors of two between."""
_LOCAL_BIN = 4
"""The surroundings change slowly: every fourth pixel is enough and sixteen times as quick."""
_LOCAL_BINS = 7
"""Each level looks at what is darker than its surroundings of 7 times 4 level pixels."""
_MATCHED_WIDTH = 3.6 * _SMOOTHING
"""Width of the shadow that a level's filter fits best, in pixels of its level."""
_BRIGHT_BINS = 9
"""Bright marks within 9 times 4 pixels of a level tell of the target there; fewer are chance."""
_BRIGHT_MOST = 8.0
"""Standard deviations at most that one bright mark counts for: droplets have some, too."""
_BRIGHT_USUAL = 1.6
"""Noise alone reaches this nowhere; an even target stays below."""
_EVENNESS_SLOPE = 0.05
"""Targets are uneven in proportion to width. Less finds cloud as marks, more hides faint ones."""
_EVENNESS_MOST = 0.002
"""Wider unevenness is fitted by the background; more hides large faint marks."""
_EDGE = 3
"""Rows and columns at the border that filters cannot fill; more blinds the border."""
_REFLECTED = 1.5
"""Smoothing over a reflected border averages half as many independent pixels."""
_GROW, _GROW_UNEVEN = 3.0, 4.5
"""Regions grow down to this from their seed. Lower joins neighbours; higher cuts off skirts."""
_CLIP = 8.0
"""Strong pixels are clipped so that one hot pixel makes no region; lower clips faint specks."""
_CLIP_PIXEL = 3.0
"""As above, by the noise of single pixels, where shadows are one pixel wide."""
_FULL_DETAIL_WIDTH = 2200
"""Wider frames are searched for in at half size: narrower, and small specks fall between pixels."""
_SMALLEST_LEVEL = 40
"""Smaller pyramids have no surroundings left to compare with."""
_SAMPLES = 30_000
"""Enough for a quantile; all pixels would cost time for nothing, few make it noisy."""
_BRIGHTEST, _BRIGHTEST_SIGMAS = 0.01, 2.326
"""A hundredth of Gaussian values lies so many standard deviations beyond the middle."""
_HEAVY_TAIL = 1.1
"""How much wider than Gaussian noise the bright side may be."""


@dataclass(frozen=True)
class Detection:
    """Regions, the loss they were found in (binned by ``step``), and the noise of that loss.

    ``white_noise`` is the standard deviation per full-resolution pixel that uncorrelated noise
    would need to give the scatter seen at the scale of the finest level.
    """

    regions: tuple[Region, ...]
    loss: Image
    step: int
    sigma: tuple[float, ...]
    white_noise: float
    texture: float
    occupied: Mask
    crowd: int = 0
    """Marks counted when there were too many to be dust; then there are no regions."""


def bin_step(width: int) -> int:
    """Binning before detection: frames wider than 2200 px are halved first."""
    return 2 if width > _FULL_DETAIL_WIDTH else 1


def loss_map(light: Image, background: Background, step: int) -> Image:
    """Fraction of light lost; negative where brighter than the background.

    ``light`` is binned by ``step``, and is turned into the loss in place.
    """

    def lost(rows: slice, ground: Image) -> None:
        np.divide(light[rows], ground, out=light[rows])
        np.subtract(1.0, light[rows], out=light[rows])

    background.over_strips(light.shape[0], light.shape[1], step, lost)
    return light


def robust_sigma(values: NDArray[np.floating]) -> float:
    """Standard deviation from the median absolute deviation; 0 for an empty or constant array."""
    if values.size == 0:
        return 0.0
    return 1.4826 * quantile(np.abs(values - values.dtype.type(quantile(values, 0.5))), 0.5)


def detect(loss: Image, brightness: Image, step: int, *, even: bool = True) -> Detection:
    """Find regions in a loss map.

    ``brightness`` is the background at any coarse grid over the frame: photon noise is taken to
    rise where it falls. NaN counts as no loss. A constant map gives no regions. A picture of more
    than ``MOST_MARKS`` marks gives none either, and their number as ``crowd``. On a target that is
    not ``even``, regions are grown less far, as what is left of it would join them.
    """
    if not np.isfinite(loss.sum()):
        loss = np.nan_to_num(loss, posinf=0.0, neginf=0.0)
    regions = Regions(loss)
    sigmas: list[float] = []
    plain: list[float] = []
    crowd = 0
    for level, layer in enumerate(prefetch(_pyramid(loss, brightness))):
        sigmas.append(layer.sigma)
        plain.append(layer.noise)
        if crowd:
            continue
        seed = layer.sigma * threshold(layer.signal.size)
        found, marks = grow_regions(
            layer.signal, seed, layer.sigma * (_GROW if even else _GROW_UNEVEN)
        )
        for one in found:
            regions.add(one, level, layer.sigma)
        if max(marks, len(regions)) > MOST_MARKS:
            crowd = max(marks, len(regions))
    finest = plain[min(1, len(plain) - 1)] if plain else 0.0
    scale = _SMOOTHING * np.sqrt(4 * np.pi) * step * (2 if len(plain) > 1 else 1)
    kept = () if crowd else regions.kept
    white = finest * float(scale)
    texture = _texture(plain, white, step)
    return Detection(kept, loss, step, tuple(sigmas), white, texture, regions.occupied, crowd)


@dataclass(frozen=True)
class _Layer:
    """One level of the pyramid: its filtered loss, the noise of that, and ``sigma``, the noise
    with the target's own unevenness.
    """

    signal: Image
    noise: float
    sigma: float


def _pyramid(loss: Image, brightness: Image) -> Iterator[_Layer]:
    """Levels from fine to coarse, each halved from the one before with strong pixels clipped."""
    current = evened(loss, brightness)
    zoom = 1
    while min(current.shape) >= _SMALLEST_LEVEL:
        smooth = smoothed(current, _SMOOTHING)
        _subtract_surroundings(smooth)
        noise = max(sampled_sigma(smooth), 1e-6)
        sigma = float(np.hypot(noise, unevenness(_MATCHED_WIDTH * zoom / loss.shape[1])))
        if zoom > 1:
            _evened_out(smooth, sigma)
        yield _Layer(_edges_lowered(smooth), noise, sigma)
        limit = max(_CLIP * sigma, _CLIP_PIXEL * sampled_sigma(current))
        current = binned(np.clip(current, -limit, limit, out=current), 2)
        zoom *= 2


def _evened_out(signal: Image, sigma: float) -> None:
    """Lower the signal where the target itself is rough, as what is brighter than it tells.

    Dust never brightens. Where bright marks of the same size stand out, dark ones mean nothing.
    """
    coarse = binned(signal, _LOCAL_BIN)
    bright = np.clip(-coarse / np.float32(sigma), 0, _BRIGHT_MOST)
    rough = np.sqrt(2 * np.maximum(box_mean(bright * bright, _BRIGHT_BINS), 0))
    if float(rough.max()) <= _BRIGHT_USUAL:
        return

    def lower(rows: slice, local: Image) -> None:
        signal[rows] /= np.maximum(local / _BRIGHT_USUAL, 1)

    over_enlarged(rough, _LOCAL_BIN, (signal.shape[0], signal.shape[1]), lower)


def _subtract_surroundings(smooth: Image) -> None:
    """Take off the mean of the surroundings, with what stands out clipped."""
    coarse = binned(smooth, _LOCAL_BIN)
    limit = 3 * max(sampled_sigma(coarse), 1e-6)
    wide = box_mean(np.clip(coarse, -limit, limit), _LOCAL_BINS)

    def take_off(rows: slice, around: Image) -> None:
        smooth[rows] -= around

    over_enlarged(wide, _LOCAL_BIN, (smooth.shape[0], smooth.shape[1]), take_off)


def _texture(sigmas: list[float], white: float, step: int) -> float:
    level = min(2, len(sigmas) - 1)
    if level < 0:
        return 0.0
    expected = white / (_SMOOTHING * np.sqrt(4 * np.pi) * step * 2**level)
    return float(np.sqrt(max(sigmas[level] ** 2 - expected**2, 0.0)))


def unevenness(share: float) -> float:
    """Uncertainty of the target's own tone over a ``share`` of the frame's width.

    No wall or sky is perfectly even: 0.05 % over 1 % of the width, growing to 0.2 % at most.
    Added to the noise of the levels that look for marks of that width. Chosen from the residue
    of the background fit on blank simulated targets; see docs/method.md.
    """
    return min(_EVENNESS_MOST, _EVENNESS_SLOPE * share)


def sampled_sigma(values: Image) -> float:
    """Noise from the middle half of the values, or from the bright side where that is far wider.

    Strong compression flattens most of a frame, and the middle half tells nothing of the rest.
    Dust is dark, so that it leaves the bright side alone.
    """
    stride = max(1, int(np.sqrt(values.size / _SAMPLES)))
    sample = np.sort(values[::stride, ::stride], axis=None)
    middle, brightest = (sample[round(share * (sample.size - 1))] for share in (0.5, _BRIGHTEST))
    tail = float(middle - brightest) / _BRIGHTEST_SIGMAS / _HEAVY_TAIL
    return max(1.4826 * quantile(np.abs(sample - middle), 0.5), tail)


def threshold(pixels: int, smoothing: float = _SMOOTHING) -> float:
    """Signal to noise that lets pure noise through ``FALSE_ALARMS_PER_FRAME`` times.

    ``smoothing``: standard deviation of the filter in pixels.

    Expected number of maxima above u of smoothed Gaussian noise over A pixels:
    ``A / (2 s^2) (2 pi)^(-3/2) u exp(-u^2 / 2)`` for a kernel of standard deviation s. Source:
    K. J. Worsley et al., J. Cereb. Blood Flow Metab. 12, 900 (1992),
    https://doi.org/10.1038/jcbfm.1992.127.
    """
    places = pixels / (2 * smoothing**2) / (2 * np.pi) ** 1.5
    allowed = FALSE_ALARMS_PER_FRAME / 2
    u = 4.0
    for _ in range(30):
        u = float(np.sqrt(2 * max(np.log(max(places, 1.0) * u / allowed), 2.0)))
    return u


def faintest_seen(found: Detection, blur_px: float) -> float:
    """Depth of the faintest small speck that a frame of this noise shows, its shadow as wide as the
    blur; 0 where nothing is known of the noise.

    A level's Gaussian keeps ``1 - exp(-w^2 / 8 s^2)`` of a disc's depth, w wide in its pixels.
    """
    faintest = []
    for level, sigma in enumerate(found.sigma):
        width = blur_px / (found.step * 2**level)
        kept = 1 - np.exp(-(width**2) / (8 * _SMOOTHING**2))
        faintest.append(threshold(found.loss.size // 4**level) * sigma / max(float(kept), 1e-6))
    return min(faintest, default=0.0)


def evened(loss: Image, brightness: Image) -> Image:
    """The loss with its photon noise made even over the frame."""
    relative = np.sqrt(brightness / np.median(brightness)).astype(np.float32)
    field = cv2.resize(relative, loss.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(cv2.multiply(field, loss, dst=field), np.float32)


def _edges_lowered(signal: Image) -> Image:
    for edge in (np.s_[:_EDGE], np.s_[-_EDGE:]):
        signal[edge] /= _REFLECTED
        signal[:, edge] /= _REFLECTED
    return signal
