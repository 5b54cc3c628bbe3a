"""The even target's own tone under the spots: vignetting, tilt and clouds, but not the dust.

Medians of small cells resist dust; a low-order polynomial fitted with redescending, asymmetric
weights (dust only darkens) spans what large marks hide; a wide smoothing of what is left adds
clouds. Source: Tukey's biweight in iteratively reweighted least squares, Beaton & Tukey,
Technometrics 16, 147 (1974), https://doi.org/10.1080/00401706.1974.10489171.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.polynomial import chebyshev
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from neatpatch.core.frame import Image

_BIN = 8
_CELLS = 8
CELL_PX = _BIN * _CELLS
_DEGREE = 6
_FLOOR = 1e-5
_CELL_NOISE = 0.002
"""Cells within three times this of the surface are never taken for dust."""
_AROUND_CELLS = 11
_CLOUD_CELLS = 2.5
"""Clouds and blotches of the target wider than about six cells (2.35 sigma) are taken out."""


@dataclass(frozen=True)
class Background:
    """Background luminance on a grid of cells of ``cell_px``, with one cell of margin all round."""

    grid: Image
    cell_px: float
    unevenness: float

    def window(self, top: int, left: int, height: int, width: int, step: int = 1) -> Image:
        """Background at ``step``-binned pixels of a window given in full-resolution pixels.

        ``height`` and ``width`` count binned pixels. Bilinear between cells.
        """
        scale = step / self.cell_px
        offset = (step - 1) / 2
        matrix = np.array(
            [
                [scale, 0.0, (left + offset + 0.5) / self.cell_px + 0.5],
                [0.0, scale, (top + offset + 0.5) / self.cell_px + 0.5],
            ]
        )
        out = cv2.warpAffine(
            self.grid, matrix, (width, height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        return np.asarray(out, np.float32)


def estimate_background(luminance: Image, ignore: NDArray[np.bool_] | None = None) -> Background:
    """Background of a frame (height, width), linear light.

    ``ignore``, of the same grid as the cells (see `cell_grid`), leaves cells out, for a second pass
    with the spots known. A constant frame gives that constant; a black one a floor above zero.
    """
    cells = _cell_medians(luminance)
    logs = np.log(np.maximum(cells, _FLOOR)).astype(np.float64)
    smooth, rest = _robust_polynomial(logs, _centres(cells.shape, luminance.shape), ignore)
    smooth += np.pad(_wide_smoothing(rest, ignore), 1, mode="edge")
    spread = float(np.exp(np.percentile(smooth, 99)) / np.exp(np.percentile(smooth, 1)))
    grid = np.maximum(np.exp(smooth), _FLOOR).astype(np.float32)
    return Background(grid, float(CELL_PX), spread)


def _centres(cells: tuple[int, ...], pixels: tuple[int, ...]) -> list[NDArray[np.float64]]:
    """Where the content of each row and column of cells is centred; the last may be cut short."""
    out = []
    for count, size in zip(cells, pixels, strict=True):
        edges = np.minimum(np.arange(count + 1) * CELL_PX, size)
        out.append((edges[:-1] + edges[1:]) / 2 / CELL_PX - 0.5)
    return out


def _cell_medians(luminance: Image) -> Image:
    height, width = luminance.shape
    small = cv2.resize(
        luminance[: height // _BIN * _BIN, : width // _BIN * _BIN],
        (width // _BIN, height // _BIN), interpolation=cv2.INTER_AREA,
    )  # fmt: skip
    rows, columns = (-(-n // CELL_PX) for n in (height, width))
    pad = ((0, rows * _CELLS - small.shape[0]), (0, columns * _CELLS - small.shape[1]))
    small = np.pad(small, pad, mode="edge")
    blocks = small.reshape(rows, _CELLS, columns, _CELLS).swapaxes(1, 2)
    return np.median(blocks.reshape(rows, columns, -1), axis=2).astype(np.float32)


def _basis(y: NDArray[np.float64], x: NDArray[np.float64], degree: int) -> NDArray[np.float64]:
    """Chebyshev products up to a total degree on the grid of ``y`` by ``x`` (-1 to 1)."""
    yy, xx = np.meshgrid(y, x, indexing="ij")
    full = chebyshev.chebvander2d(xx.ravel(), yy.ravel(), [degree, degree])
    total = np.add.outer(np.arange(degree + 1), np.arange(degree + 1)).ravel()
    return np.asarray(full[:, total <= degree])


def _robust_polynomial(
    logs: NDArray[np.float64],
    centres: list[NDArray[np.float64]],
    ignore: NDArray[np.bool_] | None,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Fitted surface (with one cell of margin) and what it leaves of each cell."""
    rows, columns = logs.shape
    degree = max(0, min(_DEGREE, rows - 2, columns - 2))
    half = max((rows - 1) / 2, 0.5), max((columns - 1) / 2, 0.5)
    basis = _basis(*((c / h - 1) for c, h in zip(centres, half, strict=True)), degree)
    values = logs.ravel()
    allowed = np.ones(values.size) if ignore is None else (~ignore.ravel()).astype(np.float64)
    if allowed.sum() < 2 * basis.shape[1]:
        allowed = np.ones(values.size)
    weight = allowed.copy()
    coefficients = np.zeros(basis.shape[1])
    for strictness in (12.0, 6.0, 3.0, 1.5, 1.0, 1.0):
        root = np.sqrt(weight)[:, None]
        coefficients, *_ = np.linalg.lstsq(basis * root, values * root[:, 0], rcond=None)
        residual = values - basis @ coefficients
        scale = max(1.4826 * float(np.median(np.abs(residual[allowed > 0]))), _CELL_NOISE)
        reach = np.where(residual < 0, 3.0, 6.0) * scale * strictness
        weight = allowed * _biweight(residual / reach)
    wide = _basis(
        np.arange(-1, rows + 1) / half[0] - 1, np.arange(-1, columns + 1) / half[1] - 1, degree
    )
    surface = (wide @ coefficients).reshape(rows + 2, columns + 2)
    residual = values - basis @ coefficients
    return surface, residual.reshape(logs.shape)


def _biweight(u: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(np.clip(1 - u * u, 0, None) ** 2)


def _wide_smoothing(
    rest: NDArray[np.float64], ignore: NDArray[np.bool_] | None
) -> NDArray[np.float64]:
    """Normalised convolution over cells that do not stand out from those around them.

    Done twice, the second time on what the first left (Tukey's twicing), to follow steep corners.
    """
    around = rest - median_filter(rest, size=_AROUND_CELLS, mode="nearest")
    scale = max(1.4826 * float(np.median(np.abs(around))), _CELL_NOISE)
    weight = _biweight(around / np.where(around < 0, 3.0 * scale, 6.0 * scale))
    if ignore is not None:
        weight = weight * ~ignore
    clear = cv2.erode((weight > 0.1).astype(np.float64), np.ones((3, 3)))
    weight = weight * np.maximum(clear, 0.02)
    bottom = np.maximum(_blurred(weight), 1e-3)
    first = _blurred(rest * weight) / bottom
    return first + _blurred((rest - first) * weight) / bottom


def _blurred(values: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(
        cv2.GaussianBlur(values, (0, 0), _CLOUD_CELLS, borderType=cv2.BORDER_REFLECT), np.float64
    )
