"""Noise told from the target's texture by their spectra.

A sensor's noise is white; interpolation of its colours and compression take some of the finest
part away, never add to the coarse one. A wall, paper or cloud has its power in coarse frequencies
and next to none in the finest, which the lens blurs. So the finest part tells the noise, and what
the coarse one has beyond it is the target. Source: averaged windowed spectra, P. D. Welch, IEEE
Trans. Audio Electroacoust. 15, 70 (1967), https://doi.org/10.1109/TAU.1967.1161901.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import medians
from neatpatch.core.common.frame import Image

_TILE = 128
_TILES = (4, 6)
"""Rows and columns of tiles: enough for the median not to be led by things on the sensor."""
_MEDIAN_OF_POWER = float(np.log(2))
"""Power of noise at one frequency is exponential: its median over the tiles is this of its mean."""
_FINEST = (0.4, 0.5)
"""Cycles a (binned) pixel: noise alone reaches so far through a lens stopped down."""
_DEVELOPED = 1.7
"""Interpolated colours hold so much less noise in the finest band than in the coarse: 1.5 to 1.8 on
simulated frames of all qualities; bare photosites hold the same."""
_COARSEST = 0.02
"""Longer waves than 50 pixels are the background's matter."""

_CALM_SHARE = 0.25
"""Texture is everywhere; edges of clouds leave a quarter of the frame without."""
_FINE = 0.06
"""Plaster and paper have grains of some pixels; edges of clouds and window frames are coarser."""


@dataclass(frozen=True)
class Grain:
    """``noise``: of one full-resolution pixel, were it white. ``texture``: of the target, as the
    standard deviation of its tone; ``fine``: of that, what is finer than some 16 binned pixels;
    ``quietest``: the same in the calmest quarter of the frame. All are shares of the tone.
    """

    noise: float = 0.0
    texture: float = 0.0
    fine: float = 0.0
    quietest: float = 0.0


NO_GRAIN = Grain()


def grain_of(loss: Image, step: int, *, developed: bool) -> Grain:
    """Noise and texture of a loss map binned by ``step``; zeros where it is too small to tell.

    ``developed`` is false for bare photosites.
    """
    if min(loss.shape) < _TILE:
        return NO_GRAIN
    powers = tile_powers(loss, _WINDOW, _TILES)
    power = medians(powers, axis=0).astype(np.float64) / _MEDIAN_OF_POWER
    frequency = frequencies(_TILE)
    finest = float(np.mean(power[(frequency >= _FINEST[0]) & (frequency < _FINEST[1])]))
    noise = np.sqrt(finest) * (_DEVELOPED if developed else 1.0)
    wave = frequency > _COARSEST
    beyond = np.where(wave, np.maximum(power - noise**2, 0.0), 0.0)
    fine = np.where(frequency > _FINE, beyond, 0.0)
    of_tiles = np.where(wave, powers - noise**2, 0.0).mean(axis=(1, 2))
    quietest = max(float(np.quantile(of_tiles, _CALM_SHARE)), 0.0)
    return Grain(
        float(noise) * step,
        float(np.sqrt(beyond.mean())),
        float(np.sqrt(fine.mean())),
        float(np.sqrt(quietest)),
    )


def frequencies(size: int) -> NDArray[np.float64]:
    """Cycles a pixel at each place of the half spectrum of a square of ``size`` pixels."""
    fy, fx = np.fft.fftfreq(size), np.fft.rfftfreq(size)
    return np.asarray(np.hypot(fy[:, None], fx[None, :]))


def tile_powers(loss: Image, window: Image, places: tuple[int, int]) -> Image:
    """Power of windowed square tiles spread over rows and columns of ``places``, half spectra.

    An array (tiles, size, size / 2 + 1); the loss must hold at least one tile.
    """
    size = window.shape[0]
    tops, lefts = (
        np.linspace(0, n - size, count).astype(int)
        for n, count in zip(loss.shape, places, strict=True)
    )
    tiles = np.empty((len(tops) * len(lefts), size, size), np.float32)
    for i, (top, left) in enumerate(itertools.product(tops, lefts)):
        tile = loss[top : top + size, left : left + size]
        np.multiply(tile - tile.mean(), window, out=tiles[i])
    from scipy.fft import rfft2  # half the time of others in single precision; slow to load

    spectra = rfft2(tiles, workers=2)
    return np.asarray(np.square(spectra.real) + np.square(spectra.imag), np.float32)


def _density_window() -> Image:
    """Raised cosine whose powers are variances per pixel."""
    window = np.outer(np.hanning(_TILE), np.hanning(_TILE))
    return np.asarray(window / (np.sqrt(np.mean(window**2)) * _TILE), np.float32)


_WINDOW = _density_window()
