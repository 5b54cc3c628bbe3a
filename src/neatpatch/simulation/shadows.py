"""Shadows by convolution: silhouette, pupil seen from the sensor, diffraction, pixel.

The pupil of ``blades`` straight sides is the regular polygon of the same area as the disc of
diameter ``h / N``, as the f-number is defined by the light that passes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from neatpatch.core.common import optics
from neatpatch.core.common.filters import binned
from neatpatch.simulation.particles import Particle, Plane, silhouette

_FINEST_CELLS = 900
_AIRY_REACH = 6.0


@dataclass(frozen=True)
class Shadow:
    """Loss of light on pixels, its place in the frame, and what is true of it.

    ``peak``: greatest loss; ``energy``: root of the summed squared loss; ``outer_px``: extent of
    the silhouette plus blur; ``size_um``: of the opaque disc with the same integrated loss
    (thickness for fibres).
    """

    left: int
    top: int
    loss: Plane
    x_px: float
    y_px: float
    peak: float
    energy: float
    outer_px: float
    blur_px: float
    size_um: float


def magnification(height_mm: float, exit_pupil_mm: float) -> float:
    """Outward shift factor of a shadow: ``E / (E - h)``."""
    return exit_pupil_mm / (exit_pupil_mm - height_mm)


@dataclass(frozen=True, kw_only=True)
class View:
    """What a shadow is seen with: the sensor, the frame's width, the pupil. 0 blades: round."""

    sensor_mm: tuple[float, float]
    width_px: int
    f_number: float
    exit_pupil_mm: float
    blades: int = 0
    turn_rad: float = 0.2

    @property
    def pitch_um(self) -> float:
        return self.sensor_mm[0] * 1000.0 / self.width_px


@dataclass(frozen=True)
class _Drawn:
    """A shadow drawn on cells finer than pixels, around its middle."""

    plane: Plane
    fineness: int
    half_px: int


@lru_cache(maxsize=256)
def render(particle: Particle, view: View) -> Shadow:
    """Shadow of one particle on a frame; what stays between two frames is drawn once."""
    pitch, f_number = view.pitch_um, view.f_number
    height_px = round(view.sensor_mm[1] * 1000.0 / pitch)
    blur = optics.blur_um(particle.height_mm, f_number)
    reach = max(particle.size_um * 1.2, particle.length_um) / 2 + blur / 2
    reach += _AIRY_REACH * optics.airy_um(f_number) + 2 * pitch
    half_px = math.ceil(reach / pitch) + 1
    fineness = _fineness(half_px, pitch, min(blur, particle.size_um))
    cell = pitch / fineness
    half = (half_px * fineness) + fineness // 2
    kernel = _blurs(blur / cell, view.blades, view.turn_rad, optics.airy_um(f_number) / cell)
    plane = _spread(silhouette(particle, cell, half), kernel)
    scale = magnification(particle.height_mm, view.exit_pupil_mm)
    x = particle.x_mm * scale * 1000.0 / pitch + (view.width_px - 1) / 2
    y = particle.y_mm * scale * 1000.0 / pitch + (height_px - 1) / 2
    drawn = _Drawn(plane, fineness, half_px)
    return _sampled(particle, drawn, (x, y), blur / pitch, pitch)


