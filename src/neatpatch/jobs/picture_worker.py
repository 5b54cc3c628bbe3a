"""What runs in the process that works on folders of pictures; it can be killed at any moment."""

from __future__ import annotations

import signal
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path

from neatpatch.core.common.errors import NeatPatchError
from neatpatch.jobs.kinds import Emit
from neatpatch.jobs.worker import MOST_MEMORY_BYTES, Ended, Progress, limit_memory
from neatpatch.services.pictures.arrivals import arrivals_in, tidy_workplace
from neatpatch.services.pictures.filmstrip import write_strips
from neatpatch.services.pictures.patching import Patching, patch_all
from neatpatch.services.pictures.preview import preview_all, write_before_and_after


@dataclass(frozen=True)
class LookTask:
    """Lay a map on pictures, by number; small copies go to ``shown``. ``known``: done before."""

    run: Patching
    pictures: tuple[tuple[int, Path], ...]
    shown: Path
    known: int


@dataclass(frozen=True)
class WriteTask:
    """Write patched copies, by number, source and target."""

    run: Patching
    pictures: tuple[tuple[int, Path, Path], ...]
    known: int


@dataclass(frozen=True)
class SearchTask:
    """Find when dust came; what each picture says is kept in ``workplace``."""

    pictures: tuple[Path, ...]
    workplace: Path
    sensor_mm: tuple[float, float] | None


@dataclass(frozen=True)
class ShowTask:
    """Write one picture before and after."""

    run: Patching
    source: Path
    folder: Path
    number: int


@dataclass(frozen=True)
class PreviewResult:
    """One picture's marks, as JSON."""

    number: int
    looked_json: str


@dataclass(frozen=True)
class Written:
    """What was written of one picture, as JSON."""

    number: int
    done_json: str


@dataclass(frozen=True)
class Searched:
    """What a search found, as JSON."""

    result_json: str


def work_on_pictures(pipe: Connection) -> None:
    """Take tasks from the pipe until it closes."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    import cv2

    cv2.setNumThreads(1)
    limit_memory(MOST_MEMORY_BYTES)
    while True:
        try:
            task = pipe.recv()
            pipe.send(_run(task, pipe.send))
        except (EOFError, OSError):
            return


def _run(task: object, emit: Emit) -> Ended:
    try:
        if isinstance(task, LookTask):
            _look(task, emit)
        elif isinstance(task, WriteTask):
            _write(task, emit)
        elif isinstance(task, SearchTask):
            _search(task, emit)
        elif isinstance(task, ShowTask):
            write_before_and_after(task.run, task.source, task.folder, task.number)
        return Ended("done")
    except NeatPatchError as error:
        return Ended("refused", str(error))
    except MemoryError:
        return Ended("refused", "There is not enough memory for a picture of this size.")
    except (EOFError, BrokenPipeError):
        raise
    except BrokenProcessPool as error:
        raise EOFError from error
    except Exception as error:  # noqa: BLE001 - a broken task must not end the worker
        return Ended("broken", f"{type(error).__name__}: {error}")


def _look(task: LookTask, emit: Emit) -> None:
    total = task.known + len(task.pictures)
    pairs = [(source, task.shown / f"{number}.jpg") for number, source in task.pictures]
    for done, looked in enumerate(preview_all(task.run, pairs), start=task.known + 1):
        number = task.pictures[done - task.known - 1][0]
        emit(PreviewResult(number, looked.model_dump_json()))
        emit(Progress(done / total, f"{done} of {total} looked at"))


def _write(task: WriteTask, emit: Emit) -> None:
    total = task.known + len(task.pictures)
    pairs = [(source, target) for _, source, target in task.pictures]
    for done, (index, photo) in enumerate(patch_all(task.run, pairs), start=task.known + 1):
        emit(Written(task.pictures[index][0], photo.model_dump_json()))
        emit(Progress(done / total, f"{done} of {total} written"))


_PASSES = ("looked into", "read", "lenses", "added up")


def _search(task: SearchTask, emit: Emit) -> None:
    def told(done: int, total: int, what: str) -> None:
        at = _PASSES.index(what) if what in _PASSES else 0
        emit(Progress((at + done / total) / len(_PASSES), f"{done} of {total} {what}"))

    found = arrivals_in(task.pictures, task.workplace, task.sensor_mm, told)
    write_strips(found, task.workplace)
    tidy_workplace(task.workplace)
    emit(Searched(found.model_dump_json()))
