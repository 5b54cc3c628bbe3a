"""Everyday pictures of the virtual camera for tests: invented subjects with known dust on them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from neatpatch.core.common.records import Kind, SpotMap
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.images.write import ExposureNotes, write_jpeg
from neatpatch.simulation import Camera, Particle, scatter
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.simulation.pictures import photograph, subject_light, toned

SENSOR_MM = (23.5, 15.6)
WIDTH_PX = 1800
CAMERA = Camera(width_px=WIDTH_PX, sensor_mm=SENSOR_MM, exit_pupil_mm=90)
YEAR_COUNT, YEAR_CAME = 20, 7
"""Pictures of the shared year, and with which of them its dust came: on 22 March 2026."""
COUNTS: dict[Kind, int] = {"speck": 16, "fibre": 1, "droplet": 1}
SEED = 61

Tones = NDArray[np.uint8] | NDArray[np.uint16]


def dust(seed: int = SEED) -> tuple[Particle, ...]:
    """The dust of the body."""
    return scatter(COUNTS, SENSOR_MM, 1.5, seed)


def shot_frame(folder: Path, seed: int = SEED) -> Path:
    """Its test frame at f/22."""
    recipe = Recipe(seed=seed, width_px=WIDTH_PX, counts=COUNTS, name=f"test-{seed}")
    return write_simulated(recipe, folder, dust(seed))[0]


def map_of(folder: Path, seed: int = SEED) -> SpotMap:
    """The map of its test frame."""
    return build_map([read_frame(shot_frame(folder, seed))], MapOptions(sensor_mm=SENSOR_MM))


def picture(
    particles: Sequence[Particle],
    seed: int,
    f_number: float = 11.0,
    *,
    even: float = 0.6,
    radial: float = 0.0,
    levels: int = 256,
    camera: Camera = CAMERA,
) -> Tones:
    """A picture's tones (height, width, 3)."""
    light = subject_light((camera.height_px, camera.width_px), seed, even=even)
    return toned(
        photograph(camera, particles, light, f_number=f_number, seed=seed, radial=radial), levels
    )


def written(
    path: Path,
    tones: NDArray[np.uint8],
    f_number: float = 11.0,
    taken_at: datetime | None = None,
    *,
    quality: int = 94,
    camera: str = CAMERA.name,
    focal_length_mm: float = 35.0,
) -> Path:
    """The picture as a JPEG file with a camera's notes."""
    path.parent.mkdir(parents=True, exist_ok=True)
    at = taken_at or datetime(2026, 10, 1, 12)
    notes = ExposureNotes(
        camera=camera,
        f_number=f_number,
        iso=200,
        exposure_s=0.01,
        focal_length_mm=focal_length_mm,
        taken_at=at.isoformat(timespec="seconds"),
    )
    write_jpeg(path, np.ascontiguousarray(tones), notes, quality)
    return path


def folder_of_pictures(folder: Path, count: int = 3, seed: int = SEED) -> Path:
    """A few dusty pictures, some days apart."""
    for i in range(count):
        tones = np.asarray(picture(dust(seed), 300 + i), np.uint8)
        at = datetime(2026, 10, 1, 12) + timedelta(days=i)
        written(folder / f"p{i}.jpg", tones, taken_at=at)
    return folder


def pixels(path: Path) -> NDArray[np.uint8]:
    """A file's tones as Pillow decodes them."""
    with Image.open(path) as image:
        return np.asarray(image)


def psnr(got: NDArray[Any], wanted: NDArray[Any], full: float = 255.0) -> float:
    """Peak signal to noise in dB."""
    error = float(np.mean((got.astype(np.float64) - wanted.astype(np.float64)) ** 2))
    return float(10 * np.log10(full**2 / max(error, 1e-12)))


def specks_that_came() -> list[Particle]:
    """Four clear specks."""
    return [
        Particle(name=f"s{i}", kind="speck", x_mm=x, y_mm=y, size_um=48, height_mm=1.5, shape=i)
        for i, (x, y) in enumerate([(-6.0, -4.5), (5.0, -5.0), (-1.0, -3.0), (8.0, -2.5)])
    ]


def year_of_pictures(folder: Path, count: int, came: int) -> None:
    """Pictures of other subjects every few days; the specks come with number ``came``."""
    specks = specks_that_came()
    for i in range(count):
        tones = np.asarray(
            picture(specks if i >= came else (), 900 + i, (11.0, 16.0)[i % 2], even=0.8), np.uint8
        )
        at = datetime(2026, 3, 1, 10) + timedelta(days=3 * i)
        written(folder / f"d{i:02}.jpg", tones, (11.0, 16.0)[i % 2], at)
