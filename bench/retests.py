"""Retests as people make them: turned, cropped, made smaller, corrected, spotless, of another body.

Each is compared with its truth: whether it may be compared at all, where it lies, and the fate of
every spot, moves by themselves.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from neatpatch.core.compare.comparing_maps import compare
from neatpatch.core.compare.comparison import Comparison
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.core.sensor.registration import register_frames
from neatpatch.images.read import read_frame
from neatpatch.simulation import Camera, Particle, Shot, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture

LEAST_SNR = 20.0
GONE_REACH_PX = 30.0
"""The exit pupil moves what is gone by so much at the border; its place is told without it."""
Picture = NDArray[np.uint8]
Place = Callable[[float, float], tuple[float, float]]


@dataclass(frozen=True)
class Edit:
    """What was done to the retest's picture, and where its places went; ``inside`` its size."""

    picture: Picture
    place: Place


@dataclass
class Retests:
    """Answers over all retests, one a question.

    ``told``: sameness told, and rightly; ``accused``: told wrongly; ``laid``: comparable exactly
    where it should be; ``right``: statuses; ``moves``: truly moved of those called so;
    ``recalled``: called moved of those that moved under 3 mm; ``misplaced_px``: one a retest.
    """

    told: list[bool] = field(default_factory=list)
    accused: list[bool] = field(default_factory=list)
    laid: list[bool] = field(default_factory=list)
    right: list[bool] = field(default_factory=list)
    moves: list[bool] = field(default_factory=list)
    recalled: list[bool] = field(default_factory=list)
    misplaced_px: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


def _as_is(picture: Picture) -> Edit:
    return Edit(picture, lambda x, y: (x, y))


def _turned(turns: int) -> Callable[[Picture], Edit]:
    def edit(picture: Picture) -> Edit:
        height, width = picture.shape[:2]

        def place(x: float, y: float) -> tuple[float, float]:
            w, h = width, height
            for _ in range(turns):
                x, y, w, h = y, w - 1 - x, h, w
            return x, y

        return Edit(np.ascontiguousarray(np.rot90(picture, turns)), place)

    return edit


def _cropped(share: float, left: float, top: float) -> Callable[[Picture], Edit]:
    def edit(picture: Picture) -> Edit:
        height, width = picture.shape[:2]
        x0, y0 = int(left * width), int(top * height)
        rows, columns = int(share * height), int(share * width)
        cut = np.ascontiguousarray(picture[y0 : y0 + rows, x0 : x0 + columns])
        return Edit(cut, lambda x, y: (x - x0, y - y0))

    return edit


def _smaller(zoom: float) -> Callable[[Picture], Edit]:
    def edit(picture: Picture) -> Edit:
        size = round(picture.shape[1] * zoom), round(picture.shape[0] * zoom)
        small = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
        return Edit(
            np.asarray(small, np.uint8),
            lambda x, y: ((x + 0.5) * zoom - 0.5, (y + 0.5) * zoom - 0.5),
        )

    return edit


def _corrected(radial: float, scale: float) -> Callable[[Picture], Edit]:
    """A lens correction in the camera: places move along the radius."""

    def edit(picture: Picture) -> Edit:
        height, width = picture.shape[:2]
        cx, cy = (width - 1) / 2, (height - 1) / 2
        reach = math.hypot(width, height) / 2

        def place(x: float, y: float) -> tuple[float, float]:
            dx, dy = x - cx, y - cy
            grow = scale * (1 + radial * (dx * dx + dy * dy) / reach**2)
            return cx + grow * dx, cy + grow * dy

        yy, xx = np.mgrid[:height, :width].astype(np.float32)
        dx, dy = xx - np.float32(cx), yy - np.float32(cy)
        r = np.hypot(dx, dy)
        source = r / np.float32(scale)
        for _ in range(6):
            source = r / (np.float32(scale) * (1 + np.float32(radial) * (source / reach) ** 2))
        back = source / np.maximum(r, 1e-6)
        warped = cv2.remap(
            picture, cx + back * dx, cy + back * dy, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
        )
        return Edit(np.asarray(warped, np.uint8), place)

    return edit


@dataclass(frozen=True)
class Retest:
    """A way a retest comes about. ``same``: of one sensor; ``spotless``: cleaned to the last."""

    name: str
    edit: Callable[[Picture], Edit]
    same: bool = True
    spotless: bool = False
    as_maps: bool = False


RETESTS = (
    Retest("as it is", _as_is),
    Retest("spotless", _as_is, spotless=True),
    Retest("upside down", _turned(2)),
    Retest("turned left, spotless", _turned(1), spotless=True),
    Retest("turned right", _turned(3)),
    Retest("cropped", _cropped(0.6, 0.23, 0.11)),
    Retest("cropped, spotless", _cropped(0.7, 0.05, 0.2), spotless=True),
    Retest("made smaller", _smaller(0.7)),
    Retest("corrected inwards", _corrected(-0.03, 1.02)),
    Retest("corrected outwards", _corrected(0.02, 0.99)),
    Retest("another body", _as_is, same=False),
    Retest("maps alone", _as_is, as_maps=True),
    Retest("maps alone, upside down", _turned(2), as_maps=True),
    Retest("maps alone, of two bodies", _as_is, same=False, as_maps=True),
)


