"""How each lens moves the sensor's marks: its exit pupil, and the camera's correction for it.

Pictures of one lens and focal length move marks alike. The lens with the most to say is the
reference; every other one is laid on it by the reference's marks, as a map is laid on a picture.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.arrivals.marks import Mark
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.pictures.map_location import Votes, fit_location, unlocated
from neatpatch.core.pictures.shadow_evidence import window_of
from neatpatch.core.sensor.placement import as_they_are

Plane = NDArray[np.float32]

_REACH_SHARE = 0.085
"""Share of half the diagonal by which marks may lie apart: correction and filling out together."""


def align_lens(marks: Sequence[Mark], z: Plane) -> Alignment | None:
    """How a lens's stack lies under the reference's marks; None where it says too little."""
    shape = z.shape[0], z.shape[1]
    placement = as_they_are(shape, shape)
    reach = int(_REACH_SHARE / 2 * placement.reach_px) + 4
    surfaces, offs = [], []
    for mark in marks:
        at = round(mark.x), round(mark.y)
        score = np.maximum(window_of(z, at, reach), 0)
        surfaces.append(np.square(score) / 2)
        offs.append(np.array(at) - placement.pole)
    if not surfaces:
        return None
    wanted = np.array([m.z for m in marks])
    rest = unlocated(placement, None)
    found = fit_location(Votes(np.array(surfaces, np.float32), np.array(offs), wanted), rest)
    return found.alignment if found.found >= 2 else None


def to_reference(plane: Plane, alignment: Alignment | None) -> Plane:
    """A plane of a lens brought to the reference's places; 0 where nothing was."""
    if alignment is None:
        return plane
    height, width = plane.shape
    y, x = np.indices((height, width), np.float32)
    pole = alignment.placement.pole.astype(np.float32)
    x -= pole[0]
    y -= pole[1]
    share = (x * x + y * y) / np.float32(alignment.placement.reach_px**2)
    grow = alignment.lens.outward(share)
    shift = np.asarray(alignment.shift_px, np.float32)
    return np.asarray(
        cv2.remap(
            plane,
            x * grow + pole[0] + shift[0],
            y * grow + pole[1] + shift[1],
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT,
        ),
        np.float32,
    )


def place_under(alignment: Alignment | None, x: float, y: float) -> tuple[float, float]:
    """Where the reference's place lies in a picture of the lens."""
    if alignment is None:
        return x, y
    moved = alignment.apply(np.array([[x, y]]))[0]
    return float(moved[0]), float(moved[1])


def turn_of(
    z_by_turn: Mapping[int, Plane],
    q_by_turn: Mapping[int, Plane],
    marks: Sequence[Mark],
    alignment: Alignment | None,
    usual: int | None,
) -> int | None:
    """The quarter turn under which a picture shows the marks; None where it shows too little.

    ``usual``: the turn taken unless another one is clearly better.
    """
    odds = {}
    for turn, z in z_by_turn.items():
        total = 0.0
        for mark in marks:
            x, y = (round(v) for v in place_under(alignment, mark.x, mark.y))
            if 1 <= y < z.shape[0] - 1 and 1 <= x < z.shape[1] - 1:
                q = min(float(q_by_turn[turn][y, x]), 4.0)
                best = float(z[y - 1 : y + 2, x - 1 : x + 2].max())
                total += float(np.clip(best * q - q * q / 2, -4, 6))
        odds[turn] = total
    best_turn = max(odds, key=lambda t: odds[t])
    if usual is not None:
        return best_turn if odds[best_turn] - odds[usual] > _ANOTHER_TURN else usual
    others = [v for t, v in odds.items() if t != best_turn]
    return best_turn if odds[best_turn] - max(others, default=0.0) > _A_TURN else None


_ANOTHER_TURN, _A_TURN = 12.0, 4.0
"""Log odds that another turn than the usual one, and one among equals, must bring."""
