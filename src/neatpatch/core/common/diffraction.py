"""What an opaque disc does to the light that passes it, at some distance behind it.

By Babinet's principle the field behind the disc is the light itself less the field ``u`` behind a
hole of its size; the loss is ``2 Re u - |u|²``. The first term takes twice the disc's area out of
the direct light (the extinction paradox), the second gives its area back as light spread around.
In the frequency domain both are closed forms: behind a real, even hole the first is the hole's own
spectrum times ``cos(π λ h k²)``, the second the ambiguity function of the hole, an integral over
the part that two discs shifted by ``λ h k`` share.

Sources: J. W. Goodman, Introduction to Fourier Optics, 3rd ed., ch. 4; H. C. van de Hulst, Light
Scattering by Small Particles, 8.22; J. P. Guigay, Optica Acta 24, 677 (1977), for the second term.
Limits: thin opaque discs, paraxial light; three wavelengths stand for luminance.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

BANDS = ((0.84, 0.07), (0.98, 0.72), (1.11, 0.21))
"""Middle of the blue, green and red bands over 550 nm, and what each counts for in luminance."""
BAND_WIDTH = 0.06
"""Of a band, a standard deviation over its middle: fringes of high order are washed out by it."""
_JINC_END, _JINC_STEPS = 48.0, 16_384
"""Beyond the end it stays below 0.005; steps of 0.003 keep straight lines within 1e-6."""
_SHIFTS, _MOST_WAVES, _WAVE_STEPS = 200, 24.0, 960
"""Steps of the tabulated ambiguity function: in shift, and in waves across the disc."""


@lru_cache(maxsize=1)
def _jinc() -> tuple[Floats, Floats]:
    """``2 J1(x) / x`` on a grid fine enough that linear interpolation errs by less than 1e-6, and
    how much it rises from each place to the next; from the last on it stays.
    """
    x: Floats = np.linspace(0.0, _JINC_END, _JINC_STEPS + 1, dtype=np.float64)
    values: Floats = np.ones_like(x)
    from scipy.special import j1  # a third of a second to load: only where it is needed

    values[1:] = 2 * j1(x[1:]) / x[1:]
    return values, np.append(np.diff(values), 0.0)


def disc_spectrum(diameter: float | Floats, k: Floats) -> Floats:
    """Transfer function of a disc; its grid is even, so that nothing need be searched in it."""
    values, rises = _jinc()
    place = np.minimum(k * (math.pi * diameter * _JINC_STEPS / _JINC_END), _JINC_STEPS)
    below = place.astype(np.intp)
    return np.asarray(values[below] + (place - below) * rises[below], np.float64)


def shadow_spectrum(diameter: float | Floats, k: Floats, fresnel_sq: float) -> Floats:
    """Spectrum of a disc's shadow over its area, at frequencies ``k`` (m); 1 at zero.

    ``diameter``: one above 0, or several as (n, 1), which give (n, m). ``fresnel_sq``: wavelength
    times distance behind the disc, in the square of the diameter's unit; 0 gives the disc itself.
    """
    own = disc_spectrum(diameter, k)
    if fresnel_sq <= 0:
        return own
    waves = k * diameter
    phase = math.pi * fresnel_sq * k * k
    shift = fresnel_sq * k / diameter
    spread = sum(weight * _ambiguity(longer * shift, waves) for longer, weight in BANDS)
    return np.asarray(2 * own * washed_cosine(phase) - spread, np.float64)


def washed_cosine(phase: NDArray[Any]) -> NDArray[Any]:
    """Cosine of a phase that grows with the wavelength, given at 550 nm, over all bands."""
    washed = np.exp(-0.5 * (BAND_WIDTH * phase) ** 2)
    out = sum(weight * np.cos(longer * phase) for longer, weight in BANDS)
    return np.asarray(washed * out, phase.dtype)


def _ambiguity(shift: Floats, waves: Floats) -> Floats:
    """The tabulated function of a unit disc between its places, 0 from a shift of 1 on."""
    table = _ambiguity_table()
    s = np.minimum(shift, 1.0) * _SHIFTS
    w = np.minimum(waves * (_WAVE_STEPS / _MOST_WAVES), _WAVE_STEPS)
    i, j = (
        np.minimum(s.astype(np.intp), _SHIFTS - 1),
        np.minimum(w.astype(np.intp), _WAVE_STEPS - 1),
    )
    s, w = s - i, w - j
    low = table[i, j] * (1 - w) + table[i, j + 1] * w
    high = table[i + 1, j] * (1 - w) + table[i + 1, j + 1] * w
    return np.asarray(low * (1 - s) + high * s, np.float64)


@lru_cache(maxsize=1)
def _ambiguity_table() -> Floats:
    """``∫∫ cos(2π w x)`` over what a disc of diameter 1 and itself shifted by s share, over its
    area: shifts (rows) 0 to 1, waves (columns) 0 to the most.
    """
    nodes, weights = np.polynomial.legendre.leggauss(96)
    angle, weights = (nodes + 1) * math.pi / 4, weights * math.pi / 4
    waves = np.linspace(0.0, _MOST_WAVES, _WAVE_STEPS + 1)
    table = np.zeros((_SHIFTS + 1, _WAVE_STEPS + 1))
    for row, s in enumerate(np.linspace(0.0, 1.0, _SHIFTS + 1)):
        half = (1 - s) / 2
        x = half * np.sin(angle)
        chord = np.sqrt(np.maximum(0.25 - (x + s / 2) ** 2, 0.0))
        table[row] = (weights * half * np.cos(angle) * chord) @ np.cos(
            2 * math.pi * np.outer(x, waves)
        )
    return table * (16 / math.pi)
