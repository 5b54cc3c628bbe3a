"""Where one frame's photosites lie on another's: quarter turns, a zoom and a shift."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]


def centre_of(shape: tuple[int, int]) -> Points:
    """Centre of a frame (height, width) as x, y."""
    return np.array([(shape[1] - 1) / 2, (shape[0] - 1) / 2])


def turned(off: Points, turn: int) -> Points:
    """Offsets (n, 2) as x, y after quarter turns of the array, as `numpy.rot90` turns it."""
    x, y = off[:, 0], off[:, 1]
    for _ in range(turn % 4):
        x, y = y, -x
    return np.stack([x, y], axis=1)


@dataclass(frozen=True, kw_only=True)
class Placement:
    """``there = centre there + zoom * turned(here - centre here) + shift``, in pixels.

    ``turn``: quarter turns, counter-clockwise as seen in the array. ``here``, ``there``: height and
    width of the frames.
    """

    here: tuple[int, int]
    there: tuple[int, int]
    turn: int = 0
    zoom: float = 1.0
    shift_px: tuple[float, float] = (0.0, 0.0)

    def apply(self, points: Points) -> Points:
        """Points (n, 2) as x, y of the first frame, in pixels of the second."""
        off = turned(points - centre_of(self.here), self.turn)
        return np.asarray(centre_of(self.there) + self.zoom * off + np.array(self.shift_px))

    def inverse(self) -> Placement:
        """The same from the second to the first."""
        back = turned(np.array([self.shift_px]), -self.turn)[0] / self.zoom
        return Placement(
            here=self.there,
            there=self.here,
            turn=-self.turn % 4,
            zoom=1 / self.zoom,
            shift_px=(-float(back[0]), -float(back[1])),
        )

    def then(self, after: Placement) -> Placement:
        """Itself, and another from its second frame on."""
        moved = after.apply(self.apply(centre_of(self.here)[None]))[0] - centre_of(after.there)
        return Placement(
            here=self.here,
            there=after.there,
            turn=(self.turn + after.turn) % 4,
            zoom=self.zoom * after.zoom,
            shift_px=(float(moved[0]), float(moved[1])),
        )

    @property
    def plain(self) -> bool:
        """Whether the frames lie on each other as they are."""
        return self.here == self.there and (self.turn, self.zoom, self.shift_px) == (0, 1, (0, 0))

    @property
    def pole(self) -> Points:
        """The sensor's centre in pixels of the second frame: that of the larger frame."""
        if self.here[0] * self.here[1] * self.zoom**2 >= self.there[0] * self.there[1]:
            return np.asarray(self.apply(centre_of(self.here)[None])[0])
        return centre_of(self.there)

    @property
    def reach_px(self) -> float:
        """Half the diagonal of the whole sensor, in pixels of the second frame."""
        return max(self.zoom * float(np.hypot(*self.here)), float(np.hypot(*self.there))) / 2


def alike_in_shape(here: tuple[int, int], there: tuple[int, int], tolerance: float) -> bool:
    """Whether sides (height, width) stand in one proportion, within a share of it."""
    return abs((here[0] / here[1]) / (there[0] / there[1]) - 1) < tolerance


def as_they_are(here: tuple[int, int], there: tuple[int, int]) -> Placement:
    """Frames not turned and not cropped; one may have been made smaller."""
    return Placement(here=here, there=there, zoom=there[1] / here[1])
