"""Where light is missing: a pyramid of matched filters with a chosen false-alarm rate.

The fractional loss ``1 - L / background`` is smoothed and halved in size again and again. At each
level it is divided by that level's own noise, so that correlated noise, compression and texture
raise the bar by themselves. What stands out strongly at one level is clipped before the next, so a
dark speck does not flood the coarse levels. The threshold follows from the false alarms accepted
per frame under Gaussian noise; regions grow by hysteresis.
Sources: matched filter, G. L. Turin, IRE Trans. Inf. Theory 6, 311 (1960),
https://doi.org/10.1109/TIT.1960.1057571; hysteresis, J. Canny, IEEE PAMI 8, 679 (1986),
https://doi.org/10.1109/TPAMI.1986.4767851.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

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
    widened,
)
from neatpatch.core.common.frame import Image
from neatpatch.core.common.two_cores import ahead, in_halves
from neatpatch.core.measure.background import Background

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
"""Wider frames are sought in at half size: narrower, and small specks fall between pixels."""
_SMALLEST_LEVEL = 40
"""Smaller pyramids have no surroundings left to compare with."""
_SAME_THING = 0.35
"""A coarse region this deep against its finer one is another thing; more doubles halos."""
_SAMPLES = 30_000
"""Enough for a quantile; all pixels would cost time for nothing, few make it noisy."""
_BRIGHTEST, _BRIGHTEST_SIGMAS = 0.01, 2.326
"""A hundredth of Gaussian values lies so many standard deviations beyond the middle."""
_HEAVY_TAIL = 1.1
"""How much wider than Gaussian noise the bright side may be."""
_HALVINGS = 3
_COARSE = 2**_HALVINGS
"""Blocks in which components are sought: labels for an eighth each way are sixty times fewer."""
MOST_MARKS = 1500
"""More marks than this are no dust: a sensor that bad shows on the glass. The dirtiest practice
frames have 400; a halftone has thousands, each of which would take milliseconds."""


@dataclass(frozen=True)
class Region:
    """A patch of missing light; ``mask`` is in binned pixels from (``top``, ``left``)."""

    top: int
    left: int
    mask: Mask
    level: int


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
    labels = np.zeros(loss.shape, np.int16)
    regions: list[Region] = []
    layers: list[_Layer] = []
    crowd = 0
    for level, layer in enumerate(ahead(_pyramid(loss, brightness))):
        layers.append(replace(layer, signal=layer.signal[:0]))
        if crowd:
            continue
        least = layer.sigma * (_GROW if even else _GROW_UNEVEN)
        grown, marks = _grown(layer.signal, layer.sigma, least)
        for mask, box in grown:
            _place(regions, labels, loss, _Grown(mask, box, level, layer.sigma))
        if marks > MOST_MARKS or len(regions) > MOST_MARKS:
            crowd = max(marks, len(regions))
    plain = [layer.noise for layer in layers]
    finest = plain[min(1, len(plain) - 1)] if plain else 0.0
    scale = _SMOOTHING * np.sqrt(4 * np.pi) * step * (2 if len(plain) > 1 else 1)
    kept = () if crowd else tuple(r for r in regions if r.mask.any())
    white = finest * float(scale)
    sigmas = tuple(layer.sigma for layer in layers)
    return Detection(
        kept, loss, step, sigmas, white, _texture(plain, white, step), labels > 0, crowd
    )


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
    current = _evened(loss, brightness)
    zoom = 1
    while min(current.shape) >= _SMALLEST_LEVEL:
        smooth = smoothed(current, _SMOOTHING)
        _subtract_surroundings(smooth)
        noise = max(_sampled_sigma(smooth), 1e-6)
        sigma = float(np.hypot(noise, unevenness(_MATCHED_WIDTH * zoom / loss.shape[1])))
        if zoom > 1:
            _evened_out(smooth, sigma)
        yield _Layer(_edges_lowered(smooth), noise, sigma)
        limit = max(_CLIP * sigma, _CLIP_PIXEL * _sampled_sigma(current))
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
    limit = 3 * max(_sampled_sigma(coarse), 1e-6)
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


def _sampled_sigma(values: Image) -> float:
    """Noise from the middle half of the values, or from the bright side where that is far wider.

    Strong compression flattens most of a frame, and the middle half tells nothing of the rest.
    Dust is dark, so that it leaves the bright side alone.
    """
    stride = max(1, int(np.sqrt(values.size / _SAMPLES)))
    sample = np.sort(values[::stride, ::stride], axis=None)
    middle, brightest = (sample[round(share * (sample.size - 1))] for share in (0.5, _BRIGHTEST))
    tail = float(middle - brightest) / _BRIGHTEST_SIGMAS / _HEAVY_TAIL
    return max(1.4826 * quantile(np.abs(sample - middle), 0.5), tail)


def threshold(pixels: int) -> float:
    """Signal to noise that lets pure noise through ``FALSE_ALARMS_PER_FRAME`` times.

    Expected number of maxima above u of smoothed Gaussian noise over A pixels:
    ``A / (2 s^2) (2 pi)^(-3/2) u exp(-u^2 / 2)`` for a kernel of standard deviation s. Source:
    K. J. Worsley et al., J. Cereb. Blood Flow Metab. 12, 900 (1992),
    https://doi.org/10.1038/jcbfm.1992.127.
    """
    places = pixels / (2 * _SMOOTHING**2) / (2 * np.pi) ** 1.5
    allowed = FALSE_ALARMS_PER_FRAME / 2
    u = 4.0
    for _ in range(30):
        u = float(np.sqrt(2 * max(np.log(max(places, 1.0) * u / allowed), 2.0)))
    return u


def _evened(loss: Image, brightness: Image) -> Image:
    """The loss with its photon noise made even over the frame."""
    relative = np.sqrt(brightness / np.median(brightness)).astype(np.float32)
    field = cv2.resize(relative, loss.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(cv2.multiply(field, loss, dst=field), np.float32)


def _edges_lowered(signal: Image) -> Image:
    for edge in (np.s_[:_EDGE], np.s_[-_EDGE:]):
        signal[edge] /= _REFLECTED
        signal[:, edge] /= _REFLECTED
    return signal


Grown = list[tuple[Mask, tuple[int, int, int, int]]]


def _grown(signal: Image, sigma: float, least: float) -> tuple[Grown, int]:
    """Masks (cropped) and boxes (left, top, width, height) of what exceeds the threshold, grown
    down to ``least``.

    Gives their number, too; where that is beyond ``MOST_MARKS``, it gives the number alone.
    """
    seed = np.float32(threshold(signal.size) * sigma)
    highest = _highest_in_block(signal)
    marks = cv2.connectedComponents((highest > seed).view(np.uint8), connectivity=8)[0] - 1
    if not 0 < marks <= MOST_MARKS:
        return [], marks
    grown: Grown = []
    for top, left, coarse in _seeded_blocks(highest > seed, highest > np.float32(least)):
        here = signal[top : top + coarse.shape[0], left : left + coarse.shape[1]]
        coarse = coarse[: here.shape[0], : here.shape[1]]
        own = ((here > np.float32(least)) & coarse).view(np.uint8)
        _, labels, stats, _ = cv2.connectedComponentsWithStats(own, connectivity=8)
        for label in np.flatnonzero(np.bincount(labels[(here > seed) & coarse])):
            x, y, columns, rows = (int(v) for v in stats[label, :4])
            crop = labels[y : y + rows, x : x + columns] == label
            grown.append((crop, (left + x, top + y, columns, rows)))
    return grown, len(grown)


def _seeded_blocks(seeded: Mask, spread: Mask) -> Iterator[tuple[int, int, Mask]]:
    """Windows (top, left, mask of pixels) over whole components of ``spread`` blocks with a
    ``seeded`` one; they may reach beyond the picture by a part of a block.

    Components are sought among blocks of pixels first: what touches in pixels touches in blocks,
    so none is cut, and the noise between is never labelled pixel by pixel.
    """
    _, labels, stats, _ = cv2.connectedComponentsWithStats(spread.view(np.uint8), connectivity=8)
    wanted = np.flatnonzero(np.bincount(labels[seeded]))
    for label in wanted[wanted > 0]:
        x, y, columns, rows = (int(v) for v in stats[label, :4])
        blocks = labels[y : y + rows, x : x + columns] == label
        yield y * _COARSE, x * _COARSE, _enlarged(blocks, _COARSE)


def _highest_in_block(signal: Image) -> Image:
    """The largest value of each block; blocks at the end may be incomplete."""
    height, width = signal.shape
    rows, columns = (-(-n // _COARSE) for n in signal.shape)
    tall: Image = np.full((rows, columns * _COARSE), -np.inf, np.float32)

    whole = height // _COARSE

    def some(first: int, last: int) -> None:
        strips = signal[first * _COARSE : last * _COARSE].reshape(-1, _COARSE, width)
        strips.max(axis=1, out=tall[first:last, :width])

    in_halves(whole, some)
    if whole < rows:
        signal[whole * _COARSE :].max(axis=0, out=tall[whole, :width])
    for _ in range(_HALVINGS):
        tall = np.maximum(tall[:, 0::2], tall[:, 1::2])
    return tall


def _enlarged(mask: Mask, zoom: int) -> Mask:
    """Every pixel repeated ``zoom`` times both ways."""
    return np.asarray(np.repeat(np.repeat(mask, zoom, axis=0), zoom, axis=1))


@dataclass(frozen=True)
class _Grown:
    """A region grown at one level of the pyramid, in that level's pixels and noise."""

    mask: Mask
    box: tuple[int, int, int, int]
    level: int
    sigma: float