def run_retests(folder: Path, seed: int, count: int = 2) -> Retests:
    """Every kind of retest for ``count`` bodies."""
    total = Retests()
    for number in range(count):
        rng = np.random.default_rng(seed + number)
        camera = Camera(
            name=f"Fennick Optical Judge {seed + number}",
            width_px=(3000, 4200)[number % 2],
            exit_pupil_mm=float(rng.uniform(60, 120)),
        )
        dirt = scatter(
            {"speck": 34, "fibre": 3, "droplet": 4}, camera.sensor_mm, 1.5, seed + number
        )
        before = expose(camera, dirt, seed=seed + number)
        path = write_picture(folder / "before.jpg", developed(before.mosaic))
        for kind in RETESTS:
            _add(total, kind, path, before, camera, dirt, rng)
    return total


def _later(
    kind: Retest, dirt: Sequence[Particle], camera: Camera, rng: np.random.Generator
) -> tuple[Particle, ...]:
    """About half gone, any three moved by some tenths of a millimetre to three, three new."""
    if kind.spotless:
        return ()
    if not kind.same:
        return scatter(
            {"speck": 34, "droplet": 3}, camera.sensor_mm, 1.5, int(rng.integers(1 << 30))
        )
    kept = [p for p in dirt if rng.random() > 0.45]
    specks = [i for i, p in enumerate(kept) if p.kind == "speck"]
    for i in (int(n) for n in rng.permutation(specks)[:3]):
        turn, far = float(rng.uniform(0, 6.28)), float(rng.uniform(0.3, 3.0))
        x = kept[i].x_mm + far * math.cos(turn)
        y = kept[i].y_mm + far * math.sin(turn)
        half = [0.47 * side for side in camera.sensor_mm]
        kept[i] = replace(
            kept[i],
            name=f"{kept[i].name}-moved",
            x_mm=float(np.clip(x, -half[0], half[0])),
            y_mm=float(np.clip(y, -half[1], half[1])),
        )
    fresh = scatter({"speck": 3}, camera.sensor_mm, 1.5, int(rng.integers(1 << 30)))
    return (*kept, *(replace(p, name=f"new-{p.name}") for p in fresh))


def _add(
    total: Retests,
    kind: Retest,
    before_path: Path,
    before: Shot,
    camera: Camera,
    dirt: Sequence[Particle],
    rng: np.random.Generator,
) -> None:
    body = replace(camera, exit_pupil_mm=float(rng.uniform(60, 120)))
    if not kind.same:
        body = replace(body, name=f"{camera.name} II")
    shot = expose(body, _later(kind, dirt, camera, rng), seed=int(rng.integers(1 << 30)))
    edit = kind.edit(developed(shot.mosaic))
    after_path = write_picture(before_path.with_name("after.jpg"), edit.picture)
    frames = read_frame(before_path), read_frame(after_path)
    maps = [build_map(f, MapOptions(sensor_mm=camera.sensor_mm)) for f in frames]
    told = None if kind.as_maps else register_frames(*frames)
    found = compare(maps[0], maps[1], told)
    if not kind.as_maps:
        total.told.append(found.same_sensor is kind.same)
        total.accused.append(found.same_sensor is (not kind.same))
    wanted = kind.same
    total.laid.append(found.comparable is wanted)
    if found.comparable is not wanted or (not kind.as_maps and total.accused[-1]):
        total.wrong.append(f"{kind.name}: {found.same_sensor} {found.fingerprint} {found.why_not}")
    if found.comparable and wanted:
        _judge(total, found, before, shot, edit)


def _judge(total: Retests, found: Comparison, before: Shot, after: Shot, edit: Edit) -> None:
    height, width = edit.picture.shape[:2]
    names = {p.name for p, _ in after.shadows}
    later = {p.name: edit.place(s.x_px, s.y_px) for p, s in after.shadows}
    earlier = {p.name: edit.place(s.x_px, s.y_px) for p, s in before.shadows}
    errors = []

    def status_at(x: float, y: float, statuses: Sequence[str]) -> set[str]:
        return {
            s.status
            for s in found.spots
            if s.status in statuses and math.hypot(s.x_px - x, s.y_px - y) < GONE_REACH_PX
        }

    for particle, shadow in before.shadows:
        if shadow.energy < LEAST_SNR * before.noise_per_pixel or particle.kind != "speck":
            continue
        x, y = earlier[particle.name]
        if not (12 < x < width - 12 and 12 < y < height - 12):
            continue
        if particle.name in names:
            total.right.append("stayed" in status_at(*later[particle.name], ("stayed",)))
            continue
        moved_to = later.get(f"{particle.name}-moved")
        if moved_to is None:
            total.right.append(bool(status_at(x, y, ("gone",))))
            continue
        if not (12 < moved_to[0] < width - 12 and 12 < moved_to[1] < height - 12):
            continue
        called = bool(status_at(*moved_to, ("moved",)))
        total.right.append(called)
        total.recalled.append(called)
    for spot in found.spots:
        if spot.status == "moved":
            near = [
                n for n, (x, y) in later.items() if math.hypot(spot.x_px - x, spot.y_px - y) < 8
            ]
            total.moves.append(any(n.endswith("-moved") for n in near))
        if spot.status == "stayed":
            near_by = min(
                (math.hypot(spot.x_px - x, spot.y_px - y) for x, y in later.values()), default=9.0
            )
            errors.append(near_by)
    if errors:
        total.misplaced_px.append(float(np.median(errors)))
