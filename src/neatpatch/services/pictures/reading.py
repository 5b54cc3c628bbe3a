"""Everyday pictures read for what they say of dust, two at a time, each kept in its own file."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from pathlib import Path

import numpy as np

from neatpatch.core.arrivals.picture_scores import (
    GRID_PX,
    PictureScores,
    lens_at,
    on_grid,
    scores_of,
)
from neatpatch.core.arrivals.scenes import SceneKey, scene_key_of
from neatpatch.core.common.errors import NeatPatchError
from neatpatch.core.common.frame import FrameFacts
from neatpatch.core.pictures.skipped import SkippedPicture
from neatpatch.images.pictures import read_facts, read_glance
from neatpatch.services.pictures.file_facts import read_all_facts

Report = Callable[[int, int, str], None]
"""Called with how many of how many are done, and of what."""

_AT_ONCE = 2
_SAME_SHAPE = 0.012


@dataclass(frozen=True)
class ReadPicture:
    """One picture as read: facts, few cells, and the file with what it says."""

    path: str
    facts: FrameFacts
    glance: SceneKey | None
    kept: Path | None
    why: str = ""


@dataclass(frozen=True)
class _Task:
    path: Path
    kept: Path
    shape: tuple[int, int]
    sensor_width_mm: float | None


def facts_of(
    pictures: Sequence[Path], report: Report
) -> tuple[list[FrameFacts], list[SkippedPicture]]:
    """What the files tell, without decoding them; those without aperture or time are skipped."""
    return read_all_facts(
        pictures, read_facts, lambda done, total: report(done, total, "looked into"), _lacking
    )


def _lacking(facts: FrameFacts) -> str:
    if facts.f_number is None:
        return "its file does not tell the aperture, so what it could show is unknown."
    if facts.taken_at is None:
        return "its file does not tell when it was taken."
    return ""


def of_one_camera(
    facts: Sequence[FrameFacts],
) -> tuple[list[FrameFacts], list[SkippedPicture], tuple[int, int]]:
    """The pictures of the commonest camera and shape, the others as skipped, the largest size."""
    skipped, kept = [], []
    cameras = Counter(f.camera for f in facts if f.camera)
    serials = Counter(f.serial for f in facts if f.serial)
    camera = cameras.most_common(1)[0][0] if cameras else None
    serial = serials.most_common(1)[0][0] if serials else ""
    mine = []
    for f in facts:
        if (f.camera or camera) != camera or (f.serial or serial) != serial:
            why = f"It was taken with {f.camera or 'another camera'}, most others with {camera}."
            skipped.append(SkippedPicture(path=f.path, why=why))
        else:
            mine.append(f)
    if not mine:
        return [], skipped, (0, 0)
    ratio = Counter(round(_proportion(f), 2) for f in mine).most_common(1)[0][0]
    for f in mine:
        if abs(_proportion(f) / ratio - 1) > _SAME_SHAPE:
            why = "It is cut out: its shape is not that of the other pictures."
            skipped.append(SkippedPicture(path=f.path, why=why))
        else:
            kept.append(f)
    largest = max(kept, key=lambda f: (f.width_px * f.height_px, f.width_px))
    sides = largest.height_px, largest.width_px
    return kept, skipped, (min(sides), max(sides)) if _lying(kept) else (max(sides), min(sides))


def _proportion(facts: FrameFacts) -> float:
    sides = facts.width_px, facts.height_px
    return max(sides) / min(sides)


def _lying(facts: Sequence[FrameFacts]) -> bool:
    """Whether most pictures lie: sensors are as their unturned pictures are."""
    return sum(f.width_px >= f.height_px for f in facts) * 2 >= len(facts)


def grid_of(whole: tuple[int, int]) -> tuple[int, int]:
    """The common size (height, width) that pictures of this size are brought to."""
    zoom = min(1.0, GRID_PX / max(whole))
    return max(1, round(whole[0] * zoom)), max(1, round(whole[1] * zoom))


def read_all(
    facts: Sequence[FrameFacts],
    workplace: Path,
    whole: tuple[int, int],
    sensor_mm: tuple[float, float] | None,
    report: Report,
) -> list[ReadPicture]:
    """Read all pictures, those read before from their files; what is wrong is in ``why``."""
    workplace.mkdir(parents=True, exist_ok=True)
    grid = grid_of(whole)
    width = max(sensor_mm) if sensor_mm else None
    reads = []
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        reading = pool.map(lambda f: _read(f, workplace, grid, width), facts)
        for count, read in enumerate(reading, start=1):
            reads.append(read)
            report(count, len(facts), "read")
    return reads


def _task(
    facts: FrameFacts, workplace: Path, grid: tuple[int, int], width_mm: float | None
) -> _Task:
    path = Path(facts.path)
    stat = path.stat()
    key = f"{path.resolve()}|{stat.st_size}|{stat.st_mtime_ns}|{grid}|{width_mm}"
    return _Task(path, workplace / f"{sha256(key.encode()).hexdigest()[:32]}.npz", grid, width_mm)


def _read(
    known: FrameFacts, workplace: Path, grid: tuple[int, int], width_mm: float | None
) -> ReadPicture:
    """Decode, work out what the picture says, keep it. One that vanished meanwhile says so."""
    path = Path(known.path)
    try:
        task = _task(known, workplace, grid, width_mm)
        light, facts = read_glance(task.path, 2 * GRID_PX)
        lying = light.shape[1] >= light.shape[0]
        shape = task.shape if lying == (task.shape[1] >= task.shape[0]) else task.shape[::-1]
        light = on_grid(light, shape)
        taken = datetime.fromisoformat(facts.taken_at or "")
        if not task.kept.exists():
            assert facts.f_number is not None
            lens = lens_at(facts.f_number, task.sensor_width_mm, max(task.shape))
            _keep(scores_of(light, lens), task.kept)
        return ReadPicture(str(task.path), facts, scene_key_of(light, taken), task.kept)
    except NeatPatchError as error:
        return ReadPicture(str(path), _no_facts(path), None, None, str(error))
    except OSError as error:
        why = f"it could not be read: {error.strerror or error}."
        return ReadPicture(str(path), _no_facts(path), None, None, why)


def _no_facts(path: Path) -> FrameFacts:
    return FrameFacts(path=str(path), width_px=1, height_px=1)


def _keep(scores: PictureScores, path: Path) -> None:
    beside = path.with_suffix(".part")
    with beside.open("wb") as stream:
        np.savez_compressed(
            stream, scores=scores.scores, foretold=scores.foretold, unit=scores.unit
        )
    beside.replace(path)


def cached_scores(path: Path) -> PictureScores:
    """Load cached scores from their file."""
    with np.load(path) as parts:
        return PictureScores(parts["scores"], parts["foretold"], float(parts["unit"]))
