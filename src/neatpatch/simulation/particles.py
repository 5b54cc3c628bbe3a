"""Made-up dirt: what lies on the filter glass, in millimetres from the sensor's centre."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import binned
from neatpatch.core.common.records import Kind

Plane = NDArray[np.float32]
_MARGIN = 0.02
_LENS_SPREAD = 0.5
"""Dust on the lens is thrown outward by the exit pupil; kept so that its shadow meets the frame."""


@dataclass(frozen=True, kw_only=True)
class Particle:
    """One thing in the light's way.

    ``x_mm``, ``y_mm``: on the sensor (array axes, origin at its centre). ``size_um``: diameter, or
    thickness of long things; ``length_um``: along them. ``opacity``: light stopped (0 to 1).
    ``height_mm``: air-equivalent height above the photosites. ``shape``: seed of its outline.
    """

    name: str
    kind: Kind
    x_mm: float
    y_mm: float
    size_um: float
    height_mm: float
    length_um: float = 0.0
    angle_rad: float = 0.0
    bend: float = 0.0
    opacity: float = 1.0
    shape: int = 0


def scatter(
    counts: Mapping[Kind, int],
    sensor_mm: tuple[float, float],
    height_mm: float,
    seed: int,
    lens_height_mm: float = 25.0,
) -> tuple[Particle, ...]:
    """Scatter particles of each kind at random over a sensor; the same seed gives the same dirt."""
    rng = np.random.default_rng(seed)
    particles: list[Particle] = []
    for kind, count in counts.items():
        for _ in range(count):
            spread = _LENS_SPREAD if kind == "soft" else 1 - 2 * _MARGIN
            x, y = ((rng.random() - 0.5) * spread * side for side in sensor_mm)
            high = lens_height_mm * float(rng.uniform(0.8, 1.4)) if kind == "soft" else height_mm
            particles.append(_one(f"p{len(particles)}", kind, x, y, high, rng))
    return tuple(particles)


def _one(
    name: str, kind: Kind, x: float, y: float, height: float, rng: np.random.Generator
) -> Particle:
    low, high = {
        "speck": (10.0, 130.0),
        "fibre": (10.0, 20.0),
        "droplet": (140.0, 320.0),
        "residue": (160.0, 420.0),
        "soft": (350.0, 900.0),
    }[kind]
    size = float(np.exp(rng.uniform(math.log(low), math.log(high))))
    length = 0.0
    if kind == "fibre":
        length = float(rng.uniform(300, 1500))
    elif kind == "residue":
        length = float(rng.uniform(1200, 4200))
    opacity = {"droplet": (0.3, 0.6), "residue": (0.02, 0.06)}.get(kind, (1.0, 1.0))
    return Particle(
        name=name,
        kind=kind,
        x_mm=x,
        y_mm=y,
        size_um=size,
        height_mm=height,
        length_um=length,
        angle_rad=float(rng.uniform(0, math.pi)),
        bend=float(rng.uniform(-0.6, 0.6)),
        opacity=float(rng.uniform(*opacity)),
        shape=int(rng.integers(1 << 30)),
    )


def silhouette(particle: Particle, cell_um: float, half_cells: int) -> Plane:
    """Loss of light in the particle's own plane, square, cells of ``cell_um``, centred."""
    if particle.kind in ("speck", "soft"):
        return _outline(particle, cell_um, half_cells)
    if particle.kind == "droplet":
        return _ring(particle, cell_um, half_cells)
    return _band(particle, cell_um, half_cells)


def _grid(cell_um: float, half_cells: int) -> tuple[Plane, Plane]:
    axis = np.arange(-half_cells, half_cells + 1, dtype=np.float32) * np.float32(cell_um)
    x, y = np.meshgrid(axis, axis)
    return x, y


def _outline(particle: Particle, cell_um: float, half_cells: int) -> Plane:
    """A ragged, somewhat long blob whose area is that of a disc of ``size_um``."""
    rng = np.random.default_rng(particle.shape)
    theta = np.linspace(0, 2 * math.pi, 72, endpoint=False)
    radius = np.ones_like(theta)
    for k in (2, 3, 4, 5):
        radius += rng.normal(0, 0.14 / k) * np.cos(k * theta + rng.uniform(0, 2 * math.pi))
    stretch = float(np.exp(rng.uniform(0, 0.35)))
    x, y = radius * np.cos(theta) * stretch, radius * np.sin(theta) / stretch
    turn = particle.angle_rad
    x, y = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
    area = 0.5 * abs(float(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1))))
    finer = 4
    # The border's own cells are filled, too: half of one on each side is taken off.
    scale = (particle.size_um / 2 / cell_um - 0.5 / finer) * math.sqrt(math.pi / area)
    points = np.stack([x * scale + half_cells, y * scale + half_cells], axis=1)
    big = np.zeros(((2 * half_cells + 1) * finer,) * 2, np.uint8)
    drawn = np.round(((points + 0.5) * finer - 0.5) * 256).astype(np.int32)
    cv2.fillPoly(big, [drawn], 255, shift=8)
    plane = binned(big.astype(np.float32), finer)
    return np.asarray(plane / 255.0 * particle.opacity, np.float32)


def _ring(particle: Particle, cell_um: float, half_cells: int) -> Plane:
    """A droplet bends light away from its rim and gathers some in its middle."""
    x, y = _grid(cell_um, half_cells)
    r = np.hypot(x, y) / (particle.size_um / 2)
    rim = np.exp(-(((r - 0.82) / 0.13) ** 2)) * particle.opacity
    middle = -0.35 * particle.opacity * np.exp(-((r / 0.35) ** 2))
    return np.asarray((rim + middle) * (r < 1.15), np.float32)


def _band(particle: Particle, cell_um: float, half_cells: int) -> Plane:
    """Fibres (sharp, opaque) and smears (a cosine across) along a bent line."""
    x, y = _grid(cell_um, half_cells)
    c, s = math.cos(particle.angle_rad), math.sin(particle.angle_rad)
    along, across = x * c + y * s, -x * s + y * c
    half = particle.length_um / 2
    bend = particle.bend * (0.5 if particle.kind == "fibre" else 0.15)
    across = across - bend * particle.length_um * ((along / half) ** 2 - 0.33) * 0.5
    ends = np.clip((half - np.abs(along)) / cell_um + 0.5, 0, 1)
    width = particle.size_um / 2
    if particle.kind == "fibre":
        slope = np.abs(bend * particle.length_um * along / half**2)
        edge = (width - np.abs(across) / np.hypot(1, slope)) / cell_um + 0.5
        return np.asarray(np.clip(edge, 0, 1) * ends * particle.opacity, np.float32)
    profile = np.cos(np.clip(across / width, -1, 1) * math.pi / 2)
    return np.asarray(profile * ends * particle.opacity, np.float32)