def _fineness(half_px: int, pitch: float, detail_um: float) -> int:
    """Odd number of cells to a pixel: a tenth of the finest detail, within memory."""
    wanted = math.ceil(pitch / max(detail_um / 10.0, 0.5))
    most = max(1, _FINEST_CELLS // max(half_px, 1))
    return max(1, min(wanted, most, 15)) | 1


def _spread(plane: Plane, kernel: Plane) -> Plane:
    """Convolution with an odd kernel; nothing lies beyond the plane."""
    turned = np.ascontiguousarray(kernel[::-1, ::-1])
    return np.asarray(
        cv2.filter2D(plane, cv2.CV_32F, turned, borderType=cv2.BORDER_CONSTANT), np.float32
    )


@lru_cache(maxsize=64)
def _blurs(diameter: float, blades: int, turn: float, airy: float) -> Plane:
    """Pupil and diffraction in one kernel, in cells; most particles of a frame share it."""
    pupil, pattern = _pupil(diameter, blades, turn), _airy(airy)
    return _spread(np.pad(pupil, pattern.shape[0] // 2), pattern)


def _airy(scale: float) -> Plane:
    """Airy pattern with ``scale`` = λN in cells, cut where 97 % of its light is inside."""
    from scipy.special import j1

    half = math.ceil(_AIRY_REACH * scale) + 1
    axis = np.arange(-half, half + 1)
    x = np.maximum(math.pi * np.hypot(axis[:, None], axis[None, :]) / max(scale, 1e-3), 1e-6)
    pattern = (2 * j1(x) / x) ** 2
    return np.asarray(pattern / pattern.sum(), np.float32)


def _pupil(diameter: float, blades: int, turn: float) -> Plane:
    half = math.ceil(diameter * 0.62) + 1
    finer = 4
    size = (2 * half + 1) * finer
    canvas = np.zeros((size, size), np.uint8)
    sides = blades if blades >= 5 else 180
    area = 0.5 * sides * math.sin(2 * math.pi / sides)
    radius = diameter / 2 * math.sqrt(math.pi / area) * finer
    theta = turn + np.arange(sides) * 2 * math.pi / sides
    centre = (size - 1) / 2
    points = np.stack([centre + radius * np.cos(theta), centre + radius * np.sin(theta)], axis=1)
    cv2.fillPoly(canvas, [np.round(points * 256).astype(np.int32)], 255, shift=8)
    pupil = binned(canvas.astype(np.float32), finer)
    return np.asarray(pupil / max(pupil.sum(), 1e-6), np.float32)


def _sampled(
    particle: Particle, drawn: _Drawn, place: tuple[float, float], blur_px: float, pitch: float
) -> Shadow:
    """Shift to the sub-pixel place and average the cells of each pixel."""
    plane, fineness, half_px = drawn.plane, drawn.fineness, drawn.half_px
    x, y = place
    left, top = round(x) - half_px, round(y) - half_px
    shift = np.array(
        [[1, 0, (x - round(x)) * fineness], [0, 1, (y - round(y)) * fineness]], np.float32
    )
    moved = cv2.warpAffine(plane, shift, plane.shape[::-1], flags=cv2.INTER_LINEAR)
    count = 2 * half_px + 1
    moved = moved[: count * fineness, : count * fineness]
    loss = binned(np.asarray(moved, np.float32), fineness)
    total = float(loss.sum())
    yy, xx = np.indices(loss.shape)
    area = max(total, 1e-9)
    size = math.sqrt(4 / math.pi * area) * pitch
    if particle.kind == "fibre":
        size = particle.size_um
    return Shadow(
        left=left,
        top=top,
        loss=loss,
        x_px=left + float((loss * xx).sum()) / area,
        y_px=top + float((loss * yy).sum()) / area,
        peak=float(loss.max()),
        energy=float(np.sqrt((loss.astype(np.float64) ** 2).sum())),
        outer_px=_extent_px(particle, pitch) + blur_px,
        blur_px=blur_px,
        size_um=size,
    )


def _extent_px(particle: Particle, pitch: float) -> float:
    if particle.kind in ("fibre", "residue"):
        return particle.length_um / pitch
    if particle.kind == "droplet":
        return particle.size_um * 1.04 / pitch
    cell = particle.size_um / 60
    shape = silhouette(particle, cell, 60) > 0.5 * particle.opacity
    ys, xs = np.nonzero(shape)
    _, radius = cv2.minEnclosingCircle(np.column_stack([xs, ys]).astype(np.float32))
    return 2 * float(radius) * cell / pitch
