"""Dust cast on real photographs, and taken out again: against the clean originals.

The photographs are those that scikit-image brings along. Every picture is patched through the
command line's own path, file to file, and compared inside the shadows with its clean original.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from neatpatch.core.common.records import SpotMap
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame
from neatpatch.images.transfer import srgb_curve
from neatpatch.images.write import ExposureNotes, write_jpeg
from neatpatch.services.pictures.patching import Patching, patch_all
from neatpatch.simulation import Camera, Particle, scatter
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.simulation.pictures import corrected, photograph, toned
from neatpatch.simulation.shadows import View, render

PHOTOS = (
    "astronaut.png",
    "coffee.png",
    "chelsea.png",
    "rocket.jpg",
    "retina.jpg",
    "hubble_deep_field.jpg",
    "motorcycle_left.png",
    "gravel.png",
)
SENSOR_MM = (23.5, 15.6)
COUNTS = {"speck": 30, "fibre": 2, "droplet": 2, "residue": 1}
Tones = NDArray[np.uint8]
_VISIBLE = 0.01
_INSIDE = 0.005


def photo_light(
    name: str, shape: tuple[int, int], seed: int, least: float = 1.0
) -> NDArray[np.float32]:
    """A photograph's linear light, cut to the proportion and enlarged to (height, width).

    ``least``: share of its width that is taken at least.
    """
    package: Any = import_module("skimage")
    path = Path(package.__file__).parent / "data" / name
    tones = np.asarray(Image.open(path).convert("RGB"))
    height, width = shape
    rows, columns = tones.shape[:2]
    rng = np.random.default_rng(seed)
    wide = int(min(columns, int(rows * width / height)) * rng.uniform(least, 1))
    high = int(wide * height / width)
    x, y = int(rng.integers(0, columns - wide + 1)), int(rng.integers(0, rows - high + 1))
    part = srgb_curve(256)[tones[y : y + high, x : x + wide]]
    large = cv2.resize(part, (width, height), interpolation=cv2.INTER_CUBIC)
    return np.asarray(np.clip(large, 0.0005, 0.98), np.float32)


@dataclass(frozen=True)
class Way:
    """How a picture reached the desk after the camera wrote it."""

    name: str
    turn: int = 0
    zoom: float = 1.0
    cut: tuple[float, float, float, float] | None = None
    radial: float = 0.0
    quality: int = 94


WAYS = (
    Way("as it was"),
    Way("lens corrected 2 %", radial=0.02),
    Way("lens corrected -1.5 %", radial=-0.015),
    Way("turned a quarter", turn=1),
    Way("upside down", turn=2),
    Way("resized to 60 %", zoom=0.6),
    Way("cut out", cut=(0.2, 0.15, 0.9, 0.95)),
    Way("JPEG quality 85", quality=85),
)


def _sent(plane: NDArray[Any], way: Way) -> NDArray[Any]:
    out = np.rot90(plane, way.turn)
    if way.cut:
        left, top, right, bottom = way.cut
        h, w = out.shape[:2]
        out = out[int(top * h) : int(bottom * h), int(left * w) : int(right * w)]
    if way.zoom != 1:
        size = round(out.shape[1] * way.zoom), round(out.shape[0] * way.zoom)
        out = cv2.resize(np.ascontiguousarray(out), size, interpolation=cv2.INTER_AREA)
    return np.ascontiguousarray(out)


@dataclass(frozen=True)
class Score:
    """One shadow in one picture: PSNR in dB inside it, by ways of doing."""

    ours: float
    dusty: float
    divided: float
    painted: float


@dataclass(frozen=True)
class Patched:
    """One picture's scores; ``changed``: pixels changed outside of shadows and their blocks."""

    way: str
    photo: str
    scores: tuple[Score, ...]
    changed: int
    why_not: str | None


def _psnr(got: Tones, wanted: Tones, inside: NDArray[np.bool_]) -> float:
    off = (got.astype(np.float64) - wanted.astype(np.float64))[inside]
    return float(10 * np.log10(255**2 / max(float(np.mean(off**2)), 1e-9)))


def _through(
    camera: Camera, particle: Particle, f_number: float
) -> tuple[NDArray[np.float32], float]:
    """What one particle lets through, over the whole frame, and its peak loss."""
    view = View(
        sensor_mm=camera.sensor_mm,
        width_px=camera.width_px,
        f_number=f_number,
        exit_pupil_mm=camera.exit_pupil_mm,
        blades=camera.blades,
    )
    shadow = render(particle, view)
    whole = np.zeros((camera.height_px + 800, camera.width_px + 800), np.float32)
    top, left = shadow.top + 400, shadow.left + 400
    rows, columns = shadow.loss.shape
    part = whole[max(0, top) : top + rows, max(0, left) : left + columns]
    part[:] = shadow.loss[: part.shape[0], : part.shape[1]]
    return whole[400:-400, 400:-400], shadow.peak


