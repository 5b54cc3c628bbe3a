"""What runs in the worker process: untrusted bytes are decoded here, where they can be killed."""

from __future__ import annotations

import errno
import resource
import signal
import tempfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Literal

from neatpatch.core.common.errors import AlteredOriginalError, NeatPatchError, UnusableFrameError
from neatpatch.core.common.frame import Frame
from neatpatch.jobs.kinds import BroughtResult, BroughtTask, Emit
from neatpatch.services.common.fingerprints import SensorMatch, clues_of, match_sensor
from neatpatch.services.frames.virtual_shots import take_in_shot
from neatpatch.simulation import Camera, Particle
from neatpatch.simulation.frames import ShotFrame, shoot_frame
from neatpatch.store.database import disk_trouble
from neatpatch.store.datafolder import Library
from neatpatch.store.fingerprints import StoredReference
from neatpatch.store.jobs import StoredJob

MOST_MEMORY_BYTES = 3_500_000_000
"""Address space of a worker: libraries and their threads take about one gigabyte of it, the rest
is for the picture. 160 million pixels of 16 bits need 2.5 GB."""


@dataclass(frozen=True)
class Source:
    """An original as the store knows it."""

    path: Path
    sha256: str
    name: str


@dataclass(frozen=True)
class MapTask:
    """Measure one original, or a series of it and ``more``, and write its loss and its tiles.

    ``f_number``: the aperture entered for files that have none recorded.
    """

    original: Source
    derived: Path
    loss: Path
    sensor_mm: tuple[float, float] | None
    works_at: float
    with_tiles: bool
    more: tuple[Source, ...] = ()
    references: tuple[StoredReference, ...] = ()
    f_number: float | None = None


@dataclass(frozen=True)
class PictureTask:
    """Write the tiles of an original again."""

    original: Source
    derived: Path


@dataclass(frozen=True)
class ShotMade(BroughtResult):
    """A frame that the virtual camera shot for a visit."""

    frame: ShotFrame

    def take_in(self, library: Library, job: StoredJob) -> None:
        """Put it onto the visit's trail."""
        take_in_shot(library, self.frame, job)


@dataclass(frozen=True)
class ShootTask(BroughtTask):
    """Shoot a test frame with the virtual camera."""

    camera: Camera
    particles: tuple[Particle, ...]
    f_number: float
    seed: int
    name: str
    taken_at: str

    def run(self, emit: Emit, answer: Callable[[], object]) -> None:
        """Shoot one frame and wait until it has been taken in."""
        with tempfile.TemporaryDirectory(prefix="neatpatch-shot-") as folder:
            emit(Progress(0.1, "shooting"))
            path = Path(folder) / self.name
            shoot_frame(self.camera, self.particles, self.f_number, self.seed, path, self.taken_at)
            frame = ShotFrame(path, self.name, "Virtual camera", self.camera.sensor_mm)
            emit(ShotMade(frame))
            answer()


@dataclass(frozen=True)
class Progress:
    """How far the task is, 0 to 1."""

    share: float
    step: str


@dataclass(frozen=True)
class Mapped:
    """The finished map, as JSON, and what the sensor's own pattern said."""

    map_json: str
    seen: SensorMatch | None = None


@dataclass(frozen=True)
class Ended:
    """The last message of a task. ``altered``: hash of an original that is not what it was.

    ``waits``: the disk had no room for what it made; it is done again when there is.
    """

    outcome: Literal["done", "refused", "broken", "waits"]
    reason: str = ""
    altered: str | None = None


