"""Scores of many pictures added up: over all pictures, and over stretches of time.

A mark that lay there for a part of the time stands out most in a sum over that part. Sums are kept
for runs of 8, 16, 32 ... pictures, as digits of a binary counter are, so that memory grows only
with the logarithm of the number of pictures. No picture may say more than three standard
deviations, and pictures of one scene share one voice.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import quantile, running_median

Plane = NDArray[np.float32]

_MOST_SAID = 3.0
_FEWEST_IN_RUN = 8
_LOCAL_PX = 48
"""Cell in which the sum's own spread is taken."""
_BORDER_PX = 3


@dataclass
class Stack:
    """Sums of weighted scores and of squared weights, (height, width), over ``count`` voices."""

    weighted_sum: Plane
    weight: Plane
    count: float = 0.0

    @staticmethod
    def empty(shape: tuple[int, int]) -> Stack:
        return Stack(np.zeros(shape, np.float32), np.zeros(shape, np.float32))

    def add(self, z: Plane, q: Plane, voice: float) -> None:
        """Add one picture; ``voice``: 1 over the number of pictures of its scene."""
        weight = np.minimum(q, _MOST_SAID)
        self.weighted_sum += weight * np.clip(z, -_MOST_SAID, _MOST_SAID) * np.float32(voice)
        self.weight += np.square(weight) * np.float32(voice)
        self.count += voice

    def join(self, other: Stack) -> None:
        self.weighted_sum += other.weighted_sum
        self.weight += other.weight
        self.count += other.count

    def z(self) -> Plane:
        """The sum in its own local standard deviations; 0 where nothing could be seen."""
        z = np.asarray(self.weighted_sum / np.sqrt(np.maximum(self.weight, 1e-3)), np.float32)
        z -= _local(z, 0.5)
        spread = np.maximum(1.4826 * _local(np.abs(z), 0.5), 1.0)
        z = np.where(self.weight > 0.05, z / spread, 0)
        z[:_BORDER_PX] = z[-_BORDER_PX:] = 0
        z[:, :_BORDER_PX] = z[:, -_BORDER_PX:] = 0
        return np.asarray(z, np.float32)


def _local(plane: Plane, share: float) -> Plane:
    """A quantile of cells, smoothed over their neighbours, as large as the plane."""
    rows = max(1, plane.shape[0] // _LOCAL_PX)
    columns = max(1, plane.shape[1] // _LOCAL_PX)
    cells = np.empty((rows, columns), np.float32)
    for row, band in enumerate(np.array_split(plane, rows, axis=0)):
        for column, cell in enumerate(np.array_split(band, columns, axis=1)):
            cells[row, column] = quantile(cell, share)
    calm = np.asarray(running_median(cells, 3), np.float32)
    size = plane.shape[1], plane.shape[0]
    return np.asarray(cv2.resize(calm, size, interpolation=cv2.INTER_LINEAR), np.float32)


class Runs:
    """Stacks over runs of time, handed out when they are full."""

    def __init__(self, shape: tuple[int, int]) -> None:
        self._shape = shape
        self._current = Stack.empty(shape)
        self._levels: list[Stack | None] = []

    def add(self, z: Plane, q: Plane, voice: float) -> Iterator[Stack]:
        """Add the next picture in time; yields every run that became full."""
        self._current.add(z, q, voice)
        if self._current.count >= _FEWEST_IN_RUN:
            full, self._current = self._current, Stack.empty(self._shape)
            yield from self._carry(full)

    def _carry(self, full: Stack) -> Iterator[Stack]:
        level = 0
        while True:
            yield full
            if level == len(self._levels):
                self._levels.append(None)
            waiting = self._levels[level]
            if waiting is None:
                self._levels[level] = full
                return
            waiting.join(full)
            self._levels[level], full = None, waiting
            level += 1

    def rest(self) -> Iterator[Stack]:
        """What is left at the end, from the last run backwards to all together."""
        total = self._current
        if total.count > 0:
            yield total
        for waiting in self._levels:
            if waiting is not None:
                total.join(waiting)
                yield total
