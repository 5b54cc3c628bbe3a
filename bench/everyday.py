"""A year of everyday pictures of one body whose dust comes and goes: are the marks found and dated?

Subjects are scikit-image's photographs, and invented skies; some pictures are bursts and tripods,
turned, or made smaller. Lenses have exit pupils and corrections of their own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.pictures import PHOTOS, photo_light
from neatpatch.core.arrivals.records import Arrivals, ArrivedSpot
from neatpatch.images.pictures import read_facts
from neatpatch.images.write import ExposureNotes, write_jpeg
from neatpatch.services.pictures.arrivals import arrivals_in
from neatpatch.simulation import Camera, Particle, scatter
from neatpatch.simulation.pictures import corrected, photograph, subject_light, toned
from neatpatch.simulation.shadows import Shadow, View, render

SENSOR_MM = (23.5, 15.6)
LENSES = ((24.0, 75.0, 0.02), (35.0, 90.0, -0.012), (50.0, 130.0, 0.0), (85.0, 180.0, 0.0))
"""Focal length, exit pupil (mm), radial term of the camera's correction."""
APERTURES = (4.0, 5.6, 8.0, 8.0, 11.0, 11.0, 16.0)


@dataclass(frozen=True)
class Truth:
    """One particle: place on the sensor in pixels, first and last picture it is in."""

    particle: Particle
    x_px: float
    y_px: float
    first: int
    last: int


@lru_cache(maxsize=4096)
def _shadow(particle: Particle, width_px: int, f_number: float, exit_pupil_mm: float) -> Shadow:
    view = View(
        sensor_mm=SENSOR_MM,
        width_px=width_px,
        f_number=f_number,
        exit_pupil_mm=exit_pupil_mm,
        blades=7,
    )
    return render(particle, view)


def _through(
    particles: Sequence[Particle], shape: tuple[int, int], f_number: float, pupil: float
) -> NDArray[np.float32]:
    through = np.ones(shape, np.float32)
    for p in particles:
        s = _shadow(p, shape[1], f_number, pupil)
        top, left = max(0, s.top), max(0, s.left)
        bottom = min(shape[0], s.top + s.loss.shape[0])
        right = min(shape[1], s.left + s.loss.shape[1])
        if top < bottom and left < right:
            through[top:bottom, left:right] *= (
                1 - s.loss[top - s.top : bottom - s.top, left - s.left : right - s.left]
            )
    return through


def make_year(
    folder: Path, count: int, seed: int, width_px: int = 1800, dust: int = 25
) -> list[Truth]:
    """Write the pictures into a folder; gives what is true."""
    rng = np.random.default_rng(seed)
    camera = Camera(width_px=width_px, sensor_mm=SENSOR_MM)
    shape = camera.height_px, camera.width_px
    particles = scatter({"speck": dust}, SENSOR_MM, 1.5, seed)
    stays = []
    for _ in particles:
        first = 0 if rng.random() < 0.3 else int(rng.integers(0, count))
        last = count - 1 if rng.random() < 0.6 else int(rng.integers(first, count))
        stays.append((first, last))
    at = datetime(2026, 1, 3, 9)
    scene: NDArray[np.float32] | None = None
    left_in_scene, burst = 0, False
    focal, pupil, radial, f_number = 50.0, 130.0, 0.0, 11.0
    for i in range(count):
        if left_in_scene > 0 and scene is not None:
            left_in_scene -= 1
            at += timedelta(seconds=1)
            light = np.roll(scene, tuple(rng.integers(-3, 4, 2)), (0, 1)) if burst else scene
            light = light * np.float32(rng.uniform(0.9, 1.1))
        else:
            at += timedelta(hours=float(rng.uniform(2, 60)))
            light = _subject(shape, int(rng.integers(1 << 30)), rng)
            burst = bool(rng.random() < 0.5)
            left_in_scene = int(rng.integers(3, 12)) if rng.random() < 0.06 else 0
            scene = light
            focal, pupil, radial = LENSES[int(rng.integers(len(LENSES)))]
            f_number = float(rng.choice(APERTURES))
        here = [p for p, (a, b) in zip(particles, stays, strict=True) if a <= i <= b]
        shot = photograph(
            camera,
            (),
            np.asarray(np.clip(light, 0.0005, 0.98), np.float32),
            f_number=f_number,
            seed=int(rng.integers(1 << 30)),
            iso=int(rng.choice([100, 400, 1600])),
        )
        through = _through(here, shape, f_number, pupil)
        shot = shot * (corrected(through, radial) if radial else through)[..., None]
        picture: NDArray[Any] = toned(shot)
        if rng.random() < 0.15:
            picture = np.rot90(picture, int(rng.choice([1, 3])))
        if rng.random() < 0.1:
            picture = cv2.resize(picture, None, fx=0.7, fy=0.7, interpolation=cv2.INTER_AREA)
        notes = ExposureNotes(
            camera=camera.name,
            f_number=f_number,
            iso=200,
            exposure_s=0.01,
            focal_length_mm=focal,
            taken_at=at.isoformat(timespec="seconds"),
        )
        write_jpeg(
            folder / f"p{i:04}.jpg", np.ascontiguousarray(picture), notes, int(rng.choice([90, 95]))
        )
    pitch = SENSOR_MM[0] / width_px
    return [
        Truth(p, p.x_mm / pitch + (width_px - 1) / 2, p.y_mm / pitch + (shape[0] - 1) / 2, a, b)
        for p, (a, b) in zip(particles, stays, strict=True)
    ]