def _place(regions: list[Region], labels: NDArray[np.int16], loss: Image, grown: _Grown) -> None:
    """Add a level's region to the list, unless a finer level has explained it already."""
    mask, box, level, sigma = grown.mask, grown.box, grown.level, grown.sigma
    zoom = 2**level
    left, top = box[0] * zoom, box[1] * zoom
    big = _enlarged(mask, zoom) if zoom > 1 else mask
    bottom, right = (
        min(labels.shape[0], top + big.shape[0]),
        min(labels.shape[1], left + big.shape[1]),
    )
    big = big[: bottom - top, : right - left].copy()
    window = labels[top:bottom, left:right]
    known = np.flatnonzero(np.bincount(window[big]))
    known = known[known > 0]
    if known.size:
        beyond = _beyond_known(regions, window, loss[top:bottom, left:right], big, known, sigma)
        if beyond is None:
            return
        big = beyond
    regions.append(Region(top, left, big, level))
    window[big] = len(regions)


def _beyond_known(
    regions: list[Region],
    window: NDArray[np.int16],
    loss: Image,
    big: Mask,
    known: NDArray[np.intp],
    sigma: float,
) -> Mask | None:
    """What a coarse region adds to finer ones: None if it is only their halo.

    Finer regions no deeper than the rest of it are its fragments and are swallowed.
    """
    old = _any_of(window, known, len(regions))
    shared = np.count_nonzero(old & big)
    reach = max(2, int(0.6 * np.sqrt(shared / np.pi)) + 1)
    rest = big & ~widened(old, reach)
    if np.count_nonzero(rest) < max(0.5 * shared, 12):
        return _joined_fragments(regions, window, loss, big, old, known)
    level = float(np.mean(loss[rest]))
    if level < 0.5 * sigma:
        return None
    swallowed = known[_means(window, loss, known) * _SAME_THING < level]
    grown = big & (~old | _any_of(window, swallowed, len(regions)))
    for k in swallowed:
        _remove(regions, window, k)
    return grown


