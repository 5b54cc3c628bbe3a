"""Works on sets of pictures, one after the other, in a process of its own.

A user's frames never wait behind a folder of two thousand pictures, and a stop loses no picture
that was done: each one's result is kept as it comes, and work goes on with the others.
"""

from __future__ import annotations

import logging
import sqlite3
import threading
import time
from contextlib import suppress
from pathlib import Path

from neatpatch.core.common.errors import NeatPatchError, sentence
from neatpatch.core.patching.records import PhotoPatch
from neatpatch.jobs.picture_worker import (
    LookTask,
    PreviewResult,
    Searched,
    SearchTask,
    ShowTask,
    WriteTask,
    Written,
    work_on_pictures,
)
from neatpatch.jobs.processes import WorkerProcess
from neatpatch.jobs.worker import Ended, Progress
from neatpatch.services.common.forever import Forever, trouble_words
from neatpatch.services.common.lookups import body_or_refuse
from neatpatch.services.pictures.folders import copy_name
from neatpatch.services.pictures.sets import patching_of, shown_folder
from neatpatch.store import picture_sets as rows
from neatpatch.store.datafolder import Library
from neatpatch.store.picture_sets import PictureSet

_POLL_S = 0.1
_IDLE_S = 1.0
_SILENT_S = 300.0
"""A worker that says nothing for so long is stuck over a picture, and is ended."""
_MOST_TRIES = 3
_log = logging.getLogger("neatpatch.pictures")


class PictureRunner:
    """A thread for the work on sets, and a second process for pictures one wants to see."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._works = WorkerProcess(work_on_pictures, alone=False)
        self._loop = Forever(
            "pictures",
            self._step,
            words=lambda error: f"Work on pictures waits. {trouble_words(error)}",
            at_end=self._works.end,
        )
        self._tries: dict[int, int] = {}
        self._shows = WorkerProcess(work_on_pictures)
        self._show_lock = threading.Lock()

    def start(self) -> None:
        """Take up interrupted work and begin."""
        with self._library.database.write() as connection:
            rows.requeue_interrupted(connection)
        self._loop.start()

    def stop(self) -> None:
        """End the work; it goes on next time."""
        self._loop.stop()
        self._works.end()
        self._shows.end()

    def nudge(self) -> None:
        """Announce that a set waits."""
        self._loop.nudge()

    @property
    def trouble(self) -> str | None:
        """What keeps work on pictures from going on; None while nothing does."""
        return self._loop.trouble

    def show(self, run_of: PictureSet, number: int, source: Path) -> None:
        """Write one picture before and after, and wait for it.

        Raises `NeatPatchError` where it cannot be shown.
        """
        with self._library.database.read() as connection:
            run = patching_of(connection, run_of)
        folder = shown_folder(self._library, run_of.id)
        with self._show_lock:
            try:
                pipe = self._shows.pipe()
                pipe.send(ShowTask(run, source, folder, number))
                if not pipe.poll(_SILENT_S):
                    raise EOFError
                ended = pipe.recv()
            except (EOFError, OSError) as error:
                self._shows.end()
                raise NeatPatchError(
                    "This picture could not be shown. Try again, or leave it out."
                ) from error
        if isinstance(ended, Ended) and ended.outcome != "done":
            raise NeatPatchError(sentence(ended.reason))

    def _step(self) -> float:
        with self._library.database.write(durable=False) as connection:
            of = rows.take_next(connection)
        if of is None:
            return _IDLE_S
        try:
            self._work(of)
        except Exception:
            self._works.end()
            with suppress(sqlite3.Error), self._library.database.write() as connection:
                rows.requeue_interrupted(connection)
            raise
        return 0.0

    def _work(self, of: PictureSet) -> None:
        try:
            task = self._task(of)
        except NeatPatchError as error:
            self._end(of, "failed", sentence(str(error)))
            return
        pipe = self._works.pipe()
        pipe.send(task)
        heard_at = time.monotonic()
        try:
            while True:
                if self._loop.stopping.is_set() or not self._wanted(of):
                    self._works.end()
                    return
                if not pipe.poll(_POLL_S):
                    if time.monotonic() - heard_at > _SILENT_S:
                        raise EOFError
                    continue
                message, heard_at = pipe.recv(), time.monotonic()
                if isinstance(message, Ended):
                    failed = message.outcome != "done"
                    self._end(of, "failed" if failed else "done", message.reason or None)
                    return
                self._take(of, message)
        except (EOFError, BrokenPipeError, ConnectionResetError):
            self._works.end()
            self._again(of)

    def _again(self, of: PictureSet) -> None:
        """A worker died or hung over a picture: the rest goes on, but not for ever."""
        if self._loop.stopping.is_set():
            return
        self._tries[of.id] = self._tries.get(of.id, 0) + 1
        if self._tries[of.id] >= _MOST_TRIES:
            self._end(of, "failed", "The work ended unexpectedly several times. Try again later.")
            return
        with self._library.database.write() as connection:
            rows.requeue_interrupted(connection)

    def _wanted(self, of: PictureSet) -> bool:
        with self._library.database.read() as connection:
            now = rows.set_by_id(connection, of.id)
        return now is not None and now.state == "working"

    def _task(self, of: PictureSet) -> object:
        folder = Path(of.folder)
        with self._library.database.read() as connection:
            pictures = rows.all_pictures(connection, of.id)
            if of.work == "search":
                body = body_or_refuse(connection, of.body_id)
                return SearchTask(
                    tuple(folder / p.path for p in pictures),
                    shown_folder(self._library, of.id),
                    body.body.sensor_mm,
                )
            run = patching_of(connection, of)
        if of.work == "look":
            waiting = [(p.number, folder / p.path) for p in pictures if p.looked_json is None]
            known = len(pictures) - len(waiting)
            return LookTask(run, tuple(waiting), shown_folder(self._library, of.id), known)
        chosen = [p for p in pictures if not p.leave and _can_be_patched(p.looked_json)]
        waiting_for = [p for p in chosen if not _written(p.done_json)]
        out = Path(of.out_folder)
        return WriteTask(
            run,
            tuple(
                (p.number, folder / p.path, out / copy_name(folder / p.path, Path(p.path)))
                for p in waiting_for
            ),
            len(chosen) - len(waiting_for),
        )

    def _take(self, of: PictureSet, message: object) -> None:
        durable = not isinstance(message, Progress)
        with self._library.database.write(durable=durable) as connection:
            if isinstance(message, Progress):
                rows.report(connection, of.id, message.share, message.step)
            elif isinstance(message, PreviewResult):
                rows.keep_looked(connection, of.id, message.number, message.looked_json)
            elif isinstance(message, Written):
                rows.keep_done(connection, of.id, message.number, message.done_json)
            elif isinstance(message, Searched):
                rows.keep_result(connection, of.id, message.result_json)

    def _end(self, of: PictureSet, state: rows.SetState, error: str | None) -> None:
        with self._library.database.write() as connection:
            rows.finish(connection, of.id, state, sentence(error) if error else None)


def _can_be_patched(looked_json: str | None) -> bool:
    return looked_json is not None and '"why_not":null' in looked_json


def _written(done_json: str | None) -> bool:
    return done_json is not None and PhotoPatch.model_validate_json(done_json).out is not None
