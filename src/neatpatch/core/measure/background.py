"""The even target's own tone under the spots: vignetting, tilt and clouds, but not the dust.

Medians of small cells resist dust; a low-order polynomial fitted with redescending, asymmetric
weights (dust only darkens) spans what large marks hide; a wide smoothing of what is left adds
clouds. Source: Tukey's biweight in iteratively reweighted least squares, Beaton & Tukey,
Technometrics 16, 147 (1974), https://doi.org/10.1080/00401706.1974.10489171.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.polynomial import chebyshev
from numpy.typing import NDArray

from neatpatch.core.common.filters import (
    Mask,
    binned,
    binned_light,
    medians,
    over_enlarged,
    quantile,
    running_median,
)
from neatpatch.core.common.frame import Image, Light

_BIN = 8
"""Noise falls eightfold before medians are taken. Smaller is slow; larger loses narrow falloff."""
_FINE_BIN = 4
"""On an uneven target cells are half as wide: their medians are still quiet, and clouds bend less
within them."""
_CELLS = 8
"""With the bin, cells of 64 px: larger than most shadows, smaller than any falloff."""
CELL_PX = _BIN * _CELLS
"""Side of a cell in pixels of the frame."""
MARGIN = 2
"""Cells added all round, so that interpolation at borders needs no special case."""
_COARSE = 4
"""Every fourth cell shapes the first surface: enough for falloff, blind to shadows."""
_DEGREE = 6
"""Falloff of lenses is even and of fourth to sixth order; higher bends into large shadows."""
_BAND_DEGREE = 4
"""Lens falloff along a row is even and of the fourth order; bands have more bends."""
_FLOOR = 1e-5
"""Keeps logarithms of black finite; far below any light a fit frame has."""
_CELL_NOISE = 0.002
"""Cells within three times this of the surface are never taken for dust."""
_AROUND_CELLS = 11
"""A shadow of up to 5 cells leaves the median alone; wider flattens real falloff."""
_CLOUD_CELLS = 2.5
"""Clouds and blotches of the target wider than about six cells (2.35 sigma) are taken out."""
_COVERED = 0.25
"""Binned pixels covered more than this tell of the thing and not of the target."""
_MOST_COVERED = 0.6
"""Cells covered more than this are filled in; fewer leave enough pixels for a median."""
_FILL_CELLS = (0.8, 1.5, 3.0, 6.0)
"""Widths of the surroundings, in cells, from which a cell is told: the nearest that knows."""
_LEAST_APART = 0.1
"""Cells: two rows that overlap all but wholly tell no slope."""
_ENOUGH_KNOWN = 0.3
"""Share of the surroundings that must be known; less would follow one cell far off."""


@dataclass(frozen=True)
class Background:
    """Background luminance on cells of ``cell_px``, with ``MARGIN`` cells more all round.

    ``unevenness``: brightest over darkest part. ``roughness``: share of the tone by which the
    brightest hundredth of the cells exceeds it; dust never brightens, so it is the target's own.
    """

    grid: Image
    cell_px: float
    unevenness: float
    roughness: float = 0.0

    @property
    def cells(self) -> Image:
        """The cells of the frame itself, without the margin."""
        return self.grid[MARGIN:-MARGIN, MARGIN:-MARGIN]

    def window(self, top: int, left: int, height: int, width: int, step: int = 1) -> Image:
        """Background at ``step``-binned pixels of a window given in full-resolution pixels.

        ``height`` and ``width`` count binned pixels. Cubic between cells.
        """
        rows, down = _cubic_weights(self._knots(top, height, step), self.grid.shape[0])
        columns, across = _cubic_weights(self._knots(left, width, step), self.grid.shape[1])
        return np.asarray(down @ self.grid[rows, columns] @ across.T, np.float32)

    def patch(self, top: int, left: int, height: int, width: int, step: int) -> Image:
        """`window` at a place that is a multiple of ``step``: weights are kept between calls."""
        rows = slice(top // step, top // step + height)
        columns = slice(left // step, left // step + width)
        down, across = (_kept_weights(n, self.cell_px, step) for n in self.grid.shape)
        knots = tuple(
            self._span(v * step, n * step)
            for v, n in ((rows.start, height), (columns.start, width))
        )
        return np.asarray(
            down[rows, knots[0]] @ self.grid[knots] @ across[columns, knots[1]].T, np.float32
        )

    def band_profiles(self, shape: tuple[int, int], step: int) -> tuple[Image, Image]:
        """How far it follows bands along rows and columns: at each binned row, at each column.

        Shares of the tone, of what a low polynomial leaves of its typical row and column.
        """
        logs = np.log(np.maximum(self.cells, _FLOOR)).astype(np.float64)
        rows = _bend_left(np.median(logs, axis=1))
        columns = _bend_left(np.median(logs, axis=0))
        out = []
        for values, count in ((rows, shape[0]), (columns, shape[1])):
            knots = self._knots(0, count, step) - MARGIN
            span, weights = _cubic_weights(knots, values.size)
            out.append(np.asarray(weights @ values[span], np.float32))
        return out[0], out[1]

    def _span(self, first: int, count: int) -> slice:
        """Knots that can have weight in ``count`` pixels from ``first``."""
        low, high = (int(v / self.cell_px + MARGIN - 0.5) for v in (first, first + count))
        return slice(max(0, low - 2), high + 4)

    def over_strips(
        self, height: int, width: int, step: int, work: Callable[[slice, Image], None]
    ) -> None:
        """Call ``work`` for strips of `window` of the whole frame, linear between every fourth
        pixel: with their rows, and the strip.

        A surface bent by 1 % a cell is met within 2e-5.
        """
        rows, columns = -(-height // _COARSE), -(-width // _COARSE)
        coarse = self.window(0, 0, rows, columns, step * _COARSE)
        over_enlarged(coarse, _COARSE, (height, width), work)

    def _knots(self, first: int, count: int, step: int) -> NDArray[np.float64]:
        """Places of binned pixels on the grid, margin included."""
        centres = first + (np.arange(count, dtype=np.float64) + 0.5) * step
        return np.asarray(centres / self.cell_px + MARGIN - 0.5, np.float64)


def _bend_left(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """What a polynomial of the degree of falloff leaves."""
    place = np.linspace(-1, 1, values.size)
    degree = max(0, min(_BAND_DEGREE, values.size - 2))
    fitted = chebyshev.chebval(place, chebyshev.chebfit(place, values, degree))
    return np.asarray(values - fitted, np.float64)


@lru_cache(maxsize=16)
def _kept_weights(knots: int, cell_px: float, step: int) -> Image:
    """Weights of all ``step``-binned pixels of an axis with so many knots, margins included."""
    count = int((knots - 2 * MARGIN) * cell_px) // step
    centres = (np.arange(count, dtype=np.float64) + 0.5) * step
    span, weights = _cubic_weights(centres / cell_px + MARGIN - 0.5, knots)
    full = np.zeros((count, knots), np.float32)
    full[:, span] = weights
    return full


def _cubic_weights(position: NDArray[np.float64], count: int) -> tuple[slice, Image]:
    """The span of the ``count`` knots that is needed, and rows of Catmull-Rom weights over it.

    Linear interpolation would leave creases at the knots.
    Source: R. Keys, IEEE Trans. ASSP 29, 1153 (1981), https://doi.org/10.1109/TASSP.1981.1163711.
    """
    base = np.floor(position).astype(int)
    low = int(np.clip(base[0] - 1, 0, count - 1)) if base.size else 0
    high = int(np.clip(base[-1] + 2, 0, count - 1)) if base.size else 0
    out = np.zeros((position.size, high - low + 1), np.float32)
    rows = np.arange(position.size)
    for offset in (-1, 0, 1, 2):
        distance = np.abs(position - (base + offset))
        near = (1.5 * distance - 2.5) * distance**2 + 1
        far = ((-0.5 * distance + 2.5) * distance - 4) * distance + 2
        weight = np.where(distance <= 1, near, np.where(distance < 2, far, 0.0))
        out[rows, np.clip(base + offset, 0, count - 1) - low] += weight.astype(np.float32)
    return slice(low, high + 1), out


def estimate_background(
    light: Light, step: int = 1, shape: tuple[int, int] | None = None
) -> Background:
    """Background of a frame (height, width), linear light.

    ``light`` may be binned by ``step`` already; ``shape`` then is the frame's own. A constant
    frame gives that constant; a black one a floor above zero.
    """
    pixels = shape or (light.shape[0] * step, light.shape[1] * step)
    cells = _cell_medians(binned_light(light, _BIN // step), pixels)
    logs = np.log(np.maximum(cells, _FLOOR)).astype(np.float64)
    smooth, rest = _robust_polynomial(logs, _centres(pixels))
    wide = _wide_smoothing(rest)
    smooth += np.pad(wide, MARGIN, mode="edge")
    return _background(smooth, logs, CELL_PX, quantile(rest - wide, 0.99))


def refined(
    background: Background, light: Light, step: int, shape: tuple[int, int], taken: Mask
) -> Background:
    """The background of a target that is itself uneven, by cells half as wide.

    ``taken`` marks the pixels of ``light`` (binned by ``step``) that hold sharp-edged things; cells
    without enough others are filled in from their neighbours. Whatever is wider than a cell and
    soft becomes background.
    """
    small = binned_light(light, _FINE_BIN // step)
    covered = binned(taken.astype(np.float32), _FINE_BIN // step)
    bare = np.where(covered[: small.shape[0], : small.shape[1]] > _COVERED, np.nan, small)
    cells = _cell_medians(bare.astype(np.float32), shape, _FINE_BIN)
    cell_px = _FINE_BIN * _CELLS
    centres = _centres(shape, _FINE_BIN)
    room = MARGIN * cell_px
    rows, columns = (n + 2 * MARGIN for n in cells.shape)
    tone = background.window(-room, -room, rows, columns, cell_px)
    wide = np.log(np.maximum(tone, _FLOOR)).astype(np.float64)
    before = wide[MARGIN:-MARGIN, MARGIN:-MARGIN]
    before = _off_grid(_off_grid(before, centres[0]).T, centres[1]).T
    logs = np.log(np.maximum(cells, _FLOOR)).astype(np.float64)
    rest = logs - before
    known = np.isfinite(rest).astype(np.float64)
    rest = np.where(known > 0, rest, 0.0)
    fine = _refilled(rest, known)
    fine = _on_grid(_on_grid(fine, centres[0]).T, centres[1]).T
    smooth = wide + np.pad(fine, MARGIN, mode="reflect", reflect_type="odd")
    return _background(smooth, np.where(known > 0, logs, before), cell_px, 0.0)


def _refilled(rest: NDArray[np.float64], known: NDArray[np.float64]) -> NDArray[np.float64]:
    """Cells as they are; those not known from ever wider surroundings."""
    out, have = rest.copy(), known.copy()
    for wide in _FILL_CELLS:
        weight = _blurred(known, wide)
        value = _blurred(rest * known, wide) / np.maximum(weight, 1e-9)
        use = (have == 0) & (weight > _ENOUGH_KNOWN)
        out[use], have[use] = value[use], 1
    return out


def _off_grid(values: NDArray[np.float64], centres: NDArray[np.float64]) -> NDArray[np.float64]:
    """The opposite of `_on_grid`."""
    if len(values) < 2 or centres[-1] - centres[-2] < _LEAST_APART:
        return values
    moved = values.copy()
    moved[-1] += (values[-1] - values[-2]) * (centres[-1] - (len(values) - 1))
    return moved


def _on_grid(values: NDArray[np.float64], centres: NDArray[np.float64]) -> NDArray[np.float64]:
    """Rows of cells moved from their true centres to whole numbers: the last one may overlap."""
    if len(values) < 2 or centres[-1] - centres[-2] < _LEAST_APART:
        return values
    moved = values.copy()
    moved[-1] += (
        (values[-1] - values[-2]) * (len(values) - 1 - centres[-1]) / (centres[-1] - centres[-2])
    )
    return moved


def _background(
    smooth: NDArray[np.float64], logs: NDArray[np.float64], cell_px: int, roughness: float
) -> Background:
    spread = float(np.exp(np.percentile(smooth, 99) - np.percentile(smooth, 1)))
    grid = np.exp(np.clip(smooth, np.log(_FLOOR), logs.max() + 1)).astype(np.float32)
    return Background(grid, float(cell_px), spread, roughness)


def _starts(size_px: int, bin_px: int) -> NDArray[np.int_]:
    """First binned pixel of each cell; the last cell ends with the frame and may overlap."""
    small = size_px // bin_px
    count = -(-size_px // (bin_px * _CELLS))
    return np.maximum(np.minimum(np.arange(count) * _CELLS, small - _CELLS), 0)


def _centres(pixels: tuple[int, ...], bin_px: int = _BIN) -> list[NDArray[np.float64]]:
    """Where the content of each row and column of cells is centred, in cells."""
    cell_px = bin_px * _CELLS
    return [(_starts(n, bin_px) * bin_px + min(cell_px, n) / 2) / cell_px - 0.5 for n in pixels[:2]]


def _cell_medians(small: Image, shape: tuple[int, int], bin_px: int = _BIN) -> Image:
    rows, columns = (_starts(n, bin_px) for n in shape)
    inside = np.arange(_CELLS)
    ys = np.minimum(rows[:, None] + inside, small.shape[0] - 1)
    xs = np.minimum(columns[:, None] + inside, small.shape[1] - 1)
    blocks = small[ys[:, None, :, None], xs[None, :, None, :]]
    values = blocks.reshape(rows.size, columns.size, -1)
    if np.isfinite(small.sum()):
        return np.asarray(medians(values, axis=2), np.float32)
    few = np.isnan(values).mean(axis=2) > _MOST_COVERED
    values[few] = 1.0
    return np.where(few, np.nan, np.nanmedian(values, axis=2)).astype(np.float32)


def _basis(y: NDArray[np.float64], x: NDArray[np.float64], degree: int) -> NDArray[np.float64]:
    """Chebyshev products up to a total degree on the grid of ``y`` by ``x`` (-1 to 1)."""
    yy, xx = np.meshgrid(y, x, indexing="ij")
    full = chebyshev.chebvander2d(xx.ravel(), yy.ravel(), [degree, degree])
    total = np.add.outer(np.arange(degree + 1), np.arange(degree + 1)).ravel()
    return np.asarray(full[:, total <= degree])


def _robust_polynomial(
    logs: NDArray[np.float64], centres: list[NDArray[np.float64]]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Fitted surface (with its margin) and what it leaves of each cell."""
    rows, columns = logs.shape
    degree = max(0, min(_DEGREE, rows - 2, columns - 2))
    half = max((rows - 1) / 2, 0.5), max((columns - 1) / 2, 0.5)
    basis = _basis(centres[0] / half[0] - 1, centres[1] / half[1] - 1, degree)
    values = logs.ravel()
    weight: NDArray[np.float64] = np.ones(values.size, np.float64)
    coefficients = np.zeros(basis.shape[1])
    for strictness in (12.0, 6.0, 3.0, 1.5, 1.0, 1.0):
        root = np.sqrt(weight)[:, None]
        coefficients = _solved(basis * root, values * root[:, 0])
        residual = values - np.asarray(basis @ coefficients, np.float64)
        scale = max(1.4826 * float(np.median(np.abs(residual))), _CELL_NOISE)
        reach = np.where(residual < 0, 3.0, 6.0) * scale * strictness
        weight = _biweight(residual / reach)
    wide = _basis(
        np.arange(-MARGIN, rows + MARGIN) / half[0] - 1,
        np.arange(-MARGIN, columns + MARGIN) / half[1] - 1,
        degree,
    )
    surface = (wide @ coefficients).reshape(rows + 2 * MARGIN, columns + 2 * MARGIN)
    residual = values - basis @ coefficients
    return surface, residual.reshape(logs.shape)


