"""What an ordinary picture says for or against a shadow at each place.

The steps of a picture's log light from pixel to pixel are nearly white, with heavy tails, whatever
is pictured; a shadow adds its own steps to them. Steps are divided by their local spread and
clipped, so that an edge counts no more than grain does; the divergence of that field, multiplied by
a shadow's shape and summed, is the score of the shadow, and its variance is measured around.
Sources: statistics of natural images, D. L. Ruderman & W. Bialek, Phys. Rev. Lett. 73, 814 (1994);
clipped scores, P. J. Huber, Ann. Math. Stat. 35, 73 (1964); matched filter, Turin 1960.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import Mask, widened
from neatpatch.core.common.frame import Image

Plane = NDArray[np.float32]
_Kind = TypeVar("_Kind", np.float32, np.bool_)

_DARKEST, _BRIGHTEST = 0.003, 0.97
"""Light outside of this is black or clipped: it shows no shadow."""
_CLIP = 1.8
"""Local spreads; lower wastes clean skies, higher lets edges speak."""
_SPREAD_PX = 25
"""Side of the square in which the spread is taken: wider than shadows are, narrower than things."""
_LEAST_STEP = 1e-3
"""Smallest spread of steps assumed: tones rounded flat have none of their own."""


@dataclass(frozen=True)
class ShadowEvidence:
    """``field``: divergence of whitened steps (height, width); ``weight``: 1 over their variance.

    Both are zero where the picture is black or clipped.
    """

    field: Plane
    weight: Plane

    @property
    def shape(self) -> tuple[int, int]:
        return self.field.shape[0], self.field.shape[1]


def log_light(light: Image) -> tuple[Plane, Mask]:
    """The logarithm of the light, and where it can show a shadow."""
    usable = (light > _DARKEST) & (light < _BRIGHTEST)
    tone = np.log(np.clip(light, _DARKEST, _BRIGHTEST))
    return np.asarray(tone, np.float32), ~widened(~usable, 1)


def steps_of(tone: Plane) -> tuple[Plane, Plane]:
    """Steps to the next pixel on the right and below; none at the last column and row."""
    across, down = np.zeros_like(tone), np.zeros_like(tone)
    across[:, :-1] = tone[:, 1:] - tone[:, :-1]
    down[:-1] = tone[1:] - tone[:-1]
    return across, down


def evidence_of(light: Image) -> ShadowEvidence:
    """The evidence of one picture's linear light (height, width)."""
    tone, usable = log_light(light)
    across, down = steps_of(tone)
    size = np.square(across) + np.square(down)
    spread = np.sqrt(_robust_mean(size) / 2 + np.float32(_LEAST_STEP**2))
    usable &= np.roll(usable, -1, 0) & np.roll(usable, -1, 1)
    scale = np.where(usable, 1 / spread, 0).astype(np.float32)
    for step in (across, down):
        step *= scale
        np.clip(step, -_CLIP, _CLIP, out=step)
        step *= scale
    field = across + down
    field[:, 1:] -= across[:, :-1]
    field[1:] -= down[:-1]
    return ShadowEvidence(field, scale * scale)


def _robust_mean(squares: Plane) -> Plane:
    """Local mean of squares, each cut to nine times the middle one around it."""
    size = (_SPREAD_PX, _SPREAD_PX)
    root = cv2.blur(np.sqrt(squares), size)
    cut = np.minimum(squares, 6 * np.square(root))
    return np.asarray(cv2.blur(cut, size), np.float32)


def window_of(plane: NDArray[_Kind], at: tuple[int, int], half: int) -> NDArray[_Kind]:
    """A square around a place (x, y), zero where it leaves the plane."""
    x, y = at
    out = np.zeros((2 * half + 1, 2 * half + 1), plane.dtype)
    top, left = max(0, y - half), max(0, x - half)
    bottom, right = min(plane.shape[0], y + half + 1), min(plane.shape[1], x + half + 1)
    if top < bottom and left < right:
        out[top - y + half : bottom - y + half, left - x + half : right - x + half] = plane[
            top:bottom, left:right
        ]
    return out


def shadow_steps(loss: Plane) -> Plane:
    """A shadow in the logarithm of the light: ``-log(1 - loss)``, positive."""
    return np.asarray(-np.log1p(-np.clip(loss, 0, 0.98)), np.float32)


def information(weight: Plane, shape: Plane) -> float:
    """Fisher information on a shadow's strength where the steps' weight is as around."""
    across, down = steps_of(shape)
    return float((weight * (np.square(across) + np.square(down))).sum())


def response(evidence: ShadowEvidence, shape: Plane) -> Plane:
    """Score of a shadow of this shape (odd sides) at every place."""
    return np.asarray(
        cv2.filter2D(evidence.field, -1, shape, borderType=cv2.BORDER_CONSTANT), np.float32
    )
