"""The blur diameter that all specks of one frame share, and the stack height behind it.

Every speck smaller than the blur spreads its loss over the same pupil disc, so loss over depth is
an area all specks agree on. The smallest such disc gives a first value; a joint least-squares fit
of the radial profiles of the sharp ones, each with its own particle size from its own integrated
loss, gives the final blur and the softness of the lens.
Sources: the shadow model in `core.common.optics`; least squares within bounds, M. A. Branch,
T. F. Coleman & Y. Li, SIAM J. Sci. Comput. 21, 1 (1999),
https://doi.org/10.1137/S1064827595289108, as in scipy.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common import optics
from neatpatch.core.measure.loss_within import LossWithin, opaque_diameters
from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.spread import too_spread

_LEAST_SNR = 25.0
"""Fainter profiles disturb the height more than they tell of it."""
_SOFTNESS_PX = 0.8
"""Blur of photosites and interpolation where it cannot be fitted."""
_FEWEST, _FEWEST_SHARE = 3, 0.25
_MOST_ERROR = 0.03
"""Relative standard error from which a height is called assumed: with the model's own error of some
per cent it keeps those that are told within 8 %."""
_LEAST_BLUR_PX = 6.0
"""Over fewer pixels the photosites' own size shapes the profile, and heights come out 10 % off."""
_MOST_USED = 14
"""The strongest tell the height; more cost time each."""
_RAGGED_SHARE = 0.04
"""Error of the round model for a particle as large as the blur, as a share of its depth."""
_HEIGHT_RANGE_MM = (0.2, 8.0)
"""From a bare cover glass to the deepest stacks of filters; wider lets a bad fit escape."""


@dataclass(frozen=True)
class BlurFit:
    """Blur diameter, softness (standard deviation), Airy scale in pixels; how they were found."""

    blur_px: float
    softness_px: float
    wave_px: float
    source: Literal["fitted", "given", "assumed"]
    used: int = 0


def soft_px(blur: BlurFit) -> float:
    """All soft blur in pixels as one Gaussian: the Airy core is one of 0.42 λN."""
    return math.hypot(blur.softness_px, 0.42 * blur.wave_px)


def sharp_specks(things: Sequence[RegionMeasures]) -> list[RegionMeasures]:
    """Round, solid, isolated-looking shadows bright enough to say something about the blur."""
    return [
        m
        for m in things
        if m.snr >= _LEAST_SNR
        and m.elongation < 1.3
        and m.fill > 0.6
        and m.hollow > 0.75
        and not m.at_border
        and m.depth < 0.97
    ]


def fit_blur(
    things: Sequence[RegionMeasures],
    given_px: float | None,
    assumed_px: float | None,
    wave_px: float,
    range_px: tuple[float, float],
) -> BlurFit:
    """Blur of a frame. ``given_px`` wins; fewer than six sharp specks fall back on ``assumed_px``.

    ``range_px`` bounds the physically possible blur. Never raises: with nothing to go by it
    returns the assumed value, or the middle of the range.
    """
    if given_px is not None:
        return BlurFit(given_px, _SOFTNESS_PX, wave_px, "given")
    candidates = sharp_specks(things)
    start = _common_core(candidates, range_px)
    fallback = assumed_px if assumed_px is not None else float(np.sqrt(range_px[0] * range_px[1]))
    if start is None:
        return BlurFit(fallback, _SOFTNESS_PX, wave_px, "assumed")
    alike = [m for m in candidates if 0.75 * start < m.core_px < 1.7 * start]
    alike = sorted(alike, key=lambda m: -m.snr)
    usable = _plain([m for m in alike if _particle(m) < 0.95 * start], start)[:_MOST_USED]
    if len(usable) < 2:
        blur_px = start if assumed_px is None else fallback
        return BlurFit(blur_px, _SOFTNESS_PX, wave_px, "assumed")
    blur_px, softness_px, error = _joint_fit(usable, start, wave_px, range_px)
    sure = len(usable) >= _FEWEST and error < _MOST_ERROR and blur_px > _LEAST_BLUR_PX
    source: Literal["fitted", "assumed"] = "fitted" if sure else "assumed"
    return BlurFit(blur_px, softness_px, wave_px, source, len(usable))


def _plain(things: list[RegionMeasures], start: float) -> list[RegionMeasures]:
    """Without what spreads like a droplet, whose soft flanks would pass for a soft lens.

    All of them where too few would be left.
    """
    plain = [m for m in things if not too_spread(m, start, _SOFTNESS_PX)]
    return plain if len(plain) >= max(_FEWEST, _FEWEST_SHARE * len(things)) else things


def _particle(m: RegionMeasures) -> float:
    return float(np.sqrt(4 / np.pi * m.loss_px2))


def _common_core(things: Sequence[RegionMeasures], range_px: tuple[float, float]) -> float | None:
    """Smallest well-supported core diameter: where the cores of the small specks pile up."""
    cores = np.array([m.core_px for m in things])
    ok = (cores > 0.8 * range_px[0]) & (cores < 1.6 * range_px[1])
    cores = np.sort(cores[ok])
    if cores.size == 0:
        return None
    if cores.size < 4:
        return float(cores[0])
    support = [int(np.sum((cores >= c * 0.97) & (cores <= c * 1.22))) for c in cores]
    needed = max(2, int(0.5 * max(support)))
    return float(next(c for c, n in zip(cores, support, strict=True) if n >= needed) * 1.04)


