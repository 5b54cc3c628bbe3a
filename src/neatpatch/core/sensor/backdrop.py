"""Whether the camera moved between two frames: what is pictured behind the dust changes with it.

The light of a frame is averaged over a coarse grid. Two frames shot from one place differ there by
noise alone, which neighbouring cells do not share; after a move the target's own unevenness lies
elsewhere, and the difference is alike in neighbouring cells. Tones, bands of flickering lamps and
even slopes are taken out first, so that a change of the light is no proof of a move. Source:
spatial autocorrelation against none, P. A. P. Moran, Biometrika 37, 17 (1950),
https://doi.org/10.1093/biomet/37.1-2.17.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.frame import Frame

ROWS, COLUMNS = 32, 48
"""Finer cells hold more noise, coarser ones average the target away."""
_CLIP = 4.0
"""Deviations: a speck that went changes a cell or two by far more."""
_SHARED = 0.12
"""Share of the difference that neighbours must have in common; chance gives up to 0.08."""
_LEAST_CHANGE = 4e-4
"""Spread of the shared difference, as a share of the light, below which warming lenses and slow
light pass for a move."""
_DARKEST = 0.002

Cells = NDArray[np.float32]


@dataclass(frozen=True)
class Backdrop:
    """``cells``: logarithm of the mean light, (32, 48). The rest must agree for two to compare."""

    cells: Cells
    shape: tuple[int, int]
    f_number: float | None
    focal_length_mm: float | None
    orientation: int


def backdrop_of(frame: Frame) -> Backdrop | None:
    """The coarse light of a frame; None for one smaller than the grid."""
    height, width = frame.shape
    if height < 2 * ROWS or width < 2 * COLUMNS:
        return None
    edges = np.linspace(0, height, ROWS + 1).astype(int)
    means = np.empty((ROWS, COLUMNS), np.float32)
    for i in range(ROWS):
        strip = np.asarray(frame.light[edges[i] : edges[i + 1], 0:width], np.float32)
        means[i] = cv2.resize(strip, (COLUMNS, 1), interpolation=cv2.INTER_AREA)[0]
    facts = frame.facts
    return Backdrop(
        np.log(np.maximum(means, np.float32(_DARKEST))),
        frame.shape,
        facts.f_number,
        facts.focal_length_mm,
        facts.orientation,
    )


def camera_moved(first: Backdrop | None, second: Backdrop | None) -> bool | None:
    """True where the target behind two frames changed, False where it did not.

    None where that cannot be measured: another size, aperture or focal length. A camera that was
    turned between the frames has moved.
    """
    if first is None or second is None or sorted(first.shape) != sorted(second.shape):
        return None
    if _differ(first.f_number, second.f_number) or _differ(
        first.focal_length_mm, second.focal_length_mm
    ):
        return None
    if first.orientation != second.orientation:
        return True
    if first.shape != second.shape:
        return None
    change = second.cells.astype(float) - first.cells
    change -= np.median(change)
    spread = 1.4826 * float(np.median(np.abs(change)))
    change = np.clip(change, -_CLIP * spread, _CLIP * spread)
    for axis in (1, 0):
        change -= change.mean(axis=axis, keepdims=True)
    whole = float(np.mean(change**2))
    across = float(np.mean(change[:, 1:] * change[:, :-1]))
    down = float(np.mean(change[1:] * change[:-1]))
    shared = (across + down) / 2
    if whole <= 0:
        return False
    return bool(shared > _SHARED * whole and shared > _LEAST_CHANGE**2)


def _differ(first: float | None, second: float | None) -> bool:
    return first is not None and second is not None and abs(first / second - 1) > 0.02
