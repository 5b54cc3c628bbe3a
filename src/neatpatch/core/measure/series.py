"""Several frames of one body, moved between shots: what keeps its place is on the sensor.

Frames are aligned as in `core.maps.alignment`, which names its source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.compare.alignment import Marks, align_unshifted
from neatpatch.core.measure.region_measures import RegionMeasures

_TOLERANCE_PX = 3.0
"""Frames of a series agree within this after alignment; more marries the target's marks."""
_TOLERANCE_SHARE = 0.12
"""Large shadows are placed to a tenth of their width."""
_MUST_SHOW_SNR = 12.0
"""A mark this strong shows in every frame if it is on the sensor; lower doubts faint dust."""
_SIMILAR_LOSS = 2.5
"""Light moves between frames of a series; more marries unlike marks."""


@dataclass(frozen=True)
class SeriesPlaces:
    """A thing of the first frame with the number of frames it keeps its place in."""

    measured: RegionMeasures
    seen_in: int
    moves: bool


def place_in_series(
    frames: Sequence[Sequence[RegionMeasures]], shape: tuple[int, int]
) -> list[SeriesPlaces]:
    """Judge the first frame's things by the others.

    ``moves`` is true for what should have shown at the same place elsewhere and did not. With one
    frame everything is seen in one and nothing moves.
    """
    first = frames[0]
    again: list[list[RegionMeasures]] = [[] for _ in first]
    for other in frames[1:]:
        for i, j in _found_again(first, other, shape).items():
            again[i].append(other[j])
    return [
        SeriesPlaces(
            added_up(m, more),
            1 + len(more),
            len(frames) > 1 and not more and m.snr >= _MUST_SHOW_SNR,
        )
        for m, more in zip(first, again, strict=True)
    ]


def added_up(first: RegionMeasures, more: Sequence[RegionMeasures]) -> RegionMeasures:
    """One thing seen in several frames: depth and loss weighed by the square of its signal to
    noise, which itself grows as the root of the sum of squares. Place and shape stay the first's.
    """
    if not more:
        return first
    seen = [first, *more]
    weight = np.array([m.snr**2 for m in seen])
    depth = float(np.average([m.depth for m in seen], weights=weight))
    loss = float(np.average([m.loss_px2 for m in seen], weights=weight))
    return replace(first, depth=depth, loss_px2=loss, snr=float(np.sqrt(weight.sum())))


def points_of(things: Sequence[RegionMeasures]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Places (n, 2) as x, y and integrated losses (n)."""
    places = np.array([[m.x_px, m.y_px] for m in things], float).reshape(-1, 2)
    return places, np.array([m.loss_px2 for m in things], float)


def _found_again(
    first: Sequence[RegionMeasures], other: Sequence[RegionMeasures], shape: tuple[int, int]
) -> dict[int, int]:
    """For each thing of the first frame that keeps its place, the nearest alike in the other."""
    here, here_loss = points_of(first)
    there, there_loss = points_of(other)
    if not len(first) or not len(other):
        return {}
    marks = Marks(places=here, losses=here_loss), Marks(places=there, losses=there_loss)
    moved = align_unshifted(*marks, shape).apply(here)
    places = {}
    for i, m in enumerate(first):
        tolerance = (
            _TOLERANCE_PX + _TOLERANCE_SHARE * m.extent_px + 0.3 * m.core_px / max(m.snr / 10, 1)
        )
        distance = np.hypot(*(there - moved[i]).T)
        ratio = there_loss / max(m.loss_px2, 1e-9)
        alike = (ratio < _SIMILAR_LOSS) & (ratio > 1 / _SIMILAR_LOSS) & (distance < tolerance)
        if alike.any():
            places[i] = int(np.argmin(np.where(alike, distance, np.inf)))
    return places
