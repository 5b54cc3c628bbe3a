"""Two frames' losses, laid on each other: what each holds at a place found in the other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.loss_field import LossField
from neatpatch.core.common.records import Spot
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.compare.places import Depth, Place, cut_place, depth_at, place_of

Floats = NDArray[np.float64]
Fields = tuple[LossField, LossField]
"""Of the earlier frame and of the later one."""


class BothFields:
    """The losses of both frames, their spots, and how they lie."""

    def __init__(
        self,
        fields: Fields,
        alignment: Alignment,
        spots: tuple[Sequence[Spot], Sequence[Spot]],
        unpaired: tuple[Sequence[int], Sequence[int]],
    ) -> None:
        self._earlier, self._later = fields
        self._alignment = alignment
        self._here, self._there = spots
        self._lost, self._fresh = (
            {id(s[i]) for i in u} for s, u in zip(spots, unpaired, strict=True)
        )

    def after(self, i: int, at: Floats) -> Depth | None:
        """What the later frame holds where the earlier spot ``i`` was, ``at`` its place there."""
        spot, zoom = self._here[i], self._alignment.placement.zoom
        middle = np.array([[spot.x_px, spot.y_px]])
        back = self._alignment.back_by(np.repeat(middle, 2, axis=0), np.eye(2)).T
        place = _place(spot, (float(at[0]), float(at[1])), self._earlier, self._later, back, zoom)
        return depth_at(self._later, place, self._own_places(self._there, self._later, place))

    def before(self, j: int) -> Depth | None:
        """What the earlier frame holds where the later spot ``j`` is."""
        spot, zoom = self._there[j], 1 / self._alignment.placement.zoom
        x, y = self._back_places[j]
        near = np.array([[x, y]]) + np.vstack([np.eye(2), -np.eye(2)])
        at = self._alignment.apply(near)
        forth = np.stack([at[0] - at[2], at[1] - at[3]], axis=1) / 2
        place = _place(spot, (float(x), float(y)), self._later, self._earlier, forth, zoom)
        return depth_at(self._earlier, place, self._own_places(self._here, self._earlier, place))

    def own_before(self, i: int) -> Depth | None:
        """What the earlier frame holds at its own spot ``i``, measured as in the other frame."""
        return self._own(self._here[i], self._here, self._earlier)

    def own_after(self, j: int) -> Depth | None:
        """What the later frame holds at its own spot ``j``, measured as in the other frame."""
        return self._own(self._there[j], self._there, self._later)

    def _own(self, spot: Spot, spots: Sequence[Spot], field: LossField) -> Depth | None:
        place = _place(spot, (spot.x_px, spot.y_px), field, field, np.eye(2), 1.0)
        others = [s for s in spots if s is not spot]
        return depth_at(field, place, self._own_places(others, field, place))

    @cached_property
    def _back_places(self) -> Floats:
        return self._alignment.back(
            np.array([[s.x_px, s.y_px] for s in self._there], np.float64).reshape(-1, 2)
        )

    def _own_places(self, spots: Sequence[Spot], field: LossField, place: Place) -> list[Place]:
        """The field's own spots near a place, but for one that may be the very thing sought."""
        reach = place.radius_px + field.blur_px
        near = []
        for s in spots:
            far = math.hypot(s.x_px - place.x_px, s.y_px - place.y_px)
            itself = far < place.radius_px and id(s) in (self._lost | self._fresh)
            if far < reach + s.outer_px / 2 and not itself:
                near.append(_place(s, (s.x_px, s.y_px), field, field, np.eye(2), 1.0))
        return near


def _place(
    spot: Spot,
    at: tuple[float, float],
    own: LossField,
    there: LossField,
    back: Floats,
    zoom: float,
) -> Place:
    if spot.kind == "speck":
        return place_of(spot, at, zoom, there)
    return cut_place(spot, at, own, back, zoom)
