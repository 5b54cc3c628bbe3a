"""Typed names for the few image filters the core uses, all with reflected borders."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from neatpatch.core.common.frame import CodedLight, Image, Light
from neatpatch.core.common.parallel import run_in_halves

Mask = NDArray[np.bool_]
_STRIP = 16
"""Rows at once that stay in the cache; larger is slower, smaller is all overhead."""
_LIGHT_STRIP = 16
"""As above, for light kept as codes."""
_BLOCK = 128
"""Rows smoothed at once: few enough to be held beside the whole, many beside those done twice."""
_KERNEL_SIGMAS = 4
"""A Gaussian of floating-point numbers ends here."""
_WORTH_SHARING = 500_000
"""Pixels of a picture whose filter takes longer than it does to call another thread."""


def smoothed(image: Image, sigma: float) -> Image:
    """Gaussian of the given standard deviation in pixels."""
    if image.size < _WORTH_SHARING:
        return _gaussian(image, sigma)
    out = np.empty(image.shape, np.float32)
    room = int(_KERNEL_SIGMAS * sigma) + 2

    def some(start: int, stop: int) -> None:
        for first in range(start, stop, _BLOCK):
            last, top = min(first + _BLOCK, stop), max(0, first - room)
            smooth = _gaussian(image[top : last + room], sigma)
            out[first:last] = smooth[first - top :][: last - first]

    run_in_halves(image.shape[0], some)
    return out


def _gaussian(image: Image, sigma: float) -> Image:
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


def binned_light(light: Light, step: int) -> Image:
    """`binned` of a whole frame's light, strip after strip."""
    rows, columns = light.shape[0] // step, light.shape[1] // step
    out = np.empty((rows, columns), np.float32)

    def some(first: int, last: int) -> None:
        for top in range(first, last, _LIGHT_STRIP):
            bottom = min(top + _LIGHT_STRIP, last)
            out[top:bottom] = binned(light[top * step : bottom * step], step)

    run_in_halves(rows, some)
    return out


def over_enlarged(
    coarse: Image, zoom: int, shape: tuple[int, int], work: Callable[[slice, Image], None]
) -> None:
    """Call ``work`` for strips of rows of a coarse image enlarged ``zoom`` times, linear between
    its pixels: with the rows of the strip, and the strip.

    Pixels of ``shape`` beyond it repeat its border. Strips stay in the processor's cache, so that
    the whole enlarged image need never be held. Two strips may be worked on at once.
    """
    framed = np.pad(coarse, ((1, 2), (0, 1)), mode="edge")
    width = framed.shape[1] * zoom

    def some(start: int, stop: int) -> None:
        for first in range(start, stop, _STRIP):
            last = min(first + _STRIP, stop)
            rows = slice(first * zoom, min(last * zoom, shape[0]))
            if rows.start >= rows.stop:
                return
            part = framed[first : last + 2]
            wide = np.asarray(
                cv2.resize(part, (width, part.shape[0] * zoom), interpolation=cv2.INTER_LINEAR),
                np.float32,
            )
            work(rows, wide[zoom : zoom + rows.stop - rows.start, : shape[1]])

    run_in_halves(framed.shape[0] - 2, some)


def running_median(image: NDArray[np.floating], size: int) -> NDArray[np.floating]:
    """Median over a square of an odd ``size``, the border repeated outward.

    For grids of some thousand cells; as quick as a general filter, whose library alone would take
    longer to load than a frame to measure.
    """
    framed = np.pad(image, size // 2, mode="edge")
    squares = sliding_window_view(framed, (size, size)).reshape(*image.shape, size * size)
    middle = size * size // 2
    return np.asarray(np.partition(squares, middle, axis=-1)[..., middle])


def vertex(before: float, top: float, after: float) -> float:
    """Place of a parabola's top between its neighbours, -0.5 to 0.5; 0 where there is no top."""
    bend = before - 2 * top + after
    return 0.0 if bend >= 0 else float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5))


def peak_between(plane: NDArray[np.floating], row: int, column: int) -> tuple[float, float]:
    """Where a peak's top lies beside its pixel, x and y, within half a pixel; 0 at a border."""
    x = y = 0.0
    if 0 < column < plane.shape[1] - 1:
        x = vertex(*(float(plane[row, column + d]) for d in (-1, 0, 1)))
    if 0 < row < plane.shape[0] - 1:
        y = vertex(*(float(plane[row + d, column]) for d in (-1, 0, 1)))
    return x, y


def widened(mask: Mask, reach: int, *, round_: bool = False) -> Mask:
    """The mask grown by ``reach`` pixels, square or round."""
    shape = cv2.MORPH_ELLIPSE if round_ else cv2.MORPH_RECT
    kernel = cv2.getStructuringElement(shape, (2 * reach + 1, 2 * reach + 1))
    return np.asarray(cv2.dilate(mask.astype(np.uint8), kernel)).view(np.bool_)


def medians(values: NDArray[np.floating], axis: int) -> NDArray[np.floating]:
    """Medians along an axis of finite values, by sorting: for short ones four times as quick."""
    ordered, count = np.sort(values, axis=axis), values.shape[axis]
    low, high = ordered.take((count - 1) // 2, axis), ordered.take(count // 2, axis)
    return np.asarray((low + high) / 2)


def quantile(values: NDArray[np.floating], share: float) -> float:
    """The value below which a ``share`` (0 to 1) lies; 0 for none. A sorted sample would tell."""
    if values.size == 0:
        return 0.0
    rank = min(round(share * (values.size - 1)), values.size - 1)
    return float(np.partition(values, rank, axis=None)[rank])


def finite(image: Light) -> Light:
    """The image with NaN and infinite values replaced by the median of the others (0 if none)."""
    if isinstance(image, CodedLight) or np.isfinite(image.sum()):
        return image
    good = np.isfinite(image)
    middle = float(np.median(image[good])) if good.any() else 0.0
    return np.asarray(np.where(good, image, np.float32(middle)), np.float32)
