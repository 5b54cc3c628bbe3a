"""Shadows by wave optics: a thin screen, light spread behind it, the pupil as source, pixels.

Behind a screen that lets the amplitude ``1 - m`` pass, the loss is ``2 Re u - |u|²``, where ``u``
is ``m`` after its way to the photosites (Fresnel's transfer function). Every point of the pupil
lights it by itself, so losses are convolved with the pupil's projection. Source: J. W. Goodman,
Introduction to Fourier Optics, 3rd ed., ch. 4; docs/method.md.

The pupil of ``blades`` straight sides is the regular polygon of the same area as the disc of
diameter ``h / N``, as the f-number is defined by the light that passes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import fft

from neatpatch.core.common import optics
from neatpatch.core.common.diffraction import BANDS, washed_cosine
from neatpatch.core.common.filters import binned
from neatpatch.simulation.particles import Particle, Plane, silhouette

_FINEST_CELLS = 500
_SPREAD_REACH = 2.5
"""Fringes are drawn to so many widths of Fresnel's spread beyond the pupil's projection."""


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
    """A shadow and the thing that casts it, on cells finer than pixels, around its middle."""

    plane: Plane
    thing: Plane
    fineness: int
    half_px: int


@lru_cache(maxsize=256)
def render(particle: Particle, view: View) -> Shadow:
    """Shadow of one particle on a frame; what stays between two frames is drawn once."""
    pitch = view.pitch_um
    height_px = round(view.sensor_mm[1] * 1000.0 / pitch)
    blur = optics.blur_um(particle.height_mm, view.f_number, view.exit_pupil_mm)
    spread_sq = optics.WAVELENGTH_UM * particle.height_mm * 1000.0
    reach = max(particle.size_um * 1.2, particle.length_um) / 2 + blur / 2
    reach += _SPREAD_REACH * math.sqrt(spread_sq) + 2 * pitch
    half_px = math.ceil(reach / pitch) + 1
    fineness = _fineness(half_px, pitch, min(blur, particle.size_um))
    cell = pitch / fineness
    thing = silhouette(particle, cell, (half_px * fineness) + fineness // 2)
    pupil = _pupil(blur / cell, view.blades, view.turn_rad)
    plane = _diffracted(thing, pupil, spread_sq / cell**2, opaque=particle.opacity >= 1)
    scale = magnification(particle.height_mm, view.exit_pupil_mm)
    x = particle.x_mm * scale * 1000.0 / pitch + (view.width_px - 1) / 2
    y = particle.y_mm * scale * 1000.0 / pitch + (height_px - 1) / 2
    drawn = _Drawn(plane, thing, fineness, half_px)
    return _sampled(particle, drawn, (x, y), blur / pitch, pitch)


def _fineness(half_px: int, pitch: float, detail_um: float) -> int:
    """Odd number of cells to a pixel: a fifth of the finest detail, within memory."""
    wanted = math.ceil(pitch / max(detail_um / 5.0, 1.5))
    most = max(1, _FINEST_CELLS // max(half_px, 1))
    return max(1, min(wanted, most, 9)) | 1


def _diffracted(thing: Plane, pupil: Plane, spread_sq: float, *, opaque: bool = True) -> Plane:
    """Loss behind a thing (the share of each cell's light that it stops), in a pupil's light.

    ``spread_sq``: wavelength times height, in square cells. A cell that an opaque thing covers in
    part loses as much amplitude; what lets light through, its root. The light given back is all
    that was taken but for what the thing stops, however coarse the cells.
    """
    lost = thing if opaque else 1 - np.sqrt(np.clip(1 - thing, 0, None))
    given_back = (2 * lost.sum() - thing.sum()) / max(float((lost * lost).sum()), 1e-9)
    size = fft.next_fast_len(thing.shape[0] + pupil.shape[0], real=True)
    screen = np.zeros((size, size), np.float32)
    screen[: thing.shape[0], : thing.shape[1]] = lost
    down, along = fft.fftfreq(size)[:, None], fft.fftfreq(size)[None, :]
    phase = np.asarray(math.pi * spread_sq * (down**2 + along**2), np.float32)
    waves = fft.fft2(screen)
    spread = np.zeros((size, size), np.float32)
    for longer, weight in BANDS:
        behind = fft.ifft2(waves * np.exp(np.complex64(-1j * longer) * phase))
        spread += np.float32(weight) * (behind.real**2 + behind.imag**2)
    loss = 2 * waves * washed_cosine(phase) - np.float32(given_back) * fft.fft2(spread)
    seen = fft.ifft2(loss * _source(pupil, size)).real
    return np.asarray(seen[: thing.shape[0], : thing.shape[1]], np.float32)


def _source(pupil: Plane, size: int) -> NDArray[np.complex64]:
    """Spectrum of a pupil's projection, its middle at the first cell."""
    half = pupil.shape[0] // 2
    plane = np.zeros((size, size), np.float32)
    plane[: pupil.shape[0], : pupil.shape[1]] = pupil
    return np.asarray(fft.fft2(np.roll(plane, (-half, -half), (0, 1))), np.complex64)


@lru_cache(maxsize=64)
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
    fineness, half_px = drawn.fineness, drawn.half_px
    x, y = place
    left, top = round(x) - half_px, round(y) - half_px
    shift = np.array(
        [[1, 0, (x - round(x)) * fineness], [0, 1, (y - round(y)) * fineness]], np.float32
    )

    def on_pixels(plane: Plane) -> Plane:
        moved = cv2.warpAffine(plane, shift, plane.shape[::-1], flags=cv2.INTER_LINEAR)
        return binned(np.asarray(moved, np.float32), fineness)

    loss, thing = on_pixels(drawn.plane), on_pixels(drawn.thing)
    yy, xx = np.indices(loss.shape)
    area = max(float(thing.sum()), 1e-9)
    size = particle.size_um if particle.kind == "fibre" else math.sqrt(4 / math.pi * area) * pitch
    return Shadow(
        left=left,
        top=top,
        loss=loss,
        x_px=left + float((thing * xx).sum()) / area,
        y_px=top + float((thing * yy).sum()) / area,
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
