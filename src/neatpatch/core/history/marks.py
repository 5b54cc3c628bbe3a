"""Marks that stand out of a stack."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]

FEW_SCENES = 4
"""Scenes that must have had a say in a mark: fewer are chance and likeness."""
_APART_PX = 4


@dataclass(frozen=True)
class Mark:
    """A place on the common grid, and its score in standard deviations."""

    x: float
    y: float
    z: float


def marks_in(z: Plane, threshold: float) -> list[Mark]:
    """Local maxima above a threshold, strongest first, with their place between pixels."""
    size = 2 * _APART_PX + 1
    highest = cv2.dilate(z, np.ones((size, size), np.uint8))
    rows, columns = np.nonzero((z >= highest) & (z > threshold))
    found = [_exact(z, int(y), int(x)) for y, x in zip(rows, columns, strict=True)]
    return sorted(found, key=lambda m: -m.z)


def _exact(z: Plane, y: int, x: int) -> Mark:
    def top(before: float, middle: float, after: float) -> float:
        bend = before - 2 * middle + after
        return float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5)) if bend < 0 else 0.0

    dx = dy = 0.0
    if 0 < x < z.shape[1] - 1:
        dx = top(float(z[y, x - 1]), float(z[y, x]), float(z[y, x + 1]))
    if 0 < y < z.shape[0] - 1:
        dy = top(float(z[y - 1, x]), float(z[y, x]), float(z[y + 1, x]))
    return Mark(x + dx, y + dy, float(z[y, x]))


def merged(marks: Sequence[Mark], reach_px: float = _APART_PX) -> list[Mark]:
    """Marks of several stacks without doubles: the strongest of each place."""
    kept: list[Mark] = []
    for mark in sorted(marks, key=lambda m: -m.z):
        if all((mark.x - k.x) ** 2 + (mark.y - k.y) ** 2 > reach_px**2 for k in kept):
            kept.append(mark)
    return kept
