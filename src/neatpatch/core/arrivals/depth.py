"""How deep a mark is in the pictures that show it best, read from their light."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.arrivals.picture_scores import Lens
from neatpatch.core.common.frame import Image
from neatpatch.core.pictures.shadow_evidence import log_light, window_of

_RING = (0.8, 1.3)
"""Radii of the ring that tells the light around, in diameters of the blur."""
_CORE = 0.25
_LEAST_PIXELS = 6


def depth_in(light: Image, place: tuple[float, float], lens: Lens) -> float | None:
    """Share of the light lost in the middle of a mark; None where the ring around cannot tell."""
    tone, usable = log_light(light)
    half = max(3, int(np.ceil(_RING[1] * lens.blur_px)) + 1)
    at = round(place[0]), round(place[1])
    window, shows = window_of(tone, at, half), window_of(usable, at, half)
    y, x = np.indices(window.shape)
    away = np.hypot(x - half - (place[0] - at[0]), y - half - (place[1] - at[1]))
    ring = shows & (away > _RING[0] * lens.blur_px) & (away < _RING[1] * lens.blur_px)
    core = shows & (away <= max(0.8, _CORE * lens.blur_px))
    if ring.sum() < _LEAST_PIXELS or not core.any():
        return None
    loss = 1 - np.exp(float(np.mean(window[core])) - float(np.median(window[ring])))
    return float(np.clip(loss, 0, 1))


def usual_depth(depths: Sequence[float], scales: Sequence[float]) -> float | None:
    """The middle one of depths brought to one aperture by their scales; None for none."""
    if not depths:
        return None
    brought: NDArray[np.float64] = np.minimum(np.array(depths) * np.array(scales), 1.0)
    return float(np.median(brought))
