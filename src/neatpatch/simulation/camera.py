"""From shadows to a frame: light, colour filters, photon and read noise, fixed pattern.

Source of the noise model: J. R. Janesick, Photon Transfer, SPIE Press 2007, ch. 3.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache, lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import smoothed
from neatpatch.simulation.particles import Particle
from neatpatch.simulation.scenes import Scene, scene_light
from neatpatch.simulation.shadows import Shadow, View, render

RAW_WHITE = 16383
_SAMPLED = 3
"""Every third photosite each way, of all colours alike, tells the frame's middle tone."""
_FILTER_LEVELS = {"r": 0.92, "g": 1.0, "b": 0.86}


@dataclass(frozen=True, kw_only=True)
class Camera:
    """An invented body with its lens."""

    name: str = "Fennick Optical Judge 24"
    sensor_mm: tuple[float, float] = (23.5, 15.6)
    width_px: int = 6000
    stack_mm: float = 1.5
    full_well: float = 40_000.0
    read_noise: float = 4.0
    fixed_pattern: float = 0.002
    hot_pixels: int = 12
    blades: int = 7
    exit_pupil_mm: float = 70.0
    focal_length_mm: float = 85.0

    @property
    def height_px(self) -> int:
        """Rows of the frame, even."""
        return round(self.width_px * self.sensor_mm[1] / self.sensor_mm[0] / 2) * 2

    @property
    def pitch_um(self) -> float:
        """Pixel pitch in micrometres."""
        return self.sensor_mm[0] * 1000.0 / self.width_px


@dataclass(frozen=True, kw_only=True)
class Target:
    """What is pictured: brightness at the centre (share of full well), fall-off, tilt, blotches."""

    level: float = 0.38
    vignetting: float = 0.3
    tilt: float = 0.03
    blotches: float = 0.002
    texture: float = 0.0
    texture_px: float = 12.0
    cast: tuple[float, float, float] = (1.0, 1.0, 1.0)
    scene: Scene | None = None


@dataclass(frozen=True)
class Shot:
    """A frame's mosaic (14 bit, red first), the true shadows on it, and its noise per pixel."""

    mosaic: NDArray[np.uint16]
    shadows: tuple[tuple[Particle, Shadow], ...]
    noise_per_pixel: float
    hot: tuple[tuple[int, int], ...] = field(default=())


def expose(
    camera: Camera,
    particles: Sequence[Particle],
    *,
    f_number: float = 22.0,
    iso: int = 100,
    seed: int = 1,
    target: Target | None = None,
    target_seed: int | None = None,
) -> Shot:
    """Shoot. Fixed pattern and hot pixels belong to the camera; noise follows ``seed``.

    ``target_seed``: the place stood at; None for another one with every seed.
    """
    target = target or Target()
    shape = (camera.height_px, camera.width_px)
    shadows = tuple(
        (
            p,
            render(
                p,
                View(
                    sensor_mm=camera.sensor_mm,
                    width_px=camera.width_px,
                    f_number=f_number,
                    exit_pupil_mm=camera.exit_pupil_mm,
                    blades=camera.blades,
                ),
            ),
        )
        for p in particles
    )
    light = _target_light(target, shape, seed if target_seed is None else target_seed)
    for _, shadow in shadows:
        _cast(light, shadow)
    well = camera.full_well * 100.0 / iso
    electrons = np.multiply(light, np.float32(well), out=light)
    electrons *= _filters(shape, target)
    pattern, hot = photosites(camera, shape)
    signal = np.random.default_rng(seed).standard_normal(shape, np.float32)
    signal *= np.sqrt(electrons + camera.read_noise**2)
    signal += electrons
    signal *= pattern
    signal /= np.float32(well)
    for y, x in hot:
        signal[y, x] = 1.0
    signal *= RAW_WHITE
    mosaic = np.clip(np.round(signal, out=signal), 0, RAW_WHITE, out=signal).astype(np.uint16)
    middle = float(np.median(electrons[::_SAMPLED, ::_SAMPLED]))
    per_pixel = float(
        np.hypot(np.sqrt(middle + camera.read_noise**2) / middle, camera.fixed_pattern)
    )
    return Shot(mosaic, shadows, per_pixel, hot)


