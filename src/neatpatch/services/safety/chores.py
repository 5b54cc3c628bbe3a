"""Backup, check and merging from the page: one at a time, followed as it goes, and stopped."""

from __future__ import annotations

import logging
import sqlite3
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Literal

from pydantic import BaseModel

from neatpatch.core.common.errors import BadArgumentError, ConflictError, NeatPatchError
from neatpatch.services.safety.checking import CheckReport, check
from neatpatch.services.safety.keeping import BackupKeeper
from neatpatch.services.safety.merging import merge, merged_words
from neatpatch.services.safety.ticking import StoppedError, Tick
from neatpatch.store.datafolder import Library

ChoreKind = Literal["backup", "check", "merge"]
ChoreState = Literal["running", "done", "failed", "stopped"]
_log = logging.getLogger("neatpatch.safety")


class Chore(BaseModel):
    """One of them, running or ended. ``words``: what came of it, or why it failed."""

    number: int
    kind: ChoreKind
    state: ChoreState
    progress: float
    words: str = ""
    report: CheckReport | None = None


_STOPPED = "It was stopped. Nothing of it is left."
_STOPPED_MERGE = (
    "It was stopped. What came is whole and stays; merge the same file again to bring the rest."
)
Work = Callable[[Tick], tuple[str, CheckReport | None]]


class Chores:
    """Runs one chore at a time in a thread of its own; the last one is remembered."""

    def __init__(
        self, library: Library, keeper: BackupKeeper, merged: Callable[[], None] = lambda: None
    ) -> None:
        """``merged`` is told when rows came from an archive: their pictures are to be made."""
        self._library, self._keeper, self._merged = library, keeper, merged
        self._lock = threading.Lock()
        self._last: Chore | None = None
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None

    def last(self) -> Chore | None:
        """The chore that runs, or the last one; None before the first."""
        with self._lock:
            return self._last.model_copy() if self._last else None

    def back_up(self) -> Chore:
        """Take a backup now. Raises `BadArgumentError` where none can be taken."""
        if not self._keeper.plan().folder:
            raise BadArgumentError("folder: say first into which folder backups go.")

        def work(tick: Tick) -> tuple[str, CheckReport | None]:
            self._keeper.take(tick)
            return "The backup was read back and proved.", None

        return self._begin("backup", work)

    def check(self) -> Chore:
        """Hold every stored file and the database against their rules."""

        def work(tick: Tick) -> tuple[str, CheckReport | None]:
            report = check(self._library.root, tick)
            return "All is well." if report.ok else "Not all is well.", report

        return self._begin("check", work)

    def merge(self, archive: Path) -> Chore:
        """Add what an archive has and this folder lacks."""
        if not archive.is_absolute() or not archive.is_file():
            raise BadArgumentError(
                f"{archive}: there is no such file. Give the backup's whole path on this machine."
            )

        def work(tick: Tick) -> tuple[str, CheckReport | None]:
            try:
                came = merge(archive, self._library.root, self._library.database, tick)
            finally:
                self._merged()
            return merged_words(came), None

        return self._begin("merge", work)

    def stop(self) -> Chore | None:
        """End the one that runs. Of a backup nothing is left; what a merge brought is whole."""
        self._stop.set()
        return self.last()

    def end(self) -> None:
        """End with the server."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=10)

    def _begin(self, kind: ChoreKind, work: Work) -> Chore:
        with self._lock:
            if self._last is not None and self._last.state == "running":
                raise ConflictError("A backup, check or merge is running already. Wait for it.")
            number = self._last.number + 1 if self._last else 1
            self._last = Chore(number=number, kind=kind, state="running", progress=0.0)
            self._stop.clear()
            self._thread = threading.Thread(
                target=self._run, args=(work,), name=f"chore-{kind}", daemon=True
            )
            self._thread.start()
            return self._last.model_copy()

    def _run(self, work: Work) -> None:
        try:
            words, report = work(self._tick)
        except StoppedError as stopped:
            self._ended("stopped", str(stopped))
        except (NeatPatchError, OSError, sqlite3.Error) as error:
            _log.warning("a chore failed: %s", error)
            self._ended("failed", str(error))
        except Exception as error:  # noqa: BLE001 - the thread goes on, the page is told
            self._ended("failed", "This is a fault of Neat Patch. What was here is as it was.")
            _log.exception("a chore failed", exc_info=error)
        else:
            self._ended("done", words, report)

    def _tick(self, share: float) -> None:
        if self._stop.is_set():
            merging = self._last is not None and self._last.kind == "merge"
            raise StoppedError(_STOPPED_MERGE if merging else _STOPPED)
        with self._lock:
            if self._last is not None:
                self._last.progress = round(share, 3)

    def _ended(self, state: ChoreState, words: str, report: CheckReport | None = None) -> None:
        with self._lock:
            if self._last is not None:
                self._last = self._last.model_copy(
                    update={"state": state, "words": words, "report": report, "progress": 1.0}
                )
