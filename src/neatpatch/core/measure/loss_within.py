"""The opaque disc behind the light that a shadow takes within its region.

Light that a speck takes out of the direct beam, up to twice its area, comes back around it, partly
beyond the region that is measured. So the loss within a region tells the particle only by the
shadow's model: the disc is sought that takes as much within a circle of the region's area.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common import optics

Floats = NDArray[np.float64]
_SMALLEST, _LARGEST, _SIZES = 0.02, 1.6, 40
"""Diameters tabulated, in blurs; what is larger is told like the largest, by its own area."""


@dataclass(frozen=True, eq=False)
class LossWithin:
    """Loss of light within a radius for discs of growing diameter, under one blur.

    ``diameters`` (n), ``radii`` (m), ``losses`` (n, m); pixels and their squares.
    """

    diameters: Floats
    radii: Floats
    losses: Floats

    @staticmethod
    def of(blur: float, softness: float, wave: float) -> LossWithin:
        """The table of a frame's blur; kept for its next shadow."""
        return _table(blur, softness, wave)

    def particle(self, loss: float, radius: float) -> float:
        """Diameter in pixels of the disc that takes ``loss`` (square pixels) within ``radius``
        (pixels). Discs beyond the table grow and shrink from its ends with the root of the loss; 0
        for no loss.
        """
        place = np.searchsorted(self.radii, radius)
        i = min(max(int(place), 1), self.radii.size - 1)
        share = (radius - self.radii[i - 1]) / (self.radii[i] - self.radii[i - 1])
        share = min(max(share, 0.0), 1.0)
        here = self.losses[:, i - 1] * (1 - share) + self.losses[:, i] * share
        here = np.maximum.accumulate(here)
        largest, most = float(self.diameters[-1]), float(here[-1])
        if loss >= most:
            return largest * math.sqrt(loss / most)
        if loss <= here[0]:
            return float(self.diameters[0]) * math.sqrt(max(loss, 0.0) / max(float(here[0]), 1e-9))
        return float(np.interp(loss, here, self.diameters))


@lru_cache(maxsize=16)
def _table(blur: float, softness: float, wave: float) -> LossWithin:
    diameters = np.asarray(blur * np.geomspace(_SMALLEST, _LARGEST, _SIZES), np.float64)
    radii, profiles = optics.unit_profiles(optics.RAGGED * diameters, blur, softness, wave)
    rings = 2 * math.pi * radii * profiles
    steps = (rings[:, 1:] + rings[:, :-1]) / 2 * radii[1]
    within = np.concatenate([np.zeros((_SIZES, 1)), np.cumsum(steps, axis=1)], axis=1)
    return LossWithin(diameters, radii, within * (math.pi / 4 * diameters**2)[:, None])


def opaque_diameters(losses: Floats, areas: Floats, table: LossWithin) -> Floats:
    """Diameters of the discs that take these losses within regions of these areas (n)."""
    radii = np.sqrt(areas / math.pi)
    return np.array(
        [table.particle(float(a), float(r)) for a, r in zip(losses, radii, strict=True)]
    )