def _joined_fragments(
    regions: list[Region],
    window: NDArray[np.int16],
    loss: Image,
    big: Mask,
    old: Mask,
    known: NDArray[np.intp],
) -> Mask | None:
    """Several finer pieces bridged by loss of their own depth are one thing."""
    if known.size < 2:
        return None
    bridge = big & ~old
    if not bridge.any():
        return None
    level = float(np.mean(loss[bridge]))
    pieces = known[_means(window, loss, known) * _SAME_THING < level]
    if len(pieces) < 2:
        return None
    joined = (big & ~old) | _any_of(window, pieces, len(regions))
    for k in pieces:
        _remove(regions, window, k)
    return joined


def _means(window: NDArray[np.int16], loss: Image, labels: NDArray[np.intp]) -> NDArray[np.float64]:
    """Mean loss under each of these labels."""
    places = window.ravel()
    sums = np.bincount(places, weights=loss.ravel())
    return np.asarray(sums[labels] / np.bincount(places)[labels])


def _any_of(window: NDArray[np.int16], labels: Sequence[int] | NDArray[np.intp], most: int) -> Mask:
    """Where a window of labels up to ``most`` holds any of these."""
    if len(labels) == 1:
        return np.asarray(window == labels[0])
    wanted = np.zeros(most + 1, bool)
    wanted[list(labels)] = True
    return np.asarray(wanted[window])


def _remove(regions: list[Region], window: NDArray[np.int16], label: int) -> None:
    old = regions[label - 1]
    regions[label - 1] = Region(old.top, old.left, np.zeros((1, 1), bool), old.level)
    window[window == label] = 0