def work(pipe: Connection) -> None:
    """Take tasks from the pipe until it closes.

    Ctrl-C and a polite kill go to the whole process group; only the server decides when its
    workers end.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    import cv2

    cv2.setNumThreads(1)
    limit_memory(MOST_MEMORY_BYTES)
    while True:
        try:
            task = pipe.recv()
            pipe.send(_run(task, pipe.send, pipe.recv))
        except (EOFError, OSError):
            return


def limit_memory(most_bytes: int) -> None:
    """A picture too large for this fails in its own worker with a clear word."""
    _, hard = resource.getrlimit(resource.RLIMIT_AS)
    if hard != resource.RLIM_INFINITY:
        most_bytes = min(most_bytes, hard)
    resource.setrlimit(resource.RLIMIT_AS, (most_bytes, hard))


def _run(task: object, emit: Emit, answer: Callable[[], object]) -> Ended:
    try:
        if isinstance(task, MapTask):
            run_map(task, emit)
        elif isinstance(task, PictureTask):
            run_picture(task, emit)
        elif isinstance(task, BroughtTask):
            task.run(emit, answer)
        return Ended("done")
    except AlteredOriginalError as error:
        return Ended("refused", str(error), altered=error.sha256)
    except NeatPatchError as error:
        return Ended("refused", str(error))
    except (EOFError, BrokenPipeError):
        raise
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return Ended("waits", disk_trouble(error) or "")
        return Ended("broken", f"{type(error).__name__}: {error}")
    except MemoryError:
        return Ended("refused", "There is not enough memory for a picture of this size.")
    except Exception as error:  # noqa: BLE001 - a broken task must not end the worker
        return Ended("broken", f"{type(error).__name__}: {error}")


def run_map(task: MapTask, emit: Emit) -> None:
    """Read and measure; the map goes out first, then the tiles are written."""
    from neatpatch.core.measure.map_building import MapOptions, measure_map
    from neatpatch.images.tiles import write_tiles
    from neatpatch.store.loss_fields import write_field

    emit(Progress(0.02, "reading"))
    sources = (task.original, *task.more)
    frames = [_at_aperture(_read(source), task.f_number) for source in sources]
    options = MapOptions(sensor_mm=task.sensor_mm, works_at=task.works_at)
    with ThreadPoolExecutor(1) as beside:
        seen = beside.submit(_seen, frames[0], task.references)
        measured = measure_map(frames, options, lambda s, step: emit(Progress(0.1 + 0.6 * s, step)))
    spot_map = measured.spot_map
    named = tuple(
        f.model_copy(update={"path": s.name}) for f, s in zip(spot_map.frames, sources, strict=True)
    )
    spot_map = spot_map.model_copy(update={"frames": named})
    write_field(task.loss, measured.field)
    emit(Mapped(spot_map.model_dump_json(), seen.result()))
    if task.with_tiles:
        emit(Progress(0.75, "picture"))
        write_tiles(frames[0], task.original.path, task.derived)


def _at_aperture(frame: Frame, entered: float | None) -> Frame:
    """A frame at the entered aperture where its file has none recorded."""
    if entered is None or frame.facts.f_number is not None:
        return frame
    return replace(frame, facts=replace(frame.facts, f_number=entered))


def _seen(frame: Frame, references: tuple[StoredReference, ...]) -> SensorMatch:
    """What the sensor's own pattern says; nothing where memory does not suffice for it.

    The map matters more, and must not be lost for it.
    """
    import cv2

    try:
        return match_sensor(frame, references)
    except (MemoryError, cv2.error):
        return SensorMatch(None, frame.shape, clues=clues_of(frame))


def run_picture(task: PictureTask, emit: Emit) -> None:
    """Write the tiles of a frame that was measured before."""
    from neatpatch.images.tiles import write_tiles

    emit(Progress(0.1, "reading"))
    frame = _read(task.original)
    emit(Progress(0.3, "picture"))
    write_tiles(frame, task.original.path, task.derived)


def _read(source: Source) -> Frame:
    """A stored original, proved to be what was taken in."""
    from neatpatch.images.hashing import sha256_of
    from neatpatch.images.read import read_frame

    if not source.path.is_file():
        raise AlteredOriginalError(
            source.sha256, f"the stored file of {source.name} is missing. Add the frame again."
        )
    try:
        frame = read_frame(source.path)
        whole = frame.facts.sha256 == source.sha256
    except UnusableFrameError:
        if sha256_of(source.path) == source.sha256:
            raise
        whole = False
    if whole:
        return frame
    raise AlteredOriginalError(
        source.sha256,
        f"the stored file of {source.name} was altered since it was added, so it is not measured. "
        "Add the frame again from your own copy.",
    )
