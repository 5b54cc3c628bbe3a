"""The lens's opening as dust on the sensor projects it: round, or of blades with sides."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]

_CORNERS = 96
"""Points of a round outline, and about those of one with sides."""
_FINER = 4
_DRAWN_WIDER = 0.5
"""Fine cells that a filled outline reaches beyond itself, as its border is drawn too."""
_ROOM = 0.62
"""Of the diameter: the corner of five blades is 0.57 from the middle."""


@dataclass(frozen=True)
class Blades:
    """``count`` sides, a corner at ``turn_deg`` from the right downwards. ``straight``: 1 for
    straight sides, 0 for a circle; blades are often bent, so that a lens opens rounder.
    """

    count: int
    turn_deg: float
    straight: float = 1.0


@lru_cache(maxsize=256)
def pupil(diameter: float, blades: Blades | None = None) -> Plane:
    """The opening with a sum of one; odd sides. It has the area of a disc of ``diameter`` pixels,
    for the f-number tells the light that passes. It cannot be written to.
    """
    half = math.ceil(diameter * _ROOM) + 1
    side = (2 * half + 1) * _FINER
    middle = (side - 1) / 2
    corners = middle + max(_FINER * diameter / 2 - _DRAWN_WIDER, 0.0) * _outline(blades)
    canvas = np.zeros((side, side), np.uint8)
    cv2.fillPoly(canvas, [np.round(corners * 256).astype(np.int32)], 255, shift=8)
    plane = canvas.reshape(2 * half + 1, _FINER, 2 * half + 1, _FINER).mean(axis=(1, 3))
    total = float(plane.sum())
    out = np.asarray(plane / total if total else np.ones((1, 1)), np.float32)
    out.flags.writeable = False
    return out


def _outline(blades: Blades | None) -> NDArray[np.float64]:
    """Points around an opening of the area of a circle of radius one, (n, 2)."""
    if blades is None:
        theta = np.arange(_CORNERS) * 2 * math.pi / _CORNERS
        far = np.ones(_CORNERS)
    else:
        each = max(1, _CORNERS // blades.count)
        side = 2 * math.pi / blades.count
        within = np.arange(each) / each * side
        theta = (np.arange(blades.count)[:, None] * side + within).ravel()
        sides = np.cos(side / 2) / np.cos(within - side / 2)
        far = np.tile(1 + blades.straight * (sides / sides.mean() - 1), blades.count)
        theta = theta + math.radians(blades.turn_deg)
    x, y = far * np.cos(theta), far * np.sin(theta)
    area = 0.5 * float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))
    return np.stack([x, y], axis=1) * math.sqrt(math.pi / area)
