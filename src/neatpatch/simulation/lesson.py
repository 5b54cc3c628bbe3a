"""Frames to learn reading from: marks of every kind with their truth, and frames that are not fit.

Two frames of each lesson: between them the camera was moved, so that marks of the target lie
elsewhere in the second, and everything that belongs to the camera lies where it lay.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, get_args

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.simulation.camera import Camera, Target, developed, expose
from neatpatch.simulation.particles import Particle, scatter
from neatpatch.simulation.scenes import Scene

MarkKind = Literal["speck", "fibre", "droplet", "residue", "lens", "wall", "hot"]
MARK_KINDS: tuple[MarkKind, ...] = get_args(MarkKind)
Flaw = Literal["none", "too_bright", "too_dark", "open_aperture", "grainy", "window"]
FLAWS: tuple[Flaw, ...] = get_args(Flaw)
LESSON_CAMERA = Camera(name="Fennick Optical Primer", width_px=1200, hot_pixels=0)
_GRID = (4, 3)
_JITTER, _MOVED_PX = 0.18, 70.0
_LEAST_UM, _SHADE, _COARSER = 70.0, 4.0, 8
_LENS_LARGER = 2.2
"""Dust on the lens that a beginner is to see."""
_WALL_HEIGHT_MM, _WALL_UM, _WALL_DEPTH = 8.0, 500.0, 0.25
_MANY: tuple[MarkKind, ...] = (
    "speck", "speck", "speck", "fibre", "droplet", "residue", "lens", "wall", "hot"
)  # fmt: skip
_EXPOSURES_S: dict[Flaw, float] = {
    "too_bright": 5.5,
    "too_dark": 0.1,
    "open_aperture": 0.08,
    "grainy": 0.01,
}
Picture = NDArray[np.uint8]


@dataclass(frozen=True)
class LessonMark:
    """A mark of a lesson's first frame, in its pixels."""

    name: str
    kind: MarkKind
    x_px: float
    y_px: float


@dataclass(frozen=True)
class FlawedShot:
    """How a frame that is to be judged was shot. ``exposure_s`` is what its file says."""

    flaw: Flaw
    f_number: float
    iso: int
    exposure_s: float


def lesson_marks(seed: int) -> tuple[LessonMark, ...]:
    """Six to nine marks of all kinds, none near another; the same seed gives the same."""
    rng = np.random.default_rng(seed + 91)
    kinds = list(_MANY)
    for _ in range(int(rng.integers(0, 4))):
        kinds.pop(int(rng.integers(len(kinds))))
    cells = rng.permutation(_GRID[0] * _GRID[1])[: len(kinds)]
    size = LESSON_CAMERA.width_px / _GRID[0], LESSON_CAMERA.height_px / _GRID[1]
    found = []
    for n, (kind, cell) in enumerate(zip(kinds, cells, strict=True)):
        off = rng.uniform(-_JITTER, _JITTER, 2) + 0.5
        x, y = (cell % _GRID[0] + off[0]) * size[0], (cell // _GRID[0] + off[1]) * size[1]
        found.append(LessonMark(f"m{n}", kind, float(round(x)), float(round(y))))
    return tuple(found)


def lesson_frame(seed: int, *, second: bool) -> Picture:
    """The frame with these marks, its contrast raised; grey (height, width), 8 bits."""
    rng = np.random.default_rng(seed + 93)
    angle = float(rng.uniform(0, 2 * np.pi))
    shift = _MOVED_PX * np.array([np.cos(angle), np.sin(angle)]) if second else np.zeros(2)
    marks = lesson_marks(seed)
    dirt = [_particle(m, shift, seed) for m in marks if m.kind != "hot"]
    shot = expose(LESSON_CAMERA, dirt, f_number=22.0, seed=2 * seed + second)
    grey = cv2.cvtColor(developed(shot.mosaic), cv2.COLOR_RGB2GRAY).astype(np.float32)
    even = grey - _coarse(grey)
    raised: Picture = np.clip(150 + _SHADE * even, 0, 255).astype(np.uint8)
    for m in marks:
        if m.kind == "hot":
            raised[int(m.y_px), int(m.x_px)] = 255
    return raised


def _coarse(grey: NDArray[np.float32]) -> NDArray[np.float32]:
    """The light without the marks, blurred on a small copy: nothing fine is left in it."""
    height, width = grey.shape
    small = cv2.resize(grey, (width // _COARSER, height // _COARSER), interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(small, (0, 0), width / _COARSER / 12)
    return np.asarray(cv2.resize(soft, (width, height)), np.float32)


def _particle(mark: LessonMark, shift: NDArray[np.float64], seed: int) -> Particle:
    kind = "soft" if mark.kind == "lens" else "speck" if mark.kind == "wall" else mark.kind
    assert kind != "hot"
    [plain] = scatter(
        {kind: 1}, LESSON_CAMERA.sensor_mm, LESSON_CAMERA.stack_mm, seed + int(mark.x_px)
    )
    by = shift if mark.kind == "wall" else np.zeros(2)
    height = _WALL_HEIGHT_MM if mark.kind == "wall" else plain.height_mm
    # The exit pupil throws a shadow outward: the particle is put where its shadow falls right.
    pitch = LESSON_CAMERA.pitch_um / 1000 * (1 - height / LESSON_CAMERA.exit_pupil_mm)
    at = replace(
        plain,
        name=mark.name,
        x_mm=float((mark.x_px + by[0] - LESSON_CAMERA.width_px / 2) * pitch),
        y_mm=float((mark.y_px + by[1] - LESSON_CAMERA.height_px / 2) * pitch),
        height_mm=height,
        size_um=_shown_um(plain),
    )
    return replace(at, size_um=_WALL_UM, opacity=_WALL_DEPTH) if mark.kind == "wall" else at


def _shown_um(particle: Particle) -> float:
    """Large enough to be seen by a beginner."""
    if particle.kind == "soft":
        return _LENS_LARGER * particle.size_um
    return max(particle.size_um, _LEAST_UM) if particle.kind == "speck" else particle.size_um


def flawed_shot(seed: int) -> FlawedShot:
    """How the frame of a seed was shot: one in six is fit."""
    flaw = FLAWS[int(np.random.default_rng(seed + 97).integers(len(FLAWS)))]
    return FlawedShot(
        flaw=flaw,
        f_number=5.6 if flaw == "open_aperture" else 22.0,
        iso=12_800 if flaw == "grainy" else 100,
        exposure_s={"too_bright": 5.5, "too_dark": 0.1, "open_aperture": 0.08, "grainy": 0.01}.get(
            flaw, 1.3
        ),
    )


def flawed_frame(seed: int) -> Picture:
    """That frame as the camera developed it; (height, width, 3), 8 bits, red first."""
    how = flawed_shot(seed)
    level = {"too_bright": 1.6, "too_dark": 0.012}.get(how.flaw, 0.38)
    scene = Scene(kind="window", amplitude=0.5, size_px=40.0) if how.flaw == "window" else None
    camera = LESSON_CAMERA
    dirt = scatter({"speck": 5}, camera.sensor_mm, camera.stack_mm, seed)
    shot = expose(
        camera,
        [replace(p, size_um=max(p.size_um, _LEAST_UM)) for p in dirt],
        f_number=how.f_number,
        iso=how.iso,
        seed=seed,
        target=Target(level=level, scene=scene),
    )
    return developed(shot.mosaic)
