"""The shadow of a particle under a cone of light, and its inverse.

A particle of diameter ``d`` lies a height ``h`` (air-equivalent) above the photosites. Through a
lens at f-number ``N`` every point of that plane is lit from a cone, so the shadow is the
light lost behind the particle, bent round it as `diffraction` says, convolved with the lens pupil
projected through it: a disc of diameter ``b = h / N``. A small Gaussian blur of photosite and
interpolation comes on top.

Source: shadow of an extended source, E. Hecht, Optics, 5th ed., ch. 5; light behind a screen,
J. W. Goodman, Introduction to Fourier Optics, 3rd ed., ch. 4; docs/method.md.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from neatpatch.core.common.diffraction import disc_spectrum, shadow_spectrum

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


ASSUMED_EXIT_PUPIL_MM = 80.0
"""Of most lenses 60 to 110 mm before the sensor: a height is told within 1 % by it."""
_THIRD = 6
_MARKED_WITHIN = 0.03
"""Marked f-numbers are rounded: 22 is 22.63, which is the most."""


def true_stop(f_number: float) -> float:
    """The f-number that a marked one stands for: the nearest third of a stop, 22 for 22.63.

    Thirds are sixth powers of two, by which cameras step (docs/method.md). One that is no mark of
    the series, or given to a tenth of a large one, stands for itself.
    """
    if f_number != round(f_number, 1) or (f_number > 10 and f_number != round(f_number)):
        return f_number
    third = 2 ** (round(_THIRD * math.log2(f_number)) / _THIRD)
    return third if abs(third / f_number - 1) < _MARKED_WITHIN else f_number


def blur_um(
    height_mm: float, f_number: float, exit_pupil_mm: float = ASSUMED_EXIT_PUPIL_MM
) -> float:
    """Diameter in micrometres of the pupil's projection: ``h / N``, ``E / (E - h)`` times wider
    for an exit pupil at a distance ``E``, which lies at least as far again as what is lit.
    """
    far = max(exit_pupil_mm, 2 * height_mm)
    return height_mm * 1000.0 / true_stop(f_number) * far / (far - height_mm)


def height_mm(blur_diameter_um: float, f_number: float) -> float:
    """Inverse of `blur_um` for a usual exit pupil: stack height in millimetres."""
    far = blur_diameter_um * true_stop(f_number) / 1000.0
    return far * ASSUMED_EXIT_PUPIL_MM / (ASSUMED_EXIT_PUPIL_MM + far)


def wave_um(f_number: float) -> float:
    """``λ N`` in micrometres at 550 nm: times the blur ``h / N`` it is ``λ h``, the square of the
    width over which light spreads between the glass and the photosites.
    """
    return WAVELENGTH_UM * true_stop(f_number)


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


def unit_profile(
    radius: ArrayLike, particle: float, blur: float, softness: float, wave: float = 0.0
) -> Floats:
    """Radial profile of a round shadow whose integral over the plane is one.

    ``radius``, ``particle``, ``blur`` (diameters), ``softness`` (standard deviation) and ``wave``
    (λN, see `wave_um`) share a unit; the result is per that unit squared, below zero where light
    is given back. Computed as a Hankel transform of the product of the spectra of the shadow, the
    pupil and a Gaussian; accurate to 0.2 % of its peak for softness above 3 % of the outer width.
    Beyond twice the outer width it is zero.
    """
    radii, profiles = unit_profiles(np.array([particle]), blur, softness, wave)
    at = np.asarray(radius, dtype=np.float64)
    return np.asarray(np.interp(at, radii, profiles[0], right=0.0), np.float64)


def unit_profiles(
    particles: Floats, blur: float, softness: float, wave: float = 0.0
) -> tuple[Floats, Floats]:
    """`unit_profile` of many particles (n) under one blur: radii (m) and profiles (n, m).

    All share the scale of the largest, and so one spectrum of the blurs.
    """
    scale, weighted = _weighted_spectrum(particles, blur, softness, wave)
    radii, table = _hankel()[2:]
    return radii * scale, np.asarray(weighted @ table.T / scale**2, np.float64)


def unit_peak(particle: float, blur: float, softness: float, wave: float = 0.0) -> float:
    """`unit_profile` where it is highest: with waves that is not always the middle."""
    return float(unit_profiles(np.array([particle]), blur, softness, wave)[1].max())


def unit_ring_peak(outer: float, inner: float, blur: float, softness: float) -> float:
    """Largest value of a ring's shadow whose integral is one, by geometry; one unit for all widths.

    ``outer`` and ``inner``: diameters of the ring; softness below 2 % of the width is raised to it.
    """
    soft = max(softness, 0.02 * (outer + blur))
    scale = outer + blur + 4 * soft
    k, weight, _, table = _hankel()
    kk = k / scale
    areas = outer**2, inner**2
    ring = areas[0] * disc_spectrum(outer, kk) - areas[1] * disc_spectrum(inner, kk)
    blurred = ring / (areas[0] - areas[1]) * disc_spectrum(blur, kk)
    weighted = weight * blurred * np.exp(-2 * (math.pi * soft * kk) ** 2)
    return float((weighted @ table.T).max() / scale**2)


def _weighted_spectrum(
    particles: Floats, blur: float, softness: float, wave: float
) -> tuple[float, Floats]:
    """The outer scale of the largest, and for each the product of all spectra with its weights of
    integration.
    """
    scale = max(float(np.max(particles)) + blur + 4 * softness, 1e-6)
    k, weight = _hankel()[:2]
    kk = k / scale
    blurred = weight * disc_spectrum(blur, kk) * np.exp(-2 * (math.pi * softness * kk) ** 2)
    some = np.maximum(particles, 1e-3 * scale)[:, None]
    return scale, shadow_spectrum(some, kk, wave * blur) * blurred


def predicted_depth(particle: float, blur: float, softness: float, wave: float = 0.0) -> float:
    """Largest depth of an opaque round shadow after all blurs (0 to 1); one unit for all.

    Softness below 2 % of the width is raised to it: finer, the transform would ring.
    """
    if particle <= 0:
        return 0.0
    area = math.pi / 4 * particle**2
    resolved = max(softness, 0.02 * (particle + blur))
    peak = area * unit_peak(particle, blur, resolved, wave)
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
