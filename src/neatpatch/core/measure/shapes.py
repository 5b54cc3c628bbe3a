"""Plain properties of masks."""

from __future__ import annotations

import cv2
import numpy as np

from neatpatch.core.common.filters import Mask


def filled(mask: Mask) -> Mask:
    """The mask with its holes filled."""
    padded = np.pad(mask.astype(np.uint8), 1)
    cv2.floodFill(padded, None, (0, 0), 2)
    return np.asarray(padded[1:-1, 1:-1] != 2)


def roundness(mask: Mask) -> float:
    """Area over that of the circle around its longest extent: 1 for a disc, 0 for a line."""
    ys, xs = np.nonzero(mask)
    if xs.size < 3:
        return 1.0
    points = np.column_stack([xs, ys]).astype(np.float32)
    _, radius = cv2.minEnclosingCircle(points)
    return float(xs.size / (np.pi * (radius + 0.3) ** 2))
