"""What runs in the worker process: untrusted bytes are decoded here, where they can be killed."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Literal

from neatpatch.core.errors import NeatPatchError
from neatpatch.core.virtual_camera import Camera, Particle
from neatpatch.demo.archive import DemoFrame, shoot_frame, shoot_frames
from neatpatch.demo.visits import live_through

Emit = Callable[[object], None]


@dataclass(frozen=True)
class MapTask:
    """Measure one original, or a series of it and ``more``, and write its tiles."""

    original: Path
    name: str
    derived: Path
    sensor_mm: tuple[float, float] | None
    works_at: float
    with_tiles: bool
    more: tuple[tuple[Path, str], ...] = ()


@dataclass(frozen=True)
class DemoTask:
    """Shoot the demo archive's frames with the virtual camera; its year ends on ``today``."""

    today: date


@dataclass(frozen=True)
class ShootTask:
    """Shoot a test frame with the virtual camera."""

    camera: Camera
    particles: tuple[Particle, ...]
    f_number: float
    seed: int
    name: str
    taken_at: str


@dataclass(frozen=True)
class Progress:
    """How far the task is, 0 to 1."""

    share: float
    step: str


@dataclass(frozen=True)
class Mapped:
    """The finished map, as JSON."""

    map_json: str


@dataclass(frozen=True)
class Ended:
    """The last message of a task."""

    outcome: Literal["done", "refused", "broken"]
    reason: str = ""


def work(pipe: Connection) -> None:
    """Take tasks from the pipe until it closes."""
    import cv2

    cv2.setNumThreads(1)
    while True:
        try:
            task = pipe.recv()
        except (EOFError, KeyboardInterrupt):
            return
        pipe.send(_run(task, pipe.send, pipe.recv))


def _run(task: object, emit: Emit, answer: Callable[[], object]) -> Ended:
    try:
        if isinstance(task, MapTask):
            run_map(task, emit)
        elif isinstance(task, DemoTask):
            run_demo(task, emit, answer)
        elif isinstance(task, ShootTask):
            run_shoot(task, emit, answer)
        return Ended("done")
    except NeatPatchError as error:
        return Ended("refused", str(error))
    except MemoryError:
        return Ended("refused", "There is not enough memory for a picture of this size.")
    except Exception as error:  # noqa: BLE001 - a broken task must not end the worker
        return Ended("broken", f"{type(error).__name__}: {error}")


def run_map(task: MapTask, emit: Emit) -> None:
    """Read, measure, write tiles; emits progress and the map."""
    from neatpatch.core.mapping import MapOptions, build_map
    from neatpatch.images.read import read_frame
    from neatpatch.images.tiles import write_tiles

    emit(Progress(0.02, "reading"))
    frame = read_frame(task.original)
    options = MapOptions(sensor_mm=task.sensor_mm, works_at=task.works_at)
    frames = [frame, *(read_frame(path) for path, _ in task.more)]
    spot_map = build_map(frames, options, lambda s, step: emit(Progress(0.1 + 0.6 * s, step)))
    names = (task.name, *(name for _, name in task.more))
    named = tuple(
        f.model_copy(update={"path": name}) for f, name in zip(spot_map.frames, names, strict=True)
    )
    spot_map = spot_map.model_copy(update={"frames": named})
    if task.with_tiles:
        emit(Progress(0.75, "picture"))
        write_tiles(frame, task.original, task.derived, lambda: None)
    emit(Mapped(spot_map.model_dump_json()))


def run_demo(task: DemoTask, emit: Emit, answer: Callable[[], object]) -> None:
    """Shoot the demo frames one by one, waiting after each until it has been taken in."""
    with tempfile.TemporaryDirectory(prefix="neatpatch-demo-") as folder:
        for share, frame in shoot_frames(Path(folder)):
            if frame is not None:
                emit(frame)
                answer()
            emit(Progress(0.3 * share, "shooting the demo frames"))
        for share, visit in live_through(Path(folder), task.today):
            if visit is not None:
                emit(visit)
                answer()
            emit(Progress(0.3 + 0.7 * share, "living through the demo visits"))


def run_shoot(task: ShootTask, emit: Emit, answer: Callable[[], object]) -> None:
    """Shoot one frame and wait until it has been taken in."""
    with tempfile.TemporaryDirectory(prefix="neatpatch-shot-") as folder:
        emit(Progress(0.1, "shooting"))
        path = Path(folder) / task.name
        shoot_frame(task.camera, task.particles, task.f_number, task.seed, path, task.taken_at)
        emit(DemoFrame(path, task.name, "Virtual camera", task.camera.sensor_mm))
        answer()
