"""What one ordinary picture says of dust at every place of the sensor.

The picture is brought to a common size; its evidence (core/pictures/evidence.py) is matched with
the shadow that a small speck casts at the picture's aperture. What is kept is the score in standard
deviations and the score that a speck of a reference size would have reached there, so that a
picture that could not have shown dust says nothing, for or against.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import smoothed
from neatpatch.core.common.frame import Image
from neatpatch.core.common.optics import ASSUMED_HEIGHT_MM, blur_um, wave_um
from neatpatch.core.pictures.pupil import pupil
from neatpatch.core.pictures.shadow_evidence import (
    evidence_of,
    information,
    response,
    shadow_steps,
)
from neatpatch.core.pictures.silhouettes import ShadowOptics

Plane = NDArray[np.float32]

GRID_PX = 1200
"""Longer side of the common size: shadows at f/22 are still two pixels wide."""
REFERENCE_DEPTH = 0.05
"""Depth at f/16 of the speck whose score is predicted."""
_REFERENCE_F = 16.0
_USUAL_WIDTH_MM = 28.0
"""Between the two common formats, where the sensor's size is not known."""
_SOFTNESS_PX = 0.6
_LEAST_BLUR_PX, _MOST_BLUR_PX = 1.6, 60.0
_AROUND_PX = 61
"""Side of the square over which scores' own spread is taken."""
_MOST_SCORE = 12.0
_Z_STEPS = 10.0
_COARSE = 4
"""The predicted score varies slowly: it is kept for squares of so many pixels."""


@dataclass(frozen=True)
class PictureScores:
    """Scores (height, width), in tenths of their spread, and the predicted ones, coarser.

    ``unit``: predicted scores are multiples of it.
    """

    scores: NDArray[np.int8]
    foretold: NDArray[np.uint8]
    unit: float

    def z(self) -> Plane:
        """Scores in standard deviations."""
        return self.scores.astype(np.float32) / np.float32(_Z_STEPS)

    def q(self) -> Plane:
        """Foretold scores of the reference speck, as large as the scores."""
        coarse = self.foretold.astype(np.float32) * np.float32(self.unit)
        size = self.scores.shape[::-1]
        return np.asarray(cv2.resize(coarse, size, interpolation=cv2.INTER_LINEAR), np.float32)


@dataclass(frozen=True, kw_only=True)
class Lens:
    """How dust shows at an aperture, in pixels of the common size; depth of the reference speck."""

    blur_px: float
    wave_px: float
    depth: float


def lens_at(f_number: float, sensor_width_mm: float | None, width_px: int) -> Lens:
    """The blur of a usual stack at an aperture, on a picture ``width_px`` wide."""
    pitch_um = (sensor_width_mm or _USUAL_WIDTH_MM) * 1000 / width_px
    blur = blur_um(ASSUMED_HEIGHT_MM, f_number) / pitch_um
    depth = min(1.0, REFERENCE_DEPTH * (f_number / _REFERENCE_F) ** 2)
    return Lens(blur_px=blur, wave_px=wave_um(f_number) / pitch_um, depth=depth)


def on_grid(light: Image, shape: tuple[int, int]) -> Image:
    """A picture's light brought to the common shape (height, width)."""
    if light.shape == shape:
        return light
    shrinks = light.shape[1] > shape[1]
    how = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(light, shape[::-1], interpolation=how), np.float32)


def scores_of(light: Image, lens: Lens) -> PictureScores:
    """What a picture on the common grid says. Through a wide aperture it says nothing."""
    shape = light.shape[0], light.shape[1]
    coarse = -(-shape[0] // _COARSE), -(-shape[1] // _COARSE)
    if lens.blur_px > _MOST_BLUR_PX:
        return PictureScores(np.zeros(shape, np.int8), np.zeros(coarse, np.uint8), 1.0)
    evidence = evidence_of(light)
    shape_of = shadow_steps(_reference_shadow(lens))
    scores = response(evidence, shape_of)
    side = shape_of.shape[0]
    weight = np.asarray(cv2.blur(evidence.weight, (side, side)), np.float32)
    expected = weight * np.float32(information(np.ones_like(shape_of), shape_of))
    spread = np.sqrt(np.maximum(expected, 1e-9))
    z = np.where(expected > 0, scores / spread, 0)
    around = (_AROUND_PX, _AROUND_PX)
    own = np.sqrt(np.maximum(cv2.blur(np.minimum(np.square(z), 9.0), around), 0))
    inflated = np.maximum(own, 1.0)
    z, q = z / inflated, spread / inflated
    q[evidence.weight <= 0] = 0
    return _compressed(np.asarray(z, np.float32), np.asarray(q, np.float32), coarse)


def _reference_shadow(lens: Lens) -> Plane:
    blur = max(lens.blur_px, _LEAST_BLUR_PX)
    look = ShadowOptics(blur=blur, softness=_SOFTNESS_PX, wave=lens.wave_px)
    disc = pupil(blur)
    room = math.ceil(2.5 * look.soft) + 1
    wide = smoothed(np.asarray(np.pad(disc, room), np.float32), look.soft)
    return np.asarray(wide * (lens.depth / float(wide.max())), np.float32)


def _compressed(z: Plane, q: Plane, coarse: tuple[int, int]) -> PictureScores:
    scores = np.clip(np.rint(z * _Z_STEPS), -127, 127).astype(np.int8)
    small = np.asarray(cv2.resize(q, coarse[::-1], interpolation=cv2.INTER_AREA), np.float32)
    unit = max(float(small.max()), 1e-3) / 255
    return PictureScores(scores, np.rint(small / unit).astype(np.uint8), unit)
