"""What people point a test frame at: clouds, lamps, screens, walls, paper, windows.

Each scene is the light it sends, relative to an even target of the same tone, as an array (height,
width). Amplitudes are shares of that tone, lengths are pixels. The same seed gives the same scene.
Cloud-like fields are noise whose power falls with frequency, by spectral synthesis: D. Saupe in
H.-O. Peitgen & D. Saupe (eds), The Science of Fractal Images, Springer 1988, ch. 2.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.filters import smoothed

Light = NDArray[np.float32]
SceneKind = Literal[
    "clouds",
    "edged_clouds",
    "led_rows",
    "led_columns",
    "screen",
    "lamp_glow",
    "falloff",
    "tilt",
    "wall",
    "paper",
    "window",
]


@dataclass(frozen=True, kw_only=True)
class Scene:
    """One thing pictured. ``amplitude``: share of the tone; ``size_px``: period, blob or edge."""

    kind: SceneKind
    amplitude: float
    size_px: float = 0.0
    angle_rad: float = 0.0


def scene_light(scene: Scene, shape: tuple[int, int], seed: int) -> Light:
    """Relative light of a scene, 1 where it is like an even target. Never below a hundredth."""
    light = _DRAWN[scene.kind](scene, shape, np.random.default_rng(seed + 177))
    return np.asarray(np.maximum(light, 0.01), np.float32)


Draw = Callable[[Scene, tuple[int, int], np.random.Generator], Light]


def _axes(shape: tuple[int, int]) -> tuple[Light, Light]:
    height, width = shape
    y = np.linspace(-1, 1, height, dtype=np.float32)[:, None]
    x = np.linspace(-1, 1, width, dtype=np.float32)[None, :]
    return y, x


def _cloud_field(shape: tuple[int, int], size_px: float, rng: np.random.Generator) -> Light:
    """Noise of unit spread whose power falls as the cube of frequency, with none below a size."""
    step = max(1, int(size_px / 8))
    small = max(8, shape[0] // step + 2), max(8, shape[1] // step + 2)
    spectrum = np.fft.rfft2(rng.standard_normal(small))
    fy, fx = np.fft.fftfreq(small[0]), np.fft.rfftfreq(small[1])
    frequency = np.maximum(np.hypot(fy[:, None], fx[None, :]), 1.0 / max(small))
    cut = np.exp(-((frequency * size_px / step) ** 2) / 2)
    field = np.fft.irfft2(spectrum * frequency**-1.5 * cut, s=small)
    field = (field - field.mean()) / field.std()
    return np.asarray(
        cv2.resize(field.astype(np.float32), shape[::-1], interpolation=cv2.INTER_CUBIC), np.float32
    )


def _clouds(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    return np.asarray(1 + scene.amplitude * _cloud_field(shape, scene.size_px, rng), np.float32)


def _edged_clouds(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    field = _cloud_field(shape, max(shape) / 12, rng)
    slope = float(np.median(np.abs(np.diff(field[:: max(1, shape[0] // 400)], axis=1)))) + 1e-6
    edge = 1 / (1 + np.exp(-field / (slope * scene.size_px)))
    return np.asarray(1 - scene.amplitude * edge, np.float32)


def _led(scene: Scene, along: Light, count: int, rng: np.random.Generator) -> Light:
    """A lamp's ripple is rectified mains: a strong tone and a weaker one of twice the pitch."""
    place = (along + 1) / 2 * count
    phase = float(rng.uniform(0, 2 * math.pi))
    wave = np.sin(2 * math.pi * place / scene.size_px + phase)
    second = 0.25 * np.sin(4 * math.pi * place / scene.size_px + 1.7 * phase)
    return np.asarray(1 + scene.amplitude * (wave + second) / 1.25, np.float32)


