"""A frame's loss of light, kept so that it can be measured at any place later.

A map says what was found. What was not found at a place is a measurement, too: the loss there and
its error. For that the loss is kept, binned to some pixels across a blur, with the noise that a
shadow's strength has in it. See `core.compare.places`.
"""

from __future__ import annotations

from dataclasses import dataclass

from neatpatch.core.common.frame import Image


@dataclass(frozen=True, eq=False)
class LossField:
    """Share of the light lost, binned by ``pixel`` full-resolution pixels.

    ``noise``: standard deviation of what a shadow of unit sum of squares answers, where the light
    is as usual; ``dimness``: by how much more elsewhere, on any coarse grid over the frame. The
    blur's diameter, the softness and λN are in full pixels.
    """

    loss: Image
    pixel: int
    noise: float
    dimness: Image
    blur_px: float
    softness_px: float
    wave_px: float

    def noise_at(self, x_px: float, y_px: float) -> float:
        """`noise` at a place of the frame in full pixels."""
        rows, columns = self.dimness.shape
        height, width = (n * self.pixel for n in self.loss.shape)
        row = min(max(int(y_px / height * rows), 0), rows - 1)
        column = min(max(int(x_px / width * columns), 0), columns - 1)
        return self.noise * float(self.dimness[row, column])
