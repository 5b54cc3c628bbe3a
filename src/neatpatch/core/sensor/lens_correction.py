"""What a lens correction in the camera does to places: radial terms about the middle.

The first two of D. C. Brown, Photogramm. Eng. 32, 444 (1966).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.sensor.placement import Points

_Real = TypeVar("_Real", np.float32, np.float64)


@dataclass(frozen=True)
class Correction:
    """``there = scale * (1 + radial * rho^2 + second * rho^4) * here``, both about the middle.

    ``rho``: distance from the middle over half the sensor's diagonal.
    """

    scale: float
    radial: float
    second: float = 0.0

    def apply(self, off: Points, reach_px: float) -> Points:
        """Offsets (n, 2) from the middle, in pixels of a frame of that half diagonal."""
        far = (off**2).sum(axis=1, keepdims=True) / reach_px**2
        return np.asarray(self.outward(far) * off)

    def outward(self, far: NDArray[_Real]) -> NDArray[_Real]:
        """What it multiplies distances from the middle by; ``far``: their ``rho^2``."""
        return np.asarray(self.scale * (1 + far * (self.radial + self.second * far)), far.dtype)

    def growth(self, off: Points, reach_px: float) -> NDArray[np.float64]:
        """How much larger it draws what lies at these offsets (n): the root of the area's."""
        far = (off**2).sum(axis=1) / reach_px**2
        along = self.scale * (1 + far * (3 * self.radial + 5 * self.second * far))
        return np.asarray(np.sqrt(self.outward(far) * along))

    def inverse(self) -> Correction:
        """Back again, but for terms of the sixth order."""
        return Correction(
            1 / self.scale,
            -self.radial / self.scale**2,
            (3 * self.radial**2 - self.second) / self.scale**4,
        )

    def then(self, after: Correction) -> Correction:
        """Itself, and another one on what it gave, but for terms of the sixth order."""
        wide = self.scale**2
        return Correction(
            self.scale * after.scale,
            self.radial + after.radial * wide,
            self.second + (after.second * wide + 3 * self.radial * after.radial) * wide,
        )


NO_CORRECTION = Correction(1.0, 0.0)