def _subject(shape: tuple[int, int], seed: int, rng: np.random.Generator) -> NDArray[np.float32]:
    if rng.random() < 0.35:
        return subject_light(shape, seed, even=float(rng.uniform(0.3, 0.95)))
    light = photo_light(PHOTOS[int(rng.integers(len(PHOTOS)))], shape, seed, least=0.3)
    return np.ascontiguousarray(light[:, ::-1]) if rng.random() < 0.5 else light


@dataclass
class Tally:
    """Marks that should be found, found, dated rightly; marks where nothing lies; pictures."""

    wanted: int = 0
    found: int = 0
    dated: int = 0
    told: int = 0
    false: int = 0
    pictures: int = 0


_NEAR_SHARE = 0.016
"""Exit pupils move marks by so much of the picture's width, and the truth is told without one."""


def tally(year: Sequence[Truth], found: Arrivals, times: Sequence[str], total: Tally) -> None:
    """Hold what was found against the truth; ``times``: capture times in order."""
    reach = _NEAR_SHARE * found.width_px
    hit: dict[int, ArrivedSpot] = {}
    for spot in found.spots:
        off = [float(np.hypot(spot.x_px - t.x_px, spot.y_px - t.y_px)) for t in year]
        nearest = int(np.argmin(off)) if off else -1
        if nearest < 0 or off[nearest] > reach:
            total.false += 1
        else:
            hit.setdefault(nearest, spot)
    for number, truth in enumerate(year):
        deep = (truth.particle.size_um / (1500 / 16)) ** 2 >= _WANTED_DEPTH
        enough = truth.last - truth.first + 1 >= _WANTED_PICTURES
        total.wanted += deep and enough
        total.found += deep and enough and number in hit
        if number in hit:
            total.told += 1
            total.dated += _rightly(hit[number], truth, times)
    total.pictures += len(times)


_WANTED_DEPTH, _WANTED_PICTURES = 0.1, 40
"""Depth at f/16, and pictures of any aperture and content: of four some ten show it evenly."""


def _rightly(spot: ArrivedSpot, truth: Truth, times: Sequence[str]) -> bool:
    """Whether the true stay lies between the pictures named."""
    before = spot.last_without or ""
    after = spot.first_without_again or "9999"
    came = truth.first == 0 or before < times[truth.first]
    return bool(
        came
        and times[truth.first] <= (spot.first_with or "")
        and (spot.last_with or "") <= times[truth.last]
        and times[truth.last] < after
    )


def report(seeds: Sequence[int] = (3, 4), count: int = 150) -> None:
    """Print how many marks are found and dated rightly, and false ones where there is no dust."""
    if not find_spec("skimage"):
        print("arrivals: needs scikit-image (make bench installs it)")
        return
    total, clean = Tally(), Tally()
    for seed in seeds:
        _one_year(seed, count, total, dust=25)
    _one_year(9, 200, clean, dust=0)
    print(f"Arrivals, {total.pictures} everyday pictures in {len(seeds)} years")
    print(f"  marks that enough pictures could show, found: {total.found} of {total.wanted}")
    print(f"  dated rightly: {total.dated} of {total.told}; false: {total.false}")
    print(f"  false in {clean.pictures} pictures without dust: {clean.false}")


def _one_year(seed: int, count: int, total: Tally, dust: int) -> None:
    with TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "in").mkdir()
        year = make_year(folder / "in", count, seed, dust=dust)
        pictures = sorted((folder / "in").iterdir())
        times = [read_facts(p).taken_at or "" for p in pictures]
        tally(year, arrivals_in(pictures, folder / "work", SENSOR_MM), times, total)


if __name__ == "__main__":
    report()
