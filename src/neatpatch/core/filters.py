"""Typed names for the few image filters the core uses, all with reflected borders."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.frame import Image

Mask = NDArray[np.bool_]


def smoothed(image: Image, sigma: float) -> Image:
    """Gaussian of the given standard deviation in pixels."""
    return np.asarray(
        cv2.GaussianBlur(image, (0, 0), sigma, borderType=cv2.BORDER_REFLECT), np.float32
    )


def box_mean(image: Image, size: int) -> Image:
    """Mean over a square of ``size`` pixels."""
    return np.asarray(cv2.blur(image, (size, size)), np.float32)


def binned(image: Image, step: int) -> Image:
    """Mean over blocks of ``step`` pixels; odd rows and columns at the end are left out."""
    if step == 1:
        return image
    rows, columns = image.shape[0] // step, image.shape[1] // step
    return np.asarray(
        cv2.resize(
            image[: rows * step, : columns * step],
            (columns, rows),
            interpolation=cv2.INTER_AREA,
        ),
        np.float32,
    )


def widened(mask: Mask, reach: int, *, round_: bool = False) -> Mask:
    """The mask grown by ``reach`` pixels, square or round."""
    shape = cv2.MORPH_ELLIPSE if round_ else cv2.MORPH_RECT
    kernel = cv2.getStructuringElement(shape, (2 * reach + 1, 2 * reach + 1))
    return np.asarray(cv2.dilate(mask.astype(np.uint8), kernel) > 0)


def finite(image: Image) -> Image:
    """The image with NaN and infinite values replaced by the median of the others (0 if none)."""
    if np.isfinite(image.sum()):
        return image
    good = np.isfinite(image)
    middle = float(np.median(image[good])) if good.any() else 0.0
    return np.asarray(np.where(good, image, np.float32(middle)), np.float32)
