"""Frames of the virtual camera as files, the truth beside them."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.records import Kind
from neatpatch.images.write import ExposureNotes, write_dng, write_jpeg
from neatpatch.simulation import Camera, Particle, Shot, Target, expose, scatter
from neatpatch.simulation.camera import RAW_WHITE, developed
from neatpatch.simulation.scenes import Scene


@dataclass(frozen=True, kw_only=True)
class Recipe:
    """All that fixes a simulated frame."""

    seed: int = 1
    name: str | None = None
    sensor_mm: tuple[float, float] = (23.5, 15.6)
    width_px: int = 6000
    f_number: float = 22.0
    iso: int = 100
    stack_mm: float = 1.5
    exit_pupil_mm: float = 70.0
    blades: int = 7
    counts: Mapping[Kind, int] = field(default_factory=dict)
    texture: float = 0.0
    scene: Scene | None = None
    level: float = 0.38
    quality: int = 94
    orientation: int = 1
    taken_at: str = "2026-09-14T10:00:00"
    dng: bool = False


def write_simulated(
    recipe: Recipe, out: Path, particles: Sequence[Particle] | None = None
) -> tuple[Path, Path]:
    """Write the frame and its ``*.truth.json`` into a folder; gives both paths.

    ``particles`` replaces the random dirt, so that a body can be shot again.
    """
    camera = Camera(
        sensor_mm=recipe.sensor_mm,
        width_px=recipe.width_px // 2 * 2,
        stack_mm=recipe.stack_mm,
        blades=recipe.blades,
        exit_pupil_mm=recipe.exit_pupil_mm,
    )
    if particles is None:
        particles = scatter(recipe.counts, recipe.sensor_mm, recipe.stack_mm, recipe.seed)
    target = Target(level=recipe.level, texture=recipe.texture, scene=recipe.scene)
    shot = expose(
        camera, particles, f_number=recipe.f_number, iso=recipe.iso, seed=recipe.seed, target=target
    )
    out.mkdir(parents=True, exist_ok=True)
    name = recipe.name or f"frame-{recipe.seed}"
    path = out / f"{name}.{'dng' if recipe.dng else 'jpg'}"
    notes = ExposureNotes(
        camera=camera.name,
        f_number=recipe.f_number,
        iso=recipe.iso,
        exposure_s=1.3,
        focal_length_mm=camera.focal_length_mm,
        taken_at=recipe.taken_at,
        orientation=recipe.orientation,
    )
    if recipe.dng:
        write_dng(path, shot.mosaic, notes, RAW_WHITE)
    else:
        write_jpeg(path, developed(shot.mosaic), notes, recipe.quality)
    truth = out / f"{name}.truth.json"
    truth.write_text(json.dumps(truth_of(path.name, camera, recipe, shot), indent=1))
    return path, truth


def write_picture(path: Path, picture: NDArray[np.uint8], quality: int = 94) -> Path:
    """Write a developed picture (height, width, 3) as an invented camera's test frame at f/22."""
    notes = ExposureNotes(
        camera="Fennick Optical Judge",
        f_number=22.0,
        iso=100,
        exposure_s=1.3,
        focal_length_mm=85.0,
        taken_at="2026-09-14T10:00:00",
    )
    write_jpeg(path, np.ascontiguousarray(picture), notes, quality)
    return path


def truth_of(name: str, camera: Camera, recipe: Recipe, shot: Shot) -> dict[str, Any]:
    """What is true of a simulated frame, in the words of the practice frames' truth files."""
    return {
        "frame": name,
        "sensor_mm": list(camera.sensor_mm),
        "width_px": camera.width_px,
        "height_px": camera.height_px,
        "pitch_um": round(camera.pitch_um, 4),
        "f_number": recipe.f_number,
        "iso": recipe.iso,
        "stack_mm": camera.stack_mm,
        "exit_pupil_mm": camera.exit_pupil_mm,
        "orientation": recipe.orientation,
        "noise_per_pixel": round(shot.noise_per_pixel, 5),
        "spots": [
            {
                "id": p.name,
                "kind": "lens" if p.kind == "soft" else p.kind,
                "x_px": round(s.x_px, 4),
                "y_px": round(s.y_px, 4),
                "size_um": round(s.size_um, 4),
                "length_um": round(p.length_um, 4),
                "height_mm": p.height_mm,
                "blur_px": round(s.blur_px, 4),
                "peak": round(s.peak, 5),
                "energy": round(s.energy, 4),
                "outer_px": round(s.outer_px, 4),
                "snr": round(s.energy / shot.noise_per_pixel, 4),
            }
            for p, s in shot.shadows
        ],
        "hot_pixels": [
            {"id": f"h{i}", "kind": "hot", "x_px": x, "y_px": y}
            for i, (y, x) in enumerate(shot.hot)
        ],
    }


@dataclass(frozen=True)
class ShotFrame:
    """A frame of the virtual camera, written where it must be picked up before answering."""

    path: Path
    name: str
    note: str
    sensor_mm: tuple[float, float]
    at: str | None = None


def shoot_frame(
    camera: Camera,
    particles: Sequence[Particle],
    f_number: float,
    seed: int,
    path: Path,
    taken_at: str,
) -> None:
    """Write one test frame of the virtual camera as JPEG."""
    shot = expose(camera, particles, f_number=f_number, seed=seed)
    notes = ExposureNotes(
        camera=camera.name,
        f_number=f_number,
        iso=100,
        exposure_s=1.3,
        focal_length_mm=camera.focal_length_mm,
        taken_at=taken_at,
    )
    write_jpeg(path, developed(shot.mosaic), notes)