def one_picture(
    spot_map: SpotMap,
    particles: Sequence[Particle],
    way: Way,
    photo: str,
    seed: int,
    folder: Path,
) -> Patched:
    """Cast, write, patch, and score one picture."""
    rng = np.random.default_rng(seed)
    f_number = float(rng.choice([8.0, 9.0, 11.0, 13.0, 16.0]))
    camera = Camera(
        width_px=spot_map.frames[0].width_px,
        sensor_mm=SENSOR_MM,
        exit_pupil_mm=float(rng.uniform(60, 200)),
    )
    shape = camera.height_px, camera.width_px
    light = photo_light(photo, shape, seed)
    dusty, clean = (
        _sent(
            toned(photograph(camera, p, light, f_number=f_number, seed=seed, radial=way.radial)),
            way,
        )
        for p in (particles, ())
    )
    notes = ExposureNotes(
        camera=camera.name,
        f_number=f_number,
        iso=200,
        exposure_s=0.01,
        focal_length_mm=float(rng.integers(18, 200)),
        taken_at="2026-10-01T12:00:00",
    )
    source, target = folder / "dusty.jpg", folder / "out" / "patched.jpg"
    target.unlink(missing_ok=True)
    write_jpeg(source, dusty, notes, way.quality)
    before = np.asarray(Image.open(source))
    ((_, done),) = patch_all(Patching(spot_map=spot_map), [(source, target)])
    after = np.asarray(Image.open(target)) if done.out else before
    return Patched(
        way.name,
        photo,
        *_scored(camera, particles, f_number, way, (before, after, clean)),
        done.why_not,
    )


def _scored(
    camera: Camera,
    particles: Sequence[Particle],
    f_number: float,
    way: Way,
    pictures: tuple[Tones, Tones, Tones],
) -> tuple[tuple[Score, ...], int]:
    before, after, clean = pictures
    curve = srgb_curve(256)
    total = np.zeros(before.shape[:2], np.float32)
    masks = []
    for particle in particles:
        loss, peak = _through(camera, particle, f_number)
        sent = _sent(corrected(loss, way.radial) if way.radial else loss, way)
        total = 1 - (1 - total) * (1 - sent)
        if peak < _VISIBLE:
            continue
        inside = sent > max(_INSIDE, 0.02 * peak)
        if inside.sum() > 20:
            masks.append(inside)
    divided = toned(np.clip(curve[before] / np.maximum(1 - total, 0.05)[..., None], 0, 1))
    painted = cv2.inpaint(before, (total > _INSIDE).astype(np.uint8), 5, cv2.INPAINT_TELEA)
    scores = tuple(
        Score(*(_psnr(got, clean, m) for got in (after, before, divided, painted)))  # type: ignore[arg-type]
        for m in masks
    )
    near = cv2.dilate((total > 1e-4).astype(np.uint8), np.ones((33, 33), np.uint8)) > 0
    changed = int(((before != after).any(axis=2) & ~near).sum())
    return scores, changed


def run(seeds: Sequence[int], width_px: int = 2400) -> Iterator[Patched]:
    """All photographs, the ways in turn, for every seed."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for seed in seeds:
            particles = scatter(COUNTS, SENSOR_MM, 1.5, seed)  # type: ignore[arg-type]
            recipe = Recipe(seed=seed, width_px=width_px, counts=COUNTS, name=f"map-{seed}")  # type: ignore[arg-type]
            frame, _ = write_simulated(recipe, folder, particles)
            spot_map = build_map([read_frame(frame)], MapOptions(sensor_mm=SENSOR_MM))
            for index, photo in enumerate(PHOTOS):
                way = WAYS[(index + seed) % len(WAYS)]
                yield one_picture(spot_map, particles, way, photo, 100 * seed + index, folder)


def report(seeds: Sequence[int] = (1, 2, 3, 4), verbose: bool = False) -> None:
    """Print the table."""
    if not find_spec("skimage"):
        print("patching: needs scikit-image (make bench installs it)")
        return
    done = list(run(seeds))
    scores = [s for p in done for s in p.scores]
    print(f"Patching, {len(done)} pictures, {len(scores)} shadows: dB inside the shadows, median")
    for p in done if verbose else []:
        ours, dusty = (np.median([getattr(s, n) for s in p.scores]) for n in ("ours", "dusty"))
        print(
            f"  {p.photo:22} {p.way:22} {ours:5.1f} from {dusty:5.1f}  {p.changed}  "
            f"{p.why_not or ''}"
        )
    for name in ("ours", "dusty", "divided", "painted"):
        print(f"  {name:8} {np.median([getattr(s, name) for s in scores]):5.1f}")
    worse = np.mean([s.ours < s.dusty - 0.1 for s in scores])
    below = sum(np.median([s.ours - s.dusty for s in p.scores]) < -0.05 for p in done if p.scores)
    print(f"  shadows made worse {100 * worse:.1f} %; pictures below the dusty one: {below}")
    print(f"  pixels changed elsewhere: {sum(p.changed for p in done)}")
    for way in WAYS:
        mine = [s for p in done if p.way == way.name for s in p.scores]
        left = sum(p.why_not is not None for p in done if p.way == way.name)
        if mine:
            ours, dusty = (np.median([getattr(s, n) for s in mine]) for n in ("ours", "dusty"))
            print(f"  {way.name:22} {ours:5.1f} from {dusty:5.1f}   refused {left}")


if __name__ == "__main__":
    report(verbose=True)
