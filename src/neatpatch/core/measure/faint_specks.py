"""Specks too faint to be seen before the shape of a shadow is known.

Detection searches with Gaussians of every size. Once the bright specks have told the blur, the
shadow of any small one is known, and a filter of that very shape finds what is a quarter fainter at
the same rate of false alarms. A frame whose brighter side stands out as far (compression, texture,
a target of its own) raises the bar by itself.
Source: matched filter, G. L. Turin, IRE Trans. Inf. Theory 6, 311 (1960),
https://doi.org/10.1109/TIT.1960.1057571.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np

from neatpatch.core.common.filters import (
    Mask,
    binned,
    box_mean,
    over_enlarged,
    peak_between,
    widened,
)
from neatpatch.core.common.frame import Image
from neatpatch.core.common.optics import unit_profile
from neatpatch.core.measure.background import Background
from neatpatch.core.measure.detection import evened, sampled_sigma, threshold, unevenness
from neatpatch.core.measure.region_measures import RegionMeasures
from neatpatch.core.measure.stack_height import BlurFit

LEAST_WIDTH = 5.0
"""Pixels across a blur, after binning: fewer lose a tenth of what a faint one shows."""
_SMALL = 0.25
"""A speck this small beside the blur, or smaller, casts a shadow of the blur's own shape."""
_CLIP = 4.0
"""In noise of one pixel: a hot one makes no speck."""
_AROUND = 4.0
"""In blurs: what is darker than its surroundings of this width counts."""
_COARSE = 4
"""Surroundings need no finer pixels than this."""
_RIM = 1.5
"""In blurs: as far around known shadows light is given back, and tells nothing of noise."""
_BRIGHT_MARGIN = 1.05
"""Times the brightest mark: what is darker than that is no chance of this frame."""
_UNEVEN_SHARE = 0.5
"""Of the usual unevenness of targets: the shape tells a part of it, the bright side another."""
_LEAST_FREE = 0.3
"""Share of the surroundings without known shadows, below which nothing is told."""
_OWN_NOISE = 0.28
"""Standard deviation of a Gaussian as wide as the blur's filter, in blurs: for counting places."""


@dataclass(frozen=True)
class _Search:
    """What was filtered, in pixels of ``pixel`` full ones: ``signal`` in its own noise ``sigma``,
    the ``shape`` it was filtered by, and the blur's ``width``.
    """

    signal: Image
    sigma: float
    shape: Image
    known: Mask
    pixel: int
    width: float


def faint_specks(
    loss: Image, background: Background, occupied: Mask, step: int, blur: BlurFit
) -> list[RegionMeasures]:
    """Specks of the blur's own shape in a loss map binned by ``step``, measured by that shape.

    ``occupied``: what is known already, and not searched again. None where there are none, or
    where the blur is too narrow in binned pixels to have a shape.
    """
    zoom = 1
    while blur.blur_px / (2 * zoom * step) >= LEAST_WIDTH:
        zoom *= 2
    pixel = zoom * step
    width = blur.blur_px / pixel
    if width < LEAST_WIDTH:
        return []
    known = binned(occupied.astype(np.float32), zoom) > 0
    signal = _flattened(binned(evened(loss.copy(), background.cells), zoom), known, width)
    shape = speck_shape(width, pixel, blur)
    across = across_of(shape)
    signal = np.asarray(
        cv2.sepFilter2D(signal, -1, across, across, borderType=cv2.BORDER_REFLECT), np.float32
    )
    told = float(across @ shape @ across)
    uneven = _UNEVEN_SHARE * unevenness(blur.blur_px / (loss.shape[1] * step)) / shape.max() * told
    sigma = math.hypot(sampled_sigma(signal), uneven)
    signal /= sigma
    _blank(signal, known, width)
    search = _Search(signal, sigma / told, shape, known, pixel, width)
    return [_measured(search, x, y) for x, y in _darker_than_chance(search)]