def _led_rows(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    rows = _led(scene, _axes(shape)[0], shape[0], rng)
    return np.asarray(np.broadcast_to(rows, shape), np.float32).copy()


def _led_columns(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    columns = _led(scene, _axes(shape)[1], shape[1], rng)
    return np.asarray(np.broadcast_to(columns, shape), np.float32).copy()


def _screen(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    """Two crossing waves whose period drifts over the frame, as a lens and a tilt make them."""
    y, x = (v * n / 2 for v, n in zip(_axes(shape), shape, strict=True))
    drift = 1 + 0.01 * (x / shape[1]) + 0.01 * (y / shape[0])
    c, s = math.cos(scene.angle_rad), math.sin(scene.angle_rad)
    turn = 2 * math.pi / scene.size_px
    along = np.sin(turn * drift * (c * x + s * y) + float(rng.uniform(0, 6)))
    across = np.sin(turn * 1.13 * drift * (-s * x + c * y) + float(rng.uniform(0, 6)))
    return np.asarray(1 + scene.amplitude * (along + 0.6 * across) / 1.6, np.float32)


def _lamp_glow(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    """A lamp beside the wall: bright towards one corner or side, falling as a Lorentz curve."""
    y, x = _axes(shape)
    at_x, at_y = (float(rng.choice([-1, 1])) * float(rng.uniform(0.7, 1.2)) for _ in range(2))
    away = ((x - at_x) * shape[1]) ** 2 + ((y - at_y) * shape[0]) ** 2
    glow = 1 / (1 + away / (2 * scene.size_px) ** 2) ** 1.5
    return np.asarray(1 + scene.amplitude * glow, np.float32)


def _falloff(scene: Scene, shape: tuple[int, int], _rng: np.random.Generator) -> Light:
    """The fourth power of the cosine, so wide that the corners lose ``amplitude`` of the light."""
    y, x = _axes(shape)
    ratio = shape[0] / shape[1]
    r2 = (x * x + y * y * ratio * ratio) / (1 + ratio * ratio)
    wide = (1 - scene.amplitude) ** -0.5 - 1
    return np.asarray((1 + wide * r2) ** -2, np.float32)


def _tilt(scene: Scene, shape: tuple[int, int], _rng: np.random.Generator) -> Light:
    y, x = _axes(shape)
    slope = math.cos(scene.angle_rad) * x + math.sin(scene.angle_rad) * y
    return np.asarray(1 + scene.amplitude * slope, np.float32)


def _wall(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    """Plaster: grains of some sizes, lit from the side."""
    field = np.zeros(shape, np.float32)
    for zoom, weight in ((0.6, 0.6), (1.0, 1.0), (2.5, 0.7)):
        grain = smoothed(rng.standard_normal(shape, np.float32), scene.size_px * zoom / 2)
        relief = grain - np.roll(grain, (2, 3), axis=(0, 1))
        field += weight * relief / relief.std()
    return np.asarray(1 + scene.amplitude * field / field.std(), np.float32)


def _paper(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    """Fibres lying every way, a little more along one direction."""
    noise = rng.standard_normal(shape, np.float32)
    field = np.zeros(shape, np.float32)
    for angle in (0.2, 0.9, 1.6, 2.5):
        length = int(scene.size_px * 4) | 1
        kernel = np.zeros((length, length), np.float32)
        half = length // 2
        step = (round(half * math.cos(angle)), round(half * math.sin(angle)))
        ends = (half - step[0], half - step[1]), (half + step[0], half + step[1])
        cv2.line(kernel, *ends, 1.0, max(1, int(scene.size_px / 3)))
        field += cv2.filter2D(np.roll(noise, int(angle * 997), 1), -1, kernel / kernel.sum())
    return np.asarray(1 + scene.amplitude * field / field.std(), np.float32)


def _window(scene: Scene, shape: tuple[int, int], rng: np.random.Generator) -> Light:
    """A frame's bars, out of focus by ``size_px``, before a bright sky."""
    height, width = shape
    light = np.ones(shape, np.float32)
    bar = max(8, width // 24)
    left, top = int(width * rng.uniform(0.25, 0.7)), int(height * rng.uniform(0.25, 0.7))
    light[:, left : left + bar] = 1 - scene.amplitude
    light[top : top + bar // 2, :] = 1 - scene.amplitude
    return smoothed(light, scene.size_px)


_DRAWN: dict[SceneKind, Draw] = {
    "clouds": _clouds,
    "edged_clouds": _edged_clouds,
    "led_rows": _led_rows,
    "led_columns": _led_columns,
    "screen": _screen,
    "lamp_glow": _lamp_glow,
    "falloff": _falloff,
    "tilt": _tilt,
    "wall": _wall,
    "paper": _paper,
    "window": _window,
}