def _solved(basis: NDArray[np.float64], values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Least squares by the normal equations: a Chebyshev basis is well conditioned."""
    normal = basis.T @ basis
    normal[np.diag_indices_from(normal)] += 1e-12 * max(float(np.trace(normal)), 1e-12)
    return np.asarray(np.linalg.solve(normal, basis.T @ values), np.float64)


def _biweight(u: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(np.clip(1 - u * u, 0, None) ** 2)


def _wide_smoothing(rest: NDArray[np.float64]) -> NDArray[np.float64]:
    """Normalised convolution over cells that do not stand out from those around them.

    Done twice, the second time on what the first left (Tukey's twicing), to follow steep corners.
    """
    around = rest - running_median(rest, _AROUND_CELLS)
    scale = max(1.4826 * float(np.median(np.abs(around))), _CELL_NOISE)
    weight = _biweight(around / np.where(around < 0, 3.0 * scale, 6.0 * scale))
    clear = cv2.erode((weight > 0.1).astype(np.float64), np.ones((3, 3)))
    weight = weight * np.maximum(clear, 0.02)
    bottom = np.maximum(_blurred(weight), 1e-3)
    first = _blurred(rest * weight) / bottom
    return first + _blurred((rest - first) * weight) / bottom


def _blurred(values: NDArray[np.float64], cells: float = _CLOUD_CELLS) -> NDArray[np.float64]:
    return np.asarray(
        cv2.GaussianBlur(values, (0, 0), cells, borderType=cv2.BORDER_REFLECT), np.float64
    )
