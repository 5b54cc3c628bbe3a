"""The loss field of a frame that was just measured: binned, with the noise a shadow has in it."""

from __future__ import annotations

import cv2
import numpy as np

from neatpatch.core.common.filters import binned
from neatpatch.core.common.frame import Image
from neatpatch.core.common.loss_field import LossField
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.detection import evened, sampled_sigma
from neatpatch.core.measure.faint_specks import across_of, speck_shape
from neatpatch.core.measure.stack_height import BlurFit

_LEAST_WIDTH = 3.0
"""Pixels across a blur: enough to hold its shape, and few to keep."""
_CLIP = 6.0
"""In noise of a pixel: what dust takes must not count as noise."""


def loss_field(loss: Image, background: Background, step: int, blur: BlurFit) -> LossField:
    """The field of a loss map binned by ``step``."""
    zoom = 1
    while blur.blur_px / (2 * zoom * step) >= _LEAST_WIDTH:
        zoom *= 2
    pixel = zoom * step
    cells = background.cells
    dimness = np.sqrt(np.median(cells) / np.maximum(cells, 1e-6)).astype(np.float32)
    return LossField(
        loss=binned(loss, zoom),
        pixel=pixel,
        noise=_answer_noise(binned(evened(loss.copy(), cells), zoom), pixel, blur),
        dimness=np.clip(dimness, 0.3, 10.0),
        blur_px=blur.blur_px,
        softness_px=blur.softness_px,
        wave_px=blur.wave_px,
    )


def _answer_noise(evened_loss: Image, pixel: int, blur: BlurFit) -> float:
    """Noise of a matched filter's answer, correlations of the frame's noise included."""
    limit = _CLIP * max(sampled_sigma(evened_loss), 1e-6)
    clipped = np.clip(evened_loss, -limit, limit)
    across = across_of(speck_shape(max(blur.blur_px / pixel, 1.0), pixel, blur))
    answer = cv2.sepFilter2D(clipped, -1, across, across, borderType=cv2.BORDER_REFLECT)
    return max(sampled_sigma(np.asarray(answer, np.float32)), 1e-6)
