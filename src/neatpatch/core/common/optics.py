"""The shadow of a particle under a cone of light, and its inverse.

A particle of diameter ``d`` lies a height ``h`` (air-equivalent) above the photosites. Through a
lens at f-number ``N`` every point of that plane is lit from a cone, so the shadow is the
particle's silhouette convolved with the lens pupil projected through it: a disc of diameter
``b = h / N``. The lens's own diffraction (an Airy pattern) and a small Gaussian blur of photosite
and interpolation come on top.

Source: geometrical shadow of an extended source and Airy pattern, E. Hecht, Optics, 5th ed., ch. 5
and 10; transfer function of a round pupil, J. W. Goodman, Introduction to Fourier Optics, 3rd ed.,
eq. 6-32.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

WAVELENGTH_UM = 0.55
"""Green, where luminance weighs most; the Airy disc grows in proportion."""
ASSUMED_HEIGHT_MM = 1.5
"""Used when a frame has too few sharp specks to fit its own height."""
NOTICED_DEPTH = 0.02
"""A loss of 2 % is about one just-noticeable step on an even tone (Weber fraction)."""
NOTICED_WIDTH_PPM = 500.0
"""Shadows narrower than this share of the frame's width are below one minute of arc when the
whole picture is seen from its own diagonal; they need more contrast in proportion."""
RAGGED = 1.1
"""A dust particle's longest extent over the diameter of the disc of its area, typically."""

"""Whole stops as cameras name them; between two of them nobody sets a working aperture."""


def blur_um(height_mm: float, f_number: float) -> float:
    """Diameter in micrometres of the pupil's projection: ``h / N``."""
    return height_mm * 1000.0 / f_number


def height_mm(blur_diameter_um: float, f_number: float) -> float:
    """Inverse of `blur_um`: stack height in millimetres."""
    return blur_diameter_um * f_number / 1000.0


def airy_um(f_number: float) -> float:
    """Scale of the Airy pattern in micrometres, ``λ N`` at 550 nm; its dark ring is at 1.22."""
    return WAVELENGTH_UM * f_number


def disc_overlap(diameter_a: float, diameter_b: float, distance: ArrayLike) -> Floats:
    """Area shared by two discs whose centres lie ``distance`` apart (any one unit, squared).

    Source: circle-circle intersection, Weisstein, MathWorld.
    """
    a, b = diameter_a / 2.0, diameter_b / 2.0
    r = np.abs(np.asarray(distance, dtype=np.float64))
    small = min(a, b)
    area = np.where(r <= abs(a - b), math.pi * small * small, 0.0)
    lens = (r > abs(a - b)) & (r < a + b)
    q = r[lens]
    part_a = a * a * np.arccos(np.clip((q * q + a * a - b * b) / (2 * q * a), -1, 1))
    part_b = b * b * np.arccos(np.clip((q * q + b * b - a * a) / (2 * q * b), -1, 1))
    kite = (-q + a + b) * (q + a - b) * (q - a + b) * (q + a + b)
    area[lens] = part_a + part_b - 0.5 * np.sqrt(np.maximum(kite, 0.0))
    return area


def central_depth(particle: float, blur: float) -> float:
    """Largest fraction of light an opaque round particle takes away (0 to 1), ``min(1, (d/b)^2)``.

    Both widths in the same unit. A zero blur (contact) gives 1, a zero particle 0.
    """
    if particle <= 0:
        return 0.0
    return 1.0 if particle >= blur else (particle / blur) ** 2


@lru_cache(maxsize=1)
def _hankel() -> tuple[Floats, Floats, Floats, Floats]:
    """Frequencies, weights, radii 0..2 and J0 table (units of the profile's scale)."""
    step = 0.025
    k: Floats = (np.arange(600, dtype=np.float64) + 0.5) * step
    weight: Floats = 2 * math.pi * k * step
    radii: Floats = np.linspace(0.0, 2.0, 160, dtype=np.float64)
    from scipy.special import j0  # a third of a second to load: only where it is needed

    table: Floats = j0(2 * math.pi * np.outer(radii, k))
    return k, weight, radii, table


_JINC_END, _JINC_STEPS = 48.0, 16_384
"""Beyond the end it stays below 0.005; steps of 0.003 keep straight lines within 1e-6."""


@lru_cache(maxsize=1)
def _jinc() -> tuple[Floats, Floats]:
    """``2 J1(x) / x`` on a grid fine enough that linear interpolation errs by less than 1e-6, and
    how much it rises from each place to the next; from the last on it stays.
    """
    x: Floats = np.linspace(0.0, _JINC_END, _JINC_STEPS + 1, dtype=np.float64)
    values: Floats = np.ones_like(x)
    from scipy.special import j1

    values[1:] = 2 * j1(x[1:]) / x[1:]
    return values, np.append(np.diff(values), 0.0)


