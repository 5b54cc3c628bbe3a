"""Waves and repeating patterns of the target, found by their spectrum and taken out.

A flickering lamp leaves bands that run straight along the rows or columns; a screen's dots beat
with the photosites and leave crossing waves. Neither looks like dust: the first is the same all
along a row, the second gathers its power in few frequencies. Rows and columns are levelled by their
medians; waves are taken out tile by tile, only where single frequencies rise far above those
around them in many tiles alike. Sources: averaged windowed spectra, P. D. Welch, IEEE Trans. Audio
Electroacoust. 15, 70 (1967), https://doi.org/10.1109/TAU.1967.1161901; overlapping windows that add
up to one, J. B. Allen & L. R. Rabiner, Proc. IEEE 65, 1558 (1977).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import medians, quantile, smoothed, widened
from neatpatch.core.common.frame import Image, Light
from neatpatch.core.measure.spectrum import frequencies, tile_powers

_EVERY, _EVERY_AT_FIRST = 4, 16
"""A quarter of a row's pixels tell its median well; a sixteenth tells whether there are bands."""
_FEWEST = 100
"""Pixels of a row at least that are looked at first."""
_PARTS = 5
"""Each row is judged in so many parts: a fibre along it fills one or two, a band all of them."""
LEAST_WAVE = 0.0012
"""Share of the tone: below, bands hide no dust, and medians begin to follow the noise."""
_AGREED = 0.85
"""Correlation of a part with the whole: bands cross all parts alike, clouds and fibres some."""
_LEAST_REPEATS = 3
"""Fewer waves in the frame cannot be told from a cloud."""
_REPEATING_SHARE = 0.6
"""Of the power of the bands: a lamp's has nearly all in its own frequency, a bar a tenth."""
_TILE = 256
"""Long enough to tell the period of a wave, short enough for it to be even within."""
_LOOKS = (3, 5)
"""Rows and columns of tiles looked at first: enough to tell whether there is a wave at all."""
_PEAK = 15.0
"""Times the power around: spectra of noise, texture and dust stay below 9, a wave of half the noise
of one pixel reaches hundreds."""
_PEAK_IN_TILE = 10.0
"""As above in one tile, where noise alone reaches this in a few of a hundred thousand places."""
_LEAST_BINS = 4
"""Waves longer than a quarter of a tile are left to the background, which follows them."""
_RING_SHARE = 0.7
"""A wave stands out among the frequencies of its own length, too; edges fill all of those."""
_AROUND_BINS = 9
"""The power around a frequency is the median over so many bins each way."""
_REACH_BINS = 2
"""A wave's period drifts over the frame by some hundredths, and windows widen its peak."""
_OUTLIER = 5.0
"""Times the usual deviation: what is so far from the waves is dust."""
_AGAIN = 6
"""Rounds after the first; more change nothing that shows at the border."""
_LEAST_SIDE = 2 * _TILE
"""Smaller pictures hold too few tiles to tell a pattern from chance."""


@dataclass(frozen=True)
class Pattern:
    """What repeats, in binned pixels, to be divided out of the light.

    ``rows``, ``columns``: share of the tone by which each stands out, None where it is even.
    ``waves``: the same for each pixel.
    """

    step: int
    rows: Image | None = None
    columns: Image | None = None
    waves: Image | None = None

    def repeats(self) -> bool:
        """Whether its bands come back again and again, as a lamp's do and no bar's."""
        return any(_repeats(v) for v in (self.rows, self.columns) if v is not None)

    def taken_out(self, light: Light) -> Image:
        """The light (height, width) of the whole frame without the pattern."""
        clean = np.array(light[:], np.float32)
        height, width = clean.shape
        if self.rows is not None:
            clean /= 1 + _stretched(self.rows, height, self.step)[:, None]
        if self.columns is not None:
            clean /= 1 + _stretched(self.columns, width, self.step)[None, :]
        if self.waves is not None:
            clean /= 1 + _enlarged(self.waves, self.step, (height, width))
        return clean


def find_bands(
    loss: Image, followed: tuple[Image, Image], step: int, least: float = LEAST_WAVE
) -> Pattern | None:
    """Bands along rows or columns of a loss map binned by ``step``; None where there are none.

    ``followed``: what the background took of them already, at each row and each column.
    """
    large = least and min(loss.shape) > _EVERY_AT_FIRST * _FEWEST
    if large and not any(
        profile is not None for profile in _profiles(loss, followed, least, _EVERY_AT_FIRST)
    ):
        return None
    rows, columns = _profiles(loss, followed, least, _EVERY)
    if rows is None and columns is None:
        return None
    return Pattern(step, rows, columns)


