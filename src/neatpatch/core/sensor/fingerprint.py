"""The sensor's fingerprint: photosites differ in sensitivity by some tenths of a percent, for ever.

What is left of a test frame after a small blur holds that pattern beside its noise; two frames of
one sensor have the pattern in common, whatever was pictured. They are correlated at all shifts and
quarter turns at once, and the peak's share of the correlation's energy tells whether it is chance.
Sources: J. Lukas, J. Fridrich & M. Goljan, IEEE Trans. Inf. Forensics Secur. 1, 205 (2006),
https://doi.org/10.1109/TIFS.2006.873602; peak to correlation energy, M. Goljan, Digital
Watermarking, LNCS 5450, 454 (2009), https://doi.org/10.1007/978-3-642-04438-0_38.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, peak_between, quantile, smoothed, vertex, widened
from neatpatch.core.common.frame import Frame, Image, Light

VERSION = 1
"""Of the way a pattern is made; another one is never compared with this."""
_WIDE_PX = 4400
"""Frames up to so wide are halved, wider ones quartered: one to three million places remain, which
hold most of the evidence, survive compression and are matched in a tenth of a second."""
_SMOOTHING = 2.0
"""Binned pixels: wider keeps more of the target, narrower less of what compression leaves."""
_CLIP = 3.0
"""Standard deviations: dust, hot pixels and edges count no more than noise does."""
_TOGETHER, _THING, _THING_REACH = 1.5, 4.5, 3
"""Smoothing that shows edges, the deviations that noise stays below, and pixels taken out around:
edges of dust are alike on all sensors, and many of them would pass for a pattern."""
_BRIGHTEST, _DARKEST = 0.97, 0.002
"""Clipped and black photosites show no pattern."""
_LEAST_USABLE = 0.3
"""Share of the frame that must be neither; less tells too little."""
_LEAST_PATTERN = 1e-6
"""Spread below which there is neither noise nor pattern, but a drawing."""
_LEAST_SIDE = 64
"""Binned pixels: smaller pictures hold less than any pattern needs."""
_STRONGEST_TONE = 3.0
"""Times the root mean square of the spectrum: tones of compression and interpolation, which other
cameras have as well, are cut to it."""
_PEAK_REACH = 5
"""Binned pixels around the peak that belong to it."""
_FALSE_ALARMS = 1e-6
"""Of all pairs of strange sensors, these may pass for one. Higher and lower change the limit
little: it grows as the logarithm."""
_PATTERN = 0.002
"""Spread of sensitivity that nearly all sensors exceed, as a share of the light."""
_SURVIVES = 0.5
"""Of the strength expected from noise alone, what interpolated colours and fine JPEG leave."""
_CLEAR_QUALITY = 88.0
"""JPEG quality below which too little survives to tell that a sensor is another."""
_SURE = 4.0
"""Times the limit that the same sensor would reach, before its absence is proof of another."""
_MOST_FRAMES = 8
"""Frames a reference adds up; more change it little, and sensors age."""
_STRIP = 64
"""Binned rows at once: a strip of them stays in the cache."""
_UNIT = 32.0
"""Steps of the stored pattern to a standard deviation, so that three fit into a byte."""

Values = NDArray[np.float32]


@dataclass(frozen=True, kw_only=True)
class Fingerprint:
    """The pattern of one frame, or of several added up, binned by ``step``.

    ``shape``: height and width in pixels of the frame. ``noise``: spread of the pattern before it
    was set to one, as a share of the light. ``clear``: whether its absence would mean anything
    (fine enough quality, not resized). ``frames``: how many were added up. ``start``: x and y of
    the first bin's first pixel.
    """

    values: NDArray[np.int8]
    step: int
    shape: tuple[int, int]
    noise: float
    clear: bool = True
    frames: int = 1
    start: tuple[int, int] = (0, 0)

    def start_turned(self, turn: int) -> tuple[int, int]:
        """First pixel of the first bin, x and y, after so many quarter turns."""
        (height, width), (x, y) = self.shape, self.start
        rows, columns = self.values.shape
        for _ in range(turn % 4):
            x, y = y, width - x - columns * self.step
            height, width, rows, columns = width, height, columns, rows
        return x, y


@dataclass(frozen=True)
class Match:
    """The best agreement of two patterns.

    ``turn``: quarter turns, counter-clockwise as seen in the array, from the first to the second.
    ``shift``: x and y, in binned pixels, of the turned first on the second. ``strength`` is the
    peak to correlation energy, ``limit`` what chance exceeds once in a million pairs.
    ``expected``: strength that one sensor would reach at least, 0 where that cannot be told.
    """

    strength: float
    limit: float
    turn: int
    shift: tuple[float, float]
    expected: float

    @property
    def same(self) -> bool | None:
        """True: one sensor; False: another; None: cannot be told."""
        if self.strength >= self.limit:
            return True
        return False if self.expected >= _SURE * self.limit else None


def step_for(shape: tuple[int, int]) -> int:
    """Binning for a frame of this height and width."""
    return 2 if max(shape) <= _WIDE_PX else 4


def fingerprint_of(
    frame: Frame, step: int | None = None, offset: tuple[int, int] = (0, 0)
) -> Fingerprint | None:
    """The pattern of a frame; None where too little of it can show any.

    ``offset`` (x, y) moves the first bin, for frames cut out at any pixel.
    """
    step = step or step_for(frame.shape)
    if min(frame.shape) // step <= _LEAST_SIDE:
        return None
    top, left = (
        (_lead(n, step) + o) % step for n, o in zip(frame.shape, offset[::-1], strict=True)
    )
    values = _residual(_binned(frame.light, step, top, left))
    if values is None:
        return None
    quality = frame.facts.jpeg_quality
    clear = quality is None or quality >= _CLEAR_QUALITY
    return _stored(_Bins(step, frame.shape, (left, top)), values, clear=clear)


def resized_fingerprint(frame: Frame, shape: tuple[int, int]) -> Fingerprint | None:
    """The pattern of a frame that shows all of another one of ``shape``, brought to its size."""
    step = step_for(shape)
    rows, columns = (n // step for n in shape)
    if min(rows, columns) < _LEAST_SIDE:
        return None
    light = np.asarray(frame.light[:], np.float32)
    shrinks = light.shape[1] >= columns
    how = cv2.INTER_AREA if shrinks else cv2.INTER_CUBIC
    values = _residual(
        np.asarray(cv2.resize(light, (columns, rows), interpolation=how), np.float32)
    )
    if values is None:
        return None
    top, left = (_lead(n, step) for n in shape)
    return _stored(_Bins(step, shape, (left, top)), values, clear=False)


@dataclass(frozen=True)
class _Bins:
    """How a frame of ``shape`` was binned: by ``step``, from a first pixel (x, y) on."""

    step: int
    shape: tuple[int, int]
    start: tuple[int, int]


def _stored(bins: _Bins, values: Values, *, clear: bool) -> Fingerprint:
    """A pattern as it is kept: its spread apart, its values in whole steps."""
    noise = float(values.std())
    codes = np.round(values * np.float32(_UNIT / max(noise, 1e-9)))
    return Fingerprint(
        values=np.clip(codes, -127, 127).astype(np.int8),
        step=bins.step,
        shape=bins.shape,
        start=bins.start,
        noise=noise,
        clear=clear,
    )


def _lead(size: int, step: int) -> int:
    """Pixels left out before the first bin: as many as after the last, so that turns fit."""
    return (size % step) // 2


def _binned(light: Light, step: int, top: int, left: int) -> Image:
    """Means over blocks from a first pixel on, strip after strip."""
    rows, columns = (light.shape[0] - top) // step, (light.shape[1] - left) // step
    out = np.empty((rows, columns), np.float32)
    right = left + columns * step
    for first in range(0, rows, _STRIP):
        last = min(first + _STRIP, rows)
        strip = light[top + first * step : top + last * step, left:right]
        out[first:last] = cv2.resize(strip, (columns, last - first), interpolation=cv2.INTER_AREA)
    return out


def _residual(light: Image) -> Values | None:
    """What a small blur leaves of the light's logarithm: tails clipped, things, rows, columns out.

    None where too few photosites are neither clipped nor black, or nothing is left.
    """
    usable = (light < _BRIGHTEST) & (light > _DARKEST)
    if float(usable.mean()) < _LEAST_USABLE:
        return None
    tone = np.log(np.maximum(light, np.float32(_DARKEST)))
    rest = tone - smoothed(tone, _SMOOTHING)
    rest[~usable] = 0
    limit = _CLIP * 1.4826 * quantile(np.abs(rest[::3, ::3]), 0.5)
    np.clip(rest, -limit, limit, out=rest)
    rest[_things(rest)] = 0
    rest -= rest.mean(axis=1, keepdims=True)
    rest -= rest.mean(axis=0, keepdims=True)
    return rest if float(rest.std()) > _LEAST_PATTERN else None


def _things(rest: Values) -> Mask:
    """Edges of dust and of the target: where neighbours stray together, which no noise does."""
    together = np.abs(smoothed(rest, _TOGETHER))
    limit = _THING * 1.4826 * quantile(together[::3, ::3], 0.5)
    return widened(together > limit, _THING_REACH)


def turned(fingerprint: Fingerprint, turn: int) -> Values:
    """The pattern after so many quarter turns."""
    return np.ascontiguousarray(np.rot90(fingerprint.values, turn)).astype(np.float32)


def match(first: Fingerprint, second: Fingerprint, turns: Iterable[int] = (0, 1, 2, 3)) -> Match:
    """The best agreement over quarter turns and all shifts; strength 0 where steps differ."""
    chosen = tuple(turns)
    places = float(first.values.size + second.values.size) * len(chosen)
    limit = 2 * math.log(max(places, 2.0) / _FALSE_ALARMS)
    clear = first.clear and second.clear
    expected = expected_strength(first, second) if clear else 0.0
    best = Match(0.0, limit, 0, (0.0, 0.0), expected)
    if first.step != second.step:
        return replace(best, expected=0.0)
    sides = [first.values.shape[:: -1 if t % 2 else 1] for t in chosen]
    size = [
        cv2.getOptimalDFTSize(max(n, *(s[axis] for s in sides)) + _PEAK_REACH)
        for axis, n in enumerate(second.values.shape)
    ]
    there = spectrum_of(second.values.astype(np.float32), size)
    for turn in chosen:
        strength, shift = _peak(spectrum_of(turned(first, turn), size), there, size)
        if strength > best.strength:
            best = Match(strength, limit, turn, shift, expected)
    return best


def expected_strength(first: Fingerprint, second: Fingerprint) -> float:
    """Strength if both are of one sensor and not resized: places times the squared correlation."""
    places = min(first.values.size, second.values.size)
    share = (_PATTERN / first.step) ** 2 / max(first.noise * second.noise, 1e-12)
    return float(_SURVIVES * places * share**2)


def spectrum_of(values: Values, size: list[int]) -> NDArray[np.complex64]:
    """Spectrum of a pattern (h, w) filled up with zeros to ``size``, no tone much above others."""
    from scipy.fft import rfft2  # half the time and memory of numpy's; slow to load

    spectrum = np.asarray(rfft2(values, s=size))
    height = np.abs(spectrum)
    most = _STRONGEST_TONE * float(np.sqrt(np.mean(height[::5, ::5] ** 2)))
    return np.asarray(spectrum * np.minimum(1, most / np.maximum(height, 1e-9)), np.complex64)


def nearest_peak(
    here: NDArray[np.complex64], there: NDArray[np.complex64], size: list[int], reach: int
) -> tuple[float, tuple[float, float]]:
    """Peak to correlation energy of two spectra, shifts of so many binned pixels at most, and the
    shift x and y at which it is, between binned pixels.
    """
    from scipy.fft import irfft2

    surface = np.asarray(irfft2(there * np.conj(here), s=size))
    span = np.arange(-reach - 1, reach + 2)
    near = surface[np.ix_(span, span)]
    inner = near[1:-1, 1:-1]
    row, column = (int(v) for v in np.unravel_index(int(np.argmax(inner)), inner.shape))
    top = max(float(inner[row, column]), 0.0)
    x, y = peak_between(near, row + 1, column + 1)
    strength = top * top / max(float(np.square(surface).mean()), 1e-12)
    return strength, (column - reach + x, row - reach + y)


def _peak(
    here: NDArray[np.complex64], there: NDArray[np.complex64], size: list[int]
) -> tuple[float, tuple[float, float]]:
    from scipy.fft import irfft2

    surface = np.asarray(irfft2(there * np.conj(here), s=size))
    row, column = (int(v) for v in np.unravel_index(int(np.argmax(surface)), surface.shape))
    top = float(surface[row, column])
    reach = np.arange(-_PEAK_REACH, _PEAK_REACH + 1)
    near = np.ix_((row + reach) % size[0], (column + reach) % size[1])
    energy = float(np.square(surface, dtype=np.float64).sum() - np.square(surface[near]).sum())
    energy /= max(surface.size - surface[near].size, 1)
    y = row + vertex(*(float(surface[(row + d) % size[0], column]) for d in (-1, 0, 1)))
    x = column + vertex(*(float(surface[row, (column + d) % size[1]]) for d in (-1, 0, 1)))
    y, x = (v - n if v > n / 2 else v for v, n in zip((y, x), size, strict=True))
    return top * top / max(energy, 1e-12), (x, y)


def added(reference: Fingerprint, more: Fingerprint) -> Fingerprint:
    """A reference with one more frame in the same place, each weighed by its own noise.

    Raises `ValueError` for another size. A full reference stays as it is.
    """
    if reference.shape != more.shape or reference.step != more.step:
        raise ValueError("fingerprints of one body must have one size")
    if reference.frames >= _MOST_FRAMES:
        return reference
    both = reference.values.astype(np.float32) / np.float32(reference.noise)
    both += more.values.astype(np.float32) / np.float32(more.noise)
    weights = reference.noise**-2 + more.noise**-2
    bins = _Bins(reference.step, reference.shape, reference.start)
    total = _stored(bins, both, clear=reference.clear and more.clear)
    noise = total.noise / _UNIT / weights
    return replace(total, noise=noise, frames=reference.frames + more.frames)