def _joint_fit(
    things: Sequence[RegionMeasures], start: float, wave: float, range_px: tuple[float, float]
) -> tuple[float, float, float]:
    """Blur, softness, and the relative standard error of the blur from the fit's own residuals."""
    rings = _Rings.of(things, start)
    particles = optics.RAGGED * opaque_diameters(
        np.array([m.loss_px2 for m in things]),
        np.array([m.area_px for m in things]),
        LossWithin.of(start, _SOFTNESS_PX, wave),
    )

    def residuals(p: NDArray[np.float64]) -> NDArray[np.float64]:
        radii, profiles = optics.unit_profiles(particles, float(p[0]), float(p[1]), wave)
        return rings.left_by(profiles, float(radii[1]))

    low, high = 0.7 * start, 1.35 * start
    from scipy.optimize import least_squares  # slow to load: only where a height is fitted

    result = least_squares(
        residuals,
        [start, _SOFTNESS_PX],
        loss="soft_l1",
        f_scale=2.0,
        bounds=([max(low, 0.5 * range_px[0]), 0.25], [high, max(0.3 * start, 1.0)]),
        x_scale=[start, 1.0],
        xtol=1e-4,
        ftol=1e-5,
        max_nfev=40,
    )
    return float(result.x[0]), float(result.x[1]), _relative_error(result.jac, result.fun, start)


def _relative_error(jacobian: NDArray[np.float64], left: NDArray[np.float64], blur: float) -> float:
    """Standard error of the first parameter over its size; infinite where it is not determined."""
    spread = float(np.square(left).mean()) * left.size / max(left.size - 2, 1)
    normal = jacobian.T @ jacobian
    determinant = normal[0, 0] * normal[1, 1] - normal[0, 1] ** 2
    if determinant <= 0:
        return math.inf
    return math.sqrt(spread * normal[1, 1] / determinant) / blur


@dataclass(frozen=True)
class _Rings:
    """The rings of all shadows fitted, one below the other (n).

    ``radii``: three across each ring (n, 3), which count for ``share`` of it; ``owner``: whose ring
    it is; ``loss``: what was measured in it. Each shadow is as strong as fits it best: its shape
    alone tells the blur.
    """

    radii: NDArray[np.float64]
    share: NDArray[np.float64]
    owner: NDArray[np.intp]
    loss: NDArray[np.float64]
    weight: NDArray[np.float64]

    @staticmethod
    def of(things: Sequence[RegionMeasures], start: float) -> _Rings:
        data = [_ring_data(m, start) for m in things]
        radius, loss, weight = (np.concatenate(parts) for parts in zip(*data, strict=True))
        owner = np.repeat(np.arange(len(things)), [d[0].size for d in data])
        step = np.array([float(m.profile_step_px) for m in things])[owner]
        radii = np.abs(radius[:, None] + np.array([-0.33, 0.0, 0.33]) * step[:, None])
        share = np.maximum(radii, 0.1)
        share /= share.sum(axis=1, keepdims=True)
        return _Rings(radii, share, owner, loss, weight)

    def left_by(self, profiles: NDArray[np.float64], spacing: float) -> NDArray[np.float64]:
        """What model profiles (one for each shadow, of even spacing) leave of each ring, weighed.

        The model is averaged over each ring's width, for small shadows of few pixels.
        """
        last = profiles.shape[1] - 1
        place = np.minimum(self.radii / spacing, last)
        below = np.minimum(place.astype(np.intp), last - 1)
        own = self.owner[:, None]
        low, high = profiles[own, below], profiles[own, below + 1]
        model = ((low + (high - low) * (place - below)) * self.share).sum(axis=1)
        count = profiles.shape[0]
        told = np.bincount(self.owner, self.loss * model * self.weight**2, count)
        whole = np.bincount(self.owner, (model * self.weight) ** 2, count)
        strength = told / np.maximum(whole, 1e-30)
        return np.asarray((self.loss - strength[self.owner] * model) * self.weight, np.float64)


def _ring_data(
    m: RegionMeasures, start: float
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    count = min(m.profile.size, int((start + _particle(m)) * 0.75 / m.profile_step_px) + 2)
    edges = np.arange(count) * float(m.profile_step_px)
    radius = (edges + edges + m.profile_step_px) / 2
    # The centroid pixel's own ring has its mean radius at two thirds of its outer edge.
    radius[0] = 0.62 * m.profile_step_px
    pixels = 2 * np.pi * radius * m.profile_step_px
    ragged = _RAGGED_SHARE * m.depth * min(1.0, _particle(m) / start)
    weight = 1 / np.hypot(m.noise * m.profile_step_px / np.sqrt(pixels), ragged + 0.01 * m.depth)
    return radius, m.profile[:count], weight


def possible_blur_px(f_number: float | None, pitch_um: float | None) -> tuple[float, float]:
    """Range of blur diameters in pixels that stack heights of 0.2 to 8 mm allow."""
    if f_number is None or pitch_um is None:
        return (2.0, 120.0)
    low, high = (optics.blur_um(h, f_number) / pitch_um for h in _HEIGHT_RANGE_MM)
    return (max(low, 1.5), max(high, 4.0))