def _disc_spectrum(diameter: float, k: Floats) -> Floats:
    """Transfer function of a disc; its grid is even, so that nothing need be searched in it."""
    values, rises = _jinc()
    place = np.minimum(k * (math.pi * diameter * _JINC_STEPS / _JINC_END), _JINC_STEPS)
    below = place.astype(np.intp)
    return np.asarray(values[below] + (place - below) * rises[below], np.float64)


def _airy_spectrum(scale: float, k: Floats) -> Floats:
    """Transfer function of a perfect round pupil; ``scale`` is λN. One everywhere for 0."""
    if scale <= 0:
        return np.ones_like(k)
    nu = np.minimum(k * scale, 1.0)
    return np.asarray(2 / math.pi * (np.arccos(nu) - nu * np.sqrt(1 - nu * nu)), np.float64)


def unit_profile(
    radius: ArrayLike, particle: float, blur: float, softness: float, airy: float = 0.0
) -> Floats:
    """Radial profile of a round shadow whose integral over the plane is one.

    ``radius``, ``particle``, ``blur`` (diameters), ``softness`` (standard deviation) and ``airy``
    (see `airy_um`) share a unit; the result is per that unit squared. Computed as a Hankel
    transform of the product of the spectra of discs, pupil and Gaussian; accurate to 0.2 % of its
    peak for softness above 3 % of the outer width. Beyond twice the outer width it is zero.
    """
    scale, weighted = _weighted_spectrum(particle, blur, softness, airy)
    radii, table = _hankel()[2:]
    return np.interp(
        np.asarray(radius, dtype=np.float64), radii * scale, table @ weighted / scale**2, right=0.0
    )


def unit_profiles(
    particles: Floats, blur: float, softness: float, airy: float = 0.0
) -> tuple[Floats, Floats]:
    """`unit_profile` of many particles (n) under one blur: radii (m) and profiles (n, m).

    All share the scale of the largest, and so one spectrum of the blurs.
    """
    largest = float(np.max(particles))
    scale, blurred = _weighted_spectrum(0.0, blur, softness, airy, largest)
    k, _, radii, table = _hankel()
    own = _disc_spectrum(1.0, np.outer(particles, k / scale))
    return radii * scale, (own * blurred) @ table.T / scale**2


def unit_peak(particle: float, blur: float, softness: float, airy: float = 0.0) -> float:
    """`unit_profile` at radius zero, where the transform is a plain sum."""
    scale, weighted = _weighted_spectrum(particle, blur, softness, airy)
    return float(weighted.sum()) / scale**2


def _weighted_spectrum(
    particle: float, blur: float, softness: float, airy: float, largest: float = 0.0
) -> tuple[float, Floats]:
    """The outer scale, and the product of all spectra with its weights of integration.

    ``largest`` widens the scale to that of a larger particle.
    """
    scale = max(max(particle, largest) + blur + 4 * softness + 2 * airy, 1e-6)
    k, weight = _hankel()[:2]
    kk = k / scale
    spectrum = (
        _disc_spectrum(particle, kk)
        * _disc_spectrum(blur, kk)
        * _airy_spectrum(airy, kk)
        * np.exp(-2 * (math.pi * softness * kk) ** 2)
    )
    return scale, spectrum * weight


def predicted_depth(particle: float, blur: float, softness: float, airy: float = 0.0) -> float:
    """Depth at the centre of an opaque round shadow after all blurs (0 to 1); one unit for all.

    Softness below 3 % of the width is raised to it: finer, the transform would ring.
    """
    if particle <= 0:
        return 0.0
    area = math.pi / 4 * particle**2
    resolved = max(softness, 0.03 * (particle + blur))
    peak = area * unit_peak(particle, blur, resolved, airy)
    return min(1.0, max(0.0, peak))


def needed_depth(outer_um: float, sensor_width_mm: float | None) -> float:
    """Smallest depth at which a shadow of this outer width would be noticed.

    2 % for shadows wider than 0.05 % of the picture's width; rising in inverse proportion to the
    width below that (spatial summation, Ricco's law, taken linearly as a cautious middle).
    """
    if not sensor_width_mm:
        return NOTICED_DEPTH
    width_ppm = outer_um / (sensor_width_mm * 1000.0) * 1e6
    return NOTICED_DEPTH * max(1.0, NOTICED_WIDTH_PPM / max(width_ppm, 1.0))