def _flattened(loss: Image, known: Mask, width: float) -> Image:
    """Loss against its surroundings, where nothing is known; 0 elsewhere."""
    limit = _CLIP * sampled_sigma(loss)
    np.clip(loss, -limit, limit, out=loss)
    loss[known] = 0
    free = binned((~known).astype(np.float32), _COARSE)
    size = round(_AROUND * width / _COARSE) | 1
    share = np.maximum(box_mean(free, size), np.float32(_LEAST_FREE))
    around = np.asarray(box_mean(binned(loss, _COARSE), size) / share, np.float32)

    def take_off(rows: slice, surroundings: Image) -> None:
        loss[rows] -= surroundings

    over_enlarged(around, _COARSE, (loss.shape[0], loss.shape[1]), take_off)
    loss[known] = 0
    return loss


def speck_shape(width: float, pixel: int, blur: BlurFit) -> Image:
    """The shadow of a small speck in pixels of ``pixel`` full ones, its squares summing to one.

    ``width``: of the blur in those pixels.
    """
    reach = math.ceil(0.75 * width) + 1
    rows, columns = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    softness = math.hypot(blur.softness_px / pixel, 0.3)
    profile = unit_profile(
        np.hypot(rows, columns), _SMALL * width, width, softness, blur.wave_px / pixel
    )
    return np.asarray(profile / np.linalg.norm(profile), np.float32)


def across_of(shape: Image) -> Image:
    """The profile whose product along both axes comes nearest to a shape: a disc's to 1 %."""
    return np.asarray(np.abs(np.linalg.svd(shape)[0][:, 0]), np.float32)


def _blank(signal: Image, known: Mask, width: float) -> None:
    """Nothing is told within a blur of what is known, nor half a blur of the frame's border."""
    signal[widened(known, math.ceil(width))] = 0
    edge = math.ceil(width / 2) + 1
    for border in (np.s_[:edge], np.s_[-edge:]):
        signal[border] = 0
        signal[:, border] = 0


def _darker_than_chance(search: _Search) -> list[tuple[int, int]]:
    """Columns and rows of maxima beyond the threshold and beyond what is brighter by chance."""
    signal, width = search.signal, search.width
    least = threshold(signal.size, _OWN_NOISE * width)
    if float(signal.max()) <= least:
        return []
    bright = np.where(widened(search.known, math.ceil(_RIM * width)), 0, signal)
    least = max(least, -_BRIGHT_MARGIN * float(bright.min()))
    reach = math.ceil(width / 2)
    found = []
    for row, column in np.argwhere(signal > least):
        around = signal[row - reach : row + reach + 1, column - reach : column + reach + 1]
        if signal[row, column] >= around.max():
            found.append((int(column), int(row)))
    return found


def _measured(search: _Search, column: int, row: int) -> RegionMeasures:
    """What a speck of that shape measures that would answer as strongly."""
    pixel, shape = search.pixel, search.shape
    snr = float(search.signal[row, column])
    strength = snr * search.sigma
    beside, below = peak_between(search.signal, row, column)
    depth = strength * float(shape.max())
    rows, columns = np.mgrid[: shape.shape[0], : shape.shape[1]] - shape.shape[0] // 2
    lost = float(shape.sum())
    spread = float((shape * (rows**2 + columns**2)).sum() / (2 * lost)) * pixel**2
    loss = strength * lost * pixel**2
    core = math.sqrt(4 / math.pi * loss / depth)
    return RegionMeasures(
        x_px=(column + beside + 0.5) * pixel - 0.5,
        y_px=(row + below + 0.5) * pixel - 0.5,
        loss_px2=loss,
        depth=depth,
        snr=snr,
        variance=(spread, spread),
        angle_deg=0.0,
        area_px=shape.size * pixel**2,
        profile=np.zeros(0),
        profile_step_px=pixel,
        length_px=core,
        fwhm_px=core,
        course_px=np.zeros((0, 2)),
        extent_px=core,
        fill=1.0,
        spread_px2=spread,
        hollow=1.0,
        noise=search.sigma,
        edge_px=core,
        at_border=False,
    )
