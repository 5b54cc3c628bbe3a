"""Ordinary pictures of the virtual camera: any subject, with the shadows of its dust on it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import smoothed
from neatpatch.simulation.camera import Camera, photosites
from neatpatch.simulation.particles import Particle
from neatpatch.simulation.shadows import View, render

Light = NDArray[np.float32]


def subject_light(shape: tuple[int, int], seed: int, even: float = 0.3) -> Light:
    """An invented subject in linear light (height, width, 3): things of all sizes before a sky.

    ``even``: share of the height that is sky. Occluding discs whose sizes follow a power law have
    the statistics of natural pictures: A. B. Lee, D. Mumford & J. Huang, Int. J. Comput. Vis. 41,
    35 (2001).
    """
    rng = np.random.default_rng(seed)
    height, width = shape
    light = np.empty((height, width, 3), np.float32)
    slope = np.linspace(rng.uniform(0.25, 0.6), rng.uniform(0.2, 0.5), height, dtype=np.float32)
    light[:] = slope[:, None, None] * rng.uniform(0.8, 1.1, 3).astype(np.float32)
    horizon = int(height * even)
    for _ in range(int(width * 0.9)):
        radius = 0.004 * width * rng.uniform(0.001, 1) ** -0.5
        x, y = rng.uniform(0, width), rng.uniform(horizon, height * 1.05)
        if y - radius < horizon:
            y = horizon + radius + rng.uniform(0, 0.1 * height)
        colour = float(rng.uniform(0.03, 0.6)) * rng.uniform(0.6, 1.2, 3)
        cv2.circle(light, (int(x), int(y)), max(1, int(radius)), colour.tolist(), -1, cv2.LINE_AA)
    return np.clip(smoothed(light, 0.7), 0.004, 0.9)


def chart_light(shape: tuple[int, int], seed: int) -> Light:
    """An invented tide chart on linen, in linear light (height, width, 3)."""
    rng = np.random.default_rng(seed)
    height, width = shape
    weave = smoothed(rng.standard_normal(shape, np.float32), width / 900)
    paper = 1 + 0.015 * weave / weave.std()
    ink = np.full(shape, 255, np.uint8)
    pitch, begin = float(rng.uniform(0.11, 0.15)) * width, rng.uniform(0, 1, 2)
    for k in range(1, 9):
        across, down = int((k - begin[0]) * pitch), int((k - begin[1]) * pitch)
        cv2.line(ink, (across, 0), (across, height), 209, 2, cv2.LINE_AA)
        cv2.line(ink, (0, down), (width, down), 209, 2, cv2.LINE_AA)
    x = np.arange(-50, width + 50, 12)
    for level in rng.uniform(0.05, 0.95, 7):
        walk = np.cumsum(np.cumsum(rng.normal(0, 0.09, x.size)))
        y = level * height + (walk - walk.mean()) * height / 900
        coast = np.stack([x, y], axis=1).astype(np.int32)
        cv2.polylines(ink, [coast], False, int(rng.integers(64, 153)), 3, cv2.LINE_AA)
    for _ in range(90):
        at = int(rng.uniform(0, width)), int(rng.uniform(0, height))
        depth, size = str(int(rng.uniform(1, 60))), width / 2600
        cv2.putText(ink, depth, at, cv2.FONT_HERSHEY_PLAIN, 2 * size, 90, 2, cv2.LINE_AA)
    sheet = paper * smoothed(np.asarray(ink / 255, np.float32), 0.8)
    light = sheet[..., None] * np.array([0.52, 0.48, 0.40], np.float32)
    fall = np.linspace(1.0, rng.uniform(0.8, 0.95), width, dtype=np.float32)
    return np.asarray(np.clip(light * fall[None, :, None], 0.004, 0.9), np.float32)


def through_dust(
    camera: Camera, particles: Sequence[Particle], shape: tuple[int, int], f_number: float
) -> Light:
    """The share of the light that dust lets through at an aperture (height, width)."""
    height, width = shape
    view = View(
        sensor_mm=camera.sensor_mm,
        width_px=width,
        f_number=f_number,
        exit_pupil_mm=camera.exit_pupil_mm,
        blades=camera.blades,
    )
    through = np.ones((height, width), np.float32)
    for particle in particles:
        shadow = render(particle, view)
        rows, columns = shadow.loss.shape
        top, left = max(0, shadow.top), max(0, shadow.left)
        bottom, right = min(height, shadow.top + rows), min(width, shadow.left + columns)
        if top < bottom and left < right:
            through[top:bottom, left:right] *= (
                1
                - shadow.loss[
                    top - shadow.top : bottom - shadow.top, left - shadow.left : right - shadow.left
                ]
            )
    return through


def photograph(
    camera: Camera,
    particles: Sequence[Particle],
    light: Light,
    *,
    f_number: float,
    seed: int,
    iso: int = 200,
    radial: float = 0.0,
) -> Light:
    """What the camera delivers of a subject's light (height, width, 3), linear, with its dust.

    ``radial``: a lens correction in the camera moves what it delivers along the radius, by this
    share at the corners.
    """
    through = through_dust(camera, particles, (light.shape[0], light.shape[1]), f_number)
    return exposed(camera, light, corrected(through, radial) if radial else through, seed, iso)


def exposed(camera: Camera, light: Light, through: Light, seed: int, iso: int = 200) -> Light:
    """A subject's light behind what the dust lets through, with photon noise and fixed pattern."""
    shot = light * through[..., None]
    well = camera.full_well * 100 / iso
    noise = np.random.default_rng(seed).standard_normal(shot.shape, np.float32)
    noise *= np.sqrt(np.maximum(shot, 0) / np.float32(well))
    shot += noise
    shot *= photosites(camera, (through.shape[0], through.shape[1]))[0][..., None]
    return np.clip(shot, 0, 1, out=shot)


def corrected(plane: Light, radial: float, scale: float = 1.0, second: float = 0.0) -> Light:
    """A picture whose parts went to ``scale * (1 + radial * rho² + second * rho⁴)`` of their
    distance.

    ``rho``: the distance from the middle over half the diagonal.
    """
    height, width = plane.shape[:2]
    y, x = np.indices((height, width), np.float32)
    x -= np.float32((width - 1) / 2)
    y -= np.float32((height - 1) / 2)
    reach = math.hypot(height, width) / 2
    rho = (x * x + y * y) / np.float32(reach**2)
    back = np.full_like(rho, 1 / scale)
    for _ in range(6):
        far = rho * back * back
        back = 1 / (scale * (1 + far * (radial + second * far)))
    return np.asarray(
        cv2.remap(
            plane,
            x * back + np.float32((width - 1) / 2),
            y * back + np.float32((height - 1) / 2),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REFLECT,
        ),
        np.float32,
    )


def toned(light: Light, levels: int = 256) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Linear light as sRGB tones of 8 or 16 bits."""
    curve = np.asarray(cv2.pow(np.ascontiguousarray(light, np.float32), 1 / 2.4), np.float32)
    curve *= 1.055
    curve -= 0.055
    np.copyto(curve, light * np.float32(12.92), where=light <= 0.0031308)
    curve *= levels - 1
    tones = np.clip(np.rint(curve, out=curve), 0, levels - 1, out=curve)
    if levels <= 256:
        return np.asarray(tones, np.uint8)
    return np.asarray(tones, np.uint16)
