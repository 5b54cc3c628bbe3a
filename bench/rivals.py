"""General-purpose detectors on the same decoded frames. A bench extra, not part of the product."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from importlib import import_module
from importlib.util import find_spec
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.scoring import Row

Luminance = NDArray[np.float32]
Detector = Callable[[Luminance], Sequence[Row]]


def available() -> dict[str, Detector]:
    """Name to detector, for those whose package is installed."""
    found: dict[str, Detector] = {
        "OpenCV blob detector": opencv_blobs,
        "OpenCV adaptive threshold": adaptive_threshold,
    }
    if find_spec("sep"):
        found["source extraction (sep)"] = source_extraction
    if find_spec("skimage"):
        found["blob_log (scikit-image)"] = laplacian_blobs
        found["blob_dog (scikit-image)"] = difference_blobs
    return found


def _flat(luminance: Luminance, step: int) -> Luminance:
    """Loss over a plain Gaussian background, as anyone would make it."""
    small = cv2.resize(luminance, None, fx=1 / step, fy=1 / step, interpolation=cv2.INTER_AREA)
    ground = cv2.GaussianBlur(small, (0, 0), 60)
    return np.asarray(1 - small / ground, np.float32)


def opencv_blobs(luminance: Luminance) -> Sequence[Row]:
    loss = np.clip(_flat(luminance, 2), -0.1, 0.3)
    grey = np.asarray(np.clip((0.3 - loss) / 0.4 * 255, 0, 255), np.uint8)
    settings = cv2.SimpleBlobDetector_Params()  # type: ignore[attr-defined]
    settings.minThreshold, settings.maxThreshold, settings.thresholdStep = 10, 186, 4
    settings.filterByCircularity = settings.filterByConvexity = settings.filterByInertia = False
    settings.minArea, settings.maxArea = 8, 40_000
    detector = cv2.SimpleBlobDetector_create(settings)  # type: ignore[attr-defined]
    found = detector.detect(grey)
    return [Row(2 * k.pt[0] + 0.5, 2 * k.pt[1] + 0.5, 2 * k.size) for k in found]


def adaptive_threshold(luminance: Luminance) -> Sequence[Row]:
    grey = np.asarray(np.clip(np.sqrt(luminance) * 255, 0, 255), np.uint8)
    grey = np.asarray(cv2.GaussianBlur(grey, (0, 0), 2), np.uint8)
    mask = cv2.adaptiveThreshold(
        grey, 255, cv2.ADAPTIVE_THRESH_GAUSSIAN_C, cv2.THRESH_BINARY_INV, 101, 3
    )
    _, _, stats, centres = cv2.connectedComponentsWithStats(mask)
    return [
        Row(float(c[0]), float(c[1]), float(max(s[2], s[3])))
        for s, c in zip(stats[1:], centres[1:], strict=True)
        if s[4] >= 12
    ]


def source_extraction(luminance: Luminance) -> Sequence[Row]:
    sep: Any = import_module("sep")

    image = np.ascontiguousarray(1 - luminance)
    background = sep.Background(image)
    sep.set_extract_pixstack(5_000_000)
    found = sep.extract(image - background.back(), 3.0, err=background.globalrms, minarea=12)
    return [Row(float(o["x"]), float(o["y"]), 4 * float(o["a"])) for o in found]


def laplacian_blobs(luminance: Luminance) -> Sequence[Row]:

    loss = _flat(luminance, 4)
    feature: Any = import_module("skimage.feature")
    found = feature.blob_log(loss, min_sigma=1, max_sigma=12, num_sigma=6, threshold=0.006)
    return [Row(4 * x + 1.5, 4 * y + 1.5, 4 * s * 2.83) for y, x, s in found]


def difference_blobs(luminance: Luminance) -> Sequence[Row]:

    loss = _flat(luminance, 4)
    feature: Any = import_module("skimage.feature")
    found = feature.blob_dog(loss, min_sigma=1, max_sigma=12, threshold=0.006)
    return [Row(4 * x + 1.5, 4 * y + 1.5, 4 * s * 2.83) for y, x, s in found]