def _profiles(
    loss: Image, followed: tuple[Image, Image], least: float, every: int
) -> tuple[Image | None, Image | None]:
    across = np.ascontiguousarray(loss[::every].T)
    return (
        _profile(loss[:, ::every], followed[0], least),
        _profile(across, followed[1], least),
    )


def find_waves(loss: Image, step: int) -> Pattern | None:
    """Waves of a few single frequencies, in any direction; None where there are none."""
    if min(loss.shape) < _LEAST_SIDE:
        return None
    peaks = _peaks(_mean_power(loss))
    if not peaks.any():
        return None
    waves = _waves(loss, peaks)
    return Pattern(step, waves=waves) if amplitude(waves) >= LEAST_WAVE else None


def amplitude(values: Image) -> float:
    """Half the swing from trough to crest, the rarest hundredth left out."""
    return (quantile(values, 0.99) - quantile(values, 0.01)) / 2


def _profile(loss: Image, followed: Image, least: float) -> Image | None:
    """How much brighter each row is than its surroundings, or None where bands are too faint."""
    parts = np.array_split(loss, min(_PARTS, max(1, loss.shape[1] // 50)), axis=1)
    middles = np.stack([medians(p, axis=1) for p in parts])
    profile = -np.median(middles, axis=0)
    profile -= np.median(profile)
    if amplitude(profile) < least or (least and _agreement(middles) < _AGREED):
        return None
    return np.asarray(profile + followed, np.float32)


def _repeats(profile: Image) -> bool:
    """Whether most of a profile's power lies in one frequency and its octave, thrice or oftener."""
    power = np.abs(np.fft.rfft((profile - profile.mean()) * np.hanning(profile.size))) ** 2
    top = int(np.argmax(power))
    if top < _LEAST_REPEATS:
        return False
    near = sum(float(power[max(0, n * top - 3) : n * top + 4].sum()) for n in (1, 2))
    return near > _REPEATING_SHARE * float(power.sum())


def _agreement(middles: NDArray[np.floating]) -> float:
    """How alike the parts of the rows are: the usual correlation of a part with all of them."""
    if len(middles) < 2:
        return 0.0
    parts = middles - middles.mean(axis=1, keepdims=True)
    parts /= np.linalg.norm(parts, axis=1, keepdims=True) + 1e-12
    middle = np.median(middles, axis=0)
    middle = middle - middle.mean()
    middle /= float(np.linalg.norm(middle)) + 1e-12
    return float(np.median(parts @ middle))


def _stretched(profile: Image, count: int, step: int) -> Image:
    """A profile of binned pixels at every pixel, linear between them."""
    if step == 1 and profile.size == count:
        return profile
    centres = (np.arange(profile.size) + 0.5) * step - 0.5
    return np.interp(np.arange(count), centres, profile).astype(np.float32)


def _enlarged(waves: Image, step: int, shape: tuple[int, int]) -> Image:
    if step == 1 and waves.shape == shape:
        return waves
    inside = waves.shape[1] * step, waves.shape[0] * step
    big = cv2.resize(waves, inside, interpolation=cv2.INTER_CUBIC)
    rest = shape[0] - inside[1], shape[1] - inside[0]
    return np.asarray(
        cv2.copyMakeBorder(big, 0, rest[0], 0, rest[1], cv2.BORDER_REPLICATE), np.float32
    )


def _window() -> Image:
    """Half a wave, used before and after: the squares of halves that overlap add up to one."""
    side = np.sin(np.pi * (np.arange(_TILE) + 0.5) / _TILE).astype(np.float32)
    return np.asarray(side[:, None] * side[None, :], np.float32)


def _mean_power(loss: Image) -> Image:
    """Spectrum of the tiles looked at; of each frequency the upper third over the tiles.

    The third lets a wave through that drifts or fills part of the frame, and no single thing.
    """
    powers = tile_powers(loss, _window() ** 2, _LOOKS)
    upper = len(powers) * 2 // 3
    return np.asarray(np.sort(powers, axis=0)[upper], np.float32)


@lru_cache(maxsize=1)
def _frequency_bins() -> Image:
    """Distance of each place of a tile's half spectrum from its zero, in bins."""
    return np.asarray(frequencies(_TILE) * _TILE, np.float32)


def _power_around(power: Image) -> Image:
    """Median power of the neighbourhood in the half spectrum, whose rows go round."""
    reach = _AROUND_BINS
    rolled = np.fft.fftshift(power, axes=0)
    framed = cv2.copyMakeBorder(rolled, reach, reach, reach, reach, cv2.BORDER_REFLECT_101)
    logs = np.log(np.maximum(framed, 1e-20)).astype(np.float32)
    low, high = float(logs.min()), float(logs.max())
    codes = ((logs - low) * (255 / max(high - low, 1e-6))).astype(np.uint8)
    middle = cv2.medianBlur(codes, 2 * reach + 1)[reach:-reach, reach:-reach]
    around = np.exp(middle.astype(np.float32) * ((high - low) / 255) + low)
    return np.asarray(np.fft.ifftshift(around, axes=0), np.float32)


@lru_cache(maxsize=1)
def _rings() -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp]]:
    """Ring of each place of the half spectrum, places sorted by ring, and where each ring ends."""
    ring = _frequency_bins().astype(np.intp)
    order = np.argsort(ring, axis=None, kind="stable")
    return ring, order, np.cumsum(np.bincount(ring.ravel()))


def _ring_power(power: Image) -> Image:
    """What most frequencies of about the same length stay below."""
    ring, order, ends = _rings()
    parts = np.split(power.ravel()[order], ends[:-1])
    tops = np.array([quantile(p, _RING_SHARE) for p in parts])
    return np.asarray(tops[ring], np.float32)


def _peaks(power: Image) -> NDArray[np.bool_]:
    """Frequencies that rise far above those around them, a little widened."""
    bins = _frequency_bins()
    tall = (power > _PEAK * _power_around(power)) & (bins >= _LEAST_BINS)
    if tall.any():
        tall &= power > _PEAK * _ring_power(power)
    kernel = np.ones((2 * _REACH_BINS + 1, 2 * _REACH_BINS + 1), np.uint8)
    shifted = np.fft.fftshift(tall, axes=0).astype(np.uint8)
    return np.asarray(np.fft.ifftshift(cv2.dilate(shifted, kernel), axes=0) > 0)


def _waves(loss: Image, peaks: NDArray[np.bool_]) -> Image:
    """The part of the light in those frequencies, where they stand out in their own tile.

    Things on the sensor would leave some of their own light there, and waves end with the frame. So
    what stands out, and what lies beyond the border, is replaced by the waves found so far, and
    the waves are found again. At first only what is deeper than the waves counts as dust: near
    the border they are found last. Source: A. Papoulis, IEEE Trans. Circuits Syst. 22, 735 (1975),
    https://doi.org/10.1109/TCS.1975.1084118.
    """
    room = _TILE // 2
    ends = [-(-(n + room) // room) * room - n for n in loss.shape]
    framed = cv2.copyMakeBorder(loss, room, ends[0], room, ends[1], cv2.BORDER_REFLECT)
    inside = np.s_[room : room + loss.shape[0], room : room + loss.shape[1]]
    beyond = np.ones(framed.shape, bool)
    beyond[inside] = False
    limit = _OUTLIER * quantile(np.abs(loss[::7, ::7]), 0.68) + 1e-6
    waves = _gathered(np.clip(framed, -limit, limit), peaks)
    for again in range(_AGAIN):
        rest = smoothed(framed - waves, 1.0)
        limit = _OUTLIER * quantile(np.abs(rest[::7, ::7]), 0.68) + 1e-6
        if again < _AGAIN - 2:
            limit = max(limit, quantile(np.abs(waves[::7, ::7]), 0.99))
        unknown = widened(np.abs(rest) > limit, 3) | beyond
        waves = _gathered(np.where(unknown, waves, framed).astype(np.float32), peaks)
    return -waves[inside]


def _gathered(loss: Image, peaks: NDArray[np.bool_]) -> Image:
    """The frequencies at ``peaks``, tile by tile; tiles overlap by half."""
    from scipy.fft import irfft2, rfft2  # twice as quick in single precision; rarely needed

    out = np.zeros_like(loss)
    window = _window()
    for top in range(0, loss.shape[0] - _TILE + 1, _TILE // 2):
        for left in range(0, loss.shape[1] - _TILE + 1, _TILE // 2):
            where = np.s_[top : top + _TILE, left : left + _TILE]
            tile = loss[where]
            spectrum = rfft2((tile - tile.mean()) * window)
            power = np.abs(spectrum) ** 2
            floor = float(np.median(power[::3][~peaks[::3]]))
            kept = peaks & (power > _PEAK_IN_TILE * floor)
            if kept.any():
                out[where] += irfft2(np.where(kept, spectrum, 0), s=tile.shape) * window
    return out
