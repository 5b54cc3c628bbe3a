"""Marks that stand out of a stack."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, peak_between

Plane = NDArray[np.float32]

FEW_SCENES = 4
"""Scenes that must have had a say in a mark: fewer are chance and likeness."""
_APART_PX = 4
_LONGEST_PX, _LINE_SHARE = 70, 0.5
"""Some two millimetres of a sensor; what stands out by less than this share may break a line up."""


@dataclass(frozen=True)
class Mark:
    """A place on the common grid, and its score in standard deviations."""

    x: float
    y: float
    z: float


def marks_in(z: Plane, threshold: float) -> list[Mark]:
    """Local maxima above a threshold, strongest first, with their place between pixels.

    What goes on for longer than any fibre is no dust, but a line that the subjects have in common:
    the edge of an easel, a printed grid.
    """
    z = np.where(_lines(z, threshold), 0, z)
    size = 2 * _APART_PX + 1
    highest = cv2.dilate(z, np.ones((size, size), np.uint8))
    rows, columns = np.nonzero((z >= highest) & (z > threshold))
    found = [_exact(z, int(y), int(x)) for y, x in zip(rows, columns, strict=True)]
    return sorted(found, key=lambda m: -m.z)


def _lines(z: Plane, threshold: float) -> Mask:
    """Where connected places above half the threshold go on for too long."""
    above = (z > _LINE_SHARE * threshold).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(above, connectivity=8)
    sides = stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1)
    long = sides > _LONGEST_PX
    long[0] = False
    return np.asarray(long[labels]) if count > 1 else np.zeros(z.shape, bool)


def _exact(z: Plane, y: int, x: int) -> Mark:
    dx, dy = peak_between(z, y, x)
    return Mark(x + dx, y + dy, float(z[y, x]))


def merged(marks: Sequence[Mark], reach_px: float = _APART_PX) -> list[Mark]:
    """Marks of several stacks without doubles: the strongest of each place."""
    kept: list[Mark] = []
    for mark in sorted(marks, key=lambda m: -m.z):
        if all((mark.x - k.x) ** 2 + (mark.y - k.y) ** 2 > reach_px**2 for k in kept):
            kept.append(mark)
    return kept
