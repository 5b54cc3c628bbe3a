"""Which pictures show one still scene, and so count once.

What stands in the same place in two pictures of one scene may be of the scene. Small copies of the
pictures are compared: their structure, dust clipped away, whatever the light; and, within minutes,
also their shading, for a tripod before an even wall leaves no structure to compare.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import quantile, smoothed
from neatpatch.core.common.frame import Image

Plane = NDArray[np.float32]

_SMALL = (96, 64)
_FINE, _COARSE = 1.2, 6.0
"""Band of structure compared, in cells: coarse enough that a hand's tremble does not change it."""
_CLIP = 2.0
"""Spreads: dust covers few cells, and so cannot make two skies alike."""
_ALIKE, _ALIKE_SOON = 0.55, 0.25
"""Correlation of structure that makes one scene, of any two pictures and of a burst."""
_BURST_S, _SOON_S = 30.0, 900.0
_SHADING = 0.015
"""Spread of the ratio of two pictures' light that tells one even wall from another sky."""


@dataclass(frozen=True)
class SceneKey:
    """Structure (unit spread) and shading of a picture in few cells, and when it was taken."""

    structure: Plane
    shading: Plane
    taken_at: datetime


def scene_key_of(light: Image, taken_at: datetime) -> SceneKey:
    """Few cells of a picture's log light."""
    small = cv2.resize(np.maximum(light, 1e-3), _SMALL, interpolation=cv2.INTER_AREA)
    tone = np.log(np.asarray(small, np.float32))
    band = smoothed(tone, _FINE) - smoothed(tone, _COARSE)
    limit = _CLIP * 1.4826 * quantile(np.abs(band), 0.5) + 1e-6
    band = np.clip(band, -limit, limit)
    band -= band.mean()
    spread = float(band.std())
    return SceneKey(
        np.asarray(band / max(spread, 1e-6), np.float32),
        np.asarray(smoothed(tone, _COARSE), np.float32),
        taken_at,
    )


def scenes_of(scene_keys: Sequence[SceneKey]) -> list[int]:
    """A number for each picture; those of one scene share it."""
    count = len(scene_keys)
    if not count:
        return []
    flat = np.array([g.structure.ravel() for g in scene_keys], np.float32)
    alike = flat @ flat.T / flat.shape[1]
    at = np.array([g.taken_at.timestamp() for g in scene_keys])
    apart = np.abs(at[:, None] - at[None])
    same = (alike > _ALIKE) | ((alike > _ALIKE_SOON) & (apart <= _BURST_S))
    for i, j in zip(*np.nonzero(np.triu((apart <= _SOON_S) & ~same, 1)), strict=True):
        ratio = scene_keys[i].shading - scene_keys[j].shading
        same[i, j] = float(ratio.std()) < _SHADING
    return _components(same | same.T)


def _components(same: NDArray[np.bool_]) -> list[int]:
    from scipy.sparse.csgraph import connected_components

    return [int(n) for n in connected_components(same, directed=False)[1]]