def hash_of(name: str) -> int:
    """A stable number for a name (the built-in hash changes with every start)."""
    value = 2166136261
    for byte in name.encode():
        value = (value ^ byte) * 16777619 % (1 << 32)
    return value


@lru_cache(maxsize=1)
def photosites(
    camera: Camera, shape: tuple[int, int]
) -> tuple[NDArray[np.float32], tuple[tuple[int, int], ...]]:
    """A body's own: the gain of each photosite, and the hot ones. Kept for its next frame."""
    body = np.random.default_rng(hash_of(camera.name))
    pattern = body.standard_normal(shape, np.float32)
    pattern *= camera.fixed_pattern
    pattern += 1
    pattern.setflags(write=False)
    ys, xs = (body.integers(0, n, camera.hot_pixels) for n in shape)
    return pattern, tuple((int(y), int(x)) for y, x in zip(ys, xs, strict=True))


def _target_light(target: Target, shape: tuple[int, int], seed: int) -> NDArray[np.float32]:
    height, width = shape
    y = np.linspace(-1, 1, height, dtype=np.float32)[:, None] * np.float32(height / width)
    x = np.linspace(-1, 1, width, dtype=np.float32)[None, :]
    radius = (x * x + y * y) / np.float32(1 + (height / width) ** 2)
    light = target.level * (1 - target.vignetting * radius) * (1 + target.tilt * (x + 0.5 * y))
    rng = np.random.default_rng(seed + 77)
    if target.blotches:
        coarse = rng.standard_normal((9, 13)).astype(np.float32)
        light *= 1 + target.blotches * cv2.resize(
            coarse, (width, height), interpolation=cv2.INTER_CUBIC
        )
    if target.texture:
        grain = rng.standard_normal((height, width)).astype(np.float32)
        grain = smoothed(grain, target.texture_px)
        light *= 1 + target.texture * grain / grain.std()
    if target.scene is not None:
        light *= scene_light(target.scene, shape, seed)
    return np.asarray(light, np.float32)


def _filters(shape: tuple[int, int], target: Target) -> NDArray[np.float32]:
    """Relative sensitivity of each photosite of a red-first colour filter array."""
    red, green, blue = (
        np.float32(level * cast)
        for level, cast in zip(_FILTER_LEVELS.values(), target.cast, strict=True)
    )
    out = np.full(shape, green, np.float32)
    out[0::2, 0::2] = red
    out[1::2, 1::2] = blue
    return out


def _cast(light: NDArray[np.float32], shadow: Shadow) -> None:
    height, width = light.shape
    rows, columns = shadow.loss.shape
    top, left = max(0, shadow.top), max(0, shadow.left)
    bottom, right = min(height, shadow.top + rows), min(width, shadow.left + columns)
    if top >= bottom or left >= right:
        return
    part = shadow.loss[
        top - shadow.top : bottom - shadow.top, left - shadow.left : right - shadow.left
    ]
    light[top:bottom, left:right] *= 1 - part


def developed(mosaic: NDArray[np.uint16]) -> NDArray[np.uint8]:
    """A camera's own picture of the mosaic: white balance, interpolation, sRGB tones, 8 bits.

    Array (height, width, 3), red first.
    """
    wide = (mosaic.astype(np.uint32) * 4).clip(0, 65535).astype(np.uint16)
    colour = np.asarray(cv2.cvtColor(wide, cv2.COLOR_BayerRG2RGB_EA)[..., ::-1], np.uint16)
    planes = [_tones(c).take(colour[..., n]) for n, c in enumerate(_FILTER_LEVELS)]
    return np.asarray(cv2.merge(planes), np.uint8)


@cache
def _tones(filter_name: str) -> NDArray[np.uint8]:
    """The sRGB tone of each of 65,536 levels behind a filter."""
    level = np.arange(65536, dtype=np.float32) / np.float32(65535.0)
    level = np.clip(level / np.float32(_FILTER_LEVELS[filter_name]), 0, 1)
    tones = np.where(level <= 0.0031308, level * 12.92, 1.055 * np.power(level, 1 / 2.4) - 0.055)
    return np.asarray(np.round(tones * 255), np.uint8)
